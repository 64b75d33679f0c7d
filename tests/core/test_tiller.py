"""Tillering: what readings say of hidden limbs, and advice that never does harm."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import GAP_WANTED, INCH_ROUNDING
from bowyery.bow.limb_grid import grid
from bowyery.design.solve import solve_design
from bowyery.errors import EstimateError
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.tiller import advice as adv
from bowyery.tiller.advice import Advice, Balance, Gear, Plan, advise, balance, limits
from bowyery.tiller.estimate import (
    BEND,
    CROOK,
    CROOKS,
    FIELD,
    MEASURED,
    NINETY,
    PLACES,
    STRING,
    Estimate,
    Taken,
    carried,
    crooked,
    estimate,
    even_estimate,
    few_cells,
    first_belief,
)
from bowyery.tiller.forecast import Forecast, Losses, forecast
from bowyery.tiller.kinds import Reading
from bowyery.tiller.words import why
from bowyery.units.quantity import INCH
from bowyery.wood.materials import at_moisture, material
from tests.core.readings import FULL, PLAN, asked, bench_bow, edges, read_off, reads

FEW = settings(max_examples=12)


def everything(
    upper: float, lower: float, plan: Plan = PLAN, pulls: int | None = None, last: float = 21
) -> tuple[Estimate, Forecast, Balance, Advice]:
    found, limbs = bench_bow()
    now = estimate(limbs, found.bow, reads(upper, lower, asked((16, 19, last))))
    bent = crooked(few_cells(limbs), now.crook)
    outlook = forecast(bent, found.bow, now, plan.full_draw, last * INCH, plan.losses)
    stand = balance(limbs, found.bow, now, plan.fingers)
    return (
        now,
        outlook,
        stand,
        advise(bent, found.bow, now, outlook, stand, plan, last * INCH, pulls),
    )


def true_weight(upper: float, lower: float, at: float = FULL) -> float:
    found, limbs = bench_bow()
    limbs = limbs.stiffened(np.array([upper, lower])[:, None, None])
    return float(draw(limbs, found.bow.hold, brace_bow(limbs, found.bow), np.array([at])).weight[0])


@FEW
@given(st.floats(0.8, 1.7), st.floats(0.85, 1.2), st.booleans())
def test_clean_readings_give_the_limbs_back(common: float, ratio: float, tips: bool) -> None:
    upper, lower = common * np.sqrt(ratio), common / np.sqrt(ratio)
    found, limbs = bench_bow()
    read = reads(upper, lower, asked((14, 18, 21), gaps=not tips, tips=tips))
    now = estimate(limbs, found.bow, read, first_belief(limbs, woods=MEASURED))
    assert now.upper == pytest.approx(upper, rel=0.08)
    assert now.lower == pytest.approx(lower, rel=0.08)
    assert not now.wild
    # some of a difference may be the limbs' own bend, where nobody measured it
    unknown = estimate(limbs, found.bow, read)
    assert abs(unknown.ratio - np.log(ratio)) < NINETY * unknown.ratio_spread
    assert unknown.common == pytest.approx(np.log(common), abs=0.06)


def test_bands_hold_the_truth_about_as_often_as_they_say() -> None:
    """Limbs drawn from the prior with a bend that nobody entered, readings with a maker's errors:
    90 % bands hold 85 to 96 % of the time.
    """
    found, limbs = bench_bow()
    rng = np.random.default_rng(7)
    inside = np.zeros(2)
    count = 80
    belief = first_belief(few_cells(limbs))
    roots = np.linalg.cholesky(belief.covariances[:, :STRING, :STRING])
    places = np.zeros(2 * PLACES)
    for _ in range(count):
        wood = int(rng.choice(belief.shares.size, p=belief.shares))
        drawn = belief.means[wood, :STRING] + roots[wood] @ rng.standard_normal(STRING)
        field, crook = drawn[FIELD], CROOK * drawn[BEND].reshape(2, CROOKS)
        kinds = asked((16, 19, 22)) + edges(22)
        stave = crooked(few_cells(limbs), crook)
        seen = read_off(stave, found.bow, kinds, field.reshape(1, 2, PLACES), rng)
        now = estimate(limbs, found.bow, seen)
        true = (now.weights * field.reshape(2, PLACES)).sum(1)
        off = np.abs([now.common - true.mean(), now.ratio - (true[0] - true[1])])
        inside += off <= 1.645 * np.array([now.common_spread, now.ratio_spread])
        places += np.abs(now.field.ravel() - field) <= 1.645 * now.spread.ravel()
    assert 0.85 <= places.mean() / count <= 0.95, places / count
    assert np.all(inside / count >= 0.82), inside / count
    assert np.all(inside / count <= 0.98), inside / count


def test_more_readings_say_more() -> None:
    found, limbs = bench_bow()
    one = estimate(limbs, found.bow, reads(1.2, 1.1, asked((20,), gaps=False)))
    gaps = estimate(limbs, found.bow, reads(1.2, 1.1, asked((20,))))
    three = estimate(limbs, found.bow, reads(1.2, 1.1, asked((14, 17, 20))))
    assert gaps.ratio_spread < 0.85 * one.ratio_spread
    assert three.common_spread < gaps.common_spread


def test_one_wild_reading_is_named_and_does_little_harm() -> None:
    found, limbs = bench_bow()
    good = list(reads(1.2, 1.1, asked((12, 15, 18, 21))))
    good[2] = replace(good[2], value=good[2].value * 1.5)
    now = estimate(limbs, found.bow, tuple(good))
    assert now.wild == (2,)
    assert now.upper == pytest.approx(1.2, rel=0.07)
    # nor does it speak for a kind of wood, as it did when the crooked ones explained it least badly
    without = estimate(limbs, found.bow, tuple(good[:2] + good[3:]))
    assert now.belief.shares == pytest.approx(without.belief.shares, abs=0.05)


def test_readings_that_cannot_be_used_are_refused() -> None:
    found, limbs = bench_bow()
    for rows, says in (
        ((), "at least one weight"),
        ((Reading("weight", 100.0),), "needs the draw"),
        ((Reading("gap", 0.15),), "which limb"),
    ):
        with pytest.raises(EstimateError, match=says):
            estimate(limbs, found.bow, rows)
    hanging = replace(found.bow, brace_height=None, string_length=1.8)
    with pytest.raises(EstimateError, match="braced"):
        estimate(limbs, hanging, (Reading("gap", 0.15, "upper"),))


def test_a_hanging_string_is_enough_for_the_common_stiffness() -> None:
    found, limbs = bench_bow()
    hanging = replace(
        found.bow,
        brace_height=None,
        string_length=1.78,
        hold=replace(found.bow.hold, support="clamp", nock_offset=0.0),
    )
    kinds = asked((13, 15, 17), gaps=False)
    now = estimate(
        limbs, hanging, read_off(limbs, hanging, kinds, np.full((1, 2, PLACES), np.log(1.6)))
    )
    assert now.upper == pytest.approx(1.6, rel=0.06)


def test_forecast_meets_the_true_weight_and_loses_what_finishing_takes() -> None:
    _, outlook, _, _ = everything(1.2, 1.12)
    truth = true_weight(1.2, 1.12)
    assert outlook.now.low < truth < outlook.now.high
    assert outlook.finished.middle == pytest.approx(outlook.now.middle * 0.955)
    assert outlook.final.middle == pytest.approx(outlook.now.middle * 0.955 * 0.96)
    width = [(b.high - b.low) / b.middle for b in (outlook.now, outlook.finished, outlook.final)]
    assert width[0] < width[1] < width[2]
    nearer = everything(1.2, 1.12, last=26)[1]
    assert nearer.now.high - nearer.now.low < outlook.now.high - outlook.now.low


def test_the_limb_that_is_too_stiff_is_named() -> None:
    upper_stiff, lower_stiff = everything(1.35, 1.1)[2], everything(1.0, 1.25)[2]
    assert (upper_stiff.stiffer, upper_stiff.ahead) == ("upper", "lower")
    assert (lower_stiff.stiffer, lower_stiff.ahead) == ("lower", "upper")
    assert upper_stiff.gap < upper_stiff.wanted[0]
    assert lower_stiff.gap > lower_stiff.wanted[1]
    assert upper_stiff.by > 0.04


def test_three_under_wants_even_gaps() -> None:
    low, high = adv.gap_wanted("three under", 0.001)
    assert low == pytest.approx(-INCH / 16) == pytest.approx(-high)
    assert adv.gap_wanted("one above, two below", 0.004) == (INCH / 8, INCH / 4)
    # a design that was made to other gaps is tillered to its own
    low, high = adv.gap_wanted("one above, two below", 0.0)
    assert low < 0 < high and high - low == pytest.approx(INCH / 8)


@pytest.mark.parametrize("fingers", GAP_WANTED)
@pytest.mark.parametrize("layout", [name for name in LAYOUTS if "back-bow" not in name])
def test_a_bow_cut_to_its_marks_is_told_that_it_is_even(layout: str, fingers: str) -> None:
    """Seen: eleven of thirteen designs were told that a limb is 8 to 18 % too stiff, one that bends
    through its grip 49 %.
    """
    wanted = replace(bench_bow()[0].wanted, fingers=fingers)
    wood = at_moisture(material("wych elm"), 0.09)
    found = solve_design(LAYOUTS[layout](FULL), wanted, wood, INCH_ROUNDING)
    limbs = grid(found.bow)
    stand = balance(limbs, found.bow, even_estimate(few_cells(limbs), 0.0), fingers)
    assert stand.stiffer == "" and stand.by < 0.01
    if "tube" not in layout:  # stock of one size has the gaps that it has
        low, high = GAP_WANTED[fingers]
        assert low - 0.0013 < stand.gap < high + 0.0013


@FEW
@given(st.floats(0.95, 1.8), st.floats(0.85, 1.2), st.sampled_from(["W", "D"]), st.booleans())
def test_limits_never_pass_the_wanted_weight_the_draw_or_the_strain(
    common: float, ratio: float, school: str, beginner: bool
) -> None:
    found, limbs = bench_bow()
    plan = replace(PLAN, school=school, beginner=beginner, braced=not beginner)
    upper, lower = common * np.sqrt(ratio), common / np.sqrt(ratio)
    now, outlook, stand, _ = everything(upper, lower, plan)
    further, harder = limits(limbs, found.bow, now, outlook, plan, 21 * INCH, not stand.stiffer)
    share = adv.BEGINNER_SHARE if beginner else 1.0
    assert harder.value <= share * plan.wanted_weight + 1e-9
    assert further.value <= plan.full_draw + 1e-9
    if further.passed:  # it has been there: no wall, but how far beyond is said
        assert further.value == pytest.approx(21 * INCH)
    elif further.why in ("wanted weight", "beginner's share"):
        assert true_weight(upper, lower, further.value) <= harder.value * 1.02
    if school == "D":
        assert further.value <= 22 * INCH + 1e-9


@pytest.mark.parametrize("most", [0.001, 0.1, 0.5])
def test_no_limit_lies_below_brace_or_what_was_borne(most: float) -> None:
    """Seen: pull no further than six inches, on a bow braced at six inches."""
    found, limbs = bench_bow()
    now, outlook, _, _ = everything(1.6, 1.5)
    plan, brace = replace(PLAN, most_use=most, wanted_weight=20.0), found.bow.brace_height or 0.0
    fresh, _ = limits(limbs, found.bow, now, outlook, plan, 0.0, True)
    assert fresh.value >= brace
    pulled, _ = limits(limbs, found.bow, now, outlook, plan, 20 * INCH, True)
    assert pulled.value == pytest.approx(20 * INCH) and pulled.passed > 1
    said = why(pulled, True)
    assert "been there already" in said and f"{pulled.passed * 100:.0f} %" in said


def test_a_thicker_limb_bears_less_bend() -> None:
    """The strain at a draw is that of the limb as estimated, and not as designed."""
    found, limbs = bench_bow()
    plan = replace(PLAN, most_use=0.88, wanted_weight=1e3, losses=Losses(0.0, 0.0))
    allowed = []
    for stiff in (1.0, 1.2**3):
        now, outlook, _, _ = everything(stiff, stiff, plan)
        further, _ = limits(limbs, found.bow, now, outlook, plan, 18.7 * INCH, True)
        assert further.why == "strain"
        allowed.append(further.value)
    assert allowed[1] < 0.95 * allowed[0]


def test_the_binding_limit_is_named() -> None:
    found, limbs = bench_bow()
    now, outlook, _, _ = everything(1.3, 1.2)

    def bind(plan: Plan, level: bool = True) -> tuple[str, str, str]:
        further, harder = limits(limbs, found.bow, now, outlook, plan, 21 * INCH, level)
        return further.why, harder.why, harder.gear

    assert bind(PLAN) == ("wanted weight", "wanted weight", "")
    assert bind(replace(PLAN, gear=(Gear("old rope", 90.0),))) == ("gear", "gear", "old rope")
    assert bind(replace(PLAN, gear=(Gear("pulley", 200.0, 2.0),))) == ("gear", "gear", "pulley")
    assert bind(replace(PLAN, school="D")) == ("next inch", "wanted weight", "")
    assert bind(replace(PLAN, school="D"), level=False) == ("shape", "wanted weight", "")
    assert bind(replace(PLAN, most_use=0.6))[0] == "strain"
    assert bind(replace(PLAN, beginner=True, braced=False))[1] == "beginner's share"
    light = everything(0.8, 0.75)
    seen, deep = limits(limbs, found.bow, light[0], light[1], PLAN, 21 * INCH, True)[0], 26 * INCH
    assert seen.why == "two inches" and seen.value == pytest.approx(23 * INCH)
    assert limits(limbs, found.bow, light[0], light[1], PLAN, deep, True)[0].why == "full draw"


@FEW
@given(st.floats(0.9, 1.9), st.floats(0.85, 1.2))
def test_advice_takes_only_from_what_is_too_stiff_and_never_all_at_once(
    common: float, ratio: float
) -> None:
    upper, lower = common * np.sqrt(ratio), common / np.sqrt(ratio)
    _now, outlook, stand, said = everything(upper, lower)
    for removal in said.removals:
        assert 0 < removal.share < 0.25
        assert removal.thickness > 0
    if said.act == "take":
        assert outlook.now.middle > PLAN.stop_at
        assert said.weight_after >= PLAN.stop_at * 0.97
        assert said.weight_after < outlook.now.middle
    if stand.stiffer and said.removals and stand.by > 0.1:
        shares = {r.limb: r.share for r in said.removals}
        assert shares.get(stand.stiffer, 0) >= 0.95 * max(shares.values())
    if outlook.now.middle < PLAN.stop_at * 0.99 and not stand.stiffer:
        assert not said.removals


def test_following_the_advice_ends_at_the_wanted_weight_with_level_limbs() -> None:
    """A maker who does as told, with honest errors in reading and taking, meets the weight and
    never passes it.
    """
    found, limbs = bench_bow()
    rng = np.random.default_rng(3)
    for start in ((1.9, 1.6), (1.5, 1.65)):
        upper, lower = start
        belief = None
        for turn in range(25):
            last = min(21.0 + turn, 26.0)  # each look pulls a little further
            kinds = asked((last - 6, last - 3, last))
            now = estimate(limbs, found.bow, reads(upper, lower, kinds, rng), belief)
            bent = crooked(few_cells(limbs), now.crook)
            outlook = forecast(bent, found.bow, now, FULL, last * INCH, PLAN.losses)
            stand = balance(limbs, found.bow, now, PLAN.fingers)
            said = advise(bent, found.bow, now, outlook, stand, PLAN, FULL, None)
            if said.act not in ("take", "balance"):
                break
            for removal in said.removals:
                thinner = (1 - removal.share * rng.normal(1, 0.1)) ** 3
                upper, lower = (
                    (upper * thinner, lower)
                    if removal.limb == "upper"
                    else (upper, lower * thinner)
                )
            rows = [Taken(r.limb, r.thickness) for r in said.removals]
            belief = carried(few_cells(limbs), found.bow, now.belief, tuple(rows))
        final = true_weight(upper, lower) * (1 - PLAN.losses.finishing) * (1 - PLAN.losses.shooting)
        assert final == pytest.approx(PLAN.wanted_weight, rel=0.055)
        truth = balance(
            limbs,
            found.bow,
            even_estimate(few_cells(limbs), 0.0, float(np.log(upper / lower))),
            PLAN.fingers,
        )
        assert truth.wanted[0] - 0.005 < truth.gap < truth.wanted[1] + 0.005


def test_exercise_comes_before_the_next_look() -> None:
    _, _, _, said = everything(1.4, 1.3, pulls=5)
    assert (said.act, said.pulls) == ("exercise", 20)
    assert everything(1.4, 1.3, pulls=25)[3].act == "take"


def test_nothing_to_take_means_pull_on_or_stop() -> None:
    level = (1.0, 1.0 / np.exp(everything(1.0, 1.0)[2].ratio_wanted))
    lift = PLAN.stop_at / true_weight(*level)
    there = (level[0] * lift, level[1] * lift)
    assert everything(*there)[3].act == "pull"
    assert everything(*there, last=27)[3].act == "stop"
