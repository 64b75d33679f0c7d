"""The usual layouts, each as proportions for a draw length."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from bowyery.bow.layout import BackBowLayout, Layout, StackLayer, school_a_length
from bowyery.bow.natural import BentTip
from bowyery.bow.section import FLAT_OVAL, Shape
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import material


def _layout(**given: float | Shape) -> Callable[[float], Layout]:
    def make(draw: float) -> Layout:
        plain = Layout(1.0, **given)  # type: ignore[arg-type]
        return replace(plain, length=school_a_length(draw, plain.handle, plain.fade))

    return make


def _share(
    draw: float,
    times: float,
    **given: float | str | Shape | BackBowLayout | BentTip | tuple[object, ...],
) -> Layout:
    return Layout(round(2 * times * draw / INCH) / 2 * INCH, **given)  # type: ignore[arg-type]


def _stack(name: str, root: float, nock: float, role: str = "backing") -> tuple[StackLayer, ...]:
    return (StackLayer(role, material(name), root, nock),)


# Proportions of the usual layouts by draw length (m); sizes that do not scale with it are starting
# figures.
LAYOUTS: dict[str, Callable[[float], Layout]] = {
    "parallel then taper": _layout(),
    "pyramid": _layout(parallel=0.0, width=2.25 * INCH, tip_width=0.45 * INCH),
    "deep and narrow": lambda draw: _share(
        draw,
        2.6,
        handle=4 * INCH,
        fade=1 * INCH,
        width=1.25 * INCH,
        tip_width=0.5 * INCH,
        parallel=0.3,
        handle_depth=1.375 * INCH,
        shape=Shape("flat back, round belly", {"round": 0.75}),
    ),
    "bends through the handle": lambda draw: _share(
        draw, 2.35, handle=0.0, fade=0.0, width=1.5 * INCH, parallel=0.35, handle_depth=1.0 * INCH
    ),
    "widest at mid-limb": lambda draw: _share(
        draw,
        2.0,
        handle=3.5 * INCH,
        fade=1.5 * INCH,
        width=2.0 * INCH,
        root_width=0.75,
        parallel=0.5,
        tip_width=0.5 * INCH,
    ),
    "backed, reflex and deflex": lambda draw: _share(
        draw,
        2.6,
        handle=4 * INCH,
        fade=2.5 * INCH,
        width=1.5 * INCH,
        parallel=0.4,
        tip_width=0.45 * INCH,
        reflex=1.0 * INCH,
        back=_stack("bamboo slat", 0.14 * INCH, 0.09 * INCH),
        unknown="core",
    ),
    "recurved tips that work": lambda draw: _share(
        draw,
        2.3,
        handle=4 * INCH,
        fade=2 * INCH,
        width=1.75 * INCH,
        parallel=0.5,
        tip_width=0.6 * INCH,
        tip=BentTip(7 * INCH, math.radians(25)),
    ),
    "stiff recurved tips": lambda draw: _share(
        draw,
        2.25,
        handle=4 * INCH,
        fade=2 * INCH,
        width=2.0 * INCH,
        parallel=0.55,
        tip_width=0.6 * INCH,
        least_tip=0.45 * INCH,
        tip=BentTip(5.5 * INCH, math.radians(40), static=True),
    ),
    "bamboo with a back-bow": lambda draw: _share(
        draw,
        2.7,
        handle=3 * INCH,
        fade=2.5 * INCH,
        width=1.75 * INCH,
        parallel=0.4,
        tip_width=0.625 * INCH,
        handle_depth=1.25 * INCH,
        back_bow=BackBowLayout(
            1.75 * draw,
            1.25 * INCH,
            0.75 * INCH,
            (0.4 * INCH, 0.3 * INCH),
            1 * INCH,
            22 * POUND_FORCE,
        ),
    ),
    "tube or rod of one size": lambda draw: _share(
        draw,
        2.6,
        handle=4 * INCH,
        fade=0.5 * INCH,
        width=1.0625 * INCH,
        tip_width=1.0625 * INCH,
        parallel=0.95,
        handle_depth=1.25 * INCH,
        shape=Shape(FLAT_OVAL, {"wall_mm": 4.0}),
        unknown="nothing",
        depth=(1.0625 * INCH, 1.0625 * INCH),
    ),
    "glass-faced, one piece or take-down": lambda draw: _share(
        draw,
        2.35,
        handle=8 * INCH,
        fade=3 * INCH,
        width=1.5 * INCH,
        parallel=0.35,
        tip_width=0.5 * INCH,
        reflex=1.5 * INCH,
        handle_depth=2.25 * INCH,
        least_tip=0.2 * INCH,
        unknown="core",
        back=_stack("unidirectional glass", 0.04 * INCH, 0.04 * INCH, "facing"),
        belly=_stack("unidirectional glass", 0.04 * INCH, 0.04 * INCH, "facing"),
    ),
}
