"""How much a tool takes with a stroke, learned from what passes did.

A stroke's bite is the thickness it takes over the stretch it was pulled along (m), on a limb of
usual width. It starts from what such tools usually take and is learned from each pass as the next
check shows it: both are treated as log-normal, so that the answer is a weighted mean of logarithms
(Gelman et al., Bayesian Data Analysis, 2013, section 2.5). What was learned on one bow is carried
to the next as the tool's *hunger*: its bite over what such tools usually take
(:mod:`bowyery.record.learned`).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
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
    "sandpaper": 0.00001,
    "power sander": 0.00015,
}
USUAL_TOOL = "scraper"
FIRST_SPREAD = 0.5
STRANGE_SPREAD = 0.9  # of a tool that nothing is known of


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


@dataclass(frozen=True)
class Tool:
    """A tool of the shop.

    Attributes:
        name: as makers write it.
        like: the usual tool that it takes about as much as.
        hunger: log of its bite over what that tool usually takes, as other bows of the same wood
            showed.
        spread: one deviation of that, or None for what is not known of a usual tool.
    """

    name: str
    like: str = USUAL_TOOL
    hunger: float = 0.0
    spread: float | None = None

    def bite(self, density: float, width: float) -> Bite:
        """What it is expected to take before it has been seen on a bow.

        Args:
            density: of the wood (kg/m³).
            width: of the limb where it works (m).
        """
        usual = first_bite(self.like, density, width)
        strange = FIRST_SPREAD if self.name in TOOLS else 0.6
        spread = strange if self.spread is None else self.spread
        return Bite(usual.thickness * math.exp(self.hunger), spread)


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


def bite_of(name: str, shop: Iterable[Tool], density: float, width: float) -> Bite:
    """What a tool that was named is expected to take: the shop's own, a usual one, or one that
    nothing is known of.

    Args:
        name: as it was written; nothing: the usual one.
        shop: the shop's tools.
        density: of the wood (kg/m³).
        width: of the limb (m).
    """
    name = name or USUAL_TOOL
    for tool in shop:
        if tool.name == name:
            return tool.bite(density, width)
    if name in TOOLS:
        return first_bite(name, density, width)
    return Bite(first_bite(USUAL_TOOL, density, width).thickness, STRANGE_SPREAD)


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
