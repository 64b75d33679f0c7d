"""Write everything the workshop owns as one open ZIP; or bring such a ZIP into an empty shop."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import OperationalError

from fellwind.kit import archive
from fellwind.kit.lock import InUseError, held


class Command(BaseCommand):
    """``./fellwind export FILE`` and ``./fellwind import FILE``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--bring", action="store_true", help="bring FILE into an empty shop")

    def handle(self, *args: Any, **options: Any) -> None:
        """One or the other."""
        path: Path = options["file"].absolute()
        try:
            if options["bring"]:
                with held(settings.HOME, "an import"):
                    taken = archive.read(path)
                said = f"Brought in from {path}"
            else:
                taken = archive.write(path)
                said = f"Written to {path}"
        except (archive.ArchiveError, InUseError) as error:
            raise CommandError(str(error)) from None
        except OperationalError:
            raise CommandError(
                "The data is of an earlier version: start the server once, then take it along."
            ) from None
        except OSError as error:
            raise CommandError(f"{error.filename or path}: {error.strerror or error}.") from None
        self.stdout.write(f"{said}: {taken.rows} rows and {taken.photographs} photographs.")
        if options["bring"]:
            self.stdout.write("People came back as names that wrote; they enter by a new link.")
