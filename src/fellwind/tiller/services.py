"""From a build's log to the state of its bench, and from that to what pictures show."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from dataclasses import replace as changed
from datetime import datetime, timedelta
from functools import partial

import numpy as np
from django.utils import timezone

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.design.alterations import Outcome
from bowyery.design.solution import Solution, as_marked
from bowyery.errors import BowyeryError, UnreadableError
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.mechanics.strain import surface_strain
from bowyery.record.learned import Evidence
from bowyery.tiller.advice import FAIR_PART, Plan
from bowyery.tiller.advice import Gear as CoreGear
from bowyery.tiller.bench import BenchState, Workpiece, bites_shown, most_use, work_out
from bowyery.tiller.bite import TOOLS, Bite, bite_of, hungry
from bowyery.tiller.bite import Tool as CoreTool
from bowyery.tiller.estimate import PLACES, crooked, stiffness_factors
from bowyery.tiller.forecast import Losses
from bowyery.tiller.ladder import HALF_HOUR as LADDER_HALF_HOUR
from bowyery.tiller.log import Lie, Pass, history
from bowyery.tiller.pencil import parse
from bowyery.tiller.rescue import as_thick, bears, cut_for, rescues
from bowyery.tiller.set import Profile, Pull, from_which_pull, set_between
from bowyery.tiller.target import edge_correction
from bowyery.units.quantity import ANGLE, INCH, Units, World
from bowyery.wood.materials import material
from fellwind.builds.log import noted, tree_of
from fellwind.builds.models import Build, Entry, Wait
from fellwind.builds.ports import AS_TILLERED, AT_THE_TREE, ON_THE_TREE, WEIGHT_FORECAST, AtTheTree
from fellwind.builds.services import standing_entries
from fellwind.designs.pictures import ruler_data
from fellwind.designs.services import solution, try_solution
from fellwind.drawing.ruler import RulerData, ruler_for
from fellwind.drawing.tree import Bent
from fellwind.kit.cache import computed, read_once
from fellwind.shop import learning
from fellwind.shop.learning import days
from fellwind.shop.models import Gear, Tool, Workshop

NOTHING_READ = (
    "Nothing has been read yet. Put the string on, pull a little, and write down the first weight."
)


@dataclass(frozen=True)
class ShopTiller:
    """What all builds share at the tiller: losses, and the gear in use."""

    losses: Losses
    gear: tuple[CoreGear, ...]
    tools: tuple[CoreTool, ...] = ()
    learned: bool = False

    @classmethod
    def get(cls) -> "ShopTiller":
        """Read it once for a page, however many builds it shows."""
        workshop, rows = Workshop.get(), Gear.objects.filter(in_use=True)
        gear = tuple(CoreGear(g.name, g.rating, Gear.KINDS[g.kind]) for g in rows)
        losses = Losses(finishing=workshop.finishing_loss, shooting=workshop.shooting_loss)
        return cls(losses, gear, shop_tools())

    @property
    def alone(self) -> "ShopTiller":
        """For a bow that goes by its own log, and by nothing that others have shown."""
        return changed(self, learned=True)


def shop_tools() -> tuple[CoreTool, ...]:
    """The usual tools and the shop's own, as if nothing had been seen of them yet."""
    own = [CoreTool(row.name.lower(), row.like) for row in Tool.objects.all()]
    named = {one.name for one in own}
    return (*(CoreTool(name, name) for name in TOOLS if name not in named), *own)


OTHERS = 6  # newest bows that a tool's hunger is learned from


def bites_seen(shop: ShopTiller, without: int = 0) -> list[Evidence]:
    """What the newest bows showed of each tool: its bite over what such tools usually take.

    Args:
        shop: with its tools, as if nothing had been seen of them.
        without: key of a build that is left out.
    """
    newest = read_once("scraped", _scraped)
    those = [row for row in newest if row.pk != without][:OTHERS]
    return [
        one for row in those
        for one in read_once(("bites", row.pk, shop.tools), partial(_bites_of, row, shop.tools))
    ]  # fmt: skip


def _scraped() -> list[Build]:
    """The newest bows that strokes were written of, one more than are learned from."""
    return list(
        Build.objects.filter(entries__measures__kind="strokes", entries__corrected_by=None)
        .select_related("design__archer", "design__stave", "stave")
        .order_by("-number")
        .distinct()[: OTHERS + 1]
    )


def _bites_of(row: Build, tools: tuple[CoreTool, ...]) -> list[Evidence]:
    solved, _ = try_solution(row.design)
    if solved is None:
        return []
    other = workpiece(solved)
    past = history(noted(standing_entries(row)), other.roots)
    key = (other, past, row.design.draw, tools)
    bites: dict[str, Bite] = computed("bites", key, partial(
        bites_shown, other, past, row.design.draw, tools
    ))  # fmt: skip
    named, seen = {tool.name for tool in tools}, []
    for name, bite in bites.items():
        if name in named and bite.shown is not None:
            usual = bite_of(name, tools, other.density, other.width).thickness
            value, error = (one / usual for one in bite.shown)
            seen.append(Evidence(
                value, error, row.design.material, row.tree, row.number, name,
                days(row.started), "passes that the next look showed",
            ))  # fmt: skip
    return seen


def learned_tools(build: Build, shop: ShopTiller) -> tuple[CoreTool, ...]:
    """The shop's tools with what they have shown on other bows, those of the same wood before
    others.
    """
    if build.design.by_book:
        return shop.tools
    seen = bites_seen(shop, build.pk)
    named = {one.what for one in seen}

    def known(tool: CoreTool) -> CoreTool:
        if tool.name not in named:
            return tool
        found = learning.here("bite", build.design.material, build.tree, what=tool.name, seen=seen)
        return hungry(tool, found.middle, found.spread)

    return tuple(known(tool) for tool in shop.tools)


def learned_shop(build: Build, shop: ShopTiller, before: datetime | None = None) -> ShopTiller:
    """The shop with what its other bows have shown of its tools, and of what is lost on the way;
    until a moment, where one is given.
    """
    losses = shop.losses
    if not build.design.by_book:
        design = build.design
        losses = learning.losses(losses, design.material, build.tree, build.number, before)
    return changed(shop, tools=learned_tools(build, shop), losses=losses, learned=True)


def several(build: Build) -> Callable[..., BenchState]:
    """:func:`bench` of a build for a page that looks at several of its checks: what they share is
    read once.
    """
    shop = ShopTiller.get()
    shop = learned_shop(build, shop)
    return partial(bench, build, shop=shop, entries=standing_entries(build))


LATE = ("finish", "proof")  # stages at which finishing has taken what it takes


def at_tiller(build: Build) -> list[Entry]:
    """What was read and done before finishing took more."""
    return [one for one in standing_entries(build) if one.stage not in LATE]


def workpiece(found: Solution) -> Workpiece:
    """A solved design as the tiller takes it in hand."""
    return Workpiece(found.bow, found.curve.limbs, found.wood.density, found.layout.width)


def plan_for(build: Build, found: Solution, braced: bool, shop: ShopTiller) -> Plan:
    """What tillering a build is to reach."""
    design = build.design
    return Plan(
        design.weight,
        design.draw,
        design.fingers,
        "D" if build.school == "D" else "W",
        build.beginner,
        braced,
        most_use(found.uses),
        shop.gear,
        shop.losses,
        design.figures.gap,
        build.tool,
        shop.tools,
    )


def bench(
    build: Build,
    upto: int | None = None,
    shop: ShopTiller | None = None,
    without: int | None = None,
    entries: list[Entry] | None = None,
) -> BenchState:
    """Work out what the tiller screen says.

    Args:
        upto: number of the check to look back at, or None for now.
        shop: what all builds share, where it is at hand.
        without: key of an entry that is left out.
        entries: of its log that count, where they are at hand.

    Returns:
        The state of the bench, or one that says why there is none.

    Raises:
        BowyeryError: the design itself cannot be solved.
    """
    found = solution(build.design)
    piece = workpiece(found)
    rows = standing_entries(build) if entries is None else entries
    whole = history(noted(one for one in rows if one.pk != without), piece.roots)
    shop = shop or ShopTiller.get()
    if not shop.learned:
        shop = learned_shop(build, shop)
    past = whole.upto(upto)
    late = {one.pk for one in rows if one.stage in LATE}
    if past.checks and late.intersection(past.checks[-1].entries):  # it has been finished
        done = changed(shop.losses, finishing=0.0, finishing_spread=0.0)
        shop = changed(shop, losses=done)
    plan = plan_for(build, found, whole.braced, shop)
    if not past.checks:
        return BenchState(plan, whole, trouble=NOTHING_READ)
    try:
        worked = computed("tiller", (piece, past, plan), lambda: work_out(piece, past, plan))
    except BowyeryError as error:
        return BenchState(plan, whole, past.checks[-1], trouble=str(error))
    return changed(worked, history=whole)


def _spans(state: BenchState) -> dict[str, tuple[tuple[float, float], ...]]:
    """Where wood is to come off each limb, from the centre: the stretches of the advice, none for
    a whole limb.
    """
    found: dict[str, tuple[tuple[float, float], ...]] = {}
    for side, root in state.roots.items():
        rows = [r for r in state.advice.removals if r.limb == side] if state.advice else []
        if rows and all(r.start is not None for r in rows):
            found[side] = tuple((root + (r.start or 0.0), root + (r.end or 0.0)) for r in rows)
    return found


def tiller_ruler(found: Solution, state: BenchState, take: Mapping[str, str]) -> RulerData:
    """What the one ruler shows of a bow at the tiller: hatched where wood is to come off, with a
    word for each limb.
    """
    return changed(ruler_data(standing(found, state)), take=dict(take), spans=_spans(state))


def standing(found: Solution, state: BenchState) -> Solution:
    """The bow as it stands after all that changed it: its design, where nothing has."""
    acts = [one for check in state.history.checks for one in check.changes]
    acts += state.history.changes
    if state.piece is None or all(isinstance(one, Pass) and not one.face for one in acts):
        return found
    bow = state.piece.bow
    key = (bow, found.layout, found.wanted, found.wood)
    try:
        return computed(
            "standing", key, lambda: as_marked(bow, found.layout, found.wanted, found.wood)
        )
    except BowyeryError:
        return found


_TYPED = {"edge": "edge", "offset": "offset", "outline": "outline", "thick": "thick",
          "wide": "wide", "lies": "lies", "deepest": "deepest", "block": "block"}  # fmt: skip
_FADES = ("gap", "tip")


def where_typed(build: Build, found: Solution, name: str, text: str, world: World) -> float | None:
    """Where on the bench's picture a reading is that is being typed, by its field; None where that
    cannot be told yet.

    Args:
        build, found: whose bow, and its design solved.
        name: of the field, such as ``upper_edge``.
    """
    limb, _, word = name.rpartition("-")[2].partition("_")
    if limb not in SIDES:
        return None
    data = ruler_data(standing(found, bench(build)))
    ruler, track = ruler_for(data), data.upper if limb == "upper" else data.lower
    if word in _FADES:
        at = track.from_centre[0 if word == "gap" else -1]
        return round(ruler.x(float(at), limb == "upper"), 1)
    if word not in _TYPED or not text.strip():
        return None
    last = re.split(r"\s*;\s*|,\s+|\s+and\s+", text.strip())[-1]
    before = f"block {limb}" if word == "block" else f"{limb} {_TYPED[word]}"
    try:
        said = parse(f"{before} {last}", world, tree_of(build))
    except UnreadableError:
        return None
    at = next((s.at for s in said if s.at is not None), None)
    return None if at is None else round(ruler.x(at, limb == "upper"), 1)


HALF_HOUR = "left braced half an hour"


def half_hour(build: Build) -> tuple[Wait | None, bool]:
    """The half hour that a braced bow rests: the wait that runs, and whether one is over."""
    rows = list(build.waits.filter(what__iexact=HALF_HOUR).order_by("-until"))
    running = next((w for w in rows if w.ended is None and w.until > timezone.now()), None)
    over = any(w.until <= timezone.now() and (w.ended is None or w.ended >= w.until) for w in rows)
    return running, over


def start_half_hour(build: Build) -> Wait:
    """Let it rest braced for half an hour from now; the one that runs already stays."""
    running, _ = half_hour(build)
    if running is not None:
        return running
    until = timezone.now() + timedelta(minutes=LADDER_HALF_HOUR)
    return Wait.objects.create(build=build, what=HALF_HOUR, until=until)


def across(found: Solution, state: BenchState, shown: Units) -> list[str]:
    """What to do about a string off the middle, a sideways bend or a twist: which edge, and how
    many strokes.
    """
    said = []
    for one in state.history.asides:
        width = found.layout.width
        if not one.value:
            continue
        side, other = ("left", "right") if one.value < 0 else ("right", "left")
        if one.kind == "string off":
            much = shown.length(abs(one.value))
            if any(row.limb for row in state.history.asides):
                continue  # the limb that does it was named
            said.append(
                f"The string lies {much} to the {side}. Sight along each limb and write down which"
                f" bends aside or is twisted; wood comes off that limb's {other} edge."
            )
            continue
        if one.kind == "twist":
            off = width * abs(one.value)
            what = f"is twisted {ANGLE.write(abs(one.value), shown)} to the {side}"
        else:
            off = edge_correction(one.value, width, _tip_way(state, one.limb))
            what = f"bends {shown.length(abs(one.value))} to the {side}"
        bite = state.bite
        strokes = max(1, round(FAIR_PART * off / bite.thickness)) if bite else 0
        count = f"{strokes} strokes of the {state.tool}" if strokes else "a few strokes"
        said.append(
            f"The {one.limb} limb {what}: take {count} off its {other} edge, mid-limb, then look"
            f" again. All of it would be {shown.shaving(off)} at that edge."
        )
    return said


def _tip_way(state: BenchState, limb: str | None) -> float:
    """How far a limb's tip has come down at the last look (m)."""
    if not state.looks:
        return 0.1
    side = 0 if limb == "upper" else 1
    look = state.looks[-1]
    return float(abs(look.across[side, -1] - look.across[side, 0]))


def follow(
    build: Build, found: Solution, state: BenchState, shown: Units
) -> list[tuple[str, list[str]]]:
    """Set and follow of each limb: how it lay unstrung first and now, the reflex that was put in
    and what is left of it, against what was foretold.
    """
    lies, rows = state.history.lies, list[tuple[str, list[str]]]()
    acts = [a for check in state.history.checks for a in check.acts] + list(state.history.acts)
    for side, limb in enumerate(SIDES):
        mine = [one for one in lies if one.limb == limb]
        put = sum(a.value or 0.0 for a in acts if a.kind == "reflex" and a.limb in (limb, None))
        put += found.layout.reflex
        said = []
        sessions = list(dict.fromkeys(one.entry for one in mine))
        at_nock = [one for one in mine if one.at is None or one.at > 0.93 * found.layout.length / 2]
        if at_nock:
            last = -at_nock[-1].across
            if put > 0.001:
                said.append(
                    f"{shown.length(put)} of reflex planned or put in,"
                    f" {shown.length(max(last, 0.0))} left"
                    + (f", and {shown.length(-last)} of follow" if last < 0 else "") + "."
                )  # fmt: skip
            else:
                way = "back" if last > 0 else "belly"
                said.append(f"Unstrung its tip lies {shown.length(abs(last))} to the {way}.")
            if len(at_nock) > 1 and at_nock[0].entry != at_nock[-1].entry:
                lost = at_nock[-1].across - at_nock[0].across
                way = "nearer the belly" if lost > 0 else "further back"
                said.append(f"That is {shown.length(abs(lost))} {way} than at first.")
        whole = [s for s in sessions if sum(one.entry == s for one in mine) > 1]
        if len(whole) > 1:
            said += _set_words(found, state, side, mine, whole, shown)
        if said:
            rows.append((limb, said))
    if rows:
        told = changed(found.set, share=learning.set_share(build.design, build.number))
        low, high = told.low - told.made, told.high - told.made
        span = f"{shown.bare_length(low)} to {shown.length(high)}"
        rows.append(("foretold", [f"Drawn full and shot in it should take {span} of set."]))
    return rows


def _set_words(
    found: Solution, state: BenchState, side: int, mine: list[Lie], sessions: list[int],
    shown: Units,
) -> list[str]:  # fmt: skip
    """What set has come between the first profile of a limb and the newest."""
    root, length = found.bow.limbs[side].root[0], found.bow.limbs[side].length

    def profile(entry: int) -> Profile:
        rows = sorted(
            (min(length, (length if o.at is None else max(0.0, o.at - root))), o.across)
            for o in mine
            if o.entry == entry
        )
        return Profile(SIDES[side], np.array([r[0] for r in rows]), np.array([r[1] for r in rows]))

    try:
        kept = set_between(found.curve.limbs, profile(sessions[0]), profile(sessions[-1]))
    except BowyeryError as error:
        return [str(error)]
    if kept.low <= 0:
        return ["No set that a rule can show has come since the first profile."]
    said = (
        f"{shown.length(kept.tip)} of set at the tip since the first profile"
        f" ({shown.length(max(kept.low, 0.0))} to {shown.length(kept.high)})"
    )
    if kept.share > 0.5:
        said += (
            f", most of it between {shown.bare_length(root + kept.start)} and"
            f" {shown.length(root + kept.end)} from the centre"
        )
    strains = surface_strain(found.curve.shapes)[side].max(-1)
    draws = found.curve.drawn.draw
    pulls = [
        Pull(c.draw, float(np.interp(c.draw, draws, strains)), f"check {c.number}")
        for c in state.history.checks
        if c.draw
    ]
    worst = from_which_pull(pulls, found.wood.elastic_strain)
    if worst is not None:
        said += f"; the pull of {worst.name} to {shown.length(worst.draw)} strained it most"
    return [said + "."]


@dataclass(frozen=True)
class WayOut:
    """One way out: what is done, by how much (m), what it should come to; the limb of a patch; the
    draw that its layers bear for years, full draw at most (m).
    """

    way: str
    by: float
    outcome: Outcome
    limb: str = ""
    bears: float | None = None


# Thickness of a patch on the belly and of rawhide on the back, as usually laid (m).
PATCH, RAWHIDE = 0.0015, 0.001


def ways_out(found: Solution, state: BenchState, imperial: bool) -> list[WayOut]:
    """What could still be done with a bow that is too light, as it is estimated now."""
    now = state.now
    if now is None or state.advice is None:
        return []
    cuts = [k * INCH / 2 for k in (1, 2, 3, 4)] if imperial else [0.01, 0.02, 0.03, 0.05]
    weak = max(state.advice.weak, key=lambda place: place.by, default=None)
    patch = None if weak is None else (weak.limb, weak.start, weak.end, PATCH)
    bow = found.bow if state.piece is None else state.piece.bow
    key, hide = (bow, now.field, found.wanted.draw, cuts, patch), material("rawhide")
    rows = computed(
        "rescues",
        key,
        lambda: rescues(bow, now, found.wanted.draw, cuts, (hide, RAWHIDE), patch),
    )
    limb = weak.limb if weak else ""
    found_ways = [WayOut(way, by, out, limb if way == "patch" else "") for way, by, out in rows]
    cut = computed(
        "cut", (key, state.plan.stop_at),
        lambda: cut_for(bow, now, state.plan.stop_at, found.wanted.draw),
    )  # fmt: skip
    if cut:
        solved = computed(
            "rescues", (*key[:3], cut),
            lambda: rescues(bow, now, found.wanted.draw, [cut], None, None),
        )  # fmt: skip
        found_ways.insert(
            1, next(WayOut("solved", by, out) for way, by, out in solved if way == "shorten")
        )
    if state.stand is not None and state.stand.stiffer == "upper":
        accept = found_ways[0]
        found_ways.append(WayOut("turn", 0.0, accept.outcome, "lower"))
    made = tuple((one.outcome.bow, one.outcome.uses) for one in found_ways)
    borne = computed(
        "bears", (made, found.wanted.draw),
        lambda: bears([one.outcome for one in found_ways], found.wanted.draw),
    )  # fmt: skip
    return [changed(one, bears=draw) for one, draw in zip(found_ways, borne, strict=True)]


@dataclass(frozen=True)
class Hanging:
    """The bow on the tree: as estimated, and as wanted, at the draw of the newest check (m)."""

    now: list[Bent]
    wanted: list[Bent]
    draw: float


def _bents(limbs: LimbGrid, bow: Bow, at: float, with_brace: bool) -> list[Bent]:
    """The bent shapes of a bow at brace, if asked for, and at a draw (m)."""
    braced = brace_bow(limbs, bow)
    depth, result = limbs.depth[:, 0], list[Bent]()
    if with_brace and not braced.slack:
        still = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
        result.append(Bent(still.along[:, 0], still.across[:, 0], depth, None))
    if at > float(braced.least_draw[0]) * 1.001:
        drawn = draw(limbs, bow.hold, braced, np.array([at]))
        bent = shapes(limbs, drawn.tension, drawn.p)
        nock = (float(drawn.nock[0, 0]), float(drawn.nock[1, 0]))
        tilt = float(drawn.tilt[0])
        result.append(Bent(bent.along[:, 0], bent.across[:, 0], depth, nock, tilt))
    return result


def hanging(found: Solution, state: BenchState) -> Hanging | None:
    """Shapes for the tree picture; None when there is nothing to show yet."""
    now = state.now
    if now is None or state.check is None:
        return None
    at = state.check.draw or found.bow.brace_height or 0.15
    piece = state.piece or workpiece(found)
    grid = piece.limbs
    bow = now.strung(state.check.string.on(piece.bow, piece.length))

    def work() -> Hanging:
        stave = crooked(grid.stiffened(stiffness_factors(now, grid)), now.crook)
        as_is = _bents(stave, bow, at, True)
        return Hanging(as_is, _bents(grid, changed(piece.bow, hold=bow.hold), at, False), at)

    try:
        hung = computed("hanging", (grid, piece.bow, bow, at, now.field, now.crook), work)
    except BowyeryError:
        return None
    return hung if hung.now or hung.wanted else None  # a slack string bends nothing yet


def taken_words(state: BenchState, shown: Units) -> dict[str, str]:
    """How much is to come off each limb at most, in words."""
    if state.advice is None:
        return {}
    off = state.advice.removal
    return {
        side: f"take up to {shown.shaving(float(off[k].max()))}"
        for k, side in enumerate(SIDES)
        if off[k].any()
    }


@AS_TILLERED.answered_by
def as_tillered(build: Build) -> Bow | None:
    """The bow as its limbs are estimated to stand, or None before anything was read of them."""
    try:
        found, state = solution(build.design), bench(build)
    except BowyeryError:
        return None
    now = state.now
    if now is None:
        return None
    bow = found.bow if state.piece is None else state.piece.bow
    return computed("as tillered", (bow, now.field), lambda: as_thick(bow, now.field))


@ON_THE_TREE.answered_by
def bow_on_the_tree(build: Build) -> Bow | None:
    """The bow as it hangs, with the string that is on and limbs as thick as its readings say; None
    where nothing was written of it.
    """
    written = noted(standing_entries(build))
    if not written:
        return None
    found = solution(build.design)
    string = history(written, workpiece(found).roots).string
    return string.on(as_tillered(build) or found.bow, found.layout.length)


NEIGHBOURS = 0.12  # of a limb, either way: what a place is held against


def _at_share(share: float) -> Floats:
    """How much each place of the estimate counts at a share of the limb, ``(PLACES,)``."""
    places = np.linspace(0.0, 1.0, PLACES)
    return np.array([np.interp(share, places, row) for row in np.eye(PLACES)])


@AT_THE_TREE.answered_by
def at_the_tree(build: Build, limb: int, share: float) -> AtTheTree | None:
    """What was read of a place of a limb (0 upper, 1 lower), a share of its length from the root;
    None where nothing was.
    """
    try:
        state = bench(build)
    except BowyeryError:
        return None
    history = state.history
    if not history.checks and not history.changes:
        return None
    bend = None
    if state.now is not None:
        # less stiff than its neighbours is as much more bend
        apart = -_at_share(share)
        for off in (-NEIGHBOURS, NEIGHBOURS):
            apart += 0.5 * _at_share(min(max(share + off, 0.0), 1.0))
        part = slice(limb * PLACES, (limb + 1) * PLACES)
        spread = float(apart @ state.now.covariance[part, part] @ apart) ** 0.5
        bend = (float(apart @ state.now.field[limb]), max(spread, 0.03))
    acts = [one.kind for one in history.acts]
    return AtTheTree(
        bend, history.pulls, None if state.further is None else state.further.value,
        acts[-1] if acts else "", history.last_draw or None,
    )  # fmt: skip


@WEIGHT_FORECAST.answered_by
def weight_forecast(build: Build, before: datetime) -> tuple[float, float, float] | None:
    """What the tiller foretold of the finished bow's weight when it was left, by what other bows
    had shown before a moment; its band of 90 % (N): least, middle, greatest; None before any
    reading.
    """
    try:
        shop = learned_shop(build, ShopTiller.get(), before)
        outlook = bench(build, shop=shop, entries=at_tiller(build)).outlook
    except BowyeryError:
        return None
    if outlook is None:
        return None
    return outlook.final.low, outlook.final.middle, outlook.final.high
