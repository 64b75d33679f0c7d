"""Load the demo workshop into an empty shop."""

from typing import Any

from django.core.management.base import BaseCommand

from fellwind.workshop import demo
from fellwind.workshop.models import Person


class Command(BaseCommand):
    """``python -m fellwind load_demo``: does nothing when somebody is in the shop already."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        if not Person.objects.exists():
            demo.load()
            self.stdout.write("The demo workshop is loaded.")
