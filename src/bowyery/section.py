"""Cross-sections of a limb: shapes in width and depth, in layers counted from the back.

A shape says how wide the section is at each share of its depth; everything else is integrated from that with
Gauss–Legendre fibres, for all stations at once. Composite-beam theory with plane sections: Gere and Goodno,
Mechanics of Materials (2012), chapter 6.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bowyery.errors import DescriptionError

Floats = NDArray[np.float64]

_POINTS, _WEIGHTS = np.polynomial.legendre.leggauss(10)
_X = 0.5 * (_POINTS + 1)
# Fibres crowd quadratically at both ends of a piece, where round sections close like a square root.
_PLACE = 3 * _X**2 - 2 * _X**3
_SHARE = 0.5 * _WEIGHTS * 6 * _X * (1 - _X)


@dataclass(frozen=True)
class Layer:
    """One layer of a section, counted from the back.

    Attributes:
        role: facing, backing, core, veneer or belly.
        material: the name of what it is made of, for reading.
        modulus: along the limb (Pa).
        density: (kg/m³).
        thickness: at the limb's stations (m), or None for the rest of the depth.
        rupture_strain: nominal surface strain at rupture, or None when not known.
        elastic_strain: surface strain above which it keeps a set, or None.
    """

    role: str
    material: str
    modulus: float
    density: float
    thickness: Floats | None = None
    rupture_strain: float | None = None
    elastic_strain: float | None = None


@dataclass(frozen=True)
class Shape:
    """A shape of section: its name and the figures the shape needs.

    ``rectangle`` needs none. ``flat back, round belly`` takes ``round``, the share of the depth, from the
    belly, over which the sides are rounded in a half ellipse (above 0, to 1).
    """

    name: str = "rectangle"
    figures: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class SectionValues:
    """What a section is worth, at every station of the arrays it was made from.

    Attributes:
        stiffness: EI, bending stiffness about the neutral axis (N·m²).
        stretch_stiffness: EA (N).
        axis: depth of the neutral axis below the back (m).
        depth: whole depth (m).
        line_mass: mass per length (kg/m).
        area: (m²).
    """

    stiffness: Floats
    stretch_stiffness: Floats
    axis: Floats
    depth: Floats
    line_mass: Floats
    area: Floats


def _rectangle(depth_share: Floats, figures: dict[str, float]) -> Floats:
    return np.ones_like(depth_share)


def _round_belly(depth_share: Floats, figures: dict[str, float]) -> Floats:
    rounded = figures["round"]
    inside = np.clip((depth_share - (1 - rounded)) / rounded, 0.0, 1.0)
    return np.asarray(np.sqrt(1 - inside**2))


@dataclass(frozen=True)
class _Profile:
    width: Callable[[Floats, dict[str, float]], Floats]
    breaks: Callable[[dict[str, float]], list[float]]
    figures: dict[str, tuple[float, float, float]]  # name: default, lower bound (excluded), upper bound


PROFILES: dict[str, _Profile] = {
    "rectangle": _Profile(_rectangle, lambda figures: [], {}),
    "flat back, round belly": _Profile(_round_belly, lambda figures: [1 - figures["round"]], {"round": (0.6, 0.0, 1.0)}),
}


def completed(shape: Shape) -> Shape:
    """Fill in a shape's default figures and refuse impossible ones.

    Raises:
        DescriptionError: unknown shape or figure, or a figure out of bounds.
    """
    profile = PROFILES.get(shape.name)
    if profile is None:
        raise DescriptionError(f"“{shape.name}” is not a known section; use one of {', '.join(PROFILES)}.", "section.shape")
    for name in shape.figures:
        if name not in profile.figures:
            raise DescriptionError(f"A section of shape “{shape.name}” takes no figure called “{name}”.", f"section.{name}")
    figures = {}
    for name, (default, low, high) in profile.figures.items():
        value = shape.figures.get(name, default)
        if not low < value <= high:
            raise DescriptionError(f"This must be above {low:g} and at most {high:g}.", f"section.{name}")
        figures[name] = value
    return Shape(shape.name, figures)


def integrate(shape: Shape, width: Floats, depths: Floats, moduli: Floats, densities: Floats) -> SectionValues:
    """Integrate sections through their depth.

    Args:
        shape: a completed shape.
        width: greatest width at each station (m), any shape ``(…)``.
        depths: thickness of each layer at each station (m), ``(layers, …)``, from the back.
        moduli: of each layer (Pa), ``(layers,)``.
        densities: of each layer (kg/m³), ``(layers,)``.

    Returns:
        The section values, each of shape ``(…)``.
    """
    profile = PROFILES[shape.name]
    edges = np.concatenate([np.zeros_like(depths[:1]), np.cumsum(depths, axis=0)])
    depth = edges[-1]
    cuts = [0.0, *profile.breaks(shape.figures), 1.0]
    area = np.zeros_like(depth)
    ea, es, ei, mass = np.zeros_like(depth), np.zeros_like(depth), np.zeros_like(depth), np.zeros_like(depth)
    for modulus, density, top, bottom in zip(moduli, densities, edges[:-1], edges[1:], strict=True):
        for first, last in pairwise(cuts):
            low, high = np.maximum(top, first * depth), np.minimum(bottom, last * depth)
            span = np.maximum(high - low, 0.0)
            z = low[..., None] + span[..., None] * _PLACE
            part = width[..., None] * profile.width(z / depth[..., None], shape.figures) * span[..., None] * _SHARE
            piece = part.sum(-1)
            area += piece
            mass += density * piece
            ea += modulus * piece
            es += modulus * (part * z).sum(-1)
            ei += modulus * (part * z**2).sum(-1)
    axis = es / ea
    return SectionValues(ei - ea * axis**2, ea, axis, depth, mass, area)
