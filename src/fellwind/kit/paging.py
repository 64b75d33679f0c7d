"""Long lists: a page of them at a time, a search, an order and filters."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.db.models import Q, QuerySet
from django.http import QueryDict

from bowyery.units.quantity import POUND_FORCE, Units
from fellwind.kit.pages import number_in

EACH = 25
FEW = 8  # so many are seen at a glance
LONGEST = 80  # characters of what is searched for
WEIGHTS = tuple(POUND_FORCE * one for one in (30, 45, 60))  # between which weights are told apart


@dataclass(frozen=True)
class Choice:
    """Something that a list can be ordered or narrowed by: what it is sent as, its label, its
    options as sent and as shown, and the one that was chosen.
    """

    name: str
    label: str
    options: Sequence[tuple[str, str]]
    chosen: str


@dataclass(frozen=True)
class Ways:
    """How a list may be ordered and narrowed.

    Attributes:
        orders: fields by what they are called; the first is how it stands.
        fields: fields whose values it is narrowed to, by what they are called.
        states: conditions by what is called so, by what they are called together.
    """

    orders: Mapping[str, str] = field(default_factory=dict)
    fields: Mapping[str, str] = field(default_factory=dict)
    states: Mapping[str, Mapping[str, Q]] = field(default_factory=dict)


@dataclass(frozen=True)
class Paged:
    """A page of a list.

    Attributes:
        before, after: addresses of the pages beside it, within the list's own; nothing at the ends.
        choices: what it can be ordered and narrowed by.
        narrowed: something was searched for or chosen.
    """

    rows: Sequence[Any]
    count: int
    number: int
    pages: int
    sought: str
    before: str
    after: str
    choices: Sequence[Choice] = ()
    narrowed: bool = False

    @property
    def long(self) -> bool:
        """Whether there is anything to leaf through or to search in."""
        return self.pages > 1 or self.narrowed or (bool(self.choices) and self.count > FEW)


def by_weight(name: str, shown: Units) -> dict[str, Q]:
    """Conditions on a weight (N) in a field, by what they are called."""
    words = [shown.weight(one) for one in WEIGHTS]
    found = {f"under {words[0]}": Q(**{f"{name}__lt": WEIGHTS[0]})}
    for low, high, a, b in zip(WEIGHTS, WEIGHTS[1:], words, words[1:], strict=False):
        found[f"{a} to {b}"] = Q(**{f"{name}__gte": low, f"{name}__lt": high})
    return found | {f"{words[-1]} and more": Q(**{f"{name}__gte": WEIGHTS[-1]})}


def paged(
    rows: QuerySet[Any, Any],
    asked: QueryDict,
    words: Sequence[str],
    number: str = "",
    ways: Ways | None = None,
) -> Paged:
    """The page of a list that was asked for.

    Args:
        asked: ``q``, what is searched for, ``page``, ``sort`` and the filters.
        words: fields that may hold what is searched for.
        number: field of a number that it may be.
        ways: how it may be ordered and narrowed.
    """
    every = rows
    sought = " ".join(asked.get("q", "").replace("\0", "").split())[:LONGEST]
    for word in sought.split():
        found = Q()
        for name in words:
            found |= Q(**{f"{name}__icontains": word})
        if number and number_in(word) is not None:
            found |= Q(**{number: number_in(word)})
        rows = rows.filter(found)
    kept = {"q": sought} if sought else {}
    choices, rows, chosen = _chosen(rows, every, asked, ways or Ways())
    kept |= chosen
    leaves = Paginator(rows, EACH)
    page = leaves.get_page(number_in(asked.get("page")))

    def address(to: int) -> str:
        return "?" + urlencode(kept | {"page": str(to)})

    return Paged(
        list(page.object_list),
        leaves.count,
        page.number,
        leaves.num_pages,
        sought,
        address(page.number - 1) if page.has_previous() else "",
        address(page.number + 1) if page.has_next() else "",
        choices,
        bool(kept),
    )


def _chosen(
    rows: QuerySet[Any, Any], every: QuerySet[Any, Any], asked: QueryDict, ways: Ways
) -> tuple[list[Choice], QuerySet[Any, Any], dict[str, str]]:
    """What a list can be narrowed and ordered by, as the whole of it has it, the list so, and what
    was chosen.
    """
    kept, choices = dict[str, str](), list[Choice]()
    names = list(ways.fields.values())
    told = every.prefetch_related(None).order_by().values_list(*names).distinct() if names else []
    for (label, name), values in zip(ways.fields.items(), zip(*told, strict=True), strict=False):
        options = sorted({str(value) for value in values if value})
        wanted = asked.get(label, "")
        if wanted in options:
            rows, kept[label] = rows.filter(**{name: wanted}).distinct(), wanted
        if len(options) > 1:
            shown = [("", "any"), *((one, one) for one in options)]
            choices.append(Choice(label, label.capitalize(), shown, kept.get(label, "")))
    for label, states in ways.states.items():
        wanted = asked.get(label, "")
        if wanted in states:
            rows, kept[label] = rows.filter(states[wanted]).distinct(), wanted
        shown = [("", "any"), *((one, one) for one in states)]
        choices.append(Choice(label, label.capitalize(), shown, kept.get(label, "")))
    if ways.orders:
        first, wanted = next(iter(ways.orders)), asked.get("sort", "")
        if wanted in ways.orders and wanted != first:
            kept["sort"] = wanted
            rows = rows.order_by(ways.orders[wanted], *(rows.model._meta.ordering or ()))
        shown = [("" if one == first else one, one) for one in ways.orders]
        choices.append(Choice("sort", "Sorted by", shown, kept.get("sort", "")))
    return choices, rows, kept
