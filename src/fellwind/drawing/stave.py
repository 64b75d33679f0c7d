"""A stave on the ruler: outline from the back with its flaws, its natural side, and bows laid into
it.
"""

from dataclasses import dataclass

import numpy as np
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, Units
from bowyery.wood.placement import Fit, Outline, Placement
from bowyery.wood.stave import Flaw, Stave
from fellwind.drawing import svg
from fellwind.drawing.chart import Chart

WIDTH, LEFT, RIGHT = 960.0, 24.0, 24.0
MIDDLE, HALF = 84.0, 56.0


@dataclass(frozen=True)
class StaveRuler:
    """Maps the stave to the picture and back; widths are drawn larger than lengths."""

    length: float
    widest: float

    @property
    def scale(self) -> float:
        """Pixels for a metre of length."""
        return (WIDTH - LEFT - RIGHT) / self.length

    @property
    def tall(self) -> float:
        """Pixels for a metre of width."""
        return min(6 * self.scale, 2 * HALF / self.widest)

    def x(self, at: float) -> float:
        """Horizontal place of a distance from the left end (m)."""
        return LEFT + at * self.scale

    def y(self, off: float) -> float:
        """Vertical place of a distance across (m); the upper edge is up."""
        return MIDDLE - off * self.tall

    def place(self, x: float, y: float) -> tuple[float, float]:
        """Distance from the left end and across (m) of a point of the picture, kept on the
        stave.
        """
        at = min(max((x - LEFT) / self.scale, 0.0), self.length)
        return at, (MIDDLE - y) / self.tall


def ruler_of(stave: Stave) -> StaveRuler:
    """The ruler a stave lies on."""
    return StaveRuler(stave.length, float(stave.width.max()) + 2 * float(np.abs(stave.face).max()))


def _outline(ruler: StaveRuler, stave: Stave) -> str:
    at = np.linspace(0.0, stave.length, 61)
    middle, half = (
        np.interp(at, stave.face_at, stave.face),
        0.5 * np.interp(at, stave.at, stave.width),
    )
    top = [(ruler.x(a), ruler.y(m + h)) for a, m, h in zip(at, middle, half, strict=True)]
    low = [(ruler.x(a), ruler.y(m - h)) for a, m, h in zip(at, middle, half, strict=True)]
    return svg.path(top + low[::-1], "wood", close=True)


def _axis(ruler: StaveRuler, y: float, shown: Units) -> list[str]:
    step, every = (INCH, 4) if shown.imperial else (0.02, 5)
    parts = [svg.line((ruler.x(0), y), (ruler.x(ruler.length), y), "axis")]
    for k in range(int(ruler.length / step) + 1):
        x, long = ruler.x(k * step), k % every == 0
        parts.append(svg.line((x, y), (x, y + (9 if long else 4)), "axis"))
        if long and k % (2 * every) == 0:
            parts.append(
                svg.text(
                    (x, y + 23), f"{k}" if shown.imperial else f"{k * 20}", "small muted", "middle"
                )
            )
    return parts


def _flaw(ruler: StaveRuler, flaw: Flaw, number: int) -> str:
    x, y = ruler.x(flaw.at), ruler.y(flaw.off)
    wide, high = max(flaw.length / 2 * ruler.scale, 5.0), max(flaw.width / 2 * ruler.tall, 5.0)
    css = "flaw-mark" + (
        " flaw-belly" if flaw.face == "belly" else " flaw-through" if flaw.face == "through" else ""
    )
    parts = [
        f'<ellipse class="{css}" cx="{svg.n(x)}" cy="{svg.n(y)}" rx="{svg.n(wide)}"'
        f' ry="{svg.n(high)}"/>'
    ]
    if "check" in flaw.kind or flaw.kind in ("hairline", "insect track"):
        parts.append(svg.line((x - wide, y), (x + wide, y), "flaw-line"))
    elif "knot" in flaw.kind:
        parts.append(svg.dot((x, y), 2.5, "flaw-heart"))
    else:
        parts += [
            svg.line((x - wide + k, y + high / 2), (x - wide + k + 6, y - high / 2), "flaw-line")
            for k in range(3, int(2 * wide), 7)
        ]
    parts.append(svg.text((x, y - high - 4), str(number), "small strong", "middle"))
    return "".join(parts)


def flaw_map(
    stave: Stave, names: list[tuple[int, str]], shown: Units, urls: dict[str, str]
) -> SafeString:
    """The stave from its back with every flaw as a thing that can be touched, moved and focused.

    Args:
        names: key and words of each flaw, in the order of ``stave.flaws``.
        urls: where the script asks: ``form``, and ``move`` and ``drop`` with a 0 for the flaw's
            key.
    """
    ruler = ruler_of(stave)
    low, high = stave.usable
    parts = [_outline(ruler, stave)]
    for a, b in ((0.0, low), (high, stave.length)):
        if b > a + 1e-6:
            parts.append(
                svg.rect(
                    ruler.x(a), MIDDLE - HALF - 6, (b - a) * ruler.scale, 2 * HALF + 12, "lost"
                )
            )
    parts.append(svg.line((ruler.x(0), MIDDLE), (ruler.x(stave.length), MIDDLE), "centre-line"))
    for number, (flaw, (key, words)) in enumerate(zip(stave.flaws, names, strict=True), 1):
        parts.append(
            f'<g class="flaw" tabindex="0" role="button" data-flaw="{key}"'
            f' aria-label="{escape(f"{number}: {words}")}">{_flaw(ruler, flaw, number)}</g>'
        )
    parts += _axis(ruler, MIDDLE + HALF + 14, shown)
    if np.any(stave.side):
        base = MIDDLE + HALF + 86
        reach = float(np.abs(stave.side).max())
        k = min(6 * ruler.scale, 22 / reach)
        points = [
            (ruler.x(a), base + s * k) for a, s in zip(stave.side_at, stave.side, strict=True)
        ]
        parts += [
            svg.line((ruler.x(0), base), (ruler.x(stave.length), base), "rule"),
            svg.path(points, "line"),
        ]
        parts.append(
            svg.text(
                (LEFT, base - 30),
                f"side, back upwards; {shown.length(reach)} at most off the string",
                "small muted",
            )
        )
    height = MIDDLE + HALF + (112 if np.any(stave.side) else 46)
    title = (
        f"The stave from its back, {shown.length(stave.length)} long, with {len(stave.flaws)}"
        " flaws."
    )
    data = "".join(f' data-{k}="{escape(v)}"' for k, v in urls.items())
    picture = svg.picture(WIDTH, height, parts, title, "ruler-picture stave-picture", "group")
    return mark_safe(f'<div class="ruler-scroll" data-flaw-map{data}>{picture}</div>')  # noqa: S308


def small_stave(stave: Stave) -> SafeString:
    """A stave's outline with its flaws, for lists."""
    ruler = ruler_of(stave)
    parts = [
        _outline(ruler, stave),
        *(_flaw(ruler, flaw, k) for k, flaw in enumerate(stave.flaws, 1)),
    ]
    return svg.picture(
        WIDTH,
        2 * MIDDLE,
        parts,
        f"outline of the stave with {len(stave.flaws)} flaws",
        "outline-small",
    )


def placement_picture(
    stave: Stave, outline: Outline, placed: Placement, shown: Units
) -> SafeString:
    """A bow's outline laid into a stave."""
    ruler = ruler_of(stave)
    at = np.linspace(0.0, outline.length, 81)
    source = outline.length - at if placed.turned else at
    half = 0.5 * np.interp(source, outline.at, outline.width)
    centre = placed.shift + placed.turn * (at - 0.5 * outline.length)
    top = [
        (ruler.x(placed.start + a), ruler.y(c + h))
        for a, c, h in zip(at, centre, half, strict=True)
    ]
    low = [
        (ruler.x(placed.start + a), ruler.y(c - h))
        for a, c, h in zip(at, centre, half, strict=True)
    ]
    parts = [_outline(ruler, stave), svg.path(top + low[::-1], "laid", close=True)]
    left, right = ("upper", "lower") if placed.turned else ("lower", "upper")
    parts += [
        svg.text((ruler.x(placed.start), 14), left, "small strong"),
        svg.text((ruler.x(placed.start + outline.length), 14), right, "small strong", "end"),
    ]
    parts += [_flaw(ruler, flaw, number) for number, flaw in enumerate(stave.flaws, 1)]
    parts += _axis(ruler, MIDDLE + HALF + 14, shown)
    ends = f"{shown.length(placed.start)} to {shown.length(placed.start + outline.length)}"
    said = f"The bow from {ends} of the stave, {left} limb to the left."
    return svg.picture(WIDTH, MIDDLE + HALF + 44, parts, said, "ruler-picture")


def fit_strip(stave: Stave, fit: Fit, shown: Units) -> SafeString:
    """How good each offset is: the place of the bow's left nock against its best score."""
    ruler, base, tall = ruler_of(stave), 74.0, 60.0
    points = [
        (ruler.x(s), base - v / 100 * tall) for s, v in zip(fit.starts, fit.scores, strict=True)
    ]
    if len(points) == 1:
        points.append((points[0][0] + 4, points[0][1]))
    parts = [
        svg.path([(points[0][0], base), *points, (points[-1][0], base)], "thick", close=True),
        svg.path(points, "line"),
        svg.line((ruler.x(0), base), (ruler.x(stave.length), base), "rule"),
        svg.line(
            (ruler.x(0), base - 0.6 * tall), (ruler.x(stave.length), base - 0.6 * tall), "limit"
        ),
        svg.text(
            (ruler.x(stave.length), base - 0.6 * tall - 4),
            "sound from here up",
            "tiny bracken",
            "end",
        ),
    ]
    parts += [
        svg.dot((ruler.x(one.start), base - one.score / 100 * tall), 4, "goal") for one in fit.best
    ]
    worst, top = float(fit.scores.min()), float(fit.scores.max())
    reach = shown.length(float(fit.starts[-1]))
    title = (
        f"How good each place for the left nock is, to {reach}: scores from {worst:.0f} to"
        f" {top:.0f} of 100."
    )
    return svg.picture(WIDTH, base + 6, parts, title, "ruler-picture")


def drying_picture(
    days: Floats,
    curve: Floats,
    low: Floats,
    high: Floats,
    weighed: list[tuple[float, float]],
    read: list[tuple[float, float]],
    wanted: float,
    balance: float,
) -> SafeString:
    """Moisture over the days: the fitted fall with its range, and the goals.

    Weighings are dots, meter readings crosses.
    """
    width, height = 460.0, 230.0
    first, last = float(days[0]), float(days[-1])
    told = [m for _, m in weighed + read]
    ceiling = max(float(curve.max()), max(told, default=0.0), wanted) * 1.1
    chart = Chart(46, width - 12, 18, 194, 0, last - first, ceiling)
    passed = days - first
    parts = chart.axes()
    parts.append(chart.band(passed, np.minimum(low, ceiling), np.minimum(high, ceiling)))
    parts.append(chart.line(passed, np.minimum(curve, ceiling), "line"))
    goals = ((wanted, "dry enough", "limit", -5), (balance, "the shop's air", "rule", 14))
    for level, words, css, drop in goals:
        y = chart.at(0, min(level, ceiling))[1]
        parts.append(chart.level(min(level, ceiling), css))
        parts.append(svg.text((chart.right - 2, y + drop), words, "tiny muted", "end"))
    step = 0.05 if ceiling < 0.35 else 0.1 if ceiling < 0.8 else 0.25
    parts += chart.upward(np.arange(step, ceiling, step), lambda m: f"{m * 100:.0f} %")
    span = 30 if last - first < 200 else 90 if last - first < 800 else 365
    parts += chart.across(np.arange(0, last - first, span), "{:.0f}".format)
    under = chart.base + 34
    named = "days since the first reading"
    parts.append(svg.text((chart.right, under), named, "small muted", "end"))
    parts += [svg.dot(chart.at(d - first, m), 4, "read") for d, m in weighed]
    for day, moisture in read:
        x, y = chart.at(day - first, moisture)
        parts.append(svg.line((x - 5, y - 5), (x + 5, y + 5), "read"))
        parts.append(svg.line((x - 5, y + 5), (x + 5, y - 5), "read"))
    if read:
        said = "dots: weighed · crosses: meter" if weighed else "crosses: meter"
        parts.append(svg.text((chart.left + 4, under), said, "small muted"))
    newest = max(weighed + read)[1] * 100
    title = (
        f"Moisture since the first reading: {newest:.1f} % at the last;"
        f" the air's balance is {balance * 100:.1f} %."
    )
    rows = [
        (f"{day - first:.0f}", f"{m * 100:.1f} %", how)
        for day, m, how in sorted(
            [(d, m, "weighed") for d, m in weighed] + [(d, m, "meter") for d, m in read]
        )
    ]
    ahead = np.unique(np.linspace(0, len(days) - 1, 8).astype(int))
    rows += [
        (
            f"{float(days[k]) - first:.0f}",
            f"{float(curve[k]) * 100:.1f} %",
            f"reckoned, {float(low[k]) * 100:.1f} to {float(high[k]) * 100:.1f} %",
        )
        for k in ahead
    ]
    drawn = svg.picture(width, height, parts, title, "curve-picture")
    return drawn + svg.figures("Moisture", ("Day", "Moisture", "How it is known"), rows)
