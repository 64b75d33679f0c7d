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

STAGES = ("wood", "lay-out", "rough", "back", "tiller", "string", "finish", "proof")
# Hours with hands on the bow, by stage; and how far either way a bow may be off them.
WORK = {
    "wood": 1.0, "lay-out": 1.0, "rough": 4.0, "back": 2.0, "tiller": 6.0, "string": 3.0,
    "finish": 3.0, "proof": 2.0,
}  # fmt: skip
QUICK, SLOW = 0.6, 1.6
PRIOR = 2.0
# What rests by itself after the work of a stage is done: names of the table of rests.
RESTS: dict[str, tuple[str, ...]] = {
    "tiller": ("limbs rest unstrung",),
    "finish": ("coat of oil dries", "coat of oil dries", "coat of oil dries"),
}


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
        stage: (PRIOR * hours + sum(own.get(stage, ()))) / (PRIOR + len(own.get(stage, ())))
        for stage, hours in WORK.items()
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
    here = STAGES.index(stage)
    hours = sum(work[name] for name in STAGES[here:])
    row = list(running)
    if here <= STAGES.index("back") and not running:
        row += backing
    for name in STAGES[here:]:
        row += [rests[one] for one in RESTS.get(name, ()) if one in rests]
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
