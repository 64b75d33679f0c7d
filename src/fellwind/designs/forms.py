"""The design form."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from django import forms
from django.forms import BoundField
from django.utils.html import format_html

from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import GAP_WANTED
from bowyery.design.figures import FIGURES, GROUPS, PAPER, Figure, Figures, asked
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.units.draw_ruler import ANCHORS, PIVOT, TOLD_BY, draw_by_reach
from bowyery.units.quantity import INCH, Units
from fellwind.designs import rows
from fellwind.designs.models import Design
from fellwind.designs.services import (
    core_inputs,
    core_of,
    default_length,
    knows_now,
    usual_length,
)
from fellwind.drawing.bend import bend_picture
from fellwind.kit.fields import NumberField, WholeField, choose
from fellwind.kit.measures import Measured, MeasuredForm, MeasureField
from fellwind.kit.versions import VersionedForm
from fellwind.rack.models import Stave
from fellwind.shop import book
from fellwind.shop.models import FINGERS, Archer
from fellwind.shop.services import NO_WOOD, material_choices


@dataclass(frozen=True)
class Group:
    """What opens at a place on the picture: its title and fields, whether one is wrong, whether it
    is used.
    """

    title: str
    fields: list[BoundField]
    wrong: bool
    used: bool


@dataclass(frozen=True)
class WidthRows:
    """Drawn widths of a limb: at the fade's end, at places between with their numbers, and at the
    nock.
    """

    side: str
    root: BoundField
    inner: list[tuple[BoundField, BoundField, int]]
    nock: BoundField


def _field(name: str, figure: Figure) -> forms.Field:
    """The field of a figure, as its table says."""
    usual = getattr(Figures(), name)
    told: dict[str, Any] = {"label": figure.label, "help_text": figure.help}
    if figure.how in ("size", "maybe"):
        required = figure.how == "size"
        return MeasureField(figure.bound, required=required, initial=usual, **told)
    if figure.how == "share":
        return WholeField(figure.bound, unit="%", initial=round(100 * usual), **told)
    required = "" not in figure.options and figure.how != "layer"
    choices = list(figure.options.items())
    field = forms.ChoiceField(choices=choices, required=required, initial=usual, **told)
    if name == "family":
        field.choices = [
            (one, format_html("{} {}", bend_picture(one), one)) for one in figure.options
        ]
        field.widget = forms.RadioSelect(choices=field.choices)
    return field


# What other figures follow while nobody has touched those.
FOLLOWED = ("stave", "length", "weight", "back", "belly")


class DesignForm(VersionedForm):
    """Archer, wood, length, and the figures of the core's table. Weight, draw and fingers come from
    the archer when left empty.
    """

    name = forms.CharField(max_length=80, help_text="what it is, such as wych-elm flatbow")
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label="choose one")
    stave = forms.ModelChoiceField(
        Stave.objects.all(), required=False, empty_label="none yet: wood from the list"
    )
    material = forms.ChoiceField(
        label="Wood", required=False, help_text="the stave's own wood counts when one is chosen"
    )
    weight = MeasureField("wanted weight", required=False, label="Wanted weight")
    draw = MeasureField("archer's draw", required=False, label="Draw")
    draw_by = forms.ChoiceField(
        choices=[(one.key, one.words) for one in TOLD_BY.values()], required=False, label="Told by"
    )
    reach = MeasureField(
        "archer's reach", required=False, label="or fingertip to fingertip",
        help_text="arms held out sideways, where no draw is known",
    )  # fmt: skip
    anchor = forms.ChoiceField(
        choices=[(one, one) for one in ANCHORS], required=False, label="String hand comes to"
    )
    fingers = forms.ChoiceField(choices=[("", "as the archer"), *FINGERS.items()], required=False)
    length = MeasureField(
        "bow length",
        required=False,
        label="Bow length, nock to nock",
        help_text="empty: as school A has it, or as long as the wood wants where that is longer",
    )
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))
    # What the rows are asked by: the layout it began with, and which of them there are; and which
    # fields somebody has touched.
    kind, drawn, own_lower, line_upper, line_lower, touched = (
        forms.CharField(required=False, max_length=most, widget=forms.HiddenInput)
        for most in (40, 1, 1, 1, 1, 4000)
    )

    # What is asked first, and what opens at its place on the picture; the rows come beside.
    QUESTIONS = (
        ("For whom", ("archer", "fingers")),
        ("From what", ("stave", "material")),
        ("Which kind", ()),
        ("How long", ("length",)),
        ("How heavy", ("weight", "draw")),
    )
    EMPTY = {
        "name": "Name it",
        "weight": "as the archer",
        "draw": "as the archer",
    }
    UNDRAWN = ("width", "parallel", "root_width", "tip_width")  # what a drawn outline says instead

    def __init__(self, *args: Any, tried: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        stuff = book.shelf()
        layers = [
            ("", "none"),
            *((name, name) for name in (*stuff.backings, *stuff.woods)),
        ]
        choose(self, [NO_WOOD, *material_choices(stuff)], "material")
        choose(self, layers, "back", "belly")
        given: Mapping[str, Any] = self.data if self.is_bound else self.initial
        self.names = rows.add_rows(self, given, layers[1:])
        self.is_drawn = bool(given.get("drawn"))
        if self.is_drawn:  # these wait, unread, for the day the outline is let go
            for name in self.UNDRAWN:
                self.fields[name].required = False
        choose(self, ((name, name) for name in stuff.fibres), "fibre")
        low, high = (self.shown.length(end) for end in GAP_WANTED["one above, two below"])
        self.fields["gap"].help_text = (
            f"at brace; empty: {low} to {high} for split fingers, which load the lower limb more,"
            " and alike for three under. Below zero: the lower"
        )
        for name, words in self.EMPTY.items():
            self.fields[name].widget.attrs["placeholder"] = words
        for name in FOLLOWED:
            self.fields[name].widget.attrs["data-follow"] = name
        self.fields["name"].required = not tried  # what is only tried needs no name yet

    # Groups that are marked as used where one of these is given.
    USED = {"Layers": ("back", "belly", "lam_root_0"), "Back-bow": ("back_bow_length",)}
    ROWS_OF = {"Outline": ("wide", "at"), "Natural line": ("lies",), "Layers": ("lam",)}

    def questions(self) -> list[tuple[str, list[BoundField]]]:
        """The five questions, each with its fields."""
        return [(title, [self[name] for name in names]) for title, names in self.QUESTIONS]

    OTHERWISE = ("draw_by", "reach", "anchor")

    def otherwise(self) -> list[BoundField]:
        """How a draw is told otherwise than to the grip."""
        return [self[name] for name in self.OTHERWISE]

    @property
    def told_otherwise(self) -> bool:
        """Whether this draw is, or something is wrong with how."""
        by = self["draw_by"].value()
        return bool(by and by != PIVOT.key) or any(
            self[name].errors or (name == "reach" and self[name].value()) for name in self.OTHERWISE
        )

    def groups(self) -> list[Group]:
        """What opens at its place on the picture, in the order along the bow."""
        found = []
        for title in GROUPS:
            names = [name for name, figure in FIGURES.items() if figure.group == title]
            names += ["notes"] if title == PAPER else []
            held = self.is_drawn and title == "Outline"
            fields = [] if held else [self[name] for name in names]
            kinds = self.ROWS_OF.get(title, ())
            theirs = [n for n in rows.row_names(self.names) if set(kinds) & set(n.split("_"))]
            wrong = any(self[name].errors for name in (*names, *theirs) if name in self.fields)
            used = any(
                self[name].value() for name in self.USED.get(title, ()) if name in self.fields
            )
            found.append(Group(title, fields, wrong, used))
        return found

    def undrawn(self) -> list[BoundField]:
        """What a drawn outline says instead."""
        return [self[name] for name in self.UNDRAWN]

    def width_rows(self) -> list[WidthRows]:
        """Drawn widths by limb: each row its place, none at the fade's end and the nock, and its
        width.
        """
        found = []
        for side in SIDES:
            if f"{side}_wide_root" not in self.fields:
                continue
            inner = [
                (self[f"{side}_at_{k}"], self[f"{side}_wide_{k}"], k)
                for k in self.names.widths[side]
            ]
            found.append(
                WidthRows(side, self[f"{side}_wide_root"], inner, self[f"{side}_wide_nock"])
            )
        return found

    def line_rows(self) -> list[tuple[str, list[tuple[BoundField, BoundField, int]], BoundField]]:
        """The natural line by limb, where it is given by points."""
        return [
            (
                side,
                [
                    (self[f"{side}_lies_at_{k}"], self[f"{side}_lies_{k}"], k)
                    for k in self.names.line[side]
                ],
                self[f"{side}_lies_nock"],
            )
            for side in SIDES
            if f"{side}_lies_nock" in self.fields
        ]

    def lam_rows(self) -> list[tuple[int, list[BoundField]]]:
        """Further layers, each with its number."""
        return [(k, [self[f"lam_{what}_{k}"] for what in rows.LAM]) for k in self.names.lams]

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if data.get("tip_bent") and data.get("tip_angle") and not data["tip_angle"].value:
            self.add_error("tip_angle", "Say by how much the tip is bent.")
        if sum(int(data.get(f"lam_count_{k}") or 1) for k in self.names.lams) > rows.MOST_LAMS:
            self.add_error(f"lam_count_{self.names.lams[-1]}", "Eight further lams are the most.")
        for k in self.names.lams:
            root, nock = data.get(f"lam_root_{k}"), data.get(f"lam_nock_{k}")
            if root and nock and not max(root.value, nock.value):
                self.add_error(f"lam_root_{k}", "Say how thick this lam is.")
        if not data.get("stave") and not data.get("material"):
            self.add_error("material", "Choose a wood, or a stave from the rack.")
        brace, draw = data.get("brace_height"), data.get("draw")
        by_reach = bool(data.get("reach") and not draw and "draw" in data)
        if by_reach and not data.get("anchor"):
            self.add_error("anchor", "Say where the string hand comes to rest.")
        elif (
            brace
            and data.get("handle_depth")
            and (draw or by_reach)
            and self.told_draw(Archer()) < brace.value + 0.1
        ):
            self.add_error(
                "reach" if by_reach else "draw",
                "The draw must be longer than the brace height by a hand's breadth at least.",
            )
        wall, width = data.get("tube_wall"), data.get("width")
        if wall and width and data.get("section") == "tube" and 2 * wall.value > width.value:
            self.add_error(
                "tube_wall",
                "The wall is thicker than half the tube; a solid rod has half its width.",
            )
        if (
            data.get("section") == "tube"
            and not (data.get("tube_ends") or data.get("tube_stock"))
            and data.get("tip_width")
            and width
            and data["tip_width"].value != width.value
        ):
            self.add_error(
                "tip_width",
                "A tube is of one size: make the tips as wide as the limb, or say how its limbs are"
                " shaped.",
            )
        if data.get("section") == "tube" and not self.errors:
            try:
                Figures(**self.figures()).fits_a_tube()
            except DescriptionError as error:
                self.add_error(error.place, error.reason)
        for side in ("back", "belly"):
            root, nock = data.get(f"{side}_root"), data.get(f"{side}_nock")
            if data.get(side) and root and nock and not max(root.value, nock.value):
                self.add_error(f"{side}_root", "Say how thick this layer is.")
        if not self.errors and any((*self.names.widths.values(), *self.names.line.values())):
            layout = core_inputs(self.fill(Design()))[0]
            for name, words in rows.off_the_limb(self, self.names, layout).items():
                self.add_error(name, words)
        return data

    def figures(self) -> dict[str, Any]:
        """The figures that have fields of their own; what cannot be read is as usual."""
        data, found = self.cleaned_data, {}
        for name, figure in FIGURES.items():
            value = data.get(name)
            if figure.how == "maybe":
                found[name] = self.value(name)
            elif figure.how == "share" and value is not None:
                found[name] = value / 100
            elif figure.how == "size" and value is not None:
                found[name] = value.value
            elif figure.how in ("choice", "layer", "fibre") and (value or "" in figure.options):
                found[name] = value
        return found

    def told_draw(self, archer: Archer) -> float:
        """The draw to the pivot, however it is told (m)."""
        data, draw, reach = self.cleaned_data, self.value("draw"), self.value("reach")
        if draw is not None:
            return TOLD_BY[data.get("draw_by") or PIVOT.key].to_pivot(
                draw, self.given("handle_depth")
            )
        return archer.draw if reach is None else draw_by_reach(reach, data["anchor"])

    @property
    def startable(self) -> bool:
        """Whether it has been said for whom, and of what."""
        values = {name: self[name].value() for name in ("archer", "material", "stave")}
        return bool(values["archer"] and (values["material"] or values["stave"]))

    def fill(self, design: Design) -> Design:
        """Write the form into a design, without saving it."""
        data, wood = self.cleaned_data, (design.material, design.stave_id)
        archer, stave = data["archer"], data["stave"]
        design.name, design.notes, design.archer, design.stave = (
            data["name"], data["notes"], archer, stave,
        )  # fmt: skip
        design.material = stave.material if stave else data["material"]
        design.sizes = self.figures() | {"kind": data["kind"]}
        if design.pk is None or wood != (design.material, design.stave_id):
            design.learned = knows_now(design)
        design.weight = self.value("weight") or archer.weight
        design.draw = self.told_draw(archer)
        design.fingers = data["fingers"] or archer.fingers
        given = self.value("length")
        design.length = given or usual_length(design)
        design.change(**rows.shape_of(self, self.names, core_inputs(design)[0]))
        if outline := design.figures.outline:
            points = [p for side in outline.values() for p in side or ()]
            design.change(width=max(w for _, w in points), tip_width=outline["upper"][-1][1])
        if given is None:
            design.length = default_length(design, design.length)
        return design

    @classmethod
    def initial_of(cls, design: Design) -> dict[str, Any]:
        """Values of a design for editing."""
        names = (
            "name",
            "archer",
            "stave",
            "material",
            "weight",
            "draw",
            "fingers",
            "length",
            "notes",
        )
        values = {name: getattr(design, name) for name in names}
        values |= asked(asdict(design.figures))
        return values | rows.initial_rows(design, core_inputs(design)[0])


DesignForm.base_fields |= {
    name: _field(name, figure) for name, figure in FIGURES.items() if figure.how != "rows"
}


AT_MARK = {"width": "width at a mark", "thickness": "thickness at a mark"}


class MarksForm(VersionedForm):
    """Width and thickness at every mark of a bow. A figure left as it was shown keeps its exact
    value.

    The bow whose marks these are travels with the form as its bow file, so that marks can come and
    go before any is kept.
    """

    draft = forms.CharField(widget=forms.HiddenInput, required=False, max_length=bowfile.MOST_BYTES)

    def __init__(
        self,
        *args: Any,
        bow: Bow,
        shown: Units,
        keep: frozenset[str] | set[str] = frozenset(),
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, shown=shown, **kwargs)
        self.keep, self.kept = keep, bow
        self.bow = self._draft(bow)
        self.initial["draft"] = bowfile.dumps(self.bow)
        self.exact: dict[str, tuple[float, str]] = {}
        self.rows: dict[str, list[tuple[float, str, str]]] = {}
        for side, limb in zip(SIDES, self.bow.limbs, strict=True):
            self.rows[side] = []
            for number, at in enumerate(limb.at):
                names = f"{side}_width_{number}", f"{side}_thickness_{number}"
                where = f"{side} limb, mark {number + 1}"
                for name, (what, bound) in zip(names, AT_MARK.items(), strict=True):
                    self._add(
                        name,
                        f"{what.capitalize()}, {where}",
                        bound,
                        float(getattr(limb, what)[number]),
                        float(at),
                    )
                self.rows[side].append((limb.root[0] + float(at), *names))

    def _draft(self, kept: Bow) -> Bow:
        """The bow that was posted along, or the kept one."""
        text = self.data.get("draft", "") if self.is_bound else ""
        try:
            return bowfile.loads(text) if text else kept
        except BowyeryError:
            return kept

    def _add(self, name: str, label: str, bound: str, value: float, at: float) -> None:
        self.initial[name] = value
        field = self.add(name, bound, label)
        # the same figure under another number, when marks come and go
        field.widget.attrs["data-is"] = f"{name.rpartition('_')[0]} {1000 * at:.0f}"
        self.exact[name] = value, field.quantity.bare(value, Units(field.world))

    def now(self, name: str) -> object:
        """What a mark says in the kept bow; nothing for a mark that it has not."""
        which, what, number = name.split("_")
        sizes = getattr(self.kept.limbs[SIDES.index(which)], what)
        field, k = self.fields[name], int(number)
        if k >= len(sizes) or not isinstance(field, MeasureField):
            return None
        return field.quantity.bare(float(sizes[k]), self.shown)

    def locked(self) -> set[str]:
        """Names of the figures that stay as they are."""
        return (
            {name for name in self.fields if f"lock_{name}" in self.data}
            if self.is_bound
            else set(self.keep)
        )

    def tables(
        self,
    ) -> list[tuple[str, list[tuple[float, tuple[tuple[BoundField, bool], ...], bool]]]]:
        """Rows of both limbs: distance from the centre (m), width and thickness each with its lock,
        whether it may go.
        """
        held = self.locked()
        return [
            (
                side,
                [
                    (at, ((self[w], w in held), (self[t], t in held)), 0 < k < len(rows) - 1)
                    for k, (at, w, t) in enumerate(rows)
                ],
            )
            for side, rows in self.rows.items()
        ]

    # What makes one limb like the other: its words, whose figures are taken, and which of them.
    mirrors = (
        ("Lower like upper", "upper", ""), ("Lower as wide", "upper", "width"),
        ("Upper like lower", "lower", ""), ("Upper as wide", "lower", "width"),
    )  # fmt: skip

    @property
    def unit(self) -> str:
        """The unit that bare figures are in."""
        return self.unit_of(str(self.rows["upper"][0][1]))

    def marked(self) -> Bow:
        """The bow with the figures of the form; locked ones keep what they were."""
        limbs = []
        for side, limb in zip(SIDES, self.bow.limbs, strict=True):
            rows = self.rows[side]
            width = np.array([self._value(name) for _, name, _ in rows])
            thickness = np.array([self._value(name) for _, _, name in rows])
            limbs.append(replace(limb, width=width, thickness=thickness))
        return replace(self.bow, upper=limbs[0], lower=limbs[1])

    def _value(self, name: str) -> float:
        measured: Measured = self.cleaned_data[name]
        exact, shown = self.exact[name]
        return exact if measured.text == shown or name in self.locked() else measured.value


class LengthForm(MeasuredForm):
    """What a design's length is to be solved for."""

    SCHOOLS = (("use", "the strain"), ("set", "the string follow"))
    measure = forms.ChoiceField(choices=SCHOOLS, label="So long that it keeps")
    use = NumberField(
        "use of what lasts", unit="%", initial=100, required=False, label="Strain, of what lasts"
    )
    follow = MeasureField("wanted follow", initial=1 * INCH, required=False, label="String follow")

    def __init__(self, *args: Any, design: Design, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="length_%s", **kwargs)
        self.wanted = design.weight
        if (
            design.figures.solve_for == "nothing"
        ):  # the thickness does not follow from the weight: the length may
            choose(self, [("weight", "the wanted weight"), *self.SCHOOLS], "measure")

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        name = "use" if data.get("measure") == "use" else "follow"
        if (
            data.get("measure") in ("use", "set")
            and data.get(name) is None
            and not self.has_error(name)
        ):
            self.add_error(name, "Say how much it may be.")
        return data

    def goal(self) -> float:
        """In the core's terms."""
        data = self.cleaned_data
        if data["measure"] == "weight":
            return self.wanted
        return float(data["use"]) / 100 if data["measure"] == "use" else self.given("follow")


class ImportForm(MeasuredForm):
    """A bow file from elsewhere, and whose design it is to be."""

    file = forms.FileField(
        label="Bow file", help_text="as saved from a design, or written by hand: one JSON object"
    )
    name = forms.CharField(max_length=80, required=False, help_text="empty: as the file says")
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label="choose one")
    weight = MeasureField(
        "draw weight", required=False, label="Wanted weight", help_text="empty: as the file says"
    )
    material = forms.ChoiceField(
        label="Wood", required=False,
        help_text="empty: as the file says; its limits hold for layers whose own it does not give",
    )  # fmt: skip

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choose(self, [("", "as the file says"), *material_choices()], "material")

    def clean(self) -> dict[str, Any]:
        """Ask for what the file does not say."""
        data = super().clean()
        bow: Bow | None = data.get("file")
        if bow is not None and not data.get("material"):
            data["material"] = core_of(bow)
            if not data["material"]:
                self.add_error("material", "The file's core is of no wood that is known here.")
        if bow is not None and not data.get("weight") and bow.wanted is None:
            self.add_error("weight", "The file does not say which weight is wanted.")
        return data

    def clean_file(self) -> Bow:
        """Read the file whole, or say what is wrong in it and where."""
        upload = self.cleaned_data["file"]
        if upload.size > bowfile.MOST_BYTES:
            raise forms.ValidationError("The file is too large to be a bow.")
        try:
            return bowfile.loads(upload.read().decode("utf-8"))
        except UnicodeDecodeError:
            raise forms.ValidationError("This is not a text file; a bow file is JSON.") from None
        except BowyeryError as error:
            raise forms.ValidationError(str(error)) from None
