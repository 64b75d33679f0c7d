"""What a change to a finished or half-finished bow does: shorter ends, more reflex, heat, a
backing.

Each change turns a bow into another bow; :func:`outcomes` solves many of them in one batch and says
what they come to.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb
from bowyery.bow.layout import layer_of
from bowyery.bow.limb_grid import LimbGrid, grid, interpolation
from bowyery.bow.section import Layer
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.strain import (
    SetForecast,
    Uses,
    bend_limits,
    expected_set,
    surface_strain,
    uses_of,
)
from bowyery.wood.materials import Material

# Wood browned at some 180 to 200 °C is up to a tenth stiffer and loses a tenth or more of its
# strength (Hill, Wood Modification, 2006, chapter 5); the heat of a fire or gun reaches about a
# third of a limb's depth.
HEAT_STIFFENS = 1.07
HEAT_WEAKENS = 0.92
HEAT_DEPTH = 0.33


def at_stations(limb: Limb, at: Floats) -> Limb:
    """The same limb described at other stations, on the lines that are there.

    Args:
        at: stations from the root, ``(stations,)``, from 0 to the nock or where it is cut off (m).
    """
    matrix = interpolation(limb.at, at)

    def moved(values: Floats) -> Floats:
        return np.asarray(matrix @ (values + 0 * limb.at))

    layers = tuple(
        la if la.thickness is None else replace(la, thickness=moved(la.thickness))
        for la in limb.layers
    )
    return replace(
        limb,
        at=at,
        width=moved(limb.width),
        thickness=moved(limb.thickness),
        layers=layers,
        shape=limb.shape.at(matrix),
    )


def shortened(bow: Bow, by: float) -> Bow:
    """Cut both ends back and nock them anew at the same brace height.

    Args:
        bow: the bow; it needs a brace height.
        by: from each end (m), 0 or more.

    Raises:
        DescriptionError: less than half of a limb would be left, or the bow has no brace height.
    """
    if bow.brace_height is None:
        raise DescriptionError(
            "Give the brace height that the shorter bow shall have.", "string.brace_height_mm"
        )
    if not (np.isfinite(by) and 0 <= by < 0.5 * min(limb.length for limb in bow.limbs)):
        raise DescriptionError("Cut off between nothing and half of a limb.", "by")

    def cut(limb: Limb) -> Limb:
        new = limb.length - by
        return limb if by == 0 else at_stations(limb, np.append(limb.at[limb.at < new - 1e-6], new))

    return replace(bow, upper=cut(bow.upper), lower=cut(bow.lower))


def with_station(bow: Bow, side: int, at: float) -> Bow:
    """Add a station to a limb (0 upper, 1 lower) at a place from its root (m), on the lines that
    are there.

    Args:
        side: 0 upper, 1 lower.
        at: place (m).

    Raises:
        DescriptionError: the place lies off the limb or on a station.
    """
    limb = bow.limbs[side]
    if not (np.isfinite(at) and 0 < at < limb.length):
        raise DescriptionError("The new mark must lie between the fade and the nock.", "at")
    if np.abs(limb.at - at).min() < 1e-3:
        raise DescriptionError("There is a mark at that place already.", "at")
    return _with_limb(bow, side, at_stations(limb, np.sort(np.append(limb.at, at))))


def without_station(bow: Bow, side: int, number: int) -> Bow:
    """Take a station off a limb; the first and the last stay.

    Args:
        side: 0 upper, 1 lower.
        number: of the station, from the root.

    Raises:
        DescriptionError: it is the first or the last, or is not there.
    """
    limb = bow.limbs[side]
    if not 0 < number < limb.at.size - 1:
        raise DescriptionError("The marks at the fade and at the nock stay.", "station")
    return _with_limb(bow, side, at_stations(limb, np.delete(limb.at, number)))


def mirrored(bow: Bow, from_side: int, width_alone: bool = False) -> Bow:
    """Give the other limb the widths and thicknesses of one limb, at the same shares of its
    length.

    Args:
        from_side: the limb to copy from, 0 upper, 1 lower.
        width_alone: the other limb keeps its own thickness.

    Returns:
        The bow with both limbs alike, or as wide.
    """
    model, other = bow.limbs[from_side], bow.limbs[1 - from_side]
    share = other.at / other.length * model.length
    width, thickness = (
        np.interp(share, model.at, values) for values in (model.width, model.thickness)
    )
    if width_alone:
        thickness = other.thickness
    return _with_limb(bow, 1 - from_side, replace(other, width=width, thickness=thickness))


def _with_limb(bow: Bow, side: int, limb: Limb) -> Bow:
    return replace(bow, upper=limb) if side == 0 else replace(bow, lower=limb)


def reflexed(bow: Bow, tips: float) -> Bow:
    """Move both unstrung tips towards the back by an even added curvature; ``tips`` in m, below
    zero for deflex.

    Args:
        tips: how far (m).
    """

    def bent(limb: Limb) -> Limb:
        places = np.unique(
            np.concatenate([np.clip(limb.unstrung_at, 0.0, limb.length), [0.0, limb.length]])
        )
        natural = np.interp(places, limb.unstrung_at, limb.unstrung)
        return replace(limb, unstrung_at=places, unstrung=natural - 2 * tips / limb.length**2)

    return replace(bow, upper=bent(bow.upper), lower=bent(bow.lower))


def stiffer(bow: Bow, scale: float) -> Bow:
    """A bow of the same shape that pulls so much more: its moduli times a factor.

    Args:
        scale: factor on every modulus.
    """

    def limb(one: Limb) -> Limb:
        layers = tuple(replace(la, modulus=la.modulus * scale) for la in one.layers)
        return replace(one, layers=layers)

    grip = None if bow.grip_stiffness is None else bow.grip_stiffness * scale
    return replace(bow, upper=limb(bow.upper), lower=limb(bow.lower), grip_stiffness=grip)


def is_heated(limb: Limb) -> bool:
    """Whether a limb's belly is its own wood, hardened by heat.

    Returns:
        False for a belly that is faced with something else, too.
    """
    belly = limb.layers[-1]
    return belly.role == "belly" and any(la.material == belly.material for la in limb.layers[:-1])


def heated(bow: Bow) -> Bow:
    """Harden the belly by heat: its outer third grows stiffer and breaks earlier.

    Raises:
        DescriptionError: the belly is not the wood that makes up the rest of the depth.
    """

    def browned(limb: Limb) -> Limb:
        wood = limb.layers[-1]
        if is_heated(limb):
            raise DescriptionError(
                "This belly has been heated already; again it would gain little.", "layers"
            )
        if wood.thickness is not None:
            raise DescriptionError("Heat hardens a belly of wood; this one is faced.", "layers")
        others = sum(
            (la.thickness + 0 * limb.at for la in limb.layers[:-1] if la.thickness is not None),
            0 * limb.at,
        )
        belly = Layer(
            "belly",
            wood.material,
            wood.modulus * HEAT_STIFFENS,
            wood.density,
            HEAT_DEPTH * (limb.thickness - others),
            (
                None
                if wood.rupture_strain is None
                else wood.rupture_strain * HEAT_WEAKENS / HEAT_STIFFENS
            ),
            None if wood.elastic_strain is None else wood.elastic_strain,
        )
        return replace(limb, layers=(*limb.layers, belly))

    return replace(bow, upper=browned(bow.upper), lower=browned(bow.lower))


def backed(bow: Bow, material: Material, thickness: float, reflex: float = 0.0) -> Bow:
    """Lay a backing on the back, on top of the depth that is there, with the reflex it adds at the
    tips (m).

    Args:
        thickness: at the stations (m).

    Raises:
        DescriptionError: the thickness is not above zero.
    """
    if not (np.isfinite(thickness) and thickness > 0):
        raise DescriptionError("The backing must be thicker than nothing.", "thickness")

    def with_back(limb: Limb) -> Limb:
        layer = layer_of("backing", material, np.full(limb.at.size, thickness))
        return replace(limb, thickness=limb.thickness + thickness, layers=(layer, *limb.layers))

    both = replace(bow, upper=with_back(bow.upper), lower=with_back(bow.lower))
    return reflexed(both, reflex) if reflex else both


@dataclass(frozen=True)
class Outcome:
    """What a bow comes to at a draw; figures are None where it cannot be solved, and ``trouble``
    says why.

    Attributes:
        weight: (N).
        set: expected string follow of the new strain.
        energy: stored from brace to the draw (J).
    """

    what: str
    bow: Bow
    weight: float | None = None
    strain: float | None = None
    uses: Uses | None = None
    set: SetForecast | None = None
    energy: float | None = None
    trouble: str = ""

    @property
    def use(self) -> float | None:
        """Greatest use of what the layers bear for years, or None."""
        return None if self.uses is None else self.uses.lasts


def patched(bow: Bow, limb: str, start: float, end: float, thickness: float) -> Bow:
    """Glue a patch of the bow's own wood on the belly between two places of a limb, run out at its
    ends.

    Args:
        start, end: from the root (m).
        thickness: of the patch in its middle (m).

    Raises:
        DescriptionError: the patch lies off the limb, or has no length or thickness.
    """
    if limb not in SIDES:
        raise DescriptionError("A patch lies on one limb.", "patch")
    side = SIDES.index(limb)
    one: Limb = bow.limbs[side]
    if not (0 <= start < end <= one.length and thickness > 0):
        raise DescriptionError("The patch must lie on the limb and have some thickness.", "patch")
    middle, half = 0.5 * (start + end), 0.5 * (end - start)
    at = np.unique(
        np.concatenate([one.at, [start, middle - 0.5 * half, middle, middle + 0.5 * half, end]])
    )
    hump: Floats = thickness * np.clip(2 * (1 - np.abs(at - middle) / half), 0.0, 1.0)
    there = at_stations(one, at)
    moved = replace(there, thickness=there.thickness + hump)
    return replace(bow, upper=moved) if side == 0 else replace(bow, lower=moved)


def outcomes(named: Sequence[tuple[str, Bow]], draw: float, cells: int = 32) -> tuple[Outcome, ...]:
    """Solve several bows at one draw (m), together where all can be solved and one by one where
    not.

    Args:
        named: what each bow is called, and the bow.
        draw: (m).
    """
    grids: list[LimbGrid | str] = []
    for _, bow in named:
        try:
            grids.append(grid(bow, cells))
        except BowyeryError as error:
            grids.append(_reason(error))
    whole = [k for k, one in enumerate(grids) if isinstance(one, LimbGrid)]
    held = {named[k][1].hold for k in whole}
    if len(whole) > 1 and len(held) == 1:
        try:
            found = dict(
                zip(whole, _solved([(*named[k], _of(grids[k])) for k in whole], draw), strict=True)
            )
            return tuple(
                found.get(k) or Outcome(*named[k], trouble=str(grids[k])) for k in range(len(named))
            )
        except BowyeryError:
            pass
    answers = []
    for (what, bow), one in zip(named, grids, strict=True):
        try:
            answers.extend(_solved([(what, bow, _of(one))], draw))
        except BowyeryError as error:
            answers.append(Outcome(what, bow, trouble=_reason(error)))
    return tuple(answers)


def _reason(error: BowyeryError) -> str:
    """The sentence of an error without the path of the key, which says nothing beside a change's
    name.
    """
    return error.reason if isinstance(error, DescriptionError) else str(error)


def _of(one: LimbGrid | str) -> LimbGrid:
    if isinstance(one, str):
        raise DescriptionError(one)
    return one


def _solved(rows: list[tuple[str, Bow, LimbGrid]], draw: float) -> list[Outcome]:
    limbs = LimbGrid.joined([one for _, _, one in rows])
    hold = rows[0][1].hold
    heights = np.array(
        [bow.brace_height if bow.brace_height is not None else np.nan for _, bow, _ in rows]
    )
    if np.isnan(heights).any():
        raise DescriptionError(
            "These bows are compared at a brace height; give one.", "string.brace_height_mm"
        )
    braced = statics.brace(limbs, hold, heights)
    drawn = statics.draw(limbs, hold, braced, np.full(len(rows), draw))
    full = shapes(limbs, drawn.tension, drawn.p)
    rest = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
    strain = surface_strain(full)
    answers = []
    for k, (what, bow, one) in enumerate(rows):
        limits = bend_limits(bow, one)
        mine = full.part(slice(k, k + 1))
        answers.append(
            Outcome(
                what,
                bow,
                float(drawn.weight[k]),
                float(strain[:, k].max()),
                uses_of(limits, mine),
                expected_set(one, limits, mine),
                float(full.energy[k] - rest.energy[k]),
            )
        )
    return answers
