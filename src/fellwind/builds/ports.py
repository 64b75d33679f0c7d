"""What builds, and the rooms beside one another above them, ask of whoever knows."""

from dataclasses import dataclass
from datetime import datetime

from bowyery.bow.bow import Bow, StringLine
from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.kit.ports import Port


@dataclass(frozen=True)
class AtTheTree:
    """What the tiller's log tells of a place where a bow broke; None is not known.

    Attributes:
        bend: of the place against its neighbours, as a share more, and one deviation of that.
        pulls: short pulls since wood came off last.
        limit: of the next pull, as it stood (m).
        unseen: an act after which nothing was read; empty where each was looked at.
        draw: the furthest that was read (m).
    """

    bend: tuple[float, float] | None
    pulls: int | None
    limit: float | None
    unseen: str | None
    draw: float | None


# A bow with its limbs as they are estimated to stand; the same with the string that is on.
AS_TILLERED: Port[[Build], Bow | None] = Port()
ON_THE_TREE: Port[[Build], Bow | None] = Port()
# The finished weight as forecast by what was known before a moment: 90 % band and middle (N).
WEIGHT_FORECAST: Port[[Build, datetime], tuple[float, float, float] | None] = Port()
# The weight at full draw when it left the tiller, and one deviation (N).
WEIGHT_TILLERED: Port[[Build], tuple[float, float] | None] = Port()
# What was read of a place: of limb 0 upper or 1 lower, at a share of its length from its root.
AT_THE_TREE: Port[[Build, int, float], AtTheTree | None] = Port()
# Length as measured (m) and line of a build's working string.
STRING_ON: Port[[Build], tuple[float | None, StringLine] | None] = Port()
# Rows that a room adds to a bow's card; the address that the card's code leads to.
CARD_ROWS: Port[[Build, Units], list[tuple[str, str]]] = Port()
BOW_PAGE: Port[[Build], str] = Port()
# Whether any instrument may speak.
INSTRUMENTS_SPEAK: Port[[], bool] = Port()
