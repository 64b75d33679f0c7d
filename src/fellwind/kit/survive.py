"""A page outlives a bad row: where one cannot be shown, the rows that cannot be so are named, the
page is shown without them, and whoever looks after the shop may remove them.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models, transaction
from django.db.models import ProtectedError, RestrictedError
from django.http import HttpRequest, HttpResponse

from fellwind.kit.archive import shop_models
from fellwind.kit.cache import reading
from fellwind.kit.permissions import SAFE
from fellwind.kit.sound import look

MOST = 20  # are named at once
ODD = (ArithmeticError, AttributeError, LookupError, TypeError, ValueError)  # what odd values raise
logger = logging.getLogger(__name__)


@dataclass(frozen=True)
class BadRow:
    """A row that cannot be so: its table, its key, how it is called, and what is wrong."""

    label: str
    key: str
    words: str
    why: str


def bad_rows() -> list[BadRow]:
    """Every row of the shop that no form would have taken."""
    found: list[BadRow] = []
    for model in shop_models():
        if model._meta.label_lower == settings.AUTH_USER_MODEL.lower():
            continue  # whoever may enter is no row of the shop's
        for row in model._base_manager.iterator():
            why = _wrong(row)
            if why:
                found.append(BadRow(model._meta.label_lower, str(row.pk), _called(row), why))
    return found[:MOST]


def _wrong(row: models.Model) -> str:
    fields = row._meta.concrete_fields
    aside = [f.name for f in fields if f.is_relation or not getattr(row, f.attname)]
    try:
        look(row)
        row.clean_fields(exclude=aside)
    except ValidationError as error:
        at, told = next(iter(error.message_dict.items()))
        return f"{at}: {told[0]}"
    except ODD:
        return "It cannot be read."
    return ""


def _called(row: models.Model) -> str:
    try:
        name = str(row)[:60]
    except ODD:
        name = str(row.pk)
    kind = str(row._meta.verbose_name)
    return f"{kind[:1].upper()}{kind[1:]} “{name}”"


def remove(row: BadRow) -> None:
    """Remove a row with all that hangs on it."""
    for model in shop_models():
        if model._meta.label_lower == row.label:
            _remove(model(pk=row.key))


def _remove(row: models.Model) -> None:
    for _ in range(20):
        try:
            row.delete()
            return
        except ProtectedError as error:
            held: Iterator[models.Model] = iter(error.protected_objects)
        except RestrictedError as error:
            held = iter(error.restricted_objects)
        for one in held:
            _remove(one)


class SurviveMiddleware:
    """Shows a page that a bad row broke without that row."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, fault: Exception) -> HttpResponse | None:
        """The page anew, within a transaction that is taken back, or nothing: no row is at fault,
        or not the rows alone.
        """
        match = request.resolver_match
        if request.method not in SAFE or match is None or not request.user.is_authenticated:
            return None
        found = bad_rows()
        if not found:
            return None
        logger.warning("Rows that cannot be so: %s", found, exc_info=fault)
        request.bad_rows = found  # type: ignore[attr-defined]
        with transaction.atomic(), reading():
            for one in found:
                remove(one)
            try:
                page: HttpResponse = match.func(request, *match.args, **match.kwargs)
            finally:
                transaction.set_rollback(True)
        return page
