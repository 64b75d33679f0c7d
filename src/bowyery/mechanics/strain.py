"""What strain does to a limb: use of its limits, layer by layer, and the set that stays, with a
range.

Each layer is bent to its own limits: compression at its belly's side and tension at its back's
side. Where the compressed side passes its elastic limit part of the excess stays when the bow is
unstrung:
``κ_set = r · max(0, κ_bend − κ_limit)``. That compression parallel to the grain leaves a permanent
set of this kind, while tension stays elastic until near rupture, is textbook wood mechanics (Bodig
and Jayne, Mechanics of Wood and Wood Composites, 1982, chapter 4). The share r is a workshop
figure, 0.4, to be fitted from a maker's own bows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, layer_depths
from bowyery.errors import DescriptionError
from bowyery.mechanics.elastica import Shapes
from bowyery.wood.materials import working_strain

SET_SHARE = 0.4
SET_SHARE_SPREAD = 0.15
_PROFILE_ERROR = 0.003  # of a string follow read off a straight edge (m)


@dataclass(frozen=True)
class SetForecast:
    """String follow expected of a new bow after full draw (m), and its low and high end (90 %)."""

    follow: float
    low: float
    high: float


@dataclass(frozen=True)
class SetShare:
    """What part of the excess bend stays, and its standard error.

    Attributes:
        share: of the excess bend that stays.
        spread: one standard deviation.
    """

    share: float = SET_SHARE
    spread: float = SET_SHARE_SPREAD


@dataclass(frozen=True)
class BendLimits:
    """Bends at which a limb reaches a limit, at its nodes, ``(2, n+1)`` (1/m); infinite where no
    layer has limits.

    Attributes:
        elastic: some layer begins to keep a set in compression.
        working: some layer reaches what it bears for years, on either face.
        rupture: some layer reaches its nominal rupture.
    """

    elastic: Floats
    working: Floats
    rupture: Floats


def surface_strain(shapes: Shapes) -> Floats:
    """Greater of back and belly strain at the nodes, without sign, ``(2, B, n+1)``.

    Args:
        shapes: a batch of states.
    """
    return np.maximum(np.abs(shapes.back), np.abs(shapes.belly))


def bend_limits(bow: Bow, limbs: LimbGrid) -> BendLimits:
    """Bends at which the layers of both limbs reach their limits; ``limbs`` is the bow's own
    grid.

    Returns:
        Limits at the nodes, ``(2, n+1)`` (1/m).
    """
    parts = [_limits(limb, limbs, side) for side, limb in enumerate(bow.limbs)]
    return BendLimits(*(np.stack([part[k] for part in parts]) for k in range(3)))


def _limits(limb: Limb, limbs: LimbGrid, side: int) -> tuple[Floats, Floats, Floats]:
    places = np.maximum(limbs.places()[side, 0], 0.0)
    edges = np.cumsum(
        np.concatenate([np.zeros((1, places.size)), layer_depths(limb, places)]), axis=0
    )
    from_axis = edges - limbs.axis[side, 0]
    elastic, working, rupture = (np.full(places.size, np.inf) for _ in range(3))
    for layer, back, belly in zip(limb.layers, from_axis[:-1], from_axis[1:], strict=True):
        if layer.elastic_strain is None or layer.rupture_strain is None:
            continue
        some = belly > back  # a layer of no thickness breaks nothing
        pressed = np.where(some, np.maximum(belly, 1e-9), 1e-9)
        far = np.where(some, np.maximum(np.maximum(belly, -back), 1e-9), 1e-9)
        elastic = np.minimum(elastic, layer.elastic_strain / pressed)
        working = np.minimum(
            working, working_strain(layer.elastic_strain, layer.rupture_strain) / far
        )
        rupture = np.minimum(rupture, layer.rupture_strain / far)
    return elastic, working, rupture


def limit_use(limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """How much of what it bears for years each place is bent to, ``(2, n+1)``; 1 is all of it.

    Args:
        limits: of the same grid.
        shapes: a batch of states.
        state: which of the batch, the last by default.
    """
    return np.abs(shapes.bend[:, state]) / limits.working


def excess_offset(limbs: LimbGrid, limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """Offset of each tip if all of the bend beyond the elastic limit stayed, ``(2,)`` (m).

    Args:
        limbs: the grid, ``B`` bows.
        limits: of the same grid.
        shapes: a batch of states.
        state: which of the batch, the last by default.
    """
    stays = np.maximum(0.0, shapes.bend[:, state] - limits.elastic)
    places = limbs.places()[:, -1]
    lever = (limbs.length - limbs.grip)[:, -1, None] - places
    return np.asarray(np.trapezoid(stays * lever, places, axis=-1))


def expected_set(
    limbs: LimbGrid,
    limits: BendLimits,
    shapes: Shapes,
    state: int = -1,
    share: SetShare | None = None,
) -> SetForecast:
    """Forecast string follow: mean tip offset of both limbs from the curvature that stays.

    Args:
        limbs: grid of one bow.
        limits: of the same grid.
        shapes: a batch of states.
        state: which of the batch, the last by default.
        share: fitted from a maker's own bows, or the usual one.

    Returns:
        String follow with its range (m).
    """
    share = share or SetShare()
    offset = float(excess_offset(limbs, limits, shapes, state).mean())
    wide = 1.645 * share.spread
    return SetForecast(
        share.share * offset, max(0.0, share.share - wide) * offset, (share.share + wide) * offset
    )


def fitted_share(records: list[tuple[float, float]]) -> SetShare:
    """Fit the share that stays from finished bows.

    The usual share with its spread is taken as known beforehand; each bow adds what it tells
    (linear Gaussian estimate: Gelman and others, Bayesian Data Analysis, 2013, chapter 14).

    Args:
        records: of each bow, offset if all the excess had stayed (m, as :func:`excess_offset`) and
            string follow measured after shooting in (m).

    Raises:
        DescriptionError: a record is not finite.
    """
    precision, weighted = SET_SHARE_SPREAD**-2, SET_SHARE * SET_SHARE_SPREAD**-2
    for offset, follow in records:
        if not (np.isfinite(offset) and np.isfinite(follow) and offset >= 0):
            raise DescriptionError("A record wants two finite figures.", "records")
        precision += (offset / _PROFILE_ERROR) ** 2
        weighted += offset * follow / _PROFILE_ERROR**2
    return SetShare(max(0.0, weighted / precision), precision**-0.5)
