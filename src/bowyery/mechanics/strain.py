"""What strain does to a limb: use of its limits, layer by layer, and the set that stays, with a
range.

Each layer is bent to its own limits: tension at its back's side, where it breaks, and compression
at its belly's side, where it keeps a set and, far beyond that, is crushed. Where the compressed
side passes its elastic limit part of the excess stays when the bow is unstrung; a little stays of
any bend, the more the nearer it comes to that limit: ``κ_set = r · max(0, κ − κ_limit) + c · κ ·
min(1, κ / κ_limit)``. That compression parallel to the grain leaves a permanent set of this kind,
while tension stays elastic until near rupture, is textbook wood mechanics (Bodig and Jayne,
Mechanics of Wood and Wood Composites, 1982, chapter 4; creep below the limit there too, chapter 5).
Both shares are workshop figures, 0.4 and 0.02; the first is learned from a maker's own bows
(:mod:`bowyery.record.learned`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, layer_depths
from bowyery.mechanics.elastica import Shapes
from bowyery.mechanics.elastica import shapes as rest_shapes
from bowyery.wood.materials import working_strain

SET_SHARE = 0.4
SET_SHARE_SPREAD = 0.15
# Share of any bend that stays although the limit is not reached, at the limit.
CREEP, CREEP_SPREAD = 0.02, 0.008
# A belly bears this many times the strain that a back does before frets run across it; until then
# it takes set instead.
CRUSHED = 1.3


@dataclass(frozen=True)
class SetShare:
    """What part of the excess bend stays, and its standard error.

    Attributes:
        spread: one standard deviation, as a share.
        share: of the excess bend that stays.
        bows: how many finished bows it was fitted from.
    """

    share: float = SET_SHARE
    spread: float = SET_SHARE_SPREAD
    bows: int = 0


@dataclass(frozen=True)
class SetForecast:
    """String follow expected of a new bow after full draw: how far its tips will stand to the belly
    of the handle's line when it is unstrung, net of the reflex it was made with.

    Attributes:
        made: how far they stand there as it is made; reflex is below zero (m).
        beyond: how much further they would stand if all of the bend beyond the elastic limit stayed
            (m).
        creep: the same for what stays below that limit (m).
        keeps: how many times as much stays as of seasoned wood.
    """

    made: float
    beyond: float
    creep: float
    share: SetShare
    keeps: float = 1.0

    @property
    def taken(self) -> float:
        """The set alone, reflex lost and follow gained together (m)."""
        part = min(self.share.share * self.keeps, 0.95)
        return part * self.beyond + self.keeps * CREEP * self.creep

    @property
    def follow(self) -> float:
        """Net of reflex; below zero where reflex is left (m)."""
        return self.made + self.taken

    @property
    def _wide(self) -> float:
        spread = np.hypot(self.share.spread * self.beyond, CREEP_SPREAD * self.creep)
        return 1.645 * self.keeps * float(spread)

    @property
    def low(self) -> float:
        """Low end of the follow (90 %): nothing that is bent comes back whole (m)."""
        return self.made + max(0.5 * CREEP * self.creep, self.taken - self._wide)

    @property
    def high(self) -> float:
        """High end of the follow (90 %) (m)."""
        return self.made + self.taken + self._wide


@dataclass(frozen=True)
class Uses:
    """How far a bow is bent, at the worst place for each; 1 is all of it.

    Attributes:
        sets: over the bend at which a layer begins to keep a set.
        lasts: over what its layers bear for years.
        breaks: over the bend from which a layer breaks.
    """

    sets: float
    lasts: float
    breaks: float


@dataclass(frozen=True)
class BendLimits:
    """Bends at which a limb reaches a limit, at its nodes, ``(2, n+1)`` (1/m); infinite where no
    layer has limits.

    Attributes:
        elastic: some layer begins to keep a set in compression.
        working: some layer reaches what it bears for years, on its back's side or, a third later,
            on its belly's.
        rupture: some layer breaks at its back's side or is crushed at its belly's; a ductile one
            does neither.
    """

    elastic: Floats
    working: Floats
    rupture: Floats


def surface_strain(shapes: Shapes) -> Floats:
    """Greater of back and belly strain at the nodes, without sign, ``(2, B, n+1)``."""
    return np.maximum(np.abs(shapes.back), np.abs(shapes.belly))


def bend_limits(bow: Bow, limbs: LimbGrid) -> BendLimits:
    """Bends at which the layers of both limbs reach their limits; ``limbs`` is the bow's own
    grid.

    Returns:
        Limits at the nodes, ``(2, n+1)`` (1/m).
    """
    parts = [_limits(limb, limbs, side) for side, limb in enumerate(bow.limbs)]
    return BendLimits(*(np.stack([part[k] for part in parts]) for k in range(3)))


def _limits(limb: Limb, limbs: LimbGrid, side: int) -> tuple[Floats, Floats, Floats]:
    places = np.maximum(limbs.places()[side, 0], 0.0)
    edges = np.cumsum(
        np.concatenate([np.zeros((1, places.size)), layer_depths(limb, places)]), axis=0
    )
    from_axis = edges - limbs.axis[side, 0]
    elastic, working, rupture = (np.full(places.size, np.inf) for _ in range(3))
    for layer, back, belly in zip(limb.layers, from_axis[:-1], from_axis[1:], strict=True):
        if layer.elastic_strain is None or layer.rupture_strain is None:
            continue
        some = belly > back  # a layer of no thickness breaks nothing
        pressed = np.where(some, np.maximum(belly, 1e-9), 1e-9)
        pulled = np.where(some, np.maximum(-back, 1e-9), 1e-9)
        elastic = np.minimum(elastic, layer.elastic_strain / pressed)
        lasting = working_strain(layer.elastic_strain, layer.rupture_strain)
        worse = np.maximum(pulled, pressed / CRUSHED)
        working = np.minimum(working, lasting / worse)
        if not layer.ductile:
            rupture = np.minimum(rupture, layer.rupture_strain / worse)
    return elastic, working, rupture


def limit_use(limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """How much of what it bears for years each place is bent to, ``(2, n+1)``; 1 is all of it."""
    return np.abs(shapes.bend[:, state]) / limits.working


def uses_of(limits: BendLimits, shapes: Shapes, state: int = -1) -> Uses:
    """How far the limbs are bent towards their limits, each at its worst place.

    Args:
        limits: of the shapes' grid.
    """
    bend = np.abs(shapes.bend[:, state])
    return Uses(
        *(float((bend / one).max()) for one in (limits.elastic, limits.working, limits.rupture))
    )


def excess_offset(limbs: LimbGrid, limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """Offset of each tip if all of the bend beyond the elastic limit stayed, ``(2,)`` (m)."""
    return _offset(limbs, np.maximum(0.0, shapes.bend[:, state] - limits.elastic))


def _offset(limbs: LimbGrid, curvature: Floats) -> Floats:
    """Offset of each tip from curvature at the nodes, ``(2, n+1)`` to ``(2,)`` (m)."""
    places = limbs.places()[:, -1]
    lever = (limbs.length - limbs.grip)[:, -1, None] - places
    return np.asarray(np.trapezoid(curvature * lever, places, axis=-1))


def creep_offset(limbs: LimbGrid, limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """Offset of each tip if what stays below the limit were all of the bend, ``(2,)`` (m)."""
    bend = np.maximum(0.0, shapes.bend[:, state])
    return _offset(limbs, bend * np.minimum(1.0, bend / limits.elastic))


def natural_offset(limbs: LimbGrid) -> Floats:
    """How far the unstrung tips stand to the belly of their roots, ``(2,)`` (m); reflex is below
    zero.
    """
    still = np.zeros((2, 1))
    across = rest_shapes(limbs.part(slice(0, 1)), still, still).across[:, 0]
    return np.asarray(across[:, -1] - across[:, 0])


def expected_set(
    limbs: LimbGrid,
    limits: BendLimits,
    shapes: Shapes,
    state: int = -1,
    share: SetShare | None = None,
    keeps: float = 1.0,
) -> SetForecast:
    """Forecast string follow: mean offset of both tips, as made and with the curvature that stays.

    Args:
        share: fitted from a maker's own bows, or the usual one.
        keeps: how many times as much stays as of seasoned wood.

    Returns:
        String follow with its range (m).
    """
    return SetForecast(
        float(natural_offset(limbs).mean()),
        float(excess_offset(limbs, limits, shapes, state).mean()),
        float(creep_offset(limbs, limits, shapes, state).mean()),
        share or SetShare(),
        keeps,
    )


def kept_curvature(limits: BendLimits, shapes: Shapes, share: float, state: int = -1) -> Floats:
    """Curvature expected to stay, at the nodes, ``(2, n+1)`` (1/m).

    Args:
        limits: of the shapes' grid.
        share: of the excess bend that stays.
    """
    bend = np.maximum(0.0, shapes.bend[:, state])
    creep = CREEP * bend * np.minimum(1.0, bend / limits.elastic)
    return np.asarray(share * np.maximum(0.0, bend - limits.elastic) + creep)
