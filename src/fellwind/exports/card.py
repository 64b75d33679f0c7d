"""The bow card: the finished bow's figures on a card, with a QR code to its page."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import segno
from reportlab.lib.units import mm

from fellwind.exports.sheet import MARGIN, Sheet
from fellwind.workshop.measures import Units, on_rulers

if TYPE_CHECKING:
    from fellwind.builds.models import Build
    from fellwind.builds.services import Proof
    from fellwind.strings.models import BowString
    from fellwind.workshop.models import Workshop

CARD_WIDTH, CARD_HEIGHT, QR_SIDE = 148 * mm, 105 * mm, 32 * mm


def _code(sheet: Sheet, link: str, x: float, top: float) -> None:
    code = segno.make(link, error="m")
    rows = [list(row) for row in code.matrix_iter(border=2)]
    cell = QR_SIDE / len(rows)
    for r, row in enumerate(rows):
        for c, dark in enumerate(row):
            if dark:
                sheet.canvas.rect(x + c * cell, top - (r + 1) * cell, cell, cell, stroke=0, fill=1)


def rows_for(build: "Build", proof: "Proof", strings: "Sequence[BowString]", shown: Units) -> list[tuple[str, str]]:
    """The card's lines: what, and its figure."""
    figures, design = proof.figures, build.design
    rulers = on_rulers(design.draw, design.handle_depth)
    rows = [
        ("Weight", f"{shown.fine_weight(figures['weight'].value)} at {shown.length(design.draw)} to the grip"),
        ("Draw on other rulers", f"trade {shown.length(rulers['trade'])}, to the back {shown.length(rulers['back'])}"),
        ("Wood", design.material),
        ("Length, nock to nock", shown.length(design.length)),
        ("Brace height", shown.length(figures["brace height"].value)),
        ("Mass", shown.bulk_mass(figures["mass"].value)),
    ]
    if "string follow" in figures:
        rows.append(("String follow", shown.length(figures["string follow"].value)))
    if "arrow speed" in figures:
        arrow = f"{shown.speed(figures['arrow speed'].value)} with an arrow of {shown.mass(figures['arrow mass'].value)}"
        rows.append(("Arrow speed", arrow))
    if proof.efficiency is not None:
        rows.append(("Efficiency", f"{proof.efficiency * 100:.0f} %"))
    for string in strings:
        length = f", {shown.length(string.measured_length)}" if string.measured_length else ""
        rows.append((string.get_role_display().capitalize(), f"{string.fibre}, {string.kind}{length}"))
    return rows


def bow_card(
    build: "Build", proof: "Proof", strings: "Sequence[BowString]", shown: Units, workshop: "Workshop", link: str
) -> bytes:
    """Write the bow card on one sheet, with cutting lines round it."""
    sheet = Sheet(workshop.paper, f"Bow card, number {build.number}")
    top = sheet.y
    sheet.canvas.setLineWidth(0.4)
    sheet.canvas.rect(MARGIN - 8, top - CARD_HEIGHT, CARD_WIDTH, CARD_HEIGHT)
    _code(sheet, link, MARGIN - 8 + CARD_WIDTH - QR_SIDE - 8, top - 8)
    sheet.y = top - 6
    sheet.words(f"{build.number}  {build.name}", 17, bold=True)
    sheet.words(f"made for {build.design.archer} at {workshop.name}, {proof.entry.at:%-d %B %Y}", 9)
    sheet.y -= 22
    for what, figure in rows_for(build, proof, strings, shown):
        sheet.y -= 14.5
        sheet.words(what, 9, x=0, drop=0)
        sheet.words(figure, 10.5, bold=True, x=110, drop=0)
    sheet.y = top - CARD_HEIGHT + 26
    sheet.words("Never let go without an arrow, nor leave it drawn or braced. Keep it from heat and wet.", 8)
    return sheet.finish()
