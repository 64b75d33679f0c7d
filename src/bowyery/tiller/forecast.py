"""What the bow will weigh: now, after finishing, and after shooting in, each with its range."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery import statics
from bowyery.bow import Bow, LimbGrid
from bowyery.section import Floats
from bowyery.tiller.estimate import Estimate

NINETY = 1.645  # standard deviations either side of the middle for 90 %
# How much the forecast at a draw not yet pulled may be off, per share of the draw still to go, one deviation.
REACH_SPREAD = 0.10


@dataclass(frozen=True)
class Losses:
    """What finishing and shooting in take off the weight, as shares, with one standard deviation each.

    Makers speak of three to five pounds for rounding and sanding on a bow of middling weight, and of a few
    more while it is shot in; the shares here are set to that and are to be replaced by the shop's own.
    """

    finishing: float = 0.045
    finishing_spread: float = 0.015
    shooting: float = 0.04
    shooting_spread: float = 0.015


@dataclass(frozen=True)
class Band:
    """A middle figure with the ends of its 90 % range."""

    middle: float
    low: float
    high: float


@dataclass(frozen=True)
class Forecast:
    """Weight at full draw (N), and the curve: draws (m) with middle, low and high weight (N)."""

    now: Band
    finished: Band
    final: Band
    draws: Floats
    weights: Floats
    low: Floats
    high: Floats


def stiffness_factors(estimate: Estimate) -> Floats:
    """Stiffness of upper and lower limb against the expectation, ``(2, 1, 1)`` for LimbGrid.stiffened."""
    return np.array([estimate.upper, estimate.lower])[:, None, None]


def forecast(limbs: LimbGrid, bow: Bow, estimate: Estimate, full_draw: float, last_draw: float, losses: Losses) -> Forecast:
    """Forecast the weight at full draw and the curve up to it.

    Args:
        limbs: grid of the expected bow.
        bow: with the brace height the finished bow will have.
        estimate: of the limbs' stiffness.
        full_draw: (m).
        last_draw: furthest draw a weight was read at (m); beyond it the range widens.
        losses: of finishing and shooting in.

    Raises:
        SolveError: the bow cannot be braced or drawn so far.
    """
    now = limbs.stiffened(stiffness_factors(estimate))
    braced = statics.brace_bow(now, bow)
    start = float(braced.least_draw[0])
    draws = np.linspace(start * (1 + 1e-9), full_draw, 24)
    drawn = statics.draw(now.repeated(draws.size), bow.hold, statics.repeated(braced, draws.size), draws)
    to_go = np.maximum(0.0, draws - max(last_draw, start)) / full_draw
    spread = NINETY * np.hypot(estimate.common_spread, REACH_SPREAD * to_go)
    weight = drawn.weight
    middle = float(weight[-1])

    def band(keep: float, extra: float) -> Band:
        width = float(np.hypot(spread[-1], NINETY * extra))
        return Band(middle * keep, middle * keep * (1 - width), middle * keep * (1 + width))

    finished = 1 - losses.finishing
    final = finished * (1 - losses.shooting)
    return Forecast(
        band(1.0, 0.0),
        band(finished, losses.finishing_spread),
        band(final, float(np.hypot(losses.finishing_spread, losses.shooting_spread))),
        draws,
        weight,
        weight * (1 - spread),
        weight * (1 + spread),
    )
