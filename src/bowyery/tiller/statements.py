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
from bowyery.errors import BowyeryError, UnreadableError
from bowyery.tiller.kinds import EYE, EYE_LIMB, EYE_REACH, KINDS
from bowyery.units.bounds import BOUNDS
from bowyery.units.draw_ruler import PIVOT, DrawRuler
from bowyery.units.quantity import (
    ANGLE,
    FINE_WEIGHT,
    IMPERIAL,
    INCH,
    LENGTH,
    METRIC,
    SHAVING,
    THICKNESS,
    WEIGHT,
    Units,
    World,
)
from bowyery.wood.materials import material

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
        """
        return f"{shown.length(self.ruler.from_pivot(draw, self.handle_depth))} {self.ruler.short}"


@dataclass(frozen=True)
class Statement:
    """One thing that was written. What a kind has no use for is None.

    Attributes:
        kind: a key of STATEMENTS.
        value: in SI; strokes, pulls and minutes as their number.
        limb: None for the whole bow, or for both limbs.
        draw: to the pivot (m).
        start, end: of a stretch, from the bow's centre (m); alike for a place.
        more: a second figure: what a weight sank by (N), the earlier draw of a tip's travel (m),
            minutes of heat, one deviation of what a photograph shows (m).
        how: what it was done with or to, or how it looks: a face, a side, a colour, a material, a
            word of the eye.
    """

    kind: str
    text: str = ""
    value: float | None = None
    limb: Side | None = None
    draw: float | None = None
    start: float | None = None
    end: float | None = None
    words: str = ""
    more: float | None = None
    how: str = ""
    tool: str = ""

    @property
    def at(self) -> float | None:
        """Its place, the middle of its stretch, from the bow's centre (m)."""
        return None if self.start is None or self.end is None else 0.5 * (self.start + self.end)


@dataclass(frozen=True)
class Context:
    """What is known while a part of a line is read.

    Attributes:
        tree: of the bow it is about.
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
        """A place from the bow's centre (m); written from the tip it is turned round."""
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
            bound: a key of BOUNDS; nothing bounds it where that is empty.
        """
        if bound and not BOUNDS[bound].holds(value):
            raise UnreadableError(f"“{self.part}” is {what}; look at the figure and its unit.")


Build = Callable[[Context], tuple[Statement, ...]]
Say = Callable[[Statement, Tree, Units], str]


@dataclass(frozen=True)
class StatementKind:
    """A kind of statement.

    Attributes:
        build: from a matched form to statements.
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
    r"(?:(?!\b(?:at|from|to|over|and|off|with|upper|lower|both|edge|gap|tip|offset|strokes?|left|right"
    r"|back|belly|sides?|edges?|bark|facets?|golden|brown|dark|sank|drawn|give)\b|[@|&]).)+?"
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
    "aside": r"(?P<aside>left|right)",
    "face": r"(?:the\s+)?(?P<face>sides?|edges?|back|bark|facets?|belly)",
    "material": r"(?P<material>[a-z][a-z '-]{1,38}?)",
    "tool": r"with\s+(?:the\s+|a\s+|my\s+)?(?P<tool>[a-z][a-z '’-]{1,38})",
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
        more = None
        value = kind.quantity.read(c.text("value") or "", c.world)
        bound, what = kind.bounds
        if name == "gap" and value < 0:
            raise UnreadableError(
                f"“{c.part}” is below zero; a gap is measured from string to belly."
            )
        c.within(value, bound, what)
        if c.text("sank"):
            more = WEIGHT.read(c.text("sank") or "", c.world)
            c.within(more, "hold", "no weight that sinks in a hold")
            if more >= value:
                raise UnreadableError(
                    f"“{c.part}”: it cannot sink by as much as it still pulls; write how much"
                    " less it was than at first."
                )
        if c.text("give"):
            more = c.length("give")
            c.within(more or 0.0, "photograph's error", "no error of a photograph")
        start = end = c.place("place", limb)
        if name == "straight edge" and start is not None:
            span = c.length("span") or EDGE[c.world]
            if not BOUNDS["straight edge"].holds(span):
                raise UnreadableError(
                    f"“{c.part}”: a straight edge for this is 4 to 60 cm long (1½ to 24 in)."
                )
            start, end = start - span / 2, start + span / 2
        return _one(c, name, value, limb=limb, draw=c.draw(), start=start, end=end, more=more)

    return build


def where_words(at: float | None, shown: Units) -> str:
    """A place from the bow's centre (m) in words; without one, the fade.

    Args:
        at: place (m).
    """
    return "at the fade" if at is None else f"{shown.length(at)} from the centre"


def value_words(name: str, value: float, tree: Tree, shown: Units) -> str:
    """A reading's value in words: a draw on the tree's ruler, anything else as it is.

    Returns:
        The value with its unit, as text.
    """
    kind = KINDS[name]
    return tree.draw_words(value, shown) if kind.is_draw else kind.quantity.write(value, shown)


def _say_reading(name: str) -> Say:
    kind = KINDS[name]

    def say(s: Statement, tree: Tree, shown: Units) -> str:
        span = (s.end or 0.0) - (s.start or 0.0)
        sank = f", {FINE_WEIGHT.write(s.more, shown)} sunk in the hold" if s.more else ""
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
        ) + (sank if name == "weight" else "")

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
ZERO_BRACE = 0.01  # a string that just clears the grip stands about so high (m)
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
    if s.how == "zero":
        return "braced so low that the string just clears the grip"
    said = {
        "string long": "the long string is on",
        "string low": "braced low",
        "string full": "at full brace",
    }[s.kind]
    return said if s.value is None else f"{said}, {shown.length(s.value)}"


def _zero(c: Context) -> tuple[Statement, ...]:
    return (Statement("string low", c.part, ZERO_BRACE, how="zero"),)


def _brace(c: Context) -> tuple[Statement, ...]:
    value = c.length("length") or 0.0
    c.within(value, "brace on the tree", "no brace height")
    return (Statement("brace", c.part, value),)


def _length_now(c: Context) -> tuple[Statement, ...]:
    value = c.length("length") or 0.0
    c.within(value, "bow length", "no length of a bow")
    return (Statement("length now", c.part, value),)


def _hook(c: Context) -> tuple[Statement, ...]:
    if c.text("length") is None:
        return (Statement("hook", c.part, 0.0),)
    value = (c.length("length") or 0.0) * (-1 if c.text("way") in ("down", "lower") else 1)
    c.within(value, "hook off the middle", "no place for a hook")
    return (Statement("hook", c.part, value),)


def _say_hook(s: Statement, tree: Tree, shown: Units) -> str:
    if not s.value:
        return "pulled at the middle of the grip"
    return f"pulled {shown.length(abs(s.value))} {'above' if s.value > 0 else 'below'} the middle"


def _deepest(c: Context) -> tuple[Statement, ...]:
    limb, value = c.limb(), c.length("value") or 0.0
    bound, what = KINDS["deepest gap"].bounds
    c.within(value, bound, what)
    rows = _one(c, "deepest gap", value, limb=limb)
    at = c.place("place", limb)
    return rows if at is None else _one(c, "deepest place", at, limb=limb) + rows


def _travel(c: Context) -> tuple[Statement, ...]:
    value, first, draw = c.length("value") or 0.0, c.length("first"), c.draw()
    c.within(value, *KINDS["tip travel"].bounds)
    first = c.tree.ruler.to_pivot(first or 0.0, c.tree.handle_depth)
    c.within(first, "draw", "no draw of a bow")
    if draw is None or not first < draw:
        raise UnreadableError(f"“{c.part}”: give the nearer draw first.")
    return _one(c, "tip travel", value, limb=c.limb(), draw=draw, more=first)


def _floor(c: Context) -> tuple[Statement, ...]:
    value = FINE_WEIGHT.read(c.text("value") or "", c.world)
    sag = c.length("span") or 0.0
    c.within(value, *KINDS["floor"].bounds)
    c.within(sag, "floor sag", "no way for a tip to sag on the floor")
    return _one(c, "floor", value, limb=c.limb(), more=sag)


def _lies(c: Context) -> tuple[Statement, ...]:
    limb = c.limb()
    value = (c.length("value") or 0.0) * (-1 if c.text("way") == "back" else 1)
    c.within(value, *KINDS["profile"].bounds)
    at = c.place("place", limb)
    return _one(c, "profile", value, limb=limb, start=at, end=at)


def _say_lies(s: Statement, tree: Tree, shown: Units) -> str:
    where = "at the nock" if s.at is None else f"{shown.length(s.at)} from the centre"
    way = "to the back" if (s.value or 0.0) < 0 else "to the belly"
    written = shown.length(abs(s.value or 0.0))
    aside = "in line" if written.startswith("0 ") else f"{written} {way}"
    return f"{s.limb} limb unstrung: {aside}, {where}"


def _say_floor(s: Statement, tree: Tree, shown: Units) -> str:
    value = FINE_WEIGHT.write(s.value or 0.0, shown)
    return KINDS["floor"].said.format(limb=s.limb, value=value, span=shown.length(s.more or 0.0))


def _tilt(c: Context) -> tuple[Statement, ...]:
    value = ANGLE.read(c.text("value") or "", c.world)
    value *= -1 if LIMBS.get(c.text("limb") or "") == "lower" else 1
    c.within(value, *KINDS["tilt"].bounds)
    return _one(c, "tilt", value, draw=c.draw())


def _say_tilt(s: Statement, tree: Tree, shown: Units) -> str:
    to = "lower" if (s.value or 0.0) < 0 else "upper"
    when = "" if s.draw is None else f" at {tree.draw_words(s.draw, shown)}"
    return f"the grip tips {ANGLE.write(abs(s.value or 0.0), shown)} to the {to} limb{when}"


_ASIDE = {
    "string off": ("string off the middle", "no way for a string to lie"),
    "sideways": ("limb aside", "no sideways bend"),
    "twist": ("limb twisted", "no twist of a limb"),
}


def _aside(kind: str) -> Build:
    quantity = ANGLE if kind == "twist" else LENGTH

    def build(c: Context) -> tuple[Statement, ...]:
        value = quantity.read(c.text("value") or "", c.world)
        c.within(value, *_ASIDE[kind])
        if value < 0:
            raise UnreadableError(f"“{c.part}”: write how much, and left or right.")
        return _one(c, kind, value, limb=c.limb(), how=c.text("aside") or "")

    return build


def _say_aside(s: Statement, tree: Tree, shown: Units) -> str:
    quantity = ANGLE if s.kind == "twist" else LENGTH
    value = quantity.write(s.value or 0.0, shown)
    if s.kind == "string off":
        return f"the string lies {value} {s.how} of the grip's middle"
    what = "is twisted" if s.kind == "twist" else "bends aside"
    return f"the {s.limb} limb {what} {value} to the {s.how}"


def _eye(how: str) -> Build:
    def build(c: Context) -> tuple[Statement, ...]:
        limb = c.limb()
        start, end = c.place("start", limb), c.place("end", limb)
        if start is None:
            start = end = c.place("place", limb)
        if start is None or end is None:
            raise UnreadableError(f"“{c.part}” does not say where; give places from the centre.")
        if start == end:
            start, end = max(0.0, start - EYE_REACH), start + EYE_REACH
        start, end = min(start, end), max(start, end)
        return (Statement("eye", c.part, EYE[how][0], limb, None, start, end, how=how),)

    return build


def _say_eye(s: Statement, tree: Tree, shown: Units) -> str:
    start, end = s.start or 0.0, s.end or 0.0
    ends = f"{shown.bare_length(start)} to {shown.length(end)}"
    if end - start < 2.01 * EYE_REACH:
        ends = f"about {shown.length(0.5 * (start + end))}"
    what = {
        "stiff": "looks stiff", "weak": "looks weak", "hinge": "looks like a hinge",
        "good": "bends well", "block": "is marked stiff by the block",
    }[s.how]  # fmt: skip
    return f"the {s.limb} limb {what}, {ends} from the centre"


def _eye_limb(c: Context) -> tuple[Statement, ...]:
    how = "less" if c.text("way") == "less" else "more"
    return (Statement("eye limb", c.part, EYE_LIMB[how][0], c.limb(), how=how),)


def _say_eye_limb(s: Statement, tree: Tree, shown: Units) -> str:
    return f"the {s.limb} limb looks as if it bends {s.how}"


def _rested(c: Context) -> tuple[Statement, ...]:
    return _one(c, "rested", _count(c, "minutes"))


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
    face = _FACES.get((c.text("face") or "belly").rstrip("s"), "")
    tool = " ".join((c.text("tool") or "").split())
    if c.text("count") is not None:
        strokes = _count(c, "strokes")
        return _one(c, "strokes", strokes, limb=limb, start=start, end=end, how=face, tool=tool)
    thickness = c.length("thickness") or 0.0
    if not BOUNDS["wood off"].holds(thickness):
        raise UnreadableError(
            f"“{c.part}”: the thickness taken must lie between 0 and 20 mm (¾ in)."
        )
    return _one(c, "removed", thickness, limb=limb, start=start, end=end, how=face, tool=tool)


# The faces that wood comes off, beside the belly.
_FACES = {"side": "sides", "edge": "edges", "back": "back", "bark": "back", "facet": "facets"}


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


def _minutes(c: Context) -> tuple[Statement, ...]:
    minutes = 60 * int(c.text("hours") or 0) + int(c.text("minutes") or 0)
    if not BOUNDS["minutes"].holds(minutes):
        raise UnreadableError(f"“{c.part}” is no time for one sitting; give up to 24 h.")
    return _one(c, "minutes", minutes)


def _ends(c: Context) -> Side | None:
    return LIMBS.get((c.text("ends") or "both").split()[0])


def _act(kind: str, amount: str = "", bound: str = "", what: str = "") -> Build:
    """An act that changes the bow: its amount, limb and stretch, as far as its form has them."""

    def build(c: Context) -> tuple[Statement, ...]:
        limb = _ends(c) if c.text("ends") else c.limb()
        value = None
        if amount and c.text(amount) is not None:
            reader = ANGLE if kind == "twist out" else LENGTH
            value = reader.read(c.text(amount) or "", c.world)
            c.within(value, bound, what)
        start, end = c.place("start", limb), c.place("end", limb)
        if start is None and c.text("place") is not None:
            start = end = c.place("place", limb)
        if start is not None and end is not None and not start <= end:
            start, end = end, start
        if kind == "cut" and value is not None and value >= 0.45 * c.reach(limb):
            raise UnreadableError(
                f"“{c.part}” would leave less than half of a limb; look at the figure and its unit."
            )
        more = float(c.text("minutes") or 0) or None
        if more is not None:
            c.within(more, "minutes of heat", "no time to heat a limb")
        how = " ".join((c.text("how") or c.text("material") or "").split())
        if kind == "backing":
            _known(c.part, how)
        if c.text("way") in ("down", "lower", "deflex") and value is not None:
            value = -value
        return _one(c, kind, value, limb=limb, start=start, end=end, more=more, how=how)  # type: ignore[arg-type]

    return build


def _known(part: str, name: str) -> None:
    try:
        material(name)
    except BowyeryError:
        raise UnreadableError(
            f"“{part}”: “{name}” is not in the book; write for example rawhide, sinew, linen or"
            " bamboo."
        ) from None


def _stretch_words(s: Statement, shown: Units) -> str:
    if s.start is None or s.end is None:
        return ""
    if s.start == s.end:
        return f", {shown.length(s.start)} from the centre"
    return f", {shown.bare_length(s.start)} to {shown.length(s.end)} from the centre"


def say_act(s: Statement, tree: Tree, shown: Units) -> str:
    """An act that changes the bow, in words.

    Args:
        tree: of the bow it is about.

    Returns:
        A saying, such as ``2 in cut off both ends``.
    """
    limb = f"the {s.limb} limb" if s.limb else "both limbs"
    value = "" if s.value is None else shown.length(abs(s.value))
    thin = "" if s.value is None else THICKNESS.write(abs(s.value), shown)
    where = _stretch_words(s, shown)
    minutes = f", {s.more:.0f} min" if s.more else ""
    said = {
        "cut": f"{value} cut off {f'the {s.limb} end' if s.limb else 'both ends'}",
        "centre": f"the centre moved {value} {'down' if (s.value or 0) < 0 else 'up'}",
        "patch": f"a patch of {thin} on {limb}{where}",
        "rounded": f"the belly of {limb} rounded",
        "heat": f"{limb} heated{where}{f', {s.how}' if s.how else ''}{minutes}",
        "reflex": f"{value} {'deflex' if (s.value or 0) < 0 else 'reflex'} put into {limb}",
        "twist out": f"{ANGLE.write(abs(s.value or 0), shown)} twist taken out of {limb}",
        "straightened": f"{limb} straightened sideways{f' by {value}' if value else ''}",
        "backing": f"{thin} {s.how} laid on the back",
        "eased": f"nodes of {limb} eased",
        "overlay": f"overlays on the tips of {limb}",
        "mended": f"{limb} {s.how or 'mended'}{where}",
    }
    return said[s.kind]


def _act_row(
    kind: str, forms: tuple[str, ...], meaning: str, examples: tuple[str, str], *figures: str,
    word: str = "",
) -> StatementKind:  # fmt: skip
    return StatementKind(kind, forms, _act(kind, *figures), say_act, meaning, examples, word)


_ENDS = r"(?:off\s+)?(?:the\s+)?(?P<ends>both ends|both|upper end|upper|lower end|lower|ends)"
_ACT_ROWS = (
    _act_row(
        "cut", (rf"cut {{amount}} {_ENDS}", rf"cut {_ENDS} {{amount}}"),
        "ends cut off and nocked anew", ("cut 2 both ends", "cut 50 both ends"),
        "amount", "cut", "no length to cut off", word="cut",
    ),
    _act_row(
        "centre", (r"centre {amount} (?P<way>up|down|upper|lower)",),
        "the middle of the grip moved", ("centre 1/4 down", "centre 6 down"),
        "amount", "centre moved", "no way for a centre to move", word="centre",
    ),
    _act_row(
        "patch",
        (
            "patch {limb} {amount} from {start} to {end}",
            r"patch {limb} {amount} {start}\s*(?:to|–|-) {end}",),
        "a patch glued on the belly", ("patch upper 1/16 10 to 14", "patch upper 1.5 250 to 350"),
        "amount", "patch", "no thickness of a patch", word="patch",
    ),
    _act_row(
        "rounded", ("{limbs} belly rounded", "belly rounded", "round {limbs} belly"),
        "the belly's edges rounded over", ("both belly rounded", "both belly rounded"),
        word="rounded",
    ),
    _act_row(
        "heat",
        (
            r"heat {limbs}[ {start}\s*(?:to|–|-) {end}][ (?P<how>golden|brown|dark)]"
            r"[,? {minutes}\s*(?:min|minutes)]",
        ),
        "belly heated: where, to what colour, how long",
        ("heat both golden 12 min", "heat upper 250 to 600 golden 12 min"), word="heat",
    ),
    _act_row(
        "reflex", (r"(?P<way>reflex|deflex) {limbs} {amount}",),
        "reflex or deflex put in, at the tip", ("reflex both 3/4", "reflex both 20"),
        "amount", "reflex", "no reflex of a bow", word="reflex|deflex",
    ),
    _act_row(
        "twist out", ("twist out {limb} {amount}",),
        "twist taken out", ("twist out upper 4", "twist out upper 4"),
        "amount", "limb twisted", "no twist of a limb", word="twist out",
    ),
    _act_row(
        "straightened", ("straightened {limb}[ {amount}]",),
        "sideways bend taken out", ("straightened upper 1/2", "straightened upper 12"),
        "amount", "limb aside", "no sideways bend", word="straightened",
    ),
    _act_row(
        "backing", ("backing {material} {amount}",),
        "a backing laid on, dried thickness",
        ("backing rawhide 1/32", "backing rawhide 1"),
        "amount", "laid on", "no thickness of a backing", word="backing",
    ),
    _act_row("eased", ("nodes eased[ {limbs}]",), "bamboo nodes eased down",
             ("nodes eased both", "nodes eased both"), word="nodes"),
    _act_row("overlay", ("overlays?[ {limbs}]",), "tip overlays put on",
             ("overlay both", "overlay both"), word="overlay"),
    _act_row(
        "mended", (r"(?P<how>flooded|bound) {limb} {place}",
                   r"(?P<how>flooded|bound) {limb} {start}\s*(?:to|–|-) {end}"),
        "a crack flooded with thin glue, or bound",
        ("bound upper 14", "flooded lower 300 to 360"), word="flooded|bound",
    ),
)  # fmt: skip
ACTS = tuple(row.name for row in _ACT_ROWS)

_AMOUNTS = ("{count} strokes?", "{thickness}")
_STRETCHES = ("", " from {start} to {end}", r" {start}\s*(?:to|–|-) {end}")
_PLACES = (r" {start}\s*(?:to|–|-) {end}", " from {start} to {end}", "[ at] {place}")
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
            f"(?:off|took|take) {limb}{amount}{face}{stretch}[ {{tool}}]"
            for limb in ("{limbs} ", "")
            for amount in _AMOUNTS
            for face in ("[(?: off)? {face}]",)
            for stretch in _STRETCHES
        ),
        _removed,
        _say_removed,
        "wood taken: a thickness or strokes, off which face if not the belly, where, with what",
        (
            "off upper 1/64, off both 12 strokes 9 to 14 with rasp, off upper 1/16 sides",
            "off upper 0.5, off both 12 strokes 230 to 360 with rasp, off upper 2 sides",
        ),
        "off",
    ),
    *(
        StatementKind(
            "eye",
            tuple(f"{how} {{limb}}{where}" for where in _PLACES)
            + tuple(f"{{limb}} {how}{where}" for where in _PLACES),
            _eye(how),
            _say_eye,
            meaning,
            examples,
            how,
        )
        for how, meaning, examples in (
            ("stiff", "it looks stiff there", ("stiff lower 10 to 14", "stiff lower 250 to 360")),
            ("weak", "it looks weak there", ("weak upper 14 to 18", "weak upper 360 to 450")),
            ("hinge", "it bends in one place", ("hinge upper 16", "hinge upper 400")),
            ("good", "it bends well there", ("good upper 8 to 20", "good upper 200 to 500")),
            (
                "block",
                "the pencil block marks it stiff",
                ("block upper 8 to 12", "block upper 200 to 300"),
            ),
        )
    ),
    StatementKind(
        "eye limb",
        ("{limb}(?: limb)? bends (?P<way>less|more)",),
        _eye_limb,
        _say_eye_limb,
        "one limb bends less than the other, by eye",
        ("lower bends less", "lower bends less"),
        "bends",
    ),
    StatementKind(
        "deepest gap",
        ("{limb} deepest[ gap] {value}[ at {place}]",),
        _deepest,
        _say_reading("deepest gap"),
        "greatest gap of a limb, and where it is",
        KINDS["deepest gap"].examples,
        "deepest",
        ("{limb} {value} at {place}",),
    ),
    StatementKind(
        "tip travel",
        ("{limb}[ tip] travel {value} from {first} to {draw}",),
        _travel,
        _say_reading("tip travel"),
        "how much further a tip came down between two draws",
        KINDS["tip travel"].examples,
        "travel",
    ),
    StatementKind(
        "floor",
        (r"{limb}(?: limb)? floor {value} (?:sags|bends) {span}",),
        _floor,
        _say_floor,
        KINDS["floor"].meaning,
        KINDS["floor"].examples,
        "floor",
    ),
    StatementKind(
        "profile",
        (r"{limb}(?: limb)? lies {value} (?:to the )?(?P<way>back|belly)[ at {place}]",),
        _lies,
        _say_lies,
        "unstrung: how far off the handle's line it lies, to belly or back",
        KINDS["profile"].examples,
        "lies",
    ),
    StatementKind(
        "tilt",
        ("tilt {value} {limb}[ at {draw}]",),
        _tilt,
        _say_tilt,
        KINDS["tilt"].meaning,
        KINDS["tilt"].examples,
        "tilt",
    ),
    StatementKind(
        "string off",
        ("string off {value} {aside}", "string {value} {aside}"),
        _aside("string off"),
        _say_aside,
        "the string lies off the middle of the grip, seen from the belly, upper limb up",
        ("string off 1/4 left", "string off 6 left"),
        "string off",
    ),
    *(
        StatementKind(
            kind,
            (f"{{limb}} {kind} {{value}} {{aside}}",),
            _aside(kind),
            _say_aside,
            meaning,
            examples,
            kind,
        )
        for kind, meaning, examples in (
            (
                "sideways",
                "a limb bends aside, seen from the belly",
                ("upper sideways 3/8 left", "upper sideways 10 left"),
            ),
            (
                "twist",
                "a limb is twisted, in degrees",
                ("upper twist 4 left", "upper twist 4 left"),
            ),
        )
    ),
    StatementKind(
        "brace",
        ("brace[ height] {length}",),
        _brace,
        lambda s, tree, shown: f"brace height {shown.length(s.value or 0.0)}",
        "brace height as measured",
        ("brace 5 7/8", "brace 150"),
        "brace",
    ),
    StatementKind(
        "length now",
        ("(?:bow )?length {length}", "{length} (?:long|end to end)"),
        _length_now,
        lambda s, tree, shown: (
            f"{shown.length(s.value or 0.0)} from end to end now, so half is"
            f" {shown.length((s.value or 0.0) / 2)}"
        ),
        "the blank from end to end, after a cut",
        ("length 63 1/4", "length 1606"),
        "length",
    ),
    StatementKind(
        "string low",
        ("zero brace", "string zero", "brace zero"),
        _zero,
        _say_string,
        "the string just lies along the grip",
        ("zero brace", "zero brace"),
        "zero",
    ),
    StatementKind(
        "hook",
        (r"hook {length} (?P<way>up|down|upper|lower)", "hook middle"),
        _hook,
        _say_hook,
        "where the hook pulled, off the middle of the grip",
        ("hook 1/2 up", "hook 12 up"),
        "hook",
    ),
    StatementKind(
        "rested",
        (
            r"(?:left|rested) braced {count}\s*(?:min|minutes?)",
            r"braced {count}\s*(?:min|minutes?)",
        ),
        _rested,
        lambda s, tree, shown: f"left braced {s.value or 0:.0f} min",
        "how long it was left braced",
        ("braced 30 min", "braced 30 min"),
        "braced",
    ),
    *_ACT_ROWS,
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
    "deepest place": _say_reading("deepest place"),
    "note": lambda s, tree, shown: f"note: {s.words}",
}
