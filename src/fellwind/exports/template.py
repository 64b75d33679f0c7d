"""Full-size templates of a bow: PDF in pages that join, SVG and DXF at 1:1 in millimetres, CSV of
the marks.
"""

import csv
import math
from collections.abc import Callable
from dataclasses import dataclass
from html import escape
from io import BytesIO, StringIO
from typing import Protocol

import numpy as np
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, PageTemplate

from bowyery.arrays import Floats
from bowyery.design.solution import Solution
from bowyery.units.quantity import INCH, World
from fellwind.exports.paper import PAPERS, draw_words, words, written

TIP_END = 0.8  # of its size at the nock, where the wood ends beyond it
EDGE, OVERLAP = 10.0, 15.0  # mm: margin of the page, and how far two pages share the bow
CHECK = 100.0  # mm, length of the bar to lay a ruler on


@dataclass(frozen=True)
class Template:
    """A bow from the back and from the side, in mm on its own ruler: 0 at the centre, upper limb
    positive.

    Attributes:
        width: from the back, even about the centre line.
        depth: from the side, below the back.
        marks: places of the marks, with their words.
        strip: width that is cut out of a tube along the middle of its back, zero where nothing is.
    """

    at: Floats
    width: Floats
    depth: Floats
    marks: tuple[tuple[float, str], ...]
    strip: Floats

    @property
    def reach(self) -> tuple[float, float]:
        """Lower and upper end, beyond the nocks (mm)."""
        return float(self.at[0]), float(self.at[-1])

    def outline(self) -> list[tuple[float, float]]:
        """From the back, closed about the centre line."""
        return self._about(self.width)

    def cuts(self) -> list[list[tuple[float, float]]]:
        """What is cut out of a tube so that it closes to a taper, or nothing."""
        return [self._about(self.strip)] if self.strip.any() else []

    def _about(self, wide: Floats) -> list[tuple[float, float]]:
        top = [(float(x), float(w) / 2) for x, w in zip(self.at, wide, strict=True)]
        return [*top, *((x, -y) for x, y in reversed(top))]

    def placed(self, high: float) -> tuple[float, list[tuple[list[tuple[float, float]], float]]]:
        """Height of the centre line on a page so high (mm), and each closed line with the height of
        its zero.
        """
        middle = high - 28 - float(self.width.max()) / 2
        back = high - 62 - float(self.width.max())
        about = [self.outline(), *self.cuts()]
        return middle, [*((line, middle) for line in about), (self.side(), back)]

    def side(self) -> list[tuple[float, float]]:
        """From the side, the back at 0."""
        back = [(float(x), 0.0) for x in self.at]
        belly = [(float(x), -float(t)) for x, t in zip(self.at, self.depth, strict=True)]
        return [*back, *reversed(belly)]


class Sheet(Protocol):
    """Something that is printed at full size, in pages that join."""

    @property
    def marks(self) -> tuple[tuple[float, str], ...]:
        """Places of its marks, with their words."""

    @property
    def reach(self) -> tuple[float, float]:
        """Where it begins and ends (mm)."""

    def placed(self, high: float) -> tuple[float, list[tuple[list[tuple[float, float]], float]]]:
        """Height of its centre line on a page so high (mm), and its closed lines, each with the
        height of its zero.
        """


# How far the way from the limb's size to the grip's is gone at a share of the fade.
FADE_SHAPES: dict[str, Callable[[float], float]] = {
    "straight": lambda s: s,
    "smooth": lambda s: s * s * (3 - 2 * s),
    "hollow": lambda s: 1 - math.sqrt(1 - s * s),
}


def template_of(found: Solution, marked_in: World, fade_shape: str = "straight") -> Template:
    """The lines that are cut to: limbs from mark to mark, the fades in their shape, the handle
    between them.
    """
    layout, rows = found.layout, []
    for side, sign in (("lower", -1.0), ("upper", 1.0)):
        marks = [m for m in found.marks if m.limb == side]
        rows += [(sign * m.from_centre, m.width, m.thickness) for m in marks]
        if not layout.stiff_handle:
            continue
        root, end = marks[0], sign * layout.handle / 2 - layout.grip_drop
        for k in range(1, 9):
            share = k / 8
            gone = FADE_SHAPES[fade_shape](share)
            at = sign * root.from_centre + share * (end - sign * root.from_centre)
            deep = root.thickness + gone * (layout.handle_depth - root.thickness)
            rows.append((at, root.width + gone * (layout.grip_width - root.width), deep))
    for (side, sign), beyond in zip((("upper", 1.0), ("lower", -1.0)), layout.beyond, strict=True):
        nock = [m for m in found.marks if m.limb == side][-1]
        if beyond > 0:
            end = sign * (nock.from_centre + beyond)
            whole = 1.0 if layout.unknown == "nothing" else TIP_END
            rows.append((end, whole * nock.width, whole * nock.thickness))
    places, width, depth = 1000 * np.array(sorted(rows)).T
    sizes = [
        (
            (1.0 if m.limb == "upper" else -1.0) * m.from_centre * 1000,
            " x ".join(written(m, marked_in)[1:3]),
        )
        for m in found.marks
    ]
    strip = 1000 * layout.strip_at(width / 1000)
    return Template(places, width, depth, tuple(sorted(sizes)), strip)


def dxf(shape: Template, name: str) -> bytes:
    """Outline, side view and centre line as closed polylines in millimetres, each on a layer of its
    own.
    """
    # it takes a third of a second to load, which no other page waits for
    from ezdxf import units as dxf_units
    from ezdxf.filemanagement import new as new_drawing

    document = new_drawing("R2010", setup=True)
    document.units = dxf_units.MM
    space = document.modelspace()
    for layer in ("OUTLINE", "SIDE", "CENTRE", "MARKS", *("CUT" for _ in shape.cuts())):
        document.layers.add(layer)
    drop = float(shape.width.max()) / 2 + 30
    space.add_lwpolyline(shape.outline(), close=True, dxfattribs={"layer": "OUTLINE"})
    space.add_lwpolyline(
        [(x, y - drop) for x, y in shape.side()], close=True, dxfattribs={"layer": "SIDE"}
    )
    for cut in shape.cuts():
        space.add_lwpolyline(cut, close=True, dxfattribs={"layer": "CUT"})
    low, high = shape.reach
    space.add_line((low - 10, 0), (high + 10, 0), dxfattribs={"layer": "CENTRE"})
    for at, said in ((0.0, name), *shape.marks):
        space.add_line((at, -4), (at, 4), dxfattribs={"layer": "MARKS"})
        space.add_text(said, height=3, dxfattribs={"layer": "MARKS"}).set_placement((at + 1, 5))
    text = StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


def svg(shape: Template, name: str) -> str:
    """The same as an SVG whose user unit is a millimetre."""
    low, high = shape.reach
    wide, deep = float(shape.width.max()), float(shape.depth.max())
    left, width, height = low - 20, high - low + 40, wide + deep + 90
    middle, below = wide / 2 + 30, wide + 60

    def path(points: list[tuple[float, float]], y: float) -> str:
        return "M" + "L".join(f"{x:.3f} {y - v:.3f}" for x, v in points) + "Z"

    line = 'fill="none" stroke="#000" stroke-width="0.2"'
    marks = "".join(
        f'<path d="M{at:.3f} {middle - 4:.3f}V{middle + 4:.3f}" {line}/>'
        f'<text x="{at + 1:.3f}" y="{middle - 5:.3f}" font-size="3">{escape(said)}</text>'
        for at, said in shape.marks
    )
    cuts = "".join(f'<path id="cut" d="{path(one, middle)}" {line}/>' for one in shape.cuts())
    title = escape(name)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm"'
        f' viewBox="{left:.3f} 0 {width:.3f} {height:.3f}"><title>{title}</title><path id="outline"'
        f' d="{path(shape.outline(), middle)}" {line}/><path id="side"'
        f' d="{path(shape.side(), below)}" {line}/><path id="centre" d="M{low - 10:.3f}'
        f' {middle:.3f}H{high + 10:.3f}" {line} stroke-dasharray="6 2 1 2"/>{cuts}{marks}'
        f'<path id="check"'
        f' d="M{low:.3f} {height - 8:.3f}h{CHECK:.3f}" {line}/><text x="{low:.3f}"'
        f' y="{height - 10:.3f}" font-size="3">this line is {CHECK:.0f} mm long</text></svg>'
    )


def marks_csv(found: Solution) -> str:
    """The marking table in millimetres, and in inches beside; each layer apart where there are
    several.
    """
    file = StringIO()
    out = csv.writer(file)
    heads = ["from_centre", "width", "thickness"]
    if found.layered:
        heads += [f"{one.role} {one.material}".replace(" ", "_") for one in found.bow.upper.layers]
    out.writerow(["limb", *(f"{h}_mm" for h in heads), *(f"{h}_in" for h in heads)])
    for mark in found.marks:
        sizes = [mark.from_centre, mark.width, mark.thickness]
        sizes += mark.layers if found.layered else ()
        out.writerow(
            [mark.limb, *(f"{s * 1000:.2f}" for s in sizes), *(f"{s / INCH:.4f}" for s in sizes)]
        )
    return file.getvalue()


def tiles(shape: Sheet, paper: str) -> list[tuple[float, float]]:
    """Where on the bow each page begins and ends (mm); pages lie along the bow, sharing OVERLAP."""
    long = max(PAPERS[paper]) / mm - 2 * EDGE
    low, high = shape.reach[0] - 12, shape.reach[1] + 12
    pages, start = [], low
    while True:
        pages.append((start, start + long))
        if start + long >= high:
            return pages
        start += long - OVERLAP


class _Tile(Flowable):  # type: ignore[misc]  # its package has no types
    """One page of the bow at full size, with its lettered crosses and a bar to lay a ruler on."""

    def __init__(self, shape: Sheet, said: str, size: tuple[float, float], page: "_Page") -> None:
        super().__init__()
        self.shape, self.said, self.page = shape, said, page
        self.width, self.height = size

    def wrap(self, wide: float, high: float) -> tuple[float, float]:
        """It takes the whole page."""
        return self.width, self.height

    def draw(self) -> None:
        """Draw it, in millimetres from the page's corner."""
        canvas, shape, page = self.canv, self.shape, self.page
        high = self.height / mm
        middle, lines = shape.placed(high)
        canvas.saveState()
        canvas.setLineWidth(0.3)
        window = canvas.beginPath()
        window.rect(EDGE * mm, 0, (page.end - page.start) * mm, self.height)
        canvas.clipPath(window, stroke=0)
        shift = EDGE - page.start
        for points, y in lines:
            _draw(canvas, points, shift, y)
        canvas.setDash(6, 3)
        low, far = ((reach + shift) * mm for reach in shape.reach)
        canvas.line(low, middle * mm, far, middle * mm)
        canvas.setDash()
        for at, said in (*shape.marks, (0.0, "centre")):
            x = (at + shift) * mm
            canvas.line(x, (middle - 3) * mm, x, (middle + 3) * mm)
            draw_words(canvas, x + 1, (middle + 4) * mm, said, 12)
        canvas.restoreState()
        _joins(canvas, page, middle)
        draw_words(canvas, EDGE * mm, 16 * mm, self.said, 12)
        canvas.line(EDGE * mm, 11 * mm, (EDGE + CHECK) * mm, 11 * mm)
        for x in (EDGE, EDGE + CHECK):
            canvas.line(x * mm, 9.5 * mm, x * mm, 12.5 * mm)
        rule = f"lay a ruler here: {CHECK:.0f} mm, or 3.94 in"
        draw_words(canvas, (EDGE + CHECK + 4) * mm, 9.6 * mm, rule, 12)


@dataclass(frozen=True)
class _Page:
    """Which page of how many, and where on the bow it begins and ends (mm)."""

    number: int
    count: int
    start: float
    end: float


def template_pdf(shape: Sheet, name: str, archer: str, paper: str, what: str = "Template") -> bytes:
    """Outline and side view, or another sheet, at full size on pages that are laid over each other
    at the crosses and taped.
    """
    file = BytesIO()
    short, long = sorted(PAPERS[paper])
    size = (long, short)
    rows = tiles(shape, paper)
    frame = Frame(0, 0, *size, 0, 0, 0, 0)
    document = BaseDocTemplate(
        file, pagesize=size, title=f"{what}, {name}", author="Fellwind",
        pageTemplates=[PageTemplate("tile", [frame])],
    )  # fmt: skip
    story = []
    for number, (start, end) in enumerate(rows, 1):
        said = f"{name} for {archer}. Page {number} of {len(rows)}, full size: print at 100 %, not"
        page = _Page(number, len(rows), start, end)
        story.append(_Tile(shape, f"{said} fitted.", size, page))
    words("")  # the type is registered with the first words
    document.build(story)
    return file.getvalue()


def _draw(canvas: Canvas, points: list[tuple[float, float]], shift: float, y: float) -> None:
    line = canvas.beginPath()
    for k, (x, v) in enumerate(points):
        (line.lineTo if k else line.moveTo)((x + shift) * mm, (y + v) * mm)
    line.close()
    canvas.drawPath(line)


def _joins(canvas: Canvas, page: _Page, middle: float) -> None:
    """Crosses in the middle of what two pages share, named alike on both."""
    width, number = page.end - page.start, page.number
    for there, x, letter in (
        (number > 1, OVERLAP / 2, chr(63 + number)),
        (number < page.count, width - OVERLAP / 2, chr(64 + number)),
    ):
        if not there:
            continue
        for y in (middle + 22, middle - 80):
            at, up = (EDGE + x) * mm, y * mm
            canvas.line(at - 8, up, at + 8, up)
            canvas.line(at, up - 8, at, up + 8)
            draw_words(canvas, at + 3, up + 3, letter, 12, bold=True)
