"""What the tiller tells other rooms of a bow."""

from datetime import datetime

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.errors import BowyeryError
from bowyery.tiller.estimate import PLACES
from bowyery.tiller.log import history
from bowyery.tiller.rescue import as_thick
from fellwind.builds.log import noted
from fellwind.builds.models import Build
from fellwind.builds.ports import AS_TILLERED, AT_THE_TREE, ON_THE_TREE, WEIGHT_FORECAST, AtTheTree
from fellwind.builds.services import standing_entries
from fellwind.designs.models import Design
from fellwind.designs.ports import MARKED_ON_WOOD
from fellwind.designs.services import solution
from fellwind.kit.cache import computed
from fellwind.tiller.hands import ShopTiller, learned_shop, workpiece
from fellwind.tiller.services import at_tiller, bench


@AS_TILLERED.answered_by
def as_tillered(build: Build) -> Bow | None:
    """The bow as its limbs are estimated to stand, or None before anything was read of them."""
    try:
        found, state = solution(build.design), bench(build)
    except BowyeryError:
        return None
    now = state.now
    if now is None:
        return None
    bow = found.bow if state.piece is None else state.piece.bow
    return computed("as tillered", (bow, now.field), lambda: as_thick(bow, now.field))


@ON_THE_TREE.answered_by
def bow_on_the_tree(build: Build) -> Bow | None:
    """The bow as it hangs, with the string that is on and limbs as thick as its readings say; None
    where nothing was written of it.
    """
    written = noted(standing_entries(build))
    if not written:
        return None
    found = solution(build.design)
    string = history(written, workpiece(found).roots).string
    return string.on(as_tillered(build) or found.bow, found.layout.length)


@MARKED_ON_WOOD.answered_by
def marked_on_wood(design: Design) -> list[tuple[float, str]]:
    """What is marked on the wood of a design's newest open bow."""
    build = design.builds.filter(finished=None).order_by("-number").first()
    if build is None:
        return []
    marks = history(noted(standing_entries(build))).marks
    return [(one.at if one.limb == "upper" else -one.at, one.how) for one in marks]


NEIGHBOURS = 0.12  # of a limb, either way: what a place is held against


def _at_share(share: float) -> Floats:
    """How much each place of the estimate counts at a share of the limb, ``(PLACES,)``."""
    places = np.linspace(0.0, 1.0, PLACES)
    return np.array([np.interp(share, places, row) for row in np.eye(PLACES)])


@AT_THE_TREE.answered_by
def at_the_tree(build: Build, limb: int, share: float) -> AtTheTree | None:
    """What was read of a place of a limb (0 upper, 1 lower), a share of its length from the root;
    None where nothing was.
    """
    try:
        state = bench(build)
    except BowyeryError:
        return None
    history = state.history
    if not history.checks and not history.changes:
        return None
    bend = None
    if state.now is not None:
        # less stiff than its neighbours is as much more bend
        apart = -_at_share(share)
        for off in (-NEIGHBOURS, NEIGHBOURS):
            apart += 0.5 * _at_share(min(max(share + off, 0.0), 1.0))
        part = slice(limb * PLACES, (limb + 1) * PLACES)
        spread = float(apart @ state.now.covariance[part, part] @ apart) ** 0.5
        bend = (float(apart @ state.now.field[limb]), max(spread, 0.03))
    acts = [one.kind for one in history.acts]
    return AtTheTree(
        bend, history.pulls, None if state.further is None else state.further.value,
        acts[-1] if acts else "", history.last_draw or None,
    )  # fmt: skip


@WEIGHT_FORECAST.answered_by
def weight_forecast(build: Build, before: datetime) -> tuple[float, float, float] | None:
    """What the tiller foretold of the finished bow's weight when it was left, by what other bows
    had shown before a moment; its band of 90 % (N): least, middle, greatest; None before any
    reading.
    """
    try:
        shop = learned_shop(build, ShopTiller.get(), before)
        outlook = bench(build, shop=shop, entries=at_tiller(build)).outlook
    except BowyeryError:
        return None
    if outlook is None:
        return None
    return outlook.final.low, outlook.final.middle, outlook.final.high
