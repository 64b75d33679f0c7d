"""From design rows to core objects and back to what screens show."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING, Literal

import numpy as np
from django.db.models import QuerySet
from django.utils import timezone

from bowyery.arrays import Floats
from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, BackBow, Bow, Limb
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import (
    METRIC_ROUNDING,
    Layout,
    Rounding,
    Wanted,
    school_a_length,
)
from bowyery.bow.limb_grid import grid
from bowyery.design.alterations import Outcome, backed, heated, outcomes, reflexed, shortened
from bowyery.design.figures import NAMED, Stuff
from bowyery.design.lengths import LengthSchool, length_for, length_schools
from bowyery.design.measured import What, scaled
from bowyery.design.nearest import nearest
from bowyery.design.quick import quick
from bowyery.design.solution import Solution, as_marked
from bowyery.design.solve import solve_design
from bowyery.design.sweep import Sweep, sweep
from bowyery.design.verdict import TOLERABLE, verdict
from bowyery.errors import BowyeryError, DescriptionError, DesignError
from bowyery.mechanics.back_bow import SharedCurve, inner_strain, share_against_cable
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.glue_lines import glue_lines
from bowyery.mechanics.shot import Shot, shoot
from bowyery.mechanics.strain import limit_use, surface_strain
from bowyery.strings.cable import strands_of, tone, turns_to_tighten
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import INCH, Units
from bowyery.wood.materials import Fibre, Material, at_moisture, overridden
from fellwind.designs.models import Design
from fellwind.designs.ports import PROVED_SHOTS
from fellwind.drawing.curve import CurveData
from fellwind.drawing.ruler import LimbTrack, RulerData
from fellwind.drawing.tree import Bent
from fellwind.exports.leaving import EXPORTS, Leaving
from fellwind.exports.marking import marking_table
from fellwind.kit.cache import computed, digest_of, read_once
from fellwind.rack.services import own_wood
from fellwind.shop import learning
from fellwind.shop.book import fibre, material, shelf
from fellwind.shop.models import Archer, Workshop

if TYPE_CHECKING:
    from fellwind.designs.measured import MeasuredBowForm


def wood_of(design: Design) -> Material:
    """The design's wood at its moisture, with what was measured on its stave."""
    wood = material(design.material) if design.stave is None else own_wood(design.stave)
    if (factor := design.stiffer) != 1.0:
        # what was learned is how stiff it is; how far it bends before it sets or breaks stays
        wood = overridden(wood, wood.modulus * factor, wood.rupture * factor)
    return at_moisture(wood, design.figures.moisture)


def knows_now(design: Design) -> dict[str, float] | None:
    """What the shop has learned of the modulus of a design's wood, to be kept with it."""
    found = learning.here("modulus", design.material, design.tree)
    if not found.same:
        return None  # bows of other woods say next to nothing of this one
    return {"modulus": round(found.middle, 4), "spread": round(found.sure, 4),
            "bows": found.same}  # fmt: skip


@dataclass(frozen=True)
class Reckoned:
    """By what a design's wood is reckoned, and by what it could be.

    Attributes:
        how: ``measured``, ``book``, ``shop`` or ``neither``: made before anything was known.
        kept: what it was made with, where the shop had learned something.
        now: what the shop knows now, where that is something else.
        book_weight: that the same marks would pull by the book alone (N), where that can be said.
        builds: that are being made from it.
    """

    how: str
    kept: dict[str, float] | None
    now: dict[str, float] | None
    book_weight: float | None
    builds: tuple[object, ...]


def reckoned(design: Design, found: Solution | None) -> Reckoned:
    """By what a design's wood is reckoned."""
    now = knows_now(design)
    how = "shop" if design.learned else "neither"
    if design.by_book:
        how = "book"
    elif design.measured_wood:
        how = "measured"
    weight = None
    plain = found is not None and len(found.bow.upper.layers) == 1 and not design.bow_file
    if found is not None and how == "shop" and plain:
        weight = found.weight / design.stiffer  # forces of one shape go with its stiffness
    builds = tuple(design.builds.filter(finished=None)) if design.pk else ()
    return Reckoned(how, design.learned, now if now != design.learned else None, weight, builds)


def reckon(design: Design, by: str) -> Solution:
    """Reckon a design by the book alone, or by what the shop knows now; raises BowyeryError."""
    design.by_book = by == "book"
    if not design.by_book:
        design.learned = knows_now(design)
    found = solution(design)
    design.save(update_fields=["by_book", "learned"])
    return found


def usual_length(design: Design) -> float:
    """What its kind is long, or else school A's answer (m)."""
    told = draw_ruler(design.archer.draw_ruler).from_pivot(design.draw, design.figures.handle_depth)
    make = LAYOUTS.get(design.figures.kind)
    if make is not None:
        layout = make(design.draw)
        if abs(layout.length - school_a_length(design.draw, layout.handle, layout.fade)) > 1e-6:
            return layout.length
    return school_a_length(told, design.figures.handle, design.figures.fade)


def default_length(design: Design, usual: float) -> float:
    """The length a design is given whose maker asks for none: the usual one, or where that would be
    dangerous, the least at which it is not.

    Args:
        design: with all of its other figures.
        usual: for its kind (m).
    """
    layout, wanted, wood, rounding = core_inputs(design)
    layout = replace(layout, length=usual)
    step = 0.01 if rounding.spacing == METRIC_ROUNDING.spacing else INCH / 2

    def find() -> float:
        try:
            layout.checked(), wanted.checked()
            if layout.back_bow is not None:  # its own length has been tried
                return usual
            try:
                uses = quick(layout, wanted, wood).uses
                if uses.lasts <= TOLERABLE and uses.breaks <= 1.0:
                    return usual
            except BowyeryError:  # too short to be built at all
                pass
            found = length_for(layout, wanted, wood, "use", TOLERABLE - 0.01).length
            return max(usual, math.ceil(found / step - 1e-6) * step)
        except BowyeryError:
            return usual

    return computed("default length", (layout, wanted, wood, step), find)


STUFF = Stuff(material, fibre)


def core_inputs(design: Design) -> tuple[Layout, Wanted, Material, Rounding]:
    """The core's view of a design row, worked out once for a request that only reads."""
    read = (design.material, design.weight, design.draw, design.fingers, design.length)
    told = (design.sizes, design.learned, design.by_book)
    key = ("design", design.pk, read, digest_of(told), design.stave_id)
    return read_once(key, partial(_core_inputs, design))


def _core_inputs(design: Design) -> tuple[Layout, Wanted, Material, Rounding]:
    figures = design.figures
    layout = figures.layout(design.length, design.weight, STUFF)
    wanted = figures.wanted(design.length, design.weight, design.draw, design.fingers, STUFF)
    return layout, wanted, wood_of(design), figures.rounding(layout)


def solution(design: Design, keep: bool = True) -> Solution:
    """Solve a design, or take the kept solution of the same figures; raises BowyeryError."""
    layout, wanted, wood, rounding = core_inputs(design)
    if design.bow_file:
        return computed(
            "marked",
            (layout, wanted, wood, design.bow_file),
            lambda: _marked(design, layout, wanted, wood),
        )
    return computed(
        "design",
        (layout, wanted, wood, rounding),
        lambda: solve_design(layout, wanted, wood, rounding),
        keep,
    )


def _marked(design: Design, layout: Layout, wanted: Wanted, wood: Material) -> Solution:
    bow = bowfile.loads(design.bow_file)
    bow = replace(bow, string=wanted.string or bow.string, arrow=wanted.arrow, draw=wanted.draw)
    return as_marked(bow, layout, wanted, wood)


def remarked(design: Design, bow: Bow) -> Solution:
    """What a bow with changed marks comes to, not yet kept; raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    text = bowfile.dumps(bow)
    return computed(
        "marked",
        (layout, wanted, wood, text),
        lambda: as_marked(bow, layout, wanted, wood),
        keep=False,
    )


def try_remarked(design: Design, bow: Bow) -> tuple[Solution | None, str]:
    """The same, or the sentence that says why there is nothing."""
    try:
        return remarked(design, bow), ""
    except BowyeryError as error:
        return None, str(error)


def brought_in(bow: Bow, name: str, archer: Archer, wood_name: str) -> Design:
    """A design row, not yet saved, for a bow that came as a file.

    Layers whose limits the file does not give take those of their material, or of the chosen wood.
    Raises BowyeryError when the bow cannot be braced and drawn to the archer's draw.
    """
    wood = material(wood_name)
    stuff = shelf()
    known = stuff.woods | stuff.backings

    def limited(limb: Limb) -> Limb:
        layers = []
        for layer in limb.layers:
            book = known.get(layer.material, wood)
            if layer.elastic_strain is None or layer.rupture_strain is None:
                layer = replace(
                    layer,
                    elastic_strain=book.elastic_strain,
                    rupture_strain=book.rupture_strain,
                    ductile=book.ductile,
                )
            layers.append(layer)
        return replace(limb, layers=tuple(layers))

    bow = replace(bow, upper=limited(bow.upper), lower=limited(bow.lower))
    upper, lower = bow.limbs
    roots = upper.root[0], lower.root[0]
    deep = bow.hold.pivot[1] + 0.5 * float(upper.thickness[0])
    limbs = grid(bow)
    still = np.zeros((2, 1))
    design = Design(
        name=(name or bow.name or "A bow from a file")[:80],
        archer=archer,
        material=wood_name,
        weight=archer.weight,
        draw=bow.draw or archer.draw,
        fingers=archer.fingers,
        length=sum(roots) + upper.length + lower.length,
        sizes={
            "handle": sum(roots),
            "fade": 0.0,
            "grip_drop": 0.5 * (roots[1] - roots[0]),
            "handle_depth": max(deep, float(upper.thickness[0])),
            "width": float(max(upper.width.max(), lower.width.max())),
            "tip_width": float(upper.width[-1]),
            "least_tip": float(upper.thickness[-1]),
            "reflex": -float(shapes(limbs, still, still).across[:, 0, -1].mean()),
            "arrow": bow.arrow,
        },
        notes=bow.notes,
        bow_file=bowfile.dumps(bow),
    )
    found = solution(design)
    if bow.brace_height is None:
        if found.curve.braced.slack:
            raise DescriptionError(
                "The string hangs slack on this bow; give a brace height or a shorter string.",
                "string",
            )
        # from here on the maker thinks of it by its brace height
        bow = replace(bow, brace_height=float(found.curve.braced.height[0]), string_length=None)
        design.bow_file = bowfile.dumps(bow)
    design.change(brace_height=float(found.curve.braced.height[0]))
    return design


def measured(bow: Bow, form: "MeasuredBowForm") -> tuple[Design, str]:
    """A design row, not yet saved, of a bow as it was measured, scaled where a weight was read;
    with what that says. Raises BowyeryError.
    """
    data, said = form.cleaned_data, ""
    weight, what = form.value("weight"), data["scale"]
    if weight and what:
        bow, factor = scaled(bow, form.full_draw(), weight, what)
        said = scale_words(what, factor, form.wood())
    design = brought_in(bow, data["name"], data["archer"], data["material"])
    design.change(
        moisture=form.given("moisture"), section=data["section"],
        brace_height=form.given("brace_height"),
    )  # fmt: skip
    if weight:
        design.weight = weight
    return design, said


def scale_to(design: Design, draw: float, weight: float, what: What, shown: Units) -> str:
    """Scale a design to a weight read of it, and keep it as it is marked then; raises
    BowyeryError.
    """
    found = solution(design)
    bow, factor = scaled(found.bow, draw, weight, what)
    remarked(design, bow)
    design.bow_file = bowfile.dumps(bow)
    design.save(update_fields=["bow_file"])
    return (
        f"{design.name} pulls {shown.fine_weight(weight)} at {shown.length(draw)} now."
        f" {scale_words(what, factor, found.wood)}"
    )


def scale_words(what: What, factor: float, wood: Material) -> str:
    """By how much a bow was scaled, in words."""
    by = f"{abs(factor - 1) * 100:.0f} %"
    if abs(factor - 1) < 0.005:
        return "That is what its figures come to by themselves."
    if what == "modulus":
        return f"Its {wood.name} is {by} {'stiffer' if factor > 1 else 'softer'} than the book's."
    thicker = "thicker" if factor > 1 else "thinner"
    return f"It is {by} {thicker} all over than it was measured."


def length_to(design: Design, measure: Literal["use", "set", "weight"], goal: float) -> float:
    """Length that brings a design's strain or set to a goal (m); raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    layout, wanted = layout.checked(), wanted.checked()
    key = (replace(layout, length=0.0), wanted, wood, measure, goal)
    return computed("length", key, lambda: length_for(layout, wanted, wood, measure, goal)).length


@dataclass(frozen=True)
class ProvedShot:
    """An arrow that a chronograph read: weight of the bow then (N), arrow (kg) and speed (m/s)."""

    weight: float
    arrow: float
    speed: float


def proved_speeds(design: Design, found: Solution) -> list[tuple[float, float]]:
    """What a chronograph read of a design's bows: arrow (kg) and speed (m/s), as the bow of the
    design's weight would have sent it.

    A bow that was proved may pull more or less than its design: its speed goes with the root of its
    energy.
    """
    if design.pk is None:
        return []
    shots = [shot for ask in PROVED_SHOTS for shot in ask(design)]
    return [(s.arrow, s.speed * (found.weight / s.weight) ** 0.5) for s in shots]


def loosed(design: Design, found: Solution, quick: bool = False) -> Shot | None:
    """The design's arrow, as its bow will send it; None where it cannot be followed.

    While figures are being changed it is loosed with fewer masses and longer steps: within a part
    in a hundred.
    """
    arrow, proved = found.bow.arrow or USUAL_ARROW * design.weight, proved_speeds(design, found)
    kept = learning.keeps(design)
    follow = partial(shoot, found.bow, design.draw, arrow, keeps=kept)
    if quick:
        follow = partial(follow, masses=8, steps=36, watch=False)
    key = (bowfile.dumps(found.bow), design.draw, arrow, proved, quick, kept)
    try:
        return computed("loosed", key, partial(_shot, follow, proved), keep=not quick)
    except BowyeryError:
        return None


def _shot(follow: Callable[..., Shot], proved: list[tuple[float, float]]) -> Shot:
    """With what a chronograph read, unless that fits no such bow."""
    try:
        return follow(readings=proved)
    except DescriptionError:
        return follow()


@dataclass(frozen=True)
class GlueRow:
    """A glue line's greatest strain and shear at full draw, with where on which limb."""

    between: tuple[str, str]
    strain: float
    shear: float
    limb: str
    from_centre: float


def glue_rows(found: Solution) -> list[GlueRow]:
    """Every glue line at full draw, the worse of both limbs."""
    if len(found.bow.upper.layers) < 2:
        return []
    both = [
        glue_lines(limb, side, found.curve.limbs, found.curve.shapes)
        for side, limb in enumerate(found.bow.limbs)
    ]
    rows = []
    for pair in zip(*both, strict=True):
        peaks = [float(np.abs(line.shear).max()) for line in pair]
        side = int(np.argmax(peaks))
        at = float(found.curve.limbs.places()[side, 0, int(np.abs(pair[side].shear).argmax())])
        strain = max(float(np.abs(line.strain).max()) for line in pair)
        start = found.bow.limbs[side].root[0]
        rows.append(GlueRow(pair[0].between, strain, peaks[side], SIDES[side], start + at))
    return rows


# Backings as they are usually laid: thickness of the dried layer and the reflex it draws in (m).
USUAL_BACKINGS = {
    "rawhide": (0.001, 0.0),
    "flax fibre": (0.001, 0.005),
    "sinew": (0.0015, 0.02),
    "bamboo slat": (0.003, 0.0),
}


def changes(design: Design, found: Solution, shown: Units) -> tuple[Outcome, ...]:
    """What shortening, heat, reflex or a backing would do to a solved design."""
    bow = found.bow
    steps = (
        [k * INCH / 2 for k in range(1, 7)]
        if shown.imperial
        else [0.01, 0.02, 0.03, 0.04, 0.06, 0.075]
    )
    key = (bowfile.dumps(bow), design.draw, steps, shown.world)

    def work() -> tuple[Outcome, ...]:
        named: list[tuple[str, Bow]] = [("as it is", bow)]
        troubles: list[Outcome] = []

        def add(what: str, make: Callable[[], Bow]) -> None:
            try:
                named.append((what, make()))
            except BowyeryError as error:
                troubles.append(Outcome(what, bow, trouble=getattr(error, "reason", str(error))))

        for cut in steps:
            left = design.overall - 2 * cut
            add(
                f"{shown.length(cut)} off each end, {shown.length(left)} over all",
                partial(shortened, bow, cut),
            )
        inch = INCH if shown.imperial else 0.025
        add(f"{shown.length(inch)} more reflex", partial(reflexed, bow, inch))
        add("belly hardened by heat", partial(heated, bow))
        for name, (thick, reflex) in USUAL_BACKINGS.items():
            extra = f", drawing in {shown.length(reflex)} of reflex" if reflex else ""
            add(
                f"{name} laid on, {shown.thickness(thick)}{extra}",
                partial(backed, bow, material(name), thick, reflex),
            )
        return (*outcomes(named, design.draw), *troubles)

    return computed("changes", key, work)


@dataclass(frozen=True)
class CableRow:
    """A bow and its back-bow at full draw with a cable so loose (m), or so tight (N).

    Attributes:
        slack, tension: of each cable before the bow is strung; one of them.
        inner: greatest strain of the main bow near its grip.
        turns: to give each cable past just taut, below zero to let out; None where no twist does.
        tone: of a plucked cable before stringing (Hz); 0 of a loose one.
        between: its ties, unloaded (m).
    """

    slack: float
    tension: float
    curve: SharedCurve
    inner: float
    now: bool
    turns: float | None
    tone: float
    between: float


LOOSE = np.array([0.03, 0.015, 0.006])  # of cables that are told of (m)


def cables(found: Solution, thread: Fibre) -> list[CableRow]:
    """A bow with a back-bow at full draw, with its cables of a thread loose, and at a quarter of
    their tension up to three times; none without one.
    """
    back, draw = found.bow.back_bow, found.wanted.draw
    if back is None:
        return []
    tensions = max(back.cable_tension, 1.0) * np.array([0.25, 0.5, 1.0, 1.5, 2.0, 3.0])
    slacks = np.unique([*LOOSE, *([back.slack] if back.slack > 0 else [])])[::-1]
    key = (bowfile.dumps(found.bow), draw, tuple(tensions), tuple(slacks), thread)

    def work() -> list[CableRow]:
        curves = share_against_cable(found.bow, draw, tensions, slacks=slacks)
        kinds = [(float(s), 0.0) for s in slacks] + [(0.0, float(t)) for t in tensions]
        strands = strands_of(thread, back.cable_stiffness)
        rows = []
        for (slack, tension), curve in zip(kinds, curves, strict=True):
            cable, rest = curve.cables[0], curve.chains.unbent()
            taut = float(abs(cable.span(curve.chains, rest)))  # where it would just begin to pull
            try:
                turns = turns_to_tighten(thread, back.cable_stiffness, taut, cable.natural or taut)
            except DescriptionError:
                turns = None
            pitch = tone(tension, taut, strands * thread.line_mass)
            inner, now = inner_strain(found.bow, curve), _as_designed(back, slack, tension)
            rows.append(CableRow(slack, tension, curve, inner, now, turns, pitch, taut))
        return rows

    return computed("cables", key, work)


def _as_designed(back: BackBow, slack: float, tension: float) -> bool:
    if back.slack > 0:
        return abs(slack - back.slack) < 1e-9
    return slack == 0 and abs(tension - back.cable_tension) < 1e-9


def instead(design: Design, shown: Units) -> str:
    """What could be built instead of a design that cannot, in words; nothing where nothing near
    could.
    """
    layout, wanted, wood, _ = core_inputs(design)
    try:
        near = computed("nearest", (layout, wanted, wood), lambda: nearest(layout, wanted, wood))
    except BowyeryError:
        return ""
    could = []
    if near.length:
        could.append(f"{shown.length(near.length)} long")
    if near.weight:
        could.append(f"with {shown.weight(near.weight)}")
    if near.draw:
        could.append(f"drawn {shown.length(near.draw)}")
    return (
        f"The nearest that can be built are {', or '.join(could)}, with the rest as it is."
        if could
        else ""
    )


@dataclass(frozen=True)
class SchoolRow:
    """One length school for the screen."""

    school: str
    rule: str
    answer: LengthSchool
    use: float | None
    verdict: str


RULES = {
    "A": "twice the draw as it was told, and the stiff handle with its fades",
    "B": "as long as keeps this wood under what it bears for years",
    "C": "short, for cover or horseback: wider limbs, short handle",
}


def told_draw(design: Design) -> float:
    """The design's draw on the ruler that its archer's draw was told in (m)."""
    return draw_ruler(design.archer.draw_ruler).from_pivot(design.draw, design.figures.handle_depth)


def schools(design: Design) -> list[SchoolRow]:
    """All three length schools for a design's archer, wood and layout; raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    layout, wanted = layout.checked(), wanted.checked()
    # the schools answer the same question whatever length is chosen
    told = told_draw(design)
    base = replace(layout, length=school_a_length(told, layout.handle, layout.fade))
    answers = computed(
        "schools", (base, wanted, wood, told), lambda: length_schools(base, wanted, wood, told)
    )
    rows = []
    for answer in answers:
        rows.append(
            SchoolRow(
                answer.school,
                RULES[answer.school],
                answer,
                answer.uses.lasts if answer.uses else None,
                verdict(answer.uses) if answer.uses else "cannot be built so",
            )
        )
    return rows


def take_length(design: Design, school: str) -> None:
    """Give a design the length a school asks for, and what else it changes; raises BowyeryError."""
    row = next((r for r in schools(design) if r.school == school), None)
    if row is None:
        raise DesignError("Choose school A, B or C.")
    if row.answer.trouble:
        raise DesignError(row.answer.trouble)
    layout = row.answer.layout
    design.length = layout.length
    design.change(handle=layout.handle, fade=layout.fade, width=layout.width)
    design.save(update_fields=["length", "sizes"])


def designs() -> QuerySet[Design]:
    """Designs with what their pages read."""
    return Design.objects.select_related("archer", "stave")


def solve_ahead(design: Design, shown: Units) -> None:
    """Leave in the cache what keeping a design will ask of the core, and what refusing it would."""
    design.bow_file = ""
    try:
        solution(design)
    except DesignError:
        instead(design, shown)
    except BowyeryError:
        return


def keep(design: Design) -> None:
    """Keep a design that is solved for its weight, its marks let go; raises BowyeryError."""
    marked, design.bow_file = design.bow_file, ""
    try:
        solution(design)
    except BowyeryError:
        design.bow_file = marked
        raise
    design.save()


def keep_marks(design: Design, bow: Bow) -> None:
    """Keep a design as it is marked; raises BowyeryError."""
    remarked(design, bow)
    design.bow_file = bowfile.dumps(bow)
    design.save(update_fields=["bow_file"])


def variant(design: Design) -> Design:
    """The same design once more, kept under a name of its own."""
    count = Design.objects.filter(name__startswith=design.name[:60]).count()
    values = {f.attname: getattr(design, f.attname) for f in Design._meta.concrete_fields}
    del values["id"]
    values |= {"name": f"{design.name[:60]}, variant {count}", "made": timezone.now(), "version": 0}
    return Design.objects.create(**values)


def beside(error: BowyeryError, fields: set[str]) -> tuple[str | None, str]:
    """The field an error of the core belongs to, of those there are, and its sentence."""
    place = error.place if isinstance(error, DescriptionError) else ""
    name = NAMED.get(place, place)
    if name in fields and isinstance(error, DescriptionError):
        return name, error.reason
    return None, str(error)


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
    text = bowfile.dumps(replace(found.bow, name=design.name, draw=design.draw))
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
    )
    kind = EXPORTS[name]
    ending = name.rpartition(".")[2]
    try:
        content = kind.make(leaving)
    except BowyeryError as error:
        return getattr(error, "reason", str(error))
    return File(f"design-{design.pk}.{ending}", kind.content_type, content)


def _track(found: Solution, limb: int, profile: np.ndarray, strain: np.ndarray) -> LimbTrack:
    grid = found.curve.limbs
    return LimbTrack(
        _from_centre(found, limb),
        grid.width[limb, 0],
        grid.depth[limb, 0],
        profile,
        strain,
        found.curve.shapes.bend[limb, -1],
    )


def _from_centre(found: Solution, limb: int) -> Floats:
    places: Floats = found.bow.limbs[limb].root[0] + found.curve.limbs.places()[limb, 0]
    return places


def ruler_data(found: Solution, former: Solution | None = None) -> RulerData:
    """What the one ruler shows of a solved design at full draw."""
    still = np.zeros((2, 1))
    rest = shapes(found.curve.limbs, still, still).across[:, 0]
    layered = len(found.bow.upper.layers) > 1
    strain = (
        limit_use(found.limits, found.curve.shapes)
        if layered
        else surface_strain(found.curve.shapes)[:, -1]
    )
    upper, lower = (_track(found, k, rest[k], strain[k]) for k in (0, 1))
    working, rupture = found.wood.working_strain, found.wood.rupture_strain
    if layered:
        working, rupture = 1.0, float((found.limits.rupture / found.limits.working).min())
    return RulerData(
        upper,
        lower,
        found.layout.handle_depth,
        found.layout.grip_width,
        working,
        rupture,
        {},
        ruler_data(former) if former and (len(former.bow.upper.layers) > 1) == layered else None,
        layered,
        found.layout.back_bow.outline if found.layout.back_bow else None,
    )


def curve_data(found: Solution, former: Solution | None = None) -> CurveData:
    """The force–draw curve of a solved design."""
    drawn = found.curve.drawn
    before = (former.curve.drawn.draw, former.curve.drawn.weight) if former else None
    return CurveData(
        drawn.draw, drawn.weight, found.wanted.weight, found.wanted.draw, former=before
    )


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


def side_lines(found: Solution) -> dict[str, list[tuple[float, float]]]:
    """A bow's side view unstrung, braced and at full draw, from the lower nock to the upper: from
    the centre, upper limb above zero, and to the belly (m).
    """
    still, curve = np.zeros((2, 1)), found.curve
    rest, last = shapes(curve.limbs, still, still), len(curve.drawn.draw) - 1
    states = {
        "unstrung": (rest.along[:, 0], rest.across[:, 0]),
        "braced": (curve.at_brace.along[:, 0], curve.at_brace.across[:, 0]),
        "drawn": (curve.shapes.along[:, last], curve.shapes.across[:, last]),
    }

    def points(along: Floats, across: Floats) -> list[tuple[float, float]]:
        upper, lower = (
            [(float(a), float(c)) for a, c in zip(along[k], across[k], strict=True)] for k in (0, 1)
        )
        sign = -1.0 if lower[-1][0] > 0 else 1.0
        return [(sign * a, c) for a, c in lower[::-1]] + upper

    return {name: points(*both) for name, both in states.items()}


def handle_box(found: Solution) -> tuple[float, float, float]:
    """Lower and upper end of the handle with its fades along the axis, and its depth (m)."""
    layout = found.layout
    return -layout.root_from_centre(False), layout.root_from_centre(True), layout.handle_depth


def try_solution(design: Design, keep: bool = True) -> tuple[Solution | None, str]:
    """A solution, or the sentence that says why there is none."""
    try:
        return solution(design, keep), ""
    except BowyeryError as error:
        return None, str(error)


@dataclass(frozen=True)
class Axis:
    """A measure to sweep: its values for the core, how one is written for a reader, and which is
    the bow's own.
    """

    name: str
    values: np.ndarray
    words: Callable[[float, Units], str]
    now: float = 1.0


SWEEP_STEPS = 20


def axes(design: Design, found: Solution) -> dict[str, Axis]:
    """What may be swept about a bow, with ranges a maker would consider."""
    layout, wood = found.layout, found.wood
    steps = SWEEP_STEPS

    def scaled(size: float) -> Callable[[float, Units], str]:
        return lambda factor, shown: shown.length(factor * size)

    tip = float(found.bow.upper.width[-1])
    woods = _woods(design, found)
    wooden = Axis(
        "wood",
        np.arange(len(woods)) * 1.0,
        lambda k, u: woods[int(k)].name,
        float(woods.index(found.wood)),
    )
    return ({"wood": wooden} if len(found.bow.upper.layers) == 1 else {}) | {
        "length": Axis(
            "length",
            np.linspace(0.88, 1.16, steps),
            lambda f, u: u.length(layout.length + (f - 1) * _limbs(found)),
        ),
        "width": Axis("width", np.linspace(0.75, 1.35, steps), scaled(layout.width)),
        "tip width": Axis("tip width", np.linspace(0.6, 1.3, steps), scaled(tip)),
        "reflex": Axis(
            "reflex", np.linspace(-0.03, 0.05, steps), lambda r, u: u.length(layout.reflex + r), 0.0
        ),
        "modulus": Axis(
            "modulus", np.linspace(0.8, 1.25, steps), lambda f, u: u.modulus(wood.modulus * f)
        ),
    }


def _woods(design: Design, found: Solution) -> list[Material]:
    """The woods of the book at the design's moisture, from soft to stiff; its own as it was
    measured.
    """
    book = shelf().woods | {found.wood.name: found.wood}
    dried = (
        one if one is found.wood else at_moisture(one, design.figures.moisture)
        for one in book.values()
    )
    return sorted(dried, key=lambda one: one.modulus)


def _limbs(found: Solution) -> float:
    return sum(limb.length for limb in found.bow.limbs)


def swept(design: Design, found: Solution, first: str, second: str) -> Sweep:
    """Sweep two measures of a solved design; raises BowyeryError."""
    arrow = found.bow.arrow or USUAL_ARROW * design.weight
    shot = loosed(design, found)
    virtual = shot.virtual_mass if shot else 0.4 * arrow
    choice = axes(design, found)
    woods = _woods(design, found) if "wood" in (first, second) else []
    pair = [(name, choice[name].values) for name in (first, second)]
    return computed(
        "sweep", (bowfile.dumps(found.bow), design.draw, first, second, arrow, virtual, woods),
        lambda: sweep(found.bow, design.draw, pair[0], pair[1], arrow, virtual, woods),
    )  # fmt: skip
