"""A harsher world for the virtual bowyer: staves, tools, scales and rulers that are not as the
estimator believes.

Truth is solved on finer cells; the wood goes up and down in waves, steps and lumps instead of a
walk; every stave has one trouble: an inch of hinge, crook nobody entered, biased scales and rulers,
a string of unknown length, mistyped figures, an uneven hand with too few pulls, or nothing read but
weights and gaps. The maker writes pencil lines with at most a dozen readings a check and does as
the tiller says after the last line. Another good maker has the same readings and a good rule: a
third of the excess at each look, evenness by straight edge.
With the camera a picture is taken at every look by the stand-in camera, and read as the application
reads it, instead of the straight edge; a picture that cannot be read says nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from functools import cache, partial
from typing import Any
from unittest.mock import patch

import numpy as np

from benchmarks.bowyer import WOODS, Outcome, judged
from benchmarks.camera import shape_of, taken
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.layout import METRIC_ROUNDING, Layout, Wanted
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.design.solution import Solution
from bowyery.design.solve import solve_design
from bowyery.errors import BowyeryError, UnreadableError
from bowyery.mechanics.statics import brace_bow
from bowyery.practice.virtual_stave import (
    VirtualStave,
    drawn_state,
    exercise,
    pull,
    reached,
    scrape,
)
from bowyery.practice.worlds import waves
from bowyery.sight.check import line_of, seen_in
from bowyery.sight.trace import trace
from bowyery.tiller import bench
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, Workpiece, most_use, work_out
from bowyery.tiller.bite import USUAL_TOOL, first_bite
from bowyery.tiller.estimate import (
    BEND,
    CROOK,
    CROOKS,
    FIELD,
    NINETY,
    PLACES,
    UNKNOWN,
    Belief,
    Estimate,
    Taken,
    few_cells,
    place_weights,
    taken_field,
)
from bowyery.tiller.kinds import KINDS, Reading
from bowyery.tiller.log import Noted, StringOn, history
from bowyery.tiller.pencil import parse
from bowyery.tiller.readings import read
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import INCH, METRIC, POUND_FORCE
from bowyery.wood.materials import at_moisture, material

CELLS = 96
# Bows of usual strain: nine tenths of what lasts, to a little more than that.
DESIGNS: dict[str, tuple[Layout, Wanted]] = {
    "flatbow": (Layout(70 * INCH), Wanted(45 * POUND_FORCE, 28 * INCH)),
    "short": (Layout(64 * INCH, width=2.0 * INCH), Wanted(40 * POUND_FORCE, 26 * INCH)),
    "pyramid": (
        Layout(71 * INCH, parallel=0.0, width=2.3 * INCH, tip_width=0.45 * INCH),
        Wanted(42 * POUND_FORCE, 27 * INCH),
    ),
    "longbow": (
        Layout(79 * INCH, width=1.4 * INCH, parallel=0.4, fade=1.5 * INCH),
        Wanted(55 * POUND_FORCE, 28 * INCH),
    ),
}
TROUBLES = ("plain", "hinge", "crook", "scales", "slack", "mistyped", "hand", "sparse")
MOST_LOOKS = 40
EDGE = 0.15  # length of the straight edge (m)
G = 9.80665


@dataclass(frozen=True)
class Maker:
    """Somebody's hands, scale, rulers and habits.

    Attributes:
        scale: what the scale shows of a newton.
        draw, gap, brace, string: how far off draws, gaps, brace heights and string lengths are
            read, every time (m).
        tells_string: they write how long their string is.
        hand: how uneven a pass is, alike over the limb and from place to place.
        bite: what a stroke takes of what is usual.
        tools: the same of single tools, where they differ.
        pulls: short pulls given of those that were written down.
        mistyped: share of figures that are written wrong.
        sparse: they read weights and gaps alone.
    """

    scale: float = 1.0
    draw: float = 0.0
    gap: float = 0.0
    brace: float = 0.0
    string: float = 0.0
    tells_string: bool = True
    hand: tuple[float, float] = (0.12, 0.12)
    bite: float = 1.0
    tools: Mapping[str, float] = field(default_factory=dict)
    pulls: float = 1.0
    mistyped: float = 0.0
    sparse: bool = False


@cache
def solved(name: str, wood: str) -> Solution:
    """A design in a wood, solved once."""
    layout, wanted = DESIGNS[name]
    return solve_design(layout, wanted, at_moisture(material(wood), 0.09), METRIC_ROUNDING)


def maker_of(trouble: str, rng: np.random.Generator) -> Maker:
    """Somebody whom a trouble belongs to."""
    usual = Maker(
        scale=float(1 + 0.007 * rng.standard_normal()),
        draw=float(0.0015 * rng.standard_normal()),
        gap=float(0.0005 * rng.standard_normal()),
        brace=float(0.0015 * rng.standard_normal()),
        string=float(0.003 * rng.standard_normal()),
        bite=float(np.exp(0.25 * rng.standard_normal())),
    )
    if trouble == "scales":
        return replace(
            usual,
            scale=float(1 + 0.03 * rng.standard_normal()),
            draw=float(0.004 * rng.standard_normal()),
            gap=float(0.002 * rng.standard_normal()),
            brace=float(0.005 * rng.standard_normal()),
            string=float(0.010 * rng.standard_normal()),
        )
    return {
        "slack": replace(usual, tells_string=False),
        "mistyped": replace(usual, mistyped=1 / 40),
        "hand": replace(usual, hand=(0.3, 0.25), pulls=0.3),
        "sparse": replace(usual, sparse=True),
    }.get(trouble, usual)


def harsh_stave(found: Solution, trouble: str, rng: np.random.Generator) -> VirtualStave:
    """Rough out a stave with a trouble."""
    limbs = grid(found.bow, CELLS)
    places = limbs.places()[:, 0]
    middles = 0.5 * (places[:, 1:] + places[:, :-1])
    book, spread = 0.08 * rng.standard_normal(), rng.uniform(0.04, 0.09)
    wood, thickness, crook = np.zeros_like(places), np.zeros_like(places), np.zeros_like(middles)
    left_on, shared = rng.uniform(0.13, 0.26), rng.standard_normal()
    for side, at in enumerate(places):
        wood[side] = book + 0.04 * rng.standard_normal() + waves(at, spread, rng)
        ring = rng.uniform(0.1, 0.9) * at[-1]  # where a ring or the heart begins
        wood[side] += 0.05 * rng.standard_normal() * (at > ring)
        lumps = 0.012 * np.abs(((at / rng.uniform(0.07, 0.15) + rng.uniform()) % 1) - 0.5)
        taper = 0.02 * rng.standard_normal() * (at / at[-1] - 0.5)
        over = left_on + 0.015 * rng.standard_normal() + taper + lumps
        thickness[side] = limbs.depth[side, 0] * (1 + over)
        own = 0.01 * rng.standard_normal()
        if trouble == "crook":
            kink = np.exp(-0.5 * ((middles[side] - rng.uniform(0.2, 0.8) * at[-1]) / 0.03) ** 2)
            own = 0.06 * shared + 0.06 * rng.standard_normal()
            own = own + 0.3 * rng.standard_normal() * kink
        crook[side] = own
    if trouble == "hinge":
        side = int(rng.integers(2))
        at = rng.uniform(0.15, 0.7) * places[side, -1]
        wood[side] -= rng.uniform(0.2, 0.45) * np.exp(-0.5 * ((places[side] - at) / 0.0125) ** 2)
    stuff = found.wood
    scatter = float(np.exp(stuff.rupture_band / NINETY * rng.standard_normal()))
    soft = float(np.exp(0.06 * rng.standard_normal()))
    return VirtualStave(
        limbs, found.bow, wood, thickness, np.zeros_like(wood), crook, np.zeros_like(crook),
        stuff.elastic_strain * soft, stuff.usual_rupture_strain * scatter,
    )  # fmt: skip


def seen_truth(stave: VirtualStave) -> np.ndarray:
    """The stave's log stiffness over a hand's breadth at the places of the estimate."""
    share, knots = np.linspace(0.0, 1.0, stave.limbs.cells + 1), np.linspace(0.0, 1.0, PLACES)
    near = np.exp(-0.5 * ((knots[:, None] - share) / 0.045) ** 2)
    return np.asarray((near @ stave.logs.T).T / near.sum(1))


@dataclass
class Bench:
    """A stave on somebody's tree, with the log they keep."""

    stave: VirtualStave
    found: Solution
    maker: Maker
    rng: np.random.Generator
    string: StringOn
    length: float
    slack: float
    noted: list[Noted] = field(default_factory=list)
    entries: int = 0
    looks: int = 0
    furthest: float = 0.0
    past: int = 0
    camera: bool = False
    pictures: int = 0

    @property
    def tree(self) -> Tree:
        """How its draws are read."""
        reach = [limb.root[0] + limb.length for limb in self.found.bow.limbs]
        return Tree(reach=(reach[0], reach[1]))

    def write(self, line: str) -> None:
        """Add an entry to the log."""
        self.entries += 1
        for statement in parse(line, METRIC, self.tree):
            self.noted.append(Noted(statement, len(self.noted) + 1, self.entries))

    def strike(self, ids: tuple[int, ...]) -> None:
        """Strike readings out that were found to be mistaken."""
        self.noted = [one for one in self.noted if one.id not in ids]

    def put_on(self, rung: str) -> None:
        """String it for a rung of the ladder, and say so."""
        if rung == "long":
            self.string = StringOn("string long", self.length + self.slack)
            said = f"{1e3 * (self.length + self.slack + self.maker.string):.0f} mm"
            self.write(f"string long {said if self.maker.tells_string else ''}".strip())
            return
        usual = 0.08 if rung == "low" else self.found.bow.brace_height or 0.15
        self.string = StringOn(f"string {rung}", usual)
        self.write(f"string {rung} {1e3 * (usual + self.maker.brace):.0f} mm")

    def hung(self) -> Bow:
        """The bow on the string that is really on."""
        return self.string.on(self.found.bow, self.length)

    def look(self, further: float, harder: float) -> list[Reading]:
        """Pull, and write down what is read, as it is read; no more than a dozen figures."""
        bow, maker = self.hung(), self.maker
        least = float(brace_bow(self.stave.grid(), bow).least_draw[0])
        most = max(further - maker.draw, least + 0.03)
        draw = reached(self.stave, bow, most, harder / maker.scale)
        weight = drawn_state(self.stave, bow, draw)[0]
        self.past += weight > 1.03 * self.found.wanted.weight
        self.stave = pull(self.stave, bow, draw)
        self.furthest = max(self.furthest, draw)
        self.looks += 1
        if self.stave.broken:
            return []
        rows = [
            Reading("weight", 0.0, draw=least + share * (draw - least)) for share in (0.6, 0.8, 1.0)
        ]
        for side, name in enumerate(SIDES):
            braced = self.string.rung != "long"
            rows.append(
                Reading("gap", 0.0, name) if braced else Reading("tip height", 0.0, name, draw)
            )
            if not (maker.sparse or self.camera):
                first = (0.14, 0.27)[self.looks % 2]
                places = (first + np.array([0.0, 0.26, 0.5])) * self.stave.limbs.length[side, 0]
                rows += [
                    Reading("straight edge", 0.0, name, draw, float(at), EDGE) for at in places
                ]
        values = read(self.stave.grid(), bow, tuple(rows)).values[0]
        found = [self._seen(row, float(value)) for row, value in zip(rows, values, strict=True)]
        shown = self._photographed(bow, draw, found[2].draw) if self.camera else ""
        try:
            self.write(", ".join(self._written(row) for row in found) + shown)
        except UnreadableError:  # a figure that no bow shows is refused: they type it right
            self.write(", ".join(self._written(row, True) for row in found) + shown)
        return found

    def _photographed(self, bow: Bow, draw: float, told: float | None) -> str:
        """What a picture of the drawn bow says, as it goes on in a pencil line."""
        shape = shape_of(self.stave.grid(), bow, "drawn", draw)
        image, _ = taken(self.rng, self.found.bow, "drawn", shape)
        self.pictures += 1
        try:
            hangs = self.string.on(self.found.bow, self.length)
            seen = seen_in(trace(image, hangs, "drawn"), hangs, "drawn")
            return "; " + line_of(seen, hangs, self.tree, told)
        except BowyeryError:
            return ""

    def _seen(self, row: Reading, true: float) -> Reading:
        """What the maker takes it for."""
        maker, noise = self.maker, self.rng.standard_normal(2)
        draw = None if row.draw is None else row.draw + maker.draw + 0.002 * noise[1]
        if row.kind == "weight":
            value = true * maker.scale * (1 + 0.007 * noise[0]) + 0.3 * POUND_FORCE * noise[0]
        else:
            off, error = {
                "gap": (maker.gap, 0.0009),
                "tip height": (maker.gap, 0.002),
                "straight edge": (0.0, 0.00025),
            }[row.kind]
            value = true + off + error * noise[0]
        return replace(row, value=value, draw=draw)

    def _written(self, row: Reading, rightly: bool = False) -> str:
        """As a part of a pencil line; one in so many is mistyped."""
        if row.kind == "weight":
            return f"{self._typed(row.value / G, 2, rightly)} kg at {1e3 * (row.draw or 0):.0f} mm"
        kind, limb = KINDS[row.kind], row.limb
        if row.kind == "straight edge":
            place = 1e3 * ((row.at or 0.0) + self.found.bow.limbs[row.side].root[0])
            return f"{limb} edge {self._typed(1e3 * row.value, 1, rightly)} mm at {place:.0f} mm"
        at = f" at {1e3 * row.draw:.0f} mm" if row.draw else ""
        return f"{limb} {kind.word} {self._typed(1e3 * row.value, 0, rightly)} mm{at}"

    def _typed(self, value: float, digits: int, rightly: bool) -> str:
        """A figure as it is typed: now and then with a digit that is another."""
        text = f"{value:.{digits}f}"
        if rightly or value <= 0 or self.rng.uniform() >= self.maker.mistyped:
            return text
        places = [k for k, sign in enumerate(text) if sign.isdigit()]
        k = places[int(self.rng.integers(min(2, len(places))))]
        wrong = str((int(text[k]) + int(self.rng.choice([2, 3, 5]))) % 10)
        return text[:k] + wrong + text[k + 1 :]

    def take(self, rows: list[Taken]) -> None:
        """Take wood off with the maker's hand."""
        field_, limbs = [], self.stave.limbs
        alike, local = self.maker.hand
        for one in rows:
            side = SIDES.index(one.limb)
            share = np.linspace(0.0, 1.0, PLACES)
            ups = waves(share * limbs.length[side, 0], local, self.rng)
            much = (1 + alike * self.rng.standard_normal()) * np.maximum(0.2, 1 + ups)
            # each with the others beside it, which it runs into
            alone = tuple(o if o is one else replace(o, thickness=0.0) for o in rows)
            even = taken_field(limbs, alone)[side]
            field_.append(Taken(one.limb, 0.0, shaded=tuple(np.maximum(even * much, 0.0))))
        self.stave = scrape(self.stave, tuple(field_))


def plan_of(found: Solution) -> Plan:
    """School W, with the usual losses."""
    return Plan(found.wanted.weight, found.wanted.draw, most_use=most_use(found.uses))


def _bench(found: Solution, trouble: str, number: int) -> Bench:
    """The same stave and maker for whoever works it."""
    rng = np.random.default_rng([31, number])
    stave, maker = harsh_stave(found, trouble, rng), maker_of(trouble, rng)
    slack = rng.uniform(0.03, 0.12) if trouble == "slack" else rng.uniform(0.05, 0.09)
    begun = Bench(
        exercise(stave, 25), found, maker, rng, StringOn("string long"), found.layout.length,
        float(slack),
    )  # fmt: skip
    begun.put_on("long")
    return begun


def by_advice(
    found: Solution, trouble: str, number: int, knowing: bool = False, camera: bool = False
) -> tuple[Outcome, float]:
    """Do as the tiller says, and how many of all forecasts of the weight held it; or as it would
    say to somebody who knows what every place of the limbs shows, or who takes pictures.
    """
    at = _bench(found, trouble, number)
    at.camera = camera
    plan, bow = plan_of(found), found.bow
    piece = Workpiece(bow, found.curve.limbs, found.wood.density, found.layout.width)
    further, harder = 0.45 * plan.full_draw, 0.5 * plan.wanted_weight
    held: list[np.ndarray] = []
    foretold: list[bool] = []
    ended = "gave up"
    while at.looks < MOST_LOOKS:
        at.look(further, harder)
        if at.stave.broken:
            ended = "broke"
            break
        state = _said(at, piece, plan, knowing)
        for _ in range(2):  # what is doubted is looked at once more, and struck out
            if state.wild:
                at.strike(state.wild)
                at.look(0.0 if state.further is None else at.furthest, harder)
                state = _said(at, piece, plan, knowing)
        if at.stave.broken or state.now is None or state.advice is None:
            ended = "broke" if at.stave.broken else "nothing said"
            break
        held.append(np.abs(state.now.field - seen_truth(at.stave)) <= NINETY * state.now.spread)
        if state.outlook is not None:
            true = drawn_state(at.stave, bow, plan.full_draw)[0]
            foretold.append(state.outlook.now.low <= true <= state.outlook.now.high)
        moved = _do(at, state)
        if state.further is not None and state.harder is not None:
            moved |= state.further.value > further + 0.006
            further, harder = state.further.value, state.harder.value
        if state.advice.act in ("stop", "rescue") or not moved:
            ended = state.advice.act
            break
    row = judged(at.stave, found, plan, at.looks, at.past, ended)
    row = replace(row, held=float(np.mean(held)) if held else np.nan)
    return row, float(np.mean(foretold)) if foretold else np.nan


def _said(at: Bench, piece: Workpiece, plan: Plan, knowing: bool) -> BenchState:
    past = history(at.noted, piece.roots)
    plan = replace(plan, braced=past.braced)
    if not knowing:
        return work_out(piece, past, plan)
    walk = bench._walk

    def known(*given: Any) -> Any:
        walked = walk(*given)
        walked.now = _known(at)
        walked.belief, walked.bites, walked.jump = walked.now.belief, {}, 0.0
        return walked

    with patch.object(bench, "_walk", known):
        return work_out(piece, past, plan)


def _known(at: Bench) -> Estimate:
    """What the limbs show, over a hand's breadth, as if it were all known."""
    stave = at.stave
    mean, spread = np.zeros(UNKNOWN), np.full(UNKNOWN, 1e-3)
    mean[FIELD] = seen_truth(stave).ravel()
    share, knots = np.linspace(0.0, 1.0, stave.limbs.cells), np.linspace(0.0, 1.0, CROOKS)
    near = np.exp(-0.5 * ((knots[:, None] - share) / 0.08) ** 2)
    bend = (near @ (stave.crook + stave.set).T).T / near.sum(1)
    mean[BEND] = bend.ravel() / CROOK
    belief = Belief(np.ones(1), mean[None], np.diag(spread**2)[None])
    return Estimate(belief, np.zeros(0), (), place_weights(few_cells(stave.limbs)))


def _do(at: Bench, state: BenchState) -> bool:
    """Do what is advised; whether anything is different now."""
    advice, moved = state.advice, False
    if advice is None:
        return False
    if advice.act in ("take", "balance"):
        rows = []
        for one in state.strokes:  # as it is drawn
            root = at.found.bow.limbs[SIDES.index(one.limb)].root[0]
            start, end = 1e3 * (root + one.start), 1e3 * (root + one.end)
            where = "" if one.whole else f" from {start:.0f} mm to {end:.0f} mm"
            usual = first_bite(state.tool, at.found.wood.density, at.found.layout.width)
            bite = at.maker.tools.get(state.tool, at.maker.bite)
            thick = one.strokes * usual.thickness * bite
            at.write(f"off {one.limb} {one.strokes} strokes{where} with {state.tool}")
            ends = (None, None) if one.whole else (one.start, one.end)
            rows.append(Taken(one.limb, thick, *ends))
        at.take(rows)
        at.write("25 pulls")
        at.stave = exercise(at.stave, int(25 * at.maker.pulls))
        moved = True
    elif advice.act == "look":
        moved = True
    if advice.string != state.history.string.rung:
        at.put_on(advice.string)
        moved = True
    return moved


def by_rule(found: Solution, trouble: str, number: int) -> Outcome:
    """A good maker's rule: weight in proportion to the draw, a third of the excess at each look;
    evenness by the straight edge against the wanted bend, and the limbs by gaps or tips.
    """
    at, plan = _bench(found, trouble, number), plan_of(found)
    limbs, bend = found.curve.limbs, found.curve.shapes.bend[:, -1]
    usual = first_bite(USUAL_TOOL, at.found.wood.density, at.found.layout.width)
    further, ended = 0.45 * plan.full_draw, "gave up"
    while at.looks < MOST_LOOKS:
        seen = at.look(min(further, plan.full_draw), plan.wanted_weight)
        if at.stave.broken:
            ended = "broke"
            break
        weights = [r for r in seen if r.kind == "weight"]
        last = max(weights, key=lambda r: r.draw or 0.0)
        guess = last.value * plan.full_draw / (last.draw or 1.0)
        near = (last.draw or 0) >= 0.97 * plan.full_draw or last.value >= 0.96 * plan.wanted_weight
        if guess <= 1.01 * plan.stop_at and at.string.rung == "full" and near:
            ended = "stop"
            break
        excess = np.full(2, max(0.0, float(np.log(guess / plan.stop_at))) / 3)
        hangs = {r.limb: r.value for r in seen if r.kind in ("gap", "tip height")}
        lean = hangs["upper"] - hangs["lower"] - (0.004 if at.string.rung != "long" else 0.0)
        if abs(lean) > 0.002:  # the limb that comes down less is stiffer
            excess[0 if lean < 0 else 1] += min(0.1, 8 * abs(lean) / 3)
        rows = []
        ratios = [_looks(r, limbs, bend) for r in seen if r.kind == "straight edge"]
        mean = float(np.mean([ratio for _, _, ratio in ratios])) if ratios else 1.0
        for side, name in enumerate(SIDES):
            depth = float(np.median(limbs.depth[side, 0]))
            rows.append(Taken(name, depth * (1 - np.exp(-excess[side] / 3))))
            for where, place, ratio in ratios:
                if where == side and ratio < 0.9 * mean:
                    stiff = float(np.log(mean / max(ratio, 0.3 * mean)))
                    thick = depth * (1 - np.exp(-stiff / 9))
                    rows.append(Taken(name, thick, max(0.0, place - 0.06), place + 0.06))
        rows = [one for one in rows if one.thickness > 1e-5]
        if rows:
            strokes = [max(1, round(one.thickness / usual.thickness)) for one in rows]
            bite = usual.thickness * at.maker.bite
            at.take(
                [replace(one, thickness=k * bite) for one, k in zip(rows, strokes, strict=True)]
            )
            at.stave = exercise(at.stave, int(25 * at.maker.pulls))
        if at.string.rung == "long" and guess <= 1.35 * plan.stop_at:
            at.put_on("low")
        elif at.string.rung == "low" and guess <= 1.15 * plan.stop_at:
            at.put_on("full")
        further = max(further, at.furthest) + (2 * INCH if guess <= 1.5 * plan.stop_at else INCH)
    return judged(at.stave, found, plan, at.looks, at.past, ended)


def _looks(row: Reading, limbs: LimbGrid, bend: np.ndarray) -> tuple[int, float, float]:
    """Limb, place, and the bend under an edge as a share of what is wanted there at full draw."""
    place = row.at or 0.0
    wanted = float(np.interp(place, limbs.places()[row.side, 0], bend[row.side]))
    return row.side, place, 8 * row.value / EDGE**2 / wanted


def one(
    number: int, trouble: str = "", knowing: bool = False, camera: bool = False
) -> tuple[str, Outcome, float, Outcome]:
    """One stave worked by both: its trouble, the advice's outcome and forecasts, the rule's; where
    all is known, nobody works by the rule, and with the camera somebody by the advice without it.
    """
    trouble = trouble or TROUBLES[number % len(TROUBLES)]
    turn = number // len(TROUBLES)
    found = solved(list(DESIGNS)[turn % len(DESIGNS)], WOODS[turn // len(DESIGNS) % len(WOODS)])
    ruined = Outcome(np.nan, np.nan, 0, np.nan, True, 0, "ruined")
    try:
        told, foretold = by_advice(found, trouble, number, knowing, camera)
    except BowyeryError as error:
        told, foretold = replace(ruined, ended=f"ruined: {error}"), np.nan
    try:
        if camera:
            rule, _ = by_advice(found, trouble, number)
        else:
            rule = ruined if knowing else by_rule(found, trouble, number)
    except BowyeryError:
        rule = ruined
    return trouble, told, foretold, rule


def _line(title: str, rows: list[Outcome], foretold: list[float] | None) -> str:
    """The figures of one way of working, as a line."""
    off = np.array([o.off for o in rows]) / POUND_FORCE
    uneven = np.array([o.uneven for o in rows])
    bands = ""
    if foretold is not None:
        held = np.nanmean([o.held for o in rows])
        bands = f"  places {held:4.0%}  forecasts {np.nanmean(foretold):4.0%}"
    return (
        f"  {title:7} {np.mean(np.abs(off) <= 1.5):4.0%}  {np.mean(uneven <= 0.12):4.0%}"
        f"  {np.nanmean(off):+5.1f} {np.nanstd(off):4.1f} {np.nanmin(off):+5.1f}"
        f"  {np.mean(off < -5):4.0%}  {np.mean([o.broken for o in rows]):4.0%}"
        f"  {np.median([o.checks for o in rows]):4.0f}  {sum(o.past for o in rows):4d}{bands}"
    )


def main(count: int, trouble: str = "", knowing: bool = False, camera: bool = False) -> None:
    """Work so many staves of the harsher world and print what became of them, by trouble."""
    with ProcessPoolExecutor() as pool:
        work = partial(one, trouble=trouble, knowing=knowing, camera=camera)
        found = list(pool.map(work, range(count)))
    print(
        f"{count} staves of the harsher world; within ±1.5 lb, every place within 12 %, miss (lb:"
        " mean, deviation, lightest), more than 5 lb light, broken, looks, pulls past"
    )
    for kind in (*TROUBLES, "all"):
        rows = [row for row in found if kind in (row[0], "all")]
        if not rows:
            continue
        print(f"{kind} ({len(rows)})")
        told = "camera" if camera else "advice"
        print(_line(told, [row[1] for row in rows], [row[2] for row in rows]))
        if not knowing:
            print(_line("by hand" if camera else "rule", [row[3] for row in rows], None))
    for kind, told, _, _ in found:
        if told.broken or told.off < -3 * POUND_FORCE:
            print(f"  {kind}: {told.ended}, {told.off / POUND_FORCE:+.1f} lb")
