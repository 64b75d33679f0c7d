"""Roughing out against the marks: what is still to come off at each, from what calipers read."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bowyery.bow.bow import SIDES, Side
from bowyery.design.solution import Solution
from bowyery.tiller.statements import Statement

SAME_PLACE = 0.0125  # readings so near a mark are of that mark (m)
NEARLY = 0.0003  # less than this is nobody's stroke (m)
FLAT = 0.0008  # neighbours that differ by more in what is left make a step (m)


@dataclass(frozen=True)
class Still:
    """A place of a limb: what the wood alone shall come down to, and what was read of it.

    Attributes:
        at: from the bow's centre (m).
        goal: of the wood, with what is left on for the tiller (m).
        read: thickness as it was read last (m), or None.
        wide: width that is wanted (m).
        wide_read: as it was read last (m), or None.
    """

    limb: Side
    at: float
    goal: float
    read: float | None
    wide: float
    wide_read: float | None = None

    @property
    def off(self) -> float | None:
        """Thickness still to come off; below zero it is too thin already (m)."""
        return None if self.read is None else self.read - self.goal


def still_off(found: Solution, read: Iterable[Statement], left_on: float) -> tuple[Still, ...]:
    """Every mark, and every other place that was read, with what is still to come off.

    Args:
        read: thickness and width as they were written, in order; the last at a place counts.
        left_on: thickness left on for the tiller (m).
    """
    said = list(read)
    rows: list[Still] = []
    for side in SIDES:
        marks = [m for m in found.marks if m.limb == side]
        at = np.array([m.from_centre for m in marks])
        goal = np.array([found.wood_of(m) + left_on for m in marks])
        wide = np.array([m.width for m in marks])
        mine = [s for s in said if s.limb == side and s.at is not None and s.value is not None]
        places = list(map(float, at))
        for s in mine:
            here = float(s.at or 0.0)
            if at[0] <= here <= at[-1] + SAME_PLACE and not any(
                abs(here - p) <= SAME_PLACE for p in places
            ):
                places.append(here)
        for place in sorted(places):
            sizes: dict[str, float | None] = {"thickness": None, "width": None}
            for s in mine:
                if s.kind in sizes and abs(float(s.at or 0.0) - place) <= SAME_PLACE:
                    sizes[s.kind] = s.value
            rows.append(
                Still(
                    side,
                    place,
                    float(np.interp(place, at, goal)),
                    sizes["thickness"],
                    float(np.interp(place, at, wide)),
                    sizes["width"],
                )
            )
    return tuple(rows)


@dataclass(frozen=True)
class Look:
    """What the blank wants next.

    Attributes:
        thin: places that are too thin already, worst first.
        thick: the place with most to come off, or None.
        steps: pairs of neighbouring places between which what is left jumps.
        read, count: how many places were read, of how many.
    """

    thin: tuple[Still, ...]
    thick: Still | None
    steps: tuple[tuple[Still, Still], ...]
    read: int
    count: int

    @property
    def done(self) -> bool:
        """Whether every place was read and none has more to come off."""
        return self.read == self.count and self.thick is None and not self.thin


def look(rows: tuple[Still, ...]) -> Look:
    """What the blank wants next."""
    known = [(row, row.off) for row in rows if row.off is not None]
    thin = sorted((pair for pair in known if pair[1] < -NEARLY), key=lambda pair: pair[1])
    thick = max(
        (pair for pair in known if pair[1] > NEARLY), key=lambda pair: pair[1], default=None
    )
    steps = []
    for (a, off), (b, other) in pairwise(known):
        if a.limb == b.limb and abs(off - other) > FLAT and b.at - a.at < 0.12:
            steps.append((a, b))
    return Look(
        tuple(row for row, _ in thin),
        thick[0] if thick else None,
        tuple(steps),
        len(known),
        len(rows),
    )
