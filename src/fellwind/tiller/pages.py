"""What the tiller's pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID, uuid4

from bowyery.design.solution import Solution
from bowyery.tiller import words
from bowyery.tiller.bench import BenchState
from bowyery.tiller.bench import Shown as ShownAct
from bowyery.tiller.kinds import ACTS, KINDS
from bowyery.tiller.kinds.marks import MARKS
from bowyery.tiller.ladder import Rung, ladder
from bowyery.tiller.statements import Statement
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units
from fellwind.builds.log import STRUCK, tree_of
from fellwind.builds.models import Build, Entry, Measure, Wait
from fellwind.builds.pages import Head, head
from fellwind.builds.ports import INSTRUMENTS_SPEAK
from fellwind.builds.services import log as entries_of
from fellwind.drawing.curve import CurveData, curve_picture
from fellwind.drawing.ruler import ruler_picture, tiller_tracks
from fellwind.tiller import hands, rescues, services, shapes
from fellwind.tiller.forms import (
    PRESSES,
    USUAL,
    ActForm,
    Groups,
    LeastForm,
    ReadingForm,
    RemovalForm,
    backings,
    fields_of,
    fields_shown,
)
from fellwind.tiller.picture import compared, limbs, picture, profiles, small_looks, tracks_of


@dataclass(frozen=True)
class LookRow:
    """An entry of the bench in the list of checks.

    Attributes:
        number: of the check that it belongs to, or 0.
        here: it is the one that is looked at.
    """

    number: int
    entry: Entry
    struck: bool
    here: bool


@dataclass(frozen=True)
class ShownRow:
    """Acts in words, and what they did."""

    acts: Sequence[str]
    outcome: str
    open: bool


@dataclass(frozen=True)
class SetRow:
    """How an unstrung limb lay, first and now, in words."""

    limb: str
    words: Sequence[str]


@dataclass(frozen=True)
class Screen(Head):
    """The tiller screen and the bench view.

    Attributes:
        reading, removal, done, least: forms; groups: the reading's fields in the order of the work.
        ids: of buttons' entries, one a button.
        state: of the bench; check of checks, earlier and later: which check is looked at.
        string: that is on; draw_ruler_words: how draws are measured.
        further: to pull no further than, on that ruler (m); further_why, harder_why: reasons.
        odds, risk: what this pull may do, in words, and as a share of what is risky.
        marks: on the wood, in words, each with the line that rubs it off, and its id.
        said: the next act; headline, line: of it on the screen; held: draw at the held weight.
        wild: readings that do not fit, as written.
        rungs: of the ladder; resting: the half hour that runs; rested: it is over.
        tools: names to choose from; suits: which suits this pass; tool_words: and what it takes.
        drawn: what is advised, as a pencil line.
        picture, tracks, ruler, curve, limbs: pictures; looks: small ones; curve_points: of the
            forecast for a needle, where a scale may speak.
        shown_acts: what acts were to do and did; sets: set and follow, profiles: drawn;
            asides: pictures of the limbs from the side.
        rows: what was written, and what was struck out; last: the newest that counts.
    """

    reading: ReadingForm | None = None
    removal: RemovalForm | None = None
    done: ActForm | None = None
    least: LeastForm | None = None
    groups: Groups | None = None
    ids: Sequence[UUID] = ()
    state: BenchState | None = None
    check: int = 0
    checks: int = 0
    earlier: int | None = None
    later: int | None = None
    string: str = ""
    draw_ruler_words: str = ""
    further: float = 0.0
    curve_points: str = ""
    further_why: str = ""
    harder_why: str = ""
    said: words.Said | None = None
    headline: str = ""
    line: str = ""
    held: str = ""
    places: Sequence[str] = ()
    odds: str = ""
    risk: float | None = None
    marks: Sequence[tuple[str, str, UUID]] = ()
    sharper: Sequence[str] = ()
    rules: Sequence[str] = ()
    balance: str = ""
    wild: Sequence[str] = ()
    rungs: Sequence[Rung] = ()
    resting: Wait | None = None
    rested: bool = False
    tools: Sequence[str] = ()
    suits: str = ""
    tool_words: str = ""
    drawn: str = ""
    picture: str = ""
    tracks: str = ""
    ruler: str = ""
    curve: str = ""
    limbs: str = ""
    looks: Sequence[tuple[int, str, str]] = ()
    shown_acts: Sequence[ShownRow] = ()
    sets: Sequence[SetRow] = ()
    profiles: str = ""
    asides: Sequence[str] = ()
    rows: Sequence[LookRow] = ()
    last: Entry | None = None
    backings: Sequence[str] = ()
    act_fields: Sequence[tuple[str, str, str]] = ()
    eye_words: Sequence[tuple[str, str]] = (
        ("stiff", "stiff"), ("weak", "weak"), ("hinge", "weak"), ("good", "good"),
        ("leave", "weak"),
    )  # fmt: skip


@dataclass(frozen=True)
class Forms:
    """Forms of the bench that were refused; fresh ones stand for the others."""

    reading: ReadingForm | None = None
    removal: RemovalForm | None = None
    done: ActForm | None = None
    least: LeastForm | None = None


def least_form(build: Build, shown: Units) -> LeastForm:
    """A fresh form of the floor that evening stops at, with the one that stands."""
    return LeastForm(
        shown=shown, wanted=build.design.weight, initial={"floor": build.floor}, prefix="least"
    )


def screen(
    build: Build, shown: Units, upto: int | None = None, forms: Forms | None = None
) -> Screen:
    """The tiller of a build.

    Args:
        upto: number of the check to look back at, or None for now.
    """
    forms = forms or Forms()
    tree = tree_of(build)
    reading = forms.reading or ReadingForm(prefix="reading", shown=shown, tree=tree)
    page = Screen(
        **vars(head(build, "tiller")),
        reading=reading,
        removal=forms.removal or RemovalForm(prefix="removal", shown=shown),
        done=forms.done or ActForm(prefix="done", shown=shown),
        least=forms.least or least_form(build, shown),
        ids=[uuid4() for _ in range(6)],
        tools=[tool.name for tool in hands.shop_tools()],
        backings=backings(),
        act_fields=[(k, fields_shown(one), one.care) for k, one in PRESSES.items()],
        groups=reading.groups((), USUAL["long"]),
    )
    if page.found is None:
        return page
    found: Solution = page.found
    state = services.bench(build, upto)
    resting, rested = services.half_hour(build)
    page = replace(page, state=state, resting=resting, rested=rested, rows=_rows(build, state))
    newest = next((r.entry for r in page.rows if not r.struck and r.entry.stage == "tiller"), None)
    page = replace(page, rungs=ladder(state, rested), last=newest)
    return _pictures(_said(page, state, shown), found, state, shown)


def bench(build: Build, shown: Units) -> Screen:
    """The bench view: the same, with both limbs as they are marked, large."""
    page = screen(build, shown)
    if page.said is None or page.found is None or page.state is None or not page.state.advice:
        return page
    page = replace(page, limbs=limbs(page.found, page.state, shown))
    if page.state is None or not INSTRUMENTS_SPEAK.first():
        return page
    beyond = draw_ruler(build.draw_ruler).beyond(build.design.figures.handle_depth)
    return replace(page, curve_points=_points(page.state, beyond))


def _points(state: BenchState, beyond: float) -> str:
    """The forecast curve for a needle to follow: draws on the build's ruler (m) and weights (N)."""
    if state.outlook is None:
        return ""
    pairs = zip(state.outlook.draws, state.outlook.weights, strict=True)
    return " ".join(f"{draw + beyond:.4f},{weight:.2f}" for draw, weight in pairs)


def _said(page: Screen, state: BenchState, shown: Units) -> Screen:
    """With what is said of the state."""
    build, checks = page.build, len(state.history.checks)
    number = state.check.number if state.check else 0
    ruler, tree = draw_ruler(build.draw_ruler), tree_of(build)
    string = state.history.string if number == checks or not state.check else state.check.string
    first = next((one.reading for one in state.sharper), None)
    asked = fields_of(first.kind, first.limb) if first else ()
    page = replace(
        page,
        check=number,
        checks=checks,
        earlier=number - 1 if number > 1 else None,
        later=number + 1 if number < checks else None,
        string=string.words,
        draw_ruler_words=ruler.short,
        groups=page.reading.groups(asked, USUAL[string.rung]) if page.reading else None,
        asides=shapes.across(page.found, state, shown) if page.found else (),
        sets=[
            SetRow(limb, said) for limb, said in shapes.follow(page.build, page.found, state, shown)
        ]
        if page.found
        else (),
    )
    advice, stand, further, harder = state.advice, state.stand, state.further, state.harder
    if advice is None or stand is None or further is None or harder is None:
        return page
    on = ruler.from_pivot(further.value, build.design.figures.handle_depth)
    roots, wild = state.roots, state.wild
    fit_ill = {m.pk: m.text for m in Measure.objects.filter(pk__in=wild)} if wild else {}
    said = words.say(state, shown, tree)
    taken = bool(state.strokes)
    return replace(
        page,
        further=words.readable_draw(on, shown),
        further_why=words.why(further, True),
        harder_why=words.why(harder, False),
        said=said,
        headline=said.short[:1].upper() + said.short[1:] + (", as drawn" if taken else ""),
        line=said.then[:1].upper() + said.then[1:] if taken else said.sentences[0],
        held=words.held_words(state.held, state, shown, tree) if state.held else "",
        places=words.places_words(advice, roots, shown, state.hinges),
        odds=words.chance_words(state, shown),
        risk=min(1.0, state.chance.breaks / RISKY) if state.chance else None,
        marks=_marks(state, build, shown),
        sharper=[
            words.sharper_words(one, roots, shown)
            for one in state.sharper[:2]
            if one.gain > words.WORTH_SAYING
        ],
        rules=[words.rule_words(rule, shown) for rule in state.rules],
        balance=words.balance_words(stand, shown),
        wild=[fit_ill[key] for key in wild if key in fit_ill],
        suits=words.suits_words(state) if taken else "",
        tool_words=words.tool_words(state, shown),
        drawn=words.removal_line(state, shown),
        shown_acts=[_shown(one, state, build, shown) for one in state.shown],
    )


RISKY = 0.2  # a chance of breaking at which the bar is full


def _marks(state: BenchState, build: Build, shown: Units) -> list[tuple[str, str, UUID]]:
    """What is marked on the wood, in words, each with the pencil line that rubs it off."""
    rows, tree = list[tuple[str, str, UUID]](), tree_of(build)
    for one in state.history.marks:
        kind = KINDS["mark" if one.how in MARKS else "eye"]
        said = Statement(kind.name, "", None, one.limb, None, one.start, one.end, how=one.how)
        ends = f"{shown.typed_length(one.start)} to {shown.typed_length(one.end)}"
        rows.append((kind.aloud(said, tree, shown), f"rub off {one.limb} {ends}", uuid4()))
    return rows


def _shown(one: ShownAct, state: BenchState, build: Build, shown: Units) -> ShownRow:
    tree = tree_of(build)
    said = [
        ACTS[a.kind].aloud(
            Statement(a.kind, "", a.value, a.limb, None, a.start, a.end, "", a.more, a.how),
            tree,
            shown,
        )
        for a in one.acts
    ]
    return ShownRow(said, words.act_words(one, shown), one.now is None)


def _rows(build: Build, state: BenchState) -> list[LookRow]:
    """What was written at the bench and counts, and what was struck out, the newest first."""
    here = state.check.number if state.check else 0
    number = {key: check.number for check in state.history.checks for key in check.entries}
    rows = []
    for one in entries_of(build):
        if one.kind != "bench" or hasattr(one, "corrected_by"):
            continue
        struck = one.corrects_id is not None and one.text.startswith(STRUCK)
        check = number.get(one.pk, 0)
        rows.append(LookRow(check, one, struck, bool(check) and check == here))
    return rows[::-1]


def _pictures(page: Screen, found: Solution, state: BenchState, shown: Units) -> Screen:
    """With the pictures of the state."""
    build, design = page.build, page.build.design
    ruler = draw_ruler(build.draw_ruler)
    data = services.tiller_ruler(found, state, services.taken_words(state, shown))
    page = replace(
        page,
        ruler=ruler_picture(data, shown),
        picture=picture(build, found, state, shown, page.further),
        looks=small_looks(state, shown),
        profiles=profiles(found, state, shown),
    )
    more = tracks_of(state)
    if more is not None:
        page = replace(page, tracks=tiller_tracks(data, more, shown))
    if state.outlook is None or state.check is None:
        return page
    beyond, o = ruler.beyond(design.figures.handle_depth), state.outlook
    read = [(r.draw or 0.0, r.value) for r in state.check.readings if r.kind == "weight"]
    curve = CurveData(
        o.draws + beyond,
        o.weights,
        design.weight,
        design.draw + beyond,
        o.low,
        o.high,
        [(d + beyond, w) for d, w in read],
        [(d + beyond, w) for d, w in state.history.weights],
    )
    return replace(page, curve=curve_picture(curve, shown))


@dataclass(frozen=True)
class StripPart:
    """Small pictures of every check, from first bend to now: number, picture, words."""

    looks: Sequence[tuple[int, str, str]]
    build: Build


def strip(build: Build, shown: Units) -> StripPart:
    """Small pictures of every check of a build; each was worked out once and is kept."""
    look = services.several(build)
    last = look()
    known = {number: (number, drawn, said) for number, drawn, said in small_looks(last, shown, 99)}
    for check in last.history.checks:
        if check.number not in known:
            state = look(upto=check.number)
            for number, drawn, said in small_looks(state, shown, 99):
                known.setdefault(number, (number, drawn, said))
    return StripPart([known[number] for number in sorted(known)], build)


@dataclass(frozen=True)
class Without:
    """What the advice would be without an entry."""

    entry: Entry
    said: str
    line: str
    now: str
    then: str


def without(build: Build, entry: Entry, shown: Units) -> Without:
    """What the advice would be without an entry, beside what it is."""

    def told(state: BenchState) -> tuple[str, str]:
        if state.advice is None or state.outlook is None:
            return state.trouble, "no forecast"
        said = words.say(state, shown, tree_of(build))
        band = state.outlook.now
        low, high = shown.fine_weight(band.low), shown.fine_weight(band.high)
        return said.short, f"{shown.fine_weight(band.middle)} at full draw, {low} to {high}"

    look = services.several(build)
    now, then = told(look()), told(look(without=entry.pk))
    return Without(entry, then[0], then[1], now[0], now[1])


@dataclass(frozen=True)
class ComparePage(Head):
    """Two checks on the ruler."""

    first: int = 0
    second: int = 0
    tracks: str = ""
    rows: Sequence[LookRow] = ()
    words: Sequence[str] = ()
    trouble_of: str = ""


def compare(build: Build, first: int | None, second: int | None, shown: Units) -> ComparePage:
    """Two checks of a bow side by side on the ruler."""
    page = ComparePage(**vars(head(build, "tiller")))
    found = page.found
    if found is None:
        return page
    look = services.several(build)
    last = look()
    rows = _rows(build, last)
    count = len(last.history.checks)
    first_of = {row.number: row for row in rows if row.number}  # the first entry of each
    page = replace(page, rows=[first_of[number] for number in sorted(first_of, reverse=True)])
    if count < 2:
        return replace(page, trouble_of="Two checks are needed before one can be held to another.")
    a = min(max(first or count - 1, 1), count)
    b = min(max(second or count, 1), count)
    a, b = min(a, b), max(a, b)
    one, other = look(upto=a), look(upto=b)
    page = replace(page, first=a, second=b)
    if one.now is None or other.now is None:
        return replace(page, trouble_of=one.trouble or other.trouble)
    drawn = compared(found, one, other, shown)
    if drawn is None:
        return replace(page, trouble_of="The shape of one of them could not be worked out.")
    said = [compare_words(number, state, shown) for number, state in ((a, one), (b, other))]
    return replace(page, tracks=drawn, words=said)


def compare_words(number: int, state: BenchState, shown: Units) -> str:
    """A check in one sentence."""
    if state.check is None or state.outlook is None or state.stand is None:
        return f"Check {number}: {state.trouble}"
    return (
        f"Check {number}, {state.check.string.words}:"
        f" {shown.fine_weight(state.outlook.now.middle)} at full draw."
        f" {words.balance_words(state.stand, shown)}"
    )


WAYS = {
    "accept": ("Accept it as it is", "weight"),
    "shorten": ("Cut {by} off each end", "length; it stacks sooner"),
    "solved": ("Cut {by} off each end, for the wanted weight", "length; it stacks sooner"),
    "heat": ("Harden the belly by heat", "days until it has its moisture back"),
    "back": ("Lay rawhide on the back, {by}", "days of drying; some mass"),
    "patch": ("Patch the weak place of the {limb} limb, {by}", "a glue line in the belly"),
    "turn": (
        "Turn it end for end: the {limb} limb becomes the upper",
        "grip and arrow pass as cut",
    ),
}


@dataclass(frozen=True)
class Way:
    """A way out in words, with what it should come to, and what it costs."""

    what: str
    outcome: object
    lost: str
    bears: float | None = None


@dataclass(frozen=True)
class RescuePart:
    """Ways out of a bow that is too light, side by side."""

    rows: list[Way]
    build: Build
    trouble: str


def rescue(build: Build, found: Solution | None, trouble: str, shown: Units) -> RescuePart:
    """What could still be done with a bow, whether it is too light or not."""
    rows = []
    ways = rescues.ways_out(found, services.bench(build), shown.imperial) if found else []
    for row in ways:
        cut = row.way in ("shorten", "solved")
        by = shown.length(row.by) if cut else shown.thickness(row.by)
        what, lost = WAYS[row.way]
        rows.append(Way(what.format(by=by, limb=row.limb), row.outcome, lost, row.bears))
    return RescuePart(rows, build, trouble)
