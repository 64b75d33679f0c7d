"""A limb's own sizes, as measured at a place."""

from __future__ import annotations

from bowyery.arrays import Floats
from bowyery.mechanics.gaps import at_place
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, with_wood
from bowyery.units.quantity import THICKNESS

# The wood itself varies, so a measured size says less of the stiffness than its own error would:
# in log stiffness.
WOOD_VARIES = 0.12


def _thickness(scene: Scene, r: Reading) -> Floats:
    return at_place(scene.limbs.depth, scene.limbs, r.side, r.at or 0.0)


def _width(scene: Scene, r: Reading) -> Floats:
    return at_place(scene.limbs.width, scene.limbs, r.side, r.at or 0.0)


ROWS = (
    ReadingKind(
        name="thickness",
        forms=("{limb} thick {value} at {place}",),
        helps=(
            Help("thickness, as measured at a place", "upper thick 33/64 at 12",
                 "upper thick 13.1 at 300", "thick"),
        ),
        word="thick",
        quantity=THICKNESS,
        bounds=("thickness at a mark", "no thickness of a limb"),
        asked=(
            Asked("thick", "{limb} thickness at marks", "{limb} thick",
                  hints=("33/64 at 12 and 31/64 at 18", "13.1 at 300 and 12.3 at 450"), run=True),
        ),
        predict=_thickness,
        error=with_wood(0.0002, WOOD_VARIES / 3),
        needs=frozenset({"at"}),
        size=True,
        said="{limb} limb {value} thick, {where}",
    ),
    ReadingKind(
        name="width",
        forms=("{limb} wide {value} at {place}",),
        helps=(
            Help("width, as measured at a place", "upper wide 1 1/4 at 12", "upper wide 32 at 300",
                 "wide"),
        ),
        word="wide",
        bounds=("width at a mark", "no width of a limb"),
        asked=(
            Asked("wide", "{limb} width at marks", "{limb} wide",
                  hints=("1 1/4 at 12", "32 at 300"), run=True),
        ),
        predict=_width,
        error=with_wood(0.0004, WOOD_VARIES),
        needs=frozenset({"at"}),
        size=True,
        said="{limb} limb {value} wide, {where}",
    ),
)  # fmt: skip
