"""From bench entries to readings, and from readings to what the tiller screen says."""

from dataclasses import dataclass, field
from dataclasses import replace as changed
from functools import partial

import numpy as np

from bowyery.bow import Bow, LimbGrid
from bowyery.design import Solution
from bowyery.elastica import Shapes, shapes
from bowyery.errors import BowyeryError
from bowyery.statics import brace_bow, draw
from bowyery.tiller import advice as core
from bowyery.tiller.estimate import Estimate, estimate
from bowyery.tiller.forecast import Forecast, Losses, forecast, stiffness_factors
from bowyery.tiller.readings import Reading
from fellwind.builds.models import Build, Entry
from fellwind.builds.services import standing_entries
from fellwind.cache import computed
from fellwind.designs.services import solution
from fellwind.drawing.tree import Bent
from fellwind.workshop.models import Gear, Workshop

READ = ("weight", "gap", "tip height")
STRING_WORDS = {"string long": "long string", "string low": "low brace", "string full": "full brace"}


@dataclass(frozen=True)
class Check:
    """One check: the readings of an entry, with the string that was on and what was taken since the check before."""

    entry: Entry
    number: int
    readings: tuple[Reading, ...]
    string: str
    string_at: float | None
    removed: tuple[float, float]


@dataclass
class _Walk:
    """Where the walk through the log stands."""

    string: str = "string full"
    string_at: float | None = None
    removed: dict[str, float] = field(default_factory=lambda: {"upper": 0.0, "lower": 0.0})
    pulls: int | None = None
    braced: bool = False


@dataclass(frozen=True)
class History:
    """A build's checks in order, and what has happened since the last one."""

    checks: list[Check]
    removed: tuple[float, float]
    pulls: int | None
    braced: bool
    string: str
    last_draw: float
    weights: list[tuple[float, float]]


def history(entries: list[Entry]) -> History:
    """Walk through the standing entries of a build."""
    walk, checks, weights = _Walk(), [], []
    last_draw = 0.0
    for entry in entries:
        measures = list(entry.measures.all())
        for m in measures:
            if m.kind in STRING_WORDS:
                walk.string, walk.string_at = m.kind, m.value
                walk.braced |= m.kind == "string full"
        readings = tuple(Reading(m.kind, m.value, m.limb, m.draw) for m in measures if m.kind in READ and entry.kind == "bench")
        if readings:
            # gaps at full brace are read on a braced bow, said or not
            walk.braced |= walk.string == "string full" and any(r.kind == "gap" for r in readings)
            taken = (walk.removed["upper"], walk.removed["lower"])
            checks.append(Check(entry, len(checks) + 1, readings, walk.string, walk.string_at, taken))
            walk.removed = {"upper": 0.0, "lower": 0.0}
            weights += [(r.draw or 0.0, r.value) for r in readings if r.kind == "weight"]
            last_draw = max([last_draw, *(r.draw for r in readings if r.draw is not None)])
        for m in measures:
            if m.kind == "removed":
                walk.removed[m.limb] += m.value
                walk.pulls = 0
            elif m.kind == "strokes":
                walk.pulls = 0
            elif m.kind == "pulls" and walk.pulls is not None:
                walk.pulls += int(m.value)
    taken = (walk.removed["upper"], walk.removed["lower"])
    return History(checks, taken, walk.pulls, walk.braced, walk.string, last_draw, weights)


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
    """The bow with the string that was on at a check: level on the tree, the hook over the grip's middle."""
    hold = changed(bow.hold, support="clamp", nock_offset=0.0)
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
    past = history(standing_entries(build))
    plan = plan_for(build, found, past.braced, shop or Shop.get())
    checks = past.checks[:upto] if upto else past.checks
    if not checks:
        return Bench(
            plan,
            past,
            trouble="Nothing has been read yet. Put the string on, pull a little, and write down the first weight.",
        )
    current = not upto or upto >= len(past.checks)
    pulls, removed = (past.pulls, past.removed) if current else (None, (0.0, 0.0))
    last_draw = max([r.draw or 0.0 for check in checks for r in check.readings])
    key = (
        found.layout, found.wanted, found.wood, found.bow, [(c.readings, c.string, c.string_at, c.removed) for c in checks],
        plan, removed, pulls, last_draw,
    )  # fmt: skip
    work = partial(_work_out, found, checks, plan, removed, pulls, last_draw)
    try:
        now, outlook, stand, further, harder, act = computed("tiller", key, work)
    except BowyeryError as error:
        return Bench(plan, past, checks[-1], trouble=str(error))
    return Bench(plan, past, checks[-1], now, outlook, stand, further, harder, act)


def _work_out(
    found: Solution,
    checks: list[Check],
    plan: core.Plan,
    removed: tuple[float, float],
    pulls: int | None,
    last_draw: float,
) -> tuple[Estimate, Forecast, core.Balance, core.Limit, core.Limit, core.Advice]:
    grid, bow, length = found.curve.limbs, found.bow, found.layout.length
    now = _estimates(grid, bow, length, checks)
    if any(removed):
        # wood has come off since: what was known of the limbs falls with the cube of their thickness
        common, ratio = _thinned(grid, (now.common, now.ratio), removed)
        now = changed(now, common=common, ratio=ratio)
    outlook = forecast(grid, bow, now, plan.full_draw, last_draw, plan.losses)
    stand = core.balance(grid, bow, now, plan.fingers)
    further, harder = core.limits(grid, bow, now, outlook, plan, last_draw, not stand.stiffer)
    act = core.advise(grid, bow, now, outlook, stand, plan, last_draw, pulls)
    return now, outlook, stand, further, harder, act


def _estimates(grid: LimbGrid, bow: Bow, length: float, checks: list[Check]) -> Estimate:
    """Estimate from the newest check, with what the checks before it taught of the limbs as its start."""
    expected = (0.0, 0.0)
    found: Estimate | None = None
    for check in checks[-6:]:
        expected = _thinned(grid, expected, check.removed)
        found = estimate(grid, string_bow(bow, check, length), check.readings, expected)
        expected = (found.common, found.ratio)
    assert found is not None
    return found


def _thinned(grid: LimbGrid, logs: tuple[float, float], removed: tuple[float, float]) -> tuple[float, float]:
    depth = np.median(grid.depth[:, 0], axis=-1)
    fall = 3 * np.log(np.maximum(1 - np.array(removed) / depth, 0.2))
    return logs[0] + float(fall.mean()), logs[1] + float(fall[0] - fall[1])


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
        as_is = bents(grid.stiffened(stiffness_factors(state.now)), bow, at, True)
        return Hanging(as_is, bents(grid, changed(found.bow, hold=bow.hold), at, False), at)

    key = (
        found.layout,
        found.wanted,
        found.wood,
        bow.brace_height,
        bow.string_length,
        at,
        state.now.upper,
        state.now.lower,
    )
    try:
        return computed("hanging", key, work)
    except BowyeryError:
        return None
