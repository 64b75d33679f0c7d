"""Strings: strength by three rules, lengths from the braced bow, twist, mass."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.strings import plan as strings
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import fibre, fibres
from tests.core.bows import bow, kinds

WEIGHT, DRAW = 45 * POUND_FORCE, 0.68


@pytest.mark.parametrize("kind", strings.KINDS)
@pytest.mark.parametrize("name", ["linen", "polyester"])
def test_the_string_made_to_plan_braces_the_bow_as_wanted(kind: strings.Kind, name: str) -> None:
    which = bow()
    plan = strings.plan_string(which, WEIGHT, DRAW, fibre(name), kind)
    braced = statics.brace(grid(which), which.hold, string_length=np.array([plan.length]))
    assert braced.height[0] == pytest.approx(0.15, abs=1e-5)
    assert (plan.posts - plan.twist_take_up) * (1 + plan.fibre.stretch) == pytest.approx(
        plan.length
    )
    shorter = statics.brace(grid(which), which.hold, string_length=np.array([plan.length - 0.01]))
    assert shorter.height[0] - 0.15 == pytest.approx(0.01 * plan.brace_per_inch, rel=0.1)


def test_strength_by_hand() -> None:
    which = bow()
    strength = strings.strength_for(which, WEIGHT, DRAW)
    curve = force_curve.solve(which, np.array([15 * INCH, DRAW]))
    scale = WEIGHT / curve.drawn.weight[1]
    assert strength.school_one == pytest.approx(10 * curve.drawn.weight[0] * scale)
    assert strength.school_two == (pytest.approx(4 * WEIGHT), pytest.approx(6 * WEIGHT))
    assert strength.statics == pytest.approx(
        scale * max(curve.braced.tension[0], curve.drawn.tension.max()) / strings.STANDING_SHARE
    )
    # the shot pulls the string harder than any standing load, and it must bear that twice over
    assert strength.shot_tension > 1.3 * max(strength.brace_tension, strength.draw_tension)
    assert strength.shot == pytest.approx(strength.shot_tension / strings.SHOT_SHARE)
    asked = (strength.school_one, 5 * WEIGHT, strength.statics, strength.shot)
    assert strength.required == max(asked)


@given(st.floats(200, 5000), st.sampled_from(sorted(fibres())), st.sampled_from(strings.KINDS))
def test_strands_are_even_and_bear_what_is_asked(
    force: float, name: str, kind: strings.Kind
) -> None:
    count = strings.strands_for(force, fibre(name), kind)
    assert count % 2 == 0
    assert count * strings.LAID_SHARE * fibre(name).breaking_force >= force
    least = max(4, strings.least_strands(fibre(name)))
    assert count == least or (count - 2) * strings.LAID_SHARE * fibre(name).breaking_force < force
    assert strings.diameter_of(fibre(name), count) >= strings.LEAST_DIAMETER * 0.999


@given(st.floats(0.001, 0.005), st.integers(0, 60), st.floats(1.2, 1.9))
def test_twist_shortens_as_a_helix(diameter: float, turns: int, length: float) -> None:
    shorter = strings.twist_shortening(diameter, turns, length)
    helix = shorter / strings.TWIST_SHARE  # a yarn takes up half of what its outer fibres would
    axial, around = length - helix, math.pi * diameter * turns
    assert math.hypot(axial, around) == pytest.approx(length)
    assert strings.twist_shortening(diameter, turns + 1, length) > shorter or turns == 0


def test_more_turns_than_fit_are_refused() -> None:
    with pytest.raises(DescriptionError, match="turns"):
        strings.twist_shortening(0.005, 200, 1.5)


def test_serving_thread_by_hand() -> None:
    """Each turn advances one thread's width and is π (δ + δ_t) long."""
    assert strings.thread_for_serving(0.002, 0.0005, 0.1) == pytest.approx(200 * math.pi * 0.0025)


def test_mass_and_cut_length_follow_from_the_strands() -> None:
    loop = strings.plan_string(bow(), WEIGHT, DRAW, fibre("linen"), "continuous loop", 20)
    laid = strings.plan_string(bow(), WEIGHT, DRAW, fibre("linen"), "two-bundle laid twist", 20)
    assert loop.cut == pytest.approx(20 * loop.posts + 2 * strings.TAIL)
    assert (laid.bundles, laid.per_bundle) == (2, 10)
    assert laid.mass > loop.mass
    bare = loop.cut * fibre("linen").line_mass
    assert 1.1 * bare < loop.mass < 1.6 * bare
    double = strings.plan_string(bow(), WEIGHT, DRAW, fibre("linen"), "continuous loop", 40)
    # serving grows with how thick the string is, thread and wax with its strands
    assert 1.7 * loop.mass < double.mass < 2 * loop.mass


def test_a_heavier_bow_asks_for_more_and_the_makers_number_stands() -> None:
    light, heavy = (
        strings.plan_string(bow(), w * POUND_FORCE, DRAW, fibre("hemp"), "continuous loop")
        for w in (30, 90)
    )
    assert heavy.strands > light.strands
    assert light.length == pytest.approx(heavy.length)
    own = strings.plan_string(bow(), 90 * POUND_FORCE, DRAW, fibre("hemp"), "continuous loop", 6)
    assert own.strands == 6 and own.safe < own.strength.required


def test_impossible_strings_are_refused() -> None:
    for strands in (3, 2, 401, 7):
        with pytest.raises(DescriptionError, match="even number"):
            strings.plan_string(bow(), WEIGHT, DRAW, fibre("linen"), "continuous loop", strands)
    with pytest.raises(DescriptionError, match="Choose one"):
        strings.plan_string(bow(), WEIGHT, DRAW, fibre("linen"), "plait")  # type: ignore[arg-type]


def test_every_kind_of_bow_gets_a_string() -> None:
    for which in kinds().values():
        plan = strings.plan_string(
            replace(which), WEIGHT, 0.62, fibre("linen"), "two-bundle laid twist"
        )
        assert 1.3 < plan.length < 1.8
        assert plan.cut > plan.posts
