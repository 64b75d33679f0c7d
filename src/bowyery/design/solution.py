"""What a bow of known marks comes to."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import (
    Layout,
    Mark,
    Wanted,
)
from bowyery.bow.limb_grid import grid, layer_depths, limb_mass
from bowyery.design.usual import Kind, usual
from bowyery.design.verdict import Verdict, verdict
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.back_bow import SharedCurve
from bowyery.mechanics.strain import (
    BendLimits,
    SetForecast,
    SetShare,
    Uses,
    bend_limits,
    expected_set,
    surface_strain,
    uses_of,
)
from bowyery.wood.materials import Material

_CURVE = 26


@dataclass(frozen=True)
class Solution:
    """A solved design, rounded to the maker's steps and solved forward again, or a bow as it was
    marked.

    Attributes:
        marks: the marking table, upper limb then lower, from root to nock.
        curve: forward solution of the rounded bow, from brace to full draw.
        exact_weight: at full draw before rounding (N).
        strain: greatest surface strain at full draw.
        limits: bends at which the layers reach their limits.
        mass: of both limbs and the handle (kg).
        shared: how a back-bow shares the bending, where there is one.
    """

    layout: Layout
    wanted: Wanted
    wood: Material
    bow: Bow
    marks: tuple[Mark, ...]
    curve: force_curve.Curve
    exact_weight: float
    strain: float
    limits: BendLimits
    uses: Uses
    set: SetForecast
    mass: float
    shared: SharedCurve | None = None

    @property
    def layered(self) -> bool:
        """Whether the limbs are of more than one layer."""
        return len(self.bow.upper.layers) > 1

    @property
    def ground(self) -> bool:
        """Whether its lams are ground to thousandths, between facings, and not shaped by hand."""
        return any(la.role == "facing" for la in self.bow.upper.layers)

    @property
    def wood_layer(self) -> int:
        """Which layer from the back is the wood that is shaped, and has the rest of the depth."""
        return [la.thickness is None for la in self.bow.upper.layers].index(True)

    def wood_of(self, mark: Mark) -> float:
        """How thick the wood itself is at a mark (m)."""
        return mark.layers[self.wood_layer] if mark.layers else mark.thickness

    @property
    def use(self) -> float:
        """Greatest use of what the layers bear for years."""
        return self.uses.lasts

    @property
    def weight(self) -> float:
        """At full draw, of the rounded bow (N)."""
        return float(self.curve.drawn.weight[-1])

    @cached_property
    def usual(self) -> Kind | None:
        """The kind of bow that is usually bent so far, where it is one."""
        return usual(self.bow, self.weight, self.wanted.draw, self.strain)

    @property
    def verdict(self) -> Verdict:
        """What being bent so far does to it."""
        return verdict(self.uses, self.usual)


def as_marked(
    bow: Bow,
    layout: Layout,
    wanted: Wanted,
    wood: Material,
    exact_weight: float | None = None,
    share: SetShare | None = None,
    near: statics.Braced | None = None,
) -> Solution:
    """What a bow comes to as it is marked, without solving for anything.

    Args:
        layout, wanted, wood: what it belongs to; only the draw and the handle's size enter.
        exact_weight: before rounding (N), where it was solved for.
        share: of the excess bend that stays, fitted from a maker's own bows, or the usual one.
        near: the braced state of much the same bow, to start from.

    Raises:
        BowyeryError: what the statics raise.
    """
    shared = None
    if bow.back_bow is None:
        limbs = grid(bow)
        braced = statics.brace_bow(limbs, bow, near)
        draws = np.linspace(float(braced.least_draw[0]) * (1 + 1e-9), wanted.draw, _CURVE)
        curve = force_curve.solve_grid(limbs, bow, draws, braced)
    else:
        shared = backbow.solve(replace(bow, draw=wanted.draw), None)
        limbs, curve = shared.limbs, backbow.as_curve(shared)
    marks = tuple(
        Mark(name, limb.root[0] + float(at), float(at), float(w), float(t), tuple(map(float, each)))
        for name, limb in zip(SIDES, bow.limbs, strict=True)
        for at, w, t, each in zip(
            limb.at, limb.width, limb.thickness, layer_depths(limb, limb.at).T, strict=True
        )
    )
    limits = bend_limits(bow, limbs)
    handle = layout.handle + 2 * layout.fade
    mass = (
        float(limb_mass(limbs).sum())
        + wood.density * handle * layout.handle_depth * 0.75 * layout.width * 0.85
    )
    strain = float(surface_strain(curve.shapes)[:, -1].max())
    follow = expected_set(
        limbs, limits, curve.shapes, share=share, keeps=wood.keeps, returns=layout.reflex_returns
    )
    weight = float(curve.drawn.weight[-1])
    return Solution(
        layout,
        wanted,
        wood,
        bow,
        marks,
        curve,
        exact_weight or weight,
        strain,
        limits,
        uses_of(limits, curve.shapes),
        follow,
        mass,
        shared,
    )
