"""Sweeps against the same variants solved one by one."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.design.sweep import MEASURES, sweep
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.dynamics import loose
from bowyery.wood.materials import at_moisture, material
from tests.core.bows import DRAW, FLATBOW

ARROW = 0.028


def test_each_variant_is_the_bow_solved_alone() -> None:
    lengths, widths = np.array([0.95, 1.0, 1.08]), np.array([0.8, 1.0, 1.3])
    found = sweep(FLATBOW, DRAW, ("length", lengths), ("width", widths), ARROW, 0.012)
    for i, length in enumerate(lengths):
        for j, width in enumerate(widths):
            side = FLATBOW.upper
            one = replace(
                side,
                at=side.at * length,
                width=side.width * width,
                unstrung_at=side.unstrung_at * length,
            )
            alone = force_curve.solve(replace(FLATBOW, upper=one, lower=one), np.array([DRAW]), 32)
            assert found.weight[i, j] == pytest.approx(alone.drawn.weight[0], rel=1e-6)
    assert found.weight[1, 2] == pytest.approx(1.3 * found.weight[1, 1], rel=1e-6)
    assert np.all(np.diff(found.weight, axis=0) < 0)
    assert np.all(np.diff(found.use, axis=0) < 0)


def test_reflex_and_modulus_go_as_they_must() -> None:
    found = sweep(
        FLATBOW,
        DRAW,
        ("reflex", np.array([-0.02, 0.0, 0.03])),
        ("modulus", np.array([0.9, 1.0, 1.1])),
        ARROW,
        0.012,
    )
    assert np.all(np.diff(found.weight, axis=0) > 0)
    assert found.weight[1, 2] / found.weight[1, 0] == pytest.approx(1.1 / 0.9, rel=1e-6)
    tips = sweep(
        FLATBOW,
        DRAW,
        ("tip width", np.array([0.7, 1.0])),
        ("modulus", np.array([1.0, 1.01])),
        ARROW,
        0.012,
    )
    assert tips.weight[0, 0] < tips.weight[1, 0]


def test_speed_is_near_that_of_the_loose() -> None:
    virtual = loose(FLATBOW, DRAW, ARROW).virtual_mass
    found = sweep(
        FLATBOW,
        DRAW,
        ("length", np.array([1.0])),
        ("tip width", np.array([0.7, 1.0])),
        ARROW,
        virtual,
    )
    assert found.speed[0, 1] == pytest.approx(loose(FLATBOW, DRAW, ARROW).speed, rel=0.01)
    side = FLATBOW.upper
    share = np.clip(2 * side.at / side.at[-1] - 1, 0.0, 1.0)
    one = replace(side, width=side.width * (1 - 0.3 * share))
    assert found.speed[0, 0] == pytest.approx(
        loose(replace(FLATBOW, upper=one, lower=one), DRAW, ARROW).speed, rel=0.03
    )


def test_what_cannot_be_drawn_is_left_open_and_the_rest_is_solved() -> None:
    found = sweep(
        FLATBOW,
        0.8,
        ("length", np.array([0.45, 0.9, 1.0])),
        ("width", np.array([1.0, 1.1])),
        ARROW,
        0.012,
    )
    assert np.all(np.isnan(found.weight[0]))
    assert np.all(found.weight[1:] > 0)


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
        sweep(
            replace(FLATBOW, brace_height=None, string_length=1.6),
            DRAW,
            ("length", np.ones(1)),
            good,
            ARROW,
            0.01,
        )
    assert set(MEASURES) == {"length", "width", "tip width", "reflex", "modulus", "wood"}


def test_another_wood_is_the_bow_made_of_it() -> None:
    woods = [
        at_moisture(material(name), 0.09) for name in ("english elm", "wych elm", "black locust")
    ]
    found = sweep(
        FLATBOW,
        DRAW,
        ("wood", np.arange(3.0)),
        ("width", np.array([1.0, 1.2])),
        ARROW,
        0.012,
        woods,
    )
    # a bow made of another wood bends alike and pulls as its modulus says, whatever its density;
    # its strain is what it was, so its use goes by what the wood bears
    weight, use = found.weight[:, 0], found.use[:, 0]
    by_modulus = np.array([wood.modulus for wood in woods])
    assert weight / weight[0] == pytest.approx(by_modulus / by_modulus[0], rel=1e-6)
    bears = np.array([wood.working_strain for wood in woods])
    assert use / use[0] == pytest.approx(bears[0] / bears, rel=1e-6)
    heavier = [replace(woods[0], density=2 * woods[0].density), woods[0]]
    slow = sweep(
        FLATBOW, DRAW, ("wood", np.arange(2.0)), ("width", np.array([1.0])), ARROW, 0.012, heavier
    )
    assert slow.weight[0, 0] == pytest.approx(slow.weight[1, 0], rel=1e-9)
    assert slow.speed[0, 0] < slow.speed[1, 0]
    for wrong in (np.array([3.0]), np.array([0.5]), np.array([np.nan])):
        with pytest.raises(DescriptionError, match="by their numbers"):
            sweep(FLATBOW, DRAW, ("wood", wrong), ("width", np.array([1.0])), ARROW, 0.012, woods)
