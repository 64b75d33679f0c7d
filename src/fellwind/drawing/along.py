"""Figures along both limbs, lower tip left, upper limb right, each as a line or an area."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from bowyery.arrays import Floats
from bowyery.units.quantity import Units
from fellwind.drawing import svg

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FOOT = 760.0, 190.0, 70.0, 16.0, 14.0, 34.0
MOST_ROWS = 13  # of the table behind the picture


@dataclass(frozen=True)
class Track:
    """One figure along both limbs.

    Attributes:
        values: at the places, ``(2, places)``.
    """

    name: str
    values: Floats
    css: str
    area: bool = False


def along_picture(
    places: Floats,
    tracks: Sequence[Track],
    write: Callable[[float], str],
    ticks: Sequence[float],
    title: str,
    shown: Units,
    marks: Sequence[tuple[int, float, str]] = (),
) -> SafeString:
    """Draw figures along both limbs.

    Args:
        places: from the bow's centre, ``(2, places)`` (m).
        write: one of them in words.
        ticks: where the scale is written; it reaches over all of them.
        title: in words, for who cannot see it.
        marks: limb, place from the centre (m), and the word written there.

    Returns:
        The picture, and its figures as a table behind it.
    """
    low, high = min(ticks), max(ticks)
    reach = float(places.max())

    def x(side: int, place: float) -> float:
        way = place if side == 0 else -place
        return LEFT + (way + reach) / (2 * reach) * (WIDTH - LEFT - RIGHT)

    def y(value: float) -> float:
        share = (min(max(value, low), high) - low) / (high - low)
        return HEIGHT - FOOT - share * (HEIGHT - TOP - FOOT)

    parts = []
    for tick in ticks:
        parts.append(svg.line((LEFT, y(tick)), (WIDTH - RIGHT, y(tick)), "rule"))
        parts.append(svg.text((LEFT - 8, y(tick) + 5), write(tick), "small muted", "end"))
    parts.append(svg.line((x(0, 0), TOP), (x(0, 0), HEIGHT - FOOT), "centre-line"))
    for one in tracks:
        for side in (0, 1):
            points = [
                (x(side, p), y(v)) for p, v in zip(places[side], one.values[side], strict=True)
            ]
            if one.area:
                base = y(max(low, 0.0))
                points = [(points[0][0], base), *points, (points[-1][0], base)]
            parts.append(svg.path(points, one.css, close=one.area))
    for side, place, word in marks:
        parts.append(svg.line((x(side, place), TOP), (x(side, place), HEIGHT - FOOT), "along-mark"))
        parts.append(svg.text((x(side, place), TOP + 10), word, "small strong", "middle"))
    parts.append(svg.text((LEFT, HEIGHT - 10), "lower limb", "small muted"))
    parts.append(svg.text((WIDTH - RIGHT, HEIGHT - 10), "upper limb", "small muted", "end"))
    drawn = svg.picture(WIDTH, HEIGHT, parts, title, "along-picture")
    keys = "".join(
        f'<li><svg viewBox="0 0 26 12" aria-hidden="true">'
        f"{_sample(one)}</svg> {escape(one.name)}</li>"
        for one in tracks
    )
    legend = f'<ul class="along-key">{keys}</ul>'
    return mark_safe(drawn + legend + _table(places, tracks, write, title, shown))  # noqa: S308


def _sample(one: Track) -> str:
    if one.area:
        return svg.rect(1, 1, 24, 10, one.css)
    return svg.line((1, 6), (25, 6), one.css)


def _table(
    places: Floats,
    tracks: Sequence[Track],
    write: Callable[[float], str],
    title: str,
    shown: Units,
) -> SafeString:
    rows = []
    pick = np.linspace(0, places.shape[1] - 1, min(MOST_ROWS, places.shape[1])).round().astype(int)
    for side, limb in enumerate(("upper", "lower")):
        for k in pick:
            figures = [write(float(one.values[side, k])) for one in tracks]
            rows.append((f"{limb}, {shown.length(float(places[side, k]))}", *figures))
    heads = ["Place", *(one.name for one in tracks)]
    return svg.figures(title, heads, rows)
