"""The chance of a pull: how likely it breaks the bow, and how much it sets it.

Wood of one stave is stronger or weaker than the book's by one factor, and a place that is not well
known may bend more than it is taken to. Both are normal in the logarithm, so that the chance of a
place is that of ``log(bend at breaking / bend) + book`` falling below zero; the worst place counts,
since all share the wood's strength.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import erf, inf, log, sqrt

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import thinning
from bowyery.errors import SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import bend_limits
from bowyery.tiller.estimate import PLACES, Estimate, at_nodes, few_cells
from bowyery.tiller.kinds.edge import EDGE_ERROR

# Sound staves that somebody chose bear more than the book's mean of all wood, by so much in the
# log, and differ by so much from one another.
CHOSEN, STRENGTH_SPREAD = 0.12, 0.1
# A limb's worst inch bends further than the mean of the place it lies in, which is all readings
# tell: by so much in the log, and from limb to limb by so much more or less.
ROUGH, ROUGH_SPREAD = 0.1, 0.08
SPAN = 0.15  # of the straight edge that one more reading would be laid with (m)


@dataclass(frozen=True)
class Chance:
    """What a pull may do.

    Attributes:
        breaks: how likely it breaks the bow.
        least, most: what that would become if one more reading at the worst place came out well, or
            ill, by one deviation of what it may tell.
        limb, at: that place, from its root (m).
        sets: how much further the tips will follow for it, in the mean (m).
    """

    breaks: float
    least: float
    most: float
    limb: Side
    at: float
    sets: float


def _normal(off: float, spread: float) -> float:
    return 0.5 * (1 + erf(-off / spread / sqrt(2)))


def _below(off: float, first: float, spread: float) -> float:
    """The chance that it breaks at one margin, having borne another (both in the log)."""
    borne = _normal(first, spread)
    return max(0.0, _normal(off, spread) - borne) / max(1 - borne, 1e-9)


def _bend(limbs: LimbGrid, bow: Bow, braced: statics.Braced, draw: float) -> Floats:
    drawn = statics.draw(limbs, bow.hold, braced, np.array([draw]))
    return np.abs(shapes(limbs, drawn.tension, drawn.p).bend[:, 0])


def chance_of(
    limbs: LimbGrid, bow: Bow, now: Estimate, draw: float, new_set: Floats, borne: float = 0.0
) -> Chance | None:
    """The chance of a pull; None where the bow cannot be drawn so, or nothing is known to break it.

    Args:
        limbs: with the natural bend as estimated.
        bow: with the string that is on.
        draw: from nocking point to pivot (m).
        new_set: curvature that stays for it and has not stayed yet, at the places of natural bend,
            ``(2, CROOKS)`` (1/m).
        borne: draw at which limbs as these have been bent so far already (m): wood that has borne
            it bears it again.
    """
    few = few_cells(limbs)
    stiff = few.stiffened(np.exp(at_nodes(now.field, few))[:, None])
    try:
        braced = statics.brace_bow(stiff, bow)
        least = float(braced.least_draw[0])
        if draw <= least:
            return None
        bends = [_bend(stiff, bow, braced, at) for at in (draw, min(draw, borne)) if at > least]
    except SolveError:
        return None
    bend = bends[0]
    law = thinning(bow, few, np.linspace(0.0, 1.0, PLACES))
    limit = bend_limits(bow, few).rupture / at_nodes(law.standing(now.field) / law.depth, few)
    if not np.isfinite(limit).any():
        return None
    spread = at_nodes(now.spread, few)
    spare = np.log(limit / np.maximum(bend, 1e-9)) + CHOSEN - ROUGH
    wood = float(np.hypot(STRENGTH_SPREAD, ROUGH_SPREAD))
    both = np.hypot(wood, spread)
    side, node = np.unravel_index(int((spare / both).argmin()), spare.shape)
    first = inf
    if len(bends) > 1:
        first = float(spare[side, node] + np.log(bend[side, node] / bends[1][side, node]))
    off, own, there = (float(v[side, node]) for v in (spare, spread, bend))
    error = EDGE_ERROR / max(there * SPAN**2 / 8, 1e-6)
    left = own * error / float(np.hypot(own, error))
    moved, after = sqrt(max(0.0, own**2 - left**2)), float(np.hypot(wood, left))
    lever = few.length[:, 0, None] * (1 - np.linspace(0, 1, new_set.shape[1]))
    step = few.length[:, 0, None] / (new_set.shape[1] - 1)
    sets = float(np.mean(np.trapezoid(new_set * lever, axis=1) * step[:, 0]))
    return Chance(
        _below(off, first, float(both[side, node])),
        _below(off + moved, first + moved, after),
        _below(off - moved, first - moved, after),
        SIDES[side],
        float(few.places()[side, 0, node]),
        sets,
    )


def odds(chance: float) -> str:
    """A chance as makers say it: one in so many."""
    if chance < 1 / 500:
        return "less than 1 in 500"
    if chance > 0.4:
        return "more likely than not" if chance > 0.5 else "about 1 in 2"
    many = 1 / chance
    step = 10 ** max(0, int(log(many, 10) - 0.3)) if many > 10 else 1
    return f"about 1 in {round(many / step) * step:.0f}"
