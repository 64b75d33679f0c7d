"""Measures on the way in and out: form fields that read as makers write, and one writer per unit world."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from django import forms

from bowyery import units
from bowyery.errors import UnreadableError
from bowyery.units import IMPERIAL, METRIC, Quantity, World

RULER_WORDS = {"pivot": "to the grip", "trade": "trade", "back": "to the back"}


@dataclass(frozen=True)
class Units:
    """How one person reads and writes: the world and the finest fraction."""

    world: World = IMPERIAL
    denominator: int = 16

    @cached_property
    def label(self) -> str:
        return "in · lb" if self.world == IMPERIAL else "mm · kg"

    @cached_property
    def imperial(self) -> bool:
        return self.world == IMPERIAL

    def length(self, metres: float) -> str:
        return units.write_length(metres, self.world, self.denominator)

    def bare_length(self, metres: float) -> str:
        return units.write_length(metres, self.world, self.denominator, unit=False)

    def thickness(self, metres: float) -> str:
        return units.write_thickness(metres, self.world)

    def shaving(self, metres: float) -> str:
        """A thickness to take off: thousandths of an inch or hundredths of a millimetre."""
        return f"{metres / units.INCH:.3f} in" if self.imperial else f"{metres * 1000:.2f} mm"

    def fine_length(self, metres: float) -> str:
        """A small gap: 64ths of an inch or tenths of a millimetre."""
        return units.write_length(metres, self.world, 64) if self.imperial else f"{metres * 1000:.1f} mm"

    def weight(self, newtons: float) -> str:
        return units.write_weight(newtons, self.world)

    def fine_weight(self, newtons: float) -> str:
        return units.write_weight(newtons, self.world, 1)

    def bare_weight(self, newtons: float) -> str:
        return units.write_weight(newtons, self.world, unit=False)

    def mass(self, kilograms: float) -> str:
        return units.write_mass(kilograms, self.world)

    def bulk_mass(self, kilograms: float) -> str:
        return units.write_bulk_mass(kilograms, self.world)

    def speed(self, metres_per_second: float) -> str:
        return units.write_speed(metres_per_second, self.world)

    def temperature(self, celsius: float) -> str:
        return units.write_temperature(celsius, self.world)

    def modulus(self, pascals: float) -> str:
        return units.write_modulus(pascals, self.world)

    def stress(self, pascals: float) -> str:
        return units.write_stress(pascals, self.world)

    def density(self, kg_per_m3: float) -> str:
        return units.write_density(kg_per_m3, self.world)

    def energy(self, joules: float) -> str:
        """Stored energy: foot-pounds or joules."""
        return f"{joules / (units.FOOT * units.POUND_FORCE):.1f} ft·lb" if self.imperial else f"{joules:.1f} J"


WRITERS: dict[str, Callable[[Units, float], str]] = {
    units.LENGTH.name: lambda u, v: units.write_length(v, u.world, 64 if u.imperial else 32, plain=True, unit=False),
    units.WEIGHT.name: lambda u, v: units.write_weight(v, u.world, 1, unit=False),
    units.MASS.name: lambda u, v: units.write_mass(v, u.world, unit=False),
    units.SPEED.name: lambda u, v: units.write_speed(v, u.world, unit=False),
    units.MOISTURE.name: lambda u, v: f"{v * 100:.1f}",
    units.MODULUS.name: lambda u, v: units.write_modulus(v, u.world).split()[0],
    units.STRESS.name: lambda u, v: units.write_stress(v, u.world).split()[0],
    units.DENSITY.name: lambda u, v: units.write_density(v, u.world).split()[0],
}
QUANTITIES: dict[str, Quantity] = {
    "length": units.LENGTH,
    "weight": units.WEIGHT,
    "mass": units.MASS,
    "bulk mass": units.BULK_MASS,
    "speed": units.SPEED,
    "moisture": units.MOISTURE,
    "modulus": units.MODULUS,
    "stress": units.STRESS,
    "density": units.DENSITY,
}


def bare(quantity: Quantity, value: float, shown: Units) -> str:
    """Write a value as a bare number in the person's unit, as it would be typed."""
    if quantity is units.BULK_MASS:
        return units.write_bulk_mass(value, shown.world, unit=False)
    return WRITERS[quantity.name](shown, value)


def convert(text: str, kind: str, before: World, after: Units) -> str:
    """Write what was typed for one world as it would be typed in another; unreadable text stays as it is."""
    try:
        if kind == "temperature":
            celsius = units.read_temperature(text, before)
            return units.write_temperature(celsius, after.world).split()[0]
        quantity = QUANTITIES[kind]
        return bare(quantity, units.read(text, quantity, before), after)
    except (UnreadableError, KeyError):
        return text


@dataclass(frozen=True)
class Measured:
    """What was typed and what it is in SI."""

    text: str
    value: float


class MeasureField(forms.CharField):
    """A field for one measure. ``low`` and ``high`` bound its SI value; the form gives the world."""

    def __init__(self, kind: str, *, low: float | None = None, high: float | None = None, **kwargs: object) -> None:
        self.kind, self.low, self.high, self.world = kind, low, high, IMPERIAL
        super().__init__(max_length=40, **kwargs)
        self.widget.attrs |= {
            "data-quantity": kind,
            "autocomplete": "off",
            "inputmode": "text",
            "class": "form-control",
        }

    @property
    def quantity(self) -> Quantity:
        return QUANTITIES[self.kind]

    def clean(self, value: str) -> Measured | None:
        text = super().clean(value)
        if not text:
            return None
        try:
            if self.kind == "temperature":
                si = units.read_temperature(text, self.world)
            else:
                si = units.read(text, self.quantity, self.world)
        except UnreadableError as error:
            raise forms.ValidationError(str(error)) from None
        if (self.low is not None and si < self.low) or (self.high is not None and si > self.high):
            raise forms.ValidationError(f"“{text}” is outside what is possible here: {self._bounds()}.")
        return Measured(text, si)

    def _bounds(self) -> str:
        shown = Units(self.world)
        ends = []
        for word, end in (("at least", self.low), ("at most", self.high)):
            if end is not None:
                unit = "°" if self.kind == "temperature" else self.quantity.sign(self.world)
                text = f"{end:g} °C" if self.kind == "temperature" else f"{bare(self.quantity, end, shown)} {unit}"
                ends.append(f"{word} {text}")
        return ", ".join(ends)


class MeasuredForm(forms.Form):
    """A form whose measures are read in the world the page was written in, even if that has changed since."""

    typed = False  # its values are what somebody typed, sent back
    page_world = forms.ChoiceField(choices=[(IMPERIAL, IMPERIAL), (METRIC, METRIC)], widget=forms.HiddenInput, required=False)

    def __init__(self, *args: object, shown: Units, **kwargs: object) -> None:
        self.shown = shown
        super().__init__(*args, **kwargs)
        given = self.data.get(self.add_prefix("page_world")) if self.is_bound else None
        world: World = given if given in (IMPERIAL, METRIC) else shown.world
        self.fields["page_world"].initial = shown.world
        for name, field in self.fields.items():
            if isinstance(field, MeasureField):
                field.world = world
                field.unit = "°F" if field.kind == "temperature" and world == IMPERIAL else (
                    "°C" if field.kind == "temperature" else field.quantity.sign(world)
                )  # fmt: skip
                initial = self.initial.get(name, field.initial)
                if isinstance(initial, float | int):
                    if field.kind == "temperature":
                        self.initial[name] = units.write_temperature(initial, shown.world).split()[0]
                    else:
                        self.initial[name] = bare(field.quantity, float(initial), shown)
            elif isinstance(field.widget, forms.Select):
                field.widget.attrs["class"] = "form-select"
            elif isinstance(field.widget, forms.CheckboxInput):
                field.widget.attrs["class"] = "form-check-input"
            elif not isinstance(field.widget, forms.HiddenInput | forms.RadioSelect):
                field.widget.attrs.setdefault("class", "form-control")

    def full_clean(self) -> None:
        """Validate, and tie each wrong field to its sentence for screen readers."""
        super().full_clean()
        for name in self._errors:
            if name in self.fields:
                attrs = self.fields[name].widget.attrs
                attrs["class"] = attrs.get("class", "") + " is-invalid"
                attrs["aria-invalid"] = "true"
                attrs["aria-describedby"] = f"{self[name].id_for_label}-error"

    def faults(self) -> list[str]:
        """What is wrong, each with the name of its field."""
        return [
            f"{self[name].label}: {error}" if name in self.fields else str(error)
            for name, errors in self.errors.items()
            for error in errors
        ]

    def value(self, name: str) -> float | None:
        """SI value of a measure, or None when it was left empty."""
        measured = self.cleaned_data.get(name)
        return None if measured is None else measured.value

    def text(self, name: str) -> str:
        """What was typed, with the unit when it was a bare number, so that it reads the same for ever."""
        measured = self.cleaned_data.get(name)
        if measured is None:
            return ""
        return measured.text if not _bare_number(measured.text) else f"{measured.text} {self.fields[name].unit}"


def _bare_number(text: str) -> bool:
    return all(character in "0123456789 ./,-½¼¾⅛⅜⅝⅞" for character in text)


def to_pivot(draw: float, ruler: str, handle_depth: float) -> float:
    """Turn a draw given on one of the three rulers into the draw to the pivot (m)."""
    return draw - {"pivot": 0.0, "trade": units.TRADE_ALLOWANCE, "back": handle_depth}[ruler]


def on_rulers(draw: float, handle_depth: float) -> dict[str, float]:
    """A draw to the pivot on all three rulers (m)."""
    return {"pivot": draw, "trade": draw + units.TRADE_ALLOWANCE, "back": draw + handle_depth}
