"""Cables of a back-bow: turns that tighten them, and the tone that tells whether two pull alike."""

from __future__ import annotations

import math

from bowyery.errors import DescriptionError
from bowyery.strings.kinds import HAND_LAID, STRING_KINDS
from bowyery.strings.thread import diameter_of
from bowyery.strings.twist import inverse, most_turns, twist_shortening
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre


def strands_of(fibre: Fibre, stiffness: float) -> int:
    """Strands of a fibre that are as stiff together.

    Args:
        stiffness: EA of the cable (N).

    Raises:
        DescriptionError: the stiffness is not above zero.
    """
    if not (math.isfinite(stiffness) and stiffness > 0):
        raise DescriptionError("This must be above zero.", "stiffness")
    return max(1, round(stiffness * 8 * fibre.stretch / fibre.breaking_force))


def turns_to_tighten(fibre: Fibre, stiffness: float, taut: float, wanted: float) -> float:
    """Turns to give a cable, above the usual half turn an inch, so that it becomes as short.

    Twist takes up length as in a laid string (strings.plan.twist_shortening).

    Args:
        stiffness: EA (N).
        taut: its length where it begins to pull, with its usual turns (m).
        wanted: length it shall have unloaded (m); longer than taut where it hangs loose.

    Returns:
        Turns, below zero to be let out.

    Raises:
        DescriptionError: a length is not above zero, or no turns make it so short or so long.
    """
    if not (0 < taut < math.inf and 0 < wanted < math.inf):
        raise DescriptionError("This must be above zero.", "length")
    thick = diameter_of(fibre, strands_of(fibre, stiffness))
    usual = HAND_LAID * taut / INCH
    plain = taut + twist_shortening(thick, usual, taut)  # with no turn in it
    if wanted > plain:
        raise DescriptionError(
            "It hangs looser than letting out every turn makes it: tie a longer cable.", "wanted"
        )

    most = most_turns(STRING_KINDS["cable"], thick, plain)
    shorter = plain - wanted
    if shorter > twist_shortening(thick, most, plain):
        raise DescriptionError(
            "No twist makes it so short without overtwisting: tie a shorter cable.", "wanted"
        )
    return inverse(thick, shorter, plain) - inverse(thick, plain - taut, plain)


def tone(tension: float, length: float, line_mass: float) -> float:
    """Of a plucked cable: the first mode of a string between its ties, ``sqrt(T/μ)/2ℓ`` (Morse,
    Vibration and Sound, 1948, chapter 3).

    Args:
        tension: (N).
        length: free between its ties (m).
        line_mass: of the cable (kg/m).

    Returns:
        Its frequency (Hz).

    Raises:
        DescriptionError: the length or mass is not above zero, or the tension below.
    """
    if not (tension >= 0 and length > 0 and line_mass > 0):
        raise DescriptionError("This must be above zero.", "cable")
    return math.sqrt(tension / line_mass) / (2 * length)
