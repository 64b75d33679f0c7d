"""What the tiller tells Today: the next act of every bow on the tree."""

from collections.abc import Mapping, Sequence

from django.db.models import Max
from django.urls import reverse

from bowyery.errors import BowyeryError
from bowyery.making.stages import STAGES
from bowyery.tiller import words
from bowyery.units.quantity import Units
from fellwind.builds.log import tree_of
from fellwind.builds.models import Build, Entry
from fellwind.designs import thumbs
from fellwind.designs.services import solution
from fellwind.drawing.ruler import small_outline
from fellwind.kit.cache import computed, peek
from fellwind.kit.rooms import Act
from fellwind.tiller import services
from fellwind.tiller.hands import ShopTiller

Inputs = tuple[object, ...]


def _newest(those: Sequence[Build]) -> Mapping[int, int]:
    """The newest entry of each build: none is ever changed, so it tells the whole log."""
    rows = Entry.objects.filter(build__in=those).values_list("build").annotate(Max("pk"))
    return dict(rows)


def _inputs(build: Build, newest: int, shop: ShopTiller, shown: Units) -> Inputs:
    """Everything that what is said of a build comes from; raises BowyeryError."""
    how = (build.school, build.beginner, build.draw_ruler, build.design.weight, build.tool)
    reader = (shown.world, shown.denominator)
    return (build.pk, newest, how, shop, reader, *thumbs.inputs(build.design))


def acts(those: Sequence[Build], shown: Units) -> dict[int, Act]:
    """The next act of builds at the tiller, as far as it is known; the page asks for the rest."""
    shop, newest, found = ShopTiller.get(), _newest(those), {}
    for build in those:
        try:
            known = peek("act", _inputs(build, newest.get(build.pk, 0), shop, shown))
        except BowyeryError:
            continue
        later = Act("", later=reverse("tiller:act", args=[build.number]))
        found[build.pk] = later if known is None else known
    return found


def act(build: Build, shown: Units) -> Act:
    """The next act of a build at the tiller, with the bow hatched where wood comes off."""
    shop, newest = ShopTiller.get(), _newest([build])
    try:
        inputs = _inputs(build, newest.get(build.pk, 0), shop, shown)
        return computed("act", inputs, lambda: _act(build, shop, shown), small=True)
    except BowyeryError:
        return Act(STAGES[build.stage].todo)


def _act(build: Build, shop: ShopTiller, shown: Units) -> Act:
    state = services.bench(build, shop=shop)
    if state.advice is None:
        return Act(STAGES[build.stage].todo)
    said = words.say(state, shown, tree_of(build)).short
    take: dict[str, str] = {r.limb: "" for r in state.advice.removals}
    data = services.tiller_ruler(solution(build.design), state, take)
    return Act(said[:1].upper() + said[1:], str(small_outline(data)))
