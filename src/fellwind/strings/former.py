"""What earlier versions kept otherwise of strings."""

import sqlite3

from fellwind.strings.models import BowString, StringEntry


def carry_measured(old: sqlite3.Connection, alias: str) -> None:
    """Length and mass that stood in a string's own row become entries, as they were typed.

    Args:
        alias: of the database they are carried into.
    """
    had = {row[1] for row in old.execute("PRAGMA table_info(strings_bowstring)")}
    for kind in ("length", "mass"):
        column = f"measured_{kind}"
        if column not in had:
            continue
        rows = old.execute(
            f"SELECT id, {column}, {column}_text FROM strings_bowstring"  # noqa: S608  # two names of ours
            f" WHERE {column} IS NOT NULL"
        )
        for pk, value, text in rows.fetchall():
            string = BowString.objects.using(alias).get(pk=pk)
            StringEntry.objects.using(alias).create(
                string=string, kind=kind, value=value, text=text or f"{value:g}", at=string.made
            )
