"""What the unstrung limbs tell: their natural bend, and the set that has come into them since.

A profile is how far the unstrung limb's middle stands from the line that runs out of its root along
the handle, at some places. Its curvature is found as the smoothest one that meets the profile
within the error of the rule: a Gaussian prior for curvature, and the offsets as its double integral
(Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006, section 2.2 and 9.4). Set is
the difference of two profiles of one limb.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.bow.limb_grid import LimbGrid, from_zero
from bowyery.errors import EstimateError
from bowyery.tiller.estimate import NINETY, PLACES, between_places

PROFILE_ERROR = 0.0005  # a rule against a straight edge (m)
CROOK_SPREAD = 0.15  # of natural curvature about the design's (1/m)
SET_SPREAD = 0.10  # of curvature kept from bending (1/m)
REACH = 0.2  # over which natural curvature is forgotten (m)


@dataclass(frozen=True)
class Profile:
    """An unstrung limb: places from its root (m) and how far towards the belly it stands there
    (m).

    Attributes:
        at: place (m).
        across: towards the belly (m).
    """

    limb: str
    at: Floats
    across: Floats


@dataclass(frozen=True)
class SetFound:
    """Set of one limb between two profiles.

    Attributes:
        tip: how much nearer the belly the tip lies than before (m).
        low, high: its range (90 %).
        start, end: the third of the limb that gave most of it, from the root (m).
        share: that third's part of it, 0 when the tip has not moved by more than its error.
        curvature: kept at the places, ``(PLACES,)`` (1/m).
    """

    limb: str
    tip: float
    low: float
    high: float
    start: float
    end: float
    share: float
    curvature: Floats


def _double_integral(length: float, at: Floats, cells: int) -> Floats:
    """Offsets at places from curvature at the places, ``(places, PLACES)``."""
    fine = np.linspace(0.0, length, cells + 1)
    basis = between_places(np.eye(PLACES), fine / length)  # places, nodes
    step = length / cells
    slope = np.concatenate(
        [np.zeros((PLACES, 1)), np.cumsum(0.5 * (basis[:, 1:] + basis[:, :-1]) * step, 1)], 1
    )
    offset = np.concatenate(
        [np.zeros((PLACES, 1)), np.cumsum(0.5 * (slope[:, 1:] + slope[:, :-1]) * step, 1)], 1
    )
    return np.stack([np.interp(at, fine, row) for row in offset], 1)


def _fitted(
    length: float, at: Floats, across: Floats, spread: float, error: float
) -> tuple[Floats, Floats]:
    """Curvature at the places that meets offsets, and its covariance."""
    places = np.linspace(0.0, length, PLACES)
    prior = spread**2 * (np.exp(-np.abs(places[:, None] - places) / REACH) + 0.3)
    rows = _double_integral(length, at, 240)
    gain = prior @ rows.T @ np.linalg.inv(rows @ prior @ rows.T + error**2 * np.eye(at.size))
    return gain @ across, prior - gain @ rows @ prior


def _checked(profile: Profile, length: float) -> Profile:
    if profile.limb not in SIDES:
        raise EstimateError("Say which limb the profile is of, upper or lower.")
    if profile.at.size < 2 or profile.at.shape != profile.across.shape:
        raise EstimateError("Give the profile at two places or more.")
    if not (np.all(np.isfinite(profile.at)) and np.all(np.isfinite(profile.across))):
        raise EstimateError("A profile is of numbers.")
    if np.any(profile.at < 0) or np.any(profile.at > length * 1.02):
        raise EstimateError("A place of the profile lies off the limb.")
    return profile


def with_profiles(
    limbs: LimbGrid, profiles: Sequence[Profile], error: float = PROFILE_ERROR
) -> LimbGrid:
    """The design's grid with the natural bend that was measured on the unstrung limbs; others keep
    the design's.

    Args:
        error: of the rule (m).

    Raises:
        EstimateError: a profile of nothing, or with places off the limb.
    """
    curvature = np.array(np.broadcast_to(limbs.curvature, (2, limbs.batch, limbs.cells)))
    for profile in profiles:
        side = SIDES.index(profile.limb) if profile.limb in SIDES else 0
        length = float(limbs.length[side, 0])
        one = _checked(profile, length)
        step = limbs.step[side, 0]
        nodes = from_zero(step)
        turned = from_zero(limbs.curvature[side, 0] * step)
        planned = from_zero(0.5 * (turned[1:] + turned[:-1]) * step)
        beyond, _ = _fitted(
            length, one.at, one.across - np.interp(one.at, nodes, planned), CROOK_SPREAD, error
        )
        fine = between_places(beyond, nodes / length)
        curvature[side] += 0.5 * (fine[1:] + fine[:-1])
    return replace(limbs, curvature=curvature)


def set_between(
    limbs: LimbGrid, before: Profile, after: Profile, error: float = PROFILE_ERROR
) -> SetFound:
    """What set has come into a limb between two profiles of it.

    Args:
        before, after: profiles of one limb; the first is read off between its places where they
            differ.
        error: of the rule (m).

    Raises:
        EstimateError: the profiles are of two limbs, or impossible.
    """
    if before.limb != after.limb:
        raise EstimateError("Compare two profiles of one limb.")
    side = SIDES.index(_checked(after, np.inf).limb)
    length = float(limbs.length[side, 0])
    _checked(before, length), _checked(after, length)
    moved = after.across - np.interp(
        after.at, np.append(0.0, before.at), np.append(0.0, before.across)
    )
    kept, covariance = _fitted(length, after.at, moved, SET_SPREAD, 1.4 * error)
    lever = _double_integral(length, np.array([length]), 240)[0]
    tip, spread = float(lever @ kept), float(np.sqrt(lever @ covariance @ lever))
    thirds = [slice(0, 4), slice(4, 8), slice(8, PLACES)]
    parts = np.array([float(lever[t] @ kept[t]) for t in thirds])
    top = int(np.abs(parts).argmax())
    sure = abs(tip) > NINETY * spread
    share = float(parts[top] / tip) if sure and tip else 0.0
    return SetFound(
        after.limb,
        tip,
        tip - NINETY * spread,
        tip + NINETY * spread,
        top * length / 3,
        (top + 1) * length / 3,
        share,
        kept,
    )


@dataclass(frozen=True)
class Pull:
    """A pull that was made: its draw (m) and the greatest surface strain it should have brought, by
    the estimate then.
    """

    draw: float
    strain: float
    name: str = ""


def from_which_pull(pulls: Sequence[Pull], elastic: float) -> Pull | None:
    """The pull that most likely brought a set: the first of those strained furthest past the
    elastic limit, if any was.

    Args:
        pulls: in order, all since the first of the two profiles.
        elastic: surface strain above which the wood keeps a set.

    Returns:
        The pull, or None.
    """
    worst: Pull | None = None
    for one in pulls:
        if one.strain > elastic and (worst is None or one.strain > 1.02 * worst.strain):
            worst = one
    return worst
