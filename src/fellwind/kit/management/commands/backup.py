"""Write a checked copy of the shop's data, with its photographs, while the shop is open; or put one
back while it is shut.
"""

import sqlite3
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections
from django.utils import timezone

from fellwind.kit import backups
from fellwind.kit.lock import InUseError, held


class Command(BaseCommand):
    """``./fellwind backup FILE`` and ``./fellwind restore FILE``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--restore", action="store_true", help="put FILE in the place of the present data"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        """One or the other."""
        path: Path = options["file"].absolute()
        act = self.restore if options["restore"] else self.write
        try:
            act(path)
        except (backups.BackupError, InUseError) as error:
            raise CommandError(str(error)) from None
        except OSError as error:
            raise CommandError(f"{error.filename or path}: {error.strerror or error}.") from None
        except sqlite3.Error as error:  # as of a disk that is full
            raise CommandError(f"{path}: {error}. Nothing was changed.") from None

    def write(self, path: Path) -> None:
        """A backup."""
        kept = backups.write(settings.HOME, path)
        self.missing(kept.missing)
        size = f"{max(kept.size / 1e6, 0.1):.1f} MB"
        self.stdout.write(f"Kept in {path}, {size}, with {kept.photographs} photographs.")

    def restore(self, path: Path) -> None:
        """The way back."""
        connections.close_all()
        with held(settings.HOME, "a restore"):
            before, missing = backups.restore(settings.HOME, path, timezone.localtime())
        self.missing(missing)
        self.stdout.write(f"The shop is as it was in {path}.")
        if before is not None:
            self.stdout.write(f"What was there before is in {before}.")

    def missing(self, count: int) -> None:
        """Say how many photographs are lost."""
        if count:
            self.stderr.write(f"{count} photographs have no file; their rows are kept.")
