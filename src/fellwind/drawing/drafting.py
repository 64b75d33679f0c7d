"""A bow as its maker draws it: its outline and its natural line, with points to take hold of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from django.utils.html import escape
from django.utils.safestring import SafeString

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.bow.layout import Layout
from bowyery.units.quantity import Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import LEFT, RIGHT, WIDTH, Ruler, axis_of, track_name

HEIGHT = 186.0
OUTLINE, LINE = 86.0, 154.0  # where the two tracks lie (px)
WIDER = 2.6  # widths are drawn so many times as large as lengths
DEEPER = 2.6
REACH = 24.0  # how far the natural line may go up or down (px)
STUB = 20.0  # drawn of the wood beyond a nock, at most (px)
_FINE = 49


@dataclass(frozen=True)
class Point:
    """Something to take hold of: the name of its row, limb, place from the centre and size (m), on
    which track, whether it moves along the bow, and words.
    """

    name: str
    side: str
    at: float
    size: float
    track: str
    along: bool
    words: str


@dataclass(frozen=True)
class Scales:
    """How many pixels a metre is: along the bow, of a width's half, of an offset."""

    along: float
    width: float
    across: float


def _ruler(layout: Layout) -> Ruler:
    return Ruler(layout.length / 2, layout.length / 2)


def natural_offsets(layout: Layout, upper: bool) -> tuple[Floats, Floats]:
    """A limb's natural line: distance from the centre along the handle's line and offset to the
    belly (m).
    """
    natural, length = layout.natural(upper), layout.limb_length(upper)
    places = np.linspace(0.0, length, _FINE)
    angle = natural.angle + np.concatenate([[0.0], np.cumsum(natural.turns(places))])
    step = places[1]
    middle = 0.5 * (angle[1:] + angle[:-1])
    along = np.concatenate([[0.0], np.cumsum(step * np.cos(middle))])
    across = np.concatenate([[0.0], np.cumsum(step * np.sin(middle))])
    return layout.root_from_centre(upper) + along, across


def scales(layout: Layout) -> Scales:
    """Of the picture that a layout gets."""
    along = _ruler(layout).scale
    reach = max(float(np.abs(natural_offsets(layout, up)[1]).max()) for up in (True, False))
    deep = min(DEEPER * along, REACH / max(reach, 1e-6))
    return Scales(along, along * WIDER / 2, deep)


def _outline(layout: Layout, ruler: Ruler, scale: Scales, y: float) -> list[svg.Point]:
    half = {}
    for upper in (True, False):
        length, start = layout.limb_length(upper), layout.root_from_centre(upper)
        places = np.unique(np.concatenate([np.linspace(0.0, length, _FINE), layout.knees(upper)]))
        width = layout.width_at(places, upper)
        half[upper] = [
            (ruler.x(start + float(s), upper), float(w) * scale.width)
            for s, w in zip(places, width, strict=True)
        ]
        stub = min(layout.beyond[0 if upper else 1] * scale.along, STUB)
        if stub > 0:
            x, w = half[upper][-1]
            half[upper].append((x + stub if upper else x - stub, 0.8 * w))
    lower, upper_half = half[False][::-1], half[True]
    grip = layout.grip_width * scale.width
    a, b = lower[-1][0], upper_half[0][0]
    middle = [(a + 0.35 * (b - a), grip), (a + 0.65 * (b - a), grip)] if b - a > 1 else []
    row = [*lower, *middle, *upper_half]
    return [(x, y - w) for x, w in row] + [(x, y + w) for x, w in row[::-1]]


def _line(layout: Layout, ruler: Ruler, scale: Scales, y: float) -> list[svg.Point]:
    points: list[svg.Point] = []
    for upper in (False, True):
        along, across = natural_offsets(layout, upper)
        limb = [
            (ruler.x(float(s), upper), y + float(v) * scale.across)
            for s, v in zip(along, across, strict=True)
        ]
        points += limb if upper else limb[::-1]
    return points


def _held(point: Point, ruler: Ruler, scale: Scales) -> str:
    y = OUTLINE - point.size * scale.width
    if point.track == "line":
        y = LINE + point.size * scale.across
    moves = "both" if point.along else "height"
    at = f'cx="{svg.n(ruler.x(point.at, point.side == "upper"))}" cy="{svg.n(y)}"'
    return (
        f'<g class="hold" data-point="{escape(point.name)}" data-moves="{moves}" tabindex="0"'
        f' role="button" aria-label="{escape(point.words)}"><circle class="hold-area" {at} r="16"/>'
        f'<circle class="handle" {at} r="6"/></g>'
    )


def draft_picture(layout: Layout, points: tuple[Point, ...], shown: Units) -> SafeString:
    """The outline from the back and the natural line from the side, on the one ruler.

    Args:
        layout: to draw; nothing has to be solved for it.
    """
    ruler, scale = _ruler(layout), scales(layout)
    parts = axis_of(ruler, layout.length / 2, layout.length / 2, 30, shown)
    parts += track_name(OUTLINE - 6, "Outline", "from the back")
    parts.append(svg.path(_outline(layout, ruler, scale, OUTLINE), "wood", close=True))
    for upper in (True, False):
        x = ruler.x(layout.length / 2, upper)
        wide = float(layout.width_at(np.array([layout.limb_length(upper)]), upper)[0])
        half = wide * scale.width + 4
        parts.append(svg.line((x, OUTLINE - half), (x, OUTLINE + half), "nock-mark"))
    if layout.back_bow is not None:
        length, grip, end = layout.back_bow.outline
        x1, x2, middle = ruler.x(length / 2, False), ruler.x(length / 2), ruler.x(0.0)
        edge = [(x1, end), (middle, grip), (x2, end)]
        whole = [(x, OUTLINE - w * scale.width) for x, w in edge]
        whole += [(x, OUTLINE + w * scale.width) for x, w in edge[::-1]]
        parts.append(svg.path(whole, "back-bow", close=True))
    parts += track_name(LINE - 6, "Unstrung", "back upwards")
    ends = ruler.x(layout.length / 2, False), ruler.x(layout.length / 2)
    parts.append(svg.line((ends[0], LINE), (ends[1], LINE), "rule"))
    parts.append(svg.path(_line(layout, ruler, scale, LINE), "natural-line"))
    parts += [_held(point, ruler, scale) for point in points]
    wide = float(max(layout.width_at(np.linspace(0, 1, 9) * layout.limb_length(u), u).max()
                     for u in (True, False)))  # fmt: skip
    title = (
        f"The bow as it is drawn: {shown.length(layout.length)} from nock to nock,"
        f" {shown.length(layout.overall)} over all, {shown.length(wide)} at its widest,"
        f" {shown.length(layout.grip_width)} in the hand."
    )
    return svg.picture(WIDTH, HEIGHT, parts, title, "ruler-picture draft-picture", "group")


def kind_picture(layout: Layout) -> SafeString:
    """A layout small, from the back and from the side, for choosing."""
    ruler = Ruler(layout.length / 2, layout.length / 2, 6, 6)
    along = ruler.scale
    reach = max(float(np.abs(natural_offsets(layout, up)[1]).max()) for up in (True, False))
    scale = Scales(along, along * 3.2 / 2, min(6 * along, 34 / max(reach, 1e-6)))
    parts = [
        svg.path(_outline(layout, ruler, scale, 48), "wood", close=True),
        svg.path(_line(layout, ruler, scale, 130), "natural-line"),
    ]
    if layout.back_bow is not None:
        x = layout.back_bow.length / 2
        parts.append(
            svg.line((ruler.x(x, False), 116), (ruler.x(x), 116), "natural-line thin-line")
        )
    return svg.picture(
        WIDTH, 172, parts, "outline from the back, and side view unstrung", "kind-picture"
    )


def points_of(
    layout: Layout,
    widths: dict[str, list[tuple[str, float, float]]],
    lines: dict[str, list[tuple[str, float, float]]],
    shown: Units,
) -> tuple[Point, ...]:
    """What may be taken hold of.

    Args:
        widths: by limb, name, share of the limb and width (m) of each point.
        lines: by limb, name, share and offset to the belly (m).
    """
    found = []
    for side in SIDES:
        upper = side == "upper"
        start, length = layout.root_from_centre(upper), layout.limb_length(upper)
        for track, rows in (("width", widths.get(side, [])), ("line", lines.get(side, []))):
            for name, share, size in rows:
                at = start + share * length
                inner = name.rpartition("_")[2].isdigit()
                what = (
                    f"{shown.length(size)} wide"
                    if track == "width"
                    else f"{shown.length(-size)} to the back"
                )
                words = (
                    f"{side} limb, {shown.length(at)} from the centre: {what}; arrow keys move it"
                )
                found.append(Point(name, side, at, size, track, inner, words))
    return tuple(found)


__all__ = ["LEFT", "RIGHT", "Point", "draft_picture", "kind_picture", "points_of", "scales"]
