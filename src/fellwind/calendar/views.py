"""Views of the calendar: its links, and the file they lead to."""

from dataclasses import dataclass

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from fellwind.calendar import services
from fellwind.calendar.models import Feed
from fellwind.kit.pages import show
from fellwind.kit.permissions import for_everybody
from fellwind.people.services import who

MOST = 10  # links of one person


@dataclass(frozen=True)
class LinksPage:
    """Somebody's links to the calendar."""

    feeds: QuerySet[Feed]
    most: int


@require_safe
def links(request: HttpRequest) -> HttpResponse:
    """Somebody's own links."""
    return show(request, "calendar/links.html", LinksPage(who(request).feeds.all(), MOST))


@for_everybody
@require_POST
def make(request: HttpRequest) -> HttpResponse:
    """Make a link, and show it this once."""
    person = who(request)
    if person.feeds.count() >= MOST:
        messages.error(request, f"You have {MOST} links; take one back first.")
        return redirect("calendar:links")
    address = request.build_absolute_uri(reverse("calendar:feed", args=[Feed.issue(person)]))
    messages.success(
        request, f"Give your calendar this address to subscribe to; it is shown once: {address}"
    )
    return redirect("calendar:links")


@for_everybody
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a link back: a calendar that has it sees nothing more."""
    get_object_or_404(who(request).feeds, pk=pk).delete()
    messages.success(request, "The link is taken back.")
    return redirect("calendar:links")


@login_not_required
@require_safe
def feed(request: HttpRequest, token: str) -> HttpResponse:
    """What rests, for whoever has the link."""
    if Feed.of(token) is None:
        raise Http404("There is no such calendar.")
    return HttpResponse(
        services.calendar(timezone.now()), content_type="text/calendar; charset=utf-8"
    )
