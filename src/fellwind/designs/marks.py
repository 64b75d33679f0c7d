"""Views of the marks: figures typed, dragged or stepped on the ruler, marks that come and go, limbs mirrored."""

from dataclasses import replace

import numpy as np
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from bowyery import bowfile
from bowyery.bow import Bow
from bowyery.changes import mirrored, with_station, without_station
from bowyery.design import Solution
from bowyery.errors import BowyeryError
from bowyery.units import INCH, LENGTH, read
from fellwind.designs import services
from fellwind.designs.forms import MOST_AT_MARK, MarksForm
from fellwind.designs.models import Design
from fellwind.designs.views import designs, shown_of
from fellwind.drawing.ruler import Handle, pixels_per_metre
from fellwind.workshop.context import units_of
from fellwind.workshop.measures import Units
from fellwind.workshop.once import only_answers

SIDES = ("upper", "lower")
MOST_MARKS = 60  # a limb
LEAST = 0.001  # no figure is dragged below this (m)


def _handles(form: MarksForm, bow: Bow, shown: Units) -> tuple[Handle, ...]:
    held, handles = form.locked(), []
    for side, limb in zip(SIDES, bow.limbs, strict=True):
        for (at, *names), width, thickness in zip(form.rows[side], limb.width, limb.thickness, strict=True):
            for name, size, is_width in zip(names, (width, thickness), (True, False), strict=True):
                what = "wide" if is_width else "thick"
                words = f"{side} limb, {shown.length(at)} from the centre: {shown.thickness(float(size))} {what}"
                words += ", locked" if name in held else "; arrow keys change it"
                handles.append(Handle(name, at, side == "upper", float(size), is_width, words, name in held))
    return tuple(handles)


def _context(form: MarksForm, design: Design, now: Solution, shown: Units, former: Solution | None) -> dict[str, object]:
    handles = _handles(form, now.bow, shown)
    return {"form": form, "design": design, "found": now} | shown_of(design, now, shown, former, True, handles)


def marks(request: HttpRequest, pk: int) -> HttpResponse:
    """Change widths and thicknesses mark by mark; from then on the design is as it is marked."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    if found is None:
        messages.error(request, trouble)
        return redirect("designs:detail", pk=pk)
    if max(limb.at.size for limb in found.bow.limbs) > MOST_MARKS:
        messages.error(request, f"{design.name} has too many marks to change one by one; change its bow file and bring it in.")
        return redirect("designs:detail", pk=pk)
    if request.method == "POST":
        form = MarksForm(request.POST, shown=shown, bow=found.bow)
        if form.is_valid():
            bow = form.marked()
            try:
                services.remarked(design, bow)
            except BowyeryError as error:
                form.add_error(None, str(error))
            else:
                design.bow_file = bowfile.dumps(bow)
                design.save(update_fields=["bow_file"])
                messages.success(request, f"The marks of {design.name} are kept as you set them.")
                return redirect("designs:detail", pk=pk)
        return render(request, "designs/marks.html", {"form": form, "design": design}, status=422)
    return render(request, "designs/marks.html", _context(MarksForm(shown=shown, bow=found.bow), design, found, shown, None))


@only_answers
@require_POST
def marks_preview(request: HttpRequest, pk: int) -> HttpResponse:
    """What the marks typed so far come to, with the kept ones as a faint line."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    if found is None:
        return render(request, "designs/_result.html", {"found": None, "trouble": trouble})
    form = MarksForm(request.POST, shown=shown, bow=found.bow)
    if not form.is_valid():
        return render(request, "designs/_result.html", {"found": None, "trouble": "", "form": form})
    try:
        now = services.remarked(design, form.marked())
    except BowyeryError as error:
        return render(request, "designs/_result.html", {"found": None, "trouble": str(error)})
    return render(request, "designs/_result.html", _context(form, design, now, shown, found) | {"form": None})


@only_answers
@require_POST
def marks_act(request: HttpRequest, pk: int) -> HttpResponse:
    """Drag or step a figure, add or take off a mark, mirror a limb, or go back to an earlier state of the form."""
    design = get_object_or_404(designs(), pk=pk)
    shown = units_of(request)
    found, trouble = services.try_solution(design)
    if found is None:
        return render(request, "designs/_marks_form.html", {"trouble": trouble, "design": design, "form": None})
    form = MarksForm(request.POST, shown=shown, bow=found.bow)
    if not form.is_valid():
        return render(request, "designs/_marks_form.html", {"form": form, "design": design, "alone": True})
    bow, said = form.marked(), ""
    try:
        bow = _acted(request, form, bow, design, shown)
        now: Solution | None = services.remarked(design, bow)
    except BowyeryError as error:
        said = str(getattr(error, "reason", error))
        try:
            now = services.remarked(design, bow)
        except BowyeryError:
            now = None
    fresh = MarksForm(shown=shown, bow=bow, keep=form.locked())
    context = {"form": fresh, "design": design, "said": said, "alone": True}
    if now is not None:
        context = _context(fresh, design, now, shown, found) | context
    return render(request, "designs/_marks_form.html", context)


def _acted(request: HttpRequest, form: MarksForm, bow: Bow, design: Design, shown: Units) -> Bow:
    """The bow after what was asked; raises BowyeryError."""
    action = request.POST.get("action", "")
    side = SIDES.index(request.POST["side"]) if request.POST.get("side") in SIDES else 0
    if action == "mirror":
        return _unlocked(form, bow, mirrored(bow, side))
    if action == "add":
        at = read(request.POST.get("place", ""), LENGTH, shown.world)
        return with_station(bow, side, at - bow.limbs[side].root[0])
    if action == "remove":
        number = request.POST.get("number", "")
        return without_station(bow, side, int(number) if number.isdecimal() and len(number) < 6 else -1)
    name = request.POST.get("name", "")
    if action in ("drag", "step") and name in form.fields and name.count("_") == 2 and name not in form.locked():
        return _resized(request, bow, design, name, action, shown)
    return bow


def _resized(request: HttpRequest, bow: Bow, design: Design, name: str, action: str, shown: Units) -> Bow:
    which, what, number = name.split("_")
    side, k = SIDES.index(which), int(number)
    limb = bow.limbs[side]
    sizes = getattr(limb, what).copy()
    step = INCH / 64 if shown.imperial else 0.0005
    if action == "step":
        sizes[k] += step if request.POST.get("nudge") == "up" else -step
    else:
        try:
            pixels = float(request.POST.get("dy", ""))
        except ValueError:
            return bow
        if not np.isfinite(pixels):
            return bow
        data = services.ruler_data(services.remarked(design, bow))
        sizes[k] = round((sizes[k] - pixels / pixels_per_metre(data, what == "width")) / step) * step
    sizes[k] = min(max(sizes[k], LEAST), MOST_AT_MARK[what])
    changed = replace(limb, **{what: sizes})
    return replace(bow, upper=changed) if side == 0 else replace(bow, lower=changed)


def _unlocked(form: MarksForm, before: Bow, after: Bow) -> Bow:
    """Give locked figures back what they were."""
    limbs = []
    for side, old, new in zip(SIDES, before.limbs, after.limbs, strict=True):
        kept = {}
        for what in ("width", "thickness"):
            hold = np.array([f"{side}_{what}_{k}" in form.locked() for k in range(old.at.size)])
            kept[what] = np.where(hold, getattr(old, what), getattr(new, what))
        limbs.append(replace(new, **kept))
    return replace(after, upper=limbs[0], lower=limbs[1])
