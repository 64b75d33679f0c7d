"""What the shop's records say of the book's figures: the rooms bring what they have seen, the core
weighs it.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Protocol

from bowyery.mechanics.strain import SetShare
from bowyery.record.learned import QUANTITIES, Evidence, Learned, learned
from bowyery.tiller.forecast import Losses
from fellwind.kit.cache import computed, read_kept
from fellwind.kit.ports import EVIDENCE

DAY = 86400.0
LEAST_SAID = 0.02  # what may be left of a belief and still be one


class Asks(Protocol):
    """A design that wants to know."""

    material: str
    by_book: bool

    @property
    def tree(self) -> str:
        """That its stave is from."""


def days(at: datetime) -> float:
    """A moment as records count it."""
    return at.timestamp() / DAY


def evidence(quantity: str) -> list[Evidence]:
    """All that the shop's records show of a figure, by whoever has seen it."""

    def asked() -> list[Evidence]:
        return [row for ask in EVIDENCE[quantity] for row in ask()]

    return read_kept(("evidence", quantity), asked)


def here(
    quantity: str,
    wood: str = "",
    tree: str = "",
    *,
    what: str = "",
    without: int = 0,
    before: datetime | None = None,
    middle: float | None = None,
    seen: list[Evidence] | None = None,
) -> Learned:
    """A figure as this shop has it.

    Args:
        quantity: a key of QUANTITIES.
        wood, tree: of the bow that it is wanted for, or a fibre.
        without: number of a bow whose own record is left out.
        before: a moment after which nothing counts.
        middle: what the shop says in place of the book.
        seen: its records, where they are at hand.
    """
    rows = tuple(
        one
        for one in (evidence(quantity) if seen is None else seen)
        if one.what == what
        and not (without and one.bow == without)
        and (before is None or one.day < days(before))
    )
    figure = QUANTITIES[quantity]
    if middle is not None:
        figure = replace(figure, middle=middle)
    return computed("learned", (figure, rows, wood, tree),
                    lambda: learned(figure, rows, wood, tree), small=True, bends=False)  # fmt: skip


def set_share(
    design: Asks, without: int = 0, before: datetime | None = None,
    seen: list[Evidence] | None = None,
) -> SetShare:  # fmt: skip
    """What part of the excess bend stays in bows of a design's wood."""
    if design.by_book:
        return SetShare()
    found = here("set share", design.material, design.tree, without=without, before=before,
                 seen=seen)  # fmt: skip
    if not found.says:
        return SetShare()
    return SetShare(max(found.middle, LEAST_SAID), found.spread, found.same + found.others)


def keeps(design: Asks, without: int = 0, before: datetime | None = None) -> tuple[float, float]:
    """What share of the energy limbs of a design's wood keep, and one deviation."""
    seen: list[Evidence] | None = [] if design.by_book else None
    found = here("hysteresis", design.material, design.tree, without=without, before=before,
                 seen=seen)  # fmt: skip
    return max(found.middle, LEAST_SAID), found.spread


def losses(
    typed: Losses, wood: str, tree: str = "", without: int = 0, before: datetime | None = None
) -> Losses:
    """What finishing and shooting in take, from what the shop says and what its bows showed."""
    rows = {}
    for name, middle in (("finishing", typed.finishing), ("shooting", typed.shooting)):
        found = here(name, wood, tree, without=without, before=before, middle=middle)
        if found.says:
            rows[name] = max(found.middle, 0.0)
            rows[f"{name}_spread"] = found.spread
    return replace(typed, **rows)
