"""Twist: what it takes up, what a turn does, and when a string is over-twisted."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bowyery.errors import DescriptionError
from bowyery.strings.kinds import StringKind
from bowyery.units.quantity import INCH

# Natural yarn takes up about half of what the helix of its outer fibres says: the inner ones give
# way and the bundle packs tighter (Hearle, Grosberg and Backer 1969, chapter 2).
TWIST_SHARE = 0.5


def twist_shortening(diameter: float, turns: float, length: float) -> float:
    """By how much a laid string of a diameter shortens with its turns (m).

    The outer fibres lie on a helix of circumference π·diameter, which takes up
    ``ℓ (1 − sqrt(1 − (π δ N / ℓ)²))`` of a length ℓ; a yarn takes up about half of that (Hearle,
    Grosberg and Backer, Structural Mechanics of Fibers, Yarns, and Fabrics, 1969, chapter 2).

    Raises:
        DescriptionError: more turns than the length can hold.
    """
    steep = math.pi * diameter * turns / length
    if not 0 <= steep < 1:
        raise DescriptionError("So many turns do not fit on this length.", "turns")
    return TWIST_SHARE * length * (1 - math.sqrt(1 - steep**2))


def inverse(diameter: float, shorter: float, length: float) -> float:
    """Turns that shorten a string by so much (m): the other way round.

    Args:
        diameter: of the string (m).
        shorter: by so much (m).
        length: untwisted (m).

    Raises:
        DescriptionError: no number of turns does.
    """
    rest = 1 - shorter / (TWIST_SHARE * length)
    if not 0 <= rest <= 1:
        raise DescriptionError("No number of turns does that.", "turns")
    return math.sqrt(1 - rest**2) * length / (math.pi * diameter)


@dataclass(frozen=True)
class Twist:
    """The twist of a string.

    Attributes:
        takes_up: how much shorter the turns make it (m).
        each: how much shorter one turn more makes it (m).
        strength: share that the slant of its fibres leaves.
    """

    turns: int
    most: int
    takes_up: float
    each: float
    strength: float

    @property
    def left(self) -> int:
        """Turns until it is over-twisted; below zero it is."""
        return self.most - self.turns


def most_turns(kind: StringKind, diameter: float, length: float) -> int:
    """Turns from which a string is over-twisted.

    Args:
        diameter: of it (m).
        length: of it (m).
    """
    return int(kind.steepest * length / (math.pi * diameter))


def twist_of(kind: StringKind, diameter: float, length: float, turns: int | None = None) -> Twist:
    """The twist of a string of a length before it is twisted.

    Args:
        diameter: of it (m).
        length: untwisted (m).
        turns: the maker's own, or None for the usual ones.

    Raises:
        DescriptionError: turns below zero, or more than the thread bears.
    """
    most = most_turns(kind, diameter, length)
    given = min(round(kind.lay * length / INCH), most) if turns is None else turns
    if given < 0:
        raise DescriptionError("Turns count from nothing.", "turns")
    if given > 2 * most:
        raise DescriptionError(
            f"A string so thick is over-twisted from {most} turns; {given} would break its fibres.",
            "turns",
        )
    takes = twist_shortening(diameter, given, length)
    steep = math.atan(math.pi * diameter * given / length)
    one = twist_shortening(diameter, given + 1, length) - takes
    return Twist(given, most, takes, one, math.cos(steep) ** 2)


def turns_for(kind: StringKind, diameter: float, length: float, now: int, shorter: float) -> float:
    """Turns to give a string so that it becomes shorter.

    Args:
        diameter: of it (m).
        length: untwisted (m).
        shorter: by so much (m); below zero to lengthen it.

    Returns:
        Turns, below zero to be let out.

    Raises:
        DescriptionError: no twist does it: its loops must be moved.
    """
    wanted = twist_shortening(diameter, now, length) + shorter
    most = most_turns(kind, diameter, length)
    if not 0 <= wanted <= twist_shortening(diameter, most, length):
        raise DescriptionError("No twist does that: move a loop, or make the string anew.", "turns")
    return inverse(diameter, wanted, length) - now
