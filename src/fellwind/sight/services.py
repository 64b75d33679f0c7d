"""Photographs read one at a time, kept with what was read, and written into the log as checks."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from typing import Any, cast
from uuid import UUID, uuid4

import cv2
import numpy as np
from django.db import transaction
from PIL import Image, ImageOps

from bowyery.bow.bow import SIDES, Bow
from bowyery.errors import BowyeryError, DescriptionError
from bowyery.sight.check import Knot, Seen, line_of, put_right, seen_in
from bowyery.sight.outline import State
from bowyery.sight.trace import Trace, trace
from bowyery.units.quantity import METRIC
from fellwind.builds import log
from fellwind.builds.log import tree_of
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.builds.ports import ON_THE_TREE
from fellwind.designs.services import solution
from fellwind.kit.cache import computed
from fellwind.kit.photos import keep_photo, photo_path
from fellwind.people.models import Person
from fellwind.sight.models import Sighting

Taps = Sequence[tuple[float, float]]
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
    now: Bow | None = ON_THE_TREE.first(build)
    return now or found.bow


@dataclass(frozen=True)
class Picture:
    """A photograph to be read.

    Attributes:
        pixels: unpacks it, upright, ``(high, wide, 3)``, 8 bits, blue first.
    """

    key: str
    pixels: Callable[[], np.ndarray]


def sent(file: Any) -> Picture:
    """A file that was found to be a photograph (:func:`fellwind.kit.photos.read_photo`), as fine as
    it is read.
    """

    def pixels() -> np.ndarray:
        file.seek(0)
        with Image.open(file) as picture:
            picture.draft("RGB", (LARGEST // 2, LARGEST // 2))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
        upright.thumbnail((LARGEST, LARGEST), Image.Resampling.BOX)
        return cv2.cvtColor(np.asarray(upright), cv2.COLOR_RGB2BGR)

    file.seek(0)
    return Picture(sha256(file.read()).hexdigest(), pixels)


def kept(name: str) -> Picture:
    """A photograph that was kept before, as it was kept.

    Raises:
        DescriptionError: its file is missing.
    """
    path = photo_path(name)
    image = cv2.imread(str(path)) if path.exists() else None
    if image is None:
        raise DescriptionError("The file of this photograph is missing; a backup may hold it.")
    return Picture(name, lambda: image)


def read(
    build: Build, picture: Picture, state: State, wide: int, taps: Taps | None = None,
    hangs: Bow | None = None,
) -> tuple[Seen | None, str]:  # fmt: skip
    """Read a picture, or give what was read of it before.

    Args:
        wide: of the copy that is kept (pixels).
        taps: five places in the picture (pixels), where they stand for tags.
        hangs: the bow with the string that was on, where that is not the build's of today.

    Returns:
        What was seen, in pixels of the copy, and what was noticed; or None and why not.
    """

    def work() -> tuple[Trace, int]:
        with READING:
            image = picture.pixels()
            places = None if taps is None else np.array(taps, float)
            return trace(image, bow, state, places), image.shape[1]

    try:
        bow = hangs or bow_of(build)
        found, width = computed("photograph", (picture.key, bow, state, taps), work)
        return seen_in(found, bow, state, wide / width), found.why
    except BowyeryError as error:
        return None, getattr(error, "reason", str(error))


def take(
    build: Build, photo: Image.Image, picture: Picture, state: State, weight: str, by: Person,
    client_id: UUID, at: datetime,
) -> Sighting:  # fmt: skip
    """Keep a photograph with what was read of it, once for one client id; one that cannot be read
    is kept as well, with the reason.
    """
    known = Sighting.objects.filter(photo__entry__client_id=client_id).first()
    if known is not None:
        return known
    name, width, height = keep_photo(photo)
    found = read(build, picture, state, width)
    with transaction.atomic():
        entry = Entry.objects.create(
            build=build, kind="photo", stage=build.stage, text=CAPTIONS[state], by=by, at=at,
            client_id=client_id,
        )  # fmt: skip
        row = BenchPhoto.objects.create(entry=entry, name=name, width=width, height=height)
        sighting = Sighting(photo=row, state=state, weight=weight)
        _keep_reading(sighting, *found)
    return sighting


def _keep_reading(sighting: Sighting, seen: Seen | None, why: str) -> None:
    sighting.seen, sighting.why, sighting.moved = None if seen is None else as_json(seen), why, {}
    sighting.save()


def look_by_taps(sighting: Sighting, taps: Taps) -> tuple[Seen | None, str]:
    """What five places that were tapped on a kept photograph show of it; as :func:`read`.

    Raises:
        DescriptionError: its file is missing.
    """
    photo, state = sighting.photo, cast(State, sighting.state)
    return read(photo.entry.build, kept(photo.name), state, photo.width, taps)


def read_by_taps(sighting: Sighting, taps: Taps) -> None:
    """Read a kept photograph once more, by five places that were tapped on it.

    Raises:
        DescriptionError: its file is missing.
    """
    found = look_by_taps(sighting, taps)
    sighting.taps = [list(one) for one in taps]
    _keep_reading(sighting, *found)


def keep_check(
    sighting: Sighting, moved: Mapping[int, tuple[float, float]], draw: float | None, weight: str,
    by: Person,
) -> Entry:  # fmt: skip
    """Write what a photograph shows into the log, put right by hand; once.

    Args:
        moved: places that were put right, by number (pixels).
        draw: to the pivot (m), where it was read beside.
        weight: on the scale, with its unit; empty where it was not read.

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
        taken = sighting.photo.entry
        entry, _ = log.keep(build, line, statements, METRIC, by, uuid4(), stage=taken.stage)
        entry.at = taken.at  # it tells of the bow as it was when the picture was taken
        entry.save(update_fields=["at"])
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
