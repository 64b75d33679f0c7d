"""Views of the book."""

import logging
from collections.abc import Mapping
from copy import copy
from dataclasses import dataclass, field
from functools import partial
from inspect import unwrap
from pathlib import Path

from django.contrib import messages
from django.core.exceptions import ObjectDoesNotExist
from django.db import DatabaseError, transaction
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect
from django.urls import NoReverseMatch, resolve, reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from fellwind.builds.models import Build
from fellwind.builds.services import get_build
from fellwind.designs.services import try_solution
from fellwind.kit.archive import ArchiveError
from fellwind.kit.context import units_of
from fellwind.kit.once import only_answers, solves_first
from fellwind.kit.pages import show
from fellwind.kit.permissions import for_writers
from fellwind.kit.rooms import rooms
from fellwind.ledger import bow as bows
from fellwind.ledger import parcel as parcels
from fellwind.ledger import services, sheets
from fellwind.ledger.learned import learned_page
from fellwind.people.services import who

logger = logging.getLogger(__name__)


@require_safe
def search(request: HttpRequest) -> HttpResponse:
    """Everything that was written of any bow, searched and filtered."""
    return show(request, "ledger/search.html", services.search(request.GET, units_of(request)))


@require_safe
def season(request: HttpRequest) -> HttpResponse:
    """A season summed up."""
    page = services.season(request.GET, timezone.localdate(), units_of(request))
    return show(request, "ledger/season.html", page)


@only_answers
@require_safe
def rungs(request: HttpRequest) -> HttpResponse:
    """How the tiller's forecasts of a season held, rung by rung."""
    part = services.rungs(request.GET, timezone.localdate())
    return show(request, "ledger/_rungs.html", part)


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Finished bows side by side."""
    return show(request, "ledger/compare.html", services.compare(request.GET, units_of(request)))


@require_safe
def learned(request: HttpRequest) -> HttpResponse:
    """What the shop's records say of the book's figures."""
    return show(request, "ledger/learned.html", learned_page(units_of(request)))


@require_safe
def book(request: HttpRequest, number: int) -> HttpResponse:
    """A bow's book on paper."""
    content = services.book(get_build(number), units_of(request))
    headers = {"Content-Disposition": f'inline; filename="book-{number}.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)


@require_safe
@for_writers
def parcel(request: HttpRequest, number: int) -> HttpResponse:
    """A bow as a ZIP for another shop."""
    named = request.GET.get("archer") == "yes"
    content = parcels.write(get_build(number), named)
    headers = {"Content-Disposition": f'attachment; filename="bow-{number}.zip"'}
    return HttpResponse(content, content_type="application/zip", headers=headers)


@dataclass(frozen=True)
class BringPage:
    """A bow from another shop: the file that is asked for, or its questions."""

    arrive: parcels.ArriveForm
    answers: parcels.AnswerForm | None = None
    parcel: parcels.Parcel | None = None
    token: str = ""
    trouble: str = ""


def _read(request: HttpRequest) -> None:
    """Read a bow's file, or say why not, before anybody waits for the database: what was read
    stays with the request.
    """
    token, arrive = request.POST.get("token", ""), parcels.ArriveForm(request.POST, request.FILES)
    found: parcels.Parcel | str | None = None
    if "token" in request.POST or arrive.is_valid():
        if "token" not in request.POST:
            token = parcels.put_by(arrive.cleaned_data["file"].read())
        path = parcels.put_by_path(token)
        try:
            found = parcels.read(path) if path else "It is not here any more: choose it again."
        except ArchiveError as error:
            found = str(error)
    request.brought = (token, arrive, found)  # type: ignore[attr-defined]


@for_writers
@solves_first(_read)
def bring(request: HttpRequest) -> HttpResponse:
    """Bring in a bow from another shop: its file first, then the answers to its questions."""
    if request.method != "POST":
        return show(request, "ledger/bring.html", BringPage(parcels.ArriveForm()))
    token, arrive, found = request.brought  # type: ignore[attr-defined]
    if found is None:
        return show(request, "ledger/bring.html", BringPage(arrive), 422)
    path, answered = parcels.put_by_path(token), "token" in request.POST
    if path is None:
        page = BringPage(parcels.ArriveForm(), trouble=str(found))
        return show(request, "ledger/bring.html", page, 422)
    try:
        if isinstance(found, str):
            raise ArchiveError(found)
        form = parcels.AnswerForm(request.POST if answered else None, parcel=found)
        if answered and form.is_valid():
            build = parcels.bring(form, partial(_can_be_shown, request))
            path.unlink(missing_ok=True)
            messages.success(request, f"{build.name} is here, as number {build.number}.")
            return redirect("ledger:bow", number=build.number)
    except ArchiveError as error:
        path.unlink(missing_ok=True)
        page = BringPage(parcels.ArriveForm(), trouble=_without_path(str(error), path))
        return show(request, "ledger/bring.html", page, 422)
    page = BringPage(arrive, form, found, token)
    return show(request, "ledger/bring.html", page, 422 if form.errors else 200)


# What a row that cannot be shown may end a page with.
WHAT_A_ROW_DOES = (
    BowyeryError, ArithmeticError, AssertionError, AttributeError, DatabaseError, LookupError,
    NoReverseMatch, ObjectDoesNotExist, OSError, RecursionError, TypeError, ValueError,
)  # fmt: skip


def _can_be_shown(request: HttpRequest, build: Build) -> None:
    """See that every list and every page of a bow can be shown before it stays.

    Raises:
        ArchiveError: one of them cannot, and the bow must not be here.
    """
    trouble = try_solution(build.design)[1]
    if trouble:
        raise ArchiveError(f"A row of its design cannot be: {trouble}")
    design, number = build.design_id, build.number
    places: list[str | tuple[str, int]] = [
        *(room.home for room in rooms() if room.home), "ledger:season",
        ("builds:detail", number), ("builds:log", number), ("ledger:bow", number),
        ("tiller:screen", number), ("designs:detail", design), ("designs:marks", design),
    ]  # fmt: skip
    if build.stave is not None:
        places.append(("rack:detail", build.stave.number))
    for place in places:
        name, *key = (place,) if isinstance(place, str) else place
        match = resolve(reverse(name, args=key))
        asked = copy(request)
        asked.method, asked.GET, asked.resolver_match = "GET", QueryDict(), match
        try:
            unwrap(match.func)(asked, *match.args, **match.kwargs)
        except WHAT_A_ROW_DOES as error:
            logger.warning("A bow that was brought in cannot be shown at %s", name, exc_info=True)
            raise ArchiveError(
                f"A row of it cannot be shown ({name.partition(':')[0]}:"
                f" {type(error).__name__}). Nothing was brought in."
            ) from None


def _without_path(said: str, path: Path) -> str:
    """The sentence without the name it was put by under."""
    return said.replace(path.name, "This file")


@dataclass(frozen=True)
class SheetPage:
    """A sheet that is asked for, or what its rows would become."""

    form: sheets.SheetForm
    found: sheets.Preview | None = None
    kinds: Mapping[str, sheets.Kind] = field(default_factory=lambda: sheets.KINDS)


@for_writers
def sheet(request: HttpRequest) -> HttpResponse:
    """Weighings, readings or wood from a sheet: what each row becomes, and then all that can be."""
    shown = units_of(request)
    if request.method != "POST":
        initial = {"kind": request.GET.get("kind", "weighings")}
        return show(
            request, "ledger/sheet.html", SheetPage(sheets.SheetForm(initial=initial, shown=shown))
        )
    form = sheets.SheetForm(request.POST, request.FILES, shown=shown)
    if not form.is_valid():
        return show(request, "ledger/sheet.html", SheetPage(form), 422)
    found = sheets.preview(form)
    if request.POST.get("keep") == "yes" and found.new:
        count = sheets.keep(found, who(request))
        left = f"; {found.wrong} could not be" if found.wrong else ""
        rows = "1 row is" if count == 1 else f"{count} rows are"
        messages.success(request, f"{rows} written{left}.")
        return redirect("ledger:sheet")
    return show(request, "ledger/sheet.html", SheetPage(form, found))


@require_safe
def bow(request: HttpRequest, number: int) -> HttpResponse:
    """A bow's own page."""
    return show(request, "ledger/bow.html", bows.bow_page(get_build(number), units_of(request)))


@require_POST
@transaction.atomic
def bill(request: HttpRequest, number: int) -> HttpResponse:
    """What an hour costs on a bow, and its materials."""
    build, shown = get_build(number), units_of(request)
    form = bows.bill_form(build, shown, request.POST)
    if not form.is_valid():
        return show(request, "ledger/bow.html", bows.bow_page(build, shown, form), 422)
    bows.keep_bill(build, form)
    messages.success(request, "The bill is kept.")
    return redirect("ledger:bow", number=number)


@require_POST
@transaction.atomic
def share(request: HttpRequest, number: int) -> HttpResponse:
    """Switch a bow's public link on or off."""
    build, asked = get_build(number), request.POST.get("on") == "yes"
    on = bows.share(build, asked, who(request))
    if on:
        messages.success(request, "Whoever has the link sees the card, and nothing else.")
    elif asked:
        messages.info(request, "There is nothing to show before its proof.")
    else:
        messages.success(request, "The link is off; whoever had it finds nothing there.")
    return redirect("ledger:bow", number=number)


@require_safe
def paper(request: HttpRequest, number: int, paper: str) -> HttpResponse:
    """What a bow leaves with on paper: label, care sheet or bill."""
    build, shown = get_build(number), units_of(request)
    papers = {
        "label": lambda: bows.label_of(build, shown),
        "care": lambda: bows.care_of(build, shown),
        "bill": lambda: bows.bill_of(build),
    }
    if paper not in papers:
        raise Http404("There is no such paper.")
    content = papers[paper]()
    if content is None:
        first = "Write the bill first." if paper == "bill" else "It is printed from the proof."
        messages.info(request, first)
        return redirect("ledger:bow", number=number)
    headers = {"Content-Disposition": f'inline; filename="{paper}-{number}.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)


@require_safe
def open_(request: HttpRequest, token: str) -> HttpResponse:
    """The public page of a bow: its card, for whoever has the link."""
    answer = show(request, "ledger/open.html", bows.open_page(token))
    answer["X-Robots-Tag"] = "noindex"
    answer["Referrer-Policy"] = "no-referrer"
    return answer
