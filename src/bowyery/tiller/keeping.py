"""What limbs keep of being bent: what has come already, and what is still to come before full draw.

It is the design's own law of set (:mod:`bowyery.mechanics.strain`), for the limbs as they are
estimated: a thicker place reaches its elastic limit at less bend, and what has stayed already does
not come twice.
"""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import thinning
from bowyery.errors import SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import SetShare, bend_limits, kept_curvature
from bowyery.tiller.estimate import CROOKS, PLACES, at_nodes, few_cells
from bowyery.tiller.target import weights_of


def kept(
    limbs: LimbGrid, bow: Bow, field: Floats, draw: float, share: SetShare, keeps: float = 1.0
) -> Floats:
    """Curvature that stays of being drawn so far, at the places of natural bend, ``(2, CROOKS)``
    (1/m).

    Args:
        limbs: with the natural bend as estimated.
        bow: with the string it is drawn on.
        field: log stiffness at the places, ``(2, PLACES)``.
        draw: from nocking point to pivot (m).
        share: of the excess bend that stays.
        keeps: how many times as much stays as of seasoned wood.
    """
    few = few_cells(limbs)
    now = few.stiffened(np.exp(at_nodes(field, few))[:, None])
    try:
        braced = statics.brace_bow(now, bow)
        if draw <= float(braced.least_draw[0]):
            return np.zeros((2, CROOKS))
        drawn = statics.draw(now, bow.hold, braced, np.array([draw]))
    except SolveError:
        return np.zeros((2, CROOKS))
    bent = shapes(now, drawn.tension, drawn.p)
    law = thinning(bow, few, np.linspace(0.0, 1.0, PLACES))
    thicker = at_nodes(law.standing(field) / law.depth, few)
    thin = bend_limits(bow, few).thicker(thicker)
    stays = keeps * kept_curvature(thin, bent, min(0.95, share.share))
    at = np.linspace(0.0, 1.0, CROOKS)
    return np.stack([np.interp(at, few.shares[k, 0], stays[k]) for k in (0, 1)])


def to_come(
    limbs: LimbGrid,
    bow: Bow,
    field: Floats,
    full_draw: float,
    stop_at: float,
    stayed: Floats,
    share: SetShare,
    keeps: float = 1.0,
) -> Floats:
    """Curvature that full draw will still leave, ``(2, CROOKS)`` (1/m). A bow that is far too heavy
    will be thinner by the time it comes there.

    Args:
        limbs, bow: as estimated, with the brace height it will have when it is finished.
        field: log stiffness at the places, ``(2, PLACES)``.
        full_draw: (m).
        stop_at: weight at full draw that it will be brought down to (N).
        stayed: what has stayed already, ``(2, CROOKS)`` (1/m).
        share: of the excess bend that stays.
        keeps: how many times as much stays as of seasoned wood.

    Raises:
        SolveError: the bow cannot be drawn so far.
    """
    pulls = float(weights_of(limbs, bow, field[None], full_draw)[0])
    then = field - np.log(max(1.0, pulls / stop_at))
    return np.maximum(0.0, kept(limbs, bow, then, full_draw, share, keeps) - stayed)
