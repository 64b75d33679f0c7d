"""The marking table on paper: what to mark where, from the centre outwards, and the bow drawn."""

from itertools import zip_longest

from reportlab.graphics.shapes import Drawing, Line, Polygon
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Table, TableStyle

from bowyery.bow.bow import SIDES
from bowyery.bow.layout import Mark
from bowyery.bow.section import FLAT_OVAL
from bowyery.design.solution import Solution
from bowyery.units.quantity import METRIC, Units, World
from fellwind.exports.paper import (
    INK,
    LEAST,
    RULE,
    gap,
    made,
    page_height,
    page_width,
    size_text,
    words,
    written,
)
from fellwind.exports.template import Template, template_of

MOST_SIZE = 19.0  # of the table's figures (points)
_AROUND = 118 * mm  # what stands above and below the table on a page of its own


def marking_table(
    names: tuple[str, str],
    found: Solution,
    shown: Units,
    paper: str,
    marked_in: World,
    fade_shape: str = "straight",
) -> bytes:
    """Write the marking table.

    Args:
        names: of the design, and of whom it is for.
        shown: units for the figures above the table.
        paper: A4 or Letter.
    """
    name, archer = names
    layout, wanted = found.layout, found.wanted
    story: list[Flowable | Drawing] = [
        words(name, 24, bold=True),
        words(
            f"For {archer}. {found.wood.name}, {shown.length(layout.length)} from nock to nock,"
            f" {shown.length(layout.overall)} over all, section {layout.shape.name}.",
            space=4,
        ),
        words(
            f"Wanted {shown.fine_weight(wanted.weight)} at {shown.length(wanted.draw)} to the grip;"
            f" these marks come to {shown.fine_weight(found.weight)}."
            f" Brace {shown.length(wanted.brace_height)}.",
        ),
        words(
            f"Handle {shown.length(layout.handle)}, fades {shown.length(layout.fade)}. Greatest"
            f" strain {found.strain * 100:.2f} %, this wood lasts at"
            f" {found.wood.working_strain * 100:.2f} %.",
        ),
    ]
    if layout.back_bow is not None:
        back = layout.back_bow
        story.append(
            words(
                f"Back-bow {shown.length(back.length)} from end to end, {shown.length(back.width)}"
                f" wide at the grip, {shown.length(back.tip_width)} at the ends;"
                f" {shown.thickness(back.depth[0])} thick at the grip,"
                f" {shown.thickness(back.depth[1])} at the ends. Cables"
                f" {shown.fine_weight(back.tension)} before stringing.",
            )
        )
    shape = template_of(found, marked_in, fade_shape)
    story += [
        gap(6),
        _drawing(shape, page_width(paper)),
        words("Lower limb left, back upwards; widths and depths three times as large.", 10),
        gap(6),
        _table(found, paper, marked_in),
        *(words(one, space=8) for one in _by_hand(found, shown)),
    ]  # fmt: skip
    if found.wood.caution:
        story.append(words(found.wood.caution, bold=True))
    return made(story, paper, f"Marking table, {name}", f"{name} for {archer}")


def _by_hand(found: Solution, shown: Units) -> list[str]:
    """How the marks are worked to, with the caution that belongs to it."""
    if found.layout.shape.name != FLAT_OVAL:
        return [
            "Leave the thickness full by a shaving or two until tillering; leave knots proud. Both"
            " edges alike.",
            "Saw, axe and drawknife: cut away from hand and body. Dust: mask and extraction.",
        ]
    said = []
    widest = float(found.layout.strip_at(min(m.width for m in found.marks)))
    if widest > 0:
        said.append(
            "The inner outline of the template is the strip that is cut out along the middle of"
            f" the back, {shown.thickness(widest)} wide at the nocks. Warm the limb, close it round"
            " a taper of wood, and let it cool there."
        )
    elif found.layout.widths is not None:
        said.append(
            "Warm each limb until it gives, press it between two boards to the thickness at its"
            " marks, and let it cool there; it grows wider by itself."
        )
    return [*said, "Heat plastic in moving air only, and never until it smokes. Gloves."]


def _cells(
    found: Solution, mark: Mark | None, marked_in: World, size: float
) -> list[Flowable | str]:
    count = 4 if found.layered else 3
    if mark is None:
        return [""] * count
    place, *sizes = written(mark, marked_in)
    if found.layered:
        finest = 3 if found.ground else 2
        sizes[1:] = [
            size_text(size, finest, marked_in) for size in (found.wood_of(mark), mark.thickness)
        ]
    return [words(place, size, bold=True), *(words(one, size, align=2) for one in sizes)]


def _table(found: Solution, paper: str, marked_in: World) -> Table:
    """Both limbs side by side, as large as the sheet allows; more marks go on to the next page."""
    upper, lower = ([m for m in found.marks if m.limb == side] for side in SIDES)
    rows = max(len(upper), len(lower))
    size = min(MOST_SIZE, max(LEAST, (page_height(paper) - _AROUND) / (rows + 3) / 1.75))
    unit = "mm" if marked_in == METRIC else "inches"
    thick = ("wood alone", "in all") if found.layered else ("thick",)
    heads = [words(f"from centre, {unit}"), *(words(one, align=2) for one in ("width", *thick))]
    count = len(heads)
    titles = [words(f"{side} limb", LEAST + 3, bold=True) for side in ("Upper", "Lower")]
    table: list[list[Flowable | str]] = [
        [titles[0], *([""] * count), titles[1], *([""] * (count - 1))],
        [*heads, "", *heads],
    ]
    for one, other in zip_longest(upper, lower):
        pair = [_cells(found, mark, marked_in, size) for mark in (one, other)]
        table.append([*pair[0], "", *pair[1]])
    whole = page_width(paper)
    wide = [0.17 * whole, *([0.29 * whole / (count - 1)] * (count - 1))]
    style = TableStyle(
        [
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("TOPPADDING", (0, 0), (-1, -1), 0.18 * size),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 0.22 * size),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("RIGHTPADDING", (0, 0), (-1, -1), 2),
            ("LINEBELOW", (0, 1), (count - 1, -1), 0.5, RULE),
            ("LINEBELOW", (count + 1, 1), (2 * count, -1), 0.5, RULE),
            ("SPAN", (0, 0), (count - 1, 0)),
            ("SPAN", (count + 1, 0), (2 * count, 0)),
        ]
    )
    return Table(table, [*wide, 0.08 * whole, *wide], repeatRows=2, style=style, hAlign="LEFT")


def _drawing(shape: Template, width: float) -> Drawing:
    """The bow from the back and from the side, as wide as the sheet."""
    low, high = shape.reach
    scale, deep = width / (high - low), 3.0
    half = float(shape.width.max()) / 2 * deep * scale
    side = float(shape.depth.max()) * deep * scale
    tall = 2 * half + 10 + side
    picture = Drawing(width, tall)

    def outline(points: list[tuple[float, float]], middle: float) -> Polygon:
        flat = [v for x, y in points for v in ((x - low) * scale, middle + y * deep * scale)]
        return Polygon(flat, strokeColor=INK, strokeWidth=0.8, fillColor=None)

    picture.add(outline(shape.outline(), tall - half))
    centre = Line(0, tall - half, width, tall - half, strokeColor=INK, strokeWidth=0.4)
    centre.strokeDashArray = [5, 3]
    picture.add(centre)
    picture.add(outline(shape.side(), side))
    return picture
