"""What the tiller has seen of tools and woods, and what a bow weighed when it left it."""

from __future__ import annotations

import math
from datetime import datetime
from functools import partial

from django.db.models import Max

from bowyery.errors import BowyeryError
from bowyery.record.evidence import modulus_shown
from bowyery.record.learned import NINETY, Evidence
from bowyery.tiller.forecast import Band
from bowyery.tiller.log import History, history
from bowyery.wood.materials import at_moisture
from fellwind.builds.log import noted
from fellwind.builds.models import Build
from fellwind.builds.ports import WEIGHT_TILLERED
from fellwind.designs.services import core_inputs, solution, try_solution
from fellwind.kit.cache import computed
from fellwind.kit.ports import EVIDENCE
from fellwind.shop.book import material
from fellwind.shop.learning import days
from fellwind.tiller.hands import (
    ShopTiller,
    bites_seen,
    learned_shop,
    rulers_seen,
    workpiece,
)
from fellwind.tiller.services import at_tiller, bench

NEAR_FULL = 0.9  # of the full draw: seen so far, the weight there is known well enough


@EVIDENCE["bite"].answered_by
def bites() -> list[Evidence]:
    """What passes showed of every tool."""
    return bites_seen(ShopTiller.get())


@EVIDENCE["reading"].answered_by
def rulers() -> list[Evidence]:
    """What looks showed of every kind of reading."""
    return rulers_seen(ShopTiller.get())


@EVIDENCE["modulus"].answered_by
def moduli() -> list[Evidence]:
    """How stiff the wood of each bow is against the book, where calipers and scale were used on the
    same wood.
    """
    builds = (
        Build.objects.filter(entries__measures__kind="thickness")
        .select_related("design__archer", "design__stave", "stave")
        .annotate(last=Max("entries__pk"), latest=Max("entries__at"))
        .order_by("pk")
    )
    found = []
    for build in builds:
        try:
            key = (build.pk, build.last, core_inputs(build.design), build.design.bow_file)
        except BowyeryError:
            continue
        told: tuple[float, float] | None = computed(
            "modulus shown", key, partial(_modulus, build), small=True
        )
        if told is not None:
            found.append(Evidence(
                *told, build.design.material, build.tree, build.number, "", days(build.latest),
                "calipers and scale at the tiller",
            ))  # fmt: skip
    return found


def _modulus(build: Build) -> tuple[float, float] | None:
    design = build.design
    solved, _ = try_solution(design)
    if solved is None:
        return None
    piece = workpiece(solved)
    told = modulus_shown(piece, history(noted(at_tiller(build)), piece.roots))
    if told is None:
        return None
    # its design may reckon with what was measured or learned: against the book it is told
    book = at_moisture(material(design.material), design.figures.moisture).modulus
    return told[0] + math.log(solved.wood.modulus / book), told[1]


def _seen_full(whole: History, full: float) -> bool:
    """Whether the wood that is on was pulled nearly full on its final string."""
    for check in reversed(whole.checks):
        if check.string.rung == "full" and (check.draw or 0.0) >= NEAR_FULL * full:
            return True
        if check.changes:
            break
    return False


@WEIGHT_TILLERED.answered_by
def weight_as_tillered(build: Build) -> tuple[float, float] | None:
    """What a bow would have weighed at full draw when it left the tiller, and one deviation (N);
    None where it was not pulled nearly so far, or on another string.
    """
    entries, shop = at_tiller(build), ShopTiller.get()
    try:
        whole = history(noted(entries), workpiece(solution(build.design)).roots)
        if whole.changes or not _seen_full(whole, build.design.draw):
            return None
        # as its own readings say: what other bows have shown does not count
        outlook = bench(build, shop=shop.alone, entries=entries).outlook
    except BowyeryError:
        return None
    if outlook is None:
        return None
    return outlook.now.middle, (outlook.now.high - outlook.now.low) / (2 * NINETY)


RUNGS = {"long": "on a long string", "low": "at low brace", "full": "at full brace"}


def forecasts_by_rung(build: Build, before: datetime) -> list[tuple[str, Band]]:
    """What the tiller foretold of the finished weight at the last look on each rung of the ladder,
    by what the shop knew before a moment.
    """
    entries = at_tiller(build)
    try:
        shop = learned_shop(build, ShopTiller.get(), before)
        checks = history(noted(entries), workpiece(solution(build.design)).roots).checks
    except BowyeryError:
        return []
    last = {one.string.rung: one.number for one in checks if one.draw is not None}
    found = []
    for rung, words in RUNGS.items():
        if rung not in last:
            continue
        try:
            outlook = bench(build, upto=last[rung], shop=shop, entries=entries).outlook
        except BowyeryError:
            continue
        if outlook is not None:
            found.append((words, outlook.final))
    return found
