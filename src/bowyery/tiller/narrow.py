"""Narrow weaknesses: hinges of a few inches that no smooth prior expects, looked for in what
straight edges read.

A hinge is weak over one to six centimetres. Over so short a way it gives the limb one sharp turn
more, and a straight edge laid over it gapes by that turn times how far its middle lies from the
edge's nearer end: a triangle over the edge, with a quarter of its length in the middle. Whatever an
edge gapes more than the smooth limb would have it speaks for a hinge near it, and an edge beside it
that does not gape speaks against. Every look adds its word, so that one reading asks and two decide
(Bayes's rule over the places and the sizes of a hinge, against none).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.tiller.kinds import Reading
from bowyery.tiller.target import Place

STEP = 0.02  # between places that are looked at (m)
# How much further than the wood beside it a hinge bends, as the way over which that wood bends
# alike (m): a quarter weaker over an inch to half over two inches.
SIZES = np.array([0.006, 0.01, 0.016, 0.024, 0.036, 0.05])
BEFORE = 0.10  # of limbs have one, as makers say
HALF = 0.03  # a hinge's own wood, to either side of its middle (m)
SUSPECTED = 0.25  # chance of a hinge at one place or beside it


@dataclass(frozen=True)
class Narrow:
    """What edges have said of hinges.

    Attributes:
        at: places of each limb from its root, a row of them alike for both (m).
        told: sum of squares of what each place would show, over errors, ``(2, places)``.
        said: the same with what was read.
    """

    at: Floats
    told: Floats
    said: Floats

    @classmethod
    def none(cls, length: float) -> Narrow:
        """Before any reading, of limbs no longer than this (m)."""
        at = np.arange(0.0, length, STEP)
        return cls(at, np.zeros((2, at.size)), np.zeros((2, at.size)))

    def after(self, edges: Sequence[tuple[Reading, float, float]]) -> Narrow:
        """After straight edges of one look.

        Args:
            edges: each with what the smooth limb would have it read (m), and the error of both.
        """
        told, said = self.told.copy(), self.said.copy()
        for reading, smooth, error in edges:
            span = reading.span or 0.0
            if span <= 0 or reading.limb is None:
                continue
            bend = max(0.0, 8 * smooth / span**2)
            near = np.maximum(0.0, 1 - np.abs(self.at - (reading.at or 0.0)) / (0.5 * span))
            shows = bend * near * 0.25 * span / error
            side = SIDES.index(reading.limb)
            told[side] += shows**2
            said[side] += shows * (reading.value - smooth) / error
        return replace(self, told=told, said=said)

    def chances(self) -> Floats:
        """How likely a hinge sits at each place, ``(2, places)``."""
        logs = self.said[..., None] * SIZES - 0.5 * self.told[..., None] * SIZES**2
        ratio = np.exp(np.clip(logs, -50, 50)).mean(-1)  # sizes are alike likely
        every = ratio.mean(1, keepdims=True)
        share = BEFORE * ratio / ratio.shape[1]
        return np.asarray(share / (1 - BEFORE + BEFORE * every))

    def places(self, least: float) -> tuple[tuple[Place, float], ...]:
        """Stretches where a hinge is at least so likely, each with its chance."""
        found = list[tuple[Place, float]]()
        for side, name in enumerate(SIDES):
            chance = self.chances()[side].copy()
            while chance.size:
                top = int(np.convolve(chance, np.ones(5), "same").argmax())
                near = np.abs(self.at - self.at[top]) <= 2.5 * STEP
                whole = float(chance[near].sum())
                if whole < least:
                    break
                middle = float((self.at[near] * chance[near]).sum() / whole)
                place = Place(name, max(0.0, middle - HALF), middle + HALF, 0.0, True)
                found.append((place, whole))
                chance[near] = 0.0
        return tuple(found)
