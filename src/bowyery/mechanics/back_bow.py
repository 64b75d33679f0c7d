"""A second bow tied to the back of the first, its ends tied to the limbs by cables: how the two
share the bending.

All four limbs are chains (chain.py), string and cables are ties that only pull. For each state the
potential energy is made least by Newton's method with its exact second derivatives, following the
string as it is shortened and the draw as it grows (principle of stationary potential energy: Gere
and Goodno 2012, chapter 9; Bathe 1996, chapter 6). The string hardly stretches, as in the statics;
the cables stretch as they do.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from bowyery.arrays import Floats, Points
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.errors import (
    DescriptionError,
    DrawBeyondReachError,
    NotConvergedError,
    StringTooShortError,
)
from bowyery.mechanics.chain import Chains, End, chains, end_at
from bowyery.mechanics.curve import Curve, Peak
from bowyery.mechanics.elastica import Shapes
from bowyery.mechanics.rest import Bars, Nock, Ties, energy_of, settled
from bowyery.mechanics.statics import Braced, Drawn

CELLS = 32
INNER = 0.3  # of a limb: the part next to the grip, that a back-bow spares
_MAYBE_NONE = ("cable_tension_n", "cable_slack_mm")
# Stretch stiffness of the string in equilibrium (N): it moves weights by less than 0.1 %.
_STRING = 5e6
# Steps of the draw that keep the path (m).
_STRIDE, _LEAST_STRIDE = 0.08, 0.005


@dataclass(frozen=True)
class Tie:
    """A string or cable between two points; an end of None is the nocking point.

    Attributes:
        stiffness: pull by lengthening (N/m).
        natural: length at which it begins to pull (m); None: it pulls with ``pull`` whatever its
            length.
        pull: (N).
    """

    ends: tuple[End, End | None]
    stiffness: float
    natural: float | None
    pull: float = 0.0

    def tension(self, length: float) -> float:
        """At a length (N)."""
        return (
            self.pull if self.natural is None else self.stiffness * max(0.0, length - self.natural)
        )

    def span(self, of: Chains, angle: Floats, nock: complex = 0j) -> complex:
        """From its first end to its second, in the bow's frame.

        Args:
            angle: inclinations of the bars, ``(c, n)`` (rad).
            nock: the nocking point in the bow's frame (m).

        Returns:
            The vector (m).
        """
        far = nock if self.ends[1] is None else self.ends[1].place(of, angle)
        return far - self.ends[0].place(of, angle)


@dataclass(frozen=True)
class SharedCurve:
    """The force–draw curve of a bow with a back-bow.

    Attributes:
        draw, weight: ``(draws,)`` (m, N).
        tension: of the string's two halves, ``(2, draws)`` (N).
        cable: tension of the cables, ``(2, draws)`` (N).
        share: of the bending moment at the grip that the second bow carries, ``(draws,)``.
        strain: greatest surface strain of the first bow and of the second, ``(2, draws)``.
        peaks: where the first bow is strained most, one per draw.
        energy: stored since brace (J).
        brace_height, string_length: (m).
        brace_tension: of the string (N).
        rest_share: share at brace.
        least_draw: where the draw starts (m).
        pivot: along + i·across (m).
        rest_angle: the chains at brace, ``(4, n)``.
        angles, nock: the solved state of the chains at each draw, ``(draws, 4, n)`` and
            ``(draws,)``.
        limbs, second, chains, cables, halves: what the state is of, the limbs of both bows in
            cells among it, and the string's two parts (m).
    """

    draw: Floats
    weight: Floats
    tension: Floats
    cable: Floats
    share: Floats
    strain: Floats
    peaks: tuple[Peak, ...]
    energy: Floats
    brace_height: float
    string_length: float
    brace_tension: float
    rest_share: float
    least_draw: float
    pivot: complex
    rest_angle: Floats
    angles: Floats
    nock: Points
    limbs: LimbGrid
    second: LimbGrid
    chains: Chains
    cables: tuple[Tie, ...]
    halves: Floats


@dataclass
class _State:
    angle: Floats
    tilt: float = 0.0


class _Network:
    """Chains and ties with an optional nocking point at a distance from the pivot."""

    def __init__(
        self, of: Chains, ties: list[Tie], pivot: complex, draw: float | None, free: bool
    ) -> None:
        self.of, self.ties, self.pivot, self.draw = of, ties, pivot, draw
        n = of.spring.shape[1]
        self.bars = Bars(of.start[:, 0], of.side[:, 0], of.lever, of.spring, of.rest, of.root[:, 0])
        chain, lever, aside = (
            np.full((len(ties), 2), -1, np.int64),
            np.zeros((len(ties), 2, n)),
            np.zeros((len(ties), 2)),
        )
        for t, tie in enumerate(ties):
            for e, end in enumerate(tie.ends):
                if end is not None:
                    chain[t, e], lever[t, e], aside[t, e] = end.chain, end.lever, end.aside
        self.held = Ties(
            chain,
            lever,
            aside,
            np.array([tie.stiffness for tie in ties]),
            np.array([np.nan if tie.natural is None else tie.natural for tie in ties]),
            np.array([tie.pull for tie in ties]),
        )
        self.point = Nock(pivot, draw or 0.0, free)

    def nock(self, tilt: float) -> complex:
        assert self.draw is not None
        return self.pivot + self.draw * 1j * complex(np.exp(-1j * tilt))

    def span(self, tie: Tie, state: _State) -> complex:
        return tie.span(self.of, state.angle, self.nock(state.tilt) if tie.ends[1] is None else 0j)

    def energy(self, state: _State) -> float:
        return energy_of(self.bars, self.held, self.point, state.angle, state.tilt)

    def settle(self, state: _State) -> _State:
        """The nearest equilibrium."""
        angle = np.array(state.angle, float)
        try:
            found, tilt = settled(self.bars, self.held, self.point, angle, float(state.tilt))
        except np.linalg.LinAlgError:
            found, tilt = False, 0.0
        if not found or not np.all(np.isfinite(angle)):
            raise NotConvergedError(
                "The bow with its back-bow found no rest; change the cable's tension or the draw a"
                " little."
            )
        return _State(angle, tilt)


def _piled(one: LimbGrid, count: int) -> LimbGrid:
    """So many limbs on one another that slide: stiffness and mass add up, strains do not."""
    if count == 1:
        return one
    stiff = one.stiffened(np.full((2, 1, 1), float(count)))
    return replace(stiff, line_mass=count * stiff.line_mass)


def _share(of: Chains, angle: Floats) -> float:
    moment = (of.spring * of.bend(angle))[:, 0]
    return float(moment[2:].sum() / moment.sum()) if abs(moment.sum()) > 1e-9 else 0.0


def solve(
    bow: Bow, draws: Floats | None, cells: int = CELLS, near: SharedCurve | None = None
) -> SharedCurve:
    """Brace a bow with its back-bow and draw it to each of ``draws`` (m), which must grow.

    Without draws: eleven from brace to the bow's full draw, or to 0.45 m beyond brace.

    Args:
        draws: to the pivot (m).
        near: the answer for much the same bow with the same back-bow in as many cells, to start
            from.

    Raises:
        DescriptionError: there is no back-bow, or its figures are impossible.
        SolveError: it cannot be braced or drawn so.
    """
    back = bow.back_bow
    if back is None:
        raise DescriptionError("This bow has no back-bow.", "back_bow")
    if bow.hold.held_by == "sliding hook":
        raise DescriptionError(
            "A bow with a back-bow is solved with the string held by fingers.",
            "hold.string_held_by",
        )
    for key, value in (
        ("cable_tension_n", back.cable_tension),
        ("cable_slack_mm", back.slack),
        ("cable_stiffness_n", back.cable_stiffness),
    ):
        if not (np.isfinite(value) and value >= 0 and (value > 0 or key in _MAYBE_NONE)):
            raise DescriptionError("This must be above zero.", f"back_bow.{key}")
    if not 0 < back.tied_at <= min(bow.upper.length, bow.lower.length):
        raise DescriptionError("The cable is tied somewhere on both limbs.", "back_bow.tied_at_mm")
    if draws is not None and (
        draws.size == 0 or np.any(np.diff(draws) <= 0) or not np.all(np.isfinite(draws))
    ):
        raise DescriptionError("Give draws that grow.", "draws")
    if back.count not in (1, 2):
        raise DescriptionError("One back-bow, or two on one another.", "back_bow.count")
    first = grid(bow, cells)
    if near is None:
        alone = replace(bow, upper=back.limb, lower=back.limb, grip_stiffness=None)
        second = _piled(grid(alone, cells), back.count)
    else:
        second = near.second
    of = chains(first, second)
    pivot = complex(*bow.hold.pivot)
    # the string leaves the main bow's nocks beside their axis; the cables are tied round the ends
    tips = [End(s, of.lever[s, -1], float(of.aside[s, -1]) if s < 2 else 0.0) for s in range(4)]
    tied = [end_at(of, s, back.tied_at) for s in (0, 1)]
    state = _State(of.unbent())
    lengths = [
        abs(tied[s].place(of, state.angle) - tips[s + 2].place(of, state.angle)) for s in (0, 1)
    ]
    tension = 0.0 if back.slack > 0 else back.cable_tension  # a loose cable pulls at nothing yet
    pulled = [
        Tie((tied[s], tips[s + 2]), back.cable_stiffness / lengths[s], None, tension)
        for s in (0, 1)
    ]
    state = _Network(of, pulled, pivot, None, False).settle(state)
    cables = []
    for tie in pulled:
        length = abs(tie.span(of, state.angle))
        natural = length / (1 + tension / back.cable_stiffness) + back.slack
        cables.append(replace(tie, natural=natural, stiffness=back.cable_stiffness / natural))
    state, length = _braced(bow, of, tips, cables, state, near)
    places = [tips[s].place(of, state.angle) for s in (0, 1)]
    gap = places[0] - places[1]
    at = pivot.real + bow.hold.nock_offset
    nock = at + 1j * (places[1].imag + gap.imag * (at - places[1].real) / gap.real)
    height = places[1].imag + gap.imag * (pivot.real - places[1].real) / gap.real - pivot.imag
    stiffness = _STRING / length
    pull = stiffness * (abs(gap) - length)
    halves = [abs(places[s] - nock) * length / abs(gap) for s in (0, 1)]
    strings = [Tie((tips[s], None), _STRING / halves[s], halves[s]) for s in (0, 1)]
    least = abs(nock - pivot)
    if draws is None:
        draws = np.linspace(least * (1 + 1e-9), bow.draw or least + 0.45, 11)
    if draws[0] < least - 1e-9:
        raise DrawBeyondReachError(
            f"The draw starts at {least * 1000:.0f} mm; ask for a longer one."
        )
    state.tilt = float(np.arctan2((nock - pivot).real, (nock - pivot).imag))
    if bow.hold.support == "clamp":
        state.tilt = 0.0
    rest_energy = _Network(of, [*cables], pivot, None, False).energy(state)
    rest_share, rest_angle = _share(of, state.angle), state.angle
    rows: list[tuple[float, ...]] = []
    angles, nocks, peaks = [], [], []
    before = abs(nock - pivot)
    way = [(before, state)]
    for draw in draws:
        if near is not None and draw == near.draw[-1]:  # its state is nearer than the braced one
            away = complex(near.nock[-1]) - pivot
            state = _State(near.angles[-1], float(np.arctan2(away.real, away.imag)))
            before, way = float(draw) - 1e-9, []
        # small steps on the way keep the path, smaller ones where it bends
        stride = _STRIDE
        while before < draw:
            further = float(draw) if draw - before < 1.2 * stride else before + stride
            network = _Network(of, [*cables, *strings], pivot, further, bow.hold.support != "clamp")
            try:
                state = network.settle(_onward(way, further) if len(way) > 1 else state)
            except NotConvergedError:
                stride *= 0.5
                if stride < _LEAST_STRIDE:
                    raise
                continue
            before, way = further, [*way[-2:], (further, state)]
        spans = [network.span(tie, state) for tie in network.ties]
        taut = [tie.tension(abs(span)) for tie, span in zip(network.ties, spans, strict=True)]
        away = (network.nock(state.tilt) - pivot) / draw
        weight = sum(
            t * float((span / abs(span) * np.conj(away)).real)
            for t, span in zip(taut[2:], spans[2:], strict=True)
        )
        bend = of.bend(state.angle) / of.cell
        peaks.append(_peak(first, bend[:2]))
        strains = (peaks[-1].value, _peak(second, bend[2:]).value)
        energy = (
            network.energy(state)
            - rest_energy
            - sum(0.5 * t**2 / s.stiffness for t, s in zip(taut[2:], strings, strict=True))
        )
        rows.append((weight, *taut, _share(of, state.angle), *strains, energy))
        angles.append(state.angle)
        nocks.append(network.nock(state.tilt))
    table = np.array(rows).T
    return SharedCurve(
        draw=draws,
        weight=table[0],
        tension=table[3:5],
        cable=table[1:3],
        share=table[5],
        strain=table[6:8],
        peaks=tuple(peaks),
        energy=table[8],
        brace_height=float(height),
        string_length=float(length),
        brace_tension=float(pull),
        rest_share=rest_share,
        least_draw=float(least),
        pivot=pivot,
        rest_angle=rest_angle,
        angles=np.array(angles),
        nock=np.array(nocks),
        limbs=first,
        second=second,
        chains=of,
        cables=tuple(cables),
        halves=np.array(halves),
    )


def _onward(way: list[tuple[float, _State]], draw: float) -> _State:
    """Where a bow drawn from state to state will be at the next draw: along the parabola through
    the last three.
    """
    at = np.array([d for d, _ in way])
    parts = [np.prod([(draw - b) / (a - b) for b in at if b != a]) for a in at]
    angle = sum(part * one.angle for part, (_, one) in zip(parts, way, strict=True))
    tilt = sum(part * one.tilt for part, (_, one) in zip(parts, way, strict=True))
    return _State(np.asarray(angle), float(tilt))


def _peak(limbs: LimbGrid, bend: Floats) -> Peak:
    """Where a pair of limbs is strained most, from the bend in the middle of the cells, ``(2,
    n)``.
    """
    middles = [
        0.5 * (v[:, 0, 1:] + v[:, 0, :-1])
        for v in (limbs.axis, limbs.depth - limbs.axis, limbs.places())
    ]
    faces = np.abs(bend) * np.stack(middles[:2])
    face, limb, cell = np.unravel_index(int(faces.argmax()), faces.shape)
    return Peak(
        float(faces.max()), int(limb), ("back", "belly")[face], float(middles[2][limb, cell])
    )


def _braced(
    bow: Bow,
    of: Chains,
    tips: list[End],
    cables: list[Tie],
    state: _State,
    near: SharedCurve | None,
) -> tuple[_State, float]:
    """Shorten the string from the unstrung length until the brace height or the string's length is
    reached.
    """
    pivot = complex(*bow.hold.pivot)
    goal, wanted = bow.brace_height, bow.string_length

    def laid(state: _State) -> tuple[float, float]:
        """Distance of the tips, and height of the line between them over the pivot."""
        up, low = (tips[s].place(of, state.angle) for s in (0, 1))
        gap = up - low
        return abs(gap), low.imag + gap.imag * (pivot.real - low.real) / gap.real - pivot.imag

    def strung(length: float, start: _State) -> tuple[_State, float]:
        tie = Tie((tips[0], tips[1]), _STRING / length, length)
        found = _Network(of, [*cables, tie], pivot, None, False).settle(start)
        return found, laid(found)[1]

    if goal is None:
        if wanted is None:
            raise DescriptionError("Give a brace height or a string length.", "string")
        if wanted >= laid(state)[0]:
            raise DescriptionError(
                "A bow with a back-bow is solved braced: give a string shorter than the bow.",
                "string",
            )
    if near is not None and goal is not None:
        state, height = strung(near.string_length, _State(near.rest_angle))
        return _to_height(strung, state, near.string_length, height, goal)
    # bend the limbs by hand, as it were, until the string would be about as long or as high as it
    # shall be
    lean = of.cell.cumsum(1) / of.cell[:2].sum(1).mean()
    bent, length, height = state, 0.0, -1.0
    for turn in np.linspace(0.02, 2.4, 120):
        bent = _State(state.angle + turn * lean)
        length, height = laid(bent)
        if (
            (height >= goal)
            if goal is not None
            else (height > 0 and length <= float(wanted or 0.0))
        ):
            break
    else:
        raise StringTooShortError(
            "These limbs cannot bend so far: lower the brace height or take a longer string."
        )
    if goal is None:
        return strung(float(wanted or 0.0), bent)[0], float(wanted or 0.0)
    state, height = strung(length, bent)
    return _to_height(strung, state, length, height, goal)


def _to_height(
    strung: Callable[[float, _State], tuple[_State, float]],
    state: _State,
    length: float,
    height: float,
    goal: float,
) -> tuple[_State, float]:
    """Shorten or lengthen the string until it stands at the brace height."""
    rise = 0.3  # limbs rise some four times as much as the string is shortened
    for _ in range(60):
        if abs(height - goal) < 1e-7:
            return state, length
        change = float(np.clip(rise * (height - goal), -0.01, 0.01))
        state, after = strung(length + change, state)
        if abs(after - height) > 1e-9:  # as it rose just now; a longer string stands lower
            rise = float(np.clip(-change / (after - height), 0.02, 3.0))
        length, height = length + change, after
    raise NotConvergedError("The brace height could not be met with this back-bow.")


def as_curve(shared: SharedCurve) -> Curve:
    """The same answer in the terms of the plain statics, for what shows curves and shapes; where
    the string lies on a limb is not known.
    """
    of, limbs = shared.chains, shared.limbs
    states = np.concatenate([shared.rest_angle[None], shared.angles])
    places = np.stack([of.nodes(angle)[:2] for angle in states], 1)
    leaves = np.stack([of.belly(angle)[:2, -1] for angle in states], 1)
    root = limbs.root[:, 0]
    start = (root[:, 0] + 1j * root[:, 1])[:, None] * np.ones(len(states))
    start[1].real *= -1.0
    places = np.concatenate([start[..., None], places], -1)
    turned = np.stack([of.bend(angle)[:2] / of.cell[:2] for angle in states], 1)
    # at a node between two cells the bend is that of their moments' mean
    joint = turned * limbs.stiffness[:, :1]
    moment = np.concatenate(
        [joint[..., :1], 0.5 * (joint[..., 1:] + joint[..., :-1]), 0 * joint[..., :1]], -1
    )
    bend = moment / limbs.node_stiffness
    energy = np.concatenate([[0.0], shared.energy])
    shapes = Shapes(
        places.real,
        places.imag,
        moment,
        bend,
        bend * limbs.axis,
        -bend * (limbs.depth - limbs.axis),
        turned,
        energy,
        np.stack([places[..., -1].real, places[..., -1].imag]),
        np.stack([leaves.real, leaves.imag]),
    )
    one = np.ones(1)
    braced = Braced(
        shared.brace_height * one,
        shared.string_length * one,
        shared.brace_tension * one,
        np.zeros((2, 1)),
        shared.halves[0] * one,
        shared.least_draw * one,
        False,
    )
    nock = np.stack([shared.nock.real, shared.nock.imag])
    away = shared.nock - complex(shared.pivot)
    drawn = Drawn(
        shared.draw,
        shared.weight,
        shared.tension,
        np.zeros_like(shared.tension),
        nock,
        np.arctan2(away.real, away.imag),
        np.zeros_like(shared.tension),
    )
    return Curve(
        limbs,
        braced,
        drawn,
        shared.energy,
        shapes.part(slice(1, None)),
        shapes.part(slice(0, 1)),
        shared.peaks,
    )


def inner_strain(curve: SharedCurve) -> float:
    """Greatest surface strain of the main bow near its grip at the last draw: where it breaks when
    its back-bow does not help.
    """
    limbs, bent = curve.limbs, as_curve(curve).shapes
    faces = np.maximum(np.abs(bent.back), np.abs(bent.belly))[:, -1]
    shares = limbs.places()[:, 0] / limbs.length[:, :1]
    return float(faces[shares < INNER].max())


def share_against_cable(
    bow: Bow, draw: float, tensions: Floats, cells: int = 20, slacks: Floats | None = None
) -> tuple[SharedCurve, ...]:
    """The same bow at one draw (m), its cables loose by several lengths (m), then at several
    tensions (N), before it is strung.

    Args:
        draw: from nocking point to pivot (m).
        slacks: of loose cables, the loosest first, or None.

    Returns:
        A curve for each slack, and for each tension.
    """
    back = bow.back_bow
    if back is None:
        raise DescriptionError("This bow has no back-bow.", "back_bow")
    loose = () if slacks is None else slacks
    cables = [replace(back, cable_tension=0.0, slack=float(s)) for s in loose]
    cables += [replace(back, cable_tension=float(t), slack=0.0) for t in tensions]
    return tuple(solve(replace(bow, back_bow=one), np.array([draw]), cells) for one in cables)
