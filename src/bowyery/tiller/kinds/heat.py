"""Heat: the belly hardened, reflex put in, twist and sideways bend taken out."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import grid
from bowyery.design.alterations import heated, is_heated
from bowyery.tiller.changes import Act, of_each
from bowyery.tiller.kinds.act import HEAT_CARE, ONE_LIMB, act_of, limb_words, stretch_words
from bowyery.tiller.kinds.kind import ActKind, Help, Press
from bowyery.tiller.statements import Statement, Tree
from bowyery.units.quantity import ANGLE, Units

SPRINGS_BACK = 0.35  # of a reflex put in: one deviation of what may have sprung back
COLOURS = {"": 1.0, "golden": 1.0, "brown": 1.3, "dark": 1.5}  # how much more than golden it does
HEATED = 0.03  # log stiffness that a golden belly adds to a limb of one wood
AGAIN = 0.4  # of what it did the first time, where a belly is heated again


def _bare(limb: Limb) -> bool:
    """Whether the belly is plain wood, neither faced nor heated yet."""
    return limb.layers[-1].thickness is None


def _hot(bow: Bow, act: Act) -> Bow:
    if act.start is not None or not all(map(_bare, bow.limbs)):
        return bow
    hot = heated(bow)
    return of_each(bow, act, lambda limb: hot.upper if limb is bow.upper else hot.lower)


def _hardened(bow: Bow, side: int, act: Act, shown: bool, at: Floats) -> float:
    """Log stiffness that heat adds to a limb, beyond what the new geometry shows already: by its
    colour, and little where the belly was heated before.
    """
    much = COLOURS.get(act.how, 1.0) - (1.0 if shown else 0.0)
    if is_heated(bow.limbs[side]):
        return AGAIN * HEATED * much
    if not _bare(bow.limbs[side]):
        return 0.0  # a facing is not hardened
    cuts = [grid(one) for one in (heated(bow), bow)]
    hot, cold = (
        np.interp(at, cut.places()[side, 0], np.log(cut.node_stiffness[side, 0])) for cut in cuts
    )
    return float((hot - cold).mean()) * much


def _reflexed(limb: Limb, tip: float) -> Limb:
    places = np.unique(
        np.concatenate([np.clip(limb.unstrung_at, 0.0, limb.length), [0.0, limb.length]])
    )
    natural = np.interp(places, limb.unstrung_at, limb.unstrung)
    return replace(limb, unstrung_at=places, unstrung=natural - 2 * tip / limb.length**2)


def _say_heat(s: Statement, tree: Tree, shown: Units) -> str:
    minutes = f", {s.more:.0f} min" if s.more else ""
    colour = f", {s.how}" if s.how else ""
    return f"{limb_words(s)} heated{stretch_words(s, shown)}{colour}{minutes}"


def _say_reflex(s: Statement, tree: Tree, shown: Units) -> str:
    value = s.value or 0.0
    what = "deflex" if value < 0 else "reflex"
    return f"{shown.length(abs(value))} {what} put into {limb_words(s)}"


def _say_straightened(s: Statement, tree: Tree, shown: Units) -> str:
    by = f" by {shown.length(s.value)}" if s.value else ""
    return f"{limb_words(s)} straightened sideways{by}"


ROWS = (
    ActKind(
        name="heat",
        build=act_of("heat"),
        say=_say_heat,
        forms=(
            r"heat {limbs}[ {start}\s*(?:to|–|-) {end}][ (?P<how>golden|brown|dark)]"
            r"[,? {minutes}\s*(?:min|minutes)]",
        ),
        helps=(
            Help("belly heated: where, to what colour, how long", "heat both golden 12 min",
                 "heat upper 250 to 600 golden 12 min", "heat"),
        ),
        done=_hot,
        stiffer=_hardened,
        doubt=(0.04, 0.03),
        again=("tiller", "weight"),
        badge="heated",
        presses=(
            Press("heat", "Belly heated", "heat {limb}{stretch}{colour}{minutes}",
                  ("start?", "end?", "colour?", "heat_minutes?"), care=HEAT_CARE),
        ),
    ),
    ActKind(
        name="reflex",
        build=act_of("reflex", "reflex", "no reflex of a bow"),
        say=_say_reflex,
        forms=(r"(?P<way>reflex|deflex) {limbs} {amount}",),
        helps=(
            Help("reflex or deflex put in, at the tip", "reflex both 3/4", "reflex both 20",
                 "reflex|deflex"),
        ),
        done=lambda bow, act: of_each(bow, act, lambda limb: _reflexed(limb, act.value or 0.0)),
        bent=lambda limb, act: SPRINGS_BACK * abs(2 * (act.value or 0.0)) / limb.length**2,
        doubt=(0.02, 0.02),
        again=("tiller", "weight"),
        presses=tuple(
            Press(way, f"{way.capitalize()} put in", f"{way} {{limb}} {{length}}", ("length",),
                  care=HEAT_CARE)
            for way in ("reflex", "deflex")
        ),
    ),
    ActKind(
        name="twist out",
        build=act_of("twist out", "limb twisted", "no twist of a limb", ANGLE),
        say=lambda s, tree, shown: (
            f"{ANGLE.write(abs(s.value or 0.0), shown)} twist taken out of {limb_words(s)}"
        ),
        forms=("twist out {limb} {amount}",),
        helps=(Help("twist taken out", "twist out upper 4", "twist out upper 4", "twist out"),),
        doubt=(0.02, 0.02),
        presses=(
            Press("twist out", "Twist taken out", "twist out {limb} {angle}", ("angle",), ONE_LIMB,
                  HEAT_CARE),
        ),
    ),
    ActKind(
        name="straightened",
        build=act_of("straightened", "limb aside", "no sideways bend"),
        say=_say_straightened,
        forms=("straightened {limb}[ {amount}]",),
        helps=(
            Help("sideways bend taken out", "straightened upper 1/2", "straightened upper 12",
                 "straightened"),
        ),
        doubt=(0.02, 0.02),
        presses=(
            Press("straightened", "Sideways bend taken out", "straightened {limb} {length}",
                  ("length?",), ONE_LIMB, HEAT_CARE),
        ),
    ),
)  # fmt: skip
