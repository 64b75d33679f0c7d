"""The ladder of tillering: where a bow stands on it, what comes next and why.

Floor, long string, low brace, half an hour braced, full brace, draw: a limb is asked for more only
once it has shown that it bends well at less.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from bowyery.tiller.bench import BenchState

HALF_HOUR = 30  # minutes that a bow stays braced before it is drawn further
NEARLY = 0.97  # of the full draw: there the last rung is reached
RUNGS = ("floor", "long string", "low brace", "half an hour", "full brace", "draw")

Stand = Literal["done", "here", "next", "ahead"]


@dataclass(frozen=True)
class Rung:
    """One step of the ladder.

    Attributes:
        why: what it waits for, or what it is for; of the rung here and the next one.
    """

    name: str
    stand: Stand
    why: str = ""


WHY = {
    "floor": "feel that both limbs give, each end against the floor, before any string",
    "long string": "both limbs are seen bending a few inches at a time, with little strain",
    "low brace": "the limbs agree and are light enough to be braced low",
    "half an hour": "wood shows after half an hour braced what it will keep, and where it gives",
    "full brace": "the limbs agree braced low, and are near enough to their weight",
    "draw": "shape first, then weight; inch by inch to the full draw",
}
WAITS = {
    "floor": "nothing has been read on a string yet",
    "long string": "not braced yet: first the limbs must agree within 15 %, and pull no more than"
    " a third over what is wanted",
    "low brace": "left braced half an hour first, then read again",
    "half an hour": "read it again at the same draws: what has changed in the half hour is set",
    "full brace": "read weight and gaps, then draw further within the limits",
    "draw": "draw no further than the limit says, and look again",
}


def ladder(state: BenchState, rested: bool = False, full_draw: float | None = None) -> list[Rung]:
    """Where a bow stands on the ladder.

    Args:
        rested: it has been left braced half an hour.
        full_draw: that it shall reach (m); as its plan has it where left out.

    Returns:
        Every rung, from the floor up: at most one is here, and at most one is next.
    """
    past = state.history
    full = full_draw or state.plan.full_draw
    reached = {"floor": 0, "long": 1, "low": 2, "full": 4}
    on = reached[past.string.rung] if past.checks or past.changes else 0
    rested = rested or past.rested >= HALF_HOUR
    if not past.checks:
        here = 0
    elif on == 2:
        here = 3 if rested else 2
    elif on == 4:
        # a bow braced full that was never drawn beyond it still stands on that rung
        here = 5 if past.last_draw > 0.55 * full else 4
    else:
        here = on
    done = past.last_draw >= NEARLY * full and on == 4
    ahead = _next(state, here, rested)
    rows = list[Rung]()
    for k, name in enumerate(RUNGS):
        if k == here and not done:
            rows.append(Rung(name, "here", WAITS[name] if ahead != k + 1 else WHY[name]))
        elif k <= here and not (name == "half an hour" and not rested):
            rows.append(Rung(name, "done"))
        elif k == ahead:
            rows.append(Rung(name, "next", WHY[name]))
        else:
            rows.append(Rung(name, "ahead"))
    return rows


def _next(state: BenchState, here: int, rested: bool) -> int:
    """The rung that comes next, or none that can be said yet."""
    if here == 0:
        return 1
    if here == 2:
        return 3
    if state.advice is not None and state.advice.string != state.history.string.rung:
        return {"low": 2, "full": 4}.get(state.advice.string, -1)
    return 5 if here == 4 else -1
