"""The one button of the demo workshop."""

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from fellwind.kit.permissions import for_everybody
from fellwind.people.models import Person


@for_everybody
@login_not_required
@require_POST
def open_demo(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo workshop with one button; only the demo has it."""
    person = Person.objects.filter(role=Person.MAKER).order_by("pk").first()
    if not settings.DEMO or person is None:
        raise Http404
    login(request, person, "django.contrib.auth.backends.ModelBackend")
    return redirect("today:today")
