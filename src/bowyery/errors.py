"""What can go wrong in the craft's computation, each as a type of its own with a sentence for its
user.
"""

from __future__ import annotations


class BowyeryError(ValueError):
    """Something a person can put right. ``str(error)`` is a whole sentence."""


class UnreadableError(BowyeryError):
    """A measure was written in a way that cannot be read."""


class DescriptionError(BowyeryError):
    """A bow, limb, section or material is described impossibly.

    Args:
        message: what is wrong and what to do, a sentence.
        place: where it is wrong, as a path of keys such as ``limbs.upper.stations[2].width_mm``.
    """

    def __init__(self, message: str, place: str = "") -> None:
        super().__init__(f"{place}: {message}" if place else message)
        self.place = place
        self.reason = message


class SolveError(BowyeryError):
    """The bow is described well, but the asked state of it cannot be found."""


class StringTooLongError(SolveError):
    """The string is as long as the unstrung bow or longer: it cannot be braced."""


class StringTooShortError(SolveError):
    """The string is too short (the brace height too large) for these limbs."""


class DrawBeyondReachError(SolveError):
    """The draw is further than string and limbs can geometrically give."""


class NotConvergedError(SolveError):
    """The iteration ended without an answer although the geometry allows one."""


class DesignError(BowyeryError):
    """No limb of the asked kind gives the asked weight at the asked draw."""


class EstimateError(BowyeryError):
    """The readings given are not enough for an answer, or contradict each other."""
