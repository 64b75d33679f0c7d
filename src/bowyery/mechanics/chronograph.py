"""What a chronograph's readings tell of a bow."""

from __future__ import annotations

import numpy as np

from bowyery.bow.bow import Bow
from bowyery.errors import DescriptionError
from bowyery.mechanics.dynamics import DAMPING, loose


def fit_damping(
    bow: Bow, draw: float, readings: list[tuple[float, float]], masses: int = 12
) -> float:
    """Damping that makes the mean speed of shots come out as a chronograph read it.

    Args:
        bow, draw: as for :func:`loose`.
        readings: arrow mass (kg) and speed (m/s) of each.
        masses: of each limb's chain.

    Returns:
        Damping (s); 0 where the arrows flew faster than an undamped bow would send them.

    Raises:
        DescriptionError: no reading, or speeds below what any damping within reason gives.
    """
    if not readings:
        raise DescriptionError("Give at least one arrow with its speed.", "readings")
    weights = sorted({mass for mass, _ in readings})

    def faster(damping: float) -> float:
        speeds = {mass: loose(bow, draw, mass, masses, damping, 120).speed for mass in weights}
        return float(np.mean([speeds[mass] - speed for mass, speed in readings]))

    from scipy.optimize import brentq  # here alone: loosing an arrow needs none of it

    # a little damping may even help a light arrow off the string: take the heaviest damping that
    # gives these speeds
    tried = [0.0, *(DAMPING * np.array([1.0, 4.0, 12.0, 36.0, 100.0, 200.0]))]
    over = [k for k, damping in enumerate(tried) if faster(damping) > 0]
    if not over:
        return 0.0
    if over[-1] == len(tried) - 1:
        raise DescriptionError(
            "The arrows flew far slower than this bow should send them; check draw, arrow mass and"
            " the chronograph.",
            "readings",
        )
    return float(brentq(faster, tried[over[-1]], tried[over[-1] + 1], xtol=1e-7, rtol=1e-3))
