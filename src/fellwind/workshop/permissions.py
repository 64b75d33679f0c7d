"""Who may do what: guests read, helpers write at the bench, makers do everything."""

from collections.abc import Callable
from functools import wraps

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

# Sent by anybody who is signed in, or on the way to it.
OPEN_TO_ALL = {
    "workshop:login",
    "workshop:logout",
    "workshop:units",
    "workshop:theme",
    "workshop:demo",
    "workshop:join",
}
_SAFE = {"GET", "HEAD", "OPTIONS"}


class RoleMiddleware:
    """Refuses every writing request of a guest."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: object, args: object, kwargs: object) -> None:
        name = request.resolver_match.view_name if request.resolver_match else ""
        if request.method in _SAFE or name in OPEN_TO_ALL or not request.user.is_authenticated:
            return
        if not request.user.may_write:
            raise PermissionDenied("A guest reads; ask the maker for another role to write.")


def maker_only(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Let only makers use a view, or write through it where it is also read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        if not request.user.is_maker:
            raise PermissionDenied("Only a maker of this shop may do this.")
        return view(request, *args, **kwargs)

    return guarded
