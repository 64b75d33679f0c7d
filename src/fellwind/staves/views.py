"""Views of the wood rack."""

from uuid import uuid4

import numpy as np
from django.contrib import messages
from django.db import transaction
from django.db.models import Max, Prefetch, QuerySet
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from bowyery import materials
from bowyery.errors import BowyeryError
from bowyery.stave import run_out
from bowyery.units import INCH
from fellwind.designs.models import Design
from fellwind.designs.services import try_solution
from fellwind.drawing.stave import drying_picture, fit_strip, flaw_map, placement_picture, ruler_of, small_stave
from fellwind.staves.forms import FlawForm, PhotoForm, SectionForm, StaveForm, StripForm, WeighingForm
from fellwind.staves.models import Flaw, Photo, Stave, Weighing
from fellwind.staves.services import (
    BUILT_UP,
    WORKABLE,
    Seasoning,
    advice_of,
    core_stave,
    fitted,
    instead,
    own_figures,
    reasons,
    seasoning,
    standing_flaws,
)
from fellwind.workshop.context import units_of
from fellwind.workshop.measures import Units
from fellwind.workshop.models import Workshop
from fellwind.workshop.once import only_answers
from fellwind.workshop.photos import photo_path


def staves() -> QuerySet[Stave]:
    """Staves with what their pages read."""
    weighings = Weighing.objects.select_related("corrected_by", "by")
    return Stave.objects.prefetch_related(Prefetch("weighings", weighings), "designs", "builds", "flaws", "sections")


@require_GET
def stave_list(request: HttpRequest) -> HttpResponse:
    """The rack."""
    workshop = Workshop.get()
    rows = [{"stave": stave, "seasoning": seasoning(stave, workshop), "picture": _small(stave)} for stave in staves()[:200]]
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
    found = seasoning(stave, Workshop.get())
    context = {
        "stave": stave,
        "wood": materials.material(stave.material),
        "seasoning": found,
        "drying": _drying(found),
        "form": form,
        "correcting": form["corrects"].value(),
        "strips": stave.strip_tests.all()[:5],
        "photos": stave.photos.filter(gone=False),
        "photo_form": PhotoForm(shown=units_of(request), stave=stave),
    } | _map(stave, request)
    return render(request, "staves/detail.html", context, status=422 if form.errors else 200)


def _drying(found: Seasoning) -> str:
    if found.forecast is None:
        return ""
    one, first = found.forecast, found.weighings[0].day
    weighed = [(float((w.day - first).days), w.mass / one.dry_mass - 1) for w in found.weighings if w.mass and one.dry_mass]
    read = [(float((w.day - first).days), w.meter) for w in found.weighings if w.meter]
    wanted = max(WORKABLE, found.balance + 0.005)
    return drying_picture(one.curve_days, one.curve, one.low, one.high, weighed, read, wanted, found.balance)


def _correcting(request: HttpRequest, stave: Stave) -> dict[str, object]:
    pk = request.GET.get("correct", "")
    wrong = stave.weighings.filter(corrected_by=None, pk=pk).first() if pk.isdecimal() else None
    return {"corrects": wrong.pk, "mass": wrong.mass, "meter": wrong.meter, "day": wrong.day} if wrong else {}


def _keep_weighing(request: HttpRequest, stave: Stave, form: WeighingForm) -> None:
    data = form.cleaned_data
    with transaction.atomic():
        _, new = Weighing.objects.get_or_create(
            client_id=data["client_id"],
            defaults={
                "stave": stave,
                "day": data["day"],
                "mass": form.value("mass"),
                "text": form.text("mass"),
                "meter": form.value("meter"),
                "meter_text": form.text("meter"),
                "by": request.user,
                "corrects": data["corrects"],
            },
        )
    messages.success(request, "It is kept." if new else "That was kept already.")


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


@only_answers
@require_POST
def questions(request: HttpRequest) -> HttpResponse:
    """The form of a stave anew for the kind that was chosen, with all that was typed."""
    typed = {name: value for name, value in request.POST.items() if name in StaveForm.base_fields}
    form = StaveForm(shown=units_of(request), initial=typed, auto_id="id_%s")
    form.typed = True
    return render(request, "staves/_questions.html", {"form": form})


def _small(stave: Stave) -> str:
    try:
        return small_stave(core_stave(stave))
    except BowyeryError:
        return ""


def _stave(number: int) -> Stave:
    return get_object_or_404(Stave.objects.prefetch_related("flaws", "sections"), number=number)


def _map(stave: Stave, request: HttpRequest, **more: object) -> dict[str, object]:
    """The flaw map with its list and the form for the next flaw."""
    shown, number = units_of(request), stave.number
    context: dict[str, object] = {"stave": stave, "flaws": standing_flaws(stave), "trouble": ""}
    urls = {"form": reverse("staves:flaw_form", args=[number])}
    if request.user.may_write:
        urls |= {name: reverse(f"staves:flaw_{name}", args=[number, 0]) for name in ("move", "drop")}
    try:
        wood = core_stave(stave)
    except BowyeryError as error:
        context["trouble"] = str(error)
    else:
        context["map"] = flaw_map(wood, [(f.pk, _words(f, shown)) for f in standing_flaws(stave)], shown, urls)
        context["usable"] = wood.usable[1] - wood.usable[0]
        if stave.drift and stave.drift_over:
            angle, share = run_out(stave.drift, stave.drift_over)
            context |= {"grain_angle": np.degrees(angle), "grain_share": share}
    sections = [s for s in stave.sections.all() if s.stands]
    forms = {
        "flaw_form": FlawForm(shown=shown, stave=stave), "section_form": SectionForm(shown=shown, stave=stave),
        "strip_form": StripForm(shown=shown),
    }  # fmt: skip
    measured = {"sections": sections, "profile": any(s.side is not None for s in sections)}
    return context | forms | measured | more


def _words(flaw: Flaw, shown: Units) -> str:
    side = "above" if flaw.off > 0 else "below"
    off = f", {shown.length(abs(flaw.off))} {side} the middle" if abs(flaw.off) > 5e-4 else ""
    return f"{flaw.kind}, {flaw.face}, {shown.length(flaw.at)} from the left end{off}, {shown.length(flaw.length)} long"


def _answer(request: HttpRequest, stave: Stave, status: int = 200, **more: object) -> HttpResponse:
    """The map anew for htmx, the whole page for a plain form."""
    if not request.htmx and status == 200:
        return redirect("staves:detail", number=stave.number)
    if request.htmx:
        return render(request, "staves/_flaws.html", _map(_stave(stave.number), request, **more), status=200)
    messages.error(request, "That was not kept; see the field.")
    return render(request, "staves/flaws_alone.html", _map(_stave(stave.number), request, **more), status=status)


@require_GET
def flaw_form(request: HttpRequest, number: int) -> HttpResponse:
    """The form of a flaw: one that is there, or a new one at a point of the picture."""
    stave, shown = _stave(number), units_of(request)
    initial: dict[str, object] = {}
    key = request.GET.get("flaw", "")
    flaw = next((f for f in standing_flaws(stave) if str(f.pk) == key), None)
    if flaw is not None:
        initial = {name: getattr(flaw, name) for name in ("kind", "face", *FlawForm.SIZES)} | {"flaw": flaw.pk}
    else:
        try:
            at, off = ruler_of(core_stave(stave)).place(float(request.GET.get("x", "")), float(request.GET.get("y", "")))
            if np.isfinite(at) and np.isfinite(off):
                initial = {"at": at, "off": off if abs(off) <= stave.width / 2 else 0.0}
        except (ValueError, BowyeryError):
            pass
    form = FlawForm(shown=shown, stave=stave, initial=initial)
    return render(request, "staves/_flaw_form.html", {"flaw_form": form, "stave": stave, "editing": flaw})


def _replace(old: Flaw | None, new: Flaw) -> None:
    """Keep a flaw; the one it takes the place of points to it."""
    with transaction.atomic():
        new.save()
        if old is not None:
            old.replaced_by = new
            old.save(update_fields=["replaced_by"])


@require_POST
def flaw_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Note a flaw, or change one."""
    stave = _stave(number)
    form = FlawForm(request.POST, shown=units_of(request), stave=stave)
    if not form.is_valid():
        return _answer(request, stave, 422, flaw_form=form, editing=form.cleaned_data.get("flaw"))
    _replace(form.cleaned_data["flaw"], form.row(request.user))
    return _answer(request, stave)


NUDGES = {"left": (-1, 0), "right": (1, 0), "up": (0, 1), "down": (0, -1)}


@require_POST
def flaw_move(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Move a flaw by a distance on the picture or by a step, or make it larger or smaller."""
    stave, shown = _stave(number), units_of(request)
    old = get_object_or_404(Flaw.objects.filter(stave=stave).standing(), pk=pk)
    new = Flaw(stave=stave, kind=old.kind, face=old.face, by=request.user, text="")
    for name in FlawForm.SIZES:
        setattr(new, name, getattr(old, name))
    nudge = request.POST.get("nudge", "")
    step = INCH / 8 if shown.imperial else 0.005
    if nudge in NUDGES:
        new.at += NUDGES[nudge][0] * step
        new.off += NUDGES[nudge][1] * (step if shown.imperial else 0.002)
    elif nudge in ("larger", "smaller"):
        factor = 1.2 if nudge == "larger" else 1 / 1.2
        new.length, new.width = new.length * factor, new.width * factor
    else:
        try:
            ruler = ruler_of(core_stave(stave))
            dx, dy = float(request.POST["dx"]), float(request.POST["dy"])
        except (KeyError, ValueError, BowyeryError):
            return _answer(request, stave)
        if not (np.isfinite(dx) and np.isfinite(dy)):
            return _answer(request, stave)
        new.at, new.off = new.at + dx / ruler.scale, new.off - dy / ruler.tall
    half = FlawForm(shown=shown, stave=stave).half_width(new.at)
    new.at, new.off = min(max(new.at, 0.0), stave.length), min(max(new.off, -half), half)
    new.length, new.width = min(max(new.length, 0.001), stave.length), min(max(new.width, 0.001), 2 * half)
    new.text = f"moved to {shown.length(new.at)}"
    _replace(old, new)
    return _answer(request, stave, moved=(old.pk, new.pk))


@require_POST
def flaw_drop(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Strike a flaw that was cut away or noted by mistake."""
    stave = _stave(number)
    flaw = get_object_or_404(Flaw.objects.filter(stave=stave).standing(), pk=pk)
    flaw.gone = True
    flaw.save(update_fields=["gone"])
    return _answer(request, stave)


@require_POST
def section_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Write down what was measured across the stave at a place; an older row of that place steps back."""
    stave = _stave(number)
    form = SectionForm(request.POST, shown=units_of(request), stave=stave)
    if not form.is_valid():
        return _answer(request, stave, 422, section_form=form)
    new = form.row(request.user)
    with transaction.atomic():
        new.save()
        for old in stave.sections.standing().exclude(pk=new.pk):
            if abs(old.at - new.at) < 1e-3:
                old.replaced_by = new
                old.save(update_fields=["replaced_by"])
                break
    return _answer(request, stave)


@require_POST
def strip_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a bend test; its modulus and density become the stave's own."""
    stave = _stave(number)
    form = StripForm(request.POST, shown=units_of(request))
    if form.is_valid():
        row = form.row(stave, request.user)
        try:
            found = own_figures(stave, row)
        except BowyeryError as error:
            place = getattr(error, "place", "")
            form.add_error(place if place in form.fields else None, getattr(error, "reason", str(error)))
        else:
            with transaction.atomic():
                row.save()
                stave.modulus, stave.density = found.modulus, found.density or stave.density
                stave.save(update_fields=["modulus", "density"])
            shown = units_of(request)
            messages.success(
                request,
                f"Modulus {shown.modulus(found.modulus)}, give or take {shown.modulus(found.modulus_error)}, at 12 % moisture;"
                " every design from this stave uses it.",
            )
            return redirect("staves:detail", number=number)
    return render(request, "staves/flaws_alone.html", _map(stave, request, strip_form=form), status=422)


@require_POST
def photo_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photograph of a stave."""
    stave = _stave(number)
    form = PhotoForm(request.POST, request.FILES, shown=units_of(request), stave=stave)
    if form.is_valid():
        form.keep(request.user)
        messages.success(request, "The photograph is kept.")
        return redirect("staves:detail", number=number)
    return render(request, "staves/photo_alone.html", {"photo_form": form, "stave": stave}, status=422)


@require_GET
def photo(request: HttpRequest, pk: int, ending: str = "") -> FileResponse:
    """The picture itself, or its small copy."""
    path = photo_path(get_object_or_404(Photo, pk=pk).name, ending)
    if not path.exists():
        raise Http404("Its file is missing; a backup may hold it.")
    answer = FileResponse(path.open("rb"), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


@require_POST
def photo_drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a photograph off the page; its row and its file stay."""
    row = get_object_or_404(Photo.objects.select_related("stave"), pk=pk)
    Photo.objects.filter(pk=pk).update(gone=True)
    messages.success(request, "The photograph is off the page.")
    return redirect("staves:detail", number=row.stave.number)


@require_GET
def fit(request: HttpRequest, number: int) -> HttpResponse:
    """Where a design may lie in a stave."""
    stave, shown = _stave(number), units_of(request)
    designs = Design.objects.select_related("archer", "stave")
    key = request.GET.get("design", "")
    design = designs.filter(pk=int(key)).first() if key.isdecimal() and len(key) < 10 else designs.filter(stave=stave).first()
    context: dict[str, object] = {"stave": stave, "designs": designs, "design": design, "built_up": stave.kind in BUILT_UP}
    if design is not None:
        context |= _fitted(stave, design, shown)
    return render(request, "staves/fit.html", context)


def _fitted(stave: Stave, design: Design, shown: Units) -> dict[str, object]:
    found, trouble = try_solution(design)
    if found is None:
        return {"trouble": trouble}
    try:
        wood, outline, answer = fitted(stave, found)
    except BowyeryError as error:
        short = advice_of(stave, found)
        return {"trouble": f"{getattr(error, 'reason', error)} {short}"}
    rows = [
        {
            "placed": one,
            "end": one.start + outline.length,
            "turn": np.degrees(one.turn),
            "picture": placement_picture(wood, outline, one, shown),
            "reasons": reasons(stave, one, shown),
        }
        for one in answer.best
    ]
    help_ = "" if answer.sound else instead(wood, outline, answer)
    return {"rows": rows, "strip": fit_strip(wood, answer, shown), "sound": answer.sound, "instead": help_}


@require_GET
def which(request: HttpRequest, pk: int) -> HttpResponse:
    """Which staves will make this bow: each with its best place."""
    design = get_object_or_404(Design.objects.select_related("archer", "stave"), pk=pk)
    found, trouble = try_solution(design)
    rows = []
    for stave in staves()[:60] if found else ():
        try:
            _, _, answer = fitted(stave, found)
            rows.append({"stave": stave, "score": answer.best[0].score, "same": stave.material == design.material})
        except BowyeryError as error:
            rows.append({"stave": stave, "score": None, "trouble": getattr(error, "reason", str(error))})
    rows.sort(key=lambda row: -(row["score"] or -1))
    return render(request, "staves/_which.html", {"rows": rows, "design": design, "trouble": trouble})


@require_GET
def fits(request: HttpRequest, number: int) -> HttpResponse:
    """Which designs a stave will make: those with a sound place in it, best first."""
    stave, rows = _stave(number), []
    for design in Design.objects.select_related("archer", "stave")[:20]:
        found, _ = try_solution(design)
        if found is None or design.material != stave.material:
            continue
        try:
            _, _, answer = fitted(stave, found)
        except BowyeryError:
            continue
        if answer.sound:
            rows.append({"design": design, "score": answer.best[0].score})
    rows.sort(key=lambda row: -row["score"])
    return render(request, "staves/_fits.html", {"rows": rows[:3], "stave": stave})
