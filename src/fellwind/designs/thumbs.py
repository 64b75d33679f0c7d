"""Thumbnails of designs: the little that lists show, kept by the content of what it came from."""

from collections.abc import Sequence
from dataclasses import dataclass

from bowyery.errors import BowyeryError
from fellwind.designs.models import Design
from fellwind.designs.pictures import ruler_data
from fellwind.designs.services import core_inputs, try_solution
from fellwind.drawing.ruler import small_outline
from fellwind.kit import compiling
from fellwind.kit.cache import computed, peek

AT_ONCE = 4  # designs that a list solves before it is shown


@dataclass(frozen=True)
class Thumb:
    """What lists show of a design: its outline, and what it comes to; or why there is none."""

    picture: str = ""
    weight: float = 0.0
    strain: float = 0.0
    trouble: str = ""


def inputs(design: Design) -> tuple[object, ...]:
    """Everything that a design's solution and its outline come from; raises BowyeryError."""
    return (*core_inputs(design), design.bow_file)


def thumb(design: Design) -> Thumb | None:
    """A design's thumbnail, as long as it is kept; None where it would have to be solved."""
    try:
        found: Thumb | None = peek("thumb", inputs(design))
    except BowyeryError as error:
        return Thumb(trouble=str(error))
    return found


def made_thumb(design: Design) -> Thumb:
    """A design's thumbnail, solved for where it is not kept."""

    def make() -> Thumb:
        found, trouble = try_solution(design)
        if found is None:
            return Thumb(trouble=trouble)
        return Thumb(str(small_outline(ruler_data(found))), found.weight, found.strain)

    try:
        return computed("thumb", inputs(design), make, small=True)
    except BowyeryError as error:
        return Thumb(trouble=str(error))


def thumbs(those: Sequence[Design]) -> dict[int, Thumb]:
    """Thumbnails by key: those that are kept, and the first few that are not. A page shows the
    others when they come into view.
    """
    found, left = dict[int, Thumb](), AT_ONCE if compiling.done() else 0
    for design in those:
        if design.pk in found:
            continue
        known = thumb(design)
        if known is None and left:
            known, left = made_thumb(design), left - 1
        if known is not None:
            found[design.pk] = known
    return found
