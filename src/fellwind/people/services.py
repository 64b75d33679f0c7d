"""What is done with people: who asks, their units, roles and accounts."""

import json
from urllib.parse import urlsplit

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme

from bowyery.units.quantity import IMPERIAL, METRIC, Units
from fellwind.kit.measures import convert
from fellwind.people.models import Invitation, Person

SHUT = "shut"
MOST_TYPED = 500_000  # characters of what is half typed on a page


def who(request: HttpRequest) -> Person:
    """The person who asks; raises PermissionDenied where nobody is signed in."""
    person = request.user
    if not isinstance(person, Person):
        raise PermissionDenied("Sign in first.")
    return person


def switch_world(person: Person, typed: str) -> list[dict[str, str]]:
    """Let somebody read in the other world, and rewrite what is half typed on their page.

    Args:
        typed: JSON rows of ``name``, ``kind`` and ``text``; anything else is left out.
    """
    try:
        given = json.loads(typed[:MOST_TYPED])
    except (ValueError, RecursionError):
        given = []
    rows = [one for one in given if isinstance(one, dict)][:200] if isinstance(given, list) else []
    before = METRIC if person.world == METRIC else IMPERIAL
    after = IMPERIAL if before == METRIC else METRIC

    def rewritten(row: dict[str, object]) -> str:
        return convert(str(row.get("text")), str(row.get("kind")), before, Units(after))

    answer = [{"name": str(row.get("name")), "text": rewritten(row)} for row in rows]
    person.world = after  # last, so that a switch that fails has switched nothing
    person.save(update_fields=["world"])
    return answer


def give_role(person: Person, role: str) -> str:
    """Give somebody another role, or shut their account; the last maker stays.

    Returns:
        What stands in the way, a sentence; nothing when it is done.
    """
    makers = Person.objects.filter(role=Person.MAKER, is_active=True)
    if role != Person.MAKER and not makers.exclude(pk=person.pk).exists():
        return "A shop needs one maker at least; make somebody else a maker first."
    person.is_active = role != SHUT
    person.role = person.role if role == SHUT else role
    person.epoch += role == SHUT  # what was open ends, and stays so should the account be opened
    person.save(update_fields=["role", "is_active", "epoch"])
    return ""


def join(invitation: Invitation, name: str, password: str) -> Person:
    """Make the account that an invitation is for."""
    with transaction.atomic():
        person = Person.objects.create_user(name, password=password, role=invitation.role)
        invitation.used = timezone.now()
        invitation.save(update_fields=["used"])
    return person


def local_path(referer: str, host: str) -> str:
    """The path a person came from, when it is on this host; else the Today page."""
    try:
        parts = urlsplit(referer)
    except ValueError:
        return "/"
    path = parts.path + (f"?{parts.query}" if parts.query else "")
    here = parts.netloc == host and path.startswith("/")
    return path if here and url_has_allowed_host_and_scheme(path, None) else "/"
