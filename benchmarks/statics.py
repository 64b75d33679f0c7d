"""How fast the statics is, measured side by side on one core; only ratios mean anything elsewhere.

Run by hand, with the finite-element engine (openseespy, which wants Debian's libblas3 and
liblapack3) installed beside the core's own needs; without it that line is left out and said to be:

    python benchmarks/statics.py

- a force–draw curve of 26 points of two limbs of 64 stations, against corotational elements (64 a
limb) that follow the
  same 26 draws, and against ``scipy.integrate.solve_bvp`` on the same equations;
- a loosed arrow, a tiller fit, a design, and one with a back-bow, in such curves;
- 500 designs at once against the same designs one by one, with the memory of the batch.
"""

from __future__ import annotations

import os

for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(threads, "1")

import sys  # noqa: E402
import tracemalloc  # noqa: E402
from collections.abc import Callable  # noqa: E402
from dataclasses import replace  # noqa: E402
from pathlib import Path  # noqa: E402
from time import perf_counter  # noqa: E402

import numpy as np  # noqa: E402
from scipy.integrate import solve_bvp  # noqa: E402

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from bowyery.bow.bow import Bow, Limb  # noqa: E402
from bowyery.bow.families import LAYOUTS  # noqa: E402
from bowyery.bow.layout import INCH_ROUNDING, Layout, Wanted  # noqa: E402
from bowyery.bow.limb_grid import grid  # noqa: E402
from bowyery.design.solve import solve_design  # noqa: E402
from bowyery.mechanics import curve as force_curve  # noqa: E402
from bowyery.mechanics import statics  # noqa: E402
from bowyery.mechanics.dynamics import loose  # noqa: E402
from bowyery.tiller.estimate import estimate  # noqa: E402
from bowyery.units.quantity import INCH, POUND_FORCE  # noqa: E402
from bowyery.wood.materials import at_moisture, material  # noqa: E402
from tests.core.bows import bow, limb  # noqa: E402
from tests.core.readings import asked, bench_bow, edges, reads  # noqa: E402

DRAWS = np.linspace(0.16, 0.66, 26)
DESIGNS = 500


def stations(side: Limb, count: int = 64) -> Limb:
    """The same limb described by many stations."""
    at = np.linspace(0.0, side.length, count)
    return replace(
        side,
        at=at,
        width=np.interp(at, side.at, side.width),
        thickness=np.interp(at, side.at, side.thickness),
    )


def seconds(*whats: Callable[[], object], rounds: int = 5) -> list[float]:
    """Least time of each, run in turn round by round, so that a busy machine is as unkind to one as
    to the other.
    """
    best = [np.inf] * len(whats)
    for _ in range(rounds):
        for k, what in enumerate(whats):
            start = perf_counter()
            what()
            best[k] = min(best[k], perf_counter() - start)
    return best


def by_boundary_values(which: Bow, parts: tuple[float, float]) -> np.ndarray:
    """The same elastica as one boundary-value problem over both limbs, followed from draw to draw.

    Unknowns along the share of the limb: u, y and inclination of each limb in its own frame.
    Parameters: tension and direction of each half of the string, and the tilt of the draw.
    """
    limbs = which.limbs
    pivot, side = np.array(which.hold.pivot), np.array([1.0, -1.0])

    def stiffness(one: Limb, at: np.ndarray) -> np.ndarray:
        return (
            one.layers[0].modulus
            * np.interp(at, one.at, one.width)
            * np.interp(at, one.at, one.thickness) ** 3
            / 12
        )

    def loads(p: np.ndarray, k: int, draw: float) -> tuple[np.ndarray, np.ndarray]:
        """Force on the tip and place of the tip in the limb's own frame."""
        nock = (pivot + draw * np.array([np.sin(p[4]), np.cos(p[4])])) * np.array([side[k], 1.0])
        inward = np.array([np.cos(p[2 + k]), np.sin(p[2 + k])])
        return p[k] * inward, nock - parts[k] * inward

    first = force_curve.solve(which, DRAWS[:1])
    shape, drawn = first.shapes, first.drawn
    mesh, rows, directions = np.linspace(0.0, 1.0, first.limbs.cells + 1), [], []
    for k in (0, 1):
        u, y = shape.along[k, 0] * side[k], shape.across[k, 0]
        rows += [u, y, np.arctan2(np.gradient(y), np.gradient(u))]
        directions.append(np.arctan2(drawn.nock[1, 0] - y[-1], drawn.nock[0, 0] * side[k] - u[-1]))
    last = (
        mesh,
        np.array(rows),
        np.array([*drawn.tension[:, 0], *directions, float(drawn.tilt[0])]),
    )
    weights = []
    for draw in DRAWS:

        def slopes(s: np.ndarray, v: np.ndarray, p: np.ndarray, draw: float = draw) -> np.ndarray:
            out = np.empty_like(v)
            for k, one in enumerate(limbs):
                force, tip = loads(p, k, draw)
                u, y, theta = v[3 * k : 3 * k + 3]
                moment = (tip[0] - u) * force[1] - (tip[1] - y) * force[0]
                out[3 * k] = one.length * np.cos(theta)
                out[3 * k + 1] = one.length * np.sin(theta)
                out[3 * k + 2] = one.length * moment / stiffness(one, s * one.length)
            return out

        def ends(a: np.ndarray, b: np.ndarray, p: np.ndarray, draw: float = draw) -> np.ndarray:
            misses, pull = [], np.zeros(2)
            for k, one in enumerate(limbs):
                force, tip = loads(p, k, draw)
                misses += [*(a[3 * k : 3 * k + 3] - one.root), *(b[3 * k : 3 * k + 2] - tip)]
                pull += force * np.array([side[k], 1.0])
            arm = draw * np.array([np.sin(p[4]), np.cos(p[4])])
            return np.array([*misses, (arm[0] * pull[1] - arm[1] * pull[0]) / 100])

        found = solve_bvp(slopes, ends, *last, tol=1e-5, max_nodes=5000)
        if not found.success:
            raise RuntimeError(f"solve_bvp at {draw:.3f} m: {found.message}")
        last = (mesh, found.sol(mesh), found.p)
        pull = sum(loads(found.p, k, draw)[0] * np.array([side[k], 1.0]) for k in (0, 1))
        weights.append(float(np.hypot(*pull)))
    return np.array(weights)


def batch() -> None:
    """500 variants of the thickness at once and one by one."""
    which = bow(stations(limb()))
    factor = np.exp(np.random.default_rng(1).normal(0, 0.05, (DESIGNS, 1)))
    thickness = (which.upper.thickness * factor, which.lower.thickness * factor)

    def solve(part: slice) -> np.ndarray:
        limbs = grid(which, 64, (thickness[0][part], thickness[1][part]))
        count = limbs.batch
        braced = statics.brace(limbs, which.hold, np.full(count, 0.15))
        return statics.draw(limbs, which.hold, braced, np.full(count, 0.66)).weight

    few = 25
    together, alone = seconds(
        lambda: solve(slice(None)), lambda: [solve(slice(k, k + 1)) for k in range(few)], rounds=3
    )
    alone *= DESIGNS / few
    assert np.allclose(solve(slice(7, 8)), solve(slice(None))[7], rtol=1e-8)
    tracemalloc.start()
    solve(slice(None))
    peak = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    print(
        f"{DESIGNS} designs at once: {alone / together:6.1f} times faster per design than one by"
        f" one; {peak:.0f} MB at most"
    )


def heavier() -> None:
    """What else is asked of the core, in curves of 26 points; and in milliseconds here."""
    kinds = asked((10, 14, 18, 22), tips=True) + edges(18)
    seen, (found, limbs) = reads(1.1, 1.05, kinds), bench_bow()
    flatbow = Layout(67 * INCH)
    tied_layout = LAYOUTS["bamboo with a back-bow"](27 * INCH)
    wanted = Wanted(42 * POUND_FORCE, 27 * INCH)
    elm, bamboo = (at_moisture(material(name), 0.09) for name in ("wych elm", "bamboo slat"))
    acts: dict[str, Callable[[], object]] = {
        "a loosed arrow": lambda: loose(found.bow, 27 * INCH, 0.03),
        "a tiller fit of 22 readings": lambda: estimate(limbs, found.bow, seen),
        "a design": lambda: solve_design(flatbow, wanted, elm, INCH_ROUNDING),
        "a design with a back-bow": lambda: solve_design(
            tied_layout, replace(wanted, weight=32 * POUND_FORCE), bamboo, INCH_ROUNDING
        ),
    }
    which = bow(stations(limb()))
    curve, *others = seconds(lambda: force_curve.solve(which, DRAWS), *acts.values())
    for name, took in zip(acts, others, strict=True):
        print(f"{name}: {took / curve:6.1f} curves, {took * 1e3:.0f} ms here")


def main() -> None:
    """Measure and print the ratios."""
    which = bow(stations(limb()))
    braced = statics.brace_bow(grid(which), which)
    parts = (float(braced.upper_part[0]), float(braced.string_length[0] - braced.upper_part[0]))
    weights = force_curve.solve(which, DRAWS).drawn.weight

    def ours() -> object:
        return [force_curve.solve(which, DRAWS) for _ in range(4)]

    try:
        from benchmarks.finite_elements import draw_by_elements
    except ImportError:
        print("finite elements: the engine is not installed, not measured")
    else:

        def elements() -> np.ndarray:
            return np.array(draw_by_elements(which, parts, tuple(DRAWS[::-1]), 64, 1))[::-1]

        mine, theirs = seconds(ours, elements)
        apart = np.abs(elements()[5:] / weights[5:] - 1).max()
        print(f"a curve of {DRAWS.size} points: {mine / 4 * 1e3:.1f} ms here")
        print(
            f"finite elements, 64 a limb: {4 * theirs / mine:6.1f} times as long, weights within"
            f" {apart * 100:.3f} %"
        )
    mine, theirs = seconds(ours, lambda: by_boundary_values(bow(), parts), rounds=3)
    apart = np.abs(by_boundary_values(bow(), parts)[5:] / weights[5:] - 1).max()
    print(f"solve_bvp: {4 * theirs / mine:6.1f} times as long, weights within {apart * 100:.3f} %")
    heavier()
    batch()


if __name__ == "__main__":
    main()
