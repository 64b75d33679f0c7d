"""The files that a solved design leaves as, each a row of one table."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from bowyery.design.solution import Solution
from bowyery.units.quantity import World
from fellwind.exports.form import for_paper, form_dxf, lams_csv
from fellwind.exports.riser import riser_shape
from fellwind.exports.template import Template, dxf, marks_csv, svg, template_of, template_pdf


@dataclass(frozen=True)
class Leaving:
    """A design on its way out.

    Attributes:
        paper: a key of PAPERS.
        fade_shape: a key of FADE_SHAPES.
        marked: what is marked on the wood: places from the centre, upper limb positive (m), with
            their words.
    """

    found: Solution
    name: str
    archer: str
    paper: str
    world: World
    fade_shape: str
    marked: Sequence[tuple[float, str]] = ()

    @property
    def shape(self) -> Template:
        """The bow at full size, with what is marked on its wood."""
        bare = template_of(self.found, self.world, self.fade_shape)
        return replace(bare, marks=(*bare.marks, *((1000 * at, said) for at, said in self.marked)))


@dataclass(frozen=True)
class Export:
    """A kind of file: how it is offered, its type, what makes it, and whether only a laminated bow
    has it.
    """

    words: str
    content_type: str
    make: Callable[[Leaving], bytes | str]
    laminated: bool = False


def exports_of(found: Solution) -> dict[str, Export]:
    """The files that a design has."""
    return {name: one for name, one in EXPORTS.items() if found.layered or not one.laminated}


EXPORTS: dict[str, Export] = {
    "template.pdf": Export(
        "Print the template",
        "application/pdf",
        lambda one: template_pdf(one.shape, one.name, one.archer, one.paper),
    ),
    "template.dxf": Export(
        "Save the cutting file (DXF)", "image/vnd.dxf", lambda one: dxf(one.shape, one.name)
    ),
    "template.svg": Export("Save it as SVG", "image/svg+xml", lambda one: svg(one.shape, one.name)),
    "marks.csv": Export(
        "Save the marks (CSV)", "text/csv; charset=utf-8", lambda one: marks_csv(one.found)
    ),
    "form.pdf": Export(
        "Print form and caul",
        "application/pdf",
        lambda one: template_pdf(
            for_paper(one.found), one.name, one.archer, one.paper, "Form and caul"
        ),
        laminated=True,
    ),
    "riser.pdf": Export(
        "Print grip block and tip overlay",
        "application/pdf",
        lambda one: template_pdf(
            riser_shape(one.found, one.world, one.fade_shape),
            one.name,
            one.archer,
            one.paper,
            "Grip block and tip overlay",
        ),
        laminated=True,
    ),
    "form.dxf": Export(
        "Save form and caul (DXF)",
        "image/vnd.dxf",
        lambda one: form_dxf(one.found, one.name),
        laminated=True,
    ),
    "lams.csv": Export(
        "Save the grinding table (CSV)",
        "text/csv; charset=utf-8",
        lambda one: lams_csv(one.found),
        laminated=True,
    ),
}
