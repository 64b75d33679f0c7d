"""A belly's edges rounded over, and bamboo nodes eased down."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.tiller.changes import Act
from bowyery.tiller.kinds.act import act_of, bevelled, limb_words
from bowyery.tiller.kinds.kind import ActKind, Help, Press

ROUNDED = 0.2  # of the depth: the edges of a belly that is rounded over


def _rounded(bow: Bow, side: int, act: Act, shown: bool, at: Floats) -> Floats:
    limb = bow.limbs[side]
    width, depth = (np.interp(at, limb.at, values) for values in (limb.width, limb.thickness))
    return bevelled(width, depth, ROUNDED * depth)


ROWS = (
    ActKind(
        name="rounded",
        build=act_of("rounded"),
        say=lambda s, tree, shown: f"the belly of {limb_words(s)} rounded",
        forms=(
            "{limbs} (?:belly|edges) rounded",
            "(?:belly|edges) rounded",
            "round {limbs} (?:belly|edges)",
        ),
        helps=(
            Help("the belly's edges rounded over", "both belly rounded", "both belly rounded",
                 "rounded"),
        ),
        stiffer=_rounded,
        doubt=(0.02, 0.02),
        again=("tiller", "weight"),
        badge="rounded",
        presses=(
            Press("rounded", "Belly rounded", "{limb} belly rounded",
                  care="Cut away from hand and string."),
        ),
    ),
    ActKind(
        name="eased",
        build=act_of("eased"),
        say=lambda s, tree, shown: f"nodes of {limb_words(s)} eased",
        forms=("nodes eased[ {limbs}]",),
        helps=(Help("bamboo nodes eased down", "nodes eased both", "nodes eased both", "nodes"),),
        doubt=(0.0, 0.02),
        presses=(
            Press("eased", "Bamboo nodes eased", "nodes eased {limb}",
                  care="Bamboo dust: mask and extraction."),
        ),
    ),
)  # fmt: skip
