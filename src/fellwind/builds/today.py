"""What builds tell Today: where every bow stands, what was finished, and what to mind."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db.models import Q, QuerySet, Sum
from django.utils import timezone

from bowyery.making.season import Ahead
from bowyery.making.stages import STAGES
from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.builds.season import longest_first
from fellwind.builds.services import build_progress, builds, left, outlines
from fellwind.kit.rooms import Act, TodayPart, room_for
from fellwind.rack.services import seasoning, staves
from fellwind.shop.models import Workshop

MOST = 20  # builds on the page; the rest is on the list


@dataclass(frozen=True)
class Row:
    """A build on the Today page."""

    build: Build
    picture: str | None
    progress: str
    act: str
    state: str
    now: bool
    minutes: int
    later: str = ""
    clock: datetime | None = None


@dataclass(frozen=True)
class BuildsToday:
    """Open builds, what can be done now first; how many are not shown, how many things rest and are
    due.
    """

    rows: list[Row]
    more: int
    resting: int
    due: int


@dataclass(frozen=True)
class WarnToday:
    """What matters today, before anything else."""

    warnings: list[str]


@dataclass(frozen=True)
class FinishedToday:
    """What was finished last."""

    finished: QuerySet[Build]


@dataclass(frozen=True)
class MindToday:
    """Cautions of what is in hand."""

    mind: list[str]


def parts(now: datetime, shown: Units) -> list[TodayPart]:
    """The builds' parts of the page."""
    spent = Sum("entries__minutes", filter=Q(entries__corrected_by=None))
    open_builds = list(builds().filter(finished=None).annotate(spent=spent))  # type: ignore[no-redef]
    left, dries = longest_first(open_builds, now), _drying(open_builds)
    # what is due first, then the longest chain, and what rests at the end, the soonest over first
    open_builds.sort(key=lambda build: (build.pk in dries, _turn(build, now, left[build.pk])))
    listed = open_builds[:MOST]
    wanted, pictures = _acts(listed, shown), outlines(listed)
    rows = [
        _row(
            build,
            now,
            wanted.get(build.pk),
            pictures[build.pk],
            left[build.pk],
            dries.get(build.pk),
        )
        for build in listed
    ]
    more = len(open_builds) - len(listed)
    waits = [w.until > now for build in open_builds for w in build.resting]
    found = [
        TodayPart(
            "builds/_today.html", BuildsToday(rows, more, sum(waits), len(waits) - sum(waits)), 10
        )
    ]
    said = _warnings(open_builds, now)
    if said:
        found.append(TodayPart("builds/_warn.html", WarnToday(said), 5))
    finished = builds().exclude(finished=None)[:5]
    if finished:
        found.append(TodayPart("builds/_finished.html", FinishedToday(finished), 30))
    hands_on = {build.stage for build in open_builds}
    mind = [one.caution for one in STAGES.values() if one.minded and one.name in hands_on]
    return [*found, TodayPart("builds/_mind.html", MindToday(mind), 40)] if mind else found


def _drying(open_builds: Sequence[Build]) -> dict[int, date]:
    """Builds at their wood whose stave is not dry yet, with the day it is ready about."""
    mine = {b.stave_id: b.pk for b in open_builds if b.stage == "wood" and b.stave_id}
    if not mine:
        return {}
    workshop, found = Workshop.get(), {}
    for stave in staves().filter(pk__in=mine):
        state = seasoning(stave, workshop)
        if state.forecast is not None and state.ready and state.forecast.ready_in > 0:
            found[mine[stave.pk]] = state.ready
    return found


def _turn(build: Build, now: datetime, left: Ahead) -> tuple[int, float, int]:
    """Its turn in the day."""
    if build.resting and build.resting[0].until > now:
        return 2, (build.resting[0].until - now).total_seconds(), -build.number
    return (0 if build.resting else 1), -left.rests.usual, -build.number


OVERDUE = timedelta(hours=12)
WARM = ("oven", "heat box", "in the box")


def _warnings(open_builds: Sequence[Build], now: datetime) -> list[str]:
    """What matters now: what lies too long, and what a warm box could do beside."""
    said = []
    for build in open_builds:
        for wait in build.resting:
            if wait.until < now - OVERDUE:
                since = f"{timezone.localtime(wait.until):%a %-d %b, %H:%M}"
                said.append(
                    f"Number {build.number}, {build.name}: {wait.what}, over since {since}."
                )
    warm = [
        (build, wait)
        for build in open_builds
        for wait in build.resting
        if wait.since <= now < wait.until and any(word in wait.what.lower() for word in WARM)
    ]
    waiting = [
        b for b in open_builds if not b.resting and b.stage == "back" and b.design.figures.back
    ]
    if warm and waiting:
        until = f"{timezone.localtime(max(w.until for _, w in warm)):%a %H:%M}"
        names = ", ".join(f"number {b.number}" for b in waiting)
        said.append(f"The box is warm until {until}: warm the lams of {names} in it too.")
    return said


def _acts(open_builds: Sequence[Build], shown: Units) -> dict[int, Act]:
    """What each build that is not resting wants next, by the room that serves its stage."""
    free = [build for build in open_builds if not build.resting]
    found: dict[int, Act] = {}
    for room in {room_for(build.stage) for build in free}:
        ask = room.call("acts")
        mine = [build for build in free if room_for(build.stage) is room]
        found |= ask(mine, shown) if ask else {}
    return found


def acts(those: Sequence[Build], shown: Units) -> dict[int, Act]:
    """What builds at the stages that have no room of their own want next."""
    proved = set(
        Build.objects.filter(
            pk__in=[b.pk for b in those if b.stage == "proof"], entries__kind="proof"
        ).values_list("pk", flat=True)
    )
    said = "The proof is written; print the bow card and close the build"
    return {pk: Act(said) for pk in proved}


def _is_free(build: Build, now: datetime) -> bool:
    """Whether something can be done on it now."""
    return not build.resting or build.resting[0].until <= now


def _row(
    build: Build,
    now: datetime,
    wanted: Act | None,
    outline: str | None,
    left_: Ahead,
    dry: date | None,
) -> Row:
    act = wanted.words if wanted else STAGES[build.stage].todo
    state, ready = "can be done now", _is_free(build, now)
    if left_.rests.usual >= 24:
        state = f"can be done now · {left_.rests.usual / 24:.0f} days of rests ahead"
    if dry is not None and not build.resting:
        ready = False
        act, state = "Its stave dries in the rack; weigh it", f"ready about {dry:%-d %B %Y}"
    if build.resting:
        wait = build.resting[0]
        act = f"{wait.what}: time is up" if ready else wait.what
        until = f"until {timezone.localtime(wait.until):%a %-d %b, %H:%M}"
        state = "it is due" if ready else f"{until} · {left(wait.until, now)}"
    picture = wanted.picture if wanted and wanted.picture else outline
    later = wanted.later if wanted else ""
    strings = build_progress(build, now)
    clock = build.resting[0].until if build.resting and build.resting[0].short else None
    return Row(build, picture, strings, act, state, ready, build.spent or 0, later, clock)
