"""A string settling: brace height against pulls, what was read, and where it goes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from django.utils.safestring import SafeString

from bowyery.strings.breaking import Bears, StripFit
from bowyery.strings.settle import BraceRead, Settling
from bowyery.units.quantity import INCH, Units
from fellwind.drawing import svg

WIDTH, HEIGHT = 470.0, 214.0
LEFT, RIGHT, TOP, BASE = 62.0, 16.0, 14.0, 176.0


def settling_picture(
    found: Settling, reads: Sequence[BraceRead], brace_per: float, wanted: float, shown: Units
) -> SafeString:
    """Draw brace heights as if the string's twist had always been what it is now.

    Args:
        brace_per: rise of the brace by a shorter string (m per m).
        wanted: brace height (m).
    """
    now = reads[-1].shortened
    shift = [brace_per * (now - one.shortened) for one in reads]
    points = [(one.pulls, one.brace + up) for one, up in zip(reads, shift, strict=True)]
    low = min(float(found.low.min()), wanted, *(y for _, y in points))
    high = max(float(found.high.max()), wanted, *(y for _, y in points))
    pad = 0.06 * max(high - low, 0.004)
    low, high = low - pad, high + pad
    most = float(found.pulls[-1])

    def at(pulls: float, brace: float) -> svg.Point:
        # the square root lets the first pulls, where most happens, have room
        x = LEFT + (max(pulls, 0.0) / most) ** 0.5 * (WIDTH - LEFT - RIGHT)
        return x, BASE - (brace - low) / (high - low) * (BASE - TOP)

    order = np.argsort(found.pulls, kind="stable")
    pulls = found.pulls[order]
    ahead = pulls >= found.now
    edge = [at(n, b) for n, b in zip(pulls[ahead], found.high[order][ahead], strict=True)]
    edge += [at(n, b) for n, b in zip(pulls[ahead], found.low[order][ahead], strict=True)][::-1]
    parts = [svg.path(edge, "band", close=True)] if len(edge) > 3 else []
    parts += [
        svg.line((LEFT, TOP), (LEFT, BASE), "axis"),
        svg.line((LEFT, BASE), (WIDTH - RIGHT, BASE), "axis"),
        svg.path([at(n, b) for n, b in zip(pulls, found.brace[order], strict=True)], "line"),
        svg.line(at(0, wanted), at(most, wanted), "limit"),
        svg.text(
            (WIDTH - RIGHT, at(0, wanted)[1] - 6),
            f"wanted {shown.length(wanted)}",
            "small moss",
            "end",
        ),
    ]
    step = INCH / 8 if shown.imperial else 0.002
    while (high - low) / step > 6:
        step *= 2
    for k in range(int(np.ceil(low / step)), int(high / step) + 1):
        y = at(0, k * step)[1]
        parts.append(svg.line((LEFT - 4, y), (LEFT, y), "axis"))
        parts.append(svg.text((LEFT - 7, y + 4), shown.bare_length(k * step), "small muted", "end"))
    for n in (0, 10, 25, 50, 100, 200, 400, 800, 1600, 3200):
        if n <= most:
            x = at(n, low)[0]
            parts.append(svg.line((x, BASE), (x, BASE + 5), "axis"))
            parts.append(
                svg.text((x, BASE + 19), "new" if not n else f"{n}", "small muted", "middle")
            )
    parts.append(svg.text((WIDTH - RIGHT, BASE + 34), "pulls since new", "small muted", "end"))
    for k, (pulled, b) in enumerate(points):
        parts.append(svg.dot(at(pulled, b), 4, "read-odd" if k in found.odd else "read"))
    title = (
        f"Brace height {shown.length(found.brace_now)} after {found.now:.0f} pulls; it will come to"
        f" {shown.length(found.final[0])}, between {shown.length(found.final[1])} and"
        f" {shown.length(found.final[2])}."
    )
    rows = [(f"{n:.0f}", shown.length(b)) for n, b in points]
    figures = svg.figures("Settling", ("Pulls", "Brace height"), rows)
    return svg.picture(WIDTH, HEIGHT, parts, title, "settling-picture") + figures


def breaks_picture(loads: Sequence[float], bears: Bears, shown: Units) -> SafeString:
    """Breaks of strands on a line, with their mean, their spread and the low side.

    Args:
        loads: at which they broke (N).
    """
    wide, tall, y = 470.0, 96.0, 44.0
    low = min([bears.low, *loads]) * 0.92
    high = max([bears.mean + bears.spread, *loads]) * 1.05

    def x(load: float) -> float:
        return 24 + (load - low) / (high - low) * (wide - 48)

    parts = [
        svg.rect(
            x(bears.mean - bears.spread),
            y - 14,
            x(bears.mean + bears.spread) - x(bears.mean - bears.spread),
            28,
            "band",
        ),
        svg.line((24, y), (wide - 24, y), "axis"),
        svg.line((x(bears.mean), y - 18), (x(bears.mean), y + 18), "line"),
        svg.line((x(bears.low), y - 24), (x(bears.low), y + 24), "needed-line"),
        svg.text(
            (x(bears.low), y + 40),
            f"low side {shown.fine_weight(bears.low)}",
            "small strong",
            "middle" if x(bears.low) > 90 else "start",
        ),
        svg.text(
            (x(bears.mean), y - 26), f"mean {shown.fine_weight(bears.mean)}", "small", "middle"
        ),
    ]
    for k, load in enumerate(loads):
        parts.append(svg.dot((x(load), y), 5, "read-odd" if k in bears.odd else "read"))
    title = (
        f"{len(loads)} broke at {', '.join(shown.fine_weight(load) for load in loads)}; mean"
        f" {shown.fine_weight(bears.mean)}, low side {shown.fine_weight(bears.low)}."
    )
    return svg.picture(wide, tall, parts, title, "breaks-picture")


def strips_picture(tests: Sequence[tuple[float, float]], fit: StripFit, shown: Units) -> SafeString:
    """Breaks of strips against their width, with the fit and its low side.

    Args:
        tests: width (m) and load (N) of each.
    """
    wide, tall, left, base = 470.0, 190.0, 60.0, 152.0
    most = 1.25 * max(width for width, _ in tests)
    high = 1.15 * max(max(load for _, load in tests), fit.each * most)

    def at(width: float, load: float) -> svg.Point:
        return left + width / most * (wide - left - 20), base - load / high * (base - 12)

    parts = [
        svg.line((left, 12), (left, base), "axis"),
        svg.line((left, base), (wide - 20, base), "axis"),
        svg.line(at(0, 0), at(most, fit.each * most), "line"),
        svg.line(at(0, 0), at(most, fit.load(most)), "needed-line"),
        svg.text(at(most, fit.load(most)), "low side", "small", "end"),
    ]
    step = INCH / 16 if shown.imperial else 0.002
    for k in range(1, int(most / step) + 1):
        x = at(k * step, 0)[0]
        parts.append(svg.line((x, base), (x, base + 5), "axis"))
        parts.append(svg.text((x, base + 19), shown.length(k * step), "small muted", "middle"))
    for share in (0.25, 0.5, 0.75):
        y = at(0, share * high)[1]
        parts.append(svg.text((left - 6, y + 4), shown.weight(share * high), "small muted", "end"))
    for k, (width, load) in enumerate(tests):
        parts.append(svg.dot(at(width, load), 5, "read-odd" if k in fit.bears.odd else "read"))
    rows = [(shown.thickness(width), shown.fine_weight(load)) for width, load in tests]
    title = f"{len(tests)} strips: what they bear grows with their width."
    figures = svg.figures("Strips", ("Width", "Broke at"), rows)
    return svg.picture(wide, tall, parts, title, "breaks-picture") + figures
