"""Layered and recurved bows: the interfaces that later work stands on."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import simpson

from bowyery.bow import bowfile
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import grid, limb_mass
from bowyery.bow.section import Layer, Shape
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.glue_lines import glue_lines
from tests.core.bows import bow, limb

DRAWS = np.linspace(0.25, 0.66, 9)


def backed(core: float = 11e9, back: float = 14e9, depth: float = 0.003) -> Limb:
    """The shared limb with a slat of even thickness on its back."""
    base = limb()
    slat = Layer("backing", "slat", back, 720.0, np.full(base.at.size, depth))
    return replace(base, layers=(slat, Layer("core", "wood", core, 640.0)))


def test_a_backing_of_the_same_stuff_changes_nothing_but_mass() -> None:
    plain, same = force_curve.solve(bow(), DRAWS), force_curve.solve(bow(backed(back=11e9)), DRAWS)
    assert same.drawn.weight == pytest.approx(plain.drawn.weight, rel=1e-9)
    assert limb_mass(same.limbs).sum() > limb_mass(plain.limbs).sum()


def test_a_stiffer_back_draws_the_neutral_axis_towards_it() -> None:
    plain, stiff = force_curve.solve(bow(), DRAWS), force_curve.solve(bow(backed(back=40e9)), DRAWS)
    assert np.all(stiff.drawn.weight > plain.drawn.weight)
    assert np.all(stiff.limbs.axis < plain.limbs.axis)
    node = 20
    assert abs(stiff.shapes.belly[0, -1, node]) > stiff.shapes.back[0, -1, node]


def test_shear_at_the_middle_of_a_rectangle_is_three_halves_of_the_mean() -> None:
    """Two equal layers of one stuff: τ = 3V/2A at the glue line, strain zero."""
    base = limb((0.03, 0.03), (0.014, 0.014), (0.0, 0.78))
    half = Layer("backing", "wood", 11e9, 640.0, np.full(2, 0.007))
    double = replace(base, layers=(half, Layer("core", "wood", 11e9, 640.0)))
    curve = force_curve.solve(bow(double), DRAWS)
    (line,) = glue_lines(double, 0, curve.limbs, curve.shapes)
    force = np.abs(np.gradient(curve.shapes.moment[0, -1], curve.limbs.places()[0, 0]))
    assert line.between == ("backing", "core")
    assert line.shear == pytest.approx(1.5 * force / (0.03 * 0.014), rel=1e-6)
    assert line.strain == pytest.approx(np.zeros(65), abs=1e-9)


def test_glue_line_strain_lies_between_back_and_belly() -> None:
    side = backed(back=40e9)
    curve = force_curve.solve(bow(side), DRAWS)
    (line,) = glue_lines(side, 1, curve.limbs, curve.shapes)
    inner = slice(1, 60)
    assert np.all(line.strain[inner] < curve.shapes.back[1, -1, inner])
    assert np.all(line.strain[inner] > curve.shapes.belly[1, -1, inner])


@pytest.mark.parametrize(
    "shape",
    [
        Shape("oval"),
        Shape("tube", {"wall": 0.4}),
        Shape("trapezoid", {"belly": 0.6}),
        Shape("crowned back", {"radius_mm": 45.0}),
    ],
)
def test_layers_and_shapes_go_through_the_bow_file(shape: Shape) -> None:
    base = backed()
    tapered = Layer(
        "backing", "slat", 14e9, 720.0, np.interp(base.at, base.at[[0, -1]], [0.004, 0.002])
    )
    side = replace(base, shape=shape, layers=(tapered, base.layers[1]))
    one = bow(side)
    text = bowfile.dumps(one)
    two = bowfile.loads(text)
    assert force_curve.solve(two, DRAWS).drawn.weight == pytest.approx(
        force_curve.solve(one, DRAWS).drawn.weight, rel=1e-6
    )
    assert '"thickness_mm": [\n' in text and '"rest"' in text


def test_impossible_layers_are_refused_with_their_place() -> None:
    text = bowfile.dumps(bow(backed()))
    for old, new, place in (
        (
            '"thickness_mm": [\n    3.0,\n    3.0\n   ]',
            '"thickness_mm": 30',
            "limbs.upper.stations",
        ),
        (
            '"thickness_mm": [\n    3.0,\n    3.0\n   ]',
            '"thickness_mm": -1',
            "layers[0].thickness_mm",
        ),
        ('"thickness": "rest"', '"thickness_mm": 1', "layers"),
        ('"thickness": "rest"', '"thickness": "rest", "thickness_mm": 1', "layers[1]"),
    ):
        assert old in text
        with pytest.raises(DescriptionError) as caught:
            bowfile.loads(text.replace(old, new))
        assert str(caught.value).startswith(place), caught.value


def recurve() -> Bow:
    """A limb whose outer third turns hard to the back, so that the string lies on it at brace."""
    base = limb(thicknesses=(0.0150, 0.0135, 0.011))
    side = replace(
        base,
        unstrung_at=np.array([0.0, 0.50, 0.52, 0.78]),
        unstrung=np.array([0.0, 0.0, -3.0, -3.0]),
    )
    return bow(side)


def test_a_string_that_lies_on_a_recurve_lifts_off_as_it_is_drawn() -> None:
    which = recurve()
    braced = statics.brace_bow(grid(which), which)
    assert braced.p[0, 0] < 0
    draws = np.linspace(float(braced.least_draw[0]) + 1e-6, 0.66, 81)
    curve = force_curve.solve(which, draws)
    contact = -np.minimum(curve.drawn.p[0], 0.0)
    assert np.all(np.diff(contact) <= 1e-9)
    assert contact[0] > 0.05
    assert simpson(curve.drawn.weight, x=draws) == pytest.approx(curve.energy[-1], rel=2e-3)


def test_a_recurve_starts_fatter_than_a_straight_bow_of_its_end_weight() -> None:
    draws = np.linspace(0.2, 0.66, 24)
    bent, straight = force_curve.solve(recurve(), draws), force_curve.solve(bow(), draws)
    early, late = (curve.drawn.weight[2] / curve.drawn.weight[-1] for curve in (bent, straight))
    assert early > late
