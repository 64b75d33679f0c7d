"""Views of the practice room. Everybody who is signed in may practise; nobody sees another's."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from bowyery.errors import BowyeryError
from bowyery.practice.lessons import BY_KEY
from bowyery.practice.worlds import PracticeError
from fellwind.kit.context import units_of
from fellwind.kit.pages import number_in, show
from fellwind.kit.permissions import for_everybody
from fellwind.people.services import who
from fellwind.practice import pages, services
from fellwind.practice.forms import ActForm, BeginForm


@require_safe
def home(request: HttpRequest) -> HttpResponse:
    """Lessons, a free stave, and one's own sessions."""
    shown = units_of(request)
    sent = {k: v for k, v in request.GET.items() if k in BeginForm.base_fields}
    form = BeginForm(shown=shown, initial=sent) if sent else None
    return show(request, "practice/home.html", pages.home(who(request), shown, form))


@require_POST
@for_everybody
def begin(request: HttpRequest) -> HttpResponse:
    """Begin a lesson, or a free stave."""
    person, shown = who(request), units_of(request)
    lesson = BY_KEY.get(request.POST.get("lesson", ""))
    if lesson is not None:
        return redirect("practice:tree", services.new_session(person, lesson.setup).pk)
    form = BeginForm(request.POST, shown=shown)
    if form.is_valid():
        try:
            session = services.new_session(person, form.setup(services.any_seed()))
        except PracticeError as error:
            form.add_error(error.place or None, str(error))
        except BowyeryError as error:
            form.add_error(None, str(error))
        else:
            return redirect("practice:tree", session.pk)
    form.mark_faults()
    return show(request, "practice/home.html", pages.home(person, shown, form), status=422)


@require_safe
def tree(request: HttpRequest, pk: int) -> HttpResponse:
    """A stave on the tree."""
    page = pages.tree(services.session_of(who(request), pk), units_of(request))
    return show(request, "practice/tree.html", page)


@require_POST
@for_everybody
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Do something to it."""
    session, shown = services.session_of(who(request), pk), units_of(request)
    form = ActForm(request.POST, shown=shown)
    fault = ""
    if form.is_valid():
        try:
            services.go_on(session, form.cleaned_data["number"], [form.done()])
        except services.GoneOnError as error:
            page = pages.tree(session, shown, None, str(error))
            return show(request, "practice/tree.html", page, status=422)
        except PracticeError as error:
            place = form.PLACES.get((form.cleaned_data["act"].partition(":")[0], error.place), "")
            form.add_error(place or None, str(error))
            fault = str(error)
        except BowyeryError as error:
            form.add_error(None, str(error))
            fault = str(error)
        else:
            return redirect("practice:tree", session.pk)
    form.mark_faults()
    fault = fault or " ".join(form.faults())
    page = pages.tree(session, shown, form, fault)
    return show(request, "practice/tree.html", page, status=422)


@require_safe
def look_back(request: HttpRequest, pk: int) -> HttpResponse:
    """What was true, what was done, what would have helped."""
    session, shown = services.session_of(who(request), pk), units_of(request)
    page = pages.debrief_page(session, shown, number_in(request.GET.get("step")))
    return show(request, "practice/debrief.html", page)


@require_safe
def others(request: HttpRequest, pk: int) -> HttpResponse:
    """The same stave in the hands of the advice, and of the plain rule."""
    session = services.session_of(who(request), pk)
    return show(request, "practice/_others.html", pages.others(session, units_of(request)))


@require_safe
def record(request: HttpRequest) -> HttpResponse:
    """A learner's record."""
    return show(request, "practice/record.html", pages.record(who(request), units_of(request)))


@require_safe
def skill(request: HttpRequest, trouble: str) -> HttpResponse:
    """The last staves of a trouble in three hands."""
    part = pages.skill(who(request), trouble, units_of(request))
    return show(request, "practice/_skill.html", part)
