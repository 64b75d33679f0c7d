"""Slats from a culm, and where its nodes come to lie."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.making.culm import CLEAR, node_places, slats


def test_slats_go_round_a_culm_and_thin_out_at_their_edges():
    # a hundred across, 12 thick: the chord of 35 turns 41 degrees, with its kerf 44.4
    found = slats(0.100, 0.012, 0.035)
    assert found.number == 8
    assert found.middle == 0.012
    assert found.rise == pytest.approx(0.05 - math.sqrt(0.05**2 - 0.0175**2))
    assert found.edge == pytest.approx(0.012 - 0.00316, abs=2e-5)


@given(st.floats(0.03, 0.2), st.floats(0.1, 0.9))
def test_no_more_slats_than_the_skin_holds(diameter, share):
    found = slats(diameter, 0.1 * diameter, share * diameter)
    assert found.number * (share * diameter + 0.003) <= math.pi * diameter + 1e-9
    assert found.number >= 1


@pytest.mark.parametrize(
    ("figures", "field"),
    [((0.1, 0.06, 0.03), "wall"), ((0.1, 0.01, 0.1), "width"), ((0.0, 0.01, 0.03), "diameter"),
     ((0.1, math.nan, 0.03), "wall")],
)  # fmt: skip
def test_culms_that_do_not_grow_are_refused(figures, field):
    with pytest.raises(DescriptionError) as told:
        slats(*figures)
    assert told.value.place == field


def test_even_nodes_come_to_lie_alike_on_both_limbs():
    best = node_places(2.4, [0.1, 0.5, 0.9, 1.3, 1.7, 2.1], 1.7, 0.1)[0]
    assert best.uneven == pytest.approx(0.0, abs=0.006)
    assert not best.near
    assert best.clear >= CLEAR


def test_a_node_that_cannot_get_out_of_the_way_is_named():
    only = node_places(1.70, [0.75, 0.01], 1.70, 0.1)
    assert len(only) == 1
    assert only[0].near == pytest.approx((-0.84, -0.1))


def test_a_slat_without_nodes_has_nothing_in_its_way():
    best = node_places(1.9, [], 1.7, 0.1)[0]
    assert (best.start, best.nodes, best.uneven, best.clear) == (0.0, (), 0.0, math.inf)


def test_short_slats_and_nodes_off_them_are_refused():
    for length, nodes, bow, fade, field in (
        (1.5, [], 1.7, 0.1, "length"), (1.9, [2.0], 1.7, 0.1, "nodes"), (1.9, [], 1.7, 0.9, "fade"),
    ):  # fmt: skip
        with pytest.raises(DescriptionError) as told:
            node_places(length, nodes, bow, fade)
        assert told.value.place == field
