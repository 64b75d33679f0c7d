"""What printed sheets share: paper, type, footers."""

from io import BytesIO

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

PAPERS = {"A4": A4, "Letter": LETTER}
MARGIN = 16 * mm


class Sheet:
    """A page being written from the top down, in black on white."""

    def __init__(self, paper: str, title: str) -> None:
        self.file = BytesIO()
        self.size = PAPERS[paper]
        self.canvas = Canvas(self.file, pagesize=self.size)
        self.canvas.setTitle(title)
        self.canvas.setAuthor("Fellwind")
        self.y = self.size[1] - MARGIN

    @property
    def width(self) -> float:
        """Usable width in points."""
        return float(self.size[0] - 2 * MARGIN)

    def words(self, text: str, size: float = 10, bold: bool = False, x: float = 0.0, drop: float | None = None) -> None:
        """Write a line and move down; the standard PDF fonts carry Latin-1 alone."""
        self.canvas.setFont("Helvetica-Bold" if bold else "Helvetica", size)
        if drop is None:
            self.y -= size * 1.35
        self.canvas.drawString(MARGIN + x, self.y, plain(text))
        if drop:
            self.y -= drop

    def rule(self, gap: float = 4) -> None:
        """A thin line across."""
        self.y -= gap
        self.canvas.setLineWidth(0.4)
        self.canvas.line(MARGIN, self.y, MARGIN + self.width, self.y)

    def page(self) -> None:
        """Start another page."""
        self.canvas.showPage()
        self.y = self.size[1] - MARGIN

    def finish(self) -> bytes:
        """Close the sheet and return the PDF."""
        self.canvas.save()
        return self.file.getvalue()


SIGNS = {"−": "-", "⁄": "/", "–": "-", "“": '"', "”": '"', "’": "'", "⅛": " 1/8", "⅜": " 3/8", "⅝": " 5/8", "⅞": " 7/8"}
DIGITS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹₀₁₂₃₄₅₆₇₈₉", "01234567890123456789")


def plain(text: str) -> str:
    """Turn signs outside Latin-1 into plain ones."""
    for sign, written in SIGNS.items():
        text = text.replace(f" {sign}", written if written.startswith(" ") else f" {written}").replace(sign, written)
    return text.translate(DIGITS).encode("latin-1", "replace").decode("latin-1")
