"""Whatever anybody does to a practice stave is done, or answered with a sentence; nothing that
follows is absurd.
"""

import json
from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.bow import SIDES
from bowyery.errors import BowyeryError
from bowyery.practice.debrief import debrief, outcome, true_weight
from bowyery.practice.lessons import BY_KEY
from bowyery.practice.picture import poses, shape_now
from bowyery.practice.session import (
    ACTS,
    COLOURS,
    MARKS,
    READS,
    Act,
    State,
    advised,
    begin,
    do,
    level,
    needed,
    play,
)
from bowyery.practice.words import act_words, said_words, state_words
from bowyery.practice.worlds import PATTERNS, TROUBLES, WOODS, PracticeError, Setup
from bowyery.tiller.bite import TOOLS
from bowyery.units.quantity import Units

pytestmark = pytest.mark.slow

WORLDS = Units("imperial"), Units("metric")
ABSURD = ("nan", "inf", "None", "-0 ", "Error")


def any_setup(rng: np.random.Generator) -> Setup:
    """Any stave that there is."""
    trouble = str(rng.choice(list(TROUBLES)))
    pattern = "sinew" if trouble == "sinew" else str(rng.choice(list(PATTERNS)))
    wood = str(rng.choice(list(WOODS)))
    return Setup(pattern, wood, trouble, int(rng.integers(1, 1000)), bool(rng.integers(2)))


def any_act(rng: np.random.Generator, state: State) -> Act:
    """What somebody may do next, sensibly or not."""
    kind = str(rng.choice([one for one in ACTS if one != "finish"]))
    if state.held is not None and rng.uniform() < 0.4:
        kind = "down"
    value, how, edge = None, "", ""
    start = end = None
    limb = str(rng.choice(["", *SIDES]))
    if kind == "pull":
        value = float(rng.choice([0.2, 0.4, 0.5, 0.6, 0.7, 0.9]) * rng.uniform(0.9, 1.1))
        end = (None, 0.0, 0.8 * value)[rng.integers(3)]
    elif kind in ("scrape", "guess"):
        value, how = float(rng.integers(1, 80)), str(rng.choice(list(TOOLS)))
        edge = str(rng.choice(["", "", "left", "right"])) if kind == "scrape" else ""
    elif kind in ("exercise", "hold"):
        value = float(rng.integers(1, 100))
    elif kind == "mark":
        how = str(rng.choice(MARKS))
    elif kind == "read":
        how = str(rng.choice(READS))
    elif kind == "string":
        how = str(rng.choice(["long", "low", "full"]))
        value = (None, 0.05, 0.12, 0.2)[rng.integers(4)]
    elif kind == "cut":
        value = float(rng.uniform(0.002, 0.15))
    elif kind == "heat":
        how, value = str(rng.choice(list(COLOURS))), (None, 0.03, -0.03)[rng.integers(3)]
    elif kind == "wait":
        value = float(rng.choice([0.5, 5, 100, 2000]))
    if kind in ("scrape", "guess", "mark", "read") and rng.integers(2):
        start, end = (float(one) for one in rng.uniform(0, 1, 2))
    return Act(kind, limb, start, end, value, how, edge)


def is_sound(state: State) -> None:
    """A state that a bow can be in, and words about it that can be read out."""
    stave = state.stave
    for rows in (stave.thickness, stave.set, stave.logs, state.use, state.strength, state.lean):
        assert np.isfinite(rows).all()
    assert (stave.thickness > 0).all() and (stave.set >= -1e-9).all()
    assert (state.strength > 0).all() and (state.strength <= 1 + 1e-9).all()
    assert (state.use >= 0).all() and state.longest >= 0 and state.heaviest < 2000
    assert state.held is None or 0 < state.held < 1.5
    for one in state.said:
        assert one.value is None or np.isfinite(one.value)
        if one.kind in ("weight", "thickness"):
            assert one.value is not None and one.value > 0
    for shown in WORLDS:
        words = [state_words(state, shown), *said_words(state, shown)]
        assert not [one for one in words if any(odd in one for odd in ABSURD)]


@pytest.mark.parametrize("seed", range(40))
def test_whatever_is_done_is_done_or_answered(seed: int) -> None:
    rng = np.random.default_rng([77, seed])
    setup = any_setup(rng)
    state, acts = begin(setup), list[Act]()
    for _ in range(40):
        act = any_act(rng, state)
        try:
            after = do(state, act)
        except PracticeError as refusal:
            assert str(refusal).endswith("."), refusal
            assert not any(odd in str(refusal) for odd in ABSURD)
            continue
        acts.append(act)
        assert after.step == state.step + 1 == len(acts)
        assert after.noted[: len(state.noted)] == state.noted  # what stands in a log stays there
        for shown in WORLDS:
            assert act_words(act, shown, after)
        state = after
        is_sound(state)
        if state.broke is not None:
            with pytest.raises(PracticeError, match="It is broken"):
                do(state, Act("exercise", value=5.0))
            break
    json.dumps(poses(state), allow_nan=False)
    shape = shape_now(state)
    assert shape is None or all(np.isfinite(one).all() for one in shape)
    try:
        advised(state)
    except BowyeryError as why:
        assert str(why)
    acts.append(Act("finish"))
    state = do(state, acts[-1])
    told = debrief(setup, acts, WORLDS[seed % 2])
    assert len(told.sentences) <= 3
    for one in told.sentences:
        assert one.endswith(".") and not any(odd in one for odd in ABSURD)
    assert told.outcome == outcome(state)
    again = play(setup, [Act.of_data(json.loads(json.dumps(one.as_data()))) for one in acts])
    assert again.noted == state.noted and again.broke == state.broke
    assert np.array_equal(again.stave.thickness, state.stave.thickness)


def test_a_bow_that_its_string_cannot_carry_is_told_so_and_can_be_gone_on_with() -> None:
    """The outer half of one limb scraped to a quarter folds once what came off shows."""
    state = begin(Setup("short", "european yew", "clear", 8, False))
    for act in (Act("string", how="full"), Act("read", how="string")):
        state = do(state, act)
    for _ in range(5):
        state = do(state, Act("scrape", "lower", 0.45, None, 200.0, "drawknife"))
    assert true_weight(state) is None and outcome(state).off is None
    state = replace(state, stave=state.stave.changed(pending=0 * state.stave.pending))
    for act in (Act("pull", value=0.5), Act("exercise", value=10.0), Act("read", how="string")):
        with pytest.raises(PracticeError, match="put another one on") as why:
            do(state, act)
        assert str(why.value).endswith(".")
    for key in ("string", "too-light", "weight", "limbs"):
        measure = BY_KEY[key].measure(state, WORLDS[0])
        assert not measure.reached and measure.words.endswith(".")
    assert not poses(state)["draws"] and shape_now(state) is None
    assert debrief(state.setup, [], WORLDS[0]).sentences is not None
    long = do(state, Act("string", how="long"))
    is_sound(do(long, Act("pull", value=0.3)))


def test_what_is_needed_follows_the_string_that_will_be_on() -> None:
    """It does not matter for what is still to come off which string is on now."""
    state = begin(Setup("flatbow", "european ash", "stiff", 9))
    braced = do(state, Act("string", how="low"))
    assert level(braced) == pytest.approx(level(state), abs=0.01)
    assert needed(braced) == pytest.approx(needed(state), abs=2e-4)


@pytest.mark.parametrize("pattern", sorted(PATTERNS))
def test_more_wood_off_never_makes_a_bow_stronger(pattern: str) -> None:
    state = begin(Setup(pattern, "european ash", "clear", 4, False))
    before = true_weight(state)
    for _ in range(3):
        state = do(state, Act("scrape", value=40.0, how="file"))
        after = true_weight(state)
        assert before is not None and after is not None and after < before
        before = after


@pytest.mark.parametrize("trouble", sorted(TROUBLES))
def test_what_is_hidden_is_the_same_for_whoever_has_the_seed(trouble: str) -> None:
    pattern = "sinew" if trouble == "sinew" else "flatbow"
    mine, yours = (begin(Setup(pattern, "hazel", trouble, 12)) for _ in range(2))
    other = begin(Setup(pattern, "hazel", trouble, 13))
    assert np.array_equal(mine.stave.wood, yours.stave.wood)
    assert mine.hidden.places == yours.hidden.places
    assert not np.array_equal(mine.stave.wood, other.stave.wood)


def test_readers_without_errors_read_what_is() -> None:
    setup = Setup("flatbow", "rowan", "clear", 21, False)
    one, two = (
        play(setup, [Act("pull", value=0.5), Act("read", how="weight"), Act("read", how="tips")])
        for _ in range(2)
    )
    assert one.noted == two.noted
    true = play(setup, [Act("pull", value=0.5)])
    weight = next(n.statement for n in one.noted if n.statement.kind == "weight")
    assert weight.value == pytest.approx(true.heaviest, rel=0.01)
    hands = play(replace(setup, errors=True), [Act("pull", value=0.5), Act("read", how="weight")])
    shaken = next(n.statement for n in hands.noted if n.statement.kind == "weight")
    assert shaken.value != weight.value
