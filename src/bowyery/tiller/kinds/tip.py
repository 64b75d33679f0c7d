"""How far a limb's tip, or a traced point of it, comes down."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import OUTWARD, SIDES, Bow
from bowyery.errors import UnreadableError
from bowyery.mechanics.elastica import shapes
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.kinds.weight import DRAW_ERROR
from bowyery.tiller.statements import LIMBS, Context, Statement, Tree, one
from bowyery.units.quantity import INCH, Units

TIP_ERROR = INCH / 16  # tips against a level line
_TRAVEL = float(np.hypot(1.4 * TIP_ERROR, 0.3 * DRAW_ERROR))


def _turned(bow: Bow, along: Floats, across: Floats, tilt: Floats) -> tuple[Floats, Floats]:
    """Points as they hang: the bow turns on the tree until the rope is plumb."""
    px, py = bow.hold.pivot
    c, s = np.cos(tilt)[:, None], np.sin(tilt)[:, None]
    x, y = along - px, across - py
    return px + c * x - s * y, py + c * y + s * x


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


def _outline(scene: Scene, r: Reading) -> Floats:
    here, side, out_at = scene.bent[r.draw], r.side, r.at or 0.0
    turned = _turned(scene.bow, here.along[side], here.across[side], scene.tilt[r.draw])
    start = scene.limbs.root[side, 0]
    out = (turned[0] - start[0] * OUTWARD[side]) * OUTWARD[side]
    rows = [np.interp(out_at, x, y) for x, y in zip(out, turned[1], strict=True)]
    return np.asarray(np.array(rows) - start[1])


def _tips_apart(scene: Scene, r: Reading) -> Floats:
    upper, lower = (_fallen(scene, replace(r, limb=side), r.draw) for side in SIDES)
    return upper - lower


_HANGS = {"left": "lower", "right": "upper"}  # as the bow lies in every picture


def _apart(c: Context) -> tuple[Statement, ...]:
    named = c.text("which")
    if named is None:
        return one(c, "tips apart", 0.0, draw=c.draw())
    value = c.length("value") or 0.0
    c.within(value, *HEIGHT.bounds)
    upper = LIMBS.get(_HANGS.get(named, named)) == "upper"
    more = (c.text("way") or "more") == "more"
    return one(c, "tips apart", value if upper == more else -value, draw=c.draw())


def _say_apart(s: Statement, tree: Tree, shown: Units) -> str:
    when = "" if s.draw is None else f", at {tree.draw_words(s.draw, shown)}"
    if not s.value:
        return f"both tips come down alike{when}"
    limb = "upper" if s.value > 0 else "lower"
    return f"the {limb} tip comes down {shown.length(abs(s.value))} more{when}"


def _travelled(c: Context) -> tuple[Statement, ...]:
    value, first, draw = c.length("value") or 0.0, c.length("first"), c.draw()
    c.within(value, *TRAVEL.bounds)
    if first is None:  # from hanging: all the way that it came down
        return one(c, "tip height", value, limb=c.limb(), draw=draw)
    first = c.tree.ruler.to_pivot(first or 0.0, c.tree.handle_depth)
    c.within(first, "draw", "no draw of a bow")
    if draw is None or not first < draw:
        raise UnreadableError(f"“{c.part}”: give the nearer draw first.")
    return one(c, "tip travel", value, limb=c.limb(), draw=draw, more=first)


HEIGHT = ReadingKind(
    name="tip height",
    forms=("{limb} tip {value}[ at {draw}]",),
    helps=(
        Help("how far a tip has come down from its unbraced place", "upper tip 8 1/2 at 22",
             "upper tip 215 at 560", "tip"),
    ),
    word="tip",
    bounds=("tip down", "no way for a tip to come down"),
    asked=(Asked("tip", "{limb} tip down by", "{limb} tip", "tip down"),),
    predict=_tip_height,
    error=always(TIP_ERROR),
    said="{limb} tip {value} down, {when}",
    missed="how far the {limb} tip has come down",
)  # fmt: skip
TRAVEL = ReadingKind(
    name="tip travel",
    build=_travelled,
    forms=(
        "{limb}[ tip] travel {value} from {first} to {draw}",
        "{limb}[ tip] travel {value} (?:to|at) {draw}",
    ),
    helps=(
        Help("how much further a tip came down between two draws", "upper travel 3 from 18 to 22",
             "upper travel 76 from 460 to 560", "travel"),
    ),
    word="travel",
    bounds=("tip down", "no way for a tip to come down"),
    asked=(
        Asked("travel", "{limb} tip's further way between two draws", "{limb} travel",
              hints=("3 from 18 to 22", "76 from 460 to 560")),
    ),
    predict=_tip_travel,
    error=always(_TRAVEL),
    needs=frozenset({"draw", "span"}),
    said="{limb} tip {value} further down {when}",
)  # fmt: skip
OUTLINE = ReadingKind(
    name="outline",
    forms=("{limb} outline {value} at {place}",),
    helps=(
        Help("a traced point: how far below the unbraced root the limb stands, `at` this far out"
             " along the handle axis", "upper outline 4 1/2 at 20", "upper outline 115 at 500",
             "outline"),
    ),
    word="outline",
    bounds=("tip down", "no way for a limb to come down"),
    asked=(
        Asked("outline", "{limb} traced below its fade", "{limb} outline",
              hints=("4 1/2 at 20 and 8 at 28", "115 at 500 and 200 at 700"), run=True),
    ),
    predict=_outline,
    error=always(INCH / 8),
    needs=frozenset({"at"}),
    on_place=True,
    said="{limb} limb traced {value} below its fade, {where}",
)  # fmt: skip
APART = ReadingKind(
    name="tips apart",
    build=_apart,
    say=_say_apart,
    forms=(
        "(?:both )?tips (?:are )?(?:level|even|alike)[ at {draw}]",
        r"(?P<which>upper|lower|left|right|top)(?: tip| limb)? (?:comes|came) down {value}"
        r" (?P<way>more|less)[ at {draw}]",
    ),
    helps=(
        Help("the tips against each other", "tips level, upper comes down 1/2 more",
             "tips level, upper comes down 12 more", "tips|comes"),
    ),
    predict=_tips_apart,
    error=always(1.4 * TIP_ERROR),
    of_limb=False,
)  # fmt: skip
ROWS = (HEIGHT, TRAVEL, APART, OUTLINE)
