"""Photographs of a stand-in camera: read where they can be read, and refused with a reason."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from benchmarks import camera
from benchmarks.camera import misses
from bowyery.bow import bowfile
from bowyery.cli.__main__ import main
from bowyery.errors import DescriptionError
from bowyery.sight.check import BY_HAND, PLACES, aside, gaps, line_of, put_right, seen_in
from bowyery.sight.tags import IDS, find_tags, pattern_of
from bowyery.sight.trace import trace
from bowyery.tiller.pencil import parse
from bowyery.tiller.pencil import words as said_of
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import METRIC, Units

pytestmark = pytest.mark.slow

picture = cache(camera.picture)  # each takes two seconds to make
USUAL = 8.0  # mm that a drawn limb may be off at its worst


@pytest.fixture(scope="module")
def shots() -> list[tuple[np.ndarray, Any]]:
    return [picture(number) for number in (0, 1, 2)]


def test_limbs_on_a_wall_with_tags_are_read_to_a_few_millimetres(
    shots: list[tuple[np.ndarray, Any]],
) -> None:
    means, held = [], []
    for image, truth in shots:
        found = trace(image, truth.bow)
        assert found.found, found.why
        errors, said = misses(found, truth)
        means.append(np.sqrt(np.mean(errors**2)))
        held.append(np.mean(errors <= said))
        assert errors.max() < USUAL
        assert found.draw is None or found.draw == pytest.approx(truth.draw, abs=12.0)
    assert np.mean(means) < 2.0 and np.mean(held) > 0.75


def test_what_is_no_picture_of_this_bow_is_refused_with_a_reason(
    shots: list[tuple[np.ndarray, Any]],
) -> None:
    image, truth = shots[0]
    rng = np.random.default_rng(1)
    noise = rng.integers(0, 255, image.shape, dtype=np.uint8)
    for odd, state, says in (
        (noise, "drawn", "tag"), (image[:100], "drawn", "too small"),
        (np.ascontiguousarray(image[:, ::-1]), "drawn", "mirrored"),
        (cv2.GaussianBlur(image, (0, 0), 25), "drawn", "blurred"),
    ):  # fmt: skip
        found = trace(odd, truth.bow, state)  # type: ignore[arg-type]
        assert not found.found and says in found.why and not found.limbs
    for taps in (np.zeros((4, 2)), np.full((5, 2), np.nan), np.full((5, 2), -900.0)):
        assert not trace(image, truth.bow, "drawn", taps).found
    turned = truth.taps[::-1]
    assert "to the right" in trace(image, truth.bow, "drawn", turned).why


@pytest.mark.parametrize("state", ["braced", "unstrung"])
def test_little_bent_bows_are_held_in_place_by_their_ends(state: Any) -> None:
    means, held = [], []
    for number in (0, 1, 5):
        image, truth = picture(number, state)
        found = trace(image, truth.bow, state)
        assert found.found and found.draw is None, found.why
        errors, said = misses(found, truth)
        means.append(np.sqrt(np.mean(errors**2)))
        held.append(np.mean(errors <= said))
        if state == "braced" and found.nocking_point and truth.nock:
            assert found.nocking_point[1] == pytest.approx(truth.nock[1], abs=12.0)
    assert min(means) < 1.0 and np.mean(means) < 2.5 and np.mean(held) > 0.6


def test_a_bow_in_another_state_is_not_taken_for_this_one(
    shots: list[tuple[np.ndarray, Any]],
) -> None:
    image, truth = shots[0]
    assert not trace(image, truth.bow, "unstrung").found
    still, hung = picture(0, "unstrung")
    assert not trace(still, hung.bow, "braced").found


def test_a_braced_bow_whose_string_cannot_be_seen_is_refused() -> None:
    image, truth = picture(2, "braced")
    assert "string cannot be seen" in trace(image, truth.bow, "braced").why


def test_places_of_a_picture_are_put_right_by_hand_and_written_down(
    shots: list[tuple[np.ndarray, Any]],
) -> None:
    image, truth = shots[0]
    bow, tree = truth.bow, Tree()
    seen = seen_in(trace(image, bow), bow, "drawn", 0.5)
    assert len(seen.knots) == 2 * PLACES
    last = seen.knots[PLACES - 1]
    assert last.across == pytest.approx(
        truth.limbs[0][-1, 1] - truth.limbs[0][0, 1], abs=8.0
    )  # fmt: skip
    # ten pixels down in a picture of half the size are some two centimetres
    moved = put_right(seen, bow, {PLACES - 1: (last.pixel[0], last.pixel[1] + 10)})
    assert moved.knots[PLACES - 1].across - last.across == pytest.approx(20.0, abs=8.0)
    assert moved.knots[PLACES - 1].error == BY_HAND and moved.knots[:-1][0] == seen.knots[0]
    assert seen.nock and seen.draw and moved.draw == seen.draw
    further = put_right(seen, bow, {2 * PLACES: (seen.nock[0], seen.nock[1] + 10)})
    assert further.draw == pytest.approx(seen.draw + 20, abs=8.0)
    # what is told of it beside: the gaps at the fades, and how square it is pulled
    between = gaps(seen, bow)
    assert between and truth.nock
    for side, (gap, limb) in enumerate(zip(between, bow.limbs, strict=True)):
        nock, (x, y) = truth.limbs[side][-1], truth.nock
        root = np.array(limb.root[:2]) * [1e3 * (1 - 2 * side), 1e3]
        string = y + (nock[1] - y) * (root[0] - x) / (nock[0] - x)
        assert gap == pytest.approx(string - root[1] - 500 * limb.thickness[0], abs=8.0)
    off = aside(seen, bow)
    assert off == pytest.approx(np.arctan2(*truth.nock), abs=0.01)  # its pivot is the origin
    for wrong in ({99: (1.0, 1.0)}, {0: (np.nan, 1.0)}, {0: (5.0, 5000.0)}):
        with pytest.raises(DescriptionError):
            put_right(seen, bow, wrong)
    line = line_of(seen, bow, tree, weight="17.2 kg")
    found = parse(line, METRIC, tree)
    assert [s.kind for s in found] == ["weight"] + ["traced"] * 2 * PLACES
    assert all(s.draw == pytest.approx(seen.draw / 1e3, abs=0.001) for s in found)
    assert found[1].more == pytest.approx(seen.knots[0].error / 1e3, abs=1e-4)
    said = said_of(found, tree, Units(METRIC))
    assert len(said) == 2 and "both limbs traced from a photograph at 16 places" in said[1]


def test_what_nobody_read_is_asked_for_and_an_unstrung_bow_gives_its_profile() -> None:
    image, truth = picture(2, "drawn", tags=False)
    seen = seen_in(trace(image, truth.bow, "drawn", truth.taps), truth.bow, "drawn")
    with pytest.raises(DescriptionError, match="read it off the tree"):
        line_of(seen, truth.bow, Tree())
    assert "drawn to 500" in line_of(seen, truth.bow, Tree(), 0.5)
    image, truth = picture(0, "unstrung")
    still = seen_in(trace(image, truth.bow, "unstrung"), truth.bow, "unstrung")
    rows = parse(line_of(still, truth.bow, Tree()), METRIC, Tree())
    assert {s.kind for s in rows} == {"profile"} and len(rows) == PLACES
    with pytest.raises(DescriptionError, match="no picture"):
        seen_in(trace(image[:100], truth.bow), truth.bow, "drawn")


def test_every_tag_is_printed_as_it_is_found() -> None:
    for number in IDS:
        page = np.full((1400, 1400), 255, np.uint8)
        mark = cv2.resize((~pattern_of(number)).astype(np.uint8) * 255, (800, 800),
                          interpolation=cv2.INTER_NEAREST)  # fmt: skip
        page[300:1100, 300:1100] = mark
        assert set(find_tags(page)) == {number}
    with pytest.raises(DescriptionError):
        pattern_of(12)


def test_five_taps_stand_for_tags_and_tell_the_shape_alone() -> None:
    image, truth = picture(2, "drawn", tags=False)
    found = trace(image, truth.bow, "drawn", truth.taps)
    assert found.found and found.draw is None and found.nocking_point is None
    assert "only the shape" in found.why
    errors, _ = misses(found, truth)
    assert np.sqrt(np.mean(errors**2)) < 4.0


def test_the_command_prints_it_and_answers_what_is_no_picture(
    shots: list[tuple[np.ndarray, Any]], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    image, truth = shots[0]
    photo, file, text = (str(tmp_path / name) for name in ("a.jpg", "a.bow", "b.jpg"))
    cv2.imwrite(photo, image)
    Path(file).write_text(bowfile.dumps(truth.bow))
    Path(text).write_text("no picture")
    assert main(["trace", photo, file, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {
        "found", "limbs", "nocking_point", "draw_mm", "scale_mm_per_px", "why"
    }  # fmt: skip
    assert told["found"] and len(told["limbs"]["upper"][0]) == 3
    assert main(["trace", photo, file]) == 0 and "upper nock" in capsys.readouterr().out
    for words, says in (
        ([text, file], "is no picture"), ([str(tmp_path / "none.jpg"), file], "cannot be read"),
        ([photo, file, "--taps", "1,2", "x", "3,4", "5,6", "7,8"], "two numbers"),
    ):  # fmt: skip
        assert main(["trace", *words]) != 0
        assert says in capsys.readouterr().err
