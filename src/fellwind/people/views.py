"""Signing in and joining; people's roles, units and themes."""

from dataclasses import dataclass

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from fellwind.kit.pages import refused, show
from fellwind.kit.permissions import ROLES, for_everybody
from fellwind.people import doorway, services
from fellwind.people.forms import JoinForm
from fellwind.people.models import Invitation, Person

BACKEND = "django.contrib.auth.backends.ModelBackend"


@dataclass(frozen=True)
class InvitedPage:
    """A one-time link, shown once."""

    link: str
    role: str


@dataclass(frozen=True)
class JoinPage:
    """The form of a new account; None when the link is used up."""

    form: JoinForm | None


class SignIn(LoginView):
    """The door. A browser that somebody signs in with is known as theirs from then on."""

    template_name = "people/login.html"

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Let them in."""
        response = super().form_valid(form)
        doorway.remember(self.request, response, form.get_user().get_username())
        return response

    def form_invalid(self, form: AuthenticationForm) -> HttpResponse:
        """Count it where the browser is known; others are counted by name and address."""
        if doorway.is_known(self.request):
            doorway.tried(self.request)
        return super().form_invalid(form)


@require_POST
def invite(request: HttpRequest) -> HttpResponse:
    """Make a one-time link for another person and show it once."""
    role = request.POST.get("role", "")
    if role not in ROLES:
        raise Http404
    path = f"/join/{Invitation.issue(role)}/"
    link = settings.URL + path if settings.URL else request.build_absolute_uri(path)
    return show(request, "people/invited.html", InvitedPage(link, role))


@require_POST
def person(request: HttpRequest, pk: int) -> HttpResponse:
    """Give somebody another role, or shut their account."""
    them = get_object_or_404(Person, pk=pk)
    role = request.POST.get("role", "")
    if role not in (*ROLES, services.SHUT):
        raise Http404
    trouble = services.give_role(them, role)
    if trouble:
        messages.error(request, trouble)
    else:
        done = "account shut" if role == services.SHUT else role
        messages.success(request, f"{them.username}: {done}.")
    return redirect("shop:shop")


@login_not_required
def join(request: HttpRequest, token: str) -> HttpResponse:
    """Make an account from a one-time link."""
    invitation = Invitation.open_for(token)
    if invitation is None:
        return show(request, "people/join.html", JoinPage(None), 410)
    form = JoinForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        login(request, services.join(invitation, data["username"], data["password1"]), BACKEND)
        return redirect("today:today")
    return show(request, "people/join.html", JoinPage(form), refused(form.errors))


@require_safe
def queue(request: HttpRequest) -> HttpResponse:
    """For a browser's queue: who is signed in, and the token that their forms need."""
    return JsonResponse({"who": services.who(request).username, "csrf": get_token(request)})


@for_everybody
@require_POST
def units(request: HttpRequest) -> HttpResponse:
    """Switch the unit world; rewrite what is half typed on the page, and answer with it as JSON."""
    them = services.who(request)
    typed = services.switch_world(them, request.POST.get("typed", "[]"))
    if request.headers.get("Accept") == "application/json":
        return JsonResponse({"world": them.world, "typed": typed})
    return _back(request)


@for_everybody
@require_POST
def theme(request: HttpRequest) -> HttpResponse:
    """Switch between day and dusk."""
    them = services.who(request)
    them.theme = "dusk" if them.theme == "day" else "day"
    them.save(update_fields=["theme"])
    return _back(request)


def _back(request: HttpRequest) -> HttpResponse:
    return redirect(services.local_path(request.META.get("HTTP_REFERER", ""), request.get_host()))
