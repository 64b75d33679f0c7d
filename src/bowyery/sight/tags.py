"""The wall's plane from tag pages stuck anywhere on it.

Tags are AprilTags of the family 36h11 with a black square of 120 mm, ids 0 to 11. Where each hangs,
and how it is turned, is not known; that all lie in one plane and are squares of one size is enough:
one homography from the plane to the picture, the place and turn of every tag, and how far the lens
bends straight lines are fitted together to all corners (bundle adjustment; Hartley and Zisserman,
Multiple View Geometry in Computer Vision, 2004, chapters 4 and 18).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.optimize import least_squares

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

TAG = 120.0  # mm, of the black square
IDS = range(12)
SEARCH = 2000  # pixels of the longer side that tags are looked for at
CORNER = 0.35  # of a corner, one deviation (pixels)
BENT = 0.03  # of the lens, one deviation, at half the picture's diagonal
MOST_OFF = 4.0  # deviations of a corner, and its tag is left out
_SQUARE = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]]) * TAG


@dataclass(frozen=True)
class Wall:
    """The wall's plane in a picture.

    Attributes:
        matrix: homography from the plane (mm, x to the right, y down) to straightened pixels,
            ``(3, 3)``.
        bend: of the lens: by how much more is seen at half the picture's diagonal.
        middle, half: of the picture, and half its diagonal (pixels).
        tags: by id their four corners on the plane, ``(4, 2)`` (mm).
        error: of a corner, root of the mean square (pixels).
    """

    matrix: Floats
    bend: float
    middle: Floats
    half: float
    tags: dict[int, Floats]
    error: float

    def to_picture(self, points: Floats) -> Floats:
        """Points on the plane (mm), ``(n, 2)``, to pixels, ``(n, 2)``."""
        return _bent(
            _applied(self.matrix, np.atleast_2d(points)), self.bend, self.middle, self.half
        )

    def to_wall(self, pixels: Floats) -> Floats:
        """Pixels, ``(n, 2)``, to points on the plane (mm), ``(n, 2)``."""
        straight = _straight(np.atleast_2d(pixels), self.bend, self.middle, self.half)
        back: Floats = np.linalg.inv(self.matrix).astype(float)
        return _applied(back, straight)


def _applied(matrix: Floats, points: Floats) -> Floats:
    whole = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return np.asarray(whole[:, :2] / whole[:, 2:])


def _bent(points: Floats, bend: float, middle: Floats, half: float) -> Floats:
    off = (points - middle) / half
    return np.asarray(middle + (points - middle) * (1 + bend * (off**2).sum(1))[:, None])


def _straight(pixels: Floats, bend: float, middle: Floats, half: float) -> Floats:
    points = pixels.copy()
    for _ in range(6):
        off = (points - middle) / half
        points = middle + (pixels - middle) / (1 + bend * (off**2).sum(1))[:, None]
    return np.asarray(points)


def find_tags(grey: np.ndarray) -> dict[int, Floats]:
    """Corners of every tag of the wall that is seen whole.

    Args:
        grey: the picture, ``(high, wide)``, 8 bits.

    Returns:
        By id four corners, clockwise from the tag's own upper left, ``(4, 2)`` (pixels); of one id
        seen twice neither.
    """
    high, wide = grey.shape
    scale = min(1.0, SEARCH / max(high, wide))
    small = grey if scale == 1.0 else cv2.resize(grey, None, fx=scale, fy=scale,
                                                 interpolation=cv2.INTER_AREA)  # fmt: skip
    detector = cv2.aruco.ArucoDetector(
        cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11), _parameters()
    )
    corners, ids, _ = detector.detectMarkers(small)
    found: dict[int, list[Floats]] = {}
    for four, number in zip(corners, [] if ids is None else ids.ravel(), strict=False):
        if int(number) in IDS:
            rough = ((four.reshape(4, 2) + 0.5) / scale - 0.5).astype(np.float32)
            found.setdefault(int(number), []).append(_refined(grey, rough))
    return {number: rows[0] for number, rows in found.items() if len(rows) == 1}


def _parameters() -> cv2.aruco.DetectorParameters:
    given = cv2.aruco.DetectorParameters()
    given.adaptiveThreshWinSizeMin, given.adaptiveThreshWinSizeMax = 7, 47
    given.adaptiveThreshWinSizeStep = 20
    given.minMarkerPerimeterRate = 0.015
    given.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_NONE
    return given


def _refined(grey: np.ndarray, rough: np.ndarray) -> Floats:
    """Corners where the lines of the square's four sides meet, each fitted to its edge."""
    side = float(np.hypot(*(rough - np.roll(rough, 1, 0)).T).mean())
    reach = int(np.clip(0.06 * side, 2, 9))
    around = cv2.cornerSubPix(
        grey, rough.reshape(-1, 1, 2).copy(), (reach, reach), (-1, -1),
        (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.01),
    ).reshape(4, 2)  # fmt: skip
    moved = np.hypot(*(around - rough).T) > reach
    around[moved] = rough[moved]
    lines = [_side(grey, around[k], around[(k + 1) % 4]) for k in range(4)]
    corners = []
    for k in range(4):
        met = np.cross(lines[k - 1], lines[k])
        point = met[:2] / met[2] if abs(met[2]) > 1e-9 else around[k]
        corners.append(point if np.hypot(*(point - around[k])) < 2.5 + 0.03 * side else around[k])
    return np.array(corners, float)


def _side(grey: np.ndarray, a: np.ndarray, b: np.ndarray) -> Floats:
    """The line of one side, fitted to where black turns white across it."""
    way = b - a
    long = float(np.hypot(*way))
    unit = way / long
    normal = np.array([-unit[1], unit[0]])
    reach = float(np.clip(0.05 * long, 2.0, 8.0))
    shares = np.linspace(0.12, 0.88, int(np.clip(long / 3, 12, 60)))
    across = np.arange(-reach, reach + 0.01, 0.5)
    spots = (a + shares[:, None] * way)[:, None, :] + across[None, :, None] * normal
    seen = cv2.remap(grey, spots[..., 0].astype(np.float32), spots[..., 1].astype(np.float32),
                     cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(float)  # fmt: skip
    steep = np.abs(np.diff(seen, axis=1))
    steep[steep < 0.35 * steep.max(1, keepdims=True)] = 0.0
    total = steep.sum(1)
    good = total > 1e-6
    middles = 0.5 * (across[1:] + across[:-1])
    at = (steep[good] @ middles) / total[good]
    along = shares[good] * long
    slope, off = np.polyfit(along, at, 1)
    left = at - (slope * along + off)
    near = np.abs(left) < 2.5 * max(float(np.median(np.abs(left))), 0.05)
    if near.sum() > 5:
        slope, off = np.polyfit(along[near], at[near], 1)
    first, last = a + off * normal, a + long * unit + (slope * long + off) * normal
    return np.cross(np.append(first, 1.0), np.append(last, 1.0))


def wall_in(grey: np.ndarray) -> Wall:
    """The wall's plane in a picture.

    Args:
        grey: the picture, ``(high, wide)``, 8 bits.

    Returns:
        The plane; its x runs as the picture's, its y down.

    Raises:
        DescriptionError: too few tags, no plane that holds them, or a mirrored picture.
    """
    tags = find_tags(grey)
    if len(tags) < 2 and len(find_tags(np.ascontiguousarray(grey[:, ::-1]))) >= 2:
        raise DescriptionError(
            "This picture is mirrored, as some phones do with the camera in front: take it with"
            " the one behind.", "picture",
        )  # fmt: skip
    return wall_of(tags, grey.shape[:2])


def wall_of(tags: dict[int, Floats], shape: tuple[int, int]) -> Wall:
    """The wall's plane from its tags.

    Args:
        tags: as :func:`find_tags` gives them.
        shape: of the picture, high and wide (pixels).

    Returns:
        The plane; its x runs as the picture's, its y down.

    Raises:
        DescriptionError: too few tags, or no plane that holds them.
    """
    if len(tags) < 2:
        raise DescriptionError(
            "Two of the tag pages must be seen whole at least; four or more are better. If they"
            " hang there, the picture is blurred, too dark, or taken from too far.",
            "tags",
        )
    middle = np.array([shape[1] - 1, shape[0] - 1]) / 2
    half = float(np.hypot(*middle))
    names = sorted(tags, key=lambda one: -cv2.contourArea(tags[one].astype(np.float32)))
    left = list(names)
    while True:
        wall = _fitted([tags[k] for k in left], left, middle, half)
        off = {k: float(np.hypot(*(wall.to_picture(wall.tags[k]) - tags[k]).T).max()) for k in left}
        worst = max(off, key=lambda k: off[k])
        if off[worst] < MOST_OFF * CORNER * 2 or len(left) < 4:
            break
        left.remove(worst)
    if wall.error > 3.0:
        raise DescriptionError(
            "The tag pages do not lie in one plane; hang all of them flat on the wall behind the"
            " bow.",
            "tags",
        )
    return _upright(wall)


def _fitted(corners: list[Floats], names: list[int], middle: Floats, half: float) -> Wall:
    count = len(corners)
    start = cv2.getPerspectiveTransform(_SQUARE.astype(np.float32), corners[0].astype(np.float32))
    poses = []
    back: Floats = np.linalg.inv(np.asarray(start, float)).astype(float)
    for four in corners[1:]:
        flat = _applied(back, four)
        place, edge = flat.mean(0), flat[1] - flat[0] + flat[2] - flat[3]
        poses += [place[0], place[1], np.arctan2(edge[1], edge[0])]
    scale = np.array([[half, 0, middle[0]], [0, half, middle[1]], [0, 0, 1.0]])
    # conditioned: pixels in halves of the diagonal, the plane in metres
    wide = np.diag([1000.0, 1000.0, 1.0])
    norm = np.asarray(np.linalg.inv(scale) @ start @ wide, float)
    norm = norm / norm[2, 2]
    first = np.concatenate([norm.ravel()[:8], np.array(poses) / np.tile([1000, 1000, 1], count - 1),
                            [0.0]])  # fmt: skip
    seen = (np.array(corners) - middle) / half

    def off(unknown: Floats) -> Floats:
        matrix = np.append(unknown[:8], 1.0).reshape(3, 3)
        bend = unknown[-1]
        rows = []
        for k in range(count):
            x, y, turn = (0.0, 0.0, 0.0) if k == 0 else unknown[8 + 3 * (k - 1) : 11 + 3 * (k - 1)]
            flat = _turned(_SQUARE / 1000, x, y, turn)
            there = _applied(matrix, flat)
            there = there * (1 + bend * (there**2).sum(1))[:, None]
            rows.append((there - seen[k]).ravel() * half / CORNER)
        return np.concatenate([*rows, [bend / BENT]])

    found = least_squares(off, first, loss="soft_l1", f_scale=3.0, max_nfev=60)
    unknown = found.x
    matrix = scale @ np.append(unknown[:8], 1.0).reshape(3, 3) @ np.linalg.inv(wide)
    placed = {}
    for k, name in enumerate(names):
        x, y, turn = (0.0, 0.0, 0.0) if k == 0 else unknown[8 + 3 * (k - 1) : 11 + 3 * (k - 1)]
        placed[name] = _turned(_SQUARE, 1000 * x, 1000 * y, turn)
    left = off(unknown)[:-1] * CORNER
    return Wall(
        matrix, float(unknown[-1]), middle, half, placed, float(np.sqrt(np.mean(left**2) * 2))
    )


def _turned(points: Floats, x: float, y: float, turn: float) -> Floats:
    c, s = np.cos(turn), np.sin(turn)
    return np.asarray(points @ np.array([[c, s], [-s, c]]) + np.array([x, y]))


def _upright(wall: Wall) -> Wall:
    """The same plane with its x along the picture's, seen at its middle."""
    two = wall.to_wall(np.array([wall.middle, wall.middle + np.array([0.1 * wall.half, 0.0])]))
    way = two[1] - two[0]
    turn = np.arctan2(way[1], way[0])
    c, s = np.cos(turn), np.sin(turn)
    whole = np.array([[c, -s, two[0][0]], [s, c, two[0][1]], [0, 0, 1.0]])  # new plane to old
    back = np.linalg.inv(whole)
    tags = {k: _applied(back, four) for k, four in wall.tags.items()}
    return Wall(wall.matrix @ whole, wall.bend, wall.middle, wall.half, tags, wall.error)


def pattern_of(number: int) -> np.ndarray:
    """A tag as it is printed.

    Returns:
        Its black fields within the black square, ``(8, 8)``, the first row above.

    Raises:
        DescriptionError: there is no such tag.
    """
    if number not in IDS:
        raise DescriptionError("There is no tag of that number.", "tag")
    known = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11)
    return np.asarray(cv2.aruco.generateImageMarker(known, number, 8) == 0)
