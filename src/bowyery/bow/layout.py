"""Layouts: a bow before its thickness is known, what it is to do, and the marks a maker draws."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Asked, BackBow, Bow, Hold, Limb, StringLine
from bowyery.bow.natural import (
    BentTip,
    LimbLine,
    Natural,
    checked_line,
    checked_tip,
    natural_line,
)
from bowyery.bow.section import FLAT_OVAL, Layer, Shape, completed
from bowyery.errors import DescriptionError
from bowyery.units.bounds import BOUNDS, within
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Material

# The arrow passes over the hand, about this far above the pressure point in the grip.
# Share of a reflex lost by itself in the first weeks, and one deviation: judgements of the bench. A
# limb that grew so keeps it, a glued one lets go of a little as it leaves its form, and one bent by
# heat of a fifth as it takes its moisture back.
GROWN, GLUED, HEATED = (0.0, 0.0), (0.05, 0.04), (0.2, 0.1)
BRACE_HEIGHT = 6.0 * INCH  # the usual one, from pivot to string (m)
ARROW_ABOVE_PIVOT = 1.25 * INCH
# The pull of the fingers acts this far below the arrow.
FINGERS_BELOW_ARROW = {"one above, two below": 0.3 * INCH, "three under": 1.1 * INCH}
# Upper limb a little fuller for a split hold, even for three under: by a share of its bend.
UPPER_FULLER = {"one above, two below": 0.07, "three under": 0.0}
# Wanted gap at the upper fade less that at the lower, braced, low and high end (m), by the fingers
# on the string: limbs are tillered to it, and designs are solved for GAP_AIM, nearer its low end,
# because a fuller upper limb is strained more.
GAP_WANTED = {"one above, two below": (INCH / 8, INCH / 4), "three under": (-INCH / 16, INCH / 16)}
GAP_AIM = {"one above, two below": 0.15 * INCH, "three under": 0.0}

WidthPoints = tuple[tuple[float, float], ...]
MOST_WIDTHS = 6

Unknown = Literal["thickness", "width", "core", "nothing"]
UNKNOWNS: tuple[Unknown, ...] = ("thickness", "width", "core", "nothing")


def gap_band(fingers: str, sought: float | None = None) -> tuple[float, float]:
    """Low and high end of the wanted difference of the gaps at brace, upper less lower (m).

    Args:
        fingers: a key of GAP_WANTED.
        sought: what the maker wants instead of what that hold asks for (m).
    """
    low, high = GAP_WANTED[fingers]
    if sought is None:
        return low, high
    return sought - 0.5 * (high - low), sought + 0.5 * (high - low)


def _circular(share: Floats) -> Floats:
    return np.ones_like(share)


def _elliptical(share: Floats) -> Floats:
    # curvature of an ellipse with axes in the ratio 0.65, from the end of its minor axis to 0.8 of
    # the major one
    return np.asarray((1 - (1 - 0.65**2) * (0.8 * share) ** 2) ** -1.5)


def _whip_ended(share: Floats) -> Floats:
    return np.asarray(0.45 + 1.5 * share**2)


def _inner_limb(share: Floats) -> Floats:
    return np.asarray(1.5 - 1.1 * share)


CONSTANT_STRAIN = "constant strain"
BEND_FAMILIES: dict[str, Callable[[Floats], Floats]] = {
    "elliptical": _elliptical,
    "circular": _circular,
    "whip-ended": _whip_ended,
    "inner limb": _inner_limb,
    CONSTANT_STRAIN: _circular,  # where the search for it starts
}


def school_a_length(draw: float, handle: float, fade: float) -> float:
    """Bow length by school A: twice the draw and the stiff middle, nock to nock.

    Args:
        draw: on the ruler that it was told in (m).
        handle: length of the stiff grip (m).
        fade: length of each fade (m).

    Returns:
        The length (m).
    """
    return 2 * draw + handle + 2 * fade


@dataclass(frozen=True)
class StackLayer:
    """A layer of given thickness on or under the wood of a limb: its role, stuff, and thickness at
    root and nock (m).

    Attributes:
        ends: where it has run out, from the root (m), as a wedge does at the fade; None: it goes to
            the nock.
    """

    role: str
    material: Material
    root: float
    nock: float
    ends: float | None = None

    def depth_at(self, places: Floats, limb: float) -> Floats:
        """Its thickness at places from the root (m).

        Args:
            places: from the limb's root, ``(places,)`` (m).
            limb: bending length of the limb (m).
        """
        far = limb if self.ends is None else min(self.ends, limb)
        if self.ends is None:
            return np.interp(places, [0.0, far], [self.root, self.nock])
        return np.interp(places, [0.0, far], [self.root, self.nock], right=0.0)


@dataclass(frozen=True)
class BackBowLayout:
    """A back-bow in a layout: shorter, tied on at the grip, its ends cabled to the limbs; of the
    same stuff as they are.

    Attributes:
        length: from end to end (m).
        width, tip_width: at the grip and at its ends (m).
        depth: thickness at the grip and at its ends (m).
        tied: how far in from the nocks the cables are tied to the limbs (m).
        tension: of each cable before the bow is strung (N).
        stiffness: EA of the cable (N).
        slack: by how much each cable hangs loose before the bow is strung (m); it has no tension
            then.
        count: one, or two alike on one another.
    """

    length: float
    width: float
    tip_width: float
    depth: tuple[float, float]
    tied: float = 0.0
    tension: float = 60.0
    stiffness: float = 60e3
    slack: float = 0.0
    count: int = 1

    @property
    def outline(self) -> tuple[float, float, float]:
        """Its length, and its width at the grip and at its ends (m)."""
        return self.length, self.width, self.tip_width


@dataclass(frozen=True)
class Layout:
    """A bow before its thickness is known; lengths in m.

    Attributes:
        length: from nock to nock along the unstrung back.
        handle: length of the stiff grip; with ``fade`` zero as well the bow bends through its
            handle.
        fade: length of each fade, from grip to where bending starts.
        width: of the limb at its widest.
        parallel: share of the bending limb that keeps full width.
        root_width: width where bending starts, as a share of the full width; below 1 the limb is
            widest further out.
        grip_drop: how far the grip's middle lies below the bow's centre (0: centred).
        lower_width: width of the lower limb as a share of the upper's.
        handle_depth: from back to the deepest part of the grip.
        least_tip: the tips are never made thinner.
        reflex: how far the unstrung tips lie towards the back (negative: deflex).
        back, belly: layers of given thickness on the back's and belly's side of the wood, from the
            back.
        unknown: what is solved for: the thickness of a limb of one wood, the core of a stack, the
            width, or nothing, where the stock has its thickness already, as a tube or a rod has.
        depth: thickness at root and nock, where the width is solved for or nothing is.
        back_bow: shorter, tied on the back, or None.
        widths: of upper and lower limb, points of place (a share of the bending limb, from 0 at its
            root to 1 at the nock) and width there, straight between; None: as ``width``,
            ``parallel``, ``root_width`` and ``tip_width`` say.
        grip: width in the hand, or None for what is usual.
        beyond: wood beyond the nock, of upper and lower limb.
        tip: bent tips of both limbs, or None.
        lines: natural line of upper and lower limb by points, each in place of ``reflex``, or None.
        heated: its reflex was put in by heat.
        depth_from: share of the bending limb from which ``depth`` runs to that at the nock.
    """

    length: float
    handle: float = 4.0 * INCH
    fade: float = 2.0 * INCH
    width: float = 1.75 * INCH
    tip_width: float = 0.5 * INCH
    parallel: float = 0.5
    root_width: float = 1.0
    grip_drop: float = 0.0
    lower_width: float = 1.0
    handle_depth: float = 1.75 * INCH
    least_tip: float = 0.3125 * INCH
    reflex: float = 0.0
    shape: Shape = field(default_factory=Shape)
    back: tuple[StackLayer, ...] = ()
    belly: tuple[StackLayer, ...] = ()
    unknown: Unknown = "thickness"
    depth: tuple[float, float] = (0.55 * INCH, 0.4 * INCH)
    back_bow: BackBowLayout | None = None
    widths: tuple[WidthPoints, WidthPoints] | None = None
    grip: float | None = None
    beyond: tuple[float, float] = (INCH, INCH)
    tip: BentTip | None = None
    lines: tuple[LimbLine | None, LimbLine | None] = (None, None)
    heated: bool = False
    depth_from: float = 0.0

    @property
    def reflex_returns(self) -> tuple[float, float]:
        """Share of its reflex that is lost by itself, and one deviation."""
        if self.heated:
            return HEATED
        return GLUED if self.back or self.belly else GROWN

    @property
    def overall(self) -> float:
        """From end to end, with the wood beyond the nocks (m)."""
        return self.length + sum(self.beyond)

    def natural(self, upper: bool) -> Natural:
        """Unstrung curvature of a limb."""
        line = self.lines[0 if upper else 1]
        return natural_line(self.limb_length(upper), self.reflex, self.tip, line)

    def knees(self, upper: bool) -> Floats:
        """Places from the root where a drawn outline, a bent tip or a layer begins or ends (m)."""
        length = self.limb_length(upper)
        places = [at * length for at, _ in self.widths[0 if upper else 1]] if self.widths else []
        if self.tip is not None:
            places.append(length - self.tip.length)
        places += [one.ends for one in (*self.back, *self.belly) if one.ends is not None]
        found: list[float] = []
        for place in sorted(places):  # no two marks nearer than a pencil's breadth
            if 0.005 < place < length - 0.005 and (not found or place - found[-1] > 0.005):
                found.append(place)
        return np.array(found)

    @property
    def waisted(self) -> bool:
        """Whether a limb grows wider again further out than a narrower place that bends."""
        for points in self.widths or ():
            sizes = np.array([w for _, w in points])
            falls = np.maximum.accumulate(np.diff(sizes) < 0)
            if np.any(falls & (np.diff(sizes) > 0)):
                return True
        return False

    def root_from_centre(self, upper: bool) -> float:
        """Distance of a limb's root from the bow's centre (m)."""
        return self.handle / 2 + self.fade + (-self.grip_drop if upper else self.grip_drop)

    @property
    def stiff_handle(self) -> bool:
        """Whether there is a handle that does not bend; without one the bow bends through its
        middle.
        """
        return self.handle > 0 or self.fade > 0

    @property
    def grip_width(self) -> float:
        """Width in the hand (m): a stiff handle is narrowed by the usual three tenths, a bending
        one is left as it is.

        Stock that keeps its sizes keeps its width in the hand too.
        """
        if self.grip is not None:
            return self.grip
        if self.widths is not None and not self.stiff_handle:
            return float(np.mean([points[0][1] for points in self.widths]))
        return (
            0.7 * self.width
            if self.stiff_handle and self.unknown != "nothing"
            else self.root_width * self.width
        )

    def limb_length(self, upper: bool) -> float:
        """Bending length from root to nock (m)."""
        return self.length / 2 - self.root_from_centre(upper)

    def width_at(self, places: Floats, upper: bool) -> Floats:
        """Width at places from the root (m).

        Args:
            places: from the limb's root, ``(places,)`` (m).
        """
        length = self.limb_length(upper)
        if self.widths is not None:
            shares, widths = np.array(self.widths[0 if upper else 1]).T
            found: Floats = np.interp(places, shares * length, widths)
            return found
        full = self.width * (1.0 if upper else self.lower_width)
        if self.root_width == 1.0:
            return np.interp(
                places, [0.0, self.parallel * length, length], [full, full, self.tip_width]
            )
        return np.interp(
            places,
            [0.0, max(self.parallel, 0.05) * length, length],
            [self.root_width * full, full, self.tip_width],
        )

    def strip_at(self, width: float | Floats) -> Floats:
        """How wide a strip is cut out of a tube so that it closes to a width (m); nothing where it
        is not closed to a taper.
        """
        tube = self.shape.name == FLAT_OVAL and self.widths is None
        return np.asarray(np.pi * np.maximum(0.0, self.width - width) * tube)

    def depth_at(self, places: Floats, upper: bool) -> Floats:
        """Given thickness at places from the root, where it is not solved for (m).

        Args:
            places: from the limb's root, ``(places,)`` (m).
        """
        length, first = self.limb_length(upper), min(self.depth_from, 0.99)
        return np.interp(places, [first * length, length], self.depth)

    def layers_at(self, places: Floats, upper: bool, wood: Material) -> tuple[Layer, ...]:
        """Layers from the back, with the wood as the rest of the depth.

        Args:
            places: from the limb's root, ``(places,)`` (m).
        """
        length = self.limb_length(upper)

        def given(one: StackLayer) -> Layer:
            return layer_of(one.role, one.material, one.depth_at(places, length))

        return (*map(given, self.back), layer_of("core", wood), *map(given, self.belly))

    def checked(self) -> Layout:
        """Return this layout, or raise DescriptionError with the figure that is impossible."""
        for name in (
            "length",
            "width",
            "tip_width",
            "handle_depth",
            "least_tip",
            "lower_width",
            "root_width",
        ):
            value = getattr(self, name)
            if not (np.isfinite(value) and value > 0):
                raise DescriptionError("This must be above zero.", name)
        for name in ("handle", "fade"):
            if not (np.isfinite(getattr(self, name)) and getattr(self, name) >= 0):
                raise DescriptionError("This must be zero or more.", name)
        if not 0 <= self.parallel <= 0.95:
            raise DescriptionError("The parallel part is 0 to 95 % of the limb.", "parallel")
        if abs(self.grip_drop) > 0.25 * self.length:
            raise DescriptionError("The grip would lie beyond the limb's root.", "grip_drop")
        if min(self.limb_length(True), self.limb_length(False)) < 0.25 * self.length:
            raise DescriptionError(
                "Handle and fades leave less than half of the bow to bend; shorten them.", "handle"
            )
        if abs(self.reflex) > 0.3 * self.limb_length(True):
            raise DescriptionError("So much reflex or deflex is no longer a gentle one.", "reflex")
        if self.tip_width > self.width and self.unknown != "width":
            raise DescriptionError("The tips are wider than the limb.", "tip_width")
        if self.unknown not in UNKNOWNS:
            raise DescriptionError(f"Choose one of {', '.join(UNKNOWNS)}.", "unknown")
        self._check_outline()
        self._check_back_bow()
        stack = (*self.back, *self.belly)
        if self.unknown == "core" and not stack:
            raise DescriptionError(
                "A core is solved for in a stack; this limb has no other layers.", "unknown"
            )
        if self.unknown == "thickness" and stack:
            raise DescriptionError("In a stack the core is solved for; choose core.", "unknown")
        for number, one in enumerate(stack):
            if not (
                np.isfinite(one.root) and np.isfinite(one.nock) and one.root >= 0 and one.nock >= 0
            ):
                raise DescriptionError("This must be zero or more.", f"stack[{number}]")
        if self.unknown in ("width", "nothing") and not (
            min(self.depth) > 0 and np.all(np.isfinite(self.depth))
        ):
            raise DescriptionError("This must be above zero.", "depth")
        return replace(self, shape=completed(self.shape))

    def _check_outline(self) -> None:
        for upper, points in zip((True, False), self.widths or (), strict=False):
            name = f"widths.{'upper' if upper else 'lower'}"
            if not 2 <= len(points) <= MOST_WIDTHS:
                raise DescriptionError(f"Give two to {MOST_WIDTHS} widths a limb.", name)
            at, width = np.array(points).T
            if not (np.all(np.isfinite(at)) and np.all(width > 0) and np.all(width <= 0.2)):
                raise DescriptionError("A width is above zero and no wider than two hands.", name)
            if abs(at[0]) > 1e-9 or abs(at[-1] - 1) > 1e-9 or np.any(np.diff(at) <= 1e-4):
                raise DescriptionError(
                    "The widths follow one another from the fade to the nock, no two at one place.",
                    name,
                )
        if self.widths is not None and self.unknown == "width":
            raise DescriptionError(
                "The width cannot be drawn and solved for at once; solve for the thickness.",
                "unknown",
            )
        if self.grip is not None and not (np.isfinite(self.grip) and 0 < self.grip <= 0.2):
            raise DescriptionError("This must be above zero.", "grip")
        if not all(np.isfinite(b) and 0 <= b <= 0.15 for b in self.beyond):
            raise DescriptionError("Wood beyond the nock is nothing to half a foot.", "beyond")
        for upper in (True, False):
            length = self.limb_length(upper)
            line = self.lines[0 if upper else 1]
            if self.tip is not None:
                checked_tip(self.tip, length)
            if line is not None:
                try:
                    checked_line(line, length)
                except DescriptionError as error:
                    which = "upper" if upper else "lower"
                    raise DescriptionError(error.reason, f"line.{which}") from None

    def _check_back_bow(self) -> None:
        back = self.back_bow
        if back is None:
            return
        sizes = {
            "length": back.length,
            "width": back.width,
            "tip_width": back.tip_width,
            "depth": min(back.depth),
            "tension": back.tension if back.slack <= 0 else 1.0,
            "stiffness": back.stiffness,
        }
        if back.count not in (1, 2):
            raise DescriptionError("One back-bow, or two on one another.", "back_bow.count")
        if not 0 <= back.slack <= 0.1:
            raise DescriptionError("A cable hangs loose by nothing to a hand's breadth.",
                                   "back_bow.slack")  # fmt: skip
        for name, value in sizes.items():
            if not (np.isfinite(value) and value > 0):
                raise DescriptionError("This must be above zero.", f"back_bow.{name}")
        if not back.length < 0.95 * self.length:
            raise DescriptionError("The back-bow is the shorter one.", "back_bow.length")
        root = max(self.root_from_centre(True), self.root_from_centre(False))
        if back.length / 2 - root < 0.08:
            raise DescriptionError(
                "So short a back-bow ends at the grip; lengthen it.", "back_bow.length"
            )
        if not 0 <= back.tied < 0.6 * min(self.limb_length(True), self.limb_length(False)):
            raise DescriptionError(
                "The cable is tied somewhere on the outer limb.", "back_bow.tied"
            )


@dataclass(frozen=True)
class Wanted:
    """What the bow is to do.

    Attributes:
        weight: at the draw (N).
        draw: from nocking point to pivot (m).
        brace_height: (m).
        family: of the bend, a key of BEND_FAMILIES.
        fingers: a key of FINGERS_BELOW_ARROW.
        upper_fuller: by how much the upper limb's bend exceeds the lower's, as a share; None: as
            the gaps want it that are sought.
        gap_sought: upper less lower gap at brace that the maker wants (m), or None for what the
            hold asks for (GAP_WANTED): split fingers pull below the middle of the string, so that
            the lower limb is loaded more and the upper one is made to bend more at brace.
        arrow: its mass (kg), or None.
        string: mass and stretch, or None for the usual one.
    """

    weight: float
    draw: float
    brace_height: float = BRACE_HEIGHT
    family: str = "elliptical"
    fingers: str = "one above, two below"
    upper_fuller: float | None = None
    arrow: float | None = None
    string: StringLine | None = None
    gap_sought: float | None = None

    @property
    def asked(self) -> Asked:
        """As a bow file says it."""
        return Asked(self.weight, self.draw, self.fingers, self.gap_sought)

    @property
    def fuller(self) -> float:
        """By how much the upper limb's bend exceeds the lower's, as a share; where it follows from
        the gaps, about so much.
        """
        usual = UPPER_FULLER[self.fingers]
        return usual if self.upper_fuller is None else self.upper_fuller

    @property
    def gap(self) -> float | None:
        """Upper less lower gap that is solved for, braced (m); None where the bend is set."""
        if self.upper_fuller is not None:
            return None
        return GAP_AIM[self.fingers] if self.gap_sought is None else self.gap_sought

    @property
    def gap_band(self) -> tuple[float, float]:
        """Low and high end of the wanted difference of the gaps, upper less lower (m)."""
        return gap_band(self.fingers, self.gap_sought)

    @property
    def nock_offset(self) -> float:
        """Where the pull acts, above the pivot along the handle axis (m)."""
        return ARROW_ABOVE_PIVOT - FINGERS_BELOW_ARROW[self.fingers]

    def checked(self) -> Wanted:
        """Return this, or raise DescriptionError with the figure that is impossible."""
        for name, what in (
            ("weight", "draw weight"),
            ("draw", "draw"),
            ("brace_height", "brace height"),
        ):
            within(what, getattr(self, name), name)
        gap = self.gap_sought
        if gap is not None and not BOUNDS["difference of gaps"].holds(gap):
            raise DescriptionError("No bow is tillered to such a difference.", "gap_sought")
        if self.draw <= self.brace_height + 0.05:
            raise DescriptionError("The draw is hardly longer than the brace height.", "draw")
        if self.family not in BEND_FAMILIES:
            raise DescriptionError(f"Choose one of {', '.join(BEND_FAMILIES)}.", "family")
        if self.fingers not in FINGERS_BELOW_ARROW:
            raise DescriptionError(f"Choose one of {', '.join(FINGERS_BELOW_ARROW)}.", "fingers")
        return self


@dataclass(frozen=True)
class Mark:
    """A row of the marking table: distances in m; ``limb`` is ``upper`` or ``lower``.

    Attributes:
        from_centre: (m).
        from_root: (m).
        width: at the stations (m).
        thickness: of all layers together (m).
        layers: thickness of each, from the back (m).
    """

    limb: str
    from_centre: float
    from_root: float
    width: float
    thickness: float
    layers: tuple[float, ...] = ()


@dataclass(frozen=True)
class Rounding:
    """Steps in which a maker marks: distance between marks, and steps of thickness and width
    (m).

    Attributes:
        spacing: between marks (m).
    """

    spacing: float
    thickness: float
    width: float


INCH_ROUNDING = Rounding(2 * INCH, INCH / 64, INCH / 32)
METRIC_ROUNDING = Rounding(0.05, 0.0005, 0.0005)
# Lams are ground, and not shaped by hand.
GROUND = {INCH_ROUNDING: 0.002 * INCH, METRIC_ROUNDING: 0.00005}


def ground(rounding: Rounding) -> Rounding:
    """The same steps, with the thickness as it is ground.

    Returns:
        Steps of width as they are, of thickness as a grinder holds them.
    """
    return replace(rounding, thickness=GROUND.get(rounding, rounding.thickness))


def marks_for(layout: Layout, rounding: Rounding, upper: bool) -> Floats:
    """Places of the marks from the root: the root, round distances from the centre, where the
    outline or a layer has a knee, and the nock (m).
    """
    first, length = layout.root_from_centre(upper), layout.limb_length(upper)
    step = rounding.spacing
    rounds = (
        np.arange(
            np.ceil((first + 0.3 * step) / step), np.floor((first + length - 0.3 * step) / step) + 1
        )
        * step
    ) - first
    own = layout.knees(upper)
    if own.size:
        rounds = rounds[np.abs(rounds[:, None] - own).min(1) > 0.2 * step]
    return np.unique(np.concatenate([[0.0], rounds, own, [length]]))


def hold_of(layout: Layout, wanted: Wanted, thickness: tuple[Floats, Floats]) -> Hold:
    """The hand in the grip: the pivot lies as deep as handle and limbs make it.

    Args:
        thickness: at the stations of upper and lower limb (m).
    """
    deep = float(np.mean([t[0] for t in thickness]))
    return Hold(
        "hand", "fingers", (-layout.grip_drop, layout.handle_depth - deep / 2), wanted.nock_offset
    )


def assemble(
    layout: Layout,
    wanted: Wanted,
    wood: Material,
    at: tuple[Floats, Floats],
    thickness: tuple[Floats, Floats],
    width: tuple[Floats, Floats] | None = None,
    name: str = "",
) -> Bow:
    """Put a bow together from thicknesses at places from the roots (upper, lower).

    Args:
        at: stations from the roots, upper and lower (m).
        thickness: there (m).
        width: there (m), or None for the layout's.
    """
    limbs = []
    for index, upper in enumerate((True, False)):
        w = layout.width_at(at[index], upper) if width is None else width[index]
        natural = layout.natural(upper)
        limbs.append(
            Limb(
                at[index],
                w,
                thickness[index],
                layout.layers_at(at[index], upper, wood),
                layout.shape,
                (layout.root_from_centre(upper), 0.0, natural.angle),
                natural.at,
                natural.curvature,
            )
        )
    return Bow(
        limbs[0], limbs[1], hold_of(layout, wanted, thickness), wanted.brace_height, name=name,
        string=wanted.string or StringLine(), arrow=wanted.arrow, draw=wanted.draw,
        back_bow=None if layout.back_bow is None else laid_back_bow(
            layout, layout.back_bow, wood, float(np.mean([t[0] for t in thickness]))
        ),
    )  # fmt: skip


def layer_of(role: str, material: Material, thickness: Floats | None = None) -> Layer:
    """A layer of a material, with its limits.

    Args:
        role: facing, backing, core, veneer or belly.
        thickness: at the limb's stations (m), or None for the rest of the depth.
    """
    return Layer(
        role,
        material.name,
        material.modulus,
        material.density,
        thickness,
        material.rupture_strain,
        material.elastic_strain,
        material.ductile,
    )


def laid_back_bow(layout: Layout, back: BackBowLayout, wood: Material, deep: float) -> BackBow:
    """A layout's back-bow; it lies on the back of limbs ``deep`` (m) thick at their roots."""
    root = max(layout.root_from_centre(True), layout.root_from_centre(False))
    length = back.length / 2 - root
    at, ends = np.array([0.0, length]), np.array([back.width, back.tip_width])
    layer = layer_of("core", wood)
    across = -(deep + back.count * back.depth[0]) / 2
    limb = Limb(
        at, ends, np.array(back.depth), (layer,), Shape(), (root, across, 0.0), at, np.zeros(2)
    )
    tied_at = min(layout.limb_length(True), layout.limb_length(False)) - back.tied
    return BackBow(limb, tied_at, back.tension, back.stiffness, back.slack, back.count)
