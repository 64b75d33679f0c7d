"""A limb spoiled before the tiller: what the same stave still gives."""

from dataclasses import replace
from typing import get_args

import pytest

from bowyery.bow.layout import Layout, Wanted
from bowyery.design.quick import quick
from bowyery.design.spoiled import WAYS, ways_out
from bowyery.design.verdict import Verdict
from bowyery.errors import DescriptionError
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

ELM = at_moisture(material("wych elm"), 0.09)
LAYOUT = Layout(67 * INCH)
WANTED = Wanted(42 * POUND_FORCE, 27 * INCH)


def by_way(limb, at, layout=LAYOUT):
    return {row.way: row for row in ways_out(layout, WANTED, ELM, limb, at)}


def test_a_damaged_tip_costs_little_and_a_damaged_middle_much():
    # Given a split an inch inside the nock, and one half way down the limb
    tip, middle = by_way("upper", 32 * INCH), by_way("upper", 18 * INCH)
    assert set(tip) == set(WAYS)
    # Then the first is still nearly the bow that was wanted, and the second is not, but by a splice
    assert tip["handle moved"].weight > 0.85 * WANTED.weight
    cut = middle["cut"]
    assert cut.weight is None or cut.weight < 0.6 * WANTED.weight
    assert middle["splice"].weight == pytest.approx(WANTED.weight)
    assert middle["splice"].needs > LAYOUT.length / 2


def test_moving_the_handle_leaves_a_longer_bow_than_cutting_both_ends():
    rows = by_way("lower", 28 * INCH)
    assert rows["handle moved"].layout.length > rows["cut"].layout.length
    assert rows["handle moved"].moved > 0, "away from the lower limb that was spoiled"
    assert by_way("upper", 28 * INCH)["handle moved"].moved < 0


def test_what_is_offered_is_not_overstrained():
    for at in (20, 24, 28, 32):
        for row in ways_out(LAYOUT, WANTED, ELM, "upper", at * INCH):
            if row.weight is None:
                assert row.trouble
                continue
            found = quick(row.layout, replace(WANTED, weight=row.weight), ELM)
            assert found.uses.lasts <= 1.151 and found.uses.breaks <= 1.0
            assert row.weight <= WANTED.weight * 1.001


def test_those_that_last_stand_first():
    rows = ways_out(LAYOUT, WANTED, ELM, "upper", 26 * INCH)
    seen = [(*get_args(Verdict), None).index(row.verdict) for row in rows]
    assert seen == sorted(seen)


@pytest.mark.parametrize("at", [0.0, 3 * INCH, 36 * INCH, -10 * INCH])
def test_damage_in_the_grip_or_off_the_bow_is_refused(at):
    with pytest.raises(DescriptionError):
        ways_out(LAYOUT, WANTED, ELM, "upper", at)
