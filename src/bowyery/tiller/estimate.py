"""How stiff each limb is, from what was read: a maximum a posteriori estimate with its spread.

Unknown are two numbers, the logarithms of each limb's stiffness against what was expected of it. Before any
reading they are believed to lie within about a third of the expectation together, and within about 15 % of
each other (clear wood varies by some 12 to 20 % in modulus: Wood Handbook 2021, table 5-6). The spread comes
from the curvature of the posterior at its top (Laplace's approximation; Gelman et al., Bayesian Data
Analysis, 2013, chapter 4). A reading more than 3.5 of its errors off is named; Huber's loss (Robust
Statistics, 1981) keeps it from pulling far.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.optimize import least_squares

from bowyery.bow import Bow, LimbGrid
from bowyery.section import Floats
from bowyery.tiller.readings import (
    DRAW_ERROR,
    GAP_ERROR,
    TIP_ERROR,
    WEIGHT_ERROR,
    WEIGHT_ERROR_SHARE,
    Model,
    Reading,
    model,
)

COMMON_SPREAD = 0.35
RATIO_SPREAD = 0.15
RATIOS = np.linspace(-0.5, 0.5, 9)
WILD = 3.5
SOFT = 1.5


@dataclass(frozen=True)
class Estimate:
    """What the readings say.

    Attributes:
        common: log of the mean stiffness against the expectation.
        ratio: log of upper over lower stiffness against the expectation.
        covariance: of (common, ratio), ``(2, 2)``.
        predicted: what the fitted model reads, one per reading.
        wild: indices of readings that do not fit the others.
    """

    common: float
    ratio: float
    covariance: Floats
    predicted: Floats
    wild: tuple[int, ...]

    @property
    def upper(self) -> float:
        """Stiffness of the upper limb as a multiple of the expectation."""
        return float(np.exp(self.common + 0.5 * self.ratio))

    @property
    def lower(self) -> float:
        """Stiffness of the lower limb as a multiple of the expectation."""
        return float(np.exp(self.common - 0.5 * self.ratio))

    @property
    def ratio_spread(self) -> float:
        """Standard deviation of the log ratio."""
        return float(np.sqrt(self.covariance[1, 1]))

    @property
    def common_spread(self) -> float:
        """Standard deviation of the log mean stiffness."""
        return float(np.sqrt(self.covariance[0, 0]))


def _errors(readings: tuple[Reading, ...], values: Floats, slopes: Floats) -> Floats:
    errors = np.empty(len(readings))
    for i, reading in enumerate(readings):
        if reading.kind == "weight":
            scale = np.hypot(WEIGHT_ERROR, WEIGHT_ERROR_SHARE * reading.value)
            errors[i] = np.hypot(scale, slopes[i] * DRAW_ERROR)
        else:
            errors[i] = GAP_ERROR if reading.kind == "gap" else TIP_ERROR
    return errors


def estimate(limbs: LimbGrid, bow: Bow, readings: tuple[Reading, ...], expected: tuple[float, float] = (0.0, 0.0)) -> Estimate:
    """Scale each limb's stiffness to the readings of one check.

    Args:
        limbs: grid of the expected bow.
        bow: for its hold and string as it was on the tree.
        readings: of one check, all with the same string.
        expected: prior mean of (common, ratio).

    Raises:
        EstimateError: no readings, or readings that cannot be used.
        SolveError: the bow cannot be braced or drawn as the readings say.
    """
    table: Model = model(limbs, bow, readings, RATIOS)
    curve, slope = CubicSpline(RATIOS, table.values), CubicSpline(RATIOS, table.slopes)
    is_weight = np.array([r.kind == "weight" for r in readings])
    measured = np.array([r.value for r in readings])

    def predict(x: Floats) -> tuple[Floats, Floats]:
        ratio = float(np.clip(x[1], RATIOS[0], RATIOS[-1]))
        scale = np.where(is_weight, np.exp(x[0]), 1.0)
        return curve(ratio) * scale, slope(ratio) * scale

    def prior(x: Floats) -> list[float]:
        return [(x[0] - expected[0]) / COMMON_SPREAD, (x[1] - expected[1]) / RATIO_SPREAD]

    def residuals(x: Floats) -> Floats:
        values, slopes = predict(x)
        off = (measured - values) / _errors(readings, values, slopes)
        # Huber's loss, smoothed: a reading many errors off pulls with its distance, no more with its square
        soft = np.sign(off) * SOFT * np.sqrt(2 * (np.sqrt(1 + (off / SOFT) ** 2) - 1))
        return np.concatenate([soft, prior(x)])

    fit = least_squares(residuals, np.array(expected), x_scale=[COMMON_SPREAD, RATIO_SPREAD])
    values, slopes = predict(fit.x)
    off = (measured - values) / _errors(readings, values, slopes)
    covariance = np.linalg.inv(fit.jac.T @ fit.jac)
    wild = tuple(int(i) for i in np.flatnonzero(np.abs(off) > WILD))
    return Estimate(float(fit.x[0]), float(fit.x[1]), covariance, values, wild)
