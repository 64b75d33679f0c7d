"""Bending and straightening by heat: how far over the form is set, from what sprang back before.

A limb that is heated, bent over a form and let cool springs back by a part of what it was bent. How
much stays depends on the wood, the heat and the hand, so the share that stays is learned from the
shop's own records: a normal belief about it is narrowed by each (Gelman and others, Bayesian Data
Analysis, 2013, chapter 2). What is believed before any record is a judgement of the bench.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

KINDS = ("reflex", "deflex", "twist", "side")
# The share that stays, as it is believed before anything was bent in this shop, and one deviation.
FIRST: dict[str, tuple[float, float]] = {
    "dry heat": (0.72, 0.13),
    "steam": (0.80, 0.13),
    "open fire": (0.70, 0.16),
}
OWN, OTHER = 0.09, 0.16  # how far one record of the same wood, or of another, may be off the mark
LEAST = 0.25  # of what was bent always stays, or it was not hot


@dataclass(frozen=True)
class Record:
    """What stayed of a bend.

    Attributes:
        form: by how much it was bent on the form (m, or rad of a twist).
        stayed: of that when it was let go (m, rad).
        same_wood: it was of the wood that is asked about.
        way: a key of FIRST.
    """

    form: float
    stayed: float
    same_wood: bool
    way: str


@dataclass(frozen=True)
class Stays:
    """What share of a bend stays.

    Attributes:
        spread: one standard deviation, as a share.
        records: how many it was learned from.
    """

    share: float
    spread: float
    records: int

    def form(self, wanted: float) -> float:
        """By how much the form is bent for so much to stay.

        Args:
            wanted: after it has sprung back (m, or rad).
        """
        return wanted / self.share

    def range(self, form: float) -> tuple[float, float]:
        """What may stay of it, low and high (two thirds of the time).

        Args:
            form: by how much it is bent (m, or rad).
        """
        return form * max(self.share - self.spread, LEAST), form * min(
            self.share + self.spread, 1.0
        )


def stays(way: str, records: Iterable[Record]) -> Stays:
    """What share of a bend stays, by the shop's records.

    Args:
        way: how it is heated, a key of FIRST.
        records: of earlier bends; those by another way are not counted.

    Returns:
        The share with its spread.

    Raises:
        DescriptionError: a way that is none.
    """
    if way not in FIRST:
        raise DescriptionError(f"Choose one of {', '.join(FIRST)}.", "way")
    mean, spread = FIRST[way]
    weight, total, count = spread**-2, mean * spread**-2, 0
    for one in records:
        if one.way != way or not (math.isfinite(one.form) and abs(one.form) > 0):
            continue
        share = one.stayed / one.form
        if not 0 <= share <= 1.2:  # mistyped, or not of this bend
            continue
        error = OWN if one.same_wood else OTHER
        weight += error**-2
        total += share * error**-2
        count += 1
    return Stays(min(max(total / weight, LEAST), 1.0), weight**-0.5, count)


def offsets(places: Floats, start: float, end: float, tip: float, nock: float) -> Floats:
    """How far a form stands off the limb's own line, bent evenly over a stretch.

    Args:
        places: from the bow's centre, ``(places,)`` (m).
        start, end: of the stretch that is heated, from the centre (m).
        tip: by how much the nock is moved (m), or a twist there (rad).
        nock: from the centre (m).

    Returns:
        Offsets at the places, ``(places,)`` (m).

    Raises:
        DescriptionError: a stretch that lies on no limb.
    """
    if not 0 <= start < end <= nock + 1e-6:
        raise DescriptionError("The stretch runs outward, and ends at the nock at most.", "end")
    whole = (end - start) * (nock - 0.5 * (start + end))
    within = np.clip(places, start, end)
    turned = 0.5 * (within - start) ** 2 + (end - start) * np.maximum(places - end, 0.0)
    return np.asarray(tip * turned / whole)
