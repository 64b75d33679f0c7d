"""Settling: how a new string gives under pulls, and what its brace height will come to.

A new string beds in (loops tighten, fibres find their place: soon over) and creeps (its fibres
lengthen with the logarithm of the pulls: never quite over). Its length beyond the first pull is
``A (1 − e^(−n/n₁)) + C ln(1 + n/n₂)``, as shares of its length; creep of loaded fibres as the
logarithm of time is textbook (Morton and Hearle, Physical Properties of Textile Fibres, 2008,
chapter 16). A, C and where it began are believed beforehand by fibre and narrowed by each brace
height that is read (Gelman and others, Bayesian Data Analysis, 2013, chapter 14). Twist and
loops moved on the way are known steps of length.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError
from bowyery.wood.materials import Fibre

CREEPS_FROM = 8.0  # n₂, pulls
STEADY = 200.0  # pulls that a string is forecast for
NEXT, STILL = 100.0, 0.0016  # settled: falls less than this (m) over so many pulls more
READ = 0.0012  # of a brace height read with care (m)
UNLIKE = 0.2  # of what it falls from here on: how far the law itself may be off
MIXED = 0.25  # of a step of length by twist: how far the reckoned one may be off
ODD_ONE = 4.0
MOST_PULLS = 1e6


@dataclass(frozen=True)
class Settles:
    """How a fibre's strings settle, believed beforehand.

    Attributes:
        beds, beds_spread: A, a share of the length.
        over: n₁, pulls in which it beds in.
        creeps, creeps_spread: C, a share of the length an e-fold of pulls.
    """

    beds: float
    beds_spread: float
    over: float
    creeps: float
    creeps_spread: float


# Workshop figures: linen and hemp bed in and stand; polyester gives for long; sinew, gut and hide
# bed in a good deal and go on with the air; the stiffest filaments hardly creep, the slippery ones
# go on for ever.
BY_FIBRE: dict[str, Settles] = {
    "linen": Settles(0.0022, 0.0010, 12.0, 0.00010, 0.00006),
    "hemp": Settles(0.0025, 0.0011, 12.0, 0.00012, 0.00007),
    "nettle": Settles(0.0027, 0.0012, 12.0, 0.00014, 0.00008),
    "silk": Settles(0.0026, 0.0012, 18.0, 0.00035, 0.00018),
    "sinew": Settles(0.0050, 0.0025, 25.0, 0.00060, 0.00035),
    "gut": Settles(0.0050, 0.0025, 25.0, 0.00060, 0.00035),
    "rawhide": Settles(0.0070, 0.0035, 25.0, 0.00080, 0.00045),
    "lime bast": Settles(0.0045, 0.0022, 18.0, 0.00050, 0.00030),
    "split root": Settles(0.0055, 0.0028, 20.0, 0.00070, 0.00040),
    "polyester": Settles(0.0024, 0.0012, 30.0, 0.00100, 0.00060),
    "nylon": Settles(0.0050, 0.0025, 30.0, 0.00180, 0.00080),
    "high-modulus polyethylene": Settles(0.0012, 0.0007, 20.0, 0.00055, 0.00025),
    "liquid-crystal polyester": Settles(0.0010, 0.0006, 20.0, 0.00006, 0.00005),
}
_NATURAL, _SMOOTH = BY_FIBRE["hemp"], BY_FIBRE["polyester"]


@dataclass(frozen=True)
class BraceRead:
    """A brace height that was read.

    Attributes:
        pulls: since the string was new.
        brace: (m).
        shortened: by how much twist and loops had made the string shorter until then (m).
    """

    pulls: float
    brace: float
    shortened: float = 0.0


@dataclass(frozen=True)
class Settling:
    """Where a string's brace height goes.

    Attributes:
        pulls: to which it is drawn, ``(n,)``.
        brace, low, high: with the string as it is now, and its band of 90 % (m), ``(n,)``.
        now: pulls at the last reading.
        brace_now: fitted there (m).
        final: brace height after ``STEADY`` pulls more, and its band (m).
        falls: over ``NEXT`` pulls more (m).
        settled: it is, as good as surely.
        settled_after: pulls more until it is, most likely; 0 where it is.
        odd: numbers of the readings that do not fit the others.
        beds, creeps: A and C as fitted, each with one deviation.
    """

    pulls: Floats
    brace: Floats
    low: Floats
    high: Floats
    now: float
    brace_now: float
    final: tuple[float, float, float]
    falls: float
    settled: bool
    settled_after: float
    odd: tuple[int, ...]
    beds: tuple[float, float] = (0.0, math.inf)
    creeps: tuple[float, float] = (0.0, math.inf)


def settles(fibre: Fibre) -> Settles:
    """What is believed of a fibre's strings.

    Args:
        fibre: of the strands; one of the shop's own goes by whether it is natural.
    """
    return BY_FIBRE.get(fibre.name, _NATURAL if fibre.natural else _SMOOTH)


def settling(
    fibre: Fibre,
    length: float,
    brace_per: float,
    reads: Sequence[BraceRead],
    belief: Settles | None = None,
) -> Settling:
    """Fit how a string settles and forecast its brace height.

    Args:
        length: of the string (m).
        brace_per: rise of the brace by a shorter string (m per m).
        reads: at least one, in the order of the pulls.
        belief: how such strings settle, as the shop has found; None: as the book has it.

    Raises:
        DescriptionError: no reading, pulls that go backwards, or a string without length.
    """
    if not reads:
        raise DescriptionError("Read the brace height of the new string first.", "reads")
    if not (length > 0 and brace_per > 0):
        raise DescriptionError(
            "A string has a length, and a shorter one raises the brace.", "length"
        )
    pulls = np.array([one.pulls for one in reads], float)
    if np.any(np.diff(pulls) < 0) or np.any(pulls < 0) or np.any(pulls > MOST_PULLS):
        raise DescriptionError(
            "Pulls are counted since the string was new, and only grow.", "pulls"
        )
    belief = belief or settles(fibre)
    keep, odd = np.ones(len(reads), bool), []
    while True:
        fit = _Fit(belief, length, brace_per, [r for r, k in zip(reads, keep, strict=True) if k])
        if keep.sum() < 3:
            break
        off = fit.off()
        worst = int(np.argmax(np.abs(off)))
        if abs(off[worst]) < ODD_ONE:
            break
        number = int(np.flatnonzero(keep)[worst])
        odd.append(number)
        keep[number] = False
    last = reads[-1]
    ahead = np.concatenate([
        max(last.pulls, 1.0) * np.linspace(0.0, 1.0, 60) ** 2,
        last.pulls + np.geomspace(1.0, STEADY, 40),
    ])  # fmt: skip
    brace, spread = fit.at(ahead, last.shortened)
    now, _ = fit.at(np.array([last.pulls]), last.shortened)
    spread = np.hypot(
        spread, UNLIKE * np.maximum(float(now[0]) - brace, 0.0) * (ahead > last.pulls)
    )
    end, wide = fit.at(np.array([last.pulls + STEADY]), last.shortened)
    wide = np.hypot(wide, UNLIKE * (now - end))
    falls, falls_wide = fit.fall(last.pulls, NEXT)
    falls_wide = math.hypot(falls_wide, UNLIKE * falls)
    settled = falls + 0.84 * falls_wide < STILL  # four times in five
    after = 0.0
    if not settled:
        more = np.geomspace(5.0, 20000.0, 60)
        good = [m for m in more if fit.fall(last.pulls + m, NEXT)[0] < STILL]
        after = float(good[0]) if good else math.inf
    return Settling(
        ahead, brace, brace - 1.645 * spread, brace + 1.645 * spread, last.pulls, float(now[0]),
        (float(end[0]), float(end[0] - 1.645 * wide[0]), float(end[0] + 1.645 * wide[0])),
        falls, settled, after, tuple(sorted(odd)), *fit.known,
    )  # fmt: skip


class _Fit:
    """Unknown: brace of the unpulled string as first made (m), A, C, and what a reckoned shortening
    really is, as a share.
    """

    def __init__(
        self, belief: Settles, length: float, per: float, reads: Sequence[BraceRead]
    ) -> None:
        self.belief, self.scale, self.per = belief, per * length, per
        self.reads = reads
        first = reads[0].brace
        mean = np.array([first, belief.beds, belief.creeps, 1.0])
        spread = np.array([0.05, belief.beds_spread, belief.creeps_spread, MIXED])
        rows = self._rows(
            np.array([r.pulls for r in reads]), np.array([r.shortened for r in reads])
        )
        heights = np.array([r.brace for r in reads])
        weight = rows.T @ rows / READ**2 + np.diag(spread**-2.0)
        self.cover = np.linalg.inv(weight)
        self.mean = mean + self.cover @ (rows.T @ (heights - rows @ mean) / READ**2)
        self.mean[1:3] = np.maximum(self.mean[1:3], 0.05 * mean[1:3])  # no string grows shorter

    def _rows(self, pulls: Floats, shortened: Floats) -> Floats:
        beds = 1 - np.exp(-pulls / self.belief.over)
        creeps = np.log1p(pulls / CREEPS_FROM)
        return np.stack(
            [np.ones(pulls.size), -self.scale * beds, -self.scale * creeps, self.per * shortened], 1
        )

    @property
    def known(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """A and C, each with one deviation."""
        wide = np.sqrt(np.diag(self.cover))
        return (
            (float(self.mean[1]), float(wide[1])),
            (float(self.mean[2]), float(wide[2])),
        )

    def at(self, pulls: Floats, shortened: float) -> tuple[Floats, Floats]:
        rows = self._rows(pulls, np.full(pulls.size, shortened))
        return rows @ self.mean, np.sqrt(np.einsum("ij,jk,ik->i", rows, self.cover, rows))

    def fall(self, pulls: float, more: float) -> tuple[float, float]:
        two = self._rows(np.array([pulls, pulls + more]), np.zeros(2))
        row = two[0] - two[1]
        return float(row @ self.mean), float(math.sqrt(row @ self.cover @ row))

    def off(self) -> Floats:
        rows = self._rows(
            np.array([r.pulls for r in self.reads]), np.array([r.shortened for r in self.reads])
        )
        left = np.array([r.brace for r in self.reads]) - rows @ self.mean
        wide = READ**2 - np.einsum("ij,jk,ik->i", rows, self.cover, rows)
        return np.asarray(left / np.sqrt(np.maximum(wide, 0.2 * READ**2)))
