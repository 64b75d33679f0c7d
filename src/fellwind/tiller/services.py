"""From bench entries to readings, and from readings to what the tiller screen says."""

from dataclasses import dataclass, field
from dataclasses import replace as changed
from functools import partial

import numpy as np

from bowyery.bow import Bow, LimbGrid
from bowyery.changes import Outcome
from bowyery.design import Solution
from bowyery.elastica import Shapes, shapes
from bowyery.errors import BowyeryError
from bowyery.materials import material
from bowyery.section import Floats
from bowyery.statics import brace_bow, draw
from bowyery.tiller import advice as core
from bowyery.tiller.bite import Bite, first_bite, learned
from bowyery.tiller.estimate import (
    KNOTS,
    Belief,
    Estimate,
    Sharper,
    Taken,
    carried,
    estimate,
    few_cells,
    first_belief,
    stiffness_factors,
    taken_field,
    would_sharpen,
)
from bowyery.tiller.forecast import BenchRule, Forecast, Losses, bench_rules, forecast
from bowyery.tiller.readings import SIDES, Reading
from bowyery.tiller.rescue import rescues
from bowyery.units import INCH
from fellwind.builds.models import Build, Entry, Measure
from fellwind.builds.services import standing_entries
from fellwind.cache import computed
from fellwind.designs.services import ruler_data, solution
from fellwind.drawing.ruler import RulerData
from fellwind.drawing.tree import Bent
from fellwind.workshop.models import Gear, Workshop

READ = ("weight", "gap", "tip height", "straight edge", "offset")
STRING_WORDS = {"string long": "long string", "string low": "low brace", "string full": "full brace"}


@dataclass(frozen=True)
class Pass:
    """Wood taken in one go: from which limb, between which places from the centre (m), as a thickness (m) or in strokes."""

    limb: str
    thickness: float | None
    strokes: int | None
    start: float | None
    end: float | None


@dataclass(frozen=True)
class Check:
    """One check: the readings of an entry, with the string that was on and what was taken since the check before."""

    entry: Entry
    number: int
    readings: tuple[Reading, ...]
    string: str
    string_at: float | None
    passes: "tuple[Pass, ...]"


@dataclass
class _Walk:
    """Where the walk through the log stands."""

    string: str = "string full"
    string_at: float | None = None
    passes: list[Pass] = field(default_factory=list)
    pulls: int | None = None
    braced: bool = False


@dataclass(frozen=True)
class History:
    """A build's checks in order, and what has happened since the last one."""

    checks: list[Check]
    passes: tuple[Pass, ...]
    pulls: int | None
    braced: bool
    string: str
    last_draw: float
    weights: list[tuple[float, float]]


def _reading(m: Measure, roots: tuple[float, float]) -> Reading:
    """A measure as the core reads it: places from the limb's root."""
    if m.kind not in ("straight edge", "offset"):
        return Reading(m.kind, m.value, m.limb, m.draw)
    at = max(0.0, 0.5 * (m.start + m.end) - roots[SIDES.index(m.limb)])
    return Reading(m.kind, m.value, m.limb, m.draw, at, m.end - m.start if m.kind == "straight edge" else None)


def history(entries: list[Entry], roots: tuple[float, float] = (0.0, 0.0)) -> History:
    """Walk through the standing entries of a build whose limbs begin so far from the centre (upper, lower)."""
    walk, checks, weights = _Walk(), [], []
    last_draw = 0.0
    for entry in entries:
        measures = list(entry.measures.all())
        for m in measures:
            if m.kind in STRING_WORDS:
                walk.string, walk.string_at = m.kind, m.value
                walk.braced |= m.kind == "string full"
        readings = tuple(_reading(m, roots) for m in measures if m.kind in READ and entry.kind == "bench")
        if readings:
            # gaps at full brace are read on a braced bow, said or not
            walk.braced |= walk.string == "string full" and any(r.kind == "gap" for r in readings)
            checks.append(Check(entry, len(checks) + 1, readings, walk.string, walk.string_at, tuple(walk.passes)))
            walk.passes = []
            weights += [(r.draw or 0.0, r.value) for r in readings if r.kind == "weight"]
            last_draw = max([last_draw, *(r.draw for r in readings if r.draw is not None)])
        for m in measures:
            if m.kind in ("removed", "strokes"):
                amount = (m.value, None) if m.kind == "removed" else (None, int(m.value))
                walk.passes.append(Pass(m.limb, *amount, m.start, m.end))
                walk.pulls = 0
            elif m.kind == "pulls" and walk.pulls is not None:
                walk.pulls += int(m.value)
    return History(checks, tuple(walk.passes), walk.pulls, walk.braced, walk.string, last_draw, weights)


@dataclass(frozen=True)
class Bench:
    """Everything the tiller screen shows.

    Attributes:
        plan: what is to be reached.
        further, harder: the limits of the next pull; None before the first check.
        level: what the balance says.
        advice: the next act.
        outlook: forecast at full draw.
        now: the estimate.
        check: the newest check used, and how many there are.
        trouble: why there is no answer yet.
        bite: of the tool at hand, as learned from the passes so far.
        sharper: readings that would tell most.
        rules: the straight-line rules of the bench, beside the forecast.
        taken: thickness off so far by what was written down, at the knots, ``(2, KNOTS)`` (m).
        roots: how far from the bow's centre each limb begins (m).
    """

    plan: core.Plan
    history: History
    check: Check | None = None
    now: Estimate | None = None
    outlook: Forecast | None = None
    stand: core.Balance | None = None
    further: core.Limit | None = None
    harder: core.Limit | None = None
    advice: core.Advice | None = None
    trouble: str = ""
    bite: Bite | None = None
    sharper: tuple[Sharper, ...] = ()
    rules: tuple[BenchRule, ...] = ()
    taken: Floats | None = None
    roots: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Shop:
    """What all builds share at the tiller: losses, and the gear in use."""

    losses: Losses
    gear: tuple[core.Gear, ...]

    @classmethod
    def get(cls) -> "Shop":
        """Read it once for a page, however many builds it shows."""
        workshop = Workshop.get()
        gear = tuple(core.Gear(g.name, g.rating, Gear.KINDS[g.kind]) for g in Gear.objects.filter(in_use=True))
        return cls(Losses(workshop.finishing_loss, 0.015, workshop.shooting_loss, 0.015), gear)


def plan_for(build: Build, found: Solution, braced: bool, shop: Shop) -> core.Plan:
    """What tillering this build is to reach."""
    ceiling = 0.95 * found.wood.rupture_strain
    limit = min(max(found.wood.working_strain, 1.03 * found.strain), ceiling)
    return core.Plan(
        build.design.weight,
        build.design.draw,
        build.design.fingers,
        build.school,
        build.beginner,
        braced,
        limit,
        shop.gear,
        shop.losses,
    )


def string_bow(bow: Bow, check: Check, length: float) -> Bow:
    """The bow with the string that was on at a check: level on the tree, the hook over the grip's middle.

    The string may slide in the hook: its pull is the same on both limbs, so that the stiffer one comes down less.
    """
    hold = changed(bow.hold, support="clamp", held_by="sliding hook", nock_offset=0.0)
    if check.string == "string long":
        return changed(bow, hold=hold, brace_height=None, string_length=check.string_at or length + 0.075)
    return changed(bow, hold=hold, brace_height=check.string_at or bow.brace_height)


def bench(build: Build, upto: int | None = None, shop: Shop | None = None) -> Bench:
    """Work out what the tiller screen says.

    Args:
        build: the build.
        upto: number of the check to look back at, or None for now.
        shop: what all builds share, where it is at hand.

    Raises:
        BowyeryError: the design itself cannot be solved.
    """
    found = solution(build.design)
    roots = tuple(limb.root[0] for limb in found.bow.limbs)
    past = history(standing_entries(build), (roots[0], roots[1]))
    plan = plan_for(build, found, past.braced, shop or Shop.get())
    checks = past.checks[:upto] if upto else past.checks
    if not checks:
        return Bench(
            plan,
            past,
            trouble="Nothing has been read yet. Put the string on, pull a little, and write down the first weight.",
        )
    current = not upto or upto >= len(past.checks)
    pulls, passes = (past.pulls, past.passes) if current else (None, ())
    last_draw = max([r.draw or 0.0 for check in checks for r in check.readings])
    key = (
        found.layout, found.wanted, found.wood, found.bow, [(c.readings, c.string, c.string_at, c.passes) for c in checks],
        plan, passes, pulls, last_draw,
    )  # fmt: skip
    work = partial(_work_out, found, checks, plan, passes, pulls, last_draw)
    try:
        worked = computed("tiller", key, work)
    except BowyeryError as error:
        return Bench(plan, past, checks[-1], trouble=str(error))
    return changed(worked, history=past, check=checks[-1])


LEFT_ON = 0.35  # log stiffness a roughed-out bow is expected to have beyond its design


def _work_out(
    found: Solution,
    checks: list[Check],
    plan: core.Plan,
    passes: tuple[Pass, ...],
    pulls: int | None,
    last_draw: float,
) -> Bench:
    grid, bow, length = few_cells(found.curve.limbs), found.bow, found.layout.length
    now, bite, off = _estimates(found, grid, checks)
    if passes:
        # wood has come off since: what was known of the limbs falls with the cube of their thickness
        taken = _taken(found, passes, bite)
        known = carried(grid, now.belief, taken)
        off = off + taken_field(grid, taken)
        now = changed(now, field=known.mean.reshape(2, KNOTS), covariance=known.covariance)
    last = checks[-1]
    outlook = forecast(grid, bow, now, plan.full_draw, last_draw, plan.losses)
    stand = core.balance(grid, bow, now, plan.fingers)
    act = core.advise(grid, bow, now, outlook, stand, plan, last_draw, pulls, last.string.removeprefix("string "))
    further, harder = core.limits(grid, bow, now, outlook, plan, last_draw, not stand.stiffer)
    hung = string_bow(bow, last, length)
    sharper = would_sharpen(grid, hung, now, _could_read(grid, last))
    rules = bench_rules(outlook, last_draw)
    roots = {side: limb.root[0] for side, limb in zip(SIDES, bow.limbs, strict=True)}
    empty = History([], (), None, False, last.string, last_draw, [])
    return Bench(plan, empty, None, now, outlook, stand, further, harder, act, "", bite, sharper, rules, off, roots)


def _could_read(grid: LimbGrid, check: Check) -> tuple[Reading, ...]:
    """What else could be read at the last check's draw: an edge along the limbs, offsets, tips, gaps, the weight once more."""
    at = max((r.draw or 0.0) for r in check.readings) or None
    rows = []
    for side, name in enumerate(SIDES):
        places = np.linspace(0.12, 0.85, 7) * float(grid.length[side, 0])
        rows += [Reading("straight edge", 0.0, name, at, float(place), 0.15) for place in places]
        rows += [Reading("offset", 0.0, name, at, float(place)) for place in places[1:-1]]
        rows += [Reading("tip height", 0.0, name, at)] if at else []
        rows += [Reading("gap", 0.0, name)] if check.string != "string long" else []
    return tuple(rows) + ((Reading("weight", 0.0, draw=at),) if at else ())


def _estimates(found: Solution, grid: LimbGrid, checks: list[Check]) -> tuple[Estimate, Bite, Floats]:
    """Estimate from the newest check, with what the checks before it taught; the tool's bite; and what has come off."""
    bow, length = found.bow, found.layout.length
    belief: Belief = first_belief(grid, LEFT_ON)
    bite = first_bite("scraper", found.wood.density, found.layout.width)
    off, now = np.zeros((2, KNOTS)), None
    for check in checks[-8:]:
        taken = _taken(found, check.passes, bite)
        before, belief = belief, carried(grid, belief, taken)
        off = off + taken_field(grid, taken)
        now = estimate(grid, string_bow(bow, check, length), check.readings, belief)
        bite = _taught(grid, bite, check.passes, taken, before, now)
        belief = now.belief
    assert now is not None
    return now, bite, off


def _taken(found: Solution, passes: tuple[Pass, ...], bite: Bite) -> tuple[Taken, ...]:
    """Passes in the core's terms: places from the limb's root, strokes as thickness by the bite as known."""
    rows = []
    for one in passes:
        root = found.bow.limbs[SIDES.index(one.limb)].root[0]
        start, end = (None if v is None else max(0.0, v - root) for v in (one.start, one.end))
        if end is not None and start is not None and end <= start:
            continue  # within the handle: nothing that bends
        thick = one.thickness if one.thickness is not None else (one.strokes or 0) * bite.thickness
        spread = 0.2 if one.thickness is not None else min(0.6, float(np.hypot(bite.spread, 0.15)))
        rows.append(Taken(one.limb, thick, start, end, spread))
    return tuple(rows)


def _taught(
    grid: LimbGrid, bite: Bite, passes: tuple[Pass, ...], taken: tuple[Taken, ...], before: Belief, now: Estimate
) -> Bite:
    """What a check showed of the strokes before it: where only strokes were counted, the fall there against the belief."""
    counted = [one for one in passes if one.strokes]
    if not counted or len(counted) < len(passes) or len(taken) < len(passes):
        return bite
    for one, there in zip(counted, taken, strict=True):
        where = taken_field(grid, (changed(there, thickness=1.0),))
        pick = (where / max(float(where.sum()), 1e-9)).ravel()
        fall = float(pick @ (before.mean - now.field.ravel()))
        spread = float(np.sqrt(pick @ (before.covariance + now.covariance) @ pick)) / 3
        depth = float(np.median(grid.depth[SIDES.index(one.limb), 0]))
        bite = learned(bite, one.strokes or 1, depth * (1 - float(np.exp(-fall / 3))), depth * spread)
    return bite


def _spans(state: Bench) -> dict[str, tuple[tuple[float, float], ...]]:
    """Where wood is to come off each limb, from the centre: the stretches of the advice, none for a whole limb."""
    found: dict[str, tuple[tuple[float, float], ...]] = {}
    for side, root in state.roots.items():
        rows = [r for r in state.advice.removals if r.limb == side] if state.advice else []
        if rows and all(r.start is not None for r in rows):
            found[side] = tuple((root + (r.start or 0.0), root + (r.end or 0.0)) for r in rows)
    return found


def tiller_ruler(found: Solution, state: Bench, take: dict[str, str]) -> RulerData:
    """What the one ruler shows of a bow at the tiller: hatched where wood is to come off, with a word for each limb."""
    return changed(ruler_data(found), take=take, spans=_spans(state))


@dataclass(frozen=True)
class RescueRow:
    """One way out: what is done, by how much (m), and what it should come to; the weak limb for a patch."""

    way: str
    by: float
    outcome: Outcome
    limb: str = ""


def ways_out(found: Solution, state: Bench, imperial: bool) -> list[RescueRow]:
    """What could still be done with a bow that is too light, as it is estimated now."""
    if state.now is None or state.advice is None:
        return []
    cuts = [k * INCH / 2 for k in (1, 2, 3, 4)] if imperial else [0.01, 0.02, 0.03, 0.05]
    weak = max(state.advice.weak, key=lambda place: place.by, default=None)
    patch = None if weak is None else (weak.limb, weak.start, weak.end, PATCH)
    key = (found.bow, state.now.field.tobytes(), found.wanted.draw, cuts, patch)
    rows = computed(
        "rescues", key, lambda: rescues(found.bow, state.now, found.wanted.draw, cuts, (material("rawhide"), RAWHIDE), patch)
    )
    return [RescueRow(way, by, outcome, weak.limb if weak and way == "patch" else "") for way, by, outcome in rows]


PATCH, RAWHIDE = 0.0015, 0.001  # thickness of a patch on the belly, and of rawhide on the back, as usually laid (m)


@dataclass(frozen=True)
class Hanging:
    """The bow on the tree: as estimated, and as wanted, at the draw of the newest check."""

    now: list[Bent]
    wanted: list[Bent]
    draw: float


def hanging(found: Solution, state: Bench) -> Hanging | None:
    """Shapes for the tree picture; None when there is nothing to show yet."""
    if state.now is None or state.check is None:
        return None
    at = max([r.draw or 0.0 for r in state.check.readings]) or found.bow.brace_height or 0.15
    grid = found.curve.limbs
    bow = string_bow(found.bow, state.check, found.layout.length)

    def bents(limbs: LimbGrid, bow: Bow, at: float, with_brace: bool) -> list[Bent]:
        braced = brace_bow(limbs, bow)
        least = float(braced.least_draw[0])
        depth = limbs.depth[:, 0]
        result: list[Bent] = []
        if with_brace and not braced.slack:
            still = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
            result.append(Bent(still.along[:, 0], still.across[:, 0], depth, None))
        if at > least * 1.001:
            drawn = draw(limbs, bow.hold, braced, np.array([at]))
            bent: Shapes = shapes(limbs, drawn.tension, drawn.p)
            nock = (float(drawn.nock[0, 0]), float(drawn.nock[1, 0]))
            result.append(Bent(bent.along[:, 0], bent.across[:, 0], depth, nock, float(drawn.tilt[0])))
        return result

    def work() -> Hanging:
        as_is = bents(grid.stiffened(stiffness_factors(state.now, grid)), bow, at, True)
        return Hanging(as_is, bents(grid, changed(found.bow, hold=bow.hold), at, False), at)

    key = (
        found.layout,
        found.wanted,
        found.wood,
        bow.brace_height,
        bow.string_length,
        at,
        state.now.field.tobytes(),
    )
    try:
        return computed("hanging", key, work)
    except BowyeryError:
        return None
