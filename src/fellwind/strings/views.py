"""Views of a build's strings."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from fellwind.builds.models import Entry
from fellwind.builds.views import get_build, head
from fellwind.strings import services
from fellwind.strings.forms import StringForm
from fellwind.strings.models import BowString
from fellwind.workshop.context import units_of


def sheet(request: HttpRequest, number: int, pk: int | None = None) -> HttpResponse:
    """The string sheet: every string of the build with its plan, and a form for one."""
    build = get_build(number)
    string = get_object_or_404(BowString, build=build, pk=pk) if pk else BowString(build=build)
    shown = units_of(request)
    initial = {"brace_height": build.design.brace_height, "fibre": "linen"}
    form = StringForm(request.POST or None, shown=shown, initial=StringForm.initial_of(string) if pk else initial)
    context = head(build, shown, "string")
    if request.method == "POST" and form.is_valid():
        if context["found"] is None:
            form.add_error(None, f"The design cannot be solved, so no string can be planned: {context['trouble']}")
        else:
            form.save(string)
            Entry.objects.create(
                build=build, kind="string", stage=build.stage, by=request.user, world=shown.world, text=_told(string)
            )
            messages.success(request, f"The {string.get_role_display()} is kept.")
            return redirect("strings:sheet", number=number)
    strings = list(BowString.objects.filter(build=build))
    found = context["found"]
    return render(
        request,
        "strings/sheet.html",
        context
        | {
            "form": form,
            "string": string,
            "sheets": [services.sheet(s, found) for s in strings] if found else [],
            "twins": services.twins(strings),
        },
        status=422 if form.errors else 200,
    )


def _told(string: BowString) -> str:
    parts = [f"{string.get_role_display()}: {string.fibre}, {string.kind}"]
    parts += [f"{string.strands} strands"] if string.strands else []
    parts += [f"length {string.measured_length_text}"] if string.measured_length else []
    parts += [f"mass {string.measured_mass_text}"] if string.measured_mass else []
    return ", ".join(parts)
