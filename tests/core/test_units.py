"""Measures are read as makers write them, and read back the same after writing."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery import units
from bowyery.errors import UnreadableError
from bowyery.units import IMPERIAL, INCH, LENGTH, MASS, METRIC, MOISTURE, POUND_FORCE, SPEED, WEIGHT, read


@pytest.mark.parametrize(
    ("text", "inches"),
    [
        ("61 1/2", 61.5),
        ("5' 1 1/2\"", 61.5),
        ("61.5in", 61.5),
        ("156.21 cm", 61.5),
        ("1562.1mm", 61.5),
        ("61½", 61.5),
        ("61 ½ in", 61.5),
        ("6-1/4", 6.25),
        ("½", 0.5),
        (".5", 0.5),
        ("12,5", 12.5),
        ("5 ft 1 1/2", 61.5),
        ("1 m 562.1 mm", 61.5),
        ("-3/8", -0.375),
        ("−3/8", -0.375),
    ],
)
def test_lengths_are_read_as_written(text: str, inches: float) -> None:
    assert read(text, LENGTH, IMPERIAL) == pytest.approx(inches * INCH)


@pytest.mark.parametrize(
    ("text", "newtons"),
    [("42", 186.83), ("42 lb", 186.83), ("42#", 186.83), ("19 kg", 186.33), ("187 N", 187.0), ("42 LBS", 186.83)],
)
def test_weights_are_read_as_written(text: str, newtons: float) -> None:
    assert read(text, WEIGHT, IMPERIAL) == pytest.approx(newtons, abs=0.01)


def test_a_bare_number_is_in_the_writers_own_unit() -> None:
    assert read("42", WEIGHT, IMPERIAL) == pytest.approx(42 * POUND_FORCE)
    assert read("42", WEIGHT, METRIC) == pytest.approx(42 * 9.80665)
    assert read("1562", LENGTH, METRIC) == pytest.approx(1.562)
    assert read("165", MASS, IMPERIAL) == pytest.approx(0.010692, rel=1e-4)
    assert read("152", SPEED, IMPERIAL) == pytest.approx(46.33, abs=0.01)
    assert read("9.5", MOISTURE, METRIC) == pytest.approx(0.095)


@pytest.mark.parametrize(
    ("text", "quantity", "says"),
    [
        ("", LENGTH, "Nothing was written"),
        ("abc", LENGTH, "could not be read"),
        ("12 furlong", LENGTH, "not a unit of length"),
        ("42 in", WEIGHT, "not a unit of draw weight"),
        ("1,234", WEIGHT, "comma that could mean two things"),
        ("3/0", WEIGHT, "could not be read"),
        ("42 lb lb", WEIGHT, "could not be read"),
        ("1 2", LENGTH, "without a unit"),
        ("-4", WEIGHT, "below zero"),
        ("9" * 400, LENGTH, "could not be read"),
        ("1e3", LENGTH, "not a unit"),
        ("61 1/2 1/4", LENGTH, "without a unit"),
    ],
)
def test_what_cannot_be_read_gets_a_sentence_with_an_example(text: str, quantity: units.Quantity, says: str) -> None:
    with pytest.raises(UnreadableError) as caught:
        read(text, quantity, IMPERIAL)
    assert says in str(caught.value)
    assert str(caught.value)[-1] in ".)"


@given(st.integers(0, 64 * 120), st.sampled_from([16, 32, 64]))
def test_fractions_of_an_inch_survive_writing_and_reading(sixtyfourths: int, denominator: int) -> None:
    steps = sixtyfourths * denominator // 64
    metres = steps / denominator * INCH
    for plain in (True, False):
        text = units.write_length(metres, IMPERIAL, denominator, plain=plain)
        for sign in "⁰¹²³⁴⁵⁶⁷⁸⁹":
            text = text.replace(sign, str("⁰¹²³⁴⁵⁶⁷⁸⁹".index(sign)))
        for sign in "₀₁₂₃₄₅₆₇₈₉":
            text = text.replace(sign, str("₀₁₂₃₄₅₆₇₈₉".index(sign)))
        assert read(text, LENGTH, METRIC) == pytest.approx(metres, abs=1e-12)


@given(st.floats(0.0, 3.0))
def test_a_written_length_is_within_half_its_finest_step(metres: float) -> None:
    assert abs(read(units.write_length(metres, IMPERIAL, 16, plain=True), LENGTH, IMPERIAL) - metres) <= INCH / 32 + 1e-9
    assert abs(read(units.write_length(metres, METRIC), LENGTH, METRIC) - metres) <= 0.0005 + 1e-9
    assert abs(read(units.write_thickness(metres, METRIC), LENGTH, METRIC) - metres) <= 0.00005 + 1e-9


@given(st.floats(1.0, 900.0))
def test_weights_survive_in_both_worlds(newtons: float) -> None:
    for world, step in ((IMPERIAL, POUND_FORCE), (METRIC, 9.80665)):
        text = units.write_weight(newtons, world, 3)
        assert read(text, WEIGHT, METRIC) == pytest.approx(newtons, abs=step * 0.00051)


@given(st.floats(0.0001, 2.0))
def test_masses_survive_in_both_worlds(kilograms: float) -> None:
    for world in (IMPERIAL, METRIC):
        assert read(units.write_mass(kilograms, world), MASS, METRIC) == pytest.approx(kilograms, abs=6e-5)
        assert read(units.write_bulk_mass(kilograms, world), MASS, METRIC) == pytest.approx(kilograms, abs=2e-3)


@given(st.floats(-30, 90))
def test_temperatures_survive_in_both_worlds(celsius: float) -> None:
    for world in (IMPERIAL, METRIC):
        written = units.write_temperature(celsius, world).replace("−", "-")
        assert units.read_temperature(written, METRIC) == pytest.approx(celsius, abs=0.51)


@given(st.text(max_size=30))
def test_no_text_breaks_the_reader(text: str) -> None:
    """Any text is read into a finite number or refused with a sentence."""
    for quantity in (LENGTH, WEIGHT):
        try:
            assert math.isfinite(read(text, quantity, IMPERIAL))
        except UnreadableError as error:
            assert str(error)


def test_bad_temperatures_are_refused() -> None:
    for text in ("warm", "500 C", ""):
        with pytest.raises(UnreadableError):
            units.read_temperature(text, METRIC)


@pytest.mark.parametrize(
    "quantity", [units.LENGTH, units.WEIGHT, units.MASS, units.SPEED, units.MODULUS, units.STRESS, units.DENSITY]
)
@pytest.mark.parametrize("world", ["imperial", "metric"])
def test_the_unit_beside_a_figure_is_read_back(quantity: units.Quantity, world: units.World) -> None:
    assert units.read(f"3 {quantity.sign(world)}", quantity, world) == pytest.approx(units.read("3", quantity, world))
    assert quantity.sign(world) == quantity.native[world] or quantity.sign(world)[0].isupper()
