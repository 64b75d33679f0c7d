"""The force–draw curve, with its range and what was measured on it."""

from dataclasses import dataclass, field

import numpy as np
from django.utils.safestring import SafeString

from bowyery.arrays import Floats
from bowyery.units.quantity import Units
from fellwind.drawing import svg
from fellwind.drawing.chart import Chart, draw_scales

WIDTH, HEIGHT = 330.0, 220.0
LEFT, BOTTOM, TOP, RIGHT = 40.0, 34.0, 22.0, 12.0


@dataclass(frozen=True)
class CurveData:
    """Draws on the reader's ruler (m) and weights (N).

    Attributes:
        low, high: ends of its range, where there is one.
        measured: (draw, weight) as read on the bow as it is.
        earlier: (draw, weight) read before wood came off.
        full_draw: where the wanted weight is asked.
        former: an earlier curve, drawn faint.
    """

    draws: Floats
    weights: Floats
    wanted: float
    full_draw: float
    low: Floats | None = None
    high: Floats | None = None
    measured: list[tuple[float, float]] = field(default_factory=list)
    earlier: list[tuple[float, float]] = field(default_factory=list)
    former: tuple[Floats, Floats] | None = None


def curve_picture(data: CurveData, shown: Units) -> SafeString:
    """Draw weight against draw."""
    scales = draw_scales(shown)
    length, force = scales.length, scales.force
    d, f = data.draws / length, data.weights / force
    measured = [(x / length, y / force) for x, y in data.measured]
    goal = (data.full_draw / length, data.wanted / force)
    highest = float(np.max(data.weights if data.high is None else data.high)) / force
    chart = Chart(
        LEFT,
        WIDTH - RIGHT,
        TOP,
        HEIGHT - BOTTOM,
        least=float(d[0]),
        most=max([float(d[-1]), goal[0], *(x for x, _ in measured)]),
        ceiling=max([highest, goal[1], *(y for _, y in measured)]) * 1.08,
    )
    parts = chart.axes()
    if data.low is not None and data.high is not None:
        parts.append(chart.band(d, data.low / force, data.high / force))
    if data.former:
        parts.append(chart.line(data.former[0] / length, data.former[1] / force, "former-line"))
    parts += chart.across(scales.draws(chart)) + chart.upward(scales.weights(chart))
    parts += [chart.level(goal[1], "limit"), chart.line(d, f, "line")]
    parts.append(svg.dot(chart.at(*goal), 5, "goal"))
    earlier = [(x / length, y / force) for x, y in data.earlier]
    parts += [svg.dot(chart.at(x, y), 2.5, "read-earlier") for x, y in earlier if y < chart.ceiling]
    parts += [svg.dot(chart.at(x, y), 4, "read") for x, y in measured]
    named = f"weight against draw, {scales.words}"
    parts.append(svg.text((LEFT + 8, 14), named, "small muted"))
    title = (
        f"Force–draw curve to {shown.length(data.full_draw)}:"
        f" {shown.fine_weight(float(data.weights[-1]))} at the end,"
        f" wanted {shown.fine_weight(data.wanted)}; {len(measured)} measured."
    )
    return svg.picture(WIDTH, HEIGHT, parts, title, "curve-picture") + _figures(data, shown)


def _figures(data: CurveData, shown: Units) -> SafeString:
    """The curve at some draws, and what was measured."""
    ranged = data.low is not None and data.high is not None
    rows = []
    for k in np.unique(np.linspace(0, len(data.draws) - 1, 12).astype(int)):
        row = [shown.length(float(data.draws[k])), shown.fine_weight(float(data.weights[k]))]
        if data.low is not None and data.high is not None:
            low, high = float(data.low[k]), float(data.high[k])
            row.append(f"{shown.fine_weight(low)} to {shown.fine_weight(high)}")
        rows.append(row)
    for draw, weight in data.measured:
        read = [shown.length(draw), shown.fine_weight(weight)]
        rows.append([*read, "as read"] if ranged else [*read[:1], f"{read[1]}, as read"])
    heads = ("Draw", "Weight", "Between") if ranged else ("Draw", "Weight")
    return svg.figures("Force–draw curve", heads, rows)
