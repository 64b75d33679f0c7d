"""Views of builds: list, stages, log, pencil line, proof, bow card."""

from uuid import uuid4

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from bowyery.making.stages import NAMES as STAGES
from fellwind.builds import card as cards
from fellwind.builds import inquest as inquests
from fellwind.builds import log as bench
from fellwind.builds import pages, services, stages, waits
from fellwind.builds import season as seasons
from fellwind.builds.forms import BuildForm, LineForm, MoveForm, ProofForm, WaitForm
from fellwind.builds.models import BenchPhoto, Build, Inquest, Wait
from fellwind.builds.pages import ReadBack
from fellwind.builds.photos import BenchPhotoForm
from fellwind.builds.ports import BOW_PAGE
from fellwind.builds.proof import keep_proof
from fellwind.builds.services import get_build
from fellwind.designs.models import Design
from fellwind.designs.services import try_solution
from fellwind.kit.context import units_of
from fellwind.kit.kept_pages import kept_page
from fellwind.kit.once import only_answers, written_at
from fellwind.kit.pages import number_in, refused, show
from fellwind.kit.permissions import for_everybody, for_writers
from fellwind.kit.photos import photo_answer
from fellwind.kit.rooms import room_for, stage_page
from fellwind.people.services import who


@require_safe
@kept_page
def build_list(request: HttpRequest) -> HttpResponse:
    """Builds, the newest first."""
    return show(
        request,
        "builds/list.html",
        pages.build_list(request.GET, timezone.now(), units_of(request)),
    )


@require_safe
def season(request: HttpRequest) -> HttpResponse:
    """Which bows are done when, and what to begin for a wanted day."""
    page = seasons.season(request.GET, timezone.now(), units_of(request))
    return show(request, "builds/season.html", page)


@for_writers
def start(request: HttpRequest) -> HttpResponse:
    """Start a build from a design."""
    if not Design.objects.exists():
        messages.info(request, "A build follows a design: make the design first.")
        return redirect("designs:new")
    initial = BuildForm.initial_for(request.GET.get("design"))
    form = BuildForm(request.POST or None, shown=units_of(request), initial=initial)
    if request.method == "POST" and form.is_valid():
        build = services.start(form.cleaned_data, who(request))
        messages.success(request, f"Number {build.number} is started.")
        return redirect("builds:stage", number=build.number, stage="wood")
    return show(request, "builds/start.html", pages.StartPage(form), refused(form.errors))


@require_safe
def detail(request: HttpRequest, number: int) -> HttpResponse:
    """Go to the stage a build stands at."""
    return redirect(stage_page(number, get_build(number).stage))


@require_safe
def stage(request: HttpRequest, number: int, stage: str) -> HttpResponse:
    """One stage of a build."""
    if stage not in STAGES:
        raise Http404
    if room_for(stage).key != "builds":
        return redirect(stage_page(number, stage))
    page = pages.stage_page(get_build(number), stage, units_of(request), asked=request.GET)
    return show(request, "builds/stage.html", page)


@require_POST
def next_stage(request: HttpRequest, number: int) -> HttpResponse:
    """Tie the open knot. Sent twice from the same stage, it counts once."""
    build = get_build(number)
    services.go_on(build, request.POST.get("stage", ""), who(request))
    return redirect(stage_page(number, build.stage))


@require_POST
def take_over(request: HttpRequest, number: int) -> HttpResponse:
    """Build on by the design as it was changed since."""
    build = get_build(number)
    services.take_over(build, who(request))
    return redirect(stage_page(number, build.stage))


@require_POST
def tick(request: HttpRequest, number: int) -> HttpResponse:
    """Tick an item of a stage's list."""
    build = get_build(number)
    item, stage = request.POST.get("item", ""), request.POST.get("stage", build.stage)
    found, _ = try_solution(build.design)
    listed = stages.items(stage, build.design, found, units_of(request))
    if stage not in STAGES or item not in {one.key for one in listed}:
        raise Http404
    bench.tick(build, item, who(request))
    return redirect(reverse("builds:stage", args=[number, stage]) + "#list")


@require_POST
def add_wait(request: HttpRequest, number: int) -> HttpResponse:
    """Hang a wait from the current knot."""
    build = get_build(number)
    form = WaitForm(request.POST, build=build)
    if form.is_valid():
        form.save(build)
        messages.success(request, "It hangs from the string until then.")
        return redirect(stage_page(number, build.stage))
    return show(request, "builds/wait.html", pages.WaitPage(form, build), 422)


@require_POST
def move_wait(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Move the end of a wait, and what follows it."""
    build = get_build(number)
    wait = get_object_or_404(build.waits.filter(ended=None), pk=pk)
    form = MoveForm(request.POST)
    if not form.is_valid():
        messages.error(request, " ".join(str(one) for one in form.errors["until"]))
    else:
        others = waits.move(wait, form.cleaned_data["until"])
        follow = f", and {others} that follow{'s' if others == 1 else ''}" if others else ""
        messages.success(request, f"{wait.what}: moved{follow}.")
    return redirect(stage_page(number, build.stage))


@require_POST
def end_wait(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Take a wait off."""
    build = get_build(number)
    Wait.objects.filter(build=build, pk=pk, ended=None).update(ended=timezone.now())
    return redirect(stage_page(number, build.stage))


def end(request: HttpRequest, number: int) -> HttpResponse:
    """How a build ends: finished, sold, given, broken, set aside, or cut down into another."""
    build, shown = get_build(number), units_of(request)
    if request.method == "POST" and request.POST.get("again"):
        inquests.go_on_again(build, who(request))
        messages.success(request, "The build is open again.")
        return redirect("builds:detail", number=number)
    begun = {"ending": build.ending or "aside", "words": build.ending_words,
             "became": build.became_id}  # fmt: skip
    form = inquests.EndForm(request.POST or None, shown=shown, build=build, initial=begun)
    if request.method == "POST" and form.is_valid():
        inquests.end(build, form, who(request))
        messages.success(request, f"The bow is {build.ended}.")
        if build.ending == "broken":
            return redirect("builds:inquest", number=number)
        return redirect("builds:log", number=number)
    page = inquests.EndPage(build, form)
    return show(request, "builds/end.html", page, refused(form.errors))


def inquest(request: HttpRequest, number: int) -> HttpResponse:
    """An inquest on a bow that broke."""
    build, shown = get_build(number), units_of(request)
    if request.method != "POST":
        return show(request, "builds/inquest.html", inquests.inquest_page(build, shown))
    row = Inquest.objects.filter(build=build).first()
    initial = inquests.InquestForm.initial_of(row, build, shown) if row else {}
    form = inquests.InquestForm(request.POST, shown=shown, build=build, initial=initial, row=row)
    if form.is_valid():
        inquests.keep(build, form, row or Inquest(), who(request))
        messages.success(request, "The inquest is kept.")
        return redirect("builds:inquest", number=number)
    page = inquests.inquest_page(build, shown, form)
    return show(request, "builds/inquest.html", page, 422)


@require_safe
def log(request: HttpRequest, number: int) -> HttpResponse:
    """Everything written about a build, in order."""
    return show(request, "builds/log.html", pages.log_page(get_build(number), units_of(request)))


@require_safe
@for_writers
def photos(request: HttpRequest, number: int) -> HttpResponse:
    """Take a photograph at the bench."""
    form = BenchPhotoForm(shown=units_of(request))
    return show(request, "builds/photos.html", pages.photos_page(get_build(number), form))


@require_POST
def photo_keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photograph taken at the bench."""
    build = get_build(number)
    form = BenchPhotoForm(request.POST, request.FILES, shown=units_of(request))
    if form.is_valid():
        kept = form.keep(build, who(request), written_at(request))
        messages.success(request, "The photograph is kept.")
        return redirect(f"{reverse('builds:log', args=[number])}#entry-{kept.entry.pk}")
    return show(request, "builds/photos.html", pages.photos_page(build, form), 422)


@require_safe
def photo(request: HttpRequest, pk: int, ending: str = "") -> FileResponse:
    """The picture itself, or its small copy."""
    return photo_answer(get_object_or_404(BenchPhoto, pk=pk).name, ending)


@require_POST
def photo_drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a photograph off the pages; its entry and its files stay."""
    row = get_object_or_404(BenchPhoto.objects.select_related("entry__build"), pk=pk)
    row.gone = True
    row.save(update_fields=["gone"])
    messages.success(request, "The photograph is off the pages; what it showed stays written.")
    return redirect("builds:log", number=row.entry.build.number)


def _pencil_build(request: HttpRequest) -> Build | None:
    """The build a line names, else the one at hand; never another than the one that was named."""
    named = request.POST.get("build") or request.GET.get("build")
    if not named:
        return services.at_hand()
    number = number_in(named)
    if number is None:
        raise Http404("There is no such build.")
    return get_build(number)


@for_everybody
@only_answers
def read_back(request: HttpRequest) -> HttpResponse:
    """Say a pencil line back in words, before it is kept."""
    build, shown = _pencil_build(request), units_of(request)
    part = bool(request.headers.get("HX-Request"))
    template = "builds/_read_back.html" if part else "builds/read_back.html"
    if build is None:
        trouble = "There is no open build to write to; start one first."
        return show(request, template, ReadBack(trouble=trouble), 422)
    data = request.POST if request.method == "POST" else request.GET
    world = data.get("page_world") or shown.world
    form = LineForm({**data.dict(), "page_world": world}, build=build)
    if not form.is_valid():
        return show(request, template, _trouble(form, build, data.get("line", "")), 422)
    said = form.cleaned_data
    page = ReadBack(
        build,
        line=said["line"],
        words=bench.in_words(build, form.statements, shown),
        page_world=said["page_world"],
        client_id=said["client_id"],
        corrects=said["corrects"],
    )
    return show(request, template, page)


def _trouble(form: LineForm, build: Build, line: str) -> ReadBack:
    return ReadBack(build, form.trouble(), line)


@require_POST
def keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a pencil line as an entry."""
    build = get_build(number)
    form = LineForm(request.POST, build=build)
    if not form.is_valid():
        page = _trouble(form, build, request.POST.get("line", ""))
        return show(request, "builds/read_back.html", page, 422)
    entry, new = form.keep(who(request), written_at(request))
    if new:
        messages.success(request, f"Written down for number {number}: {entry.text}")
    else:
        messages.info(request, f"That was kept already: {entry.text}")
    return redirect(stage_page(number, build.stage))


@for_writers
def correct(request: HttpRequest, number: int, pk: int) -> HttpResponse:
    """Correct an entry: a new one that points to it."""
    build = get_build(number)
    rows = build.entries.filter(kind="bench").select_related("corrected_by")
    wrong = get_object_or_404(rows, pk=pk)
    if hasattr(wrong, "corrected_by"):
        said = f"That entry is corrected already, to: {wrong.corrected_by.text}"
        messages.info(request, said)
        return redirect("builds:log", number=number)
    initial = {"line": wrong.text, "client_id": uuid4()}
    form = LineForm(request.POST or None, build=build, initial=initial)
    if request.method == "POST" and form.is_valid():
        form.keep(who(request), written_at(request), wrong)
        messages.success(request, "The correction is kept beside what it corrects.")
        return redirect("builds:log", number=number)
    page = pages.CorrectPage(form, build, wrong)
    return show(request, "builds/correct.html", page, refused(form.errors))


@require_POST
def prove(request: HttpRequest, number: int) -> HttpResponse:
    """Write down the proof of a bow."""
    build, shown = get_build(number), units_of(request)
    form = ProofForm(request.POST, shown=shown)
    if form.is_valid() and STAGES.index(build.stage) < STAGES.index("tiller"):
        form.add_error(
            None,
            f"This bow is still at {build.stage}: its proof is written once it was tillered. Take"
            " it on to the tiller first, if it was.",
        )
    if form.errors:
        page = pages.stage_page(build, "proof", shown, form)
        return show(request, "builds/stage.html", page, 422)
    world = form.cleaned_data["page_world"] or shown.world
    new = keep_proof(build, form, world, who(request), written_at(request))
    messages.success(
        request, "The proof is written down." if new else "That proof was kept already."
    )
    return redirect("builds:stage", number=number, stage="proof")


@require_safe
def card(request: HttpRequest, number: int) -> HttpResponse:
    """The bow card as a PDF, with a QR code to the bow's page."""
    build = get_build(number)
    own = BOW_PAGE.first(build)
    link = request.build_absolute_uri(own or reverse("builds:detail", args=[number]))
    content = cards.bow_card(build, units_of(request), link)
    if content is None:
        messages.info(request, "The bow card is printed from the proof; write that down first.")
        return redirect("builds:stage", number=number, stage="proof")
    headers = {"Content-Disposition": f'inline; filename="bow-card-{number}.pdf"'}
    return HttpResponse(content, content_type="application/pdf", headers=headers)
