"""The part of a stave's page that shows it on the ruler, with the forms beside it."""

from dataclasses import dataclass

import numpy as np
from django.http import HttpRequest
from django.urls import reverse

from bowyery.errors import BowyeryError
from bowyery.units.quantity import Units
from bowyery.wood.stave import run_out
from fellwind.drawing.stave import flaw_map
from fellwind.kit.permissions import may_write
from fellwind.kit.rooms import room_of
from fellwind.rack import flaws as said
from fellwind.rack.forms import FlawForm, SectionForm, StripForm
from fellwind.rack.models import Flaw, Section, Stave
from fellwind.rack.services import core_stave, standing_flaws


@dataclass(frozen=True)
class FlawMap:
    """The stave with its flaws.

    Attributes:
        usable: sound wood from end to end (m).
        grain_angle, grain_share: of run-out grain (degrees), and the strength it leaves.
        moved: keys of a flaw that was moved, before and after.
        said: what stood in the way of an act.
    """

    stave: Stave
    flaws: list[Flaw]
    sections: list[Section]
    flaw_form: FlawForm
    section_form: SectionForm
    strip_form: StripForm
    map: str = ""
    trouble: str = ""
    usable: float | None = None
    grain_angle: float | None = None
    grain_share: float | None = None
    profile: bool = False
    editing: Flaw | None = None
    moved: tuple[int, int] | None = None
    said: str = ""


def may_write_here(request: HttpRequest) -> bool:
    """Whether whoever asks may write in the rack."""
    role = getattr(request.user, "role", None)
    return role is not None and may_write(role, room_of("rack"))


def the_map(stave: Stave, shown: Units, writes: bool) -> FlawMap:
    """The map of a stave with its flaws and sections fetched.

    Args:
        writes: the reader may move and strike flaws.
    """
    standing = standing_flaws(stave)
    sections = [s for s in stave.sections.all() if s.stands]
    picture, trouble, usable = "", "", None
    urls = {"form": reverse("rack:flaw_form", args=[stave.number])}
    if writes:
        acts = ("move", "drop")
        urls |= {act: reverse(f"rack:flaw_{act}", args=[stave.number, 0]) for act in acts}
    angle = share = None
    try:
        wood = core_stave(stave)
    except BowyeryError as error:
        trouble = str(error)
    else:
        picture = flaw_map(wood, [(f.pk, said.words(f, shown)) for f in standing], shown, urls)
        usable = wood.usable[1] - wood.usable[0]
        if stave.drift and stave.drift_over:
            slope, share = run_out(stave.drift, stave.drift_over)
            angle = float(np.degrees(slope))
    return FlawMap(
        stave,
        standing,
        sections,
        FlawForm(shown=shown, stave=stave),
        SectionForm(shown=shown, stave=stave),
        StripForm(shown=shown),
        picture,
        trouble,
        usable,
        angle,
        share,
        any(s.side is not None for s in sections),
    )
