"""Everything that can be written in a pencil line, as one table: STATEMENTS.

The kinds of reading come into it from :mod:`bowyery.tiller.kinds`. The template of a form: words
stand as they are, ``{…}`` is a figure, ``[…]`` may be left out.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache

from bowyery.bow.bow import Side
from bowyery.errors import UnreadableError
from bowyery.tiller.kinds import KINDS
from bowyery.units.bounds import BOUNDS
from bowyery.units.draw_ruler import PIVOT, DrawRuler
from bowyery.units.quantity import (
    IMPERIAL,
    INCH,
    LENGTH,
    METRIC,
    SHAVING,
    Units,
    World,
)

EDGE = {IMPERIAL: 6 * INCH, METRIC: 0.15}  # length of the usual straight edge (m)
LONGEST_LIMB = BOUNDS["place on a limb"].high  # where a limb's own length is not known (m)
_BEYOND_TIP = 0.02  # a place may be read so far beyond the nock (m)


@dataclass(frozen=True)
class Tree:
    """How figures are taken on one bow's tree.

    Attributes:
        ruler: that its draws are read on.
        handle_depth: from back to pivot (m).
        reach: from the bow's centre to each nock, upper and lower (m); None: not known.
    """

    ruler: DrawRuler = PIVOT
    handle_depth: float = 0.0
    reach: tuple[float, float] | None = None

    def draw_words(self, draw: float, shown: Units) -> str:
        """A draw to the pivot (m), written on the tree's ruler.

        Args:
            draw: from nocking point to pivot (m).
            shown: the reader's units.
        """
        return f"{shown.length(self.ruler.from_pivot(draw, self.handle_depth))} {self.ruler.short}"


@dataclass(frozen=True)
class Statement:
    """One thing that was written. What a kind has no use for is None.

    Attributes:
        kind: a key of STATEMENTS.
        text: as written.
        value: in SI; strokes, pulls and minutes as their number.
        limb: None for the whole bow, or for both limbs.
        draw: to the pivot (m).
        start, end: of a stretch, from the bow's centre (m); alike for a place.
        words: of a note.
    """

    kind: str
    text: str = ""
    value: float | None = None
    limb: Side | None = None
    draw: float | None = None
    start: float | None = None
    end: float | None = None
    words: str = ""

    @property
    def at(self) -> float | None:
        """Its place, the middle of its stretch, from the bow's centre (m)."""
        return None if self.start is None or self.end is None else 0.5 * (self.start + self.end)


@dataclass(frozen=True)
class Context:
    """What is known while a part of a line is read.

    Attributes:
        world: whose unit a bare number has.
        tree: of the bow it is about.
        found: what was solved.
    """

    part: str
    world: World
    tree: Tree
    found: re.Match[str]

    def text(self, name: str) -> str | None:
        """What stands for a figure of the form, or None."""
        return self.found.groupdict().get(name)

    def length(self, name: str) -> float | None:
        """A length of the form (m)."""
        text = self.text(name)
        return None if text is None else LENGTH.read(text, self.world)

    def draw(self) -> float | None:
        """A draw, to the pivot (m)."""
        on = self.length("draw")
        if on is None:
            return None
        draw = self.tree.ruler.to_pivot(on, self.tree.handle_depth)
        self.within(draw, "draw", "no draw of a bow")
        return draw

    def limb(self) -> Side | None:
        """The limb of the form."""
        return LIMBS.get(self.text("limb") or "")

    def place(self, name: str, limb: Side | None) -> float | None:
        """A place from the bow's centre (m); written from the tip it is turned round.

        Args:
            name: for reading.
            limb: the limb.
        """
        text = self.text(name)
        if text is None:
            return None
        from_tip = re.fullmatch(r"(.+?)\s+from\s+(?:the\s+)?(?:tip|nock)", text)
        at = LENGTH.read(from_tip[1] if from_tip else text, self.world)
        reach = self.reach(limb)
        if from_tip and math.isinf(reach):
            raise UnreadableError(
                f"“{self.part}” counts from the tip of a bow whose length is not known; give the"
                " place from the centre."
            )
        at = reach - at if from_tip else at
        if not 0 <= at <= min(reach, LONGEST_LIMB) + _BEYOND_TIP:
            where = (
                "" if math.isinf(reach) else f", {Units(self.world).length(reach)} from the centre"
            )
            raise UnreadableError(f"“{self.part}” lies beyond the tip{where}.")
        return at

    def reach(self, limb: Side | None) -> float:
        """From the centre to the nock; the longer limb's where none is named (m)."""
        if self.tree.reach is None:
            return math.inf
        return max(self.tree.reach) if limb is None else self.tree.reach[limb != "upper"]

    def within(self, value: float, bound: str, what: str) -> None:
        """Refuse what no bow shows.

        Args:
            value: in SI.
            bound: a key of BOUNDS; nothing bounds it where that is empty.
            what: what it is called.
        """
        if bound and not BOUNDS[bound].holds(value):
            raise UnreadableError(f"“{self.part}” is {what}; look at the figure and its unit.")


Build = Callable[[Context], tuple[Statement, ...]]
Say = Callable[[Statement, Tree, Units], str]


@dataclass(frozen=True)
class StatementKind:
    """A kind of statement.

    Attributes:
        name: its key.
        forms: how it is written.
        build: from a matched form to statements.
        say: how it is said back.
        meaning, examples: for the help; examples of both worlds.
        word: what marks a statement that means to be of this kind, for its error.
        carried: forms that will do after a statement of the same kind.
    """

    name: str
    forms: tuple[str, ...]
    build: Build
    say: Say
    meaning: str
    examples: tuple[str, str]
    word: str = ""
    carried: tuple[str, ...] = ()

    def example(self, world: World) -> str:
        """How it may be written in a world."""
        return self.examples[world == METRIC]


LIMBS: dict[str, Side] = {
    "upper": "upper", "up": "upper", "top": "upper", "lower": "lower", "low": "lower",
}  # fmt: skip
LIMB = rf"(?:{'|'.join(LIMBS)})\b"
_FIGURE = (
    r"(?:(?!\b(?:at|from|to|over|and|off|upper|lower|edge|gap|tip|offset|strokes?)\b|[@|&]).)+?"
)
_SLOTS = {
    "limb": r"(?P<limb>upper|lower|up|top|low)",
    "limbs": r"(?P<limb>upper|lower|both|up|top|low)",
    "place": rf"(?P<place>{_FIGURE}(?:\s+from\s+(?:the\s+)?(?:tip|nock))?)",
    "start": rf"(?P<start>{_FIGURE})",
    "end": rf"(?P<end>{_FIGURE}(?:\s+from\s+(?:the\s+)?(?:tip|nock))?)",
    "count": r"(?P<count>\d{1,6})",
    "hours": r"(?P<hours>\d{1,4})",
    "minutes": r"(?P<minutes>\d{1,6})",
    "state": r"(?P<state>long|low|full|short)",
}


@cache
def pattern(form: str) -> re.Pattern[str]:
    """A form's template as a regular expression, for one part of a line in small letters."""
    text = ""
    for piece in re.split(r"(\{\w+\}|[\[\]]|\s+)", form):
        if piece.startswith("{"):
            name = piece[1:-1]
            text += _SLOTS.get(name, rf"(?P<{name}>{_FIGURE})")
        elif piece in ("[", "]"):
            text += "(?:" if piece == "[" else ")?"
        elif piece.isspace():
            text += r"\s+"
        elif piece == "at":
            text += r"(?:at|@)"
        elif piece:
            text += piece
    text = text.replace(r"\s+(?:at|@)\s+", r"\s*(?:\bat\b|@)\s*")
    return re.compile(rf"\s*{text}\s*")


def _one(found: Context, kind: str, value: float, **more: object) -> tuple[Statement, ...]:
    return (replace(Statement(kind, found.part, value), **more),)  # type: ignore[arg-type]


def _reading(name: str) -> Build:
    kind = KINDS[name]

    def build(c: Context) -> tuple[Statement, ...]:
        limb = c.limb()
        if kind.is_draw:
            return _one(c, name, c.draw() or 0.0)
        value = kind.quantity.read(c.text("value") or "", c.world)
        bound, what = kind.bounds
        if name == "gap" and value < 0:
            raise UnreadableError(
                f"“{c.part}” is below zero; a gap is measured from string to belly."
            )
        c.within(value, bound, what)
        start = end = c.place("place", limb)
        if name == "straight edge" and start is not None:
            span = c.length("span") or EDGE[c.world]
            if not BOUNDS["straight edge"].holds(span):
                raise UnreadableError(
                    f"“{c.part}”: a straight edge for this is 4 to 60 cm long (1½ to 24 in)."
                )
            start, end = start - span / 2, start + span / 2
        return _one(c, name, value, limb=limb, draw=c.draw(), start=start, end=end)

    return build


def where_words(at: float | None, shown: Units) -> str:
    """A place from the bow's centre (m) in words; without one, the fade.

    Args:
        at: place (m).
        shown: the reader's units.
    """
    return "at the fade" if at is None else f"{shown.length(at)} from the centre"


def value_words(name: str, value: float, tree: Tree, shown: Units) -> str:
    """A reading's value in words: a draw on the tree's ruler, anything else as it is.

    Args:
        name: of its kind.
        value: (SI).
        tree: whose ruler the maker reads.
        shown: the reader's units.

    Returns:
        The value with its unit, as text.
    """
    kind = KINDS[name]
    return tree.draw_words(value, shown) if kind.is_draw else kind.quantity.write(value, shown)


def _say_reading(name: str) -> Say:
    kind = KINDS[name]

    def say(s: Statement, tree: Tree, shown: Units) -> str:
        span = (s.end or 0.0) - (s.start or 0.0)
        when = "at brace" if s.draw is None else f"at {tree.draw_words(s.draw, shown)}"
        return kind.said.format(
            limb=s.limb,
            value=value_words(name, s.value or 0.0, tree, shown),
            draw=tree.draw_words(s.value or 0.0, shown)
            if kind.is_draw
            else ""
            if s.draw is None
            else tree.draw_words(s.draw, shown),
            when=when,
            where=where_words(s.at, shown),
            span=shown.length(span),
        )

    return say


def _reading_row(name: str) -> StatementKind:
    kind = KINDS[name]
    carried: tuple[str, ...] = ()
    if kind.of_limb:  # of a run the word may be left out, and of readings at places the limb too
        carried = tuple(form.replace(f" {kind.word} ", " ") for form in kind.forms)
        carried += tuple(form.replace("{limb} ", "") for form in kind.forms)
        if kind.on_place:
            carried += tuple(form.replace(f"{{limb}} {kind.word} ", "") for form in kind.forms)
    return StatementKind(
        name, kind.forms, _reading(name), _say_reading(name), kind.meaning, kind.examples,
        kind.word, carried,
    )  # fmt: skip


def _pair_of_gaps(c: Context) -> tuple[Statement, ...]:
    bound, what = KINDS["gap"].bounds
    rows: list[Statement] = []
    sides: tuple[tuple[Side, str], ...] = (("upper", "one"), ("lower", "other"))
    for side, name in sides:
        value = c.length(name) or 0.0
        c.within(value, bound, what)
        rows += _one(c, "gap", value, limb=side)
    return tuple(rows)


_STATES = {
    "long": "string long",
    "low": "string low",
    "full": "string full",
    "short": "string full",
}
STRING_WORDS = {
    "string long": "long string",
    "string low": "low brace",
    "string full": "full brace",
}


def _string(c: Context) -> tuple[Statement, ...]:
    kind, value = _STATES[c.text("state") or ""], c.length("length")
    if value is not None:
        long = kind == "string long"
        bound = "string on the tree" if long else "brace on the tree"
        c.within(value, bound, "no string length" if long else "no brace height")
    return (Statement(kind, c.part, value),)


def _say_string(s: Statement, tree: Tree, shown: Units) -> str:
    said = {
        "string long": "the long string is on",
        "string low": "braced low",
        "string full": "at full brace",
    }[s.kind]
    return said if s.value is None else f"{said}, {shown.length(s.value)}"


def _count(c: Context, what: str) -> int:
    count, bound = int(c.text("count") or 0), BOUNDS[what]
    if not bound.holds(count):
        possible = f"{bound.low:.0f} to {bound.high:.0f}"
        raise UnreadableError(f"{count} {what} at once cannot be right; give {possible}.")
    return count


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
    if c.text("count") is not None:
        strokes = _count(c, "strokes")
        return _one(c, "strokes", strokes, limb=limb, start=start, end=end)
    thickness = c.length("thickness") or 0.0
    if not BOUNDS["wood off"].holds(thickness):
        raise UnreadableError(
            f"“{c.part}”: the thickness taken must lie between 0 and 20 mm (¾ in)."
        )
    return _one(c, "removed", thickness, limb=limb, start=start, end=end)


def _say_removed(s: Statement, tree: Tree, shown: Units) -> str:
    limb = f"the {s.limb} limb" if s.limb else "both limbs"
    value = s.value or 0.0
    amount = f"{value:.0f} strokes" if s.kind == "strokes" else SHAVING.write(value, shown)
    if s.start is None or s.end is None:
        return f"{amount} off {limb}"
    return f"{amount} off {limb}, {shown.length(s.start)} to {shown.length(s.end)} from the centre"


def _minutes(c: Context) -> tuple[Statement, ...]:
    minutes = 60 * int(c.text("hours") or 0) + int(c.text("minutes") or 0)
    if not BOUNDS["minutes"].holds(minutes):
        raise UnreadableError(f"“{c.part}” is no time for one sitting; give up to 24 h.")
    return _one(c, "minutes", minutes)


_AMOUNTS = ("{count} strokes?", "{thickness}")
_STRETCHES = ("", " from {start} to {end}", r" {start}\s*(?:to|–|-) {end}")
_ROWS = (
    *(_reading_row(name) for name, kind in KINDS.items() if kind.forms),
    StatementKind(
        "gap",
        ("gaps {one} (?:and|[|&]) {other}", "gaps {one}[|&]{other}"),
        _pair_of_gaps,
        _say_reading("gap"),
        "both gaps at once, upper first",
        ("gaps 6 1/4 and 6 1/8", "gaps 160 and 156"),
        "gaps",
    ),
    StatementKind(
        "string",
        ("string {state}[ brace][ {length}]",),
        _string,
        _say_string,
        "the string that is on: its length, or the brace height",
        ("string low 3, string long 70, string full", "string low 75, string long 1780"),
        "string",
    ),
    StatementKind(
        "removed",
        tuple(
            f"(?:off|took|take) {limb}{amount}{stretch}"
            for limb in ("{limbs} ", "")
            for amount in _AMOUNTS
            for stretch in _STRETCHES
        ),
        _removed,
        _say_removed,
        "wood taken: a thickness or strokes, and where",
        (
            "off upper 1/64, off both 12 strokes 9 to 14",
            "off upper 0.5, off both 12 strokes 230 to 360",
        ),
        "off",
    ),
    StatementKind(
        "pulls",
        ("{count}[ short] (?:pulls?|flexes)", r"{count}\s*x"),
        lambda c: _one(c, "pulls", _count(c, "pulls")),
        lambda s, tree, shown: f"{s.value or 0:.0f} short pulls",
        "exercise",
        ("25 pulls", "25 pulls"),
        "pulls",
    ),
    StatementKind(
        "minutes",
        (
            r"{minutes}\s*(?:min|minutes?|mins)",
            r"{hours}\s*(?:h|hours?|hrs?)(?:\s*(?P<minutes>\d{1,6})\s*(?:min|minutes?|mins))?",
        ),
        _minutes,
        lambda s, tree, shown: f"{s.value or 0:.0f} min on the bench",
        "time on the bench",
        ("15 min", "1 h 20 min"),
        "min",
    ),
)
STATEMENTS: tuple[StatementKind, ...] = _ROWS
SAY: dict[str, Say] = {row.name: row.say for row in reversed(_ROWS)} | {
    "string long": _say_string,
    "string low": _say_string,
    "string full": _say_string,
    "strokes": _say_removed,
    "note": lambda s, tree, shown: f"note: {s.words}",
}
