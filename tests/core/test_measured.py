"""A bow as it was measured, and scaled to a weight that was read."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.layout import METRIC_ROUNDING, Layout, StackLayer, Wanted
from bowyery.bow.section import Shape
from bowyery.design.measured import Place, bow_of, limb_of, scaled
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError, DesignError
from bowyery.mechanics import curve as force_curve
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

ELM = at_moisture(material("wych elm"), 0.09)
WANTED = Wanted(42 * POUND_FORCE, 27 * INCH)
LAYOUT = Layout(67 * INCH, reflex=0.5 * INCH)


def _measured(found, wood=ELM):
    limbs = []
    for side, limb in zip(("upper", "lower"), found.bow.limbs, strict=True):
        marks = [m for m in found.marks if m.limb == side]
        reflex = -0.5 * INCH
        rows = [Place(m.from_centre, m.width, m.thickness) for m in marks]
        rows[-1] = replace(rows[-1], across=reflex)
        limbs.append(limb_of(rows, wood, Shape()))
        assert limbs[-1].length == pytest.approx(limb.length)
    bow = found.bow
    return bow_of(*limbs, 6 * INCH, 27 * INCH, LAYOUT.handle_depth, bow.hold.nock_offset)


def test_a_bow_typed_from_its_table_pulls_what_the_table_was_made_for():
    found = solve_design(LAYOUT, WANTED, ELM, METRIC_ROUNDING)
    pulls = force_curve.solve(_measured(found), np.array([27 * INCH])).drawn.weight[-1]
    assert pulls == pytest.approx(found.weight, rel=0.01)


@pytest.mark.parametrize("what", ["modulus", "thickness"])
@pytest.mark.parametrize("pounds", [30, 42, 60])
def test_one_weight_makes_up_what_is_not_known(what, pounds):
    # Given a measured bow, and a weight read at a draw short of its full one
    bow = _measured(solve_design(LAYOUT, WANTED, ELM, METRIC_ROUNDING))
    draw, read = 25 * INCH, pounds * POUND_FORCE
    # When it is scaled
    other, factor = scaled(bow, draw, read, what)
    # Then it pulls that there, and only what was asked for has changed
    assert force_curve.solve(other, np.array([draw])).drawn.weight[-1] == pytest.approx(
        read, rel=1e-3
    )
    assert (factor > 1) == (pounds > 40)
    if what == "modulus":
        assert np.array_equal(other.upper.thickness, bow.upper.thickness)
        # one limb law: weight goes with the modulus, for all layers are of it
        before = force_curve.solve(bow, np.array([draw])).drawn.weight[-1]
        assert factor == pytest.approx(read / before, rel=0.01)
    else:
        assert other.upper.layers[0].modulus == bow.upper.layers[0].modulus


def test_a_layer_of_known_thickness_keeps_it_when_the_wood_is_scaled():
    rows = [Place(0.1, 0.04, 0.014), Place(0.85, 0.014, 0.011)]
    slat = StackLayer("backing", material("bamboo slat"), 0.003, 0.003)
    limb = limb_of(rows, ELM, Shape(), back=(slat,))
    bow = bow_of(limb, limb, 0.15, 0.68, 0.04, 0.02)
    other, factor = scaled(bow, 0.68, 1.3 * _pull(bow), "thickness")
    rest = other.upper.thickness - 0.003
    assert np.allclose(rest, factor * (bow.upper.thickness - 0.003))


def _pull(bow):
    return float(force_curve.solve(bow, np.array([bow.draw])).drawn.weight[-1])


def test_no_wood_and_no_caliper_is_so_far_off():
    bow = _measured(solve_design(LAYOUT, WANTED, ELM, METRIC_ROUNDING))
    for what in ("modulus", "thickness"):
        with pytest.raises(DesignError):
            scaled(bow, 0.68, 5000.0, what)


@pytest.mark.parametrize(
    ("rows", "why"),
    [
        ([Place(0.1, 0.04, 0.014)], "two places"),
        ([Place(0.5, 0.04, 0.014), Place(0.4, 0.03, 0.012)], "outwards"),
        ([Place(0.1, 0.04, 0.014, 0.0), Place(0.5, 0.03, 0.012, 0.02), Place(0.8, 0.02, 0.01)],
         "how the tip lies"),
        ([Place(0.1, 0.04, 0.014, 0.0), Place(0.5, 0.03, 0.012, 0.3),
          Place(0.6, 0.02, 0.01, -0.3)], "steeper"),
    ],
)  # fmt: skip
def test_what_no_limb_is_like_is_refused(rows, why):
    with pytest.raises(DescriptionError, match=why):
        limb_of(rows, ELM, Shape())
