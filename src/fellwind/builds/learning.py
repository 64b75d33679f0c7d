"""What proofs show of set, of what limbs keep, and of what finishing and shooting in took."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial

from django.db.models import Max

from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.mechanics.shot import GLASS_FROM
from bowyery.mechanics.strain import CREEP
from bowyery.record.evidence import Lost, losses_shown, share_kept
from bowyery.record.learned import QUANTITIES, Evidence
from fellwind.builds.models import Build, Entry, Measure
from fellwind.builds.proof import keeps_shown, last_follow
from fellwind.designs.services import core_inputs, try_solution
from fellwind.kit.cache import computed
from fellwind.kit.rooms import given
from fellwind.shop.learning import days

UNSHOT, SHOT_IN = 20, 50  # shots: at most, before it counts as shot in; at least, after


@dataclass(frozen=True)
class Proved:
    """A proof's figures of a build.

    Attributes:
        at: when.
        values: by kind (SI).
    """

    at: datetime
    values: dict[str, float]


@dataclass
class Bow:
    """A build with its proofs in order."""

    build: Build
    proofs: list[Proved] = field(default_factory=list)

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
        .select_related("entry__build__design__archer", "entry__build__design__stave",
                        "entry__build__stave")
        .order_by("entry__at", "entry__pk", "pk")
    )  # fmt: skip
    bows: dict[int, Bow] = {}
    entries: dict[int, Proved] = {}
    for row in rows:
        bow = bows.setdefault(row.entry.build_id, Bow(row.entry.build))
        if row.entry_id not in entries:
            entries[row.entry_id] = Proved(row.entry.at, {})
            bow.proofs.append(entries[row.entry_id])
        entries[row.entry_id].values[row.kind] = row.value or 0.0
    return list(bows.values())


def set_shares() -> list[Evidence]:
    """What part of the bend beyond its limit each proved bow kept."""
    found = []
    for bow in proved_bows():
        values: dict[str, float] = {}
        for proved in bow.proofs:
            values |= proved.values
        follow = last_follow(values)
        solved = None if follow is None else try_solution(bow.build.design)[0]
        if solved is None or follow is None or solved.set.keeps != 1.0:
            continue
        told = solved.set
        share = share_kept(told.beyond, follow - told.made - CREEP * told.creep)
        if share is not None:
            found.append(bow.showed(share, "its string follow at proof"))
    return found


def hysteresis() -> list[Evidence]:
    """What share of the energy limbs kept, by the speed of arrows: of bows all of wood."""
    found = []
    for bow in proved_bows():
        values = bow.proofs[-1].values
        if not {"weight", "arrow mass", "arrow speed"} <= set(values):
            continue
        solved, _ = try_solution(bow.build.design)
        if solved is None or not _wooden(solved):
            continue
        kept = keeps_shown(bow.build, solved, values)
        if kept is not None:
            found.append(bow.showed(kept, "the speed of its arrow"))
    return found


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
    tillered = next((w for ask in given("weight as tillered") if (w := ask(build))), None)
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


def _losses() -> dict[str, list[Evidence]]:
    bows = proved_bows()
    newest = Entry.objects.filter(build__in=[b.build for b in bows]).values("build")
    last = {row["build"]: row["last"] for row in newest.annotate(last=Max("pk")).order_by()}
    found: dict[str, list[Evidence]] = defaultdict(list)
    for bow in bows:
        try:
            design = core_inputs(bow.build.design)
        except BowyeryError:
            continue
        key = (bow.build.pk, last[bow.build.pk], design, bow.build.design.bow_file)
        lost: Lost = computed("lost", key, partial(_lost, bow), small=True)
        for name, share in (("finishing", lost.finishing), ("shooting", lost.shooting)):
            if share is not None:
                found[name].append(bow.showed(share, "weights before and after"))
    return found


def finishing() -> list[Evidence]:
    """What finishing took of each bow's weight."""
    return _losses()["finishing"]


def shooting() -> list[Evidence]:
    """What shooting in took of each bow's weight."""
    return _losses()["shooting"]
