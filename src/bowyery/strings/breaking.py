"""What a strand bears, from a few that were pulled to breaking.

The low side is a tolerance limit: nineteen strands in twenty bear it, said with odds of three to
one (the one-sided factor of the noncentral t distribution; Hahn and Meeker, Statistical Intervals,
1991, chapter 4). A handful of breaks tells little of their spread, so the book's own spread counts
as four further breaks (a scaled inverse chi-squared belief: Gelman and others, Bayesian Data
Analysis, 2013, chapter 3). That makes even one break worth something, and three alike no miracle.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.errors import DescriptionError
from bowyery.wood.materials import Fibre

SHARE, ODDS = 0.95, 0.75
BOOK_TESTS = 4.0
NATURAL_SPREAD, SMOOTH_SPREAD = 0.14, 0.05  # of breaks of one thread, as a share of their mean
ODD_ONE = 4.0  # so many spreads from the others, a break is looked at again


@dataclass(frozen=True)
class Bears:
    """What a strand bears.

    Attributes:
        tests: pulled to breaking; 0 where only the table speaks.
        mean: of them (N), or the table's.
        spread: one deviation, the book's counted in (N).
        low: the safe side (N).
        odd: numbers of the breaks that do not fit the others.
    """

    tests: int
    mean: float
    spread: float
    low: float
    odd: tuple[int, ...] = ()


def factor(tests: int) -> float:
    """How many deviations below the mean the low side lies.

    Args:
        tests: pulled to breaking, one at least.
    """
    if tests < 1:
        raise DescriptionError("There is no break to go by.", "tests")
    from scipy.stats import nct, norm  # slow to load, and needed only where something was broken

    degrees = BOOK_TESTS + tests - 1
    off = float(norm.ppf(SHARE)) * math.sqrt(tests)
    return float(nct.ppf(ODDS, degrees, off)) / math.sqrt(tests)


def strand_bears(fibre: Fibre, breaks: Sequence[float] = ()) -> Bears:
    """What a strand of a thread bears.

    Args:
        fibre: of the thread, whose table counts where nothing was broken.
        breaks: loads at which strands broke (N).

    Raises:
        DescriptionError: a strand that breaks under nothing, or under a load no thread bears.
    """
    share = NATURAL_SPREAD if fibre.natural else SMOOTH_SPREAD
    if not breaks:
        return Bears(0, fibre.breaking_force, share * fibre.breaking_force, fibre.breaking_force)
    loads = np.asarray(breaks, float)
    if not np.all(np.isfinite(loads)) or np.any(loads <= 0):
        raise DescriptionError("A strand breaks under some load; nothing is no break.", "breaks")
    if np.any(loads > 50 * fibre.breaking_force):
        raise DescriptionError(
            f"That is more than fifty times what a strand of {fibre.name} bears by the book; check"
            " the unit, and whether it was one strand.",
            "breaks",
        )
    return _bears(loads, share)


def _bears(values: np.ndarray, share: float) -> Bears:
    n, mean = values.size, float(values.mean())
    squares = BOOK_TESTS * (share * mean) ** 2 + float(((values - mean) ** 2).sum())
    spread = math.sqrt(squares / (BOOK_TESTS + n - 1))
    low = max(0.0, mean - factor(n) * spread)
    odd = []
    for k in range(n if n > 2 else 0):
        others = np.delete(values, k)
        wide = max(float(others.std(ddof=1)), share * float(others.mean()))
        if abs(values[k] - others.mean()) > ODD_ONE * wide:
            odd.append(k)
    return Bears(n, mean, spread, low, tuple(odd))


@dataclass(frozen=True)
class StripFit:
    """Twisted strips by their width: the load they bear grows with it.

    Attributes:
        each: what a unit of width bears (N/m).
        bears: the same with its spread and low side, as figures of a strip one metre wide (N).
        widths: narrowest and widest that was tested (m).
    """

    bears: Bears
    widths: tuple[float, float]

    @property
    def each(self) -> float:
        """What a unit of width bears (N/m)."""
        return self.bears.mean

    def load(self, width: float) -> float:
        """What a strip so wide (m) bears at the low side (N).

        Args:
            width: of the strip (m).
        """
        return self.bears.low * width


def strip_fit(fibre: Fibre, tests: Sequence[tuple[float, float]]) -> StripFit:
    """Fit what strips bear to their widths: in proportion, as strips of one hide are alike thick.

    Args:
        tests: width (m) and load at which it broke (N) of each.

    Raises:
        DescriptionError: no test, or one without width or load.
    """
    if not tests:
        raise DescriptionError("Break a twisted strip or two first.", "tests")
    table = np.asarray(tests, float)
    if not np.all(np.isfinite(table)) or np.any(table <= 0):
        raise DescriptionError("Each strip has a width and broke under some load.", "tests")
    share = NATURAL_SPREAD if fibre.natural else SMOOTH_SPREAD
    low, high = float(table[:, 0].min()), float(table[:, 0].max())
    return StripFit(_bears(table[:, 1] / table[:, 0], share), (low, high))


def strip_width(fit: StripFit, needed: float, plies: int, keeps: float) -> float:
    """Width of each strip so that so many plies bear what is needed.

    Args:
        needed: breaking force of the string (N).
        keeps: share that laying and loops leave.

    Returns:
        Its width (m).

    Raises:
        DescriptionError: no ply, or tests whose low side is nothing.
    """
    if plies < 1:
        raise DescriptionError("A string has a ply at least.", "plies")
    if fit.bears.low <= 0:
        raise DescriptionError(
            "The strips broke so unevenly that their low side is nothing: test more of them.",
            "tests",
        )
    return needed / (plies * keeps * fit.bears.low)
