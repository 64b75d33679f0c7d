"""Views of bows as they were measured."""

from dataclasses import dataclass, replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from bowyery.errors import BowyeryError
from fellwind.designs import arrivals, pages
from fellwind.designs.measured import MeasuredBowForm, ScaleForm
from fellwind.designs.services import designs, stays_as_begun
from fellwind.kit.context import units_of
from fellwind.kit.once import only_answers
from fellwind.kit.pages import refused, show
from fellwind.kit.permissions import for_writers
from fellwind.kit.versions import overtaken
from fellwind.shop.models import Archer


@dataclass(frozen=True)
class MeasuredPage:
    """The table of a bow as it was measured."""

    form: MeasuredBowForm


@for_writers
def measured(request: HttpRequest) -> HttpResponse:
    """Take a bow in as it was measured."""
    if not Archer.objects.exists():
        messages.info(request, "A design is for somebody: add the archer first.")
        return redirect("shop:archer_new")
    form = MeasuredBowForm(request.POST or None, shown=units_of(request))
    if request.method == "POST" and form.is_valid():
        try:
            design, said = arrivals.measured(form.bow(), form)
        except BowyeryError as error:
            form.add_error(None, str(error))
        else:
            design.save()
            messages.success(request, f"{design.name} is on the shelf of designs. {said}".strip())
            return redirect("designs:detail", pk=design.pk)
    page = MeasuredPage(form)
    return show(request, "designs/measured.html", page, refused(request.method == "POST"))


@only_answers
@require_POST
def preview(request: HttpRequest) -> HttpResponse:
    """What the figures typed so far come to."""
    shown = units_of(request)
    form = MeasuredBowForm(request.POST, shown=shown, tried=True)
    if not form.is_valid():
        return show(request, "designs/_result.html", pages.Result(form=form))
    try:
        design, said = arrivals.measured(form.bow(), form)
        part = pages.result(design, shown, quick=True)
    except BowyeryError as error:
        return show(request, "designs/_result.html", pages.Result(trouble=str(error)))
    return show(request, "designs/_result.html", replace(part, said=said))


@require_POST
def scale(request: HttpRequest, pk: int) -> HttpResponse:
    """Scale a bow as it is marked to a weight that was read of it."""
    design, shown = get_object_or_404(designs(), pk=pk), units_of(request)
    if trouble := stays_as_begun(design) or overtaken(design, request.POST):
        messages.error(request, trouble)
        return redirect("designs:detail", pk=pk)
    form = ScaleForm(request.POST, shown=shown, draw=design.draw)
    if not form.is_valid():
        return show(
            request, "designs/detail.html", pages.detail(design, shown, scale_form=form), 422
        )
    try:
        said = arrivals.scale_to(
            design, form.given("at"), form.given("read"), form.cleaned_data["what"], shown
        )
    except BowyeryError as error:
        messages.error(request, f"It stays as it is: {error}")
    else:
        messages.success(request, said)
    return redirect("designs:detail", pk=pk)
