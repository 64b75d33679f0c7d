"""What is done with practice sessions: begun, gone on with, looked back on."""

from __future__ import annotations

import secrets
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import IntegrityError, transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from bowyery.practice.debrief import Debrief, Outcome, debrief, outcome
from bowyery.practice.lessons import BY_KEY, LESSONS, Lesson, Measure
from bowyery.practice.players import by_advice, by_rule
from bowyery.practice.session import Act, State, begin, do, play
from bowyery.practice.worlds import HIGHEST_SEED, PracticeError, Setup
from bowyery.units.quantity import Units
from fellwind.kit.cache import Recent, computed
from fellwind.people.models import Person
from fellwind.practice.models import Done, Session

MOST_SESSIONS = 500  # of one person
AWAY = (
    "Another page went on with this session meanwhile, so that was not done. This is how it stands"
    " now."
)


class GoneOnError(PracticeError):
    """Somebody else, or another page, did the next act."""


# States of sessions that were looked at lately, so that each act is worked out once.
_recent = Recent(200)


def state_after(setup: Setup, acts: Sequence[Act]) -> State:
    """The session after its acts, from the latest state that is remembered.

    Raises:
        BowyeryError: there is no such stave, or an act cannot be done.
    """
    done = tuple(acts)
    count, state = len(done), None
    while count and (state := _recent.get((setup, done[:count]))) is None:
        count -= 1
    state = state or begin(setup)
    for k in range(count, len(done)):
        state = do(state, done[k])
        _recent.put((setup, done[: k + 1]), state)
    return state


def session_of(person: Person, pk: int) -> Session:
    """A person's own session; raises Http404 for anybody else's."""
    return get_object_or_404(Session, person=person, pk=pk)


def acts_of(session: Session) -> list[Act]:
    """What was done, in order."""
    rows = session.acts.order_by("number").values_list("data", flat=True)
    return [Act.of_data(row) for row in rows]


def state_of(session: Session) -> State:
    """How it stands."""
    return state_after(session.setup, acts_of(session))


def new_session(person: Person, setup: Setup) -> Session:
    """Begin a session; the oldest of very many is forgotten.

    Raises:
        BowyeryError: there is no such stave.
    """
    setup.checked()
    begin(setup)
    session = Session.objects.create(
        person=person, pattern=setup.pattern, wood=setup.wood, trouble=setup.trouble,
        seed=setup.seed, errors=setup.errors, lesson=setup.lesson,
    )  # fmt: skip
    beyond = Session.objects.filter(person=person).values_list("pk", flat=True)[MOST_SESSIONS:]
    Session.objects.filter(pk__in=list(beyond)).delete()
    return session


def any_seed() -> int:
    """A seed nobody chose."""
    return 1 + secrets.randbelow(HIGHEST_SEED)


def go_on(session: Session, number: int, acts: Sequence[Act]) -> State:
    """Do the next acts, all or none.

    Args:
        number: that the first of them will have, as its page knows it.

    Raises:
        GoneOnError: another page went on meanwhile.
        PracticeError: it cannot be done.
    """
    done = acts_of(session)
    if number != len(done) + 1:
        raise GoneOnError(AWAY)
    state = state_after(session.setup, [*done, *acts])
    try:
        with transaction.atomic():
            Done.objects.bulk_create(
                Done(session=session, number=number + k, data=act.as_data())
                for k, act in enumerate(acts)
            )
    except IntegrityError:
        raise GoneOnError(AWAY) from None
    Session.objects.filter(pk=session.pk).update(changed=timezone.now())
    return state


def back_on(session: Session, shown: Units) -> Debrief:
    """Look back on a session as it stands."""
    setup, acts = session.setup, acts_of(session)
    return computed(
        "practice debrief", (setup, acts, shown.world), lambda: debrief(setup, acts, shown)
    )


def others_at(setup: Setup) -> list[tuple[str, Outcome]]:
    """What the advice and the plain rule make of the same stave, in the same hands."""

    def played() -> list[tuple[str, Outcome]]:
        return [
            (name, outcome(play(setup, how(setup))))
            for name, how in (("Fellwind's advice", by_advice), ("the plain rule", by_rule))
        ]

    return computed("practice others", setup, played)


def lesson_of(session: Session) -> Lesson | None:
    """The lesson of a session, or None for a free stave."""
    return BY_KEY.get(session.lesson)


def acts_of_all(sessions: Sequence[Session]) -> dict[int, list[Act]]:
    """What was done in each of some sessions, in order, by their keys."""
    found: dict[int, list[Act]] = {one.pk: [] for one in sessions}
    rows = Done.objects.filter(session__in=found).order_by("session", "number")
    for pk, data in rows.values_list("session", "data"):
        found[pk].append(Act.of_data(data))
    return found


def measured(session: Session, acts: Sequence[Act], shown: Units) -> Measure | None:
    """How far its lesson has come."""
    lesson, setup = lesson_of(session), session.setup
    if lesson is None:
        return None
    return computed(
        "practice measure", (setup, list(acts), shown.world),
        lambda: lesson.measure(state_after(setup, acts), shown), small=True,
    )  # fmt: skip


@dataclass(frozen=True)
class Standing:
    """How a session stands.

    Attributes:
        broke: the draw at which it broke (m), or None.
        outcome: what became of it, once it has ended.
    """

    ended: bool
    broke: float | None
    outcome: Outcome | None


def standing(session: Session, acts: Sequence[Act]) -> Standing:
    """How a session stands."""
    setup = session.setup

    def found() -> Standing:
        state = state_after(setup, acts)
        ended = state.over or state.broke is not None
        broke = None if state.broke is None else state.broke.draw
        return Standing(ended, broke, outcome(state) if ended else None)

    return computed("practice standing", (setup, list(acts)), found, small=True)


def lessons_of(person: Person, shown: Units) -> list[tuple[Lesson, Session | None, Measure | None]]:
    """Every lesson with the session of it that came furthest, and how far."""
    best: dict[str, tuple[Session, Measure]] = {}
    sessions = list(Session.objects.filter(person=person).exclude(lesson=""))
    acts = acts_of_all(sessions)
    for session in sessions:
        found = measured(session, acts[session.pk], shown)
        if found is None:
            continue
        before = best.get(session.lesson)
        if before is None or found.share > before[1].share:
            best[session.lesson] = (session, found)
    nothing = (None, None)
    return [(lesson, *best.get(lesson.key, nothing)) for lesson in LESSONS]


def ended_by_trouble(person: Person) -> dict[str, list[tuple[Session, Outcome]]]:
    """Free staves that ended, by the kind of trouble, in the order they were done."""
    sessions = list(Session.objects.filter(person=person, lesson="").order_by("changed", "pk"))
    acts, found = acts_of_all(sessions), defaultdict(list)
    for session in sessions:
        ended = standing(session, acts[session.pk]).outcome
        if ended is not None:
            found[session.trouble].append((session, ended))
    return found
