"""Forms of a build."""

import re
from datetime import datetime, timedelta
from typing import Any
from uuid import uuid4

from django import forms
from django.utils import timezone

from bowyery.errors import UnreadableError
from bowyery.record.proof import several
from bowyery.tiller.statements import Statement
from bowyery.units.quantity import IMPERIAL, LENGTH, METRIC, WEIGHT, World
from fellwind.builds import log as bench
from fellwind.builds.models import Build, Entry, Wait
from fellwind.designs.models import Design
from fellwind.kit.fields import CountField, among
from fellwind.kit.measures import Measured, MeasuredForm, MeasureField
from fellwind.kit.pages import number_in
from fellwind.people.models import Person
from fellwind.rack.models import Stave
from fellwind.shop.models import DRAW_RULER_CHOICES, Workshop
from fellwind.shop.services import hours_here, rest_table


class BuildForm(MeasuredForm):
    """Start a build."""

    name = forms.CharField(max_length=80, label="Name of the bow")
    design = forms.ModelChoiceField(Design.objects.filter(now=None), empty_label="choose one")
    stave = forms.ModelChoiceField(
        Stave.objects.all(), required=False, empty_label="as the design says"
    )
    school = forms.ChoiceField(
        choices=[
            ("W", "W: never past the wanted weight, let the draw grow"),
            ("D", "D: inch by inch, never on before the shape is right"),
        ],
        label="Tiller school",
        help_text=(
            "W is the default: an unfinished limb then never bears more than the finished bow will"
        ),
    )
    floor = MeasureField(
        "draw weight",
        required=False,
        label="Evening may cost weight down to",
        help_text="finished; empty: the wanted weight, and no wood is spent on evenness alone",
    )
    beginner = forms.BooleanField(
        required=False,
        label="First bows: stay under three quarters of the weight until the first full brace",
    )
    draw_ruler = forms.ChoiceField(
        choices=DRAW_RULER_CHOICES, label="Draws on the tree are measured"
    )

    @staticmethod
    def initial_for(key: str | None) -> dict[str, Any]:
        """Values of a build from a design that was named; nothing where there is none."""
        pk = number_in(key)
        design = None if pk is None else Design.objects.filter(pk=pk).first()
        if design is None:
            return {}
        return {"design": design.pk, "name": design.name, "stave": design.stave_id}


class LineForm(forms.Form):
    """A pencil line for a build, to be said back or kept."""

    line = forms.CharField(max_length=1000, strip=True)
    client_id = forms.UUIDField(required=False)
    page_world = forms.ChoiceField(choices=[("imperial", ""), ("metric", "")])
    corrects = forms.ModelChoiceField(Entry.objects.none(), required=False)

    def __init__(self, *args: Any, build: Build, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.build = build
        self.statements: tuple[Statement, ...] = ()
        among(self, "corrects", build.entries.filter(corrected_by=None))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        data["client_id"] = data.get("client_id") or uuid4()
        if data.get("line") and data.get("page_world"):
            try:
                self.statements = bench.read_line(self.build, data["line"], data["page_world"])
            except UnreadableError as error:
                self.add_error("line", str(error))
        return data

    def trouble(self) -> str:
        """What stands in its way, in one line."""
        return " ".join(str(said) for sentences in self.errors.values() for said in sentences)

    def keep(self, by: Person, at: datetime, corrects: Entry | None = None) -> tuple[Entry, bool]:
        """Keep the line as an entry of when it was written; whether it is new."""
        data = self.cleaned_data
        world = METRIC if data["page_world"] == METRIC else IMPERIAL
        return bench.keep(
            self.build, data["line"], self.statements, world, by, data["client_id"],
            corrects or data["corrects"], at,
        )  # fmt: skip


class SeveralField(MeasureField):
    """Several readings of one measure, with spaces or commas between them."""

    MOST = 24

    def __init__(self, what: str, **kwargs: Any) -> None:
        super().__init__(what, **kwargs)
        self.widget.attrs["data-several"] = "yes"

    def clean(self, value: Any) -> Any:
        """What was typed, one by one."""
        text = " ".join(str(value or "").replace(";", " ").replace(", ", " ").split())
        text = re.sub(r"(?<=\d)\s+(?=(?:fps|ft/s|m/s|mps))", "", text, flags=re.IGNORECASE)
        parts = text.split()
        if len(parts) > self.MOST:
            raise forms.ValidationError(f"At most {self.MOST} at once.")
        if not parts:
            return super().clean("")
        return [super(SeveralField, self).clean(part) for part in parts]


class PullField(forms.CharField):
    """Weights at draws, as of one slow pull: ``12 at 12, 24 at 18``."""

    MOST = 40
    world: World = IMPERIAL

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(max_length=600, **kwargs)

    def clean(self, value: Any) -> Any:
        """Pairs of weight and draw, the draw as it was read."""
        text = super().clean(value)
        if not text:
            return []
        found = []
        rows = re.split(r"[;\n]|,\s+", text)
        if len(rows) > self.MOST:
            raise forms.ValidationError(f"At most {self.MOST} readings at once.")
        for row in rows:
            if not row.strip():
                continue
            weight, at, draw = row.partition(" at ") if " at " in row else row.partition("@")
            if not at:
                raise forms.ValidationError(f"“{row.strip()}” is no weight at a draw: 24 at 18.")
            one, two = (MeasureField(bound) for bound in ("draw weight", "draw"))
            one.world = two.world = self.world
            read, drawn = one.clean(weight.strip()), two.clean(draw.strip())
            if read is None or drawn is None:
                raise forms.ValidationError(f"“{row.strip()}” is no weight at a draw: 24 at 18.")
            found.append((read, drawn))
        draws = [drawn.value for _, drawn in found]
        if sorted(set(draws)) != sorted(draws):
            raise forms.ValidationError("Each draw is read once in a pull.")
        return found


class ProofForm(MeasuredForm):
    """What the finished bow shows."""

    weight = MeasureField("draw weight", label="Weight at full draw")
    brace_height = MeasureField("brace height", label="Brace height")
    mass = MeasureField("bow mass", label="Mass of the bow, unstrung")
    string_follow = MeasureField(
        "string follow",
        required=False,
        label="String follow at once",
        help_text="below zero: it still lies towards the back",
    )
    follow_after = MeasureField(
        "string follow", required=False, label="String follow after an hour"
    )
    arrow_mass = MeasureField("arrow mass", required=False, label="Arrow")
    arrow_speed = SeveralField(
        "arrow speed", required=False, label="Arrow's speed, each shot",
        help_text="one after another, with spaces",
    )  # fmt: skip
    pull = PullField(
        required=False, label="One slow pull",
        help_text="weights at draws, such as 12 at 12, 24 at 18",
    )  # fmt: skip
    follow_day = MeasureField("string follow", required=False, label="and after a day")
    string_length = MeasureField("string length", required=False, label="String, nock to nock")
    group = MeasureField("group", required=False, label="Group of arrows, across")
    distance = MeasureField("distance", required=False, label="at a distance of")
    shots = CountField("shots", required=False, label="Shots so far")
    words = forms.CharField(required=False, max_length=200, label="Hand shock and noise, in words")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        pull = self.fields["pull"]
        assert isinstance(pull, PullField)
        pull.world = self.reads_in

    KINDS = (
        ("weight", "weight"),
        ("brace_height", "brace height"),
        ("mass", "mass"),
        ("string_follow", "string follow"),
        ("follow_after", "follow after an hour"),
        ("follow_day", "follow after a day"),
        ("string_length", "string length"),
        ("group", "group"),
        ("distance", "distance"),
        ("arrow_mass", "arrow mass"),
    )

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if bool(data.get("arrow_mass")) != bool(data.get("arrow_speed")):
            missing = "arrow_speed" if data.get("arrow_mass") else "arrow_mass"
            if missing not in self.errors:
                self.add_error(missing, "Speed and arrow belong together; give both or neither.")
        if bool(data.get("group")) != bool(data.get("distance")):
            missing = "distance" if data.get("group") else "group"
            if missing not in self.errors:
                self.add_error(missing, "A group belongs to its distance; give both or neither.")
        return data

    def figures(self) -> list[tuple[str, float, str]]:
        """Kind, value (SI) and text of every figure that was given."""
        given = [(kind, name) for name, kind in self.KINDS if self.cleaned_data.get(name)]
        rows = [(kind, self.value(name) or 0.0, self.text(name)) for kind, name in given]
        speeds: list[Measured] = self.cleaned_data.get("arrow_speed") or []
        if speeds:
            mean = several([one.value for one in speeds]).mean
            told = ", ".join(one.text for one in speeds) + f" {self.unit_of('arrow_speed')}"
            rows.append(("arrow speed", mean, told[:80]))
            rows += [("shot speed", one.value, one.text) for one in speeds if len(speeds) > 1]
        shots = self.cleaned_data.get("shots")
        return [*rows, ("shots", float(shots), str(shots))] if shots else rows

    def pulls(self) -> list[tuple[Measured, Measured]]:
        """Weight and draw of each reading of the slow pull, the draw as on the build's ruler."""
        return self.cleaned_data.get("pull") or []

    def line(self) -> str:
        """The proof in one line, with units."""
        parts = [
            f"{label} {self.text(name)}"
            for name, label in self.KINDS
            if self.cleaned_data.get(name)
        ]
        if self.cleaned_data.get("arrow_speed"):
            told = ", ".join(one.text for one in self.cleaned_data["arrow_speed"])
            parts.append(f"arrow speed {told} {self.unit_of('arrow_speed')}")
        if self.pulls():
            told = ", ".join(f"{weight.text} at {draw.text}" for weight, draw in self.pulls())
            signs = WEIGHT.sign(self.reads_in), LENGTH.sign(self.reads_in)
            parts.append(f"one pull, {signs[0]} at {signs[1]}: {told}")
        if self.cleaned_data.get("shots"):
            parts.append(f"{self.cleaned_data['shots']} shots")
        if self.cleaned_data.get("words"):
            parts.append(self.cleaned_data["words"])
        return "; ".join(parts)


LONGEST_REST = timedelta(days=5 * 366)


def _moment(**more: Any) -> forms.DateTimeField:
    return forms.DateTimeField(
        widget=forms.DateTimeInput(
            attrs={"type": "datetime-local", "class": "form-control"}, format="%Y-%m-%dT%H:%M"
        ),
        input_formats=["%Y-%m-%dT%H:%M", "%Y-%m-%d %H:%M"],
        **more,
    )


def _to_come(until: datetime) -> datetime:
    if until <= timezone.now():
        raise forms.ValidationError("That time has passed already.")
    if until > timezone.now() + LONGEST_REST:
        raise forms.ValidationError("Nothing rests longer than five years; look at the year.")
    return until


class WaitForm(forms.Form):
    """Something that rests: a kind of rest from the table, or a time of one's own."""

    rest = forms.ChoiceField(
        required=False, label="What rests", widget=forms.Select(attrs={"class": "form-select"})
    )
    what = forms.CharField(
        max_length=120,
        required=False,
        label="in your words",
        widget=forms.TextInput(attrs={"class": "form-control"}),
    )
    after = forms.ModelChoiceField(
        Wait.objects.none(),
        required=False,
        label="begins",
        empty_label="now",
        widget=forms.Select(attrs={"class": "form-select"}),
    )
    until = _moment(required=False, label="until", help_text="empty: as long as it usually takes")

    def __init__(self, *args: Any, build: Build | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.table, self.workshop = rest_table(), Workshop.get()
        names = [(name, name) for name in self.table]
        self.fields["rest"].choices = [("", "something else"), *names]  # type: ignore[attr-defined]
        if build is not None:
            among(self, "after", build.waits.filter(ended=None))

    def clean_until(self) -> datetime | None:
        until = self.cleaned_data["until"]
        return None if until is None else _to_come(until)

    def clean(self) -> dict[str, Any]:
        """When it begins and ends, and for how long it must rest at least."""
        data = super().clean() or {}
        rest = self.table.get(data.get("rest") or "")
        if rest is None and not data.get("what") and not self.errors:
            self.add_error("what", "Say what rests.")
        if rest is None and not data.get("until") and "until" not in self.errors:
            self.add_error("until", "Say until when, or choose what rests from the table.")
        if self.errors:
            return data
        after = data.get("after")
        since = max(after.until, timezone.now()) if after else timezone.now()
        hours = None if rest is None else hours_here(rest, self.workshop)
        until = data.get("until") or since + timedelta(hours=hours.usual if hours else 0)
        if until <= since:
            self.add_error("until", "That is before what it follows is over.")
        elif hours is not None and until < since + timedelta(hours=hours.low) - SOON:
            earliest = timezone.localtime(since + timedelta(hours=hours.low))
            self.add_error(
                "until",
                f"In this air it needs at least {hours.low:.1f} h, until"
                f" {earliest:%a %-d %b, %H:%M}.",
            )
        data |= {"since": since, "until": until, "hours": hours}
        data["what"] = data.get("what") or (rest.name[:1].upper() + rest.name[1:] if rest else "")
        return data

    def save(self, build: Build) -> Wait:
        """Hang it from the build's string."""
        data = self.cleaned_data
        hours = data["hours"]
        return Wait.objects.create(
            build=build, what=data["what"], since=data["since"], until=data["until"],
            after=data["after"], least=hours and hours.low, most=hours and hours.high,
        )  # fmt: skip


SOON = timedelta(minutes=10)


class MoveForm(forms.Form):
    """Another end of a wait."""

    until = _moment()

    def clean_until(self) -> datetime:
        until: datetime = self.cleaned_data["until"]
        return _to_come(until)
