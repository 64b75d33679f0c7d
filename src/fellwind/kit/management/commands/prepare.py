"""Make the data ready for this version."""

import sqlite3
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone

from fellwind.kit.backups import swept
from fellwind.kit.lock import InUseError, held


def behind() -> bool:
    """Whether there is anything to migrate; asking is quicker than migrating nothing."""
    steps = MigrationExecutor(connection)
    return bool(steps.migration_plan(steps.loader.graph.leaf_nodes()))


def for_the_owner_alone(home: Path) -> None:
    """Let nobody else read the shop's data, photographs and backups; earlier versions let them."""
    home.chmod(0o700)
    for name in ("photos", "backups", "cache"):
        if (home / name).is_dir():
            (home / name).chmod(0o700)
    for file in (*home.glob("*.sqlite3*"), *home.glob("photos/*"), *home.glob("backups/*")):
        if file.is_file():
            file.chmod(0o600)


class Command(BaseCommand):
    """``python -m fellwind prepare``: run at every start."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        for_the_owner_alone(settings.HOME)
        connection.close()
        try:
            with held(settings.HOME, "a start"):
                swept(settings.HOME, timezone.now() - timedelta(days=1))
                if behind():
                    call_command("migrate", verbosity=0)
        except (InUseError, sqlite3.Error) as error:
            raise CommandError(str(error)) from error
