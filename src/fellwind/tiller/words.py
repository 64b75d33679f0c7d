"""What the advice means, as a colleague at the next bench would say it."""

import math
from dataclasses import dataclass

from bowyery.tiller.advice import Advice, Balance, Limit
from bowyery.tiller.bite import strokes_for
from bowyery.tiller.estimate import Sharper
from bowyery.tiller.forecast import BenchRule
from bowyery.tiller.target import Place, Removal
from bowyery.units import INCH
from fellwind.tiller.services import Bench
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
        return f"wanted: upper {shown.bare_length(low)} to {shown.length(high)} larger"
    return f"wanted alike, within {shown.length(high)}"


def where(removal: Removal | Place, root: float, shown: Units) -> str:
    """A stretch of a limb in words, from the bow's centre."""
    if removal.start is None or removal.end is None:
        return f"the whole {removal.limb} limb, fade to nock"
    step = INCH / 4 if shown.imperial else 0.005  # no pencil marks a stretch more finely
    start, end = (round((root + place) / step) * step for place in (removal.start, removal.end))
    ends = f"{shown.bare_length(start)} and {shown.length(end)}"
    return f"the {removal.limb} limb between {ends} from the centre"


def places_words(advice: Advice, roots: dict[str, float], shown: Units) -> list[str]:
    """Places that bend too much and too little, as marks on the limb."""
    said = []
    for place in advice.weak:
        said.append(
            f"Mark X on {where(place, roots[place.limb], shown)}: it bends about {place.by * 100:.0f} % more than it should."
            " Take nothing there."
        )
    for place in advice.stiff:
        said.append(
            f"Shade {where(place, roots[place.limb], shown)}: it is about {place.by * 100:.0f} % stiffer than it should be."
        )
    return said


def sharper_words(one: Sharper, roots: dict[str, float], shown: Units) -> str:
    """What one more reading would tell."""
    r = one.reading
    at = "" if r.at is None else f" {shown.length(roots[r.limb] + r.at)} from the centre"
    names = {
        "straight edge": f"the gap under a straight edge on the {r.limb} limb{at}",
        "offset": f"how far the {r.limb} limb stands off a straight line{at}",
        "tip height": f"how far the {r.limb} tip has come down",
        "gap": f"the gap at the {r.limb} fade",
        "weight": "the weight once more at the same draw",
    }
    return f"{names[r.kind]}, which would narrow what is not known by about {one.gain * 100:.0f} %"


def rule_words(rule: BenchRule, shown: Units) -> str:
    """A straight-line rule of the bench beside the forecast."""
    name = {"in proportion": "Weight in proportion to draw", "by the inch": "Rising on as over the last inches"}[rule.name]
    word = "over" if rule.off > 0 else "under"
    return f"{name} would say {shown.weight(rule.weight)}: about {abs(rule.off) * 100:.0f} % {word} on this bow."


def say(state: Bench, shown: Units) -> Said:
    """The next act in words."""
    advice, roots, bite = state.advice, state.roots, state.bite
    assert advice is not None
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
    if advice.act == "brace":
        what = {"low": "a low brace", "full": "its full brace"}.get(advice.string, "its full brace")
        return Said(
            f"brace it, {what}",
            "leave it so for half an hour",
            [f"The limbs agree and are light enough: string it to {what}, leave it braced half an hour, and read again."],
        )
    if advice.act == "rescue":
        return Said(
            "take no more wood",
            "it is light already",
            [
                "It is lighter already than finishing will leave room for. Take no more wood.",
                "See below what shorter ends, heat or a backing would bring back, or accept the weight.",
            ],
        )

    parts, sentences = [], []
    for side in ("upper", "lower"):
        rows = [r for r in advice.removals if r.limb == side]
        if not rows:
            continue
        stretches = [
            f"{shown.shaving(r.thickness)} {'more ' if k else ''}off {where(r, roots[side], shown)}" for k, r in enumerate(rows)
        ]
        strokes = sum(strokes_for(bite, r.thickness) for r in rows) if bite else 0
        count = f": about {strokes} strokes of the scraper" if strokes else ""
        sentences.append(f"Take {', then '.join(stretches)}{count}.")
        parts.append(f"{shown.shaving(max(r.thickness for r in rows))} off the {side}")
    sentences.append("Feather every stretch into its neighbours, and take both edges alike.")
    if advice.act == "balance":
        sentences.insert(0, "It is at weight already; evening the limbs will cost a little of it.")
    sentences.append(f"Then {advice.pulls} short pulls, and look again.")
    if advice.check_after is not None:
        at, weight = advice.check_after
        sentences.append(
            f"It should then pull {shown.weight(weight)} at {shown.length(at)} to the grip, and"
            f" {shown.weight(advice.weight_after)} at full draw, {_gap(advice.gap_after, shown)}."
        )
    return Said(", ".join(parts), f"then {advice.pulls} short pulls", sentences)
