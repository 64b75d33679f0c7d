"""What the design room's pages show."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from django.db.models import Q, QuerySet
from django.forms import Form
from django.http import QueryDict
from django.utils.safestring import SafeString

from bowyery.bow.layout import Mark
from bowyery.design.solution import Solution
from bowyery.design.sweep import best_of
from bowyery.design.verdict import verdict
from bowyery.errors import BowyeryError
from bowyery.mechanics.shot import Shot
from bowyery.units.draw_ruler import REACH_SCATTER
from bowyery.units.quantity import Units
from fellwind.designs import answers, pictures, services, sweeps, words
from fellwind.designs.answers import GlueRow, Reckoned, SchoolRow
from fellwind.designs.drafting import drawn, length_is
from fellwind.designs.forms import DesignForm, LengthForm
from fellwind.designs.measured import ScaleForm
from fellwind.designs.models import Design
from fellwind.designs.thumbs import Thumb, thumbs
from fellwind.drawing.compare import LETTERS, MapData, curves, outlines, sweep_map
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import Handle, Ruler, ruler_for, ruler_picture
from fellwind.drawing.tree import tree_picture
from fellwind.exports.leaving import Export, exports_of
from fellwind.kit.paging import Paged, Ways, by_weight, paged
from fellwind.shop.models import Archer
from fellwind.shop.services import draws_of

Pictures = str


@dataclass(frozen=True)
class Result:
    """What a design comes to: the part of a page that is made anew while figures change.

    Attributes:
        design, found, trouble: what was solved, or why nothing was.
        form: with its faults, where there are any.
        warnings: what may go wrong, in sentences.
        dries: it is of stuff that takes up water.
        string_length: (m); stack, energy (J): of the curve.
        loosed: its arrow, or why it cannot be followed (unshot); quick: with less care.
        former, former_energy: the design as it is kept, where it is being changed.
        said: what stood in the way of an act, or what a scale came to.
    """

    design: Design | None = None
    found: Solution | None = None
    trouble: str = ""
    form: Form | None = None
    ruler: Pictures = ""
    tree: Pictures = ""
    curve: Pictures = ""
    warnings: Sequence[str] = ()
    marks: tuple[Mark, ...] = ()
    use: float = 0.0
    verdict: str = ""
    usual: str = ""
    layered: bool = False
    dries: bool = False
    string_length: float = 0.0
    stack: float = 0.0
    energy: float = 0.0
    loosed: Shot | None = None
    unshot: str = ""
    quick: bool = False
    former: Solution | None = None
    former_energy: float | None = None
    said: str = ""


def result(
    design: Design,
    shown: Units,
    former: Solution | None = None,
    quick: bool = False,
    below: bool = False,
) -> Result:
    """Solve a design and show what it comes to; ``quick`` while somebody types, ``below`` the
    picture that it is drawn on.
    """
    found, trouble = services.try_solution(design, keep=not quick)
    if found is None:
        return Result(design, None, trouble)
    return result_of(design, found, shown, former, quick, below=below)


def hung(design: Design, found: Solution, on: Ruler, shown: Units) -> SafeString:
    """The bow braced and drawn, as it hangs over its ruler."""
    steps = len(found.curve.drawn.draw)
    at = f"{shown.length(design.draw)}, where it pulls {shown.fine_weight(found.weight)}"
    return tree_picture(
        pictures.bents(found, (steps // 2, steps - 1)),
        [],
        found.bow.hold.pivot,
        pictures.handle_box(found),
        on,
        shown,
        f"The bow at brace and at full draw of {at}.",
    )


def result_of(
    design: Design,
    found: Solution,
    shown: Units,
    former: Solution | None,
    quick: bool,
    handles: tuple[Handle, ...] = (),
    below: bool = False,
) -> Result:
    """Show what a solved design comes to, with handles on the ruler where marks are changed."""
    data = pictures.ruler_data(found, former)
    shot, unshot = answers.loosed(design, found, quick)
    kind, own = answers.as_usual(found)
    said = verdict(found.uses, kind)
    return Result(
        design,
        found,
        ruler=ruler_picture(data, shown, handles, below),
        tree=hung(design, found, ruler_for(data), shown),
        curve=curve_picture(pictures.curve_data(found, former), shown),
        warnings=words.warnings(found, design, shown, said),
        marks=found.marks,
        use=found.use,
        verdict=said,
        usual=words.usual(kind, own, shown) if kind else "",
        layered=len(found.bow.upper.layers) > 1,
        dries=words.wood_dries(found),
        string_length=float(found.curve.braced.string_length[0]),
        stack=found.curve.stack,
        energy=float(found.curve.energy[-1]),
        loosed=shot,
        unshot=unshot,
        quick=quick,
        former=former,
        former_energy=float(former.curve.energy[-1]) if former else None,
    )


@dataclass(frozen=True)
class DetailPage(Result):
    """One design: its result, length schools, glue lines, its draw on every ruler, and the files
    that it leaves as.
    """

    length_form: LengthForm | None = None
    scale_form: ScaleForm | None = None
    schools: Sequence[SchoolRow] = ()
    glue: Sequence[GlueRow] = ()
    draws: Sequence[tuple[str, float]] = ()
    exports: Mapping[str, Export] = field(default_factory=dict)
    reckoned: Reckoned | None = None
    begun: Sequence[object] = ()


def detail(
    design: Design,
    shown: Units,
    length_form: LengthForm | None = None,
    scale_form: ScaleForm | None = None,
) -> DetailPage:
    """The page of a design, with a form for its length or its scale that was refused, or fresh
    ones.
    """
    shown_now = result(design, shown)
    form = length_form or LengthForm(shown=shown, design=design)
    formers = design.formers.prefetch_related("builds")
    draws = draws_of(design.draw, design.figures.handle_depth)
    begun = [build for one in formers for build in one.builds.all() if build.finished is None]
    if shown_now.found is None:
        told = answers.reckoned(design, None)
        return DetailPage(
            **vars(shown_now), length_form=form, reckoned=told, begun=begun, draws=draws
        )
    solved = not design.bow_file and not design.figures.back_bow_length
    return DetailPage(
        **vars(shown_now),
        length_form=form,
        scale_form=scale_form or ScaleForm(shown=shown, draw=design.draw),
        schools=answers.schools(design) if solved else (),
        glue=answers.glue_rows(shown_now.found),
        draws=draws,
        exports=exports_of(shown_now.found),
        reckoned=answers.reckoned(design, shown_now.found),
        begun=begun,
    )


@dataclass(frozen=True)
class LetsGo:
    """Marks as they are beside those that would be solved for, ``trouble`` where none would.

    Attributes:
        rows: limb, place from the centre (m), then width and thickness of both (m).
        weights: of both (N).
        layers: of both, from the back.
    """

    rows: Sequence[tuple[str, float, float, float, float, float]] = ()
    weights: tuple[float, float] | None = None
    layers: tuple[str, str] = ("", "")
    trouble: str = ""


def lets_go(kept: Design, filled: Design) -> LetsGo:
    """A design as it is marked beside what it would be solved to."""
    was, _ = services.try_solution(kept)
    filled.bow_file = ""
    new, trouble = services.try_solution(filled, keep=False)
    if was is None or new is None:
        return LetsGo(trouble=trouble)
    rows = []
    for mark in was.marks:
        theirs = [m for m in new.marks if m.limb == mark.limb]
        at = [m.from_centre for m in theirs]
        width, thick = (
            float(np.interp(mark.from_centre, at, [getattr(m, what) for m in theirs]))
            for what in ("width", "thickness")
        )
        rows.append((mark.limb, mark.from_centre, mark.width, mark.thickness, width, thick))
    names = [" · ".join(la.material for la in one.bow.upper.layers) for one in (was, new)]
    return LetsGo(rows, (was.weight, new.weight), (names[0], names[1]))


@dataclass(frozen=True)
class EditPage(Result):
    """The form of a design beside what it comes to.

    Attributes:
        draft: the bow as the form draws it.
        length_is: what an empty length comes to.
        lets_go: what solving anew would make of marks that were set by hand, which what was
            changed would need.
    """

    design_builds: Sequence[object] = ()
    draft: Pictures = ""
    length_is: str = ""
    lets_go: LetsGo | None = None


def edit(design: Design, shown: Units, chosen: str, stave: str) -> EditPage:
    """The form of a design: as it is kept, or a new one with a chosen layout and stave."""
    if design.pk:
        form = DesignForm(shown=shown, initial=DesignForm.initial_of(design), row=design)
        came = result(design, shown, below=True)
        return edit_page(design, form, came)
    initial = words.starting_values(chosen, stave) | {"marked_in": shown.world}
    return edit_page(design, DesignForm(shown=shown, initial=initial))


def edit_page(
    design: Design, form: DesignForm, came: Result | None = None, said: str = ""
) -> EditPage:
    """The form with its picture, and what it comes to where that is known already."""
    shown = vars(came or Result(design)) | {"form": form, "said": said}
    builds = list(design.builds.filter(finished=None)) if design.pk else []
    seen = drawn(form)
    return EditPage(**shown, design_builds=builds, draft=seen.picture, length_is=seen.length_is)


@dataclass(frozen=True)
class PreviewPart(Result):
    """What the figures typed so far come to, and what is told of a length left empty and a draw by
    reach.
    """

    length_is: str = ""
    reach_is: str = ""


def preview(design: Design, form: DesignForm, came: Result) -> PreviewPart:
    """What a form's design comes to."""
    reach = ""
    if form.value("reach") is not None and form.value("draw") is None:
        weights = None
        if came.found is not None:
            drawn = came.found.curve.drawn
            slope = float(np.diff(drawn.weight)[-1] / np.diff(drawn.draw)[-1])
            off = slope * REACH_SCATTER
            weights = (came.found.weight - off, came.found.weight + off)
        reach = words.reach_is(design.draw, weights, form.shown)
    parts = vars(came) | {"form": form}
    return PreviewPart(**parts, length_is=length_is(form, design), reach_is=reach)


@dataclass(frozen=True)
class LengthsPart:
    """A design's draw on three rulers, and its length by three schools."""

    draws: Sequence[tuple[str, float]]
    schools: Sequence[SchoolRow]
    now: float


def lengths(design: Design) -> LengthsPart:
    """Of the figures typed so far; raises BowyeryError."""
    schools = answers.schools(design) if not design.figures.back_bow_length else []
    return LengthsPart(draws_of(design.draw, design.figures.handle_depth), schools, design.length)


@dataclass(frozen=True)
class Row:
    """A design in the list."""

    design: Design
    thumb: Thumb | None


@dataclass(frozen=True)
class ListPage:
    """A page of designs with their outlines; whether there is an archer to design for."""

    rows: list[Row]
    archers: bool
    paged: Paged


ORDERS = {"newest": "-made", "name": "name", "wood": "material", "weight": "weight",
          "archer": "archer__name"}  # fmt: skip
STATES = {
    "not built yet": Q(builds=None),
    "being built": Q(builds__isnull=False, builds__finished=None),
    "built": Q(builds__finished__isnull=False),
}


def design_list(asked: QueryDict, shown: Units) -> ListPage:
    """The page of designs that was asked for."""
    words = ("name", "material", "archer__name")
    ways = Ways(
        ORDERS,
        {"wood": "material", "archer": "archer__name"},
        {"weight": by_weight("weight", shown), "state": STATES},
    )
    found = paged(services.present().prefetch_related("builds"), asked, words, ways=ways)
    kept = thumbs(found.rows)
    rows = [Row(design, kept.get(design.pk)) for design in found.rows]
    return ListPage(rows, Archer.objects.exists(), found)


@dataclass(frozen=True)
class ThumbPart:
    """What a list shows of a design that was not solved yet."""

    row: Row
    only_picture: bool


@dataclass(frozen=True)
class Compared:
    """A design beside others."""

    design: Design
    found: Solution
    loosed: Shot | None
    letter: str
    verdict: str
    energy: float
    string: float


@dataclass(frozen=True)
class ComparePage:
    """Up to four designs on one ruler and one chart."""

    designs: QuerySet[Design]
    chosen: list[int]
    rows: list[Compared] = field(default_factory=list)
    troubles: list[str] = field(default_factory=list)
    outlines: Pictures = ""
    curves: Pictures = ""


def compare(keys: list[int], shown: Units) -> ComparePage:
    """Lay designs side by side, in the order they were named."""
    known = {d.pk: d for d in services.designs().filter(pk__in=keys)}
    rows, troubles = list[Compared](), list[str]()
    for pk in dict.fromkeys(k for k in keys if k in known):
        one = known[pk]
        found, trouble = services.try_solution(one)
        if found is None:
            troubles.append(f"{one.name}: {trouble}")
            continue
        rows.append(
            Compared(
                one,
                found,
                answers.loosed(one, found)[0],
                LETTERS[len(rows)],
                found.verdict,
                float(found.curve.energy[-1]),
                float(found.curve.braced.string_length[0]),
            )
        )
    if not rows:
        return ComparePage(services.designs(), keys, rows, troubles)
    drawn = [r.found.curve.drawn for r in rows]
    return ComparePage(
        services.designs(),
        keys,
        rows,
        troubles,
        outlines([pictures.ruler_data(r.found) for r in rows], shown),
        curves([(d.draw, d.weight) for d in drawn], shown),
    )


@dataclass(frozen=True)
class Best:
    """The variant of a sweep that uses its wood least at the wanted weight."""

    where: str
    weight: float
    use: float
    speed: float


@dataclass(frozen=True)
class SweepPage:
    """Weight, strain and speed over two measures of a design."""

    design: Design
    trouble: str = ""
    measures: list[str] = field(default_factory=list)
    first: str = ""
    second: str = ""
    maps: list[Pictures] = field(default_factory=list)
    count: int = 0
    best: Best | None = None


def swept(design: Design, first: str, second: str, shown: Units) -> SweepPage:
    """Sweep two measures of a design."""
    found, trouble = services.try_solution(design)
    if found is None:
        return SweepPage(design, trouble)
    if found.shared is not None:
        return SweepPage(
            design, "A bow with a back-bow is not swept; make variants of it and compare them."
        )
    choice = sweeps.axes(design, found)
    if second == "wood":  # names stand beside the map, not under it
        first, second = second, first
    names = list(choice)
    if first not in choice or second not in choice or first == second:
        return SweepPage(design, "Choose two different measures to sweep.", names, first, second)
    try:
        return _maps(design, found, (choice[first], choice[second]), names, shown)
    except BowyeryError as error:
        return SweepPage(design, str(error), names, first, second)


def _maps(
    design: Design,
    found: Solution,
    pair: tuple[sweeps.Axis, sweeps.Axis],
    names: list[str],
    shown: Units,
) -> SweepPage:
    first, second = pair
    answer = sweeps.swept(design, found, first.name, second.name)
    ends = [
        (a.name, a.words(float(a.values[0]), shown), a.words(float(a.values[-1]), shown))
        for a in pair
    ]
    now = [int(np.abs(a.values - a.now).argmin()) for a in pair]
    rows: tuple[str, ...] = ()
    if first.name == "wood":
        rows = tuple(first.words(float(k), shown) for k in first.values)
    best = best_of(answer, design.weight)
    weight, speed = ("lb", "fps") if shown.imperial else ("kg", "m/s")
    maps: list[Pictures] = [
        sweep_map(MapData(title, values, write, ends[0], ends[1], (now[0], now[1]), best, rows))
        for title, values, write in (
            (f"Weight, {weight}", answer.weight, shown.bare_weight),
            ("Use of what lasts, %", answer.use, lambda v: f"{v * 100:.0f}"),
            (f"Arrow speed, about, {speed}", answer.speed, lambda v: shown.speed(v).split()[0]),
        )
    ]
    chosen = None
    if best is not None:
        at = [a.words(float(a.values[k]), shown) for a, k in zip(pair, best, strict=True)]
        chosen = Best(
            f"{first.name} {at[0]} and {second.name} {at[1]}",
            float(answer.weight[best]),
            float(answer.use[best]),
            float(answer.speed[best]),
        )
    return SweepPage(design, "", names, first.name, second.name, maps, answer.weight.size, chosen)
