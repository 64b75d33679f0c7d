"""Gaps between string and belly: at the fade, at a place, and the deepest of a limb."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Side
from bowyery.errors import UnreadableError
from bowyery.mechanics.gaps import at_place, string_height
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement, one
from bowyery.units.quantity import INCH

GAP_ERROR = INCH / 32  # a rule held against the string
_BOUNDS = ("gap", "no gap between string and belly")


def _gap(scene: Scene, r: Reading) -> Floats:
    here, limbs, place = scene.bent[r.draw], scene.limbs, r.at or 0.0
    along, across, belly = (
        at_place(v, limbs, r.side, place)
        for v in (here.along, here.across, limbs.depth - limbs.axis)
    )
    return np.asarray(string_height(here.string, along) - across - belly)


def _gaps_along(scene: Scene, r: Reading) -> Floats:
    here, limbs = scene.bent[r.draw], scene.limbs
    along = here.along[r.side]
    across = here.across[r.side] + (limbs.depth - limbs.axis)[r.side]
    return np.asarray(string_height(here.string, along) - across)


def _deepest_gap(scene: Scene, r: Reading) -> Floats:
    return np.asarray(_gaps_along(scene, r).max(-1))


def _deepest_place(scene: Scene, r: Reading) -> Floats:
    """Where the gap is greatest, by a parabola through the greatest node and its neighbours."""
    gaps, places = _gaps_along(scene, r), scene.limbs.places()[r.side]
    top = np.clip(gaps.argmax(-1), 1, gaps.shape[-1] - 2)
    rows = np.arange(gaps.shape[0])
    a, b, c = (gaps[rows, top + k] for k in (-1, 0, 1))
    before, here, after = (places[rows, top + k] for k in (-1, 0, 1))
    fall, rise = (b - a) / (here - before), (c - b) / (after - here)
    bow = (rise - fall) / (after - before)
    steep = np.abs(bow) > 1e-9
    shift = -0.5 * (fall + bow * (here - before)) / np.where(steep, bow, 1.0)
    return np.asarray(np.clip(here + np.where(steep, shift, 0.0), before, after))


def _pair(c: Context) -> tuple[Statement, ...]:
    if c.text("one") is None:
        if (c.length("value") or 0.0) < 0:
            raise UnreadableError(
                f"“{c.part}” is below zero; a gap is measured from string to belly."
            )
        return GAP.usual(c)
    sides: tuple[tuple[Side, str], ...] = (("upper", "one"), ("lower", "other"))
    both = list[Statement]()
    for side, name in sides:
        value = c.length(name) or 0.0
        c.within(value, *_BOUNDS)
        both += one(c, "gap", value, limb=side)
    return tuple(both)


def _deepest(c: Context) -> tuple[Statement, ...]:
    limb, value = c.limb(), c.length("value") or 0.0
    c.within(value, *_BOUNDS)
    rows = one(c, "deepest gap", value, limb=limb)
    at = c.place("place", limb)
    return rows if at is None else one(c, "deepest place", at, limb=limb) + rows


GAP = ReadingKind(
    name="gap",
    build=_pair,
    forms=(
        "{limb} gap {value}[ at {place}]",
        "gaps {one} (?:and|[|&]) {other}",
        "gaps {one}[|&]{other}",
    ),
    helps=(
        Help("string to belly at the fade, or at a place", "upper gap 6 1/4, lower 6 1/8",
             "upper gap 160, lower 156", "gap"),
        Help("both gaps at once, upper first", "gaps 6 1/4 and 6 1/8", "gaps 160 and 156", "gaps"),
    ),
    carried=("{limb} {value}[ at {place}]", "gap {value}[ at {place}]"),
    word="gap",
    bounds=_BOUNDS,
    asked=(Asked("gap", "Gap at {limb} fade", "{limb} gap", "gap"),),
    predict=_gap,
    error=always(GAP_ERROR),
    braced=True,
    said="string to belly on the {limb} limb, {where}, {value}",
    missed="the gap at the {limb} fade",
)  # fmt: skip
DEEPEST = ReadingKind(
    name="deepest gap",
    build=_deepest,
    forms=("{limb} deepest[ gap] {value}[ at {place}]",),
    helps=(
        Help("greatest gap of a limb, and where it is", "upper deepest 6 1/2 at 14",
             "upper deepest 165 at 350", "deepest"),
    ),
    carried=("{limb} {value} at {place}",),
    word="deepest",
    bounds=_BOUNDS,
    asked=(
        Asked("deepest", "Deepest gap, {limb}, and where", "{limb} deepest",
              hints=("6 1/2 at 14", "165 at 350")),
    ),
    predict=_deepest_gap,
    error=always(GAP_ERROR),
    braced=True,
    said="greatest gap of the {limb} limb {value}",
)  # fmt: skip
DEEPEST_PLACE = ReadingKind(
    name="deepest place",
    predict=_deepest_place,
    error=always(1.5 * INCH),
    braced=True,
    said="greatest gap of the {limb} limb {value} from the centre",
)
ROWS = (GAP, DEEPEST, DEEPEST_PLACE)
