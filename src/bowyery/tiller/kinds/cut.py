"""Ends cut off and nocked anew, and the middle of the grip moved."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.bow.bow import Bow, Limb
from bowyery.design.alterations import at_stations
from bowyery.errors import DescriptionError, UnreadableError
from bowyery.tiller.changes import Act, of_each
from bowyery.tiller.kinds.act import act_of
from bowyery.tiller.kinds.kind import ActKind, Help, Press
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import Units

_ENDS = r"(?:off\s+)?(?:the\s+)?(?P<ends>both ends|both|upper end|upper|lower end|lower|ends)"


def _cut_off(c: Context) -> tuple[Statement, ...]:
    said = act_of("cut", "cut", "no length to cut off")(c)
    if (said[0].value or 0.0) >= 0.45 * c.reach(said[0].limb):
        raise UnreadableError(
            f"“{c.part}” would leave less than half of a limb; look at the figure and its unit."
        )
    return said


def _say_cut(s: Statement, tree: Tree, shown: Units) -> str:
    ends = f"the {s.limb} end" if s.limb else "both ends"
    return f"{shown.length(s.value or 0.0)} cut off {ends}"


def _cut(limb: Limb, by: float) -> Limb:
    if not (np.isfinite(by) and 0 < by < 0.5 * limb.length):
        raise DescriptionError("Cut off more than nothing and less than half of a limb.", "cut")
    new = limb.length - by
    return at_stations(limb, np.append(limb.at[limb.at < new - 1e-6], new))


def _moved(bow: Bow, act: Act) -> Bow:
    px, py = bow.hold.pivot
    return replace(bow, hold=replace(bow.hold, pivot=(px + (act.value or 0.0), py)))


def _say_moved(s: Statement, tree: Tree, shown: Units) -> str:
    value = s.value or 0.0
    return f"the centre moved {shown.length(abs(value))} {'down' if value < 0 else 'up'}"


ROWS = (
    ActKind(
        name="cut",
        build=_cut_off,
        say=_say_cut,
        forms=(rf"cut {{amount}} {_ENDS}", rf"cut {_ENDS} {{amount}}"),
        helps=(Help("ends cut off and nocked anew", "cut 2 both ends", "cut 50 both ends", "cut"),),
        done=lambda bow, act: of_each(bow, act, lambda limb: _cut(limb, act.value or 0.0)),
        doubt=(0.0, 0.01),
        again=("centre", "tiller", "weight"),
        presses=(
            Press("cut", "Ends cut off", "cut {length} {ends}", ("length",),
                  care="Nock it anew, and protect the edges."),
        ),
    ),
    ActKind(
        name="centre",
        build=act_of("centre", "centre moved", "no way for a centre to move"),
        say=_say_moved,
        forms=(r"centre {amount} (?P<way>up|down|upper|lower)",),
        helps=(
            Help("the middle of the grip moved", "centre 1/4 down", "centre 6 down", "centre"),
        ),
        done=_moved,
        presses=(
            Press("centre", "Centre moved", "centre {length} {way}", ("length", "way?"), ()),
        ),
    ),
)  # fmt: skip
