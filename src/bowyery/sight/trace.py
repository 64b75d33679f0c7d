"""One photograph read: the limbs' outline with errors, nocking point and draw; or why not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from scipy.optimize import least_squares

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.sight.ends import ends_of, slid
from bowyery.sight.fit import NINETY, Ends, Fit, Nocks, fitted, past_nocks
from bowyery.sight.outline import (
    BEFORE,
    Line,
    Pose,
    State,
    ToPicture,
    coarse_map,
    frame,
    lines_of,
    looked_for,
    measured,
    mm_per_pixel,
)
from bowyery.sight.string import nocks_of
from bowyery.sight.tags import Wall, wall_in

ASKEW = 32.0  # degrees from straight before the wall that a picture may be taken at
UNSEEN = "No limbs of this bow can be seen on the wall."
GLIMPSED = 0.35  # of all stations, and it is worth a closer look
LEAST_SEEN = 0.6  # of a limb's stations where both its edges are found
WIDTHS = (0.72, 1.45)  # of the limbs as seen over the file's
LARGER = (0.985, 1.16)  # how much larger a bow before its wall may look
MOST_OFF = 1.3  # mm that the middles scatter about a line that is a limb
MIRRORED = 1.2  # times as well as it should hang
STRANGE = 2.6  # deviations of how far a bow hangs before its wall, and its string is none
BEYOND = 0.25  # mm that every point is off at least, one deviation
REACHES = ((45.0, 1.0), (16.0, 0.5), (7.0, 0.35), (6.0, 0.3))
FINDS = (70.0, 150.0)  # mm about where the string is expected, first and where it is not there
END_UNSURE = 20.0  # mm of a limb's end, one deviation, and its limb's place is not known
UNALIKE = 8.0  # mm that limbs go on beyond their nocks otherwise than each other, one deviation
AWAY = (200.0, 60.0)  # mm that a limb's end is looked for about where it is expected
TURNS = np.radians([-6.0, -4.0, -2.0, 0.0, 2.0, 4.0, 6.0])
MOST_PIXELS = 50_000_000
BRACES = (0.03, 0.2)  # of a bow's span, that a string stands off
TAPS = ("upper nock", "upper fade", "nocking point", "lower fade", "lower nock")
WIDER = 1.15  # times the fit's own error, for what goes wrong alike along a limb
UNSURE = 5.5  # times the error that tags would leave, where five taps stand for them
SHAPE_ONLY = (
    "By taps only the shape of the limbs is told: the draw would be off by some per cent. Hang tag"
    " pages on the wall for that."
)


@dataclass(frozen=True)
class Trace:
    """What a photograph says.

    Attributes:
        found: it was read; else ``why`` says why not, and nothing else counts.
        limbs: by name points from root to nock: along, across, and the error nine times in ten,
            each ``(n, 3)`` (mm), in the bow's frame.
        nocking_point: along and across (mm), or None.
        draw: nocking point to pivot (mm), or None.
        scale: mm a pixel at the bow.
        why: a sentence; where it was read, what was noticed.
        picture: limbs and nocking point in pixels, for who draws them over the picture.
    """

    found: bool
    limbs: dict[str, Floats]
    nocking_point: tuple[float, float] | None
    draw: float | None
    scale: float
    why: str
    picture: dict[str, Floats]

    def as_json(self) -> dict[str, object]:
        """As the command prints it."""
        return {
            "found": self.found,
            "limbs": {name: np.round(rows, 2).tolist() for name, rows in self.limbs.items()},
            "nocking_point": None if self.nocking_point is None else [
                round(v, 2) for v in self.nocking_point
            ],
            "draw_mm": None if self.draw is None else round(self.draw, 1),
            "scale_mm_per_px": round(self.scale, 4),
            "why": self.why,
        }  # fmt: skip


def refused(why: str) -> Trace:
    """A picture that cannot be read, with the sentence that says why."""
    return Trace(False, {}, None, None, 0.0, why, {})


def trace(image: np.ndarray, bow: Bow, state: State = "drawn", taps: Floats | None = None) -> Trace:
    """Read a photograph of a bow.

    Args:
        image: the picture, ``(high, wide, 3)``, 8 bits, blue first.
        taps: of TAPS, ``(5, 2)`` (pixels), for a wall without tags.

    Returns:
        What it says, or why it says nothing.
    """
    if image.ndim != 3 or image.shape[2] != 3 or min(image.shape[:2]) < 200:
        return refused("This is no picture, or too small to show anything.")
    if image.shape[0] * image.shape[1] > MOST_PIXELS:
        return refused("This picture has more than 50 million pixels; send a smaller copy.")
    try:
        lines = lines_of(bow, state)
        if taps is not None:
            return _by_taps(image, bow, state, lines, taps)
        return _by_tags(image, bow, state, lines)
    except BowyeryError as error:
        return refused(getattr(error, "reason", str(error)))


def _by_tags(image: np.ndarray, bow: Bow, state: State, lines: Sequence[Line]) -> Trace:
    grey = cv2.cvtColor(image, cv2.COLOR_BGR2GRAY)
    wall = wall_in(grey)
    askew = _askew(wall)
    if askew > ASKEW:
        raise DescriptionError(
            f"It was taken {askew:.0f}° from the side; stand nearer to straight before the bow.",
            "picture",
        )
    high, wide = grey.shape
    corners = wall.to_wall(np.array([[0, 0], [wide, 0], [wide, high], [0, high]], float))
    low, top = np.maximum(corners.min(0), -1900.0), np.minimum(corners.max(0), 1900.0)
    where = coarse_map(image, wall.to_picture, low, top)
    found = looked_for(where, lines, TURNS.tolist())
    other = looked_for(where, [_mirrored(one) for one in lines[-4:]], TURNS[1:-1:2].tolist())
    if other[0][0] > MIRRORED * found[0][0]:
        raise DescriptionError(
            "The bow seems to hang the other way round: its upper limb belongs to the right,"
            " its back upwards.", "picture",
        )  # fmt: skip
    first = DescriptionError(UNSEEN, "picture")
    for number, (start, fit) in enumerate(_ranked(image, bow, lines, found[:3], wall.to_picture)):
        try:
            return _told(image, bow, state, start, fit, wall.to_picture, WIDER)
        except DescriptionError as error:
            first = error if number == 0 else first
    raise first


def _askew(wall: Wall) -> float:
    """How far from straight before the wall the picture was taken (degrees), by how much smaller a
    square is across than along at its middle.
    """
    here = wall.to_wall(wall.middle[None])[0]
    around = here + 50.0 * np.array([[-1, 0], [1, 0], [0, -1], [0, 1.0]])
    seen = wall.to_picture(around)
    jacobian = np.stack([seen[1] - seen[0], seen[3] - seen[2]], 1)
    sizes = np.linalg.svd(jacobian, compute_uv=False)
    return float(np.degrees(np.arccos(np.clip(sizes[1] / sizes[0], 0, 1))))


def _mirrored(line: Line) -> Line:
    """The line of a bow that hangs with its upper limb to the left."""
    return replace(
        line, along=line.along[::-1], across=-line.across[::-1], angles=-line.angles[::-1],
        bend=-line.bend[::-1], thick=line.thick[::-1],
    )  # fmt: skip


def _ranked(
    image: np.ndarray, bow: Bow, lines: Sequence[Line], found: Sequence[tuple[float, int, Pose]],
    to_picture: ToPicture,
) -> list[tuple[Line, Fit]]:  # fmt: skip
    """Places where both limbs are seen, after a first fit; the best first."""
    rows: list[tuple[float, Line, Fit]] = []
    for _, number, pose in found:
        start = lines[number]
        pose = slid(image, start, pose, to_picture)
        seen = measured(image, start, pose, to_picture, *REACHES[0])
        if np.isfinite(seen.error).mean() < GLIMPSED:
            continue
        ends = ends_of(image, start, pose, to_picture, AWAY[0])
        fit = fitted(start, pose, seen, start, None, bow, ends, 6)
        worth = fit.seen - 0.25 * min(fit.off, 3.0) - 0.01 * min(ends.error.max(), 40.0)
        rows.append((worth, start, fit))
        if fit.seen > 0.9 and fit.off < 0.6 and ends.error.max() < 15:
            break
    return [(start, fit) for _, start, fit in sorted(rows, key=lambda one: -one[0])]


def _told(
    image: np.ndarray, bow: Bow, state: State, start: Line, fit: Fit, to_picture: ToPicture,
    unsure: float,
) -> Trace:  # fmt: skip
    """Measure finer and finer, and say what came of it."""
    nocks: Nocks | None = None
    expected = start.nock
    finds = FINDS[0]
    for reach, step in REACHES[1:]:
        line, pose = fit.line, fit.pose
        seen = measured(image, line, pose, to_picture, reach, step)
        if not np.isfinite(seen.error).any():
            raise DescriptionError(UNSEEN, "picture")
        if expected is not None and (nocks is None or finds > 20):
            hung = replace(line, nock=line.nock or expected)
            finding = FINDS if reach > 10 else FINDS[:1]  # what was not there far off is not near
            for wide in (20.0,) if nocks is not None else finding:
                again = nocks_of(image, hung, pose, to_picture, state, wide)
                if again is not None:
                    nocks, finds = again, wide
                    break
        far = AWAY[0] if nocks is None and reach > 10 else AWAY[1]
        ends = ends_of(image, line, pose, to_picture, far)
        fit = fitted(start, pose, seen, line, nocks, bow, ends)
        off = abs(fit.pose.scale - BEFORE[0]) > STRANGE * BEFORE[1]
        # taps leave the plane too open for the ends to tell against a string
        slid_off = unsure < UNSURE and nocks is not None and _beside_its_ends(fit, ends)
        if nocks is not None and (off or slid_off):
            # it was no string that was taken for it
            nocks, finds = None, FINDS[0]
            fit = fitted(start, pose, seen, replace(line, nock=None), None, bow, ends)
    told = nocks is not None and state == "drawn"  # a string tells better where the nocks are
    if not told and ends.error.max() > END_UNSURE:
        name = SIDES[int(np.argmax(ends.error))]
        raise DescriptionError(
            f"Where the {name} limb ends cannot be seen: let nothing hang behind or before its tip,"
            " and light it so that it stands out from the wall.", "picture",
        )  # fmt: skip
    _doubts(seen.error, fit, nocks, state)
    return _said(bow, state, fit, nocks, to_picture, unsure)


def _beside_its_ends(fit: Fit, ends: Ends) -> bool:
    """Whether a string has pushed a bow along itself, away from where both its limbs end: both
    limbs go on beyond their nocks alike.
    """
    past = past_nocks(fit.pose.to_wall(frame(fit.line.along, fit.line.across)), ends)
    unsure = np.hypot(np.hypot(*ends.error), UNALIKE)
    return bool(abs(past[0] - past[1]) > STRANGE * unsure)


def _doubts(errors: Floats, fit: Fit, nocks: Nocks | None, state: State) -> None:
    """Refuse what was not seen well enough.

    Raises:
        DescriptionError: why.
    """
    for side, name in enumerate(SIDES):
        if np.isfinite(errors[side]).mean() < LEAST_SEEN:
            raise DescriptionError(
                f"The {name} limb cannot be seen from fade to nock: clear what hangs before or"
                " behind it, or light it from the side.", "picture",
            )  # fmt: skip
    if not WIDTHS[0] < fit.width < WIDTHS[1]:
        much = abs(fit.width - 1) * 100
        way = "thicker" if fit.width > 1 else "thinner"
        raise DescriptionError(
            f"Its limbs are {much:.0f} % {way} than this bow's file says: is it another bow?",
            "picture",
        )
    if not LARGER[0] < fit.pose.scale < LARGER[1]:
        raise DescriptionError(
            "Its limbs are not as long as this bow's file says: is it another bow, or does it hang"
            " far before the wall?", "picture",
        )  # fmt: skip
    if state == "braced" and nocks is None:  # its ends alone were wrong once in twenty pictures
        raise DescriptionError(
            "The string cannot be seen: hang something plain behind it, or light it from the side."
            " Or is the bow not braced?", "picture",
        )  # fmt: skip
    if fit.off > MOST_OFF:
        raise DescriptionError(
            "The limbs' edges are not clear enough to be read: the picture is blurred, or something"
            " lies along them.", "picture",
        )  # fmt: skip


def _said(
    bow: Bow, state: State, fit: Fit, nocks: Nocks | None, to_picture: ToPicture, unsure: float
) -> Trace:
    line, why = fit.line, ""
    if state == "braced":
        line = replace(line, nock=_on_the_chord(bow, line))
    points = np.stack([line.along, line.across], -1)
    points[1, :, 0] *= -1
    variance = np.trace(fit.covers, axis1=2, axis2=3) + BEYOND**2
    error = NINETY * np.sqrt(variance) * unsure
    limbs: dict[str, Floats] = {
        name: np.column_stack([points[side], error[side]]) for side, name in enumerate(SIDES)
    }
    flat: dict[str, Floats] = {
        name: to_picture(fit.pose.to_wall(points[side])) for side, name in enumerate(SIDES)
    }
    scale = mm_per_pixel(fit.pose, to_picture)
    drawn = None
    if line.nock is not None:
        flat["nocking point"] = to_picture(fit.pose.to_wall(np.array([line.nock])))
        if state == "drawn":
            pivot = np.array(bow.hold.pivot) * 1e3
            drawn = float(np.hypot(*(np.array(line.nock) - pivot)))
    if state == "drawn" and nocks is None:
        why = (
            "The string cannot be seen, so the draw is not known; where the limbs end tells the"
            " rest."
        )
    return Trace(True, limbs, line.nock, drawn, scale, why, flat)


def _on_the_chord(bow: Bow, line: Line) -> tuple[float, float]:
    """Where a braced string passes before the pivot (mm), straight from nock to nock.

    Raises:
        DescriptionError: no bow is braced so low or so high.
    """
    pivot = np.array(bow.hold.pivot) * 1e3
    upper = np.array([line.along[0, -1], line.across[0, -1]])
    lower = np.array([-line.along[1, -1], line.across[1, -1]])
    share = (pivot[0] - lower[0]) / max(upper[0] - lower[0], 1.0)
    across = float(lower[1] + share * (upper[1] - lower[1]))
    span = upper[0] - lower[0]
    if not BRACES[0] * span < across - pivot[1] < BRACES[1] * span:
        raise DescriptionError(
            "Its limbs are not bent as those of a braced bow are; was it unstrung, or drawn?",
            "picture",
        )
    return float(pivot[0]), across


# By taps


def _by_taps(
    image: np.ndarray, bow: Bow, state: State, lines: Sequence[Line], taps: Floats
) -> Trace:
    """Read a picture without tags: five taps and the limbs' known shape stand for the wall."""
    taps = np.asarray(taps, float)
    high, wide = image.shape[:2]
    if taps.shape != (5, 2) or not np.all(np.isfinite(taps)):
        raise DescriptionError(
            "Tap five places: upper nock, upper fade, nocking point, lower fade, lower nock.",
            "taps",
        )
    if np.any(taps < -0.02 * wide) or np.any(taps > [1.02 * wide, 1.02 * high]):
        raise DescriptionError("A tap lies outside the picture.", "taps")
    apart = np.hypot(*(taps[:, None] - taps[None]).transpose(2, 0, 1)) + wide * np.eye(5)
    if apart.min() < 0.01 * wide:
        raise DescriptionError("Two of the taps are on one place; tap five places.", "taps")
    if taps[0, 0] < taps[4, 0]:
        raise DescriptionError(
            "The upper limb belongs to the right; tap upper nock, upper fade, nocking point, lower"
            " fade, lower nock.", "taps",
        )  # fmt: skip
    best: tuple[float, Line, Floats] | None = None
    for line in lines:
        found = _plane_of(line, taps, state)
        if best is None or found[0] < best[0]:
            best = found[0], line, found[1]
    if best is None:
        raise DescriptionError("This bow takes no shape that a picture could show.", "bow")
    miss, start, unknown = best
    if miss > 0.06:
        raise DescriptionError(
            "These taps are not of this bow: the places do not lie as its nocks and fades do.",
            "taps",
        )
    to_picture = _tapped(unknown)
    pose = Pose(0.0, 0.0, 0.0, BEFORE[0])
    seen = measured(image, start, pose, to_picture, 40.0, 1.0)
    if np.isfinite(seen.error).mean() < GLIMPSED:
        raise DescriptionError("No limbs can be seen where you tapped.", "taps")
    fit = fitted(start, pose, seen, start, None, bow)
    told = _told(image, bow, state, start, fit, to_picture, UNSURE)
    shown: dict[str, Floats] = {name: told.picture[name] for name in SIDES}
    return replace(told, nocking_point=None, draw=None, why=SHAPE_ONLY, picture=shown)


def _tapped(unknown: Floats) -> ToPicture:
    """From a plane (mm) to pixels by place, turn, size, and how far the camera stood aside."""

    def to_picture(points: Floats) -> Floats:
        x, y, turn, log, aside, above = unknown
        c, s = np.cos(turn), np.sin(turn)
        flat = np.atleast_2d(points) / BEFORE[0] @ np.array([[c, s], [-s, c]])
        depth = 1 + (aside * flat[:, 0] + above * flat[:, 1]) * 1e-4
        return np.asarray(np.array([x, y]) + np.exp(log) * flat / depth[:, None])

    return to_picture


def _plane_of(line: Line, taps: Floats, state: State) -> tuple[float, Floats]:
    """The plane that lays a line's nocks, fades and nocking point where they were tapped; how far
    off it leaves them (as a share of the bow), and itself.
    """
    ends = np.array([
        [line.along[0, -1], line.across[0, -1]], [line.along[0, 0], line.across[0, 0]],
        list(line.nock or (0.0, 0.0)), [-line.along[1, 0], line.across[1, 0]],
        [-line.along[1, -1], line.across[1, -1]],
    ])  # fmt: skip
    use = np.array([True, True, line.nock is not None and state != "unstrung", True, True])
    size = float(np.hypot(*(taps[0] - taps[4])))
    length = float(np.hypot(*(ends[0] - ends[4])))
    way, wanted = taps[0] - taps[4], ends[0] - ends[4]
    turn = np.arctan2(way[1], way[0]) - np.arctan2(wanted[1], wanted[0])
    first = np.array([*taps[[1, 3]].mean(0), turn, np.log(size / length), 0.0, 0.0])

    def off(unknown: Floats) -> Floats:
        there = _tapped(unknown)(ends * BEFORE[0])
        left = ((there - taps)[use] / size).ravel()
        return np.concatenate([left / 0.004, unknown[4:] / np.array([1.5, 1.5])])

    found = least_squares(off, first, x_scale="jac", max_nfev=60)
    left = off(found.x)[: 2 * use.sum()] * 0.004
    return float(np.sqrt(np.mean(left**2))), found.x
