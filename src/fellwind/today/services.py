"""The Today page: the shop's air, and what every room tells."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.urls import reverse

from bowyery.units.quantity import Units
from fellwind.builds.today import BuildsToday
from fellwind.kit.pages import values_of
from fellwind.kit.rooms import TodayPart, rooms
from fellwind.shop.models import Workshop
from fellwind.shop.services import shop_balance


@dataclass(frozen=True)
class Part:
    """A part of the page: its template, and what that shows."""

    template: str
    shows: dict[str, object]


@dataclass(frozen=True)
class TodayPage:
    """The shop's air, how much rests and is due, and the parts of the rooms."""

    workshop: Workshop
    day: datetime
    balance: float
    resting: int
    due: int
    parts: Sequence[Part]


def today(now: datetime, shown: Units) -> TodayPage:
    """Everything the Today page shows."""
    workshop = Workshop.get()
    told: list[TodayPart] = []
    for room in rooms():
        tell = room.call("today")
        told += tell(now, shown) if tell else []
    told.sort(key=lambda part: part.order)
    counts = [part.page for part in told if isinstance(part.page, BuildsToday)]
    return TodayPage(
        workshop,
        now,
        shop_balance(workshop),
        sum(one.resting for one in counts),
        sum(one.due for one in counts),
        [Part(part.template, values_of(part.page)) for part in told],
    )


def pages() -> list[str]:
    """Screens of this room."""
    return [reverse("today:today")]
