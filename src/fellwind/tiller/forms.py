"""Forms of the tiller; each becomes the same pencil line as a maker would write."""

import re
from collections.abc import Iterator
from typing import Any

from django import forms

from bowyery.bow.bow import SIDES
from bowyery.tiller.kinds import KINDS, ReadingKind
from fellwind.kit.fields import CountField
from fellwind.kit.measures import MeasuredForm, MeasureField

_ASKED = [kind for kind in KINDS.values() if kind.asked is not None]
_STRINGS = [
    ("", "as before"),
    ("long", "long, slack"),
    ("low", "low brace"),
    ("full", "full brace"),
]


def _fields() -> Iterator[tuple[str, forms.Field]]:
    """A field for every kind of reading that forms ask for, and both limbs."""
    for kind in _ASKED:
        asked = kind.asked
        if asked is None:
            continue
        for limb in SIDES if kind.of_limb else ("",):
            name = f"{limb}_{kind.word}" if limb else kind.word
            label = asked.label.format(limb=limb)
            label = label[:1].upper() + label[1:]
            if asked.several:
                yield (
                    name,
                    forms.CharField(
                        max_length=300, required=False, label=label, help_text=asked.hint
                    ),
                )
            else:
                yield (
                    name,
                    MeasureField(asked.bound, required=False, label=label),
                )
        if asked.first:
            yield (
                "draw",
                MeasureField("draw", required=False, label="at a draw of"),
            )


class ReadingForm(MeasuredForm):
    """A tiller check by form."""

    string = forms.ChoiceField(choices=_STRINGS, required=False)
    string_at = MeasureField(
        "string on the tree", required=False, label="its brace, or length if long"
    )
    minutes = CountField("minutes", required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def clean(self) -> dict[str, Any]:
        """Refuse half a reading."""
        data = super().clean()
        weight, draw = data.get("weight"), data.get("draw")
        at_draw = any(data.get(name) for name in self._names("draw"))
        if weight and not draw and "draw" not in self.errors:
            self.add_error("draw", "A weight needs the draw it was read at.")
        if draw and not at_draw and "weight" not in self.errors:
            self.add_error("weight", "Write the weight, or a tip height, read at that draw.")
        if data.get("string_at") and not data.get("string"):
            self.add_error("string", "Say which string is on.")
        if not self.errors and not self.line():
            self.add_error("weight", "Nothing was read yet: write a weight, a gap or a tip height.")
        return data

    def _names(self, figure: str) -> list[str]:
        """Fields of the kinds whose form has a figure in it."""
        kinds = [kind for kind in _ASKED if f"{{{figure}}}" in kind.forms[0]]
        return [name for kind in kinds for name, _ in _places(kind)]

    def line(self) -> str:
        """The check as a pencil line, with units."""
        data = self.cleaned_data
        parts = []
        if data.get("string"):
            parts.append(f"string {data['string']} {self.text('string_at')}".strip())
        for kind in _ASKED:
            for name, limb in _places(kind):
                written = self._written(kind, name, limb)
                parts += [written] if written else []
        if data.get("minutes"):
            parts.append(f"{data['minutes']} min")
        return "; ".join(parts)

    def _written(self, kind: ReadingKind, name: str, limb: str) -> str:
        given = self.cleaned_data.get(name)
        if not given or (isinstance(given, str) and not given.strip()):
            return ""
        if isinstance(given, str):
            run = " and ".join(re.split(r"\s*;\s*|,\s+", given.strip().strip(",;")))
            return f"{limb} {kind.word} {run}"
        draw = self.text("draw") if self.cleaned_data.get("draw") else ""
        form = kind.forms[0]
        form = re.sub(
            r"\[[^\]]*\{(\w+)\}\]", lambda m: m[0][1:-1] if draw and m[1] == "draw" else "", form
        )
        if "{draw}" in form and not draw:
            return ""
        return form.format(limb=limb, draw=draw, value=self.text(name))


def _places(kind: ReadingKind) -> list[tuple[str, str]]:
    """Names of a kind's fields, with their limbs."""
    if not kind.of_limb:
        return [(kind.word, "")]
    return [(f"{limb}_{kind.word}", limb) for limb in SIDES]


ReadingForm.base_fields = dict(_fields()) | ReadingForm.base_fields


class RemovalForm(MeasuredForm):
    """Wood taken, by form."""

    limb = forms.ChoiceField(
        choices=[("upper", "upper limb"), ("lower", "lower limb"), ("both", "both limbs")]
    )
    thickness = MeasureField(
        "wood off",
        required=False,
        label="Thickness taken",
        help_text="as the caliper shows, or count strokes instead",
    )
    strokes = CountField("strokes", required=False)
    start = MeasureField("place on a limb", required=False, label="from (centre)")
    end = MeasureField("place on a limb", required=False, label="to (centre)")
    pulls = CountField("pulls", required=False, label="Short pulls given since")
    minutes = CountField("minutes", required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def clean(self) -> dict[str, Any]:
        """Refuse half a removal."""
        data = super().clean()
        both = bool(data.get("thickness")) == bool(data.get("strokes"))
        if both and not (self.errors.keys() & {"thickness", "strokes"}):
            self.add_error("thickness", "Give either the thickness taken or the number of strokes.")
        start, end = data.get("start"), data.get("end")
        if bool(start) != bool(end):
            missing = "end" if start else "start"
            self.add_error(missing, "Give both places, or neither for the whole limb.")
        elif start and end and start.value >= end.value:
            self.add_error("end", "This lies nearer the centre than where it starts.")
        return data

    def line(self) -> str:
        """The removal as a pencil line, with units."""
        data = self.cleaned_data
        amount = f"{data['strokes']} strokes" if data.get("strokes") else self.text("thickness")
        where = ""
        if data.get("start"):
            where = f" from {self.text('start')} to {self.text('end')}"
        parts = [f"off {data['limb']} {amount}{where}"]
        parts += [f"{data['pulls']} pulls"] if data.get("pulls") else []
        parts += [f"{data['minutes']} min"] if data.get("minutes") else []
        return "; ".join(parts)
