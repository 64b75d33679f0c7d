"""What a pencil line says, and how a part of it is read by the template of a form.

In a template words stand as they are, ``{…}`` is a figure, ``[…]`` may be left out.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from functools import cache

from bowyery.bow.bow import Side
from bowyery.errors import UnreadableError
from bowyery.units.bounds import BOUNDS
from bowyery.units.draw_ruler import PIVOT, DrawRuler
from bowyery.units.quantity import LENGTH, Units, World

LONGEST_LIMB = BOUNDS["place on a limb"].high  # where a limb's own length is not known (m)
_BEYOND_TIP = 0.02  # a place may be read so far beyond the nock (m)


@dataclass(frozen=True)
class Tree:
    """How figures are taken on one bow's tree.

    Attributes:
        ruler: that its draws are read on.
        handle_depth: from back to pivot (m).
        reach: from the bow's centre to each nock, upper and lower (m); None: not known.
        draw: to the pivot, of the pull at hand (m): what is read at places belongs to it until the
            string is let down, wood comes off or another draw is named; None: none is known.
    """

    ruler: DrawRuler = PIVOT
    handle_depth: float = 0.0
    reach: tuple[float, float] | None = None
    draw: float | None = None

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
        kind: a key of KINDS.
        value: in SI; strokes, pulls and minutes as their number.
        limb: None for the whole bow, or for both limbs.
        draw: to the pivot (m).
        start, end: of a stretch, from the bow's centre (m); alike for a place.
        more: a second figure: what a weight sank by (N), the earlier draw of a tip's travel (m),
            minutes of heat, one deviation of what a photograph shows (m) or of a weight that is
            not sure (N).
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
    "weight": r"(?:weight|weighs|reads)\s+(?P<value>[\d., /½¼¾⅛⅜⅝⅞]+?\s*(?:lbs?|pounds?|kg|#)?)",
    "count": r"(?P<count>\d{1,6})",
    "hours": r"(?P<hours>\d{1,4})",
    "minutes": r"(?P<minutes>\d{1,6})",
    "state": r"(?P<state>long|low|full|short)",
    "aside": r"(?P<aside>left|right)",
    "face": r"(?:the\s+)?(?P<face>sides?|edges?|back|bark|facets?|belly)",
    "material": r"(?P<material>[a-z][a-z '-]{1,38}?)",
    "tool": r"(?:with\s+(?:the\s+|a\s+|my\s+)?)(?P<tool>[a-z][a-z '’-]{1,38}?)",
    "bare": r"(?:by\s+|the\s+)?(?P<tool>drawknife|spokeshave|rasp|file|scraper|sandpaper|plane)",
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


def one(found: Context, kind: str, value: float | None, **more: object) -> tuple[Statement, ...]:
    """The one statement that a part of a line makes.

    Args:
        value: in SI, or a number.
    """
    return (replace(Statement(kind, found.part, value), **more),)  # type: ignore[arg-type]


def count(c: Context, what: str) -> int:
    """A number of the form.

    Args:
        what: its bound, a key of BOUNDS.

    Raises:
        UnreadableError: there cannot be so many.
    """
    number, bound = int(c.text("count") or 0), BOUNDS[what]
    if not bound.holds(number):
        possible = f"{bound.low:.0f} to {bound.high:.0f}"
        raise UnreadableError(f"{number} {what} at once cannot be right; give {possible}.")
    return number


def where_words(at: float | None, shown: Units) -> str:
    """A place from the bow's centre (m) in words; without one, the fade.

    Args:
        at: place (m).
    """
    return "at the fade" if at is None else f"{shown.length(at)} from the centre"
