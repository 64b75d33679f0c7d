"""What is seen by eye: loose, fooled by natural bend as an eye is, and never argued with."""

import numpy as np
import pytest

from bowyery.bow.bow import SIDES
from bowyery.errors import UnreadableError
from bowyery.tiller.bench import BenchState, Workpiece, work_out
from bowyery.tiller.estimate import CROOKS, PLACES, crooked, estimate, few_cells, predict
from bowyery.tiller.kinds import Reading
from bowyery.tiller.kinds.eye import EYE, EYE_LIMB
from bowyery.tiller.log import History, Noted, history
from bowyery.tiller.pencil import parse, words
from bowyery.tiller.readings import read
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, Units
from tests.core.readings import PLAN, bench_bow, edges, read_off

TREE = Tree(reach=(33.5 * INCH, 33.5 * INCH))
LOOK = "string full 6, 30 at 18, 34 at 20, upper gap 6 1/4, lower gap 6 1/4"


def logged(*lines: str) -> History:
    rows = [
        Noted(s, 100 * n + k, n)
        for n, line in enumerate(lines, 1)
        for k, s in enumerate(parse(line, IMPERIAL, TREE))
    ]
    return history(rows, piece().roots)


def piece() -> Workpiece:
    found, limbs = bench_bow()
    return Workpiece(found.bow, limbs, found.wood.density, found.layout.width)


def state(*lines: str) -> BenchState:
    return work_out(piece(), logged(*lines), PLAN)


def place(state: BenchState, side: int, inches: float) -> float:
    """Log stiffness at a place against both limbs' mean."""
    length = float(bench_bow()[1].length[side, 0])
    share = (inches * INCH - piece().roots[side]) / length
    row = np.interp(share, np.linspace(0.0, 1.0, PLACES), state.now.field[side])
    return float(row - state.now.field.mean())


def test_a_stretch_called_stiff_is_believed_a_little_and_a_weak_one_is_left_alone() -> None:
    plain, stiff = state(LOOK), state(LOOK, "stiff upper 12 to 18")
    assert 0.01 < place(stiff, 0, 15) - place(plain, 0, 15) < 0.15
    assert place(stiff, 1, 15) == pytest.approx(place(plain, 1, 15), abs=0.03)
    hinge = state(LOOK, "hinge upper 16")
    assert place(hinge, 0, 16) < place(plain, 0, 16)
    root = piece().roots[0]
    assert not any(
        s.limb == "upper" and s.start + root < 16 * INCH < s.end + root for s in hinge.strokes
    )
    assert any(p.seen for p in hinge.advice.weak)
    # no wood comes off a hinge by eye even where the whole limb is far too stiff
    assert hinge.strokes and hinge.advice.act == "take"


def test_a_first_weight_that_no_such_bow_pulls_is_doubted_after_other_readings_too() -> None:
    """Gaps were read before anything was weighed; then somebody writes 200 for 20."""
    for before in ("upper deepest 6 at 12", "stiff upper 12 to 18", "upper gap 6, lower gap 6"):
        found = state(f"string full 6, {before}", "25 pulls", "200 at 20")
        assert not found.strokes and not (found.advice and found.advice.removals), before
        assert found.wild or found.trouble
        assert found.advice is None or found.advice.act == "look"


def test_several_looks_that_agree_say_more_than_one() -> None:
    """Each after wood came off: another look at another state."""
    once = state(LOOK, "stiff upper 12 to 18")
    twice = state(
        LOOK, "stiff upper 12 to 18", "off both 0.004, 25 pulls",
        LOOK.replace("30", "29").replace("34", "33"), "stiff upper 12 to 18",
    )  # fmt: skip
    assert place(twice, 0, 15) > place(once, 0, 15)


def test_marks_join_the_look_they_were_made_at_and_the_newer_word_counts() -> None:
    past = logged(LOOK, "stiff upper 12 to 18", "good lower 8 to 12", "weak upper 12 to 18")
    (check,) = past.checks
    seen = [(r.limb, r.value) for r in check.readings if r.kind == "eye"]
    assert seen == [("lower", EYE["good"][0]), ("upper", EYE["weak"][0])]
    assert {r.draw for r in check.readings if r.kind == "eye"} == {20 * INCH}
    later = logged(LOOK, "25 pulls", "stiff upper 12 to 18")
    assert len(later.checks) == 2  # exercised since: another look
    assert len(logged(LOOK, "off both 0.01", "stiff upper 12 to 18").checks) == 2


def test_by_eye_alone_little_comes_off_and_none_once_that_was_taken() -> None:
    seen = "string long 70, stiff upper 12 to 18, lower bends less"
    alone = state(seen)
    assert alone.advice.by_eye and alone.strokes
    depth = 0.5 * INCH
    assert all(3 * row.thickness / depth < 0.12 for row in alone.strokes)
    taken = state(seen, "off upper 1/16 12 to 18", "25 pulls", "stiff upper 12 to 18")
    assert taken.advice.act == "look" and not taken.strokes
    weak = state("string long 70, weak upper 12 to 18, weak lower 10 to 14")
    assert not any(row.limb == "upper" and row.start < 0.3 < row.end for row in weak.strokes)


@pytest.mark.parametrize(
    "line",
    [
        "stiff upper 10 to 14, weak upper 12 to 16",
        "hinge lower 12, good lower 8 to 20",
        "lower bends less, upper bends less",
    ],
)
def test_marks_that_contradict_one_another_are_refused(line: str) -> None:
    with pytest.raises(UnreadableError, match=r"two things of one place|cannot both be"):
        parse(line, IMPERIAL, TREE)
    assert parse("stiff upper 10 to 14, weak upper 14 to 16", IMPERIAL, TREE)
    assert parse("lower bends less, upper bends more", IMPERIAL, TREE)


def test_the_eye_sees_bend_and_is_fooled_by_a_naturally_bent_place() -> None:
    """The same wood, once straight and once with a hump to the belly there: it looks weak."""
    _, limbs = bench_bow()
    few, bow = few_cells(limbs), bench_bow()[0].bow
    asked = (
        Reading("weight", 0.0, draw=20 * INCH),
        Reading("eye", 0.0, "upper", 20 * INCH, 0.35, 0.12),
        Reading("eye limb", 0.0, "lower", 20 * INCH),
    )
    even = np.zeros((1, 2, PLACES))
    assert predict(few, bow, asked, even, False).values[0, 1:] == pytest.approx([0, 0], abs=1e-6)
    stiff = even.copy()
    stiff[0, 0, 4:7] += 0.3
    assert predict(few, bow, asked, stiff, False).values[0, 1] < -0.1
    stiff[0, 1] += 0.2
    assert predict(few, bow, asked, stiff, False).values[0, 2] < 0
    crook = np.zeros((1, 2, CROOKS))
    crook[0, 0, 2:4] = 0.25
    seen = read(crooked(few, crook), bow, asked, design=few).values[0, 1]
    assert seen > 0.08


def test_straight_edges_outweigh_a_mistaken_eye() -> None:
    """A maker calls stiff what an edge shows to be weak: the edge is believed."""
    found, limbs = bench_bow()
    field = np.zeros((1, 2, PLACES))
    field[0, 0, 4:7] -= 0.25
    asked = (
        Reading("weight", 0.0, draw=18 * INCH), Reading("weight", 0.0, draw=20 * INCH),
        *edges(20),
    )  # fmt: skip
    true = read_off(limbs, found.bow, asked, field)
    value, error = EYE["stiff"]
    mistaken = Reading("eye", value, "upper", 20 * INCH, 0.35, 0.12, error=error)
    now = estimate(limbs, found.bow, (*true, mistaken))
    assert now.field[0, 5] - now.field[1, 5] < -0.08


def test_an_unstrung_profile_tells_the_natural_bend() -> None:
    found, limbs = bench_bow()
    few = few_cells(limbs)
    crook = np.full((1, 2, CROOKS), 0.15)
    asked = tuple(
        Reading("profile", 0.0, side, at=at) for side in SIDES for at in (0.2, 0.4, 0.6, None)
    )
    lies = read(crooked(few, crook), found.bow, asked, design=few).values[0]
    assert lies[3] > 0.03 and lies[0] < lies[1] < lies[2] < lies[3]
    weights = (Reading("weight", 0.0, draw=18 * INCH), Reading("weight", 0.0, draw=20 * INCH))
    drawn = read(crooked(few, crook), found.bow, weights, design=few).values[0]
    rows = [
        Reading(r.kind, float(v), r.limb, r.draw, r.at)
        for r, v in zip((*weights, *asked), (*drawn, *lies), strict=True)
    ]
    told, untold = (
        estimate(limbs, found.bow, tuple(rows)),
        estimate(limbs, found.bow, tuple(rows[:2])),
    )
    assert told.crook.mean() == pytest.approx(0.15, abs=0.03)
    assert abs(told.common) < abs(untold.common) + 0.02
    past = logged(
        "upper lies 1/4 back at 20, upper lies 3/8 back, lower lies 1/4 back",
        LOOK, "upper lies 1/8 belly",
    )  # fmt: skip
    kinds = [r.kind for r in past.checks[0].readings]
    assert kinds.count("profile") == 4 and len(past.checks) == 1
    assert [round(one.across / INCH, 3) for one in past.lies] == [-0.25, -0.375, -0.25, 0.125]


@pytest.mark.parametrize(
    ("line", "kind", "value"),
    [
        ("37 at 22 sank 1", "weight", 37), ("upper travel 3 from 18 to 22", "tip travel", 3),
        ("upper deepest 6 1/2 at 14", "deepest place", 14),
        ("lower thick 1/2 at 12", "thickness", 0.5), ("upper wide 1 1/4 at 12", "width", 1.25),
        ("upper outline 4 at 20", "outline", 4),
    ],
)  # fmt: skip
def test_every_further_reading_reaches_the_estimate(line: str, kind: str, value: float) -> None:
    past = logged("string full 6, 30 at 18, 34 at 20", line)
    rows = [r for check in past.checks for r in check.readings if r.kind == kind]
    assert rows
    one = rows[-1]
    if kind == "weight":
        assert one.drop == pytest.approx(1 / 38) and one.at_once == pytest.approx(38 * 4.4482, 1e-3)
    elif kind == "deepest place":
        assert one.value == pytest.approx(14 * INCH - piece().roots[0])
    else:
        assert one.value == pytest.approx(value * INCH)
    if kind == "tip travel":
        assert one.draws == (pytest.approx(18 * INCH), pytest.approx(22 * INCH))
    work_out(piece(), past, PLAN)


def test_hook_tilt_brace_and_zero_brace_belong_to_the_string_that_is_on() -> None:
    past = logged("string low 3, hook 1/2 up, 20 at 10, tilt 2 lower at 10, brace 2 3/4, 24 at 12")
    (check,) = past.checks
    assert [s.hook for s in check.strings] == [0.5 * INCH] * 2
    assert check.string.at == pytest.approx(2.75 * INCH) and check.string.rung == "low"
    tilt = next(r for r in check.readings if r.kind == "tilt")
    assert np.degrees(tilt.value) == pytest.approx(-2)
    bows = check.bows(bench_bow()[0].bow, 1.7)
    assert {b.hold.support for b in bows.values()} == {"rocking cradle"}
    assert all(b.hold.nock_offset == pytest.approx(0.5 * INCH) for b in bows.values())
    zero = logged("zero brace, 14 at 8")
    assert zero.string.rung == "low" and zero.string.at == pytest.approx(0.01)
    assert logged("brace 6, 30 at 20").string.rung == "full"


def test_what_lies_across_is_kept_apart_and_the_newest_counts() -> None:
    past = logged(
        "string off 1/4 left, upper twist 4 left, upper twist 2 right, lower sideways 3/8 left"
    )
    found = {(a.kind, a.limb): a.value for a in past.asides}
    assert found["string off", None] == pytest.approx(-0.25 * INCH)
    assert np.degrees(found["twist", "upper"]) == pytest.approx(2)
    assert found["sideways", "lower"] == pytest.approx(-0.375 * INCH) and not past.checks


@pytest.mark.parametrize("world", [IMPERIAL, METRIC])
def test_what_is_seen_is_said_back(world: str) -> None:
    shown = Units(world)
    for how in EYE:
        (one,) = parse(f"{how} upper 12 to 18" if world == IMPERIAL else f"{how} upper 300 to 450",
                       world, TREE)  # fmt: skip
        said = words((one,), TREE, shown)[0]
        assert "upper limb" in said and one.how == how
    assert len(EYE_LIMB) == 2


AGAIN = "34 at 20, upper gap 6 1/4, lower gap 6 1/4"


def spared(state: BenchState, inches: float) -> bool:
    """No stroke of the upper limb crosses a place, while strokes are advised elsewhere."""
    at = inches * INCH - piece().roots[0]
    assert state.advice is not None and state.strokes, state.advice
    return not any(s.limb == "upper" and s.start < at < s.end for s in state.strokes)


def test_a_mark_stays_on_the_wood_until_its_place_is_seen_to_bend_well() -> None:
    marked = (LOOK, "hinge upper 16", "off lower 10 strokes with scraper, 25 pulls", AGAIN)
    assert spared(state(*marked), 16) and spared(state(*marked, "25 pulls", AGAIN), 16)
    assert not spared(state(*marked, "good upper 12 to 20"), 16)
    assert spared(state(*marked, "good upper 20 to 26"), 16)  # another place


def test_an_edge_that_reads_high_spares_its_place_until_an_edge_is_laid_there_again() -> None:
    high = f"{LOOK}, upper edge 7/64 at 9, 7/64 at 12, 3/16 at 16, 7/64 at 20, 7/64 at 24"
    assert spared(state(high), 16)
    after = (high, "off lower 10 strokes with scraper, 25 pulls", AGAIN)
    assert spared(state(*after), 16)
    laid_again = state(*after[:2], f"{AGAIN}, upper edge 7/64 at 16")
    assert laid_again.advice is not None and not any(p.seen for p in laid_again.advice.weak)
