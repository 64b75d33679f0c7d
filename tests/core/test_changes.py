"""What changes to a bow do, limits and set layer by layer, and the share of set fitted from
records.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.bow.section import Layer
from bowyery.design.alterations import backed, heated, outcomes, reflexed, shortened
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.strain import (
    CREEP,
    SET_SHARE,
    SetShare,
    bend_limits,
    creep_offset,
    excess_offset,
    expected_set,
    limit_use,
)
from bowyery.record.evidence import share_kept
from bowyery.record.learned import QUANTITIES, Evidence, Learned, learned
from bowyery.wood.materials import material
from tests.core.bows import DRAW, ELM, FLATBOW, WOOD


def weight_of(which: Bow) -> float:
    return float(force_curve.solve(which, np.array([DRAW])).drawn.weight[0])


def test_shorter_ends_gain_weight_and_cost_strain_step_by_step() -> None:
    cuts = np.arange(0, 7) * 0.0127
    rows = outcomes([(f"{c}", shortened(FLATBOW, float(c))) for c in cuts], DRAW)
    weights, uses, follows = (
        np.array([getattr(r, k) for r in rows]) for k in ("weight", "use", "energy")
    )
    assert np.all(np.diff(weights) > 0)
    assert np.all(np.diff(uses) > 0)
    assert np.all(follows > 0)
    assert rows[-1].set is not None and rows[0].set is not None
    assert rows[-1].set.follow > rows[0].set.follow
    # solved together as one by one
    assert rows[3].weight == pytest.approx(
        float(
            force_curve.solve(
                shortened(FLATBOW, float(cuts[3])), np.array([DRAW]), 32
            ).drawn.weight[0]
        ),
        rel=1e-6,
    )


def test_what_is_cut_off_is_the_tip_alone() -> None:
    cut = shortened(FLATBOW, 0.05)
    assert cut.upper.length == pytest.approx(FLATBOW.upper.length - 0.05)
    at = np.array([0.1, 0.5, 0.7])
    for name in ("width", "thickness"):
        before = np.interp(at, FLATBOW.upper.at, getattr(FLATBOW.upper, name))
        assert np.interp(at, cut.upper.at, getattr(cut.upper, name)) == pytest.approx(before)
    assert shortened(FLATBOW, 0.0) == FLATBOW
    for by in (-0.01, 0.5, float("nan")):
        with pytest.raises(DescriptionError):
            shortened(FLATBOW, by)
    with pytest.raises(DescriptionError, match="brace height"):
        shortened(replace(FLATBOW, brace_height=None, string_length=1.6), 0.02)


def test_reflex_heat_and_backing_raise_the_weight() -> None:
    plain = weight_of(FLATBOW)
    more = reflexed(FLATBOW, 0.03)
    limbs = grid(more)
    rest = np.interp(0.0, more.upper.unstrung_at, more.upper.unstrung)
    assert rest == pytest.approx(-2 * 0.03 / FLATBOW.upper.length**2)
    assert limbs.curvature.mean() == pytest.approx(rest)
    assert weight_of(more) > plain
    hot = heated(FLATBOW)
    assert [layer.role for layer in hot.upper.layers] == ["core", "belly"]
    assert 1.0 < weight_of(hot) / plain < 1.07
    slat = backed(FLATBOW, material("bamboo slat"), 0.003)
    assert slat.upper.thickness == pytest.approx(FLATBOW.upper.thickness + 0.003)
    assert weight_of(slat) > 1.3 * plain
    assert weight_of(backed(FLATBOW, material("sinew"), 0.001, 0.02)) > weight_of(
        backed(FLATBOW, material("sinew"), 0.001)
    )
    with pytest.raises(DescriptionError, match="thicker than nothing"):
        backed(FLATBOW, material("silk"), 0.0)
    with pytest.raises(DescriptionError, match="faced"):
        heated(
            replace(
                FLATBOW,
                upper=replace(
                    FLATBOW.upper, layers=(*WOOD, Layer("belly", "g", 1e9, 1e3, np.full(3, 1e-3)))
                ),
            )
        )


def test_one_bow_that_cannot_be_drawn_does_not_stop_the_others() -> None:
    rows = outcomes([("as it is", FLATBOW), ("half of it", shortened(FLATBOW, 0.38))], 0.76)
    assert rows[0].weight is not None and not rows[0].trouble
    assert rows[1].weight is None and rows[1].trouble.endswith(".")


def test_limits_of_one_wood_are_its_strains_over_half_the_depth() -> None:
    limbs = grid(FLATBOW)
    limits = bend_limits(FLATBOW, limbs)
    half = 0.5 * limbs.depth[:, 0]
    assert limits.elastic == pytest.approx(ELM.elastic_strain / half)
    assert limits.working == pytest.approx(ELM.working_strain / half)
    assert limits.rupture == pytest.approx(ELM.rupture_strain / half)
    curve = force_curve.solve(FLATBOW, np.array([DRAW]))
    strain = np.abs(curve.shapes.back[:, -1])
    assert limit_use(limits, curve.shapes) == pytest.approx(strain / ELM.working_strain)


def test_a_layer_of_no_thickness_has_no_say_and_a_weak_one_has() -> None:
    glassy = Layer("facing", "glass", 43e9, 1950.0, np.zeros(3), 1e-6, 1e-6)
    none = replace(FLATBOW, upper=replace(FLATBOW.upper, layers=(glassy, *WOOD)))
    assert bend_limits(none, grid(none)).working[0] == pytest.approx(
        bend_limits(FLATBOW, grid(FLATBOW)).working[0]
    )
    brittle = replace(glassy, thickness=np.full(3, 0.001))
    weak = replace(FLATBOW, upper=replace(FLATBOW.upper, layers=(brittle, *WOOD)))
    assert np.all(
        bend_limits(weak, grid(weak)).rupture[0]
        < 1e-3 * bend_limits(FLATBOW, grid(FLATBOW)).rupture[0]
    )


def shares(records: list[tuple[float, float]]) -> Learned:
    """What a shop's bows say of the share that stays: offsets if all had, and what did (m)."""
    seen = [
        Evidence(*found, "ash", bow=k)
        for k, (beyond, taken) in enumerate(records, 1)
        if (found := share_kept(beyond, taken)) is not None
    ]
    return learned(QUANTITIES["set share"], seen, "ash")


def test_the_share_that_stays_is_learned_from_finished_bows() -> None:
    assert shares([]).middle == pytest.approx(SET_SHARE)
    few, many = shares([(0.05, 0.03)]), shares([(0.05, 0.03)] * 10)
    assert SET_SHARE < few.middle < many.middle < 0.61
    assert many.spread < few.spread < few.before
    assert not shares([(0.003, 0.003)]).says  # hardly bent beyond its limit: it says nothing
    curve = force_curve.solve(FLATBOW, np.array([DRAW]))
    limits = bend_limits(FLATBOW, curve.limbs)
    offset = float(excess_offset(curve.limbs, limits, curve.shapes).mean())
    creep = CREEP * float(creep_offset(curve.limbs, limits, curve.shapes).mean())
    share = SetShare(many.middle, many.spread, 10)
    assert expected_set(curve.limbs, limits, curve.shapes, share=share).follow == pytest.approx(
        many.middle * offset + creep
    )


@given(st.floats(0.2, 0.7))
def test_records_of_a_true_share_lead_to_it(true: float) -> None:
    offsets = np.linspace(0.02, 0.08, 12)
    told = shares([(float(o), float(true * o)) for o in offsets])
    assert told.middle == pytest.approx(true, abs=0.05)
