"""A limb clamped at its root and pressed at its tip, for small bends: the floor tiller."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.limb_grid import LimbGrid


def tip_compliance(limbs: LimbGrid, extra: float = 0.0) -> Floats:
    """How far a tip sags for each newton that presses it.

    Small deflection of a tapered cantilever (Gere and Goodno 2012, chapter 9): δ = F ∫ (L − s)² /
    EI ds; wood left on raises EI with the cube of the depth.

    Args:
        extra: thickness left on everywhere (m).

    Returns:
        Compliance of upper and lower limb, ``(2, B)`` (m/N); good to sags of a tenth of the limb.
    """
    stiffness = limbs.node_stiffness * (1 + extra / limbs.depth) ** 3
    places = limbs.places()
    lever = limbs.length[..., None] - places
    return np.asarray(np.trapezoid(lever**2 / stiffness, places, axis=-1))
