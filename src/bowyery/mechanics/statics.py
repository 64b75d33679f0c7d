"""Braced and drawn bows: both limbs, the string and the hold together, solved by Newton's method.

Braced: one tension, the string's direction at both limbs along one line, and its length or its
    height over the pivot. Drawn: tension and p of each limb and the string's upper part; both
    halves meet at the nocking point, it is at the draw, the pull goes through the pivot (or,
    clamped, stays square to it), and the string is held by fingers or slides. What is solved by
    whom: ``kernel.py``, compiled, for any number of bows and draws one after another. Failures are
    typed and say what to change.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np

from bowyery.arrays import Floats, Points, Whole
from bowyery.bow.bow import Bow, Hold
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import (
    DescriptionError,
    DrawBeyondReachError,
    NotConvergedError,
    StringTooLongError,
    StringTooShortError,
)
from bowyery.mechanics import kernel

# A brace lower than this, where it is not found at once, is come down to from so much above (m).
LOWEST, LOWERED = 0.13, 0.07


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
        on_limb: length of the string that lies on each limb, ``(2, B)`` (m).
    """

    draw: Floats
    weight: Floats
    tension: Floats
    p: Floats
    nock: Floats
    tilt: Floats
    on_limb: Floats

    def pick(self, k: int) -> Drawn:
        """One of the batch, as a batch of one."""
        return Drawn(*(getattr(self, f.name)[..., k : k + 1] for f in fields(self)))


def _check_goal(value: Floats, what: str) -> None:
    if not np.all(np.isfinite(value)) or np.any(value <= 0):
        raise DescriptionError(f"The {what} must be a number above zero.", what.replace(" ", "_"))


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
    if height is None and string_length is None:
        raise DescriptionError("Give a brace height or a string length.", "string")
    by_height = height is not None
    # one made for this: what was only broadcast cannot be written to, and compiles anew
    goal = np.full(limbs.batch, height if by_height else string_length, float)
    _check_goal(goal, "brace height" if by_height else "string length")
    px, py = hold.pivot
    tip = unbent_nocks(limbs)
    if by_height:
        if near is None and np.any(_line_height(tip, px) - py >= goal):
            raise StringTooLongError(
                "At this brace height the string would not be tight; ask for a higher brace."
            )
    else:
        longer = goal >= np.abs(tip[0] - tip[1])
        if longer.any() and near is None:
            if not longer.all():
                raise StringTooLongError(
                    "Some bows of the batch have a hanging string and some a braced one."
                )
            return _hang(hold, tip, goal)
    x = np.empty((limbs.batch, 3))
    if near is not None:
        x[:, 0], x[:, 1:] = near.tension, near.p.T
    ends, status = np.empty((limbs.batch, 2, 15)), np.zeros(limbs.batch, np.int64)
    kernel.brace_all(
        limbs.march_values,
        _roots(limbs),
        px,
        py,
        goal,
        by_height,
        near is not None,
        x,
        ends,
        status,
    )
    if np.any(status == kernel.TOO_FAR):
        raise StringTooShortError(
            "These limbs cannot bend so far: give a longer string or a lower brace height."
        )
    if by_height and near is None and goal.max() < LOWEST and np.any(status == kernel.LOST):
        return _lowered(limbs, hold, goal)
    _all_found(status, "The braced bow")
    if np.any(status == kernel.LOOSE):
        raise StringTooLongError(
            "The string would not be tight: it must be shorter, or the brace higher."
        )
    lifts = np.moveaxis(ends[..., 0] + 1j * ends[..., 1], 1, 0)
    return _braced(hold, lifts, np.moveaxis(ends[..., 12], 1, 0), x[:, 0], x[:, 1:].T)


def _lowered(limbs: LimbGrid, hold: Hold, height: Floats) -> Braced:
    """Braced low from a higher brace downwards: so the strongly reflexed limbs are found whose
    string pulls the harder the lower it is.
    """
    found = brace(limbs, hold, height + LOWERED)
    for more in np.linspace(LOWERED, 0.0, 8)[1:]:
        found = brace(limbs, hold, height + more, near=found)
    return found


def _roots(limbs: LimbGrid) -> Floats:
    return np.ascontiguousarray(limbs.root, float)


def _all_found(status: Whole, what: str) -> None:
    bad = int((status == kernel.LOST).sum())
    if bad:
        raise NotConvergedError(
            f"{what} could not be found for {bad} of {status.size} states; change the draw or"
            " string a little."
        )


def unbent_nocks(limbs: LimbGrid) -> Points:
    """Where the string would leave the nocks of unbent limbs, in the bow's frame, ``(2, B)``."""
    out = np.empty((2, limbs.batch, 3))
    kernel.unbent_all(limbs.march_values, _roots(limbs), out)
    return np.asarray(out[..., 0] + 1j * out[..., 1])


def _braced(hold: Hold, tip: Points, on_limb: Floats, tension: Floats, p: Floats) -> Braced:
    """From where the string leaves the limbs, ``(2, B)``, and its length on them (m)."""
    px, py = hold.pivot
    at = np.full(tension.size, px + hold.nock_offset)
    if hold.held_by == "sliding hook" and hold.support != "clamp":
        # a free hook on a bow that may tilt starts where its pull is square to the string
        line = (tip[0] - tip[1]) / np.abs(tip[0] - tip[1])
        from_low = complex(px, py) - tip[1]
        at = (tip[1] + line * (line.real * from_low.real + line.imag * from_low.imag)).real
    nock = at + 1j * _line_height(tip, at)
    return Braced(
        _line_height(tip, px) - py,
        np.abs(tip[0] - tip[1]) + on_limb.sum(0),
        tension,
        p,
        np.abs(tip[0] - nock) + on_limb[0],
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


def draw(
    limbs: LimbGrid, hold: Hold, braced: Braced, draws: Floats, near: Drawn | None = None
) -> Drawn:
    """Draw each braced bow of the batch to its draw, or to several.

    Args:
        draws: ``(B,)`` (m), or as many for each bow, those of one bow one after another.
        near: drawn state of much the same bows, to start from.

    Returns:
        The drawn batch, one state a draw.

    Raises:
        DrawBeyondReachError: the limbs and string cannot give that draw, or it is below the braced
            state.
        NotConvergedError: no state was found.
        DescriptionError: a draw that is not above zero.
    """
    draws = np.array(draws, float, ndmin=1)
    if draws.size < limbs.batch:
        draws = np.full(limbs.batch, draws)
    _check_goal(draws, "draw")
    which = np.repeat(np.arange(limbs.batch), draws.size // limbs.batch)
    least = braced.least_draw[which]
    if np.any(draws < least - 1e-9):
        raise DrawBeyondReachError(
            f"The draw starts at {braced.least_draw.max() * 1000:.0f} mm, where the string is; ask"
            " for a longer draw."
        )
    sliding, clamped = hold.held_by == "sliding hook", hold.support == "clamp"
    x = np.empty((draws.size, 5))
    if sliding and not clamped and near is None:
        # a straight string on a bow turned aside would do too, without any pull: start from the
        # fingers' state
        near = draw(limbs, replace(hold, held_by="fingers"), braced, draws)
    if near is not None:
        x[:, [0, 2]], x[:, [1, 3]], x[:, 4] = near.tension.T, near.p.T, braced.upper_part[which]
    ends, status = np.empty((draws.size, 2, 15)), np.zeros(draws.size, np.int64)
    px, py = hold.pivot
    kernel.draw_all(
        limbs.march_values,
        _roots(limbs),
        px,
        py,
        hold.nock_offset,
        clamped,
        sliding,
        which,
        draws,
        braced.string_length,
        braced.upper_part,
        braced.least_draw,
        np.column_stack([braced.tension, braced.p.T]),
        near is not None,
        x,
        ends,
        status,
    )
    if np.any(status == kernel.TOO_FAR):
        raise DrawBeyondReachError(
            "The limbs and string cannot give this draw; shorten the draw or lengthen the bow."
        )
    _all_found(status, "The drawn bow")
    tension, p = x[:, [0, 2]].T, x[:, [1, 3]].T
    lifts = np.moveaxis(ends[..., 0] + 1j * ends[..., 1], 1, 0)
    out = np.moveaxis(ends[..., 2] + 1j * ends[..., 3], 1, 0)
    nock = lifts[0] - (x[:, 4] - ends[:, 0, 12]) * out[0]
    arm = nock - complex(px, py)
    pull = (tension * out).sum(0)
    weight = -(pull.real * arm.real + pull.imag * arm.imag) / draws
    if sliding and np.any((draws > 1.01 * least) & (weight < 1e-4 * tension.sum(0))):
        raise NotConvergedError(
            "The hook slid along the string without drawing it; draw it by fingers or clamp the"
            " bow."
        )
    return Drawn(
        draws,
        weight,
        tension,
        p,
        np.stack([nock.real, nock.imag]),
        np.arctan2(arm.real, arm.imag),
        ends[..., 12].T,
    )


def brace_bow(limbs: LimbGrid, bow: Bow, near: Braced | None = None) -> Braced:
    """Brace one bow as its description says, by brace height or string length; from a near state
    where one is at hand.

    Args:
        near: braced state of much the same bow, or None.

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
