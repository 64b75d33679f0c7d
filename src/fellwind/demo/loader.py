"""The demo workshop: a bow loft above a boatyard, with made-up people. Every room loads its
share.
"""

from django.db import transaction
from django.utils import timezone

from fellwind.kit.demo import DemoShop
from fellwind.kit.rooms import installed


def load() -> None:
    """Fill an empty shop with the demo workshop, all or nothing; lower rooms first."""
    shop = DemoShop(timezone.now().replace(second=0, microsecond=0))
    with transaction.atomic():
        for room in installed():
            fill = room.call("demo")
            if fill is not None:
                fill(shop)
