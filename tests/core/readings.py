"""A bow on the bench and what is read on it, for the core's tests of the tiller."""

from dataclasses import replace
from functools import cache

import numpy as np

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import INCH_ROUNDING, Layout, Wanted
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.design.solution import Solution
from bowyery.design.solve import solve_design
from bowyery.tiller.advice import Plan
from bowyery.tiller.estimate import PLACES, few_cells, predict
from bowyery.tiller.kinds import Reading
from bowyery.tiller.readings import errors_of
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

FULL = 27 * INCH
PLAN = Plan(42 * POUND_FORCE, FULL, most_use=1.4)


@cache
def bench_bow() -> tuple[Solution, LimbGrid]:
    wood = at_moisture(material("wych elm"), 0.09)
    found = solve_design(Layout(67 * INCH), Wanted(42 * POUND_FORCE, FULL), wood, INCH_ROUNDING)
    return found, grid(found.bow)


def asked(draws: tuple[float, ...], gaps: bool = True, tips: bool = False) -> tuple[Reading, ...]:
    """What a maker reads, values still to come; draws in inches."""
    rows = [Reading("weight", 0.0, draw=d * INCH) for d in draws]
    if gaps:
        rows += [Reading("gap", 0.0, "upper"), Reading("gap", 0.0, "lower")]
    if tips:
        rows += [Reading("tip height", 0.0, side, draws[-1] * INCH) for side in ("upper", "lower")]
    return tuple(rows)


def edges(draw: float, span: float = 6.0) -> tuple[Reading, ...]:
    """A straight edge slid along both limbs at a draw (in), by a careful hand."""
    length = float(bench_bow()[1].length[0, 0])
    places = np.linspace(0.12, 0.88, 7) * length
    return tuple(
        Reading("straight edge", 0.0, side, draw * INCH, float(at), span * INCH, error=0.00025)
        for side in SIDES
        for at in places
    )


def reads(
    upper: float, lower: float, kinds: tuple[Reading, ...], rng: np.random.Generator | None = None
) -> tuple[Reading, ...]:
    """Readings of limbs so many times as stiff as the design, with a maker's errors when a
    generator is given.
    """
    found, limbs = bench_bow()
    field = np.log(np.array([[[upper], [lower]]])) + np.zeros((1, 2, PLACES))
    return read_off(limbs, found.bow, kinds, field, rng)


def read_off(
    limbs: LimbGrid,
    bow: Bow,
    kinds: tuple[Reading, ...],
    field: np.ndarray,
    rng: np.random.Generator | None = None,
) -> tuple[Reading, ...]:
    """Readings of limbs with this log stiffness at the places, ``(1, 2, PLACES)``."""
    made = predict(few_cells(limbs), bow, kinds, field, True)
    true = tuple(replace(k, value=float(v)) for k, v in zip(kinds, made.values[0], strict=True))
    if rng is None:
        return true
    errors = errors_of(true, made.values[0], made.slopes)
    return tuple(
        replace(k, value=k.value + float(e * rng.standard_normal()))
        for k, e in zip(true, errors, strict=True)
    )
