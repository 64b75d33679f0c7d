"""The benches of the first stages: what their pictures and figures show of this bow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.making.floor import FloorLook, floor_look
from bowyery.making.roughing import Look, Still, look, still_off
from bowyery.tiller.statements import Statement
from bowyery.units.quantity import Units
from fellwind.builds.log import of_the_blank
from fellwind.builds.models import Build
from fellwind.builds.services import standing_entries
from fellwind.builds.stages import LEFT_ON
from fellwind.designs.fitting import Laid, laid
from fellwind.designs.pictures import ruler_data
from fellwind.drawing.drafting import natural_offsets
from fellwind.drawing.roughing import roughing_picture
from fellwind.rack.models import Stave
from fellwind.rack.services import core_stave, seasoning_now


@dataclass(frozen=True)
class WoodBench:
    """The stave against the bow: its sound length, what is needed, and where the bow lies.

    Attributes:
        stave: chosen, or None.
        usable, needed, spare: lengths (m).
        laid: the best place, or the one that was taken over.
        moisture: now, where it is known.
    """

    stave: Stave | None = None
    usable: float = 0.0
    needed: float = 0.0
    laid: Laid | None = None
    taken: bool = False
    trouble: str = ""
    moisture: float | None = None

    @property
    def spare(self) -> float:
        """Sound wood that is left over (m)."""
        return self.usable - self.needed

    @property
    def short(self) -> float:
        """By how much the stave is too short (m)."""
        return self.needed - self.usable


def wood_bench(build: Build, shown: Units) -> WoodBench:
    """The stave of a build against its design."""
    stave, design = build.stave, build.design
    if stave is None:
        return WoodBench(needed=design.overall)
    try:
        low, high = core_stave(stave).usable
    except BowyeryError as error:
        return WoodBench(stave, needed=design.overall, trouble=str(error))
    answer = laid(stave, design, shown)
    place = placed(build, answer.rows)
    known = seasoning_now(stave).forecast
    return WoodBench(
        stave,
        high - low,
        design.overall,
        place,
        build.laid is not None and place is not None,
        answer.trouble,
        known.moisture if known else None,
    )


def placed(build: Build, rows: Sequence[Laid]) -> Laid | None:
    """The place that was taken over, as long as it is still one of the best few; else the best."""
    if build.laid is not None:
        for row in rows:
            if place_key(row) == build.laid:
                return row
    return rows[0] if rows else None


def place_key(row: Laid) -> dict[str, float | bool]:
    """What tells a placement from another."""
    p = row.placed
    return {
        "start": round(p.start, 4), "turned": p.turned, "belly_up": p.belly_up,
        "shift": round(p.shift, 4), "turn": round(p.turn, 4),
    }  # fmt: skip


@dataclass(frozen=True)
class LayoutBench:
    """Where the bow's centre lies on the stave, and its length as it was measured last.

    Attributes:
        overall: as designed (m).
        beyond: wood beyond the upper and the lower nock (m).
        centre_on_stave: from the stave's left end (m), where a place was taken over.
        measured: from end to end as it was measured last (m), or None.
    """

    overall: float
    beyond: tuple[float, float]
    centre_on_stave: float | None = None
    measured: float | None = None

    @property
    def halves(self) -> tuple[float, float]:
        """The bow's centre from its upper and from its lower end, as it is long now (m)."""
        whole = self.overall if self.measured is None else self.measured
        half = (whole - sum(self.beyond)) / 2
        return half + self.beyond[0], half + self.beyond[1]

    @property
    def short(self) -> float:
        """By how much the blank is shorter than the design wants it (m)."""
        return 0.0 if self.measured is None else self.overall - self.measured


def layout_bench(build: Build) -> LayoutBench:
    """The lay-out of a build as it stands."""
    design = build.design
    centre = None
    if build.laid is not None and build.stave is not None:
        # half way between its nocks, whichever end is up
        centre = float(build.laid["start"]) + design.length / 2
    lengths = [
        m.value
        for entry in standing_entries(build)
        for m in entry.measures.all()
        if m.kind == "length now" and m.value is not None
    ]
    beyond = design.figures.beyond_upper, design.figures.beyond_lower
    return LayoutBench(design.overall, beyond, centre, lengths[-1] if lengths else None)


@dataclass(frozen=True)
class Floor:
    """A limb's floor reading, and what it says; nothing where it was not pressed."""

    side: str
    force: float
    sag: float
    look: FloorLook


@dataclass(frozen=True)
class RoughBench:
    """The blank: every mark with what is still to come off, and how its limbs give on the floor."""

    rows: tuple[Still, ...]
    look: Look
    picture: str
    left_on: float
    floors: tuple[Floor, ...] = ()
    said: tuple[str, ...] = field(default=())


def rough_bench(build: Build, found: Solution, shown: Units) -> RoughBench:
    """The blank of a build as it was read last."""
    said = of_the_blank(standing_entries(build))
    on = LEFT_ON[shown.world]
    rows = still_off(found, said, on)
    seen = look(rows)
    floors = _floors(found, said, on)
    picture = roughing_picture(ruler_data(found), rows, shown)
    return RoughBench(rows, seen, picture, on, floors, tuple(_said(seen, floors, shown)))


def _floors(found: Solution, said: Sequence[Statement], on: float) -> tuple[Floor, ...]:
    last = {s.limb: s for s in said if s.kind == "floor" and s.value and s.more}
    rows = []
    for number, side in enumerate(SIDES):
        s = last.get(side)
        if s is not None and s.value and s.more:
            seen = floor_look(found.curve.limbs, number, s.value, s.more, on)
            rows.append(Floor(side, s.value, s.more, seen))
    return tuple(rows)


def _said(seen: Look, floors: tuple[Floor, ...], shown: Units) -> list[str]:
    """What to do next at the blank, first what matters most."""
    words = []
    if seen.thin:
        worst = seen.thin[0]
        words.append(
            f"Leave the {worst.limb} limb alone about {shown.length(worst.at)} from the centre: it"
            f" is {shown.shaving(-(worst.off or 0.0))} thinner than planned. Bring its neighbours"
            " and the other limb down to suit, or plan for less weight."
        )
    if seen.thick is not None:
        there = seen.thick
        words.append(
            f"Most is left on the {there.limb} limb, {shown.length(there.at)} from the centre:"
            f" {shown.shaving(there.off or 0.0)} to come off."
        )
    if seen.steps:
        a, b = seen.steps[0]
        words.append(
            f"There is a step on the {a.limb} limb between {shown.length(a.at)} and"
            f" {shown.length(b.at)}: run it out before the limb is bent."
        )
    if len(floors) == 2:
        words.append(_limbs(floors))
    elif floors:
        words.append(f"Press the other limb too: only the {floors[0].side} one was read.")
    if seen.done:
        words.append("Every mark is where it shall be before the tiller.")
    elif not seen.read:
        words.append("Nothing has been measured yet: calipers at the marks, root to tip.")
    elif seen.read < seen.count:
        words.append(f"{seen.count - seen.read} places are not read yet.")
    return words


def _limbs(floors: tuple[Floor, ...]) -> str:
    """Which limb is the stiffer one on the floor."""
    upper, lower = floors
    apart = upper.look.stiffer - lower.look.stiffer
    doubt = (upper.look.error**2 + lower.look.error**2) ** 0.5
    each = ", ".join(
        f"{f.side} {abs(f.look.stiffer) * 100:.0f} %"
        f" {'stiffer' if f.look.stiffer > 0 else 'weaker'} than planned"
        for f in floors
    )
    if abs(apart) < doubt:
        return f"On the floor both limbs give alike, within what such a press can tell ({each})."
    stiff = "upper" if apart > 0 else "lower"
    return (
        f"On the floor the {stiff} limb is the stiffer one ({each}): take wood along all of it"
        " before the string goes on."
    )


@dataclass(frozen=True)
class Profile:
    """How the unstrung tips lie, to the back above zero (m): as planned, as they left the form, and
    as they were measured last; None where they were not.
    """

    planned: float
    glued: float | None
    left: float | None

    @property
    def lost(self) -> float | None:
        """Reflex that is gone since (m)."""
        return None if self.glued is None or self.left is None else self.glued - self.left


NOCK = 0.93  # of half of the bow: a reading from here on is one of the tip


def profile_of(build: Build, found: Solution) -> Profile:
    """The tips of a build's bow, planned, glued in, and left of it."""
    planned = -float(np.mean([natural_offsets(found.layout, up)[1][-1] for up in (True, False)]))
    half = found.layout.length / 2
    glued: dict[str, float] = {}
    left: dict[str, float] = {}
    for entry in standing_entries(build):
        for m in entry.measures.all():
            at_tip = m.start is None or m.start > NOCK * half
            if m.kind != "profile" or m.value is None or not at_tip:
                continue
            if entry.stage == "back":
                glued[m.limb] = -m.value
            left[m.limb] = -m.value
    mean = [None if not rows else float(np.mean(list(rows.values()))) for rows in (glued, left)]
    return Profile(planned, mean[0], mean[1])
