"""Textbook cases and hand calculations; docs/mechanics.md shows the same numbers side by side."""

import numpy as np
import pytest

from bowyery.bow.bow import Bow, Hold, Limb
from bowyery.bow.layout import Layout, Rounding, Wanted
from bowyery.bow.limb_grid import grid
from bowyery.design.solve import solve_design
from bowyery.making.floor import floor_push
from bowyery.mechanics import statics
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material
from tests.core.bows import limb

UNROUNDED = Rounding(0.05, 1e-6, 1e-6)
LENGTH, WIDTH, DEPTH, MODULUS = 0.8, 0.03, 0.012, 11e9
STIFFNESS = MODULUS * WIDTH * DEPTH**3 / 12


def uniform(root: float = 0.0) -> Limb:
    return limb((WIDTH, WIDTH), (DEPTH, DEPTH), (0.0, LENGTH), (root, 0.0, 0.0), modulus=MODULUS)


@pytest.mark.parametrize(
    ("angle", "load", "along", "across"),
    [(20, 1.015, 0.970, 0.220), (40, 1.063, 0.881, 0.422), (60, 1.152, 0.741, 0.593)],
)
def test_a_braced_uniform_bow_is_the_bent_column(
    angle: float, load: float, along: float, across: float
) -> None:
    """Timoshenko and Gere (1961), table 2-4: load over the critical one, place of the tip, for a
    tip angle.
    """
    which = Bow(uniform(), uniform(), Hold(), brace_height=across * LENGTH)
    braced = statics.brace_bow(grid(which), which)
    critical = np.pi**2 * STIFFNESS / (4 * LENGTH**2)
    assert braced.tension[0] / critical == pytest.approx(load, abs=0.002)
    assert np.degrees(braced.p[0, 0]) == pytest.approx(angle, abs=0.15)
    assert braced.string_length[0] / (2 * LENGTH) == pytest.approx(along, abs=0.001)


def test_a_limb_that_tapers_to_a_point_bends_to_a_circle() -> None:
    """The beam of constant strength (Gere and Goodno 2012, chapter 5): δ = F L³ / 2EI₀, strain
    alike everywhere.
    """
    pointed = limb((0.04, 1e-6), (DEPTH, DEPTH), (0.0, LENGTH), (0.0, 0.0, 0.0), modulus=MODULUS)
    limbs = grid(Bow(pointed, pointed, Hold(), 0.1), 512)
    root = MODULUS * 0.04 * DEPTH**3 / 12
    assert floor_push(limbs, 0.02)[0] == pytest.approx(2 * root * 0.02 / LENGTH**3, rel=1e-3)


def by_hand(found: object) -> tuple[float, float]:
    """Full draw of a circular-bending bow with nothing but circles and triangles.

    The limb is an arc of radius R clamped at its root; R is where the half string, known from the
    brace, just reaches the nocking point at full draw. The bend at the root then gives the moment,
    the moment the tension, and the tension the weight. Returns weight (N) and surface strain at the
    root.
    """
    layout, wanted, bow = found.layout, found.wanted, found.bow
    length, root = layout.limb_length(True), layout.root_from_centre(True)
    half = float(found.curve.braced.string_length[0]) / 2
    reach = bow.hold.pivot[1] + wanted.draw
    low, high = 0.2, 5.0
    for _ in range(60):
        radius = 0.5 * (low + high)
        turn = length / radius
        tip = np.array([root + radius * np.sin(turn), radius * (1 - np.cos(turn))])
        low, high = (radius, high) if np.hypot(tip[0], reach - tip[1]) < half else (low, radius)
    slope = np.arctan2(reach - tip[1], tip[0])
    lever = abs(np.cos(slope) * (tip[1] - 0.0) + np.sin(slope) * (tip[0] - root))
    mark = next(m for m in found.marks if m.limb == "upper")
    stiffness = found.wood.modulus * mark.width * mark.thickness**3 / 12
    tension = stiffness / radius / lever
    return 2 * tension * np.sin(slope), mark.thickness / 2 / radius


@pytest.mark.parametrize(
    ("name", "length", "pounds"),
    [("wych elm", 67, 42), ("shagbark hickory", 64, 50), ("black locust", 70, 45)],
)
def test_a_flatbow_comes_out_as_it_does_by_hand(name: str, length: float, pounds: float) -> None:
    """Hickman, Nagler and Klopsteg (1947) reckon straight bows as circular arcs; so does the
    core.
    """
    layout = Layout(length * INCH, least_tip=0.15 * INCH)
    wanted = Wanted(
        pounds * POUND_FORCE, 27 * INCH, family="circular", fingers="three under", upper_fuller=0.0
    )
    found = solve_design(layout, wanted, at_moisture(material(name), 0.09), UNROUNDED)
    weight, strain = by_hand(found)
    assert found.weight == pytest.approx(weight, rel=0.005)
    assert np.abs(found.curve.shapes.back[0, -1, 1]) == pytest.approx(strain, rel=0.01)
