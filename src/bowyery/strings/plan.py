"""A string for a bow: its strands, its lengths to cut, its twist, its parts and their mass."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np

from bowyery.bow.bow import Bow, StringLine
from bowyery.bow.layout import ARROW_ABOVE_PIVOT
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import statics
from bowyery.strings.breaking import Bears, strand_bears
from bowyery.strings.kinds import (
    MOST_PLIES,
    STRING_KINDS,
    StringKind,
    check_strands,
    shared_out,
    string_kind,
)
from bowyery.strings.strength import (
    BRACING_TIMES,
    RULES,
    STANDING_SHARE,
    Strength,
    strands_for,
    strength_for,
)
from bowyery.strings.thread import (
    CENTRE_SERVING,
    SERVING_THREAD,
    diameter_of,
    round_thread,
    stretch_stiffness,
    thread_for_serving,
    wax_share,
)
from bowyery.strings.twist import Twist, twist_of
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre

KINDS = tuple(STRING_KINDS)
TAIL = 8 * INCH  # laid into the string, or tied off (m)
THROAT = 2.5 * INCH  # served or wrapped below a loop (m)
HITCH = 10 * INCH  # of string that a hitch takes up and leaves to pull by (m)
ABOVE, NOCK_ABOVE = 2.5 * INCH, 0.25 * INCH  # serving and nocking point above the square place (m)
LOOSER, CLOSER = 1.6, 1.3  # openings of upper and lower loop, by the tip's width
PIECE, STAGGER = 9 * INCH, 1.5 * INCH  # longest reinforcing piece, and each next one shorter (m)
HUNG = 4 * INCH  # a tillering string is longer than the bow (m)
KNEE = 0.45  # a bracing string hangs so far below the unstrung bow's middle (m)


@dataclass(frozen=True)
class StringOrder:
    """What a maker asks for; None leaves it to the plan.

    Attributes:
        breaks: loads at which its strands broke (N).
        rule: which school wins, a key of RULES.
        length: nock to nock, braced (m); None: for the bow's brace height.
        loops: opening of upper and lower loop (m).
        throat: served below each loop (m).
        serving: of the middle, its whole length (m); 0 for none.
        serving_above: of that above the square place (m).
        nock_above: nocking point above the square place (m).
        serving_thread: mass a length (kg/m).
        piece: the longest of them (m).
        silencers: mass of both together (kg), and how far from the nocks they sit (m).
        fifteen: weight at 15 in as it was read (N).
        bears: what a strand bears where that is known otherwise, as of a strip by its width.
    """

    kind: StringKind
    fibre: Fibre
    breaks: tuple[float, ...] = ()
    rule: str = "highest"
    strands: int | None = None
    plies: int | None = None
    turns: int | None = None
    length: float | None = None
    loops: tuple[float | None, float | None] = (None, None)
    throat: float | None = None
    serving: float | None = None
    serving_above: float | None = None
    nock_above: float | None = None
    serving_thread: float = SERVING_THREAD
    pieces: int | None = None
    piece: float | None = None
    silencers: tuple[float, float] = (0.0, 0.0)
    fifteen: float | None = None
    bears: Bears | None = None

    @property
    def bundles(self) -> int:
        """Laid together."""
        return self.plies or self.kind.bundles if "plied" in self.kind.name else self.kind.bundles


@dataclass(frozen=True)
class Part:
    """A stretch of a string on the bow, from its upper nock.

    Attributes:
        name: upper loop, upper throat, body, centre serving, lower throat, lower loop.
        start, end: (m).
        thick: there (m).
        mass: of all that is there (kg).
        thread: that serves or wraps it (m).
    """

    name: str
    start: float
    end: float
    thick: float
    mass: float
    thread: float = 0.0


@dataclass(frozen=True)
class Masses:
    """Mass of a string by part (kg).

    Attributes:
        body, loops, serving, wax, silencers: of them (kg).
    """

    body: float
    loops: float
    serving: float
    wax: float
    silencers: float

    @property
    def total(self) -> float:
        """All of it (kg)."""
        return self.body + self.loops + self.serving + self.wax + self.silencers


@dataclass(frozen=True)
class StringPlan:
    """A string for a bow; lengths in m, masses in kg.

    Attributes:
        diameter: of the finished string (m).
        brace: height that it gives.
        length: from nock to nock, braced.
        brace_per: by how much brace height rises when the string is a unit shorter (m per m).
        strength: asked for by each school; None where the string shoots nothing.
        needed: breaking force that was planned for (N).
        safe: breaking force of the finished string at the low side (N).
        posts: distance of the jig's posts, or length to lay the string before it stretches.
        cut: thread for the whole string (continuous loop), or length of each bundle.
        pieces: lengths of the reinforcing pieces of each loop.
        thread: of strand in the whole string.
        loops: opening of upper and lower loop.
        square: place square to the arrow pass, from the upper nock; None where nothing is shot.
        nocking: nocking point, from the upper nock.
        middle: abreast of the bow's middle, from the upper nock.
        stiffness: EA (N).
    """

    order: StringOrder
    brace: float | None
    length: float
    brace_per: float
    strength: Strength | None
    needed: float
    bears: Bears
    strands: int
    shares: tuple[int, ...]
    safe: float
    posts: float
    cut: float
    pieces: tuple[float, ...]
    thread: float
    twist: Twist
    diameter: float
    loops: tuple[float, float]
    parts: tuple[Part, ...]
    masses: Masses
    square: float | None
    nocking: float | None
    middle: float
    stiffness: float = field(default=30e3)

    @property
    def kind(self) -> StringKind:
        """Of string."""
        return self.order.kind

    @property
    def fibre(self) -> Fibre:
        """Of its strands."""
        return self.order.fibre

    @property
    def mass(self) -> float:
        """With serving and wax."""
        return self.masses.total

    @property
    def bundles(self) -> int:
        """Laid together; 1 for a continuous loop."""
        return len(self.shares)

    @property
    def line(self) -> StringLine:
        """As the statics and the loosed arrow take it."""
        return StringLine(self.mass, self.stiffness)

    def laid(self, at: float) -> float:
        """Where a place of the braced string lies as it is laid out on its posts (m).

        Args:
            at: from the upper nock, braced (m).
        """
        return at / self.length * self.posts

    def part(self, name: str) -> Part | None:
        """A part by its name, or None."""
        return next((one for one in self.parts if one.name == name), None)


@dataclass(frozen=True)
class _Shape:
    """A bow with a string on it: what a string's lengths follow from (m)."""

    length: float
    brace: float | None
    brace_per: float
    to_nock: float


def plan_string(bow: Bow, weight: float, full_draw: float, order: StringOrder) -> StringPlan:
    """Plan a string from the bow's own shape.

    Args:
        bow: with the wanted brace height, or the string's length.
        weight: at full draw (N).
        full_draw: (m).

    Raises:
        DescriptionError: a figure that cannot be, or strands that cannot be laid so.
        SolveError: what statics raise.
    """
    kind = string_kind(order.kind.name)
    _check(order)
    shape = _on_the_bow(bow, order)
    strength = None
    if kind.use == "ties":
        needed = _cable_pull(bow, full_draw, weight) / STANDING_SHARE
    else:
        strength = strength_for(bow, weight, full_draw, order.fifteen)
        bracing = BRACING_TIMES * strength.brace_tension / STANDING_SHARE
        needed = bracing if kind.use == "braces" else strength.by(order.rule)
    bears = order.bears or strand_bears(order.fibre, order.breaks)
    bundles = order.bundles
    if order.strands is not None:
        check_strands(kind, order.strands, bundles)
    count = order.strands or strands_for(needed, order.fibre, kind, bears, bundles)
    shares = shared_out(count, bundles) if bundles > 1 else (count,)
    diameter = diameter_of(order.fibre, count)
    loops = _loops(bow, order, kind)
    untwisted = shape.length / (1 + order.fibre.stretch)
    twist = twist_of(kind, diameter, untwisted, order.turns)
    posts = untwisted + twist.takes_up
    pieces = _pieces(order, kind)
    if kind.is_loop:
        cut = count * posts + 2 * TAIL
        thread = cut
    else:
        cut = posts + _beyond(kind, loops)
        thread = cut * count
    per_piece = max(1, count // 12)
    thread += 2 * per_piece * sum(pieces)
    square = nocking = None
    if kind.use == "shoots":
        square = shape.to_nock - (ARROW_ABOVE_PIVOT - bow.hold.nock_offset)
        nocking = square - (NOCK_ABOVE if order.nock_above is None else order.nock_above)
    parts, masses = _parts(
        order, shape.length, loops, diameter, count, thread, nocking, square, per_piece, pieces
    )
    keeps = kind.keeps * min(1.0, twist.strength / _usual_strength(kind, diameter, untwisted))
    return StringPlan(
        order, shape.brace, shape.length, shape.brace_per, strength, needed, bears, count, shares,
        count * keeps * bears.low, posts, cut, pieces, thread, twist, diameter, loops, parts,
        masses, square, nocking, shape.to_nock + bow.hold.pivot[0] + bow.hold.nock_offset,
        stretch_stiffness(order.fibre, count),
    )  # fmt: skip


def _usual_strength(kind: StringKind, diameter: float, length: float) -> float:
    """What the usual twist leaves, which the share of the kind counts already."""
    return twist_of(kind, diameter, length).strength


def _check(order: StringOrder) -> None:
    if order.rule not in RULES:
        raise DescriptionError(f"Choose one of {', '.join(RULES)}.", "rule")
    if order.plies is not None and not 2 <= order.plies <= MOST_PLIES:
        raise DescriptionError(f"Cordage is laid of two to {MOST_PLIES} plies.", "plies")
    for name in ("length", "throat", "serving", "serving_above", "piece"):
        value = getattr(order, name)
        if value is not None and not (math.isfinite(value) and value >= 0):
            raise DescriptionError("This cannot be below nothing.", name)
    if order.pieces is not None and not 0 <= order.pieces <= 6:
        raise DescriptionError("A loop holds none to six reinforcing pieces.", "pieces")


def _on_the_bow(bow: Bow, order: StringOrder) -> _Shape:
    """The string's length on the bow, and what a little less of it does."""
    kind = order.kind
    limbs = grid(bow)
    tips = statics.unbent_nocks(limbs)[:, 0]
    apart = float(abs(tips[0] - tips[1]))
    if kind.use == "tillers":
        long = apart + HUNG if order.length is None else order.length
        return _Shape(long, None, 0.0, long / 2)
    if kind.use == "braces":
        long = 2 * math.hypot(apart / 2, KNEE) if order.length is None else order.length
        return _Shape(long, None, 0.0, long / 2)
    if kind.use == "ties":
        return _cable(bow, order)
    if bow.back_bow is not None:
        return _with_back_bow(bow, order)
    if order.length is not None:
        bow = replace(bow, brace_height=None, string_length=order.length)
    braced = statics.brace_bow(limbs, bow)
    if braced.slack:
        raise DescriptionError(
            "So long a string hangs slack: it is longer than the unstrung bow.", "length"
        )
    length = float(braced.string_length[0])
    step = 0.003
    shorter = statics.brace(limbs, bow.hold, string_length=np.array([length - step]))
    per = (float(shorter.height[0]) - float(braced.height[0])) / step
    return _Shape(length, float(braced.height[0]), per, float(braced.upper_part[0]))


def _with_back_bow(bow: Bow, order: StringOrder) -> _Shape:
    if order.length is not None:
        bow = replace(bow, brace_height=None, string_length=order.length)
    draws = np.array([bow.draw]) if bow.draw else None
    found = backbow.solve(bow, draws)
    height, long = found.brace_height, found.string_length
    step = 0.003
    other = replace(bow, brace_height=None, string_length=long - step)
    per = (backbow.solve(other, draws).brace_height - height) / step
    return _Shape(long, height, per, float(found.halves[0]))


def _cable(bow: Bow, order: StringOrder) -> _Shape:
    if bow.back_bow is None:
        raise DescriptionError("This bow has no back-bow to tie with a cable.", "kind")
    found = backbow.solve(bow, None)
    natural = float(found.cables[0].natural or 0.0)
    return _Shape(natural if order.length is None else order.length, None, 0.0, natural / 2)


def _cable_pull(bow: Bow, full_draw: float, weight: float) -> float:
    """Greatest pull of a cable, at the bow's real weight (N)."""
    found = backbow.solve(bow, np.array([full_draw]))
    return float(found.cable.max()) * weight / float(found.weight[-1])


def _loops(bow: Bow, order: StringOrder, kind: StringKind) -> tuple[float, float]:
    tips = float(bow.upper.width[-1]), float(bow.lower.width[-1])
    made = []
    for own, tip, room, end in zip(order.loops, tips, (LOOSER, CLOSER), kind.ends, strict=True):
        if own is not None and not (math.isfinite(own) and own > 0):
            raise DescriptionError("A loop has some opening.", "loops")
        made.append((own or room * tip) if "loop" in end else 2 * tip if end == "pocket" else 0.0)
    return made[0], made[1]


def _beyond(kind: StringKind, loops: tuple[float, float]) -> float:
    """Length of a bundle beyond what lies between the nocks: loops doubled back, tails, hitches."""
    long = 0.0
    for end, opening in zip(kind.ends, loops, strict=True):
        long += opening + TAIL if "loop" in end or end == "pocket" else HITCH
    return long


def _pieces(order: StringOrder, kind: StringKind) -> tuple[float, ...]:
    looped = any(end == "laid loop" for end in kind.ends)
    number = (3 if looped else 0) if order.pieces is None else order.pieces
    longest = PIECE if order.piece is None else order.piece
    return tuple(max(longest - k * STAGGER, 0.04) for k in range(number))


def _parts(
    order: StringOrder,
    length: float,
    loops: tuple[float, float],
    diameter: float,
    count: int,
    thread: float,
    nocking: float | None,
    square: float | None,
    per_piece: int,
    pieces: tuple[float, ...],
) -> tuple[tuple[Part, ...], Masses]:
    """Every part with its place, and the masses of all."""
    kind, line = order.kind, order.fibre.line_mass
    hard = round_thread(order.serving_thread)
    throat = THROAT if order.throat is None else order.throat
    ends = []
    for end, opening in zip(kind.ends, loops, strict=True):
        served = throat if "loop" in end or end == "pocket" else 0.0
        ends.append((opening, served))
    centre = (0.0, 0.0)
    if square is not None and nocking is not None:
        whole = CENTRE_SERVING if order.serving is None else order.serving
        above = min(ABOVE if order.serving_above is None else order.serving_above, whole)
        centre = (square - above, square - above + whole)
    low, high = sum(ends[0]), length - sum(ends[1])
    if low >= high or (centre[1] > centre[0] and not low < centre[0] < centre[1] < high):
        raise DescriptionError(
            "Loops and servings do not fit on so short a string; make them shorter.", "serving"
        )
    wax = wax_share(order.fibre)
    strand = count * line  # of the body, a length
    found: list[Part] = []
    loop_mass = 0.0
    for name, (opening, served), end, start, turned in (
        ("upper", ends[0], kind.ends[0], 0.0, False),
        ("lower", ends[1], kind.ends[1], length, True),
    ):
        # what is laid back into the string thickens throat and loop
        back = (TAIL if "laid" in end or end == "pocket" else 0.0) * strand
        laid = 2 * opening * strand / (1 if end == "laid loop" else 2) + back
        reinforce = per_piece * sum(pieces) * line if "loop" in end else 0.0
        wrap = 0.0
        if served and opening:
            wrap = thread_for_serving(1.3 * diameter, hard, served)
            if end == "served loop":
                wrap += thread_for_serving(0.75 * diameter, hard, 2 * opening)
        mass = laid + reinforce + wrap * order.serving_thread + strand * served
        spans = ((f"{name} loop", 0.0, opening), (f"{name} throat", opening, opening + served))
        for part, a, b in spans:
            if b <= a:
                continue
            share = (mass - strand * served) * (0.5 if served else 1.0)
            here = (start - b, start - a) if turned else (a, b)
            own = share + (strand * served if "throat" in part else 0.0)
            found.append(Part(part, *here, 1.3 * diameter, own, wrap if "throat" in part else 0.0))
        loop_mass += mass
    body = strand * (high - low)
    serve = 0.0
    if centre[1] > centre[0]:
        wrap = thread_for_serving(diameter, hard, centre[1] - centre[0])
        serve = wrap * order.serving_thread
        own = serve + strand * (centre[1] - centre[0])
        found.append(Part("centre serving", *centre, diameter + 2 * hard, own, wrap))
    found.append(Part("body", low, high, diameter, body))
    strands = thread * line
    masses = Masses(body, loop_mass, serve, wax * strands, order.silencers[0])
    return tuple(sorted(found, key=lambda part: (part.start, part.end))), masses
