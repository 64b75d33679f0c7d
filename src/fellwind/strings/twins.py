"""A string beside its spare: what differs, and what that does to the bow."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from bowyery.errors import BowyeryError, DescriptionError
from bowyery.strings.match import ALLOWED, Swapped, swapped
from bowyery.strings.plan import StringPlan
from bowyery.strings.twist import turns_for
from bowyery.units.quantity import FINE_SPEED, Units
from fellwind.kit.cache import computed
from fellwind.strings.services import Sheet, priced

SAME_LOAD = 0.15  # two loads that differ by less stretch two strings alike


@dataclass(frozen=True)
class Twin:
    """One figure of two matched strings: as measured, their difference, and whether it is within
    what is allowed. Values are in SI, None where one was not measured.
    """

    what: str
    kind: str
    this: float | None
    other: float | None
    allowed: float

    @property
    def off(self) -> float | None:
        """How far they are apart."""
        return None if self.this is None or self.other is None else abs(self.this - self.other)

    @property
    def within(self) -> bool | None:
        """Whether that is allowed; None where it is not known."""
        return None if self.off is None else self.off <= self.allowed


@dataclass(frozen=True)
class TwinSheet:
    """Two strings side by side.

    Attributes:
        change: what the other does to the bow, or None.
        speed: what it does to the arrow (m/s), or None.
        advice: what to change on the other, in words.
    """

    this: Sheet
    other: Sheet
    rows: tuple[Twin, ...]
    change: Swapped | None
    speed: float | None
    advice: str = ""
    brace_words: str = ""
    weight_words: str = ""
    speed_words: str = ""
    tiller_words: str = ""


_TWIN_ROWS = (
    ("length", "length", "length"),
    ("stretch", "stretch", "length"),
    ("mass", "mass", "mass"),
    ("serving", "serving", "length"),
    ("nocking point", "nocking point", "length"),
    ("brace", "brace", "length"),
)


def twin_of(made: Sheet, others: Sequence[Sheet], shown: Units) -> TwinSheet | None:
    """The string that it is to match, or that is to match it, side by side."""
    string = made.string
    if made.plan is None or made.plan.kind.use != "shoots":
        return None
    partner = {"working": "spare", "spare": "working", "later": "working"}.get(string.role)
    alive = [one for one in others if one.string.pk != string.pk and one.over is None]
    other = next((one for one in alive if one.string.pk == string.like_id), None) or next(
        (one for one in reversed(alive) if one.string.role == partner), None
    )
    if other is None:
        return None
    rows = []
    for what, kind, quantity in _TWIN_ROWS:
        a, b = made.read(kind), other.read(kind)
        allowed = ALLOWED[kind]
        if kind == "mass":
            allowed *= a or made.plan.mass
        if a is not None or b is not None:
            rows.append(Twin(what, quantity, a, b, allowed))
    change, speed, advice = _swap(made, other)
    told: dict[str, str] = {}
    if change is not None:
        told = {
            "brace_words": _moved(change.brace, shown.thickness, "higher", "lower", 0.0003),
            "weight_words": _moved(change.weight, shown.fine_weight, "more", "less", 0.2),
            "tiller_words": "the tiller stays" if abs(change.tips) < 0.002 else
            f"the upper tip comes {shown.length(abs(change.tips))}"
            f" {'further' if change.tips > 0 else 'less far'} than the lower",
        }  # fmt: skip
    if speed is not None:
        told["speed_words"] = "the arrow " + _moved(
            speed, lambda v: FINE_SPEED.write(v, shown), "faster", "slower", 0.02
        )
    return TwinSheet(made, other, tuple(rows), change, speed, advice, **told)


def _moved(value: float, write: Callable[[float], str], up: str, down: str, least: float) -> str:
    if abs(value) < least:
        return "as before"
    return f"{write(abs(value))} {up if value > 0 else down}"


def _swap(made: Sheet, other: Sheet) -> tuple[Swapped | None, float | None, str]:
    """What the other string does to the bow, to the arrow, and what to change on it."""
    on, plan = made.on, made.plan
    a, b = made.length, other.length
    if on is None or plan is None or a is None or b is None:
        return None, None, ""
    known = made.read("length") is not None and other.read("length") is not None
    nock = (other.read("nocking point") or 0.0) - (made.read("nocking point") or 0.0)
    both = made.read("nocking point") is not None and other.read("nocking point") is not None
    bow = on.bow
    if not known:
        return None, None, "Measure both under the same load, and what a change does is said here."
    loads = made.newest["length"].second, other.newest["length"].second
    if loads[0] and loads[1] and abs(loads[0] / loads[1] - 1) > SAME_LOAD:
        return None, None, "They were measured under different loads: measure both under the same."
    key = (bow, on.draw, on.weight, a, b, nock if both else 0.0)
    try:
        change = computed(
            "swapped", key,
            lambda: swapped(bow, on.draw, on.weight, a, b, nock if both else 0.0),
        )  # fmt: skip
    except BowyeryError as error:
        return None, None, getattr(error, "reason", str(error))
    cost = priced(made)
    speed = None
    heavier = (other.read("mass") or 0.0) - (made.read("mass") or 0.0)
    if cost is not None and other.read("mass") and made.read("mass"):
        speed = -cost.total * heavier / (made.read("mass") or 1.0)
    return change, speed, _evened(plan, made, other, b - a)


def _evened(plan: StringPlan, made: Sheet, other: Sheet, longer: float) -> str:
    if abs(longer) <= ALLOWED["length"]:
        return ""
    its = other.plan or plan
    length = its.length / (1 + its.fibre.stretch)
    try:
        turns = round(turns_for(its.kind, its.diameter, length, other.turns, longer))
    except DescriptionError:
        return "Twist alone does not even them: move a loop of the other one."
    if turns == 0:
        return ""
    verb = "Put" if turns > 0 else "Let"
    end = "into" if turns > 0 else "out of"
    who = other.string.get_role_display()
    return f"{verb} {abs(turns)} turn{'' if abs(turns) == 1 else 's'} {end} {who}."
