"""Outlines by points, natural lines and bent tips: what they become, and what is refused."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bowyery.bow import bowfile
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import (
    INCH_ROUNDING,
    METRIC_ROUNDING,
    Layout,
    StackLayer,
    Wanted,
    marks_for,
)
from bowyery.bow.natural import BentTip, LimbLine, natural_line
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

ELM = at_moisture(material("wych elm"), 0.09)
FLATBOW = Layout(67 * INCH)
WANTED = Wanted(42 * POUND_FORCE, 27 * INCH)
PLAIN = ((0.0, 1.75 * INCH), (0.5, 1.75 * INCH), (1.0, 0.5 * INCH))
WAIST = ((0.0, 1.75 * INCH), (0.3, 1.1 * INCH), (0.6, 1.6 * INCH), (1.0, 0.4 * INCH))


def test_an_outline_by_points_is_the_same_bow_as_the_sizes_it_repeats():
    # Given the usual flatbow by its sizes, and by the points of the same outline
    by_points = replace(FLATBOW, widths=(PLAIN, PLAIN))
    places = np.linspace(0.0, FLATBOW.limb_length(True), 33)
    # Then both are as wide everywhere, and both pull the wanted weight
    assert np.allclose(by_points.width_at(places, True), FLATBOW.width_at(places, True))
    for layout in (FLATBOW, by_points):
        found = solve_design(layout, WANTED, ELM, METRIC_ROUNDING)
        assert found.weight == pytest.approx(WANTED.weight, rel=0.007)


@pytest.mark.parametrize("points", [PLAIN, WAIST, ((0.0, 0.035), (1.0, 0.01))])
def test_whatever_the_outline_the_weight_is_met_and_no_waist_becomes_a_hinge(points):
    # Given an outline of its own for each limb
    layout = replace(FLATBOW, widths=(points, PLAIN))
    # When it is solved
    found = solve_design(layout, WANTED, ELM, METRIC_ROUNDING)
    bend = found.curve.shapes.bend[:, -1]
    # Then the weight is met, every knee is a mark with its width, and no place of the inner limb
    # bends half as much again as the limb does on the whole
    assert found.weight == pytest.approx(WANTED.weight, rel=0.007)
    upper = [m for m in found.marks if m.limb == "upper"]
    for share, width in points:
        at = share * layout.limb_length(True)
        mark = min(upper, key=lambda m: abs(m.from_root - at))
        assert mark.from_root == pytest.approx(at, abs=1e-9)
        assert mark.width == pytest.approx(width, abs=METRIC_ROUNDING.width)
    inner = bend[0, : int(0.8 * bend.shape[1])]
    assert inner.max() < 1.5 * np.median(inner)


@pytest.mark.parametrize("static", [False, True])
@pytest.mark.parametrize("degrees", [10, 25, 40, 60])
def test_bent_tips_are_solved_for_and_lie_where_they_were_bent(static, degrees):
    # Given tips bent to the back
    tip = BentTip(6 * INCH, math.radians(degrees), static)
    layout = replace(FLATBOW, length=60 * INCH, least_tip=0.42 * INCH, tip=tip)
    wood = material("black locust")
    # When the design is solved
    found = solve_design(layout, WANTED, wood, INCH_ROUNDING)
    # Then it pulls its weight, its file says the same, and the unstrung tip is turned so far
    assert found.weight == pytest.approx(WANTED.weight, rel=0.01)
    again = bowfile.loads(bowfile.dumps(found.bow))
    pulls = force_curve.solve(again, np.array([WANTED.draw])).drawn.weight[-1]
    assert pulls == pytest.approx(found.weight, rel=1e-4)
    natural = layout.natural(True)
    turns = natural.turns(np.linspace(0.0, layout.limb_length(True), 500))
    assert turns.sum() == pytest.approx(-math.radians(degrees), rel=1e-3)
    # and the stored energy is what the limbs hold
    shapes, last = found.curve.shapes, -1
    bent = shapes.bend[:, last].max(axis=1)
    outer = shapes.bend[:, last, -8:].max(axis=1)
    if static:
        assert np.all(outer < 0.5 * bent), "a stiff tip hardly bends"


def test_a_natural_line_by_points_goes_through_them():
    # Given a deflexed limb whose tip comes back to the back
    limb = 0.75
    line = LimbLine((0.35, 0.7, 1.0), (0.02, 0.018, -0.02))
    natural = natural_line(limb, line=line)
    # When its curvature is integrated
    places = np.linspace(0.0, limb, 2001)
    angle = natural.angle + np.concatenate([[0.0], np.cumsum(natural.turns(places))])
    across = np.concatenate([[0.0], np.cumsum(places[1] * np.sin(0.5 * (angle[1:] + angle[:-1])))])
    # Then it passes its points within a millimetre
    for share, offset in zip(line.at, line.across, strict=True):
        assert np.interp(share * limb, places, across) == pytest.approx(offset, abs=1e-3)


@given(
    reflex=st.floats(-0.05, 0.08),
    degrees=st.floats(5, 60),
    cells=st.integers(7, 90),
)
@settings(max_examples=40)
def test_turns_add_up_whatever_the_cells(reflex, degrees, cells):
    natural = natural_line(0.7, reflex, BentTip(0.15, math.radians(degrees)))
    whole = natural.turns(np.array([0.0, 0.7]))[0]
    assert natural.turns(np.linspace(0, 0.7, cells)).sum() == pytest.approx(whole, abs=1e-12)
    assert whole == pytest.approx(-2 * reflex / 0.7 - math.radians(degrees), rel=1e-9)


def test_a_bow_with_one_crooked_limb_is_still_even_by_its_own_tiller():
    # Given one limb that was dried with a crook
    crook = LimbLine((0.4, 0.7, 1.0), (0.02, 0.02, 0.01))
    found = solve_design(replace(FLATBOW, lines=(crook, None)), WANTED, ELM, METRIC_ROUNDING)
    assert found.weight == pytest.approx(WANTED.weight, rel=0.007)
    assert found.bow.upper.root[2] != 0.0 and found.bow.lower.root[2] == 0.0


def test_a_wedge_runs_out_and_a_tapered_lam_goes_to_the_nock():
    # Given a stack with facings, a tapered lam and a wedge at the fade
    glass = material("unidirectional glass")
    layout = replace(
        LAYOUTS["glass-faced, one piece or take-down"](27 * INCH),
        back=(StackLayer("facing", glass, 0.001, 0.001),),
        belly=(
            StackLayer("veneer", ELM, 0.001, 0.0004),
            StackLayer("veneer", ELM, 0.0012, 0.0, ends=5 * INCH),
            StackLayer("facing", glass, 0.001, 0.001),
        ),
    )
    # When it is solved
    found = solve_design(layout, WANTED, ELM, METRIC_ROUNDING)
    limb = found.bow.upper
    wedge = next(la.thickness for la in limb.layers[3:4])
    # Then the wedge ends at its own mark, and the weight is met with the core alone solved for
    assert found.weight == pytest.approx(WANTED.weight, rel=0.01)
    at = limb.at
    assert np.any(np.isclose(at, 5 * INCH))
    assert np.all(wedge[at > 5 * INCH] == 0) and wedge[0] == pytest.approx(0.0012)


REFUSED = {
    "a tip longer than half a limb": (replace(FLATBOW, tip=BentTip(0.5, 0.3)), "tip_bent"),
    "a tip bent double": (replace(FLATBOW, tip=BentTip(0.2, 1.4)), "tip_angle"),
    "a short tip bent far": (replace(FLATBOW, tip=BentTip(0.02, 1.2)), "tip_angle"),
    "a line that crosses itself": (
        replace(FLATBOW, lines=(LimbLine((0.4, 0.6, 1.0), (0.3, -0.3, 0.0)), None)),
        "line.upper",
    ),
    "a line with a hook": (
        replace(FLATBOW, lines=(None, LimbLine((0.5, 0.53, 1.0), (0.0, 0.02, 0.0)))),
        "line.lower",
    ),
    "a line without its nock": (
        replace(FLATBOW, lines=(LimbLine((0.4, 0.6), (0.0, 0.0)), None)),
        "line.upper",
    ),
    "widths out of order": (
        replace(FLATBOW, widths=(((0.0, 0.04), (0.6, 0.03), (0.6, 0.02), (1.0, 0.01)), PLAIN)),
        "widths.upper",
    ),
    "a width of nothing": (replace(FLATBOW, widths=(PLAIN, ((0, 0.04), (1, 0.0)))), "widths.lower"),
    "one width": (replace(FLATBOW, widths=(PLAIN, ((0.0, 0.04),))), "widths.lower"),
    "widths drawn and solved for": (
        replace(FLATBOW, widths=(PLAIN, PLAIN), unknown="width"),
        "unknown",
    ),
    "a foot beyond the nock": (replace(FLATBOW, beyond=(0.3, 0.0)), "beyond"),
    "a grip of no width": (replace(FLATBOW, grip=0.0), "grip"),
}


@pytest.mark.parametrize("what", REFUSED)
def test_what_no_bow_has_is_refused_at_its_place(what):
    layout, place = REFUSED[what]
    with pytest.raises(DescriptionError) as refusal:
        layout.checked()
    assert refusal.value.place == place


def test_marks_stand_at_round_places_and_at_every_knee():
    layout = replace(FLATBOW, widths=(WAIST, PLAIN))
    places = marks_for(layout, INCH_ROUNDING, True)
    assert np.all(np.diff(places) > 0.004)
    for share, _ in WAIST:
        assert np.abs(places - share * layout.limb_length(True)).min() < 1e-9
    assert layout.overall == pytest.approx(FLATBOW.length + 2 * INCH)


def test_green_wood_keeps_more_and_breaks_later():
    # Given the same short bow of dry, half dry and green wood
    layout, wanted = replace(FLATBOW, length=60 * INCH), replace(WANTED, weight=30 * POUND_FORCE)
    found = [
        solve_design(layout, wanted, at_moisture(material("wych elm"), m), METRIC_ROUNDING)
        for m in (0.09, 0.18, 0.6)
    ]
    # Then it follows the string more the greener it is, and is further from breaking
    follows = [one.set.taken for one in found]
    assert follows[0] < follows[1] < follows[2]
    assert found[2].uses.breaks < found[0].uses.breaks
    assert found[2].wood.keeps == pytest.approx(1.75) and found[0].wood.keeps == 1.0
    # and water that no fibre holds makes it no better
    soaked = at_moisture(material("wych elm"), 0.6)
    full = at_moisture(material("wych elm"), 0.25)
    assert soaked.elastic_strain == pytest.approx(full.elastic_strain)
    assert soaked.density > full.density
