"""What one bow's records show of the figures that a shop learns (:mod:`bowyery.record.learned`)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.limb_grid import grid
from bowyery.design.alterations import at_stations, reflexed
from bowyery.errors import BowyeryError
from bowyery.mechanics.dynamics import loose, masses_for
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.shot import HELD, tired
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.record.proof import implied
from bowyery.tiller.bench import Workpiece
from bowyery.tiller.changes import Pass
from bowyery.tiller.kinds import READINGS, Reading
from bowyery.tiller.log import Check, History, Lie

CALIPER = 0.0002  # of one reading, with how the limb wanders between the marks (m)
CALIPER_ALIKE = 0.0001  # by which a caliper is off alike everywhere (m)
LEAST_MARKS = 3  # on each limb, to know how thick it is
STRAIGHT, UNSEEN = 0.02, 0.05  # of the weight: natural bend that was read, and that was not
STRINGS = {"full": 0.01, "low": 0.04, "long": 0.08}  # of the weight: what is not known of a string
LEAST_EXCESS = 0.004  # bend beyond its limit that says anything of what stays (m)
FOLLOW_READ = 0.003  # a string follow off a straight edge (m)
SPEED_READ = 0.015  # of a speed, with the weight that it was shot at
SHOT_OFF = 0.02  # by which the reckoned shot may be off, fingers and tune


def modulus_shown(piece: Workpiece, past: History) -> tuple[float, float] | None:
    """How stiff a bow's wood is against what its design reckons with: from weights, and from
    calipers at marks of both limbs with the same wood on.

    The weight of a bow goes with the modulus of its wood, whatever its shape.

    Args:
        piece: the bow as designed, of one layer.

    Returns:
        The log of its modulus over the design's and one deviation; None where no look has both, or
        where an act changed the bow before.
    """
    if any(len(limb.layers) > 1 for limb in piece.bow.limbs) or piece.bow.back_bow is not None:
        return None
    looks: list[Check] = []  # that show the same wood, the newest such that have both
    group: list[Check] = []
    for check in past.checks:
        if any(not isinstance(one, Pass) or one.face for one in check.changes):
            break
        group = [check] if check.changes else [*group, check]
        if _calipers(group) is not None and any(_weights(one) for one in group):
            looks = list(group)
    marks = _calipers(looks)
    if marks is None:
        return None
    number = looks[-1].number
    bow = _as_thick(piece, marks)
    bow, crook = _as_bent(bow, [one for one in past.lies if one.check < number])
    rows = []
    for check in looks:
        bows, on = check.bows(bow, piece.length), {one.key: one for one in check.strings}
        for r in _weights(check):
            try:
                told, rises = _pulls(bows[r.string], r.draw or 0.0)
            except BowyeryError:  # the string hangs at that draw
                continue
            error = READINGS["weight"].error(r, r.value, rises) / r.value
            rows.append((math.log(r.at_once / told), error, STRINGS[on[r.string].rung]))
    if not rows:
        return None
    value, own, string = np.array(rows).T
    total = own**-2
    thick = float(np.mean([one.value for one in marks]))
    caliper = 3 * math.hypot(CALIPER / math.sqrt(len(marks)), CALIPER_ALIKE) / thick
    errors = (float(total.sum() ** -0.5), float(string.min()), caliper, crook, 0.01)
    return float((value * total).sum() / total.sum()), math.hypot(*errors)


def _weights(check: Check) -> list[Reading]:
    return [r for r in check.readings if r.kind == "weight" and r.draw is not None]


def _calipers(looks: Sequence[Check]) -> list[Reading] | None:
    """Thicknesses of both limbs, at enough marks; None where there are not. Of one mark the newest
    counts.
    """
    found = {
        (r.limb, round(r.at, 4)): r
        for check in looks
        for r in check.readings
        if r.kind == "thickness" and r.at is not None
    }
    enough = all(sum(limb == side for limb, _ in found) >= LEAST_MARKS for side in SIDES)
    return list(found.values()) if enough else None


def _as_thick(piece: Workpiece, marks: Sequence[Reading]) -> Bow:
    """The bow as thick as it was measured, by the design's taper between the marks."""

    def limb(one: Limb, side: str) -> Limb:
        mine = sorted((r.at or 0.0, r.value) for r in marks if r.limb == side)
        at, size = np.array(mine).T
        over = size / np.interp(at, one.at, one.thickness)
        finer = at_stations(one, np.unique(np.concatenate([one.at, at[at < one.length]])))
        return replace(finer, thickness=finer.thickness * np.interp(finer.at, at, over))

    upper, lower = (limb(one, s) for one, s in zip(piece.bow.limbs, SIDES, strict=True))
    return replace(piece.bow, upper=upper, lower=lower)


def _as_bent(bow: Bow, lies: Sequence[Lie]) -> tuple[Bow, float]:
    """The bow with its tips where they lay last, and what stays unknown of its bend (share)."""
    tips = []
    for side, limb in zip(SIDES, bow.limbs, strict=True):
        end = limb.root[0] + limb.length
        mine = [o for o in lies if o.limb == side and (o.at is None or o.at > 0.93 * end)]
        if mine:
            tips.append(-mine[-1].across)
    if len(tips) < 2:
        return bow, UNSEEN
    still = np.zeros((2, 1))
    as_designed = -float(shapes(grid(bow), still, still).across[:, 0, -1].mean())
    return reflexed(bow, float(np.mean(tips)) - as_designed), STRAIGHT


def _pulls(bow: Bow, at: float) -> tuple[float, float]:
    """Weight of a bow at a draw (N), and how it rises there (N/m)."""
    limbs = grid(bow)
    two = draw(limbs, bow.hold, brace_bow(limbs, bow), np.array([at - 0.005, at])).weight
    return float(two[1]), float(two[1] - two[0]) / 0.005


def share_kept(beyond: float, taken: float) -> tuple[float, float] | None:
    """What share of the bend beyond its limit a bow kept.

    Args:
        beyond: how far its tips would stand if all of it had stayed (m).
        taken: how far they do, without what creeps below the limit (m).

    Returns:
        The share and one deviation; None of a bow bent hardly beyond its limit.
    """
    if beyond < LEAST_EXCESS:
        return None
    return taken / beyond, math.hypot(FOLLOW_READ / beyond, 0.02)


def energy_kept(bow: Bow, at: float, arrow: float, speed: float) -> tuple[float, float] | None:
    """What share of its energy a bow's limbs kept, by the speed of an arrow.

    Args:
        bow: at the weight that it pulls, with the string that was on.
        at: full draw (m).
        arrow: its mass (kg).
        speed: as it was read (m/s).

    Returns:
        The share and one deviation; None where no share explains the speed.

    Raises:
        BowyeryError: what the statics raise.
    """
    bow = tired(bow, at)
    masses = masses_for(bow, 12)

    def sent(loss: float) -> float:
        return loose(bow, at, arrow, masses, steps=60, watch=False, loss=loss, held=HELD).speed

    kept = implied(sent, speed)
    if kept is None:
        return None
    # speed goes twice into the energy, as it was read and as the reckoned shot may be off
    return kept, 2 * (1 - kept) * math.hypot(SPEED_READ, SHOT_OFF)


@dataclass(frozen=True)
class Lost:
    """What a bow lost of its weight on the way: shares with one deviation each, or None.

    Attributes:
        finishing: by edges, sanding and coats.
        shooting: while it was shot in.
    """

    finishing: tuple[float, float] | None = None
    shooting: tuple[float, float] | None = None


def losses_shown(
    tillered: tuple[float, float] | None,
    finished: float | None,
    shot_in: float | None,
    usual: tuple[tuple[float, float], tuple[float, float]],
) -> Lost:
    """What finishing and shooting in took, from weights at full draw.

    Where only what came before both and after both is known, each is told as far as the usual share
    of the other allows.

    Args:
        tillered: forecast of the weight at full draw when the tiller was left, and one deviation
            (N); None where it was never known.
        finished: read after finishing, before it was shot in (N), or None.
        shot_in: read once it was shot in (N), or None.
        usual: finishing's and shooting's usual share, each with one deviation.

    Returns:
        The shares.
    """
    read = 0.012  # a scale, and the draw it was read at
    finishing = shooting = None
    if tillered is not None and finished is not None:
        finishing = 1 - finished / tillered[0], math.hypot(tillered[1] / tillered[0], read)
    if finished is not None and shot_in is not None:
        shooting = 1 - shot_in / finished, read
    if tillered is not None and finished is None and shot_in is not None:
        both = 1 - shot_in / tillered[0]
        error = math.hypot(tillered[1] / tillered[0], read)
        finishing = both - usual[1][0], math.hypot(error, usual[1][1])
        shooting = both - usual[0][0], math.hypot(error, usual[0][1])
    return Lost(finishing, shooting)
