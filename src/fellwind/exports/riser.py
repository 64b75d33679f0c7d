"""The block of a laminated bow's grip and the overlay of its tips, at full size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.design.solution import Solution
from bowyery.errors import DescriptionError
from bowyery.units.quantity import World
from fellwind.exports.template import Template, template_of

OVERLAY, OVERLAY_THICK = 40.0, 4.0  # usual, from a little inside the nock outwards (mm)
GAP = 22.0  # between what stands on the page (mm)
Line = list[tuple[float, float]]


@dataclass(frozen=True)
class Riser:
    """What is glued on under the lams and on the tips, in mm, 0 at the bow's centre.

    Attributes:
        block: from the side, its glue face at 0.
        face: the block from the back, about the centre line.
        tip: overlay from the back, about the centre line, and from the side.
        marks: ends of the fades.
    """

    block: Line
    face: Line
    tip: tuple[Line, Line]
    marks: tuple[tuple[float, str], ...]

    @property
    def reach(self) -> tuple[float, float]:
        """Lower and upper end (mm)."""
        return min(x for x, _ in self.block), max(x for x, _ in self.block)

    def placed(self, high: float) -> tuple[float, list[tuple[Line, float]]]:
        """Block, its face and the overlay one below the other on a page so high (mm)."""
        wide = max(y for _, y in self.face)
        middle = high - 28 - wide
        side = middle - wide - GAP
        foot = side - max(-y for _, y in self.block) - GAP
        overlay = max(y for _, y in self.tip[0])
        tip = foot - overlay
        return middle, [
            (self.face, middle), (self.block, side), (self.tip[0], tip),
            (self.tip[1], tip - overlay - GAP / 2),
        ]  # fmt: skip


def _between(shape: Template, low: float, high: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    at = np.unique([low, *shape.at[(shape.at > low) & (shape.at < high)], high])
    return at, np.interp(at, shape.at, shape.width), np.interp(at, shape.at, shape.depth)


def _about(at: np.ndarray, width: np.ndarray) -> Line:
    top = [(float(x), float(w) / 2) for x, w in zip(at, width, strict=True)]
    return [*top, *((x, -y) for x, y in reversed(top))]


def riser_shape(found: Solution, world: World, fade_shape: str) -> Riser:
    """Block and overlay of a laminated bow.

    Args:
        fade_shape: a key of FADE_SHAPES.

    Raises:
        DescriptionError: the bow is of one piece, or bends in the grip and has no block.
    """
    if not found.layered:
        raise DescriptionError("A bow of one piece has no block.", "layers")
    if not found.layout.stiff_handle:
        raise DescriptionError("This bow bends in the grip: it has no block.", "handle")
    shape = template_of(found, world, fade_shape)
    ends = [
        sign * 1000 * next(m.from_centre for m in found.marks if m.limb == side)
        for side, sign in (("lower", -1.0), ("upper", 1.0))
    ]
    at, width, depth = _between(shape, *ends)
    # the lams run through as thick as they are at each fade's end
    lams = np.interp(at, ends, [depth[0], depth[-1]])
    belly = np.minimum(lams - depth, 0.0)
    block = [(float(x), 0.0) for x in at]
    block += [(float(x), float(y)) for x, y in zip(at[::-1], belly[::-1], strict=True)]
    nock = [m for m in found.marks if m.limb == "upper"][-1].from_centre * 1000
    far = shape.reach[1]
    over, wide, _ = _between(shape, max(nock - 0.6 * OVERLAY, 0.0), max(far, nock + 0.4 * OVERLAY))
    shift = ends[0] - over[0]  # it stands under the block's lower end
    thick = [(float(over[0]), 0.0), (float(over[-1]), 0.0), (float(over[-1]), OVERLAY_THICK),
             (float(nock - 6), OVERLAY_THICK)]  # fmt: skip
    moved = [(x + shift, y) for x, y in thick]
    marks = tuple((x, f"{side} limb bends from here") for x, side in zip(ends, ("lower", "upper"),
                                                                       strict=True))  # fmt: skip
    return Riser(block, _about(at, width), (_about(over + shift, wide), moved), marks)
