"""Limbs cut into cells for the march from nock to root, one bow or a batch of variants."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bowyery.arrays import Floats, Whole
from bowyery.bow.bow import SIDES, Bow, Limb, StringLine
from bowyery.bow.section import ROUND_BACKED, Layer, SectionValues, completed, integrate
from bowyery.errors import DescriptionError

MOST_STATIONS = 2000


CELLS = 64
# Where the string leaves the nock, from the back, where nothing else is said: half way down.
USUAL_NOCK_DEPTH = 0.5
# Depths of the limb at the nock within which the loop's legs come from the nock to the belly.
LOOP = 3.0


@dataclass(frozen=True)
class LimbGrid:
    """Both limbs of a batch of bows, cut into cells for the march from nock to root.

    First axis: upper, lower. Second axis: the batch. Nodes run from root (0) to nock (n).

    Attributes:
        length: ``(2, B)`` (m).
        step: length of each cell along the limb, ``(2, B, n)`` (m). Places where profile or
            thickness change are ends of cells, so that cells are alike in length only nearly.
        stiffness: EI that gives each cell the compliance of all its parts, ``(2, B, n)`` (N·m²).
        curvature: unstrung, mean over each cell, ``(2, B, n)`` (1/m).
        root: along, across (m), angle (rad), ``(2, B, 3)``.
        node_stiffness: EI at the nodes, ``(2, B, n+1)``.
        axis: depth of the neutral axis below the back at the nodes, ``(2, B, n+1)`` (m).
        depth: thickness at the nodes, ``(2, B, n+1)`` (m).
        width: at the nodes, ``(2, B, n+1)`` (m).
        line_mass: at the nodes, ``(2, B, n+1)`` (kg/m).
        lies: how far to the belly of the neutral axis the string would lie at the nodes; at the
            nock, where it leaves it, ``(2, B, n+1)`` (m).
        grip: length of bending grip between the grid's first node and the limb's root, ``(2, B)``
            (m); 0 when rigid.
    """

    length: Floats
    step: Floats
    stiffness: Floats
    curvature: Floats
    root: Floats
    node_stiffness: Floats
    axis: Floats
    depth: Floats
    width: Floats
    line_mass: Floats
    lies: Floats
    grip: Floats

    @property
    def cells(self) -> int:
        """Number of cells of each limb."""
        return int(self.stiffness.shape[-1])

    @property
    def batch(self) -> int:
        """Number of bows."""
        return int(self.stiffness.shape[1])

    @property
    def shares(self) -> Floats:
        """Places of the nodes as shares of the length from the first of them, ``(2, B, n+1)``."""
        return np.asarray(from_zero(self.step) / self.length[..., None])

    @property
    def bar(self) -> Floats:
        """Lengths of the cells' two half bars together, ``(2, B, n)`` (m).

        They are the tangents of the unstrung arc at the cell's ends, so that nodes lie on the
        unstrung curve itself.
        """
        half = 0.5 * self.curvature * self.step
        bent = np.where(np.abs(half) > 1e-6, half, 1.0)
        return np.asarray(self.step * np.where(np.abs(half) > 1e-6, np.tan(bent) / bent, 1.0))

    @cached_property
    def march_values(self) -> tuple[Floats, Floats, Floats, Floats, Floats]:
        """What the march needs, nock first: lengths of the bars, give ``step/EI`` (rad per N·m),
        unstrung turn and length of the cells, ``(2, B, n)``, and where the string would lie,
        ``(2, B, n+1)``.
        """
        values = (
            self.bar,
            self.step / self.stiffness,
            self.curvature * self.step,
            self.step,
            self.lies,
        )
        bar, give, turn, step, lies = (np.ascontiguousarray(v[..., ::-1], float) for v in values)
        return bar, give, turn, step, lies

    def coarser(self, cells: int) -> LimbGrid:
        """Fewer, longer cells of the same mean compliance and curvature, for a first approach."""
        every = self.cells // cells

        def total(values: Floats) -> Floats:
            return np.asarray(values.reshape(*values.shape[:2], cells, every).sum(-1))

        step = total(self.step)
        return replace(
            self,
            step=step,
            stiffness=step / total(self.step / self.stiffness),
            curvature=total(self.curvature * self.step) / step,
            **{k: getattr(self, k)[..., ::every] for k in _AT_NODES},
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
        return self._places

    @cached_property
    def _places(self) -> Floats:
        return np.asarray(from_zero(self.step) - self.grip[..., None])

    def stiffened(self, factor: Floats) -> LimbGrid:
        """Multiply the bending stiffness; ``factor`` is ``(2, B', 1)`` or at the nodes, ``(2, B',
        n+1)``.

        A batch of one is spread over the factor's batch.
        """
        between = factor if factor.shape[-1] == 1 else 0.5 * (factor[..., 1:] + factor[..., :-1])
        batch = max(self.batch, factor.shape[1])

        def spread(values: Floats) -> Floats:
            return np.broadcast_to(values, (2, batch, *values.shape[2:]))

        made = {name: spread(getattr(self, name)) for name in LimbGrid.__dataclass_fields__}
        return LimbGrid(
            **made
            | {
                "stiffness": self.stiffness * between,
                "node_stiffness": self.node_stiffness * factor,
            }
        )

    def repeated(self, times: int) -> LimbGrid:
        """Repeat each bow of the batch ``times`` times, in place order."""
        return LimbGrid(
            *(np.repeat(getattr(self, name), times, axis=1) for name in self.__dataclass_fields__)
        )


_AT_NODES = ("node_stiffness", "axis", "depth", "width", "line_mass", "lies")


def from_zero(steps: Floats) -> Floats:
    """Running sums of steps from nothing, along the last axis: ``(…, n)`` to ``(…, n+1)``."""
    return np.concatenate([np.zeros_like(steps[..., :1]), np.cumsum(steps, -1)], -1)


def check_limb(limb: Limb, where: str) -> None:
    """Refuse an impossible limb.

    Args:
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
    if len(limb.layers) > 1 and np.any(_layer_depths(limb.layers, limb.thickness) < 0):
        raise DescriptionError(
            "The layers together are thicker than the limb.", f"{where}.stations"
        )
    for name, figure in limb.shape.figures.items():
        if isinstance(figure, np.ndarray) and figure.size != limb.at.size:
            raise DescriptionError(
                "Give one figure for the limb, or one at each station.", f"section.{name}"
            )
    if limb.shape.name in ROUND_BACKED:  # others have wood wherever they have width and depth
        sections = _sections(limb, np.eye(limb.at.size), limb.thickness, limb.width)
        hollow = np.flatnonzero(sections.stiffness <= 0)
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


def _edges(breaks: tuple[float, ...], cells: int) -> Floats:
    """Ends of so many cells from the first break to the last, each break among them and the cells
    as alike as that allows, ``(cells + 1,)``.
    """
    gaps = np.diff(breaks)
    count = np.ones(gaps.size, int)
    if gaps.size > cells:
        raise DescriptionError(f"A limb with such steps wants more than {cells} cells.", "cells")
    for _ in range(cells - gaps.size):
        count[int((gaps / count).argmax())] += 1
    parts = [
        np.linspace(low, high, k, endpoint=False)
        for (low, high), k in zip(pairwise(breaks), count, strict=True)
    ]
    return np.concatenate([*parts, [breaks[-1]]])


def _recurved(limb: Limb) -> bool:
    """Whether the limb is bent back at its nock, so that the string may lie on it."""
    return bool(np.interp(limb.length, limb.unstrung_at, limb.unstrung) < -0.5 / limb.length)


def _kinked(at: Floats, rows: Floats) -> NDArray[np.bool_]:
    """Which places between the first and the last are not on the straight line between their
    neighbours in some row, ``(places,)``.
    """
    found = np.zeros(at.size, bool)
    share = (at[1:-1] - at[:-2]) / (at[2:] - at[:-2])
    straight = rows[:, :-2] + share * (rows[:, 2:] - rows[:, :-2])
    found[1:-1] = (np.abs(rows[:, 1:-1] - straight) > 1e-9 * np.abs(rows).max()).any(0)
    return found


def _stations(limb: Limb) -> Floats:
    """Stations at which the limb's description has a kink (m)."""
    rows = [limb.width, limb.thickness]
    rows += [la.thickness for la in limb.layers if la.thickness is not None]
    rows += [v for v in limb.shape.figures.values() if isinstance(v, np.ndarray)]
    same = [row + 0 * limb.at for row in rows]
    return np.asarray(limb.at[_kinked(limb.at, np.stack(same))])


def _breaks(
    limb: Limb, kinks: Floats, grip: float, cells: int, string: StringLine
) -> tuple[float, ...]:
    """Where cells must end: at the root, and where profile, thickness or width are described; of
    very many such places those at the ends of steep steps alone. On a recurve also where the
    string's loop comes to the belly.
    """
    described = kinks.tolist()
    if np.any(limb.unstrung):
        described += limb.unstrung_at[_kinked(limb.unstrung_at, limb.unstrung[None])].tolist()
    if len(described) > cells // 2:
        stiff = 3 * np.log(limb.thickness) + np.log(limb.width)
        steep = np.concatenate(
            [
                _steps(limb.at, stiff, limb.length, cells),
                _steps(limb.unstrung_at, limb.unstrung * limb.length, limb.length, cells),
            ]
        )
        most = np.argsort(-steep[:, 1], kind="stable")[: cells // 4]
        described = steep[most, 0].tolist()
    if string.lies_on == "belly" and _recurved(limb):
        loop = LOOP * float(limb.thickness[-1])
        described += [limb.length - part * loop for part in (0.25, 0.5, 0.75, 1.0)]
    inner = {round(place, 9) for place in described if 1e-7 < place < limb.length - 1e-7}
    return (-grip, *((0.0,) if grip > 0 else ()), *sorted(inner), limb.length)


def _steps(at: Floats, values: Floats, length: float, cells: int) -> Floats:
    """Ends of the stretches shorter than a cell over which a value changes much, ``(k, 2)``: place
    and change.
    """
    change = np.abs(np.diff(values))
    steep = (np.diff(at) < length / cells) & (change > 0.05)
    rows = [(place, by) for k, by in enumerate(change) if steep[k] for place in at[k : k + 2]]
    return np.array(rows).reshape(-1, 2)


@lru_cache(maxsize=256)
def _mesh(
    breaks: tuple[float, ...], at: bytes, kinks: bytes, cells: int
) -> tuple[Floats, Floats, Floats, Floats, Whole]:
    """The cells' ends; these with every kink between them; all these and the places half way
    between them, with the stations' shares there; and which of the second the first are.
    """
    edges, stations = _edges(breaks, cells), np.frombuffer(at)
    ends = np.unique(np.concatenate([edges, np.frombuffer(kinks)]))
    ends = ends[np.append(np.diff(ends) > 1e-9, True)]
    fine = np.empty(2 * ends.size - 1)
    fine[::2], fine[1::2] = ends, 0.5 * (ends[1:] + ends[:-1])
    matrix = interpolation(stations, np.maximum(fine, 0.0))
    return edges, ends, fine, matrix, np.searchsorted(ends, edges - 1e-9)


def _one_limb(
    limb: Limb,
    cells: int,
    thickness: Floats,
    width: Floats,
    grip: float,
    grip_stiffness: float,
    string: StringLine,
    varied: bool,
) -> dict[str, Floats]:
    kinks = limb.at[1:-1] if varied else _stations(limb)
    breaks = _breaks(limb, kinks, grip, cells, string)
    mesh = _mesh(breaks, limb.at.tobytes(), kinks.tobytes(), cells)
    edges, ends, fine, matrix, at_nodes = mesh
    t, w = thickness @ matrix.T, width @ matrix.T
    values = _sections(limb, matrix, t, w)
    stiffness = values.stiffness
    give = 1.0 / stiffness
    part = np.diff(ends) / 6 * (give[:, :-2:2] + 4 * give[:, 1::2] + give[:, 2::2])  # Simpson
    if grip > 0:
        part = np.where(ends[1:] < 1e-9, np.diff(ends) / grip_stiffness, part)
        stiffness = np.where(fine < -1e-9, grip_stiffness, stiffness)
    compliance = np.diff(from_zero(part)[:, at_nodes])
    step = np.diff(edges)
    root = limb.root
    natural = (
        np.diff(_integral(limb.unstrung_at, limb.unstrung, np.maximum(edges, 0.0)))
        if np.any(limb.unstrung)
        else np.zeros(cells)
    )
    if grip > 0:
        # an unstrung grip is an arc that meets the root's angle
        natural = np.where(edges[1:] < 1e-9, root[2] / grip * step, natural)
        root = (root[0] - grip, root[1] - 0.5 * grip * root[2], 0.0)
    batch = t.shape[0]
    nodes = 2 * at_nodes
    axis, depth = values.axis[:, nodes], t[:, nodes]
    return {
        "length": np.full(batch, limb.length + grip),
        "step": np.broadcast_to(step, (batch, cells)),
        "stiffness": step / compliance,
        "curvature": np.broadcast_to(natural / step, (batch, cells)),
        "root": np.broadcast_to(np.array(root), (batch, 3)),
        "node_stiffness": stiffness[:, nodes],
        "axis": axis,
        "depth": depth,
        "width": w[:, nodes],
        "line_mass": values.line_mass[:, nodes],
        "lies": _string_lies(limb.length - edges, axis, depth, string),
        "grip": np.full(batch, grip),
    }


def _string_lies(from_nock: Floats, axis: Floats, depth: Floats, string: StringLine) -> Floats:
    """How far to the belly of the neutral axis the string lies, or leaves the nock (m).

    From the nock its loop runs down both sides of the limb and comes to lie on the belly within a
    few depths of the limb.
    """
    if string.lies_on == "axis":
        on = np.zeros_like(axis)
        leaves = 0.0 if string.nock_depth is None else string.nock_depth * depth - axis
    else:
        on = depth - axis
        share = USUAL_NOCK_DEPTH if string.nock_depth is None else string.nock_depth
        leaves = share * depth - axis
    along = np.clip(from_nock / (LOOP * depth[:, -1:]), 0.0, 1.0)
    return np.asarray(on + (leaves - on) * (1 - along) ** 2 * (1 + 2 * along))


def _integral(at: Floats, values: Floats, places: Floats) -> Floats:
    """From the first of the places to each of them, of values that run straight between theirs and
    stay beyond the first and last.
    """
    knots = np.unique(np.concatenate([at, places]))
    there = np.interp(knots, at, values)
    sums = from_zero(0.5 * (there[1:] + there[:-1]) * np.diff(knots))
    return np.asarray(np.interp(places, knots, sums))


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
        cells: computed for each limb, 8 or more.
        thickness: for a batch of variants, thicknesses at the stations ``(B, stations)`` of upper
            and lower.
        width: likewise for the widths.

    Raises:
        DescriptionError: the bow is described impossibly.
    """
    check_limb(bow.upper, "limbs.upper")
    check_limb(bow.lower, "limbs.lower")
    grips = _grip_lengths(bow)
    varied = thickness is not None or width is not None
    parts: list[dict[str, Floats]] = []
    alike = bow.lower is bow.upper and thickness is None and width is None and grips[0] == grips[1]
    for index, limb in enumerate((bow.upper, bow.lower)):
        if alike and index == 1:
            parts.append(parts[0])
            break
        t = limb.thickness[None] if thickness is None else thickness[index]
        w = limb.width[None] if width is None else width[index]
        batch = max(t.shape[0], w.shape[0])
        t, w = np.broadcast_to(t, (batch, t.shape[1])), np.broadcast_to(w, (batch, w.shape[1]))
        grip = (grips[index], bow.grip_stiffness or 0.0)
        parts.append(_one_limb(limb, cells, t, w, *grip, bow.string, varied))
    return LimbGrid(**{key: np.stack([part[key] for part in parts]) for key in parts[0]})


def limb_mass(limbs: LimbGrid) -> Floats:
    """Mass of each limb from root to nock, ``(2, B)`` (kg)."""
    places = np.maximum(limbs.places(), 0.0)
    return np.asarray(np.trapezoid(limbs.line_mass, places, axis=-1))
