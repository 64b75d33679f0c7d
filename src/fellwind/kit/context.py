"""What every page knows: how its reader writes figures, the rooms, and where they may write."""

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse
from django.utils.functional import SimpleLazyObject

from bowyery.tiller.kinds import ROWS
from bowyery.tiller.pencil import help_rows
from bowyery.units.quantity import Units
from fellwind.kit.permissions import rights
from fellwind.kit.ports import AT_HAND
from fellwind.kit.rooms import Room, room_of, rooms


def units_of(request: HttpRequest) -> Units:
    """The units of whoever asks, as the shop's middleware found them."""
    found: Units = getattr(request, "units", None) or Units()
    return found


def _entered_by(path: str, here: Room) -> str:
    """The room in the navigation that a page is found in: by its address, else by what it says."""
    for room in rooms():
        home = reverse(room.home) if room.title else "/"
        if home != "/" and path.startswith(home):
            return room.key
    return here.inside or here.key


def _at_hand() -> dict[str, object] | None:
    """The build that a pencil line is about where the page names none; asked when it is shown."""
    found = AT_HAND.first()
    return None if found is None else {"number": found[0], "name": found[1]}


def shop(request: HttpRequest) -> dict[str, object]:
    """Context of every template."""
    match = request.resolver_match
    here = room_of(match.app_name) if match else None
    person, shown = request.user, units_of(request)
    may = rights(getattr(person, "role", None))
    return {
        "u": shown,
        "page_begun": getattr(request, "begun", 0),
        "rooms": [room for room in rooms() if room.title],
        "room": "" if here is None else _entered_by(request.path, here),
        "may": may,
        "may_here": here is not None and may[here.key],
        "theme": getattr(person, "theme", "day"),
        "demo": settings.DEMO,
        "at_hand": SimpleLazyObject(_at_hand),
        "pencil_help": help_rows(shown.world),
        "pencil_example": ", ".join(row.helps[0].example(shown.world) for row in ROWS[:2]),
    }
