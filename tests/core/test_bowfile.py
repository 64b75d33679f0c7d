"""The open bow file, its refusals, and the command line."""

import json
import math
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from jsonschema import Draft202012Validator

from bowyery.bow import bowfile
from bowyery.bow.bow import StringLine
from bowyery.bow.section import Layer, Shape
from bowyery.cli.__main__ import main
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve
from bowyery.units.quantity import POUND_FORCE
from tests.core.bows import bow, kinds, limb, tied

ROOT = Path(__file__).parents[2]


def example() -> dict[str, object]:
    side = {
        "root": {"along_mm": 60, "across_mm": 0, "angle_deg": 0},
        "stations": [
            {"at_mm": 0, "width_mm": 40, "thickness_mm": 17},
            {"at_mm": 780, "width_mm": 13, "thickness_mm": 10},
        ],
        "unstrung": [{"at_mm": 0, "curvature_per_m": 0}, {"at_mm": 780, "curvature_per_m": 0}],
    }
    return {
        "format": "fellwind-bow",
        "version": 1,
        "name": "example",
        "limbs": {"upper": side, "lower": json.loads(json.dumps(side))},
        "section": {"shape": "rectangle"},
        "layers": [
            {
                "role": "core",
                "material": "example wood",
                "modulus_mpa": 11000,
                "density_kg_m3": 640,
                "thickness": "rest",
            }
        ],
        "string": {"brace_height_mm": 150},
        "hold": {
            "support": "hand",
            "string_held_by": "fingers",
            "pivot": {"along_mm": 0, "across_mm": 0},
            "nock_offset_mm": 0,
        },
    }


def put(content: dict[str, object], path: list[object], value: object) -> str:
    """The example with one key changed; ``...`` takes it away."""
    place: object = content
    for key in path[:-1]:
        place = place[key]  # type: ignore[index]
    if value is ...:
        del place[path[-1]]  # type: ignore[attr-defined]
    else:
        place[path[-1]] = value  # type: ignore[index]
    return json.dumps(content)


@pytest.mark.parametrize("name", kinds())
def test_a_bow_written_and_read_is_the_same_bow(name: str) -> None:
    one = kinds()[name]
    two = bowfile.loads(bowfile.dumps(replace(one, notes="a note", draw=0.66)))
    draws = np.linspace(0.25, 0.66, 5)
    assert force_curve.solve(two, draws).drawn.weight == pytest.approx(
        force_curve.solve(one, draws).drawn.weight, rel=1e-6
    )
    assert bowfile.dumps(two) == bowfile.dumps(bowfile.loads(bowfile.dumps(two)))


@pytest.mark.parametrize(
    ("path", "value", "place"),
    [
        (["limbs", "upper", "stations", 1, "width_mm"], -13, "limbs.upper.stations[1].width_mm"),
        (
            ["limbs", "upper", "stations", 1, "thickness_mm"],
            0,
            "limbs.upper.stations[1].thickness_mm",
        ),
        (["limbs", "lower", "stations", 1, "at_mm"], 0, "limbs.lower.stations[1].at_mm"),
        (["limbs", "upper", "stations", 0, "at_mm"], 5, "limbs.upper.stations[0].at_mm"),
        (["limbs", "upper", "stations", 0, "width_in"], 2, "limbs.upper.stations[0].width_in"),
        (["limbs", "upper", "root", "angle_deg"], "steep", "limbs.upper.root.angle_deg"),
        (
            ["limbs", "upper", "unstrung", 1, "curvature_per_m"],
            math.nan,
            "limbs.upper.unstrung[1].curvature_per_m",
        ),
        (["limbs", "upper", "unstrung", 1, "at_mm"], 0, "limbs.upper.unstrung[1].at_mm"),
        (["layers", 0, "modulus_mpa"], -11000, "layers[0].modulus_mpa"),
        (["layers", 0, "density_kg_m3"], math.inf, "layers[0].density_kg_m3"),
        (["layers"], [], "layers"),
        (["section", "shape"], "hexagon", "section.shape"),
        (["string"], {}, "string"),
        (["string", "length_mm"], 1600, "string"),
        (["string", "brace_height_mm"], ..., "string"),
        (["hold", "support"], "vice", "hold.support"),
        (["format"], "other", "format"),
        (["version"], 2, "version"),
        (["limbs", "lower"], ..., "limbs.lower"),
        (["colour"], "red", "colour"),
    ],
)
def test_what_is_wrong_is_refused_with_its_path(
    path: list[object], value: object, place: str
) -> None:
    text = put(example(), path, value)
    with pytest.raises(DescriptionError) as caught:
        bowfile.loads(text)
    assert caught.value.place == place
    assert str(caught.value).startswith(place) and str(caught.value).endswith(".")


@pytest.mark.parametrize("text", ["", "{", "[]", "null", "[" * 100000, '"bow"', "\x00"])
def test_what_is_no_bow_at_all_is_refused(text: str) -> None:
    with pytest.raises(DescriptionError):
        bowfile.loads(text)


def test_too_many_stations_are_refused_quickly() -> None:
    content = example()
    content["limbs"]["upper"]["stations"] = [  # type: ignore[index]
        {"at_mm": i, "width_mm": 30, "thickness_mm": 12} for i in range(10000)
    ]
    with pytest.raises(DescriptionError) as caught:
        bowfile.loads(json.dumps(content))
    assert caught.value.place == "limbs.upper.stations"


@pytest.fixture
def file(tmp_path: Path) -> Path:
    path = tmp_path / "bow.json"
    path.write_text(json.dumps(example()))
    return path


def test_solve_prints_what_the_core_says(file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["solve", str(file), "--draws", "250,400,600", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    curve = force_curve.solve(bowfile.loads(file.read_text()), np.array([0.25, 0.4, 0.6]))
    assert [row["draw_mm"] for row in answer["curve"]] == [250, 400, 600]
    assert [row["weight_n"] for row in answer["curve"]] == pytest.approx(
        list(curve.drawn.weight), abs=1e-5
    )
    assert answer["brace"]["height_mm"] == pytest.approx(150)
    assert set(answer["curve"][0]) == {
        "draw_mm",
        "weight_n",
        "tension_upper_n",
        "tension_lower_n",
        "energy_j",
        "strain_max",
    }
    assert set(answer["curve"][0]["strain_max"]) == {"value", "limb", "face", "at_mm"}


def test_solve_prints_a_table(file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["solve", str(file)]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "example"
    assert "brace 150.0 mm" in lines[1]
    assert len(lines) == 3 + 11


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--draws", "900,2000"], "cannot give this draw"),
        (["--draws", "100"], "starts at 150 mm"),
        (["--draws", "abc"], "not a list of draws"),
        (["--draws", "nan"], "above zero"),
        (["--draws", ",".join(["300"] * 501)], "At most 500"),
    ],
)
def test_bad_draws_end_with_one_sentence_and_exit_code_two(
    file: Path, capsys: pytest.CaptureFixture[str], arguments: list[str], says: str
) -> None:
    assert main(["solve", str(file), *arguments]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert says in said.err and said.err.count("\n") == 1


def test_a_missing_file_and_a_picture_are_refused(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    picture = tmp_path / "photo.png"
    picture.write_bytes(b"\x89PNG\r\n\x1a\n\xff\xfe")
    for path in (tmp_path / "nowhere.json", picture, tmp_path):
        assert main(["solve", str(path)]) == 2
        assert "cannot be read" in (said := capsys.readouterr().err) or "is not text" in said


def test_the_one_command_solves(file: Path) -> None:
    """The core as its own program, as ./fellwind solve calls it."""
    run = subprocess.run(
        [sys.executable, "-m", "bowyery.cli", "solve", str(file), "--draws", "500"],
        env={"PYTHONPATH": str(ROOT / "src"), "PATH": ""},
        capture_output=True,
        text=True,
        check=False,
    )
    assert run.returncode == 0, run.stderr
    assert "500.0" in run.stdout


def test_the_schema_in_the_documents_is_the_one_that_is_read() -> None:
    stored = json.loads((ROOT / "docs" / "bow-file.schema.json").read_text())
    assert stored == json.loads(json.dumps(bowfile.schema()))
    checker = Draft202012Validator(stored)
    checker.check_schema(stored)
    for one in (*kinds().values(), tied()):
        assert list(checker.iter_errors(json.loads(bowfile.dumps(one)))) == []
    wrong = example() | {"widht": 3}
    assert list(checker.iter_errors(wrong))


def test_everything_a_bow_can_have_goes_out_and_comes_back() -> None:
    side = limb(shape=Shape("crowned back", {"radius_mm": np.array([60.0, 55.0, 40.0])}))
    facing = Layer("facing", "glass", 40e9, 1900.0, np.array([0.001, 0.0009, 0.0004]), 0.02, 0.012)
    side = replace(side, layers=(facing, *side.layers))
    one = replace(
        bow(side),
        grip_stiffness=900.0,
        string=StringLine(0.011, 2e4),
        arrow=0.032,
        draw=0.66,
        notes="for a child",
    )
    two = bowfile.loads(bowfile.dumps(one))
    assert (two.grip_stiffness, two.string, two.arrow, two.draw, two.notes) == (
        900.0,
        one.string,
        0.032,
        0.66,
        "for a child",
    )
    assert two.upper.layers[0].elastic_strain == 0.012
    assert two.upper.shape.figures["radius_mm"] == pytest.approx([60.0, 55.0, 40.0])
    draws = np.array([0.3, 0.66])
    assert force_curve.solve(two, draws).drawn.weight == pytest.approx(
        force_curve.solve(one, draws).drawn.weight, rel=1e-3
    )


def test_a_profile_of_points_is_read_as_curvature() -> None:
    content = example()
    radius = 2.5
    angle = np.linspace(0, 0.78 / radius, 9)
    for side in content["limbs"].values():  # type: ignore[attr-defined]
        del side["unstrung"]
        side["profile"] = [
            {
                "along_mm": radius * math.sin(a) * 1000,
                "across_mm": -radius * (1 - math.cos(a)) * 1000,
            }
            for a in angle
        ]
    found = bowfile.loads(json.dumps(content))
    assert found.upper.unstrung == pytest.approx(np.full(33, -1 / radius), rel=0.01)
    content["limbs"]["upper"]["unstrung"] = [{"at_mm": 0, "curvature_per_m": 0}]  # type: ignore[index]
    with pytest.raises(DescriptionError, match="either a profile"):
        bowfile.loads(json.dumps(content))
    del content["limbs"]["upper"]["unstrung"]  # type: ignore[index]
    content["limbs"]["upper"]["profile"] = [{"along_mm": 0, "across_mm": 0}] * 3  # type: ignore[index]
    with pytest.raises(DescriptionError, match=r"limbs.upper.profile\[1\].along_mm"):
        bowfile.loads(json.dumps(content))


def test_figures_at_some_stations_only_are_refused() -> None:
    content = example() | {"section": {"shape": "crowned back"}}
    content["limbs"]["lower"]["stations"][0]["radius_mm"] = 50  # type: ignore[index]
    with pytest.raises(DescriptionError, match=r"limbs.lower.stations\[1\].radius_mm"):
        bowfile.loads(json.dumps(content))


DESIGN = ["design", "--draw", "27in", "--weight", "42lb", "--wood", "wych elm"]


def test_design_writes_a_bow_file_that_solves_to_the_weight(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "made.json"
    assert main([*DESIGN, "--arrow", "420gr", "--layout", "pyramid", "-o", str(path)]) == 0
    said = capsys.readouterr().out
    assert "at 686 mm" in said and "m/s" in said
    assert main(["solve", str(path), "--draws", "685.8", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["curve"][0]["weight_n"] == pytest.approx(42 * POUND_FORCE, rel=0.01)
    assert 0.4 < answer["loosed"]["efficiency"] < 0.9
    assert (
        main(
            [
                *DESIGN,
                "--back",
                "bamboo slat=4mm..3mm",
                "--bend",
                "constant strain",
                "--school",
                "B",
            ]
        )
        == 0
    )
    said = capsys.readouterr()
    assert [layer["role"] for layer in json.loads(said.out)["layers"]] == ["backing", "core"]
    assert main([*DESIGN, "--solve-for", "width", "--depth", "12.5"]) == 0
    assert {
        s["thickness_mm"] for s in json.loads(capsys.readouterr().out)["limbs"]["upper"]["stations"]
    } == {12.5}


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        ([*DESIGN, "--length", "1000"], "It could be built at a length of"),
        ([*DESIGN[:-1], "soapwood"], "No material is called"),
        (["design", "--draw", "27in"], "required: --weight, --wood"),
        ([*DESIGN, "--draw", "long"], "could not be read"),
        ([*DESIGN, "--back", "linen"], "Write a layer as"),
        ([*DESIGN, "--moisture", "wet"], "not a moisture"),
        ([*DESIGN, "--bend", "square"], "invalid choice"),
        ([*DESIGN, "--solve-for", "core"], "no other layers"),
        (["unmake"], "invalid choice"),
    ],
)
def test_designs_that_cannot_be_end_with_one_sentence(
    capsys: pytest.CaptureFixture[str], arguments: list[str], says: str
) -> None:
    assert main(arguments) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert says in said.err and said.err.count("\n") == 1


def test_solve_says_what_a_back_bow_carries(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "two.json"
    path.write_text(bowfile.dumps(tied()))
    assert main(["solve", str(path), "--draws", "500,300", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["curve"]
    assert [row["draw_mm"] for row in rows] == [500, 300]
    assert 0 < rows[0]["back_bow"]["share"] < rows[1]["back_bow"]["share"] < 1
    assert main(["solve", str(path), "--draws", "300"]) == 0
    assert "back-bow" in capsys.readouterr().out


def test_a_bad_file_is_refused_without_waiting_for_what_only_designs_need(tmp_path: Path) -> None:
    content = example()
    content["limbs"]["upper"]["stations"][1]["thickness_mm"] = 0  # type: ignore[index]
    path = tmp_path / "bad.json"
    path.write_text(json.dumps(content))
    program = (
        f"import sys; from bowyery.cli.__main__ import main; code = main(['solve', {str(path)!r}]);"
        " print(code, 'scipy.optimize' in sys.modules)"
    )
    run = subprocess.run(
        [sys.executable, "-c", program],
        env={"PYTHONPATH": str(ROOT / "src"), "PATH": ""},
        capture_output=True,
        text=True,
        check=True,
    )
    assert run.stdout.split() == ["2", "False"]
    assert "stations[1].thickness_mm" in run.stderr


def test_design_takes_every_figure_and_keeps_what_its_layout_says(
    capsys: pytest.CaptureFixture[str],
) -> None:
    glass = "glass-faced, one piece or take-down"
    assert main([*DESIGN, "--layout", glass, "--handle-depth", "60mm", "--parallel", "40"]) == 0
    made = json.loads(capsys.readouterr().out)
    assert [layer["role"] for layer in made["layers"]] == ["facing", "core", "facing"]
    assert any(one["curvature_per_m"] < 0 for one in made["limbs"]["upper"]["unstrung"])
    assert main([*DESIGN, "--parallel", "most of it"]) == 2
    assert "not a parallel in per cent" in capsys.readouterr().err
