"""Two measures of a bow swept: what may be swept, and what comes of it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from bowyery.bow import bowfile
from bowyery.design.solution import Solution
from bowyery.design.sweep import Sweep, sweep
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.units.quantity import Units
from bowyery.wood.materials import Material, at_moisture
from fellwind.designs.models import Design
from fellwind.kit.cache import computed
from fellwind.shop.book import shelf

if TYPE_CHECKING:
    pass
from fellwind.designs.answers import loosed


@dataclass(frozen=True)
class Axis:
    """A measure to sweep: its values for the core, how one is written for a reader, and which is
    the bow's own.
    """

    name: str
    values: np.ndarray
    words: Callable[[float, Units], str]
    now: float = 1.0


SWEEP_STEPS = 20


def axes(design: Design, found: Solution) -> dict[str, Axis]:
    """What may be swept about a bow, with ranges a maker would consider."""
    layout, wood = found.layout, found.wood
    steps = SWEEP_STEPS

    def scaled(size: float) -> Callable[[float, Units], str]:
        return lambda factor, shown: shown.length(factor * size)

    tip = float(found.bow.upper.width[-1])
    woods = _woods(design, found)
    wooden = Axis(
        "wood",
        np.arange(len(woods)) * 1.0,
        lambda k, u: woods[int(k)].name,
        float(woods.index(found.wood)),
    )
    return ({"wood": wooden} if len(found.bow.upper.layers) == 1 else {}) | {
        "length": Axis(
            "length",
            np.linspace(0.88, 1.16, steps),
            lambda f, u: u.length(layout.length + (f - 1) * _limbs(found)),
        ),
        "width": Axis("width", np.linspace(0.75, 1.35, steps), scaled(layout.width)),
        "tip width": Axis("tip width", np.linspace(0.6, 1.3, steps), scaled(tip)),
        "reflex": Axis(
            "reflex", np.linspace(-0.03, 0.05, steps), lambda r, u: u.length(layout.reflex + r), 0.0
        ),
        "modulus": Axis(
            "modulus", np.linspace(0.8, 1.25, steps), lambda f, u: u.modulus(wood.modulus * f)
        ),
    }


def _woods(design: Design, found: Solution) -> list[Material]:
    """The woods of the book at the design's moisture, from soft to stiff; its own as it was
    measured.
    """
    book = shelf().woods | {found.wood.name: found.wood}
    dried = (
        one if one is found.wood else at_moisture(one, design.figures.moisture)
        for one in book.values()
    )
    return sorted(dried, key=lambda one: one.modulus)


def _limbs(found: Solution) -> float:
    return sum(limb.length for limb in found.bow.limbs)


def swept(design: Design, found: Solution, first: str, second: str) -> Sweep:
    """Sweep two measures of a solved design; raises BowyeryError."""
    arrow = found.bow.arrow or USUAL_ARROW * design.weight
    shot, _ = loosed(design, found)
    virtual = shot.virtual_mass if shot else 0.4 * arrow
    choice = axes(design, found)
    woods = _woods(design, found) if "wood" in (first, second) else []
    pair = [(name, choice[name].values) for name in (first, second)]
    return computed(
        "sweep", (bowfile.dumps(found.bow), design.draw, first, second, arrow, virtual, woods),
        lambda: sweep(found.bow, design.draw, pair[0], pair[1], arrow, virtual, woods),
    )  # fmt: skip
