"""The loosed arrow: limbs as chains of masses, string as an elastic line with its mass, arrow as a
point.

Each limb is the very chain of bars and springs that the statics solves (elastica.py), with its mass
at the nodes. The handle is held still. Each half of the string is a straight, elastic line with its
mass spread along it (linear finite element, consistent mass: Bathe, Finite Element Procedures,
1996, chapter 9). Time goes by the implicit midpoint rule with discrete gradients (Simo and Tarnow,
The discrete energy-momentum method, ZAMP 43, 1992; Gonzalez, Time integration and discrete
Hamiltonian systems, J. Nonlinear Science 6, 1996), so that without damping energy is kept to the
solver's tolerance whatever the step. Damping is internal: each spring resists the rate of its
bending.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bowyery.arrays import Floats, Points
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError, NotConvergedError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.back_bow import Tie
from bowyery.mechanics.chain import Chains, chains
from bowyery.mechanics.stride import Cables, Limbs, Line, stride
from bowyery.units.quantity import GRAIN, POUND_FORCE

# Wood's logarithmic decrement is some 0.02 to 0.1 (Wood Handbook 2021, chapter 5), so that its loss
# tangent is about 0.01; a limb opens within about 15 ms, a quarter of a swing. Loss tangent over
# angular frequency gives this time.
DAMPING = 1e-4
MASSES, MOST_MASSES = 16, 48
_CELL_TURN = 0.3  # rad
USUAL_ARROW = (
    10 * GRAIN / POUND_FORCE
)  # ten grains for each pound of weight, a middling hunting arrow (kg/N)
_LOST = "The loose could not be followed: the string or the arrow is too light for these limbs."
_TOO_LIGHT = (
    "The limbs are too heavy to follow so light an arrow: the string goes slack on the way, and no"
    " speed can be foretold. Try a heavier arrow."
)
# Share of its way on which the string may hang slack: from about here on a speed hangs on when the
# limbs happen to catch the arrow up, and need not fall with its mass.
_LIMP = 0.4
# How long the string is watched after the arrow has left, as a share of the time until then.
_AFTER = 0.3
# Nor has the arrow left while the string is bent at the nock by more than this, as a share of the
# line between its ends: limbs that are slow to move let it go slack and catch it up again.
_STRAIGHT = 0.02
_BALANCE = 1e-3  # energy that may be lost or gained on the way, as a share, or steps are halved
_FINER = 3  # so many times at most


@dataclass(frozen=True)
class Loosed:
    """An arrow loosed from full draw.

    Attributes:
        speed: of the arrow as it leaves the string (m/s).
        arrow: its mass (kg).
        stored: energy the bow gave back from full draw to brace, by the static curve (J).
        efficiency: arrow's energy over the stored energy.
        virtual_mass: mass that, moving with the arrow, would take up what the arrow does not get
            (kg).
        peak_tension: greatest string tension, as the string stops the limbs (N).
        time: until the arrow leaves (s).
        balance: energy at the end over energy at the start, less one; what damping took is counted
            in.
        slack: share of that time in which the string hung slack: limbs too heavy for the arrow.
        times, travel, speeds: of the arrow on its way, ``(steps,)`` (s, m, m/s).
    """

    speed: float
    arrow: float
    stored: float
    efficiency: float
    virtual_mass: float
    peak_tension: float
    time: float
    balance: float
    slack: float
    times: Floats
    travel: Floats
    speeds: Floats


@dataclass
class _State:
    angle: Floats  # of the bars, (2, n)
    rate: Points  # velocities of the nodes, (2, n)
    nock: complex
    speed: complex


class _Loose:
    """Steps through the loose; keeps what a step needs and nothing of the bow's own."""

    def __init__(
        self,
        chain: Chains,
        natural: Floats,
        pull: float,
        mass: Floats,
        damping: float,
        cables: list[Tie],
    ) -> None:
        self.chain, self.natural, self.mass, self.damping, self.cables = (
            chain,
            natural,
            mass,
            damping,
            cables,
        )
        self.stretch = pull / natural  # spring constant of each half
        self.count, self.n = chain.mass.shape
        self.touched = np.full(2, self.n - 1)
        # moment by tension at the joints that the string lies over, and the length it lies on
        self.levers, self.lying = np.zeros((2, self.n)), np.zeros(2)
        start = chain.start[:, 0]
        self.limbs = Limbs(
            np.column_stack([start.real, start.imag]),
            chain.side[:, 0],
            chain.lever,
            chain.mass,
            chain.spring,
            chain.rest,
            chain.aside,
            chain.root[:, 0],
            chain.inertia,
            chain.joints,
        )
        self.held = _held(cables, self.n)
        size = self.count * self.n + 2
        # of the slope, for as many steps as it serves
        self.fresh, self.inverse = True, np.zeros((size, size))

    def touching(self, angle: Floats, nock: complex) -> NDArray[np.int64]:
        """Where the string leaves each limb, ``(2,)``: the outer node that it would have to pass
        through otherwise. As in the statics it lifts off along the limb.
        """
        first, last = self.n // 3, self.n - 1
        aside = self.chain.aside[:2, -1:]
        nodes = self.chain.nodes(angle)[:2] + aside * self.chain.swings(angle)[:2]
        seen = (nodes[:, first:] - nock) * np.conj(nodes[:, -1:] - nock)
        if (seen.imag * self.chain.side[:2]).max() <= 1e-9:
            return np.full(2, last)
        turn = np.angle(seen) * self.chain.side[:2]
        return np.asarray(np.where(turn.max(1) > 1e-9, first + turn.argmax(1), last))

    def lift_off(self, angle: Floats, nock: complex) -> None:
        """Move on to where the string leaves the limbs now.

        From node to node it cuts corners by a hair; the string's natural length takes that up, so
        that no energy comes or goes with it.
        """
        touched = self.touching(angle, nock)
        if (touched != self.touched).any():
            before = self.reach(angle, nock)[1]
            self.touched = touched
            beyond = np.arange(self.n) > touched[:, None]
            aside = self.chain.aside[:2]
            between = 0.5 * (aside + np.roll(aside, 1, axis=1))
            self.levers = np.where(beyond, between, 0.0)
            self.lying = (self.chain.cell[:2] * beyond).sum(1)
            self.natural = self.natural + self.reach(angle, nock)[1] - before

    def reach(self, angle: Floats, nock: complex) -> tuple[Points, Floats]:
        """Straight part of each half of the string as a vector from the limb, and the string's
        whole length. Where it lies on the limb, at a distance g from the axis, a turn shortens it
        by g times as much.
        """
        both = np.arange(2), self.touched
        straight = nock - self.chain.belly(angle)[both]
        if not self.lying.any():
            return straight, np.abs(straight)
        turned = self.chain.turns(angle[:2], self.chain.root[:2])
        return straight, np.abs(straight) + self.lying - (self.levers * turned).sum(1)

    def short_of_straight(self, state: _State, toward: complex) -> float:
        """How far the nock is from the line between the string's ends, as a share of that line;
        below zero once it has passed it.
        """
        ends = self.chain.belly(state.angle)[np.arange(2), self.touched]
        line = ends[0] - ends[1]
        across = toward - line * (toward * np.conj(line)).real / abs(line) ** 2
        return float(((ends[0] - state.nock) * np.conj(across)).real / abs(across) / abs(line))

    def tension(self, length: Floats) -> Floats:
        """Of each half (N); a slack string pulls nothing."""
        return np.asarray(self.stretch * np.maximum(0.0, length - self.natural))

    def energy(self, state: _State, arrow: float) -> float:
        """Kinetic and stored (J)."""
        v, tips = state.rate, state.rate[:2, -1]
        kinetic = (
            0.5 * (self.chain.mass * np.abs(v) ** 2).sum() + 0.5 * arrow * abs(state.speed) ** 2
        )
        line = (
            self.mass
            * (np.abs(tips) ** 2 + abs(state.speed) ** 2 + (tips * np.conj(state.speed)).real)
            / 6
        )
        taut = self.tension(self.reach(state.angle, state.nock)[1])
        cables = sum(
            0.5 * tie.tension(abs(tie.span(self.chain, state.angle))) ** 2 / tie.stiffness
            for tie in self.cables
        )
        return float(
            kinetic
            + line.sum()
            + self.chain.stored(state.angle)
            + (0.5 * taut**2 / self.stretch).sum()
            + cables
        )

    def step(
        self, now: _State, dt: float, arrow: float, fling: tuple[Floats, complex]
    ) -> tuple[_State, float, Floats]:
        """One step; returns the new state, the energy damping took, and the tension at its end."""
        chain = self.chain
        self.lift_off(now.angle, now.nock)
        angle = now.angle + fling[0]
        end = now.nock + fling[1]
        nock = np.array([end.real, end.imag])
        rate = np.append(now.rate.ravel(), now.speed)
        rounds = stride(
            self.limbs,
            Line(self.touched, self.natural, self.stretch, self.mass, self.lying, self.levers),
            self.held,
            now.angle,
            np.column_stack([rate.real, rate.imag]),
            np.array([now.nock.real, now.nock.imag]),
            dt,
            arrow,
            self.damping / dt,
            self.fresh,
            self.inverse,
            angle,
            nock,
        )
        if rounds < 0:
            raise NotConvergedError(_LOST)
        self.fresh = rounds > 4  # the slope has served its time
        change = chain.turns(angle - now.angle, 0.0)
        lost = float((chain.spring * self.damping * change**2).sum() / dt)
        there = complex(nock[0], nock[1])
        state = _State(
            angle,
            2 * (chain.nodes(angle) - chain.nodes(now.angle)) / dt - now.rate,
            there,
            2 * (there - now.nock) / dt - now.speed,
        )
        return state, lost, self.tension(self.reach(angle, there)[1])


def loose(
    bow: Bow,
    draw: float,
    arrow: float,
    masses: int | None = None,
    damping: float = DAMPING,
    steps: int = 100,
    watch: bool = True,
    loss: float = 0.0,
    held: float | None = None,
) -> Loosed:
    """Draw a bow, loose an arrow, and follow both until the arrow has left and the string has
    stopped the limbs.

    Args:
        bow: with its string's mass and stretch.
        draw: from nocking point to pivot (m).
        arrow: its mass (kg).
        masses: a limb; None: as many as its profile wants.
        damping: of the limbs, as a time: moment per bending is ``EI·(κ + damping·dκ/dt)`` (s).
        steps: of time, roughly, until the arrow leaves.
        watch: follow the string until it has stopped the limbs; without, its greatest tension is
            that until the arrow leaves.
        loss: share of the energy that the limbs keep, whatever their speed: all their springs give
            back so much less than they took.
        held: mass that recoils as the arrow goes (kg), or None for a handle held still.

    Raises:
        DescriptionError: the arrow's or string's mass or stretch is not above zero.
        BowyeryError: what the statics raise.
    """
    for what, value in (
        ("arrow", arrow),
        ("string", bow.string.mass),
        ("string", bow.string.stretch_stiffness),
    ):
        if not (np.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", what)
    if not (np.isfinite(damping) and damping >= 0):
        raise DescriptionError("Damping must be zero or more.", "damping")
    masses = masses or masses_for(bow)
    if bow.back_bow is not None:
        shared = backbow.solve(bow, np.array([draw]), masses)
        chain, cables = shared.chains, list(shared.cables)
        half, pulls = shared.halves, shared.tension[:, 0]
        angle, nock = shared.angles[0], complex(shared.nock[0])
        stored, way = float(shared.energy[0]), draw - shared.least_draw
    else:
        limbs = grid(bow, masses)
        curve = force_curve.solve_grid(limbs, bow, np.array([draw]))
        drawn, braced = curve.drawn, curve.braced
        chain, cables = chains(limbs), list[Tie]()
        angle = chain.root + np.cumsum(
            chain.rest + curve.shapes.bend_at_joints[:, 0] * chain.cell, axis=1
        )
        nock = complex(*drawn.nock[:, 0])
        upper = float(
            braced.upper_part[0]
            if bow.hold.held_by == "fingers"
            else np.abs(nock - chain.belly(angle)[0, -1])
        )
        half = np.array([upper, float(braced.string_length[0]) - upper])
        pulls = drawn.tension[:, 0]
        stored, way = float(curve.energy[0]), draw - float(braced.least_draw[0])
    still = _State(angle, np.zeros(angle.shape, complex), nock, 0j)
    strings = _strings(bow, half, (1 - loss) * pulls)
    pivot, after = complex(*bow.hold.pivot), _AFTER if watch else 0.0
    for finer in range(_FINER + 1):
        run = _Loose(_weaker(chain, loss), *strings, damping, cables)
        try:
            found = _follow(run, still, pivot, stored, arrow, way, steps * 2**finer, after)
        except NotConvergedError:
            continue
        if found.slack > _LIMP:
            raise NotConvergedError(_TOO_LIGHT)
        if abs(found.balance) < _BALANCE:
            return found if held is None else _recoiled(found, loss, held)
    raise NotConvergedError(_LOST)


def masses_for(bow: Bow, least: int = MASSES) -> int:
    """How many masses a limb wants: so many that no cell of its unstrung shape turns far (rad)."""
    turns = [limb.length * float(np.abs(limb.unstrung).max()) for limb in bow.limbs]
    return int(np.clip(np.ceil(max(turns) / _CELL_TURN), least, MOST_MASSES))


def _weaker(chain: Chains, loss: float) -> Chains:
    return replace(chain, spring=(1 - loss) * chain.spring)


def _recoiled(shot: Loosed, loss: float, held: float) -> Loosed:
    """The same shot from a bow that is free to go back: its energy is shared as momentum asks, two
    masses springing apart.
    """
    moving = 2 * (1 - loss) * shot.stored / shot.speed**2
    share = float(np.sqrt(held / (held + moving)))
    speed = share * shot.speed
    return replace(
        shot,
        speed=speed,
        speeds=share * shot.speeds,
        efficiency=shot.efficiency * share**2,
        virtual_mass=2 * shot.stored / speed**2 - shot.arrow,
    )


def _strings(bow: Bow, half: Floats, tension: Floats) -> tuple[Floats, float, Floats]:
    """Natural lengths of both halves, EA, and their masses; at full draw they are as long as the
    statics has them.
    """
    pull = bow.string.stretch_stiffness
    return half / (1 + tension / pull), pull, bow.string.mass * half / half.sum()


def _held(cables: list[Tie], n: int) -> Cables:
    """Cables as the compiled step has them."""
    chain, lever = np.zeros((len(cables), 2), np.int64), np.zeros((len(cables), 2, n))
    for t, tie in enumerate(cables):
        for e, end in enumerate(tie.ends):
            if end is not None:
                chain[t, e], lever[t, e] = end.chain, end.lever
    stiffness = np.array([tie.stiffness for tie in cables], float)
    return Cables(chain, lever, stiffness, np.array([tie.natural or 0.0 for tie in cables], float))


def _follow(
    run: _Loose,
    state: _State,
    pivot: complex,
    stored: float,
    arrow: float,
    way: float,
    steps: int,
    after: float,
) -> Loosed:
    light = arrow + 0.1 * float(run.chain.mass.sum()) + run.mass.sum() / 3
    dt = 2.2 * way / np.sqrt(2 * stored / light) / steps
    run.lift_off(state.angle, state.nock)
    begin, start = run.energy(state, arrow), state.nock
    toward = (pivot - start) / abs(pivot - start)
    times, speeds, travel, lost, peak = [0.0], [0.0], [0.0], 0.0, 0.0
    carried = arrow
    left = np.inf
    at_rest = (np.zeros_like(state.angle), 0j)
    flown, slack, fling = 0.0, 0, at_rest
    before, spent, pushed = state, 0.0, 0.0
    while times[-1] < left * (1 + after):
        now, burnt = state, lost
        state, taken, tension = run.step(now, dt, carried, fling)
        fling = (state.angle - now.angle, state.nock - now.nock)
        lost, peak = lost + taken, max(peak, float(tension.max()))
        times.append(times[-1] + dt)
        push = ((state.speed - now.speed) * np.conj(toward)).real
        if carried and push <= 0 and run.short_of_straight(state, toward) < _STRAIGHT:
            # The string falls back behind the arrow as its push goes through zero, somewhere
            # between the middles of the last two steps: go back and stop there.
            if pushed > 0:
                part = 0.5 + pushed / (pushed - push)
                run.fresh = True
                state, taken, _ = run.step(before, part * dt, carried, at_rest)
                lost, times[-1] = spent + taken, times[-2] + (part - 1) * dt
                run.fresh, fling = True, at_rest
            left, carried, flown = times[-1], 0.0, abs(state.speed)
        elif carried:
            slack += not tension.any()
            speeds.append(abs(state.speed))
            travel.append(float(((state.nock - start) * np.conj(toward)).real))
        before, spent, pushed = now, burnt, push
        if len(times) > 20 * steps:
            raise NotConvergedError(
                "The arrow did not leave the string within the time expected; check arrow and"
                " string."
            )
    energy = 0.5 * arrow * flown**2
    balance = (run.energy(state, 0.0) + energy + lost) / begin - 1
    count = len(speeds)
    return Loosed(
        flown,
        arrow,
        stored,
        energy / stored,
        2 * stored / flown**2 - arrow,
        peak,
        left,
        balance,
        slack / count,
        np.array(times[:count]),
        np.array(travel),
        np.array(speeds),
    )
