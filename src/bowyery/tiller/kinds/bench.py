"""What changes nothing of a bow: pulls, rest, minutes, a length told, a note."""

from __future__ import annotations

from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.kind import Help, Kind
from bowyery.tiller.statements import Context, Statement, count, one
from bowyery.units.bounds import BOUNDS


def _length_now(c: Context) -> tuple[Statement, ...]:
    value = c.length("length") or 0.0
    c.within(value, "bow length", "no length of a bow")
    return (Statement("length now", c.part, value),)


def _minutes(c: Context) -> tuple[Statement, ...]:
    minutes = 60 * int(c.text("hours") or 0) + int(c.text("minutes") or 0)
    if not BOUNDS["minutes"].holds(minutes):
        raise UnreadableError(f"“{c.part}” is no time for one sitting; give up to 24 h.")
    return one(c, "minutes", minutes)


LENGTH_NOW = Kind(
    name="length now",
    build=_length_now,
    say=lambda s, tree, shown: (
        f"{shown.length(s.value or 0.0)} from end to end now, so half is"
        f" {shown.length((s.value or 0.0) / 2)}"
    ),
    forms=("(?:bow )?length {length}", "{length} (?:long|end to end)"),
    helps=(
        Help("the blank from end to end, after a cut", "length 63 1/4", "length 1606", "length"),
    ),
)
RESTED = Kind(
    name="rested",
    walk="rested",
    build=lambda c: one(c, "rested", count(c, "minutes")),
    say=lambda s, tree, shown: f"left braced {s.value or 0:.0f} min",
    forms=(
        r"(?:left|rested) braced {count}\s*(?:min|minutes?)",
        r"braced {count}\s*(?:min|minutes?)",
    ),
    helps=(Help("how long it was left braced", "braced 30 min", "braced 30 min", "braced"),),
)
PULLS = Kind(
    name="pulls",
    walk="pulls",
    build=lambda c: one(c, "pulls", count(c, "pulls")),
    say=lambda s, tree, shown: f"{s.value or 0:.0f} short pulls",
    forms=("{count}[ short] (?:pulls?|flexes|tugs?)", r"{count}\s*x"),
    helps=(Help("exercise", "25 pulls", "25 pulls", "pulls"),),
)
SHOTS = Kind(
    name="shots",
    walk="pulls",
    build=lambda c: one(c, "shots", count(c, "pulls")),
    say=lambda s, tree, shown: f"{s.value or 0:.0f} shots",
    forms=("{count} (?:shots?|arrows?)[ shot]",),
    helps=(Help("arrows shot", "12 shots", "12 shots", "shots"),),
)
MINUTES = Kind(
    name="minutes",
    build=_minutes,
    say=lambda s, tree, shown: f"{s.value or 0:.0f} min on the bench",
    forms=(
        r"{minutes}\s*(?:min|minutes?|mins)",
        r"{hours}\s*(?:h|hours?|hrs?)(?:\s*(?P<minutes>\d{1,6})\s*(?:min|minutes?|mins))?",
    ),
    helps=(Help("time on the bench", "15 min", "1 h 20 min", "min"),),
)
NOTE = Kind(name="note", say=lambda s, tree, shown: f"note: {s.words}")
