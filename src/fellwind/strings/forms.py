"""Forms of the string room: a string, a part of it, a thread and its tests, and what is read."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from uuid import uuid4

from django import forms

from bowyery.strings.kinds import STRING_KINDS
from bowyery.strings.strength import RULES
from fellwind.builds.models import Build
from fellwind.kit.fields import CountField, choose
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.kit.versions import VersionedForm
from fellwind.shop import book
from fellwind.strings.models import BowString, StringEntry, Thread
from fellwind.strings.services import Sheet, last_pulls, strips_of

USUAL_STRING_FIBRE = "linen"
USES = {"tillering": "tillers", "bracing": "braces", "cable": "ties"}


class StringForm(VersionedForm):
    """A string for a bow: what it is for, how it is laid and of what thread."""

    role = forms.ChoiceField(choices=list(BowString.ROLES.items()), label="It is the")
    kind = forms.ChoiceField(choices=[(k, k) for k in STRING_KINDS], label="Laid as")
    thread = forms.ChoiceField(label="Of", help_text="your own threads first, then the book's")
    like = forms.ModelChoiceField(
        BowString.objects.none(), required=False, label="To match",
        empty_label="no other", help_text="its length, strands and servings are taken over",
    )  # fmt: skip
    plies = CountField("plies", required=False, help_text="of plied cordage; empty: two")
    strands = CountField(
        "strands of any string", required=False,
        help_text="your own number; empty: what strength asks for",
    )  # fmt: skip
    brace_height = MeasureField("brace height", label="Brace height wanted")
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    def __init__(self, *args: Any, build: Build, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.build = build
        own = [(f"thread-{one.pk}", one.name) for one in Thread.objects.all()]
        shelf = [(name, name) for name in book.shelf().fibres]
        groups = [("The shop's threads", own), ("By the book", shelf)] if own else shelf
        choose(self, groups, "thread")
        like = self.fields["like"]
        assert isinstance(like, forms.ModelChoiceField)
        like.queryset = BowString.objects.filter(build=build)
        if self.row is not None:
            like.queryset = like.queryset.exclude(pk=self.row.pk)
        if build.design.figures.back_bow_length is None:
            choose(self, [r for r in BowString.ROLES.items() if r[0] != "cable"], "role")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        kind, role = STRING_KINDS.get(data.get("kind", "")), data.get("role", "working")
        use = USES.get(role, "shoots")
        if kind is not None and kind.use != use:
            fit = ", ".join(one.name for one in STRING_KINDS.values() if one.use == use)
            self.add_error("kind", f"The {BowString.ROLES[role]} is laid as: {fit}.")
        if kind is not None and data.get("plies") and "plied" not in kind.name:
            self.add_error("plies", "Only plied cordage has plies.")
        strands, bundles = data.get("strands"), (data.get("plies") or 2) if kind else 2
        if kind is not None and strands:
            if kind.step > 1 and strands % kind.step:
                self.add_error("strands", "A loop wound round two posts has an even number.")
            elif strands < (bundles if "plied" in kind.name else kind.bundles):
                self.add_error("strands", "Each bundle wants a strand at least.")
        return data

    def fill(self, string: BowString) -> BowString:
        """Write the form into a string, without saving it."""
        data = self.cleaned_data
        for name in ("role", "kind", "strands", "plies", "notes", "like"):
            setattr(string, name, data[name])
        string.brace_height = self.given("brace_height")
        of: str = data["thread"]
        if of.startswith("thread-"):
            string.thread = Thread.objects.get(pk=int(of.removeprefix("thread-")))
            string.fibre = string.thread.fibre
        else:
            string.thread, string.fibre = None, of
        return string

    @staticmethod
    def initial_for(build: Build) -> dict[str, Any]:
        """Values of a string that is not planned yet."""
        made = list(BowString.objects.filter(build=build))
        first = next((one for one in made if one.role == "working"), None)
        values: dict[str, Any] = {
            "brace_height": build.design.figures.brace_height, "kind": "two-bundle laid twist",
            "thread": build.design.figures.fibre or USUAL_STRING_FIBRE, "role": "working",
        }  # fmt: skip
        own = Thread.objects.filter(fibre=values["thread"]).first()
        if own is not None:
            values["thread"] = f"thread-{own.pk}"
        if first is not None:
            spare = any(one.role == "spare" for one in made)
            values |= StringForm.initial_of(first) | {
                "role": "later" if spare else "spare", "like": first.pk, "notes": "",
            }  # fmt: skip
        return values

    @staticmethod
    def initial_of(string: BowString) -> dict[str, Any]:
        """Values of a string for editing."""
        names = ("role", "kind", "strands", "plies", "brace_height", "notes")
        return {name: getattr(string, name) for name in names} | {
            "like": string.like_id,
            "thread": f"thread-{string.thread_id}" if string.thread_id else string.fibre,
        }


class PartForm(VersionedForm):
    """The figures of one part of a string; what is left empty follows from the plan."""

    PARTS: dict[str, tuple[str, tuple[str, ...]]] = {
        "body": ("Strands", ("strands", "plies", "strip", "colour_one", "colour_two")),
        "twist": ("Twist", ("turns", "direction")),
        "pieces": ("Reinforcing pieces", ("pieces", "piece")),
        "length": ("Length", ("own_length", "brace_height")),
        "loops": ("Loops", ("loop_upper", "loop_lower")),
        "throats": ("Throats", ("throat", "serving_thread")),
        "centre": ("Centre serving", ("serving", "serving_above", "serving_thread")),
        "nock": ("Nocking point", ("nock_above",)),
        "silencers": ("Silencers", ("silencers", "silencers_at")),
        "strength": ("How strong", ("rule",)),
    }
    MEASURES = {
        "strip": ("width of a hide strip", "Width of each strip"),
        "own_length": ("string length", "Your own length, nock to nock"),
        "brace_height": ("brace height", "Brace height wanted"),
        "loop_upper": ("loop", "Upper loop opens"),
        "loop_lower": ("loop", "Lower loop opens"),
        "throat": ("throat", "Served below each loop"),
        "serving": ("serving", "Served in all"),
        "serving_above": ("serving", "of that above square"),
        "nock_above": ("above the square", "Nocking point above square"),
        "piece": ("reinforcing piece", "The longest"),
        "silencers": ("silencers", "Both together weigh"),
        "silencers_at": ("place on a string", "each from its nock"),
        "serving_thread": ("fineness of a thread", "Serving thread"),
    }
    COUNTS = {
        "strands": ("strands of any string", "Strands"),
        "plies": ("plies", "Plies"),
        "turns": ("turns", "Turns"),
        "pieces": ("pieces", "Pieces in each loop"),
    }
    NEEDED = ("brace_height", "serving_thread")
    CHOICES = {
        "colour_one": list(BowString.COLOURS.items()),
        "colour_two": list(BowString.COLOURS.items()),
        "direction": BowString.DIRECTIONS,
        "rule": list(RULES.items()),
    }

    def __init__(
        self,
        *args: Any,
        part: str,
        string: BowString,
        planned: Mapping[str, float] | None = None,
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, auto_id=f"part_{part}_%s", **kwargs)
        self.part, self.title = part, self.PARTS[part][0]
        for name in self.PARTS[part][1]:
            if name in ("plies", "strip") and "plied" not in string.kind:
                continue
            if name == "strands" and "plied" in string.kind and strips_of(string):
                continue  # each ply is one strip
            now = getattr(string, name)
            if name in self.MEASURES:
                bound, label = self.MEASURES[name]
                if not self.is_bound and isinstance(now, float):
                    self.initial[name] = now
                elif isinstance(now, float):
                    self.initial.setdefault(name, now)
                self.add(name, bound, label, required=name in self.NEEDED)
            elif name in self.COUNTS:
                bound, label = self.COUNTS[name]
                self.initial.setdefault(name, now)
                self.fields[name] = CountField(bound, required=False, label=label)
                self.fields[name].widget.attrs["class"] = "form-control"
            else:
                self.initial.setdefault(name, now)
                label = {"colour_one": "First bundle", "colour_two": "Second bundle",
                         "direction": "Twisted", "rule": "What wins"}[name]  # fmt: skip
                self.fields[name] = forms.ChoiceField(
                    choices=self.CHOICES[name], required=False, label=label
                )
                self.fields[name].widget.attrs["class"] = "form-select"
        self.string = string
        for name, value in (planned or {}).items():
            field = self.fields.get(name)
            if isinstance(field, MeasureField):
                field.widget.attrs["placeholder"] = field.quantity.bare(value, self.shown)
            elif field is not None:
                field.widget.attrs["placeholder"] = f"{value:.0f}"

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        kind = STRING_KINDS[self.string.kind]
        strands = data.get("strands")
        if strands and kind.step > 1 and strands % kind.step:
            self.add_error("strands", "A loop wound round two posts has an even number.")
        serving, above = data.get("serving"), data.get("serving_above")
        if serving and above and above.value > serving.value:
            self.add_error("serving_above", "That is more than is served in all.")
        at = data.get("silencers_at")
        if at and at.value > self.string.build.design.length / 2:
            self.add_error("silencers_at", "That lies beyond the middle; count from the near nock.")
        return data

    def fill(self, string: BowString) -> BowString:
        """Write the part into the string, without saving it."""
        for name in self.PARTS[self.part][1]:
            if name not in self.fields:
                continue
            if name in self.MEASURES:
                value = self.value(name)
                if name == "silencers":
                    value = value or 0.0
                setattr(string, name, value)
            else:
                value = self.cleaned_data.get(name)
                blank = "" if name in ("colour_one", "colour_two") else None
                default = {"rule": "highest", "direction": "right"}.get(name, blank)
                setattr(string, name, value if value not in ("", None) else default)
        return string


class ThreadForm(VersionedForm):
    """A thread of the shop's."""

    name = forms.CharField(max_length=60, help_text="as it is called in lists")
    fibre = forms.ChoiceField(label="It is")
    line_mass = MeasureField(
        "fineness of a thread", required=False, label="So fine",
        help_text="tex, or yards a pound; empty: the book's",
    )  # fmt: skip
    colour = forms.CharField(max_length=30, required=False)
    stock = MeasureField("stock of thread", required=False, label="Left on the shelf")
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choose(self, ((name, name) for name in book.shelf().fibres), "fibre")

    def clean_name(self) -> str:
        """A name that no other thread has."""
        name = " ".join(str(self.cleaned_data["name"]).split())
        others = Thread.objects.filter(name__iexact=name)
        others = others.exclude(pk=self.row.pk) if self.row else others
        if others.exists():
            raise forms.ValidationError("There is a thread of that name; give this one another.")
        if name in book.shelf().fibres:
            raise forms.ValidationError("The book has a fibre of that name; say more of yours.")
        return name

    def fill(self, thread: Thread) -> Thread:
        """Write the form into a thread, without saving it."""
        for name in ("name", "fibre", "colour", "notes"):
            setattr(thread, name, self.cleaned_data[name])
        thread.line_mass, thread.stock = self.value("line_mass"), self.value("stock")
        return thread

    @staticmethod
    def initial_of(thread: Thread) -> dict[str, Any]:
        """Values of a thread for editing."""
        names = ("name", "fibre", "line_mass", "colour", "stock", "notes")
        return {name: getattr(thread, name) for name in names}


class TestForm(MeasuredForm):
    """A strand or a twisted strip that was pulled until it broke."""

    __test__ = False
    load = MeasureField("strength of a strand", label="It broke at")
    width = MeasureField(
        "width of a hide strip", required=False, label="Width of the strip",
        help_text="of a twisted strip; empty: it was one strand",
    )  # fmt: skip

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="test_%s", **kwargs)


class _EntryForm(MeasuredForm):
    """Something read of a string or done to it."""

    PREFIX = "entry"
    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, made: Sheet, **kwargs: Any) -> None:
        self.made = made
        kwargs["initial"] = {"client_id": uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, auto_id=f"{self.PREFIX}_%s", **kwargs)

    def rows(self) -> list[dict[str, Any]]:
        """What it writes: arguments of :func:`services.write`, one an entry."""
        raise NotImplementedError


class BraceForm(_EntryForm):
    """The brace height after some pulls."""

    PREFIX = "brace"
    brace = MeasureField("brace height", label="Brace height read")
    more = CountField(
        "pulls of a string", required=False, label="pulls since the last",
        help_text="empty: none",
    )  # fmt: skip

    def rows(self) -> list[dict[str, Any]]:
        pulls = last_pulls(self.made) + (self.cleaned_data["more"] or 0)
        return [{"kind": "brace", "value": self.given("brace"), "pulls": pulls,
                 "text": f"{self.text('brace')} after {pulls} pulls"}]  # fmt: skip


class TwistForm(_EntryForm):
    """Turns put in or let out, or a loop moved."""

    PREFIX = "twist"
    turns = CountField(
        "turns put in", required=False, label="Turns put in", help_text="let out: below zero"
    )
    shorter = MeasureField(
        "made shorter", required=False, label="or made shorter at a loop, by",
        help_text="longer: below zero",
    )  # fmt: skip

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        turns = data.get("turns")
        if not turns and not data.get("shorter") and not self.errors:
            self.add_error("turns", "Say how many turns, or by how much.")
        plan = self.made.plan
        if turns and plan is not None:
            now = self.made.turns + turns
            if now < 0:
                self.add_error("turns", f"It has {self.made.turns} turns; no more can be let out.")
            elif now > 2 * plan.twist.most:
                self.add_error(
                    "turns", f"It is over-twisted from {plan.twist.most} turns; {now} break it."
                )
        return data

    def rows(self) -> list[dict[str, Any]]:
        found, turns = [], self.cleaned_data.get("turns")
        if turns:
            found.append({"kind": "twist", "value": float(turns), "text": f"{turns:+d} turns"})
        if self.value("shorter"):
            found.append({"kind": "shorter", "value": self.value("shorter"),
                          "text": self.text("shorter")})  # fmt: skip
        return found


class MeasureForm(_EntryForm):
    """A finished string measured; what was not measured stays empty."""

    PREFIX = "measure"
    length = MeasureField("string length", required=False, label="Length, nock to nock")
    load = MeasureField("load on a string", required=False, label="under a load of")
    stretch = MeasureField("stretch of a string", required=False, label="Stretches by, under it")
    mass = MeasureField("string mass", required=False, label="Mass")
    serving = MeasureField("serving", required=False, label="Centre serving")
    nocking = MeasureField("above the square", required=False, label="Nocking point above square")
    KINDS = {"length": "length", "stretch": "stretch", "mass": "mass", "serving": "serving",
             "nocking": "nocking point"}  # fmt: skip

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if not self.errors and not any(data.get(name) for name in self.KINDS):
            self.add_error("length", "Measure one of them at least.")
        if data.get("stretch") and not data.get("load"):
            self.add_error("load", "Say under which load.")
        length, plan = data.get("length"), self.made.plan
        if length and plan and not 0.8 < length.value / plan.length < 1.25:
            self.add_error(
                "length", "That is far from the string as planned"
                f" ({self.shown.length(plan.length)}); check it once more.",
            )  # fmt: skip
        return data

    def rows(self) -> list[dict[str, Any]]:
        load, found = self.value("load"), []
        for name, kind in self.KINDS.items():
            value = self.value(name)
            if value is None:
                continue
            loaded = load if name in ("length", "stretch") else None
            under = f" under {self.text('load')}" if loaded else ""
            found.append({"kind": kind, "value": value, "second": loaded,
                          "text": f"{self.text(name)}{under}"})  # fmt: skip
        return found


class CordForm(_EntryForm):
    """A test cord on the bow: its length and the brace height it gave."""

    PREFIX = "cord"
    cord = MeasureField("string length", label="Cord, nock to nock")
    gave = MeasureField("brace height", label="gave a brace of")

    def rows(self) -> list[dict[str, Any]]:
        return [{"kind": "cord", "value": self.given("cord"), "second": self.given("gave"),
                 "text": f"{self.text('cord')} gave {self.text('gave')}"}]  # fmt: skip


class FitForm(_EntryForm):
    """How the string lies on the braced bow."""

    PREFIX = "fit"
    SEATS = {
        "": "not looked at",
        "well": "it lies in both nocks",
        "edge": "it rides on an edge",
        "groove": "a groove opens the wrong way",
        "loop": "a loop is too tight",
    }
    seat = forms.ChoiceField(choices=list(SEATS.items()), required=False, label="In the nocks")
    off = MeasureField("off the grip", required=False, label="Off the middle of the grip, by")
    upper_gap = MeasureField("gap", required=False, label="Upper gap")
    lower_gap = MeasureField("gap", required=False, label="Lower gap")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if bool(data.get("upper_gap")) != bool(data.get("lower_gap")) and not self.errors:
            missing = "lower_gap" if data.get("upper_gap") else "upper_gap"
            self.add_error(missing, "Read both gaps; one alone says nothing.")
        if not self.errors and not any(data.get(n) for n in ("seat", "off", "upper_gap")):
            self.add_error("seat", "Say one of them at least.")
        return data

    def rows(self) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = []
        seat = self.cleaned_data.get("seat")
        if seat:
            found.append({"kind": "fit", "text": self.SEATS[seat]})
        for name, kind in (("off", "off the grip"), ("upper_gap", "upper gap"),
                           ("lower_gap", "lower gap")):  # fmt: skip
            if self.cleaned_data.get(name):
                found.append({"kind": kind, "value": self.value(name), "text": self.text(name)})
        return found


class KeepingForm(_EntryForm):
    """Shots counted, wax, a broken strand, and the end of a string."""

    PREFIX = "keeping"
    KINDS = {k: StringEntry.KINDS[k] for k in
             ("shots", "waxed", "served", "strand", "broke", "put away")}  # fmt: skip
    what = forms.ChoiceField(choices=list(KINDS.items()), label="What")
    count = CountField(
        "shots", required=False, label="Shots", help_text="since they were counted last"
    )
    place = MeasureField(
        "place on a string", required=False, label="Where, from the upper nock",
        help_text="of what broke",
    )  # fmt: skip
    words = forms.CharField(max_length=60, required=False, label="More")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data.get("what") == "shots" and not data.get("count") and "count" not in self.errors:
            self.add_error("count", "Say how many.")
        place, plan = data.get("place"), self.made.plan
        if place and plan and place.value > 1.03 * plan.length:
            self.add_error("place", "That lies beyond the lower nock.")
        return data

    def rows(self) -> list[dict[str, Any]]:
        data = self.cleaned_data
        what, place = data["what"], self.value("place")
        words = [f"{data['count']}"] if what == "shots" else []
        words += [f"{self.text('place')} from the upper nock"] if place is not None else []
        words += [data["words"]] if data["words"] else []
        value = float(data["count"]) if what == "shots" else None
        return [{"kind": what, "value": value, "second": place,
                 "text": ", ".join(words) or self.KINDS[what]}]  # fmt: skip


READ_FORMS: dict[str, type[_EntryForm]] = {
    "brace": BraceForm, "twist": TwistForm, "measure": MeasureForm, "cord": CordForm,
    "fit": FitForm, "keeping": KeepingForm,
}  # fmt: skip
