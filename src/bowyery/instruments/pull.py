"""One slow pull on the tree as a scale and a draw rule send it: up, held, and back.

Weights and draws come as lines of their own, each with its moment; they are laid over one another
in time. On the way up they are the force-draw curve, in the hold the weight sinks, and on the way
back it is lower for the same draw: the area between is what the limbs keep (hysteresis).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

STEP = 0.01  # draws that weights are gathered at (m)
HELD_WITHIN = 0.006  # of the furthest draw it is held (m)
LEAST_WAY = 0.05  # a pull goes at least so far (m)
BACK = 0.4  # of the way back, and the next pull is another
LEAST_HOLD = 1.0  # seconds, to say how the weight sank
SILENT = 5.0  # seconds without a line: nobody is there
STUCK = 25  # lines with one figure while the other moves
NO_LESS, MOST_KEPT = 0.02, 0.5  # shares of the energy of a pull between which its loss is believed
JUMP = 0.25  # of the greatest weight, from one line to the next within a tenth of a second


@dataclass(frozen=True)
class Sample:
    """One line of a scale or a draw rule.

    Attributes:
        at: when it came (s).
        value: weight (N) or draw (m).
    """

    at: float
    what: str
    value: float


@dataclass(frozen=True)
class Traced:
    """A pull as it was traced.

    Attributes:
        draws: gathered at on the way up, ``(n,)`` (m).
        weights: there, ``(n,)`` (N).
        back: weights on the way back at the same draws, ``(n,)`` (N); not a number where it was not
            read.
        top: furthest draw (m), and the weight there at once (N).
        held: seconds at the top.
        sank: share by which the weight sank in the hold; None where it was not held.
        kept: share of the energy of the way up that did not come back; None where it was not read,
            or misread.
    """

    draws: Floats
    weights: Floats
    back: Floats
    top: tuple[float, float]
    held: float
    sank: float | None
    kept: float | None

    def reads(self, count: int = 4) -> list[tuple[float, float]]:
        """A few draws with their weights, spread over the upper part of the pull, the top last.

        Returns:
            Draws (m) and weights (N), by draw.
        """
        top, first = self.top[0], float(self.draws[0])
        wanted = np.linspace(first + 0.4 * (top - first), top, max(count, 1))
        found = [(float(d), float(np.interp(d, self.draws, self.weights))) for d in wanted[:-1]]
        return [*found, self.top]


def merged(samples: Sequence[Sample]) -> tuple[Floats, Floats, Floats]:
    """Weights at the moments they came, with the draw between its own lines.

    Returns:
        Moments (s), draws (m) and weights (N), each ``(n,)``.

    Raises:
        DescriptionError: a pull wants lines of both.
    """
    rows = sorted(samples, key=lambda one: one.at)
    weights = np.array([(s.at, s.value) for s in rows if s.what == "w"])
    draws = np.array([(s.at, s.value) for s in rows if s.what == "d"])
    if len(weights) < 3 or len(draws) < 3:
        raise DescriptionError("A pull wants weights and draws, a few of each.", "samples")
    within = (weights[:, 0] >= draws[0, 0] - 0.3) & (weights[:, 0] <= draws[-1, 0] + 0.3)
    at = weights[within, 0]
    return at, np.interp(at, draws[:, 0], draws[:, 1]), weights[within, 1]


def traced(samples: Sequence[Sample]) -> Traced:
    """What the last pull of a stream says.

    Args:
        samples: of one pull, or of several; the last that went far enough counts.

    Raises:
        DescriptionError: no pull is in it.
    """
    at, draw, weight = merged(samples)
    if at.size < 5:
        raise DescriptionError("A pull wants weights and draws, a few of each.", "samples")
    begin, end = _last_pull(draw)
    at, draw, weight = at[begin:end], draw[begin:end], weight[begin:end]
    top = int(np.argmax(draw))
    furthest = float(draw[top])
    if furthest - float(draw[0]) < LEAST_WAY:
        raise DescriptionError("It was not pulled far enough to say anything.", "samples")
    near = np.flatnonzero(draw >= furthest - HELD_WITHIN)
    first, last = int(near[0]), int(near[-1])
    up_draw, up_weight = _gathered(draw[: first + 1], weight[: first + 1])
    if up_draw.size < 3:
        raise DescriptionError("It was pulled too fast to be read.", "samples")
    # a hand trembles: what was read a little short of the top is taken to the top
    rise = float(np.polyfit(up_draw[-6:], up_weight[-6:], 1)[0])
    there = weight[first : last + 1] + rise * (furthest - draw[first : last + 1])
    begins = there[: max(1, min(4, top - first + 1))]
    at_once, held = float(np.median(begins)), float(at[last] - at[first])
    sank = None
    if held >= LEAST_HOLD and at_once > 0:
        sank = max(0.0, 1 - float(np.median(there[-4:])) / at_once)
    back = np.full(up_draw.size, np.nan)
    kept = None
    if draw.size - last > 4:
        down_draw, down_weight = _gathered(draw[last:][::-1], weight[last:][::-1])
        if down_draw.size > 2:
            inside = (up_draw >= down_draw[0]) & (up_draw <= down_draw[-1])
            back[inside] = np.interp(up_draw[inside], down_draw, down_weight)
            kept = _kept(up_draw, up_weight, back)
    return Traced(up_draw, up_weight, back, (furthest, at_once), held, sank, kept)


def _last_pull(draw: Floats) -> tuple[int, int]:
    """Where the last pull begins and ends: from its lowest draw before the top to where it ends."""
    spans = _pulls(draw)
    return spans[-1] if spans else (0, draw.size)


def _pulls(draw: Floats) -> list[tuple[int, int]]:
    """Every pull: up from a rest and back by a good part of the way."""
    spans, start, top = list[tuple[int, int]](), 0, 0
    going_down = False
    for k in range(1, draw.size):
        if draw[k] > draw[top]:
            top = k
        way = draw[top] - draw[start]
        if not going_down and draw[k] < draw[start]:
            start, top = k, k
        elif way >= LEAST_WAY and draw[top] - draw[k] > BACK * way:
            going_down = True
        if going_down and draw[k] - draw[top : k + 1].min() > LEAST_WAY / 2:
            lowest = top + int(np.argmin(draw[top : k + 1]))
            spans.append((start, lowest + 1))
            start = top = lowest
            going_down = False
            top = start + int(np.argmax(draw[start : k + 1]))
    if draw[top] - draw[start] >= LEAST_WAY:
        spans.append((start, draw.size))
    return spans


def count_pulls(samples: Sequence[Sample], least: float = 0.0) -> int:
    """How many pulls are in a stream: up, and back by a good part of the way.

    Args:
        least: draw that a pull must reach to count (m).

    Returns:
        The count; one that is still held is not over yet.
    """
    draw = np.array([s.value for s in sorted(samples, key=lambda one: one.at) if s.what == "d"])
    if draw.size < 3:
        return 0
    count = 0
    for start, end in _pulls(draw):
        part = draw[start:end]
        top, way = float(part.max()), float(part.max() - part[0])
        over = float(part[int(np.argmax(part)) :].min()) < top - BACK * way
        count += over and top >= least
    return count


def _gathered(draw: Floats, weight: Floats) -> tuple[Floats, Floats]:
    """Weights gathered at even draws: the median of what was read within half a step."""
    low = math.ceil(float(draw.min()) / STEP) * STEP
    places = np.arange(low, float(draw.max()) + 1e-9, STEP)
    found = []
    for place in places:
        near = np.abs(draw - place) <= 0.5 * STEP
        if near.any():
            # what was read beside the place counts as if it had been read there
            slope = _slope(draw, weight, place)
            found.append((place, float(np.median(weight[near] - slope * (draw[near] - place)))))
    if not found:
        return np.zeros(0), np.zeros(0)
    table = np.array(found)
    return table[:, 0], table[:, 1]


def _slope(draw: Floats, weight: Floats, place: float) -> float:
    near = np.abs(draw - place) <= 3 * STEP
    if near.sum() < 4 or np.ptp(draw[near]) < STEP:
        return 0.0
    return float(np.polyfit(draw[near], weight[near], 1)[0])


def _kept(draws: Floats, up: Floats, back: Floats) -> float | None:
    both = np.isfinite(back)
    if both.sum() < 4 or np.ptp(draws[both]) < 0.6 * np.ptp(draws):
        return None
    stored = float(np.trapezoid(up[both], draws[both]))
    returned = float(np.trapezoid(back[both], draws[both]))
    share = 1 - returned / stored if stored > 0 else np.nan
    # more than went in never comes back, nor do wooden limbs keep the half: one way was misread
    return max(share, 0.0) if -NO_LESS < share < MOST_KEPT else None


def trouble(samples: Sequence[Sample], now: float) -> str:
    """What is wrong with an instrument, as a sentence; nothing where nothing is.

    Args:
        now: the moment (s).
    """
    if not samples:
        return "It has said nothing yet."
    rows = sorted(samples, key=lambda one: one.at)
    quiet = now - rows[-1].at
    if quiet > SILENT:
        return f"It has been silent for {quiet:.0f} s."
    weights = [s for s in rows if s.what == "w"][-STUCK:]
    draws = [s.value for s in rows if s.what == "d"][-STUCK:]
    if len(weights) == STUCK and len(draws) == STUCK:
        still = np.ptp([s.value for s in weights]) == 0
        moved = float(np.ptp(draws)) > LEAST_WAY
        if still and moved:
            return "Its weight stays at one figure while the draw goes on: see whether it sticks."
        if np.ptp(draws) == 0 and np.ptp([s.value for s in weights]) > 20.0:
            return "Its draw stays at one figure while the weight goes on: see whether it sticks."
    most = max((abs(s.value) for s in weights), default=0.0)
    for one, other in pairwise(weights):
        gap = max(other.at - one.at, 1e-3)
        if abs(other.value - one.value) > JUMP * most * max(gap / 0.1, 1.0) and most > 20.0:
            return "Its weight jumps: see whether it hangs free and its cable is whole."
    return ""
