"""Heat on the back stage: the form with its overcorrection, what stayed, and the rests after it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import uuid4

import numpy as np
from django import forms
from django.db import transaction

from bowyery.bow.bow import Side
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.making.heat import FIRST, Record, Stays, offsets, stays
from bowyery.units.quantity import ANGLE, LENGTH, Units
from fellwind.builds import log as bench
from fellwind.builds.models import Build, HeatJob
from fellwind.builds.waits import hang
from fellwind.kit.measures import MeasuredForm, MeasureField
from fellwind.people.models import Person

RESTS = {
    "dry heat": ("dry heat cools on the form", "wood takes its moisture back"),
    "open fire": ("dry heat cools on the form", "wood takes its moisture back"),
    "steam": ("steamed limb cools on the form", "wood takes its moisture back"),
}


class HeatForm(MeasuredForm):
    """What shall be bent or straightened, where and how."""

    bend = forms.ChoiceField(choices=list(HeatJob.WHATS.items()), label="To put in or take out")
    limb = forms.ChoiceField(
        choices=[("both", "both limbs"), ("upper", "upper limb"), ("lower", "lower limb")]
    )
    amount = MeasureField("reflex", required=False, label="So much shall stay, at the tip")
    twist = MeasureField("limb twisted", required=False, label="or degrees of a twist")
    start = MeasureField("place on a limb", required=False, label="Heated from",
                         help_text="from the bow's centre; empty: the fade")  # fmt: skip
    end = MeasureField("place on a limb", required=False, label="to",
                       help_text="empty: three quarters of the limb")  # fmt: skip
    way = forms.ChoiceField(choices=[(k, k) for k in FIRST], label="By")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="heat_%s", **kwargs)

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        name = "twist" if data.get("bend") == "twist" else "amount"
        given = data.get(name)
        if given is None and not self.has_error(name):
            self.add_error(name, "Say how much shall stay.")
        elif given is not None and given.value <= 0:
            self.add_error(name, "This is above zero; the way it goes is said above.")
        if data.get("bend") in ("twist", "side") and data.get("limb") == "both":
            self.add_error("limb", "Straighten one limb at a time.")
        return data

    @property
    def wanted(self) -> float:
        """What shall stay (m, or rad)."""
        return self.given("twist" if self.cleaned_data["bend"] == "twist" else "amount")


class StayedForm(MeasuredForm):
    """What stayed when the limb was let go."""

    stayed = MeasureField("reflex", required=False, label="Stayed")
    stayed_twist = MeasureField("limb twisted", required=False, label="Stayed")

    def __init__(self, *args: Any, job: HeatJob, **kwargs: Any) -> None:
        super().__init__(*args, auto_id=f"stayed-{job.pk}_%s", **kwargs)
        self.job = job
        self.name = "stayed_twist" if job.what == "twist" else "stayed"
        del self.fields["stayed" if job.what == "twist" else "stayed_twist"]
        self.fields[self.name].required = True

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        given = data.get(self.name)
        if given is not None and not 0 <= given.value <= 1.2 * self.job.form:
            self.add_error(self.name, "That is more than the form was bent; measure it once more.")
        return data


@dataclass(frozen=True)
class JobRow:
    """A bend on its form, or off it: its figures in words, and the form of what stayed."""

    job: HeatJob
    words: str
    range: str
    marks: tuple[tuple[str, str], ...]
    form: StayedForm | None


@dataclass(frozen=True)
class HeatBench:
    """Bends of a build, and the form of the next."""

    form: HeatForm
    rows: tuple[JobRow, ...]
    learned: Stays


def records(wood: str) -> list[Record]:
    """What stayed of every bend in this shop."""
    return [
        Record(job.form, job.stayed, job.wood == wood, job.way)
        for job in HeatJob.objects.exclude(stayed=None)
        if job.stayed is not None
    ]


def heat_bench(
    build: Build,
    found: Solution,
    shown: Units,
    form: HeatForm | None = None,
    stayed: StayedForm | None = None,
) -> HeatBench:
    """The bends of a build; forms that were refused stand in it."""
    wood = build.design.material
    known = [] if build.design.by_book else records(wood)
    rows = []
    for job in build.heat_jobs.all():
        learned = stays(job.way, known)
        own = stayed if stayed is not None and stayed.job.pk == job.pk else None
        fresh = StayedForm(shown=shown, job=job) if job.stayed is None else None
        low, high = learned.range(job.form)
        rows.append(
            JobRow(
                job,
                _size(job, job.form, shown),
                f"{_size(job, low, shown)} to {_size(job, high, shown)}",
                _marks(job, found, shown),
                own or fresh,
            )
        )
    usual = next(iter(FIRST))
    return HeatBench(form or HeatForm(shown=shown), tuple(rows), stays(usual, known))


def stays_here(way: str, wood: str) -> Stays:
    """What share of a bend stays in this shop."""
    return stays(way, records(wood))


def bends_seen() -> list[tuple[str, str, list[tuple[int, float]]]]:
    """Every way and wood of which it was read what stayed: builds by number, with the share."""
    found: dict[tuple[str, str], list[tuple[int, float]]] = {}
    jobs = (
        HeatJob.objects.exclude(stayed=None).select_related("build").order_by("way", "wood", "at")
    )
    for job in jobs:
        if job.form > 0 and job.stayed is not None:
            key = (job.way, job.wood)
            found.setdefault(key, []).append((job.build.number, job.stayed / job.form))
    return [(way, wood, rows) for (way, wood), rows in found.items()]


def _size(job: HeatJob, value: float, shown: Units) -> str:
    return ANGLE.write(value, shown) if job.what == "twist" else shown.length(value)


def _marks(job: HeatJob, found: Solution, shown: Units) -> tuple[tuple[str, str], ...]:
    """How far the form stands off the limb at its marks."""
    side: Side = "lower" if job.limb == "lower" else "upper"
    at = np.array([m.from_centre for m in found.marks if m.limb == side])
    try:
        off = offsets(at, job.start, job.end, job.form, float(at[-1]))
    except BowyeryError:
        return ()
    return tuple(
        (shown.length(float(a)), _size(job, float(o), shown))
        for a, o in zip(at, off, strict=True)
        if o > 1e-4
    )[-6:]


@transaction.atomic
def put_on_form(build: Build, found: Solution, form: HeatForm) -> tuple[HeatJob, Stays]:
    """Write a bend down with how far its form goes, and hang its rests; raises DescriptionError."""
    data = form.cleaned_data
    number = 1 if data["limb"] == "lower" else 0
    limb = found.bow.limbs[number]
    root, nock = limb.root[0], limb.root[0] + limb.length
    start = form.value("start")
    start = root if start is None else start
    end = form.value("end") or root + 0.75 * limb.length
    offsets(np.array([nock]), start, end, form.wanted, nock)
    design = build.design
    learned = stays(data["way"], [] if design.by_book else records(design.material))
    job = HeatJob.objects.create(
        build=build, what=data["bend"], limb=data["limb"], way=data["way"],
        wood=build.design.material, wanted=form.wanted, form=learned.form(form.wanted),
        start=start, end=end,
    )  # fmt: skip
    hang(build, RESTS[data["way"]])
    return job, learned


def let_go(job: HeatJob, form: StayedForm, by: Person, at: datetime | None) -> str:
    """Write down what stayed of a bend, and the act in the log; what that says."""
    if job.stayed is not None:
        raise DescriptionError("What stayed of this bend is written down already.", form.name)
    stayed = form.given(form.name)
    shown = Units(form.reads_in)
    with transaction.atomic():
        job.stayed = stayed
        job.save(update_fields=["stayed"])
        quantity = ANGLE if job.what == "twist" else LENGTH
        size = quantity.bare(stayed, shown)
        line = {
            "reflex": f"reflex {job.limb} {size}", "deflex": f"deflex {job.limb} {size}",
            "twist": f"twist out {job.limb} {size}", "side": f"straightened {job.limb} {size}",
        }[job.what]  # fmt: skip
        if stayed > 0:
            statements = bench.read_line(job.build, line, shown.world)
            bench.keep(job.build, line, statements, shown.world, by, uuid4(), at=at)
    share = stayed / job.form
    return (
        f"{share * 100:.0f} % of it stayed. The next form of this wood counts with that. Look at"
        " the tiller again: weight and both limbs have changed."
    )
