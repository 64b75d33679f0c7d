"""Forms of the wood rack."""

from django import forms
from django.utils import timezone

from fellwind.designs.forms import material_choices
from fellwind.staves.models import Stave, Weighing
from fellwind.workshop.measures import MeasuredForm, MeasureField


class StaveForm(MeasuredForm):
    """A stave as it stands in the rack."""

    kind = forms.ChoiceField(choices=Stave.KINDS)
    material = forms.ChoiceField(label="Wood")
    length = MeasureField("length", low=0.3, high=6.0)
    width = MeasureField("length", low=0.005, high=0.6)
    depth = MeasureField("length", low=0.002, high=0.4)
    acquired = forms.DateField(
        initial=timezone.localdate,
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        label="In the rack since",
    )
    moisture = MeasureField("moisture", low=0.0, high=2.0, required=False, label="Meter reading")
    reflex = MeasureField(
        "length", low=-0.3, high=0.3, initial=0.0, label="Natural reflex of the ends", help_text="deflex below zero"
    )
    modulus = MeasureField(
        "modulus",
        low=1e9,
        high=6e10,
        required=False,
        label="Own modulus",
        help_text="from a bend test, at 12 %; empty: the book's",
    )
    rupture = MeasureField("stress", low=1e7, high=2e9, required=False, label="Own modulus of rupture")
    density = MeasureField("density", low=200, high=2500, required=False, label="Own density")
    notes = forms.CharField(
        required=False, widget=forms.Textarea(attrs={"rows": 2}), help_text="where from, knots, checks, twist"
    )

    MEASURED = ("length", "width", "depth")
    PLAIN = ("kind", "material", "acquired", "notes")
    OPTIONAL = ("moisture", "modulus", "rupture", "density")

    def __init__(self, *args: object, **kwargs: object) -> None:
        self.declared_fields["material"].choices = material_choices()
        super().__init__(*args, **kwargs)

    def clean_acquired(self) -> object:
        day = self.cleaned_data["acquired"]
        if day > timezone.localdate():
            raise forms.ValidationError("This day has not come yet.")
        return day

    def save(self, stave: Stave) -> Stave:
        """Write the form into a stave."""
        for name in self.MEASURED:
            setattr(stave, name, self.value(name))
            setattr(stave, f"{name}_text", self.text(name))
        for name in self.PLAIN:
            setattr(stave, name, self.cleaned_data[name])
        for name in self.OPTIONAL:
            setattr(stave, name, self.value(name))
        stave.reflex = self.value("reflex") or 0.0
        stave.save()
        return stave

    @classmethod
    def initial_of(cls, stave: Stave) -> dict[str, object]:
        """Values of a stave for editing."""
        return {name: getattr(stave, name) for name in (*cls.MEASURED, *cls.PLAIN, *cls.OPTIONAL, "reflex")}


class WeighingForm(MeasuredForm):
    """One weighing. ``corrects`` names the weighing it puts right."""

    mass = MeasureField("bulk mass", low=0.01, high=100.0, label="On the scale")
    day = forms.DateField(initial=timezone.localdate, widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"))
    client_id = forms.UUIDField(widget=forms.HiddenInput)
    corrects = forms.ModelChoiceField(Weighing.objects.none(), required=False, widget=forms.HiddenInput)

    def __init__(self, *args: object, stave: Stave, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.stave = stave
        self.fields["corrects"].queryset = stave.weighings.filter(corrected_by=None)

    def clean_day(self) -> object:
        day = self.cleaned_data["day"]
        if day > timezone.localdate():
            raise forms.ValidationError("This day has not come yet.")
        return day

    def clean(self) -> dict[str, object]:
        data = super().clean()
        same = self.stave.weighings.filter(corrected_by=None, day=data.get("day")).exclude(
            pk=data["corrects"].pk if data.get("corrects") else None
        ).exclude(client_id=data.get("client_id"))  # fmt: skip
        if data.get("day") and same.exists():
            self.add_error("day", "It was weighed on that day already; correct that weighing instead.")
        return data
