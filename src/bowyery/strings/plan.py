"""Bowstrings: strength by three rules, strands, lengths to cut, twist and mass."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bowyery.bow.bow import Bow, StringLine
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError, SolveError
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.dynamics import USUAL_ARROW, loose, masses_for
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre

Kind = Literal["continuous loop", "two-bundle laid twist"]
KINDS: tuple[Kind, Kind] = ("continuous loop", "two-bundle laid twist")

SCHOOL_ONE_DRAW = 15 * INCH
SCHOOL_ONE_TIMES = 10.0
SCHOOL_TWO_TIMES = (4.0, 6.0)
# A yarn that stands under less than a third to a quarter of its strength creeps little and does not
# tire (Morton and Hearle 2008, chapters 16 and 19): the highest tension that statics give must be
# no more than that. As the string stops the limbs it is pulled harder for a moment, at each shot.
STANDING_SHARE = 0.28
SHOT_SHARE = 0.5
# Twist, knots and loops leave about this share of a strand's straight breaking force.
LAID_SHARE = 0.85
# Served: where arrow and fingers are, and both loops of a continuous string; a thread of so much
# mass a length, wound side by side.
CENTRE_SERVING = 6.5 * INCH
LOOP_SERVING = 5 * INCH
SERVING_THREAD = 140e-6
# Wax, as a share of the strands' mass: natural thread is soaked with it, smooth filaments hold
# little.
NATURAL_WAX, SMOOTH_WAX = 0.15, 0.05
# Natural yarn takes up about half of what the helix of its outer fibres says: the inner ones give
# way and the bundle packs tighter (Hearle, Grosberg and Backer 1969, chapter 2).
TWIST_SHARE = 0.5
# No string is thinner: fingers and nocks want something to hold (m).
LEAST_DIAMETER = 0.0021
PACKING = 0.75  # share of a round string's section that is fibre
FIBRE_DENSITY = 1300.0
TAIL = 8 * INCH
TURNS_PER_INCH = 0.5


@dataclass(frozen=True)
class Strength:
    """Breaking strength asked for by each rule (N).

    Attributes:
        school_one: ten times the weight at 15 in of draw (trade measure from the pivot).
        school_two: low and high end, four and six times the greatest weight.
        statics: what keeps the greatest tension of brace and draw under its standing share.
        shot: what keeps the greatest tension of a shot under half.
        brace_tension, draw_tension: at brace and at full draw.
        shot_tension: greatest as the string stops the limbs after a middling arrow.
    """

    school_one: float
    school_two: tuple[float, float]
    statics: float
    shot: float
    brace_tension: float
    draw_tension: float
    shot_tension: float

    @property
    def required(self) -> float:
        """The highest answer, taking the middle of school two."""
        return max(self.school_one, 0.5 * sum(self.school_two), self.statics, self.shot)


@dataclass(frozen=True)
class StringPlan:
    """A string for a bow; lengths in m, masses in kg.

    Attributes:
        length: from nock to nock, braced.
        brace_per_inch: by how much brace height rises when the string is a unit shorter (m per m).
        strength: asked for.
        strands: their number.
        safe: breaking force of the finished string at the low side (N).
        posts: distance of the jig's posts, or length to make the string before it stretches.
        cut: thread for the whole string (continuous loop), or length of each bundle (laid twist).
        bundles: how many bundles of that length; 1 for a continuous loop.
        per_bundle: strands in each bundle.
        turns: twists to give it.
        twist_take_up: by how much those turns shorten it.
        diameter: of the string.
        mass: with serving and wax.
        kind: of string.
        fibre: of the strands.
    """

    kind: Kind
    fibre: Fibre
    length: float
    brace_per_inch: float
    strength: Strength
    strands: int
    safe: float
    posts: float
    cut: float
    bundles: int
    per_bundle: int
    turns: int
    twist_take_up: float
    diameter: float
    mass: float


def usual_string(fibre: Fibre, weight: float, length: float) -> StringLine:
    """The string usually made for a weight (N) and length (m): strands by the middle of school two,
    but no thinner than fingers and nocks want it, served and waxed.

    Its stretch follows from the stretch that the fibre's table gives at an eighth of its breaking
    force.

    Raises:
        DescriptionError: the weight or length is not above zero.
    """
    for what, value in (("weight", weight), ("length", length)):
        if not (math.isfinite(value) and value > 0):
            raise DescriptionError("This must be above zero.", what)
    asked = 0.5 * sum(SCHOOL_TWO_TIMES) * weight / (LAID_SHARE * fibre.breaking_force)
    strands = max(math.ceil(asked), least_strands(fibre))
    mass = _mass(fibre, strands, strands * length, True)
    return StringLine(mass, strands * fibre.breaking_force / 8 / fibre.stretch)


def least_strands(fibre: Fibre) -> int:
    """Strands that make the thinnest string that is made, an even number.

    Args:
        fibre: of the strands.
    """
    area = PACKING * math.pi * LEAST_DIAMETER**2 / 4
    return 2 * math.ceil(area * FIBRE_DENSITY / fibre.line_mass / 2 - 1e-9)


def diameter_of(fibre: Fibre, strands: int) -> float:
    """Of a round string of so many strands (m).

    Args:
        fibre: of the strands.
        strands: their number.
    """
    return math.sqrt(4 * strands * fibre.line_mass / FIBRE_DENSITY / (math.pi * PACKING))


def _mass(fibre: Fibre, strands: int, thread: float, loops: bool) -> float:
    """Of a string with its wax and serving (kg), from the thread in it (m)."""
    wax = NATURAL_WAX if fibre.natural else SMOOTH_WAX
    served = CENTRE_SERVING + (2 * LOOP_SERVING if loops else 0.0)
    round_it = math.sqrt(4 * SERVING_THREAD / FIBRE_DENSITY / math.pi)
    serving = thread_for_serving(diameter_of(fibre, strands), round_it, served) * SERVING_THREAD
    return thread * fibre.line_mass * (1 + wax) + serving


def twist_shortening(diameter: float, turns: float, length: float) -> float:
    """By how much a laid string of a diameter shortens with its turns (m).

    The outer fibres lie on a helix of circumference π·diameter, which takes up
    ``ℓ (1 − sqrt(1 − (π δ N / ℓ)²))`` of a length ℓ; a yarn takes up about half of that (Hearle,
    Grosberg and Backer, Structural Mechanics of Fibers, Yarns, and Fabrics, 1969, chapter 2).

    Raises:
        DescriptionError: more turns than the length can hold.
    """
    steep = math.pi * diameter * turns / length
    if not 0 <= steep < 1:
        raise DescriptionError("So many turns do not fit on this length.", "turns")
    return TWIST_SHARE * length * (1 - math.sqrt(1 - steep**2))


def thread_for_serving(diameter: float, thread: float, length: float) -> float:
    """Serving thread of a diameter needed to cover a length of string (m): ``π(δ +
    δ_t)·length/δ_t``.
    """
    return math.pi * (diameter + thread) * length / thread


def strength_for(bow: Bow, weight: float, full_draw: float) -> Strength:
    """Work out the strength a bow asks of its string.

    Args:
        bow: with its brace height.
        weight: measured or wanted at full draw (N); the model's forces are scaled to it.
        full_draw: (m).

    Raises:
        SolveError: what statics raise.
    """
    limbs = grid(bow)
    braced = statics.brace_bow(limbs, bow)
    fifteen = max(SCHOOL_ONE_DRAW, float(braced.least_draw[0]) * 1.02)
    curve = force_curve.solve_grid(
        limbs, bow, np.array([min(fifteen, full_draw), full_draw]), braced
    )
    scale = weight / float(curve.drawn.weight[-1])
    at_brace = float(braced.tension[0]) * scale
    at_draw = float(curve.drawn.tension[:, -1].max()) * scale
    try:
        shot = loose(
            bow, full_draw, USUAL_ARROW * weight / scale, masses=masses_for(bow, 10), steps=60
        )
        at_shot = shot.peak_tension * scale
    except (DescriptionError, SolveError):  # where it cannot be followed, the statics must do
        at_shot = 0.0
    return Strength(
        SCHOOL_ONE_TIMES * float(curve.drawn.weight[0]) * scale,
        (SCHOOL_TWO_TIMES[0] * weight, SCHOOL_TWO_TIMES[1] * weight),
        max(at_brace, at_draw) / STANDING_SHARE,
        at_shot / SHOT_SHARE,
        at_brace,
        at_draw,
        at_shot,
    )


def strands_for(
    strength: float, fibre: Fibre, kind: Kind, strand_breaking: float | None = None
) -> int:
    """Strands needed, rounded up, and no fewer than the thinnest string has; a laid twist and a
    loop both have an even number.

    Args:
        strength: breaking strength asked for (N).
        fibre: of the strands.
        kind: of string.
        strand_breaking: of one strand as tested (N), or None for the table's.

    Returns:
        Their number.
    """
    safe = LAID_SHARE * (strand_breaking or fibre.breaking_force)
    return max(4, least_strands(fibre), 2 * math.ceil(strength / safe / 2))


def plan_string(
    bow: Bow, weight: float, full_draw: float, fibre: Fibre, kind: Kind, strands: int | None = None
) -> StringPlan:
    """Plan a string from the bow's own shape.

    Args:
        bow: with the wanted brace height.
        weight: at full draw (N).
        full_draw: (m).
        fibre: of the strands.
        kind: continuous loop or two-bundle laid twist.
        strands: the maker's own number, or None for the number the strength asks for.

    Raises:
        DescriptionError: unknown kind, or a number of strands that cannot be laid so.
        SolveError: what statics raise.
    """
    if kind not in KINDS:
        raise DescriptionError(f"Choose one of {', '.join(KINDS)}.", "kind")
    if strands is not None and (strands < 4 or strands > 400 or strands % 2):
        raise DescriptionError("Give an even number of strands from 4 to 400.", "strands")
    strength = strength_for(bow, weight, full_draw)
    count = strands or strands_for(strength.required, fibre, kind)
    limbs = grid(bow)
    length = float(statics.brace_bow(limbs, bow).string_length[0])
    shorter = statics.brace(limbs, bow.hold, string_length=np.array([length - 0.005]))
    per_inch = (float(shorter.height[0]) - float(bow.brace_height or 0.0)) / 0.005
    diameter = diameter_of(fibre, count)
    posts = length / (1 + fibre.stretch)
    tip = float(bow.upper.width[-1])
    loop = 3.2 * tip  # around the tip with room to slide down the limb a little
    if kind == "continuous loop":
        turns = round(posts / INCH * 0.15)
        take_up = twist_shortening(diameter, turns, posts)
        posts += take_up
        cut, bundles, each = count * posts + 2 * TAIL, 1, count
        thread = cut
    else:
        turns = round(posts / INCH * TURNS_PER_INCH)
        take_up = twist_shortening(diameter, turns, posts)
        posts += take_up
        cut, bundles, each = posts + 2 * (loop + TAIL), 2, count // 2
        thread = cut * count
    mass = _mass(fibre, count, thread, kind == "continuous loop")
    return StringPlan(
        kind,
        fibre,
        length,
        per_inch,
        strength,
        count,
        count * LAID_SHARE * fibre.breaking_force,
        posts,
        cut,
        bundles,
        each,
        turns,
        take_up,
        diameter,
        mass,
    )
