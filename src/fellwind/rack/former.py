"""What the first version kept otherwise on the rack."""

import sqlite3

from fellwind.rack.models import Stave, Weighing


def carry_meter(old: sqlite3.Connection, alias: str) -> None:
    """The one meter reading that a stave once held becomes a row of its series.

    Args:
        alias: of the database they are carried into.
    """
    had = {row[1] for row in old.execute("PRAGMA table_info(staves_stave)")}
    if "moisture" not in had:
        return
    rows = old.execute("SELECT id, moisture FROM staves_stave WHERE moisture > 0")
    for pk, moisture in rows.fetchall():
        stave = Stave.objects.using(alias).get(pk=pk)
        day, text = stave.acquired, f"{moisture * 100:.1f} %, its day not kept"
        mine = Weighing.objects.using(alias).filter(stave=stave, day=day, corrected_by=None)
        row = mine.first() or Weighing(stave=stave, day=day)
        row.meter, row.meter_text = moisture, text
        row.save(using=alias)
