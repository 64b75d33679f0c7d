"""Load the demo workshop into an empty shop."""

from typing import Any

from django.core.management.base import BaseCommand

from fellwind.demo import loader
from fellwind.people.models import Person


class Command(BaseCommand):
    """``python -m fellwind load_demo``: does nothing when somebody is in the shop already."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Load it where nobody is."""
        if not Person.objects.exists():
            loader.load()
            self.stdout.write("The demo workshop is loaded.")
