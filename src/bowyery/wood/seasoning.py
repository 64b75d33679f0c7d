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

    Source: Hailwood and Horrobin's two-hydrate equation with the constants of the Wood Handbook
    (2021), equation 4-5.
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
    return (
        18.0
        / w
        * (kh / (1 - kh) + (k1 * kh + 2 * k1 * k2 * kh**2) / (1 + k1 * kh + k1 * k2 * kh**2))
    )


@dataclass(frozen=True)
class Drying:
    """How a stave dries, from its weighings and meter readings.

    Attributes:
        moisture: now, as a fraction of dry mass.
        spread: one standard deviation of it.
        rate: of the exponential approach (1/day).
        final_mass: the mass it comes to in this air (kg); None when it was never weighed.
        ready_in: days until it is within the wanted moisture; 0 when it is.
        ready_range: days, early and late (90 %); late may be infinite.
        dry_mass: of the wood without water (kg); None when it was never weighed.
        steepest: greatest loss of moisture between two weighings or two meter readings, a day
            (fraction).
        curve_days: days, counted as they were given, for which the moisture is drawn.
        curve: its moisture there, ``(days,)``.
        low, high: ends of its range (90 %).
    """

    moisture: float
    spread: float
    rate: float
    final_mass: float | None
    ready_in: float
    ready_range: tuple[float, float]
    dry_mass: float | None
    steepest: float
    curve_days: np.ndarray
    curve: np.ndarray
    low: np.ndarray
    high: np.ndarray


# A stave that loses more than about a per cent of moisture a day above fibre saturation is apt to
# check: kiln schedules for thick hardwood hold it well below (Dry Kiln Operator's Manual, USDA
# Agriculture Handbook 188, 1991, chapter 7).
FAST = 0.01


def meter_error(moisture: np.ndarray) -> np.ndarray:
    """One standard error of a moisture meter's readings, as fractions of dry mass.

    A pin meter corrected for the wood is good to a per cent or so from 7 to 25 %. Above fibre
    saturation it only says "wet", and very dry wood hardly conducts (James 1988, Electric Moisture
    Meters for Wood, USDA FPL-GTR-6).
    """
    return np.asarray(
        0.012 + 0.35 * np.maximum(moisture - 0.25, 0) + 0.3 * np.maximum(0.07 - moisture, 0)
    )


def drying(
    days: Sequence[float],
    masses: Sequence[float],
    balance: float,
    wanted: float,
    today: float,
    meter_days: Sequence[float] = (),
    meter: Sequence[float] = (),
) -> Drying:
    """Fit the exponential approach to the balance and forecast the ready date.

    ``u(t) = u_air + (u_0 − u_air) exp(−r t)`` with the mass ``m = m_dry (1 + u)``: the usual
    first-order drying law of thin pieces. Where the readings are too few or too early to show where
    the mass will end, the rate is held near one to four months by a wide prior.

    Args:
        days: of each weighing, increasing.
        masses: of each weighing (kg).
        balance: equilibrium moisture of the air (fraction).
        wanted: moisture at which it may be worked (fraction); taken no lower than just above the
            balance.
        today: day for which to answer.
        meter_days: of each meter reading, increasing.
        meter: readings (fraction of dry mass).

    Raises:
        EstimateError: neither two weighings nor one meter reading, days out of order, or a figure
            that is not above zero.
    """
    t, m = np.asarray(days, float), np.asarray(masses, float)
    t_u, u = np.asarray(meter_days, float), np.asarray(meter, float)
    if t.size != m.size or t_u.size != u.size:
        raise EstimateError("Every weighing and every reading wants its day.")
    if t.size < 2 and not u.size:
        raise EstimateError(
            "Two weighings on different days, or one meter reading, are needed to see how the stave"
            " dries."
        )
    if np.any(np.diff(t) <= 0) or np.any(np.diff(t_u) <= 0):
        raise EstimateError("Weighings must be in order of their days, one a day at most.")
    if np.any(m <= 0) or not np.all(np.isfinite(m)):
        raise EstimateError("A weighing must be above zero.")
    if np.any(u <= 0) or not np.all(np.isfinite(u)):
        raise EstimateError("A meter reading must be above zero.")
    first = min([*t[:1], *t_u[:1]])
    since, since_u = t - first, t_u - first
    usual = (
        0.97 * m[-1] / (1 + balance) if m.size else 1.0
    )  # the dry mass, before anything is fitted
    noise = 0.003 * m[0] if m.size else 1.0

    def residuals(x: np.ndarray) -> np.ndarray:
        scale, weighed = x[2] * usual, _moisture(x[None], balance, since)[0]
        parts = [
            (scale * (1 + weighed) - m) / noise,
            (_moisture(x[None], balance, since_u)[0] - u) / meter_error(u),
        ]
        prior = [(x[1] - math.log(1 / 60)) / 0.7, (x[2] - 1) * 0.97 / 0.08]
        return np.concatenate([*parts, prior])

    start = m[0] / usual - 1 if m.size else u[0]
    fit = least_squares(residuals, [start, math.log(1 / 60), 1.0])
    covariance = np.linalg.inv(fit.jac.T @ fit.jac)
    draws = np.random.default_rng(1).multivariate_normal(fit.x, covariance, size=400)
    goal = max(wanted, balance + 0.005)
    now, ready = _moisture_and_wait(draws, balance, goal, today - first)
    best_now, best_ready = _moisture_and_wait(fit.x[None, :], balance, goal, today - first)
    early, late = np.percentile(ready, [5, 95])
    dry = float(fit.x[2] * usual) if m.size else None
    lost = -np.diff(m) / np.diff(t) / dry if dry else np.zeros(0)
    read = (-np.diff(u) - 1.5 * meter_error(u[1:])) / np.diff(
        t_u
    )  # no more than its error would make of it
    span = np.linspace(
        0.0, max(today - first, *since, *since_u) + min(best_ready[0], 400.0) + 20, 41
    )
    along = _moisture(draws, balance, span)
    return Drying(
        float(best_now[0]),
        float(np.std(now)),
        math.exp(fit.x[1]),
        None if dry is None else dry * (1 + balance),
        float(best_ready[0]),
        (float(min(early, best_ready[0])), float(max(late, best_ready[0]))),
        dry,
        float(max([0.0, *lost, *read])),
        first + span,
        _moisture(fit.x[None, :], balance, span)[0],
        *np.percentile(along, [5, 95], axis=0),
    )


def _moisture(x: np.ndarray, balance: float, days: np.ndarray) -> np.ndarray:
    """Moisture by parameters (at first, log of the rate, dry mass) and days, ``(parameters,
    days)``.
    """
    return np.asarray(balance + (x[:, :1] - balance) * np.exp(-np.exp(x[:, 1:2]) * days))


def _moisture_and_wait(
    x: np.ndarray, balance: float, goal: float, today: float
) -> tuple[np.ndarray, np.ndarray]:
    above = np.maximum(x[:, 0] - balance, 1e-9)
    wait = np.log(np.maximum(above / (goal - balance), 1e-9)) / np.exp(x[:, 1]) - today
    return _moisture(x, balance, np.array([today]))[:, 0], np.maximum(wait, 0.0)
