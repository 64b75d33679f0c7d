"""Ways out of a bow that is too light or spoiled, each with what it comes to."""

from dataclasses import dataclass
from dataclasses import replace as changed

from bowyery.design.alterations import Outcome
from bowyery.design.solution import Solution
from bowyery.tiller.bench import BenchState
from bowyery.tiller.rescue import bears, cut_for, rescues
from bowyery.units.quantity import INCH
from bowyery.wood.materials import material
from fellwind.kit.cache import computed

# Thickness of a patch on the belly and of rawhide on the back, as usually laid (m).
PATCH, RAWHIDE = 0.0015, 0.001


@dataclass(frozen=True)
class WayOut:
    """One way out: what is done, by how much (m), what it should come to; the limb of a patch; the
    draw that its layers bear for years, full draw at most (m).
    """

    way: str
    by: float
    outcome: Outcome
    limb: str = ""
    bears: float | None = None


def ways_out(found: Solution, state: BenchState, imperial: bool) -> list[WayOut]:
    """What could still be done with a bow that is too light, as it is estimated now."""
    now = state.now
    if now is None or state.advice is None:
        return []
    cuts = [k * INCH / 2 for k in (1, 2, 3, 4)] if imperial else [0.01, 0.02, 0.03, 0.05]
    weak = max(state.advice.weak, key=lambda place: place.by, default=None)
    patch = None if weak is None else (weak.limb, weak.start, weak.end, PATCH)
    bow = found.bow if state.piece is None else state.piece.bow
    key, hide = (bow, now.field, found.wanted.draw, cuts, patch), material("rawhide")
    rows = computed(
        "rescues",
        key,
        lambda: rescues(bow, now, found.wanted.draw, cuts, (hide, RAWHIDE), patch),
    )
    limb = weak.limb if weak else ""
    found_ways = [WayOut(way, by, out, limb if way == "patch" else "") for way, by, out in rows]
    cut = computed(
        "cut", (key, state.plan.stop_at),
        lambda: cut_for(bow, now, state.plan.stop_at, found.wanted.draw),
    )  # fmt: skip
    if cut:
        solved = computed(
            "rescues", (*key[:3], cut),
            lambda: rescues(bow, now, found.wanted.draw, [cut], None, None),
        )  # fmt: skip
        found_ways.insert(
            1, next(WayOut("solved", by, out) for way, by, out in solved if way == "shorten")
        )
    if state.stand is not None and state.stand.stiffer == "upper":
        accept = found_ways[0]
        found_ways.append(WayOut("turn", 0.0, accept.outcome, "lower"))
    made = tuple((one.outcome.bow, one.outcome.uses) for one in found_ways)
    borne = computed(
        "bears", (made, found.wanted.draw),
        lambda: bears([one.outcome for one in found_ways], found.wanted.draw),
    )  # fmt: skip
    return [changed(one, bears=draw) for one, draw in zip(found_ways, borne, strict=True)]
