"""Acts change the bow from then on: geometry, belief, forecast. Readings stay behind."""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import grid
from bowyery.bow.section import Layer
from bowyery.design.alterations import backed, reflexed, shortened
from bowyery.errors import DescriptionError, UnreadableError
from bowyery.tiller.acts import Standing, acted
from bowyery.tiller.bench import BenchState, Workpiece, work_out
from bowyery.tiller.changes import Act, Pass
from bowyery.tiller.estimate import FIELD, PLACES, even_estimate, few_cells, predict
from bowyery.tiller.kinds import ACTS, Reading
from bowyery.tiller.log import Noted, StringOn, history
from bowyery.tiller.pencil import parse, words
from bowyery.tiller.rescue import cut_for
from bowyery.tiller.statements import Tree
from bowyery.tiller.target import weights_of
from bowyery.tiller.words import say
from bowyery.units.quantity import IMPERIAL, INCH, POUND_FORCE, Units
from bowyery.wood.materials import material
from tests.core.readings import FULL, PLAN, bench_bow

TREE = Tree(reach=(33.5 * INCH, 33.5 * INCH))
FULL_BRACE = StringOn("string full", 6 * INCH)


def piece() -> Workpiece:
    found, limbs = bench_bow()
    return Workpiece(found.bow, limbs, found.wood.density, found.layout.width)


def known(common: float = 0.0, hump: float = 0.0) -> Standing:
    """A bow whose limbs are known, with a stiff place on the upper one."""
    found, limbs = bench_bow()
    few = few_cells(limbs)
    belief = even_estimate(few, common).belief
    means = belief.means.copy()
    share = np.linspace(0.0, 1.0, PLACES)
    means[:, :PLACES] += hump * np.exp(-(((share - 0.5) / 0.15) ** 2))
    return Standing(found.bow, few, replace(belief, means=means))


def field(standing: Standing) -> np.ndarray:
    return standing.belief.mean[FIELD].reshape(2, PLACES)


def weight(standing: Standing) -> float:
    rows = field(standing)[None]
    return float(weights_of(standing.few, standing.bow, rows, FULL)[0])


def read_off(bow: Bow, rows: np.ndarray, draws: tuple[float, ...]) -> str:
    """What a maker reads on a bow of so much stiffness against its marks, as a line."""
    strung = FULL_BRACE.on(bow, 0.0)
    asked = [Reading("weight", 0.0, draw=d * INCH) for d in draws]
    asked += [Reading("gap", 0.0, side) for side in SIDES]
    values = predict(few_cells(grid(bow)), strung, tuple(asked), rows[None], False).values[0]
    parts = ["string full 6"]
    for one, value in zip(asked, values, strict=True):
        if one.kind == "weight":
            parts.append(f"{value / POUND_FORCE:.1f} at {(one.draw or 0) / INCH:g}")
        else:
            parts.append(f"{one.limb} gap {value / INCH:.3f}")
    return ", ".join(parts)


def worked(*lines: str) -> BenchState:
    rows = [
        Noted(s, 100 * n + k, n)
        for n, line in enumerate(lines, 1)
        for k, s in enumerate(parse(line, IMPERIAL, TREE))
    ]
    one = piece()
    return work_out(one, history(rows, one.roots), PLAN)


def test_a_cut_gives_what_the_shorter_bow_gives() -> None:
    before = known()
    after = acted(before, Act("cut", value=2 * INCH))
    assert [limb.length for limb in after.bow.limbs] == pytest.approx(
        [limb.length - 2 * INCH for limb in before.bow.limbs]
    )
    short = shortened(before.bow, 2 * INCH)
    plain = weights_of(few_cells(grid(short)), short, np.zeros((1, 2, PLACES)), FULL)[0]
    assert weight(after) == pytest.approx(plain, rel=1e-6)
    assert weight(after) > 1.05 * weight(before)


def test_a_stiff_place_stays_where_it_is_on_the_wood() -> None:
    """On a shorter limb the same wood has another share of the length."""
    before = known(hump=0.3)
    after = acted(before, Act("cut", "upper", 4 * INCH))

    def stiffest(standing: Standing) -> float:
        length = standing.bow.upper.length
        fine = np.linspace(0.0, 1.0, 400)
        values = np.interp(fine, np.linspace(0.0, 1.0, PLACES), field(standing)[0])
        return float(fine[(values * (fine < 0.95)).argmax()]) * length

    assert stiffest(after) == pytest.approx(stiffest(before), abs=0.6 * INCH)
    assert after.bow.lower.length == before.bow.lower.length


def test_readings_before_a_cut_stay_with_the_long_bow_and_what_it_did_is_shown() -> None:
    found, _ = bench_bow()
    true = np.full((2, PLACES), np.log(1.12))
    true[0] += 0.05
    before = read_off(found.bow, true, (16, 20, 22))
    short = shortened(found.bow, 1.5 * INCH)
    share = [(limb.length - 1.5 * INCH) / limb.length for limb in found.bow.limbs]
    at = np.linspace(0.0, 1.0, PLACES)
    cut = np.stack([np.interp(at * s, at, row) for s, row in zip(share, true, strict=True)])
    foretold = worked(before, "cut 1 1/2 both ends")
    assert foretold.shown[-1].now is None and foretold.shown[-1].check == 0
    assert foretold.shown[-1].foretold > 1.03 * foretold.shown[-1].before
    after = worked(before, "cut 1 1/2 both ends", read_off(short, cut, (16, 20, 22)))
    shown = after.shown[-1]
    truth = float(weights_of(few_cells(grid(short)), short, cut[None], FULL)[0])
    assert shown.check == 2 and shown.low < truth < shown.high
    assert shown.now is not None and shown.now == pytest.approx(truth, rel=0.02)
    assert after.outlook is not None and not after.wild
    assert after.outlook.now.low < truth < after.outlook.now.high
    # without the cut being written the same readings are doubted or jump
    silent = worked(before, read_off(short, cut, (16, 20, 22)))
    assert silent.wild or silent.jump or silent.advice.act == "look"


@pytest.mark.parametrize(
    ("act", "more"),
    [
        (Act("reflex", value=0.75 * INCH), lambda bow: reflexed(bow, 0.75 * INCH)),
        (Act("backing", value=0.001, how="rawhide"),
         lambda bow: backed(bow, material("rawhide"), 0.001)),
    ],
)  # fmt: skip
def test_what_is_put_on_or_in_gives_what_the_design_room_says(act: Act, more: object) -> None:
    """On a bow that stands on its marks; what nobody knows of it widens the belief."""
    before = known()
    after = acted(before, act)
    made = more(before.bow)  # type: ignore[operator]
    expected = weights_of(few_cells(grid(made)), made, np.zeros((1, 2, PLACES)), FULL)[0]
    assert weight(after) == pytest.approx(expected, rel=1e-3)
    spread = np.diag(after.belief.covariance).sum() - np.diag(before.belief.covariance).sum()
    assert spread > 0.001


def test_a_backing_adds_to_the_limb_as_it_stands_and_not_as_it_was_marked() -> None:
    """The thicker the limb still is, the less a thin backing adds in proportion."""
    act = Act("backing", value=0.001, how="rawhide")
    thin, thick = known(0.0), known(0.5)
    gain = [np.log(weight(acted(one, act)) / weight(one)) for one in (thin, thick)]
    assert 0 < gain[1] < gain[0]


def test_wood_off_the_sides_is_in_proportion_and_off_the_edges_is_little() -> None:
    before = known()
    width = float(before.bow.upper.width[0])
    off = 0.05 * width
    sides = acted(before, Pass("upper", off, None, face="sides"))
    assert float(sides.bow.upper.width[0]) == pytest.approx(0.9 * width)
    log = np.log(sides.few.node_stiffness[0, 0, 2] / before.few.node_stiffness[0, 0, 2])
    assert log + field(sides)[0, 1] == pytest.approx(np.log(0.9), abs=0.01)
    edges = acted(before, Pass("upper", 0.003, None, face="edges"))
    lost = field(edges)[0, :-1]
    assert np.all(lost < 0) and np.all(lost > -0.25) and np.allclose(field(edges)[1], 0)
    rounded = acted(before, Act("rounded"))
    assert weight(rounded) < weight(before)
    bark = acted(before, Pass("upper", 0.001, None, face="back"))
    assert float(bark.bow.upper.thickness[1]) == pytest.approx(
        float(before.bow.upper.thickness[1]) - 0.001
    )


def test_heat_does_nothing_to_a_faced_belly() -> None:
    bow = known().bow
    glass = Layer("belly", "glass", 43e9, 1950.0, np.full(len(bow.upper.at), 0.001))
    faces = [replace(limb, layers=(*limb.layers, glass)) for limb in bow.limbs]
    before = replace(known(), bow=replace(bow, upper=faces[0], lower=faces[1]))
    for act in (Act("heat", how="dark"), Act("heat", "upper", None, 0.2, 0.3, how="golden")):
        after = acted(before, act)
        assert after.bow == before.bow and np.allclose(field(after), field(before))


def test_heat_stiffens_where_it_was_and_less_the_second_time() -> None:
    before = known()
    whole = acted(before, Act("heat", how="golden", more=12))
    assert 1.005 < weight(whole) / weight(before) < 1.12
    again = acted(whole, Act("heat", how="golden"))
    assert 1.0 < weight(again) / weight(whole) < weight(whole) / weight(before)
    dark = acted(before, Act("heat", how="dark"))
    assert weight(dark) > weight(whole)
    root = before.bow.upper.root[0]
    part = acted(before, Act("heat", "upper", None, root + 0.1, root + 0.3, how="golden"))
    assert field(part)[0, 3] > 0.01 and field(part)[0, -2] < 1e-9 and not field(part)[1].any()


def test_a_patch_is_on_its_place_only_and_a_bound_crack_is_only_doubted() -> None:
    before = known(0.1)
    root = before.bow.lower.root[0]
    after = acted(before, Act("patch", "lower", 0.0015, root + 0.2, root + 0.35))
    gain = np.log(after.few.node_stiffness[1, 0] / before.few.node_stiffness[1, 0])
    assert gain.max() > 0.2 and abs(gain[-1]) < 1e-6 and abs(gain[0]) < 1e-6
    bound = acted(before, Act("mended", "upper", None, root + 0.2, root + 0.2, how="bound"))
    assert weight(bound) == pytest.approx(weight(before))
    wider = np.diag(bound.belief.covariance)[:PLACES] - np.diag(before.belief.covariance)[:PLACES]
    assert wider.max() > 0.001 and wider[-1] < 1e-9


def test_moving_the_centre_moves_the_pull() -> None:
    before = known()
    after = acted(before, Act("centre", value=-0.01))
    assert after.bow.hold.pivot[0] == pytest.approx(before.bow.hold.pivot[0] - 0.01)


@pytest.mark.parametrize(
    "act",
    [
        Act("cut", value=30 * INCH), Act("cut", value=0.0),
        Act("patch", "upper", 0.001, 2.0, 3.0),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_refused(act: Act) -> None:
    with pytest.raises(DescriptionError):
        acted(known(), act)


def test_sides_and_backs_that_would_leave_nothing_are_refused() -> None:
    with pytest.raises(DescriptionError):
        acted(known(), Pass("upper", 0.03, None, face="sides"))
    with pytest.raises(DescriptionError):
        acted(known(), Pass("upper", 0.012, None, face="back"))


def test_a_cut_longer_than_the_limb_is_refused_where_it_is_written() -> None:
    with pytest.raises(UnreadableError, match="less than half of a limb"):
        parse("cut 20 both ends", IMPERIAL, TREE)
    with pytest.raises(UnreadableError, match="not in the book"):
        parse("backing cardboard 1/16", IMPERIAL, TREE)


def test_every_act_has_words_a_recheck_and_survives_a_bow_with_a_bending_grip() -> None:
    lines = {
        "cut": "cut 1 upper end", "centre": "centre 1/4 up", "patch": "patch upper 1/16 10 to 14",
        "rounded": "both belly rounded", "heat": "heat lower 10 to 20 brown, 10 min",
        "reflex": "deflex upper 1/2", "twist out": "twist out lower 5",
        "straightened": "straightened upper", "backing": "backing linen 1/32",
        "eased": "nodes eased", "overlay": "overlay upper", "mended": "flooded upper 12 to 14",
        "peeled": "sapwood off 1/16", "sanded": "sanded",
    }  # fmt: skip
    assert set(lines) == set(ACTS)
    standing = known(0.2)
    bending = replace(standing, bow=replace(standing.bow, grip_stiffness=60.0))
    bending = replace(bending, few=few_cells(grid(bending.bow)))
    for kind, line in lines.items():
        (one, *_) = parse(line, IMPERIAL, TREE)
        assert one.kind == kind and words((one,), TREE, Units(IMPERIAL))[0]
        act = Act(kind, one.limb, one.value, one.start, one.end, one.more, one.how)
        for before in (standing, bending):
            after = acted(before, act)
            assert np.isfinite(after.belief.covariance).all()
            assert 0.5 < weight(after) / weight(before) < 2.0


def test_the_cut_for_a_weight_gives_that_weight() -> None:
    found, limbs = bench_bow()
    now = even_estimate(few_cells(limbs), -0.15)
    wanted = 40 * POUND_FORCE
    cut = cut_for(found.bow, now, wanted, FULL)
    assert cut is not None
    after = acted(Standing(found.bow, few_cells(limbs), now.belief), Act("cut", value=cut))
    assert weight(after) == pytest.approx(wanted, rel=0.015)
    assert cut_for(found.bow, now, 10 * POUND_FORCE, FULL) is None
    assert cut_for(found.bow, now, 300 * POUND_FORCE, FULL) is None


@pytest.mark.parametrize(
    "line",
    ["cut 1 both ends", "heat both golden", "backing rawhide 1/32", "patch upper 1/16 10 to 14",
     "bound upper 14", "overlay both", "centre 1/4 up"],
)  # fmt: skip
def test_after_an_act_no_wood_comes_off_before_it_was_looked_at_again(line: str) -> None:
    found, _ = bench_bow()
    look = read_off(found.bow, np.full((2, PLACES), np.log(1.4)), (14, 18, 20))
    assert worked(look).strokes
    changed = worked(look, line)
    assert changed.advice.act == "look" and changed.advice.doubt == "changed"
    assert not changed.strokes and changed.further is not None
    said = say(changed, Units(IMPERIAL), TREE)
    assert "no wood comes off" in said.sentences[0] and "again" in said.sentences[0]
    assert worked(look, line, look).advice.doubt != "changed"
