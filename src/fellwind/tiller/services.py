"""From a build's log to the state of its bench, and from that to what pictures show."""

from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import replace as changed

import numpy as np

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.design.alterations import Outcome
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.tiller.advice import Gear as CoreGear
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, Workpiece, most_use, work_out
from bowyery.tiller.estimate import crooked, stiffness_factors
from bowyery.tiller.forecast import Losses
from bowyery.tiller.log import history
from bowyery.tiller.rescue import rescues
from bowyery.units.quantity import INCH, Units
from bowyery.wood.materials import material
from fellwind.builds.log import noted
from fellwind.builds.models import Build
from fellwind.builds.services import standing_entries
from fellwind.designs.services import ruler_data, solution
from fellwind.drawing.ruler import RulerData
from fellwind.drawing.tree import Bent
from fellwind.kit.cache import computed
from fellwind.shop.models import Gear, Workshop

NOTHING_READ = (
    "Nothing has been read yet. Put the string on, pull a little, and write down the first weight."
)


@dataclass(frozen=True)
class ShopTiller:
    """What all builds share at the tiller: losses, and the gear in use."""

    losses: Losses
    gear: tuple[CoreGear, ...]

    @classmethod
    def get(cls) -> "ShopTiller":
        """Read it once for a page, however many builds it shows."""
        workshop, rows = Workshop.get(), Gear.objects.filter(in_use=True)
        gear = tuple(CoreGear(g.name, g.rating, Gear.KINDS[g.kind]) for g in rows)
        losses = Losses(finishing=workshop.finishing_loss, shooting=workshop.shooting_loss)
        return cls(losses, gear)


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
        design.gap,
    )


def bench(build: Build, upto: int | None = None, shop: ShopTiller | None = None) -> BenchState:
    """Work out what the tiller screen says.

    Args:
        build: the build.
        upto: number of the check to look back at, or None for now.
        shop: what all builds share, where it is at hand.

    Returns:
        The state of the bench, or one that says why there is none.

    Raises:
        BowyeryError: the design itself cannot be solved.
    """
    found = solution(build.design)
    piece = workpiece(found)
    whole = history(noted(standing_entries(build)), piece.roots)
    plan = plan_for(build, found, whole.braced, shop or ShopTiller.get())
    past = whole.upto(upto)
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
    return changed(ruler_data(found), take=dict(take), spans=_spans(state))


@dataclass(frozen=True)
class WayOut:
    """One way out: what is done, by how much (m), what it should come to; the limb of a patch."""

    way: str
    by: float
    outcome: Outcome
    limb: str = ""


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
    key, hide = (found.bow, now.field, found.wanted.draw, cuts, patch), material("rawhide")
    rows = computed(
        "rescues",
        key,
        lambda: rescues(found.bow, now, found.wanted.draw, cuts, (hide, RAWHIDE), patch),
    )
    limb = weak.limb if weak else ""
    return [WayOut(way, by, out, limb if way == "patch" else "") for way, by, out in rows]


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
    grid = found.curve.limbs
    bow = now.strung(state.check.string.on(found.bow, found.layout.length))

    def work() -> Hanging:
        stave = crooked(grid.stiffened(stiffness_factors(now, grid)), now.crook)
        as_is = _bents(stave, bow, at, True)
        return Hanging(as_is, _bents(grid, changed(found.bow, hold=bow.hold), at, False), at)

    try:
        hung = computed("hanging", (grid, found.bow, bow, at, now.field, now.crook), work)
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
