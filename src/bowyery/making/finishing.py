"""The end of a bow: arrow pass and grip, what rounding and sanding take off, wraps and overlays.

Wood off an edge or a face takes its own share of the section's stiffness, ``E a z²`` of an area a
at a distance z from the neutral axis (Gere and Goodno 2012, chapter 5); a corner rounded with
radius r loses ``(1 − π/4) r²``, whose middle lies 0.2234 r from both faces. The weight then follows
from the limbs with that stiffness, and not from a fixed share.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.layout import ARROW_ABOVE_PIVOT
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve

CORNER, MIDDLE = 1 - math.pi / 4, 0.2234  # of r² and of r
THIRD = 1 / 3  # no pass is deeper than so much of the width
QUIET = 0.35  # of what the wood lasts at: a handle strained more begins to work
OVERLAY, OVERLAY_THICK = 0.040, (0.004, 0.007)  # along the tip; of a light and a heavy bow (m)
GRITS = (80, 120, 180, 240, 320)


@dataclass(frozen=True)
class Finishing:
    """What finishing takes.

    Attributes:
        rounding: share of the weight that rounded edges take.
        sanding: share that sanding the faces takes.
        most: the largest radius that the stoutest place allows (m).
    """

    rounding: float
    sanding: float
    most: float

    @property
    def share(self) -> float:
        """Of the weight, both together."""
        return 1 - (1 - self.rounding) * (1 - self.sanding)


def finishing(
    bow: Bow, draw: float, back: float, belly: float, off_back: float = 0.0, off_belly: float = 0.0
) -> Finishing:
    """What rounding the edges and sanding the faces take off the weight.

    Args:
        bow: as it is tillered, its edges still square.
        draw: full draw (m).
        back, belly: radius of the edges there (m), less where the limb is too thin for it.
        off_back, off_belly: sanded off the faces (m).

    Returns:
        Shares of the weight at full draw.

    Raises:
        DescriptionError: a radius below nothing or more than the limb has, or more sanded off than
            a sander takes.
        SolveError: what the statics raise.
    """
    limbs = grid(bow)
    half = np.minimum(limbs.width, limbs.depth) / 2  # a thin tip is rounded all over
    most = float(half.max())
    for name, radius in (("back", back), ("belly", belly)):
        if not (math.isfinite(radius) and 0 <= radius <= most):
            raise DescriptionError(
                f"The stoutest place of the limbs can be rounded by {most * 1000:.1f} mm at most.",
                name,
            )
    thin = float(limbs.depth.min())
    for name, off in (("off_back", off_back), ("off_belly", off_belly)):
        if not (math.isfinite(off) and 0 <= off < 0.2 * thin):
            raise DescriptionError(
                "That is more than sanding takes; scrape, and tiller anew.", name
            )
    moduli, axis = _faces(bow, limbs)
    lost = np.zeros_like(limbs.node_stiffness)
    faces = ((moduli[0], axis, back, off_back), (moduli[1], limbs.depth - axis, belly, off_belly))
    rounded, sanded = lost.copy(), lost.copy()
    for modulus, reach, radius, off in faces:
        edge = np.minimum(radius, half)
        rounded += modulus * 2 * CORNER * edge**2 * (reach - MIDDLE * edge) ** 2
        sanded += modulus * off * limbs.width * (reach - off / 2) ** 2
    before = _weight(bow, limbs, draw)
    one = _weight(bow, limbs.stiffened(1 - rounded / limbs.node_stiffness), draw)
    two = _weight(bow, limbs.stiffened(1 - sanded / limbs.node_stiffness), draw)
    return Finishing(1 - one / before, 1 - two / before, most)


def _weight(bow: Bow, limbs: LimbGrid, draw: float) -> float:
    return float(force_curve.solve_grid(limbs, bow, np.array([draw])).drawn.weight[-1])


def _faces(bow: Bow, limbs: LimbGrid) -> tuple[tuple[float, float], Floats]:
    """Moduli of the outermost layers, and the neutral axis below the back at the nodes."""
    layers = bow.upper.layers
    return (layers[0].modulus, layers[-1].modulus), limbs.axis


@dataclass(frozen=True)
class ArrowPass:
    """A pass cut into the side of the grip.

    Attributes:
        depth: of the cut (m).
        most: a third of the width there (m).
        width, thick: of the grip there before the cut (m).
        stiffness: share of the grip's stiffness that is left.
        use: share of what the wood lasts at that it is strained to there at full draw.
        beside: how far the arrow's middle lies beside the string's plane (m); below zero beyond it.
        angle: of the arrow to the string's plane at brace (rad).
        from_centre: where the arrow lies, from the bow's centre to the upper tip (m).
    """

    depth: float
    most: float
    width: float
    thick: float
    stiffness: float
    use: float
    beside: float
    angle: float
    from_centre: float

    @property
    def sound(self) -> bool:
        """Neither too deep nor strained so that the handle works."""
        return self.depth <= self.most + 1e-9 and self.use <= QUIET


def arrow_pass(
    bow: Bow,
    width: float,
    thick: float,
    lasts: float,
    draw: float,
    depth: float,
    arrow: float = 0.008,
    bends: bool = False,
) -> ArrowPass:
    """Look at an arrow pass before it is cut.

    Args:
        width, thick: of the grip at the pass (m).
        lasts: surface strain that its wood lasts at.
        draw: full draw (m).
        depth: of the cut (m).
        arrow: how thick the arrow is (m).

    Returns:
        What is left of the grip, and how the arrow lies.

    Raises:
        DescriptionError: a handle that bends, or a cut through it.
        SolveError: what the statics raise.
    """
    if bends:
        raise DescriptionError(
            "This handle bends: no pass is cut into it. A pad of leather lifts the arrow off.",
            "depth",
        )
    if not (math.isfinite(depth) and 0 < depth < width):
        raise DescriptionError("The pass is cut into the grip, and not through it.", "depth")
    curve = force_curve.solve_grid(grid(bow), bow, np.array([draw]))
    moment = float(np.abs(curve.shapes.moment[:, -1, 0]).max())
    modulus = bow.upper.layers[len(bow.upper.layers) // 2].modulus
    left = width - depth
    strain = 6 * moment / (modulus * left * thick**2)
    beside = width / 2 - depth + arrow / 2
    brace = float(curve.braced.height[0])
    return ArrowPass(
        depth, THIRD * width, width, thick, left / width, strain / lasts, beside,
        math.atan2(beside, brace), bow.hold.pivot[0] + ARROW_ABOVE_PIVOT,
    )  # fmt: skip


@dataclass(frozen=True)
class Wrap:
    """What wraps a grip.

    Attributes:
        around: its circumference (m).
        cord: length of cord with its ends (m).
        leather: width round the grip with its seam, and length along it (m).
    """

    around: float
    turns: int
    cord: float
    leather: tuple[float, float]


def wrap(width: float, thick: float, length: float, cord: float, rounded: float = 0.006) -> Wrap:
    """Cord or leather for a grip.

    Args:
        width, thick: of the grip (m).
        length: to be wrapped (m).
        cord: how thick it is (m).
        rounded: radius of the grip's edges (m).

    Raises:
        DescriptionError: a size that is not above zero.
    """
    for name, value in (("width", width), ("thick", thick), ("length", length), ("cord", cord)):
        if not (math.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", name)
    radius = min(rounded, width / 2, thick / 2)
    around = 2 * (width + thick) - (8 - 2 * math.pi) * radius
    turns = math.ceil(length / cord - 1e-9)
    return Wrap(around, turns, turns * (around + math.pi * cord) + 0.3, (around + 0.004, length))


@dataclass(frozen=True)
class Overlay:
    """An overlay on a tip's back.

    Attributes:
        length, width, thick: of the piece before it is shaped (m).
        groove: width of the nock's groove for the string's loop (m).
    """

    limb: str
    length: float
    width: float
    thick: float
    groove: float


def overlays(bow: Bow, weight: float, string: float) -> tuple[Overlay, Overlay]:
    """Overlays of horn or hard wood for both tips.

    Args:
        weight: at full draw (N).
        string: how thick its loop is (m).

    Returns:
        Of the upper and the lower tip.
    """
    light, heavy = OVERLAY_THICK
    thick = light + (heavy - light) * min(1.0, max(0.0, (weight - 130) / 400))

    def one(side: str, limb: Limb) -> Overlay:
        return Overlay(side, OVERLAY, float(limb.width[-1]) + 0.003, thick, 1.15 * string)

    first, second = (one(side, limb) for side, limb in zip(SIDES, bow.limbs, strict=True))
    return first, second
