"""What a room asks of rooms above it, by the type of the question and not by a string.

The room that asks declares a :class:`Port` with what it gives and what it wants back; whoever knows
marks its function with it, and names the module of that function among its room's ``answers``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from importlib import import_module
from typing import Generic, ParamSpec, TypeVar

from bowyery.record.learned import QUANTITIES, Evidence
from fellwind.kit.rooms import rooms

Asked = ParamSpec("Asked")
Answer = TypeVar("Answer")


@cache
def _loaded() -> None:
    """Import whatever answers, so that it has marked its functions."""
    for room in rooms():
        for module in room.answers:
            import_module(module)


class Port(Generic[Asked, Answer]):
    """A question, with the functions that answer it."""

    def __init__(self) -> None:
        self._functions: list[Callable[Asked, Answer]] = []

    def answered_by(self, function: Callable[Asked, Answer]) -> Callable[Asked, Answer]:
        """Mark a function as one that answers."""
        self._functions.append(function)
        return function

    def __iter__(self) -> Iterator[Callable[Asked, Answer]]:
        _loaded()
        yield from sorted(self._functions, key=lambda one: one.__module__)

    def first(self, *asked: Asked.args, **named: Asked.kwargs) -> Answer | None:
        """The first answer that is not None; None where nobody knows."""
        answers = (ask(*asked, **named) for ask in self)
        return next((found for found in answers if found is not None), None)


# Number and name of the build that a pencil line is about where its page names none.
AT_HAND: Port[[], tuple[int, str] | None] = Port()
# What the rooms' records show of each figure that a shop learns.
EVIDENCE: dict[str, Port[[], list[Evidence]]] = {name: Port() for name in QUANTITIES}
