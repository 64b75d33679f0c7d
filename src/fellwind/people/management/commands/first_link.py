"""Print a one-time link for the first account, when there is none yet."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from fellwind.people.models import Invitation, Person


class Command(BaseCommand):
    """``python -m fellwind first_link ADDRESS``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument(
            "address", help="where the application is served, such as http://127.0.0.1:8000"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if Person.objects.filter(is_active=True).exists():
            return
        Invitation.objects.filter(used=None).delete()
        link = f"{options['address'].rstrip('/')}/join/{Invitation.issue(Person.MAKER)}/"
        self.stdout.write(
            f"No account yet. Make the first one, once, within seven days, at:\n  {link}"
        )
