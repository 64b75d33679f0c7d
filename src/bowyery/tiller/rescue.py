"""What could still be done with a bow that came out too light or was damaged, side by side.

The bow as estimated is taken as a bow of the design's wood whose thickness stands where the
estimate puts it, and is then shortened, heated, backed, patched or left
(:mod:`bowyery.design.alterations` says what each is reckoned as).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.bow.thinning import thinning
from bowyery.design.alterations import Outcome, backed, heated, outcomes, patched, shortened
from bowyery.errors import BowyeryError
from bowyery.tiller.estimate import CROOKS, PLACES, Estimate
from bowyery.wood.materials import Material


def as_estimated(bow: Bow, now: Estimate) -> Bow:
    """The design's bow with the thickness and the natural bend that the estimate stands for."""
    limbs = []
    for side, limb in enumerate(as_thick(bow, now.field).limbs):
        own = np.linspace(0.0, limb.length, CROOKS)
        at = np.unique(np.concatenate([np.clip(limb.unstrung_at, 0.0, limb.length), own]))
        bend = np.interp(at, limb.unstrung_at, limb.unstrung) if limb.unstrung_at.size else 0 * at
        more = np.interp(at, own, now.crook[side])
        limbs.append(replace(limb, unstrung_at=at, unstrung=bend + more))
    return replace(bow, upper=limbs[0], lower=limbs[1])


def as_thick(bow: Bow, field: Floats) -> Bow:
    """A bow with the thickness that log stiffness against it stands for.

    Args:
        field: log stiffness against it at the places of the estimate, ``(2, PLACES)``.
    """
    limbs, cut = [], grid(bow)
    for side, limb in enumerate(bow.limbs):
        shares = (limb.at + float(cut.grip[side, 0])) / float(cut.length[side, 0])
        law = thinning(bow, cut, shares, rest=True)
        logs = np.interp(shares, np.linspace(0.0, 1.0, PLACES), field[side])
        limbs.append(replace(limb, thickness=law.standing(np.stack([logs, logs]))[side]))
    return replace(bow, upper=limbs[0], lower=limbs[1])


def cut_for(bow: Bow, now: Estimate, weight: float, draw: float) -> float | None:
    """How much to cut off each end for a weight at full draw.

    Args:
        bow: the bow as it stands, with the reference of its estimate.
        weight: that is wanted (N).
        draw: full draw (m).

    Returns:
        The length (m); None where no cut that leaves a bow gives the weight, or none is needed.
    """
    whole = as_estimated(bow, now)
    most = 0.3 * min(limb.length for limb in bow.limbs)
    cuts = np.linspace(0.0, most, 7)
    rows = outcomes([(f"{cut:.4f}", shortened(whole, float(cut))) for cut in cuts], draw)
    known = [(float(c), r.weight) for c, r in zip(cuts, rows, strict=True) if r.weight is not None]
    if len(known) < 2 or not known[0][1] < weight <= known[-1][1]:
        return None
    return float(np.interp(weight, [w for _, w in known], [c for c, _ in known]))


SHORTER = (0.7, 0.85)  # of the full draw: where a bow's use is looked at as well


def bears(ways: Sequence[Outcome], draw: float) -> list[float | None]:
    """The draw at which the layers of several bows bear what lasts.

    Args:
        draw: full draw (m).

    Returns:
        For each its draw, at most the full one (m); None where it could not be solved.
    """
    uses = [[] if one.uses is None else [(draw, one.uses.lasts)] for one in ways]
    solved = [k for k, points in enumerate(uses) if points]
    for share in SHORTER:
        rows = outcomes([(ways[k].what, ways[k].bow) for k in solved], share * draw)
        for k, row in zip(solved, rows, strict=True):
            uses[k] += [] if row.uses is None else [(share * draw, row.uses.lasts)]
    found = list[float | None]()
    for points in uses:
        draws, worn = np.array(sorted(points)).reshape(-1, 2).T
        rising = np.maximum.accumulate(worn)
        found.append(float(np.interp(1.0, rising, draws)) if points else None)
    return found


def rescues(
    bow: Bow,
    now: Estimate,
    draw: float,
    cuts: Sequence[float],
    backing: tuple[Material, float] | None = None,
    patch: tuple[str, float, float, float] | None = None,
) -> tuple[tuple[str, float, Outcome], ...]:
    """Predicted results side by side: what is done, by how much (m), and what it comes to at full
    draw.

    Args:
        draw: full draw (m).
        cuts: lengths to take off each end (m).
        backing: a material and the thickness of its dried layer (m), to be tried on the back.
        patch: limb, start, end (from the root) and thickness (m), to be tried on a weak place.

    Returns:
        Rows of accept, shorten, heat, back and patch; one that cannot be solved says why.
    """
    whole = as_estimated(bow, now)
    ways: list[tuple[str, float, Callable[[], Bow]]] = [("accept", 0.0, lambda: whole)]
    ways += [("shorten", cut, partial(shortened, whole, cut)) for cut in cuts]
    ways.append(("heat", 0.0, partial(heated, whole)))
    if backing is not None:
        ways.append(("back", backing[1], partial(backed, whole, backing[0], backing[1])))
    if patch is not None:
        ways.append(("patch", patch[3], partial(patched, whole, *patch)))
    made: list[tuple[int, Bow]] = []
    rows: list[Outcome | None] = [None] * len(ways)
    for k, (name, _, make) in enumerate(ways):
        try:
            made.append((k, make()))
        except BowyeryError as error:
            rows[k] = Outcome(name, whole, trouble=getattr(error, "reason", str(error)))
    found = outcomes([(ways[k][0], one) for k, one in made], draw)
    for (k, _), outcome in zip(made, found, strict=True):
        rows[k] = outcome
    return tuple(
        (name, by, row) for (name, by, _), row in zip(ways, rows, strict=True) if row is not None
    )
