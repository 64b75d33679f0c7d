"""Proof: several shots, one slow pull, efficiency with its band, and what a speed implies."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.dynamics import loose
from bowyery.mechanics.shot import HELD
from bowyery.record.proof import (
    Against,
    efficiency,
    efficiency_band,
    implied,
    pulled,
    several,
    stored_at,
)
from tests.core.bows import bow

DRAWS = np.linspace(0.155, 0.66, 18)


def test_a_few_shots_have_a_mean_an_honest_spread_and_the_odd_one_named() -> None:
    found = several([46.0, 46.4, 45.8, 46.2])
    assert found.mean == pytest.approx(46.1) and found.count == 4 and not found.odd
    assert 0.2 < found.deviation < 0.6 and found.error == pytest.approx(found.deviation / 2)
    assert several([46.0, 46.0]).deviation > 0.2
    wild = several([46.0, 46.4, 45.8, 146.2])
    assert wild.odd == (3,) and wild.mean == pytest.approx(46.0667, abs=1e-3)
    for none in ([], [0.0], [math.nan], [-3.0]):
        with pytest.raises(DescriptionError):
            several(none)


@given(st.floats(0.6, 1.6))
def test_a_slow_pull_scales_the_curve_and_its_energy(scale: float) -> None:
    curve = force_curve.solve(bow(), DRAWS)
    reads = [
        (float(d), float(w) * scale)
        for d, w in zip(DRAWS[3::4], curve.drawn.weight[3::4], strict=True)
    ]
    found = pulled(curve, reads)
    assert found.scale == pytest.approx(scale) and not found.odd
    energy, error = found.energy
    assert energy == pytest.approx(stored_at(curve, scale * float(curve.drawn.weight[-1])))
    assert 0.005 < error / energy < 0.02


def test_a_mistyped_weight_is_named_and_left_out() -> None:
    curve = force_curve.solve(bow(), DRAWS)
    reads = [(float(DRAWS[k]), float(curve.drawn.weight[k])) for k in (6, 10, 14, 17)]
    reads[1] = (reads[1][0], 10 * reads[1][1])
    found = pulled(curve, reads)
    assert found.odd == (1,) and found.scale == pytest.approx(1.0)
    for bad in ([], [(0.05, 50.0)], [(0.9, 300.0)], [(0.5, 0.0)]):
        with pytest.raises(DescriptionError):
            pulled(curve, bad)


def test_efficiency_has_a_band_that_shots_narrow() -> None:
    few = efficiency_band(0.03, several([46.0]), (50.0, 0.6))
    many = efficiency_band(0.03, several([46.0] * 9), (50.0, 0.6))
    assert few[1] == many[1] == pytest.approx(efficiency(0.03, 46.0, 50.0))
    assert few[0] < many[0] < many[1] < many[2] < few[2]


def test_what_the_limbs_keep_is_found_from_the_speed() -> None:
    which = bow()

    def speed(loss: float) -> float:
        return loose(which, 0.66, 0.03, 10, steps=50, watch=False, loss=loss, held=HELD).speed

    assert implied(speed, speed(0.11)) == pytest.approx(0.11, abs=0.005)
    assert implied(speed, 2 * speed(0.0)) is None
    assert implied(speed, 0.5 * speed(0.4)) is None


def test_a_forecast_held_or_did_not() -> None:
    assert Against("weight", 190, 200, 210, 205).held
    missed = Against("weight", 190, 200, 220, 180)
    assert not missed.held and (missed.off, missed.miss) == (-20, -2)
    assert Against("weight", 190, 200, 220, 210).miss == 0.5
