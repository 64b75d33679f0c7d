"""A page that a form led to may be asked for again."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import Resolver404, resolve


class AskedAgainMiddleware:
    """Leads from a place that only takes forms to the page above it: a refused form's page is
    reloaded, its address kept.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if response.status_code == 405 and request.method in ("GET", "HEAD"):
            return redirect(_above(request.path))
        return response


def _above(path: str) -> str:
    """The nearest place above this one."""
    while path != "/":
        path = path.rstrip("/").rpartition("/")[0] + "/"
        try:
            resolve(path)
        except Resolver404:
            continue
        break
    return path
