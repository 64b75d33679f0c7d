"""What the advice means, as a colleague at the next bench would say it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from bowyery.bow.bow import SIDES, Side
from bowyery.errors import EstimateError
from bowyery.tiller.acts import again
from bowyery.tiller.advice import AGREE, Advice, Balance, Limit
from bowyery.tiller.bench import BenchState, Held, Shown
from bowyery.tiller.chance import odds
from bowyery.tiller.estimate import Sharper
from bowyery.tiller.forecast import BenchRule
from bowyery.tiller.kinds import READINGS, Reading
from bowyery.tiller.statements import Tree, where_words
from bowyery.tiller.strokes import Stretch
from bowyery.tiller.target import Place, Removal
from bowyery.units.quantity import FINE_WEIGHT, INCH, SHAVING, Units

WORTH_ASKING = 0.05  # log stiffness of a jump between two looks: a smaller one is use
SET_ALONE = 0.12  # log stiffness that set and hard use may cost between two looks
WORTH_SAYING = 0.03  # of all that is not known: what a reading must narrow to be asked for
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
    "two inches": "no more at once beyond what has been seen bent",
}
LOOK = {
    "no weight": (
        "Nothing has been weighed yet, so no wood comes off: read the weight at two draws."
    ),
    "wild weights": (
        "The weights of this check do not fit the other readings, so no wood comes off: zero the"
        " scale, measure the draw anew, read them again, and strike out what was mistaken."
    ),
    "wild limbs": (
        "What was read of the limbs does not fit the weights, so no wood comes off: read gaps or"
        " tips again, and strike out what was mistaken."
    ),
    "changed": (
        "The bow is another one since something was done to it, so no wood comes off on the word"
        " of what was read before. {todo}"
    ),
    "unsure": (
        "Too little is known of its weight to take wood off, and it may be pulled no further: read"
        " the weight once more at the same draw, and how far both tips have come down."
    ),
    "wide": (
        "Too little is known of its weight to take wood off: pull it a little further, within the"
        " limits, and read weight and both gaps there."
    ),
}
ASK_LENGTH = (
    "How long this string is was not written, and much of what is not known comes from that: write"
    " “string long” with its length, or “taut at” with the draw where it comes taut."
)
NARROW = (
    "A hinge narrower than a hand shows late in any reading: look along the bellies as it bends."
)


def readable_draw(draw: float, shown: Units) -> float:
    """A draw to stop at, on a mark that can be read from the rope: down to the quarter inch or five
    millimetres.

    Args:
        draw: on the maker's ruler (m).

    Returns:
        The draw to stop at (m).
    """
    step = INCH / 4 if shown.imperial else 0.005
    return math.floor(draw / step + 1e-6) * step


def why(limit: Limit, further: bool) -> str:
    """Why a limit binds.

    Args:
        further: the limit is a draw, else a weight.
    """
    if limit.passed:
        share = f"{limit.passed * 100:.0f} %"
        if limit.why == "strain":
            return f"it has been there already, bent to {share} of what its wood bears for years"
        return f"it has been there already, where it may pull {share} of what it should"
    return (WHY_FURTHER if further else WHY_HARDER)[limit.why].format(gear=limit.gear)


@dataclass(frozen=True)
class Said:
    """The next act: a short form for three metres away, and whole sentences."""

    short: str
    then: str
    sentences: list[str]


NEAR_THE_FADE = 0.02  # from the root, where nobody parts a place from the fade (m)
BY_EYE = (
    "By eye alone: no deeper than this until it has been weighed. A weight is worth most as far as"
    " it may be pulled now."
)
OLDER = "two later looks agree with one another and not with this weight"


def chance_words(state: BenchState, shown: Units) -> str:
    """What the next pull may do, as far as it may go; nothing where that is not known."""
    chance = state.chance
    if chance is None:
        return ""
    said = f"Chance that so far breaks it: {odds(chance.breaks)}"
    if chance.sets > LEAST_SET:
        said += f"; it sets the tips by {shown.length(chance.sets)}"
    if chance.breaks < WORTH_READING or chance.most < 2 * chance.breaks:
        return f"{said}."
    at = where_words(state.roots[chance.limb] + chance.at, shown)
    return (
        f"{said}. A straight edge on the {chance.limb} limb, {at}, would make that"
        f" {odds(chance.least)}, or {odds(chance.most)}."
    )


LEAST_SET, WORTH_READING = 0.0008, 0.01  # follow that shows (m); a chance worth a reading


def balance_words(stand: Balance, shown: Units) -> str:
    """How the limbs stand to each other."""
    if not stand.read:
        return "How the limbs stand to each other is not read yet: read both gaps, or both tips."
    low, high = stand.wanted
    wanted = _wanted(low, high, shown)
    place = f", {stand.at * 100:.0f} % along the limbs" if stand.at else ""
    gap = f"{_gap(stand.gap, shown)} at full brace{place}, the limbs' own bend left out; {wanted}"
    if not stand.stiffer:
        return f"The limbs agree: {gap}."
    return (
        f"The {stand.ahead} limb is ahead; the {stand.stiffer} is {stand.by * 100:.0f} % too stiff"
        f" against it. {gap[0].upper()}{gap[1:]}."
    )


def _gap(value: float, shown: Units) -> str:
    written = shown.length(abs(value))
    if written.split()[0] == "0":
        return "both gaps alike"
    return f"{'upper' if value > 0 else 'lower'} gap {written} larger"


def _wanted(low: float, high: float, shown: Units) -> str:
    if low >= 0:
        return f"wanted: upper {shown.bare_length(low)} to {shown.length(high)} larger"
    if high <= 0:
        return f"wanted: lower {shown.bare_length(-high)} to {shown.length(-low)} larger"
    return f"wanted alike, within {shown.length(max(-low, high))}"


def where(removal: Removal | Place, root: float, shown: Units) -> str:
    """A stretch of a limb in words, from the bow's centre.

    Args:
        root: of the limb, from the bow's centre (m).
    """
    if removal.start is None or removal.end is None:
        return f"the whole {removal.limb} limb, fade to nock"
    step = INCH / 4 if shown.imperial else 0.005  # no pencil marks a stretch more finely
    start, end = (round((root + place) / step) * step for place in (removal.start, removal.end))
    ends = f"{shown.bare_length(start)} and {shown.length(end)}"
    return f"the {removal.limb} limb between {ends} from the centre"


def places_words(
    advice: Advice,
    roots: dict[Side, float],
    shown: Units,
    hinges: Sequence[tuple[Place, float]] = (),
) -> list[str]:
    """Places that bend too much and too little, as marks on the limb.

    Args:
        hinges: where a narrow weakness is suspected, with its chance.
        roots: of the limbs, from the bow's centre (m).
    """
    said, suspected = list[str](), dict(hinges)
    for place in advice.weak:
        if place.seen and place in suspected:
            root, middle = roots[place.limb], 0.5 * (place.start + place.end)
            ends = [shown.length(root + middle + off) for off in (-0.03, 0.03)]
            said.append(
                f"A hinge may sit in {where(place, root, shown)},"
                f" {suspected[place] * 100:.0f} in 100: take nothing there. Lay the straight edge"
                f" at {ends[0]} and {ends[1]} to decide."
            )
            continue
        if place.seen:
            said.append(
                f"Leave {where(place, roots[place.limb], shown)} alone: it was marked, or an edge"
                " reads high there. Lay the straight edge on it again."
            )
            continue
        said.append(
            f"Mark X on {where(place, roots[place.limb], shown)}: it bends about"
            f" {place.by * 100:.0f} % more than it should. Take nothing there."
        )
    for place in advice.stiff:
        said.append(
            f"Shade {where(place, roots[place.limb], shown)}: it is about {place.by * 100:.0f} %"
            " stiffer than it should be."
        )
    return said


def sharper_words(one: Sharper, roots: dict[Side, float], shown: Units) -> str:
    """What one more reading would tell.

    Args:
        roots: of the limbs, from the bow's centre (m).
    """
    r = one.reading
    at = None if r.at is None or r.limb is None else roots[r.limb] + r.at
    asked = READINGS[r.kind].missed.format(limb=r.limb, where=where_words(at, shown))
    return f"{asked}, which would narrow what is not known by about {one.gain * 100:.0f} %"


def expected_words(reading: Reading, told: float, shown: Units, tree: Tree) -> str:
    """What the others say in the place of a reading that does not fit them.

    Args:
        told: what the fitted bow would read (SI).
    """
    if reading.kind == "deepest place" and told < NEAR_THE_FADE:
        return "the other readings would have it at the fade"
    value = READINGS[reading.kind].value_words(told, tree, shown)
    return f"the other readings would have it about {value}"


def rule_words(rule: BenchRule, shown: Units) -> str:
    """A straight-line rule of the bench beside the forecast."""
    name = {
        "in proportion": "Weight in proportion to draw",
        "by the inch": "Rising on as over the last inches",
    }[rule.name]
    word = "over" if rule.off > 0 else "under"
    return (
        f"{name} would say {shown.weight(rule.weight)}: about {abs(rule.off) * 100:.0f} % {word} on"
        " this bow."
    )


def say(state: BenchState, shown: Units, tree: Tree) -> Said:
    """The next act in words.

    Args:
        state: of the bench, with its advice.

    Returns:
        What to do, short and in whole sentences.

    Raises:
        EstimateError: there is no advice yet.
    """
    advice = state.advice
    if advice is None:
        raise EstimateError("Nothing has been read yet, so there is nothing to say.")
    said = _act(advice, state, shown, tree)
    if state.unmeasured:
        said = replace(said, sentences=[*said.sentences, ASK_LENGTH])
    if abs(state.jump) < WORTH_ASKING:
        return said
    jumped, asked = (
        ("weaker", "was wood taken and not written down?")
        if state.jump < 0
        else ("stiffer", "was a removal written down twice, or too large?")
    )
    if -SET_ALONE < state.jump < 0:
        asked = "has it taken set, or was wood taken and not written down?"
    much = f"{abs(math.expm1(state.jump)) * 100:.0f} %"
    first = f"It is about {much} {jumped} than the looks before left it: {asked}"
    return replace(said, sentences=[first, *said.sentences])


def _act(advice: Advice, state: BenchState, shown: Units, tree: Tree) -> Said:
    """The act itself in words."""
    roots = state.roots
    if advice.act == "exercise":
        return Said(
            f"{advice.pulls} short pulls",
            "then look again",
            [
                f"Give {advice.pulls} more short pulls before you look: wood shows a removal only"
                " after twenty or thirty."
            ],
        )
    if advice.act == "pull":
        return Said(
            "pull further",
            "nothing to take off yet",
            [
                "Nothing needs to come off now. Pull a little further, within the limits, and read"
                " again.",
                NARROW,
            ],
        )
    if advice.act == "stop":
        rest = "Finishing and shooting in will bring the weight to what is wanted."
        if state.history.to_come:
            still = _listed([a.how or a.kind for a in state.history.to_come])
            rest = f"Stop here: the {still} and all that follows bring the rest."
        told = [f"{rest} Take no more wood; round, sand and finish."]
        if state.stand and state.stand.stiffer and advice.costs > 0:
            told.append(
                f"The {state.stand.stiffer} limb stays {state.stand.by * 100:.0f} % stiffer than it"
                f" should be: evening it would cost {FINE_WEIGHT.write(advice.costs, shown)} at"
                " full draw, below your floor."
            )
        return Said("stop here", "leave the rest to finishing", told)
    if advice.act == "brace":
        near = "agree nearly enough" if state.stand and state.stand.stiffer else "agree"
        what = {"low": "a low brace", "full": "its full brace"}.get(advice.string, "its full brace")
        if state.stand and state.stand.by > AGREE:
            return Said(
                f"brace it, {what}",
                "with care, and read both limbs",
                [
                    f"It tells no more on this string, and the {state.stand.stiffer} limb is still"
                    f" {state.stand.by * 100:.0f} % stiffer than it should be. String it to {what}"
                    " with care, and read both limbs again.",
                    NARROW,
                ],
            )
        return Said(
            f"brace it, {what}",
            "leave it so for half an hour",
            [
                f"The limbs {near} and are light enough: string it to {what}, leave it braced half"
                " an hour, and read again.",
                NARROW,
            ],
        )
    if advice.act == "look":
        done = [one for act in state.history.acts for one in again(act)]
        return Said("read again", "no wood off yet", [LOOK[advice.doubt].format(todo=_todo(done))])
    if advice.act == "rescue":
        return Said(
            "take no more wood",
            "it is light already",
            [
                "It is lighter already than finishing will leave room for. Take no more wood.",
                (
                    "See below what shorter ends, heat or a backing would bring back, or accept the"
                    " weight."
                ),
            ],
        )

    parts, sentences = list[str](), list[str]()
    for side in SIDES:
        rows = [r for r in state.strokes if r.limb == side]
        if not rows:
            continue
        root = roots[side]
        told = [f"{_strokes(r)} {stretch_words(r, root, shown)}" for r in rows]
        deepest = max(r.thickness for r in rows)
        sentences.append(
            f"Take {_listed(told)} off the {side} limb with the {state.tool}: about"
            f" {shown.shaving(deepest)} at the most."
        )
        total = sum(r.strokes for r in rows)
        word = "" if parts else ("stroke " if total == 1 else "strokes ")
        parts.append(f"{total} {word}{side}")
    sentences.append("Feather every stretch into its neighbours, and take both edges alike.")
    if advice.act == "balance":
        costs = FINE_WEIGHT.write(max(0.0, advice.costs), shown)
        sentences.insert(0, f"It is at weight already; evening it costs {costs} at full draw.")
    if advice.by_eye:
        sentences.insert(0, BY_EYE)
    strung = ""
    if advice.string != state.history.string.rung:
        what = {"low": "a low brace", "full": "its full brace"}.get(advice.string, "")
        strung = f", string it to {what} for half an hour" if what else ""
    sentences.append(f"Then {advice.pulls} short pulls{strung}, and look again.")
    then = f"{advice.pulls} short pulls{strung}, then look"
    if advice.check_after is not None:
        at, weight = advice.check_after
        on = "" if state.history.string.rung == "full" else f" on the {state.history.string.words}"
        braced = f", {_gap(advice.gap_after, shown)}" if state.stand and state.stand.read else ""
        sentences.append(
            f"It should then pull {shown.weight(weight)} at {tree.draw_words(at, shown)}{on}, and"
            f" {shown.weight(advice.weight_after)} at full draw, braced{braced}."
        )
        if not strung:
            then += f" at {tree.draw_words(at, shown)}: about {FINE_WEIGHT.write(weight, shown)}"
    return Said(f"{state.tool}: {', '.join(parts)}", then, sentences)


def _strokes(one: Stretch) -> str:
    return f"{one.strokes} stroke{'' if one.strokes == 1 else 's'}"


def _listed(parts: list[str]) -> str:
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def stretch_words(one: Stretch, root: float, shown: Units) -> str:
    """Where strokes are taken, from the bow's centre, as a pencil marks it.

    Args:
        root: of its limb, from the bow's centre (m).
    """
    if one.whole:
        return "from fade to nock"
    start, end = stretch_ends(one, root, shown)
    return f"between {shown.bare_length(start)} and {shown.length(end)}"


def stretch_ends(one: Stretch, root: float, shown: Units) -> tuple[float, float]:
    """Where a stretch begins and ends, from the bow's centre (m), to the half inch or the
    centimetre: nobody scrapes to a finer mark.

    Args:
        root: of its limb, from the bow's centre (m).
    """
    step = INCH / 2 if shown.imperial else 0.01
    start, end = (round((root + place) / step) * step for place in (one.start, one.end))
    return max(start, root), max(end, start + step)


def removal_line(state: BenchState, shown: Units) -> str:
    """What is advised as the pencil line that a maker would write once it is done.

    Returns:
        The line, without units; nothing where no strokes are advised.
    """
    rows = []
    for one in state.strokes:
        where = ""
        if not one.whole:
            start, end = stretch_ends(one, state.roots[one.limb], shown)
            where = f" {shown.typed_length(start)} to {shown.typed_length(end)}"
        rows.append(f"off {one.limb} {_strokes(one)}{where} with {state.tool}")
    return ", ".join(rows)


def held_words(held: Held, state: BenchState, shown: Units, tree: Tree) -> str:
    """The draw at the weight that is held, for makers who let the draw grow.

    Returns:
        A saying such as ``44 lb at 19 in, was 17 ¼; next look about 20 ½``.
    """

    def on(draw: float) -> float:
        return tree.ruler.from_pivot(draw, tree.handle_depth)

    def quarter(draw: float) -> str:
        step = INCH / 4 if shown.imperial else 0.005
        return shown.bare_length(round(on(draw) / step) * step)

    sign = "in" if shown.imperial else "mm"
    said = f"{shown.weight(held.weight)} at {quarter(held.draw)} {sign}"
    if held.draw >= state.plan.full_draw:
        said = f"{shown.weight(held.weight)} not before full draw"
    if held.before is not None:
        said += f", was {quarter(held.before)}"
    if held.after is not None:
        said += f"; next look about {quarter(min(held.after, state.plan.full_draw))}"
    return said


TOOL_SUITS = {
    "drawknife": "a drawknife suits this pass, as much comes off in it",
    "rasp": "a rasp suits this pass, then the scraper for its marks",
    "scraper": "a scraper suits this pass, as little comes off in it",
}


def suits_words(state: BenchState) -> str:
    """Which tool suits what is to come off, in half a sentence."""
    return TOOL_SUITS.get(state.suits, f"a {state.suits} suits this pass")


def tool_words(state: BenchState, shown: Units) -> str:
    """Which tool suits what is to come off, and what the one in hand takes."""
    said = suits_words(state)
    if state.bite is None:
        return said
    ten = SHAVING.write(10 * state.bite.thickness, shown)
    known = "as your passes showed" if state.bite.spread < 0.35 else "as such tools usually take"
    return f"{said}; the {state.tool} takes about {ten} in ten strokes, {known}"


RECHECK_WORDS = {
    "centre": "measure the centre anew and mark it",
    "tiller": "look at the tiller again from a low draw",
    "weight": "read the weight again before wood comes off",
}


def _todo(rechecks: list[str]) -> str:
    """What is to be looked at again, as a sentence."""
    asked = [one for one in RECHECK_WORDS if one in rechecks]
    todo = _listed([RECHECK_WORDS[one] for one in asked]) if asked else "look at it again"
    return f"{todo[:1].upper()}{todo[1:]}."


def act_words(shown_of: Shown, shown: Units) -> str:
    """What acts were to do, and did.

    Args:
        shown_of: the acts' forecast, and what the readings after them say.
    """
    was = FINE_WEIGHT.write(shown_of.before, shown)
    told = FINE_WEIGHT.write(shown_of.foretold, shown)
    low, high = (FINE_WEIGHT.write(v, shown, False) for v in (shown_of.low, shown_of.high))
    said = f"At full draw {was} before it, foretold {told} after it ({low} to {high})"
    if shown_of.now is None:
        return f"{said}. {_todo([one for a in shown_of.acts for one in again(a)])}"
    came = FINE_WEIGHT.write(shown_of.now, shown)
    expected = FINE_WEIGHT.write(shown_of.expected, shown)
    low, high = (FINE_WEIGHT.write(v, shown, False) for v in (shown_of.now_low, shown_of.now_high))
    return (
        f"{said}. At check {shown_of.check} {expected} was to be expected, and the readings say"
        f" {came} ({low} to {high})."
    )
