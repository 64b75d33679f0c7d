"""The register of rooms: what each says of itself, for all that must know every room.

A room is a Django app whose ``apps.py`` holds one :class:`Room` as its config's ``room``.
Navigation, addresses, Today, the progress of a build, the demo, roles, and the tests that visit
every screen all ask here, so that a new room is one folder and one line in the settings. What a
room does is named by dotted paths, ``module:function``, and loaded when it is first asked for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import import_module
from typing import Any, Literal

from django.apps import apps
from django.urls import URLPattern, URLResolver, include, path, reverse

Part = Literal["bench", "plan", "shop", "nobody"]


ANY = "*"  # every stage that no room serves on its own


@dataclass(frozen=True, eq=False)
class Room:
    """What a room says of itself.

    Attributes:
        key: its name in addresses (``key:page``) and in the table of roles.
        title: in the navigation; nothing for a room that is entered from another.
        address: prefix of its pages, module of their urls; it may have more than one.
        order: in the navigation and on Today.
        part: of the shop's work, which decides who may write in it.
        inside: the room in the navigation that its pages are found in, where their address does not
            say so.
        stages: stages of a build that it serves, or ANY, each with its page's name.
        today: gives its parts of the Today page, ``(now, shown) -> list[TodayPart]``.
        acts: what builds at its stages want next, ``(builds, shown) -> dict[int, Act]`` by key.
        answers: modules that answer lower rooms' questions (:mod:`fellwind.kit.ports`).
        own: what is in it is each person's own, and not there for anybody else.
    """

    key: str
    title: str = ""
    address: Mapping[str, str] = field(default_factory=dict)
    home: str = ""
    order: int = 50
    part: Part = "nobody"
    inside: str = ""
    stages: Mapping[str, str] = field(default_factory=dict)
    today: str = ""
    acts: str = ""
    answers: tuple[str, ...] = ()
    own: bool = False

    def call(self, what: Literal["today", "acts"]) -> Callable[..., Any] | None:
        """The function that does something for this room, or None where it has none."""
        named: str = getattr(self, what)
        return _function(named) if named else None


def _function(named: str) -> Callable[..., Any]:
    """The function of a dotted path, ``module:function``."""
    module, _, function = named.partition(":")
    found: Callable[..., Any] = getattr(import_module(module), function)
    return found


@dataclass(frozen=True)
class TodayPart:
    """A part of the Today page: its template, what the template shows, and its place."""

    template: str
    page: Any
    order: int


@dataclass(frozen=True)
class Act:
    """What a build wants next in words, and its picture where the room has a better one; or the
    address where both are reckoned after the page is shown.
    """

    words: str
    picture: str = ""
    later: str = ""


@cache
def rooms() -> tuple[Room, ...]:
    """Every room, in order."""
    found = [config.room for config in apps.get_app_configs() if hasattr(config, "room")]
    return tuple(sorted(found, key=lambda room: room.order))


def addresses() -> list[URLPattern | URLResolver]:
    """All addresses of all rooms; the longer prefix first, so that a room inside another is
    found.
    """
    pairs = [pair for room in rooms() for pair in room.address.items()]
    pairs.sort(key=lambda pair: -pair[0].count("/"))
    return [path(prefix, include(module)) for prefix, module in pairs]


@cache
def _namespaces() -> dict[str, Room]:
    found: dict[str, Room] = {}
    for room in rooms():
        for module in room.address.values():
            found[import_module(module).app_name] = room
    return found


def room_of(namespace: str) -> Room | None:
    """The room that a page's namespace belongs to."""
    return _namespaces().get(namespace)


@cache
def _served() -> dict[str, tuple[Room, str]]:
    return {stage: (room, page) for room in rooms() for stage, page in room.stages.items()}


def _server(stage: str) -> tuple[Room, str]:
    """Who serves a stage, and its page: a room of its own, else the one that serves any."""
    return _served().get(stage) or _served()[ANY]


def room_for(stage: str) -> Room:
    """The room that serves a stage of a build."""
    return _server(stage)[0]


def stage_page(number: int, stage: str) -> str:
    """Where a stage of a build is worked at."""
    name = _server(stage)[1]
    own = (number, stage) if name.endswith(":stage") else (number,)
    return reverse(name, args=own)
