"""What a row from elsewhere may hold, whatever its table: figures that are figures, days that are
days, words without control signs, and of what is chosen only what can be chosen.
"""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Collection
from datetime import date

from django.core.exceptions import ValidationError
from django.db import models
from django.utils import timezone

MOST = 1e5  # no length, weight or mass of a shop is larger, in SI
# Figures of which there is never less than nothing, by name; the second, never nothing, by name or
# with their table.
NEVER_LESS = {"mass", "span", "load", "sag", "stock", "rate"}
ABOVE_NOTHING = {
    "length", "weight", "brace_height", "line_mass", "rating", "designs.Design.draw",
    "shop.Archer.draw",
}  # fmt: skip
LARGE = {"modulus", "rupture", "breaking", "work", "density"}  # in Pa, J/m³ and kg/m³
FIRST_YEAR, YEARS_AHEAD = 1900, 50


def allowed(model: type[models.Model]) -> dict[str, Collection[str]]:
    """What may be chosen in fields that say it beside their model, by name."""
    found: dict[str, Collection[str]] = getattr(model, "CHOSEN", {})
    return found


def look(row: models.Model) -> None:
    """Raise ValidationError for the first field that holds what cannot be, by its name."""
    chosen = allowed(type(row))
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if value is None or field.is_relation or field.primary_key:
            continue
        wrong = _wrong(field, value, chosen.get(field.name))
        if wrong:
            raise ValidationError({field.name: wrong})


def odd_signs(text: str, spaces: str = "") -> bool:
    """Whether a text holds control signs other than those."""
    return any(unicodedata.category(one) == "Cc" and one not in spaces for one in text)


def _wrong(
    field: models.Field[object, object], value: object, chosen: Collection[str] | None
) -> str:
    if chosen is not None and value not in chosen:
        return f"“{str(value)[:40]}” is none of {', '.join(one for one in chosen if one)}."
    if isinstance(value, date):
        last = timezone.now().year + YEARS_AHEAD
        return "" if FIRST_YEAR <= value.year <= last else "No bow was made in that year."
    if isinstance(value, str):
        spaces = "\n\r\t" if isinstance(field, models.TextField) else ""
        return "It holds signs that cannot be written." if odd_signs(value, spaces) else ""
    if isinstance(value, float):  # whole numbers have their field's own bounds
        return _figure(field, value)
    if isinstance(field, models.JSONField):
        usual = field.get_default()
        if usual is not None and type(value) is not type(usual):
            return "It is laid out otherwise than such a row is here."
        return _deep(value)
    return ""


def _figure(field: models.Field[object, object], value: float) -> str:
    if not math.isfinite(value) or abs(value) > (1e13 if field.name in LARGE else MOST):
        return "No figure of a bow is so large."
    above = field.name in ABOVE_NOTHING or str(field) in ABOVE_NOTHING
    if (above and value <= 0) or (field.name in NEVER_LESS and value < 0):
        return "It must be above zero."
    return ""


def _deep(value: object, depth: int = 0) -> str:
    """Of what lies in a JSON column."""
    if depth > 12:
        return "It lies in itself too deep."
    if isinstance(value, float) and not math.isfinite(value):
        return "No figure of a bow is so large."
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    return next((wrong for one in inner if (wrong := _deep(one, depth + 1))), "")
