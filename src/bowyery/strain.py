"""What strain does to wood: use of its limit and the set that stays, with a range.

Where the belly is compressed beyond its elastic limit part of the excess stays when the bow is unstrung:
``κ_set = r · max(0, κ_bend − κ_limit)``. That compression parallel to the grain leaves a permanent set of this
kind is textbook wood mechanics (Bodig and Jayne, Mechanics of Wood and Wood Composites, 1982, chapter 4);
the share r is a workshop figure, 0.4, and is to be fitted from a maker's own bows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.bow import LimbGrid
from bowyery.elastica import Shapes
from bowyery.materials import Material
from bowyery.section import Floats

SET_SHARE = 0.4
SET_SHARE_SPREAD = 0.15


@dataclass(frozen=True)
class SetForecast:
    """String follow expected of a new bow after full draw (m), and its low and high end (90 %)."""

    follow: float
    low: float
    high: float


def surface_strain(shapes: Shapes) -> Floats:
    """Greater of back and belly strain at the nodes, without sign, ``(2, B, n+1)``."""
    return np.maximum(np.abs(shapes.back), np.abs(shapes.belly))


def expected_set(limbs: LimbGrid, shapes: Shapes, wood: Material, state: int = -1) -> SetForecast:
    """Forecast string follow: mean tip offset of both limbs from the curvature that stays.

    Args:
        limbs: grid of one bow.
        shapes: a batch of states.
        wood: at its moisture.
        state: which of the batch, the last by default.
    """
    belly = (limbs.depth - limbs.axis)[:, -1]
    bend = shapes.bend[:, state]
    stays = np.maximum(0.0, bend - wood.elastic_strain / belly)
    places = limbs.places()[:, -1]
    lever = limbs.length[:, -1, None] - places
    offset = float(np.trapezoid(stays * lever, places, axis=-1).mean())
    spread = 1.645 * SET_SHARE_SPREAD
    return SetForecast(SET_SHARE * offset, max(0.0, SET_SHARE - spread) * offset, (SET_SHARE + spread) * offset)
