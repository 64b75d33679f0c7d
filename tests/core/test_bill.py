"""A bill: prices as people write them, hours at a rate, sums that agree with their rows."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.record.bill import MOST, Part, bill, read_parts, read_price


@pytest.mark.parametrize(
    ("text", "price"),
    [
        ("12", "12"), ("12.5", "12.5"), ("12,50", "12.5"), ("1 250", "1250"), ("1,250", "1250"),
        ("1.250", "1250"), ("1.250,00", "1250"), ("1,250.75", "1250.75"), ("0", "0"),
        ("1'250.05", "1250.05"), (" 7,5 ", "7.5"), ("1.000.000", "1000000"),
        ("1\u202f250,10", "1250.1"),
    ],
)  # fmt: skip
def test_prices_are_read_as_people_write_them(text: str, price: str) -> None:
    assert read_price(text) == Decimal(price)


@pytest.mark.parametrize(
    "text",
    ["", "-5", "1,2,3", "12.505.1", "twelve", "1.2.3,4", "12,", ".", "1e5", "12.3456", "1,25,0",
     "٣", "9" * 30, "nan", "1.250.00", "1,250,00"],
)  # fmt: skip
def test_what_is_no_price_is_said_to_be_none(text: str) -> None:
    with pytest.raises(DescriptionError):
        read_price(text)


@given(st.decimals(0, MOST, places=2), st.sampled_from([".", ","]))
def test_a_price_written_plainly_comes_back(price: Decimal, sign: str) -> None:
    assert read_price(str(price).replace(".", sign)) == price


def test_materials_are_read_one_a_line() -> None:
    text = "ash stave 40\n\n horn for 2 nocks: 12,50\r\nlinen\t3.5\nglue; 1 "
    assert read_parts(text) == (
        Part("ash stave", Decimal(40)),
        Part("horn for 2 nocks", Decimal("12.5")),
        Part("linen", Decimal("3.5")),
        Part("glue", Decimal(1)),
    )
    assert read_parts(" \n ") == ()


@pytest.mark.parametrize(
    "text", ["ash stave", "40", "ash 40 each", "ash -4", "x 1\n" * 61, "ash 1,2,3", "5 5"]
)
def test_a_line_without_thing_or_price_is_named(text: str) -> None:
    with pytest.raises(DescriptionError) as said:
        read_parts(text)
    assert str(said.value).strip().endswith(".")


def test_rows_add_up_to_the_total() -> None:
    minutes = {"wood": 50, "tiller": 35, "finish": 0, "proof": 7}
    made = bill(minutes, Decimal("28.33"), read_parts("stave 40\nstring 9,99"))
    assert [row[0] for row in made.hours] == ["wood", "tiller", "proof"]
    assert made.hours[0][2] == Decimal("23.61")
    assert made.work == sum(row[2] for row in made.hours)
    assert made.materials == Decimal("49.99") and made.total == made.work + made.materials


def test_nothing_costs_nothing_and_less_is_refused() -> None:
    assert bill({}, Decimal(20), ()).total == 0
    with pytest.raises(DescriptionError):
        bill({"wood": 5}, Decimal(-1), ())
    with pytest.raises(DescriptionError):
        bill({"wood": -5}, Decimal(1), ())
