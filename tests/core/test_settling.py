"""Strand tests, test cords and settling: small samples said for what they are."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import statics
from bowyery.strings.breaking import factor, strand_bears, strip_fit, strip_width
from bowyery.strings.length import CordPair, from_cord, thumb
from bowyery.strings.settle import BraceRead, settling
from bowyery.wood.materials import fibre
from tests.core.bows import bow

LINEN, POLYESTER = fibre("linen"), fibre("polyester")


def test_the_low_side_comes_nearer_the_mean_as_tests_add_up() -> None:
    assert [factor(n) > factor(n + 1) for n in range(1, 12)] == [True] * 11
    assert factor(4000) == pytest.approx(1.645, abs=0.03)
    with pytest.raises(DescriptionError):
        factor(0)


@given(st.lists(st.floats(20, 60), min_size=1, max_size=12))
def test_the_safe_side_lies_below_the_mean_and_one_break_more_like_it_raises_it(
    breaks: list[float],
) -> None:
    one = strand_bears(LINEN, breaks)
    more = strand_bears(LINEN, [*breaks, one.mean])
    assert 0 <= one.low < one.mean
    assert more.mean == pytest.approx(one.mean) and more.low >= one.low


def test_nineteen_strands_in_twenty_bear_the_low_side() -> None:
    """Samples of three from a thread whose spread is not the book's: said with three to one."""
    rng = np.random.default_rng(4)
    good = 0
    for _ in range(400):
        breaks = rng.normal(50, 6, 3)
        low = strand_bears(LINEN, list(breaks)).low
        good += low <= 50 - 1.645 * 6
    assert good / 400 > 0.70


def test_one_break_is_worth_something_and_nothing_is_no_break() -> None:
    table, one = strand_bears(LINEN), strand_bears(LINEN, [40.0])
    assert table.tests == 0 and table.low == LINEN.breaking_force
    assert 20 < one.low < 32 and one.tests == 1
    for bad in ([0.0], [-3.0], [math.nan], [40.0, math.inf]):
        with pytest.raises(DescriptionError):
            strand_bears(LINEN, bad)


def test_a_mistyped_break_is_pointed_at() -> None:
    assert strand_bears(LINEN, [41, 39, 40, 4.0, 42]).odd == (3,)
    assert strand_bears(LINEN, [41, 39, 40, 38, 42]).odd == ()


def test_strips_bear_in_proportion_to_their_width() -> None:
    hide = fibre("rawhide")
    fit = strip_fit(hide, [(0.004, 160.0), (0.006, 250.0), (0.010, 395.0)])
    assert fit.each == pytest.approx(40e3, rel=0.03) and fit.widths == (0.004, 0.010)
    assert fit.load(0.008) < 0.008 * fit.each
    width = strip_width(fit, 900.0, 3, 0.7)
    assert 3 * 0.7 * fit.load(width) == pytest.approx(900.0)
    assert strip_width(fit, 900.0, 4, 0.7) == pytest.approx(0.75 * width)
    for tests in ([], [(0.0, 100.0)], [(0.004, 0.0)]):
        with pytest.raises(DescriptionError):
            strip_fit(hide, tests)
    with pytest.raises(DescriptionError):
        strip_width(fit, 900.0, 0, 0.7)


def true_length(brace: float) -> float:
    which = bow()
    return float(statics.brace(grid(which), which.hold, np.array([brace])).string_length[0])


def test_a_test_cord_moves_the_length_to_where_the_bow_is() -> None:
    off = 0.006
    pairs = [CordPair(true_length(b) + off, b) for b in (0.12, 0.14, 0.165)]
    cord = from_cord(bow(), 0.15, pairs)
    assert cord.length == pytest.approx(true_length(0.15) + off, abs=0.001)
    assert cord.odd == () and cord.pairs == 3
    one = from_cord(bow(), 0.15, pairs[:1])
    assert one.error > cord.error and one.length == pytest.approx(cord.length, abs=0.003)
    low, high = thumb(bow())
    assert low < high < 1.68 + 1e-6


def test_a_mistyped_cord_is_pointed_at_and_left_out() -> None:
    pairs = [CordPair(true_length(b), b) for b in (0.12, 0.14, 0.165)]
    wrong = [*pairs, CordPair(true_length(0.15) + 0.1, 0.15)]
    cord = from_cord(bow(), 0.15, wrong)
    assert cord.odd == (3,) and cord.length == pytest.approx(true_length(0.15), abs=0.002)
    with pytest.raises(DescriptionError, match="mistyped"):
        from_cord(bow(), 0.15, wrong[3:])
    for none in ([], [CordPair(math.nan, 0.15)]):
        with pytest.raises(DescriptionError):
            from_cord(bow(), 0.15, none)


def hidden(n: float, beds: float, over: float, creep: float, power: float) -> float:
    """A string that settles by another law than the one that is fitted: share of its length."""
    return beds * (1 - 1 / (1 + n / over)) + creep * ((1 + n) ** power - 1)


@pytest.mark.parametrize(
    ("of", "law"),
    [(LINEN, (0.0027, 6.0, 0.0009, 0.06)), (POLYESTER, (0.003, 20.0, 0.0016, 0.22))],
)
def test_a_settled_brace_is_foretold_from_the_first_hundred_pulls(of, law) -> None:  # type: ignore[no-untyped-def]
    rng, hits, falls = np.random.default_rng(9), 0, []
    for _ in range(60):
        beds, over, creep, power = law
        beds *= float(rng.lognormal(0, 0.25))
        creep *= float(rng.lognormal(0, 0.25))
        brace = [0.160 - 2.6 * hidden(n, beds, over, creep, power) for n in (0, 10, 25, 50, 100)]
        reads = [
            BraceRead(n, b + float(rng.normal(0, 0.0008)))
            for n, b in zip((0, 10, 25, 50, 100), brace, strict=True)
        ]
        found = settling(of, 1.6, 2.6 / 1.6, reads)
        truth = 0.160 - 2.6 * hidden(300, beds, over, creep, power)
        hits += found.final[1] <= truth <= found.final[2]
        falls.append(found.falls)
    assert hits / 60 >= 0.8
    assert (np.median(falls) < 0.0016) == (of is LINEN), "linen stands, polyester goes on"


def test_a_new_string_is_believed_by_its_fibre_and_linen_is_done_first() -> None:
    first = [BraceRead(0, 0.16)]
    linen, slow = (settling(of, 1.6, 1.6, first) for of in (LINEN, POLYESTER))
    assert not linen.settled and linen.settled_after < slow.settled_after
    assert linen.final[0] > slow.final[0]
    assert linen.final[1] < linen.final[0] < linen.final[2]


def test_twist_on_the_way_is_a_known_step_and_a_mistyped_brace_is_left_out() -> None:
    reads = [BraceRead(0, 0.160), BraceRead(20, 0.154), BraceRead(20, 0.1588, 0.003),
             BraceRead(60, 0.1583, 0.003), BraceRead(120, 0.158, 0.003)]  # fmt: skip
    found = settling(LINEN, 1.6, 1.6, reads)
    assert found.brace_now == pytest.approx(0.158, abs=0.001) and found.odd == ()
    assert found.settled and found.falls < 0.0016
    wrong = [*reads[:3], BraceRead(60, 0.1853, 0.003), *reads[4:]]
    assert settling(LINEN, 1.6, 1.6, wrong).odd == (3,)


@pytest.mark.parametrize(
    "reads", [[], [BraceRead(10, 0.15), BraceRead(5, 0.15)], [BraceRead(-1, 0.15)]]
)
def test_pulls_that_go_backwards_are_refused(reads: list[BraceRead]) -> None:
    with pytest.raises(DescriptionError):
        settling(LINEN, 1.6, 1.6, reads)
