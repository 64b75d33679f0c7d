"""A bow's bill: hours at a rate, materials at their prices."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from bowyery.errors import DescriptionError

CENT = Decimal("0.01")
MOST = Decimal(1_000_000)
MOST_PARTS = 60
_SPACES = "\u00a0\u202f\u2009'’"
_LINE = re.compile(r"(?P<what>.*?[^\W\d_].*?)[\s:;=]+(?P<price>[-+]?[\d.,]*\d[\d.,]*)\s*")


@dataclass(frozen=True)
class Part:
    """Something that went into a bow."""

    what: str
    price: Decimal


@dataclass(frozen=True)
class Bill:
    """A bow's bill.

    Attributes:
        hours: stage, minutes on the bench and what they come to, in the order given.
        work, materials, total: sums; each row is rounded before it is added.
    """

    hours: tuple[tuple[str, int, Decimal], ...]
    parts: tuple[Part, ...]
    work: Decimal
    materials: Decimal
    total: Decimal


def read_price(text: str) -> Decimal:
    """A price, with point or comma before its last two figures.

    Args:
        text: such as ``12``, ``12.5``, ``12,50``, ``1 250`` or ``1.250,00``; three figures behind
            the only sign are thousands.

    Returns:
        The price, two figures behind the point.

    Raises:
        DescriptionError: it is none, less than nothing, or above MOST.
    """
    clean = "".join(c for c in text.strip() if c not in _SPACES and c != " ")
    whole, sign, behind = clean, "", ""
    last = max(clean.rfind("."), clean.rfind(","))
    if last >= 0:
        whole, sign, behind = clean[:last], clean[last], clean[last + 1 :]
        if len(behind) == 3 and ({".", ","} - {sign}).isdisjoint(whole):
            whole, behind = clean, ""  # "1,250" and "1.250.000": only thousands
    groups = re.split(r"[.,]", whole)
    grouped = len(groups) > 1
    sound = (
        all(g.isascii() and g.isdigit() for g in groups)
        and (not grouped or (1 <= len(groups[0]) <= 3 and all(len(g) == 3 for g in groups[1:])))
        and len(set(re.findall(r"[.,]", whole))) <= 1
        and not (behind and sign in whole)
        and (not behind or (behind.isascii() and behind.isdigit() and len(behind) <= 2))
        and (last < 0 or bool(behind) or grouped)
    )
    if not sound:
        raise DescriptionError(f"“{text.strip()[:30]}” is no price; write 12 or 12.50.", "price")
    price = Decimal("".join(groups) + (f".{behind}" if behind else ""))
    if price > MOST:
        raise DescriptionError(f"{price} is more than any bow costs.", "price")
    return price.quantize(CENT)


def read_parts(text: str) -> tuple[Part, ...]:
    """Materials, one a line, each with its price last.

    Args:
        text: such as ``ash stave 40`` and ``horn for nocks: 12,50``; empty lines count for nothing.

    Raises:
        DescriptionError: a line without a thing or a price; which one, and why.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_PARTS:
        raise DescriptionError(f"At most {MOST_PARTS} lines.", "parts")
    found = []
    for line in lines:
        read = _LINE.fullmatch(line)
        if read is None or read["price"].startswith(("-", "+")):
            raise DescriptionError(
                f"“{line[:40]}”: write what it is and its price last, such as “ash stave 40”.",
                "parts",
            )
        found.append(Part(read["what"].strip(), read_price(read["price"])))
    return tuple(found)


def bill(minutes: Mapping[str, int], rate: Decimal, parts: Sequence[Part]) -> Bill:
    """Reckon a bill.

    Returns:
        The bill, its sums with two figures behind the point.

    Raises:
        DescriptionError: a rate below nothing, or minutes that are.
    """
    if rate < 0 or any(spent < 0 for spent in minutes.values()):
        raise DescriptionError("Hours and their rate are not below nothing.", "rate")
    hours = tuple(
        (stage, spent, (rate * spent / 60).quantize(CENT, ROUND_HALF_UP))
        for stage, spent in minutes.items()
        if spent
    )
    work = sum((row[2] for row in hours), Decimal(0)).quantize(CENT)
    materials = sum((part.price for part in parts), Decimal(0)).quantize(CENT)
    return Bill(hours, tuple(parts), work, materials, work + materials)
