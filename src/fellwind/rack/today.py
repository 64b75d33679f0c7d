"""What the rack tells Today: what dries, and what is dry enough."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Q

from bowyery.units.quantity import Units
from fellwind.kit.rooms import TodayPart
from fellwind.rack.models import Stave
from fellwind.rack.services import Seasoning, seasoning, staves
from fellwind.shop.models import Workshop

MOST = 20


@dataclass(frozen=True)
class RackToday:
    """Staves nobody has begun to shape: those that still dry, and those that may be worked."""

    drying: list[tuple[Stave, Seasoning]]
    ready: list[tuple[Stave, Seasoning]]


def parts(now: datetime, shown: Units) -> list[TodayPart]:
    """The rack's part of the page, where there is anything in it."""
    workshop = Workshop.get()
    waits = Q(builds=None) | Q(builds__stage="wood", builds__finished=None)
    rows = staves().filter(waits).distinct()[:MOST]
    free = [(stave, seasoning(stave, workshop)) for stave in rows]
    known = [(stave, s, s.forecast) for stave, s in free if s.forecast is not None]
    drying = [(stave, s) for stave, s, forecast in known if forecast.ready_in > 0]
    ready = [(stave, s) for stave, s, forecast in known if forecast.ready_in <= 0]
    if not drying and not ready:
        return []
    return [TodayPart("rack/_today.html", RackToday(drying, ready), 20)]
