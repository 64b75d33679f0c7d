"""A limb spoiled before the tiller: what bow the same stave still gives.

Each way out is a layout of its own, solved like any other: both ends cut to the damage, the handle
moved to the middle of what is left, the damaged limb turned down and made the short one, a new limb
spliced on. Where the wanted weight would overstrain the shorter bow, the heaviest one that does not
is found.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import get_args

from bowyery.bow.bow import Side
from bowyery.bow.layout import Layout, Wanted
from bowyery.design.quick import Quick, quick
from bowyery.design.verdict import TOLERABLE, Verdict
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.wood.materials import Material

WAYS = ("cut", "handle moved", "short below", "splice")
CLEAR = 0.02  # of sound wood left between the damage and the new nock's wood (m)
LOWEST = 0.35  # of the wanted weight: a lighter bow is another bow
SPLICE = 0.20  # of wood that a splice in the handle wants on the new limb (m)
DROP = 0.06  # the grip is set no further below the centre (m)


@dataclass(frozen=True)
class WayOut:
    """What bow one way gives.

    Attributes:
        weight: that it can be made to (N), or None where none can.
        use: of what its wood lasts at.
        moved: how far the bow's centre moves, to the upper tip above zero (m).
        needs: wood for a new limb (m), 0 where none.
    """

    way: str
    layout: Layout
    weight: float | None
    verdict: Verdict | None
    use: float
    moved: float
    needs: float = 0.0
    trouble: str = ""


def ways_out(
    layout: Layout, wanted: Wanted, wood: Material, limb: Side, at: float
) -> tuple[WayOut, ...]:
    """What the same stave still gives.

    Args:
        at: where the damage begins, from the bow's centre (m).

    Returns:
        Every way, those that last first.

    Raises:
        DescriptionError: a place that lies in the grip, or beyond the end.
    """
    layout, wanted = layout.checked(), wanted.checked()
    index = 0 if limb == "upper" else 1
    end = layout.length / 2 + layout.beyond[index]
    if not layout.root_from_centre(limb == "upper") < at < end:
        raise DescriptionError(
            "The damage lies on the limb, between its fade and its end; in the handle nothing but a"
            " splice helps.",
            "at",
        )
    sound = at - CLEAR - layout.beyond[index]  # where the new nock may lie
    other = layout.length / 2
    sign = 1.0 if limb == "upper" else -1.0
    rows = [
        _way("cut", layout, wanted, wood, 2 * sound, 0.0),
        _way("handle moved", layout, wanted, wood, sound + other, -sign * (other - sound) / 2),
    ]
    drop = min((other - sound) / 2, DROP)
    low = replace(layout, length=sound + other, grip_drop=layout.grip_drop + drop)
    rows.append(_solved("short below", low, wanted, wood, -sign * (other - sound) / 2))
    half = layout.length / 2 + layout.beyond[index]
    rows.append(replace(_solved("splice", layout, wanted, wood, 0.0), needs=half + SPLICE))
    order = (*get_args(Verdict), None)
    return tuple(sorted(rows, key=lambda r: (order.index(r.verdict), -(r.weight or 0.0))))


def _way(
    way: str, layout: Layout, wanted: Wanted, wood: Material, length: float, moved: float
) -> WayOut:
    return _solved(way, replace(layout, length=length), wanted, wood, moved)


def _solved(way: str, layout: Layout, wanted: Wanted, wood: Material, moved: float) -> WayOut:
    """The heaviest bow of a layout up to the wanted weight that is not overstrained."""

    def tried(share: float) -> Quick | None:
        try:
            found = quick(layout, replace(wanted, weight=share * wanted.weight), wood)
        except BowyeryError:
            return None
        return found

    def good(found: Quick | None) -> bool:
        return found is not None and found.uses.lasts <= TOLERABLE and found.uses.breaks <= 1.0

    low, high, best = LOWEST, 1.0, tried(1.0)
    if good(best):
        share = 1.0
    else:
        best = tried(low)
        share = low
        if good(best):
            for _ in range(6):
                middle = 0.5 * (low + high)
                found = tried(middle)
                if good(found):
                    low, best, share = middle, found, middle
                else:
                    high = middle
    if best is None or not good(best):
        return WayOut(
            way, layout, None, None, 0.0, moved,
            trouble="too short for this draw: no bow worth having is left so",
        )  # fmt: skip
    return WayOut(way, layout, share * wanted.weight, best.verdict, best.uses.lasts, moved)
