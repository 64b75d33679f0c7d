"""The natural line of a stave in a photograph of its side, between its two ends."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError
from bowyery.sight.fit import NINETY
from bowyery.sight.outline import CELLS, Line, Measured, Pose, ToPicture, measured
from bowyery.sight.tags import wall_in

PLACES = 11  # that are told, from end to end
FIRST, THEN = (75.0, 1.5), (14.0, 0.5)  # mm that its middle may be off, and the steps of looking
LONGER = (0.93, 1.18)  # how much longer a stave may look that hangs before its wall
LEAST_SEEN = 0.6  # of its length where both edges are found
AROUND = 0.11  # of its length to both sides, that tells where its middle is at a place
UNSEEN = (
    "The stave cannot be seen from end to end: let nothing hang before or behind it, and light it"
    " so that it stands out from the wall."
)
ALIKE = 4.0  # neighbouring stations that are wrong alike
BY_EYE = 1.0  # mm that the middle between two rough edges is off, one deviation


@dataclass(frozen=True)
class NaturalLine:
    """How a stave runs.

    Attributes:
        at: places from its left end, ``(PLACES,)`` (mm).
        side: off a straight string from end to end, to the belly, there (mm).
        error: nine times in ten within this (mm).
        picture: the places in the picture, ``(PLACES, 2)`` (pixels).
    """

    at: Floats
    side: Floats
    error: Floats
    picture: Floats


def natural_line(image: np.ndarray, length: float, depth: float, ends: Floats) -> NaturalLine:
    """Read the natural line of a stave that hangs or stands before a wall with tags, back upwards.

    Args:
        image: the picture, ``(high, wide, 3)``, 8 bits, blue first.
        length: of the stave (m).
        depth: from back to belly, about (m).
        ends: middle of its left and of its right end in the picture, ``(2, 2)`` (pixels).

    Raises:
        DescriptionError: why it cannot be read.
    """
    grey = cv2.cvtColor(image, cv2.COLOR_BGR2GRAY)
    wall = wall_in(grey)
    there = wall.to_wall(np.asarray(ends, float))
    way = there[1] - there[0]
    if way[0] <= 0:
        raise DescriptionError("Its left end belongs to the left.", "ends")
    half = 500.0 * length
    pose = Pose(
        float(there[:, 0].mean()), float(there[:, 1].mean()), float(np.arctan2(way[1], way[0])),
        float(np.hypot(*way)) / (2 * half),
    )  # fmt: skip
    if not LONGER[0] < pose.scale < LONGER[1]:
        raise DescriptionError(
            "These ends are not as far apart as this stave is long: are they its ends, and is it"
            " this stave?", "ends",
        )  # fmt: skip
    along = np.tile(np.linspace(0.0, half, CELLS + 1), (2, 1))
    line = Line(
        along, np.zeros_like(along), np.zeros_like(along), np.zeros((2, CELLS)),
        np.full_like(along, 1e3 * depth), None, 0.0,
    )  # fmt: skip
    beside = 500.0 * depth  # its edges are so far from its middle
    seen = measured(image, line, pose, wall.to_picture, FIRST[0] + beside, FIRST[1])
    x, y, error = _in_order(seen, half)
    good = _seen_enough(error)
    rough = np.poly1d(np.polyfit(x[good] / half, y[good], 6))
    across = np.stack([rough(along[0] / half), rough(-along[1] / half)])
    line = replace(line, across=across)
    seen = measured(image, line, pose, wall.to_picture, THEN[0] + beside, THEN[1])
    x, off, error = _in_order(seen, half)
    return _told(x, off + rough(x / half), error, half, pose, wall.to_picture)


def _seen_enough(error: Floats) -> np.ndarray:
    """Where both edges were found; raises DescriptionError where that is too little."""
    good = np.isfinite(error)
    if good.mean() < LEAST_SEEN:
        raise DescriptionError(UNSEEN, "picture")
    return good


def _in_order(seen: Measured, half: float) -> tuple[Floats, Floats, Floats]:
    """Stations from the left end to the right: along from the middle, off and error."""
    at = half * np.concatenate([-seen.at[::-1], seen.at])
    return (
        at, np.concatenate([seen.off[1, ::-1], seen.off[0]]),
        np.concatenate([seen.error[1, ::-1], seen.error[0]]),
    )  # fmt: skip


def _told(
    x: Floats, y: Floats, error: Floats, half: float, pose: Pose, to_picture: ToPicture
) -> NaturalLine:
    good = _seen_enough(error)
    places = np.linspace(-half, half, PLACES)
    side, doubt = np.zeros(PLACES), np.zeros(PLACES)
    for k, place in enumerate(places):
        near = good & (np.abs(x - place) < AROUND * 2 * half)
        if near.sum() < 4:
            raise DescriptionError(UNSEEN, "picture")
        weight = 1 / np.hypot(error[near], 0.5)
        for _ in range(3):  # what lies off the run of its neighbours counts little
            run = np.poly1d(np.polyfit(x[near] - place, y[near], 2, w=weight))
            mean, left = float(run(0.0)), y[near] - run(x[near] - place)
            usual = max(1.4826 * float(np.median(np.abs(left))), 0.2)
            weight = 1 / np.hypot(error[near], 0.5) / np.hypot(1.0, left / (2 * usual))
        side[k] = mean
        doubt[k] = np.hypot(usual / np.sqrt(max(near.sum() / ALIKE, 1.0)), BY_EYE)
    # off a straight string from end to end
    share = np.linspace(0, 1, PLACES)
    whole = np.sqrt(doubt**2 + (doubt[0] * (1 - share)) ** 2 + (doubt[-1] * share) ** 2)
    pixels = to_picture(pose.to_wall(np.stack([places, side], 1)))
    side = side - side[0] * (1 - share) - side[-1] * share
    whole[[0, -1]] = 0.0
    return NaturalLine(places + half, side, NINETY * whole, pixels)
