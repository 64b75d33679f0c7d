"""The keeper: makes each day's backup while the server runs, and writes down how it went."""

import logging
import sqlite3
import threading
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connections
from django.utils import timezone

from fellwind.kit import backups
from fellwind.shop.models import Backup, Workshop

FIRST, EVERY = 20.0, 900.0  # seconds from the start to the first look, and from look to look
LASTS = timedelta(days=400)  # how long is remembered what was made
# A full disk fails anywhere; the next look may find room.
MAY_PASS = (DatabaseError, sqlite3.Error, OSError, RuntimeError, ValueError)
log = logging.getLogger(__name__)


def folder() -> Path:
    """Where the shop wants its backups."""
    chosen = Workshop.get().backup_folder
    return Path(chosen) if chosen else Path(settings.HOME) / "backups"


def keep_daily() -> None:
    """Make today's backup where there is none, and write down what came of it."""
    now = timezone.localtime()
    try:
        kept = backups.daily(Path(settings.HOME), folder(), now.date())
    except backups.BackupError as error:
        trouble = str(error)
    except OSError as error:
        trouble = f"{error.filename or folder()}: {error.strerror or error}"
    except sqlite3.Error as error:  # as of a disk that filled while it was copied
        trouble = f"{folder()}: {error}"
    else:
        if kept is not None:
            Backup.objects.create(path=str(kept.path)[:400], size=kept.size)
            Backup.objects.filter(at__lt=now - LASTS).delete()
        return
    last = Backup.objects.first()
    if last is None or last.trouble != trouble[:300]:
        Backup.objects.create(trouble=trouble[:300])


def start() -> None:
    """Look after backups for as long as this process lives."""
    threading.Thread(target=_run, name="backups", daemon=True).start()


def _run() -> None:
    wait = threading.Event()
    pause = FIRST
    while not wait.wait(pause):
        pause = EVERY
        try:
            keep_daily()
            connections.close_all()
        except MAY_PASS:
            log.exception("today's backup could not be made, or not be written down")
