"""What the Today page and the shop page say."""

from dataclasses import dataclass
from urllib.parse import urlparse

from django.utils import timezone

from bowyery.errors import BowyeryError
from bowyery.seasoning import balance_moisture
from fellwind.builds.models import Build
from fellwind.builds.services import build_knots, builds, left
from fellwind.builds.stages import CAUTIONS
from fellwind.designs import services as designs
from fellwind.drawing.ruler import small_outline
from fellwind.staves.services import Seasoning, seasoning
from fellwind.staves.views import staves
from fellwind.tiller import services as tiller
from fellwind.tiller import words
from fellwind.workshop.measures import Units
from fellwind.workshop.models import Workshop

TODO = {
    "wood": "Choose the stave and look through its list",
    "lay-out": "Mark it out from the marking table",
    "rough": "Rough it out and bend it on the floor",
    "back": "Back it, or break the edges of its plain back",
    "tiller": "Put the string on and write down the first weight",
    "string": "Make its string",
    "finish": "Sand, round and coat it",
    "proof": "Weigh it, shoot it in and write down the proof",
}


@dataclass(frozen=True)
class Row:
    """A build on the Today page."""

    build: Build
    picture: str
    knots: str
    act: str
    state: str
    now: bool
    minutes: int


def shop_balance(workshop: Workshop) -> float:
    """Moisture that wood comes to in the shop's air."""
    return balance_moisture(workshop.air_celsius, workshop.air_humidity)


def today(workshop: Workshop, now: timezone.datetime, shown: Units) -> dict[str, object]:
    """Everything the Today page shows."""
    from django.db.models import Q, Sum

    total = Sum("entries__minutes", filter=Q(entries__corrected_by=None))
    open_builds = list(builds().filter(finished=None).annotate(spent=total))
    bench_shop = tiller.Shop.get()
    rows = sorted(
        (_row(build, now, shown, bench_shop) for build in open_builds), key=lambda row: (not row.now, -row.build.number)
    )
    resting = sum(1 for build in open_builds for w in build.resting if w.until > now)
    due = sum(1 for build in open_builds for w in build.resting if w.until <= now)
    rack = [(stave, seasoning(stave, workshop)) for stave in staves().filter(builds=None)[:20]]
    hands_on = {b.stage for b in open_builds if b.stage in ("tiller", "finish", "proof")}
    return {
        "workshop": workshop,
        "day": now,
        "balance": shop_balance(workshop),
        "rows": rows,
        "resting": resting,
        "due": due,
        "drying": [(stave, s) for stave, s in rack if s.forecast is not None and s.forecast.ready_in > 0],
        "ready": [(stave, s) for stave, s in rack if _ready(s)],
        "mind": [CAUTIONS[stage] for stage in ("tiller", "finish", "proof") if stage in hands_on],
        "finished": builds().exclude(finished=None)[:5],
    }


def _ready(found: Seasoning) -> bool:
    return found.forecast is not None and found.forecast.ready_in <= 0


def _row(build: Build, now: timezone.datetime, shown: Units, bench_shop: tiller.Shop) -> Row:
    found, _ = designs.try_solution(build.design)
    data = designs.ruler_data(found) if found else None
    act, state, ready = TODO[build.stage], "can be done now", True
    if build.resting:
        wait = build.resting[0]
        over = wait.until <= now
        act = f"{wait.what}: time is up" if over else wait.what
        state = "it is due" if over else f"until {timezone.localtime(wait.until):%a %-d %b, %H:%M} · {left(wait.until, now)}"
        ready = over
    elif build.stage == "proof" and build.entries.filter(kind="proof").exists():
        act = "The proof is written; print the bow card and close the build"
    elif build.stage == "tiller" and found is not None:
        try:
            bench = tiller.bench(build, shop=bench_shop)
        except BowyeryError:
            bench = None
        if bench is not None and bench.advice is not None and bench.stand is not None:
            act = words.say(bench, shown).short.capitalize()
            data = tiller.tiller_ruler(found, bench, {r.limb: "" for r in bench.advice.removals})
    picture = small_outline(data) if data else ""
    return Row(build, picture, build_knots(build, now), act, state, ready, build.spent or 0)


def local_path(referer: str, host: str) -> str:
    """The path a person came from, when it is on this host; else the Today page."""
    parts = urlparse(referer)
    if parts.netloc != host or not parts.path.startswith("/"):
        return "/"
    return parts.path + (f"?{parts.query}" if parts.query else "")
