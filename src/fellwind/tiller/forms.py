"""Forms of the tiller; each becomes the same pencil line as a maker would write."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from django import forms

from bowyery.bow.bow import SIDES
from bowyery.errors import UnreadableError
from bowyery.tiller import pencil
from bowyery.tiller.kinds import EYE, KINDS, ReadingKind
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, World
from fellwind.kit.fields import CountField
from fellwind.kit.measures import MeasuredForm, MeasureField

_ASKED = [kind for kind in KINDS.values() if kind.asked is not None]
_STRINGS = [
    ("", "as before"),
    ("long", "long, slack"),
    ("low", "low brace"),
    ("full", "full brace"),
    ("zero", "zero brace: it just clears the grip"),
]


@dataclass(frozen=True)
class Written:
    """A reading that is written as in the pencil line: figures with their places, a side, a run.

    Attributes:
        label: of its field; ``{limb}`` is filled in.
        before: what stands before it in the line.
        hints: what may be written, in each world.
        limbs: it is read of each limb.
        run: several figures with places may follow one another.
    """

    label: str
    before: str
    hints: tuple[str, str]
    limbs: bool = True
    run: bool = True


WRITTEN: dict[str, Written] = {
    "deepest": Written("Deepest gap, {limb}, and where", "{limb} deepest",
                       ("6 1/2 at 14", "165 at 350"), run=False),
    "offset": Written("{limb} off a straight line, fade to nock", "{limb} offset",
                      ("1/2 at 14 and 3/8 at 20", "12 at 350 and 9 at 500")),
    "outline": Written("{limb} traced below its fade", "{limb} outline",
                       ("4 1/2 at 20 and 8 at 28", "115 at 500 and 200 at 700")),
    "travel": Written("{limb} tip's further way between two draws", "{limb} travel",
                      ("3 from 18 to 22", "76 from 460 to 560"), run=False),
    "lies": Written("{limb} limb unstrung, off the handle's line", "{limb} lies",
                    ("1/2 belly at 20, 1/8 back at 12", "12 belly at 500, 3 back at 300")),
    "thick": Written("{limb} thickness at marks", "{limb} thick",
                     ("33/64 at 12 and 31/64 at 18", "13.1 at 300 and 12.3 at 450")),
    "wide": Written("{limb} width at marks", "{limb} wide",
                    ("1 1/4 at 12", "32 at 300")),
    "block": Written("{limb}, marked stiff by the pencil block", "block {limb}",
                     ("8 to 12, 20 to 24", "200 to 300, 500 to 600")),
    "sideways": Written("{limb} bends aside, seen from the belly", "{limb} sideways",
                        ("3/8 left", "10 left"), run=False),
    "twist": Written("{limb} twisted by, in degrees", "{limb} twist",
                     ("4 left", "4 left"), run=False),
    "string_off": Written("String off the middle of the grip", "string off",
                          ("1/4 left", "6 left"), limbs=False, run=False),
    "tilt": Written("Grip tips over by, in degrees", "tilt",
                    ("2 upper", "2 upper"), limbs=False, run=False),
    "hook": Written("Hook pulled off the middle", "hook",
                    ("1/2 up, or middle", "12 up, or middle"), limbs=False, run=False),
}  # fmt: skip

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


def _written_fields() -> Iterator[tuple[str, forms.Field]]:
    for name, row in WRITTEN.items():
        for limb in SIDES if row.limbs else ("",):
            label = row.label.format(limb=limb)
            key = f"{limb}_{name}" if limb else name
            yield (
                key,
                forms.CharField(
                    max_length=300, required=False, label=label[:1].upper() + label[1:]
                ),
            )


class ReadingForm(MeasuredForm):
    """A tiller check by form."""

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
    client_id = forms.UUIDField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, tree: Tree | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.tree = tree or Tree()
        metric = self.shown.world == METRIC
        for name, field in self.fields.items():
            word = name.split("_", 1)[-1] if name.startswith(SIDES) else name
            row = WRITTEN.get(word)
            if row is not None:
                field.help_text = row.hints[metric]
            elif word in _SEVERAL:
                field.help_text = _SEVERAL[word][metric].partition(f" {word} ")[2]
            if name.startswith(SIDES):
                field.widget.attrs["data-of"] = name
        self.fields["gap_at"].help_text = (
            "empty: at the fades; or a place from the centre, or such as "
            + ("100 from nock" if metric else "4 from nock")
        )

    def run(self) -> list[tuple[str, list[tuple[str, list[tuple[str, str, bool]]]]]]:
        """A straight edge slid along: by limb its marks, each with gaps to press: name of the
        field, gap, and whether it was pressed.
        """
        step, unit = RUN_STEP[self.world]
        rows = []
        for k, limb in enumerate(SIDES):
            reach = (self.tree.reach or (0.8, 0.8))[k]
            marks = []
            for n in range(2, int((reach - 0.04) / (step * unit)) + 1):
                at = f"{n * step:g}"
                name = self.add_prefix(f"run-{limb}-{at}")
                given = self.data.get(name) if self.is_bound else None
                marks.append((at, [(name, gap, gap == given) for gap in RUN_GAPS[self.world]]))
            rows.append((str(limb), marks))
        return rows

    def _run_parts(self) -> list[str]:
        """What was pressed of the run, as parts of the line, with units."""
        sign = "in" if self.world == IMPERIAL else "mm"
        parts = []
        for limb, marks in self.run():
            for at, gaps in marks:
                parts += [f"{limb} edge {gap} {sign} at {at} {sign}" for _, gap, on in gaps if on]
        return parts

    @property
    def world(self) -> World:
        """The world that its page was written in."""
        given = self.data.get(self.add_prefix("page_world")) if self.is_bound else None
        return METRIC if (given or self.shown.world) == METRIC else IMPERIAL

    def clean(self) -> dict[str, Any]:
        """Refuse half a reading, and what cannot be read, beside its field."""
        data = super().clean()
        weight, draw = data.get("weight"), data.get("draw")
        at_draw = any(data.get(name) for name in self._names("draw"))
        if weight and not draw and "draw" not in self.errors:
            self.add_error("draw", "A weight needs the draw it was read at.")
        if draw and not at_draw and "weight" not in self.errors:
            self.add_error("weight", "Write the weight, or a tip height, read at that draw.")
        if data.get("sank") and not weight and "weight" not in self.errors:
            self.add_error("weight", "Write the weight that it sank to.")
        if data.get("string_at") and data.get("string") in ("", "zero", None):
            self.add_error("string", "Say which string is on.")
        for name, line in self._each():
            try:
                pencil.parse(line, self.world, self.tree)
            except UnreadableError as error:
                self.add_error(name, str(error))
        if not self.errors and not self.line():
            self.add_error("weight", "Nothing was read yet: write a weight, a gap or a tip height.")
        return data

    def _names(self, figure: str) -> list[str]:
        """Fields of the kinds whose form has a figure in it."""
        kinds = [kind for kind in _ASKED if kind.forms and f"{{{figure}}}" in kind.forms[0]]
        return [name for kind in kinds for name, _ in _places(kind)]

    def _each(self) -> Iterator[tuple[str, str]]:
        """Fields that are written as in the pencil line, each with its part of the line."""
        data = self.cleaned_data
        for kind in _ASKED:
            for name, limb in _places(kind):
                given = data.get(name)
                if kind.asked and kind.asked.several and isinstance(given, str) and given.strip():
                    yield name, self._written(kind, name, limb)
        place = str(data.get("gap_at") or "").strip()
        for name, limb in (("upper_gap", "upper"), ("lower_gap", "lower")):
            if place and data.get(name):
                yield "gap_at", f"{limb} gap {self.text(name)} at {place}"
        for name, row in WRITTEN.items():
            for limb in SIDES if row.limbs else ("",):
                key = f"{limb}_{name}" if limb else name
                given = str(data.get(key) or "").strip().strip(",;")
                if given:
                    yield key, _run(row.before.format(limb=limb), given, row.run)

    def line(self) -> str:
        """The check as a pencil line, with units."""
        data = self.cleaned_data
        parts = []
        string = data.get("string")
        if string == "zero":
            parts.append("zero brace")
        elif string:
            parts.append(f"string {string} {self.text('string_at')}".strip())
        written = dict(self._each())
        if data.get("brace"):
            parts.append(f"brace {self.text('brace')}")
        parts += [written.pop("hook")] if "hook" in written else []
        for kind in _ASKED:
            for name, limb in _places(kind):
                if kind.name == "gap" and data.get("gap_at"):
                    if data.get(name):
                        parts.append(f"{limb} gap {self.text(name)} at {data['gap_at'].strip()}")
                    continue
                one = written.pop(name, None) or self._written(kind, name, limb)
                parts += [one] if one else []
        written.pop("gap_at", None)
        parts += written.values()
        parts += self._run_parts()
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
        sank = self.text("sank") if self.cleaned_data.get("sank") else ""
        figures = {"draw": draw, "sank": sank}
        form = kind.forms[0] if kind.forms else f"{{limb}} {kind.word} {{value}}"
        form = re.sub(
            r"\[[^\]]*\{(\w+)\}\]", lambda m: m[0][1:-1] if figures.get(m[1]) else "", form
        )
        if "{draw}" in form and not draw:
            return ""
        return form.format(limb=limb, value=self.text(name), **figures)

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


def _run(before: str, given: str, run: bool) -> str:
    """Figures of one field as a part of the line, each with what stands before it."""
    if not run:
        return f"{before} {given}"
    parts = re.split(r"\s*;\s*|,\s+|\s+and\s+", given)
    return "; ".join(f"{before} {one}" for one in parts if one)


def _places(kind: ReadingKind) -> list[tuple[str, str]]:
    """Names of a kind's fields, with their limbs."""
    if not kind.of_limb:
        return [(kind.word, "")]
    return [(f"{limb}_{kind.word}", limb) for limb in SIDES]


# Readings of which several stand in one field, with examples of each world.
_SEVERAL = {kind.word: kind.examples for kind in _ASKED if kind.asked and kind.asked.several}
_rows = dict(_fields())
ReadingForm.base_fields = (
    {name: _rows.pop(name) for name in ("weight", "draw")}
    | {"sank": ReadingForm.base_fields["sank"]}
    | {n: f for n, f in _rows.items() if not n.endswith("_deepest")}
    | dict(_written_fields())
    | {n: f for n, f in ReadingForm.base_fields.items() if n != "sank"}
)


class RemovalForm(MeasuredForm):
    """Wood taken, by form."""

    FACES = [
        ("", "the belly"),
        ("sides", "each side"),
        ("edges", "the edges"),
        ("back", "the back: bark, or skin"),
        ("facets", "the facets"),
    ]
    limb = forms.ChoiceField(
        choices=[("upper", "upper limb"), ("lower", "lower limb"), ("both", "both limbs")]
    )
    strokes = CountField("strokes", required=False)
    tool = forms.CharField(
        max_length=38, required=False, label="with", help_text="empty: the tool in hand"
    )
    start = MeasureField("place on a limb", required=False, label="from (centre)")
    end = MeasureField("place on a limb", required=False, label="to (centre)")
    face = forms.ChoiceField(choices=FACES, required=False, label="off")
    thickness = MeasureField(
        "wood off",
        required=False,
        label="or thickness taken",
        help_text="as the caliper shows, where strokes were not counted",
    )
    pulls = CountField("pulls", required=False, label="Short pulls given since")
    minutes = CountField("minutes", required=False, label="Minutes spent")
    client_id = forms.UUIDField(widget=forms.HiddenInput)

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

    def clean(self) -> dict[str, Any]:
        """Refuse half a removal."""
        data = super().clean()
        both = bool(data.get("thickness")) == bool(data.get("strokes"))
        if both and not (self.errors.keys() & {"thickness", "strokes"}):
            self.add_error("strokes", "Give either the number of strokes or the thickness taken.")
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
        face = f" {data['face']}" if data.get("face") else ""
        tool = (data.get("tool") or self.in_hand) if data.get("strokes") else data.get("tool")
        tool = f" with {tool}" if tool else ""
        parts = [f"off {data['limb']} {amount}{face}{where}{tool}"]
        parts += [f"{data['pulls']} pulls"] if data.get("pulls") else []
        parts += [f"{data['minutes']} min"] if data.get("minutes") else []
        return "; ".join(parts)


class SeeForm(MeasuredForm):
    """What somebody sees: a stretch that was pressed, or a limb."""

    LIMB_WORDS = {"lower less": "lower bends less", "upper less": "upper bends less"}
    how = forms.ChoiceField(choices=[(k, k) for k in (*EYE, *LIMB_WORDS)])
    limb = forms.ChoiceField(choices=[("", ""), *((s, s) for s in SIDES)], required=False)
    start = forms.CharField(max_length=20, required=False)
    end = forms.CharField(max_length=20, required=False)
    client_id = forms.UUIDField(required=False)

    def clean(self) -> dict[str, Any]:
        """A stretch is needed for all that is said of one."""
        data = super().clean()
        how = data.get("how")
        if how in EYE and not (data.get("limb") and data.get("start") and data.get("end")):
            self.add_error(None, f"Press a stretch of the limb first, then say {how}.")
        return data

    def line(self) -> str:
        """It as a pencil line, in the page's units."""
        data = self.cleaned_data
        if data["how"] in self.LIMB_WORDS:
            return self.LIMB_WORDS[data["how"]]
        return f"{data['how']} {data['limb']} {data['start']} to {data['end']}"
