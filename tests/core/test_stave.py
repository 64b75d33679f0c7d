"""Staves, their tests, and the fitting of bows into them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import METRIC_ROUNDING, Wanted
from bowyery.design.outline import outline_of
from bowyery.design.solve import solve_design
from bowyery.errors import DescriptionError
from bowyery.wood.materials import material
from bowyery.wood.placement import Outline, advice_when_none, place
from bowyery.wood.stave import FLAWS, Flaw, Stave, bend_test, checked, run_out

AT = np.linspace(0.0, 1.7, 97)
FROM_MIDDLE = np.abs(AT - 0.85)
OUTLINE = Outline(
    AT,
    np.interp(FROM_MIDDLE, [0.0, 0.1, 0.45, 0.85], [0.03, 0.044, 0.044, 0.013]),
    np.interp(FROM_MIDDLE, [0.0, 0.08, 0.1, 0.85], [0.044, 0.04, 0.014, 0.009]),
    np.interp(FROM_MIDDLE, [0.0, 0.099, 0.1, 0.75, 0.85], [0.0, 0.0, 0.95, 0.95, 0.0]),
)


def stave(
    *flaws: Flaw, length: float = 2.0, width: float = 0.06, depth: float = 0.06, **more: object
) -> Stave:
    at = np.array([0.0, length])
    return Stave(
        length, at, np.full(2, width), np.full(2, depth), np.full(2, np.inf), flaws=flaws, **more
    )  # type: ignore[arg-type]


def knot(
    at: float, off: float = 0.0, kind: str = "tight knot", size: float = 0.012, face: str = "back"
) -> Flaw:
    return Flaw(kind, at, off, size, size, 0.01, face)


def test_a_clean_stave_takes_the_bow_anywhere() -> None:
    fit = place(stave(), OUTLINE)
    assert fit.sound and fit.best[0].score > 95
    assert fit.starts[1] - fit.starts[0] == pytest.approx(0.005)
    assert fit.starts[[0, -1]] == pytest.approx([0.025, 0.275], abs=0.005)  # wood beyond nocks
    assert np.all(fit.scores > 95)
    assert fit.best[0].shift == 0.0 and fit.best[0].turn == 0.0


def test_a_board_exactly_as_wide_and_long_as_the_bow_takes_it() -> None:
    exact = stave(length=1.75, width=0.044, sawn=True)
    fit = place(exact, OUTLINE)
    assert fit.sound and fit.best[0].narrow == 0.0 and fit.best[0].score > 95
    assert fit.best[0].start == pytest.approx(0.025)  # wood beyond both nocks
    assert place(replace(exact, sawn=False), OUTLINE).best[0].narrow > 0
    narrow = replace(exact, width=np.full(2, 0.0435))
    assert place(narrow, OUTLINE).best[0].narrow > 0
    with pytest.raises(DescriptionError, match="beyond its nocks"):
        place(replace(exact, length=1.74, at=np.array([0.0, 1.74])), OUTLINE)


def test_a_rigid_handle_bears_nothing() -> None:
    layout, wanted = LAYOUTS["parallel then taper"](0.69), Wanted(190.0, 0.69)
    found = solve_design(layout, wanted, material("wych elm"), METRIC_ROUNDING)
    outline = outline_of(found)
    middle = np.abs(outline.at - 0.5 * outline.length) < 0.49 * found.layout.handle
    assert np.interp(0.5 * outline.length, outline.at, outline.use) == 0.0
    assert np.all(outline.use[middle] < 1e-9)


def test_a_bad_knot_goes_into_the_handle_or_off_the_end() -> None:
    for at in (1.0, 0.16):
        fit = place(stave(knot(at, kind="through knot", face="through", size=0.02)), OUTLINE)
        (fate,) = fit.best[0].fates
        assert fate.fate in ("in the handle", "off the ends"), at
        assert fate.cost == 0 and fit.best[0].score > 90
    worst = place(stave(knot(1.0, kind="through knot", face="through", size=0.02)), OUTLINE)
    assert worst.scores.min() < 80


def test_knots_beside_the_middle_are_sawn_away_by_a_shift() -> None:
    fit = place(stave(knot(0.6, 0.019), knot(1.4, 0.021), width=0.075), OUTLINE)
    best = fit.best[0]
    assert all(fate.fate in ("off the edge", "off the ends") for fate in best.fates)
    assert best.shift < 0


@settings(max_examples=25)
@example([(1.25, 0.022, "belly check")])  # exactly on a line of the bow's edge
@given(
    st.lists(
        st.tuples(st.floats(0.02, 1.98), st.floats(-0.025, 0.025), st.sampled_from(sorted(FLAWS))),
        max_size=8,
    )
)
def test_turned_end_for_end_the_stave_gives_the_turned_answer(
    rows: list[tuple[float, float, str]],
) -> None:
    flaws = tuple(knot(at, off, kind) for at, off, kind in rows if kind != "end check")
    one = place(stave(*flaws), OUTLINE)
    other = place(stave(*(replace(f, at=2.0 - f.at, off=-f.off) for f in flaws)), OUTLINE)
    assert other.best[0].score == pytest.approx(one.best[0].score, abs=1e-6)
    assert 0 <= one.scores.min() <= one.scores.max() <= 100
    # one flaw less is never worse
    if flaws:
        assert place(stave(*flaws[1:]), OUTLINE).best[0].score >= one.best[0].score - 1e-9


def test_the_same_knot_costs_more_where_the_wood_works_harder() -> None:
    limb, tip = (
        place(stave(knot(at), length=1.75), OUTLINE).best[0].fates[0] for at in (0.5, 0.03)
    )
    assert limb.cost > 4 * tip.cost
    belly = place(stave(knot(0.5, face="belly"), length=1.75), OUTLINE).best[0].fates[0]
    assert belly.cost < limb.cost
    assert belly.face == "belly"


def test_boards_may_be_turned_over_to_hide_a_flaw_from_the_back() -> None:
    board = stave(knot(0.5), length=1.76)
    kept, free = place(board, OUTLINE), place(board, OUTLINE, either_face=True)
    assert free.best[0].score > kept.best[0].score
    assert free.best[0].belly_up


def test_narrow_thin_crowned_and_running_staves_say_so() -> None:
    assert place(stave(width=0.040), OUTLINE).best[0].narrow == pytest.approx(0.004, abs=1e-6)
    assert place(stave(depth=0.040), OUTLINE).best[0].thin == pytest.approx(0.004, abs=1e-3)
    round_log = replace(stave(), crown=np.full(2, 0.025))
    assert place(round_log, OUTLINE).best[0].crown > 0.5
    assert (
        place(stave(drift=0.05), OUTLINE).best[0].grain
        > place(stave(drift=0.005), OUTLINE).best[0].grain
    )
    assert place(stave(sapwood=0.02), OUTLINE).best[0].sapwood > 0
    poor = place(stave(width=0.03), OUTLINE)
    assert not poor.sound and "narrower" in advice_when_none(stave(width=0.03), OUTLINE, poor)


def test_a_stretch_that_twists_is_passed_over_for_a_straight_one() -> None:
    twisted = stave(twist_at=np.array([0.0, 0.15, 2.0]), twist=np.radians([0.0, 12.0, 12.0]))
    fit = place(twisted, OUTLINE)
    assert fit.best[0].start >= 0.15 and fit.best[0].twist == pytest.approx(0.0, abs=1e-12)
    assert fit.scores[0] < fit.scores[-1] - 5
    even = place(stave(twist_at=np.array([0.0, 2.0]), twist=np.radians([0.0, 12.0])), OUTLINE)
    assert even.best[0].twist == pytest.approx(np.radians(12.0) * 1.7 / 2.0)


def test_an_even_reflex_is_no_fault_and_an_uneven_one_is_told_by_limb() -> None:
    at = np.linspace(0.0, 2.0, 201)
    even = place(stave(side_at=at, side=0.04 * (1 - (at - 1) ** 2)), OUTLINE)
    assert even.scores.min() > 95 and max(abs(p.uneven) for p in even.best) < 1e-4
    # the right limb alone bends towards the belly
    crooked = place(
        stave(length=1.75, side_at=np.array([0.0, 1.1, 1.7]), side=np.array([0.0, 0.0, 0.03])),
        OUTLINE,
    )
    found = {p.turned: p for p in crooked.best}
    assert found[False].uneven == pytest.approx(0.03) and found[True].uneven == pytest.approx(-0.03)
    assert crooked.best[0].score < 90


def test_a_tilted_straight_stave_is_straight() -> None:
    fit = place(stave(side_at=np.array([0.0, 2.0]), side=np.array([0.0, 0.05])), OUTLINE)
    assert max(abs(p.uneven) for p in fit.best) == pytest.approx(0.0, abs=1e-12)


def test_end_checks_shorten_the_stave_and_too_short_a_one_is_refused() -> None:
    check = Flaw("end check", 0.1, 0.0, 0.2, 0.02, 0.03)
    fit = place(stave(check), OUTLINE)
    assert fit.starts[0] == pytest.approx(0.225)
    assert stave(check, cut=(0.0, 0.05)).usable == pytest.approx((0.2, 1.95))
    with pytest.raises(DescriptionError, match="too short"):
        place(stave(length=1.6), OUTLINE)
    assert advice_when_none(stave(length=1.6), OUTLINE, None) == ("shorter", "other stave")


def test_the_best_few_differ() -> None:
    fit = place(stave(knot(0.7), knot(1.3, kind="loose knot")), OUTLINE)
    assert len(fit.best) == 5
    assert [p.score for p in fit.best] == sorted((p.score for p in fit.best), reverse=True)
    for i, one in enumerate(fit.best):
        assert all(
            one.turned != other.turned or abs(one.start - other.start) > 0.03
            for other in fit.best[:i]
        )


def test_two_metres_with_twelve_flaws_are_placed_clear_of_the_worst() -> None:
    rng = np.random.default_rng(3)
    kinds = [k for k in FLAWS if k != "end check"]
    flaws = [
        knot(float(a), float(o), kinds[k])
        for k, (a, o) in enumerate(
            zip(rng.uniform(0, 2, 12), rng.uniform(-0.02, 0.02, 12), strict=True)
        )
    ]
    fit = place(stave(*flaws), OUTLINE, either_face=True)
    scores = [one.score for one in fit.best]
    assert scores and max(fit.scores[np.isfinite(fit.scores)]) <= max(scores) + 1e-9


@pytest.mark.parametrize(
    ("change", "place_"),
    [
        ({"flaws": (knot(2.5),)}, "flaws[0].at"),
        ({"flaws": (knot(0.5), knot(0.5, 0.05))}, "flaws[1].off"),
        ({"flaws": (knot(0.5, kind="hole"),)}, "flaws[0].kind"),
        ({"flaws": (replace(knot(0.5), depth=0.0),)}, "flaws[0].depth"),
        ({"flaws": (replace(knot(0.5), face="side"),)}, "flaws[0].face"),
        ({"length": -1.0}, "length"),
        ({"width": np.array([0.1, -0.1])}, "width"),
        ({"at": np.array([0.0, 3.0])}, "at"),
        ({"cut": (1.0, 1.1)}, "cut"),
    ],
)
def test_impossible_staves_name_their_figure(change: dict[str, object], place_: str) -> None:
    with pytest.raises(DescriptionError) as caught:
        checked(replace(stave(), **change))
    assert caught.value.place == place_


def test_a_bend_test_gives_back_the_modulus_it_was_made_from() -> None:
    """Sag of a beam on two supports: Fℓ³/48EI."""
    modulus, span, width, depth, load = 11e9, 0.6, 0.03, 0.008, 20.0
    sag = load * span**3 / (48 * modulus * width * depth**3 / 12)
    found = bend_test(span, load, sag, width, depth, 0.7, 640 * 0.7 * width * depth)
    assert found.modulus == pytest.approx(modulus)
    assert found.density == pytest.approx(640)
    assert 0.03 < found.modulus_error / modulus < 0.08
    deeper = bend_test(span, 2 * load, 2 * sag, width, depth)
    assert deeper.modulus == pytest.approx(modulus) and deeper.modulus_error < found.modulus_error
    for wrong, place_ in (
        ({"sag": 0.0}, "sag"),
        ({"sag": 0.2}, "sag"),
        ({"depth": 0.06}, "span"),
        ({"load": 1e5}, "load"),
        ({"width": float("nan")}, "width"),
    ):
        with pytest.raises(DescriptionError) as caught:
            bend_test(
                **({"span": span, "load": load, "sag": sag, "width": width, "depth": depth} | wrong)
            )
        assert caught.value.place == place_
    with pytest.raises(DescriptionError, match="so light or so heavy"):
        bend_test(span, load, sag, width, depth, 0.7, 5.0)


def test_run_out_weakens_as_tests_of_sloping_grain_found() -> None:
    """Modulus of rupture at slopes of 1 in 20, 15, 10 and 5, in per cent of straight grain: Wood
    Handbook (2021), chapter 5.
    """
    assert run_out(0.0, 1.0) == (0.0, 1.0)
    assert [run_out(1.0, over)[1] for over in (20, 15, 10, 5)] == pytest.approx(
        [0.93, 0.89, 0.81, 0.55], abs=0.02
    )
    assert run_out(-0.02, 1.0)[0] == pytest.approx(np.arctan(0.02))
    with pytest.raises(DescriptionError):
        run_out(0.1, 0.0)


@pytest.mark.parametrize("handle", [True, False])
def test_a_bow_asks_for_its_grip_only_where_the_handle_is_stiff(handle: bool) -> None:
    layouts = [make(0.7) for make in LAYOUTS.values()]
    layout = next(
        one
        for one in layouts
        if one.stiff_handle == handle and not one.back and one.unknown == "thickness"
    )
    outline = outline_of(
        solve_design(layout, Wanted(180.0, 0.7), material("wych elm"), METRIC_ROUNDING)
    )
    assert outline.length == pytest.approx(layout.length)
    middle = np.argmin(np.abs(outline.at - 0.5 * outline.length))
    if handle:
        assert (
            outline.width[middle] == pytest.approx(0.7 * layout.width, rel=0.01)
            and outline.use[middle] < 0.3
        )
        assert outline.depth.max() == pytest.approx(layout.handle_depth)
    else:
        near = np.abs(outline.at - 0.5 * outline.length) < 0.1
        assert (
            outline.width[near].min() == pytest.approx(layout.width, rel=0.02)
            and outline.use[near].min() > 0.5
        )
        assert outline.depth.max() < 0.9 * layout.handle_depth


def test_a_dip_within_a_limb_is_passed_over_where_there_is_room_and_told_where_there_is_none() -> (
    None
):
    at = np.linspace(0.0, 2.2, 221)
    dip = 0.012 * np.exp(-(((at - 0.25) / 0.06) ** 2))
    fit = place(stave(length=2.2, side_at=at, side=dip), OUTLINE)
    assert fit.best[0].start > 0.3 and fit.best[0].wave < 0.002
    assert fit.scores[0] < fit.scores[-1] - 5
    tight = place(stave(length=1.75, side_at=at, side=dip), OUTLINE)
    assert min(p.wave for p in tight.best) > 0.0035
    # an even bend, read at a few places only, is no wave
    few = np.linspace(0.0, 2.2, 8)
    assert (
        max(
            p.wave
            for p in place(
                stave(length=2.2, side_at=few, side=0.03 * few * (2.2 - few)), OUTLINE
            ).best
        )
        < 0.002
    )
