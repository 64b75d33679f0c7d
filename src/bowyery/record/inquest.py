"""An inquest: what the record of a broken bow says for and against each cause.

Causes are weighed against one another: each begins with how often it breaks bows of this kind of
making, and every fact of the record multiplies that by how much likelier it is under the cause than
without it (Bayes' rule with a likelihood ratio for each fact; Gelman and others, Bayesian Data
Analysis, 2013, chapter 1). The ratios are judgements of the bench, written down so that they can be
argued with; no fact weighs more than fifteen to one, a fact that was never read weighs nothing, and
what no cause explains stays open. The maker judges.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from bowyery.errors import DescriptionError

HOWS = {
    "back": "the back tore across",
    "fret": "the belly crushed or fretted",
    "fold": "it folded in one place",
    "splinter": "a splinter lifted off the back",
    "knot": "it let go at a knot",
    "glue": "a glue line opened",
    "nock": "it let go at the nock or tip",
    "twist": "the limb twisted over",
    "handle": "it let go in the handle or at a fade",
}
OPEN = "what the record does not tell: a nick, a hidden check, a blow"
UNKNOWN = 1.5
MOST = 15.0
NEAR = 0.05  # of a flaw from where it broke, still the same place (m)
DRY, WET = 0.06, 0.13  # moisture below and above which wood is worked at a risk
SLOPE = math.radians(4)  # from here on the grain of a back is short


@dataclass(frozen=True)
class Facts:
    """What the record tells of where a bow broke; None is not known.

    Attributes:
        moisture: as a share of dry mass.
        how: a key of HOWS.
        use: strain there then, as a share of what the wood breaks at.
        bend: of the place against its neighbours, as a share more; below zero less.
        bend_error: one deviation of that.
        flaw: kind of the nearest flaw, and how far away it is (m).
        slope: of the grain on the back (rad).
        over: drawn beyond the limit that stood then (m); below zero: within it.
        unseen: an act after which nothing was read; empty where each was looked at.
    """

    how: str
    use: float | None = None
    bend: float | None = None
    bend_error: float = 0.08
    flaw: tuple[str, float] | None = None
    slope: float | None = None
    moisture: float | None = None
    pulls: int | None = None
    over: float | None = None
    unseen: str | None = None
    layered: bool = False


@dataclass(frozen=True)
class Evidence:
    """A fact that speaks for or against a cause.

    Attributes:
        ratio: how much likelier the fact is under the cause; below one it speaks against it.
    """

    fact: str
    ratio: float


@dataclass(frozen=True)
class Cause:
    """A cause with what speaks for and against it.

    Attributes:
        name: a key of CAUSES, or nothing for what stays open.
        share: of the weight of all.
        earlier: what would have shown it before.
    """

    name: str
    share: float
    evidence: tuple[Evidence, ...]
    earlier: str


def inquest(facts: Facts) -> tuple[Cause, ...]:
    """Weigh the causes of a break.

    Returns:
        Every cause that could be, the likeliest first, and what stays open.

    Raises:
        DescriptionError: a way of breaking that is none.
    """
    if facts.how not in HOWS:
        raise DescriptionError(f"Choose one of {', '.join(HOWS)}.", "how")
    weights: dict[str, float] = {"": UNKNOWN}
    told: dict[str, list[Evidence]] = {"": []}
    for name, known in CAUSES.items():
        if name == "glue" and not facts.layered:
            continue
        found = [
            Evidence(fact, _bounded(ratio))
            for fact, ratio in known.rule(facts).items()
            if not math.isclose(ratio, 1.0, rel_tol=0.02)
        ]
        told[name] = sorted(found, key=lambda one: -abs(math.log(one.ratio)))
        weights[name] = known.start * math.prod(one.ratio for one in found)
    whole = sum(weights.values())
    rows = [
        Cause(name, weight / whole, tuple(told[name]), CAUSES[name].earlier if name else "")
        for name, weight in weights.items()
    ]
    return tuple(sorted(rows, key=lambda one: -one.share))


def _bounded(ratio: float) -> float:
    return min(MOST, max(1 / MOST, ratio))


def _by(how: str, likely: dict[str, float]) -> float:
    return likely.get(how, 0.5)


def _steep(value: float, middle: float, wide: float) -> float:
    """A ratio that grows e-fold with each ``wide`` beyond ``middle``."""
    return math.exp(max(-3.0, min(3.0, (value - middle) / wide)))


def _overstrained(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"back": 2.5, "fret": 2.5, "fold": 1.0, "splinter": 1.0})}
    if f.use is not None:
        found["use"] = _steep(f.use, 0.85, 0.08)
    return found


def _hinge(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"fold": 4.0, "fret": 2.0, "back": 1.5})}
    if f.bend is not None:
        # what is seen is smeared: a hinge an inch wide shows as half of itself
        found["bend"] = _steep(f.bend / max(f.bend_error, 0.03), 1.5, 0.8)
    return found


def _flaw(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"knot": 8.0, "splinter": 1.5, "back": 1.0, "fold": 0.8})}
    if f.flaw is not None:
        found["flaw"] = 8.0 if f.flaw[1] <= NEAR else 0.3
    return found


def _grain(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"splinter": 5.0, "back": 1.5, "twist": 1.0})}
    if f.slope is not None:
        found["slope"] = _steep(f.slope, SLOPE, math.radians(1.5))
    return found


def _dry(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"back": 2.0, "splinter": 1.5})}
    if f.moisture is not None:
        found["moisture"] = _steep(DRY - f.moisture, 0.0, 0.01)
    return found


def _wet(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"fret": 3.0, "fold": 1.0})}
    if f.moisture is not None:
        found["moisture"] = _steep(f.moisture - WET, 0.0, 0.02)
    return found


def _glue(f: Facts) -> dict[str, float]:
    return {"how": 15.0 if f.how == "glue" else 0.2}


def _untrained(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"fold": 1.5, "back": 1.2, "fret": 1.0})}
    if f.pulls is not None:
        found["pulls"] = 4.0 if f.pulls < 10 else 1.0 if f.pulls < 20 else 0.3
    return found


def _unseen(f: Facts) -> dict[str, float]:
    return {} if f.unseen is None else {"unseen": 5.0 if f.unseen else 0.4}


def _beyond(f: Facts) -> dict[str, float]:
    found = {"how": _by(f.how, {"back": 1.5, "fret": 1.2, "fold": 1.2})}
    if f.over is not None:
        found["over"] = _steep(f.over, 0.01, 0.015)
    return found


@dataclass(frozen=True)
class Known:
    """A cause of a break.

    Attributes:
        words: what it is, as a sentence goes on with it.
        start: how often it breaks bows, against the others, before anything is read.
        rule: by which facts it is weighed, each with its ratio.
        earlier: what would have shown it before.
    """

    words: str
    start: float
    rule: Callable[[Facts], dict[str, float]]
    earlier: str


CAUSES = {
    "overstrained": Known(
        "bent further than its wood bears",
        3.0, _overstrained,
        "The design's own verdict: a longer, wider or lighter bow.",
    ),
    "hinge": Known(
        "a weak place took the bend of its neighbours",
        3.0, _hinge,
        "A straight edge slid along the limb at a low draw, and the wood left alone there.",
    ),
    "flaw": Known(
        "a knot or another flaw gave way",
        2.0, _flaw,
        "Mapping it on the stave, wood left round it, or a bow laid so that it falls away.",
    ),
    "grain": Known(
        "the grain ran out of the back",
        1.5, _grain,
        "Measuring how far the grain drifts, and a backing.",
    ),
    "dry": Known(
        "the wood was too dry",
        0.6, _dry,
        "The stave on the scale, or a meter, before the first long draw.",
    ),
    "wet": Known(
        "the wood was too wet",
        0.4, _wet,
        "The stave on the scale, or a meter; the belly takes set long before.",
    ),
    "glue": Known(
        "the glue line did not hold",
        0.3, _glue,
        "A dry run, clean faces, and the glue's own cure before the first bend.",
    ),
    "untrained": Known(
        "pulled on before the wood had shown what was done to it",
        1.0, _untrained,
        "Twenty-five short pulls after each removal, before the next look.",
    ),
    "unseen": Known(
        "an act was not looked at again on the tree",
        0.6, _unseen,
        "The tiller looked at again from a low draw, straight after.",
    ),
    "beyond": Known(
        "drawn beyond the limit that stood then",
        1.0, _beyond,
        "Stopping where the bench said, and reading there.",
    ),
}  # fmt: skip
