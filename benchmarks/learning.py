"""What a shop's learning is worth: forecasts after none and after ten bows of a world that is not
as the book has it.

Run by hand:

    python benchmarks/learning.py [BOWS] [LOOKED_AT]

In this world wood is softer than the book by a tenth, each tree by its own; a scraper is twice as
hungry; finishing and shooting in take more; more of a bend stays, limbs keep more of the energy, a
bend by heat springs back further and strings bed in deeper. All of it is drawn from flat and
lopsided laws, where the estimate believes normal ones; staves, hands, scales and rulers are those
of the harsher bowyer (``harsh.py``). A maker makes ten bows as the tiller says, each with what the
ones before have shown; then ten others are foretold and made, once by the book and once with what
was learned.
"""

from __future__ import annotations

import os

for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(threads, "1")

import math  # noqa: E402
import sys  # noqa: E402
from collections.abc import Callable  # noqa: E402
from concurrent.futures import ProcessPoolExecutor  # noqa: E402
from dataclasses import dataclass, field, replace  # noqa: E402
from functools import partial  # noqa: E402
from pathlib import Path  # noqa: E402

import numpy as np  # noqa: E402

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from benchmarks.harsh import DESIGNS, Bench, harsh_stave, maker_of  # noqa: E402
from benchmarks.harsh import _do as do_as_told  # noqa: E402
from bowyery.bow.bow import SIDES  # noqa: E402
from bowyery.bow.layout import METRIC_ROUNDING  # noqa: E402
from bowyery.design.alterations import stiffer  # noqa: E402
from bowyery.design.solution import Solution  # noqa: E402
from bowyery.design.solve import solve_design  # noqa: E402
from bowyery.making.heat import FIRST, Record, stays  # noqa: E402
from bowyery.mechanics.shot import LOSS_SPREAD, WOOD_LOSS, shoot  # noqa: E402
from bowyery.mechanics.strain import CREEP, SetShare  # noqa: E402
from bowyery.practice.virtual_stave import drawn_state, exercise  # noqa: E402
from bowyery.record.evidence import (  # noqa: E402
    energy_kept,
    losses_shown,
    modulus_shown,
    share_kept,
)
from bowyery.record.learned import (  # noqa: E402
    NINETY,
    QUANTITIES,
    Evidence,
    Learned,
    learned,
    unfolded,
)
from bowyery.strings.settle import BraceRead, settles, settling  # noqa: E402
from bowyery.tiller.advice import Plan  # noqa: E402
from bowyery.tiller.bench import BenchState, Workpiece, hands_shown, most_use, work_out  # noqa: E402
from bowyery.tiller.bite import TOOLS, Tool, first_bite, hungry  # noqa: E402
from bowyery.tiller.forecast import Losses  # noqa: E402
from bowyery.tiller.log import StringOn, history  # noqa: E402
from bowyery.wood.materials import at_moisture, fibre, material, overridden  # noqa: E402

WOODS = {"european ash": -0.12, "wych elm": -0.09}  # log of the modulus over the book's
SCRAPER, RASP = 2.0, 1.3
FINISHING, SHOOTING, STAYS, KEEPS = 0.068, 0.055, 0.54, 0.125
SPRINGS, BEDS, WAY, FIBRE = 0.60, 1.7, "dry heat", "linen"
MOST_LOOKS = 30
Tell = Callable[[str, float, float], None]


@dataclass(frozen=True)
class Truth:
    """What is true of one bow, and nobody knows.

    Attributes:
        wood, tree: that it is of.
        stiff: log of its modulus over the book's.
        finishing, shooting: shares of its weight that these take.
        stays: share of the bend beyond its limit that stays.
        keeps: share of the energy that its limbs keep.
        springs: share of a bend by heat that stays.
        beds: how far its string beds in, over the book's.
        tools: bites over what is usual.
    """

    wood: str
    tree: str
    stiff: float
    finishing: float
    shooting: float
    stays: float
    keeps: float
    springs: float
    beds: float
    tools: dict[str, float]


def truth(number: int) -> Truth:
    """Of a bow, by its number; three bows come from a tree."""
    rng = np.random.default_rng([97, number])
    wood = list(WOODS)[number % 2]
    tree = np.random.default_rng([98, number // 6, number % 2])
    stiff = WOODS[wood] + 0.07 * tree.uniform(-1, 1) + 0.05 * rng.uniform(-1, 1)
    return Truth(
        wood, f"{wood} {number // 6}", float(stiff),
        FINISHING + 0.012 * float(rng.uniform(-1, 1)),
        SHOOTING + 0.008 * float(rng.standard_exponential() - 1),
        STAYS + 0.08 * float(rng.uniform(-1, 1)), KEEPS + 0.02 * float(rng.uniform(-1, 1)),
        SPRINGS + 0.05 * float(rng.uniform(-1, 1)), BEDS * float(rng.uniform(0.8, 1.2)),
        {name: (SCRAPER if name == "scraper" else RASP) * float(rng.uniform(0.85, 1.15))
         for name in TOOLS},
    )  # fmt: skip


@dataclass
class Shop:
    """What was seen so far, by figure."""

    seen: dict[str, list[Evidence]] = field(default_factory=dict)
    heated: list[Record] = field(default_factory=list)

    def add(self, what: str, told: tuple[float, float] | None, one: Truth, number: int,
            tool: str = "") -> None:  # fmt: skip
        """Write down what a bow showed."""
        if told is not None:
            row = Evidence(*told, one.wood, one.tree, number, tool)
            self.seen.setdefault(what, []).append(row)

    def knows(self, what: str, one: Truth, tool: str = "") -> Learned:
        """A figure for the next bow."""
        rows = [row for row in self.seen.get(what, ()) if row.what == tool]
        return learned(QUANTITIES[what], rows, one.wood, one.tree)

    def tools(self, one: Truth) -> tuple[Tool, ...]:
        """Its tools, as far as they are known."""
        found = []
        for name in TOOLS:
            told = self.knows("bite", one, name)
            tool = Tool(name, name)
            found.append(hungry(tool, told.middle, told.spread) if told.says else tool)
        return tuple(found)

    def losses(self, one: Truth) -> Losses:
        """What it reckons with losing."""
        first, second = self.knows("finishing", one), self.knows("shooting", one)
        return Losses(first.middle, first.spread, second.middle, second.spread)


def designed(number: int, one: Truth, shop: Shop) -> tuple[Solution, float, float]:
    """Its design, with the log modulus that it reckons with and one deviation of that."""
    layout, wanted = list(DESIGNS.values())[number % len(DESIGNS)]
    told = shop.knows("modulus", one)
    log = told.middle if told.same else 0.0
    book, factor = material(one.wood), math.exp(log)
    wood = overridden(book, book.modulus * factor, book.rupture * factor)
    return solve_design(layout, wanted, at_moisture(wood, 0.09), METRIC_ROUNDING), log, told.spread


def begun(number: int, one: Truth, found: Solution, log: float) -> Bench:
    """Its stave, roughed out, on somebody's tree."""
    rng = np.random.default_rng([99, number])
    stave, maker = harsh_stave(found, "plain", rng), maker_of("plain", rng)
    stave = replace(stave, wood=stave.wood - stave.wood.mean() + one.stiff - log)
    maker = replace(maker, tools=one.tools)
    at = Bench(exercise(stave, 25), found, maker, rng, StringOn("string long"),
               found.layout.length, 0.06)  # fmt: skip
    at.put_on("long")
    return at


def calipers(at: Bench) -> None:
    """Thickness at six marks of each limb, written down."""
    parts, limbs = [], at.stave.limbs
    for side, name in enumerate(SIDES):
        root = at.found.bow.limbs[side].root[0]
        for share in (0.08, 0.25, 0.42, 0.6, 0.76, 0.92):
            where = share * float(limbs.length[side, 0])
            size = float(np.interp(share, limbs.shares[side, 0], at.stave.thickness[side]))
            size += 0.0002 * float(at.rng.standard_normal())
            parts.append(f"{name} thick {1e3 * size:.2f} mm at {1e3 * (where + root):.0f} mm")
    at.write("; ".join(parts))


@dataclass(frozen=True)
class Made:
    """How a bow came out: forecasts and what came.

    Attributes:
        rows: by name: what came over the forecast (share, or m), the half of the band of 90 %, and
            whether it held.
        looks: at the tiller.
    """

    rows: dict[str, tuple[float, float, bool]]
    looks: int


def make(number: int, shop: Shop, most: int = MOST_LOOKS) -> tuple[Made, Shop]:
    """Foretell a bow, make it as the tiller says, and write down what it shows."""
    one, after = truth(number), Shop(dict(shop.seen), list(shop.heated))
    after.seen = {name: list(rows) for name, rows in shop.seen.items()}
    found, log, spread = designed(number, one, shop)
    wanted, rows = found.wanted, dict[str, tuple[float, float, bool]]()

    def tell(what: str, came: float, half: float) -> None:
        rows[what] = came, half, abs(came) <= half

    at = begun(number, one, found, log)
    to_marks = replace(at.stave, thickness=at.stave.limbs.depth[:, 0].copy(),
                       pending=np.zeros_like(at.stave.pending))  # fmt: skip
    cut = drawn_state(to_marks, found.bow, wanted.draw)[0]
    tell("weight at its marks", math.log(cut / found.weight), NINETY * spread)
    for tool in ("scraper", "rasp"):
        told = shop.tools(one)[list(TOOLS).index(tool)].bite(found.wood.density, 0.04)
        usual = first_bite(tool, found.wood.density, 0.04).thickness
        off = math.log(one.tools[tool] * usual / told.thickness)
        tell(f"bite of the {tool}", off, NINETY * told.spread)
    state, pulled = _tillered(at, found, shop, one, most)
    last = pulled * (1 - one.finishing) * (1 - one.shooting)
    if state is not None and state.outlook is not None:
        told = state.outlook.final
        tell("final weight", math.log(last / told.middle),
             math.log(told.high / told.middle))  # fmt: skip
        tell("weight over wanted", math.log(last / wanted.weight), 0.05)
    _show_tiller(at, found, after, one, number, log)
    _finish(number, one, found, pulled, state, after)
    _proof(number, one, found, last, shop, after, tell)
    _bends_and_strings(number, one, shop, after, tell)
    return Made(rows, at.looks), after


def _tillered(
    at: Bench, found: Solution, shop: Shop, one: Truth, most: int
) -> tuple[BenchState | None, float]:
    """Do as the tiller says until it says stop; the last state, and the weight at full draw."""
    plan = Plan(found.wanted.weight, found.wanted.draw, most_use=most_use(found.uses),
                losses=shop.losses(one), tools=shop.tools(one))  # fmt: skip
    piece = Workpiece(found.bow, found.curve.limbs, found.wood.density, found.layout.width)
    further, harder, state = 0.45 * plan.full_draw, 0.5 * plan.wanted_weight, None
    while at.looks < most:
        at.look(further, harder)
        if at.stave.broken:
            return None, float("nan")
        past = history(at.noted, piece.roots)
        state = work_out(piece, past, replace(plan, braced=past.braced))
        if state.advice is None:
            break
        if state.advice.act in ("stop", "rescue"):
            break
        moved = do_as_told(at, state)
        if state.further is not None and state.harder is not None:
            moved |= state.further.value > further + 0.006
            further, harder = state.further.value, state.harder.value
        if not moved:
            break
    if history(at.noted, piece.roots).changes:  # calipers want a weight with the same wood on
        at.look(further, harder)
    calipers(at)
    return state, drawn_state(exercise(at.stave, 200), found.bow, plan.full_draw)[0]


def _show_tiller(
    at: Bench, found: Solution, after: Shop, one: Truth, number: int, log: float
) -> None:
    """What its log shows of wood and tools."""
    piece = Workpiece(found.bow, found.curve.limbs, found.wood.density, found.layout.width)
    past = history(at.noted, piece.roots)
    told = modulus_shown(piece, past)
    after.add("modulus", told and (told[0] + log, told[1]), one, number)
    bites, rulers = hands_shown(piece, past, found.wanted.draw)
    for kind, ruler in rulers.seen.items():
        after.add("reading", ruler.shown, one, number, kind)
    for name, bite in bites.items():
        first = first_bite(name, piece.density, piece.width).thickness
        if bite.shown is not None:
            value, error = bite.shown
            after.add("bite", (value / first, error / first), one, number, name)


def _finish(
    number: int, one: Truth, found: Solution, pulled: float, state: BenchState | None, after: Shop
) -> None:
    """Weights before and after finishing and shooting in, each read once."""
    rng = np.random.default_rng([96, number])
    if not math.isfinite(pulled):
        return
    finished = pulled * (1 - one.finishing) * float(np.exp(0.008 * rng.standard_normal()))
    shot_in = pulled * (1 - one.finishing) * (1 - one.shooting)
    shot_in *= float(np.exp(0.008 * rng.standard_normal()))
    tillered = None
    if state is not None and state.outlook is not None:
        now = state.outlook.now
        tillered = now.middle, (now.high - now.low) / (2 * NINETY)
    usual = ((0.045, 0.015), (0.04, 0.015))
    lost = losses_shown(tillered, finished, shot_in, usual)
    after.add("finishing", lost.finishing, one, number)
    after.add("shooting", lost.shooting, one, number)


def _proof(number: int, one: Truth, found: Solution, last: float, shop: Shop, after: Shop,
           tell: Tell) -> None:  # fmt: skip
    """Its string follow and an arrow, foretold and read."""
    rng = np.random.default_rng([95, number])
    share, told = shop.knows("set share", one), found.set
    forecast = replace(told, share=SetShare(share.middle, share.spread, 0))
    follow = told.made + CREEP * told.creep + one.stays * told.beyond
    read = follow + 0.0015 * float(rng.uniform(-1, 1))
    half = forecast.high - forecast.follow
    tell("string follow", follow - forecast.follow, half)
    after.add("set share", share_kept(told.beyond, read - told.made - CREEP * told.creep), one,
              number)  # fmt: skip
    weight = last if math.isfinite(last) else found.wanted.weight
    bow, arrow = stiffer(found.bow, weight / found.weight), found.bow.arrow or 0.028
    kept = shop.knows("hysteresis", one)
    known = (kept.middle, kept.spread) if kept.says else (WOOD_LOSS, LOSS_SPREAD)
    draw = found.wanted.draw
    shot = shoot(bow, draw, arrow, watch=False, keeps=known)
    true = SetShare(one.stays, 0.01)
    speed = shoot(
        bow, draw, arrow, share=true, masses=20, watch=False, keeps=(one.keeps, 0.01)
    ).speed
    speed *= float(np.exp(0.012 * rng.uniform(-1, 1)))
    tell("arrow speed", math.log(speed / shot.speed), math.log(shot.high / shot.speed))
    after.add("hysteresis", energy_kept(bow, draw, arrow, speed), one, number)


def _bends_and_strings(number: int, one: Truth, shop: Shop, after: Shop, tell: Tell) -> None:
    """A bend by heat, and a string that settles."""
    told = stays(WAY, [replace(r, same_wood=True) for r in shop.heated])
    if not shop.heated:
        assert told.share == FIRST[WAY][0]
    tell("bend by heat", one.springs - told.share, NINETY * math.hypot(told.spread, 0.05))
    after.heated.append(Record(0.01, 0.01 * one.springs, True, WAY))
    linen, length, per = fibre(FIBRE), 1.6, 4.0
    book = settles(linen)
    deeper = replace(one, wood=FIBRE, tree="")
    found = shop.knows("bedding", deeper)
    belief = book
    if found.says:
        middle = book.beds * math.exp(found.middle)
        belief = replace(book, beds=middle, beds_spread=middle * found.spread)

    def brace(pulls: float) -> float:
        return 0.16 - per * length * book.beds * one.beds * pulls / (pulls + 0.8 * book.over)

    forecast = settling(linen, length, per, [BraceRead(0.0, brace(0.0))], belief)
    half = 0.5 * (forecast.final[2] - forecast.final[1])
    tell("string after 200 pulls", brace(200.0) - forecast.final[0], half)
    reads = [BraceRead(p, round(brace(p) / 0.001) * 0.001) for p in (0.0, 10.0, 40.0, 120.0)]
    seen = settling(linen, length, per, reads)
    shown = unfolded((book.beds, book.beds_spread), seen.beds)
    if shown is not None and shown[0] > 0:
        told_log = math.log(shown[0] / book.beds), shown[1] / shown[0]
        after.add("bedding", told_log, deeper, number)


def season(count: int, most: int = MOST_LOOKS) -> Shop:
    """What a shop has seen after so many bows."""
    shop = Shop()
    for number in range(count):
        shop = make(number, shop, most)[1]
    return shop


def both(number: int, shop: Shop, most: int = MOST_LOOKS) -> tuple[Made, Made]:
    """A bow made by the book, and made with what the shop has learned."""
    return make(number, Shop(), most)[0], make(number, shop, most)[0]


def main(count: int = 10, looked_at: int = 10) -> None:
    """Print how forecasts miss after none and after so many bows."""
    shop = season(count)
    numbers = [6 * ((count + 5) // 6) + 6 + k for k in range(looked_at)]  # of trees never seen
    with ProcessPoolExecutor() as pool:
        pairs = list(pool.map(partial(both, shop=shop), numbers))
    print(f"{looked_at} bows foretold after none and after {count} bows of a world off the book;"
          " miss (mean, and root of the mean square), bands of 90 % that held")  # fmt: skip
    for name in dict.fromkeys(n for first, _ in pairs for n in first.rows):
        line = f"  {name:24}"
        for which in (0, 1):
            rows = [pair[which].rows[name] for pair in pairs if name in pair[which].rows]
            off = np.array([row[0] for row in rows])
            metres = name in ("string follow", "string after 200 pulls")
            unit, scale = ("mm", 1e3) if metres else ("%", 100)
            root = math.sqrt(float((off**2).mean()))
            line += (f"  {off.mean() * scale:+6.1f} {root * scale:5.1f} {unit:2}"
                     f" {np.mean([row[2] for row in rows]):4.0%}")  # fmt: skip
        print(line)
    looks = [np.median([pair[which].looks for pair in pairs]) for which in (0, 1)]
    print(f"  looks at the tiller: {looks[0]:.0f}, {looks[1]:.0f}")
    for what, tool in (("modulus", ""), ("bite", "scraper"), ("finishing", ""), ("shooting", ""),
                       ("set share", ""), ("hysteresis", "")):  # fmt: skip
        told = shop.knows(what, truth(numbers[0]), tool)
        print(f"  {what} {tool}: {told.middle:+.3f} ± {told.spread:.3f} (book {told.book:+.3f})")


if __name__ == "__main__":
    given = [int(one) for one in sys.argv[1:]]
    main(*given)
