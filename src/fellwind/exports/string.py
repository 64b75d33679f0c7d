"""A string on paper: the plan of its posts and servings at full size, and a label for its coil."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from io import StringIO

from reportlab.lib.units import mm
from reportlab.platypus import Table, TableStyle

from bowyery.errors import DescriptionError
from bowyery.strings.plan import StringPlan
from bowyery.units.quantity import INCH
from fellwind.exports.paper import INK, RULE, gap, made, words

Line = list[tuple[float, float]]
HALF = 3.0  # of the drawn string (mm)
LABEL = 96 * mm


@dataclass(frozen=True)
class StringSheet:
    """A string at full size in mm, from its upper nock: laid out above, on the bow below.

    Attributes:
        marks: places with their words.
        reach: from the upper nock to the further of posts and lower nock.
    """

    marks: tuple[tuple[float, str], ...]
    lines: tuple[Line, ...]
    reach: tuple[float, float]

    def placed(self, high: float) -> tuple[float, list[tuple[Line, float]]]:
        """Where the string lies on a page so high (mm), and its lines."""
        middle = high - 60
        return middle, [(line, middle) for line in self.lines]


def _box(low: float, high: float, half: float) -> Line:
    return [(low, half), (high, half), (high, -half), (low, -half)]


def string_sheet(plan: StringPlan, jig: float | None = None) -> StringSheet:
    """The plan of a string at full size.

    Args:
        jig: the longest distance that the shop's jig reaches (m), or None.

    Raises:
        DescriptionError: the jig is too short for it.
    """
    if jig is not None and plan.posts > jig:
        raise DescriptionError(
            f"The posts stand {plan.posts * 1000:.0f} mm apart, and the jig reaches"
            f" {jig * 1000:.0f} mm: lay it with pegs in a board, or in a loop doubled back.",
            "jig",
        )
    on = "post" if plan.kind.is_loop else "peg"
    end, posts = plan.length * 1000, plan.posts * 1000
    marks = [(0.0, f"upper nock, first {on}"), (posts, f"second {on}, laid out"),
             (end, "lower nock, on the bow")]  # fmt: skip
    lines = [_box(0.0, max(end, posts), HALF)]
    for part in plan.parts:
        if part.name in ("body", "upper loop", "lower loop"):
            continue
        low, high = part.start * 1000, part.end * 1000
        lines.append(_box(low, high, 2.2 * HALF))
        marks += [(low, f"{part.name} from here"), (high, "to here")]
    if plan.nocking is not None:
        marks.append((plan.nocking * 1000, "nocking point"))
    return StringSheet(tuple(sorted(marks)), tuple(lines), (0.0, max(end, posts)))


@dataclass(frozen=True)
class Label:
    """What a coil's label says."""

    title: str
    rows: list[tuple[str, str]]


def label_pdf(label: Label, paper: str) -> bytes:
    """A label to cut out and tie to the coil."""
    lines = [[words(what), words(figure, 13, bold=True)] for what, figure in label.rows]
    plain = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
             ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE)]  # fmt: skip
    inner = LABEL - 20
    table = Table(lines, [0.42 * inner, 0.58 * inner], style=TableStyle(plain))
    box = [("BOX", (0, 0), (-1, -1), 0.8, INK), ("LEFTPADDING", (0, 0), (-1, -1), 10),
           ("RIGHTPADDING", (0, 0), (-1, -1), 10), ("TOPPADDING", (0, 0), (-1, -1), 8),
           ("BOTTOMPADDING", (0, 0), (-1, -1), 8)]  # fmt: skip
    whole = Table([[[words(label.title, 15, bold=True), gap(3), table]]], [LABEL],
                  style=TableStyle(box))  # fmt: skip
    whole.hAlign = "LEFT"
    return made([whole], paper, label.title)


def parts_csv(plan: StringPlan) -> str:
    """Every part of a string with its place, size and mass."""
    file = StringIO()
    out = csv.writer(file)
    out.writerow(["part", "from_upper_nock_mm", "to_mm", "from_in", "to_in", "thick_mm", "mass_g",
                  "serving_thread_mm"])  # fmt: skip
    for part in plan.parts:
        out.writerow([
            part.name, f"{part.start * 1000:.1f}", f"{part.end * 1000:.1f}",
            f"{part.start / INCH:.3f}", f"{part.end / INCH:.3f}", f"{part.thick * 1000:.2f}",
            f"{part.mass * 1000:.3f}", f"{part.thread * 1000:.0f}",
        ])  # fmt: skip
    return file.getvalue()
