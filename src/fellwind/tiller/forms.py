"""Forms of the tiller; each becomes the same pencil line as a maker would write."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from django import forms

from bowyery.bow.bow import SIDES
from bowyery.tiller.kinds import ACTS, READINGS, ROWS
from bowyery.tiller.kinds.eye import EYE
from bowyery.tiller.kinds.kind import Asked, Kind, Press
from bowyery.tiller.kinds.marks import MARKS
from bowyery.tiller.kinds.removed import FACES
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, World
from bowyery.wood import materials
from fellwind.builds.forms import BuildForm
from fellwind.builds.lined import LinedForm, each
from fellwind.kit.fields import CountField
from fellwind.kit.measures import MeasuredForm, MeasureField

_STRINGS = [
    ("", "as before"),
    ("long", "long, slack"),
    ("low", "low brace"),
    ("full", "full brace"),
    ("zero", "zero brace: it just clears the grip"),
]


# A straight edge slid along a limb: gaps that can be pressed at each mark, and the marks, from the
# centre, in each world.
RUN_GAPS: dict[World, tuple[str, ...]] = {
    IMPERIAL: ("0", "1/32", "1/16", "3/32", "1/8", "5/32", "3/16"),
    METRIC: ("0", "0.8", "1.6", "2.4", "3.2", "4", "4.8"),
}
RUN_STEP: dict[World, tuple[float, float]] = {IMPERIAL: (3.0, INCH), METRIC: (75.0, 0.001)}

# What is usually read on each rung of the ladder, by field.
USUAL: dict[str, tuple[str, ...]] = {
    "long": ("weight", "draw", "upper_tip", "lower_tip"),
    "low": ("weight", "draw", "upper_gap", "lower_gap"),
    "full": ("weight", "draw", "upper_gap", "lower_gap", "upper_edge", "lower_edge"),
}


# Every field of a reading by its name, with its kind and limb.
ASKED: dict[str, tuple[Kind, Asked, str]] = {
    name: (kind, asked, limb)
    for kind in ROWS
    for asked in kind.asked
    for name, limb in asked.names()
}


def _field(asked: Asked, limb: str) -> forms.Field:
    label = asked.label.format(limb=limb)
    label = label[:1].upper() + label[1:]
    if asked.bound:
        return MeasureField(asked.bound, required=False, label=label)
    return forms.CharField(max_length=300, required=False, label=label)


class ReadingForm(LinedForm):
    """A tiller check by form."""

    NOTHING = "Nothing was read yet: write a weight, a gap or a tip height."
    BLAMED = "weight"

    draw = MeasureField("draw", required=False, label="at a draw of")
    sank = MeasureField("hold", required=False, label="Sank in the hold by")
    brace = MeasureField("brace on the tree", required=False, label="Brace height")
    gap_at = forms.CharField(
        max_length=40, required=False, label="Gaps read at", help_text="empty: at the fades"
    )
    string = forms.ChoiceField(choices=_STRINGS, required=False)
    string_at = MeasureField(
        "string on the tree", required=False, label="its brace, or length if long"
    )
    minutes = CountField("minutes", required=False, label="Minutes spent")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        metric = self.shown.world == METRIC
        for name, (_, asked, limb) in ASKED.items():
            self.fields[name].help_text = asked.hints[metric]
            if limb:
                self.fields[name].widget.attrs["data-of"] = name
        self.fields["gap_at"].help_text = (
            "empty: at the fades; or a place from the centre, or such as "
            + ("100 from nock" if metric else "4 from nock")
        )

    def run(self) -> list[tuple[str, list[tuple[str, list[tuple[str, str, bool]]]]]]:
        """A straight edge slid along: by limb its marks, each with gaps to press: name of the
        field, gap, and whether it was pressed.
        """
        step, unit = RUN_STEP[self.reads_in]
        rows = []
        for k, limb in enumerate(SIDES):
            reach = (self.tree.reach or (0.8, 0.8))[k]
            marks = []
            for n in range(2, int((reach - 0.04) / (step * unit)) + 1):
                at = f"{n * step:g}"
                name = self.add_prefix(f"run-{limb}-{at}")
                given = self.data.get(name) if self.is_bound else None
                marks.append((at, [(name, gap, gap == given) for gap in RUN_GAPS[self.reads_in]]))
            rows.append((str(limb), marks))
        return rows

    def _run_parts(self) -> list[str]:
        """What was pressed of the run, as parts of the line, with units."""
        sign = "in" if self.reads_in == IMPERIAL else "mm"
        parts = []
        for limb, marks in self.run():
            for at, gaps in marks:
                parts += [f"{limb} edge {gap} {sign} at {at} {sign}" for _, gap, on in gaps if on]
        return parts

    def look(self) -> None:
        """Refuse half a reading."""
        data = self.cleaned_data
        at_draw = any(
            data.get(name) for name, (kind, asked, _) in ASKED.items() if _at_draw(kind, asked)
        )
        if data.get("weight") and not data.get("draw"):
            self.want("draw", "A weight needs the draw it was read at.")
        if data.get("draw") and not at_draw:
            self.want("weight", "Write the weight, or a tip height, read at that draw.")
        if data.get("sank") and not data.get("weight"):
            self.want("weight", "Write the weight that it sank to.")
        if data.get("string_at") and data.get("string") in ("", "zero", None):
            self.add_error("string", "Say which string is on.")

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """The string first, then every reading, then the minutes."""
        data = self.cleaned_data
        string = data.get("string")
        if string == "zero":
            yield "string", "zero brace"
        elif string:
            yield "string_at", f"string {string} {self.text('string_at')}".strip()
        if data.get("brace"):
            yield "brace", f"brace {self.text('brace')}"
        first = sorted(ASKED, key=lambda name: name != "hook")  # what holds for all that follows
        for name in first:
            text = self._part(name, *ASKED[name])
            if text:
                blamed = name.endswith("_gap") and str(data.get("gap_at") or "").strip()
                yield "gap_at" if blamed else name, text
        for text in self._run_parts():
            yield None, text
        if data.get("minutes"):
            yield "minutes", f"{data['minutes']} min"

    def _part(self, name: str, kind: Kind, asked: Asked, limb: str) -> str:
        """What stands in a field, as a part of the line."""
        given = self.cleaned_data.get(name)
        if not given:
            return ""
        before = asked.before.format(limb=limb)
        if isinstance(given, str):
            given = given.strip().strip(",;")
            if not asked.run:
                return f"{before} {given}" if given else ""
            reading = READINGS.get(kind.name)
            joined = reading is not None and bool(reading.word) and "at" in reading.needs
            figures = [one for one in re.split(r"\s*;\s*|,\s+|\s+and\s+", given) if one]
            return each(before, figures, joined) if figures else ""
        text = f"{before} {self.text(name)}".strip()
        place = str(self.cleaned_data.get("gap_at") or "").strip()
        if name.endswith("_gap"):
            return f"{text} at {place}" if place else text
        if _at_draw(kind, asked) and self.cleaned_data.get("draw"):
            text += f" at {self.text('draw')}"
        elif name == "weight":
            return ""
        sank = self.cleaned_data.get("sank") if name == "weight" else None
        return f"{text} sank {self.text('sank')}" if sank else text

    def groups(self, first: Iterable[str], usual: Iterable[str]) -> "Groups":
        """Its fields in the order of the work.

        Args:
            first: fields of the reading that would tell most.
            usual: fields that are usual on this rung of the ladder.
        """
        names = [bound.name for bound in self.visible_fields()]
        wrong = set(self.errors)
        top = [n for n in dict.fromkeys(first) if n in names]
        then = [n for n in dict.fromkeys(usual) if n in names and n not in top]
        then += ["string", "string_at"]
        rest = [n for n in names if n not in top and n not in then]
        opened = (
            bool(wrong & set(rest))
            or bool(self.is_bound and self._run_parts())
            or any(self.data.get(self.add_prefix(n)) for n in rest if self.is_bound)
        )
        fields = [[self[n] for n in part] for part in (top, then, rest)]
        return Groups(fields[0], fields[1], fields[2], opened)


@dataclass(frozen=True)
class Groups:
    """Fields of a reading: what would tell most, what is usual now, and the rest."""

    first: list[forms.BoundField]
    usual: list[forms.BoundField]
    rest: list[forms.BoundField]
    opened: bool


def _at_draw(kind: Kind, asked: Asked) -> bool:
    """Whether its figure is read at the draw of the form."""
    return bool(asked.bound) and any("{value}" in f and "{draw}" in f for f in kind.forms)


def fields_of(kind: str, limb: str | None) -> tuple[str, ...]:
    """The fields that ask for a kind of reading, with weight and draw where it is read at one."""
    mine = [
        (name, _at_draw(row, asked))
        for name, (row, asked, side) in ASKED.items()
        if row.name == kind and side in ("", limb)
    ]
    drawn = ("weight", "draw") if any(at for _, at in mine) else ()
    return tuple(dict.fromkeys((*drawn, *(name for name, _ in mine))))


_own = ReadingForm.base_fields
_asked = {name: _field(asked, limb) for name, (_, asked, limb) in ASKED.items()}
ReadingForm.base_fields = (
    {"weight": _asked["weight"], "draw": _own["draw"], "sank": _own["sank"]} | _asked | _own
)


class RemovalForm(LinedForm):
    """Wood taken, by form."""

    limb = forms.ChoiceField(
        choices=[("upper", "upper limb"), ("lower", "lower limb"), ("both", "both limbs")]
    )
    strokes = CountField("strokes", required=False)
    tool = forms.CharField(
        max_length=38, required=False, label="with", help_text="empty: the tool in hand"
    )
    start = MeasureField("place on a limb", required=False, label="from (centre)")
    end = MeasureField("place on a limb", required=False, label="to (centre)")
    face = forms.ChoiceField(
        choices=[("", "the belly"), *((name, face.words) for name, face in FACES.items())],
        required=False,
        label="off",
    )
    thickness = MeasureField(
        "wood off",
        required=False,
        label="or thickness taken",
        help_text="as the caliper shows, where strokes were not counted",
    )
    pulls = CountField("pulls", required=False, label="Short pulls given since")
    minutes = CountField("minutes", required=False, label="Minutes spent")

    def __init__(self, *args: Any, in_hand: str = "", **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.in_hand = in_hand
        self.fields["tool"].widget.attrs["list"] = "tools"

    def clean_tool(self) -> str:
        """The tool's name, as the pencil line reads it."""
        tool = " ".join(self.cleaned_data["tool"].lower().split())
        if tool and not re.fullmatch(r"[a-z][a-z '’-]{1,38}", tool):
            raise forms.ValidationError("Write the tool's name in letters, such as scraper.")
        return tool

    def look(self) -> None:
        """Refuse half a removal."""
        data = self.cleaned_data
        both = bool(data.get("thickness")) == bool(data.get("strokes"))
        if both and not (self.errors.keys() & {"thickness", "strokes"}):
            self.add_error("strokes", "Give either the number of strokes or the thickness taken.")
        start, end = data.get("start"), data.get("end")
        if bool(start) != bool(end):
            missing = "end" if start else "start"
            self.add_error(missing, "Give both places, or neither for the whole limb.")
        elif start and end and start.value >= end.value:
            self.add_error("end", "This lies nearer the centre than where it starts.")

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """What came off, pulls, and the minutes."""
        data = self.cleaned_data
        strokes = data.get("strokes")
        amount = f"{strokes} strokes" if strokes else self.text("thickness")
        if amount and data.get("limb"):
            where = f" from {self.text('start')} to {self.text('end')}" if data.get("start") else ""
            face = f" {data['face']}" if data.get("face") else ""
            tool = data.get("tool") or (self.in_hand if strokes else "")
            tool = f" with {tool}" if tool else ""
            yield None, f"off {data['limb']} {amount}{face}{where}{tool}"
        if data.get("pulls"):
            yield "pulls", f"{data['pulls']} pulls"
        if data.get("minutes"):
            yield "minutes", f"{data['minutes']} min"


class LeastForm(MeasuredForm):
    """The finished weight that evening may cost the bow down to."""

    floor = BuildForm.base_fields["floor"]  # as it is asked where a build begins

    def __init__(self, *args: Any, wanted: float, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.wanted = wanted

    def clean_floor(self) -> Any:
        """No more than is wanted."""
        given = self.cleaned_data["floor"]
        if given and given.value > self.wanted:
            raise forms.ValidationError("That is more than the weight that is wanted.")
        return given


class SeeForm(LinedForm):
    """What somebody sees: a stretch that was pressed, or a limb."""

    LIMB_WORDS = {"lower less": "lower bends less", "upper less": "upper bends less"}
    how = forms.ChoiceField(choices=[(k, k) for k in (*EYE, *MARKS, *LIMB_WORDS)])
    limb = forms.ChoiceField(choices=[("", ""), *((s, s) for s in SIDES)], required=False)
    start = forms.CharField(max_length=20, required=False)
    end = forms.CharField(max_length=20, required=False)

    def _stretch(self) -> list[str]:
        return [self.cleaned_data.get(name) or "" for name in ("limb", "start", "end")]

    def look(self) -> None:
        """A stretch is needed for all that is said of one."""
        how = self.cleaned_data.get("how")
        if how in (*EYE, *MARKS) and not all(self._stretch()):
            self.add_error(None, f"Press a stretch of the limb first, then say {how}.")

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """What is seen, where, or of which limb."""
        how, (limb, start, end) = self.cleaned_data.get("how"), self._stretch()
        if how in self.LIMB_WORDS:
            yield None, self.LIMB_WORDS[how]
        elif how and limb and start and end:
            yield None, f"{how} {limb} {start} to {end}"


PRESSES: dict[str, Press] = {one.name: one for kind in ACTS.values() for one in kind.presses}
_NEEDED = {
    "length": "Write how much.",
    "thickness": "Write how thick.",
    "angle": "Write by how many degrees.",
    "material": "Write what it is of.",
    "start": "Say where, from the centre.",
    "end": "Say where it ends.",
}


class ActForm(LinedForm):
    """Something done to the bow other than taking wood, by form."""

    act = forms.ChoiceField(
        choices=[(name, one.words) for name, one in PRESSES.items()], label="What was done"
    )
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

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["material"].widget.attrs["list"] = "backings"

    def look(self) -> None:
        """Each act needs its own figures, and no act is done to a limb it cannot be done to."""
        data = self.cleaned_data
        if data.get("act") not in PRESSES:
            return
        press = PRESSES[data["act"]]
        for name, sentence in _NEEDED.items():
            if name in press.asks and not data.get(name):
                self.want(name, sentence)
        if press.limbs and data.get("limb") not in press.limbs:
            self.want("limb", "Say which limb.")
        start, end = data.get("start"), data.get("end")
        if "start?" in press.asks and bool(start) != bool(end):
            self.want("end" if start else "start", "Give both places, or neither.")
        if start and end and start.value >= end.value:
            self.want("end", "This lies nearer the centre than where it starts.")

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """The act, and the minutes."""
        data = self.cleaned_data
        press = PRESSES.get(data.get("act", ""))
        if press is not None and not self.errors:
            limb, start, end = data["limb"], self.text("start"), self.text("end")
            stretch = f" {start} to {end}" if start and end else ""
            yield (
                None,
                press.line.format(
                    limb=limb,
                    ends="both ends" if limb == "both" else f"{limb} end",
                    length=self.text("length"),
                    thickness=self.text("thickness"),
                    angle=data.get("angle"),
                    way=data.get("way") or "up",
                    material=str(data.get("material")).strip().lower(),
                    stretch=stretch,
                    where=stretch or f" {start}",
                    colour=f" {data['colour']}" if data.get("colour") else "",
                    minutes=f" {data['heat_minutes']} min" if data.get("heat_minutes") else "",
                ).strip(),
            )
        if data.get("minutes"):
            yield "minutes", f"{data['minutes']} min"


def fields_shown(press: Press) -> str:
    """The fields that an act asks for, with spaces between them."""
    return " ".join(name.rstrip("?") for name in press.asks)


def backings() -> list[str]:
    """What can be laid on a back, by name."""
    return sorted(materials.backings())
