"""Views of the first benches: the stave, the lay-out and the blank."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from bowyery.errors import BowyeryError
from fellwind.builds import benches, finishing, heating, laminating, pages, services
from fellwind.builds import spoiled as spoils
from fellwind.builds.bench_forms import (
    CalipersForm,
    EntryForm,
    FloorForm,
    LengthNowForm,
    SliceForm,
)
from fellwind.builds.log import tree_of
from fellwind.builds.pages import StageForms
from fellwind.builds.services import get_build
from fellwind.designs.services import try_solution
from fellwind.kit.context import units_of
from fellwind.kit.once import written_at
from fellwind.kit.pages import refused, show
from fellwind.people.services import who

STAGE_OF = {"length": "lay-out", "calipers": "rough", "floor": "rough"}


@require_POST
def slice_off(request: HttpRequest, number: int) -> HttpResponse:
    """Write down a slice sawn off an end of the build's stave."""
    build, shown = get_build(number), units_of(request)
    form = SliceForm(request.POST, shown=shown)
    if form.is_valid():
        try:
            said = services.slice_off(build, form, who(request), shown)
        except BowyeryError as error:
            form.add_error("slice", getattr(error, "reason", str(error)))
        else:
            messages.success(request, said)
            return redirect("builds:stage", number=number, stage="wood")
    form.mark_faults()
    page = pages.stage_page(build, "wood", shown, forms=StageForms(slice=form))
    return show(request, "builds/stage.html", page, 422)


@require_POST
def take_over(request: HttpRequest, number: int) -> HttpResponse:
    """Take over the best place of the bow in its stave."""
    build = get_build(number)
    found = benches.wood_bench(build, units_of(request)).laid
    if found is None:
        messages.error(request, "There is no place to take over: the bow cannot be laid yet.")
    else:
        services.lay(build, benches.place_key(found), who(request))
        messages.success(request, "The lay-out follows that place now.")
    return redirect("builds:stage", number=number, stage="wood")


@require_POST
def measured(request: HttpRequest, number: int, what: str) -> HttpResponse:
    """Keep what was measured at a bench, as a line of the log."""
    if what not in STAGE_OF:
        raise Http404
    build, shown = get_build(number), units_of(request)
    form: EntryForm
    if what == "length":
        form = LengthNowForm(request.POST, shown=shown, tree=tree_of(build))
        forms = StageForms(length=form)
    elif what == "floor":
        form = FloorForm(request.POST, shown=shown, tree=tree_of(build))
        forms = StageForms(floor=form)
    else:
        found, trouble = try_solution(build.design)
        if found is None:
            messages.error(request, trouble)
            return redirect("builds:stage", number=number, stage="rough")
        rows = benches.rough_bench(build, found, shown).rows
        form = CalipersForm(request.POST, shown=shown, rows=rows, tree=tree_of(build))
        forms = StageForms(calipers=form)
    if form.is_valid():
        _, new = form.keep(build, who(request), written_at(request), STAGE_OF[what])
        messages.success(request, "It is kept." if new else "That was kept already.")
        return redirect("builds:stage", number=number, stage=STAGE_OF[what])
    form.mark_faults()
    page = pages.stage_page(build, STAGE_OF[what], shown, forms=forms)
    return show(request, "builds/stage.html", page, 422)


@require_POST
def finish(request: HttpRequest, number: int, what: str) -> HttpResponse:
    """Look at a finish with other figures, write one of its acts down, or hang its coats."""
    build, shown = get_build(number), units_of(request)
    if what == "coats":
        text = request.POST.get("number", "")
        count = int(text) if text.isdecimal() and len(text) < 3 else 0
        hung = finishing.hang_coats(build, request.POST.get("coat", ""), count)
        if hung:
            messages.success(request, f"{hung} coats hang from the string, one after another.")
        else:
            messages.error(request, "Choose a coat, and one to twelve of it.")
        return redirect("builds:stage", number=number, stage="finish")
    if what != "look" and what not in finishing.DONE:
        raise Http404
    form = finishing.FinishForm(request.POST, shown=shown)
    if form.is_valid() and what != "look":
        trouble = pages.finish_trouble(build, what, form, shown)
        if not trouble:
            new = finishing.keep_finish(build, what, form, who(request), form.reads_in)
            messages.success(request, "It is kept." if new else "That was kept already.")
            return redirect("builds:stage", number=number, stage="finish")
        form.add_error(None, trouble)
    form.mark_faults()
    page = pages.stage_page(build, "finish", shown, forms=StageForms(finish=form))
    return show(request, "builds/stage.html", page, refused(form.errors))


@require_POST
def glue(request: HttpRequest, number: int) -> HttpResponse:
    """Start the glue's clock, or hang the plan of a gluing from the string."""
    build, plan = get_build(number), request.POST.get("plan", "")
    if plan == "clock":
        until = timezone.localtime(laminating.start_clock(build).until)
        messages.success(request, f"The glue is open until {until:%H:%M}.")
    else:
        made = laminating.hang_plan(build, plan)
        if made:
            until = timezone.localtime(made[-1].until)
            messages.success(request, f"It is all over {until:%a %-d %b, %H:%M}.")
        else:
            messages.error(request, "Choose how it is to cure.")
    return redirect("builds:stage", number=number, stage="back")


@require_POST
def heat(request: HttpRequest, number: int) -> HttpResponse:
    """Put a limb on its form: how far over that is bent, and what rests then."""
    build, shown = get_build(number), units_of(request)
    form = heating.HeatForm(request.POST, shown=shown)
    found, trouble = try_solution(build.design)
    if found is None:
        messages.error(request, trouble)
        return redirect("builds:stage", number=number, stage="back")
    if form.is_valid():
        try:
            heating.put_on_form(build, found, form)
        except BowyeryError as error:
            form.add_error("end", getattr(error, "reason", str(error)))
        else:
            messages.success(
                request, "The form's figures stand below; it cools before it is let go."
            )
            return redirect("builds:stage", number=number, stage="back")
    form.mark_faults()
    page = pages.stage_page(build, "back", shown, forms=StageForms(heat=form))
    return show(request, "builds/stage.html", page, 422)


@require_POST
def stayed(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Write down what stayed of a bend when it was let go."""
    build, shown = get_build(number), units_of(request)
    job = get_object_or_404(build.heat_jobs, pk=pk)
    form = heating.StayedForm(request.POST, shown=shown, job=job)
    if form.is_valid():
        try:
            said = heating.let_go(job, form, who(request), written_at(request))
        except BowyeryError as error:
            messages.error(request, getattr(error, "reason", str(error)))
        else:
            messages.success(request, said)
        return redirect("builds:stage", number=number, stage="back")
    page = pages.stage_page(build, "back", shown, forms=StageForms(stayed=form))
    return show(request, "builds/stage.html", page, 422)


def spoiled(request: HttpRequest, number: int) -> HttpResponse:
    """What the stave of a spoiled limb still gives; taken, the build is planned anew."""
    build, shown = get_build(number), units_of(request)
    given = request.POST if request.method == "POST" else request.GET
    page = spoils.spoiled_page(build, given, shown)
    if request.method != "POST":
        return show(request, "builds/spoiled.html", page)
    if not page.rows:
        return show(request, "builds/spoiled.html", page, 422)
    try:
        design = spoils.take_way(build, page.form, given.get("way", ""), who(request), shown)
    except BowyeryError as error:
        page.form.add_error(None, getattr(error, "reason", str(error)))
        return show(request, "builds/spoiled.html", page, 422)
    messages.success(
        request, f"Number {number} follows {design.name} now: lay it in and mark it anew."
    )
    return redirect("builds:stage", number=number, stage=build.stage)
