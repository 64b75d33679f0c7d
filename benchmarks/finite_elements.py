"""Independent check: whole bows by corotational finite elements with a stiff string.

Run by hand, with the engine (openseespy, which wants Debian's libblas3 and liblapack3) installed
beside the core's own needs:

    python benchmarks/finite_elements.py          prints both answers and their difference
    python benchmarks/finite_elements.py --store  also writes tests/core/finite_elements.json

Each limb is a chain of straight corotational beams laid in its unstrung shape; stiff beams join
both roots to a node at the pivot, which is pinned (hand) or clamped. Each half of the string is one
stiff corotational truss. The halves start slack, each with its own end pointing at the place of
full draw; both ends are led there and joined, and then let down along the line of draw, so that
every bow is followed from full draw towards brace. Of the core, only the description of the bow and
the two lengths of string enter; weights are the reactions at the string's ends.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
import openseespy.opensees as fe

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from bowyery.bow.bow import Bow, Limb  # noqa: E402
from bowyery.bow.limb_grid import grid  # noqa: E402
from bowyery.mechanics import curve as force_curve  # noqa: E402
from bowyery.mechanics import statics  # noqa: E402
from tests.core.bows import checked_by_elements  # noqa: E402

ELEMENTS, LEAD, MOST_LEAD, BETWEEN = 128, 60, 3000, 20
STIFF = 1e8  # N: limbs along their length, string, handle (and N·m² for its bending)
DRAWS = (0.66, 0.54, 0.42, 0.30, 0.24)


def second_moment(limb: Limb, at: np.ndarray) -> np.ndarray:
    """Rectangular limbs only: the sections have tests of their own."""
    return np.interp(at, limb.at, limb.width) * np.interp(at, limb.at, limb.thickness) ** 3 / 12


def unstrung(limb: Limb, side: int, elements: int) -> np.ndarray:
    """Nodes of the unstrung limb in the bow's frame, by fine integration of its curvature,
    ``(elements + 1, 2)``.
    """
    s = np.linspace(0, limb.length, elements * 50 + 1)
    curvature = np.interp(s, limb.unstrung_at, limb.unstrung)
    step = s[1]
    theta = limb.root[2] + np.concatenate(
        [[0], np.cumsum(0.5 * (curvature[1:] + curvature[:-1]) * step)]
    )
    middle = 0.5 * (theta[1:] + theta[:-1])
    u = limb.root[0] + np.concatenate([[0], np.cumsum(np.cos(middle) * step)])
    y = limb.root[1] + np.concatenate([[0], np.cumsum(np.sin(middle) * step)])
    return np.stack([u[::50] * (1 if side == 0 else -1), y[::50]], 1)


def nock_offsets(bow: Bow) -> list[float]:
    """How far to the belly of the middle of the depth the string leaves each nock (m)."""
    share = 0.5 if bow.string.nock_depth is None else bow.string.nock_depth
    return [(share - 0.5) * float(limb.thickness[-1]) for limb in (bow.upper, bow.lower)]


def draw_by_elements(
    bow: Bow,
    parts: tuple[float, float],
    draws: tuple[float, ...],
    elements: int = ELEMENTS,
    between: int = BETWEEN,
    lead: int = LEAD,
) -> list[float]:
    """Draw weights at falling draws |N − P| (N), the string's two parts given (m)."""
    fe.wipe()
    fe.model("basic", "-ndm", 2, "-ndf", 3)
    fe.geomTransf("Corotational", 1)
    fe.uniaxialMaterial("Elastic", 1, STIFF)
    pivot = np.array(bow.hold.pivot)
    goal = pivot + np.array([0.0, draws[0]])
    fe.node(0, *map(float, pivot))
    fe.fix(0, 1, 1, 1 if bow.hold.support == "clamp" else 0)
    count, paths = 1, []
    for side, limb in enumerate((bow.upper, bow.lower)):
        points, first = unstrung(limb, side, elements), count
        for x, y in points:
            fe.node(count, float(x), float(y))
            count += 1
        fe.element("elasticBeamColumn", count, 0, first, 1.0, STIFF, 1.0, 1)
        modulus = limb.layers[0].modulus
        middle = (np.arange(elements) + 0.5) * limb.length / elements
        for i, inertia in enumerate(second_moment(limb, middle)):
            fe.element(
                "elasticBeamColumn",
                first + i,
                first + i,
                first + i + 1,
                STIFF / modulus,
                modulus,
                float(inertia),
                1,
            )
        tip = points[-1]
        # from the neutral axis to where the string leaves the nock: a stiff arm square to the limb
        aside = float(nock_offsets(bow)[side])
        if aside:
            along = points[-1] - points[-2]
            turned = np.array([-along[1], along[0]]) * (1 if side == 0 else -1)
            tip = tip + aside * turned / np.hypot(*turned)
            fe.node(count, *map(float, tip))
            arm = 10**6 + count
            fe.element("elasticBeamColumn", arm, first + elements, count, 1.0, STIFF, 1.0, 1)
            last, count = count, count + 1
        else:
            last = first + elements
        end = tip + parts[side] * (goal - tip) / np.hypot(*(goal - tip))
        fe.node(count, *map(float, end))
        fe.fix(count, 0, 0, 1)
        fe.element("corotTruss", count + 1, last, count, 1.0, 1)
        paths.append((count, goal - end))
        count += 2
    times = [0.0, *np.arange(1.0, len(draws) + 1)]
    for number, (node, way) in enumerate(paths):
        for axis in (0, 1):
            places = [0.0, *(way[axis] + axis * (np.array(draws) - draws[0]))]
            tag = 1 + 2 * number + axis
            fe.timeSeries("Path", tag, "-time", *map(float, times), "-values", *map(float, places))
            fe.pattern("Plain", tag, tag)
            fe.sp(node, axis + 1, 1.0)
    fe.constraints("Transformation")
    fe.numberer("RCM")
    fe.system("UmfPack")
    fe.test("NormDispIncr", 1e-9, 100)
    fe.algorithm("Newton")
    fe.integrator("LoadControl", 1.0 / lead)
    fe.analysis("Static")
    weights = []
    for number in range(len(draws)):
        steps = lead if number == 0 else between
        fe.integrator("LoadControl", 1.0 / steps)
        if fe.analyze(steps) != 0:
            if lead < MOST_LEAD:  # a bow that has to tilt wants smaller steps
                return draw_by_elements(bow, parts, draws, elements, between * 4, lead * 8)
            raise RuntimeError(f"the elements did not converge on the way to {draws[number]} m")
        fe.reactions()
        weights.append(sum(fe.nodeReaction(node, 2) for node, _ in paths))
    return weights


def main() -> None:
    """Compare every bow at five draws."""
    stored = []
    for name, bow in checked_by_elements().items():
        braced = statics.brace_bow(grid(bow), bow)
        parts = (float(braced.upper_part[0]), float(braced.string_length[0] - braced.upper_part[0]))
        # of a recurve only the draws at which its string has lifted off the limbs
        free = force_curve.solve(bow, np.array(DRAWS)).drawn.on_limb.max(0) == 0
        draws = tuple(d for d, lifted in zip(DRAWS, free, strict=True) if lifted)
        theirs = draw_by_elements(bow, parts, draws)
        ours = force_curve.solve(bow, np.array(draws)).drawn.weight
        stored.append({"name": name, "draws_m": list(draws), "weights_n": theirs})
        print(
            f"{name:24}"
            + "".join(
                f"{a:9.3f}{b:9.3f}{(a / b - 1) * 100:8.3f} %"
                for a, b in zip(ours, theirs, strict=True)
            )
        )
    if "--store" in sys.argv:
        (ROOT / "tests" / "core" / "finite_elements.json").write_text(
            json.dumps(stored, indent=1) + "\n"
        )


if __name__ == "__main__":
    main()
