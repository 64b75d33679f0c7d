"""Waits of a build: from a kind of rest or a time of one's own, one after another, as a plan."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from bowyery.making.rests import Hours, total
from fellwind.builds.models import Build, Wait
from fellwind.shop.models import Workshop
from fellwind.shop.services import hours_here, rest_table


@dataclass(frozen=True)
class Planned:
    """A wait in the plan: when it may be over at the earliest and the latest, where that is known.

    Attributes:
        early, late: ends of the range of its end, all before it counted in.
    """

    wait: Wait
    early: datetime
    late: datetime

    @property
    def ranged(self) -> bool:
        """Whether more than one end is known."""
        return self.late - self.early > timedelta(minutes=10)


def hours_of(wait: Wait) -> Hours:
    """How long a wait takes by its own figures."""
    usual = max((wait.until - wait.since).total_seconds() / 3600, 0.0)
    least = usual if wait.least is None else min(wait.least, usual)
    return Hours(least, usual, usual if wait.most is None else max(wait.most, usual))


def plan(build: Build) -> list[Planned]:
    """What hangs from a build's string, in order of its ends, each with the range of its end."""
    waits = {wait.pk: wait for wait in build.waits.filter(ended=None)}
    return [_planned(wait, waits) for wait in waits.values()]


def _planned(wait: Wait, waits: dict[int, Wait]) -> Planned:
    chain: list[Wait] = [wait]
    while chain[0].after_id in waits and waits[chain[0].after_id] not in chain:
        chain.insert(0, waits[chain[0].after_id])
    span = total([hours_of(one) for one in chain])
    begun = chain[0].since
    # what lies between them is somebody's own doing
    idle = wait.until - begun - timedelta(hours=span.usual)
    early, late = (begun + idle + timedelta(hours=h) for h in (span.low, span.high))
    return Planned(wait, early, late)


def finish(rows: Sequence[Planned]) -> Planned | None:
    """The last of a plan to be over; None where nothing rests."""
    return max(rows, key=lambda row: row.wait.until, default=None)


def move(wait: Wait, until: datetime) -> int:
    """Move the end of a wait, and all that follow it by as much."""
    by, moved = until - wait.until, 0
    wait.until = until
    wait.save(update_fields=["until"])
    seen, rest = {wait.pk}, list(wait.followers.filter(ended=None))
    while rest:
        one = rest.pop()
        if one.pk in seen:
            continue
        seen.add(one.pk)
        one.since, one.until = one.since + by, one.until + by
        one.save(update_fields=["since", "until"])
        moved += 1
        rest += one.followers.filter(ended=None)
    return moved


def hang(build: Build, names: Iterable[str]) -> list[Wait]:
    """Hang rests of the table from a build's string, one after another, in this shop's air; what
    the shop has taken off its table is left out.
    """
    table, workshop = rest_table(), Workshop.get()
    made: list[Wait] = []
    begun = timezone.now()
    for name in names:
        rest = table.get(name)
        if rest is None:
            continue
        span = hours_here(rest, workshop)
        until = begun + timedelta(hours=span.usual)
        made.append(
            Wait.objects.create(
                build=build, what=name[:1].upper() + name[1:], since=begun, until=until,
                least=span.low, most=span.high, after=made[-1] if made else None,
            )
        )  # fmt: skip
        begun = until
    return made
