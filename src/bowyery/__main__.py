"""The command line of the core: ``python -m bowyery solve FILE``, called by ``./fellwind solve``."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np

from bowyery import bowfile, statics
from bowyery.bow import Bow, grid
from bowyery.errors import BowyeryError, DescriptionError

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


def solve(path: str, draws: str | None, as_json: bool) -> str:
    """Solve a bow file and return what to print."""
    try:
        text = Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise DescriptionError(f"The file {path} cannot be read: {error.strerror}.") from None
    except UnicodeDecodeError:
        raise DescriptionError(f"The file {path} is not text.") from None
    bow = bowfile.loads(text)
    limbs = grid(bow)
    braced = statics.brace_bow(limbs, bow)
    answer = bowfile.result(statics.solve_grid(limbs, bow, _draws(draws, bow, float(braced.least_draw[0])), braced))
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
        lines.append(
            f"{row['draw_mm']:9.1f}{row['weight_n']:10.2f}{row['tension_upper_n']:10.1f}{row['tension_lower_n']:10.1f}"
            f"{row['energy_j']:10.2f}{peak['value'] * 100:10.3f}  {peak['limb']} {peak['face']}"
            f" at {peak['at_mm']:.0f} mm"
        )
    return "\n".join(lines)


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    parser = argparse.ArgumentParser(prog="fellwind")
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("solve", help="brace and draw the bow of a bow file")
    one.add_argument("file")
    one.add_argument("--draws", help="draws from nocking point to pivot in mm, such as 250,300,350")
    one.add_argument("--json", action="store_true")
    given = parser.parse_args(arguments)
    try:
        print(solve(given.file, given.draws, given.json))
    except BowyeryError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
