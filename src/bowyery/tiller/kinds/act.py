"""How acts are read: an amount, a limb, and a stretch of it, as far as their forms have them."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Side
from bowyery.tiller.kinds.kind import Build
from bowyery.tiller.statements import LIMBS, Context, Statement, one
from bowyery.units.quantity import LENGTH, Quantity, Units

HEAT_CARE = (
    "Heat and open fire: outdoors or with the air moving, water at hand, and mind a fire ban;"
    " an oven or heat box with lamps wants a thermometer and a cut-out."
)
GLUE_CARE = "Glues and solvents: gloves, moving air, and as their labels say."
LATER = "later"  # the tool of an act that is still to come
ONE_LIMB = ("upper", "lower")


def _ends(c: Context) -> Side | None:
    return LIMBS.get((c.text("ends") or "both").split()[0])


def act_of(
    kind: str, bound: str = "", what: str = "", quantity: Quantity = LENGTH, how: str = "how"
) -> Build:
    """A statement of an act from its form.

    Args:
        bound: of its amount, a key of BOUNDS.
        what: an amount outside is called so.
        how: the figure that says with or to what it was done.
    """

    def build(c: Context) -> tuple[Statement, ...]:
        limb = _ends(c) if c.text("ends") else c.limb()
        value, amount = None, c.text("amount")
        if amount is not None:
            value = quantity.read(amount, c.world)
            c.within(value, bound, what)
        start, end = c.place("start", limb), c.place("end", limb)
        if start is None and c.text("place") is not None:
            start = end = c.place("place", limb)
        if start is not None and end is not None and not start <= end:
            start, end = end, start
        more = float(c.text("minutes") or 0) or None
        if more is not None:
            c.within(more, "minutes of heat", "no time to heat a limb")
        if c.text("way") in ("down", "lower", "deflex") and value is not None:
            value = -value
        said = " ".join((c.text(how) or "").split())
        return one(c, kind, value, limb=limb, start=start, end=end, more=more, how=said)

    return build


def limb_words(s: Statement) -> str:
    """The limb an act was done to, or both."""
    return f"the {s.limb} limb" if s.limb else "both limbs"


def stretch_words(s: Statement, shown: Units) -> str:
    """Where on a limb an act was done, with a comma before it; nothing where it was all over."""
    if s.start is None or s.end is None:
        return ""
    if s.start == s.end:
        return f", {shown.length(s.start)} from the centre"
    return f", {shown.bare_length(s.start)} to {shown.length(s.end)} from the centre"


def bevelled(width: Floats, depth: Floats, edge: Floats) -> Floats:
    """Log of what is left of a rectangle's stiffness once both edges of its belly are taken off by
    so much (m); a little less than a section that is rounded already loses.

    Args:
        width, depth, edge: ``(places,)`` (m).
    """
    z = np.linspace(0.0, 1.0, 201)[:, None]
    edge = np.minimum(edge, 0.45 * np.minimum(width, depth))
    wide = width - 2 * np.maximum(0.0, z * depth - (depth - edge))
    area = np.trapezoid(wide, z, axis=0)
    middle = np.trapezoid(wide * z, z, axis=0) / area
    second = np.trapezoid(wide * (z - middle) ** 2, z, axis=0)
    return np.asarray(np.log(second / (width / 12)))
