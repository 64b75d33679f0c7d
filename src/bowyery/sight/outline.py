"""The limbs of a bow in a picture: found by the shapes it can take, then measured edge by edge.

First the bow is looked for on the wall's plane, as ribbons as wide as its limbs along the shapes
that it takes at some draws. Then both edges of the limbs are measured across their line, and the
line is fitted to what was measured: where the bow hangs, how far before the wall (which only makes
it larger), and how each limb bends, believed to be as designed, give or take a quarter and smooth
(a maximum a posteriori fit; its covariance gives the errors). The string's line crosses each limb
at its nock, which tells scale and where a limb begins.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from scipy import fft
from scipy.optimize import least_squares

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import brace_bow, draw

State = Literal["drawn", "braced", "unstrung"]
STATES: tuple[State, ...] = ("drawn", "braced", "unstrung")
CELLS = 48  # of a limb's line
KNOTS = 9  # of what a limb bends otherwise than expected
BENDS, BENDS_LEAST = 0.28, 0.25  # of that, one deviation: a share of the bend, and at least (1/m)
REACH = 0.16  # over which it is alike (m)
BEFORE = (1.045, 0.022)  # how much larger a bow looks that hangs before its wall, and one deviation
STATIONS = 60  # of a limb, measured across
NINETY = 1.645
COARSE = 6.0  # mm a pixel of the map the bow is looked for on


@dataclass(frozen=True)
class Line:
    """The middle of both limbs' side view as it may be: in the bow's frame, upper and lower limb.

    Attributes:
        along, across: points from root to nock, ``(2, CELLS + 1)`` (mm), along counted outward to
            the upper tip for both.
        angles: there, ``(2, CELLS + 1)`` (rad), outward.
        bend: of the cells, ``(2, CELLS)`` (1/mm), to the belly.
        thick: of the side view, ``(2, CELLS + 1)`` (mm).
        nock: nocking point, along and across (mm); None where there is no string.
        draw: (mm).
    """

    along: Floats
    across: Floats
    angles: Floats
    bend: Floats
    thick: Floats
    nock: tuple[float, float] | None
    draw: float


def lines_of(bow: Bow, state: State) -> list[Line]:
    """Lines that a bow may show in a state: at several draws, braced, or unstrung.

    Args:
        bow: as its file marks it.
        state: that it is in.

    Returns:
        The lines.

    Raises:
        BowyeryError: it cannot be braced or drawn.
    """
    limbs = grid(bow, CELLS)
    thick = np.stack([
        np.interp(np.linspace(0, one.length, CELLS + 1), one.at, one.thickness) for one in bow.limbs
    ]) * 1e3  # fmt: skip
    still = np.zeros((2, 1))
    if state == "unstrung":
        rest = shapes(limbs, still, still)
        return [_line(bow, rest.along[:, 0], rest.across[:, 0], thick, None, 0.0)]
    braced = brace_bow(limbs, bow)
    pivot = bow.hold.pivot
    if state == "braced":
        bent = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
        nock = (pivot[0] * 1e3, (pivot[1] + float(braced.height[0])) * 1e3)
        return [_line(bow, bent.along[:, 0], bent.across[:, 0], thick, nock, 0.0)]
    least = float(braced.least_draw[0])
    full = bow.draw or 0.71
    found = []
    for share in np.linspace(0.12, 1.08, 8):
        to = least + share * max(full - least, 0.1)
        try:
            drawn = draw(limbs, bow.hold, braced, np.array([to]))
        except BowyeryError:
            continue
        bent = shapes(limbs, drawn.tension, drawn.p)
        nock = (float(drawn.nock[0, 0]) * 1e3, float(drawn.nock[1, 0]) * 1e3)
        found.append(_line(bow, bent.along[:, 0], bent.across[:, 0], thick, nock, to * 1e3))
    if not found:
        raise DescriptionError("The bow of this file cannot be drawn.", "bow")
    return found


def _line(
    bow: Bow, along: Floats, across: Floats, thick: Floats, nock: tuple[float, float] | None,
    to: float,
) -> Line:  # fmt: skip
    x, y = np.abs(along) * 1e3, across * 1e3
    step = np.hypot(np.diff(x, axis=1), np.diff(y, axis=1))
    middle = np.arctan2(np.diff(y, axis=1), np.diff(x, axis=1))
    angles = np.empty_like(x)
    for side, limb in enumerate(bow.limbs):
        angles[side, 0] = limb.root[2]
        angles[side, 1:-1] = 0.5 * (middle[side, 1:] + middle[side, :-1])
        angles[side, -1] = 2 * middle[side, -1] - angles[side, -2]
    return Line(x, y, angles, np.diff(angles, axis=1) / step, thick, nock, to)


@dataclass(frozen=True)
class Pose:
    """Where a bow hangs on the wall's plane.

    Attributes:
        x, y: of its frame's origin (mm).
        turn: of its frame (rad).
        scale: how much larger it looks for hanging before the wall.
    """

    x: float
    y: float
    turn: float
    scale: float

    def to_wall(self, points: Floats) -> Floats:
        """Points of the bow's frame (along to the upper tip, across to the belly) to the wall's
        plane, upper limb to the right and belly down.

        Args:
            points: ``(…, 2)`` (mm).

        Returns:
            Points on the plane, ``(…, 2)`` (mm).
        """
        c, s = np.cos(self.turn), np.sin(self.turn)
        turned = points @ np.array([[c, s], [-s, c]])
        return np.asarray(self.scale * turned + np.array([self.x, self.y]))


ToPicture = Callable[[Floats], Floats]


def _frame(along: Floats, across: Floats) -> Floats:
    """Points of both limbs in the bow's frame, ``(2, n, 2)`` (mm)."""
    both = np.stack([along, across], -1)
    both[1, :, 0] *= -1
    return both


# Looking for it


@dataclass(frozen=True)
class Map:
    """Second derivatives of the picture on a coarse map of the wall, by colour, evened out.

    Attributes:
        xx, xy, yy: ``(3, high, wide)``.
        origin: of its first pixel on the wall (mm).
    """

    xx: Floats
    xy: Floats
    yy: Floats
    origin: Floats


def coarse_map(image: np.ndarray, to_picture: ToPicture, low: Floats, high: Floats) -> Map:
    """A map of the wall that ribbons are looked for on.

    Args:
        image: the picture, ``(high, wide, 3)``.
        to_picture: from the wall's plane (mm) to pixels.
        low, high: corners of what is looked at (mm).

    Returns:
        The map.
    """
    wide, tall = ((high - low) / COARSE).astype(int) + 1
    x, y = np.meshgrid(low[0] + COARSE * np.arange(wide), low[1] + COARSE * np.arange(tall))
    flat = to_picture(np.stack([x.ravel(), y.ravel()], 1))
    one = to_picture(np.array([0.5 * (low + high), 0.5 * (low + high) + [COARSE, 0.0]]))
    blur = 0.45 * float(np.hypot(*(one[1] - one[0])))
    small = max(1, int(blur / 1.5))
    seen = cv2.resize(image, None, fx=1 / small, fy=1 / small, interpolation=cv2.INTER_AREA)
    seen = cv2.GaussianBlur(seen, (0, 0), max(blur / small, 0.5))
    at = ((flat + 0.5) / small - 0.5).astype(np.float32).reshape(tall, wide, 2)
    plane = cv2.remap(seen, at[..., 0], at[..., 1], cv2.INTER_LINEAR,
                      borderMode=cv2.BORDER_REPLICATE).astype(np.float32)  # fmt: skip
    planes = []
    for colour in (plane.mean(-1), plane[..., 2] - plane[..., 0], plane[..., 1] - plane[..., 0]):
        smooth = cv2.GaussianBlur(colour, (0, 0), 0.9)
        spread = np.sqrt(cv2.blur((colour - cv2.blur(colour, (25, 25))) ** 2, (25, 25)))
        planes.append(smooth / (spread + 2.5))
    table = np.stack(planes)
    xx = np.stack([cv2.Sobel(p, cv2.CV_32F, 2, 0, ksize=3) for p in table])
    yy = np.stack([cv2.Sobel(p, cv2.CV_32F, 0, 2, ksize=3) for p in table])
    xy = np.stack([cv2.Sobel(p, cv2.CV_32F, 1, 1, ksize=3) for p in table])
    return Map(np.clip(xx, -3, 3), np.clip(xy, -3, 3), np.clip(yy, -3, 3), low)


def looked_for(
    where: Map, lines: Sequence[Line], turns: Sequence[float], scale: float = BEFORE[0]
) -> list[tuple[float, int, Pose]]:
    """Where the bow may be: the best places of every line and turn.

    Args:
        where: the coarse map.
        lines: that the bow may show.
        turns: that it may hang at (rad).
        scale: how much larger it looks, about.

    Returns:
        Score, number of the line, and pose, the best first.
    """
    tall, wide = where.xx.shape[1:]
    size = fft.next_fast_len(tall + 8), fft.next_fast_len(wide + 8)
    planes = [fft.rfft2(one, size, axes=(-2, -1)) for one in (where.xx, where.xy, where.yy)]
    found = []
    for number, line in enumerate(lines):
        points = _frame(line.along, line.across)
        normals = np.stack([-np.sin(line.angles), np.cos(line.angles)], -1)
        normals[1, :, 0] *= -1
        for turn in turns:
            pose = Pose(0.0, 0.0, turn, scale)
            at = pose.to_wall(points).reshape(-1, 2) / COARSE
            way = replace(pose, scale=1.0).to_wall(normals).reshape(-1, 2)
            middle = 0.5 * (at.min(0) + at.max(0))
            index = np.round(at - middle).astype(int)
            row, column = index[:, 1] % size[0], index[:, 0] % size[1]
            score = np.zeros(size, np.float32)
            weights = (way[:, 0] ** 2, 2 * way[:, 0] * way[:, 1], way[:, 1] ** 2)
            spectra = []
            for weight in weights:
                mark = np.zeros(size, np.float32)
                np.add.at(mark, (row, column), weight.astype(np.float32))
                spectra.append(np.conj(fft.rfft2(mark)))
            for colour in range(3):
                whole = sum(
                    plane[colour] * mark for plane, mark in zip(planes, spectra, strict=True)
                )
                score += np.abs(fft.irfft2(whole, size)).astype(np.float32) ** 2
            half = 0.35 * (at.max(0) - at.min(0))
            inside = score[:tall, :wide].copy()
            edge_y, edge_x = int(half[1]), int(half[0])
            inside[: max(edge_y - 10, 1)] = 0
            inside[:, : max(edge_x - 30, 1)] = 0
            inside[:, wide - max(edge_x - 30, 1) :] = 0
            for _ in range(2):
                k = int(np.argmax(inside))
                y, x = divmod(k, wide)
                value = float(np.sqrt(inside[y, x])) / len(at)
                spot = (np.array([x, y]) - middle) * COARSE + where.origin
                found.append((value, number, Pose(float(spot[0]), float(spot[1]), turn, scale)))
                inside[max(y - 8, 0) : y + 9, max(x - 8, 0) : x + 9] = 0
    return sorted(found, key=lambda one: -one[0])


# Measuring it


@dataclass(frozen=True)
class Fit:
    """A line as it was fitted.

    Attributes:
        line: fitted, in the bow's frame.
        pose: where it hangs.
        covers: of the fitted points in the frame, ``(2, CELLS + 1, 2, 2)`` (mm²).
        seen: share of the stations where both edges were found.
        off: of the measured middles from the line, root of the mean square (mm).
        width: of the limbs as seen over as designed, in the mean.
    """

    line: Line
    pose: Pose
    covers: Floats
    seen: float
    off: float
    width: float


@dataclass(frozen=True)
class Measured:
    """Middles of a limb's side view, across its expected line.

    Attributes:
        at: shares of the limb, ``(2, STATIONS)``.
        off: of the middle from the line, to the belly, ``(2, STATIONS)`` (mm).
        error: one deviation of it; infinite where it was not found.
        width: as seen over as designed.
    """

    at: Floats
    off: Floats
    error: Floats
    width: Floats


def _profiles(
    image: np.ndarray, line: Line, pose: Pose, to_picture: ToPicture, reach: float, step: float
) -> tuple[Floats, Floats, Floats, float]:
    """Colours across both limbs: shares, offsets, ``(2, STATIONS, offsets, 3)``, and mm a pixel."""
    at = np.linspace(0.0, 1.0, STATIONS)
    cells = np.linspace(0.0, 1.0, CELLS + 1)
    points = _frame(line.along, line.across)
    offsets = np.arange(-reach, reach + 0.5 * step, step)
    spots = []
    for side in (0, 1):
        middle = np.stack([np.interp(at, cells, points[side, :, k]) for k in (0, 1)], -1)
        turn = np.interp(at, cells, line.angles[side])
        sign = 1 if side == 0 else -1
        normal = np.stack([-sign * np.sin(turn), np.cos(turn)], -1)
        along = np.stack([sign * np.cos(turn), np.sin(turn)], -1)
        beside = np.array([-4.0, 0.0, 4.0])
        here = (
            middle[:, None, None] + offsets[None, :, None, None] * normal[:, None, None]
            + beside[None, None, :, None] * along[:, None, None]
        )  # fmt: skip
        spots.append(here)
    whole = np.stack(spots)
    flat = to_picture(pose.to_wall(whole.reshape(-1, 2)))
    two = to_picture(pose.to_wall(np.array([[0.0, 0.0], [100.0, 0.0]])))
    per = 100.0 / float(np.hypot(*(two[1] - two[0])))
    seen = cv2.remap(
        image, flat[:, 0].astype(np.float32).reshape(-1, offsets.size * 3),
        flat[:, 1].astype(np.float32).reshape(-1, offsets.size * 3), cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    table = seen.reshape(2, STATIONS, offsets.size, 3, 3).astype(np.float32).mean(3)
    return at, offsets, table, per


def measured(
    image: np.ndarray, line: Line, pose: Pose, to_picture: ToPicture, reach: float, step: float
) -> Measured:
    """Where both edges of the limbs are, across their expected line.

    Args:
        image: the picture, ``(high, wide, 3)``.
        line: expected.
        pose: where it hangs.
        to_picture: from the wall's plane to pixels.
        reach: looked at to both sides (mm).
        step: of the looking (mm).

    Returns:
        The middles.
    """
    at, offsets, table, per = _profiles(image, line, pose, to_picture, reach + 14.0, step)
    cells = np.linspace(0.0, 1.0, CELLS + 1)
    off, error = np.zeros((2, STATIONS)), np.full((2, STATIONS), np.inf)
    width = np.ones((2, STATIONS))
    for side in (0, 1):
        thick = np.interp(at, cells, line.thick[side])
        score, edges = _ribbons(table[side], offsets, thick, reach, step, per)
        path = _path(score, step)
        for k in range(STATIONS):
            got = _edges(table[side, k], offsets, offsets[path[k]], thick[k], per, edges)
            if got is not None:
                off[side, k], width[side, k], error[side, k] = got
    return Measured(at, off, error, width)


def _ribbons(
    table: Floats, offsets: Floats, thick: Floats, reach: float, step: float, per: float
) -> tuple[Floats, float]:
    """How much each offset looks like a ribbon's middle, ``(STATIONS, offsets)``; and noise."""
    sums = np.concatenate([np.zeros((len(table), 1, 3)), np.cumsum(table, axis=1)], 1)
    count = offsets.size

    def mean(first: Floats, last: Floats) -> Floats:
        a = np.clip(np.round((first - offsets[0]) / step).astype(int), 0, count - 1)
        b = np.clip(np.round((last - offsets[0]) / step).astype(int), a + 1, count)
        rows = np.arange(len(table))[:, None]
        return np.asarray((sums[rows, b] - sums[rows, a]) / (b - a)[..., None])

    half = 0.5 * thick[:, None]
    centre = offsets[None, :]
    gap, band = max(1.0, 0.8 * per), max(6.0, 3 * per)
    inside = mean(centre - 0.7 * half, centre + 0.7 * half)
    left = mean(centre - half - gap - band, centre - half - gap)
    right = mean(centre + half + gap, centre + half + gap + band)
    noise = float(np.median(np.abs(np.diff(table, axis=1)))) + 1.0
    a, b = inside - left, inside - right
    both = np.where(np.sign(a) == np.sign(b), np.minimum(np.abs(a), np.abs(b)), 0.0)
    score = np.sqrt((both**2).sum(-1)) / noise
    score[:, np.abs(offsets) > reach] = -5.0
    return np.minimum(score, 14.0), noise


def _path(score: Floats, step: float) -> np.ndarray:
    """The best run of offsets from root to nock, that moves little from station to station."""
    count, size = score.shape
    most = max(1, round(2.5 / step))
    best, back = score[0].copy(), np.zeros((count, size), int)
    for k in range(1, count):
        moved = np.full((2 * most + 1, size), -np.inf)
        for j, shift in enumerate(range(-most, most + 1)):
            shifted = np.full(size, -np.inf)
            low, high = max(0, -shift), min(size, size - shift)
            shifted[low:high] = best[low + shift : high + shift]
            moved[j] = shifted - 0.9 * (shift * step) ** 2
        choice = np.argmax(moved, axis=0)
        back[k] = np.arange(size) + choice - most
        best = moved[choice, np.arange(size)] + score[k]
    path = np.zeros(count, int)
    path[-1] = int(np.argmax(best))
    for k in range(count - 1, 0, -1):
        path[k - 1] = back[k, path[k]]
    return path


def _edges(
    profile: Floats, offsets: Floats, middle: float, thick: float, per: float, noise: float
) -> tuple[float, float, float] | None:
    """Middle, width and error of a limb across one station; None where it is not to be seen."""
    half = 0.5 * thick
    gap = max(1.0, per)
    inside = np.abs(offsets - middle) < 0.65 * half
    left = (offsets > middle - half - gap - 7) & (offsets < middle - half - gap)
    right = (offsets > middle + half + gap) & (offsets < middle + half + gap + 7)
    if not (inside.any() and left.sum() > 2 and right.sum() > 2):
        return None
    wood = profile[inside].mean(0)
    edges = []
    for beside, sign in ((left, -1.0), (right, 1.0)):
        way = wood - profile[beside].mean(0)
        size = float(np.linalg.norm(way))
        if size < 2.5 * noise:
            return None
        seen = profile @ (way / size)
        high, low = float(wood @ (way / size)), float(profile[beside].mean(0) @ (way / size))
        level = (seen - low) / max(high - low, 1e-6)
        near = np.abs(offsets - (middle + sign * half)) < 0.3 * thick + 2.5 + per
        spot = _crossing(offsets[near], level[near], sign)
        if spot is None:
            return None
        edges.append((spot, noise / size))
    (first, a), (second, b) = edges
    width = (second - first) / thick
    if not 0.6 < width < 1.5:
        return None
    error = float(np.hypot(0.12 * per + per * a, 0.12 * per + per * b)) + 0.15
    return 0.5 * (first + second), width, error


def _crossing(at: Floats, level: Floats, sign: float) -> float | None:
    """Where a level falls through a half, outward; the crossing nearest to the middle of all."""
    order = at if sign > 0 else at[::-1]
    value = level if sign > 0 else level[::-1]
    falls = np.flatnonzero((value[:-1] >= 0.5) & (value[1:] < 0.5))
    if falls.size == 0:
        return None
    wanted = 0.5 * (order[0] + order[-1])
    spots = [
        order[k] + (value[k] - 0.5) / max(value[k] - value[k + 1], 1e-6) * (order[k + 1] - order[k])
        for k in falls
    ]
    return float(min(spots, key=lambda one: abs(one - wanted)))


# Fitting it


def _bent(start: Line, roots: Floats, more: Floats) -> tuple[Floats, Floats, Floats]:
    """Lines that bend otherwise by so much at the knots: along, across and angles."""
    cells = (np.arange(CELLS) + 0.5) / CELLS
    knots = np.linspace(0.0, 1.0, KNOTS)
    along, across = np.empty((2, CELLS + 1)), np.empty((2, CELLS + 1))
    angles = np.empty((2, CELLS + 1))
    for side in (0, 1):
        step = np.hypot(np.diff(start.along[side]), np.diff(start.across[side]))
        bend = start.bend[side] + np.interp(cells, knots, more[side]) * 1e-3
        turned = roots[side, 2] + np.concatenate([[0.0], np.cumsum(bend * step)])
        middle = 0.5 * (turned[1:] + turned[:-1])
        along[side] = roots[side, 0] + np.concatenate([[0.0], np.cumsum(step * np.cos(middle))])
        across[side] = roots[side, 1] + np.concatenate([[0.0], np.cumsum(step * np.sin(middle))])
        angles[side] = turned
    return along, across, angles


def _prior(start: Line) -> Floats:
    """What makes deviations at the knots into unit ones, ``(2, KNOTS, KNOTS)``."""
    knots = np.linspace(0.0, 1.0, KNOTS)
    cells = (np.arange(CELLS) + 0.5) / CELLS
    rows = []
    for side in (0, 1):
        length = float(np.hypot(np.diff(start.along[side]), np.diff(start.across[side])).sum())
        bend = np.interp(knots, cells, np.abs(start.bend[side])) * 1e3
        size = np.hypot(BENDS * bend, BENDS_LEAST)
        near = np.exp(-np.abs(knots[:, None] - knots) * length / (REACH * 1e3))
        rows.append(
            np.linalg.inv(np.linalg.cholesky(near * np.outer(size, size) + 1e-9 * np.eye(KNOTS)))
        )
    return np.stack(rows)


@dataclass(frozen=True)
class Nocks:
    """Where the string crosses both limbs, on the wall's plane, with one deviation along the
    limb; and the nocking point.

    Attributes:
        at: ``(2, 2)`` (mm).
        error: one deviation (mm).
        point: the nocking point on the plane (mm).
        clear: how well the string was seen.
    """

    at: Floats
    error: float
    point: Floats
    clear: float


def fitted(
    start: Line, pose: Pose, seen: Measured, base: Line, nocks: Nocks | None, bow: Bow
) -> Fit:
    """Fit a bow's line to the middles that were measured across another.

    Args:
        start: the line as designed, that bends are believed to be about.
        pose: where it hangs, about.
        seen: measured across ``base``.
        base: the line that it was measured across.
        nocks: where the string crosses the limbs, where it was found.
        bow: the bow.

    Returns:
        The fit.
    """
    roots = np.array([[one.root[0] * 1e3, one.root[1] * 1e3, one.root[2]] for one in bow.limbs])
    unit = _prior(start)
    cells = np.linspace(0.0, 1.0, CELLS + 1)
    good = np.isfinite(seen.error)
    points = _frame(base.along, base.across)
    targets, errors, sides = [], [], []
    for side in (0, 1):
        sign = 1 if side == 0 else -1
        pick = good[side]
        here = np.stack([np.interp(seen.at, cells, points[side, :, k]) for k in (0, 1)], -1)[pick]
        turn = np.interp(seen.at, cells, base.angles[side])[pick]
        normal = np.stack([-sign * np.sin(turn), np.cos(turn)], -1)
        targets.append(pose.to_wall(here + seen.off[side, pick, None] * normal))
        errors.append(seen.error[side, pick] * pose.scale)
        sides.append(np.full(pick.sum(), side))
    target, error = np.concatenate(targets), np.concatenate(errors)
    side_of = np.concatenate(sides)

    def at(unknown: Floats) -> tuple[Pose, tuple[Floats, Floats, Floats]]:
        there = Pose(
            pose.x + 10 * unknown[0], pose.y + 10 * unknown[1], pose.turn + 0.01 * unknown[2],
            BEFORE[0] + BEFORE[1] * unknown[3],
        )  # fmt: skip
        more = unknown[4:].reshape(2, KNOTS)
        return there, _bent(start, roots, more)

    def off(unknown: Floats) -> Floats:
        there, (along, across, _) = at(unknown)
        line = there.to_wall(_frame(along, across))
        rows = [unknown[3:4]]
        for side in (0, 1):
            rows.append(unit[side] @ unknown[4:].reshape(2, KNOTS)[side])
            pick = side_of == side
            if not pick.any():
                continue
            # the distance of a target from the line beside it, whatever its share along
            spots = line[side]
            way = np.diff(spots, axis=0)
            long = np.hypot(*way.T)
            first = target[pick][:, None] - spots[None, :-1]
            part = np.clip((first * way).sum(-1) / long**2, 0, 1)
            # beyond the ends the line goes on straight
            part[:, 0] = np.minimum((first[:, 0] * way[0]).sum(-1) / long[0] ** 2, 1)
            part[:, -1] = np.maximum((first[:, -1] * way[-1]).sum(-1) / long[-1] ** 2, 0)
            left = first - part[..., None] * way
            nearest = np.argmin((left**2).sum(-1), axis=1)
            row = np.arange(nearest.size)
            chosen, along_way = left[row, nearest], way[nearest] / long[nearest, None]
            signed = chosen[:, 1] * along_way[:, 0] - chosen[:, 0] * along_way[:, 1]
            rows.append(signed / error[pick])
        if nocks is not None:
            for side in (0, 1):
                miss = nocks.at[side] - line[side, -1]
                way = line[side, -1] - line[side, -2]
                rows.append(np.array([miss @ way / np.hypot(*way) / nocks.error]))
        return np.concatenate(rows)

    start_at = np.zeros(4 + 2 * KNOTS)
    start_at[3] = (pose.scale - BEFORE[0]) / BEFORE[1]
    found = least_squares(off, start_at, loss="soft_l1", f_scale=2.0, max_nfev=25, x_scale="jac")
    there, (along, across, angles) = at(found.x)
    count = max(len(target), 1)
    left = off(found.x)[1 + 2 * KNOTS : 1 + 2 * KNOTS + count]
    usual = max(1.0, 1.4826 * float(np.median(np.abs(left))) if count > 4 else 1.0)
    information = found.jac.T @ found.jac / usual**2 + 1e-9 * np.eye(found.x.size)
    cover = np.linalg.inv(information)
    step = np.diff(angles, axis=1) / np.hypot(np.diff(along, axis=1), np.diff(across, axis=1))
    line = replace(start, along=along, across=across, angles=angles, bend=step)
    covers = _covers(found.x, cover, at)
    share = float(np.mean(good)) if good.size else 0.0
    rms = float(np.sqrt(np.mean(np.minimum(left**2, 9.0) * error**2))) if count else np.inf
    pick = good & (np.abs(seen.width - 1) < 0.5)
    width = float(np.median(seen.width[pick])) if pick.any() else 1.0
    line = _with_nock(line, there, nocks)
    return Fit(line, there, covers, share, rms, width)


def _covers(
    unknown: Floats, cover: Floats, at: Callable[[Floats], tuple[Pose, tuple[Floats, ...]]]
) -> Floats:
    """Covariance of the line's points in the bow's frame. Pose and scale move only where it is
    laid on the wall, which the frame does not see; what they leave open is in how the limbs bend.
    """
    first = _frame(*at(unknown)[1][:2])
    slopes = np.zeros((unknown.size, *first.shape))
    for k in range(4, unknown.size):
        moved = unknown.copy()
        moved[k] += 1e-3
        slopes[k] = (_frame(*at(moved)[1][:2]) - first) / 1e-3
    return np.asarray(np.einsum("isna,ij,jsnb->snab", slopes, cover, slopes))


def _with_nock(line: Line, pose: Pose, nocks: Nocks | None) -> Line:
    if nocks is None:
        return replace(line, nock=None)
    c, s = np.cos(pose.turn), np.sin(pose.turn)
    back = (nocks.point - np.array([pose.x, pose.y])) @ np.array([[c, -s], [s, c]]) / pose.scale
    return replace(line, nock=(float(back[0]), float(back[1])))


# The string

STRING_STEP = 1.5  # mm a pixel of the map the string is looked for on
NOCK = 2.5  # mm along the limb that the string's crossing is off, one deviation
LEAST_CLEAR = 0.68  # of what a clear line shows, and it is the string


@dataclass(frozen=True)
class _Plane:
    """Second derivatives of the picture in the bow's own frame, evened out."""

    xx: Floats
    xy: Floats
    yy: Floats
    origin: Floats

    def lines(self, ends: Floats, others: Floats, samples: int = 48) -> Floats:
        """How clear a thin line is seen between ends and others, ``(n, m)``; along it the lowest
        third counts as much as the rest, so that something that crosses it is no line.
        """
        share = np.linspace(0.06, 0.94, samples)
        way = others[None] - ends[:, None]
        long = np.hypot(way[..., 0], way[..., 1])[..., None]
        nx, ny = -way[..., 1] / long[..., 0], way[..., 0] / long[..., 0]
        total = np.zeros((len(ends), len(others)))
        low = np.zeros_like(total)
        tall, wide = self.xx.shape
        for k in share:
            spot = (ends[:, None] + k * way - self.origin) / STRING_STEP
            x = np.clip(np.round(spot[..., 0]).astype(int), 0, wide - 1)
            y = np.clip(np.round(spot[..., 1]).astype(int), 0, tall - 1)
            seen = np.abs(
                self.xx[y, x] * nx * nx + 2 * self.xy[y, x] * nx * ny + self.yy[y, x] * ny * ny
            )
            total += np.minimum(seen, 1.0)
            low += seen > 0.25
        return (total / samples) * (low / samples)


def _plane(
    image: np.ndarray, pose: Pose, to_picture: ToPicture, low: Floats, high: Floats
) -> _Plane:
    wide, tall = ((high - low) / STRING_STEP).astype(int) + 1
    x, y = np.meshgrid(
        low[0] + STRING_STEP * np.arange(wide), low[1] + STRING_STEP * np.arange(tall)
    )
    coarse = 8
    flat = to_picture(
        pose.to_wall(np.stack([x[::coarse, ::coarse].ravel(), y[::coarse, ::coarse].ravel()], 1))
    )
    shape = x[::coarse, ::coarse].shape
    # between every eighth point the map is as good as straight
    maps = []
    for k in (0, 1):
        small = flat[:, k].reshape(shape).astype(np.float32)
        big = cv2.resize(np.pad(small, ((0, 1), (0, 1)), mode="reflect", reflect_type="odd"),
                         ((shape[1] + 1) * coarse, (shape[0] + 1) * coarse))  # fmt: skip
        off = coarse // 2
        maps.append(np.ascontiguousarray(big[off : off + tall, off : off + wide]))
    seen = cv2.remap(cv2.GaussianBlur(image, (0, 0), 0.8), maps[0], maps[1], cv2.INTER_LINEAR,
                     borderMode=cv2.BORDER_REPLICATE).astype(np.float32).mean(-1)  # fmt: skip
    spread = np.sqrt(cv2.blur((seen - cv2.blur(seen, (41, 41))) ** 2, (41, 41)))
    even = cv2.GaussianBlur(seen, (0, 0), 1.0)
    scale = 1 / (1.2 * spread + 3.0)
    return _Plane(
        cv2.Sobel(even, cv2.CV_32F, 2, 0, ksize=3) * scale,
        cv2.Sobel(even, cv2.CV_32F, 1, 1, ksize=3) * scale,
        cv2.Sobel(even, cv2.CV_32F, 0, 2, ksize=3) * scale, low,
    )  # fmt: skip


def _beyond(line: Line, side: int, past: Floats) -> Floats:
    """Points along a limb by their distance past its nock, ``(n, 2)`` (mm); outward it goes on
    straight.
    """
    points = _frame(line.along, line.across)[side]
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = run[-1] + past
    inner = np.stack([np.interp(at, run, points[:, k]) for k in (0, 1)], -1)
    way = points[-1] - points[-2]
    out = np.maximum(past, 0.0)[:, None] * way / np.hypot(*way)
    return np.asarray(inner + out)


def nocks_of(
    image: np.ndarray,
    line: Line,
    pose: Pose,
    to_picture: ToPicture,
    state: State,
    wide: float = 70.0,
) -> Nocks | None:
    """Where the string crosses both limbs.

    Args:
        image: the picture.
        line: of the limbs, as fitted so far.
        pose: where the bow hangs.
        to_picture: from the wall's plane to pixels.
        state: drawn or braced.
        wide: how far nocks and nocking point may be from where they are expected (mm).

    Returns:
        The nocks, or None where no string is clear.
    """
    if line.nock is None or state == "unstrung":
        return None
    expected = np.array(line.nock)
    ends = _frame(line.along, line.across)
    spots = np.concatenate([ends.reshape(-1, 2), expected[None]])
    margin = wide + 30
    plane = _plane(image, pose, to_picture, spots.min(0) - margin, spots.max(0) + margin)
    past = np.arange(-wide, wide + 0.1, 3.0)
    tips = [_beyond(line, side, past) for side in (0, 1)]
    if state == "braced":
        score = plane.lines(tips[0], tips[1])
        k, j = np.unravel_index(int(np.argmax(score)), score.shape)
        clear, found = float(score[k, j]), (past[k], past[j])
        fine = np.arange(-4.0, 4.1, 1.0)
        near = [_beyond(line, side, found[side] + fine) for side in (0, 1)]
        score = plane.lines(near[0], near[1])
        k, j = np.unravel_index(int(np.argmax(score)), score.shape)
        at = np.stack([near[0][k], near[1][j]])
        share = (expected[0] - at[1, 0]) / max(at[0, 0] - at[1, 0], 1.0)
        point = at[1] + share * (at[0] - at[1])
    else:
        step = max(4.0, wide / 22)
        grid_x = np.arange(-wide, wide + 0.1, step)
        x, y = np.meshgrid(grid_x, grid_x)
        candidates = expected + np.stack([x.ravel(), y.ravel()], 1)
        both = [plane.lines(candidates, tips[side]) for side in (0, 1)]
        whole = np.sqrt(both[0].max(1) * both[1].max(1))  # both halves must be there
        top = int(np.argmax(whole))
        clear = float(whole[top])
        found = tuple(past[int(np.argmax(both[side][top]))] for side in (0, 1))
        fine = np.arange(-step, step + 0.1, 1.0)
        x, y = np.meshgrid(fine, fine)
        candidates = candidates[top] + np.stack([x.ravel(), y.ravel()], 1)
        near = [_beyond(line, side, found[side] + np.arange(-5.0, 5.1, 1.0)) for side in (0, 1)]
        both = [plane.lines(candidates, near[side], 90) for side in (0, 1)]
        whole = both[0].max(1) * both[1].max(1)
        top = int(np.argmax(whole))
        at = np.stack([near[side][int(np.argmax(both[side][top]))] for side in (0, 1)])
        point = candidates[top]
    if clear < LEAST_CLEAR:
        return None
    wall = pose.to_wall(np.concatenate([at, point[None]]))
    return Nocks(wall[:2], NOCK, wall[2], clear)
