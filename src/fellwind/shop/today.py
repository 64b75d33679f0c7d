"""What the shop tells Today: when its data were last backed up, and what stands in the way."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from bowyery.units.quantity import Units
from fellwind.kit.rooms import TodayPart
from fellwind.shop.models import Backup

LATE = timedelta(days=2)


@dataclass(frozen=True)
class BackupToday:
    """The last backup that was made, none before the first; whether that is too long ago; what
    stands in the way of the next.
    """

    last: Backup | None
    late: bool
    trouble: str


def parts(now: datetime, shown: Units) -> list[TodayPart]:
    """The shop's part of the page."""
    rows = list(Backup.objects.all()[:1])
    newest = rows[0] if rows else None
    last = newest if newest and not newest.trouble else Backup.objects.filter(trouble="").first()
    trouble = newest.trouble if newest else ""
    late = last is not None and now - last.at > LATE
    return [TodayPart("shop/_backup.html", BackupToday(last, late, trouble), 90)]
