"""Threads on the shelf, and which strings hang on which bows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Prefetch

from fellwind.builds.models import Build
from fellwind.strings.models import BowString, StrandTest, Thread
from fellwind.strings.services import Sheet, Tested, sheets_of, strings, tested


@dataclass(frozen=True)
class StockRow:
    """A thread with its tests, and what strings that are not made yet want of it (kg)."""

    tested: Tested
    needs: float
    strings: int

    @property
    def short(self) -> bool:
        """Whether it does not reach."""
        stock = self.tested.thread.stock
        return stock is not None and self.needs > stock


@dataclass(frozen=True)
class Hung:
    """Strings of one bow."""

    build: Build
    sheets: tuple[Sheet, ...]


def hung() -> list[Hung]:
    """Every string, hung by its bow, the newest bow first."""
    by_build: dict[int, list[BowString]] = {}
    for one in strings():
        by_build.setdefault(one.build.number, []).append(one)
    return [Hung(rows[0].build, sheets_of(rows)) for _, rows in sorted(by_build.items())[::-1]]


def stock(bows: Sequence[Hung]) -> list[StockRow]:
    """The shop's threads, and what is wanted of each."""
    wants: dict[int, list[float]] = {}
    for bow in bows:
        for one in bow.sheets:
            if one.plan and one.string.thread_id and not one.is_made and one.over is None:
                mass = one.plan.thread * one.plan.fibre.line_mass
                wants.setdefault(one.string.thread_id, []).append(mass)
    tests = StrandTest.objects.filter(struck_by=None).exclude(load=None)
    threads = Thread.objects.prefetch_related(Prefetch("tests", tests, to_attr="standing_tests"))
    return [
        StockRow(tested(one), sum(wants.get(one.pk, [])), len(wants.get(one.pk, [])))
        for one in threads
    ]
