"""Forms of the shop."""

from typing import Any

from django import forms

from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import POUND_FORCE
from fellwind.kit.measures import MeasuredForm, MeasureField, PercentField
from fellwind.shop.models import DRAW_RULER_CHOICES, FINGERS, Archer, Gear, Workshop
from fellwind.shop.services import USUAL_HANDLE_DEPTH


class ArcherForm(MeasuredForm):
    """Who the bow is for."""

    name = forms.CharField(max_length=80)
    left_handed = forms.BooleanField(required=False, label="Left-handed (bow in the right hand)")
    draw = MeasureField("length", low=0.25, high=1.1, label="Draw length")
    draw_ruler = forms.ChoiceField(
        choices=DRAW_RULER_CHOICES,
        label="Measured",
        help_text="which ruler the number was taken with",
    )
    weight = MeasureField(
        "weight", low=5 * POUND_FORCE, high=200 * POUND_FORCE, label="Wanted weight at that draw"
    )
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


class GearForm(MeasuredForm):
    """A rope, pulley, hook, scale or tree with its rated load."""

    name = forms.CharField(max_length=80)
    kind = forms.ChoiceField(choices=[(k, k) for k in Gear.KINDS])
    rating = MeasureField(
        "weight",
        low=10.0,
        high=20000.0,
        label="Rated load",
        help_text="working load, not breaking load",
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


class WorkshopForm(MeasuredForm):
    """The shop's air, paper and habits."""

    name = forms.CharField(max_length=80, label="Name of the shop")
    air_celsius = MeasureField("temperature", low=-20, high=60, label="Air temperature")
    air_humidity = PercentField(high=1.0, label="Relative humidity")
    denominator = forms.TypedChoiceField(
        choices=[(16, "1/16 in"), (32, "1/32 in")], coerce=int, label="Finest fraction written"
    )
    paper = forms.ChoiceField(choices=[("A4", "A4"), ("Letter", "Letter")])
    finishing_loss = PercentField(
        high=0.3,
        label="Weight lost in finishing",
        help_text="sanding and rounding after the last tiller check",
    )
    shooting_loss = PercentField(high=0.3, label="Weight lost in shooting in")

    FIELDS = ("name", "denominator", "paper", "air_humidity", "finishing_loss", "shooting_loss")

    def save(self, workshop: Workshop) -> None:
        """Write the form into the shop."""
        for name in self.FIELDS:
            setattr(workshop, name, self.cleaned_data[name])
        workshop.air_celsius = self.given("air_celsius")
        workshop.save()

    @classmethod
    def initial_of(cls, workshop: Workshop) -> dict[str, Any]:
        """Values of the shop for editing."""
        values = {name: getattr(workshop, name) for name in cls.FIELDS} | {
            "air_celsius": workshop.air_celsius
        }
        for name in ("air_humidity", "finishing_loss", "shooting_loss"):
            values[name] = f"{values[name] * 100:g}"
        return values
