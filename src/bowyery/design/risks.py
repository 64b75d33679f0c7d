"""What else may go wrong with a bow that bears its strain: limbs that turn sideways, abrupt fades,
heavy tips.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import LimbGrid, interpolation, layer_depths
from bowyery.bow.section import completed, sides_at

# A limb that is no more than about as stiff sideways as it is in bending follows the string aside
# when the string lies a little off its middle; bowyers keep limbs at least as wide as deep, which
# for a rectangle is the ratio 1.
LATERAL_RULE = 1.0
# Thickness that grows by more than this share of the way along the fade bends at the fade's end as
# at a step.
ABRUPT_FADE = 0.75
_FIBRES = 96


@dataclass(frozen=True)
class Risks:
    """Figures of a bow's secondary risks.

    Attributes:
        lateral: least ratio of sideways to bending stiffness over the limbs, but for the last tenth
            at the nocks.
        lateral_limb: 0 upper, 1 lower; lateral_at: from its root (m).
        side_shift: how far the tip goes aside for a sideways pull of one newton, the worse limb
            (m/N).
        fade: rise of thickness over the length of the fade, the steeper one; 0 without a stiff
            handle.
        outer_mass: mass of the outer fifth of both limbs (kg).
        outer_share: their share of both limbs' mass.
    """

    lateral: float
    lateral_limb: int
    lateral_at: float
    side_shift: float
    fade: float
    outer_mass: float
    outer_share: float


def lateral_stiffness(limb: Limb, places: Floats) -> Floats:
    """Stiffness against bending sideways at places from the root (N·m²): ``∫ E w³/12 dz`` through
    the layers.

    Args:
        places: from the limb's root, ``(places,)`` (m).
    """
    depths = layer_depths(limb, places)
    matrix = interpolation(limb.at, places)
    width, depth = matrix @ limb.width, depths.sum(0)
    shape = completed(limb.shape).at(matrix)
    shape_at = type(shape)(
        shape.name,
        {k: v[:, None] if isinstance(v, np.ndarray) else v for k, v in shape.figures.items()},
    )
    edges = np.concatenate([np.zeros((1, places.size)), np.cumsum(depths, 0)])
    total = np.zeros(places.size)
    share = (np.arange(_FIBRES) + 0.5) / _FIBRES
    for layer, top, thick in zip(limb.layers, edges[:-1], depths, strict=True):
        z = top[:, None] + thick[:, None] * share
        outer, hollow = sides_at(shape_at, z, depth[:, None], width[:, None])
        total += layer.modulus * ((outer**3 - hollow**3) / 12).mean(-1) * thick
    return np.asarray(total)


def risks(bow: Bow, limbs: LimbGrid, fade: float, handle_depth: float) -> Risks:
    """Work out the risks of a bow.

    Args:
        bow, limbs: the bow and its own grid.
        fade: length of each fade (m), 0 where the handle bends.
        handle_depth: of the grip (m).
    """
    worst = (np.inf, 0, 0.0)
    shift, outer, whole = 0.0, 0.0, 0.0
    for side, limb in enumerate(bow.limbs):
        places = np.maximum(limbs.places()[side, 0], 0.0)
        sideways = lateral_stiffness(limb, places)
        ratio = sideways / limbs.node_stiffness[side, 0]
        inner = places < 0.9 * limb.length
        k = int(np.where(inner, ratio, np.inf).argmin())
        if ratio[k] < worst[0]:
            worst = (float(ratio[k]), side, float(places[k]))
        shift = max(shift, float(np.trapezoid((limb.length - places) ** 2 / sideways, places)))
        mass = limbs.line_mass[side, 0]
        grown = np.concatenate([[0.0], np.cumsum(0.5 * (mass[1:] + mass[:-1]) * np.diff(places))])
        whole += float(grown[-1])
        outer += float(grown[-1] - np.interp(0.8 * limb.length, places, grown))
    root = min(float(limb.thickness[0]) for limb in bow.limbs)
    steep = max(0.0, handle_depth - root) / fade if fade > 0 else 0.0
    return Risks(*worst, shift, steep, outer, outer / whole)
