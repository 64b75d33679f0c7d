"""From design rows to core objects and back to what screens show."""

from dataclasses import dataclass, replace

import numpy as np

from bowyery.design import Solution, solve_design
from bowyery.elastica import shapes
from bowyery.errors import BowyeryError
from bowyery.layout import INCH_ROUNDING, METRIC_ROUNDING, Layout, Rounding, Wanted
from bowyery.lengths import LengthSchool, length_schools
from bowyery.materials import Material, at_moisture, material, overridden
from bowyery.section import Shape
from bowyery.strain import surface_strain
from fellwind.cache import computed
from fellwind.designs.models import Design
from fellwind.drawing.curve import CurveData
from fellwind.drawing.ruler import LimbTrack, RulerData
from fellwind.drawing.tree import Bent

# Upper limb a little fuller for a split hold, even for three under.
FULLER = {"one above, two below": 0.07, "three under": 0.0}


def wood_of(design: Design) -> Material:
    """The design's wood at its moisture, with what was measured on its stave."""
    wood = material(design.material)
    if design.stave is not None:
        wood = overridden(wood, design.stave.modulus, design.stave.rupture, design.stave.density)
    return at_moisture(wood, design.moisture)


def core_inputs(design: Design) -> tuple[Layout, Wanted, Material, Rounding]:
    """The core's view of a design row."""
    layout = Layout(
        design.length, design.handle, design.fade, design.width, design.tip_width, design.parallel, design.grip_drop,
        1.0, design.handle_depth, design.least_tip, design.reflex, Shape(design.section),
    )  # fmt: skip
    wanted = Wanted(design.weight, design.draw, design.brace_height, design.family, design.fingers, FULLER[design.fingers])
    return layout, wanted, wood_of(design), METRIC_ROUNDING if design.marked_in == "metric" else INCH_ROUNDING


def solution(design: Design) -> Solution:
    """Solve a design, or take the kept solution of the same figures; raises BowyeryError."""
    layout, wanted, wood, rounding = core_inputs(design)
    return computed("design", (layout, wanted, wood, rounding), lambda: solve_design(layout, wanted, wood, rounding))


@dataclass(frozen=True)
class SchoolRow:
    """One length school for the screen."""

    school: str
    rule: str
    answer: LengthSchool
    use: float | None
    verdict: str


RULES = {
    "A": "twice the draw and the stiff handle with its fades",
    "B": "as long as keeps this wood under what it bears for years",
    "C": "short, for cover or horseback: wider limbs, short handle",
}


def schools(design: Design) -> list[SchoolRow]:
    """All three length schools for a design's archer, wood and layout; raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    layout, wanted = layout.checked(), wanted.checked()
    # the schools answer the same question whatever length is chosen
    base = replace(layout, length=2 * wanted.draw + layout.handle + 2 * layout.fade)
    answers = computed("schools", (base, wanted, wood), lambda: length_schools(base, wanted, wood))
    rows = []
    for answer in answers:
        rows.append(SchoolRow(answer.school, RULES[answer.school], answer, answer.use, verdict(answer.strain, wood)))
    return rows


def verdict(strain: float | None, wood: Material) -> str:
    """What a strain means for a wood, in words."""
    if strain is None:
        return "cannot be built so"
    if strain <= wood.working_strain * 1.005:
        return "lasts"
    if strain <= 0.93 * wood.rupture_strain:
        return "takes set, wants good wood"
    if strain <= wood.rupture_strain:
        return "near breaking, only in chosen wood"
    return "is likely to break"


def warnings(found: Solution) -> list[str]:
    """What of a solved design wood cannot bear, with what would mend it."""
    wood, strain = found.wood, found.strain
    said = []
    if strain > wood.working_strain * 1.005:
        danger = "is likely to break" if strain > 0.5 * (wood.working_strain + wood.rupture_strain) else "will take much set"
        said.append(
            f"At full draw the surface is strained {strain * 100:.2f} %. Sound {wood.name} lasts at"
            f" {wood.working_strain * 100:.2f} % and breaks near {wood.rupture_strain * 100:.2f} %: this bow {danger}."
            " A longer bow, a shorter draw, or wider and thinner limbs would mend it."
        )
    if wood.estimate:
        said.append(
            f"Published tests of {wood.name} are few; its figures are set between relatives. Test the stave and enter"
            " its own modulus."
        )
    if found.curve.stack > 1.35:
        said.append(
            f"The last inches stack: weight rises {found.curve.stack:.1f} times as fast there as on the whole."
            " A longer bow or a little reflex draws more softly."
        )
    deep = max(m.thickness / m.width for m in found.marks)
    if deep > 1.0:
        said.append("Somewhere the limb is deeper than wide; there it may turn sideways. Make it wider there.")
    return said


def _track(found: Solution, limb: int, profile: np.ndarray, strain: np.ndarray) -> LimbTrack:
    grid = found.curve.limbs
    start = found.layout.root_from_centre(limb == 0)
    return LimbTrack(
        start + grid.places()[limb, 0],
        grid.width[limb, 0],
        grid.depth[limb, 0],
        profile,
        strain,
        found.curve.shapes.bend[limb, -1],
    )


def ruler_data(found: Solution, former: Solution | None = None, take: dict[str, str] | None = None) -> RulerData:
    """What the one ruler shows of a solved design at full draw."""
    still = np.zeros((2, 1))
    rest = shapes(found.curve.limbs, still, still).across[:, 0]
    strain = surface_strain(found.curve.shapes)[:, -1]
    upper, lower = (_track(found, k, rest[k], strain[k]) for k in (0, 1))
    return RulerData(
        upper, lower, found.layout.handle_depth, 0.7 * found.layout.width, found.wood.working_strain,
        found.wood.rupture_strain, take or {}, ruler_data(former) if former else None,
    )  # fmt: skip


def curve_data(found: Solution, former: Solution | None = None) -> CurveData:
    """The force–draw curve of a solved design."""
    drawn = found.curve.drawn
    before = (former.curve.drawn.draw, former.curve.drawn.weight) if former else None
    return CurveData(drawn.draw, drawn.weight, found.wanted.weight, found.wanted.draw, former=before)


def bents(found: Solution, states: tuple[int, ...]) -> list[Bent]:
    """Bent shapes of a solved design at brace and at some of its draws, its handle held level."""
    curve = found.curve
    depth = curve.limbs.depth[:, 0]
    at_brace = Bent(curve.at_brace.along[:, 0], curve.at_brace.across[:, 0], depth, None)
    drawn = [
        Bent(
            curve.shapes.along[:, k],
            curve.shapes.across[:, k],
            depth,
            (float(curve.drawn.nock[0, k]), float(curve.drawn.nock[1, k])),
        )
        for k in states
    ]
    return [at_brace, *drawn]


def handle_box(found: Solution) -> tuple[float, float, float]:
    """Lower and upper end of the handle with its fades along the axis, and its depth (m)."""
    layout = found.layout
    return -layout.root_from_centre(False), layout.root_from_centre(True), layout.handle_depth


def try_solution(design: Design) -> tuple[Solution | None, str]:
    """A solution, or the sentence that says why there is none."""
    try:
        return solution(design), ""
    except BowyeryError as error:
        return None, str(error)
