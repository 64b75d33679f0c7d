"""The least and the greatest that each figure of a bow could be, in one table.

Forms, pencil lines, bow files and commands all go by it, so that a figure refused in one is refused
in the others. The bounds are wide: they are there for mistyped figures and wrong units, and keep
the mechanics where they are meant. What is unwise within them is said by the design's verdict.
"""

from __future__ import annotations

from dataclasses import dataclass

from bowyery.errors import DescriptionError
from bowyery.units.quantity import GRAIN, METRIC, POUND_FORCE, QUANTITIES, Units


@dataclass(frozen=True)
class Bound:
    """Between what a figure lies.

    Attributes:
        quantity: what it measures, a key of QUANTITIES; nothing for a plain number.
        low, high: in SI, both possible.
    """

    quantity: str
    low: float
    high: float

    def holds(self, value: float) -> bool:
        """Whether a value is possible.

        Returns:
            False for what is no number, too.
        """
        return self.low <= value <= self.high

    def words(self, shown: Units) -> str:
        """What is possible, with the reader's unit, as ``at least 2 in, at most 4 in``."""
        if not self.quantity:
            return f"at least {self.low:g}, at most {self.high:g}"
        one = QUANTITIES[self.quantity]
        sign = one.sign(shown.world)
        low, high = one.bare(self.low, shown), one.bare(self.high, shown)
        return f"at least {low} {sign}, at most {high} {sign}"


def _length(low: float, high: float) -> Bound:
    return Bound("length", low, high)


BOUNDS: dict[str, Bound] = {
    # what a bow shall do
    "draw": _length(0.05, 1.15),
    "archer's draw": _length(0.25, 1.1),
    "archer's reach": _length(0.7, 2.4),
    "draw weight": Bound("weight", 1.0, 1000.0),
    "wanted weight": Bound("weight", 5 * POUND_FORCE, 200 * POUND_FORCE),
    "brace height": _length(0.03, 0.35),
    "difference of gaps": _length(-0.03, 0.03),
    "arrow mass": Bound("mass", 50 * GRAIN, 3000 * GRAIN),
    "arrow speed": Bound("speed", 10.0, 120.0),
    # its sizes
    "bow length": _length(0.7, 2.6),
    "half of a bow": _length(0.0, 1.6),
    "handle": _length(0.0, 0.4),
    "fade": _length(0.0, 0.2),
    "handle depth": _length(0.015, 0.09),
    "grip below centre": _length(-0.05, 0.12),
    "limb width": _length(0.01, 0.12),
    "width of a grip": _length(0.008, 0.12),
    "wood beyond the nock": _length(0.0, 0.15),
    "bent tip": _length(0.01, 0.6),
    "angle of a tip": Bound("angle", -1.31, 1.31),
    "line of a limb": _length(-0.3, 0.3),
    "wedge": _length(0.01, 0.6),
    "tip width": _length(0.006, 0.06),
    "limb thickness": _length(0.002, 0.06),
    "thinnest tip": _length(0.004, 0.03),
    "width at a mark": _length(0.0005, 0.15),
    "thickness at a mark": _length(0.0005, 0.09),
    "layer": _length(0.0, 0.09),
    "laid layer": _length(0.0, 0.02),
    "reflex": _length(-0.12, 0.12),
    "radius of log or culm": _length(0.008, 1.0),
    "wall of a tube": _length(0.0005, 0.03),
    "rod in a tube": _length(0.002, 0.05),
    "share of a size": Bound("", 1e-6, 1.0),
    "curvature": Bound("", -40.0, 40.0),
    "angle": Bound("", -90.0, 90.0),
    "off the line": _length(-0.6, 0.6),
    "nocking point above the middle": _length(-0.15, 0.15),
    "stiffness of a grip": Bound("", 0.01, 1e6),
    # as files have them, from elsewhere or of a bow that is only part of one
    "brace of a file": _length(0.001, 0.6),
    "draw of a file": _length(0.01, 1.6),
    "radius of a section": _length(0.0005, 10.0),
    "arrow of a file": Bound("mass", 1e-4, 2.0),
    "mass of a line": Bound("mass", 1e-5, 1.0),
    "tension of a file": Bound("weight", 0.0, 20000.0),
    # a bow on its back
    "back-bow length": _length(0.2, 2.0),
    "back-bow width": _length(0.005, 0.1),
    "back-bow thickness": _length(0.002, 0.04),
    "cable tied in": _length(0.0, 0.4),
    "cable tension": Bound("weight", 1.0, 2000.0),
    "slack of a cable": _length(0.0, 0.1),
    "stiffness of a line": Bound("", 10.0, 1e7),
    # its string
    "string length": _length(0.4, 2.8),
    "brace on the tree": _length(0.01, 0.35),
    "string on the tree": _length(0.01, 4.0),
    "string mass": Bound("mass", 5 * GRAIN, 3000 * GRAIN),
    "strands": Bound("", 4, 400),
    "strand of ten metres": Bound("mass", 2e-4, 0.2),
    "strength of a strand": Bound("weight", 2.0, 5000.0),
    "fineness of a thread": Bound("fineness", 5e-6, 2e-2),
    "stock of thread": Bound("bulk mass", 0.001, 50.0),
    "loop": _length(0.004, 0.15),
    "throat": _length(0.0, 0.2),
    "serving": _length(0.0, 0.5),
    "above the square": _length(-0.03, 0.05),
    "reinforcing piece": _length(0.04, 0.6),
    "silencers": Bound("mass", 0.0, 0.02),
    "place on a string": _length(0.0, 2.8),
    "stretch of a string": _length(0.0, 0.15),
    "load on a string": Bound("weight", 5.0, 2000.0),
    "made shorter": _length(-0.1, 0.1),
    "off the grip": _length(0.0, 0.06),
    "width of a hide strip": _length(0.0005, 0.05),
    "jig": _length(0.3, 4.0),
    "turns": Bound("", 0, 400),
    "turns put in": Bound("", -200, 200),
    "plies": Bound("", 2, 6),
    "pieces": Bound("", 0, 6),
    "pulls of a string": Bound("", 0, 100_000),
    "strands of any string": Bound("", 2, 400),
    # materials
    "modulus": Bound("modulus", 2e7, 6e11),
    "modulus of a material": Bound("modulus", 2e8, 1.5e11),
    "modulus of a wood": Bound("modulus", 1e9, 6e10),
    "rupture of a material": Bound("stress", 5e6, 5e9),
    "rupture of a wood": Bound("stress", 1e7, 2e9),
    "density": Bound("density", 20.0, 12000.0),
    "density of a material": Bound("density", 150.0, 3000.0),
    "density of a wood": Bound("density", 200.0, 2500.0),
    "toughness": Bound("toughness", 5e3, 1e6),
    "strain": Bound("", 1e-5, 0.5),
    "moisture worked": Bound("moisture", 0.03, 0.6),
    "moisture": Bound("moisture", 0.0, 2.0),
    "moisture of a meter": Bound("moisture", 0.01, 2.0),
    "moisture of a strip": Bound("moisture", 0.03, 0.4),
    # staves
    "stave length": _length(0.3, 6.0),
    "stave width": _length(0.005, 0.6),
    "stave depth": _length(0.002, 0.4),
    "width across": _length(0.002, 0.6),
    "along a stave": _length(0.0, 6.0),
    "off a stave's line": _length(-0.3, 0.3),
    "crown": _length(0.005, 5.0),
    "twist": Bound("", -180.0, 180.0),
    "growth ring": _length(0.0002, 0.03),
    "sapwood": _length(0.0, 0.1),
    "drift of the grain": _length(0.0, 0.5),
    "length of a drift": _length(0.05, 6.0),
    "wall of a culm": _length(0.001, 0.05),
    "cut off an end": _length(0.0, 3.0),
    "stave mass": Bound("bulk mass", 0.01, 100.0),
    "flaw length": _length(0.0005, 3.0),
    "flaw size": _length(0.0005, 0.3),
    "span of a strip": _length(0.05, 3.0),
    "load of a strip": Bound("weight", 0.1, 1000.0),
    "sag of a strip": _length(0.0002, 0.3),
    "strip width": _length(0.002, 0.2),
    "strip depth": _length(0.001, 0.05),
    "strip length": _length(0.05, 4.0),
    "strip mass": Bound("bulk mass", 0.001, 20.0),
    # at the tiller
    "gap": _length(0.01, 0.4),
    "tip down": _length(-0.3, 1.0),
    "limb off a line": _length(-0.05, 0.3),
    "under an edge": _length(-0.02, 0.025),
    "traced limb": _length(-0.5, 1.2),
    "photograph's error": _length(0.0001, 0.1),
    "straight edge": _length(0.04, 0.6),
    "place on a limb": _length(0.0, 1.3),
    "wood off": _length(1e-5, 0.02),
    "hold": Bound("weight", 0.1, 150.0),
    "hook off the middle": _length(-0.08, 0.08),
    "unstrung limb": _length(-0.2, 0.3),
    "string off the middle": _length(-0.06, 0.06),
    "limb aside": _length(-0.2, 0.2),
    "limb twisted": Bound("angle", -0.7, 0.7),
    "grip tilted": Bound("angle", -0.5, 0.5),
    "cut": _length(0.002, 0.6),
    "centre moved": _length(-0.1, 0.1),
    "patch": _length(0.0002, 0.012),
    "narrowed": _length(0.0002, 0.05),
    "laid on": _length(0.0002, 0.012),
    "floor push": Bound("weight", 1.0, 600.0),
    "floor sag": _length(0.003, 0.4),
    "minutes of heat": Bound("", 1, 600),
    "strokes": Bound("", 1, 1000),
    "pulls": Bound("", 1, 500),
    "minutes": Bound("", 1, 24 * 60),
    # at the proof
    "bow mass": Bound("bulk mass", 0.05, 3.0),
    "string follow": _length(-0.15, 0.25),
    "group": _length(0.005, 3.0),
    "distance": _length(2.0, 300.0),
    "wanted follow": _length(0.0, 0.15),
    "shots": Bound("", 1, 100_000),
    "use of what lasts": Bound("", 30, 140),
    # at the finish
    "arrow pass": _length(0.001, 0.04),
    "arrow's thickness": _length(0.003, 0.02),
    "rounded edge": _length(0.0, 0.02),
    "sanded off": _length(0.0, 0.003),
    "wrapped grip": _length(0.01, 0.4),
    "cord": _length(0.0003, 0.012),
    # the shop
    "hours a week": Bound("", 0.5, 100.0),
    "parts of a glue": Bound("", 0.01, 20.0),
    "pressure of a press": Bound("stress", 1e4, 5e6),
    "clamps": Bound("", 1, 200),
    "hours of rest": Bound("", 0.05, 5 * 365 * 24.0),
    "gear rating": Bound("weight", 10.0, 20000.0),
    "air": Bound("temperature", -20.0, 60.0),
    "share of weight lost": Bound("", 0.0, 0.3),
    "share of stretch": Bound("", 0.0, 0.2),
    "share": Bound("", 0.0, 1.0),
    "per cent": Bound("", 0, 100),
    "per cent of a limb": Bound("", 0, 95),
    "per cent of the width": Bound("", 30, 100),
}


def within(what: str, value: float, where: str, shown: Units | None = None) -> float:
    """A figure, as long as a bow could have it.

    Args:
        value: to be held against the bounds (SI).
        what: a key of BOUNDS.
        where: it was given, for the error.
        shown: the reader's units; millimetres and kilograms where it is left out.

    Raises:
        DescriptionError: it is outside.
    """
    bound = BOUNDS[what]
    if not bound.holds(value):
        possible = bound.words(shown or Units(METRIC))
        raise DescriptionError(f"This is outside what is possible: {possible}.", where)
    return value
