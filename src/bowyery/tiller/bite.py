"""How much a tool takes with a stroke, learned from what passes did.

A stroke's bite is the thickness it takes over the stretch it was pulled along (m), on a limb of
usual width. It starts from what such tools usually take and is learned from each pass as the next
check shows it: both are treated as log-normal, so that the answer is a weighted mean of logarithms
(Gelman et al., Bayesian Data Analysis, 2013, section 2.5).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from bowyery.errors import EstimateError

USUAL_WIDTH = 0.035
SOFT_DENSITY = 650.0
# Thickness taken by one stroke over a hand's breadth or more of middling wood (m), and how
# uncertain that is at first:
# workshop figures from nobody's test, to be replaced by what the maker's own passes show.
TOOLS: dict[str, float] = {
    "drawknife": 0.00050,
    "spokeshave": 0.00012,
    "rasp": 0.00010,
    "file": 0.00004,
    "scraper": 0.00002,
    "abrasive paper": 0.00001,
}
FIRST_SPREAD = 0.5


@dataclass(frozen=True)
class Bite:
    """What is known of a tool's bite in a wood: middle thickness of one stroke (m), and the spread
    of its logarithm.
    """

    thickness: float
    spread: float

    @property
    def low(self) -> float:
        """Low end of its range (90 %)."""
        return self.thickness * math.exp(-1.645 * self.spread)

    @property
    def high(self) -> float:
        """High end of its range (90 %)."""
        return self.thickness * math.exp(1.645 * self.spread)


def first_bite(tool: str, density: float, width: float) -> Bite:
    """What a tool may be expected to take before it has been seen.

    A dense wood gives less to a stroke, and a wide limb spreads the same stroke thinner; both in
    proportion.

    Args:
        tool: a key of TOOLS.
        density: of the wood (kg/m³).
        width: of the limb where it works (m).

    Raises:
        EstimateError: an unknown tool, or a figure that is not above zero.
    """
    if tool not in TOOLS:
        raise EstimateError(f"“{tool}” is not a tool known here; use one of {', '.join(TOOLS)}.")
    if not (density > 0 and width > 0 and math.isfinite(density) and math.isfinite(width)):
        raise EstimateError("Density and width must be above zero.")
    return Bite(TOOLS[tool] * SOFT_DENSITY / density * USUAL_WIDTH / width, FIRST_SPREAD)


def learned(bite: Bite, strokes: int, taken: float, spread: float) -> Bite:
    """A bite after one more pass has been seen.

    Args:
        bite: as known before.
        strokes: that were made.
        taken: thickness they took by the next check (m); at or below zero the pass taught nothing.
        spread: standard error of that thickness (m).

    Raises:
        EstimateError: no strokes.
    """
    if strokes < 1:
        raise EstimateError("Count at least one stroke.")
    if not (taken > 0 and spread > 0 and math.isfinite(taken) and math.isfinite(spread)):
        return bite
    # strokes differ among themselves, so that a pass of many tells more
    seen = math.hypot(spread / taken, 0.3 / math.sqrt(strokes))
    old, new = bite.spread**-2, seen**-2
    middle = (old * math.log(bite.thickness) + new * math.log(taken / strokes)) / (old + new)
    return Bite(math.exp(middle), (old + new) ** -0.5)


def strokes_for(bite: Bite, thickness: float) -> int:
    """Strokes that take a thickness (m), rounded down so as not to take more; at least one where
    any is to come off.

    Args:
        bite: as known.
        thickness: at the stations (m).
    """
    return max(1, math.floor(thickness / bite.thickness + 0.25)) if thickness > 0 else 0
