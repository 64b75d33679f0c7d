"""Wood that comes off: off the belly, or off another face, and what that does."""

from __future__ import annotations

from dataclasses import dataclass

from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.kind import Help, Kind
from bowyery.tiller.statements import Context, Statement, Tree, count, one
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import SHAVING, Units


@dataclass(frozen=True)
class Face:
    """A face that wood comes off, beside the belly.

    Attributes:
        words: how the form of removals calls it.
        written: how it is written, in one.
        doubt: log stiffness it leaves unknown, alike over a limb, and place by place.
        again: what to look at again after it.
        bevels: it leaves the greatest sizes alone.
        wood: it bears; bark bears next to nothing.
    """

    words: str
    written: tuple[str, ...]
    doubt: tuple[float, float]
    again: tuple[str, ...]
    bevels: bool = False
    wood: bool = True


FACES: dict[str, Face] = {
    "sides": Face("each side", ("side",), (0.02, 0.02), ("tiller", "weight")),
    "edges": Face("the edges", ("edge",), (0.02, 0.02), ("tiller",), bevels=True),
    "back": Face("the back", ("back",), (0.04, 0.02), ("tiller", "weight")),
    "bark": Face("the back's bark", ("bark",), (0.02, 0.01), ("tiller",), wood=False),
    "facets": Face("the facets", ("facet",), (0.02, 0.02), ("tiller",), bevels=True),
}
_WRITTEN = {word: name for name, face in FACES.items() for word in face.written}


def _removed(c: Context) -> tuple[Statement, ...]:
    limb = c.limb()
    start, end = c.place("start", limb), c.place("end", limb)
    if start is not None and end is not None and "from" in (c.text("end") or ""):
        start = c.reach(limb) - start  # both ends were counted from the tip
        start, end = min(start, end), max(start, end)
    if start is not None and end is not None and not start < end:
        raise UnreadableError(
            f"“{c.part}”: give the nearer place first, both measured from the centre."
        )
    face = _WRITTEN.get((c.text("face") or "belly").rstrip("s"), "")
    tool = " ".join((c.text("tool") or "").split())
    if c.text("count") is not None:
        strokes = count(c, "strokes")
        return one(c, "strokes", strokes, limb=limb, start=start, end=end, how=face, tool=tool)
    thickness = c.length("thickness") or 0.0
    if not BOUNDS["wood off"].holds(thickness):
        raise UnreadableError(
            f"“{c.part}”: the thickness taken must lie between 0 and 20 mm (¾ in)."
        )
    return one(c, "removed", thickness, limb=limb, start=start, end=end, how=face, tool=tool)


def _say_removed(s: Statement, tree: Tree, shown: Units) -> str:
    limb = f"the {s.limb} limb" if s.limb else "both limbs"
    face = "each side" if s.how == "sides" else f"the {s.how}"
    limb = f"{face} of {limb}" if s.how else limb
    limb += f" with the {s.tool}" if s.tool else ""
    value = s.value or 0.0
    amount = f"{value:.0f} strokes" if s.kind == "strokes" else SHAVING.write(value, shown)
    if s.start is None or s.end is None:
        return f"{amount} off {limb}"
    return f"{amount} off {limb}, {shown.length(s.start)} to {shown.length(s.end)} from the centre"


_AMOUNTS = ("{count} strokes?", "{thickness}")
# Verb and limb before the amount or after it; strokes need neither.
_WHAT = (
    *(("(?:off|took|take) {limbs} ", amount) for amount in _AMOUNTS),
    *(("(?:off|took|take) ", amount) for amount in _AMOUNTS),
    ("{limbs} ", _AMOUNTS[0]),
    ("", _AMOUNTS[0] + " (?:off )?{limbs}"),
)
_STRETCHES = ("", " from {start} to {end}", r" {start}\s*(?:to|–|-) {end}")
ROWS = (
    Kind(
        name="removed",
        also=("strokes",),
        walk="wood",
        build=_removed,
        say=_say_removed,
        forms=tuple(
            f"{limb}{amount}[(?: off)? {{face}}]{rest}"
            for limb, amount in _WHAT
            for stretch in _STRETCHES
            for rest in (
                f"{stretch}[ {{tool}}]",
                f"{stretch} {{bare}}",
                *((f" {{bare}}{stretch}", f" {{tool}}{stretch}") if stretch else ()),
            )
        ),
        helps=(
            Help("wood taken: a thickness or strokes, off which face if not the belly, where, with"
                 " what",
                 "off upper 1/64, off both 12 strokes 9 to 14 with rasp, off upper 1/16 sides",
                 "off upper 0.5, off both 12 strokes 230 to 360 with rasp, off upper 2 sides",
                 "off"),
        ),
    ),
)  # fmt: skip
