"""What a backing takes: strips and their sizes, fibre by courses, glue, from the bow's own area.

Workshop figures, to be replaced by a maker's own: a course of sinew dries to about 0.8 mm and is
two thirds sinew, one of flax or linen to 0.4 mm and half fibre, one of silk to 0.12 mm. Half as
much glue again is mixed as stays on the bow.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import grid
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.wood.materials import Material

Way = Literal["sheet", "fibre", "slat"]
OVERLAP = 0.025  # of two strips at the grip (m)
SHEET_WIDER, SLAT_WIDER, SLAT_LONGER = 0.010, 0.005, 0.05  # than the limb; trimmed when dry (m)
MIXED = 1.5  # glue mixed over what stays on the bow


@dataclass(frozen=True)
class Kind:
    """How a kind of backing is laid.

    Attributes:
        way: as a sheet, as fibre in courses, or as a slat.
        course: dried thickness of one course (m); 0 where there is but one.
        fibre: share of its mass that is fibre, the rest being glue.
        bundle: mass of a bundle as it is laid (kg).
        glue: that stays on a joint (kg/m²), of sheets and slats.
        soaks, dries: what it rests for, names of the table of rests; nothing: it does not.
    """

    way: Way
    course: float = 0.0
    fibre: float = 0.0
    bundle: float = 0.0
    glue: float = 0.0
    soaks: str = ""
    dries: str = ""


KINDS: dict[str, Kind] = {
    "rawhide": Kind("sheet", glue=0.20, soaks="rawhide soaks", dries="rawhide dries on the back"),
    "sinew": Kind("fibre", 0.0008, 0.65, 0.0015, soaks="sinew soaks",
                  dries="last course of sinew dries"),
    "linen": Kind("fibre", 0.0004, 0.5, 0.002, dries="linen or flax dries on the back"),
    "flax fibre": Kind("fibre", 0.0004, 0.5, 0.002, dries="linen or flax dries on the back"),
    "unidirectional glass": Kind("slat", glue=0.25, dries="epoxy cures in the oven"),
    "silk": Kind("sheet", 0.00012, glue=0.12, dries="silk dries on the back"),
}  # fmt: skip
SLAT = Kind("slat", glue=0.25, dries="bamboo or slat cures in the form")


# How far the tips of a usual bow are pulled to the back by what shrinks as it dries (m).
PULLS_IN = {"sinew": 0.02, "flax fibre": 0.005, "linen": 0.005}


def added(bow: Bow, draw: float) -> float:
    """What the outermost layer of the back adds to a bow's weight.

    Args:
        draw: full draw (m).

    Returns:
        The weight with it, less that without (N); 0 where the bow cannot be drawn without it, or
        has no other layer.
    """

    def bare(limb: Limb) -> Limb:
        gone = limb.layers[0].thickness
        if gone is None:
            return limb
        return replace(limb, layers=limb.layers[1:], thickness=limb.thickness - gone)

    if len(bow.upper.layers) < 2 or bow.upper.layers[0].thickness is None:
        return 0.0
    plain = replace(bow, upper=bare(bow.upper), lower=bare(bow.lower), back_bow=None)
    draws = np.array([draw])
    try:
        whole = force_curve.solve(replace(bow, back_bow=None), draws).drawn.weight[-1]
        return float(whole - force_curve.solve(plain, draws).drawn.weight[-1])
    except BowyeryError:
        return 0.0


@dataclass(frozen=True)
class Amounts:
    """What is to be prepared for a backing.

    Attributes:
        area: of the back, nock to nock (m²).
        courses: how many, one over the other.
        length, width: of a strip, with what is trimmed (m).
        fibre: dry mass of all of it (kg); 0 for sheets and slats.
        bundles: of each course, both limbs together.
        glue: to mix (kg).
    """

    kind: Kind
    area: float
    courses: int
    strips: int
    length: float
    width: float
    fibre: float
    bundles: int
    glue: float


def kind_of(name: str) -> Kind:
    """How a material is laid on a back.

    Returns:
        Its kind; anything that is not hide, fibre or glass is a slat.
    """
    return KINDS.get(name, SLAT)


def amounts(bow: Bow, backing: Material, root: float, nock: float, grip_width: float) -> Amounts:
    """What a backing of a bow takes.

    Args:
        root, nock: dried thickness where bending starts and at the nocks (m).
        grip_width: between the limbs (m).

    Raises:
        DescriptionError: no thickness.
    """
    if not (math.isfinite(root + nock) and root >= 0 and nock >= 0 and root + nock > 0):
        raise DescriptionError("A backing is thicker than nothing.", "back")
    kind, limbs = kind_of(backing.name), grid(bow)
    middle = sum(limb.root[0] for limb in bow.limbs)
    area, volume, widest = middle * grip_width, middle * grip_width * root, grip_width
    for side in (0, 1):
        at, width = limbs.places()[side, 0], limbs.width[side, 0]
        thick = np.interp(at, [0.0, at[-1]], [root, nock])
        area += float(np.trapezoid(width, at))
        volume += float(np.trapezoid(width * thick, at))
        widest = max(widest, float(width.max()))
    whole = middle + sum(limb.length for limb in bow.limbs)
    courses = max(1, math.ceil(max(root, nock) / kind.course - 0.05)) if kind.course else 1
    if kind.way == "slat":
        return Amounts(kind, area, 1, 1, whole + SLAT_LONGER, widest + SLAT_WIDER, 0.0, 0,
                       MIXED * kind.glue * area)  # fmt: skip
    if kind.way == "sheet":
        return Amounts(kind, area, courses, 2, 0.5 * whole + OVERLAP, widest + SHEET_WIDER, 0.0, 0,
                       MIXED * kind.glue * area * courses)  # fmt: skip
    mass = volume * backing.density
    fibre = kind.fibre * mass
    bundles = max(2, 2 * math.ceil(fibre / courses / kind.bundle / 2))
    return Amounts(kind, area, courses, 0, 0.0, 0.0, fibre, bundles, MIXED * (mass - fibre))
