"""The kinds of reading, each declared once: how it is written, asked for, said, doubted, predicted.

A new kind of reading is one more row of KINDS. The pencil line, the forms, the words, the estimate
and the virtual stave all go by this table.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD, SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import EstimateError
from bowyery.mechanics.cantilever import tip_compliance
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.mechanics.gaps import at_place, string_height
from bowyery.units.quantity import (
    ANGLE,
    FINE_LENGTH,
    FINE_WEIGHT,
    INCH,
    LENGTH,
    POUND_FORCE,
    THICKNESS,
    Quantity,
)

# What a careful maker's readings are worth, one standard deviation: a spring scale read on the
# tree, the draw marks beside it, a rule held against the string, tips against a level line.
WEIGHT_ERROR = 0.5 * POUND_FORCE
WEIGHT_ERROR_SHARE = 0.01
DRAW_ERROR = INCH / 8
GAP_ERROR = INCH / 32
TAUT_ERROR = INCH / 4  # the draw where a hanging string comes taut, as it is seen
TIP_ERROR = INCH / 16
# The wood itself varies, so a measured size says less of the stiffness than its own error would:
# in log stiffness.
WOOD_VARIES = 0.12
LIE_ERROR = INCH / 16  # how far an unstrung limb lies off the handle's line
# What is seen by eye, as the log of how much more a stretch bends than the whole of both limbs
# should make it, and one deviation. A maker notices about a sixth, so that a stretch that was
# called stiff is so by a fifth or a quarter in the mean; how natural bend fools the eye is counted
# in by the prediction. A block with a pencil in it, slid along, is not fooled by the wall behind.
EYE: dict[str, tuple[float, float]] = {
    "stiff": (-0.22, 0.10),
    "weak": (0.22, 0.10),
    "hinge": (0.38, 0.15),
    "good": (0.0, 0.09),
    "block": (-0.18, 0.07),
}
EYE_LIMB: dict[str, tuple[float, float]] = {"less": (-0.15, 0.08), "more": (0.15, 0.08)}
EYE_REACH = 0.05  # a place that is pointed at stands for so much to both sides (m)
BENT_ENOUGH = 0.4  # below so much bend natural bend is all that an eye can see (1/m)


@dataclass(frozen=True)
class Reading:
    """One reading.

    Attributes:
        value: as read (SI).
        kind: a key of KINDS, which says what it is.
        limb: for all that belong to one.
        draw: from pivot to nocking point (m); None means braced or hanging.
        at: place along the limb from its root (m), where the kind has one.
        span: of a straight edge (m); the earlier draw of a tip's travel (m).
        string: which string was on, a key of the bows the readings are taken with.
        error: one standard deviation, or None for what a careful maker reads.
        drop: share by which a weight sank in a hold before it was read.
        id: of the measure it came from, where it came from one.
    """

    kind: str
    value: float
    limb: Side | None = None
    draw: float | None = None
    at: float | None = None
    span: float | None = None
    string: str = ""
    error: float | None = None
    drop: float = 0.0
    id: int | None = None

    @property
    def at_once(self) -> float:
        """The value, a weight as it was before it sank in a hold."""
        return self.value / (1 - self.drop) if self.kind == "weight" else self.value

    @property
    def side(self) -> int:
        """The limb as a place on the first axis of the arrays; raises EstimateError without one."""
        if self.limb is None:
            raise EstimateError("Say which limb the reading is of, upper or lower.")
        return SIDES.index(self.limb)

    @property
    def draws(self) -> tuple[float | None, ...]:
        """Every draw it looks at."""
        return (self.span, self.draw) if self.kind == "tip travel" else (self.draw,)


@dataclass(frozen=True)
class Scene:
    """A batch of bows as they are read: their shapes, weights and tilts at each draw, None: at
    brace.

    Attributes:
        bent: shapes at each draw.
        weight: at each draw, ``(B,)`` (N).
        tilt: at each draw, ``(B,)`` (rad).
        taut: the draw where the string is straight, or comes taut, ``(B,)`` (m).
        design: the grid that these limbs are judged against by eye, or None: they are as designed.
    """

    limbs: LimbGrid
    bow: Bow
    bent: Mapping[float | None, Shapes]
    weight: Mapping[float | None, Floats]
    tilt: Mapping[float | None, Floats]
    taut: Floats
    design: LimbGrid | None = None


Predict = Callable[[Scene, Reading], Floats]
Error = Callable[[Reading, float, float], float]


@dataclass(frozen=True)
class Asked:
    """How a form asks for a reading.

    Attributes:
        label: of its field; ``{limb}`` is filled in.
        bound: of the value, a key of BOUNDS.
        first: it stands before the limbs' own fields.
        several: figures with their places in one field, as in the pencil line.
    """

    label: str
    bound: str
    first: bool = False
    several: bool = False
    hint: str = ""


@dataclass(frozen=True)
class ReadingKind:
    """One kind of reading.

    Attributes:
        meaning: what it is, for the help.
        predict: what a batch of bows reads, ``(B,)`` in SI.
        error: one standard deviation by reading, expected value, and slope of weight by draw.
        needs: which of ``draw``, ``at`` and ``span`` it cannot be without.
        on_place: it is read at a place of a limb.
        is_draw: its value is itself a draw.
        unstrung: it is read with the string off.
        forms: how it is written, in the pencil line's template; the first is what forms compose.
        word: what it is called in the line, for the sentences of errors.
        missed: how it is asked for, where it would tell most; nothing: it is not asked for.
        bounds: what a bow can show, a key of BOUNDS, and what a figure outside is called.
    """

    name: str
    meaning: str
    predict: Predict
    error: Error
    quantity: Quantity = LENGTH
    of_limb: bool = True
    needs: frozenset[str] = frozenset()
    on_place: bool = False
    is_draw: bool = False
    unstrung: bool = False
    forms: tuple[str, ...] = ()
    word: str = ""
    examples: tuple[str, str] = ("", "")
    said: str = ""
    missed: str = ""
    bounds: tuple[str, str] = ("", "")
    asked: Asked | None = field(default=None)


def _turned(bow: Bow, along: Floats, across: Floats, tilt: Floats) -> tuple[Floats, Floats]:
    """Points as they hang: the bow turns on the tree until the rope is plumb."""
    px, py = bow.hold.pivot
    c, s = np.cos(tilt)[:, None], np.sin(tilt)[:, None]
    x, y = along - px, across - py
    return px + c * x - s * y, py + c * y + s * x


def _of_weight(scene: Scene, r: Reading) -> Floats:
    return scene.weight[r.draw]


def _taut(scene: Scene, r: Reading) -> Floats:
    return scene.taut


def _of_tilt(scene: Scene, r: Reading) -> Floats:
    return scene.tilt[r.draw]


def _gap(scene: Scene, r: Reading) -> Floats:
    here, limbs, place = scene.bent[r.draw], scene.limbs, r.at or 0.0
    along, across, belly = (
        at_place(v, limbs, r.side, place)
        for v in (here.along, here.across, limbs.depth - limbs.axis)
    )
    return np.asarray(string_height(here.string, along) - across - belly)


def _gaps_along(scene: Scene, r: Reading) -> Floats:
    here, limbs = scene.bent[r.draw], scene.limbs
    along = here.along[r.side]
    across = here.across[r.side] + (limbs.depth - limbs.axis)[r.side]
    return np.asarray(string_height(here.string, along) - across)


def _deepest_gap(scene: Scene, r: Reading) -> Floats:
    return np.asarray(_gaps_along(scene, r).max(-1))


def _deepest_place(scene: Scene, r: Reading) -> Floats:
    """Where the gap is greatest, by a parabola through the greatest node and its neighbours."""
    gaps, places = _gaps_along(scene, r), scene.limbs.places()[r.side]
    top = np.clip(gaps.argmax(-1), 1, gaps.shape[-1] - 2)
    rows = np.arange(gaps.shape[0])
    a, b, c = (gaps[rows, top + k] for k in (-1, 0, 1))
    before, here, after = (places[rows, top + k] for k in (-1, 0, 1))
    fall, rise = (b - a) / (here - before), (c - b) / (after - here)
    bow = (rise - fall) / (after - before)
    steep = np.abs(bow) > 1e-9
    shift = -0.5 * (fall + bow * (here - before)) / np.where(steep, bow, 1.0)
    return np.asarray(np.clip(here + np.where(steep, shift, 0.0), before, after))


def _fallen(scene: Scene, r: Reading, draw: float | None) -> Floats:
    here, tilt, side = scene.bent[draw], scene.tilt[draw], r.side
    still = np.zeros((2, scene.limbs.batch))
    rest = shapes(scene.limbs, still, still).tip[1, side]
    tip = _turned(scene.bow, here.tip[0, side][:, None], here.tip[1, side][:, None], tilt)[1][:, 0]
    return np.asarray(tip - rest)


def _tip_height(scene: Scene, r: Reading) -> Floats:
    return _fallen(scene, r, r.draw)


def _tip_travel(scene: Scene, r: Reading) -> Floats:
    return _fallen(scene, r, r.draw) - _fallen(scene, r, r.span)


def _offset(scene: Scene, r: Reading) -> Floats:
    """Towards the back of the straight line from root to nock: as the belly sees a bent limb
    bulge.
    """
    here, side = scene.bent[r.draw], r.side
    start, end = (np.stack([v[side, :, k] for v in (here.along, here.across)]) for k in (0, -1))
    there = np.stack(
        [at_place(v, scene.limbs, side, r.at or 0.0) for v in (here.along, here.across)]
    )
    line, away = end - start, there - start
    aside = (away[0] * line[1] - away[1] * line[0]) / np.hypot(*line)
    return np.asarray(aside * OUTWARD[side])


def _outline(scene: Scene, r: Reading) -> Floats:
    here, side, out_at = scene.bent[r.draw], r.side, r.at or 0.0
    turned = _turned(scene.bow, here.along[side], here.across[side], scene.tilt[r.draw])
    start = scene.limbs.root[side, 0]
    out = (turned[0] - start[0] * OUTWARD[side]) * OUTWARD[side]
    rows = [np.interp(out_at, x, y) for x, y in zip(out, turned[1], strict=True)]
    return np.asarray(np.array(rows) - start[1])


def _straight_edge(scene: Scene, r: Reading) -> Floats:
    here, limbs, side = scene.bent[r.draw], scene.limbs, r.side
    half = 0.5 * (r.span or 0.0)
    belly = here.across + (limbs.depth - limbs.axis)
    points = [
        np.stack([at_place(v, limbs, side, (r.at or 0.0) + k * half) for v in (here.along, belly)])
        for k in (-1, 0, 1)
    ]
    line, away = points[2] - points[0], points[1] - points[0]
    under = (away[0] * line[1] - away[1] * line[0]) / np.hypot(*line)
    return np.asarray(under * OUTWARD[side])


def _thickness(scene: Scene, r: Reading) -> Floats:
    return at_place(scene.limbs.depth, scene.limbs, r.side, r.at or 0.0)


def _floor(scene: Scene, r: Reading) -> Floats:
    return np.asarray((r.span or 0.0) / tip_compliance(scene.limbs)[r.side])


def _width(scene: Scene, r: Reading) -> Floats:
    return at_place(scene.limbs.width, scene.limbs, r.side, r.at or 0.0)


def _lies(scene: Scene, r: Reading) -> Floats:
    """How far to the belly of the handle's line the unstrung limb lies at a place; at the nock
    without one.
    """
    limbs, side = scene.limbs, r.side
    still = np.zeros((2, limbs.batch))
    rest = shapes(limbs, still, still).across
    at = float(limbs.length[side, 0]) if r.at is None else r.at
    return np.asarray(at_place(rest, limbs, side, at) - rest[side][:, 0])


def _traced(scene: Scene, r: Reading) -> Floats:
    """How far to the belly of its root a bent limb lies at a place, in the bow's own frame."""
    here = scene.bent[r.draw].across
    at = at_place(here, scene.limbs, r.side, r.at or 0.0)
    return np.asarray(at - here[r.side][:, 0])


def _looks(scene: Scene) -> tuple[Floats, Floats]:
    """How much more than wanted each node seems to bend (log), and how much each counts for its
    limb, ``(2, B, n+1)``.
    """
    limbs = scene.limbs
    shares = limbs.shares
    counts = np.broadcast_to((1 - shares) ** 2 + 0.02, limbs.node_stiffness.shape)
    if scene.design is None:
        return np.zeros_like(limbs.node_stiffness), counts
    bends = -np.log(limbs.node_stiffness / scene.design.node_stiffness)
    natural = limbs.curvature - scene.design.curvature
    natural = np.concatenate(
        [natural[..., :1], 0.5 * (natural[..., 1:] + natural[..., :-1]), natural[..., -1:]], -1
    )
    deepest = max(scene.bent, key=lambda d: -1.0 if d is None else d)
    bent = np.maximum(np.abs(scene.bent[deepest].bend), BENT_ENOUGH)
    return bends + np.clip(natural / bent, -0.7, 0.7), counts


def _mean(values: Floats, counts: Floats) -> Floats:
    return np.asarray((values * counts).sum(-1) / counts.sum(-1))


def _eye(scene: Scene, r: Reading) -> Floats:
    looks, counts = _looks(scene)
    half = 0.5 * (r.span or 2 * EYE_REACH)
    places = scene.limbs.places()[r.side]
    near = np.maximum(0.0, half - np.abs(places - (r.at or 0.0))) ** 0.25 + 1e-6
    there = _mean(looks[r.side], near)
    return np.asarray(there - 0.5 * (_mean(looks[0], counts[0]) + _mean(looks[1], counts[1])))


def _eye_limb(scene: Scene, r: Reading) -> Floats:
    looks, counts = _looks(scene)
    whole = [_mean(looks[k], counts[k]) for k in (0, 1)]
    return np.asarray(whole[r.side] - whole[1 - r.side])


def _weight_error(r: Reading, value: float, slope: float) -> float:
    """Grows with the weight, and with how steep the draw is there."""
    own = float(np.hypot(WEIGHT_ERROR, WEIGHT_ERROR_SHARE * r.value))
    return float(np.hypot(own if r.error is None else r.error, slope * DRAW_ERROR))


def _always(error: float) -> Error:
    return lambda r, value, slope: error if r.error is None else r.error


def _with_wood(error: float, share: float) -> Error:
    return lambda r, value, slope: float(
        np.hypot(error if r.error is None else r.error, share * value)
    )


_TRAVEL = float(np.hypot(1.4 * TIP_ERROR, 0.3 * DRAW_ERROR))
_AT, _DRAW = frozenset({"at"}), frozenset({"draw"})

_ROWS = (
    ReadingKind(
        "weight",
        "weight at a draw",
        _of_weight,
        _weight_error,
        FINE_WEIGHT,
        of_limb=False,
        needs=_DRAW,
        forms=("{value} at {draw}[ sank {sank}]",),
        word="weight",
        examples=("37 at 22", "17 at 560"),
        said="{value} at {draw}",
        missed="the weight once more at the same draw",
        bounds=("draw weight", "no draw weight of a bow"),
        asked=Asked("Weight on the scale", "draw weight", first=True),
    ),
    ReadingKind(
        "gap",
        "string to belly at the fade, or at a place",
        _gap,
        _always(GAP_ERROR),
        forms=("{limb} gap {value}[ at {place}]",),
        word="gap",
        examples=("upper gap 6 1/4, lower 6 1/8", "upper gap 160, lower 156"),
        said="string to belly on the {limb} limb, {where}, {value}",
        missed="the gap at the {limb} fade",
        bounds=("gap", "no gap between string and belly"),
        asked=Asked("Gap at {limb} fade", "gap"),
    ),
    ReadingKind(
        "deepest gap",
        "greatest gap of a limb; `at 14`: and where it is",
        _deepest_gap,
        _always(GAP_ERROR),
        word="deepest",
        examples=("upper deepest 6 1/2 at 14", "upper deepest 165 at 350"),
        said="greatest gap of the {limb} limb {value}",
        bounds=("gap", "no gap between string and belly"),
        asked=Asked("Deepest gap, {limb}", "gap"),
    ),
    ReadingKind(
        "deepest place",
        "where that gap is, from the root",
        _deepest_place,
        _always(1.5 * INCH),
        said="greatest gap of the {limb} limb {value} from the centre",
    ),
    ReadingKind(
        "tip height",
        "how far a tip has come down from its unbraced place",
        _tip_height,
        _always(TIP_ERROR),
        forms=("{limb} tip {value}[ at {draw}]",),
        word="tip",
        examples=("upper tip 8 1/2 at 22", "upper tip 215 at 560"),
        said="{limb} tip {value} down, {when}",
        missed="how far the {limb} tip has come down",
        bounds=("tip down", "no way for a tip to come down"),
        asked=Asked("{limb} tip down by", "tip down"),
    ),
    ReadingKind(
        "tip travel",
        "how much further it comes down from the draw `span` to this one",
        _tip_travel,
        _always(_TRAVEL),
        needs=frozenset({"draw", "span"}),
        word="travel",
        examples=("upper travel 3 from 18 to 22", "upper travel 76 from 460 to 560"),
        said="{limb} tip {value} further down {when}",
        bounds=("tip down", "no way for a tip to come down"),
    ),
    ReadingKind(
        "offset",
        "the limb off a straight line from fade to nock",
        _offset,
        _always(INCH / 32),
        needs=_AT,
        on_place=True,
        forms=("{limb} offset {value} at {place}",),
        word="offset",
        examples=("upper offset 1/2 at 14", "upper offset 12 at 350"),
        said="{limb} limb {value} off the straight line, {where}",
        missed="how far the {limb} limb stands off a straight line, {where}",
        bounds=("limb off a line", "no way for a limb to stand off a line"),
    ),
    ReadingKind(
        "outline",
        "a traced point: how far below the unbraced root the limb stands, `at` this far out along"
        " the handle axis",
        _outline,
        _always(INCH / 8),
        needs=_AT,
        on_place=True,
        forms=("{limb} outline {value} at {place}",),
        word="outline",
        examples=("upper outline 4 1/2 at 20", "upper outline 115 at 500"),
        said="{limb} limb traced {value} below its fade, {where}",
        bounds=("tip down", "no way for a limb to come down"),
    ),
    ReadingKind(
        "traced",
        "a photograph's point: how far to the belly of its fade a limb lies, this far along it",
        _traced,
        _always(0.0015),
        needs=_AT,
        on_place=True,
        forms=("{limb} traced {value} at {place}[ drawn to {draw}][ give or take {give}]",),
        word="traced",
        examples=(
            "upper traced 2 1/4 at 20 give or take 1/16",
            "upper traced 57 at 500 give or take 1.5",
        ),
        said="{limb} limb {value} to the belly of its fade in the photograph, {where}",
        bounds=("traced limb", "no way for a limb to lie"),
    ),
    ReadingKind(
        "profile",
        "how far off the handle's line the unstrung limb lies",
        _lies,
        _always(LIE_ERROR),
        unstrung=True,
        word="lies",
        examples=("upper lies 1/2 belly at 20", "upper lies 12 belly at 500"),
        said="{limb} limb unstrung, {aside} at {place}",
        bounds=("unstrung limb", "no way for an unstrung limb to lie"),
    ),
    ReadingKind(
        "eye",
        "a stretch as it looks: stiff, weak, hinge or good",
        _eye,
        _always(0.15),
        needs=_AT,
        on_place=True,
    ),
    ReadingKind("eye limb", "a limb as it looks: it bends less", _eye_limb, _always(0.1)),
    ReadingKind(
        "straight edge",
        "gap under a straight edge 6 in (150 mm) long; `over 8`: another length",
        _straight_edge,
        _always(0.00025),
        FINE_LENGTH,
        needs=frozenset({"at", "span"}),
        on_place=True,
        forms=("{limb} edge {value} at {place}[ over {span}]",),
        word="edge",
        examples=("upper edge 3/32 at 12 and 1/16 at 18", "upper edge 2.4 at 300 and 1.6 at 460"),
        said="{limb} limb {value} under an edge of {span}, {where}",
        missed="the gap under a straight edge on the {limb} limb, {where}",
        bounds=("under an edge", "no gap under such an edge"),
        asked=Asked(
            "{limb}, under a straight edge",
            "under an edge",
            several=True,
            hint="gaps and places from the centre, such as 3/32 at 12 and 1/16 at 18",
        ),
    ),
    ReadingKind(
        "taut",
        "the draw where a slack string comes taut",
        _taut,
        _always(TAUT_ERROR),
        of_limb=False,
        is_draw=True,
        forms=("taut at {draw}", "string taut at {draw}"),
        word="taut",
        examples=("taut at 11", "taut at 280"),
        said="the string comes taut at {draw}",
        missed="the draw where the string comes taut",
    ),
    ReadingKind(
        "thickness",
        "as measured at a place",
        _thickness,
        _with_wood(0.0002, WOOD_VARIES / 3),
        THICKNESS,
        needs=_AT,
        forms=("{limb} thick {value} at {place}",),
        word="thick",
        examples=("upper thick 33/64 at 12", "upper thick 13.1 at 300"),
        said="{limb} limb {value} thick, {where}",
        bounds=("thickness at a mark", "no thickness of a limb"),
    ),
    ReadingKind(
        "width",
        "as measured at a place",
        _width,
        _with_wood(0.0004, WOOD_VARIES),
        needs=_AT,
        forms=("{limb} wide {value} at {place}",),
        word="wide",
        examples=("upper wide 1 1/4 at 12", "upper wide 32 at 300"),
        said="{limb} limb {value} wide, {where}",
        bounds=("width at a mark", "no width of a limb"),
    ),
    ReadingKind(
        "floor",
        "pressed against the floor: the weight under the tip, and how far that bends it",
        _floor,
        _with_wood(POUND_FORCE, 0.08),
        FINE_WEIGHT,
        needs=frozenset({"span"}),
        unstrung=True,
        word="floor",
        examples=("upper floor 12 sags 3", "upper floor 5.5 sags 75"),
        said="{limb} limb on the floor: {value} bends its tip {span}",
        bounds=("floor push", "no weight that bends a limb on the floor"),
    ),
    ReadingKind(
        "tilt",
        "how far the grip tips over, and to which limb",
        _of_tilt,
        _always(float(np.radians(0.5))),
        ANGLE,
        of_limb=False,
        needs=_DRAW,
        word="tilt",
        examples=("tilt 2 upper", "tilt 2 upper"),
        said="the grip tips {aside} {when}",
        bounds=("grip tilted", "no way for a grip to tip"),
    ),
)
KINDS: dict[str, ReadingKind] = {one.name: one for one in _ROWS}
SIZES = ("thickness", "width")
# What is not read off a bent bow.
UNSTRUNG = tuple(one.name for one in _ROWS if one.unstrung or one.name in SIZES)
SEEN = ("eye", "eye limb")  # by eye
BRACED_ONLY = ("gap", "deepest gap", "deepest place")
