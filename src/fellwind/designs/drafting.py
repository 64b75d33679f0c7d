"""The design form as it is drawn: its picture, and what dragging, adding and choosing do to it."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.core.exceptions import NON_FIELD_ERRORS
from django.forms import ChoiceField, ModelChoiceField
from django.utils.safestring import SafeString

from bowyery.bow.bow import SIDES
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import Layout
from bowyery.errors import BowyeryError, UnreadableError
from bowyery.units.bounds import BOUNDS
from bowyery.units.quantity import INCH, LENGTH, POUND_FORCE, QUANTITIES, Units
from fellwind.designs import rows, services, words
from fellwind.designs.forms import DesignForm
from fellwind.designs.models import Design
from fellwind.drawing.drafting import draft_picture, points_of, scales
from fellwind.kit.measures import MeasureField, convert
from fellwind.kit.pages import number_in
from fellwind.kit.versions import choices_of
from fellwind.rack.models import Stave

_POINT = re.compile(r"(upper|lower)_(wide|lies)_(root|nock|\d)")
TAKEN = ("length", "weight", "draw", "back_bow_root", "back_bow_nock")  # by one press
LEAST = 0.004  # no width is dragged below this (m)
FIRST_LINE = (0.35, 0.7)  # places of the first offsets, as shares of the limb
BACK_BOW_FOR = 45 * POUND_FORCE  # the layout's own back-bow is laid out for so much
NEW_LAM = {"side": "belly", "root": 0.001, "nock": 0.001, "ends": None}


def as_sent(form: DesignForm) -> dict[str, Any]:
    """A fresh form's values as a browser would send them: what is not chosen takes the first."""
    found: dict[str, Any] = {}
    for bound in form:
        value, field = bound.value(), bound.field
        if value in (None, "") and isinstance(field, ModelChoiceField):
            rows_of = field.queryset
            first = rows_of.first() if rows_of is not None and field.required else None
            value = first.pk if first else ""
        elif value in (None, "") and isinstance(field, ChoiceField):
            flat = [key for key, _ in choices_of(field)]
            if bound.name == "material":  # what it is of changes nothing of how it is drawn
                flat = [key for key in flat if key]
            value = flat[0] if flat else ""
        found[bound.name] = "" if value is None else getattr(value, "pk", value)
    return found


@dataclass(frozen=True)
class Drawn:
    """A form's bow as it is drawn, with points to take hold of, and what an empty length comes to;
    both empty while some figure cannot be read, or no bow can be drawn from them.
    """

    picture: SafeString | str = ""
    length_is: str = ""


def length_is(form: DesignForm, design: Design) -> str:
    """What the length of a form comes to that was left empty."""
    if form.value("length") is not None:
        return ""
    return words.length_is(design, services.usual_length(design), form.shown)


def drawn(form: DesignForm) -> Drawn:
    """The bow as the form draws it."""
    tried = form if form.is_bound else DesignForm(as_sent(form), shown=form.shown, tried=True)
    if set(tried.errors) - {NON_FIELD_ERRORS}:  # what is said of the whole hinders no drawing
        return Drawn()
    try:
        design = tried.fill(Design())
        layout = services.core_inputs(design)[0].checked()
    except BowyeryError:
        return Drawn()
    said = length_is(tried, design) if form.is_bound or form.startable else ""
    return Drawn(_picture(tried, layout), said)


def _picture(tried: DesignForm, layout: Layout) -> SafeString:
    widths: dict[str, list[tuple[str, float, float]]] = {}
    lines: dict[str, list[tuple[str, float, float]]] = {}
    from_tip = tried.cleaned_data.get("places_from") == "tip"
    for one in tried.width_rows():
        side = one.side
        widths[side] = [(f"{side}_wide_root", 0.0, tried.given(f"{side}_wide_root"))]
        for _, _, k in one.inner:
            share = rows.share_at(layout, side, tried.given(f"{side}_at_{k}"), from_tip)
            widths[side].append((f"{side}_wide_{k}", share, tried.given(f"{side}_wide_{k}")))
        widths[side].append((f"{side}_wide_nock", 1.0, tried.given(f"{side}_wide_nock")))
    for side, inner, _ in tried.line_rows():
        lines[side] = []
        for _, _, k in inner:
            share = rows.share_at(layout, side, tried.given(f"{side}_lies_at_{k}"), False)
            lines[side].append((f"{side}_lies_{k}", share, -tried.given(f"{side}_lies_{k}")))
        lines[side].append((f"{side}_lies_nock", 1.0, -tried.given(f"{side}_lies_nock")))
    return draft_picture(layout, points_of(layout, widths, lines, tried.shown), tried.shown)


def acted(given: Mapping[str, str], shown: Units) -> tuple[dict[str, Any], str]:
    """The form's values after what was asked, and what stood in the way.

    Args:
        given: the whole form as it was sent, with the act.
    """
    values: dict[str, Any] = dict(given)
    act = given.get("action", "")
    if act == "kind":
        return _kind(values, given, shown), ""
    if act == "follow":
        return values | _follow(given, shown), ""
    form = DesignForm(dict(given), shown=shown, tried=True)
    if not form.is_valid():
        return values, "First mend what cannot be read: " + " ".join(form.faults())
    try:
        design = form.fill(Design())
        layout = services.core_inputs(design)[0].checked()
        make = _ACTS.get(act)
        if make is not None:
            return make(Asked(values, given, form, layout)), ""
    except (BowyeryError, UnreadableError) as error:
        return values, str(getattr(error, "reason", error))
    return values, ""


def rewritten(given: Mapping[str, str], before: Units, after: Units) -> dict[str, Any]:
    """The form's values as they would have been typed in other units."""
    form = DesignForm(dict(given), shown=before, tried=True)
    values = dict(given)
    for name, field in form.fields.items():
        if isinstance(field, MeasureField) and given.get(name):
            values[name] = convert(given[name], field.bound.quantity, before.world, after)
    del values["page_world"]
    return values


@dataclass(frozen=True)
class Asked:
    """An act on the form: its values, what was sent, the form read, and the layout it draws."""

    values: dict[str, Any]
    given: Mapping[str, str]
    form: DesignForm
    layout: Layout

    @property
    def side(self) -> str:
        """Which limb is meant."""
        side = self.given.get("side", "")
        return side if side in SIDES else "upper"

    @property
    def number(self) -> int | None:
        """Which row is meant."""
        return number_in(self.given.get("number"))

    @property
    def from_tip(self) -> bool:
        """Whether places of widths count from the nock."""
        return self.form.cleaned_data.get("places_from") == "tip"

    @property
    def lams(self) -> list[dict[str, Any]]:
        """The further layers."""
        return rows.lams_of(self.form, self.form.names)


def _without(values: dict[str, Any], *kinds: str) -> dict[str, Any]:
    """Values without the rows of some kinds."""
    names = rows.row_names(rows.names_in(values))
    return {k: v for k, v in values.items() if not (k in names and set(kinds) & set(k.split("_")))}


def _kind(values: dict[str, Any], given: Mapping[str, str], shown: Units) -> dict[str, Any]:
    """A layout of the list for the draw that is asked for."""
    make = LAYOUTS.get(given.get("choice", ""))
    if make is None:
        return values
    draw = words.draw_of(values, shown)
    fresh: dict[str, Any] = dict.fromkeys(rows.FLAGS, "")
    fresh |= {
        "tip_bent": "", "tip_angle": 0.0, "tip_static": "", "back": "", "belly": "",
        "back_bow_length": "", "solve_for": "thickness", "section_radius": "", "tube_wall": "",
        "tube_ends": "", "tube_stock": "", "tube_rod": "",
        "grip_width": "", "length": "", "kind": given["choice"],
    }  # fmt: skip
    for name in rows.row_names(rows.names_in(values)):
        values.pop(name, None)
    new = words.layout_initial(make(draw))
    new.pop("length", None)  # as the archer and the wood want it
    return values | fresh | new


def _follow(given: Mapping[str, str], shown: Units) -> dict[str, Any]:
    """What follows a figure that was changed, of what nobody has touched: the wood a stave is of, a
    backing's usual thickness, a back-bow as long and as heavy as its bow.
    """
    what, touched = given.get("what", ""), set(given.get("touched", "").split(","))
    chosen, found = given.get(what, ""), dict[str, Any]()
    if what == "stave":
        stave = Stave.objects.filter(pk=number_in(chosen) or 0).first()
        return {"material": stave.material} if stave else {}
    if what in ("back", "belly"):
        try:
            thick = services.layer_as_usual(chosen) if chosen else 0.0
        except BowyeryError:  # nothing that is known here
            return {}
        found = {f"{what}_root": thick, f"{what}_nock": thick}
    make = LAYOUTS.get(given.get("kind", ""))
    if what in ("length", "weight") and given.get("back_bow_length") and make is not None:
        model = make(words.draw_of(given, shown))
        back = model.back_bow
        if back is None:
            return {}
        try:
            if what == "length":
                long = LENGTH.read(chosen, shown.world)
                if not BOUNDS["bow length"].holds(long):
                    return {}
                found = {"back_bow_length": back.length * long / model.length}
            else:
                weight = QUANTITIES["weight"].read(chosen, shown.world)
                if not BOUNDS["wanted weight"].holds(weight):
                    return {}
                heavy = weight / BACK_BOW_FOR
                deep = [heavy ** (1 / 3) * each for each in back.depth]
                found = {"back_bow_root": deep[0], "back_bow_nock": deep[1],
                         "cable_tension": heavy * back.tension}  # fmt: skip
        except UnreadableError:
            return {}
    return {name: value for name, value in found.items() if name not in touched}


def _draw(asked: Asked) -> dict[str, Any]:
    """The outline by points, as its sizes have drawn it so far."""
    values = asked.values | {"drawn": "1", "own_lower": ""}
    length = asked.layout.limb_length(True)
    shares = [0.0, 1.0]
    knee = max(asked.layout.parallel, 0.05 if asked.layout.root_width < 1 else 0.0)
    if 0.01 < knee < 0.99:
        shares.insert(1, knee)
    if asked.layout.root_width == 1 and knee > 0.3:
        shares.insert(1, round(knee / 2, 2))
    points = [(s, float(asked.layout.width_at(np.array([s * length]), True)[0])) for s in shares]
    return values | rows.width_values("upper", points, asked.layout, asked.from_tip)


def _simple(asked: Asked) -> dict[str, Any]:
    """The outline by its sizes again."""
    return _without(asked.values, "wide", "at") | {"drawn": "", "own_lower": ""}


def _own(asked: Asked) -> dict[str, Any]:
    """The lower limb with an outline of its own, or again like the upper."""
    if asked.form.cleaned_data.get("own_lower"):
        left = {
            k: v for k, v in asked.values.items() if not k.startswith(("lower_wide", "lower_at"))
        }
        return left | {"own_lower": ""}
    if asked.layout.widths is None:
        return asked.values
    from_tip = asked.from_tip
    return (
        asked.values
        | {"own_lower": "1"}
        | rows.width_values("lower", asked.layout.widths[1], asked.layout, from_tip)
    )


def _from(asked: Asked) -> dict[str, Any]:
    """Places from the other end; the points stay where they are."""
    values = asked.values | {"places_from": "centre" if asked.from_tip else "tip"}
    if asked.layout.widths is not None:
        for points, side in zip(asked.layout.widths, SIDES, strict=True):
            if f"{side}_wide_root" in values:
                values |= rows.width_values(side, points, asked.layout, not asked.from_tip)
    return values


def _add(asked: Asked) -> dict[str, Any]:
    """One more width, in the widest stretch without one."""
    side = asked.side
    if asked.layout.widths is None:
        return asked.values
    points = list(asked.layout.widths[SIDES.index(side)])
    if len(points) >= rows.MOST_INNER + 2:
        raise UnreadableError("Six widths a limb are the most.")
    points = _one_more(points)
    return _widths(asked.values, side, points, asked.form, asked.layout)


def _one_more(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points with one in the middle of their widest stretch."""
    k = max(range(len(points) - 1), key=lambda k: points[k + 1][0] - points[k][0])
    (a, v), (b, w) = points[k : k + 2]
    return [*points[: k + 1], (0.5 * (a + b), 0.5 * (v + w)), *points[k + 1 :]]


def _widths(
    values: dict[str, Any],
    side: str,
    points: list[tuple[float, float]],
    form: DesignForm,
    layout: Layout,
) -> dict[str, Any]:
    left = {k: v for k, v in values.items() if not k.startswith((f"{side}_wide", f"{side}_at"))}
    from_tip = form.cleaned_data.get("places_from") == "tip"
    return left | rows.width_values(side, points, layout, from_tip)


def _remove(asked: Asked) -> dict[str, Any]:
    """A width or an offset less."""
    side, k = asked.side, asked.number
    pair = ("at", "wide") if asked.given.get("track") != "line" else ("lies_at", "lies")
    return {
        n: v for n, v in asked.values.items() if n not in {f"{side}_{what}_{k}" for what in pair}
    }


def _line(asked: Asked) -> dict[str, Any]:
    """A limb's natural line by points, as it has been drawn so far, or by its reflex again."""
    side = asked.side
    if asked.form.cleaned_data.get(f"line_{side}"):
        left = {k: v for k, v in asked.values.items() if not k.startswith(f"{side}_lies")}
        return left | {f"line_{side}": ""}
    points = [(share, -asked.layout.reflex * share**2) for share in (*FIRST_LINE, 1.0)]
    return asked.values | {f"line_{side}": "1"} | rows.line_values(side, points, asked.layout)


def _line_add(asked: Asked) -> dict[str, Any]:
    """One more offset, in the widest stretch without one."""
    side = asked.side
    line = asked.layout.lines[SIDES.index(side)]
    if line is None:
        return asked.values
    if len(line.at) > rows.MOST_LINE:
        raise UnreadableError("So many offsets are the most.")
    points = _one_more([(0.0, 0.0), *zip(line.at, line.across, strict=True)])
    left = {n: v for n, v in asked.values.items() if not n.startswith(f"{side}_lies")}
    return left | rows.line_values(side, points[1:], asked.layout)


def _lam_add(asked: Asked) -> dict[str, Any]:
    """One more lam."""
    lams = asked.lams
    if sum(lam["count"] for lam in lams) >= rows.MOST_LAMS:
        raise UnreadableError("Eight further lams are the most.")
    stuff = asked.given.get("material") or layout_stuff(asked.form)
    lams.append(NEW_LAM | {"material": stuff})
    return _lams(asked.values, lams)


def layout_stuff(form: DesignForm) -> str:
    """What a new lam is made of at first: the design's own wood."""
    stave = form.cleaned_data.get("stave")
    return str(stave.material if stave else form.cleaned_data["material"])


def _lams(values: dict[str, Any], lams: list[dict[str, Any]]) -> dict[str, Any]:
    left = {n: v for n, v in values.items() if not n.startswith("lam_")}
    for k, lam in enumerate(lams):
        left |= rows.lam_values(k, lam)
    return left


def _lam_remove(asked: Asked) -> dict[str, Any]:
    """A lam less."""
    lams = asked.lams
    k = asked.number
    if k is not None and k < len(lams):
        del lams[k]
    return _lams(asked.values, lams)


def _lam_up(asked: Asked) -> dict[str, Any]:
    """A lam one nearer to the back."""
    lams = asked.lams
    k = asked.number
    if k and k < len(lams):
        lams[k - 1], lams[k] = lams[k], lams[k - 1]
    return _lams(asked.values, lams)


def _length(asked: Asked) -> dict[str, Any]:
    """The length that a school asks for."""
    return asked.values | {"length": asked.given.get("choice", "")}


def _take(asked: Asked) -> dict[str, Any]:
    """Figures of a bow that can be built, in place of those of one that cannot."""
    taken = {name: asked.given[f"take_{name}"] for name in TAKEN if f"take_{name}" in asked.given}
    if "draw" in taken:  # it was worked out to the grip
        taken["draw_by"] = ""
    return asked.values | taken


def _move(asked: Asked) -> dict[str, Any]:
    """A point dragged by so many pixels, or stepped by a key."""
    name = asked.given.get("point", "")
    if name not in asked.form.fields or not _POINT.fullmatch(name):
        return asked.values
    side, what, which = name.split("_")
    scale, wide = scales(asked.layout), what == "wide"
    dx, dy = _pixels(asked.given.get("dx")), _pixels(asked.given.get("dy"))
    step = (INCH / 32 if wide else INCH / 16) if asked.form.shown.imperial else 0.001
    reach = INCH / 4 if asked.form.shown.imperial else 0.005
    out, up = 0.0, 0.0
    key = asked.given.get("nudge")
    if key in ("up", "down"):
        up = step if key == "up" else -step
    elif key in ("left", "right"):
        out = reach if (key == "right") == (side == "upper") else -reach
    else:
        up = -dy / (scale.width if wide else scale.across)
        out = dx / scale.along * (1 if side == "upper" else -1)
    size = round((asked.form.given(name) + up) / step) * step
    bound = BOUNDS["limb width" if wide else "line of a limb"]
    if wide and which == "nock":
        bound = BOUNDS["tip width"]
    asked.values[name] = min(max(size, max(bound.low, LEAST) if wide else bound.low), bound.high)
    if which.isdigit() and abs(out) > 1e-9:
        at = f"{side}_{'at' if wide else 'lies_at'}_{which}"
        from_tip = wide and asked.from_tip
        place = asked.form.given(at) - out if from_tip else asked.form.given(at) + out
        ends = sorted(rows.place_at(asked.layout, side, s, from_tip) for s in (0.02, 0.98))
        low, high = math.ceil(ends[0] / reach) * reach, math.floor(ends[1] / reach) * reach
        asked.values[at] = min(max(round(place / reach) * reach, low), high)
    return asked.values


def _pixels(text: str | None) -> float:
    try:
        value = float(text or 0)
    except ValueError:
        return 0.0
    return value if math.isfinite(value) else 0.0


_ACTS = {
    "draw": _draw, "simple": _simple, "own": _own, "from": _from, "add": _add, "remove": _remove,
    "line": _line, "line_add": _line_add, "lam_add": _lam_add, "lam_remove": _lam_remove,
    "lam_up": _lam_up, "length": _length, "move": _move,
    "take": _take,
}  # fmt: skip
