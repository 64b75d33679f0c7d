"""What stays of a bend by heat, and how the form is set over."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.making.heat import FIRST, Record, offsets, stays


@pytest.mark.parametrize("way", FIRST)
def test_without_records_the_form_is_set_over_by_the_usual_part_and_says_it_is_wide(way):
    found = stays(way, ())
    assert found.records == 0 and found.share == FIRST[way][0]
    low, high = found.range(found.form(0.02))
    assert low < 0.02 < high and high - low > 0.004


def test_what_sprang_back_before_sets_the_next_form():
    # Given a wood that has kept little more than half, four times
    records = [Record(0.03, 0.0165, True, "dry heat")] * 4
    found = stays("dry heat", records)
    # Then its form is set over by more than the usual, and the range is narrower
    usual = stays("dry heat", ())
    assert found.share == pytest.approx(0.58, abs=0.03) and found.records == 4
    assert found.form(0.02) > 1.15 * usual.form(0.02)
    assert found.spread < 0.5 * usual.spread


def test_another_wood_tells_less_and_another_way_nothing():
    same = stays("steam", [Record(0.03, 0.015, True, "steam")])
    other = stays("steam", [Record(0.03, 0.015, False, "steam")])
    none = stays("steam", [Record(0.03, 0.015, True, "dry heat")])
    assert same.share < other.share < none.share == FIRST["steam"][0]


@pytest.mark.parametrize(
    "form, stayed", [(0.0, 0.01), (0.02, 0.09), (0.02, -0.01), (float("nan"), 1)]
)
def test_what_cannot_be_a_record_is_left_out(form, stayed):
    assert stays("dry heat", [Record(form, stayed, True, "dry heat")]).records == 0


def test_a_way_that_is_none_is_refused():
    with pytest.raises(DescriptionError):
        stays("microwave", ())


@given(
    start=st.floats(0.0, 0.5),
    length=st.floats(0.05, 0.3),
    tip=st.floats(-0.05, 0.05),
)
def test_an_even_bend_reaches_its_amount_at_the_nock_and_nothing_before_the_stretch(
    start, length, tip
):
    nock = 0.85
    places = np.linspace(0.0, nock, 200)
    found = offsets(places, start, start + length, tip, nock)
    assert found[-1] == pytest.approx(tip, abs=1e-12)
    assert np.all(found[places <= start] == 0.0)
    # outward of the stretch it runs on straight
    after = found[places >= start + length]
    assert np.allclose(np.diff(after, 2), 0.0, atol=1e-12)


@pytest.mark.parametrize("start, end", [(0.5, 0.4), (-0.1, 0.3), (0.3, 1.2)])
def test_a_stretch_on_no_limb_is_refused(start, end):
    with pytest.raises(DescriptionError):
        offsets(np.array([0.5]), start, end, 0.02, 0.85)
