"""Gaps between the braced string and the belly, by which the two limbs are judged against each
other.
"""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD
from bowyery.bow.limb_grid import LimbGrid
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import Braced

# Where both limbs begin to bend nearer to the centre than this (m), the gaps there are one gap:
# such bows are judged at this share of each limb.
TOO_NEAR, MID_LIMB = 0.04, 0.3


def at_place(nodes: Floats, limbs: LimbGrid, side: int, place: float) -> Floats:
    """Values at a place, straight between the nodes.

    Args:
        nodes: values at the nodes, ``(2, B, n+1)``.
        side: 0 upper, 1 lower.
        place: from the limb's root (m).

    Returns:
        ``(B,)``.
    """
    at = limbs.places()[side, 0]
    low = int(np.clip(np.searchsorted(at, place, side="right") - 1, 0, limbs.cells - 1))
    part = float(np.clip((place - at[low]) / (at[low + 1] - at[low]), 0.0, 1.0))
    return np.asarray(nodes[side, :, low] * (1 - part) + nodes[side, :, low + 1] * part)


def string_height(leaves: Floats, along: Floats) -> Floats:
    """Height of the braced string over places along the handle axis.

    Args:
        leaves: where it leaves the limbs, ``(2, 2, B)``: along/across, limb (m).
        along: places, ``(B,)`` or ``(B, places)`` (m).

    Returns:
        Of the shape of ``along`` (m).
    """
    (xu, xl), (yu, yl) = leaves[0], leaves[1]
    shape = (-1,) + (1,) * (along.ndim - 1)
    slope = ((yu - yl) / (xu - xl)).reshape(shape)
    return np.asarray(yl.reshape(shape) + slope * (along - xl.reshape(shape)))


def judged_at(limbs: LimbGrid) -> float:
    """Where along each limb its gap is judged, as a share: at the fade, or at three tenths of the
    limb where the grip bends and the fades meet.
    """
    return MID_LIMB if float(limbs.root[:, 0, 0].max()) < TOO_NEAR else 0.0


def gap_difference(limbs: LimbGrid, braced: Braced) -> Floats:
    """Upper less lower gap from the braced string to the belly, square to the handle, where such
    limbs are judged (:func:`judged_at`).

    Returns:
        ``(B,)`` (m).
    """
    bent = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
    share, gaps = judged_at(limbs), list[Floats]()
    for side in (0, 1):
        if share:
            place = share * float(limbs.length[side, 0])
            along, across, belly = (
                at_place(v, limbs, side, place)
                for v in (bent.along, bent.across, limbs.depth - limbs.axis)
            )
        else:
            along = limbs.root[side, :, 0] * OUTWARD[side]
            across, belly = limbs.root[side, :, 1], (limbs.depth - limbs.axis)[side, :, 0]
        gaps.append(string_height(bent.string, along) - across - belly)
    return np.asarray(gaps[0] - gaps[1])
