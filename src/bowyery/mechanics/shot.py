"""What an arrow's speed will be, as a range: the loosed arrow, less what bow, wood and hand keep.

``dynamics.loose`` follows an ideal bow. A real one gives back less than it took, whatever the
speed: the hysteresis of its limbs, about 8 % of the energy in wood, between 3 and 13, and less in
glass (Klopsteg in Hickman, Nagler and Klopsteg, Archery: the Technical Side, 1947; Wood Handbook
2021, chapter 5). It is shot with the set that it has taken, and the handle and hand recoil. What
remains unknown is shown as a range of 90 %, which a chronograph narrows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace

import numpy as np

from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import layer_depths
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.dynamics import MASSES, Loosed, loose, masses_for
from bowyery.mechanics.strain import SetShare, bend_limits, kept_curvature

# Share of the energy that limbs keep in one draw and loose, and its spread between staves.
WOOD_LOSS, GLASS_LOSS, PLASTIC_LOSS = 0.08, 0.03, 0.12
LOSS_SPREAD = 0.03
# From here on a layer counts as glass (Pa).
GLASS_FROM = 25e9
# What goes back with the bow as the arrow goes forward: its middle, and the hand and wrist (kg).
HELD = 1.2
# Of the speed: fingers, tune of string and arrow, and what the model leaves out.
_OTHER_SPREAD = 0.02
# And while limbs that are too heavy for the arrow let the string go slack, by the share of its way.
_SLACK_SPREAD = 0.1
# Of one shot, by the chronograph and by how it was loosed.
_READING_SPREAD = 0.015
_NINETY = 1.645
_CELLS = 64


@dataclass(frozen=True)
class Shot(Loosed):
    """An arrow as a real bow sends it.

    Attributes:
        low, high: of its speed, 90 % (m/s).
        loss: share of the energy that the limbs keep.
        read: how many chronograph readings narrowed it.
    """

    low: float
    high: float
    loss: float
    read: int


def hysteresis(limb: Limb, wooden: float = WOOD_LOSS) -> float:
    """Share of the energy that a limb keeps in a draw and loose, by what is stiff in it.

    Args:
        wooden: share that wood keeps.
        limb: the limb; half way along it counts.

    Returns:
        The share.
    """
    depths = layer_depths(limb, np.array([0.5 * limb.length]))[:, 0]
    edges = np.concatenate([[0.0], np.cumsum(depths)])
    middle = 0.5 * (edges[1:] + edges[:-1])
    moduli = np.array([layer.modulus for layer in limb.layers])
    axis = float((moduli * depths * middle).sum() / (moduli * depths).sum())
    stiff = moduli * ((edges[1:] - axis) ** 3 - (edges[:-1] - axis) ** 3)
    losses = [
        PLASTIC_LOSS if la.ductile else GLASS_LOSS if la.modulus > GLASS_FROM else wooden
        for la in limb.layers
    ]
    return float((stiff * losses).sum() / stiff.sum())


def with_set(bow: Bow, draw: float, share: SetShare | None = None) -> Bow:
    """The bow as it will be when it has taken its set, at the weight that it was made to.

    Args:
        bow: without a back-bow, and with a brace height.
        draw: full draw (m).
        share: fitted from a maker's own bows, or the usual one.

    Raises:
        SolveError: what the statics raise.
    """
    before = force_curve.solve(bow, np.array([draw]), _CELLS)
    limits = bend_limits(bow, before.limbs)
    kept = kept_curvature(limits, before.shapes, (share or SetShare()).share)
    places = before.limbs.places()[:, 0]

    def bent(limb: Limb, side: int) -> Limb:
        at = np.unique(np.concatenate([limb.unstrung_at, np.linspace(0.0, limb.length, 13)]))
        at = at[at <= limb.length]
        natural = np.interp(at, limb.unstrung_at, limb.unstrung)
        beyond = np.interp(at, places[side], kept[side])
        return replace(limb, unstrung_at=at, unstrung=natural + beyond)

    upper, lower = (bent(limb, side) for side, limb in enumerate(bow.limbs))
    tired = replace(bow, upper=upper, lower=lower)
    after = float(force_curve.solve(tired, np.array([draw]), _CELLS).drawn.weight[0])
    harder = float(before.drawn.weight[0]) / after

    def stiffer(limb: Limb) -> Limb:
        layers = tuple(replace(la, modulus=la.modulus * harder) for la in limb.layers)
        return replace(limb, layers=layers)

    return replace(
        tired,
        upper=stiffer(upper),
        lower=stiffer(lower),
        grip_stiffness=None if bow.grip_stiffness is None else bow.grip_stiffness * harder,
    )


def shoot(
    bow: Bow,
    draw: float,
    arrow: float,
    readings: Sequence[tuple[float, float]] = (),
    share: SetShare | None = None,
    masses: int | None = None,
    steps: int = 100,
    watch: bool = True,
    keeps: tuple[float, float] | None = None,
) -> Shot:
    """Forecast the shot of an arrow.

    Args:
        bow: with the string that it will have.
        draw: from nocking point to pivot (m).
        arrow: its mass (kg).
        readings: of a chronograph: arrow mass (kg) and speed (m/s) of each shot.
        share: of the excess bend that stays, fitted from a maker's own bows.
        keeps: share of the energy that wooden limbs of this shop keep, and one deviation; None: the
            usual.

    Raises:
        DescriptionError: the arrow's or string's mass or stretch is not above zero, or a reading is
            far from anything that this bow could send.
        BowyeryError: what the statics raise.
    """
    as_shot = tired(bow, draw, share)
    masses = masses_for(as_shot, masses or MASSES)
    wooden, loss_spread = keeps or (WOOD_LOSS, LOSS_SPREAD)
    loss = 0.5 * sum(hysteresis(limb, wooden) for limb in bow.limbs)
    one = loose(as_shot, draw, arrow, masses, steps=steps, watch=watch, loss=loss, held=HELD)
    spread = float(
        np.linalg.norm([0.5 * loss_spread / (1 - loss), _OTHER_SPREAD, _SLACK_SPREAD * one.slack])
    )
    off = 0.0
    if readings:
        logs = []
        for mass, speed in readings:
            told = (
                one.speed
                if mass == arrow
                else loose(
                    as_shot, draw, mass, masses, steps=steps, watch=False, loss=loss, held=HELD
                ).speed
            )
            if not (speed > 0 and 0.5 < speed / told < 1.5):
                raise DescriptionError(
                    "This speed is far from what such a bow can send; check draw, arrow mass and"
                    " the chronograph.",
                    "readings",
                )
            logs.append(np.log(speed / told))
        precise = len(logs) / _READING_SPREAD**2
        off = float(np.sum(logs)) / _READING_SPREAD**2 / (precise + spread**-2)
        spread = float((precise + spread**-2) ** -0.5)
    speed = one.speed * float(np.exp(off))
    energy = 0.5 * arrow * speed**2
    figures = asdict(one) | {
        "speed": speed,
        "speeds": one.speeds * float(np.exp(off)),
        "efficiency": energy / one.stored,
        "virtual_mass": 2 * one.stored / speed**2 - arrow,
    }
    wide = _NINETY * spread
    return Shot(
        **figures,
        low=speed * float(np.exp(-wide)),
        high=speed * float(np.exp(wide)),
        loss=loss,
        read=len(readings),
    )


def tired(bow: Bow, draw: float, share: SetShare | None = None) -> Bow:
    """The bow as it is shot: with its set, where its limits are known and it is no back-bow.

    Args:
        draw: full draw (m).
        share: of the excess bend that stays, or the usual one.

    Raises:
        SolveError: what the statics raise.
    """
    if bow.back_bow is not None or bow.brace_height is None:
        return bow
    known = all(la.elastic_strain is not None for limb in bow.limbs for la in limb.layers)
    return with_set(bow, draw, share) if known else bow
