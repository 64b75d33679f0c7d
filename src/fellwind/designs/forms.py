"""The design form."""

from django import forms

from bowyery import materials
from bowyery.layout import BEND_FAMILIES
from bowyery.units import INCH, POUND_FORCE
from fellwind.designs.models import SECTIONS, Design
from fellwind.staves.models import Stave
from fellwind.workshop.measures import MeasuredForm, MeasureField
from fellwind.workshop.models import FINGERS, Archer


def material_choices() -> list[tuple[str, object]]:
    """Woods and slats a limb can be made of."""
    slats = [m for m in materials.backings().values() if m.kind == "bamboo"]
    return [
        ("Woods", [(m, m) for m in sorted(materials.woods())]),
        ("Bamboo", [(m.name, m.name) for m in slats]),
    ]


class DesignForm(MeasuredForm):
    """Archer, wood, length and layout. Weight, draw and fingers come from the archer when left empty."""

    name = forms.CharField(max_length=80, help_text="what it is, such as wych-elm flatbow")
    archer = forms.ModelChoiceField(Archer.objects.all(), empty_label=None)
    stave = forms.ModelChoiceField(Stave.objects.all(), required=False, empty_label="none yet: wood from the list")
    material = forms.ChoiceField(label="Wood", required=False, help_text="the stave's own wood counts when one is chosen")
    moisture = MeasureField("moisture", low=0.03, high=0.25, initial=0.09, label="Moisture when worked")
    weight = MeasureField("weight", low=5 * POUND_FORCE, high=200 * POUND_FORCE, required=False, label="Wanted weight")
    draw = MeasureField("length", low=0.25, high=1.1, required=False, label="Draw, to the grip")
    fingers = forms.ChoiceField(choices=[("", "as the archer"), *FINGERS.items()], required=False)
    length = MeasureField("length", low=0.7, high=2.6, required=False, label="Bow length, nock to nock",
                          help_text="empty: school A, twice the draw and the stiff middle")  # fmt: skip
    brace_height = MeasureField("length", low=0.05, high=0.3, initial=6 * INCH, label="Brace height")
    family = forms.ChoiceField(choices=[(k, k) for k in BEND_FAMILIES], label="Bend at full draw", initial="elliptical",
                               help_text="elliptical spares the inner limb; circular bends all alike")  # fmt: skip
    section = forms.ChoiceField(choices=[(k, k) for k in SECTIONS], label="Section")
    handle = MeasureField("length", low=0.03, high=0.4, initial=4 * INCH, label="Handle length")
    fade = MeasureField("length", low=0.005, high=0.2, initial=2 * INCH, label="Each fade")
    grip_drop = MeasureField("length", low=-0.05, high=0.12, initial=0.0, label="Grip below centre", help_text="0: centred")
    handle_depth = MeasureField("length", low=0.015, high=0.09, initial=1.75 * INCH, label="Handle depth, back to belly")
    width = MeasureField("length", low=0.01, high=0.12, initial=1.75 * INCH, label="Limb width")
    parallel = forms.IntegerField(min_value=0, max_value=95, initial=50, label="Full width for",
                                  help_text="per cent of the bending limb, then a straight taper")  # fmt: skip
    tip_width = MeasureField("length", low=0.006, high=0.06, initial=0.5 * INCH, label="Tip width")
    least_tip = MeasureField("length", low=0.004, high=0.03, initial=0.3125 * INCH, label="Tips no thinner than")
    reflex = MeasureField("length", low=-0.12, high=0.12, initial=0.0, label="Reflex of the tips",
                          help_text="towards the back; deflex below zero")  # fmt: skip
    marked_in = forms.ChoiceField(
        choices=[("imperial", "shop fractions (64ths)"), ("metric", "millimetres (half steps)")], label="Marks in"
    )
    notes = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}))

    SIZES = (
        "moisture", "brace_height", "handle", "fade", "grip_drop", "handle_depth", "width", "tip_width", "least_tip",
        "reflex",
    )  # fmt: skip
    PLAIN = ("name", "archer", "stave", "family", "section", "marked_in", "notes")
    GROUPS = (
        ("For whom, of what", ("name", "archer", "stave", "material", "moisture")),
        ("What it shall do", ("weight", "draw", "fingers", "brace_height", "family")),
        ("Length and grip", ("length", "handle", "fade", "grip_drop", "handle_depth")),
        ("Limbs", ("width", "parallel", "tip_width", "least_tip", "reflex", "section")),
        ("On paper", ("marked_in", "notes")),
    )

    def __init__(self, *args: object, **kwargs: object) -> None:
        self.declared_fields["material"].choices = material_choices()
        super().__init__(*args, **kwargs)

        self.fields["parallel"].unit = "%"

    def groups(self) -> list[tuple[str, list[forms.BoundField]]]:
        """Fields in the order of the work."""
        return [(title, [self[name] for name in names]) for title, names in self.GROUPS]

    def clean(self) -> dict[str, object]:
        data = super().clean()
        if not data.get("stave") and not data.get("material"):
            self.add_error("material", "Choose a wood, or a stave from the rack.")
        brace, draw = data.get("brace_height"), data.get("draw")
        if brace and draw and draw.value < brace.value + 0.1:
            self.add_error("draw", "The draw must be longer than the brace height by a hand's breadth at least.")
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
        design.parallel = data["parallel"] / 100
        design.length = self.value("length") or 2 * design.draw + design.handle + 2 * design.fade
        return design

    @classmethod
    def initial_of(cls, design: Design) -> dict[str, object]:
        """Values of a design for editing."""
        names = (*cls.SIZES, *cls.PLAIN, "material", "weight", "draw", "fingers", "length")
        return {name: getattr(design, name) for name in names} | {"parallel": round(design.parallel * 100)}
