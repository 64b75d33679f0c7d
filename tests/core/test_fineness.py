"""Threads by tex or by yards a pound: read, written, and there and back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import UnreadableError
from bowyery.units.quantity import FINENESS, IMPERIAL, METRIC, Units, World

INCHES, METRES = Units(), Units(METRIC)


@pytest.mark.parametrize(
    ("text", "world", "kilograms"),
    [
        ("125 tex", IMPERIAL, 125e-6),
        ("125", METRIC, 125e-6),
        ("1250 dtex", METRIC, 125e-6),
        ("125 g/km", METRIC, 125e-6),
        ("3968.3 yd/lb", METRIC, 125e-6),
        ("3968.3", IMPERIAL, 125e-6),
        ("3968,3 yards per pound", IMPERIAL, 125e-6),
    ],
)
def test_a_thread_is_read_as_makers_write_it(text: str, world: World, kilograms: float) -> None:
    assert FINENESS.read(text, world) == pytest.approx(kilograms, rel=1e-4)


@given(st.floats(1e-5, 1e-2))
def test_what_is_written_reads_the_same(line_mass: float) -> None:
    for shown in (INCHES, METRES):
        again = FINENESS.read(FINENESS.bare(line_mass, shown), shown.world)
        assert again == pytest.approx(line_mass, rel=0.06)  # whole tex, whole yards
        assert FINENESS.read(FINENESS.write(line_mass, shown), shown.world) == pytest.approx(again)


def test_a_finer_thread_has_more_yards_and_fewer_tex() -> None:
    fine, stout = 100e-6, 300e-6
    yards = [int(FINENESS.bare(v, INCHES)) for v in (fine, stout)]
    tex = [int(FINENESS.bare(v, METRES)) for v in (fine, stout)]
    assert yards[0] > yards[1] and tex == [100, 300]


@pytest.mark.parametrize("text", ["", "fine", "0", "-5 tex", "125 miles", "1/0", "9" * 60, "12 34"])
def test_what_is_no_thread_is_said_with_an_example(text: str) -> None:
    with pytest.raises(UnreadableError, match="expected a thread such as"):
        FINENESS.read(text, METRIC)
