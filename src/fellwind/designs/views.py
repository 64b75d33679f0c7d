"""Views of the design room."""

from dataclasses import replace

from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from bowyery import bowfile
from bowyery.design import Solution
from bowyery.errors import BowyeryError
from fellwind.designs import services
from fellwind.designs.forms import DesignForm
from fellwind.designs.models import Design
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import ruler_for, ruler_picture, small_outline
from fellwind.drawing.tree import tree_picture
from fellwind.exports.marking import marking_table
from fellwind.workshop.context import units_of
from fellwind.workshop.measures import RULER_WORDS, Units, on_rulers
from fellwind.workshop.models import Archer, Workshop


def _designs() -> QuerySet[Design]:
    return Design.objects.select_related("archer", "stave")


@require_GET
def design_list(request: HttpRequest) -> HttpResponse:
    """All designs with their outlines."""
    rows = []
    for design in _designs().prefetch_related("builds")[:100]:
        found, trouble = services.try_solution(design)
        picture = small_outline(services.ruler_data(found)) if found else ""
        rows.append({"design": design, "picture": picture, "found": found, "trouble": trouble})
    return render(request, "designs/list.html", {"rows": rows, "archers": Archer.objects.exists()})


@require_GET
def detail(request: HttpRequest, pk: int) -> HttpResponse:
    """One design: ruler, tree, curve, marking table, length schools."""
    design = get_object_or_404(_designs(), pk=pk)
    context = {"design": design} | _result(design, units_of(request))
    if context["found"]:
        context["schools"] = services.schools(design)
        context["rulers"] = [(RULER_WORDS[k], v) for k, v in on_rulers(design.draw, design.handle_depth).items()]
    return render(request, "designs/detail.html", context)


def _result(design: Design, shown: Units, former: Solution | None = None) -> dict[str, object]:
    found, trouble = services.try_solution(design)
    context: dict[str, object] = {"found": found, "trouble": trouble, "design": design}
    if found is None:
        return context
    steps = len(found.curve.drawn.draw)
    data = services.ruler_data(found, former)
    title = f"The bow at brace and at full draw of {shown.length(design.draw)}, where it pulls {shown.fine_weight(found.weight)}."
    return context | {
        "ruler": ruler_picture(data, shown),
        "tree": tree_picture(
            services.bents(found, (steps // 2, steps - 1)),
            [],
            found.bow.hold.pivot,
            services.handle_box(found),
            ruler_for(data),
            shown,
            title,
        ),
        "curve": curve_picture(services.curve_data(found, former), shown),
        "warnings": services.warnings(found),
        "marks": found.marks,
        "use": found.strain / found.wood.working_strain,
        "verdict": services.verdict(found.strain, found.wood),
        "string_length": float(found.curve.braced.string_length[0]),
        "stack": found.curve.stack,
        "energy": float(found.curve.energy[-1]),
    }


def edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Make or change a design."""
    if not Archer.objects.exists():
        messages.info(request, "A design is for somebody: add the archer first.")
        return redirect("workshop:archer_new")
    design = get_object_or_404(_designs(), pk=pk) if pk else Design()
    shown = units_of(request)
    if request.method == "POST":
        form = DesignForm(request.POST, shown=shown)
        if form.is_valid():
            form.fill(design)
            try:
                services.solution(design)
            except BowyeryError as error:
                form.add_error(*_beside(error, form))
            else:
                design.save()
                messages.success(request, f"{design.name} is kept.")
                return redirect("designs:detail", pk=design.pk)
        return render(request, "designs/edit.html", {"form": form, "design": design}, status=422)
    return render(request, "designs/edit.html", _edit_context(request, design, shown, pk))


def _edit_context(request: HttpRequest, design: Design, shown: Units, pk: int | None) -> dict[str, object]:
    if pk:
        form = DesignForm(shown=shown, initial=DesignForm.initial_of(design))
        return {"form": form, "design_builds": design.builds.filter(finished=None)} | _result(design, shown)
    stave = request.GET.get("stave", "")
    initial = {"marked_in": shown.world, "stave": int(stave) if stave.isdecimal() else None}
    return {"form": DesignForm(shown=shown, initial=initial), "design": design}


def _beside(error: BowyeryError, form: DesignForm) -> tuple[str | None, str]:
    """The field an error of the core belongs to, and its sentence."""
    place = getattr(error, "place", "")
    name = {"upper_fuller": "fingers", "lower_width": "width"}.get(place, place)
    if name in form.fields:
        return name, error.reason
    return None, str(error)


@require_POST
def preview(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """What the figures typed so far come to, with the kept design as a faint line."""
    design = get_object_or_404(_designs(), pk=pk) if pk else Design()
    former = services.try_solution(design)[0] if pk else None
    shown = units_of(request)
    form = DesignForm(request.POST, shown=shown)
    if not form.is_valid():
        return render(request, "designs/_result.html", {"found": None, "trouble": "", "form": form})
    form.fill(design)
    return render(request, "designs/_result.html", {"form": form} | _result(design, shown, former))


@require_GET
def bow_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The design as an open bow file."""
    design = get_object_or_404(_designs(), pk=pk)
    found, trouble = services.try_solution(design)
    if found is None:
        return HttpResponse(trouble, status=409, content_type="text/plain; charset=utf-8")
    return HttpResponse(
        bowfile.dumps(replace(found.bow, name=design.name, draw=design.draw)),
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="design-{pk}.json"'},
    )


@require_GET
def marking_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The marking table on one sheet."""
    design = get_object_or_404(_designs(), pk=pk)
    found, trouble = services.try_solution(design)
    if found is None:
        return HttpResponse(trouble, status=409, content_type="text/plain; charset=utf-8")
    content = marking_table(design.name, str(design.archer), found, units_of(request), Workshop.get().paper, design.marked_in)
    return HttpResponse(
        content,
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="marking-table-{pk}.pdf"'},
    )
