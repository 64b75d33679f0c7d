"""Lams, the form with its spring-back, glue and force: against closed forms and at the edges."""

import math
from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import METRIC_ROUNDING, Layout, StackLayer, Wanted, assemble
from bowyery.bow.natural import BentTip
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError
from bowyery.making import laminating
from bowyery.making.laminating import form_of, glue_of, lams_of, pressing, sanding
from bowyery.mechanics import curve as force_curve
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

ELM = at_moisture(material("wych elm"), 0.08)
WANTED = Wanted(42 * POUND_FORCE, 27 * INCH)


def equal_stack(count: int, thick: float = 0.012, reflex: float = 0.04):
    """A bow whose limbs are so many equal lams of one wood."""
    each = StackLayer("veneer", ELM, thick / count, thick / count)
    layout = Layout(
        1.7, reflex=reflex, unknown="core", back=(each,) * (count - 1), tip_width=0.0445
    )
    at = np.linspace(0.0, layout.limb_length(True), 9)
    flat = np.full(9, thick)
    return assemble(layout, WANTED, ELM, (at, at), (flat, flat))


@pytest.mark.parametrize("count", [2, 3, 4, 6])
def test_equal_lams_spring_back_by_one_over_their_square(count):
    form = form_of(equal_stack(count), 0)
    assert np.allclose(form.springs, 1 / count**2, rtol=1e-6)
    # and the form's tip lies further over by just that much, for a gentle bend
    springs = 1 / count**2
    assert form.tip_over == pytest.approx(0.04 * springs / (1 - springs), rel=0.02)


def test_a_straight_limb_needs_a_straight_form():
    form = form_of(equal_stack(3, reflex=0.0), 0)
    assert form.tip_over == pytest.approx(0.0, abs=1e-12)
    assert np.ptp(form.belly[:, 1]) < 1e-9 and all(one.strain == 0 for one in form.over)


def test_the_faces_of_the_form_are_a_stack_apart():
    bow = equal_stack(4)
    form = form_of(bow, 0)
    apart = np.hypot(*(form.belly - form.back)[1:].T)
    assert np.allclose(apart, 0.012, rtol=1e-6)
    assert form.belly[0, 0] == 0.0, "it begins at the bow's centre"


def test_the_strain_over_the_form_is_half_the_lam_by_its_bend():
    bow = equal_stack(2, reflex=0.06)
    form = form_of(bow, 0)
    length = bow.upper.length
    bend = 2 * 0.06 / length**2 / (1 - 0.25)
    for one in form.over:
        assert one.strain == pytest.approx(0.5 * 0.006 * bend, rel=1e-6)
        assert not one.too_thick


def test_a_lam_too_thick_for_its_form_is_told():
    # Given thick lams over a tightly recurved tip
    layout = Layout(
        1.6, unknown="core", tip=BentTip(0.12, math.radians(60)), tip_width=0.02,
        back=(StackLayer("veneer", ELM, 0.006, 0.006),),
    )  # fmt: skip
    found = solve_design(layout, Wanted(50 * POUND_FORCE, 0.65), ELM, METRIC_ROUNDING)
    form = form_of(found.bow, 0)
    # Then it says which, where, and by how much
    worst = max(form.over, key=lambda one: one.strain)
    assert worst.too_thick and worst.strain > worst.breaks * 0.9
    assert worst.at > found.bow.upper.length - 0.13


def test_a_bow_of_one_piece_has_no_form_and_one_thick_lam_no_help():
    whole = solve_design(Layout(1.7), WANTED, ELM, METRIC_ROUNDING).bow
    with pytest.raises(DescriptionError, match="one piece"):
        form_of(whole, 0)
    thin = StackLayer("backing", ELM, 0.0004, 0.0004)
    bow = equal_stack(2)
    limb = bow.upper
    layers = (replace(limb.layers[0], thickness=np.full(9, thin.root)), limb.layers[1])
    with pytest.raises(DescriptionError, match="Split it in two"):
        form_of(replace(bow, upper=replace(limb, layers=layers)), 0)


def glass():
    layout = LAYOUTS["glass-faced, one piece or take-down"](27 * INCH)
    veneer = material("wych elm")
    layout = replace(
        layout,
        belly=(
            StackLayer("veneer", veneer, 0.0012, 0.0006),
            StackLayer("veneer", veneer, 0.0012, 0.0, ends=0.12),
            *layout.belly,
        ),
    )
    return solve_design(layout, WANTED, ELM, METRIC_ROUNDING)


def test_lams_are_ground_to_their_taper_and_a_wedge_runs_out():
    lams = lams_of(glass().bow.upper)
    assert [lam.role for lam in lams] == ["facing", "core", "veneer", "veneer", "facing"]
    length = lams[0].at[-1]
    assert lams[0].taper == pytest.approx(0.0, abs=1e-12), "a facing is parallel"
    assert lams[2].taper == pytest.approx(0.0006 / length, rel=1e-6)
    assert lams[3].ends == pytest.approx(0.12) and lams[3].taper == pytest.approx(0.01, rel=1e-6)
    assert [lam.shaped for lam in lams] == [False, True, False, False, False]


def test_glue_goes_by_the_joints_area_and_its_parts_by_their_ratio():
    bow = glass().bow
    glue = glue_of(bow, 0.03, ratio=0.5)
    limb = sum(float(np.trapezoid(one.width, one.at)) for one in bow.limbs)
    # four joints, of which the two at the wedge end with it
    assert 2 * limb < glue.area < 4 * limb + 1.0 * 0.03
    assert sum(glue.parts) == pytest.approx(glue.whole)
    assert glue.parts[1] == pytest.approx(0.5 * glue.parts[0])
    assert 0.05 < glue.whole < 0.4, "a cup of glue, not a bucket"
    for ratio in (0.0, -1.0, 100.0, float("nan")):
        with pytest.raises(DescriptionError):
            glue_of(bow, 0.03, ratio)
    with pytest.raises(DescriptionError):
        glue_of(solve_design(Layout(1.7), WANTED, ELM, METRIC_ROUNDING).bow, 0.03)


def test_force_is_pressure_times_the_area_of_a_limb():
    bow = glass().bow
    force = pressing(bow, 0, 0.4e6)
    area = np.trapezoid(bow.upper.width, bow.upper.at)
    assert force == pytest.approx(0.4e6 * area)
    assert 4e3 < force < 12e3


def test_sanding_glass_costs_more_weight_than_sanding_wood():
    # Given the glass-faced bow and a plain one
    found = glass()
    back, belly = sanding(found.bow, 27 * INCH)
    plain = solve_design(Layout(1.7), WANTED, ELM, METRIC_ROUNDING).bow
    wood = sanding(plain, 27 * INCH)
    assert back > 1.5 * wood[0] and belly > 1.5 * wood[1]
    # and a thinner bow by so much pulls so much less
    assert 0.01 < wood[1] < 0.05
    thin = laminating._thinned(plain, 0)
    draws = np.array([27 * INCH])
    whole = force_curve.solve(plain, draws).drawn.weight[-1]
    assert 1 - force_curve.solve(thin, draws).drawn.weight[-1] / whole == pytest.approx(wood[0])
