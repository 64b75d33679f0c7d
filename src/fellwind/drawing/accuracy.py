"""Forecasts of a finished weight against what the bow came to, check by check."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from fellwind.drawing import svg

WIDTH, HEIGHT = 620.0, 250.0
LEFT, RIGHT, TOP, BASE = 56.0, 16.0, 16.0, 204.0


@dataclass(frozen=True)
class Forecast:
    """A forecast after a check: of which bow, over what it came to (shares)."""

    bow: int
    check: int
    low: float
    middle: float
    high: float


def accuracy_picture(rows: Sequence[Forecast]) -> SafeString:
    """Draw each forecast with its band over the number of its check; nought is what came.

    Args:
        rows: of all bows.

    Returns:
        The picture with its figures.
    """
    most = max(one.check for one in rows)
    reach = min(0.6, max(0.05, *(abs(v) for one in rows for v in (one.low, one.high))))
    bows = sorted({one.bow for one in rows})

    def at(check: float, share: float) -> svg.Point:
        wide = WIDTH - LEFT - RIGHT
        x = LEFT + (check - 0.5) / most * wide
        y = (TOP + BASE) / 2 - max(-reach, min(reach, share)) / reach * (BASE - TOP) / 2
        return x, y

    parts = [
        svg.line((LEFT, TOP), (LEFT, BASE), "axis"),
        svg.line((LEFT, BASE), (WIDTH - RIGHT, BASE), "axis"),
        svg.line(at(0.5, 0.0), at(most + 0.5, 0.0), "limit"),
    ]
    for one in rows:
        aside = (bows.index(one.bow) - (len(bows) - 1) / 2) * min(0.14, 0.7 / len(bows))
        held = one.low <= 0 <= one.high
        css = "band-held" if held else "band-missed"
        parts.append(svg.line(at(one.check + aside, one.low), at(one.check + aside, one.high), css))
        parts.append(svg.dot(at(one.check + aside, one.middle), 4, "read" if held else "read-odd"))
    for share in (-reach, -reach / 2, 0.0, reach / 2, reach):
        y = at(1, share)[1]
        parts.append(svg.text((LEFT - 8, y + 4), f"{share * 100:+.0f} %", "small muted", "end"))
    for check in range(1, most + 1):
        if most < 16 or check % 2:
            parts.append(
                svg.text((at(check, 0)[0], BASE + 20), f"{check}", "small muted", "middle")
            )
    parts.append(svg.text((WIDTH - RIGHT, BASE + 38), "check at the tiller", "small muted", "end"))
    good = sum(one.low <= 0 <= one.high for one in rows)
    title = f"{good} of {len(rows)} forecasts of the finished weight held what came."
    told = [
        (f"{one.bow}", f"{one.check}", f"{one.middle * 100:+.1f} %",
         f"{one.low * 100:+.1f} to {one.high * 100:+.1f} %") for one in rows
    ]  # fmt: skip
    figures = svg.figures("Forecasts", ("Bow", "Check", "Over what came", "Band"), told)
    return svg.picture(WIDTH, HEIGHT, parts, title, "accuracy-picture") + figures
