"""How a bow changes as one or two of its measures do: many variants of a marked bow in one
batch.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.errors import DescriptionError, SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import bend_limits
from bowyery.wood.materials import Material, working_strain

MEASURES = ("length", "width", "tip width", "reflex", "modulus", "wood")
MOST = 2500
_CELLS = 32


@dataclass(frozen=True)
class Sweep:
    """Variants of a bow, ``(first, second)``; not a number where a variant cannot be braced and
    drawn.

    Attributes:
        first, second: the values swept: lengths and widths as factors, reflex added at the tips
            (m), modulus as a factor, woods as their numbers in the list that was given.
        weight: at the draw (N).
        use: greatest use of what the layers bear for years.
        speed: of the arrow, estimated (m/s).
    """

    first: Floats
    second: Floats
    weight: Floats
    use: Floats
    speed: Floats


def _tapered(width: Floats, at: Floats, tip: Floats) -> Floats:
    """Widths with the outer half drawn in or out to a tip factor, ``(B, stations)``."""
    share = np.clip(2 * at / at[-1] - 1, 0.0, 1.0)
    return np.asarray(width * (1 + share * (tip[:, None] - 1)))


def _varied(bow: Bow, values: dict[str, Floats]) -> LimbGrid:
    """Grids of all variants; every value is ``(B,)``."""
    count = next(iter(values.values())).size
    one = np.ones(count)
    width = values.get("width", one)[:, None]
    tip = values.get("tip width", one)
    upper, lower = (_tapered(limb.width * width, limb.at, tip) for limb in bow.limbs)
    limbs = grid(bow, _CELLS, width=(upper, lower))
    factor, reflex = values.get("length", one), values.get("reflex", 0 * one)
    hard, heavy = (
        values.get("modulus", one) * values.get("stiffer", one),
        values.get("heavier", one),
    )
    # the same profile at the same share of a longer limb; an even reflex of the tips is
    # 2·reflex/length²
    length = limbs.length * factor
    curvature = limbs.curvature / factor[:, None] - 2 * (reflex / length**2)[..., None]
    return replace(
        limbs,
        length=length,
        step=limbs.step * factor[:, None],
        curvature=curvature,
        stiffness=limbs.stiffness * hard[:, None],
        node_stiffness=limbs.node_stiffness * hard[:, None],
        line_mass=limbs.line_mass * heavy[:, None],
    )


def sweep(
    bow: Bow,
    draw: float,
    first: tuple[str, Floats],
    second: tuple[str, Floats],
    arrow: float,
    virtual_mass: float,
    woods: Sequence[Material] = (),
) -> Sweep:
    """Solve every pair of two measures' values in one batch.

    The arrow's speed is that of the stored energy shared between arrow and virtual mass, which goes
    with the limbs' mass near their tips (Klopsteg's virtual mass: Hickman, Nagler and Klopsteg
    1947); the loose itself is not followed.

    Args:
        bow: as marked; lengths and widths are scaled about it.
        draw: from nocking point to pivot (m).
        first, second: a measure of MEASURES and its values.
        arrow: mass (kg).
        virtual_mass: of the bow as it is (kg), from :func:`bowyery.mechanics.dynamics.loose`.
        woods: what a limb of one wood could be made of instead, at their moisture, where wood is
            swept.

    Raises:
        DescriptionError: unknown or equal measures, too many variants, a value that is not finite,
            or another wood for a limb of several layers.
    """
    for name, values in (first, second):
        if name not in MEASURES:
            raise DescriptionError(f"Choose one of {', '.join(MEASURES)}.", "measure")
        if name == "wood" and (
            len(bow.upper.layers) > 1 or not set(values) <= set(range(len(woods)))
        ):
            raise DescriptionError(
                "Woods are compared for limbs of one wood, by their numbers in the list of woods.",
                "wood",
            )
        free = name in ("reflex", "wood")
        if (
            values.size == 0
            or not np.all(np.isfinite(values))
            or (not free and np.any(values <= 0))
        ):
            raise DescriptionError("The values must be finite, and factors above zero.", name)
    if first[0] == second[0]:
        raise DescriptionError("Sweep two different measures.", "measure")
    if first[1].size * second[1].size > MOST:
        raise DescriptionError(f"At most {MOST} variants at once.", "measure")
    if bow.brace_height is None:
        raise DescriptionError(
            "Give the brace height that all variants shall have.", "string.brace_height_mm"
        )
    a, b = (m.ravel() for m in np.meshgrid(first[1], second[1], indexing="ij"))
    given = {first[0]: a, second[0]: b}
    bears = np.ones(a.size)
    if "wood" in given:
        pick, now = [woods[int(k)] for k in given["wood"]], bow.upper.layers[0]
        given["stiffer"] = np.array([w.modulus for w in pick]) / now.modulus
        given["heavier"] = np.array([w.density for w in pick]) / now.density
        book = working_strain(now.elastic_strain or 0.0, now.rupture_strain or 0.0) or np.nan
        bears = np.array([w.working_strain for w in pick]) / book
    limbs = _varied(bow, given)
    base = grid(bow, _CELLS)
    found = _solved(limbs, bow, draw)
    limits = bend_limits(bow, base)
    working = limits.working[
        :, None
    ]  # width changes neither depth nor axis: the limit of bend is the bow's own
    use = (np.abs(found.bend) / working).max((0, 2)) / bears
    speed = np.sqrt(
        2 * found.energy / (arrow + virtual_mass * _outer_mass(limbs) / _outer_mass(base))
    )
    shape = (first[1].size, second[1].size)
    return Sweep(
        first[1], second[1], *(np.asarray(v).reshape(shape) for v in (found.weight, use, speed))
    )


def _outer_mass(limbs: LimbGrid) -> Floats:
    """Mass of both limbs weighted by the fourth power of the share from the root: as their tips
    move.
    """
    return np.asarray(
        np.trapezoid(limbs.line_mass * limbs.shares**4, limbs.places(), axis=-1).sum(0)
    )


@dataclass
class _Found:
    weight: Floats
    bend: Floats
    energy: Floats


def _solved(limbs: LimbGrid, bow: Bow, draw: float) -> _Found:
    """Solve a batch; where it cannot be solved as a whole, halves of it, down to single bows."""
    assert bow.brace_height is not None
    try:
        braced = statics.brace(limbs, bow.hold, np.full(limbs.batch, bow.brace_height))
        drawn = statics.draw(limbs, bow.hold, braced, np.full(limbs.batch, draw))
        full = shapes(limbs, drawn.tension, drawn.p)
        rest = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
        return _Found(drawn.weight, full.bend, full.energy - rest.energy)
    except SolveError:
        if limbs.batch == 1:
            nothing = np.full(1, np.nan)
            return _Found(nothing, np.full((2, 1, limbs.cells + 1), np.nan), nothing)
    half = limbs.batch // 2
    one, other = (
        _solved(limbs.part(slice(0, half)), bow, draw),
        _solved(limbs.part(slice(half, None)), bow, draw),
    )
    return _Found(
        np.concatenate([one.weight, other.weight]),
        np.concatenate([one.bend, other.bend], 1),
        np.concatenate([one.energy, other.energy]),
    )


def best_of(found: Sweep, wanted: float) -> tuple[int, int] | None:
    """The variant within three per cent of the wanted weight (N) that uses its wood least, or
    None.

    Args:
        wanted: weight, draw, brace and bend.
    """
    near = np.abs(found.weight / wanted - 1) < 0.03
    if not near.any():
        return None
    cost = np.where(near, found.use, np.inf)
    i, j = np.unravel_index(int(np.nanargmin(cost)), cost.shape)
    return int(i), int(j)
