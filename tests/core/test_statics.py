"""Laws of the braced and drawn bow, and its typed failures."""

import tracemalloc
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import simpson

from bowyery.bow.bow import Bow, Hold, Limb
from bowyery.bow.limb_grid import curvature_from_points, grid
from bowyery.errors import (
    BowyeryError,
    DescriptionError,
    DrawBeyondReachError,
    StringTooLongError,
    StringTooShortError,
)
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from tests.core.bows import bow, kinds, limb

DRAWS = np.linspace(0.2, 0.66, 12)
FEW = settings(max_examples=15)


def from_brace(which: Bow, count: int = 121) -> force_curve.Curve:
    braced = statics.brace_bow(grid(which), which)
    return force_curve.solve(which, np.linspace(float(braced.least_draw[0]) + 1e-9, 0.66, count))


@pytest.mark.parametrize("name", kinds())
def test_work_of_the_draw_is_the_strain_energy_of_the_limbs(name: str) -> None:
    which = kinds()[name]
    curve = from_brace(which)
    drawn = curve.drawn
    if which.hold.support == "clamp":
        # the hook is led along the line through the pivot: start from the first state that is on it
        work = simpson(drawn.weight[10:], x=drawn.draw[10:])
        assert work == pytest.approx(curve.energy[-1] - curve.energy[10], rel=1e-4)
    else:
        assert simpson(drawn.weight, x=drawn.draw) == pytest.approx(curve.energy[-1], rel=1e-4)


@pytest.mark.parametrize("name", kinds())
def test_states_are_in_equilibrium(name: str) -> None:
    """Nocks, nocking point and pivot satisfy statics, checked from the shapes alone."""
    which = kinds()[name]
    curve = force_curve.solve(which, DRAWS)
    drawn, tip = curve.drawn, curve.shapes.string
    pull = np.zeros((2, DRAWS.size))
    for k in (0, 1):
        way = tip[:, k] - drawn.nock
        pull += drawn.tension[k] * way / np.hypot(*way)
    arm = drawn.nock - np.array(which.hold.pivot)[:, None]
    assert np.hypot(*arm) == pytest.approx(DRAWS, rel=1e-9)
    if which.hold.support == "clamp":
        assert arm[0] == pytest.approx(np.zeros(DRAWS.size), abs=1e-9)
    else:
        assert pull[0] * arm[1] - pull[1] * arm[0] == pytest.approx(np.zeros(DRAWS.size), abs=1e-4)
    assert -(pull * arm).sum(0) / DRAWS == pytest.approx(drawn.weight, rel=1e-4)
    # moment at each root: tension times the lever of the string about it
    for k in (0, 1):
        root = np.array([curve.shapes.along[k, :, 0], curve.shapes.across[k, :, 0]])
        way = (tip[:, k] - drawn.nock) / np.hypot(*(tip[:, k] - drawn.nock))
        lever = np.abs((root - drawn.nock)[0] * way[1] - (root - drawn.nock)[1] * way[0])
        assert curve.shapes.moment[k, :, 0] == pytest.approx(drawn.tension[k] * lever, rel=1e-4)


@pytest.mark.parametrize("name", kinds())
def test_the_string_keeps_its_length(name: str) -> None:
    curve = force_curve.solve(kinds()[name], DRAWS)
    tip, nock = curve.shapes.string, curve.drawn.nock
    total = sum(np.hypot(*(tip[:, k] - nock)) for k in (0, 1))
    assert total == pytest.approx(np.full(DRAWS.size, curve.braced.string_length[0]), rel=1e-5)


def test_a_symmetrical_bow_bends_alike_and_does_not_tilt() -> None:
    curve = force_curve.solve(bow(), DRAWS)
    assert curve.drawn.tension[0] == pytest.approx(curve.drawn.tension[1])
    assert curve.drawn.tilt == pytest.approx(np.zeros(DRAWS.size), abs=1e-9)
    assert curve.shapes.across[0] == pytest.approx(curve.shapes.across[1])


def test_turned_end_for_end_the_answer_turns_with_it() -> None:
    for which in (kinds()["unequal"], kinds()["low grip"], kinds()["offset nock"]):
        hold = which.hold
        turned = Bow(
            which.lower,
            which.upper,
            replace(hold, pivot=(-hold.pivot[0], hold.pivot[1]), nock_offset=-hold.nock_offset),
            which.brace_height,
        )
        one, other = force_curve.solve(which, DRAWS), force_curve.solve(turned, DRAWS)
        assert other.drawn.weight == pytest.approx(one.drawn.weight, rel=1e-8)
        assert other.drawn.tension == pytest.approx(one.drawn.tension[::-1], rel=1e-8)
        assert other.drawn.tilt == pytest.approx(-one.drawn.tilt, abs=1e-8)


@FEW
@given(st.floats(0.5, 2.0), st.floats(0.3, 3.0), st.sampled_from(sorted(kinds())))
def test_scaling_lengths_and_modulus(size: float, harder: float, name: str) -> None:
    """Twice as large in everything: the same angles and strains, forces with modulus and area."""
    which = kinds()[name]

    def grown(side: Limb) -> Limb:
        layers = tuple(replace(la, modulus=la.modulus * harder) for la in side.layers)
        root = (side.root[0] * size, side.root[1] * size, side.root[2])
        return replace(
            side,
            at=side.at * size,
            width=side.width * size,
            thickness=side.thickness * size,
            layers=layers,
            root=root,
            unstrung_at=side.unstrung_at * size,
            unstrung=side.unstrung / size,
        )

    hold = replace(
        which.hold,
        pivot=(which.hold.pivot[0] * size, which.hold.pivot[1] * size),
        nock_offset=which.hold.nock_offset * size,
    )
    large = Bow(grown(which.upper), grown(which.lower), hold, which.brace_height * size)
    one, other = force_curve.solve(which, DRAWS), force_curve.solve(large, DRAWS * size)
    assert other.drawn.weight == pytest.approx(one.drawn.weight * harder * size**2, rel=1e-6)
    assert other.energy == pytest.approx(one.energy * harder * size**3, rel=1e-6)
    assert [p.value for p in other.peaks] == pytest.approx([p.value for p in one.peaks], rel=1e-6)


@FEW
@given(st.floats(0.02, 0.38), st.sampled_from(sorted(kinds())))
def test_a_station_put_between_two_others_changes_nothing(place: float, name: str) -> None:
    which = kinds()[name]

    def with_station(side: Limb) -> Limb:
        at = np.sort(np.append(side.at, place))
        return replace(
            side,
            at=at,
            width=np.interp(at, side.at, side.width),
            thickness=np.interp(at, side.at, side.thickness),
        )

    one = force_curve.solve(which, DRAWS)
    other = force_curve.solve(
        replace(which, upper=with_station(which.upper), lower=with_station(which.lower)), DRAWS
    )
    assert other.drawn.weight == pytest.approx(one.drawn.weight, rel=1e-9)


@pytest.mark.parametrize("name", kinds())
def test_further_is_heavier_and_fuller_of_energy(name: str) -> None:
    curve = force_curve.solve(kinds()[name], DRAWS)
    assert np.all(np.diff(curve.drawn.weight) > 0)
    assert np.all(np.diff(curve.energy) > 0)
    assert np.all(curve.drawn.tension > 0)


@FEW
@given(st.floats(1.01, 1.3))
def test_thicker_limbs_pull_harder_and_longer_ones_softer(grow: float) -> None:
    base = force_curve.solve(bow(), DRAWS).drawn.weight
    thick = limb(thicknesses=(0.0165 * grow, 0.014 * grow, 0.010 * grow))
    assert np.all(force_curve.solve(bow(thick), DRAWS).drawn.weight > base)
    long = limb(at=(0.0, 0.4 * grow, 0.78 * grow))
    assert force_curve.solve(bow(long), DRAWS).drawn.weight[-1] < base[-1]


def test_cells_converge_on_one_weight() -> None:
    weights = [
        force_curve.solve(bow(), np.array([0.66]), n).drawn.weight[0] for n in (16, 32, 64, 256)
    ]
    off = np.abs(np.array(weights[:3]) / weights[3] - 1)
    assert off[2] < 5e-4
    assert off[0] > off[1] > off[2]


def test_brace_by_height_and_by_that_strings_length_agree() -> None:
    for which in kinds().values():
        braced = statics.brace_bow(grid(which), which)
        again = statics.brace_bow(
            grid(which),
            replace(which, brace_height=None, string_length=float(braced.string_length[0])),
        )
        assert again.height == pytest.approx(braced.height, rel=1e-7)
        assert again.tension == pytest.approx(braced.tension, rel=1e-6)


def test_batches_answer_as_one_by_one() -> None:
    which = kinds()["unequal"]
    limbs = grid(which)
    factors = np.exp(np.linspace(-0.3, 0.3, 7))
    varied = limbs.stiffened(np.stack([factors, 1 / factors])[..., None])
    braced = statics.brace(varied, which.hold, np.full(7, 0.15))
    drawn = statics.draw(varied, which.hold, braced, np.full(7, 0.6))
    for i, f in enumerate(factors):
        alone = limbs.stiffened(np.array([f, 1 / f])[:, None, None])
        one = statics.draw(
            alone, which.hold, statics.brace(alone, which.hold, np.array([0.15])), np.array([0.6])
        )
        assert drawn.weight[i] == pytest.approx(one.weight[0], rel=1e-9)
        assert drawn.tilt[i] == pytest.approx(one.tilt[0], abs=1e-9)


def test_uniform_stiffening_scales_forces_and_keeps_shapes() -> None:
    which = bow()
    limbs = grid(which)
    soft = force_curve.solve_grid(limbs, which, DRAWS)
    hard = force_curve.solve_grid(limbs.stiffened(np.full((2, 1, 1), 1.7)), which, DRAWS)
    assert hard.drawn.weight == pytest.approx(1.7 * soft.drawn.weight, rel=1e-8)
    assert hard.shapes.across == pytest.approx(soft.shapes.across, abs=1e-8)


def test_a_hanging_string_is_drawn_from_where_it_hangs() -> None:
    slack = Bow(limb(), limb(), Hold("clamp"), None, 1.75)
    curve = force_curve.solve(slack, np.linspace(0.25, 0.6, 15))
    assert curve.braced.slack
    assert curve.braced.least_draw[0] == pytest.approx(np.sqrt(0.875**2 - 0.84**2), rel=1e-6)
    assert curve.drawn.weight[0] < 10
    assert simpson(curve.drawn.weight, x=curve.drawn.draw) == pytest.approx(
        curve.energy[-1] - curve.energy[0], rel=1e-3
    )


def test_a_sliding_hook_on_a_clamped_bow_evens_the_tension_and_keeps_the_energy() -> None:
    which = replace(kinds()["unequal"], hold=Hold("clamp", "sliding hook"))
    curve = force_curve.solve(which, np.linspace(0.2, 0.66, 61))
    assert curve.drawn.tension[0] == pytest.approx(curve.drawn.tension[1], rel=1e-8)
    work = simpson(curve.drawn.weight, x=curve.drawn.draw)
    assert work == pytest.approx(curve.energy[-1] - curve.energy[0], rel=1e-4)


def test_strain_is_bend_times_half_the_depth_of_a_rectangle() -> None:
    curve = force_curve.solve(bow(), DRAWS)
    half = 0.5 * curve.limbs.depth
    assert np.abs(curve.shapes.back) == pytest.approx(curve.shapes.bend * half, rel=1e-9)
    assert curve.shapes.belly == pytest.approx(-curve.shapes.back, rel=1e-6, abs=1e-12)
    assert curve.peaks[-1].value == pytest.approx(np.abs(curve.shapes.back[:, -1]).max())


def test_reflex_costs_brace_tension_and_gives_weight() -> None:
    straight, reflexed, deflexed = (
        force_curve.solve(kinds()[k], DRAWS) for k in ("straight", "reflexed", "deflexed")
    )
    assert reflexed.braced.tension > straight.braced.tension > deflexed.braced.tension
    assert np.all(reflexed.drawn.weight > straight.drawn.weight)


def test_impossible_states_have_names() -> None:
    which = bow()
    limbs = grid(which)
    with pytest.raises(StringTooShortError):
        statics.brace(limbs, Hold(), height=np.array([0.9]))
    deflexed = bow(limb(curvature=0.6))
    with pytest.raises(StringTooLongError):
        statics.brace(grid(deflexed), Hold(), height=np.array([0.05]))
    with pytest.raises(DrawBeyondReachError):
        force_curve.solve(which, np.array([1.6]))
    with pytest.raises(DrawBeyondReachError, match="starts at 150 mm"):
        force_curve.solve(which, np.array([0.1]))
    for bad in (0.0, -0.2, np.nan, np.inf):
        with pytest.raises(DescriptionError):
            force_curve.solve(which, np.array([bad]))
        with pytest.raises(DescriptionError):
            statics.brace(limbs, Hold(), height=np.array([bad]))
    with pytest.raises(DescriptionError):
        force_curve.solve(replace(which, brace_height=None), DRAWS)
    with pytest.raises(DescriptionError):
        force_curve.solve(which, np.array([]))


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"thickness": np.array([0.01, 0.0, 0.01])}, "limbs.upper.stations[1].thickness_mm"),
        ({"width": np.array([0.01, 0.02, -0.01])}, "limbs.upper.stations[2].width_mm"),
        ({"width": np.array([np.nan, 0.02, 0.01])}, "limbs.upper.stations[0].width_mm"),
        ({"at": np.array([0.0, 0.5, 0.5])}, "limbs.upper.stations[2].at_mm"),
        ({"at": np.array([0.1, 0.5, 0.7])}, "limbs.upper.stations[0].at_mm"),
        ({"unstrung": np.array([0.0, np.inf])}, "limbs.upper.unstrung[1].curvature_per_m"),
        (
            {"at": np.arange(10000.0), "width": np.ones(10000), "thickness": np.ones(10000)},
            "limbs.upper.stations",
        ),
        ({"layers": ()}, "layers"),
    ],
)
def test_impossible_limbs_are_refused_with_their_place(
    change: dict[str, object], place: str
) -> None:
    with pytest.raises(DescriptionError) as caught:
        grid(bow(replace(limb(), **change), limb()))
    assert caught.value.place == place


def test_a_negative_modulus_is_refused() -> None:
    with pytest.raises(DescriptionError, match="modulus_mpa"):
        grid(bow(limb(modulus=-1.0)))


@FEW
@given(
    st.floats(0.004, 0.03),
    st.floats(0.3, 1.2),
    st.floats(-1.5, 1.0),
    st.floats(0.03, 0.3),
    st.floats(0.2, 1.2),
)
def test_any_bow_gives_finite_figures_or_a_typed_error(
    thick: float, length: float, curvature: float, brace: float, draw: float
) -> None:
    side = limb(
        thicknesses=(thick, thick, 0.7 * thick), at=(0.0, length / 2, length), curvature=curvature
    )
    try:
        curve = force_curve.solve(bow(side, brace=brace), np.array([draw]))
    except BowyeryError as error:
        assert str(error).endswith(".")
        return
    assert np.isfinite(curve.drawn.weight[0])
    assert np.all(np.isfinite(curve.shapes.across))


def test_the_braced_string_lies_where_it_was_asked() -> None:
    for which in kinds().values():
        limbs = grid(which)
        braced = statics.brace_bow(limbs, which)
        tip = shapes(limbs, np.stack([braced.tension] * 2), braced.p).string[:, :, 0]
        px, py = which.hold.pivot
        share = (px - tip[0, 1]) / (tip[0, 0] - tip[0, 1])
        assert tip[1, 1] + share * (tip[1, 0] - tip[1, 1]) - py == pytest.approx(0.15, abs=1e-6)


@pytest.mark.parametrize("name", kinds())
def test_a_free_hook_on_a_bow_that_may_tilt_keeps_its_energy(name: str) -> None:
    which = replace(
        kinds()[name],
        hold=replace(kinds()[name].hold, support="rocking cradle", held_by="sliding hook"),
    )
    curve = from_brace(which)
    assert curve.drawn.tension[0] == pytest.approx(curve.drawn.tension[1], rel=1e-7)
    assert simpson(curve.drawn.weight, x=curve.drawn.draw) == pytest.approx(
        curve.energy[-1], rel=1e-4
    )


def test_a_grip_that_hardly_bends_is_a_rigid_one_and_a_soft_one_pulls_less() -> None:
    for which in (bow(), kinds()["low grip"], bow(limb(root=(0.07, 0.005, 0.06)))):
        rigid = force_curve.solve(which, DRAWS).drawn.weight
        stiff, soft = (
            force_curve.solve(replace(which, grip_stiffness=ei), DRAWS) for ei in (1e7, 300.0)
        )
        assert stiff.drawn.weight == pytest.approx(rigid, rel=5e-4)
        assert np.all(soft.drawn.weight < 0.97 * rigid)
        assert all(peak.at >= -0.2 for peak in soft.peaks)
    even = replace(bow(), grip_stiffness=600.0)
    assert simpson((curve := from_brace(even)).drawn.weight, x=curve.drawn.draw) == pytest.approx(
        curve.energy[-1], rel=1e-4
    )
    for wrong, place in ((-5.0, "grip_stiffness_nm2"), (float("nan"), "grip_stiffness_nm2")):
        with pytest.raises(DescriptionError, match=place):
            force_curve.solve(replace(bow(), grip_stiffness=wrong), DRAWS)
    with pytest.raises(DescriptionError, match="between the roots"):
        force_curve.solve(replace(bow(hold=Hold(pivot=(0.1, 0.0))), grip_stiffness=500.0), DRAWS)


@FEW
@given(st.floats(0.0, 1.0), st.sampled_from(sorted(kinds())))
def test_a_layer_of_no_thickness_changes_nothing(share: float, name: str) -> None:
    which = kinds()[name]

    def layered(side: Limb) -> Limb:
        skin = replace(
            side.layers[0], role="facing", modulus=9e10, thickness=np.zeros(side.at.size)
        )
        rest = side.layers[0]
        half = replace(rest, role="backing", thickness=0.5 * share * side.thickness)
        return replace(side, layers=(skin, half, rest))

    one = force_curve.solve(which, DRAWS)
    other = force_curve.solve(
        replace(which, upper=layered(which.upper), lower=layered(which.lower)), DRAWS
    )
    assert other.drawn.weight == pytest.approx(one.drawn.weight, rel=1e-5)


def test_bad_bows_are_refused_with_a_sentence() -> None:
    many = np.arange(10_000) * 1e-4
    bad = [
        bow(replace(limb(), thickness=np.array([0.01, 0.0, 0.01]))),
        bow(limb(modulus=-11e9)),
        bow(limb(modulus=float("nan"))),
        bow(replace(limb(), at=many, width=0 * many + 0.03, thickness=0 * many + 0.01)),
        bow(replace(limb(), width=np.array([0.03, np.nan, 0.03]))),
        bow(brace=5.0),
        replace(bow(), brace_height=None, string_length=0.1),
        bow(hold=Hold(nock_offset=9.0)),
        replace(bow(), brace_height=None),
    ]
    for which in bad:
        with pytest.raises(BowyeryError) as caught:
            force_curve.solve(which, np.array([0.3, 0.66]))
        assert str(caught.value).endswith(".") and len(str(caught.value)) > 20
    with pytest.raises(DrawBeyondReachError):
        force_curve.solve(bow(), np.array([2.5]))


def test_five_hundred_designs_are_one_batch_of_less_than_three_hundred_megabytes() -> None:
    which = bow()
    factors = np.exp(np.random.default_rng(4).normal(0, 0.2, (2, 500, 1)))
    tracemalloc.start()
    varied = grid(which).stiffened(factors)
    braced = statics.brace(varied, which.hold, np.full(500, 0.15))
    drawn = statics.draw(varied, which.hold, braced, np.full(500, 0.6))
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 300e6
    assert np.all(drawn.weight > 0)


def test_natural_crook_by_points_solves_as_by_curvature() -> None:
    s = np.linspace(0, 0.78, 200)
    theta = np.concatenate([[0], np.cumsum(-0.5 * np.sin(6 * (s[1:] + s[:-1]) / 2) * s[1])])
    u = np.concatenate([[0], np.cumsum(np.cos(0.5 * (theta[1:] + theta[:-1])) * s[1])])
    y = np.concatenate([[0], np.cumsum(np.sin(0.5 * (theta[1:] + theta[:-1])) * s[1])])
    places, curvature, angle = curvature_from_points(u[::10], y[::10])
    read = replace(limb(root=(0.06, 0.0, angle)), unstrung_at=places, unstrung=curvature)
    true = replace(limb(), unstrung_at=s, unstrung=-0.5 * np.sin(6 * s))
    one, other = (
        force_curve.solve(bow(read), DRAWS).drawn.weight,
        force_curve.solve(bow(true), DRAWS).drawn.weight,
    )
    assert one == pytest.approx(other, rel=5e-3)
    with pytest.raises(DescriptionError, match="three points"):
        curvature_from_points(np.array([0.0, 0.1]), np.zeros(2))
