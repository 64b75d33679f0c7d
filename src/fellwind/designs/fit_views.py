"""Views of bows laid into staves."""

from dataclasses import dataclass

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_safe

from fellwind.designs import fitting
from fellwind.designs.fitting import Culm, DesignScore, Laid, StaveScore
from fellwind.designs.models import Design
from fellwind.designs.services import designs, present
from fellwind.kit.context import units_of
from fellwind.kit.pages import number_in, show
from fellwind.rack.models import Stave


@dataclass(frozen=True)
class FitPage:
    """A design laid into a stave at its best places, with reasons."""

    stave: Stave
    designs: QuerySet[Design]
    design: Design | None
    built_up: bool
    trouble: str = ""
    rows: tuple[Laid, ...] = ()
    strip: str = ""
    sound: bool = False
    instead: str = ""
    culm: Culm | None = None


@dataclass(frozen=True)
class StavesPart:
    """Which staves will make a bow."""

    rows: list[StaveScore]
    design: Design
    trouble: str


@dataclass(frozen=True)
class DesignsPart:
    """Which designs a stave will make."""

    rows: list[DesignScore]
    stave: Stave


def _stave(number: int) -> Stave:
    return get_object_or_404(Stave.objects.prefetch_related("flaws", "sections"), number=number)


@require_safe
def fit(request: HttpRequest, number: int) -> HttpResponse:
    """Where a design may lie in a stave."""
    stave, key = _stave(number), number_in(request.GET.get("design"))
    chosen = designs().filter(pk=key) if key is not None else designs().filter(stave=stave)
    design = chosen.first()
    answer = fitting.laid(stave, design, units_of(request)) if design else fitting.Answer()
    culm = fitting.culm(stave, design, units_of(request)) if design else None
    built_up = fitting.is_built_up(stave)
    page = FitPage(stave, present(), design, built_up, **vars(answer), culm=culm)
    return show(request, "fit/stave.html", page)


@require_safe
def which(request: HttpRequest, pk: int) -> HttpResponse:
    """Which staves will make this bow: each with its best place."""
    design = get_object_or_404(designs(), pk=pk)
    rows, trouble = fitting.staves_for(design)
    return show(request, "fit/_staves.html", StavesPart(rows, design, trouble))


@require_safe
def fits(request: HttpRequest, number: int) -> HttpResponse:
    """Which designs a stave will make: those with a sound place in it, best first."""
    stave = _stave(number)
    return show(request, "fit/_designs.html", DesignsPart(fitting.designs_for(stave), stave))
