"""The marking table as a PDF: what to mark where, from the centre outwards."""

from bowyery import units
from bowyery.design import Solution
from bowyery.layout import Mark
from fellwind.exports.sheet import Sheet
from fellwind.workshop.measures import Units

COLUMNS = (0.0, 95.0, 190.0, 285.0)


def written(mark: Mark, marked_in: str) -> tuple[str, str, str]:
    """Distance from the centre, width and thickness of a mark as they are marked on the wood."""
    if marked_in == "metric":
        return f"{mark.from_centre * 1000:.0f}", f"{mark.width * 1000:.1f}", f"{mark.thickness * 1000:.1f}"
    return (
        units.fraction_text(mark.from_centre / units.INCH, 32, plain=True),
        units.fraction_text(mark.width / units.INCH, 32, plain=True),
        units.fraction_text(mark.thickness / units.INCH, 64, plain=True),
    )


def marking_table(name: str, archer: str, found: Solution, shown: Units, paper: str, marked_in: str) -> bytes:
    """Write the marking table.

    Args:
        name: of the design.
        archer: whom it is for.
        found: the solved design.
        shown: units for the figures above the table.
        paper: A4 or Letter.
        marked_in: imperial or metric, the world of the marks.
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
    sheet.y -= 6
    sheet.words("Leave the thickness full by a shaving or two until tillering; leave knots proud. Both edges alike.", 9)
    sheet.words("Saw, axe and drawknife: cut away from hand and body. Dust: mask and extraction.", 9)
    if found.wood.caution:
        sheet.words(found.wood.caution, 9, bold=True)
    return sheet.finish()
