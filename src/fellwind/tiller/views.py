"""Views of the tiller: the screen, its forms, and the bench view for three metres away."""

from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import UnreadableError
from bowyery.units.quantity import IMPERIAL, METRIC
from fellwind.builds import log
from fellwind.builds.forms import LineForm
from fellwind.builds.models import Build
from fellwind.builds.services import get_build
from fellwind.designs.services import try_solution
from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.once import written_at
from fellwind.kit.pages import number_in, show
from fellwind.kit.rooms import Act
from fellwind.people.services import who
from fellwind.tiller import pages, today
from fellwind.tiller.forms import ReadingForm, RemovalForm


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
    form = ReadingForm(request.POST, shown=units_of(request), prefix="reading")
    return _keep(request, number, form)


@require_POST
def add_removal(request: HttpRequest, number: int) -> HttpResponse:
    """A removal by form."""
    form = RemovalForm(request.POST, shown=units_of(request), prefix="removal")
    return _keep(request, number, form)


def _keep(request: HttpRequest, number: int, form: ReadingForm | RemovalForm) -> HttpResponse:
    build, shown = get_build(number), units_of(request)
    if form.is_valid():
        data = form.cleaned_data
        given = data["page_world"] or shown.world
        world = METRIC if given == METRIC else IMPERIAL
        try:
            statements = log.read_line(build, form.line(), world)
        except UnreadableError as error:
            form.add_error(None, str(error))
        else:
            by = who(request)
            entry, new = log.keep(
                build,
                form.line(),
                statements,
                world,
                by,
                data["client_id"],
                at=written_at(request),
            )
            said = "Written down" if new else "That was kept already"
            messages.success(request, f"{said}: {entry.text}")
            return redirect(_back(request), number=number)
    reading = form if isinstance(form, ReadingForm) else None
    removal = form if isinstance(form, RemovalForm) else None
    page = pages.screen(build, shown, None, reading, removal)
    return show(request, "tiller/screen.html", page, 422)


@require_POST
def add_pulls(request: HttpRequest, number: int) -> HttpResponse:
    """Twenty-five short pulls, by one button."""
    build, by = get_build(number), who(request)
    form = LineForm(request.POST.dict() | {"page_world": by.world}, build=build)
    if not form.is_valid():
        messages.error(request, form.trouble())
        return show(request, "tiller/screen.html", pages.screen(build, units_of(request)), 422)
    entry, _ = form.keep(by, written_at(request))
    messages.success(request, f"Written down: {entry.text}")
    return redirect(_back(request), number=number)


def _back(request: HttpRequest) -> str:
    return "tiller:bench" if request.POST.get("then") == "bench" else "tiller:screen"
