"""The blank against its marks, and how its limbs give on the floor."""

import numpy as np
import pytest

from bowyery.bow.layout import METRIC_ROUNDING, Layout, StackLayer, Wanted
from bowyery.bow.limb_grid import grid
from bowyery.design.solve import solve_design
from bowyery.making.floor import floor_look, floor_push
from bowyery.making.roughing import look, still_off
from bowyery.mechanics.cantilever import tip_compliance
from bowyery.tiller.estimate import estimate
from bowyery.tiller.kinds import Reading
from bowyery.tiller.pencil import parse
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

ELM = at_moisture(material("wych elm"), 0.09)
FOUND = solve_design(Layout(67 * INCH), Wanted(42 * POUND_FORCE, 27 * INCH), ELM, METRIC_ROUNDING)
TREE = Tree(reach=(33.5 * INCH, 33.5 * INCH))
ON = 0.0015


def read(line):
    return parse(line, "metric", TREE)


def test_each_mark_says_what_is_still_to_come_off_and_the_last_reading_counts():
    mark = [m for m in FOUND.marks if m.limb == "upper"][3]
    at, goal = mark.from_centre * 1000, (mark.thickness + ON) * 1000
    said = read(f"upper thick {goal + 3:.1f} at {at:.0f}; upper thick {goal + 0.4:.1f} at {at:.0f}")
    rows = still_off(FOUND, said, ON)
    here = next(r for r in rows if r.limb == "upper" and abs(r.at - mark.from_centre) < 1e-6)
    assert here.off == pytest.approx(0.0004, abs=6e-5)
    assert sum(r.read is not None for r in rows) == 1
    assert look(rows).thick == here


def test_a_place_between_the_marks_is_judged_by_the_line_between_them():
    upper = [m for m in FOUND.marks if m.limb == "upper"]
    middle = 0.5 * (upper[3].from_centre + upper[4].from_centre)
    goal = 0.5 * (upper[3].thickness + upper[4].thickness) + ON
    said = read(f"upper thick {goal * 1000 - 1:.2f} at {middle * 1000:.1f}")
    rows = still_off(FOUND, said, ON)
    assert len(rows) == len(FOUND.marks) + 1
    thin = look(rows).thin
    assert len(thin) == 1 and thin[0].off == pytest.approx(-0.001, abs=2e-5)


def test_steps_and_an_end_are_seen():
    lines = []
    for side in ("upper", "lower"):
        for k, m in enumerate(m for m in FOUND.marks if m.limb == side):
            more = 0.003 if (side, k) == ("lower", 5) else 0.0
            size = (m.thickness + ON + more) * 1000
            lines.append(f"{side} thick {size:.2f} at {m.from_centre * 1000:.1f}")
    seen = look(still_off(FOUND, read("; ".join(lines)), ON))
    assert seen.read == seen.count and not seen.done
    assert {a.limb for a, b in seen.steps} == {"lower"} and len(seen.steps) == 2
    # When the high place is down too, the blank is done
    down = [f"lower thick {m.thickness * 1000 + 1.5:.2f} at {m.from_centre * 1000:.1f}"
            for m in FOUND.marks if m.limb == "lower"][5]  # fmt: skip
    assert look(still_off(FOUND, read("; ".join([*lines, down])), ON)).done


def test_a_backed_bow_is_roughed_to_its_wood_and_not_to_the_total():
    slat = StackLayer("backing", material("bamboo slat"), 0.003, 0.002)
    found = solve_design(
        Layout(67 * INCH, back=(slat,), unknown="core"),
        Wanted(42 * POUND_FORCE, 27 * INCH), ELM, METRIC_ROUNDING,
    )  # fmt: skip
    row, mark = still_off(found, (), ON)[0], found.marks[0]
    assert row.goal == pytest.approx(mark.thickness - 0.003 + ON)


def test_the_floor_tells_the_stiffer_limb():
    limbs = grid(FOUND.bow)
    sag = 0.075
    should = floor_push(limbs, sag, ON)
    assert np.allclose(floor_push(limbs, sag), sag / tip_compliance(limbs)[:, 0])
    seen = floor_look(limbs, 0, 1.2 * float(should[0]), sag, ON)
    assert seen.stiffer == pytest.approx(0.2)
    assert 0.05 < seen.error < 0.15


def test_floor_readings_move_the_estimate_of_the_limb_that_was_pressed():
    # Given both limbs pressed, the upper one a fifth stiffer than its design
    limbs = grid(FOUND.bow)
    push = 0.075 / tip_compliance(limbs)[:, 0]
    readings = (
        Reading("floor", 1.2 * float(push[0]), "upper", span=0.075),
        Reading("floor", float(push[1]), "lower", span=0.075),
        Reading("weight", FOUND.weight * 0.5, draw=0.45),
    )
    # When the stiffness is estimated from them
    found = estimate(grid(FOUND.bow), FOUND.bow, readings)
    upper, lower = (np.exp(found.field[k]).mean() for k in (0, 1))
    # Then the upper limb comes out the stiffer one
    assert upper > 1.02 * lower


@pytest.mark.parametrize(
    ("line", "world"),
    [("upper floor 12 sags 3", "imperial"), ("lower limb floor 5.5 bends 75", "metric")],
)
def test_the_floor_is_written_with_a_pencil_in_both_worlds(line, world):
    (s,) = parse(line, world, TREE)
    assert s.kind == "floor" and 40 < s.value < 60 and 0.07 < s.more < 0.08


@pytest.mark.parametrize("line", ["upper floor 12", "upper floor 5000 sags 3", "floor 12 sags 3",
                                  "upper floor 12 sags 90"])  # fmt: skip
def test_what_no_floor_says_is_refused(line):
    with pytest.raises(Exception, match=r"\w"):
        parse(line, "imperial", TREE)
