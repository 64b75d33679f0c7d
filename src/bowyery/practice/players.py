"""Others at the same stave: one who does as the tiller says, and one with a plain rule.

Both act as a learner does, with the same hands, so that their sessions can be held against a
learner's own.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from bowyery.bow.bow import SIDES, Side
from bowyery.errors import BowyeryError
from bowyery.practice.session import EDGE, Act, State, advised, begin, do, drawn, plan_of
from bowyery.practice.worlds import PracticeError, Setup
from bowyery.tiller.bite import USUAL_TOOL, first_bite
from bowyery.tiller.rescue import cut_for
from bowyery.tiller.statements import Statement

MOST_LOOKS = 40
MOST_CUTS, LEAST_CUT = 2, 0.003  # of each end (m)
STEP = 0.0254  # by which the rule lets the draw grow (m)


@dataclass
class Player:
    """Somebody who plays a session act by act."""

    state: State
    acts: list[Act] = field(default_factory=list)

    def do(self, kind: str, **figures: object) -> None:
        """Do something."""
        act = Act(kind, **figures)  # type: ignore[arg-type]
        self.state = do(self.state, act)
        self.acts.append(act)

    def last(self, kind: str) -> list[Statement]:
        """What was last read of a kind."""
        return [one for one in self.state.said if one.kind == kind]

    def look(self, further: float, harder: float) -> list[Statement]:
        """Pull it to a draw (m) or a weight (N), whichever is first, read all, and let it down.

        Args:
            further: draw (m).
            harder: weight (N).
        """
        pulled = drawn(self.state, further)
        draws, weights = pulled.draws, np.maximum.accumulate(pulled.weight)
        draw = float(min(further, draws[-1], np.interp(harder, weights, draws)))
        least = float(draws[0])
        seen: list[Statement] = []
        for share in (0.6, 0.8, 1.0):
            self.do("pull", value=max(least + share * (draw - least), least + 0.004))
            if self.state.broke:
                return seen
            self.do("read", how="weight")
            seen += self.state.said
        for how in ("edges", "tips"):
            self.do("read", how=how)
            seen += self.state.said
        self.do("down")
        if self.state.string.rung != "long":
            self.do("read", how="gaps")
            seen += self.state.said
        return seen


def by_advice(setup: Setup) -> list[Act]:
    """The session of somebody who does as the tiller says."""
    return _played(setup, _advice)


def by_rule(setup: Setup) -> list[Act]:
    """The session of somebody with a plain rule: weight in proportion to the draw, a third of the
    excess at each look, evenness by the straight edge, the limbs by gaps or tips.
    """
    return _played(setup, _rule)


def _played(setup: Setup, how: Callable[[Player], None]) -> list[Act]:
    player = Player(begin(setup))
    try:
        how(player)
    except BowyeryError:  # they cannot go on: what they have is what they made
        if player.state.held is not None and not player.state.broke:
            player.do("down")
    if not player.state.over:
        player.do("finish")
    return player.acts


def _advice(player: Player) -> None:
    plan = plan_of(player.state)
    further, harder = 0.45 * plan.full_draw, 0.5 * plan.wanted_weight
    if player.state.string.rung != "long":
        further = 0.6 * plan.full_draw
    while player.state.looks < 3 * MOST_LOOKS:
        player.look(further, harder)
        if player.state.broke:
            return
        player.do("ask")
        told = advised(player.state)
        if told.advice is None:
            return
        moved = False
        for one in told.strokes if told.advice.removals else ():
            root = player.state.roots[SIDES.index(one.limb)]
            ends = {} if one.whole else {"start": root + one.start, "end": root + one.end}
            player.do("scrape", limb=one.limb, value=float(one.strokes), how=told.tool, **ends)
            moved = True
        if moved:
            player.do("exercise", value=25.0)
        if told.further is not None and told.harder is not None:
            moved |= told.further.value > further + 0.006
            further, harder = told.further.value, told.harder.value
        if told.advice.act == "rescue" and len(player.state.cuts) < MOST_CUTS and told.now:
            bow = player.state.bow
            off = cut_for(bow, told.now, plan.stop_at, plan.full_draw)
            if off is not None and off > LEAST_CUT:
                player.do("cut", value=off)
                continue
        if told.advice.act in ("stop", "rescue"):
            return
        if told.advice.string != player.state.string.rung:
            player.do("string", how=told.advice.string)
            moved = True
        if not moved and told.advice.act != "look":
            return


def _rule(player: Player) -> None:
    state = player.state
    found, plan = state.hidden.found, plan_of(state)
    limbs, bend = found.curve.limbs, found.curve.shapes.bend[:, -1]
    usual = first_bite(USUAL_TOOL, found.wood.density, found.layout.width).thickness
    further = 0.45 * plan.full_draw
    while player.state.looks < 3 * MOST_LOOKS:
        seen = player.look(min(further, plan.full_draw), plan.wanted_weight)
        if player.state.broke:
            return
        last = [one for one in seen if one.kind == "weight"][-1]
        weight, draw = last.value or 0.0, last.draw or 1.0
        guess, rung = weight * plan.full_draw / draw, player.state.string.rung
        near = draw >= 0.97 * plan.full_draw or weight >= 0.96 * plan.wanted_weight
        if guess <= 1.01 * plan.stop_at and rung == "full" and near:
            return
        excess = np.full(2, max(0.0, float(np.log(guess / plan.stop_at))) / 3)
        hangs = {s.limb: s.value or 0.0 for s in seen if s.kind in ("gap", "tip height")}
        lean = hangs["upper"] - hangs["lower"] - (0.004 if rung != "long" else 0.0)
        if abs(lean) > 0.002:  # the limb that comes down less is stiffer
            excess[0 if lean < 0 else 1] += min(0.1, 8 * abs(lean) / 3)
        rows: list[tuple[Side, float, dict[str, float]]] = []
        ratios: list[tuple[int, float, float]] = []
        for one in seen:
            if one.kind == "straight edge" and one.limb is not None:
                side = SIDES.index(one.limb)
                place = (one.at or 0.0) - player.state.roots[side]
                wanted = np.interp(place, limbs.places()[side, 0], bend[side])
                ratios.append((side, place, 8 * (one.value or 0.0) / EDGE**2 / float(wanted)))
        mean = float(np.mean([ratio for _, _, ratio in ratios]))
        for side, name in enumerate(SIDES):
            depth = float(np.median(limbs.depth[side, 0]))
            rows.append((name, depth * (1 - np.exp(-excess[side] / 3)), {}))
            for where, place, ratio in ratios:
                if where == side and ratio < 0.9 * mean:
                    stiff = float(np.log(mean / max(ratio, 0.3 * mean)))
                    root = player.state.roots[side]
                    ends = {"start": root + max(place - 0.06, 0.0), "end": root + place + 0.06}
                    rows.append((name, depth * (1 - np.exp(-stiff / 9)), ends))
        took = False
        for name, thick, ends in rows:
            strokes = min(round(thick / usual), 150)
            if strokes > 0:
                player.do("scrape", limb=name, value=float(strokes), how=USUAL_TOOL, **ends)
                took = True
        if took:
            player.do("exercise", value=25.0)
        try:
            if rung == "long" and guess <= 1.35 * plan.stop_at:
                player.do("string", how="low")
            elif rung == "low" and guess <= 1.15 * plan.stop_at:
                player.do("string", how="full")
        except PracticeError:  # too strong to string yet
            pass
        reached = max(player.state.furthest.values())
        further = max(further, reached) + (2 * STEP if guess <= 1.5 * plan.stop_at else STEP)
