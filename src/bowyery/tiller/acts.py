"""Acts that change a bow on the bench otherwise than by wood off its belly, and what they do.

Each act turns the bow as it stood into the bow as it stands: its geometry from then on. What was
believed of the limbs goes along: places are counted anew on a shorter limb, stiffness changes as
the section of the limb *as estimated* does, and what nobody can know of the act widens the belief.
Readings taken before stay with the bow they were taken from.

How much an act is uncertain is a judgement of the bench, to be replaced by what the shop's own acts
did: DOUBT gives it in log stiffness, alike over a limb and place by place.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.bow.section import Layer
from bowyery.design.alterations import at_stations, backed, heated, is_heated
from bowyery.errors import DescriptionError
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
from bowyery.tiller.log import Act, Pass
from bowyery.tiller.rescue import as_thick, patched
from bowyery.wood.materials import material

# Log stiffness that an act leaves unknown, alike over each limb it was done to, and place by place.
DOUBT: dict[str, tuple[float, float]] = {
    "cut": (0.0, 0.01),
    "centre": (0.0, 0.0),
    "patch": (0.0, 0.08),
    "rounded": (0.02, 0.02),
    "heat": (0.04, 0.03),
    "reflex": (0.02, 0.02),
    "twist out": (0.02, 0.02),
    "straightened": (0.02, 0.02),
    "backing": (0.10, 0.04),
    "eased": (0.0, 0.02),
    "overlay": (0.0, 0.0),
    "mended": (0.0, 0.06),
    "sides": (0.02, 0.02),
    "edges": (0.02, 0.02),
    "facets": (0.02, 0.02),
    "back": (0.04, 0.02),
}
SPRINGS_BACK = 0.35  # of a reflex put in: one deviation of what may have sprung back
SHRINKS = 0.12  # even bend a drying backing may pull into limbs, one deviation (1/m)
ROUNDED = 0.2  # of the depth: the edges of a belly that is rounded over
COLOURS = {"": 1.0, "golden": 1.0, "brown": 1.3, "dark": 1.5}  # how much more than golden it does
HEATED = 0.03  # log stiffness that a golden belly adds to a limb of one wood
AGAIN = 0.4  # of what it did the first time, where a belly is heated again
# What to look at again after an act, in the order of the bench.
RECHECKS: dict[str, tuple[str, ...]] = {
    "cut": ("centre", "tiller", "weight"),
    "centre": ("tiller",),
    "patch": ("tiller", "weight"),
    "rounded": ("tiller", "weight"),
    "heat": ("tiller", "weight"),
    "reflex": ("tiller", "weight"),
    "twist out": ("tiller",),
    "straightened": ("tiller",),
    "backing": ("tiller", "weight"),
    "eased": ("tiller",),
    "overlay": ("tiller",),
    "mended": ("tiller",),
    "sides": ("tiller", "weight"),
    "edges": ("tiller",),
    "facets": ("tiller",),
    "back": ("tiller", "weight"),
}


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
    kind = act.kind if isinstance(act, Act) else act.face
    bow = standing.bow
    made = _done(bow, act, bite)
    few = standing.few if made is bow else few_cells(grid(made))
    moved = [limb.length for limb in made.limbs] != [limb.length for limb in bow.limbs]
    belief = standing.belief
    if moved:
        belief = _counted_anew(belief, bow, made)
    shift = _stiffer(bow, made, belief.mean[FIELD].reshape(2, PLACES), act, bite, moved)
    return Standing(made, few, _doubted(belief, made, act, kind, shift))


def _sides_of(act: Act | Pass) -> tuple[int, ...]:
    return (0, 1) if act.limb is None else (SIDES.index(act.limb),)


def _each(bow: Bow, act: Act | Pass, change: Callable[[Limb], Limb]) -> Bow:
    limbs = [change(one) if k in _sides_of(act) else one for k, one in enumerate(bow.limbs)]
    return replace(bow, upper=limbs[0], lower=limbs[1])


def _done(bow: Bow, act: Act | Pass, bite: float) -> Bow:
    """The bow's geometry after an act; the same bow where that stays as it was."""
    if isinstance(act, Pass):
        off = act.thickness if act.thickness is not None else (act.strokes or 0) * bite
        return _each(bow, act, lambda limb: _pared(limb, act, off))
    value = act.value or 0.0
    if act.kind == "cut":
        return _each(bow, act, lambda limb: _cut(limb, value))
    if act.kind == "centre":
        px, py = bow.hold.pivot
        return replace(bow, hold=replace(bow.hold, pivot=(px + value, py)))
    if act.kind == "reflex":
        return _each(bow, act, lambda limb: _reflexed(limb, value))
    if act.kind == "backing":
        return backed(bow, material(act.how), value)
    if act.kind == "patch" and act.limb is not None:
        root = bow.limbs[SIDES.index(act.limb)].root[0]
        start, end = (act.start or 0.0) - root, (act.end or 0.0) - root
        return patched(bow, act.limb, max(0.0, start), end, value)
    if act.kind == "heat" and act.start is None and all(map(_bare, bow.limbs)):
        hot = heated(bow)
        return _each(bow, act, lambda limb: hot.upper if limb is bow.upper else hot.lower)
    return bow


def _bare(limb: Limb) -> bool:
    """Whether the belly is plain wood, neither faced nor heated yet."""
    return limb.layers[-1].thickness is None


def _cut(limb: Limb, by: float) -> Limb:
    if not (np.isfinite(by) and 0 < by < 0.5 * limb.length):
        raise DescriptionError("Cut off more than nothing and less than half of a limb.", "cut")
    new = limb.length - by
    return at_stations(limb, np.append(limb.at[limb.at < new - 1e-6], new))


def _reflexed(limb: Limb, tip: float) -> Limb:
    places = np.unique(
        np.concatenate([np.clip(limb.unstrung_at, 0.0, limb.length), [0.0, limb.length]])
    )
    natural = np.interp(places, limb.unstrung_at, limb.unstrung)
    return replace(limb, unstrung_at=places, unstrung=natural - 2 * tip / limb.length**2)


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
    if act.face not in ("sides", "back"):
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
    if np.any(taken > 0.6 * one.thickness):
        raise DescriptionError("So much off the back leaves no limb.", "back")
    first: Layer = one.layers[0]
    if first.thickness is None:
        return replace(one, thickness=one.thickness - taken)
    left = np.maximum(first.thickness + 0 * at - taken, 1e-5)
    gone = first.thickness + 0 * at - left
    layers = (replace(first, thickness=left), *one.layers[1:])
    return replace(one, thickness=one.thickness - gone, layers=layers)


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
    if sized and (isinstance(act, Pass) or act.kind in ("patch", "backing")):
        was = as_thick(before, field)
        now = _done(was, act, bite)
        shift += _log_stiffness(now) - _log_stiffness(was)
        shift -= _log_stiffness(after) - _log_stiffness(before)
    for side in _sides_of(act):
        limb = before.limbs[side]
        at = np.linspace(0.0, limb.length, PLACES)
        there = _along(limb, act, at)
        depth = np.interp(at, limb.at, limb.thickness)
        width = np.interp(at, limb.at, limb.width)
        if isinstance(act, Pass) and act.face in ("edges", "facets"):
            off = act.thickness if act.thickness is not None else (act.strokes or 0) * bite
            shift[side] += there * _bevelled(width, depth, np.full(PLACES, off))
        elif isinstance(act, Act) and act.kind == "rounded":
            shift[side] += there * _bevelled(width, depth, ROUNDED * depth)
        elif isinstance(act, Act) and act.kind == "heat":
            shift[side] += there * _hardened(before, side, act, after is not before)
    return shift


def _hardened(bow: Bow, side: int, act: Act, shown: bool) -> float:
    """Log stiffness that heat adds to a limb, beyond what the new geometry shows already: by its
    colour, and little where the belly was heated before.
    """
    much = COLOURS.get(act.how, 1.0) - (1.0 if shown else 0.0)
    if is_heated(bow.limbs[side]):
        return AGAIN * HEATED * much
    if not _bare(bow.limbs[side]):
        return 0.0  # a facing is not hardened
    return float((_log_stiffness(heated(bow)) - _log_stiffness(bow))[side].mean()) * much


def _bevelled(width: Floats, depth: Floats, edge: Floats) -> Floats:
    """Log of what is left of a rectangle's stiffness once both edges of its belly are taken off by
    so much (m); a little less than a section that is rounded already loses.
    """
    z = np.linspace(0.0, 1.0, 201)[:, None]
    edge = np.minimum(edge, 0.45 * np.minimum(width, depth))
    wide = width - 2 * np.maximum(0.0, z * depth - (depth - edge))
    area = np.trapezoid(wide, z, axis=0)
    middle = np.trapezoid(wide * z, z, axis=0) / area
    second = np.trapezoid(wide * (z - middle) ** 2, z, axis=0)
    return np.asarray(np.log(second / (width / 12)))


def _doubted(belief: Belief, bow: Bow, act: Act | Pass, kind: str, shift: Floats) -> Belief:
    """The belief moved by what an act does, and widened by what nobody knows of it."""
    alike, here = DOUBT[kind]
    means, covariances = belief.means.copy(), belief.covariances.copy()
    means[:, FIELD] += shift.ravel()
    for side in _sides_of(act):
        limb = bow.limbs[side]
        done = np.zeros((2, PLACES))
        done[side] = _along(limb, act, np.linspace(0.0, limb.length, PLACES))
        pick = done.ravel()
        covariances[:, FIELD, FIELD] += alike**2 * np.outer(pick, pick) + here**2 * np.diag(pick)
        bend = 0.0
        if kind == "reflex" and isinstance(act, Act):
            bend = SPRINGS_BACK * abs(2 * (act.value or 0.0)) / limb.length**2
        elif kind == "backing":
            bend = SHRINKS
        if bend:
            part = slice(BEND.start + side * CROOKS, BEND.start + (side + 1) * CROOKS)
            covariances[:, part, part] += (bend / CROOK) ** 2
    return replace(belief, means=means, covariances=covariances)
