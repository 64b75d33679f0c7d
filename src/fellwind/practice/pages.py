"""What the practice room's pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.utils.safestring import SafeString

from bowyery.bow.bow import SIDES
from bowyery.errors import BowyeryError
from bowyery.practice.debrief import HARMED, Debrief, Frame, Outcome, outcome, over
from bowyery.practice.lessons import LESSONS, Lesson, Measure
from bowyery.practice.picture import poses, shape_now
from bowyery.practice.session import (
    Act,
    State,
    advised,
    advised_removal,
    guessed,
    needed,
    plan_of,
    sunk,
)
from bowyery.practice.words import act_words, bare, said_words, state_words
from bowyery.practice.worlds import PATTERNS, TROUBLES, Setup
from bowyery.tiller.statements import Tree
from bowyery.tiller.words import Said, say
from bowyery.units.quantity import Units
from fellwind.drawing.along import Track, along_picture
from fellwind.drawing.checks import look_picture
from fellwind.people.models import Person
from fellwind.practice import services
from fellwind.practice.forms import ActForm, BeginForm
from fellwind.practice.models import Session

SHOWN_ROWS = 40  # of the log beside the picture
SHOWN_SESSIONS = 12
COMPARED = 5  # staves of a trouble, in other hands
PENCILLED = ("straight edge", "tip height", "thickness")


@dataclass(frozen=True)
class LessonRow:
    """A lesson in the list."""

    number: int
    lesson: Lesson
    session: Session | None
    measure: Measure | None

    @property
    def percent(self) -> int:
        """How far it has come."""
        return 0 if self.measure is None else round(100 * self.measure.share)


@dataclass(frozen=True)
class SessionRow:
    """A session in a list: what it is, and how it stands, in words."""

    session: Session
    name: str
    stands: str
    acts: int


@dataclass(frozen=True)
class HomePage:
    """The practice room."""

    lessons: list[LessonRow]
    done: int
    rows: list[SessionRow]
    form: BeginForm


def name_of(setup: Setup, hidden: bool = False) -> str:
    """What a stave is called; its trouble is not told where it is to be found."""
    lesson = next((one.title for one in LESSONS if one.key == setup.lesson), "")
    bow = f"{PATTERNS[setup.pattern].name} of {setup.wood}"
    if lesson:
        return f"{lesson}: {bow}"
    return f"{bow[:1].upper()}{bow[1:]}{'' if hidden else f', {TROUBLES[setup.trouble]}'}"


def stands_words(stands: services.Standing, shown: Units) -> str:
    """How a session stands, in a few words."""
    if stands.broke is not None:
        return f"broken at {shown.length(stands.broke)}"
    ended = stands.outcome
    if ended is None:
        return "on the tree"
    if ended.weight is None:
        return "finished; it cannot be drawn so far"
    return f"finished, {shown.weight(ended.weight)} of {shown.weight(ended.wanted)} wanted"


def home(person: Person, shown: Units, form: BeginForm | None = None) -> HomePage:
    """Lessons, a free stave, and one's own sessions."""
    lessons = [LessonRow(k + 1, *row) for k, row in enumerate(services.lessons_of(person, shown))]
    rows = []
    sessions = list(Session.objects.filter(person=person)[:SHOWN_SESSIONS])
    acts = services.acts_of_all(sessions)
    for session in sessions:
        stands = services.standing(session, acts[session.pk])
        name = name_of(session.setup, hidden=not stands.ended)
        rows.append(SessionRow(session, name, stands_words(stands, shown), len(acts[session.pk])))
    done = sum(1 for row in lessons if row.measure is not None and row.measure.reached)
    return HomePage(lessons, done, rows, form or BeginForm(shown=shown))


@dataclass(frozen=True)
class LogRow:
    """An act, what was done, and what it showed."""

    step: int
    words: str
    shown: tuple[str, ...]


@dataclass(frozen=True)
class Advised:
    """Advice that was asked for.

    Attributes:
        said: in words, or None.
        guess: the guess beside it and the truth, as a picture, or nothing.
    """

    said: Said | None
    trouble: str = ""
    guess: SafeString | str = ""
    guessed: tuple[str, ...] = ()


@dataclass(frozen=True)
class TreePage:
    """A stave on the tree."""

    session: Session
    name: str
    lesson: Lesson | None
    measure: Measure | None
    percent: int
    state: State
    form: ActForm
    picture: dict[str, Any]
    words: str
    said: tuple[str, ...]
    rows: list[LogRow]
    advice: Advised | None
    guesses: tuple[str, ...]
    number: int
    wanted: str
    stop_at: str
    full_draw: str
    over: bool
    fault: str = ""


def tree(session: Session, shown: Units, form: ActForm | None = None, fault: str = "") -> TreePage:
    """A stave on the tree, with what was read of it."""
    acts = services.acts_of(session)
    state = services.state_after(session.setup, acts)
    number = len(acts) + 1
    lesson, measure = services.lesson_of(session), services.measured(session, acts, shown)
    if form is None:
        form = ActForm(shown=shown, initial=_last_figures(acts) | {"number": number})
    ended = state.over or state.broke is not None
    return TreePage(
        session, name_of(session.setup, hidden=not ended), lesson, measure,
        0 if measure is None else round(100 * measure.share), state, form,
        _picture(state, acts, shown), state_words(state, shown), said_words(state, shown),
        _log(session, acts, shown), _advice(state, shown),
        tuple(act_words(one, shown) for one in state.guesses), number,
        shown.weight(state.wanted), shown.weight(plan_of(state).stop_at),
        shown.length(state.full_draw), ended, fault,
    )  # fmt: skip


def _last_figures(acts: list[Act]) -> dict[str, Any]:
    """Tool, strokes, pulls and stretch as they were last, for the form."""
    found: dict[str, Any] = {}
    for act in acts:
        if act.kind in ("scrape", "guess", "mark"):
            found |= {"limb": act.limb, "start": _typed(act.start), "end": _typed(act.end)}
        if act.kind in ("scrape", "guess") and act.value:
            found |= {"strokes": int(act.value), "tool": act.how}
        if act.kind == "scrape":
            found["edge"] = act.edge
        if act.kind == "exercise" and act.value:
            found["pulls"] = int(act.value)
        if act.kind == "string":
            found["string"] = act.how
    return {name: value for name, value in found.items() if value is not None}


def _typed(place: float | None) -> float | None:
    """A place as somebody would type it: to an eighth of an inch."""
    return None if place is None else round(place / 0.003175) * 0.003175


def _log(session: Session, acts: list[Act], shown: Units) -> list[LogRow]:
    """The last acts, the newest first."""
    rows = []
    for k in range(max(0, len(acts) - SHOWN_ROWS), len(acts)):
        state = services.state_after(session.setup, acts[: k + 1])
        rows.append(LogRow(k + 1, act_words(acts[k], shown, state), said_words(state, shown)))
    return rows[::-1]


def _picture(state: State, acts: list[Act], shown: Units) -> dict[str, Any]:
    """What the picture is drawn from; the needle shows what the scale shows."""
    hand = state.hidden.hand
    seen = poses(state)
    weight = [round(one * hand.scale, 2) for one in seen["weight"]]
    broke = state.broke
    return seen | {
        "weight": weight,
        "sunk": sunk(state.seconds),
        "world": shown.world,
        "full": state.full_draw,
        "wanted": state.wanted,
        "roots": list(state.roots),
        "knots": [
            {"limb": one.limb, "at": one.at + state.roots[SIDES.index(one.limb)], "size": one.size}
            for one in state.hidden.knots
        ],
        "marks": [{"limb": m[0], "start": m[1], "end": m[2], "how": m[3]} for m in state.marks],
        "frets": [{"limb": limb, "at": at} for limb, at in state.frets],
        "broke": None
        if broke is None
        else {"limb": broke.limb, "at": broke.at, "draw": broke.draw, "back": broke.back},
        "pencilled": _pencilled(state, shown),
        "aside": _aside(state),
        "over": state.over,
        "pulled": bool(acts) and acts[-1].kind == "pull",
    }


def _aside(state: State) -> float | None:
    """How far to the right the string was last read to lie, since the bow last changed (m)."""
    for one in reversed(state.noted):
        s = one.statement
        if s.kind == "string off" and one.entry == state.entry:
            return (s.value or 0.0) * (1 if s.how == "right" else -1)
    return None


def _pencilled(state: State, shown: Units) -> list[dict[str, Any]]:
    """What was read at places since the bow last changed, as it is pencilled beside them; of
    several at one place the last.
    """
    found: dict[tuple[str, str, int], dict[str, Any]] = {}
    for one in state.noted:
        s = one.statement
        if one.entry != state.entry or s.limb is None or s.kind not in PENCILLED:
            continue
        at = state.reach(SIDES.index(s.limb)) if s.at is None else s.at
        found[s.kind, s.limb, round(20 * at)] = {
            "limb": s.limb, "at": at, "words": bare(s, shown), "kind": s.kind,
        }  # fmt: skip
    return list(found.values())


def _advice(state: State, shown: Units) -> Advised | None:
    """Advice, from when it was asked for until the bow is another."""
    if not state.asked or state.asked[-1] < state.entry or state.broke is not None:
        return None
    try:
        told = advised(state)
        if told.advice is None:
            return Advised(None, told.trouble)
        said = say(told, shown, Tree(reach=(state.reach(0), state.reach(1))))
    except BowyeryError as error:
        return Advised(None, str(error))
    if not state.guesses:
        return Advised(said)
    tracks = (
        Track("what is really to come off", np.maximum(needed(state), 0.0), "along-truth", True),
        Track("your guess", guessed(state), "along-guess"),
        Track("Fellwind, for this look", advised_removal(state, told), "along-advice"),
    )
    top = max(float(one.values.max()) for one in tracks) or 1e-4
    picture = along_picture(
        state.from_centre, tracks, shown.shaving, (0.0, 0.5 * top, top),
        "Wood to come off, along both limbs", shown,
    )  # fmt: skip
    return Advised(said, "", picture, tuple(act_words(one, shown) for one in state.guesses))


@dataclass(frozen=True)
class TookRow:
    """A removal against what was needed, in words."""

    step: int
    where: str
    took: str
    needed: str
    too_much: str


@dataclass(frozen=True)
class FilmPart:
    """One picture of the film, and the way to the next."""

    step: int
    last: int
    words: str
    stands: str
    picture: SafeString
    look: SafeString | None
    before: int | None
    after: int | None


@dataclass(frozen=True)
class DebriefPage:
    """Looking back."""

    session: Session
    name: str
    told: Debrief
    figures: list[tuple[str, str, str]]
    truths: tuple[str, ...]
    truth: SafeString
    strain: SafeString
    rows: list[TookRow]
    certain: str
    film: FilmPart
    again: dict[str, Any]
    ended: bool


def debrief_page(session: Session, shown: Units, step: int | None) -> DebriefPage:
    """What a session shows afterwards."""
    told = services.back_on(session, shown)
    state, setup = told.state, session.setup
    rows = [
        TookRow(
            one.step,
            f"{one.limb} limb, {shown.bare_length(one.start)} to {shown.length(one.end)}",
            shown.shaving(one.took),
            "nothing" if one.needed <= 0 else shown.shaving(one.needed),
            ""
            if one.harmed <= HARMED
            else "too much"
            if one.took > one.needed + HARMED
            else "too much in one place",
        )
        for one in told.took
    ]
    ended = state.over or state.broke is not None
    return DebriefPage(
        session, name_of(setup), told, _figures(told.outcome, state, shown),
        _truths(state, shown), _truth(state, shown), _strain(state, shown), rows,
        _certain(told, shown), _film(told.frames, step, shown),
        {"pattern": setup.pattern, "wood": setup.wood, "trouble": setup.trouble,
         "seed": setup.seed, "hands": setup.errors}, ended,
    )  # fmt: skip


def _figures(ended: Outcome, state: State, shown: Units) -> list[tuple[str, str, str]]:
    """Name, value, and what is told beside it."""
    weight = "broken" if ended.broken else "cannot be drawn so far"
    beside = f"wanted {shown.weight(ended.wanted)} before finishing"
    if ended.weight is not None:
        weight = shown.fine_weight(ended.weight)
    return [
        (f"Weight at {shown.length(state.full_draw)}", weight, beside),
        ("Even", f"{100 * ended.even:.0f} %", "of the limbs within 12 % of what is wanted"),
        ("Set", shown.length(max(ended.set, 0.0)), "by which the tips follow the string"),
        ("Looks", f"{ended.looks}", f"{ended.early} too soon, {ended.blind} with nothing read"),
        ("Strained", f"{100 * float(state.use.max()):.0f} %", "of what this wood bears, at most"),
        ("Longest hold", f"{state.longest:.0f} s", "ten to fifteen at most"),
    ]


def _truths(state: State, shown: Units) -> tuple[str, ...]:
    """What was hidden, in sentences."""
    found = [f"The trouble: {TROUBLES[state.setup.trouble]}."]
    for limb, start, end, much in state.hidden.places:
        root = state.roots[SIDES.index(limb)]
        how = "stiffer" if much > 0 else "weaker"
        found.append(
            f"The {limb} limb was {abs(np.expm1(much)) * 100:.0f} % {how} from"
            f" {shown.bare_length(max(start, 0.0) + root)} to {shown.length(end + root)} from the"
            " centre."
        )
    return tuple(found)


def _truth(state: State, shown: Units) -> SafeString:
    """How stiff each place was at first and at the end, against what is wanted."""
    first = services.state_after(state.setup, ())
    tracks = [Track("at the end", over(state), "along-end")]
    if not state.cuts:
        tracks.insert(0, Track("at first", over(first), "along-first"))
    return along_picture(
        state.from_centre, tracks, _percent, _shares(tracks), "Stiffness against what is wanted",
        shown,
    )  # fmt: skip


def _shares(tracks: Sequence[Track]) -> list[float]:
    """Shares more or less stiff between which all of these lie (log)."""
    low = min(float(one.values.min()) for one in tracks)
    high = max(float(one.values.max()) for one in tracks)
    found = np.log1p([-0.9, -0.75, -0.5, -0.25, 0.0, 0.25, 0.5, 1.0, 2.0, 4.0])
    first = max(int(np.searchsorted(found, low)) - 1, 0)
    last = min(int(np.searchsorted(found, high)), found.size - 1)
    return [float(one) for one in found[min(first, 3) : max(last, 5) + 1]]


def _percent(value: float) -> str:
    share = float(np.expm1(value)) * 100
    return "as wanted" if abs(share) < 0.5 else f"{share:+.0f} %"


def _strain(state: State, shown: Units) -> SafeString:
    """The greatest strain of each place through the whole session."""
    tracks = [
        Track("greatest strain", state.use, "along-strain", area=True),
        Track("it breaks", np.ones_like(state.use), "along-limit"),
    ]
    marks = []
    if state.broke is not None:
        marks = [(SIDES.index(state.broke.limb), state.broke.at, "broke")]
    return along_picture(
        state.from_centre, tracks, lambda v: f"{100 * v:.0f} %", (0.0, 0.5, 1.0, 1.2),
        "Greatest strain of each place, against what it bears", shown, marks,
    )  # fmt: skip


def _certain(told: Debrief, shown: Units) -> str:
    """When the break became certain."""
    broke = told.state.broke
    if broke is None:
        return ""
    draw = shown.length(broke.draw)
    if told.certain is None:
        return f"Until the last act it could still have been drawn to {draw}."
    if told.certain == 0:
        return f"This stave could not be drawn to {draw} from the first."
    frame = told.frames[told.certain]
    words = "" if frame.act is None else f" ({act_words(frame.act, shown, frame.state)})"
    return f"From act {told.certain} on{words} a draw of {draw} was certain to break it."


def _film(frames: tuple[Frame, ...], step: int | None, shown: Units) -> FilmPart:
    """The film at an act; at its end without one."""
    last = frames[-1].step
    step = last if step is None else min(max(step, 0), last)
    frame = frames[step]
    state = frame.state
    removed = state.removals and state.removals[-1].step == step
    tracks = [Track("stiffness against what is wanted", frame.over, "along-end")]
    marks = [
        (SIDES.index(limb), 0.5 * (start + end), how) for limb, start, end, how, _ in state.marks
    ]
    if removed:
        took = state.removals[-1].took
        tracks.insert(
            0,
            Track(
                "wood that came off here",
                0.3 * took / max(float(took.max()), 1e-9),
                "along-took",
                area=True,
            ),
        )
    scale = _shares([Track("", one.over, "") for one in (frame, frames[0])])
    picture = along_picture(
        state.from_centre, tracks, _percent, scale, f"After act {step}", shown, marks
    )
    words = "before any act" if frame.act is None else act_words(frame.act, shown, state)
    shape = shape_now(state)
    look = None if shape is None else look_picture(*shape, f"The bow after act {step}")
    return FilmPart(
        step, last, words, " ".join((state_words(state, shown), *said_words(state, shown))),
        picture, look, step - 1 if step else None, step + 1 if step < last else None,
    )  # fmt: skip


@dataclass(frozen=True)
class OtherRow:
    """Whoever worked the same stave, and what came of it."""

    name: str
    weight: str
    even: str
    set: str
    looks: str
    good: bool


@dataclass(frozen=True)
class OthersPart:
    """The same stave in other hands."""

    rows: list[OtherRow]


def _other(name: str, ended: Outcome, shown: Units) -> OtherRow:
    weight = "broken"
    if not ended.broken:
        weight = "–" if ended.off is None else _off(ended.off, shown)
    return OtherRow(
        name, weight, f"{100 * ended.even:.0f} %", shown.length(max(ended.set, 0.0)),
        f"{ended.looks}", ended.good,
    )  # fmt: skip


def _off(newtons: float, shown: Units) -> str:
    sign = "+" if newtons >= 0 else "−"
    return f"{sign}{shown.fine_weight(abs(newtons))}"


def others(session: Session, shown: Units) -> OthersPart:
    """A session beside those of the advice and of the plain rule on the same stave."""
    own = _other("you", outcome(services.state_of(session)), shown)
    found = [_other(name, ended, shown) for name, ended in services.others_at(session.setup)]
    return OthersPart([own, *found])


@dataclass(frozen=True)
class SkillRow:
    """A kind of trouble: sessions in order, how many ended well, and the last weights missed."""

    key: str
    trouble: str
    count: int
    good: int
    broken: int
    misses: str
    dots: tuple[tuple[int, int, str, str], ...]
    sessions: list[Session]


@dataclass(frozen=True)
class RecordPage:
    """A learner's record."""

    rows: list[SkillRow]
    count: int
    lessons: int
    of_lessons: int


def record(person: Person, shown: Units) -> RecordPage:
    """Sessions that ended, by the kind of trouble, in the order they were done."""
    rows = []
    for trouble, found in services.ended_by_trouble(person).items():
        offs = [_off(o.off, shown) if o.off is not None else "broken" for _, o in found[-5:]]
        dots = tuple(
            (20 + 24 * k, _height(o), "good" if o.good else "broken" if o.broken else "fair",
             f"{session.pk}: " + ("broken" if o.off is None else _off(o.off, shown)))
            for k, (session, o) in enumerate(found[-20:])
        )  # fmt: skip
        rows.append(
            SkillRow(
                trouble, TROUBLES[trouble], len(found), sum(o.good for _, o in found),
                sum(o.broken for _, o in found), ", ".join(offs), dots,
                [session for session, _ in found],
            )
        )  # fmt: skip
    lessons = services.lessons_of(person, shown)
    reached = sum(1 for _, _, m in lessons if m is not None and m.reached)
    return RecordPage(rows, sum(row.count for row in rows), reached, len(lessons))


@dataclass(frozen=True)
class SkillPart:
    """The last staves of one trouble in three hands."""

    count: int
    rows: list[tuple[str, int, int, str]]


def skill(person: Person, trouble: str, shown: Units) -> SkillPart:
    """One's last staves of a trouble beside the advice and the plain rule on the same ones."""
    found = services.ended_by_trouble(person).get(trouble, [])[-COMPARED:]
    hands: dict[str, list[Outcome]] = {"you": [ended for _, ended in found]}
    for session, _ in found:
        for name, ended in services.others_at(session.setup):
            hands.setdefault(name, []).append(ended)
    rows = []
    for name, all_ended in hands.items():
        offs = [abs(one.off) for one in all_ended if one.off is not None]
        missed = shown.fine_weight(float(np.median(offs))) if offs else "all broken"
        good, broken = (sum(getattr(one, k) for one in all_ended) for k in ("good", "broken"))
        rows.append((name, good, broken, missed))
    return SkillPart(len(found), rows)


def _height(ended: Outcome) -> int:
    """Where a session's dot stands: the weight missed, as a share of the wanted one."""
    if ended.off is None:
        return 56
    return round(8 + 40 * min(abs(ended.off) / ended.wanted / 0.2, 1.0))
