"""The force–draw curve, with its range and what was measured on it."""

from dataclasses import dataclass, field

import numpy as np
from django.utils.safestring import SafeString

from bowyery.section import Floats
from bowyery.units import INCH, KILOGRAM_FORCE, POUND_FORCE
from fellwind.drawing import svg
from fellwind.workshop.measures import Units

WIDTH, HEIGHT = 330.0, 220.0
LEFT, BOTTOM, TOP, RIGHT = 40.0, 34.0, 22.0, 12.0


@dataclass(frozen=True)
class CurveData:
    """Draws on the reader's ruler (m) and weights (N).

    Attributes:
        draws, weights: the curve.
        low, high: ends of its range, where there is one.
        measured: (draw, weight) as read on the bow as it is.
        earlier: (draw, weight) read before wood came off.
        wanted: weight to mark.
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
    length, force = (INCH, POUND_FORCE) if shown.imperial else (0.001, KILOGRAM_FORCE)
    d, f = data.draws / length, data.weights / force
    top_force = max(float(np.max(data.high if data.high is not None else data.weights)) / force, data.wanted / force)
    top_force = max([top_force, *(w / force for _, w in data.measured)]) * 1.08
    least, most = float(d[0]), max([float(d[-1]), data.full_draw / length, *(x / length for x, _ in data.measured)])

    def at(x: float, y: float) -> svg.Point:
        return (
            LEFT + (x - least) / (most - least) * (WIDTH - LEFT - RIGHT),
            HEIGHT - BOTTOM - y / top_force * (HEIGHT - BOTTOM - TOP),
        )

    parts = [
        svg.line((LEFT, HEIGHT - BOTTOM), (WIDTH - RIGHT, HEIGHT - BOTTOM), "axis"),
        svg.line((LEFT, TOP - 6), (LEFT, HEIGHT - BOTTOM), "axis"),
    ]
    if data.low is not None and data.high is not None:
        band = [at(x, y) for x, y in zip(d, data.high / force, strict=True)]
        band += [at(x, y) for x, y in zip(d[::-1], (data.low / force)[::-1], strict=True)]
        parts.append(svg.path(band, "band", close=True))
    if data.former:
        points = [at(x / length, y / force) for x, y in zip(*data.former, strict=True)]
        parts.append(svg.path(points, "former-line"))
    step_x = 4 if shown.imperial else 100
    for x in np.arange(np.ceil(least / step_x) * step_x, most + 1e-9, step_x):
        a = at(float(x), 0)
        parts += [svg.line(a, (a[0], a[1] + 5), "axis"), svg.text((a[0], a[1] + 19), f"{x:g}", "small muted", "middle")]
    step_y = (10 if top_force < 70 else 20) if shown.imperial else (5 if top_force < 32 else 10)
    for y in np.arange(step_y, top_force, step_y):
        a = at(least, float(y))
        parts += [
            svg.line((LEFT - 4, a[1]), (LEFT, a[1]), "axis"),
            svg.text((LEFT - 8, a[1] + 4), f"{y:g}", "small muted", "end"),
        ]
    wanted = at(least, data.wanted / force)[1]
    parts.append(svg.line((LEFT, wanted), (WIDTH - RIGHT, wanted), "limit"))
    parts.append(svg.path([at(x, y) for x, y in zip(d, f, strict=True)], "line"))
    goal = at(data.full_draw / length, data.wanted / force)
    parts.append(svg.dot(goal, 5, "goal"))
    parts += [svg.dot(at(x / length, y / force), 2.5, "read-earlier") for x, y in data.earlier if y / force < top_force]
    for x, y in data.measured:
        parts.append(svg.dot(at(x / length, y / force), 4, "read"))
    units = "lb against inches" if shown.imperial else "kg against mm"
    parts.append(svg.text((LEFT + 8, 14), f"weight against draw, {units}", "small muted"))
    title = (
        f"Force–draw curve to {shown.length(data.full_draw)}: {shown.fine_weight(float(data.weights[-1]))} at the end,"
        f" wanted {shown.fine_weight(data.wanted)}; {len(data.measured)} measured."
    )
    return svg.picture(WIDTH, HEIGHT, parts, title, "curve-picture")
