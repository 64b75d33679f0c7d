"""The finish bench: arrow pass, grip and overlays, and what edges, sanding and coats come to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import uuid4

from django import forms
from django.db import transaction

from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.making.finishing import (
    GRITS,
    ArrowPass,
    Finishing,
    Overlay,
    Wrap,
    arrow_pass,
    finishing,
    overlays,
    wrap,
)
from bowyery.strings.cable import strands_of
from bowyery.strings.thread import diameter_of
from bowyery.units.quantity import INCH, Units, World
from fellwind.builds import log
from fellwind.builds.models import Build, Entry, Measure
from fellwind.builds.services import standing_entries
from fellwind.builds.waits import hang
from fellwind.drawing.grip import pass_picture
from fellwind.kit.cache import computed
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.people.models import Person
from fellwind.shop.book import fibre
from fellwind.shop.models import Workshop

ARROW = 0.008  # how thick an arrow is, where nobody says otherwise (m)
USUAL = {"pass_depth": 3 / 8 * INCH, "back_edge": INCH / 16, "belly_edge": INCH / 8, "sanded": 1e-4,
         "wrapped": 4 * INCH, "cord": 0.0025}  # fmt: skip


class FinishForm(MeasuredForm):
    """How it shall be finished; every figure begins with a usual one."""

    pass_depth = MeasureField("arrow pass", label="Arrow pass, deep")
    arrow = MeasureField("arrow's thickness", initial=ARROW, label="for an arrow")
    back_edge = MeasureField("rounded edge", label="Back's edges, radius")
    belly_edge = MeasureField("rounded edge", label="Belly's edges, radius")
    sanded = MeasureField("sanded off", label="Sanded off each face")
    wrapped = MeasureField("wrapped grip", label="Grip wrapped over")
    cord = MeasureField("cord", label="with cord so thick")
    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"client_id": uuid4(), **USUAL, **kwargs.get("initial", {})}
        super().__init__(*args, auto_id="finish_%s", **kwargs)


@dataclass(frozen=True)
class FinishBench:
    """What finishing this bow comes to.

    Attributes:
        arrow: the pass, or None with ``trouble`` saying why.
        takes: shares of the weight that edges and sanding take.
        habit: what the shop's bows lose in finishing, as it says.
        picture: of the section at the pass.
        done: what was done already, by kind.
    """

    form: FinishForm
    arrow: ArrowPass | None
    takes: Finishing | None
    habit: float
    wrap: Wrap | None
    overlays: tuple[Overlay, Overlay] | None
    grits: tuple[int, ...]
    picture: str
    done: dict[str, str]
    weight: float
    trouble: str = ""
    edge_trouble: str = ""


def finish_bench(
    build: Build, found: Solution, shown: Units, form: FinishForm | None = None
) -> FinishBench:
    """The finish bench of a build, with the figures that are asked about."""
    form = form or FinishForm(shown=shown)
    given = form.is_bound and form.is_valid()
    figures = {name: form.given(name) if given else value for name, value in USUAL.items()}
    thick = form.given("arrow") if given else ARROW
    layout, bow, draw = found.layout, found.bow, found.wanted.draw
    lasts = found.wood.working_strain
    arrow = takes = None
    trouble = edge = ""
    deep = figures["pass_depth"]
    bends = not layout.stiff_handle
    try:
        key = (bow, layout.grip_width, layout.handle_depth, lasts, draw, deep, thick, bends)
        arrow = computed("arrow pass", key, lambda: arrow_pass(*key))
    except BowyeryError as error:
        trouble = getattr(error, "reason", str(error))
    back, belly, off = figures["back_edge"], figures["belly_edge"], figures["sanded"]
    try:
        takes = computed("finishing", (bow, draw, back, belly, off),
                         lambda: finishing(bow, draw, back, belly, off, off))  # fmt: skip
    except BowyeryError as error:
        edge = getattr(error, "reason", str(error))
    thread = fibre(build.design.figures.fibre)
    loop = 1.3 * diameter_of(thread, strands_of(thread, bow.string.stretch_stiffness))
    return FinishBench(
        form, arrow, takes, Workshop.get().finishing_loss,
        wrap(layout.grip_width, layout.handle_depth, figures["wrapped"], figures["cord"]),
        overlays(bow, found.wanted.weight, loop), GRITS,
        pass_picture(arrow, thick, shown) if arrow else "", _done(build), found.wanted.weight,
        trouble, edge,
    )  # fmt: skip


DONE = {
    "pass": "arrow pass cut",
    "overlay": "overlays on both tips",
    "edges": "edges rounded",
    "sanded": "sanded",
    "wrap": "grip wrapped",
}
COATS = ("coat of oil dries", "coat of shellac dries", "coat of varnish dries", "wax rests")


def _done(build: Build) -> dict[str, str]:
    """What of it was written down, by kind: its newest entry's words."""
    return {
        m.kind.removeprefix("finish "): entry.text
        for entry in standing_entries(build)
        if entry.kind == "finish"
        for m in entry.measures.all()
    }


def _told(what: str, form: FinishForm) -> tuple[str, float]:
    """What is written of an act, and its figure (SI)."""
    if what == "pass":
        return f"arrow pass cut {form.text('pass_depth')} deep", form.given("pass_depth")
    if what == "edges":
        words = f"edges rounded, back {form.text('back_edge')}, belly {form.text('belly_edge')}"
        return words, form.given("belly_edge")
    if what == "sanded":
        grits = ", ".join(str(one) for one in GRITS)
        return f"sanded through {grits}; {form.text('sanded')} off each face", form.given("sanded")
    if what == "wrap":
        words = f"grip wrapped over {form.text('wrapped')} with cord {form.text('cord')} thick"
        return words, form.given("wrapped")
    return "overlays glued on both tips", 0.0


# What changes how the limbs bend is an act of the tiller too, and asks for another look there.
_TILLER = {"edges": "both belly rounded", "overlay": "overlay both"}


@transaction.atomic
def keep_finish(build: Build, what: str, form: FinishForm, by: Person, world: World) -> bool:
    """Write an act of the finish down, once for its form's id; False where it was before."""
    key = form.cleaned_data.get("client_id") or uuid4()
    if Entry.objects.filter(client_id=key).exists():
        return False
    words, value = _told(what, form)
    entry = Entry.objects.create(
        build=build, kind="finish", stage="finish", text=words, world=world, by=by, client_id=key
    )
    Measure.objects.create(entry=entry, kind=f"finish {what}", value=value, text=words[:80])
    line = _TILLER.get(what)
    if line:
        log.keep(build, line, log.read_line(build, line, world), world, by, uuid4(), stage="finish")
    return True


def hang_coats(build: Build, name: str, number: int) -> int:
    """Hang so many coats of a kind from the string, one after another; how many were hung."""
    if name not in COATS or not 1 <= number <= 12:
        return 0
    return len(hang(build, [name] * number))
