"""After a practice session: what was true, what was done, and what would have helped."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Side
from bowyery.errors import SolveError
from bowyery.practice.session import (
    LONG_HOLD,
    Act,
    State,
    begin,
    do,
    drawn,
    goes_at,
    level,
    plan_of,
    settled,
    string_off,
    truth,
)
from bowyery.practice.worlds import Setup
from bowyery.tiller.log import StringOn
from bowyery.units.quantity import Units

HAND = 0.045  # share of a limb over which a hand feels it: deviation
EVEN = 0.12  # log stiffness off the wanted one that counts as even
NEAR = 0.03  # of the wanted weight
LEAST_TOLD = 0.00001  # less thickness than that is nothing (m)
HARMED = 0.0001  # thickness taken beyond need that is told (m)
MOST_SENTENCES = 3


@dataclass(frozen=True)
class Outcome:
    """What became of a stave.

    Attributes:
        weight: at full draw on the finished brace (N); None: broken, or not to be drawn so.
        wanted: there, before finishing (N).
        even: share of the limbs that is within 12 % of the stiffness wanted.
        set: how far both tips have followed the string, in the mean (m).
        full: it has been drawn on its finished brace as far as the wanted weight lets it.
    """

    weight: float | None
    wanted: float
    even: float
    set: float
    broken: bool
    full: bool
    looks: int
    early: int
    blind: int

    @property
    def off(self) -> float | None:
        """Weight beyond the wanted one (N)."""
        return None if self.weight is None else self.weight - self.wanted

    @property
    def good(self) -> bool:
        """Whole, within three per cent of the weight, and even along nine tenths of its limbs."""
        if self.broken or self.off is None:
            return False
        return abs(self.off) <= NEAR * self.wanted and self.even >= 0.9


@dataclass(frozen=True)
class Frame:
    """One picture of the film.

    Attributes:
        act: that was done; None before any.
        over: how much stiffer than wanted each node is (log), over a hand's breadth, ``(2, n+1)``.
    """

    step: int
    act: Act | None
    state: State
    over: Floats


@dataclass(frozen=True)
class Took:
    """A removal against what was needed.

    Attributes:
        start, end: from the bow's centre (m).
        took, needed: mean thickness along the stretch (m).
        harmed: thickness taken beyond need at its worst place (m).
        worst: that place, from the bow's centre (m).
        off, needed_there: thickness that came off there, and that was needed (m).
    """

    step: int
    limb: Side
    start: float
    end: float
    took: float
    needed: float
    harmed: float
    worst: float
    off: float
    needed_there: float


@dataclass(frozen=True)
class Debrief:
    """All that a session shows afterwards.

    Attributes:
        took: each removal against what was needed.
        certain: number of the act from which on it could not be drawn to where it broke; 0: from
            the beginning; None: it is whole, or it could have borne it until the last.
    """

    outcome: Outcome
    state: State
    frames: tuple[Frame, ...]
    took: tuple[Took, ...]
    certain: int | None
    sentences: tuple[str, ...]


def over(state: State) -> Floats:
    """How much stiffer than wanted each node is (log), over a hand's breadth, ``(2, n+1)``."""
    return smoothed(truth(state)) - level(state)


def smoothed(values: Floats) -> Floats:
    """Values at the nodes as a hand feels them, ``(2, n+1)``.

    Args:
        values: by cell, ``(cells,)``.
    """
    share = np.linspace(0.0, 1.0, values.shape[1])
    near = np.exp(-0.5 * ((share[:, None] - share) / HAND) ** 2)
    return np.asarray((near @ values.T).T / near.sum(1))


def true_weight(state: State) -> float | None:
    """Weight at full draw on the finished brace (N), once all that came off shows and it has been
    pulled so far twice, with the set that brings; or None.
    """
    stave = state.stave.changed(pending=0 * state.stave.pending)
    stave = settled(stave, state.bow, state.length, state.full_draw)
    on = stave.grid(), StringOn("string full").on(state.bow, state.length)
    try:
        pulled = drawn(replace(state, stave=stave), state.full_draw, on=on)
    except SolveError:
        return None
    if state.broke or pulled.draws[-1] < 0.995 * state.full_draw:
        return None
    return pulled.weight_at(state.full_draw)


def follows(state: State) -> Floats:
    """How far the tips have followed the string, ``(2,)`` (m)."""
    at = state.stave.limbs.places()[:, 0]
    middle = 0.5 * (at[:, 1:] + at[:, :-1])
    return np.asarray(((at[:, -1:] - middle) * state.stave.set * np.diff(at)).sum(1))


def outcome(state: State) -> Outcome:
    """What became of a stave."""
    even = float(np.mean(np.abs(over(state)[:, 2:-6]) <= EVEN))
    return Outcome(
        true_weight(state), plan_of(state).stop_at, even, float(follows(state).mean()),
        state.broke is not None,
        state.broke is None and _to_the_end(state),
        state.looks, state.early, state.blind,
    )  # fmt: skip


def _to_the_end(state: State) -> bool:
    """Whether it was drawn on its finished brace as far as its weight lets it before finishing."""
    share = state.furthest.get("full", 0.0) / state.full_draw
    return share >= 0.98 or (share >= 0.85 and state.heaviest >= 0.95 * state.wanted)


def film(setup: Setup, acts: Iterable[Act]) -> tuple[Frame, ...]:
    """A session act by act.

    Returns:
        A picture before any act, and one after each.
    """
    state = begin(setup)
    frames = [Frame(0, None, state, over(state))]
    for act in acts:
        state = do(state, act)
        same = act.kind in ("read", "mark", "guess", "ask", "hold", "down")
        frames.append(Frame(state.step, act, state, frames[-1].over if same else over(state)))
    return tuple(frames)


def _took(state: State) -> list[Took]:
    rows, at = [], state.stave.limbs.places()[:, 0]
    for one in state.removals:
        for side in one.act.sides:
            took = smoothed(one.took)[side]
            there = one.took[side] > 0.5 * one.took[side].max()
            if not there.any():
                continue
            need = smoothed(one.needed)[side]
            places = at[side][there] + state.roots[side]
            beyond = (took - np.maximum(need, 0.0))[there]
            k = int(beyond.argmax())
            rows.append(
                Took(
                    one.step, SIDES[side], float(places[0]), float(places[-1]),
                    float(took[there].mean()), float(need[there].mean()),
                    max(float(beyond[k]), 0.0), float(places[k]), float(took[there][k]),
                    float(need[there][k]),
                )
            )  # fmt: skip
    return rows


def _certain(frames: tuple[Frame, ...]) -> int | None:
    """From which act on it could no more be drawn to where it broke."""
    end = frames[-1].state
    if end.broke is None:
        return None
    certain: int | None = None
    for frame in reversed(frames[: end.broke.step]):
        state = frame.state
        if state.broke is not None:
            continue
        stave = state.stave.changed(pending=0 * state.stave.pending)
        settled = replace(state, stave=stave)
        on = stave.grid(), end.string.on(state.bow, state.length)
        try:
            goes = goes_at(drawn(settled, end.broke.draw + 1e-4, on=on))
        except SolveError:
            break
        if goes is None or goes > end.broke.draw + 0.002:
            break
        certain = frame.step
    return certain


def debrief(setup: Setup, acts: Iterable[Act], shown: Units) -> Debrief:
    """Look back on a session."""
    frames = film(setup, acts)
    state = frames[-1].state
    ended, took = outcome(state), _took(state)
    certain = _certain(frames)
    return Debrief(
        ended, state, frames, tuple(took), certain, _helped(state, ended, took, certain, shown)
    )


def _helped(
    state: State, ended: Outcome, took: list[Took], certain: int | None, shown: Units
) -> tuple[str, ...]:
    """What would have helped most, the weightiest first."""
    found: list[tuple[float, str]] = []
    if state.broke is not None:
        found.append((10.0, _of_break(state, certain, shown)))
    found += _of_weight(state, ended, shown)
    worst = max(took, key=lambda one: one.harmed, default=None)
    if worst is not None and worst.harmed > HARMED:
        found.append((
            3.0 + 2e3 * worst.harmed,
            f"Act {worst.step} took {shown.shaving(worst.off)} off the {worst.limb} limb"
            f" {shown.length(worst.worst)} from the centre, where"
            f" {_needed_words(worst.needed_there, shown)} was to come off: lay the straight edge"
            " there first, and leave alone what bends more than its neighbours.",
        ))  # fmt: skip
    if state.early:
        found.append((
            2.0 + 0.5 * state.early,
            f"{state.early} of {state.looks} looks came before twenty short pulls: the wood still"
            " hid a part of what had come off.",
        ))  # fmt: skip
    if state.blind > 1:
        found.append((
            1.5 + 0.3 * state.blind,
            f"At {state.blind} of {state.looks} looks nothing was read: each costs the wood"
            " something, so read the scale and one thing more before you let down.",
        ))  # fmt: skip
    if state.longest > LONG_HOLD:
        found.append((
            2.0 + state.longest / 60,
            f"It was held drawn for {state.longest:.0f} s: let it down within ten or fifteen, it"
            " keeps what it is held at.",
        ))  # fmt: skip
    hidden = [one for one in state.hidden.places if not _looked_at(state, one) and one[3] < 0]
    if hidden:
        limb, start, end, _ = hidden[0]
        root = state.roots[SIDES.index(limb)]
        found.append((
            3.5 if state.broke else 2.5,
            f"Nothing was read of the {limb} limb from {shown.bare_length(start + root)} to"
            f" {shown.length(end + root)}, where it is weakest.",
        ))  # fmt: skip
    off = _off(state)
    if off is not None and abs(off) > 0.005:
        way, other = ("right", "left") if off > 0 else ("left", "right")
        found.append((
            2.5,
            f"The string lies {shown.length(abs(off))} {way} of the grip's middle: take wood off"
            f" the {other} edges, and it comes over to the {other}."
            if _edge_helps(state)
            else f"The string lies {shown.length(abs(off))} {way} of the grip's middle.",
        ))  # fmt: skip
    found.sort(key=lambda one: -one[0])
    return tuple(words for _, words in found[:MOST_SENTENCES])


def _needed_words(thickness: float, shown: Units) -> str:
    return "nothing" if thickness < LEAST_TOLD else f"only {shown.shaving(thickness)}"


def _edge_helps(state: State) -> bool:
    return bool(np.abs(state.lean).max() > 0.02)


def _off(state: State) -> float | None:
    if state.broke or state.string.rung == "long":
        return None
    try:
        return string_off(replace(state, held=None))
    except SolveError:
        return None


def _of_break(state: State, certain: int | None, shown: Units) -> str:
    broke = state.broke
    if broke is None:
        return ""
    how = "tore on its back" if broke.back else "was crushed on its belly"
    said = (
        f"At a draw of {shown.length(broke.draw)}, the {broke.limb} limb {how},"
        f" {shown.length(broke.at)} from the centre."
    )
    if certain is None:
        return f"{said} It had grown too weak there only just before."
    if certain == 0:
        return (
            f"{said} It never would have borne that draw on this string: before going on, bring"
            " the rest of the limbs down to that place."
        )
    return (
        f"{said} From act {certain} on it could not have borne that draw any more: after every"
        " removal ask how far it may be pulled, and even it first."
    )


def _of_weight(state: State, ended: Outcome, shown: Units) -> list[tuple[float, str]]:
    off = ended.off
    if off is None or abs(off) <= NEAR * ended.wanted:
        return []
    if off < 0:
        light = "It came out" if state.removals else "It is"
        first = next((one.step for one in state.removals if one.needed.mean() <= 0.0), None)
        when = f" From act {first} on there was nothing left to take in the mean." if first else ""
        return [(
            5 + 20 * abs(off) / ended.wanted,
            f"{light} {shown.weight(-off)} too light.{when} Stop at {shown.weight(ended.wanted)}:"
            " finishing and shooting in take the rest.",
        )]  # fmt: skip
    return [(
        2 + 10 * off / ended.wanted,
        f"It still pulls {shown.weight(off)} more than it should before finishing"
        f" ({shown.weight(ended.wanted)} at {shown.length(state.full_draw)}).",
    )]  # fmt: skip


def _looked_at(state: State, place: tuple[Side, float, float, float]) -> bool:
    """Whether any reading was taken of a stretch, or it was marked."""
    limb, start, end, _ = place
    root = state.roots[SIDES.index(limb)]
    for one in state.noted:
        s = one.statement
        if s.kind in ("straight edge", "eye", "thickness") and s.limb == limb and s.at is not None:
            low, high = (s.start or s.at) - root, (s.end or s.at) - root
            if low < end and start < high:
                return True
    return False
