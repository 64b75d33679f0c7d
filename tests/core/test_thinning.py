"""How stiffness goes with wood off the belly: held against sections integrated anew."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.bow.section import Layer
from bowyery.bow.thinning import Thinning, thinning
from tests.core.bows import bow

PLACES = np.linspace(0.0, 1.0, 7)
WOOD = bow().upper.layers[-1]
GLASS = Layer("facing", "glass", 43e9, 1950.0, np.full(bow().upper.at.size, 0.0008))
SINEW = Layer("backing", "sinew", 2e9, 1300.0, np.full(bow().upper.at.size, 0.003))


def layered(*layers: Layer) -> Bow:
    made = bow()
    limbs = [replace(limb, layers=layers) for limb in made.limbs]
    return replace(made, upper=limbs[0], lower=limbs[1])


def law_of(made: Bow, rest: bool = False) -> Thinning:
    return thinning(made, grid(made), PLACES, rest)


def power(law: Thinning) -> float:
    """Of the thickness that stiffness goes with, for a shaving."""
    none = np.zeros((2, PLACES.size))
    off = 0.0001
    return float(np.median(law.fall(none, none + off) / np.log(1 - off / law.depth)))


def test_solid_wood_goes_with_the_cube() -> None:
    law = law_of(bow())
    field = np.full((2, PLACES.size), 0.35)
    assert law.standing(field) == pytest.approx(law.depth * np.exp(0.35 / 3), rel=1e-6)
    off = np.full_like(field, 0.0007)
    assert law.fall(field, off) == pytest.approx(3 * np.log(1 - off / law.standing(field)))
    assert law.removal(field, -law.fall(field, off)) == pytest.approx(off)
    assert power(law) == pytest.approx(3.0, rel=1e-3)


def test_sinew_falls_faster_and_glass_much_faster() -> None:
    backed, faced = law_of(layered(SINEW, WOOD)), law_of(layered(GLASS, WOOD, GLASS))
    assert 3.2 < power(backed) < 4.0
    assert power(faced) > 6
    assert power(law_of(layered(GLASS, WOOD, GLASS), rest=True)) < 3


@pytest.mark.parametrize("layers", [(WOOD,), (SINEW, WOOD)], ids=["solid", "sinew"])
def test_the_law_is_that_of_the_section_cut_thinner(layers: tuple[Layer, ...]) -> None:
    thick = layered(*layers)
    off = 0.0009
    thin = replace(
        thick,
        upper=replace(thick.upper, thickness=thick.upper.thickness - off),
        lower=replace(thick.lower, thickness=thick.lower.thickness - off),
    )
    law, none = law_of(thick), np.zeros((2, PLACES.size))
    before, after = grid(thick), grid(thin)
    for side in (0, 1):
        stiff = [
            np.interp(PLACES, g.shares[side, 0], np.log(g.node_stiffness[side, 0]))
            for g in (before, after)
        ]
        assert law.fall(none, none + off)[side] == pytest.approx(stiff[1] - stiff[0], abs=0.004)


def test_more_than_all_of_it_leaves_the_least_that_is_known() -> None:
    law, none = law_of(layered(GLASS, WOOD, GLASS)), np.zeros((2, PLACES.size))
    fall = law.fall(none, none + 1.0)
    assert np.all(np.isfinite(fall)) and np.all(fall < -2)
    assert np.all(np.diff(law.logs, axis=-1) > 0)
