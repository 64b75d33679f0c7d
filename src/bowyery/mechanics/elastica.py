"""One limb as an elastic line: the march from nock to root, and the bent shapes that come of it.

Each limb is a map from string tension T and the angle p between limb and string at the nock to the
place of its tip and the direction of the string: a march from the nock inward in the string's
frame, which carries the derivatives with respect to T and p along. Staggered midpoint rule
(Störmer–Verlet): second order, and the same as a chain of rigid bars joined by springs, so that its
energy balances exactly. A negative p is minus the length over which the string lies on the limb.
Elastica: Love, A Treatise on the Mathematical Theory of Elasticity (1927), chapter 19. Batched
throughout: first axis upper and lower limb, second the bows.
Points and directions in the plane are complex numbers: along the handle axis, and i times across to
the belly.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats, Points
from bowyery.bow.limb_grid import LimbGrid

OUTWARD = np.array([[1.0], [-1.0]])  # the lower limb's outward axis points down the handle axis


@dataclass(frozen=True)
class March:
    """Where the march from nock to root ends, its derivatives by (T, p), and the bars on its way.

    Attributes:
        place: of the root in the string's frame: inward along the string, i × offset from it, ``(2,
            B)`` (m).
        angle: between limb and string at the root, ``(2, B)`` (rad).
        d_place, d_angle: by T and p, ``(2, 2, B)``.
        bars: inclination of the bar around each node to the string, nock first, ``(n+1, 2, B)``
            (rad).
        share: how much of a cell's length the bar at each node has, ``(n+1, 2, B)`` or ``(n+1, 1,
            1)``.
    """

    place: Points
    angle: Floats
    d_place: Points
    d_angle: Floats
    bars: Floats
    share: Floats


def _free_cells(limbs: LimbGrid, p: Floats) -> tuple[Floats, Floats]:
    """Share of each cell, nock first, that the string does not lie on, and its derivative by p."""
    n = limbs.cells
    step = limbs.length / n
    index = np.arange(n - 1, -1, -1.0)[:, None, None]
    left = (limbs.length + np.minimum(p, 0.0)) / step - index
    cut = (p < 0) & (left > 0) & (left < 1)
    return np.clip(left, 0.0, 1.0), np.where(cut, 1.0 / step, 0.0)


def march(limbs: LimbGrid, tension: Floats, p: Floats, contact: bool = True) -> March:
    """March each limb from the nock, or from where the string lifts off, to the root.

    Args:
        limbs: the grid.
        tension: T, ``(2, B)`` (N).
        p: angle at the nock (rad), or minus the length in contact (m), ``(2, B)``.
        contact: whether a negative p is a length in contact; if not it is an angle like any other.

    Returns:
        The root in the string's frame, and all that was met on the way.
    """
    n, shape = limbs.cells, p.shape
    step = limbs.length / n
    touching = p < 0
    lies = contact and bool(touching.any())
    # lengths are counted in cells; the derivative by T is carried as T times itself, its offset
    # with b added
    compliance, curvature = limbs.march_values
    pull = compliance * tension
    bars, sines, cosines = (
        np.empty((n + 1, 3, *shape)),
        np.empty((n + 1, *shape)),
        np.empty((n + 1, *shape)),
    )
    state = bars[0]
    state[0] = np.maximum(p, 0.0) if contact else p
    state[1] = 0.0
    state[2] = np.where(touching, 0.0, 1.0) if contact else 1.0
    offset, turn, term = np.zeros((3, *shape)), np.empty((3, *shape)), np.empty((2, *shape))
    low, high = offset[:2], offset[1:]
    np.sin(state[0], out=sines[0])
    np.cos(state[0], out=cosines[0])
    share, d_share = np.ones((n + 1, 1, 1)), None
    share[0] = share[n] = 0.5
    if lies:
        free, d_free = _free_cells(limbs, p)
        share, d_share = np.zeros((n + 1, *shape)), np.zeros((n + 1, *shape))
        share[:-1] += 0.5 * free
        share[1:] += 0.5 * free
        d_share[:-1] += 0.5 * d_free
        d_share[1:] += 0.5 * d_free
    for i in range(n):
        if lies:
            assert d_share is not None
            s, c = sines[i] * share[i], cosines[i] * share[i]
            offset[2] += d_share[i] * sines[i]
        elif i == 0:
            s, c = 0.5 * sines[0], 0.5 * cosines[0]
        else:
            s, c = sines[i], cosines[i]
        np.multiply(c, state[1:], out=term)
        low += s
        high += term
        np.multiply(pull[i], offset, out=turn)
        if curvature is not None:
            turn[0] += curvature[i]
        if lies:
            bend = turn[0]
            turn[2] *= free[i]
            turn[2] += d_free[i] * bend
            turn[:2] *= free[i]
        state = np.subtract(state, turn, out=bars[i + 1])
        np.sin(state[0], out=sines[i + 1])
        np.cos(state[0], out=cosines[i + 1])
    s, c = sines[n] * share[n], cosines[n] * share[n]
    low += s
    high += c * state[1:]
    angles = bars[:, 0]
    d_bars = bars[:, 1:]
    s, c = (sines * share)[:, None], cosines * share
    inward, d_inward = c.sum(0), -(s * d_bars).sum(0)
    offset[1] -= offset[0]
    d_angle = state[1:].copy()
    if lies:
        assert d_share is not None
        d_inward[1] += (d_share * cosines).sum(0)
        offset[2] += d_share[n] * sines[n]
    d_place = (d_inward + 1j * offset[1:]) * step
    loaded = np.where(tension > 0, tension, 1.0)
    d_place[0] /= loaded
    d_angle[0] /= loaded
    return March((inward + 1j * offset[0]) * step, state[0], d_place, d_angle, angles, share)


@dataclass(frozen=True)
class Ends:
    """Tips (or lift-off points) and outward string directions in the bow's frame, ``(2, B)``;
    derivatives ``(2, 2, B)``.

    Attributes:
        tip: of each nock, ``(2, B)`` (m).
        out: outward direction of the string, ``(2, B)``.
        d_tip: its derivatives by (T, p), ``(2, 2, B)``.
        d_out: its derivatives by (T, p), ``(2, 2, B)``.
    """

    tip: Points
    out: Points
    d_tip: Points
    d_out: Points


def ends(limbs: LimbGrid, tension: Floats, p: Floats, contact: bool = True) -> Ends:
    """Place the marched limbs on their roots.

    Args:
        limbs: the grid, ``B`` bows.
        tension: T, ``(2, B)`` (N).
        p: ``(2, B)``: angle at the nock (rad), or minus the length in contact (m).
        contact: whether a negative p is a length in contact.

    Returns:
        Tips and string directions with their derivatives.
    """
    m = march(limbs, tension, p, contact)
    out = np.exp(1j * (limbs.root[..., 2] - m.angle))
    d_out = -1j * m.d_angle * out
    root = limbs.root[..., 0] + 1j * limbs.root[..., 1]
    found = Ends(root + m.place * out, out, m.d_place * out + m.place * d_out, d_out)
    for points in (found.tip, found.out, found.d_tip, found.d_out):
        lower = points[..., 1, :]
        lower.real *= -1.0  # the lower limb's outward axis points down the handle axis
    return found


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
        tip: position of the nocks, ``(2, 2, B)``: along/across, limb.
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
        )


def shapes(limbs: LimbGrid, tension: Floats, p: Floats, contact: bool = True) -> Shapes:
    """Work out shapes, moments and strains at solved states; ``tension`` and ``p`` are ``(2,
    B)``.

    Args:
        limbs: the grid, ``B`` bows.
        tension: T, ``(2, B)`` (N).
        p: ``(2, B)``: angle at the nock (rad), or minus the length in contact (m).
        contact: whether a negative p is a length in contact.

    Returns:
        Shapes at the nodes, ``(2, B, n+1)`` each.
    """
    m = march(limbs, tension, p, contact)
    step = (limbs.length / limbs.cells)[..., None]
    sines = np.sin(m.bars) * m.share
    offset = np.cumsum(sines, 0)
    # at the middle of a cell all bars up to it count, at a node its own bar by half
    middle = np.moveaxis(offset[:-1], 0, -1)[..., ::-1] * step
    free = _free_cells(limbs, p)[0] if m.share.shape[1] > 1 else 1.0
    at_node = offset.copy()
    at_node[:-1] -= 0.5 * free * np.sin(m.bars[:-1])
    moment = tension[..., None] * np.moveaxis(at_node, 0, -1)[..., ::-1] * step
    bend = tension[..., None] * middle / limbs.stiffness
    turned = np.cumsum((limbs.curvature + bend) * step, axis=-1)
    inclination = (
        np.concatenate([np.zeros_like(turned[..., :1]), turned], -1) + limbs.root[..., 2, None]
    )
    bars = np.exp(1j * inclination)
    way = np.cumsum(0.5 * step * (bars[..., 1:] + bars[..., :-1]), -1)
    place = (
        np.concatenate([np.zeros_like(way[..., :1]), way], -1)
        + (limbs.root[..., 0] + 1j * limbs.root[..., 1])[..., None]
    )
    place[1].real *= -1.0
    curve = moment / limbs.node_stiffness
    energy = 0.5 * (limbs.stiffness * bend**2 * step).sum((0, 2))
    return Shapes(
        place.real,
        place.imag,
        moment,
        curve,
        curve * limbs.axis,
        -curve * (limbs.depth - limbs.axis),
        bend,
        energy,
        np.stack([place[..., -1].real, place[..., -1].imag]),
    )


def bent(limbs: LimbGrid, scale: Floats) -> tuple[Points, Floats]:
    """Tips ``(2, B, k)`` and nock inclinations for guessed bends ``scale·(L − s)/EI``, ``scale`` is
    ``(B, k)``.

    Args:
        limbs: the grid, ``B`` bows.
    """
    n = limbs.cells
    step = limbs.length / n
    middle = 1 - (np.arange(n) + 0.5) / n
    lever = limbs.length[..., None] * middle / limbs.stiffness
    # half the turn of a cell belongs to the cell itself
    natural = np.cumsum(limbs.curvature, -1) - 0.5 * limbs.curvature
    added = np.cumsum(lever, -1) - 0.5 * lever
    theta = (natural * step[..., None] + limbs.root[..., 2, None])[:, :, None] + scale[
        None, :, :, None
    ] * (added * step[..., None])[:, :, None]
    way = np.exp(1j * theta).sum(-1) * step[..., None]
    tip = way + (limbs.root[..., 0] + 1j * limbs.root[..., 1])[..., None]
    tip[1].real *= -1.0
    return tip, theta[..., -1]


def scales(limbs: LimbGrid, count: int) -> Floats:
    """Guessed bends from none to far more than any bow's, ``(B, count)``.

    Args:
        limbs: the grid, ``B`` bows.
        count: how many to name.
    """
    n = limbs.cells
    middle = 1 - (np.arange(n) + 0.5) / n
    turn = ((limbs.length[..., None] * middle / limbs.stiffness).sum(-1) * limbs.length / n).max(0)
    # squared spacing: fine where bows are braced
    return np.asarray(np.linspace(0.0, 1.0, count) ** 1.5 * (2.6 / turn)[:, None])
