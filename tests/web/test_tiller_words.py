"""What the tiller says: every act, places, one more reading, and the rules of the bench, in both
unit worlds.
"""

import re
from dataclasses import replace
from typing import get_args

import numpy as np
import pytest

from bowyery.tiller import words
from bowyery.tiller.advice import Act, Advice, Balance, Plan
from bowyery.tiller.bench import BenchState
from bowyery.tiller.bite import Bite
from bowyery.tiller.estimate import PLACES, Sharper
from bowyery.tiller.forecast import BenchRule
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import History, StringOn
from bowyery.tiller.statements import Tree
from bowyery.tiller.strokes import Stretch
from bowyery.tiller.target import Place, Removal
from bowyery.units.draw_ruler import TRADE
from bowyery.units.quantity import INCH, METRIC, POUND_FORCE, Units
from fellwind.drawing.ruler import LimbTrack, RulerData, TillerData, small_outline, tiller_tracks

ROOTS = {"upper": 4 * INCH, "lower": 4 * INCH}
STAND = Balance(0.004, 0.001, (INCH / 8, INCH / 4), "upper", 0.12, -0.05)
INCHES, MILLIMETRES = Units(), Units(METRIC)
BITE = 0.00002


def state(act: str, removals: tuple[Removal, ...] = (), **more: object) -> BenchState:
    advice = Advice(act, removals, 25, 45 * POUND_FORCE, 0.004, (20 * INCH, 30 * POUND_FORCE))
    advice = replace(advice, **more)
    plan = Plan(42 * POUND_FORCE, 27 * INCH)
    past = History(braced=True, string=StringOn("string full"))
    strokes = tuple(
        Stretch(r.limb, r.start or 0.0, r.end or 0.74, round(r.thickness / BITE), r.thickness,
                r.start is None)
        for r in removals
    )  # fmt: skip
    return BenchState(
        plan, past, advice=advice, stand=STAND, roots=ROOTS, bite=Bite(BITE, 0.3), strokes=strokes
    )


WHOLE = Removal("upper", 0.0004, 0.03)
PART = Removal("upper", 0.0003, 0.02, 5 * INCH, 10.1 * INCH)
OTHER = Removal("lower", 0.0002, 0.015, 0.0, 6 * INCH)


@pytest.mark.parametrize(
    ("act", "more", "says"),
    [
        ("exercise", {}, "25 more short pulls"),
        ("pull", {}, "Pull a little further"),
        ("brace", {"string": "low"}, "string it to a low brace, leave it braced half an hour"),
        ("brace", {"string": "full"}, "its full brace"),
        ("rescue", {}, "Take no more wood"),
        ("stop", {}, "Take no more wood; round, sand and finish"),
    ],
)
def test_every_act_is_said(act: str, more: dict[str, object], says: str) -> None:
    said = words.say(state(act, **more), INCHES, Tree())
    assert says in " ".join(said.sentences) and said.short and said.then


def test_a_removal_is_said_by_stretch_with_strokes_and_what_it_should_change() -> None:
    said = words.say(state("take", (WHOLE, PART, OTHER)), INCHES, Tree())
    text = " ".join(said.sentences)
    assert (
        "Take 20 strokes from fade to nock and 15 strokes between 9 and 14 in off the upper limb"
        " with the scraper: about 0.016 in at the most." in text
    )
    assert "Take 10 strokes between 4 and 10 in off the lower limb" in text
    assert "It should then pull 30 lb at 20 in to the grip, and 45 lb at full draw" in text
    assert said.short == "scraper: 35 strokes upper, 10 lower"
    assert said.then == "25 short pulls, then look at 20 in to the grip: about 30.0 lb"
    metric = " ".join(words.say(state("take", (PART,)), MILLIMETRES, Tree()).sentences)
    assert "15 strokes between 230 and 360 mm off the upper limb" in metric and not re.search(
        r"[\d⅛¼⅜½⅝¾⅞₀-₉] ?(in|lb)\b", metric
    )
    assert "at weight already" in words.say(state("balance", (WHOLE,)), INCHES, Tree()).sentences[0]


def test_a_bow_that_bends_in_the_grip_is_judged_along_its_limbs() -> None:
    said = words.balance_words(replace(STAND, at=0.3), INCHES)
    assert "at full brace, 30 % along the limbs" in said
    assert "%" not in words.balance_words(replace(STAND, stiffer=""), INCHES)
    unread = words.balance_words(replace(STAND, read=False), INCHES)
    assert "not read yet" in unread and "%" not in unread


def test_places_are_marked_and_shaded() -> None:
    advice = state(
        "take", weak=(Place("lower", 0.1, 0.2, 0.18),), stiff=(Place("upper", 0.2, 0.3, 0.15),)
    ).advice
    weak, stiff = words.places_words(advice, ROOTS, MILLIMETRES)
    assert (
        "Mark X on the lower limb between 200 and 300 mm" in weak
        and "18 % more" in weak
        and "Take nothing there" in weak
    )
    assert "Shade the upper limb between 300 and 400 mm" in stiff and "15 % stiffer" in stiff


@pytest.mark.parametrize(
    ("reading", "says"),
    [
        (
            Reading("straight edge", 0.0, "upper", 0.5, 8 * INCH, 0.15),
            "straight edge on the upper limb, 12 in from the centre",
        ),
        (
            Reading("offset", 0.0, "lower", 0.5, 8 * INCH),
            "lower limb stands off a straight line, 12 in",
        ),
        (Reading("tip height", 0.0, "lower", 0.5), "how far the lower tip has come down"),
        (Reading("gap", 0.0, "upper"), "the gap at the upper fade"),
        (Reading("weight", 0.0, draw=0.5), "the weight once more"),
    ],
)
def test_one_more_reading_is_named_with_what_it_would_tell(reading: Reading, says: str) -> None:
    said = words.sharper_words(Sharper(reading, 0.123), ROOTS, INCHES)
    assert says in said and "about 12 %" in said


def test_the_rules_of_the_bench_are_held_against_the_forecast() -> None:
    over = words.rule_words(BenchRule("by the inch", 46 * POUND_FORCE, 0.04), INCHES)
    under = words.rule_words(BenchRule("in proportion", 40 * POUND_FORCE, -0.11), MILLIMETRES)
    assert "46 lb: about 4 % over" in over and "18.1 kg: about 11 % under" in under


def test_the_tracks_tell_in_words_what_they_draw_and_hatch_where_wood_comes_off() -> None:
    places = np.linspace(0.1, 0.85, 41)
    flat = np.full(41, 0.012)
    track = LimbTrack(places, 3 * flat, flat, 0 * flat, 0 * flat, flat)
    data = RulerData(
        track,
        track,
        0.04,
        0.03,
        0.008,
        0.01,
        {"upper": "take up to 0.3 mm"},
        spans={"upper": ((0.3, 0.4),)},
    )
    field = np.zeros((2, PLACES))
    field[0, 5] = 0.2
    more = TillerData(field, field - 0.05, field + 0.05, 0.001 * (field > 0), 0 * field,
                      (("lower", 0.3, 0.4),), (("upper", 0.4, 0.5),))  # fmt: skip
    drawn = str(tiller_tracks(data, more, MILLIMETRES))
    assert (
        "from +0 to +20 %" in drawn and "at most 1.00 mm to take now, 0.00 mm off so far" in drawn
    )
    assert (
        drawn.count('class="cross"') == 2
        and "pencil-stroke" in drawn
        and ">nothing</text>" in drawn
    )
    hatched = str(small_outline(data))
    assert hatched.count('class="take"') == 1
    whole = str(small_outline(replace(data, spans={})))
    assert whole.count("pencil-stroke") > 3 * hatched.count("pencil-stroke")


@pytest.mark.parametrize("act", get_args(Act))
@pytest.mark.parametrize("shown", [INCHES, MILLIMETRES])
def test_every_act_the_core_can_give_has_words_of_its_own(act: str, shown: Units) -> None:
    """No two acts are said alike, and none speaks of wood to take where nothing is to come off."""
    removals = (WHOLE,) if act in ("take", "balance") else ()
    doubt = {"doubt": "wide"} if act == "look" else {}
    said = words.say(state(act, removals, **doubt), shown, Tree())
    others = [
        words.say(
            state(
                one,
                (WHOLE,) if one in ("take", "balance") else (),
                **({"doubt": "wide"} if one == "look" else {}),
            ),
            shown,
            Tree(),
        )
        for one in get_args(Act)
        if one != act
    ]
    assert said.sentences not in [other.sentences for other in others]
    takes = any(re.match(r"Take \d", sentence) for sentence in said.sentences)
    assert takes == bool(removals), said.sentences


def test_draws_are_said_on_the_ruler_the_build_is_measured_on() -> None:
    trade = Tree(TRADE, handle_depth=1.5 * INCH)
    to_pivot, on_trade = (
        " ".join(words.say(state("take", (WHOLE,)), INCHES, tree).sentences)
        for tree in (Tree(), trade)
    )
    assert "at 20 in to the grip" in to_pivot
    assert "at 21 ¾ in trade" in on_trade and "to the grip" not in on_trade
