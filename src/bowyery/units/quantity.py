"""Reading and writing lengths, weights, masses, speeds, temperatures and moisture as makers write
them.

Everything is read into SI (m, N, kg, m/s, degrees Celsius, and moisture as a fraction of dry mass)
and written in one of two worlds: ``IMPERIAL`` (inches with fractions, pounds, grains, feet per
second, degrees Fahrenheit) or ``METRIC`` (millimetres, kilograms, grams, metres per second, degrees
Celsius). Definitions:
NIST Special Publication 811 (2008), appendix B: inch 25.4 mm, avoirdupois pound 0.45359237 kg,
standard gravity 9.80665 m/s², grain 64.79891 mg.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field, replace
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

MOST_WRITTEN = 80  # characters of a measure
_AMOUNT = r"(?:\d+(?:\.\d*)?|\.\d+)"
_FRACTION = r"\d+\s*/\s*\d+"
_NUMBER = rf"(?:\d+[\s-]+{_FRACTION}|{_FRACTION}|{_AMOUNT})"
_PART = re.compile(
    rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>lb/ft3|kg/m3|g/cm3|[^\d\s.,+-]+)?", re.IGNORECASE
)


@dataclass(frozen=True)
class Style:
    """How a figure is written in one world.

    Attributes:
        unit: a key of the quantity's units.
        sign: the unit as it is written beside a figure.
        fraction: finest fraction instead, a power of two; READER: the reader's own; 0: decimals.
        below: magnitudes below this, in the unit, have one digit more.
    """

    unit: str
    sign: str
    digits: int = 0
    fraction: int = 0
    below: float = 0.0


READER = -1


@dataclass(frozen=True)
class Units:
    """How one person reads and writes: the world and the finest fraction of an inch.

    Attributes:
        denominator: the finest fraction of an inch.
    """

    world: World = IMPERIAL
    denominator: int = 16

    @property
    def label(self) -> str:
        """The two units that most figures are in."""
        return "in · lb" if self.world == IMPERIAL else "mm · kg"

    @property
    def imperial(self) -> bool:
        """Whether inches and pounds are written."""
        return self.world == IMPERIAL

    def length(self, metres: float) -> str:
        """A length (m): inches with the reader's fraction, or whole millimetres."""
        return LENGTH.write(metres, self)

    def bare_length(self, metres: float) -> str:
        """The same without its unit."""
        return LENGTH.write(metres, self, sign=False)

    def thickness(self, metres: float) -> str:
        """A limb's thickness (m), as off a caliper: 64ths of an inch or tenths of a millimetre."""
        return THICKNESS.write(metres, self)

    def shaving(self, metres: float) -> str:
        """A thickness to take off (m): thousandths of an inch or hundredths of a millimetre."""
        return SHAVING.write(metres, self)

    def bare_shaving(self, metres: float) -> str:
        """The same without its unit."""
        return SHAVING.write(metres, self, sign=False)

    def weight(self, newtons: float) -> str:
        """A draw weight (N): whole pounds or tenths of a kilogram."""
        return WEIGHT.write(newtons, self)

    def fine_weight(self, newtons: float) -> str:
        """A draw weight (N) to tenths."""
        return FINE_WEIGHT.write(newtons, self)

    def bare_weight(self, newtons: float) -> str:
        """A draw weight (N) without its unit."""
        return WEIGHT.write(newtons, self, sign=False)

    def mass(self, kilograms: float) -> str:
        """A small mass (kg): grains or grams."""
        return MASS.write(kilograms, self)

    def bulk_mass(self, kilograms: float) -> str:
        """The mass of a stave or bow (kg): ounces or grams."""
        return BULK_MASS.write(kilograms, self)

    def speed(self, metres_per_second: float) -> str:
        """An arrow's speed (m/s)."""
        return SPEED.write(metres_per_second, self)

    def temperature(self, celsius: float) -> str:
        """A temperature (°C)."""
        return TEMPERATURE.write(celsius, self)

    def modulus(self, pascals: float) -> str:
        """A modulus of elasticity (Pa)."""
        return MODULUS.write(pascals, self)

    def stress(self, pascals: float) -> str:
        """A stress (Pa)."""
        return STRESS.write(pascals, self)

    def toughness(self, joules: float) -> str:
        """Work to maximum load in each volume (J/m³)."""
        return TOUGHNESS.write(joules, self)

    def density(self, kg_per_m3: float) -> str:
        """A density (kg/m³)."""
        return DENSITY.write(kg_per_m3, self)

    def energy(self, joules: float) -> str:
        """Stored energy (J): foot-pounds or joules."""
        return ENERGY.write(joules, self)

    def typed_length(self, metres: float) -> str:
        """A length (m) as it would be typed, without its unit: to the sixteenth of an inch, or the
        millimetre.
        """
        if self.imperial:
            return fraction_text(metres / INCH, 16, plain=True)
        return decimal(metres * 1000, 0)

    def moisture(self, fraction: float) -> str:
        """Moisture, given as a fraction of dry mass."""
        return MOISTURE.write(fraction, self)


@dataclass(frozen=True)
class Quantity:
    """A kind of measure, which reads and writes itself.

    Attributes:
        name: as it is called in a sentence.
        units: every unit it is read in, with its size in SI.
        written: how it is shown in each world.
        typed: how it stands in a field in each world, as it would be typed.
        example: what may be written, for the sentence of an error.
        allows_negative: below zero makes sense.
        zero: for scales that do not begin at nothing: the SI value where a unit's scale begins.
    """

    name: str
    units: dict[str, float]
    written: dict[World, Style]
    typed: dict[World, Style]
    example: dict[World, str] = field(default_factory=dict)
    allows_negative: bool = False
    zero: dict[str, float] = field(default_factory=dict)

    def sign(self, world: World) -> str:
        """The native unit as it is written beside a figure."""
        return self.written[world].sign

    def read(self, text: str, world: World) -> float:
        """Read one measure as a maker writes it; see :func:`read`.

        Raises:
            UnreadableError: a sentence that says what was expected.
        """
        return read(text, self, world)

    def write(self, value: float, shown: Units, sign: bool = True) -> str:
        """Write a value (SI) for a reader, with or without its unit."""
        style = self.written[shown.world]
        text = self._figure(value, style, shown.denominator)
        return f"{text} {style.sign}" if sign else text

    def bare(self, value: float, shown: Units) -> str:
        """Write a value (SI) as a bare number in the reader's unit, as it would be typed."""
        return self._figure(value, self.typed[shown.world], 64, plain=True)

    def _figure(self, value: float, style: Style, own: int, plain: bool = False) -> str:
        amount = value / self.units[style.unit] + self.zero.get(style.unit, 0.0)
        if style.fraction:
            return fraction_text(amount, own if style.fraction == READER else style.fraction, plain)
        return decimal(amount, style.digits + (abs(amount) < style.below))


def _both(imperial: Style, metric: Style) -> dict[World, Style]:
    return {IMPERIAL: imperial, METRIC: metric}


_LENGTHS = {
    "in": INCH, "inch": INCH, "inches": INCH, '"': INCH, "''": INCH, "ft": FOOT, "foot": FOOT,
    "feet": FOOT, "'": FOOT, "yd": 0.9144, "yards": 0.9144, "mm": 0.001, "cm": 0.01, "m": 1.0,
}  # fmt: skip
_LENGTH_EXAMPLES: dict[World, str] = {
    IMPERIAL: "61 1/2, 5' 1 1/2\" or 156 cm",
    METRIC: "1562, 156.2 cm or 61 1/2 in",
}
_TYPED_LENGTH = _both(Style("in", "in", fraction=64), Style("mm", "mm", 0, below=19.95))


def _length(imperial: Style, metric: Style) -> Quantity:
    return Quantity(
        "length", _LENGTHS, _both(imperial, metric), _TYPED_LENGTH, _LENGTH_EXAMPLES, True
    )


LENGTH = _length(Style("in", "in", fraction=READER), Style("mm", "mm"))
THICKNESS = _length(Style("in", "in", fraction=64), Style("mm", "mm", 1))
FINE_LENGTH = _length(Style("in", "in", fraction=64), Style("mm", "mm", 1))
SHAVING = _length(Style("in", "in", 3), Style("mm", "mm", 2))

_FORCES = {
    "lb": POUND_FORCE, "lbs": POUND_FORCE, "pound": POUND_FORCE, "pounds": POUND_FORCE,
    "#": POUND_FORCE, "kg": KILOGRAM_FORCE, "n": 1.0,
}  # fmt: skip


def _force(imperial: int, metric: int) -> Quantity:
    fine = _both(Style("lb", "lb", 1), Style("kg", "kg", 1))
    examples: dict[World, str] = {
        IMPERIAL: "42, 42 1/2 lb or 19 kg",
        METRIC: "19, 19.2 kg, 187 N or 42 lb",
    }
    shown = _both(Style("lb", "lb", imperial), Style("kg", "kg", metric))
    return Quantity("draw weight", _FORCES, shown, fine, examples)


WEIGHT = _force(0, 1)
FINE_WEIGHT = _force(1, 1)
_MASSES = {
    "gr": GRAIN, "grain": GRAIN, "grains": GRAIN, "oz": POUND_MASS / 16, "lb": POUND_MASS,
    "lbs": POUND_MASS, "g": 0.001, "kg": 1.0,
}  # fmt: skip


def _plain(
    name: str, units: dict[str, float], imperial: Style, metric: Style, example: tuple[str, str]
) -> Quantity:
    shown = _both(imperial, metric)
    return Quantity(name, units, shown, shown, {IMPERIAL: example[0], METRIC: example[1]})


MASS = _plain(
    "mass", _MASSES, Style("gr", "gr"), Style("g", "g", 1),
    ("165, 165 gr, 1.4 lb or 10.7 g", "10.7, 640 g, 1.2 kg or 165 gr"),
)  # fmt: skip
FINE_MASS = replace(MASS, written=_both(Style("gr", "gr", 1), Style("g", "g", 2)))
BULK_MASS = _plain(
    "mass", _MASSES, Style("oz", "oz", 1), Style("g", "g"),
    ("22, 22 oz, 1.4 lb or 640 g", "640, 640 g, 1.2 kg or 22 oz"),
)  # fmt: skip
SPEED = _plain(
    "speed", {"fps": FOOT, "ft/s": FOOT, "m/s": 1.0, "mps": 1.0},
    Style("fps", "fps"), Style("m/s", "m/s", 1),
    ("152, 152 fps or 46 m/s", "46, 46.3 m/s or 152 fps"),
)  # fmt: skip
FINE_SPEED = replace(SPEED, written=_both(Style("fps", "fps", 1), Style("m/s", "m/s", 2)))
MOISTURE = _plain(
    "moisture", {"%": 0.01, "percent": 0.01}, Style("%", "%", 1), Style("%", "%", 1),
    ("9.5 or 9.5 %", "9.5 or 9.5 %"),
)  # fmt: skip
MODULUS = _plain(
    "modulus",
    {"psi": POUND_FORCE / INCH**2, "mpsi": 1e6 * POUND_FORCE / INCH**2, "mpa": 1e6, "gpa": 1e9},
    Style("mpsi", "Mpsi", 2), Style("gpa", "GPa", 1),
    ("1.6, 1.6 Mpsi or 11 GPa", "11, 11 GPa or 11000 MPa"),
)  # fmt: skip
STRESS = _plain(
    "stress",
    {"psi": POUND_FORCE / INCH**2, "ksi": 1e3 * POUND_FORCE / INCH**2, "mpa": 1e6},
    Style("psi", "psi"), Style("mpa", "MPa", 0, below=9.95),
    ("15200, 15200 psi or 105 MPa", "105, 105 MPa or 15200 psi"),
)  # fmt: skip
_WORK = POUND_FORCE / INCH**2  # inch-pounds in each cubic inch
TOUGHNESS = _plain(
    "work by volume",
    {"in·lb/in³": _WORK, "in-lb/in3": _WORK, "in·lb/in3": _WORK, "kj/m³": 1e3, "kj/m3": 1e3},
    Style("in·lb/in³", "in·lb/in³", 1), Style("kj/m³", "kJ/m³"),
    ("16.6, 16.6 in-lb/in3 or 115 kJ/m3", "115, 115 kJ/m3 or 16.6 in-lb/in3"),
)  # fmt: skip
_CUBIC = POUND_MASS / FOOT**3
DENSITY = _plain(
    "density",
    {"lb/ft3": _CUBIC, "lb/ft³": _CUBIC, "kg/m3": 1.0, "kg/m³": 1.0, "g/cm3": 1000.0},
    Style("lb/ft³", "lb/ft³", 1), Style("kg/m³", "kg/m³"),
    ("40, 40 lb/ft3 or 640 kg/m3", "640, 640 kg/m3 or 40 lb/ft3"),
)  # fmt: skip
ENERGY = _plain(
    "energy", {"ft·lb": FOOT * POUND_FORCE, "j": 1.0},
    Style("ft·lb", "ft·lb", 1), Style("j", "J", 1),
    ("32 or 32 ft·lb", "43 or 43 J"),
)  # fmt: skip
TEMPERATURE = replace(
    _plain(
        "temperature", {"f": 1 / 1.8, "c": 1.0}, Style("f", "°F"), Style("c", "°C"),
        ("63, 63 F or 17 C", "17, 17 C or 63 F"),
    ),
    zero={"f": 32.0}, allows_negative=True,
)  # fmt: skip

ANGLE = replace(
    _plain(
        "angle", {"°": math.pi / 180, "deg": math.pi / 180, "degrees": math.pi / 180},
        Style("°", "°"), Style("°", "°"),
        ("4 or 4 degrees", "4 or 4 degrees"),
    ),
    allows_negative=True,
)  # fmt: skip

_TEX, _YARDS = 1e-6, POUND_MASS / 0.9144  # kg/m of one tex; kg/m of one yard a pound


@dataclass(frozen=True)
class Fineness(Quantity):
    """Mass of a thread by its length (kg/m): tex, or the yards that weigh a pound."""

    def read(self, text: str, world: World) -> float:
        """Read tex or yards a pound, as a maker writes them.

        Returns:
            Mass by length (kg/m).

        Raises:
            UnreadableError: a sentence that says what was expected.
        """
        match = re.fullmatch(
            r"\s*(\d+(?:[.,]\d+)?)\s*(tex|dtex|g/km|yd/lb|yards per pound|yards a pound)?\s*",
            text.lower(),
        )
        figure = float(match[1].replace(",", ".")) if match else 0.0
        if match is None or not 0 < figure < 1e7:
            raise UnreadableError(
                f"“{text.strip()[:40]}” could not be read; expected a thread such as"
                f" {self.example[world]}."
            )
        unit = match[2] or ("yd/lb" if world == IMPERIAL else "tex")
        if unit.startswith("y"):
            return _YARDS / figure
        return figure * _TEX * (0.1 if unit == "dtex" else 1.0)

    def _figure(self, value: float, style: Style, own: int, plain: bool = False) -> str:
        amount = _YARDS / value if style.unit == "yd/lb" else value / _TEX
        return decimal(amount, style.digits)


_FINE = _both(Style("yd/lb", "yd/lb"), Style("tex", "tex"))
FINENESS = Fineness(
    "thread", {"tex": _TEX, "yd/lb": _YARDS}, _FINE, _FINE,
    {IMPERIAL: "3970, 3970 yd/lb or 125 tex", METRIC: "125, 125 tex or 3970 yd/lb"},
)  # fmt: skip

# Every quantity that a form may ask for, by the name its fields give.
QUANTITIES: dict[str, Quantity] = {
    "length": LENGTH,
    "weight": WEIGHT,
    "mass": MASS,
    "bulk mass": BULK_MASS,
    "speed": SPEED,
    "moisture": MOISTURE,
    "modulus": MODULUS,
    "stress": STRESS,
    "density": DENSITY,
    "toughness": TOUGHNESS,
    "temperature": TEMPERATURE,
    "angle": ANGLE,
    "fineness": FINENESS,
}


def read(text: str, quantity: Quantity, world: World) -> float:
    """Read one measure as a maker writes it.

    Args:
        text: for example ``61 1/2``, ``5' 1 1/2"``, ``156 cm``, ``42#``. A bare number is in the
            world's unit.
        quantity: which kind of measure it is.

    Raises:
        UnreadableError: a sentence that says what was expected.
    """
    expected = f"expected a {quantity.name} such as {quantity.example[world]}"
    rest = text.strip()
    if len(rest) > MOST_WRITTEN:
        raise UnreadableError(f"“{rest[:20]}…” could not be read, so long it is; {expected}.")
    if quantity.zero:
        return _on_a_scale(text, quantity, world, expected)
    for sign, plain in VULGAR.items():
        rest = rest.replace(sign, f" {plain}")
    rest = (
        rest.replace("⁄", "/")
        .replace("″", '"')
        .replace("”", '"')
        .replace("′", "'")
        .replace("’", "'")
    )
    rest = rest.replace("−", "-").replace("–", "-").strip()
    if not rest:
        raise UnreadableError(f"Nothing was written; {expected}.")
    negative = rest.startswith("-")
    if negative and not quantity.allows_negative:
        raise UnreadableError(f"“{text.strip()}” is below zero; {expected}.")
    rest = rest.removeprefix("-").removeprefix("+")
    rest = re.sub(
        r"(?<=\d),(?=\d{1,2}(?!\d))", ".", rest
    )  # a decimal comma; never a thousands comma
    if "," in rest:
        raise UnreadableError(
            f"“{text.strip()}” has a comma that could mean two things; {expected}."
        )
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
            size, bare = (
                (INCH if last_size == FOOT else quantity.units[quantity.written[world].unit]),
                True,
            )
        elif unit in quantity.units:
            size = quantity.units[unit]
        else:
            known = ", ".join(sorted(quantity.units))
            raise UnreadableError(
                f"“{match['unit']}” is not a unit of {quantity.name} here (use one of {known})."
            )
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


def _on_a_scale(text: str, quantity: Quantity, world: World, expected: str) -> float:
    """One figure on a scale with a zero of its own, such as degrees."""
    match = re.fullmatch(
        r"\s*([-+−]?\s*\d+(?:[.,]\d+)?)\s*(?:°|deg)?\s*([a-z]?)\s*", text, re.IGNORECASE
    )
    unit = "" if match is None else match[2].lower() or quantity.written[world].unit
    if match is None or unit not in quantity.units:
        raise UnreadableError(f"“{text.strip()}” could not be read; {expected}.")
    figure = float(re.sub(r"\s", "", match[1]).replace("−", "-").replace(",", "."))
    value = (figure - quantity.zero.get(unit, 0.0)) * quantity.units[unit]
    if not -60 <= value <= 400:
        raise UnreadableError(f"“{text.strip()}” is no {quantity.name} of a workshop; {expected}.")
    return value


def fraction_text(inches: float, denominator: int = 16, plain: bool = False) -> str:
    """Write inches as a whole number and the nearest fraction, such as ``23 ¼``.

    Args:
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
            part,
            f"{str(part.numerator).translate(SUPERSCRIPT)}⁄{str(part.denominator).translate(SUBSCRIPT)}",
        )
    return f"{sign}{whole} {shown}" if whole else f"{sign}{shown}"


def decimal(value: float, digits: int) -> str:
    """A figure with so many digits after the point and a true minus sign; never minus nothing.

    Args:
        value: in the unit that is shown, not SI.
    """
    text = f"{value:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", "−")
