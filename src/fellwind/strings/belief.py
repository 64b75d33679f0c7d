"""How strings of a fibre settle here, as far as the shop has learned."""

from __future__ import annotations

import math
from dataclasses import replace

from bowyery.record.learned import Learned
from bowyery.strings.settle import Settles, settles
from bowyery.wood.materials import Fibre
from fellwind.shop import learning


def belief(fibre: Fibre, without: int = 0) -> Settles:
    """How strings of a fibre settle, as this shop has found."""
    book = settles(fibre)
    beds, creeps = (
        learning.here(name, fibre.name, without=without) for name in ("bedding", "creep")
    )
    return replace(book, **_moved("beds", book.beds, beds), **_moved("creeps", book.creeps, creeps))


def _moved(name: str, book: float, found: Learned) -> dict[str, float]:
    if not found.same:
        return {}
    middle = book * math.exp(found.middle)
    return {name: middle, f"{name}_spread": middle * min(found.spread, 0.6)}
