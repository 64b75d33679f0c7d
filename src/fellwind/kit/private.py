"""What is nobody else's: pages that no browser or proxy keeps, and links that no log tells."""

import logging
import re
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

JOIN = re.compile(r"(/join/|/book/open/)[^/\s?\"']+")
Answer = Callable[[HttpRequest], HttpResponse]


class PrivateMiddleware:
    """Lets nobody keep a page, unless its view says otherwise; a HEAD is answered without body."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if not response.has_header("Cache-Control"):
            response["Cache-Control"] = "no-store"
        if request.method == "HEAD" and not response.streaming:
            size = str(len(response.content))
            response.content = b""
            response["Content-Length"] = size
        return response


class NoTokens(logging.Filter):
    """Takes the token out of an address."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Rewrite the message; every record passes."""
        said = record.getMessage()
        if JOIN.search(said):
            record.msg, record.args = JOIN.sub(r"\1…", said), ()
        return True
