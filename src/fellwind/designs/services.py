"""From design rows to core objects and back to what screens show."""

import math
from dataclasses import asdict, replace
from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from bowyery.bow import bowfile
from bowyery.bow.bow import Bow
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import (
    METRIC_ROUNDING,
    Layout,
    Rounding,
    Wanted,
    school_a_length,
)
from bowyery.design.figures import NAMED, Stuff
from bowyery.design.lengths import length_for
from bowyery.design.quick import quick
from bowyery.design.solution import Solution, as_marked
from bowyery.design.solve import solve_design
from bowyery.design.verdict import TOLERABLE
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Material, at_moisture, overridden
from fellwind.designs.models import Design
from fellwind.kit.cache import computed, digest_of, read_once
from fellwind.rack.services import own_wood
from fellwind.shop import learning
from fellwind.shop.book import fibre, material, shelf

if TYPE_CHECKING:
    pass


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


def layer_as_usual(name: str) -> float:
    """How thick a layer of some stuff is usually laid (m)."""
    if name in USUAL_BACKINGS:
        return USUAL_BACKINGS[name][0]
    kind = material(name).kind
    return {"glass": 0.001, "horn": 0.004}.get(kind, 0.0032)


# Backings as they are usually laid: thickness of the dried layer and the reflex it draws in (m).
USUAL_BACKINGS = {
    "rawhide": (0.001, 0.0),
    "flax fibre": (0.001, 0.005),
    "sinew": (0.0015, 0.02),
    "bamboo slat": (0.003, 0.0),
}


LOOSE = np.array([0.03, 0.015, 0.006])  # of cables that are told of (m)


RULES = {
    "A": "twice the draw as it was told, and the stiff handle with its fades",
    "B": "as long as keeps this wood under what it bears for years",
    "C": "short, for cover or horseback: wider limbs, short handle",
}


def designs() -> QuerySet[Design]:
    """Designs with what their pages read."""
    return Design.objects.select_related("archer", "stave")


def present() -> QuerySet[Design]:
    """Those of them that a new bow may be built from."""
    return designs().filter(now=None)


# With its figures, what a bow was begun with.
_BEGUN = ("weight", "draw", "fingers", "stave_id", "bow_file", "learned", "by_book")


def stays_as_begun(design: Design) -> str:
    """What stands in the way of changing a design that bows were begun with; else nothing."""
    return "Bows stay with this design; change it as it is now." if design.now_id else ""


@transaction.atomic
def save(design: Design, *fields: str) -> None:
    """Save a changed design; bows that are being built from it keep it as it was."""
    running = list(design.builds.filter(finished=None)) if design.pk else []
    was = Design.objects.get(pk=design.pk) if running else None
    if was is not None and (
        any(_differs(getattr(was, name), getattr(design, name)) for name in _BEGUN)
        or any(
            _differs(a, b)
            for a, b in zip(stands(was).values(), stands(design).values(), strict=True)
        )
    ):
        numbers = " and ".join(str(build.number) for build in running)
        values = {f.attname: getattr(was, f.attname) for f in Design._meta.concrete_fields}
        del values["id"]
        begun = f"{design.name[:60]}, as begun: {numbers}"[:80]
        former = Design.objects.create(**values | {"name": begun, "now_id": design.pk})
        for build in running:
            build.design = former
            build.save(update_fields=["design"])
    design.save(update_fields=fields or None)


def keep(design: Design) -> None:
    """Keep a design that is solved for its weight, its marks let go; raises BowyeryError."""
    marked, design.bow_file = design.bow_file, ""
    try:
        solution(design)
    except BowyeryError:
        design.bow_file = marked
        raise
    save(design)


# What a bow that is as it was marked may be asked otherwise, without its marks being solved for.
_ASKED_OF_IT = (
    "arrow", "fibre", "gap", "family", "moisture", "marked_in", "places_from", "nock_style",
    "back_is", "centre_line", "kind", "brace_height", "fade_shape", "reflex_by",
)  # fmt: skip
_ALIKE = 0.0004  # sizes that differ by less were only rounded to be shown (m)


def stands(design: Design) -> dict[str, Any]:
    """What a design is made to: its length, wood and figures, to hold others against."""
    return asdict(design.figures) | {"length": design.length, "material": design.material}


def changed_marks(before: dict[str, Any], design: Design) -> list[str]:
    """Names of the figures that a marked bow would have to be solved anew for."""
    now = stands(design)
    return [k for k in before if k not in _ASKED_OF_IT and _differs(before[k], now[k])]


def _differs(a: object, b: object) -> bool:
    """Whether one figure is another, and not the same as it was shown."""
    if isinstance(a, float | int) and isinstance(b, float | int):
        return abs(a - b) > _ALIKE + 1e-3 * abs(a)
    return (a or None) != (b or None)


def as_asked(design: Design, before: dict[str, Any]) -> Design:
    """What is asked of a bow otherwise, its marks as they stand; neither solved nor saved."""
    bow = bowfile.loads(design.bow_file)
    height = design.figures.brace_height
    kept = {name: value for name, value in before.items() if name in design.sizes}
    asked = {name: design.sizes[name] for name in _ASKED_OF_IT if name in design.sizes}
    design.sizes, design.length = kept | asked, before["length"]
    if bow.brace_height is not None and abs(bow.brace_height - height) > _ALIKE:
        design.bow_file = bowfile.dumps(replace(bow, brace_height=height))
    return design


def keep_asked(design: Design, before: dict[str, Any]) -> None:
    """Keep what is asked of a bow otherwise; raises BowyeryError for a brace height that it cannot
    be given.
    """
    marked = design.bow_file
    if as_asked(design, before).bow_file != marked:
        solution(design)
    save(design)


def keep_marks(design: Design, bow: Bow) -> None:
    """Keep a design as it is marked; raises BowyeryError."""
    remarked(design, bow)
    design.bow_file = bowfile.dumps(bow)
    save(design, "bow_file")


def variant(design: Design) -> Design:
    """The same design once more, kept under a name of its own."""
    count = Design.objects.filter(name__startswith=design.name[:60]).count()
    values = {f.attname: getattr(design, f.attname) for f in Design._meta.concrete_fields}
    del values["id"]
    values |= {"name": f"{design.name[:60]}, variant {count}", "made": timezone.now(), "version": 0,
               "now_id": None}  # fmt: skip
    return Design.objects.create(**values)


def beside(error: BowyeryError, fields: set[str]) -> tuple[str | None, str]:
    """The field an error of the core belongs to, of those there are, and its sentence."""
    place = error.place if isinstance(error, DescriptionError) else ""
    name = NAMED.get(place, place)
    if isinstance(error, DescriptionError) and (name in fields or place.startswith("limbs.")):
        return name if name in fields else None, error.reason
    return None, str(error)


def core_of(bow: Bow) -> str:
    """The material of a bow's core where the shop knows it, or nothing."""
    core = next((layer for layer in bow.upper.layers if layer.thickness is None), None)
    stuff = shelf()
    return core.material if core and core.material in stuff.woods | stuff.backings else ""


def try_solution(design: Design, keep: bool = True) -> tuple[Solution | None, str]:
    """A solution, or the sentence that says why there is none."""
    try:
        return solution(design, keep), ""
    except BowyeryError as error:
        return None, str(error)
