"""The nouns of a bow: limbs with their stations, string, hold; and the grids that the statics works on."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np

from bowyery.errors import DescriptionError
from bowyery.section import Floats, Layer, Shape, completed, integrate

Support = Literal["hand", "rocking cradle", "clamp"]
HeldBy = Literal["fingers", "sliding hook"]
MOST_STATIONS = 2000
CELLS = 64


def _straight() -> Floats:
    return np.zeros(2)


def _ends() -> Floats:
    return np.array([0.0, 1.0])


@dataclass(frozen=True)
class Limb:
    """One limb in its own frame: u outward from the bow's centre, y to the belly.

    Attributes:
        at: distance of the stations from the root, along the limb (m), increasing from 0 to the nock.
        width: at the stations (m).
        thickness: at the stations (m).
        layers: from the back; exactly one has thickness None, the rest of the depth.
        shape: of the section.
        root: along and across position (m) and angle (rad, positive to the belly) of the root.
        unstrung_at: places of the unstrung curvature (m).
        unstrung: curvature there (1/m), positive to the belly.
    """

    at: Floats
    width: Floats
    thickness: Floats
    layers: tuple[Layer, ...]
    shape: Shape = field(default_factory=Shape)
    root: tuple[float, float, float] = (0.0, 0.0, 0.0)
    unstrung_at: Floats = field(default_factory=_ends)
    unstrung: Floats = field(default_factory=_straight)

    @property
    def length(self) -> float:
        """From root to string nock along the limb (m)."""
        return float(self.at[-1])


@dataclass(frozen=True)
class Hold:
    """How the bow is held and drawn.

    Attributes:
        support: hand and rocking cradle let the bow tilt about the pivot; a clamp does not.
        held_by: fingers keep one point of the string; a sliding hook evens the tension.
        pivot: along and across position of the deepest part of the grip (m).
        nock_offset: of the nocking point above the pivot, along the handle axis (m).
    """

    support: Support = "hand"
    held_by: HeldBy = "fingers"
    pivot: tuple[float, float] = (0.0, 0.0)
    nock_offset: float = 0.0


@dataclass(frozen=True)
class Bow:
    """A bow: two limbs, how it is held, and either a brace height or a string length (m)."""

    upper: Limb
    lower: Limb
    hold: Hold = field(default_factory=Hold)
    brace_height: float | None = None
    string_length: float | None = None
    name: str = ""


@dataclass(frozen=True)
class LimbGrid:
    """Both limbs of a batch of bows, cut into cells for the march from nock to root.

    First axis: upper, lower. Second axis: the batch. Nodes run from root (0) to nock (n).

    Attributes:
        length: ``(2, B)`` (m).
        stiffness: EI at the middles of the cells, ``(2, B, n)`` (N·m²).
        curvature: unstrung, at the middles, ``(2, B, n)`` (1/m).
        root: along, across (m), angle (rad), ``(2, B, 3)``.
        node_stiffness: EI at the nodes, ``(2, B, n+1)``.
        axis: depth of the neutral axis below the back at the nodes, ``(2, B, n+1)`` (m).
        depth: thickness at the nodes, ``(2, B, n+1)`` (m).
        width: at the nodes, ``(2, B, n+1)`` (m).
        line_mass: at the nodes, ``(2, B, n+1)`` (kg/m).
    """

    length: Floats
    stiffness: Floats
    curvature: Floats
    root: Floats
    node_stiffness: Floats
    axis: Floats
    depth: Floats
    width: Floats
    line_mass: Floats

    @property
    def cells(self) -> int:
        """Number of cells of each limb."""
        return int(self.stiffness.shape[-1])

    @property
    def batch(self) -> int:
        """Number of bows."""
        return int(self.stiffness.shape[1])

    @cached_property
    def march_values(self) -> tuple[Floats, Floats | None]:
        """Compliance ``step²/EI`` and unstrung turn of the cells, nock first, ``(n, 2, B)``; None for straight limbs."""
        step = (self.length / self.cells)[..., None]
        compliance = np.ascontiguousarray(np.moveaxis(step**2 / self.stiffness, -1, 0)[::-1])
        if not self.curvature.any():
            return compliance, None
        return compliance, np.ascontiguousarray(np.moveaxis(self.curvature * step, -1, 0)[::-1])

    def coarser(self, cells: int) -> LimbGrid:
        """Fewer, longer cells of the same mean compliance and curvature, for a first approach."""
        every = self.cells // cells

        def joined(values: Floats) -> Floats:
            return np.asarray(values.reshape(*values.shape[:2], cells, every).mean(-1))

        nodes = (self.node_stiffness, self.axis, self.depth, self.width, self.line_mass)
        return LimbGrid(
            self.length, 1.0 / joined(1.0 / self.stiffness), joined(self.curvature), self.root,
            *(values[..., ::every] for values in nodes),
        )  # fmt: skip

    def part(self, which: slice) -> LimbGrid:
        """Some bows of the batch."""
        return LimbGrid(*(getattr(self, name)[:, which] for name in self.__dataclass_fields__))

    def places(self) -> Floats:
        """Distances of the nodes from the root, ``(2, B, n+1)`` (m)."""
        return self.length[..., None] * np.linspace(0.0, 1.0, self.cells + 1)

    def stiffened(self, factor: Floats) -> LimbGrid:
        """Multiply the bending stiffness; ``factor`` is ``(2, B', 1)`` or at the nodes, ``(2, B', n+1)``.

        A batch of one is spread over the factor's batch.
        """
        between = factor if factor.shape[-1] == 1 else 0.5 * (factor[..., 1:] + factor[..., :-1])
        batch = max(self.batch, factor.shape[1])

        def spread(values: Floats) -> Floats:
            return np.broadcast_to(values, (2, batch, *values.shape[2:]))

        return LimbGrid(
            spread(self.length),
            self.stiffness * between,
            spread(self.curvature),
            spread(self.root),
            self.node_stiffness * factor,
            *(spread(values) for values in (self.axis, self.depth, self.width, self.line_mass)),
        )

    def repeated(self, times: int) -> LimbGrid:
        """Repeat each bow of the batch ``times`` times, in place order."""
        return LimbGrid(*(np.repeat(getattr(self, name), times, axis=1) for name in self.__dataclass_fields__))


def check_limb(limb: Limb, where: str) -> None:
    """Refuse an impossible limb.

    Raises:
        DescriptionError: names the place, such as ``limbs.upper.stations[3].width_mm``.
    """
    if not 2 <= limb.at.size <= MOST_STATIONS:
        raise DescriptionError(f"A limb has 2 to {MOST_STATIONS} stations, not {limb.at.size}.", f"{where}.stations")
    for key, values in (("at_mm", limb.at), ("width_mm", limb.width), ("thickness_mm", limb.thickness)):
        _all_finite(values, f"{where}.stations", key)
    for key, values in (("width_mm", limb.width), ("thickness_mm", limb.thickness)):
        small = np.flatnonzero(values <= 0)
        if small.size:
            raise DescriptionError("This must be above zero.", f"{where}.stations[{small[0]}].{key}")
    if limb.at[0] != 0:
        raise DescriptionError("The first station is at the root, at 0.", f"{where}.stations[0].at_mm")
    _increasing(limb.at, f"{where}.stations")
    _all_finite(limb.unstrung_at, f"{where}.unstrung", "at_mm")
    _all_finite(limb.unstrung, f"{where}.unstrung", "curvature_per_m")
    _increasing(limb.unstrung_at, f"{where}.unstrung")
    _all_finite(np.array(limb.root), f"{where}.root", "figure")
    rest = [layer for layer in limb.layers if layer.thickness is None]
    if len(rest) != 1:
        raise DescriptionError("Exactly one layer has the thickness “rest”.", "layers")
    for number, layer in enumerate(limb.layers):
        for key, value in (("modulus_mpa", layer.modulus), ("density_kg_m3", layer.density)):
            if not (np.isfinite(value) and value > 0):
                raise DescriptionError("This must be a number above zero.", f"layers[{number}].{key}")
        if layer.thickness is not None and not np.all(np.isfinite(layer.thickness) & (layer.thickness >= 0)):
            raise DescriptionError("This must be zero or more.", f"layers[{number}].thickness_mm")
    if np.any(_layer_depths(limb.layers, limb.thickness) < 0):
        raise DescriptionError("The layers together are thicker than the limb.", f"{where}.stations")


def _all_finite(values: Floats, where: str, key: str) -> None:
    bad = np.flatnonzero(~np.isfinite(values))
    if bad.size:
        raise DescriptionError("This is not a finite number.", f"{where}[{bad[0]}].{key}")


def _increasing(values: Floats, where: str) -> None:
    back = np.flatnonzero(np.diff(values) <= 0)
    if back.size:
        raise DescriptionError("Places must increase from root to tip.", f"{where}[{back[0] + 1}].at_mm")


def _layer_depths(layers: tuple[Layer, ...], thickness: Floats) -> Floats:
    given = [np.zeros_like(thickness) if la.thickness is None else la.thickness + 0 * thickness for la in layers]
    depths = np.stack(given)
    depths[[la.thickness is None for la in layers].index(True)] = thickness - depths.sum(0)
    return depths


def layer_depths(limb: Limb, places: Floats) -> Floats:
    """Thickness of each layer at places from the root, ``(layers, places)`` (m)."""
    matrix = interpolation(limb.at, places)
    return _layer_depths(limb.layers, limb.thickness) @ matrix.T


def interpolation(at: Floats, places: Floats) -> Floats:
    """Matrix ``(places, stations)`` that runs straight between stations, for whole batches at once."""
    index = np.clip(np.searchsorted(at, places, side="right") - 1, 0, at.size - 2)
    share = np.clip((places - at[index]) / (at[index + 1] - at[index]), 0.0, 1.0)
    matrix = np.zeros((places.size, at.size))
    rows = np.arange(places.size)
    matrix[rows, index] = 1 - share
    matrix[rows, index + 1] += share
    return matrix


def _one_limb(limb: Limb, cells: int, thickness: Floats, width: Floats) -> dict[str, Floats]:
    fine = np.linspace(0.0, limb.length, 2 * cells + 1)  # nodes at even places, middles at odd ones
    matrix = interpolation(limb.at, fine)
    t, w = thickness @ matrix.T, width @ matrix.T
    layers = tuple(
        la if la.thickness is None else Layer(la.role, la.material, la.modulus, la.density, la.thickness @ matrix.T)
        for la in limb.layers
    )
    values = integrate(
        completed(limb.shape),
        w,
        _layer_depths(layers, t),
        np.array([la.modulus for la in layers]),
        np.array([la.density for la in layers]),
    )
    curvature = np.interp(fine[1::2], limb.unstrung_at, limb.unstrung) if np.any(limb.unstrung) else np.zeros(cells)
    batch = t.shape[0]
    return {
        "length": np.full(batch, limb.length),
        "stiffness": values.stiffness[:, 1::2],
        "curvature": np.broadcast_to(curvature, (batch, cells)),
        "root": np.broadcast_to(np.array(limb.root), (batch, 3)),
        "node_stiffness": values.stiffness[:, ::2],
        "axis": values.axis[:, ::2],
        "depth": t[:, ::2],
        "width": w[:, ::2],
        "line_mass": values.line_mass[:, ::2],
    }


def grid(
    bow: Bow,
    cells: int = CELLS,
    thickness: tuple[Floats, Floats] | None = None,
    width: tuple[Floats, Floats] | None = None,
) -> LimbGrid:
    """Cut a bow's limbs into cells.

    Args:
        bow: the bow.
        cells: per limb.
        thickness: for a batch of variants, thicknesses at the stations ``(B, stations)`` of upper and lower.
        width: likewise for the widths.

    Raises:
        DescriptionError: the bow is described impossibly.
    """
    check_limb(bow.upper, "limbs.upper")
    check_limb(bow.lower, "limbs.lower")
    parts = []
    for index, limb in enumerate((bow.upper, bow.lower)):
        t = limb.thickness[None] if thickness is None else thickness[index]
        w = limb.width[None] if width is None else width[index]
        batch = max(t.shape[0], w.shape[0])
        parts.append(_one_limb(limb, cells, np.broadcast_to(t, (batch, t.shape[1])), np.broadcast_to(w, (batch, w.shape[1]))))
    return LimbGrid(**{key: np.stack([part[key] for part in parts]) for key in parts[0]})


def limb_mass(limbs: LimbGrid) -> Floats:
    """Mass of each limb from root to nock, ``(2, B)`` (kg)."""
    return np.asarray(np.trapezoid(limbs.line_mass, limbs.places(), axis=-1))
