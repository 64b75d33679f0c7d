"""Views of builds: list, stages, log, pencil line, proof, bow card."""

from uuid import uuid4

from django.contrib import messages
from django.db import transaction
from django.db.models import Max
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from fellwind.builds import bench, services, stages
from fellwind.builds.forms import BuildForm, LineForm, ProofForm, WaitForm
from fellwind.builds.models import STAGES, Build, Entry, Measure, Wait
from fellwind.designs import services as designs
from fellwind.designs.models import Design
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import ruler_picture, small_outline
from fellwind.exports.card import bow_card
from fellwind.strings.models import BowString
from fellwind.workshop.context import units_of
from fellwind.workshop.models import Workshop


def get_build(number: int) -> Build:
    """The build of that number, with what every one of its pages reads, or 404."""
    return get_object_or_404(services.builds(), number=number)


@require_GET
def build_list(request: HttpRequest) -> HttpResponse:
    """All builds."""
    now = timezone.now()
    rows = []
    for build in services.builds()[:200]:
        found, _ = designs.try_solution(build.design)
        picture = small_outline(designs.ruler_data(found)) if found else ""
        rows.append({"build": build, "picture": picture, "knots": services.build_knots(build, now)})
    return render(request, "builds/list.html", {"rows": rows, "designs": Design.objects.exists()})


def start(request: HttpRequest) -> HttpResponse:
    """Start a build from a design."""
    if not Design.objects.exists():
        messages.info(request, "A build follows a design: make the design first.")
        return redirect("designs:new")
    initial = {"design": request.GET.get("design")}
    design = Design.objects.filter(pk=initial["design"]).first() if str(initial["design"] or "").isdecimal() else None
    if design is not None:
        initial |= {"name": design.name, "stave": design.stave_id}
    form = BuildForm(request.POST or None, shown=units_of(request), initial=initial)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        with transaction.atomic():
            build = Build.objects.create(
                number=(Build.objects.aggregate(top=Max("number"))["top"] or 0) + 1,
                name=data["name"],
                design=data["design"],
                stave=data["stave"] or data["design"].stave,
                school=data["school"],
                beginner=data["beginner"],
                ruler=data["ruler"],
            )
            Entry.objects.create(build=build, kind="stage", stage="wood", text="Build started", by=request.user)
        messages.success(request, f"Number {build.number} is started.")
        return redirect("builds:stage", number=build.number, stage="wood")
    return render(request, "builds/start.html", {"form": form}, status=422 if form.errors else 200)


@require_GET
def detail(request: HttpRequest, number: int) -> HttpResponse:
    """Go to the stage a build stands at."""
    return redirect("builds:stage", number=number, stage=get_build(number).stage)


@require_GET
def stage(request: HttpRequest, number: int, stage: str) -> HttpResponse:
    """One stage of a build."""
    if stage not in STAGES:
        raise Http404
    if stage == "string":
        return redirect("strings:sheet", number=number)
    build = get_build(number)
    shown = units_of(request)
    context = head(build, shown, stage)
    found = context["found"]
    ticked = set(build.entries.filter(kind="tick").values_list("text", flat=True))
    staged = Build(number=build.number, stage=stage, design=build.design)
    context |= {
        "items": [{"item": item, "done": item.key in ticked} for item in stages.items(staged, found, shown)],
        "wait_form": WaitForm(),
        "ruler": ruler_picture(designs.ruler_data(found), shown) if found else "",
    }
    if stage == "proof":
        context |= proof_context(build, found, ProofForm(shown=shown, initial={"client_id": uuid4()}))
    return render(request, "builds/stage.html", context)


def head(build: Build, shown: object, stage: str) -> dict[str, object]:
    """What the head of every build page shows."""
    found, trouble = designs.try_solution(build.design)
    return {
        "build": build,
        "found": found,
        "trouble": trouble,
        "stage": stage,
        "is_current": stage == build.stage and build.finished is None,
        "knots": services.build_knots(build, timezone.now(), links=True),
        "minutes": services.minutes(build),
        "caution": stages.CAUTIONS[stage],
        "next_verb": stages.NEXT_VERB[stage],
        "last_line": build.entries.filter(kind="bench").order_by("-at", "-pk").values_list("text", flat=True).first() or "",
    }


def proof_context(build: Build, found: object, form: ProofForm) -> dict[str, object]:
    """What the proof stage shows."""
    proved = services.proof(build, found)
    context: dict[str, object] = {"proof": proved, "form": form}
    if proved is not None and found is not None:
        context["curve"] = curve_picture(services.proof_curve(build, found, proved), form.shown)
    return context


@require_POST
def next_stage(request: HttpRequest, number: int) -> HttpResponse:
    """Tie the open knot. Sent twice from the same stage, it counts once."""
    build = get_build(number)
    here = request.POST.get("stage")
    with transaction.atomic():
        build.refresh_from_db(fields=["stage", "finished"])
        if here == build.stage and build.finished is None:
            if build.stage == STAGES[-1]:
                build.finished = timezone.now()
                text = "Build closed"
            else:
                build.stage = STAGES[build.stage_index + 1]
                text = f"On to {build.stage}"
            build.save(update_fields=["stage", "finished"])
            Entry.objects.create(build=build, kind="stage", stage=build.stage, text=text, by=request.user)
    return redirect("builds:stage", number=number, stage=build.stage)


@require_POST
def tick(request: HttpRequest, number: int) -> HttpResponse:
    """Tick an item of a stage's list."""
    build = get_build(number)
    item, stage = request.POST.get("item", ""), request.POST.get("stage", build.stage)
    found, _ = designs.try_solution(build.design)
    staged = Build(number=build.number, stage=stage, design=build.design)
    if stage not in STAGES or item not in {i.key for i in stages.items(staged, found, units_of(request))}:
        raise Http404
    bench.tick(build, item, request.user)
    return redirect(reverse("builds:stage", args=[number, stage]) + "#list")


@require_POST
def add_wait(request: HttpRequest, number: int) -> HttpResponse:
    """Hang a wait from the current knot."""
    build = get_build(number)
    form = WaitForm(request.POST)
    if form.is_valid():
        Wait.objects.create(build=build, what=form.cleaned_data["what"], until=form.cleaned_data["until"])
        messages.success(request, "It hangs from the string until then.")
        return redirect("builds:stage", number=number, stage=build.stage)
    return render(request, "builds/wait.html", {"form": form, "build": build}, status=422)


@require_POST
def end_wait(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Take a wait off."""
    build = get_build(number)
    Wait.objects.filter(build=build, pk=pk, ended=None).update(ended=timezone.now())
    return redirect("builds:stage", number=number, stage=build.stage)


@require_GET
def log(request: HttpRequest, number: int) -> HttpResponse:
    """Everything written about a build, in order."""
    build = get_build(number)
    context = head(build, units_of(request), build.stage)
    words = stages.all_words(build, context["found"], units_of(request))
    entries = [{"entry": e, "words": words.get(e.text, e.text) if e.kind == "tick" else e.text} for e in services.log(build)]
    return render(request, "builds/log.html", context | {"entries": entries})


def _pencil_build(request: HttpRequest) -> Build | None:
    number = request.POST.get("build") or request.GET.get("build") or ""
    if number.isdecimal() and number != "0":
        return get_build(int(number))
    rows = services.builds().filter(finished=None)
    return rows.filter(stage="tiller").first() or rows.first()


def read_back(request: HttpRequest) -> HttpResponse:
    """Say a pencil line back in words, before it is kept."""
    build = _pencil_build(request)
    template = "builds/_read_back.html" if request.htmx else "builds/read_back.html"
    if build is None:
        return render(request, template, {"trouble": "There is no open build to write to; start one first."}, status=422)
    shown = units_of(request)
    data = request.POST if request.method == "POST" else request.GET
    form = LineForm({**data.dict(), "page_world": data.get("page_world") or shown.world}, build=build)
    if not form.is_valid():
        trouble = " ".join(message for messages_ in form.errors.values() for message in messages_)
        return render(request, template, {"trouble": trouble, "build": build, "line": data.get("line", "")}, status=422)
    return render(
        request,
        template,
        {
            "build": build,
            "words": bench.in_words(build, form.statements, shown),
            "line": form.cleaned_data["line"],
            "page_world": form.cleaned_data["page_world"],
            "client_id": form.cleaned_data["client_id"],
            "corrects": form.cleaned_data["corrects"],
        },
    )


@require_POST
def keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a pencil line as an entry."""
    build = get_build(number)
    form = LineForm(request.POST, build=build)
    if not form.is_valid():
        trouble = " ".join(message for messages_ in form.errors.values() for message in messages_)
        context = {"trouble": trouble, "build": build, "line": request.POST.get("line", "")}
        return render(request, "builds/read_back.html", context, status=422)
    data = form.cleaned_data
    entry, new = bench.keep(
        build, data["line"], form.statements, data["page_world"], request.user, data["client_id"], data["corrects"]
    )
    if new:
        messages.success(request, f"Written down for number {number}: {entry.text}")
    else:
        messages.info(request, f"That was kept already: {entry.text}")
    return redirect(after_entry(build))


def after_entry(build: Build) -> str:
    """Where to go once something was written."""
    return reverse("builds:stage", args=[build.number, build.stage])


def correct(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Correct an entry: a new one that points to it."""
    build = get_build(number)
    wrong = get_object_or_404(build.entries.filter(kind="bench").select_related("corrected_by"), pk=pk)
    if hasattr(wrong, "corrected_by"):
        messages.info(request, f"That entry is corrected already, to: {wrong.corrected_by.text}")
        return redirect("builds:log", number=number)
    form = LineForm(request.POST or None, build=build, initial={"line": wrong.text, "client_id": uuid4()})
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        bench.keep(build, data["line"], form.statements, data["page_world"], request.user, data["client_id"], wrong)
        messages.success(request, "The correction is kept beside what it corrects.")
        return redirect("builds:log", number=number)
    context = {"form": form, "build": build, "wrong": wrong}
    return render(request, "builds/correct.html", context, status=422 if form.errors else 200)


@require_POST
def prove(request: HttpRequest, number: int) -> HttpResponse:
    """Write down the proof of a bow."""
    build = get_build(number)
    shown = units_of(request)
    form = ProofForm(request.POST, shown=shown)
    if not form.is_valid():
        context = head(build, shown, "proof")
        context |= proof_context(build, context["found"], form) | {"wait_form": WaitForm()}
        return render(request, "builds/stage.html", context, status=422)
    data = form.cleaned_data
    with transaction.atomic():
        entry, new = Entry.objects.get_or_create(
            client_id=data["client_id"],
            defaults={
                "build": build,
                "kind": "proof",
                "stage": "proof",
                "text": form.line(),
                "world": data["page_world"] or shown.world,
                "by": request.user,
            },
        )
        if new:
            rows = [
                Measure(
                    entry=entry,
                    kind=kind,
                    value=data[name].value,
                    text=form.text(name),
                    draw=build.design.draw if kind == "weight" else None,
                )
                for name, kind in ProofForm.KINDS
                if data.get(name)
            ]
            if data.get("shots"):
                rows.append(Measure(entry=entry, kind="shots", value=data["shots"], text=str(data["shots"])))
            Measure.objects.bulk_create(rows)
    messages.success(request, "The proof is written down." if new else "That proof was kept already.")
    return redirect("builds:stage", number=number, stage="proof")


@require_GET
def card(request: HttpRequest, number: int) -> HttpResponse:
    """The bow card as a PDF, with a QR code to the bow's page."""
    build = get_build(number)
    found, _ = designs.try_solution(build.design)
    proved = services.proof(build, found)
    if proved is None or found is None:
        messages.info(request, "The bow card is printed from the proof; write that down first.")
        return redirect("builds:stage", number=number, stage="proof")
    link = request.build_absolute_uri(reverse("builds:detail", args=[number]))
    strings = list(BowString.objects.filter(build=build))
    content = bow_card(build, proved, strings, units_of(request), Workshop.get(), link)
    return HttpResponse(
        content,
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="bow-card-{number}.pdf"'},
    )
