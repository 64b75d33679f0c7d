"""A limb pressed against the floor: the weight under its tip, and how far that bends it."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.mechanics.cantilever import tip_compliance
from bowyery.tiller.kinds.kind import Help, Reading, ReadingKind, Scene, with_wood
from bowyery.tiller.statements import Context, Statement, Tree, one
from bowyery.units.quantity import FINE_WEIGHT, POUND_FORCE, Units


def _pressed(scene: Scene, r: Reading) -> Floats:
    return np.asarray((r.span or 0.0) / tip_compliance(scene.limbs)[r.side])


def _floor(c: Context) -> tuple[Statement, ...]:
    value = FINE_WEIGHT.read(c.text("value") or "", c.world)
    sag = c.length("span") or 0.0
    c.within(value, *FLOOR.bounds)
    c.within(sag, "floor sag", "no way for a tip to sag on the floor")
    return one(c, "floor", value, limb=c.limb(), more=sag)


def _say_floor(s: Statement, tree: Tree, shown: Units) -> str:
    value = FINE_WEIGHT.write(s.value or 0.0, shown)
    return f"{s.limb} limb on the floor: {value} bends its tip {shown.length(s.more or 0.0)}"


FLOOR = ReadingKind(
    name="floor",
    build=_floor,
    say=_say_floor,
    forms=(r"{limb}(?: limb)? floor {value} (?:sags|bends) {span}",),
    helps=(
        Help("pressed against the floor: the weight under the tip, and how far that bends it",
             "upper floor 12 sags 3", "upper floor 5.5 sags 75", "floor"),
    ),
    word="floor",
    quantity=FINE_WEIGHT,
    bounds=("floor push", "no weight that bends a limb on the floor"),
    predict=_pressed,
    error=with_wood(POUND_FORCE, 0.08),
    needs=frozenset({"span"}),
    wants="how far the tip sagged",
    unstrung=True,
)  # fmt: skip
ROWS = (FLOOR,)
