"""A straight edge laid on the belly of a bent limb, and the gap under it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD
from bowyery.errors import UnreadableError
from bowyery.mechanics.gaps import at_place
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import FINE_LENGTH, IMPERIAL, INCH, METRIC

EDGE_ERROR = 0.0003  # of a rule marked in thirty-seconds and read between them, one deviation (m)
EDGE = {IMPERIAL: 6 * INCH, METRIC: 0.15}  # length of the usual straight edge (m)


def _straight_edge(scene: Scene, r: Reading) -> Floats:
    here, limbs, side = scene.bent[r.draw], scene.limbs, r.side
    half = 0.5 * (r.span or 0.0)
    belly = here.across + (limbs.depth - limbs.axis)
    points = [
        np.stack([at_place(v, limbs, side, (r.at or 0.0) + k * half) for v in (here.along, belly)])
        for k in (-1, 0, 1)
    ]
    line, away = points[2] - points[0], points[1] - points[0]
    under = (away[0] * line[1] - away[1] * line[0]) / np.hypot(*line)
    return np.asarray(under * OUTWARD[side])


def _laid(c: Context) -> tuple[Statement, ...]:
    (row,) = STRAIGHT_EDGE.usual(c)
    span = c.length("span") or EDGE[c.world]
    if not BOUNDS["straight edge"].holds(span):
        raise UnreadableError(
            f"“{c.part}”: a straight edge for this is 4 to 60 cm long (1½ to 24 in)."
        )
    at = row.start or 0.0
    return (replace(row, start=at - span / 2, end=at + span / 2),)


_FORM = "{limb} edge {value} at {place}[ over {span}]"
STRAIGHT_EDGE = ReadingKind(
    name="straight edge",
    build=_laid,
    forms=(_FORM,),
    helps=(
        Help("gap under a straight edge 6 in (150 mm) long; `over 8`: another length",
             "upper edge 3/32 at 12 and 1/16 at 18", "upper edge 2.4 at 300 and 1.6 at 460",
             "edge"),
    ),
    carried=tuple(_FORM.replace(out, "") for out in ("edge ", "{limb} ", "{limb} edge ")),
    word="edge",
    quantity=FINE_LENGTH,
    bounds=("under an edge", "no gap under such an edge"),
    asked=(
        Asked("edge", "{limb}, under a straight edge", "{limb} edge",
              hints=("3/32 at 12 and 1/16 at 18", "2.4 at 300 and 1.6 at 460"), run=True),
    ),
    predict=_straight_edge,
    error=always(EDGE_ERROR),
    needs=frozenset({"at", "span"}),
    wants="the edge's length",
    on_place=True,
    said="{limb} limb {value} under an edge of {span}, {where}",
    missed="the gap under a straight edge on the {limb} limb, {where}",
)  # fmt: skip
ROWS = (STRAIGHT_EDGE,)
