"""How an unstrung limb lies: off the handle's line."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.gaps import at_place
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement, Tree, one
from bowyery.units.quantity import INCH, Units

LIE_ERROR = INCH / 16


def _lie(scene: Scene, r: Reading) -> Floats:
    """How far to the belly of the handle's line the unstrung limb lies at a place; at the nock
    without one.
    """
    limbs, side = scene.limbs, r.side
    still = np.zeros((2, limbs.batch))
    rest = shapes(limbs, still, still).across
    at = float(limbs.length[side, 0]) if r.at is None else r.at
    return np.asarray(at_place(rest, limbs, side, at) - rest[side][:, 0])


def _lies(c: Context) -> tuple[Statement, ...]:
    follow = c.length("follow")
    if follow is not None:
        c.within(follow, *PROFILE.bounds)
        return tuple(s for side in SIDES for s in one(c, "profile", follow, limb=side))
    limb = c.limb()
    value = (c.length("value") or 0.0) * (-1 if c.text("way") == "back" else 1)
    c.within(value, *PROFILE.bounds)
    at = c.place("place", limb)
    return one(c, "profile", value, limb=limb, start=at, end=at)


def _say_lies(s: Statement, tree: Tree, shown: Units) -> str:
    where = "at the nock" if s.at is None else f"{shown.length(s.at)} from the centre"
    way = "to the back" if (s.value or 0.0) < 0 else "to the belly"
    written = shown.length(abs(s.value or 0.0))
    aside = "in line" if written.startswith("0 ") else f"{written} {way}"
    return f"{s.limb} limb unstrung: {aside}, {where}"


PROFILE = ReadingKind(
    name="profile",
    walk="lie",
    build=_lies,
    say=_say_lies,
    forms=(
        r"{limb}(?: limb)? lies {value} (?:to the )?(?P<way>back|belly)[ at {place}]",
        r"follow(?:s|ed) {follow}(?: after (?:shooting|full draw|a night))?",
    ),
    helps=(
        Help("unstrung: how far off the handle's line it lies, to belly or back",
             "upper lies 1/2 belly at 20", "upper lies 12 belly at 500", "lies"),
        Help("how far both unstrung tips follow the string", "followed 3/4 after shooting",
             "followed 20 after shooting", "follow"),
    ),
    word="lies",
    bounds=("unstrung limb", "no way for an unstrung limb to lie"),
    asked=(
        Asked("lies", "{limb} limb unstrung, off the handle's line", "{limb} lies",
              hints=("1/2 belly at 20, 1/8 back at 12", "12 belly at 500, 3 back at 300"),
              run=True),
    ),
    predict=_lie,
    error=always(LIE_ERROR),
    missed="how the unstrung {limb} limb lies, {where}",
    unstrung=True,
)  # fmt: skip
ROWS = (PROFILE,)
