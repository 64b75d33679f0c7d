"""Long lists: a page of them at a time, and a search."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.db.models import Q, QuerySet
from django.http import QueryDict

from fellwind.kit.pages import number_in

EACH = 25
LONGEST = 80  # characters of what is searched for


@dataclass(frozen=True)
class Paged:
    """A page of a list.

    Attributes:
        before, after: addresses of the pages beside it, within the list's own; nothing at the ends.
    """

    rows: Sequence[Any]
    count: int
    number: int
    pages: int
    sought: str
    before: str
    after: str

    @property
    def long(self) -> bool:
        """Whether there is anything to leaf through or to search in."""
        return self.pages > 1 or bool(self.sought)


def paged(
    rows: QuerySet[Any, Any], asked: QueryDict, words: Sequence[str], number: str = ""
) -> Paged:
    """The page of a list that was asked for.

    Args:
        asked: ``q``, what is searched for, and ``page``.
        words: fields that may hold what is searched for.
        number: field of a number that it may be.
    """
    sought = " ".join(asked.get("q", "").replace("\0", "").split())[:LONGEST]
    for word in sought.split():
        found = Q()
        for field in words:
            found |= Q(**{f"{field}__icontains": word})
        if number and number_in(word) is not None:
            found |= Q(**{number: number_in(word)})
        rows = rows.filter(found)
    leaves = Paginator(rows, EACH)
    page = leaves.get_page(number_in(asked.get("page")))

    def address(to: int) -> str:
        return "?" + urlencode({"q": sought, "page": to} if sought else {"page": to})

    return Paged(
        list(page.object_list),
        leaves.count,
        page.number,
        leaves.num_pages,
        sought,
        address(page.number - 1) if page.has_previous() else "",
        address(page.number + 1) if page.has_next() else "",
    )
