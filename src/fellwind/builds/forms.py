"""Forms of a build."""

from uuid import uuid4

from django import forms
from django.utils import timezone

from bowyery.errors import UnreadableError
from bowyery.units import GRAIN
from fellwind.builds import bench
from fellwind.builds.models import Build, Entry
from fellwind.designs.models import Design
from fellwind.staves.models import Stave
from fellwind.workshop.measures import MeasuredForm, MeasureField
from fellwind.workshop.models import RULERS


class BuildForm(MeasuredForm):
    """Start a build."""

    name = forms.CharField(max_length=80, label="Name of the bow")
    design = forms.ModelChoiceField(Design.objects.all(), empty_label=None)
    stave = forms.ModelChoiceField(Stave.objects.all(), required=False, empty_label="as the design says")
    school = forms.ChoiceField(
        choices=[
            ("W", "W: never past the wanted weight, let the draw grow"),
            ("D", "D: inch by inch, never on before the shape is right"),
        ],
        label="Tiller school",
        help_text="W is the default: an unfinished limb then never bears more than the finished bow will",
    )
    beginner = forms.BooleanField(
        required=False, label="First bows: stay under three quarters of the weight until the first full brace"
    )
    ruler = forms.ChoiceField(choices=list(RULERS.items()), label="Draws on the tree are measured")


class LineForm(forms.Form):
    """A pencil line for a build, to be said back or kept."""

    line = forms.CharField(max_length=1000, strip=True)
    client_id = forms.UUIDField(required=False)
    page_world = forms.ChoiceField(choices=[("imperial", ""), ("metric", "")])
    corrects = forms.ModelChoiceField(Entry.objects.none(), required=False)

    def __init__(self, *args: object, build: Build, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.build = build
        self.statements: tuple[object, ...] = ()
        self.fields["corrects"].queryset = build.entries.filter(corrected_by=None)

    def clean(self) -> dict[str, object]:
        data = super().clean()
        data["client_id"] = data.get("client_id") or uuid4()
        if data.get("line") and data.get("page_world"):
            try:
                self.statements = bench.read_line(self.build, data["line"], data["page_world"])
            except UnreadableError as error:
                self.add_error("line", str(error))
        return data


class ReadingForm(MeasuredForm):
    """A tiller check by form; it becomes the same line as a maker would write."""

    weight = MeasureField("weight", low=1.0, high=1000.0, required=False, label="Weight on the scale")
    draw = MeasureField("length", low=0.05, high=1.3, required=False, label="at a draw of")
    upper_gap = MeasureField("length", low=0.01, high=0.4, required=False, label="Gap at upper fade")
    lower_gap = MeasureField("length", low=0.01, high=0.4, required=False, label="Gap at lower fade")
    upper_tip = MeasureField("length", low=-0.3, high=1.0, required=False, label="Upper tip down by")
    lower_tip = MeasureField("length", low=-0.3, high=1.0, required=False, label="Lower tip down by")
    upper_edge = forms.CharField(max_length=300, required=False, label="Upper, under a straight edge",
                                 help_text="gaps and places, such as 3/32 at 12, 1/16 at 18")  # fmt: skip
    lower_edge = forms.CharField(max_length=300, required=False, label="Lower, under a straight edge",
                                 help_text="laid on the belly; places from the centre")  # fmt: skip
    string = forms.ChoiceField(
        choices=[("", "as before"), ("long", "long, slack"), ("low", "low brace"), ("full", "full brace")],
        required=False,
    )
    string_at = MeasureField("length", low=0.01, high=4.0, required=False, label="its brace, or length if long")
    minutes = forms.IntegerField(min_value=1, max_value=24 * 60, required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def clean(self) -> dict[str, object]:
        data = super().clean()
        weight, draw = data.get("weight"), data.get("draw")
        if weight and not draw and "draw" not in self.errors:
            self.add_error("draw", "A weight needs the draw it was read at.")
        if draw and not (weight or data.get("upper_tip") or data.get("lower_tip")) and "weight" not in self.errors:
            self.add_error("weight", "Write the weight, or a tip height, read at that draw.")
        if data.get("string_at") and not data.get("string"):
            self.add_error("string", "Say which string is on.")
        if not self.errors and not self.line():
            self.add_error("weight", "Nothing was read yet: write a weight, a gap or a tip height.")
        return data

    def line(self) -> str:
        """The check as a pencil line, with units."""
        data = self.cleaned_data
        parts = []
        if data.get("string"):
            parts.append(f"string {data['string']} {self.text('string_at')}".strip())
        if data.get("weight") and data.get("draw"):
            parts.append(f"{self.text('weight')} at {self.text('draw')}")
        for limb in ("upper", "lower"):
            if data.get(f"{limb}_gap"):
                parts.append(f"{limb} gap {self.text(f'{limb}_gap')}")
        for limb in ("upper", "lower"):
            if data.get(f"{limb}_tip"):
                at = f" at {self.text('draw')}" if data.get("draw") else ""
                parts.append(f"{limb} tip {self.text(f'{limb}_tip')}{at}")
        for limb in ("upper", "lower"):
            if data.get(f"{limb}_edge", "").strip():
                parts.append(f"{limb} edge {data[f'{limb}_edge'].strip()}")
        if data.get("minutes"):
            parts.append(f"{data['minutes']} min")
        return "; ".join(parts)


class RemovalForm(MeasuredForm):
    """Wood taken, by form."""

    limb = forms.ChoiceField(choices=[("upper", "upper limb"), ("lower", "lower limb"), ("both", "both limbs")])
    thickness = MeasureField("length", low=0.00001, high=0.02, required=False, label="Thickness taken",
                             help_text="as the caliper shows, or count strokes instead")  # fmt: skip
    strokes = forms.IntegerField(min_value=1, max_value=1000, required=False)
    start = MeasureField("length", low=0.0, high=1.3, required=False, label="from (centre)")
    end = MeasureField("length", low=0.0, high=1.3, required=False, label="to (centre)")
    pulls = forms.IntegerField(min_value=1, max_value=500, required=False, label="Short pulls given since")
    minutes = forms.IntegerField(min_value=1, max_value=24 * 60, required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def clean(self) -> dict[str, object]:
        data = super().clean()
        if bool(data.get("thickness")) == bool(data.get("strokes")) and not (self.errors.keys() & {"thickness", "strokes"}):
            self.add_error("thickness", "Give either the thickness taken or the number of strokes.")
        start, end = data.get("start"), data.get("end")
        if bool(start) != bool(end):
            self.add_error("end" if start else "start", "Give both places, or neither for the whole limb.")
        elif start and end and start.value >= end.value:
            self.add_error("end", "This lies nearer the centre than where it starts.")
        return data

    def line(self) -> str:
        """The removal as a pencil line, with units."""
        data = self.cleaned_data
        amount = f"{data['strokes']} strokes" if data.get("strokes") else self.text("thickness")
        where = f" from {self.text('start')} to {self.text('end')}" if data.get("start") else ""
        parts = [f"off {data['limb']} {amount}{where}"]
        parts += [f"{data['pulls']} pulls"] if data.get("pulls") else []
        parts += [f"{data['minutes']} min"] if data.get("minutes") else []
        return "; ".join(parts)


class ProofForm(MeasuredForm):
    """What the finished bow shows."""

    weight = MeasureField("weight", low=1.0, high=1000.0, label="Weight at full draw")
    brace_height = MeasureField("length", low=0.03, high=0.35, label="Brace height")
    mass = MeasureField("bulk mass", low=0.05, high=3.0, label="Mass of the bow, unstrung")
    string_follow = MeasureField("length", low=-0.15, high=0.25, required=False, label="String follow at once",
                                 help_text="below zero: it still lies towards the back")  # fmt: skip
    follow_after = MeasureField("length", low=-0.15, high=0.25, required=False, label="String follow after an hour")
    arrow_mass = MeasureField("mass", low=100 * GRAIN, high=2000 * GRAIN, required=False, label="Arrow")
    arrow_speed = MeasureField("speed", low=10.0, high=120.0, required=False, label="Arrow's speed, mean of several")
    shots = forms.IntegerField(min_value=1, max_value=100000, required=False, label="Shots so far")
    words = forms.CharField(required=False, max_length=200, label="Hand shock and noise, in words")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    KINDS = (
        ("weight", "weight"), ("brace_height", "brace height"), ("mass", "mass"), ("string_follow", "string follow"),
        ("follow_after", "follow after an hour"), ("arrow_mass", "arrow mass"), ("arrow_speed", "arrow speed"),
    )  # fmt: skip

    def clean(self) -> dict[str, object]:
        data = super().clean()
        if bool(data.get("arrow_mass")) != bool(data.get("arrow_speed")):
            missing = "arrow_speed" if data.get("arrow_mass") else "arrow_mass"
            if missing not in self.errors:
                self.add_error(missing, "Speed and arrow belong together; give both or neither.")
        return data

    def line(self) -> str:
        """The proof in one line, with units."""
        parts = [f"{label} {self.text(name)}" for name, label in self.KINDS if self.cleaned_data.get(name)]
        if self.cleaned_data.get("shots"):
            parts.append(f"{self.cleaned_data['shots']} shots")
        if self.cleaned_data.get("words"):
            parts.append(self.cleaned_data["words"])
        return "; ".join(parts)


class WaitForm(forms.Form):
    """Something that rests for a while."""

    what = forms.CharField(max_length=120, widget=forms.TextInput(attrs={"class": "form-control"}))
    until = forms.DateTimeField(
        widget=forms.DateTimeInput(attrs={"type": "datetime-local", "class": "form-control"}, format="%Y-%m-%dT%H:%M"),
        input_formats=["%Y-%m-%dT%H:%M", "%Y-%m-%d %H:%M"],
    )

    def clean_until(self) -> object:
        until = self.cleaned_data["until"]
        if until <= timezone.now():
            raise forms.ValidationError("That time has passed already.")
        return until
