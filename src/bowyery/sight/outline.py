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
from typing import Literal, NoReturn

import cv2
import numpy as np
from scipy import fft

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import brace_bow, draw

State = Literal["drawn", "braced", "unstrung"]
STATES: tuple[State, ...] = ("drawn", "braced", "unstrung")
CELLS = 48  # of a limb's line
BEFORE = (1.045, 0.022)  # how much larger a bow looks that hangs before its wall, and one deviation
STATIONS = 60  # of a limb, measured across
CROOKS = (-0.08, -0.04, 0.0, 0.04, 0.08)  # 1/m that an unstrung bow bends otherwise than marked
PAST = ((45.0, 150.0), 1.0)  # mm beyond its nocks where no limb may be, and how much that counts
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

    Raises:
        BowyeryError: it cannot be braced or drawn.
    """
    limbs = grid(bow, CELLS)
    thick = np.stack([
        np.interp(np.linspace(0, one.length, CELLS + 1), one.at, one.thickness) for one in bow.limbs
    ]) * 1e3  # fmt: skip
    still = np.zeros((2, 1))
    if state == "unstrung":
        found = []
        for crook in CROOKS:
            rest = shapes(replace(limbs, curvature=limbs.curvature + crook), still, still)
            found.append(_line(bow, rest.along[:, 0], rest.across[:, 0], thick, None, 0.0))
        return found
    pivot = bow.hold.pivot
    if state == "braced":
        found = []
        for crook in CROOKS:
            crooked = replace(limbs, curvature=limbs.curvature + crook)
            try:
                braced = brace_bow(crooked, bow)
            except BowyeryError:
                continue
            bent = shapes(crooked, np.stack([braced.tension] * 2), braced.p)
            nock = (pivot[0] * 1e3, (pivot[1] + float(braced.height[0])) * 1e3)
            found.append(_line(bow, bent.along[:, 0], bent.across[:, 0], thick, nock, 0.0))
        return found or _none("braced")
    braced = brace_bow(limbs, bow)
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
    return found or _none("drawn")


def _none(how: str) -> NoReturn:
    raise DescriptionError(f"The bow of this file cannot be {how}.", "bow")


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


def frame(along: Floats, across: Floats) -> Floats:
    """Points of both limbs in the bow's frame.

    Args:
        along, across: outward from the centre, and to the belly, ``(2, n)`` (mm).

    Returns:
        The points, ``(2, n, 2)`` (mm), along counted to the upper tip.
    """
    both = np.stack([along, across], -1)
    both[1, :, 0] *= -1
    return both


def run_along(points: Floats) -> Floats:
    """How far along a line its points are.

    Args:
        points: ``(n, 2)``.

    Returns:
        From the first, ``(n,)``, in their unit.
    """
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])


def mm_per_pixel(pose: Pose, to_picture: ToPicture) -> float:
    """How large a pixel is at the middle of a bow (mm)."""
    two = to_picture(pose.to_wall(np.array([[0.0, 0.0], [100.0, 0.0]])))
    return 100.0 / float(np.hypot(*(two[1] - two[0])))


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
    """
    wide, tall = ((high - low) / COARSE).astype(int) + 1
    x, y = np.meshgrid(low[0] + COARSE * np.arange(wide), low[1] + COARSE * np.arange(tall))
    flat = to_picture(np.stack([x.ravel(), y.ravel()], 1))
    one = to_picture(np.array([0.5 * (low + high), 0.5 * (low + high) + [COARSE, 0.0]]))
    blur = 0.45 * float(np.hypot(*(one[1] - one[0])))
    small = max(1, int(blur))  # no second copy of a large picture is made
    seen = cv2.resize(image, None, fx=1 / small, fy=1 / small, interpolation=cv2.INTER_AREA)
    seen = cv2.GaussianBlur(seen, (0, 0), max(blur / small, 0.5))
    at = ((flat + 0.5) / small - 0.5).astype(np.float32).reshape(tall, wide, 2)
    plane = cv2.remap(seen, at[..., 0], at[..., 1], cv2.INTER_LINEAR,
                      borderMode=cv2.BORDER_REPLICATE).astype(np.float32)  # fmt: skip
    planes = []
    for colour in (plane.mean(-1), plane[..., 2] - plane[..., 0], plane[..., 1] - plane[..., 0]):
        smooth = cv2.GaussianBlur(colour, (0, 0), 0.9)
        varied = cv2.blur((colour - cv2.blur(colour, (25, 25))) ** 2, (25, 25))
        spread = np.sqrt(np.maximum(varied, 0.0))
        planes.append(smooth / (spread + 2.5))
    table = np.stack(planes)
    xx = np.stack([cv2.Sobel(p, cv2.CV_32F, 2, 0, ksize=3) for p in table])
    yy = np.stack([cv2.Sobel(p, cv2.CV_32F, 0, 2, ksize=3) for p in table])
    xy = np.stack([cv2.Sobel(p, cv2.CV_32F, 1, 1, ksize=3) for p in table])
    return Map(np.clip(xx, -3, 3), np.clip(xy, -3, 3), np.clip(yy, -3, 3), low)


def _gone_past(points: Floats, normals: Floats) -> tuple[Floats, Floats, Floats]:
    """Points of both limbs, ``(n, 2)``, some beyond their nocks, and how much each counts: a bow
    that goes on beyond its nocks is not there, but beside.
    """
    flat = [points.reshape(-1, 2)]
    beside = [normals.reshape(-1, 2)]
    past = np.arange(PAST[0][0], PAST[0][1], 15.0)
    for side in (0, 1):
        way = points[side, -1] - points[side, -2]
        flat.append(points[side, -1] + past[:, None] * way / np.hypot(*way))
        beside.append(np.repeat(normals[side, -1:], past.size, axis=0))
    counts = np.ones(sum(map(len, flat)))
    counts[points.size // 2 :] = -PAST[1]
    return np.concatenate(flat), np.concatenate(beside), counts


def looked_for(
    where: Map, lines: Sequence[Line], turns: Sequence[float], scale: float = BEFORE[0]
) -> list[tuple[float, int, Pose]]:
    """Where the bow may be: the best places of every line and turn.

    Args:
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
        points = frame(line.along, line.across)
        normals = np.stack([-np.sin(line.angles), np.cos(line.angles)], -1)
        normals[1, :, 0] *= -1
        points, normals, counts = _gone_past(points, normals)
        for turn in turns:
            pose = Pose(0.0, 0.0, turn, scale)
            at = pose.to_wall(points) / COARSE
            way = replace(pose, scale=1.0).to_wall(normals)
            middle = 0.5 * (at.min(0) + at.max(0))
            index = np.round(at - middle).astype(int)
            row, column = index[:, 1] % size[0], index[:, 0] % size[1]
            score = np.zeros(size, np.float32)
            weights = (way[:, 0] ** 2, 2 * way[:, 0] * way[:, 1], way[:, 1] ** 2)
            spectra = []
            for weight in weights:
                mark = np.zeros(size, np.float32)
                np.add.at(mark, (row, column), (weight * counts).astype(np.float32))
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
    points = frame(line.along, line.across)
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
    per = mm_per_pixel(pose, to_picture)
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
        reach: looked at to both sides (mm).
        step: of the looking (mm).
    """
    at, offsets, table, per = _profiles(image, line, pose, to_picture, reach + 14.0, step)
    cells = np.linspace(0.0, 1.0, CELLS + 1)
    off, error = np.zeros((2, STATIONS)), np.full((2, STATIONS), np.inf)
    width = np.ones((2, STATIONS))
    for side in (0, 1):
        thick = np.interp(at, cells, line.thick[side])
        score, edges = ribbons(table[side], offsets, thick, reach, step, per)
        path = path_of(score, step)
        for k in range(STATIONS):
            got = _edges(table[side, k], offsets, offsets[path[k]], thick[k], per, edges)
            if got is not None:
                off[side, k], width[side, k], error[side, k] = got
    return Measured(at, off, error, width)


def ribbons(
    table: Floats, offsets: Floats, thick: Floats, reach: float, step: float, per: float
) -> tuple[Floats, float]:
    """How much each offset looks like a ribbon's middle.

    Args:
        per: size of a pixel on the wall (mm).
        table: colours across it, ``(n, offsets, 3)``.
        offsets: looked at (mm).
        thick: of the ribbon, ``(n,)`` (mm).
        reach: that its middle may be off (mm).
        step: of the offsets (mm).

    Returns:
        How much, ``(n, offsets)``; and the noise.
    """
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


def path_of(score: Floats, step: float) -> np.ndarray:
    """The best run of offsets, that moves little from station to station.

    Args:
        score: of each, ``(n, offsets)``.
        step: of the offsets (mm).

    Returns:
        Numbers of the offsets, ``(n,)``.
    """
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
