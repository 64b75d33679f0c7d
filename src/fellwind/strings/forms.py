"""The string form."""

from django import forms

from bowyery import materials
from bowyery.strings import KINDS
from bowyery.units import GRAIN
from fellwind.strings.models import BowString
from fellwind.workshop.measures import MeasuredForm, MeasureField


class StringForm(MeasuredForm):
    """A string for a build: what it is made of, and what was measured when it was done."""

    role = forms.ChoiceField(choices=[("working", "working string"), ("spare", "its spare")])
    kind = forms.ChoiceField(
        choices=[(k, k) for k in KINDS], help_text="a continuous loop needs a jig; a laid twist can be adjusted"
    )
    fibre = forms.ChoiceField(label="Thread")
    strands = forms.IntegerField(
        min_value=4, max_value=400, required=False, help_text="your own even number; empty: what strength asks for"
    )
    brace_height = MeasureField("length", low=0.04, high=0.3, label="Brace height wanted")
    measured_length = MeasureField("length", low=0.4, high=2.8, required=False, label="Length as measured, under load")
    measured_mass = MeasureField("mass", low=5 * GRAIN, high=3000 * GRAIN, required=False, label="Mass as weighed")
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    def __init__(self, *args: object, **kwargs: object) -> None:
        self.declared_fields["fibre"].choices = [(f, f) for f in materials.fibres()]
        super().__init__(*args, **kwargs)

    def clean_strands(self) -> int | None:
        strands = self.cleaned_data["strands"]
        if strands and strands % 2:
            raise forms.ValidationError("Both kinds of string have an even number of strands.")
        return strands

    def save(self, string: BowString) -> BowString:
        """Write the form into a string."""
        for name in ("role", "kind", "fibre", "strands", "notes"):
            setattr(string, name, self.cleaned_data[name])
        string.brace_height = self.cleaned_data["brace_height"].value
        for name in ("measured_length", "measured_mass"):
            setattr(string, name, self.value(name))
            setattr(string, f"{name}_text", self.text(name))
        string.save()
        return string

    @staticmethod
    def initial_of(string: BowString) -> dict[str, object]:
        """Values of a string for editing."""
        names = ("role", "kind", "fibre", "strands", "brace_height", "measured_length", "measured_mass", "notes")
        return {name: getattr(string, name) for name in names}
