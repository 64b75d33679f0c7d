"""A practice session: acts in, what they showed and did out.

The same acts as at the bench, done to a stave of :mod:`bowyery.practice.worlds`. A session is its
setup and its acts in order; everything else follows from them, hand's errors included, so that it
can be taken up anywhere and played again in tests. What is read is written down as pencil
statements, which is all that the adviser is given.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, field, replace
from typing import Any, cast

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.bow.limb_grid import LimbGrid, grid
from bowyery.design.alterations import at_stations
from bowyery.errors import SolveError
from bowyery.mechanics import statics
from bowyery.mechanics.elastica import Shapes, shapes
from bowyery.mechanics.strain import SET_SHARE
from bowyery.practice.virtual_stave import MEMORY, VirtualStave, pull
from bowyery.practice.worlds import CELLS, Hidden, PracticeError, Setup, rough_out, waves
from bowyery.tiller.advice import Plan
from bowyery.tiller.bench import BenchState, Workpiece, most_use, work_out
from bowyery.tiller.bite import TOOLS, USUAL_TOOL, first_bite
from bowyery.tiller.estimate import at_nodes
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import Noted, StringOn, history
from bowyery.tiller.readings import errors_of, read
from bowyery.tiller.statements import Statement

FEATHER = 0.025  # over which a pass runs out beyond its stretch (m)
EDGE_READ = 0.00025  # error of a usual hand at the straight edge, one deviation (m)
EDGE = 0.2  # length of the straight edge (m)
EDGE_PLACES = (0.14, 0.27, 0.40, 0.53, 0.66, 0.79)  # shares of a limb where "all along" lays it
ENOUGH = 20  # pulls that show nearly all of what came off
LONG_HOLD = 15.0  # seconds; longer than anybody should hold
LOW_BRACE = 0.08
READ_SECONDS = 4.0  # that one reading takes while the rope is held
FRET = 0.93  # of what crushes a belly: frets run across it
FRETTED = 0.06  # share of its strength that a fretted place loses
GOLDEN = 0.05  # log stiffness that a belly heated golden gains in the mean
# How much more than golden it does, and the share of its strength that it leaves.
COLOURS = {"golden": (1.0, 0.99), "brown": (1.3, 0.96), "dark": (1.5, 0.90)}
MOST_STROKES, MOST_PULLS, MOST_HOURS = 200, 100, 24 * 90
MOST_ACTS = 400
NO_HANG = "On this string it cannot hang now: put another one on."

READS = ("weight", "tips", "edge", "edges", "gaps", "profile", "string", "floor", "thickness")
MARKS = ("stiff", "weak", "hinge", "good")
EDGES = ("left", "right")


@dataclass(frozen=True)
class Act:
    """Something that is done in a session; which figures it has depends on its kind.

    Attributes:
        kind: a key of ACTS.
        limb: upper, lower, or nothing for both.
        start, end: of a stretch, from the bow's centre (m); the end of a pull: where it is held
            then, where that is not the furthest.
        value: a draw (m), seconds, strokes, pulls, a brace height (m), a length cut off each end
            (m), reflex at the tip (m), or hours.
        how: a tool, a string, a mark, a colour, or what is read.
        edge: left or right where wood comes off one edge more than the other; seen from the belly.
    """

    kind: str
    limb: str = ""
    start: float | None = None
    end: float | None = None
    value: float | None = None
    how: str = ""
    edge: str = ""

    def as_data(self) -> dict[str, Any]:
        """What is kept of it."""
        return {name: value for name, value in asdict(self).items() if value not in ("", None)}

    @staticmethod
    def of_data(data: Mapping[str, Any]) -> Act:
        """The act that was kept."""
        return Act(**data)

    @property
    def sides(self) -> tuple[int, ...]:
        """The limbs it is about, as places on the first axis."""
        return (0, 1) if not self.limb else (SIDES.index(cast(Side, self.limb)),)


@dataclass(frozen=True)
class Broke:
    """How it broke.

    Attributes:
        at: from the bow's centre (m).
        draw: where it went (m).
        back: the back gave, else the belly was crushed.
    """

    limb: Side
    at: float
    draw: float
    back: bool
    step: int


@dataclass(frozen=True)
class Removal:
    """Wood that came off.

    Attributes:
        took: thickness off at the nodes, ``(2, n+1)`` (m).
        needed: what was to come off there, ``(2, n+1)`` (m); below zero where it was too weak
            already.
    """

    step: int
    act: Act
    took: Floats
    needed: Floats


@dataclass(frozen=True)
class State:
    """A session after some acts.

    Attributes:
        lean, aside: as of Hidden (m).
        bow: its geometry: shorter after a cut.
        strength: share of its strength that each node has, ``(2, n+1)``; less after frets.
        said: statements that the last act wrote, and nothing else.
        held: draw at which the rope is held (m), or None.
        seconds: it has been held.
        furthest: draw it has been pulled to on each string, by rung (m).
        reached: draw it was last pulled to (m).
        strung: time it has been left braced (h).
        pulls: short pulls since wood came off; None: none has come off.
        looks, early, blind: looks so far, those before enough pulls, and those that nothing was
            read at.
        seen: something was read at this look.
        proper: for each look after enough pulls, how many times wood had come off.
        longest: longest hold (s).
        heaviest: greatest weight it was pulled to (N).
        use: greatest share of its strength that each node was bent to, ``(2, n+1)``.
        frets: places, limb and from the centre (m).
        marks: what was marked: limb, from, to (from the centre, m), word, number of the act.
        guesses: where the learner would take wood, since the last wood came off.
        asked: numbers of the acts at which advice was asked for.
        broke: how, or None.
        over: the session is finished, by the learner.
        entry: number of the act since which the bow is as it is: what was read since is one look.
    """

    setup: Setup
    hidden: Hidden
    stave: VirtualStave
    bow: Bow
    string: StringOn
    lean: Floats
    aside: Floats
    strength: Floats
    step: int = 0
    noted: tuple[Noted, ...] = ()
    said: tuple[Statement, ...] = ()
    held: float | None = None
    seconds: float = 0.0
    furthest: Mapping[str, float] = field(default_factory=dict)
    reached: float = 0.0
    strung: float = 0.0
    pulls: int | None = None
    looks: int = 0
    early: int = 0
    blind: int = 0
    seen: bool = False
    proper: tuple[int, ...] = ()
    longest: float = 0.0
    heaviest: float = 0.0
    use: Floats = field(default_factory=lambda: np.zeros((2, CELLS + 1)))
    frets: tuple[tuple[Side, float], ...] = ()
    marks: tuple[tuple[Side, float, float, str, int], ...] = ()
    guesses: tuple[Act, ...] = ()
    asked: tuple[int, ...] = ()
    removals: tuple[Removal, ...] = ()
    cuts: tuple[int, ...] = ()
    heats: tuple[int, ...] = ()
    broke: Broke | None = None
    over: bool = False
    entry: int = 0

    @property
    def length(self) -> float:
        """From nock to nock along the unstrung bow (m)."""
        return sum(limb.root[0] + limb.length for limb in self.bow.limbs)

    @property
    def roots(self) -> tuple[float, float]:
        """How far from the bow's centre each limb begins (m)."""
        return self.bow.upper.root[0], self.bow.lower.root[0]

    @property
    def from_centre(self) -> Floats:
        """Places of the nodes from the bow's centre, ``(2, n+1)`` (m)."""
        return np.asarray(self.stave.limbs.places()[:, 0] + np.array(self.roots)[:, None])

    @property
    def full_draw(self) -> float:
        """That is wanted (m)."""
        return self.hidden.found.wanted.draw

    @property
    def wanted(self) -> float:
        """Weight that is wanted there (N)."""
        return self.hidden.found.wanted.weight

    @property
    def hung(self) -> Bow:
        """The bow on the string that is on."""
        return self.string.on(self.bow, self.length)

    def reach(self, side: int) -> float:
        """From the bow's centre to a nock (m).

        Args:
            side: 0 upper, 1 lower.
        """
        limb = self.bow.limbs[side]
        return limb.root[0] + limb.length


def begin(setup: Setup) -> State:
    """The stave on the tree, before any act.

    Raises:
        PracticeError: there is none such.
        DesignError: this wood makes no such bow.
    """
    hidden = rough_out(setup)
    whole = np.ones_like(hidden.lean)
    state = State(
        setup, hidden, hidden.stave, hidden.found.bow, StringOn("string long"), hidden.lean,
        hidden.aside, whole, use=np.zeros_like(whole),
    )  # fmt: skip
    return replace(_strung(state, hidden.string, None), said=())


def play(setup: Setup, acts: Iterable[Act]) -> State:
    """A session after its acts.

    Raises:
        PracticeError: an act that cannot be done.
    """
    state = begin(setup)
    for act in acts:
        state = do(state, act)
    return state


def do(state: State, act: Act) -> State:
    """A session after one more act.

    Raises:
        PracticeError: it cannot be done, or not now: a sentence.
    """
    row = ACTS.get(act.kind)
    if row is None:
        raise PracticeError("There is no such act.")
    if state.over:
        raise PracticeError("This session is finished; look at its debrief, or begin another.")
    if state.broke and act.kind != "finish":
        raise PracticeError("It is broken: nothing more can be done to it. Look at the debrief.")
    if state.step >= MOST_ACTS and act.kind != "finish":
        raise PracticeError("That is long enough at one stave; finish it and look at the debrief.")
    if act.limb and act.limb not in SIDES:
        raise PracticeError("Say which limb: upper, lower, or both.", "limb")
    if state.held is not None and act.kind not in HELD:
        raise PracticeError("Let the string down first.")
    for figure in (act.value, act.start, act.end):
        if figure is not None and not np.isfinite(figure):
            raise PracticeError("That is no number.", "value")
    try:
        return row(replace(state, step=state.step + 1, said=()), act)
    except SolveError as error:  # scraped so thin, or set so far, that its string does not do
        raise PracticeError(f"{NO_HANG} {error}") from error


# --- what the bow does -------------------------------------------------------------------------


def rng_of(state: State) -> np.random.Generator:
    """What this act's chance is drawn from."""
    return np.random.default_rng([state.setup.seed, 1013, state.step])


def sunk(seconds: float) -> float:
    """Share of a weight that is left after a hold.

    Args:
        seconds: that it is held.
    """
    return 1 - 0.006 * float(np.log1p(seconds / 2))


@dataclass(frozen=True)
class Drawn:
    """A bow through a draw.

    Attributes:
        draws: from where the string comes taut (m).
        weight: there (N).
        bent: both limbs at those draws, as complex places.
        use: share of its strength that each node is bent to, ``(2, draws, n+1)``.
        strain: greater of back and belly strain, likewise.
    """

    draws: Floats
    weight: Floats
    bent: Shapes
    use: Floats
    strain: Floats

    def weight_at(self, draw: float) -> float:
        """Weight at a draw (N).

        Args:
            draw: between the first and the last (m).
        """
        return float(np.interp(draw, self.draws, self.weight))

    def at(self, draw: float, values: Floats) -> Floats:
        """Values at a draw, ``(2, n+1)`` of ``(2, draws, n+1)``.

        Args:
            values: one for each draw, ``(draws,)``.
            draw: between the first and the last (m).
        """
        k = int(np.clip(np.searchsorted(self.draws, draw), 1, self.draws.size - 1))
        low, high = self.draws[k - 1], self.draws[k]
        share = float(np.clip((draw - low) / (high - low), 0.0, 1.0))
        return np.asarray((1 - share) * values[:, k - 1] + share * values[:, k])


def drawn(
    state: State, furthest: float, count: int = 24, on: tuple[LimbGrid, Bow] | None = None
) -> Drawn:
    """The bow on its string through a draw; no further than limbs and string can give.

    Args:
        furthest: draw (m).
        on: limbs and string instead of those that it has.

    Raises:
        SolveError: it cannot be strung so, or not be drawn then.
    """
    limbs, bow = on or (state.stave.grid(), state.hung)
    braced = statics.brace_bow(limbs, bow)
    least = 1.01 * float(braced.least_draw[0]) if braced.slack else float(braced.least_draw[0])
    most = max(furthest, least + 1e-3)
    for _ in range(12):
        draws = np.linspace(least + 1e-6, most, count)
        try:
            found = statics.draw(limbs, bow.hold, braced, draws)
            break
        except SolveError:  # no bow gives such a draw
            most = least + 0.9 * (most - least)
    else:
        raise SolveError("It bends so far on this string that it cannot be drawn.")
    bent = shapes(limbs, found.tension, found.p, np.zeros(draws.size, np.int64))
    # a backing bears what its wood does not: the wood's own back lies beneath it
    own = bent.back - bent.bend * state.hidden.skin[:, None]
    strain = np.maximum(np.abs(own), np.abs(bent.belly))
    use = np.maximum(own, strain / state.hidden.crush) / (
        state.stave.rupture * state.strength[:, None]
    )
    return Drawn(draws, found.weight, bent, use, strain)


def goes_at(pulled: Drawn) -> float | None:
    """The draw at which it breaks (m), or None."""
    worst = np.maximum.accumulate(pulled.use.max((0, 2)))
    if worst[-1] <= 1:
        return None
    return float(np.interp(1.0, worst, pulled.draws))


EVEN_AFTER_SINEW = 0.88  # of the wanted weight: so far it may fall for evenness


def plan_of(state: State) -> Plan:
    """What is to be reached: by the weight, with the usual losses."""
    found, braced = state.hidden.found, "full" in state.furthest
    # limbs that sinew drew apart are worth some weight
    floor = EVEN_AFTER_SINEW * found.wanted.weight if state.setup.trouble == "sinew" else None
    return Plan(
        found.wanted.weight, found.wanted.draw, most_use=most_use(found.uses), braced=braced,
        floor=floor,
    )  # fmt: skip


def advised(state: State) -> BenchState:
    """What the tiller says to what stands in the log.

    Raises:
        BowyeryError: nothing has been read, or it cannot be used.
    """
    found = state.hidden.found
    first, rows = found.bow, state.noted
    piece = Workpiece(first, found.curve.limbs, found.wood.density, found.layout.width)
    past = history(rows, (first.upper.root[0], first.lower.root[0]))
    return work_out(piece, past, replace(plan_of(state), braced=past.braced))


def advised_removal(state: State, told: BenchState) -> Floats:
    """Thickness that the tiller would take at the nodes at this look, ``(2, n+1)`` (m).

    Args:
        told: what the tiller says to it.
    """
    if told.advice is None:
        return np.zeros_like(state.stave.thickness)
    return at_nodes(told.advice.removal, state.stave.limbs)


def guessed(state: State) -> Floats:
    """Thickness that the learner's guess would take at the nodes, by what such tools usually take,
    ``(2, n+1)`` (m).
    """
    places = state.from_centre
    off = np.zeros_like(places)
    for act in state.guesses:
        for side in act.sides:
            start, end = (one + state.roots[side] for one in _stretch(state, act, side))
            there = (places[side] >= start - 1e-9) & (places[side] <= end + 1e-9)
            off[side] += (act.value or 0.0) * _usual_bite(state, act) * there
    return off


def _usual_bite(state: State, act: Act) -> float:
    """What a stroke of such a tool usually takes (m)."""
    found = state.hidden.found
    return first_bite(act.how or USUAL_TOOL, found.wood.density, found.layout.width).thickness


def truth(state: State) -> Floats:
    """Log stiffness against the design as it is once all that came off shows, ``(2, n+1)``."""
    return np.asarray(state.stave.logs - state.stave.pending)


def level(state: State) -> float:
    """Log stiffness against its design that the bow needs all along to have, before it is finished,
    what ends as the wanted weight, with the set that full draw will bring it.
    """
    wanted, pending = _level(state, state.stave.set), 0 * state.stave.pending
    for _ in range(3):  # the set depends on how thick it is, and that on the set
        thickness = state.stave.thickness - _needed(state, wanted)
        stave = state.stave.changed(thickness=thickness, pending=pending)
        wanted = _level(state, settled(stave, state.bow, state.length, state.full_draw).set)
    return wanted


def settled(stave: VirtualStave, bow: Bow, length: float, full_draw: float) -> VirtualStave:
    """A stave once it has been pulled to full draw twice on its finished brace, if it bears that.

    Args:
        length: of the bow from nock to nock (m).
        full_draw: to the pivot (m).
    """
    strung = StringOn("string full").on(bow, length)
    for _ in range(2):
        stave = replace(pull(stave, strung, full_draw), broken=False)
    return stave


def _level(state: State, kept: Floats) -> float:
    limbs, bend = grid(state.bow, CELLS), state.stave.crook + kept
    limbs = replace(limbs, curvature=limbs.curvature + bend[:, None])
    bow = StringOn("string full").on(state.bow, state.length)
    tried = np.linspace(-0.6, 0.6, 13)
    many = limbs.repeated(tried.size).stiffened(np.exp(np.stack([tried] * 2))[..., None])
    try:
        braced = statics.brace_bow(many, bow)
        weight = statics.draw(many, bow.hold, braced, np.full(tried.size, state.full_draw)).weight
    except SolveError:  # cut so short that it cannot be drawn so far: as designed
        return 0.0
    return float(np.interp(plan_of(state).stop_at, weight, tried))


def needed(state: State) -> Floats:
    """Thickness that is still to come off at the nodes, ``(2, n+1)`` (m); below zero where it is
    too weak already.
    """
    return _needed(state, level(state))


def _needed(state: State, wanted: float) -> Floats:
    stave = state.stave
    more = truth(state) - wanted
    return np.asarray(
        stave.thickness - stave.law.standing(stave.law.log_at(stave.thickness) - more)
    )


# --- the acts ----------------------------------------------------------------------------------


def _note(state: State, *statements: Statement) -> State:
    """Write statements down."""
    first = len(state.noted) + 1
    rows = tuple(Noted(s, first + k, state.entry) for k, s in enumerate(statements))
    return replace(state, noted=state.noted + rows, said=state.said + statements)


def _changed(state: State) -> State:
    """What is read from here on is read of another bow."""
    return replace(state, entry=state.step)


def _within(value: float | None, low: float, high: float, sentence: str) -> float:
    if value is None or not low <= value <= high:
        raise PracticeError(sentence, "value")
    return value


def _stretch(state: State, act: Act, side: int) -> tuple[float, float]:
    """From and to on a limb, from its root (m); a bending grip's limbs begin at the centre."""
    root, reach = state.roots[side], state.reach(side)
    start = root if act.start is None else min(act.start, act.end or reach)
    end = reach if act.end is None else max(act.start or 0.0, act.end)
    if start < -1e-9 or end > reach + 0.001 or end <= root + 0.004:
        raise PracticeError("That stretch does not lie on the limb.", "start")
    if end - start < 0.01:
        raise PracticeError("Give a stretch, from here to there, along the limb.", "end")
    return max(start - root, 0.0), min(end - root, reach - root)


def _pull(state: State, act: Act) -> State:
    if act.value is None or act.value <= 0:
        raise PracticeError("Say how far: a draw from the pivot to the string.", "value")
    pulled = drawn(state, min(act.value, 1.5 * state.full_draw))
    if act.value < pulled.draws[0] - 0.002:
        raise PracticeError("The string lies further out than that already.", "value")
    draw = float(min(act.value, pulled.draws[-1]))
    kept = draw if act.end is None else float(np.clip(act.end, pulled.draws[0], draw))
    look = state.held is None
    before = state.pulls
    down = act.end is not None and kept <= pulled.draws[0] + 0.005
    state = replace(
        state,
        held=None if down else kept,
        blind=state.blind + (down and look),
        seconds=0.0 if look or draw > (state.held or 0.0) + 0.003 else state.seconds,
        looks=state.looks + look,
        early=state.early + (look and before is not None and before < ENOUGH),
        seen=state.seen and not look,
        proper=state.proper + ((len(state.removals),) if look and (before or 0) >= ENOUGH else ()),
    )
    return _bent(state, pulled, draw)


def _bent(state: State, pulled: Drawn, draw: float) -> State:
    """What a pull does to the bow: set, frets, a break."""
    goes = goes_at(pulled)
    broken = goes is not None and goes <= draw + 1e-9
    draw = min(draw, goes) if goes is not None else draw
    use = pulled.at(draw, pulled.use)
    greatest = np.maximum(state.use, use)
    state = replace(
        state,
        use=greatest,
        heaviest=max(state.heaviest, pulled.weight_at(draw)),
        reached=draw,
    )
    if broken:
        side, node = np.unravel_index(int(use.argmax()), use.shape)
        belly = -float(pulled.at(draw, pulled.bent.belly)[side, node]) / state.hidden.crush
        bears = state.stave.rupture * float(state.strength[side, node])
        place = float(state.stave.limbs.places()[side, 0, node]) + state.roots[side]
        broke = Broke(
            SIDES[side], place, draw,
            belly / bears < 0.97 * float(use[side, node]), state.step,
        )  # fmt: skip
        stave = state.stave.changed(broken=True)
        return replace(state, stave=stave, broke=broke, held=None)
    strain = pulled.at(draw, pulled.strain)
    stave, rung = state.stave, state.string.rung
    stave = stave.changed(
        set=np.maximum(stave.set, _kept(stave, pulled, draw)),
        pending=stave.pending * float(np.exp(-1 / MEMORY)),
    )
    furthest = {**state.furthest, rung: max(draw, state.furthest.get(rung, 0.0))}
    return _fretted(replace(state, stave=stave, furthest=furthest), strain)


def _kept(stave: VirtualStave, pulled: Drawn, draw: float) -> Floats:
    """Bend that stays of a draw, in the middle of the cells, ``(2, n)`` (1/m)."""
    strain = np.maximum(_cells(pulled.at(draw, pulled.strain)), 1e-9)
    bend = _cells(pulled.at(draw, pulled.bent.bend))
    return np.asarray(SET_SHARE * bend * np.maximum(0.0, 1 - stave.elastic / strain))


def _cells(values: Floats) -> Floats:
    return np.asarray(0.5 * (values[:, 1:] + values[:, :-1]))


def _fretted(state: State, strain: Floats) -> State:
    """Frets where a belly is nearly crushed; such a place is weaker from then on."""
    near = strain / (state.hidden.crush * state.stave.rupture * state.strength)
    if near.max() <= FRET:
        return state
    side, node = (int(k) for k in np.unravel_index(int(near.argmax()), near.shape))
    places = state.stave.limbs.places()[side, 0]
    there = np.exp(-0.5 * ((places - places[node]) / 0.02) ** 2)
    strength = state.strength.copy()
    strength[side] *= 1 - FRETTED * there
    at = float(places[node]) + state.roots[side]
    return replace(state, strength=strength, frets=(*state.frets, (SIDES[side], at)))


def _hold(state: State, act: Act) -> State:
    if state.held is None:
        raise PracticeError("Pull it first; there is nothing to hold.")
    seconds = _within(act.value, 1, 600, "A hold is from one second to ten minutes.")
    return _held_on(state, seconds)


def _held_on(state: State, seconds: float) -> State:
    """The rope stays where it is: the weight sinks, and set grows."""
    after, held = state.seconds + seconds, state.held or 0.0
    kept = _kept(state.stave, drawn(state, held), held) * (1 + 0.12 * float(np.log1p(after / 10)))
    stave = state.stave.changed(set=np.maximum(state.stave.set, kept))
    return replace(
        state, stave=stave, seconds=after, longest=max(state.longest, after),
    )  # fmt: skip


def _down(state: State, act: Act) -> State:
    if state.held is None:
        raise PracticeError("The string is down already.")
    return replace(_unread(state), held=None, seconds=0.0)


def _unread(state: State) -> State:
    """A look that ends, read or not."""
    return replace(state, blind=state.blind + (not state.seen))


def _exercise(state: State, act: Act) -> State:
    count = int(_within(act.value, 1, MOST_PULLS, f"One to {MOST_PULLS} short pulls at a time."))
    usual = max(state.furthest.get(state.string.rung, 0.0), 0.0)
    pulled = drawn(state, 1.3 * state.full_draw)
    short = max(0.6 * usual, float(pulled.draws[0]) + 0.03)
    state = _bent(state, pulled, min(short, float(pulled.draws[-1])))
    if state.broke:
        return state
    stave = state.stave.changed(pending=state.stave.pending * float(np.exp(-count / MEMORY)))
    pulls = None if state.pulls is None else state.pulls + count
    state = replace(state, stave=stave, pulls=pulls)
    return _note(state, Statement("pulls", value=float(count)))


def _mark(state: State, act: Act) -> State:
    if act.how not in MARKS:
        raise PracticeError("A mark is stiff, weak, hinge or good.", "how")
    if not act.limb:
        raise PracticeError("Say which limb: upper or lower.", "limb")
    side = act.sides[0]
    start, end = (one + state.roots[side] for one in _stretch(state, act, side))
    limb = SIDES[side]
    state = replace(state, seen=True)
    marks = tuple(m for m in state.marks if not (m[0] == limb and m[1] < end and start < m[2]))
    state = replace(state, marks=(*marks, (limb, start, end, act.how, state.step)))
    draws = [one.statement.draw for one in state.noted if one.statement.kind == "weight"]
    if not draws:
        return state  # nothing has been read that it could belong to
    return _note(state, Statement("eye", limb=limb, start=start, end=end, how=act.how))


def _scrape(state: State, act: Act) -> State:
    strokes = int(_within(act.value, 1, MOST_STROKES, f"One to {MOST_STROKES} strokes at a time."))
    tool = act.how or USUAL_TOOL
    if tool not in TOOLS:
        raise PracticeError("Take one of the tools that hang there.", "how")
    if act.edge and act.edge not in EDGES:
        raise PracticeError("An edge is the left or the right one, seen from the belly.", "edge")
    stave = state.stave
    thick = strokes * _usual_bite(state, act) * state.hidden.bites.get(tool, 1.0)
    rng, hand = rng_of(state), state.hidden.hand
    places, took = stave.limbs.places()[:, 0], np.zeros_like(stave.thickness)
    said = []
    for side in act.sides:
        start, end = _stretch(state, act, side)
        at = places[side]
        low = np.clip((at - start) / FEATHER + 1, 0, 1) if start > 0 else np.ones_like(at)
        high = np.clip((end - at) / FEATHER + 1, 0, 1)
        uneven = 1 + hand.alike * rng.standard_normal() + waves(at, hand.local, rng)
        took[side] = thick * np.minimum(low, high) * np.maximum(uneven, 0.2)
        whole = act.start is None and act.end is None
        root = state.roots[side]
        said.append(
            Statement(
                "strokes", value=float(max(1, round(strokes * (0.5 if act.edge else 1)))),
                limb=SIDES[side], start=None if whole else start + root,
                end=None if whole else end + root, tool=tool,
            )
        )  # fmt: skip
    need = needed(state)
    if act.edge:  # all of it at one edge, none at the other: half of it in the mean
        lean = state.lean + took / stave.thickness * (-1 if act.edge == "right" else 1)
        state, took = replace(state, lean=lean), 0.5 * took
    left = np.maximum(stave.thickness - took, 0.25 * stave.limbs.depth[:, 0])
    took = stave.thickness - left
    fall = stave.law.log_at(left) - stave.law.log_at(stave.thickness)
    stave = stave.changed(thickness=left, pending=stave.pending - fall)
    removal = Removal(state.step, act, took, need)
    state = replace(
        _changed(state), stave=stave, pulls=0, removals=(*state.removals, removal), guesses=(),
    )  # fmt: skip
    both = len(said) == 2
    return _note(state, *([replace(said[0], limb=None)] if both and _alike(said) else said))


def _alike(said: list[Statement]) -> bool:
    return (said[0].start, said[0].end) == (said[1].start, said[1].end)


def _string(state: State, act: Act) -> State:
    if act.how not in ("long", "low", "full"):
        raise PracticeError("Choose the long string, a low brace or the full brace.", "how")
    if act.value is not None and act.how != "long":
        _within(act.value, 0.03, 0.25, "A brace height is from 30 to 250 mm (1¼ to 10 in).")
    return _strung(_changed(state), act.how, act.value)


def _strung(state: State, rung: str, brace: float | None) -> State:
    hand = state.hidden.hand
    if rung == "long":
        string = StringOn("string long", state.length + state.hidden.slack)
        said = Statement("string long", value=round(string.at or 0.0, 3))
    else:
        usual = LOW_BRACE if rung == "low" else state.bow.brace_height or 0.15
        at = brace or usual
        string = StringOn(f"string {rung}", at)
        said = Statement(f"string {rung}", value=round(at + hand.brace, 4))
    state = replace(state, string=string)
    try:
        pulled = drawn(state, 0.0, count=2)
    except SolveError as error:
        raise PracticeError(f"It cannot be strung so. {error}", "value") from error
    if rung != "long":
        state = _bent(state, pulled, float(pulled.draws[0]))
    return _note(state, said)


def _anew(state: State, bow: Bow) -> State:
    """The stave after its limbs were cut shorter."""
    old, limbs = state.stave, grid(bow, CELLS)
    was, now = old.limbs.places()[:, 0], limbs.places()[:, 0]

    def nodes(values: Floats) -> Floats:
        return np.stack([np.interp(now[k], was[k], values[k]) for k in (0, 1)])

    def cells(values: Floats) -> Floats:
        middle = [(0.5 * (p[:, 1:] + p[:, :-1])) for p in (now, was)]
        return np.stack([np.interp(middle[0][k], middle[1][k], values[k]) for k in (0, 1)])

    stave = VirtualStave(
        limbs, bow, nodes(old.wood), nodes(old.thickness), nodes(old.pending), cells(old.crook),
        cells(old.set), old.elastic, old.rupture,
    )  # fmt: skip
    rows = [replace(one, took=nodes(one.took), needed=nodes(one.needed)) for one in state.removals]
    return replace(
        state, stave=stave, bow=bow, lean=nodes(state.lean), strength=nodes(state.strength),
        use=nodes(state.use), removals=tuple(rows),
    )  # fmt: skip


def _cut(state: State, act: Act) -> State:
    most = 0.25 * min(limb.length for limb in state.bow.limbs)
    off = _within(
        act.value, 0.002, most, "Cut off more than a saw's width and no more than a quarter of a"
        " limb.",
    )  # fmt: skip
    limbs = list(state.bow.limbs)
    for side in act.sides:
        limb = limbs[side]
        new = limb.length - off
        limbs[side] = at_stations(limb, np.append(limb.at[limb.at < new - 1e-6], new))
    bow = replace(state.bow, upper=limbs[0], lower=limbs[1])
    limb_name = cast(Side, act.limb) if act.limb else None
    state = _anew(_changed(state), bow)
    state = _note(state, Statement("cut", value=off, limb=limb_name))
    state = replace(state, cuts=(*state.cuts, state.step))
    return _strung(state, state.string.rung, None)


def _heat(state: State, act: Act) -> State:
    if act.how not in COLOURS:
        raise PracticeError("Heat it golden, brown or dark.", "how")
    tip = act.value or 0.0
    if abs(tip) > 0.06:
        raise PracticeError("Heat puts in no more than 60 mm (2⅜ in) at a tip.", "value")
    rng, stave = rng_of(state), state.stave
    wood, crook, strength = stave.wood.copy(), stave.crook.copy(), state.strength.copy()
    said, limb = [], cast(Side, act.limb) if act.limb else None
    again, (more, leaves) = 0.4 if state.heats else 1.0, COLOURS[act.how]
    for side in act.sides:
        gain = more * again * GOLDEN * float(np.clip(1 + 0.4 * rng.normal(), 0.1, 2))
        wood[side] += gain
        strength[side] *= leaves
        if tip:
            stays = float(np.clip(0.7 + 0.12 * rng.standard_normal(), 0.3, 1.0))
            crook[side] -= 2 * tip * stays / state.bow.limbs[side].length ** 2
    said.append(Statement("heat", limb=limb, how=act.how))
    if tip:
        said.append(Statement("reflex", value=tip, limb=limb))
    stave = stave.changed(wood=wood, crook=crook)
    state = replace(
        _changed(state), stave=stave, strength=strength, heats=(*state.heats, state.step),
    )  # fmt: skip
    state = _note(state, *said)
    return replace(_strung(state, state.string.rung, state.string.at if state.string.rung != "long"
                           else None), said=tuple(said))  # fmt: skip


def _wait(state: State, act: Act) -> State:
    hours = _within(act.value, 0.25, MOST_HOURS, "Wait from a quarter of an hour to ninety days.")
    stave = state.stave.changed(pending=state.stave.pending * float(np.exp(-hours / 24)))
    if state.string.rung == "long":
        return replace(state, stave=stave)
    # left strung, it follows the string; a night in two halves is one night
    before, after = (
        1 + 0.05 * float(np.log1p(h / 2)) for h in (state.strung, state.strung + hours)
    )
    stave = stave.changed(set=stave.set * after / before)
    return replace(state, stave=stave, strung=state.strung + hours)


def _guess(state: State, act: Act) -> State:
    _within(act.value, 1, MOST_STROKES, f"One to {MOST_STROKES} strokes.")
    for side in act.sides:
        _stretch(state, act, side)
    if act.how and act.how not in TOOLS:
        raise PracticeError("Take one of the tools that hang there.", "how")
    return replace(state, guesses=(*state.guesses, act))


def _ask(state: State, act: Act) -> State:
    if not any(one.statement.kind == "weight" for one in state.noted):
        raise PracticeError(
            "Nothing has been read yet, so nobody can say anything: pull it, and read the scale."
        )
    return replace(state, asked=(*state.asked, state.step))


def _finish(state: State, act: Act) -> State:
    if state.held is not None:
        state = _unread(state)
    return replace(state, held=None, over=True)


# --- readings ----------------------------------------------------------------------------------


def string_off(state: State) -> float:
    """How far the string lies right of the grip's middle, braced or as it is held (m); seen from
    the belly, upper limb up.

    A limb whose right edge is thicker bends over its left one: its bend across is its bend along,
    times the section's product of inertia over its second moment across, which for a belly that
    slopes evenly is half the slope (Timoshenko, Strength of Materials, 1930, part I, section 53).
    """
    pulled = drawn(state, state.held or 0.0, count=8)
    bend = pulled.at(state.held or float(pulled.draws[0]), pulled.bent.bend)
    limbs, tips = state.stave.limbs, np.zeros(2)
    for side in (0, 1):
        at, width = limbs.places()[side, 0], limbs.width[side, 0]
        slope = state.lean[side] * state.stave.thickness[side] / width
        across = state.aside[side] - 0.5 * slope * bend[side]
        tips[side] = float(np.trapezoid((at[-1] - at) * across, at))
    reach = np.array([state.reach(k) for k in (0, 1)])
    return float((tips[0] * reach[1] + tips[1] * reach[0]) / reach.sum())


def _reading(state: State, act: Act) -> State:
    if act.how not in READS:
        raise PracticeError("Say what to read.", "how")
    rows = () if act.how == "string" else _asked(state, act)
    if act.how == "string" and state.held is None and state.string.rung == "long":
        raise PracticeError("Where a slack string lies says nothing: brace it, or hold it drawn.")
    if state.held is not None:
        state = replace(_held_on(state, READ_SECONDS), seen=True)
    if act.how == "string":
        return _note(state, _string_seen(state))
    return _note(state, *(_statement(state, row) for row in _seen(state, rows)))


def _asked(state: State, act: Act) -> tuple[Reading, ...]:
    """The readings that an act asks for."""
    held, kind = state.held, act.how
    sides = [SIDES[k] for k in act.sides]
    if kind == "weight":
        if held is None:
            raise PracticeError("The scale shows nothing: pull the rope and hold it.")
        return (Reading("weight", 0.0, draw=held),)
    if kind == "tips":
        if held is None:
            raise PracticeError("The tips hang as they are: pull the rope and hold it.")
        return tuple(Reading("tip height", 0.0, one, held) for one in sides)
    if kind == "gaps":
        if held is not None or state.string.rung == "long":
            raise PracticeError(
                "Let the string down first." if held is not None else
                "Gaps are read on a braced bow; on the long string read the tips."
            )  # fmt: skip
        return tuple(Reading("gap", 0.0, one) for one in sides)
    if kind in ("profile", "floor"):
        if held is not None:
            raise PracticeError("Let the string down first; that is read unstrung.")
        if kind == "profile":
            return tuple(Reading("profile", 0.0, one) for one in sides)
        return tuple(Reading("floor", 0.0, one, span=0.05) for one in sides)
    if kind == "thickness":
        at = _place(state, act)
        return tuple(Reading("thickness", 0.0, one, at=at) for one in sides)
    if held is None and state.string.rung == "long":
        raise PracticeError("On a slack string no limb bends: pull the rope and hold it.")
    if kind == "edges":
        rows = []
        for side in act.sides:
            span = state.bow.limbs[side].length
            rows += [
                Reading("straight edge", 0.0, SIDES[side], held, share * span, EDGE)
                for share in EDGE_PLACES
            ]
        return tuple(rows)
    return tuple(
        Reading("straight edge", 0.0, one, held, _place(state, act), EDGE) for one in sides
    )


def _place(state: State, act: Act) -> float:
    """Where something is laid, from the limb's root (m)."""
    if act.start is None or not act.limb:
        raise PracticeError("Choose a place on one limb first.", "start")
    side = act.sides[0]
    at = 0.5 * (act.start + (act.start if act.end is None else act.end)) - state.roots[side]
    length = state.bow.limbs[side].length
    if not 0 <= at <= length:
        raise PracticeError("That place does not lie on the limb.", "start")
    if act.how == "thickness":
        return at
    return float(np.clip(at, 0.5 * EDGE, length - 0.5 * EDGE))  # all of it on the limb


def _seen(state: State, rows: tuple[Reading, ...]) -> tuple[Reading, ...]:
    """What the learner reads."""
    found = read(state.stave.grid(), state.hung, rows, slopes=True)
    hand, rng = state.hidden.hand, rng_of(state)
    careful = tuple(replace(r, error=EDGE_READ) if r.kind == "straight edge" else r for r in rows)
    errors = errors_of(careful, found.values[0], found.slopes) * hand.reads
    shown = []
    for row, true, error in zip(rows, found.values[0], errors, strict=True):
        value = float(true)
        if row.kind == "weight":
            value *= hand.scale * sunk(state.seconds)
        elif row.kind in ("gap", "tip height"):
            value += hand.gap
        if row.kind == "thickness":
            error = 0.0002 * hand.reads
        value += error * float(rng.standard_normal())
        draw = None if row.draw is None else row.draw + hand.draw
        shown.append(replace(row, value=value, draw=draw))
    return tuple(shown)


def _statement(state: State, row: Reading) -> Statement:
    """A reading as it is written down."""
    place = None
    if row.at is not None:
        place = row.at + state.roots[row.side]
    common = {"limb": row.limb, "draw": row.draw}
    if row.kind == "straight edge" and place is not None:
        half = 0.5 * EDGE
        return Statement(
            row.kind, value=row.value, start=place - half, end=place + half, **common  # type: ignore[arg-type]
        )  # fmt: skip
    if row.kind == "floor":
        return Statement("floor", value=row.value, limb=row.limb, more=row.span)
    if row.kind == "profile":
        way = "belly" if row.value >= 0 else "back"
        return Statement("profile", value=row.value, limb=row.limb, how=way)
    return Statement(row.kind, value=row.value, start=place, end=place, **common)  # type: ignore[arg-type]


def _string_seen(state: State) -> Statement:
    """Where the string is seen to lie."""
    off = string_off(state) + 0.001 * state.hidden.hand.reads * float(rng_of(state).normal())
    way = "right" if off >= 0 else "left"
    return Statement("string off", value=abs(off), how=way)


HELD = frozenset({"pull", "hold", "down", "read", "mark", "guess", "ask", "finish"})
ACTS: dict[str, Callable[[State, Act], State]] = {
    "pull": _pull,
    "hold": _hold,
    "down": _down,
    "exercise": _exercise,
    "mark": _mark,
    "scrape": _scrape,
    "string": _string,
    "cut": _cut,
    "heat": _heat,
    "read": _reading,
    "wait": _wait,
    "guess": _guess,
    "ask": _ask,
    "finish": _finish,
}
