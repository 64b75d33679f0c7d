"""Views of the string room."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from fellwind.builds.services import get_build
from fellwind.kit.context import units_of
from fellwind.kit.once import written_at
from fellwind.kit.pages import refused, show
from fellwind.kit.permissions import for_writers
from fellwind.kit.versions import overtaken
from fellwind.people.services import who
from fellwind.strings import keeping, leaving, pages, services
from fellwind.strings.forms import READ_FORMS, PartForm, StringForm, TestForm, ThreadForm
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread


def _string(pk: int) -> BowString:
    return get_object_or_404(services.strings(), pk=pk)


@require_safe
def index(request: HttpRequest) -> HttpResponse:
    """Every string, hung by its bow, with the stock of thread."""
    return show(request, "strings/list.html", pages.list_page())


def sheet(request: HttpRequest, number: int, pk: int | None = None) -> HttpResponse:
    """The strings of a build, and a form for one."""
    build, shown = get_build(number), units_of(request)
    string = BowString(build=build)
    if pk is not None:
        string = get_object_or_404(BowString, build=build, pk=pk)
    initial = StringForm.initial_of(string) if pk else StringForm.initial_for(build)
    form = StringForm(request.POST or None, shown=shown, initial=initial, row=string, build=build)
    if request.method == "POST" and form.is_valid():
        before = string.kind
        form.fill(string)
        if pk is None and string.like is not None:
            keeping.take_over(string, string.like)
        if before != string.kind:
            string.turns = None
        made = services.sheet_of(string)
        if made.plan is None:
            form.add_error(None, made.trouble)
        else:
            keeping.keep(string, who(request), form.reads_in)
            messages.success(request, f"The {string.get_role_display()} is kept.")
            return redirect("strings:detail", pk=string.pk)
    form.mark_faults()
    page = pages.sheet_page(build, form, string)
    return show(request, "strings/sheet.html", page, refused(form.errors))


@require_safe
def detail(request: HttpRequest, pk: int) -> HttpResponse:
    """A string: its picture, its figures, what was read of it."""
    chosen = request.GET.get("part", "")
    page = pages.string_page(_string(pk), units_of(request), chosen=chosen)
    return show(request, "strings/detail.html", page)


def part(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """The figures of one part, asked for by its picture, and changed there."""
    if name not in PartForm.PARTS:
        raise Http404
    string, shown = _string(pk), units_of(request)
    if request.method != "POST":
        if request.headers.get("HX-Request"):
            form = pages.part_form(string, name, shown)
            page = pages.StringPage(string, services.sheet_of(string), "", part=form)
            return show(request, "strings/_part.html", page)
        return redirect(f"{string.get_absolute_url()}?part={name}#part")
    form = pages.part_form(string, name, shown, request.POST)
    if form.is_valid():
        form.fill(string)
        made = services.sheet_of(string)
        if made.plan is None:
            form.add_error(None, made.trouble)
        else:
            told = f"{string.get_role_display()}: {form.title.lower()} changed"
            keeping.keep(string, who(request), form.reads_in, told)
            messages.success(request, f"{form.title}: kept.")
            return redirect("strings:detail", pk=pk)
    form.mark_faults()
    page = pages.string_page(_string(pk), shown, part=form, chosen=name)
    return show(request, "strings/detail.html", page, 422)


@require_POST
def read(request: HttpRequest, pk: int, what: str) -> HttpResponse:
    """Write down what was read of a string or done to it."""
    if what not in READ_FORMS:
        raise Http404
    string, shown = _string(pk), units_of(request)
    form = READ_FORMS[what](request.POST, shown=shown, made=services.sheet_of(string))
    if form.is_valid():
        key = form.cleaned_data.get("client_id")
        new = keeping.write_all(
            string, form.rows(), who(request), form.reads_in, key, written_at(request)
        )
        messages.success(request, "It is kept." if new else "That was kept already.")
        return redirect("strings:detail", pk=pk)
    form.mark_faults()
    page = pages.string_page(string, shown, forms={what: form})
    return show(request, "strings/detail.html", page, 422)


@require_POST
def strike(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """Strike an entry that was written by mistake."""
    row = get_object_or_404(StringEntry, pk=entry, string__pk=pk)
    if keeping.strike(row, who(request)):
        messages.success(request, f"Struck: {row.text}.")
    else:
        messages.info(request, "It was struck already.")
    return redirect("strings:detail", pk=pk)


def make(request: HttpRequest, pk: int, number: int | None = None) -> HttpResponse:
    """A string made step by step, for three metres away."""
    string, shown = _string(pk), units_of(request)
    page = pages.make_page(string, number, shown)
    if request.method == "POST" and page.step is not None:
        key = request.POST.get("step", "")
        if key in {one.key for one in page.steps}:
            keeping.write(string, "step", key, who(request), shown.world)
        after = page.after_number
        if after is None:
            messages.success(request, "Every step is done. Read its brace, and measure it.")
            return redirect("strings:detail", pk=pk)
        return redirect("strings:make_at", pk=pk, number=after)
    return show(request, "strings/make.html", page)


@require_POST
@for_writers
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Throw a string away that was planned by mistake, as long as nothing was read of it."""
    string = _string(pk)
    said = overtaken(string, request.POST)
    if said or services.standing(string):
        messages.error(request, said or "Something was read of it: put it away instead.")
        return redirect("strings:detail", pk=pk)
    number = string.build.number
    keeping.throw_away(string)
    messages.success(request, "The plan is thrown away.")
    return redirect("strings:sheet", number=number)


def thread(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """A thread of the shop's: its figures, its tests and what they say."""
    row = Thread() if pk is None else get_object_or_404(Thread, pk=pk)
    shown = units_of(request)
    if request.method != "POST":
        return show(request, "strings/thread.html", pages.thread_page(row, shown))
    initial = ThreadForm.initial_of(row) if row.pk else {}
    form = ThreadForm(request.POST, shown=shown, initial=initial, row=row)
    if form.is_valid():
        form.fill(row).save()
        messages.success(request, f"{row.name} is kept.")
        return redirect("strings:thread", pk=row.pk)
    page = pages.thread_page(row if row.pk else None, shown, form=form)
    return show(request, "strings/thread.html", page, 422)


@require_POST
def test(request: HttpRequest, pk: int) -> HttpResponse:
    """Write down a strand or strip that was pulled until it broke."""
    row, shown = get_object_or_404(Thread, pk=pk), units_of(request)
    form = TestForm(request.POST, shown=shown)
    if form.is_valid():
        keeping.write_test(row, form, who(request))
        messages.success(request, "It is kept.")
        return redirect("strings:thread", pk=pk)
    page = pages.thread_page(row, shown, test=form)
    return show(request, "strings/thread.html", page, 422)


@require_POST
def strike_test(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """Strike a test that was written by mistake."""
    row = get_object_or_404(StrandTest, pk=entry, thread__pk=pk)
    keeping.strike_test(row, who(request))
    messages.success(request, f"Struck: {row.load_text}.")
    return redirect("strings:thread", pk=pk)


@require_safe
def leave(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """A string as a file: its sheet, its label, its parts, its bow with it."""
    if name not in leaving.FILES:
        raise Http404
    made = services.sheet_of(_string(pk))
    try:
        content, kind = leaving.leave(made, name, units_of(request))
    except BowyeryError as error:
        said = getattr(error, "reason", str(error))
        return HttpResponse(said, status=409, content_type="text/plain; charset=utf-8")
    place = "inline" if kind == "application/pdf" else "attachment"
    headers = {"Content-Disposition": f'{place}; filename="string-{pk}-{name}"'}
    return HttpResponse(content, content_type=kind, headers=headers)
