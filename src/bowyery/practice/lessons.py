"""Lessons in the order of the craft: each has one thing to see, and a measure of having seen it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bowyery.bow.bow import SIDES, Side
from bowyery.errors import SolveError
from bowyery.practice.debrief import NEAR, outcome, true_weight
from bowyery.practice.session import ENOUGH, NO_HANG, State, plan_of, string_off, truth
from bowyery.practice.worlds import Setup
from bowyery.units.quantity import Units

ALIKE = 0.05  # log stiffness between the limbs that is even
MIDDLE = 0.003  # of the grip: so near the string lies over it (m)


@dataclass(frozen=True)
class Measure:
    """How far a lesson has come.

    Attributes:
        share: 0 to 1.
        words: what is still missing, or what was seen, a sentence.
    """

    share: float
    words: str

    @property
    def reached(self) -> bool:
        """Whether it has been seen."""
        return self.share >= 1


@dataclass(frozen=True)
class Lesson:
    """A lesson.

    Attributes:
        see: the one thing to see, a sentence or two.
        measure: of having seen it, by the session and the reader's units.
        hint: for whoever does not get on.
    """

    key: str
    title: str
    see: str
    task: str
    setup: Setup
    measure: Callable[[State, Units], Measure]
    hint: str


def _overlap(mark: tuple[Side, float, float, str, int], start: float, end: float) -> float:
    """Share of the shorter of mark and place that they have in common."""
    common = min(mark[2], end) - max(mark[1], start)
    return max(0.0, common) / max(min(mark[2] - mark[1], end - start), 1e-6)


def _found(state: State, words: tuple[str, ...]) -> Measure:
    """Whether the hidden place was marked."""
    limb, start, end, _ = state.hidden.places[0]
    root = state.roots[SIDES.index(limb)]
    marks = [one for one in state.marks if one[3] in words]
    if not marks:
        return Measure(0.0, "Nothing is marked yet.")
    good = [
        one
        for one in marks
        if one[0] == limb
        and _overlap(one, start + root, end + root) >= 0.5
        and one[2] - one[1] <= max(3 * (end - start), 0.2)
    ]
    if not good:
        return Measure(0.2, "Something is marked, but not that place, or far too much round it.")
    if len(marks) > 2 * len(good):
        return Measure(0.7, "It is among what you marked; take the marks off that were guesses.")
    return Measure(1.0, f"Found: it is on the {limb} limb, where you marked it.")


def _stiff(state: State, shown: Units) -> Measure:
    return _found(state, ("stiff",))


def _hinge(state: State, shown: Units) -> Measure:
    found = _found(state, ("hinge", "weak"))
    limb, start, end, _ = state.hidden.places[0]
    root, side = state.roots[SIDES.index(limb)], SIDES.index(limb)
    for one in state.removals:
        if side in one.act.sides:
            low = root if one.act.start is None else one.act.start
            high = state.reach(side) if one.act.end is None else one.act.end
            if low < end + root and start + root < high:
                return Measure(
                    0.5, "Wood came off the hinge itself: leave it, and thin both sides."
                )
    return found


def _crook(state: State, shown: Units) -> Measure:
    kinds = {one.statement.kind for one in state.noted}
    if not {"profile", "straight edge"} <= kinds:
        missing = "how it lies unstrung" if "profile" not in kinds else "it with the straight edge"
        return Measure(
            0.2, f"Read {missing} first: bends of its own look like stiff and weak ones."
        )
    if any(one[3] != "good" for one in state.marks):
        return Measure(0.5, "A place is marked as if it were not good; the wood is even there.")
    good = sum(one[2] - one[1] for one in state.marks)
    reach = sum(limb.length for limb in state.bow.limbs)
    share = min(1.0, good / (0.5 * reach))
    if share < 1:
        return Measure(0.4 + 0.5 * share, "Mark good what bends well, until half of both limbs is.")
    return Measure(1.0, "Seen: it lies crooked and bends evenly.")


def _wait(state: State, shown: Units) -> Measure:
    wanted, proper = 2 + state.early, len(set(state.proper))
    if proper >= wanted:
        return Measure(1.0, "Done: after wood came off, it was exercised before it was looked at.")
    share = 0.9 * proper / wanted
    if state.early and state.pulls is not None and state.pulls < ENOUGH:
        return Measure(share, "That look came before twenty pulls. Exercise it, and look again.")
    if state.pulls is None or len(state.removals) in state.proper:
        left = wanted - proper
        again = "Take wood off once more" if left == 1 else f"Take wood off {left} times"
        return Measure(share, f"{again}, and look after each time.")
    if state.pulls < ENOUGH:
        return Measure(share + 0.05, "Give it twenty short pulls before you pull it and look.")
    return Measure(share + 0.1, "Now pull it and look.")


def _weight(state: State, shown: Units) -> Measure:
    share = state.heaviest / state.wanted
    if share > 1.03:
        return Measure(
            0.0,
            f"It was pulled to {shown.weight(state.heaviest)}, more than the"
            f" {shown.weight(state.wanted)} that it shall have. Begin anew.",
        )
    draw = max(state.furthest.values(), default=0.0)
    wanted = 0.75 * state.full_draw
    if draw < wanted:
        return Measure(
            min(0.9, draw / wanted),
            f"Bring it to {shown.length(wanted)} and never past {shown.weight(state.wanted)}."
            + (
                f" So far it came to {shown.length(draw)}, at {shown.weight(state.heaviest)}."
                if draw
                else ""
            ),
        )
    return Measure(1.0, f"Done: {shown.length(draw)}, and never past {shown.weight(state.wanted)}.")


def _between(state: State) -> float:
    """How much stiffer the upper limb is than the lower (log)."""
    field = truth(state)
    counts = (1 - np.linspace(0.0, 1.0, field.shape[1])) ** 2 + 0.02
    means = (field * counts).sum(1) / counts.sum()
    return float(means[0] - means[1])


def _limbs(state: State, shown: Units) -> Measure:
    apart = _between(state)
    if not state.removals:
        return Measure(0.0, "See which limb is the stiffer one, and take wood from that one only.")
    if abs(apart) > ALIKE:
        return Measure(
            float(np.clip(1 - abs(apart) / 0.3, 0.1, 0.9)), "They do not bend alike yet."
        )
    if true_weight(state) is not None and (true_weight(state) or 0.0) < 0.9 * state.wanted:
        return Measure(0.7, "They bend alike, but the bow has lost too much of its weight.")
    return Measure(1.0, "Done: the limbs bend alike.")


def _string(state: State, shown: Units) -> Measure:
    if state.string.rung == "long":
        return Measure(0.0, "Where the string lies shows on a braced bow.")
    if not any(one.statement.kind == "string off" for one in state.noted):
        return Measure(0.0, "Read first where the string lies.")
    if state.broke is not None:
        return Measure(0.0, "It broke.")
    try:
        off = abs(string_off(state))
    except SolveError:
        return Measure(0.0, NO_HANG)
    if off > MIDDLE:
        return Measure(
            float(np.clip(1 - off / 0.03, 0.1, 0.9)), "The string does not lie over the middle yet."
        )
    return Measure(1.0, "Done: the string lies over the middle of the grip.")


def _light(state: State, shown: Units) -> Measure:
    weight, wanted = true_weight(state), plan_of(state).stop_at
    if state.broke is not None:
        return Measure(0.0, "It broke.")
    if not (state.cuts or state.heats):
        return Measure(
            0.0, "Shorten both ends or heat the belly: wood that is off does not come back."
        )
    if weight is None or weight < (1 - NEAR) * wanted:
        return Measure(0.5, "It is still too light.")
    if weight > (1 + 2 * NEAR) * wanted:
        return Measure(0.8, "Now it is too heavy; take a little wood off all along.")
    return Measure(1.0, f"Done: it pulls {shown.weight(weight)}.")


def _sinew(state: State, shown: Units) -> Measure:
    kinds = {one.statement.kind for one in state.noted}
    if "profile" not in kinds:
        return Measure(0.1, "Read how it lies unstrung: sinew draws limbs to the back as it dries.")
    return _limbs(state, shown)


def _full(state: State, shown: Units) -> Measure:
    ended = outcome(state)
    if ended.broken:
        return Measure(0.0, "It broke; look at the debrief, and begin anew.")
    steps = [
        state.string.rung != "long" or bool(state.removals),
        "low" in state.furthest or "full" in state.furthest,
        "full" in state.furthest,
        ended.full,
    ]
    words = (
        "Read what it says on the long string, take wood, exercise it.",
        "Brace it low as soon as the limbs agree.",
        "Bring it to full brace.",
        f"Draw it on its full brace as far as {shown.weight(state.wanted)} lets it.",
    )
    for k, (done, what) in enumerate(zip(steps, words, strict=True)):
        if not done:
            return Measure(0.15 * k + 0.1, what)
    off = ended.off
    if off is None or abs(off) > 0.05 * ended.wanted:
        heavy = off is not None and off > 0
        return Measure(0.8, "It is still too heavy." if heavy else "It is too light; rescue it.")
    if ended.even < 0.85:
        return Measure(0.85, "It has its weight, but it does not bend evenly yet.")
    return Measure(1.0, f"Done: {shown.weight(ended.weight or 0.0)}, and even.")


_FLATBOW, _ASH = "flatbow", "european ash"
LESSONS: tuple[Lesson, ...] = (
    Lesson(
        "stiff-place", "Find the stiff place",
        "A stiff place bends less than its neighbours: hardly any gap under the straight edge.",
        "Pull it on the long string, lay the straight edge along both limbs, and mark what is"
        " stiff.",
        Setup(_FLATBOW, _ASH, "stiff", 11, False, "stiff-place"), _stiff,
        "The further it bends, the plainer it shows: hold it near its weight, read the straight"
        " edge all along, and compare each place with the same one of the other limb.",
    ),
    Lesson(
        "hinge", "The hinge behind a knot",
        "A hinge is one short place that bends for its neighbours. Knots draw the eye; only one of"
        " these hides something, and it lies beyond the knot.",
        "Find the hinge, mark it, and take no wood there.",
        Setup(_FLATBOW, "wych elm", "knot", 5, False, "hinge"), _hinge,
        "Lay the straight edge just outside each knot, and compare with the same place of the"
        " other limb.",
    ),
    Lesson(
        "natural-bend", "Naturally bent wood that bends well",
        "Wood that grew crooked looks stiff here and weak there, and may be neither. How it lies"
        " unstrung, and the straight edge, tell bend of its own from bend that is new.",
        "Read how it lies unstrung, then the straight edge along both limbs when it is drawn, and"
        " mark good what is good.",
        Setup(_FLATBOW, "hazel", "crook", 7, False, "natural-bend"), _crook,
        "Read the straight edge once at a short draw and once at a longer one: what grew there"
        " stays, what bends grows.",
    ),
    Lesson(
        "wait", "Don't look too soon",
        "Wood keeps its old shape until it is flexed: a look before twenty or thirty short pulls"
        " shows less than what came off.",
        "Take wood off twice. Exercise it each time before you pull it and look.",
        Setup(_FLATBOW, _ASH, "clear", 21, False, "wait"), _wait,
        "After scraping, give 25 short pulls; only then pull it and read the scale.",
    ),
    Lesson(
        "weight", "The weight you must not pull",
        "A bow that is too strong yet is not drawn far: it is never pulled past the weight that it"
        " shall have.",
        "Bring the string to three quarters of its full draw by taking wood, never past the weight"
        " wanted.",
        Setup(_FLATBOW, _ASH, "heavy", 31, True, "weight"), _weight,
        "Pull until the scale shows the wanted weight, no further; take wood all along, exercise,"
        " and see how much further the string comes.",
    ),
    Lesson(
        "limbs", "Upper and lower",
        "The limb that comes down less is the stiffer one. Wood comes off that limb only, until"
        " both agree.",
        "Find the stiffer limb by the tips, and bring it down to the other.",
        Setup("pyramid", _ASH, "limbs", 41, True, "limbs"), _limbs,
        "Read both tips at the same draw. Take wood all along the limb whose tip came down less.",
    ),
    Lesson(
        "string", "The string off the middle",
        "A limb bends over its thinner edge. The string moves towards the edge that is thinned.",
        "Read where the string lies, and bring it over the middle of the grip.",
        Setup("longbow", "wych elm", "string", 53, True, "string"), _string,
        "If it lies to the left, take wood off the right edge of both limbs, a few strokes at a"
        " time, and read again.",
    ),
    Lesson(
        "too-light", "Too light: what now",
        "Shorter limbs are stiffer, and are bent further for the same draw; heat hardens a belly a"
        " little. Each costs something.",
        "Bring it back to its weight without breaking it.",
        Setup(_FLATBOW, "european yew", "light", 61, True, "too-light"), _light,
        "Cut a little off both ends and read the weight at full draw before you cut more; about an"
        " inch off each end gives a tenth.",
    ),
    Lesson(
        "sinew", "A backed bow after sinew",
        "Sinew is never laid on quite alike. What was even before is not even after it has dried,"
        " and the wood comes off the belly.",
        "See how it lies unstrung, find the limb that got more, and bring both to agree.",
        Setup("sinew", _ASH, "sinew", 71, True, "sinew"), _sinew,
        "Compare the gaps at brace, then the tips at a short draw.",
    ),
    Lesson(
        "full-bow", "A full bow, from floor to full draw",
        "Floor, long string, low brace, full brace, full draw: further only when the limbs agree,"
        " never past the wanted weight.",
        "Make the bow.",
        Setup(_FLATBOW, _ASH, "hinge", 81, True, "full-bow"), _full,
        "Ask for advice after a look and see how it differs from what you would do.",
    ),
)  # fmt: skip
BY_KEY = {lesson.key: lesson for lesson in LESSONS}
