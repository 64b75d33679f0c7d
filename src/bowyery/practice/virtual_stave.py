"""A virtual stave to practise on: hidden stiffness, a memory, set, a breaking point, and a maker's
uneven hand.

Its wood varies along the limbs as clear wood does, some 12 % about the book, alike over a hand's
breadth; knots and hinges are narrow places that are stiffer or weaker; the book itself may be wrong
for this tree. What comes off shows in full only after twenty or thirty pulls. Bent past its elastic
limit it keeps part of the excess as set, and bent to its rupture strain it breaks. Everything
follows from the seed of the generator that is given.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import Thinning, thinning
from bowyery.errors import SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.mechanics.strain import CRUSHED, SET_SHARE, surface_strain
from bowyery.tiller.estimate import Taken, at_nodes, few_cells, taken_field
from bowyery.tiller.kinds import Reading
from bowyery.tiller.readings import errors_of, read
from bowyery.wood.materials import Material

WOOD_SPREAD = 0.12
BOOK_SPREAD = 0.08
REACH = 0.10  # over which the wood's difference is forgotten (m)
MEMORY = 8.0  # pulls after which about a third of a removal does not show yet


@dataclass(frozen=True)
class VirtualStave:
    """A roughed-out bow whose wood nobody has measured.

    Attributes:
        limbs: grid of the design, a batch of one.
        wood: log of the wood's stiffness against the book at the nodes, ``(2, n+1)``; hidden.
        thickness: that stands at the nodes, ``(2, n+1)`` (m).
        pending: log stiffness that removals have not let go of yet, ``(2, n+1)``.
        crook: natural curvature beyond the design's, in the middle of the cells, ``(2, n)`` (1/m).
        set: curvature kept from overstraining, ``(2, n)`` (1/m).
        elastic, rupture: surface strains at which set begins and at which it breaks.
    """

    limbs: LimbGrid
    bow: Bow
    wood: Floats
    thickness: Floats
    pending: Floats
    crook: Floats
    set: Floats
    elastic: float
    rupture: float
    broken: bool = False

    @cached_property
    def law(self) -> Thinning:
        """How stiffness goes with thickness at the nodes, by the section of the design."""
        return thinning(self.bow, self.limbs, self.limbs.shares[:, 0])

    def changed(self, **now: Any) -> VirtualStave:
        """The stave with other wood, set or memory; how its stiffness goes with thickness, which
        takes long to find, goes along.

        Args:
            now: attributes that are other, neither limbs nor bow among them.
        """
        made = replace(self, **now)
        made.__dict__["law"] = self.law
        return made

    @property
    def logs(self) -> Floats:
        """Log stiffness against the design as it shows now, ``(2, n+1)``."""
        return np.asarray(self.law.log_at(self.thickness) + self.wood + self.pending)

    def grid(self) -> LimbGrid:
        """The limbs as they are."""
        now = self.limbs.stiffened(np.exp(self.logs)[:, None])
        share = (self.thickness / self.limbs.depth[:, 0])[:, None]
        return replace(
            now,
            curvature=now.curvature + (self.crook + self.set)[:, None],
            axis=now.axis * share,
            depth=now.depth * share,
        )


def _correlated(places: Floats, reach: float, rng: np.random.Generator) -> Floats:
    """A random walk of unit spread whose memory is ``reach`` long, smoothed a little."""
    near = np.exp(-np.abs(places[:, None] - places) / reach)
    raw = np.linalg.cholesky(near + 1e-9 * np.eye(places.size)) @ rng.standard_normal(places.size)
    smooth = np.exp(-0.5 * ((places[:, None] - places) / (0.3 * reach)) ** 2)
    return np.asarray(smooth @ raw / smooth.sum(1))


def new_stave(
    limbs: LimbGrid,
    bow: Bow,
    wood: Material,
    rng: np.random.Generator,
    left_on: tuple[float, float] = (0.16, 0.26),
    knots: int = 1,
    hinge: float = 0.0,
    crook: float = 0.08,
) -> VirtualStave:
    """Rough out a stave for a design.

    Args:
        rng: what everything hidden is drawn from.
        left_on: share of the thickness left on, from this to that.
        knots: how many narrow places stiffer or weaker by some 15 %.
        hinge: depth of one natural weak place in log stiffness; none at 0.
        crook: natural curvature the design does not have, one deviation (1/m).
    """
    few = few_cells(limbs)
    n, places = few.cells, few.places()[:, 0]
    book = BOOK_SPREAD * rng.standard_normal()
    field = np.stack(
        [WOOD_SPREAD * _correlated(places[side], REACH, rng) + book for side in (0, 1)]
    )

    def narrow(side: int, at: float, height: float, width: float) -> None:
        field[side] += height * np.exp(-0.5 * ((places[side] - at) / width) ** 2)

    for _ in range(knots):
        side = int(rng.integers(2))
        narrow(
            side,
            float(rng.uniform(0.1, 0.85)) * places[side, -1],
            0.15 * rng.standard_normal(),
            0.02,
        )
    if hinge:
        side = int(rng.integers(2))
        narrow(side, float(rng.uniform(0.12, 0.7)) * places[side, -1], -hinge, 0.03)
    over = rng.uniform(*left_on) + 0.02 * rng.standard_normal(2)
    uneven = np.stack([0.02 * _correlated(places[side], 0.15, rng) for side in (0, 1)])
    thickness = few.depth[:, 0] * (1 + over[:, None] + uneven)
    middles = 0.5 * (places[:, 1:] + places[:, :-1])
    bent = crook * np.stack([_correlated(middles[side], 0.2, rng) for side in (0, 1)])
    # staves break about the strain that the design room warns from the low end of
    scatter = float(np.exp(wood.rupture_band / 1.645 * rng.standard_normal()))
    soft = float(np.exp(0.06 * rng.standard_normal()))
    nothing = np.zeros_like(thickness)
    return VirtualStave(
        few,
        bow,
        field,
        thickness,
        nothing,
        bent,
        np.zeros((2, n)),
        wood.elastic_strain * soft,
        wood.usual_rupture_strain * scatter,
    )


def read_stave(
    stave: VirtualStave,
    bows: Bow | Mapping[str, Bow],
    kinds: tuple[Reading, ...],
    rng: np.random.Generator | None = None,
) -> tuple[Reading, ...]:
    """What a maker reads: the kinds that were asked for, with their values and, given a generator,
    a maker's errors.

    Args:
        kinds: readings asked for; their values do not enter.
        rng: for a maker's errors, or None.
    """
    found = read(stave.grid(), bows, kinds, slopes=True)
    true = tuple(replace(k, value=float(v)) for k, v in zip(kinds, found.values[0], strict=True))
    if rng is None:
        return true
    # a size is read as well as a rule allows: what it says of the stiffness is another matter
    plain = tuple(replace(k, error=0.0002) if k.kind in ("thickness", "width") else k for k in true)
    errors = errors_of(plain, found.values[0], found.slopes)
    return tuple(
        replace(k, value=float(k.value + e * rng.standard_normal()))
        for k, e in zip(true, errors, strict=True)
    )


def drawn_state(stave: VirtualStave, bow: Bow, draw: float) -> tuple[float, Shapes]:
    """True weight at a draw (N), and the shapes there; raises SolveError.

    Args:
        draw: from nocking point to pivot (m).
    """
    limbs = stave.grid()
    braced = statics.brace_bow(limbs, bow)
    drawn = statics.draw(limbs, bow.hold, braced, np.array([draw]))
    return float(drawn.weight[0]), shapes(limbs, drawn.tension, drawn.p)


def reached(stave: VirtualStave, bow: Bow, draw: float, weight: float) -> float:
    """How far the rope comes when it is stopped at a draw (m) or at a weight on the scale (N),
    whichever is first.

    Args:
        draw: from nocking point to pivot (m).
        weight: at each draw, ``(B,)`` (N).
    """
    limbs = stave.grid()
    braced = statics.brace_bow(limbs, bow)
    start = 1.01 * float(braced.least_draw[0])
    draws = np.linspace(start, max(draw, start + 1e-3), 14)
    for _ in range(8):
        try:
            found = statics.draw(limbs, bow.hold, braced, draws).weight
        except SolveError:  # no bow gives such a draw: try nearer
            draws = np.linspace(start, start + 0.8 * (draws[-1] - start), 14)
        else:
            return float(np.interp(weight, np.maximum.accumulate(found), draws))
    return start


def pull(stave: VirtualStave, bow: Bow, draw: float) -> VirtualStave:
    """Pull it to a draw: where it is bent past its elastic limit it keeps a part, and past its
    rupture it breaks.

    Args:
        draw: to the pivot (m).
    """
    try:
        _, bent = drawn_state(stave, bow, draw)
    except SolveError:
        return stave
    strain = surface_strain(bent)[:, 0]
    if np.maximum(bent.back[:, 0], strain / CRUSHED).max() > stave.rupture:
        return replace(stave, broken=True)
    between = 0.5 * (strain[:, 1:] + strain[:, :-1])
    bend = bent.bend_at_joints[:, 0]
    kept = SET_SHARE * bend * np.maximum(0.0, 1 - stave.elastic / np.maximum(between, 1e-9))
    return replace(stave, set=np.maximum(stave.set, kept))


def exercise(stave: VirtualStave, pulls: int) -> VirtualStave:
    """Short pulls: the wood lets go of what it remembers."""
    return replace(stave, pending=stave.pending * np.exp(-pulls / MEMORY))


def scrape(
    stave: VirtualStave, taken: tuple[Taken, ...], rng: np.random.Generator | None = None
) -> VirtualStave:
    """Take wood off, by an even hand or, given a generator, one that takes 15 % more or less here
    and there.

    Args:
        rng: for a maker's errors, or None.
    """
    field = at_nodes(taken_field(stave.limbs, taken), stave.limbs)
    if rng is not None:
        places = stave.limbs.places()[:, 0]
        hand = np.stack(
            [
                0.12 * rng.standard_normal() + 0.10 * _correlated(places[side], 0.1, rng)
                for side in (0, 1)
            ]
        )
        field = field * np.maximum(0.2, 1 + hand)
    left = np.maximum(stave.thickness - field, 0.2 * stave.thickness)
    fall = stave.law.log_at(left) - stave.law.log_at(stave.thickness)
    return replace(stave, thickness=left, pending=stave.pending - fall)
