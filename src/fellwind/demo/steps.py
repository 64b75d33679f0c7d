"""How an empty shop begins: four steps on Today, and a sample to look at; after that nothing."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.urls import reverse

from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.demo import sample
from fellwind.designs.models import Design
from fellwind.kit.rooms import TodayPart
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer

STEPS = (
    (
        Archer,
        "The first archer",
        "Draw and weight, on the ruler they were taken with: every design starts from them.",
        "shop:archer_new",
        "Add an archer",
    ),
    (
        Stave,
        "The first stave",
        "Its sizes and weighings: when it is dry, its flaws on a ruler, and what bow fits into it.",
        "rack:new",
        "Add a stave",
    ),
    (
        Design,
        "The first design",
        "Widths and thicknesses that give the weight, what may go wrong, and the marking table.",
        "designs:layouts",
        "Design a bow",
    ),
    (
        Build,
        "The first build",
        "Its stages from wood to proof; at the tiller, where wood comes off after each reading.",
        "builds:start",
        "Start a build",
    ),
)


@dataclass(frozen=True)
class Step:
    """One step: what, what it gives, where it is taken; done, or the next."""

    what: str
    gives: str
    where: str
    act: str
    done: bool
    next: bool


@dataclass(frozen=True)
class StepsToday:
    """The steps that an empty shop takes, and its sample as long as that is there."""

    steps: Sequence[Step]
    sample: Build | None


def parts(now: datetime, shown: Units) -> list[TodayPart]:
    """The part of the page: nothing for a shop that builds, and has no sample."""
    known = sample.there()
    if known is None and Build.objects.exists():
        return []
    done = [sample.own(model).exists() for model, *_ in STEPS]
    if all(done) and known is None:
        return []
    first = done.index(False) if False in done else len(done)
    steps = [
        Step(what, gives, reverse(name), act, done[k], k == first)
        for k, (_, what, gives, name, act) in enumerate(STEPS)
    ]
    page = StepsToday([] if all(done) else steps, known)
    return [TodayPart("demo/_steps.html", page, 5)]
