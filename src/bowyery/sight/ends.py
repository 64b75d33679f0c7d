"""Where the limbs end in a picture: beyond their nocks, where wood gives way to wall."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from bowyery.arrays import Floats
from bowyery.sight.fit import BEYOND_NOCK, Ends
from bowyery.sight.outline import (
    CELLS,
    Line,
    Pose,
    ToPicture,
    frame,
    mm_per_pixel,
    path_of,
    ribbons,
    run_along,
)

SLIDE = 480.0  # mm along itself that a bow may be from where it is looked for first
SLIDE_STEP = 5.0
SPANS = np.arange(0.95, 1.051, 0.01)  # of its length, that a bow may show otherwise than expected
END_STEP = 2.5  # mm along a limb
ACROSS = 1.5  # mm across it
ALIKE = 3.0  # steps along that look alike for the same reason
SPAN_OFF = 0.025  # of its length, that a bow may show otherwise than expected, one deviation
END_MOST = 1.5  # of the mean difference of wood and wall, that one step can count at most


def beyond(line: Line, side: int, past: Floats) -> Floats:
    """Points along a limb; outward it goes on straight.

    Args:
        side: 0 for the upper, 1 for the lower.
        past: how far past its nock, ``(n,)`` (mm).

    Returns:
        The points in the bow's frame, ``(n, 2)`` (mm).
    """
    points = frame(line.along, line.across)[side]
    run = run_along(points)
    at = run[-1] + past
    inner = np.stack([np.interp(at, run, points[:, k]) for k in (0, 1)], -1)
    way = points[-1] - points[-2]
    out = np.maximum(past, 0.0)[:, None] * way / np.hypot(*way)
    return np.asarray(inner + out)


@dataclass(frozen=True)
class _Along:
    """A bow's line from beyond the lower nock to beyond the upper, in even steps.

    Attributes:
        at: along it, ``(n,)`` (mm).
        spots: in the bow's frame, ``(n, 2)`` (mm).
        nocks: where it passes the lower and the upper nock (mm).
        middle: of what was seen across it, to the belly, ``(n,)`` (mm).
        like: how much each place looks like wood, ``(n,)``.
    """

    at: Floats
    spots: Floats
    nocks: tuple[float, float]
    middle: Floats
    like: Floats


def _along(
    image: np.ndarray, line: Line, pose: Pose, to_picture: ToPicture, far: float, reach: float,
    step: float,
) -> _Along:  # fmt: skip
    """Look along a bow and so far beyond its nocks, at middles up to a reach off its line."""
    points = frame(line.along, line.across)
    past = np.arange(step, far + 0.1, step)
    whole = np.concatenate(
        [beyond(line, 1, past[::-1]), points[1, ::-1], points[0], beyond(line, 0, past)]
    )
    run = run_along(whole)
    at = np.arange(0.0, run[-1], step)
    spots = np.stack([np.interp(at, run, whole[:, k]) for k in (0, 1)], 1)
    nocks = float(past[-1]), float(run[-1] - past[-1])
    thick = np.interp(
        at, np.linspace(*nocks, 2 * CELLS + 2), np.concatenate([line.thick[1, ::-1], line.thick[0]])
    )
    wide = reach + 0.5 * float(thick.max()) + 11.0
    offsets = np.arange(-wide, wide + 0.1, ACROSS)
    table = _across(image, spots, offsets, pose, to_picture)
    middle = np.zeros(at.size)
    if reach > 0:
        score, _ = ribbons(table, offsets, thick, reach, ACROSS, mm_per_pixel(pose, to_picture))
        middle = offsets[path_of(score, ACROSS)]
    here, beside = _inside(table, offsets, middle, thick)
    core = np.abs(at - 0.5 * sum(nocks)) < 0.2 * (nocks[1] - nocks[0])
    like = _like_wood(here, beside, np.median(here[core], axis=0), core)
    return _Along(at, spots, nocks, middle, like)


def slid(image: np.ndarray, line: Line, pose: Pose, to_picture: ToPicture) -> Pose:
    """Push a bow along itself to where both its ends are: little bent, it looks alike all along.

    Args:
        image: grey, ``(rows, columns)``.

    Returns:
        Where it hangs, as its ends say.
    """
    seen = _along(image, line, pose, to_picture, SLIDE, 45.0, SLIDE_STEP)
    total = np.concatenate([[0.0], np.cumsum(seen.like)])
    best, first, last = -np.inf, 0, seen.at.size - 1
    for span in (seen.nocks[1] - seen.nocks[0] + 2 * BEYOND_NOCK[0]) * SPANS:
        count = round(span / SLIDE_STEP)
        starts = np.arange(0, seen.at.size - count)
        worth = total[starts + count] - total[starts]
        k = int(np.argmax(worth))
        if worth[k] > best:
            best, first, last = float(worth[k]), int(starts[k]), int(starts[k]) + count
    # the bow as it may be is laid on what was seen between
    path = (seen.spots + seen.middle[:, None] * _beside(seen.spots))[first : last + 1]
    share = np.linspace(0.03, 0.97, 60)
    steps = np.linspace(0, 1, len(path))
    there = pose.to_wall(np.stack([np.interp(share, steps, path[:, k]) for k in (0, 1)], 1))
    ends = seen.nocks[0] - BEYOND_NOCK[0], seen.nocks[1] + BEYOND_NOCK[0]
    at = ends[0] + share * (ends[1] - ends[0])
    here = np.stack([np.interp(at, seen.at, seen.spots[:, k]) for k in (0, 1)], 1)
    a, b = here - here.mean(0), there - there.mean(0)
    turn = float(np.arctan2((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum(), (a * b).sum()))
    laid = Pose(0.0, 0.0, turn, pose.scale)
    spot = there.mean(0) - laid.to_wall(here.mean(0)[None])[0]
    return replace(laid, x=float(spot[0]), y=float(spot[1]))


def _beside(spots: Floats) -> Floats:
    """Across a line, to the belly, at each of its spots, ``(n, 2)``."""
    way = np.gradient(spots, axis=0)
    return np.asarray(np.stack([-way[:, 1], way[:, 0]], 1) / np.hypot(*way.T)[:, None])


def _across(
    image: np.ndarray, spots: Floats, offsets: Floats, pose: Pose, to_picture: ToPicture
) -> Floats:
    """Colours across a line through spots, ``(n, offsets, 3)``."""
    whole = (spots[:, None] + offsets[None, :, None] * _beside(spots)[:, None]).reshape(-1, 2)
    flat = to_picture(pose.to_wall(whole)).astype(np.float32).reshape(len(spots), -1, 2)
    seen = cv2.remap(
        image, flat[..., 0], flat[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(seen, float)


def _inside(table: Floats, offsets: Floats, middle: Floats, thick: Floats) -> tuple[Floats, Floats]:
    """Mean colours on the limb, ``(n, 3)``, and beside it on both sides, ``(2, n, 3)``."""
    off = offsets[None] - middle[:, None]
    half = 0.5 * thick[:, None]
    masks = (np.abs(off) < 0.6 * half, (off < -half - 3) & (off > -half - 11),
             (off > half + 3) & (off < half + 11))  # fmt: skip
    means = [
        (table * mask[..., None]).sum(1) / np.maximum(mask.sum(1), 1)[:, None] for mask in masks
    ]
    return means[0], np.stack(means[1:])


def _like_wood(here: Floats, beside: Floats, wood: Floats, sure: np.ndarray) -> Floats:
    """How much each place looks like the wood (positive) or like the wall beside it (negative),
    ``(n,)``, in what they differ by where it is surely wood.
    """
    from_wood = np.linalg.norm(here - wood, axis=1)
    from_wall = np.linalg.norm(here - beside, axis=2).min(0)
    size = max(float(np.median(from_wall[sure])), 1e-6)
    return np.asarray(np.clip((from_wall - from_wood) / size, -END_MOST, END_MOST))


def ends_of(
    image: np.ndarray, line: Line, pose: Pose, to_picture: ToPicture, wide: float
) -> Ends:  # fmt: skip
    """Where the limbs end: where what lies on their line stops looking like the wood before and
    begins to look like the wall beside it. What the bow's length leaves open, the errors say.

    Args:
        image: grey, ``(rows, columns)``.
        line: of the limbs, as fitted so far; outward they go on straight.
        wide: how far the ends may be from where they are expected (mm).
    """
    seen = _along(image, line, pose, to_picture, 2 * wide, 0.0, END_STEP)
    total = np.cumsum(seen.like)
    length = seen.nocks[1] - seen.nocks[0] + 2 * BEYOND_NOCK[0]
    near = [np.abs(seen.at - (nock + way * BEYOND_NOCK[0])) < wide
            for nock, way in zip(seen.nocks, (-1, 1), strict=True)]  # fmt: skip
    first, last = seen.at[near[0]], seen.at[near[1]]
    worth = (total[near[1]][None] - total[near[0]][:, None]) / ALIKE
    worth -= 0.5 * ((last[None] - first[:, None] - length) / (SPAN_OFF * length)) ** 2
    weight = np.exp(worth - worth.max())
    weight /= weight.sum()
    at, error = np.zeros((2, 2)), np.zeros(2)
    for side, (spots, likely) in enumerate(((last, weight.sum(0)), (first, weight.sum(1)))):
        mean = float(spots @ likely)
        error[side] = np.hypot(np.sqrt(((spots - mean) ** 2) @ likely), END_STEP)
        spot = np.array([np.interp(mean, seen.at, seen.spots[:, k]) for k in (0, 1)])
        at[side] = pose.to_wall(spot[None])[0]
    return Ends(at, error)
