"""Forms of the shop."""

import os
from pathlib import Path
from typing import Any

from django import forms

from bowyery.making.rests import KINDS as REST_KINDS
from bowyery.making.rests import Rest
from bowyery.tiller.bite import TOOLS, USUAL_TOOL
from bowyery.units.draw_ruler import draw_ruler
from fellwind.kit.fields import NumberField
from fellwind.kit.measures import MeasureField, PercentField
from fellwind.kit.versions import VersionedForm
from fellwind.shop.book import in_print
from fellwind.shop.models import (
    AIR_WORDS,
    DRAW_RULER_CHOICES,
    FINGERS,
    Archer,
    Gear,
    OwnMaterial,
    OwnRest,
    Tool,
    Workshop,
)
from fellwind.shop.services import USUAL_HANDLE_DEPTH


class ArcherForm(VersionedForm):
    """Who the bow is for."""

    name = forms.CharField(max_length=80)
    left_handed = forms.BooleanField(required=False, label="Left-handed (bow in the right hand)")
    draw = MeasureField("archer's draw", label="Draw length")
    draw_ruler = forms.ChoiceField(
        choices=DRAW_RULER_CHOICES,
        label="Measured",
        help_text="which ruler the number was taken with",
    )
    weight = MeasureField("wanted weight", label="Wanted weight at that draw")
    fingers = forms.ChoiceField(choices=list(FINGERS.items()), label="Fingers on the string")
    notes = forms.CharField(
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
        label="Where and what for, how it is carried",
    )

    def save(self, archer: Archer) -> Archer:
        """Write the form into an archer."""
        data = self.cleaned_data
        archer.name, archer.left_handed = data["name"], data["left_handed"]
        archer.fingers, archer.notes = data["fingers"], data["notes"]
        archer.draw_ruler, archer.draw_text, archer.weight_text = (
            data["draw_ruler"],
            self.text("draw"),
            self.text("weight"),
        )
        archer.draw = draw_ruler(data["draw_ruler"]).to_pivot(
            data["draw"].value, USUAL_HANDLE_DEPTH
        )
        archer.weight = data["weight"].value
        archer.save()
        return archer

    @staticmethod
    def initial_of(archer: Archer) -> dict[str, Any]:
        """Values of an archer for editing."""
        return {
            "name": archer.name,
            "left_handed": archer.left_handed,
            "draw": draw_ruler(archer.draw_ruler).from_pivot(archer.draw, USUAL_HANDLE_DEPTH),
            "draw_ruler": archer.draw_ruler,
            "weight": archer.weight,
            "fingers": archer.fingers,
            "notes": archer.notes,
        }


class GearForm(VersionedForm):
    """A rope, pulley, hook, scale or tree with its rated load."""

    name = forms.CharField(max_length=80)
    kind = forms.ChoiceField(choices=[(k, k) for k in Gear.KINDS])
    rating = MeasureField(
        "gear rating", label="Rated load", help_text="working load, not breaking load"
    )
    in_use = forms.BooleanField(required=False, label="On the tree now", initial=True)

    def save(self, gear: Gear) -> Gear:
        """Write the form into a piece of gear."""
        gear.name, gear.kind = self.cleaned_data["name"], self.cleaned_data["kind"]
        gear.rating, gear.rating_text = self.given("rating"), self.text("rating")
        gear.in_use = self.cleaned_data["in_use"]
        gear.save()
        return gear

    @staticmethod
    def initial_of(gear: Gear) -> dict[str, Any]:
        """Values of a piece of gear for editing."""
        return {name: getattr(gear, name) for name in ("name", "kind", "rating", "in_use")}


class ToolForm(VersionedForm):
    """A tool of the shop's own."""

    name = forms.RegexField(
        r"^[A-Za-z][A-Za-z '’-]{1,37}$",
        max_length=38,
        strip=True,
        error_messages={"invalid": "Write the name in letters, as you would in the pencil line."},
        help_text="as it is written in the pencil line: off upper 12 strokes with …",
    )
    like = forms.ChoiceField(
        choices=[(name, name) for name in TOOLS],
        label="A stroke takes about as much as with a",
        initial=USUAL_TOOL,
        help_text="where Fellwind begins; your passes show what it really takes",
    )

    def clean_name(self) -> str:
        """Small letters, and no second tool of that name."""
        name = " ".join(self.cleaned_data["name"].lower().split())
        others = Tool.objects.filter(name=name)
        if self.row is not None:
            others = others.exclude(pk=self.row.pk)
        if others.exists():
            raise forms.ValidationError("There is a tool of that name already.")
        return name

    def save(self, tool: Tool) -> Tool:
        """Write the form into a tool."""
        tool.name, tool.like = self.cleaned_data["name"], self.cleaned_data["like"]
        tool.save()
        return tool

    @staticmethod
    def initial_of(tool: Tool) -> dict[str, Any]:
        """Values of a tool for editing."""
        return {"name": tool.name, "like": tool.like}


class OwnRestForm(VersionedForm):
    """How long something rests in this shop."""

    name = forms.CharField(
        max_length=60, label="What rests", help_text="as it hangs from the string"
    )
    what = forms.ChoiceField(choices=[(k, k) for k in REST_KINDS], label="It is")
    low = NumberField("hours of rest", unit="h", label="At least")
    usual = NumberField("hours of rest", unit="h", label="Usually")
    high = NumberField("hours of rest", unit="h", label="At most")
    air = forms.ChoiceField(
        choices=list(AIR_WORDS.items()),
        label="How it goes with the air",
        help_text="the hours are of half-damp air at 20 °C; they are reckoned for the shop's own",
    )
    note = forms.CharField(max_length=200, required=False, label="What to mind")

    def clean(self) -> dict[str, Any]:
        """Hours in order, and no second row of the shop's of that name."""
        data = super().clean()
        hours = [data[name] for name in ("low", "usual", "high") if data.get(name)]
        if len(hours) == 3 and sorted(hours) != hours:
            self.add_error("usual", "The least comes first, then the usual, then the most.")
        others = OwnRest.objects.filter(name=data.get("name"))
        others = others if self.row is None else others.exclude(pk=self.row.pk)
        if others.exists():
            self.add_error("name", "The shop has a row of that name already; change that one.")
        return data

    def save(self, rest: OwnRest) -> OwnRest:
        """Write the form into a row."""
        for name in ("name", "what", "low", "usual", "high", "air", "note"):
            setattr(rest, name, self.cleaned_data[name])
        rest.save()
        return rest

    @staticmethod
    def initial_of(rest: OwnRest | Rest) -> dict[str, Any]:
        """Values of a row, of the shop's or the book's."""
        names = ("name", "what", "low", "usual", "high", "air", "note")
        return {name: getattr(rest, name) for name in names}


class OwnMaterialForm(VersionedForm):
    """A material of the shop's own: for limbs its bending figures, for strings a strand's."""

    name = forms.CharField(max_length=40, help_text="as it shall be called in lists")
    kind = forms.ChoiceField(choices=list(OwnMaterial.KINDS.items()), label="It is")
    modulus = MeasureField(
        "modulus of a material",
        required=False,
        label="Modulus of elasticity",
        help_text="along the grain; of limbs",
    )
    rupture = MeasureField(
        "rupture of a material",
        required=False,
        label="Modulus of rupture",
        help_text="in bending; of limbs",
    )
    density = MeasureField(
        "density of a material", required=False, label="Density", help_text="of limbs"
    )
    work = MeasureField(
        "toughness",
        required=False,
        label="Work to maximum load",
        help_text="of woods and bamboos, where a table has it: it tells tough from brash",
    )
    ten_metres = MeasureField(
        "strand of ten metres",
        required=False,
        label="Ten metres of a strand weigh",
        help_text="of threads; ten metres are 32 ft 9¾ in",
    )
    breaking = MeasureField(
        "strength of a strand", required=False, label="A strand breaks at", help_text="of threads"
    )
    stretch = PercentField(
        "share of stretch",
        required=False,
        label="A string settles by",
        help_text="of threads: what it stretches under a bow's load and keeps",
    )
    source = forms.CharField(max_length=200, required=False, label="Where the figures come from")
    caution = forms.CharField(
        max_length=200, required=False, label="Caution", help_text="what its dust or fumes do"
    )

    OF_LIMBS, OF_THREADS = ("modulus", "rupture", "density"), ("ten_metres", "breaking", "stretch")

    def __init__(self, *args: Any, own: OwnMaterial, **kwargs: Any) -> None:
        self.own = own
        super().__init__(*args, row=own, **kwargs)

    def clean_name(self) -> str:
        """A name that neither the book nor the shop has yet."""
        name = " ".join(str(self.cleaned_data["name"]).lower().split())
        taken = OwnMaterial.objects.filter(name=name).exclude(pk=self.own.pk)
        if in_print(name) or taken.exists():
            raise forms.ValidationError(
                f"There is a material called “{name}” already; give this one another name."
            )
        if self.own.pk and name != self.own.name:
            raise forms.ValidationError(
                f"Designs know it as “{self.own.name}”; add another material under a new name."
            )
        return name

    def clean(self) -> dict[str, Any]:
        """What its kind needs."""
        data: dict[str, Any] = super().clean() or self.cleaned_data
        thread = data.get("kind") in OwnMaterial.THREADS
        for name in self.OF_THREADS if thread else self.OF_LIMBS:
            if name not in self.errors and not data.get(name):
                self.add_error(name, "This kind of material needs it.")
        if self.own.pk and data.get("kind") and thread != self.own.is_thread:
            self.add_error("kind", "A thread stays a thread; add another material.")
        return data

    def save(self) -> OwnMaterial:
        """Write the form into the material."""
        own, data = self.own, self.cleaned_data
        own.name, own.kind = data["name"], data["kind"]
        own.source, own.caution = data["source"], data["caution"]
        limbs = not own.is_thread
        for name in (*self.OF_LIMBS, "work"):
            setattr(own, name, self.value(name) if limbs else None)
        mass = None if limbs else self.value("ten_metres")
        own.line_mass = None if mass is None else mass / 10
        own.breaking = None if limbs else self.value("breaking")
        own.stretch = None if limbs else data["stretch"]
        own.save()
        return own

    @staticmethod
    def initial_of(own: OwnMaterial) -> dict[str, Any]:
        """Values of a material for editing."""
        names = ("name", "kind", "modulus", "rupture", "density", "work", "breaking")
        return {name: getattr(own, name) for name in (*names, "source", "caution")} | {
            "ten_metres": None if own.line_mass is None else 10 * own.line_mass,
            "stretch": None if own.stretch is None else f"{own.stretch * 100:g}",
        }


class WorkshopForm(VersionedForm):
    """The shop's air, paper and habits."""

    name = forms.CharField(max_length=80, label="Name of the shop")
    air_celsius = MeasureField("air", label="Air temperature")
    air_humidity = PercentField("share", label="Relative humidity")
    denominator = forms.TypedChoiceField(
        choices=[(16, "1/16 in"), (32, "1/32 in")], coerce=int, label="Finest fraction written"
    )
    paper = forms.ChoiceField(choices=[("A4", "A4"), ("Letter", "Letter")])
    finishing_loss = PercentField(
        "share of weight lost",
        label="Weight lost in finishing",
        help_text="sanding and rounding after the last tiller check",
    )
    shooting_loss = PercentField("share of weight lost", label="Weight lost in shooting in")
    jig = MeasureField(
        "jig", required=False, label="String jig reaches",
        help_text="its posts at their furthest; empty: far enough",
    )  # fmt: skip
    backup_folder = forms.CharField(
        max_length=300,
        required=False,
        label="Daily backups go to",
        help_text="a folder of the shop's computer, better on another disk; empty: with the data",
    )

    FIELDS = (
        "name",
        "denominator",
        "paper",
        "air_humidity",
        "finishing_loss",
        "shooting_loss",
        "backup_folder",
    )

    def clean_backup_folder(self) -> str:
        """A folder that is there and can be written to."""
        typed: str = self.cleaned_data["backup_folder"].strip()
        folder = Path(typed)
        if typed and not folder.is_absolute():
            raise forms.ValidationError("Write the whole path, from / on.")
        if typed and not folder.is_dir():
            raise forms.ValidationError("There is no such folder on the shop's computer.")
        if typed and not os.access(folder, os.W_OK | os.X_OK):
            raise forms.ValidationError("Fellwind may not write into this folder.")
        return typed

    def save(self, workshop: Workshop) -> None:
        """Write the form into the shop."""
        for name in self.FIELDS:
            setattr(workshop, name, self.cleaned_data[name])
        workshop.air_celsius, workshop.jig = self.given("air_celsius"), self.value("jig")
        workshop.save()

    @classmethod
    def initial_of(cls, workshop: Workshop) -> dict[str, Any]:
        """Values of the shop for editing."""
        values = {name: getattr(workshop, name) for name in cls.FIELDS} | {
            "air_celsius": workshop.air_celsius, "jig": workshop.jig,
        }  # fmt: skip
        for name in ("air_humidity", "finishing_loss", "shooting_loss"):
            values[name] = f"{values[name] * 100:g}"
        return values
