"""What the string room's pages show."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.urls import reverse

from bowyery.bow.layout import gap_band
from bowyery.strings.plan import StringPlan
from bowyery.strings.price import Price
from bowyery.strings.settle import Settling
from bowyery.strings.strength import SCHOOL_ONE_DRAW
from bowyery.units.quantity import FINE_SPEED, FINENESS, INCH, Units
from fellwind.builds.models import Build
from fellwind.builds.pages import Head, head
from fellwind.drawing.bowstring import Look, bars_picture, string_picture
from fellwind.drawing.settling import breaks_picture, settling_picture, strips_picture
from fellwind.shop.models import Workshop
from fellwind.strings import services, stocks, twins
from fellwind.strings.forms import READ_FORMS, PartForm, StringForm, TestForm, ThreadForm
from fellwind.strings.models import BowString, StringEntry, Thread
from fellwind.strings.services import Cords, NextAct, Sheet, Tested
from fellwind.strings.steps import Step, steps
from fellwind.strings.stocks import Hung, StockRow
from fellwind.strings.twins import TwinSheet

USUAL_COLOURS = ("slate", "heather", "moss", "gorse", "slate", "heather")
LEVEL = 0.003  # off the grip's middle that is let be (m)
FIST = (0.152, 0.19)


@dataclass(frozen=True)
class ListPage:
    """Every string, hung by its bow, and the threads."""

    bows: Sequence[Hung]
    stock: Sequence[StockRow]
    builds: Sequence[Build]


@dataclass(frozen=True)
class SheetPage(Head):
    """The strings of a build, and a form for one more."""

    form: StringForm
    string: BowString
    sheets: Sequence[Sheet]


@dataclass(frozen=True)
class ThreadPage:
    """A thread, its tests and what they say."""

    tested: Tested | None
    form: ThreadForm
    test: TestForm | None
    picture: str = ""
    widths: Sequence[tuple[int, str]] = ()
    strip_bears: str = ""
    fineness: str = ""


@dataclass(frozen=True)
class FitRow:
    """Something looked at on the braced bow: what was read, and what mends it."""

    what: str
    read: str
    good: bool | None
    remedy: str


@dataclass(frozen=True)
class StringPage:
    """A string with its picture, its figures and what was read of it."""

    string: BowString
    made: Sheet
    trouble: str
    picture: str = ""
    bars: str = ""
    settling: Settling | None = None
    settling_said: str = ""
    settling_picture: str = ""
    act: NextAct | None = None
    price: Price | None = None
    cords: Cords | None = None
    twin: TwinSheet | None = None
    fit: Sequence[FitRow] = ()
    strip: float | None = None
    strip_widths: tuple[float, float] | None = None
    step: int = 0
    of_steps: int = 0
    forms: Mapping[str, Any] = field(default_factory=dict)
    part: PartForm | None = None
    entries: Sequence[StringEntry] = ()
    mass_rows: Sequence[tuple[str, float, str | None]] = ()
    swing_words: Sequence[tuple[str, str, str]] = ()
    turn_moves: float = 0.0
    jig: float | None = None
    parts: Sequence[tuple[str, str]] = ()


@dataclass(frozen=True)
class MakePage:
    """One step of a string's making, for three metres away."""

    string: BowString
    made: Sheet
    steps: Sequence[Step]
    step: Step | None
    number: int
    trouble: str = ""
    after_number: int | None = None
    before_number: int | None = None


def list_page() -> ListPage:
    """Every string of the shop."""
    bows = stocks.hung()
    with_strings = {one.build.pk for one in bows}
    others = Build.objects.select_related("design").exclude(pk__in=with_strings)
    return ListPage(bows, stocks.stock(bows), list(others.filter(finished=None)))


def sheet_page(build: Build, form: StringForm, string: BowString) -> SheetPage:
    """The strings of a build."""
    top = head(build, "string")
    rows = list(services.strings().filter(build=build))
    return SheetPage(**vars(top), form=form, string=string, sheets=services.sheets_of(rows))


def thread_page(
    thread: Thread | None,
    shown: Units,
    form: ThreadForm | None = None,
    test: TestForm | None = None,
) -> ThreadPage:
    """A thread with its tests."""
    if thread is None or thread.pk is None:
        return ThreadPage(None, form or ThreadForm(shown=shown), None)
    found = services.tested(thread)
    loads = [one.load or 0.0 for one in found.strands]
    picture = breaks_picture(loads, found.bears, shown) if found.bears and loads else ""
    if found.strip is not None:
        strips = [(one.width or 0.0, one.load or 0.0) for one in found.strips]
        picture += strips_picture(strips, found.strip, shown)
    widths, told = [], ""
    if found.strip is not None and found.strip.bears.low > 0:
        low = found.strip.load(1.0)
        widths = [(plies, _by_width(low * plies, shown)) for plies in (2, 3, 4)]
        told = _by_width(low, shown)
    own = form or ThreadForm(shown=shown, initial=ThreadForm.initial_of(thread), row=thread)
    return ThreadPage(
        found,
        own,
        test or TestForm(shown=shown),
        picture,
        widths,
        told,
        FINENESS.write(found.fibre.line_mass, shown),
    )


def _by_width(each: float, shown: Units) -> str:
    """What a width bears (N/m), in the reader's units."""
    step, words = (INCH / 8, "⅛ in") if shown.imperial else (0.001, "mm")
    return f"{shown.fine_weight(each * step)} for each {words} of width"


def look_of(made: Sheet) -> Look:
    """What a string looks like."""
    plan, string = made.plan, made.string
    own = [string.colour_one, string.colour_two]
    bundles = plan.bundles if plan else 1
    usual = USUAL_COLOURS if bundles > 1 else USUAL_COLOURS[:1]
    colours = [f"string-{own[k % 2] or usual[k % len(usual)]}" for k in range(max(1, bundles))]
    return Look(tuple(colours), string.direction == "right", max(made.turns, 0))


def string_page(
    string: BowString,
    shown: Units,
    forms: Mapping[str, Any] | None = None,
    part: PartForm | None = None,
    chosen: str = "",
) -> StringPage:
    """A string; forms that were refused stand in it."""
    made = services.sheet_of(string)
    plan = made.plan
    own = {
        name: (forms or {}).get(name) or kind(shown=shown, made=made)
        for name, kind in READ_FORMS.items()
    }
    if part is None and chosen in PartForm.PARTS:
        part = part_form(string, chosen, shown)
    entries = [one for one in made.entries if one.kind != "step"][::-1]
    if plan is None:
        return StringPage(
            string,
            made,
            made.trouble,
            forms=own,
            part=part or part_form(string, "length", shown),
            entries=entries,
            act=services.next_act(made, shown),
        )
    urls = {name: reverse("strings:part", args=[string.pk, name]) for name in PartForm.PARTS}
    found = made.settling
    reads = services.brace_reads(made.entries, plan)
    drawn = ""
    if isinstance(found, Settling):
        drawn = settling_picture(found, reads, plan.brace_per, string.brace_height, shown)
    others = services.sheets_of(list(services.strings().filter(build=string.build)))
    made_steps = steps(made, shown)
    strip = services.strip_for(made)
    return StringPage(
        string,
        made,
        "",
        string_picture(plan, look_of(made), urls, shown, chosen),
        _bars(made, shown),
        found if isinstance(found, Settling) else None,
        found if isinstance(found, str) else "",
        drawn,
        services.next_act(made, shown),
        services.priced(made),
        services.cords(made),
        twins.twin_of(made, others, shown),
        _fit(made, shown),
        strip[1] if strip else None,
        strip[0].widths if strip else None,
        sum(one.done for one in made_steps),
        len(made_steps),
        own,
        part,
        entries,
        _mass_rows(made, shown),
        _swing_words(made),
        plan.brace_per * plan.twist.each,
        _too_short(plan.posts),
        _parts_of(plan),
    )


def part_form(string: BowString, part: str, shown: Units, data: Any = None) -> PartForm:
    """The form of one part; what is left to the plan stands grey in it."""
    planned = _planned(services.sheet_of(string))
    return PartForm(data, shown=shown, part=part, string=string, row=string, planned=planned)


def _planned(made: Sheet) -> dict[str, float]:
    """What the plan has where the maker left a figure to it."""
    plan = made.plan
    if plan is None:
        return {}
    throat, serving = plan.part("upper throat"), plan.part("centre serving")
    figures = {
        "strands": float(plan.strands), "plies": float(plan.bundles),
        "turns": float(plan.twist.turns), "pieces": float(len(plan.pieces)),
        "own_length": plan.length, "loop_upper": plan.loops[0], "loop_lower": plan.loops[1],
    }  # fmt: skip
    if plan.pieces:
        figures["piece"] = plan.pieces[0]
    if throat is not None:
        figures["throat"] = throat.end - throat.start
    if serving is not None and plan.square is not None and plan.nocking is not None:
        figures |= {"serving": serving.end - serving.start,
                    "serving_above": plan.square - serving.start,
                    "nock_above": plan.square - plan.nocking}  # fmt: skip
    strip = services.strip_for(made)
    return figures | ({"strip": strip[1]} if strip else {})


def make_page(string: BowString, number: int | None, shown: Units) -> MakePage:
    """A step of the making: the one that is asked for, or the first that is not done."""
    made = services.sheet_of(string)
    rows = steps(made, shown)
    if not rows:
        return MakePage(string, made, rows, None, 0, made.trouble or "It cannot be planned yet.")
    if number is None or not 1 <= number <= len(rows):
        number = next((k for k, one in enumerate(rows, 1) if not one.done), len(rows))
    after = number + 1 if number < len(rows) else None
    before = number - 1 if number > 1 else None
    return MakePage(string, made, rows, rows[number - 1], number, "", after, before)


def _parts_of(plan: StringPlan) -> list[tuple[str, str]]:
    """Parts whose figures may be changed, of those that this kind of string has."""
    only = {"centre", "nock", "silencers", "strength"} if plan.kind.use != "shoots" else set()
    if plan.strength is None:
        only.add("strength")
    return [(name, title) for name, (title, _) in PartForm.PARTS.items() if name not in only]


def _too_short(posts: float) -> float | None:
    """How far the shop's jig reaches, where that is not far enough (m)."""
    reach = Workshop.get().jig
    return reach if reach is not None and reach < posts else None


def _mass_rows(made: Sheet, shown: Units) -> list[tuple[str, float, str | None]]:
    """Each part with its mass and what it costs."""
    plan = made.plan
    if plan is None:
        return []
    cost = services.priced(made)
    scale = (made.mass or plan.mass) / plan.mass
    rows: list[tuple[str, float, str | None]] = []
    for name in ("body", "loops", "serving", "wax", "silencers"):
        mass = getattr(plan.masses, name) * scale
        if mass > 0:
            told = None if cost is None else FINE_SPEED.write(cost.by_part[name], shown)
            rows.append((name, mass, told))
    whole = None if cost is None else FINE_SPEED.write(cost.total, shown)
    rows.append(("all of it", sum(mass for _, mass, _ in rows), whole))
    return rows


def _swing_words(made: Sheet) -> list[tuple[str, str, str]]:
    """How far the string swings in each nock, and how far its groove must be open."""
    return [
        (
            one.limb,
            f"{math.degrees(one.at_brace):.0f}° at brace, {math.degrees(one.at_draw):.0f}° drawn",
            f"Fair the groove until it is open to {math.degrees(one.faired):.0f}° from the limb.",
        )
        for one in services.swung(made)
    ]


def _bars(made: Sheet, shown: Units) -> str:
    plan = made.plan
    if plan is None:
        return ""
    strength = plan.strength
    if strength is None or plan.kind.use == "braces":
        rows = [("what its tension asks for", plan.needed, plan.needed, "strong")]
        return bars_picture(rows, plan.safe, plan.needed, shown)
    rule = plan.order.rule
    low, high = strength.school_two
    won = {
        "fifteen": rule == "fifteen",
        "peak": rule in ("four", "five", "six"),
        "statics": rule == "statics",
        "shot": rule == "shot",
    }
    read = "as read" if strength.measured else "reckoned"
    draw = shown.length(SCHOOL_ONE_DRAW)
    rows = [
        (
            f"10 times that at {draw}, {read}",
            strength.school_one,
            strength.school_one,
            "strong" if won["fifteen"] else "",
        ),
        ("4 to 6 times the full weight", low, high, "strong" if won["peak"] else ""),
        (
            "standing tension, 28 % of it",
            strength.statics,
            strength.statics,
            "strong" if won["statics"] else "",
        ),
    ]
    if strength.shot:
        rows.append(
            (
                "the shot's pull, half of it",
                strength.shot,
                strength.shot,
                "strong" if won["shot"] else "",
            )
        )
    return bars_picture(rows, plan.safe, plan.needed, shown)


REMEDIES = {
    "it rides on an edge": "File the groove's edge round where it rides, and fair it to the belly.",
    "a groove opens the wrong way": "Turn the groove so that it opens to the belly and towards the"
    " grip.",
    "a loop is too tight": "Open the loop: it wants to slide down the limb unstrung.",
}


def _fit(made: Sheet, shown: Units) -> list[FitRow]:
    """What was looked at on the braced bow, and what is still to be."""
    plan, string = made.plan, made.string
    if plan is None or plan.kind.use != "shoots":
        return []
    rows = []
    seat = made.newest.get("fit")
    remedy = REMEDIES.get(seat.text, "") if seat else "Look at both nocks, braced."
    rows.append(
        FitRow(
            "Lies in the nocks",
            seat.text if seat else "not looked at yet",
            None if seat is None else not remedy,
            remedy,
        )
    )
    off = made.read("off the grip")
    remedy = ""
    if off is not None and off > LEVEL:
        remedy = (
            "Deepen the groove on the side it should go to, or take twist out of a limb by heat."
        )
    rows.append(
        FitRow(
            "Over the middle of the grip",
            "not looked at yet" if off is None else f"{shown.shaving(off)} off",
            None if off is None else off <= LEVEL,
            remedy,
        )
    )
    brace = made.read("brace")
    if brace is not None:
        low, high = FIST
        good = low <= brace <= high
        remedy = (
            ""
            if good
            else (
                "Less than a fist with the thumb up: it may reach the wrist."
                if brace < low
                else "More than a fist with the thumb up: it tires the wood."
            )
        )
        rows.append(FitRow("A fist with the thumb up", shown.length(brace), good, remedy))
    upper, lower = made.read("upper gap"), made.read("lower gap")
    if upper is None or lower is None:
        rows.append(
            FitRow("Upper against lower gap", "not read yet", None, "Read both at the fades.")
        )
    else:
        apart, design = upper - lower, string.build.design
        want = gap_band(design.fingers, design.figures.gap)
        good = want[0] - 0.001 <= apart <= want[1] + 0.001
        remedy = "" if good else "The tiller has moved, or a loop sits askew: look there first."
        said = f"{shown.length(abs(apart))} {'more above' if apart >= 0 else 'more below'}"
        rows.append(FitRow("Upper against lower gap", said, good, remedy))
    return rows
