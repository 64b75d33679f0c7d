"""A bent limb off a straight line, and as a photograph shows it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD
from bowyery.mechanics.gaps import at_place
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement
from bowyery.units.quantity import INCH


def _offset(scene: Scene, r: Reading) -> Floats:
    """Towards the back of the straight line from root to nock: as the belly sees a bent limb
    bulge.
    """
    here, side = scene.bent[r.draw], r.side
    start, end = (np.stack([v[side, :, k] for v in (here.along, here.across)]) for k in (0, -1))
    there = np.stack(
        [at_place(v, scene.limbs, side, r.at or 0.0) for v in (here.along, here.across)]
    )
    line, away = end - start, there - start
    aside = (away[0] * line[1] - away[1] * line[0]) / np.hypot(*line)
    return np.asarray(aside * OUTWARD[side])


def _traced(scene: Scene, r: Reading) -> Floats:
    """How far to the belly of its root a bent limb lies at a place, in the bow's own frame."""
    here = scene.bent[r.draw].across
    at = at_place(here, scene.limbs, r.side, r.at or 0.0)
    return np.asarray(at - here[r.side][:, 0])


def _photographed(c: Context) -> tuple[Statement, ...]:
    give = c.length("give")
    if give is not None:
        c.within(give, "photograph's error", "no error of a photograph")
    return tuple(replace(s, more=give) for s in TRACED.usual(c))


OFFSET = ReadingKind(
    name="offset",
    forms=("{limb} offset {value} at {place}",),
    helps=(
        Help("the limb off a straight line from fade to nock", "upper offset 1/2 at 14",
             "upper offset 12 at 350", "offset"),
    ),
    word="offset",
    bounds=("limb off a line", "no way for a limb to stand off a line"),
    asked=(
        Asked("offset", "{limb} off a straight line, fade to nock", "{limb} offset",
              hints=("1/2 at 14 and 3/8 at 20", "12 at 350 and 9 at 500"), run=True),
    ),
    predict=_offset,
    error=always(INCH / 32),
    needs=frozenset({"at"}),
    on_place=True,
    said="{limb} limb {value} off the straight line, {where}",
    missed="how far the {limb} limb stands off a straight line, {where}",
)  # fmt: skip
_FORM = "{limb} traced {value} at {place}[ drawn to {draw}][ give or take {give}]"
TRACED = ReadingKind(
    name="traced",
    build=_photographed,
    forms=(_FORM,),
    helps=(
        Help("a photograph's point: how far to the belly of its fade a limb lies, this far along",
             "upper traced 2 1/4 at 20 give or take 1/16",
             "upper traced 57 at 500 give or take 1.5", "traced"),
    ),
    carried=tuple(_FORM.replace(out, "") for out in ("traced ", "{limb} ", "{limb} traced ")),
    word="traced",
    bounds=("traced limb", "no way for a limb to lie"),
    predict=_traced,
    error=always(0.0015),
    needs=frozenset({"at"}),
    on_place=True,
    said="{limb} limb {value} to the belly of its fade in the photograph, {where}",
)  # fmt: skip
ROWS = (OFFSET, TRACED)
