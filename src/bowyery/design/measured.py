"""A bow as it was measured: put together from places along its limbs, and scaled to a weight read.

Nothing is solved for. What is not measured, the wood's modulus or a little of its thickness, can be
made up from one weight at one draw.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from bowyery.bow.bow import Bow, Hold, Limb
from bowyery.bow.layout import StackLayer, layer_of
from bowyery.bow.limb_grid import layer_depths
from bowyery.bow.natural import LimbLine, checked_line, natural_line
from bowyery.bow.section import Shape, completed
from bowyery.errors import DescriptionError, DesignError, SolveError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.wood.materials import Material

What = Literal["modulus", "thickness"]
WHATS: tuple[What, ...] = ("modulus", "thickness")
# No wood is so much stiffer or softer than its book, and no caliper so far off.
RANGES = {"modulus": (0.3, 3.0), "thickness": (0.7, 1.4)}


@dataclass(frozen=True)
class Place:
    """A place that was measured.

    Attributes:
        at: from the bow's centre (m).
        width, thickness: there (m).
        across: offset of the unstrung limb from the handle's line, to the belly above zero (m), or
            None where it was not measured.
    """

    at: float
    width: float
    thickness: float
    across: float | None = None


def limb_of(
    places: Sequence[Place],
    wood: Material,
    shape: Shape,
    back: Sequence[StackLayer] = (),
    belly: Sequence[StackLayer] = (),
) -> Limb:
    """A limb from what was measured; the first place is where bending starts, the last the nock.

    Args:
        wood: of the layer that has the rest of the depth.
        back, belly: layers of known thickness, from the back.

    Raises:
        DescriptionError: fewer than two places, or places and offsets that no limb has.
    """
    if len(places) < 2:
        raise DescriptionError("Measure two places of a limb or more.", "places")
    at = np.array([p.at for p in places])
    if np.any(np.diff(at) < 1e-3):
        raise DescriptionError("The places follow one another outwards.", "places")
    length = float(at[-1] - at[0])
    offsets = [(p.at, p.across) for p in places if p.across is not None]
    line = None
    if offsets:
        start = offsets[0][1] if offsets[0][0] == at[0] else 0.0
        rows = [((a - at[0]) / length, off - start) for a, off in offsets if a > at[0]]
        if rows and rows[-1][0] < 1 - 1e-9:
            raise DescriptionError("Say how the tip lies too.", "places")
        if len(rows) == 1:  # an even bend reaches it
            return replace(
                _straight(at, places, wood, shape, (back, belly)),
                unstrung_at=np.array([0.0, length]),
                unstrung=np.full(2, 2 * rows[0][1] / length**2),
            )
        if rows:
            shares, across = zip(*rows, strict=True)
            line = checked_line(LimbLine(tuple(shares), tuple(across)), length)
    limb = _straight(at, places, wood, shape, (back, belly))
    if line is None:
        return limb
    natural = natural_line(length, line=line)
    return replace(
        limb,
        root=(float(at[0]), 0.0, natural.angle),
        unstrung_at=natural.at,
        unstrung=natural.curvature,
    )


def _straight(
    at: np.ndarray,
    places: Sequence[Place],
    wood: Material,
    shape: Shape,
    stack: tuple[Sequence[StackLayer], Sequence[StackLayer]],
) -> Limb:
    from_root, length = at - at[0], float(at[-1] - at[0])
    back, belly = (
        tuple(layer_of(s.role, s.material, s.depth_at(from_root, length)) for s in side)
        for side in stack
    )
    return Limb(
        from_root,
        np.array([p.width for p in places]),
        np.array([p.thickness for p in places]),
        (*back, layer_of("core", wood), *belly),
        completed(shape),
        (float(at[0]), 0.0, 0.0),
        np.array([0.0, length]),
        np.zeros(2),
    )


def bow_of(
    upper: Limb, lower: Limb, brace: float, draw: float, handle_depth: float, nock_offset: float
) -> Bow:
    """A bow of two measured limbs.

    Args:
        brace: its brace height (m).
        draw: full draw, to the deepest part of the grip (m).
        handle_depth: from back to the deepest part of the grip (m).
        nock_offset: of the pull above the pivot (m).

    Returns:
        The bow; its pivot lies half way between the places where its limbs begin to bend.
    """
    middle = 0.5 * (upper.root[0] - lower.root[0])
    deep = 0.5 * float(upper.thickness[0] + lower.thickness[0])
    hold = Hold("hand", "fingers", (middle, handle_depth - deep / 2), nock_offset)
    return Bow(upper, lower, hold, brace, draw=draw)


def _scaled_by(bow: Bow, what: What, factor: float) -> Bow:
    def limb(one: Limb) -> Limb:
        if what == "modulus":
            layers = tuple(
                replace(la, modulus=la.modulus * factor) if la.thickness is None else la
                for la in one.layers
            )
            return replace(one, layers=layers)
        depths = layer_depths(one, one.at)
        rest = [la.thickness is None for la in one.layers].index(True)
        return replace(one, thickness=depths.sum(0) + (factor - 1) * depths[rest])

    return replace(bow, upper=limb(bow.upper), lower=limb(bow.lower))


def _weight(bow: Bow, draw: float) -> float:
    if bow.back_bow is not None:
        return float(backbow.solve(replace(bow, draw=draw), np.array([draw])).weight[-1])
    return float(force_curve.solve(bow, np.array([draw])).drawn.weight[-1])


def scaled(bow: Bow, draw: float, weight: float, what: What) -> tuple[Bow, float]:
    """A bow whose wood is made stiffer or thicker all over until it pulls what was read.

    Args:
        bow: as it was measured, with its brace height.
        draw: that the weight was read at (m).
        weight: that was read (N).
        what: the wood's modulus, or its thickness.

    Returns:
        The bow, and by what factor it was scaled.

    Raises:
        DesignError: no such wood, or no such thickness, pulls that.
    """
    low, high = RANGES[what]

    def miss(factor: float) -> float:
        try:
            return _weight(_scaled_by(bow, what, factor), draw) / weight - 1
        except SolveError as error:
            raise DesignError(str(error)) from error

    try:
        least, most = miss(low), miss(high)
    except DescriptionError as error:
        raise DesignError(str(error)) from error
    if least > 0 or most < 0:
        if what == "modulus":
            raise DesignError(
                "No wood makes these limbs pull so much, or so little: look over the thicknesses,"
                " and how long the bow is."
            )
        raise DesignError(
            "So far off no thickness was measured: look over the widths, the wood, and how long the"
            " bow is."
        )
    factor = float(brentq(miss, low, high, xtol=1e-5))
    return _scaled_by(bow, what, factor), factor
