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
    rest ``(c, n)``, and root ``(c,)``.
    """

    start: Points
    side: Floats
    lever: Floats
    spring: Floats
    rest: Floats
    root: Floats


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
    bands: Floats,
    across: Floats,
    weight: Floats,
) -> None:
    """Gradient and second derivatives of the energy by all angles and the tilt.

    The second derivatives are a matrix of three diagonals, and what each tie adds by its stretch
    and by its turning: ``bands`` ``(2, size)`` has the diagonal and what lies beside it towards
    the bar before, ``across`` ``(2 ties, size)`` the directions of those, ``weight`` ``(2 ties,)``
    how much of each.
    """
    count, n = angle.shape
    size = count * n
    gradient[:] = 0.0
    bands[:, :] = 0.0
    across[:, :] = 0.0
    for c in range(count):
        before = bars.root[c]
        for k in range(n):
            at = c * n + k
            moment = bars.spring[c, k] * (angle[c, k] - before - bars.rest[c, k])
            gradient[at] += moment
            bands[0, at] += bars.spring[c, k]
            if k > 0:
                gradient[at - 1] -= moment
                bands[0, at - 1] += bars.spring[c, k]
                bands[1, at] = -bars.spring[c, k]
            before = angle[c, k]
    for t in range(ties.stiffness.size):
        span = _span(bars, ties, nock, t, angle, tilt)
        length = abs(span)
        lx, ly = span.real / length, span.imag / length
        loose = math.isnan(ties.natural[t])
        pull = ties.pull[t] if loose else ties.stiffness[t] * max(0.0, length - ties.natural[t])
        weight[2 * t] = ties.stiffness[t] if not loose and pull > 0 else 0.0
        weight[2 * t + 1] = pull / length
        for e in range(2):
            sign = -1.0 if e == 0 else 1.0
            c = ties.chain[t, e]
            if c < 0:
                ax, ay = nock.draw * math.sin(tilt), nock.draw * math.cos(tilt)
                bx, by = ay, -ax
                across[2 * t, size] += bx * lx + by * ly
                across[2 * t + 1, size] += by * lx - bx * ly
                bands[0, size] += pull * (-ax * lx - ay * ly)
                continue
            for k in range(n):
                s, w = math.sin(angle[c, k]), math.cos(angle[c, k])
                lever, beside = ties.lever[t, e, k], ties.aside[t, e] if k == n - 1 else 0.0
                if lever == 0.0 and beside == 0.0:
                    continue
                bx = sign * bars.side[c] * (-lever * s - beside * w)
                by = sign * (lever * w - beside * s)
                across[2 * t, c * n + k] += bx * lx + by * ly
                across[2 * t + 1, c * n + k] += by * lx - bx * ly
                tx = sign * bars.side[c] * (-lever * w + beside * s)
                ty = sign * (-lever * s - beside * w)
                bands[0, c * n + k] += pull * (tx * lx + ty * ly)
        for i in range(size + 1):
            gradient[i] += pull * across[2 * t, i]
    if nock.draw <= 0.0 or not nock.free:
        gradient[size] = 0.0
        across[:, size] = 0.0
        bands[0, size] = 1.0
    if abs(bands[0, size]) < 1e-9:  # both halves of the string are slack just now
        bands[0, size] = 1.0


@compiled
def _whole(bands: Floats, across: Floats, weight: Floats) -> Floats:
    """The second derivatives as one matrix, ``(size, size)``."""
    size = bands.shape[1]
    second = np.zeros((size, size))
    for i in range(size):
        second[i, i] = bands[0, i]
        if i > 0:
            second[i, i - 1] = second[i - 1, i] = bands[1, i]
    for r in range(weight.size):
        for i in range(size):
            for j in range(size):
                second[i, j] += weight[r] * across[r, i] * across[r, j]
    return second


@compiled
def _newton(gradient: Floats, bands: Floats, across: Floats, weight: Floats) -> Floats:
    """Newton's step, from three diagonals and few directions beside them (Hager, Updating the
    inverse of a matrix, 1989): the diagonals are solved for the gradient and each direction, and
    as many equations as there are directions are left.
    """
    size, count = bands.shape[1], weight.size
    right = np.empty((size, count + 1))
    for i in range(size):
        right[i, count] = -gradient[i]
        for r in range(count):
            right[i, r] = across[r, i]
    diagonal = np.empty(size)
    for i in range(size):
        diagonal[i] = bands[0, i]
        if i > 0 and bands[1, i] != 0.0:
            by = bands[1, i] / diagonal[i - 1]
            diagonal[i] -= by * bands[1, i]
            for r in range(count + 1):
                right[i, r] -= by * right[i - 1, r]
    for i in range(size - 1, -1, -1):
        for r in range(count + 1):
            if i < size - 1:
                right[i, r] -= bands[1, i + 1] * right[i + 1, r]
            right[i, r] /= diagonal[i]
    few = np.eye(count)
    known = np.zeros(count)
    for r in range(count):
        for i in range(size):
            step = weight[r] * across[r, i]
            if step != 0.0:
                known[r] += step * right[i, count]
                for q in range(count):
                    few[r, q] += step * right[i, q]
    back = np.linalg.solve(few, known)
    move = np.empty(size)
    for i in range(size):
        move[i] = right[i, count]
        for r in range(count):
            move[i] -= right[i, r] * back[r]
    return move


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
    gradient, bands = np.empty(size), np.empty((2, size))
    across, weight = np.empty((2 * ties.stiffness.size, size)), np.empty(2 * ties.stiffness.size)
    trial = np.empty_like(angle)
    for _ in range(_STEPS):
        _slopes(bars, ties, nock, angle, tilt, gradient, bands, across, weight)
        move = _newton(gradient, bands, across, weight)
        if not np.all(np.isfinite(move)):
            move = -1e-4 * gradient
        if move @ gradient > 0:  # not downhill: the second derivatives are made positive
            values, vectors = np.linalg.eigh(_whole(bands, across, weight))
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
