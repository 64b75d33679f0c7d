"""Glue lines of a layered limb: the strain they are bent to, and the shear they carry."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Limb
from bowyery.bow.limb_grid import LimbGrid, interpolation, layer_depths
from bowyery.bow.section import completed, integrate, width_at
from bowyery.mechanics.elastica import Shapes


@dataclass(frozen=True)
class GlueLine:
    """One glue line along a limb, at the nodes from root to nock.

    Attributes:
        between: roles of the layers on its back and belly side.
        strain: normal strain, tension positive.
        shear: mean shear stress over the width (Pa).
    """

    between: tuple[str, str]
    strain: Floats
    shear: Floats


def glue_lines(
    limb: Limb, side: int, limbs: LimbGrid, bent: Shapes, state: int = -1
) -> tuple[GlueLine, ...]:
    """Strain and shear in every glue line of one limb.

    The shear force is the change of the bending moment along the limb; the shear stress is
    ``τ = V·ES(z) / (EI·w(z))`` with ES the modulus-weighted first moment of what lies on the back's
    side of the glue line (Jourawski's formula for composite beams: Gere and Goodno 2012, chapter
    6).

    Args:
        side: 0 for the upper limb, 1 for the lower.
        bent: shapes of a batch of states.
    """
    moment, bend = bent.moment[side, state], bent.bend[side, state]
    along = limbs.places()[side, 0]
    places = np.maximum(along, 0.0)
    depths = layer_depths(limb, places)
    width = np.interp(places, limb.at, limb.width)
    shape = completed(limb.shape).at(interpolation(limb.at, places))
    moduli = np.array([layer.modulus for layer in limb.layers])
    densities = np.array([layer.density for layer in limb.layers])
    whole = integrate(shape, width, depths, moduli, densities)
    force = np.abs(np.gradient(moment, along))
    lines = []
    for number in range(1, len(limb.layers)):
        z = depths[:number].sum(0)
        # the same section with everything on the belly's side of the line made weightless
        back_side = moduli * (np.arange(moduli.size) < number)
        part = integrate(shape, width, depths, np.where(back_side > 0, back_side, 1e-30), densities)
        first_moment = part.stretch_stiffness * np.abs(part.axis - whole.axis)
        shear = force * first_moment / (whole.stiffness * width_at(shape, z, whole.depth, width))
        roles = (limb.layers[number - 1].role, limb.layers[number].role)
        lines.append(GlueLine(roles, bend * (whole.axis - z), shear))
    return tuple(lines)
