"""Forms of the first benches: a slice off an end, the length after a cut, calipers, the floor."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

from django import forms
from django.forms import BoundField

from bowyery.bow.bow import SIDES
from bowyery.making.roughing import Still
from bowyery.units.quantity import LENGTH, Units
from fellwind.kit.measures import MeasuredForm, MeasureField


class EntryForm(MeasuredForm):
    """A form whose figures are kept as a pencil line, once for each id."""

    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    PREFIX = "entry"

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs.setdefault("auto_id", f"{self.PREFIX}_%s")  # several forms stand on one page
        kwargs["initial"] = {"client_id": uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        data["client_id"] = data.get("client_id") or uuid4()
        return data

    def line(self) -> str:
        """What was typed, as it would be written with a pencil."""
        raise NotImplementedError


class SliceForm(MeasuredForm):
    """A slice sawn off an end of the stave."""

    end = forms.ChoiceField(
        choices=[("left", "the left end"), ("right", "the right end")], label="A slice off"
    )
    slice = MeasureField("cut off an end", label="So thick, with the saw's cut")
    clean_now = forms.BooleanField(required=False, label="It shows no check any more")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="slice_%s", **kwargs)


class LengthNowForm(EntryForm):
    """The blank from end to end, after a cut."""

    PREFIX = "now"
    length = MeasureField("bow length", label="From end to end now")

    def line(self) -> str:
        """The length as a pencil line."""
        return f"length {self.text('length')}"


class CalipersForm(EntryForm):
    """Thickness at the marks, and width where it was read too; what was not read stays empty."""

    PREFIX = "calipers"

    def __init__(self, *args: Any, rows: tuple[Still, ...], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.places = list(rows)
        for k, row in enumerate(rows):
            where = f"{row.limb} limb, {self.shown.length(row.at)} from the centre"
            for what, bound in (("thick", "thickness at a mark"), ("wide", "width at a mark")):
                field = self.add(f"{what}_{k}", bound, f"{what}, {where}", required=False)
                goal = row.goal if what == "thick" else row.wide
                field.widget.attrs["placeholder"] = field.quantity.bare(goal, self.shown)

    def tables(self) -> list[tuple[str, list[tuple[Still, BoundField, BoundField]]]]:
        """Places of each limb with their two fields."""
        return [
            (
                side,
                [
                    (row, self[f"thick_{k}"], self[f"wide_{k}"])
                    for k, row in enumerate(self.places)
                    if row.limb == side
                ],
            )
            for side in SIDES
        ]

    @property
    def unit(self) -> str:
        """The unit that bare figures are in."""
        return self.unit_of("thick_0")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if not self.errors and not self.line():
            self.add_error(None, "Write at least one thickness or width.")
        return data

    def line(self) -> str:
        """The sizes as a pencil line."""
        parts = []
        for k, row in enumerate(self.places):
            at = LENGTH.bare(row.at, Units(self.reads_in))
            parts += [
                f"{row.limb} {what} {self.text(f'{what}_{k}')} at {at}"
                for what in ("thick", "wide")
                if self.cleaned_data.get(f"{what}_{k}")
            ]
        return "; ".join(parts)


class FloorForm(EntryForm):
    """Each limb pressed against the floor: the weight under its tip, and how far that goes."""

    PREFIX = "floor"
    upper_push = MeasureField("floor push", required=False, label="Upper: on the scale")
    upper_sag = MeasureField("floor sag", required=False, label="bends its tip")
    lower_push = MeasureField("floor push", required=False, label="Lower: on the scale")
    lower_sag = MeasureField("floor sag", required=False, label="bends its tip")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        for side in SIDES:
            push, sag = data.get(f"{side}_push"), data.get(f"{side}_sag")
            if push and not sag and not self.has_error(f"{side}_sag"):
                self.add_error(f"{side}_sag", "Say how far the tip went.")
            if sag and not push and not self.has_error(f"{side}_push"):
                self.add_error(f"{side}_push", "Say what the scale showed.")
        if not self.errors and not self.line():
            self.add_error(None, "Press one limb at least.")
        return data

    def line(self) -> str:
        """The floor readings as a pencil line."""
        return "; ".join(
            f"{side} floor {self.text(f'{side}_push')} sags {self.text(f'{side}_sag')}"
            for side in SIDES
            if self.cleaned_data.get(f"{side}_push") and self.cleaned_data.get(f"{side}_sag")
        )
