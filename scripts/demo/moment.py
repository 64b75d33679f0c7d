"""The moment that the demo workshop is loaded at: everything in it happened some days before."""

from dataclasses import dataclass
from datetime import datetime, timedelta


@dataclass(frozen=True)
class DemoShop:
    """What every room's share of the demo is told: when it is now."""

    now: datetime

    def ago(self, days: float, hour: int = 10) -> datetime:
        """A moment some days back."""
        return (self.now - timedelta(days=days)).replace(hour=hour, minute=20)
