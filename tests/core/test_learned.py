"""What a shop's records say of the book's figures, and what one bow's records show."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.bow.bow import SIDES
from bowyery.bow.layout import INCH_ROUNDING, Layout, Wanted
from bowyery.bow.limb_grid import grid
from bowyery.design.alterations import reflexed
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError
from bowyery.mechanics.shot import WOOD_LOSS, shoot
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.record.evidence import (
    Lost,
    losses_shown,
    modulus_shown,
    share_kept,
)
from bowyery.record.learned import QUANTITIES, Evidence, Quantity, learned, unfolded
from bowyery.strings.settle import BraceRead, settles, settling
from bowyery.tiller.bench import Workpiece
from bowyery.tiller.changes import Act, Pass
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import Check, History, Lie, StringOn
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, fibre, material

MODULUS = QUANTITIES["modulus"]


def ash(value: float, bow: int, tree: str = "", error: float = 0.04) -> Evidence:
    return Evidence(value, error, "ash", tree, bow)


@pytest.mark.parametrize("name", QUANTITIES)
def test_without_records_it_is_the_book(name: str) -> None:
    figure = QUANTITIES[name]
    found = learned(figure, [], "ash")
    assert found.middle == figure.middle and not found.says and found.off == 0
    assert found.spread == pytest.approx(found.before) and found.spread > figure.bow
    assert found.low < found.middle < found.high


def test_the_nearer_a_record_is_the_more_it_says() -> None:
    seen = [ash(-0.12, 1, "the long ash")]
    same_tree = learned(MODULUS, seen, "ash", "the long ash")
    same_wood = learned(MODULUS, seen, "ash", "another")
    other = learned(MODULUS, seen, "elm")
    assert same_tree.middle < same_wood.middle < other.middle < 0
    assert same_tree.spread < same_wood.spread < other.spread
    assert (same_wood.same, same_wood.others, other.same, other.others) == (1, 0, 0, 1)
    # a tree is a tree of its wood: one of the same name in another wood is another
    assert learned(MODULUS, seen, "elm", "the long ash") == learned(MODULUS, seen, "elm", "x")


def test_ten_bows_are_nearly_believed_and_four_partly() -> None:
    rows = [ash(-0.10 + 0.03 * (-1) ** k, k + 1) for k in range(10)]
    four, ten = (learned(MODULUS, rows[:n], "ash") for n in (4, 10))
    assert -0.10 < ten.middle < four.middle < -0.05
    assert ten.sure < four.sure < 0.07 and ten.spread < four.before


def test_bows_that_differ_much_widen_what_is_said_of_the_next() -> None:
    even = learned(MODULUS, [ash(0.01 * (-1) ** k, k + 1) for k in range(8)], "ash")
    wild = learned(MODULUS, [ash(0.25 * (-1) ** k, k + 1) for k in range(8)], "ash")
    assert wild.differ > 1.5 * even.differ and wild.spread > even.before * 0.9


def test_several_records_of_one_bow_are_not_several_bows() -> None:
    once = learned(MODULUS, [ash(-0.12, 1)], "ash")
    often = learned(MODULUS, [ash(-0.12, 1)] * 6, "ash")
    bows = learned(MODULUS, [ash(-0.12, k + 1) for k in range(6)], "ash")
    assert bows.spread < often.spread <= once.spread
    assert bows.middle < often.middle < once.middle


def test_one_record_that_contradicts_all_others_is_named_and_left_out() -> None:
    rows = [ash(-0.05 + 0.01 * k, k + 1) for k in range(6)]
    wrong = [*rows[:3], ash(1.2, 99), *rows[3:]]
    found = learned(MODULUS, wrong, "ash")
    assert found.odd == (3,)
    assert found.middle == pytest.approx(learned(MODULUS, rows, "ash").middle)
    assert learned(MODULUS, [ash(1.2, 1), ash(0.0, 2)], "ash").odd == ()  # nobody can tell which


@pytest.mark.parametrize("bad", [ash(math.nan, 1), ash(0.1, 1, error=0.0), ash(math.inf, 2)])
def test_what_is_no_figure_is_refused(bad: Evidence) -> None:
    with pytest.raises(DescriptionError):
        learned(MODULUS, [bad], "ash")


@given(st.lists(st.floats(-0.3, 0.3), min_size=1, max_size=8), st.randoms())
def test_the_order_of_records_does_not_matter(values: list[float], chance: object) -> None:
    rows = [ash(v, k + 1, f"tree {k // 2}") for k, v in enumerate(values)]
    mixed = list(rows)
    chance.shuffle(mixed)  # type: ignore[attr-defined]
    first, second = learned(MODULUS, rows, "ash"), learned(MODULUS, mixed, "ash")
    assert first.middle == pytest.approx(second.middle, abs=1e-9)
    assert first.spread == pytest.approx(second.spread, rel=1e-9)


def test_its_bands_hold_in_shops_of_another_law() -> None:
    """Woods off by a coin and trees by a ramp, bows by heavy tails: nothing here is normal."""
    rng = np.random.default_rng(5)
    held = []
    for _ in range(150):
        wood = rng.choice([-0.09, 0.09]) + 0.02 * rng.uniform(-1, 1)
        trees = 0.12 * rng.uniform(-1, 1, 5)

        def bow(tree: int) -> float:
            return float(wood + trees[tree] + 0.035 * rng.standard_t(4))  # noqa: B023

        rows = [
            ash(bow(k // 2) + 0.04 * rng.standard_normal(), k + 1, f"tree {k // 2}")
            for k in range(8)
        ]
        found = learned(MODULUS, rows, "ash", "tree 4")
        held.append(found.low <= bow(4) <= found.high)
        known = learned(MODULUS, rows, "ash", "tree 1")
        held.append(known.low <= bow(1) <= known.high)
    assert 0.84 < float(np.mean(held)) < 0.97


@given(st.floats(-1, 1), st.floats(0.1, 2), st.floats(-1, 1), st.floats(0.05, 1))
def test_what_was_seen_is_found_again_from_before_and_after(
    before: float, wide: float, value: float, error: float
) -> None:
    total = wide**-2 + error**-2
    after = (before * wide**-2 + value * error**-2) / total, total**-0.5
    found = unfolded((before, wide), after)
    if found is None:
        assert error > 2 * wide
    else:
        assert found == (pytest.approx(value, abs=1e-6), pytest.approx(error, rel=1e-6))


# What one bow shows.

FOUND = solve_design(
    Layout(68 * INCH),
    Wanted(42 * POUND_FORCE, 26 * INCH),
    at_moisture(material("wych elm"), 0.09),
    INCH_ROUNDING,
)
PIECE = Workpiece(FOUND.bow, FOUND.curve.limbs, FOUND.wood.density, FOUND.layout.width)
FULL = StringOn("string full", 6 * INCH)


def looked(
    modulus: float,
    over: float,
    string: StringOn = FULL,
    reflex: float = 0.0,
    marks: int = 6,
    draws: tuple[float, ...] = (16, 20, 24),
) -> Check:
    """A look at a bow whose wood is so much stiffer and whose limbs so much thicker, without an
    error of reading.
    """

    def limb(one):  # type: ignore[no-untyped-def]
        layers = tuple(replace(la, modulus=la.modulus * modulus) for la in one.layers)
        return replace(one, thickness=one.thickness * over, layers=layers)

    true = replace(FOUND.bow, upper=limb(FOUND.bow.upper), lower=limb(FOUND.bow.lower))
    true = string.on(reflexed(true, reflex), PIECE.length)
    limbs = grid(true)
    pulled = draw(limbs, true.hold, brace_bow(limbs, true), np.array(draws) * INCH).weight
    rows = [
        Reading("weight", float(w), draw=d * INCH, string=string.key)
        for d, w in zip(draws, pulled, strict=True)
    ]
    for side, one in zip(SIDES, FOUND.bow.limbs, strict=True):
        for share in np.linspace(0.05, 0.95, marks):
            at = share * one.length
            size = over * float(np.interp(at, one.at, one.thickness))
            rows.append(Reading("thickness", size, side, at=at, string=string.key))
    return Check(1, (1,), tuple(rows), (string,), string, ())


@pytest.mark.parametrize("over", [0.97, 1.0, 1.12])
@pytest.mark.parametrize("modulus", [0.85, 1.0, 1.15])
def test_calipers_and_scale_show_how_stiff_the_wood_is(modulus: float, over: float) -> None:
    shown = modulus_shown(PIECE, History((looked(modulus, over),)))
    assert shown is not None
    assert shown[0] == pytest.approx(math.log(modulus), abs=0.006)
    assert 0.04 < shown[1] < 0.09


def test_a_profile_that_was_read_makes_it_surer_and_right() -> None:
    check = looked(0.9, 1.05, reflex=0.015)
    blind = modulus_shown(PIECE, History((check,)))
    lies = tuple(Lie(side, None, -0.015, 0) for side in SIDES)
    seen = modulus_shown(PIECE, History((check,), lies=lies))
    assert blind is not None and seen is not None
    assert seen[0] == pytest.approx(math.log(0.9), abs=0.01) and seen[1] < blind[1]
    assert abs(blind[0] - math.log(0.9)) > 0.02  # half an inch of reflex pulls more


def test_a_looser_string_says_less() -> None:
    low = modulus_shown(PIECE, History((looked(0.9, 1.0, StringOn("string low", 3 * INCH)),)))
    full = modulus_shown(PIECE, History((looked(0.9, 1.0),)))
    assert low is not None and full is not None and low[1] > full[1]


def test_what_says_nothing_says_nothing() -> None:
    good = looked(0.9, 1.0)
    assert modulus_shown(PIECE, History()) is None
    assert modulus_shown(PIECE, History((looked(0.9, 1.0, marks=2),))) is None
    weights = replace(good, readings=tuple(r for r in good.readings if r.kind == "weight"))
    sizes = replace(good, readings=tuple(r for r in good.readings if r.kind == "thickness"))
    assert modulus_shown(PIECE, History((weights,))) is None
    assert modulus_shown(PIECE, History((sizes,))) is None
    # wood off between the two: they are of different bows, until both are read again
    thinner = replace(sizes, changes=(Pass("upper", 0.001, None),))
    assert modulus_shown(PIECE, History((weights, thinner))) is None
    assert modulus_shown(PIECE, History((weights, replace(good, number=2)))) is not None
    # heat, a cut or wood off an edge: the design's shape is not the bow's any more
    for change in (Act("heat", "upper"), Pass("upper", 0.001, None, face="sides")):
        assert modulus_shown(PIECE, History((replace(good, changes=(change,)),))) is None
    # and a hanging string at a draw where it is slack is passed over
    slack = StringOn("string long", PIECE.length + 0.2)
    hanging = replace(good, readings=tuple(replace(r, string=slack.key) for r in good.readings),
                      strings=(slack,), string=slack)  # fmt: skip
    short = replace(hanging, readings=tuple(
        replace(r, draw=0.1) if r.kind == "weight" else r for r in hanging.readings
    ))  # fmt: skip
    assert modulus_shown(PIECE, History((short,))) is None


def test_the_share_that_stayed_of_one_bow() -> None:
    assert share_kept(0.002, 0.002) is None
    far, near = share_kept(0.06, 0.03), share_kept(0.01, 0.005)
    assert far is not None and near is not None
    assert far[0] == near[0] == pytest.approx(0.5) and far[1] < near[1]


USUAL = ((0.045, 0.015), (0.04, 0.015))


def test_losses_are_told_apart_where_the_weights_were_read() -> None:
    told = losses_shown((200.0, 2.0), 186.0, 180.0, USUAL)
    assert told.finishing is not None and told.shooting is not None
    assert told.finishing[0] == pytest.approx(0.07) and told.shooting[0] == pytest.approx(6 / 186)
    only = losses_shown(None, 186.0, 180.0, USUAL)
    assert only.finishing is None and only.shooting == told.shooting
    both = losses_shown((200.0, 2.0), None, 170.0, USUAL)
    assert both.finishing is not None and both.shooting is not None
    assert both.finishing[0] == pytest.approx(0.11) and both.shooting[0] == pytest.approx(0.105)
    assert both.finishing[1] > told.finishing[1]
    assert losses_shown((200.0, 2.0), None, None, USUAL) == Lost()
    assert losses_shown(None, None, 180.0, USUAL) == Lost()


def test_what_limbs_keep_moves_the_arrow_and_its_band() -> None:
    usual = shoot(FOUND.bow, 26 * INCH, 0.028)
    lossy = shoot(FOUND.bow, 26 * INCH, 0.028, keeps=(WOOD_LOSS + 0.06, 0.01))
    assert lossy.speed < 0.975 * usual.speed and lossy.loss == pytest.approx(WOOD_LOSS + 0.06)
    assert lossy.high - lossy.low < usual.high - usual.low


def test_a_string_is_settled_by_what_the_shop_has_found() -> None:
    linen = fibre("linen")
    book = settles(linen)
    reads = [BraceRead(0.0, 0.15)]
    usual = settling(linen, 1.6, 4.0, reads)
    more = replace(book, beds=2 * book.beds, beds_spread=0.3 * book.beds)
    assert settling(linen, 1.6, 4.0, reads, more).final[0] < usual.final[0] - 0.005
    assert usual.beds[0] == pytest.approx(book.beds)
    assert usual.creeps[1] == pytest.approx(book.creeps_spread)


def test_every_figure_has_its_layers() -> None:
    for figure in QUANTITIES.values():
        assert isinstance(figure, Quantity) and min(figure.shop, figure.wood, figure.bow) > 0
