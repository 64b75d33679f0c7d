"""What a design leaves as: files and papers."""

from dataclasses import dataclass, replace

from bowyery.bow import bowfile
from bowyery.errors import BowyeryError
from bowyery.units.quantity import Units
from fellwind.designs.models import Design
from fellwind.designs.ports import MARKED_ON_WOOD
from fellwind.designs.services import try_solution
from fellwind.exports.leaving import EXPORTS, Leaving
from fellwind.exports.marking import marking_table
from fellwind.shop.models import Workshop


@dataclass(frozen=True)
class File:
    """Something to save or print: its name, type and content."""

    name: str
    content_type: str
    content: bytes | str


def bow_file(design: Design) -> File | str:
    """A design as an open bow file, or why there is none."""
    found, trouble = try_solution(design)
    if found is None:
        return trouble
    bow = replace(found.bow, name=design.name, draw=design.draw, wanted=found.wanted.asked)
    text = bowfile.dumps(bow)
    return File(f"design-{design.pk}.json", "application/json", text)


def marking_file(design: Design, shown: Units, workshop: Workshop) -> File | str:
    """The marking table on paper, or why there is none."""
    found, trouble = try_solution(design)
    if found is None:
        return trouble
    names = (design.name, str(design.archer))
    content = marking_table(
        names, found, shown, workshop.paper, design.marked_world, design.figures.fade_shape
    )
    return File(f"marking-table-{design.pk}.pdf", "application/pdf", content)


def export(design: Design, name: str, workshop: Workshop) -> File | str:
    """A design as one of EXPORTS, or why there is none."""
    found, trouble = try_solution(design)
    if found is None:
        return trouble
    leaving = Leaving(
        found,
        design.name,
        str(design.archer),
        workshop.paper,
        design.marked_world,
        design.figures.fade_shape,
        MARKED_ON_WOOD.first(design) or (),
    )
    kind = EXPORTS[name]
    ending = name.rpartition(".")[2]
    try:
        content = kind.make(leaving)
    except BowyeryError as error:
        return getattr(error, "reason", str(error))
    return File(f"design-{design.pk}.{ending}", kind.content_type, content)
