"""Braced and drawn bows: both limbs, the string and the hold together, solved by Newton's method.

Batched throughout: first axis upper and lower limb, second the bows. Failures are typed and say
what to change.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, fields, replace

import numpy as np

from bowyery.arrays import Floats, Points
from bowyery.bow.bow import Bow, Hold
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import (
    DescriptionError,
    DrawBeyondReachError,
    NotConvergedError,
    StringTooLongError,
    StringTooShortError,
)
from bowyery.mechanics.elastica import OUTWARD, Ends, bent, ends, scales
from bowyery.mechanics.newton import Residual, newton

_FEW = 16
Rows = tuple[list[int], list[int]]


@dataclass(frozen=True)
class Braced:
    """A batch of braced bows (or hung, with a slack string); arrays ``(B,)`` unless said otherwise.

    Attributes:
        height: brace height (m); not a number for a hanging string.
        string_length: nock to nock along the string (m).
        tension: (N).
        p: of each limb, ``(2, B)``.
        upper_part: string from the upper nock to the nocking point (m).
        least_draw: the draw at which the string is straight or hangs taut (m).
        slack: the string is longer than the unstrung bow: it hangs.
    """

    height: Floats
    string_length: Floats
    tension: Floats
    p: Floats
    upper_part: Floats
    least_draw: Floats
    slack: bool

    def pick(self, k: int) -> Braced:
        """One of the batch, as a batch of one."""
        values = {
            f.name: getattr(self, f.name)[..., k : k + 1] for f in fields(self) if f.name != "slack"
        }
        return replace(self, **values)


@dataclass(frozen=True)
class Drawn:
    """A batch of drawn bows, ``(B,)`` each, limbs on a first axis where both are meant.

    Attributes:
        draw: |N − P| (m).
        weight: force at the nocking point along the line of draw (N).
        tension: ``(2, B)`` (N).
        p: ``(2, B)``.
        nock: position of the nocking point, ``(2, B)``: along, across (m).
        tilt: of the line of draw against the square to the handle axis (rad), positive to the upper
            limb.
    """

    draw: Floats
    weight: Floats
    tension: Floats
    p: Floats
    nock: Floats
    tilt: Floats

    def pick(self, k: int) -> Drawn:
        """One of the batch, as a batch of one."""
        return Drawn(*(getattr(self, f.name)[..., k : k + 1] for f in fields(self)))


def _crossing(scale: Floats, value: Floats, goal: Floats) -> tuple[Floats, Floats]:
    """First place along the last axis where ``value`` falls to ``goal``; also whether there is
    one.
    """
    below = value <= goal[:, None]
    found = below.any(-1)
    at = np.clip(below.argmax(-1), 1, value.shape[-1] - 1)
    rows = np.arange(value.shape[0])
    high, low = value[rows, at - 1], value[rows, at]
    share = np.clip((high - goal) / np.where(high == low, 1.0, high - low), 0.0, 1.0)
    return np.asarray(
        scale[rows, at - 1] + share * (scale[rows, at] - scale[rows, at - 1])
    ), np.asarray(found)


def _start(limbs: LimbGrid, scale: Floats, toward: Points | None) -> tuple[Floats, Floats]:
    """Tension and nock angle that go with a guessed bend; ``toward`` is N ``(B,)``, or None for
    brace.
    """
    tips, thetas = bent(limbs, scale[:, None])
    tip, theta = tips[..., 0], thetas[..., 0]
    line = tip - tip[::-1] if toward is None else tip - toward
    line = line / np.abs(line)
    root = limbs.root[..., 0] * OUTWARD + 1j * limbs.root[..., 1]
    tension = (
        scale * limbs.length / np.maximum(np.abs(cross(line, root - tip)), 0.02 * limbs.length)
    )
    return np.maximum(tension, 1e-9), np.maximum(
        theta - np.arctan2(line.imag, line.real * OUTWARD), 0.02
    )


def cross(v: Points, w: Points) -> Floats:
    """Cross product of vectors in the plane, written as complex numbers.

    Args:
        v: a vector, ``(B,)`` complex.
        w: a vector, ``(B,)`` complex.

    Returns:
        ``(B,)``.
    """
    return np.asarray(v.real * w.imag - v.imag * w.real)


def dot(v: Points, w: Points) -> Floats:
    """Scalar product of vectors in the plane, written as complex numbers.

    Args:
        v: a vector, ``(B,)`` complex.
        w: a vector, ``(B,)`` complex.

    Returns:
        ``(B,)``.
    """
    return np.asarray(v.real * w.real + v.imag * w.imag)


def _check_goal(value: Floats, what: str) -> None:
    if not np.all(np.isfinite(value)) or np.any(value <= 0):
        raise DescriptionError(f"The {what} must be a number above zero.", what.replace(" ", "_"))


def _coarse(limbs: LimbGrid) -> LimbGrid:
    """The limbs in few cells, where they divide into them, for first guesses."""
    return limbs.coarser(_FEW) if limbs.cells % _FEW == 0 and limbs.cells > _FEW else limbs


def _refined(
    limbs: LimbGrid,
    few: LimbGrid,
    equations: Callable[[LimbGrid], Residual],
    guess: Floats,
    rows: Rows,
    what: str,
) -> Floats:
    """Solve on few cells first where there are many: most steps are then made where they cost
    little.
    """
    if few is not limbs:
        with suppress(NotConvergedError):
            guess = newton(equations(few), guess, *rows, what, close=1e-5, near=1e-3)
    return newton(equations(limbs), guess, *rows, what)


def brace(
    limbs: LimbGrid,
    hold: Hold,
    height: Floats | None = None,
    string_length: Floats | None = None,
    near: Braced | None = None,
) -> Braced:
    """Brace a batch of bows, by brace height or by string length, ``(B,)`` (m).

    A string longer than the unstrung bow cannot be braced: it hangs, and ``slack`` is set. ``near``
    is the braced state of much the same bows, to start from.

    Args:
        limbs: the grid, ``B`` bows.
        hold: how it is held and drawn.
        height: brace height, ``(B,)`` (m); or give the string's length.
        string_length: nock to nock, ``(B,)`` (m).
        near: braced state of much the same bows, to start from.

    Returns:
        The braced batch; ``slack`` where the string hangs.

    Raises:
        StringTooShortError: the limbs cannot bend so far.
        StringTooLongError: the asked brace height is below that of the bow with a string just
            straight.
        NotConvergedError: no state was found.
        DescriptionError: a height or length that is not above zero.
    """
    px, py = hold.pivot
    few = limbs if near is not None else _coarse(limbs)
    if height is None:
        if string_length is None:
            raise DescriptionError("Give a brace height or a string length.", "string")
        goal = np.broadcast_to(np.asarray(string_length, float), (limbs.batch,))
        _check_goal(goal, "string length")
    else:
        goal = np.broadcast_to(np.asarray(height, float), (limbs.batch,))
        _check_goal(goal, "brace height")
    if near is not None:
        tension, p = np.stack([near.tension] * 2), near.p
    else:
        scale = scales(few, 28)
        tip, _ = bent(few, scale)
        if height is None:
            longer = goal >= np.abs(tip[0, :, 0] - tip[1, :, 0])
            if longer.any():
                if not longer.all():
                    raise StringTooLongError(
                        "Some bows of the batch have a hanging string and some a braced one."
                    )
                return _hang(hold, bent(limbs, np.zeros((limbs.batch, 1)))[0][..., 0], goal)
            scale, found = _crossing(scale, np.abs(tip[0] - tip[1]), goal)
        else:
            across = _line_height(tip, px) - py
            if np.any(across[:, 0] >= goal):
                raise StringTooLongError(
                    "At this brace height the string would not be tight; ask for a higher brace."
                )
            scale, found = _crossing(scale, -across, -goal)
        if not found.all():
            raise StringTooShortError(
                "These limbs cannot bend so far: give a longer string or a lower brace height."
            )
        tension, p = _start(few, scale, None)
    unit = tension.mean(0)
    last: list[Ends] = []

    def equations(of: LimbGrid) -> Residual:
        def residual(x: Floats) -> tuple[Floats, Floats]:
            e = ends(of, np.stack([x[0], x[0]]) * unit, x[1:])
            last[:] = [e]
            gap = e.tip[0] - e.tip[1]
            r, jac = np.empty_like(x), np.zeros((3, 3, x.shape[1]))
            # rows of the derivatives: by T, p upper, p lower
            d_tip = np.zeros((3, 2, x.shape[1]), complex)
            d_out = np.zeros_like(d_tip)
            for d_all, d_own in ((d_tip, e.d_tip), (d_out, e.d_out)):
                d_all[0] = d_own[0] * unit
                d_all[1, 0], d_all[2, 1] = d_own[1, 0], d_own[1, 1]
            d_gap = d_tip[:, 0] - d_tip[:, 1]
            for k in (0, 1):
                r[k] = cross(gap, e.out[k])
                jac[k] = cross(d_gap, e.out[k]) + cross(gap, d_out[:, k])
            if height is None:
                length = np.abs(gap)
                r[2] = length - goal - np.minimum(x[1:], 0.0).sum(0)
                jac[2] = dot(d_gap, gap) / length
                jac[2, 1:] -= x[1:] < 0
            else:
                r[2] = _line_height(e.tip, px) - py - goal
                jac[2] = _d_line_height(e.tip, d_tip, px)
            return r, jac

        return residual

    x = _refined(
        limbs,
        few,
        equations,
        np.stack([tension.mean(0) / unit, *p]),
        ([0], [1, 2]),
        "The braced bow",
    )
    tension = x[0] * unit
    if np.any(tension <= 0):
        raise StringTooLongError(
            "The string would not be tight: it must be shorter, or the brace higher."
        )
    return _braced(hold, last[0].tip, tension, x[1:])


def _braced(hold: Hold, tip: Points, tension: Floats, p: Floats) -> Braced:
    px, py = hold.pivot
    contact = -np.minimum(p, 0.0)
    at = np.full(tension.size, px + hold.nock_offset)
    if hold.held_by == "sliding hook" and hold.support != "clamp":
        # a free hook on a bow that may tilt starts where its pull is square to the string
        line = (tip[0] - tip[1]) / np.abs(tip[0] - tip[1])
        at = (tip[1] + line * dot(complex(px, py) - tip[1], line)).real
    nock = at + 1j * _line_height(tip, at)
    return Braced(
        _line_height(tip, px) - py,
        np.abs(tip[0] - tip[1]) + contact.sum(0),
        tension,
        p,
        np.abs(tip[0] - nock) + contact[0],
        np.abs(nock - (px + 1j * py)),
        False,
    )


def _hang(hold: Hold, tip: Points, length: Floats) -> Braced:
    """A slack string hung at the nocks and taken up at the nocking point until it is just taut."""
    at = hold.pivot[0] + hold.nock_offset
    low = tip.imag.min(0)
    high = low + length
    for _ in range(80):
        middle = 0.5 * (low + high)
        total = np.abs(tip - (at + 1j * middle)).sum(0)
        low, high = np.where(total < length, middle, low), np.where(total < length, high, middle)
    nock = at + 0.5j * (low + high)
    nothing = np.zeros(length.size)
    p = np.full((2, length.size), 0.1)
    least = np.abs(nock - complex(*hold.pivot))
    return Braced(nothing * np.nan, length, nothing, p, np.abs(tip[0] - nock), least, True)


def _line_height(tip: Points, along: float | Floats) -> Floats:
    """Across position of the line through both tips at a place along the handle axis."""
    gap = tip[0] - tip[1]
    return np.asarray(tip[1].imag + gap.imag * (along - tip[1].real) / gap.real)


def _d_line_height(tip: Points, d_tip: Points, along: float) -> Floats:
    gap, d_gap = tip[0] - tip[1], d_tip[:, 0] - d_tip[:, 1]
    share = (along - tip[1].real) / gap.real
    d_share = -(d_tip[:, 1].real + share * d_gap.real) / gap.real
    return np.asarray(d_tip[:, 1].imag + d_gap.imag * share + gap.imag * d_share)


def draw(
    limbs: LimbGrid, hold: Hold, braced: Braced, draws: Floats, near: Drawn | None = None
) -> Drawn:
    """Draw each braced bow of the batch to its draw, ``(B,)`` (m); repeat the grid for several
    draws.

    ``near`` is the drawn state of much the same bows, to start from.

    Args:
        limbs: the grid, ``B`` bows.
        hold: how it is held and drawn.
        braced: the braced batch.
        draws: ``(B,)`` (m).
        near: drawn state of much the same bows, to start from.

    Returns:
        The drawn batch.

    Raises:
        DrawBeyondReachError: the limbs and string cannot give that draw, or it is below the braced
            state.
        NotConvergedError: no state was found.
        DescriptionError: a draw that is not above zero.
    """
    draws = np.broadcast_to(np.asarray(draws, float), (limbs.batch,))
    _check_goal(draws, "draw")
    pivot = complex(*hold.pivot)
    if np.any(draws < braced.least_draw - 1e-9):
        raise DrawBeyondReachError(
            f"The draw starts at {braced.least_draw.max() * 1000:.0f} mm, where the string is; ask"
            " for a longer draw."
        )
    length, sliding, clamped = (
        braced.string_length,
        hold.held_by == "sliding hook",
        hold.support == "clamp",
    )
    few = limbs if near is not None else _coarse(limbs)
    if near is not None:
        tension, p, part = near.tension, near.p, braced.upper_part
    else:
        toward: Points = np.asarray(pivot + 1j * draws, complex)
        if not sliding and not clamped:
            toward = toward + hold.nock_offset
        scale = scales(few, 32)
        tip, _ = bent(few, scale)
        reach = np.abs(tip - toward[:, None])
        scale, found = _crossing(scale, -(length[:, None] - reach.sum(0)), np.zeros_like(draws))
        if not found.all():
            raise DrawBeyondReachError(
                "The limbs and string cannot give this draw; shorten the draw or lengthen the bow."
            )
        tension, p = _start(few, scale, toward)
        parts = np.abs(bent(few, scale[:, None])[0][..., 0] - toward)
        part = parts[0] * length / parts.sum(0) if sliding else braced.upper_part
    unit = np.maximum(tension.mean(0), 1.0)
    last: list[Ends] = []

    def equations(of: LimbGrid) -> Residual:
        def residual(x: Floats) -> tuple[Floats, Floats]:
            e = ends(of, x[[0, 2]] * unit, x[[1, 3]])
            last[:] = [e]
            free = np.stack([x[4], length - x[4]]) + np.minimum(x[[1, 3]], 0.0)
            nock = e.tip - free * e.out
            d_own, d_out = e.d_tip - free * e.d_out, e.d_out  # by (T, p) of the same limb
            d_own[0] *= unit
            d_out[0] *= unit
            d_own[1] -= e.out * (x[[1, 3]] < 0)
            r, jac = np.zeros_like(x), np.zeros((5, 5, x.shape[1]))
            apart = nock[0] - nock[1]
            d_apart = np.concatenate([d_own[:, 0], -d_own[:, 1], (-e.out[0] - e.out[1])[None]])
            r[0], r[1], jac[0], jac[1] = apart.real, apart.imag, d_apart.real, d_apart.imag
            arm = nock[0] - pivot
            d_arm = np.zeros_like(d_apart)
            d_arm[:2], d_arm[4] = d_own[:, 0], -e.out[0]
            # a nocking point on the back's side of the pivot would be as far away, but is no answer
            away = np.where(arm.imag < 0, -1.0, 1.0) * np.abs(arm)
            r[2], jac[2] = away - draws, dot(d_arm, arm) / away
            if clamped:
                r[3], jac[3] = arm.real, d_arm.real
            else:
                pull = x[0] * e.out[0] + x[2] * e.out[1]
                d_pull = np.zeros_like(d_apart)
                d_pull[:2], d_pull[2:4] = x[0] * d_out[:, 0], x[2] * d_out[:, 1]
                d_pull[0] += e.out[0]
                d_pull[2] += e.out[1]
                r[3] = cross(arm, pull) / draws
                jac[3] = (cross(d_arm, pull) + cross(arm, d_pull)) / draws
            if sliding:
                r[4], jac[4, 0], jac[4, 2] = x[0] - x[2], 1.0, -1.0
            else:
                r[4], jac[4, 4] = x[4] - braced.upper_part, 1.0
            return r, jac

        return residual

    if sliding and not clamped:
        # a straight string on a bow turned aside would do too, without any pull: start from the
        # fingers' state
        by_fingers = draw(limbs, replace(hold, held_by="fingers"), braced, draws)
        tension, p, part = by_fingers.tension, by_fingers.p, braced.upper_part
    guess = np.stack([tension[0] / unit, p[0], tension[1] / unit, p[1], part])
    x = _refined(limbs, few, equations, guess, ([0, 2], [1, 3]), "The drawn bow")
    tension, p = x[[0, 2]] * unit, x[[1, 3]]
    e = last[0]
    nock = e.tip[0] - (x[4] + np.minimum(p[0], 0.0)) * e.out[0]
    arm = nock - pivot
    weight = -dot(tension[0] * e.out[0] + tension[1] * e.out[1], arm) / draws
    if sliding and np.any((draws > 1.01 * braced.least_draw) & (weight < 1e-4 * tension.sum(0))):
        raise NotConvergedError(
            "The hook slid along the string without drawing it; draw it by fingers or clamp the"
            " bow."
        )
    return Drawn(
        draws, weight, tension, p, np.stack([nock.real, nock.imag]), np.arctan2(arm.real, arm.imag)
    )


def brace_bow(limbs: LimbGrid, bow: Bow, near: Braced | None = None) -> Braced:
    """Brace one bow as its description says, by brace height or string length; from a near state
    where one is at hand.

    Args:
        limbs: the grid, ``B`` bows.
        bow: the bow.
        near: braced state of much the same bow, or None.

    Returns:
        The braced batch, one bow.

    Raises:
        DescriptionError: neither brace height nor string length is given.
    """
    if bow.brace_height is None and bow.string_length is None:
        raise DescriptionError("Give a brace height or a string length.", "string")
    return brace(
        limbs,
        bow.hold,
        None if bow.brace_height is None else np.array([bow.brace_height]),
        None if bow.string_length is None else np.array([bow.string_length]),
        near,
    )


def repeated(braced: Braced, times: int) -> Braced:
    """Repeat each braced bow ``times`` times.

    Returns:
        ``B·times`` bows.
    """
    return replace(
        braced,
        height=np.repeat(braced.height, times),
        string_length=np.repeat(braced.string_length, times),
        tension=np.repeat(braced.tension, times),
        p=np.repeat(braced.p, times, axis=1),
        upper_part=np.repeat(braced.upper_part, times),
        least_draw=np.repeat(braced.least_draw, times),
    )
