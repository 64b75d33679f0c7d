"""The natural line of a stave from a photograph: taken, read between its two ends, kept."""

from __future__ import annotations

import numpy as np
from django.db import transaction
from PIL import Image

from bowyery.errors import BowyeryError, DescriptionError
from bowyery.sight.stave import NaturalLine, natural_line
from bowyery.units.quantity import Units
from fellwind.kit.cache import computed
from fellwind.kit.photos import keep_photo
from fellwind.people.models import Person
from fellwind.rack.flaws import keep_section
from fellwind.rack.forms import SectionForm
from fellwind.rack.models import Photo, Section, Stave
from fellwind.sight import services
from fellwind.sight.models import StaveLine
from fellwind.sight.services import Taps

SAME_PLACE = 0.02  # m; what was measured so near to a place is written at the same section
CAPTION = "Seen from the side, for its natural line"


def take(stave: Stave, picture: Image.Image, by: Person) -> StaveLine:
    """Keep a photograph of a stave's side."""
    name, width, height = keep_photo(picture)
    with transaction.atomic():
        photo = Photo.objects.create(
            stave=stave, name=name, caption=CAPTION, width=width, height=height, by=by
        )
        return StaveLine.objects.create(photo=photo)


def look(row: StaveLine, ends: Taps) -> NaturalLine:
    """The line between two ends that were put on the picture, or as it was read before.

    Raises:
        DescriptionError: it cannot be read, or its file is missing.
    """
    stave, picture = row.photo.stave, services.kept(row.photo.name)

    def work() -> NaturalLine:
        with services.READING:
            return natural_line(picture.pixels(), stave.length, stave.depth, np.array(ends, float))

    return computed("natural line", (picture.key, stave.length, stave.depth, ends), work)


def read(row: StaveLine, ends: Taps) -> None:
    """Keep what is seen between two ends, or why nothing is."""
    row.ends, row.seen, row.why = [list(one) for one in ends], None, ""
    try:
        found = look(row, ends)
    except BowyeryError as error:
        row.why = getattr(error, "reason", str(error))
    else:
        row.seen = {
            name: np.round(getattr(found, name), 2).tolist()
            for name in ("at", "side", "error", "picture")
        }
    row.save(update_fields=["ends", "seen", "why"])


def keep(row: StaveLine, by: Person, shown: Units) -> int:
    """Write the line among the stave's sections, once; what else was measured at a place stays.

    Raises:
        DescriptionError: it was not read.
    """
    if row.kept:
        return 0
    if row.seen is None:
        raise DescriptionError("Its natural line was not read; " + row.why)
    stave, count = row.photo.stave, 0
    with transaction.atomic():
        standing = list(stave.sections.standing())
        for at, side in list(zip(row.seen["at"], row.seen["side"], strict=True))[1:-1]:
            place = at / 1e3
            near = min(standing, key=lambda one: abs(one.at - place), default=None)
            new = Section(stave=stave, at=place, side=side / 1e3, by=by)
            if near is not None and abs(near.at - place) < SAME_PLACE:
                new.at = near.at
                for name in {*SectionForm.SIZES, "twist"} - {"side"}:
                    setattr(new, name, getattr(near, name))
            new.text = f"by a photograph: side {shown.length(side / 1e3)}"[:200]
            keep_section(new)
            count += 1
        row.kept = True
        row.save(update_fields=["kept"])
    return count
