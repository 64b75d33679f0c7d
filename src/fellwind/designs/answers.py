"""What a design comes to beside its marks: arrow, cables, lengths, what would change it."""

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING, Literal

import numpy as np

from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, BackBow, Bow
from bowyery.bow.layout import (
    school_a_length,
)
from bowyery.design.alterations import Outcome, backed, heated, outcomes, reflexed, shortened
from bowyery.design.lengths import LengthSchool, length_for, length_schools
from bowyery.design.nearest import nearest
from bowyery.design.solution import Solution
from bowyery.design.usual import Kind, kind_of
from bowyery.errors import BowyeryError, DescriptionError, DesignError
from bowyery.mechanics.back_bow import SharedCurve, inner_strain, share_against_cable
from bowyery.mechanics.dynamics import USUAL_ARROW
from bowyery.mechanics.glue_lines import glue_lines
from bowyery.mechanics.shot import Shot, shoot
from bowyery.strings.cable import strands_of, tone, turns_to_tighten
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import INCH, Units
from bowyery.wood.materials import Fibre
from fellwind.designs.models import Design
from fellwind.designs.ports import FINISHED_BOWS, PROVED_SHOTS, FinishedBow
from fellwind.kit.cache import computed
from fellwind.shop import learning
from fellwind.shop.book import material

if TYPE_CHECKING:
    pass
from fellwind.designs.services import (
    LOOSE,
    RULES,
    USUAL_BACKINGS,
    core_inputs,
    knows_now,
    save,
    solution,
)


@dataclass(frozen=True)
class Reckoned:
    """By what a design's wood is reckoned, and by what it could be.

    Attributes:
        how: ``measured``, ``book``, ``shop`` or ``neither``: made before anything was known.
        kept: what it was made with, where the shop had learned something.
        now: what the shop knows now, where that is something else.
        book_weight: that the same marks would pull by the book alone (N), where that can be said.
        builds: that are being made from it.
    """

    how: str
    kept: dict[str, float] | None
    now: dict[str, float] | None
    book_weight: float | None
    builds: tuple[object, ...]


def reckoned(design: Design, found: Solution | None) -> Reckoned:
    """By what a design's wood is reckoned."""
    now = knows_now(design)
    how = "shop" if design.learned else "neither"
    if design.by_book:
        how = "book"
    elif design.measured_wood:
        how = "measured"
    weight = None
    plain = found is not None and len(found.bow.upper.layers) == 1 and not design.bow_file
    if found is not None and how == "shop" and plain:
        weight = found.weight / design.stiffer  # forces of one shape go with its stiffness
    builds = tuple(design.builds.filter(finished=None)) if design.pk else ()
    return Reckoned(how, design.learned, now if now != design.learned else None, weight, builds)


def reckon(design: Design, by: str) -> Solution:
    """Reckon a design by the book alone, or by what the shop knows now; raises BowyeryError."""
    design.by_book = by == "book"
    if not design.by_book:
        design.learned = knows_now(design)
    found = solution(design)
    save(design, "by_book", "learned")
    return found


def length_to(design: Design, measure: Literal["use", "set", "weight"], goal: float) -> float:
    """Length that brings a design's strain or set to a goal (m); raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    layout, wanted = layout.checked(), wanted.checked()
    key = (replace(layout, length=0.0), wanted, wood, measure, goal)
    return computed("length", key, lambda: length_for(layout, wanted, wood, measure, goal)).length


@dataclass(frozen=True)
class ProvedShot:
    """An arrow that a chronograph read: weight of the bow then (N), arrow (kg) and speed (m/s)."""

    weight: float
    arrow: float
    speed: float


def proved_speeds(design: Design, found: Solution) -> list[tuple[float, float]]:
    """What a chronograph read of a design's bows: arrow (kg) and speed (m/s), as the bow of the
    design's weight would have sent it.

    A bow that was proved may pull more or less than its design: its speed goes with the root of its
    energy.
    """
    if design.pk is None:
        return []
    shots = [shot for ask in PROVED_SHOTS for shot in ask(design)]
    return [(s.arrow, s.speed * (found.weight / s.weight) ** 0.5) for s in shots]


def as_usual(found: Solution) -> tuple[Kind | None, list[FinishedBow]]:
    """The kind of bow that is usually bent so far, by the table or by two bows of this shop's own,
    and those that it has finished.
    """
    kind = kind_of(found.bow, found.weight, found.wanted.draw)
    own = [
        one for ask in FINISHED_BOWS for one in ask() if kind is not None and one.kind == kind.name
    ]
    borne = sorted(one.strain for one in own)[-2:-1]
    if kind is None or found.strain > max([kind.strain[1], *borne]):
        return None, []
    return kind, own


def loosed(design: Design, found: Solution, quick: bool = False) -> tuple[Shot | None, str]:
    """The design's arrow, as its bow will send it; none where it cannot be followed, and why.

    While figures are being changed it is loosed with fewer masses and longer steps: within a part
    in a hundred.
    """
    arrow, proved = found.bow.arrow or USUAL_ARROW * design.weight, proved_speeds(design, found)
    kept = learning.keeps(design)
    follow = partial(shoot, found.bow, design.draw, arrow, keeps=kept)
    if quick:
        follow = partial(follow, masses=8, steps=28, watch=False)
    key = (bowfile.dumps(found.bow), design.draw, arrow, proved, quick, kept)
    try:
        return computed("loosed", key, partial(_shot, follow, proved), keep=not quick), ""
    except BowyeryError as error:
        return None, str(error)


def _shot(follow: Callable[..., Shot], proved: list[tuple[float, float]]) -> Shot:
    """With what a chronograph read, unless that fits no such bow."""
    try:
        return follow(readings=proved)
    except DescriptionError:
        return follow()


@dataclass(frozen=True)
class GlueRow:
    """A glue line's greatest strain and shear at full draw, with where on which limb."""

    between: tuple[str, str]
    strain: float
    shear: float
    limb: str
    from_centre: float


def glue_rows(found: Solution) -> list[GlueRow]:
    """Every glue line at full draw, the worse of both limbs."""
    if len(found.bow.upper.layers) < 2:
        return []
    both = [
        glue_lines(limb, side, found.curve.limbs, found.curve.shapes)
        for side, limb in enumerate(found.bow.limbs)
    ]
    rows = []
    for pair in zip(*both, strict=True):
        peaks = [float(np.abs(line.shear).max()) for line in pair]
        side = int(np.argmax(peaks))
        at = float(found.curve.limbs.places()[side, 0, int(np.abs(pair[side].shear).argmax())])
        strain = max(float(np.abs(line.strain).max()) for line in pair)
        start = found.bow.limbs[side].root[0]
        rows.append(GlueRow(pair[0].between, strain, peaks[side], SIDES[side], start + at))
    return rows


def changes(design: Design, found: Solution, shown: Units) -> tuple[Outcome, ...]:
    """What shortening, heat, reflex or a backing would do to a solved design."""
    bow = found.bow
    steps = (
        [k * INCH / 2 for k in range(1, 7)]
        if shown.imperial
        else [0.01, 0.02, 0.03, 0.04, 0.06, 0.075]
    )
    key = (bowfile.dumps(bow), design.draw, steps, shown.world)

    def work() -> tuple[Outcome, ...]:
        named: list[tuple[str, Bow]] = [("as it is", bow)]
        troubles: list[Outcome] = []

        def add(what: str, make: Callable[[], Bow]) -> None:
            try:
                named.append((what, make()))
            except BowyeryError as error:
                troubles.append(Outcome(what, bow, trouble=getattr(error, "reason", str(error))))

        for cut in steps:
            left = design.overall - 2 * cut
            add(
                f"{shown.length(cut)} off each end, {shown.length(left)} over all",
                partial(shortened, bow, cut),
            )
        inch = INCH if shown.imperial else 0.025
        add(f"{shown.length(inch)} more reflex", partial(reflexed, bow, inch))
        add("belly hardened by heat", partial(heated, bow))
        for name, (thick, reflex) in USUAL_BACKINGS.items():
            extra = f", drawing in {shown.length(reflex)} of reflex" if reflex else ""
            add(
                f"{name} laid on, {shown.thickness(thick)}{extra}",
                partial(backed, bow, material(name), thick, reflex),
            )
        return (*outcomes(named, design.draw), *troubles)

    return computed("changes", key, work)


@dataclass(frozen=True)
class CableRow:
    """A bow and its back-bow at full draw with a cable so loose (m), or so tight (N).

    Attributes:
        slack, tension: of each cable before the bow is strung; one of them.
        inner: greatest strain of the main bow near its grip.
        turns: to give each cable past just taut, below zero to let out; None where no twist does.
        tone: of a plucked cable before stringing (Hz); 0 of a loose one.
        between: its ties, unloaded (m).
    """

    slack: float
    tension: float
    curve: SharedCurve
    inner: float
    now: bool
    turns: float | None
    tone: float
    between: float


def cables(found: Solution, thread: Fibre) -> list[CableRow]:
    """A bow with a back-bow at full draw, with its cables of a thread loose, and at a quarter of
    their tension up to three times; none without one.
    """
    back, draw = found.bow.back_bow, found.wanted.draw
    if back is None:
        return []
    tensions = max(back.cable_tension, 1.0) * np.array([0.25, 0.5, 1.0, 1.5, 2.0, 3.0])
    slacks = np.unique([*LOOSE, *([back.slack] if back.slack > 0 else [])])[::-1]
    key = (bowfile.dumps(found.bow), draw, tuple(tensions), tuple(slacks), thread)

    def work() -> list[CableRow]:
        curves = share_against_cable(found.bow, draw, tensions, slacks=slacks)
        kinds = [(float(s), 0.0) for s in slacks] + [(0.0, float(t)) for t in tensions]
        strands = strands_of(thread, back.cable_stiffness)
        rows = []
        for (slack, tension), curve in zip(kinds, curves, strict=True):
            cable, rest = curve.cables[0], curve.chains.unbent()
            taut = float(abs(cable.span(curve.chains, rest)))  # where it would just begin to pull
            try:
                turns = turns_to_tighten(thread, back.cable_stiffness, taut, cable.natural or taut)
            except DescriptionError:
                turns = None
            pitch = tone(tension, taut, strands * thread.line_mass)
            inner, now = inner_strain(curve), _as_designed(back, slack, tension)
            rows.append(CableRow(slack, tension, curve, inner, now, turns, pitch, taut))
        return rows

    return computed("cables", key, work)


def _as_designed(back: BackBow, slack: float, tension: float) -> bool:
    if back.slack > 0:
        return abs(slack - back.slack) < 1e-9
    return slack == 0 and abs(tension - back.cable_tension) < 1e-9


@dataclass(frozen=True)
class Instead:
    """A bow that could be built instead: in words, and the fields of the form that make it so."""

    words: str
    fields: dict[str, str]

    @property
    def act(self) -> str:
        """What the form is asked to do when it is pressed."""
        return json.dumps({"action": "take"} | {f"take_{k}": v for k, v in self.fields.items()})


def instead(design: Design, shown: Units) -> list[Instead]:
    """What could be built instead of a design that cannot."""
    layout, wanted, wood, _ = core_inputs(design)
    try:
        near = computed("nearest", (layout, wanted, wood), lambda: nearest(layout, wanted, wood))
    except BowyeryError:
        return []
    could = []
    if near.length:
        long = shown.length(near.length)
        could.append(Instead(f"{long} long", {"length": long}))
    if near.weight:
        heavy = shown.weight(near.weight)
        could.append(Instead(f"with {heavy}", {"weight": heavy}))
    if near.draw:
        far = shown.length(near.draw)
        could.append(Instead(f"drawn {far}", {"draw": far}))
    if near.back_bow and layout.back_bow is not None:
        deep = [shown.length(near.back_bow * one) for one in layout.back_bow.depth]
        fields = dict(zip(("back_bow_root", "back_bow_nock"), deep, strict=True))
        could.append(Instead(f"with a back-bow {deep[0]} thick at the grip", fields))
    return could


def instead_words(design: Design, shown: Units) -> str:
    """The same in a sentence, or nothing."""
    could = [one.words for one in instead(design, shown)]
    if not could:
        return ""
    return f"The nearest that can be built: {', or '.join(could)}, with the rest as it is."


@dataclass(frozen=True)
class SchoolRow:
    """One length school for the screen."""

    school: str
    rule: str
    answer: LengthSchool
    use: float | None
    verdict: str


def told_draw(design: Design) -> float:
    """The design's draw on the ruler that its archer's draw was told in (m)."""
    return draw_ruler(design.archer.draw_ruler).from_pivot(design.draw, design.figures.handle_depth)


def schools(design: Design) -> list[SchoolRow]:
    """All three length schools for a design's archer, wood and layout; raises BowyeryError."""
    layout, wanted, wood, _ = core_inputs(design)
    layout, wanted = layout.checked(), wanted.checked()
    # the schools answer the same question whatever length is chosen
    told = told_draw(design)
    base = replace(layout, length=school_a_length(told, layout.handle, layout.fade))
    answers = computed(
        "schools", (base, wanted, wood, told), lambda: length_schools(base, wanted, wood, told)
    )
    rows = []
    for answer in answers:
        rows.append(
            SchoolRow(
                answer.school,
                RULES[answer.school],
                answer,
                answer.uses.lasts if answer.uses else None,
                answer.verdict or "cannot be built so",
            )
        )
    return rows


def take_length(design: Design, school: str) -> None:
    """Give a design the length a school asks for, and what else it changes; raises BowyeryError."""
    row = next((r for r in schools(design) if r.school == school), None)
    if row is None:
        raise DesignError("Choose school A, B or C.")
    if row.answer.trouble:
        raise DesignError(row.answer.trouble)
    layout = row.answer.layout
    design.length = layout.length
    design.change(handle=layout.handle, fade=layout.fade, width=layout.width)
    save(design, "length", "sizes")


def solve_ahead(design: Design, shown: Units) -> None:
    """Leave in the cache what keeping a design will ask of the core, and what refusing it would."""
    design.bow_file = ""
    try:
        solution(design)
    except DesignError:
        instead(design, shown)
    except BowyeryError:
        return
