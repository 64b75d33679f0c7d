"""What the shop has learned, as every screen shows it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from django import template
from django.template.context import RequestContext

from bowyery.design.verdict import CONDEMNED
from bowyery.mechanics.strain import SetForecast
from bowyery.record.learned import Evidence
from bowyery.units.quantity import Units
from fellwind.designs import words
from fellwind.designs.models import Design
from fellwind.shop import learning

register = template.Library()


@dataclass(frozen=True)
class Follow:
    """What is shown of a forecast."""

    middle: str
    ends: str
    bows: int
    reflex: str = ""


@register.inclusion_tag("designs/_set.html", takes_context=True)
def follow(
    context: RequestContext, forecast: SetForecast | None, design: Design
) -> dict[str, Follow | None]:
    """A forecast of string follow, with the share that this shop's own bows have shown."""
    if forecast is None:
        return {"follow": None}
    request, shown = context["request"], context["u"]
    assert isinstance(shown, Units)
    seen: list[Evidence] | None = getattr(request, "set_shares", None)
    if seen is None:  # once for a page, however many forecasts it shows
        seen = request.set_shares = learning.evidence("set share")
    share = learning.set_share(design, seen=seen)
    told = replace(forecast, share=share)
    heated = bool(design.figures.reflex_by)
    reflex = words.reflex_words(told, heated, shown)
    return {"follow": Follow(*words.follow_words(told, shown), share.bows, reflex)}


@register.filter
def off_book(known: Mapping[str, float]) -> str:
    """How far a wood is off the book, in words."""
    return words.off_book(known["modulus"], known["spread"], round(known["bows"]))


@register.filter
def condemned(verdict: str) -> bool:
    """Whether a verdict is one that warns of a bow, or says that it cannot be."""
    return verdict in CONDEMNED or verdict.startswith("cannot")
