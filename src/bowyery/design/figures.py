"""The figures of a design, each once: bounds, default, where it is asked and in which words.

A design's form, its row, its bow, its sheet and the way back from a layout follow from this table:
a new figure is a row of :class:`Figures` and one use in :meth:`Figures.layout`.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.layout import (
    BEND_FAMILIES,
    BRACE_HEIGHT,
    INCH_ROUNDING,
    METRIC_ROUNDING,
    BackBowLayout,
    Layout,
    Rounding,
    StackLayer,
    Unknown,
    Wanted,
    WidthPoints,
    ground,
)
from bowyery.bow.natural import BentTip, LimbLine
from bowyery.bow.section import FLAT_OVAL, PROFILES, Shape, flattened
from bowyery.errors import DescriptionError
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.strings.thread import usual_string
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre, Material, at_moisture

USUAL_FIBRE = "polyester"
ROD = "unidirectional glass"
RODS = {
    ROD: "glass in resin",
    "rigid PVC": "the same plastic",
    "bamboo slat": "bamboo",
    "white ash": "ash",
}
# Radius of a small log and of a stout culm (m), for sections that follow it.
USUAL_RADIUS = {
    "crowned back": 0.06,
    "culm segment": 0.045,
    "culm segment, skin to the belly": 0.045,
}
CENTRE_LINES = {"follow": "following the grain", "straight": "straight from nock to nock"}
BACKS = {"bark": "as it grew under the bark", "ring": "one ring, chased", "sawn": "as sawn"}
FADES = {
    "straight": "straight",
    "smooth": "smooth, in a double curve",
    "hollow": "hollow, like a spoon",
}
NOCKS = {
    "side": "grooves in the sides",
    "pin": "a pin with shoulders",
    "overlay": "an overlay with a groove over the back",
}
PLACES_FROM = {"centre": "from the centre", "tip": "from the nock"}
SOLVE_FOR = {
    "thickness": "the thickness",
    "width": "the width",
    "nothing": "nothing: the stock has its thickness",
}
BACK_BOWS = {"1": "one", "2": "two, on one another"}
# Plastic pipe as it is sold: outside diameter and wall (in; the metric ones mm), by the dimensions
# common to all makers (ASME B36.10, schedules 40 and 80; EN 1452, 10 and 16 bar).
PIPES = {
    "1/2 in schedule 40": (0.840, 0.109), "3/4 in schedule 40": (1.050, 0.113),
    "1 in schedule 40": (1.315, 0.133), "1 1/4 in schedule 40": (1.660, 0.140),
    "1 1/2 in schedule 40": (1.900, 0.145), "1/2 in schedule 80": (0.840, 0.147),
    "3/4 in schedule 80": (1.050, 0.154), "1 in schedule 80": (1.315, 0.179),
    "20 mm, 16 bar": (20.0, 1.5), "25 mm, 16 bar": (25.0, 1.9), "32 mm, 16 bar": (32.0, 2.4),
    "32 mm, 10 bar": (32.0, 1.6), "40 mm, 16 bar": (40.0, 3.0), "40 mm, 10 bar": (40.0, 1.9),
}  # fmt: skip


def _pipe_words(name: str) -> str:
    unit = "mm" if "mm" in name else "in"
    across, wall = PIPES[name]
    return f"{name}: {across:g} {unit} across, wall {wall:g} {unit}"


TUBE_ENDS = {
    "": "as they are",
    "flat": "pressed flat by heat, as thick at the nock as said",
    "taper": "cut open and closed to a taper, as wide at the tip as said",
}
REFLEX_BY = {"": "growth, or glue where layers are laid on", "1": "heat"}
TIPS = {"": "works: it opens as the bow is drawn", "1": "is stiff"}
MARKED_IN = {"imperial": "shop fractions (64ths)", "metric": "millimetres (half steps)"}

How = Literal["size", "maybe", "share", "choice", "layer", "fibre", "rows"]


@dataclass(frozen=True)
class Figure:
    """How one figure of a design is asked.

    Attributes:
        how: ``size``, ``maybe`` (a size that may be left out), ``share`` (asked in per cent), a
            ``choice``, a ``layer``'s or ``fibre``'s material, or ``rows``, which have fields of
            their own.
        group: where on the bow's picture it is asked; nothing for one that is asked first.
        bound: a key of BOUNDS, for sizes and shares.
        options: choices with their words.
    """

    how: How
    group: str = ""
    label: str = ""
    help: str = ""
    bound: str = ""
    options: Mapping[str, str] = dataclasses.field(default_factory=dict)


def _is(how: How, default: Any, group: str = "", label: str = "", help: str = "", bound: str = "",
        options: Mapping[str, str] | None = None) -> Any:  # fmt: skip
    figure = Figure(how, group, label, help, bound, options or {})
    if isinstance(default, list | dict):
        return dataclasses.field(default_factory=type(default), metadata={"figure": figure})
    return dataclasses.field(default=default, metadata={"figure": figure})


def _choice(
    options: Mapping[str, str], default: str, group: str, label: str, help: str = ""
) -> Any:
    return _is("choice", default, group, label, help, options=options)


def _size(bound: str, default: float, group: str, label: str, help: str = "") -> Any:
    return _is("size", default, group, label, help, bound)


def _maybe(bound: str, group: str, label: str, help: str = "") -> Any:
    return _is("maybe", None, group, label, help, bound)


GRIP, FADE, OUTLINE, SECTION, LINE, NOCK = (
    "Grip", "Fades", "Outline", "Section", "Natural line", "Nocks",
)  # fmt: skip
LAYERS, BEND, WOOD, BACK_BOW, PAPER = (
    "Layers", "String and bend", "The wood", "Back-bow", "On paper",
)  # fmt: skip


@dataclass(frozen=True)
class Figures:
    """A design's figures in SI, in the order in which they are asked; None is as usual.

    Shares are 0 to 1. ``outline`` and ``line`` hold points by limb (shares of it, and widths or
    offsets to the belly, m), ``lams`` further layers from the outermost to the core.
    """

    handle: float = _size("handle", 4 * INCH, GRIP, "Handle length")
    handle_depth: float = _size("handle depth", 1.75 * INCH, GRIP, "Handle depth, back to belly")
    grip_width: float | None = _maybe(
        "width of a grip", GRIP, "Width in the hand",
        "empty: seven tenths of the limb's, or the limb's own where the grip bends",
    )  # fmt: skip
    grip_drop: float = _size("grip below centre", 0.0, GRIP, "Grip below centre", "0: centred")
    fade: float = _size("fade", 2 * INCH, FADE, "Each fade")
    fade_shape: str = _choice(
        FADES, "smooth", FADE, "Fades are",
        "drawn so on the template; a gradual one does not break at its foot",
    )  # fmt: skip
    width: float = _size("limb width", 1.75 * INCH, OUTLINE, "Limb width")
    parallel: float = _is(
        "share", 0.5, OUTLINE, "Full width for",
        "per cent of the bending limb, then a straight taper", "per cent of a limb",
    )  # fmt: skip
    root_width: float = _is(
        "share", 1.0, OUTLINE, "Width at the fade",
        "per cent of the full width; less: widest further out", "per cent of the width",
    )  # fmt: skip
    tip_width: float = _size("tip width", 0.5 * INCH, OUTLINE, "Tip width")
    section: str = _choice(
        {one: one for one in PROFILES if one != FLAT_OVAL}, "rectangle", SECTION, "Section"
    )
    section_radius: float | None = _maybe(
        "radius of log or culm", SECTION, "Radius of log or culm",
        "for a crowned back or a culm segment; empty: a usual one",
    )  # fmt: skip
    tube_wall: float | None = _maybe(
        "wall of a tube", SECTION, "Wall of the tube", "for a tube, whose width is its diameter"
    )
    tube_stock: str = _choice(
        {"": "of the width and wall that are said"} | {name: _pipe_words(name) for name in PIPES},
        "", SECTION, "A pipe as it is sold", "in place of the limb's width and the tube's wall",
    )  # fmt: skip
    tube_ends: str = _choice(
        TUBE_ENDS, "", SECTION, "Its limbs are", "from where the full width ends to the nock"
    )
    tube_rod: float | None = _maybe(
        "rod in a tube", SECTION, "Rod inside it, across", "it slides freely; empty: none"
    )
    tube_rod_of: str = _choice(RODS, ROD, SECTION, "The rod is of")
    solve_for: str = _choice(
        SOLVE_FOR, "thickness", SECTION, "Solve for", "of the wood; with layers on it, of the core"
    )
    depth_root: float = _size(
        "limb thickness", 0.55 * INCH, SECTION, "Thick at the fade",
        "used where the thickness is not solved for; a tube is as thick as wide",
    )  # fmt: skip
    depth_nock: float = _size("limb thickness", 0.4 * INCH, SECTION, "Thick at the nock")
    least_tip: float = _size("thinnest tip", 0.3125 * INCH, SECTION, "Tips no thinner than")
    reflex: float = _size(
        "reflex", 0.0, LINE, "Reflex of the tips", "towards the back; deflex below zero"
    )
    reflex_by: str = _choice(
        REFLEX_BY, "", LINE, "The reflex comes by", "heat lets go of more of it than glue"
    )
    tip_bent: float | None = _maybe(
        "bent tip", LINE, "Bent tip, nock to foot", "recurved or flipped; empty: none"
    )
    tip_angle: float = _size(
        "angle of a tip", 0.0, LINE, "Bent by", "to the back; to the belly below zero"
    )
    tip_static: str = _choice(TIPS, "", LINE, "The bent tip")
    nock_style: str = _choice(
        NOCKS, "side", NOCK, "Nocks are", "grooves never cut into a bare back"
    )
    beyond_upper: float = _size("wood beyond the nock", INCH, NOCK, "Wood beyond the upper nock")
    beyond_lower: float = _size("wood beyond the nock", INCH, NOCK, "Wood beyond the lower nock")
    back: str = _is("layer", "", LAYERS, "Layer on the back")
    back_root: float = _size("laid layer", 0.0, LAYERS, "Back layer at the fade")
    back_nock: float = _size("laid layer", 0.0, LAYERS, "Back layer at the nock")
    belly: str = _is("layer", "", LAYERS, "Layer on the belly")
    belly_root: float = _size("laid layer", 0.0, LAYERS, "Belly layer at the fade")
    belly_nock: float = _size("laid layer", 0.0, LAYERS, "Belly layer at the nock")
    brace_height: float = _size("brace height", BRACE_HEIGHT, BEND, "Brace height")
    family: str = _choice(
        {one: one for one in BEND_FAMILIES}, "elliptical", BEND, "Bend at full draw",
        "elliptical and whip-ended spare the inner limb",
    )  # fmt: skip
    gap: float | None = _maybe("difference of gaps", BEND, "Upper gap larger, by")
    fibre: str = _is("fibre", USUAL_FIBRE, BEND, "String of")
    arrow: float | None = _maybe(
        "arrow mass", BEND, "Arrow", "empty: ten grains for each pound of weight"
    )
    moisture: float = _size("moisture worked", 0.09, WOOD, "Moisture when worked")
    back_is: str = _choice(
        BACKS, "bark", WOOD, "The back is",
        "white wood: as it grew; ring-porous wood: chased; boards: as sawn",
    )  # fmt: skip
    centre_line: str = _choice(
        CENTRE_LINES, "follow", WOOD, "Centre line",
        "follow it on a self bow; straight on a backed or laminated one",
    )  # fmt: skip
    back_bow_length: float | None = _maybe(
        "back-bow length", BACK_BOW, "Back-bow, end to end",
        "a shorter bow tied on the back; empty: none",
    )  # fmt: skip
    back_bow_count: str = _choice(
        BACK_BOWS, "1", BACK_BOW, "Back-bows", "two alike slide on each other and share the cables"
    )
    back_bow_width: float = _size("back-bow width", 1.25 * INCH, BACK_BOW, "Its width at the grip")
    back_bow_tip: float = _size("back-bow width", 0.75 * INCH, BACK_BOW, "Its width at the ends")
    back_bow_root: float = _size("back-bow thickness", 0.3 * INCH, BACK_BOW, "Thick at the grip")
    back_bow_nock: float = _size("back-bow thickness", 0.2 * INCH, BACK_BOW, "Thick at the ends")
    back_bow_tied: float = _size("cable tied in", 0.0, BACK_BOW, "Cable tied, in from the nocks")
    cable_tension: float = _size(
        "cable tension", 60.0, BACK_BOW, "Cable tension, unstrung",
        "too slack, and the main bow breaks at its middle",
    )  # fmt: skip
    cable_slack: float = _size(
        "slack of a cable", 0.0, BACK_BOW, "or loose by, unstrung",
        "more than nothing: the cable pulls only when the bow is bent so far",
    )  # fmt: skip
    marked_in: str = _choice(MARKED_IN, "imperial", PAPER, "Marks in")
    places_from: str = _choice(PLACES_FROM, "centre", "", "Places are measured")
    kind: str = _is("rows", "")
    outline: dict[str, Any] | None = _is("rows", None)  # noqa: RUF009
    line: dict[str, Any] = _is("rows", {})  # noqa: RUF009
    lams: list[dict[str, Any]] = _is("rows", [])  # noqa: RUF009

    def layout(self, length: float, weight: float, stuff: Stuff) -> Layout:
        """The bow before its thickness is known.

        Args:
            length: from nock to nock (m).
            weight: wanted (N).
            stuff: what the shop's materials and threads are, by name.
        """
        if self.section == "tube" and self.tube_stock:
            return self._of_the_pipe().layout(length, weight, stuff)
        if self.section == "tube":
            self.fits_a_tube()
        back = (*self._layer("back", stuff), *self._lams("back", stuff))
        belly = (*self._lams("belly", stuff), *self._layer("belly", stuff))
        unknown: Unknown = "core" if back or belly else "thickness"
        if self.solve_for != "thickness":
            unknown = "width" if self.solve_for == "width" else "nothing"
        tip = None
        if self.tip_bent:
            tip = BentTip(self.tip_bent, self.tip_angle, bool(self.tip_static))
        return Layout(
            length,
            self.handle,
            self.fade,
            self.width,
            self.tip_width,
            self.parallel,
            self.root_width,
            grip_drop=self.grip_drop,
            handle_depth=self.handle_depth,
            least_tip=self.least_tip,
            reflex=self.reflex,
            heated=bool(self.reflex_by),
            depth_from=self.parallel if self.section == "tube" else 0.0,
            shape=self._shape(stuff),
            back=back,
            belly=belly,
            unknown=unknown,
            depth=self._depth(),
            back_bow=self._back_bow(length, weight, stuff),
            widths=self._widths(),
            grip=self.grip_width,
            beyond=(self.beyond_upper, self.beyond_lower),
            tip=tip,
            lines=(self._limb_line("upper"), self._limb_line("lower")),
        )

    def wanted(
        self, length: float, weight: float, draw: float, fingers: str, stuff: Stuff
    ) -> Wanted:
        """What the bow is to do.

        Args:
            length: from nock to nock (m).
            weight: at the draw (N).
            draw: from nocking point to pivot (m).
        """
        return Wanted(
            weight,
            draw,
            self.brace_height,
            self.family,
            fingers,
            arrow=self.arrow or USUAL_ARROW * weight,
            string=usual_string(stuff.fibre(self.fibre), weight, length),
            gap_sought=self.gap,
        )

    def rounding(self, layout: Layout) -> Rounding:
        """The maker's steps; lams behind glass are ground."""
        steps = METRIC_ROUNDING if self.marked_in == "metric" else INCH_ROUNDING
        glass = any(layer.role == "facing" for layer in (*layout.back, *layout.belly))
        return ground(steps) if glass else steps

    def _layer(self, side: str, stuff: Stuff) -> tuple[StackLayer, ...]:
        name: str = getattr(self, side)
        if not name:
            return ()
        one = stuff.material(name)
        role = "facing" if one.kind == "glass" else "backing"
        ends = getattr(self, f"{side}_root"), getattr(self, f"{side}_nock")
        return (StackLayer(role, at_moisture(one, self.moisture), *ends),)

    def _lams(self, side: str, stuff: Stuff) -> tuple[StackLayer, ...]:
        """Layers between the outermost and the wood that is solved for."""
        return tuple(
            StackLayer(
                "veneer",
                at_moisture(stuff.material(lam["material"]), self.moisture),
                lam["root"],
                lam["nock"],
                lam["ends"],
            )
            for lam in self.lams
            if lam["side"] == side
        )

    def _of_the_pipe(self) -> Figures:
        """The same with the width and wall of its pipe."""
        unit = 1e-3 if "mm" in self.tube_stock else INCH
        across, wall = (unit * one for one in PIPES[self.tube_stock])
        tip = self.tip_width if self.tube_ends == "taper" else across
        return dataclasses.replace(self, tube_stock="", width=across, tip_width=tip, tube_wall=wall)

    def fits_a_tube(self) -> None:
        """Raise DescriptionError for ends that no such tube can be given, or a rod."""
        if self.tube_stock:
            return self._of_the_pipe().fits_a_tube()
        walls = 2 * (self.tube_wall or 0.15 * self.width)
        if self.tube_ends == "flat" and not walls <= self.depth_nock <= self.width:
            raise DescriptionError(
                "Pressed flat it is no thicker than round, and no thinner than its two walls.",
                "depth_nock",
            )
        if self.tube_ends == "taper" and not walls <= self.tip_width <= self.width:
            raise DescriptionError(
                "Closed to a taper it is no wider at the tip, and no narrower than its two walls.",
                "tip_width",
            )
        hollow = (self.depth_nock if self.tube_ends == "flat" else self.width) - walls
        if self.tube_rod and self.tube_rod > hollow:
            raise DescriptionError("This rod does not go into the tube.", "tube_rod")

    def _shape(self, stuff: Stuff) -> Shape:
        """The section with the figure of its own stock."""
        if self.section in USUAL_RADIUS:
            radius = self.section_radius or USUAL_RADIUS[self.section]
            return Shape(self.section, {"radius_mm": radius * 1e3})
        if self.section == "tube":
            figures: dict[str, float | Floats] = {
                "wall_mm": 1e3 * min(self.tube_wall or 0.15 * self.width, 0.5 * self.width)
            }
            if self.tube_rod:
                rod = stuff.material(self.tube_rod_of)
                figures |= {
                    "rod_mm": 1e3 * self.tube_rod,
                    "rod_gpa": 1e-9 * rod.modulus,
                    "rod_density": rod.density,
                }
            return Shape(FLAT_OVAL, figures)
        return Shape(self.section)

    def _depth(self) -> tuple[float, float]:
        """Thickness at root and nock (m); a tube that is not pressed is as thick as wide."""
        if self.section == "tube":
            return self.width, self.depth_nock if self.tube_ends == "flat" else self.tip_width
        return self.depth_root, self.depth_nock

    def _widths(self) -> tuple[WidthPoints, WidthPoints] | None:
        if self.section == "tube" and self.tube_ends == "flat":
            tip = float(flattened(self.width, np.array(self.depth_nock)))
            points = ((0.0, self.width), (self.parallel, self.width), (1.0, tip))
            return points, points
        if not self.outline:
            return None
        upper = self.outline["upper"]
        lower = self.outline.get("lower") or upper
        return tuple(map(tuple, upper)), tuple(map(tuple, lower))

    def _limb_line(self, side: str) -> LimbLine | None:
        points = (self.line or {}).get(side)
        return LimbLine(*zip(*points, strict=True)) if points else None

    def _back_bow(self, length: float, weight: float, stuff: Stuff) -> BackBowLayout | None:
        if not self.back_bow_length:
            return None
        cable = usual_string(stuff.fibre(self.fibre), weight, length)
        return BackBowLayout(
            self.back_bow_length,
            self.back_bow_width,
            self.back_bow_tip,
            (self.back_bow_root, self.back_bow_nock),
            self.back_bow_tied,
            self.cable_tension,
            cable.stretch_stiffness,
            self.cable_slack,
            int(self.back_bow_count),
        )


@dataclass(frozen=True)
class Stuff:
    """What the shop's materials and threads are, by name; each raises DescriptionError for one that
    it does not know.
    """

    material: Callable[[str], Material]
    fibre: Callable[[str], Fibre]


FIGURES: dict[str, Figure] = {
    one.name: one.metadata["figure"] for one in dataclasses.fields(Figures)
}
_MATERIALS = ("layer", "fibre")
GROUPS = tuple(dict.fromkeys(figure.group for figure in FIGURES.values() if figure.group))
# Where an error of the core names a figure otherwise than this table does.
NAMED = {
    "upper_fuller": "fingers", "gap_sought": "gap", "lower_width": "width", "grip": "grip_width",
    "back_bow.length": "back_bow_length", "back_bow.width": "back_bow_width",
    "back_bow.tip_width": "back_bow_tip", "back_bow.depth": "back_bow_root",
    "back_bow.tied": "back_bow_tied", "back_bow.tension": "cable_tension",
    "back_bow.slack": "cable_slack", "section.radius_mm": "section_radius",
    "section.wall": "tube_wall", "section.wall_mm": "tube_wall", "section.rod_mm": "tube_rod",
    "beyond": "beyond_upper",
    "widths.upper": "upper_wide_root", "widths.lower": "lower_wide_root",
    "line.upper": "upper_lies_nock", "line.lower": "lower_lies_nock",
}  # fmt: skip


def figures_of(layout: Layout) -> dict[str, Any]:
    """A family's layout as figures: those that the family says something of."""
    figures: dict[str, Any] = {
        name: getattr(layout, name)
        for name in (
            "handle", "fade", "width", "tip_width", "parallel", "root_width", "handle_depth",
            "least_tip", "reflex",
        )
    }  # fmt: skip
    figures["section"] = layout.shape.name
    own = layout.shape.figures
    if "radius_mm" in own:
        figures["section_radius"] = own["radius_mm"] / 1e3
    if layout.shape.name == FLAT_OVAL:
        figures |= {"section": "tube", "tube_wall": own["wall_mm"] / 1e3}
    if layout.tip is not None:
        static = "1" if layout.tip.static else ""
        figures |= {
            "tip_bent": layout.tip.length, "tip_angle": layout.tip.angle, "tip_static": static,
        }  # fmt: skip
    for side, layers in (("back", layout.back), ("belly", layout.belly)):
        for one in layers[:1]:
            figures |= {
                side: one.material.name, f"{side}_root": one.root, f"{side}_nock": one.nock,
            }  # fmt: skip
    if layout.unknown == "nothing":
        figures |= {
            "solve_for": "nothing", "depth_root": layout.depth[0], "depth_nock": layout.depth[1],
        }  # fmt: skip
    if layout.back_bow is not None:
        back = layout.back_bow
        figures |= {
            "back_bow_length": back.length, "back_bow_count": str(back.count),
            "back_bow_width": back.width, "back_bow_tip": back.tip_width,
            "back_bow_root": back.depth[0], "back_bow_nock": back.depth[1],
            "back_bow_tied": back.tied, "cable_tension": back.tension,
        }  # fmt: skip
    return figures


def asked(figures: Mapping[str, Any]) -> dict[str, Any]:
    """Figures as forms ask for them, shares in per cent; those with fields of their own."""
    return {
        name: round(value * 100) if FIGURES[name].how == "share" else value
        for name, value in figures.items()
        if name not in ("outline", "line", "lams")
    }


def taken_from(row: Mapping[str, Any]) -> dict[str, Any]:
    """Figures among a row's columns, as rows held them before they were one column."""
    found = {name: row[name] for name in FIGURES if name in row}
    if "tip_static" in found:
        found["tip_static"] = "1" if found["tip_static"] else ""
    if "back_bow_count" in found:
        found["back_bow_count"] = str(found["back_bow_count"])
    return found


def looked_at(sizes: Mapping[str, Any]) -> None:
    """Raise DescriptionError for what is no figure, or is none that a form would take."""
    for name, value in sizes.items():
        figure = FIGURES.get(name)
        if figure is None:
            raise DescriptionError("No design has such a figure.", name)
        usual = value is None and figure.how == "maybe"
        if figure.bound and not usual:
            if isinstance(value, bool) or not isinstance(value, int | float):
                raise DescriptionError("This must be a number.", name)
            if not BOUNDS[figure.bound].holds(100 * value if figure.how == "share" else value):
                raise DescriptionError("This is outside what is possible.", name)
        elif figure.options and value not in figure.options:
            raise DescriptionError(f"Choose one of {', '.join(figure.options)}.", name)


def materials_in(sizes: Mapping[str, Any]) -> set[str]:
    """Names of the materials that figures speak of."""
    layers = {sizes.get(name) for name, figure in FIGURES.items() if figure.how in _MATERIALS}
    return {name for name in layers if name} | {lam["material"] for lam in sizes.get("lams", ())}


def renamed(sizes: Mapping[str, Any], names: Mapping[str, str]) -> dict[str, Any]:
    """Figures with their materials called otherwise, from ``names`` to theirs."""
    found = {
        name: names.get(value, value) if FIGURES[name].how in _MATERIALS else value
        for name, value in sizes.items()
    }
    if lams := found.get("lams"):
        found["lams"] = [one | {"material": names.get(one["material"], one["material"])}
                         for one in lams]  # fmt: skip
    return found
