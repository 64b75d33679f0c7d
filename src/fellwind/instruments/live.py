"""What instruments say just now, in memory: a few lines a second are no records.

One process serves a shop (``kit/lock.py``), so that what one request hears another can read. What
was kept of it is an entry of the log like any other; counts of lines are written down now and then.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from bowyery.errors import UnreadableError
from bowyery.instruments.lines import Said
from bowyery.instruments.pull import Sample, trouble

MOST = 6000  # lines of an instrument: ten minutes of a scale
WRITE_EVERY = 5.0  # seconds between counts that are written down


@dataclass(frozen=True)
class Heard:
    """A line of an instrument: its number among all lines, when it came (s), and what it says."""

    number: int
    at: float
    instrument: int
    said: Said


@dataclass
class Counts:
    """Lines of an instrument that were not written down yet."""

    good: int = 0
    bad: int = 0
    last_bad: str = ""
    since: float = 0.0


class Live:
    """What was heard."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._guard, self._clock = threading.Lock(), clock
        self._lines: deque[Heard] = deque(maxlen=MOST)
        self._counts: dict[int, Counts] = {}
        self._number = 0
        self._zero: dict[tuple[int, str], float] = {}
        self.air_at: float | None = None  # when the shop's air was set last

    def now(self) -> float:
        """The moment by this clock (s)."""
        return self._clock()

    def hear(self, instrument: int, lines: Iterable[Said | UnreadableError]) -> None:
        """Take an instrument's lines."""
        with self._guard:
            counts = self._counts.setdefault(instrument, Counts())
            now = self._clock()
            for one in lines:
                if isinstance(one, UnreadableError):
                    counts.bad += 1
                    counts.last_bad = str(one)
                    continue
                counts.good += 1
                self._take(instrument, one, now)

    def due(self, instrument: int) -> Counts | None:
        """Counts of an instrument, where it is time to write them down; they begin anew then."""
        with self._guard:
            counts, now = self._counts.get(instrument, Counts()), self._clock()
            if now - counts.since < WRITE_EVERY and counts.since > 0:
                return None
            due = Counts(counts.good, counts.bad, counts.last_bad)
            self._counts[instrument] = Counts(since=now)
            return due

    def pending(self, instrument: int) -> Counts:
        """Counts of an instrument that were not written down yet."""
        with self._guard:
            return self._counts.get(instrument, Counts())

    def _take(self, instrument: int, said: Said, now: float) -> None:
        if said.what == "zero":  # from here on it counts from what it showed last
            last = next(
                (h.said for h in reversed(self._lines)
                 if h.instrument == instrument and h.said.what in ("w", "g")), None,
            )  # fmt: skip
            if last is not None:
                key = instrument, last.what
                self._zero[key] = last.value + self._zero.get(key, 0.0)
            return
        if said.what == "hello":
            return
        off = self._zero.get((instrument, said.what), 0.0)
        if off:
            said = Said(said.what, said.value - off, said.second, said.text)
        self._number += 1
        self._lines.append(Heard(self._number, now, instrument, said))

    @property
    def number(self) -> int:
        """Of the newest line."""
        with self._guard:
            return self._number

    def since(self, number: int, what: str = "") -> list[Heard]:
        """Lines after one, of the letters that are asked for."""
        with self._guard:
            return [
                h for h in self._lines if h.number > number and (not what or h.said.what in what)
            ]

    def samples(self, number: int, instrument: int | None = None) -> list[Sample]:
        """Weights and draws after a line, as a pull takes them."""
        return [
            Sample(h.at, h.said.what, h.said.value)
            for h in self.since(number, "wd")
            if instrument is None or h.instrument == instrument
        ]

    def speakers(self, number: int, what: str) -> dict[str, set[int]]:
        """Instruments that spoke after a line, by each of these letters."""
        found: dict[str, set[int]] = {letter: set() for letter in what}
        for one in self.since(number, what):
            found[one.said.what].add(one.instrument)
        return found

    def trouble(self, number: int) -> str:
        """What is wrong with scale or draw rule since a line, as a sentence."""
        return trouble(self.samples(number), self._clock())

    def forget(self, instrument: int) -> None:
        """Let go of an instrument whose token was taken back."""
        with self._guard:
            self._lines = deque((h for h in self._lines if h.instrument != instrument), maxlen=MOST)
            self._counts.pop(instrument, None)


live = Live()
