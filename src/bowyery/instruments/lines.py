"""The open line protocol that instruments speak: one reading a line, with its unit.

A line is a letter, a figure and a unit: ``w 12.35 kg``, ``d 16 1/4 in``, ``v 48.2 m/s``,
``t 12.4 mm``, ``m 9.4 %``, ``g 1012 g``, ``a 17.2 C 58 %``; or a word: ``zero``,
``hello scale NAME``. A figure without its unit is refused: a bench has two worlds of units, and a
guess is a broken bow. ``docs/instruments.md`` is the protocol for who builds one.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from bowyery.errors import UnreadableError
from bowyery.units import quantity as q

MOST_LINE = 120  # characters
KINDS = ("scale", "chronograph", "calipers", "meter", "balance", "air")


@dataclass(frozen=True)
class Channel:
    """What a letter measures.

    Attributes:
        quantity: as it is read and written.
        low, high: what such an instrument can show at all (SI).
    """

    letter: str
    name: str
    quantity: q.Quantity
    low: float
    high: float


CHANNELS: dict[str, Channel] = {
    one.letter: one
    for one in (
        # a scale may hang a little below nothing
        Channel("w", "weight", q.FINE_WEIGHT, -50.0, 2000.0),
        Channel("d", "draw", q.FINE_LENGTH, -0.05, 1.5),
        Channel("v", "speed", q.SPEED, 1.0, 200.0),
        Channel("t", "thickness", q.THICKNESS, 0.0, 0.3),
        Channel("m", "moisture", q.MOISTURE, 0.0, 2.0),
        Channel("g", "mass", q.BULK_MASS, -0.05, 60.0),
    )
}
AIR = {"temperature": (-30.0, 60.0), "humidity": (0.0, 1.0)}
UNITS = {
    "w": "kg, lb or N", "d": "mm, cm, m or in", "v": "m/s or fps", "t": "mm or in", "m": "%",
    "g": "g, kg, gr, oz or lb", "a": "C or F, and %",
}  # fmt: skip
_AIR = re.compile(r"^a\s+(?P<warm>[-+]?\d+(?:[.,]\d+)?)\s*°?(?P<unit>[CF])\s+"
                  r"(?P<damp>\d+(?:[.,]\d+)?)\s*%$", re.I)  # fmt: skip
_HELLO = re.compile(r"^hello\s+(?P<kind>[a-z]+)(?:\s+(?P<name>.{1,60}))?$", re.I)
_SIGNED = re.compile(r"^-\s*(?=\d)")


@dataclass(frozen=True)
class Said:
    """What a line says.

    Attributes:
        what: a letter of CHANNELS, ``a``, ``zero`` or ``hello``.
        value: in SI; a temperature (°C) of the air.
        second: relative humidity of the air, 0 to 1.
        text: the figure as it was sent; of ``hello`` the name.
        kind: of the instrument, where it said hello.
    """

    what: str
    value: float = 0.0
    second: float = 0.0
    text: str = ""
    kind: str = ""


def read_line(line: str) -> Said:
    """Read one line.

    Raises:
        UnreadableError: a sentence that says what is wrong with it.
    """
    text = " ".join(line.split())
    if not text:
        raise UnreadableError("It says nothing.")
    if len(text) > MOST_LINE:
        raise UnreadableError(f"“{text[:20]}…” is longer than a reading.")
    if text.lower() == "zero":
        return Said("zero")
    hello = _HELLO.match(text)
    if hello:
        kind = hello["kind"].lower()
        if kind not in KINDS:
            known = ", ".join(KINDS)
            raise UnreadableError(f"“{kind}” is no instrument known here; they are {known}.")
        return Said("hello", text=(hello["name"] or "").strip(), kind=kind)
    letter, _, rest = text.partition(" ")
    letter = letter.lower()
    if letter == "a":
        return _air(text)
    channel = CHANNELS.get(letter)
    if channel is None:
        raise UnreadableError(f"“{text[:20]}” begins with none of {', '.join((*CHANNELS, 'a'))}.")
    return _reading(channel, rest)


def _reading(channel: Channel, rest: str) -> Said:
    if not re.search(r"[A-Za-z%\"'#″′]\s*$", rest):
        raise UnreadableError(f"“{rest[:20]}” has no unit; send {UNITS[channel.letter]}.")
    if len(re.findall(r"\d[\d\s.,/]*[A-Za-z%]", rest)) > 1:
        raise UnreadableError(f"“{rest[:20]}” has two units; a line has one figure with one.")
    below = bool(_SIGNED.match(rest))
    plain = _SIGNED.sub("", rest)
    try:
        value = q.read(plain, channel.quantity, q.METRIC)
    except UnreadableError:
        raise UnreadableError(
            f"“{rest[:20]}” is no {channel.name}; send a figure with {UNITS[channel.letter]}."
        ) from None
    value = -value if below else value
    if not channel.low <= value <= channel.high:
        raise UnreadableError(f"“{rest[:20]}” is more than any {channel.name} here, or less.")
    return Said(channel.letter, value, text=rest)


def _air(text: str) -> Said:
    found = _AIR.match(text)
    if found is None:
        raise UnreadableError(f"“{text[:20]}” is no air; send it as a 17.2 C 58 %.")
    warm, damp = (float(found[name].replace(",", ".")) for name in ("warm", "damp"))
    celsius = (warm - 32) / 1.8 if found["unit"].upper() == "F" else warm
    low, high = AIR["temperature"]
    if not (low <= celsius <= high and 0 <= damp <= 100):
        raise UnreadableError(f"“{text[:20]}” is no air that anybody works in.")
    return Said("a", celsius, damp / 100, text[2:])


def read_lines(text: str) -> Iterator[Said | UnreadableError]:
    """Read every line of a message; a line that says nothing is passed over.

    Args:
        text: lines, ended as any system ends them.

    Returns:
        Of each line what it says, or what is wrong with it.
    """
    for line in text.splitlines():
        if line.strip():
            try:
                yield read_line(line)
            except UnreadableError as error:
                yield error
