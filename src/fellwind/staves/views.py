"""Views of the wood rack."""

from uuid import uuid4

from django.contrib import messages
from django.db import transaction
from django.db.models import Max, Prefetch, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from bowyery import materials
from fellwind.staves.forms import StaveForm, WeighingForm
from fellwind.staves.models import Stave, Weighing
from fellwind.staves.services import seasoning
from fellwind.workshop.context import units_of
from fellwind.workshop.models import Workshop


def staves() -> QuerySet[Stave]:
    """Staves with what their pages read."""
    weighings = Weighing.objects.select_related("corrected_by", "by")
    return Stave.objects.prefetch_related(Prefetch("weighings", weighings), "designs", "builds")


@require_GET
def stave_list(request: HttpRequest) -> HttpResponse:
    """The rack."""
    workshop = Workshop.get()
    rows = [{"stave": stave, "seasoning": seasoning(stave, workshop)} for stave in staves()[:200]]
    return render(request, "staves/list.html", {"rows": rows})


def detail(request: HttpRequest, number: int) -> HttpResponse:
    """One stave, with its weighings and a form for the next."""
    stave = get_object_or_404(staves(), number=number)
    form = WeighingForm(
        request.POST or None,
        shown=units_of(request),
        stave=stave,
        initial={"client_id": uuid4(), **_correcting(request, stave)},
    )
    if request.method == "POST" and form.is_valid():
        _keep_weighing(request, stave, form)
        return redirect("staves:detail", number=number)
    context = {
        "stave": stave,
        "wood": materials.material(stave.material),
        "seasoning": seasoning(stave, Workshop.get()),
        "form": form,
        "correcting": form["corrects"].value(),
    }
    return render(request, "staves/detail.html", context, status=422 if form.errors else 200)


def _correcting(request: HttpRequest, stave: Stave) -> dict[str, object]:
    pk = request.GET.get("correct", "")
    wrong = stave.weighings.filter(corrected_by=None, pk=pk).first() if pk.isdecimal() else None
    return {"corrects": wrong.pk, "mass": wrong.mass, "day": wrong.day} if wrong else {}


def _keep_weighing(request: HttpRequest, stave: Stave, form: WeighingForm) -> None:
    data = form.cleaned_data
    with transaction.atomic():
        _, new = Weighing.objects.get_or_create(
            client_id=data["client_id"],
            defaults={
                "stave": stave,
                "day": data["day"],
                "mass": data["mass"].value,
                "text": form.text("mass"),
                "by": request.user,
                "corrects": data["corrects"],
            },
        )
    messages.success(request, "The weighing is kept." if new else "That weighing was kept already.")


def edit(request: HttpRequest, number: int | None = None) -> HttpResponse:
    """Add or change a stave."""
    stave = get_object_or_404(Stave, number=number) if number else Stave()
    form = StaveForm(request.POST or None, shown=units_of(request), initial=StaveForm.initial_of(stave) if number else {})
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            if not number:
                stave.number = (Stave.objects.aggregate(top=Max("number"))["top"] or 0) + 1
            form.save(stave)
        messages.success(request, f"Stave {stave.number} is kept.")
        return redirect("staves:detail", number=stave.number)
    return render(request, "staves/edit.html", {"form": form, "stave": stave}, status=422 if form.errors else 200)
