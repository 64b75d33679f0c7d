"""What the tiller's pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID, uuid4

import numpy as np

from bowyery.design.solution import Solution
from bowyery.tiller import words
from bowyery.tiller.bench import BenchState
from bowyery.tiller.estimate import NINETY
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units
from fellwind.builds.log import draw_words, tree_of
from fellwind.builds.models import Build, Measure
from fellwind.builds.pages import Head, head
from fellwind.designs.services import handle_box
from fellwind.drawing.curve import CurveData, curve_picture
from fellwind.drawing.ruler import (
    TillerData,
    ruler_for,
    ruler_picture,
    small_outline,
    tiller_tracks,
)
from fellwind.drawing.tree import DrawMarks, tree_picture
from fellwind.tiller import services
from fellwind.tiller.forms import ReadingForm, RemovalForm


@dataclass(frozen=True)
class Screen(Head):
    """The tiller screen and the bench view.

    Attributes:
        reading, removal: forms; pulls_id: the id of the button that counts pulls.
        state: of the bench; check of checks, earlier and later: which check is looked at.
        string: that is on; draw_ruler_words: how draws are measured.
        further: to pull no further than, on that ruler (m); further_why, harder_why: reasons.
        said: the next act; places, sharper, rules, balance: sentences about it.
        wild: readings that do not fit, as written.
        ruler, tracks, tree, curve, limbs: pictures; tree_draw: what the tree is drawn at.
    """

    reading: ReadingForm | None = None
    removal: RemovalForm | None = None
    pulls_id: UUID | None = None
    state: BenchState | None = None
    check: int = 0
    checks: int = 0
    earlier: int | None = None
    later: int | None = None
    string: str = ""
    draw_ruler_words: str = ""
    further: float = 0.0
    further_why: str = ""
    harder_why: str = ""
    said: words.Said | None = None
    places: Sequence[str] = ()
    sharper: Sequence[str] = ()
    rules: Sequence[str] = ()
    balance: str = ""
    wild: Sequence[str] = ()
    ruler: str = ""
    tracks: str = ""
    tree: str = ""
    tree_draw: str = ""
    curve: str = ""
    limbs: str = ""


def screen(
    build: Build,
    shown: Units,
    upto: int | None = None,
    reading: ReadingForm | None = None,
    removal: RemovalForm | None = None,
) -> Screen:
    """The tiller of a build.

    Args:
        build: whose.
        shown: the reader's units.
        upto: number of the check to look back at, or None for now.
        reading, removal: forms that were refused, or fresh ones.
    """
    new = {"client_id": uuid4()}
    page = Screen(
        **vars(head(build, "tiller")),
        reading=reading or ReadingForm(prefix="reading", shown=shown, initial=new),
        removal=removal or RemovalForm(prefix="removal", shown=shown, initial=new),
        pulls_id=uuid4(),
    )
    if page.found is None:
        return page
    state = services.bench(build, upto)
    page = _pictures(_said(page, state, shown), page.found, state, shown)
    return page


def bench(build: Build, shown: Units) -> Screen:
    """The bench view: the same, with the limbs hatched where wood comes off."""
    page = screen(build, shown)
    if page.said is None or page.found is None or page.state is None or not page.state.advice:
        return page
    marks: dict[str, str] = {r.limb: "take here" for r in page.state.advice.removals}
    data = services.tiller_ruler(page.found, page.state, marks)
    return replace(page, limbs=small_outline(data))


def _said(page: Screen, state: BenchState, shown: Units) -> Screen:
    """With what is said of the state."""
    build, checks = page.build, len(state.history.checks)
    number = state.check.number if state.check else 0
    ruler = draw_ruler(build.draw_ruler)
    page = replace(
        page,
        state=state,
        check=number,
        checks=checks,
        earlier=number - 1 if number > 1 else None,
        later=number + 1 if number < checks else None,
        string=(state.check.string if state.check else state.history.string).words,
        draw_ruler_words=ruler.short,
    )
    advice, stand, further, harder = state.advice, state.stand, state.further, state.harder
    if advice is None or stand is None or further is None or harder is None:
        return page
    on = ruler.from_pivot(further.value, build.design.handle_depth)
    roots, wild = state.roots, state.wild
    fit_ill = {m.pk: m.text for m in Measure.objects.filter(pk__in=wild)} if wild else {}
    return replace(
        page,
        further=words.readable_draw(on, shown),
        further_why=words.why(further, True),
        harder_why=words.why(harder, False),
        said=words.say(state, shown, tree_of(build)),
        places=words.places_words(advice, roots, shown),
        sharper=[
            words.sharper_words(one, roots, shown)
            for one in state.sharper[:2]
            if one.gain > words.WORTH_SAYING
        ],
        rules=[words.rule_words(rule, shown) for rule in state.rules],
        balance=words.balance_words(stand, shown),
        wild=[fit_ill[key] for key in wild],
    )


def _pictures(page: Screen, found: Solution, state: BenchState, shown: Units) -> Screen:
    """With the pictures of the state."""
    build, design = page.build, page.build.design
    ruler = draw_ruler(build.draw_ruler)
    data = services.tiller_ruler(found, state, services.taken_words(state, shown))
    page = replace(page, ruler=ruler_picture(data, shown))
    if state.now is not None and state.advice is not None:
        page = replace(page, tracks=tiller_tracks(data, _tracks(state), shown))
    hung = services.hanging(found, state)
    if hung is not None and state.further is not None:
        at = draw_words(build, hung.draw, shown)
        title = f"On the tree at {at}: solid as estimated from the readings, dashed as wanted."
        marks = DrawMarks(ruler.beyond(design.handle_depth), page.further)
        tree = tree_picture(
            hung.now, hung.wanted, found.bow.hold.pivot, handle_box(found), ruler_for(data), shown,
            title, marks,
        )  # fmt: skip
        page = replace(page, tree=tree, tree_draw=at)
    if state.outlook is None or state.check is None:
        return page
    beyond, o = ruler.beyond(design.handle_depth), state.outlook
    read = [(r.draw or 0.0, r.value) for r in state.check.readings if r.kind == "weight"]
    curve = CurveData(
        o.draws + beyond,
        o.weights,
        design.weight,
        design.draw + beyond,
        o.low,
        o.high,
        [(d + beyond, w) for d, w in read],
        [(d + beyond, w) for d, w in state.history.weights],
    )
    return replace(page, curve=curve_picture(curve, shown))


def _tracks(state: BenchState) -> TillerData:
    """The estimate against the wanted state, what to take, and what came off, for the ruler."""
    now, advice = state.now, state.advice
    if now is None or advice is None:
        raise ValueError("tracks are drawn of a state with an estimate")
    level = now.field - (now.field.mean() if advice.wanted is None else advice.wanted)
    wide = NINETY * now.spread
    weak, stiff = (
        tuple((p.limb, state.roots[p.limb] + p.start, state.roots[p.limb] + p.end) for p in rows)
        for rows in (advice.weak, advice.stiff)
    )
    taken = 0 * now.field if state.taken is None else state.taken
    low, high = np.expm1(level - wide), np.expm1(level + wide)
    return TillerData(np.expm1(level), low, high, advice.removal, taken, weak, stiff)


WAYS = {
    "accept": "Accept it as it is",
    "shorten": "Cut {by} off each end",
    "heat": "Harden the belly by heat",
    "back": "Lay rawhide on the back, {by}",
    "patch": "Patch the weak place of the {limb} limb, {by}",
}


@dataclass(frozen=True)
class Way:
    """A way out in words, with what it should come to."""

    what: str
    outcome: object


@dataclass(frozen=True)
class RescuePart:
    """Ways out of a bow that is too light, side by side."""

    rows: list[Way]
    build: Build
    trouble: str


def rescue(build: Build, found: Solution | None, trouble: str, shown: Units) -> RescuePart:
    """What could still be done with a bow that is too light."""
    rows = []
    ways = services.ways_out(found, services.bench(build), shown.imperial) if found else []
    for row in ways:
        by = shown.length(row.by) if row.way == "shorten" else shown.thickness(row.by)
        rows.append(Way(WAYS[row.way].format(by=by, limb=row.limb), row.outcome))
    return RescuePart(rows, build, trouble)
