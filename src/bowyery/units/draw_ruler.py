"""Draw rulers: from where to where a draw length is measured.

Three are in use, and a figure taken with one is not a figure taken with another. Inside, a draw is
always that to the pivot, the deepest part of the grip.
"""

from __future__ import annotations

from dataclasses import dataclass

from bowyery.errors import DescriptionError
from bowyery.units.quantity import TRADE_ALLOWANCE


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


def draw_ruler(key: str) -> DrawRuler:
    """The draw ruler that is kept under a key; raises DescriptionError if there is none."""
    if key not in DRAW_RULERS:
        raise DescriptionError(f"Choose one of {', '.join(DRAW_RULERS)}.", "draw_ruler")
    return DRAW_RULERS[key]
