"""Views of the wood rack."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from uuid import uuid4

from django.contrib import messages
from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from bowyery.wood.materials import Material
from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.once import only_answers
from fellwind.kit.pages import refused, show
from fellwind.kit.paging import Paged, Ways, paged
from fellwind.kit.photos import photo_answer
from fellwind.people.services import who
from fellwind.rack import flaws, services
from fellwind.rack.forms import FlawForm, PhotoForm, SectionForm, StaveForm, StripForm, WeighingForm
from fellwind.rack.maps import FlawMap, may_write_here, the_map
from fellwind.rack.models import Flaw, Photo, Stave, StripTest
from fellwind.rack.services import Seasoning
from fellwind.shop.models import Workshop


@dataclass(frozen=True)
class StaveRow:
    """A stave in the rack's list."""

    stave: Stave
    seasoning: Seasoning
    picture: str


@dataclass(frozen=True)
class ListPage:
    """A page of the rack."""

    rows: list[StaveRow]
    paged: Paged


@dataclass(frozen=True, kw_only=True)
class DetailPage(FlawMap):
    """One stave with everything that is known of it."""

    wood: Material
    seasoning: Seasoning
    drying: str
    form: WeighingForm
    correcting: object
    strips: Iterable[StripTest]
    photos: QuerySet[Photo]
    photo_form: PhotoForm


@dataclass(frozen=True)
class EditPage:
    """The form of a stave."""

    form: StaveForm
    stave: Stave


@dataclass(frozen=True)
class QuestionsPart:
    """The questions a kind of stock is asked."""

    form: StaveForm


@dataclass(frozen=True)
class FlawFormPart:
    """The form of a flaw: the one that is changed, or a new one."""

    flaw_form: FlawForm
    stave: Stave
    editing: Flaw | None


@dataclass(frozen=True)
class PhotoPage:
    """The form of a photograph that was refused."""

    photo_form: PhotoForm
    stave: Stave


WAYS = Ways(
    {"newest": "-number", "wood": "material", "longest": "-length", "thickest": "-depth"},
    {"wood": "material", "kind": "kind", "archer": "designs__archer__name"},
    {
        "state": {
            "free": Q(builds=None, designs=None),
            "planned": Q(builds=None, designs__isnull=False),
            "in work": Q(builds__isnull=False, builds__finished=None),
            "used up": Q(builds__finished__isnull=False),
        }
    },
)


@require_safe
@kept_page
def stave_list(request: HttpRequest) -> HttpResponse:
    """The rack."""
    workshop = Workshop.get()
    found = paged(services.staves(), request.GET, ("material", "kind", "source"), "number", WAYS)
    rows = [
        StaveRow(stave, services.seasoning(stave, workshop), services.small_picture(stave))
        for stave in found.rows
    ]
    return show(request, "rack/list.html", ListPage(rows, found))


def detail(request: HttpRequest, number: int) -> HttpResponse:
    """One stave, with its weighings and a form for the next."""
    stave = get_object_or_404(services.staves(), number=number)
    shown = units_of(request)
    initial = {"client_id": uuid4()} | services.correcting(stave, request.GET.get("correct"))
    form = WeighingForm(request.POST or None, shown=shown, stave=stave, initial=initial)
    if request.method == "POST" and form.is_valid():
        new = services.keep_weighing(stave, form, who(request))
        messages.success(request, "It is kept." if new else "That was kept already.")
        return redirect("rack:detail", number=number)
    found = services.seasoning(stave, Workshop.get())
    part = the_map(stave, shown, may_write_here(request))
    page = DetailPage(
        **vars(part),
        wood=services.own_wood(stave),
        seasoning=found,
        drying=services.drying_curve(found),
        form=form,
        correcting=form["corrects"].value(),
        strips=stave.strip_tests.all()[:5],
        photos=stave.photos.filter(gone=False),
        photo_form=PhotoForm(shown=shown, stave=stave),
    )
    return show(request, "rack/detail.html", page, refused(form.errors))


def edit(request: HttpRequest, number: int | None = None) -> HttpResponse:
    """Add or change a stave."""
    stave = get_object_or_404(Stave, number=number) if number else Stave()
    initial = StaveForm.initial_of(stave) if number else {}
    form = StaveForm(request.POST or None, shown=units_of(request), initial=initial, row=stave)
    if request.method == "POST" and form.is_valid():
        services.keep_stave(stave, form)
        messages.success(request, f"Stave {stave.number} is kept.")
        return redirect("rack:detail", number=stave.number)
    return show(request, "rack/edit.html", EditPage(form, stave), refused(form.errors))


@only_answers
@require_POST
def questions(request: HttpRequest) -> HttpResponse:
    """The form of a stave anew for the kind that was chosen, with all that was typed."""
    typed = {name: v for name, v in request.POST.items() if name in StaveForm.base_fields}
    form = StaveForm(shown=units_of(request), initial=typed, auto_id="id_%s")
    form.typed = True
    return show(request, "rack/_questions.html", QuestionsPart(form))


def _stave(number: int) -> Stave:
    return get_object_or_404(Stave.objects.prefetch_related("flaws", "sections"), number=number)


def _answer(request: HttpRequest, number: int, status: int = 200, **more: object) -> HttpResponse:
    """The map anew for htmx, the whole page for a plain form."""
    if not request.headers.get("HX-Request") and status == 200:
        if said := more.get("said"):
            messages.error(request, str(said))
        return redirect("rack:detail", number=number)
    part = the_map(_stave(number), units_of(request), may_write_here(request))
    part = replace(part, **more)  # type: ignore[arg-type]
    if request.headers.get("HX-Request"):
        return show(request, "rack/_flaws.html", part)
    messages.error(request, "That was not kept; see the field.")
    return show(request, "rack/flaws_alone.html", part, status)


@require_safe
def flaw_form(request: HttpRequest, number: int) -> HttpResponse:
    """The form of a flaw: one that is there, or a new one at a point of the picture."""
    stave, key = _stave(number), request.GET.get("flaw", "")
    flaw = next((f for f in services.standing_flaws(stave) if str(f.pk) == key), None)
    if flaw is not None:
        initial = FlawForm.initial_of(flaw)
    else:
        initial = flaws.place_at(stave, request.GET.get("x", ""), request.GET.get("y", ""))
    form = FlawForm(shown=units_of(request), stave=stave, initial=initial)
    return show(request, "rack/_flaw_form.html", FlawFormPart(form, stave, flaw))


@require_POST
def flaw_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Note a flaw, or change one."""
    form = FlawForm(request.POST, shown=units_of(request), stave=_stave(number))
    if not form.is_valid():
        editing = form.cleaned_data.get("flaw")
        return _answer(request, number, 422, flaw_form=form, editing=editing)
    flaws.keep(form.row(who(request)), form.cleaned_data["flaw"])
    return _answer(request, number)


@require_POST
def flaw_move(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Move a flaw by a distance on the picture or by a step, or make it larger or smaller."""
    old, trouble = flaws.standing(_stave(number), pk)
    if old is None:
        return _answer(request, number, said=trouble)
    new = flaws.move(old, request.POST, units_of(request), who(request))
    return _answer(request, number, moved=(pk, new.pk) if new else None)


@require_POST
def flaw_drop(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Strike a flaw that was cut away or noted by mistake."""
    flaw, trouble = flaws.standing(_stave(number), pk)
    if flaw is None:
        return _answer(request, number, said=trouble)
    flaw.gone = True
    flaw.save(update_fields=["gone"])
    return _answer(request, number)


@require_POST
def section_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Write down what was measured across the stave at a place."""
    form = SectionForm(request.POST, shown=units_of(request), stave=_stave(number))
    if not form.is_valid():
        return _answer(request, number, 422, section_form=form)
    flaws.keep_section(form.row(who(request)))
    return _answer(request, number)


@require_POST
def strip_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a bend test; its modulus and density become the stave's own."""
    stave, shown = _stave(number), units_of(request)
    form = StripForm(request.POST, shown=shown)
    if form.is_valid():
        try:
            found = services.keep_strip(form.row(stave, who(request)))
        except BowyeryError as error:
            place = getattr(error, "place", "")
            form.add_error(
                place if place in form.fields else None, getattr(error, "reason", str(error))
            )
        else:
            messages.success(request, services.strip_words(found, shown))
            return redirect("rack:detail", number=number)
    part = replace(the_map(stave, shown, may_write_here(request)), strip_form=form)
    return show(request, "rack/flaws_alone.html", part, 422)


@require_POST
def photo_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photograph of a stave."""
    stave = _stave(number)
    form = PhotoForm(request.POST, request.FILES, shown=units_of(request), stave=stave)
    if form.is_valid():
        form.keep(who(request))
        messages.success(request, "The photograph is kept.")
        return redirect("rack:detail", number=number)
    return show(request, "rack/photo_alone.html", PhotoPage(form, stave), 422)


@require_safe
def photo(request: HttpRequest, pk: int, ending: str = "") -> FileResponse:
    """The picture itself, or its small copy."""
    return photo_answer(get_object_or_404(Photo, pk=pk).name, ending)


@require_POST
def photo_drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a photograph off the page; its row and its file stay."""
    with transaction.atomic():
        row = get_object_or_404(Photo.objects.select_related("stave"), pk=pk)
        row.gone = True
        row.save(update_fields=["gone"])
    messages.success(request, "The photograph is off the page.")
    return redirect("rack:detail", number=row.stave.number)
