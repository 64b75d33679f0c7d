"""Sections against their closed forms."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.section import SectionValues, Shape, completed, integrate


def section(shape: Shape, width: float, depths: list[float], moduli: list[float], densities: list[float]) -> SectionValues:
    return integrate(completed(shape), np.array([width]), np.array(depths)[:, None], np.array(moduli), np.array(densities))


@given(st.floats(0.005, 0.08), st.floats(0.004, 0.05), st.floats(1e9, 5e10))
def test_rectangle(width: float, depth: float, modulus: float) -> None:
    values = section(Shape(), width, [depth], [modulus], [700.0])
    assert values.stiffness[0] == pytest.approx(modulus * width * depth**3 / 12, rel=1e-12)
    assert values.axis[0] == pytest.approx(depth / 2)
    assert values.line_mass[0] == pytest.approx(700 * width * depth)


def test_half_ellipse() -> None:
    """Round over its whole depth: a half ellipse, whose centroid lies 4t/3π below its flat side."""
    width, depth = 0.03, 0.02
    values = section(Shape("flat back, round belly", {"round": 1.0}), width, [depth], [1.0], [1.0])
    area = np.pi * width * depth / 4
    centroid = 4 * depth / (3 * np.pi)
    about_flat = np.pi * width * depth**3 / 16
    assert values.area[0] == pytest.approx(area, rel=2e-6)
    assert values.axis[0] == pytest.approx(centroid, rel=2e-6)
    assert values.stiffness[0] == pytest.approx(about_flat - area * centroid**2, rel=5e-6)


def test_flat_back_with_part_round_belly() -> None:
    """A rectangle and a half ellipse put together by Steiner's rule."""
    width, depth, share = 0.03, 0.024, 0.5
    straight, cap = depth * (1 - share), depth * share
    pieces = [
        (width * straight, straight / 2, width * straight**3 / 12),
        (np.pi * width * cap / 4, straight + 4 * cap / (3 * np.pi), None),
    ]
    own = np.pi * width * cap**3 / 16 - pieces[1][0] * (4 * cap / (3 * np.pi)) ** 2
    area = sum(p[0] for p in pieces)
    centroid = sum(p[0] * p[1] for p in pieces) / area
    second = pieces[0][2] + own + sum(p[0] * (p[1] - centroid) ** 2 for p in pieces)
    values = section(Shape("flat back, round belly", {"round": share}), width, [depth], [1.0], [1.0])
    assert values.axis[0] == pytest.approx(centroid, rel=1e-6)
    assert values.stiffness[0] == pytest.approx(second, rel=1e-6)


def test_two_layers_by_hand() -> None:
    """Gere and Goodno's method of the transformed section, worked by hand for a backed rectangle."""
    width, back, core, e_back, e_core = 0.04, 0.002, 0.012, 40e9, 10e9
    ea = width * (e_back * back + e_core * core)
    axis = width * (e_back * back * back / 2 + e_core * core * (back + core / 2)) / ea
    stiffness = width * (
        e_back * (back**3 / 12 + back * (axis - back / 2) ** 2) + e_core * (core**3 / 12 + core * (back + core / 2 - axis) ** 2)
    )
    values = section(Shape(), width, [back, core], [e_back, e_core], [1900.0, 700.0])
    assert values.axis[0] == pytest.approx(axis, rel=1e-12)
    assert values.stiffness[0] == pytest.approx(stiffness, rel=1e-12)
    assert values.line_mass[0] == pytest.approx(width * (1900 * back + 700 * core))


@given(st.sampled_from(["rectangle", "flat back, round belly"]), st.floats(0.1, 0.9))
def test_a_layer_split_in_two_or_a_layer_of_no_depth_changes_nothing(name: str, share: float) -> None:
    whole = section(Shape(name), 0.035, [0.016], [11e9], [650.0])
    split = section(Shape(name), 0.035, [0.016 * share, 0.016 * (1 - share)], [11e9, 11e9], [650.0, 650.0])
    empty = section(Shape(name), 0.035, [0.0, 0.016], [40e9, 11e9], [1900.0, 650.0])
    for other in (split, empty):
        assert other.stiffness[0] == pytest.approx(whole.stiffness[0], rel=1e-5)
        assert other.axis[0] == pytest.approx(whole.axis[0], rel=1e-5)


@given(st.floats(0.05, 1.0), st.floats(1.01, 2.0))
def test_stiffness_goes_with_the_cube_of_depth(rounded: float, grow: float) -> None:
    shape = Shape("flat back, round belly", {"round": rounded})
    thin, thick = (section(shape, 0.03, [d], [1e10], [700.0]) for d in (0.01, 0.01 * grow))
    assert thick.stiffness[0] / thin.stiffness[0] == pytest.approx(grow**3, rel=1e-9)


def test_impossible_shapes_are_refused_with_their_place() -> None:
    for shape, place in (
        (Shape("hexagon"), "section.shape"),
        (Shape("flat back, round belly", {"round": 0.0}), "section.round"),
        (Shape("flat back, round belly", {"round": 1.2}), "section.round"),
        (Shape("rectangle", {"round": 0.5}), "section.round"),
    ):
        with pytest.raises(DescriptionError) as caught:
            completed(shape)
        assert caught.value.place == place
