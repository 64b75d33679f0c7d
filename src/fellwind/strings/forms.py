"""The string form."""

from typing import Any

from django import forms

from bowyery.strings.plan import KINDS
from fellwind.builds.models import Build
from fellwind.kit.fields import CountField, choose
from fellwind.kit.measures import MeasureField
from fellwind.kit.versions import VersionedForm
from fellwind.shop import book
from fellwind.strings.models import BowString

USUAL_STRING_FIBRE = "linen"


class StringForm(VersionedForm):
    """A string for a build: what it is made of, and what was measured when it was done."""

    role = forms.ChoiceField(choices=[("working", "working string"), ("spare", "its spare")])
    kind = forms.ChoiceField(
        choices=[(k, k) for k in KINDS],
        help_text="a continuous loop needs a jig; a laid twist can be adjusted",
    )
    fibre = forms.ChoiceField(label="Thread")
    strands = CountField(
        "strands", required=False, help_text="your own even number; empty: what strength asks for"
    )
    brace_height = MeasureField("brace height", label="Brace height wanted")
    measured_length = MeasureField(
        "string length", required=False, label="Length as measured, under load"
    )
    measured_mass = MeasureField("string mass", required=False, label="Mass as weighed")
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choose(self, ((fibre, fibre) for fibre in book.shelf().fibres), "fibre")

    def clean_strands(self) -> int | None:
        strands: int | None = self.cleaned_data["strands"]
        if strands and strands % 2:
            raise forms.ValidationError("Both kinds of string have an even number of strands.")
        return strands

    def fill(self, string: BowString) -> BowString:
        """Write the form into a string, without saving it."""
        for name in ("role", "kind", "fibre", "strands", "notes"):
            setattr(string, name, self.cleaned_data[name])
        string.brace_height = self.cleaned_data["brace_height"].value
        for name in ("measured_length", "measured_mass"):
            setattr(string, name, self.value(name))
            setattr(string, f"{name}_text", self.text(name))
        return string

    @staticmethod
    def initial_for(build: Build) -> dict[str, Any]:
        """Values of a string that is not planned yet."""
        return {"brace_height": build.design.brace_height, "fibre": USUAL_STRING_FIBRE}

    @staticmethod
    def initial_of(string: BowString) -> dict[str, Any]:
        """Values of a string for editing."""
        names = (
            "role",
            "kind",
            "fibre",
            "strands",
            "brace_height",
            "measured_length",
            "measured_mass",
            "notes",
        )
        return {name: getattr(string, name) for name in names}
