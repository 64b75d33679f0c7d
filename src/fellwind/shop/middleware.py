"""Tells every page how its reader writes figures."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from bowyery.units.quantity import IMPERIAL, METRIC, Units
from fellwind.shop.models import Workshop


class UnitsMiddleware:
    """Sets ``request.units``, looked up when it is first read."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.units = SimpleLazyObject(lambda: _units(request))  # type: ignore[attr-defined]
        return self.get_response(request)


def _units(request: HttpRequest) -> Units:
    world = getattr(request.user, "world", IMPERIAL)
    if not request.user.is_authenticated:
        return Units()
    return Units(METRIC if world == METRIC else IMPERIAL, Workshop.get().denominator)
