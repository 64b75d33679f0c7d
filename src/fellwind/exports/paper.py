"""What printed pages share: the application's own type, embedded; figures, tables and cautions.

Barlow carries the Latin scripts; what it lacks (Greek, Cyrillic) is set in Alegreya, so that names
in any European script print. Fractions are built from small figures.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache
from html import escape
from io import BytesIO
from pathlib import Path
from typing import Any

from reportlab.graphics.shapes import Drawing
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import getFont, registerFont
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer

from bowyery.bow.layout import Mark
from bowyery.units.quantity import INCH, METRIC, World, fraction_text

PAPERS = {"A4": A4, "Letter": LETTER}
MARGIN = 14 * mm
INK, RULE = HexColor("#22313A"), HexColor("#8A979C")
LEAST = 12.0  # no figure is set smaller than this (points)

# The finest fraction of an inch in print, and digits of a millimetre: place, width, thickness.
FINEST_FRACTION = (32, 32, 64)
FINEST_DIGITS = (0, 1, 1)

_FONTS = Path(__file__).parent.parent / "static" / "vendor"
_FACES = {
    "Body": "barlow-400", "Body-Bold": "barlow-600",
    "Names": "alegreya-400", "Names-Bold": "alegreya-700",
}  # fmt: skip
_RAISED, _LOWERED = "⁰¹²³⁴⁵⁶⁷⁸⁹", "₀₁₂₃₄₅₆₇₈₉"
_EIGHTHS = {"⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8), "⅞": (7, 8), "⅓": (1, 3), "⅔": (2, 3)}


@cache
def _faces() -> dict[str, set[int]]:
    """Register the type, once; which signs each face has."""
    found = {}
    for name, file in _FACES.items():
        registerFont(TTFont(name, str(_FONTS / f"{file}.ttf")))
        found[name] = set(getFont(name).face.charToGlyph)
    return found


@dataclass(frozen=True)
class _Run:
    """Signs of one face, size and rise (points)."""

    face: str
    text: str
    size: float
    rise: float


def _face(sign: str, bold: bool) -> tuple[str, str]:
    """The face that has a sign, the body's before that of names; what neither has is a query."""
    tail = "-Bold" if bold else ""
    for face in (f"Body{tail}", f"Names{tail}"):
        if ord(sign) in _faces()[face]:
            return face, sign
    return f"Body{tail}", "?"


def _runs(text: str, size: float, bold: bool) -> list[_Run]:
    """Text in runs; raised and lowered figures are set small."""
    for sign, (over, under) in _EIGHTHS.items():
        text = text.replace(sign, f"{_RAISED[over]}⁄{_LOWERED[under]}")
    runs: list[_Run] = []
    small = round(0.62 * size, 1)
    for sign in text:
        height, rise = size, 0.0
        if sign in _RAISED:
            sign, height, rise = str(_RAISED.index(sign)), small, round(0.32 * size, 1)
        elif sign in _LOWERED:
            sign, height, rise = str(_LOWERED.index(sign)), small, round(-0.04 * size, 1)
        face, shown = _face(sign, bold)
        last = runs[-1] if runs else None
        if last and (last.face, last.size, last.rise) == (face, height, rise):
            runs[-1] = replace(last, text=last.text + shown)
        else:
            runs.append(_Run(face, shown, height, rise))
    return runs


def markup(text: str, size: float, bold: bool = False) -> str:
    """Words as a paragraph's markup, in the faces that have their signs."""
    parts = []
    for run in _runs(text, size, bold):
        said = f'<font face="{run.face}">{escape(run.text)}</font>'
        tag = "super" if run.rise > 0 else "sub"
        parts.append(
            f'<{tag} rise="{abs(run.rise)}" size="{run.size}">{said}</{tag}>' if run.rise else said
        )
    return "".join(parts)


def words(
    text: str, size: float = LEAST, bold: bool = False, align: int = 0, space: float = 0.0
) -> Paragraph:
    """A paragraph.

    Args:
        align: 0 left, 1 centre, 2 right.
    """
    _faces()
    style = ParagraphStyle(
        "words", fontName="Body-Bold" if bold else "Body", fontSize=size, leading=1.28 * size,
        textColor=INK, alignment=align, spaceBefore=space,
    )  # fmt: skip
    return Paragraph(markup(text, size, bold), style)


def draw_words(
    canvas: Canvas, x: float, y: float, text: str, size: float, bold: bool = False
) -> None:
    """Words straight on a page, at a place in points."""
    for run in _runs(text, size, bold):
        canvas.setFont(run.face, run.size)
        canvas.drawString(x, y + run.rise, run.text)
        x += canvas.stringWidth(run.text, run.face, run.size)


def written(mark: Mark, marked_in: World) -> tuple[str, str, str]:
    """Distance from the centre, width and thickness of a mark as they are marked on the wood."""
    return (
        size_text(mark.from_centre, 0, marked_in),
        size_text(mark.width, 1, marked_in),
        size_text(mark.thickness, 2, marked_in),
    )


def size_text(size: float, what: int, marked_in: World) -> str:
    """A size as it is marked on the wood: 0 a distance, 1 a width, 2 a thickness, 3 a thickness
    that is ground.
    """
    if what == 3:
        return f"{size * 1000:.2f}" if marked_in == METRIC else f"{size / INCH:.3f}"
    if marked_in == METRIC:
        return f"{size * 1000:.{FINEST_DIGITS[what]}f}"
    return fraction_text(size / INCH, FINEST_FRACTION[what])


def page_width(paper: str) -> float:
    """Between the margins (points)."""
    return float(PAPERS[paper][0] - 2 * MARGIN)


def page_height(paper: str) -> float:
    """Between the margins (points)."""
    return float(PAPERS[paper][1] - 2 * MARGIN)


def made(story: Sequence[Flowable | Drawing], paper: str, title: str, foot: str = "") -> bytes:
    """Set a story on pages of a paper; returns the PDF.

    Args:
        story: what stands on it, in order.
        paper: a key of PAPERS.
        title: of the document, for whoever lists it.
        foot: at the foot of every page, before its number.
    """
    _faces()
    file = BytesIO()

    def footed(canvas: Canvas, document: Any) -> None:
        canvas.setFillColor(INK)
        said = f"{foot}{' · ' if foot else ''}page {document.page}"
        draw_words(canvas, MARGIN, 8 * mm, said, 9)

    document = SimpleDocTemplate(
        file, pagesize=PAPERS[paper], leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN,
        bottomMargin=MARGIN, title=title, author="Fellwind",
    )  # fmt: skip
    document.build(list(story), onFirstPage=footed, onLaterPages=footed)
    return file.getvalue()


def gap(points: float) -> Spacer:
    """White space."""
    return Spacer(1, points)
