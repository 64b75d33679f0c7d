"""The bench of a laminated bow: its lams, form, glue, force and plan, with this bow's figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from itertools import groupby
from typing import Any

from django.db import transaction
from django.utils import timezone

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.making.laminating import (
    LAM_LONGER,
    LAM_WIDER,
    SANDED,
    Form,
    Glue,
    Lam,
    form_of,
    glue_of,
    lams_of,
    pressing,
    sanding,
)
from bowyery.units.quantity import INCH, Units
from fellwind.builds.models import Build, Wait
from fellwind.builds.waits import hang
from fellwind.designs.pictures import ruler_data
from fellwind.drawing.stack import stack_picture
from fellwind.kit.cache import computed
from fellwind.kit.fields import CountField, NumberField
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.shop.models import Workshop
from fellwind.shop.services import hours_here, rest_table

USUAL_PRESSURE = 0.35e6  # of a hose, about fifty pounds to the inch (Pa)
OPEN = "glue stays open"
PLANS = {
    "oven": ("lams warm in the box", "epoxy cures in the oven", "limb cools after the oven"),
    "shop": ("lams warm in the box", "epoxy cures in the shop"),
    "slat": ("bamboo or slat cures in the form",),
}


class PressForm(MeasuredForm):
    """How the stack is glued: the glue's parts, what presses it, how many clamps."""

    ratio = NumberField(
        "parts of a glue", unit="to 1", initial=1.0, label="Second part of the glue, by mass",
        help_text="as its own sheet says",
    )  # fmt: skip
    pressure = MeasureField("pressure of a press", initial=USUAL_PRESSURE, label="Pressure")
    clamps = CountField("clamps", initial=10, label="Clamps on each limb")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="press_%s", **kwargs)


@dataclass(frozen=True)
class LamRow:
    """A lam to grind: its number from the back, and its sizes at the stations of each limb."""

    number: int
    lam: Lam
    length: float
    width: float

    @property
    def ground(self) -> tuple[object, ...]:
        """What makes two lams one to the grinder."""
        lam = self.lam
        return lam.material, lam.shaped, lam.ends, *(round(float(t), 6) for t in lam.thickness)

    @property
    def nock(self) -> float:
        """Its thickness at the nock, or nothing where it has run out (m)."""
        return float(self.lam.thickness[-1])

    @property
    def taper_by_inch(self) -> float:
        """How much thinner it gets each inch (m)."""
        return self.lam.taper * INCH

    @property
    def taper_by_hundred(self) -> float:
        """How much thinner it gets every hundred millimetres (m)."""
        return self.lam.taper * 0.1

    @property
    def root(self) -> float:
        """Its thickness at the fade (m)."""
        return float(self.lam.thickness[0])


@dataclass(frozen=True)
class LimbStack:
    """The lams of a limb, and its form, or why there is none."""

    side: str
    rows: tuple[LamRow, ...]
    places: tuple[float, ...]
    form: Form | None
    force: float

    @property
    def together(self) -> list[tuple[str, LamRow]]:
        """Lams with their numbers, those alike on one another as one: ``2 to 4``."""
        found = []
        for _, alike in groupby(self.rows, lambda row: row.ground):
            first, *_, last = [*alike] * 2
            both = str(first.number) if first is last else f"{first.number} to {last.number}"
            found.append((both, first))
        return found


@dataclass(frozen=True)
class StackBench:
    """A laminated bow on its bench.

    Attributes:
        limbs: both, with their lams and forms.
        press: the form of what presses it.
        each: force of each clamp (N).
        lost: weight that sanding takes from back and belly (N).
        sanded: by so much (m).
        open_hours: how long the glue stays open in this air (least, usual).
        plan: a key of PLANS.
    """

    limbs: tuple[LimbStack, ...]
    alike: bool
    glue: Glue | None
    press: PressForm
    each: float
    lost: tuple[float, float]
    sanded: float
    trouble: str
    steps: tuple[str, ...]
    open_hours: tuple[float, float]
    plan: str
    picture: str = ""


def stack_bench(found: Solution, shown: Units, given: Any = None) -> StackBench:
    """The bench of a laminated bow; ``given`` is what was asked of glue and pressure."""
    asked = given if given and "ratio" in given else None
    press = PressForm(asked, shown=shown)
    figures = press if press.is_bound and press.is_valid() else None
    ratio = figures.cleaned_data["ratio"] if figures else 1.0
    pressure = figures.given("pressure") if figures else USUAL_PRESSURE
    clamps = figures.cleaned_data["clamps"] if figures else 10
    trouble, glue, limbs = "", None, []
    for number, side in enumerate(SIDES):
        limb = found.bow.limbs[number]
        form = None
        try:
            form = form_of(found.bow, number)
        except BowyeryError as error:
            trouble = getattr(error, "reason", str(error))
        rows = tuple(
            LamRow(
                k,
                lam,
                (lam.ends or limb.length) + LAM_LONGER,
                float(limb.width.max()) + LAM_WIDER,
            )
            for k, lam in enumerate(lams_of(limb), 1)
        )
        force = pressing(found.bow, number, pressure)
        places = tuple(float(limb.root[0] + at) for at in limb.at)
        limbs.append(LimbStack(side, rows, places, form, force))
    try:
        glue = glue_of(found.bow, found.layout.grip_width, float(ratio))
    except BowyeryError as error:
        trouble = trouble or getattr(error, "reason", str(error))
    lost = computed(
        "sanding", (found.bow, found.wanted.draw), lambda: sanding(found.bow, found.wanted.draw)
    )
    open_ = hours_here(rest_table()[OPEN], Workshop.get())
    glass = any("glass" in la.material for la in found.bow.upper.layers)
    plan = "oven" if glass or len(found.bow.upper.layers) > 2 else "slat"
    bench = StackBench(
        tuple(limbs),
        _alike(limbs),
        glue,
        press,
        limbs[0].force / max(int(clamps), 1),
        (lost[0] * found.weight, lost[1] * found.weight),
        SANDED,
        trouble,
        (),
        (open_.low, open_.usual),
        plan,
    )
    picture = stack_picture(
        ruler_data(found),
        [[row.lam for row in limb.rows] for limb in limbs],
        [limb.form for limb in limbs],
        shown,
    )
    return replace(bench, steps=_steps(bench, shown), picture=picture)


def _alike(limbs: Sequence[LimbStack]) -> bool:
    """Whether both limbs are ground alike, as close as anybody grinds."""
    upper, lower = limbs
    if len(upper.places) != len(lower.places):
        return False
    return all(
        bool(abs(a.lam.thickness - b.lam.thickness).max() < 5e-5)
        for a, b in zip(upper.rows, lower.rows, strict=True)
    )


def _steps(bench: StackBench, shown: Units) -> tuple[str, ...]:
    """The dry run in order, with this bow's figures."""
    rows = bench.limbs[0].rows
    said = [
        f"Lay out {len(rows)} lams a limb, back first: "
        + ", ".join(
            f"{row.lam.material} {shown.shaving(row.root)}"
            + ("" if row.lam.taper == 0 else f" to {shown.shaving(row.nock)}")
            for row in rows
        ),
        f"Each {shown.length(rows[0].length)} long and {shown.length(rows[0].width)} wide;"
        " number them, and mark back and butt",
        "Put the stack in the form dry, from the middle outwards, and look for light between any"
        " two lams",
    ]
    if any(row.lam.ends is not None for row in rows):
        said.append("The wedge's thin end under a finger: no step to be felt where it runs out")
    if bench.glue is not None:
        first, second = bench.glue.parts
        said.append(
            f"Set out {shown.bulk_mass(bench.glue.whole)} of glue:"
            f" {shown.bulk_mass(first)} of the first part, {shown.bulk_mass(second)} of the second"
        )
    low, usual = (f"{h * 60:.0f}" for h in bench.open_hours)
    said += [
        f"Press it once without glue and see that it is done in less than {low} min: in this air"
        f" the glue stays open {low} to {usual} min",
        "Wipe every face, tape or wax what must not stick, gloves on, air in the room",
        "Start the clock at the first brush",
    ]
    return tuple(said)


@transaction.atomic
def hang_plan(build: Build, key: str) -> list[Wait]:
    """Hang a gluing's rests from the build's string, one after another; none for an unknown key."""
    return hang(build, PLANS.get(key, ()))


def start_clock(build: Build) -> Wait:
    """The glue's clock, from the first brush; one that runs already goes on."""
    running = build.waits.filter(ended=None, what=CLOCK, until__gt=timezone.now()).first()
    if running is not None:
        return running
    span = hours_here(rest_table()[OPEN], Workshop.get())
    now = timezone.now()
    return Wait.objects.create(
        build=build, what=CLOCK, since=now, until=now + timedelta(hours=span.usual),
        least=span.low, most=span.high,
    )  # fmt: skip


CLOCK = "Glue is open: press before it is over"
