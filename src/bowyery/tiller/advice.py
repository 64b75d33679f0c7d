"""What to do next on the tree: how far and how hard to pull, and how much wood to take where.

Never more than a fair part of what is to come off (:mod:`bowyery.tiller.target`) is advised before
the next look.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import BRACE_HEIGHT, gap_band
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import thinning
from bowyery.errors import SolveError, StringTooShortError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.mechanics.gaps import gap_difference, judged_at
from bowyery.mechanics.strain import SetShare, bend_limits
from bowyery.tiller.bite import Tool
from bowyery.tiller.estimate import NINETY, PLACES, Estimate, at_nodes, few_cells, stiffness_factors
from bowyery.tiller.forecast import Forecast, Losses
from bowyery.tiller.rulers import Rulers
from bowyery.tiller.target import (
    HINGE,
    Place,
    Removal,
    Target,
    feathered,
    removals_of,
    sparing,
    uneven_places,
    wanted_state,
    weights_of,
)
from bowyery.units.quantity import INCH

ENOUGH_PULLS = 20
PULLS_AFTER_REMOVAL = 25
BEGINNER_SHARE = 0.75
DRAW_STEP = INCH
DEEPER = 2 * INCH  # no more at once beyond what has been seen bent
# Of what is to come off before the next look: of that which evens a limb, and of that which all of
# it has too much. Of the latter (by the log of its weight over the one to stop at) least where the
# shape is still to be found: each look back tells more of it; more of a very heavy bow, and at the
# end nearly all.
# Where places are not read (their spread stays above UNREAD) looking again tells nothing new, and
# slowness buys nothing.
FAIR_PART = 0.55
EVENING = 0.75
FAIR_WEIGHT = (0.03, 0.1, 0.2, 0.7), (0.9, 0.5, 0.4, 0.5)
UNREAD = 0.09
NO_FURTHER = 0.005  # a limit so near to what was drawn already leaves nothing to pull (m)
WORTH_EVENING = 0.2  # of what would even the limbs, at least, or none of it
AT_WEIGHT = 1.008  # of the weight to stop at: so near nobody scrapes it nearer
EYE_AT_ONCE = 0.06  # of log stiffness that a place may lose at once on the word of the eye
DONE = 1.002  # of the weight aimed at: nothing more to take
LAST = 0.0  # kept back at the very last
WELL_KNOWN = 0.015  # of a forecast's deviation: so well the weight is known at best
EVEN_ENOUGH = 0.03  # by which a limb may be too stiff against the other in a bow at weight
# Weight at full draw over the one to stop at, below which a bow is braced low, and fully; and how
# nearly the limbs agree.
BRACE_LOW, BRACE_FULL, AGREE = 1.35, 1.15, 0.15
LOW_BRACE, BRACE_USE = (
    0.5,
    0.8,
)  # of the full brace height; of the strain limit that bracing alone may take
OWN_GAP = INCH / 32  # so much beyond what the hold asks for is a rounded mark
SHIFTS = np.linspace(-0.4, 0.4, 9)


Why = Literal[
    "wanted weight",
    "beginner's share",
    "next inch",
    "shape",
    "full draw",
    "strain",
    "gear",
    "exercise",
    "two inches",
]


@dataclass(frozen=True)
class Limit:
    """A bound of the next pull.

    Attributes:
        value: (m or N).
        passed: the bow has been pulled so far already although the bound lies nearer: what the
            bound is of, as a share of it there; 0 where it has not.
    """

    value: float
    why: Why
    gear: str = ""
    passed: float = 0.0


@dataclass(frozen=True)
class Gear:
    """Something the pull hangs on: name, rated load (N), and how many times the pull it carries.

    Attributes:
        rating: load it bears (N).
    """

    name: str
    rating: float
    times: float = 1.0


@dataclass(frozen=True)
class Plan:
    """What the tillering is to reach, and how.

    Attributes:
        wanted_weight: of the finished bow at full draw (N).
        full_draw: pivot to nocking point (m).
        fingers: as makers say it; gaps follow from it.
        beginner: before the first full brace, pulled to three quarters of the weight only.
        braced: the bow has been at full brace.
        most_use: how far the limbs may be bent, as a share of what their layers bear for years.
        gap: upper less lower gap at brace that is wanted (m), or None for what the hold asks for.
        tool: in the maker's hand; nothing: what suits what is to come off.
        tools: of the shop, with what they have shown on other bows of this wood.
        brings: how many times as much it will pull for what is still to be done to it.
        rulers: what this maker's readings have been worth on other bows.
        floor: finished weight below which no wood is spent on evenness alone (N); None: the wanted
            one.
        share: of the bend beyond the elastic limit that stays, as the shop has learned it.
        keeps: how many times as much stays as of seasoned wood.
    """

    wanted_weight: float
    full_draw: float
    fingers: str = "one above, two below"
    school: Literal["W", "D"] = "W"
    beginner: bool = False
    braced: bool = True
    most_use: float = 1.0
    gear: tuple[Gear, ...] = ()
    losses: Losses = field(default_factory=Losses)
    gap: float | None = None
    tool: str = ""
    tools: tuple[Tool, ...] = ()
    brings: float = 1.0
    rulers: Rulers = field(default_factory=Rulers)
    floor: float | None = None
    share: SetShare = field(default_factory=SetShare)
    keeps: float = 1.0

    @property
    def stop_at(self) -> float:
        """Weight at full draw before finishing that ends as the wanted weight (N)."""
        keeps = (1 - self.losses.finishing) * (1 - self.losses.shooting)
        return self.wanted_weight / (keeps * self.brings)


@dataclass(frozen=True)
class Balance:
    """How the limbs stand to each other at the finished bow's brace height.

    Attributes:
        gap: upper less lower gap at the fades (m).
        spread: one standard deviation of it.
        wanted: low and high end (m).
        stiffer: the limb to take wood from, or nothing when the gap is within what is wanted.
        by: how much stiffer it is than it should be against the other, as a share.
        ratio_wanted: log of upper over lower stiffness, against the design, that gives the gaps
            of the design.
        read: something was read that tells the limbs apart; without it nothing is said of them.
        at: where along the limbs the gaps are judged, as a share; 0 is the fade.
    """

    gap: float
    spread: float
    wanted: tuple[float, float]
    stiffer: Literal["", "upper", "lower"]
    by: float
    ratio_wanted: float
    read: bool = True
    at: float = 0.0

    @property
    def ahead(self) -> Literal["", "upper", "lower"]:
        """The limb that bends more than it should against the other."""
        return {"": "", "upper": "lower", "lower": "upper"}[self.stiffer]  # type: ignore[return-value]


Act = Literal["exercise", "take", "balance", "pull", "brace", "rescue", "stop", "look"]
Doubt = Literal["", "no weight", "wild weights", "wild limbs", "wide", "unsure", "changed"]


@dataclass(frozen=True)
class Advice:
    """The next act.

    Attributes:
        act: exercise, take, balance (take from one limb although it costs weight), pull (further),
            brace (the long string has shown what it can), rescue (it is too light: shorten, heat,
            back or accept), stop, or look (read again, because too little is known).
        pulls: short pulls to give first (exercise) or afterwards.
        weight_after: at full draw after the removals (N).
        gap_after: upper less lower gap after the removals (m).
        check_after: a draw already reached (m), and the weight there after the removals (N), to
            check the work by.
        weak, stiff: places that bend too much, which are left alone, and too little.
        removal: thickness to take at the places, ``(2, PLACES)`` (m), for shading the limbs; the
            removals say it in words.
        string: which string to have on at the next check: long, low or full.
        wanted: log stiffness that every place should have, ``(2, PLACES)``, as if nothing were too
            weak for it.
        costs: what evening alone takes off the weight at full draw, or would (N).
        by_eye: it goes by marks alone, since nothing was weighed.
        doubt: why no wood comes off yet.
    """

    act: Act
    removals: tuple[Removal, ...]
    pulls: int
    weight_after: float
    gap_after: float
    check_after: tuple[float, float] | None = None
    weak: tuple[Place, ...] = ()
    stiff: tuple[Place, ...] = ()
    removal: Floats = field(default_factory=lambda: np.zeros((2, PLACES)))
    string: str = "full"
    wanted: Floats | None = None
    doubt: Doubt = ""
    costs: float = 0.0
    by_eye: bool = False


@dataclass(frozen=True)
class Ahead:
    """What the next look will be of.

    Attributes:
        bow: with the string that is on.
        draw: at which the next look is held against this one (m).
    """

    bow: Bow
    outlook: Forecast
    draw: float


def balance(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    fingers: str,
    seen: bool = True,
    sought: float | None = None,
) -> Balance:
    """Compare the limbs by the gaps they would have at full brace.

    Args:
        limbs: grid of the design, with the design's natural bend and not the stave's: a crooked
            limb is judged by how it bends, and not by how it looks.
        seen: something was read that tells the limbs apart.
        sought: difference of the gaps that the maker wants (m), or None.

    Returns:
        How the limbs stand to each other.
    """
    shift = np.stack([0.5 * SHIFTS, -0.5 * SHIFTS], 1)[
        ..., None
    ]  # more or less of the upper limb, less or more of the lower
    on_its_marks = np.zeros((1, *estimate.field.shape))
    own, *rest = _gap_differences(
        limbs, bow, np.concatenate([on_its_marks, estimate.field + shift])
    )
    difference = np.array(rest)
    low, high = gap_wanted(fingers, float(own), sought)
    # a stiffer upper limb has the smaller upper gap: the difference falls as the ratio rises
    needed = float(np.interp(np.clip(own, low, high), difference[::-1], SHIFTS[::-1]))
    gap = float(np.interp(0.0, SHIFTS, difference))
    slope = float(np.interp(0.0, SHIFTS, np.gradient(difference, SHIFTS)))
    spread = abs(slope) * estimate.ratio_spread
    inside = low - 1e-9 <= gap <= high + 1e-9
    stiffer: Literal["", "upper", "lower"] = "" if inside else ("upper" if needed < 0 else "lower")
    at = judged_at(limbs)
    if not seen:
        return Balance(gap, spread, (low, high), "", 0.0, estimate.ratio, False, at)
    by, ratio = float(np.expm1(abs(needed))), estimate.ratio + needed
    return Balance(gap, spread, (low, high), stiffer, by, ratio, True, at)


def gap_wanted(fingers: str, own: float, sought: float | None = None) -> tuple[float, float]:
    """Low and high end of the wanted difference of the gaps, upper less lower (m): what the maker
    wants, else what the hold asks for, or about the design's own where the design was made to
    another.

    Args:
        own: difference that a bow exactly on its marks has (m).
        sought: what the maker wants (m), or None.
    """
    low, high = gap_band(fingers, sought)
    if sought is not None:
        return low, high
    if low - OWN_GAP <= own <= high + OWN_GAP:
        return min(low, own), max(high, own)
    half = 0.5 * (high - low)
    return own - half, own + half


def _gap_differences(limbs: LimbGrid, bow: Bow, fields: Floats) -> Floats:
    """Upper less lower gap at full brace of bows with these log stiffnesses, ``(B, 2, PLACES)``."""
    few = few_cells(limbs)
    varied = few.stiffened(np.exp(np.moveaxis(at_nodes(fields, few), 0, 1)))
    braced = statics.brace_bow(varied, bow)
    return gap_difference(varied, braced)


def limits(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    outlook: Forecast,
    plan: Plan,
    last_draw: float,
    level: bool,
) -> tuple[Limit, Limit]:
    """Pull no further than, and no harder than; each with what binds it.

    Args:
        bow: with the string that is on, as in the forecast.
        last_draw: how far it has been bent, as a draw on that string (m).
    """
    cap = Limit(plan.wanted_weight, "wanted weight")
    if plan.beginner and not plan.braced:
        cap = Limit(BEGINNER_SHARE * plan.wanted_weight, "beginner's share")
    harder = [cap, *(Limit(g.rating / g.times, "gear", g.name) for g in plan.gear)]
    hardest = min(harder, key=lambda limit: limit.value)
    further = [
        Limit(plan.full_draw, "full draw"),
        Limit(_draw_at(outlook, hardest.value), hardest.why, hardest.gear),
    ]
    if plan.school == "D":
        step = DRAW_STEP if level else 0.0
        further.append(
            Limit(max(last_draw, float(outlook.draws[0])) + step, "next inch" if level else "shape")
        )
    deeper = max(last_draw, float(outlook.draws[0])) + DEEPER
    further.append(Limit(deeper, "two inches"))
    draws, uses = _uses(limbs, bow, estimate, outlook.draws)
    further.append(Limit(float(np.interp(plan.most_use, uses, draws)), "strain"))
    furthest = min(further, key=lambda limit: limit.value)
    # what it has borne already, and where the string stands, is no limit
    borne = max(last_draw, float(outlook.draws[0]), bow.brace_height or 0.0)
    if furthest.value < borne:
        if furthest.why == "strain":
            passed = float(np.interp(borne, draws, uses)) / plan.most_use
        else:
            passed = float(np.interp(borne, outlook.draws, outlook.high)) / hardest.value
        borne = min(borne, plan.full_draw)
        furthest = replace(furthest, value=borne, passed=passed)
    return furthest, hardest


def as_drawn(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    outlook: Forecast,
    seen: float,
    others: Sequence[tuple[Bow, float]],
) -> float:
    """The draw at which bending the limbs takes as much work as they have been seen to bear on any
    string.

    Args:
        bow: with the string that is on.
        seen: the furthest draw read on that string, 0 without one (m).
        others: the bow with other strings, and the furthest draw read on each (m).

    Returns:
        A draw on the string that is on, no less than ``seen`` (m).
    """
    if not others:
        return seen
    draws, bent = _bent(limbs, bow, estimate, outlook.draws)
    for strung, draw in others:
        try:
            work = float(_bent(limbs, strung, estimate, np.array([draw]))[1].energy[0])
        except SolveError:  # it was read so, but the bow as estimated does not reach it
            continue
        if work > bent.energy[0]:
            seen = max(seen, float(np.interp(work, bent.energy, draws)))
    return seen


def _draw_at(outlook: Forecast, weight: float) -> float:
    """Draw at which the upper end of the forecast reaches a weight; the last draw if it does
    not.
    """
    return float(np.interp(weight, outlook.high, outlook.draws))


def _uses(limbs: LimbGrid, bow: Bow, estimate: Estimate, draws: Floats) -> tuple[Floats, Floats]:
    """How far the limbs as estimated are bent at some draws, as a share of what their layers bear
    for years: the weakest place counts, at the low end of what it may be. The draws, and the uses,
    which never fall.
    """
    few = few_cells(limbs)
    # a place at the low end of its own band bends more in proportion; the whole stays as estimated
    weaker = np.exp(at_nodes(0.5 * estimate.spread, few))
    draws, bent = _bent(limbs, bow, estimate, draws)
    worn = np.abs(bent.bend) * (weaker / _bears(few, bow, estimate))[:, None]
    return draws, np.maximum.accumulate(worn.max(axis=(0, 2)))


def _bent(limbs: LimbGrid, bow: Bow, estimate: Estimate, draws: Floats) -> tuple[Floats, Shapes]:
    """The limbs as estimated at some draws, which are at least the least that there is."""
    few = few_cells(limbs)
    now = few.stiffened(stiffness_factors(estimate, few))
    braced = statics.brace_bow(now, bow)
    draws = np.maximum(draws, float(braced.least_draw[0]) * (1.01 if braced.slack else 1 + 1e-9))
    drawn = statics.draw(now, bow.hold, braced, draws)
    return draws, shapes(now, drawn.tension, drawn.p, np.zeros(draws.size, np.int64))


def _bears(few: LimbGrid, bow: Bow, estimate: Estimate) -> Floats:
    """Bend that the layers bear for years at the nodes of limbs as thick as estimated, ``(2, n+1)``
    (1/m): a thicker limb bears less.
    """
    law = thinning(bow, few, np.linspace(0.0, 1.0, PLACES))
    thicker = at_nodes(law.standing(estimate.field) / law.depth, few)
    return np.asarray(bend_limits(bow, few).working / thicker)


def advise(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    outlook: Forecast,
    stand: Balance,
    plan: Plan,
    last_draw: float,
    pulls: int | None,
    string: str = "full",
    ahead: Ahead | None = None,
    doubt: Doubt = "",
    spare: tuple[Place, ...] = (),
    further: Limit | None = None,
    by_eye: float = 0.0,
) -> Advice:
    """Say what to do next.

    Args:
        last_draw: how far it has been bent, as a draw on the string that is on (m).
        pulls: short pulls given since wood last came off, or None if none has come off.
        string: which is on: long, low or full.
        ahead: the bow with that string and what is to be looked at next; without it the finished
            bow at its furthest draw.
        costs: what evening alone takes off the weight at full draw, or would (N).
        by_eye: it goes by marks alone, since nothing was weighed.
        doubt: why no wood may come off on this check's word.
        spare: places that somebody sees bend too much: nothing comes off there.
        further: how far it may be pulled next; None where nothing bounds it.
        by_eye: how far a place may still fall on the word of the eye alone (log stiffness), where
            the bow was not weighed but seen.
    """
    weight, settled = outlook.now.middle, outlook.settled
    if pulls is not None and pulls < ENOUGH_PULLS:
        return Advice("exercise", (), PULLS_AFTER_REMOVAL - pulls, weight, stand.gap, string=string)
    next_string = _ladder(limbs, bow, estimate, weight / plan.stop_at, stand, plan, string)
    fair = FAIR_PART - min(0.15, max(estimate.common_spread, estimate.ratio_spread))
    ratio = stand.ratio_wanted if stand.stiffer else estimate.ratio
    # the set that full draw still brings is kept back, and so is what is not known
    unsure = (settled.high - settled.middle) / (NINETY * settled.middle)
    stop_at = plan.stop_at * weight / settled.middle
    # nothing further to pull tells no more: what was kept back for it may come off
    stuck = further is not None and further.value < last_draw + NO_FURTHER
    near = stuck or _reached(outlook, plan, last_draw)
    aim = stop_at * (1 + (LAST if near else max(LAST, unsure - WELL_KNOWN)))
    target = wanted_state(limbs, bow, estimate, aim, plan.full_draw, ratio)
    act: Act = "take"
    costs = 0.0
    # shape first, weight after: what is uneven gives more of its share than what is only too strong
    excess = estimate.field - target.field
    even = excess[:, :-1].min(1, keepdims=True)
    part = fair / FAIR_PART * float(np.interp(np.log(max(weight / aim, 1.0)), *FAIR_WEIGHT))
    if np.median(estimate.spread) > UNREAD:
        part = FAIR_PART - min(0.3, 2.0 * estimate.common_spread)
    fall = fair * EVENING / FAIR_PART * (excess - even) + part * even
    removal = feathered(target.law.removal(estimate.field, fall))
    # a bow at weight pays for evenness only where it is sure to be uneven, a light one where it is
    # very much so
    worth = (plan.floor or plan.wanted_weight) / plan.wanted_weight
    light = settled.high < worth * plan.stop_at * 0.97
    lopsided = stand.by > (AGREE if light else max(EVEN_ENOUGH, estimate.ratio_spread))
    if stand.stiffer and lopsided and weight <= max(stop_at * 1.005, aim * DONE):
        # at weight already: only the stiffer limb gives, down to its share of the other
        act, k = "balance", 0 if stand.stiffer == "upper" else 1
        removal = np.zeros_like(removal)
        too_stiff = np.full_like(estimate.field, np.log1p(stand.by))
        removal[k] = fair * target.law.removal(estimate.field, too_stiff)[k]
        costs, share = _price(limbs, bow, estimate, target, removal, weight, stop_at, plan)
        # limbs that do not agree are no matter of taste: so far they are evened whatever it costs
        sure = np.log1p(stand.by) - estimate.ratio_spread
        removal *= max(share, float(np.clip((sure - np.log1p(AGREE)) / np.log1p(stand.by), 0, 1)))
    weak, stiff = uneven_places(limbs, estimate, target)
    weak += tuple(one for one in spare if not any(one.overlaps(other) for other in weak))
    # what evens two limbs spares what bends more than the rest of its own limb
    left = weak if act == "take" else tuple(p for p in weak if _bends_more(limbs, estimate, p))
    removal = sparing(limbs, removal, (*left, *spare))
    level = np.broadcast_to(target.field.max(1, keepdims=True), target.field.shape)
    removals = removals_of(limbs, removal, target.thickness)
    if weight <= aim * DONE and act == "take":
        removals = ()
    if doubt == "no weight" and by_eye > 0:
        uneven, spared = estimate.field - estimate.common, (*weak, *spare)
        return _by_eye(limbs, estimate, target, uneven, by_eye, spared, string, level)
    if doubt in ("wild weights", "wild limbs", "no weight", "changed") or (doubt and removals):
        return Advice(
            "look", (), 0, weight, stand.gap, None, weak, stiff, string=string, wanted=level,
            doubt=doubt,
        )  # fmt: skip
    if not removals:
        act = _without_wood(outlook, plan, last_draw, further)
        if act == "stop" and string != "full":  # no bow is finished on a tillering string
            rung = "low" if string == "long" else "full"
            height = bow.brace_height or BRACE_HEIGHT
            height *= LOW_BRACE if rung == "low" else 1.0
            if _brace_use(limbs, bow, estimate, height) <= BRACE_USE * plan.most_use:
                act, next_string = "brace", rung
        if act != "rescue" and next_string != string:
            act = "brace"
        return Advice(
            act, (), 0, weight, stand.gap, None, weak, stiff, string=next_string, wanted=level,
            costs=costs,
        )  # fmt: skip
    after = estimate.field + target.law.fall(estimate.field, removal)
    full = float(weights_of(limbs, bow, after[None], plan.full_draw)[0])
    look = ahead or Ahead(bow, outlook, last_draw)
    expected = _expected(limbs, look.bow, after, look.draw, float(look.outlook.draws[1]))
    gap = float(_gap_differences(limbs, bow, after[None])[0])
    return Advice(
        act,
        removals,
        PULLS_AFTER_REMOVAL,
        full,
        gap,
        expected,
        weak,
        stiff,
        removal,
        next_string,
        level,
        costs=weight - full,
    )


def _expected(
    limbs: LimbGrid, bow: Bow, after: Floats, last_draw: float, least: float
) -> tuple[float, float] | None:
    """A draw that has been read already (m), or else the least one, and the weight to expect there
    with the string that is on (N); nothing where it pulls nothing so near.
    """
    at = max(last_draw, least)
    try:
        return at, float(weights_of(limbs, bow, after[None], at)[0])
    except SolveError:
        return None


def _ladder(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    heavy: float,
    stand: Balance,
    plan: Plan,
    string: str,
) -> str:
    """The string for the next check: up one step once the limbs agree, and are light and thin
    enough to be braced so high.
    """
    steps = (
        ("long", "low", BRACE_LOW, LOW_BRACE * (bow.brace_height or BRACE_HEIGHT)),
        ("low", "full", BRACE_FULL, bow.brace_height or BRACE_HEIGHT),
    )
    for now, after, least, height in steps:
        if string == now and heavy <= least and stand.by <= AGREE:
            spare = _brace_use(limbs, bow, estimate, height) <= BRACE_USE * plan.most_use
            return after if spare else string
    return string


def _brace_use(limbs: LimbGrid, bow: Bow, estimate: Estimate, height: float) -> float:
    """How far the limbs as estimated are bent at a brace height, as a share of what their layers
    bear for years.
    """
    few = few_cells(limbs)
    now = few.stiffened(stiffness_factors(estimate, few))
    try:
        braced = statics.brace(now, bow.hold, np.array([height]))
    except StringTooShortError:
        return float("inf")
    except (
        SolveError
    ):  # a bow that follows its string may hang slack at a low brace: no strain there
        return 0.0
    bend = shapes(now, np.stack([braced.tension] * 2), braced.p).bend[:, 0]
    return float((np.abs(bend) / _bears(few, bow, estimate)).max())


def _bends_more(limbs: LimbGrid, estimate: Estimate, place: Place) -> bool:
    """Whether a place is weaker than its own limb as a whole, by half of what makes a hinge."""
    side = SIDES.index(place.limb)
    at = np.linspace(0.0, float(limbs.length[side, 0]), PLACES)
    there = estimate.field[side][(at >= place.start) & (at <= place.end)]
    whole = float(estimate.weights[side] @ estimate.field[side])
    return bool(there.size) and float(there.mean()) < whole - 0.5 * HINGE


def _by_eye(
    limbs: LimbGrid,
    estimate: Estimate,
    target: Target,
    uneven: Floats,
    most: float,
    spare: tuple[Place, ...],
    string: str,
    level: Floats,
) -> Advice:
    """Evening strokes on the word of the eye, no deeper than may come off unweighed."""
    fall = np.minimum(FAIR_PART * np.maximum(0.0, uneven), min(most, EYE_AT_ONCE))
    removal = sparing(limbs, feathered(target.law.removal(estimate.field, fall)), spare)
    removals = removals_of(limbs, removal, target.thickness)
    if not removals:
        return Advice(
            "look", (), 0, 0.0, 0.0, string=string, wanted=level, doubt="no weight", by_eye=True
        )
    return Advice(
        "take", removals, PULLS_AFTER_REMOVAL, 0.0, 0.0, None, spare, (), removal, string, level,
        by_eye=True,
    )  # fmt: skip


def _price(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    target: Target,
    removal: Floats,
    weight: float,
    stop_at: float,
    plan: Plan,
) -> tuple[float, float]:
    """What a removal that only evens the limbs costs at full draw (N), and how much of it leaves
    the weight above the maker's floor, as a share; 0 where that would be too little to notice.
    """
    least = stop_at * (plan.floor or plan.wanted_weight) / plan.wanted_weight
    after = estimate.field + target.law.fall(estimate.field, removal)
    costs = weight - float(weights_of(limbs, bow, after[None], plan.full_draw)[0])
    share = float(np.clip((weight - least) / max(costs, 1e-9), 0.0, 1.0))
    return costs, share if share >= WORTH_EVENING else 0.0


def _without_wood(
    outlook: Forecast, plan: Plan, last_draw: float, further: Limit | None = None
) -> Act:
    """What to do when nothing is to come off and the string stays."""
    if outlook.settled.high < plan.stop_at * 0.97:
        return "rescue"
    if further is not None and further.value < last_draw + NO_FURTHER:
        return "stop"  # what it will be is foretold, and not read
    near = _reached(outlook, plan, last_draw)
    return "stop" if near and outlook.settled.middle <= plan.stop_at * AT_WEIGHT else "pull"


def _reached(outlook: Forecast, plan: Plan, last_draw: float) -> bool:
    """Whether it has been drawn about as far as it may be before it is finished."""
    at_weight = float(np.interp(plan.wanted_weight, outlook.weights, outlook.draws))
    return last_draw >= min(plan.full_draw - 0.5 * DRAW_STEP, at_weight - 1.5 * DRAW_STEP)
