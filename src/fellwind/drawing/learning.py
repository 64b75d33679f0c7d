"""What the shop has learned of figures: the book's range, each bow's record, and what follows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from fellwind.drawing import svg

WIDTH, LEFT, RIGHT, TOP, TALL = 760.0, 178.0, 24.0, 12.0, 58.0
NINETY = 1.645
REACH = 1.35  # of the book's range, shown to either side
MOST_NAMED = 8  # records whose bows are written beside their dots


@dataclass(frozen=True)
class Point:
    """One record: the bow or strip that it is of, the value with one deviation, and whether it was
    left out.
    """

    name: str
    value: float
    error: float
    odd: bool


@dataclass(frozen=True)
class Line:
    """A figure of one wood, tool or fibre.

    Attributes:
        book, before: what the book says, and one deviation for a bow before anything was seen.
        middle, sure: as learned, and one deviation.
    """

    name: str
    book: float
    before: float
    middle: float
    sure: float
    points: Sequence[Point]


def learning_picture(
    rows: Sequence[Line], write: Callable[[float], str], ticks: Sequence[float], title: str
) -> SafeString:
    """Draw every figure on the same scale, the book's range shaded lightly and the shop's darkly.

    Args:
        write: one of them in words.
        ticks: where the scale is written.
        title: in words, for who cannot see it.
    """
    low = min(r.book - REACH * NINETY * r.before for r in rows)
    high = max(r.book + REACH * NINETY * r.before for r in rows)
    for row in rows:
        for point in row.points:
            low, high = min(low, point.value), max(high, point.value)
    height = TOP + TALL * len(rows) + 30

    def x(value: float) -> float:
        share = (min(max(value, low), high) - low) / (high - low)
        return LEFT + share * (WIDTH - LEFT - RIGHT)

    foot = TOP + TALL * len(rows)
    parts = []
    last = -1e9
    for tick in ticks:
        if low <= tick <= high and x(tick) - last > 46:
            last = x(tick)
            parts.append(svg.line((x(tick), TOP), (x(tick), foot), "rule"))
            parts.append(svg.text((x(tick), foot + 20), write(tick), "small muted", "middle"))
    for k, row in enumerate(rows):
        parts += _row(row, TOP + k * TALL, x)
    told = [
        (row.name, write(row.book), f"{write(row.middle - NINETY * row.sure)} to"
         f" {write(row.middle + NINETY * row.sure)}",
         ", ".join(f"{p.name}: {write(p.value)}" + (" (left out)" if p.odd else "")
                   for p in row.points))
        for row in rows
    ]  # fmt: skip
    figures = svg.figures("Records", ("Of", "Book", "Shop, nine in ten", "Each record"), told)
    return svg.picture(WIDTH, height, parts, title, "learning-picture") + figures


def _row(row: Line, top: float, x: Callable[[float], float]) -> list[str]:
    middle, wide = top + 0.5 * TALL, NINETY * row.before
    parts = [
        svg.text((LEFT - 14, middle + 5), row.name, "small strong", "end"),
        svg.rect(x(row.book - wide), middle - 15, x(row.book + wide) - x(row.book - wide), 30,
                 "book-range"),
        svg.line((x(row.book), middle - 19), (x(row.book), middle + 19), "book-line"),
    ]  # fmt: skip
    if row.points:
        left, right = x(row.middle - NINETY * row.sure), x(row.middle + NINETY * row.sure)
        parts.append(svg.rect(left, middle - 15, max(right - left, 2.0), 30, "shop-range"))
        parts.append(
            svg.line((x(row.middle), middle - 19), (x(row.middle), middle + 19), "shop-line")
        )
    named = len(row.points) <= MOST_NAMED
    for point in sorted(row.points, key=lambda one: one.value):
        ends = [(x(point.value - point.error), middle), (x(point.value + point.error), middle)]
        parts.append(svg.line(ends[0], ends[1], "record-error"))
        parts.append(svg.dot((x(point.value), middle), 5, "read-odd" if point.odd else "read"))
    if named:
        parts += _names(row.points, middle, x)
    return parts


def _names(points: Sequence[Point], middle: float, x: Callable[[float], float]) -> list[str]:
    """Names beside the dots, above and below in turn so that they keep apart."""
    parts, last = [], {True: -1e9, False: -1e9}
    for k, point in enumerate(sorted(points, key=lambda one: one.value)):
        above = k % 2 == 0
        at = x(point.value)
        room = 7.0 * len(point.name)
        if at - last[above] < room:
            above = not above
        if at - last[above] < room:
            continue
        last[above] = at
        parts.append(svg.text((at, middle - 17 if above else middle + 26), point.name,
                              "small muted", "middle"))  # fmt: skip
    return parts
