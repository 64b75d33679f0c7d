"""Bows that the core's tests share."""

from dataclasses import replace

import numpy as np

from bowyery.bow.bow import BackBow, Bow, Hold, Limb, StringLine
from bowyery.bow.section import Layer, Shape
from bowyery.wood.materials import material

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


def bow(
    upper: Limb | None = None,
    lower: Limb | None = None,
    hold: Hold | None = None,
    brace: float = 0.15,
) -> Bow:
    """A bow of two such limbs."""
    return Bow(upper or limb(), lower or upper or limb(), hold or Hold(), brace)


def recurve(start: float, curvature: float) -> Limb:
    """The shared limb bent back at its end, its curvature beginning all at once (m, 1/m)."""
    return replace(
        limb(),
        unstrung_at=np.array([0.0, start, start + 1e-4, LIMB_LENGTH]),
        unstrung=np.array([0.0, 0.0, curvature, curvature]),
    )


def kinds() -> dict[str, Bow]:
    """Straight, reflexed, deflexed, unequal, low-gripped and offset bows."""
    shorter = limb(thicknesses=(0.0160, 0.0138, 0.010), at=(0.0, 0.4, 0.74))
    return {
        "straight": bow(),
        "reflexed": bow(limb(curvature=-0.3)),
        "deflexed": bow(limb(curvature=0.25)),
        "unequal": bow(limb(), shorter),
        "low grip": bow(
            limb(root=(0.04, 0, 0)),
            limb(at=(0.0, 0.4, 0.74), root=(0.10, 0, 0)),
            Hold(pivot=(-0.03, 0.03)),
        ),
        "offset nock": bow(hold=Hold(nock_offset=0.03, pivot=(0.0, 0.02))),
        "clamped": bow(limb(), shorter, Hold("clamp", nock_offset=0.0)),
        "round belly": bow(limb(shape=Shape("flat back, round belly", {"round": 0.6}))),
    }


def checked_by_elements() -> dict[str, Bow]:
    """Bows with rectangular sections that finite elements have solved too
    (benchmarks/finite_elements.py).
    """
    stepped = limb(
        (0.042, 0.042, 0.030, 0.014), (0.017, 0.0135, 0.0135, 0.010), (0.0, 0.2, 0.21, LIMB_LENGTH)
    )
    crooked = replace(
        limb(),
        unstrung_at=np.array([0.0, 0.3, 0.5, 0.78]),
        unstrung=np.array([0.3, -0.4, 0.2, -0.3]),
    )
    heavy = limb(thicknesses=(0.024, 0.020, 0.014), at=(0.0, 0.45, 0.86), root=(0.08, 0.0, 0.0))
    angled = limb(root=(0.07, 0.005, 0.06))
    by_the_belly = replace(bow(limb(curvature=-0.2)), string=StringLine(nock_depth=1.0))
    named = {k: v for k, v in kinds().items() if k != "round belly"}
    return named | {
        "deeply reflexed": bow(limb(curvature=-0.55)),
        "stepped": bow(stepped),
        "recurve": bow(recurve(0.62, -5.0)),
        "recurve with a deflexed inner limb": bow(
            replace(recurve(0.55, -3.0), unstrung=np.array([0.2, 0.2, -3.0, -3.0]))
        ),
        "nocked at the belly": by_the_belly,
        "crooked": bow(crooked, limb()),
        "heavy and long": bow(heavy, brace=0.165),
        "set forward at the root": bow(angled),
        "low grip, offset nock": bow(
            limb(root=(0.04, 0, 0)),
            limb(at=(0.0, 0.4, 0.74), root=(0.10, 0, 0)),
            Hold(pivot=(-0.03, 0.03), nock_offset=0.025),
        ),
    }


ELM = material("wych elm")
WOOD = (
    Layer(
        "core", "wych elm", ELM.modulus, ELM.density, None, ELM.rupture_strain, ELM.elastic_strain
    ),
)
FLATBOW = bow(replace(limb(), layers=WOOD))
DRAW = 0.66
MAIN = bow(limb(thicknesses=(0.015, 0.013, 0.009)))


def tied(
    thickness: float = 0.010, tension: float = 30.0, main: Bow = MAIN, at: float = 0.76
) -> Bow:
    """The shared main bow with a shorter bow of even thickness on its back."""
    second = limb(
        (0.03, 0.03, 0.02),
        (thickness, thickness, thickness),
        (0.0, 0.3, 0.55),
        (0.06, -0.02, -0.03),
    )
    return replace(main, back_bow=BackBow(second, at, tension))
