"""The Today page."""

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe

from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.pages import show
from fellwind.today import services


@require_safe
@kept_page
def today(request: HttpRequest) -> HttpResponse:
    """What to do now, what rests, and where every bow stands."""
    page = services.today(timezone.now(), units_of(request))
    return show(request, "today/today.html", page)
