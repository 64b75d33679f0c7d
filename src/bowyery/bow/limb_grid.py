"""Limbs cut into cells for the march from nock to root, one bow or a batch of variants."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.section import Layer, SectionValues, completed, integrate
from bowyery.errors import DescriptionError

MOST_STATIONS = 2000


CELLS = 64


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
        grip: length of bending grip between the grid's first node and the limb's root, ``(2, B)``
            (m); 0 when rigid.
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
    grip: Floats

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
        """Compliance ``step²/EI`` and unstrung turn of the cells, nock first, ``(n, 2, B)``; None
        for straight limbs.
        """
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

        return replace(
            self,
            stiffness=1.0 / joined(1.0 / self.stiffness),
            curvature=joined(self.curvature),
            **{
                k: getattr(self, k)[..., ::every]
                for k in ("node_stiffness", "axis", "depth", "width", "line_mass")
            },
        )

    @staticmethod
    def joined(grids: list[LimbGrid]) -> LimbGrid:
        """Several batches with as many cells as one batch."""
        return LimbGrid(
            **{
                name: np.concatenate([getattr(one, name) for one in grids], 1)
                for name in LimbGrid.__dataclass_fields__
            }
        )

    def part(self, which: slice) -> LimbGrid:
        """Some bows of the batch."""
        return LimbGrid(*(getattr(self, name)[:, which] for name in self.__dataclass_fields__))

    def places(self) -> Floats:
        """Distances of the nodes from the limb's root, below 0 in a bending grip, ``(2, B, n+1)``
        (m).
        """
        return self.length[..., None] * np.linspace(0.0, 1.0, self.cells + 1) - self.grip[..., None]

    def stiffened(self, factor: Floats) -> LimbGrid:
        """Multiply the bending stiffness; ``factor`` is ``(2, B', 1)`` or at the nodes, ``(2, B',
        n+1)``.

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
            *(
                spread(values)
                for values in (self.axis, self.depth, self.width, self.line_mass, self.grip)
            ),
        )

    def repeated(self, times: int) -> LimbGrid:
        """Repeat each bow of the batch ``times`` times, in place order."""
        return LimbGrid(
            *(np.repeat(getattr(self, name), times, axis=1) for name in self.__dataclass_fields__)
        )


def check_limb(limb: Limb, where: str) -> None:
    """Refuse an impossible limb.

    Args:
        limb: the limb.
        where: path of the limb's keys, for the error.

    Raises:
        DescriptionError: names the place, such as ``limbs.upper.stations[3].width_mm``.
    """
    if not 2 <= limb.at.size <= MOST_STATIONS:
        raise DescriptionError(
            f"A limb has 2 to {MOST_STATIONS} stations, not {limb.at.size}.", f"{where}.stations"
        )
    for key, values in (
        ("at_mm", limb.at),
        ("width_mm", limb.width),
        ("thickness_mm", limb.thickness),
    ):
        _all_finite(values, f"{where}.stations", key)
    for key, values in (("width_mm", limb.width), ("thickness_mm", limb.thickness)):
        small = np.flatnonzero(values <= 0)
        if small.size:
            raise DescriptionError(
                "This must be above zero.", f"{where}.stations[{small[0]}].{key}"
            )
    if limb.at[0] != 0:
        raise DescriptionError(
            "The first station is at the root, at 0.", f"{where}.stations[0].at_mm"
        )
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
                raise DescriptionError(
                    "This must be a number above zero.", f"layers[{number}].{key}"
                )
        if layer.thickness is not None and not np.all(
            np.isfinite(layer.thickness) & (layer.thickness >= 0)
        ):
            raise DescriptionError("This must be zero or more.", f"layers[{number}].thickness_mm")
    if np.any(_layer_depths(limb.layers, limb.thickness) < 0):
        raise DescriptionError(
            "The layers together are thicker than the limb.", f"{where}.stations"
        )
    for name, figure in limb.shape.figures.items():
        if isinstance(figure, np.ndarray) and figure.size != limb.at.size:
            raise DescriptionError(
                "Give one figure for the limb, or one at each station.", f"section.{name}"
            )
    hollow = np.flatnonzero(
        _sections(limb, np.eye(limb.at.size), limb.thickness, limb.width).stiffness <= 0
    )
    if hollow.size:
        raise DescriptionError(
            "No wood is left in this section: make it thicker, or narrower for its radius.",
            f"{where}.stations[{hollow[0]}].thickness_mm",
        )


def _all_finite(values: Floats, where: str, key: str) -> None:
    bad = np.flatnonzero(~np.isfinite(values))
    if bad.size:
        raise DescriptionError("This is not a finite number.", f"{where}[{bad[0]}].{key}")


def _increasing(values: Floats, where: str, key: str = "at_mm") -> None:
    back = np.flatnonzero(np.diff(values) <= 0)
    if back.size:
        raise DescriptionError(
            "Places must increase from root to tip.", f"{where}[{back[0] + 1}].{key}"
        )


def _layer_depths(layers: tuple[Layer, ...], thickness: Floats) -> Floats:
    given = [
        np.zeros_like(thickness) if la.thickness is None else la.thickness + 0 * thickness
        for la in layers
    ]
    depths = np.stack(given)
    depths[[la.thickness is None for la in layers].index(True)] = thickness - depths.sum(0)
    return depths


def layer_depths(limb: Limb, places: Floats) -> Floats:
    """Thickness of each layer at places from the root, ``(layers, places)`` (m).

    Args:
        limb: the limb.
        places: from the limb's root, ``(places,)`` (m).
    """
    matrix = interpolation(limb.at, places)
    return _layer_depths(limb.layers, limb.thickness) @ matrix.T


def interpolation(at: Floats, places: Floats) -> Floats:
    """Matrix ``(places, stations)`` that runs straight between stations, for whole batches at
    once.
    """
    index = np.clip(np.searchsorted(at, places, side="right") - 1, 0, at.size - 2)
    share = np.clip((places - at[index]) / (at[index + 1] - at[index]), 0.0, 1.0)
    matrix = np.zeros((places.size, at.size))
    rows = np.arange(places.size)
    matrix[rows, index] = 1 - share
    matrix[rows, index + 1] += share
    return matrix


def _sections(limb: Limb, matrix: Floats, thickness: Floats, width: Floats) -> SectionValues:
    """Section values at interpolated places; thickness and width at those places, any batch before
    them.
    """
    layers = tuple(
        la if la.thickness is None else replace(la, thickness=la.thickness @ matrix.T)
        for la in limb.layers
    )
    return integrate(
        completed(limb.shape).at(matrix),
        width,
        _layer_depths(layers, thickness),
        np.array([la.modulus for la in layers]),
        np.array([la.density for la in layers]),
    )


def _one_limb(
    limb: Limb, cells: int, thickness: Floats, width: Floats, grip: float, grip_stiffness: float
) -> dict[str, Floats]:
    whole = limb.length + grip
    fine = np.linspace(
        -grip, limb.length, 2 * cells + 1
    )  # nodes at even places, middles at odd ones
    matrix = interpolation(limb.at, np.maximum(fine, 0.0))
    t, w = thickness @ matrix.T, width @ matrix.T
    values = _sections(limb, matrix, t, w)
    stiffness = values.stiffness
    curvature = (
        np.interp(fine[1::2], limb.unstrung_at, limb.unstrung)
        if np.any(limb.unstrung)
        else np.zeros(cells)
    )
    root = limb.root
    if grip > 0:
        # each cell is as compliant as its parts on either side of the root together
        edges = fine[::2]
        inside = np.clip(-edges[:-1] / (edges[1] - edges[0]), 0.0, 1.0)
        stiffness = np.where(fine < 0, grip_stiffness, stiffness)
        first_limb = values.stiffness[:, :1]
        outside = np.where(inside > 0, first_limb, stiffness[:, 1::2])
        stiffness[:, 1::2] = 1.0 / (inside / grip_stiffness + (1 - inside) / outside)
        curvature = np.where(
            inside > 0, inside * root[2] / grip + (1 - inside) * curvature, curvature
        )
        # an unstrung grip is an arc that meets the root's angle
        root = (root[0] - grip, root[1] - 0.5 * grip * root[2], 0.0)
    batch = t.shape[0]
    return {
        "length": np.full(batch, whole),
        "stiffness": stiffness[:, 1::2],
        "curvature": np.broadcast_to(curvature, (batch, cells)),
        "root": np.broadcast_to(np.array(root), (batch, 3)),
        "node_stiffness": stiffness[:, ::2],
        "axis": values.axis[:, ::2],
        "depth": t[:, ::2],
        "width": w[:, ::2],
        "line_mass": values.line_mass[:, ::2],
        "grip": np.full(batch, grip),
    }


def _grip_lengths(bow: Bow) -> tuple[float, float]:
    """Length of bending grip from the pivot to each root (m)."""
    if bow.grip_stiffness is None:
        return 0.0, 0.0
    if not (np.isfinite(bow.grip_stiffness) and bow.grip_stiffness > 0):
        raise DescriptionError(
            "The stiffness of a bending grip must be above zero.", "hold.grip_stiffness_nm2"
        )
    lengths = (bow.upper.root[0] - bow.hold.pivot[0], bow.lower.root[0] + bow.hold.pivot[0])
    for side, length in zip(SIDES, lengths, strict=True):
        if length < 0:
            raise DescriptionError(
                "The pivot must lie between the roots of the limbs.", f"limbs.{side}.root.along_mm"
            )
    return lengths


def curvature_from_points(
    along: Floats, across: Floats, count: int = 33
) -> tuple[Floats, Floats, float]:
    """Unstrung curvature of a limb from points measured along it, such as offsets off a straight
    string.

    A cubic spline through the points, by the length of their chords (de Boor, A Practical Guide to
    Splines, 1978).

    Args:
        along: outward from the root (m), increasing, ``(points,)``, three or more.
        across: towards the belly (m), ``(points,)``.
        count: how many places to give the curvature at.

    Returns:
        Places from the root along the limb (m), curvature there (1/m), angle of the root (rad).

    Raises:
        DescriptionError: too few points, or points that do not run outward.
    """
    if along.size < 3:
        raise DescriptionError("Give three points of the profile or more.", "profile")
    _all_finite(along, "profile", "along_mm")
    _all_finite(across, "profile", "across_mm")
    _increasing(along, "profile", "along_mm")
    from scipy.interpolate import (
        CubicSpline,  # here alone, so that plain bows are read without waiting for it
    )

    chord = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(along), np.diff(across)))])
    spline = CubicSpline(chord, np.stack([along, across], 1))
    fine = np.linspace(0.0, chord[-1], 20 * count + 1)
    first, second = spline(fine, 1), spline(fine, 2)
    speed = np.hypot(first[:, 0], first[:, 1])
    curvature = (first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0]) / speed**3
    length = np.concatenate([[0.0], np.cumsum(0.5 * (speed[1:] + speed[:-1]) * fine[1])])
    places = np.linspace(0.0, length[-1], count)
    return places, np.interp(places, length, curvature), float(np.arctan2(first[0, 1], first[0, 0]))


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
        thickness: for a batch of variants, thicknesses at the stations ``(B, stations)`` of upper
            and lower.
        width: likewise for the widths.

    Raises:
        DescriptionError: the bow is described impossibly.
    """
    check_limb(bow.upper, "limbs.upper")
    check_limb(bow.lower, "limbs.lower")
    grips = _grip_lengths(bow)
    parts = []
    for index, limb in enumerate((bow.upper, bow.lower)):
        t = limb.thickness[None] if thickness is None else thickness[index]
        w = limb.width[None] if width is None else width[index]
        batch = max(t.shape[0], w.shape[0])
        t, w = np.broadcast_to(t, (batch, t.shape[1])), np.broadcast_to(w, (batch, w.shape[1]))
        parts.append(_one_limb(limb, cells, t, w, grips[index], bow.grip_stiffness or 0.0))
    return LimbGrid(**{key: np.stack([part[key] for part in parts]) for key in parts[0]})


def limb_mass(limbs: LimbGrid) -> Floats:
    """Mass of each limb from root to nock, ``(2, B)`` (kg).

    Args:
        limbs: the grid, ``B`` bows.
    """
    places = np.maximum(limbs.places(), 0.0)
    return np.asarray(np.trapezoid(limbs.line_mass, places, axis=-1))
