"""One limb as an elastic line: the march from nock to root, and the bent shapes that come of it.

Each limb is a map from string tension T and the angle p between limb and string at the nock to
where
the string leaves it and in which direction: a march from the nock inward in the string's frame.
Staggered midpoint rule (Störmer–Verlet): second order, and the same as a chain of rigid bars joined
by springs, so that its energy balances exactly. The string leaves the nock, and lies on the belly,
at its own distance from the neutral axis. A negative p is minus the length over which it lies on
the limb; it lifts off along the limb there, which makes its length least. Elastica: Love, A
Treatise on the Mathematical Theory of Elasticity (1927), chapter 19. First axis upper and lower
limb, second the bows. ``kernel.py`` has the compiled form of the march; the one here is for reading
and for holding it against.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats, Whole
from bowyery.bow.limb_grid import LimbGrid
from bowyery.mechanics import kernel


@dataclass(frozen=True)
class March:
    """Where the march from the string's last free point to the root ends, each ``(2, B)``.

    Attributes:
        inward: of the root along the string, from where the string leaves the limb (m).
        offset: of the root from the string's line, to the back's side (m).
        angle: between limb and string at the root (rad).
        on_limb: length of the string that lies on the limb (m).
    """

    inward: Floats
    offset: Floats
    angle: Floats
    on_limb: Floats


def march(limbs: LimbGrid, tension: Floats, p: Floats) -> March:
    """March each limb from the nock, or from where the string lifts off, to the root: the readable
    form of ``kernel.limb_end``, which is what runs.

    Each cell is half a bar, its turn, and half a bar. Where the string lies on the limb, at a
    distance g from the neutral axis, the moment is T·g, and a bend κ makes it shorter by g·κ.

    Args:
        tension: T, ``(2, B)`` (N).
        p: angle at the nock (rad), or minus the length in contact (m), ``(2, B)``.
    """
    bars, gives, turns, steps, lies = (np.moveaxis(v, -1, 0) for v in limbs.march_values)
    outer = np.concatenate([np.zeros((1, *p.shape)), np.cumsum(steps, 0)])
    contact = np.maximum(-p, 0.0)
    angle = np.maximum(p, 0.0)
    leaves = lies[0].copy()
    for i in range(limbs.cells):
        share = (contact - outer[i]) / steps[i]
        here = (share >= 0) & (share < 1)
        leaves = np.where(here, lies[i] + share * (lies[i + 1] - lies[i]), leaves)
    inward, offset = -leaves * np.sin(angle), leaves * np.cos(angle)
    on_limb = np.zeros_like(p)
    for i in range(limbs.cells):
        free = 1 - np.clip((contact - outer[i]) / steps[i], 0.0, 1.0)
        half = 0.5 * free * bars[i]
        inward, offset = inward + half * np.cos(angle), offset + half * np.sin(angle)
        angle = angle - free * (turns[i] + gives[i] * tension * offset)
        inward, offset = inward + half * np.cos(angle), offset + half * np.sin(angle)
        g = 0.5 * (lies[i] + lies[i + 1])
        on_limb = on_limb + (1 - free) * (steps[i] - g * (turns[i] + gives[i] * tension * g))
    return March(inward, offset, angle, on_limb)


@dataclass(frozen=True)
class Shapes:
    """Shapes and loads along the limbs at given states, all ``(2, B, n+1)`` from root to nock.

    Attributes:
        along, across: position of the neutral axis in the bow's frame (m).
        moment: bending moment (N·m).
        bend: curvature added to the unstrung one (1/m).
        back, belly: strain there, tension positive.
        bend_at_joints: the same in the middle of each cell, ``(2, B, n)`` (1/m).
        energy: stored in bending, ``(B,)`` (J).
        tip: position of the neutral axis at the nocks, ``(2, 2, B)``: along/across, limb (m).
        string: where the free string leaves the limbs, likewise (m).
    """

    along: Floats
    across: Floats
    moment: Floats
    bend: Floats
    back: Floats
    belly: Floats
    bend_at_joints: Floats
    energy: Floats
    tip: Floats
    string: Floats

    def part(self, which: slice) -> Shapes:
        """Some states of the batch."""
        return Shapes(
            self.along[:, which],
            self.across[:, which],
            self.moment[:, which],
            self.bend[:, which],
            self.back[:, which],
            self.belly[:, which],
            self.bend_at_joints[:, which],
            self.energy[which],
            self.tip[..., which],
            self.string[..., which],
        )


def shapes(limbs: LimbGrid, tension: Floats, p: Floats, which: Whole | None = None) -> Shapes:
    """Work out shapes, moments and strains at solved states; ``tension`` and ``p`` are ``(2, S)``.

    Args:
        tension: T (N).
        p: angle at the nock (rad), or minus the length in contact (m).
        which: bow of each state, ``(S,)``; each its own where it is left out.

    Returns:
        Shapes at the nodes, ``(2, S, n+1)`` each.
    """
    states, n = p.shape[1], limbs.cells
    if which is None:
        which = np.arange(states)
    along, across, moment = (np.empty((2, states, n + 1)) for _ in range(3))
    turn, string = np.empty((2, states, n)), np.empty((2, states, 2))
    tension, p, root = (np.ascontiguousarray(v, float) for v in (tension, p, limbs.root))
    kernel.shapes_of(
        limbs.march_values,
        root,
        which,
        tension,
        p,
        along,
        across,
        moment,
        turn,
        string,
    )
    step = limbs.step[:, which]
    curve = moment / limbs.node_stiffness[:, which]
    axis = limbs.axis[:, which]
    return Shapes(
        along,
        across,
        moment,
        curve,
        curve * axis,
        curve * (axis - limbs.depth[:, which]),
        turn / step,
        0.5 * (limbs.stiffness[:, which] / step * turn**2).sum((0, 2)),
        np.stack([along[..., -1], across[..., -1]]),
        np.moveaxis(string, -1, 0),
    )
