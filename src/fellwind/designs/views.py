"""Views of the design room."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.html import format_html
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError, DescriptionError
from bowyery.units.quantity import IMPERIAL, METRIC, Units
from bowyery.wood.materials import Material
from fellwind.designs import answers, arrivals, drafting, pages, papers, services, words
from fellwind.designs.forms import DesignForm, ImportForm, LengthForm
from fellwind.designs.models import Design
from fellwind.designs.services import designs
from fellwind.designs.thumbs import made_thumb
from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.once import only_answers, solves_first
from fellwind.kit.pages import number_in, refused, show
from fellwind.kit.permissions import for_writers
from fellwind.kit.versions import overtaken
from fellwind.shop.book import fibre
from fellwind.shop.models import Archer, Workshop


@dataclass(frozen=True)
class ImportPage:
    """The form of a bow file."""

    form: ImportForm


@dataclass(frozen=True)
class ChangesPart:
    """What changes would do to a design."""

    rows: Sequence[Any]
    design: Design


@dataclass(frozen=True)
class CablesPart:
    """How a back-bow's share goes with its cables' tension."""

    rows: list[answers.CableRow]
    trouble: str
    wood: Material | None


@dataclass(frozen=True)
class NearPage:
    """What could be built instead of the figures typed so far."""

    could: Sequence[answers.Instead]


@dataclass(frozen=True)
class LayoutsPage:
    """The layout families for an archer's draw."""

    rows: list[words.LayoutChoice]
    archer: Archer | None
    draw: float


@dataclass(frozen=True)
class KindsPart:
    """The layout families to choose from."""

    rows: list[words.LayoutChoice]


@dataclass(frozen=True)
class WalkPage:
    """The lay-out, one mark at a time."""

    design: Design
    trouble: str = ""
    step: words.WalkStep | None = None
    number: int = 0
    count: int = 0
    before: int | None = None
    after: int | None = None


@require_safe
@kept_page
def design_list(request: HttpRequest) -> HttpResponse:
    """Designs with their outlines."""
    return show(request, "designs/list.html", pages.design_list(request.GET, units_of(request)))


@require_safe
def thumbnail(request: HttpRequest, pk: int) -> HttpResponse:
    """What a list shows of a design that had to be solved first."""
    design = get_object_or_404(designs().prefetch_related("builds"), pk=pk)
    part = pages.ThumbPart(pages.Row(design, made_thumb(design)), "picture" in request.GET)
    return show(request, "designs/_thumb.html", part)


@require_safe
@kept_page
def detail(request: HttpRequest, pk: int) -> HttpResponse:
    """One design: ruler, tree, curve, marking table, length schools."""
    design = get_object_or_404(designs(), pk=pk)
    return show(request, "designs/detail.html", pages.detail(design, units_of(request)))


def _needs_archer(request: HttpRequest) -> HttpResponse | None:
    """Where to go first when there is nobody to design for."""
    if Archer.objects.exists():
        return None
    messages.info(request, "A design is for somebody: add the archer first.")
    return redirect("shop:archer_new")


def _of_an_older_page(request: HttpRequest, design: Design) -> HttpResponse | None:
    """Where to look first when somebody has changed a design since the button's page was shown."""
    trouble = services.stays_as_begun(design) or overtaken(design, request.POST)
    if not trouble:
        return None
    messages.error(request, trouble)
    return redirect("designs:detail", pk=design.pk)


def _solve_typed(request: HttpRequest, pk: int | None = None) -> None:
    """Solve the design that was sent; what is wrong with it the view says."""
    design = Design.objects.filter(pk=pk or 0).first() or Design()
    form = DesignForm(request.POST, shown=units_of(request))
    if form.is_valid():
        answers.solve_ahead(form.fill(design), units_of(request))


@for_writers
@solves_first(_solve_typed)
def edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Make or change a design."""
    if (first := _needs_archer(request)) is not None:
        return first
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    shown = units_of(request)
    if design.now_id is not None:  # it stands for the bows that were begun with it
        return redirect("designs:edit", pk=design.now_id)
    if request.method != "POST":
        asked = request.GET
        page = pages.edit(design, shown, asked.get("layout", ""), asked.get("stave", ""))
        return show(request, "designs/edit.html", page)
    initial = DesignForm.initial_of(design) if pk else {}
    form = DesignForm(request.POST, shown=shown, initial=initial, row=design)
    marked, before = design.bow_file, services.stands(design)
    if form.is_valid():
        try:
            filled = form.fill(design)
            others = services.changed_marks(before, filled) if marked else []
            if marked and others and "solve" not in request.POST:
                form.add_error(None, words.lets_go(others))
                page, kept = pages.edit_page(design, form), designs().get(pk=design.pk)
                page = replace(page, lets_go=pages.lets_go(kept, filled))
                return show(request, "designs/edit.html", page, 422)
            if marked and "solve" not in request.POST:
                services.keep_asked(filled, before)
            else:
                services.keep(filled)
        except DescriptionError as error:
            form.add_error(*services.beside(error, set(form.fields)))
        except BowyeryError as error:
            if design.bow_file:
                form.add_error(None, str(error))
            else:  # a draft: a build may hang on it, and it may be mended any time
                services.save(design)
                messages.warning(request, f"{design.name} is kept as a draft.")
                return redirect("designs:detail", pk=design.pk)
        else:
            messages.success(request, f"{design.name} is kept.")
            return redirect("designs:detail", pk=design.pk)
    return show(request, "designs/edit.html", pages.edit_page(design, form), 422)


@only_answers
@require_POST
def preview(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """What the figures typed so far come to, with the kept design as a faint line."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    former = services.try_solution(design)[0] if pk else None
    shown = units_of(request)
    form = DesignForm(request.POST, shown=shown, tried=True)
    if not form.is_valid():
        return show(request, "designs/_comes_to.html", pages.Result(design, form=form))
    before = services.stands(design)
    form.fill(design)
    if design.bow_file and not services.changed_marks(before, design):
        services.as_asked(design, before)
    else:
        design.bow_file = ""
    came = pages.result(design, shown, former, quick=True, below=True)
    return show(request, "designs/_comes_to.html", pages.preview(design, form, came))


@only_answers
@require_POST
def shape(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Choose a kind, drag or step a point, add or take off a row: the form as it is then."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    given = request.POST.dict()
    world = given.get("page_world")
    shown = Units(world) if world in (IMPERIAL, METRIC) else units_of(request)
    if given.get("action") == "world":
        values, said = drafting.rewritten(given, shown, units_of(request)), ""
        shown = units_of(request)
    else:
        values, said = drafting.acted(given, shown)
    form = DesignForm(shown=shown, initial=values)
    return show(request, "designs/_form.html", pages.edit_page(design, form, said=said))


@require_safe
def kinds(request: HttpRequest) -> HttpResponse:
    """The layout families to choose from, each with its pictures."""
    asked = dict(request.GET.items())
    draw = words.draw_of(asked, units_of(request))
    return show(request, "designs/_kinds.html", KindsPart(words.layout_choices(draw)))


@only_answers
@require_POST
def lengths(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Three lengths and three rulers for the figures typed so far."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    form = DesignForm(request.POST, shown=units_of(request), tried=True)
    if not form.is_valid():
        return HttpResponse("")
    try:
        part = pages.lengths(form.fill(design))
    except BowyeryError:
        return HttpResponse("")
    return show(request, "designs/_lengths.html", part)


@only_answers
@require_POST
def near(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """What could be built instead of the figures typed so far."""
    design = get_object_or_404(designs(), pk=pk) if pk else Design()
    shown = units_of(request)
    form = DesignForm(request.POST, shown=shown, tried=True)
    if not form.is_valid():
        return HttpResponse("")
    return show(request, "designs/_near.html", NearPage(answers.instead(form.fill(design), shown)))


@require_safe
def nearest_of(request: HttpRequest, pk: int) -> HttpResponse:
    """What could be built instead of a draft; nothing for what makes a bow."""
    design = get_object_or_404(designs(), pk=pk)
    draft = services.try_solution(design)[0] is None
    return HttpResponse(answers.instead_words(design, units_of(request)) if draft else "")


@require_POST
def solve_again(request: HttpRequest, pk: int) -> HttpResponse:
    """Let go of marks set by hand or by a file, and solve the design for its weight again."""
    design = get_object_or_404(designs(), pk=pk)
    if (first := _of_an_older_page(request, design)) is not None:
        return first
    try:
        services.keep(design)
    except BowyeryError as error:
        messages.error(request, f"The marks stay as they are: {error}")
    else:
        messages.success(request, f"{design.name} is solved for its weight again.")
    return redirect("designs:detail", pk=pk)


@require_POST
def reckon(request: HttpRequest, pk: int) -> HttpResponse:
    """Reckon a design by the book alone, or with what the shop has learned."""
    design = get_object_or_404(designs(), pk=pk)
    if (first := _of_an_older_page(request, design)) is not None:
        return first
    by = "book" if request.POST.get("by") == "book" else "shop"
    try:
        answers.reckon(design, by)
    except BowyeryError as error:
        messages.error(request, f"It stays as it was: {error}")
    else:
        how = "by the book alone" if by == "book" else "with what the shop has learned"
        messages.success(request, f"{design.name} is reckoned {how}.")
    return redirect("designs:detail", pk=pk)


@for_writers
def bring_in(request: HttpRequest) -> HttpResponse:
    """Make a design from a bow file."""
    if (first := _needs_archer(request)) is not None:
        return first
    form = ImportForm(request.POST or None, request.FILES or None, shown=units_of(request))
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            design = arrivals.brought_in(
                data["file"], data["name"], data["archer"], data["material"], form.value("weight")
            )
        except BowyeryError as error:
            form.add_error("file", str(error))
        else:
            design.save()
            said = f"{design.name} is on the shelf of designs, as its file marks it."
            messages.success(request, said)
            return redirect("designs:detail", pk=design.pk)
    status = refused(request.method == "POST")
    return show(request, "designs/import.html", ImportPage(form), status)


@require_safe
def changes(request: HttpRequest, pk: int) -> HttpResponse:
    """What shortening, heat, reflex or a backing would do to a design."""
    design = get_object_or_404(designs(), pk=pk)
    found, _ = services.try_solution(design)
    rows = answers.changes(design, found, units_of(request)) if found else ()
    return show(request, "designs/_changes.html", ChangesPart(rows, design))


@require_safe
def cables(request: HttpRequest, pk: int) -> HttpResponse:
    """How a back-bow's share of the bending goes with the tension of its cables."""
    design = get_object_or_404(designs(), pk=pk)
    found, trouble = services.try_solution(design)
    rows: list[answers.CableRow] = []
    try:
        rows = answers.cables(found, fibre(design.figures.fibre)) if found else []
    except BowyeryError as error:
        trouble = str(error)
    part = CablesPart(rows, trouble, found.wood if found else None)
    return show(request, "designs/_cables.html", part)


def _file(answer: papers.File | str) -> HttpResponse:
    """A file to look at or to save; a sentence where there is none."""
    if isinstance(answer, str):
        return HttpResponse(answer, status=409, content_type="text/plain; charset=utf-8")
    place = "inline" if answer.content_type == "application/pdf" else "attachment"
    headers = {"Content-Disposition": f'{place}; filename="{answer.name}"'}
    return HttpResponse(answer.content, content_type=answer.content_type, headers=headers)


@require_safe
def bow_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The design as an open bow file."""
    return _file(papers.bow_file(get_object_or_404(designs(), pk=pk)))


@require_safe
def marking_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The marking table on paper."""
    design = get_object_or_404(designs(), pk=pk)
    return _file(papers.marking_file(design, units_of(request), Workshop.get()))


@require_safe
def export(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """The bow at full size for paper or a machine, or its marks as a table."""
    design = get_object_or_404(designs(), pk=pk)
    return _file(papers.export(design, name, Workshop.get()))


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Up to four designs on one ruler and one chart."""
    numbers = (number_in(k) for k in request.GET.getlist("d"))
    keys = [k for k in numbers if k is not None][:4]
    return show(request, "designs/compare.html", pages.compare(keys, units_of(request)))


@require_safe
def sweep_view(request: HttpRequest, pk: int) -> HttpResponse:
    """Weight, strain and speed over two measures of a design."""
    design = get_object_or_404(designs(), pk=pk)
    first, second = request.GET.get("first", "length"), request.GET.get("second", "width")
    page = pages.swept(design, first, second, units_of(request))
    return show(request, "designs/sweep.html", page)


@require_safe
def layouts(request: HttpRequest) -> HttpResponse:
    """The layout families, each as proportions for an archer's draw, with its drawing."""
    archer = Archer.objects.first()
    draw = archer.draw if archer else words.USUAL_DRAW
    page = LayoutsPage(words.layout_choices(draw), archer, draw)
    return show(request, "designs/layouts.html", page)


@require_safe
def walk(request: HttpRequest, pk: int) -> HttpResponse:
    """The lay-out, one mark at a time, for three metres away."""
    design = get_object_or_404(designs(), pk=pk)
    found, trouble = services.try_solution(design)
    if found is None:
        return show(request, "designs/walk.html", WalkPage(design, trouble))
    steps = words.walk(design, found, units_of(request))
    count = len(steps)
    number = min(max(number_in(request.GET.get("step")) or 1, 1), count)
    before, after = number - 1 or None, number + 1 if number < count else None
    page = WalkPage(design, "", steps[number - 1], number, count, before, after)
    return show(request, "designs/walk.html", page)


@require_POST
def take_length(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a design the length one of the schools asks for, and what else that school changes."""
    design, school = get_object_or_404(designs(), pk=pk), request.POST.get("school", "")
    if (first := _of_an_older_page(request, design)) is not None:
        return first
    try:
        answers.take_length(design, school)
    except BowyeryError as error:
        messages.error(request, str(error))
    else:
        length = units_of(request).length(design.length)
        messages.success(request, f"{design.name} is {length} long now, as school {school} has it.")
    return redirect("designs:detail", pk=pk)


@require_POST
def solve_length(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a design as long as brings its strain or its set to what was asked."""
    design, shown = get_object_or_404(designs(), pk=pk), units_of(request)
    if (first := _of_an_older_page(request, design)) is not None:
        return first
    form = LengthForm(request.POST, shown=shown, design=design)
    if not form.is_valid():
        return show(request, "designs/detail.html", pages.detail(design, shown, form), 422)
    try:
        design.length = answers.length_to(design, form.cleaned_data["measure"], form.goal())
    except BowyeryError as error:
        messages.error(request, str(error))
    else:
        services.save(design, "length")
        messages.success(request, f"{design.name} is {shown.length(design.length)} long now.")
    return redirect("designs:detail", pk=pk)


@require_POST
def vary(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a variant: the same design once more, to be changed and compared with the first."""
    first = get_object_or_404(designs(), pk=pk)
    other = services.variant(first)
    compare_at = f"{reverse('designs:compare')}?d={pk}&d={other.pk}"
    said = '{} is made. Change it, then <a href="{}">compare the two</a>.'
    messages.success(request, format_html(said, other.name, compare_at))
    return redirect("designs:edit", pk=other.pk)
