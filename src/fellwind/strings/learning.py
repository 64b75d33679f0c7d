"""What strings show of how a fibre beds in and creeps; and what the next one starts from."""

from __future__ import annotations

import math
from functools import partial

from django.db.models import Count, Q

from bowyery.record.learned import Evidence, unfolded
from bowyery.strings.settle import settles, settling
from fellwind.kit.cache import computed
from fellwind.kit.ports import EVIDENCE
from fellwind.shop.learning import days
from fellwind.strings.models import BowString
from fellwind.strings.services import brace_reads, sheet_of, standing, strings

LEAST = 3  # brace heights of one string, to say how it settles
Seen = tuple[float, float] | None


@EVIDENCE["bedding"].answered_by
def bedding() -> list[Evidence]:
    """The log of how far each string bedded in over what its fibre's strings usually do."""
    return _rows(0)


@EVIDENCE["creep"].answered_by
def creep() -> list[Evidence]:
    """The same of what it crept."""
    return _rows(1)


def _rows(which: int) -> list[Evidence]:
    found = []
    many = Count("entries", filter=Q(entries__kind="brace"))
    for string in strings().annotate(reads=many).filter(reads__gte=LEAST).order_by("pk"):
        rows = [one for one in standing(string) if one.kind == "brace"]
        if len(rows) < LEAST:
            continue
        key = (string.pk, string.version, max(one.pk for one in string.entries.all()))
        seen: tuple[Seen, Seen] = computed(
            "string settled", key, partial(_settled, string), small=True
        )
        told = seen[which]
        if told is not None:
            found.append(Evidence(
                *told, string.fibre, "", string.pk, "", days(rows[-1].at),
                f"brace heights of {string}",
            ))  # fmt: skip
    return found


def _settled(string: BowString) -> tuple[Seen, Seen]:
    """What one string showed of both, without what was believed of it before."""
    made = sheet_of(string)
    if made.plan is None or not made.plan.brace_per > 0:
        return None, None
    reads = brace_reads(made.entries, made.plan)
    belief = settles(made.plan.fibre)
    found = settling(made.plan.fibre, made.plan.length, made.plan.brace_per, reads, belief)
    return (
        _log(unfolded((belief.beds, belief.beds_spread), found.beds), belief.beds),
        _log(unfolded((belief.creeps, belief.creeps_spread), found.creeps), belief.creeps),
    )


def _log(seen: Seen, book: float) -> Seen:
    """As a logarithm over the book; nothing of one that shows less than a tenth of it."""
    if seen is None:
        return None
    value = max(seen[0], 0.1 * book)
    return math.log(value / book), seen[1] / value
