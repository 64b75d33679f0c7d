"""The bench log in order: statements in, checks out.

What was written keeps its order on the way to the estimate. Each reading belongs to the string that
was on when it was taken and knows the measure it came from; wood that comes off between two
readings parts them into two checks, within one entry as between two.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.tiller.kinds import KINDS, SIZES, Reading
from bowyery.tiller.statements import STRING_WORDS, Statement

USUAL_SLACK = 0.075  # a tillering string is usually so much longer than the bow (m)
USUAL_LOW_BRACE = 0.075  # and a first brace about so high (m)
# How far off a string's length, or a brace height, may be: one deviation where it was written down
# and where it was not (m).
STRING_OFF = {
    "string long": (0.004, 0.04), "string low": (0.0035, 0.015), "string full": (0.0035, 0.006),
}  # fmt: skip


@dataclass(frozen=True)
class Noted:
    """A statement as it stands in the log: the id of its measure, and the entry it was written
    in.
    """

    statement: Statement
    id: int = 0
    entry: int = 0


@dataclass(frozen=True)
class StringOn:
    """The string that is on: its kind, a key of STRING_WORDS, and its length or brace height
    (m).

    Attributes:
        at: place (m).
    """

    kind: str = "string full"
    at: float | None = None

    @property
    def key(self) -> str:
        """Names it among the strings of a check."""
        return self.kind if self.at is None else f"{self.kind} {self.at:.6g}"

    @property
    def rung(self) -> str:
        """long, low or full."""
        return self.kind.removeprefix("string ")

    @property
    def off(self) -> float:
        """How far off its length or brace height may be, one deviation (m)."""
        written, usual = STRING_OFF[self.kind]
        return usual if self.at is None else written

    @property
    def words(self) -> str:
        """What it is called."""
        return STRING_WORDS[self.kind]

    def on(self, bow: Bow, length: float) -> Bow:
        """A bow with this string, level on the tree, the hook over the grip's middle.

        The string may slide in the hook: its pull is the same on both limbs, so that the stiffer
        one comes down less.

        Args:
            bow: with the brace height it will have when it is finished.
            length: of the bow from nock to nock (m).

        Returns:
            The bow as it hangs.
        """
        hold = replace(bow.hold, support="clamp", held_by="sliding hook", nock_offset=0.0)
        if self.kind == "string long":
            slack = self.at or length + USUAL_SLACK
            return replace(bow, hold=hold, brace_height=None, string_length=slack)
        usual = USUAL_LOW_BRACE if self.kind == "string low" else bow.brace_height
        return replace(bow, hold=hold, brace_height=self.at or usual, string_length=None)


@dataclass(frozen=True)
class Pass:
    """Wood taken in one go: off which limb, between which places from the centre (m), as a
    thickness (m) or in strokes.

    Attributes:
        start: from (m).
        end: to (m).
    """

    limb: Side
    thickness: float | None
    strokes: int | None
    start: float | None = None
    end: float | None = None


@dataclass(frozen=True)
class Check:
    """Readings of one state of the wood.

    Attributes:
        number: counted from 1.
        entry: the last reading was written in.
        readings: in order, each with the key of its string.
        strings: that were on, by their keys.
        string: on at the last reading.
        passes: wood taken since the check before.
    """

    number: int
    entry: int
    readings: tuple[Reading, ...]
    strings: tuple[StringOn, ...]
    string: StringOn
    passes: tuple[Pass, ...]

    def bows(self, bow: Bow, length: float) -> dict[str, Bow]:
        """The bow with each string of the check, by key; as for :meth:`StringOn.on`.

        Args:
            bow: the bow.
            length: of the bow from nock to nock (m).

        Returns:
            Bows by string.
        """
        return {one.key: one.on(bow, length) for one in self.strings}

    @property
    def draw(self) -> float | None:
        """The furthest draw of its readings (m); None when all were taken braced."""
        return max((r.draw for r in self.readings if r.draw is not None), default=None)


@dataclass(frozen=True)
class History:
    """A bow's checks in order, and what has happened since the last one.

    Attributes:
        checks: in order.
        passes: wood taken since the last one.
        pulls: short pulls since wood last came off; None when none has.
        braced: it has been at full brace.
        string: that is on.
    """

    checks: tuple[Check, ...] = ()
    passes: tuple[Pass, ...] = ()
    pulls: int | None = None
    braced: bool = False
    string: StringOn = StringOn()

    @property
    def last_draw(self) -> float:
        """The furthest draw of any reading (m), 0 without one."""
        return max((check.draw or 0.0 for check in self.checks), default=0.0)

    @property
    def deepest(self) -> dict[StringOn, float]:
        """The furthest draw read on each string (m)."""
        found: dict[StringOn, float] = {}
        for check in self.checks:
            on = {string.key: string for string in check.strings}
            for r in check.readings:
                if r.draw is not None:
                    found[on[r.string]] = max(r.draw, found.get(on[r.string], 0.0))
        return found

    @property
    def weights(self) -> list[tuple[float, float]]:
        """Every weight read, as draw (m) and weight (N)."""
        return [
            (r.draw or 0.0, r.value)
            for check in self.checks
            for r in check.readings
            if r.kind == "weight"
        ]

    @property
    def seen(self) -> bool:
        """Whether anything was read that tells the limbs apart."""
        return any(
            (r.limb is not None and r.kind not in SIZES) or r.kind == "tilt"
            for check in self.checks
            for r in check.readings
        )

    def upto(self, number: int | None) -> History:
        """The history as it stood right after a check; all of it without a number, or a later
        one.
        """
        if not number or number >= len(self.checks):
            return self
        checks = self.checks[:number]
        return replace(self, checks=checks, passes=(), pulls=None, string=checks[-1].string)


@dataclass
class _Walk:
    """Where the walk through the log stands."""

    roots: tuple[float, float]
    string: StringOn = field(default_factory=StringOn)
    strings: list[StringOn] = field(default_factory=list)
    readings: list[Reading] = field(default_factory=list)
    passes: list[Pass] = field(default_factory=list)
    before: tuple[Pass, ...] = ()
    pulls: int | None = None
    braced: bool = False
    checks: list[Check] = field(default_factory=list)
    entry: int = 0

    def close(self) -> None:
        """The readings so far make a check."""
        if self.readings:
            number = len(self.checks) + 1
            strings = tuple(dict.fromkeys(self.strings))
            self.checks.append(
                Check(number, self.entry, tuple(self.readings), strings, strings[-1], self.before)
            )
            self.readings, self.strings, self.before = [], [], ()

    def read(self, noted: Noted) -> None:
        """Take a reading into the check that is open, or open one."""
        s, at = noted.statement, noted.statement.at
        if not self.readings:
            self.before, self.passes = (*self.before, *self.passes), []
        if at is not None and s.limb is not None:
            at = max(0.0, at - self.roots[SIDES.index(s.limb)])
        span = (s.end or 0.0) - (s.start or 0.0)
        # gaps at full brace are read on a braced bow, said or not
        self.braced |= self.string.kind == "string full" and s.kind == "gap"
        self.strings.append(self.string)
        self.readings.append(
            Reading(
                s.kind, s.value or 0.0, s.limb, s.draw, at, span if span > 0 else None,
                self.string.key, id=noted.id,
            )
        )  # fmt: skip

    def take(self, s: Statement) -> None:
        """Wood comes off: what is read from here on is another state."""
        self.close()
        thickness = None if s.kind == "strokes" else s.value
        strokes = int(s.value or 0) if s.kind == "strokes" else None
        for limb in (s.limb,) if s.limb else SIDES:
            self.passes.append(Pass(limb, thickness, strokes, s.start, s.end))
        self.pulls = 0


def history(noted: Iterable[Noted], roots: tuple[float, float] = (0.0, 0.0)) -> History:
    """Walk through a bench log.

    Args:
        noted: its statements in the order they were written; those that were corrected left out.
        roots: how far from the bow's centre each limb begins, upper and lower (m).

    Returns:
        The checks, and what has happened since the last one.
    """
    walk = _Walk(roots)
    for one in noted:
        s = one.statement
        if one.entry != walk.entry:
            walk.close()
            walk.entry = one.entry
        if s.kind in STRING_WORDS:
            walk.string = StringOn(s.kind, s.value)
            walk.braced |= s.kind == "string full"
        elif s.kind in KINDS:
            walk.read(one)
        elif s.kind in ("removed", "strokes"):
            walk.take(s)
        elif s.kind == "pulls" and walk.pulls is not None:
            walk.pulls += int(s.value or 0)
    walk.close()
    checks, passes = tuple(walk.checks), tuple(walk.passes)
    return History(checks, passes, walk.pulls, walk.braced, walk.string)
