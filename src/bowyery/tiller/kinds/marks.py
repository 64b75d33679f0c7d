"""Marks on the wood: a knot, a crack, a lifted splinter, a fret, or just “leave alone”.

A mark is a fact of the limb with a place, until it is rubbed off by hand. No wood comes off there.
"""

from __future__ import annotations

from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.eye import EYE_REACH
from bowyery.tiller.kinds.kind import Help, Kind
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import Units

MARKS = {
    "knot": "a knot", "crack": "a crack", "splinter": "a lifted splinter", "fret": "a fret",
    "leave": "a place to leave alone",
}  # fmt: skip
_WRITTEN = "knot|crack|(?:lifted )?splinter|fret|leave alone|leave"


def _placed(kind: str, c: Context, how: str) -> tuple[Statement, ...]:
    limb = c.limb()
    start, end = c.place("start", limb), c.place("end", limb)
    if start is None:
        start = end = c.place("place", limb)
    if start is None or end is None:
        raise UnreadableError(f"“{c.part}” does not say where; give a place from the centre.")
    if start == end:
        start, end = max(0.0, start - EYE_REACH), start + EYE_REACH
    return (Statement(kind, c.part, None, limb, None, min(start, end), max(start, end), how=how),)


def _mark(c: Context) -> tuple[Statement, ...]:
    return _placed("mark", c, (c.text("how") or "").split()[0].replace("lifted", "splinter"))


def _where(s: Statement, shown: Units) -> str:
    start, end = s.start or 0.0, s.end or 0.0
    if end - start < 2.01 * EYE_REACH:
        return f"the {s.limb} limb, about {shown.length(0.5 * (start + end))} from the centre"
    return f"the {s.limb} limb, {shown.bare_length(start)} to {shown.length(end)} from the centre"


def _say_mark(s: Statement, tree: Tree, shown: Units) -> str:
    return f"{MARKS.get(s.how, s.how)} on {_where(s, shown)}"


def _say_rubbed(s: Statement, tree: Tree, shown: Units) -> str:
    return f"marks rubbed off {_where(s, shown)}"


_PLACES = (r" {start}\s*(?:to|–|-) {end}", " from {start} to {end}", "[ at] {place}")
ROWS = (
    Kind(
        name="mark",
        walk="mark",
        build=_mark,
        say=_say_mark,
        forms=tuple(
            form
            for where in _PLACES
            for form in (
                f"(?P<how>{_WRITTEN}) {{limb}}{where}",
                f"{{limb}} (?P<how>{_WRITTEN}){where}",
            )
        ),
        helps=(
            Help("a mark on the wood: knot, crack, splinter, fret, leave alone",
                 "crack upper 11, leave alone lower 8 to 10",
                 "crack upper 280, leave alone lower 200 to 250",
                 "knot|crack|splinter|fret|leave"),
        ),
    ),
    Kind(
        name="rubbed",
        walk="mark",
        build=lambda c: _placed("rubbed", c, ""),
        say=_say_rubbed,
        forms=tuple(f"rub(?:bed)? off {{limb}}{where}" for where in _PLACES),
        helps=(
            Help("a mark rubbed off: the wood there is as it should be", "rub off upper 14",
                 "rub off upper 360", "rub|rubbed"),
        ),
    ),
)  # fmt: skip
