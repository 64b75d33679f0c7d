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


ABOUT = 0.05  # of a weight that is said to be about so much: one deviation


def _unsure(c: Context, value: float) -> tuple[float, float] | None:
    """A weight that is not sure, with one deviation (N); None where it was read plainly."""
    if c.text("other") is not None:
        other = FINE_WEIGHT.read(c.text("other") or "", c.world)
        c.within(other, *WEIGHED.bounds)
        if not 0.5 < other / value < 2:
            raise UnreadableError(f"“{c.part}”: these are too far apart to be one weight.")
        return 0.5 * (value + other), 0.5 * abs(other - value) + WEIGHT_ERROR
    if c.text("about") or c.text("ish"):
        return value, ABOUT * value
    return None


def _weight(c: Context) -> tuple[Statement, ...]:
    value = FINE_WEIGHT.read(c.text("value") or "", c.world)
    c.within(value, *WEIGHED.bounds)
    unsure = _unsure(c, value)
    if unsure is not None:
        return one(c, "weight", unsure[0], draw=c.draw(), more=unsure[1], how="about")
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
    value = FINE_WEIGHT.write(s.value or 0.0, shown)
    if s.draw is None:
        return f"{value}, at the draw that the tips tell"
    if s.how == "about":
        give = FINE_WEIGHT.write(s.more or 0.0, shown)
        return f"about {value}, give or take {give}, at {tree.draw_words(s.draw, shown)}"
    sank = f", {FINE_WEIGHT.write(s.more, shown)} sunk in the hold" if s.more else ""
    return WEIGHED.usually(s, tree, shown) + sank


WEIGHED = ReadingKind(
    name="weight",
    build=_weight,
    say=_say_weight,
    forms=(
        "{value} or {other} at {draw}",
        r"(?:(?P<about>about|around|roughly|some) )?{value}(?P<ish>ish)? at {draw}[ sank {sank}]",
        r"(?:(?P<about>about|around|roughly|some) )?{weight}(?: on the scale)?",
    ),
    helps=(
        Help("weight at a draw", "37 at 22", "17 at 560", "weight"),
        Help("a weight that is not sure", "about 55 at 19, 50 or 60 at 19", "about 25 at 480",
             "about"),
        Help("a weight at the draw of this pull", "37 at 22, weight 36 lb",
             "17 at 560, weight 16.5 kg", "weighs"),
    ),
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
)  # fmt: skip
TAUT = ReadingKind(
    name="taut",
    forms=("taut at {draw}", "string taut at {draw}"),
    helps=(Help("the draw where a slack string comes taut", "taut at 11", "taut at 280", "taut"),),
    word="taut",
    asked=(Asked("taut", "The string is taut from", "taut at", "draw", limbs=False),),
    predict=_taut,
    error=always(TAUT_ERROR),
    of_limb=False,
    is_draw=True,
    said="the string comes taut at {draw}",
    missed="the draw where the string comes taut",
)
ROWS = (WEIGHED, TAUT)
