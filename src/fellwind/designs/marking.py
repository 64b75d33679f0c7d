"""Marks dragged, stepped, added, taken off and mirrored: from what was asked to the bow."""

from dataclasses import replace

import numpy as np
from django.http import QueryDict

from bowyery.bow.bow import SIDES, Bow
from bowyery.design.alterations import mirrored, with_station, without_station
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import INCH, LENGTH, Units
from fellwind.designs import pictures, services
from fellwind.designs.forms import AT_MARK, MarksForm
from fellwind.designs.models import Design
from fellwind.drawing.ruler import Handle, pixels_per_metre
from fellwind.kit.pages import number_in

LEAST = 0.001  # no figure is dragged below this (m)


def handles(form: MarksForm, bow: Bow, shown: Units) -> tuple[Handle, ...]:
    """Every figure as a thing that can be taken hold of on the ruler."""
    held, rows = form.locked(), list[Handle]()
    for side, limb in zip(SIDES, bow.limbs, strict=True):
        for (at, *names), width, thickness in zip(
            form.rows[side], limb.width, limb.thickness, strict=True
        ):
            for name, size, is_width in zip(names, (width, thickness), (True, False), strict=True):
                what = "wide" if is_width else "thick"
                words = (
                    f"{side} limb, {shown.length(at)} from the centre:"
                    f" {shown.thickness(float(size))} {what}"
                )
                words += ", locked" if name in held else "; arrow keys change it"
                rows.append(
                    Handle(name, at, side == "upper", float(size), is_width, words, name in held)
                )
    return tuple(rows)


def acted(given: QueryDict, form: MarksForm, bow: Bow, design: Design, shown: Units) -> Bow:
    """The bow after what was asked; raises BowyeryError."""
    action = given.get("action", "")
    side = SIDES.index(given["side"]) if given.get("side") in SIDES else 0
    if action == "mirror":
        return _unlocked(form, bow, mirrored(bow, side, given.get("only") == "width"))
    if action == "add":
        at = LENGTH.read(given.get("place", ""), shown.world)
        return with_station(bow, side, at - bow.limbs[side].root[0])
    if action == "remove":
        number = number_in(given.get("number"))
        return without_station(bow, side, -1 if number is None else number)
    name = given.get("name", "")
    if (
        action in ("drag", "step")
        and name in form.fields
        and name.count("_") == 2
        and name not in form.locked()
    ):
        return _resized(given, bow, design, name, action, shown)
    return bow


def _resized(
    given: QueryDict, bow: Bow, design: Design, name: str, action: str, shown: Units
) -> Bow:
    which, what, number = name.split("_")
    side, k = SIDES.index(which), int(number)
    limb = bow.limbs[side]
    sizes = getattr(limb, what).copy()
    step = INCH / 64 if shown.imperial else 0.0005
    if action == "step":
        sizes[k] += step if given.get("nudge") == "up" else -step
    else:
        try:
            pixels = float(given.get("dy", ""))
        except ValueError:
            return bow
        if not np.isfinite(pixels):
            return bow
        data = pictures.ruler_data(services.remarked(design, bow))
        sizes[k] = (
            round((sizes[k] - pixels / pixels_per_metre(data, what == "width")) / step) * step
        )
    bound = BOUNDS[AT_MARK[what]]
    sizes[k] = min(max(sizes[k], LEAST), bound.high)
    changed = replace(limb, **{what: sizes})
    return replace(bow, upper=changed) if side == 0 else replace(bow, lower=changed)


def _unlocked(form: MarksForm, before: Bow, after: Bow) -> Bow:
    """Give locked figures back what they were."""
    limbs = []
    for side, old, new in zip(SIDES, before.limbs, after.limbs, strict=True):
        kept = {}
        for what in ("width", "thickness"):
            hold = np.array([f"{side}_{what}_{k}" in form.locked() for k in range(old.at.size)])
            kept[what] = np.where(hold, getattr(old, what), getattr(new, what))
        limbs.append(replace(new, **kept))
    return replace(after, upper=limbs[0], lower=limbs[1])
