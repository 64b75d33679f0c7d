"""How a string lies in its nocks: the angle it swings through as the bow is drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import grid
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve

CLEAR = math.radians(10)  # the groove is faired this much further than the string swings


@dataclass(frozen=True)
class Swing:
    """How a string swings in a nock as the bow is drawn.

    Attributes:
        at_brace, at_draw: between the string and the limb's end (rad); 0 where it lies on it.
    """

    limb: Side
    at_brace: float
    at_draw: float

    @property
    def faired(self) -> float:
        """How far from the limb's line the groove must be open (rad)."""
        return max(self.at_brace, self.at_draw) + CLEAR


def swings(bow: Bow, full_draw: float) -> tuple[Swing, ...]:
    """The angles of a string in both nocks, from the statics.

    Args:
        full_draw: (m).

    Returns:
        Of the upper and of the lower limb; none of a bow with a back-bow.

    Raises:
        SolveError: what the statics raise.
    """
    if bow.back_bow is not None:
        return _of_chains(bow, full_draw)
    curve = force_curve.solve_grid(grid(bow), bow, np.array([full_draw]))
    still = np.zeros(2) if curve.braced.slack else np.maximum(curve.braced.p[:, 0], 0.0)
    drawn = np.maximum(curve.drawn.p[:, -1], 0.0)
    return tuple(
        Swing(side, float(a), float(b)) for side, a, b in zip(SIDES, still, drawn, strict=True)
    )


def _of_chains(bow: Bow, full_draw: float) -> tuple[Swing, ...]:
    found = backbow.solve(bow, np.array([full_draw]))
    made = []
    for k, side in enumerate(SIDES):
        angles = []
        for angle, far in ((found.rest_angle, None), (found.angles[0], found.nock[0])):
            ends = [found.chains.nodes(angle)[s, -1] for s in (0, 1)]
            to = ends[1 - k] if far is None else far
            before = found.chains.nodes(angle)[k, -2]
            turn = np.angle((to - ends[k]) / (before - ends[k]))
            angles.append(abs(float(turn)))
        made.append(Swing(side, *angles))
    return tuple(made)
