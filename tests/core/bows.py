"""Bows that the core's tests share."""

import numpy as np

from bowyery.bow import Bow, Hold, Limb
from bowyery.section import Layer, Shape

LIMB_LENGTH = 0.78


def limb(
    widths: tuple[float, ...] = (0.040, 0.040, 0.013),
    thicknesses: tuple[float, ...] = (0.0165, 0.014, 0.010),
    at: tuple[float, ...] = (0.0, 0.4, LIMB_LENGTH),
    root: tuple[float, float, float] = (0.06, 0.0, 0.0),
    curvature: float = 0.0,
    modulus: float = 11e9,
    shape: Shape | None = None,
) -> Limb:
    """A tapered limb with constant unstrung curvature."""
    return Limb(
        np.array(at),
        np.array(widths),
        np.array(thicknesses),
        (Layer("core", "wood", modulus, 640.0),),
        shape or Shape(),
        root,
        np.array([0.0, at[-1]]),
        np.array([curvature, curvature]),
    )


def bow(upper: Limb | None = None, lower: Limb | None = None, hold: Hold | None = None, brace: float = 0.15) -> Bow:
    """A bow of two such limbs."""
    return Bow(upper or limb(), lower or upper or limb(), hold or Hold(), brace)


def kinds() -> dict[str, Bow]:
    """Straight, reflexed, deflexed, unequal, low-gripped and offset bows."""
    shorter = limb(thicknesses=(0.0160, 0.0138, 0.010), at=(0.0, 0.4, 0.74))
    return {
        "straight": bow(),
        "reflexed": bow(limb(curvature=-0.3)),
        "deflexed": bow(limb(curvature=0.25)),
        "unequal": bow(limb(), shorter),
        "low grip": bow(limb(root=(0.04, 0, 0)), limb(at=(0.0, 0.4, 0.74), root=(0.10, 0, 0)), Hold(pivot=(-0.03, 0.03))),
        "offset nock": bow(hold=Hold(nock_offset=0.03, pivot=(0.0, 0.02))),
        "clamped": bow(limb(), shorter, Hold("clamp", nock_offset=0.0)),
        "round belly": bow(limb(shape=Shape("flat back, round belly", {"round": 0.6}))),
    }
