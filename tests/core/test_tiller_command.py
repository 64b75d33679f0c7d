"""``./fellwind tiller``: a log read from the command line, its answer, and its refusals."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from bowyery.bow import bowfile
from bowyery.bow.bow import Asked, Bow
from bowyery.cli.__main__ import main
from bowyery.tiller.estimate import PLACES
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import StringOn
from bowyery.units.quantity import INCH, POUND_FORCE
from tests.core.bows import bow
from tests.core.readings import FULL, asked, bench_bow, read_off

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


def bench_file(folder: Path, weight: float = 42 * POUND_FORCE) -> Path:
    """The bench's bow in a file, with what is wanted of it."""
    path = folder / "bench.json"
    made = replace(bench_bow()[0].bow, wanted=Asked(weight, FULL))
    path.write_text(bowfile.dumps(made), encoding="utf-8")
    return path


def lines_of(
    stiff: tuple[float, float], kinds: tuple[Reading, ...], string: StringOn | None = None
) -> str:
    """What a maker writes of limbs so many times as stiff as the design, on a string."""
    found, limbs = bench_bow()
    on = string or StringOn("string full", found.bow.brace_height)
    length = sum(limb.root[0] + limb.length for limb in found.bow.limbs)
    field = np.log(np.array(stiff))[None, :, None] + np.zeros((1, 2, PLACES))
    rows = [f"string {on.rung} {1000 * (on.at or 0):.1f} mm"]
    for r in read_off(limbs, on.on(found.bow, length), kinds, field):
        if r.kind == "weight":
            rows.append(f"{r.value / 9.80665:.3f} kg at {1000 * (r.draw or 0):.1f} mm")
        else:
            rows.append(f"{r.limb} gap {1000 * r.value:.1f} mm")
    return "\n".join([rows[0], ", ".join(rows[1:])]) + "\n"


def test_without_a_weight_no_wood_comes_off(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Seen: a first check of gaps alone, forecast 34 to 108 lb, advised a removal."""
    found = answer(bench_file(tmp_path), lines_of((1.4, 1.2), asked(())), capsys)
    nothing = {"act": "look again", "removals": [], "drawn": [], "expect": None}
    assert found["next"].items() >= nothing.items()
    assert "Nothing has been weighed yet" in found["words"]


def test_what_was_not_read_of_the_limbs_is_not_said(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Seen: one weight alone gave "the upper is 10 % too stiff"; both limbs give alike then."""
    log = lines_of((1.5, 1.5), asked((16, 19), gaps=False))
    found = answer(bench_file(tmp_path), log, capsys)
    assert found["balance"] is None and "gap" not in found["words"]
    off = {"upper": 0.0, "lower": 0.0}
    for row in found["next"]["removals"]:
        off[row["limb"]] += row["thickness_mm"] * (row["to_mm"] - row["from_mm"])
    assert off["upper"] == pytest.approx(off["lower"], rel=0.15) and off["upper"] > 0


def test_a_bow_at_three_times_its_weight_loses_its_fair_part_with_a_drawknife(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Seen: 0.004 in off a bow at three times its weight."""
    log = lines_of((3.0, 3.0), asked((9, 11)))
    found = answer(bench_file(tmp_path), log, capsys)
    assert found["next"]["act"] == "take"
    deepest = {"upper": 0.0, "lower": 0.0}
    for row in found["next"]["removals"]:
        deepest[row["limb"]] += row["thickness_mm"]
        assert row["tool"] == "drawknife"
    assert all(1.5 < value < 4.0 for value in deepest.values())
    # nearly at weight it is the scraper again, and little
    near = answer(bench_file(tmp_path), lines_of((1.22, 1.22), asked((16, 21))), capsys)
    assert all(row["tool"] == "scraper" for row in near["next"]["removals"])


def test_what_is_expected_next_is_of_the_string_that_is_on(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Seen: a forecast a fifth above what the bow had just read there, after wood came off."""
    hung = StringOn("string long", 1.78)
    log = lines_of((1.5, 1.5), asked((16, 19), gaps=False), hung)
    found = answer(bench_file(tmp_path), log, capsys)
    read = float(log.rsplit(" kg at", 1)[0].rsplit(" ", 1)[1]) * 9.80665
    expected = found["next"]["expect"]
    assert expected["string"] == "long" and expected["draw_mm"] == pytest.approx(19 * 25.4, abs=1)
    assert 0.6 * read < expected["weight_n"] < read


def test_a_draw_on_the_long_string_is_not_one_on_a_brace(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Strung up, the limbs bend more at the same draw: it has not been there already."""
    read = lines_of((1.5, 1.5), asked((14, 17), gaps=False), StringOn("string long", 1.78))
    hung = answer(bench_file(tmp_path), read, capsys)
    strung = answer(bench_file(tmp_path), read + "string low 80 mm\n", capsys)
    assert hung["pull"]["no_further_mm"] == pytest.approx(19 * 25.4, abs=1)
    assert 80 + 50 < strung["pull"]["no_further_mm"] < 12 * 25.4
    assert "already" not in strung["pull"]["further_because"]
    expected = strung["next"]["expect"]
    assert expected["string"] == "low"
    assert expected["draw_mm"] < strung["pull"]["no_further_mm"]
    assert "low brace" in strung["words"] and "string it to a low brace" not in strung["words"]


def test_a_log_that_fits_nothing_takes_no_wood_off(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Seen: take more wood, when every weight was in doubt: that bow ended at a pound."""
    good = lines_of((1.1, 1.1), asked((16, 19)))
    lost = "string full 152 mm\n1.1 kg at 420 mm, 9 kg at 430 mm, 2 kg at 500 mm\n"
    found = answer(bench_file(tmp_path), good + lost, capsys)
    assert found["next"]["act"] == "look again" and found["next"]["removals"] == []
    assert "of 24" not in found["words"] and "no wood comes off" in found["words"]
    assert len(found["doubted"]) >= 2


def test_a_weight_at_full_draw_outweighs_the_looks_before(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """The scale is right: it is asked what was not written down, and the forecast follows it."""
    before = lines_of((1.5, 1.5), asked((16, 19))) + lines_of((1.5, 1.5), asked((17, 20)))
    after = lines_of((0.98, 0.98), asked((27,)))
    found = answer(bench_file(tmp_path), before + after, capsys)
    read = float(after.rsplit(" kg at", 1)[0].split()[-1]) * 9.80665
    assert found["forecast"]["now_n"][1] == pytest.approx(read, rel=0.03)
    assert "was wood taken and not written down?" in found["words"] and not found["doubted"]


def test_a_jump_that_no_forgotten_pass_explains_is_doubted(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """A scale read in the wrong unit twice: the bow did not lose four fifths of itself."""
    before = lines_of((1.5, 1.5), asked((16, 19))) + lines_of((1.5, 1.5), asked((17, 20)))
    found = answer(bench_file(tmp_path), before + "2.3 kg at 480 mm, 2.7 kg at 530 mm\n", capsys)
    assert found["next"]["act"] == "look again" and found["next"]["removals"] == []
    assert [row["statement"] for row in found["doubted"]] == [
        "2.3 kg at 480 mm",
        "2.7 kg at 530 mm",
    ]
    assert found["forecast"]["now_n"][0] > 40 * POUND_FORCE


def test_a_bow_far_too_light_is_not_strung_up_first(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    low = StringOn("string low", 0.08)
    log = lines_of((0.6, 0.6), asked((12, 16)), low)
    assert answer(bench_file(tmp_path), log, capsys)["next"]["act"] == "ways out"


def test_pulls_deepen_in_steps(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    log = lines_of((0.95, 0.95), asked((14, 16)))
    found = answer(bench_file(tmp_path), log, capsys)
    assert found["pull"]["no_further_mm"] <= 18 * 25.4 + 0.1
    assert "beyond what has been seen bent" in found["pull"]["further_because"]
