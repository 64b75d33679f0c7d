"""Slats from a bamboo culm: how many go round it, what is left of them once flat, and where the
nodes come to lie.

A slat keeps its skin, and its inner face is planed flat for the glue or left hollow. Planed just
flat it is as thick as the wall in its middle and thinner at its edges by the rise of the skin's arc
over its width, ``R − sqrt(R² − w²/4)`` (geometry of the circle).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.errors import DescriptionError

STEP = 0.005  # between the places that are tried (m)
CLEAR = 0.03  # a node nearer than this to a nock or a fade's end is in its way (m)


@dataclass(frozen=True)
class Slats:
    """What a culm gives.

    Attributes:
        middle, edge: thickness of a slat planed just flat inside, in its middle and at its edges
            (m).
    """

    number: int
    middle: float
    edge: float

    @property
    def rise(self) -> float:
        """Of the skin over the slat's width (m)."""
        return self.middle - self.edge


def slats(diameter: float, wall: float, width: float, kerf: float = 0.003) -> Slats:
    """How many slats of a width a culm gives.

    Args:
        diameter: over the skin (m).
        wall: its thickness (m).
        width: of a slat across (m).
        kerf: lost between two slats, split or sawn and dressed (m).

    Raises:
        DescriptionError: figures that no culm has, or a slat as wide as the culm.
    """
    for what, value in (("diameter", diameter), ("wall", wall), ("width", width)):
        if not (math.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", what)
    radius = diameter / 2
    if wall >= radius:
        raise DescriptionError("The wall is thicker than half the culm.", "wall")
    if width >= diameter:
        raise DescriptionError("The slat is wider than the culm.", "width")
    rise = radius - math.sqrt(radius**2 - width**2 / 4)
    across = 2 * math.asin(width / diameter) + kerf / radius
    return Slats(int(2 * math.pi / across + 1e-9), wall, wall - rise)


@dataclass(frozen=True)
class Place:
    """A bow's length laid along a slat.

    Attributes:
        start: of its left nock, from the slat's left end (m).
        nodes: from the bow's middle, to the right above zero, in order (m).
        near: the nodes that lie in the way of a nock or a fade's end, from the bow's middle (m).
        clear: from the nearest node to a nock or a fade's end (m); infinite without nodes.
        uneven: greatest distance between a node and where the other limb has its own (m); 0 without
            nodes.
    """

    start: float
    nodes: tuple[float, ...]
    near: tuple[float, ...]
    clear: float
    uneven: float


def _mirrored(nodes: tuple[float, ...]) -> float:
    if not nodes:
        return 0.0
    other = np.array([-x for x in nodes])
    return float(max(np.abs(other - x).min() for x in nodes))


def node_places(
    length: float, nodes: Sequence[float], bow: float, fade: float, most: int = 3
) -> tuple[Place, ...]:
    """Where along a slat a bow lies best for its nodes: clear of nocks and fades' ends first, then
    alike to both sides of the middle.

    Args:
        length: of the slat (m).
        nodes: from its left end (m).
        bow: from nock to nock (m).
        fade: from the bow's middle to where its limbs begin to bend (m).
        most: places to give, a hand's breadth apart.

    Raises:
        DescriptionError: the slat is too short, or a node lies off it.
    """
    if not (np.isfinite(bow) and 0 < 2 * fade < bow):
        raise DescriptionError("The limbs begin to bend between the middle and the nocks.", "fade")
    if length < bow:
        raise DescriptionError("The slat is shorter than the bow.", "length")
    if any(not 0 <= x <= length for x in nodes):
        raise DescriptionError("Every node lies on the slat.", "nodes")
    found = []
    count = max(1, int((length - bow) / STEP + 1e-9) + 1)
    for start in np.linspace(0.0, length - bow, count):
        middle = start + bow / 2
        on = tuple(sorted(float(x - middle) for x in nodes if abs(x - middle) <= bow / 2 + CLEAR))
        bad = (-bow / 2, -fade, fade, bow / 2)
        apart = [min(abs(x - y) for y in bad) for x in on]
        near = tuple(x for x, d in zip(on, apart, strict=True) if d < CLEAR)
        clear = min(apart, default=math.inf)
        working = tuple(x for x in on if abs(x) > fade)  # a node in the grip bends nothing
        found.append(Place(float(start), on, near, clear, _mirrored(working)))
    found.sort(key=lambda p: (len(p.near), p.uneven, -min(p.clear, 1.0), p.start))
    kept: list[Place] = []
    for place in found:
        if all(abs(place.start - one.start) > 0.08 for one in kept):
            kept.append(place)
    return tuple(kept[:most])
