"""How long a string must be: the bow's own shape, a test cord, and the rule of thumb.

The model knows how brace height goes with string length; a test cord knows this bow. Pairs of
length and brace height shift the model's line to where the bow is, and where they span enough of it
tell whether its slope fits too (weighted least squares with the model as belief beforehand: Gelman
and others, Bayesian Data Analysis, 2013, chapter 14).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import statics
from bowyery.units.quantity import INCH

THUMB = (3 * INCH, 4 * INCH)  # a string is so much shorter than the bow, nock to nock (m)
LENGTH_ERROR, BRACE_ERROR = 0.002, 0.0025  # of a cord under the hand, and of a brace read (m)
MODEL_ERROR, SLOPE_ERROR = 0.008, 0.15  # of the model's length, and of its slope as a share
ODD_ONE = 3.5  # deviations from where the others put it
FIST = (6.0 * INCH, 7.5 * INCH)  # a fist with the thumb up, most hands (m)


@dataclass(frozen=True)
class CordPair:
    """A test cord's length and the brace height it gave (m)."""

    length: float
    brace: float


@dataclass(frozen=True)
class Cord:
    """What a test cord says.

    Attributes:
        length: for the wanted brace height (m).
        error: one deviation of it (m).
        off: how much longer the string has to be than the model says; below zero shorter (m).
        per: rise of the brace by string, as the pairs and the model have it (m per m).
        odd: numbers of the pairs that do not fit the others or the bow.
    """

    length: float
    error: float
    off: float
    per: float
    pairs: int
    odd: tuple[int, ...]


def thumb(bow: Bow) -> tuple[float, float]:
    """The rule of thumb: three to four inches shorter than the bow from nock to nock.

    Returns:
        Shortest and longest (m).
    """
    tips = statics.unbent_nocks(grid(bow))[:, 0]
    apart = float(abs(tips[0] - tips[1]))
    return apart - THUMB[1], apart - THUMB[0]


def from_cord(bow: Bow, brace: float, pairs: Sequence[CordPair]) -> Cord:
    """The string's length for a brace height, by a test cord and the model together.

    Args:
        brace: height that is wanted (m).

    Raises:
        DescriptionError: no pair, or figures that no cord on this bow gives.
        SolveError: what the statics raise.
    """
    if not pairs:
        raise DescriptionError("Brace the bow with the cord once, and read its brace.", "pairs")
    limbs = grid(bow)
    for pair in pairs:
        if not (math.isfinite(pair.length) and math.isfinite(pair.brace)):
            raise DescriptionError("A pair is a length and a brace height.", "pairs")
    heights = np.array([brace, *(pair.brace for pair in pairs)])
    model = np.array([
        float(statics.brace(limbs, bow.hold, np.array([h])).string_length[0]) for h in heights
    ])  # fmt: skip
    step = 0.004
    near = float(statics.brace(limbs, bow.hold, np.array([brace + step])).string_length[0])
    slope = (near - float(model[0])) / step  # of length by brace, below zero
    residual = np.array([pair.length for pair in pairs]) - model[1:]
    aside = heights[1:] - brace
    error = math.hypot(LENGTH_ERROR, slope * BRACE_ERROR)
    odd = _odd(residual, aside, slope, error)
    keep = np.array([k not in odd for k in range(len(pairs))])
    if not keep.any():
        raise DescriptionError(
            "No pair fits this bow: the cord's length or the brace is mistyped.", "pairs"
        )
    # unknown: a shift of the line, and a share of its slope
    rows = np.stack([np.ones(keep.sum()), slope * aside[keep]], 1) / error
    weight = rows.T @ rows + np.diag([MODEL_ERROR**-2, SLOPE_ERROR**-2])
    cover = np.linalg.inv(weight)
    off, steeper = cover @ (rows.T @ (residual[keep] / error))
    return Cord(
        float(model[0] + off), float(math.sqrt(cover[0, 0])), float(off),
        float(-1 / (slope * (1 + steeper))), int(keep.sum()), odd,
    )  # fmt: skip


def _odd(residual: Floats, aside: Floats, slope: float, error: float) -> tuple[int, ...]:
    """Pairs far from where the others, or the model where there are no others, put them."""
    if residual.size > 2:
        middle, free = float(np.median(residual)), 0.0
    else:  # of two that differ, the one that the model likes less is doubted
        middle = 0.0 if residual.size == 1 else float(residual[np.argmin(np.abs(residual))])
        free = MODEL_ERROR
    found = []
    for k in range(residual.size):
        wide = math.hypot(error, free, 0.5 * SLOPE_ERROR * slope * float(aside[k]))
        if abs(float(residual[k]) - middle) > ODD_ONE * wide:
            found.append(k)
    return tuple(found)
