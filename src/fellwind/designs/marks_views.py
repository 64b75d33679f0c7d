"""Views of the marks: figures typed, dragged or stepped, marks that come and go, limbs mirrored."""

from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.units.quantity import Units
from fellwind.designs import marking, pages, services
from fellwind.designs.forms import MarksForm
from fellwind.designs.models import Design
from fellwind.designs.services import designs
from fellwind.kit.context import units_of
from fellwind.kit.once import only_answers
from fellwind.kit.pages import show
from fellwind.kit.permissions import for_writers

MOST_MARKS = 60  # a limb


@dataclass(frozen=True)
class MarksPage(pages.Result):
    """The form of the marks beside what they come to.

    Attributes:
        alone: the form is made anew, with the result beside it.
    """

    alone: bool = False


def _page(
    form: MarksForm, design: Design, now: Solution, shown: Units, former: Solution | None
) -> MarksPage:
    handles = marking.handles(form, now.bow, shown)
    result = pages.result_of(design, now, shown, former, True, handles)
    return MarksPage(**vars(result) | {"form": form})


@for_writers
def marks(request: HttpRequest, pk: int) -> HttpResponse:
    """Change widths and thicknesses mark by mark; from then on the design is as it is marked."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    trouble = services.stays_as_begun(design) or trouble
    if found is None or trouble:
        messages.error(request, trouble)
        return redirect("designs:detail", pk=pk)
    if max(limb.at.size for limb in found.bow.limbs) > MOST_MARKS:
        messages.error(
            request,
            f"{design.name} has too many marks to change one by one; change its bow file and bring"
            " it in.",
        )
        return redirect("designs:detail", pk=pk)
    if request.method != "POST":
        page = _page(MarksForm(shown=shown, bow=found.bow, row=design), design, found, shown, None)
        return show(request, "designs/marks.html", page)
    form = MarksForm(request.POST, shown=shown, bow=found.bow, row=design)
    if form.is_valid():
        try:
            services.keep_marks(design, form.marked())
        except BowyeryError as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, f"The marks of {design.name} are kept as you set them.")
            return redirect("designs:detail", pk=pk)
    return show(request, "designs/marks.html", MarksPage(design, form=form), 422)


@only_answers
@require_POST
def marks_preview(request: HttpRequest, pk: int) -> HttpResponse:
    """What the marks typed so far come to, with the kept ones as a faint line."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    if found is None:
        return show(request, "designs/_result.html", pages.Result(trouble=trouble))
    form = MarksForm(request.POST, shown=shown, bow=found.bow)
    if not form.is_valid():
        return show(request, "designs/_result.html", pages.Result(form=form))
    try:
        now = services.remarked(design, form.marked())
    except BowyeryError as error:
        return show(request, "designs/_result.html", pages.Result(trouble=str(error)))
    handles = marking.handles(form, now.bow, shown)
    part = pages.result_of(design, now, shown, found, True, handles)
    return show(request, "designs/_result.html", part)


@only_answers
@require_POST
def marks_act(request: HttpRequest, pk: int) -> HttpResponse:
    """Drag or step a figure, add or take off a mark, mirror a limb, or go back to an earlier
    state.
    """
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    template = "designs/_marks_form.html"
    if found is None:
        return show(request, template, MarksPage(design, trouble=trouble))
    form = MarksForm(request.POST, shown=shown, bow=found.bow)
    if not form.is_valid():
        return show(request, template, MarksPage(design, form=form, alone=True))
    bow, said, now = form.marked(), "", None
    try:
        bow = marking.acted(request.POST, form, bow, design, shown)
        now = services.remarked(design, bow)
    except BowyeryError as error:
        said = str(getattr(error, "reason", error))
        now, _ = services.try_remarked(design, bow)
    fresh = MarksForm(
        shown=shown,
        bow=bow,
        keep=form.locked(),
        initial={"made_from": form.cleaned_data["made_from"]},
    )
    if now is None:
        return show(request, template, MarksPage(design, form=fresh, said=said, alone=True))
    page = _page(fresh, design, now, shown, found)
    return show(request, template, MarksPage(**vars(page) | {"said": said, "alone": True}))
