"""Flaws on the ruler: what is said of them, and where they go when they are moved."""

from dataclasses import dataclass

import numpy as np
from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404

from bowyery.errors import BowyeryError
from bowyery.units.quantity import INCH, Units
from fellwind.drawing.stave import ruler_of
from fellwind.people.models import Person
from fellwind.rack.forms import FlawForm
from fellwind.rack.models import Flaw, Kept, Section, Stave
from fellwind.rack.services import core_stave

NUDGES = {"left": (-1, 0), "right": (1, 0), "up": (0, 1), "down": (0, -1)}
LARGER = 1.2
LEAST = 0.001  # a flaw does not shrink below this (m)


def words(flaw: Flaw, shown: Units) -> str:
    """A flaw in one line, for who cannot see the picture."""
    side = "above" if flaw.off > 0 else "below"
    off = f", {shown.length(abs(flaw.off))} {side} the middle" if abs(flaw.off) > 5e-4 else ""
    at, long = shown.length(flaw.at), shown.length(flaw.length)
    return f"{flaw.kind}, {flaw.face}, {at} from the left end{off}, {long} long"


def place_at(stave: Stave, x: str, y: str) -> dict[str, object]:
    """Where on the stave a point of its picture is, for a form; nothing for what is no point."""
    try:
        at, off = ruler_of(core_stave(stave)).place(float(x), float(y))
    except (ValueError, BowyeryError):
        return {}
    if not (np.isfinite(at) and np.isfinite(off)):
        return {}
    return {"at": at, "off": off if abs(off) <= stave.width / 2 else 0.0}


@dataclass(frozen=True)
class _Moved:
    """How far a flaw goes along and across (m), and by what factor it grows."""

    along: float = 0.0
    across: float = 0.0
    grows: float = 1.0


def _asked(stave: Stave, given: QueryDict, shown: Units) -> _Moved | None:
    nudge = given.get("nudge", "")
    if nudge in NUDGES:
        along, across = (INCH / 8, INCH / 8) if shown.imperial else (0.005, 0.002)
        return _Moved(NUDGES[nudge][0] * along, NUDGES[nudge][1] * across)
    if nudge in ("larger", "smaller"):
        return _Moved(grows=LARGER if nudge == "larger" else 1 / LARGER)
    try:
        ruler = ruler_of(core_stave(stave))
        dx, dy = float(given.get("dx", "")), float(given.get("dy", ""))
    except (ValueError, BowyeryError):
        return None
    if not (np.isfinite(dx) and np.isfinite(dy)):
        return None
    return _Moved(dx / ruler.scale, -dy / ruler.tall)


def move(old: Flaw, given: QueryDict, shown: Units, by: Person) -> Flaw | None:
    """Move a flaw by a distance on the picture or by a step, or make it larger or smaller.

    Returns:
        The flaw that stands now; None where nothing sensible was asked.
    """
    stave = old.stave
    asked = _asked(stave, given, shown)
    if asked is None:
        return None
    new = Flaw(stave=stave, kind=old.kind, face=old.face, by=by, depth=old.depth)
    new.at = min(max(old.at + asked.along, 0.0), stave.length)
    half = FlawForm(shown=shown, stave=stave).half_width(new.at)
    new.off = min(max(old.off + asked.across, -half), half)
    new.length = min(max(old.length * asked.grows, LEAST), stave.length)
    new.width = min(max(old.width * asked.grows, LEAST), 2 * half)
    new.text = f"moved to {shown.length(new.at)}"
    keep(new, old)
    return new


def standing(stave: Stave, pk: int) -> tuple[Flaw | None, str]:
    """A flaw of a stave as long as nothing has taken its place.

    Returns:
        The flaw; or None, and a sentence of who was quicker.
    """
    flaw = get_object_or_404(
        Flaw.objects.select_related("stave", "replaced_by__by"), stave=stave, pk=pk
    )
    if flaw.gone:
        return None, f"Somebody struck this {flaw.kind} meanwhile; this is the stave as it is now."
    if flaw.replaced_by is not None:
        who = flaw.replaced_by.by or "Somebody"
        return None, f"{who} moved this {flaw.kind} meanwhile; it stands where they put it."
    return flaw, ""


def keep(new: Kept, old: Kept | None = None) -> None:
    """Keep a row; the one it takes the place of points to it."""
    with transaction.atomic():
        new.save()
        if old is not None:
            old.replaced_by = new
            old.save(update_fields=["replaced_by"])


def keep_section(new: Section) -> None:
    """Keep what was measured at a place; an older row of that place steps back."""
    near = (old for old in new.stave.sections.standing() if abs(old.at - new.at) < 1e-3)
    keep(new, next(near, None))
