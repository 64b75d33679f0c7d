"""The bow card on paper: the finished bow's figures, with a QR code to its page, to be cut out."""

from dataclasses import dataclass

import segno
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib.units import mm
from reportlab.platypus import Table, TableStyle

from fellwind.exports.paper import INK, RULE, gap, made, page_width, words

QR_SIDE = 34 * mm
CARE = "Never let go without an arrow, nor leave it drawn or braced. Keep it from heat and wet."


@dataclass(frozen=True)
class Card:
    """What a card shows: a title, for whom, lines of what and its figure, and where the code
    leads.
    """

    title: str
    made_for: str
    rows: list[tuple[str, str]]
    link: str


def _code(link: str) -> Drawing:
    rows = [list(row) for row in segno.make(link, error="m").matrix_iter(border=2)]
    cell = QR_SIDE / len(rows)
    picture = Drawing(QR_SIDE, QR_SIDE)
    for r, row in enumerate(rows):
        for c, dark in enumerate(row):
            if dark:
                top = QR_SIDE - (r + 1) * cell
                picture.add(Rect(c * cell, top, cell, cell, strokeColor=None, fillColor=INK))
    return picture


def card_pdf(card: Card, paper: str) -> bytes:
    """Write a card as wide as the sheet, with a line to cut along."""
    inner = page_width(paper) - 24
    titles = [words(card.title, 22, bold=True), words(card.made_for, space=4)]
    plain = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]
    head = Table([[titles, _code(card.link)]], [inner - QR_SIDE, QR_SIDE], style=TableStyle(plain))
    lines = [[words(what), words(figure, 14, bold=True)] for what, figure in card.rows]
    ruled = [*plain, ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE)]
    table = Table(lines, [0.3 * inner, 0.7 * inner], style=TableStyle(ruled))
    whole = Table(
        [[[head, gap(4), table, gap(6), words(CARE)]]],
        [page_width(paper)],
        style=TableStyle(
            [
                ("BOX", (0, 0), (-1, -1), 0.8, INK),
                ("LEFTPADDING", (0, 0), (-1, -1), 12),
                ("RIGHTPADDING", (0, 0), (-1, -1), 12),
                ("TOPPADDING", (0, 0), (-1, -1), 12),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 12),
            ]
        ),
    )
    return made([whole], paper, f"Bow card, {card.title}")
