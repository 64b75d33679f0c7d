"""Small drawings of the hands' work on a string, one for each step of its making."""

from __future__ import annotations

import math
from collections.abc import Callable

from django.utils.safestring import SafeString

from fellwind.drawing import svg

WIDTH, HEIGHT = 420.0, 168.0
MIDDLE = 84.0


def _cord(
    x0: float, x1: float, y: float = MIDDLE, half: float = 7.0, every: float = 11.0
) -> list[str]:
    """A twisted stretch."""
    parts = [svg.rect(x0, y - half, x1 - x0, 2 * half, "work-cord")]
    x = x0 + every
    while x < x1:
        parts.append(svg.line((x - half, y + half), (x, y - half), "work-slant"))
        x += every
    return parts


def _wound(x0: float, x1: float, y: float = MIDDLE, half: float = 10.0) -> list[str]:
    """A served stretch: thread wound side by side."""
    parts = [svg.rect(x0, y - half, x1 - x0, 2 * half, "work-wrap")]
    x = x0 + 5
    while x < x1 - 1:
        parts.append(svg.line((x, y - half), (x - 2, y + half), "work-thread"))
        x += 5
    return parts


def _arrow(a: svg.Point, b: svg.Point) -> list[str]:
    """A stroke of the hand."""
    angle = math.atan2(b[1] - a[1], b[0] - a[0])
    tips = [
        (b[0] - 11 * math.cos(angle + k), b[1] - 11 * math.sin(angle + k)) for k in (-0.45, 0.45)
    ]
    return [svg.line(a, b, "work-hand"), svg.path([tips[0], b, tips[1]], "work-hand")]


def _loop(x: float, y: float = MIDDLE, wide: float = 46.0, tall: float = 24.0) -> str:
    return (
        f'<ellipse class="work-loop" cx="{svg.n(x)}" cy="{svg.n(y)}" rx="{svg.n(wide)}"'
        f' ry="{svg.n(tall)}"/>'
    )


def _say(x: float, y: float, words: str, anchor: str = "middle") -> str:
    return svg.text((x, y), words, "small muted", anchor)


def _lay_out(first: str, second: str) -> list[str]:
    lines = [svg.line((60, 60 + 6 * k), (360, 60 + 6 * k), "work-thread") for k in range(8)]
    pegs = [svg.dot((60, 81), 20, "post"), svg.dot((360, 81), 20, "post")]
    return [
        *lines,
        *pegs,
        *_arrow((120, 40), (300, 40)),
        _say(60, 130, first),
        _say(360, 130, second),
        _say(210, 30, "round and round, all equally tight"),
    ]


def _count(first: str, second: str) -> list[str]:
    parts = []
    for k in range(8):
        y = (44 if k < 4 else 96) + 8 * (k % 4)
        parts.append(svg.line((70, y), (350, y), "work-thread" if k < 4 else "work-other"))
    return [*parts, _say(210, 34, first), _say(210, 146, second), *_arrow((40, 40), (40, 130))]


def _wax(first: str, second: str) -> list[str]:
    lines = [svg.line((40, 74 + 5 * k), (380, 74 + 5 * k), "work-thread") for k in range(5)]
    block = [svg.rect(180, 54, 60, 60, "work-wax")]
    return [
        *lines,
        *block,
        *_arrow((170, 40), (90, 40)),
        *_arrow((250, 40), (330, 40)),
        _say(210, 140, first),
        _say(210, 158, second),
    ]


def _reinforce(first: str, second: str) -> list[str]:
    lines = [svg.line((40, 80 + 6 * k), (380, 80 + 6 * k), "work-thread") for k in range(4)]
    gold = [svg.line((40, 46 + 9 * k), (250 - 46 * k, 46 + 9 * k), "reinforcing") for k in range(3)]
    return [*lines, *gold, _say(270, 50, first, "start"), _say(210, 136, second)]


def _loop_served(first: str, second: str) -> list[str]:
    parts = [_loop(130), *_cord(180, 390)]
    for k in range(16):
        a = math.radians(70 + k * 14)
        x, y = 130 + 46 * math.cos(a), MIDDLE + 24 * math.sin(a)
        parts.append(svg.line((x - 4, y - 6), (x + 4, y + 6), "work-thread"))
    return [*parts, *_arrow((96, 24), (170, 30)), _say(130, 136, first), _say(290, 136, second)]


def _laid(first: str, second: str) -> list[str]:
    parts = [
        svg.path([(60, 60), (150, 76), (180, MIDDLE)], "work-bundle"),
        svg.path([(60, 108), (150, 92), (180, MIDDLE)], "work-bundle-other"),
        *_cord(180, 380),
    ]
    return [
        *parts,
        *_arrow((90, 44), (120, 32)),
        *_arrow((90, 124), (120, 138)),
        *_arrow((330, 60), (300, 48)),
        _say(96, 26, first),
        _say(300, 128, second),
    ]


def _close(first: str, second: str) -> list[str]:
    tails = [
        svg.path([(190, 70), (260, 60), (330, 76)], "work-bundle"),
        svg.path([(190, 98), (260, 108), (330, 92)], "work-bundle-other"),
    ]
    return [
        _loop(130),
        *_cord(176, 390),
        *tails,
        *_arrow((220, 40), (190, 62)),
        _say(130, 136, first),
        _say(290, 136, second),
    ]


def _throat(first: str, second: str) -> list[str]:
    return [
        _loop(110),
        *_cord(150, 390),
        *_wound(156, 240),
        *_arrow((236, 50), (262, 62)),
        _say(198, 128, first),
        _say(198, 146, second),
    ]


def _whip(first: str, second: str) -> list[str]:
    bight = svg.path(
        [(280, MIDDLE - 3), (190, MIDDLE - 3), (176, MIDDLE), (190, MIDDLE + 3), (300, MIDDLE + 3)],
        "reinforcing",
    )
    return [
        *_cord(40, 390),
        *_wound(190, 260),
        bight,
        *_arrow((276, 52), (350, 52)),
        _say(225, 128, first),
        _say(225, 146, second),
    ]


def _cut(first: str, second: str) -> list[str]:
    end = svg.path([(210, 78), (236, 52), (262, 40)], "work-thread-end")
    knife = svg.path([(250, 26), (332, 14), (338, 24), (254, 38)], "work-blade", close=True)
    return [
        *_cord(40, 390),
        *_wound(150, 220),
        end,
        knife,
        *_arrow((300, 44), (360, 34)),
        _say(210, 128, first),
        _say(210, 146, second),
    ]


def _twist(first: str, second: str) -> list[str]:
    turn = svg.path(
        [
            (330 + 26 * math.cos(a), MIDDLE + 30 * math.sin(a))
            for a in [math.radians(20 * k - 150) for k in range(15)]
        ],
        "work-hand",
    )
    return [
        _loop(70, wide=30, tall=16),
        *_cord(100, 320, every=8),
        _loop(352, wide=30, tall=16),
        turn,
        *_arrow((343, 113), (338, 116)),
        _say(200, 130, first),
        _say(200, 148, second),
    ]


def _brace(first: str, second: str) -> list[str]:
    arc = [(50 + 3.2 * k, 118 - 74 * math.sin(math.pi * k / 100)) for k in range(101)]
    height = svg.line((210, 46), (210, 116), "work-measure")
    return [
        svg.path(arc, "work-bow"),
        svg.line((50, 118), (370, 118), "work-string"),
        height,
        _say(218, 88, first, "start"),
        _say(210, 148, second),
    ]


def _centre(first: str, second: str) -> list[str]:
    arrow = [
        svg.line((210, 20), (210, MIDDLE - 10), "work-arrow"),
        svg.path([(204, 26), (210, 14), (216, 26)], "work-arrow"),
    ]
    return [
        *_cord(30, 390),
        *_wound(150, 300),
        *arrow,
        *_arrow((300, 52), (330, 60)),
        _say(225, 128, first),
        _say(225, 146, second),
    ]


def _nock(first: str, second: str) -> list[str]:
    square = svg.path([(240, 20), (240, MIDDLE - 10), (330, MIDDLE - 10)], "work-measure")
    return [
        *_cord(30, 390),
        *_wound(120, 320),
        square,
        svg.dot((222, MIDDLE), 7, "nock-point"),
        svg.line((222, 30), (222, 70), "nock-line"),
        _say(214, 26, first, "end"),
        _say(225, 140, second),
    ]


_DRAWN: dict[str, Callable[[str, str], list[str]]] = {
    "lay out": _lay_out,
    "count": _count,
    "wax": _wax,
    "reinforce": _reinforce,
    "serve the loop": _loop_served,
    "lay the loop": _laid,
    "close": _close,
    "throat": _throat,
    "whip": _whip,
    "cut": _cut,
    "twist": _twist,
    "brace": _brace,
    "centre": _centre,
    "nock": _nock,
}
DRAWN = frozenset(_DRAWN)


def step_picture(drawn: str, first: str, second: str, title: str) -> SafeString:
    """A step of a string's making.

    Args:
        first, second: two figures that stand in the drawing.
    """
    return svg.picture(WIDTH, HEIGHT, _DRAWN[drawn](first, second), title, "work-picture")
