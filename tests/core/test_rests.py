"""How long things rest: with the air, one after another, never less than the least."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.making.rests import (
    AIRS,
    KINDS,
    Hours,
    Rest,
    checked,
    hours,
    pace,
    rests,
    takes_up,
    total,
)

SPANS = st.tuples(*[st.floats(0.1, 500)] * 3).map(sorted).map(lambda h: Hours(*h))


def test_the_table_is_in_order_and_says_what_each_is() -> None:
    table = rests()
    assert len(table) > 20 and all(row.what in KINDS and row.air in AIRS for row in table.values())
    assert all(row.low <= row.usual <= row.high for row in table.values())
    assert table["last course of sinew dries"].usual > 24 * 28
    assert "rags" in table["coat of oil dries"].note


def test_glue_cures_twice_as_fast_ten_degrees_warmer_and_hide_by_what_air_takes_up() -> None:
    assert pace("cures", 30, 0.5) == pytest.approx(2) and pace("cures", 20, 0.9) == 1
    assert pace("dries", 20, 0.5) == pytest.approx(1) and pace("none", 5, 0.9) == 1
    # saturation at 20 °C is 23.4 hPa (Wood Handbook tables and Magnus alike)
    assert takes_up(20, 0.0) == pytest.approx(23.37, abs=0.1)
    assert pace("dries", 20, 0.8) == pytest.approx(0.4, abs=0.01)
    assert pace("dries", 20, 1.0) == pytest.approx(0.15)  # it does not stand still for ever
    glue = rests()["white wood glue sets"]
    assert hours(glue, 10, 0.5).low == pytest.approx(2 * glue.low)
    for odd in ((90, 0.5), (20, 1.2), (20, -0.1), (math.nan, 0.5)):
        with pytest.raises(DescriptionError):
            pace("cures", *odd)


@given(st.lists(SPANS, min_size=1, max_size=6))
def test_a_chain_is_the_sum_and_less_uncertain_than_its_links_together(row: list[Hours]) -> None:
    found = total(row)
    assert found.usual == pytest.approx(sum(one.usual for one in row))
    assert sum(one.low for one in row) - 1e-6 <= found.low <= found.usual + 1e-9
    assert found.usual - 1e-9 <= found.high <= sum(one.high for one in row) + 1e-6
    longer = total([*row, Hours(1, 2, 3)])
    assert longer.usual > found.usual and longer.high > found.high


@pytest.mark.parametrize(
    "figures", [(0, 1, 2), (2, 1, 3), (1, 3, 2), (1, 2, math.inf), (math.nan, 1, 2), (1, 2, 1e9)]
)
def test_hours_out_of_order_are_refused(figures: tuple[float, float, float]) -> None:
    with pytest.raises(DescriptionError):
        checked(Rest("x", "other", *figures))
    with pytest.raises(DescriptionError):
        checked(Rest("x", "other", 1, 2, 3, "melts"))  # type: ignore[arg-type]
