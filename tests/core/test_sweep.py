"""Sweeps against the same variants solved one by one."""

import time
from dataclasses import replace

import numpy as np
import pytest

from bowyery import statics
from bowyery.dynamics import loose
from bowyery.errors import DescriptionError
from bowyery.materials import at_moisture, material
from bowyery.sweep import MEASURES, sweep
from tests.core.test_changes import DRAW, FLATBOW

ARROW = 0.028


def test_each_variant_is_the_bow_solved_alone() -> None:
    lengths, widths = np.array([0.95, 1.0, 1.08]), np.array([0.8, 1.0, 1.3])
    found = sweep(FLATBOW, DRAW, ("length", lengths), ("width", widths), ARROW, 0.012)
    for i, length in enumerate(lengths):
        for j, width in enumerate(widths):
            side = FLATBOW.upper
            one = replace(side, at=side.at * length, width=side.width * width, unstrung_at=side.unstrung_at * length)
            alone = statics.solve(replace(FLATBOW, upper=one, lower=one), np.array([DRAW]), 32)
            assert found.weight[i, j] == pytest.approx(alone.drawn.weight[0], rel=1e-6)
    assert found.weight[1, 2] == pytest.approx(1.3 * found.weight[1, 1], rel=1e-6)
    assert np.all(np.diff(found.weight, axis=0) < 0)
    assert np.all(np.diff(found.use, axis=0) < 0)


def test_reflex_and_modulus_go_as_they_must() -> None:
    found = sweep(FLATBOW, DRAW, ("reflex", np.array([-0.02, 0.0, 0.03])), ("modulus", np.array([0.9, 1.0, 1.1])), ARROW, 0.012)
    assert np.all(np.diff(found.weight, axis=0) > 0)
    assert found.weight[1, 2] / found.weight[1, 0] == pytest.approx(1.1 / 0.9, rel=1e-6)
    tips = sweep(FLATBOW, DRAW, ("tip width", np.array([0.7, 1.0])), ("modulus", np.array([1.0, 1.01])), ARROW, 0.012)
    assert tips.weight[0, 0] < tips.weight[1, 0]


def test_speed_is_near_that_of_the_loose() -> None:
    virtual = loose(FLATBOW, DRAW, ARROW).virtual_mass
    found = sweep(FLATBOW, DRAW, ("length", np.array([1.0])), ("tip width", np.array([0.7, 1.0])), ARROW, virtual)
    assert found.speed[0, 1] == pytest.approx(loose(FLATBOW, DRAW, ARROW).speed, rel=0.01)
    side = FLATBOW.upper
    share = np.clip(2 * side.at / side.at[-1] - 1, 0.0, 1.0)
    one = replace(side, width=side.width * (1 - 0.3 * share))
    assert found.speed[0, 0] == pytest.approx(loose(replace(FLATBOW, upper=one, lower=one), DRAW, ARROW).speed, rel=0.03)


def test_what_cannot_be_drawn_is_left_open_and_the_rest_is_solved() -> None:
    found = sweep(FLATBOW, 0.8, ("length", np.array([0.45, 0.9, 1.0])), ("width", np.array([1.0, 1.1])), ARROW, 0.012)
    assert np.all(np.isnan(found.weight[0]))
    assert np.all(found.weight[1:] > 0)


def test_four_hundred_designs_take_less_than_a_second() -> None:
    start = time.perf_counter()
    found = sweep(FLATBOW, DRAW, ("length", np.linspace(0.9, 1.15, 20)), ("width", np.linspace(0.8, 1.3, 20)), ARROW, 0.012)
    assert time.perf_counter() - start < 1.0
    assert np.all(np.isfinite(found.weight))


def test_impossible_sweeps_are_refused() -> None:
    good = ("width", np.array([1.0]))
    for first in (
        ("depth", np.array([1.0])),
        ("width", np.array([1.1])),
        ("length", np.array([-1.0])),
        ("length", np.array([np.nan])),
    ):
        with pytest.raises(DescriptionError):
            sweep(FLATBOW, DRAW, first, good, ARROW, 0.01)
    with pytest.raises(DescriptionError, match="At most"):
        sweep(FLATBOW, DRAW, ("length", np.ones(100)), ("width", np.ones(100)), ARROW, 0.01)
    with pytest.raises(DescriptionError, match="brace height"):
        sweep(replace(FLATBOW, brace_height=None, string_length=1.6), DRAW, ("length", np.ones(1)), good, ARROW, 0.01)
    assert set(MEASURES) == {"length", "width", "tip width", "reflex", "modulus", "wood"}


def test_another_wood_is_the_bow_made_of_it() -> None:
    woods = [at_moisture(material(name), 0.09) for name in ("english elm", "wych elm", "black locust")]
    found = sweep(FLATBOW, DRAW, ("wood", np.arange(3.0)), ("width", np.array([1.0, 1.2])), ARROW, 0.012, woods)
    for k, wood in enumerate(woods):
        layer = replace(FLATBOW.upper.layers[0], modulus=wood.modulus, density=wood.density,
                        rupture_strain=wood.rupture_strain, elastic_strain=wood.elastic_strain)  # fmt: skip
        made = replace(FLATBOW, upper=replace(FLATBOW.upper, layers=(layer,)), lower=replace(FLATBOW.lower, layers=(layer,)))
        alone = sweep(made, DRAW, ("length", np.array([1.0])), ("width", np.array([1.0])), ARROW, 1e-9)
        assert found.weight[k, 0] == pytest.approx(alone.weight[0, 0], rel=1e-6)
        assert found.use[k, 0] == pytest.approx(alone.use[0, 0], rel=1e-6)
    for wrong in (np.array([3.0]), np.array([0.5]), np.array([np.nan])):
        with pytest.raises(DescriptionError, match="by their numbers"):
            sweep(FLATBOW, DRAW, ("wood", wrong), ("width", np.array([1.0])), ARROW, 0.012, woods)
