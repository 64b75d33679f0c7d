"""Whole pages kept as long as nothing in the data has changed: for who leafs to and fro.

Every commit of anybody, in whichever process, changes the head of SQLite's index of its log, or,
where the log was just taken into the data, the time of their file. A page is kept under both, its
reader and the minute. Ids and tokens of forms are made anew each time it is given.
"""

import re
import time
from collections.abc import Callable
from functools import wraps
from hashlib import sha256
from uuid import uuid4

from django.contrib.messages import get_messages
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token

from fellwind.kit.cache import Recent, data_version

MOST = 160  # pages
IDS = re.compile(rb'(name="(?:[\w-]*client_id|form_id)" value=")[0-9a-f-]{36}')
TOKENS = re.compile(rb'(name="csrfmiddlewaretoken" value="|data-csrf=")[A-Za-z0-9]{64}')
UNFINISHED = (b'hx-trigger="load"', b'class="later"')  # a part of it is reckoned after it is shown
View = Callable[..., HttpResponse]
_pages = Recent(MOST)


def kept_page(view: View) -> View:
    """Keep the pages of a view that only reads: the same reader is given the same page again, until
    anything in the data changes or a minute is over.
    """

    @wraps(view)
    def kept(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        key = _key(request)
        found: bytes | None = None if key is None else _pages.get(key)
        if found is not None:
            token = get_token(request).encode()
            page = IDS.sub(lambda m: m[1] + str(uuid4()).encode(), found)
            return HttpResponse(TOKENS.sub(lambda m: m[1] + token, page))
        response = view(request, *args, **kwargs)
        page = response.content
        if key and response.status_code == 200 and not any(one in page for one in UNFINISHED):
            _pages.put(key, page)
        return response

    return kept


def _key(request: HttpRequest) -> str | None:
    """Under what a page is kept; None for one that is not: with a message, or for a part."""
    version = data_version()
    if version is None or "HX-Request" in request.headers:
        return None
    if len(get_messages(request)):
        return None
    minute = int(time.time() // 60)
    told = (request.get_host(), request.get_full_path(), str(request.user.pk), str(minute))
    return sha256(version + "\0".join(told).encode("utf-8", "replace")).hexdigest()
