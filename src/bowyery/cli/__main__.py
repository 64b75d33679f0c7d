"""The command line of the core: ``python -m bowyery solve FILE`` and ``design …``, called by
``./fellwind``.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from pathlib import Path
from typing import Any

import numpy as np

from bowyery.bow import bowfile
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.cli import results
from bowyery.cli.files import read_bow
from bowyery.errors import BowyeryError, DescriptionError, NotConvergedError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.shot import shoot

_MOST_DRAWS = 500


def _draws(text: str | None, bow: Bow, least: float) -> np.ndarray:
    if text is None:
        return np.linspace(least * (1 + 1e-9), bow.draw or least + 0.45, 11)
    try:
        draws = np.array([float(part) for part in text.split(",")]) * bowfile.MM
    except ValueError:
        raise DescriptionError(
            f"“{text}” is not a list of draws such as 250,300,350.", "--draws"
        ) from None
    if draws.size > _MOST_DRAWS:
        raise DescriptionError(f"At most {_MOST_DRAWS} draws at once.", "--draws")
    return draws


def _solved(bow: Bow, text: str | None) -> dict[str, Any]:
    if bow.back_bow is None:
        limbs = grid(bow)
        braced = statics.brace_bow(limbs, bow)
        answer = results.solved(
            force_curve.solve_grid(
                limbs, bow, _draws(text, bow, float(braced.least_draw[0])), braced
            )
        )
    else:
        draws = None if text is None else _draws(text, bow, 0.0)
        if draws is not None and not np.all(np.isfinite(draws)):
            raise DescriptionError("Draws are numbers above zero.", "--draws")
        answer = results.shared(backbow.solve(bow, None if draws is None else np.unique(draws)))
        if draws is not None:
            rows = {row["draw_mm"]: row for row in answer["curve"]}
            answer["curve"] = [rows[round(float(d) / bowfile.MM, 6)] for d in draws]
    if bow.arrow is not None:
        full = bow.draw or max(row["draw_mm"] for row in answer["curve"]) * bowfile.MM
        try:
            answer["loosed"] = results.shot(shoot(bow, full, bow.arrow))
        except NotConvergedError as error:
            answer["loosed"] = {"arrow_g": round(1000 * bow.arrow, 3), "trouble": str(error)}
    return answer


def solve(path: str, draws: str | None, as_json: bool) -> str:
    """Solve a bow file and return what to print.

    Args:
        draws: to the pivot (m).
        as_json: print JSON instead of a table.
    """
    bow = read_bow(path)
    answer = _solved(bow, draws)
    if as_json:
        return json.dumps(answer, indent=1)
    brace = answer["brace"]
    height = "hanging" if brace["height_mm"] is None else f"{brace['height_mm']:.1f} mm"
    lines = [
        f"{bow.name or path}",
        (
            f"brace {height}, string {brace['string_length_mm']:.1f} mm, tension"
            f" {brace['tension_n']:.1f} N"
        ),
        (
            f"{'draw mm':>9}{'weight N':>10}{'upper N':>10}{'lower N':>10}"
            f"{'energy J':>10}{'strain %':>10}  where"
        ),
    ]
    for row in answer["curve"]:
        peak = row["strain_max"]
        shared = row.get("back_bow")
        lines.append(
            f"{row['draw_mm']:9.1f}{row['weight_n']:10.2f}{row['tension_upper_n']:10.1f}"
            f"{row['tension_lower_n']:10.1f}{row['energy_j']:10.2f}{peak['value'] * 100:10.3f}"
            f"  {peak['limb']} {peak['face']} at {peak['at_mm']:.0f} mm"
            + (
                f"; back-bow {shared['share'] * 100:.0f} %, cables {shared['cable_upper_n']:.0f} N"
                if shared
                else ""
            )
        )
    if "loosed" in answer:
        shot = answer["loosed"]
        lines.append(
            shot.get("trouble")
            or f"an arrow of {shot['arrow_g']:.1f} g leaves at {shot['speed_m_s']:.1f} m/s"
            f" ({shot['speed_low_m_s']:.1f} to {shot['speed_high_m_s']:.1f}),"
            f" {shot['efficiency'] * 100:.0f} % of the energy; the string is pulled to"
            f" {shot['peak_tension_n']:.0f} N"
        )
    return "\n".join(lines)


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise DescriptionError(f"{message[:1].upper()}{message[1:]}.")


def _parser(which: str) -> argparse.ArgumentParser:
    parser = _Parser(prog="fellwind")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    one = commands.add_parser("solve", help="brace and draw the bow of a bow file")
    one.add_argument("file")
    one.add_argument("--draws", help="draws from nocking point to pivot in mm, such as 250,300,350")
    one.add_argument("--json", action="store_true")
    commands.add_parser("schema", help="print the JSON Schema of the bow file")
    three = commands.add_parser(
        "tiller", help="say what to do next on a bow at the tiller, from its bench log"
    )
    if which == "tiller":
        from bowyery.cli import tiller as bench  # the same holds for the bench

        bench.arguments(three)
    four = commands.add_parser("string", help="plan a string for the bow of a bow file")
    if which == "string":
        from bowyery.cli import string as stringing

        stringing.arguments(four)
    five = commands.add_parser("trace", help="read a drawn bow's limbs from a photograph")
    if which == "trace":
        from bowyery.cli import trace as sight

        sight.arguments(five)
    two = commands.add_parser(
        "design", help="design a bow for an archer and a wood, and write its bow file"
    )
    if which == "design":
        from bowyery.cli import (
            design as designing,  # it needs SciPy, which solving a file does not wait for
        )

        designing.arguments(two)
    return parser


def _answer(given: argparse.Namespace) -> str:
    """What a command prints; each is loaded only when it is asked for."""
    if given.command == "solve":
        return solve(given.file, given.draws, given.json)
    if given.command == "schema":
        return json.dumps(bowfile.schema(), indent=1)
    if given.command == "tiller":
        from bowyery.cli import tiller as bench

        return bench.tiller(given)
    if given.command == "string":
        from bowyery.cli import string as stringing

        return stringing.string(given)
    from bowyery.cli import trace as sight

    return sight.traced(given)


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code.

    Args:
        arguments: the words of the command line, or None for the process's own.
    """
    try:
        words = sys.argv[1:] if arguments is None else arguments
        given = _parser((words or [""])[0]).parse_args(words)
        if given.command != "design":
            print(_answer(given))
            sys.stdout.flush()
            return 0
        from bowyery.cli import design as designing

        file, summary = designing.design(given)
        if given.output:
            try:
                Path(given.output).write_text(file + "\n", encoding="utf-8")
            except OSError as error:
                raise DescriptionError(
                    f"The file {given.output} cannot be written: {error.strerror}."
                ) from None
            print(summary)
        else:
            print(file)
            print(summary, file=sys.stderr)
        sys.stdout.flush()
    except BowyeryError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    except BrokenPipeError:  # whoever reads has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return 0


if __name__ == "__main__":
    sys.exit(main())
