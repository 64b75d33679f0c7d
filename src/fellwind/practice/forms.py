"""The form that begins a session, and the one that all acts are done by."""

from __future__ import annotations

from typing import Any

from django import forms

from bowyery.practice.session import MARKS, MOST_PULLS, MOST_STROKES, Act
from bowyery.practice.worlds import HIGHEST_SEED, PATTERNS, TROUBLES, WOODS, Setup, any_trouble
from bowyery.tiller.bite import TOOLS, USUAL_TOOL
from fellwind.kit.measures import MeasuredForm, MeasureField

LIMBS = [("", "both limbs"), ("upper", "upper limb"), ("lower", "lower limb")]
EDGES = [("", "both edges"), ("left", "left edge"), ("right", "right edge")]
STRINGS = [("long", "long string"), ("low", "low brace"), ("full", "full brace")]
COLOURS = [("golden", "golden"), ("brown", "brown"), ("dark", "dark")]


class BeginForm(MeasuredForm):
    """A free stave: bow, wood, trouble and seed."""

    pattern = forms.ChoiceField(label="Bow", choices=[(k, p.name) for k, p in PATTERNS.items()])
    wood = forms.ChoiceField(label="Wood", choices=[(one, one) for one in WOODS])
    trouble = forms.ChoiceField(
        label="Trouble", choices=[("any", "I don't want to know"), *TROUBLES.items()]
    )
    seed = forms.IntegerField(
        label="Seed", required=False, min_value=1, max_value=HIGHEST_SEED,
        help_text=f"1 to {HIGHEST_SEED:,}; the same gives the same stave. Empty: any",
    )  # fmt: skip
    hands = forms.BooleanField(
        label="My hands, rulers and scale err a little, too", required=False, initial=True
    )

    def setup(self, seed: int) -> Setup:
        """Which stave was asked for; a trouble nobody wants to know follows from the seed."""
        data = self.cleaned_data
        seed = data["seed"] or seed
        trouble = data["trouble"]
        if trouble == "any":
            trouble = any_trouble(data["pattern"], seed)
        return Setup(data["pattern"], data["wood"], trouble, seed, data["hands"])


class ActForm(MeasuredForm):
    """What is done next: which act its button says, and the figures that it needs."""

    act = forms.CharField(max_length=40, widget=forms.HiddenInput)
    number = forms.IntegerField(min_value=1, widget=forms.HiddenInput)
    limb = forms.ChoiceField(label="Limb", choices=LIMBS, required=False)
    start = MeasureField("half of a bow", required=False, label="from")
    end = MeasureField("half of a bow", required=False, label="to")
    strokes = forms.IntegerField(
        label="Strokes", required=False, min_value=1, max_value=MOST_STROKES
    )
    tool = forms.ChoiceField(
        label="Tool", choices=[(one, one) for one in TOOLS], initial=USUAL_TOOL, required=False
    )
    edge = forms.ChoiceField(label="Off", choices=EDGES, required=False)
    draw = MeasureField("draw", required=False, label="Draw")
    until = MeasureField("draw", required=False, widget=forms.HiddenInput)
    seconds = forms.IntegerField(label="Seconds", required=False, min_value=1, max_value=600)
    pulls = forms.IntegerField(
        label="Pulls", required=False, min_value=1, max_value=MOST_PULLS, initial=25
    )
    string = forms.ChoiceField(label="String", choices=STRINGS, required=False)
    brace = MeasureField("brace height", required=False, label="Brace height")
    off = MeasureField("cut off an end", required=False, label="Cut off")
    colour = forms.ChoiceField(label="Heated", choices=COLOURS, required=False)
    reflex = MeasureField("reflex", required=False, label="Reflex put in at the tip")
    hours = forms.FloatField(label="Hours", required=False, min_value=0.25, max_value=2160)

    # which figure each act cannot do without, and how it is asked for
    NEEDS = {
        "pull": ("draw", "Say how far."),
        "hold": ("seconds", "Say how long."),
        "exercise": ("pulls", "Say how many pulls."),
        "scrape": ("strokes", "Say how many strokes."),
        "guess": ("strokes", "Say how many strokes."),
        "cut": ("off", "Say how much."),
        "wait": ("hours", "Say how long."),
    }
    # the field that a refusal of the core is about, by act and by what the core calls it
    PLACES = {
        ("pull", "value"): "draw", ("hold", "value"): "seconds", ("exercise", "value"): "pulls",
        ("scrape", "value"): "strokes", ("scrape", "start"): "start", ("scrape", "end"): "end",
        ("scrape", "how"): "tool", ("guess", "value"): "strokes", ("guess", "start"): "start",
        ("guess", "end"): "end", ("mark", "start"): "start", ("mark", "end"): "end",
        ("mark", "limb"): "limb", ("read", "start"): "start", ("string", "value"): "brace",
        ("string", "how"): "string", ("cut", "value"): "off", ("heat", "value"): "reflex",
        ("heat", "how"): "colour", ("wait", "value"): "hours",
    }  # fmt: skip

    def clean(self) -> dict[str, Any]:
        """Whatever the act needs must be there."""
        data = super().clean()
        kind = (data.get("act") or "").partition(":")[0]
        need = self.NEEDS.get(kind)
        if need and need[0] not in self.errors and data.get(need[0]) in (None, ""):
            self.add_error(*need)
        for name in list(self.errors):
            if name not in self._asked(kind) and name in self.fields:
                del self.errors[name]  # half typed for another act
        return data

    @staticmethod
    def _asked(kind: str) -> tuple[str, ...]:
        """The fields that an act looks at."""
        where = ("limb", "start", "end")
        more: dict[str, tuple[str, ...]] = {
            "pull": ("draw", "until"),
            "hold": ("seconds",),
            "exercise": ("pulls",),
            "scrape": (*where, "strokes", "tool", "edge"),
            "guess": (*where, "strokes", "tool"),
            "mark": where,
            "read": where,
            "string": ("string", "brace"),
            "cut": ("limb", "off"),
            "heat": ("limb", "colour", "reflex"),
            "wait": ("hours",),
        }
        return ("act", "number", *more.get(kind, ()))

    def done(self) -> Act:
        """The act, once the form is valid."""
        data = self.cleaned_data
        kind, _, how = data["act"].partition(":")
        place: dict[str, Any] = {"limb": data.get("limb") or ""}
        if kind in ("scrape", "guess", "mark", "read"):
            place |= {"start": self.value("start"), "end": self.value("end")}
        if kind == "read" and how not in ("edge", "thickness"):
            place = {"limb": ""}
        figures: dict[str, dict[str, Any]] = {
            "pull": {"value": self.value("draw"), "end": self.value("until")},
            "hold": {"value": data.get("seconds")},
            "exercise": {"value": data.get("pulls")},
            "scrape": {
                **place, "value": data.get("strokes"), "how": data.get("tool") or USUAL_TOOL,
                "edge": data.get("edge") or "",
            },
            "guess": {
                **place, "value": data.get("strokes"), "how": data.get("tool") or USUAL_TOOL,
            },
            "mark": {**place, "how": how if how in MARKS else ""},
            "read": {**place, "how": how},
            "string": {"how": data.get("string") or "", "value": self.value("brace")},
            "cut": {"limb": place["limb"], "value": self.value("off")},
            "heat": {
                "limb": place["limb"], "how": data.get("colour") or "",
                "value": self.value("reflex"),
            },
            "wait": {"value": data.get("hours")},
        }  # fmt: skip
        given = figures.get(kind, {})
        if given.get("value") is not None:
            given["value"] = float(given["value"])
        return Act(kind, **given)
