"""The bench log in order: statements in, checks out.

What was written keeps its order on the way to the estimate. Each reading belongs to the string that
was on when it was taken and knows the measure it came from; wood that comes off between two
readings parts them into two checks, within one entry as between two.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from bowyery.bow.bow import SIDES, Bow, Side
from bowyery.tiller.changes import Act, Pass
from bowyery.tiller.kinds import KINDS, READINGS, Reading
from bowyery.tiller.kinds.act import LATER
from bowyery.tiller.kinds.eye import EYE, EYE_LIMB
from bowyery.tiller.kinds.marks import MARKS
from bowyery.tiller.kinds.string import STRING_WORDS
from bowyery.tiller.statements import Statement

USUAL_SLACK = 0.075  # a tillering string is usually so much longer than the bow (m)
USUAL_LOW_BRACE = 0.075  # and a first brace about so high (m)
LOW_BELOW = 0.11  # a bow braced no higher than this is braced low (m)
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
        at: its length or brace height (m), where that was written.
        hook: how far above the middle of the grip it is pulled (m).
    """

    kind: str = "string full"
    at: float | None = None
    hook: float = 0.0

    @property
    def key(self) -> str:
        """Names it among the strings of a check."""
        key = self.kind if self.at is None else f"{self.kind} {self.at:.6g}"
        return f"{key} hook {self.hook:.6g}" if self.hook else key

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
        """
        hold = replace(bow.hold, support="clamp", held_by="sliding hook", nock_offset=self.hook)
        if self.kind == "string long":
            slack = self.at or length + USUAL_SLACK
            return replace(bow, hold=hold, brace_height=None, string_length=slack)
        usual = USUAL_LOW_BRACE if self.kind == "string low" else bow.brace_height
        return replace(bow, hold=hold, brace_height=self.at or usual, string_length=None)


@dataclass(frozen=True)
class Aside:
    """How the limbs lie across: the string off the grip's middle, a sideways bend, a twist.

    Attributes:
        limb: None for the string.
        value: how much (m, or rad), to the left below zero, seen from the belly with the upper limb
            up.
    """

    kind: str
    limb: Side | None
    value: float


@dataclass(frozen=True)
class Lie:
    """How an unstrung limb lay at a place.

    Attributes:
        at: from the bow's centre (m); None: at the nock.
        across: to the belly of the handle's line (m).
        check: how many checks had been closed before it was read.
    """

    limb: Side
    at: float | None
    across: float
    check: int
    entry: int = 0


@dataclass(frozen=True)
class MadeMark:
    """A mark on the wood.

    Attributes:
        how: what it says: a word of the eye, or a key of MARKS.
        start, end: from the bow's centre (m).
        draw: at which it was seen (m), where it was seen bent.
    """

    how: str
    limb: Side
    start: float
    end: float
    draw: float | None = None

    @property
    def at(self) -> float:
        """Its middle (m)."""
        return 0.5 * (self.start + self.end)


@dataclass(frozen=True)
class Check:
    """Readings of one state of the wood.

    Attributes:
        number: counted from 1.
        entries: that its readings were written in, in order.
        readings: in order, each with the key of its string.
        strings: that were on, by their keys.
        changes: wood taken, and acts, since the check before, in order.
    """

    number: int
    entries: tuple[int, ...]
    readings: tuple[Reading, ...]
    strings: tuple[StringOn, ...]
    string: StringOn
    changes: tuple[Pass | Act, ...]

    @property
    def passes(self) -> tuple[Pass, ...]:
        """Wood taken since the check before."""
        return tuple(one for one in self.changes if isinstance(one, Pass))

    @property
    def acts(self) -> tuple[Act, ...]:
        """Acts since the check before."""
        return tuple(one for one in self.changes if isinstance(one, Act))

    def bows(self, bow: Bow, length: float) -> dict[str, Bow]:
        """The bow with each string of the check, by key; as for :meth:`StringOn.on`.

        Args:
            length: of the bow from nock to nock (m).
        """
        bows = {one.key: one.on(bow, length) for one in self.strings}
        if not any(r.kind == "tilt" for r in self.readings):
            return bows
        # a grip whose tilt was read lay in a cradle that rocks
        return {
            key: replace(one, hold=replace(one.hold, support="rocking cradle", held_by="fingers"))
            for key, one in bows.items()
        }

    @property
    def draw(self) -> float | None:
        """The furthest draw of its readings (m); None when all were taken braced."""
        return max((r.draw for r in self.readings if r.draw is not None), default=None)


@dataclass(frozen=True)
class History:
    """A bow's checks in order, and what has happened since the last one.

    Attributes:
        changes: wood taken, and acts, since the last one, in order.
        pulls: short pulls since wood last came off; None when none has.
        braced: it has been at full brace.
        asides: newest of each kind and limb, how the limbs lie across.
        lies: how unstrung limbs lay, in order.
        marks: on the wood, in the order they were made.
        to_come: acts that are still to come, in order.
    """

    checks: tuple[Check, ...] = ()
    changes: tuple[Pass | Act, ...] = ()
    pulls: int | None = None
    braced: bool = False
    string: StringOn = StringOn()
    rested: int = 0
    asides: tuple[Aside, ...] = ()
    lies: tuple[Lie, ...] = ()
    tool: str = ""
    marks: tuple[MadeMark, ...] = ()
    to_come: tuple[Act, ...] = ()

    @property
    def passes(self) -> tuple[Pass, ...]:
        """Wood taken since the last check."""
        return tuple(one for one in self.changes if isinstance(one, Pass))

    @property
    def acts(self) -> tuple[Act, ...]:
        """Acts since the last check."""
        return tuple(one for one in self.changes if isinstance(one, Act))

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
            (r.limb is not None and READINGS[r.kind].off_the_bend and r.kind != "eye")
            or r.kind == "tilt"
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
        lies = tuple(one for one in self.lies if one.check <= number)
        string = checks[-1].string
        return replace(self, checks=checks, changes=(), pulls=None, string=string, lies=lies)


def _act(noted: Noted) -> Act:
    s = noted.statement
    return Act(s.kind, s.limb, s.value, s.start, s.end, s.more, s.how, noted.id, noted.entry)


def how_read(s: Statement) -> str:
    """How a reading was come by: a word of the eye, a photograph, a scale; empty: a figure."""
    return "photograph" if s.kind == "traced" else s.how


@dataclass
class _Walk:
    """Where the walk through the log stands."""

    roots: tuple[float, float]
    string: StringOn = field(default_factory=StringOn)
    strings: list[StringOn] = field(default_factory=list)
    readings: list[Reading] = field(default_factory=list)
    changes: list[Pass | Act] = field(default_factory=list)
    before: tuple[Pass | Act, ...] = ()
    pulls: int | None = None
    braced: bool = False
    checks: list[Check] = field(default_factory=list)
    entry: int = 0
    rested: int = 0
    asides: dict[tuple[str, Side | None], Aside] = field(default_factory=dict)
    lies: list[Lie] = field(default_factory=list)
    tool: str = ""
    exercised: bool = False
    unstrung: list[Reading] = field(default_factory=list)
    entries: list[int] = field(default_factory=list)
    marks: list[MadeMark] = field(default_factory=list)
    to_come: list[Act] = field(default_factory=list)

    def mark(self, s: Statement) -> None:
        """A mark is made, or rubbed off, or the place is seen to bend well."""
        if s.limb is None or s.start is None or s.end is None:
            return
        mine = {"rubbed": (*EYE, *MARKS), "eye": tuple(EYE)}.get(s.kind, ())
        self.marks = [
            one for one in self.marks
            if one.how not in mine or one.limb != s.limb or not s.start <= one.at <= s.end
        ]  # fmt: skip
        if s.kind != "rubbed":
            self.marks.append(MadeMark(s.how, s.limb, s.start, s.end, self.at_draw(s)))

    def reopen(self) -> None:
        """What is seen by eye belongs to the look before it, as long as nothing has changed since:
        its check is open again.
        """
        if self.readings or self.changes or not self.checks or self.exercised:
            return
        last = self.checks[-1]
        if last.string != self.string:
            return
        self.checks.pop()
        on = {string.key: string for string in last.strings}
        self.readings = list(last.readings)
        self.strings = [on.get(r.string, last.string) for r in last.readings]
        self.before, self.entries = last.changes, list(last.entries)

    def close(self) -> None:
        """The readings so far make a check."""
        if self.readings:
            number = len(self.checks) + 1
            strings = tuple(dict.fromkeys(self.strings))
            rows = (*self.readings, *(replace(r, string=strings[-1].key) for r in self.unstrung))
            entries = tuple(dict.fromkeys(self.entries))
            self.checks.append(Check(number, entries, rows, strings, strings[-1], self.before))
            self.readings, self.strings, self.before, self.unstrung = [], [], (), []
            self.entries = []

    def read(self, noted: Noted) -> None:
        """Take a reading into the check that is open, or open one."""
        s, at = noted.statement, noted.statement.at
        if not self.readings:
            self.before, self.changes = (*self.before, *self.changes), []
        root = self.roots[SIDES.index(s.limb)] if s.limb else 0.0
        if at is not None and s.limb is not None:
            at = max(0.0, at - root)
        span = (s.end or 0.0) - (s.start or 0.0)
        value, error, drop = s.value or 0.0, None, 0.0
        if s.kind == "deepest place":
            value = max(0.0, value - root)
        elif s.kind in ("tip travel", "floor"):
            span = s.more or 0.0
        elif s.kind == "weight" and s.how == "about":
            error = s.more
        elif s.kind == "weight" and s.more:
            drop = s.more / (value + s.more)
        elif s.kind == "traced":
            error = s.more
        elif READINGS[s.kind].seen:
            value, error = (EYE if s.kind == "eye" else EYE_LIMB)[s.how]
            self.forget(s, at, span)
        # gaps at full brace are read on a braced bow, said or not
        self.braced |= self.string.kind == "string full" and s.kind == "gap"
        self.strings.append(self.string)
        self.entries.append(noted.entry)
        self.readings.append(
            Reading(
                s.kind, value, s.limb, self.at_draw(s), at, span if span > 0 else None,
                self.string.key, error, drop, how_read(s), noted.id,
            )
        )  # fmt: skip

    def at_draw(self, s: Statement) -> float | None:
        """The draw of a reading; what is seen by eye was seen at the furthest one of its look."""
        reading = READINGS.get(s.kind)
        if (reading is not None and not reading.seen) or s.draw is not None:
            return s.draw
        key = self.string.key
        draws = [r.draw for r in self.readings if r.draw is not None and r.string == key]
        return max(draws, default=None)

    def forget(self, s: Statement, at: float | None, span: float) -> None:
        """What was said by eye of the same place before: the newer word counts."""
        keep = list[int]()
        for k, r in enumerate(self.readings):
            same = r.kind == s.kind and (s.kind == "eye limb" or r.limb == s.limb)
            if same and s.kind == "eye" and at is not None and r.at is not None:
                apart = abs(r.at - at)
                same = apart < 0.5 * max(span, r.span or 0.0)
            if not same:
                keep.append(k)
        self.readings = [self.readings[k] for k in keep]
        self.strings = [self.strings[k] for k in keep]

    def lie(self, noted: Noted) -> None:
        """How an unstrung limb lay: no look of its own, but it tells the next one, or the last."""
        s = noted.statement
        if s.limb is None:
            return
        made, root = len(self.checks) + bool(self.readings), self.roots[SIDES.index(s.limb)]
        self.lies.append(Lie(s.limb, s.at, s.value or 0.0, made, self.entry))
        at = None if s.at is None else max(0.0, s.at - root)
        row = Reading("profile", s.value or 0.0, s.limb, at=at, how=s.how, id=noted.id)
        self.unstrung = [r for r in self.unstrung if (r.limb, r.at) != (row.limb, row.at)] + [row]

    def act(self, noted: Noted) -> None:
        """Something else changed the bow: what is read from here on is another state."""
        s = noted.statement
        self.close()
        self.changes.append(_act(noted))
        if s.kind == "backing":
            self.pulls = None if self.pulls is None else 0

    def take(self, s: Statement) -> None:
        """Wood comes off: what is read from here on is another state."""
        self.close()
        thickness = None if s.kind == "strokes" else s.value
        strokes = int(s.value or 0) if s.kind == "strokes" else None
        for limb in (s.limb,) if s.limb else SIDES:
            self.changes.append(Pass(limb, thickness, strokes, s.start, s.end, s.tool, s.how))
        if strokes:
            self.tool = s.tool
        self.pulls = 0

    def strung(self, s: Statement) -> None:
        """Another string is on, or its brace was measured."""
        if s.kind == "brace":
            low = (s.value or 0.0) < LOW_BELOW
            kind = "string low" if low else "string full"
            kind = kind if self.string.kind == "string long" else self.string.kind
            self.string = replace(self.string, kind=kind, at=s.value)
        elif s.kind == "hook":
            self.string = replace(self.string, hook=s.value or 0.0)
        else:
            self.string = replace(self.string, kind=s.kind, at=s.value)
        self.braced |= self.string.kind == "string full"


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
        kind = KINDS[s.kind]
        reading = READINGS.get(s.kind)
        if kind.walk == "string":
            walk.strung(s)
        elif kind.walk == "lie":
            walk.lie(one)
        elif reading is not None:
            if reading.seen:
                walk.reopen()
            walk.read(one)
            if s.kind == "eye":
                walk.mark(s)
        elif kind.walk == "mark":
            walk.mark(s)
        elif kind.walk == "act" and s.tool == LATER:
            walk.to_come.append(_act(one))
        elif kind.walk == "act":
            walk.act(one)
            walk.to_come = [later for later in walk.to_come if later.kind != s.kind]
        elif kind.walk == "aside":
            value = (s.value or 0.0) * (-1 if s.how == "left" else 1)
            walk.asides[s.kind, s.limb] = Aside(s.kind, s.limb, value)
        elif kind.walk == "rested":
            walk.rested = max(walk.rested, int(s.value or 0))
        elif kind.walk == "wood":
            walk.take(s)
        elif kind.walk == "pulls" and walk.pulls is not None:
            walk.pulls += int(s.value or 0)
        walk.exercised = s.kind == "pulls" or (walk.exercised and reading is None)
    walk.close()
    if walk.unstrung and walk.checks and not walk.changes:
        last = walk.checks[-1]
        rows = (replace(r, string=last.string.key) for r in walk.unstrung)
        walk.checks[-1] = replace(last, readings=(*last.readings, *rows))
    return History(
        tuple(walk.checks), tuple(walk.changes), walk.pulls, walk.braced, walk.string, walk.rested,
        tuple(walk.asides.values()), tuple(walk.lies), walk.tool, tuple(walk.marks),
        tuple(walk.to_come),
    )  # fmt: skip
