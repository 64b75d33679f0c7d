"""Stand-ins for instruments: a bow pulled on the tree by a hand that shakes, arrows, a balance.

They play a bow as it truly stands, given by its force-draw curve, and speak the lines that real
instruments would. The hand draws unevenly and trembles, the weight sinks while it is held and is
lower on the way back, the scale shows tenths and wavers.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from bowyery.errors import DescriptionError
from bowyery.instruments.lines import Said
from bowyery.units.quantity import KILOGRAM_FORCE

RATE = 10.0  # lines of each kind a second
SINKS, BACK = 0.012, 0.05  # share by which the weight sinks in a hold; lower on the way back
TREMBLES, WAVERS = 0.0012, 0.15  # of the hand (m), of the scale (N)


@dataclass(frozen=True)
class Timed:
    """A line and when it is sent.

    Attributes:
        at: since the beginning (s).
    """

    at: float
    said: Said

    @property
    def line(self) -> str:
        """As it is sent."""
        return f"{self.said.what} {self.said.text}".strip()


def _weight(newtons: float) -> Said:
    text = f"{newtons / KILOGRAM_FORCE:.2f} kg"
    return Said("w", round(newtons / KILOGRAM_FORCE, 2) * KILOGRAM_FORCE, text=text)


def _draw(metres: float) -> Said:
    return Said("d", round(metres, 3), text=f"{metres * 1e3:.0f} mm")


def pull(
    curve: Sequence[tuple[float, float]],
    to: float,
    rng: np.random.Generator,
    seconds: float = 6.0,
    hold: float = 2.0,
) -> Iterator[Timed]:
    """A slow pull to a draw, held, and back.

    Args:
        curve: draws (m) and weights (N) of the bow, by draw, from where it is taut.
        to: draw that is pulled to (m).
        rng: of the hand and the scale.
        seconds: the way up takes; the way back takes two thirds of it.
        hold: seconds at the top.

    Returns:
        Lines of draw and weight in turn.

    Raises:
        DescriptionError: no curve, or a draw before its beginning.
    """
    table = np.array(curve, float)
    if table.ndim != 2 or len(table) < 2 or not np.all(np.isfinite(table)):
        raise DescriptionError("A stand-in pulls a bow that has a curve.", "curve")
    start = float(table[0, 0])
    if to <= start:
        raise DescriptionError("It is pulled beyond where its string is taut.", "to")
    down = seconds * 2 / 3
    total, tremble = seconds + hold + down, 0.0

    def drawn(at: float) -> tuple[float, float]:
        """How far it is drawn (m), and what share of the way."""
        if at <= seconds:
            share = at / seconds
        elif at <= seconds + hold:
            share = 1.0
        else:
            share = max(0.0, 1 - (at - seconds - hold) / down)
        eased = 0.5 - 0.5 * math.cos(math.pi * share)
        where = start + eased * (to - start) + tremble * (0.3 + 0.7 * share)
        return min(max(where, start), to + 0.002), share

    def pulls(at: float) -> float:
        where, share = drawn(at)
        weight = float(np.interp(where, table[:, 0], table[:, 1]))
        if at > seconds:
            weight *= 1 - min(SINKS, SINKS * (at - seconds) / max(hold, 0.5))
        if at > seconds + hold:
            weight *= 1 - BACK * (math.sin(math.pi * share) + 0.3 * (1 - share))
        return max(weight + WAVERS * float(rng.standard_normal()), 0.0)

    for k in range(int(total * RATE) + 1):
        at, later = k / RATE, (k + 0.3) / RATE
        tremble = 0.7 * tremble + TREMBLES * float(rng.standard_normal())
        yield Timed(at, _draw(drawn(at)[0]))
        yield Timed(later, _weight(pulls(later)))


def shots(speed: float, count: int, rng: np.random.Generator) -> Iterator[Timed]:
    """Arrows through a chronograph, some seconds apart.

    Args:
        speed: in the mean (m/s).
    """
    for k in range(count):
        one = speed * float(np.exp(0.012 * rng.standard_normal()))
        yield Timed(6.0 * k, Said("v", round(one, 1), text=f"{one:.1f} m/s"))


def calipers(thicknesses: Sequence[float], rng: np.random.Generator) -> Iterator[Timed]:
    """Calipers laid on one mark after the other.

    Args:
        thicknesses: at the marks (m).

    Returns:
        A line for each mark, in their order.
    """
    for k, size in enumerate(thicknesses):
        one = max(size + 0.0001 * float(rng.standard_normal()), 0.0)
        yield Timed(3.0 * k, Said("t", round(one, 5), text=f"{one * 1e3:.2f} mm"))


def weighed(mass: float, rng: np.random.Generator) -> Iterator[Timed]:
    """A balance that settles.

    Args:
        mass: that lies on it (kg).

    Returns:
        Lines that come to rest on it.
    """
    for k in range(20):
        off = 0.05 * math.exp(-0.4 * k) * float(rng.standard_normal())
        one = max(mass * (1 + off), 0.0)
        yield Timed(k / 5, Said("g", round(one, 4), text=f"{one * 1e3:.0f} g"))


def moisture(fraction: float, rng: np.random.Generator) -> Iterator[Timed]:
    """A moisture meter pressed in at a few places.

    Args:
        fraction: of dry mass, 0 to 1.

    Returns:
        A line for each place (percent of dry mass).
    """
    for k in range(4):
        one = max(fraction * (1 + 0.03 * float(rng.standard_normal())), 0.001)
        yield Timed(2.0 * k, Said("m", round(one, 3), text=f"{one * 100:.1f} %"))


def air(celsius: float, humidity: float, rng: np.random.Generator) -> Iterator[Timed]:
    """The shop's air, every half minute.

    Args:
        celsius: (°C).
        humidity: relative, 0 to 1.

    Returns:
        Lines of temperature (°C) and humidity (percent).
    """
    for k in range(10_000):
        warm = celsius + 0.2 * float(rng.standard_normal())
        damp = min(max(humidity + 0.005 * float(rng.standard_normal()), 0.0), 1.0)
        text = f"{warm:.1f} C {damp * 100:.0f} %"
        yield Timed(30.0 * k, Said("a", round(warm, 1), round(damp, 2), text))
