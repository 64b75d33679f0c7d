"""Sections against their closed forms."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.section import SectionValues, Shape, completed, flattened, integrate
from bowyery.errors import DescriptionError


def section(
    shape: Shape, width: float, depths: list[float], moduli: list[float], densities: list[float]
) -> SectionValues:
    return integrate(
        completed(shape),
        np.array([width]),
        np.array(depths)[:, None],
        np.array(moduli),
        np.array(densities),
    )


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
    values = section(
        Shape("flat back, round belly", {"round": share}), width, [depth], [1.0], [1.0]
    )
    assert values.axis[0] == pytest.approx(centroid, rel=1e-6)
    assert values.stiffness[0] == pytest.approx(second, rel=1e-6)


def test_two_layers_by_hand() -> None:
    """Gere and Goodno's method of the transformed section, worked by hand for a backed
    rectangle.
    """
    width, back, core, e_back, e_core = 0.04, 0.002, 0.012, 40e9, 10e9
    ea = width * (e_back * back + e_core * core)
    axis = width * (e_back * back * back / 2 + e_core * core * (back + core / 2)) / ea
    stiffness = width * (
        e_back * (back**3 / 12 + back * (axis - back / 2) ** 2)
        + e_core * (core**3 / 12 + core * (back + core / 2 - axis) ** 2)
    )
    values = section(Shape(), width, [back, core], [e_back, e_core], [1900.0, 700.0])
    assert values.axis[0] == pytest.approx(axis, rel=1e-12)
    assert values.stiffness[0] == pytest.approx(stiffness, rel=1e-12)
    assert values.line_mass[0] == pytest.approx(width * (1900 * back + 700 * core))


@given(st.sampled_from(["rectangle", "flat back, round belly"]), st.floats(0.1, 0.9))
def test_a_layer_split_in_two_or_a_layer_of_no_depth_changes_nothing(
    name: str, share: float
) -> None:
    whole = section(Shape(name), 0.035, [0.016], [11e9], [650.0])
    split = section(
        Shape(name), 0.035, [0.016 * share, 0.016 * (1 - share)], [11e9, 11e9], [650.0, 650.0]
    )
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


def circle_segment(radius: float, half: float) -> tuple[float, float, float]:
    """Height, area and first moment about the crown of a circular segment with a chord of twice
    ``half``.
    """
    angle = np.arcsin(half / radius)
    height = radius * (1 - np.cos(angle))
    area = radius**2 * (angle - np.sin(angle) * np.cos(angle))
    centroid_from_centre = 2 * half**3 / 3 / area
    return height, area, area * (radius - centroid_from_centre)


def test_oval_and_tube() -> None:
    width, depth, wall = 0.03, 0.024, 0.15
    oval = section(Shape("oval"), width, [depth], [1.0], [1.0])
    assert oval.area[0] == pytest.approx(np.pi * width * depth / 4, rel=1e-6)
    assert oval.stiffness[0] == pytest.approx(np.pi * width * depth**3 / 64, rel=1e-5)
    tube = section(Shape("tube", {"wall": wall}), width, [depth], [1.0], [1.0])
    hollow = 1 - wall
    assert tube.area[0] == pytest.approx(np.pi * width * depth / 4 * (1 - hollow**2), rel=1e-5)
    assert tube.stiffness[0] == pytest.approx(
        np.pi * width * depth**3 / 64 * (1 - hollow**4), rel=1e-5
    )
    solid = section(Shape("tube", {"wall": 1.0}), width, [depth], [1.0], [1.0])
    assert solid.stiffness[0] == pytest.approx(oval.stiffness[0], rel=1e-9)


def test_trapezoid_either_way_up() -> None:
    """Second moment of a trapezoid about its centroid: d³ (a² + 4ab + b²) / 36 (a + b)."""
    width, depth = 0.03, 0.02
    for back, belly in ((1.0, 0.6), (0.6, 1.0)):
        a, b = back * width, belly * width
        values = section(
            Shape("trapezoid", {"back": back, "belly": belly}), width, [depth], [1.0], [1.0]
        )
        assert values.area[0] == pytest.approx((a + b) / 2 * depth)
        assert values.axis[0] == pytest.approx(depth * (a + 2 * b) / (3 * (a + b)))
        assert values.stiffness[0] == pytest.approx(
            depth**3 * (a**2 + 4 * a * b + b**2) / (36 * (a + b))
        )
    with pytest.raises(DescriptionError, match="wider of back and belly"):
        completed(Shape("trapezoid", {"back": 0.8, "belly": 0.6}))


def test_rounded_rectangle() -> None:
    """Area: the rectangle less four corners of (1 − π/4) r²; symmetrical about its middle."""
    width, depth, corner = 0.03, 0.016, 0.3
    values = section(Shape("rounded rectangle", {"corner": corner}), width, [depth], [1.0], [1.0])
    radius = corner * depth
    lost = (1 - np.pi / 4) * radius**2
    assert values.area[0] == pytest.approx(width * depth - 4 * lost, rel=1e-6)
    assert values.axis[0] == pytest.approx(depth / 2)
    # each corner's own centroid lies at r (10 − 3π) / (12 − 3π) from the faces
    own = radius**4 * (1 / 3 - np.pi / 16 - 1 / (36 - 9 * np.pi))
    arm = depth / 2 - radius * (10 - 3 * np.pi) / (12 - 3 * np.pi)
    assert values.stiffness[0] == pytest.approx(
        width * depth**3 / 12 - 4 * (own + lost * arm**2), rel=2e-4
    )


def test_faceted_belly() -> None:
    """Upright sides to half the depth, then a trapezoid, by Steiner's rule."""
    width, depth = 0.03, 0.02
    values = section(
        Shape("faceted belly", {"from_back": 0.5, "facet": 0.4}), width, [depth], [1.0], [1.0]
    )
    upper = section(Shape(), width, [depth / 2], [1.0], [1.0])
    lower = section(
        Shape("trapezoid", {"back": 1.0, "belly": 0.4}), width, [depth / 2], [1.0], [1.0]
    )
    area = upper.area + lower.area
    centroid = (upper.area * upper.axis + lower.area * (depth / 2 + lower.axis)) / area
    second = upper.stiffness + upper.area * (upper.axis - centroid) ** 2
    second += lower.stiffness + lower.area * (depth / 2 + lower.axis - centroid) ** 2
    assert values.axis == pytest.approx(centroid)
    assert values.stiffness == pytest.approx(second)


@pytest.mark.parametrize("radius", [0.02, 0.05, 0.3])
def test_crowned_back(radius: float) -> None:
    """The back of a split log: a circular segment on a rectangle."""
    width, depth = 0.036, 0.022
    height, area, moment = circle_segment(radius, width / 2)
    values = section(
        Shape("crowned back", {"radius_mm": radius * 1000}), width, [depth], [1.0], [1.0]
    )
    rest = depth - height
    whole = area + width * rest
    assert values.area[0] == pytest.approx(whole, rel=1e-6)
    assert values.axis[0] == pytest.approx(
        (moment + width * rest * (height + rest / 2)) / whole, rel=1e-6
    )


@given(
    st.sampled_from(
        ["oval", "trapezoid", "faceted belly", "rounded rectangle", "tube", "crowned back"]
    ),
    st.floats(0.15, 0.85),
)
def test_layers_of_one_stuff_are_one_layer_in_every_shape(name: str, share: float) -> None:
    whole = section(Shape(name), 0.035, [0.018], [11e9], [650.0])
    split = section(
        Shape(name), 0.035, [0.018 * share, 0.018 * (1 - share)], [11e9, 11e9], [650.0, 650.0]
    )
    assert split.stiffness[0] == pytest.approx(whole.stiffness[0], rel=2e-3)
    assert split.line_mass[0] == pytest.approx(whole.line_mass[0], rel=2e-3)
    assert 0 < whole.axis[0] < 0.018
    assert whole.stiffness[0] < 11e9 * 0.035 * 0.018**3 / 12


def test_a_slat_split_from_a_culm_is_the_strip_between_two_circles() -> None:
    """Strips of both circles from arc to centre, the inner taken off the outer."""
    outer, wall, half = 0.04, 0.008, 0.014
    inner = outer - wall

    def strip(radius: float) -> tuple[float, float, float]:
        side = np.sqrt(radius**2 - half**2)
        area = radius**2 * np.arcsin(half / radius) + half * side
        first = radius**2 * half - half**3 / 3
        second = (
            2
            / 3
            * (
                half * (5 * radius**2 - 2 * half**2) * side / 8
                + 3 * radius**4 / 8 * np.arcsin(half / radius)
            )
        )
        return area, first, second

    area, first, second = (a - b for a, b in zip(strip(outer), strip(inner), strict=True))
    depth = outer - np.sqrt(inner**2 - half**2)
    values = section(
        Shape("culm segment", {"radius_mm": 1000 * outer}), 2 * half, [depth], [1.0], [1.0]
    )
    assert values.area[0] == pytest.approx(area, rel=1e-5)
    assert outer - values.axis[0] == pytest.approx(first / area, rel=1e-6)
    assert values.stiffness[0] == pytest.approx(second - first**2 / area, rel=1e-4)


def test_a_slat_with_its_skin_to_the_belly_is_the_same_turned_over() -> None:
    figures, size = {"radius_mm": 40.0}, (0.028, [0.011], [1.0], [1.0])
    back, belly = (
        section(Shape(name, dict(figures)), *size)
        for name in ("culm segment", "culm segment, skin to the belly")
    )
    assert belly.stiffness == pytest.approx(back.stiffness) and belly.area == pytest.approx(
        back.area
    )
    assert belly.axis == pytest.approx(back.depth - back.axis)


def test_figures_may_differ_from_station_to_station() -> None:
    radii = np.array([60.0, 30.0])
    width, depth = np.full(2, 0.03), np.full(2, 0.012)
    both = integrate(
        completed(Shape("crowned back", {"radius_mm": radii})),
        width,
        depth[None],
        np.ones(1),
        np.ones(1),
    )
    for k, radius in enumerate(radii):
        one = section(
            Shape("crowned back", {"radius_mm": float(radius)}), 0.03, [0.012], [1.0], [1.0]
        )
        assert both.stiffness[k] == pytest.approx(one.stiffness[0], rel=1e-12)


@given(st.floats(0.012, 0.04), st.floats(0.0, 0.03), st.floats(0.5, 5.0))
def test_flat_oval_tube(depth: float, flat: float, wall: float) -> None:
    """A stadium less a stadium: a rectangle and a circle each, about the same middle."""
    inside = depth - 2e-3 * wall

    def about(d: float) -> tuple[float, float]:
        return flat * d + np.pi * d**2 / 4, flat * d**3 / 12 + np.pi * d**4 / 64

    whole, hollow = about(depth), about(inside)
    values = section(
        Shape("flat oval tube", {"wall_mm": wall}), depth + flat, [depth], [3e9], [1400.0]
    )
    assert values.area[0] == pytest.approx(whole[0] - hollow[0], rel=3e-4)
    assert values.stiffness[0] == pytest.approx(3e9 * (whole[1] - hollow[1]), rel=3e-4)
    assert values.axis[0] == pytest.approx(depth / 2)


def test_a_rod_that_slides_in_a_tube_bends_beside_it() -> None:
    plain = {"wall_mm": 3.0}
    rod = {"rod_mm": 12.0, "rod_gpa": 43.0, "rod_density": 1950.0}
    one = section(Shape("flat oval tube", plain), 0.03, [0.03], [3e9], [1400.0])
    both = section(Shape("flat oval tube", plain | rod), 0.03, [0.03], [3e9], [1400.0])
    assert both.stiffness[0] - one.stiffness[0] == pytest.approx(43e9 * np.pi * 0.012**4 / 64)
    assert both.line_mass[0] - one.line_mass[0] == pytest.approx(1950 * np.pi * 0.006**2)
    assert both.axis[0] == one.axis[0]


@given(st.floats(0.02, 0.06), st.floats(0.3, 1.0))
def test_a_tube_pressed_flat_is_as_long_around_as_it_was(across: float, share: float) -> None:
    depth = share * across
    wide = float(flattened(across, np.array(depth)))
    assert 2 * (wide - depth) + np.pi * depth == pytest.approx(np.pi * across)
    assert wide >= depth
