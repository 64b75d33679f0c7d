"""From a bench log to everything the tiller says: estimate, limits, forecast, balance, next act."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, field
from dataclasses import replace as changed

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import thinning
from bowyery.errors import EstimateError, SolveError
from bowyery.mechanics.strain import Uses
from bowyery.tiller import advice as act
from bowyery.tiller.bite import Bite, first_bite, learned
from bowyery.tiller.estimate import (
    COMMON_SPREAD,
    FIELD,
    PLACES,
    Belief,
    Estimate,
    Sharper,
    Taken,
    carried,
    crooked,
    estimate,
    few_cells,
    first_belief,
    taken_field,
    unmoved,
    would_sharpen,
)
from bowyery.tiller.forecast import BenchRule, Forecast, bench_rules, forecast
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import Check, History, Pass, StringOn

LEFT_ON = 0.35  # log stiffness a roughed-out bow is expected to have beyond its design
UNLIKELY = 2.5 * COMMON_SPREAD  # further from that no bow is believed to be at first sight
REMEMBERED = 8  # checks back that are fitted anew; what came before is in the first belief's width
SAME_BRACE = 0.003  # as the finished one's (m)
KEEPS = 4  # power of the draw that what limbs keep of it goes with
KNOWN_LENGTH = 0.015  # so well a slack string's length is known where nobody need ask (m)
TOOL = "scraper"
TOOLS_FOR = (0.0015, "drawknife"), (0.0006, "rasp")  # from so much thickness on (m)
WIDE = 0.2  # a forecast's band, each way, at which no wood comes off
JUMPED = 0.25  # log stiffness a bow may have lost, or gained, between two looks without a word
MOST_JUMP = 0.5  # a greater one no forgotten pass explains: then the weights are doubted
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
class BenchState:
    """Everything that is said of a bow at the tiller; what follows from readings is None before
    any.

    Attributes:
        plan: what is to be reached.
        history: checks so far, and what has happened since.
        check: the newest check.
        now: the estimate.
        outlook: forecast at full draw.
        stand: what the balance says.
        further, harder: the limits of the next pull (m, N).
        advice: the next act.
        bite: of the tool at hand, as learned from the passes so far.
        sharper: readings that would tell most.
        rules: the straight-line rules of the bench, beside the forecast.
        taken: thickness off so far by what was written down, ``(2, PLACES)`` (m).
        roots: how far from the bow's centre each limb begins (m).
        trouble: why there is no answer, a sentence.
        tool: that the strokes are of.
        jump: how much more (log) the weights say than what earlier checks left; 0 where they agree.
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
    tool: str = TOOL
    jump: float = 0.0

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
        return tuple(one for one in found if one is not None)


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


def work_out(piece: Workpiece, past: History, plan: act.Plan) -> BenchState:
    """Work out what the tiller says after the last check of a history.

    Args:
        piece: the bow.
        past: its log; one check at least.
        plan: what is to be reached.

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


def _worked(piece: Workpiece, past: History, plan: act.Plan) -> BenchState:
    grid, bow = few_cells(piece.limbs), piece.bow
    now, bite, off, jump = _estimates(piece, grid, past.checks, plan.full_draw)
    if past.passes:
        # wood has come off since: what was known of the limbs falls with their thickness
        taken = _taken(piece, past.passes, bite)
        off = off + taken_field(grid, taken)
        now = changed(now, belief=carried(grid, bow, now.belief, taken))
    last = past.checks[-1]
    if past.string != last.string:  # strung anew since
        now = changed(now, belief=now.belief.with_string(past.string.off))
    # the stave's own bend enters every forecast; how the limbs agree is judged without it
    design, grid = grid, crooked(grid, now.crook)
    outlook = forecast(grid, bow, now, plan.full_draw, past.last_draw, plan.losses)
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
    ahead_of = act.Ahead(strung, ahead, max(read) if read else min(seen, further.value))
    advice = act.advise(
        grid, bow, now, outlook, stand, plan, seen, past.pulls, rung, ahead_of,
        _doubt(past, last, now, outlook),
    )  # fmt: skip
    tool = _tool(advice)
    if tool != TOOL:
        bite = first_bite(tool, piece.density, piece.width)
    sharper = would_sharpen(
        grid, past.string.on(bow, piece.length), now, _could_read(grid, last.draw, past.string)
    )
    rules = bench_rules(outlook, _weighed(last, now))
    roots = dict(zip(SIDES, piece.roots, strict=True))
    return BenchState(
        plan, past, last, now, outlook, stand, further, harder, advice, bite, sharper, rules, off,
        roots, tool=tool, jump=jump,
    )  # fmt: skip


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


def _doubt(past: History, last: Check, now: Estimate, outlook: Forecast) -> act.Doubt:
    """Why no wood may come off on the word of a check."""
    if not past.weights:
        return "no weight"
    if _mostly_wild(last, now):
        return "wild weights"
    limbs = [k for k, r in enumerate(last.readings) if r.limb is not None]
    if limbs and 2 * sum(k in now.wild for k in limbs) >= len(limbs):
        return "wild limbs"
    return "wide" if outlook.now.low < (1 - WIDE) * outlook.now.middle else ""


def _tool(advice: act.Advice) -> str:
    """The tool for the deepest removal."""
    off = [sum(r.thickness for r in advice.removals if r.limb == side) for side in SIDES]
    deepest = max(off)
    return next((tool for least, tool in TOOLS_FOR if deepest >= least), TOOL)


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
    rows += [Reading("taut", 0.0)] if string.kind == "string long" else []
    return tuple(rows) + ((Reading("weight", 0.0, draw=at),) if at else ())


def _estimates(
    piece: Workpiece, grid: LimbGrid, checks: tuple[Check, ...], full_draw: float
) -> tuple[Estimate, Bite, Floats, float]:
    """Estimate from the newest check, with what the checks before it taught; the tool's bite; what
    has come off; and how much the newest weights jump from what the checks before left.
    """
    belief: Belief = first_belief(grid, LEFT_ON)
    bite = first_bite(TOOL, piece.density, piece.width)
    off, now, jump = np.zeros((2, PLACES)), None, 0.0
    on: StringOn | None = None
    worn = 0.0
    for check in checks[-REMEMBERED:]:
        taken = _taken(piece, check.passes, bite)
        bent = max(worn, min(1.0, (check.draw or 0.0) / full_draw) ** KEEPS)
        deeper, worn = bent - worn, bent
        before, belief = belief, carried(grid, piece.bow, belief, taken, deeper)
        off = off + taken_field(grid, taken)
        bows = check.bows(piece.bow, piece.length)
        if check.string != on:  # another string, of whose length nothing is known yet
            on = check.string
            belief = belief.with_string(max(one.off for one in check.strings))
        now, jump = _looked(grid, bows, check, belief, full_draw, now is None)
        bite = _taught(grid, piece.bow, bite, check.passes, taken, before, now)
        belief = now.belief
    if now is None:
        raise EstimateError("Nothing has been read yet, so there is nothing to work out.")
    return now, bite, off, jump


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
        if abs(now.common - LEFT_ON) > UNLIKELY:  # no rough bow of this design is so stiff, or weak
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


def _mostly_wild(check: Check, now: Estimate) -> bool:
    """Whether half of a check's weights or more do not fit."""
    weights = [k for k, r in enumerate(check.readings) if r.kind == "weight"]
    return bool(weights) and 2 * sum(k in now.wild for k in weights) >= len(weights)


def _outweighed(check: Check, now: Estimate, full_draw: float) -> bool:
    """Whether every weight of a check stands against what the checks before it taught: two at
    least, or one at full draw on the final string.
    """
    rows = [(k, r) for k, r in enumerate(check.readings) if r.kind == "weight"]
    sure = len(rows) > 1 or any(
        check.string.rung == "full" and (r.draw or 0.0) >= FULL * full_draw for _, r in rows
    )
    return sure and all(k in now.wild for k, _ in rows)


def _taken(piece: Workpiece, passes: tuple[Pass, ...], bite: Bite) -> tuple[Taken, ...]:
    """Passes in the estimate's terms: places from the limb's root, strokes as thickness by the
    bite as known.
    """
    rows = []
    for one in passes:
        root = piece.roots[SIDES.index(one.limb)]
        start, end = (None if v is None else max(0.0, v - root) for v in (one.start, one.end))
        if end is not None and start is not None and end <= start:
            continue  # within the handle: nothing that bends
        if one.thickness is not None:
            rows.append(Taken(one.limb, one.thickness, start, end, 0.2))
        else:
            spread = min(0.6, float(np.hypot(bite.spread, 0.15)))
            rows.append(Taken(one.limb, (one.strokes or 0) * bite.thickness, start, end, spread))
    return tuple(rows)


def _taught(
    grid: LimbGrid,
    bow: Bow,
    bite: Bite,
    passes: tuple[Pass, ...],
    taken: tuple[Taken, ...],
    before: Belief,
    now: Estimate,
) -> Bite:
    """What a check showed of the strokes before it: where only strokes were counted, the fall
    there against the belief.
    """
    counted = [one for one in passes if one.strokes]
    if not counted or len(counted) < len(passes) or len(taken) < len(passes):
        return bite
    law = thinning(bow, grid, np.linspace(0.0, 1.0, PLACES))
    for one, there in zip(counted, taken, strict=True):
        where = taken_field(grid, (changed(there, thickness=1.0),))
        pick = (where / max(float(where.sum()), 1e-9)).ravel()
        fall = float(pick @ (before.mean[FIELD] - now.field.ravel()))
        known = before.covariance[FIELD, FIELD] + now.covariance
        spread = float(np.sqrt(pick @ known @ pick))
        field = before.mean[FIELD].reshape(2, PLACES)
        off, more = (
            float(pick @ law.removal(field, np.full_like(field, part)).ravel())
            for part in (fall, fall + spread)
        )
        bite = learned(bite, one.strokes or 1, off, more - off)
    return bite
