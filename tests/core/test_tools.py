"""Tools and their bite, a removal told in strokes, the ladder, and the draw at the weight held."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.record.learned import QUANTITIES, Evidence, learned
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, Workpiece, hands_shown, work_out
from bowyery.tiller.bite import (
    STRANGE_SPREAD,
    USUAL_TOOL,
    Bite,
    Tool,
    bite_of,
    first_bite,
    hungry,
)
from bowyery.tiller.estimate import PLACES, Taken, taken_field
from bowyery.tiller.kinds import Reading
from bowyery.tiller.ladder import RUNGS, ladder
from bowyery.tiller.log import History, Noted, history
from bowyery.tiller.pencil import parse, words
from bowyery.tiller.rulers import Rulers
from bowyery.tiller.statements import Tree
from bowyery.tiller.strokes import MOST_STRETCHES, stretches
from bowyery.tiller.words import held_words, removal_line, say, tool_words
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, POUND_FORCE, Units
from tests.core.readings import FULL, PLAN, bench_bow, reads

TREE = Tree(reach=(33.5 * INCH, 33.5 * INCH))


def piece() -> Workpiece:
    found, limbs = bench_bow()
    return Workpiece(found.bow, limbs, found.wood.density, found.layout.width)


def logged(*lines: str) -> History:
    rows = [
        Noted(s, 100 * n + k, n)
        for n, line in enumerate(lines, 1)
        for k, s in enumerate(parse(line, IMPERIAL, TREE))
    ]
    return history(rows, piece().roots)


def look(stiffness: float, draws: tuple[float, ...] = (14, 18, 20)) -> str:
    """What is read on even limbs of this stiffness against the design."""
    asked = [Reading("weight", 0.0, draw=d * INCH) for d in draws]
    asked += [Reading("gap", 0.0, "upper"), Reading("gap", 0.0, "lower")]
    found = reads(stiffness, stiffness, tuple(asked))
    parts = ["string full 6"]
    for r in found:
        parts.append(
            f"{r.value / POUND_FORCE:.1f} at {(r.draw or 0) / INCH:g}"
            if r.kind == "weight"
            else f"{r.limb} gap {r.value / INCH:.3f}"
        )
    return ", ".join(parts)


def state(*lines: str, plan: Plan = PLAN) -> BenchState:
    return work_out(piece(), logged(*lines), plan)


def test_each_tool_learns_from_its_own_passes_only() -> None:
    """Thirty strokes of the rasp took what sixty were thought to: the scraper's bite stays."""
    rasp = first_bite("rasp", piece().density, piece().width).thickness
    depth = float(np.median(bench_bow()[1].depth))
    before, strokes = 1.35, 8
    thin = (before ** (1 / 3) - 2 * strokes * rasp / depth) ** 3
    found = state(look(before), f"off both {strokes} strokes with rasp, 25 pulls", look(thin))
    assert found.bites["rasp"].thickness > 1.3 * rasp
    assert found.bites["rasp"].spread < first_bite("rasp", 650, 0.035).spread
    assert USUAL_TOOL not in found.bites or found.bites[USUAL_TOOL].spread == pytest.approx(0.5)
    # two tools between two looks: neither can be blamed
    mixed = state(
        look(before), "off both 4 strokes with rasp, off both 20 strokes with scraper, 25 pulls",
        look(thin),
    )  # fmt: skip
    assert all(b.spread == pytest.approx(0.5) for b in mixed.bites.values())


def test_what_other_bows_showed_is_where_the_next_one_starts() -> None:
    usual, figure = first_bite("rasp", 650, 0.035), QUANTITIES["bite"]
    assert usual.shown is None
    one, many = (
        learned(figure, [Evidence(2.0, 0.4, "ash", bow=k, what="rasp") for k in range(1, n)], "ash")
        for n in (2, 5)
    )
    assert 1.2 < one.middle < many.middle < 2.0 and many.spread < one.spread
    tool = hungry(Tool("rasp", "rasp"), many.middle, many.spread)
    assert tool.bite(650, 0.035).thickness > 1.4 * usual.thickness
    assert tool.bite(650, 0.035).spread < usual.spread
    # readings that scatter below nothing say that little is taken, and not that wood grows
    blunt = hungry(Tool("rasp"), -0.5, 0.4)
    assert 0 < blunt.bite(650, 0.035).thickness < 0.5 * usual.thickness
    assert blunt.spread == STRANGE_SPREAD
    rasp = first_bite("rasp", piece().density, piece().width).thickness
    depth = float(np.median(bench_bow()[1].depth))
    thin = (1.35 ** (1 / 3) - 16 * rasp / depth) ** 3
    past = logged(look(1.35), "off both 8 strokes with rasp, 25 pulls", look(thin))
    assert hands_shown(piece(), past, FULL)[0]["rasp"].thickness > 1.3 * rasp
    assert hands_shown(piece(), History(), FULL) == ({}, Rulers())


def test_a_tool_that_nobody_knows_is_hardly_known() -> None:
    strange = bite_of("great-aunt's plane", (), 650, 0.035)
    assert strange.spread == STRANGE_SPREAD
    own = bite_of("toothed block", (Tool("toothed block", "rasp"),), 650, 0.035)
    assert own.thickness == pytest.approx(first_bite("rasp", 650, 0.035).thickness)
    assert first_bite("rasp", 650, 0.035).spread < own.spread < strange.spread


def test_the_tool_in_hand_changes_the_number_of_strokes_and_not_the_wood() -> None:
    heavy = look(1.5)
    fine = state(heavy, plan=Plan(PLAN.wanted_weight, FULL, most_use=1.4, tool="scraper"))
    coarse = state(heavy, plan=Plan(PLAN.wanted_weight, FULL, most_use=1.4, tool="rasp"))
    assert fine.tool == "scraper" and coarse.tool == "rasp" and fine.suits == coarse.suits
    assert sum(s.strokes for s in fine.strokes) > 3 * sum(s.strokes for s in coarse.strokes)
    for one in (fine, coarse):
        taken = sum(s.strokes * one.bite.thickness * (s.end - s.start) for s in one.strokes)
        length = float(bench_bow()[1].length[0, 0]) / (PLACES - 1)
        # a tool that is hardly known yet may be hungrier: fewer strokes, never more wood
        assert 0.6 < taken / (one.advice.removal.sum() * length) < 1.02
    assert "rasp" in tool_words(coarse, Units(IMPERIAL))
    assert "mm" in tool_words(coarse, Units(METRIC))


@given(st.lists(st.floats(0, 0.002), min_size=PLACES, max_size=PLACES), st.floats(1e-5, 2e-4))
def test_stretches_lie_apart_in_order_and_take_about_what_was_asked(
    off: list[float], bite: float
) -> None:
    _, limbs = bench_bow()
    field = np.stack([np.array(off), np.zeros(PLACES)])
    found = stretches(limbs, field, Bite(bite, 0.3))
    assert all(s.limb == "upper" and s.strokes >= 1 and s.start < s.end for s in found)
    runs = 1 + sum(a > 0 and b <= 0 for a, b in pairwise(off))
    assert len(found) <= max(MOST_STRETCHES, runs)
    for one, other in pairwise(found):
        assert one.end <= other.start + 1e-9
    if max(off) >= bite:
        assert found
    if max(off) < 0.5 * bite:
        assert not found


def test_what_is_drawn_is_written_down_as_the_same_stretches() -> None:
    """“Done as drawn” reads back to the strokes that were advised, in both worlds."""
    for shown in (Units(IMPERIAL), Units(METRIC)):
        found = state(look(1.5))
        line = removal_line(found, shown)
        read = parse(line, shown.world, TREE)
        assert [(s.limb, int(s.value or 0), s.tool) for s in read] == [
            (s.limb, s.strokes, found.tool) for s in found.strokes
        ]
        for one, other in zip(read, found.strokes, strict=True):
            if one.start is not None and one.end is not None:
                root = found.roots[other.limb]
                assert one.start == pytest.approx(other.start + root, abs=0.009)
                assert one.end == pytest.approx(other.end + root, abs=0.009)
        said = say(found, shown, TREE)
        assert said.short.startswith(f"{found.tool}: ") and "short pulls, then look at" in said.then
        assert "strokes" in said.sentences[0] and words(read, TREE, shown)


def test_the_ladder_says_where_a_bow_stands_and_what_comes_next() -> None:
    def stands(*lines: str, rested: bool = False) -> dict[str, str]:
        rows = ladder(state(*lines), rested)
        assert [r.name for r in rows] == list(RUNGS)
        assert sum(r.stand == "here" for r in rows) <= 1
        assert all(r.why for r in rows if r.stand in ("here", "next"))
        return {r.name: r.stand for r in rows}

    nothing = ladder(BenchState(PLAN, History()))
    assert (nothing[0].stand, nothing[1].stand) == ("here", "next")
    heavy = stands("string long 70, 40 at 14, 48 at 16, upper tip 4 at 16, lower tip 4 at 16")
    assert heavy["long string"] == "here" and heavy["low brace"] in ("ahead", "next")
    low = "string low 3, 26 at 12, 30 at 14, upper gap 3 1/2, lower gap 3 1/2"
    fresh = stands(low)
    assert fresh["low brace"] == "here" and fresh["half an hour"] == "next"
    rested = stands(low, rested=True)
    assert rested["half an hour"] == "here" and rested["low brace"] == "done"
    assert stands(low, "braced 30 min", low)["half an hour"] == "here"
    drawn = stands(look(1.1, (16, 20, 22)))
    assert drawn["draw"] == "here" and drawn["half an hour"] == "ahead"
    done = stands(look(1.04, (20, 24, 27)))
    assert "here" not in done.values() and done["draw"] == "done"


def test_the_draw_grows_at_the_weight_that_is_held() -> None:
    first = state(look(1.5, (12, 14, 16)))
    assert first.held is not None and first.held.before is None
    assert first.held.after is not None and first.held.after > first.held.draw
    second = state(look(1.5, (12, 14, 16)), "off both 0.02, 25 pulls", look(1.3, (14, 16, 18)))
    held = second.held
    assert held is not None and held.before is not None and held.before < held.draw
    assert held.before == pytest.approx(first.held.draw, abs=0.02)
    text = held_words(held, second, Units(IMPERIAL), TREE)
    assert text.startswith("42 lb at ") and ", was " in text and "; next look about " in text
    assert " mm, was " in held_words(held, second, Units(METRIC), TREE)


def weight(stiffness: float) -> float:
    """What even limbs pull at full draw."""
    return reads(stiffness, stiffness, (Reading("weight", 0.0, draw=FULL),))[0].value


@pytest.mark.parametrize("fallen", [0.98, 0.96, 0.94])
def test_weights_that_all_fell_together_are_believed(fallen: float) -> None:
    """None of them alone stands against what was known: the bow has taken set. Four looks that
    agreed do not hold the forecast up.
    """
    before = [look(1.02, (20, 23, 26)) for _ in range(4)]
    found = state(*before, look(fallen, (20, 23, 26)))
    assert not found.wild and found.outlook is not None
    assert found.outlook.now.middle == pytest.approx(weight(fallen), rel=0.03)
    steady = state(*before, look(1.02, (20, 23, 26)))
    assert steady.jump == 0 and steady.outlook.now.middle == pytest.approx(weight(1.02), rel=0.015)
    if found.jump:
        assert "has it taken set" in " ".join(say(found, Units(IMPERIAL), TREE).sentences)


def test_the_next_string_is_named_with_the_wood_that_comes_off_first() -> None:
    """Near enough to be braced, and some wood to take first: both are said; the ladder agrees."""
    found = state("string long 70, 20 at 14, 24 at 16, upper tip 5.1 at 16, lower tip 5.1 at 16")
    assert found.advice.act == "take" and found.advice.string == "low"
    said = say(found, Units(IMPERIAL), TREE)
    assert "string it to a low brace for half an hour" in said.then
    assert {r.name: r.stand for r in ladder(found)}["low brace"] == "next"
    heavy = look(1.3, (16, 18))
    assert "string it" not in say(state(heavy), Units(IMPERIAL), TREE).then


def test_a_single_stroke_is_one() -> None:
    one = state(look(1.3, (16, 18)))
    few = [replace(s, strokes=1) for s in one.strokes if s.limb == "upper"][:1]
    said = say(replace(one, strokes=tuple(few)), Units(IMPERIAL), TREE)
    assert "1 stroke upper" in said.short and "1 stroke " in said.sentences[0]
    assert " 1 stroke" in removal_line(replace(one, strokes=tuple(few)), Units(METRIC))


def test_stretches_that_adjoin_run_into_one_another_and_take_no_wood_twice() -> None:
    _, limbs = bench_bow()
    length = float(limbs.length[0, 0])
    parts = (Taken("upper", 1e-3, 0.1, 0.3), Taken("upper", 1e-3, 0.3, 0.5))
    whole = taken_field(limbs, (Taken("upper", 1e-3, 0.1, 0.5),))
    assert taken_field(limbs, parts) == pytest.approx(whole, abs=2.5e-4)
    assert taken_field(limbs, parts).max() < 1.1e-3
    apart = taken_field(limbs, (parts[0], replace(parts[1], start=0.4)))
    assert apart.max() == pytest.approx(1e-3) and apart[1].max() == 0 and length > 0.6
