"""A bow's line fitted to what was measured of it in a picture."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import least_squares

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.sight.outline import BEFORE, CELLS, Line, Measured, Pose, frame

KNOTS = 9  # of what a limb bends otherwise than expected
BENDS, BENDS_LEAST = 0.28, 0.25  # of that, one deviation: a share of the bend, and at least (1/m)
REACH = 0.16  # over which it is alike (m)
BEYOND_NOCK = (22.0, 10.0)  # mm of a limb beyond its nock, and one deviation
NINETY = 1.645
NEAR = 6  # cells to both sides that a place that was measured may belong to


@dataclass(frozen=True)
class Fit:
    """A line as it was fitted.

    Attributes:
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
    """The string on the wall's plane: where it crosses both limbs, and the nocking point.

    Attributes:
        at: ``(2, 2)`` (mm).
        error: of a nock beside the string's line, one deviation (mm).
        point: the nocking point on the plane (mm).
        clear: how well the string was seen.
    """

    at: Floats
    error: float
    point: Floats
    clear: float


@dataclass(frozen=True)
class Ends:
    """Where the limbs end, beyond their nocks.

    Attributes:
        at: on the wall's plane, upper and lower, ``(2, 2)`` (mm).
        error: one deviation along the limb, ``(2,)`` (mm).
    """

    at: Floats
    error: Floats


def fitted(
    start: Line, pose: Pose, seen: Measured, base: Line, nocks: Nocks | None, bow: Bow,
    ends: Ends | None = None, tries: int = 12,
) -> Fit:  # fmt: skip
    """Fit a bow's line to the middles that were measured across another.

    Args:
        start: the line as designed, that bends are believed to be about.
        base: the line that it was measured across.
        nocks: where the string crosses the limbs, where it was found.
        ends: of the limbs, where they were found; how far they are beyond the nocks, the file does
            not say.
        tries: how often the fit is mended at most.
    """
    roots = np.array([[one.root[0] * 1e3, one.root[1] * 1e3, one.root[2]] for one in bow.limbs])
    unit = _prior(start)
    cells = np.linspace(0.0, 1.0, CELLS + 1)
    good = np.isfinite(seen.error)
    points = frame(base.along, base.across)
    targets, errors, nears = [], [], []
    for side in (0, 1):
        sign = 1 if side == 0 else -1
        pick = good[side]
        here = np.stack([np.interp(seen.at, cells, points[side, :, k]) for k in (0, 1)], -1)[pick]
        turn = np.interp(seen.at, cells, base.angles[side])[pick]
        normal = np.stack([-sign * np.sin(turn), np.cos(turn)], -1)
        targets.append(pose.to_wall(here + seen.off[side, pick, None] * normal))
        errors.append(seen.error[side, pick] * pose.scale)
        middle = np.clip((seen.at[pick] * CELLS).astype(int), NEAR, CELLS - 1 - NEAR)
        nears.append(middle[:, None] + np.arange(-NEAR, NEAR + 1))

    def at(unknown: Floats) -> tuple[Pose, tuple[Floats, Floats, Floats]]:
        there = Pose(
            pose.x + 10 * unknown[0], pose.y + 10 * unknown[1], pose.turn + 0.01 * unknown[2],
            BEFORE[0] + BEFORE[1] * unknown[3],
        )  # fmt: skip
        more = unknown[4:].reshape(2, KNOTS)
        return there, _bent(start, roots, more)

    def beside(line: Floats) -> Floats:
        """How far each target lies beside a line on the wall, in its deviations, ``(n,)``."""
        rows = []
        for side in (0, 1):
            # the distance of a target from the line beside it, whatever its share along
            spots = line[side]
            way = np.diff(spots, axis=0)
            long = np.hypot(*way.T)
            near = nears[side]
            ways = way[near]
            first = targets[side][:, None] - spots[near]
            part = (first * ways).sum(-1) / long[near] ** 2
            # beyond the ends the line goes on straight
            part = np.where(near > 0, np.maximum(part, 0), part)
            part = np.where(near < CELLS - 1, np.minimum(part, 1), part)
            left = first - part[..., None] * ways
            nearest = np.argmin((left**2).sum(-1), axis=1)
            row = np.arange(nearest.size)
            cell = near[row, nearest]
            chosen, along_way = left[row, nearest], way[cell] / long[cell, None]
            signed = chosen[:, 1] * along_way[:, 0] - chosen[:, 0] * along_way[:, 1]
            rows.append(signed / errors[side])
        return np.concatenate(rows)

    def off(unknown: Floats) -> Floats:
        there, (along, across, _) = at(unknown)
        line = there.to_wall(frame(along, across))
        more = unknown[4:].reshape(2, KNOTS)
        rows = [unknown[3:4], *(unit[side] @ more[side] for side in (0, 1))]
        rows.append(_softened(beside(line)))
        if nocks is not None:
            for side in (0, 1):
                # a string along a limb says little of where on it the nock is
                way = nocks.at[side] - nocks.point
                miss = line[side, -1] - nocks.point
                apart = (way[0] * miss[1] - way[1] * miss[0]) / np.hypot(*way)
                rows.append(_softened(np.array([apart / nocks.error])))
        if ends is not None:
            doubt = np.hypot(ends.error, BEYOND_NOCK[1])
            rows.append(_softened((past_nocks(line, ends) - BEYOND_NOCK[0]) / doubt))
        return np.concatenate(rows)

    start_at = np.zeros(4 + 2 * KNOTS)
    start_at[3] = (pose.scale - BEFORE[0]) / BEFORE[1]
    found = least_squares(off, start_at, max_nfev=tries, x_scale="jac", ftol=1e-5, xtol=1e-5)
    there, (along, across, angles) = at(found.x)
    left = beside(there.to_wall(frame(along, across)))
    usual = max(1.0, 1.4826 * float(np.median(np.abs(left))) if left.size > 4 else 1.0)
    information = found.jac.T @ found.jac / usual**2 + 1e-9 * np.eye(found.x.size)
    cover = np.linalg.inv(information)
    step = np.diff(angles, axis=1) / np.hypot(np.diff(along, axis=1), np.diff(across, axis=1))
    line = replace(start, along=along, across=across, angles=angles, bend=step)
    covers = _covers(found.x, cover, at)
    error = np.concatenate(errors)
    rms = float(np.sqrt(np.mean(np.minimum(left**2, 9.0) * error**2))) if left.size else np.inf
    pick = good & (np.abs(seen.width - 1) < 0.5)
    width = float(np.median(seen.width[pick])) if pick.any() else 1.0
    line = _with_nock(line, there, nocks)
    return Fit(line, there, covers, float(good.mean()), rms, width)


def past_nocks(line: Floats, ends: Ends) -> Floats:
    """How far the limbs go on beyond the nocks of a line.

    Args:
        line: both limbs on the wall's plane, from root to nock, ``(2, n, 2)`` (mm).

    Returns:
        Upper and lower, ``(2,)`` (mm).
    """
    way = line[:, -1] - line[:, -2]
    return np.asarray(((ends.at - line[:, -1]) * way).sum(-1) / np.hypot(*way.T))


def _softened(off: Floats) -> Floats:
    """Deviations of what was measured, whose squares grow as the deviations do beyond two (the
    loss of Charbonnier); what is believed beforehand keeps its squares.
    """
    return np.asarray(np.sign(off) * np.sqrt(8 * (np.sqrt(1 + off**2 / 4) - 1)))


def _covers(
    unknown: Floats, cover: Floats, at: Callable[[Floats], tuple[Pose, tuple[Floats, ...]]]
) -> Floats:
    """Covariance of the line's points in the bow's frame. Pose and scale move only where it is
    laid on the wall, which the frame does not see; what they leave open is in how the limbs bend.
    """
    first = frame(*at(unknown)[1][:2])
    slopes = np.zeros((unknown.size, *first.shape))
    for k in range(4, unknown.size):
        moved = unknown.copy()
        moved[k] += 1e-3
        slopes[k] = (frame(*at(moved)[1][:2]) - first) / 1e-3
    return np.asarray(np.einsum("isna,ij,jsnb->snab", slopes, cover, slopes))


def _with_nock(line: Line, pose: Pose, nocks: Nocks | None) -> Line:
    if nocks is None:
        return replace(line, nock=None)
    c, s = np.cos(pose.turn), np.sin(pose.turn)
    back = (nocks.point - np.array([pose.x, pose.y])) @ np.array([[c, -s], [s, c]]) / pose.scale
    return replace(line, nock=(float(back[0]), float(back[1])))
