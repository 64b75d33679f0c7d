"""Practice at its edges: green and crooked staves, one limb cut, frets, long sessions."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.bow import SIDES
from bowyery.practice.debrief import debrief, film, smoothed, true_weight
from bowyery.practice.lessons import LESSONS
from bowyery.practice.picture import NODES, POSES, poses, shape_now
from bowyery.practice.players import Player, by_advice, by_rule
from bowyery.practice.session import (
    COLOURS,
    MOST_ACTS,
    Act,
    begin,
    do,
    drawn,
    goes_at,
    plan_of,
    play,
    sunk,
)
from bowyery.practice.words import act_words, said_words, state_words
from bowyery.practice.worlds import CELLS, PATTERNS, TROUBLES, PracticeError, Setup, waves
from bowyery.units.quantity import Units

INCHES, METRIC = Units("imperial"), Units("metric")
CLEAR = Setup("flatbow", "european ash", "clear", 3)


def _pulled_out(setup: Setup, strokes: float) -> Player:
    """Scraped all along, braced low and pulled further and further, until it goes or the wall."""
    one = Player(begin(setup))
    one.do("scrape", value=strokes, how="scraper")
    one.do("exercise", value=25.0)
    one.do("string", how="low")
    draw = 0.35
    while one.state.broke is None and draw < 0.8:
        one.do("pull", value=draw)
        if one.state.broke is None:
            one.do("down")
        draw += 0.004
    return one


def test_frets_run_across_a_belly_before_it_is_crushed_and_weaken_it() -> None:
    found = _pulled_out(Setup("short", "rowan", "green", 4), 5.0).state
    assert found.hidden.crush < 1 and found.frets
    limb, at = found.frets[0]
    assert found.strength.min() < 1 and found.strength.max() == pytest.approx(1)
    node = int(found.strength[SIDES.index(limb)].argmin())
    place = found.stave.limbs.places()[SIDES.index(limb), 0, node]
    assert place + found.roots[SIDES.index(limb)] == pytest.approx(at, abs=0.15)
    assert found.broke is not None and not found.broke.back
    assert "crushed" in state_words(found, METRIC)
    fretted = replace(found, broke=None)
    assert "frets on the" in state_words(fretted, METRIC)


def test_a_stave_that_is_not_dry_takes_more_set() -> None:
    kept = {}
    for trouble in ("clear", "green"):
        one = Player(begin(Setup("flatbow", "hazel", trouble, 4, False)))
        one.do("pull", value=0.68)
        kept[trouble] = float(one.state.stave.set.max())
    assert kept["green"] > 1.5 * kept["clear"]


def test_cut_at_one_end_a_bow_is_lopsided_and_can_be_gone_on_with() -> None:
    one = Player(begin(CLEAR))
    one.do("cut", value=0.05, limb="lower")
    state = one.state
    assert state.reach(1) == pytest.approx(state.reach(0) - 0.05, abs=0.002)
    one.do("scrape", value=5.0, limb="lower")
    one.do("pull", value=0.4)
    one.do("read", how="tips")
    fallen = {s.limb: s.value for s in one.state.said}
    assert fallen["upper"] is not None and fallen["lower"] is not None
    assert fallen["upper"] > fallen["lower"]  # the shorter limb is the stiffer one
    with pytest.raises(PracticeError, match="lie on the limb"):
        one.do("mark", limb="lower", start=0.86, end=0.9, how="good")


def test_wood_stays_where_it_is_when_a_bow_is_cut() -> None:
    """What was weak at a place from the centre is weak there still."""
    one = Player(begin(Setup("flatbow", "wych elm", "hinge", 6, False)))
    before = one.state.stave
    limb, start, end, _ = one.state.hidden.places[0]
    side, middle = SIDES.index(limb), 0.5 * (start + end)

    def weakest(stave) -> float:  # type: ignore[no-untyped-def]
        return float(np.interp(middle, stave.limbs.places()[side, 0], stave.wood[side]))

    one.do("cut", value=0.04)
    assert weakest(one.state.stave) == pytest.approx(weakest(before), abs=0.03)


def test_a_session_has_an_end() -> None:
    state = begin(CLEAR)
    for _ in range(MOST_ACTS):
        state = do(state, Act("guess", value=1.0))
    with pytest.raises(PracticeError, match="long enough"):
        do(state, Act("guess", value=1.0))
    assert do(state, Act("finish")).over


def test_short_looks_at_a_short_draw_do_not_add_up_to_set() -> None:
    """What is held at a draw keeps what that draw is worth, however often it is held."""
    one = Player(begin(replace(CLEAR, errors=False)))
    one.do("pull", value=0.62, end=0.05)
    before = one.state.stave.set.copy()
    for _ in range(20):
        one.do("pull", value=0.36)
        one.do("read", how="edges")
        one.do("down")
    assert np.array_equal(one.state.stave.set, before)


def test_a_night_in_pieces_sets_a_bow_as_a_whole_one_does() -> None:
    kept = []
    for waits in ((96.0,), (24.0, 24.0, 48.0), (2.0,) * 48):
        one = Player(begin(CLEAR))
        one.do("pull", value=0.6)
        one.do("down")
        one.do("scrape", value=20.0, how="rasp")
        one.do("string", how="low")
        before = one.state.stave.set
        for hours in waits:
            one.do("wait", value=hours)
        assert before.max() > 0
        kept.append(float(one.state.stave.set.max() / before.max()))
    assert kept[0] > 1.1
    assert kept[1:] == pytest.approx([kept[0]] * 2)


def test_a_pull_beyond_what_comes_is_told_as_it_came() -> None:
    one = Player(begin(CLEAR))
    act = Act("pull", value=3.0)
    state = do(one.state, act)
    assert 0.3 < state.reached < 1.3
    words = act_words(act, METRIC, state)
    assert METRIC.length(state.reached) in words
    assert ("broke" if state.broke else "no further") in words
    usual = Act("pull", value=0.5)
    assert act_words(usual, METRIC, do(one.state, usual)) == "pulled to 500 mm"


def test_calipers_are_set_where_they_are_asked_for() -> None:
    """A straight edge lies wholly on the limb; calipers reach its very ends."""
    one = Player(begin(CLEAR))
    root, reach = one.state.roots[0], one.state.reach(0)
    for at in (root, root + 0.03, reach):
        one.do("read", how="thickness", limb="upper", start=at, end=at)
        (said,) = one.state.said
        assert said.start == pytest.approx(at)
        true = np.interp(at, one.state.from_centre[0], one.state.stave.thickness[0])
        assert said.value == pytest.approx(float(true), abs=0.001)
    one.do("pull", value=0.4)
    one.do("read", how="edge", limb="upper", start=root, end=root)
    (said,) = one.state.said
    assert said.start == pytest.approx(root)


def test_where_the_string_lies_is_a_reading_like_others() -> None:
    one = Player(begin(CLEAR))
    one.do("pull", value=0.4)
    one.do("read", how="string")
    assert one.state.seconds > 0
    one.do("down")
    assert one.state.blind == 0


def test_scraping_never_goes_through_the_limb() -> None:
    one = Player(begin(CLEAR))
    for _ in range(12):
        one.do("scrape", value=200.0, how="drawknife", limb="upper")
    thin = one.state.stave.thickness[0] / one.state.stave.limbs.depth[0, 0]
    assert thin.min() == pytest.approx(0.25)
    assert np.isfinite(poses(one.state)["rest"]["along"]).all()


@pytest.mark.parametrize("colour", COLOURS)
def test_darker_heat_costs_strength(colour: str) -> None:
    one = Player(begin(CLEAR))
    one.do("heat", how=colour)
    lost = 1 - one.state.strength.min()
    assert lost == pytest.approx({"golden": 0.01, "brown": 0.04, "dark": 0.10}[colour])


def test_reflex_put_in_lies_to_the_back_and_springs_back_in_part() -> None:
    one = Player(begin(replace(CLEAR, errors=False)))
    one.do("read", how="profile")
    before = {s.limb: s.value for s in one.state.said}
    one.do("heat", how="golden", value=0.03)
    one.do("read", how="profile")
    for s in one.state.said:
        moved = (before[s.limb] or 0.0) - (s.value or 0.0)
        assert 0.008 < moved < 0.031


def test_waiting_forgets_what_was_scraped_and_a_strung_bow_follows_its_string() -> None:
    one = Player(begin(replace(CLEAR, errors=False)))
    one.do("scrape", value=30.0)
    hidden = one.state.stave.pending.max()
    one.do("wait", value=72.0)
    assert one.state.stave.pending.max() < 0.1 * hidden
    one.do("string", how="low")
    one.do("pull", value=0.62, end=0.05)
    kept = one.state.stave.set.max()
    one.do("wait", value=24.0)
    assert one.state.stave.set.max() > 1.05 * kept > 0


@pytest.mark.parametrize("pattern", PATTERNS)
def test_a_picture_of_every_bow_is_whole(pattern: str) -> None:
    trouble = "sinew" if pattern == "sinew" else "crook"
    state = begin(Setup(pattern, "black locust", trouble, 5))
    seen = poses(state)
    assert np.shape(seen["along"]) == (POSES, 2, NODES) == np.shape(seen["use"])
    assert np.shape(seen["places"]) == (2, NODES)
    assert seen["held"] is None and len(seen["draws"]) == POSES
    # the tips come down and in as it is pulled
    tips = np.array(seen["across"])[:, :, -1]
    assert (np.diff(tips, axis=0) > 0).all()
    shape = shape_now(state)
    assert shape is not None and shape[0].shape == (2, CELLS + 1)
    held = do(state, Act("pull", value=float(seen["draws"][10])))
    bent = shape_now(held)
    assert bent is not None and bent[1][0, -1] > shape[1][0, -1]


def test_where_it_breaks_the_picture_and_the_act_agree() -> None:
    """The hand sees it go at the draw at which the shop will say it went."""
    one = Player(begin(Setup("flatbow", "rowan", "hinge", 23)))
    one.do("scrape", value=60.0)
    one.do("exercise", value=30.0)
    one.do("string", how="full")
    breaks = poses(one.state)["breaks"]
    assert breaks is not None
    near = do(one.state, Act("pull", value=breaks - 0.006))
    assert near.broke is None
    gone = do(one.state, Act("pull", value=breaks + 0.004))
    assert gone.broke is not None and gone.broke.draw == pytest.approx(breaks, abs=0.003)
    assert shape_now(gone) is None


def test_a_hold_sinks_ever_more_slowly() -> None:
    lost = np.diff([sunk(seconds) for seconds in (0, 10, 20, 30, 40)])
    assert (lost < 0).all() and (np.diff(lost) > 0).all()
    assert 0.96 < sunk(600) < 0.98


def test_waves_have_the_spread_that_is_asked_for() -> None:
    rng = np.random.default_rng(5)
    at = np.linspace(0, 0.8, 97)
    rows = np.stack([waves(at, 0.05, rng) for _ in range(200)])
    assert rows.std() == pytest.approx(0.05, rel=0.1)


def test_what_a_hand_feels_keeps_what_is_even() -> None:
    assert smoothed(np.full((2, CELLS + 1), 0.3)) == pytest.approx(0.3)


def test_a_film_has_a_picture_for_every_act() -> None:
    acts = by_rule(CLEAR)
    frames = film(CLEAR, acts)
    assert [one.step for one in frames] == list(range(len(acts) + 1))
    assert np.array_equal(frames[-1].state.stave.thickness, play(CLEAR, acts).stave.thickness)
    for one in frames[::9]:
        if one.act is not None:
            for shown in (INCHES, METRIC):
                assert act_words(one.act, shown)
                assert all(row.strip() for row in said_words(one.state, shown))


@pytest.mark.parametrize("trouble", [one for one in TROUBLES if one != "sinew"])
def test_nobody_is_told_absurd_things_afterwards(trouble: str) -> None:
    """Whatever a careless learner does: sentences with figures in bounds, in both worlds."""
    setup = Setup("pyramid", "wych elm", trouble, 31)
    one = Player(begin(setup))
    steps = (
        Act("pull", value=0.4), Act("down"), Act("scrape", value=80, how="rasp", limb="upper"),
        Act("pull", value=0.45), Act("hold", value=90), Act("down"),
        Act("scrape", value=40, how="rasp", start=0.3, end=0.5), Act("string", how="full"),
        Act("pull", value=0.9),
    )  # fmt: skip
    for act in steps:
        if one.state.broke is None:
            try:
                one.state = do(one.state, act)
                one.acts.append(act)
            except PracticeError:
                continue
    for shown, unit in ((INCHES, " in"), (METRIC, " mm")):
        told = debrief(setup, one.acts, shown)
        assert 1 <= len(told.sentences) <= 3
        for sentence in told.sentences:
            assert sentence[0].isupper() and sentence.endswith(".")
            assert "nan" not in sentence and "inf" not in sentence and "-" not in sentence[:2]
        assert any(unit in sentence or "looks" in sentence for sentence in told.sentences)
        assert 0 <= told.outcome.even <= 1 and -0.01 < told.outcome.set < 0.4
        if told.certain is not None:
            assert told.state.broke is not None and told.certain < told.state.broke.step


def test_a_light_bow_in_the_advisers_hands_is_shortened() -> None:
    setup = Setup("flatbow", "european yew", "light", 61)
    first = true_weight(begin(setup))
    last = play(setup, by_advice(setup))
    weight = true_weight(last)
    assert first is not None and weight is not None and last.broke is None
    assert last.cuts and weight > first
    assert abs(weight - plan_of(last).stop_at) < 0.5 * abs(first - plan_of(last).stop_at)


def test_lessons_have_staves_of_their_own() -> None:
    assert len({one.key for one in LESSONS}) == len(LESSONS) == 10
    assert all(one.setup.lesson == one.key for one in LESSONS)
    for one in LESSONS:
        state = begin(one.setup)
        pulled = drawn(state, 0.5 * state.full_draw)
        assert goes_at(pulled) is None, one.key  # nothing goes at half a draw, untouched
