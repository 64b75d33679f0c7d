"""What a string's mass costs in arrow speed, part by part.

Mass that sits where the arrow does goes as fast as the arrow and costs as much as so much more of
it. Further out it goes slower, in proportion to its way from the nock, and counts with the square
of that; a string's own mass, spread evenly, counts by a third (Klopsteg in Hickman, Nagler and
Klopsteg, Archery: the Technical Side, 1947). One more run of the loosed arrow gives the price.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from bowyery.bow.bow import Bow, StringLine
from bowyery.mechanics.dynamics import loose, masses_for
from bowyery.mechanics.shot import HELD, hysteresis
from bowyery.strings.plan import StringPlan


@dataclass(frozen=True)
class Price:
    """What mass costs (m/s).

    Attributes:
        speed: of the arrow with this string.
        by_part: what each part of it costs.
        each: what a gram at the nocking point costs (m/s per kg).
    """

    speed: float
    by_part: dict[str, float]
    each: float

    @property
    def total(self) -> float:
        """Against a string that weighs nothing (m/s)."""
        return sum(self.by_part.values())


def price(
    bow: Bow, plan: StringPlan, draw: float, arrow: float, mass: float | None = None
) -> Price:
    """What each part of a string costs.

    Args:
        draw: full draw (m).
        arrow: its mass (kg).
        mass: of the whole string as weighed (kg), which the parts share, or None.

    Raises:
        BowyeryError: what the loosed arrow raises.
    """
    whole = mass or plan.mass
    line = StringLine(whole, plan.stiffness)
    strung = replace(bow, string=line, brace_height=None, string_length=plan.length)
    masses, loss = masses_for(bow, 10), 0.5 * sum(hysteresis(limb) for limb in bow.limbs)

    def speed(shot: float) -> float:
        return loose(strung, draw, shot, masses, steps=60, watch=False, loss=loss, held=HELD).speed

    step = 0.08 * arrow
    now = speed(arrow)
    each = (now - speed(arrow + step)) / step
    scale = whole / plan.mass
    masses_of, at = plan.masses, plan.nocking or plan.length / 2
    swings = {
        "body": _even(plan, at), "serving": _swing(plan, at, at), "wax": _even(plan, at),
        "loops": 0.5 * (_swing(plan, at, 0.02) + _swing(plan, at, plan.length - 0.02)),
        "silencers": _swing(plan, at, plan.order.silencers[1] or plan.length / 4),
    }  # fmt: skip
    by_part = {
        name: each * swing * scale * getattr(masses_of, name) for name, swing in swings.items()
    }
    return Price(now, by_part, each)


def _swing(plan: StringPlan, nock: float, place: float) -> float:
    """How much a mass at a place counts, against one at the nocking point."""
    half = nock if place <= nock else plan.length - nock
    return max(0.0, 1 - abs(place - nock) / half) ** 2


def _even(plan: StringPlan, nock: float) -> float:
    count = 40
    places = [(k + 0.5) / count * plan.length for k in range(count)]
    return sum(_swing(plan, nock, place) for place in places) / count
