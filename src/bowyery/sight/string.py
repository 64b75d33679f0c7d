"""Where a bow's string crosses its limbs in a picture."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from bowyery.arrays import Floats
from bowyery.sight.ends import beyond
from bowyery.sight.fit import Nocks
from bowyery.sight.outline import Line, Pose, State, ToPicture, frame

STRING_STEP = 1.5  # mm a pixel of the map the string is looked for on
NOCK = 2.0  # mm that a nock lies beside the string's line, one deviation
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
    varied = cv2.blur((seen - cv2.blur(seen, (41, 41))) ** 2, (41, 41))
    spread = np.sqrt(np.maximum(varied, 0.0))
    even = cv2.GaussianBlur(seen, (0, 0), 1.0)
    scale = 1 / (1.2 * spread + 3.0)
    return _Plane(
        cv2.Sobel(even, cv2.CV_32F, 2, 0, ksize=3) * scale,
        cv2.Sobel(even, cv2.CV_32F, 1, 1, ksize=3) * scale,
        cv2.Sobel(even, cv2.CV_32F, 0, 2, ksize=3) * scale, low,
    )  # fmt: skip


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
        image: grey, ``(rows, columns)``.
        line: of the limbs, as fitted so far.
        wide: how far nocks and nocking point may be from where they are expected (mm).

    Returns:
        The nocks, or None where no string is clear.
    """
    if line.nock is None or state == "unstrung":
        return None
    expected = np.array(line.nock)
    ends = frame(line.along, line.across)
    spots = np.concatenate([ends.reshape(-1, 2), expected[None]])
    margin = wide + 30
    plane = _plane(image, pose, to_picture, spots.min(0) - margin, spots.max(0) + margin)
    past = np.arange(-wide, wide + 0.1, 3.0)
    tips = [beyond(line, side, past) for side in (0, 1)]
    if state == "braced":
        score = plane.lines(tips[0], tips[1])
        k, j = np.unravel_index(int(np.argmax(score)), score.shape)
        clear, found = float(score[k, j]), (past[k], past[j])
        fine = np.arange(-4.0, 4.1, 1.0)
        near = [beyond(line, side, found[side] + fine) for side in (0, 1)]
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
        near = [beyond(line, side, found[side] + np.arange(-5.0, 5.1, 1.0)) for side in (0, 1)]
        both = [plane.lines(candidates, near[side], 90) for side in (0, 1)]
        whole = both[0].max(1) * both[1].max(1)
        top = int(np.argmax(whole))
        at = np.stack([near[side][int(np.argmax(both[side][top]))] for side in (0, 1)])
        point = candidates[top]
    if clear < LEAST_CLEAR:
        return None
    wall = pose.to_wall(np.concatenate([at, point[None]]))
    return Nocks(wall[:2], NOCK, wall[2], clear)
