"""A removal as it is drawn on the belly: stretches of each limb, each with its number of strokes.

A maker has no thousandth of an inch: what the advice takes off at every place is told as strokes of
the tool in hand, in the few stretches that say it best. The stretches are found exactly, as those
that leave least of the removal unsaid, fewer where another one would say hardly more.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.tiller.bite import Bite, strokes_for
from bowyery.tiller.estimate import FEATHER, PLACES

MOST_STRETCHES = 4  # of a limb: more nobody keeps in mind between picture and bow
WORTH_ANOTHER = 0.25  # of what is still unsaid: what one more stretch must say
LEAST_STRETCH = 2  # places
CAREFUL = 0.7  # deviations by which a tool may be hungrier than it is thought: fewer strokes then


@dataclass(frozen=True)
class Stretch:
    """Strokes to take along a stretch of a limb.

    Attributes:
        start, end: from the limb's root (m).
        thickness: that they take, as the tool is known (m).
        whole: it runs from the fade to the nock.
    """

    limb: Side
    start: float
    end: float
    strokes: int
    thickness: float
    whole: bool = False


def stretches(limbs: LimbGrid, removal: Floats, bite: Bite) -> tuple[Stretch, ...]:
    """What to take, in stretches with strokes.

    Args:
        removal: thickness to take at the places of the estimate, ``(2, PLACES)`` (m).

    Returns:
        Stretches from the root outward, upper limb first; none where less than a stroke is to come
        off.
    """
    found: list[Stretch] = []
    for side, name in enumerate(SIDES):
        off = np.maximum(removal[side], 0.0)
        if off.max(initial=0.0) < 0.5 * bite.thickness:
            continue
        length = float(limbs.length[side, 0])
        at = np.linspace(0.0, length, PLACES)
        half = 0.5 * (at[1] - at[0])
        careful = bite.thickness * math.exp(CAREFUL * bite.spread)
        rows: list[Stretch] = []
        for first, last in _parts_of_runs(off):
            mean = float(off[first : last + 1].mean())
            count = round(mean / careful)
            if count < 1:
                continue
            start = 0.0 if first == 0 else float(at[first] - half)
            end = length if last == PLACES - 1 else float(at[last] + half)
            # towards wood that is left alone it runs out within the stretch
            if first > 0 and off[first - 1] <= 0:
                start = min(start + 0.6 * FEATHER, end - half)
            if last < PLACES - 1 and off[last + 1] <= 0:
                end = max(end - 0.6 * FEATHER, start + half)
            whole = first == 0 and last == PLACES - 1
            rows.append(Stretch(name, start, end, count, count * bite.thickness, whole))
        if not rows:  # a stroke or so at the deepest place
            top = int(off.argmax())
            start, end = max(0.0, float(at[top] - 2 * half)), min(length, float(at[top] + 2 * half))
            count = strokes_for(bite, float(off[top]))
            rows = [Stretch(name, start, end, count, float(off[top]))]
        found += _joined(rows)
    return tuple(found)


def _parts_of_runs(off: Floats) -> list[tuple[int, int]]:
    """Runs of places that say a removal best; a place where nothing comes off is in none."""
    bare = np.flatnonzero(off[:-1] <= 0)
    runs, first = list[tuple[int, int]](), 0
    for gap in (*bare.tolist(), off.size):
        if gap > first:
            runs.append((first, gap))
        first = gap + 1
    most = max(1, MOST_STRETCHES // max(1, len(runs)))
    return [(start + a, start + b) for start, end in runs for a, b in _parts(off[start:end], most)]


def _parts(off: Floats, most: int) -> list[tuple[int, int]]:
    """Runs of places, first and last, that say a removal best as one figure each."""
    sums, squares = (np.concatenate([[0.0], np.cumsum(v)]) for v in (off, off**2))

    def unsaid(first: int, end: int) -> float:
        total = sums[end] - sums[first]
        return float(squares[end] - squares[first] - total**2 / (end - first))

    n = off.size
    if n < 2 * LEAST_STRETCH:
        return [(0, n - 1)]
    best = {(0, 0): (0.0, ())}  # type: dict[tuple[int, int], tuple[float, tuple[int, ...]]]
    for count in range(1, most + 1):
        for end in range(count * LEAST_STRETCH, n + 1):
            rows = [
                (best[count - 1, first][0] + unsaid(first, end), (*best[count - 1, first][1], end))
                for first in range(end - LEAST_STRETCH + 1)
                if (count - 1, first) in best
            ]
            if rows:
                best[count, end] = min(rows)
    chosen = best[1, n]
    whole = float(squares[-1])
    for count in range(2, most + 1):
        more = best.get((count, n))
        if more is None or chosen[0] <= 0.01 * whole:
            break
        if more[0] > (1 - WORTH_ANOTHER) * chosen[0]:
            continue
        chosen = more
    ends = (0, *chosen[1])
    return [(a, b - 1) for a, b in pairwise(ends)]


def _joined(rows: list[Stretch]) -> list[Stretch]:
    """Neighbours with the same number of strokes are one stretch."""
    found: list[Stretch] = []
    for one in rows:
        last = found[-1] if found else None
        if last and last.strokes == one.strokes and abs(last.end - one.start) < 1e-6:
            found[-1] = Stretch(
                one.limb, last.start, one.end, one.strokes, 0.5 * (last.thickness + one.thickness)
            )
        else:
            found.append(one)
    return found
