"""How long a bow should be: three schools' answers side by side."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from bowyery.bow.layout import Layout, Wanted, school_a_length
from bowyery.design.quick import quick
from bowyery.design.verdict import Verdict
from bowyery.errors import BowyeryError, DescriptionError, DesignError, SolveError
from bowyery.mechanics.strain import SetForecast, Uses
from bowyery.wood.materials import Material


@dataclass(frozen=True)
class LengthSchool:
    """One school's answer to how long the bow should be.

    Attributes:
        layout: with that length, or the nearest that was tried.
        strain: greatest surface strain at full draw, or None when it cannot be built.
        uses: of its layers' limits, or None.
        set: expected string follow, or None.
        thickness: at the roots (m), or None.
        trouble: why it cannot be built, or nothing.
        verdict: what being bent so far does to it, or None.
        note: what the school promises and cannot keep here, or nothing.
    """

    school: str
    layout: Layout
    strain: float | None
    uses: Uses | None
    set: SetForecast | None
    thickness: float | None
    trouble: str = ""
    verdict: Verdict | None = None
    note: str = ""


LESS = "Ask for less weight, a shorter draw, wider limbs or other wood."
LASTING = 0.95  # of what lasts, so that the length found for it bears rounding to the marks too


def _school(name: str, wanted: Wanted, wood: Material, layout: Layout) -> LengthSchool:
    try:
        found = quick(layout, wanted, wood)
    except BowyeryError as error:
        return LengthSchool(name, layout, None, None, None, None, str(error))
    return LengthSchool(
        name, layout, found.strain, found.uses, found.set, found.thickness, verdict=found.verdict
    )


def length_for(
    layout: Layout,
    wanted: Wanted,
    wood: Material,
    measure: Literal["use", "set", "weight"],
    goal: float,
) -> Layout:
    """The layout with the length that brings a measure to a goal, all else as it is.

    Args:
        measure: use of what the wood bears for years, string follow expected (m), or, where the
            stock has its sizes already, the weight at full draw (N).
        goal: what it shall come to; a shorter bow than one and a half draws is not looked for.

    Raises:
        DesignError: no length up to 3.2 draws and the stiff middle brings it down so far, or stock
            that pulls less than the goal at every length.
        DescriptionError: a length is to be found for the weight of limbs whose thickness follows
            from that weight.
    """
    stiff = layout.handle + 2 * layout.fade
    if measure == "weight" and layout.unknown != "nothing":
        raise DescriptionError(
            "Thickness or width already follow from the weight; nothing is left for the length.",
            "measure",
        )

    def excess(length: float) -> float:
        try:
            found = quick(replace(layout, length=length), wanted, wood)
        except (DesignError, SolveError):  # too short to be drawn so far, or nearly
            return 2.0
        return {"use": found.uses.lasts, "set": found.set.follow, "weight": found.weight}[
            measure
        ] - goal

    low, high = 1.5 * wanted.draw + stiff, 3.2 * wanted.draw + stiff
    if excess(low) <= 0:
        if measure == "weight":
            raise DesignError(
                "Even at its shortest this stock pulls less: take stiffer stock, or ask for less"
                " weight."
            )
        return replace(layout, length=low)
    # from short to long: much longer than is wanted, a limb may grow too thick for its handle
    short = low
    for long in np.linspace(low, high, 9)[1:]:
        if excess(float(long)) <= 0:
            return replace(layout, length=float(brentq(excess, short, float(long), xtol=0.004)))
        short = float(long)
    if measure == "weight":
        raise DesignError(
            "Even at its longest this stock pulls more: take slighter stock, or ask for more"
            " weight."
        )
    raise DesignError(f"No length within reason does that. {LESS}")


def length_schools(
    layout: Layout, wanted: Wanted, wood: Material, told: float | None = None
) -> tuple[LengthSchool, LengthSchool, LengthSchool]:
    """Answer by all three schools for one archer, wood and layout.

    A: twice the draw, as it was told, and the stiff handle with its fades. B: as long as keeps this
        wood's surface strain at full draw under its working limit. C: short, at 1.7 draws with its
        stiff handle and fades made a third shorter and its limbs a quarter wider.

    Args:
        told: the draw on the ruler it was told in (m), or None for that to the pivot.

    Returns:
        Answers of A, B and C.
    """
    stiff = layout.handle + 2 * layout.fade
    a = replace(layout, length=school_a_length(told or wanted.draw, layout.handle, layout.fade))
    c = replace(
        layout,
        length=1.7 * wanted.draw + stiff * 2 / 3,
        handle=layout.handle * 2 / 3,
        fade=layout.fade * 2 / 3,
        width=layout.width * 1.25,
    )

    try:
        b = length_for(layout, wanted, wood, "use", LASTING)
    except DesignError:
        b = replace(layout, length=3.2 * wanted.draw + stiff)
    school = partial(_school, wanted=wanted, wood=wood)
    long = school("B", layout=b)
    if long.uses is not None and long.uses.lasts > 1.0:
        kept = f"{long.uses.lasts * 100:.0f} %"
        long = replace(
            long, note=f"No length keeps this wood under its limit: {kept} of it. {LESS}"
        )
    return school("A", layout=a), long, school("C", layout=c)
