"""Readings taken on the tree, and what a model of the bow would read at the same places."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from bowyery import statics
from bowyery.bow import Bow, LimbGrid
from bowyery.elastica import SIDES as SIDES_ALONG
from bowyery.elastica import shapes
from bowyery.errors import EstimateError
from bowyery.section import Floats
from bowyery.units import INCH, POUND_FORCE

Kind = Literal["weight", "gap", "tip height"]
Side = Literal["", "upper", "lower"]
SIDES: tuple[Side, Side] = ("upper", "lower")

# What a careful maker's readings are worth, one standard deviation: a spring scale read on the tree, the draw
# marks beside it, a rule held against the string, tips against a level line.
WEIGHT_ERROR = 0.5 * POUND_FORCE
WEIGHT_ERROR_SHARE = 0.01
DRAW_ERROR = INCH / 8
GAP_ERROR = INCH / 32
TIP_ERROR = INCH / 16


@dataclass(frozen=True)
class Reading:
    """One reading.

    Attributes:
        kind: weight (N), gap from string to belly at the fade at brace (m), or tip height: how far the nock has
            come down from its unbraced place, along the line of draw (m).
        value: in SI.
        limb: upper or lower for gaps and tip heights.
        draw: from pivot to nocking point (m); None means at brace.
    """

    kind: Kind
    value: float
    limb: Side = ""
    draw: float | None = None


@dataclass(frozen=True)
class Model:
    """What the model reads, for a batch of stiffness ratios: arrays ``(B, readings)`` at unit common stiffness.

    Attributes:
        ratios: natural logarithm of upper over lower stiffness, ``(B,)``.
        values: predicted readings; weights scale with the common stiffness, the others do not.
        slopes: of weight by draw (N/m), zero for the others.
    """

    ratios: Floats
    values: Floats
    slopes: Floats


def check_readings(readings: tuple[Reading, ...]) -> None:
    """Refuse readings that cannot be used; raises EstimateError."""
    if not readings:
        raise EstimateError("Write down at least one weight at a draw.")
    for reading in readings:
        if reading.kind == "weight" and reading.draw is None:
            raise EstimateError("A weight needs the draw it was read at.")
        if reading.kind != "weight" and reading.limb not in SIDES:
            raise EstimateError("Say which limb the reading is of, upper or lower.")


def model(limbs: LimbGrid, bow: Bow, readings: tuple[Reading, ...], ratios: Floats) -> Model:
    """Predict readings of a bow whose limbs' stiffness ratio differs from the grid's.

    Common stiffness does not enter: when both limbs grow stiffer alike, the shapes at a draw stay and the
    forces grow in proportion.

    Args:
        limbs: grid of one bow.
        bow: for its hold and string.
        readings: what was read.
        ratios: log of upper over lower stiffness relative to the grid, ``(B,)``.
    """
    check_readings(readings)
    count = ratios.size
    varied = limbs.stiffened(np.exp(np.stack([0.5 * ratios, -0.5 * ratios]))[..., None])
    braced = statics.brace_bow(varied, bow)
    values, slopes = np.zeros((count, len(readings))), np.zeros((count, len(readings)))
    if not braced.slack:
        at_brace = shapes(varied, np.stack([braced.tension] * 2), braced.p)
        gaps = brace_gaps(varied, at_brace.tip)
    elif any(r.draw is None for r in readings):
        raise EstimateError("Gaps at brace need a braced bow; the string is longer than the bow.")
    draws = sorted({r.draw for r in readings if r.draw is not None})
    step = 0.002
    if draws:
        asked = np.array(draws)
        both = np.concatenate([asked, asked + step])
        many = varied.repeated(both.size)
        drawn = statics.draw(many, bow.hold, statics.repeated(braced, both.size), np.tile(both, count))
        weight = drawn.weight.reshape(count, 2, asked.size)
        bent = shapes(many, drawn.tension, drawn.p)
        # height along the line of draw: the bow turns on the tree until the rope is plumb
        turn = np.cos(drawn.tilt), np.sin(drawn.tilt)
        rest_y = _rest_tips(limbs)
        px, py = bow.hold.pivot
        fallen = [(turn[0] * (bent.tip[1, k] - py) + turn[1] * (bent.tip[0, k] - px)) - (rest_y[k] - py) for k in (0, 1)]
        heights = [f.reshape(count, 2, asked.size) for f in fallen]
    for column, reading in enumerate(readings):
        if reading.kind == "weight":
            k = draws.index(reading.draw)  # type: ignore[arg-type]
            values[:, column] = weight[:, 0, k]
            slopes[:, column] = (weight[:, 1, k] - weight[:, 0, k]) / step
            continue
        side = SIDES.index(reading.limb)
        if reading.kind == "gap":
            values[:, column] = gaps[side]
        elif reading.draw is None:
            values[:, column] = at_brace.tip[1, side] - _rest_tips(limbs)[side]
        else:
            values[:, column] = heights[side][:, 0, draws.index(reading.draw)]
    return Model(ratios, values, slopes)


def _rest_tips(limbs: LimbGrid) -> Floats:
    still = np.zeros((2, limbs.batch))
    return np.asarray(shapes(limbs, still, still).tip[1, :, 0])


def brace_gaps(limbs: LimbGrid, tip: Floats) -> Floats:
    """Gap from the braced string to the belly at the end of each fade, square to the handle, ``(2, B)`` (m).

    Args:
        limbs: the grid.
        tip: nock positions at brace, ``(2, 2, B)``: along/across, limb.
    """
    (xu, xl), (yu, yl) = tip[0], tip[1]
    along = limbs.root[..., 0] * SIDES_ALONG
    string = yl + (yu - yl) * (along - xl) / (xu - xl)
    belly = limbs.root[..., 1] + (limbs.depth - limbs.axis)[..., 0]
    return np.asarray(string - belly)
