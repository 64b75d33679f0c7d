"""Moisture of wood: the balance the shop's air brings it to, and how far a stave has come."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from bowyery.errors import DescriptionError, EstimateError


def balance_moisture(celsius: float, humidity: float) -> float:
    """Equilibrium moisture content of wood in air.

    Args:
        celsius: air temperature (°C).
        humidity: relative humidity, 0 to 1.

    Returns:
        Moisture as a fraction of dry mass.

    Raises:
        DescriptionError: humidity outside 0 to 1, or a temperature outside −20 to 80 °C.

    Source: Hailwood and Horrobin's two-hydrate equation with the constants of the Wood Handbook (2021),
    equation 4-5.
    """
    if not 0 <= humidity <= 1:
        raise DescriptionError("Relative humidity goes from 0 to 100 %.")
    if not -20 <= celsius <= 80:
        raise DescriptionError("The air of a shop lies between −20 and 80 °C.")
    t, h = celsius, min(humidity, 0.99)
    w = 349 + 1.29 * t + 0.0135 * t**2
    k = 0.805 + 0.000736 * t - 0.00000273 * t**2
    k1 = 6.27 - 0.00938 * t - 0.000303 * t**2
    k2 = 1.91 + 0.0407 * t - 0.000293 * t**2
    kh = k * h
    return 18.0 / w * (kh / (1 - kh) + (k1 * kh + 2 * k1 * k2 * kh**2) / (1 + k1 * kh + k1 * k2 * kh**2))


@dataclass(frozen=True)
class Drying:
    """How a stave dries, from its weighings.

    Attributes:
        moisture: now, as a fraction of dry mass.
        spread: one standard deviation of it.
        rate: of the exponential approach (1/day).
        final_mass: the mass it comes to in this air (kg).
        ready_in: days until it is within the wanted moisture; 0 when it is.
        ready_range: days, early and late (90 %); late may be infinite.
        dry_mass: of the wood without water (kg).
        steepest: greatest loss of moisture between two weighings, a day (fraction).
        curve_days: days from the first weighing for which the moisture is drawn.
        curve: its moisture there, ``(days,)``.
        low, high: ends of its range (90 %).
    """

    moisture: float
    spread: float
    rate: float
    final_mass: float
    ready_in: float
    ready_range: tuple[float, float]
    dry_mass: float
    steepest: float
    curve_days: np.ndarray
    curve: np.ndarray
    low: np.ndarray
    high: np.ndarray


# A stave that loses more than about a per cent of moisture a day above fibre saturation is apt to check: kiln schedules
# for thick hardwood hold it well below (Dry Kiln Operator's Manual, USDA Agriculture Handbook 188, 1991, chapter 7).
FAST = 0.01


def drying(days: Sequence[float], masses: Sequence[float], balance: float, wanted: float, today: float) -> Drying:
    """Fit the exponential approach to the balance and forecast the ready date.

    ``m(t) = m_end + (m_0 − m_end) exp(−r t)``: the usual first-order drying law of thin pieces. Where the
    weighings are too few or too early to show where the mass will end, the rate is held near one to four
    months by a wide prior.

    Args:
        days: of each weighing, increasing.
        masses: of each weighing (kg).
        balance: equilibrium moisture of the air (fraction).
        wanted: moisture at which it may be worked (fraction); taken no lower than just above the balance.
        today: day for which to answer.

    Raises:
        EstimateError: fewer than two weighings, days out of order, or a mass that is not above zero.
    """
    t, m = np.asarray(days, float), np.asarray(masses, float)
    if t.size < 2 or t.size != m.size:
        raise EstimateError("Two weighings on different days are needed to see how fast the stave dries.")
    if np.any(np.diff(t) <= 0):
        raise EstimateError("Weighings must be in order of their days, one a day at most.")
    if np.any(m <= 0) or not np.all(np.isfinite(m)):
        raise EstimateError("A weighing must be above zero.")
    since = t - t[0]
    noise = 0.003 * m[0]

    def residuals(x: np.ndarray) -> np.ndarray:
        end, log_rate, start = x[0] * m[0], x[1], x[2] * m[0]
        model = end + (start - end) * np.exp(-math.exp(log_rate) * since)
        prior = [(log_rate - math.log(1 / 60)) / 0.7, (x[0] - 0.97 * m[-1] / m[0]) / 0.08]
        return np.concatenate([(model - m) / noise, prior])

    fit = least_squares(residuals, [0.97 * m[-1] / m[0], math.log(1 / 60), 1.0])
    covariance = np.linalg.inv(fit.jac.T @ fit.jac)
    draws = np.random.default_rng(1).multivariate_normal(fit.x, covariance, size=400)
    goal = max(wanted, balance + 0.005)
    now, ready = _moisture_and_wait(draws, balance, goal, today - t[0])
    best_now, best_ready = _moisture_and_wait(fit.x[None, :], balance, goal, today - t[0])
    early, late = np.percentile(ready, [5, 95])
    dry = float(fit.x[0] * m[0] / (1 + balance))
    lost = -np.diff(m) / np.diff(t) / dry
    span = np.linspace(0.0, max(today - t[0], since[-1]) + min(best_ready[0], 400.0) + 20, 41)
    along = _moisture(draws, balance, span)
    return Drying(
        float(best_now[0]),
        float(np.std(now)),
        math.exp(fit.x[1]),
        float(fit.x[0] * m[0]),
        float(best_ready[0]),
        (float(min(early, best_ready[0])), float(max(late, best_ready[0]))),
        dry,
        float(lost.max()),
        t[0] + span,
        _moisture(fit.x[None, :], balance, span)[0],
        *np.percentile(along, [5, 95], axis=0),
    )


def _moisture(x: np.ndarray, balance: float, days: np.ndarray) -> np.ndarray:
    """Moisture by parameters and days, ``(parameters, days)``."""
    end, rate, start = x[:, :1], np.exp(x[:, 1:2]), x[:, 2:3]
    return np.asarray((1 + balance) / end * (end + (start - end) * np.exp(-rate * days)) - 1)


def _moisture_and_wait(x: np.ndarray, balance: float, goal: float, today: float) -> tuple[np.ndarray, np.ndarray]:
    end, rate, start = x[:, 0], np.exp(x[:, 1]), x[:, 2]
    ratio = (1 + balance) / end

    def moisture(t: float) -> np.ndarray:
        return np.asarray(ratio * (end + (start - end) * np.exp(-rate * t)) - 1)

    above = np.maximum(moisture(0.0) - balance, 1e-9)
    wait = np.log(np.maximum(above / (goal - balance), 1e-9)) / rate - today
    return moisture(today), np.maximum(wait, 0.0)
