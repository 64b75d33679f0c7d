"""Acts that change a bow on the bench otherwise than by wood off its belly, and what they do.

Each act turns the bow as it stood into the bow as it stands: its geometry from then on. What was
believed of the limbs goes along: places are counted anew on a shorter limb, stiffness changes as
the section of the limb *as estimated* does, and what nobody can know of the act widens the belief.
Readings taken before stay with the bow they were taken from.

What each kind does, and how uncertain that is, stands with it in :mod:`bowyery.tiller.kinds`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.design.alterations import at_stations
from bowyery.errors import DescriptionError
from bowyery.tiller.changes import Act, Pass, of_each, sides_of
from bowyery.tiller.estimate import (
    BEND,
    CROOK,
    CROOKS,
    FIELD,
    PLACES,
    STRING,
    UNKNOWN,
    Belief,
    between_places,
    few_cells,
)
from bowyery.tiller.kinds import ACTS
from bowyery.tiller.kinds.act import bevelled
from bowyery.tiller.kinds.peeled import thinner
from bowyery.tiller.kinds.removed import FACES
from bowyery.tiller.rescue import as_thick


@dataclass(frozen=True)
class Standing:
    """A bow and what is believed of it.

    Attributes:
        bow: with its geometry as it stands.
        few: its grid, a batch of one.
    """

    bow: Bow
    few: LimbGrid
    belief: Belief


def acted(standing: Standing, act: Act | Pass, bite: float = 0.0) -> Standing:
    """The bow after an act, or after wood came off its sides, edges, facets or back.

    Args:
        act: what was done; places from the bow's centre.
        bite: thickness that one stroke takes where strokes were counted (m).

    Returns:
        The bow as it stands then.

    Raises:
        DescriptionError: it cannot be done to this bow.
    """
    bow = standing.bow
    made = _done(bow, act, bite)
    few = standing.few if made is bow else few_cells(grid(made))
    moved = [limb.length for limb in made.limbs] != [limb.length for limb in bow.limbs]
    belief = standing.belief
    if moved:
        belief = _counted_anew(belief, bow, made)
    shift = _stiffer(bow, made, belief.mean[FIELD].reshape(2, PLACES), act, bite, moved)
    return Standing(made, few, _doubted(belief, made, act, shift))


def again(change: Act | Pass) -> tuple[str, ...]:
    """What to look at again after a change, in the order of the bench."""
    return ACTS[change.kind].again if isinstance(change, Act) else FACES[change.face].again


def _off(change: Pass, bite: float) -> float:
    return change.thickness if change.thickness is not None else (change.strokes or 0) * bite


def _done(bow: Bow, act: Act | Pass, bite: float) -> Bow:
    """The bow's geometry after an act; the same bow where that stays as it was."""
    if isinstance(act, Pass):
        return of_each(bow, act, lambda limb: _pared(limb, act, _off(act, bite)))
    done = ACTS[act.kind].done
    return bow if done is None else done(bow, act)


def _along(limb: Limb, act: Act | Pass, at: Floats) -> Floats:
    """How much of an act is done at places of a limb, 0 to 1: all between its ends, run out over an
    inch or two.
    """
    if act.start is None or act.end is None:
        return np.ones_like(at)
    start, end = act.start - limb.root[0], act.end - limb.root[0]
    return np.asarray(np.clip((at - start) / 0.04 + 1, 0, 1) * np.clip((end - at) / 0.04 + 1, 0, 1))


def _pared(limb: Limb, act: Pass, off: float) -> Limb:
    """A limb with so much off each of its sides, or off its back; edges and facets leave its
    greatest sizes alone.
    """
    if act.face not in ("sides", "back") or not FACES[act.face].wood:
        return limb
    more = np.array([] if act.start is None else [act.start, act.end or 0.0]) - limb.root[0]
    at = np.unique(np.concatenate([limb.at, np.clip(more, 0.0, limb.length)]))
    one = at_stations(limb, at)
    taken = off * _along(limb, act, at)
    if act.face == "sides":
        width = one.width - 2 * taken
        if np.any(width < 0.25 * one.width):
            raise DescriptionError("So much off both sides leaves no limb.", "sides")
        return replace(one, width=width)
    return thinner(one, taken)


def _counted_anew(belief: Belief, before: Bow, after: Bow) -> Belief:
    """What is believed at places of limbs that are shorter, or longer, than they were."""
    matrix = np.zeros((UNKNOWN, UNKNOWN))
    for side in (0, 1):
        share = after.limbs[side].length / before.limbs[side].length
        part = slice(side * PLACES, (side + 1) * PLACES)
        places = np.clip(np.linspace(0.0, share, PLACES), 0.0, 1.0)
        matrix[part, part] = between_places(np.eye(PLACES), places).T
        at = np.clip(np.linspace(0.0, share, CROOKS), 0.0, 1.0) * (CROOKS - 1.0)
        low = np.minimum(at.astype(int), CROOKS - 2)
        first = BEND.start + side * CROOKS
        rows = np.arange(CROOKS) + first
        matrix[rows, first + low] = 1 - (at - low)
        matrix[rows, first + low + 1] = at - low
    matrix[STRING, STRING] = 1.0
    covariances = matrix @ belief.covariances @ matrix.T
    return replace(belief, means=belief.means @ matrix.T, covariances=covariances)


def _log_stiffness(bow: Bow) -> Floats:
    """Log of the bending stiffness at the places of both limbs, ``(2, PLACES)``."""
    cut = few_cells(grid(bow))
    return np.stack(
        [
            np.interp(
                np.linspace(0.0, 1.0, PLACES), cut.shares[k, 0], np.log(cut.node_stiffness[k, 0])
            )
            for k in (0, 1)
        ]
    )


def _stiffer(
    before: Bow, after: Bow, field: Floats, act: Act | Pass, bite: float, moved: bool
) -> Floats:
    """How log stiffness *against the new geometry* changes, ``(2, PLACES)``: what the section of
    the limb as estimated gains beyond what the design's gains, and what no geometry shows.
    """
    shift = np.zeros((2, PLACES))
    sized = before is not after and not moved
    if sized and (isinstance(act, Pass) or ACTS[act.kind].sized):
        was = as_thick(before, field)
        now = _done(was, act, bite)
        shift += _log_stiffness(now) - _log_stiffness(was)
        shift -= _log_stiffness(after) - _log_stiffness(before)
    for side in sides_of(act):
        limb = before.limbs[side]
        at = np.linspace(0.0, limb.length, PLACES)
        there = _along(limb, act, at)
        if isinstance(act, Act):
            more = ACTS[act.kind].stiffer
            if more is not None:
                shift[side] += there * more(before, side, act, after is not before, at)
        elif FACES[act.face].bevels:
            width, depth = (np.interp(at, limb.at, v) for v in (limb.width, limb.thickness))
            shift[side] += there * bevelled(width, depth, np.full(PLACES, _off(act, bite)))
    return shift


def _doubted(belief: Belief, bow: Bow, act: Act | Pass, shift: Floats) -> Belief:
    """The belief moved by what an act does, and widened by what nobody knows of it."""
    kind = ACTS[act.kind] if isinstance(act, Act) else None
    alike, here = FACES[act.face].doubt if isinstance(act, Pass) else ACTS[act.kind].doubt
    means, covariances = belief.means.copy(), belief.covariances.copy()
    means[:, FIELD] += shift.ravel()
    for side in sides_of(act):
        limb = bow.limbs[side]
        done = np.zeros((2, PLACES))
        done[side] = _along(limb, act, np.linspace(0.0, limb.length, PLACES))
        pick = done.ravel()
        covariances[:, FIELD, FIELD] += alike**2 * np.outer(pick, pick) + here**2 * np.diag(pick)
        bend = kind.bent(limb, act) if kind and kind.bent and isinstance(act, Act) else 0.0
        if bend:
            part = slice(BEND.start + side * CROOKS, BEND.start + (side + 1) * CROOKS)
            covariances[:, part, part] += (bend / CROOK) ** 2
    return replace(belief, means=means, covariances=covariances)
