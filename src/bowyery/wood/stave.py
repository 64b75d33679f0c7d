"""Staves: stock of every kind with its flaws, its natural shape, and what tests of it tell.

A stave lies as a bow does on the ruler: places count from its left end, seen from the back; across
counts from the line through the middle of both ends, towards the upper edge as drawn.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

KINDS = ("log split", "sapling", "board", "bamboo culm", "bamboo slat", "lamination", "glass")
# Stock whose sides are straight and square as it comes; it has no bark.
SAWN = ("board", "bamboo slat", "lamination", "glass")
FACES = ("back", "belly", "through")


@dataclass(frozen=True)
class FlawKind:
    """How much a kind of flaw weakens the place it lies in, against clear wood bent to all it
    bears.

    Attributes:
        back, belly: on the stretched and on the pressed face (1: as bad as a hole of its size).
        leave_wood: it can be left proud, with wood added round it.
        mend: what is usually done about it.
    """

    back: float
    belly: float
    leave_wood: bool
    mend: str


# Relative weights, set by judgement between the knot and slope-of-grain rules for structural timber
# (Wood Handbook 2021, chapter 7: strength falls with the share of the section a knot takes; loose
# knots count as holes).
FLAWS: dict[str, FlawKind] = {
    "pin knot": FlawKind(0.45, 0.2, True, "leave it proud and dip the edge round it"),
    "tight knot": FlawKind(0.8, 0.35, True, "leave it proud, with more wood on both sides"),
    "loose knot": FlawKind(
        1.0, 0.7, True, "drill it out, fill it, and leave a good deal of wood round it"
    ),
    "through knot": FlawKind(1.0, 0.9, True, "widen the limb round it by its own width"),
    "end check": FlawKind(1.0, 0.8, False, "cut slices off the end until a clean one comes"),
    "belly check": FlawKind(
        0.3, 0.35, False, "keep it along the limb; flood it with thin glue and bind it"
    ),
    "hairline": FlawKind(0.6, 0.3, False, "flood it with thin glue"),
    "rot or bruise": FlawKind(1.0, 1.0, False, "cut below it or leave it off the bow"),
    "insect track": FlawKind(0.7, 0.4, False, "chase the back below it"),
    "ring damage": FlawKind(1.0, 0.1, False, "chase the back to the next sound ring"),
    "dip": FlawKind(0.35, 0.15, False, "follow it evenly on the belly"),
    "hump": FlawKind(0.3, 0.15, False, "follow it evenly on the belly"),
    "node": FlawKind(
        0.3, 0.15, False, "ease it down as full draw nears; a splinter lifts there first"
    ),
}


@dataclass(frozen=True)
class Flaw:
    """One flaw on a stave, in m.

    Attributes:
        off: its middle from the centre line (m).
        length: along the stave (m).
        width: across it (m).
        kind: a key of FLAWS.
        at: its middle, from the stave's left end.
        depth: into the wood from its face.
    """

    kind: str
    at: float
    off: float
    length: float
    width: float
    depth: float
    face: str = "back"


@dataclass(frozen=True)
class Stave:
    """A stave; lengths in m.

    Attributes:
        width: of its back (m).
        at: places of the measured sections, increasing from 0 to the length.
        crown: radius of the back there; infinite where it is flat.
        side_at, side: natural profile seen from the side, towards the belly, off a straight line
            between the ends.
        face_at, face: the same seen from the back, towards the upper edge.
        twist_at, twist: how far the stave has turned about its length, against its left end (rad).
        sapwood: its depth below the back, or None.
        drift: sideways drift of the grain over one metre.
        cut: what was sliced off, or is lost to end checks, at left and right end.
        sawn: its sides are straight and square as they are.
    """

    length: float
    at: Floats
    width: Floats
    depth: Floats
    crown: Floats
    side_at: Floats = field(default_factory=lambda: np.array([0.0, 1.0]))
    side: Floats = field(default_factory=lambda: np.zeros(2))
    face_at: Floats = field(default_factory=lambda: np.array([0.0, 1.0]))
    face: Floats = field(default_factory=lambda: np.zeros(2))
    twist_at: Floats = field(default_factory=lambda: np.array([0.0, 1.0]))
    twist: Floats = field(default_factory=lambda: np.zeros(2))
    sapwood: float | None = None
    drift: float = 0.0
    cut: tuple[float, float] = (0.0, 0.0)
    flaws: tuple[Flaw, ...] = ()
    sawn: bool = False

    @property
    def usable(self) -> tuple[float, float]:
        """Where sound wood begins and ends: what was cut off and end checks taken away."""
        low, high = self.cut[0], self.length - self.cut[1]
        for flaw in self.flaws:
            if flaw.kind == "end check":
                if flaw.at < self.length / 2:
                    low = max(low, flaw.at + flaw.length / 2)
                else:
                    high = min(high, flaw.at - flaw.length / 2)
        return low, high


def checked(stave: Stave) -> Stave:
    """Return the stave, or refuse what is impossible.

    Raises:
        DescriptionError: names the figure, such as ``flaws[2].at``.
    """
    if not (np.isfinite(stave.length) and stave.length > 0):
        raise DescriptionError("The length must be above zero.", "length")
    for name in ("width", "depth", "crown"):
        values = getattr(stave, name)
        if values.shape != stave.at.shape or np.any(np.isnan(values)) or np.any(values <= 0):
            raise DescriptionError("Give a figure above zero at every place.", name)
    if np.any(np.diff(stave.at) <= 0) or stave.at[0] < 0 or stave.at[-1] > stave.length + 1e-9:
        raise DescriptionError("Places must increase and lie on the stave.", "at")
    for number, flaw in enumerate(stave.flaws):
        where = f"flaws[{number}]"
        if flaw.kind not in FLAWS:
            raise DescriptionError(f"Choose one of {', '.join(FLAWS)}.", f"{where}.kind")
        if flaw.face not in FACES:
            raise DescriptionError(f"Choose one of {', '.join(FACES)}.", f"{where}.face")
        for name in ("length", "width", "depth"):
            if not (np.isfinite(getattr(flaw, name)) and getattr(flaw, name) > 0):
                raise DescriptionError("This must be above zero.", f"{where}.{name}")
        if not 0 <= flaw.at <= stave.length:
            raise DescriptionError("This flaw lies off the stave.", f"{where}.at")
        half = 0.5 * float(np.interp(flaw.at, stave.at, stave.width))
        if not abs(flaw.off) <= half + 1e-9:
            raise DescriptionError("This flaw lies beyond the stave's edge.", f"{where}.off")
    low, high = stave.usable
    if high <= low:
        raise DescriptionError("End checks and what was cut off leave nothing of the stave.", "cut")
    return stave


def run_out(drift: float, over: float) -> tuple[float, float]:
    """Slope of the grain on a board and the share of its bending strength that is left.

    Hankinson's formula with strength across the grain 7 % of that along it and the exponent 1.75
    that the Wood Handbook (2021, equation 5-2 and table 5-11) gives for the modulus of rupture.

    Args:
        drift: how far the grain moves to the side (m).
        over: over what length (m).

    Returns:
        Angle (rad) and share, 0 to 1.

    Raises:
        DescriptionError: no length, or a drift that is not a number.
    """
    if not (np.isfinite(over) and over > 0 and np.isfinite(drift)):
        raise DescriptionError("Give how far the grain drifts, and over what length.", "over")
    angle = math.atan2(abs(drift), over)
    share = 0.07 / (math.sin(angle) ** 1.75 + 0.07 * math.cos(angle) ** 1.75)
    return angle, min(1.0, share)


@dataclass(frozen=True)
class BendTest:
    """Modulus (Pa) and density (kg/m³) of a strip, each with one standard error; density None when
    not weighed.

    Attributes:
        modulus: (Pa), or None.
        modulus_error: one standard error (Pa).
        density_error: one standard error (kg/m³).
    """

    modulus: float
    modulus_error: float
    density: float | None
    density_error: float | None


def bend_test(
    span: float,
    load: float,
    sag: float,
    width: float,
    depth: float,
    length: float | None = None,
    mass: float | None = None,
) -> BendTest:
    """Modulus of a strip laid across two supports and loaded in its middle.

    ``E = F ℓ³ / (4 w t³ δ)`` (Gere and Goodno 2012, appendix H). The errors are those of a careful
    reading: sag to 0.25 mm, width and depth to 0.1 mm, span to 1 mm, load to 1 %; mass to 1 g.

    Args:
        span: between the supports (m).
        load: in the middle (N).
        sag: of the middle under it (m).
        width, depth: of the strip (m).
        length, mass: of the whole strip (m, kg), for the density.

    Raises:
        DescriptionError: a figure is not above zero, the strip too short and deep for bending
            alone, or the sag too large for the formula.
    """
    for name, value in (
        ("span", span),
        ("load", load),
        ("sag", sag),
        ("width", width),
        ("depth", depth),
    ):
        if not (np.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", name)
    if span < 14 * depth:
        raise DescriptionError(
            "Lay the strip wider: the span should be fourteen times its depth or more.", "span"
        )
    if sag > 0.1 * span:
        raise DescriptionError(
            "So deep a sag is no longer in proportion to the load; hang less on it.", "sag"
        )
    modulus = load * span**3 / (4 * width * depth**3 * sag)
    parts = (3 * 0.001 / span, 0.01, 0.00025 / sag, 0.0001 / width, 3 * 0.0001 / depth)
    error = modulus * math.sqrt(sum(p**2 for p in parts))
    if not 5e8 < modulus < 1e11:
        raise DescriptionError(
            "No wood, bamboo or glass is so soft or so stiff; check the units of load and sag.",
            "load",
        )
    if length is None or mass is None:
        return BendTest(modulus, error, None, None)
    for name, value in (("length", length), ("mass", mass)):
        if not (np.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", name)
    density = mass / (length * width * depth)
    if not 80 < density < 3000:
        raise DescriptionError(
            "No such stock is so light or so heavy; check the units of mass and length.", "mass"
        )
    spread = density * math.sqrt(
        (0.001 / mass) ** 2 + (0.0001 / width) ** 2 + (0.0001 / depth) ** 2 + (0.001 / length) ** 2
    )
    return BendTest(modulus, error, density, spread)
