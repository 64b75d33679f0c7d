"""Whoever is not signed in is led to the door; scripts are told so in words of their own."""

from typing import Any

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import render

from fellwind.kit.once import queued

View = Any


class DoorMiddleware(LoginRequiredMiddleware):
    """As Django's, but a browser's queue and a part of a page get 401 and a sentence: a sign-in
    page would look like an answer.
    """

    def handle_no_permission(  # type: ignore[override]  # the stubs know redirects only
        self, request: HttpRequest, view_func: View
    ) -> HttpResponseBase:
        """Lead to the sign-in page, or say that nobody is signed in."""
        if queued(request) or "HX-Request" in request.headers:
            return render(request, "signed_out.html", status=401)
        return super().handle_no_permission(request, view_func)
