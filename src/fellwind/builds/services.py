"""What pages ask of a build: its list rows, its log, its proof."""

from dataclasses import dataclass

from django.db.models import Prefetch, QuerySet, Sum
from django.utils import timezone

from bowyery.design import Solution
from fellwind.builds.models import STAGES, Build, Entry, Measure, Wait
from fellwind.drawing.curve import CurveData
from fellwind.drawing.knots import knots
from fellwind.workshop.measures import on_rulers


def builds() -> QuerySet[Build]:
    """Builds with what lists and headings read."""
    return Build.objects.select_related("design__archer", "design__stave", "stave").prefetch_related(
        Prefetch("waits", Wait.objects.filter(ended=None), "resting")
    )


def standing_entries(build: Build) -> list[Entry]:
    """Entries that count: those nothing corrects, in order, with their measures."""
    return list(build.entries.filter(corrected_by=None).select_related("by").prefetch_related("measures").order_by("at", "pk"))


def log(build: Build) -> list[Entry]:
    """Every entry as written, corrected ones too, in order."""
    return list(build.entries.select_related("by", "corrects", "corrected_by").order_by("at", "pk"))


def minutes(build: Build) -> int:
    """Time written down, corrections counted once."""
    return build.entries.filter(corrected_by=None).aggregate(total=Sum("minutes"))["total"] or 0


def left(until: timezone.datetime, now: timezone.datetime) -> str:
    """Time left, in words."""
    seconds = (until - now).total_seconds()
    if seconds <= 0:
        return "over"
    hours, days = seconds / 3600, seconds / 86400
    if days >= 2:
        return f"{days:.0f} days"
    if hours >= 3:
        return f"{hours:.0f} h"
    whole, rest = divmod(round(seconds / 60), 60)
    return f"{whole} h {rest} min" if whole else f"{rest} min"


def build_knots(build: Build, now: timezone.datetime, links: bool = False) -> str:
    """The string of knots of a build loaded by :func:`builds`."""
    waits = [f"{w.what}, {left(w.until, now)}" for w in build.resting]
    return knots(STAGES, build.stage_index, build.number, waits, links, build.finished is not None)


@dataclass(frozen=True)
class Proof:
    """What was measured at proof, newest figures, and what follows from them."""

    entry: Entry
    figures: dict[str, Measure]
    off: float
    efficiency: float | None
    energy: float | None


def proof_curve(build: Build, found: Solution, proved: Proof) -> CurveData:
    """The curve scaled to the weight at proof, with that weight marked on it."""
    shift = on_rulers(0.0, build.design.handle_depth)[build.ruler]
    drawn = found.curve.drawn
    weight = proved.figures["weight"]
    scale = weight.value / found.weight
    points = [((weight.draw or build.design.draw) + shift, weight.value)]
    return CurveData(drawn.draw + shift, drawn.weight * scale, build.design.weight, build.design.draw + shift, measured=points)


def proof(build: Build, found: Solution | None) -> Proof | None:
    """The newest proof of a build, with efficiency from the curve scaled to the measured weight."""
    entry = build.entries.filter(kind="proof", corrected_by=None).prefetch_related("measures").order_by("-at", "-pk").first()
    if entry is None:
        return None
    figures = {m.kind: m for m in entry.measures.all()}
    weight = figures["weight"].value
    energy = efficiency = None
    if found is not None:
        energy = float(found.curve.energy[-1]) * weight / found.weight
        if "arrow mass" in figures and "arrow speed" in figures:
            efficiency = 0.5 * figures["arrow mass"].value * figures["arrow speed"].value ** 2 / energy
    return Proof(entry, figures, weight - build.design.weight, efficiency, energy)
