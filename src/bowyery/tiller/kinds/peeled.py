"""What comes off a back and is not all wood: bark, cambium, skin, sapwood; and sanding."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.errors import DescriptionError, UnreadableError
from bowyery.tiller.changes import Act, of_each
from bowyery.tiller.kinds.act import act_of, limb_words
from bowyery.tiller.kinds.kind import ActKind, Help
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import THICKNESS, Units

# What each is of the wood beneath it, by its stiffness: bark and cambium bear next to nothing; the
# dense skin of a culm holds half as much again as its wall; sapwood is wood.
STIFF = {"bark": 0.0, "cambium": 0.0, "skin": 1.5, "sapwood": 1.0}
USUAL = {"bark": 0.003, "cambium": 0.0005, "skin": 0.0005, "sapwood": 0.0}  # so thick (m)
SANDED = 1e-4  # off each face, where nobody says how much (m)


def _peeled(c: Context) -> tuple[Statement, ...]:
    (said,) = act_of("peeled", "laid on", "no thickness to take off a back")(c)
    if said.how == "sapwood" and said.value is None:
        raise UnreadableError(f"“{c.part}” does not say how much; write sapwood off 3 mm.")
    return (said,)


def thinner(limb: Limb, by: Floats | float) -> Limb:
    """A limb with so much off its back, its first layer first.

    Args:
        by: thickness at its stations, or alike (m).

    Raises:
        DescriptionError: that leaves no limb.
    """
    if np.any(by > 0.6 * limb.thickness):
        raise DescriptionError("So much off the back leaves no limb.", "back")
    first, rest = limb.layers[0], limb.layers[1:]
    if first.thickness is None:
        return replace(limb, thickness=limb.thickness - by)
    left = np.maximum(first.thickness + 0 * limb.at - by, 1e-5)
    gone = first.thickness + 0 * limb.at - left
    layers = (replace(first, thickness=left), *rest)
    return replace(limb, thickness=limb.thickness - gone, layers=layers)


def _off(bow: Bow, act: Act) -> Bow:
    by = STIFF[act.how] * (USUAL[act.how] if act.value is None else act.value)
    return bow if by == 0 else of_each(bow, act, lambda limb: thinner(limb, by))


def _say_peeled(s: Statement, tree: Tree, shown: Units) -> str:
    much = "" if s.value is None else f", {THICKNESS.write(s.value, shown)} of it"
    return f"the {s.how} taken off the back of {limb_words(s)}{much}"


def _say_sanded(s: Statement, tree: Tree, shown: Units) -> str:
    much = THICKNESS.write(SANDED if s.value is None else s.value, shown)
    return f"{limb_words(s)} sanded, {much} off each face"


def _sanded(bow: Bow, side: int, act: Act, shown: bool, at: Floats) -> Floats:
    limb, off = bow.limbs[side], SANDED if act.value is None else act.value
    depth, width = (np.interp(at, limb.at, v) for v in (limb.thickness, limb.width))
    left = np.maximum(1 - 2 * off / depth, 0.1) ** 3 * np.maximum(1 - 2 * off / width, 0.1)
    return np.asarray(np.log(left))


ROWS = (
    ActKind(
        name="peeled",
        build=_peeled,
        say=_say_peeled,
        forms=(
            "(?P<how>bark|cambium|skin|sapwood) off[ {limbs}][ {amount}]",
            "off (?P<how>cambium|skin|sapwood)[ {amount}]",
        ),
        helps=(
            Help("bark, cambium, a bamboo's skin or sapwood off the back",
                 "bark off, sapwood off 1/8",
                 "bark off, sapwood off 3", "bark|cambium|skin|sapwood"),
        ),
        done=_off,
        sized=True,
        doubt=(0.03, 0.02),
        again=("tiller", "weight"),
        badge="peeled",
    ),
    ActKind(
        name="sanded",
        build=act_of("sanded", "sanded off", "no thickness to sand off"),
        say=_say_sanded,
        forms=("(?:{limbs} )?sanded[ {amount}]",),
        helps=(Help("sanded all over", "sanded", "sanded 0.2", "sanded"),),
        stiffer=_sanded,
        doubt=(0.01, 0.005),
        again=("tiller", "weight"),
    ),
)  # fmt: skip
