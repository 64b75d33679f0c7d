"""The pencil line's grammar."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import UnreadableError
from bowyery.pencil import Gap, Minutes, Note, OnLimb, Pulls, Removed, StringOn, TipHeight, WeightAt, parse
from bowyery.units import IMPERIAL, INCH, METRIC, POUND_FORCE


def test_the_line_a_maker_writes() -> None:
    weight, upper, lower = parse("37 at 22, upper gap 6 1/4, lower 6 1/8", IMPERIAL)
    assert isinstance(weight, WeightAt) and isinstance(upper, Gap) and isinstance(lower, Gap)
    assert weight.weight == pytest.approx(37 * POUND_FORCE)
    assert weight.draw == pytest.approx(22 * INCH)
    assert (upper.limb, lower.limb) == ("upper", "lower")
    assert upper.value - lower.value == pytest.approx(INCH / 8)
    assert weight.text == "37 at 22"


def test_the_same_line_in_the_other_world() -> None:
    weight, upper = parse("17 at 560, upper gap 160", METRIC)
    assert isinstance(weight, WeightAt) and isinstance(upper, Gap)
    assert weight.draw == pytest.approx(0.56)
    assert upper.value == pytest.approx(0.16)


@pytest.mark.parametrize("line", ["37lb @22in", "37 # at 22", "/ 37 at 22", "37 lb at 55.88 cm", "37 at 22,", "37 AT 22"])
def test_many_ways_to_write_one_weight(line: str) -> None:
    (found,) = parse(line, IMPERIAL)
    assert isinstance(found, WeightAt)
    assert found.weight == pytest.approx(37 * POUND_FORCE)
    assert found.draw == pytest.approx(22 * INCH)


def test_gaps_and_tips_and_strings() -> None:
    assert [(g.limb, g.value / INCH) for g in parse("gaps 6 1/4 and 6 1/8", IMPERIAL) if isinstance(g, Gap)] == [
        ("upper", pytest.approx(6.25)),
        ("lower", pytest.approx(6.125)),
    ]
    upper, lower = parse("upper tip 8 1/2 at 22, lower 8", IMPERIAL)
    assert isinstance(upper, TipHeight) and isinstance(lower, TipHeight)
    assert lower.draw == upper.draw == pytest.approx(22 * INCH)
    (at_brace,) = parse("lower tip 5", IMPERIAL)
    assert isinstance(at_brace, TipHeight) and at_brace.draw is None
    strings = parse("string long 70; string low brace 3; string full; string short 6", IMPERIAL)
    assert [s.state for s in strings if isinstance(s, StringOn)] == ["long", "low", "full", "full"]


def test_removals() -> None:
    strokes, thick, both, place = parse(
        "off upper 12 strokes 9 to 14; took lower 0.4 mm; off both 1/64; off 0.5 mm from 10 1/2 to 14", IMPERIAL
    )
    assert all(isinstance(s, Removed) for s in (strokes, thick, both, place))
    assert (strokes.strokes, strokes.thickness, strokes.limb) == (12, None, "upper")
    assert (strokes.start, strokes.end) == (pytest.approx(9 * INCH), pytest.approx(14 * INCH))
    assert (thick.thickness, thick.limb, thick.start) == (pytest.approx(0.0004), "lower", None)
    assert (both.limb, both.thickness) == ("", pytest.approx(INCH / 64))
    assert place.start == pytest.approx(10.5 * INCH)


def test_pulls_minutes_notes() -> None:
    assert parse("25 pulls, 1 h 20 min, note sap, and a pin; at 5 in", IMPERIAL) == (
        Pulls(25, "25 pulls"),
        Minutes(80, "1 h 20 min"),
        Note("sap, and a pin; at 5 in", "note sap, and a pin; at 5 in"),
    )


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("", "Nothing was written"),
        ("banana", "“banana” could not be read"),
        ("37 at", "could not be read"),
        ("gap 5", "which limb"),
        ("upper gap", "could not be read"),
        ("upper gap -2", "below zero"),
        ("off upper", "could not be read"),
        ("off upper 3 in", "between 0 and 20 mm"),
        ("off upper 12 strokes 14 to 9", "nearer place first"),
        ("0 pulls", "cannot be right"),
        ("9000 pulls", "cannot be right"),
        ("90 h", "no time for one sitting"),
        ("note", "note is empty"),
        (";", "Nothing was written"),
        (" , ;\n,", "Nothing was written"),
        ("37 lb at 22 lb", "not a unit of length"),
        ("37 at 22, then some", "“then some” could not be read"),
    ],
)
def test_what_cannot_be_read_names_the_part(line: str, says: str) -> None:
    with pytest.raises(UnreadableError, match=says):
        parse(line, IMPERIAL)


@given(st.text(max_size=40))
def test_no_line_breaks_the_reader(line: str) -> None:
    try:
        assert parse(line, IMPERIAL)
    except UnreadableError as error:
        assert str(error)


@given(st.integers(1, 150), st.integers(8, 320), st.integers(40, 130), st.integers(40, 130))
def test_written_checks_are_read_whole(pounds: int, eighths: int, upper: int, lower: int) -> None:
    line = f"{pounds} at {eighths // 8} {eighths % 8}/8, upper gap {upper}/16, lower {lower}/16"
    weight, one, two = parse(line, IMPERIAL)
    assert isinstance(weight, WeightAt) and isinstance(one, Gap) and isinstance(two, Gap)
    assert weight.draw == pytest.approx(eighths / 8 * INCH)
    assert one.value - two.value == pytest.approx((upper - lower) / 16 * INCH)


@pytest.mark.parametrize(
    ("line", "world", "rows"),
    [
        ("36 at 21, upper edge 3/32 at 12", "imperial", [("straight edge", "upper", 3 / 32 * INCH, 12 * INCH, 6 * INCH)]),
        ("upper edge 3/32 at 12, 1/16 at 18", "imperial",
         [("straight edge", "upper", 3 / 32 * INCH, 12 * INCH, 6 * INCH), ("straight edge", "upper", INCH / 16, 18 * INCH, 6 * INCH)]),
        ("lower edge 2.4 at 300 over 200; 2 at 450", "metric",
         [("straight edge", "lower", 0.0024, 0.3, 0.2), ("straight edge", "lower", 0.002, 0.45, 0.2)]),
        ("upper edge 2 at 300, lower edge 1.8 at 300", "metric",
         [("straight edge", "upper", 0.002, 0.3, 0.15), ("straight edge", "lower", 0.0018, 0.3, 0.15)]),
        ("low offset 1/2 at 14", "imperial", [("offset", "lower", 0.5 * INCH, 14 * INCH, None)]),
    ],
)  # fmt: skip
def test_what_is_read_on_the_limb(line: str, world: str, rows: list[tuple[object, ...]]) -> None:
    found = [s for s in parse(line, world) if isinstance(s, OnLimb)]
    assert len(found) == len(rows)
    for one, (kind, limb, value, at, span) in zip(found, rows, strict=True):
        assert (one.kind, one.limb) == (kind, limb)
        assert (one.value, one.at) == (pytest.approx(value), pytest.approx(at))
        assert one.span == (None if span is None else pytest.approx(span))


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("edge 1/16 at 12", "which limb"),
        ("upper edge 20 at 12", "no limb stands so far off"),
        ("upper edge 1/16 at 90", "no limb stands so far off"),
        ("upper edge 1/16 at 12 over 40", "straight edge for this is"),
        ("upper edge soon at 12", "could not be read"),
        ("upper offset 1/2", "could not be read|which limb"),
    ],
)
def test_what_cannot_stand_on_a_limb_is_answered(line: str, says: str) -> None:
    with pytest.raises(UnreadableError, match=says):
        parse(line, "imperial")
