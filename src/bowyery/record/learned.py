"""What a shop's own records say about a figure of the book, as far as they go.

A figure such as a wood's modulus differs from the book in layers: all that this shop does and
measures may be off alike, a wood may be off, a tree of it, and each bow. What bows have shown is
weighed with the book in a normal hierarchy: two bows share what is off in the shop, in their wood
and in their tree, and the more layers they share, the more one says about the other (Gelman and
others, Bayesian Data Analysis, 2013, chapter 5; the conditioning is that of Rasmussen and Williams,
Gaussian Processes for Machine Learning, 2006, section 2.2). How much bows differ among themselves
is not known either: the deviations of tree and bow are multiplied by a common factor that is summed
over a grid, each by how well it foretells what was seen. One record that contradicts all others is
named and left out.

The deviations believed beforehand are judgements, but for those of wood: clear wood of one kind
differs by 10 to 20 % in modulus between trees (Wood Handbook 2021, table 5-6), tests of a dozen
trees leave the book's mean a few per cent off.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError
from bowyery.mechanics.shot import LOSS_SPREAD, WOOD_LOSS
from bowyery.mechanics.strain import SET_SHARE
from bowyery.tiller.forecast import Losses

NINETY = 1.645
ODD_ONE = 4.0  # deviations from what all others say
_FACTORS = np.exp(np.linspace(math.log(0.4), math.log(2.5), 13))
_FACTOR_SPREAD = 0.4  # of the log of that factor, before anything was seen


@dataclass(frozen=True)
class Quantity:
    """A figure that is learned: what the book says, and one deviation of each layer.

    Attributes:
        middle: the book's, before any bow is known (SI).
        shop, wood, tree, bow: how far each layer may be off.
        log: it is a logarithm over the book's figure; else the figure itself.
    """

    middle: float
    shop: float
    wood: float
    tree: float
    bow: float
    log: bool = False


_LOSSES = Losses()
QUANTITIES: dict[str, Quantity] = {
    "modulus": Quantity(0.0, 0.03, 0.07, 0.07, 0.05, True),
    "set share": Quantity(SET_SHARE, 0.10, 0.08, 0.03, 0.06),
    "bite": Quantity(1.0, 0.38, 0.18, 0.0, 0.24),
    "reading": Quantity(1.0, 0.35, 0.05, 0.0, 0.25),
    "finishing": Quantity(_LOSSES.finishing, 0.011, 0.004, 0.0, 0.009),
    "shooting": Quantity(_LOSSES.shooting, 0.010, 0.006, 0.0, 0.009),
    "hysteresis": Quantity(WOOD_LOSS, 0.018, 0.016, 0.008, 0.5 * LOSS_SPREAD),
    "bedding": Quantity(0.0, 0.20, 0.25, 0.0, 0.25, True),
    "creep": Quantity(0.0, 0.20, 0.30, 0.0, 0.30, True),
}


@dataclass(frozen=True)
class Evidence:
    """What one bow, strip or string showed of a figure.

    Attributes:
        value: in the figure's own terms, a logarithm where it is learned as one.
        error: one deviation of it.
        wood: its kind, or the fibre of a string.
        tree: that it grew on; nothing where that is not known.
        bow: number of the bow, 0 of a strip.
        day: when it was seen, counted in days; what is reckoned as of a day leaves out later ones.
    """

    value: float
    error: float
    wood: str
    tree: str = ""
    bow: int = 0
    what: str = ""
    day: float = 0.0
    words: str = ""


@dataclass(frozen=True)
class Learned:
    """A figure as the shop's records have it.

    Attributes:
        middle: most likely, for the next bow.
        spread: one deviation for the next bow, how much bows differ included.
        sure: one deviation of what is the same for all bows of that wood, and of the tree where
            one is given.
        differ: how much one of them differs from the next, one deviation.
        book: what the book says.
        before: one deviation for the next bow before anything was seen.
        same: how many records of the same wood it comes from.
        odd: numbers of the records, in the order given, that contradict the others.
    """

    middle: float
    spread: float
    sure: float
    differ: float
    book: float
    before: float
    same: int
    others: int
    odd: tuple[int, ...] = ()

    @property
    def low(self) -> float:
        """Low end for the next bow (90 %)."""
        return self.middle - NINETY * self.spread

    @property
    def high(self) -> float:
        """High end for the next bow (90 %)."""
        return self.middle + NINETY * self.spread

    @property
    def off(self) -> float:
        """How far the shop is off the book."""
        return self.middle - self.book

    @property
    def says(self) -> bool:
        """Whether anything was learned at all."""
        return self.same + self.others > 0


def learned(
    quantity: Quantity, seen: Sequence[Evidence], wood: str = "", tree: str = ""
) -> Learned:
    """Estimate a figure for the next bow of a wood, from a tree.

    Args:
        seen: all that the shop's bows showed of it.
        wood: of the next bow; nothing: of any.
        tree: that its stave is from; nothing: a new one.

    Raises:
        DescriptionError: a record that is no figure, or has no error.
    """
    for one in seen:
        if not (math.isfinite(one.value) and math.isfinite(one.error) and one.error > 0):
            raise DescriptionError("A record wants a figure and its error.", "seen")
    keep = list(range(len(seen)))
    odd: list[int] = []
    while len(keep) >= 4 and len(odd) < len(seen) / 4:
        off = _against_others(quantity, [seen[k] for k in keep])
        worst = int(np.argmax(off))
        if off[worst] < ODD_ONE:
            break
        odd.append(keep.pop(worst))
    kept = [seen[k] for k in keep]
    same = sum(one.wood == wood for one in kept)
    middle, sure, differ = _mixed(quantity, kept, wood, tree)
    spread = math.hypot(sure, differ)
    before = math.hypot(*_mixed(quantity, [], wood, tree)[1:])
    return Learned(
        middle, spread, sure, differ, quantity.middle, before, same, len(kept) - same,
        tuple(sorted(odd)),
    )  # fmt: skip


def _alike(first: Sequence[str], second: Sequence[str]) -> Floats:
    return np.array([[bool(a) and a == b for b in second] for a in first], float).reshape(
        len(first), len(second)
    )


def _shared(quantity: Quantity, a: Sequence[Evidence], b: Sequence[Evidence]) -> Floats:
    """What two records have in common, ``(a, b)``: their covariance but for the bow's own."""
    same_wood = _alike([one.wood for one in a], [one.wood for one in b])
    same_tree = _alike(_trees(a), _trees(b)) * same_wood
    return (
        quantity.shop**2 + quantity.wood**2 * same_wood + quantity.tree**2 * same_tree
    )  # fmt: skip


def _trees(rows: Sequence[Evidence]) -> list[str]:
    return [f"{one.wood}\0{one.tree}" if one.tree else "" for one in rows]


def _covariance(quantity: Quantity, seen: Sequence[Evidence]) -> Floats:
    """Of the records among themselves; several of one bow share what is the bow's own."""
    table = _shared(quantity, seen, seen)
    bows = [f"bow {one.bow}" if one.bow else "" for one in seen]
    table += quantity.bow**2 * _alike(bows, bows)
    for k, one in enumerate(seen):
        own = 0.0 if one.tree else quantity.tree**2  # grown on some tree, if nobody knows which
        own += 0.0 if one.bow else quantity.bow**2
        table[k, k] += own + one.error**2
    return table


def _scaled(quantity: Quantity, factor: float) -> Quantity:
    return replace(quantity, tree=quantity.tree * factor, bow=quantity.bow * factor)


def _mixed(
    quantity: Quantity, seen: Sequence[Evidence], wood: str, tree: str
) -> tuple[float, float, float]:
    """Middle, deviation of what is common, and how bows differ, over the factors of the scatter."""
    target = [Evidence(0.0, 1.0, wood, tree)]
    off = np.array([one.value - quantity.middle for one in seen])
    rows, weights = [], []
    for factor in _FACTORS:
        one = _scaled(quantity, float(factor))
        whole = one.shop**2 + one.wood**2 + (one.tree**2 if tree else 0.0)
        own = one.bow**2 + (0.0 if tree else one.tree**2)
        likely = -0.5 * (math.log(factor) / _FACTOR_SPREAD) ** 2
        if seen:
            cover, across = _covariance(one, seen), _shared(one, seen, target)[:, 0]
            solved = np.linalg.solve(cover, np.stack([off, across], 1))
            middle = float(across @ solved[:, 0])
            left = max(whole - float(across @ solved[:, 1]), 1e-12)
            size = float(np.linalg.slogdet(cover)[1])
            likely -= 0.5 * (float(off @ solved[:, 0]) + size)
        else:
            middle, left = 0.0, whole
        rows.append((middle, left, own))
        weights.append(likely)
    weight = np.exp(np.array(weights) - max(weights))
    weight /= weight.sum()
    middles, lefts, owns = np.array(rows).T
    middle = float(weight @ middles)
    between = float(weight @ (middles - middle) ** 2)
    return (
        quantity.middle + middle,
        math.sqrt(float(weight @ lefts) + between),
        math.sqrt(float(weight @ owns)),
    )


def _against_others(quantity: Quantity, seen: Sequence[Evidence]) -> Floats:
    """How many deviations each record is off what all the others say of it, ``(n,)``."""
    inverse = np.linalg.inv(_covariance(quantity, seen))
    off = np.array([one.value - quantity.middle for one in seen])
    return np.asarray(np.abs(inverse @ off) / np.sqrt(np.diag(inverse)))


def unfolded(before: tuple[float, float], after: tuple[float, float]) -> tuple[float, float] | None:
    """What was seen, from what was believed before and after it.

    Args:
        before: the belief beforehand, its middle and one deviation.
        after: the belief afterwards, the same.

    Returns:
        What was seen and its error, or None where next to nothing was.
    """
    if after[1] > 0.95 * before[1]:
        return None
    seen = 1 / (after[1] ** -2 - before[1] ** -2)
    value = seen * (after[0] / after[1] ** 2 - before[0] / before[1] ** 2)
    return value, math.sqrt(seen)
