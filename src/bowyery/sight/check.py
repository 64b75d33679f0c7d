"""What a photograph says, as a check at the tiller: places along both limbs with their errors, as
they may be corrected by hand and written into the log.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD, SIDES, Bow, Side
from bowyery.errors import DescriptionError
from bowyery.sight.fit import NINETY
from bowyery.sight.outline import State, run_along
from bowyery.sight.trace import Trace
from bowyery.tiller.statements import Tree

PLACES = 8  # along a limb, that are written down
APART = 4  # of them go wrong each for itself: what is wrong with one is mostly wrong with the next
BY_HAND = 1.5  # mm, one deviation, of a place that was put right by hand
FURTHEST = 150.0  # mm that a place may be put right by


@dataclass(frozen=True)
class Knot:
    """A place of a limb in a photograph.

    Attributes:
        at: along it from its root (mm).
        across: to the belly of its root, in the bow's frame (mm).
        error: of that, one deviation (mm).
        pixel: where it is in the picture, across and down.
    """

    limb: Side
    at: float
    across: float
    error: float
    pixel: tuple[float, float]


@dataclass(frozen=True)
class Seen:
    """A photograph as it was read, small enough to be kept.

    Attributes:
        knots: of both limbs, from root to nock.
        lines: by name the limbs as they run in the picture, ``(n, 2)`` (pixels).
        nock: nocking point in the picture (pixels), or None.
        draw: (mm), or None.
        brace: of a braced bow, string to pivot (mm), or None.
        frame: from pixels to the bow's frame (mm), a homography, ``(3, 3)``.
    """

    state: State
    knots: tuple[Knot, ...]
    lines: dict[str, Floats]
    nock: tuple[float, float] | None
    draw: float | None
    brace: float | None
    frame: Floats
    why: str


def seen_in(found: Trace, bow: Bow, state: State, scale: float = 1.0) -> Seen:
    """The places of a picture that was read.

    Args:
        scale: of the kept picture over the one that was read.

    Raises:
        DescriptionError: it was not read.
    """
    if not found.found:
        raise DescriptionError(found.why, "picture")
    knots = []
    for side in SIDES:
        rows, pixels = found.limbs[side], found.picture[side] * scale
        run = run_along(rows[:, :2])
        for place in run[-1] * np.arange(1, PLACES + 1) / PLACES:
            across, error = (float(np.interp(place, run, rows[:, k])) for k in (1, 2))
            spot = (float(np.interp(place, run, pixels[:, 0])),
                    float(np.interp(place, run, pixels[:, 1])))  # fmt: skip
            wider = float(np.sqrt(PLACES / APART)) * error / NINETY
            knots.append(Knot(side, float(place), across - float(rows[0, 1]), wider, spot))
    flat = np.concatenate([found.picture[side] for side in SIDES]) * scale
    points = np.concatenate([found.limbs[side][:, :2] for side in SIDES])
    frame, _ = cv2.findHomography(flat, points)
    nock = found.picture.get("nocking point")
    brace = None
    if state == "braced" and found.nocking_point is not None:
        brace = found.nocking_point[1] - bow.hold.pivot[1] * 1e3
    return Seen(
        state, tuple(knots), {side: found.picture[side] * scale for side in SIDES},
        None if nock is None else (float(nock[0, 0]) * scale, float(nock[0, 1]) * scale),
        found.draw, brace, np.asarray(frame, float), found.why,
    )  # fmt: skip


def put_right(seen: Seen, bow: Bow, moved: Mapping[int, tuple[float, float]]) -> Seen:
    """A picture whose places were put right by hand.

    Args:
        moved: by number of the place, where it is in the picture (pixels); ``len(seen.knots)`` is
            the nocking point.

    Raises:
        DescriptionError: a place was put where it cannot be.
    """
    knots, nock, draw, brace = list(seen.knots), seen.nock, seen.draw, seen.brace
    for number, spot in moved.items():
        if not (0 <= number <= len(knots)) or not np.all(np.isfinite(spot)):
            raise DescriptionError("There is no such place in this picture.", "moved")
        there = in_frame(seen, spot)
        if number == len(knots):
            if nock is None or seen.state == "unstrung":
                raise DescriptionError("No nocking point was seen in this picture.", "moved")
            off = np.array(there) - np.array(bow.hold.pivot) * 1e3
            nock = spot
            if seen.state == "drawn":
                draw = float(np.hypot(*off))
            else:
                brace = float(off[1])
            continue
        old = knots[number]
        across = old.across + there[1] - in_frame(seen, old.pixel)[1]
        if abs(across - old.across) > FURTHEST:
            raise DescriptionError(
                f"A place of the {old.limb} limb was moved by more than {FURTHEST:.0f} mm: that is"
                " another picture, or another bow.", "moved",
            )  # fmt: skip
        knots[number] = replace(old, across=across, error=BY_HAND, pixel=spot)
    return replace(seen, knots=tuple(knots), nock=nock, draw=draw, brace=brace)


def in_frame(seen: Seen, spot: tuple[float, float]) -> tuple[float, float]:
    """Where a pixel is in the bow's frame (mm).

    Args:
        spot: across and down (pixels).

    Returns:
        Along and across (mm).
    """
    x, y, w = seen.frame @ np.array([*spot, 1.0])
    return float(x / w), float(y / w)


def gaps(seen: Seen, bow: Bow) -> tuple[float, float] | None:
    """From string to belly at both fades, where the nocking point is known.

    Returns:
        Upper and lower (mm), or None.
    """
    if seen.nock is None or seen.state == "unstrung":
        return None
    point, found = in_frame(seen, seen.nock), []
    for side, limb in zip(SIDES, bow.limbs, strict=True):
        nock = in_frame(seen, [k.pixel for k in seen.knots if k.limb == side][-1])
        root = np.array([OUTWARD[SIDES.index(side)] * abs(limb.root[0]), limb.root[1]]) * 1e3
        share = (root[0] - point[0]) / (nock[0] - point[0])
        string = point[1] + share * (nock[1] - point[1])
        found.append(float(string - root[1] - 500.0 * limb.thickness[0]))
    return found[0], found[1]


def aside(seen: Seen, bow: Bow) -> float | None:
    """How far off square to the handle a drawn string is pulled, towards the upper limb (rad); None
    where the nocking point is not known.
    """
    if seen.nock is None or seen.state != "drawn":
        return None
    along, across = np.array(in_frame(seen, seen.nock)) - np.array(bow.hold.pivot) * 1e3
    return float(np.arctan2(along, across))


def line_of(seen: Seen, bow: Bow, tree: Tree, draw: float | None = None, weight: str = "") -> str:
    """A picture as it would be pencilled, in millimetres.

    Args:
        tree: how figures are taken on the bow.
        draw: to the pivot (m), where it was read beside the picture.
        weight: on the scale with its unit, where it was read.

    Raises:
        DescriptionError: nobody knows how far the bow was drawn.
    """
    parts = []
    at, give = "", ""
    if seen.state == "drawn":
        known = draw if draw is not None else None if seen.draw is None else seen.draw / 1e3
        if known is None:
            raise DescriptionError(
                "How far it was drawn, the picture does not tell; read it off the tree.", "draw"
            )
        on = tree.ruler.from_pivot(known, tree.handle_depth) * 1e3
        at = f" drawn to {on:.0f}"
        if weight:
            parts.append(f"{weight} at {on:.0f} mm")
    elif seen.state == "braced" and seen.brace is not None:
        parts.append(f"brace {seen.brace:.0f} mm")
    # how limbs lie unstrung is written at half the places
    for one in seen.knots[1::2] if seen.state == "unstrung" else seen.knots:
        root = abs(bow.limbs[SIDES.index(one.limb)].root[0]) * 1e3
        place = f"at {root + one.at:.0f}"
        if seen.state == "unstrung":
            way = "belly" if one.across >= 0 else "back"
            parts.append(f"{one.limb} lies {abs(one.across):.1f} {way} {place}")
        else:
            give = f" give or take {one.error:.1f}"
            parts.append(f"{one.limb} traced {one.across:.1f} {place}{at}{give}")
    return "; ".join(parts)
