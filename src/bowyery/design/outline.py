"""What a solved design asks of a stave."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.design.solution import Solution
from bowyery.mechanics.strain import limit_use
from bowyery.wood.placement import Outline


def _stiff_part(
    found: Solution, sign: float, root: tuple[float, ...]
) -> list[tuple[float, float, float, float]]:
    """Fade and half of the handle: as thickness grows to the grip's, strain falls with its square
    and with the width.
    """
    layout = found.layout
    at, width, depth, use = root
    end = sign * layout.handle / 2 - layout.grip_drop
    grip, deep = layout.grip_width, layout.handle_depth
    rows = []
    for share in (0.25, 0.5, 0.75, 1.0):
        w, t = width + share * (grip - width), depth + share * (deep - depth)
        bent = (
            0.0 if share == 1.0 else use * (depth / t) ** 2 * width / w
        )  # a rigid grip bears none
        rows.append((at + share * (end - at), w, t, bent))
    return rows


def outline_of(found: Solution) -> Outline:
    """What a solved design asks of a stave."""
    limbs = found.curve.limbs
    use = limit_use(found.limits, found.curve.shapes)
    rows: list[tuple[float, float, float, float]] = []
    for side, sign in ((1, -1.0), (0, 1.0)):
        start = found.bow.limbs[side].root[0]
        places = limbs.places()[side, 0]
        keep = places >= 0
        columns = (sign * (start + places), limbs.width[side, 0], limbs.depth[side, 0], use[side])
        limb = list(zip(*(column[keep] for column in columns), strict=True))
        rows += limb[::-1] if sign < 0 else limb
        if found.layout.stiff_handle:
            rows += _stiff_part(found, sign, limb[0])
    at, width, depth, worked = (np.array(column) for column in zip(*sorted(rows), strict=True))
    at, first = np.unique(at, return_index=True)
    crowned = found.bow.upper.shape.name in ("crowned back", "culm segment")
    beyond = max(found.layout.beyond)
    return Outline(at - at[0], width[first], depth[first], worked[first], crowned, beyond)


def bends_of(at: Floats, width: Floats, within: float) -> list[int]:
    """Numbers of the stations between which an outline is straight to within a length (m), the
    first and the last among them (Douglas and Peucker, 1973).

    Args:
        at, width: stations along the limb and its width there, ``(n,)`` (m).
    """
    first, last = 0, len(at) - 1
    kept, spans = {first, last}, [(first, last)]
    while spans:
        a, b = spans.pop()
        off = np.abs(np.interp(at[a : b + 1], at[[a, b]], width[[a, b]]) - width[a : b + 1])
        k = a + int(off.argmax())
        if off.max() > within:
            kept.add(k)
            spans += [(a, k), (k, b)]
    return sorted(kept)
