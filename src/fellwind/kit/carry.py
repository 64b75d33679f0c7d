"""Data of the first version, whose rooms stood otherwise, carried over into the present tables.

The old file is read only; the new one is made beside it, checked, and put in its place in one step.
What was there before stays as ``fellwind-before.sqlite3``.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core.management import call_command
from django.db import connections, models

from fellwind.kit.rooms import given

# Where tables stood, and columns that were called otherwise.
FORMERLY = {
    "people_person": "workshop_person",
    "people_invitation": "workshop_invitation",
    "kit_sentform": "workshop_sentform",
    "shop_workshop": "workshop_workshop",
    "shop_archer": "workshop_archer",
    "shop_gear": "workshop_gear",
    "rack_stave": "staves_stave",
    "rack_weighing": "staves_weighing",
    "rack_flaw": "staves_flaw",
    "rack_section": "staves_section",
    "rack_striptest": "staves_striptest",
    "rack_photo": "staves_photo",
}
COLUMNS = {("builds_build", "draw_ruler"): "ruler"} | {
    ("designs_design", f"back_bow_{part}"): f"second_{part}"
    for part in ("length", "width", "tip", "root", "nock", "tied")
}
_ALIAS = "carried"


class CarryError(Exception):
    """The old data could not be carried over; nothing was changed."""


def tables_of(file: Path) -> set[str]:
    """Names of a database's tables; raises sqlite3.Error where it is none."""
    with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as data:
        return {row[0] for row in data.execute("SELECT name FROM sqlite_master")}


def is_former(file: Path) -> bool:
    """Whether a database is one of the first version."""
    names = tables_of(file)
    return "workshop_workshop" in names and "shop_workshop" not in names


def carry(file: Path) -> None:
    """Put a database of the first version into the present form, in its place.

    Args:
        file: the database; nobody may have it open.

    Raises:
        CarryError: it is in use or unsound; it stands as it was.
    """
    fresh = file.with_suffix(".part")
    try:
        with closing(sqlite3.connect(file, timeout=5, isolation_level=None)) as old:
            old.execute("PRAGMA journal_mode=DELETE")  # what waits beside the file goes into it
            old.execute("BEGIN EXCLUSIVE")
            if old.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                raise CarryError(f"{file} is damaged; restore a backup.")
            _made(old, fresh)
            old.execute("COMMIT")
            with closing(sqlite3.connect(file.with_name("fellwind-before.sqlite3"))) as before:
                old.backup(before)
    except sqlite3.OperationalError as error:
        raise CarryError(
            f"{file} cannot be carried over: {error}. Stop the server first."
        ) from error
    fresh.replace(file)


@contextmanager
def database(file: Path, alias: str) -> Iterator[None]:
    """Let Django see another database, under an alias of its own, as one file with nothing
    beside it.
    """
    options = connections.databases["default"]["OPTIONS"]
    quiet = {"init_command": "PRAGMA synchronous=OFF; PRAGMA foreign_keys=ON;"}
    other = {"NAME": file, "OPTIONS": options | quiet}
    connections.databases[alias] = connections.databases["default"] | other
    try:
        yield
    finally:
        connections[alias].close()
        del connections[alias]
        del connections.databases[alias]


@contextmanager
def _present(file: Path) -> Iterator[None]:
    """An empty database in the present form."""
    file.unlink(missing_ok=True)  # of a start that was cut off
    with database(file, _ALIAS):
        call_command("migrate", database=_ALIAS, verbosity=0)
        yield


def _made(old: sqlite3.Connection, fresh: Path) -> None:
    with _present(fresh):
        with closing(sqlite3.connect(fresh, isolation_level=None)) as new:
            new.execute("BEGIN")
            for model in apps.get_models(include_auto_created=False):
                _copied(old, new, model)
            new.execute("COMMIT")
        for mend in given("carry"):
            mend(old, _ALIAS)
    with closing(sqlite3.connect(fresh)) as new:
        lost = new.execute("PRAGMA foreign_key_check").fetchall()
        if lost:
            raise CarryError(f"{len(lost)} rows point to what is not there; nothing was changed.")
        new.execute("PRAGMA journal_mode=DELETE")  # one file, nothing beside it


def _copied(old: sqlite3.Connection, new: sqlite3.Connection, model: type[models.Model]) -> None:
    """One model's rows; what the old table had no column for gets the field's default."""
    table = model._meta.db_table
    source = FORMERLY.get(table, table)
    had = {row[1] for row in old.execute(f"PRAGMA table_info({source})")}
    if not had or model._meta.app_label in ("auth", "contenttypes"):
        return
    fields = model._meta.concrete_fields
    columns = [field.column or field.attname for field in fields]
    former = [COLUMNS.get((table, column), column) for column in columns]
    known = [f'"{column}"' for column in former if column in had]
    rows = old.execute(f"SELECT {', '.join(known)} FROM {source}")  # noqa: S608
    marks = ", ".join("?" for _ in fields)
    names = ", ".join(f'"{column}"' for column in columns)
    new.executemany(
        f"INSERT INTO {table} ({names}) VALUES ({marks})",  # noqa: S608
        (_row(fields, former, had, row) for row in rows),
    )


def _row(
    fields: Iterable[models.Field[Any, Any]],
    former: list[str],
    had: set[str],
    row: tuple[object, ...],
) -> list[object]:
    values, found = [], iter(row)
    for field, column in zip(fields, former, strict=True):
        value = next(found) if column in had else None
        if value is None and not field.null:
            value = field.get_db_prep_save(field.get_default(), connections[_ALIAS])
        values.append(value)
    return values
