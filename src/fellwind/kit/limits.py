"""How much a request may bring along."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

MOST_BODY = 32_000_000  # bytes; a photograph with its form
MOST_FORM = 6_000_000  # of everything else
TOO_LARGE = 413
Answer = Callable[[HttpRequest], HttpResponse]


class BodyMiddleware:
    """Refuses what is larger than its address takes, before any of it is read here. The server
    refuses more than :data:`MOST_BODY` while it arrives.
    """

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        most = MOST_BODY if request.path.endswith("/photos/keep/") else MOST_FORM
        try:
            size = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            size = MOST_BODY + 1
        if size > most:
            page = render_to_string("too_large.html", {"most": most // 1_000_000})
            return HttpResponse(page, status=TOO_LARGE)
        return self.get_response(request)
