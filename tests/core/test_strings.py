"""Strings: strength by the schools, lengths from the braced bow, twist, parts and mass."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.limb_grid import grid
from bowyery.cli.__main__ import main
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.dynamics import loose
from bowyery.mechanics.shot import HELD, hysteresis
from bowyery.strings.breaking import strand_bears
from bowyery.strings.fit import swings
from bowyery.strings.kinds import STRING_KINDS, shared_out
from bowyery.strings.match import swapped
from bowyery.strings.plan import KINDS, StringOrder, StringPlan, plan_string
from bowyery.strings.price import price
from bowyery.strings.strength import (
    SHOT_SHARE,
    STANDING_SHARE,
    strands_for,
    strength_for,
)
from bowyery.strings.thread import (
    LEAST_DIAMETER,
    diameter_of,
    least_strands,
    thread_for_serving,
)
from bowyery.strings.twist import (
    TWIST_SHARE,
    inverse,
    most_turns,
    turns_for,
    twist_of,
    twist_shortening,
)
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import fibre, fibres
from tests.core.bows import bow, kinds, tied

WEIGHT, DRAW = 45 * POUND_FORCE, 0.68
SHOOTING = [name for name, one in STRING_KINDS.items() if one.use == "shoots"]


def planned(kind: str = "two-bundle laid twist", of: str = "linen", **given: object) -> StringPlan:
    return plan_string(bow(), WEIGHT, DRAW, StringOrder(STRING_KINDS[kind], fibre(of), **given))  # type: ignore[arg-type]


@pytest.mark.parametrize("kind", SHOOTING)
@pytest.mark.parametrize("of", ["linen", "polyester"])
def test_the_string_made_to_plan_braces_the_bow_as_wanted(kind: str, of: str) -> None:
    which, plan = bow(), planned(kind, of)
    braced = statics.brace(grid(which), which.hold, string_length=np.array([plan.length]))
    assert braced.height[0] == pytest.approx(0.15, abs=1e-5)
    assert (plan.posts - plan.twist.takes_up) * (1 + plan.fibre.stretch) == pytest.approx(
        plan.length
    )
    shorter = statics.brace(grid(which), which.hold, string_length=np.array([plan.length - 0.01]))
    assert shorter.height[0] - 0.15 == pytest.approx(0.01 * plan.brace_per, rel=0.1)


def test_strength_by_hand() -> None:
    which = bow()
    strength = strength_for(which, WEIGHT, DRAW)
    curve = force_curve.solve(which, np.array([15 * INCH, DRAW]))
    scale = WEIGHT / curve.drawn.weight[1]
    assert strength.school_one == pytest.approx(10 * curve.drawn.weight[0] * scale)
    assert strength.school_two == (pytest.approx(4 * WEIGHT), pytest.approx(6 * WEIGHT))
    assert strength.statics == pytest.approx(
        scale * max(curve.braced.tension[0], curve.drawn.tension.max()) / STANDING_SHARE
    )
    # the shot pulls the string harder than any standing load, and it must bear that twice over
    assert strength.shot_tension > 1.3 * max(strength.brace_tension, strength.draw_tension)
    assert strength.shot == pytest.approx(strength.shot_tension / SHOT_SHARE)
    asked = (strength.school_one, 5 * WEIGHT, strength.statics, strength.shot)
    assert strength.required == max(asked)
    assert (strength.by("fifteen"), strength.by("five")) == pytest.approx(asked[:2])
    read = strength_for(which, WEIGHT, DRAW, fifteen=88.0)
    assert read.school_one == 880.0 and read.measured
    with pytest.raises(DescriptionError, match="mistyped"):
        strength_for(which, WEIGHT, DRAW, fifteen=WEIGHT)
    with pytest.raises(DescriptionError, match="Choose one"):
        strength.by("the moon")


@given(st.floats(200, 5000), st.sampled_from(sorted(fibres())), st.sampled_from(SHOOTING))
def test_strands_share_out_and_bear_what_is_asked(force: float, name: str, kind: str) -> None:
    one, bears = STRING_KINDS[kind], strand_bears(fibre(name))
    count = strands_for(force, fibre(name), one, bears, one.bundles)
    step = max(one.step, one.bundles)
    assert count % step == 0 and count * one.keeps * bears.low >= force * (1 - 1e-9)
    fewer = (count - step) * one.keeps * bears.low
    assert fewer < force or count - step < max(4, least_strands(fibre(name)))
    assert diameter_of(fibre(name), count) >= LEAST_DIAMETER * 0.999
    assert sum(shared_out(count, one.bundles)) == count


def test_odd_strands_are_laid_where_the_kind_allows_it() -> None:
    assert planned("two-bundle laid twist", strands=61).shares == (31, 30)
    assert planned("three-bundle laid twist", strands=61).shares == (21, 20, 20)
    assert planned("plied cordage", "rawhide", plies=3, strands=3).shares == (1, 1, 1)
    with pytest.raises(DescriptionError, match="even number"):
        planned("continuous loop", strands=61)


@given(st.floats(0.001, 0.005), st.integers(0, 60), st.floats(1.2, 1.9))
def test_twist_shortens_as_a_helix(diameter: float, turns: int, length: float) -> None:
    shorter = twist_shortening(diameter, turns, length)
    helix = shorter / TWIST_SHARE  # a yarn takes up half of what its outer fibres would
    axial, around = length - helix, math.pi * diameter * turns
    assert math.hypot(axial, around) == pytest.approx(length)
    assert inverse(diameter, shorter, length) == pytest.approx(turns, abs=1e-5)


def test_turns_are_counted_to_a_length_and_no_further_than_the_thread_bears() -> None:
    kind = STRING_KINDS["two-bundle laid twist"]
    most = most_turns(kind, 0.003, 1.6)
    twist = twist_of(kind, 0.003, 1.6)
    assert twist.turns == 31 and twist.left == most - 31 and 0.9 < twist.strength < 1
    more = turns_for(kind, 0.003, 1.6, twist.turns, 0.003)
    now = twist_shortening(0.003, twist.turns, 1.6)
    assert twist_shortening(0.003, twist.turns + more, 1.6) - now == pytest.approx(0.003)
    assert turns_for(kind, 0.003, 1.6, twist.turns, -0.003) < 0
    for bad in (0.5, -0.5):
        with pytest.raises(DescriptionError, match="No twist does that"):
            turns_for(kind, 0.003, 1.6, twist.turns, bad)
    for bad_turns, said in ((-1, "from nothing"), (3 * most, "over-twisted from")):
        with pytest.raises(DescriptionError, match=said):
            twist_of(kind, 0.003, 1.6, bad_turns)
    with pytest.raises(DescriptionError, match="turns"):
        twist_shortening(0.005, 200, 1.5)
    # twisted as hard as it goes it bears a tenth less
    hard = planned(turns=planned().twist.most)
    assert hard.safe == pytest.approx(0.9 / planned().twist.strength * planned().safe, rel=0.01)


def test_serving_thread_by_hand() -> None:
    """Each turn advances one thread's width and is π (δ + δ_t) long."""
    assert thread_for_serving(0.002, 0.0005, 0.1) == pytest.approx(200 * math.pi * 0.0025)


def test_parts_lie_in_order_and_weigh_what_the_string_does() -> None:
    for kind in SHOOTING:
        plan = planned(kind, silencers=(0.002, 0.2))
        assert plan.parts[0].start == 0 or "hitch" in plan.kind.ends
        assert plan.nocking == pytest.approx(plan.square - 0.25 * INCH)
        serving = plan.part("centre serving")
        assert serving is not None and serving.start < plan.nocking < serving.end
        held = sum(part.mass for part in plan.parts)
        served = serving.mass - plan.masses.serving  # body below the serving counts in both
        assert held - served == pytest.approx(plan.mass - plan.masses.wax - 0.002, rel=1e-6)
    # the arrow sits above the bow's middle, and so does its serving
    assert planned().middle > planned().square


def test_the_mass_grows_with_the_strands_and_is_mostly_thread() -> None:
    loop, laid = planned("continuous loop", strands=20), planned(strands=20)
    assert laid.mass > loop.mass and laid.shares == (10, 10)
    bare = loop.cut * fibre("linen").line_mass
    assert bare < loop.mass < 1.6 * bare
    double = planned("continuous loop", strands=40)
    assert 1.7 * loop.mass < double.mass < 2 * loop.mass


def test_a_heavier_bow_asks_for_more_and_the_makers_number_stands() -> None:
    order = StringOrder(STRING_KINDS["continuous loop"], fibre("hemp"))
    light, heavy = (plan_string(bow(), w * POUND_FORCE, DRAW, order) for w in (30, 90))
    assert heavy.strands > light.strands
    assert light.length == pytest.approx(heavy.length)
    own = plan_string(bow(), 90 * POUND_FORCE, DRAW, replace(order, strands=6))
    assert own.strands == 6 and own.safe < own.needed
    lenient = plan_string(bow(), 90 * POUND_FORCE, DRAW, replace(order, rule="four"))
    assert lenient.needed == pytest.approx(360 * POUND_FORCE) and lenient.strands <= heavy.strands


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"kind": "continuous loop", "strands": 7}, "even number"),
        ({"strands": 401}, "strands"),
        ({"strands": 1}, "strands"),
        ({"plies": 9, "kind": "plied cordage"}, "plies"),
        ({"serving": 1.6}, "do not fit"),
        ({"serving": -0.1}, "below nothing"),
        ({"length": 1.75}, "slack"),
        ({"breaks": (70.0, 0.0)}, "breaks under some load"),
        ({"breaks": (7e4,)}, "fifty times"),
        ({"turns": 500}, "over-twisted"),
        ({"pieces": 9}, "reinforcing"),
        ({"loops": (0.0, 0.02)}, "opening"),
        ({"kind": "cable"}, "no back-bow"),
    ],
)
def test_impossible_strings_are_refused(given: dict[str, object], said: str) -> None:
    with pytest.raises(DescriptionError, match=said):
        planned(**given)  # type: ignore[arg-type]
    with pytest.raises(DescriptionError, match="Choose one"):
        plan_string(
            bow(), WEIGHT, DRAW,
            StringOrder(replace(STRING_KINDS["cable"], name="plait"), fibre("linen")),
        )  # fmt: skip


def test_every_kind_of_bow_gets_every_kind_of_string() -> None:
    for which in kinds().values():
        plan = plan_string(
            which, WEIGHT, 0.62, StringOrder(STRING_KINDS["two-bundle laid twist"], fibre("linen"))
        )
        assert 1.3 < plan.length < 1.8 and plan.cut > plan.posts
    for name in KINDS[:-1]:
        assert planned(name).safe >= planned(name).needed * (1 - 1e-9)
    assert planned("tillering string").length > planned("bracing string").length - 0.2
    cable = plan_string(tied(), WEIGHT, 0.6, StringOrder(STRING_KINDS["cable"], fibre("linen")))
    assert 0.05 < cable.length < 0.8 and cable.strength is None and cable.safe >= cable.needed
    back = plan_string(
        tied(), WEIGHT, 0.6, StringOrder(STRING_KINDS["continuous loop"], fibre("linen"))
    )
    assert back.brace == pytest.approx(0.15, abs=2e-3) or back.brace is not None


def test_the_groove_opens_as_far_as_the_string_swings() -> None:
    upper, lower = swings(bow(), DRAW)
    curve = force_curve.solve(bow(), np.array([DRAW]))
    assert (upper.at_brace, upper.at_draw) == pytest.approx(
        (curve.braced.p[0, 0], curve.drawn.p[0, 0])
    )
    assert lower.at_draw == pytest.approx(upper.at_draw)
    assert upper.faired > max(upper.at_brace, upper.at_draw)
    plain = swings(replace(bow(), back_bow=None), 0.6)
    with_back = swings(tied(), 0.6)
    assert with_back[0].at_draw == pytest.approx(plain[0].at_draw, abs=0.4)


def test_another_string_moves_brace_and_weight_as_the_statics_say() -> None:
    length = planned().length
    same = swapped(bow(), DRAW, WEIGHT, length, length)
    assert (same.brace, same.weight, same.tips) == pytest.approx((0, 0, 0), abs=1e-9)
    shorter = swapped(bow(), DRAW, WEIGHT, length, length - 0.006)
    assert shorter.brace == pytest.approx(0.006 * planned().brace_per, rel=0.1)
    assert shorter.weight > 0
    higher = swapped(bow(), DRAW, WEIGHT, length, length, nock=0.02)
    assert abs(higher.tips) > 1e-4
    with pytest.raises(DescriptionError):
        swapped(bow(), DRAW, WEIGHT, length, 0.0)


def test_the_price_of_mass_is_that_of_the_loosed_arrow() -> None:
    which, plan = bow(), planned(silencers=(0.002, 0.25))
    told = price(which, plan, DRAW, 0.03)
    assert all(value >= 0 for value in told.by_part.values())
    # a gram on the nocking point costs what a gram of arrow does, within the run's own error
    strung = replace(which, string=plan.line, brace_height=None, string_length=plan.length)
    loss = hysteresis(which.upper)
    one, two = (
        loose(strung, DRAW, arrow, watch=False, loss=loss, held=HELD).speed
        for arrow in (0.030, 0.031)
    )
    assert told.each * 0.001 == pytest.approx(one - two, rel=0.12)
    # and the whole string about what a third of it would there
    heavy = replace(strung, string=replace(plan.line, mass=1.3 * plan.line.mass))
    lost = one - loose(heavy, DRAW, 0.030, watch=False, loss=loss, held=HELD).speed
    assert told.each * 0.3 * plan.mass / 3 == pytest.approx(lost, rel=0.3)


def test_the_command_plans_a_string(tmp_path, capsys) -> None:  # type: ignore[no-untyped-def]
    file = tmp_path / "elm.json"
    asked = ["--draw", "27in", "--weight", "42lb", "--wood", "wych elm", "-o", str(file)]
    assert main(["design", *asked]) == 0
    capsys.readouterr()
    command = ["string", str(file), "--kind", "two-bundle", "--strand-breaks", "71,69,74"]
    assert main([*command, "--weight-15in", "100", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {
        "length_mm", "brace_mm", "mm_brace_per_mm", "strands", "cut_mm", "twists", "twists_most",
        "mass_g", "needs_n", "bears_n",
    }  # fmt: skip
    assert told["needs_n"]["fifteen"] == 1000 and told["bears_n"] > 1000
    assert told["brace_mm"] == pytest.approx(152.4, abs=0.1)
    assert main([*command, "--rule", "statics"]) == 0
    assert "bear" in capsys.readouterr().out
    for wrong in (["--strand-breaks", "a"], ["--strands", "0"], ["--plies", "3"], ["--thread", "x"],
                  ["--kind", "plait"], ["--weight-15in", "-1"]):  # fmt: skip
        assert main(["string", str(file), *wrong]) == 2, wrong
        assert capsys.readouterr().err.strip().endswith("."), wrong
    assert main(["string", str(tmp_path / "none.json")]) == 2
