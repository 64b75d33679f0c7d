"""Views of photographs that are read, and of the pages for the wall."""

from __future__ import annotations

from contextlib import suppress
from uuid import uuid4

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from fellwind.builds.log import tree_of
from fellwind.builds.services import get_build
from fellwind.exports.tags import tag_pages as written_pages
from fellwind.kit.context import units_of
from fellwind.kit.once import solves_first, written_at
from fellwind.kit.pages import show
from fellwind.kit.permissions import for_writers
from fellwind.people.services import who
from fellwind.shop.models import Workshop
from fellwind.sight import pages, services
from fellwind.sight.forms import KeepForm, SightForm, TapsForm
from fellwind.sight.models import Sighting


@require_safe
def tag_pages(request: HttpRequest) -> HttpResponse:
    """The tag pages for the wall."""
    headers = {"Content-Disposition": 'inline; filename="tag-pages.pdf"'}
    paper = Workshop.get().paper
    return HttpResponse(written_pages(paper), content_type="application/pdf", headers=headers)


@require_safe
@for_writers
def take(request: HttpRequest, number: int) -> HttpResponse:
    """Take a photograph to be read."""
    form = SightForm(shown=units_of(request))
    return show(request, "sight/take.html", pages.take_page(get_build(number), form))


def _read_first(request: HttpRequest, number: int) -> None:
    """Read the picture that was sent; what is wrong with it the view says."""
    form = SightForm(request.POST, request.FILES, shown=units_of(request))
    if form.is_valid():
        picture, state = services.sent(form.files["photo"]), form.cleaned_data["state"]
        services.read(get_build(number), picture, state, form.cleaned_data["photo"].width)


@require_POST
@solves_first(_read_first)
def read(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photograph and read it."""
    build = get_build(number)
    form = SightForm(request.POST, request.FILES, shown=units_of(request))
    if not form.is_valid():
        return show(request, "sight/take.html", pages.take_page(build, form), 422)
    data = form.cleaned_data
    row = services.take(
        build, data["photo"], services.sent(form.files["photo"]), data["state"],
        form.text("weight"), who(request), data["client_id"] or uuid4(), written_at(request),
    )  # fmt: skip
    return redirect("sight:seen", number, row.pk)


def _row(number: int, pk: int) -> Sighting:
    build = get_build(number)
    rows = Sighting.objects.select_related("photo__entry", "entry")
    row = get_object_or_404(rows, pk=pk, photo__entry__build=build, photo__gone=False)
    row.photo.entry.build = build
    return row


def _forms(request: HttpRequest, row: Sighting) -> tuple[KeepForm | None, TapsForm | None]:
    if row.entry is not None:
        return None, None
    if row.state != "unstrung" and (row.seen is None or "taps" in request.GET):
        return None, TapsForm()
    if row.seen is None:
        return None, None
    start = {"weight": row.weight} if row.weight else {}
    known = row.seen["draw"] is not None
    return KeepForm(state=row.state, known=known, shown=units_of(request), initial=start), None


@require_safe
def seen(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """A photograph with what was found drawn over it."""
    row = _row(number, pk)
    keep, taps = _forms(request, row)
    return show(request, "sight/seen.html", pages.seen_page(row, keep, taps, units_of(request)))


def _tapped_first(request: HttpRequest, number: int, pk: int) -> None:
    """Read the picture by the places that were tapped; what is wrong with them the view says."""
    form = TapsForm(request.POST)
    if form.is_valid():
        with suppress(BowyeryError):
            services.look_by_taps(_row(number, pk), form.cleaned_data["taps"])


@require_POST
@solves_first(_tapped_first)
def taps(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Read a photograph by five places."""
    row = _row(number, pk)
    form = TapsForm(request.POST)
    if row.entry is not None:
        return redirect("sight:seen", number, pk)
    if not form.is_valid():
        trouble = " ".join(str(error) for errors in form.errors.values() for error in errors)
        page = pages.seen_page(row, None, form, units_of(request), trouble)
        return show(request, "sight/seen.html", page, 422)
    try:
        services.read_by_taps(row, form.cleaned_data["taps"])
    except BowyeryError as error:
        page = pages.seen_page(row, None, form, units_of(request), str(error))
        return show(request, "sight/seen.html", page, 409)
    return redirect("sight:seen", number, pk)


@require_POST
def keep(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Keep what a photograph shows as a check."""
    row = _row(number, pk)
    if row.entry is not None:
        messages.success(request, "It is kept already.")
        return redirect("tiller:screen", number)
    shown, found = units_of(request), row.seen or {}
    known = found.get("draw") is not None
    form = KeepForm(request.POST, state=row.state, known=known, shown=shown)
    if form.is_valid():
        tree = tree_of(row.photo.entry.build)
        drawn = form.value("draw") if "draw" in form.fields else None
        to = None if drawn is None else tree.ruler.to_pivot(drawn, tree.handle_depth)
        weight = form.text("weight") if "weight" in form.fields else ""
        moved = form.cleaned_data["moved"]
        try:
            services.keep_check(row, moved, to, weight, who(request))
        except BowyeryError as error:
            form.add_error(None, getattr(error, "reason", str(error)))
            form.mark_faults()
        else:
            messages.success(request, "The photograph is kept as a check.")
            return redirect("tiller:screen", number)
    hidden = " ".join(str(error) for error in form.errors.get("moved", []))
    return show(request, "sight/seen.html", pages.seen_page(row, form, None, shown, hidden), 422)
