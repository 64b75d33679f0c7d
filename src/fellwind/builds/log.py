"""The bench log: pencil lines read, said back in words, and kept as entries with their measures."""

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import get_args
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from bowyery.bow.bow import SIDES
from bowyery.making.stages import NAMES as STAGES
from bowyery.tiller import pencil
from bowyery.tiller.log import Noted
from bowyery.tiller.statements import Statement, Tree
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units, World
from fellwind.builds.models import Build, Entry, Measure
from fellwind.people.models import Person

WORLDS: tuple[World, ...] = get_args(World)
_NOT_MEASURED = ("minutes", "note")  # kept with the entry itself


def tree_of(build: Build) -> Tree:
    """How figures are taken on a build's tree."""
    design = build.design
    up, low = design.length / 2, design.length / 2
    return Tree(draw_ruler(build.draw_ruler), design.figures.handle_depth, (up, low))


ONE_PULL = timedelta(hours=2)  # what was read longer ago belongs to another pull


def at_hand(build: Build) -> Tree:
    """A build's tree with the draw of the pull at hand, as its last lines say it."""
    rows = Measure.objects.filter(
        entry__build=build, entry__kind="bench", entry__corrected_by=None,
        entry__at__gte=timezone.now() - ONE_PULL,
    ).order_by("entry__at", "pk")  # fmt: skip
    return replace(tree_of(build), draw=pencil.draw_at_hand(_statement(m) for m in rows))


def read_line(build: Build, text: str, world: World) -> tuple[Statement, ...]:
    """Read a pencil line about a build; raises UnreadableError."""
    return pencil.parse(text, world, at_hand(build))


def in_words(build: Build, statements: tuple[Statement, ...], shown: Units) -> list[str]:
    """Say statements back as a colleague would."""
    return pencil.words(statements, at_hand(build), shown)


def draw_words(build: Build, draw: float, shown: Units) -> str:
    """A draw to the pivot (m), written on the build's draw ruler."""
    return tree_of(build).draw_words(draw, shown)


def keep(
    build: Build,
    text: str,
    statements: tuple[Statement, ...],
    world: World,
    person: Person,
    client_id: UUID,
    corrects: Entry | None = None,
    at: datetime | None = None,
    stage: str = "",
) -> tuple[Entry, bool]:
    """Write an entry with its measures, once for one client id; a correction stands at the time of
    what it corrects, and belongs to a stage where one is named.

    Returns:
        The entry, and whether it is new.
    """
    if at is not None:
        at = _in_turn(build, person, at)
    minutes = sum(int(s.value or 0) for s in statements if s.kind == "minutes")
    with transaction.atomic():
        entry, new = Entry.objects.get_or_create(
            client_id=client_id,
            defaults={
                "build": build,
                "kind": "bench",
                "stage": stage or (corrects.stage if corrects else build.stage),
                "text": text.strip(),
                "world": world,
                "minutes": minutes,
                "by": person,
                "corrects": corrects,
                "at": corrects.at if corrects else at or timezone.now(),
            },
        )
        if new:
            rows = (s for s in statements if s.kind not in _NOT_MEASURED)
            Measure.objects.bulk_create(_measure(entry, s) for s in rows)
    return entry, new


STRUCK = "struck out: "


def strike(entry: Entry, person: Person, client_id: UUID) -> tuple[Entry, bool]:
    """Strike an entry out: a correction that says nothing in its place, but keeps its minutes.

    Returns:
        The entry that strikes it out, and whether it is new; what corrected it before, where it was
        corrected already.
    """
    return _instead(entry, f"{STRUCK}{entry.text}", person, client_id, ())


def put_back(struck: Entry, person: Person, client_id: UUID) -> tuple[Entry, bool]:
    """Put back what an entry struck out, with its measures as they were read."""
    first = struck.corrects
    if first is None:
        raise ValueError("only what was struck out can be put back")
    return _instead(struck, first.text, person, client_id, list(first.measures.all()))


def _instead(
    entry: Entry, text: str, person: Person, client_id: UUID, measures: Iterable[Measure]
) -> tuple[Entry, bool]:
    with transaction.atomic():
        before = Entry.objects.filter(corrects=entry).first()
        if before is not None:
            return before, False
        made = Entry.objects.create(
            client_id=client_id, build=entry.build, kind=entry.kind, stage=entry.stage, text=text,
            world=entry.world, minutes=entry.minutes, by=person, corrects=entry, at=entry.at,
        )  # fmt: skip
        for one in measures:
            one.pk, one.entry = None, made
        Measure.objects.bulk_create(measures)
    return made, True


HURRY = timedelta(seconds=30)


def _in_turn(build: Build, person: Person, at: datetime) -> datetime:
    """When an entry was written, but not before what its writer sent just before it: the way here
    takes longer for one than for the next.
    """
    own = build.entries.filter(by=person, at__gt=at, at__lt=at + HURRY)
    last = own.order_by("-at").values_list("at", flat=True).first()
    return last or at


def _measure(entry: Entry, s: Statement) -> Measure:
    return Measure(
        entry=entry,
        kind=s.kind,
        limb=s.limb or "",
        value=s.value,
        draw=s.draw,
        start=s.start,
        end=s.end,
        more=s.more,
        how=s.how,
        tool=s.tool,
        text=s.text[:80],
    )


def _statement(m: Measure) -> Statement:
    limb = next((side for side in SIDES if side == m.limb), None)
    return Statement(
        m.kind, m.text, m.value, limb, m.draw, m.start, m.end, "", m.more, m.how, m.tool
    )


def noted(entries: Iterable[Entry]) -> list[Noted]:
    """The statements of bench entries in order, each with its measure's key; measures fetched.

    Sizes that were read while the limbs were being roughed out say nothing at the tiller: wood came
    off after them.
    """
    return [
        Noted(_statement(m), m.pk, entry.pk)
        for entry in entries
        if entry.kind == "bench"
        for m in entry.measures.all()
        if not (m.kind in OF_THE_BLANK and entry.stage in BEFORE_TILLER)
    ]


OF_THE_BLANK = ("thickness", "width", "floor")
BEFORE_TILLER = STAGES[: STAGES.index("tiller")]


def of_the_blank(entries: Iterable[Entry]) -> list[Statement]:
    """Sizes and floor readings that were written before the tiller, in order."""
    return [
        _statement(m)
        for entry in entries
        if entry.kind == "bench" and entry.stage in BEFORE_TILLER
        for m in entry.measures.all()
        if m.kind in OF_THE_BLANK
    ]


def tick(build: Build, item: str, person: Person) -> None:
    """Tick an item of the stage's list, once."""
    made_by = {"stage": build.stage, "by": person, "world": person.world}
    Entry.objects.get_or_create(build=build, kind="tick", text=item, defaults=made_by)
