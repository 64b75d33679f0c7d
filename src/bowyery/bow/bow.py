"""The nouns of a bow: limbs with their stations, string, hold; and the grids that the statics works
on.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.section import Layer, Shape

Side = Literal["upper", "lower"]
SIDES: tuple[Side, Side] = ("upper", "lower")
OUTWARD = (1.0, -1.0)  # each limb's outward axis against the handle axis
Support = Literal["hand", "rocking cradle", "clamp"]
LiesOn = Literal["belly", "axis"]
HeldBy = Literal["fingers", "sliding hook"]


def _straight() -> Floats:
    return np.zeros(2)


def _ends() -> Floats:
    return np.array([0.0, 1.0])


@dataclass(frozen=True)
class Limb:
    """One limb in its own frame: u outward from the bow's centre, y to the belly.

    Attributes:
        at: distance of the stations from the root, along the limb (m), increasing from 0 to the
            nock.
        width: at the stations (m).
        thickness: at the stations (m).
        layers: from the back; exactly one has thickness None, the rest of the depth.
        root: along and across position (m) and angle (rad, positive to the belly) of the root.
        unstrung_at: places of the unstrung curvature (m).
        unstrung: curvature there (1/m), positive to the belly.
    """

    at: Floats
    width: Floats
    thickness: Floats
    layers: tuple[Layer, ...]
    shape: Shape = field(default_factory=Shape)
    root: tuple[float, float, float] = (0.0, 0.0, 0.0)
    unstrung_at: Floats = field(default_factory=_ends)
    unstrung: Floats = field(default_factory=_straight)

    @property
    def length(self) -> float:
        """From root to string nock along the limb (m)."""
        return float(self.at[-1])


@dataclass(frozen=True)
class Hold:
    """How the bow is held and drawn.

    Attributes:
        support: hand and rocking cradle let the bow tilt about the pivot; a clamp does not.
        held_by: fingers keep one point of the string; a sliding hook evens the tension.
        pivot: along and across position of the deepest part of the grip (m).
        nock_offset: of the nocking point above the pivot, along the handle axis (m).
    """

    support: Support = "hand"
    held_by: HeldBy = "fingers"
    pivot: tuple[float, float] = (0.0, 0.0)
    nock_offset: float = 0.0


@dataclass(frozen=True)
class StringLine:
    """The string as a line: its mass (kg) with serving and wax, and its stretch stiffness EA
    (N).

    Attributes:
        mass: (kg).
        stretch_stiffness: EA (N).
        nock_depth: where it leaves the nock, as a share of the limb's depth from the back; None:
            half way down, or the neutral axis for a string that lies on it.
        lies_on: the belly, or the neutral axis as in textbooks, for comparison.
    """

    mass: float = 0.008
    stretch_stiffness: float = 30e3
    nock_depth: float | None = None
    lies_on: LiesOn = "belly"


@dataclass(frozen=True)
class Strung:
    """How a bow's string is made, for reading."""

    kind: str
    thread: str
    strands: int
    turns: int = 0


@dataclass(frozen=True)
class BackBow:
    """A second, shorter bow tied to the back at the grip, its ends tied to the limbs by cables.

    Attributes:
        limb: of the second bow, alike on both sides; its root's ``across`` is where it lies, on the
            back's side.
        tied_at: where the cable is tied to each limb of the main bow, from that limb's root along
            it (m).
        cable_tension: of each cable before the bow is strung (N).
        cable_stiffness: EA of the cable (N).
        slack: by how much each cable is longer than it would have to be to pull at all before the
            bow is strung (m); its tension is then none.
        count: of such limbs lying on one another, bound at the grip and at the cables, that slide
            on each other and share the cables; each of them bends alike.
    """

    limb: Limb
    tied_at: float
    cable_tension: float
    cable_stiffness: float = 60e3
    slack: float = 0.0
    count: int = 1


@dataclass(frozen=True)
class Asked:
    """What a bow was asked for: weight (N) at a draw to the pivot (m), and the fingers on its
    string.

    Attributes:
        weight: (N).
        draw: (m).
        gap: upper less lower gap at brace that is wanted (m), or None for what they ask for.
    """

    weight: float
    draw: float
    fingers: str = "one above, two below"
    gap: float | None = None


@dataclass(frozen=True)
class Bow:
    """A bow: two limbs, how it is held, and either a brace height or a string length (m).

    Attributes:
        brace_height, string_length: one of them (m).
        grip_stiffness: EI of a grip that bends (N·m²), from the pivot to both roots; None for a
            rigid one.
        arrow: mass of the arrow (kg), or None.
        back_bow: a second bow tied to the back, or None.
        draw: full draw, from nocking point to pivot (m), or None.
        wanted: what it was asked for, or None.
        strung: how its string is made, or None.
    """

    upper: Limb
    lower: Limb
    hold: Hold = field(default_factory=Hold)
    brace_height: float | None = None
    string_length: float | None = None
    name: str = ""
    grip_stiffness: float | None = None
    string: StringLine = field(default_factory=StringLine)
    arrow: float | None = None
    back_bow: BackBow | None = None
    draw: float | None = None
    notes: str = ""
    wanted: Asked | None = None
    strung: Strung | None = None

    @property
    def limbs(self) -> tuple[Limb, Limb]:
        """Upper and lower."""
        return self.upper, self.lower
