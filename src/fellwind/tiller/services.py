"""From a build's log to the state of its bench, and from that to what pictures show."""

from collections.abc import Callable, Mapping
from dataclasses import replace as changed
from datetime import timedelta
from functools import partial

from django.utils import timezone

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution, as_marked
from bowyery.errors import BowyeryError
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, most_use, work_out
from bowyery.tiller.changes import Pass
from bowyery.tiller.ladder import HALF_HOUR as LADDER_HALF_HOUR
from bowyery.tiller.log import history
from bowyery.units.quantity import Units
from fellwind.builds.log import noted
from fellwind.builds.models import Build, Entry, Wait
from fellwind.builds.services import standing_entries
from fellwind.designs.pictures import ruler_data
from fellwind.designs.services import solution
from fellwind.drawing.ruler import RulerData
from fellwind.kit.cache import computed
from fellwind.tiller.hands import ShopTiller, learned_shop, workpiece

NOTHING_READ = (
    "Nothing has been read yet. Put the string on, pull a little, and write down the first weight."
)


LATE = ("finish", "proof")  # stages at which finishing has taken what it takes


def at_tiller(build: Build) -> list[Entry]:
    """What was read and done before finishing took more."""
    return [one for one in standing_entries(build) if one.stage not in LATE]


def plan_for(build: Build, found: Solution, braced: bool, shop: ShopTiller) -> Plan:
    """What tillering a build is to reach."""
    design = build.design
    return Plan(
        design.weight,
        design.draw,
        design.fingers,
        "D" if build.school == "D" else "W",
        build.beginner,
        braced,
        most_use(found.uses),
        shop.gear,
        shop.losses,
        design.figures.gap,
        build.tool,
        shop.tools,
        rulers=shop.rulers,
        share=shop.share,
        keeps=found.wood.keeps,
        floor=build.floor,
    )


def several(build: Build) -> Callable[..., BenchState]:
    """:func:`bench` of a build for a page that looks at several of its checks: what they share is
    read once.
    """
    shop = ShopTiller.get()
    shop = learned_shop(build, shop)
    return partial(bench, build, shop=shop, entries=standing_entries(build))


def bench(
    build: Build,
    upto: int | None = None,
    shop: ShopTiller | None = None,
    without: int | None = None,
    entries: list[Entry] | None = None,
) -> BenchState:
    """Work out what the tiller screen says.

    Args:
        upto: number of the check to look back at, or None for now.
        shop: what all builds share, where it is at hand.
        without: key of an entry that is left out.
        entries: of its log that count, where they are at hand.

    Returns:
        The state of the bench, or one that says why there is none.

    Raises:
        BowyeryError: the design itself cannot be solved.
    """
    found = solution(build.design)
    piece = workpiece(found)
    rows = standing_entries(build) if entries is None else entries
    whole = history(noted(one for one in rows if one.pk != without), piece.roots)
    shop = shop or ShopTiller.get()
    if not shop.learned:
        shop = learned_shop(build, shop)
    past = whole.upto(upto)
    late = {one.pk for one in rows if one.stage in LATE}
    if past.checks and late.intersection(past.checks[-1].entries):  # it has been finished
        done = changed(shop.losses, finishing=0.0, finishing_spread=0.0)
        shop = changed(shop, losses=done)
    plan = plan_for(build, found, whole.braced, shop)
    if not past.checks:
        return BenchState(plan, whole, trouble=NOTHING_READ)
    try:
        worked = computed("tiller", (piece, past, plan), lambda: work_out(piece, past, plan))
    except BowyeryError as error:
        return BenchState(plan, whole, past.checks[-1], trouble=str(error))
    return changed(worked, history=whole)


def _spans(state: BenchState) -> dict[str, tuple[tuple[float, float], ...]]:
    """Where wood is to come off each limb, from the centre: the stretches of the advice, none for
    a whole limb.
    """
    found: dict[str, tuple[tuple[float, float], ...]] = {}
    for side, root in state.roots.items():
        rows = [r for r in state.advice.removals if r.limb == side] if state.advice else []
        if rows and all(r.start is not None for r in rows):
            found[side] = tuple((root + (r.start or 0.0), root + (r.end or 0.0)) for r in rows)
    return found


def tiller_ruler(found: Solution, state: BenchState, take: Mapping[str, str]) -> RulerData:
    """What the one ruler shows of a bow at the tiller: hatched where wood is to come off, with a
    word for each limb.
    """
    return changed(ruler_data(standing(found, state)), take=dict(take), spans=_spans(state))


def standing(found: Solution, state: BenchState) -> Solution:
    """The bow as it stands after all that changed it: its design, where nothing has."""
    acts = [one for check in state.history.checks for one in check.changes]
    acts += state.history.changes
    if state.piece is None or all(isinstance(one, Pass) and not one.face for one in acts):
        return found
    bow = state.piece.bow
    key = (bow, found.layout, found.wanted, found.wood)
    try:
        return computed(
            "standing", key, lambda: as_marked(bow, found.layout, found.wanted, found.wood)
        )
    except BowyeryError:
        return found


HALF_HOUR = "left braced half an hour"


def half_hour(build: Build) -> tuple[Wait | None, bool]:
    """The half hour that a braced bow rests: the wait that runs, and whether one is over."""
    rows = list(build.waits.filter(what__iexact=HALF_HOUR).order_by("-until"))
    running = next((w for w in rows if w.ended is None and w.until > timezone.now()), None)
    over = any(w.until <= timezone.now() and (w.ended is None or w.ended >= w.until) for w in rows)
    return running, over


def start_half_hour(build: Build) -> Wait:
    """Let it rest braced for half an hour from now; the one that runs already stays."""
    running, _ = half_hour(build)
    if running is not None:
        return running
    until = timezone.now() + timedelta(minutes=LADDER_HALF_HOUR)
    return Wait.objects.create(build=build, what=HALF_HOUR, until=until)


def taken_words(state: BenchState, shown: Units) -> dict[str, str]:
    """How much is to come off each limb at most, in words."""
    if state.advice is None:
        return {}
    off = state.advice.removal
    return {
        side: f"take up to {shown.shaving(float(off[k].max()))}"
        for k, side in enumerate(SIDES)
        if off[k].any()
    }
