"""From a bench log to everything the tiller says: estimate, limits, forecast, balance, next act."""

from __future__ import annotations

import pickle
from collections import OrderedDict
from collections.abc import Mapping
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, field
from dataclasses import replace as changed
from hashlib import sha256
from itertools import accumulate
from threading import Lock

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.limb_grid import grid as cut_grid
from bowyery.bow.thinning import thinning
from bowyery.errors import DescriptionError, EstimateError, NotConvergedError, SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import Uses
from bowyery.tiller import advice as act
from bowyery.tiller.acts import Standing, acted, again
from bowyery.tiller.bite import USUAL_TOOL, Bite, Tool, bite_of, learned
from bowyery.tiller.chance import Chance, chance_of
from bowyery.tiller.changes import Act, Pass
from bowyery.tiller.estimate import (
    BEND,
    COMMON_SPREAD,
    CROOK,
    CROOKS,
    FIELD,
    NINETY,
    PLACES,
    Belief,
    Estimate,
    Sharper,
    Taken,
    at_nodes,
    carried,
    crooked,
    estimate,
    few_cells,
    first_belief,
    place_weights,
    taken_field,
    to_ask,
    unmoved,
    would_sharpen,
)
from bowyery.tiller.forecast import SCALE_OFF, Band, BenchRule, Forecast, bench_rules, forecast
from bowyery.tiller.keeping import kept, to_come
from bowyery.tiller.kinds import READINGS, Reading
from bowyery.tiller.kinds.eye import EYE, TOO_WEAK
from bowyery.tiller.kinds.marks import MARKS
from bowyery.tiller.log import Check, History, StringOn
from bowyery.tiller.narrow import SUSPECTED, Narrow
from bowyery.tiller.readings import draw_of_tips
from bowyery.tiller.rulers import Rulers
from bowyery.tiller.strokes import Stretch, stretches
from bowyery.tiller.target import Place, weights_of

LEFT_ON = 0.35  # log stiffness a roughed-out bow is expected to have beyond its design
SAME_PLACE = 0.03  # of an edge laid again where one lay before (m)
# Errors by which a straight edge shows more bend than all else would have it there, to be left
# alone: one edge by itself; or two within a hand, both by so much and together by so much.
RAISED, RAISED_TOO, RAISED_BOTH, A_HAND = 2.0, 0.6, 2.3, 0.1
UNLIKELY = 2.5 * COMMON_SPREAD  # further from that no bow is believed to be at first sight
HANDS_DIFFER = 0.15  # how much more one limb is given by as many strokes than the other
SAME_BRACE = 0.003  # as the finished one's (m)
KNOWN_LENGTH = 0.015  # so well a slack string's length is known where nobody need ask (m)
TOOLS_FOR = (0.0015, "drawknife"), (0.0006, "rasp")  # from so much thickness on (m)
SAFE = 1.3  # times the weight to stop at: of a bow at least so heavy some wood may always come off
TOO_LIGHT, TOO_HEAVY = -1.6, 2.6  # log of what no stave is, whatever agrees: a unit is mistaken
EYE_MOST = 0.2  # of log stiffness that may come off a place in all before anything was weighed
STRANGE = 4.5  # deviations that a place, or its natural bend, does not move between two looks
WIDE = 0.2  # a forecast's band, each way, at which no wood comes off
JUMPED = 0.25  # log stiffness a bow may have lost, or gained, between two looks without a word
MOST_JUMP = 0.5  # a greater one no forgotten pass explains: then the weights are doubted
TOGETHER = 1.7  # deviations of all weights of a check together, from which they outweigh
RISES = 1.3  # a weight rises so many times as fast with the draw as in proportion
OFF_AT_FULL = 0.03  # of a weight read at full draw: no belief carried there stands so far off it
FULL = 0.95  # of the full draw: a weight read there on the final string is believed alone
NO_FIT = (
    "No bow like this design reads so. Take no wood off: read weight and gaps again, and strike out"
    " the entry that is mistaken; the string and its length count too."
)


@dataclass(frozen=True)
class Workpiece:
    """The bow that is tillered, as its design has it.

    Attributes:
        bow: with its finished brace height and its hold.
        limbs: its grid, a batch of one.
        density: of its wood (kg/m³).
        width: of its limbs at their widest (m).
    """

    bow: Bow
    limbs: LimbGrid
    density: float
    width: float

    @property
    def length(self) -> float:
        """From nock to nock along the unstrung bow (m)."""
        return sum(limb.root[0] + limb.length for limb in self.bow.limbs)

    @property
    def roots(self) -> tuple[float, float]:
        """How far from the bow's centre each limb begins, upper and lower (m)."""
        return self.bow.upper.root[0], self.bow.lower.root[0]


@dataclass(frozen=True)
class Held:
    """The draw at the weight that is held, for makers who let the draw grow.

    Attributes:
        weight: that is held (N).
        draw: at which the bow pulls it now (m).
        before: at which it pulled it at the look before on the same rung, or None (m).
        after: at which it should pull it once what is advised has come off, or None (m).
    """

    weight: float
    draw: float
    before: float | None = None
    after: float | None = None


@dataclass(frozen=True)
class Shown:
    """What acts between two checks were to do, and did.

    Attributes:
        check: number of the check that showed it; 0 while none has.
        before: weight at full draw before them (N).
        foretold: weight that they were foretold to bring it to (N).
        low, high: its range (90 %).
        expected: weight foretold at that check, with the wood taken meanwhile (N).
        now: weight that the readings after them say, or None while there are none (N).
        now_low, now_high: its range (90 %).
    """

    acts: tuple[Act, ...]
    check: int
    before: float
    foretold: float
    low: float
    high: float
    expected: float = 0.0
    now: float | None = None
    now_low: float = 0.0
    now_high: float = 0.0


@dataclass(frozen=True)
class Look:
    """How the bow looked at a check: its shape at the furthest draw of it.

    Attributes:
        draw: of the shape (m); None where it hung or was braced.
        weight: read there (N), or None.
        along, across: of both limbs' nodes, ``(2, n+1)`` (m).
        field: log stiffness against the design then, ``(2, PLACES)``.
        spread: one standard deviation of it.
    """

    check: int
    draw: float | None
    weight: float | None
    along: Floats
    across: Floats
    field: Floats
    spread: Floats


@dataclass(frozen=True)
class BenchState:
    """Everything that is said of a bow at the tiller; what follows from readings is None before
    any.

    Attributes:
        history: checks so far, and what has happened since.
        further, harder: the limits of the next pull (m, N).
        bite: of the tool at hand, as learned from the passes so far.
        rules: the straight-line rules of the bench, beside the forecast.
        taken: thickness off so far by what was written down, ``(2, PLACES)`` (m).
        roots: how far from the bow's centre each limb begins (m).
        trouble: why there is no answer, a sentence.
        jump: how much more (log) the weights say than what earlier checks left; 0 where they agree.
        piece: the bow as it stands after all that changed it, or None before any reading.
        strokes: what to take, in stretches with strokes of the tool.
        held: the draw at the weight that is held.
        shown: what acts did, the newest last.
        suits: the tool that suits what is to come off.
        bites: of every tool that was named, as learned so far.
        looks: how the bow looked at the checks that are remembered.
        hinges: where a narrow weakness is suspected, with its chance.
        chance: of the next pull, as far as it may go.
        older: ids of weights of earlier looks that later ones contradict.
        ask: the readings that would tell most at the next look, together.
        rulers: what this maker's readings have been worth, by kind.
    """

    plan: act.Plan
    history: History
    check: Check | None = None
    now: Estimate | None = None
    outlook: Forecast | None = None
    stand: act.Balance | None = None
    further: act.Limit | None = None
    harder: act.Limit | None = None
    advice: act.Advice | None = None
    bite: Bite | None = None
    sharper: tuple[Sharper, ...] = ()
    rules: tuple[BenchRule, ...] = ()
    taken: Floats | None = None
    roots: dict[Side, float] = field(default_factory=dict)
    trouble: str = ""
    tool: str = USUAL_TOOL
    jump: float = 0.0
    piece: Workpiece | None = None
    strokes: tuple[Stretch, ...] = ()
    held: Held | None = None
    shown: tuple[Shown, ...] = ()
    suits: str = USUAL_TOOL
    bites: dict[str, Bite] = field(default_factory=dict)
    looks: tuple[Look, ...] = ()
    hinges: tuple[tuple[Place, float], ...] = ()
    older: tuple[int, ...] = ()
    chance: Chance | None = None
    ask: tuple[Reading, ...] = ()
    rulers: Rulers = field(default_factory=Rulers)

    @property
    def unmeasured(self) -> bool:
        """Whether a slack string is on whose length is hardly known."""
        on = self.history.string
        if on.rung != "long" or on.at is not None or self.now is None:
            return False
        seen = any(
            r.kind == "taut" and r.string == on.key
            for check in self.history.checks
            for r in check.readings
        )
        return not seen and self.now.slack_spread > KNOWN_LENGTH

    @property
    def wild(self) -> tuple[int, ...]:
        """Ids of the measures whose readings do not fit the others."""
        if self.now is None or self.check is None:
            return ()
        found = [self.check.readings[k].id for k in self.now.wild]
        return (*self.older, *(one for one in found if one is not None))


def most_use(uses: Uses) -> float:
    """How far limbs may be bent at the tiller, as a share of what their layers bear for years: a
    design that takes more than lasts is tillered to its own bend, short of what breaks it.

    Args:
        uses: of the design at full draw.

    Returns:
        The share.
    """
    breaks = uses.lasts / uses.breaks if uses.breaks > 0 else np.inf
    return float(min(max(1.0, 1.03 * uses.lasts), 0.95 * breaks))


def hands_shown(
    piece: Workpiece, past: History, full_draw: float, tools: tuple[Tool, ...] = ()
) -> tuple[dict[str, Bite], Rulers]:
    """What a bow's log has shown of the tools that were used on it, and of its maker's rulers.

    Args:
        full_draw: that it is made for (m).
        tools: of the shop, as if nothing had been seen of them.

    Returns:
        Bites by the tool's name, and what was seen of each kind of reading; nothing where its
        readings cannot be worked out.
    """
    walked = _Walked(piece, act.Plan(0.0, full_draw, tools=tools), few_cells(piece.limbs))
    try:
        for check in past.checks:
            walked.look(check, full_draw)
    except (SolveError, EstimateError, DescriptionError):
        return {}, Rulers()
    return walked.bites, walked.rulers


def work_out(piece: Workpiece, past: History, plan: act.Plan) -> BenchState:
    """Work out what the tiller says after the last check of a history.

    Args:
        past: its log; one check at least.

    Returns:
        The state, with all that follows from the readings.

    Raises:
        BowyeryError: nothing has been read, the readings cannot be used, or no bow stands or draws
            as they say.
    """
    try:
        return _worked(piece, past, plan)
    except SolveError:
        return BenchState(
            plan, past, past.checks[-1], trouble=NO_FIT,
            roots=dict(zip(SIDES, piece.roots, strict=True)),
        )  # fmt: skip


_KEPT = 48  # walks that are kept, each to one look
_walks: OrderedDict[str, _Walked] = OrderedDict()
_lock = Lock()


def _upto(piece: Workpiece, checks: tuple[Check, ...], plan: act.Plan) -> _Walked:
    """The walk through some checks. Walks are kept to each look, so that one more look costs one
    look and not all of them.
    """
    told = (piece.bow, piece.density, piece.width, plan.full_draw, plan.tools, plan.rulers,
            plan.share, plan.keeps)  # fmt: skip
    parts = [pickle.dumps(one) for one in (told, *checks)]
    keys = list(accumulate(parts, _chained, initial=""))[1:]
    with _lock:
        known = next((k for k in range(len(keys) - 1, -1, -1) if keys[k] in _walks), None)
        walked = None if known is None else _walks[keys[known]].copied()
    if walked is None or known is None:
        walked, known = _Walked(piece, plan, few_cells(piece.limbs)), 0
    for k, check in enumerate(checks[known:], known + 1):
        walked.look(check, plan.full_draw)
        with _lock:
            _walks[keys[k]] = walked.copied()
            while len(_walks) > _KEPT:
                _walks.popitem(last=False)
    return walked


def _chained(key: str, more: bytes) -> str:
    return sha256(key.encode() + more).hexdigest()


def _walk(piece: Workpiece, past: History, plan: act.Plan) -> _Walked:
    """Walk through the checks of a log, and what was done since the last."""
    walked = _upto(piece, past.checks, plan)
    if past.changes:
        walked.change(past.changes, plan.full_draw)
    return walked


def _worked(piece: Workpiece, past: History, plan: act.Plan) -> BenchState:
    walked = _walk(piece, past, plan)
    if walked.now is None:
        raise EstimateError("Nothing has been read yet, so there is nothing to work out.")
    now, bow, grid = changed(walked.now, belief=walked.belief), walked.bow, walked.grid
    piece = walked.piece
    last = past.checks[-1]
    if past.string != last.string:  # strung anew since
        now = changed(now, belief=now.belief.with_string(past.string.off))
    # the stave's own bend enters every forecast; how the limbs agree is judged without it
    design, grid = grid, crooked(grid, now.crook)
    brings, unsure = walked.brings(past.to_come, plan.full_draw)
    plan = changed(plan, brings=brings)
    still = to_come(
        grid, bow, now.field, plan.full_draw, plan.stop_at, walked.kept, plan.share, plan.keeps
    )
    outlook = forecast(grid, bow, now, plan.full_draw, past.last_draw, plan.losses, still)
    outlook = outlook.brought(brings, unsure)
    stand = act.balance(design, bow, now, plan.fingers, past.seen, plan.gap)
    # what it may be pulled to, and what it should show there, is of the string that is on
    rung, strung = past.string.rung, _strung(bow, past.string, piece.length)
    strung = bow if strung is bow else now.strung(strung)
    ahead = outlook
    if strung is not bow:
        ahead = forecast(grid, strung, now, plan.full_draw, past.last_draw, plan.losses)
    seen = _seen_bent(grid, piece, past, now, strung, ahead)
    further, harder = act.limits(grid, strung, now, ahead, plan, seen, not stand.stiffer)
    # where the next look can be held against this one: read already on this string, or in reach
    read = [draw for string, draw in past.deepest.items() if string.rung == rung]
    reach = further.value > seen + act.NO_FURTHER
    weighed = bool(past.weights)
    eyed = not weighed and any(m.how in EYE for m in past.marks)
    law = thinning(bow, grid, np.linspace(0.0, 1.0, PLACES))
    fallen = float(np.max(3 * walked.off / law.depth))
    ahead_of = act.Ahead(strung, ahead, max(read) if read else min(seen, further.value))
    hinges = walked.narrow.places(SUSPECTED)
    pulled = kept(grid, strung, now.field, further.value, plan.share, plan.keeps)
    spared = (*walked.raised, *(place for place, _ in hinges))
    spare = (*_marked(past, piece.roots), *spared)
    advice = act.advise(
        grid, bow, now, outlook, stand, plan, seen, past.pulls, rung, ahead_of,
        _doubt(past, last, now, outlook, plan, reach), spare, further,
        max(0.0, EYE_MOST - fallen) if eyed else 0.0,
    )  # fmt: skip
    suits = _tool(advice)
    tool = plan.tool or suits
    bite = walked.bite(tool)
    strokes = stretches(grid, advice.removal, bite) if advice.removals else ()
    sharper: tuple[Sharper, ...] = ()
    with suppress(SolveError):  # a bow a little otherwise may hang slack where this one was read
        sharper = would_sharpen(
            grid, past.string.on(bow, piece.length), now, _could_read(grid, last.draw, past.string)
        )
    rules = bench_rules(outlook, _weighed(last, now))
    roots = dict(zip(SIDES, piece.roots, strict=True))
    held = _held(walked, grid, strung, past, ahead, advice, harder.value)
    return BenchState(
        plan, past, last, now, outlook, stand, further, harder, advice, bite, sharper, rules,
        walked.off, roots, tool=tool, jump=walked.jump, piece=piece, strokes=strokes, held=held,
        shown=tuple(walked.shown), suits=suits, bites=dict(walked.bites), looks=tuple(walked.looks),
        ask=_to_ask(grid, strung, now, past, further.value, walked, spared), rulers=walked.rulers,
        hinges=hinges, older=walked.older,
        chance=chance_of(
            grid, strung, now, further.value, np.maximum(0.0, pulled - walked.kept),
            seen,
        ),
    )  # fmt: skip


def _pulls(grid: LimbGrid, bow: Bow, now: Estimate, draw: float) -> float:
    """What the bow as estimated pulls at a draw (N)."""
    return float(weights_of(grid, bow, now.field[None], draw)[0])


def _held(
    walked: _Walked,
    grid: LimbGrid,
    strung: Bow,
    past: History,
    ahead: Forecast,
    advice: act.Advice,
    weight: float,
) -> Held | None:
    """The draw at the weight that is held, now, at the look before, and after what is advised."""
    draws, weights = ahead.draws, np.maximum.accumulate(ahead.weights)
    if not weights[0] < weight:
        return None
    draw = float(np.interp(weight, weights, draws))  # the last one where it pulls less
    before = None
    if len(past.checks) > 1 and walked.before is not None:
        earlier = past.checks[-2]
        if earlier.string.rung == past.string.rung:
            before = _draw_at(walked.earlier, earlier, walked.before, weight, draws)
    after = None
    if advice.removals:
        law = thinning(strung, grid, np.linspace(0.0, 1.0, PLACES))
        left = walked.field + law.fall(walked.field, advice.removal)
        after = _reaches(grid, strung, left, weight, draws)
    return Held(weight, draw, before, after)


def _draw_at(
    piece: Workpiece, check: Check, now: Estimate, weight: float, draws: Floats
) -> float | None:
    """The draw at which a bow pulled a weight at an earlier look (m)."""
    limbs = crooked(few_cells(piece.limbs), now.crook)
    strung = _strung(piece.bow, check.string, piece.length)
    strung = strung if strung is piece.bow else now.strung(strung)
    return _reaches(limbs, strung, now.field, weight, draws)


def _reaches(
    limbs: LimbGrid, bow: Bow, field: Floats, weight: float, draws: Floats
) -> float | None:
    """The draw at which a bow pulls a weight, among some draws (m); None where it pulls more at
    the least of them, or cannot be drawn so.
    """
    few = few_cells(limbs)
    varied = few.stiffened(np.exp(at_nodes(field, few))[:, None])
    try:
        braced = statics.brace_bow(varied, bow)
        least = float(braced.least_draw[0]) * (1.01 if braced.slack else 1 + 1e-9)
        tried = np.maximum(draws, least)
        rising = np.maximum.accumulate(statics.draw(varied, bow.hold, braced, tried).weight)
    except SolveError:
        return None
    return float(np.interp(weight, rising, tried)) if rising[0] < weight else None


def _strung(bow: Bow, string: StringOn, length: float) -> Bow:
    """The bow as it hangs on a string; on the final one as it will be finished, braced as high as
    it is now.
    """
    if string.rung != "full":
        return string.on(bow, length)
    usual = bow.brace_height or 0.0
    if string.at is None or abs(string.at - usual) < SAME_BRACE:
        return bow
    return changed(bow, brace_height=string.at, string_length=None)


def _seen_bent(
    grid: LimbGrid, piece: Workpiece, past: History, now: Estimate, strung: Bow, ahead: Forecast
) -> float:
    """How far it has been drawn, as a draw on the string that is on (m): a looser string bends the
    limbs less at the same draw.
    """
    drawn = past.deepest
    seen = max(
        (draw for string, draw in drawn.items() if string.rung == past.string.rung), default=0.0
    )
    others = [
        (_strung(piece.bow, string, piece.length), draw)
        for string, draw in drawn.items()
        if string.rung != past.string.rung
    ]
    return act.as_drawn(grid, strung, now, ahead, seen, others)


def _weighed(check: Check, now: Estimate) -> tuple[tuple[float, float], ...]:
    """Draws with the weights read there in a check, those left out that are doubted, by draw."""
    rows = enumerate(check.readings)
    return tuple(
        sorted(
            (r.draw, r.value)
            for k, r in rows
            if r.kind == "weight" and r.draw and k not in now.wild
        )
    )


def _doubt(
    past: History, last: Check, now: Estimate, outlook: Forecast, plan: act.Plan, reach: bool
) -> act.Doubt:
    """Why no wood may come off on the word of a check."""
    if not past.weights:
        return "no weight"
    if any(again(one) for one in past.acts):
        return "changed"
    if _mostly_wild(last, now):
        return "wild weights"
    limbs = [k for k, r in enumerate(last.readings) if r.limb is not None]
    if limbs and 2 * sum(k in now.wild for k in limbs) >= len(limbs):
        return "wild limbs"
    wide = outlook.now.low < (1 - WIDE) * outlook.now.middle
    if not wide or outlook.settled.low >= SAFE * plan.stop_at:
        return ""
    return "wide" if reach else "unsure"


def _marked(past: History, roots: tuple[float, float]) -> tuple[Place, ...]:
    """Places that no wood comes off, because somebody marked them so."""
    return tuple(
        Place(m.limb, max(0.0, m.start - root), m.end - root, 0.0, True)
        for m in past.marks
        for root in (roots[SIDES.index(m.limb)],)
        if (m.how in TOO_WEAK or m.how in MARKS) and m.end > root
    )


def _tool(advice: act.Advice) -> str:
    """The tool for the deepest removal."""
    off = [sum(r.thickness for r in advice.removals if r.limb == side) for side in SIDES]
    deepest = max(off)
    return next((tool for least, tool in TOOLS_FOR if deepest >= least), USUAL_TOOL)


def _could_read(grid: LimbGrid, at: float | None, string: StringOn) -> tuple[Reading, ...]:
    """What else could be read at the last check's draw: an edge along the limbs, offsets, tips,
    gaps, the weight once more.
    """
    rows = list[Reading]()
    for side, name in enumerate(SIDES):
        places = np.linspace(0.12, 0.85, 7) * float(grid.length[side, 0])
        rows += [Reading("straight edge", 0.0, name, at, float(place), 0.15) for place in places]
        rows += [Reading("offset", 0.0, name, at, float(place)) for place in places[1:-1]]
        rows += [Reading("tip height", 0.0, name, at)] if at else []
        rows += [Reading("gap", 0.0, name)] if string.kind != "string long" else []
        rows += [Reading("profile", 0.0, name, at=float(place)) for place in places[1:-1]]
    rows += [Reading("taut", 0.0)] if string.kind == "string long" else []
    return tuple(rows) + ((Reading("weight", 0.0, draw=at),) if at else ())


SEVERAL = 4  # edges of a limb that tell what lies high all along it
EDGE_FINE = 0.00025  # what a straight edge says where a careful hand lays it, one deviation (m)
DECIDING = 3  # places of a limb at which an edge is asked for again, at the most
ASKED_EACH = 4  # straight edges of a limb at a look: more nobody lays
EDGE_EACH = 0.04  # apart, on a limb, where one can be laid (m)
EDGE_SPAN = 0.15  # of the edge that is asked for (m)


def _to_ask(
    grid: LimbGrid,
    strung: Bow,
    now: Estimate,
    past: History,
    draw: float,
    walked: _Walked,
    doubted: tuple[Place, ...],
) -> tuple[Reading, ...]:
    """Where to lay the straight edge at the next look: again where one read high or a hinge is
    suspected, since that decides, and else at the places that tell most together.
    """
    rows, again = list[Reading](), list[Reading]()
    for side, name in enumerate(SIDES):
        length = float(grid.length[side, 0])
        first, last = 0.5 * EDGE_SPAN, length - 0.6 * EDGE_SPAN
        for at in np.arange(first, max(last, first + 1e-9), EDGE_EACH):
            rows.append(
                Reading("straight edge", 0.0, name, draw, float(at), EDGE_SPAN, past.string.key)
            )
        own = {round(0.5 * (p.start + p.end), 2) for p in doubted if p.limb == name}
        places = [at for at in sorted(own) if first <= at <= last][:DECIDING]
        again += [changed(rows[-1], at=at) for at in places]
    bends = np.ones((2, PLACES))
    bends[:, [0, -2]], bends[:, -1] = 0.4, 0.0  # half of it is stiff, or bends next to nothing
    with suppress(SolveError):
        return to_ask(
            grid, {past.string.key: strung}, now, walked.rulers.read((*again, *rows)), ASKED_EACH,
            bends, len(again),
        )  # fmt: skip
    return ()


USUAL_DRAW = 0.5  # of a weight that tells nothing (m)
NOTHING_KNOWN = 1e6  # and its error (N)


class _Walked:
    """Where the walk through the looks at a bow stands: the bow, what is believed of it, and what
    its tools have shown.
    """

    def __init__(self, piece: Workpiece, plan: act.Plan, few: LimbGrid) -> None:
        self.piece, self.plan, self.grid = piece, plan, few
        self.belief: Belief = first_belief(few, LEFT_ON)
        self.bites: dict[str, Bite] = {}
        self.off = np.zeros((2, PLACES))
        self.now: Estimate | None = None
        self.before: Estimate | None = None
        self.earlier = piece
        self.jump = 0.0
        self.kept = np.zeros((2, CROOKS))
        self.weighed = False
        self.on: StringOn | None = None
        self.shown = list[Shown]()
        self.looks = list[Look]()
        self.raised = list[Place]()
        self.misfits = list[float]()
        self.against, self.told_of = list[Check](), list[Check]()
        self.older: tuple[int, ...] = ()
        self.rulers = plan.rulers
        self.narrow = self.no_hinge()

    def no_hinge(self) -> Narrow:
        """Before any edge was laid on the limbs as they stand."""
        return Narrow.none(float(self.grid.length.max()))

    @property
    def bow(self) -> Bow:
        return self.piece.bow

    @property
    def field(self) -> Floats:
        return self.belief.mean[FIELD].reshape(2, PLACES)

    def bite(self, tool: str) -> Bite:
        """What is known of a tool's bite so far."""
        name = tool or USUAL_TOOL
        if name not in self.bites:
            self.bites[name] = bite_of(name, self.plan.tools, self.piece.density, self.piece.width)
        return self.bites[name]

    def change(
        self, changes: tuple[Pass | Act, ...], full_draw: float, kept: Floats | None = None
    ) -> bool:
        """Take wood off and do what was done, in order; whether it was wood off the belly alone.

        Args:
            full_draw: where weights are foretold (m).
            kept: as for :func:`carried`, where a look follows.
        """
        plain = True
        rest = list(changes)
        while rest or kept is not None:
            run = list[Pass]()
            while rest and isinstance(rest[0], Pass) and not rest[0].face:
                run.append(rest.pop(0))  # type: ignore[arg-type]
            if run or kept is not None:
                taken = self.taken(tuple(run))
                self.belief = carried(self.grid, self.bow, self.belief, taken, kept)
                self.off = self.off + taken_field(self.grid, taken)
                kept = None
            acts = list[Act]()
            while rest and isinstance(rest[0], Act):
                acts.append(rest.pop(0))  # type: ignore[arg-type]
            if acts:
                self.do(acts, full_draw)
            while rest and isinstance(rest[0], Pass) and rest[0].face:
                bite = self.bite(rest[0].tool).thickness
                self.stand(acted(Standing(self.bow, self.grid, self.belief), rest.pop(0), bite))
                plain = False
            plain = plain and not acts
        return plain

    def stand(self, standing: Standing) -> None:
        """The bow stands otherwise from here on."""
        self.belief = standing.belief
        if standing.bow is self.bow:
            return
        shares = [
            after.length / before.length
            for after, before in zip(standing.bow.limbs, self.bow.limbs, strict=True)
        ]
        at = np.linspace(0.0, 1.0, PLACES)
        rows = [np.interp(at * share, at, row) for share, row in zip(shares, self.off, strict=True)]
        self.off = np.stack(rows)
        self.piece = changed(self.piece, bow=standing.bow, limbs=cut_grid(standing.bow))
        self.grid = standing.few
        self.narrow = self.no_hinge()

    def taken(self, passes: tuple[Pass, ...]) -> tuple[Taken, ...]:
        """Passes in the estimate's terms."""
        return _taken(self.piece, passes, {one.tool: self.bite(one.tool) for one in passes})

    def copied(self) -> _Walked:
        """A walk of its own from here."""
        other = copy(self)
        for name, value in vars(self).items():
            if isinstance(value, list | dict):
                setattr(other, name, value.copy())
        return other

    def look(self, check: Check, full_draw: float) -> None:
        """Read what a check says, after all that was done before it."""
        check = self.placed(check)
        before_kept, self.kept = self.kept, np.maximum(self.kept, self.keeps(check))
        before, stood = self.belief, self.piece
        plain = self.change(check.changes, full_draw, self.kept - before_kept)
        bows = check.bows(self.bow, self.piece.length)
        if check.string != self.on:  # another string, of whose length nothing is known yet
            self.on = check.string
            self.belief = self.belief.with_string(max(one.off for one in check.strings))
        first = not self.weighed  # until a weight was read there is nothing to hold one against
        self.weighed = self.weighed or any(r.kind == "weight" for r in check.readings)
        foretold = self.belief
        self.before, self.earlier = self.now, stood
        expected = self.weight(full_draw) if check.acts else None
        read = changed(check, readings=self.rulers.read(check.readings))
        self.now, self.jump = self.believed(bows, read, full_draw, first)
        self.rulers = self.rulers.after(check.readings, self.now)
        if plain:
            self.teach(check.passes, before, foretold, self.now)
        self.belief = self.now.belief
        if check.acts:
            self.told(check.number, expected, full_draw)
        self.looked(check, self.now)
        self.edged(check, self.now)

    def edged(self, check: Check, now: Estimate) -> None:
        """Keep where a straight edge says that the limb bends more than all else would have it:
        doubted or not, such a reading spares its place until an edge is laid there again.
        """
        edges = [(k, r) for k, r in enumerate(check.readings) if r.kind == "straight edge"]
        if now.foretold is not None:
            seen = list[tuple[Reading, float, float]]()
            for k, r in edges:
                off, own = (float(v) for v in now.foretold[:, k])
                error = r.error or self.rulers.error(r) or EDGE_FINE
                seen.append((r, r.value - off, float(np.hypot(error, own))))
            self.narrow = self.narrow.after(seen)
        self.raised = [
            one
            for one in self.raised
            if not any(
                r.limb == one.limb and abs((r.at or 0.0) - 0.5 * (one.start + one.end)) < SAME_PLACE
                for _, r in edges
            )
        ]
        high = {k: (r.value - float(now.predicted[k])) / EDGE_FINE for k, r in edges}
        self.misfits += [abs(one) for one in high.values()]
        # by this maker's own edges: half of a fair spread lies within two thirds of its deviation
        rough = max(1.0, float(np.median(self.misfits)) / 0.674) if self.misfits else 1.0
        high = {k: one / rough for k, one in high.items()}
        for name in SIDES:  # a hinge is a place: what lies high all along a limb is none
            mine = [k for k, r in edges if r.limb == name]
            if len(mine) >= SEVERAL:
                along = max(0.0, float(np.quantile([high[k] for k in mine], 0.25)))
                high.update({k: high[k] - along for k in mine})
        for k, r in edges:
            beside = max(
                (high[j] for j, other in edges if j != k and other.limb == r.limb
                 and abs((other.at or 0.0) - (r.at or 0.0)) < A_HAND), default=0.0,
            )  # fmt: skip
            both = min(high[k], beside) > RAISED_TOO and high[k] + beside > RAISED_BOTH
            if (high[k] > RAISED or both) and r.limb is not None:
                at, half = r.at or 0.0, 0.25 * (r.span or 0.0)  # an edge tells most of its middle
                self.raised.append(Place(r.limb, max(0.0, at - half), at + half, 0.0, True))

    def believed(
        self, bows: dict[str, Bow], check: Check, full_draw: float, first: bool
    ) -> tuple[Estimate, float]:
        """What a check says, and how much its weights jump. Where two looks one after another stand
        against what an earlier one taught, or no bow is as it taught, that one is doubted and the
        limbs are believed from here on.
        """
        now: Estimate | None = None
        jump = 0.0
        with suppress(SolveError):
            now, jump = _looked(self.grid, bows, check, self.belief, full_draw, first)
            now = self.standing(now, bows, check, full_draw)
            if not first and _strange(now, self.belief):
                now, jump = self.doubted(bows, check), 0.0
        if now is not None and (first or not _mostly_wild(check, now)):
            self.against = []
            self.told_of.append(check)
            return now, jump
        self.against.append(check)
        if now is None or len(self.against) > 1:
            fresh = estimate(self.grid, bows, check.readings, first_belief(self.grid, LEFT_ON))
            if not _mostly_wild(check, fresh):
                self.older = tuple(
                    one for c in self.told_of for one in self.contradicted(c, fresh.belief)
                )
                self.against, self.told_of = [], [check]
                return fresh, 0.0
        if now is None:
            raise NotConvergedError("No bow reads so.")
        return now, jump

    def standing(
        self, now: Estimate, bows: dict[str, Bow], check: Check, full_draw: float
    ) -> Estimate:
        """What a check says, if a bow can stand and be drawn so; else what was believed before, and
        its weights are doubted.
        """
        try:
            _pulls(crooked(self.grid, now.crook), self.bow, now, full_draw)
        except SolveError:
            return self.doubted(bows, check)
        return now

    def doubted(self, bows: dict[str, Bow], check: Check) -> Estimate:
        """What was believed before, where the weights of a check are doubted."""
        before = unmoved(self.grid, bows, check.readings, self.belief)
        weights = {k for k, r in enumerate(check.readings) if r.kind == "weight"}
        return changed(before, wild=tuple(sorted({*before.wild, *weights})))

    def contradicted(self, check: Check, belief: Belief) -> list[int]:
        """Ids of the weights of an earlier check that do not fit what is believed now."""
        bows = check.bows(self.bow, self.piece.length)
        try:
            wild = unmoved(self.grid, bows, check.readings, belief).wild
        except SolveError:
            wild = tuple(range(len(check.readings)))
        rows = [check.readings[k] for k in wild]
        return [r.id for r in rows if r.kind == "weight" and r.id is not None]

    def placed(self, check: Check) -> Check:
        """Weights whose draw was not read, at the draw where the tips have come down as they were
        read: how far they come down goes with the string and the draw, and hardly with the wood.
        Those with no tips beside them tell nothing.
        """
        bare = [r for r in check.readings if r.kind == "weight" and r.draw is None]
        if not bare:
            return check
        tips = [r for r in check.readings if r.kind == "tip height" and r.draw is None]
        draw = None
        if tips and check.string.rung == "long":
            bow = check.string.on(self.bow, self.piece.length)
            with suppress(SolveError):
                draw = draw_of_tips(self.grid, bow, self.field, tips)
        known, error = (check.draw or USUAL_DRAW, NOTHING_KNOWN) if draw is None else (draw, None)
        moved = bare if draw is None else [*bare, *tips]
        rows = (
            changed(r, draw=known, error=error or r.error) if r in moved else r
            for r in check.readings
        )
        return changed(check, readings=tuple(rows))

    def keeps(self, check: Check) -> Floats:
        """What the limbs keep of the furthest draw of a check, ``(2, CROOKS)`` (1/m)."""
        if check.draw is None:
            return np.zeros((2, CROOKS))
        crook = CROOK * self.belief.mean[BEND].reshape(2, CROOKS)
        strung = _strung(self.bow, check.string, self.piece.length)
        return kept(
            crooked(self.grid, crook), strung, self.field, check.draw, self.plan.share,
            self.plan.keeps,
        )  # fmt: skip

    def looked(self, check: Check, now: Estimate) -> None:
        """Keep how the bow looked."""
        limbs = crooked(self.grid, now.crook).stiffened(
            np.exp(at_nodes(now.field, self.grid))[:, None]
        )
        bow = _strung(self.bow, check.string, self.piece.length)
        bow = bow if bow is self.bow else now.strung(bow)
        with suppress(SolveError):
            braced = statics.brace_bow(limbs, bow)
            if check.draw is not None and check.draw > float(braced.least_draw[0]):
                drawn = statics.draw(limbs, bow.hold, braced, np.array([check.draw]))
                bent = shapes(limbs, drawn.tension, drawn.p)
            elif braced.slack:
                bent = shapes(limbs, np.zeros((2, 1)), np.zeros((2, 1)))
            else:
                bent = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
            weights = [
                r.value for r in check.readings if r.kind == "weight" and r.draw == check.draw
            ]
            weight = weights[-1] if weights else None
            self.looks.append(
                Look(
                    check.number, check.draw, weight, bent.along[:, 0], bent.across[:, 0],
                    now.field, now.spread,
                )
            )  # fmt: skip

    def teach(
        self, passes: tuple[Pass, ...], before: Belief, foretold: Belief, now: Estimate
    ) -> None:
        """What a check showed of the strokes before it: where only strokes of one tool were
        counted, the fall there against the belief.
        """
        counted = [one for one in passes if one.strokes]
        if not counted or len(counted) < len(passes) or len({one.tool for one in counted}) > 1:
            return
        taken = self.taken(passes)
        if len(taken) < len(passes):
            return
        name = counted[0].tool or USUAL_TOOL
        self.bites[name] = _taught(
            self.grid, self.bow, self.bite(name), max(one.strokes or 1 for one in counted), taken,
            (before, foretold), now,
        )  # fmt: skip

    def do(self, acts: list[Act], full_draw: float) -> None:
        """Do what was done to the bow, and note what that was foretold to do."""
        was = self.weight(full_draw)
        for one in acts:
            self.stand(acted(Standing(self.bow, self.grid, self.belief), one))
        told = self.weight(full_draw)
        if was is not None and told is not None:
            self.shown.append(Shown(tuple(acts), 0, was.middle, told.middle, told.low, told.high))

    def brings(self, acts: tuple[Act, ...], full_draw: float) -> tuple[float, float]:
        """How many times as much the bow will pull once acts that are still to come are done, and
        one deviation of that, as a share; one and nothing where that cannot be told.
        """
        if not acts:
            return 1.0, 0.0
        try:
            before = _weight(self.piece, self.belief, full_draw)
            standing = Standing(self.bow, self.grid, self.belief)
            for one in acts:
                standing = acted(standing, one)
            later = changed(self.piece, bow=standing.bow, limbs=cut_grid(standing.bow))
            after = _weight(later, standing.belief, full_draw)
        except (SolveError, DescriptionError):
            return 1.0, 0.0
        wide = np.log(after.high / after.low) ** 2 - np.log(before.high / before.low) ** 2
        return after.middle / before.middle, float(np.sqrt(max(0.0, wide))) / (2 * NINETY)

    def weight(self, full_draw: float) -> Band | None:
        """The weight at full draw that is believed; None before any reading, or where the bow
        cannot be drawn so.
        """
        if self.now is None:
            return None
        try:
            return _weight(self.piece, self.belief, full_draw)
        except SolveError:
            return None

    def told(self, check: int, expected: Band | None, full_draw: float) -> None:
        """Note what the readings after acts say of them."""
        now = self.weight(full_draw)
        if expected is None or now is None:
            return
        self.shown = [
            one
            if one.check
            else changed(
                one, check=check, expected=expected.middle, now=now.middle, now_low=now.low,
                now_high=now.high,
            )
            for one in self.shown
        ]  # fmt: skip


def _weight(piece: Workpiece, belief: Belief, full_draw: float) -> Band:
    """The weight at full draw that is believed, with its range."""
    limbs = few_cells(piece.limbs)
    mean = belief.mean
    crook = CROOK * mean[BEND].reshape(1, 2, CROOKS)
    field = mean[FIELD].reshape(2, PLACES)
    middle = float(weights_of(crooked(limbs, crook[0]), piece.bow, field[None], full_draw)[0])
    counts = place_weights(limbs).ravel() / 2
    spread = float(np.sqrt(counts @ belief.covariance[FIELD, FIELD] @ counts))
    wide = float(np.exp(NINETY * spread))
    return Band(middle=middle, low=middle / wide, high=middle * wide)


def _looked(
    grid: LimbGrid,
    bows: dict[str, Bow],
    check: Check,
    belief: Belief,
    full_draw: float,
    first: bool,
) -> tuple[Estimate, float]:
    """What a check says, and how much its weights jump from what the checks before left. Weights
    that stand against all that was known, by more than anybody forgets to write down, leave it as
    it was.
    """
    if first:
        now = estimate(grid, bows, check.readings, belief)
        alike = sum(r.kind == "weight" for r in check.readings) > 1 and not now.wild
        # one weight alone that no rough bow of this design pulls is doubted; several are not
        far = now.common - LEFT_ON
        if abs(far) > UNLIKELY and not (alike and TOO_LIGHT < far < TOO_HEAVY):
            now = unmoved(grid, bows, check.readings, belief)
            weights = {k for k, r in enumerate(check.readings) if r.kind == "weight"}
            now = changed(now, wild=tuple(sorted({*now.wild, *weights})))
        return now, 0.0
    try:
        now = estimate(grid, bows, check.readings, belief)
    except SolveError:  # no bow reads so
        return unmoved(grid, bows, check.readings, belief), 0.0
    if _outweighed(check, now, full_draw):
        # the scale is right: something happened that nobody wrote down
        with suppress(SolveError):  # no bow jumps so: then the weights are doubted
            again = estimate(grid, bows, check.readings, belief.wider(JUMPED))
            moved = float(again.common - belief.mean[FIELD] @ again.weights.ravel() / 2)
            if abs(moved) < MOST_JUMP and not _outweighed(check, again, full_draw):
                return again, moved
    if _mostly_wild(check, now):
        return unmoved(grid, bows, check.readings, belief), 0.0
    return now, 0.0


def _strange(now: Estimate, before: Belief) -> bool:
    """Whether what is believed now lies so far off what was believed that no bow changes so."""
    moved = np.abs(now.belief.mean - before.mean) / np.sqrt(np.diag(before.covariance))
    return bool(moved[: BEND.stop].max() > STRANGE)


def _mostly_wild(check: Check, now: Estimate) -> bool:
    """Whether half of a check's weights or more do not fit."""
    weights = [k for k, r in enumerate(check.readings) if r.kind == "weight"]
    return bool(weights) and 2 * sum(k in now.wild for k in weights) >= len(weights)


def _outweighed(check: Check, now: Estimate, full_draw: float) -> bool:
    """Whether every weight of a check stands against what the checks before it taught: two at
    least, or one at full draw on the final string.
    """
    rows = [(k, r) for k, r in enumerate(check.readings) if r.kind == "weight"]
    full = [
        (k, r) for k, r in rows
        if check.string.rung == "full" and (r.draw or 0.0) >= FULL * full_draw
    ]  # fmt: skip
    if any(abs(r.at_once - now.predicted[k]) > OFF_AT_FULL * r.value for k, r in full):
        return True
    if len(rows) > 1 and all(k in now.wild for k, _ in rows):
        return True
    if len(rows) < 2:
        return False
    # none of them alone, but all to one side: by more than the scale may be off
    off = np.array([r.at_once - now.predicted[k] for k, r in rows])
    own = sum(READINGS["weight"].error(r, r.value, RISES * r.value / (r.draw or 1.0)) ** 2
              for _, r in rows)  # fmt: skip
    alike = SCALE_OFF * sum(r.value for _, r in rows)
    same = bool(np.all(off > 0) or np.all(off < 0))
    return same and abs(float(off.sum())) > TOGETHER * float(np.hypot(np.sqrt(own), alike))


def _taken(
    piece: Workpiece, passes: tuple[Pass, ...], bites: Mapping[str, Bite]
) -> tuple[Taken, ...]:
    """Passes in the estimate's terms: places from the limb's root, strokes as thickness by the
    bite of their tool as known.
    """
    rows = []
    for one in passes:
        root = piece.roots[SIDES.index(one.limb)]
        length = piece.bow.limbs[SIDES.index(one.limb)].length
        start, end = (None if v is None else max(0.0, v - root) for v in (one.start, one.end))
        if end is not None and start is not None and (end <= start or start >= length):
            continue  # within the handle, or beyond the nock: nothing that bends
        if one.thickness is not None:
            rows.append(Taken(one.limb, one.thickness, start, end, 0.2))
        else:
            bite = bites[one.tool]
            spread = min(0.6, float(np.hypot(bite.spread, HANDS_DIFFER)))
            rows.append(Taken(one.limb, (one.strokes or 0) * bite.thickness, start, end, spread))
    return tuple(rows)


def _taught(
    grid: LimbGrid,
    bow: Bow,
    bite: Bite,
    strokes: int,
    taken: tuple[Taken, ...],
    beliefs: tuple[Belief, Belief],
    now: Estimate,
) -> Bite:
    """A tool's bite after a check.

    How much more or less came off each limb than was foretold belongs to what was believed of the
    limbs when they were read, so that the readings tell of it as they tell of the limbs themselves
    (the smoother of Rauch, Tung and Striebel 1965). What was believed of it before is divided out,
    and what remains of both limbs is one reading of the tool.
    """
    before, foretold = beliefs
    law = thinning(bow, grid, np.linspace(0.0, 1.0, PLACES))
    fall = law.fall(before.mean[FIELD].reshape(2, PLACES), taken_field(grid, taken))
    sides = [k for k, name in enumerate(SIDES) if any(one.limb == name for one in taken)]
    wide = np.array([max(t.spread for t in taken if t.limb == SIDES[k]) ** 2 for k in sides])
    shared = np.zeros((2 * PLACES, len(sides)))
    for column, side in enumerate(sides):
        shared[side * PLACES : (side + 1) * PLACES, column] = wide[column] * fall[side]
    prior = foretold.covariance[FIELD, FIELD]
    gain = np.linalg.solve(prior, shared)
    off = gain.T @ (now.field.ravel() - foretold.mean[FIELD])
    left = np.diag(wide) - gain.T @ (prior - now.covariance) @ gain
    sizes, axes = np.linalg.eigh(left / np.sqrt(np.outer(wide, wide)))
    sizes = np.clip(sizes, 1e-3, 0.999)  # of what was believed before, along each axis
    scale = np.sqrt(wide)
    told = (axes.T @ (off / scale)) / (1 - sizes)  # by the readings alone
    error = sizes / (1 - sizes)
    cover = (axes * error) @ axes.T * np.outer(scale, scale) + HANDS_DIFFER**2 * np.eye(wide.size)
    weights = np.linalg.solve(cover, np.ones(wide.size))
    factor = 1 + float(weights @ (scale * (axes @ told)) / weights.sum())
    spread = float(weights.sum() ** -0.5)
    size = strokes * bite.thickness
    return learned(bite, strokes, size * factor, size * spread)
