"""How much a request may bring along."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

MOST_BODY = 32_000_000  # bytes; a photograph with its form
MOST_FORM = 6_000_000  # of everything else
TOO_LARGE, NOT_TEXT = 413, 415
Answer = Callable[[HttpRequest], HttpResponse]


class BodyMiddleware:
    """Refuses what is larger than its address takes, before any of it is read here, and what is not
    UTF-8. The server refuses more than :data:`MOST_BODY` while it arrives.
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
        charset = request.content_params.get("charset", "utf-8") if request.content_params else ""
        if charset.lower() not in ("", "utf-8", "utf8"):
            return HttpResponse(render_to_string("not_utf8.html"), status=NOT_TEXT)
        return self.get_response(request)
