"""At what strain of its back wood breaks: from modulus, modulus of rupture and work to maximum
load.

Wood in bending is straight in tension until it breaks, and in compression straight to a yield
strain and then plastic (Bodig and Jayne, Mechanics of Wood and Wood Composites, 1982, chapter 7;
after Ylinen). The handbooks publish, for a beam loaded at its middle, the nominal stress at the
greatest load, ``6M/bh²``, and the work done until then for each volume. Straight to the end that
work would be MOR²/18E; it is two to three times as much, and the ratio alone tells how far beyond
its yield the beam was bent.

With r the rupture strain of the back over the yield strain y, and the depth as unit, balance of
forces gives the bend ``y (r+1)²/2`` and the neutral axis; the moment is ``E y m(r)``; the work
along a beam whose moment falls evenly to its supports is the mean, over the moment, of ``∫ M dκ``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

# A test piece is strained so far at one point, a limb along its whole length: its weakest link
# breaks about a fifth earlier (Weibull, with the scatter of clear wood in tension).
WEAKEST_LINK = 0.22
# Spread of the rupture strain between staves of one wood, a band of 90 %; wider where its work to
# maximum load is taken from relatives.
BAND, WIDE_BAND = 0.15, 0.22
_MOST = 14.0


@dataclass(frozen=True)
class Rupture:
    """What the law makes of a bending test.

    Attributes:
        tension: strain of the back at the loaded point of the test piece when it breaks.
        compression: strain at which the belly yields.
        limb: strain at which the back of a limb breaks.
    """

    tension: float
    compression: float
    limb: float


def _moment(r: Floats) -> Floats:
    """Moment over modulus, yield strain and section (width 1, depth 1)."""
    whole = (r + 1) ** 4
    plastic = 0.5 * ((r**2 + 1) ** 2 - 4)
    return np.asarray((4 / 3 * (r**3 + 1) + plastic) / whole)


@cache
def _table() -> tuple[Floats, Floats]:
    """Ratios r from 1, and the work to maximum load over what a beam straight to the end takes."""
    r = np.linspace(1.0, _MOST, 2000)
    moment, bend = _moment(r), 0.5 * (r + 1) ** 2
    spent = moment[0] ** 2 * 6 + np.concatenate(
        [[0.0], np.cumsum(0.5 * (moment[1:] + moment[:-1]) * np.diff(bend))]
    )
    # the mean over the moment: up to the yield the work goes with its square
    below = moment[0] * spent[0] / 3
    along = below + np.concatenate(
        [[0.0], np.cumsum(0.5 * (spent[1:] + spent[:-1]) * np.diff(moment))]
    )
    return r, along / moment / (2 * moment**2)


def straight_work(modulus: float, rupture: float) -> float:
    """Work to maximum load of a beam straight to the end, MOR²/18E (J/m³).

    Args:
        modulus: of elasticity (Pa).
        rupture: modulus of rupture (Pa).
    """
    return rupture**2 / (18 * modulus)


@lru_cache(maxsize=512)
def break_of(modulus: float, rupture: float, work: float) -> Rupture:
    """The strains at which a bending test yielded and broke.

    Args:
        modulus: of elasticity (Pa).
        rupture: modulus of rupture (Pa).
        work: to maximum load (J/m³); less than a straight beam takes counts as that.

    Raises:
        DescriptionError: a figure is not above zero.
    """
    for what, value in (("modulus", modulus), ("rupture", rupture), ("work", work)):
        if not (math.isfinite(value) and value > 0):
            raise DescriptionError(f"The {what} must be above zero.", what)
    ratios, works = _table()
    r = float(np.interp(work / straight_work(modulus, rupture), works, ratios))
    compression = rupture / modulus / (6 * float(_moment(np.array(r))))
    tension = r * compression
    return Rupture(tension, compression, (1 - WEAKEST_LINK) * tension)
