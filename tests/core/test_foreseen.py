"""What the tiller foresees, what it may not touch, and that it always knows a next step."""

import argparse
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, Asked
from bowyery.cli.tiller import tiller
from bowyery.errors import UnreadableError
from bowyery.mechanics.strain import SetShare
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import Workpiece, work_out
from bowyery.tiller.chance import chance_of, odds
from bowyery.tiller.estimate import CROOKS, FAR, PLACES, even_estimate, first_belief
from bowyery.tiller.keeping import kept
from bowyery.tiller.kinds import READINGS, Reading
from bowyery.tiller.log import Noted, StringOn, history
from bowyery.tiller.narrow import Narrow
from bowyery.tiller.pencil import draw_at_hand, parse, words
from bowyery.tiller.readings import draw_of_tips, read
from bowyery.tiller.rulers import Ruler, Rulers
from bowyery.tiller.statements import Tree
from bowyery.tiller.words import say
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, POUND_FORCE, Units
from tests.core.readings import FULL, PLAN, asked, bench_bow, read_off, reads

TREE = Tree(reach=(33.5 * INCH, 33.5 * INCH))
UPPER_AT = 0.34


def piece() -> Workpiece:
    found, limbs = bench_bow()
    return Workpiece(found.bow, limbs, 680.0, float(found.bow.upper.width.max()))


def told(*lines: str, plan: Plan = PLAN):
    """The state after some lines of a log, in inches and pounds."""
    noted: list[Noted] = []
    for number, line in enumerate(lines, 1):
        at_hand = replace(TREE, draw=draw_at_hand(one.statement for one in noted))
        for said in parse(line, IMPERIAL, at_hand):
            noted.append(Noted(said, len(noted) + 1, number))
    past = history(noted, piece().roots)
    return work_out(piece(), past, replace(plan, braced=past.braced))


def weights(stiff: float, *draws: float) -> str:
    """Weights of even limbs so many times as stiff as the design, as a line."""
    rows = reads(stiff, stiff, tuple(Reading("weight", 0.0, draw=d * INCH) for d in draws))
    return ", ".join(
        f"{r.value / POUND_FORCE:.1f} at {d:g}" for r, d in zip(rows, draws, strict=True)
    )


# the pencil line


@pytest.mark.parametrize(
    ("line", "kind", "value", "how"),
    [
        ("about 55 at 19", "weight", 55 * POUND_FORCE, "about"),
        ("55ish at 19", "weight", 55 * POUND_FORCE, "about"),
        ("50 or 60 at 19", "weight", 55 * POUND_FORCE, "about"),
        ("tips level at 19", "tips apart", 0.0, ""),
        ("right comes down 1 more at 19", "tips apart", INCH, ""),
        ("lower tip comes down 1 more at 19", "tips apart", -INCH, ""),
        ("upper travel 5 to 18", "tip height", 5 * INCH, ""),
        ("12 shots", "shots", 12, ""),
        ("30 tugs", "pulls", 30, ""),
        ("edges rounded", "rounded", None, ""),
        ("bark off", "peeled", None, "bark"),
        ("sapwood off 1/8", "peeled", INCH / 8, "sapwood"),
        ("sanded", "sanded", None, ""),
        ("both 30 strokes", "strokes", 30, ""),
        ("off both 30 strokes scraper", "strokes", 30, ""),
        ("off both 30 strokes scraper 10 to 14", "strokes", 30, ""),
        ("off both 30 strokes 10 to 14 scraper", "strokes", 30, ""),
        ("30 strokes off both with rasp 10 to 14", "strokes", 30, ""),
        ("crack upper 11", "mark", None, "crack"),
        ("leave alone lower 8 to 10", "mark", None, "leave"),
        ("later backing sinew 1/16", "backing", INCH / 16, "sinew"),
    ],
)
def test_it_is_read_as_makers_write(line: str, kind: str, value: float | None, how: str) -> None:
    (said,) = parse(line, IMPERIAL, TREE)
    assert (said.kind, said.how) == (kind, how)
    assert said.value == (None if value is None else pytest.approx(value))
    assert all(words((said,), TREE, Units(world))[0] for world in (IMPERIAL, METRIC))


def test_a_follow_is_of_both_limbs_and_a_tool_is_named_wherever_it_stands() -> None:
    rows = parse("followed 3/4 after shooting", IMPERIAL, TREE)
    assert [(s.kind, s.limb, s.value) for s in rows] == [
        ("profile", "upper", pytest.approx(0.75 * INCH)),
        ("profile", "lower", pytest.approx(0.75 * INCH)),
    ]
    for line in ("off both 30 strokes scraper 10 to 14", "off both 30 strokes 10 to 14 scraper"):
        (said,) = parse(line, IMPERIAL, TREE)
        assert said.tool == "scraper" and said.start == pytest.approx(10 * INCH)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("weight 37 lb", "does not say at which draw"),
        ("20 or 60 at 19", "too far apart"),
        ("later 20 at 19", "is no act that changes a bow"),
        ("upper egde 3/32 at 12", "upper edge 3/32 at 12 and 1/16 at 18"),
        ("sapwood off", "does not say how much"),
    ],
)
def test_what_cannot_be_read_shows_the_nearest(line: str, says: str) -> None:
    with pytest.raises(UnreadableError, match=says):
        parse(line, IMPERIAL, TREE)


def test_an_edge_line_belongs_to_the_pull_of_the_weight_line_before_it() -> None:
    weight = parse("37 at 22", IMPERIAL, TREE)
    at_hand = replace(TREE, draw=draw_at_hand(weight))
    (edge,) = parse("upper edge 3/32 at 12", IMPERIAL, at_hand)
    assert edge.draw == pytest.approx(22 * INCH)
    assert "at 22 in" in words((edge,), at_hand, Units(IMPERIAL))[0]
    for parting in ("25 pulls", "string low 3", "off upper 6 strokes", "braced 30 min"):
        assert draw_at_hand((*weight, *parse(parting, IMPERIAL, TREE))) is None, parting
    (alone,) = parse("weight 39 lb", IMPERIAL, at_hand)
    assert alone.draw == pytest.approx(22 * INCH)


def test_the_tips_tell_the_draw_of_a_weight_on_a_long_string() -> None:
    found, limbs = bench_bow()
    hung = replace(found.bow, brace_height=None, string_length=piece().length + 0.08)
    tips = tuple(Reading("tip height", 0.0, side, 0.4) for side in ("upper", "lower"))
    fallen = read(limbs, hung, tips).values[0]
    seen = [replace(r, draw=None, value=float(v)) for r, v in zip(tips, fallen, strict=True)]
    assert draw_of_tips(limbs, hung, np.full((2, 1), 0.3), seen) == pytest.approx(0.4, rel=0.01)
    assert (
        draw_of_tips(limbs, hung, np.zeros((2, 1)), [replace(r, value=9.0) for r in seen]) is None
    )


# what is still to come


def test_what_stays_of_a_pull_is_the_designs_own_law_and_comes_once() -> None:
    found, limbs = bench_bow()
    flat = np.zeros((2, 12))
    rows = [kept(limbs, found.bow, flat, share * FULL, SetShare()) for share in (0.6, 0.8, 1.0)]
    assert all(row.shape == (2, CROOKS) for row in rows)
    assert np.all(np.diff([row.mean() for row in rows]) > 0)
    thicker = kept(limbs, found.bow, flat + 1.0, FULL, SetShare())
    assert thicker[:, 0].mean() > rows[-1][:, 0].mean()  # a thicker limb keeps more of a bend
    nothing = kept(limbs, found.bow, flat, 0.5 * (found.bow.brace_height or 0), SetShare())
    assert not nothing.any()


def test_the_finished_figure_counts_the_set_of_a_pull_that_was_not_made_yet() -> None:
    near, far = (told("string full", weights(1.2, *draws)) for draws in ((14, 16), (23, 26)))
    loss = [1 - one.outlook.settled.middle / one.outlook.now.middle for one in (near, far)]
    assert loss[0] > loss[1] >= 0 and loss[0] > 0.005
    for one in (near, far):
        out, keeps = one.outlook, (1 - 0.045) * (1 - 0.04)
        assert out.final.middle == pytest.approx(out.settled.middle * keeps)
        assert out.final.low < out.final.middle < out.final.high


def test_an_act_that_is_still_to_come_lowers_the_weight_to_stop_at() -> None:
    plain = told("string full", weights(1.2, 18, 22))
    later = told("string full", weights(1.2, 18, 22), "later backing sinew 1/8")
    assert later.plan.brings > 1.05 and plain.plan.brings == 1.0
    assert later.plan.stop_at == pytest.approx(plain.plan.stop_at / later.plan.brings)
    assert later.outlook.final.middle > plain.outlook.final.middle
    wide = [np.log(s.outlook.final.high / s.outlook.final.low) for s in (plain, later)]
    assert wide[1] > wide[0]
    done = told("string full", weights(1.2, 18, 22), "later backing sinew 1/8", "backing sinew 1/8")
    assert done.plan.brings == 1.0


# marks, hinges, and how far a pull may go


@pytest.mark.parametrize("mark", ["crack upper 13", "hinge upper 13", "leave alone upper 12 to 14"])
def test_a_marked_place_gets_no_wood_off_until_it_is_rubbed_off(mark: str) -> None:
    before = ("string full", weights(1.3, 18, 22))

    def over(state) -> float:
        return max(
            (r.thickness for r in state.strokes if r.limb == "upper"
             and r.start < UPPER_AT - piece().roots[0] < r.end), default=0.0,
        )  # fmt: skip

    assert over(told(*before)) > 0
    for after in ((), ("25 pulls", weights(1.3, 18, 22)), ("25 pulls", weights(1.2, 18, 22, 23))):
        assert over(told(*before, mark, *after)) == 0
    assert over(told(*before, mark, "rub off upper 13", weights(1.3, 18, 22))) > 0


def test_a_raised_edge_between_two_usual_ones_speaks_for_a_hinge() -> None:
    """The posterior over places and sizes against its closed form for one reading."""
    none = Narrow.none(0.8)
    assert none.places(0.05) == () and none.chances().sum(1) == pytest.approx([0.1, 0.1])
    smooth, error = 0.0035, 0.0004

    def edge(at: float, more: float) -> tuple[Reading, float, float]:
        row = Reading("straight edge", smooth + more, "upper", 0.5, at, 0.15)
        return row, smooth, error

    one = none.after([edge(0.4, 0.0012)])
    three = one.after([edge(0.32, 0.0), edge(0.48, 0.0), edge(0.4, 0.001)])
    usual = none.after([edge(0.4, 0.0), edge(0.4, 0.0)])
    chance = [n.chances()[0].sum() for n in (usual, none, one, three)]
    assert chance[0] < chance[1] < chance[2] and chance[3] > 0.5
    ((place, sure),) = three.places(0.25)
    assert place.start < 0.4 < place.end and sure > 0.4 and place.limb == "upper"
    shows = 8 * smooth / 0.15**2 * 0.25 * 0.15 / error
    k = int(np.abs(one.at - 0.4).argmin())
    assert one.told[0, k] == pytest.approx(shows**2) and one.said[0, k] == pytest.approx(3 * shows)


def test_the_chance_of_a_pull_is_the_normal_one_of_its_worst_place_and_grows_with_it() -> None:
    found, limbs = bench_bow()
    now = even_estimate(limbs, 0.0)
    kept_more = np.full((2, CROOKS), 0.05)
    rows = [chance_of(limbs, found.bow, now, share * FULL, kept_more) for share in (0.7, 1.0, 1.25)]
    assert all(row is not None for row in rows)
    chances = [row.breaks for row in rows]
    assert chances[0] < chances[1] < chances[2]
    length = float(limbs.length.mean())
    assert rows[0].sets == pytest.approx(0.5 * 0.05 * length**2, rel=0.05)
    vague = chance_of(limbs, found.bow, even_estimate(limbs, 0.0, spread=0.15), FULL, kept_more)
    assert vague.least < vague.breaks < vague.most
    # what it has borne it bears again, and what it nearly has it nearly does
    again, nearly = (
        chance_of(limbs, found.bow, now, 1.25 * FULL, kept_more, borne)
        for borne in (1.25 * FULL, 1.2 * FULL)
    )
    assert again.breaks == 0 < nearly.breaks < rows[2].breaks
    assert [odds(c) for c in (0.0001, 0.02, 0.3)] == ["less than 1 in 500", "about 1 in 50",
                                                     "about 1 in 3"]  # fmt: skip


# rulers


def test_a_rulers_own_scatter_is_found_from_how_its_readings_fit() -> None:
    rng = np.random.default_rng(4)
    rulers, kinds = Rulers(), asked((18,), gaps=False)
    usual = Rulers().error(Reading("straight edge", 0.0, "upper", 0.4, 0.3, 0.15))
    for true in (2.0, 0.6):
        rulers = Rulers()
        for _ in range(40):
            row = Reading("straight edge", 0.003, "upper", 0.4, 0.3, 0.15)
            own = 0.3 * usual
            off = true * usual * rng.standard_normal() + own * rng.standard_normal()
            now = replace(even_estimate(bench_bow()[1], 0.0), foretold=np.array([[off], [own]]))
            rulers = rulers.after((row,), now)
        assert rulers.times("straight edge") == pytest.approx(true, rel=0.25)
    assert Rulers().error(kinds[0]) is None  # a scale's is told otherwise
    assert Rulers.learned({"gap": (1.5, 0.2)}).times("gap") == pytest.approx(1.4, abs=0.1)
    assert Ruler().shown is None


# never at a loss

CASES = {
    "far too heavy on a long string": ("string long 73", "120 at 12", "125 at 12"),
    "gaps before any weight": ("string low 3", "upper gap 4, lower 4 1/8"),
    "zero brace first": ("zero brace", "20 at 8"),
    "deepest gaps alone": ("string low 3", "upper deepest 2 7/8 at 14, lower deepest 2 3/4 at 14"),
    "strokes that would take most of a tip": (
        "string long 73", weights(1.2, 12, 14), "off upper 400 strokes 24 to 30 rasp", "25 pulls",
        weights(1.15, 12, 14),
    ),
    "eight times too heavy": ("string long 73", "130 at 12, 150 at 13, 175 at 14"),
    "a third of what was planned": ("string full", "5 at 10, 8 at 12, 11 at 14"),
    "by eye alone": ("string long 73", "stiff upper 10 to 16, weak lower 14"),
    "floor readings of a stiff limb": ("upper floor 12 sags 1/2, lower floor 12 sags 1/2",),
    "hinge marked, nothing weighed": ("hinge upper 14",),
    "a weight with both tips": ("string long 73", "upper tip 4, lower tip 4 1/4, weight 17 lb"),
    "not sure": ("string long 73", "about 18 at 12, tips level"),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_wherever_it_says_pull_further_there_is_further_to_pull(case: str) -> None:
    state = told(*CASES[case])
    assert state.trouble == "" and state.advice is not None, case
    last, act = state.history.last_draw, state.advice.act
    if act == "pull" or state.advice.doubt == "wide":
        assert state.further.value > last + 0.005
    if act == "look":
        assert state.advice.doubt
        (asked_for,) = say(state, Units(IMPERIAL), TREE).sentences
        assert "read" in asked_for and ("a little further" in asked_for) == (
            state.advice.doubt == "wide"
        )


def test_a_bow_at_its_strain_limit_stops_and_is_not_asked_further() -> None:
    strict = replace(PLAN, most_use=0.55)
    state = told("string full", weights(1.09, 14, 16, 18), plan=strict)
    assert state.further.why == "strain" and state.further.value < 18 * INCH + 0.005
    assert state.advice.act == "stop" and not state.strokes


def test_three_weights_that_agree_at_a_third_are_believed() -> None:
    state = told(*CASES["a third of what was planned"])
    assert not state.wild and state.advice.act == "rescue"
    assert state.outlook.now.high < 0.8 * PLAN.wanted_weight


def test_an_early_wrong_weight_is_named_once_two_looks_contradict_it() -> None:
    right = weights(1.2, 16, 18)
    wrong = "string low 3", "60 at 14"
    first = told(*wrong, right)
    state = told(*wrong, right, weights(1.2, 16, 18, 19))
    assert state.older == (2,) and 2 in state.wild
    assert first.older == ()
    alone = told("string low 3", right, weights(1.2, 16, 18, 19))
    now, fair = state.outlook.now.middle, alone.outlook.now.middle
    assert now == pytest.approx(fair, rel=0.06)


def test_evening_a_bow_at_weight_costs_no_more_than_the_makers_floor() -> None:
    found, limbs = bench_bow()
    rows = (*asked((20, 24)), *(Reading("tip height", 0.0, k, 24 * INCH) for k in SIDES))
    field = np.log(np.array([[[1.12], [0.98]]])) + np.zeros((1, 2, PLACES))
    on_the_tree = StringOn().on(found.bow, piece().length)
    lopsided = read_off(limbs, on_the_tree, rows, field)
    line = ", ".join(
        f"{r.value / POUND_FORCE:.1f} at {r.draw / INCH:.0f}" if r.kind == "weight"
        else f"{r.limb} {'gap' if r.kind == 'gap' else 'tip'} {r.value / INCH:.2f}"
        + (f" at {r.draw / INCH:.0f}" if r.kind == "tip height" else "")
        for r in lopsided
    )  # fmt: skip
    light = replace(PLAN, wanted_weight=told("string full", line).outlook.settled.middle * 0.915)
    kept_weight = told("string full", line, plan=light)
    spent = told("string full", line, plan=replace(light, floor=0.9 * light.wanted_weight))
    assert kept_weight.stand.stiffer == "upper" and not kept_weight.strokes
    assert spent.advice.act == "balance" and spent.strokes and spent.advice.costs > 0
    assert spent.advice.weight_after >= 0.89 * spent.plan.stop_at


def test_bark_is_not_wood() -> None:
    read_once = "string full", weights(1.3, 18, 22)
    before, bark, wood = (
        told(*read_once, *more) for more in ((), ("bark off",), ("off both 1/16 back",))
    )
    middle = before.outlook.now.middle
    assert bark.outlook.now.middle == pytest.approx(middle, rel=0.02)
    assert wood.outlook.now.middle < 0.8 * middle
    old = told(*read_once, "off both 1/16 bark")
    assert old.outlook.now.middle == pytest.approx(middle, rel=0.02)


# one weight among three mistyped


def mistyped(seed: int) -> tuple[bool, float, float, float]:
    """Whether the typo is named, the true weight at full draw, and the range that is told (N)."""
    rng = np.random.default_rng(seed)
    stiff = float(np.exp(rng.uniform(-0.1, 0.7)))
    draws = np.sort(rng.uniform(13, 22, 3)).round(1)
    rows = [r.value / POUND_FORCE for r in reads(stiff, stiff, asked(tuple(draws), gaps=False))]
    rows = [max(0.5, round(2 * v * (1 + 0.014 * rng.uniform(-1, 1))) / 2) for v in rows]
    k = int(rng.integers(3))
    swapped = float(f"{rows[k]:04.1f}".replace(".", "")[::-1][:2] or 0) or 2 * rows[k]
    rows[k] = round(
        [rows[k] * np.exp(rng.uniform(np.log(0.3), np.log(3))), swapped, rows[k] * 2.2][seed % 3], 1
    )
    line = ", ".join(f"{w:g} at {d:g}" for w, d in zip(rows, draws, strict=True))
    state = told("string full", line)
    truth = reads(stiff, stiff, (Reading("weight", 0.0, draw=FULL),))[0].value
    named = any(state.check.readings[j].id == k + 2 for j in state.now.wild)
    return named, truth, state.outlook.now.low, state.outlook.now.high


def test_one_mistyped_weight_of_three_is_named_or_the_range_is_as_wide_as_it_must() -> None:
    found = [mistyped(seed) for seed in range(30)]
    held = [named or low <= truth <= high for named, truth, low, high in found]
    assert sum(low <= truth <= high for _, truth, low, high in found) >= 26
    assert sum(held) >= 28


def test_the_command_says_what_to_put_on_how_many_pulls_and_where_to_lay_the_edge(
    tmp_path: Path,
) -> None:
    bow = replace(bench_bow()[0].bow, draw=FULL, wanted=Asked(42 * POUND_FORCE, FULL))
    (tmp_path / "bow.json").write_text(bowfile.dumps(bow), encoding="utf-8")
    log = tmp_path / "log.txt"
    log.write_text(
        f"string full\n{weights(1.3, 18, 22)}\nupper edge 3/32 at 12\n", encoding="utf-8"
    )
    given = argparse.Namespace(
        bowfile=str(tmp_path / "bow.json"), log=str(log), json=True, units="imperial", losses=None,
        school="weight", beginner=False,
    )  # fmt: skip
    told_next = json.loads(tiller(given))["next"]
    assert told_next["pulls"] == 25 and told_next["string"] is None
    *edges, other = told_next["ask"]
    for limb in ("upper", "lower"):
        assert 1 <= sum(one["limb"] == limb for one in edges) <= 4
    assert all(one["kind"] == "edge" and one["at_mm"] > 0 for one in edges)
    assert other["kind"] in READINGS and other["kind"] != "straight edge"


def test_far_staves_are_thought_of_from_the_first() -> None:
    belief = first_belief(bench_bow()[1])
    assert belief.shares.sum() == pytest.approx(1.0)
    common = np.sqrt(belief.covariances[:, 0, 0])
    assert common.max() > 2 * common.min() and belief.shares[common > 1].sum() == pytest.approx(
        FAR[0]
    )
