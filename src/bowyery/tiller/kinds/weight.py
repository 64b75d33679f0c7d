"""Weights: at a draw, and where a slack string comes taut."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement, Tree, one
from bowyery.units.quantity import FINE_WEIGHT, INCH, POUND_FORCE, WEIGHT, Units

# What a careful maker's readings are worth, one standard deviation: a spring scale read on the
# tree, the draw marks beside it.
WEIGHT_ERROR = 0.5 * POUND_FORCE
WEIGHT_ERROR_SHARE = 0.01
DRAW_ERROR = INCH / 8
TAUT_ERROR = INCH / 4  # the draw where a hanging string comes taut, as it is seen


def _of_weight(scene: Scene, r: Reading) -> Floats:
    return scene.weight[r.draw]


def _taut(scene: Scene, r: Reading) -> Floats:
    return scene.taut


def _weight_error(r: Reading, value: float, slope: float) -> float:
    """Grows with the weight, and with how steep the draw is there."""
    own = float(np.hypot(WEIGHT_ERROR, WEIGHT_ERROR_SHARE * r.value))
    return float(np.hypot(own if r.error is None else r.error, slope * DRAW_ERROR))


def _weight(c: Context) -> tuple[Statement, ...]:
    value = FINE_WEIGHT.read(c.text("value") or "", c.world)
    c.within(value, *WEIGHED.bounds)
    sank = None if c.text("sank") is None else WEIGHT.read(c.text("sank") or "", c.world)
    if sank is not None:
        c.within(sank, "hold", "no weight that sinks in a hold")
        if sank >= value:
            raise UnreadableError(
                f"“{c.part}”: it cannot sink by as much as it still pulls; write how much"
                " less it was than at first."
            )
    return one(c, "weight", value, draw=c.draw(), more=sank)


def _say_weight(s: Statement, tree: Tree, shown: Units) -> str:
    sank = f", {FINE_WEIGHT.write(s.more, shown)} sunk in the hold" if s.more else ""
    return WEIGHED.usually(s, tree, shown) + sank


WEIGHED = ReadingKind(
    name="weight",
    build=_weight,
    say=_say_weight,
    forms=("{value} at {draw}[ sank {sank}]",),
    helps=(Help("weight at a draw", "37 at 22", "17 at 560", "weight"),),
    word="weight",
    quantity=FINE_WEIGHT,
    bounds=("draw weight", "no draw weight of a bow"),
    asked=(Asked("weight", "Weight on the scale", "", "draw weight", limbs=False),),
    predict=_of_weight,
    error=_weight_error,
    of_limb=False,
    needs=frozenset({"draw"}),
    said="{value} at {draw}",
    missed="the weight once more at the same draw",
)
TAUT = ReadingKind(
    name="taut",
    forms=("taut at {draw}", "string taut at {draw}"),
    helps=(Help("the draw where a slack string comes taut", "taut at 11", "taut at 280", "taut"),),
    word="taut",
    asked=(Asked("taut", "String comes taut at a draw of", "taut at", "draw", limbs=False),),
    predict=_taut,
    error=always(TAUT_ERROR),
    of_limb=False,
    is_draw=True,
    said="the string comes taut at {draw}",
    missed="the draw where the string comes taut",
)
ROWS = (WEIGHED, TAUT)
