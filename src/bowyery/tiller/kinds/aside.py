"""How the limbs lie across: string off the middle, sideways bend, twist, the grip tipping over."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.kind import (
    Asked,
    Build,
    Help,
    Kind,
    Reading,
    ReadingKind,
    Scene,
    always,
)
from bowyery.tiller.statements import LIMBS, Context, Statement, Tree, one
from bowyery.units.quantity import ANGLE, LENGTH, Quantity, Units


def _of_tilt(scene: Scene, r: Reading) -> Floats:
    return scene.tilt[r.draw]


def _tilt(c: Context) -> tuple[Statement, ...]:
    value = ANGLE.read(c.text("value") or "", c.world)
    value *= -1 if LIMBS.get(c.text("limb") or "") == "lower" else 1
    c.within(value, *TILT.bounds)
    return one(c, "tilt", value, draw=c.draw())


def _say_tilt(s: Statement, tree: Tree, shown: Units) -> str:
    to = "lower" if (s.value or 0.0) < 0 else "upper"
    when = "" if s.draw is None else f" at {tree.draw_words(s.draw, shown)}"
    return f"the grip tips {ANGLE.write(abs(s.value or 0.0), shown)} to the {to} limb{when}"


def _aside(kind: str, bound: str, what: str, quantity: Quantity = LENGTH) -> Build:
    def build(c: Context) -> tuple[Statement, ...]:
        value = quantity.read(c.text("value") or "", c.world)
        c.within(value, bound, what)
        if value < 0:
            raise UnreadableError(f"“{c.part}”: write how much, and left or right.")
        return one(c, kind, value, limb=c.limb(), how=c.text("aside") or "")

    return build


def _say_aside(s: Statement, tree: Tree, shown: Units) -> str:
    quantity = ANGLE if s.kind == "twist" else LENGTH
    value = quantity.write(s.value or 0.0, shown)
    if s.kind == "string off":
        return f"the string lies {value} {s.how} of the grip's middle"
    what = "is twisted" if s.kind == "twist" else "bends aside"
    return f"the {s.limb} limb {what} {value} to the {s.how}"


TILT = ReadingKind(
    name="tilt",
    build=_tilt,
    say=_say_tilt,
    forms=("tilt {value} {limb}[ at {draw}]",),
    helps=(
        Help("how far the grip tips over, and to which limb", "tilt 2 upper", "tilt 2 upper",
             "tilt"),
    ),
    word="tilt",
    quantity=ANGLE,
    bounds=("grip tilted", "no way for a grip to tip"),
    asked=(
        Asked("tilt", "Grip tips over by, in degrees", "tilt", hints=("2 upper", "2 upper"),
              limbs=False),
    ),
    predict=_of_tilt,
    error=always(float(np.radians(0.5))),
    of_limb=False,
    needs=frozenset({"draw"}),
)  # fmt: skip
ROWS = (
    TILT,
    Kind(
        name="string off",
        walk="aside",
        build=_aside("string off", "string off the middle", "no way for a string to lie"),
        say=_say_aside,
        forms=("string off {value} {aside}", "string {value} {aside}"),
        helps=(
            Help("the string lies off the middle of the grip, seen from the belly, upper limb up",
                 "string off 1/4 left", "string off 6 left", "string off"),
        ),
        asked=(
            Asked("string_off", "String off the middle of the grip", "string off",
                  hints=("1/4 left", "6 left"), limbs=False),
        ),
    ),
    Kind(
        name="sideways",
        walk="aside",
        build=_aside("sideways", "limb aside", "no sideways bend"),
        say=_say_aside,
        forms=("{limb} sideways {value} {aside}",),
        helps=(
            Help("a limb bends aside, seen from the belly", "upper sideways 3/8 left",
                 "upper sideways 10 left", "sideways"),
        ),
        asked=(
            Asked("sideways", "{limb} bends aside, seen from the belly", "{limb} sideways",
                  hints=("3/8 left", "10 left")),
        ),
    ),
    Kind(
        name="twist",
        walk="aside",
        build=_aside("twist", "limb twisted", "no twist of a limb", ANGLE),
        say=_say_aside,
        forms=("{limb} twist {value} {aside}",),
        helps=(
            Help("a limb is twisted, in degrees", "upper twist 4 left", "upper twist 4 left",
                 "twist"),
        ),
        asked=(
            Asked("twist", "{limb} twisted by, in degrees", "{limb} twist",
                  hints=("4 left", "4 left")),
        ),
    ),
)  # fmt: skip
