"""What the pages of photographs show."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from bowyery.bow.bow import SIDES, Bow
from bowyery.sight.check import aside, gaps
from bowyery.sight.trace import TAPS
from bowyery.units.quantity import ANGLE, Units
from fellwind.builds.log import draw_words
from fellwind.builds.models import Build
from fellwind.builds.pages import Head, head
from fellwind.kit.photos import photo_path
from fellwind.sight import services
from fellwind.sight.forms import KeepForm, SightForm, TapsForm
from fellwind.sight.models import Sighting

# where five places are first put, as shares of the picture: about where a drawn bow's are
_FIRST = ((0.85, 0.45), (0.55, 0.36), (0.5, 0.62), (0.45, 0.36), (0.15, 0.45))


@dataclass(frozen=True)
class TakePage(Head):
    """The form of a photograph to be read, and those that were."""

    form: SightForm | None = None
    rows: Sequence[Sighting] = ()


@dataclass(frozen=True)
class Figure:
    """One figure of what was read, with its name."""

    name: str
    value: str


@dataclass(frozen=True)
class SeenPage(Head):
    """A photograph with what was found in it drawn over."""

    row: Sighting | None = None
    file: bool = True
    figures: Sequence[Figure] = ()
    overlay: str = ""
    box: str = ""
    keep: KeepForm | None = None
    taps: TapsForm | None = None
    places: Sequence[tuple[str, float, float]] = ()
    refusal: str = ""


def take_page(build: Build, form: SightForm) -> TakePage:
    """The photographs of a build that were read."""
    return TakePage(**vars(head(build, build.stage)), form=form, rows=services.sightings(build))


def seen_page(
    row: Sighting, keep: KeepForm | None, taps: TapsForm | None, shown: Units, refusal: str = ""
) -> SeenPage:
    """A photograph that was read, or why it was not.

    Args:
        keep: its form, where it was read and not kept yet.
        taps: the form of the five places, where they may be tapped.
    """
    build = row.photo.entry.build
    top = vars(head(build, build.stage))
    figures, overlay = [], ""
    places: list[tuple[str, float, float]] = []
    if row.seen is not None:
        found = top["found"]
        figures = _figures(build, row.seen, shown, found.bow if found else None)
        overlay = json.dumps({
            "lines": row.seen["lines"], "knots": [k[4] for k in row.seen["knots"]],
            "limbs": [k[0] for k in row.seen["knots"]], "nock": row.seen["nock"],
            "moved": row.moved,
        })  # fmt: skip
    if taps is not None:
        at = row.taps or [[x * row.photo.width, y * row.photo.height] for x, y in _FIRST]
        places = [(name, x, y) for name, (x, y) in zip(TAPS, at, strict=True)]
    box = _box(row, taps is None)
    file = photo_path(row.photo.name).exists()
    return SeenPage(
        **top, row=row, file=file, figures=figures, overlay=overlay, box=box, keep=keep, taps=taps,
        places=places, refusal=refusal,
    )  # fmt: skip


def _box(row: Sighting, close: bool) -> str:
    """What of the picture is shown: the bow with what is around it, or all of it."""
    wide, high = row.photo.width, row.photo.height
    if row.seen is None or not close:
        return f"0 0 {wide} {high}"
    spots = [spot for line in row.seen["lines"].values() for spot in line]
    spots += [row.seen["nock"]] if row.seen["nock"] else []
    across, down = [spot[0] for spot in spots], [spot[1] for spot in spots]
    around = 0.12 * (max(across) - min(across))
    left, top = max(min(across) - around, 0), max(min(down) - around, 0)
    right, below = min(max(across) + around, wide), min(max(down) + around, high)
    return f"{left:.0f} {top:.0f} {right - left:.0f} {below - top:.0f}"


def _figures(build: Build, seen: dict[str, Any], shown: Units, bow: Bow | None) -> list[Figure]:
    found = []
    if seen["draw"] is not None:
        found.append(Figure("drawn to", draw_words(build, seen["draw"] / 1e3, shown)))
    if seen["brace"] is not None:
        found.append(Figure("brace height", shown.length(seen["brace"] / 1e3)))
    for side in SIDES:
        last = [k for k in seen["knots"] if k[0] == side][-1]
        if seen["state"] == "unstrung":
            way = f"to the {'belly' if last[2] >= 0 else 'back'} of the handle's line"
        else:
            way = "below its fade" if last[2] >= 0 else "above its fade"
        value = f"{shown.length(abs(last[2]) / 1e3)}, give or take {shown.length(last[3] / 1e3)}"
        found.append(Figure(f"{side} nock {way}", value))
    if bow is None:  # its design cannot be solved any more
        return found
    read = services.from_json(seen)
    between = gaps(read, bow) if read.state == "braced" else None
    if between is not None:
        both = ", ".join(
            f"{side} {shown.length(gap / 1e3)}" for side, gap in zip(SIDES, between, strict=True)
        )
        found.append(Figure("string to belly at the fades", both))
    off = aside(read, bow)
    if off is not None:
        angle, to = ANGLE.write(abs(off), shown), "upper" if off > 0 else "lower"
        nothing = angle == ANGLE.write(0.0, shown)
        found.append(
            Figure("string pulled", "straight" if nothing else f"{angle} to the {to} limb")
        )
    return found
