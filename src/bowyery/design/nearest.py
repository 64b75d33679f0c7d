"""What could be built instead of a design that cannot."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from bowyery.bow.layout import METRIC_ROUNDING, Layout, Wanted
from bowyery.design.solve import settle, solve_design
from bowyery.errors import BowyeryError
from bowyery.wood.materials import Material

LONGER, LESS = (1.08, 1.2, 1.4, 1.6), (0.9, 0.75, 0.55, 0.35, 0.2)
MORE, THINNER = (1.2, 1.5, 2.0, 3.0), (0.85, 0.7, 0.55, 0.4)
_HALVINGS = 2  # of the step in which the first that works was found


@dataclass(frozen=True)
class Nearest:
    """What could be built instead of a design that cannot: None where nothing within reason could.

    Attributes:
        length: with the same weight and draw (m).
        weight: with the same length and draw (N).
        draw: with the same length and weight (m).
        back_bow: thickness of its back-bow over that which was asked for, all else the same.
    """

    length: float | None = None
    weight: float | None = None
    draw: float | None = None
    back_bow: float | None = None


def nearest(layout: Layout, wanted: Wanted, wood: Material) -> Nearest:
    """The nearest designs that can be built, each with one figure changed; to some parts in a
    hundred. With a back-bow, whose trials take longer, that is sought first.

    Raises:
        DescriptionError: a figure is impossible by itself.
    """
    layout, wanted = layout.checked(), wanted.checked()

    def works(tried: Layout, asked: Wanted) -> bool:
        try:
            if tried.back_bow is None:
                settle(tried.checked(), asked.checked(), wood)
            else:  # a pair that bends well may still find no rest on the way
                solve_design(tried, asked, wood, METRIC_ROUNDING)
        except BowyeryError:
            return False
        return True

    def longer(times: float) -> bool:
        return works(replace(layout, length=times * layout.length), wanted)

    def heavier(times: float) -> bool:
        return works(layout, replace(wanted, weight=times * wanted.weight))

    def further(times: float) -> bool:
        return works(layout, replace(wanted, draw=times * wanted.draw))

    back = layout.back_bow
    if back is not None:

        def thicker(times: float) -> bool:
            deep = (times * back.depth[0], times * back.depth[1])
            return works(replace(layout, back_bow=replace(back, depth=deep)), wanted)

        thin = _first(thicker, THINNER, 1)
        if thin is not None:
            return Nearest(back_bow=thin)
        weight = _first(heavier, MORE, 1)
        return Nearest(weight=None if weight is None else weight * wanted.weight)
    found = (_first(longer, LONGER), _first(heavier, LESS), _first(further, LESS[:-2], 1))
    was = (layout.length, wanted.weight, wanted.draw)
    return Nearest(*(None if f is None else f * w for f, w in zip(found, was, strict=True)))


def _first(
    works: Callable[[float], bool], factors: tuple[float, ...], halvings: int = _HALVINGS
) -> float | None:
    """The factor nearest to one that works, sought from there outward."""
    short = 1.0
    for factor in factors:
        if works(factor):
            for _ in range(halvings):
                middle = 0.5 * (short + factor)
                if works(middle):
                    factor = middle
                else:
                    short = middle
            return factor
        short = factor
    return None
