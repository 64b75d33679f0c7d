"""The photograph's form, the places that are tapped or put right, and what is kept of it."""

from __future__ import annotations

import json
import math
from typing import Any

from django import forms

from bowyery.sight.trace import TAPS
from bowyery.units.quantity import Units
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.kit.photo_forms import BenchCameraForm

STATES = [
    ("drawn", "drawn on the tree"), ("braced", "braced"), ("unstrung", "unstrung"),
]  # fmt: skip


class SightForm(BenchCameraForm):
    """A photograph of the bow on its wall, and what it was read with."""

    state = forms.ChoiceField(choices=STATES, label="The bow is", initial="drawn")
    weight = MeasureField(
        "draw weight", required=False, label="Weight on the scale",
        help_text="of a drawn bow, if it was read",
    )  # fmt: skip


def _spots(text: str) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        raise forms.ValidationError("These places could not be read; load the page anew.") from None


def _spot(given: Any) -> tuple[float, float]:
    good = isinstance(given, list) and len(given) == 2
    if not good or not all(
        isinstance(v, int | float) and not isinstance(v, bool) and math.isfinite(v) for v in given
    ):
        raise forms.ValidationError("These places could not be read; load the page anew.")
    return float(given[0]), float(given[1])


class TapsForm(forms.Form):
    """Five places that were tapped on a photograph."""

    taps = forms.CharField(max_length=1000, widget=forms.HiddenInput)
    NAMES: tuple[str, ...] = TAPS

    def clean_taps(self) -> list[tuple[float, float]]:
        given = _spots(self.cleaned_data["taps"])
        if not isinstance(given, list) or len(given) != len(self.NAMES):
            raise forms.ValidationError(f"Put a ring on each: {', '.join(self.NAMES)}.")
        return [_spot(one) for one in given]


class EndsForm(TapsForm):
    """Both ends of a stave on its photograph."""

    NAMES = ("left end", "right end")


class KeepForm(MeasuredForm):
    """What a photograph shows, as it is kept: places put right, draw and weight read beside."""

    moved = forms.CharField(max_length=4000, required=False, widget=forms.HiddenInput)
    weight = MeasureField("draw weight", required=False, label="Weight on the scale")
    draw = MeasureField("draw", required=False, label="Draw read on the tree")

    def __init__(self, *args: Any, state: str, known: bool, shown: Units, **kwargs: Any) -> None:
        super().__init__(*args, shown=shown, auto_id="keep_%s", **kwargs)
        if state != "drawn":
            del self.fields["weight"], self.fields["draw"]
        elif known:
            self.fields["draw"].help_text = "empty: as the picture shows it"
        else:
            self.fields["draw"].required = True
            self.fields["draw"].error_messages["required"] = (
                "How far it was drawn, the picture does not tell; read it off the tree."
            )

    def clean_moved(self) -> dict[int, tuple[float, float]]:
        text = self.cleaned_data["moved"]
        given = _spots(text) if text else {}
        if not isinstance(given, dict) or not all(key.isdecimal() for key in given):
            raise forms.ValidationError("These places could not be read; load the page anew.")
        return {int(key): _spot(one) for key, one in given.items()}
