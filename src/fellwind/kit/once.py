"""A form sent twice counts once."""

import errno
from collections.abc import Callable, Mapping
from contextlib import nullcontext
from datetime import datetime, timedelta
from time import time
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.db import IntegrityError, OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from fellwind.kit.cache import reading
from fellwind.kit.models import SentForm
from fellwind.kit.permissions import SAFE
from fellwind.kit.versions import WRITER

View = Callable[..., HttpResponse]
FULL, BUSY = 507, 503  # insufficient storage, service unavailable


def only_answers(view: View) -> View:
    """Mark a view that reads a form and writes nothing: it may be asked as often as one likes."""
    view.only_answers = True  # type: ignore[attr-defined]
    return view


def solves_first(solve: Callable[..., None]) -> Callable[[View], View]:
    """Mark a view whose answer takes long: what it will ask of the core is asked before its form's
    id is written, so that nobody else waits for the database meanwhile.

    Args:
        solve: called as the view is; it writes nothing, and leaves its results in the cache.
    """

    def mark(view: View) -> View:
        view.solve = solve  # type: ignore[attr-defined]
        return view

    return mark


class OnceMiddleware:
    """Runs whatever writes in one transaction that nobody else's writing comes between, so that
    what a view looks up is still so when it writes.

    A form whose id was taken before is answered with where it led then; a refused form may be sent
    again. The id is written in the same transaction: both are kept or neither.
    What only reads asks for each thing once.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.begun = milliseconds()  # type: ignore[attr-defined]
        with reading() if request.method in SAFE else nullcontext():
            return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: View, args: tuple[object, ...], kwargs: dict[str, object]
    ) -> HttpResponse | None:
        """Run a form's view with its id, or answer for it."""
        person = request.user
        if request.method != "POST" or not person.is_authenticated:
            return None
        if getattr(view, "only_answers", False):
            with reading():
                return view(request, *args, **kwargs)
        form_id = _uuid(request.POST.get("form_id", ""))
        solve = getattr(view, "solve", None)
        if solve and not (form_id and SentForm.objects.filter(form_id=form_id).exists()):
            solve(request, *args, **kwargs)
        writer = WRITER.set(person)
        try:
            with transaction.atomic():
                if form_id is None:
                    return view(request, *args, **kwargs)
                sent = SentForm(form_id=form_id, person=person)
                response = _once(sent, request, view, args, kwargs)
            return _told(request, response, form_id)
        except (OperationalError, OSError) as error:
            if _full(error):
                return render(request, "full.html", status=FULL)
            if "locked" not in str(error):
                raise
            return render(request, "busy.html", status=BUSY)
        finally:
            WRITER.reset(writer)


def _once(
    sent: SentForm,
    request: HttpRequest,
    view: View,
    args: tuple[object, ...],
    kwargs: Mapping[str, object],
) -> HttpResponse:
    """Run a form's view together with its id, or lead to where it led before."""
    try:
        with transaction.atomic():
            sent.save(force_insert=True)
    except IntegrityError:
        if not queued(request):
            messages.info(request, "That was kept already.")
        return redirect(SentForm.objects.get(form_id=sent.form_id).location or "/")
    writes = Writes()
    with connection.execute_wrapper(writes):
        response = view(request, *args, **kwargs)
    if response.status_code == 302 and not writes.count and queued(request):
        response = _unwritten(request) or response
    if response.status_code == 302:
        sent.location = response["Location"][:300]
        sent.save(update_fields=["location"])
        SentForm.forget_old()
    else:
        sent.delete()
    return response


class Writes:
    """Counts what is written meanwhile; a person's session is none of it."""

    def __init__(self) -> None:
        self.count = 0

    def __call__(
        self, execute: Callable[..., Any], sql: str, params: Any, many: bool, context: Any
    ) -> Any:
        """Run a statement of SQL."""
        words = sql.lstrip("( ").upper()
        if words.startswith(("INSERT", "UPDATE", "DELETE", "REPLACE")) and "_SESSION" not in words:
            self.count += 1
        return execute(sql, params, many, context)


def _unwritten(request: HttpRequest) -> HttpResponse | None:
    """For a browser's queue why a form that leads on was not kept after all; nothing where it only
    asked for what is so already.
    """
    said = [one for one in messages.get_messages(request) if one.level != messages.SUCCESS]
    if not said:
        return None
    why = " ".join(str(one) for one in said)
    return render(request, "unwritten.html", {"why": why}, status=409)


def _told(request: HttpRequest, response: HttpResponse, form_id: UUID) -> HttpResponse:
    """For a browser's queue the shop's own word that a form is kept, once it is on the disk; a page
    that only looks well is none.
    """
    if response.status_code != 302 or not queued(request):
        return response
    told = {"kept": str(form_id), "location": response["Location"], "at": milliseconds()}
    return JsonResponse(told)


def milliseconds() -> int:
    """The shop's clock: what was kept before a page was asked for stands on it."""
    return int(time() * 1000)


def queued(request: HttpRequest) -> bool:
    """Whether a browser's queue asks, and not a person."""
    return "X-Queue" in request.headers


LONGEST_WAIT = timedelta(days=60)  # no queue is older


def written_at(request: HttpRequest) -> datetime:
    """When somebody wrote what is sent now: a queue tells how long it waited."""
    text = request.headers.get("X-Written-Ago", "")
    ago = int(text) if text.isdecimal() and len(text) < 12 else 0  # milliseconds
    return timezone.now() - min(timedelta(milliseconds=ago), LONGEST_WAIT)


def _full(error: Exception) -> bool:
    """Whether a write failed because there is no room for it."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return "full" in str(error)


def _uuid(text: str) -> UUID | None:
    try:
        return UUID(text)
    except ValueError:
        return None
