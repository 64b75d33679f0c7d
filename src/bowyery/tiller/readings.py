"""Readings taken on the tree, and what a model of the bow would read at the same places.

Any kind may be mixed with any other. Places along a limb count from its root (the end of the fade), draws from pivot to
nocking point; without a draw a reading is taken braced, or hanging on a long string.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bowyery import statics
from bowyery.bow import Bow, LimbGrid
from bowyery.elastica import SIDES as SIDES_ALONG
from bowyery.elastica import Shapes, shapes
from bowyery.errors import EstimateError
from bowyery.section import Floats
from bowyery.units import INCH, POUND_FORCE

Kind = Literal[
    "weight", "gap", "deepest gap", "deepest place", "tip height", "tip travel", "offset", "outline", "straight edge",
    "thickness", "width", "tilt",
]  # fmt: skip
Side = Literal["", "upper", "lower"]
SIDES: tuple[Side, Side] = ("upper", "lower")

# What a careful maker's readings are worth, one standard deviation: a spring scale read on the tree, the draw
# marks beside it, a rule held against the string, tips against a level line.
WEIGHT_ERROR = 0.5 * POUND_FORCE
WEIGHT_ERROR_SHARE = 0.01
DRAW_ERROR = INCH / 8
GAP_ERROR = INCH / 32
TIP_ERROR = INCH / 16
ERRORS: dict[str, float] = {
    "weight": WEIGHT_ERROR,
    "gap": GAP_ERROR,
    "deepest gap": GAP_ERROR,
    "deepest place": 1.5 * INCH,
    "tip height": TIP_ERROR,
    "tip travel": 1.4 * TIP_ERROR,
    "offset": INCH / 32,
    "outline": INCH / 8,
    "straight edge": 0.00025,
    "thickness": 0.0002,
    "width": 0.0004,
    "tilt": np.radians(0.5),
}
WHOLE_BOW = ("weight", "tilt")
SIZES = ("thickness", "width")
# The wood itself varies, so a measured size says less of the stiffness than its own error would: in log stiffness.
WOOD_VARIES = 0.12


@dataclass(frozen=True)
class Reading:
    """One reading.

    Attributes:
        kind:

            - ``weight``: on the scale at a draw (N)
            - ``gap``: from the braced string to the belly at a place, at the fade without one (m)
            - ``deepest gap``, ``deepest place``: the greatest such gap of a limb (m), and where it is from the root (m)
            - ``tip height``: how far the nock has come down from its unbraced place, along the line of draw (m)
            - ``tip travel``: how much further it comes down from the draw ``span`` to this one (m)
            - ``offset``: of the limb's middle line at a place from the straight line between its root and its nock (m)
            - ``outline``: a traced point: how far below the unbraced root the limb stands, ``at`` this far out along
              the handle axis from the root (m)
            - ``straight edge``: greatest gap under an edge ``span`` long laid on the belly about a place (m)
            - ``thickness``, ``width``: as measured at a place (m)
            - ``tilt``: of the handle against the line of draw (rad)
        value: in SI.
        limb: upper or lower for all that belong to one.
        draw: from pivot to nocking point (m); None means braced or hanging.
        at: place along the limb from its root (m), where the kind has one.
        span: of a straight edge (m); the earlier draw of a tip's travel (m).
        string: which string was on, a key of the bows the readings are taken with.
        error: one standard deviation, or None for what a careful maker reads.
        drop: share by which a weight sank in a hold before it was read.
    """

    kind: Kind
    value: float
    limb: Side = ""
    draw: float | None = None
    at: float | None = None
    span: float | None = None
    string: str = ""
    error: float | None = None
    drop: float = 0.0

    @property
    def at_once(self) -> float:
        """The value, a weight as it was before it sank in a hold."""
        return self.value / (1 - self.drop) if self.kind == "weight" else self.value


@dataclass(frozen=True)
class Readout:
    """What a batch of bows reads: ``(B, readings)``; slopes of weight by draw (N/m) of the first bow, ``(readings,)``."""

    values: Floats
    slopes: Floats


def check_readings(readings: tuple[Reading, ...]) -> None:
    """Refuse readings that cannot be used; raises EstimateError."""
    if not readings:
        raise EstimateError("Write down at least one weight at a draw.")
    for reading in readings:
        if reading.kind not in ERRORS:
            raise EstimateError(f"“{reading.kind}” is not a kind of reading; use one of {', '.join(ERRORS)}.")
        if not np.isfinite(reading.value):
            raise EstimateError("A reading must be a number.")
        if reading.kind in ("weight", "tilt", "tip travel") and reading.draw is None:
            raise EstimateError(f"A {reading.kind} needs the draw it was read at.")
        if reading.kind not in WHOLE_BOW and reading.limb not in SIDES:
            raise EstimateError("Say which limb the reading is of, upper or lower.")
        if reading.kind in ("offset", "outline", "straight edge", *SIZES) and reading.at is None:
            raise EstimateError(f"The {reading.kind} wants a place along the limb.")
        if reading.kind in ("straight edge", "tip travel") and not (reading.span and reading.span > 0):
            what = "the edge's length" if reading.kind == "straight edge" else "the earlier draw"
            raise EstimateError(f"The {reading.kind} wants {what}.")
        if not 0 <= reading.drop < 0.5:
            raise EstimateError("A weight sinks by less than half in any hold.")
        if reading.error is not None and not reading.error > 0:
            raise EstimateError("An error must be above zero.")


def read(limbs: LimbGrid, bows: Bow | Mapping[str, Bow], readings: tuple[Reading, ...], slopes: bool = False) -> Readout:
    """What a batch of bows reads.

    Args:
        limbs: the batch; sizes read by measure are compared with its first bow's.
        bows: for hold and string: one, or one for each string that was on.
        readings: their values do not enter.
        slopes: also work out how the first bow's weights rise with the draw.

    Raises:
        EstimateError: a reading that cannot be used, or a gap of a bow that hangs on a long string.
        SolveError: a bow cannot be braced or drawn so.
    """
    check_readings(readings)
    values, rise = np.zeros((limbs.batch, len(readings))), np.zeros(len(readings))
    for string in sorted({r.string for r in readings}):
        columns = [k for k, r in enumerate(readings) if r.string == string]
        bow = bows if isinstance(bows, Bow) else bows[string]
        part, up = _read(limbs, bow, tuple(readings[k] for k in columns), slopes)
        values[:, columns], rise[columns] = part, up
    return Readout(values, rise)


def _read(limbs: LimbGrid, bow: Bow, readings: tuple[Reading, ...], slopes: bool) -> tuple[Floats, Floats]:
    count = limbs.batch
    values, rise = np.zeros((count, len(readings))), np.zeros(len(readings))
    draws = sorted({d for r in readings for d in _draws(r) if d is not None})
    still = any(None in _draws(r) for r in readings if r.kind not in SIZES)
    braced = statics.brace_bow(limbs, bow) if draws or still else None
    bent: dict[float | None, Shapes] = {}
    weight: dict[float, Floats] = {}
    tilt: dict[float | None, Floats] = {None: np.zeros(count)}
    if draws and braced is not None:
        asked = np.array(draws)
        drawn = statics.draw(limbs.repeated(asked.size), bow.hold, statics.repeated(braced, asked.size), np.tile(asked, count))
        every = shapes(limbs.repeated(asked.size), drawn.tension, drawn.p)
        for k, d in enumerate(draws):
            bent[d] = every.part(slice(k, None, asked.size))
            weight[d], tilt[d] = drawn.weight[k :: asked.size], drawn.tilt[k :: asked.size]
        if slopes and any(r.kind == "weight" for r in readings):
            one, step = limbs.part(slice(0, 1)), 0.002
            first = statics.repeated(braced.pick(0), asked.size)
            more = statics.draw(one.repeated(asked.size), bow.hold, first, asked + step)
            for column, r in enumerate(readings):
                if r.kind == "weight" and r.draw is not None:
                    rise[column] = (more.weight[draws.index(r.draw)] - weight[r.draw][0]) / step
    if still and braced is not None:
        if braced.slack:
            if any(r.kind in ("gap", "deepest gap", "deepest place") for r in readings):
                raise EstimateError("Gaps at brace need a braced bow; the string is longer than the bow.")
            bent[None] = shapes(limbs, np.zeros((2, count)), np.zeros((2, count)))
        else:
            bent[None] = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
    for column, r in enumerate(readings):
        if r.kind == "weight":
            values[:, column] = weight[r.draw]  # type: ignore[index]
        elif r.kind == "tilt":
            values[:, column] = tilt[r.draw]
        elif r.kind in SIZES:
            values[:, column] = _at(getattr(limbs, "depth" if r.kind == "thickness" else "width"), limbs, r)
        else:
            values[:, column] = _of_shape(limbs, bow, r, bent, tilt)
    return values, rise


def _draws(reading: Reading) -> tuple[float | None, ...]:
    return (reading.span, reading.draw) if reading.kind == "tip travel" else (reading.draw,)


def _at(nodes: Floats, limbs: LimbGrid, reading: Reading, at: float | None = None) -> Floats:
    """Values at a reading's place, from those at the nodes ``(2, B, n+1)``; ``(B,)``."""
    side = SIDES.index(reading.limb)
    place = (reading.at or 0.0) if at is None else at
    share = (place + limbs.grip[side, 0]) / limbs.length[side, 0] * limbs.cells
    low = int(np.clip(np.floor(share), 0, limbs.cells - 1))
    part = float(np.clip(share - low, 0.0, 1.0))
    return np.asarray(nodes[side, :, low] * (1 - part) + nodes[side, :, low + 1] * part)


def _of_shape(
    limbs: LimbGrid, bow: Bow, r: Reading, bent: dict[float | None, Shapes], tilt: dict[float | None, Floats]
) -> Floats:
    """A reading of the bent limb, ``(B,)``."""
    side, here = SIDES.index(r.limb), bent[r.draw]
    if r.kind in ("gap", "deepest gap", "deepest place"):
        if r.kind == "gap":
            return _gaps(limbs, here.tip, here, r)
        along, across = here.along[side], here.across[side] + (limbs.depth - limbs.axis)[side]
        gaps = _string(here.tip, along) - across
        if r.kind == "deepest gap":
            return np.asarray(gaps.max(-1))
        return _peak_place(gaps, limbs.places()[side])
    if r.kind in ("tip height", "tip travel"):
        down = _fallen(limbs, bow, here, tilt[r.draw], side)
        if r.kind == "tip travel":
            down = down - _fallen(limbs, bow, bent[r.span], tilt[r.span], side)
        return np.asarray(down)
    if r.kind == "offset":
        ends = [np.stack([v[side, :, k] for v in (here.along, here.across)]) for k in (0, -1)]
        here_at = np.stack([_at(v, limbs, r) for v in (here.along, here.across)])
        line = ends[1] - ends[0]
        away = here_at - ends[0]
        # towards the back of the straight line from root to nock: as the belly sees a bent limb bulge
        return np.asarray((away[0] * line[1] - away[1] * line[0]) / np.hypot(*line) * SIDES_ALONG[side, 0])
    if r.kind == "outline":
        turned = _turned(bow, here.along[side], here.across[side], tilt[r.draw])
        start = limbs.root[side, 0]
        out = (turned[0] - start[0] * SIDES_ALONG[side, 0]) * SIDES_ALONG[side, 0]
        rows = [np.interp(r.at or 0.0, x, y) for x, y in zip(out, turned[1], strict=True)]
        return np.asarray(np.array(rows) - start[1])
    assert r.kind == "straight edge"
    half = 0.5 * (r.span or 0.0)
    belly = here.across + (limbs.depth - limbs.axis)
    points = [np.stack([_at(v, limbs, r, (r.at or 0.0) + k * half) for v in (here.along, belly)]) for k in (-1, 0, 1)]
    line, away = points[2] - points[0], points[1] - points[0]
    return np.asarray((away[0] * line[1] - away[1] * line[0]) / np.hypot(*line) * SIDES_ALONG[side, 0])


def _turned(bow: Bow, along: Floats, across: Floats, tilt: Floats) -> tuple[Floats, Floats]:
    """Points as they hang: the bow turns on the tree until the rope is plumb."""
    px, py = bow.hold.pivot
    c, s = np.cos(tilt)[:, None], np.sin(tilt)[:, None]
    x, y = along - px, across - py
    return px + c * x - s * y, py + c * y + s * x


def _fallen(limbs: LimbGrid, bow: Bow, here: Shapes, tilt: Floats, side: int) -> Floats:
    tip = _turned(bow, here.tip[0, side][:, None], here.tip[1, side][:, None], tilt)[1][:, 0]
    return np.asarray(tip - _rest_tips(limbs)[side])


def _peak_place(gaps: Floats, places: Floats) -> Floats:
    """Where a row of gaps is greatest, by a parabola through the greatest node and its neighbours."""
    top = np.clip(gaps.argmax(-1), 1, gaps.shape[-1] - 2)
    rows = np.arange(gaps.shape[0])
    a, b, c = (gaps[rows, top + k] for k in (-1, 0, 1))
    bow = a - 2 * b + c
    shift = np.where(np.abs(bow) > 1e-12, np.clip(0.5 * (a - c) / np.where(bow == 0, 1.0, bow), -1, 1), 0.0)
    return np.asarray(places[rows, top] + shift * (places[:, 1] - places[:, 0]))


def _rest_tips(limbs: LimbGrid) -> Floats:
    still = np.zeros((2, limbs.batch))
    return np.asarray(shapes(limbs, still, still).tip[1])


def _string(tip: Floats, along: Floats) -> Floats:
    """Height of the braced string over places along the handle axis."""
    (xu, xl), (yu, yl) = tip[0], tip[1]
    shape = (-1,) + (1,) * (along.ndim - 1)
    slope = ((yu - yl) / (xu - xl)).reshape(shape)
    return np.asarray(yl.reshape(shape) + slope * (along - xl.reshape(shape)))


def _gaps(limbs: LimbGrid, tip: Floats, here: Shapes, r: Reading) -> Floats:
    along, across = _at(here.along, limbs, r), _at(here.across, limbs, r)
    return _string(tip, along) - across - _at(limbs.depth - limbs.axis, limbs, r)


def brace_gaps(limbs: LimbGrid, tip: Floats) -> Floats:
    """Gap from the braced string to the belly at the end of each fade, square to the handle, ``(2, B)`` (m).

    Args:
        limbs: the grid.
        tip: nock positions at brace, ``(2, 2, B)``: along/across, limb.
    """
    along = limbs.root[..., 0] * SIDES_ALONG
    string = np.stack([_string(tip, one) for one in along])
    belly = limbs.root[..., 1] + (limbs.depth - limbs.axis)[..., 0]
    return np.asarray(string - belly)


def errors_of(readings: tuple[Reading, ...], values: Floats, slopes: Floats) -> Floats:
    """One standard error of each reading, ``(readings,)``; a weight's grows with it, and with how steep the draw is there.

    Args:
        readings: as taken.
        values: what they should be.
        slopes: of weights by draw (N/m).
    """
    errors = np.empty(len(readings))
    for i, r in enumerate(readings):
        errors[i] = ERRORS[r.kind] if r.error is None else r.error
        if r.kind == "weight":
            scale = r.error if r.error is not None else float(np.hypot(WEIGHT_ERROR, WEIGHT_ERROR_SHARE * r.value))
            errors[i] = np.hypot(scale, slopes[i] * DRAW_ERROR)
        elif r.kind == "tip travel" and r.error is None:
            errors[i] = np.hypot(errors[i], 0.3 * DRAW_ERROR)
        elif r.kind == "thickness":
            errors[i] = np.hypot(errors[i], WOOD_VARIES / 3 * values[i])
        elif r.kind == "width":
            errors[i] = np.hypot(errors[i], WOOD_VARIES * values[i])
    return errors
