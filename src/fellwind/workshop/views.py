"""Views of the shop: Today, people, archers, gear, air, units and signing in."""

import json

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from bowyery import materials
from fellwind.workshop import services
from fellwind.workshop.context import units_of
from fellwind.workshop.forms import USUAL_HANDLE_DEPTH, ArcherForm, GearForm, JoinForm, WorkshopForm
from fellwind.workshop.measures import QUANTITIES, Units, convert, on_rulers
from fellwind.workshop.models import RULERS, Archer, Gear, Invitation, Person, Workshop
from fellwind.workshop.permissions import maker_only


@require_GET
def today(request: HttpRequest) -> HttpResponse:
    """What to do now, what rests, and where every bow stands."""
    return render(request, "workshop/today.html", services.today(Workshop.get(), timezone.now(), units_of(request)))


def shop(request: HttpRequest) -> HttpResponse:
    """The shop's settings, people, archers and gear."""
    workshop, shown = Workshop.get(), units_of(request)
    if request.method == "POST":
        return _save_shop(request, workshop, shown)
    form = WorkshopForm(shown=shown, initial=WorkshopForm.initial_of(workshop))
    return render(request, "workshop/shop.html", _shop_context(workshop, form))


@maker_only
def _save_shop(request: HttpRequest, workshop: Workshop, shown: Units) -> HttpResponse:
    form = WorkshopForm(request.POST, shown=shown)
    if form.is_valid():
        form.save(workshop)
        messages.success(request, "The shop's settings are kept.")
        return redirect("workshop:shop")
    return render(request, "workshop/shop.html", _shop_context(workshop, form), status=422)


def _shop_context(workshop: Workshop, form: WorkshopForm) -> dict[str, object]:
    return {
        "workshop": workshop,
        "form": form,
        "people": Person.objects.order_by("username"),
        "roles": [Person.MAKER, Person.HELPER, Person.GUEST],
        "archers": Archer.objects.all(),
        "gear": Gear.objects.all(),
        "balance": services.shop_balance(workshop),
        "woods": len(materials.woods()),
    }


@require_GET
def material_list(request: HttpRequest) -> HttpResponse:
    """Book values of woods, backings and string fibres, with their sources."""
    return render(
        request,
        "workshop/materials.html",
        {
            "woods": sorted(materials.woods().values(), key=lambda m: m.name),
            "backings": sorted(materials.backings().values(), key=lambda m: m.name),
            "fibres": sorted(materials.fibres().values(), key=lambda m: m.name),
        },
    )


def archer_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change an archer."""
    archer = get_object_or_404(Archer, pk=pk) if pk else Archer()
    shown = units_of(request)
    form = ArcherForm(request.POST or None, shown=shown, initial=ArcherForm.initial_of(archer) if pk else {"draw_ruler": "pivot"})
    if request.method == "POST" and form.is_valid():
        form.save(archer)
        messages.success(request, f"{archer.name} is kept.")
        return redirect("workshop:shop")
    rulers = [(RULERS[key], value) for key, value in (on_rulers(archer.draw, USUAL_HANDLE_DEPTH).items() if pk else ())]
    context = {"form": form, "archer": archer, "rulers": rulers}
    return render(request, "workshop/archer.html", context, status=422 if form.errors else 200)


@maker_only
def gear_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change a piece of gear."""
    gear = get_object_or_404(Gear, pk=pk) if pk else Gear()
    initial = {"name": gear.name, "kind": gear.kind, "rating": gear.rating, "in_use": gear.in_use}
    form = GearForm(request.POST or None, shown=units_of(request), initial=initial if pk else {})
    if request.method == "POST" and form.is_valid():
        form.save(gear)
        messages.success(request, f"{gear.name} is kept.")
        return redirect("workshop:shop")
    return render(request, "workshop/gear.html", {"form": form, "gear": gear}, status=422 if form.errors else 200)


@require_POST
@maker_only
def invite(request: HttpRequest) -> HttpResponse:
    """Make a one-time link for another person and show it once."""
    role = request.POST.get("role", "")
    if role not in (Person.HELPER, Person.GUEST, Person.MAKER):
        raise Http404
    link = request.build_absolute_uri(f"/join/{Invitation.issue(role)}/")
    return render(request, "workshop/invited.html", {"link": link, "role": role})


@require_POST
@maker_only
def person(request: HttpRequest, pk: int) -> HttpResponse:
    """Give somebody another role, or shut their account; the last maker stays."""
    who = get_object_or_404(Person, pk=pk)
    role = request.POST.get("role", "")
    if role not in (Person.HELPER, Person.GUEST, Person.MAKER, "shut"):
        raise Http404
    others = Person.objects.filter(role=Person.MAKER, is_active=True).exclude(pk=pk)
    if role != Person.MAKER and not others.exists():
        messages.error(request, "A shop needs one maker at least; make somebody else a maker first.")
        return redirect("workshop:shop")
    who.is_active = role != "shut"
    who.role = who.role if role == "shut" else role
    who.save(update_fields=["role", "is_active"])
    messages.success(request, f"{who.username}: {'account shut' if role == 'shut' else role}.")
    return redirect("workshop:shop")


@login_not_required
def join(request: HttpRequest, token: str) -> HttpResponse:
    """Make an account from a one-time link."""
    form = JoinForm(request.POST or None)
    with transaction.atomic():
        invitation = Invitation.open_for(token)
        if invitation is None:
            return render(request, "workshop/join.html", {"form": None}, status=410)
        if request.method == "POST" and form.is_valid():
            person = Person.objects.create_user(
                form.cleaned_data["username"], password=form.cleaned_data["password1"], role=invitation.role
            )
            invitation.used = timezone.now()
            invitation.save()
            login(request, person, "django.contrib.auth.backends.ModelBackend")
            return redirect("workshop:today")
    return render(request, "workshop/join.html", {"form": form}, status=422 if form.errors else 200)


@login_not_required
@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo workshop with one button; only the demo has it."""
    if not settings.DEMO:
        raise Http404
    person = Person.objects.filter(role=Person.MAKER).order_by("pk").first()
    if person is None:
        raise Http404
    login(request, person, "django.contrib.auth.backends.ModelBackend")
    return redirect("workshop:today")


@require_POST
def units(request: HttpRequest) -> HttpResponse:
    """Switch the unit world; rewrite what is half typed on the page, and answer with it as JSON."""
    person = request.user
    before = person.world
    person.world = "metric" if before == "imperial" else "imperial"
    person.save(update_fields=["world"])
    after = Units(person.world, Workshop.get().denominator)
    try:
        typed = json.loads(request.POST.get("typed", "[]"))[:200]
    except (json.JSONDecodeError, TypeError):
        typed = []
    rewritten = [
        {"name": str(t.get("name")), "text": _rewrite(str(t.get("text")), str(t.get("kind")), before, after)}
        for t in typed
        if isinstance(t, dict)
    ]
    if request.headers.get("Accept") == "application/json":
        return JsonResponse({"world": person.world, "typed": rewritten})
    return redirect(services.local_path(request.META.get("HTTP_REFERER", ""), request.get_host()))


def _rewrite(text: str, kind: str, before: str, after: Units) -> str:
    return convert(text, kind, before, after) if kind in QUANTITIES or kind == "temperature" else text


@require_POST
def theme(request: HttpRequest) -> HttpResponse:
    """Switch between day and dusk."""
    request.user.theme = "dusk" if request.user.theme == "day" else "day"
    request.user.save(update_fields=["theme"])
    return redirect(services.local_path(request.META.get("HTTP_REFERER", ""), request.get_host()))
