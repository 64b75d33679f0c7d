"""The tiller on one picture: the bow on the tree, under it both limbs belly side up with the pencil
marks of the advice, the ruler, and how stiff each place is, all over one another.

Slanting strokes with a number: take so many off here. Crosses: touch nothing. Dots: not known yet.
Faint strokes: what came off before. Every stretch of a limb can be pressed.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, Units
from fellwind.drawing import svg
from fellwind.drawing.ruler import (
    LEFT,
    WIDTH,
    LimbTrack,
    Ruler,
    RulerData,
    TillerData,
    axis,
    outline_of,
    ruler_for,
    track_name,
)
from fellwind.drawing.tree import Bent, DrawMarks, tree_parts

TREE_MOST = 236.0  # height of the tree's picture at most
BELLY, STIFF = 146.0, 92.0
WIDEST = 104.0  # a limb at its widest is drawn so wide: widths are not on the scale of lengths
UNKNOWN_FROM = 0.5  # of a place's band at first sight: what is hardly narrower is not known yet
FIRST_BAND = 0.20  # that band, one way, as log stiffness (90 %)


@dataclass(frozen=True)
class Strokes:
    """Strokes to take along a stretch of a limb, from the bow's centre (m)."""

    upper: bool
    start: float
    end: float
    count: int


@dataclass(frozen=True)
class Mark:
    """Something said of a stretch by eye, from the bow's centre (m)."""

    upper: bool
    start: float
    end: float
    how: str


@dataclass(frozen=True)
class Touch:
    """A stretch that can be pressed: from the bow's centre (m), the figures as they are typed, and
    what it says.
    """

    upper: bool
    start: float
    end: float
    start_text: str
    end_text: str
    words: str


@dataclass(frozen=True)
class BenchData:
    """What the picture of the bench shows.

    Attributes:
        ruler: of the bow as it stands.
        tiller: stiffness with its band, removal, what came off, weak and stiff places.
        marks: made by eye since the last removal.
        acts: places of what was done to the bow, upper and from the centre (m), with a word.
    """

    ruler: RulerData
    tiller: TillerData | None = None
    strokes: tuple[Strokes, ...] = ()
    marks: tuple[Mark, ...] = ()
    touches: tuple[Touch, ...] = ()
    acts: tuple[tuple[bool, float, float, str], ...] = ()


@dataclass(frozen=True)
class TreeData:
    """What hangs on the tree: as :func:`fellwind.drawing.tree.tree_picture` takes it."""

    solid: list[Bent] = field(default_factory=list)
    wanted: list[Bent] = field(default_factory=list)
    pivot: tuple[float, float] = (0.0, 0.0)
    handle: tuple[float, float, float] = (0.0, 0.0, 0.0)
    title: str = ""
    marks: DrawMarks | None = None
    names: tuple[str, ...] = ()


def stretches(data: RulerData, shown: Units) -> list[tuple[bool, float, float, str, str]]:
    """Stretches of both limbs that end on marks of the ruler: every four inches or ten centimetres
    from the centre, the last one to the nock.
    """
    step = 4 * INCH if shown.imperial else 0.1
    rows = []
    for track, upper in ((data.lower, False), (data.upper, True)):
        root, tip = float(track.from_centre[0]), float(track.from_centre[-1])
        ends = [k * step for k in range(int(root / step), int(tip / step) + 2)]
        ends = [max(root, ends[0]), *(e for e in ends[1:] if e < tip - 0.4 * step), tip]
        for start, end in pairwise(ends):
            if end - start < 0.3 * step:
                continue
            rows.append((upper, start, end, shown.typed_length(start), shown.typed_length(end)))
    return rows


def bench_picture(data: BenchData, tree: TreeData | None, shown: Units) -> SafeString:
    """Draw it.

    Args:
        tree: what hangs above, or None while nothing does.
    """
    ruler = ruler_for(data.ruler)
    parts: list[str] = []
    y = 0.0
    if tree is not None:
        y = _tree(parts, ruler, tree, shown)
    middle = y + 0.5 * BELLY
    parts += track_name(middle - 8, "Belly up", "lower left")
    wider = _wider(ruler, data.ruler)
    parts.append(outline_of(ruler, data.ruler, middle, "wood", wider))
    parts.append(svg.line((ruler.x(_tip(data.ruler, False), False), middle),
                          (ruler.x(_tip(data.ruler, True)), middle), "centre-line"))  # fmt: skip
    belly = _Belly(ruler, data.ruler, middle, wider)
    if data.tiller is not None:
        parts += belly.came_off(data.tiller)
    parts += belly.unknown(data.tiller)
    parts += belly.strokes(data.strokes)
    if data.tiller is not None:
        parts += belly.crosses(data.tiller)
    parts += belly.seen(data.marks)
    parts += belly.done(data.acts)
    y += BELLY
    parts += axis(ruler, data.ruler, y + 6, shown)
    y += 42
    if data.tiller is not None:
        parts += _stiffness(ruler, data.ruler, data.tiller, y)
        y += STIFF
    parts += [
        f'<line class="{css}" x1="0" x2="0" y1="4" y2="{svg.n(y)}" visibility="hidden"/>'
        for css in ("hairline", "lit")
    ]
    parts += belly.touches(data.touches)
    said = _said(data, tree, shown)
    centre = ruler.centre
    picture = svg.picture(WIDTH, y, parts, said, "bench-picture", "group")
    return mark_safe(  # noqa: S308
        f'<div class="bench-drawing" data-belly data-fold="{svg.n(centre)}"'
        f' data-left="{svg.n(LEFT - 20)}" data-wide="{svg.n(WIDTH)}">{picture}</div>'
    )


def limbs_picture(data: BenchData, shown: Units) -> SafeString:
    """Both limbs belly up with what to take, for three metres away: strokes, crosses, no more."""
    ruler = Ruler(_tip(data.ruler, False), _tip(data.ruler, True), 8, 8)
    wider = _wider(ruler, data.ruler)
    belly = _Belly(ruler, data.ruler, 66.0, wider)
    parts = [outline_of(ruler, data.ruler, 66.0, "wood", wider), *belly.strokes(data.strokes, 26)]
    if data.tiller is not None:
        parts += belly.crosses(data.tiller, words=False)
    drawn = f'<g id="limbs-drawn">{"".join(parts)}</g>'
    whole = svg.picture(WIDTH, 132, [drawn], _said(data, None, shown), "limbs-picture")
    # on a phone one limb under the other, each as wide as the screen
    middle, over = ruler.centre, 30.0
    halves = ((middle - over, WIDTH - middle + over, "upper"), (0.0, middle + over, "lower"))
    phone = "".join(
        f'<p class="say phone-limb">{limb}</p><svg class="picture phone-limb" aria-hidden="true"'
        f' viewBox="{svg.n(start)} 0 {svg.n(wide)} 132"><use href="#limbs-drawn"/></svg>'
        for start, wide, limb in halves
    )
    return whole + mark_safe(phone)  # noqa: S308


def _wider(ruler: Ruler, data: RulerData) -> float:
    """How many times larger than lengths widths are drawn."""
    widest = max(data.handle_width, float(data.upper.width.max()), float(data.lower.width.max()))
    return WIDEST / (widest * ruler.scale)


def _tip(data: RulerData, upper: bool) -> float:
    return float((data.upper if upper else data.lower).from_centre[-1])


def _tree(parts: list[str], ruler: Ruler, tree: TreeData, shown: Units) -> float:
    found, height = tree_parts(
        tree.solid, tree.wanted, tree.pivot, tree.handle, ruler, shown, tree.marks, TREE_MOST
    )
    parts += found
    for k, name in enumerate(tree.names):
        css = "track-name" if k == 0 else ("small moss" if k == len(tree.names) - 1 else "small")
        parts.append(svg.text((24, 30 + 18 * k), name, css))
    return height


class _Belly:
    """Marks on the limbs."""

    def __init__(self, ruler: Ruler, data: RulerData, y: float, wider: float) -> None:
        self.ruler, self.data, self.y, self.wider = ruler, data, y, wider

    def track(self, upper: bool) -> LimbTrack:
        return self.data.upper if upper else self.data.lower

    def half(self, upper: bool, at: float) -> float:
        """Half of the limb's drawn width at a place from the centre (m)."""
        track = self.track(upper)
        width = float(np.interp(at, track.from_centre, track.width))
        return 0.5 * width * self.ruler.scale * self.wider

    def ends(self, upper: bool, start: float, end: float) -> tuple[float, float]:
        """Left and right of a stretch on the picture, within the limb."""
        track = self.track(upper)
        low, high = float(track.from_centre[0]), float(track.from_centre[-1])
        x1, x2 = (self.ruler.x(float(np.clip(v, low, high)), upper) for v in (start, end))
        return min(x1, x2), max(x1, x2)

    def slanted(
        self, upper: bool, start: float, end: float, step: float, css: str, part: float = 0.86
    ) -> list[str]:
        """Slanting strokes across the limb, as long as it is wide."""
        x1, x2 = self.ends(upper, start, end)
        rows = []
        for x in np.arange(x1 + 0.5 * step, x2, step):
            from_centre = abs(float(x) - self.ruler.centre) / self.ruler.scale
            half = part * self.half(upper, from_centre)
            lean = 0.22 * half
            rows.append(
                svg.line((float(x) - lean, self.y + half), (float(x) + lean, self.y - half), css)
            )
        return rows

    def _places(self, upper: bool, count: int) -> Floats:
        track = self.track(upper)
        return np.linspace(float(track.from_centre[0]), float(track.from_centre[-1]), count)

    def came_off(self, more: TillerData) -> list[str]:
        """Faint strokes: the closer, the more came off."""
        most, rows = float(more.taken.max()), list[str]()
        if most <= 0:
            return rows
        for k, upper in ((0, True), (1, False)):
            at = self._places(upper, more.taken.shape[1])
            half = 0.5 * (at[1] - at[0])
            for place, off in zip(at, more.taken[k], strict=True):
                if off > 0.08 * most:
                    step = min(9.0 * most / float(off), 40.0)
                    start, end = float(place - half), float(place + half)
                    rows += self.slanted(upper, start, end, step, "came-off", 0.72)
        return rows

    def unknown(self, more: TillerData | None) -> list[str]:
        """Dots where nothing is known yet: everywhere before anything was read."""
        rows = list[str]()
        wide = np.full((2, 12), FIRST_BAND)
        if more is not None:
            wide = 0.5 * (np.log1p(more.high) - np.log1p(np.maximum(more.low, -0.95)))
        for k, upper in ((0, True), (1, False)):
            at = self._places(upper, wide.shape[1])
            half = 0.5 * (at[1] - at[0])
            for place, band in zip(at[:-1], wide[k][:-1], strict=True):
                if band < UNKNOWN_FROM * FIRST_BAND:
                    continue
                x1, x2 = self.ends(upper, float(place - half), float(place + half))
                across = 0.5 * self.half(upper, float(place))
                rows += [
                    svg.dot((float(x), self.y + d), 1.4, "unknown")
                    for x in np.arange(x1 + 4, x2, 9.0)
                    for d in (-across, across)
                ]
        return rows

    def strokes(self, strokes: Sequence[Strokes], size: float = 16) -> list[str]:
        """Where to take wood, with how many strokes."""
        rows, numbers = list[str](), list[str]()
        most = max((one.count for one in strokes), default=1)
        for one in strokes:
            step = float(np.clip(13.0 * most / max(one.count, 1), 7.0, 26.0)) * 0.75
            rows += self.slanted(one.upper, one.start, one.end, step, "pencil-stroke bold-stroke")
            x1, x2 = self.ends(one.upper, one.start, one.end)
            x = 0.5 * (x1 + x2)
            numbers.append(svg.dot((x, self.y), size, "stroke-disc"))
            below = self.y + 0.38 * size
            numbers.append(svg.text((x, below), str(one.count), "stroke-count", "middle"))
        return rows + numbers

    def crosses(self, more: TillerData, words: bool = True) -> list[str]:
        """Where nothing is touched: it bends too much, or is marked so."""
        rows = list[str]()
        for limb, start, end in more.weak:
            upper = limb == "upper"
            x1, x2 = self.ends(upper, start, end)
            half = 0.45 * self.half(upper, 0.5 * (start + end))
            for x in np.arange(x1 + 9, x2 - 2, 16.0):
                for y in (self.y - half, self.y + half):
                    rows.append(svg.line((x - 6, y - 6), (x + 6, y + 6), "cross"))
                    rows.append(svg.line((x - 6, y + 6), (x + 6, y - 6), "cross"))
            if not words:
                continue
            middle = min(max(0.5 * (x1 + x2), 80.0), WIDTH - 80.0)
            said = "leave alone"
            rows.append(svg.text((middle, self.y - 60), said, "small strong bracken", "middle"))
        return rows

    def seen(self, marks: Sequence[Mark]) -> list[str]:
        """What was said by eye, beside the limb."""
        rows = list[str]()
        for one in marks:
            x1, x2 = self.ends(one.upper, one.start, one.end)
            y = self.y + 62
            css = {"good": "eye-good", "stiff": "eye-stiff", "block": "eye-stiff"}.get(
                one.how, "eye-weak"
            )
            rows.append(svg.line((x1, y - 4), (x2, y - 4), css))
            rows.append(svg.text((0.5 * (x1 + x2), y + 9), one.how, f"small {css}-word", "middle"))
        return rows

    def done(self, acts: Sequence[tuple[bool, float, float, str]]) -> list[str]:
        """Where something was done to the limb, with its word."""
        rows = list[str]()
        for upper, start, end, word in acts:
            x1, x2 = self.ends(upper, start, end)
            half = self.half(upper, 0.5 * (start + end))
            rows.append(svg.rect(x1, self.y - half, max(x2 - x1, 3), 2 * half, "act-place"))
            rows.append(
                svg.text((0.5 * (x1 + x2), self.y - half - 5), word, "small muted", "middle")
            )
        return rows

    def touches(self, touches: Sequence[Touch]) -> list[str]:
        """What can be pressed, over everything."""
        rows = list[str]()
        for one in touches:
            x1, x2 = self.ends(one.upper, one.start, one.end)
            limb = "upper" if one.upper else "lower"
            rows.append(
                f'<rect class="touch" x="{svg.n(x1)}" y="{svg.n(self.y - 58)}"'
                f' width="{svg.n(x2 - x1)}" height="116" tabindex="0" role="button"'
                f' aria-pressed="false" data-limb="{limb}" data-start="{escape(one.start_text)}"'
                f' data-end="{escape(one.end_text)}" aria-label="{escape(one.words)}"/>'
            )
        return rows


def _stiffness(ruler: Ruler, data: RulerData, more: TillerData, top: float) -> list[str]:
    """Stiffness against what is wanted, with its band, and the figures of the worst places."""
    base, room = top + 46, 34.0
    unit = room / max(0.25, float(np.abs([more.low, more.high]).max()))
    low, high = ruler.x(_tip(data, False), False), ruler.x(_tip(data, True))
    parts = track_name(base - 6, "Stiffness", "with its band")
    parts.append(svg.line((low, base), (high, base), "wanted-line"))
    for k, track, upper in ((0, data.upper, True), (1, data.lower, False)):
        at = np.linspace(
            float(track.from_centre[0]), float(track.from_centre[-1]), more.stiffness.shape[1]
        )
        xs = [ruler.x(float(s), upper) for s in at]
        highs = [(x, base - v * unit) for x, v in zip(xs, more.high[k], strict=True)]
        lows = [(x, base - v * unit) for x, v in zip(xs, more.low[k], strict=True)]
        parts.append(svg.path(highs + lows[::-1], "band", close=True))
        points = [(x, base - v * unit) for x, v in zip(xs, more.stiffness[k], strict=True)]
        parts.append(svg.path(points, "line"))
        inner = more.stiffness[k][:-1]
        for index, css, sign in (
            (int(inner.argmax()), "small strong heather", 1),
            (int(inner.argmin()), "small strong bracken", -1),
        ):
            value = float(inner[index])
            if sign * value > 0.05:
                x, y = points[index]
                y += -7 if sign > 0 else 16
                parts.append(svg.text((x, y), f"{value * 100:+.0f} %", css, "middle"))
    return parts


def _said(data: BenchData, tree: TreeData | None, shown: Units) -> str:
    """The picture in words, with its figures."""
    words = [tree.title] if tree is not None else []
    for one in data.strokes:
        limb = "upper" if one.upper else "lower"
        words.append(
            f"{one.count} stroke{'' if one.count == 1 else 's'} on the {limb} limb,"
            f" {shown.length(one.start)} to {shown.length(one.end)} from the centre."
        )
    if data.tiller is not None:
        for limb, start, end in data.tiller.weak:
            words.append(
                f"Leave the {limb} limb alone, {shown.length(start)} to {shown.length(end)}."
            )
    if not data.strokes:
        words.append("No wood comes off now.")
    return " ".join(words)
