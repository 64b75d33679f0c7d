"""Draw rulers: from where to where a draw length is measured.

Three are in use, and a figure taken with one is not a figure taken with another. Inside, a draw is
always that to the pivot, the deepest part of the grip.
"""

from __future__ import annotations

from dataclasses import dataclass

from bowyery.errors import DescriptionError
from bowyery.units.quantity import INCH, TRADE_ALLOWANCE


@dataclass(frozen=True)
class DrawRuler:
    """A way to measure a draw from the nocking point.

    Attributes:
        words: where it is measured to, for a choice.
        allowance: what it has beyond the draw to the pivot (m).
        to_back: it goes on to the back, so that the handle's depth is part of it.
    """

    key: str
    words: str
    short: str
    allowance: float = 0.0
    to_back: bool = False

    def beyond(self, handle_depth: float) -> float:
        """What a figure on this ruler has beyond the draw to the pivot (m)."""
        return self.allowance + (handle_depth if self.to_back else 0.0)

    def from_pivot(self, draw: float, handle_depth: float) -> float:
        """A draw to the pivot as this ruler shows it (m); ``handle_depth`` is back to pivot (m)."""
        return draw + self.beyond(handle_depth)

    def to_pivot(self, draw: float, handle_depth: float) -> float:
        """A draw read on this ruler, to the pivot (m); ``handle_depth`` is back to pivot (m)."""
        return draw - self.beyond(handle_depth)


PIVOT = DrawRuler("pivot", "to the deepest part of the grip", "to the grip")
TRADE = DrawRuler("trade", "trade draw: that plus 1¾ in", "trade", TRADE_ALLOWANCE)
BACK = DrawRuler("back", "to the back", "to the back", to_back=True)
DRAW_RULERS: dict[str, DrawRuler] = {one.key: one for one in (PIVOT, TRADE, BACK)}
# An arrow tells a draw too: at full draw its point's foot stands half an inch before the back.
ARROW = DrawRuler("arrow", "an arrow, from its nock to its point's foot", "arrow", 0.5 * INCH, True)
TOLD_BY = DRAW_RULERS | {ARROW.key: ARROW}

# What a draw by the trade's ruler has beyond the reach from fingertip to fingertip, divided by two
# and a half, where the string hand comes to rest (m): judgement of the craft.
ANCHORS = {
    "corner of the mouth": 0.0, "under the chin": -0.5 * INCH, "cheekbone": 0.5 * INCH,
    "ear": 3.0 * INCH, "breast": -1.5 * INCH,
}  # fmt: skip
REACH_SCATTER = 0.75 * INCH  # of archers about that rule, two of three (m)


def draw_by_reach(reach: float, anchor: str) -> float:
    """The draw to the pivot that an archer of a reach takes with an anchor, within
    ``REACH_SCATTER`` (m); raises DescriptionError for an anchor that is none of ``ANCHORS``.
    """
    if anchor not in ANCHORS:
        raise DescriptionError(f"Choose one of {', '.join(ANCHORS)}.", "anchor")
    return reach / 2.5 + ANCHORS[anchor] - TRADE_ALLOWANCE


def draw_ruler(key: str) -> DrawRuler:
    """The draw ruler that is kept under a key; raises DescriptionError if there is none."""
    if key not in DRAW_RULERS:
        raise DescriptionError(f"Choose one of {', '.join(DRAW_RULERS)}.", "draw_ruler")
    return DRAW_RULERS[key]
