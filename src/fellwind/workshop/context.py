"""What every page knows: how its reader writes figures, and the rooms."""

from django.conf import settings
from django.http import HttpRequest

from fellwind.workshop.measures import Units

ROOMS = [
    ("today", "Today", "workshop:today"),
    ("staves", "Staves", "staves:list"),
    ("designs", "Designs", "designs:list"),
    ("builds", "Builds", "builds:list"),
    ("shop", "Shop", "workshop:shop"),
]


def units_of(request: HttpRequest) -> Units:
    """Return the units of whoever asks."""
    if not hasattr(request, "shown_units"):
        from fellwind.workshop.models import Workshop

        if request.user.is_authenticated:
            request.shown_units = Units(request.user.world, Workshop.get().denominator)
        else:
            request.shown_units = Units()
    return request.shown_units


def shop(request: HttpRequest) -> dict[str, object]:
    """Context of every template."""
    room, match = None, request.resolver_match
    if match:
        room = {"tiller": "builds", "strings": "builds", "workshop": "shop"}.get(match.app_name, match.app_name)
        if match.url_name == "today":
            room = "today"
    return {
        "u": units_of(request),
        "rooms": ROOMS,
        "room": room,
        "theme": request.user.theme if request.user.is_authenticated else "day",
        "demo": settings.DEMO,
    }
