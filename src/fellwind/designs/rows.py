"""Rows of the design form that come and go: widths, offsets of the natural line, and lams."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from django import forms

from bowyery.bow.bow import SIDES
from bowyery.bow.layout import MOST_WIDTHS, Layout
from fellwind.designs.models import Design
from fellwind.kit.fields import choose
from fellwind.kit.measures import MeasuredForm

MOST_INNER = MOST_WIDTHS - 2  # width points between the fade's end and the nock
MOST_LINE = 6  # offsets before that at the nock
MOST_LAMS = 8
LAM_SIDES = {"back": "behind the wood", "belly": "before the wood"}
_ROW = re.compile(r"(?:(upper|lower)_(at|lies_at)|lam_root)_(\d)")
LAM = ("count", "side", "stuff", "root", "nock", "ends")
FLAGS = ("drawn", "own_lower", "line_upper", "line_lower")


@dataclass(frozen=True)
class Names:
    """Names of the rows' fields that a form has: of widths and of offsets by limb, and how many
    lams.
    """

    widths: dict[str, list[int]]
    line: dict[str, list[int]]
    lams: list[int]


def names_in(given: Iterable[str]) -> Names:
    """The rows that a form's data or its initial values speak of."""
    found = Names({side: [] for side in SIDES}, {side: [] for side in SIDES}, [])
    for name in given:
        row = _ROW.fullmatch(name)
        if row is None:
            continue
        number = int(row[3])
        if row[1] is None:
            if number < MOST_LAMS:
                found.lams.append(number)
        elif row[2] == "at" and number < MOST_INNER:
            found.widths[row[1]].append(number)
        elif row[2] == "lies_at" and number < MOST_LINE:
            found.line[row[1]].append(number)
    for some in (*found.widths.values(), *found.line.values(), found.lams):
        some[:] = sorted(set(some))
    return found


def add_rows(form: MeasuredForm, given: Mapping[str, Any], stuff: Iterable[Any]) -> Names:
    """Give a form the fields of its rows.

    Args:
        given: what was sent, or its initial values.
    """
    names = names_in(given)
    for side in SIDES:
        if given.get("drawn") and (side == "upper" or given.get("own_lower")):
            limb = f"{side} limb"
            form.add(f"{side}_wide_root", "limb width", f"Width at the fade's end, {limb}")
            for k in names.widths[side]:
                form.add(f"{side}_at_{k}", "place on a limb", f"Place {k + 1}, {limb}")
                form.add(f"{side}_wide_{k}", "limb width", f"Width at place {k + 1}, {limb}")
            form.add(f"{side}_wide_nock", "tip width", f"Width at the nock, {limb}")
        if given.get(f"line_{side}"):
            for k in names.line[side]:
                form.add(f"{side}_lies_at_{k}", "place on a limb", f"Offset {k + 1}, {side}: where")
                form.add(f"{side}_lies_{k}", "line of a limb", f"Offset {k + 1}, {side} limb")
            form.add(f"{side}_lies_nock", "line of a limb", f"Offset at the nock, {side} limb")
    for k in names.lams:
        label = f"Lam {k + 1}"
        form.fields[f"lam_side_{k}"] = forms.ChoiceField(
            choices=list(LAM_SIDES.items()), label=f"{label}: where"
        )
        form.fields[f"lam_stuff_{k}"] = forms.ChoiceField(label=f"{label}: of")
        choose(form, stuff, f"lam_stuff_{k}")
        form.add(f"lam_root_{k}", "laid layer", f"{label}: thick at the fade")
        form.add(f"lam_nock_{k}", "laid layer", f"{label}: thick at its end")
        form.add(f"lam_ends_{k}", "wedge", f"{label}: runs out after", required=False)
        form.fields[f"lam_count_{k}"] = forms.ChoiceField(
            choices=[(n, n) for n in range(1, MOST_LAMS + 1)],
            required=False,
            label=f"{label}: how many alike",
        )
        for name in (f"lam_side_{k}", f"lam_stuff_{k}", f"lam_count_{k}"):
            form.fields[name].widget.attrs["class"] = "form-select"
    return names


def shape_of(form: MeasuredForm, names: Names, layout: Layout) -> dict[str, Any]:
    """What the rows say, as a design keeps it: outline, line and lams.

    Args:
        layout: whose limbs the shares are of.
    """
    data = form.cleaned_data
    outline: dict[str, Any] | None = None
    if data.get("drawn"):
        from_tip = data.get("places_from") == "tip"
        outline = {"upper": _widths(form, names, layout, "upper", from_tip)}
        outline["lower"] = (
            _widths(form, names, layout, "lower", from_tip) if data.get("own_lower") else None
        )
    line = {}
    for side in SIDES:
        if data.get(f"line_{side}"):
            rows = [
                (
                    share_at(layout, side, form.given(f"{side}_lies_at_{k}"), False),
                    -form.given(f"{side}_lies_{k}"),
                )
                for k in names.line[side]
            ]
            line[side] = [*sorted(rows), (1.0, -form.given(f"{side}_lies_nock"))]
    lams = [
        {name: value for name, value in row.items() if name != "count"}
        for row in lams_of(form, names)
        for _ in range(row["count"])
    ]
    return {"outline": outline, "line": line, "lams": lams}


def lams_of(form: MeasuredForm, names: Names) -> list[dict[str, Any]]:
    """The further layers of a form that was read whole, those alike as one with their count."""
    data = form.cleaned_data
    return [
        {
            "side": data[f"lam_side_{k}"],
            "material": data[f"lam_stuff_{k}"],
            "root": form.given(f"lam_root_{k}"),
            "nock": form.given(f"lam_nock_{k}"),
            "ends": form.value(f"lam_ends_{k}"),
            "count": int(data[f"lam_count_{k}"] or 1),
        }
        for k in names.lams
    ]


def _widths(
    form: MeasuredForm, names: Names, layout: Layout, side: str, from_tip: bool
) -> list[tuple[float, float]]:
    inner = [
        (
            share_at(layout, side, form.given(f"{side}_at_{k}"), from_tip),
            form.given(f"{side}_wide_{k}"),
        )
        for k in names.widths[side]
    ]
    root, nock = form.given(f"{side}_wide_root"), form.given(f"{side}_wide_nock")
    return [(0.0, root), *sorted(inner), (1.0, nock)]


def share_at(layout: Layout, side: str, place: float, from_tip: bool) -> float:
    """A place on a limb as a share of its bending length."""
    upper = side == "upper"
    limb = layout.limb_length(upper)
    return 1 - place / limb if from_tip else (place - layout.root_from_centre(upper)) / limb


def place_at(layout: Layout, side: str, share: float, from_tip: bool) -> float:
    """A share of a limb as a place: from the centre, or from the nock (m)."""
    upper = side == "upper"
    limb = layout.limb_length(upper)
    return (1 - share) * limb if from_tip else layout.root_from_centre(upper) + share * limb


def off_the_limb(form: MeasuredForm, names: Names, layout: Layout) -> dict[str, str]:
    """Places that lie on no limb: the name of each field, and the sentence to set beside it."""
    found = {}
    from_tip = form.cleaned_data.get("places_from") == "tip"
    shown = form.shown
    for side in SIDES:
        for prefix, rows, tip in (
            ("at", names.widths[side], from_tip),
            ("lies_at", names.line[side], False),
        ):
            for k in rows:
                place = form.value(f"{side}_{prefix}_{k}")
                if place is None:
                    continue
                share = share_at(layout, side, place, tip)
                if not 0.005 < share < 0.995:
                    low, high = sorted(place_at(layout, side, end, tip) for end in (0.01, 0.99))
                    found[f"{side}_{prefix}_{k}"] = (
                        f"This limb bends from {shown.length(low)} to {shown.length(high)}"
                        f" {'from the nock' if tip else 'from the centre'}."
                    )
    return found


def initial_rows(design: Design, layout: Layout) -> dict[str, Any]:
    """Values of a design's rows for editing."""
    values: dict[str, Any] = {"drawn": "", "own_lower": "", "line_upper": "", "line_lower": ""}
    figures = design.figures
    if figures.outline:
        from_tip = figures.places_from == "tip"
        values["drawn"] = "1"
        values["own_lower"] = "1" if figures.outline.get("lower") else ""
        for side in SIDES:
            points = figures.outline.get(side)
            if points:
                values |= width_values(side, points, layout, from_tip)
    for limb, offsets in (figures.line or {}).items():
        values[f"line_{limb}"] = "1"
        values |= line_values(limb, offsets, layout)
    for k, (lam, alike) in enumerate(groupby(figures.lams)):
        values |= lam_values(k, lam | {"count": len(list(alike))})
    return values


def width_values(
    side: str, points: Iterable[tuple[float, float]], layout: Layout, from_tip: bool
) -> dict[str, Any]:
    """Form values of a limb's width points."""
    first, *inner, last = points
    values: dict[str, Any] = {f"{side}_wide_root": first[1], f"{side}_wide_nock": last[1]}
    for k, (share, width) in enumerate(inner):
        values[f"{side}_at_{k}"] = place_at(layout, side, share, from_tip)
        values[f"{side}_wide_{k}"] = width
    return values


def line_values(side: str, points: Iterable[tuple[float, float]], layout: Layout) -> dict[str, Any]:
    """Form values of a limb's natural line; to the back above zero."""
    *inner, last = points
    values: dict[str, Any] = {f"{side}_lies_nock": -last[1] + 0.0}
    for k, (share, across) in enumerate(inner):
        values[f"{side}_lies_at_{k}"] = place_at(layout, side, share, False)
        values[f"{side}_lies_{k}"] = -across + 0.0
    return values


def lam_values(k: int, lam: Mapping[str, Any]) -> dict[str, Any]:
    """Form values of a lam."""
    return {
        f"lam_side_{k}": lam["side"],
        f"lam_stuff_{k}": lam["material"],
        f"lam_root_{k}": lam["root"],
        f"lam_nock_{k}": lam["nock"],
        f"lam_ends_{k}": lam["ends"],
        f"lam_count_{k}": lam.get("count", 1),
    }


def row_names(names: Names) -> list[str]:
    """Names of all fields of the rows."""
    found = []
    for side in SIDES:
        found += [f"{side}_wide_root", f"{side}_wide_nock", f"{side}_lies_nock"]
        found += [f"{side}_{what}_{k}" for k in names.widths[side] for what in ("at", "wide")]
        found += [f"{side}_{what}_{k}" for k in names.line[side] for what in ("lies_at", "lies")]
    found += [f"lam_{what}_{k}" for k in names.lams for what in LAM]
    return found
