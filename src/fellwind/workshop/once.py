"""A form sent twice counts once."""

from collections.abc import Callable
from uuid import UUID

from django.contrib import messages
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from fellwind.workshop.models import SentForm

View = Callable[..., HttpResponse]


def only_answers(view: View) -> View:
    """Mark a view that reads a form and writes nothing: it may be asked as often, and as much at once, as one likes."""
    view.only_answers = True  # type: ignore[attr-defined]
    return view


class OnceMiddleware:
    """Answers a form whose id was taken before with where it led then; a refused form may be sent again."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: View, args: tuple[object, ...], kwargs: dict[str, object]
    ) -> HttpResponse | None:
        form_id = _uuid(request.POST.get("form_id", "")) if request.method == "POST" else None
        if form_id is None or not request.user.is_authenticated or getattr(view, "only_answers", False):
            return None
        try:
            with transaction.atomic():
                sent = SentForm.objects.create(form_id=form_id, person=request.user)
        except IntegrityError:
            messages.info(request, "That was kept already.")
            return redirect(SentForm.objects.get(form_id=form_id).location or "/")
        try:
            response = view(request, *args, **kwargs)
        except BaseException:
            sent.delete()
            raise
        if response.status_code == 302:
            sent.location = response["Location"]
            sent.save(update_fields=["location"])
        else:
            sent.delete()
        return response


def _uuid(text: str) -> UUID | None:
    try:
        return UUID(text)
    except ValueError:
        return None
