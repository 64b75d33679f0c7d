"""A virtual bowyer who does as the advice says, and one who keeps to a plain rule of the bench, on
the same virtual staves.

Run by hand:

    python benchmarks/bowyer.py [STAVES] [--sparse] [--alone] [--fine] [--harsh [TROUBLE]]
    [--knowing] [--camera]

Three woods, four designs, with and without one hinge; readings with a maker's errors, an uneven
hand, wood that remembers.
Printed for both: how many end within a pound of the wanted weight, how many bend within a tenth of
what is wanted everywhere, checks, wood taken too much, set, breaks, and pulls past the limits.
``--sparse`` reads only weights and gaps, ``--alone`` leaves the rule out, ``--fine`` reads the
straight edge twice as well. ``--harsh`` is another world, with makers and troubles that the
estimator does not know of, and a good maker's rule beside the advice (``harsh.py``); with
``--knowing`` what the same advice would come to if all that the limbs show were known, with
``--camera`` what one picture a look does, beside the same maker with a straight edge.
"""

from __future__ import annotations

import os

for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(threads, "1")

import sys  # noqa: E402
from concurrent.futures import ProcessPoolExecutor  # noqa: E402
from dataclasses import dataclass, replace  # noqa: E402
from functools import cache, partial  # noqa: E402
from pathlib import Path  # noqa: E402

import numpy as np  # noqa: E402

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from bowyery.bow.bow import SIDES, Bow  # noqa: E402
from bowyery.bow.layout import METRIC_ROUNDING, Layout, Wanted  # noqa: E402
from bowyery.bow.limb_grid import LimbGrid  # noqa: E402
from bowyery.design.solution import Solution  # noqa: E402
from bowyery.design.solve import solve_design  # noqa: E402
from bowyery.errors import BowyeryError  # noqa: E402
from bowyery.mechanics.statics import brace_bow  # noqa: E402
from bowyery.practice.virtual_stave import (  # noqa: E402
    VirtualStave,
    drawn_state,
    exercise,
    new_stave,
    pull,
    reached,
    read_stave,
    scrape,
)
from bowyery.tiller.advice import Plan, advise, balance, limits  # noqa: E402
from bowyery.tiller.estimate import (  # noqa: E402
    MEASURED,
    NINETY,
    PLACES,
    Belief,
    Taken,
    carried,
    crooked,
    estimate,
    even_estimate,
    few_cells,
    first_belief,
)
from bowyery.tiller.forecast import forecast  # noqa: E402
from bowyery.tiller.keeping import kept, to_come  # noqa: E402
from bowyery.tiller.kinds import KINDS, Reading  # noqa: E402
from bowyery.tiller.set import Profile, with_profiles  # noqa: E402
from bowyery.units.quantity import INCH, POUND_FORCE  # noqa: E402
from bowyery.wood.materials import at_moisture, material  # noqa: E402

WOODS = ("wych elm", "european ash", "black locust")
DESIGNS: dict[str, tuple[Layout, Wanted]] = {
    "flatbow": (Layout(72 * INCH), Wanted(42 * POUND_FORCE, 27 * INCH)),
    "pyramid": (
        Layout(73 * INCH, parallel=0.0, width=2.3 * INCH, tip_width=0.45 * INCH),
        Wanted(40 * POUND_FORCE, 27 * INCH),
    ),
    "longbow": (
        Layout(80 * INCH, width=1.4 * INCH, parallel=0.4, fade=1.5 * INCH),
        Wanted(50 * POUND_FORCE, 28 * INCH),
    ),
    "light": (Layout(67 * INCH, width=1.6 * INCH), Wanted(28 * POUND_FORCE, 25 * INCH)),
}
MOST_CHECKS = 25
# Of the limb: half a hand from the fade, and to where hardly anything bends.
EVEN_FROM, EVEN_TO = 0.05, 0.85


@dataclass(frozen=True)
class Outcome:
    """How one stave ended: weight over the wanted one (N), greatest share by which a place's bend
    misses what is wanted, checks, set of the tips (m), whether it broke, how many pulls passed the
    wanted weight, how it ended, and what share of all bands (90 %) of all checks held the truth."""

    off: float
    uneven: float
    checks: int
    follow: float
    broken: bool
    past: int
    ended: str = ""
    held: float = np.nan


@cache
def solved(name: str, wood: str) -> Solution:
    """A design in a wood, solved once."""
    layout, wanted = DESIGNS[name]
    return solve_design(layout, wanted, at_moisture(material(wood), 0.09), METRIC_ROUNDING)


def plan_of(found: Solution) -> Plan:
    """School W, with the usual losses."""
    breaks = float((found.limits.rupture / found.limits.working).min())
    limit = min(max(1.0, 1.05 * found.use), 0.95 * breaks)
    return Plan(found.wanted.weight, found.wanted.draw, most_use=limit)


def on_the_tree(bow: Bow, string: str, length: float) -> Bow:
    """The bow on its tree: clamped, with a long string, a low brace or its full brace."""
    hold = replace(bow.hold, support="clamp", held_by="sliding hook", nock_offset=0.0)
    if string == "long":
        return replace(bow, hold=hold, brace_height=None, string_length=length + 0.05)
    return replace(bow, hold=hold, brace_height=bow.brace_height if string == "full" else 0.08)


def asked(
    limbs: LimbGrid, least: float, draw: float, braced: bool, sparse: bool, fine: float = 1.0
) -> tuple[Reading, ...]:
    """What is read at a check: weights on the way and gaps at the fades; and tips and an 8 in edge
    slid along, with more time.
    """
    rows = [
        Reading("weight", 0.0, draw=least + share * (draw - least)) for share in (0.6, 0.8, 1.0)
    ]
    for side, name in enumerate(SIDES):
        if braced:
            rows.append(Reading("gap", 0.0, name))
        if not sparse:
            rows.append(Reading("tip height", 0.0, name, draw))
            edge = KINDS["straight edge"]
            error = fine * edge.error(Reading(edge.name, 0.0), 0.0, 0.0)
            marks = np.arange(4 * INCH, 0.9 * limbs.length[side, 0], 2 * INCH)
            rows += [
                Reading("straight edge", 0.0, name, draw, float(at), 8 * INCH, error=error)
                for at in marks
            ]
    return tuple(rows)


def profiled(limbs: LimbGrid, stave: VirtualStave, rng: np.random.Generator) -> LimbGrid:
    """The design's grid with the natural bend as it is measured on the unstrung limbs."""
    profiles = []
    for side, name in enumerate(SIDES):
        length, n = float(limbs.length[side, 0]), limbs.cells
        turn = np.concatenate(
            [
                [0.0],
                np.cumsum(
                    (limbs.curvature[side, 0] + stave.crook[side] + stave.set[side]) * length / n
                ),
            ]
        )
        across = np.concatenate([[0.0], np.cumsum(0.5 * (turn[1:] + turn[:-1])) * length / n])
        at = np.linspace(0.06, 1.0, 15) * length
        seen = np.interp(
            at, np.linspace(0.0, length, n + 1), across
        ) + 0.0005 * rng.standard_normal(at.size)
        profiles.append(Profile(name, at, seen))
    return with_profiles(limbs, profiles)


def _lean(found: Solution, plan: Plan, means: np.ndarray) -> float:
    """By how much (log) the upper limb bends more against the lower than any relation the hold asks
    for.
    """
    few, shifts = few_cells(found.curve.limbs), np.linspace(-0.3, 0.3, 13)
    stands = [
        balance(few, found.bow, even_estimate(few, 0.0, float(one)), plan.fingers) for one in shifts
    ]
    gaps = np.array([s.gap for s in stands])
    low, high = (float(np.interp(g, gaps[::-1], -shifts[::-1])) for g in stands[0].wanted)
    lean = float(np.log(means[0] / means[1]))
    return max(0.0, lean - high) + min(0.0, lean - low)


def judged(
    stave: VirtualStave, found: Solution, plan: Plan, checks: int, past: int, ended: str
) -> Outcome:
    """How the stave ended, against the truth: after a night, and two pulls to its full draw."""
    keep = (1 - plan.losses.finishing) * (1 - plan.losses.shooting)
    if stave.broken:
        return Outcome(np.nan, np.nan, checks, np.nan, True, past, "broke")
    stave = exercise(stave, 200)
    for _ in range(2):
        stave = pull(stave, found.bow, plan.full_draw)
    if stave.broken:
        return Outcome(np.nan, np.nan, checks, np.nan, True, past, "broke")
    weight, bent = drawn_state(stave, found.bow, plan.full_draw)
    share = stave.limbs.shares[0, 0]
    solved_at, solved_bend = found.curve.limbs.shares[:, 0], found.curve.shapes.bend[:, -1]
    wanted = np.stack([np.interp(share, solved_at[k], solved_bend[k]) for k in (0, 1)])
    ratio = bent.bend[:, 0] / np.where(share < 0.99, wanted, 1.0)
    near = np.exp(-0.5 * ((share[:, None] - share) / 0.05) ** 2)  # as seen over a hand's breadth
    smooth = (near @ ratio.T).T / near.sum(1)
    inner = (share > EVEN_FROM) & (share < EVEN_TO)
    even = smooth[:, inner] / smooth[:, inner].mean(1, keepdims=True)
    even *= np.exp(np.array([[0.5], [-0.5]]) * _lean(found, plan, smooth[:, inner].mean(1)))
    length = stave.limbs.length[:, 0]
    cells = stave.limbs.cells
    lever = (1 - (np.arange(cells) + 0.5) / cells) * length[:, None]
    follow = float((stave.set * lever).sum(1).mean() * length.mean() / cells)
    return Outcome(
        weight * keep - plan.wanted_weight,
        float(np.abs(even - 1).max()),
        checks,
        follow,
        False,
        past,
        ended,
    )


def by_advice(
    stave: VirtualStave,
    found: Solution,
    rng: np.random.Generator,
    sparse: bool = False,
    fine: float = 1.0,
) -> Outcome:
    """Do as the advice says."""
    plan, length = plan_of(found), found.layout.length
    base = few_cells(found.curve.limbs)
    limbs = profiled(base, stave, rng)
    belief: Belief | None = first_belief(base, 0.55, None if sparse else MEASURED)
    taken: tuple[Taken, ...] = ()
    string, checks, past, last = "long", 0, 0, 0.0
    held: list[np.ndarray] = []
    further, harder = 0.75 * plan.full_draw, 0.6 * plan.wanted_weight
    stave = exercise(stave, 25)
    for _ in range(60):
        bow = on_the_tree(found.bow, string, length)
        least = float(brace_bow(stave.grid(), bow).least_draw[0])
        draw = reached(stave, bow, max(further, least + 0.03), 0.98 * harder)
        weight = drawn_state(stave, bow, draw)[0]
        past += weight > 1.005 * plan.wanted_weight
        stave = pull(stave, bow, draw)
        if stave.broken:
            return judged(stave, found, plan, checks, past, "broke")
        # unstrung for the next pass anyway: its bend is measured again, with the set it has taken
        if not sparse:
            limbs = profiled(base, stave, rng)
        readings = read_stave(
            stave, bow, asked(limbs, least, draw, string != "long", sparse, fine), rng
        )
        checks, last = checks + 1, max(last, draw)
        if taken and belief is not None:
            belief = carried(limbs, found.bow, belief, taken)
        now = estimate(limbs, bow, readings, belief)
        bent = crooked(limbs, now.crook)
        held.append(np.abs(now.field - truth(stave)) <= NINETY * now.spread)
        belief, taken = now.belief, ()
        stayed = kept(bent, bow, now.field, draw, plan.share)
        still = to_come(
            bent, found.bow, now.field, plan.full_draw, plan.stop_at, stayed, plan.share
        )
        outlook = forecast(bent, found.bow, now, plan.full_draw, draw, plan.losses, still)
        stand = balance(base, found.bow, now, plan.fingers)
        said = advise(bent, found.bow, now, outlook, stand, plan, draw, None, string)
        hung = on_the_tree(found.bow, said.string, length)
        there = forecast(bent, hung, now, plan.full_draw, draw, plan.losses)
        limit, hard = limits(bent, hung, now, there, plan, last, not stand.stiffer)
        moved = limit.value > further + 0.006
        further, harder = limit.value, hard.value
        if said.act in ("take", "balance"):
            taken = tuple(
                Taken(side, 0.0, spread=0.12, shaded=tuple(said.removal[k]))
                for k, side in enumerate(SIDES)
            )
            stave = exercise(scrape(stave, taken, rng), said.pulls)
        if said.string != string:
            string, moved = said.string, True
        if (
            said.act in ("stop", "rescue")
            or (said.act == "pull" and not moved)
            or checks >= MOST_CHECKS
        ):
            break
    return replace(judged(stave, found, plan, checks, past, said.act), held=float(np.mean(held)))


def truth(stave: VirtualStave) -> np.ndarray:
    """The stave's log stiffness at the knots, seen over a hand's breadth as twelve knots can show
    it.
    """
    share, knots = np.linspace(0.0, 1.0, stave.limbs.cells + 1), np.linspace(0.0, 1.0, PLACES)
    near = np.exp(-0.5 * ((knots[:, None] - share) / 0.045) ** 2)
    return np.asarray((near @ stave.logs.T).T / near.sum(1))


STROKES, STROKE = 15, 0.00002


def by_rule(stave: VirtualStave, found: Solution, rng: np.random.Generator) -> Outcome:
    """A plain rule of the bench: gaps at brace and the eye; fifteen strokes where it looks stiff,
    both limbs even.

    The eye sees a bend over a hand's breadth to about an eighth, and takes a natural crook for a
    bend. The weight at full draw is taken in proportion from the last reading, and the same is left
    on for finishing.
    """
    plan, length = plan_of(found), found.layout.length
    base = few_cells(found.curve.limbs)
    share = np.linspace(0.0, 1.0, base.cells + 1)
    string, checks, past = "long", 0, 0
    far = 0.55 * plan.full_draw
    stave = exercise(stave, 25)
    for _ in range(120):
        bow = on_the_tree(found.bow, string, length)
        draw = reached(stave, bow, far, plan.wanted_weight)
        weight, bent = drawn_state(stave, bow, draw)
        past += weight > 1.005 * plan.wanted_weight
        stave = pull(stave, bow, draw)
        if stave.broken:
            return judged(stave, found, plan, checks, past, "broke")
        checks += 1
        seen = weight + 0.5 * POUND_FORCE * rng.standard_normal()
        guess = seen * plan.full_draw / draw
        near = seen >= 0.95 * plan.wanted_weight or draw >= 0.97 * plan.full_draw
        if guess <= plan.stop_at and string == "full" and near:
            return judged(stave, found, plan, checks, past, "stop")
        total = (bent.bend_at_joints + stave.crook[:, None])[:, 0]
        total = np.concatenate(
            [total[:, :1], 0.5 * (total[:, 1:] + total[:, :-1]), total[:, -1:]], 1
        )
        wanted = found.curve.shapes.bend[:, -1, :: found.curve.limbs.cells // base.cells]
        looks = total / np.where(share < 0.9, wanted, np.inf)
        near = np.exp(-0.5 * ((share[:, None] - share) / 0.07) ** 2)
        looks = (near @ looks.T).T / near.sum(1) * (1 + 0.06 * rng.standard_normal(looks.shape))
        inner = (share > 0.05) & (share < 0.85)
        stiff = looks < 0.9 * looks[:, inner].mean()
        work = []
        for side, name in enumerate(SIDES):
            places = share * base.length[side, 0]
            low = np.flatnonzero(stiff[side] & inner)
            if low.size:
                a, b = places[low[0]], places[low[-1]] + 0.02
                work.append(Taken(name, STROKES * STROKE, float(a), float(min(b, places[-1]))))
            elif guess > plan.stop_at:
                work.append(Taken(name, STROKES * STROKE))
        stave = exercise(scrape(stave, tuple(work), rng), 15) if work else stave
        if string == "long" and guess <= 1.2 * plan.stop_at:
            string, far = "full", plan.full_draw
        elif not stiff[:, inner].any() or not work:
            far = min(far + INCH, plan.full_draw)
    return judged(stave, found, plan, checks, past, "gave up")


def natural_hinge(stave: VirtualStave) -> float:
    """How much weaker (log) the weakest place of the untouched stave is than its limb, seen over a
    hand's breadth.
    """
    share = np.linspace(0.0, 1.0, stave.limbs.cells + 1)
    near = np.exp(-0.5 * ((share[:, None] - share) / 0.05) ** 2)
    smooth = (near @ stave.logs.T).T / near.sum(1)
    inner = (share > EVEN_FROM) & (share < EVEN_TO)
    return float((smooth[:, inner].mean(1, keepdims=True) - smooth[:, inner]).max())


def one(
    number: int, sparse: bool, alone: bool, fine: float = 1.0
) -> tuple[Outcome, Outcome | None, float]:
    """One stave worked by both, and the depth of its natural hinge."""
    rng = np.random.default_rng([20, number])
    name, wood = list(DESIGNS)[number % 4], WOODS[number // 4 % 3]
    hinge = float(rng.uniform(0.12, 0.35)) if number // 12 % 2 else 0.0
    found = solved(name, wood)
    stave = new_stave(few_cells(found.curve.limbs), found.bow, found.wood, rng, hinge=hinge)
    rule = None
    if not (sparse or alone):
        try:
            rule = by_rule(stave, found, np.random.default_rng([21, number]))
        except BowyeryError:  # so weak a place that it no longer braces
            rule = Outcome(np.nan, np.nan, 0, np.nan, True, 0, "ruined")
    try:
        told = by_advice(stave, found, np.random.default_rng([22, number]), sparse, fine)
    except BowyeryError:
        told = Outcome(np.nan, np.nan, 0, np.nan, True, 0, "ruined")
    return told, rule, natural_hinge(stave)


def told(title: str, rows: list[Outcome], hinges: list[float], within: float) -> str:
    """The figures of one way of working, as lines."""
    off = np.array([o.off for o in rows]) / POUND_FORCE
    uneven = np.array([o.uneven for o in rows])
    shallow = np.array([h < -np.log(0.75) for h in hinges])
    whole = np.array([not o.broken for o in rows])
    checks = np.array([o.checks for o in rows])
    follow = np.array([o.follow for o in rows])
    good = np.abs(off) <= within
    lines = [
        title,
        (
            f"  within ±{within:g} lb of the wanted weight: {good.mean() * 100:.1f} %"
            f" (off: mean {np.nanmean(off):+.2f} lb, deviation {np.nanstd(off):.2f} lb)"
        ),
        (
            f"  within 10 % of the wanted bend everywhere, of {shallow.sum()} with no natural hinge"
            f" deeper than 25 %: {(uneven[shallow] <= 0.1).mean() * 100:.1f} % (worst place: median"
            f" {np.nanmedian(uneven[shallow]) * 100:.1f} %, nine in ten within"
            f" {np.nanquantile(uneven[shallow], 0.9) * 100:.1f} %)"
        ),
        (
            f"  checks: median {np.median(checks):.0f}, nine in ten within"
            f" {np.quantile(checks, 0.9):.0f}"
        ),
        f"  taken too much (lighter by more than a pound): {(off < -1).mean() * 100:.1f} %",
        (
            f"  set of the tips: mean {np.nanmean(follow) * 1000:.1f} mm; broken"
            f" {(~whole).mean() * 100:.1f} %; pulls past the wanted weight:"
            f" {sum(o.past for o in rows)}"
        ),
    ]
    held = [o.held for o in rows if np.isfinite(o.held)]
    if held:
        lines.append(f"  bands of 90 % held the truth: {np.mean(held) * 100:.1f} %")
    return "\n".join(lines)


def main(count: int, sparse: bool, alone: bool, fine: float) -> None:
    """Work so many staves and print what became of them."""
    with ProcessPoolExecutor() as pool:
        found = list(
            pool.map(partial(one, sparse=sparse, alone=alone, fine=fine), range(count), chunksize=4)
        )
    hinges = [row[2] for row in found]
    print(
        f"{count} virtual staves: {', '.join(WOODS)}; {', '.join(DESIGNS)}; half of them with one"
        " hinge."
    )
    how = ", weights and gaps only" if sparse else ""
    print(told(f"By the advice{how}", [row[0] for row in found], hinges, 1.5 if sparse else 1.0))
    if not (sparse or alone):
        print(told("By the rule of the bench", [row[1] for row in found if row[1]], hinges, 1.0))


if __name__ == "__main__":
    words = [w for w in sys.argv[1:] if not w.startswith("--")]
    if "--harsh" in sys.argv:
        from benchmarks import harsh

        trouble = words[1] if len(words) > 1 else ""
        count = int(words[0]) if words else 160
        harsh.main(count, trouble, "--knowing" in sys.argv, "--camera" in sys.argv)
        sys.exit()
    main(
        int(words[0]) if words else 300,
        "--sparse" in sys.argv,
        "--alone" in sys.argv,
        0.5 if "--fine" in sys.argv else 1.0,
    )
