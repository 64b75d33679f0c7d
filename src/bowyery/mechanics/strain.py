"""What strain does to a limb: use of its limits, layer by layer and face by face, and the set that
stays, with a range.

Each layer is bent to its own limits: tension at its back's side, where it breaks, and compression
at its belly's side, where it keeps a set and, far beyond that, is crushed. Where the compressed
side passes its elastic limit part of the excess stays when the bow is unstrung; a little stays of
any bend, the more the nearer it comes to that limit: ``κ_set = r · max(0, κ − κ_limit) + c · κ ·
min(1, κ / κ_limit)``. That compression parallel to the grain leaves a permanent set of this kind,
while tension stays elastic until near rupture, is textbook wood mechanics (Bodig and Jayne,
Mechanics of Wood and Wood Composites, 1982, chapter 4; creep below the limit there too, chapter 5).
Both shares are workshop figures of limbs all of one wood, 0.4 and 0.02; the first is learned from a
maker's own bows (:mod:`bowyery.record.learned`). In a limb of layers each keeps so much of its own
excess as its compressed part is of the compressed half of a limb of one wood, by stiffness: the
others spring back and take it along (the elastic-plastic beam's residual curvature, Timoshenko,
Strength of Materials II, 1956, chapter 9, with layers).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from bowyery.arrays import Floats, Whole
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, layer_depths
from bowyery.mechanics.elastica import Shapes
from bowyery.mechanics.elastica import shapes as rest_shapes
from bowyery.wood.materials import working_strain

SET_SHARE = 0.4
SET_SHARE_SPREAD = 0.15
# Share of any bend that stays although the limit is not reached, at the limit.
CREEP, CREEP_SPREAD = 0.02, 0.008
# Of the limit in compression, between staves of one wood.
LIMIT_SPREAD = 0.07
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
        onset: one deviation of ``beyond`` for limits that are not the book's (m).
        returns: share of the reflex that is lost by itself, and one deviation: glue and heat let go
            of some of the shape they gave.
    """

    made: float
    beyond: float
    creep: float
    share: SetShare
    keeps: float = 1.0
    onset: float = 0.0
    returns: tuple[float, float] = (0.0, 0.0)

    @property
    def lost(self) -> float:
        """Reflex that is lost by itself (m)."""
        return self.returns[0] * max(0.0, -self.made)

    def excess_in(self, follow: float) -> float:
        """What of a follow comes from bend beyond the limit that stayed (m); net of reflex."""
        return follow - self.made - self.lost - CREEP * self.creep

    @property
    def taken(self) -> float:
        """The set alone, reflex lost and follow gained together (m)."""
        part = min(self.share.share * self.keeps, 0.95)
        return part * self.beyond + self.keeps * CREEP * self.creep

    @property
    def follow(self) -> float:
        """Net of reflex; below zero where reflex is left (m)."""
        return self.made + self.lost + self.taken

    @property
    def _wide(self) -> float:
        reflex = self.returns[1] * max(0.0, -self.made)
        stays = (
            self.share.spread * self.beyond,
            self.share.share * self.onset,
            CREEP_SPREAD * self.creep,
        )
        return 1.645 * float(np.hypot(self.keeps * np.linalg.norm(stays), reflex))

    @property
    def low(self) -> float:
        """Low end of the follow (90 %): nothing that is bent comes back whole (m)."""
        return self.made + max(0.5 * CREEP * self.creep, self.lost + self.taken - self._wide)

    @property
    def high(self) -> float:
        """High end of the follow (90 %) (m)."""
        return self.follow + self._wide


@dataclass(frozen=True)
class Limit:
    """The limit that a limb is nearest to.

    Attributes:
        layer: name of the material it is of.
        face: the layer's own side that is strained so.
        strain: of that side at full draw.
        bears: strain that this side stands for years.
    """

    layer: str
    face: Literal["back", "belly"]
    strain: float
    bears: float


@dataclass(frozen=True)
class Uses:
    """How far a bow is bent, at the worst place for each; 1 is all of it.

    Attributes:
        sets: over the bend at which a layer begins to keep a set.
        lasts: over what its layers bear for years.
        breaks: over the bend from which a layer breaks.
        limit: what ``lasts`` is the share of, or None where no layer has limits.
    """

    sets: float
    lasts: float
    breaks: float
    limit: Limit | None = None


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
        begins: where each layer begins to keep a set, ``(2, layers, n+1)`` (1/m).
        held: what part of its excess the whole limb keeps, alike in shape.
        nearest: which layer and face ``working`` is of: twice the layer, and one for its belly.
        bears: strain that this layer bears there for years.
        names: of the layers, for each limb.
    """

    elastic: Floats
    working: Floats
    rupture: Floats
    begins: Floats
    held: Floats
    nearest: Whole
    bears: Floats
    names: tuple[tuple[str, ...], ...]

    def thicker(self, times: Floats) -> BendLimits:
        """The limits of limbs that are so many times as thick at the nodes, ``(2, n+1)`` or
        ``(1,)``."""
        return replace(
            self,
            elastic=self.elastic / times,
            working=self.working / times,
            rupture=self.rupture / times,
            begins=self.begins / np.expand_dims(times, -2),
        )

    def excess(self, bend: Floats) -> Floats:
        """Bend beyond the limit of each layer that the limb would keep if all of it stayed, at the
        nodes, ``(2, n+1)`` (1/m).
        """
        bent = np.maximum(0.0, bend)[:, None]
        return np.asarray((self.held * np.maximum(0.0, bent - self.begins)).sum(1))

    def creeps(self, bend: Floats) -> Floats:
        """Bend of which a little stays below the limit, alike."""
        bent = np.maximum(0.0, bend)[:, None]
        return np.asarray((self.held * bent * np.minimum(1.0, bent / self.begins)).sum(1))


def surface_strain(shapes: Shapes) -> Floats:
    """Greater of back and belly strain at the nodes, without sign, ``(2, B, n+1)``."""
    return np.maximum(np.abs(shapes.back), np.abs(shapes.belly))


def bend_limits(bow: Bow, limbs: LimbGrid) -> BendLimits:
    """Bends at which the layers of both limbs reach their limits; ``limbs`` is the bow's own
    grid.
    """
    parts = [_limits(limb, limbs, side) for side, limb in enumerate(bow.limbs)]
    most = max(part.begins.shape[1] for part in parts)

    def padded(rows: Floats, empty: float) -> Floats:
        return np.pad(rows[0], ((0, most - rows.shape[1]), (0, 0)), constant_values=empty)

    first = [(one.elastic, one.working, one.rupture) for one in parts]
    elastic, working, rupture = (np.concatenate(each) for each in zip(*first, strict=True))
    return BendLimits(
        elastic,
        working,
        rupture,
        np.stack([padded(p.begins, np.inf) for p in parts]),
        np.stack([padded(p.held, 0.0) for p in parts]),
        np.concatenate([p.nearest for p in parts]),
        np.concatenate([p.bears for p in parts]),
        tuple(p.names[0] for p in parts),
    )


def _limits(limb: Limb, limbs: LimbGrid, side: int) -> BendLimits:
    """Of one limb, with a first dimension of one."""
    places = np.maximum(limbs.places()[side, 0], 0.0)
    edges = np.cumsum(
        np.concatenate([np.zeros((1, places.size)), layer_depths(limb, places)]), axis=0
    )
    from_axis = edges - limbs.axis[side, 0]
    backs, bellies = from_axis[:-1], from_axis[1:]
    moduli = np.array([layer.modulus for layer in limb.layers])[:, None]
    stiff = moduli * (bellies**3 - backs**3)
    pressed_part = moduli * (np.maximum(bellies, 0.0) ** 3 - np.maximum(backs, 0.0) ** 3)
    held = (
        np.ones_like(stiff)
        if len(limb.layers) == 1
        else np.minimum(1.0, 2 * pressed_part / stiff.sum(0))
    )
    begins = np.full(stiff.shape, np.inf)
    working, rupture = (np.full(places.size, np.inf) for _ in range(2))
    bears, nearest = np.zeros(places.size), np.zeros(places.size, np.int64)
    for k, (layer, back, belly) in enumerate(zip(limb.layers, backs, bellies, strict=True)):
        if layer.elastic_strain is None or layer.rupture_strain is None:
            continue
        some = belly > back  # a layer of no thickness breaks nothing
        pressed = np.where(some, np.maximum(belly, 1e-9), 1e-9)
        pulled = np.where(some, np.maximum(-back, 1e-9), 1e-9)
        begins[k] = layer.elastic_strain / pressed
        lasting = working_strain(layer.elastic_strain, layer.rupture_strain)
        worse = np.maximum(pulled, pressed / CRUSHED)
        first, crushed = lasting / worse < working, pressed / CRUSHED > pulled
        working = np.where(first, lasting / worse, working)
        nearest = np.where(first, 2 * k + crushed, nearest)
        bears = np.where(first, np.where(crushed, CRUSHED, 1.0) * lasting, bears)
        if not layer.ductile:
            rupture = np.minimum(rupture, layer.rupture_strain / worse)
    return BendLimits(
        begins.min(0)[None],
        working[None],
        rupture[None],
        begins[None],
        held[None],
        nearest[None],
        bears[None],
        (tuple(layer.material for layer in limb.layers),),
    )


def limit_use(limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """How much of what it bears for years each place is bent to, ``(2, n+1)``; 1 is all of it."""
    return np.abs(shapes.bend[:, state]) / limits.working


def uses_of(limits: BendLimits, shapes: Shapes, state: int = -1) -> Uses:
    """How far the limbs are bent towards their limits, each at its worst place.

    Args:
        limits: of the shapes' grid.
    """
    bend = np.abs(shapes.bend[:, state])
    sets, lasts, breaks = (bend / one for one in (limits.elastic, limits.working, limits.rupture))
    side, node = np.unravel_index(int(lasts.argmax()), lasts.shape)
    use, limit = float(lasts[side, node]), None
    if use > 0:
        layer, belly = divmod(int(limits.nearest[side, node]), 2)
        bears = float(limits.bears[side, node])
        name = limits.names[side][layer]
        limit = Limit(name, "belly" if belly else "back", use * bears, bears)
    return Uses(float(sets.max()), use, float(breaks.max()), limit)


def excess_offset(limbs: LimbGrid, limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """Offset of each tip if all of the bend beyond the elastic limit stayed, ``(2,)`` (m)."""
    return _offset(limbs, limits.excess(shapes.bend[:, state]))


def _offset(limbs: LimbGrid, curvature: Floats) -> Floats:
    """Offset of each tip from curvature at the nodes, ``(2, n+1)`` to ``(2,)`` (m)."""
    places = limbs.places()[:, -1]
    lever = (limbs.length - limbs.grip)[:, -1, None] - places
    return np.asarray(np.trapezoid(curvature * lever, places, axis=-1))


def creep_offset(limbs: LimbGrid, limits: BendLimits, shapes: Shapes, state: int = -1) -> Floats:
    """Offset of each tip if what stays below the limit were all of the bend, ``(2,)`` (m)."""
    return _offset(limbs, limits.creeps(shapes.bend[:, state]))


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
    returns: tuple[float, float] = (0.0, 0.0),
) -> SetForecast:
    """Forecast string follow: mean offset of both tips, as made and with the curvature that stays.

    Args:
        share: fitted from a maker's own bows, or the usual one.
        keeps: how many times as much stays as of seasoned wood.
        returns: share of its reflex that is lost by itself, and one deviation.

    Returns:
        String follow with its range (m).
    """
    less, beyond, more = (
        float(excess_offset(limbs, limits.thicker(np.array([times])), shapes, state).mean())
        for times in (1 - LIMIT_SPREAD, 1.0, 1 + LIMIT_SPREAD)
    )
    return SetForecast(
        float(natural_offset(limbs).mean()),
        beyond,
        float(creep_offset(limbs, limits, shapes, state).mean()),
        share or SetShare(),
        keeps,
        0.5 * (more - less),
        returns,
    )


def kept_curvature(limits: BendLimits, shapes: Shapes, share: float, state: int = -1) -> Floats:
    """Curvature expected to stay, at the nodes, ``(2, n+1)`` (1/m).

    Args:
        limits: of the shapes' grid.
        share: of the excess bend that stays.
    """
    bend = shapes.bend[:, state]
    return share * limits.excess(bend) + CREEP * limits.creeps(bend)
