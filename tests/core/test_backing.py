"""What a backing takes: from the bow's own area, by strips, courses and glue."""

import numpy as np
import pytest

from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.making.backing import KINDS, MIXED, SLAT, amounts, kind_of
from bowyery.making.rests import rests
from bowyery.wood.materials import material
from tests.core.readings import bench_bow


def test_the_area_is_that_of_both_limbs_and_the_grip() -> None:
    found, limbs = bench_bow()
    need = amounts(found.bow, material("rawhide"), 0.001, 0.001, 0.03)
    middle = sum(limb.root[0] for limb in found.bow.limbs)
    area = middle * 0.03 + sum(
        float(np.trapezoid(limbs.width[k, 0], limbs.places()[k, 0])) for k in (0, 1)
    )
    assert need.area == pytest.approx(area)
    assert need.strips == 2 and need.length > 0.5 * (middle + 2 * found.bow.upper.length)
    assert need.width > float(grid(found.bow).width.max())
    assert need.glue == pytest.approx(MIXED * KINDS["rawhide"].glue * area)


def test_fibre_goes_with_volume_and_bundles_with_fibre() -> None:
    found, _ = bench_bow()
    thin = amounts(found.bow, material("sinew"), 0.0008, 0.0008, 0.03)
    thick = amounts(found.bow, material("sinew"), 0.0024, 0.0024, 0.03)
    assert (thin.courses, thick.courses) == (1, 3)
    assert thick.fibre == pytest.approx(3 * thin.fibre)
    assert thick.bundles == pytest.approx(thin.bundles, abs=2) and thin.bundles % 2 == 0
    # a back of some ten square decimetres and 0.8 mm of sinew: some two ounces, not a pound
    assert 0.02 < thin.fibre < 0.12
    taper = amounts(found.bow, material("sinew"), 0.0024, 0.0008, 0.03)
    assert thin.fibre < taper.fibre < thick.fibre
    flax = amounts(found.bow, material("flax fibre"), 0.0008, 0.0008, 0.03)
    assert flax.courses == 2 and flax.glue > 0


def test_a_slat_runs_from_end_to_end_and_every_kind_rests_by_the_table() -> None:
    found, _ = bench_bow()
    slat = amounts(found.bow, material("bamboo slat"), 0.004, 0.003, 0.03)
    assert slat.strips == 1 and slat.length > 1.6 and kind_of("ash") is SLAT
    for kind in (*KINDS.values(), SLAT):
        assert kind.dries in rests() and (not kind.soaks or kind.soaks in rests())


@pytest.mark.parametrize("sizes", [(0.0, 0.0), (-0.001, 0.002), (float("nan"), 0.001)])
def test_no_thickness_is_refused(sizes: tuple[float, float]) -> None:
    found, _ = bench_bow()
    with pytest.raises(DescriptionError):
        amounts(found.bow, material("rawhide"), *sizes, 0.03)
