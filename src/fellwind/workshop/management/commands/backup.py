"""Write a checked copy of the database while the shop is open."""

import sqlite3
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection


def check(path: Path) -> None:
    """Refuse a file that is no sound database of this application."""
    try:
        with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as copy:
            sound = copy.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            copy.execute("SELECT count(*) FROM workshop_workshop").fetchone()
    except sqlite3.Error as error:
        raise CommandError(f"{path} is not a backup of a Fellwind shop: {error}.") from None
    if not sound:
        raise CommandError(f"{path} is damaged.")


class Command(BaseCommand):
    """``./fellwind backup FILE``, by SQLite's online copy; ``--restore`` puts a copy back."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--restore", action="store_true", help="put FILE in the place of the present data")

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        connection.ensure_connection()
        live: sqlite3.Connection = connection.connection
        if options["restore"]:
            check(path)
            with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as copy:
                copy.backup(live)
            self.stdout.write(f"The shop is as it was in {path}.")
            return
        if path.exists():
            raise CommandError(f"{path} exists already; give another name.")
        with sqlite3.connect(path) as copy:
            live.backup(copy)
        check(path)
        self.stdout.write(f"Kept in {path}.")
