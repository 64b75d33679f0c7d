"""At the door: tries to sign in are counted by name and by address, whoever comes with a browser
that its owner signed in with before is counted apart.

So nobody shuts a maker out by failing in the maker's name, or from the same address; and a known
browser in other hands has few tries, too.
"""

from typing import Any

from django.conf import settings
from django.core import signing
from django.core.cache import cache
from django.http import HttpRequest, HttpResponseBase

COOKIE = "fellwind-known"
LASTS = 400 * 86400  # seconds
TRIES, WITHIN = 10, 900  # of one known browser, within so many seconds


def address(request: HttpRequest) -> str:
    """Where somebody comes from; a proxy's word counts only where the server was told to trust
    it.
    """
    return str(request.META.get("REMOTE_ADDR", ""))


def _cookie(request: HttpRequest) -> str:
    return str(request.COOKIES.get(COOKIE, ""))


def _name_in(cookie: str) -> str:
    """Whose browser a cookie says it is; nobody's where it is not ours."""
    try:
        name: object = signing.loads(cookie, salt=COOKIE, max_age=LASTS)
    except signing.BadSignature:
        return ""
    return str(name)


def is_known(request: HttpRequest, credentials: dict[str, Any] | None = None) -> bool:
    """Whether a browser belongs to whom it tries to sign in, and has tries left."""
    given = credentials or {}
    name = str(given.get("username") or request.POST.get("username", "")).casefold()
    if not name or _name_in(_cookie(request)) != name:
        return False
    return int(cache.get(f"tries-{_cookie(request)[-60:]}", 0)) < TRIES


def tried(request: HttpRequest) -> None:
    """Count a known browser's failure."""
    key = f"tries-{_cookie(request)[-60:]}"
    cache.add(key, 0, WITHIN)
    cache.incr(key)


def remember(request: HttpRequest, response: HttpResponseBase, name: str) -> None:
    """Let a browser be known as that of whoever has just signed in with it."""
    response.set_cookie(
        COOKIE,
        signing.dumps(name.casefold(), salt=COOKIE),
        max_age=LASTS,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
        path="/login/",
    )
