"""Rest of chains of bars with ties between them: the least potential energy, by Newton's method
with its exact second derivatives, compiled.

Gere and Goodno, Mechanics of Materials (2012), chapter 9; Bathe, Finite Element Procedures (1996),
chapter 6.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from bowyery.arrays import Floats, Points, Whole
from bowyery.mechanics.compiled import compiled, copied

_STEPS = 60
_CLOSE = 1e-9
_WHOLE = 1e-6  # a whole step of so much leaves its square


class Bars(NamedTuple):
    """Chains as ``chain.Chains`` has them: start and side ``(c,)``, lever ``(c, n, n)``, spring and
    rest ``(c, n)``, root ``(c,)``, and their joints' second derivatives.
    """

    start: Points
    side: Floats
    lever: Floats
    spring: Floats
    rest: Floats
    root: Floats
    joints: Floats


class Ties(NamedTuple):
    """Ties: chains at both ends (-1: the nocking point) ``(t, 2)``, levers of the ends ``(t, 2,
    n)`` and how far beside the last bar they lie ``(t, 2)``; stiffness, natural length (not a
    number: it pulls whatever its length) and pull, ``(t,)``.
    """

    chain: Whole
    lever: Floats
    aside: Floats
    stiffness: Floats
    natural: Floats
    pull: Floats


class Nock(NamedTuple):
    """The nocking point: the pivot, how far it is drawn (0: there is none), and whether the line of
    draw may turn.
    """

    pivot: complex
    draw: float
    free: bool


@compiled
def _span(bars: Bars, ties: Ties, nock: Nock, t: int, angle: Floats, tilt: float) -> complex:
    """From a tie's first end to its second."""
    n = angle.shape[1]
    ends = np.zeros(2, np.complex128)
    for e in range(2):
        c = ties.chain[t, e]
        if c < 0:
            ends[e] = nock.pivot + nock.draw * complex(math.sin(tilt), math.cos(tilt))
            continue
        x, y = bars.start[c].real, bars.start[c].imag
        for k in range(n):
            x += bars.side[c] * ties.lever[t, e, k] * math.cos(angle[c, k])
            y += ties.lever[t, e, k] * math.sin(angle[c, k])
        x -= bars.side[c] * ties.aside[t, e] * math.sin(angle[c, n - 1])
        y += ties.aside[t, e] * math.cos(angle[c, n - 1])
        ends[e] = complex(x, y)
    return complex(ends[1] - ends[0])


@compiled
def energy_of(bars: Bars, ties: Ties, nock: Nock, angle: Floats, tilt: float) -> float:
    """Energy in springs and ties (J).

    Args:
        angle: inclinations of the bars, ``(c, n)`` (rad).
        tilt: of the line of draw (rad).
    """
    total = 0.0
    for c in range(angle.shape[0]):
        before = bars.root[c]
        for k in range(angle.shape[1]):
            total += 0.5 * bars.spring[c, k] * (angle[c, k] - before - bars.rest[c, k]) ** 2
            before = angle[c, k]
    for t in range(ties.stiffness.size):
        length = abs(_span(bars, ties, nock, t, angle, tilt))
        if math.isnan(ties.natural[t]):
            total += ties.pull[t] * length
        else:
            total += 0.5 * ties.stiffness[t] * max(0.0, length - ties.natural[t]) ** 2
    return float(total)


@compiled
def _slopes(
    bars: Bars,
    ties: Ties,
    nock: Nock,
    angle: Floats,
    tilt: float,
    gradient: Floats,
    second: Floats,
) -> None:
    """Gradient and second derivatives of the energy by all angles and the tilt."""
    count, n = angle.shape
    size = count * n
    gradient[:] = 0.0
    second[:, :] = 0.0
    for i in range(size):
        copied(second[i, :size], bars.joints[i])
    for c in range(count):
        before = bars.root[c]
        for k in range(n):
            moment = bars.spring[c, k] * (angle[c, k] - before - bars.rest[c, k])
            gradient[c * n + k] += moment
            if k > 0:
                gradient[c * n + k - 1] -= moment
            before = angle[c, k]
    rows, along, aside = np.empty(2 * n + 1, np.int64), np.empty(2 * n + 1), np.empty(2 * n + 1)
    for t in range(ties.stiffness.size):
        span = _span(bars, ties, nock, t, angle, tilt)
        length = abs(span)
        lx, ly = span.real / length, span.imag / length
        loose = math.isnan(ties.natural[t])
        pull = ties.pull[t] if loose else ties.stiffness[t] * max(0.0, length - ties.natural[t])
        hard = ties.stiffness[t] if not loose and pull > 0 else 0.0
        m = 0
        for e in range(2):
            sign = -1.0 if e == 0 else 1.0
            c = ties.chain[t, e]
            if c < 0:
                ax, ay = nock.draw * math.sin(tilt), nock.draw * math.cos(tilt)
                bx, by = ay, -ax
                rows[m] = size
                along[m], aside[m] = bx * lx + by * ly, by * lx - bx * ly
                second[size, size] += pull * (-ax * lx - ay * ly)
                m += 1
                continue
            for k in range(n):
                s, w = math.sin(angle[c, k]), math.cos(angle[c, k])
                lever, beside = ties.lever[t, e, k], ties.aside[t, e] if k == n - 1 else 0.0
                if lever == 0.0 and beside == 0.0:
                    continue
                bx = sign * bars.side[c] * (-lever * s - beside * w)
                by = sign * (lever * w - beside * s)
                rows[m] = c * n + k
                along[m], aside[m] = bx * lx + by * ly, by * lx - bx * ly
                tx = sign * bars.side[c] * (-lever * w + beside * s)
                ty = sign * (-lever * s - beside * w)
                second[c * n + k, c * n + k] += pull * (tx * lx + ty * ly)
                m += 1
        for i in range(m):
            gradient[rows[i]] += pull * along[i]
            for j in range(m):
                second[rows[i], rows[j]] += (
                    hard * along[i] * along[j] + pull / length * aside[i] * aside[j]
                )
    if nock.draw <= 0.0 or not nock.free:
        gradient[size] = 0.0
        second[size, :] = 0.0
        second[:, size] = 0.0
        second[size, size] = 1.0
    if abs(second[size, size]) < 1e-9:  # both halves of the string are slack just now
        second[size, size] = 1.0


@compiled
def settled(bars: Bars, ties: Ties, nock: Nock, angle: Floats, tilt: float) -> tuple[bool, float]:
    """The nearest rest.

    Args:
        angle: inclinations of the bars, ``(c, n)`` (rad); it is left at rest.
        tilt: of the line of draw (rad).

    Returns:
        Whether it was found, and the tilt there (rad).
    """
    count, n = angle.shape
    size = count * n + 1
    gradient, second = np.empty(size), np.empty((size, size))
    trial = np.empty_like(angle)
    for _ in range(_STEPS):
        _slopes(bars, ties, nock, angle, tilt, gradient, second)
        move = -np.linalg.solve(second, gradient)
        if not np.all(np.isfinite(move)):
            move = -1e-4 * gradient
        if move @ gradient > 0:  # not downhill: the second derivatives are made positive
            values, vectors = np.linalg.eigh(second)
            against = vectors.T @ gradient
            for i in range(size):
                against[i] /= max(abs(values[i]), 1e-3)
            move = -(vectors @ against)
        most = np.abs(move).max()
        move *= min(1.0, 0.1 / max(most, 1e-12))
        before, factor = energy_of(bars, ties, nock, angle, tilt), 1.0
        new_tilt = tilt
        for _try in range(12):
            for c in range(count):
                for k in range(n):
                    trial[c, k] = angle[c, k] + factor * move[c * n + k]
            new_tilt = tilt + factor * move[size - 1]
            after = energy_of(bars, ties, nock, trial, new_tilt)
            if after <= before + 1e-12 * abs(before) + 1e-12:
                break
            factor *= 0.4
        for c in range(count):
            copied(angle[c], trial[c])
        tilt = new_tilt
        if most < _CLOSE or (most < _WHOLE and factor == 1.0):
            return True, float(tilt)
    return False, float(tilt)
