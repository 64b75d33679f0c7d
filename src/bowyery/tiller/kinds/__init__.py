"""Everything that can be written at the bench, a row a kind: KINDS.

A new kind of reading or act is one more row in a file of this folder, named here in its order.
"""

from bowyery.tiller.kinds import (
    aside,
    bench,
    cut,
    eased,
    edge,
    eye,
    floor,
    gap,
    glued,
    heat,
    line,
    marks,
    peeled,
    profile,
    removed,
    sizes,
    string,
    tip,
    weight,
)
from bowyery.tiller.kinds.kind import ActKind, Kind, Reading, ReadingKind, Scene

__all__ = ["ACTS", "KINDS", "READINGS", "ROWS", "Reading", "Scene"]

# In the order of the help, and of the forms.
ROWS: tuple[Kind, ...] = (
    weight.WEIGHED,
    gap.GAP,
    tip.HEIGHT,
    *edge.ROWS,
    *sizes.ROWS,
    weight.TAUT,
    *line.ROWS,
    tip.OUTLINE,
    string.ROWS[0],
    *removed.ROWS,
    *eye.ROWS,
    *marks.ROWS,
    gap.DEEPEST,
    gap.DEEPEST_PLACE,
    tip.TRAVEL,
    tip.APART,
    *floor.ROWS,
    *profile.ROWS,
    *aside.ROWS,
    *string.ROWS[1:],
    bench.LENGTH_NOW,
    bench.RESTED,
    *cut.ROWS,
    *heat.ROWS,
    *eased.ROWS,
    *glued.ROWS,
    *peeled.ROWS,
    bench.PULLS,
    bench.SHOTS,
    bench.MINUTES,
    bench.NOTE,
)
KINDS: dict[str, Kind] = {name: row for row in reversed(ROWS) for name in (row.name, *row.also)}
READINGS = {row.name: row for row in ROWS if isinstance(row, ReadingKind)}
ACTS = {row.name: row for row in ROWS if isinstance(row, ActKind)}
