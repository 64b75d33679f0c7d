"""A bow as it was measured: its table, and a weight that makes up what is not known of it."""

from __future__ import annotations

from typing import Any

from django import forms
from django.forms import BoundField

from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.layout import ARROW_ABOVE_PIVOT, BRACE_HEIGHT, FINGERS_BELOW_ARROW, StackLayer
from bowyery.bow.section import PROFILES, Shape
from bowyery.design.figures import USUAL_RADIUS
from bowyery.design.measured import Place, bow_of, limb_of
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Material, at_moisture
from fellwind.kit.fields import choose
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.shop import book
from fellwind.shop.models import Archer
from fellwind.shop.services import NO_WOOD, material_choices

ROWS = 10
COLUMNS = ("at", "wide", "thick", "off")
_WORDS = {
    "at": "from the centre", "wide": "width", "thick": "thickness", "off": "to the back, unstrung",
}  # fmt: skip
_BOUNDS = {
    "at": "half of a bow", "wide": "width at a mark", "thick": "thickness at a mark",
    "off": "line of a limb",
}  # fmt: skip


class MeasuredBowForm(MeasuredForm):
    """A bow that exists, or a drawing: what was measured at places of each limb."""

    name = forms.CharField(max_length=80, help_text="what it is, such as a bow from the attic")
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label="choose one")
    material = forms.ChoiceField(label="Wood")
    moisture = MeasureField("moisture worked", initial=0.09, label="Its moisture")
    brace_height = MeasureField("brace height", initial=BRACE_HEIGHT, label="Brace height")
    draw = MeasureField(
        "archer's draw",
        required=False,
        label="Full draw, to the grip",
        help_text="empty: as the archer draws",
    )
    handle_depth = MeasureField("handle depth", initial=1.5 * INCH, label="Grip, back to belly")
    section = forms.ChoiceField(choices=[(shape, shape) for shape in PROFILES], label="Section")
    section_radius = MeasureField(
        "radius of log or culm", required=False, label="Radius of log or culm"
    )
    tube_wall = MeasureField("wall of a tube", required=False, label="Wall of the tube")
    back = forms.ChoiceField(required=False, label="Layer on the back")
    back_thick = MeasureField("laid layer", required=False, label="Thick")
    belly = forms.ChoiceField(required=False, label="Layer on the belly")
    belly_thick = MeasureField("laid layer", required=False, label="Thick")
    weight = MeasureField(
        "wanted weight", required=False, label="Weight read at full draw",
        help_text="empty: as the book has the wood",
    )  # fmt: skip
    scale = forms.ChoiceField(
        choices=[
            ("modulus", "the wood's stiffness"),
            ("thickness", "the thickness, all over alike"),
            ("", "neither: only compare"),
        ],
        required=False,
        initial="modulus",
        label="Made up from that weight",
    )

    def __init__(self, *args: Any, tried: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["name"].required = not tried  # what is only tried needs no name yet
        stuff = book.shelf()
        choose(self, [NO_WOOD, *material_choices(stuff)], "material")
        layers = [("", "none"), *((n, n) for n in (*stuff.backings, *stuff.woods))]
        choose(self, layers, "back", "belly")
        for side in SIDES:
            for k in range(ROWS):
                for what in COLUMNS:
                    label = f"{side} limb, row {k + 1}, {_WORDS[what]}"
                    self.add(f"{side}_{what}_{k}", _BOUNDS[what], label, required=False)

    def head(self) -> list[BoundField]:
        """What is asked of the whole bow."""
        rows = tuple(f"{side}_" for side in SIDES)
        return [b for b in self.visible_fields() if not b.name.startswith(rows)]

    def tables(self) -> list[tuple[str, list[list[BoundField]]]]:
        """The rows of each limb."""
        return [
            (side, [[self[f"{side}_{what}_{k}"] for what in COLUMNS] for k in range(ROWS)])
            for side in SIDES
        ]

    @property
    def unit(self) -> str:
        """The unit that bare figures of the table are in."""
        return self.unit_of("upper_at_0")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        counts = {side: self._check(side) for side in SIDES}
        if not counts["upper"] and not self.errors:
            self.add_error("upper_at_0", "Begin where the upper limb begins to bend.")
        for limb, count in counts.items():
            if count == 1:
                self.add_error(f"{limb}_at_1", "Two places at least: where it bends, and the nock.")
        for face in ("back", "belly"):
            if data.get(face) and not data.get(f"{face}_thick"):
                self.add_error(f"{face}_thick", "Say how thick this layer is.")
        if not self.errors:
            self._build(data)
        return data

    def _check(self, side: str) -> int:
        """Look through the rows of a limb; returns how many there are."""
        count, before = 0, None
        for k in range(ROWS):
            given = {what: self.value(f"{side}_{what}_{k}") for what in COLUMNS}
            if any(self.has_error(f"{side}_{what}_{k}") for what in COLUMNS):
                count += 1
                continue
            if all(v is None for v in given.values()):
                continue
            count += 1
            for what in ("at", "wide", "thick"):
                if given[what] is None:
                    self.add_error(f"{side}_{what}_{k}", f"Say the {_WORDS[what]} here too."
                                   if what != "at" else "Say where this is.")  # fmt: skip
            at = given["at"]
            if at is not None and before is not None and at <= before:
                self.add_error(f"{side}_at_{k}", "Each place lies further out than the one above.")
            before = at if at is not None else before
        return count

    def places(self, side: str) -> list[Place]:
        """What was measured of a limb."""
        found = []
        for k in range(ROWS):
            at = self.value(f"{side}_at_{k}")
            if at is None:
                continue
            off = self.value(f"{side}_off_{k}")
            across = None if off is None else -off
            wide, thick = self.given(f"{side}_wide_{k}"), self.given(f"{side}_thick_{k}")
            found.append(Place(at, wide, thick, across))
        return found

    def wood(self) -> Material:
        """Its wood at its moisture."""
        return at_moisture(book.material(self.cleaned_data["material"]), self.given("moisture"))

    def full_draw(self) -> float:
        """To the grip (m)."""
        return self.value("draw") or float(self.cleaned_data["archer"].draw)

    def _shape(self) -> Shape:
        name = self.cleaned_data["section"]
        if name in USUAL_RADIUS:
            radius = self.value("section_radius") or USUAL_RADIUS[name]
            return Shape(name, {"radius_mm": radius * 1e3})
        if name == "tube":
            wide = self.given("upper_wide_0")
            return Shape("tube", {"wall": min(1.0, 2 * (self.value("tube_wall") or 0.15) / wide)})
        return Shape(name)

    def _stack(self, side: str) -> tuple[StackLayer, ...]:
        name = self.cleaned_data[side]
        if not name:
            return ()
        thick = self.given(f"{side}_thick")
        stuff = at_moisture(book.material(name), self.given("moisture"))
        return (StackLayer("facing" if stuff.kind == "glass" else "backing", stuff, thick, thick),)

    def _limb(self, side: str) -> Limb:
        places = self.places(side) or self.places("upper")
        return limb_of(
            places, self.wood(), self._shape(), self._stack("back"), self._stack("belly")
        )

    def _build(self, data: dict[str, Any]) -> None:
        limbs: dict[str, Limb] = {}
        for side in SIDES:
            try:
                limbs[side] = self._limb(side)
            except DescriptionError as error:
                self.add_error(f"{side}_off_0" if "line" in error.place else f"{side}_at_0",
                               error.reason)  # fmt: skip
        if self.errors:
            return
        fingers = data["archer"].fingers
        try:
            data["bow"] = bow_of(
                limbs["upper"], limbs["lower"], self.given("brace_height"), self.full_draw(),
                self.given("handle_depth"), ARROW_ABOVE_PIVOT - FINGERS_BELOW_ARROW[fingers],
            )  # fmt: skip
        except BowyeryError as error:
            self.add_error(None, str(error))

    def bow(self) -> Bow:
        """The bow that was measured."""
        found: Bow = self.cleaned_data["bow"]
        return found


class ScaleForm(MeasuredForm):
    """One weight that was read of a bow as it is marked, and what makes up the difference."""

    read = MeasureField("wanted weight", label="Weight read")
    at = MeasureField("archer's draw", label="at a draw, to the grip, of")
    what = forms.ChoiceField(
        choices=[
            ("modulus", "the wood's stiffness"), ("thickness", "the thickness, all over alike"),
        ],
        label="Make it up by",
    )  # fmt: skip

    def __init__(self, *args: Any, draw: float, **kwargs: Any) -> None:
        kwargs.setdefault("initial", {"at": draw})
        super().__init__(*args, auto_id="scale_%s", **kwargs)
