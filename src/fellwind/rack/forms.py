"""Forms of the wood rack."""

from typing import Any

import numpy as np
from django import forms
from django.urls import reverse

from fellwind.kit.fields import NumberField, WholeField, among, choose
from fellwind.kit.measures import MeasuredForm, MeasureField, PastDayField
from fellwind.kit.photo_forms import PhotoFileForm
from fellwind.kit.photos import keep_photo
from fellwind.kit.versions import VersionedForm
from fellwind.people.models import Person
from fellwind.rack.models import Flaw, Photo, Section, Stave, StripTest, Weighing
from fellwind.shop.services import NO_WOOD, material_choices


def _says_something(bound: forms.BoundField) -> bool:
    """Whether a field is wrong, or holds more than what a fresh one does."""
    value = bound.value()
    said = "" if value is None else str(value)
    return bool(bound.errors) or said.strip("0. ") != ""


class StaveForm(VersionedForm):
    """A stave as it stands in the rack."""

    kind = forms.ChoiceField(choices=Stave.KINDS)
    material = forms.ChoiceField(label="Wood")
    length = MeasureField("stave length")
    width = MeasureField("stave width")
    depth = MeasureField("stave depth")
    acquired = PastDayField(label="In the rack since")
    reflex = MeasureField(
        "off a stave's line",
        initial=0.0,
        label="Natural reflex of the ends",
        help_text="deflex below zero",
    )
    modulus = MeasureField(
        "modulus of a wood",
        required=False,
        label="Own modulus",
        help_text="from a bend test, at 12 %; empty: the book's",
    )
    rupture = MeasureField("rupture of a wood", required=False, label="Own modulus of rupture")
    density = MeasureField("density of a wood", required=False, label="Own density")
    bought_at = MeasureField("moisture", required=False, label="Moisture when it came")
    source = forms.CharField(max_length=120, required=False, label="Where from")
    tree = forms.CharField(
        max_length=60, required=False, label="Tree or board",
        help_text="a name, such as the long ash; what one of its staves shows tells of the others",
    )  # fmt: skip
    price = forms.CharField(max_length=40, required=False)
    ring = MeasureField("growth ring", required=False, label="Growth ring, width")
    late_share = WholeField(
        "per cent",
        unit="%",
        required=False,
        label="Late wood in a ring",
        help_text="per cent; dense rings want much of it",
    )
    sapwood = MeasureField(
        "sapwood",
        required=False,
        label="Sapwood, depth below the back",
        help_text="where the bow keeps both",
    )
    drift = MeasureField(
        "drift of the grain",
        required=False,
        label="Grain drifts to the side by",
        help_text="follow one line of the grain",
    )
    drift_over = MeasureField("length of a drift", required=False, label="Over a length of")
    wall = MeasureField("wall of a culm", required=False, label="Wall of the culm")
    cut_left = MeasureField(
        "cut off an end",
        initial=0.0,
        required=False,
        label="Sliced off the left end",
        help_text="slices cut until a clean one came",
    )
    cut_right = MeasureField(
        "cut off an end", initial=0.0, required=False, label="Sliced off the right end"
    )
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    MEASURED = ("length", "width", "depth")
    PLAIN = ("kind", "material", "acquired", "notes", "source", "tree", "price")
    OPTIONAL = (
        "modulus",
        "rupture",
        "density",
        "bought_at",
        "ring",
        "sapwood",
        "drift",
        "drift_over",
        "wall",
    )
    ENDS = ("cut_left", "cut_right")

    # Questions that only some kinds of stock are asked; the others are asked of all.
    _GROWN = ("log split", "sapling")
    ASKED = {
        "ring": (*_GROWN, "board"),
        "late_share": (*_GROWN, "board"),
        "sapwood": _GROWN,
        "drift": ("board", "lamination"),
        "drift_over": ("board", "lamination"),
        "wall": ("bamboo culm", "bamboo slat"),
        "reflex": (*_GROWN, "board", "bamboo culm", "bamboo slat"),
        "cut_left": (*_GROWN, "board", "bamboo culm"),
        "cut_right": (*_GROWN, "board", "bamboo culm"),
        "bought_at": (*_GROWN, "board", "bamboo culm", "bamboo slat", "lamination"),
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choose(self, [NO_WOOD, *material_choices()], "material")
        self.fields["kind"].widget.attrs |= {
            "hx-post": reverse("rack:questions"), "hx-trigger": "change",
            "hx-target": "#questions", "hx-include": "closest form",
        }  # fmt: skip

    FIRST = ("kind", "material", "length", "width", "depth", "acquired", "bought_at")
    FOLDS = (
        ("How it grew", ("reflex", "ring", "late_share", "sapwood", "drift", "drift_over", "wall")),
        ("Its ends", ("cut_left", "cut_right")),
        ("What was measured of its wood", ("modulus", "rupture", "density")),
        ("Where from", ("source", "tree", "price", "notes")),
    )

    def first(self) -> list[forms.BoundField]:
        """What is needed first."""
        return [self[name] for name in self.FIRST if name not in self.unasked]

    def folds(self) -> list[tuple[str, list[forms.BoundField], bool]]:
        """The rest by kind; open where something in it is wrong or was changed."""
        found = []
        for title, names in self.FOLDS:
            asked = [self[name] for name in names if name not in self.unasked]
            if asked:
                found.append((title, asked, any(map(_says_something, asked))))
        return found

    @property
    def unasked(self) -> set[str]:
        """Questions this kind of stock is not asked. They travel along unseen: a change of kind and
        back loses nothing.
        """
        kind, wrong = (
            self["kind"].value() or Stave.KINDS[0][0],
            self.errors if self.is_bound else {},
        )
        return {
            name for name, kinds in self.ASKED.items() if kind not in kinds and name not in wrong
        }

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if bool(data.get("drift")) != bool(data.get("drift_over")):
            missing = "drift_over" if data.get("drift") else "drift"
            if not self.has_error(missing):
                self.add_error(
                    missing, "The grain's drift wants both figures: how far, and over what length."
                )
        length, cuts = data.get("length"), [data.get(name) for name in self.ENDS]
        taken = sum(cut.value for cut in cuts if cut)
        if length and all(cuts) and taken >= length.value:
            self.add_error("cut_left", "So much cut off leaves nothing of the stave.")
        return data

    def save(self, stave: Stave) -> Stave:
        """Write the form into a stave."""
        for name in self.MEASURED:
            setattr(stave, name, self.value(name))
            setattr(stave, f"{name}_text", self.text(name))
        for name in self.PLAIN:
            setattr(stave, name, self.cleaned_data[name])
        for name in self.OPTIONAL:
            setattr(stave, name, self.value(name))
        for name in self.ENDS:
            setattr(stave, name, self.value(name) or 0.0)
        share = self.cleaned_data["late_share"]
        stave.late_share = None if share is None else share / 100
        stave.reflex = self.value("reflex") or 0.0
        stave.save()
        return stave

    @classmethod
    def initial_of(cls, stave: Stave) -> dict[str, Any]:
        """Values of a stave for editing."""
        names = (*cls.MEASURED, *cls.PLAIN, *cls.OPTIONAL, *cls.ENDS, "reflex")
        late = None if stave.late_share is None else round(stave.late_share * 100)
        return {name: getattr(stave, name) for name in names} | {"late_share": late}


class WeighingForm(MeasuredForm):
    """One weighing, or what a meter said, or both. ``corrects`` names the row it puts right."""

    mass = MeasureField("stave mass", required=False, label="On the scale")
    meter = MeasureField(
        "moisture of a meter",
        required=False,
        label="By a meter",
        help_text="corrected for the wood",
    )
    day = PastDayField()
    client_id = forms.UUIDField(widget=forms.HiddenInput)
    corrects = forms.ModelChoiceField(
        Weighing.objects.none(), required=False, widget=forms.HiddenInput
    )

    def __init__(self, *args: Any, stave: Stave, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.stave = stave
        among(self, "corrects", stave.weighings.filter(corrected_by=None))

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if not self.errors and not data.get("mass") and not data.get("meter"):
            self.add_error("mass", "Write down what the scale says, or the meter, or both.")
        day, corrects = data.get("day"), data.get("corrects")
        same = self.stave.weighings.filter(corrected_by=None)
        if corrects:
            same = same.exclude(pk=corrects.pk)
        if data.get("client_id"):
            same = same.exclude(client_id=data["client_id"])
        if day and same.filter(day=day).exists():
            self.add_error(
                "day", "It was weighed on that day already; correct that weighing instead."
            )
        return data


class PhotoForm(PhotoFileForm):
    """A photograph of a stave."""

    caption = forms.CharField(max_length=200, label="What it shows")
    at = MeasureField(
        "along a stave",
        required=False,
        label="Where, from the left end",
        help_text="if it shows one place",
    )
    day = PastDayField(label="Taken")

    def __init__(self, *args: Any, stave: Stave, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.stave = stave

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data.get("at") and data["at"].value > self.stave.length:
            self.add_error("at", "This lies off the stave, which is shorter.")
        return data

    def keep(self, by: Person) -> Photo:
        """Write the files, then the row: a row never points to a file that is not there."""
        data = self.cleaned_data
        name, width, height = keep_photo(data["photo"])
        return Photo.objects.create(
            stave=self.stave,
            name=name,
            width=width,
            height=height,
            caption=data["caption"],
            at=self.value("at"),
            day=data["day"],
            by=by,
        )


class FlawForm(MeasuredForm):
    """A flaw: what, where, how big, how deep. ``flaw`` names the one it takes the place of."""

    kind = forms.ChoiceField(choices=Flaw.KINDS)
    face = forms.ChoiceField(choices=Flaw.FACES, label="On the")
    at = MeasureField("along a stave", label="From the left end")
    off = MeasureField(
        "off a stave's line",
        initial=0.0,
        label="Above the middle",
        help_text="below it: less than zero",
    )
    length = MeasureField("flaw length", initial=0.012, label="Along the stave")
    width = MeasureField("flaw size", initial=0.012, label="Across it")
    depth = MeasureField("flaw size", initial=0.008, label="Deep")
    flaw = forms.ModelChoiceField(Flaw.objects.none(), required=False, widget=forms.HiddenInput)

    SIZES = ("at", "off", "length", "width", "depth")

    def __init__(self, *args: Any, stave: Stave, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="flaw_%s", **kwargs)
        self.stave = stave
        among(self, "flaw", Flaw.objects.filter(stave=stave).standing())
        self.fields["flaw"].error_messages["invalid_choice"] = (
            "Somebody moved or struck this flaw meanwhile; open it again as it is now."
        )

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        at, off = data.get("at"), data.get("off")
        if at and at.value > self.stave.length:
            self.add_error("at", "This lies off the stave, which is shorter.")
        elif at and off and abs(off.value) > self.half_width(at.value):
            self.add_error("off", "This lies beyond the stave's edge there.")
        return data

    def half_width(self, at: float) -> float:
        """Half of the stave's width at a place (m)."""
        rows = [(s.at, s.width) for s in self.stave.sections.all() if s.width and s.stands]
        if not rows:
            return 0.5 * self.stave.width
        places, widths = np.array(rows).T
        return 0.5 * float(np.interp(at, places, widths))

    @classmethod
    def initial_of(cls, flaw: Flaw) -> dict[str, Any]:
        """Values of a flaw for changing it."""
        names = ("kind", "face", *cls.SIZES)
        return {name: getattr(flaw, name) for name in names} | {"flaw": flaw.pk}

    def row(self, by: Person) -> Flaw:
        """A new row, not yet saved."""
        data = self.cleaned_data
        sizes = {name: data[name].value for name in self.SIZES}
        text = ", ".join(f"{name} {self.text(name)}" for name in self.SIZES)
        return Flaw(
            stave=self.stave, kind=data["kind"], face=data["face"], text=text[:120], by=by, **sizes
        )


class SectionForm(MeasuredForm):
    """What was measured across the stave at one place; empty where it was not."""

    at = MeasureField("along a stave", label="From the left end")
    width = MeasureField("width across", required=False)
    depth = MeasureField("stave depth", required=False)
    crown = MeasureField("crown", required=False, label="Radius of the back")
    side = MeasureField(
        "off a stave's line",
        required=False,
        label="Off the string, to the belly",
        help_text="string from end to end along the side",
    )
    sideways = MeasureField(
        "off a stave's line",
        required=False,
        label="Off the string, upwards",
        help_text="seen from the back",
    )
    twist = NumberField(
        "twist", unit="°", required=False, label="Twist", help_text="degrees against the left end"
    )

    SIZES = ("width", "depth", "crown", "side", "sideways")

    def __init__(self, *args: Any, stave: Stave, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="section_%s", **kwargs)
        self.stave = stave

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        at = data.get("at")
        if at and at.value > self.stave.length:
            self.add_error("at", "This lies off the stave, which is shorter.")
        if not self.errors and all(data.get(name) is None for name in (*self.SIZES, "twist")):
            self.add_error("width", "Write down at least one figure at this place.")
        return data

    def row(self, by: Person) -> Section:
        """A new row, not yet saved."""
        data = self.cleaned_data
        text = ", ".join(
            f"{name} {self.text(name)}" for name in ("at", *self.SIZES) if self.text(name)
        )
        if data["twist"] is not None:
            text += f", twist {data['twist']:g}°"
        sizes = {name: self.value(name) for name in ("at", *self.SIZES)}
        return Section(stave=self.stave, twist=data["twist"], text=text[:200], by=by, **sizes)


class StripForm(MeasuredForm):
    """A strip over two supports with a load in its middle."""

    span = MeasureField("span of a strip", label="Between the supports")
    load = MeasureField("load of a strip", label="Hung in the middle")
    sag = MeasureField("sag of a strip", label="Middle goes down by")
    width = MeasureField("strip width", label="Strip, width")
    depth = MeasureField("strip depth", label="Strip, depth")
    length = MeasureField(
        "strip length", required=False, label="Strip, whole length", help_text="for the density"
    )
    mass = MeasureField("strip mass", required=False, label="Strip, on the scale")
    moisture = MeasureField("moisture of a strip", initial=0.09, label="Moisture of the strip")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="strip_%s", **kwargs)

    def row(self, stave: Stave, by: Person) -> StripTest:
        """A new row, not yet saved."""
        names = ("span", "load", "sag", "width", "depth", "length", "mass", "moisture")
        text = ", ".join(f"{name} {self.text(name)}" for name in names if self.text(name))
        return StripTest(
            stave=stave, text=text[:200], by=by, **{name: self.value(name) for name in names}
        )
