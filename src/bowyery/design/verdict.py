"""One verdict for one bow, from how far it is bent towards where set begins, what lasts, and what
breaks.
"""

from __future__ import annotations

from typing import Literal

from bowyery.mechanics.strain import Uses

Verdict = Literal["lasts", "takes set", "takes much set", "is likely to break"]
# A limb bent little beyond where set begins, and only at its worst place, hardly shows it.
_HARDLY = 1.25
# A wooden bow bent beyond what lasts by no more than this is made every day; it takes some set.
TOLERABLE = 1.15
# Beyond what lasts by this much a bow is tired in a season.
_MUCH = 1.35


def verdict(uses: Uses) -> Verdict:
    """What being bent so far does to a limb."""
    if uses.breaks > 1.0:
        return "is likely to break"
    if uses.lasts > _MUCH:
        return "takes much set"
    return "lasts" if uses.sets <= _HARDLY and uses.lasts <= 1.0 else "takes set"
