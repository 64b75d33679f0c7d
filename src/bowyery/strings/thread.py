"""Strands of thread: how many make a string, how thick and heavy they are, and what serves them."""

from __future__ import annotations

import math

from bowyery.bow.bow import StringLine
from bowyery.errors import DescriptionError
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre

# Twist, knots and loops leave about this share of a strand's straight breaking force.
LAID_SHARE = 0.85
# Served: where arrow and fingers are, and both loops of a continuous string; a thread of so much
# mass a length, wound side by side.
CENTRE_SERVING = 6.5 * INCH
LOOP_SERVING = 5 * INCH
SERVING_THREAD = 140e-6
# Wax, as a share of the strands' mass: natural thread is soaked with it, smooth filaments hold
# little.
NATURAL_WAX, SMOOTH_WAX = 0.15, 0.05
# No string is thinner: fingers and nocks want something to hold (m).
LEAST_DIAMETER = 0.0021
PACKING = 0.75  # share of a round string's section that is fibre
FIBRE_DENSITY = 1300.0
USUAL_TIMES = 5.0  # the usual string bears the greatest weight so many times


def least_strands(fibre: Fibre) -> int:
    """Strands that make the thinnest string that is made, an even number."""
    area = PACKING * math.pi * LEAST_DIAMETER**2 / 4
    return 2 * math.ceil(area * FIBRE_DENSITY / fibre.line_mass / 2 - 1e-9)


def diameter_of(fibre: Fibre, strands: float) -> float:
    """Of a round string of so many strands (m)."""
    return math.sqrt(4 * strands * fibre.line_mass / FIBRE_DENSITY / (math.pi * PACKING))


def round_thread(line_mass: float) -> float:
    """Diameter of a hard thread of a mass a length (m).

    Args:
        line_mass: (kg/m).
    """
    return math.sqrt(4 * line_mass / FIBRE_DENSITY / math.pi)


def thread_for_serving(diameter: float, thread: float, length: float) -> float:
    """Serving thread of a diameter needed to cover a length of string (m): ``π(δ +
    δ_t)·length/δ_t``.
    """
    return math.pi * (diameter + thread) * length / thread


def wax_share(fibre: Fibre) -> float:
    """Wax as a share of the strands' mass.

    Returns:
        The share.
    """
    return NATURAL_WAX if fibre.natural else SMOOTH_WAX


def usual_string(fibre: Fibre, weight: float, length: float) -> StringLine:
    """The string usually made for a weight (N) and length (m): strands by the middle of school two,
    but no thinner than fingers and nocks want it, served and waxed.

    Its stretch follows from the stretch that the fibre's table gives at an eighth of its breaking
    force.

    Raises:
        DescriptionError: the weight or length is not above zero.
    """
    for what, value in (("weight", weight), ("length", length)):
        if not (math.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", what)
    asked = USUAL_TIMES * weight / (LAID_SHARE * fibre.breaking_force)
    strands = max(math.ceil(asked), least_strands(fibre))
    served = CENTRE_SERVING + 2 * LOOP_SERVING
    thread = round_thread(SERVING_THREAD)
    serving = thread_for_serving(diameter_of(fibre, strands), thread, served) * SERVING_THREAD
    mass = strands * length * fibre.line_mass * (1 + wax_share(fibre)) + serving
    return StringLine(mass, stretch_stiffness(fibre, strands))


def stretch_stiffness(fibre: Fibre, strands: float) -> float:
    """EA of a string (N): the table's stretch at an eighth of the breaking force.

    Args:
        strands: number of strands side by side.

    Returns:
        EA (N).
    """
    return strands * fibre.breaking_force / 8 / fibre.stretch
