"""A finished bow's figures: several shots, one slow pull, energy and efficiency with their bands,
and what its forecasts come to against them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.errors import DescriptionError
from bowyery.mechanics.curve import Curve

SHOT_SPREAD = 0.012  # of one shot's speed, by hand and chronograph, where one alone was read
WEIGHT_ERROR = 0.012  # of a scale, as a share
ODD_ONE = 4.0  # deviations from the others
NINETY = 1.645


@dataclass(frozen=True)
class Several:
    """Several readings of one thing.

    Attributes:
        deviation: of one shot (m/s).
        error: of their mean (m/s).
        mean: of those that fit.
        odd: numbers of those that do not.
    """

    mean: float
    deviation: float
    error: float
    count: int
    odd: tuple[int, ...] = ()


def several(values: Sequence[float], usual: float = SHOT_SPREAD) -> Several:
    """Mean and spread of a few readings; the usual spread counts as three further ones, so that two
    alike are no miracle.

    Args:
        values: what was measured, all above zero.
        usual: deviation of one, as a share.

    Raises:
        DescriptionError: no reading, or one that is not above zero.
    """
    table = np.asarray(values, float)
    if table.size == 0 or not np.all(np.isfinite(table)) or np.any(table <= 0):
        raise DescriptionError("Give readings above zero.", "values")
    odd = _odd(table, usual)
    kept = np.delete(table, odd)
    mean = float(kept.mean())
    squares = 3 * (usual * mean) ** 2 + float(((kept - mean) ** 2).sum())
    deviation = math.sqrt(squares / (3 + kept.size - 1))
    return Several(mean, deviation, deviation / math.sqrt(kept.size), kept.size, tuple(odd))


def _odd(table: np.ndarray, usual: float) -> list[int]:
    if table.size < 3:
        return []
    middle = float(np.median(table))
    wide = max(usual * middle, 1.4826 * float(np.median(np.abs(table - middle))))
    found = [k for k in range(table.size) if abs(table[k] - middle) > ODD_ONE * wide]
    return found if len(found) < table.size / 2 else []


@dataclass(frozen=True)
class Pulled:
    """One slow pull against the bow's curve.

    Attributes:
        scale: weights over those of the curve.
        error: one deviation of that, as a share.
        energy: stored at full draw (J), and one deviation (J).
        odd: numbers of the readings that do not fit.
    """

    scale: float
    error: float
    energy: tuple[float, float]
    odd: tuple[int, ...]


def pulled(curve: Curve, reads: Sequence[tuple[float, float]]) -> Pulled:
    """Scale a bow's curve to the weights of a slow pull; forces of bows of one shape go with their
    stiffness.

    Args:
        curve: of the bow, to its full draw.
        reads: draw to the pivot (m) and weight (N).

    Raises:
        DescriptionError: no reading, or one beyond the curve.
    """
    if not reads:
        raise DescriptionError("Read a weight at a draw.", "pull")
    draws, weights = np.asarray(reads, float).T
    model = curve.drawn
    low, high = float(model.draw[0]), float(model.draw[-1])
    if np.any(weights <= 0) or np.any(draws < low - 0.005) or np.any(draws > high + 0.03):
        raise DescriptionError("Each weight was read between brace and full draw.", "pull")
    told = np.interp(draws, model.draw, model.weight)
    steep = np.gradient(model.weight, model.draw)
    # a draw is read to 4 mm, a scale to its share
    errors = np.hypot(WEIGHT_ERROR, np.interp(draws, model.draw, steep) * 0.004 / told)
    ratios = weights / told
    middle = float(np.median(ratios))
    odd = [k for k in range(ratios.size) if ratios.size > 2
           and abs(ratios[k] - middle) > ODD_ONE * errors[k]]  # fmt: skip
    keep = np.array([k not in odd for k in range(ratios.size)])
    inverse = 1 / errors[keep] ** 2
    scale = float((ratios[keep] * inverse).sum() / inverse.sum())
    # a scale that is off is off in all readings alike
    error = math.hypot(float(inverse.sum() ** -0.5), WEIGHT_ERROR / 2)
    whole = float(curve.energy[-1]) * scale
    return Pulled(scale, error, (whole, whole * error), tuple(odd))


def stored_at(curve: Curve, weight: float) -> float:
    """Energy stored from brace to full draw by a bow that pulls another weight than its curve.

    The forces of two bows of one shape go with their stiffness, so that energy goes with weight.

    Args:
        weight: measured at full draw (N).

    Returns:
        The energy (J).
    """
    return float(curve.energy[-1]) * weight / float(curve.drawn.weight[-1])


def efficiency(arrow: float, speed: float, energy: float) -> float:
    """Share of the stored energy that an arrow takes along: ``½ m v² / E``.

    Args:
        arrow: its mass (kg).
        speed: as it left the string (m/s).
        energy: stored (J).

    Returns:
        The share.
    """
    return 0.5 * arrow * speed**2 / energy


def efficiency_band(
    arrow: float, speed: Several, energy: tuple[float, float]
) -> tuple[float, float, float]:
    """The same with its band of 90 %.

    Args:
        arrow: its mass (kg).
        speed: of several shots (m/s).
        energy: stored, and one deviation (J).

    Returns:
        Least, middle and greatest share.
    """
    middle = efficiency(arrow, speed.mean, energy[0])
    wide = NINETY * math.hypot(2 * speed.error / speed.mean, energy[1] / energy[0])
    return middle * math.exp(-wide), middle, middle * math.exp(wide)


@dataclass(frozen=True)
class Against:
    """A forecast against what was measured.

    Attributes:
        low, middle, high: forecast, its band of 90 %.
        measured: in the same unit (SI).
    """

    what: str
    low: float
    middle: float
    high: float
    measured: float

    @property
    def held(self) -> bool:
        """Whether the band held."""
        return self.low <= self.measured <= self.high

    @property
    def off(self) -> float:
        """Measured over forecast (SI)."""
        return self.measured - self.middle

    @property
    def miss(self) -> float:
        """The same by the half of the band on its side: within one either way, the band held."""
        half = self.high - self.middle if self.off > 0 else self.middle - self.low
        return self.off / half if half > 0 else 0.0


def implied(speeds: Callable[[float], float], measured: float, most: float = 0.4) -> float | None:
    """The share of the energy that a bow's limbs keep, from the speed of its arrow.

    Args:
        speeds: arrow speed by that share (m/s), falling.
        measured: speed (m/s).
        most: no limb keeps more.

    Returns:
        The share; None where no share explains the speed.
    """
    shares = np.linspace(0.0, most, 5)
    told = np.array([speeds(float(share)) for share in shares])
    if not told[-1] <= measured <= told[0]:
        return None
    return float(np.interp(-measured, -told, shares))
