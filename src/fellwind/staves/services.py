"""What is known of a stave's moisture."""

from dataclasses import dataclass

from django.utils import timezone

from bowyery.errors import BowyeryError
from bowyery.seasoning import Drying, balance_moisture, drying
from fellwind.cache import computed
from fellwind.staves.models import Stave, Weighing
from fellwind.workshop.models import Workshop

WORKABLE = 0.10


@dataclass(frozen=True)
class Seasoning:
    """A stave's weighings that count, the balance of the shop's air, and the forecast or why there is none."""

    weighings: list[Weighing]
    balance: float
    forecast: Drying | None
    trouble: str
    ready: timezone.datetime | None = None
    early: timezone.datetime | None = None
    late: timezone.datetime | None = None


def seasoning(stave: Stave, workshop: Workshop) -> Seasoning:
    """Forecast when a stave is dry enough, from its weighings (prefetched with their corrections)."""
    balance = balance_moisture(workshop.air_celsius, workshop.air_humidity)
    weighings = [w for w in stave.weighings.all() if not hasattr(w, "corrected_by")]
    first = weighings[0].day if weighings else None
    by_day = {(w.day - first).days: w.mass for w in weighings}
    today = timezone.localdate()
    inputs = (tuple(by_day), tuple(by_day.values()), balance, (today - first).days if first else 0)
    try:
        found = computed("drying", inputs, lambda: drying(*inputs[:3], WORKABLE, float(inputs[3])))
    except BowyeryError as error:
        return Seasoning(weighings, balance, None, str(error))

    def day(wait: float) -> timezone.datetime:
        return today + timezone.timedelta(days=min(round(wait), 3650))

    return Seasoning(weighings, balance, found, "", day(found.ready_in), day(found.ready_range[0]), day(found.ready_range[1]))
