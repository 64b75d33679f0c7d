"""Several bows on one ruler and one curve chart, and maps of what a sweep found."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from django.utils.safestring import SafeString

from bowyery.arrays import Floats
from bowyery.units.quantity import INCH, Units
from fellwind.drawing import svg
from fellwind.drawing.chart import Chart, draw_scales
from fellwind.drawing.ruler import Ruler, RulerData, outline_of

LETTERS = "ABCD"
WIDTH = 960.0


def outlines(bows: list[RulerData], shown: Units) -> SafeString:
    """Outlines from the back under one another, centres in line, all to one scale."""
    low = max(float(b.lower.from_centre[-1]) for b in bows)
    high = max(float(b.upper.from_centre[-1]) for b in bows)
    ruler = Ruler(low, high, 48, 24)
    parts = []
    for k, bow in enumerate(bows):
        y = 44.0 + 84 * k
        parts += [svg.text((14, y + 6), LETTERS[k], "strong"), outline_of(ruler, bow, y, "wood")]
    bottom = 44.0 + 84 * (len(bows) - 1) + 48
    parts.append(svg.line((ruler.x(low, False), bottom), (ruler.x(high), bottom), "axis"))
    step = 8 * INCH if shown.imperial else 0.2
    for k in range(int(max(low, high) / step) + 1):
        for upper in (True, False) if k else (True,):
            if k * step <= (high if upper else low):
                x = ruler.x(k * step, upper)
                words = "centre" if not k else f"{8 * k}" if shown.imperial else f"{200 * k}"
                parts += [
                    svg.line((x, bottom), (x, bottom + 8), "axis"),
                    svg.text((x, bottom + 24), words, "small muted", "middle"),
                ]
    return svg.picture(
        WIDTH,
        bottom + 32,
        parts,
        f"Outlines of {len(bows)} bows to one scale, lower limbs left.",
        "ruler-picture",
    )


Line = Sequence[tuple[float, float]]
STATES = ("unstrung", "braced", "drawn")


def side_views(bows: Sequence[Mapping[str, Line]]) -> SafeString:
    """Side views of up to four bows over one another: unstrung, braced and at full draw, each as it
    hangs with its grip at one place, all to one scale.

    Args:
        bows: of each, by state, points from the lower nock to the upper: from its centre, upper
            limb above zero, and to its belly (m).
    """
    width, left = 620.0, 84.0
    reach = max(abs(x) for bow in bows for line in bow.values() for x, _ in line)
    scale = (width - left - 12) / 2 / reach
    middle, y, parts = left + scale * reach, 26.0, list[str]()
    for state in STATES:
        lines = [bow[state] for bow in bows]
        low = min(0.0, min(c for line in lines for _, c in line))
        high = max(c for line in lines for _, c in line)
        y -= scale * low
        parts.append(svg.text((12, y + 5), state, "small strong"))
        for k, line in enumerate(lines):
            points = [(middle + scale * x, y + scale * c) for x, c in line]
            parts.append(svg.path(points, f"line variant-{k}"))
            if state == STATES[-1]:
                parts.append(svg.text((points[-1][0] + 4, points[-1][1] + 14), LETTERS[k],
                                      "strong"))  # fmt: skip
        y += scale * high + 40
    title = f"Side views of {len(bows)} bows unstrung, braced and at full draw, to one scale."
    return svg.picture(width, y, parts, title, "compare-sides")


def curves(bows: list[tuple[Floats, Floats]], shown: Units) -> SafeString:
    """Force–draw curves of up to four bows; each line has its letter at its end and its own
    dash.
    """
    scales = draw_scales(shown)
    width, height = 560.0, 320.0
    lines = [(d / scales.length, w / scales.force) for d, w in bows]
    chart = Chart(
        44,
        width - 34,
        20,
        284,
        least=min(float(d[0]) for d, _ in lines),
        most=max(float(d[-1]) for d, _ in lines),
        ceiling=max(float(w.max()) for _, w in lines) * 1.08,
    )
    parts = chart.axes()
    parts += chart.across(scales.draws(chart)) + chart.upward(scales.weights(chart))
    for k, (d, w) in enumerate(lines):
        x, y = chart.at(float(d[-1]), float(w[-1]))
        parts.append(chart.line(d, w, f"line variant-{k}"))
        parts.append(svg.text((x + 6, y + 4), LETTERS[k], "strong"))
    parts.append(svg.text((chart.left + 8, 14), scales.words, "small muted"))
    ends = ", ".join(
        f"{LETTERS[k]} {shown.fine_weight(float(w[-1]))}" for k, (_, w) in enumerate(bows)
    )
    title = f"Force–draw curves; at full draw {ends}."
    return svg.picture(width, height, parts, title, "compare-curves")


@dataclass(frozen=True)
class MapData:
    """A map: values ``(first, second)``, the words of both axes' ends, how a value is written, and
    the cell to mark.
    """

    title: str
    values: Floats
    write: Callable[[float], str]
    first: tuple[str, str, str]
    second: tuple[str, str, str]
    here: tuple[int, int]
    best: tuple[int, int] | None = None
    names: tuple[str, ...] = ()  # of every row, where it has one


LEVELS = 7


def sweep_map(data: MapData) -> SafeString:
    """Cells from light to dark, the figures of every fourth written on them."""
    rows, columns = data.values.shape
    cell, left, top = 15.0, 128.0 if data.names else 92.0, 30.0
    known = data.values[np.isfinite(data.values)]
    low, high = (float(known.min()), float(known.max())) if known.size else (0.0, 1.0)
    write = data.write
    parts = [svg.text((left, 18), data.title, "strong")]
    for i in range(rows):
        for j in range(columns):
            value = float(data.values[i, j])
            x, y = left + j * cell, top + (rows - 1 - i) * cell
            if not np.isfinite(value):
                parts.append(svg.rect(x, y, cell, cell, "heat-none"))
                continue
            level = min(LEVELS - 1, int((value - low) / max(high - low, 1e-12) * LEVELS))
            parts.append(svg.rect(x, y, cell, cell, f"heat-{level}"))
    for i in range(2, rows, 5):
        for j in range(2, columns, 5):
            if np.isfinite(data.values[i, j]):
                at = (left + (j + 0.5) * cell, top + (rows - 0.5 - i) * cell + 5)
                parts.append(svg.text(at, write(float(data.values[i, j])), "heat-figure", "middle"))
    parts.append(
        svg.rect(
            left + data.here[1] * cell,
            top + (rows - 1 - data.here[0]) * cell,
            cell,
            cell,
            "heat-here",
        )
    )
    if data.best is not None:
        parts.append(
            svg.dot(
                (left + (data.best[1] + 0.5) * cell, top + (rows - 0.5 - data.best[0]) * cell),
                8,
                "heat-best",
            )
        )
    wide, tall = columns * cell, rows * cell
    name, start, end = data.second
    parts += [
        svg.text((left, top + tall + 18), start, "small muted"),
        svg.text((left + wide / 2, top + tall + 18), name, "small strong", "middle"),
        svg.text((left + wide, top + tall + 18), end, "small muted", "end"),
    ]
    name, start, end = data.first
    if data.names:
        here = data.here[0]
        parts += [
            svg.text(
                (left - 6, top + (rows - 0.5 - k) * cell + 4),
                row,
                "tiny strong" if k == here else "tiny muted",
                "end",
            )
            for k, row in enumerate(data.names)
        ]
    else:
        parts += [
            svg.text((left - 6, top + tall), start, "small muted", "end"),
            svg.text((left - 6, top + tall / 2), name, "small strong", "end"),
            svg.text((left - 6, top + 12), end, "small muted", "end"),
        ]
    said = (
        f"{data.title} from {write(low)} to {write(high)}; {data.first[0]} {data.first[1]} to"
        f" {data.first[2]} upwards,"
    )
    said += f" {data.second[0]} {data.second[1]} to {data.second[2]} to the right."
    return svg.picture(left + wide + 8, top + tall + 26, parts, said, "sweep-map")
