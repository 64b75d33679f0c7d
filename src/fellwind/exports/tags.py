"""Pages for the wall: a tag on each, at true scale, and how to hang them."""

from __future__ import annotations

from io import BytesIO

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from bowyery.sight.tags import IDS, TAG, pattern_of
from fellwind.exports.paper import INK, LEAST, PAPERS, words

_HOW = (
    "Print at 100 %, not “fit to page”, and lay a rule on the bar below: it is 100 mm long.",
    "Hang four to six of these pages, flat, anywhere on the wall behind the bow: beside it, above"
    " and below, not all in one corner. Nothing has to be measured, and they may hang turned.",
    "All of them in one plane: none on a post or a shelf that stands out. Each number once.",
    "Leave the white around the black square white, and let nothing hang over it.",
    "The bow may hang some way before the wall, as on a tree: its own length tells how far.",
    "Take the picture from 2.5 to 5 m away, about straight before the bow, with the whole bow and"
    " at least two pages in it; nobody stands in the plane of the limbs while it is drawn.",
)  # fmt: skip


def tag_pages(paper: str) -> bytes:
    """Write the pages.

    Args:
        paper: A4 or Letter.

    Returns:
        A PDF: how to hang them, then a tag a page.
    """
    into = BytesIO()
    wide, high = PAPERS[paper]
    canvas = Canvas(into, pagesize=(wide, high), invariant=True)
    canvas.setTitle("Tag pages for the wall")
    _how(canvas, wide, high)
    for number in IDS:
        _tag(canvas, number, wide, high)
    canvas.save()
    return into.getvalue()


def _put(
    canvas: Canvas, left: float, top: float, text: str, size: float, wide: float, bold: bool = False
) -> float:  # fmt: skip
    """Set words below a line; return where the next may begin (points)."""
    one = words(text, size, bold)
    _, tall = one.wrapOn(canvas, wide, 1000.0)
    one.drawOn(canvas, left, top - tall)
    return float(top - tall)


def _how(canvas: Canvas, wide: float, high: float) -> None:
    left = 20 * mm
    top = _put(canvas, left, high - 16 * mm, "Tag pages for the wall", 24, wide - 2 * left, True)
    top -= 8 * mm
    for number, text in enumerate(_HOW, 1):
        _put(canvas, left, top, f"{number}.", 14, 9 * mm, True)
        top = _put(canvas, left + 9 * mm, top, text, 14, wide - 2 * left - 9 * mm) - 4 * mm
    _bar(canvas, left, top - 10 * mm)
    canvas.showPage()


def _bar(canvas: Canvas, left: float, y: float) -> None:
    """A bar of 100 mm, marked every ten."""
    canvas.setStrokeColor(INK)
    canvas.setLineWidth(0.8)
    canvas.line(left, y, left + 100 * mm, y)
    for k in range(11):
        canvas.line(left + 10 * k * mm, y, left + 10 * k * mm, y + (4 if k % 5 == 0 else 2.5) * mm)
    _put(canvas, left + 103 * mm, y + 4 * mm, "100 mm: lay a rule on it", LEAST, 60 * mm)


def _tag(canvas: Canvas, number: int, wide: float, high: float) -> None:
    left, below = (wide - TAG * mm) / 2, high - 40 * mm - TAG * mm
    canvas.setFillColorRGB(0, 0, 0)
    field = TAG * mm / 8
    black = pattern_of(number)
    for row in range(8):
        for column in range(8):
            if black[row, column]:
                # fields overlap by a hair: no printer may leave white lines between
                x, y = left + column * field, below + (7 - row) * field
                across, down = field + 0.2 * (column < 7), field + 0.2 * (row > 0)
                canvas.rect(x, y, across, down, stroke=0, fill=1)
    top = _put(canvas, left, below - 16 * mm, f"Tag {number}", 24, TAG * mm, True)
    said = f"Black square {TAG:.0f} mm wide; keep the white around it."
    _put(canvas, left, top - 3 * mm, said, 14, TAG * mm)
    _bar(canvas, left, below - 48 * mm)
    canvas.showPage()
