"""Cross-sections of a limb: shapes in width and depth, in layers counted from the back.

A shape says how wide the section is at each share of its depth; everything else is integrated from
that with Gauss–Legendre fibres, for all stations at once. Composite-beam theory with plane
sections: Gere and Goodno, Mechanics of Materials (2012), chapter 6.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError

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
        rupture_strain: strain at which its back breaks (or, if it is ductile, yields), or None when
            not known.
        elastic_strain: surface strain above which it keeps a set, or None.
        ductile: it yields and takes follow where others break.
    """

    role: str
    material: str
    modulus: float
    density: float
    thickness: Floats | None = None
    rupture_strain: float | None = None
    elastic_strain: float | None = None
    ductile: bool = False


@dataclass(frozen=True)
class Shape:
    """A shape of section: its name, a key of PROFILES, and the figures the shape needs.

    Shares are of the depth, from the belly unless said otherwise; widths are shares of the greatest
    width.

    - ``rectangle``
    - ``rounded rectangle``: ``corner``, radius of all four edges as a share of the depth (to 0.5)
    - ``flat back, round belly``: ``round``, share of the depth over which the sides round in a half
    ellipse
    - ``oval``: an ellipse
    - ``trapezoid``: ``back`` and ``belly``, widths; one of them is 1
    - ``faceted belly``: ``from_back``, share of the depth with upright sides; ``facet``, width of
    the belly's flat
    - ``crowned back``: ``radius_mm``, of the log; the back is its arc, the belly flat
    - ``tube``: an elliptical tube; ``wall``, its share of the radius (1: solid)
    - ``flat oval tube``: flat at back and belly, half round at the sides, and round where it is as
    deep as wide; ``wall_mm`` alike all round; in it may lie a round rod of ``rod_mm`` that slides
    freely, of ``rod_gpa`` and ``rod_density``
    - ``culm segment``: a slat as split from a hollow culm, or from a tube, sides upright;
      ``radius_mm``, of the culm's skin, which is the back; the belly is the hollow of the culm, and
      the depth is measured down to the belly's edges
    - ``culm segment, skin to the belly``: the same turned over

    Each figure is one number, or an array at the limb's stations.
    """

    name: str = "rectangle"
    figures: dict[str, float | Floats] = field(default_factory=dict)

    def at(self, matrix: Floats) -> Shape:
        """The shape at other places, by an interpolation matrix ``(places, stations)``."""
        return Shape(
            self.name,
            {k: matrix @ v if isinstance(v, np.ndarray) else v for k, v in self.figures.items()},
        )


@dataclass(frozen=True)
class SectionValues:
    """What a section is worth, at every station of the arrays it was made from.

    Attributes:
        area: of the section (m²).
        stiffness: EI, bending stiffness about the neutral axis (N·m²).
        stretch_stiffness: EA (N).
        axis: depth of the neutral axis below the back (m).
        depth: whole depth (m).
        line_mass: mass per length (kg/m).
    """

    stiffness: Floats
    stretch_stiffness: Floats
    axis: Floats
    depth: Floats
    line_mass: Floats
    area: Floats


Figures = dict[
    str, float | Floats
]  # arrays are shaped to broadcast with the depths they are used with


def _rectangle(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    return np.asarray(width + 0 * z)


def _rounded(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    radius = np.minimum(figures["corner"] * depth, 0.5 * width)
    into = np.maximum(0.0, radius - np.minimum(z, depth - z))
    return np.asarray(width - 2 * (radius - np.sqrt(np.maximum(radius**2 - into**2, 0.0))))


def _round_belly(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    rounded = figures["round"]
    inside = np.clip((z / depth - (1 - rounded)) / rounded, 0.0, 1.0)
    return np.asarray(width * np.sqrt(1 - inside**2))


def _oval(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    return np.asarray(width * np.sqrt(np.maximum(1 - (2 * z / depth - 1) ** 2, 0.0)))


def _trapezoid(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    return np.asarray(width * (figures["back"] + (figures["belly"] - figures["back"]) * z / depth))


def _faceted(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    start = figures["from_back"]
    share = np.clip((z / depth - start) / (1 - start), 0.0, 1.0)
    return np.asarray(width * (1 + (figures["facet"] - 1) * share))


def _crowned(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    radius = figures["radius_mm"] * 1e-3
    return np.asarray(np.minimum(width, 2 * np.sqrt(np.maximum(z * (2 * radius - z), 0.0))))


def _crown(depth: Floats, width: Floats, figures: Figures) -> Floats:
    """Height of the crown as a share of the depth."""
    radius = figures["radius_mm"] * 1e-3
    half = np.minimum(0.5 * width, radius)
    return np.minimum((radius - np.sqrt(radius**2 - half**2)) / depth, 1.0)


def _tube_sides(z: Floats, depth: Floats, width: Floats, figures: Figures) -> tuple[Floats, Floats]:
    """Width from side to side, and that of the hollow."""
    hollow = 1 - figures["wall"]
    place = 2 * z / depth - 1
    inner = hollow * np.sqrt(np.maximum(1 - (place / np.maximum(hollow, 1e-12)) ** 2, 0.0))
    return np.asarray(width * np.sqrt(np.maximum(1 - place**2, 0.0))), np.asarray(width * inner)


def _tube(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    outer, inner = _tube_sides(z, depth, width, figures)
    return np.asarray(outer - inner)


def _flat_oval_sides(
    z: Floats, depth: Floats, width: Floats, figures: Figures
) -> tuple[Floats, Floats]:
    """Width from side to side, and that of the hollow."""
    radius, flat = 0.5 * depth, np.maximum(width - depth, 0.0)
    within = radius - np.minimum(figures["wall_mm"] * 1e-3, radius)
    off = (z - radius) ** 2
    inner = np.where(off < within**2, flat + 2 * np.sqrt(np.maximum(within**2 - off, 0.0)), 0.0)
    return np.asarray(flat + 2 * np.sqrt(np.maximum(radius**2 - off, 0.0))), np.asarray(inner)


def _flat_oval(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    outer, inner = _flat_oval_sides(z, depth, width, figures)
    return np.asarray(outer - inner)


def _wall_share(depth: Floats, width: Floats, figures: Figures) -> Floats:
    return np.minimum(figures["wall_mm"] * 1e-3 / depth, 0.5)


def flattened(around: float | Floats, depth: Floats) -> Floats:
    """Width of a tube that is pressed flat to a depth: as long around as it was round (m).

    Args:
        around: its diameter while it was round (m).
    """
    return np.asarray(depth + 0.5 * np.pi * (around - depth))


def _culm_wall(depth: Floats, width: Floats, figures: Figures) -> Floats:
    """Radius of the culm's hollow (m)."""
    radius = figures["radius_mm"] * 1e-3
    return np.asarray(np.sqrt((radius - depth) ** 2 + 0.25 * width**2))


def _culm_sides(z: Floats, depth: Floats, width: Floats, figures: Figures) -> tuple[Floats, Floats]:
    """Width from side to side, and that of the hollow."""
    radius = figures["radius_mm"] * 1e-3
    hollow = _culm_wall(depth, width, figures)
    outer = np.minimum(0.5 * width, np.sqrt(np.maximum(z * (2 * radius - z), 0.0)))
    inner = np.sqrt(np.maximum(hollow**2 - (radius - z) ** 2, 0.0))
    return np.asarray(2 * outer), np.asarray(2 * np.minimum(inner, outer))


def _culm(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    outer, inner = _culm_sides(z, depth, width, figures)
    return np.asarray(outer - inner)


def _culm_hollow(depth: Floats, width: Floats, figures: Figures) -> Floats:
    """Where the hollow begins, as a share of the depth."""
    wall = figures["radius_mm"] * 1e-3 - _culm_wall(depth, width, figures)
    return np.clip(wall / depth, 0.0, 1.0)


def _turned_sides(
    z: Floats, depth: Floats, width: Floats, figures: Figures
) -> tuple[Floats, Floats]:
    return _culm_sides(depth - z, depth, width, figures)


def _turned(z: Floats, depth: Floats, width: Floats, figures: Figures) -> Floats:
    return _culm(depth - z, depth, width, figures)


Cut = Callable[[Floats, Floats, Figures], Floats]


def _at(share: Callable[[Figures], float | Floats]) -> Cut:
    """A break at a share of the depth that the figures alone give."""
    return lambda depth, width, figures: np.zeros_like(depth) + share(figures)


@dataclass(frozen=True)
class _Profile:
    """Width at a depth; shares of the depth where it has a kink; figures: default, lower bound
    (excluded), upper bound.
    """

    width: Callable[[Floats, Floats, Floats, Figures], Floats]
    breaks: tuple[Cut, ...] = ()
    figures: dict[str, tuple[float, float, float]] = field(default_factory=dict)


FLAT_OVAL = "flat oval tube"
PROFILES: dict[str, _Profile] = {
    "rectangle": _Profile(_rectangle),
    "rounded rectangle": _Profile(
        _rounded,
        (
            lambda d, w, f: np.minimum(f["corner"] * d, 0.5 * w) / d,
            lambda d, w, f: 1 - np.minimum(f["corner"] * d, 0.5 * w) / d,
        ),
        {"corner": (0.25, 0.0, 0.5)},
    ),
    "flat back, round belly": _Profile(
        _round_belly, (_at(lambda f: 1 - f["round"]),), {"round": (0.6, 0.0, 1.0)}
    ),
    "oval": _Profile(_oval),
    "trapezoid": _Profile(_trapezoid, (), {"back": (1.0, 0.0, 1.0), "belly": (0.7, 0.0, 1.0)}),
    "faceted belly": _Profile(
        _faceted,
        (_at(lambda f: f["from_back"]),),
        {"from_back": (0.5, 0.0, 0.95), "facet": (0.5, 0.0, 1.0)},
    ),
    "crowned back": _Profile(_crowned, (_crown,), {"radius_mm": (60.0, 0.0, 1e4)}),
    "tube": _Profile(
        _tube,
        (_at(lambda f: 0.5 * f["wall"]), _at(lambda f: 1 - 0.5 * f["wall"])),
        {"wall": (0.2, 0.0, 1.0)},
    ),
    FLAT_OVAL: _Profile(
        _flat_oval,
        (_wall_share, lambda d, w, f: 1 - _wall_share(d, w, f)),
        {
            "wall_mm": (3.0, 0.0, 50.0),
            "rod_mm": (0.0, -1.0, 60.0),
            "rod_gpa": (40.0, 0.0, 300.0),
            "rod_density": (1950.0, 0.0, 9000.0),
        },
    ),
    "culm segment": _Profile(_culm, (_crown, _culm_hollow), {"radius_mm": (40.0, 0.0, 1e4)}),
    "culm segment, skin to the belly": _Profile(
        _turned,
        (lambda d, w, f: 1 - _culm_hollow(d, w, f), lambda d, w, f: 1 - _crown(d, w, f)),
        {"radius_mm": (40.0, 0.0, 1e4)},
    ),
}
SLATS = ("culm segment", "culm segment, skin to the belly")


# Shapes whose depth may have no wood at all where they are too shallow for their width.
ROUND_BACKED = ("crowned back", *SLATS)


def completed(shape: Shape) -> Shape:
    """Fill in a shape's default figures and refuse impossible ones.

    Raises:
        DescriptionError: unknown shape or figure, or a figure out of bounds.
    """
    profile = PROFILES.get(shape.name)
    if profile is None:
        raise DescriptionError(
            f"“{shape.name}” is not a known section; use one of {', '.join(PROFILES)}.",
            "section.shape",
        )
    for name in shape.figures:
        if name not in profile.figures:
            raise DescriptionError(
                f"A section of shape “{shape.name}” takes no figure called “{name}”.",
                f"section.{name}",
            )
    figures: Figures = {}
    for name, (default, low, high) in profile.figures.items():
        value = shape.figures.get(name, default)
        if not np.all((low < np.asarray(value)) & (np.asarray(value) <= high)):
            raise DescriptionError(
                f"This must be above {low:g} and at most {high:g}.", f"section.{name}"
            )
        figures[name] = value
    if shape.name == "trapezoid" and np.any(np.maximum(figures["back"], figures["belly"]) != 1):
        raise DescriptionError("The wider of back and belly is 1, the whole width.", "section.back")
    return Shape(shape.name, figures)


def integrate(
    shape: Shape, width: Floats, depths: Floats, moduli: Floats, densities: Floats
) -> SectionValues:
    """Integrate sections through their depth.

    Args:
        width: greatest width at each station (m), any shape ``(…)``.
        depths: thickness of each layer at each station (m), ``(layers, …)``, from the back.
        moduli: of each layer (Pa), ``(layers,)``.
        densities: of each layer (kg/m³), ``(layers,)``.

    Returns:
        The section values, each of shape ``(…)``.
    """
    if shape.name == "rectangle" and len(moduli) == 1:  # what most limbs are: no fibres needed
        deep, wide, e = depths[0], width + 0 * depths[0], float(moduli[0])
        area = wide * deep
        return SectionValues(
            e * area * deep**2 / 12, e * area, 0.5 * deep, deep, float(densities[0]) * area, area
        )
    profile = PROFILES[shape.name]
    fibres = {k: v[..., None] if isinstance(v, np.ndarray) else v for k, v in shape.figures.items()}
    edges = np.concatenate([np.zeros_like(depths[:1]), np.cumsum(depths, axis=0)])
    depth = edges[-1]
    cuts = [0 * depth, *(cut(depth, width, shape.figures) for cut in profile.breaks), 0 * depth + 1]
    if shape.name in SLATS:  # crown and hollow may begin in either order
        cuts[1:-1] = np.sort(cuts[1:-1], axis=0)
    area = np.zeros_like(depth)
    ea, es, ei, mass = (
        np.zeros_like(depth),
        np.zeros_like(depth),
        np.zeros_like(depth),
        np.zeros_like(depth),
    )
    for modulus, density, top, bottom in zip(moduli, densities, edges[:-1], edges[1:], strict=True):
        for first, last in pairwise(cuts):
            low, high = np.maximum(top, first * depth), np.minimum(bottom, last * depth)
            span = np.maximum(high - low, 0.0)
            z = low[..., None] + span[..., None] * _PLACE
            part = (
                profile.width(z, depth[..., None], width[..., None], fibres)
                * span[..., None]
                * _SHARE
            )
            piece = part.sum(-1)
            area += piece
            mass += density * piece
            ea += modulus * piece
            es += modulus * (part * z).sum(-1)
            ei += modulus * (part * z**2).sum(-1)
    axis = es / np.where(ea > 0, ea, 1.0)
    bent = ei - ea * axis**2
    if np.any(shape.figures.get("rod_mm", 0.0)):  # it slides, and bends beside the tube
        radius, stiff = 0.5e-3 * shape.figures["rod_mm"], 1e9 * shape.figures["rod_gpa"]
        bent = bent + 0.25 * np.pi * stiff * radius**4
        mass = mass + shape.figures["rod_density"] * np.pi * radius**2
    return SectionValues(bent, ea, axis, depth, mass, area)


def sides_at(shape: Shape, z: Floats, depth: Floats, width: Floats) -> tuple[Floats, Floats]:
    """Width of a completed shape from side to side at a depth below the back, and that of its
    hollow there (m); all arrays alike in shape.

    Args:
        z: depths below the back (m).
        depth: whole depth (m).
        width: at the stations (m).
    """
    hollow = {
        "tube": _tube_sides,
        FLAT_OVAL: _flat_oval_sides,
        SLATS[0]: _culm_sides,
        SLATS[1]: _turned_sides,
    }.get(shape.name)
    if hollow is not None:
        return hollow(z, depth, width, shape.figures)
    outer = width_at(shape, z, depth, width)
    return outer, np.zeros_like(outer)


def width_at(shape: Shape, z: Floats, depth: Floats, width: Floats) -> Floats:
    """Width of a completed shape at a depth below the back (m); all arrays alike in shape.

    Args:
        z: depths below the back (m).
        width: at the stations (m).
    """
    return PROFILES[shape.name].width(z, depth, width, shape.figures)
