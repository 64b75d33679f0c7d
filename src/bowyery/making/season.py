"""How long a bow still takes: work by stage, the rests between, and when to begin for a wanted day.

Hours of work by stage are a careful maker's first figures (a quick bow takes a third of them, a
careful one half as much again), drawn towards what the shop's own bows took as those add up: the
mean of ``PRIOR`` bows of the book and of all that were written down.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from bowyery.errors import DescriptionError
from bowyery.making.rests import Hours, total
from bowyery.making.stages import STAGES, since

QUICK, SLOW = 0.6, 1.6  # how far either way a bow's work may be off the usual
PRIOR = 2.0


@dataclass(frozen=True)
class Ahead:
    """What a bow still takes.

    Attributes:
        work: hours with hands on it.
        rests: hours it rests by itself, least, usual and long.
    """

    work: float
    rests: Hours

    def days(self, a_week: float) -> tuple[float, float, float]:
        """Days until it is done, early, usual and late.

        Args:
            a_week: hours a week that are worked on it.

        Returns:
            The days; work and rests follow one another.

        Raises:
            DescriptionError: no hours at all.
        """
        if not (math.isfinite(a_week) and a_week > 0):
            raise DescriptionError("Say how many hours a week are worked.", "a_week")
        at_work = self.work / a_week * 7
        ends = (self.rests.low, QUICK), (self.rests.usual, 1.0), (self.rests.high, SLOW)
        early, usual, late = (rest / 24 + at_work * pace for rest, pace in ends)
        return early, usual, late


def work_by_stage(own: Mapping[str, Sequence[float]]) -> dict[str, float]:
    """Hours of work by stage, the book's drawn towards the shop's own.

    Args:
        own: hours that each of the shop's bows took at a stage.
    """
    return {
        name: (PRIOR * stage.hours + sum(own.get(name, ()))) / (PRIOR + len(own.get(name, ())))
        for name, stage in STAGES.items()
    }


def ahead(
    stage: str,
    work: Mapping[str, float],
    rests: Mapping[str, Hours],
    backing: Sequence[Hours] = (),
    running: Sequence[Hours] = (),
) -> Ahead:
    """What is still ahead of a bow at a stage, that stage's own work counted whole.

    Args:
        rests: how long each of the table's rests takes in this air.
        backing: rests of its own backing or stack, in order.
        running: what is left of rests that run already.
    """
    to_come = since(stage)
    hours = sum(work[one.name] for one in to_come)
    row = list(running)
    if STAGES["back"] in to_come and not running:
        row += backing
    row += [rests[rest] for one in to_come for rest in one.rests if rest in rests]
    return Ahead(hours, total(row) if row else Hours(0.0, 0.0, 0.0))


@dataclass(frozen=True)
class Schedule:
    """When a bow is done, and when it has to be begun for a wanted day.

    Attributes:
        begins: the first day it can be worked on.
        latest: the last day to begin, so that it is most likely done on the wanted one; None
            without a wanted day.
        safe: the last day to begin, so that it is done even if all takes long.
    """

    begins: date
    early: date
    usual: date
    late: date
    latest: date | None = None
    safe: date | None = None

    def chance(self, wanted: date) -> str:
        """Whether it will be done by a day: ``yes``, ``likely``, ``hardly`` or ``no``."""
        if self.late <= wanted:
            return "yes"
        if self.usual <= wanted:
            return "likely"
        return "hardly" if self.early <= wanted else "no"


def schedule(begins: date, left: Ahead, a_week: float, wanted: date | None = None) -> Schedule:
    """When a bow is done.

    Args:
        begins: the first day it can be worked on.
        a_week: hours a week that are worked on it.
        wanted: the day it is wanted, or None.
    """
    spans = [timedelta(days=math.ceil(d)) for d in left.days(a_week)]
    done = [begins + span for span in spans]
    return Schedule(
        begins,
        done[0],
        done[1],
        done[2],
        None if wanted is None else wanted - spans[1],
        None if wanted is None else wanted - spans[2],
    )
