"""Pages: a dataclass of what a template shows, rendered by its field names."""

from dataclasses import fields
from typing import TYPE_CHECKING

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

if TYPE_CHECKING:
    from _typeshed import DataclassInstance


def values_of(page: "DataclassInstance") -> dict[str, object]:
    """What a page shows, by name."""
    return {one.name: getattr(page, one.name) for one in fields(page)}


def show(
    request: HttpRequest, template: str, page: "DataclassInstance | None" = None, status: int = 200
) -> HttpResponse:
    """Render a page; a refused form comes with status 422."""
    return render(request, template, values_of(page) if page else {}, status=status)


def refused(*wrong: object) -> int:
    """The status of a page whose forms have faults, or of one without."""
    return 422 if any(wrong) else 200


def number_in(text: str | None) -> int | None:
    """A whole number in an address, or None for anything else."""
    if text is None or not text.isdecimal() or len(text) > 9:
        return None
    return int(text)
