"""What a finished bow leaves with on paper: the label for its limb, a care sheet, its bill."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.lib.units import mm
from reportlab.platypus import Table, TableStyle

from fellwind.exports.paper import INK, LEAST, RULE, gap, made, page_width, words

LINE = 1.28 * LEAST / mm / 1000  # how high a line of the smallest print is (m)


@dataclass(frozen=True)
class Label:
    """A label for a limb.

    Attributes:
        lines: what it says, the most telling first; what does not fit stays off.
        high: the most it may be across the limb (m).
    """

    title: str
    lines: Sequence[str]
    where: str
    high: float

    @property
    def wide(self) -> float:
        """Along the limb, in points: its figures are each six tenths of the type's size."""
        return 0.6 * LEAST * max(len(one) for one in self.lines) + 12

    @property
    def long(self) -> float:
        """Along the limb (m)."""
        return float(self.wide / mm / 1000)

    @property
    def fits(self) -> int:
        """How many of its lines there is room for; one at the least."""
        return max(1, min(len(self.lines), int(self.high / LINE)))


def label_pdf(label: Label, paper: str) -> bytes:
    """Set a label at its own size, three times, to be cut out: for whoever spoils the first.

    Args:
        label: what it says, and how high it may be.
        paper: a key of PAPERS.
    """
    rows = [[words(line, bold=k == 0)] for k, line in enumerate(label.lines[: label.fits])]
    wide = min(page_width(paper), label.wide)
    plain = [("BOX", (0, 0), (-1, -1), 0.4, RULE), ("TOPPADDING", (0, 0), (-1, -1), 0),
             ("BOTTOMPADDING", (0, 0), (-1, -1), 0), ("LEFTPADDING", (0, 0), (-1, -1), 6),
             ("RIGHTPADDING", (0, 0), (-1, -1), 6)]  # fmt: skip
    story = [words(f"Label for {label.title}", 22, bold=True), words(label.where), gap(14)]
    for _ in range(3):
        story += [Table(rows, [wide], style=TableStyle(plain), hAlign="LEFT"), gap(24)]
    return made(story, paper, f"Label, {label.title}")


def care_pdf(
    title: str, head: str, rules: Sequence[tuple[str, str]], law: str, paper: str
) -> bytes:
    """Set the sheet that goes to whoever shoots the bow.

    Args:
        head: whose it is and who made it.
        rules: what each is about, and what to do.
        paper: a key of PAPERS.
    """
    wide = page_width(paper)
    rows = [[words(what, 14, bold=True), words(rule)] for what, rule in rules]
    style = TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
    ])  # fmt: skip
    table = Table(rows, [0.2 * wide, 0.8 * wide], style=style)
    story = [words(f"Care of {title}", 22, bold=True), words(head), gap(8), table, gap(8)]
    return made([*story, words(law)], paper, f"Care of {title}")


def bill_pdf(
    title: str,
    head: str,
    rows: Sequence[tuple[str, str, str]],
    total: tuple[str, str],
    paper: str,
) -> bytes:
    """Set a bill of hours and materials.

    Args:
        rows: what, how much of it, what it comes to.
        paper: a key of PAPERS.
    """
    wide = page_width(paper)
    lines = [[words(one, bold=True, align=2 * (k == 2)) for k, one in
              enumerate(("What", "Time", "Comes to"))]]  # fmt: skip
    lines += [[words(what), words(much), words(sum_, align=2)] for what, much, sum_ in rows]
    lines.append([words(total[0], 14, bold=True), words(""), words(total[1], 14, True, 2)])
    style = TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("LINEBELOW", (0, 0), (-1, -2), 0.4, RULE), ("LINEABOVE", (0, -1), (-1, -1), 0.8, INK),
    ])  # fmt: skip
    table = Table(lines, [0.56 * wide, 0.2 * wide, 0.24 * wide], repeatRows=1, style=style)
    story = [words(f"Bill for {title}", 22, bold=True), words(head), gap(8), table]
    return made(story, paper, f"Bill, {title}", title)
