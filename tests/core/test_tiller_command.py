"""``./fellwind tiller``: a log read from the command line, its answer, and its refusals."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from bowyery.bow import bowfile
from bowyery.bow.bow import Asked, Bow
from bowyery.cli.__main__ import main
from bowyery.tiller.estimate import PLACES
from bowyery.units.quantity import INCH, POUND_FORCE
from tests.core.bows import bow

READ = (
    "string full 150 mm   # measured at the grip\n"
    "upper gap 149 mm, lower gap 146 mm\n"
    "upper tip 210 mm, lower tip 208 mm\n"
    "9 kg at 360 mm, 12 kg at 450 mm\n"
)
WEIGHTS = "string full 150 mm\n9 kg at 360 mm\n"
KEYS = {"check", "pull", "forecast", "balance", "stiffness", "next", "doubted", "words"}


def described(wanted: Asked | None = None) -> Bow:
    made = bow()
    return replace(made, draw=0.6858, wanted=wanted)


@pytest.fixture
def file(tmp_path: Path) -> Path:
    path = tmp_path / "bow.json"
    wanted = Asked(40 * POUND_FORCE, 27 * INCH)
    path.write_text(bowfile.dumps(described(wanted)), encoding="utf-8")
    return path


def answer(
    file: Path, log: str, capsys: pytest.CaptureFixture[str], *more: str
) -> dict[str, object]:
    lines = file.parent / "log.txt"
    lines.write_text(log, encoding="utf-8")
    said = ["tiller", str(file), str(lines), "--json", "--units", "metric", *more]
    assert main(said) == 0
    read: dict[str, object] = json.loads(capsys.readouterr().out)
    return read


def test_the_answer_has_what_the_documents_promise(
    file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = answer(file, READ, capsys)
    assert set(found) == KEYS
    assert set(found["pull"]) == {
        "no_further_mm", "further_because", "no_harder_n", "harder_because",
    }  # fmt: skip
    for key in ("now_n", "finished_n"):
        low, middle, high = found["forecast"][key]
        assert 0 < low < middle < high
    assert found["forecast"]["finished_n"][1] < found["forecast"]["now_n"][1]
    for part in found["stiffness"].values():
        assert len(part["at_mm"]) == PLACES and part["at_mm"][0] == 0
        rows = zip(part["low"], part["factor"], part["high"], strict=True)
        assert all(0 < low < middle < high for low, middle, high in rows)
    low, high = found["balance"]["band"]
    assert low < found["balance"]["log_ratio"] < high
    assert found["words"] and found["doubted"] == []
    assert found["pull"]["no_further_mm"] >= 450


def test_weights_alone_do_not_tell_one_limb_from_the_other(
    file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = answer(file, WEIGHTS, capsys)
    assert found["balance"] is None
    assert "stiffer" not in found["words"]


def test_losses_and_a_beginner_are_heeded(file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    usual = answer(file, READ, capsys)
    none = answer(file, READ, capsys, "--losses", "0,0")
    assert none["forecast"]["finished_n"][1] == pytest.approx(none["forecast"]["now_n"][1])
    assert usual["forecast"]["now_n"] == none["forecast"]["now_n"]
    log = "string long\n9 kg at 360 mm, 12 kg at 450 mm\n"
    slack = answer(file, log, capsys)["pull"]["no_harder_n"]
    begun = answer(file, log, capsys, "--beginner")["pull"]["no_harder_n"]
    assert begun == pytest.approx(0.75 * slack, abs=0.001)


def test_a_weight_typed_wrong_is_named_with_its_line(
    file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = READ.replace("12 kg at 450 mm", "11 kg at 410 mm, 12 kg at 450 mm, 41 kg at 470 mm")
    (doubted,) = answer(file, log, capsys)["doubted"]
    assert doubted["line"] == 4 and doubted["statement"] == "41 kg at 470 mm" and doubted["why"]


def test_without_what_is_wanted_the_bow_as_described_is_taken(
    tmp_path: Path, file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    bare = tmp_path / "bare.json"
    bare.write_text(bowfile.dumps(described()), encoding="utf-8")
    assert answer(bare, READ, capsys)["forecast"]["draw_mm"] == pytest.approx(685.8)
    assert answer(file, READ, capsys)["forecast"]["draw_mm"] == pytest.approx(685.8)


def test_it_prints_sentences_in_both_unit_worlds(
    file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = file.parent / "log.txt"
    log.write_text("string full 5.9\n20 at 14, 27 at 18\nupper gap 5 7/8, lower gap 5 3/4\n")
    assert main(["tiller", str(file), str(log)]) == 0
    inches = capsys.readouterr().out
    assert " lb" in inches and " kg" not in inches and inches.startswith("Pull no further than")
    log.write_text(READ)
    assert main(["tiller", str(file), str(log), "--units", "metric"]) == 0
    metric = capsys.readouterr().out
    assert " kg" in metric and " lb" not in metric


@pytest.mark.parametrize(
    ("log", "more", "says"),
    [
        ("string full 150 mm\nnine kilos", [], "line 2"),
        ("# nothing but a remark\n", [], "Nothing has been read"),
        (READ, ["--losses", "much"], "two percentages"),
        (READ, ["--losses", "60,0"], "half of the weight"),
        (READ, ["--losses", "nan,0"], "half of the weight"),
    ],
)
def test_what_cannot_be_read_ends_with_one_sentence(
    file: Path, capsys: pytest.CaptureFixture[str], log: str, more: list[str], says: str
) -> None:
    lines = file.parent / "log.txt"
    lines.write_text(log, encoding="utf-8")
    assert main(["tiller", str(file), str(lines), *more]) == 2
    said = capsys.readouterr()
    assert says in said.err and said.err.count("\n") == 1 and said.out == ""


def test_a_missing_log_and_a_bad_wanted_part_are_refused(
    file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["tiller", str(file), str(file.parent / "none.txt")]) == 2
    assert "cannot be read" in capsys.readouterr().err
    content = json.loads(file.read_text())
    for bad in ({"weight_n": -1, "draw_mm": 600}, {"weight_n": 100}, {"fingers": "five"}):
        file.write_text(json.dumps(content | {"wanted": bad}))
        assert main(["tiller", str(file), str(file)]) == 2
        assert "wanted" in capsys.readouterr().err
