"""Where a place lies that is being typed."""

import re

from bowyery.design.solution import Solution
from bowyery.errors import UnreadableError
from bowyery.tiller.pencil import parse
from bowyery.units.quantity import World
from fellwind.builds.log import tree_of
from fellwind.builds.models import Build
from fellwind.designs.pictures import ruler_data
from fellwind.drawing.ruler import ruler_for
from fellwind.tiller.forms import ASKED
from fellwind.tiller.services import bench, standing

_FADES = ("gap", "tip")


def where_typed(build: Build, found: Solution, name: str, text: str, world: World) -> float | None:
    """Where on the bench's picture a reading is that is being typed, by its field; None where that
    cannot be told yet.

    Args:
        build, found: whose bow, and its design solved.
        name: of the field, such as ``upper_edge``.
    """
    _, asked, limb = ASKED.get(name.rpartition("-")[2], (None, None, ""))
    if not limb or asked is None:
        return None
    data = ruler_data(standing(found, bench(build)))
    ruler, track = ruler_for(data), data.upper if limb == "upper" else data.lower
    if asked.name in _FADES:
        at = track.from_centre[0 if asked.name == "gap" else -1]
        return round(ruler.x(float(at), limb == "upper"), 1)
    if not text.strip():
        return None
    last = re.split(r"\s*;\s*|,\s+|\s+and\s+", text.strip())[-1]
    try:
        said = parse(f"{asked.before.format(limb=limb)} {last}", world, tree_of(build))
    except UnreadableError:
        return None
    at = next((s.at for s in said if s.at is not None), None)
    return None if at is None else round(ruler.x(at, limb == "upper"), 1)
