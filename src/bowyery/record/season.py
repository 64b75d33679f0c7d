"""A season's figures: how far bows missed what was wanted, and how often bands held."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.errors import DescriptionError

NINETY = 1.645


@dataclass(frozen=True)
class Missed:
    """How far several bows missed a figure.

    Attributes:
        mean: miss, over what was wanted (in its own unit).
        deviation: between bows; 0 of one.
        worst: the largest miss, with its sign.
    """

    count: int
    mean: float
    deviation: float
    worst: float


def missed(values: Sequence[float]) -> Missed | None:
    """Sum up misses.

    Args:
        values: each over what was wanted (any one unit).

    Returns:
        Their summary (in that unit), or None without any.

    Raises:
        DescriptionError: one that is no number.
    """
    table = np.asarray(values, float)
    if table.size == 0:
        return None
    if not np.all(np.isfinite(table)):
        raise DescriptionError("A miss is a number.", "values")
    spread = float(table.std(ddof=1)) if table.size > 1 else 0.0
    return Missed(table.size, float(table.mean()), spread, float(table[np.argmax(np.abs(table))]))


@dataclass(frozen=True)
class Held:
    """How often bands held.

    Attributes:
        low, high: between which the share lies, nine times in ten.
    """

    held: int
    count: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """That held."""
        return self.held / self.count


def held(those: Sequence[bool]) -> Held | None:
    """Share of bands that held, with what so few allow to be said of it (the score interval of
    Wilson 1927, Journal of the American Statistical Association 22).

    Returns:
        The share and its interval, or None without any.
    """
    count = len(those)
    if count == 0:
        return None
    good = sum(those)
    share, z2 = good / count, NINETY**2
    middle = (share + z2 / (2 * count)) / (1 + z2 / count)
    wide = NINETY * math.sqrt(share * (1 - share) / count + z2 / (4 * count**2)) / (1 + z2 / count)
    return Held(good, count, max(0.0, middle - wide), min(1.0, middle + wide))
