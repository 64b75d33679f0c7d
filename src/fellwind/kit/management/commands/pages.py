"""Print the addresses of every room's screens, for whoever visits them all."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from fellwind.kit.rooms import rooms


class Command(BaseCommand):
    """``python -m fellwind pages``: one JSON list."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Ask every room."""
        asked = (room.call("pages") for room in rooms())
        self.stdout.write(json.dumps([page for ask in asked if ask for page in ask()]))
