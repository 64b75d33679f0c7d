"""From the state of a bench to its picture: both limbs with the pencil marks of the advice."""

from __future__ import annotations

import numpy as np
from django.utils.safestring import SafeString

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.tiller import words
from bowyery.tiller.bench import BenchState, Look
from bowyery.tiller.changes import Act
from bowyery.tiller.estimate import NINETY
from bowyery.tiller.kinds import ACTS
from bowyery.units.draw_ruler import draw_ruler
from bowyery.units.quantity import Units
from fellwind.builds.log import draw_words
from fellwind.builds.models import Build
from fellwind.designs.pictures import handle_box, ruler_data
from fellwind.drawing.belly import (
    BenchData,
    Mark,
    Strokes,
    Touch,
    TreeData,
    bench_picture,
    limbs_picture,
    stretches,
)
from fellwind.drawing.checks import Checked, compare_picture, look_picture, profile_picture
from fellwind.drawing.ruler import RulerData, TillerData
from fellwind.drawing.tree import DrawMarks
from fellwind.tiller import services, shapes


def tracks_of(state: BenchState) -> TillerData | None:
    """The estimate against the wanted state, what to take, and what came off, for the ruler."""
    now, advice = state.now, state.advice
    if now is None or advice is None:
        return None
    level = now.field - (now.field.mean() if advice.wanted is None else advice.wanted)
    wide = NINETY * now.spread
    weak, stiff = (
        tuple((p.limb, state.roots[p.limb] + p.start, state.roots[p.limb] + p.end) for p in rows)
        for rows in (advice.weak, advice.stiff)
    )
    taken = 0 * now.field if state.taken is None else state.taken
    low, high = np.expm1(level - wide), np.expm1(level + wide)
    return TillerData(np.expm1(level), low, high, advice.removal, taken, weak, stiff)


def picture(build: Build, found: Solution, state: BenchState, shown: Units, further: float) -> str:
    """The bow on the tree and both limbs, as one picture.

    Args:
        further: to pull no further than, on the build's draw ruler (m).
    """
    return bench_picture(
        _data(found, state, shown), _tree(build, found, state, shown, further), shown
    )


def limbs(found: Solution, state: BenchState, shown: Units) -> str:
    """Both limbs with what to take, for three metres away."""
    return limbs_picture(_data(found, state, shown), shown)


def _data(found: Solution, state: BenchState, shown: Units) -> BenchData:
    data = ruler_data(services.standing(found, state))
    tracks, roots = tracks_of(state), state.roots
    strokes = tuple(
        Strokes(s.limb == "upper", *words.stretch_ends(s, roots[s.limb], shown), s.strokes)
        for s in state.strokes
    )
    touches = tuple(_touches(data, tracks, state, shown))
    return BenchData(data, tracks, strokes, _marks(state), touches, tuple(_acts(state)))


def _marks(state: BenchState) -> tuple[Mark, ...]:
    """What is marked on the wood, by eye or by hand."""
    return tuple(Mark(m.limb == "upper", m.start, m.end, m.how) for m in state.history.marks)


def _touches(
    data: RulerData, tracks: TillerData | None, state: BenchState, shown: Units
) -> list[Touch]:
    """Stretches that can be pressed, each with what is known of it."""
    rows = []
    for upper, start, end, first, last in stretches(data, shown):
        side = 0 if upper else 1
        words_of = f"{SIDES[side]} limb, {first} to {shown.length(end)} from the centre"
        track = data.upper if upper else data.lower
        middle = 0.5 * (start + end)
        wide = float(np.interp(middle, track.from_centre, track.width))
        used = float(np.interp(middle, track.from_centre, track.strain))
        if tracks is not None:
            at = np.linspace(
                float(track.from_centre[0]), float(track.from_centre[-1]), tracks.stiffness.shape[1]
            )
            value, low, high = (
                float(np.interp(middle, at, row[side])) * 100
                for row in (tracks.stiffness, tracks.low, tracks.high)
            )
            way = "stiffer than wanted" if value >= 0 else "weaker than wanted"
            words_of += f" · {abs(value):.0f} % {way} ({low:+.0f} to {high:+.0f})"
            strokes = sum(
                s.strokes
                for s in state.strokes
                if (s.limb == "upper") == upper
                and s.start + state.roots[s.limb] <= middle <= s.end + state.roots[s.limb]
            )
            if strokes:
                words_of += f" · take {strokes} stroke{'' if strokes == 1 else 's'}"
        words_of += f" · {shown.length(wide)} wide, at full draw bent to {_used(data, used)}"
        rows.append(Touch(upper, start, end, first, last, words_of))
    return rows


def _used(data: RulerData, used: float) -> str:
    share = used if data.layered else used / data.working
    return f"{share * 100:.0f} % of what lasts"


def _acts(state: BenchState) -> list[tuple[bool, float, float, str]]:
    """Where acts were done to a stretch of a limb."""
    checks = state.history.checks
    rows: list[Act] = [one for check in checks for one in check.acts]
    rows += state.history.acts
    return [
        (one.limb == "upper", one.start, one.end, one.how or ACTS[one.kind].badge or one.kind)
        for one in rows
        if one.limb is not None and one.start is not None and one.end is not None
    ]


def _tree(
    build: Build, found: Solution, state: BenchState, shown: Units, further: float
) -> TreeData | None:
    hung = shapes.hanging(found, state)
    if hung is None or state.further is None:
        return None
    design = build.design
    at = draw_words(build, hung.draw, shown)
    weights = [
        r.value
        for r in (state.check.readings if state.check else ())
        if r.kind == "weight" and r.draw == hung.draw
    ]
    read = f", {shown.fine_weight(weights[-1])}" if weights else ""
    title = f"On the tree at {at}{read}: solid as estimated from the readings, dashed as wanted."
    marks = DrawMarks(draw_ruler(build.draw_ruler).beyond(design.figures.handle_depth), further)
    names = ("On the tree", f"{at}{read}", "solid as read", "dashed as wanted")
    return TreeData(
        hung.now, hung.wanted, found.bow.hold.pivot, handle_box(found), title, marks, names
    )


def small_looks(
    state: BenchState, shown: Units, last: int = 6
) -> list[tuple[int, SafeString, str]]:
    """Small pictures of the looks that are remembered: number, picture, words."""
    rows = []
    for look in state.looks[-last:]:
        rows.append((look.check, look_picture(look.along, look.across, _look(look, shown)),
                     _look(look, shown)))  # fmt: skip
    return rows


def _look(look: Look, shown: Units) -> str:
    if look.draw is None:
        return f"check {look.check}, at brace"
    weight = f"{shown.weight(look.weight)} at " if look.weight else ""
    return f"check {look.check}, {weight}{shown.length(look.draw)}"


def profiles(found: Solution, state: BenchState, shown: Units) -> str:
    """The limbs unstrung, as they were read first and last; nothing where they were not."""
    lies = state.history.lies
    if not lies:
        return ""
    data = ruler_data(services.standing(found, state))
    first: dict[str, list[tuple[float, float]]] = {}
    last: dict[str, list[tuple[float, float]]] = {}
    for limb in SIDES:
        mine = [one for one in lies if one.limb == limb]
        track = data.upper if limb == "upper" else data.lower
        tip = float(track.from_centre[-1])
        entries = list(dict.fromkeys(one.entry for one in mine))
        for rows, entry in ((first, entries[:1]), (last, entries[-1:])):
            points = [(tip if o.at is None else o.at, o.across) for o in mine if o.entry in entry]
            if points:
                rows[limb] = points
    return profile_picture(data, first, last, shown)


def compared(found: Solution, one: BenchState, other: BenchState, shown: Units) -> str | None:
    """Two checks on the ruler, both against what is wanted at the second; None where a shape of
    one is not known.
    """
    if other.now is None or other.advice is None or not one.looks or not other.looks:
        return None
    data = ruler_data(services.standing(found, other))
    wanted = other.now.field.mean() if other.advice.wanted is None else other.advice.wanted

    def checked(look: Look) -> Checked:
        level, wide = look.field - wanted, NINETY * look.spread
        return Checked(
            f"check {look.check}", look.along, look.across, np.expm1(level),
            np.expm1(level - wide), np.expm1(level + wide),
        )  # fmt: skip

    before = 0 * other.now.field if one.taken is None else one.taken
    after = 0 * other.now.field if other.taken is None else other.taken
    off = np.maximum(after - before, 0.0)
    return compare_picture(data, checked(one.looks[-1]), checked(other.looks[-1]), off, shown)
