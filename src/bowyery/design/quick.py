"""A design before its marks are rounded, on few cells, for searches."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.bow.layout import (
    Layout,
    Wanted,
)
from bowyery.design.solution import as_marked
from bowyery.design.solve import FEW, settle
from bowyery.design.usual import usual
from bowyery.design.verdict import Verdict, verdict
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.strain import (
    SetForecast,
    Uses,
    bend_limits,
    expected_set,
    uses_of,
)
from bowyery.wood.materials import Material


@dataclass(frozen=True)
class Quick:
    """A design before rounding, solved on few cells, for searches: strain, uses of limits, set,
    thickness at the root (m), weight at full draw (N), and what being bent so far does to it.
    """

    strain: float
    uses: Uses
    set: SetForecast
    thickness: float
    weight: float
    verdict: Verdict


def quick(layout: Layout, wanted: Wanted, wood: Material) -> Quick:
    """Solve a design before rounding; raises what :func:`solve_design` raises."""
    found = settle(layout.checked(), wanted.checked(), wood)
    if found.bow.back_bow is not None:
        whole = as_marked(found.bow, layout, wanted, wood)
        return Quick(
            whole.strain,
            whole.uses,
            whole.set,
            float(found.thickness[0][0]),
            whole.weight,
            whole.verdict,
        )
    curve = force_curve.solve(found.bow, np.array([wanted.draw]), FEW)
    limits = bend_limits(found.bow, curve.limbs)
    uses, strain = uses_of(limits, curve.shapes), curve.peaks[0].value
    weight = float(curve.drawn.weight[-1])
    return Quick(
        strain,
        uses,
        expected_set(
            curve.limbs, limits, curve.shapes, keeps=wood.keeps, returns=layout.reflex_returns
        ),
        float(found.thickness[0][0]),
        weight,
        verdict(uses, usual(found.bow, weight, wanted.draw, strain)),
    )
