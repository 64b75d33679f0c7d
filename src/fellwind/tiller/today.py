"""What the tiller tells Today: the next act of every bow on the tree."""

from collections.abc import Sequence

from bowyery.errors import BowyeryError
from bowyery.tiller import words
from bowyery.units.quantity import Units
from fellwind.builds.log import tree_of
from fellwind.builds.models import Build
from fellwind.designs.services import solution
from fellwind.drawing.ruler import small_outline
from fellwind.kit.rooms import Act
from fellwind.tiller import services


def acts(those: Sequence[Build], shown: Units) -> dict[int, Act]:
    """The next act of builds at the tiller, with the bow hatched where wood comes off."""
    shop, found = services.ShopTiller.get(), {}
    for build in those:
        try:
            state = services.bench(build, shop=shop)
        except BowyeryError:
            continue
        if state.advice is not None:
            said = words.say(state, shown, tree_of(build)).short
            take: dict[str, str] = {r.limb: "" for r in state.advice.removals}
            data = services.tiller_ruler(solution(build.design), state, take)
            found[build.pk] = Act(said[:1].upper() + said[1:], small_outline(data))
    return found
