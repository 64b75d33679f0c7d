"""A second bow tied to the back: against the plain bow, by energy, and by what tension does."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import simpson

from bowyery.bow import bowfile
from bowyery.bow.bow import Hold
from bowyery.errors import DescriptionError, SolveError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.dynamics import loose
from tests.core.bows import MAIN, limb, tied

DRAWS = np.linspace(0.2, 0.66, 8)


def test_a_back_bow_of_next_to_nothing_leaves_the_bow_as_the_march_solves_it() -> None:
    alone = force_curve.solve(MAIN, DRAWS, 32)
    shared = backbow.solve(tied(0.0015, 0.0), DRAWS)
    assert shared.weight == pytest.approx(alone.drawn.weight, rel=3e-3)
    assert shared.string_length == pytest.approx(alone.braced.string_length[0], rel=1e-3)
    assert np.all(shared.share < 0.01)


def test_both_bows_together_keep_their_energy() -> None:
    curve = backbow.solve(tied(), np.linspace(0.16, 0.66, 41))
    work = simpson(curve.weight, x=curve.draw)
    assert work == pytest.approx(curve.energy[-1] - curve.energy[0], rel=1e-3)


def test_a_tighter_cable_shares_more_and_a_stiffer_second_bow_pulls_harder() -> None:
    soft, tight = backbow.share_against_cable(tied(), 0.4, np.array([5.0, 120.0]))
    assert tight.share[0] > soft.share[0] + 0.02
    assert tight.cable[0, 0] > soft.cable[0, 0]
    plain, stiff = backbow.solve(tied(0.006), DRAWS), backbow.solve(tied(0.012), DRAWS)
    assert np.all(stiff.weight > plain.weight)
    assert np.all(stiff.share > plain.share)
    # what the second bow carries is taken off the first one at the same draw weight
    assert plain.strain[0, -1] > 0 and stiff.strain[1, -1] > 0


def test_unequal_limbs_tilt_until_the_pull_goes_through_the_hand() -> None:
    shorter = limb(thicknesses=(0.015, 0.013, 0.009), at=(0.0, 0.4, 0.74))
    uneven = tied(main=replace(MAIN, lower=shorter), at=0.72)
    hand = backbow.solve(uneven, np.array([0.5]))
    clamp = backbow.solve(replace(uneven, hold=Hold("clamp")), np.array([0.5]))
    assert abs(hand.nock[0].real) > 1e-3
    assert clamp.nock[0].real == pytest.approx(0.0, abs=1e-12)
    assert hand.tension[0, 0] != pytest.approx(hand.tension[1, 0], rel=1e-3)


def test_a_string_by_length_comes_to_the_same_brace() -> None:
    by_height = backbow.solve(tied(), np.array([0.4]))
    again = backbow.solve(
        replace(tied(), brace_height=None, string_length=by_height.string_length), np.array([0.4])
    )
    assert again.brace_height == pytest.approx(0.15, abs=1e-5)
    assert again.weight == pytest.approx(by_height.weight, rel=1e-4)


def test_it_can_be_loosed_and_keeps_its_energy() -> None:
    found = loose(tied(), 0.66, 0.03, masses=16, damping=0.0)
    assert abs(found.balance) < 0.005
    assert 0.4 < found.efficiency < 0.9


def test_it_is_written_to_the_bow_file_and_read_again() -> None:
    one = tied()
    two = bowfile.loads(bowfile.dumps(one))
    assert two.back_bow is not None and one.back_bow is not None
    assert two.back_bow.cable_tension == one.back_bow.cable_tension
    assert backbow.solve(two, DRAWS[:2]).weight == pytest.approx(
        backbow.solve(one, DRAWS[:2]).weight, rel=1e-6
    )


def test_impossible_back_bows_are_refused() -> None:
    back = tied().back_bow
    assert back is not None
    for wrong, place in (
        (replace(tied(), back_bow=replace(back, tied_at=2.0)), "tied_at_mm"),
        (replace(tied(), back_bow=replace(back, cable_tension=-1.0)), "cable_tension_n"),
        (
            replace(tied(), back_bow=replace(back, cable_stiffness=float("nan"))),
            "cable_stiffness_n",
        ),
        (replace(tied(), hold=Hold("hand", "sliding hook")), "string_held_by"),
        (replace(tied(), back_bow=None), "back_bow"),
        (replace(tied(), brace_height=None, string_length=1.9), "string"),
    ):
        with pytest.raises(DescriptionError, match=place):
            backbow.solve(wrong, DRAWS)
    with pytest.raises(SolveError):
        backbow.solve(replace(tied(), brace_height=0.9), np.array([1.0]))
    with pytest.raises(DescriptionError, match="draws"):
        backbow.solve(tied(), np.array([0.5, 0.4]))


def test_a_loose_cable_strains_the_inner_limbs_more_and_shares_less() -> None:
    # Given the same bow with its cables ever looser, and then tight
    bow = tied()
    slacks = np.array([0.04, 0.02, 0.01, 0.004])
    curves = backbow.share_against_cable(bow, 0.6, np.array([60.0]), slacks=slacks)
    inner = [backbow.inner_strain(curve) for curve in curves]
    # Then the main bow is the more strained the looser they are, and the back-bow bears less
    assert np.all(np.diff(inner) < 0)
    assert np.all(np.diff([curve.share[-1] for curve in curves]) > 0)
    assert np.all(np.diff([curve.weight[-1] for curve in curves]) > 0)
    # and a bow whose cable never comes taut is the bow alone
    hangs = backbow.solve(replace(bow, back_bow=replace(bow.back_bow, slack=0.1)), np.array([0.3]))
    alone = force_curve.solve(replace(bow, back_bow=None), np.array([0.3]), 32)
    assert hangs.weight[-1] == pytest.approx(float(alone.drawn.weight[-1]), rel=3e-3)
    assert hangs.cable[0, -1] == 0.0


def test_a_loose_cable_is_in_the_bow_file() -> None:
    bow = replace(tied(), back_bow=replace(tied().back_bow, slack=0.012))
    assert bowfile.loads(bowfile.dumps(bow)).back_bow.slack == pytest.approx(0.012)
    assert "cable_slack_mm" not in bowfile.dumps(tied())


def test_two_back_bows_on_one_another_slide_and_add_up() -> None:
    bow = tied()
    back = bow.back_bow
    assert back is not None
    two = replace(bow, back_bow=replace(back, count=2))
    stiff = tuple(
        replace(one, modulus=2 * one.modulus, density=2 * one.density) for one in back.limb.layers
    )
    one = replace(bow, back_bow=replace(back, limb=replace(back.limb, layers=stiff)))
    draws = np.array([0.3, 0.5])
    a, b, plain = (backbow.solve(which, draws) for which in (two, one, bow))
    assert a.weight == pytest.approx(b.weight, rel=1e-9)
    assert a.strain == pytest.approx(b.strain, rel=1e-6)
    assert np.all(a.weight > plain.weight)
    assert bowfile.loads(bowfile.dumps(two)).back_bow.count == 2
    with pytest.raises(DescriptionError):
        backbow.solve(replace(bow, back_bow=replace(back, count=3)), draws)
