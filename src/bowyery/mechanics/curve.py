"""The force–draw curve of one bow, with everything behind it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import CELLS, LimbGrid, grid
from bowyery.errors import (
    DescriptionError,
)
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.mechanics.statics import Braced, Drawn, brace_bow, draw


@dataclass(frozen=True)
class Peak:
    """Where a limb is strained most: value, limb (0 upper, 1 lower), face and place from the root
    (m).

    Attributes:
        at: place (m).
    """

    value: float
    limb: int
    face: str
    at: float


@dataclass(frozen=True)
class Curve:
    """One bow's force–draw curve with everything behind it.

    Attributes:
        braced: the braced state, a batch of one.
        drawn: a batch with one entry per draw.
        energy: stored since the braced (or hanging) state, ``(draws,)`` (J).
        at_brace: shapes at brace; the unbent limbs for a hanging string.
        given_peaks: peaks that were found otherwise, or None.
    """

    limbs: LimbGrid
    braced: Braced
    drawn: Drawn
    energy: Floats
    shapes: Shapes
    at_brace: Shapes
    given_peaks: tuple[Peak, ...] | None = None

    @cached_property
    def peaks(self) -> tuple[Peak, ...]:
        """Where a limb is strained most, one per draw."""
        return self.given_peaks or _peaks(self.limbs, self.shapes)

    @property
    def stack(self) -> float:
        """How much steeper the curve is at its end than on average."""
        d, f = self.drawn.draw, self.drawn.weight
        if d.size < 3:
            return float("nan")
        return float((f[-1] - f[-2]) / (d[-1] - d[-2]) / ((f[-1] - f[0]) / (d[-1] - d[0])))


def solve(bow: Bow, draws: Floats, cells: int = CELLS) -> Curve:
    """Brace one bow and draw it to each of ``draws`` (m), all in one batch.

    Args:
        draws: to the pivot (m).

    Raises:
        BowyeryError: what brace and draw raise.
    """
    limbs = grid(bow, cells)
    return solve_grid(limbs, bow, np.atleast_1d(np.asarray(draws, float)))


def solve_grid(limbs: LimbGrid, bow: Bow, draws: Floats, braced: Braced | None = None) -> Curve:
    """Like :func:`solve` for limbs already cut into cells, and braced already where that is at
    hand.

    Args:
        draws: ``(draws,)`` (m).
        braced: its braced state, where that is at hand.

    Returns:
        The curve, one entry a draw.
    """
    if draws.size == 0:
        raise DescriptionError("Give at least one draw.", "draws")
    braced = braced or brace_bow(limbs, bow)
    drawn = draw(limbs, bow.hold, braced, draws)
    every = shapes(
        limbs,
        np.concatenate([np.stack([braced.tension] * 2), drawn.tension], 1),
        np.concatenate([braced.p, drawn.p], 1),
        np.zeros(draws.size + 1, np.int64),
    )
    at_brace, result = every.part(slice(0, 1)), every.part(slice(1, None))
    return Curve(
        limbs,
        braced,
        drawn,
        result.energy - at_brace.energy,
        result,
        at_brace,
    )


def _peaks(limbs: LimbGrid, result: Shapes) -> tuple[Peak, ...]:
    faces = np.abs(np.stack([result.back, result.belly]))  # face, limb, state, node
    states, nodes = faces.shape[2:]
    rows = np.moveaxis(faces, 2, 0).reshape(states, -1)
    # of places alike to rounding, the first: back before belly, upper before lower, root before tip
    first = (rows >= rows.max(1, keepdims=True) * (1 - 1e-9)).argmax(1)
    places = limbs.places()[:, 0]
    return tuple(
        Peak(
            float(rows[state, k]),
            int(k // nodes % 2),
            ("back", "belly")[k // (2 * nodes)],
            float(places[k // nodes % 2, k % nodes]),
        )
        for state, k in enumerate(first)
    )
