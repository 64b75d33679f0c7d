"""Views of the tiller: the screen, its forms, and the bench view for three metres away."""

from dataclasses import dataclass
from uuid import UUID, uuid4

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.units.quantity import IMPERIAL, METRIC
from fellwind.builds import log
from fellwind.builds.forms import LineForm
from fellwind.builds.lined import LinedForm
from fellwind.builds.log import tree_of
from fellwind.builds.models import Build
from fellwind.builds.services import get_build
from fellwind.designs.services import try_solution
from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.once import written_at
from fellwind.kit.pages import number_in, show
from fellwind.kit.rooms import Act
from fellwind.people.services import who
from fellwind.tiller import hands, pages, services, today, typed
from fellwind.tiller.forms import ActForm, LeastForm, ReadingForm, RemovalForm, SeeForm


@dataclass(frozen=True)
class ActPart:
    """What a build wants next, with its picture."""

    build: Build
    act: Act


@require_safe
@kept_page
def screen(request: HttpRequest, number: int) -> HttpResponse:
    """The tiller screen."""
    upto = number_in(request.GET.get("check"))
    page = pages.screen(get_build(number), units_of(request), upto)
    return show(request, "tiller/screen.html", page)


@require_safe
def rescue(request: HttpRequest, number: int) -> HttpResponse:
    """What could still be done with a bow that is too light, side by side."""
    build = get_build(number)
    found, trouble = try_solution(build.design)
    part = pages.rescue(build, found, trouble, units_of(request))
    return show(request, "tiller/_rescue.html", part)


@require_safe
def bench_view(request: HttpRequest, number: int) -> HttpResponse:
    """Three things only, for three metres away, and where to take wood."""
    return show(request, "tiller/bench.html", pages.bench(get_build(number), units_of(request)))


@require_safe
def act(request: HttpRequest, number: int) -> HttpResponse:
    """What Today says of a bow on the tree, where that had to be reckoned first."""
    build = get_build(number)
    return show(request, "tiller/_act.html", ActPart(build, today.act(build, units_of(request))))


@require_POST
def add_reading(request: HttpRequest, number: int) -> HttpResponse:
    """A check by form."""
    build = get_build(number)
    form = ReadingForm(request.POST, shown=units_of(request), prefix="reading", tree=tree_of(build))
    return _keep(request, build, form, pages.Forms(reading=form))


@require_POST
def add_removal(request: HttpRequest, number: int) -> HttpResponse:
    """A removal by form."""
    build = get_build(number)
    tree, shown = tree_of(build), units_of(request)
    form = RemovalForm(request.POST, shown=shown, prefix="removal", in_hand=build.tool, tree=tree)
    return _keep(request, build, form, pages.Forms(removal=form))


@require_POST
def add_act(request: HttpRequest, number: int) -> HttpResponse:
    """Something else that was done to the bow, by form."""
    build = get_build(number)
    form = ActForm(request.POST, shown=units_of(request), prefix="done", tree=tree_of(build))
    return _keep(request, build, form, pages.Forms(done=form))


@require_POST
def see(request: HttpRequest, number: int) -> HttpResponse:
    """What somebody sees: a stretch or a limb that was pressed."""
    build = get_build(number)
    form = SeeForm(request.POST, shown=units_of(request), tree=tree_of(build))
    return _keep(request, build, form, pages.Forms())


def _keep(request: HttpRequest, build: Build, form: LinedForm, forms: pages.Forms) -> HttpResponse:
    shown = units_of(request)
    if form.is_valid():
        entry, new = form.keep(build, who(request), written_at(request))
        said = "Written down" if new else "That was kept already"
        messages.success(request, f"{said}: {entry.text}")
        return redirect(_back(request), number=build.number)
    if forms == pages.Forms():
        sentences = " ".join(str(one) for row in form.errors.values() for one in row)
        messages.error(request, sentences)
    page = pages.screen(build, shown, None, forms)
    return show(request, "tiller/screen.html", page, 422)


@require_POST
def add_line(request: HttpRequest, number: int) -> HttpResponse:
    """A line by one button: pulls that were given, or wood taken exactly as it was drawn."""
    build, by = get_build(number), who(request)
    world = request.POST.get("page_world")
    given = world if world in (IMPERIAL, METRIC) else by.world
    form = LineForm(request.POST.dict() | {"page_world": given}, build=build)
    if not form.is_valid():
        messages.error(request, form.trouble())
        return show(request, "tiller/screen.html", pages.screen(build, units_of(request)), 422)
    entry, _ = form.keep(by, written_at(request))
    messages.success(request, f"Written down: {entry.text}")
    return redirect(_back(request), number=number)


@require_POST
def take_tool(request: HttpRequest, number: int) -> HttpResponse:
    """Take a tool in hand; nothing: whichever suits."""
    build, name = get_build(number), request.POST.get("tool", "")
    if name and name not in {tool.name for tool in hands.shop_tools()}:
        messages.error(request, "That tool is not in the shop; add it on the Shop page.")
        return redirect(_back(request), number=number)
    build.tool = name
    build.save(update_fields=["tool"])
    return redirect(_back(request), number=number)


@require_POST
def least(request: HttpRequest, number: int) -> HttpResponse:
    """Say down to which finished weight evening may go."""
    build, shown = get_build(number), units_of(request)
    form = LeastForm(request.POST, shown=shown, wanted=build.design.weight, prefix="least")
    if not form.is_valid():
        page = pages.screen(build, shown, forms=pages.Forms(least=form))
        return show(request, "tiller/screen.html", page, 422)
    build.floor = form.value("floor")
    build.save(update_fields=["floor"])
    messages.success(request, "Kept. The advice goes by it.")
    return redirect(_back(request), number=number)


@require_POST
def half_hour(request: HttpRequest, number: int) -> HttpResponse:
    """Leave it braced for half an hour from now."""
    services.start_half_hour(get_build(number))
    messages.success(request, "The half hour runs. Nobody pulls it meanwhile.")
    return redirect(_back(request), number=number)


@require_POST
def strike(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Strike an entry out, or put back what was struck out: nothing is ever wiped away."""
    build = get_build(number)
    entry = get_object_or_404(build.entries.filter(kind="bench"), pk=pk)
    given = _uuid(request.POST.get("client_id", ""))
    is_struck = entry.corrects_id is not None and entry.text.startswith(log.STRUCK)
    act = log.put_back if is_struck else log.strike
    made, new = act(entry, who(request), given)
    if not new and made.client_id != given:
        messages.info(request, f"That entry was changed already, to: {made.text}")
    else:
        said = "It counts again" if is_struck else "It counts no more"
        messages.success(request, f"{said}: {(entry.corrects if is_struck else entry) or entry}")
    return redirect(_back(request), number=number)


def _uuid(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        return uuid4()


@require_safe
def without(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """What the advice would be without an entry."""
    build = get_build(number)
    entry = get_object_or_404(build.entries.filter(kind="bench", corrected_by=None), pk=pk)
    part = pages.without(build, entry, units_of(request))
    return show(request, "tiller/_without.html", part)


@require_safe
def strip(request: HttpRequest, number: int) -> HttpResponse:
    """Small pictures of every check."""
    part = pages.strip(get_build(number), units_of(request))
    return show(request, "tiller/_strip.html", part)


@require_safe
def compare(request: HttpRequest, number: int) -> HttpResponse:
    """Two checks on the ruler."""
    first, second = (number_in(request.GET.get(key)) for key in ("first", "second"))
    page = pages.compare(get_build(number), first, second, units_of(request))
    return show(request, "tiller/compare.html", page)


@require_safe
def place(request: HttpRequest, number: int) -> HttpResponse:
    """Where on the picture a place is that is being typed: the field's name and its text."""
    build = get_build(number)
    found, _ = try_solution(build.design)
    x = None
    if found is not None:
        name, text = (request.GET.get(key, "")[:300] for key in ("name", "text"))
        x = typed.where_typed(build, found, name, text, units_of(request).world)
    return JsonResponse({"x": x})


def _back(request: HttpRequest) -> str:
    return "tiller:bench" if request.POST.get("then") == "bench" else "tiller:screen"
