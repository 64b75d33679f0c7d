"""One step of time in the loose, compiled: Newton's method for the implicit midpoint rule.

What the step is and why stands in dynamics.py. Vectors in the plane are kept as their two parts.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from bowyery.arrays import Floats, Whole
from bowyery.mechanics.compiled import compiled, copied

_ROUNDS = 40
_CLOSE = 3e-8  # rad and m
_TOO_FAR = 3.0  # no limb turns so far in one step


class Limbs(NamedTuple):
    """Chains as ``chain.Chains`` has them, places as two parts: start ``(c, 2)``, side ``(c,)``,
    lever ``(c, n, n)``, mass, spring, rest and aside ``(c, n)``, root ``(c,)``, inertia ``(c, n,
    n)``, and the joints' second derivatives.
    """

    start: Floats
    side: Floats
    lever: Floats
    mass: Floats
    spring: Floats
    rest: Floats
    aside: Floats
    root: Floats
    inertia: Floats
    joints: Floats


class Line(NamedTuple):
    """Both halves of the string, ``(2,)`` each: where it leaves the limbs (which node), natural
    length, pull by lengthening and mass; the length that lies on the limbs; and its moment by
    tension at the joints ``(2, n)``.
    """

    touched: Whole
    natural: Floats
    stretch: Floats
    mass: Floats
    lying: Floats
    levers: Floats


class Cables(NamedTuple):
    """Cables between chains: which ``(t, 2)``, levers of their ends ``(t, 2, n)``, stiffness and
    natural length ``(t,)``.
    """

    chain: Whole
    lever: Floats
    stiffness: Floats
    natural: Floats


@compiled
def _place(limbs: Limbs, c: int, lever: Floats, angle: Floats) -> tuple[float, float]:
    x, y = limbs.start[c, 0], limbs.start[c, 1]
    for k in range(angle.shape[1]):
        if lever[k] != 0.0:
            x += limbs.side[c] * lever[k] * math.cos(angle[c, k])
            y += lever[k] * math.sin(angle[c, k])
    return x, y


@compiled
def _nodes(limbs: Limbs, angle: Floats, x: Floats, y: Floats) -> None:
    count, n = angle.shape
    for c in range(count):
        px, py = limbs.start[c, 0], limbs.start[c, 1]
        for j in range(n):
            co, si = math.cos(angle[c, j]), math.sin(angle[c, j])
            own = limbs.lever[c, j, j]
            px += limbs.side[c] * own * co
            py += own * si
            x[c, j], y[c, j] = px, py
            if j < n - 1:  # the rest of this bar, up to the next
                more = limbs.lever[c, n - 1, j] - own
                px += limbs.side[c] * more * co
                py += more * si


@compiled
def _string(
    limbs: Limbs,
    line: Line,
    angle: Floats,
    x: Floats,
    y: Floats,
    nx: float,
    ny: float,
    vector: Floats,
    length: Floats,
) -> None:
    """Straight part of each half of the string as a vector from the limb, ``(2, 2)``, and its whole
    length.
    """
    for s in range(2):
        j = line.touched[s]
        aside, co, si = limbs.aside[s, j], math.cos(angle[s, j]), math.sin(angle[s, j])
        vector[s, 0] = nx - x[s, j] + limbs.side[s] * aside * si
        vector[s, 1] = ny - y[s, j] - aside * co
        length[s] = math.hypot(vector[s, 0], vector[s, 1]) + line.lying[s]
        if line.lying[s] > 0.0:
            before = limbs.root[s]
            for k in range(angle.shape[1]):
                length[s] -= line.levers[s, k] * (angle[s, k] - before)
                before = angle[s, k]


@compiled
def _mean_pull(pull: float, before: float, way: float, stiffness: float) -> float:
    """The pull that over a change of length does exactly the work that the stored energy tells."""
    if abs(way) > 1e-12:
        return 0.5 * (pull * pull - before * before) / stiffness / way
    return pull


@compiled
def stride(
    limbs: Limbs,
    line: Line,
    cables: Cables,
    angle0: Floats,
    rate: Floats,
    nock0: Floats,
    dt: float,
    arrow: float,
    rub: float,
    fresh: bool,
    inverse: Floats,
    angle: Floats,
    nock: Floats,
) -> int:
    """One step of time.

    Args:
        angle0: inclinations of the bars at its beginning, ``(c, n)`` (rad).
        rate: velocities of the nodes then, and of the nocking point last, ``(c·n + 1, 2)`` (m/s).
        nock0: the nocking point then, ``(2,)`` (m).
        dt: length of the step (s).
        arrow: mass that goes with the nocking point (kg).
        rub: damping over the step.
        fresh: the inverse below is none yet.
        inverse: of the slope, kept from step to step, ``(c·n + 2, c·n + 2)``.
        angle, nock: a first guess; they are left at the end of the step.

    Returns:
        How many rounds it took; below zero where nothing was found.
    """
    count, n = angle0.shape
    size = count * n
    x0, y0, x, y = (
        np.empty((count, n)),
        np.empty((count, n)),
        np.empty((count, n)),
        np.empty((count, n)),
    )
    gx, gy, bx, by = (
        np.empty((count, n)),
        np.empty((count, n)),
        np.empty((count, n)),
        np.empty((count, n)),
    )
    vector, length, pull = np.empty((2, 2)), np.empty(2), np.empty(2)
    vector0, length0, pull0 = np.empty((2, 2)), np.empty(2), np.empty(2)
    mean, force, square = np.empty(2), np.empty((2, 2)), np.empty((2, 2))
    residual = np.empty(size + 2)
    _nodes(limbs, angle0, x0, y0)
    _string(limbs, line, angle0, x0, y0, nock0[0], nock0[1], vector0, length0)
    hard = 2.0 / (dt * dt)
    end_mass = hard * arrow
    for s in range(2):
        pull0[s] = line.stretch[s] * max(0.0, length0[s] - line.natural[s])
        end_mass += 2 * hard * line.mass[s] / 6
    ties = cables.stiffness.size
    spans0 = np.empty((ties, 2))
    for t in range(ties):
        ax, ay = _place(limbs, cables.chain[t, 0], cables.lever[t, 0], angle0)
        ex, ey = _place(limbs, cables.chain[t, 1], cables.lever[t, 1], angle0)
        spans0[t, 0], spans0[t, 1] = ex - ax, ey - ay
    last = 1e300
    stale = not fresh
    for turn in range(_ROUNDS):
        _nodes(limbs, angle, x, y)
        _string(limbs, line, angle, x, y, nock[0], nock[1], vector, length)
        ahead_x = nock[0] - nock0[0] - dt * rate[size, 0]
        ahead_y = nock[1] - nock0[1] - dt * rate[size, 1]
        on_x, on_y = end_mass * ahead_x, end_mass * ahead_y
        for s in range(2):
            pull[s] = line.stretch[s] * max(0.0, length[s] - line.natural[s])
            mean[s] = _mean_pull(pull[s], pull0[s], length[s] - length0[s], line.stretch[s])
            both = math.hypot(vector[s, 0], vector[s, 1]) + math.hypot(vector0[s, 0], vector0[s, 1])
            force[s, 0] = mean[s] * (vector[s, 0] + vector0[s, 0]) / both
            force[s, 1] = mean[s] * (vector[s, 1] + vector0[s, 1]) / both
            on_x += force[s, 0]
            on_y += force[s, 1]
        for c in range(count):
            # pushes at the nodes, summed up from the nock inward to the bars
            sum_x = sum_y = 0.0
            for j in range(n - 1, -1, -1):
                dx = x[c, j] - x0[c, j] - dt * rate[c * n + j, 0]
                dy = y[c, j] - y0[c, j] - dt * rate[c * n + j, 1]
                push_x, push_y = hard * limbs.mass[c, j] * dx, hard * limbs.mass[c, j] * dy
                if c < 2:
                    if j == n - 1:
                        sixth = hard * line.mass[c] / 6
                        push_x += sixth * (2 * dx + ahead_x)
                        push_y += sixth * (2 * dy + ahead_y)
                        on_x += sixth * dx
                        on_y += sixth * dy
                    if j == line.touched[c]:
                        push_x -= force[c, 0]
                        push_y -= force[c, 1]
                own = limbs.lever[c, j, j]
                whole = limbs.lever[c, n - 1, j]
                bx[c, j] = whole * sum_x + own * push_x
                by[c, j] = whole * sum_y + own * push_y
                sum_x += push_x
                sum_y += push_y
        for t in range(ties):
            one, two = cables.chain[t, 0], cables.chain[t, 1]
            ax, ay = _place(limbs, one, cables.lever[t, 0], angle)
            ex, ey = _place(limbs, two, cables.lever[t, 1], angle)
            sx, sy = ex - ax, ey - ay
            now, was = math.hypot(sx, sy), math.hypot(spans0[t, 0], spans0[t, 1])
            k, free = cables.stiffness[t], cables.natural[t]
            drag = _mean_pull(k * max(0.0, now - free), k * max(0.0, was - free), now - was, k)
            fx, fy = (
                drag * (sx + spans0[t, 0]) / (now + was),
                drag * (sy + spans0[t, 1]) / (now + was),
            )
            for m in range(n):
                bx[one, m] -= cables.lever[t, 0, m] * fx
                by[one, m] -= cables.lever[t, 0, m] * fy
                bx[two, m] += cables.lever[t, 1, m] * fx
                by[two, m] += cables.lever[t, 1, m] * fy
        for c in range(count):
            before = limbs.root[c]
            for j in range(n):
                change = angle[c, j] - angle0[c, j]
                # chord of the arc that a bar's direction goes, by its angle: sin(x)/x to x⁴, x half
                # the change
                small = 0.25 * change * change
                chord = 1 - small / 6 * (1 - small / 20)
                middle = 0.5 * (angle[c, j] + angle0[c, j])
                co, si = chord * math.cos(middle), chord * math.sin(middle)
                gx[c, j], gy[c, j] = -limbs.side[c] * si, co
                if c < 2 and j == line.touched[c]:
                    square[c, 0], square[c, 1] = -limbs.side[c] * co, -si
                here = angle0[c, j] + (0.5 + rub) * change
                moment = limbs.spring[c, j] * (here - before - limbs.rest[c, j])
                before = here
                residual[c * n + j] = gx[c, j] * bx[c, j] + gy[c, j] * by[c, j] + moment
                if j > 0:
                    residual[c * n + j - 1] -= moment
            if c < 2:
                j = line.touched[c]
                residual[c * n + j] -= limbs.aside[c, j] * (
                    square[c, 0] * force[c, 0] + square[c, 1] * force[c, 1]
                )
                for k2 in range(n):
                    residual[c * n + k2] -= mean[c] * line.levers[c, k2]
                    if k2 > 0:
                        residual[c * n + k2 - 1] += mean[c] * line.levers[c, k2]
        residual[size], residual[size + 1] = on_x, on_y
        if not stale or turn % 8 == 7:
            slope = _slope(
                limbs,
                line,
                cables,
                gx,
                gy,
                square,
                angle,
                vector,
                pull,
                length,
                dt,
                arrow,
                rub,
                bx,
                by,
            )
            solved = np.linalg.inv(slope)
            for j in range(len(solved)):
                copied(inverse[j], solved[j])
            stale = True
        move = inverse @ residual
        far = 0.0
        for i in range(size + 2):
            far = max(far, abs(move[i]))
        if not far < _TOO_FAR:
            return -1
        if far > last:  # the slope has served too long
            stale = False
        last = far
        for c in range(count):
            for j in range(n):
                angle[c, j] -= move[c * n + j]
        nock[0] -= move[size]
        nock[1] -= move[size + 1]
        if far < _CLOSE:
            return turn
    return -1


@compiled
def _slope(
    limbs: Limbs,
    line: Line,
    cables: Cables,
    gx: Floats,
    gy: Floats,
    square: Floats,
    angle: Floats,
    vector: Floats,
    pull: Floats,
    length: Floats,
    dt: float,
    arrow: float,
    rub: float,
    bx: Floats,
    by: Floats,
) -> Floats:
    """Derivatives of the residual, with the string's direction taken as fixed within the step."""
    count, n = angle.shape
    size = count * n
    inertia = 2.0 / (dt * dt)
    out = np.zeros((size + 2, size + 2))
    for i in range(size):
        for j in range(size):
            out[i, j] = limbs.joints[i, j] * (0.5 + rub)
    end = inertia * (arrow + (line.mass[0] + line.mass[1]) / 3)
    out[size, size], out[size + 1, size + 1] = end, end
    for c in range(count):
        for j in range(n):
            # the bars' forces turn with the bars
            co, si = math.cos(angle[c, j]), math.sin(angle[c, j])
            out[c * n + j, c * n + j] -= 0.5 * (limbs.side[c] * co * bx[c, j] + si * by[c, j])
            for m in range(n):
                load = limbs.inertia[c, j, m]
                if c < 2:
                    load += line.mass[c] / 3 * limbs.lever[c, n - 1, j] * limbs.lever[c, n - 1, m]
                swing = gx[c, j] * gx[c, m] + gy[c, j] * gy[c, m]
                out[c * n + j, c * n + m] += inertia * load * swing
    along = np.empty(size + 2)
    for t in range(cables.stiffness.size):
        one, two = cables.chain[t, 0], cables.chain[t, 1]
        ax, ay = _place(limbs, one, cables.lever[t, 0], angle)
        ex, ey = _place(limbs, two, cables.lever[t, 1], angle)
        long = math.hypot(ex - ax, ey - ay)
        if long <= cables.natural[t]:
            continue
        lx, ly = (ex - ax) / long, (ey - ay) / long
        along[:] = 0.0
        for m in range(n):
            along[one * n + m] -= cables.lever[t, 0, m] * (gx[one, m] * lx + gy[one, m] * ly)
            along[two * n + m] += cables.lever[t, 1, m] * (gx[two, m] * lx + gy[two, m] * ly)
        for i in range(size):
            if along[i] != 0.0:
                for j in range(size):
                    out[i, j] += 0.5 * cables.stiffness[t] * along[i] * along[j]
    longer, aside = np.empty(n), np.empty(n)
    for s in range(2):
        touched, base = line.touched[s], s * n
        long = math.hypot(vector[s, 0], vector[s, 1])
        lx, ly = vector[s, 0] / long, vector[s, 1] / long
        hard = 0.5 * line.stretch[s] if pull[s] > 0 else 0.0
        soft = 0.5 * pull[s] / length[s]
        # how the string's length and its direction change with the angles
        for j in range(n):
            px = limbs.lever[s, touched, j] * gx[s, j]
            py = limbs.lever[s, touched, j] * gy[s, j]
            if j == touched:
                px += limbs.aside[s, j] * square[s, 0]
                py += limbs.aside[s, j] * square[s, 1]
            longer[j] = -(lx * px + ly * py) - line.levers[s, j]
            if j < n - 1:
                longer[j] += line.levers[s, j + 1]
            aside[j] = ly * px - lx * py
        for i in range(n):
            for j in range(n):
                out[base + i, base + j] += hard * longer[i] * longer[j] + soft * aside[i] * aside[j]
            ends = inertia * line.mass[s] / 6 * limbs.lever[s, n - 1, i]
            cross_x = ends * gx[s, i] + hard * lx * longer[i] - soft * ly * aside[i]
            cross_y = ends * gy[s, i] + hard * ly * longer[i] + soft * lx * aside[i]
            out[size, base + i] += cross_x
            out[base + i, size] += cross_x
            out[size + 1, base + i] += cross_y
            out[base + i, size + 1] += cross_y
        out[size, size] += hard * lx * lx + soft * ly * ly
        out[size + 1, size + 1] += hard * ly * ly + soft * lx * lx
        out[size, size + 1] += (hard - soft) * lx * ly
        out[size + 1, size] += (hard - soft) * lx * ly
    return out
