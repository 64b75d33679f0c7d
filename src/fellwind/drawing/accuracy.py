"""Forecasts against what came, by what they were of: how far each missed, by its own band."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from fellwind.drawing import svg

WIDTH, LEFT, RIGHT, TOP, TALL = 620.0, 150.0, 20.0, 30.0, 40.0
REACH = 2.5  # half bands


@dataclass(frozen=True)
class Forecast:
    """A forecast that was tried: of what, of which bow, and its miss by half its band."""

    what: str
    bow: int
    miss: float

    @property
    def held(self) -> bool:
        """Whether the band held what came."""
        return abs(self.miss) <= 1


def accuracy_picture(rows: Sequence[Forecast]) -> SafeString:
    """Draw every forecast on the line of what it was of; the band is the shaded middle."""
    kinds = list(dict.fromkeys(one.what for one in rows))
    height = TOP + TALL * len(kinds) + 34

    def x(miss: float) -> float:
        share = max(-REACH, min(REACH, miss)) / REACH
        return LEFT + (share + 1) / 2 * (WIDTH - LEFT - RIGHT)

    low, high = x(-1), x(1)
    parts = [svg.rect(low, TOP - 6, high - low, TALL * len(kinds), "band")]
    parts.append(svg.line((x(0), TOP - 6), (x(0), TOP - 6 + TALL * len(kinds)), "limit"))
    for k, kind in enumerate(kinds):
        y = TOP + (k + 0.35) * TALL
        parts.append(svg.text((LEFT - 14, y + 5), kind, "small strong", "end"))
        parts.append(svg.line((LEFT, y), (WIDTH - RIGHT, y), "axis"))
        for one in rows:
            if one.what == kind:
                parts.append(svg.dot((x(one.miss), y), 6, "read" if one.held else "read-odd"))
    foot = TOP + TALL * len(kinds) + 14
    parts += [
        svg.text((x(-1.75), foot), "less than foretold", "small muted", "middle"),
        svg.text((x(0), foot), "as foretold", "small muted", "middle"),
        svg.text((x(1.75), foot), "more than foretold", "small muted", "middle"),
    ]
    good = sum(one.held for one in rows)
    title = f"{good} of {len(rows)} forecasts held what came."
    told = [(one.what, f"{one.bow}", f"{one.miss * 100:+.0f} %") for one in rows]
    figures = svg.figures("Forecasts", ("Of", "Bow", "Miss, of half its band"), told)
    return svg.picture(WIDTH, height, parts, title, "accuracy-picture") + figures
