"""Views of the book."""

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from fellwind.builds.services import get_build
from fellwind.kit.context import units_of
from fellwind.kit.pages import show
from fellwind.ledger import bow as bows
from fellwind.ledger import services
from fellwind.ledger.learned import learned_page
from fellwind.people.services import who


@require_safe
def search(request: HttpRequest) -> HttpResponse:
    """Everything that was written of any bow, searched and filtered."""
    return show(request, "ledger/search.html", services.search(request.GET, units_of(request)))


@require_safe
def season(request: HttpRequest) -> HttpResponse:
    """A season summed up."""
    page = services.season(request.GET, timezone.localdate(), units_of(request))
    return show(request, "ledger/season.html", page)


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Finished bows side by side."""
    return show(request, "ledger/compare.html", services.compare(request.GET, units_of(request)))


@require_safe
def learned(request: HttpRequest) -> HttpResponse:
    """What the shop's records say of the book's figures."""
    return show(request, "ledger/learned.html", learned_page())


@require_safe
def book(request: HttpRequest, number: int) -> HttpResponse:
    """A bow's book on paper."""
    content = services.book(get_build(number), units_of(request))
    headers = {"Content-Disposition": f'inline; filename="book-{number}.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)


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
