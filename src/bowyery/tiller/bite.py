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
from dataclasses import dataclass, replace

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
STROKES_DIFFER = 0.3  # by which one stroke differs from the next
STRANGE_SPREAD = 0.9  # of a tool that nothing is known of


@dataclass(frozen=True)
class Bite:
    """What is known of a tool's bite in a wood.

    Attributes:
        thickness: middle thickness of one stroke (m).
        spread: one deviation of its logarithm.
        weight: how surely passes showed it by themselves: sum of their inverse variances (1/m²).
        told: sum of what they showed, each by its inverse variance (1/m).
    """

    thickness: float
    spread: float
    weight: float = 0.0
    told: float = 0.0

    @property
    def shown(self) -> tuple[float, float] | None:
        """What passes showed without what was believed before: thickness of one stroke and its
        error (m), below zero too where readings scatter; None without any.
        """
        return (self.told / self.weight, self.weight**-0.5) if self.weight > 0 else None

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


LEAST_HUNGER = 0.2  # of what such tools usually take: blunt, and hardly pressed


def hungry(tool: Tool, times: float, spread: float) -> Tool:
    """A tool whose bite is known as so many times what such tools usually take.

    Args:
        spread: one deviation of that.
    """
    times = max(times, LEAST_HUNGER)
    return replace(tool, hunger=math.log(times), spread=min(spread / times, STRANGE_SPREAD))


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
    """A bite after one more pass has been seen: the most likely one, by Gauss and Newton on its
    logarithm.

    What was seen counts whichever way it is off, below zero too; passes that happen to seem large
    would otherwise say more than those that seem small.

    Args:
        taken: thickness they took by the next check (m).
        spread: standard error of that thickness (m).

    Raises:
        EstimateError: no strokes.
    """
    if strokes < 1:
        raise EstimateError("Count at least one stroke.")
    if not (spread > 0 and math.isfinite(taken) and math.isfinite(spread)):
        return bite
    first = now = math.log(bite.thickness)
    old, step = bite.spread**-2, 1.0
    new = error = 0.0
    for _ in range(20):
        told = strokes * math.exp(now)
        # strokes differ among themselves, so that a pass of many tells more
        error = math.hypot(spread, STROKES_DIFFER * told / math.sqrt(strokes))
        new = (told / error) ** 2
        step = (new * (taken / told - 1) - old * (now - first)) / (old + new)
        now += max(-0.3, min(0.3, step))
        if abs(step) < 1e-6:
            break
    weight = (strokes / error) ** 2
    return Bite(
        math.exp(now), (old + new) ** -0.5, bite.weight + weight,
        bite.told + weight * taken / strokes,
    )  # fmt: skip


def strokes_for(bite: Bite, thickness: float) -> int:
    """Strokes that take a thickness (m), rounded down so as not to take more; at least one where
    any is to come off.

    Args:
        thickness: at the stations (m).
    """
    return max(1, math.floor(thickness / bite.thickness + 0.25)) if thickness > 0 else 0
