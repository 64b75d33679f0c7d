"""The floor tiller: how hard one tip is pressed for a first look at the bend."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.limb_grid import LimbGrid


def floor_push(limbs: LimbGrid, sag: float, extra: float = 0.0) -> Floats:
    """Force at each tip that bends the limb, clamped at its root, by a small sag.

    Small deflection of a tapered cantilever (Gere and Goodno 2012, chapter 9): δ = F ∫ (L − s)² /
    EI ds; wood left on raises EI with the cube of the depth.

    Args:
        limbs: grid of one bow.
        sag: of the tip (m); good to a tenth of the limb's length.
        extra: thickness left on everywhere (m).

    Returns:
        Force on upper and lower tip, ``(2,)`` (N).
    """
    stiffness = limbs.node_stiffness[:, 0] * (1 + extra / limbs.depth[:, 0]) ** 3
    places = limbs.places()[:, 0]
    compliance = np.trapezoid((limbs.length[:, :1] - places) ** 2 / stiffness, places, axis=-1)
    return np.asarray(sag / compliance)
