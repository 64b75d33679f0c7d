"""A limb spoiled before the tiller: what the same stave still gives, and taking one way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django import forms
from django.db import transaction

from bowyery.design.spoiled import WayOut, ways_out
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.units.quantity import Units
from fellwind.builds.models import Build, Entry
from fellwind.designs import services as designs
from fellwind.designs.models import Design
from fellwind.kit.cache import computed
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.people.models import Person

WORDS = {
    "cut": "Both ends cut back to the damage, the handle where it is",
    "handle moved": "That end cut, and the handle moved to the middle of what is left",
    "short below": "That end cut and turned down: the damaged limb becomes the short lower one",
    "splice": "A new limb of the same wood spliced on in the handle",
}
CARE = {
    "splice": "The splice lies wholly in the stiff handle, and is glued and bound before any bend.",
    "short below": "Mark upper and lower anew on the wood before anything is cut.",
}


class SpoiledForm(MeasuredForm):
    """Where a limb is spoiled."""

    limb = forms.ChoiceField(
        choices=[("upper", "upper limb"), ("lower", "lower limb")], label="Spoiled is the"
    )
    place = MeasureField(
        "place on a limb", label="from", help_text="from the bow's centre, where the damage begins"
    )


@dataclass(frozen=True)
class SpoiledRow:
    """A way out in words."""

    way: WayOut
    words: str
    care: str

    @property
    def back(self) -> float:
        """How far the centre moves to the lower tip (m)."""
        return -self.way.moved


@dataclass(frozen=True)
class SpoiledPage:
    """What the same stave still gives."""

    build: Build
    form: SpoiledForm
    rows: tuple[SpoiledRow, ...] = ()
    trouble: str = ""


def spoiled_page(build: Build, given: Any, shown: Units) -> SpoiledPage:
    """The ways out for what was asked; a form that was refused stands in it."""
    form = SpoiledForm(given if given and "place" in given else None, shown=shown)
    if not form.is_bound or not form.is_valid():
        return SpoiledPage(build, form)
    try:
        rows = _ways(build, form)
    except BowyeryError as error:
        form.add_error("place", getattr(error, "reason", str(error)))
        form.mark_faults()
        return SpoiledPage(build, form)
    said = tuple(SpoiledRow(row, WORDS[row.way], CARE.get(row.way, "")) for row in rows)
    return SpoiledPage(build, form, said)


def _ways(build: Build, form: SpoiledForm) -> tuple[WayOut, ...]:
    layout, wanted, wood, _ = designs.core_inputs(build.design)
    limb, at = form.cleaned_data["limb"], form.given("place")
    key = (layout, wanted, wood, limb, at)
    return computed("spoiled", key, lambda: ways_out(layout, wanted, wood, limb, at))


@transaction.atomic
def take_way(build: Build, form: SpoiledForm, way: str, by: Person, shown: Units) -> Design:
    """Re-plan a build by one way: a variant of its design takes the design's place.

    Raises:
        DescriptionError: no such way, or one that gives no bow.
    """
    found = next((row for row in _ways(build, form) if row.way == way), None)
    if found is None or found.weight is None:
        raise DescriptionError("That way gives no bow; choose another.", "way")
    first = build.design
    design = designs.variant(first)
    design.length, design.weight = found.layout.length, found.weight
    design.change(grip_drop=found.layout.grip_drop)
    design.bow_file = ""
    designs.keep(design)
    limb = form.cleaned_data["limb"]
    text = (
        f"{limb} limb spoiled {shown.length(form.given('place'))} from the centre:"
        f" {WORDS[way][:1].lower()}{WORDS[way][1:]}; {shown.length(design.length)} now, for"
        f" {shown.weight(design.weight)}, by {design.name}"
    )
    build.design, build.laid = design, None
    build.save(update_fields=["design", "laid"])
    Entry.objects.create(
        build=build, kind="stage", stage=build.stage, text=text, by=by, world=shown.world
    )
    return design
