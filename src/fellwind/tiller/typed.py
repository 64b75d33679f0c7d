"""Where a place lies that is being typed."""

import re

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.errors import UnreadableError
from bowyery.tiller.pencil import parse
from bowyery.units.quantity import World
from fellwind.builds.log import tree_of
from fellwind.builds.models import Build
from fellwind.designs.pictures import ruler_data
from fellwind.drawing.ruler import ruler_for
from fellwind.tiller.services import bench, standing

_TYPED = {"edge": "edge", "offset": "offset", "outline": "outline", "thick": "thick",
          "wide": "wide", "lies": "lies", "deepest": "deepest", "block": "block"}  # fmt: skip


_FADES = ("gap", "tip")


def where_typed(build: Build, found: Solution, name: str, text: str, world: World) -> float | None:
    """Where on the bench's picture a reading is that is being typed, by its field; None where that
    cannot be told yet.

    Args:
        build, found: whose bow, and its design solved.
        name: of the field, such as ``upper_edge``.
    """
    limb, _, word = name.rpartition("-")[2].partition("_")
    if limb not in SIDES:
        return None
    data = ruler_data(standing(found, bench(build)))
    ruler, track = ruler_for(data), data.upper if limb == "upper" else data.lower
    if word in _FADES:
        at = track.from_centre[0 if word == "gap" else -1]
        return round(ruler.x(float(at), limb == "upper"), 1)
    if word not in _TYPED or not text.strip():
        return None
    last = re.split(r"\s*;\s*|,\s+|\s+and\s+", text.strip())[-1]
    before = f"block {limb}" if word == "block" else f"{limb} {_TYPED[word]}"
    try:
        said = parse(f"{before} {last}", world, tree_of(build))
    except UnreadableError:
        return None
    at = next((s.at for s in said if s.at is not None), None)
    return None if at is None else round(ruler.x(at, limb == "upper"), 1)
