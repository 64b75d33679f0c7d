"""Place by place: every kind of reading, the field estimate, advice, set, bite, rescue, and the
virtual stave.
"""

from dataclasses import replace

import numpy as np
import pytest

from bowyery.bow.bow import SIDES
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import DescriptionError, EstimateError
from bowyery.mechanics import curve as force_curve
from bowyery.practice.virtual_stave import (
    drawn_state,
    exercise,
    new_stave,
    pull,
    reached,
    read_stave,
    scrape,
)
from bowyery.tiller import bite as tools
from bowyery.tiller.advice import advise, balance
from bowyery.tiller.estimate import (
    FIELD,
    PLACES,
    Estimate,
    Taken,
    carried,
    estimate,
    even_estimate,
    few_cells,
    first_belief,
    taken_field,
    would_sharpen,
)
from bowyery.tiller.forecast import bench_rules, forecast, weight_gradient
from bowyery.tiller.kinds import Reading
from bowyery.tiller.readings import check_readings, read
from bowyery.tiller.rescue import as_estimated, patched, rescues
from bowyery.tiller.set import Profile, Pull, from_which_pull, set_between, with_profiles
from bowyery.tiller.target import (
    Place,
    edge_correction,
    removals_of,
    uneven_places,
    wanted_state,
    weights_of,
)
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import material
from tests.core.readings import FULL, PLAN, bench_bow, edges, read_off

AT = 20 * INCH
HUNG = replace(
    bench_bow()[0].bow, hold=replace(bench_bow()[0].bow.hold, support="clamp", nock_offset=0.0)
)


def limbs() -> LimbGrid:
    return few_cells(bench_bow()[1])


def bumped(
    side: int, share: float, height: float, common: float = 0.15, width: float = 0.12
) -> np.ndarray:
    """Log stiffness with one place stiffer or weaker, ``(1, 2, PLACES)``."""
    field = np.full((1, 2, PLACES), common)
    field[0, side] += height * np.exp(-(((np.linspace(0, 1, PLACES) - share) / width) ** 2))
    return field


def every_kind() -> tuple[Reading, ...]:
    rows = [Reading("weight", 0.0, draw=AT), Reading("tilt", 0.0, draw=AT)]
    for side in SIDES:
        rows += [
            Reading("gap", 0.0, side),
            Reading("gap", 0.0, side, at=0.3),
            Reading("deepest gap", 0.0, side),
            Reading("deepest place", 0.0, side),
            Reading("tip height", 0.0, side, AT),
            Reading("tip travel", 0.0, side, AT, span=15 * INCH),
            Reading("offset", 0.0, side, AT, 0.35),
            Reading("outline", 0.0, side, AT, 0.4),
            Reading("straight edge", 0.0, side, AT, 0.3, 0.15),
            Reading("thickness", 0.0, side, at=0.3),
            Reading("width", 0.0, side, at=0.3),
        ]
    return tuple(rows)


def test_every_kind_reads_what_geometry_says() -> None:
    kinds = every_kind()
    found = {
        (k.kind, k.limb, k.at is None): float(v)
        for k, v in zip(kinds, read(limbs(), HUNG, kinds).values[0], strict=True)
    }
    assert found["tilt", None, True] == pytest.approx(0.0, abs=1e-9)  # clamped
    assert found["tip travel", "upper", True] < found["tip height", "upper", True]
    assert (
        found["gap", "upper", False] < found["gap", "upper", True]
    )  # nearer the nock the string lies nearer the belly
    assert found["deepest gap", "upper", True] >= found["gap", "upper", True]
    for side in SIDES:
        bend = 8 * found["straight edge", side, False] / 0.15**2  # g = κ ℓ²/8
        state = SIDES.index(side)
        drawn = force_curve.solve(HUNG, np.array([AT]), limbs().places().shape[-1] - 1)
        solved = np.interp(0.3, drawn.limbs.places()[state, 0], drawn.shapes.bend[state, -1])
        assert bend == pytest.approx(float(solved), rel=0.05)
        assert found["offset", side, False] > 0 and found["outline", side, False] > 0
        assert found["thickness", side, False] == pytest.approx(
            float(np.interp(0.3, limbs().places()[state, 0], limbs().depth[state, 0]))
        )


def test_a_straight_edge_shows_the_bend_beneath_it() -> None:
    curve = bench_bow()[0].curve
    row = (Reading("straight edge", 0.0, "upper", FULL, 0.35, 0.12),)
    gap = float(read(bench_bow()[1], bench_bow()[0].bow, row).values[0, 0])
    bend = float(np.interp(0.35, curve.limbs.places()[0, 0], curve.shapes.bend[0, -1]))
    assert 8 * gap / 0.12**2 == pytest.approx(bend, rel=0.03)


@pytest.mark.parametrize("row", every_kind(), ids=lambda r: f"{r.kind} {r.limb}")
def test_any_reading_alone_moves_the_estimate_towards_the_truth(row: Reading) -> None:
    """Both limbs stiffer and one place stiffer still: whatever is read, the fit explains it better
    than the belief did.
    """
    truth = bumped(0, 0.4, 0.25, 0.3)
    seen = read_off(limbs(), HUNG, (row,), truth)
    before = read(limbs(), HUNG, (row,)).values[0, 0]
    now = estimate(limbs(), HUNG, seen)
    assert abs(now.predicted[0] - seen[0].value) <= 0.7 * abs(before - seen[0].value) + 1e-4
    first = np.sqrt(np.diag(first_belief(limbs()).covariance))[: 2 * PLACES]
    assert np.all(now.spread <= first.reshape(2, PLACES) + 1e-9)


@pytest.mark.parametrize(("height", "side"), [(0.3, 0), (-0.3, 0), (0.3, 1), (-0.3, 1)])
def test_a_stiff_and_a_weak_place_are_found_where_they_are(height: float, side: int) -> None:
    """With a maker's errors in one look: mostly, and never far off."""
    kinds = (
        Reading("weight", 0.0, draw=AT),
        Reading("gap", 0.0, "upper"),
        Reading("gap", 0.0, "lower"),
        *edges(20),
    )
    length = float(limbs().length[side, 0])
    middle, half = 0.5 * length, 0.5 * length / (PLACES - 1)
    found, spared, told = 0, 0, 0
    for seed in range(9):
        rng = np.random.default_rng(seed)
        seen = read_off(limbs(), HUNG, kinds, bumped(side, 0.5, height), rng)
        now = estimate(limbs(), HUNG, seen)
        target = wanted_state(limbs(), HUNG, now, PLAN.stop_at, FULL, 0.0)
        weak, stiff = uneven_places(limbs(), now, target)
        rows = [p for p in (stiff if height > 0 else weak) if p.limb == SIDES[side]]
        found += any(p.start < middle + half and p.end > middle - half for p in rows)
        knot, other = PLACES // 2, uneven_on(weak if height > 0 else stiff, side, middle)
        told += np.sign(height) * (now.field[side, knot] - now.field[side, [2, 9]].mean()) > 0
        assert not other
        spared += target.removal[side, knot] <= 0.3 * target.removal[side].max()
    assert told >= 8 and found >= 3
    if height < 0:
        assert spared >= 6


def uneven_on(places: tuple[Place, ...], side: int, at: float) -> bool:
    return any(p.limb == SIDES[side] and p.start < at < p.end for p in places)


def test_a_wild_edge_is_named_and_a_sunk_weight_put_right() -> None:
    kinds = (*(Reading("weight", 0.0, draw=d * INCH) for d in (14, 17, 20)), *edges(20))
    seen = list(read_off(limbs(), HUNG, kinds, bumped(0, 0.4, 0.0)))
    seen[6] = replace(seen[6], value=seen[6].value + 0.004)
    assert estimate(limbs(), HUNG, tuple(seen)).wild == (6,)
    held = tuple(
        replace(r, value=r.value * 0.94, drop=0.06) if r.kind == "weight" else r for r in seen[:3]
    )
    assert estimate(limbs(), HUNG, held).common == pytest.approx(0.15, abs=0.03)


def test_strings_may_be_mixed_in_one_check() -> None:
    long = replace(HUNG, brace_height=None, string_length=1.78)
    rows = (
        Reading("weight", 0.0, draw=16 * INCH, string="long"),
        Reading("weight", 0.0, draw=18 * INCH, string="full"),
        Reading("gap", 0.0, "upper", string="full"),
    )
    bows = {"long": long, "full": HUNG}
    values = read(limbs().stiffened(np.full((2, 1, limbs().cells + 1), 1.4)), bows, rows).values[0]
    now = estimate(
        limbs(), bows, tuple(replace(r, value=float(v)) for r, v in zip(rows, values, strict=True))
    )
    assert now.common == pytest.approx(np.log(1.4), abs=0.05)


@pytest.mark.parametrize(
    ("row", "says"),
    [
        (Reading("smell", 1.0), "not a kind"),  # type: ignore[arg-type]
        (Reading("weight", float("nan"), draw=0.4), "must be a number"),
        (Reading("straight edge", 0.001, "upper", 0.4, 0.3), "edge's length"),
        (Reading("offset", 0.01, "upper", 0.4), "wants a place"),
        (Reading("tip travel", 0.01, "upper", 0.4), "earlier draw"),
        (Reading("weight", 100.0, draw=0.4, drop=0.8), "sinks by less"),
        (Reading("weight", 100.0, draw=0.4, error=0.0), "above zero"),
    ],
)
def test_impossible_readings_get_a_sentence(row: Reading, says: str) -> None:
    with pytest.raises(EstimateError, match=says):
        check_readings((row,))


def test_what_was_known_is_carried_through_a_removal() -> None:
    now = even_estimate(limbs(), 0.3, spread=0.05)
    taken = (Taken("upper", 0.0008, 0.2, 0.4),)
    after = carried(limbs(), HUNG, now.belief, taken)
    field, spread = (
        after.mean[: 2 * PLACES].reshape(2, PLACES),
        np.sqrt(np.diag(after.covariance))[: 2 * PLACES].reshape(2, PLACES),
    )
    assert (
        np.all(field[1] == pytest.approx(0.3))
        and field[0, 5] < 0.3 - 0.1
        and field[0, -1] == pytest.approx(0.3)
    )
    depth = float(np.interp(0.3, limbs().places()[0, 0], limbs().depth[0, 0])) * np.exp(0.1)
    assert field[0, 5] - 0.3 == pytest.approx(3 * np.log(1 - 0.0008 / depth), rel=0.15)
    assert spread[0, 5] > spread[1, 5] > 0.05
    with pytest.raises(EstimateError, match="between two places"):
        taken_field(limbs(), (Taken("upper", 0.001, 0.4, 0.3),))


def test_another_check_sharpens_and_the_best_next_reading_is_where_nothing_was_read() -> None:
    truth = bumped(0, 0.4, 0.2)
    kinds = (Reading("weight", 0.0, draw=AT), *edges(20))
    spreads = []
    for seed in range(6):
        rng = np.random.default_rng(seed)
        one = estimate(limbs(), HUNG, read_off(limbs(), HUNG, kinds, truth, rng))
        two = estimate(limbs(), HUNG, read_off(limbs(), HUNG, kinds, truth, rng), one.belief)
        spreads.append((one.spread.mean(), two.spread.mean()))
    first, second = np.mean(spreads, 0)
    assert second < 0.98 * first
    upper_only = estimate(
        limbs(), HUNG, read_off(limbs(), HUNG, tuple(k for k in kinds if k.limb != "lower"), truth)
    )
    best = would_sharpen(limbs(), HUNG, upper_only, edges(20))
    assert best[0].reading.limb == "lower" and best[0].gain > best[-1].gain > 0
    sharper = estimate(
        limbs(), HUNG, read_off(limbs(), HUNG, (best[0].reading,), truth), upper_only.belief
    )
    narrowed = (
        1
        - (sharper.weights * sharper.spread**2).sum()
        / (upper_only.weights * upper_only.spread**2).sum()
    )
    assert narrowed == pytest.approx(best[0].gain, abs=0.07)


def known(field: np.ndarray) -> Estimate:
    """An estimate of limbs whose stiffness at the places is known."""
    even = even_estimate(limbs(), 0.0)
    mean = even.belief.means.copy()
    mean[0, FIELD] = field.ravel()
    return replace(even, belief=replace(even.belief, means=mean))


def test_the_target_keeps_the_weight_adds_nothing_and_takes_least() -> None:
    field = bumped(1, 0.3, -0.3, 0.4)[0]
    now = known(field)
    target = wanted_state(limbs(), HUNG, now, PLAN.stop_at, FULL, 0.0)
    assert target.weight == pytest.approx(PLAN.stop_at, rel=0.005)
    assert np.all(target.field <= field + 1e-9) and np.all(target.removal >= -1e-12)
    after = field + target.law.fall(field, target.removal)
    assert weights_of(limbs(), HUNG, after[None], FULL)[0] == pytest.approx(PLAN.stop_at, rel=0.005)
    rows = removals_of(limbs(), target.removal, target.thickness)
    back = taken_field(limbs(), tuple(Taken(r.limb, r.thickness, r.start, r.end) for r in rows))
    assert np.abs(back - target.removal)[:, 1:-1].max() < 0.35 * target.removal.max()


def test_the_ladder_brace_and_rescue() -> None:
    def said(common: float, string: str, draw: float = 20) -> str:
        now = even_estimate(limbs(), common, -0.06, 0.02)
        outlook = forecast(limbs(), bench_bow()[0].bow, now, FULL, draw * INCH, PLAN.losses)
        stand = balance(limbs(), bench_bow()[0].bow, now, PLAN.fingers)
        found = advise(
            limbs(), bench_bow()[0].bow, now, outlook, stand, PLAN, draw * INCH, None, string
        )
        return f"{found.act} {found.string}"

    assert said(0.7, "long").endswith("long")
    assert said(0.25, "long").endswith("low")
    assert said(0.12, "low").endswith("full")
    assert said(-0.3, "full").startswith("rescue")


def test_edges_of_the_advice_for_twist() -> None:
    assert edge_correction(0.006, 0.04, 0.25) == pytest.approx(2 * 0.04 * 0.006 / 0.25)
    assert edge_correction(0.0, 0.04, 0.25) == 0.0


def test_bench_rules_stand_beside_the_forecast() -> None:
    outlook = forecast(limbs(), HUNG, even_estimate(limbs(), 0.1), FULL, 20 * INCH, PLAN.losses)
    read = ((18 * INCH, 28 * POUND_FORCE), (20 * INCH, 32 * POUND_FORCE))
    shared, rising = bench_rules(outlook, read)
    assert shared.weight == pytest.approx(32 * POUND_FORCE * FULL / (20 * INCH))
    assert rising.weight == pytest.approx((32 + 2 * (FULL / INCH - 20)) * POUND_FORCE)
    for rule in (shared, rising):
        assert rule.weight == pytest.approx(outlook.weights[-1] * (1 + rule.off))
    assert [rule.name for rule in bench_rules(outlook, read[1:])] == ["in proportion"]
    assert bench_rules(outlook, ()) == ()
    weight, slope = weight_gradient(limbs(), HUNG, even_estimate(limbs(), 0.1), FULL)
    assert slope[FIELD].sum() == pytest.approx(
        weight, rel=0.03
    )  # stiffer by a share everywhere is heavier by that share


def profile(side: str, curvature: float, error: float = 0.0) -> Profile:
    at = np.linspace(0.05, float(limbs().length[0, 0]), 14)
    return Profile(
        side,
        at,
        0.5 * curvature * at**2 + error * np.random.default_rng(3).standard_normal(at.size),
    )


def test_set_is_found_in_its_limb_with_a_range_and_its_pull() -> None:
    length = float(limbs().length[0, 0])
    before, after = profile("upper", 0.0, 0.0004), profile("upper", 0.05, 0.0004)
    found = set_between(limbs(), before, after)
    assert found.low < 0.5 * 0.05 * length**2 < found.high and found.high - found.low < 0.01
    inner = Profile(
        "upper",
        before.at,
        np.where(before.at > 0.2, 0.08 * (before.at - 0.1) * 0.2, 0.4 * 0.08 * before.at**2),
    )
    assert set_between(limbs(), before, inner).end == pytest.approx(length / 3)
    assert set_between(limbs(), before, before).share == 0.0
    pulls = [
        Pull(0.4, 0.004, "a"),
        Pull(0.5, 0.007, "b"),
        Pull(0.5, 0.0071, "c"),
        Pull(0.6, 0.009, "d"),
    ]
    assert (
        from_which_pull(pulls, 0.006).name == "d" and from_which_pull(pulls[:3], 0.006).name == "b"
    )
    assert from_which_pull(pulls[:1], 0.006) is None
    for wrong in (
        profile("lower", 0.0),
        Profile("upper", np.array([0.1]), np.zeros(1)),
        Profile("upper", np.array([0.1, 2.0]), np.zeros(2)),
    ):
        with pytest.raises(EstimateError):
            set_between(limbs(), before, wrong)


def test_a_measured_profile_becomes_the_natural_bend() -> None:
    crooked = with_profiles(limbs(), [profile("upper", 0.12)])
    assert crooked.curvature[0, 0, 4:-4] == pytest.approx(0.12, abs=0.02)
    assert np.all(crooked.curvature[1] == limbs().curvature[1])


def test_the_bite_of_a_tool_is_learned_and_dense_wood_gives_less() -> None:
    bite = tools.first_bite("scraper", 650, 0.035)
    assert (
        tools.first_bite("scraper", 900, 0.035).thickness
        < bite.thickness
        < tools.first_bite("rasp", 650, 0.035).thickness
    )
    for _ in range(6):
        bite = tools.learned(bite, 20, 20 * 0.000035, 0.0001)
    assert bite.thickness == pytest.approx(0.000035, rel=0.1) and bite.low < 0.000035 < bite.high
    assert (
        tools.strokes_for(bite, 0.00035) == pytest.approx(10, abs=1)
        and tools.strokes_for(bite, 0.0) == 0
    )
    below = tools.learned(bite, 10, -0.001, 0.001)  # counts as little as it is sure
    assert 0.99 * bite.thickness < below.thickness < bite.thickness
    assert tools.learned(bite, 10, float("nan"), 0.001) == bite
    for tool, density, width in (
        ("spoon", 600, 0.03),
        ("rasp", 0, 0.03),
        ("rasp", 600, float("nan")),
    ):
        with pytest.raises(EstimateError):
            tools.first_bite(tool, density, width)
    with pytest.raises(EstimateError):
        tools.learned(bite, 0, 0.001, 0.001)


def test_rescues_stand_side_by_side() -> None:
    bow, now = bench_bow()[0].bow, even_estimate(limbs(), -0.15)
    rows = rescues(
        bow, now, FULL, [0.013, 0.025], (material("rawhide"), 0.001), ("upper", 0.2, 0.35, 0.002)
    )
    weight = {f"{name} {by:g}": row.weight for name, by, row in rows}
    assert weight["accept 0"] == pytest.approx(
        weights_of(limbs(), bow, now.field[None], FULL)[0], rel=0.01
    )
    assert weight["accept 0"] < weight["shorten 0.013"] < weight["shorten 0.025"]
    assert min(weight["heat 0"], weight["back 0.001"], weight["patch 0.002"]) > weight["accept 0"]
    assert as_estimated(bow, now).upper.thickness == pytest.approx(
        bow.upper.thickness * np.exp(-0.05)
    )
    for wrong in (
        ("middle", 0.1, 0.2, 0.001),
        ("upper", 0.3, 0.2, 0.001),
        ("upper", 0.1, 0.2, 0.0),
    ):
        with pytest.raises(DescriptionError):
            patched(bow, *wrong)


def test_the_virtual_stave_is_reproducible_hides_remembers_sets_and_breaks() -> None:
    wood = material("wych elm")

    def made(seed: int, **more: float) -> object:
        return new_stave(limbs(), HUNG, wood, np.random.default_rng(seed), **more)

    one, again, other = made(4), made(4), made(5)
    assert np.array_equal(one.logs, again.logs) and not np.array_equal(one.logs, other.logs)
    spread = np.std([made(k, crook=0.0).wood[0, 16] for k in range(120)])
    assert 0.10 < spread < 0.20  # the wood and the book together
    assert made(4, hinge=0.3).wood.min() < one.wood.min() + 0.05
    # a scrape shows little at once and in full after pulls
    taken = (Taken("upper", 0.001),)
    fresh = scrape(one, taken)
    weights = [
        drawn_state(s, HUNG, AT)[0] for s in (one, fresh, exercise(fresh, 8), exercise(fresh, 40))
    ]
    assert weights[0] == pytest.approx(weights[1]) and weights[1] > weights[2] > weights[3]
    rng = np.random.default_rng(1)
    assert not np.array_equal(scrape(one, taken, rng).thickness, fresh.thickness)
    # readings with a maker's errors, and without
    rows = (Reading("weight", 0.0, draw=AT), Reading("thickness", 0.0, "upper", at=0.3))
    true, seen = read_stave(one, HUNG, rows), read_stave(one, HUNG, rows, rng)
    assert true[0].value == pytest.approx(weights[0], rel=1e-6) and seen[0].value != true[0].value
    assert abs(seen[1].value - true[1].value) < 0.001
    # overstrained it keeps a set; pulled too far it breaks
    assert pull(one, HUNG, 12 * INCH).set.max() < pull(one, HUNG, 24 * INCH).set.max()
    assert pull(replace(one, rupture=0.004), HUNG, 24 * INCH).broken
    stop = reached(one, HUNG, 24 * INCH, 30 * POUND_FORCE)
    assert drawn_state(one, HUNG, stop)[0] == pytest.approx(30 * POUND_FORCE, rel=0.02)
