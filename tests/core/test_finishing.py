"""Finishing: what rounding and sanding take by the section, the arrow pass, wraps and overlays."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.making.finishing import QUIET, arrow_pass, finishing, overlays, wrap
from bowyery.mechanics import curve as force_curve
from tests.core.bows import bow

DRAW = 0.66


def corners_off(width: float, depth: float, radius: float) -> float:
    """Second moment of a rectangle with two rounded edges on one face, by strips (m⁴)."""
    z = np.linspace(-depth / 2, depth / 2, 20001)
    w = np.full(z.size, width)
    near = z > depth / 2 - radius
    w[near] -= 2 * (
        radius - np.sqrt(np.maximum(radius**2 - (z[near] - depth / 2 + radius) ** 2, 0))
    )
    area, middle = np.trapezoid(w, z), np.trapezoid(w * z, z) / np.trapezoid(w, z)
    assert area > 0
    return float(np.trapezoid(w * (z - middle) ** 2, z))


@pytest.mark.parametrize("radius", [0.001, 0.002, 0.003])
def test_rounding_takes_what_the_section_loses(radius: float) -> None:
    which = bow()
    told = finishing(which, DRAW, 0.0, radius)
    limbs = grid(which)
    share = np.array([
        [corners_off(w, d, radius) / (w * d**3 / 12) for w, d in zip(*row, strict=True)]
        for row in zip(limbs.width[:, 0], limbs.depth[:, 0], strict=True)
    ])  # fmt: skip
    plain = force_curve.solve(which, np.array([DRAW])).drawn.weight[-1]
    thinner = limbs.stiffened(share[:, None, :])
    exact = force_curve.solve_grid(thinner, which, np.array([DRAW])).drawn.weight[-1]
    assert told.rounding == pytest.approx(1 - exact / plain, rel=0.12)
    assert told.sanding == 0


def test_sanding_takes_three_times_its_share_of_the_thickness() -> None:
    which = bow()
    off = 1e-4
    told = finishing(which, DRAW, 0.0, 0.0, 0.0, off)
    thin = replace(which, **{
        side: replace(getattr(which, side), thickness=getattr(which, side).thickness - off)
        for side in ("upper", "lower")
    })  # fmt: skip
    weights = [force_curve.solve(one, np.array([DRAW])).drawn.weight[-1] for one in (which, thin)]
    assert told.sanding == pytest.approx(1 - weights[1] / weights[0], rel=0.06)
    both = finishing(which, DRAW, 0.002, 0.002, off, off)
    assert both.share < both.rounding + both.sanding


@given(st.floats(0.0, 0.003), st.floats(0.0, 0.003))
def test_more_rounding_takes_more(one: float, two: float) -> None:
    low, high = sorted((one, two))
    assert (
        finishing(bow(), DRAW, low, low).rounding
        <= finishing(bow(), DRAW, high, high).rounding + 1e-12
    )


@pytest.mark.parametrize(
    ("figures", "field"),
    [((0.02, 0.0), "back"), ((0.0, -0.001), "belly"), ((math.nan, 0.0), "back"),
     ((0.0, 0.0, 0.0, 0.01), "off_belly")],
)  # fmt: skip
def test_more_than_the_limb_has_is_refused(figures: tuple[float, ...], field: str) -> None:
    with pytest.raises(DescriptionError) as told:
        finishing(bow(), DRAW, *figures)
    assert told.value.place == field


def test_a_pass_stays_within_a_third_and_in_a_handle_that_does_not_bend() -> None:
    good = arrow_pass(bow(), 0.032, 0.045, 0.008, DRAW, 0.009)
    assert good.sound and good.stiffness == pytest.approx(1 - 9 / 32)
    # closer to the middle the deeper it is, and beside it by half an arrow at half the width
    centre = arrow_pass(bow(), 0.032, 0.045, 0.008, DRAW, 0.016, arrow=0.008)
    assert centre.beside == pytest.approx(0.004) and not centre.sound
    assert centre.angle == pytest.approx(math.atan2(0.004, 0.15), rel=0.01)
    thin = arrow_pass(bow(), 0.032, 0.018, 0.008, DRAW, 0.010)
    assert thin.use > QUIET and not thin.sound
    assert thin.use == pytest.approx(
        arrow_pass(bow(), 0.032, 0.036, 0.008, DRAW, 0.010).use * 4, rel=1e-9
    )
    with pytest.raises(DescriptionError, match="handle bends"):
        arrow_pass(bow(), 0.032, 0.02, 0.008, DRAW, 0.005, bends=True)
    for depth in (0.0, 0.032, math.nan):
        with pytest.raises(DescriptionError, match="not through it"):
            arrow_pass(bow(), 0.032, 0.02, 0.008, DRAW, depth)


def test_a_grip_is_wrapped_round_and_round() -> None:
    found = wrap(0.03, 0.03, 0.1, 0.002, rounded=0.015)
    assert found.around == pytest.approx(math.pi * 0.03)  # a round grip
    assert found.turns == 50
    assert found.cord == pytest.approx(50 * math.pi * 0.032 + 0.3)
    assert found.leather[0] > found.around
    with pytest.raises(DescriptionError):
        wrap(0.03, 0.03, 0.0, 0.002)


def test_overlays_are_a_little_wider_than_their_tips_and_stouter_on_a_heavy_bow() -> None:
    light, heavy = (overlays(bow(), weight, 0.003)[0] for weight in (100.0, 600.0))
    assert light.width > bow().upper.width[-1] and light.groove > 0.003
    assert heavy.thick > light.thick
