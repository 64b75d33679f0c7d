"""Cables of a back-bow: turns and tone."""

import pytest

from bowyery.errors import DescriptionError
from bowyery.strings.cable import strands_of, tone, turns_to_tighten
from bowyery.wood.materials import fibre

LINEN = fibre("linen")


def test_more_turns_for_a_shorter_cable_and_none_for_the_same():
    turns = [turns_to_tighten(LINEN, 60e3, 0.5, 0.5 - short) for short in (0.0, 0.002, 0.005)]
    assert turns[0] == pytest.approx(0.0, abs=1e-6)
    assert 0 < turns[1] < turns[2]
    assert turns_to_tighten(LINEN, 60e3, 0.5, 0.5005) < 0


def test_what_no_twist_does_is_said():
    with pytest.raises(DescriptionError, match="longer cable"):
        turns_to_tighten(LINEN, 60e3, 0.5, 0.55)
    with pytest.raises(DescriptionError, match="shorter cable"):
        turns_to_tighten(LINEN, 60e3, 0.5, 0.3)
    with pytest.raises(DescriptionError):
        strands_of(LINEN, 0.0)


def test_a_tone_rises_with_the_root_of_the_tension():
    low = tone(50.0, 0.4, 2e-3)
    assert low == pytest.approx((50 / 2e-3) ** 0.5 / 0.8)
    assert tone(200.0, 0.4, 2e-3) == pytest.approx(2 * low)
    with pytest.raises(DescriptionError):
        tone(50.0, 0.0, 2e-3)
