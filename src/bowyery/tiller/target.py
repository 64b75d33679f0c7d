"""Where wood is to come off: the wanted stiffness of every place, and the least removal that brings
the limbs to it.

Wanted is the design's bend at full draw: limbs whose stiffness stands to the design's by one factor
along each limb, the two factors in the relation the hold asks for. Among such states the stiffest
is taken whose weight is still what finishing and shooting in will bring down to the wanted one, and
nothing is ever added: a place weaker than that stays as it is, and the others come no further down
than the weight allows. How much thickness meets a fall of stiffness comes from the section
(:mod:`bowyery.bow.thinning`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import Thinning, thinning
from bowyery.mechanics import statics
from bowyery.tiller.estimate import PLACES, Estimate, at_nodes, few_cells

HINGE = 0.10  # log stiffness below the wanted one that makes a weak place
STIFF = 0.08
# A dip against the wood on both sides: how deep, in deviations, and how many places away that is.
DIP, SURE_DIP, BESIDE = 0.05, 0.8, 3
DEEPER = 0.05, 0.4, 1.0, 2.0  # below the weakest place: how low the wanted state is looked for
LEAST_SHARE = 0.002  # of the thickness; less cannot be taken on purpose
_BLOCK = 0.4  # a stretch ends where less than this part of its greatest removal is to come off


@dataclass(frozen=True)
class Removal:
    """Wood to take from one limb: mean thickness (m), share of the thickness, and between which
    places from its root (m).

    Without places it is the whole limb, from fade to nock. Removals of one limb add up where they
    overlap.

    Attributes:
        start: from (m).
        end: to (m).
    """

    limb: Side
    thickness: float
    share: float
    start: float | None = None
    end: float | None = None


@dataclass(frozen=True)
class Place:
    """A stretch that is weaker (a hinge) or stiffer than is wanted: from the root (m), and by what
    share.

    Attributes:
        start: from (m).
        end: to (m).
        seen: it was said so by eye, and the readings do not show it yet.
    """

    limb: Side
    start: float
    end: float
    by: float
    seen: bool = False

    def overlaps(self, other: Place) -> bool:
        """Whether it shares wood with another stretch."""
        return self.limb == other.limb and self.start < other.end and other.start < self.end


@dataclass(frozen=True)
class Target:
    """The wanted state.

    Attributes:
        field: log stiffness at the places, ``(2, PLACES)``.
        thickness: that stands now at the places, ``(2, PLACES)`` (m).
        removal: thickness to take at the places, all of it, ``(2, PLACES)`` (m).
        weight: at full draw once all of it is off (N).
        law: how stiffness goes with thickness there.
    """

    field: Floats
    law: Thinning
    thickness: Floats
    removal: Floats
    weight: float


def weights_of(limbs: LimbGrid, bow: Bow, fields: Floats, draw: float) -> Floats:
    """Weight at a draw (N) of bows whose places are so much stiffer than the design; ``fields`` is
    ``(B, 2, PLACES)``.

    Args:
        fields: log stiffness, ``(B, 2, PLACES)``.
        draw: from nocking point to pivot (m).
    """
    few = few_cells(limbs)
    varied = few.stiffened(np.exp(np.moveaxis(at_nodes(fields, few), 0, 1)))
    braced = statics.brace_bow(varied, bow)
    return statics.draw(varied, bow.hold, braced, np.full(varied.batch, draw)).weight


def wanted_state(
    limbs: LimbGrid, bow: Bow, now: Estimate, weight: float, draw: float, ratio: float
) -> Target:
    """The wanted state that loses least wood.

    Args:
        weight: at full draw, before finishing (N).
        draw: full draw (m).
        ratio: log of upper over lower stiffness that is wanted.
    """
    shift = np.array([[0.5 * ratio], [-0.5 * ratio]])
    level = now.field - shift
    for deeper in DEEPER:
        highs = np.linspace(float(level.min()) - deeper, float(level.max()), 13)
        fields = np.minimum(now.field, highs[:, None, None] + shift)
        heavy = np.maximum.accumulate(weights_of(limbs, bow, fields, draw))
        if heavy[0] <= weight:
            break
    top = float(np.interp(weight, heavy, highs))
    field = np.minimum(now.field, top + shift)
    law = thinning(bow, limbs, np.linspace(0.0, 1.0, PLACES))
    off = law.removal(now.field, now.field - field)
    return Target(field, law, law.standing(now.field), off, float(np.interp(top, highs, heavy)))


def feathered(field: Floats) -> Floats:
    """A removal run out into its neighbours, ``(2, PLACES)``.

    Args:
        field: at the places of the estimate, ``(…, PLACES)``.
    """
    padded = np.concatenate([field[:, :1], field, field[:, -1:]], axis=1)
    return np.asarray(0.25 * padded[:, :-2] + 0.5 * padded[:, 1:-1] + 0.25 * padded[:, 2:])


def sparing(limbs: LimbGrid, field: Floats, weak: tuple[Place, ...]) -> Floats:
    """A removal that leaves weak places alone: what was run out into them is not taken, and between
    two places it goes evenly, so that those on either side of a weak one stay as they are, too.

    Args:
        field: thickness to take at the places, ``(2, PLACES)`` (m).

    Returns:
        The removal, ``(2, PLACES)`` (m).
    """
    field = field.copy()
    for one in weak:
        side = SIDES.index(one.limb)
        at = np.linspace(0.0, float(limbs.length[side, 0]), PLACES)
        first, last = np.searchsorted(at, one.start, "right") - 1, np.searchsorted(at, one.end)
        field[side, max(0, first) : last + 1] = 0.0
    return field


def removals_of(limbs: LimbGrid, field: Floats, thickness: Floats) -> tuple[Removal, ...]:
    """A removal in the terms of the bench: so much off the whole limb, and so much more between two
    places.

    Args:
        field: thickness to take at the places, ``(2, PLACES)`` (m).
        thickness: that stands there (m).
    """
    found: list[Removal] = []
    for side, name in enumerate(SIDES):
        at = np.linspace(0.0, float(limbs.length[side, 0]), PLACES)
        rest, deep = field[side].copy(), float(np.median(thickness[side]))
        whole = float(np.quantile(rest[:-1], 0.1))
        if whole >= LEAST_SHARE * deep:
            found.append(Removal(name, whole, whole / deep))
            rest = rest - whole
        first = 0.0  # what a second stretch must come near to be worth a sentence of its own
        for _ in range(2):
            top = int(rest[:-1].argmax())
            if rest[top] < max(LEAST_SHARE * deep, 0.5 * first, 0.15 * float(field.max())):
                break
            first = float(rest[top])
            low = high = top
            while low > 0 and rest[low - 1] >= _BLOCK * rest[top]:
                low -= 1
            while high < PLACES - 1 and rest[high + 1] >= _BLOCK * rest[top]:
                high += 1
            mean = float(rest[low : high + 1].mean())
            half = 0.5 * (at[1] - at[0])
            start, end = max(0.0, at[low] - half), min(at[-1], at[high] + half)
            if mean >= LEAST_SHARE * deep:
                found.append(Removal(name, mean, mean / deep, float(start), float(end)))
            rest[low : high + 1] -= np.maximum(rest[low : high + 1], 0.0)
    return tuple(found)


def uneven_places(
    limbs: LimbGrid, now: Estimate, target: Target
) -> tuple[tuple[Place, ...], tuple[Place, ...]]:
    """Weak places (hinges) and stiff ones, where the difference is larger than what is not known of
    it.
    """
    off = now.field - target.field.max(1, keepdims=True)
    sure = 1.0 * now.spread
    dip, known = _dips(now)
    weak: list[Place] = []
    stiff: list[Place] = []
    for side, name in enumerate(SIDES):
        at = np.linspace(0.0, float(limbs.length[side, 0]), PLACES)
        for rows, sign, bound in ((weak, -1.0, HINGE), (stiff, 1.0, STIFF)):
            hit = sign * off[side] > np.maximum(bound, sure[side])
            if sign < 0:  # a hinge shows against the wood a hand's breadth on both sides of it
                hinged = dip[side] < -np.maximum(DIP, SURE_DIP * known[side])
                hit |= hinged & (off[side] < 0.5 * HINGE)
            hit[-1] = False  # a nock bends next to nothing
            start = None
            for k in range(PLACES):
                if hit[k] and start is None:
                    start = k
                if start is not None and (k == PLACES - 1 or not hit[k + 1]):
                    worst = float(np.abs(off[side, start : k + 1]).max())
                    if sign < 0:
                        worst = max(worst, float(-dip[side, start : k + 1].min()))
                    half = 0.5 * (at[1] - at[0])
                    rows.append(
                        Place(
                            name, max(0.0, at[start] - half), at[k] + half, float(np.expm1(worst))
                        )
                    )
                    start = None
    return tuple(weak), tuple(stiff)


def _dips(now: Estimate) -> tuple[Floats, Floats]:
    """How far each place's log stiffness lies below the mean of the wood beside it, below zero, and
    one deviation of that, ``(2, PLACES)`` each; nothing at the ends.
    """
    dip, known = np.zeros((2, PLACES)), np.full((2, PLACES), np.inf)
    for side in (0, 1):
        for k in range(1, PLACES - 2):  # the last hand's breadth bends next to nothing
            pick = np.zeros((2, PLACES))
            pick[side, k] = 1.0
            for beside in (max(0, k - BESIDE), min(PLACES - 1, k + BESIDE)):
                pick[side, beside] -= 0.5
            dip[side, k] = float((pick * now.field).sum())
            known[side, k] = float(np.sqrt(pick.ravel() @ now.covariance @ pick.ravel()))
    return dip, known


def edge_correction(off: float, width: float, deflection: float) -> float:
    """How much more to take at one edge than at the other, so that the string comes over the middle
    (m).

    A limb thicker at one edge by Δt bends aside as well: its sideways curvature is Δt/(2w) of its
    bend, and so the tip's way aside of its way in the bending plane (unsymmetric bending: Gere and
    Goodno 2012, section 6.5). The wood comes off the edge that lies towards the middle of the grip,
    away from which the string has moved.

    Args:
        off: how far the string lies off the middle at the grip, because of this limb (m).
        width: of the limb (m).
        deflection: of its tip from its unstrung place (m).
    """
    return 2 * width * abs(off) / max(deflection, 0.02)
