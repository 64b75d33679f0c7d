"""The pencil line: what a maker writes on the limb, read into statements.

The grammar, with statements separated by ``;`` or by a comma and a space; units follow the writer's world:

- ``37 at 22`` or ``37 lb @ 22 in``: weight at a draw
- ``upper gap 6 1/4, lower 6 1/8`` or ``gaps 6 1/4 and 6 1/8``: string to belly at the fades, at brace
- ``upper tip 8 1/2 at 22``: how far a nock has come down, at a draw (without one: at brace)
- ``upper edge 3/32 at 12, 1/16 at 18``: gap under a short straight edge laid on the belly, its middle so far from the
  centre (``over 8`` gives another length of edge than 6 in or 150 mm), at the draw written before it, or braced
- ``upper offset 1/2 at 14``: the limb off a straight line from fade to nock, so far from the centre
- ``string long 70``, ``string low 3``, ``string full 6``: which string is on, its length or the brace height
- ``off upper 0.5 mm``, ``off upper 12 strokes 9 to 14``: wood taken, in thickness or strokes, and where
- ``25 pulls``: exercise
- ``15 min`` or ``1 h 20 min``: time on the bench
- ``note …``: anything, to the end of the line

A limb or a word of kind carries over to the next statement when it is left out.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from bowyery.errors import UnreadableError
from bowyery.units import INCH, LENGTH, WEIGHT, World, read

Limb = Literal["", "upper", "lower"]


@dataclass(frozen=True)
class WeightAt:
    """A weight (N) at a draw (m) as written: from the ruler the maker uses."""

    weight: float
    draw: float
    text: str


@dataclass(frozen=True)
class Gap:
    """String to belly at a fade (m)."""

    limb: Limb
    value: float
    text: str


@dataclass(frozen=True)
class TipHeight:
    """How far a nock has come down (m), at a draw (m) or at brace."""

    limb: Limb
    value: float
    draw: float | None
    text: str


@dataclass(frozen=True)
class OnLimb:
    """Read at a place of a limb (from the centre, m): the gap under a straight edge ``span`` long, or an offset (m)."""

    kind: Literal["straight edge", "offset"]
    limb: Limb
    value: float
    at: float
    span: float | None
    text: str


@dataclass(frozen=True)
class StringOn:
    """Which string is on: long (its length, m), low or full (brace height, m)."""

    state: Literal["long", "low", "full"]
    value: float | None
    text: str


@dataclass(frozen=True)
class Removed:
    """Wood taken: thickness (m) or strokes, from a limb or both, between two places from the centre (m)."""

    limb: Limb
    thickness: float | None
    strokes: int | None
    start: float | None
    end: float | None
    text: str


@dataclass(frozen=True)
class Pulls:
    """Short pulls given."""

    count: int
    text: str


@dataclass(frozen=True)
class Minutes:
    """Time spent."""

    minutes: int
    text: str


@dataclass(frozen=True)
class Note:
    """Anything."""

    words: str
    text: str


Statement = WeightAt | Gap | TipHeight | OnLimb | StringOn | Removed | Pulls | Minutes | Note

_LIMBS: dict[str, Limb] = {"upper": "upper", "up": "upper", "top": "upper", "lower": "lower", "low": "lower"}
_STATES: dict[str, Literal["long", "low", "full"]] = {"long": "long", "low": "low", "full": "full", "short": "full"}
EDGE = {"imperial": 6 * INCH, "metric": 0.15}  # length of the usual straight edge
MOST_PULLS = 500
MOST_STROKES = 1000
MOST_MINUTES = 24 * 60


def parse(line: str, world: World) -> tuple[Statement, ...]:
    """Read a pencil line.

    Args:
        line: what was written.
        world: whose units bare numbers have.

    Raises:
        UnreadableError: names the part that could not be read and shows what could stand there.
    """
    text = line.strip().lstrip("/").strip()
    note = re.search(r"(?:^|[;,]\s*)note\b[:\s]*(.*)$", text, re.IGNORECASE | re.DOTALL)
    found: list[Statement] = []
    rest = text if note is None else text[: note.start()]
    last: Statement | None = None
    for part in re.split(r";|,\s+|,$|\n", rest):
        if part.strip():
            found += (statements := _statement(part.strip(), world, last))
            last = statements[-1]
    if note is not None:
        if not note[1].strip():
            raise UnreadableError("The note is empty.")
        found.append(Note(note[1].strip(), f"note {note[1].strip()}"))
    if not found:
        raise UnreadableError("Nothing was written; try “37 at 22, upper gap 6 1/4, lower 6 1/8”.")
    return tuple(found)


def _statement(part: str, world: World, last: Statement | None) -> list[Statement]:
    low = part.lower()
    if match := re.fullmatch(r"(\d+)\s*(?:short\s+)?(?:pulls?|flexes|x)", low):
        return [Pulls(_count(match[1], MOST_PULLS, "pulls"), part)]
    if match := re.fullmatch(r"(?:(\d+)\s*(?:h|hours?|hrs?))?\s*(?:(\d+)\s*(?:min|minutes?|mins))?", low):
        minutes = 60 * int(match[1] or 0) + int(match[2] or 0)
        if not 0 < minutes <= MOST_MINUTES:
            raise UnreadableError(f"“{part}” is no time for one sitting; give up to 24 h.")
        return [Minutes(minutes, part)]
    if match := re.fullmatch(r"string\s+(long|low|full|short)(?:\s+brace)?(?:\s+(.+))?", low):
        return [StringOn(_STATES[match[1]], read(match[2], LENGTH, world) if match[2] else None, part)]
    if match := re.fullmatch(r"(?:off|took|take)\s+(?:(upper|lower|both|up|top|low)\s+)?(.+)", low):
        return [_removed(match[1] or "both", match[2], part, world)]
    if found := _on_limb(low, part, world, last):
        return [found]
    if match := re.fullmatch(r"gaps\s+(.+?)(?:\s+and\s+|\s*[|&]\s*)(.+)", low):
        pair: list[Limb] = ["upper", "lower"]
        return [Gap(limb, read(t, LENGTH, world), part) for limb, t in zip(pair, match.groups(), strict=True)]
    if match := re.fullmatch(r"(upper|lower|up|top|low)?\s*(gap|tip)?\s+?(.+)|(upper|lower)?\s*(gap|tip)\s*(.+)", low):
        limb, kind, value = (match[1], match[2], match[3]) if match[3] else (match[4], match[5], match[6])
        if limb or kind:
            return [_gap_or_tip(limb, kind, value, part, world, last)]
    if match := re.fullmatch(r"(.+?)\s*(?:@|\bat\b)\s*(.+)", low):
        return [WeightAt(read(match[1], WEIGHT, world), read(match[2], LENGTH, world), part)]
    raise UnreadableError(
        f"“{part}” could not be read; write for example “37 at 22”, “upper gap 6 1/4”, “off upper 12 strokes"
        " 9 to 14”, “25 pulls”, “15 min” or “note …”."
    )


def _on_limb(low: str, part: str, world: World, last: Statement | None) -> OnLimb | None:
    """A reading at a place of a limb; the limb and the kind carry over when only a figure and a place are given."""
    match = re.fullmatch(r"(?:(upper|lower|up|top|low)\s+)?(edge|offset)\s+(.+?)\s+at\s+(.+?)(?:\s+over\s+(.+))?", low)
    if match:
        kind: Literal["straight edge", "offset"] = "straight edge" if match[2] == "edge" else "offset"
        limb: Limb = _LIMBS[match[1]] if match[1] else (last.limb if isinstance(last, OnLimb) else "")
        value, at, span = match[3], match[4], match[5]
    else:
        match = re.fullmatch(r"(.+?)\s+at\s+(.+?)(?:\s+over\s+(.+))?", low)
        if not match or not isinstance(last, OnLimb):
            return None
        kind, limb, value, at, span = last.kind, last.limb, match[1], match[2], match[3]
        if re.search(r"[a-z#]", value.replace("in", "").replace("mm", "")):
            return None  # a weight, which says its unit
    if not limb:
        raise UnreadableError(f"“{part}” does not say which limb; write upper or lower before it.")
    gap, place = read(value, LENGTH, world), read(at, LENGTH, world)
    if not -0.05 <= gap < 0.3 or not 0 < place < 1.5:
        raise UnreadableError(f"“{part}”: no limb stands so far off, or is so long.")
    length = read(span, LENGTH, world) if span else (last.span if isinstance(last, OnLimb) and not span else None)
    if kind == "straight edge":
        length = length or EDGE[world]
        if not 0.04 <= length <= 0.6:
            raise UnreadableError(f"“{part}”: a straight edge for this is 4 to 60 cm long (1½ to 24 in).")
    return OnLimb(kind, limb, gap, place, length if kind == "straight edge" else None, part)


def _gap_or_tip(limb: str | None, kind: str | None, value: str, part: str, world: World, last: Statement | None) -> Statement:
    if kind is None:
        kind = "tip" if isinstance(last, TipHeight) else "gap"
    side = _LIMBS[limb] if limb else ""
    if not side:
        raise UnreadableError(f"“{part}” does not say which limb; write upper or lower before it.")
    words = re.split(r"\s*(?:@|\bat\b)\s*", value)
    length = read(words[0], LENGTH, world)
    if length < 0 and kind == "gap":
        raise UnreadableError(f"“{part}” is below zero; a gap is measured from string to belly.")
    if kind == "gap":
        return Gap(side, length, part)
    draw = read(words[1], LENGTH, world) if len(words) > 1 else None
    if draw is None and isinstance(last, TipHeight):
        draw = last.draw
    return TipHeight(side, length, draw, part)


def _removed(limb: str, rest: str, part: str, world: World) -> Removed:
    where = re.search(r"\s+from\s+(.+?)\s+to\s+(.+)$", rest) or re.search(
        r"\s+(\S+(?:\s+\d+/\d+)?)\s*(?:\bto\b|–|-)\s*(.+)$", rest
    )
    amount = rest[: where.start()] if where else rest
    start = end = None
    if where:
        start, end = read(where[1], LENGTH, world), read(where[2], LENGTH, world)
        if not 0 <= start < end:
            raise UnreadableError(f"“{part}”: give the nearer place first, both measured from the centre.")
    side: Limb = "" if limb == "both" else _LIMBS[limb]
    if match := re.fullmatch(r"(\d+)\s*strokes?", amount.strip()):
        return Removed(side, None, _count(match[1], MOST_STROKES, "strokes"), start, end, part)
    thickness = read(amount, LENGTH, world)
    if not 0 < thickness < 0.02:
        raise UnreadableError(f"“{part}”: the thickness taken must lie between 0 and 20 mm (¾ in).")
    return Removed(side, thickness, None, start, end, part)


def _count(text: str, most: int, what: str) -> int:
    count = int(text)
    if not 0 < count <= most:
        raise UnreadableError(f"{text} {what} at once cannot be right; give 1 to {most}.")
    return count
