"""How long things rest, and a chain of rests as a plan with its range.

A rest is a preset of the table, or the shop's own: least, usual and long hours at 20 °C and air
half full of water. Curing goes on twice as fast for every ten degrees (van 't Hoff's rule); drying
as fast as the air takes water up, which is what it lacks of being full (saturation by Magnus's
formula with the constants of Alduchov and Eskridge 1996). Rests that follow one another are as
uncertain as all of them together; their ranges add up as independent ones.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal

from bowyery.errors import DescriptionError

Air = Literal["cures", "dries", "none"]
AIRS: tuple[Air, ...] = ("cures", "dries", "none")
BOOK_CELSIUS, BOOK_HUMIDITY = 20.0, 0.5
TWICE_EVERY = 10.0  # °C
SLOWEST, FASTEST = 0.15, 4.0  # of the book's pace; what lies beyond is not reckoned with
LONGEST = 5 * 365 * 24.0  # hours
KINDS = ("glue", "soak", "backing", "heat", "wood", "tiller", "finish", "other")


@dataclass(frozen=True)
class Rest:
    """A kind of rest.

    Attributes:
        name: as it hangs from the string.
        low, usual, high: hours at 20 °C and half-damp air.
        air: how it goes with the air.
    """

    name: str
    what: str
    low: float
    usual: float
    high: float
    air: Air = "none"
    note: str = ""


@dataclass(frozen=True)
class Hours:
    """How long a rest takes in some air.

    Attributes:
        low: shortest (h).
        usual: the usual time (h).
        high: the long one (h).
    """

    low: float
    usual: float
    high: float


@cache
def rests() -> dict[str, Rest]:
    """The book's rests by name."""
    text = files("bowyery.making").joinpath("data/rests.toml").read_text("utf-8")
    return {name: checked(Rest(name, **row)) for name, row in tomllib.loads(text).items()}


def checked(rest: Rest) -> Rest:
    """A rest as it is, if it can be.

    Args:
        rest: of the book or the shop.

    Raises:
        DescriptionError: hours that are none, or out of order.
    """
    hours = (rest.low, rest.usual, rest.high)
    if not all(math.isfinite(h) and 0 < h <= LONGEST for h in hours):
        raise DescriptionError("A rest takes more than nothing and at most five years.", "usual")
    if not rest.low <= rest.usual <= rest.high:
        raise DescriptionError(
            "The least time is no longer than the usual one, and that no longer than the long one.",
            "low",
        )
    if rest.air not in AIRS:
        raise DescriptionError(f"Choose one of {', '.join(AIRS)}.", "air")
    return rest


def takes_up(celsius: float, humidity: float) -> float:
    """Water that air takes up: the pressure of vapour that it lacks (hPa).

    Args:
        celsius: air temperature (°C).
        humidity: relative humidity, 0 to 1.
    """
    full = 6.1094 * math.exp(17.625 * celsius / (celsius + 243.04))
    return full * max(0.0, 1 - humidity)


def pace(air: Air, celsius: float, humidity: float) -> float:
    """How fast a rest goes in some air, against the book's.

    Args:
        air: how it goes with the air.
        celsius: air temperature (°C).
        humidity: relative humidity, 0 to 1.

    Returns:
        The pace; 2 is twice as fast.

    Raises:
        DescriptionError: air that no shop has.
    """
    if not (-20 <= celsius <= 80 and 0 <= humidity <= 1):
        raise DescriptionError("The air of a shop lies between −20 and 80 °C, and 0 and 100 %.")
    if air == "cures":
        found = 2 ** ((celsius - BOOK_CELSIUS) / TWICE_EVERY)
    elif air == "dries":
        found = takes_up(celsius, humidity) / takes_up(BOOK_CELSIUS, BOOK_HUMIDITY)
    else:
        return 1.0
    return min(max(found, SLOWEST), FASTEST)


def hours(rest: Rest, celsius: float, humidity: float) -> Hours:
    """How long a rest takes in some air.

    Args:
        rest: of the book or the shop.
        celsius: air temperature (°C).
        humidity: relative humidity, 0 to 1.
    """
    speed = pace(rest.air, celsius, humidity)
    return Hours(rest.low / speed, rest.usual / speed, rest.high / speed)


def total(row: Sequence[Hours], at_once: Iterable[float] = ()) -> Hours:
    """How long rests take that follow one another.

    Args:
        at_once: hours of hands-on work between them.

    Returns:
        The usual hours together; the range as of independent rests, never below the sum of the
        least.
    """
    work = sum(at_once)
    usual = sum(one.usual for one in row) + work
    below = math.sqrt(sum((one.usual - one.low) ** 2 for one in row))
    above = math.sqrt(sum((one.high - one.usual) ** 2 for one in row))
    return Hours(max(sum(one.low for one in row) + work, usual - below), usual, usual + above)
