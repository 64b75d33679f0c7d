"""What a maker's readings are worth, learned from how they fit: each kind's own scatter.

Of what a reading lies off what was believed before, a part belongs to what was not known of the
bow and a part to the reading. The part that is the reading's own has the mean square
``w² v² + e² (1 − w)``, with ``v`` how far it lay off, ``e`` its error as believed so far and ``w``
its share of the variance (one step of expectation and maximisation: Dempster, Laird and Rubin
1977). The usual error counts as so many readings that fitted just so.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from bowyery.tiller.estimate import Estimate
from bowyery.tiller.kinds import READINGS, Reading

USUAL_COUNTS = 8.0  # readings that the usual error of a kind counts as
LEAST, MOST = 0.5, 3.0  # times the usual error, whatever was seen
LEARNED = ("straight edge", "gap", "deepest gap", "tip height", "offset")


@dataclass(frozen=True)
class Ruler:
    """What was seen of one kind of reading.

    Attributes:
        squares: their own errors squared, as multiples of the usual error's square, in all.
    """

    count: int = 0
    squares: float = 0.0

    @property
    def shown(self) -> tuple[float, float] | None:
        """What was seen alone, as a multiple of the usual error, and one deviation of that; None
        where nothing was.
        """
        if not self.count:
            return None
        times = (self.squares / self.count) ** 0.5
        return times, times / (2 * self.count) ** 0.5

    @property
    def times(self) -> float:
        """Its error as a multiple of the usual one."""
        square = (USUAL_COUNTS + self.squares) / (USUAL_COUNTS + self.count)
        return float(min(MOST, max(LEAST, square**0.5)))


@dataclass(frozen=True)
class Rulers:
    """What was seen of every kind of reading, by its name."""

    seen: Mapping[str, Ruler] = field(default_factory=dict)

    @classmethod
    def learned(cls, known: Mapping[str, tuple[float, float]]) -> Rulers:
        """As if so much had been seen of kinds.

        Args:
            known: multiple of the usual error, and one deviation of it, by the kind's name.
        """
        rows = {}
        for kind, (times, spread) in known.items():
            count = min(60, round(0.5 * (times / max(spread, 0.05)) ** 2))
            rows[kind] = Ruler(count, count * times**2)
        return cls(rows)

    def times(self, kind: str) -> float:
        """A kind's error as a multiple of the usual one."""
        return self.seen.get(kind, Ruler()).times

    def error(self, reading: Reading) -> float | None:
        """One standard deviation of a reading (SI); None where it brings its own, or none is
        learned of its kind.
        """
        if reading.kind not in LEARNED or reading.error is not None:
            return None
        return self.times(reading.kind) * READINGS[reading.kind].error(reading, 0.0, 0.0)

    def read(self, readings: tuple[Reading, ...]) -> tuple[Reading, ...]:
        """Readings with the errors that this maker's have."""
        return tuple(replace(r, error=self.error(r) or r.error) for r in readings)

    def after(self, readings: tuple[Reading, ...], now: Estimate) -> Rulers:
        """After a look: with what its readings show.

        Args:
            readings: as they were read, in the estimate's order.
        """
        if now.foretold is None:
            return self
        seen = dict(self.seen)
        for k, reading in enumerate(readings):
            error = self.error(reading)
            if error is None or k in now.wild:
                continue
            off, own = (float(v) for v in now.foretold[:, k])
            part = error**2 / (own**2 + error**2)
            usual = READINGS[reading.kind].error(reading, 0.0, 0.0)
            square = (part * off) ** 2 + error**2 * (1 - part)
            was = seen.get(reading.kind, Ruler())
            seen[reading.kind] = Ruler(was.count + 1, was.squares + square / usual**2)
        return Rulers(seen)
