"""Secondary risks against closed forms."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.limb_grid import grid
from bowyery.bow.section import Layer, Shape
from bowyery.design.risks import lateral_stiffness, risks
from tests.core.bows import bow, limb

EVEN = limb(widths=(0.02, 0.02, 0.02), thicknesses=(0.016, 0.016, 0.016))


def test_a_rectangle_is_as_stiff_sideways_as_width_over_depth_squared() -> None:
    found = risks(bow(EVEN), grid(bow(EVEN)), 0.05, 0.045)
    assert found.lateral == pytest.approx((0.02 / 0.016) ** 2, rel=1e-9)
    stiffness = 11e9 * 0.016 * 0.02**3 / 12
    assert lateral_stiffness(EVEN, np.array([0.3])) == pytest.approx([stiffness])
    # a cantilever: L³/3EI
    assert found.side_shift == pytest.approx(0.78**3 / (3 * stiffness), rel=1e-3)
    assert found.fade == pytest.approx((0.045 - 0.016) / 0.05)
    assert found.outer_share == pytest.approx(0.2, abs=0.01)
    assert found.outer_mass == pytest.approx(0.2 * 2 * 0.78 * 0.02 * 0.016 * 640, rel=0.03)


def test_an_oval_and_layers_follow_their_closed_forms() -> None:
    oval = replace(EVEN, shape=Shape("oval"))
    assert lateral_stiffness(oval, np.array([0.3]))[0] == pytest.approx(
        11e9 * np.pi * 0.016 * 0.02**3 / 64, rel=2e-3
    )
    glass = Layer("facing", "glass", 43e9, 1950.0, np.full(3, 0.001))
    faced = replace(EVEN, layers=(glass, *EVEN.layers))
    wanted = (43e9 * 0.001 + 11e9 * 0.015) * 0.02**3 / 12
    assert lateral_stiffness(faced, np.array([0.1]))[0] == pytest.approx(wanted)


@pytest.mark.parametrize("wall", [0.1, 0.3, 1.0])
def test_a_round_tube_is_as_stiff_sideways_as_it_bends(wall: float) -> None:
    round_limb = limb(widths=(0.027,) * 3, thicknesses=(0.027,) * 3)
    tube = replace(round_limb, shape=Shape("tube", {"wall": wall}))
    which = bow(tube)
    assert risks(which, grid(which), 0.05, 0.045).lateral == pytest.approx(1.0, rel=5e-3)


def test_a_slat_of_a_culm_is_stiff_sideways_by_its_two_edges() -> None:
    """Against the sum over many strips, each with its hollow taken out."""
    slat = limb(widths=(0.03,) * 3, thicknesses=(0.009,) * 3)
    slat = replace(slat, shape=Shape("culm segment", {"radius_mm": 35.0}))
    x, z = np.meshgrid(
        (np.arange(1200) + 0.5) / 1200 * 0.03 - 0.015, (np.arange(900) + 0.5) / 900 * 0.009
    )
    hollow = np.hypot(0.035 - 0.009, 0.015)
    from_axis = np.hypot(x, 0.035 - z)
    wood = (from_axis <= 0.035) & (from_axis >= hollow)
    strip = 0.03 / 1200 * 0.009 / 900
    assert lateral_stiffness(slat, np.array([0.3]))[0] == pytest.approx(
        11e9 * (wood * x**2).sum() * strip, rel=0.02
    )


def test_deep_narrow_limbs_and_bending_grips_are_told_apart() -> None:
    deep = limb(widths=(0.018, 0.016, 0.012), thicknesses=(0.020, 0.018, 0.010))
    found = risks(bow(EVEN, deep), grid(bow(EVEN, deep)), 0.0, 0.03)
    assert found.lateral < 1 and found.lateral_limb == 1
    assert found.fade == 0.0
