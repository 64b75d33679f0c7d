"""Independent check: the same bows by corotational finite elements with a stiff string element.

Run by hand, with the engine installed beside the core's own needs (it wants Debian's libblas3 and liblapack3):

    python benchmarks/finite_elements.py          prints both answers and their difference
    python benchmarks/finite_elements.py --store  also writes tests/core/finite_elements.json

Each limb is a chain of straight corotational beams laid in its unstrung shape and clamped at its root; the string
is a link of fixed length from each nock to the nocking point, so that a limb is loaded by a dead force along it.
The four components of both forces are sought by SciPy until both links meet at the asked distance from the pivot
and the resultant passes through the pivot (hand) or the nocking point stands square to it (clamp). Of the core,
only the description of the bow, the two lengths of string and a first guess of the forces enter.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
import openseespy.opensees as fe
from scipy.optimize import root

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from bowyery import statics  # noqa: E402
from bowyery.bow import Bow, Limb, grid  # noqa: E402
from tests.core.bows import checked_by_elements  # noqa: E402

ELEMENTS, STEPS = 128, 16
STIFF = 1e8  # N, of the limbs along their length


def second_moment(limb: Limb, at: np.ndarray) -> np.ndarray:
    """Rectangular limbs only: the sections have tests of their own."""
    return np.interp(at, limb.at, limb.width) * np.interp(at, limb.at, limb.thickness) ** 3 / 12


def unstrung(limb: Limb, side: int) -> np.ndarray:
    """Nodes of the unstrung limb in the bow's frame, by fine integration of its curvature, ``(elements + 1, 2)``."""
    s = np.linspace(0, limb.length, ELEMENTS * 50 + 1)
    curvature = np.interp(s, limb.unstrung_at, limb.unstrung)
    step = s[1]
    theta = limb.root[2] + np.concatenate([[0], np.cumsum(0.5 * (curvature[1:] + curvature[:-1]) * step)])
    middle = 0.5 * (theta[1:] + theta[:-1])
    u = limb.root[0] + np.concatenate([[0], np.cumsum(np.cos(middle) * step)])
    y = limb.root[1] + np.concatenate([[0], np.cumsum(np.sin(middle) * step)])
    return np.stack([u[::50] * (1 if side == 0 else -1), y[::50]], 1)


def tip_under(limb: Limb, side: int, force: np.ndarray) -> np.ndarray:
    """Place of the nock under a dead force there (m), in the bow's frame."""
    fe.wipe()
    fe.model("basic", "-ndm", 2, "-ndf", 3)
    fe.geomTransf("Corotational", 1)
    points = unstrung(limb, side)
    for i, (x, y) in enumerate(points):
        fe.node(i, float(x), float(y))
    fe.fix(0, 1, 1, 1)
    middle = (np.arange(ELEMENTS) + 0.5) * limb.length / ELEMENTS
    modulus = limb.layers[0].modulus
    for i, inertia in enumerate(second_moment(limb, middle)):
        fe.element("elasticBeamColumn", i, i, i + 1, STIFF / modulus, modulus, float(inertia), 1)
    fe.timeSeries("Linear", 1)
    fe.pattern("Plain", 1, 1)
    fe.load(ELEMENTS, float(force[0]), float(force[1]), 0.0)
    fe.constraints("Plain")
    fe.numberer("RCM")
    fe.system("BandGeneral")
    fe.test("NormDispIncr", 1e-9, 60)
    fe.algorithm("Newton")
    fe.integrator("LoadControl", 1.0 / STEPS)
    fe.analysis("Static")
    if fe.analyze(STEPS) != 0:
        raise RuntimeError("the elements did not converge")
    return points[-1] + np.array([fe.nodeDisp(ELEMENTS, 1), fe.nodeDisp(ELEMENTS, 2)])


def weight(bow: Bow, parts: tuple[float, float], draw: float, guess: np.ndarray) -> float:
    """Draw weight at |N − P| = draw (N)."""
    pivot, unit = np.array(bow.hold.pivot), float(np.abs(guess).max())

    def ends(x: np.ndarray) -> tuple[list[np.ndarray], np.ndarray]:
        forces = [x[:2] * unit, x[2:] * unit]
        nocks = [
            tip_under(limb, side, f) + part * f / np.hypot(*f)
            for side, (limb, f, part) in enumerate(zip((bow.upper, bow.lower), forces, parts, strict=True))
        ]
        return nocks, forces[0] + forces[1]

    def miss(x: np.ndarray) -> list[float]:
        nocks, force = ends(x)
        arm = nocks[0] - pivot
        aside = arm[0] if bow.hold.support == "clamp" else (arm[0] * force[1] - arm[1] * force[0]) / unit
        return [*(nocks[0] - nocks[1]), float(np.hypot(*arm)) - draw, float(aside)]

    found = root(miss, guess / unit, tol=1e-9, options={"eps": 1e-6})
    if np.abs(found.fun).max() > 1e-7:
        raise RuntimeError(found.message)
    nocks, force = ends(found.x)
    arm = nocks[0] - pivot
    return float(force @ arm / np.hypot(*arm))


def main() -> None:
    """Compare every bow at three draws."""
    stored = []
    for name, bow in checked_by_elements().items():
        braced = statics.brace_bow(grid(bow), bow)
        parts = (float(braced.upper_part[0]), float(braced.string_length[0] - braced.upper_part[0]))
        # early in the draw of a reflexed limb the dead load, growing from nothing, buckles it the other way
        draws = [0.60, 0.63, 0.66] if "reflexed" in name else [0.30, 0.48, 0.66]
        curve = statics.solve(bow, np.array(draws))
        ours, drawn, tip = curve.drawn.weight, curve.drawn, curve.shapes.tip
        theirs = []
        for k, draw in enumerate(draws):
            way = drawn.nock[:, None, k] - tip[:, :, k]
            guess = (drawn.tension[:, k] * way / np.hypot(*way)).T.ravel() * 1.02
            theirs.append(weight(bow, parts, draw, guess))
        stored.append({"name": name, "draws_m": draws, "weights_n": theirs})
        print(f"{name:24}" + "".join(f"{a:9.3f}{b:9.3f}{(a / b - 1) * 100:8.3f} %" for a, b in zip(ours, theirs, strict=True)))
    if "--store" in sys.argv:
        (ROOT / "tests" / "core" / "finite_elements.json").write_text(json.dumps(stored, indent=1) + "\n")


if __name__ == "__main__":
    main()
