"""Braced and drawn bows: both limbs, the string and the hold together, solved by Newton's method.

Batched throughout: first axis upper and lower limb, second the bows. Failures are typed and say what to change.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bowyery.bow import CELLS, Bow, Hold, LimbGrid, grid
from bowyery.elastica import SIDES, Shapes, bent, ends, scales, shapes
from bowyery.errors import (
    DescriptionError,
    DrawBeyondReachError,
    NotConvergedError,
    StringTooLongError,
    StringTooShortError,
)
from bowyery.section import Floats

_STEPS = 60
_TOLERANCE = 1e-10


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


@dataclass(frozen=True)
class Drawn:
    """A batch of drawn bows, ``(B,)`` each, limbs on a first axis where both are meant.

    Attributes:
        draw: |N − P| (m).
        weight: force at the nocking point along the line of draw (N).
        tension: ``(2, B)`` (N).
        p: ``(2, B)``.
        nock: position of the nocking point, ``(2, B)``: along, across (m).
        tilt: of the line of draw against the square to the handle axis (rad), positive to the upper limb.
    """

    draw: Floats
    weight: Floats
    tension: Floats
    p: Floats
    nock: Floats
    tilt: Floats


def _crossing(scale: Floats, value: Floats, goal: Floats) -> tuple[Floats, Floats]:
    """First place along the last axis where ``value`` falls to ``goal``; also whether there is one."""
    below = value <= goal[:, None]
    found = below.any(-1)
    at = np.clip(below.argmax(-1), 1, value.shape[-1] - 1)
    rows = np.arange(value.shape[0])
    high, low = value[rows, at - 1], value[rows, at]
    share = np.clip((high - goal) / np.where(high == low, 1.0, high - low), 0.0, 1.0)
    return np.asarray(scale[rows, at - 1] + share * (scale[rows, at] - scale[rows, at - 1])), np.asarray(found)


def _start(limbs: LimbGrid, scale: Floats, toward: Floats | None, drop: float = 1e-9) -> tuple[Floats, Floats]:
    """Tension and nock angle that go with a guessed bend; ``toward`` is N ``(2, B)``, or None for brace."""
    tip, theta = bent(limbs, scale[:, None])
    tip, theta = tip[..., 0], theta[..., 0]
    line = tip - tip[:, ::-1] if toward is None else tip - toward[:, None]
    line = line / np.hypot(*line)
    phi = np.arctan2(line[1], line[0] * SIDES)
    root = np.stack([SIDES * limbs.root[..., 0], limbs.root[..., 1]])
    arm = root - tip
    lever = np.abs(line[0] * arm[1] - line[1] * arm[0])
    tension = scale * limbs.length / np.maximum(lever, 0.02 * limbs.length)
    return np.maximum(tension, drop), np.maximum(theta - phi, 0.02)


def _newton(residual, x: Floats, tensions: slice, angles: slice, what: str) -> Floats:  # type: ignore[no-untyped-def]
    """Solve ``residual(x) = (r, J)`` for a batch; ``x`` is ``(unknowns, B)``, tensions are scaled to about one."""
    r, jac = residual(x)
    size = np.abs(r).max(0)
    for _ in range(_STEPS):
        done = size < _TOLERANCE
        if done.all():
            return x
        try:
            step = -np.linalg.solve(jac.transpose(2, 0, 1), r.T[..., None])[..., 0].T
        except np.linalg.LinAlgError as error:
            raise NotConvergedError(f"{what} could not be found: the equations became singular.") from error
        limit = np.full_like(step, 0.35)
        limit[tensions] = 0.5 * np.abs(x[tensions]) + 0.05
        # angles turn into lengths of contact below zero, and those move by less at a time
        nocks = x[angles]
        limit[angles] = np.where(nocks <= 0, 0.03, np.where(step[angles] < 0, np.minimum(nocks + 0.02, 0.35), 0.35))
        factor = np.minimum(1.0, (limit / np.maximum(np.abs(step), 1e-300)).min(0))
        factor = np.where(done, 0.0, factor)
        for _ in range(6):
            trial = x + factor * step
            r_new, jac_new = residual(trial)
            size_new = np.abs(r_new).max(0)
            worse = ~(size_new < np.maximum(2.0 * size, _TOLERANCE)) & ~done
            if not worse.any():
                break
            factor = np.where(worse, 0.3 * factor, factor)
        x, r, jac, size = trial, r_new, jac_new, size_new
    bad = int((~(size < 1e-7)).sum())
    if bad:
        raise NotConvergedError(f"{what} could not be found for {bad} of {size.size} states; change the draw or string a little.")
    return x


def _check_goal(value: Floats, what: str) -> None:
    if not np.all(np.isfinite(value)) or np.any(value <= 0):
        raise DescriptionError(f"The {what} must be a number above zero.", what.replace(" ", "_"))


def brace(limbs: LimbGrid, hold: Hold, height: Floats | None = None, string_length: Floats | None = None) -> Braced:
    """Brace a batch of bows, by brace height or by string length, ``(B,)`` (m).

    A string longer than the unstrung bow cannot be braced: it hangs, and ``slack`` is set.

    Raises:
        StringTooShortError: the limbs cannot bend so far.
        StringTooLongError: the asked brace height is below that of the bow with a string just straight.
        NotConvergedError: no state was found.
        DescriptionError: a height or length that is not above zero.
    """
    px, py = hold.pivot
    flat = np.zeros((limbs.batch, 1))
    rest_tip, _ = bent(limbs, flat)
    rest_tip = rest_tip[..., 0]
    if height is None:
        assert string_length is not None, "either brace height or string length"
        goal_length = np.broadcast_to(np.asarray(string_length, float), (limbs.batch,))
        _check_goal(goal_length, "string length")
        longer = goal_length >= np.hypot(*(rest_tip[:, 0] - rest_tip[:, 1]))
        if longer.any():
            if not longer.all():
                raise StringTooLongError("Some bows of the batch have a hanging string and some a braced one.")
            return _hang(limbs, hold, rest_tip, goal_length)
    else:
        height = np.broadcast_to(np.asarray(height, float), (limbs.batch,))
        _check_goal(height, "brace height")
    scale = scales(limbs, 28)
    tip, _ = bent(limbs, scale)
    across = _line_height(tip, px) - py
    if height is None:
        scale, found = _crossing(scale, np.hypot(*(tip[:, 0] - tip[:, 1])), goal_length)
    else:
        if np.any(across[:, 0] >= height):
            raise StringTooLongError("At this brace height the string would not be tight; ask for a higher brace.")
        scale, found = _crossing(scale, -across, -height)
    if not found.all():
        raise StringTooShortError("These limbs cannot bend so far: give a longer string or a lower brace height.")
    tension, p = _start(limbs, scale, None)
    unit = tension.mean(0)

    def residual(x: Floats) -> tuple[Floats, Floats]:
        e = ends(limbs, np.stack([x[0], x[0]]) * unit, x[1:])
        contact = np.minimum(x[1:], 0.0)
        gap = e.tip[:, 0] - e.tip[:, 1]
        r, jac = np.empty_like(x), np.zeros((3, 3, x.shape[1]))
        # columns: T, p upper, p lower; derivative of a quantity of limb k by T and by its own p
        d_gap = np.stack([(e.d_tip[:, 0, 0] - e.d_tip[:, 0, 1]) * unit, e.d_tip[:, 1, 0], -e.d_tip[:, 1, 1]])
        d_out = [np.stack([e.d_out[:, 0, k] * unit, *(e.d_out[:, 1, k] * (k == j) for j in (0, 1))]) for k in (0, 1)]
        for k in (0, 1):
            r[k] = _cross(gap, e.out[:, k])
            jac[k] = [_cross(d_gap[j], e.out[:, k]) + _cross(gap, d_out[k][j]) for j in range(3)]
        if height is None:
            length = np.hypot(*gap)
            r[2] = length - (goal_length + contact.sum(0))
            jac[2] = [(d_gap[j] * gap).sum(0) / length for j in range(3)]
            jac[2, 1:] -= x[1:] < 0
        else:
            d_tips = np.zeros((3, 2, 2, x.shape[1]))
            d_tips[0] = e.d_tip[:, 0] * unit
            d_tips[1, :, 0], d_tips[2, :, 1] = e.d_tip[:, 1, 0], e.d_tip[:, 1, 1]
            r[2] = _line_height(e.tip, px) - py - height
            jac[2] = [_d_line_height(e.tip, d_tips[j], px) for j in range(3)]
        return r, jac

    x = _newton(residual, np.stack([tension.mean(0) / unit, *p]), slice(0, 1), slice(1, 3), "The braced bow")
    tension = x[0] * unit
    if np.any(tension <= 0):
        raise StringTooLongError("The string would not be tight: it must be shorter, or the brace higher.")
    e = ends(limbs, np.stack([tension, tension]), x[1:])
    contact = -np.minimum(x[1:], 0.0)
    at = px + hold.nock_offset
    nock = np.stack([np.full(limbs.batch, at), _line_height(e.tip, at)])
    return Braced(
        _line_height(e.tip, px) - py,
        np.hypot(*(e.tip[:, 0] - e.tip[:, 1])) + contact.sum(0),
        tension,
        x[1:],
        np.hypot(*(e.tip[:, 0] - nock)) + contact[0],
        np.hypot(nock[0] - px, nock[1] - py),
        False,
    )


def _hang(limbs: LimbGrid, hold: Hold, tip: Floats, length: Floats) -> Braced:
    """A slack string hung at the nocks and taken up at the nocking point until it is just taut."""
    at = hold.pivot[0] + hold.nock_offset
    low = np.minimum(tip[1, 0], tip[1, 1])
    high = low + length
    for _ in range(80):
        middle = 0.5 * (low + high)
        total = sum(np.hypot(tip[0, k] - at, tip[1, k] - middle) for k in (0, 1))
        low, high = np.where(total < length, middle, low), np.where(total < length, high, middle)
    middle = 0.5 * (low + high)
    part = np.hypot(tip[0, 0] - at, tip[1, 0] - middle)
    least = np.hypot(hold.nock_offset, middle - hold.pivot[1])
    nothing = np.zeros(limbs.batch)
    p = np.full((2, limbs.batch), 0.1)
    return Braced(nothing * np.nan, length, nothing, p, part, least, True)


def _cross(v: Floats, w: Floats) -> Floats:
    return np.asarray(v[0] * w[1] - v[1] * w[0])


def _line_height(tip: Floats, along: float) -> Floats:
    """Across position of the line through both tips at a place along the handle axis."""
    (xu, xl), (yu, yl) = tip[0], tip[1]
    return np.asarray(yl + (yu - yl) * (along - xl) / (xu - xl))


def _d_line_height(tip: Floats, d_tip: Floats, along: float) -> Floats:
    (xu, xl), (yu, yl) = tip[0], tip[1]
    (dxu, dxl), (dyu, dyl) = d_tip[0], d_tip[1]
    span, share = xu - xl, (along - xl) / (xu - xl)
    d_share = -dxl / span - share * (dxu - dxl) / span
    return np.asarray(dyl + (dyu - dyl) * share + (yu - yl) * d_share)


def draw(limbs: LimbGrid, hold: Hold, braced: Braced, draws: Floats) -> Drawn:
    """Draw each braced bow of the batch to its draw, ``(B,)`` (m); repeat the grid for several draws.

    Raises:
        DrawBeyondReachError: the limbs and string cannot give that draw, or it is below the braced state.
        NotConvergedError: no state was found.
        DescriptionError: a draw that is not above zero.
    """
    draws = np.broadcast_to(np.asarray(draws, float), (limbs.batch,))
    _check_goal(draws, "draw")
    px, py = hold.pivot
    if np.any(draws < braced.least_draw - 1e-9):
        raise DrawBeyondReachError(
            f"The draw starts at {braced.least_draw.max() * 1000:.0f} mm, where the string is; ask for a longer draw."
        )
    scale = scales(limbs, 32)
    tip, _ = bent(limbs, scale)
    start = np.stack([np.full_like(draws, px + hold.nock_offset), py + draws])
    reach = np.hypot(*(tip - start[:, None, :, None]))
    scale, found = _crossing(scale, -(braced.string_length[:, None] - reach.sum(0)), np.zeros_like(draws))
    if not found.all():
        raise DrawBeyondReachError("The limbs and string cannot give this draw; shorten the draw or lengthen the bow.")
    tension, p = _start(limbs, scale, start)
    unit = np.maximum(tension.mean(0), 1.0)
    length, sliding, clamped = braced.string_length, hold.held_by == "sliding hook", hold.support == "clamp"
    line = np.hypot(*(start - np.array([[px], [py]])))

    def residual(x: Floats) -> tuple[Floats, Floats]:
        e = ends(limbs, x[[0, 2]] * unit, x[[1, 3]])
        parts = np.stack([x[4], length - x[4]]) + np.minimum(x[[1, 3]], 0.0)
        nock = e.tip - parts * e.out
        d_own = e.d_tip - parts * e.d_out  # by (T, p) of the same limb
        d_own[:, 0] *= unit
        d_own[:, 1] -= e.out * (x[[1, 3]] < 0)
        d_out = e.d_out.copy()
        d_out[:, 0] *= unit
        r, jac = np.zeros_like(x), np.zeros((5, 5, x.shape[1]))
        r[:2] = nock[:, 0] - nock[:, 1]
        jac[:2, :2], jac[:2, 2:4] = d_own[:, :, 0], -d_own[:, :, 1]
        jac[:2, 4] = -e.out[:, 0] - e.out[:, 1]
        arm = nock[:, 0] - np.array([[px], [py]])
        reach = np.hypot(*arm)
        d_arm = np.zeros((2, 5, x.shape[1]))
        d_arm[:, :2], d_arm[:, 4] = d_own[:, :, 0], -e.out[:, 0]
        r[2] = reach - draws
        jac[2] = (d_arm * arm[:, None]).sum(0) / reach
        if clamped:
            r[3], jac[3] = arm[0], d_arm[0]
        else:
            pull = x[0] * e.out[:, 0] + x[2] * e.out[:, 1]
            d_pull = np.zeros((2, 5, x.shape[1]))
            d_pull[:, :2], d_pull[:, 2:4] = x[0] * d_out[:, :, 0], x[2] * d_out[:, :, 1]
            d_pull[:, 0] += e.out[:, 0]
            d_pull[:, 2] += e.out[:, 1]
            r[3] = _cross(arm, pull) / line
            jac[3] = (_cross(d_arm, pull[:, None]) + _cross(arm[:, None], d_pull)) / line
        if sliding:
            r[4], jac[4, 0], jac[4, 2] = x[0] - x[2], 1.0, -1.0
        else:
            r[4], jac[4, 4] = x[4] - braced.upper_part, 1.0
        return r, jac

    guess = np.stack([tension[0] / unit, p[0], tension[1] / unit, p[1], braced.upper_part])
    x = _newton(residual, guess, slice(0, 3, 2), slice(1, 4, 2), "The drawn bow")
    tension, p = x[[0, 2]] * unit, x[[1, 3]]
    e = ends(limbs, tension, p)
    nock = e.tip[:, 0] - (x[4] + np.minimum(p[0], 0.0)) * e.out[:, 0]
    arm = nock - np.array([[px], [py]])
    pull = tension[0] * e.out[:, 0] + tension[1] * e.out[:, 1]
    weight = -(pull * arm).sum(0) / draws
    return Drawn(draws, weight, tension, p, nock, np.arctan2(arm[0], arm[1]))


@dataclass(frozen=True)
class Peak:
    """Where a limb is strained most: value, limb (0 upper, 1 lower), face and place from the root (m)."""

    value: float
    limb: int
    face: str
    at: float


@dataclass(frozen=True)
class Curve:
    """One bow's force–draw curve with everything behind it.

    Attributes:
        limbs: the grid of one bow.
        braced: the braced state, a batch of one.
        drawn: a batch with one entry per draw.
        energy: stored since the braced (or hanging) state, ``(draws,)`` (J).
        shapes: at each draw.
        at_brace: shapes at brace; the unbent limbs for a hanging string.
        peaks: one per draw.
    """

    limbs: LimbGrid
    braced: Braced
    drawn: Drawn
    energy: Floats
    shapes: Shapes
    at_brace: Shapes
    peaks: tuple[Peak, ...]

    @property
    def stack(self) -> float:
        """How much steeper the curve is at its end than on average."""
        d, f = self.drawn.draw, self.drawn.weight
        if d.size < 3:
            return float("nan")
        return float((f[-1] - f[-2]) / (d[-1] - d[-2]) / ((f[-1] - f[0]) / (d[-1] - d[0])))


def solve(bow: Bow, draws: Floats, cells: int = CELLS) -> Curve:
    """Brace one bow and draw it to each of ``draws`` (m), all in one batch.

    Raises:
        BowyeryError: what brace and draw raise.
    """
    limbs = grid(bow, cells)
    return solve_grid(limbs, bow, np.atleast_1d(np.asarray(draws, float)))


def brace_bow(limbs: LimbGrid, bow: Bow) -> Braced:
    """Brace one bow as its description says, by brace height or string length."""
    if bow.brace_height is None and bow.string_length is None:
        raise DescriptionError("Give a brace height or a string length.", "string")
    return brace(
        limbs,
        bow.hold,
        None if bow.brace_height is None else np.array([bow.brace_height]),
        None if bow.string_length is None else np.array([bow.string_length]),
    )


def solve_grid(limbs: LimbGrid, bow: Bow, draws: Floats, braced: Braced | None = None) -> Curve:
    """Like :func:`solve` for limbs already cut into cells, and braced already where that is at hand."""
    if draws.size == 0:
        raise DescriptionError("Give at least one draw.", "draws")
    braced = braced or brace_bow(limbs, bow)
    many = limbs.repeated(draws.size)
    drawn = draw(many, bow.hold, repeated(braced, draws.size), draws)
    at_brace = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
    result = shapes(many, drawn.tension, drawn.p)
    return Curve(limbs, braced, drawn, result.energy - at_brace.energy, result, at_brace, _peaks(many, result))


def repeated(braced: Braced, times: int) -> Braced:
    """Repeat each braced bow ``times`` times."""
    return replace(
        braced,
        height=np.repeat(braced.height, times),
        string_length=np.repeat(braced.string_length, times),
        tension=np.repeat(braced.tension, times),
        p=np.repeat(braced.p, times, axis=1),
        upper_part=np.repeat(braced.upper_part, times),
        least_draw=np.repeat(braced.least_draw, times),
    )


def _peaks(limbs: LimbGrid, result: Shapes) -> tuple[Peak, ...]:
    faces = np.abs(np.stack([result.back, result.belly]))  # face, limb, batch, node
    places = limbs.places()
    found = []
    for state in range(limbs.batch):
        here = faces[:, :, state]
        # of places alike to rounding, the first: back before belly, upper before lower, root before tip
        face, limb, node = np.unravel_index(int((here >= here.max() * (1 - 1e-9)).argmax()), here.shape)
        value = float(faces[face, limb, state, node])
        found.append(Peak(value, int(limb), ("back", "belly")[face], float(places[limb, state, node])))
    return tuple(found)
