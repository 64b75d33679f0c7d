"""What the bow will weigh: now, after finishing, and after shooting in, each with its range."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import NotConvergedError
from bowyery.mechanics import statics
from bowyery.tiller.estimate import (
    BEND,
    CROOK,
    FIELD,
    NINETY,
    SLACK,
    STRING,
    UNKNOWN,
    Estimate,
    at_nodes,
    crooked,
    few_cells,
    stiffness_factors,
)

# How much the forecast at a draw not yet pulled may be off beyond what the bands say, per share of
# the draw to go.
REACH_SPREAD = 0.05
UNSURE = 0.45  # of the loss that set still brings, one deviation as a share of it
SCALE_OFF = 0.012  # by which a scale is wrong the same way every time, one deviation
_STEP = 0.03


LEAST_RISE = 0.02  # draws nearer than this tell nothing of how the weight rises (m)


@dataclass(frozen=True)
class Losses:
    """What finishing and shooting in take off the weight, as shares, with one standard deviation
    each.

    Makers speak of three to five pounds for rounding and sanding on a bow of middling weight, and
    of a few more while it is shot in; the shares here are set to that and are to be replaced by the
    shop's own.

    Attributes:
        finishing_spread, shooting_spread: one standard deviation, as a share.
    """

    finishing: float = 0.045
    finishing_spread: float = 0.015
    shooting: float = 0.04
    shooting_spread: float = 0.015


@dataclass(frozen=True)
class Band:
    """A middle figure with the ends of its 90 % range.

    Attributes:
        low, high: ends of the range (SI).
    """

    middle: float
    low: float
    high: float

    @property
    def ends(self) -> tuple[float, float, float]:
        """Low end, middle, high end."""
        return self.low, self.middle, self.high


@dataclass(frozen=True)
class BenchRule:
    """A rule of the bench: what it says of the weight at full draw (N), and how far off it is on
    this bow, as a share.
    """

    name: str
    weight: float
    off: float


@dataclass(frozen=True)
class Forecast:
    """Weight at full draw (N), and the curve: draws (m) with middle, low and high weight (N).

    Attributes:
        settled: once it has been to full draw, with the set that is still to come.
        final: and finished, and shot in.
        weights: at the draws (N).
    """

    now: Band
    settled: Band
    finished: Band
    final: Band
    draws: Floats
    weights: Floats
    low: Floats
    high: Floats

    def brought(self, times: float, unsure: float) -> Forecast:
        """The forecast with what acts that are still to come bring to the finished bow.

        Args:
            times: how many times as much it will pull.
            unsure: one deviation of that, as a share.
        """
        if times == 1.0 and not unsure:
            return self

        def later(band: Band) -> Band:
            wide = float(np.exp(np.hypot(np.log(band.high / band.middle), NINETY * unsure)))
            middle = band.middle * times
            return Band(middle, middle / wide, middle * wide)

        return replace(self, finished=later(self.finished), final=later(self.final))


def weight_gradient(
    limbs: LimbGrid, bow: Bow, estimate: Estimate, draw: float
) -> tuple[float, Floats]:
    """Weight at a draw (N) and its derivatives by all that is believed, ``(UNKNOWN,)`` (N): the log
    stiffness at the places, the natural bend, and the length of a string that hangs.

    Args:
        limbs: the grid, ``B`` bows, with the natural bend as estimated.
        bow: the bow, a slack string as long as estimated.
        draw: from nocking point to pivot (m).
    """
    few = few_cells(limbs)
    steps = np.concatenate([np.zeros((1, STRING)), _STEP * np.eye(STRING)])
    fields = estimate.field + steps[:, FIELD].reshape(-1, *estimate.field.shape)
    varied = few.stiffened(np.exp(np.moveaxis(at_nodes(fields, few), 0, 1)))
    varied = crooked(varied, CROOK * steps[:, BEND].reshape(-1, *estimate.crook.shape))

    def pulled(batch: LimbGrid, strung: Bow) -> Floats:
        braced = statics.brace_bow(batch, strung)
        return statics.draw(batch, strung.hold, braced, np.full(batch.batch, draw)).weight

    weight, slope = pulled(varied, bow), np.zeros(UNKNOWN)
    slope[:STRING] = (weight[1:] - weight[0]) / _STEP
    if bow.string_length is not None:
        shorter = replace(bow, string_length=bow.string_length - _STEP * SLACK)
        slope[STRING] = (weight[0] - pulled(varied.part(slice(0, 1)), shorter)[0]) / _STEP
    return float(weight[0]), slope


def forecast(
    limbs: LimbGrid,
    bow: Bow,
    estimate: Estimate,
    full_draw: float,
    last_draw: float,
    losses: Losses,
    to_come: Floats | None = None,
) -> Forecast:
    """Forecast the weight at full draw and the curve up to it.

    Args:
        bow: with the brace height the finished bow will have.
        estimate: of the limbs' stiffness, place by place.
        full_draw: (m).
        last_draw: furthest draw a weight was read at (m); beyond it the range widens.
        to_come: curvature that stays once it has been to full draw, ``(2, CROOKS)`` (1/m).

    Raises:
        SolveError: the bow cannot be braced or drawn so far.
    """
    now = limbs.stiffened(stiffness_factors(estimate, limbs))
    braced = statics.brace_bow(now, bow)
    start = float(braced.least_draw[0])
    # a hanging string pulls nothing at first: the curve starts a little beyond
    draws = np.linspace(start * (1.01 if braced.slack else 1 + 1e-9), full_draw, 24)
    try:
        drawn = statics.draw(now, bow.hold, braced, draws)
    except NotConvergedError:  # of a crooked bow the very first of the draw may not be found
        draws = np.linspace(1.04 * start, full_draw, draws.size)
        drawn = statics.draw(now, bow.hold, braced, draws)
    to_go = np.maximum(0.0, draws - max(last_draw, start)) / full_draw
    whole, slope = weight_gradient(limbs, bow, estimate, full_draw)
    known = float(np.sqrt(slope @ estimate.belief.covariance @ slope)) / whole
    spread = NINETY * np.hypot(np.hypot(known, SCALE_OFF), REACH_SPREAD * to_go)
    weight = drawn.weight
    middle = float(weight[-1])

    def band(keep: float, *extra: float) -> Band:
        wide = float(np.exp(np.linalg.norm([spread[-1], *(NINETY * one for one in extra)])))
        return Band(middle * keep, middle * keep / wide, middle * keep * wide)

    loss = 0.0
    if to_come is not None and to_come.any():
        loss = max(0.0, 1 - _pulls(crooked(now, to_come), bow, full_draw) / middle)
    settled = 1 - loss
    finished = settled * (1 - losses.finishing)
    final = finished * (1 - losses.shooting)
    return Forecast(
        band(1.0),
        band(settled, UNSURE * loss),
        band(finished, UNSURE * loss, losses.finishing_spread),
        band(final, UNSURE * loss, losses.finishing_spread, losses.shooting_spread),
        draws,
        weight,
        weight * np.exp(-spread),
        weight * np.exp(spread),
    )


def _pulls(limbs: LimbGrid, bow: Bow, draw: float) -> float:
    """What a bow pulls at a draw (N)."""
    braced = statics.brace_bow(limbs, bow)
    return float(statics.draw(limbs, bow.hold, braced, np.array([draw])).weight[0])


def bench_rules(
    outlook: Forecast, weighed: tuple[tuple[float, float], ...]
) -> tuple[BenchRule, ...]:
    """The straight-line rules of the bench from weights as read, beside the forecast.

    In proportion: the weight at full draw is to this one as the draws are. By the inch: it goes on
    rising as it did between the last two readings. Both are judged against what is forecast for
    this very bow.

    Args:
        weighed: draws (m) with the weights read there (N), by draw.
    """
    if not weighed:
        return ()
    full, end = float(outlook.draws[-1]), float(outlook.weights[-1])
    at, here = weighed[-1]
    rules = [("in proportion", here * full / at)]
    before = [row for row in weighed if at - row[0] > LEAST_RISE]
    if before:
        rise = (here - before[-1][1]) / (at - before[-1][0])
        rules.append(("by the inch", here + rise * (full - at)))
    return tuple(BenchRule(name, said, said / end - 1) for name, said in rules)
