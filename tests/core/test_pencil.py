"""The pencil line's grammar."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import UnreadableError
from bowyery.tiller.kinds import ROWS
from bowyery.tiller.pencil import help_rows, parse, words
from bowyery.tiller.statements import Statement, Tree
from bowyery.units.draw_ruler import TRADE
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, POUND_FORCE, Units


def kinds_of(found: tuple[Statement, ...]) -> list[tuple[str, str | None]]:
    return [(s.kind, s.limb) for s in found]


def test_the_line_a_maker_writes() -> None:
    found = parse("37 at 22, upper gap 6 1/4, lower 6 1/8", IMPERIAL)
    assert kinds_of(found) == [("weight", None), ("gap", "upper"), ("gap", "lower")]
    weight, upper, lower = found
    assert weight.value == pytest.approx(37 * POUND_FORCE)
    assert weight.draw == pytest.approx(22 * INCH)
    assert upper.value - lower.value == pytest.approx(INCH / 8)
    assert weight.text == "37 at 22"


def test_the_same_line_in_the_other_world() -> None:
    weight, upper = parse("17 at 560, upper gap 160", METRIC)
    assert kinds_of((weight, upper)) == [("weight", None), ("gap", "upper")]
    assert weight.draw == pytest.approx(0.56)
    assert upper.value == pytest.approx(0.16)


@pytest.mark.parametrize(
    "line", ["37lb @22in", "37 # at 22", "/ 37 at 22", "37 lb at 55.88 cm", "37 at 22,", "37 AT 22"]
)
def test_many_ways_to_write_one_weight(line: str) -> None:
    (found,) = parse(line, IMPERIAL)
    assert found.kind == "weight"
    assert found.value == pytest.approx(37 * POUND_FORCE)
    assert found.draw == pytest.approx(22 * INCH)


def test_gaps_and_tips_and_strings() -> None:
    gaps = parse("gaps 6 1/4 and 6 1/8", IMPERIAL)
    assert kinds_of(gaps) == [("gap", "upper"), ("gap", "lower")]
    assert [g.value / INCH for g in gaps] == [pytest.approx(6.25), pytest.approx(6.125)]
    upper, lower = parse("upper tip 8 1/2 at 22, lower 8", IMPERIAL)
    assert lower.kind == upper.kind == "tip height"
    assert lower.draw == upper.draw == pytest.approx(22 * INCH)
    (at_brace,) = parse("lower tip 5", IMPERIAL)
    assert at_brace.draw is None
    strings = parse("string long 70; string low brace 3; string full; string short 6", IMPERIAL)
    assert [s.kind for s in strings] == ["string long", "string low", "string full", "string full"]
    assert strings[1].value == pytest.approx(3 * INCH) and strings[2].value is None


def test_removals() -> None:
    strokes, thick, both, place = parse(
        "off upper 12 strokes 9 to 14; took lower 0.4 mm; off both 1/64; off 0.5 mm from 10 1/2"
        " to 14",
        IMPERIAL,
    )
    assert (strokes.kind, strokes.value, strokes.limb) == ("strokes", 12, "upper")
    assert (strokes.start, strokes.end) == (pytest.approx(9 * INCH), pytest.approx(14 * INCH))
    assert (thick.kind, thick.value) == ("removed", pytest.approx(0.0004))
    assert (thick.limb, thick.start) == ("lower", None)
    assert (both.limb, both.value) == (None, pytest.approx(INCH / 64))
    assert place.start == pytest.approx(10.5 * INCH)


def test_pulls_minutes_notes() -> None:
    pulls, minutes, note = parse("25 pulls, 1 h 20 min, note sap, and a pin; at 5 in", IMPERIAL)
    assert (pulls.kind, pulls.value, pulls.text) == ("pulls", 25, "25 pulls")
    assert (minutes.kind, minutes.value) == ("minutes", 80)
    assert (note.kind, note.words) == ("note", "sap, and a pin; at 5 in")


def test_places_are_counted_from_the_tip_where_the_line_says_so() -> None:
    tree = Tree(reach=(34 * INCH, 32 * INCH))
    upper, lower = parse(
        "upper edge 1/8 at 10 from the tip, lower edge 1/8 at 10 from tip", IMPERIAL, tree
    )
    assert (upper.at, lower.at) == (pytest.approx(24 * INCH), pytest.approx(22 * INCH))
    (took,) = parse("off lower 1/64 4 to 12 from the tip", IMPERIAL, tree)
    assert (took.start, took.end) == (pytest.approx(20 * INCH), pytest.approx(28 * INCH))
    for world, said in ((IMPERIAL, "34 in"), (METRIC, "864 mm")):
        with pytest.raises(UnreadableError, match=f"beyond the tip, {said} from the centre"):
            parse("upper edge 3 mm at 40 in", world, tree)
    with pytest.raises(UnreadableError, match="length is not known"):
        parse("upper edge 1/8 at 10 from the tip", IMPERIAL)


def test_one_and_joins_a_run_of_readings() -> None:
    one, other = parse("upper edge 1/16 at 12 and 3/32 at 20", IMPERIAL)
    assert kinds_of((one, other)) == [("straight edge", "upper")] * 2
    assert (one.at, other.at) == (pytest.approx(12 * INCH), pytest.approx(20 * INCH))


def test_a_figure_that_could_be_two_things_is_asked_about_not_guessed() -> None:
    """After an edge, “12 at 20” could be another edge or a weight at a draw."""
    with pytest.raises(UnreadableError, match=r"could mean .* or .*; write") as asked:
        parse("upper edge 1/4 at 12, 1/2 at 20", IMPERIAL)
    assert "upper edge 1/2 at 20" in str(asked.value)
    for way in ("upper edge 1/4 at 12, upper edge 1/2 at 20", "upper edge 1/4 at 12, 1/2 lb at 20"):
        assert len(parse(way, IMPERIAL)) == 2


def test_draws_are_taken_on_the_trees_own_ruler_and_said_on_it() -> None:
    tree = Tree(TRADE, handle_depth=1.5 * INCH)
    (found,) = parse("40 at 28", IMPERIAL, tree)
    assert found.draw == pytest.approx(TRADE.to_pivot(28 * INCH, 1.5 * INCH))
    assert found.draw != pytest.approx(28 * INCH)
    (said,) = words((found,), tree, Units(IMPERIAL))
    assert "28" in said and TRADE.short in said


@pytest.mark.parametrize("world", [IMPERIAL, METRIC])
def test_every_row_of_the_help_can_be_written_and_is_said_back(world: str) -> None:
    """Every example of the help is read, every kind has a saying, and none is empty."""
    for example, meaning in help_rows(world)[:-1]:
        found = parse(example, world)
        said = words(found, Tree(), Units(world))
        assert meaning and len(said) == len(found) and all(said), example
    assert all(row.helps for row in ROWS if row.forms)


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


@given(st.integers(1, 150), st.integers(16, 320), st.integers(40, 130), st.integers(40, 130))
def test_written_checks_are_read_whole(pounds: int, eighths: int, upper: int, lower: int) -> None:
    line = f"{pounds} at {eighths // 8} {eighths % 8}/8, upper gap {upper}/16, lower {lower}/16"
    weight, one, two = parse(line, IMPERIAL)
    assert kinds_of((weight, one, two)) == [("weight", None), ("gap", "upper"), ("gap", "lower")]
    assert weight.draw == pytest.approx(eighths / 8 * INCH)
    assert one.value - two.value == pytest.approx((upper - lower) / 16 * INCH)


@pytest.mark.parametrize(
    ("line", "world", "rows"),
    [
        (
            "36 at 21, upper edge 3/32 at 12",
            "imperial",
            [("straight edge", "upper", 3 / 32 * INCH, 12 * INCH, 6 * INCH)],
        ),
        (
            "upper edge 3/32 at 12, 1/16 at 18",
            "imperial",
            [
                ("straight edge", "upper", 3 / 32 * INCH, 12 * INCH, 6 * INCH),
                ("straight edge", "upper", INCH / 16, 18 * INCH, 6 * INCH),
            ],
        ),
        (
            "lower edge 2.4 at 300 over 200; lower edge 2 at 450 over 200",
            "metric",
            [
                ("straight edge", "lower", 0.0024, 0.3, 0.2),
                ("straight edge", "lower", 0.002, 0.45, 0.2),
            ],
        ),
        (
            "upper edge 2 at 300, lower edge 1.8 at 300",
            "metric",
            [
                ("straight edge", "upper", 0.002, 0.3, 0.15),
                ("straight edge", "lower", 0.0018, 0.3, 0.15),
            ],
        ),
        ("low offset 1/2 at 14", "imperial", [("offset", "lower", 0.5 * INCH, 14 * INCH, None)]),
    ],
)
def test_what_is_read_on_the_limb(line: str, world: str, rows: list[tuple[object, ...]]) -> None:
    found = [s for s in parse(line, world) if s.kind in ("straight edge", "offset")]
    assert len(found) == len(rows)
    for one, (kind, limb, value, at, span) in zip(found, rows, strict=True):
        assert (one.kind, one.limb) == (kind, limb)
        assert (one.value, one.at) == (pytest.approx(value), pytest.approx(at))
        assert one.end - one.start == pytest.approx(span or 0.0)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("edge 1/16 at 12", "which limb"),
        ("upper edge 20 at 12", "no gap under such an edge"),
        ("upper edge 1/16 at 90", "beyond the tip"),
        ("upper edge 1/16 at 12 over 40", "straight edge for this is"),
        ("upper edge soon at 12", "could not be read"),
        ("upper offset 1/2", "could not be read|which limb"),
    ],
)
def test_what_cannot_stand_on_a_limb_is_answered(line: str, says: str) -> None:
    with pytest.raises(UnreadableError, match=says):
        parse(line, "imperial")


def test_the_draw_where_a_string_comes_taut_is_read_on_the_makers_ruler() -> None:
    for line, world in (("taut at 11", IMPERIAL), ("string taut at 280", METRIC)):
        (said,) = parse(line, world)
        assert said.kind == "taut" and said.value == pytest.approx(0.28, abs=0.001)
        assert words((said,), Tree(), Units(world))[0].startswith("the string comes taut at")
    with pytest.raises(UnreadableError, match="no draw of a bow"):
        parse("taut at 90", IMPERIAL)
