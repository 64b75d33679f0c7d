"""Measures are read as makers write them, and read back the same after writing."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import UnreadableError
from bowyery.units import quantity as units
from bowyery.units.quantity import (
    IMPERIAL,
    INCH,
    LENGTH,
    MASS,
    METRIC,
    MOISTURE,
    POUND_FORCE,
    SPEED,
    TEMPERATURE,
    WEIGHT,
    Units,
    read,
)


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
    [
        ("42", 186.83),
        ("42 lb", 186.83),
        ("42#", 186.83),
        ("19 kg", 186.33),
        ("187 N", 187.0),
        ("42 LBS", 186.83),
    ],
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
def test_what_cannot_be_read_gets_a_sentence_with_an_example(
    text: str, quantity: units.Quantity, says: str
) -> None:
    with pytest.raises(UnreadableError) as caught:
        read(text, quantity, IMPERIAL)
    assert says in str(caught.value)
    assert str(caught.value)[-1] in ".)"


@given(st.integers(0, 64 * 120), st.sampled_from([16, 32, 64]))
def test_fractions_of_an_inch_survive_writing_and_reading(
    sixtyfourths: int, denominator: int
) -> None:
    steps = sixtyfourths * denominator // 64
    metres = steps / denominator * INCH
    shown = Units(IMPERIAL, denominator)
    for text in (shown.bare_length(metres), shown.length(metres)):
        for signs in ("⁰¹²³⁴⁵⁶⁷⁸⁹", "₀₁₂₃₄₅₆₇₈₉"):
            text = text.translate({ord(sign): str(k) for k, sign in enumerate(signs)})
        assert read(text, LENGTH, IMPERIAL) == pytest.approx(metres, abs=1e-12)


STEPS = [
    (LENGTH, IMPERIAL, INCH / 32), (LENGTH, METRIC, 0.0005), (units.THICKNESS, METRIC, 0.00005),
    (WEIGHT, IMPERIAL, POUND_FORCE / 2), (units.FINE_WEIGHT, IMPERIAL, POUND_FORCE / 20),
    (units.FINE_WEIGHT, METRIC, 9.80665 / 20), (MASS, IMPERIAL, 6e-5), (MASS, METRIC, 6e-5),
    (units.BULK_MASS, IMPERIAL, 2e-3), (units.BULK_MASS, METRIC, 2e-3),
]  # fmt: skip


@pytest.mark.parametrize(("quantity", "world", "step"), STEPS)
@given(st.floats(0.001, 2.0))
def test_what_is_written_is_within_half_its_finest_step(
    quantity: units.Quantity, world: units.World, step: float, share: float
) -> None:
    value = share * (400 if quantity in (WEIGHT, units.FINE_WEIGHT) else 1)
    text = quantity.write(value, Units(world, 16))
    for signs in ("⁰¹²³⁴⁵⁶⁷⁸⁹", "₀₁₂₃₄₅₆₇₈₉"):
        text = text.translate({ord(sign): str(k) for k, sign in enumerate(signs)})
    assert read(text, quantity, world) == pytest.approx(value, abs=step * 1.02 + 1e-9)


@given(st.floats(-30, 90))
def test_temperatures_survive_in_both_worlds(celsius: float) -> None:
    for world in (IMPERIAL, METRIC):
        written = Units(world).temperature(celsius).replace("−", "-")
        assert read(written, TEMPERATURE, METRIC) == pytest.approx(celsius, abs=0.51)


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
            read(text, TEMPERATURE, METRIC)


@pytest.mark.parametrize(
    "quantity",
    [
        units.LENGTH,
        units.WEIGHT,
        units.MASS,
        units.SPEED,
        units.MODULUS,
        units.STRESS,
        units.DENSITY,
    ],
)
@pytest.mark.parametrize("world", ["imperial", "metric"])
def test_the_unit_beside_a_figure_is_read_back(
    quantity: units.Quantity, world: units.World
) -> None:
    assert units.read(f"3 {quantity.sign(world)}", quantity, world) == pytest.approx(
        units.read("3", quantity, world)
    )
    assert quantity.written[world].unit in quantity.units
