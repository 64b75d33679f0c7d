"""Who may do what: roles by the parts of the shop's work they may write in, in one table.

A room belongs to a part (``Room.part``); a new role is one more row of ROLES.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponseBase

from fellwind.kit.rooms import Part, Room, room_of, rooms

View = Callable[..., HttpResponseBase]


@dataclass(frozen=True)
class Role:
    """A role: its name, where it writes, what it is told of itself, and what it is told
    elsewhere.
    """

    name: str
    writes: tuple[Part, ...]
    words: str
    refusal: str


ROLES: dict[str, Role] = {
    role.name: role
    for role in (
        Role("maker", ("bench", "plan", "shop"), "who does everything", "Nobody writes here."),
        Role(
            "helper",
            ("bench",),
            "who writes at the bench",
            "A helper writes at the bench; designs and the shop are changed by a maker.",
        ),
        Role(
            "guest",
            (),
            "who only reads",
            "A guest reads; ask the maker for another role to write.",
        ),
    )
}
MAKER, HELPER, GUEST = "maker", "helper", "guest"  # whom the code itself speaks of
SAFE = {"GET", "HEAD", "OPTIONS"}


def may_write(role: str, room: Room | None) -> bool:
    """Whether a role writes in a room."""
    return room is not None and room.part in ROLES[role].writes


def rights(role: str | None) -> dict[str, bool]:
    """Where a role may write, by the key of the room; nowhere without a role."""
    return {room.key: role is not None and may_write(role, room) for room in rooms()}


def for_everybody(view: View) -> View:
    """Mark a view that writes only what is its sender's own, such as the units they read in."""
    view.for_everybody = True  # type: ignore[attr-defined]
    return view


def for_writers(view: View) -> View:
    """Let only those see a page who may send what it asks for."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponseBase:
        _refuse_unless_writer(request)
        return view(request, *args, **kwargs)

    return guarded


def _refuse_unless_writer(request: HttpRequest) -> None:
    match, role = request.resolver_match, getattr(request.user, "role", None)
    if role is not None and not may_write(role, room_of(match.app_name) if match else None):
        raise PermissionDenied(ROLES[role].refusal)


class RoleMiddleware:
    """Refuses every writing request of whoever may not write in its room."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: View, args: object, kwargs: object) -> None:
        """Refuse by the table of roles."""
        if request.method not in SAFE and not getattr(view, "for_everybody", False):
            _refuse_unless_writer(request)
