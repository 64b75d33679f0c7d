"""The command line of the core: ``python -m bowyery solve FILE`` and ``design …``, called by ``./fellwind``."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from bowyery import backbow, bowfile, statics
from bowyery.bow import Bow, grid
from bowyery.design import Solution, nearest, solve_design
from bowyery.dynamics import loose
from bowyery.errors import BowyeryError, DescriptionError, DesignError
from bowyery.layout import (
    BEND_FAMILIES,
    FINGERS_BELOW_ARROW,
    INCH_ROUNDING,
    LAYOUTS,
    METRIC_ROUNDING,
    UNKNOWNS,
    Layout,
    StackLayer,
    Unknown,
    Wanted,
)
from bowyery.lengths import length_schools
from bowyery.materials import Material, at_moisture, material
from bowyery.units import INCH, LENGTH, MASS, METRIC, POUND_FORCE, WEIGHT, read

_MOST_DRAWS = 500


def _draws(text: str | None, bow: Bow, least: float) -> np.ndarray:
    if text is None:
        return np.linspace(least * (1 + 1e-9), bow.draw or least + 0.45, 11)
    try:
        draws = np.array([float(part) for part in text.split(",")]) * bowfile.MM
    except ValueError:
        raise DescriptionError(f"“{text}” is not a list of draws such as 250,300,350.", "--draws") from None
    if draws.size > _MOST_DRAWS:
        raise DescriptionError(f"At most {_MOST_DRAWS} draws at once.", "--draws")
    return draws


def _solved(bow: Bow, text: str | None) -> dict[str, Any]:
    if bow.back_bow is None:
        limbs = grid(bow)
        braced = statics.brace_bow(limbs, bow)
        answer = bowfile.result(statics.solve_grid(limbs, bow, _draws(text, bow, float(braced.least_draw[0])), braced))
    else:
        draws = None if text is None else _draws(text, bow, 0.0)
        if draws is not None and not np.all(np.isfinite(draws)):
            raise DescriptionError("Draws are numbers above zero.", "--draws")
        answer = bowfile.result_shared(backbow.solve(bow, None if draws is None else np.unique(draws)))
        if draws is not None:
            rows = {row["draw_mm"]: row for row in answer["curve"]}
            answer["curve"] = [rows[round(float(d) / bowfile.MM, 6)] for d in draws]
    if bow.arrow is not None:
        full = bow.draw or max(row["draw_mm"] for row in answer["curve"]) * bowfile.MM
        answer["loosed"] = bowfile.result_loosed(loose(bow, full, bow.arrow))
    return answer


def solve(path: str, draws: str | None, as_json: bool) -> str:
    """Solve a bow file and return what to print."""
    try:
        text = Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise DescriptionError(f"The file {path} cannot be read: {error.strerror}.") from None
    except UnicodeDecodeError:
        raise DescriptionError(f"The file {path} is not text.") from None
    bow = bowfile.loads(text)
    answer = _solved(bow, draws)
    if as_json:
        return json.dumps(answer, indent=1)
    brace = answer["brace"]
    height = "hanging" if brace["height_mm"] is None else f"{brace['height_mm']:.1f} mm"
    lines = [
        f"{bow.name or path}",
        f"brace {height}, string {brace['string_length_mm']:.1f} mm, tension {brace['tension_n']:.1f} N",
        f"{'draw mm':>9}{'weight N':>10}{'upper N':>10}{'lower N':>10}{'energy J':>10}{'strain %':>10}  where",
    ]
    for row in answer["curve"]:
        peak = row["strain_max"]
        shared = row.get("back_bow")
        lines.append(
            f"{row['draw_mm']:9.1f}{row['weight_n']:10.2f}{row['tension_upper_n']:10.1f}{row['tension_lower_n']:10.1f}"
            f"{row['energy_j']:10.2f}{peak['value'] * 100:10.3f}  {peak['limb']} {peak['face']}"
            f" at {peak['at_mm']:.0f} mm"
            + (f"; back-bow {shared['share'] * 100:.0f} %, cables {shared['cable_upper_n']:.0f} N" if shared else "")
        )
    if "loosed" in answer:
        shot = answer["loosed"]
        lines.append(
            f"an arrow of {shot['arrow_g']:.1f} g leaves at {shot['speed_m_s']:.1f} m/s, {shot['efficiency'] * 100:.0f} % of the"
            f" energy; the string is pulled to {shot['peak_tension_n']:.0f} N"
        )
    return "\n".join(lines)


def _length(text: str | None, usual: float) -> float:
    return usual if text is None else read(text, LENGTH, METRIC)


def _stack(texts: list[str], role: str) -> tuple[StackLayer, ...]:
    layers = []
    for text in texts:
        name, _, depths = text.partition("=")
        ends = [read(part, LENGTH, METRIC) for part in depths.split("..")] if depths else []
        if not 1 <= len(ends) <= 2:
            raise DescriptionError(f"Write a layer as material=thickness or material=root..nock, not “{text}”.", "--back")
        layers.append(StackLayer(role, material(name), ends[0], ends[-1]))
    return tuple(layers)


def _asked(given: argparse.Namespace) -> tuple[Layout, Wanted, Material]:
    draw, weight = read(given.draw, LENGTH, METRIC), read(given.weight, WEIGHT, METRIC)
    wanted = Wanted(
        weight,
        draw,
        _length(given.brace, 6 * INCH),
        given.bend,
        given.fingers,
        0.07 if given.fingers == "one above, two below" else 0.0,
        read(given.arrow, MASS, METRIC) if given.arrow else None,
    ).checked()
    layout = LAYOUTS[given.layout](draw)
    layout = replace(
        layout,
        length=_length(given.length, layout.length),
        width=_length(given.width, layout.width),
        tip_width=_length(given.tip_width, layout.tip_width),
        handle=_length(given.handle, layout.handle),
        fade=_length(given.fade, layout.fade),
        reflex=_length(given.reflex, 0.0),
        grip_drop=_length(given.grip_drop, 0.0),
        back=_stack(given.back, "backing"),
        belly=_stack(given.belly, "facing"),
    )
    unknown: Unknown = given.solve_for or ("core" if layout.back or layout.belly else "thickness")
    layout = replace(layout, unknown=unknown)
    if given.depth:
        root, _, nock = given.depth.partition("..")
        layout = replace(layout, depth=(read(root, LENGTH, METRIC), read(nock or root, LENGTH, METRIC)))
    try:
        moisture = float(given.moisture) / 100
    except ValueError:
        raise DescriptionError(f"“{given.moisture}” is not a moisture in per cent, such as 9.", "--moisture") from None
    return layout, wanted, at_moisture(material(given.wood), moisture)


def design(given: argparse.Namespace) -> tuple[str, str]:
    """Design a bow; returns the bow file and a summary for reading."""
    layout, wanted, wood = _asked(given)
    if given.school:
        answers = {answer.school: answer for answer in length_schools(layout.checked(), wanted, wood)}
        chosen = answers[given.school]
        if chosen.trouble:
            raise DesignError(chosen.trouble)
        layout = chosen.layout
    rounding = INCH_ROUNDING if given.marks == "inches" else METRIC_ROUNDING
    try:
        found = solve_design(layout, wanted, wood, rounding, given.name)
    except DesignError as error:
        raise DesignError(f"{error}{_instead(layout, wanted, wood)}") from error
    return bowfile.dumps(found.bow), _summary(found)


def _instead(layout: Layout, wanted: Wanted, wood: Material) -> str:
    near = nearest(layout, wanted, wood)
    could = [
        f"{what} {value / unit:.0f} {name}"
        for what, value, unit, name in (
            ("at a length of", near.length, bowfile.MM, "mm"),
            ("at a weight of", near.weight, 1.0, "N"),
            ("at a draw of", near.draw, bowfile.MM, "mm"),
        )
        if value is not None
    ]
    return f" It could be built {', or '.join(could)}." if could else ""


def _summary(found: Solution) -> str:
    lines = [
        f"{found.weight:.1f} N ({found.weight / POUND_FORCE:.1f} lb) at {found.wanted.draw / bowfile.MM:.0f} mm,"
        f" {found.layout.length / bowfile.MM:.0f} mm from nock to nock",
        f"greatest strain {found.strain * 100:.2f} %, {found.use * 100:.0f} % of what lasts;"
        f" string follow {found.set.follow / bowfile.MM:.0f} mm ({found.set.low / bowfile.MM:.0f} to"
        f" {found.set.high / bowfile.MM:.0f})",
        f"{float(found.curve.energy[-1]):.1f} J stored, string {float(found.curve.braced.string_length[0]) / bowfile.MM:.0f} mm",
    ]
    if found.bow.arrow is not None:
        shot = loose(found.bow, found.wanted.draw, found.bow.arrow)
        lines.append(f"an arrow of {shot.arrow * 1000:.1f} g leaves at {shot.speed:.1f} m/s, {shot.efficiency * 100:.0f} %")
    return "\n".join(lines)


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise DescriptionError(f"{message[:1].upper()}{message[1:]}.")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="fellwind")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    one = commands.add_parser("solve", help="brace and draw the bow of a bow file")
    one.add_argument("file")
    one.add_argument("--draws", help="draws from nocking point to pivot in mm, such as 250,300,350")
    one.add_argument("--json", action="store_true")
    commands.add_parser("schema", help="print the JSON Schema of the bow file")
    two = commands.add_parser("design", help="design a bow for an archer and a wood, and write its bow file")
    two.add_argument("--draw", required=True, help="from nocking point to pivot, such as 27in or 686mm")
    two.add_argument("--weight", required=True, help="at that draw, such as 42lb or 19kg")
    two.add_argument("--wood", required=True, help="as in the list of materials, such as “wych elm”")
    two.add_argument("--moisture", default="9", help="per cent, 9 by default")
    two.add_argument("--layout", choices=tuple(LAYOUTS), default="parallel then taper")
    two.add_argument("--bend", choices=tuple(BEND_FAMILIES), default="elliptical")
    two.add_argument("--fingers", choices=tuple(FINGERS_BELOW_ARROW), default="one above, two below")
    two.add_argument("--school", choices=("A", "B", "C"), help="of bow length; else --length or the layout's own")
    two.add_argument("--solve-for", choices=UNKNOWNS)
    two.add_argument("--depth", help="thickness where the width is solved for: one, or root..nock")
    for name in ("length", "width", "tip-width", "handle", "fade", "reflex", "grip-drop", "brace", "arrow"):
        two.add_argument(f"--{name}")
    two.add_argument("--back", action="append", default=[], help="a layer on the back: material=thickness or root..nock")
    two.add_argument("--belly", action="append", default=[], help="likewise on the belly")
    two.add_argument("--marks", choices=("inches", "millimetres"), default="millimetres")
    two.add_argument("--name", default="")
    two.add_argument("-o", "--output", help="where to write the bow file; else it is printed")
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    try:
        given = _parser().parse_args(arguments)
        if given.command == "solve":
            print(solve(given.file, given.draws, given.json))
            return 0
        if given.command == "schema":
            print(json.dumps(bowfile.schema(), indent=1))
            return 0
        file, summary = design(given)
        if given.output:
            try:
                Path(given.output).write_text(file + "\n", encoding="utf-8")
            except OSError as error:
                raise DescriptionError(f"The file {given.output} cannot be written: {error.strerror}.") from None
            print(summary)
        else:
            print(file)
            print(summary, file=sys.stderr)
    except BowyeryError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
