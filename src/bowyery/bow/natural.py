"""The natural line of a limb: reflex, deflex, bent tips, or points measured off a straight line.

All of it becomes unstrung curvature and the angle at which the limb leaves its root, as the statics
take them. An even reflex is one arc; a bent tip is an arc of its own over its length; points are
joined by a cubic spline (:func:`bowyery.bow.limb_grid.curvature_from_points`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.limb_grid import curvature_from_points
from bowyery.errors import DescriptionError

STEP = 0.0004  # over which an arc begins (m)
STEEPEST = math.radians(50)  # of a limb against its handle's line
MOST_TURN = math.radians(75)  # of a bent tip
SHARPEST = 0.03  # least radius of a bent tip (m)
CROOKED = 0.2  # and of a limb as it grew or was glued (m)
MOST_POINTS = 10


@dataclass(frozen=True)
class BentTip:
    """A tip bent to the back or to the belly, alike on both limbs.

    Attributes:
        length: of the bent part, along the limb to the nock (m).
        angle: that it turns by, to the back above zero (rad).
        static: it is stiff and does not open as the bow is drawn; else it works.
    """

    length: float
    angle: float
    static: bool = False


@dataclass(frozen=True)
class LimbLine:
    """Offsets of an unstrung limb from the line of its handle, at places from its root.

    Attributes:
        at: places as shares of the bending limb, increasing, the last at the nock.
        across: there, to the belly above zero (m).
    """

    at: tuple[float, ...]
    across: tuple[float, ...]


@dataclass(frozen=True)
class Natural:
    """Unstrung curvature of a limb.

    Attributes:
        at: places from the root (m), increasing.
        curvature: there (1/m), to the belly above zero.
        angle: of the root against the handle's line (rad), to the belly above zero.
    """

    at: Floats
    curvature: Floats
    angle: float

    def turns(self, places: Floats) -> Floats:
        """Turn within each cell between places (rad).

        Args:
            places: from the root, increasing, ``(places,)`` (m).

        Returns:
            The turns, ``(places - 1,)``.
        """
        steps = np.diff(self.at)
        middle = 0.5 * (self.curvature[1:] + self.curvature[:-1])
        whole = np.concatenate([[0.0], np.cumsum(middle * steps)])
        cell = np.clip(np.searchsorted(self.at, places, side="right") - 1, 0, steps.size - 1)
        into = places - self.at[cell]
        rise = (self.curvature[cell + 1] - self.curvature[cell]) / steps[cell]
        return np.diff(whole[cell] + into * (self.curvature[cell] + 0.5 * rise * into))


def checked_tip(tip: BentTip, limb: float) -> BentTip:
    """A bent tip as it is, if a limb can have it.

    Args:
        limb: bending length of the limb (m).

    Raises:
        DescriptionError: a tip that is none, too long, or bent too sharply.
    """
    if not (math.isfinite(tip.length) and math.isfinite(tip.angle) and tip.length > 0):
        raise DescriptionError("Say how long the bent tip is.", "tip_bent")
    if tip.length > 0.5 * limb:
        raise DescriptionError("The bent tip is longer than half of the limb.", "tip_bent")
    if abs(tip.angle) > MOST_TURN:
        raise DescriptionError("No tip is bent by more than 75°.", "tip_angle")
    if abs(tip.angle) > tip.length / SHARPEST:
        raise DescriptionError(
            "So short a tip is not bent so far: lengthen it, or bend it less.", "tip_angle"
        )
    return tip


def checked_line(line: LimbLine, limb: float) -> LimbLine:
    """A limb's line as it is, if a limb can lie so.

    Args:
        limb: bending length of the limb (m).

    Raises:
        DescriptionError: places out of order, or a limb that turns back on itself.
    """
    if not 2 <= len(line.at) == len(line.across) <= MOST_POINTS:
        raise DescriptionError("Give two to ten places along the limb.", "line")
    if not all(map(math.isfinite, (*line.at, *line.across))):
        raise DescriptionError("This is not a finite number.", "line")
    places = np.array([0.0, *line.at])
    if np.any(np.diff(places) < 0.02) or abs(places[-1] - 1) > 1e-6:
        raise DescriptionError(
            "The places follow one another from the fade outward, a hand's breadth apart, and the"
            " last is the nock.",
            "line",
        )
    slopes = np.diff([0.0, *line.across]) / (np.diff(places) * limb)
    if np.abs(slopes).max() > math.tan(STEEPEST):
        raise DescriptionError(
            "This line stands steeper than any limb: look whether a figure is mistyped.", "line"
        )
    natural = natural_line(limb, line=line)
    if np.abs(natural.curvature).max() * CROOKED > 1:
        raise DescriptionError(
            "Between these places the limb would be bent like a hook: look whether a figure is"
            " mistyped.",
            "line",
        )
    return line


def natural_line(
    limb: float, reflex: float = 0.0, tip: BentTip | None = None, line: LimbLine | None = None
) -> Natural:
    """The unstrung curvature of a limb.

    Args:
        limb: bending length (m).
        reflex: how far an evenly bent limb's tip lies to the back (m); not where a line is given.
        tip: a bent tip, which comes on top, or None.
        line: offsets at places, or None.

    Returns:
        Curvature and angle at the root.
    """
    if line is None:
        at, curvature, angle = np.array([0.0, limb]), np.full(2, -2 * reflex / limb**2), 0.0
    else:
        along = np.array([0.0, *line.at]) * limb
        at, curvature, angle = curvature_from_points(along, np.array([0.0, *line.across]))
        at = at * (limb / at[-1])
    if tip is None:
        return Natural(at, curvature, angle)
    foot = limb - tip.length
    places = np.unique(np.concatenate([at, [foot, min(foot + STEP, limb)]]))
    bent = np.interp(places, at, curvature)
    bent += np.where(places > foot + 0.5 * STEP, -tip.angle / (tip.length - 0.5 * STEP), 0.0)
    return Natural(places, bent, angle)
