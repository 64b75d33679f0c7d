"""Views of a build's strings."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect

from fellwind.builds.pages import Head, head
from fellwind.builds.services import get_build
from fellwind.kit.context import units_of
from fellwind.kit.pages import refused, show
from fellwind.people.services import who
from fellwind.strings import services
from fellwind.strings.forms import StringForm
from fellwind.strings.models import BowString
from fellwind.strings.services import Sheet, Twin


@dataclass(frozen=True)
class StringsPage(Head):
    """Every string of a build with its plan, its twins compared, and a form for one."""

    form: StringForm
    string: BowString
    sheets: Sequence[Sheet]
    twins: Sequence[Twin]


def sheet(request: HttpRequest, number: int, pk: int | None = None) -> HttpResponse:
    """The string sheet: every string of the build with its plan, and a form for one."""
    build = get_build(number)
    string = BowString(build=build)
    if pk is not None:
        string = get_object_or_404(BowString, build=build, pk=pk)
    shown = units_of(request)
    initial = StringForm.initial_of(string) if pk else StringForm.initial_for(build)
    form = StringForm(request.POST or None, shown=shown, initial=initial, row=string)
    top = head(build, "string")
    if request.method == "POST" and form.is_valid():
        if top.found is None:
            said = f"The design cannot be solved, so no string can be planned: {top.trouble}"
            form.add_error(None, said)
        else:
            services.keep(form.fill(string), who(request), shown.world)
            messages.success(request, f"The {string.get_role_display()} is kept.")
            return redirect("strings:sheet", number=number)
    strings = list(BowString.objects.filter(build=build))
    found = top.found
    sheets = [services.sheet(one, found) for one in strings] if found else []
    page = StringsPage(
        **vars(top), form=form, string=string, sheets=sheets, twins=services.twins(strings)
    )
    return show(request, "strings/sheet.html", page, refused(form.errors))
