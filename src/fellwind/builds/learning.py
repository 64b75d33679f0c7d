"""What proofs show of set, of what limbs keep, and of what finishing and shooting in took."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial
from typing import Literal, TypeVar

from django.db.models import Max

from bowyery.design.solution import Solution
from bowyery.design.usual import kind_of
from bowyery.errors import BowyeryError
from bowyery.mechanics.shot import GLASS_FROM
from bowyery.record.evidence import Lost, losses_shown, share_kept
from bowyery.record.learned import QUANTITIES, Evidence
from fellwind.builds.models import Build, Entry, Measure
from fellwind.builds.ports import WEIGHT_TILLERED
from fellwind.builds.proof import keeps_shown, last_follow
from fellwind.designs.ports import FINISHED_BOWS
from fellwind.designs.services import core_inputs, try_solution
from fellwind.kit.cache import computed, read_kept, read_once
from fellwind.kit.ports import EVIDENCE
from fellwind.shop.learning import days

UNSHOT, SHOT_IN = 20, 50  # shots: at most, before it counts as shot in; at least, after
Found = TypeVar("Found")


@dataclass(frozen=True)
class Proved:
    """A proof's figures of a build."""

    at: datetime
    values: dict[str, float]


@dataclass
class Bow:
    """A build with its proofs in order."""

    build: Build
    proofs: list[Proved] = field(default_factory=list)

    def read(self) -> tuple[tuple[float, tuple[tuple[str, float], ...]], ...]:
        """When it was proved, and all that was read then."""
        return tuple((p.at.timestamp(), tuple(sorted(p.values.items()))) for p in self.proofs)

    def showed(self, told: tuple[float, float], words: str) -> Evidence:
        """What it showed of a figure, with its error."""
        build = self.build
        return Evidence(
            *told, build.design.material, build.tree, build.number, day=days(self.proofs[-1].at),
            words=words,
        )  # fmt: skip


def proved_bows() -> list[Bow]:
    """Every build that was proved, with its proofs."""
    rows = (
        Measure.objects.filter(
            entry__kind="proof", entry__corrected_by=None, value__isnull=False
        )
        .exclude(kind__in=("pull", "shot speed"))
        .select_related("entry")
        .order_by("entry__at", "entry__pk", "pk")
    )  # fmt: skip
    builds = Build.objects.select_related("design__archer", "design__stave", "stave").in_bulk(
        {row.entry.build_id for row in rows}
    )
    bows: dict[int, Bow] = {}
    entries: dict[int, Proved] = {}
    for row in rows:
        bow = bows.setdefault(row.entry.build_id, Bow(builds[row.entry.build_id]))
        if row.entry_id not in entries:
            entries[row.entry_id] = Proved(row.entry.at, {})
            bow.proofs.append(entries[row.entry_id])
        entries[row.entry_id].values[row.kind] = row.value or 0.0
    return list(bows.values())


def _of_each(what: str, compute: Callable[[Bow], Found]) -> list[tuple[Bow, Found]]:
    """What every proved bow shows, kept by its design, its proofs and its newest entry."""
    bows, found = read_kept("proved bows", proved_bows), list[tuple[Bow, Found]]()
    newest = Entry.objects.filter(build__in=[b.build for b in bows]).values("build")
    last = {row["build"]: row["last"] for row in newest.annotate(last=Max("pk")).order_by()}
    for bow in bows:
        build = bow.build
        try:
            key = (build.pk, last[build.pk], bow.read(), core_inputs(build.design),
                   build.design.bow_file)  # fmt: skip
        except BowyeryError:
            continue
        found.append((bow, computed(what, key, partial(compute, bow), small=True)))
    return found


def _stays(bow: Bow) -> tuple[float, float] | None:
    solved, _ = try_solution(bow.build.design)
    values: dict[str, float] = {}
    for proved in bow.proofs:
        values |= proved.values
    follow = last_follow(values)
    if follow is None or solved is None or solved.set.keeps != 1.0:  # green, it keeps more
        return None
    told = solved.set
    return share_kept(told.beyond, told.excess_in(follow))


def _keeps(bow: Bow) -> tuple[float, float] | None:
    """The energy a bow keeps is told with its string on, which is worked out on the limbs as they
    were tillered, and so with the losses and sets of other bows: neither must ask for it.
    """
    solved, _ = try_solution(bow.build.design)
    values = bow.proofs[-1].values
    if not {"weight", "arrow mass", "arrow speed"} <= set(values):
        return None
    return keeps_shown(bow.build, solved, values) if solved and _wooden(solved) else None


@dataclass(frozen=True)
class Finished:
    """A proved bow as evidence of what its kind bears."""

    number: int
    kind: str
    strain: float
    follow: float | None


def _finished(bow: Bow) -> Finished | None:
    solved, _ = try_solution(bow.build.design)
    if solved is None:
        return None
    kind = kind_of(solved.bow, solved.weight, solved.wanted.draw)
    values: dict[str, float] = {}
    for proved in bow.proofs:
        values |= proved.values
    number, follow = bow.build.number, last_follow(values)
    return Finished(number, kind.name, solved.strain, follow) if kind else None


@FINISHED_BOWS.answered_by
def finished_bows() -> list[Finished]:
    """Every proved bow whose kind the table knows."""
    told = read_kept("kinds of bows", lambda: _of_each("kind of bow", _finished))
    return [one for _, one in told if one is not None]


@EVIDENCE["set share"].answered_by
def set_shares() -> list[Evidence]:
    """What part of the bend beyond its limit each proved bow kept."""
    return _shown("set stayed", _stays, "its string follow at proof")


@EVIDENCE["hysteresis"].answered_by
def hysteresis() -> list[Evidence]:
    """What share of the energy limbs kept, by the speed of arrows: of bows all of wood."""
    return _shown("energy kept", _keeps, "the speed of its arrow")


def _shown(
    what: str, compute: Callable[[Bow], tuple[float, float] | None], by: str
) -> list[Evidence]:
    told = read_once(what, lambda: _of_each(what, compute))
    return [bow.showed(one, by) for bow, one in told if one is not None]


def _wooden(solved: Solution) -> bool:
    return all(
        la.modulus < GLASS_FROM and not la.ductile
        for limb in solved.bow.limbs
        for la in limb.layers
    )


def _lost(bow: Bow) -> Lost:
    """What it lost on the way, from the weights that were read and the tiller's last look."""
    build = bow.build
    unshot = [p for p in bow.proofs if 0 < p.values.get("shots", 0.0) <= UNSHOT]
    shot = [p for p in bow.proofs if p.values.get("shots", 0.0) >= SHOT_IN]
    finished = unshot[0].values.get("weight") if unshot else _after_finish(build)
    shot_in = shot[-1].values.get("weight") if shot else None
    if finished is None and shot_in is None:
        return Lost()
    tillered = WEIGHT_TILLERED.first(build)
    usual = [QUANTITIES[name] for name in ("finishing", "shooting")]
    first, second = ((q.middle, (q.shop**2 + q.wood**2 + q.bow**2) ** 0.5) for q in usual)
    return losses_shown(tillered, finished, shot_in, (first, second))


NEAR_FULL = 0.013  # of the draw (m)


def _after_finish(build: Build) -> float | None:
    """The weight at full draw that was read at the finish, where it was."""
    full = build.design.draw
    row = (
        Measure.objects.filter(entry__build=build, entry__stage="finish",
                               entry__corrected_by=None, kind="weight",
                               draw__gte=full - NEAR_FULL, draw__lte=full + NEAR_FULL)
        .order_by("entry__at", "pk").last()
    )  # fmt: skip
    return None if row is None or row.value is None else row.value


def _losses(name: Literal["finishing", "shooting"]) -> list[Evidence]:
    rows = [(bow, getattr(lost, name)) for bow, lost in _of_each("lost", _lost)]
    return [bow.showed(share, "weights before and after") for bow, share in rows if share]


@EVIDENCE["finishing"].answered_by
def finishing() -> list[Evidence]:
    """What finishing took of each bow's weight."""
    return _losses("finishing")


@EVIDENCE["shooting"].answered_by
def shooting() -> list[Evidence]:
    """What shooting in took of each bow's weight."""
    return _losses("shooting")
