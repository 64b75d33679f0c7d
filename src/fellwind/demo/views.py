"""The one button of the demo workshop; the sample bow of an empty shop."""

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from fellwind.demo import sample as samples
from fellwind.kit.permissions import for_everybody
from fellwind.people.models import Person
from fellwind.people.services import who


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


@require_POST
def sample(request: HttpRequest) -> HttpResponse:
    """Make a sample bow and go to its tiller."""
    build = samples.make(who(request))
    return redirect("builds:detail", number=build.number)


@require_POST
def throw_away(request: HttpRequest) -> HttpResponse:
    """Take the sample bow out of the shop."""
    stays = samples.throw_away()
    if stays:
        said = f"The sample is gone but for what you built on: {', '.join(stays)}."
        messages.info(request, said)
    else:
        messages.success(request, "The sample is gone, and nothing of it is left.")
    return redirect("today:today")
