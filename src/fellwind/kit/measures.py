"""Measures on the way in: form fields that read as makers write, in the world of their page."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.utils import timezone

from bowyery.errors import UnreadableError
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import IMPERIAL, METRIC, MOISTURE, QUANTITIES, Quantity, Units, World
from fellwind.kit.sound import odd_signs


def convert(text: str, kind: str, before: World, after: Units) -> str:
    """Write what was typed for one world as it would be typed in another; unreadable text stays."""
    quantity = QUANTITIES.get(kind)
    if quantity is None:
        return text
    try:
        return quantity.bare(quantity.read(text, before), after)
    except UnreadableError:
        return text


@dataclass(frozen=True)
class Measured:
    """What was typed and what it is in SI."""

    text: str
    value: float


class MeasureField(forms.CharField):
    """A field for one measure within its bounds, a key of BOUNDS; the form gives the world."""

    def __init__(self, what: str, **kwargs: Any) -> None:
        self.bound, self.unit = BOUNDS[what], ""
        self.world: World = IMPERIAL
        super().__init__(max_length=40, **kwargs)
        self.widget.attrs |= {
            "data-quantity": self.bound.quantity,
            "autocomplete": "off",
            "inputmode": "text",
            "class": "form-control",
        }

    @property
    def quantity(self) -> Quantity:
        """What it measures."""
        return QUANTITIES[self.bound.quantity]

    def clean(self, value: Any) -> Measured | None:
        """What was typed with its SI value, or None where it was left empty."""
        text = super().clean(value)
        if not text:
            return None
        try:
            si = self.quantity.read(text, self.world)
        except UnreadableError as error:
            raise forms.ValidationError(str(error)) from None
        if not self.bound.holds(si):
            possible = self.bound.words(Units(self.world))
            raise forms.ValidationError(f"“{text}” is outside what is possible here: {possible}.")
        return Measured(text, si)


class MeasuredForm(forms.Form):
    """A form whose measures are read in the world the page was written in, even if that has changed
    since.
    """

    typed = False  # its values are what somebody typed, sent back
    page_world = forms.ChoiceField(
        choices=[(IMPERIAL, IMPERIAL), (METRIC, METRIC)], widget=forms.HiddenInput, required=False
    )

    def __init__(self, *args: Any, shown: Units, **kwargs: Any) -> None:
        self.shown = shown
        super().__init__(*args, **kwargs)
        given = self.data.get(self.add_prefix("page_world")) if self.is_bound else None
        world: World = given if given in (IMPERIAL, METRIC) else shown.world
        self.reads_in = world
        self.fields["page_world"].initial = shown.world
        for name, field in self.fields.items():
            if isinstance(field, MeasureField):
                self._in_world(name, field)
            elif isinstance(field.widget, forms.Select):
                field.widget.attrs["class"] = "form-select"
            elif isinstance(field.widget, forms.CheckboxInput):
                field.widget.attrs["class"] = "form-check-input"
            elif not isinstance(field.widget, forms.HiddenInput | forms.RadioSelect):
                field.widget.attrs.setdefault("class", "form-control")

    def _in_world(self, name: str, field: MeasureField) -> None:
        field.world = self.reads_in
        field.unit = field.quantity.sign(self.reads_in)
        initial = self.initial.get(name, field.initial)
        if isinstance(initial, float | int):
            self.initial[name] = field.quantity.bare(float(initial), self.shown)

    def add(self, name: str, bound: str, label: str, required: bool = True) -> MeasureField:
        """Give the form one more measure within a key of BOUNDS."""
        field = MeasureField(bound, label=label, required=required)
        field.widget.attrs["aria-label"] = label
        self.fields[name] = field
        self._in_world(name, field)
        return field

    def clean(self) -> dict[str, Any]:
        """What was read, for forms that look at several fields together."""
        super().clean()
        return self.cleaned_data

    def full_clean(self) -> None:
        """Validate, and tie each wrong field to its sentence for screen readers."""
        super().full_clean()
        for name, value in getattr(self, "cleaned_data", {}).copy().items():
            field = self.fields.get(name)
            several = forms.Textarea | forms.HiddenInput  # what is carried along may be whole files
            one_line = field is not None and not isinstance(field.widget, several)
            if one_line and isinstance(value, str) and odd_signs(value):
                self.add_error(name, "It holds a line break or a sign that has no place here.")
        self.mark_faults()

    def mark_faults(self) -> None:
        """Tie each wrong field to its sentence."""
        for name in self.errors:
            if name in self.fields:
                attrs = self.fields[name].widget.attrs
                attrs["class"] = attrs.get("class", "").removesuffix(" is-invalid") + " is-invalid"
                attrs["aria-invalid"] = "true"
                attrs.setdefault("aria-describedby", f"{self[name].id_for_label}-error")

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

    def given(self, name: str) -> float:
        """SI value of a measure that cannot be left empty."""
        measured: Measured = self.cleaned_data[name]
        return measured.value

    def text(self, name: str) -> str:
        """What was typed, with the unit when it was a bare number, so that it reads the same for
        ever.
        """
        measured = self.cleaned_data.get(name)
        if measured is None:
            return ""
        return (
            measured.text
            if not _bare_number(measured.text)
            else f"{measured.text} {self.unit_of(name)}"
        )

    def unit_of(self, name: str) -> str:
        """The unit that bare figures of a field are in."""
        field = self.fields[name]
        return field.unit if isinstance(field, MeasureField) else ""


def _bare_number(text: str) -> bool:
    return all(character in "0123456789 ./,-½¼¾⅛⅜⅝⅞" for character in text)


def hours_words(hours: float) -> str:
    """Hours as makers say them: minutes, hours, days or weeks."""
    if hours < 2:
        return f"{round(hours * 60 / 5) * 5 or 5} min"
    if hours < 47.5:
        return f"{hours:.0f} h"
    return f"{hours / 24:.0f} days" if hours < 24 * 21 else f"{hours / 168:.0f} weeks"


def minutes_words(spent: int) -> str:
    """Minutes as hours and minutes."""
    hours, minutes = divmod(spent, 60)
    if not hours:
        return f"{minutes} min"
    return f"{hours} h {minutes} min" if minutes else f"{hours} h"


class PercentField(forms.CharField):
    """A share written in per cent."""

    def __init__(self, what: str, **kwargs: Any) -> None:
        self.high, self.unit = BOUNDS[what].high, "%"
        super().__init__(max_length=12, **kwargs)

    def clean(self, value: Any) -> float | None:
        """The share, 0 to ``high``; None where it was left empty and may be."""
        text = super().clean(value)
        if not text:
            return None
        try:
            share = MOISTURE.read(text, IMPERIAL)
        except UnreadableError:
            raise forms.ValidationError(
                f"“{text}” is not a percentage; write for example 58."
            ) from None
        if share > self.high:
            raise forms.ValidationError(f"This must be at most {self.high * 100:g} %.")
        return share


class PastDayField(forms.DateField):
    """A day that has come already, today at first."""

    def __init__(self, **kwargs: Any) -> None:
        widget = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
        super().__init__(initial=timezone.localdate, widget=widget, **kwargs)

    def clean(self, value: Any) -> Any:
        """The day."""
        day = super().clean(value)
        if day is not None and day > timezone.localdate():
            raise forms.ValidationError("This day has not come yet.")
        return day
