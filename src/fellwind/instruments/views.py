"""Views of the instruments: their lines, what pages hear of them, their tokens, and a pull that is
kept.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from uuid import UUID, uuid4

from django import forms
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError, UnreadableError
from bowyery.instruments.lines import KINDS
from fellwind.builds.models import Build
from fellwind.builds.services import builds, get_build
from fellwind.instruments import services
from fellwind.instruments.live import live
from fellwind.instruments.models import Instrument
from fellwind.kit.context import units_of
from fellwind.kit.once import only_answers, written_at
from fellwind.kit.pages import number_in, show
from fellwind.kit.permissions import ROLES, for_writers, rights
from fellwind.people.services import who

MOST = 40  # instruments that may speak


class InstrumentForm(forms.Form):
    """A new instrument: what it is, and how the shop calls it."""

    kind = forms.ChoiceField(
        choices=[(kind, kind) for kind in KINDS], label="It is a",
        widget=forms.Select(attrs={"class": "form-select"}),
    )  # fmt: skip
    name = forms.CharField(
        max_length=60, label="Called", help_text="such as the scale on the oak post",
        widget=forms.TextInput(attrs={"class": "form-control", "autocomplete": "off"}),
    )  # fmt: skip


@dataclass(frozen=True)
class ListPage:
    """The shop's instruments, each with how it speaks; and bows a stand-in may be at."""

    rows: Sequence[Instrument]
    form: InstrumentForm
    builds: Sequence[Build]
    kinds: Sequence[str]
    address: str
    live: bool


def _page(request: HttpRequest, form: InstrumentForm) -> ListPage:
    rows = services.instruments()
    address = request.build_absolute_uri(reverse("instruments:hear", args=["TOKEN"]))
    open_ = list(builds().filter(finished=None))
    return ListPage(rows, form, open_, KINDS, address, any(not one.gone for one in rows))


@require_safe
@for_writers
def index(request: HttpRequest) -> HttpResponse:
    """The shop's instruments."""
    return show(request, "instruments/list.html", _page(request, InstrumentForm()))


def _for_keepers(request: HttpRequest) -> None:
    """Let only those deal with tokens who may change the shop."""
    role = getattr(request.user, "role", None)
    if not rights(role).get("shop"):
        raise PermissionDenied(ROLES[role].refusal if role else "Sign in first.")


@require_POST
def make(request: HttpRequest) -> HttpResponse:
    """Make a token for an instrument, and show it this once."""
    _for_keepers(request)
    form = InstrumentForm(request.POST)
    if form.is_valid() and Instrument.objects.filter(gone=False).count() >= MOST:
        form.add_error("name", f"You have {MOST} instruments; take one back first.")
    if not form.is_valid():
        return show(request, "instruments/list.html", _page(request, form), 422)
    data = form.cleaned_data
    row, token = Instrument.issue(data["name"], data["kind"], who(request))
    address = request.build_absolute_uri(reverse("instruments:hear", args=[token]))
    said = f"Let {row.name} send its lines to this address; it is shown once: {address}"
    messages.success(request, said)
    return redirect("instruments:list")


@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a token back: what it sends is not taken any more."""
    _for_keepers(request)
    row = get_object_or_404(Instrument, pk=pk)
    row.gone = True
    row.save(update_fields=["gone"])
    live.forget(row.pk)
    messages.success(request, f"The token of {row.name} is taken back.")
    return redirect("instruments:list")


@csrf_exempt
@login_not_required
@require_POST
def hear(request: HttpRequest, token: str) -> HttpResponse:
    """Lines of an instrument, as text; nothing is answered but that they came."""
    instrument = Instrument.of(token)
    if instrument is None:
        return HttpResponse("No instrument of this shop has that token.\n", status=404,
                            content_type="text/plain; charset=utf-8")  # fmt: skip
    if request.content_type not in ("text/plain", ""):
        return HttpResponse("Send plain text, one reading a line.\n", status=415,
                            content_type="text/plain; charset=utf-8")  # fmt: skip
    services.hear(instrument, request.body.decode("utf-8", errors="replace"))
    return HttpResponse(status=204)


@only_answers
@require_safe
def now(request: HttpRequest) -> JsonResponse:
    """What instruments said after a line, for a page that listens."""
    since = number_in(request.GET.get("since"))
    told = services.now(
        live.number if since is None else since, units_of(request), "pull" in request.GET
    )
    return JsonResponse(asdict(told))


@require_POST
def keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep the pull that was just traced as a check."""
    build, since = get_build(number), number_in(request.POST.get("since"))
    try:
        client_id = UUID(request.POST.get("client_id", ""))
    except ValueError:
        client_id = uuid4()
    try:
        found = services.keep_pull(build, since or 0, who(request), client_id, written_at(request))[
            1
        ]
    except (BowyeryError, UnreadableError) as error:
        messages.error(request, getattr(error, "reason", str(error)))
    else:
        shown = units_of(request)
        said = f"Written down: {shown.fine_weight(found.top[1])} at {shown.length(found.top[0])}"
        if found.kept is not None:
            said += f"; of the energy {found.kept * 100:.0f} % did not come back"
        messages.success(request, f"{said}.")
    return redirect(
        "tiller:bench" if request.POST.get("then") == "bench" else "tiller:screen", number
    )


@require_POST
def play(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a stand-in speak for an instrument, or stop it."""
    row = get_object_or_404(Instrument, pk=pk, gone=False)
    if request.POST.get("stop"):
        services.player.stop()
        messages.success(request, "The stand-in is still.")
        return redirect("instruments:list")
    number = number_in(request.POST.get("build"))
    build = builds().filter(number=number or 0).first()
    try:
        lines = services.lines_of(row.kind, build)
    except BowyeryError as error:
        messages.error(request, getattr(error, "reason", str(error)))
    else:
        services.player.play(row.pk, lines)
        Instrument.objects.filter(pk=row.pk).update(heard=timezone.now())
        at = f" at number {build.number}" if build else ""
        messages.success(request, f"A stand-in speaks for {row.name}{at}.")
    where = request.POST.get("then")
    if where == "bench" and build is not None:
        return redirect("tiller:bench", number=build.number)
    return redirect("instruments:list")
