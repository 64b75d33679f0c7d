"""Views of the book."""

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from fellwind.builds.services import get_build
from fellwind.kit.context import units_of
from fellwind.kit.pages import show
from fellwind.ledger import services


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
def book(request: HttpRequest, number: int) -> HttpResponse:
    """A bow's book on paper."""
    content = services.book(get_build(number), units_of(request))
    headers = {"Content-Disposition": f'inline; filename="book-{number}.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)
