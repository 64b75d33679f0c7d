"""What could be built instead of a design that cannot."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.layout import METRIC_ROUNDING, Layout, Wanted
from bowyery.design.solve import solve_design
from bowyery.errors import BowyeryError
from bowyery.wood.materials import Material


@dataclass(frozen=True)
class Nearest:
    """What could be built instead of a design that cannot: None where nothing within reason could.

    Attributes:
        length: with the same weight and draw (m).
        weight: with the same length and draw (N).
        draw: with the same length and weight (m).
    """

    length: float | None
    weight: float | None
    draw: float | None


def nearest(layout: Layout, wanted: Wanted, wood: Material) -> Nearest:
    """The nearest designs that can be built, each with one figure changed; to about one part in
    fifty.

    Returns:
        One answer for each figure that may change.

    Raises:
        DescriptionError: a figure is impossible by itself.
    """
    layout, wanted = layout.checked(), wanted.checked()
    if layout.back_bow is not None:  # each trial would take a second or more
        return Nearest(None, None, None)

    def works(length: float, weight: float, draw: float) -> bool:
        tried, asked = replace(layout, length=length), replace(wanted, weight=weight, draw=draw)
        try:
            solve_design(tried, asked, wood, METRIC_ROUNDING)
        except BowyeryError:
            return False
        return True

    def first(name: str, factors: Floats) -> float | None:
        given = {"length": layout.length, "weight": wanted.weight, "draw": wanted.draw}
        for factor in factors:
            if works(**(given | {name: given[name] * float(factor)})):
                return given[name] * float(factor)
        return None

    less = np.append(np.arange(0.98, 0.6, -0.04), [0.5, 0.4, 0.3, 0.2])
    return Nearest(
        first("length", np.arange(1.02, 1.62, 0.04)),
        first("weight", less),
        first("draw", less[:-2]),
    )
