"""Photographs read one at a time, kept with what was read, and written into the log as checks."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

import cv2
import numpy as np
from django.db import transaction
from PIL import Image, ImageOps

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.sight.check import Knot, Seen, line_of, put_right, seen_in
from bowyery.sight.outline import State
from bowyery.sight.trace import trace
from bowyery.units.quantity import METRIC
from fellwind.builds import log
from fellwind.builds.log import tree_of
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.designs.services import solution
from fellwind.kit.photos import keep_photo, photo_path
from fellwind.kit.rooms import given
from fellwind.people.models import Person
from fellwind.sight.models import Sighting

LARGEST = 4200  # pixels of the longer side that a picture is read at
CAPTIONS = {
    "drawn": "Drawn on the tree", "braced": "Braced", "unstrung": "Unstrung",
}  # fmt: skip
READING = threading.Lock()  # one at a time: a picture takes some seconds and a lot of memory


def bow_of(build: Build) -> Bow:
    """The bow that a picture shows: as it hangs by its readings, or as it was designed.

    Raises:
        BowyeryError: the design cannot be solved.
    """
    found = solution(build.design)
    now = [ask(build) for ask in given("bow on the tree")]
    return next((bow for bow in now if bow is not None), found.bow)


def pixels_of(file: Any) -> np.ndarray:
    """A photograph that was found good (:func:`fellwind.kit.photos.read_photo`), as fine as it is
    read: upright, ``(high, wide, 3)``, 8 bits, blue first.
    """
    file.seek(0)
    with Image.open(file) as picture:
        picture.draft("RGB", (LARGEST // 2, LARGEST // 2))
        upright = ImageOps.exif_transpose(picture).convert("RGB")
    upright.thumbnail((LARGEST, LARGEST), Image.Resampling.BOX)
    return cv2.cvtColor(np.asarray(upright), cv2.COLOR_RGB2BGR)


def read(
    bow: Bow, image: np.ndarray, state: State, wide: int, taps: Floats | None = None
) -> tuple[Seen | None, str]:
    """Read a picture.

    Args:
        bow: that it shows, with the string that is on.
        image: the picture.
        state: that the bow was in.
        wide: of the copy that is kept (pixels).
        taps: five places in the picture (pixels), where they stand for tags.

    Returns:
        What was seen, in pixels of the copy, and what was noticed; or None and why not.
    """
    try:
        with READING:
            found = trace(image, bow, state, taps)
        return seen_in(found, bow, state, wide / image.shape[1]), found.why
    except BowyeryError as error:
        return None, getattr(error, "reason", "") or str(error)


def _read_of(
    build: Build, image: np.ndarray, state: State, wide: int, taps: Floats | None = None
) -> tuple[Seen | None, str]:
    """Read a picture of a build; as :func:`read`."""
    try:
        return read(bow_of(build), image, state, wide, taps)
    except BowyeryError as error:  # its design cannot be solved
        return None, getattr(error, "reason", "") or str(error)


def take(
    build: Build, picture: Image.Image, image: np.ndarray, state: State, weight: str, by: Person,
    client_id: UUID, at: datetime,
) -> Sighting:  # fmt: skip
    """Keep a photograph with what was read of it, once for one client id; one that cannot be read
    is kept as well, with the reason.
    """
    known = Sighting.objects.filter(photo__entry__client_id=client_id).first()
    if known is not None:
        return known
    name, width, height = keep_photo(picture)
    seen, why = _read_of(build, image, state, width)
    with transaction.atomic():
        entry = Entry.objects.create(
            build=build, kind="photo", stage=build.stage, text=CAPTIONS[state], by=by, at=at,
            client_id=client_id,
        )  # fmt: skip
        photo = BenchPhoto.objects.create(entry=entry, name=name, width=width, height=height)
        return Sighting.objects.create(
            photo=photo, state=state, weight=weight, why=why,
            seen=None if seen is None else as_json(seen),
        )  # fmt: skip


def read_by_taps(sighting: Sighting, taps: Sequence[Sequence[float]]) -> None:
    """Read a kept photograph once more, by five places that were tapped on it.

    Raises:
        DescriptionError: its file is lost.
    """
    path = photo_path(sighting.photo.name)
    image = cv2.imread(str(path)) if path.exists() else None
    if image is None:
        raise DescriptionError("The file of this photograph is missing; a backup may hold it.")
    build = sighting.photo.entry.build
    state: State = sighting.state  # type: ignore[assignment]
    places = np.array(taps, float)
    seen, why = _read_of(build, image, state, sighting.photo.width, places)
    sighting.seen = None if seen is None else as_json(seen)
    sighting.taps, sighting.why, sighting.moved = places.tolist(), why, {}
    sighting.save(update_fields=["seen", "taps", "why", "moved"])


def keep_check(
    sighting: Sighting, moved: Mapping[int, tuple[float, float]], draw: float | None, weight: str,
    by: Person, client_id: UUID, at: datetime,
) -> Entry:  # fmt: skip
    """Write what a photograph shows into the log, put right by hand; once.

    Args:
        sighting: the photograph.
        moved: places that were put right, by number (pixels).
        draw: to the pivot (m), where it was read beside.
        weight: on the scale, with its unit; empty where it was not read.
        by: who keeps it.
        client_id: of the entry.
        at: when it was written.

    Returns:
        The check.

    Raises:
        DescriptionError: it was not read, the draw is not known, or a place cannot be there.
        UnreadableError: no bow reads so.
    """
    if sighting.entry is not None:
        return sighting.entry
    if sighting.seen is None:
        raise DescriptionError("This photograph was not read; " + sighting.why)
    build = sighting.photo.entry.build
    bow = solution(build.design).bow
    seen = put_right(from_json(sighting.seen), bow, moved)
    line = line_of(seen, bow, tree_of(build), draw, weight)
    statements = log.read_line(build, line, METRIC)
    with transaction.atomic():
        entry, new = log.keep(build, line, statements, METRIC, by, client_id, at=at)
        if new:  # it tells of the bow as it was when the picture was taken
            taken = sighting.photo.entry
            entry.at, entry.stage = taken.at, taken.stage
            entry.save(update_fields=["at", "stage"])
        sighting.entry, sighting.weight = entry, weight
        sighting.moved = {str(k): list(spot) for k, spot in moved.items()}
        sighting.save(update_fields=["entry", "moved", "weight"])
    return entry


def as_json(seen: Seen) -> dict[str, Any]:
    """What was seen, as it is kept."""
    return {
        "state": seen.state, "nock": seen.nock, "draw": seen.draw, "brace": seen.brace,
        "why": seen.why, "frame": seen.frame.tolist(),
        "lines": {name: np.round(rows, 1).tolist() for name, rows in seen.lines.items()},
        "knots": [
            [k.limb, round(k.at, 2), round(k.across, 3), round(k.error, 3),
             [round(v, 2) for v in k.pixel]] for k in seen.knots
        ],
    }  # fmt: skip


def from_json(kept: Mapping[str, Any]) -> Seen:
    """What was seen, as it was kept."""
    knots = tuple(
        Knot(limb, at, across, error, (pixel[0], pixel[1]))
        for limb, at, across, error, pixel in kept["knots"]
    )
    nock = kept["nock"]
    return Seen(
        kept["state"], knots, {name: np.array(kept["lines"][name], float) for name in SIDES},
        None if nock is None else (nock[0], nock[1]), kept["draw"], kept["brace"],
        np.array(kept["frame"], float), kept["why"],
    )  # fmt: skip


def sightings(build: Build) -> list[Sighting]:
    """Photographs of a build that were read, or tried, the newest first."""
    rows = Sighting.objects.filter(photo__entry__build=build, photo__gone=False)
    return list(rows.select_related("photo__entry", "entry").order_by("-photo__entry__at", "-pk"))
