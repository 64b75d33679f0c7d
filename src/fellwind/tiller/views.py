"""Views of the tiller: the screen, its forms, and the bench view for three metres away."""

from uuid import uuid4

import numpy as np
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from bowyery.design import Solution
from bowyery.errors import UnreadableError
from bowyery.tiller.estimate import NINETY
from bowyery.tiller.readings import SIDES
from fellwind.builds import bench as log
from fellwind.builds.forms import LineForm, ReadingForm, RemovalForm
from fellwind.builds.models import Build
from fellwind.builds.views import get_build, head
from fellwind.designs import services as designs
from fellwind.drawing.curve import CurveData, curve_picture
from fellwind.drawing.ruler import TillerData, ruler_for, ruler_picture, small_outline, tiller_tracks
from fellwind.drawing.tree import tree_picture
from fellwind.tiller import services, words
from fellwind.workshop.context import units_of
from fellwind.workshop.measures import RULER_WORDS, MeasuredForm, Units, on_rulers


@require_GET
def screen(request: HttpRequest, number: int) -> HttpResponse:
    """The tiller screen."""
    build = get_build(number)
    upto = request.GET.get("check", "")
    return render(request, "tiller/screen.html", _context(request, build, int(upto) if upto.isdecimal() else None))


def _context(
    request: HttpRequest,
    build: Build,
    upto: int | None = None,
    reading: ReadingForm | None = None,
    removal: RemovalForm | None = None,
) -> dict[str, object]:
    shown = units_of(request)
    context = head(build, shown, "tiller")
    context |= {
        "reading": reading or ReadingForm(shown=shown, initial={"client_id": uuid4()}, prefix="reading"),
        "removal": removal or RemovalForm(shown=shown, initial={"client_id": uuid4()}, prefix="removal"),
        "pulls_id": uuid4(),
    }
    found = context["found"]
    if found is None:
        return context
    state = services.bench(build, upto)
    return context | _said(build, state, shown) | _pictures(build, found, state, shown)


def _said(build: Build, state: services.Bench, shown: Units) -> dict[str, object]:
    checks = len(state.history.checks)
    number = state.check.number if state.check else 0
    context: dict[str, object] = {
        "state": state,
        "check": number,
        "checks": checks,
        "earlier": number - 1 if number > 1 else None,
        "later": number + 1 if number < checks else None,
        "string": services.STRING_WORDS[state.history.string],
        "ruler_words": RULER_WORDS[build.ruler],
    }
    if state.advice and state.stand and state.further and state.harder:
        roots = state.roots
        on = on_rulers(state.further.value, build.design.handle_depth)[build.ruler]
        context |= {
            "further": words.readable_draw(on, shown),
            "further_why": words.why(state.further, True),
            "harder_why": words.why(state.harder, False),
            "said": words.say(state, shown),
            "places": words.places_words(state.advice, roots, shown),
            "sharper": [words.sharper_words(one, roots, shown) for one in state.sharper[:2] if one.gain > 0.03],
            "rules": [words.rule_words(rule, shown) for rule in state.rules],
            "balance": words.balance_words(state.stand, shown),
            "wild": [state.check.entry.measures.all()[i].text for i in state.now.wild] if state.check and state.now else [],
        }
    return context


def _pictures(build: Build, found: Solution, state: services.Bench, shown: Units) -> dict[str, object]:
    design = build.design
    take = {}
    if state.advice:
        off = state.advice.removal
        take = {side: f"take up to {shown.shaving(float(off[k].max()))}" for k, side in enumerate(SIDES) if off[k].any()}
    data = services.tiller_ruler(found, state, take)
    context: dict[str, object] = {"ruler": ruler_picture(data, shown)}
    if state.now is not None and state.advice is not None:
        context["tracks"] = tiller_tracks(data, _tracks(state), shown)
    hung = services.hanging(found, state)
    if hung is not None and state.further is not None:
        title = (
            f"On the tree at {log.draw_words(build, hung.draw, shown)}: solid as estimated from the readings, dashed as wanted."
        )
        context["tree"] = tree_picture(
            hung.now, hung.wanted, found.bow.hold.pivot, designs.handle_box(found), ruler_for(data), shown, title,
            words.readable_draw(on_rulers(state.further.value, design.handle_depth)[build.ruler], shown),
            build.ruler, design.handle_depth,
        )  # fmt: skip
        context["tree_draw"] = log.draw_words(build, hung.draw, shown)
    if state.outlook is not None:
        shift = on_rulers(0.0, design.handle_depth)[build.ruler]
        o = state.outlook
        context["curve"] = curve_picture(
            CurveData(
                o.draws + shift, o.weights, design.weight, design.draw + shift, o.low, o.high,
                [(r.draw + shift, r.value) for r in state.check.readings if r.kind == "weight"],
                [(d + shift, w) for d, w in state.history.weights],
            ),
            shown,
        )  # fmt: skip
    return context


def _tracks(state: services.Bench) -> TillerData:
    """The estimate against the wanted state, what to take, and what came off, for the ruler."""
    now, advice = state.now, state.advice
    assert now is not None and advice is not None
    level = now.field - advice.wanted if advice.wanted is not None else now.field - now.field.mean()
    wide = NINETY * now.spread
    places = {name: tuple((p.limb, state.roots[p.limb] + p.start, state.roots[p.limb] + p.end) for p in rows)
              for name, rows in (("weak", advice.weak), ("stiff", advice.stiff))}  # fmt: skip
    taken = state.taken if state.taken is not None else 0 * now.field
    return TillerData(np.expm1(level), np.expm1(level - wide), np.expm1(level + wide), advice.removal, taken, **places)


WAYS = {
    "accept": "Accept it as it is", "shorten": "Cut {by} off each end", "heat": "Harden the belly by heat",
    "back": "Lay rawhide on the back, {by}", "patch": "Patch the weak place of the {limb} limb, {by}",
}  # fmt: skip


@require_GET
def rescue(request: HttpRequest, number: int) -> HttpResponse:
    """What could still be done with a bow that is too light, side by side."""
    build, shown = get_build(number), units_of(request)
    found, trouble = designs.try_solution(build.design)
    rows = []
    if found is not None:
        for row in services.ways_out(found, services.bench(build), shown.imperial):
            by = shown.length(row.by) if row.way == "shorten" else shown.thickness(row.by)
            rows.append({"what": WAYS[row.way].format(by=by, limb=row.limb), "outcome": row.outcome})
    return render(request, "tiller/_rescue.html", {"rows": rows, "build": build, "trouble": trouble})


@require_GET
def bench_view(request: HttpRequest, number: int) -> HttpResponse:
    """Three things only, for three metres away, and where to take wood."""
    build = get_build(number)
    context = _context(request, build)
    if context.get("said"):
        marks = {r.limb: "take here" for r in context["state"].advice.removals}
        data = services.tiller_ruler(context["found"], context["state"], marks)
        context["limbs"] = small_outline(data)
    return render(request, "tiller/bench.html", context)


@require_POST
def add_reading(request: HttpRequest, number: int) -> HttpResponse:
    """A check by form."""
    form = ReadingForm(request.POST, shown=units_of(request), prefix="reading")
    return _keep_form(request, number, form, "reading")


@require_POST
def add_removal(request: HttpRequest, number: int) -> HttpResponse:
    """A removal by form."""
    form = RemovalForm(request.POST, shown=units_of(request), prefix="removal")
    return _keep_form(request, number, form, "removal")


def _keep_form(request: HttpRequest, number: int, form: MeasuredForm, which: str) -> HttpResponse:
    build = get_build(number)
    if form.is_valid():
        world = form.cleaned_data["page_world"] or form.shown.world
        try:
            statements = log.read_line(build, form.line(), world)
        except UnreadableError as error:
            form.add_error(None, str(error))
        else:
            entry, new = log.keep(build, form.line(), statements, world, request.user, form.cleaned_data["client_id"])
            messages.success(request, f"Written down: {entry.text}" if new else f"That was kept already: {entry.text}")
            return redirect(_back(request), number=number)
    return render(request, "tiller/screen.html", _context(request, build, **{which: form}), status=422)


@require_POST
def add_pulls(request: HttpRequest, number: int) -> HttpResponse:
    """Twenty-five short pulls, by one button."""
    build = get_build(number)
    form = LineForm(request.POST.dict() | {"page_world": request.user.world}, build=build)
    if form.is_valid():
        data = form.cleaned_data
        entry, _ = log.keep(build, data["line"], form.statements, data["page_world"], request.user, data["client_id"])
        messages.success(request, f"Written down: {entry.text}")
    else:
        messages.error(request, " ".join(message for sentences in form.errors.values() for message in sentences))
    return redirect(_back(request), number=number)


def _back(request: HttpRequest) -> str:
    return "tiller:bench" if request.POST.get("then") == "bench" else "tiller:screen"
