"""The bench log: pencil lines read, said back in words, and kept as entries with their measures."""

from uuid import UUID

from django.db import transaction

from bowyery import pencil
from bowyery.errors import UnreadableError
from bowyery.units import World
from fellwind.builds.models import Build, Entry, Measure
from fellwind.workshop.measures import RULER_WORDS, Units, on_rulers, to_pivot
from fellwind.workshop.models import Person

STRING_KINDS = {"long": "string long", "low": "string low", "full": "string full"}


def read_line(build: Build, text: str, world: World) -> tuple[pencil.Statement, ...]:
    """Parse a pencil line and refuse what no bow can show; raises UnreadableError."""
    statements = pencil.parse(text, world)
    for s in statements:
        if isinstance(s, pencil.WeightAt):
            _within(s.weight, 1.0, 1000.0, s.text, "no draw weight of a bow")
            _within(_pivot(build, s.draw), 0.05, 1.1, s.text, "no draw of a bow")
        elif isinstance(s, pencil.Gap):
            _within(s.value, 0.01, 0.4, s.text, "no gap between string and belly")
        elif isinstance(s, pencil.TipHeight):
            _within(s.value, -0.3, 1.0, s.text, "no way for a tip to come down")
            if s.draw is not None:
                _within(_pivot(build, s.draw), 0.05, 1.1, s.text, "no draw of a bow")
        elif isinstance(s, pencil.StringOn) and s.value is not None:
            high = 4.0 if s.state == "long" else 0.35
            _within(s.value, 0.01, high, s.text, "no string length" if s.state == "long" else "no brace height")
        elif isinstance(s, pencil.Removed) and s.end is not None:
            half = build.design.length / 2
            _within(s.end, 0.0, half + 0.02, s.text, f"beyond the tip, {half * 1000:.0f} mm from the centre")
    return statements


def _within(value: float, low: float, high: float, text: str, what: str) -> None:
    if not low <= value <= high:
        raise UnreadableError(f"“{text}” is {what}; look at the figure and its unit.")


def _pivot(build: Build, draw: float) -> float:
    return to_pivot(draw, build.ruler, build.design.handle_depth)


def draw_words(build: Build, draw: float, shown: Units) -> str:
    """A draw to the pivot, written on the build's ruler."""
    on = on_rulers(draw, build.design.handle_depth)[build.ruler]
    return f"{shown.length(on)} {RULER_WORDS[build.ruler]}"


def in_words(build: Build, statements: tuple[pencil.Statement, ...], shown: Units) -> list[str]:
    """Say statements back as a colleague would."""
    words = []
    for s in statements:
        if isinstance(s, pencil.WeightAt):
            words.append(f"{shown.fine_weight(s.weight)} at {draw_words(build, _pivot(build, s.draw), shown)}")
        elif isinstance(s, pencil.Gap):
            words.append(f"string to belly at the {s.limb} fade {shown.length(s.value)}")
        elif isinstance(s, pencil.TipHeight):
            where = "at brace" if s.draw is None else f"at {draw_words(build, _pivot(build, s.draw), shown)}"
            words.append(f"{s.limb} tip {shown.length(s.value)} down, {where}")
        elif isinstance(s, pencil.OnLimb):
            under = f" under an edge of {shown.length(s.span)}" if s.span else " off the straight line"
            gap = shown.fine_length(s.value) if s.span else shown.length(s.value)
            words.append(f"{s.limb} limb {gap}{under}, {shown.length(s.at)} from the centre")
        elif isinstance(s, pencil.StringOn):
            what = {"long": "the long string is on", "low": "braced low", "full": "at full brace"}[s.state]
            words.append(what + (f", {shown.length(s.value)}" if s.value is not None else ""))
        elif isinstance(s, pencil.Removed):
            limb = f"the {s.limb} limb" if s.limb else "both limbs"
            amount = f"{s.strokes} strokes" if s.strokes else shown.shaving(s.thickness or 0.0)
            where = "" if s.start is None else f", {shown.length(s.start)} to {shown.length(s.end or 0.0)} from the centre"
            words.append(f"{amount} off {limb}{where}")
        elif isinstance(s, pencil.Pulls):
            words.append(f"{s.count} short pulls")
        elif isinstance(s, pencil.Minutes):
            words.append(f"{s.minutes} min on the bench")
        else:
            words.append(f"note: {s.words}")
    return words


def keep(
    build: Build,
    text: str,
    statements: tuple[pencil.Statement, ...],
    world: World,
    person: Person,
    client_id: UUID,
    corrects: Entry | None = None,
) -> tuple[Entry, bool]:
    """Write an entry with its measures, once for one client id.

    Returns:
        The entry, and whether it is new.
    """
    minutes = sum(s.minutes for s in statements if isinstance(s, pencil.Minutes))
    with transaction.atomic():
        entry, new = Entry.objects.get_or_create(
            client_id=client_id,
            defaults={
                "build": build,
                "kind": "bench",
                "stage": build.stage,
                "text": text.strip(),
                "world": world,
                "minutes": minutes,
                "by": person,
                "corrects": corrects,
                **({"at": corrects.at} if corrects else {}),
            },
        )
        if new:
            Measure.objects.bulk_create(_measures(build, entry, statements))
    return entry, new


def _measures(build: Build, entry: Entry, statements: tuple[pencil.Statement, ...]) -> list[Measure]:
    rows: list[Measure] = []
    at: float | None = None  # the draw that what is read on the limbs belongs to
    for s in statements:
        if isinstance(s, pencil.WeightAt):
            at = _pivot(build, s.draw)
            rows.append(Measure(entry=entry, kind="weight", value=s.weight, draw=_pivot(build, s.draw), text=s.text))
        elif isinstance(s, pencil.Gap):
            rows.append(Measure(entry=entry, kind="gap", limb=s.limb, value=s.value, text=s.text))
        elif isinstance(s, pencil.TipHeight):
            draw = None if s.draw is None else _pivot(build, s.draw)
            rows.append(Measure(entry=entry, kind="tip height", limb=s.limb, value=s.value, draw=draw, text=s.text))
        elif isinstance(s, pencil.OnLimb):
            half = 0.5 * (s.span or 0.0)
            rows.append(
                Measure(
                    entry=entry, kind=s.kind, limb=s.limb, value=s.value, draw=at, start=s.at - half, end=s.at + half, text=s.text
                )
            )
        elif isinstance(s, pencil.StringOn):
            usual = {"long": build.design.length + 0.075, "low": 0.075, "full": build.design.brace_height}[s.state]
            rows.append(Measure(entry=entry, kind=STRING_KINDS[s.state], value=s.value or usual, text=s.text))
        elif isinstance(s, pencil.Removed):
            for limb in (s.limb,) if s.limb else ("upper", "lower"):
                kind = "strokes" if s.strokes else "removed"
                rows.append(
                    Measure(
                        entry=entry,
                        kind=kind,
                        limb=limb,
                        value=s.strokes or s.thickness,
                        start=s.start,
                        end=s.end,
                        text=s.text,
                    )
                )
        elif isinstance(s, pencil.Pulls):
            rows.append(Measure(entry=entry, kind="pulls", value=s.count, text=s.text))
    return rows


def tick(build: Build, item: str, person: Person) -> None:
    """Tick an item of the stage's list, once."""
    Entry.objects.get_or_create(
        build=build, kind="tick", text=item, defaults={"stage": build.stage, "by": person, "world": person.world}
    )
