"""Laminating: lams and their tapers, the form with its spring-back, strain over it, glue and force.

Lams that are bent over a form and glued hold each other there. Let go, each still wants to lie
straight: with ``EI_i`` of each lam about its own middle and ``EI`` of the glued limb, a share
``r = ΣEI_i / EI`` of the form's curvature springs back (composite beam theory, Gere and Goodno
2012, chapter 6). For n equal lams r = 1/n²; two leave a quarter, four a sixteenth. The form is
therefore bent by 1/(1 − r) more than the limb shall be.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Limb, Side
from bowyery.bow.limb_grid import grid, layer_depths
from bowyery.errors import DescriptionError
from bowyery.mechanics import curve as force_curve

FINE = 161  # places along a limb
SPREAD = 0.4  # glue that a joint takes, both faces brushed (kg/m²)
MIXED = 1.3  # mixed over what a joint takes; what is squeezed out is lost
SANDED = 1e-4  # what sanding is told for (m)
LAM_LONGER, LAM_WIDER = 0.03, 0.006  # than the limb, ground and glued so and trimmed (m)
MOST_BACK = 0.6  # a stack that springs back further is no laminated one


@dataclass(frozen=True)
class Lam:
    """A lam as it is ground.

    Attributes:
        at: places from the limb's root (m).
        thickness: there (m).
        shaped: it is the one that was solved for.
        ends: where a wedge has run out, from the root (m), or None.
    """

    role: str
    material: str
    at: Floats
    thickness: Floats
    shaped: bool
    ends: float | None = None

    @property
    def taper(self) -> float:
        """How much thinner it gets over its length, as a slope; 0 for a parallel."""
        far = self.at[-1] if self.ends is None else self.ends
        last = float(np.interp(far, self.at, self.thickness)) if self.ends is None else 0.0
        return float((self.thickness[0] - last) / far)


def lams_of(limb: Limb) -> tuple[Lam, ...]:
    """The lams of a limb, from the back.

    Returns:
        The lams, at the limb's stations.
    """
    depths = layer_depths(limb, limb.at)
    found = []
    for layer, thick in zip(limb.layers, depths, strict=True):
        gone = np.flatnonzero(thick < 1e-6)
        ends = float(limb.at[gone[0]]) if gone.size and gone[0] > 0 else None
        found.append(Lam(layer.role, layer.material, limb.at, thick, layer.thickness is None, ends))
    return tuple(found)


@dataclass(frozen=True)
class OverForm:
    """What bending a lam over the form does to it.

    Attributes:
        thickness: where it is strained most (m).
        strain: of its faces there.
        at: place from the root (m).
        sets, breaks: strains where it takes set and where it may break, or None where not known.
    """

    lam: int
    material: str
    thickness: float
    strain: float
    at: float
    sets: float | None
    breaks: float | None

    @property
    def too_thick(self) -> bool:
        """Whether it may break before it lies on the form."""
        return self.breaks is not None and self.strain > 0.9 * self.breaks


@dataclass(frozen=True)
class Form:
    """A limb's form: the lines that the belly and the back of the stack are pressed to.

    Attributes:
        belly, back: points along the handle's line, outwards, and across it, to the belly above
            zero, ``(places, 2)`` (m); the first lies at the bow's centre.
        springs: share of the form's bend that springs back, by place, ``(places,)``.
        tip_over: by how much the form's tip lies further to the back than the limb's shall (m).
        over: what each lam bears over it.
    """

    limb: Side
    belly: Floats
    back: Floats
    springs: Floats
    tip_over: float
    over: tuple[OverForm, ...]


def form_of(bow: Bow, side: int) -> Form:
    """The form for a limb's natural line, bent further by what will spring back.

    Args:
        side: 0 upper, 1 lower.

    Raises:
        DescriptionError: a limb of one layer, which is not laminated, or one that springs back
            so far that no form helps.
    """
    limb, limbs = bow.limbs[side], grid(bow)
    if len(limb.layers) < 2:
        raise DescriptionError("A limb of one piece is not laminated over a form.", "layers")
    places = np.linspace(0.0, limb.length, FINE)
    nodes = limbs.places()[side, 0]
    stiff = np.interp(places, nodes, limbs.node_stiffness[side, 0])
    depth = np.interp(places, nodes, limbs.depth[side, 0])
    axis = np.interp(places, nodes, limbs.axis[side, 0])
    width = np.interp(places, limb.at, limb.width)
    depths = layer_depths(limb, places)
    own = sum(
        layer.modulus * width * thick**3 / 12
        for layer, thick in zip(limb.layers, depths, strict=True)
    )
    springs = np.asarray(own / stiff)
    inner = places < 0.9 * limb.length
    if springs[inner].max() > MOST_BACK:
        raise DescriptionError(
            "One lam makes nearly all of this limb: it springs back nearly whole. Split it in two,"
            " or bend it by steam first.",
            "layers",
        )
    springs = np.minimum(springs, MOST_BACK)
    wanted = np.interp(places, limb.unstrung_at, limb.unstrung)
    bent = wanted / (1 - springs)
    start, _, angle = limb.root
    lines = [_line(places, curvature, start, angle) for curvature in (wanted, bent)]
    (axis_line, _), (form_line, theta) = lines
    normal = np.stack([-np.sin(theta), np.cos(theta)], 1)  # to the belly
    belly = form_line + normal * (depth - axis)[:, None]
    back = form_line - normal * axis[:, None]
    first = [np.array([[0.0, float(edge[0, 1])]]) for edge in (belly, back)]
    over = tuple(
        _over(k, layer.material, thick, bent, places, layer.elastic_strain, layer.rupture_strain)
        for k, (layer, thick) in enumerate(zip(limb.layers, depths, strict=True))
    )
    return Form(
        SIDES[side],
        np.concatenate([first[0], belly]),
        np.concatenate([first[1], back]),
        springs,
        float(axis_line[-1, 1] - form_line[-1, 1]),
        over,
    )


def _line(places: Floats, curvature: Floats, start: float, angle: float) -> tuple[Floats, Floats]:
    """Points and angles of a line of given curvature."""
    step = places[1]
    turns = 0.5 * (curvature[1:] + curvature[:-1]) * step
    theta = angle + np.concatenate([[0.0], np.cumsum(turns)])
    middle = 0.5 * (theta[1:] + theta[:-1])
    along = start + np.concatenate([[0.0], np.cumsum(step * np.cos(middle))])
    across = np.concatenate([[0.0], np.cumsum(step * np.sin(middle))])
    return np.stack([along, across], 1), theta


def _over(
    number: int,
    material: str,
    thick: Floats,
    bent: Floats,
    places: Floats,
    sets: float | None,
    breaks: float | None,
) -> OverForm:
    strain = 0.5 * thick * np.abs(bent)
    worst = int(strain.argmax())
    return OverForm(
        number, material, float(thick[worst]), float(strain[worst]), float(places[worst]), sets,
        breaks,
    )  # fmt: skip


@dataclass(frozen=True)
class Glue:
    """What the joints of a bow take.

    Attributes:
        area: of all joints together (m²).
        whole: to mix (kg).
        parts: of a two-part glue (kg).
    """

    joints: int
    area: float
    whole: float
    parts: tuple[float, float]


def glue_of(bow: Bow, grip_width: float, ratio: float = 1.0, spread: float = SPREAD) -> Glue:
    """Glue for every joint between lams, across the grip too.

    Args:
        grip_width: between the limbs (m).
        ratio: second part for each of the first, by mass.
        spread: that a joint takes, both faces (kg/m²).

    Raises:
        DescriptionError: a ratio that no glue has, or a bow of one layer.
    """
    if not (np.isfinite(ratio) and 0.01 <= ratio <= 20):
        raise DescriptionError("The second part is a hundredth to twenty times the first.", "ratio")
    area = 0.0
    for limb in bow.limbs:
        places = np.linspace(0.0, limb.length, FINE)
        width = np.interp(places, limb.at, limb.width)
        depths = layer_depths(limb, places)
        for above, below in pairwise(depths):
            there = (above > 1e-6) & (below > 1e-6)
            area += float(np.trapezoid(width * there, places))
        area += limb.root[0] * grip_width * (len(limb.layers) - 1)
    joints = len(bow.upper.layers) - 1
    if joints < 1:
        raise DescriptionError("A limb of one piece has no joints.", "layers")
    whole = MIXED * spread * area
    return Glue(joints, area, whole, (whole / (1 + ratio), whole * ratio / (1 + ratio)))


def pressing(bow: Bow, side: int, pressure: float) -> float:
    """Force of a pressure on a limb's face from root to nock (N).

    Args:
        side: 0 upper, 1 lower.
        pressure: of a hose, or wanted of clamps (Pa).
    """
    limb = bow.limbs[side]
    return float(np.trapezoid(limb.width, limb.at)) * pressure


def sanding(bow: Bow, draw: float) -> tuple[float, float]:
    """Share of its weight that a bow loses for SANDED off its back, and off its belly.

    Args:
        draw: full draw (m).

    Returns:
        The shares, back and belly.
    """
    draws = np.array([draw])

    def weight(one: Bow) -> float:
        return float(force_curve.solve(one, draws).drawn.weight[-1])

    whole = weight(bow)
    return (
        1 - weight(_thinned(bow, 0)) / whole,
        1 - weight(_thinned(bow, len(bow.upper.layers) - 1)) / whole,
    )


def _thinned(bow: Bow, number: int) -> Bow:
    def limb(one: Limb) -> Limb:
        layer = one.layers[number]
        layers = one.layers
        if layer.thickness is not None:
            thin = np.maximum(layer.thickness + 0 * one.at - SANDED, 0.0)
            layers = tuple(
                replace(la, thickness=thin) if k == number else la for k, la in enumerate(layers)
            )
        return replace(one, layers=layers, thickness=one.thickness - SANDED)

    return replace(bow, upper=limb(bow.upper), lower=limb(bow.lower))
