"""Views of a stave's natural line from a photograph."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from fellwind.kit.context import units_of
from fellwind.kit.once import solves_first
from fellwind.kit.pages import show
from fellwind.kit.permissions import for_writers
from fellwind.kit.photo_forms import CameraForm
from fellwind.kit.photos import photo_path
from fellwind.people.services import who
from fellwind.rack.maps import may_write_here
from fellwind.rack.models import Stave
from fellwind.sight import staves
from fellwind.sight.forms import EndsForm
from fellwind.sight.models import StaveLine

_FIRST = ((0.12, 0.5), (0.88, 0.5))  # where both ends are first put, as shares of the picture


@dataclass(frozen=True)
class TakePage:
    """The form of a photograph of a stave's side, and those that were taken."""

    stave: Stave
    form: CameraForm
    rows: Sequence[StaveLine]


@dataclass(frozen=True)
class LinePage:
    """A stave's photograph with its line drawn over, or the rings that are put on its ends."""

    stave: Stave
    row: StaveLine
    file: bool
    places: Sequence[tuple[str, float, float]]
    table: Sequence[tuple[str, str, str]]
    refusal: str = ""


def _stave(request: HttpRequest, number: int) -> Stave:
    """The stave, for whoever may write in the rack."""
    if not may_write_here(request):
        raise PermissionDenied("Only who keeps the rack may write in it.")
    return get_object_or_404(Stave, number=number)


def _take_page(stave: Stave, form: CameraForm) -> TakePage:
    rows = StaveLine.objects.filter(photo__stave=stave, photo__gone=False).select_related("photo")
    return TakePage(stave, form, list(rows.order_by("-pk")))


@require_safe
@for_writers
def take(request: HttpRequest, number: int) -> HttpResponse:
    """Take a photograph of a stave's side."""
    stave = _stave(request, number)
    return show(request, "sight/side.html", _take_page(stave, CameraForm(shown=units_of(request))))


@require_POST
def keep_photo(request: HttpRequest, number: int) -> HttpResponse:
    """Keep it, to put the rings on its ends."""
    stave = _stave(request, number)
    form = CameraForm(request.POST, request.FILES, shown=units_of(request))
    if not form.is_valid():
        return show(request, "sight/side.html", _take_page(stave, form), 422)
    row = staves.take(stave, form.cleaned_data["photo"], who(request))
    return redirect("lines:seen", number, row.pk)


def _row(number: int, pk: int) -> StaveLine:
    rows = StaveLine.objects.select_related("photo__stave")
    return get_object_or_404(rows, pk=pk, photo__stave__number=number, photo__gone=False)


def _page(request: HttpRequest, row: StaveLine, refusal: str = "") -> LinePage:
    shown, photo = units_of(request), row.photo
    at = row.ends or [[x * photo.width, y * photo.height] for x, y in _FIRST]
    named = [] if row.kept else zip(("left end", "right end"), at, strict=True)
    table = [
        (shown.length(a / 1e3), shown.length(s / 1e3), shown.length(e / 1e3))
        for a, s, e in zip(*(row.seen[n] for n in ("at", "side", "error")), strict=True)
    ] if row.seen else []  # fmt: skip
    places = [(name, x, y) for name, (x, y) in named]
    return LinePage(photo.stave, row, photo_path(photo.name).exists(), places, table, refusal)


@require_safe
def seen(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """A stave's photograph with its line."""
    return show(request, "sight/line.html", _page(request, _row(number, pk)))


def _read_first(request: HttpRequest, number: int, pk: int) -> None:
    """Read the line between the two ends; what is wrong with them the view says."""
    form = EndsForm(request.POST)
    if may_write_here(request) and form.is_valid():
        with suppress(BowyeryError):
            staves.look(_row(number, pk), form.cleaned_data["taps"])


@require_POST
@solves_first(_read_first)
def read(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Read the line between the two ends."""
    _stave(request, number)
    row, form = _row(number, pk), EndsForm(request.POST)
    if not form.is_valid():
        trouble = " ".join(str(error) for errors in form.errors.values() for error in errors)
        return show(request, "sight/line.html", _page(request, row, trouble), 422)
    if not row.kept:
        staves.read(row, form.cleaned_data["taps"])
    return redirect("lines:seen", number, pk)


@require_POST
def keep(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Write the line among the stave's sections."""
    _stave(request, number)
    row = _row(number, pk)
    try:
        count = staves.keep(row, who(request), units_of(request))
    except BowyeryError as error:
        trouble = getattr(error, "reason", str(error))
        return show(request, "sight/line.html", _page(request, row, trouble), 409)
    said = f"Its natural line is written at {count} places." if count else "It is kept already."
    messages.success(request, said)
    return redirect("rack:detail", number)
