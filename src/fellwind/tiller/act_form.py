"""The form of acts: what was done to a bow other than taking wood off its belly."""

from dataclasses import dataclass
from typing import Any

from django import forms

from bowyery.wood import materials
from fellwind.kit.fields import CountField
from fellwind.kit.measures import MeasuredForm, MeasureField


@dataclass(frozen=True)
class ActFields:
    """What an act is called in the list, and which figures it asks for.

    Attributes:
        fields: names of the form's fields, beyond the limb.
        limbs: limbs it may be done to.
        care: what to mind when it is done.
    """

    words: str
    fields: tuple[str, ...] = ()
    limbs: tuple[str, ...] = ("both", "upper", "lower")
    care: str = ""


_HEAT = (
    "Heat and open fire: outdoors or with the air moving, water at hand, and mind a fire ban;"
    " an oven or heat box with lamps wants a thermometer and a cut-out."
)
_GLUE = "Glues and solvents: gloves, moving air, and as their labels say."
ACTS: dict[str, ActFields] = {
    "cut": ActFields("Ends cut off", ("length",), care="Nock it anew, and protect the edges."),
    "centre": ActFields("Centre moved", ("length", "way"), limbs=()),
    "heat": ActFields("Belly heated", ("stretch", "colour", "heat_minutes"), care=_HEAT),
    "reflex": ActFields("Reflex put in", ("length",), care=_HEAT),
    "deflex": ActFields("Deflex put in", ("length",), care=_HEAT),
    "backing": ActFields("Backing laid on", ("material", "thickness"), limbs=(), care=_GLUE),
    "patch": ActFields("Patch glued on", ("thickness", "stretch"), ("upper", "lower"), _GLUE),
    "rounded": ActFields("Belly rounded", care="Cut away from hand and string."),
    "twist out": ActFields("Twist taken out", ("angle",), ("upper", "lower"), _HEAT),
    "straightened": ActFields("Sideways bend taken out", ("length",), ("upper", "lower"), _HEAT),
    "eased": ActFields("Bamboo nodes eased", care="Bamboo dust: mask and extraction."),
    "overlay": ActFields("Tip overlays put on", care=_GLUE),
    "flooded": ActFields("Crack flooded", ("place",), ("upper", "lower"), _GLUE),
    "bound": ActFields("Crack or splinter bound", ("place",), ("upper", "lower")),
}
_NEEDED = {"length": "how much", "thickness": "how thick", "angle": "by how many degrees"}


class ActForm(MeasuredForm):
    """Something done to the bow other than taking wood, by form."""

    act = forms.ChoiceField(choices=[(k, a.words) for k, a in ACTS.items()], label="What was done")
    limb = forms.ChoiceField(
        choices=[("both", "both limbs"), ("upper", "upper limb"), ("lower", "lower limb")],
        label="to",
    )
    length = MeasureField("cut", required=False, label="by")
    thickness = MeasureField("laid on", required=False, label="thickness")
    angle = forms.CharField(max_length=10, required=False, label="degrees")
    way = forms.ChoiceField(
        choices=[("up", "to the upper tip"), ("down", "to the lower tip")],
        required=False,
        label="which way",
    )
    material = forms.CharField(max_length=38, required=False, label="of")
    start = MeasureField("place on a limb", required=False, label="from (centre)")
    end = MeasureField("place on a limb", required=False, label="to (centre)")
    colour = forms.ChoiceField(
        choices=[("", "not seen"), ("golden", "golden"), ("brown", "brown"), ("dark", "dark")],
        required=False,
        label="to a colour",
    )
    heat_minutes = CountField("minutes of heat", required=False, label="Minutes of heat")
    minutes = CountField("minutes", required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["material"].widget.attrs["list"] = "backings"

    def clean(self) -> dict[str, Any]:
        """Each act needs its own figures, and no act is done to a limb it cannot be done to."""
        data = super().clean()
        act = data.get("act", "")
        if act not in ACTS:
            return data
        asks = ACTS[act]
        for name in ("length", "thickness", "angle", "material"):
            asked = name in asks.fields and act != "straightened"
            if asked and not data.get(name) and name not in self.errors:
                self.add_error(name, f"Write {_NEEDED.get(name, 'what it is of')}.")
        if "both" not in asks.limbs and asks.limbs and data.get("limb") == "both":
            self.add_error("limb", "Say which limb.")
        start, end = data.get("start"), data.get("end")
        needs_place = act in ("patch", "flooded", "bound")
        if needs_place and not start and "start" not in self.errors:
            self.add_error("start", "Say where, from the centre.")
        if act == "patch" and start and not end and "end" not in self.errors:
            self.add_error("end", "Say where it ends.")
        if act == "heat" and bool(start) != bool(end):
            self.add_error("end" if start else "start", "Give both places, or neither.")
        if start and end and start.value >= end.value:
            self.add_error("end", "This lies nearer the centre than where it starts.")
        return data

    def line(self) -> str:
        """The act as a pencil line, with units."""
        data = self.cleaned_data
        act, limb = data["act"], data["limb"]
        length, thick = self.text("length"), self.text("thickness")
        start, end = self.text("start"), self.text("end")
        stretch = f" {start} to {end}" if start and end else ""
        colour = f" {data['colour']}" if data.get("colour") else ""
        heat = f" {data['heat_minutes']} min" if data.get("heat_minutes") else ""
        ends = "both ends" if limb == "both" else f"{limb} end"
        lines = {
            "cut": f"cut {length} {ends}",
            "centre": f"centre {length} {data.get('way') or 'up'}",
            "heat": f"heat {limb}{stretch}{colour}{heat}",
            "reflex": f"reflex {limb} {length}",
            "deflex": f"deflex {limb} {length}",
            "backing": f"backing {str(data.get('material')).strip().lower()} {thick}",
            "patch": f"patch {limb} {thick} from{stretch}",
            "rounded": f"{limb} belly rounded",
            "twist out": f"twist out {limb} {data.get('angle')}",
            "straightened": f"straightened {limb} {length}".strip(),
            "eased": f"nodes eased {limb}",
            "overlay": f"overlay {limb}",
            "flooded": f"flooded {limb}{stretch or ' ' + start}",
            "bound": f"bound {limb}{stretch or ' ' + start}",
        }
        parts = [lines[act]]
        parts += [f"{data['minutes']} min"] if data.get("minutes") else []
        return "; ".join(parts)


def backings() -> list[str]:
    """What can be laid on a back, by name."""
    return sorted(materials.backings())
