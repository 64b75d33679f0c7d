"""How much a request may bring along."""

import re
from collections.abc import Callable, Iterable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

MOST_BODY = 32_000_000  # bytes; a photograph with its form
MOST_FORM = 6_000_000  # of everything else
LARGE = ("/photos/keep/", "/bring/")  # addresses that take a photograph, or a bow with its own
TOO_LARGE = 413
_CHARSET = re.compile(r";\s*charset\s*=\s*\"?([^\";]*)\"?\s*", re.I)
Answer = Callable[[HttpRequest], HttpResponse]


class BodyMiddleware:
    """Refuses what is larger than its address takes, before any of it is read here. The server
    refuses more than :data:`MOST_BODY` while it arrives.
    """

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        most = MOST_BODY if request.path.endswith(LARGE) else MOST_FORM
        try:
            size = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            size = MOST_BODY + 1
        if size > most:
            page = render_to_string("too_large.html", {"most": most // 1_000_000})
            return HttpResponse(page, status=TOO_LARGE)
        return self.get_response(request)


def in_utf8(application: Callable[..., Iterable[bytes]]) -> Callable[..., Iterable[bytes]]:
    """A WSGI application that is asked in UTF-8 only. Whatever else a request says it is written in
    would be tried on its address as well, before anything of the application can answer for it.
    """

    def asked(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        kind = environ.get("CONTENT_TYPE", "")
        named = [name.strip().lower() for name in _CHARSET.findall(kind)]
        if any(name not in ("utf-8", "utf8") for name in named):
            page = render_to_string("not_utf8.html").encode()
            headers = [("Content-Type", "text/html; charset=utf-8"), ("Cache-Control", "no-store")]
            start_response("415 Unsupported Media Type", headers)
            return [page]
        environ["CONTENT_TYPE"] = _CHARSET.sub("", kind)
        return application(environ, start_response)

    return asked
