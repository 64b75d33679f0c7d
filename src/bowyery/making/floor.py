"""The floor tiller: how hard one tip is pressed for a first look at the bend."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.limb_grid import LimbGrid
from bowyery.mechanics.cantilever import tip_compliance


def floor_push(limbs: LimbGrid, sag: float, extra: float = 0.0) -> Floats:
    """Force at each tip that bends the limb, clamped at its root, by a small sag.

    Args:
        limbs: grid of one bow; a cantilever (:mod:`bowyery.mechanics.cantilever`).
        sag: of the tip (m); good to a tenth of the limb's length.
        extra: thickness left on everywhere (m).

    Returns:
        Force on upper and lower tip, ``(2,)`` (N).
    """
    return np.asarray(sag / tip_compliance(limbs, extra)[:, 0])


@dataclass(frozen=True)
class FloorLook:
    """What a limb's floor reading says.

    Attributes:
        stiffer: than the limb should be at this stage, as a share; below zero it is weaker.
        error: one standard deviation of that share.
    """

    stiffer: float
    error: float


FLOOR_ERROR = 0.08  # of a floor reading: the root is held by hand, the sag read against a wall


def floor_look(
    limbs: LimbGrid, side: int, force: float, sag: float, extra: float = 0.0
) -> FloorLook:
    """How stiff a limb is against what it should be with so much wood left on.

    Args:
        side: 0 upper, 1 lower.
        force: under the tip (N).
        sag: of the tip (m).
        extra: thickness left on by plan (m).
    """
    should = float(floor_push(limbs, sag, extra)[side])
    return FloorLook(force / should - 1, FLOOR_ERROR * force / should)
