"""What to do next on the tree: how far and how hard to pull, and how much wood to take from which limb.

Stiffness of solid wood goes with the cube of its thickness, so a stiffness that is to fall to the share k is
met by taking 1 − k^(1/3) of the thickness. Never more than a fair part of that is advised before the next look.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from bowyery import statics
from bowyery.bow import Bow, LimbGrid
from bowyery.elastica import shapes
from bowyery.section import Floats
from bowyery.strain import surface_strain
from bowyery.tiller.estimate import RATIOS, Estimate
from bowyery.tiller.forecast import Forecast, Losses, stiffness_factors
from bowyery.tiller.readings import brace_gaps
from bowyery.units import INCH

ENOUGH_PULLS = 20
PULLS_AFTER_REMOVAL = 25
BEGINNER_SHARE = 0.75
DRAW_STEP = INCH
FAIR_PART = 0.65
LEAST_SHARE = 0.004  # of the thickness; less cannot be taken on purpose

# Wanted gap at the upper fade less that at the lower, low and high end (m), by the fingers on the string.
GAP_WANTED = {"one above, two below": (INCH / 8, INCH / 4), "three under": (-INCH / 16, INCH / 16)}

Why = Literal["wanted weight", "beginner's share", "next inch", "shape", "full draw", "strain", "gear", "exercise"]


@dataclass(frozen=True)
class Limit:
    """A bound of the next pull: its value (m or N), why it binds, and the name of the gear where gear does."""

    value: float
    why: Why
    gear: str = ""


@dataclass(frozen=True)
class Gear:
    """Something the pull hangs on: name, rated load (N), and how many times the pull it carries."""

    name: str
    rating: float
    times: float = 1.0


@dataclass(frozen=True)
class Plan:
    """What the tillering is to reach, and how.

    Attributes:
        wanted_weight: of the finished bow at full draw (N).
        full_draw: pivot to nocking point (m).
        fingers: a key of GAP_WANTED.
        school: W (weight) or D (draw).
        beginner: before the first full brace, pulled to three quarters of the weight only.
        braced: the bow has been at full brace.
        strain_limit: greatest surface strain to be asked of the wood.
        gear: what the pull hangs on.
        losses: of finishing and shooting in.
    """

    wanted_weight: float
    full_draw: float
    fingers: str = "one above, two below"
    school: Literal["W", "D"] = "W"
    beginner: bool = False
    braced: bool = True
    strain_limit: float = 0.01
    gear: tuple[Gear, ...] = ()
    losses: Losses = field(default_factory=Losses)

    @property
    def stop_at(self) -> float:
        """Weight at full draw before finishing that ends as the wanted weight (N)."""
        return self.wanted_weight / ((1 - self.losses.finishing) * (1 - self.losses.shooting))


@dataclass(frozen=True)
class Balance:
    """How the limbs stand to each other at the finished bow's brace height.

    Attributes:
        gap: upper less lower gap at the fades (m).
        spread: one standard deviation of it.
        wanted: low and high end (m).
        stiffer: the limb to take wood from, or nothing when the gap is within what is wanted.
        by: how much stiffer it is than it should be against the other, as a share.
        ratio_wanted: log of upper over lower stiffness, relative to the grid, that gives the middle of wanted.
    """

    gap: float
    spread: float
    wanted: tuple[float, float]
    stiffer: Literal["", "upper", "lower"]
    by: float
    ratio_wanted: float

    @property
    def ahead(self) -> Literal["", "upper", "lower"]:
        """The limb that bends more than it should against the other."""
        return {"": "", "upper": "lower", "lower": "upper"}[self.stiffer]  # type: ignore[return-value]


@dataclass(frozen=True)
class Removal:
    """Wood to take from one limb, evenly from fade to nock: mean thickness (m) and share of the thickness."""

    limb: Literal["upper", "lower"]
    thickness: float
    share: float


@dataclass(frozen=True)
class Advice:
    """The next act.

    Attributes:
        act: exercise, take, balance (take from one limb although it costs weight), pull (further), or stop.
        removals: what to take.
        pulls: short pulls to give first (exercise) or afterwards.
        weight_after: at full draw after the removals (N).
        gap_after: upper less lower gap after the removals (m).
    """

    act: Literal["exercise", "take", "balance", "pull", "stop"]
    removals: tuple[Removal, ...]
    pulls: int
    weight_after: float
    gap_after: float


def balance(limbs: LimbGrid, bow: Bow, estimate: Estimate, fingers: str) -> Balance:
    """Compare the limbs by the gaps they would have at full brace.

    Args:
        limbs: grid of the expected bow.
        bow: with the finished brace height.
        estimate: of the limbs' stiffness.
        fingers: a key of GAP_WANTED.
    """
    low, high = GAP_WANTED[fingers]
    difference = _gap_differences(limbs, bow, RATIOS)
    # a stiffer upper limb has the smaller upper gap: the difference falls as the ratio rises
    ratio_wanted = float(np.interp(0.5 * (low + high), difference[::-1], RATIOS[::-1]))
    gap = float(np.interp(estimate.ratio, RATIOS, difference))
    slope = float(np.interp(estimate.ratio, RATIOS, np.gradient(difference, RATIOS)))
    spread = abs(slope) * estimate.ratio_spread
    off = estimate.ratio - ratio_wanted
    inside = low - 1e-9 <= gap <= high + 1e-9
    stiffer: Literal["", "upper", "lower"] = "" if inside else ("upper" if off > 0 else "lower")
    return Balance(gap, spread, (low, high), stiffer, float(np.expm1(abs(off))), ratio_wanted)


def _gap_differences(limbs: LimbGrid, bow: Bow, ratios: Floats) -> Floats:
    varied = limbs.stiffened(np.exp(np.stack([0.5 * ratios, -0.5 * ratios]))[..., None])
    braced = statics.brace_bow(varied, bow)
    gaps = brace_gaps(varied, shapes(varied, np.stack([braced.tension] * 2), braced.p).tip)
    return np.asarray(gaps[0] - gaps[1])


def limits(
    limbs: LimbGrid, bow: Bow, estimate: Estimate, outlook: Forecast, plan: Plan, last_draw: float, level: bool
) -> tuple[Limit, Limit]:
    """Pull no further than, and no harder than; each with what binds it.

    Args:
        limbs: grid of the expected bow.
        bow: as in forecast.
        estimate, outlook: of this check.
        plan: what is to be reached.
        last_draw: furthest draw of any check so far (m).
        level: the limbs agree.
    """
    cap = Limit(plan.wanted_weight, "wanted weight")
    if plan.beginner and not plan.braced:
        cap = Limit(BEGINNER_SHARE * plan.wanted_weight, "beginner's share")
    harder = [cap, *(Limit(g.rating / g.times, "gear", g.name) for g in plan.gear)]
    hardest = min(harder, key=lambda limit: limit.value)
    further = [Limit(plan.full_draw, "full draw"), Limit(_draw_at(outlook, hardest.value), hardest.why, hardest.gear)]
    if plan.school == "D":
        step = DRAW_STEP if level else 0.0
        further.append(Limit(max(last_draw, float(outlook.draws[0])) + step, "next inch" if level else "shape"))
    strained = _draw_at_strain(limbs, bow, estimate, outlook.draws, plan.strain_limit)
    further.append(Limit(strained, "strain"))
    return min(further, key=lambda limit: limit.value), hardest


def _draw_at(outlook: Forecast, weight: float) -> float:
    """Draw at which the upper end of the forecast reaches a weight; the last draw if it does not."""
    return float(np.interp(weight, outlook.high, outlook.draws))


def _draw_at_strain(limbs: LimbGrid, bow: Bow, estimate: Estimate, draws: Floats, limit: float) -> float:
    now = limbs.stiffened(stiffness_factors(estimate))
    braced = statics.brace_bow(now, bow)
    many = now.repeated(draws.size)
    drawn = statics.draw(many, bow.hold, statics.repeated(braced, draws.size), draws)
    strain = surface_strain(shapes(many, drawn.tension, drawn.p)).max(axis=(0, 2))
    return float(np.interp(limit, np.maximum.accumulate(strain), draws))


def advise(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    outlook: Forecast,
    stand: Balance,
    plan: Plan,
    last_draw: float,
    pulls: int | None,
) -> Advice:
    """Say what to do next.

    Args:
        limbs, bow, estimate, outlook: of this check.
        stand: the balance of the limbs.
        plan: what is to be reached.
        last_draw: furthest draw a weight was read at (m).
        pulls: short pulls given since wood last came off, or None if none has come off.
    """
    weight = outlook.now.middle
    if pulls is not None and pulls < ENOUGH_PULLS:
        return Advice("exercise", (), PULLS_AFTER_REMOVAL - pulls, weight, stand.gap)
    fair = FAIR_PART - min(0.3, 2.0 * max(estimate.common_spread, estimate.ratio_spread))
    depth = np.median(limbs.depth[:, 0], axis=-1)
    ratio = stand.ratio_wanted if stand.stiffer else estimate.ratio
    common = estimate.common + min(0.0, float(np.log(plan.stop_at / weight)))
    act: Literal["take", "balance"] = "take"
    wanted = np.exp(common + np.array([0.5, -0.5]) * ratio)
    now = np.array([estimate.upper, estimate.lower])
    if stand.stiffer and weight <= plan.stop_at * 1.005:
        # at weight already: only the stiffer limb gives, down to its share of the other
        act = "balance"
        wanted = now.copy()
        k = 0 if stand.stiffer == "upper" else 1
        wanted[k] = now[1 - k] * np.exp(ratio if k == 0 else -ratio)
    share = fair * np.maximum(0.0, 1 - np.cbrt(np.minimum(wanted / now, 1.0)))
    share[share < LEAST_SHARE] = 0.0
    if not share.any():
        done = last_draw >= plan.full_draw - 0.5 * DRAW_STEP and weight <= plan.stop_at * 1.03
        return Advice("stop" if done else "pull", (), 0, weight, stand.gap)
    after = now * (1 - share) ** 3
    factor = after[:, None, None]
    thinner = limbs.stiffened(factor)
    braced = statics.brace_bow(thinner, bow)
    drawn = statics.draw(thinner, bow.hold, braced, np.array([plan.full_draw]))
    gap = float(_gap_differences(limbs, bow, np.array([float(np.log(after[0] / after[1]))]))[0])
    sides: tuple[Literal["upper", "lower"], Literal["upper", "lower"]] = ("upper", "lower")
    removals = tuple(Removal(side, float(s * d), float(s)) for side, s, d in zip(sides, share, depth, strict=True) if s > 0)
    return Advice(act, removals, PULLS_AFTER_REMOVAL, float(drawn.weight[0]), gap)
