"""Layouts, and design the other way round: the thicknesses that give a weight at a draw with a chosen bend.

At full draw the bent shape is known up to one scale: the bend is ``c·f(s)``, f the bend family. The scale
follows from the string and the draw, the tension from the weight, and the stiffness from
``EI(s) = T·b(s) / (c·f(s))``; thickness follows section by section. The string's length depends on the braced
shape of the very limbs sought, so an outer loop repeats this until it settles. Hickman, Nagler and Klopsteg,
Archery: the Technical Side (1947), treat the circular case.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from scipy.optimize import brentq, root

from bowyery import statics
from bowyery.bow import Bow, Hold, Limb, grid, limb_mass
from bowyery.errors import BowyeryError, DescriptionError, DesignError
from bowyery.materials import Material
from bowyery.section import Floats, Layer, Shape, completed, integrate
from bowyery.strain import SetForecast, expected_set, surface_strain
from bowyery.units import INCH

# The arrow passes over the hand, about this far above the pressure point in the grip.
ARROW_ABOVE_PIVOT = 1.25 * INCH
# The pull of the fingers acts this far below the arrow.
FINGERS_BELOW_ARROW = {"one above, two below": 0.3 * INCH, "three under": 1.1 * INCH}


def _circular(share: Floats) -> Floats:
    return np.ones_like(share)


def _elliptical(share: Floats) -> Floats:
    # curvature of an ellipse with axes in the ratio 0.65, from the end of its minor axis to 0.8 of the major one
    return np.asarray((1 - (1 - 0.65**2) * (0.8 * share) ** 2) ** -1.5)


BEND_FAMILIES: dict[str, Callable[[Floats], Floats]] = {"circular": _circular, "elliptical": _elliptical}


@dataclass(frozen=True)
class Layout:
    """A parallel-then-taper bow before its thickness is known; lengths in m.

    Attributes:
        length: from nock to nock along the unstrung back.
        handle: length of the stiff grip.
        fade: length of each fade, from grip to where bending starts.
        width: of the limb's parallel part.
        tip_width: at the nock.
        parallel: share of the bending limb that keeps full width.
        grip_drop: how far the grip's middle lies below the bow's centre (0: centred).
        lower_width: width of the lower limb as a share of the upper's.
        handle_depth: from back to the deepest part of the grip.
        least_tip: the tips are never made thinner.
        reflex: how far the unstrung tips lie towards the back (negative: deflex).
        shape: of the section.
    """

    length: float
    handle: float = 4.0 * INCH
    fade: float = 2.0 * INCH
    width: float = 1.75 * INCH
    tip_width: float = 0.5 * INCH
    parallel: float = 0.5
    grip_drop: float = 0.0
    lower_width: float = 1.0
    handle_depth: float = 1.75 * INCH
    least_tip: float = 0.3125 * INCH
    reflex: float = 0.0
    shape: Shape = field(default_factory=Shape)

    def root_from_centre(self, upper: bool) -> float:
        """Distance of a limb's root from the bow's centre (m)."""
        return self.handle / 2 + self.fade + (-self.grip_drop if upper else self.grip_drop)

    def limb_length(self, upper: bool) -> float:
        """Bending length from root to nock (m)."""
        return self.length / 2 - self.root_from_centre(upper)

    def width_at(self, places: Floats, upper: bool) -> Floats:
        """Width at places from the root (m)."""
        length = self.limb_length(upper)
        full = self.width * (1.0 if upper else self.lower_width)
        return np.interp(places, [0.0, self.parallel * length, length], [full, full, self.tip_width])

    def checked(self) -> Layout:
        """Return this layout, or raise DescriptionError with the figure that is impossible."""
        for name in ("length", "handle", "fade", "width", "tip_width", "handle_depth", "least_tip", "lower_width"):
            value = getattr(self, name)
            if not (np.isfinite(value) and value > 0):
                raise DescriptionError("This must be above zero.", name)
        if not 0 <= self.parallel <= 0.95:
            raise DescriptionError("The parallel part is 0 to 95 % of the limb.", "parallel")
        if abs(self.grip_drop) > 0.25 * self.length:
            raise DescriptionError("The grip would lie beyond the limb's root.", "grip_drop")
        if min(self.limb_length(True), self.limb_length(False)) < 0.25 * self.length:
            raise DescriptionError("Handle and fades leave less than half of the bow to bend; shorten them.", "handle")
        if abs(self.reflex) > 0.3 * self.limb_length(True):
            raise DescriptionError("So much reflex or deflex is no longer a gentle one.", "reflex")
        if self.tip_width > self.width:
            raise DescriptionError("The tips are wider than the limb.", "tip_width")
        return replace(self, shape=completed(self.shape))


@dataclass(frozen=True)
class Wanted:
    """What the bow is to do.

    Attributes:
        weight: at the draw (N).
        draw: from nocking point to pivot (m).
        brace_height: (m).
        family: of the bend, a key of BEND_FAMILIES.
        fingers: a key of FINGERS_BELOW_ARROW.
        upper_fuller: by how much the upper limb's bend exceeds the lower's, as a share.
    """

    weight: float
    draw: float
    brace_height: float = 6.0 * INCH
    family: str = "elliptical"
    fingers: str = "one above, two below"
    upper_fuller: float = 0.07

    @property
    def nock_offset(self) -> float:
        """Where the pull acts, above the pivot along the handle axis (m)."""
        return ARROW_ABOVE_PIVOT - FINGERS_BELOW_ARROW[self.fingers]

    def checked(self) -> Wanted:
        """Return this, or raise DescriptionError with the figure that is impossible."""
        for name, low, high in (("weight", 4.0, 1000.0), ("draw", 0.2, 1.2), ("brace_height", 0.04, 0.35)):
            value = getattr(self, name)
            if not (np.isfinite(value) and low <= value <= high):
                raise DescriptionError("No bow has such a figure.", name)
        if self.draw <= self.brace_height + 0.05:
            raise DescriptionError("The draw is hardly longer than the brace height.", "draw")
        if self.family not in BEND_FAMILIES:
            raise DescriptionError(f"Choose one of {', '.join(BEND_FAMILIES)}.", "family")
        if self.fingers not in FINGERS_BELOW_ARROW:
            raise DescriptionError(f"Choose one of {', '.join(FINGERS_BELOW_ARROW)}.", "fingers")
        return self


@dataclass(frozen=True)
class Mark:
    """A row of the marking table: distances in m; ``limb`` is ``upper`` or ``lower``."""

    limb: str
    from_centre: float
    from_root: float
    width: float
    thickness: float


@dataclass(frozen=True)
class Solution:
    """A solved design, rounded to the maker's steps and solved forward again.

    Attributes:
        layout, wanted, wood: what it was solved for.
        bow: the rounded bow.
        marks: the marking table, upper limb then lower, from root to nock.
        curve: forward solution of the rounded bow, from brace to full draw.
        exact_weight: at full draw before rounding (N).
        strain: greatest surface strain at full draw.
        set: expected string follow.
        mass: of both limbs and the handle (kg).
    """

    layout: Layout
    wanted: Wanted
    wood: Material
    bow: Bow
    marks: tuple[Mark, ...]
    curve: statics.Curve
    exact_weight: float
    strain: float
    set: SetForecast
    mass: float

    @property
    def weight(self) -> float:
        """At full draw, of the rounded bow (N)."""
        return float(self.curve.drawn.weight[-1])


@dataclass(frozen=True)
class Rounding:
    """Steps in which a maker marks: distance between marks, and steps of thickness and width (m)."""

    spacing: float
    thickness: float
    width: float


INCH_ROUNDING = Rounding(2 * INCH, INCH / 64, INCH / 32)
METRIC_ROUNDING = Rounding(0.05, 0.0005, 0.0005)
_FINE = 64


def _limb(layout: Layout, wood: Material, upper: bool, at: Floats, width: Floats, thickness: Floats) -> Limb:
    length = layout.limb_length(upper)
    curvature = -2 * layout.reflex / length**2
    layer = Layer("core", wood.name, wood.modulus, wood.density, None, wood.rupture_strain, wood.elastic_strain)
    return Limb(
        at, width, thickness, (layer,), layout.shape,
        (layout.root_from_centre(upper), 0.0, 0.0), np.array([0.0, length]), np.full(2, curvature),
    )  # fmt: skip


def assemble(
    layout: Layout, wanted: Wanted, wood: Material, at: tuple[Floats, Floats], thickness: tuple[Floats, Floats],
    width: tuple[Floats, Floats] | None = None, name: str = "",
) -> Bow:  # fmt: skip
    """Put a bow together from thicknesses at places from the roots (upper, lower)."""
    limbs = []
    for upper in (True, False):
        index = 0 if upper else 1
        w = layout.width_at(at[index], upper) if width is None else width[index]
        limbs.append(_limb(layout, wood, upper, at[index], w, thickness[index]))
    deep = float(np.mean([t[0] for t in thickness]))
    hold = Hold("hand", "fingers", (-layout.grip_drop, layout.handle_depth - deep / 2), wanted.nock_offset)
    return Bow(limbs[0], limbs[1], hold, wanted.brace_height, None, name)


@dataclass(frozen=True)
class _FullDraw:
    """The bent shape at full draw: scales of bend, loads and stiffness wanted at the nodes, per limb."""

    scale: Floats
    tension: Floats
    stiffness: tuple[Floats, Floats]
    bend: tuple[Floats, Floats]


def _full_draw(layout: Layout, wanted: Wanted, hold: Hold, string: float, upper_part: float) -> _FullDraw:
    lengths = [layout.limb_length(True), layout.limb_length(False)]
    share = np.linspace(0.0, 1.0, _FINE + 1)
    middle = 0.5 * (share[1:] + share[:-1])
    family = BEND_FAMILIES[wanted.family]
    f_node, f_mid = family(share), family(middle)
    f_mean = float(f_mid.mean())
    natural = [-2 * layout.reflex / length**2 for length in lengths]
    ratio = (1 + wanted.upper_fuller) * lengths[1] / lengths[0]

    def limb_shape(scale: float, index: int) -> tuple[Floats, Floats]:
        ds = lengths[index] / _FINE
        theta = np.concatenate([[0.0], np.cumsum((natural[index] + scale * f_mid / f_mean) * ds)])
        u = layout.root_from_centre(index == 0) + np.concatenate(
            [[0.0], np.cumsum(0.5 * ds * (np.cos(theta[1:]) + np.cos(theta[:-1])))]
        )
        y = np.concatenate([[0.0], np.cumsum(0.5 * ds * (np.sin(theta[1:]) + np.sin(theta[:-1])))])
        return (u if index == 0 else -u), y

    def state(x: Floats) -> tuple[list[tuple[Floats, Floats]], Floats]:
        lower, tilt = x
        bent = [limb_shape(lower * ratio, 0), limb_shape(lower, 1)]
        nock = np.array([hold.pivot[0] + wanted.draw * np.sin(tilt), hold.pivot[1] + wanted.draw * np.cos(tilt)])
        return bent, nock

    def miss(x: Floats) -> list[float]:
        bent, nock = state(x)
        reach = [float(np.hypot(u[-1] - nock[0], y[-1] - nock[1])) for u, y in bent]
        return [reach[0] - upper_part, reach[1] - (string - upper_part)]

    found = root(miss, [1.2 / lengths[1], 0.03], tol=1e-10)
    if not found.success or not 0 < found.x[0] * lengths[1] < 3.0:
        raise DesignError(
            "No bend of this kind reaches that draw: the bow is too short for it. Lengthen the bow or shorten the draw."
        )
    bent, nock = state(found.x)
    arm = nock - np.array(hold.pivot)
    outs = []
    for u, y in bent:
        out = np.array([u[-1] - nock[0], y[-1] - nock[1]])
        outs.append(out / np.hypot(*out))
    tension = np.linalg.solve(np.array(outs).T, -wanted.weight * arm / np.hypot(*arm))
    if np.any(tension <= 0):
        raise DesignError("At this draw the string would push; the draw is too long for these limbs.")
    stiffness, bends = [], []
    for index, (u, y) in enumerate(bent):
        scale = found.x[0] * (ratio if index == 0 else 1.0)
        lever = np.abs((u - nock[0]) * outs[index][1] - (y - nock[1]) * outs[index][0])
        bend = scale * f_node / f_mean
        stiffness.append(tension[index] * lever / bend)
        bends.append(bend)
    return _FullDraw(found.x[0] * np.array([ratio, 1.0]), tension, (stiffness[0], stiffness[1]), (bends[0], bends[1]))


def _thickness(layout: Layout, wood: Material, upper: bool, stiffness: Floats) -> Floats:
    """Thickness at the fine nodes for a wanted stiffness, with the maker's limits at the tip and towards the fade."""
    places = np.linspace(0.0, layout.limb_length(upper), _FINE + 1)
    width = layout.width_at(places, upper)
    unit = integrate(layout.shape, width, np.ones((1, *width.shape)), np.array([wood.modulus]), np.array([wood.density]))
    # the least thickness of the tip comes in gradually over the last three tenths of the limb
    outer = np.clip((places / places[-1] - 0.7) / 0.3, 0.0, 1.0)
    least = np.where(outer > 0, layout.least_tip * (0.5 + 0.5 * outer), 0.0)
    return np.asarray(np.maximum(np.cbrt(stiffness / unit.stiffness), least))


def _settle(layout: Layout, wanted: Wanted, wood: Material, cells: int) -> tuple[Floats, Floats, Bow]:
    fine = tuple(np.linspace(0.0, layout.limb_length(upper), _FINE + 1) for upper in (True, False))
    string = 0.985 * layout.length
    part = string / 2 - wanted.nock_offset
    deep = 0.012
    scale = 1.0
    bow: Bow | None = None
    weight = 0.0
    for _ in range(24):
        hold = Hold("hand", "fingers", (-layout.grip_drop, layout.handle_depth - deep / 2), wanted.nock_offset)
        full = _full_draw(layout, wanted, hold, string, part)
        upper, lower = (_thickness(layout, wood, up, full.stiffness[0 if up else 1] * scale) for up in (True, False))
        if upper[0] > layout.handle_depth:
            raise DesignError(
                "The limb would be thicker than the handle: the bow is too short or too narrow for this weight."
                " Lengthen it, widen it or ask for less."
            )
        bow = assemble(layout, wanted, wood, (fine[0], fine[1]), (upper, lower))
        limbs = grid(bow, cells)
        braced = statics.brace(limbs, bow.hold, np.array([wanted.brace_height]))
        drawn = statics.draw(limbs, bow.hold, braced, np.array([wanted.draw]))
        weight = float(drawn.weight[0])
        moved = abs(float(braced.string_length[0]) - string) + abs(float(braced.upper_part[0]) - part)
        string, part = float(braced.string_length[0]), float(braced.upper_part[0])
        deep = float((upper[0] + lower[0]) / 2)
        # thick tips and a thin root shift the weight a little; the whole limb is scaled to meet it
        scale *= wanted.weight / weight
        if moved < 2e-5 and abs(weight / wanted.weight - 1) < 1e-4:
            return upper, lower, bow
    if bow is not None and abs(weight / wanted.weight - 1) < 0.005:
        return upper, lower, bow
    raise DesignError("The brace height and this bend do not settle together; try another brace height or bend.")


def marks_for(layout: Layout, rounding: Rounding, upper: bool) -> Floats:
    """Places of the marks from the root: the root, round distances from the centre, and the nock (m)."""
    first, length = layout.root_from_centre(upper), layout.limb_length(upper)
    step = rounding.spacing
    rounds = np.arange(np.ceil((first + 0.3 * step) / step), np.floor((first + length - 0.3 * step) / step) + 1) * step
    return np.concatenate([[0.0], rounds - first, [length]])


def solve_design(layout: Layout, wanted: Wanted, wood: Material, rounding: Rounding, name: str = "") -> Solution:
    """Find the marking table whose bow has the wanted weight at the wanted draw.

    Args:
        layout: proportions and sizes.
        wanted: weight, draw, brace, bend.
        wood: at its moisture.
        rounding: the maker's steps; the table is solved forward again after rounding.

    Raises:
        DesignError: no such bow exists; says why and what to change.
        DescriptionError: an impossible figure, with its name.
    """
    layout, wanted = layout.checked(), wanted.checked()
    upper, lower, exact = _settle(layout, wanted, wood, 64)
    exact_weight = float(statics.solve(exact, np.array([wanted.draw])).drawn.weight[0])
    places, widths, smooth = [], [], []
    for index, fine in enumerate((upper, lower)):
        at = marks_for(layout, rounding, index == 0)
        places.append(at)
        widths.append(np.round(layout.width_at(at, index == 0) / rounding.width) * rounding.width)
        smooth.append(np.interp(at, np.linspace(0, layout.limb_length(index == 0), _FINE + 1), fine))
    thickness = _rounded(layout, wanted, wood, (places[0], places[1]), (widths[0], widths[1]), (smooth[0], smooth[1]), rounding)
    bow = assemble(layout, wanted, wood, (places[0], places[1]), thickness, (widths[0], widths[1]), name)
    limbs = grid(bow)
    braced = statics.brace(limbs, bow.hold, np.array([wanted.brace_height]))
    draws = np.linspace(float(braced.least_draw[0]) * (1 + 1e-9), wanted.draw, 26)
    curve = statics.solve_grid(limbs, bow, draws, braced)
    marks = tuple(
        Mark(limb, layout.root_from_centre(limb == "upper") + at, at, w, t)
        for limb, ats, ws, ts in zip(("upper", "lower"), places, widths, thickness, strict=True)
        for at, w, t in zip(ats, ws, ts, strict=True)
    )
    strain = float(surface_strain(curve.shapes)[:, -1].max())
    handle = layout.handle + 2 * layout.fade
    mass = float(limb_mass(limbs).sum()) + wood.density * handle * layout.handle_depth * 0.75 * layout.width * 0.85
    return Solution(
        layout, wanted, wood, bow, marks, curve, exact_weight, strain, expected_set(limbs, curve.shapes, wood), mass
    )  # fmt: skip


def _rounded(
    layout: Layout, wanted: Wanted, wood: Material, places: tuple[Floats, Floats], widths: tuple[Floats, Floats],
    smooth: tuple[Floats, Floats], rounding: Rounding,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Round thicknesses up and down so that the whole bow stays nearest the wanted weight."""
    step = rounding.thickness
    shifts = np.linspace(-0.7, 0.7, 17) * step
    pairs = np.stack(np.meshgrid(shifts, shifts)).reshape(2, -1)  # each limb rounds on its own
    tries = tuple(np.maximum(np.round((t + shift[:, None]) / step) * step, step) for t, shift in zip(smooth, pairs, strict=True))
    bow = assemble(layout, wanted, wood, places, smooth, widths)
    limbs = grid(bow, 32, (tries[0], tries[1]))
    braced = statics.brace(limbs, bow.hold, np.full(limbs.batch, wanted.brace_height))
    drawn = statics.draw(limbs, bow.hold, braced, np.full(limbs.batch, wanted.draw))
    # nearest weight, and of the near ones the pair that rounds both limbs most alike
    miss = np.abs(drawn.weight / wanted.weight - 1)
    best = int((np.maximum(miss, 0.002) + 0.002 * np.abs(pairs[0] - pairs[1]) / step).argmin())
    return tries[0][best], tries[1][best]


@dataclass(frozen=True)
class LengthSchool:
    """One school's answer to how long the bow should be.

    Attributes:
        school: ``A``, ``B`` or ``C``.
        layout: with that length, or the nearest that was tried.
        strain: greatest surface strain at full draw, or None when it cannot be built.
        set: expected string follow, or None.
        thickness: at the roots (m), or None.
        trouble: why it cannot be built, or nothing.
    """

    school: str
    layout: Layout
    strain: float | None
    set: SetForecast | None
    thickness: float | None
    trouble: str = ""


def _quick(layout: Layout, wanted: Wanted, wood: Material) -> tuple[float, SetForecast, float]:
    upper, _, bow = _settle(layout.checked(), wanted.checked(), wood, 32)
    curve = statics.solve(bow, np.array([wanted.draw]), 32)
    return curve.peaks[0].value, expected_set(curve.limbs, curve.shapes, wood), float(upper[0])


def _school(name: str, wanted: Wanted, wood: Material, layout: Layout) -> LengthSchool:
    try:
        strain, follow, thick = _quick(layout, wanted, wood)
    except BowyeryError as error:
        return LengthSchool(name, layout, None, None, None, str(error))
    return LengthSchool(name, layout, strain, follow, thick)


def length_schools(layout: Layout, wanted: Wanted, wood: Material) -> tuple[LengthSchool, LengthSchool, LengthSchool]:
    """Answer by all three schools for one archer, wood and layout.

    A: twice the draw and the stiff handle with its fades. B: as long as keeps this wood's surface strain at
    full draw under its working limit. C: short, at 1.7 draws with its stiff handle and fades made a third
    shorter and its limbs a quarter wider.
    """
    stiff = layout.handle + 2 * layout.fade
    a = replace(layout, length=2 * wanted.draw + stiff)
    c = replace(
        layout,
        length=1.7 * wanted.draw + stiff * 2 / 3,
        handle=layout.handle * 2 / 3,
        fade=layout.fade * 2 / 3,
        width=layout.width * 1.25,
    )

    def excess(length: float) -> float:
        try:
            return _quick(replace(layout, length=length), wanted, wood)[0] / wood.working_strain - 1
        except DesignError:
            return 2.0

    low, high = 1.5 * wanted.draw + stiff, 3.2 * wanted.draw + stiff
    if excess(low) <= 0:
        b = replace(layout, length=low)
    elif excess(high) > 0:
        b = replace(layout, length=high)
    else:
        b = replace(layout, length=float(brentq(excess, low, high, xtol=0.004)))
    school = partial(_school, wanted=wanted, wood=wood)
    return school("A", layout=a), school("B", layout=b), school("C", layout=c)
