"""Make the data ready for this version: carried over from the first one, or migrated."""

import sqlite3
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from fellwind.kit.carry import CarryError, carry, is_former


class Command(BaseCommand):
    """``python -m fellwind prepare``: run at every start, and before and after a backup returns."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Carry over where the data are of the first version; then the usual migrations."""
        file = Path(str(settings.DATABASES["default"]["NAME"]))
        connection.close()
        try:
            if file.exists() and is_former(file):
                carry(file)
                before = file.with_name("fellwind-before.sqlite3")
                self.stdout.write(f"The data were carried over; as they were: {before}")
        except (CarryError, sqlite3.Error) as error:
            raise CommandError(str(error)) from error
        call_command("migrate", verbosity=0)
