"""The design form."""

from dataclasses import replace
from typing import Any

import numpy as np
from django import forms
from django.forms import BoundField
from django.utils.html import format_html

from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import BEND_FAMILIES, BRACE_HEIGHT, GAP_WANTED, school_a_length
from bowyery.bow.section import PROFILES
from bowyery.design.solve import USUAL_FIBRE
from bowyery.errors import BowyeryError
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, Units
from fellwind.designs.models import BACKS, CENTRE_LINES, FADES, NOCKS, SOLVE_FOR, Design
from fellwind.drawing.bend import bend_picture
from fellwind.kit.fields import NumberField, WholeField, choose
from fellwind.kit.measures import Measured, MeasuredForm, MeasureField
from fellwind.kit.versions import VersionedForm
from fellwind.rack.models import Stave
from fellwind.shop import book
from fellwind.shop.models import FINGERS, Archer
from fellwind.shop.services import material_choices


class DesignForm(VersionedForm):
    """Archer, wood, length and layout. Weight, draw and fingers come from the archer when left
    empty.
    """

    name = forms.CharField(max_length=80, help_text="what it is, such as wych-elm flatbow")
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label=None)
    stave = forms.ModelChoiceField(
        Stave.objects.all(), required=False, empty_label="none yet: wood from the list"
    )
    material = forms.ChoiceField(
        label="Wood", required=False, help_text="the stave's own wood counts when one is chosen"
    )
    moisture = MeasureField("moisture worked", initial=0.09, label="Moisture when worked")
    weight = MeasureField("wanted weight", required=False, label="Wanted weight")
    draw = MeasureField("archer's draw", required=False, label="Draw, to the grip")
    fingers = forms.ChoiceField(choices=[("", "as the archer"), *FINGERS.items()], required=False)
    centre_line = forms.ChoiceField(
        choices=list(CENTRE_LINES.items()),
        label="Centre line",
        initial="follow",
        help_text="follow it on a self bow; straight on a backed or laminated one",
    )
    back_is = forms.ChoiceField(
        choices=list(BACKS.items()),
        label="The back is",
        initial="bark",
        help_text="white wood: as it grew; ring-porous wood: chased; boards: as sawn",
    )
    length = MeasureField(
        "bow length",
        required=False,
        label="Bow length, nock to nock",
        help_text="empty: school A, twice the draw and the stiff middle",
    )
    gap = MeasureField("difference of gaps", required=False, label="Upper gap larger, by")
    brace_height = MeasureField("brace height", initial=BRACE_HEIGHT, label="Brace height")
    family = forms.ChoiceField(
        choices=[(k, format_html("{} {}", bend_picture(k), k)) for k in BEND_FAMILIES],
        widget=forms.RadioSelect,
        label="Bend at full draw",
        initial="elliptical",
        help_text="elliptical and whip-ended spare the inner limb",
    )
    fibre = forms.ChoiceField(label="String of", initial=USUAL_FIBRE)
    arrow = MeasureField(
        "arrow mass",
        required=False,
        label="Arrow",
        help_text="empty: ten grains for each pound of weight",
    )
    section = forms.ChoiceField(choices=[(shape, shape) for shape in PROFILES], label="Section")
    section_radius = MeasureField(
        "radius of log or culm",
        required=False,
        label="Radius of log or culm",
        help_text="for a crowned back or a culm segment; empty: a usual one",
    )
    tube_wall = MeasureField(
        "wall of a tube",
        required=False,
        label="Wall of the tube",
        help_text="for a tube, whose width is its diameter",
    )
    handle = MeasureField("handle", initial=4 * INCH, label="Handle length")
    fade = MeasureField("fade", initial=2 * INCH, label="Each fade")
    fade_shape = forms.ChoiceField(
        choices=list(FADES.items()),
        label="Fades are",
        initial="smooth",
        help_text="drawn so on the template; a gradual one does not break at its foot",
    )
    nock_style = forms.ChoiceField(choices=list(NOCKS.items()), label="Nocks are", initial="side",
                                   help_text="grooves never cut into a bare back")  # fmt: skip
    grip_drop = MeasureField(
        "grip below centre", initial=0.0, label="Grip below centre", help_text="0: centred"
    )
    handle_depth = MeasureField(
        "handle depth", initial=1.75 * INCH, label="Handle depth, back to belly"
    )
    width = MeasureField("limb width", initial=1.75 * INCH, label="Limb width")
    parallel = WholeField(
        "per cent of a limb",
        unit="%",
        initial=50,
        label="Full width for",
        help_text="per cent of the bending limb, then a straight taper",
    )
    root_width = WholeField(
        "per cent of the width",
        unit="%",
        initial=100,
        label="Width at the fade",
        help_text="per cent of the full width; less: widest further out",
    )
    tip_width = MeasureField("tip width", initial=0.5 * INCH, label="Tip width")
    solve_for = forms.ChoiceField(
        choices=list(SOLVE_FOR.items()),
        label="Solve for",
        initial="thickness",
        help_text="of the wood; with layers on it, of the core",
    )
    depth_root = MeasureField(
        "limb thickness",
        initial=0.55 * INCH,
        label="Thick at the fade",
        help_text="used where the thickness is not solved for; a tube is as thick as wide",
    )
    depth_nock = MeasureField("limb thickness", initial=0.4 * INCH, label="Thick at the nock")
    back = forms.ChoiceField(required=False, label="Layer on the back")
    back_root = MeasureField("laid layer", initial=0.0, label="Back layer at the fade")
    back_nock = MeasureField("laid layer", initial=0.0, label="Back layer at the nock")
    belly = forms.ChoiceField(required=False, label="Layer on the belly")
    belly_root = MeasureField("laid layer", initial=0.0, label="Belly layer at the fade")
    belly_nock = MeasureField("laid layer", initial=0.0, label="Belly layer at the nock")
    least_tip = MeasureField("thinnest tip", initial=0.3125 * INCH, label="Tips no thinner than")
    reflex = MeasureField(
        "reflex",
        initial=0.0,
        label="Reflex of the tips",
        help_text="towards the back; deflex below zero",
    )
    back_bow_length = MeasureField(
        "back-bow length",
        required=False,
        label="Back-bow, end to end",
        help_text="a shorter bow tied on the back; empty: none",
    )
    back_bow_width = MeasureField(
        "back-bow width", initial=1.25 * INCH, label="Its width at the grip"
    )
    back_bow_tip = MeasureField(
        "back-bow width", initial=0.75 * INCH, label="Its width at the ends"
    )
    back_bow_root = MeasureField(
        "back-bow thickness", initial=0.3 * INCH, label="Thick at the grip"
    )
    back_bow_nock = MeasureField(
        "back-bow thickness", initial=0.2 * INCH, label="Thick at the ends"
    )
    back_bow_tied = MeasureField(
        "cable tied in", initial=0.0, label="Cable tied, in from the nocks"
    )
    cable_tension = MeasureField(
        "cable tension",
        initial=60.0,
        label="Cable tension, unstrung",
        help_text="too slack, and the main bow breaks at its middle",
    )
    marked_in = forms.ChoiceField(
        choices=[("imperial", "shop fractions (64ths)"), ("metric", "millimetres (half steps)")],
        label="Marks in",
    )
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    SIZES = (
        "moisture",
        "brace_height",
        "handle",
        "fade",
        "grip_drop",
        "handle_depth",
        "width",
        "tip_width",
        "least_tip",
        "reflex",
        "depth_root",
        "depth_nock",
        "back_root",
        "back_nock",
        "belly_root",
        "belly_nock",
        "back_bow_width",
        "back_bow_tip",
        "back_bow_root",
        "back_bow_nock",
        "back_bow_tied",
        "cable_tension",
    )
    MAYBE = ("gap", "arrow", "section_radius", "tube_wall", "back_bow_length")  # fmt: skip
    PLAIN = (
        "name",
        "archer",
        "stave",
        "family",
        "section",
        "marked_in",
        "notes",
        "fibre",
        "solve_for",
        "back",
        "belly",
        "centre_line",
        "back_is",
        "fade_shape",
        "nock_style",
    )
    GROUPS = (
        (
            "For whom, of what",
            ("name", "archer", "stave", "material", "moisture", "back_is", "centre_line"),
        ),
        (
            "What it shall do",
            ("weight", "draw", "fingers", "gap", "brace_height", "family", "fibre", "arrow"),
        ),
        (
            "Length and grip",
            ("length", "handle", "fade", "fade_shape", "grip_drop", "handle_depth", "nock_style"),
        ),
        (
            "Limbs",
            (
                "width",
                "parallel",
                "root_width",
                "tip_width",
                "least_tip",
                "reflex",
                "section",
                "section_radius",
                "tube_wall",
                "solve_for",
                "depth_root",
                "depth_nock",
            ),
        ),
        (
            "Layers on the wood",
            ("back", "back_root", "back_nock", "belly", "belly_root", "belly_nock"),
        ),
        (
            "A back-bow, tied on and cabled tight",
            (
                "back_bow_length",
                "back_bow_width",
                "back_bow_tip",
                "back_bow_root",
                "back_bow_nock",
                "back_bow_tied",
                "cable_tension",
            ),
        ),
        ("On paper", ("marked_in", "notes")),
    )

    def __init__(self, *args: Any, tried: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        stuff = book.shelf()
        layers = [
            ("", "none"),
            *((name, name) for name in (*stuff.backings, *stuff.woods)),
        ]
        choose(self, material_choices(stuff), "material")
        choose(self, layers, "back", "belly")
        choose(self, ((name, name) for name in stuff.fibres), "fibre")
        low, high = (self.shown.length(end) for end in GAP_WANTED["one above, two below"])
        self.fields["gap"].help_text = (
            f"at brace; empty: {low} to {high} for split fingers, which load the lower limb more,"
            " and alike for three under. Below zero: the lower"
        )
        self.fields["name"].required = not tried  # what is only tried needs no name yet

    # Groups that few bows need: folded away until one of these is given.
    SELDOM = {
        "Layers on the wood": ("back", "belly"),
        "A back-bow, tied on and cabled tight": ("back_bow_length",),
    }

    def groups(self) -> list[tuple[str, list[forms.BoundField], bool]]:
        """Fields in the order of the work, and whether a group may be folded away."""
        rows = []
        for title, names in self.GROUPS:
            used = any(self[name].value() for name in self.SELDOM.get(title, ())) or any(
                self[name].errors for name in names
            )
            rows.append((title, [self[name] for name in names], title in self.SELDOM and not used))
        return rows

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if not data.get("stave") and not data.get("material"):
            self.add_error("material", "Choose a wood, or a stave from the rack.")
        brace, draw = data.get("brace_height"), data.get("draw")
        if brace and draw and draw.value < brace.value + 0.1:
            self.add_error(
                "draw",
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
            and data.get("tip_width")
            and width
            and data["tip_width"].value != width.value
        ):
            self.add_error("tip_width", "A tube is of one size: make the tips as wide as the limb.")
        for side in ("back", "belly"):
            root, nock = data.get(f"{side}_root"), data.get(f"{side}_nock")
            if data.get(side) and root and nock and not max(root.value, nock.value):
                self.add_error(f"{side}_root", "Say how thick this layer is.")
        return data

    def fill(self, design: Design) -> Design:
        """Write the form into a design, without saving it."""
        data = self.cleaned_data
        for name in self.PLAIN:
            setattr(design, name, data[name])
        for name in self.SIZES:
            setattr(design, name, data[name].value)
        archer, stave = data["archer"], data["stave"]
        design.material = stave.material if stave else data["material"]
        design.weight = self.value("weight") or archer.weight
        design.draw = self.value("draw") or archer.draw
        design.fingers = data["fingers"] or archer.fingers
        design.parallel, design.root_width = data["parallel"] / 100, data["root_width"] / 100
        for name in self.MAYBE:
            setattr(design, name, self.value(name))
        told = draw_ruler(archer.draw_ruler).from_pivot(design.draw, design.handle_depth)
        design.length = self.value("length") or school_a_length(told, design.handle, design.fade)
        if design.section == "tube":  # round: its depth is its width
            design.depth_root, design.depth_nock = design.width, design.tip_width
        return design

    @classmethod
    def initial_of(cls, design: Design) -> dict[str, Any]:
        """Values of a design for editing."""
        names = (
            *cls.SIZES,
            *cls.PLAIN,
            "material",
            "weight",
            "draw",
            "fingers",
            "length",
            *cls.MAYBE,
        )
        return {name: getattr(design, name) for name in names} | {
            "parallel": round(design.parallel * 100), "root_width": round(design.root_width * 100),
        }  # fmt: skip


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
                    )
                self.rows[side].append((limb.root[0] + float(at), *names))

    def _draft(self, kept: Bow) -> Bow:
        """The bow that was posted along, or the kept one."""
        text = self.data.get("draft", "") if self.is_bound else ""
        try:
            return bowfile.loads(text) if text else kept
        except BowyeryError:
            return kept

    def _add(self, name: str, label: str, bound: str, value: float) -> None:
        field = MeasureField(bound, label=label)
        given = self.data.get("page_world") if self.is_bound else None
        field.world = given if given in (IMPERIAL, METRIC) else self.shown.world
        field.unit = field.quantity.sign(field.world)
        self.exact[name] = value, field.quantity.bare(value, Units(field.world))
        field.widget.attrs["aria-label"] = label
        self.fields[name] = field
        self.initial[name] = field.quantity.bare(value, self.shown)

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
            design.solve_for == "nothing"
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
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label=None)
    material = forms.ChoiceField(
        label="Wood", help_text="its limits hold for layers whose own the file does not give"
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choose(self, material_choices(), "material")

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
