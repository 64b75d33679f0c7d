"""What a model of the bow would read, at the same places as readings taken on the tree.

Any kind may be mixed with any other (:mod:`bowyery.tiller.kinds`). Places along a limb count from
its root (the end of the fade), draws from pivot to nocking point; without a draw a reading is taken
braced, or hanging on a long string.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import EstimateError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.tiller.kinds import READINGS, Reading, Scene

_MISSING = {
    "draw": "A {kind} needs the draw it was read at.",
    "at": "The {kind} wants a place along the limb.",
    "span": "The {kind} wants {span}.",
}


@dataclass(frozen=True)
class Readout:
    """What a batch of bows reads: ``(B, readings)``; slopes of weight by draw (N/m) of the first
    bow, ``(readings,)``.

    Attributes:
        values: ``(B, readings)`` (SI).
    """

    values: Floats
    slopes: Floats


def check_readings(readings: tuple[Reading, ...]) -> None:
    """Refuse readings that cannot be used.

    Raises:
        EstimateError: there is none, or one lacks what its kind needs.
    """
    if not readings:
        raise EstimateError("Write down at least one weight at a draw.")
    for reading in readings:
        kind = READINGS.get(reading.kind)
        if kind is None:
            raise EstimateError(
                f"“{reading.kind}” is not a kind of reading; use one of {', '.join(READINGS)}."
            )
        if not np.isfinite(reading.value):
            raise EstimateError("A reading must be a number.")
        if kind.of_limb and reading.limb is None:
            raise EstimateError("Say which limb the reading is of, upper or lower.")
        for need in ("draw", "at", "span"):
            given = getattr(reading, need)
            if need in kind.needs and (given is None or (need == "span" and not given > 0)):
                raise EstimateError(_MISSING[need].format(kind=kind.name, span=kind.wants))
        if not 0 <= reading.drop < 0.5:
            raise EstimateError("A weight sinks by less than half in any hold.")
        if reading.error is not None and not reading.error > 0:
            raise EstimateError("An error must be above zero.")


def read(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    slopes: bool = False,
    design: LimbGrid | None = None,
) -> Readout:
    """What a batch of bows reads.

    Args:
        bows: for hold and string: one, or one for each string that was on.
        slopes: also work out how the first bow's weights rise with the draw.
        design: what the limbs are judged against by eye, a batch of one; None: as they are.

    Returns:
        Values ``(B, readings)`` and slopes ``(readings,)``.

    Raises:
        EstimateError: a reading that cannot be used, or a gap of a bow that hangs on a long string.
        SolveError: a bow cannot be braced or drawn so.
    """
    check_readings(readings)
    values, rise = np.zeros((limbs.batch, len(readings))), np.zeros(len(readings))
    for string in sorted({r.string for r in readings}):
        columns = [k for k, r in enumerate(readings) if r.string == string]
        bow = bows if isinstance(bows, Bow) else bows[string]
        part, up = _read(limbs, bow, tuple(readings[k] for k in columns), slopes, design)
        values[:, columns], rise[columns] = part, up
    return Readout(values, rise)


def draw_of_tips(limbs: LimbGrid, bow: Bow, logs: Floats, tips: Sequence[Reading]) -> float | None:
    """The draw at which tips have come down as they were read; None where no draw brings them so.

    Args:
        bow: with the slack string that is on.
        logs: log stiffness of both limbs, ``(2, …)``: its mean counts.
        tips: readings of how far a tip has come down (m).

    Returns:
        From nocking point to pivot (m).

    Raises:
        SolveError: the bow cannot be drawn so.
    """
    one = limbs.part(slice(0, 1)).stiffened(np.exp(np.full((2, 1, 1), float(logs.mean()))))
    least = float(statics.brace_bow(one, bow).least_draw[0])
    draws = least * np.linspace(1.02, 2.2, 16)
    asked = tuple(replace(r, draw=float(d)) for d in draws for r in tips)
    fallen = read(one, bow, asked).values[0].reshape(draws.size, len(tips)).mean(1)
    seen = float(np.mean([r.value for r in tips]))
    if not fallen[0] <= seen <= fallen[-1]:
        return None
    return float(np.interp(seen, fallen, draws))


def _read(
    limbs: LimbGrid,
    bow: Bow,
    readings: tuple[Reading, ...],
    slopes: bool,
    design: LimbGrid | None,
) -> tuple[Floats, Floats]:
    rise = np.zeros(len(readings))
    draws = sorted({d for r in readings for d in r.draws if d is not None})
    still = any(None in r.draws for r in readings if READINGS[r.kind].off_the_bend)
    braced = statics.brace_bow(limbs, bow) if draws or still else None
    bent: dict[float | None, Shapes] = {}
    weight: dict[float | None, Floats] = {}
    tilt: dict[float | None, Floats] = {None: np.zeros(limbs.batch)}
    if draws and braced is not None:
        asked = np.array(draws)
        drawn = statics.draw(limbs, bow.hold, braced, np.tile(asked, limbs.batch))
        each = np.repeat(np.arange(limbs.batch), asked.size)
        every = shapes(limbs, drawn.tension, drawn.p, each)
        for k, d in enumerate(draws):
            bent[d] = every.part(slice(k, None, asked.size))
            weight[d], tilt[d] = drawn.weight[k :: asked.size], drawn.tilt[k :: asked.size]
        if slopes and any(r.kind == "weight" for r in readings):
            rise = _slopes(limbs, bow, braced, asked, weight, readings)
    if still and braced is not None:
        if braced.slack:
            if any(READINGS[r.kind].braced and r.draw is None for r in readings):
                raise EstimateError(
                    "Gaps at brace need a braced bow; the string is longer than the bow."
                )
            nothing = np.zeros((2, limbs.batch))
            bent[None] = shapes(limbs, nothing, nothing)
        else:
            bent[None] = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
    taut = np.zeros(limbs.batch) if braced is None else braced.least_draw
    scene = Scene(limbs, bow, bent, weight, tilt, taut, design)
    return np.stack([READINGS[r.kind].predict(scene, r) for r in readings], 1), rise


def _slopes(
    limbs: LimbGrid,
    bow: Bow,
    braced: statics.Braced,
    asked: Floats,
    weight: Mapping[float | None, Floats],
    readings: tuple[Reading, ...],
) -> Floats:
    """How the first bow's weights rise with the draw, ``(readings,)`` (N/m)."""
    step, one = 0.002, limbs.part(slice(0, 1))
    more = statics.draw(one, bow.hold, braced.pick(0), asked + step).weight
    there = dict(zip(asked.tolist(), more, strict=True))
    return np.array(
        [
            (there[r.draw] - weight[r.draw][0]) / step
            if r.kind == "weight" and r.draw is not None
            else 0.0
            for r in readings
        ]
    )


def errors_of(readings: tuple[Reading, ...], values: Floats, slopes: Floats) -> Floats:
    """One standard error of each reading; a weight's grows with it and with how steep the draw is.

    Args:
        values: what they should be, ``(readings,)`` (SI).
        slopes: of weights by draw, ``(readings,)`` (N/m).

    Returns:
        ``(readings,)`` (SI).
    """
    rows = zip(readings, values, slopes, strict=True)
    return np.array([READINGS[r.kind].error(r, float(v), float(s)) for r, v, s in rows])
