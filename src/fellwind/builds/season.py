"""The season's plan: which staves are ready when, what to begin, and when each bow is done."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from django import forms
from django.db.models import Sum
from django.utils import timezone

from bowyery.making.backing import kind_of
from bowyery.making.rests import Hours, Rest
from bowyery.making.season import Ahead, Schedule, ahead, schedule, work_by_stage
from bowyery.units.quantity import Units
from fellwind.builds.laminating import PLANS
from fellwind.builds.models import Build, Entry, Wait
from fellwind.builds.services import builds
from fellwind.designs.models import Design
from fellwind.designs.services import present
from fellwind.drawing.season import Span, season_picture
from fellwind.kit.fields import NumberField
from fellwind.kit.measures import MeasuredForm
from fellwind.rack.models import Stave
from fellwind.rack.services import seasoning_now, staves
from fellwind.shop.models import Workshop
from fellwind.shop.services import hours_here, rest_table

A_WEEK = 8.0  # hours at the bench, where nobody has said
LONGEST = timedelta(days=3 * 366)
WORDS = {
    "yes": "done in time, even if all takes long",
    "likely": "most likely done in time",
    "hardly": "hardly done in time",
    "no": "too late for that day",
}


class SeasonForm(MeasuredForm):
    """The day bows are wanted, and how much the shop works."""

    wanted = forms.DateField(
        required=False,
        label="Wanted by",
        widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"),
        help_text="empty: only when each is done",
    )
    a_week = NumberField("hours a week", unit="h", initial=A_WEEK, label="Hours a week on each bow")

    def clean_wanted(self) -> date | None:
        wanted: date | None = self.cleaned_data["wanted"]
        today = timezone.localdate()
        if wanted is not None and wanted <= today:
            raise forms.ValidationError("That day has passed already.")
        if wanted is not None and wanted > today + LONGEST:
            raise forms.ValidationError("So far ahead nobody plans; look at the year.")
        return wanted


@dataclass(frozen=True)
class Times:
    """What all bows of the shop go by: hours by stage, and the table of rests in this air."""

    work: dict[str, float]
    rests: dict[str, Hours]
    table: dict[str, Rest]

    @classmethod
    def here(cls) -> Times:
        """In this shop."""
        table, workshop = rest_table(), Workshop.get()
        return cls(
            work_by_stage(own_hours()),
            {name: hours_here(rest, workshop) for name, rest in table.items()},
            table,
        )

    def backing(self, design: Design) -> list[Hours]:
        """Rests of a design's backing or stack."""
        if not design.figures.back:
            return []
        kind = kind_of(design.figures.back)
        names: Iterable[str] = (kind.soaks, kind.dries)
        if design.figures.belly or design.figures.lams:
            names = PLANS["oven"]
        return [self.rests[name] for name in names if name in self.rests]


def own_hours() -> dict[str, list[float]]:
    """Hours that each finished bow of the shop took at each stage, where any were written down."""
    rows = (
        Entry.objects.filter(build__finished__isnull=False, corrected_by=None, minutes__gt=0)
        .values("build", "stage")
        .annotate(spent=Sum("minutes"))
    )
    found: dict[str, list[float]] = defaultdict(list)
    for row in rows:
        found[row["stage"]].append(row["spent"] / 60)
    return found


def left_of(build: Build, times: Times, now: datetime) -> Ahead:
    """What is ahead of a build; its waits that run count as they hang."""
    running = [_left(wait, now) for wait in build.resting if wait.until > now]
    # waits that follow one another end one after the other; only the last end is still ahead
    longest = max(running, key=lambda one: one.usual, default=None)
    return ahead(
        build.stage,
        times.work,
        times.rests,
        times.backing(build.design),
        [longest] if longest else [],
    )


def _left(wait: Wait, now: datetime) -> Hours:
    usual = max((wait.until - now).total_seconds() / 3600, 0.0)
    return Hours(usual, usual, usual)


@dataclass(frozen=True)
class SeasonRow:
    """A bow that is being built, or could be begun.

    Attributes:
        design, stave: of one that is not begun.
        chance: whether it is done by the wanted day, in words; nothing without one.
        begin: what to do about beginning it, in words.
    """

    name: str
    build: Build | None
    design: Design | None
    stave: Stave | None
    ready: str
    plan: Schedule
    chance: str
    good: bool
    begin: str


@dataclass(frozen=True)
class SeasonPage:
    """The plan of a season."""

    form: SeasonForm
    rows: tuple[SeasonRow, ...]
    picture: str
    wanted: date | None
    learned: int


def season(given: Any, now: datetime, shown: Units) -> SeasonPage:
    """The plan for a wanted day; what was asked wrongly stands in the form."""
    asked = given if given and ("wanted" in given or "a_week" in given) else None
    form = SeasonForm(asked, shown=shown)
    good = form.is_bound and form.is_valid()
    wanted = form.cleaned_data["wanted"] if good else None
    a_week = float(form.cleaned_data["a_week"]) if good else A_WEEK
    today, times = timezone.localdate(now), Times.here()
    rows = [
        _row(
            build.name,
            _dry(build.stave, build.stage, today)[0],
            left_of(build, times, now),
            a_week,
            wanted,
            build=build,
        )
        for build in builds().filter(finished=None)
    ]
    rows += _unbegun(today, times, a_week, wanted)
    rows.sort(key=lambda row: (row.plan.latest or row.plan.usual, row.name))
    spans = [Span(row.name, row.plan, row.build is not None) for row in rows]
    picture = season_picture(spans, today, wanted) if spans else ""
    learned = Build.objects.exclude(finished=None).filter(entries__minutes__gt=0).distinct().count()
    return SeasonPage(form, tuple(rows), picture, wanted, learned)


def _unbegun(today: date, times: Times, a_week: float, wanted: date | None) -> list[SeasonRow]:
    """Designs that nobody has begun, each from when its stave is ready."""
    found = []
    known = {stave.pk: stave for stave in staves()}
    for design in present().filter(builds=None)[:40]:
        stave = known.get(design.stave_id) if design.stave_id else None
        begins, words = _dry(stave, "wood", today)
        left = ahead("wood", times.work, times.rests, times.backing(design))
        found.append(
            _row(design.name, begins, left, a_week, wanted, design=design, stave=stave, ready=words)
        )
    return found


def _dry(stave: Stave | None, stage: str, today: date) -> tuple[date, str]:
    """The day from which a stave can be worked, and its state in words."""
    if stave is None:
        return today, "no stave is chosen yet"
    state = seasoning_now(stave) if stage == "wood" else None
    forecast = state.forecast if state else None
    if state and forecast and state.ready and forecast.ready_in > 0:
        day = max(today, state.ready)
        return day, f"stave {stave.number} is dry about {day:%-d %B %Y}"
    return today, f"stave {stave.number} may be worked"


def _row(
    name: str,
    begins: date,
    left: Ahead,
    a_week: float,
    wanted: date | None,
    *,
    build: Build | None = None,
    design: Design | None = None,
    stave: Stave | None = None,
    ready: str = "",
) -> SeasonRow:
    plan = schedule(begins, left, a_week, wanted)
    chance = plan.chance(wanted) if wanted else ""
    begin = ""
    if build is None and wanted is not None and plan.latest is not None:
        if plan.latest < begins:
            begin = "cannot be begun in time"
        elif plan.safe is not None and plan.safe >= begins:
            begin = f"begin by {plan.safe:%-d %B} to be sure, {plan.latest:%-d %B} at the latest"
        else:
            begin = f"begin at once when it can be, {plan.latest:%-d %B} at the latest"
    return SeasonRow(
        name, build, design, stave, ready, plan, WORDS.get(chance, ""),
        chance in ("yes", "likely", ""), begin,
    )  # fmt: skip


def longest_first(rows: Sequence[Build], now: datetime) -> dict[int, Ahead]:
    """What is ahead of each build, by key: the longest chain is to be set going first."""
    times = Times.here()
    return {build.pk: left_of(build, times, now) for build in rows}
