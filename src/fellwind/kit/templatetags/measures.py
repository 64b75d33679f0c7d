"""Template filters that write measures for their reader: ``{{ value|measure:u.length }}``."""

from collections.abc import Callable
from typing import Protocol
from uuid import uuid4

from django import template
from django.forms import BoundField
from django.template import Context, Engine, Template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from bowyery.units.quantity import FINE_SPEED, Units
from fellwind.kit.measures import hours_words, minutes_words
from fellwind.kit.versions import Versioned


class Part(Protocol):
    """A part of a page: its template, and what that shows."""

    template: str
    shows: dict[str, object]


register = template.Library()


def _filter(name: str, write: Callable[[Units, float], str]) -> None:
    register.filter(name, lambda value, shown: "–" if value is None else write(shown, value))


for _name in (
    "length", "bare_length", "thickness", "shaving", "bare_shaving",
    "weight", "fine_weight", "bare_weight", "mass",
    "bulk_mass", "speed", "temperature", "modulus", "stress", "density", "toughness", "energy",
):  # fmt: skip
    _filter(f"as_{_name}", getattr(Units, _name))


@register.filter
def as_fine_speed(value: float | None, shown: Units) -> str:
    """Write a small speed, to a tenth of a foot or a hundredth of a metre a second."""
    return "–" if value is None else FINE_SPEED.write(value, shown)


@register.filter
def as_moisture(value: float | None) -> str:
    """Write moisture in per cent."""
    return "–" if value is None else Units().moisture(value)


@register.filter
def as_percent(value: float | None, digits: int = 0) -> str:
    """Write a share in per cent."""
    return "–" if value is None else f"{value * 100:.{int(digits)}f} %"


@register.filter
def as_minutes(value: int | None) -> str:
    """Write minutes as hours and minutes."""
    return minutes_words(int(value or 0))


@register.filter
def as_hours(value: float | None) -> str:
    """Write hours as makers say them: minutes, hours, days or weeks."""
    return "–" if value is None else hours_words(value)


@register.filter
def thing(count: int, verbs: str) -> str:
    """Say how many things do something: nothing rests, one thing rests, 2 things rest."""
    one, many = verbs.split(",")
    return (
        f"nothing {one}"
        if not count
        else f"one thing {one}"
        if count == 1
        else f"{count} things {many}"
    )


@register.filter
def pair(first: object, second: object) -> tuple[object, object]:
    """Two things to go through in one loop."""
    return first, second


@register.simple_tag
def form_id() -> SafeString:
    """A hidden id of this form on this page, so that it counts once however often it is sent."""
    return format_html('<input type="hidden" name="form_id" value="{}">', uuid4())


@register.simple_tag
def made_from(row: Versioned) -> SafeString:
    """The version of a row that a button's page shows."""
    return format_html('<input type="hidden" name="made_from" value="{}">', row.version)


@register.inclusion_tag("parts/field.html")
def field(bound: BoundField, hint: str = "") -> dict[str, object]:
    """Show one form field: label, input, unit, hint and its error beside it."""
    typed = bound.form.is_bound or getattr(bound.form, "typed", False)
    told = [f"{bound.auto_id}_helptext"] if hint or bound.help_text else []
    told += [f"{bound.id_for_label}-error"] if bound.errors else []
    return {
        "field": bound,
        "control": bound.as_widget(attrs={"aria-describedby": " ".join(told)} if told else None),
        "hint": hint or bound.help_text,
        "unit": getattr(bound.field, "unit", ""),
        "typed": typed,
    }


@register.simple_tag(takes_context=True)
def with_page(context: Context, part: Part) -> SafeString:
    """Render a part of a page with what it shows, within what the whole page knows."""
    with context.push(**part.shows):
        found: Template = Engine.get_default().get_template(part.template)
        return found.render(context)
