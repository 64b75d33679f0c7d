"""The marking table as a PDF: what to mark where, from the centre outwards."""

from bowyery.design import Solution
from fellwind.exports.sheet import MARGIN, Sheet
from fellwind.exports.template import template_of
from fellwind.exports.written import written
from fellwind.workshop.measures import Units

COLUMNS = (0.0, 95.0, 190.0, 285.0)


def marking_table(
    name: str, archer: str, found: Solution, shown: Units, paper: str, marked_in: str, fade_shape: str = "straight"
) -> bytes:
    """Write the marking table.

    Args:
        name: of the design.
        archer: whom it is for.
        found: the solved design.
        shown: units for the figures above the table.
        paper: A4 or Letter.
        marked_in: imperial or metric, the world of the marks.
        fade_shape: how the fades are drawn.
    """
    sheet = Sheet(paper, f"Marking table, {name}")
    layout, wanted = found.layout, found.wanted
    sheet.words(name, 18, bold=True)
    sheet.words(f"Marking table for {archer}. {found.wood.name}, {shown.length(layout.length)} from nock to nock.", 10)
    sheet.words(
        f"Wanted {shown.fine_weight(wanted.weight)} at {shown.length(wanted.draw)} to the grip; these marks come to"
        f" {shown.fine_weight(found.weight)}. Brace {shown.length(wanted.brace_height)}.",
        10,
    )
    sheet.words(
        f"Greatest strain {found.strain * 100:.2f} %, this wood lasts at {found.wood.working_strain * 100:.2f} %."
        f" Section: {layout.shape.name}. Handle {shown.length(layout.handle)}, fades {shown.length(layout.fade)}.",
        10,
    )
    if layout.second is not None:
        second = layout.second
        sheet.words(
            f"Back-bow {shown.length(second.length)} from end to end, {shown.length(second.width)} wide at the grip,"
            f" {shown.length(second.tip_width)} at the ends; {shown.thickness(second.depth[0])} thick at the grip,"
            f" {shown.thickness(second.depth[1])} at the ends. Cables {shown.fine_weight(second.tension)} before stringing.",
            10,
        )
    unit = "mm" if marked_in == "metric" else "inches"
    for side in ("upper", "lower"):
        sheet.y -= 8
        sheet.words(f"{side.capitalize()} limb, {unit}, from the bow's centre", 12, bold=True)
        sheet.rule(3)
        sheet.y -= 12
        for x, head in zip(COLUMNS, ("from centre", "width", "thickness", "what"), strict=True):
            sheet.words(head, 9, bold=True, x=x, drop=0)
        rows = [m for m in found.marks if m.limb == side]
        for index, mark in enumerate(rows):
            sheet.y -= 13.5
            what = "end of fade, bending starts" if index == 0 else ("string nock" if index == len(rows) - 1 else "")
            for x, cell in zip(COLUMNS, (*written(mark, marked_in), what), strict=True):
                sheet.words(cell, 10.5, x=x, drop=0)
        sheet.rule(6)
    _drawing(sheet, found, marked_in, fade_shape)
    sheet.y -= 6
    sheet.words("Leave the thickness full by a shaving or two until tillering; leave knots proud. Both edges alike.", 9)
    sheet.words("Saw, axe and drawknife: cut away from hand and body. Dust: mask and extraction.", 9)
    if found.wood.caution:
        sheet.words(found.wood.caution, 9, bold=True)
    return sheet.finish()


def _drawing(sheet: Sheet, found: Solution, marked_in: str, fade_shape: str) -> None:
    """The bow from the back and from the side, as wide as the sheet; widths and depths drawn twice as large as lengths."""
    shape = template_of(found, marked_in, fade_shape)
    low, high = shape.reach
    scale = sheet.width / (high - low)
    left = MARGIN - low * scale

    def draw(points: list[tuple[float, float]], y: float) -> None:
        line = sheet.canvas.beginPath()
        for k, (x, v) in enumerate(points):
            (line.lineTo if k else line.moveTo)(left + x * scale, y + 2 * v * scale)
        line.close()
        sheet.canvas.drawPath(line)

    sheet.canvas.setLineWidth(0.6)
    half = float(shape.width.max()) * scale
    sheet.y -= half + 8
    draw(shape.outline(), sheet.y)
    sheet.canvas.setDash(5, 3)
    sheet.canvas.line(left + low * scale, sheet.y, left + high * scale, sheet.y)
    sheet.canvas.setDash()
    sheet.y -= half + 8
    draw(shape.side(), sheet.y)
    sheet.y -= 2 * float(shape.depth.max()) * scale + 2
    sheet.words("Lower limb left, back upwards; widths and depths twice as large as lengths.", 8)
