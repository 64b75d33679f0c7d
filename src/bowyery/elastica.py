"""One limb as an elastic line: the march from nock to root, and the bent shapes that come of it.

Each limb is a map from string tension T and the angle p between limb and string at the nock to the place of
its tip and the direction of the string: a march from the nock inward in the string's frame, which carries
the derivatives with respect to T and p along. Staggered midpoint rule (Störmer–Verlet): second order, and
the same as a chain of rigid bars joined by springs, so that its energy balances exactly. A negative p is
minus the length over which the string lies on the limb. Elastica: Love, A Treatise on the Mathematical
Theory of Elasticity (1927), chapter 19. Batched throughout: first axis upper and lower limb, second the bows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.bow import LimbGrid
from bowyery.section import Floats

SIDES = np.array([1.0, -1.0])[:, None]  # the lower limb's outward axis points down the handle axis


@dataclass(frozen=True)
class March:
    """Where the march from nock to root ends, and its derivatives by (T, p); shapes ``(2, B)``, ``(2, 2, B)``."""

    inward: Floats
    offset: Floats
    angle: Floats
    d_inward: Floats
    d_offset: Floats
    d_angle: Floats


def march(limbs: LimbGrid, tension: Floats, p: Floats) -> March:
    """March each limb from the nock, or from where the string lifts off, to the root.

    Args:
        limbs: the grid.
        tension: T, ``(2, B)`` (N).
        p: angle at the nock (rad), or minus the length in contact (m), ``(2, B)``.

    Returns:
        Position of the root in the string's frame: distance inward along the string, offset of the string
        from the limb, angle between limb and string.
    """
    n = limbs.cells
    step = limbs.length / n
    free = limbs.length + np.minimum(p, 0.0)
    in_contact = p < 0
    psi = np.maximum(p, 0.0)
    a, b = np.zeros_like(psi), np.zeros_like(psi)
    da, db, dpsi = (np.zeros((2, *psi.shape)) for _ in range(3))
    dpsi[1] = np.where(in_contact, 0.0, 1.0)
    cos, sin = np.cos(psi), np.sin(psi)
    any_contact = bool(in_contact.any())
    ds, dds = step, np.zeros_like(step)
    for i in range(n - 1, -1, -1):
        if any_contact:
            ds = np.clip(free - i * step, 0.0, step)
            dds = np.where(in_contact & (ds > 0) & (ds < step), 1.0, 0.0)
        half = 0.5 * ds
        a, b = a + half * cos, b + half * sin
        da, db = da - half * sin * dpsi, db + half * cos * dpsi
        compliance = 1.0 / limbs.stiffness[..., i]
        bend = limbs.curvature[..., i] + tension * b * compliance
        if any_contact:
            da[1] += 0.5 * dds * cos
            db[1] += 0.5 * dds * sin
            dpsi[1] -= dds * bend
        dbend = tension * compliance * db
        dbend[0] += b * compliance
        psi, dpsi = psi - ds * bend, dpsi - ds * dbend
        cos, sin = np.cos(psi), np.sin(psi)
        a, b = a + half * cos, b + half * sin
        da, db = da - half * sin * dpsi, db + half * cos * dpsi
        if any_contact:
            da[1] += 0.5 * dds * cos
            db[1] += 0.5 * dds * sin
    return March(a, b, psi, da, db, dpsi)


@dataclass(frozen=True)
class Ends:
    """Tips (or lift-off points) and outward string directions in the bow's frame; vectors on the first axis."""

    tip: Floats
    out: Floats
    d_tip: Floats
    d_out: Floats


def ends(limbs: LimbGrid, tension: Floats, p: Floats) -> Ends:
    m = march(limbs, tension, p)
    phi = limbs.root[..., 2] - m.angle
    d_phi = -m.d_angle
    c, s = np.cos(phi), np.sin(phi)
    out, normal = np.stack([c, s]), np.stack([-s, c])
    tip = np.stack([limbs.root[..., 0], limbs.root[..., 1]]) + m.inward * out + m.offset * normal
    d_tip = m.d_inward * out[:, None] + m.d_offset * normal[:, None] + (m.inward * normal - m.offset * out)[:, None] * d_phi[None]
    d_out = normal[:, None] * d_phi[None]
    for vector in (tip, out, d_tip, d_out):
        vector[0] *= SIDES
    return Ends(tip, out, d_tip, d_out)


@dataclass(frozen=True)
class Shapes:
    """Shapes and loads along the limbs at given states, all ``(2, B, n+1)`` from root to nock.

    Attributes:
        along, across: position of the neutral axis in the bow's frame (m).
        moment: bending moment (N·m).
        bend: curvature added to the unstrung one (1/m).
        back, belly: strain there, tension positive.
        energy: stored in bending, ``(B,)`` (J).
        tip: position of the nocks, ``(2, 2, B)``: along/across, limb.
    """

    along: Floats
    across: Floats
    moment: Floats
    bend: Floats
    back: Floats
    belly: Floats
    energy: Floats
    tip: Floats


def shapes(limbs: LimbGrid, tension: Floats, p: Floats) -> Shapes:
    """Work out shapes, moments and strains at solved states; ``tension`` and ``p`` are ``(2, B)``."""
    n = limbs.cells
    step = limbs.length / n
    free = limbs.length + np.minimum(p, 0.0)
    psi = np.maximum(p, 0.0)
    b = np.zeros_like(psi)
    bar = np.zeros((*psi.shape, n + 1))  # inclination of the bar around each node
    offset = np.zeros_like(bar)
    bend = np.zeros((*psi.shape, n))
    sin = np.sin(psi)
    bar[..., n] = psi
    for i in range(n - 1, -1, -1):
        ds = np.clip(free - i * step, 0.0, step)
        b = b + 0.5 * ds * sin
        bend[..., i] = tension * b / limbs.stiffness[..., i]
        psi = psi - ds * (limbs.curvature[..., i] + bend[..., i])
        sin = np.sin(psi)
        b = b + 0.5 * ds * sin
        bar[..., i], offset[..., i] = psi, b
    # turn the whole limb so that its root has its known inclination, then lay the bars outward
    turn = limbs.root[..., 2] - bar[..., 0]
    held = np.cumsum((limbs.curvature + bend) * step[..., None], axis=-1)
    inclination = limbs.root[..., 2, None] + np.concatenate([np.zeros_like(held[..., :1]), held], axis=-1)
    half = 0.5 * step[..., None]
    du = half * (np.cos(inclination[..., 1:]) + np.cos(inclination[..., :-1]))
    dy = half * (np.sin(inclination[..., 1:]) + np.sin(inclination[..., :-1]))
    zero = np.zeros_like(turn)[..., None]
    u = limbs.root[..., 0, None] + np.concatenate([zero, np.cumsum(du, -1)], -1)
    y = limbs.root[..., 1, None] + np.concatenate([zero, np.cumsum(dy, -1)], -1)
    moment = tension[..., None] * offset
    curve = moment / limbs.node_stiffness
    energy = 0.5 * (limbs.stiffness * bend**2).sum(-1) * step
    along = u * SIDES[..., None]
    return Shapes(
        along,
        y,
        moment,
        curve,
        curve * limbs.axis,
        -curve * (limbs.depth - limbs.axis),
        energy.sum(0),
        np.stack([along[..., -1], y[..., -1]]),
    )


def bent(limbs: LimbGrid, scale: Floats) -> tuple[Floats, Floats]:
    """Tips ``(2, 2, B, k)`` and root moment arms for guessed bends ``scale·(L − s)/EI``, ``scale`` is ``(B, k)``."""
    n = limbs.cells
    middle = 1 - (np.arange(n) + 0.5) / n
    lever = limbs.length[..., None] * middle / limbs.stiffness
    step = (limbs.length / n)[..., None, None]
    kappa = limbs.curvature[:, :, None, :] + scale[None, :, :, None] * lever[:, :, None, :]
    theta = np.cumsum(kappa, -1) * step
    theta = limbs.root[..., 2, None, None] + theta - 0.5 * kappa * step
    tip = np.stack(
        [
            SIDES[..., None] * (limbs.root[..., 0, None] + (np.cos(theta) * step).sum(-1)),
            limbs.root[..., 1, None] + (np.sin(theta) * step).sum(-1),
        ]
    )
    return tip, theta[..., -1]


def scales(limbs: LimbGrid, count: int) -> Floats:
    n = limbs.cells
    middle = 1 - (np.arange(n) + 0.5) / n
    turn = ((limbs.length[..., None] * middle / limbs.stiffness).sum(-1) * limbs.length / n).max(0)
    # squared spacing: fine where bows are braced
    return np.asarray(np.linspace(0.0, 1.0, count) ** 1.5 * (2.6 / turn)[:, None])
