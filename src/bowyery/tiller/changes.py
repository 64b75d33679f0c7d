"""What changes a bow between two looks at it: wood that came off, and acts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from bowyery.bow.bow import SIDES, Bow, Limb, Side


@dataclass(frozen=True)
class Pass:
    """Wood taken in one go: off which limb, between which places from the centre (m), as a
    thickness (m) or in strokes.

    Attributes:
        start: from (m).
        end: to (m).
        tool: that took it, where it was written.
        face: off which face where not off the belly: sides, edges, back or facets.
    """

    limb: Side
    thickness: float | None
    strokes: int | None
    start: float | None = None
    end: float | None = None
    tool: str = ""
    face: str = ""


@dataclass(frozen=True)
class Act:
    """Something that changed the bow otherwise than by wood off its belly.

    Attributes:
        more: what the act's second figure says (SI), such as minutes of heat.
        limb: None for both, or for the whole bow.
        value: a length (m) or an angle (rad), as the kind has it.
        start, end: from the bow's centre (m), alike for a place.
        how: colour, material, or how a crack was mended.
        id: of the measure it came from.
    """

    kind: str
    limb: Side | None = None
    value: float | None = None
    start: float | None = None
    end: float | None = None
    more: float | None = None
    how: str = ""
    id: int = 0
    entry: int = 0


def sides_of(change: Act | Pass) -> tuple[int, ...]:
    """The limbs it was done to, as places on the first axis of the arrays."""
    return (0, 1) if change.limb is None else (SIDES.index(change.limb),)


def of_each(bow: Bow, change: Act | Pass, done: Callable[[Limb], Limb]) -> Bow:
    """The bow with each limb that a change was done to as it is then.

    Args:
        done: the limb after it, by the limb before.
    """
    sides = sides_of(change)
    limbs = [done(one) if k in sides else one for k, one in enumerate(bow.limbs)]
    return replace(bow, upper=limbs[0], lower=limbs[1])
