"""What the advice means, as a colleague at the next bench would say it."""

import math
from dataclasses import dataclass

from bowyery.tiller.advice import Advice, Balance, Limit, Plan
from bowyery.units import INCH
from fellwind.workshop.measures import Units

WHY_HARDER = {
    "wanted weight": "the wanted weight",
    "beginner's share": "three quarters, until the first full brace",
    "gear": "what the {gear} bears",
}
WHY_FURTHER = {
    "wanted weight": "there it may reach its weight",
    "beginner's share": "there it may reach three quarters of the weight",
    "gear": "there it may load the {gear} to its rating",
    "next inch": "the next inch, school D",
    "shape": "no further before the limbs agree, school D",
    "full draw": "full draw",
    "strain": "the wood bears no more strain",
}


def readable_draw(draw: float, shown: Units) -> float:
    """A draw to stop at, on a mark that can be read from the rope: down to the quarter inch or five millimetres."""
    step = INCH / 4 if shown.imperial else 0.005
    return math.floor(draw / step + 1e-6) * step


def why(limit: Limit, further: bool) -> str:
    """Why a limit binds."""
    return (WHY_FURTHER if further else WHY_HARDER)[limit.why].format(gear=limit.gear)


@dataclass(frozen=True)
class Said:
    """The next act: a short form for three metres away, and whole sentences."""

    short: str
    then: str
    sentences: list[str]


def balance_words(stand: Balance, shown: Units) -> str:
    """How the limbs stand to each other."""
    low, high = stand.wanted
    wanted = _wanted(low, high, shown)
    gap = f"{_gap(stand.gap, shown)} at full brace; {wanted}"
    if not stand.stiffer:
        return f"The limbs agree: {gap}."
    return (
        f"The {stand.ahead} limb is ahead; the {stand.stiffer} is {stand.by * 100:.0f} % too stiff against it."
        f" {gap[0].upper()}{gap[1:]}."
    )


def _gap(value: float, shown: Units) -> str:
    written = shown.length(abs(value))
    if written.split()[0] == "0":
        return "both gaps alike"
    return f"{'upper' if value > 0 else 'lower'} gap {written} larger"


def _wanted(low: float, high: float, shown: Units) -> str:
    if low >= 0:
        return f"wanted {shown.bare_length(low)} to {shown.length(high)}"
    return f"wanted alike, within {shown.length(high)}"


def say(advice: Advice, stand: Balance, plan: Plan, shown: Units) -> Said:
    """The next act in words."""
    if advice.act == "exercise":
        return Said(
            f"{advice.pulls} short pulls",
            "then look again",
            [f"Give {advice.pulls} more short pulls before you look: wood shows a removal only after twenty or thirty."],
        )
    if advice.act == "pull":
        return Said(
            "pull further",
            "nothing to take off yet",
            ["Nothing needs to come off now. Pull a little further, within the limits, and read again."],
        )
    if advice.act == "stop":
        return Said(
            "stop here",
            "leave the rest to finishing",
            ["Finishing and shooting in will bring the weight to what is wanted. Take no more wood; round, sand and finish."],
        )
    parts = [f"{shown.shaving(r.thickness)} off the {r.limb}" for r in advice.removals]
    sentences = [f"Take {' and '.join(parts)} limb, fade to nock, feathered out, both edges alike."]
    if advice.act == "balance":
        sentences.insert(0, "It is at weight already; evening the limbs will cost a little of it.")
    sentences.append(f"Then {advice.pulls} short pulls, and look again.")
    sentences.append(f"It should then pull {shown.weight(advice.weight_after)} at full draw, {_gap(advice.gap_after, shown)}.")
    return Said(", ".join(parts), f"then {advice.pulls} short pulls", sentences)
