"""What is hidden in a practice stave, by its trouble and its seed.

The wood goes up and down in waves a hand to a limb long, with a step where the grain changes, on
finer cells than any estimate has: nothing here is as whoever estimates supposes. Each trouble adds
what its lesson is about. The same setup gives the same stave to everybody.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Side
from bowyery.bow.layout import METRIC_ROUNDING, Layout, StackLayer, Wanted
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.design.solution import Solution
from bowyery.design.solve import solve_design
from bowyery.errors import BowyeryError
from bowyery.mechanics.strain import CRUSHED
from bowyery.practice.virtual_stave import VirtualStave
from bowyery.tiller.bite import TOOLS
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

CELLS = 96
HIGHEST_SEED = 999_999
SEASONED = 0.09
NARROW = 0.0125  # of a hinge: an inch (m)


class PracticeError(BowyeryError):
    """Something that cannot be done on a practice stave, or not now.

    Args:
        place: the field that it is about.
    """

    def __init__(self, message: str, place: str = "") -> None:
        super().__init__(message)
        self.place = place


@dataclass(frozen=True)
class Pattern:
    """A bow to be made of a practice stave."""

    name: str
    layout: Layout
    wanted: Wanted


def _patterns() -> dict[str, Pattern]:
    back = (StackLayer("back", material("sinew"), 0.0020, 0.0012),)
    return {
        "flatbow": Pattern("flatbow", Layout(70 * INCH), Wanted(45 * POUND_FORCE, 28 * INCH)),
        "pyramid": Pattern(
            "pyramid bow",
            Layout(71 * INCH, parallel=0.0, width=2.3 * INCH, tip_width=0.45 * INCH),
            Wanted(42 * POUND_FORCE, 27 * INCH),
        ),
        "longbow": Pattern(
            "deep, narrow longbow",
            Layout(79 * INCH, width=1.4 * INCH, parallel=0.4, fade=1.5 * INCH),
            Wanted(55 * POUND_FORCE, 28 * INCH),
        ),
        "bending grip": Pattern(
            "bow that bends through the grip",
            Layout(66 * INCH, handle=0.0, fade=0.0, width=1.6 * INCH, parallel=0.4),
            Wanted(36 * POUND_FORCE, 26 * INCH),
        ),
        "short": Pattern(
            "short, wide bow",
            Layout(60 * INCH, width=2.1 * INCH),
            Wanted(38 * POUND_FORCE, 25 * INCH),
        ),
        "sinew": Pattern(
            "short bow under sinew",
            Layout(62 * INCH, width=1.8 * INCH, back=back, unknown="core"),
            Wanted(40 * POUND_FORCE, 25 * INCH),
        ),
    }


PATTERNS: Mapping[str, Pattern] = _patterns()
WOODS = ("european ash", "wych elm", "black locust", "rowan", "hazel", "european yew")
TROUBLES: Mapping[str, str] = {
    "clear": "clear, even wood",
    "stiff": "a stiff place",
    "hinge": "a hinge",
    "knot": "a hinge behind a knot",
    "crook": "naturally bent wood",
    "book": "wood that is not as the book says",
    "limbs": "one limb stiffer than the other",
    "string": "a string off the middle",
    "light": "too light already",
    "heavy": "far too heavy yet",
    "sinew": "sinew laid on unevenly",
    "green": "wood that is not dry yet",
    "brittle": "wood that breaks early",
}


UNDER_SINEW = ["sinew", "clear", "hinge", "stiff", "limbs"]  # what is asked under sinew


@dataclass(frozen=True)
class Setup:
    """Which stave is practised on; everything hidden follows from it.

    Attributes:
        pattern: a key of PATTERNS.
        trouble: a key of TROUBLES.
        seed: 1 to HIGHEST_SEED.
        errors: the learner's own hands, rulers and scale err, too.
        lesson: a key of the lessons, or nothing for a free stave.
    """

    pattern: str
    wood: str
    trouble: str
    seed: int
    errors: bool = True
    lesson: str = ""

    def checked(self) -> Setup:
        """Itself, if there is such a stave.

        Raises:
            PracticeError: there is none; its place is the field.
        """
        if self.pattern not in PATTERNS:
            raise PracticeError("Choose one of the bows that can be practised on.", "pattern")
        if self.wood not in WOODS:
            raise PracticeError("Choose one of the woods that can be practised on.", "wood")
        if self.trouble not in TROUBLES:
            raise PracticeError("Choose one of the troubles.", "trouble")
        if not 1 <= self.seed <= HIGHEST_SEED:
            raise PracticeError(f"A seed is a whole number from 1 to {HIGHEST_SEED:,}.", "seed")
        if self.trouble == "sinew" and self.pattern != "sinew":
            raise PracticeError("Only the short bow under sinew has sinew to lay on.", "trouble")
        return self


def any_trouble(pattern: str, seed: int) -> str:
    """A trouble that a bow can have, which follows from the seed.

    Args:
        pattern: a key of PATTERNS.

    Returns:
        A key of TROUBLES.
    """
    fits = UNDER_SINEW if pattern == "sinew" else [one for one in TROUBLES if one != "sinew"]
    return fits[seed % len(fits)]


@dataclass(frozen=True)
class Hand:
    """How the learner's hands, rulers and scale err, the same through a session.

    Attributes:
        scale: what the scale shows of a newton.
        draw, gap, brace: how far off draws, gaps and brace heights are read (m).
        reads: how much of a careful maker's error each single reading has; 0: none.
        alike, local: how uneven a pass is, as a whole and from place to place.
    """

    scale: float = 1.0
    draw: float = 0.0
    gap: float = 0.0
    brace: float = 0.0
    reads: float = 0.0
    alike: float = 0.0
    local: float = 0.0


@dataclass(frozen=True)
class Knot:
    """A knot that everybody sees.

    Attributes:
        at: from the limb's root (m).
        size: across (m).
    """

    limb: Side
    at: float
    size: float


@dataclass(frozen=True)
class Hidden:
    """A practice stave as it lies on the bench at first, and all that is true of it.

    Attributes:
        lean: how much thicker the right edge is than the left, over the thickness, at the nodes,
            ``(2, n+1)``; seen from the belly, upper limb up.
        skin: thickness of a backing at the nodes, ``(2, n+1)`` (m).
        aside: curvature sideways, to the right, even along each limb, ``(2,)`` (1/m).
        bites: what each tool takes of what such tools usually take.
        crush: how many times the strain that its back bears its belly bears before frets run across
            it.
        slack: of the tillering string (m).
        string: that is on at first: long, low or full.
        places: what is hidden where, for the debrief: limb, from and to (m from the root), and how
            much stiffer it is (log).
    """

    found: Solution
    stave: VirtualStave
    hand: Hand
    knots: tuple[Knot, ...] = ()
    lean: Floats = field(default_factory=lambda: np.zeros((2, CELLS + 1)))
    skin: Floats = field(default_factory=lambda: np.zeros((2, CELLS + 1)))
    aside: Floats = field(default_factory=lambda: np.zeros(2))
    bites: Mapping[str, float] = field(default_factory=dict)
    crush: float = CRUSHED
    slack: float = 0.07
    string: str = "long"
    places: tuple[tuple[Side, float, float, float], ...] = ()


def waves(at: Floats, spread: float, rng: np.random.Generator) -> Floats:
    """Ups and downs of that deviation, in waves a hand to a limb long.

    Args:
        spread: one standard deviation of the logarithm.
        at: places, ``(places,)`` (m).
    """
    total = np.zeros_like(at)
    for long in (0.09, 0.14, 0.22, 0.35, 0.6):
        total += rng.standard_normal() * np.cos(2 * np.pi * (at / long + rng.uniform()))
    return np.asarray(spread * total / np.sqrt(2.5))


@lru_cache(maxsize=64)
def solved(pattern: str, wood: str) -> Solution:
    """The design of a pattern in a wood.

    Args:
        pattern: a key of PATTERNS.

    Raises:
        DesignError: this wood makes no such bow.
    """
    one = PATTERNS[pattern]
    return solve_design(
        one.layout, one.wanted, at_moisture(material(wood), SEASONED), METRIC_ROUNDING
    )


@dataclass
class _Draft:
    """A stave while its trouble is put in."""

    limbs: LimbGrid
    rng: np.random.Generator
    wood: Floats
    crook: Floats
    over: Floats
    lean: Floats
    aside: Floats
    knots: list[Knot] = field(default_factory=list)
    places: list[tuple[Side, float, float, float]] = field(default_factory=list)
    string: str = "long"
    elastic: float = 1.0
    rupture: float = 1.0
    crush: float = CRUSHED

    @property
    def at(self) -> Floats:
        """Places of the nodes, ``(2, n+1)`` (m)."""
        return self.limbs.places()[:, 0]

    def span(self, side: int) -> float:
        """Length of a limb's bending part (m)."""
        return float(self.limbs.length[side, 0])

    def bump(self, side: int, at: float, much: float, wide: float) -> None:
        """A place so much stiffer, as wide to both sides (m)."""
        self.wood[side] += much * np.exp(-0.5 * ((self.at[side] - at) / wide) ** 2)
        self.places.append((SIDES[side], at - 1.5 * wide, at + 1.5 * wide, much))

    def somewhere(self, low: float = 0.2, high: float = 0.75) -> tuple[int, float]:
        """A limb, and a place of it (m)."""
        side = int(self.rng.integers(2))
        return side, float(self.rng.uniform(low, high)) * self.span(side)


def _stiff(d: _Draft) -> None:
    side, at = d.somewhere()
    d.bump(side, at, float(d.rng.uniform(0.3, 0.45)), 0.05)


def _hinge(d: _Draft) -> None:
    side, at = d.somewhere()
    d.bump(side, at, -float(d.rng.uniform(0.28, 0.42)), float(d.rng.uniform(1, 2)) * NARROW)


def _knot(d: _Draft) -> None:
    shares = d.rng.permutation([0.2, 0.36, 0.52, 0.68])[:3]
    for k, share in enumerate(shares):
        side, size = int(d.rng.integers(2)), float(d.rng.uniform(0.008, 0.016))
        at = float(share) * d.span(side)
        d.knots.append(Knot(SIDES[side], at, size))
        if k == 0:  # its grain dives beyond it
            d.bump(side, at + 0.035, -float(d.rng.uniform(0.32, 0.45)), 0.018)
        else:  # left proud, it is stiff rather than weak
            d.wood[side] += 0.10 * np.exp(-0.5 * ((d.at[side] - at) / 0.012) ** 2)


def _crook(d: _Draft) -> None:
    d.wood *= 0.4
    middles = 0.5 * (d.at[:, 1:] + d.at[:, :-1])
    for side in (0, 1):
        span = d.span(side)
        for share in (d.rng.uniform(0.2, 0.4), d.rng.uniform(0.5, 0.8)):
            kink = np.exp(-0.5 * ((middles[side] - share * span) / 0.05) ** 2)
            d.crook[side] += d.rng.choice([-1, 1]) * d.rng.uniform(0.2, 0.4) * kink


def _book(d: _Draft) -> None:
    d.wood += d.rng.choice([-1, 1]) * d.rng.uniform(0.22, 0.34)


def _limbs(d: _Draft) -> None:
    side = int(d.rng.integers(2))
    much = float(d.rng.uniform(0.18, 0.28))
    d.wood[side] += much
    d.places.append((SIDES[side], 0.0, d.span(side), much))


def _string(d: _Draft) -> None:
    d.wood *= 0.6
    d.string = "low"
    way = float(d.rng.choice([-1, 1]))
    much = d.rng.uniform(0.2, 0.3, (2, 1)) * np.linspace(1, 0.8, d.lean.shape[1])
    d.lean += way * much  # one edge was left as it came off the axe
    d.over = 0.3 * d.over + 0.5 * much


def _light(d: _Draft) -> None:
    d.wood *= 0.5
    d.over[:] = -float(d.rng.uniform(0.055, 0.07))
    d.string = "full"


def _heavy(d: _Draft) -> None:
    d.over += float(d.rng.uniform(0.10, 0.16))


def _sinew(d: _Draft) -> None:
    side = int(d.rng.integers(2))
    d.over *= 0.35
    much = float(d.rng.uniform(0.18, 0.26))
    d.wood[side] += much
    d.places.append((SIDES[side], 0.0, d.span(side), much))
    for k in (0, 1):
        d.wood[k] += 0.05 * d.rng.standard_normal()
    d.crook -= float(d.rng.uniform(0.06, 0.14))  # it shrinks as it dries
    d.string = "low"


def _green(d: _Draft) -> None:
    d.elastic, d.rupture, d.crush = 0.72, 1.1, 0.75 * CRUSHED
    d.wood -= 0.10


def _brittle(d: _Draft) -> None:
    d.rupture = 0.86


_MAKE: dict[str, Callable[[_Draft], None]] = {
    "stiff": _stiff,
    "hinge": _hinge,
    "knot": _knot,
    "crook": _crook,
    "book": _book,
    "limbs": _limbs,
    "string": _string,
    "light": _light,
    "heavy": _heavy,
    "sinew": _sinew,
    "green": _green,
    "brittle": _brittle,
}


def hand_of(seed: int) -> Hand:
    """Somebody's hands."""
    rng = np.random.default_rng([seed, 77])
    return Hand(
        scale=float(1 + 0.007 * rng.standard_normal()),
        draw=float(0.0015 * rng.standard_normal()),
        gap=float(0.0005 * rng.standard_normal()),
        brace=float(0.0015 * rng.standard_normal()),
        reads=1.0,
        alike=0.10,
        local=0.10,
    )


@lru_cache(maxsize=64)
def rough_out(setup: Setup) -> Hidden:
    """Rough out the stave of a setup.

    Raises:
        PracticeError: there is no such stave.
        DesignError: this wood makes no such bow.
    """
    setup.checked()
    found = solved(setup.pattern, setup.wood)
    key = [setup.seed, list(TROUBLES).index(setup.trouble), list(PATTERNS).index(setup.pattern)]
    rng = np.random.default_rng(key)
    limbs = grid(found.bow, CELLS)
    at = limbs.places()[:, 0]
    spread = 0.03 if setup.trouble in ("clear", "light", "string") else rng.uniform(0.03, 0.06)
    book = 0.05 * rng.standard_normal()
    draft = _Draft(
        limbs, rng, np.zeros_like(at), np.zeros((2, CELLS)), np.zeros_like(at), np.zeros_like(at),
        np.zeros(2),
    )  # fmt: skip
    left_on = rng.uniform(0.10, 0.15)
    for side in (0, 1):
        step = rng.uniform(0.2, 0.8) * at[side, -1]
        draft.wood[side] = book + waves(at[side], spread, rng)
        draft.wood[side] += 0.03 * rng.standard_normal() * (at[side] > step)
        draft.crook[side] = 0.01 * rng.standard_normal()
        lumps = 0.006 * np.abs(((at[side] / rng.uniform(0.07, 0.15) + rng.uniform()) % 1) - 0.5)
        draft.over[side] = left_on + 0.01 * rng.standard_normal() + lumps
    if setup.trouble in _MAKE:
        _MAKE[setup.trouble](draft)
    stuff = found.wood
    scatter = float(np.exp(stuff.rupture_band / 1.645 * rng.standard_normal()))
    stave = VirtualStave(
        limbs,
        found.bow,
        draft.wood,
        limbs.depth[:, 0] * (1 + draft.over),
        np.zeros_like(at),
        draft.crook,
        np.zeros((2, CELLS)),
        stuff.elastic_strain * draft.elastic * float(np.exp(0.05 * rng.standard_normal())),
        stuff.usual_rupture_strain * draft.rupture * scatter,
    )
    bites = {tool: float(np.exp(0.25 * rng.standard_normal())) for tool in TOOLS}
    hand = hand_of(setup.seed) if setup.errors else Hand()
    slack, crush = float(rng.uniform(0.05, 0.08)), float(np.exp(0.12 * rng.standard_normal()))
    if not setup.errors:
        bites = dict.fromkeys(TOOLS, 1.0)
    return Hidden(
        found, stave, hand, tuple(draft.knots), draft.lean, _skin(found, limbs), draft.aside, bites,
        draft.crush * crush, slack, draft.string, tuple(draft.places),
    )  # fmt: skip


def _skin(found: Solution, limbs: LimbGrid) -> Floats:
    """Thickness of the backing at the nodes."""
    skin = np.zeros((2, CELLS + 1))
    for one in found.layout.back:
        for side in (0, 1):
            skin[side] += one.depth_at(limbs.places()[side, 0], float(limbs.length[side, 0]))
    return skin
