"""The march against the elastica's closed form and against an independent boundary-value solver."""

import numpy as np
import pytest
from scipy.integrate import solve_bvp
from scipy.optimize import brentq
from scipy.special import ellipe, ellipeinc, ellipk, ellipkinc

from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.mechanics.elastica import march, shapes
from bowyery.mechanics.statics import brace_bow
from tests.core.bows import bow, limb


def uniform(cells: int, stiffness: float = 50.0, length: float = 0.8) -> LimbGrid:
    """Two equal uniform limbs rooted at the origin, along u."""
    one = np.ones((2, 1, cells))
    nodes = np.ones((2, 1, cells + 1))
    return LimbGrid(
        np.full((2, 1), length), stiffness * one, 0 * one, np.zeros((2, 1, 3)), stiffness * nodes,
        0.005 * nodes, 0.01 * nodes, 0.03 * nodes, 0.2 * nodes, np.zeros((2, 1)),
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
    return tension / unit, float(-end.place[0, 0].real) / 0.8, float(end.place[0, 0].imag) / 0.8


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


def test_carried_derivatives_are_the_slopes() -> None:
    limbs = grid(bow(limb(curvature=-0.2)), 40)
    tension, p = np.full((2, 1), 300.0), np.full((2, 1), 0.6)
    here = march(limbs, tension, p)
    for index, (dt, dp) in enumerate(((0.01, 0.0), (0.0, 1e-6))):
        more, less = march(limbs, tension + dt, p + dp), march(limbs, tension - dt, p - dp)
        for name in ("place", "angle"):
            slope = (getattr(more, name) - getattr(less, name)) / (2 * (dt + dp))
            assert getattr(here, f"d_{name}")[index] == pytest.approx(slope, rel=1e-5)


def test_derivatives_hold_where_the_string_lies_on_the_limb() -> None:
    limbs = grid(bow(limb(curvature=-1.0)), 40)
    tension, p = np.full((2, 1), 300.0), np.full((2, 1), -0.1234)
    here, step = march(limbs, tension, p), 1e-7
    more, less = march(limbs, tension, p + step), march(limbs, tension, p - step)
    for name in ("place", "angle"):
        slope = (getattr(more, name) - getattr(less, name)) / (2 * step)
        assert getattr(here, f"d_{name}")[1] == pytest.approx(slope, rel=1e-4)


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
