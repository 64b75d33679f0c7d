"""Matched strings: what two of them differ in, what that does to the bow, and what evens it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve

# How far two strings may be apart before the archer or the bow notices (m, kg as a share, m).
ALLOWED = {
    "length": 0.003, "stretch": 0.003, "mass": 0.04, "serving": 0.006, "nocking point": 0.0015,
    "brace": 0.003,
}  # fmt: skip


@dataclass(frozen=True)
class Swapped:
    """What another string does to a bow.

    Attributes:
        brace: rises by (m).
        weight: rises by, at the same draw (N).
        tips: by how much the upper tip comes further than the lower at full draw, against before
            (m).
        speed: rises by (m/s), or None where it was not asked.
    """

    brace: float
    weight: float
    tips: float
    speed: float | None = None


def swapped(
    bow: Bow, draw: float, weight: float, now: float, other: float, nock: float = 0.0
) -> Swapped:
    """Put another string on.

    Args:
        draw: full draw (m).
        weight: at it, measured or wanted (N); the model's is scaled to it.
        now, other: lengths from nock to nock under load (m).
        nock: how much higher the other's nocking point sits, to the upper tip (m).

    Raises:
        DescriptionError: a length that is not above zero.
        SolveError: the bow cannot be braced with it.
    """
    if not (0 < now < math.inf and 0 < other < math.inf):
        raise DescriptionError("This must be above zero.", "length")
    a = _state(replace(bow, brace_height=None, string_length=now), draw)
    hold = replace(bow.hold, nock_offset=bow.hold.nock_offset + nock)
    b = _state(replace(bow, brace_height=None, string_length=other, hold=hold), draw)
    return Swapped(b[0] - a[0], weight * (b[1] / a[1] - 1), b[2] - a[2])


def _state(bow: Bow, draw: float) -> tuple[float, float, float]:
    """Brace height, weight at the draw, and how much further the upper tip has come (m, N, m)."""
    if bow.back_bow is not None:
        found = backbow.solve(bow, np.array([draw]))
        nodes = found.chains.nodes(found.angles[0])
        tips = float(nodes[0, -1].imag - nodes[1, -1].imag)
        return found.brace_height, float(found.weight[-1]), tips
    curve = force_curve.solve_grid(grid(bow), bow, np.array([draw]))
    across = curve.shapes.across[:, 0, -1]
    height, weight = curve.braced.height[0], curve.drawn.weight[-1]
    return float(height), float(weight), float(across[0] - across[1])
