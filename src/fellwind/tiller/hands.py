"""The shop's hands at the tiller: its tools with their bite, and what its bows showed of them."""

from dataclasses import dataclass, field
from dataclasses import replace as changed
from datetime import datetime
from functools import partial

from bowyery.design.solution import Solution
from bowyery.mechanics.strain import SetShare
from bowyery.record.learned import Evidence
from bowyery.tiller.advice import Gear as CoreGear
from bowyery.tiller.bench import Workpiece, hands_shown
from bowyery.tiller.bite import TOOLS, Bite, bite_of, hungry
from bowyery.tiller.bite import Tool as CoreTool
from bowyery.tiller.forecast import Losses
from bowyery.tiller.log import history
from bowyery.tiller.rulers import Rulers
from fellwind.builds.log import noted
from fellwind.builds.models import Build
from fellwind.builds.services import standing_entries
from fellwind.designs.services import try_solution
from fellwind.kit.cache import computed, read_once
from fellwind.shop import learning
from fellwind.shop.learning import days
from fellwind.shop.models import Gear, Tool, Workshop


@dataclass(frozen=True)
class ShopTiller:
    """What all builds share at the tiller: losses, and the gear in use."""

    losses: Losses
    gear: tuple[CoreGear, ...]
    tools: tuple[CoreTool, ...] = ()
    rulers: Rulers = field(default_factory=Rulers)
    share: SetShare = field(default_factory=SetShare)
    learned: bool = False

    @classmethod
    def get(cls) -> "ShopTiller":
        """Read it once for a page, however many builds it shows."""
        workshop, rows = Workshop.get(), Gear.objects.filter(in_use=True)
        gear = tuple(CoreGear(g.name, g.rating, Gear.KINDS[g.kind]) for g in rows)
        losses = Losses(finishing=workshop.finishing_loss, shooting=workshop.shooting_loss)
        return cls(losses, gear, shop_tools())

    @property
    def alone(self) -> "ShopTiller":
        """For a bow that goes by its own log, and by nothing that others have shown."""
        return changed(self, learned=True)


def shop_tools() -> tuple[CoreTool, ...]:
    """The usual tools and the shop's own, as if nothing had been seen of them yet."""
    own = [CoreTool(row.name.lower(), row.like) for row in Tool.objects.all()]
    named = {one.name for one in own}
    return (*(CoreTool(name, name) for name in TOOLS if name not in named), *own)


OTHERS = 6  # newest bows that a tool's hunger is learned from


def bites_seen(shop: ShopTiller, without: int = 0) -> list[Evidence]:
    """What the newest bows showed of each tool: its bite over what such tools usually take.

    Args:
        shop: with its tools, as if nothing had been seen of them.
        without: key of a build that is left out.
    """
    return [one for row in _newest(without) for one in _seen_of(row, shop)[0]]


def rulers_seen(shop: ShopTiller, without: int = 0) -> list[Evidence]:
    """What the newest bows showed of each kind of reading: its scatter over a careful hand's.

    Args:
        without: key of a build that is left out.
    """
    return [one for row in _newest(without) for one in _seen_of(row, shop)[1]]


def _newest(without: int) -> list[Build]:
    return [row for row in read_once("scraped", _scraped) if row.pk != without][:OTHERS]


def _seen_of(row: Build, shop: ShopTiller) -> tuple[list[Evidence], list[Evidence]]:
    return read_once(("hands", row.pk, shop.tools), partial(_hands_of, row, shop.tools))


def _scraped() -> list[Build]:
    """The newest bows that strokes were written of, one more than are learned from."""
    return list(
        Build.objects.filter(entries__measures__kind="strokes", entries__corrected_by=None)
        .select_related("design__archer", "design__stave", "stave")
        .order_by("-number")
        .distinct()[: OTHERS + 1]
    )


def _hands_of(row: Build, tools: tuple[CoreTool, ...]) -> tuple[list[Evidence], list[Evidence]]:
    solved, _ = try_solution(row.design)
    if solved is None:
        return [], []
    other = workpiece(solved)
    past = history(noted(standing_entries(row)), other.roots)
    key = (other, past, row.design.draw, tools)
    shown: tuple[dict[str, Bite], Rulers] = computed("hands", key, partial(
        hands_shown, other, past, row.design.draw, tools
    ))  # fmt: skip
    bites, rulers = shown
    named, seen = {tool.name for tool in tools}, []
    for name, bite in bites.items():
        if name in named and bite.shown is not None:
            usual = bite_of(name, tools, other.density, other.width).thickness
            value, error = (one / usual for one in bite.shown)
            seen.append(Evidence(
                value, error, row.design.material, row.tree, row.number, name,
                days(row.started), "passes that the next look showed",
            ))  # fmt: skip
    read = [
        Evidence(
            *one.shown, row.design.material, row.tree, row.number, kind, days(row.started),
            "readings at the tiller",
        )
        for kind, one in rulers.seen.items() if one.shown is not None
    ]  # fmt: skip
    return seen, read


def learned_rulers(build: Build, shop: ShopTiller) -> Rulers:
    """What the maker's readings have been worth on other bows."""
    seen = [] if build.design.by_book else rulers_seen(shop, build.pk)
    known = {}
    for kind in sorted({one.what for one in seen}):
        found = learning.here("reading", "", what=kind, seen=seen)
        known[kind] = (found.middle, found.spread)
    return Rulers.learned(known)


def learned_tools(build: Build, shop: ShopTiller) -> tuple[CoreTool, ...]:
    """The shop's tools with what they have shown on other bows, those of the same wood before
    others.
    """
    if build.design.by_book:
        return shop.tools
    seen = bites_seen(shop, build.pk)
    named = {one.what for one in seen}

    def known(tool: CoreTool) -> CoreTool:
        if tool.name not in named:
            return tool
        found = learning.here("bite", build.design.material, build.tree, what=tool.name, seen=seen)
        return hungry(tool, found.middle, found.spread)

    return tuple(known(tool) for tool in shop.tools)


def learned_shop(build: Build, shop: ShopTiller, before: datetime | None = None) -> ShopTiller:
    """The shop with what its other bows have shown of its tools, and of what is lost on the way;
    until a moment, where one is given.
    """
    losses = shop.losses
    if not build.design.by_book:
        design = build.design
        losses = learning.losses(losses, design.material, build.tree, build.number, before)
    return changed(
        shop, tools=learned_tools(build, shop), rulers=learned_rulers(build, shop), losses=losses,
        share=learning.set_share(build.design, build.number, before), learned=True,
    )  # fmt: skip


def workpiece(found: Solution) -> Workpiece:
    """A solved design as the tiller takes it in hand."""
    return Workpiece(found.bow, found.curve.limbs, found.wood.density, found.layout.width)
