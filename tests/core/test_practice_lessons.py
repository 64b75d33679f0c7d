"""What each lesson says on the way to having seen its one thing: always the next thing to do."""

from dataclasses import replace
from itertools import pairwise

import pytest

from bowyery.bow.bow import SIDES
from bowyery.practice.lessons import BY_KEY, LESSONS, Measure
from bowyery.practice.players import by_advice
from bowyery.practice.session import Act, State, begin, do, play
from bowyery.practice.worlds import PracticeError
from bowyery.units.quantity import Units

INCHES, METRIC = Units("imperial"), Units("metric")
PULL, DOWN, OFF = Act("pull", value=0.4), Act("down"), Act("scrape", value=10.0, how="scraper")
FEW, ENOUGH = Act("exercise", value=5.0), Act("exercise", value=25.0)
EDGES, PROFILE, AWRY = (Act("read", how=what) for what in ("edges", "profile", "string"))
FULL, LOW, LONG = (Act("string", how=what) for what in ("full", "low", "long"))


def measured(key: str, *acts: Act, shown: Units = INCHES) -> Measure:
    """How far a lesson has come after some acts on its stave."""
    return BY_KEY[key].measure(play(BY_KEY[key].setup, acts), shown)


def hidden(key: str) -> tuple[str, float, float]:
    """Limb and stretch, from the centre, of what a lesson hides."""
    state = begin(BY_KEY[key].setup)
    limb, start, end, _ = state.hidden.places[0]
    root = state.roots[SIDES.index(limb)]
    return limb, start + root, end + root


def other(limb: str) -> str:
    return SIDES[1 - SIDES.index(limb)]  # type: ignore[call-overload,no-any-return]


@pytest.mark.parametrize(
    ("key", "acts", "words"),
    [
        ("stiff-place", (), "Nothing is marked yet"),
        ("natural-bend", (), "Read how it lies unstrung first"),
        ("natural-bend", (PROFILE,), "Read it with the straight edge first"),
        ("natural-bend", (PROFILE, PULL, EDGES), "Mark good what bends well"),
        (
            "natural-bend",
            (PROFILE, PULL, EDGES, Act("mark", "upper", 0.3, 0.4, how="stiff")),
            "the wood is even there",
        ),
        ("wait", (), "Take wood off 2 times"),
        ("wait", (OFF,), "Give it twenty short pulls"),
        ("wait", (OFF, FEW), "Give it twenty short pulls"),
        ("wait", (OFF, FEW, PULL), "That look came before twenty pulls"),
        ("wait", (OFF, ENOUGH), "Now pull it and look"),
        ("wait", (OFF, ENOUGH, PULL, DOWN), "Take wood off once more"),
        ("wait", (OFF, ENOUGH, PULL, DOWN, ENOUGH, PULL), "Take wood off once more"),
        ("weight", (), "never past"),
        ("weight", (Act("pull", value=0.35),), "So far it came to"),
        ("weight", (Act("pull", value=0.6),), "more than the"),
        ("limbs", (), "See which limb is the stiffer one"),
        ("limbs", (Act("scrape", value=3.0),), "They do not bend alike yet"),
        ("string", (LONG,), "shows on a braced bow"),
        ("string", (LOW,), "Read first where the string lies"),
        ("string", (LOW, AWRY), "does not lie over the middle yet"),
        ("too-light", (), "Shorten both ends or heat the belly"),
        ("too-light", (Act("cut", value=0.002),), "still too light"),
        ("too-light", (Act("heat", how="golden"),), "still too light"),
        ("too-light", (Act("cut", value=0.12), LOW), "too heavy"),
        ("sinew", (), "Read how it lies unstrung"),
        ("sinew", (PROFILE,), "See which limb is the stiffer one"),
        ("full-bow", (), "Read what it says on the long string"),
        ("full-bow", (OFF,), "Brace it low as soon as"),
    ],
    ids=lambda one: one if isinstance(one, str) else "",
)
def test_each_lesson_says_what_is_next(key: str, acts: tuple[Act, ...], words: str) -> None:
    found = measured(key, *acts)
    assert words in found.words and not found.reached
    assert 0 <= found.share < 1


@pytest.mark.parametrize("key", ["stiff-place", "hinge"])
def test_what_is_hidden_is_found_by_whoever_marks_it_and_little_else(key: str) -> None:
    limb, start, end = hidden(key)
    how = "stiff" if key == "stiff-place" else "hinge"

    def mark(on: str, low: float, high: float) -> Act:
        return Act("mark", on, low, high, how=how)

    there = mark(limb, start, end)
    assert measured(key, there).reached and limb in measured(key, there).words
    assert "not that place" in measured(key, mark(other(limb), start, end)).words
    guesses = [mark(other(limb), low, low + 0.05) for low in (0.2, 0.4, 0.6)]
    assert "take the marks off" in measured(key, there, *guesses).words
    wider = mark(limb, start - 0.02, end + 0.02)
    assert measured(key, wider).reached
    assert not measured(key, mark(limb, 0.15, 0.8)).reached
    assert not measured(key, Act("mark", limb, start, end, how="good")).reached


def test_wood_off_a_hinge_is_seen_wherever_the_stretch_begins() -> None:
    limb, start, end = hidden("hinge")
    there = Act("mark", limb, start, end, how="hinge")
    for low, high in ((None, None), (start - 0.1, start + 0.01), (end - 0.01, end + 0.1)):
        off = Act("scrape", limb, low, high, 5.0, "scraper")
        assert "came off the hinge itself" in measured("hinge", there, off).words
    beside = Act("scrape", limb, end + 0.05, end + 0.15, 5.0, "scraper")
    across = Act("scrape", other(limb), start, end, 5.0, "scraper")
    assert measured("hinge", there, beside, across).reached


def test_half_of_what_bends_well_is_told_by_its_share() -> None:
    marks: list[Act] = []
    before = measured("natural-bend", PROFILE, PULL, EDGES, DOWN).share
    for limb in SIDES:
        for low in (0.15, 0.35, 0.55):
            marks.append(Act("mark", limb, low, low + 0.19, how="good"))
            found = measured("natural-bend", PROFILE, PULL, EDGES, DOWN, *marks)
            assert found.share >= before
            before = found.share
    assert found.reached


def test_limbs_that_agree_are_not_enough_of_a_bow_that_has_lost_its_weight() -> None:
    """By an even hand: one limb until they agree, then both until little is left."""
    lesson = BY_KEY["limbs"]
    state = begin(replace(lesson.setup, errors=False))
    words = ""
    for limb in SIDES:
        tried = state
        for _ in range(25):
            tried = do(tried, Act("scrape", limb, value=4.0, how="scraper"))
            if lesson.measure(tried, INCHES).reached:
                state = tried
                break
    assert lesson.measure(state, INCHES).reached
    for _ in range(12):
        state = do(state, Act("scrape", value=15.0, how="file"))
        words = lesson.measure(state, METRIC).words
        if "lost too much" in words:
            break
    assert words == "They bend alike, but the bow has lost too much of its weight."


def test_the_whole_bow_goes_rung_by_rung() -> None:
    """As the advice makes it; the lesson never falls back on the way, until it is done."""
    setup = BY_KEY["full-bow"].setup
    state: State = begin(setup)
    shares, words = list[float](), set[str]()
    for act in by_advice(setup)[:-1]:
        state = do(state, act)
        for shown in (INCHES, METRIC):
            found = BY_KEY["full-bow"].measure(state, shown)
            words.add(found.words.partition(" as far as")[0])
        shares.append(found.share)
    assert shares[-1] == 1 and shares[0] < 0.3
    assert {"Bring it to full brace.", "Draw it on its full brace"} <= words
    falls = [after - before for before, after in pairwise(shares)]
    assert min(falls) > -0.25


@pytest.mark.parametrize("lesson", LESSONS, ids=lambda one: one.key)
def test_a_lesson_is_told_in_both_worlds_and_in_sentences(lesson) -> None:  # type: ignore[no-untyped-def]
    assert all(one.endswith(".") for one in (lesson.see, lesson.task, lesson.hint))
    state = begin(lesson.setup)
    for act in (Act("string", how="full"), *(Act("pull", value=0.1 * k) for k in range(3, 10))):
        if state.broke is None and act.kind == "string":
            state = _or_as_it_was(state, act)
        elif state.broke is None:
            state = do(state, act)
        for shown in (INCHES, METRIC):
            found = lesson.measure(state, shown)
            assert found.words.endswith(".") and 0 <= found.share <= 1
    if state.broke is not None and lesson.key in ("too-light", "full-bow"):
        assert "broke" in found.words


def _or_as_it_was(state: State, act: Act) -> State:
    """After an act, where it can be done."""
    try:
        return do(state, act)
    except PracticeError:
        return state
