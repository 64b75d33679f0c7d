"""The march from nock to root and Newton's method for whole bows, compiled: one state after
another, in plain numbers.

What is solved and why stands in statics.py and elastica.py; elastica.py also has the march in
readable form, which the tests hold against this one. Arrays of a limb run from the nock to the
root. Where a function fills an array, its layout stands in its docstring.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from bowyery.arrays import Floats, Whole
from bowyery.mechanics.compiled import compiled, copied

CONVERGED, LOST, TOO_FAR, LOOSE = 0, 1, 2, 3
_STEPS, _FEW_STEPS = 60, 20  # of Newton's method: from a guess, and from a state nearby
_CLOSE = 1e-10
_NEAR = 1e-7
# Guessed bends before the first step: from none to a turn of so many radians.
_MOST_TURN = 2.6
_GUESSES = 40
# Lengths in contact that are tried where no other guess leads anywhere: how many, to what share.
_CONTACTS, _MOST_CONTACT = 12, 0.4
# Coefficients of the sine's and the cosine's series.
_S3, _S5, _S7, _S9 = -1 / 6, 1 / 120, -1 / 5040, 1 / 362880
_C4, _C6, _C8, _C10 = 1 / 24, -1 / 720, 1 / 40320, -1 / 3628800
# LimbGrid.march_values, nock first: lengths of bars (m), give (rad per N·m), unstrung turn (rad)
# and length (m) of the cells, (2, B, n), and where the string would lie, (2, B, n+1) (m).
Limbs = tuple[Floats, Floats, Floats, Floats, Floats]


@compiled
def _turned(c: float, s: float, by: float) -> tuple[float, float]:
    """Cosine and sine of an angle that was (c, s) and is less by ``by``; small turns by their
    series, to fourteen figures.
    """
    q = by * by
    if q < 0.04:
        ds = by * (1.0 + q * (_S3 + q * (_S5 + q * (_S7 + q * _S9))))
        dc = 1.0 + q * (-0.5 + q * (_C4 + q * (_C6 + q * (_C8 + q * _C10))))
    else:
        ds, dc = math.sin(by), math.cos(by)
    return c * dc + s * ds, s * dc - c * ds


@compiled
def limb_end(limbs: Limbs, side: int, k: int, tension: float, p: float, out: Floats) -> None:
    """March one limb from the nock, or from where the string lifts off, to its root.

    Args:
        side: 0 upper, 1 lower.
        tension: T (N).
        p: angle at the nock (rad), or minus the length in contact (m).
        out: gets 12 figures: the root's place inward along the string and its distance from the
            string to the back's side (m), the limb's angle to the string there (rad); these three
            by T, and by p; the string's length on the limb (m), and it by T and by p.
    """
    bar, give, turn, step, lies = limbs
    n = bar.shape[2]
    a = b = psi = at = bt = st = ap = bp = sp = on = on_t = on_p = 0.0
    first, free, d_free = 0, 1.0, 0.0
    if p >= 0:
        psi, sp = p, 1.0
        s, c = math.sin(p), math.cos(p)
        e = lies[side, k, 0]
        a, ap, b, bp = -e * s, -e * c, e * c, -e * s
    else:
        s, c = 0.0, 1.0
        left = -p
        while first < n - 1 and left >= step[side, k, first]:
            m = 0.5 * (lies[side, k, first] + lies[side, k, first + 1])
            on += step[side, k, first] - m * (
                turn[side, k, first] + tension * m * give[side, k, first]
            )
            on_t -= m * m * give[side, k, first]
            left -= step[side, k, first]
            first += 1
        long = step[side, k, first]
        x = min(left / long, 1.0)
        m = 0.5 * (lies[side, k, first] + lies[side, k, first + 1])
        whole = long - m * (turn[side, k, first] + tension * m * give[side, k, first])
        on += x * whole
        on_t -= x * m * m * give[side, k, first]
        on_p = -whole / long
        rise = lies[side, k, first + 1] - lies[side, k, first]
        b, bp = lies[side, k, first] + x * rise, -rise / long
        free, d_free = 1.0 - x, 1.0 / long
    for i in range(first, n):
        half = 0.5 * bar[side, k, i]
        d_half = 0.0
        share, d_share = 1.0, 0.0
        if i == first and free < 1.0:
            d_half, half = half * d_free, half * free
            share, d_share = free, d_free
        a += half * c
        b += half * s
        at -= half * s * st
        bt += half * c * st
        ap += d_half * c - half * s * sp
        bp += d_half * s + half * c * sp
        soft = give[side, k, i]
        bend = turn[side, k, i] + tension * soft * b
        psi -= share * bend
        st -= share * soft * (b + tension * bt)
        sp -= share * soft * tension * bp + d_share * bend
        c, s = _turned(c, s, share * bend)
        a += half * c
        b += half * s
        at -= half * s * st
        bt += half * c * st
        ap += d_half * c - half * s * sp
        bp += d_half * s + half * c * sp
    out[0], out[1], out[2] = a, b, psi
    out[3], out[4], out[5] = at, bt, st
    out[6], out[7], out[8] = ap, bp, sp
    out[9], out[10], out[11] = on, on_t, on_p


@compiled
def _string_end(
    limbs: Limbs, root: Floats, side: int, k: int, tension: float, p: float, out: Floats
) -> None:
    """Where the free string leaves one limb, in the bow's frame; ``out``, 15 figures: its place
    (along, across) and outward direction (2); these four by T, and by p; the string's length on the
    limb, and it by T and by p.
    """
    m = np.empty(12)
    limb_end(limbs, side, k, tension, p, m)
    angle = root[side, k, 2] - m[2]
    oc, os = math.cos(angle), math.sin(angle)
    flip = 1.0 if side == 0 else -1.0  # the lower limb's outward axis points down the handle axis
    out[0] = flip * (root[side, k, 0] + m[0] * oc - m[1] * os)
    out[1] = root[side, k, 1] + m[0] * os + m[1] * oc
    out[2], out[3] = flip * oc, os
    for j in range(2):
        da, db, dpsi = m[3 + 3 * j], m[4 + 3 * j], m[5 + 3 * j]
        # the direction turns by -dpsi: its change is -i·dpsi times itself
        dc, ds = os * dpsi, -oc * dpsi
        out[4 + 4 * j] = flip * (da * oc - db * os + m[0] * dc - m[1] * ds)
        out[5 + 4 * j] = da * os + db * oc + m[0] * ds + m[1] * dc
        out[6 + 4 * j], out[7 + 4 * j] = flip * dc, ds
    out[12], out[13], out[14] = m[9], m[10], m[11]


@compiled
def _shape_of(
    limbs: Limbs,
    root: Floats,
    side: int,
    k: int,
    tension: float,
    p: float,
    along: Floats,
    across: Floats,
    moment: Floats,
    bend: Floats,
    string: Floats,
) -> None:
    """The bent shape of one limb, from root to nock: places of the nodes in the bow's frame,
    ``(n+1,)``; moment there; turn added to the unstrung one in each cell, ``(n,)``.
    """
    bar, give, turn, step, lies = limbs
    n = bar.shape[2]
    b, first, free = 0.0, 0, 1.0
    c, s = 1.0, 0.0
    if p >= 0:
        c, s = math.cos(p), math.sin(p)
        b = lies[side, k, 0] * c
        moment[n] = tension * b
    else:
        left = -p
        moment[n] = tension * lies[side, k, 0]
        while first < n - 1 and left >= step[side, k, first]:
            m = 0.5 * (lies[side, k, first] + lies[side, k, first + 1])
            bend[n - 1 - first] = tension * m * give[side, k, first]
            left -= step[side, k, first]
            first += 1
            moment[n - first] = tension * lies[side, k, first]
        x = min(left / step[side, k, first], 1.0)
        b = lies[side, k, first] + x * (lies[side, k, first + 1] - lies[side, k, first])
        free = 1.0 - x
    for i in range(first, n):
        share = free if i == first else 1.0
        half = 0.5 * bar[side, k, i] * share
        b += half * s
        added = share * tension * give[side, k, i] * b
        c, s = _turned(c, s, share * turn[side, k, i] + added)
        if share < 1.0:
            m = 0.5 * (lies[side, k, i] + lies[side, k, i + 1])
            added += (1.0 - share) * tension * give[side, k, i] * m
        bend[n - 1 - i] = added
        b += half * s
        moment[n - 1 - i] = tension * b
    flip = 1.0 if side == 0 else -1.0
    x, y = root[side, k, 0], root[side, k, 1]
    c, s = math.cos(root[side, k, 2]), math.sin(root[side, k, 2])
    along[0], across[0] = flip * x, y
    for j in range(n):
        i = n - 1 - j
        half = 0.5 * bar[side, k, i]
        x += half * c
        y += half * s
        c, s = _turned(c, s, -turn[side, k, i] - bend[j])
        x += half * c
        y += half * s
        along[j + 1], across[j + 1] = flip * x, y
    if p >= 0:
        e = lies[side, k, 0]
        string[0], string[1] = flip * (x - e * s), y + e * c
    else:
        ends = np.empty(15)
        _string_end(limbs, root, side, k, tension, p, ends)
        string[0], string[1] = ends[0], ends[1]


@compiled
def shapes_of(
    limbs: Limbs,
    root: Floats,
    which: Whole,
    tension: Floats,
    p: Floats,
    along: Floats,
    across: Floats,
    moment: Floats,
    bend: Floats,
    string: Floats,
) -> None:
    """The bent shapes of both limbs in every state, from root to nock.

    Args:
        root: along, across (m) and angle (rad) of the roots, ``(2, B, 3)``.
        which: bow of each state, ``(S,)``.
        tension: T, ``(2, S)`` (N).
        p: angle at the nock (rad), or minus the length in contact (m), ``(2, S)``.
        along, across: get the places of the nodes in the bow's frame, ``(2, S, n+1)`` (m).
        moment: gets the bending moment there (N·m).
        bend: gets the turn added to the unstrung one in each cell, ``(2, S, n)`` (rad).
        string: gets where the string leaves the limbs, ``(2, S, 2)`` (m).
    """
    for side in range(2):
        for j in range(p.shape[1]):
            _shape_of(
                limbs,
                root,
                side,
                which[j],
                tension[side, j],
                p[side, j],
                along[side, j],
                across[side, j],
                moment[side, j],
                bend[side, j],
                string[side, j],
            )


@compiled
def _leaning(limbs: Limbs, root: Floats, side: int, k: int, scale: float, out: Floats) -> None:
    """Tip (along, across) and inclination at the nock of a limb bent by ``scale`` times its
    distance from the nock over its stiffness.
    """
    bar, give, turn, step, lies = limbs
    n = bar.shape[2]
    x, y, theta = root[side, k, 0], root[side, k, 1], root[side, k, 2]
    c, s = math.cos(theta), math.sin(theta)
    reach = 0.0
    for i in range(n):
        reach += step[side, k, i]
    for j in range(n):
        i = n - 1 - j
        half = 0.5 * bar[side, k, i]
        x += half * c
        y += half * s
        by = turn[side, k, i] + scale * give[side, k, i] * (reach - 0.5 * step[side, k, i])
        theta += by
        c, s = _turned(c, s, -by)
        reach -= step[side, k, i]
        x += half * c
        y += half * s
    e = lies[side, k, 0]
    x -= e * s
    y += e * c
    out[0], out[1], out[2] = (x if side == 0 else -x), y, theta


@compiled
def unbent_all(limbs: Limbs, root: Floats, out: Floats) -> None:
    """Where the string would leave the nocks of unbent limbs.

    Args:
        root: along, across (m) and angle (rad) of the roots, ``(2, B, 3)``.
        out: gets along, across (m) and inclination there (rad), ``(2, B, 3)``.
    """
    for side in range(2):
        for k in range(out.shape[1]):
            _leaning(limbs, root, side, k, 0.0, out[side, k])


@compiled
def _most_scale(limbs: Limbs, k: int) -> float:
    """The guessed bend that turns the stiffer limb's nock by ``_MOST_TURN``."""
    least = 0.0
    for side in range(2):
        reach, turned = 0.0, 0.0
        for i in range(limbs[1].shape[2]):
            long = limbs[3][side, k, i]
            turned += limbs[1][side, k, i] * (reach + 0.5 * long)
            reach += long
        least = max(least, turned)
    return float(_MOST_TURN / least)


@compiled
def _tension_for(
    tip: Floats, root: Floats, side: int, k: int, length: float, scale: float, lx: float, ly: float
) -> float:
    """Tension that goes with a guessed bend for a string along the direction (lx, ly)."""
    flip = 1.0 if side == 0 else -1.0
    rx, ry = flip * root[side, k, 0] - tip[0], root[side, k, 1] - tip[1]
    arm = max(abs(lx * ry - ly * rx), 0.02 * length)
    return float(max(scale * length / arm, 1e-9))


@compiled
def _length_of(limbs: Limbs, side: int, k: int) -> float:
    total = 0.0
    for i in range(limbs[3].shape[2]):
        total += limbs[3][side, k, i]
    return float(total)


@compiled
def _solved(jac: Floats, r: Floats, n: int) -> bool:
    """Gaussian elimination with row pivots, in place: ``r`` becomes the x of ``jac x = r``."""
    for i in range(n):
        top = i
        for j in range(i + 1, n):
            if abs(jac[j, i]) > abs(jac[top, i]):
                top = j
        if abs(jac[top, i]) < 1e-14:
            return False
        if top != i:
            for m in range(n):
                jac[i, m], jac[top, m] = jac[top, m], jac[i, m]
            r[i], r[top] = r[top], r[i]
        for j in range(i + 1, n):
            f = jac[j, i] / jac[i, i]
            if f != 0.0:
                for m in range(i, n):
                    jac[j, m] -= f * jac[i, m]
                r[j] -= f * r[i]
    for i in range(n - 1, -1, -1):
        for m in range(i + 1, n):
            r[i] -= jac[i, m] * r[m]
        r[i] /= jac[i, i]
    return True


@compiled
def _bounded(x: Floats, move: Floats, tensions: int, n: int) -> float:
    """The part of a step that a state's tensions and nock angles bear. The unknowns are tension and
    p in turn (``tensions`` 2) or one tension and both p (1), and what else there is.
    """
    factor = 1.0
    for i in range(n):
        limit = 0.35
        if (tensions == 1 and i == 0) or (tensions == 2 and (i == 0 or i == 2)):
            limit = 0.5 * abs(x[i]) + 0.05
        elif i < 4:
            if x[i] <= 0:
                limit = 0.03
            elif move[i] < 0:
                limit = min(x[i] + 0.02, 0.35)
        factor = min(factor, limit / max(abs(move[i]), 1e-300))
    return factor


@compiled
def _braced_miss(
    limbs: Limbs,
    root: Floats,
    k: int,
    px: float,
    py: float,
    goal: float,
    by_height: bool,
    unit: float,
    x: Floats,
    ends: Floats,
    r: Floats,
    jac: Floats,
) -> float:
    """How far a braced state is from one: the string's direction at both limbs along the line of
    the nocks (2), and its height at the pivot or its length; returns the greatest.
    """
    for side in range(2):
        _string_end(limbs, root, side, k, x[0] * unit, x[1 + side], ends[side])
    u, low = ends[0], ends[1]
    gx, gy = u[0] - low[0], u[1] - low[1]
    dg = np.zeros((3, 2))
    dg[0, 0], dg[0, 1] = unit * (u[4] - low[4]), unit * (u[5] - low[5])
    dg[1, 0], dg[1, 1] = u[8], u[9]
    dg[2, 0], dg[2, 1] = -low[8], -low[9]
    for j in range(2):
        e = ends[j]
        r[j] = gx * e[3] - gy * e[2]
        for m in range(3):
            jac[j, m] = dg[m, 0] * e[3] - dg[m, 1] * e[2]
        jac[j, 0] += unit * (gx * e[7] - gy * e[6])
        jac[j, 1 + j] += gx * e[11] - gy * e[10]
    if by_height:
        share = (px - low[0]) / gx
        r[2] = low[1] + share * gy - py - goal
        for m in range(3):
            if m == 0:
                dlx, dly = unit * low[4], unit * low[5]
            elif m == 2:
                dlx, dly = low[8], low[9]
            else:
                dlx, dly = 0.0, 0.0
            d_share = -(dlx + share * dg[m, 0]) / gx
            jac[2, m] = dly + share * dg[m, 1] + d_share * gy
    else:
        length = math.sqrt(gx * gx + gy * gy)
        r[2] = length + u[12] + low[12] - goal
        for m in range(3):
            jac[2, m] = (dg[m, 0] * gx + dg[m, 1] * gy) / length
        jac[2, 0] += unit * (u[13] + low[13])
        jac[2, 1] += u[14]
        jac[2, 2] += low[14]
    return float(max(abs(r[0]), abs(r[1]), abs(r[2])))


@compiled
def _brace_newton(
    limbs: Limbs,
    root: Floats,
    k: int,
    px: float,
    py: float,
    goal: float,
    by_height: bool,
    x: Floats,
    ends: Floats,
) -> bool:
    """Newton's method from ``x``: tension (N) and both p; it is left at the answer."""
    unit = max(x[0], 1.0)
    x[0] /= unit
    r, jac = np.empty(3), np.empty((3, 3))
    trial, r_new, jac_new, move = np.empty(3), np.empty(3), np.empty((3, 3)), np.empty(3)
    size = _braced_miss(limbs, root, k, px, py, goal, by_height, unit, x, ends, r, jac)
    for _ in range(_STEPS):
        if size < _CLOSE:
            break
        if not _solved(jac, r, 3):
            break
        for i in range(3):
            move[i] = -r[i]
        factor = _bounded(x, move, 1, 3)
        size_new = size
        for _try in range(6):
            for i in range(3):
                trial[i] = x[i] + factor * move[i]
            size_new = _braced_miss(
                limbs, root, k, px, py, goal, by_height, unit, trial, ends, r_new, jac_new
            )
            if size_new < max(2.0 * size, _CLOSE):
                break
            factor *= 0.3
        copied(x, trial)
        copied(r, r_new)
        for i in range(3):
            copied(jac[i], jac_new[i])
        size = size_new
    x[0] *= unit
    return size < _NEAR


@compiled
def brace_all(
    limbs: Limbs,
    root: Floats,
    px: float,
    py: float,
    goal: Floats,
    by_height: bool,
    near: bool,
    x: Floats,
    ends: Floats,
    status: Whole,
) -> None:
    """Brace every bow.

    Args:
        root: along, across (m) and angle (rad) of the roots, ``(2, B, 3)``.
        px, py: the pivot, along and across (m).
        goal: brace height, or length of the string, ``(B,)`` (m).
        near: start from the states given in ``x``.
        x: ``(B, 3)``, gets tension (N) and p of both limbs.
        ends: ``(B, 2, 15)``, gets what ``_string_end`` tells.
        status: ``(B,)``: CONVERGED, LOST, TOO_FAR or LOOSE.
    """
    tips, first = np.empty((2, 3)), np.empty(3)
    for k in range(goal.size):
        done = near and _brace_newton(limbs, root, k, px, py, goal[k], by_height, x[k], ends[k])
        if not done:
            most = _most_scale(limbs, k)
            found, last, value_before = False, 0.0, 0.0
            for j in range(_GUESSES):
                scale = most * (j / (_GUESSES - 1.0)) ** 1.5
                for side in range(2):
                    _leaning(limbs, root, side, k, scale, tips[side])
                gx, gy = tips[0, 0] - tips[1, 0], tips[0, 1] - tips[1, 1]
                if by_height:
                    value = goal[k] - (tips[1, 1] + (px - tips[1, 0]) / gx * gy - py)
                else:
                    value = math.sqrt(gx * gx + gy * gy) - goal[k]
                if value <= 0.0 and j > 0:
                    share = value_before / max(value_before - value, 1e-12)
                    scale = last + share * (scale - last)
                    found = True
                    break
                last, value_before = scale, value
            if not found:
                status[k] = TOO_FAR
                continue
            tension = 0.0
            for side in range(2):
                _leaning(limbs, root, side, k, scale, tips[side])
            gx, gy = tips[0, 0] - tips[1, 0], tips[0, 1] - tips[1, 1]
            size = math.sqrt(gx * gx + gy * gy)
            for side in range(2):
                flip = 1.0 if side == 0 else -1.0
                lx, ly = flip * gx / size, flip * gy / size
                length = _length_of(limbs, side, k)
                tension += 0.5 * _tension_for(tips[side], root, side, k, length, scale, lx, ly)
                x[k, 1 + side] = max(tips[side, 2] - math.atan2(ly, lx * flip), 0.02)
            x[k, 0] = tension
            copied(first, x[k])
            done = _brace_newton(limbs, root, k, px, py, goal[k], by_height, x[k], ends[k])
            # over a straight end of a recurve the place of lift-off tells nothing: try it further
            # in
            for j in range(1, _CONTACTS + 1):
                if done and x[k, 0] > 0.0:
                    break
                x[k, 0] = first[0]
                for side in range(2):
                    x[k, 1 + side] = -_MOST_CONTACT * j / _CONTACTS * _length_of(limbs, side, k)
                done = _brace_newton(limbs, root, k, px, py, goal[k], by_height, x[k], ends[k])
        if not done:
            status[k] = LOST
        elif x[k, 0] <= 0.0:
            status[k] = LOOSE
        else:
            status[k] = CONVERGED


class Pull(NamedTuple):
    """What one drawn state is to be: the pivot (m), the draw from it (m), the string's length and
    its part from the upper nock to the nocking point (m); whether the nocking point stays square to
    the pivot, and whether the string slides in its hook.
    """

    px: float
    py: float
    draw: float
    length: float
    part: float
    clamped: bool
    sliding: bool


@compiled
def _drawn_miss(
    limbs: Limbs,
    root: Floats,
    k: int,
    to: Pull,
    unit: float,
    x: Floats,
    ends: Floats,
    r: Floats,
    jac: Floats,
) -> float:
    """How far a drawn state is from one: both halves of the string meet (2), at the draw, with the
    pull through the pivot or square to it, and with equal tension or the string's given part;
    returns the greatest.
    """
    for side in range(2):
        _string_end(limbs, root, side, k, x[2 * side] * unit, x[2 * side + 1], ends[side])
    jac[:, :] = 0.0
    nx, ny = np.empty(2), np.empty(2)
    dn = np.zeros((2, 3, 2))  # of the nocking point by T, p and the upper part
    for side in range(2):
        e = ends[side]
        free = (x[4] if side == 0 else to.length - x[4]) - e[12]
        nx[side], ny[side] = e[0] - free * e[2], e[1] - free * e[3]
        dn[side, 0, 0] = unit * (e[4] - free * e[6] + e[13] * e[2])
        dn[side, 0, 1] = unit * (e[5] - free * e[7] + e[13] * e[3])
        dn[side, 1, 0] = e[8] - free * e[10] + e[14] * e[2]
        dn[side, 1, 1] = e[9] - free * e[11] + e[14] * e[3]
        by_part = -1.0 if side == 0 else 1.0
        dn[side, 2, 0], dn[side, 2, 1] = by_part * e[2], by_part * e[3]
    r[0], r[1] = nx[0] - nx[1], ny[0] - ny[1]
    for m in range(2):
        jac[m, 0], jac[m, 1] = dn[0, 0, m], dn[0, 1, m]
        jac[m, 2], jac[m, 3] = -dn[1, 0, m], -dn[1, 1, m]
        jac[m, 4] = dn[0, 2, m] - dn[1, 2, m]
    ax, ay = nx[0] - to.px, ny[0] - to.py
    # a nocking point on the back's side of the pivot would be as far away, but is no answer
    away = math.sqrt(ax * ax + ay * ay) * (-1.0 if ay < 0 else 1.0)
    away = away if abs(away) > 1e-12 else 1e-12
    r[2] = away - to.draw
    for m in range(3):
        j = m if m < 2 else 4
        jac[2, j] = (dn[0, m, 0] * ax + dn[0, m, 1] * ay) / away
    if to.clamped:
        r[3] = ax
        for m in range(3):
            jac[3, m if m < 2 else 4] = dn[0, m, 0]
    else:
        fx = x[0] * ends[0, 2] + x[2] * ends[1, 2]
        fy = x[0] * ends[0, 3] + x[2] * ends[1, 3]
        r[3] = (ax * fy - ay * fx) / to.draw
        for m in range(3):
            j = m if m < 2 else 4
            jac[3, j] = (dn[0, m, 0] * fy - dn[0, m, 1] * fx) / to.draw
        for side in range(2):
            e, t = ends[side], x[2 * side]
            by_t = (ax * (e[3] + unit * t * e[7]) - ay * (e[2] + unit * t * e[6])) / to.draw
            jac[3, 2 * side] += by_t
            jac[3, 2 * side + 1] += t * (ax * e[11] - ay * e[10]) / to.draw
    if to.sliding:
        r[4] = x[0] - x[2]
        jac[4, 0], jac[4, 2] = 1.0, -1.0
    else:
        r[4] = x[4] - to.part
        jac[4, 4] = 1.0
    size = 0.0
    for m in range(5):
        size = max(size, abs(r[m]))
    return size


@compiled
def _draw_newton(
    limbs: Limbs,
    root: Floats,
    k: int,
    to: Pull,
    most: int,
    x: Floats,
    ends: Floats,
) -> bool:
    """Newton's method from ``x``: tension (N) and p of the upper limb, of the lower, and the
    string's upper part (m); it is left at the answer.
    """
    unit = max(0.5 * (x[0] + x[2]), 1.0)
    x[0] /= unit
    x[2] /= unit
    r, jac = np.empty(5), np.empty((5, 5))
    trial, r_new, jac_new, move = np.empty(5), np.empty(5), np.empty((5, 5)), np.empty(5)
    size = _drawn_miss(limbs, root, k, to, unit, x, ends, r, jac)
    for _ in range(most):
        if size < _CLOSE:
            break
        if not _solved(jac, r, 5):
            break
        for i in range(5):
            move[i] = -r[i]
        factor = _bounded(x, move, 2, 5)
        size_new = size
        for _try in range(6):
            for i in range(5):
                trial[i] = x[i] + factor * move[i]
            size_new = _drawn_miss(limbs, root, k, to, unit, trial, ends, r_new, jac_new)
            if size_new < max(2.0 * size, _CLOSE):
                break
            factor *= 0.3
        copied(x, trial)
        copied(r, r_new)
        for i in range(5):
            copied(jac[i], jac_new[i])
        size = size_new
    x[0] *= unit
    x[2] *= unit
    return size < _NEAR


@compiled
def _draw_guess(
    limbs: Limbs,
    root: Floats,
    k: int,
    to: Pull,
    offset: float,
    x: Floats,
) -> bool:
    """A first guess: the bend at which the string just reaches the nocking point, ``offset`` above
    the pivot.
    """
    nx, ny = to.px + (0.0 if to.sliding or to.clamped else offset), to.py + to.draw
    tips = np.empty((2, 3))
    most = _most_scale(limbs, k)
    last, value_before, scale, found = 0.0, 0.0, 0.0, False
    for j in range(_GUESSES):
        scale = most * (j / (_GUESSES - 1.0)) ** 1.5
        reach = 0.0
        for side in range(2):
            _leaning(limbs, root, side, k, scale, tips[side])
            reach += math.sqrt((tips[side, 0] - nx) ** 2 + (tips[side, 1] - ny) ** 2)
        value = reach - to.length
        if value <= 0.0:
            share = value_before / max(value_before - value, 1e-12) if j > 0 else 0.0
            scale = last + share * (scale - last)
            found = True
            break
        last, value_before = scale, value
    if not found:
        return False
    reach = 0.0
    for side in range(2):
        _leaning(limbs, root, side, k, scale, tips[side])
        flip = 1.0 if side == 0 else -1.0
        lx, ly = tips[side, 0] - nx, tips[side, 1] - ny
        size = math.sqrt(lx * lx + ly * ly)
        reach += size
        limb = _length_of(limbs, side, k)
        x[2 * side] = _tension_for(tips[side], root, side, k, limb, scale, lx / size, ly / size)
        x[2 * side + 1] = max(tips[side, 2] - math.atan2(ly, flip * lx), 0.02)
        if side == 0:
            x[4] = size
    x[4] = x[4] * to.length / reach if to.sliding else to.part
    return True


@compiled
def draw_all(
    limbs: Limbs,
    root: Floats,
    px: float,
    py: float,
    offset: float,
    clamped: bool,
    sliding: bool,
    which: Whole,
    draws: Floats,
    length: Floats,
    part: Floats,
    least: Floats,
    rest: Floats,
    near: bool,
    x: Floats,
    ends: Floats,
    status: Whole,
) -> None:
    """Draw bows. States of one bow that follow one another with growing draw are led from one to
    the next.

    Args:
        root: along, across (m) and angle (rad) of the roots, ``(2, B, 3)``.
        px, py: the pivot, along and across (m).
        offset: of the nocking point above it (m).
        clamped: the nocking point stays square to the pivot; if not, the pull goes through it.
        sliding: both halves of the string pull alike; if not, its upper part is given.
        which: bow of each state, ``(S,)``.
        draws: ``(S,)`` (m).
        length, part, least: of each bow, ``(B,)``: the string, its part from the upper nock to the
            nocking point, and the draw at which it begins (m).
        rest: braced tension (N; 0 for a hanging string) and p of both limbs, ``(B, 3)``.
        near: start from the states given in ``x``.
        x: ``(S, 5)``, gets tension (N) and p of the upper limb, of the lower, and the string's
            upper part (m).
        ends: ``(S, 2, 15)``, gets what ``_string_end`` tells.
        status: ``(S,)``: CONVERGED, LOST or TOO_FAR.
    """
    guess, oldest, before, last = np.empty(5), np.empty(5), np.empty(5), np.empty(5)
    # solved states of this bow that lead here
    known, from_draw, ago_draw, old_draw = 0, 0.0, 0.0, 0.0
    for j in range(draws.size):
        k, d = which[j], draws[j]
        if j == 0 or which[j - 1] != k or d < from_draw:
            known = 0
        to = Pull(px, py, d, length[k], part[k], clamped, sliding)
        done = False
        if near:
            done = _draw_newton(limbs, root, k, to, _FEW_STEPS, x[j], ends[j])
        if not done and known > 0:
            for i in range(5):
                ahead = last[i]
                if known > 1 and from_draw > ago_draw:
                    slope = (last[i] - before[i]) / (from_draw - ago_draw)
                    ahead += slope * (d - from_draw)
                    if known > 2 and ago_draw > old_draw:
                        older = (before[i] - oldest[i]) / (ago_draw - old_draw)
                        curve = (slope - older) / (from_draw - old_draw)
                        ahead += curve * (d - from_draw) * (d - ago_draw)
                x[j, i] = ahead
            done = _draw_newton(limbs, root, k, to, _FEW_STEPS, x[j], ends[j])
            if done and min(x[j, 0], x[j, 2]) < 0:
                done = False
        far = False
        if not done:
            far = not _draw_guess(limbs, root, k, to, offset, x[j])
            if not far:
                done = _draw_newton(limbs, root, k, to, _STEPS, x[j], ends[j])
        for m in range(1, _CONTACTS + 1):
            if done or far:
                break
            _draw_guess(limbs, root, k, to, offset, x[j])
            for side in range(2):
                x[j, 2 * side + 1] = -_MOST_CONTACT * m / _CONTACTS * _length_of(limbs, side, k)
            done = _draw_newton(limbs, root, k, to, _FEW_STEPS, x[j], ends[j])
            if done and min(x[j, 0], x[j, 2]) < 0:
                done = False
        if not done and not far and rest[k, 0] > 0:
            # led from the braced state by steps that the limbs bear
            guess[0] = guess[2] = rest[k, 0]
            guess[1], guess[3], guess[4] = rest[k, 1], rest[k, 2], part[k]
            at, stride = least[k], 0.02
            while True:
                aim = min(d, at + stride)
                nearer = Pull(px, py, aim, length[k], part[k], clamped, sliding)
                copied(x[j], guess)
                done = _draw_newton(limbs, root, k, nearer, _FEW_STEPS, x[j], ends[j])
                if done:
                    copied(guess, x[j])
                    at, stride = aim, min(1.6 * stride, 0.06)
                    if at >= d:
                        break
                else:
                    stride *= 0.4
                    if stride < 1e-4:
                        break
        if done:
            status[j] = CONVERGED
            copied(oldest, before)
            copied(before, last)
            copied(last, x[j])
            old_draw, ago_draw, from_draw = ago_draw, from_draw, d
            known += 1
        else:
            status[j] = TOO_FAR if far else LOST
            known = 0
