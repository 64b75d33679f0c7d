"""From a solved design to what its pictures are drawn from."""

from typing import TYPE_CHECKING

import numpy as np

from bowyery.arrays import Floats
from bowyery.design.solution import Solution
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import limit_use, surface_strain
from fellwind.drawing.curve import CurveData
from fellwind.drawing.ruler import LimbTrack, RulerData
from fellwind.drawing.tree import Bent

if TYPE_CHECKING:
    pass


def _track(found: Solution, limb: int, profile: np.ndarray, strain: np.ndarray) -> LimbTrack:
    grid = found.curve.limbs
    return LimbTrack(
        _from_centre(found, limb),
        grid.width[limb, 0],
        grid.depth[limb, 0],
        profile,
        strain,
        found.curve.shapes.bend[limb, -1],
    )


def _from_centre(found: Solution, limb: int) -> Floats:
    places: Floats = found.bow.limbs[limb].root[0] + found.curve.limbs.places()[limb, 0]
    return places


def ruler_data(found: Solution, former: Solution | None = None) -> RulerData:
    """What the one ruler shows of a solved design at full draw."""
    still = np.zeros((2, 1))
    rest = shapes(found.curve.limbs, still, still).across[:, 0]
    layered = len(found.bow.upper.layers) > 1
    strain = (
        limit_use(found.limits, found.curve.shapes)
        if layered
        else surface_strain(found.curve.shapes)[:, -1]
    )
    upper, lower = (_track(found, k, rest[k], strain[k]) for k in (0, 1))
    working, rupture = found.wood.working_strain, found.wood.rupture_strain
    if layered:
        working, rupture = 1.0, float((found.limits.rupture / found.limits.working).min())
    return RulerData(
        upper,
        lower,
        found.layout.handle_depth,
        found.layout.grip_width,
        working,
        rupture,
        {},
        ruler_data(former) if former and (len(former.bow.upper.layers) > 1) == layered else None,
        layered,
        found.layout.back_bow.outline if found.layout.back_bow else None,
    )


def curve_data(found: Solution, former: Solution | None = None) -> CurveData:
    """The force–draw curve of a solved design."""
    drawn = found.curve.drawn
    before = (former.curve.drawn.draw, former.curve.drawn.weight) if former else None
    return CurveData(
        drawn.draw, drawn.weight, found.wanted.weight, found.wanted.draw, former=before
    )


def bents(found: Solution, states: tuple[int, ...]) -> list[Bent]:
    """Bent shapes of a solved design at brace and at some of its draws, its handle held level."""
    curve = found.curve
    depth = curve.limbs.depth[:, 0]
    at_brace = Bent(curve.at_brace.along[:, 0], curve.at_brace.across[:, 0], depth, None)
    drawn = [
        Bent(
            curve.shapes.along[:, k],
            curve.shapes.across[:, k],
            depth,
            (float(curve.drawn.nock[0, k]), float(curve.drawn.nock[1, k])),
        )
        for k in states
    ]
    return [at_brace, *drawn]


def side_lines(found: Solution) -> dict[str, list[tuple[float, float]]]:
    """A bow's side view unstrung, braced and at full draw, from the lower nock to the upper: from
    the centre, upper limb above zero, and to the belly (m).
    """
    still, curve = np.zeros((2, 1)), found.curve
    rest, last = shapes(curve.limbs, still, still), len(curve.drawn.draw) - 1
    states = {
        "unstrung": (rest.along[:, 0], rest.across[:, 0]),
        "braced": (curve.at_brace.along[:, 0], curve.at_brace.across[:, 0]),
        "drawn": (curve.shapes.along[:, last], curve.shapes.across[:, last]),
    }

    def points(along: Floats, across: Floats) -> list[tuple[float, float]]:
        upper, lower = (
            [(float(a), float(c)) for a, c in zip(along[k], across[k], strict=True)] for k in (0, 1)
        )
        sign = -1.0 if lower[-1][0] > 0 else 1.0
        return [(sign * a, c) for a, c in lower[::-1]] + upper

    return {name: points(*both) for name, both in states.items()}


def handle_box(found: Solution) -> tuple[float, float, float]:
    """Lower and upper end of the handle with its fades along the axis, and its depth (m)."""
    layout = found.layout
    return -layout.root_from_centre(False), layout.root_from_centre(True), layout.handle_depth
