"""The limbs as they lie and hang: across, with their follow, on the tree."""

from dataclasses import dataclass
from dataclasses import replace as changed

import numpy as np

from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.mechanics.elastica import shapes
from bowyery.mechanics.statics import brace_bow, draw
from bowyery.mechanics.strain import surface_strain
from bowyery.tiller.advice import FAIR_PART
from bowyery.tiller.bench import BenchState
from bowyery.tiller.estimate import crooked, stiffness_factors
from bowyery.tiller.log import Lie
from bowyery.tiller.set import Profile, Pull, from_which_pull, set_between
from bowyery.tiller.target import edge_correction
from bowyery.units.quantity import ANGLE, Units
from fellwind.builds.models import Build
from fellwind.drawing.tree import Bent
from fellwind.kit.cache import computed
from fellwind.shop import learning
from fellwind.tiller.hands import workpiece


def across(found: Solution, state: BenchState, shown: Units) -> list[str]:
    """What to do about a string off the middle, a sideways bend or a twist: which edge, and how
    many strokes.
    """
    said = []
    for one in state.history.asides:
        width = found.layout.width
        if not one.value:
            continue
        side, other = ("left", "right") if one.value < 0 else ("right", "left")
        if one.kind == "string off":
            much = shown.length(abs(one.value))
            if any(row.limb for row in state.history.asides):
                continue  # the limb that does it was named
            said.append(
                f"The string lies {much} to the {side}. Sight along each limb and write down which"
                f" bends aside or is twisted; wood comes off that limb's {other} edge."
            )
            continue
        if one.kind == "twist":
            off = width * abs(one.value)
            what = f"is twisted {ANGLE.write(abs(one.value), shown)} to the {side}"
        else:
            off = edge_correction(one.value, width, _tip_way(state, one.limb))
            what = f"bends {shown.length(abs(one.value))} to the {side}"
        bite = state.bite
        strokes = max(1, round(FAIR_PART * off / bite.thickness)) if bite else 0
        count = f"{strokes} strokes of the {state.tool}" if strokes else "a few strokes"
        said.append(
            f"The {one.limb} limb {what}: take {count} off its {other} edge, mid-limb, then look"
            f" again. All of it would be {shown.shaving(off)} at that edge."
        )
    return said


def _tip_way(state: BenchState, limb: str | None) -> float:
    """How far a limb's tip has come down at the last look (m)."""
    if not state.looks:
        return 0.1
    side = 0 if limb == "upper" else 1
    look = state.looks[-1]
    return float(abs(look.across[side, -1] - look.across[side, 0]))


def follow(
    build: Build, found: Solution, state: BenchState, shown: Units
) -> list[tuple[str, list[str]]]:
    """Set and follow of each limb: how it lay unstrung first and now, the reflex that was put in
    and what is left of it, against what was foretold.
    """
    lies, rows = state.history.lies, list[tuple[str, list[str]]]()
    acts = [a for check in state.history.checks for a in check.acts] + list(state.history.acts)
    for side, limb in enumerate(SIDES):
        mine = [one for one in lies if one.limb == limb]
        put = sum(a.value or 0.0 for a in acts if a.kind == "reflex" and a.limb in (limb, None))
        put += found.layout.reflex
        said = []
        sessions = list(dict.fromkeys(one.entry for one in mine))
        at_nock = [one for one in mine if one.at is None or one.at > 0.93 * found.layout.length / 2]
        if at_nock:
            last = -at_nock[-1].across
            if put > 0.001:
                said.append(
                    f"{shown.length(put)} of reflex planned or put in,"
                    f" {shown.length(max(last, 0.0))} left"
                    + (f", and {shown.length(-last)} of follow" if last < 0 else "") + "."
                )  # fmt: skip
            else:
                way = "back" if last > 0 else "belly"
                said.append(f"Unstrung its tip lies {shown.length(abs(last))} to the {way}.")
            if len(at_nock) > 1 and at_nock[0].entry != at_nock[-1].entry:
                lost = at_nock[-1].across - at_nock[0].across
                way = "nearer the belly" if lost > 0 else "further back"
                said.append(f"That is {shown.length(abs(lost))} {way} than at first.")
        whole = [s for s in sessions if sum(one.entry == s for one in mine) > 1]
        if len(whole) > 1:
            said += _set_words(found, state, side, mine, whole, shown)
        if said:
            rows.append((limb, said))
    if rows:
        told = changed(found.set, share=learning.set_share(build.design, build.number))
        low, high = told.low - told.made, told.high - told.made
        span = f"{shown.bare_length(low)} to {shown.length(high)}"
        rows.append(("foretold", [f"Drawn full and shot in it should take {span} of set."]))
    return rows


def _set_words(
    found: Solution, state: BenchState, side: int, mine: list[Lie], sessions: list[int],
    shown: Units,
) -> list[str]:  # fmt: skip
    """What set has come between the first profile of a limb and the newest."""
    root, length = found.bow.limbs[side].root[0], found.bow.limbs[side].length

    def profile(entry: int) -> Profile:
        rows = sorted(
            (min(length, (length if o.at is None else max(0.0, o.at - root))), o.across)
            for o in mine
            if o.entry == entry
        )
        return Profile(SIDES[side], np.array([r[0] for r in rows]), np.array([r[1] for r in rows]))

    try:
        kept = set_between(found.curve.limbs, profile(sessions[0]), profile(sessions[-1]))
    except BowyeryError as error:
        return [str(error)]
    if kept.low <= 0:
        return ["No set that a rule can show has come since the first profile."]
    said = (
        f"{shown.length(kept.tip)} of set at the tip since the first profile"
        f" ({shown.length(max(kept.low, 0.0))} to {shown.length(kept.high)})"
    )
    if kept.share > 0.5:
        said += (
            f", most of it between {shown.bare_length(root + kept.start)} and"
            f" {shown.length(root + kept.end)} from the centre"
        )
    strains = surface_strain(found.curve.shapes)[side].max(-1)
    draws = found.curve.drawn.draw
    pulls = [
        Pull(c.draw, float(np.interp(c.draw, draws, strains)), f"check {c.number}")
        for c in state.history.checks
        if c.draw
    ]
    worst = from_which_pull(pulls, found.wood.elastic_strain)
    if worst is not None:
        said += f"; the pull of {worst.name} to {shown.length(worst.draw)} strained it most"
    return [said + "."]


@dataclass(frozen=True)
class Hanging:
    """The bow on the tree: as estimated, and as wanted, at the draw of the newest check (m)."""

    now: list[Bent]
    wanted: list[Bent]
    draw: float


def _bents(limbs: LimbGrid, bow: Bow, at: float, with_brace: bool) -> list[Bent]:
    """The bent shapes of a bow at brace, if asked for, and at a draw (m)."""
    braced = brace_bow(limbs, bow)
    depth, result = limbs.depth[:, 0], list[Bent]()
    if with_brace and not braced.slack:
        still = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
        result.append(Bent(still.along[:, 0], still.across[:, 0], depth, None))
    if at > float(braced.least_draw[0]) * 1.001:
        drawn = draw(limbs, bow.hold, braced, np.array([at]))
        bent = shapes(limbs, drawn.tension, drawn.p)
        nock = (float(drawn.nock[0, 0]), float(drawn.nock[1, 0]))
        tilt = float(drawn.tilt[0])
        result.append(Bent(bent.along[:, 0], bent.across[:, 0], depth, nock, tilt))
    return result


def hanging(found: Solution, state: BenchState) -> Hanging | None:
    """Shapes for the tree picture; None when there is nothing to show yet."""
    now = state.now
    if now is None or state.check is None:
        return None
    at = state.check.draw or found.bow.brace_height or 0.15
    piece = state.piece or workpiece(found)
    grid = piece.limbs
    bow = now.strung(state.check.string.on(piece.bow, piece.length))

    def work() -> Hanging:
        stave = crooked(grid.stiffened(stiffness_factors(now, grid)), now.crook)
        as_is = _bents(stave, bow, at, True)
        return Hanging(as_is, _bents(grid, changed(piece.bow, hold=bow.hold), at, False), at)

    try:
        hung = computed("hanging", (grid, piece.bow, bow, at, now.field, now.crook), work)
    except BowyeryError:
        return None
    return hung if hung.now or hung.wanted else None  # a slack string bends nothing yet
