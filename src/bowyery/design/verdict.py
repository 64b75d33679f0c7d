"""One verdict for one bow, from how far it is bent towards where set begins, what lasts, and what
breaks.
"""

from __future__ import annotations

from typing import Literal

from bowyery.design.usual import Kind
from bowyery.mechanics.strain import Uses

Verdict = Literal[
    "fine", "works the wood hard, expect set", "at the edge for this wood", "likely to break"
]
CONDEMNED: tuple[Verdict, ...] = ("at the edge for this wood", "likely to break")
MEND = "A longer bow, a shorter draw, or wider and thinner limbs would mend it."
# A limb bent little beyond where set begins, and only at its worst place, hardly shows it.
_HARDLY = 1.25
# A wooden bow bent beyond what lasts by no more than this is made every day; it takes some set.
TOLERABLE = 1.15
# Beyond what lasts by this much a bow is tired in a season.
_MUCH = 1.35
_NEARLY = 0.97  # of where the weakest of twenty staves breaks
_CHOSEN = 1.15  # the middling clear stave breaks here, and makers choose theirs


def verdict(uses: Uses, usual: Kind | None = None) -> Verdict:
    """What being bent so far does to a limb.

    Args:
        usual: the kind of bow that is usually bent so far and lives, where it is one.
    """
    if uses.breaks > (_CHOSEN if usual else 1.0):
        return "likely to break"
    if uses.lasts > _MUCH or uses.breaks > _NEARLY:
        return "at the edge for this wood"
    if uses.sets > _HARDLY or uses.lasts > 1.0:
        return "works the wood hard, expect set"
    return "fine"


def worst(said: Verdict, uses: Uses) -> str:
    """A verdict as a sentence, with the limit that it is of."""
    limit = uses.limit
    if limit is None:
        return f"{said.capitalize()}."
    breaks = limit.bears * uses.lasts / uses.breaks if uses.breaks else None
    more = "" if breaks is None else f" and may break from {breaks * 100:.2f} %"
    return (
        f"{said.capitalize()}: at full draw the {limit.face} of the {limit.layer} is strained"
        f" {limit.strain * 100:.2f} %. It lasts at {limit.bears * 100:.2f} %{more}."
    )
