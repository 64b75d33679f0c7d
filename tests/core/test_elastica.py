"""The march against the elastica's closed form and against an independent boundary-value solver."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_bvp
from scipy.optimize import brentq
from scipy.special import ellipe, ellipeinc, ellipk, ellipkinc

from bowyery.bow.bow import StringLine
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.bow.section import Shape
from bowyery.mechanics import kernel, rest, stride, warm
from bowyery.mechanics.elastica import march, shapes
from bowyery.mechanics.statics import brace_bow
from tests.core.bows import bow, limb


def uniform(cells: int, stiffness: float = 50.0, length: float = 0.8) -> LimbGrid:
    """Two equal uniform limbs rooted at the origin, along u."""
    one = np.ones((2, 1, cells))
    nodes = np.ones((2, 1, cells + 1))
    none = np.zeros((2, 1))
    return LimbGrid(
        length + none, length / cells * one, stiffness * one, 0 * one, np.zeros((2, 1, 3)),
        stiffness * nodes, 0.005 * nodes, 0.01 * nodes, 0.03 * nodes, 0.2 * nodes, 0 * nodes, none,
    )  # fmt: skip


def cantilever(tip_angle: float) -> tuple[float, float, float]:
    """Bisshopp and Drucker (1945): load factor PL²/EI, deflection and reach over length for a tip
    angle.
    """
    k2 = (1 + np.sin(tip_angle)) / 2
    start = np.arcsin(1 / np.sqrt(2 * k2))
    alpha = ellipk(k2) - ellipkinc(start, k2)
    deflection = 1 - 2 * (ellipe(k2) - ellipeinc(start, k2)) / alpha
    return alpha**2, deflection, np.sqrt(2 * np.sin(tip_angle)) / alpha


def marched(tip_angle: float, cells: int) -> tuple[float, float, float]:
    """The same from the march: the string pulls square to the unbent limb."""
    limbs = uniform(cells)
    p = np.full((2, 1), tip_angle + np.pi / 2)

    def miss(tension: float) -> float:
        return float(march(limbs, np.full((2, 1), tension), p).angle[0, 0]) - np.pi / 2

    unit = 50.0 / 0.8**2
    tension = brentq(miss, 1e-3 * unit, 20 * unit, xtol=1e-12)
    end = march(limbs, np.full((2, 1), tension), p)
    return tension / unit, float(-end.inward[0, 0]) / 0.8, float(end.offset[0, 0]) / 0.8


@pytest.mark.parametrize("degrees", [5, 20, 40, 60])
def test_cantilever_elastica(degrees: float) -> None:
    exact, found = cantilever(np.radians(degrees)), marched(np.radians(degrees), 64)
    for a, b in zip(found, exact, strict=True):
        assert a == pytest.approx(b, rel=1e-4)


def test_order_of_convergence_is_two() -> None:
    exact = cantilever(np.radians(50))[0]
    errors = [abs(marched(np.radians(50), n)[0] - exact) for n in (16, 32, 64, 128)]
    orders = np.log2(np.array(errors[:-1]) / np.array(errors[1:]))
    assert np.all(np.abs(orders - 2) < 0.1), orders


RECURVE = replace(
    limb((0.040, 0.040, 0.016), (0.0165, 0.014, 0.011)),
    unstrung_at=np.array([0.0, 0.6, 0.6001, 0.78]),
    unstrung=np.array([0.1, 0.1, -5.0, -6.0]),
    shape=Shape("flat back, round belly"),
)


@pytest.mark.parametrize("p", [1.2, 0.6, 0.02, 0.0, -0.003, -0.0123, -0.0317, -0.1234, -0.3])
@pytest.mark.parametrize("nock_depth", [None, 0.0, 0.3, 1.0])
def test_the_compiled_march_is_the_one_that_can_be_read(p: float, nock_depth: float | None) -> None:
    """To ten figures, on a recurve, free and with the string on the limb; and the derivatives that
    it carries are the slopes of what it gives.
    """
    which = bow(RECURVE, limb(curvature=-1.0))
    limbs = grid(replace(which, string=StringLine(nock_depth=nock_depth)), 40)
    tension = np.array([[300.0], [170.0]])

    def compiled(t: np.ndarray, angle: float) -> np.ndarray:
        out = np.empty((2, 12))
        for side in (0, 1):
            kernel.limb_end(limbs.march_values, side, 0, t[side, 0], angle, out[side])
        return out

    found, plain = compiled(tension, p), march(limbs, tension, np.full((2, 1), p))
    for column, values in ((0, plain.inward), (1, plain.offset), (2, plain.angle)):
        assert found[:, column] == pytest.approx(values[:, 0], rel=1e-10, abs=1e-12)
    assert found[:, 9] == pytest.approx(plain.on_limb[:, 0], rel=1e-10, abs=1e-12)
    for first, last, steps in ((3, 10, (0.01, 0.0)), (6, 11, (0.0, 1e-7))):
        more = compiled(tension + steps[0], p + steps[1])
        less = compiled(tension - steps[0], p - steps[1])
        slope = (more - less) / (2 * sum(steps))
        if p == 0.0 and steps[1]:  # between the two
            continue
        assert found[:, first : first + 3] == pytest.approx(slope[:, :3], rel=1e-4, abs=1e-8)
        assert found[:, last] == pytest.approx(slope[:, 9], rel=1e-4, abs=1e-8)


def test_a_braced_limb_agrees_with_a_boundary_value_solver() -> None:
    """The same equations, put to SciPy's solve_bvp with the tapered stiffness as a function of
    place.
    """
    shape = limb()
    whole = bow(shape)
    limbs = grid(whole, 128)
    braced = brace_bow(limbs, whole)
    tension, half = float(braced.tension[0]), float(braced.string_length[0]) / 2

    def stiffness(s: np.ndarray) -> np.ndarray:
        w, t = np.interp(s, shape.at, shape.width), np.interp(s, shape.at, shape.thickness)
        return 11e9 * w * t**3 / 12

    def equations(s: np.ndarray, y: np.ndarray) -> np.ndarray:
        theta, _u, v, pull = y  # a braced string lies along u at the height of the nock
        return np.stack(
            [pull * (0.15 - v) / stiffness(s), np.cos(theta), np.sin(theta), np.zeros_like(pull)]
        )

    def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.array([a[0], a[1] - 0.06, a[2], b[2] - 0.15])

    s = np.linspace(0, shape.length, 81)
    start = np.stack([0.4 * s, 0.06 + s, 0.15 * (s / s[-1]) ** 2, np.full_like(s, 0.8 * tension)])
    found = solve_bvp(equations, ends, s, start, tol=1e-7, max_nodes=20000)
    assert found.success
    assert tension == pytest.approx(found.y[3, -1], rel=1e-3)
    assert half == pytest.approx(found.y[1, -1], rel=1e-5)


def test_the_unloaded_limb_keeps_its_unstrung_shape() -> None:
    limbs = grid(bow(limb(curvature=-0.5)))
    still = np.zeros((2, 1))
    rest = shapes(limbs, still, still)
    radius = 1 / 0.5
    assert rest.tip[1, 0, 0] == pytest.approx(-radius * (1 - np.cos(0.78 / radius)), rel=1e-4)
    assert np.all(rest.moment == 0)


def test_nothing_is_left_to_compile_once_the_application_is_installed() -> None:
    """Seen: the first back-bow of a fresh machine waited a quarter of a minute."""
    warm.main()
    called = [
        one
        for module in (kernel, rest, stride)
        for name, one in vars(module).items()
        if hasattr(one, "signatures") and name[0] != "_" and one is not kernel.limb_end
    ]
    assert len(called) >= 6 and all(one.signatures for one in called)
