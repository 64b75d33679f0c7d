"""How strong a string must be: the schools side by side, and the strands that bear it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import grid
from bowyery.errors import DescriptionError, SolveError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.dynamics import USUAL_ARROW, loose, masses_for
from bowyery.strings.breaking import Bears
from bowyery.strings.kinds import StringKind
from bowyery.strings.thread import least_strands
from bowyery.units.quantity import INCH
from bowyery.wood.materials import Fibre

SCHOOL_ONE_DRAW = 15 * INCH
SCHOOL_ONE_TIMES = 10.0
SCHOOL_TWO_TIMES = (4.0, 6.0)
# A yarn that stands under less than a third to a quarter of its strength creeps little and does not
# tire (Morton and Hearle 2008, chapters 16 and 19): the highest tension that statics give must be
# no more than that. As the string stops the limbs it is pulled harder for a moment, at each shot.
STANDING_SHARE = 0.28
SHOT_SHARE = 0.5
BRACING_TIMES = 1.3  # the pull of a bracing string, against that of the string it makes room for
# What may win where the schools differ.
RULES = {
    "highest": "the highest of them",
    "fifteen": "ten times the weight at 15 in",
    "four": "four times the greatest weight",
    "five": "five times the greatest weight",
    "six": "six times the greatest weight",
    "statics": "what it stands under at brace and draw",
    "shot": "what the shot pulls",
}


@dataclass(frozen=True)
class Strength:
    """Breaking strength asked for by each rule (N).

    Attributes:
        school_one: ten times the weight at 15 in of draw (trade measure from the pivot).
        school_two: low and high end, four and six times the greatest weight.
        statics: what keeps the greatest tension of brace and draw under its standing share.
        shot: what keeps the greatest tension of a shot under half; 0 where it is not followed.
        brace_tension, draw_tension: at brace and at full draw.
        shot_tension: greatest as the string stops the limbs after a middling arrow.
        fifteen: weight at 15 in of draw.
        measured: that weight was read off the bow.
    """

    school_one: float
    school_two: tuple[float, float]
    statics: float
    shot: float
    brace_tension: float
    draw_tension: float
    shot_tension: float
    fifteen: float
    measured: bool = False

    @property
    def required(self) -> float:
        """The highest answer, taking the middle of school two."""
        return max(self.school_one, 0.5 * sum(self.school_two), self.statics, self.shot)

    def by(self, rule: str) -> float:
        """What one rule asks for (N).

        Args:
            rule: a key of RULES.

        Raises:
            DescriptionError: there is no such rule, or the shot could not be followed.
        """
        low, high = self.school_two
        answers = {
            "highest": self.required, "fifteen": self.school_one, "four": low,
            "five": 0.5 * (low + high), "six": high, "statics": self.statics, "shot": self.shot,
        }  # fmt: skip
        if rule not in answers:
            raise DescriptionError(f"Choose one of {', '.join(RULES)}.", "rule")
        if rule == "shot" and self.shot <= 0:
            raise DescriptionError("The shot of this bow could not be followed.", "rule")
        return answers[rule]


def strength_for(
    bow: Bow, weight: float, full_draw: float, fifteen: float | None = None
) -> Strength:
    """Work out the strength a bow asks of its string.

    Args:
        weight: measured or wanted at full draw (N); the model's forces are scaled to it.
        full_draw: (m).
        fifteen: weight as it was read at 15 in of draw (N), or None.

    Raises:
        DescriptionError: a weight at 15 in that is not below the one at a longer full draw.
        SolveError: what statics raise.
    """
    weights, tensions, brace_tension = _pulled(bow, full_draw)
    scale = weight / float(weights[-1])
    at_brace, at_draw = brace_tension * scale, float(tensions[:, -1].max()) * scale
    at_fifteen = float(weights[0]) * scale
    if fifteen is not None:
        if not (math.isfinite(fifteen) and fifteen > 0):
            raise DescriptionError("This must be above zero.", "weight_15in")
        if full_draw > 1.1 * SCHOOL_ONE_DRAW and fifteen >= weight:
            raise DescriptionError(
                "The weight at 15 in is as much as that at full draw; one of them is mistyped.",
                "weight_15in",
            )
        at_fifteen = fifteen
    try:
        shot = loose(
            bow, full_draw, USUAL_ARROW * weight / scale, masses=masses_for(bow, 10), steps=60
        )
        at_shot = shot.peak_tension * scale
    except (DescriptionError, SolveError):  # where it cannot be followed, the statics must do
        at_shot = 0.0
    return Strength(
        SCHOOL_ONE_TIMES * at_fifteen,
        (SCHOOL_TWO_TIMES[0] * weight, SCHOOL_TWO_TIMES[1] * weight),
        max(at_brace, at_draw) / STANDING_SHARE,
        at_shot / SHOT_SHARE,
        at_brace,
        at_draw,
        at_shot,
        at_fifteen,
        fifteen is not None,
    )


def _pulled(bow: Bow, full_draw: float) -> tuple[Floats, Floats, float]:
    """Weights and tensions at 15 in and at full draw, and the tension at brace."""
    if bow.back_bow is not None:
        least = backbow.solve(bow, np.array([full_draw])).least_draw
        fifteen = min(max(SCHOOL_ONE_DRAW, least * 1.02), full_draw * (1 - 1e-6))
        shared = backbow.solve(bow, np.array([fifteen, full_draw]))
        return shared.weight, shared.tension, shared.brace_tension
    limbs = grid(bow)
    braced = statics.brace_bow(limbs, bow)
    fifteen = max(SCHOOL_ONE_DRAW, float(braced.least_draw[0]) * 1.02)
    draws = np.array([min(fifteen, full_draw), full_draw])
    drawn = force_curve.solve_grid(limbs, bow, draws, braced).drawn
    return drawn.weight, drawn.tension, float(braced.tension[0])


def strands_for(strength: float, fibre: Fibre, kind: StringKind, bears: Bears, bundles: int) -> int:
    """Strands needed, rounded up to what can be laid evenly, and no fewer than the thinnest string
    has.

    Args:
        strength: breaking strength asked for (N).

    Raises:
        DescriptionError: tests so scattered that their low side is nothing.
    """
    if bears.low <= 0:
        raise DescriptionError(
            "The strands broke so unevenly that their low side is nothing: test more of them.",
            "breaks",
        )
    step = max(kind.step, bundles)
    asked = max(strength / (kind.keeps * bears.low), least_strands(fibre), 4)
    return step * math.ceil(asked / step - 1e-9)
