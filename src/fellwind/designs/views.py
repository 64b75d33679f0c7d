"""Views of the design room."""

from dataclasses import replace

import numpy as np
from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape, format_html
from django.views.decorators.http import require_GET, require_POST

from bowyery import bowfile
from bowyery.design import Solution
from bowyery.dynamics import DAMPING
from bowyery.errors import BowyeryError, DesignError
from bowyery.layout import LAYOUTS
from bowyery.sweep import best_of
from bowyery.units import INCH
from fellwind.designs import services, words
from fellwind.designs.forms import DesignForm, ImportForm, LengthForm
from fellwind.designs.models import Design
from fellwind.drawing.compare import LETTERS, MapData, curves, outlines, sweep_map
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import Handle, ruler_for, ruler_picture, small_outline
from fellwind.drawing.tree import tree_picture
from fellwind.exports import template
from fellwind.exports.marking import marking_table
from fellwind.workshop.context import units_of
from fellwind.workshop.measures import RULER_WORDS, Units, on_rulers
from fellwind.workshop.models import Archer, Workshop
from fellwind.workshop.once import only_answers


def designs() -> QuerySet[Design]:
    return Design.objects.select_related("archer", "stave")


@require_GET
def design_list(request: HttpRequest) -> HttpResponse:
    """All designs with their outlines."""
    rows = []
    for design in designs().prefetch_related("builds")[:100]:
        found, trouble = services.try_solution(design)
        picture = small_outline(services.ruler_data(found)) if found else ""
        rows.append({"design": design, "picture": picture, "found": found, "trouble": trouble})
    return render(request, "designs/list.html", {"rows": rows, "archers": Archer.objects.exists()})


@require_GET
def detail(request: HttpRequest, pk: int) -> HttpResponse:
    """One design: ruler, tree, curve, marking table, length schools."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    context = {"design": design, "length_form": LengthForm(shown=shown, design=design)} | _detail(design, shown)
    return render(request, "designs/detail.html", context)


def _detail(design: Design, shown: Units) -> dict[str, object]:
    context = _result(design, shown)
    if context["found"]:
        if not design.bow_file and not design.second_length:
            context["schools"] = services.schools(design)
        context["glue"] = services.glue_rows(context["found"])
        context["rulers"] = [(RULER_WORDS[k], v) for k, v in on_rulers(design.draw, design.handle_depth).items()]
    return context


def _result(design: Design, shown: Units, former: Solution | None = None, quick: bool = False) -> dict[str, object]:
    found, trouble = services.try_solution(design, keep=not quick)
    context: dict[str, object] = {"found": found, "trouble": trouble, "design": design}
    return context if found is None else context | shown_of(design, found, shown, former, quick)


def shown_of(
    design: Design, found: Solution, shown: Units, former: Solution | None, quick: bool, handles: tuple[Handle, ...] = ()
) -> dict[str, object]:
    """What the result part of a page shows of a solved design."""
    steps, damping = len(found.curve.drawn.draw), services.damping_of(design)
    data = services.ruler_data(found, former)
    title = f"The bow at brace and at full draw of {shown.length(design.draw)}, where it pulls {shown.fine_weight(found.weight)}."
    return {
        "ruler": ruler_picture(data, shown, handles),
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
        "warnings": words.warnings(found, design, shown),
        "marks": found.marks,
        "use": found.use,
        "layered": len(found.bow.upper.layers) > 1,
        "verdict": words.verdict(found.use, found.rupture_use),
        "dries": words.wood_dries(found),
        "string_length": float(found.curve.braced.string_length[0]),
        "stack": found.curve.stack,
        "energy": float(found.curve.energy[-1]),
        "loosed": services.loosed(design, found, damping, quick),
        "quick": quick,
        "measured": damping != DAMPING,
        "former": former,
        "former_energy": float(former.curve.energy[-1]) if former else None,
    }


def edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Make or change a design."""
    if not Archer.objects.exists():
        messages.info(request, "A design is for somebody: add the archer first.")
        return redirect("workshop:archer_new")
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    shown = units_of(request)
    if request.method == "POST":
        form = DesignForm(request.POST, shown=shown)
        if form.is_valid():
            form.fill(design)
            design.bow_file = ""  # from here on the marks are solved for again
            try:
                services.solution(design)
            except BowyeryError as error:
                form.add_error(*_beside(error, form))
                if isinstance(error, DesignError):
                    form.add_error(None, services.instead(design, shown))
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
    make = LAYOUTS.get(request.GET.get("layout", ""))
    if make is not None:
        archer = Archer.objects.first()
        initial |= words.layout_initial(make(archer.draw if archer else USUAL_DRAW))
    return {"form": DesignForm(shown=shown, initial=initial), "design": design}


def _beside(error: BowyeryError, form: DesignForm) -> tuple[str | None, str]:
    """The field an error of the core belongs to, and its sentence."""
    place = getattr(error, "place", "")
    name = {
        "upper_fuller": "fingers", "lower_width": "width", "second.length": "second_length", "second.width": "second_width",
        "second.tip_width": "second_tip", "second.depth": "second_root", "second.tied": "second_tied",
        "second.tension": "cable_tension", "section.radius_mm": "section_radius", "section.wall": "tube_wall",
    }.get(place, place)  # fmt: skip
    if name in form.fields:
        return name, error.reason
    return None, str(error)


@only_answers
@require_POST
def preview(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """What the figures typed so far come to, with the kept design as a faint line."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    former = services.try_solution(design)[0] if pk else None
    shown = units_of(request)
    form = DesignForm(request.POST, shown=shown, tried=True)
    if not form.is_valid():
        return render(request, "designs/_result.html", {"found": None, "trouble": "", "form": form})
    form.fill(design)
    design.bow_file = ""
    return render(request, "designs/_result.html", {"form": form} | _result(design, shown, former, quick=True))


@only_answers
@require_POST
def near(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """What could be built instead of the figures typed so far."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    shown = units_of(request)
    form = DesignForm(request.POST, shown=shown, tried=True)
    if not form.is_valid():
        return HttpResponse("")
    return HttpResponse(escape(services.instead(form.fill(design), shown)))


@require_POST
def solve_again(request: HttpRequest, pk: int) -> HttpResponse:
    """Let go of marks set by hand or by a file, and solve the design for its weight again."""
    design = get_object_or_404(designs(), pk=pk)
    design.bow_file = ""
    try:
        services.solution(design)
    except BowyeryError as error:
        messages.error(request, f"The marks stay as they are: {error}")
    else:
        design.save(update_fields=["bow_file"])
        messages.success(request, f"{design.name} is solved for its weight again.")
    return redirect("designs:detail", pk=pk)


def bring_in(request: HttpRequest) -> HttpResponse:
    """Make a design from a bow file."""
    if not Archer.objects.exists():
        messages.info(request, "A design is for somebody: add the archer first.")
        return redirect("workshop:archer_new")
    shown = units_of(request)
    form = ImportForm(request.POST or None, request.FILES or None, shown=shown)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            design = services.brought_in(data["file"], data["name"], data["archer"], data["material"])
        except BowyeryError as error:
            form.add_error("file", str(error))
        else:
            design.save()
            messages.success(request, f"{design.name} is on the shelf of designs, as its file marks it.")
            return redirect("designs:detail", pk=design.pk)
    return render(request, "designs/import.html", {"form": form}, status=422 if request.method == "POST" else 200)


@require_GET
def changes(request: HttpRequest, pk: int) -> HttpResponse:
    """What shortening, heat, reflex or a backing would do to a design."""
    design = get_object_or_404(designs(), pk=pk)
    found, _ = services.try_solution(design)
    rows = services.changes(design, found, units_of(request)) if found else ()
    return render(request, "designs/_changes.html", {"rows": rows, "design": design})


@require_GET
def cables(request: HttpRequest, pk: int) -> HttpResponse:
    """How a back-bow's share of the bending goes with the tension of its cables."""
    found, trouble = services.try_solution(get_object_or_404(designs(), pk=pk))
    try:
        rows = services.cables(found) if found else []
    except BowyeryError as error:
        rows, trouble = [], str(error)
    back = found.bow.back_bow if found else None
    tension = back.cable_tension if back else 0.0
    context = {"rows": rows, "trouble": trouble, "now": tension, "wood": found and found.wood}
    return render(request, "designs/_cables.html", context)


@require_GET
def bow_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The design as an open bow file."""
    design = get_object_or_404(designs(), pk=pk)
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
    design = get_object_or_404(designs(), pk=pk)
    found, trouble = services.try_solution(design)
    if found is None:
        return HttpResponse(trouble, status=409, content_type="text/plain; charset=utf-8")
    content = marking_table(
        design.name,
        str(design.archer),
        found,
        units_of(request),
        Workshop.get().paper,
        design.marked_in,
        design.fade_shape,
    )
    return HttpResponse(
        content,
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="marking-table-{pk}.pdf"'},
    )


TEMPLATE_TYPES = {"pdf": "application/pdf", "dxf": "image/vnd.dxf", "svg": "image/svg+xml", "csv": "text/csv; charset=utf-8"}


@require_GET
def template_file(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """The bow at full size for paper or a machine, or its marks as a table."""
    design = get_object_or_404(designs(), pk=pk)
    found, trouble = services.try_solution(design)
    if found is None:
        return HttpResponse(trouble, status=409, content_type="text/plain; charset=utf-8")
    shape = template.template_of(found, design.marked_in, design.fade_shape)
    content: bytes | str
    if kind == "pdf":
        content = template.template_pdf(shape, design.name, str(design.archer), Workshop.get().paper)
    elif kind == "dxf":
        content = template.dxf(shape, design.name)
    elif kind == "svg":
        content = template.svg(shape, design.name)
    else:
        content = template.marks_csv(found)
    place = "inline" if kind == "pdf" else "attachment"
    return HttpResponse(
        content,
        content_type=TEMPLATE_TYPES[kind],
        headers={"Content-Disposition": f'{place}; filename="design-{pk}.{kind}"'},
    )


@require_GET
def compare(request: HttpRequest) -> HttpResponse:
    """Up to four designs on one ruler and one chart."""
    shown = units_of(request)
    keys = [int(k) for k in request.GET.getlist("d") if k.isdecimal() and len(k) < 10][:4]
    known = {d.pk: d for d in designs().filter(pk__in=keys)}
    rows, troubles = [], []
    for pk in dict.fromkeys(k for k in keys if k in known):
        found, trouble = services.try_solution(known[pk])
        if found is None:
            troubles.append(f"{known[pk].name}: {trouble}")
            continue
        shot = services.loosed(known[pk], found, services.damping_of(known[pk]))
        verdict = words.verdict(found.use, found.rupture_use)
        rows.append({"design": known[pk], "found": found, "loosed": shot, "letter": LETTERS[len(rows)], "verdict": verdict,
                     "energy": float(found.curve.energy[-1]), "string": float(found.curve.braced.string_length[0])})  # fmt: skip
    context: dict[str, object] = {"rows": rows, "troubles": troubles, "designs": designs(), "chosen": keys}
    if rows:
        context["outlines"] = outlines([services.ruler_data(r["found"]) for r in rows], shown)
        drawn = [r["found"].curve.drawn for r in rows]
        context["curves"] = curves([(d.draw, d.weight) for d in drawn], shown)
    return render(request, "designs/compare.html", context)


@require_GET
def sweep_view(request: HttpRequest, pk: int) -> HttpResponse:
    """Weight, strain and speed over two measures of a design."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    context: dict[str, object] = {"design": design, "trouble": trouble}
    if found is not None and found.shared is not None:
        context["trouble"] = "A bow with a back-bow is not swept; make variants of it and compare them."
    elif found is not None:
        choice = services.axes(design, found)
        first, second = request.GET.get("first", "length"), request.GET.get("second", "width")
        if second == "wood":  # names stand beside the map, not under it
            first, second = second, first
        context |= {"measures": list(choice), "first": first, "second": second}
        if first not in choice or second not in choice or first == second:
            context["trouble"] = "Choose two different measures to sweep."
        else:
            try:
                context |= _swept(design, found, choice[first], choice[second], shown)
            except BowyeryError as error:
                context["trouble"] = str(error)
    return render(request, "designs/sweep.html", context)


def _swept(design: Design, found: Solution, first: services.Axis, second: services.Axis, shown: Units) -> dict[str, object]:
    answer = services.swept(design, found, first.name, second.name)
    ends = [(a.name, a.words(float(a.values[0]), shown), a.words(float(a.values[-1]), shown)) for a in (first, second)]
    now = [int(np.abs(a.values - a.now).argmin()) for a in (first, second)]
    names = tuple(first.words(float(k), shown) for k in first.values) if first.name == "wood" else ()
    best = best_of(answer, design.weight)
    maps = [
        sweep_map(MapData(title, values, write, ends[0], ends[1], (now[0], now[1]), best, names))
        for title, values, write in (
            (f"Weight, {'lb' if shown.imperial else 'kg'}", answer.weight, lambda v: shown.weight(v).split()[0]),
            ("Use of what lasts, %", answer.use, lambda v: f"{v * 100:.0f}"),
            (f"Arrow speed, about, {'fps' if shown.imperial else 'm/s'}", answer.speed, lambda v: shown.speed(v).split()[0]),
        )
    ]
    context: dict[str, object] = {"maps": maps, "count": answer.weight.size}
    if best is not None:
        at = [a.words(float(a.values[k]), shown) for a, k in zip((first, second), best, strict=True)]
        context["best"] = {
            "where": f"{first.name} {at[0]} and {second.name} {at[1]}", "weight": float(answer.weight[best]),
            "use": float(answer.use[best]), "speed": float(answer.speed[best]),
        }  # fmt: skip
    return context


USUAL_DRAW = 28 * INCH


@require_GET
def layouts(request: HttpRequest) -> HttpResponse:
    """The layout families, each as proportions for the newest archer's draw, with its drawing."""
    archer = Archer.objects.first()
    draw = archer.draw if archer else USUAL_DRAW
    return render(request, "designs/layouts.html", {"rows": words.layout_choices(draw), "archer": archer, "draw": draw})


@require_GET
def walk(request: HttpRequest, pk: int) -> HttpResponse:
    """The lay-out, one mark at a time, for three metres away."""
    design = get_object_or_404(designs(), pk=pk)
    found, trouble = services.try_solution(design)
    context: dict[str, object] = {"design": design, "trouble": trouble}
    if found is not None:
        steps = words.walk(design, found, units_of(request))
        key = request.GET.get("step", "1")
        number = min(max(int(key), 1), len(steps)) if key.isdecimal() and len(key) < 6 else 1
        context |= {"step": steps[number - 1], "number": number, "count": len(steps)}
        context |= {"before": number - 1 or None, "after": number + 1 if number < len(steps) else None}
    return render(request, "designs/walk.html", context)


@require_POST
def take_length(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a design the length one of the schools asks for, and what else that school changes."""
    design = get_object_or_404(designs(), pk=pk)
    try:
        row = next((r for r in services.schools(design) if r.school == request.POST.get("school")), None)
    except BowyeryError as error:
        messages.error(request, str(error))
        return redirect("designs:detail", pk=pk)
    if row is None or row.answer.trouble:
        messages.error(request, row.answer.trouble if row else "Choose school A, B or C.")
        return redirect("designs:detail", pk=pk)
    layout = row.answer.layout
    design.length, design.handle, design.fade, design.width = layout.length, layout.handle, layout.fade, layout.width
    design.save(update_fields=["length", "handle", "fade", "width"])
    messages.success(
        request, f"{design.name} is {units_of(request).length(design.length)} long now, as school {row.school} has it."
    )
    return redirect("designs:detail", pk=pk)


@require_POST
def solve_length(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a design as long as brings its strain or its set to what was asked."""
    design = get_object_or_404(designs(), pk=pk)
    form = LengthForm(request.POST, shown=units_of(request), design=design)
    if not form.is_valid():
        context = {"design": design, "length_form": form} | _detail(design, units_of(request))
        return render(request, "designs/detail.html", context, status=422)
    try:
        length = services.length_to(design, form.cleaned_data["measure"], form.goal())
    except BowyeryError as error:
        messages.error(request, str(error))
    else:
        design.length = length
        design.save(update_fields=["length"])
        messages.success(request, f"{design.name} is {units_of(request).length(length)} long now.")
    return redirect("designs:detail", pk=pk)


@require_POST
def vary(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a variant: the same design once more, to be changed and compared with the first."""
    design = get_object_or_404(designs(), pk=pk)
    first = design.pk
    count = Design.objects.filter(name__startswith=design.name[:60]).count()
    design.pk, design._state.adding = None, True
    design.name, design.made = f"{design.name[:60]}, variant {count}", timezone.now()
    design.save()
    compare_at = f"{reverse('designs:compare')}?d={first}&d={design.pk}"
    link = format_html('{} is made. Change it, then <a href="{}">compare the two</a>.', design.name, compare_at)
    messages.success(request, link)
    return redirect("designs:edit", pk=design.pk)
