"""Photographs of a stand-in camera: read where they can be read, and refused with a reason."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from benchmarks.camera import misses, picture
from bowyery.bow import bowfile
from bowyery.cli.__main__ import main
from bowyery.sight.trace import trace, tried

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
        (image, "braced", "Only drawn"), (np.ascontiguousarray(image[:, ::-1]), "drawn", "tag"),
    ):  # fmt: skip
        found = trace(odd, truth.bow, state)  # type: ignore[arg-type]
        assert not found.found and says in found.why and not found.limbs
    for taps in (np.zeros((4, 2)), np.full((5, 2), np.nan), np.full((5, 2), -900.0)):
        assert not trace(image, truth.bow, "drawn", taps).found
    turned = truth.taps[::-1]
    assert "to the right" in trace(image, truth.bow, "drawn", turned).why


def test_a_braced_bow_is_tried_by_who_works_on_it_and_told_to_nobody_else() -> None:
    image, truth = picture(0, "braced")
    assert tried(image, truth.bow, "braced").found
    assert not trace(image, truth.bow, "braced").found


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
