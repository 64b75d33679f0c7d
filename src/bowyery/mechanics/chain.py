"""Limbs as chains of bars and springs, laid out for equilibrium and motion with ties between them.

The chain of a limb is the one that the march of elastica.py solves: bars around the nodes, half
bars at both ends, a spring in the middle of each cell; the half bar at the root is fixed. Several
chains stand side by side: upper and lower limb, and those of a second bow where there is one.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from bowyery.arrays import Floats, Points
from bowyery.bow.limb_grid import LimbGrid


@dataclass(frozen=True)
class Chains:
    """``c`` chains of ``n`` bars each, from root to nock.

    Attributes:
        start: where the first free bar begins, in the bow's frame, ``(c, 1)``.
        side: 1 for chains to the upper side, -1 to the lower, ``(c, 1)``.
        lever: place of node j by the direction of bar k, ``(c, n, n)`` (m).
        mass: at the nodes, ``(c, n)`` (kg).
        spring: moment by turn at the joints, ``(c, n)`` (N·m).
        rest: turn at rest, ``(c, n)``.
        root: inclination of the fixed bar, ``(c, 1)``.
        inertia: ``leverᵀ · mass · lever``, ``(c, n, n)``.
        cell: length of the cells along the limb, ``(c, n)`` (m).
        aside: how far to the belly of the axis the string lies at the nodes, ``(c, n)`` (m).
    """

    start: Points
    side: Floats
    lever: Floats
    mass: Floats
    spring: Floats
    rest: Floats
    root: Floats
    inertia: Floats
    cell: Floats
    aside: Floats

    def bars(self, angle: Floats) -> Points:
        """Directions of the bars in the bow's frame, ``(c, n)``."""
        out = np.empty(angle.shape, complex)
        np.multiply(np.cos(angle), self.side, out=out.real)
        np.sin(angle, out=out.imag)
        return out

    def swings(self, angle: Floats) -> Points:
        """Derivatives of the directions by the angles, which are the directions square to the bars
        on the belly's side, ``(c, n)``.
        """
        out = np.empty(angle.shape, complex)
        np.multiply(np.sin(angle), -self.side, out=out.real)
        np.cos(angle, out=out.imag)
        return out

    def nodes(self, angle: Floats) -> Points:
        """Places of the nodes in the bow's frame, ``(c, n)``."""
        return np.asarray(self.start + np.matmul(self.lever, self.bars(angle)[..., None])[..., 0])

    def belly(self, angle: Floats) -> Points:
        """Where the string would lie at the nodes, or leave the last, ``(c, n)``."""
        return self.nodes(angle) + self.aside * self.swings(angle)

    def unbent(self) -> Floats:
        """Inclinations at rest, ``(c, n)``."""
        return np.asarray(self.root + np.cumsum(self.rest, axis=1))

    @staticmethod
    def turns(angle: Floats, before: Floats | float) -> Floats:
        """Turn at each joint, from the bar before it to the bar after it.

        Args:
            angle: inclinations of the bars, ``(c, n)`` (rad).
            before: inclination of the bar before the first (rad).

        Returns:
            ``(c, n)`` (rad).
        """
        turn = angle.copy()
        turn[:, 1:] -= angle[:, :-1]
        turn[:, :1] -= before
        return turn

    @staticmethod
    def torque(bending: Floats) -> Floats:
        """From moments at the joints to moments on the bars."""
        torque = bending.copy()
        torque[:, :-1] -= bending[:, 1:]
        return torque

    def bend(self, angle: Floats) -> Floats:
        """Turn beyond rest at the joints, ``(c, n)``."""
        return self.turns(angle, self.root) - self.rest

    def stored(self, angle: Floats) -> float:
        """Energy in the springs (J)."""
        return float(0.5 * (self.spring * self.bend(angle) ** 2).sum())

    @cached_property
    def joints(self) -> Floats:
        """Derivatives of the bars' moments by their angles, ``(c·n, c·n)``."""
        count, n = self.spring.shape
        out = np.zeros((count * n, count * n))
        for s in range(count):
            k, at = self.spring[s], slice(s * n, (s + 1) * n)
            out[at, at] = (
                np.diag(k + np.append(k[1:], 0.0)) - np.diag(k[1:], 1) - np.diag(k[1:], -1)
            )
        return out


def chains(*grids: LimbGrid) -> Chains:
    """Lay the limbs of grids of one bow each, all with as many cells, as chains."""
    parts = [_of_grid(limbs) for limbs in grids]
    return Chains(*(np.concatenate([part[k] for part in parts]) for k in range(len(parts[0]))))


def _of_grid(limbs: LimbGrid) -> tuple[np.ndarray, ...]:
    n = limbs.cells
    cell, half = limbs.step[:, 0], 0.5 * limbs.bar[:, 0]
    # the bar after joint k is the outer half of cell k and the inner half of the next
    whole = half + np.append(half[:, 1:], np.zeros((2, 1)), axis=1)
    lever = np.tril(np.ones((n, n)), -1) * whole[:, None] + np.eye(n) * half[:, None]
    root = limbs.root[:, 0]
    start = root[:, :1] + 1j * root[:, 1:2] + half[:, :1] * np.exp(1j * root[:, 2:])
    start[1].real *= -1.0
    beside = 0.5 * (cell + np.append(cell[:, 1:], np.zeros((2, 1)), axis=1))
    mass = limbs.line_mass[:, 0, 1:] * beside
    inertia = np.einsum("sjk,sj,sjl->skl", lever, mass, lever)
    side = np.array([[1.0], [-1.0]])
    return (
        start,
        side,
        lever,
        mass,
        limbs.stiffness[:, 0] / cell,
        limbs.curvature[:, 0] * cell,
        root[:, 2:],
        inertia,
        cell,
        limbs.lies[:, 0, 1:],
    )


@dataclass(frozen=True)
class End:
    """A point of a chain that something is tied to.

    Attributes:
        lever: on the bars, ``(n,)`` (m).
        aside: how far to the belly of the last bar it lies (m).
    """

    chain: int
    lever: Floats
    aside: float = 0.0

    def place(self, of: Chains, angle: Floats) -> complex:
        """Where it is, in the bow's frame.

        Args:
            angle: inclinations of the bars, ``(c, n)`` (rad).

        Returns:
            Along + i·across (m).
        """
        mine, side = angle[self.chain], of.side[self.chain, 0]
        start = of.start[self.chain, 0]
        return complex(
            start.real + side * (self.lever @ np.cos(mine) - self.aside * np.sin(mine[-1])),
            start.imag + self.lever @ np.sin(mine) + self.aside * np.cos(mine[-1]),
        )

    def swing(self, of: Chains, angle: Floats) -> Points:
        """Its derivatives by the chain's angles, ``(n,)``.

        Args:
            angle: inclinations of the bars, ``(c, n)`` (rad).
        """
        mine, side = angle[self.chain], of.side[self.chain, 0]
        swing = np.asarray(self.lever * (-side * np.sin(mine) + 1j * np.cos(mine)))
        swing[-1] -= self.aside * (side * np.cos(mine[-1]) + 1j * np.sin(mine[-1]))
        return swing

    def turning(self, of: Chains, angle: Floats) -> Points:
        """Its second derivatives, each by one angle twice, ``(n,)``.

        Args:
            angle: inclinations of the bars, ``(c, n)`` (rad).
        """
        mine, side = angle[self.chain], of.side[self.chain, 0]
        turning = np.asarray(-self.lever * (side * np.cos(mine) + 1j * np.sin(mine)))
        turning[-1] -= self.aside * (-side * np.sin(mine[-1]) + 1j * np.cos(mine[-1]))
        return turning


def end_at(of: Chains, chain: int, along: float) -> End:
    """The point of a chain at a distance from its root along it (m); between nodes, straight
    between them.
    """
    places = np.cumsum(of.cell[chain])
    low = int(np.clip(np.searchsorted(places, along, side="right") - 1, 0, places.size - 2))
    share = float(np.clip((along - places[low]) / (places[low + 1] - places[low]), 0.0, 1.0))
    return End(chain, (1 - share) * of.lever[chain, low] + share * of.lever[chain, low + 1])
