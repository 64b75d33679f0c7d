"""What pages ask of a build: its rows, its log, its progress; and how it goes on."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Case, Max, Prefetch, QuerySet, Sum, When
from django.shortcuts import get_object_or_404
from django.utils import timezone

from bowyery.errors import DescriptionError
from bowyery.making.stages import NAMES as STAGES
from bowyery.units.quantity import Units
from bowyery.wood.stave import checked
from fellwind.builds.bench_forms import SliceForm
from fellwind.builds.models import Build, Entry, Wait
from fellwind.designs.thumbs import thumbs
from fellwind.drawing.progress import progress
from fellwind.kit.ports import AT_HAND
from fellwind.kit.rooms import stage_page
from fellwind.people.models import Person
from fellwind.rack.models import Stave
from fellwind.rack.services import core_stave


def builds() -> QuerySet[Build]:
    """Builds with what lists and headings read."""
    return Build.objects.select_related(  # type: ignore[no-redef]  # named in the model
        "design__archer", "design__stave", "stave"
    ).prefetch_related(Prefetch("waits", Wait.objects.filter(ended=None), "resting"))


def standing_entries(build: Build) -> list[Entry]:
    """Entries that count: those nothing corrects, in order, with their measures."""
    return list(
        build.entries.filter(corrected_by=None)
        .select_related("by")
        .prefetch_related("measures")
        .order_by("at", "pk")
    )


def log(build: Build) -> list[Entry]:
    """Every entry as written, corrected ones too, in order."""
    rows = build.entries.select_related("by", "corrects", "corrected_by", "photo")
    return list(rows.order_by("at", "pk"))


def minutes(build: Build) -> int:
    """Time written down, corrections counted once."""
    return build.entries.filter(corrected_by=None).aggregate(total=Sum("minutes"))["total"] or 0


def left(until: datetime, now: datetime) -> str:
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


def build_progress(build: Build, now: datetime, links: bool = False) -> str:
    """The string of knots of a build loaded by :func:`builds`."""
    waits = [f"{w.what}, {left(w.until, now)}" for w in build.resting]
    stops = [(stage, stage_page(build.number, stage) if links else "") for stage in STAGES]
    return progress(stops, build.stage_index, waits, build.finished is not None)


def get_build(number: int) -> Build:
    """The build of that number, with what every one of its pages reads, or 404."""
    return get_object_or_404(builds(), number=number)


def at_hand() -> Build | None:
    """The build that a pencil line without a number is about: one at the tiller, or the newest."""
    rows = builds().filter(finished=None)
    return rows.filter(stage="tiller").first() or rows.first()


@AT_HAND.answered_by
def at_hand_words() -> tuple[int, str] | None:
    """Number and name of that build."""
    elsewhere = Case(When(stage="tiller", then=0), default=1)
    rows = Build.objects.filter(finished=None).order_by(elsewhere, "-number")
    return rows.values_list("number", "name").first()


def outlines(those: Sequence[Build]) -> dict[int, str | None]:
    """The outlines of builds' designs for lists, by key; nothing where one cannot be solved, None
    where it is not solved yet.
    """
    kept = thumbs([build.design for build in those])
    return {b.pk: kept[b.design_id].picture if b.design_id in kept else None for b in those}


def start(data: dict[str, Any], by: Person) -> Build:
    """Start a build from what its form gave; it takes the next number."""
    with transaction.atomic():
        top = Build.objects.aggregate(top=Max("number"))["top"] or 0
        names = ("name", "design", "school", "beginner", "draw_ruler")
        build = Build.objects.create(
            number=top + 1,
            stave=data["stave"] or data["design"].stave,
            floor=data["floor"].value if data.get("floor") else None,
            **{name: data[name] for name in names},
        )
        Entry.objects.create(build=build, kind="stage", stage="wood", text="Build started", by=by)
    return build


def slice_off(build: Build, form: SliceForm, by: Person, shown: Units) -> str:
    """Take a slice off the stave's end, and write it in the log; raises BowyeryError where nothing
    of the stave would be left.
    """
    if build.stave is None:
        raise DescriptionError("Choose a stave first.", "stave")
    data, thick = form.cleaned_data, form.given("slice")
    with transaction.atomic():
        stave = Stave.objects.select_for_update().get(pk=build.stave.pk)
        name = f"cut_{data['end']}"
        setattr(stave, name, getattr(stave, name) + thick)
        if data["clean_now"]:  # what was noted there is on the floor now
            middle = stave.length / 2
            ends = {"at__lt": middle} if data["end"] == "left" else {"at__gte": middle}
            stave.flaws.filter(kind="end check", **ends).update(gone=True)
        checked(core_stave(stave))
        stave.save(update_fields=[name])
        clean = "it is clean" if data["clean_now"] else "it still shows a check"
        text = f"{shown.length(thick)} sliced off the {data['end']} end; {clean}"
        Entry.objects.create(
            build=build, kind="stage", stage=build.stage, text=text, by=by, world=shown.world
        )
    build.stave = stave
    return f"{text[:1].upper()}{text[1:]}." + ("" if data["clean_now"] else " Cut another.")


def take_over(build: Build, by: Person) -> None:
    """Build on by the design as it was changed since the build began; else do nothing."""
    former = build.design
    if former.now is None or build.finished is not None:
        return
    with transaction.atomic():
        build.design = former.now
        build.save(update_fields=["design"])
        if not former.builds.exists():
            former.delete()
        text = "The design taken over as it was changed"
        Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)


def lay(build: Build, place: dict[str, float | bool], by: Person) -> None:
    """Take a place in the stave over."""
    with transaction.atomic():
        build.laid = place
        build.save(update_fields=["laid"])
        text = "The bow's place in the stave taken over"
        Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)


def go_on(build: Build, here: str, by: Person) -> None:
    """Go on to the next stage from the one that was seen, or close the build; else do nothing."""
    with transaction.atomic():
        build.refresh_from_db(fields=["stage", "finished"])
        if here != build.stage or build.finished is not None:
            return
        if build.stage == STAGES[-1]:
            build.finished, text = timezone.now(), "Build closed"
        else:
            build.stage = STAGES[build.stage_index + 1]
            text = f"On to {build.stage}"
        build.save(update_fields=["stage", "finished"])
        Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=by)
