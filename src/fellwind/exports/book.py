"""A bow's bench book on paper: everything that was written, in order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from reportlab.platypus import Image, Table, TableStyle

from fellwind.exports.paper import RULE, gap, made, page_width, words


@dataclass(frozen=True)
class Line:
    """An entry as it was written, with the file of its photograph where it has one."""

    when: str
    stage: str
    text: str
    by: str
    minutes: int
    corrected: bool = False
    picture: Path | None = None


def _print(picture: Path, wide: float) -> Image:
    """A photograph as wide as its column allows."""
    image = Image(str(picture))
    image._restrictSize(0.52 * wide, 0.4 * wide)
    return image


def book_pdf(title: str, made_for: str, lines: Sequence[Line], paper: str) -> bytes:
    """Set a bow's book.

    Args:
        paper: a key of PAPERS.
    """
    wide = page_width(paper)
    rows = [[words(one, bold=True) for one in ("When", "Stage", "As written", "By")]]
    for line in lines:
        text = f"{line.text} (corrected since)" if line.corrected else line.text
        spent = f", {line.minutes} min" if line.minutes else ""
        told = [words(text)] if line.picture is None else [words(text), _print(line.picture, wide)]
        rows.append([words(line.when), words(line.stage), told, words(f"{line.by}{spent}")])
    table = Table(
        rows, [0.2 * wide, 0.1 * wide, 0.54 * wide, 0.16 * wide], repeatRows=1,
        style=TableStyle([
            ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
        ]),
    )  # fmt: skip
    hours, rest = divmod(sum(line.minutes for line in lines if not line.corrected), 60)
    head = [
        words(title, 22, bold=True),
        words(f"for {made_for}; {hours} h {rest} min on the bench"),
    ]
    return made([*head, gap(8), table], paper, f"Bench book, {title}", title)
