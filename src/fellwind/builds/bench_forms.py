"""Forms of the first benches: a slice off an end, the length after a cut, calipers, the floor."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django import forms
from django.forms import BoundField

from bowyery.bow.bow import SIDES
from bowyery.making.roughing import Still
from bowyery.units.quantity import LENGTH, Units
from fellwind.builds.lined import LinedForm
from fellwind.kit.measures import MeasuredForm, MeasureField


class EntryForm(LinedForm):
    """A form of a bench, of which several stand on one page."""

    PREFIX = "entry"

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": f"{self.PREFIX}_%s"} | kwargs)


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

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """The length."""
        if self.cleaned_data.get("length"):
            yield "length", f"length {self.text('length')}"


class CalipersForm(EntryForm):
    """Thickness at the marks, and width where it was read too; what was not read stays empty."""

    PREFIX = "calipers"
    NOTHING = "Write at least one thickness or width."

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

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """The sizes, place by place."""
        for k, row in enumerate(self.places):
            at = LENGTH.bare(row.at, Units(self.reads_in))
            for what in ("thick", "wide"):
                if self.cleaned_data.get(f"{what}_{k}"):
                    text = self.text(f"{what}_{k}")
                    yield f"{what}_{k}", f"{row.limb} {what} {text} at {at}"


class FloorForm(EntryForm):
    """Each limb pressed against the floor: the weight under its tip, and how far that goes."""

    PREFIX = "floor"
    NOTHING = "Press one limb at least."
    upper_push = MeasureField("floor push", required=False, label="Upper: on the scale")
    upper_sag = MeasureField("floor sag", required=False, label="bends its tip")
    lower_push = MeasureField("floor push", required=False, label="Lower: on the scale")
    lower_sag = MeasureField("floor sag", required=False, label="bends its tip")

    def look(self) -> None:
        """A push says nothing without its sag."""
        data = self.cleaned_data
        for side in SIDES:
            push, sag = data.get(f"{side}_push"), data.get(f"{side}_sag")
            if push and not sag:
                self.want(f"{side}_sag", "Say how far the tip went.")
            if sag and not push:
                self.want(f"{side}_push", "Say what the scale showed.")

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """The floor readings."""
        for side in SIDES:
            push, sag = self.text(f"{side}_push"), self.text(f"{side}_sag")
            if push and sag:
                yield f"{side}_push", f"{side} floor {push} sags {sag}"
