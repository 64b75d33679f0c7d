"""Reading and writing lengths, weights, masses, speeds, temperatures and moisture as makers write them.

Everything is read into SI (m, N, kg, m/s, degrees Celsius, and moisture as a fraction of dry mass) and
written in one of two worlds: ``IMPERIAL`` (inches with fractions, pounds, grains, feet per second, degrees
Fahrenheit) or ``METRIC`` (millimetres, kilograms, grams, metres per second, degrees Celsius). Definitions:
NIST Special Publication 811 (2008), appendix B: inch 25.4 mm, avoirdupois pound 0.45359237 kg, standard
gravity 9.80665 m/s², grain 64.79891 mg.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Literal

from bowyery.errors import UnreadableError

World = Literal["imperial", "metric"]
IMPERIAL: World = "imperial"
METRIC: World = "metric"

INCH = 0.0254
FOOT = 0.3048
POUND_MASS = 0.45359237
GRAVITY = 9.80665
POUND_FORCE = POUND_MASS * GRAVITY
KILOGRAM_FORCE = GRAVITY
GRAIN = POUND_MASS / 7000
TRADE_ALLOWANCE = 1.75 * INCH  # the trade's standard draw is the draw to the pivot and this

VULGAR = {
    "½": "1/2", "⅓": "1/3", "⅔": "2/3", "¼": "1/4", "¾": "3/4", "⅕": "1/5", "⅖": "2/5", "⅗": "3/5",
    "⅘": "4/5", "⅙": "1/6", "⅚": "5/6", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8",
}  # fmt: skip
WRITTEN_VULGAR = {Fraction(text): sign for sign, text in VULGAR.items()}
SUPERSCRIPT = str.maketrans("0123456789", "⁰¹²³⁴⁵⁶⁷⁸⁹")
SUBSCRIPT = str.maketrans("0123456789", "₀₁₂₃₄₅₆₇₈₉")

_AMOUNT = r"(?:\d+(?:\.\d*)?|\.\d+)"
_FRACTION = r"\d+\s*/\s*\d+"
_NUMBER = rf"(?:\d+[\s-]+{_FRACTION}|{_FRACTION}|{_AMOUNT})"
_PART = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>lb/ft3|kg/m3|g/cm3|[^\d\s.,+-]+)?", re.IGNORECASE)


@dataclass(frozen=True)
class Quantity:
    """A kind of measure: its units with their size in SI, its two native units and how fine it is written."""

    name: str
    units: dict[str, float]
    native: dict[World, str]
    example: dict[World, str]
    allows_negative: bool = False

    def sign(self, world: World) -> str:
        """The native unit as it is written beside a figure."""
        return {"mpsi": "Mpsi", "gpa": "GPa", "mpa": "MPa"}.get(self.native[world], self.native[world])


LENGTH = Quantity(
    "length",
    {
        "in": INCH, "inch": INCH, "inches": INCH, '"': INCH, "''": INCH, "ft": FOOT, "foot": FOOT,
        "feet": FOOT, "'": FOOT, "mm": 0.001, "cm": 0.01, "m": 1.0,
    },
    {IMPERIAL: "in", METRIC: "mm"},
    {IMPERIAL: "61 1/2, 5' 1 1/2\" or 156 cm", METRIC: "1562, 156.2 cm or 61 1/2 in"},
    allows_negative=True,
)  # fmt: skip
WEIGHT = Quantity(
    "draw weight",
    {
        "lb": POUND_FORCE, "lbs": POUND_FORCE, "pound": POUND_FORCE, "pounds": POUND_FORCE, "#": POUND_FORCE,
        "kg": KILOGRAM_FORCE, "n": 1.0,
    },
    {IMPERIAL: "lb", METRIC: "kg"},
    {IMPERIAL: "42, 42 1/2 lb or 19 kg", METRIC: "19, 19.2 kg, 187 N or 42 lb"},
)  # fmt: skip
MASS = Quantity(
    "mass",
    {
        "gr": GRAIN, "grain": GRAIN, "grains": GRAIN, "oz": POUND_MASS / 16, "lb": POUND_MASS, "lbs": POUND_MASS,
        "g": 0.001, "kg": 1.0,
    },
    {IMPERIAL: "gr", METRIC: "g"},
    {IMPERIAL: "165, 165 gr, 1.4 lb or 10.7 g", METRIC: "10.7, 640 g, 1.2 kg or 165 gr"},
)  # fmt: skip
BULK_MASS = Quantity(
    "mass",
    dict(MASS.units),
    {IMPERIAL: "oz", METRIC: "g"},
    {IMPERIAL: "22, 22 oz, 1.4 lb or 640 g", METRIC: "640, 640 g, 1.2 kg or 22 oz"},
)
SPEED = Quantity(
    "speed",
    {"fps": FOOT, "ft/s": FOOT, "m/s": 1.0, "mps": 1.0},
    {IMPERIAL: "fps", METRIC: "m/s"},
    {IMPERIAL: "152, 152 fps or 46 m/s", METRIC: "46, 46.3 m/s or 152 fps"},
)
MOISTURE = Quantity(
    "moisture",
    {"%": 0.01, "percent": 0.01},
    {IMPERIAL: "%", METRIC: "%"},
    {IMPERIAL: "9.5 or 9.5 %", METRIC: "9.5 or 9.5 %"},
)
MODULUS = Quantity(
    "modulus",
    {"psi": POUND_FORCE / INCH**2, "mpsi": 1e6 * POUND_FORCE / INCH**2, "mpa": 1e6, "gpa": 1e9},
    {IMPERIAL: "mpsi", METRIC: "gpa"},
    {IMPERIAL: "1.6, 1.6 Mpsi or 11 GPa", METRIC: "11, 11 GPa or 11000 MPa"},
)
STRESS = Quantity(
    "stress",
    {"psi": POUND_FORCE / INCH**2, "ksi": 1e3 * POUND_FORCE / INCH**2, "mpa": 1e6},
    {IMPERIAL: "psi", METRIC: "mpa"},
    {IMPERIAL: "15200, 15200 psi or 105 MPa", METRIC: "105, 105 MPa or 15200 psi"},
)
DENSITY = Quantity(
    "density",
    {"lb/ft3": POUND_MASS / FOOT**3, "lb/ft³": POUND_MASS / FOOT**3, "kg/m3": 1.0, "kg/m³": 1.0, "g/cm3": 1000.0},
    {IMPERIAL: "lb/ft³", METRIC: "kg/m³"},
    {IMPERIAL: "40, 40 lb/ft3 or 640 kg/m3", METRIC: "640, 640 kg/m3 or 40 lb/ft3"},
)


def read(text: str, quantity: Quantity, world: World) -> float:
    """Read one measure as a maker writes it.

    Args:
        text: for example ``61 1/2``, ``5' 1 1/2"``, ``156 cm``, ``42#``. A bare number is in the world's unit.
        quantity: which kind of measure it is.
        world: whose unit a bare number has.

    Returns:
        The value in SI.

    Raises:
        UnreadableError: a sentence that says what was expected.
    """
    expected = f"expected a {quantity.name} such as {quantity.example[world]}"
    rest = text.strip()
    for sign, plain in VULGAR.items():
        rest = rest.replace(sign, f" {plain}")
    rest = rest.replace("⁄", "/").replace("″", '"').replace("”", '"').replace("′", "'").replace("’", "'")
    rest = rest.replace("−", "-").replace("–", "-").strip()
    if not rest:
        raise UnreadableError(f"Nothing was written; {expected}.")
    negative = rest.startswith("-")
    if negative and not quantity.allows_negative:
        raise UnreadableError(f"“{text.strip()}” is below zero; {expected}.")
    rest = rest.removeprefix("-").removeprefix("+")
    rest = re.sub(r"(?<=\d),(?=\d{1,2}(?!\d))", ".", rest)  # a decimal comma; never a thousands comma
    if "," in rest:
        raise UnreadableError(f"“{text.strip()}” has a comma that could mean two things; {expected}.")
    total, last_size, position, bare = 0.0, math.inf, 0, False
    while position < len(rest):
        match = _PART.match(rest, position)
        if match is None:
            raise UnreadableError(f"“{text.strip()}” could not be read; {expected}.")
        unit = (match["unit"] or "").lower().rstrip(".")
        if not unit:
            if bare or (total and last_size != FOOT):
                raise UnreadableError(f"“{text.strip()}” has a number without a unit; {expected}.")
            # after feet a bare number means inches, as in 5' 1 1/2
            size, bare = (INCH if last_size == FOOT else quantity.units[quantity.native[world]]), True
        elif unit in quantity.units:
            size = quantity.units[unit]
        else:
            known = ", ".join(sorted(quantity.units))
            raise UnreadableError(f"“{match['unit']}” is not a unit of {quantity.name} here (use one of {known}).")
        if size >= last_size:
            raise UnreadableError(f"“{text.strip()}” could not be read; {expected}.")
        total += _number(match["number"], text, expected) * size
        last_size, position = size, match.end()
        while position < len(rest) and rest[position].isspace():
            position += 1
    if not math.isfinite(total):
        raise UnreadableError(f"“{text.strip()}” is too large to be a {quantity.name}; {expected}.")
    return -total if negative else total


def _number(written: str, text: str, expected: str) -> float:
    parts = re.split(r"[\s-]+", re.sub(r"\s*/\s*", "/", written.strip()))
    try:
        return float(sum(Fraction(part) for part in parts))
    except (ZeroDivisionError, OverflowError):
        raise UnreadableError(f"“{text.strip()}” could not be read; {expected}.") from None


def read_temperature(text: str, world: World) -> float:
    """Read a temperature (``17``, ``17 C``, ``63 F``) into degrees Celsius; raises UnreadableError."""
    match = re.fullmatch(r"\s*([-+−]?\s*\d+(?:[.,]\d+)?)\s*(?:°|deg)?\s*([cf]?)\s*", text, re.IGNORECASE)
    example = "63, 63 F or 17 C" if world == IMPERIAL else "17, 17 C or 63 F"
    if match is None:
        raise UnreadableError(f"“{text.strip()}” could not be read; expected a temperature such as {example}.")
    value = float(re.sub(r"\s", "", match[1]).replace("−", "-").replace(",", "."))
    unit = match[2].lower() or ("f" if world == IMPERIAL else "c")
    celsius = (value - 32) / 1.8 if unit == "f" else value
    if not -60 <= celsius <= 400:
        raise UnreadableError(f"“{text.strip()}” is no temperature of a workshop; expected one such as {example}.")
    return celsius


def fraction_text(inches: float, denominator: int = 16, plain: bool = False) -> str:
    """Write inches as a whole number and the nearest fraction, such as ``23 ¼``.

    Args:
        inches: the number.
        denominator: the finest fraction, a power of two (16, 32 or 64).
        plain: write ``23 1/4`` instead of using fraction signs.
    """
    return _fraction_text(round(abs(inches) * denominator), denominator, inches < 0, plain)


@lru_cache(maxsize=8192)
def _fraction_text(parts: int, denominator: int, negative: bool, plain: bool) -> str:
    rounded = Fraction(parts, denominator)
    whole, part = divmod(rounded, 1)
    sign = "−" if negative and rounded else ""
    if not part:
        return f"{sign}{whole}"
    if plain:
        shown = f"{part.numerator}/{part.denominator}"
        sign = sign.replace("−", "-")
    else:
        shown = WRITTEN_VULGAR.get(
            part, f"{str(part.numerator).translate(SUPERSCRIPT)}⁄{str(part.denominator).translate(SUBSCRIPT)}"
        )
    return f"{sign}{whole} {shown}" if whole else f"{sign}{shown}"


def write_length(metres: float, world: World, denominator: int = 16, unit: bool = True, plain: bool = False) -> str:
    """Write a length: inches with a fraction, or millimetres (tenths below 20 mm)."""
    if world == IMPERIAL:
        text = fraction_text(metres / INCH, denominator, plain)
        return f"{text} in" if unit else text
    value = metres * 1000
    text = _decimal(value, 1 if abs(value) < 19.95 and denominator > 16 else 0)
    return f"{text} mm" if unit else text


def write_thickness(metres: float, world: World, unit: bool = True) -> str:
    """Write a limb thickness as a bowyer reads it off a caliper: 64ths of an inch, or tenths of a millimetre."""
    if world == IMPERIAL:
        text = fraction_text(metres / INCH, 64)
        return f"{text} in" if unit else text
    return _decimal(metres * 1000, 1) + (" mm" if unit else "")


def write_weight(newtons: float, world: World, digits: int | None = None, unit: bool = True) -> str:
    """Write a draw weight in pounds (whole) or kilograms (tenths), or with the digits asked for."""
    value, name, usual = (newtons / POUND_FORCE, "lb", 0) if world == IMPERIAL else (newtons / KILOGRAM_FORCE, "kg", 1)
    text = _decimal(value, usual if digits is None else digits)
    return f"{text} {name}" if unit else text


def write_mass(kilograms: float, world: World, unit: bool = True) -> str:
    """Write a small mass in grains or grams (tenths)."""
    if world == IMPERIAL:
        return _decimal(kilograms / GRAIN, 0) + (" gr" if unit else "")
    return _decimal(kilograms * 1000, 1) + (" g" if unit else "")


def write_bulk_mass(kilograms: float, world: World, unit: bool = True) -> str:
    """Write the mass of a stave or a bow in ounces or grams."""
    if world == IMPERIAL:
        return _decimal(kilograms / (POUND_MASS / 16), 1) + (" oz" if unit else "")
    return _decimal(kilograms * 1000, 0) + (" g" if unit else "")


def write_speed(metres_per_second: float, world: World, unit: bool = True) -> str:
    """Write an arrow's speed in feet per second or metres per second."""
    if world == IMPERIAL:
        return _decimal(metres_per_second / FOOT, 0) + (" fps" if unit else "")
    return _decimal(metres_per_second, 1) + (" m/s" if unit else "")


def write_temperature(celsius: float, world: World) -> str:
    """Write a temperature in the world's degrees."""
    return f"{_decimal(celsius * 1.8 + 32, 0)} °F" if world == IMPERIAL else f"{_decimal(celsius, 0)} °C"


def write_moisture(fraction: float) -> str:
    """Write a moisture content given as a fraction of dry mass."""
    return f"{_decimal(fraction * 100, 1)} %"


def write_modulus(pascals: float, world: World) -> str:
    """Write a modulus in millions of pounds per square inch or in gigapascals."""
    if world == IMPERIAL:
        return f"{_decimal(pascals / MODULUS.units['mpsi'], 2)} Mpsi"
    return f"{_decimal(pascals / 1e9, 1)} GPa"


def write_stress(pascals: float, world: World) -> str:
    """Write a stress in pounds per square inch or megapascals."""
    if world == IMPERIAL:
        return f"{_decimal(pascals / STRESS.units['psi'], 0)} psi"
    return f"{_decimal(pascals / 1e6, 1 if abs(pascals) < 9.95e6 else 0)} MPa"


def write_density(kg_per_m3: float, world: World) -> str:
    """Write a density in pounds per cubic foot or kilograms per cubic metre."""
    if world == IMPERIAL:
        return f"{_decimal(kg_per_m3 / DENSITY.units['lb/ft3'], 1)} lb/ft³"
    return f"{_decimal(kg_per_m3, 0)} kg/m³"


def _decimal(value: float, digits: int) -> str:
    text = f"{value:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", "−")
