"""The loosed arrow: energy, limits that are known, and damping found again from speeds."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bowyery.bow.bow import Bow, StringLine
from bowyery.bow.section import Layer
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics.chronograph import fit_damping
from bowyery.mechanics.dynamics import lighter, loose
from bowyery.strings.plan import usual_string
from bowyery.wood.materials import fibre
from tests.core.bows import bow, kinds, limb

DRAW, ARROW = 0.66, 0.030


def recurve() -> Bow:
    """Tips that curve to the back, so that the string lies on them at brace."""
    tip = replace(
        limb(),
        unstrung_at=np.array([0.0, 0.5, 0.6, 0.78]),
        unstrung=np.array([0.0, 0.0, -2.5, -2.5]),
    )
    return bow(tip)


@pytest.mark.parametrize("name", [*kinds(), "recurve"])
def test_energy_is_kept_without_damping(name: str) -> None:
    which = recurve() if name == "recurve" else kinds()[name]
    found = loose(which, DRAW, ARROW, damping=0.0)
    assert abs(found.balance) < 0.005
    assert 0.4 < found.efficiency < 0.95
    assert found.efficiency == pytest.approx(0.5 * ARROW * found.speed**2 / found.stored)
    assert np.all(np.diff(found.travel) > 0)
    assert found.travel[-1] > 0.95 * (DRAW - 0.15)


def test_with_damping_the_books_balance_too_and_the_arrow_is_slower() -> None:
    free, damped = loose(bow(), DRAW, ARROW, damping=0.0), loose(bow(), DRAW, ARROW, damping=1e-3)
    assert abs(damped.balance) < 0.005
    assert damped.speed < free.speed
    assert damped.peak_tension < free.peak_tension


def test_more_masses_and_steps_come_to_one_speed() -> None:
    best = loose(bow(), DRAW, ARROW, masses=48, steps=600).speed
    assert loose(bow(), DRAW, ARROW).speed == pytest.approx(best, rel=3e-3)
    assert loose(bow(), DRAW, ARROW, masses=10, steps=60).speed == pytest.approx(best, rel=8e-3)


def test_almost_weightless_limbs_and_string_give_the_arrow_nearly_all() -> None:
    light = (Layer("core", "feather", 11e9, 5.0),)
    which = bow(replace(limb(), layers=light))
    which = replace(which, string=StringLine(1e-5, 5e5))
    found = loose(which, DRAW, 0.05, damping=0.0)
    assert found.efficiency > 0.98
    assert found.virtual_mass < 0.001


def test_a_very_heavy_arrow_takes_nearly_all_and_leaves_slowly() -> None:
    light, heavy = loose(bow(), DRAW, 0.03), loose(bow(), DRAW, 1.0)
    assert heavy.efficiency > 0.93 > light.efficiency
    assert heavy.speed < 0.3 * light.speed
    # virtual mass is a property of the bow more than of the arrow
    assert loose(bow(), DRAW, 0.04).virtual_mass == pytest.approx(light.virtual_mass, rel=0.25)


def test_scaling_masses_stretches_time() -> None:
    """Everything four times as heavy: half the speed, the same efficiency."""
    heavy = replace(limb(), layers=(replace(limb().layers[0], density=4 * 640.0),))
    one = loose(replace(bow(), string=StringLine(0.008, 4e4)), DRAW, 0.03, damping=0.0)
    four = loose(replace(bow(heavy), string=StringLine(0.032, 4e4)), DRAW, 0.12, damping=0.0)
    assert four.speed == pytest.approx(one.speed / 2, rel=1e-6)
    assert four.efficiency == pytest.approx(one.efficiency, rel=1e-6)
    assert four.peak_tension == pytest.approx(one.peak_tension, rel=1e-5)


def test_a_mirrored_bow_shoots_alike() -> None:
    which = kinds()["unequal"]
    turned = replace(which, upper=which.lower, lower=which.upper)
    assert loose(turned, DRAW, ARROW).speed == pytest.approx(
        loose(which, DRAW, ARROW).speed, rel=1e-6
    )


def test_lighter_string_and_narrower_tips_are_worth_speed() -> None:
    base = loose(bow(), DRAW, ARROW)
    assert lighter(bow(), DRAW, ARROW, string_mass=0.004).speed > base.speed + 0.3
    narrow = lighter(bow(), DRAW, ARROW, tip=0.8)
    assert narrow.virtual_mass < base.virtual_mass


def test_damping_is_found_again_from_chronograph_speeds() -> None:
    true = 2e-3
    shots = [(mass, loose(bow(), DRAW, mass, 12, true, 120).speed) for mass in (0.030, 0.045)]
    assert fit_damping(bow(), DRAW, shots) == pytest.approx(true, rel=0.02)
    assert fit_damping(bow(), DRAW, [(0.03, 200.0)]) == 0.0
    with pytest.raises(DescriptionError, match="slower"):
        fit_damping(bow(), DRAW, [(0.03, 10.0)])
    with pytest.raises(DescriptionError, match="at least one"):
        fit_damping(bow(), DRAW, [])


def test_impossible_masses_are_refused() -> None:
    for mass in (0.0, -1.0, float("nan")):
        with pytest.raises(DescriptionError, match="arrow"):
            loose(bow(), DRAW, mass)
    with pytest.raises(DescriptionError, match="string"):
        loose(replace(bow(), string=StringLine(0.0)), DRAW, ARROW)
    with pytest.raises(DescriptionError, match="damping"):
        loose(bow(), DRAW, ARROW, damping=-1.0)


@settings(max_examples=10, deadline=None)
@given(st.floats(0.008, 0.2), st.floats(0.002, 0.05), st.floats(5e3, 5e5))
def test_any_arrow_and_string_give_figures_or_a_typed_error(
    arrow: float, mass: float, stretch: float
) -> None:
    try:
        found = loose(replace(bow(), string=StringLine(mass, stretch)), DRAW, arrow, 10, 0.0, 100)
    except BowyeryError as error:
        assert str(error).endswith(".")
        return
    assert 0 < found.efficiency < 1
    assert abs(found.balance) < 0.005


def test_the_usual_string_follows_its_fibre() -> None:
    linen, polyester = (usual_string(fibre(name), 200.0, 1.6) for name in ("linen", "polyester"))
    assert linen.mass > polyester.mass
    twice = usual_string(fibre("linen"), 400.0, 1.6)
    assert twice.mass == pytest.approx(2 * linen.mass, rel=0.06)
    # at an eighth of its strength it stretches as the table says
    strands = twice.stretch_stiffness / (fibre("linen").breaking_force / 8 / fibre("linen").stretch)
    assert strands == pytest.approx(round(strands))
