"""The bench log in order: what was written keeps its string, its wood and its place on the way."""

import numpy as np
import pytest

from bowyery.bow.layout import Layout, Wanted, school_a_length
from bowyery.bow.section import Shape
from bowyery.design.alterations import at_stations
from bowyery.design.lengths import length_schools
from bowyery.tiller.log import History, Noted, history
from bowyery.tiller.pencil import parse
from bowyery.units.quantity import IMPERIAL, INCH, POUND_FORCE
from bowyery.wood.materials import material
from tests.core.bows import limb

ROOTS = (3 * INCH, 4 * INCH)


def logged(*entries: str) -> History:
    """A log of lines, each its own entry, with keys counted on from 101."""
    rows, key = [], 101
    for number, line in enumerate(entries, 1):
        for statement in parse(line, IMPERIAL):
            rows.append(Noted(statement, key, number))
            key += 1
    return history(rows, ROOTS)


def test_each_reading_belongs_to_the_string_that_was_on_before_it() -> None:
    """The string was changed in the middle of an entry: what was read before keeps the old one."""
    found = logged(
        "string long 70, 20 at 14", "18 at 12, string low 3, upper gap 4, lower gap 4 1/8"
    )
    last = found.checks[1]
    assert [r.string.split()[1] for r in last.readings] == ["long", "low", "low"]
    assert [one.rung for one in last.strings] == ["long", "low"]
    assert last.string.rung == found.string.rung == "low"


def test_wood_that_comes_off_between_two_weights_parts_them_into_two_checks() -> None:
    found = logged("30 at 20, off upper 0.01 5 to 12, 28 at 20")
    assert [len(check.readings) for check in found.checks] == [1, 1]
    assert [check.readings[0].value / POUND_FORCE for check in found.checks] == [
        pytest.approx(30), pytest.approx(28),
    ]  # fmt: skip
    assert found.checks[0].passes == () and found.passes == ()
    (taken,) = found.checks[1].passes
    assert (taken.limb, taken.strokes) == ("upper", None)
    assert taken.start == pytest.approx(5 * INCH)


def test_wood_taken_in_an_entry_without_readings_counts_before_the_next_check() -> None:
    found = logged("30 at 20", "off both 12 strokes", "25 pulls", "note looks well", "28 at 20")
    assert len(found.checks) == 2 and found.pulls == 25
    assert {(p.limb, p.strokes) for p in found.checks[1].passes} == {("upper", 12), ("lower", 12)}


def test_every_reading_names_the_measure_it_came_from() -> None:
    """So that a wild one can be pointed at in the log, whatever was sorted or left out between."""
    found = logged("25 pulls, 30 at 20, upper gap 6", "off upper 0.01", "lower gap 6, 28 at 20")
    assert [[r.id for r in check.readings] for check in found.checks] == [[102, 103], [105, 106]]


def test_places_are_counted_from_each_limbs_own_root() -> None:
    (check,) = logged("30 at 20, upper edge 1/8 at 12, lower edge 1/8 at 12").checks
    assert [r.at for r in check.readings[1:]] == [pytest.approx(9 * INCH), pytest.approx(8 * INCH)]


@pytest.mark.parametrize(
    ("lines", "braced"),
    [
        ([], False),
        (["string long 70, 20 at 14"], False),
        (["string low 3, upper gap 4"], False),
        (["upper gap 6"], True),  # no string was named: gaps are read on a braced bow
        (["string low 3", "string full"], True),
    ],
)
def test_full_brace_is_known_when_it_was_reached(lines: list[str], braced: bool) -> None:
    assert logged(*lines).braced is braced


def test_looking_back_shows_what_was_known_then() -> None:
    found = logged("30 at 16", "off upper 0.01", "28 at 18", "off upper 0.01, 25 pulls")
    back = found.upto(1)
    assert (
        len(back.checks) == 1 and back.passes == () and back.last_draw == pytest.approx(16 * INCH)
    )
    assert found.upto(None) is found and found.upto(99) is found
    assert len(found.passes) == 1 and found.pulls == 25


def test_a_limb_told_at_other_stations_is_the_same_limb_in_every_measure() -> None:
    """What varies along it goes along: facets and backings, not only width and thickness."""
    base = limb()
    share = np.array([0.2, 0.5, 0.8])
    shaped = Shape("faceted belly", {"from_back": 0.5, "facet": share})
    at = np.array([0.0, 0.2, 0.4, 0.6, base.length])
    moved = at_stations(limb(shape=shaped), at)
    assert moved.shape.figures["facet"] == pytest.approx(np.interp(at, base.at, share))
    assert moved.width == pytest.approx(np.interp(at, base.at, base.width))
    assert moved.shape.figures["from_back"] == pytest.approx(0.5)


def test_the_first_length_school_is_one_rule_wherever_it_is_asked() -> None:
    layout, wanted = Layout(67 * INCH), Wanted(42 * POUND_FORCE, 27 * INCH)
    rule = school_a_length(wanted.draw, layout.handle, layout.fade)
    asked = length_schools(layout, wanted, material("wych elm"))[0]
    assert asked.layout.length == pytest.approx(rule)
    assert school_a_length(28 * INCH, layout.handle, layout.fade) > rule
