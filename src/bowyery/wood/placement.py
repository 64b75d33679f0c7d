"""Fitting a bow into a stave: every offset, end for end, either face, shifted and turned a little,
scored by its flaws.

A flaw counts for as much as the design works the wood where it comes to lie: nothing in the stiff
handle, little near the tips, most where back and belly are strained to what they bear. The scores
are judgements in numbers, made to put placements in order and to say why; they are no strengths.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import DescriptionError
from bowyery.wood.stave import FLAWS, Stave, checked

STEP = 0.005
SHIFTS = np.linspace(-0.012, 0.012, 9)
TURNS = np.array([-0.006, 0.0, 0.006])  # rad, about the middle of the bow
SQUARE_SIDES = 0.002  # wood to spare on each side of split stock for cleaning up (m)
BEYOND_NOCKS = 0.025  # wood that each end wants beyond its string nock, usually (m)
_NODES = 97
_IDLE = 0.15  # of what it bears: wood that is bent less than this hardly works
_TOUCH = 1e-9  # m: what lies exactly on a line is judged alike from either end of the stave
# what costs how much; one point is a pin knot on the back of a limb bent to all it bears
_EDGE = 1.6
_NARROW, _THIN = 40.0, 40.0
_TWIST, _UNEVEN = (
    0.3 / np.radians(10) ** 2,
    0.3 / 0.025**2,
)  # both are mended by heat, at the cost of work
_WAVE, _TOLD = (
    0.4 / 0.0025**2,
    0.003,
)  # a wave smaller than this is not told by a few offsets off a string (m)
_HANDLE = 0.1  # of the length on either side of the middle: where the side profile's run is taken


@dataclass(frozen=True)
class Outline:
    """What a design asks of a stave, on the bow's own ruler: from the lower nock (0) to the upper
    (length).

    Attributes:
        at: places, increasing (m).
        width, depth: asked for there (m).
        use: how much of what the wood bears for years it is bent to there; little in handle and
            fades.
        crowned: the design's own section has the crown of the log, and its strain counts it
            already.
        beyond: wood that either end wants beyond its nock, so that the bow may be turned (m).
    """

    at: Floats
    width: Floats
    depth: Floats
    use: Floats
    crowned: bool = False
    beyond: float = BEYOND_NOCKS

    @property
    def length(self) -> float:
        """From nock to nock (m)."""
        return float(self.at[-1])


@dataclass(frozen=True)
class FlawFate:
    """What becomes of one flaw in a placement.

    Attributes:
        cost: penalty, in points of placement; 0 is harmless.
        fate: off the ends, off the edge, in the handle, at the tip, in the limb, on the edge.
        from_middle: place on the bow from its middle, positive to the upper end (m).
        use: of what the wood bears there.
        face: back or belly, as the bow lies in the stave.
        room: wood to spare beside it, within the stave (m).
    """

    flaw: int
    fate: str
    from_middle: float
    use: float
    face: str
    cost: float
    room: float


@dataclass(frozen=True)
class Placement:
    """One way the bow lies in the stave.

    Attributes:
        start: of the bow's left nock, from the stave's left end (m).
        turned: the upper limb lies to the left.
        belly_up: the stave's belly becomes the back.
        shift: of the centre line across (m).
        turn: of the centre line (rad).
        score: 0 to 100; above about 60 it is a sound place.
        narrow, thin: by how much the stave is too narrow or too thin at its worst place (m), 0 when
            it is enough.
        crown: cost of the back's crown.
        grain: cost of grain that runs off.
        sapwood: cost of a back that is mostly sapwood where the limb is thin.
        twist: of the wood from nock to nock (rad).
        uneven: by how much the upper limb's tip lies nearer the belly than the lower one's, by the
            wood's own side profile against its run through the handle (m).
        wave: how far dips and humps of the side profile stray from an even curve within a limb, at
            most (m).
    """

    start: float
    turned: bool
    belly_up: bool
    shift: float
    turn: float
    score: float
    fates: tuple[FlawFate, ...]
    narrow: float
    thin: float
    crown: float
    grain: float
    sapwood: float
    twist: float
    uneven: float
    wave: float


@dataclass(frozen=True)
class Fit:
    """All placements of a bow in a stave.

    Attributes:
        starts: every offset tried (m).
        scores: the best score at each, whatever else is chosen, ``(offsets,)``.
        best: the best few that differ, best first.
        sound: whether the best is a fair one.
    """

    starts: Floats
    scores: Floats
    best: tuple[Placement, ...]
    sound: bool


def place(stave: Stave, outline: Outline, either_face: bool = False, count: int = 5) -> Fit:
    """Try every placement and keep the best few.

    Args:
        either_face: the stock may be turned over (boards, slats).

    Returns:
        All placements, the best few described.

    Raises:
        DescriptionError: the stave is described impossibly, or too short for the bow.
    """
    stave = checked(stave)
    low, high = stave.usable
    spare = high - low - outline.length - 2 * outline.beyond
    if spare < -1e-9:
        raise DescriptionError(
            "This stave is too short for the bow: its sound part is shorter than the bow from nock"
            " to nock and the wood beyond its nocks.",
            "length",
        )
    starts = low + outline.beyond + np.arange(0.0, spare + 1e-9, STEP)
    best = np.full(starts.size, -1.0)
    found: list[tuple[float, float, bool, bool, float, float]] = []
    for turned in (False, True):
        for over in (False, True) if either_face else (False,):
            cost = _costs(stave, outline, starts, turned, over)  # (offsets, shifts, turns)
            flat = cost.reshape(starts.size, -1)
            pick = flat.argmin(1)
            score = _score(flat[np.arange(starts.size), pick])
            best = np.maximum(best, score)
            for k in range(starts.size):
                shift, turn = SHIFTS[pick[k] // TURNS.size], TURNS[pick[k] % TURNS.size]
                found.append(
                    (float(score[k]), float(starts[k]), turned, over, float(shift), float(turn))
                )
    found.sort(key=lambda one: -one[0])
    kept: list[tuple[float, float, bool, bool, float, float]] = []
    for one in found:
        if all(one[2:4] != other[2:4] or abs(one[1] - other[1]) > 0.03 for other in kept):
            kept.append(one)
        if len(kept) == count:
            break
    placements = tuple(_described(stave, outline, *one) for one in kept)
    return Fit(starts, best, placements, placements[0].score >= 60.0)


def _score(cost: Floats) -> Floats:
    return np.asarray(100.0 * np.exp(-0.35 * cost))


def _laid(outline: Outline, turned: bool) -> tuple[Floats, Floats, Floats, Floats]:
    """The outline as it lies, left to right, at even places: places, width, depth, use."""
    at = np.linspace(0.0, outline.length, _NODES)
    source = outline.length - at if turned else at
    width, depth, use = (
        np.interp(source, outline.at, values)
        for values in (outline.width, outline.depth, outline.use)
    )
    return at, width, depth, use


def _edge_costs(stave: Stave, outline: Outline, starts: Floats, turned: bool) -> tuple[Floats, ...]:
    """Lack of width, ``(offsets, shifts, turns)``, and of depth; costs of crown, run-out and
    sapwood, ``(offsets,)``.
    """
    at, width, depth, use = _laid(outline, turned)
    places = starts[:, None] + at
    wood = np.interp(places, stave.at, stave.width)
    middle = np.interp(places, stave.face_at, stave.face)
    centre = SHIFTS[:, None, None] + TURNS[:, None] * (
        at - 0.5 * outline.length
    )  # shifts, turns, places
    aside = np.abs(centre[None] - middle[:, None, None])
    spare = 0.0 if stave.sawn else SQUARE_SIDES
    lack = (0.5 * width + aside - (0.5 * wood - spare)[:, None, None]).max(-1)
    lack[lack < 1e-6] = 0.0
    thin = (depth - np.interp(places, stave.at, stave.depth)).max(-1)
    crown = 0.0 if outline.crowned else np.interp(places, stave.at, 1.0 / stave.crown)
    high = width**2 / 8 * crown / depth + np.zeros_like(
        places
    )  # of the crown, as a share of the depth
    round_back = (np.maximum(0.0, high - 0.15) * use).mean(-1) * 12
    # grain that drifts further than half the width over a limb leaves its edge
    off = abs(stave.drift) * 0.5 * outline.length / np.maximum(0.5 * width.max(), 1e-6)
    grain = np.full(starts.size, 2.5 * max(0.0, off - 0.35) ** 2 + 0.4 * off)
    deep_sap = np.zeros(starts.size)
    if stave.sapwood is not None:
        deep_sap += 4 * (np.maximum(0.0, stave.sapwood / depth - 0.5) * use).mean()
    return np.maximum(lack, 0.0), np.maximum(thin, 0.0), round_back, grain, deep_sap


def _natural(stave: Stave, outline: Outline, starts: Floats) -> tuple[Floats, Floats]:
    """Twist from nock to nock (rad), and how much nearer the belly the right tip lies than the left
    (m), ``(offsets,)``.
    """
    length = outline.length
    twist = np.interp(starts + length, stave.twist_at, stave.twist) - np.interp(
        starts, stave.twist_at, stave.twist
    )
    left, inner, outer, right = (
        np.interp(starts + share * length, stave.side_at, stave.side)
        for share in (0.0, 0.5 - _HANDLE, 0.5 + _HANDLE, 1.0)
    )
    return twist, right - left - (outer - inner) / (2 * _HANDLE)


_SHARES = np.linspace(0.0, 0.5 - _HANDLE, 25)
_EVEN = np.vander(_SHARES, 3) @ np.linalg.pinv(
    np.vander(_SHARES, 3)
)  # the best even curve through a limb's profile


def _waves(stave: Stave, outline: Outline, starts: Floats) -> Floats:
    """How far the side profile strays from an even curve within either limb (m), ``(offsets,)``."""
    worst = np.zeros(starts.size)
    for shares in (_SHARES, 1.0 - _SHARES):
        side = np.interp(starts[:, None] + shares * outline.length, stave.side_at, stave.side)
        worst = np.maximum(worst, 0.5 * np.ptp(side - side @ _EVEN.T, axis=1))
    return worst


def _flaw_costs(
    stave: Stave,
    outline: Outline,
    starts: Floats,
    turned: bool,
    over: bool,
    shifts: Floats,
    turns: Floats,
) -> tuple[Floats, Floats, Floats, Floats, Floats]:
    """Cost of every flaw, ``(flaws, offsets, shifts, turns)``, with its place, use, distance from
    the edge and room.
    """
    at, width, depth, use = _laid(outline, turned)
    flaws = stave.flaws
    where = np.array([f.at for f in flaws])[:, None] - starts  # flaws, offsets
    half_long, half_wide, deep, off = (
        np.array(values)
        for values in (
            [f.length / 2 for f in flaws],
            [f.width / 2 for f in flaws],
            [f.depth for f in flaws],
            [f.off for f in flaws],
        )
    )
    on_back = np.array([FLAWS[f.kind].back for f in flaws])
    on_belly = np.array([FLAWS[f.kind].belly for f in flaws])
    faces = np.array([f.face for f in flaws])
    back = np.where(faces == "through", True, (faces == "back") != over)
    weight = np.where(
        faces == "through", np.maximum(on_back, on_belly), np.where(back, on_back, on_belly)
    )
    here = np.clip(where, 0.0, outline.length)
    local_use, local_width, local_depth = (
        np.interp(here, at, values) for values in (use, width, depth)
    )
    # the hardest worked place under the flaw's own length counts
    for side in (-1, 1):
        local_use = np.maximum(
            local_use,
            np.interp(np.clip(here + side * half_long[:, None], 0, outline.length), at, use),
        )
    gone = (where + half_long[:, None] < _TOUCH) | (
        where - half_long[:, None] > outline.length - _TOUCH
    )
    centre = (
        shifts[:, None] + turns * (here - 0.5 * outline.length)[..., None, None]
    )  # flaws, offsets, shifts, turns
    aside = np.abs(off[:, None, None, None] - centre)
    inner = 0.5 * local_width[..., None, None] - aside  # from the flaw's middle to the bow's edge
    wide = half_wide[:, None, None, None]
    beside = inner + wide <= _TOUCH
    edge = ~beside & (inner - wide < -_TOUCH)
    share = np.minimum(1.0, 2 * half_wide[:, None] / local_width)[..., None, None]
    into = np.minimum(1.0, deep[:, None] / local_depth)[..., None, None]
    strained = np.maximum(local_use, 0.0)[..., None, None] ** 2
    cost = (
        3.6
        * weight[:, None, None, None]
        * strained
        * (0.25 + 0.75 * np.sqrt(share))
        * (0.4 + 0.6 * into)
    )
    wood = np.interp(np.array([f.at for f in flaws]), stave.at, stave.width)
    room = np.maximum(
        0.0, 0.5 * wood[:, None, None, None] - np.abs(centre) - 0.5 * local_width[..., None, None]
    )
    leave = np.array([FLAWS[f.kind].leave_wood for f in flaws])[:, None, None, None]
    cost = np.where(leave & (room >= wide - _TOUCH), 0.7 * cost, cost)
    cost = np.where(edge, _EDGE * cost, cost)
    cost = np.where(beside | gone[..., None, None], 0.0, cost)
    return cost, here, local_use, np.where(gone[..., None, None], -np.inf, inner), room


def _costs(stave: Stave, outline: Outline, starts: Floats, turned: bool, over: bool) -> Floats:
    lack, thin, crown, grain, sap = _edge_costs(stave, outline, starts, turned)
    twist, uneven = _natural(stave, outline, starts)
    wave = np.maximum(_waves(stave, outline, starts) - _TOLD, 0.0)
    natural = _TWIST * twist**2 + _UNEVEN * uneven**2 + _WAVE * wave**2
    total = (
        _NARROW * lack / 0.01
        + (_THIN * thin / 0.01 + (0.0 if over else crown + sap) + grain + natural)[:, None, None]
    )
    if stave.flaws:
        total = total + _flaw_costs(stave, outline, starts, turned, over, SHIFTS, TURNS)[0].sum(0)
    # of placements alike, the straight and centred one
    return np.asarray(
        total + 0.02 * np.abs(SHIFTS[:, None]) / SHIFTS.max() + 0.01 * np.abs(TURNS) / TURNS.max()
    )


def _described(
    stave: Stave,
    outline: Outline,
    score: float,
    start: float,
    turned: bool,
    over: bool,
    shift: float,
    turn: float,
) -> Placement:
    starts = np.array([start])
    lack, thin, crown, grain, sap = _edge_costs(stave, outline, starts, turned)
    fates: list[FlawFate] = []
    if stave.flaws:
        one, other = np.array([shift]), np.array([turn])
        cost, here, use, inner, room = _flaw_costs(stave, outline, starts, turned, over, one, other)
        for number, flaw in enumerate(stave.flaws):
            x, edge = float(here[number, 0]), float(inner[number, 0, 0, 0])
            if edge == -np.inf:
                fate = "off the ends"
            elif edge + flaw.width / 2 <= _TOUCH:
                fate = "off the edge"
            elif float(use[number, 0]) <= _IDLE:
                fate = (
                    "in the handle"
                    if abs(x - 0.5 * outline.length) < 0.3 * outline.length
                    else "at the tip"
                )
            else:
                fate = "on the edge" if edge < flaw.width / 2 - _TOUCH else "in the limb"
            from_middle = (0.5 * outline.length - x) if turned else (x - 0.5 * outline.length)
            face = "back" if (flaw.face == "back") != over or flaw.face == "through" else "belly"
            fates.append(
                FlawFate(
                    number,
                    fate,
                    from_middle,
                    float(use[number, 0]),
                    face,
                    float(cost[number, 0, 0, 0]),
                    float(room[number, 0, 0, 0]),
                )
            )
    lacking = lack[0, int(np.abs(SHIFTS - shift).argmin()), int(np.abs(TURNS - turn).argmin())]
    twist, uneven = (float(v[0]) for v in _natural(stave, outline, starts))
    costs = (0.0 if over else float(crown[0]), float(grain[0]), 0.0 if over else float(sap[0]))
    return Placement(
        start,
        turned,
        over,
        shift,
        turn,
        score,
        tuple(fates),
        float(lacking),
        float(thin[0]),
        *costs,
        twist,
        uneven if turned == over else -uneven,
        float(_waves(stave, outline, starts)[0]),
    )


def advice_when_none(stave: Stave, outline: Outline, fit: Fit | None) -> tuple[str, ...]:
    """What to change when no placement is sound: keys of what would help, the most telling
    first.

    Args:
        fit: the placements, or None where it is too short.

    Returns:
        Keys of what would help, the most telling first.

    Raises:
        DescriptionError: placements are wanted where the stave is long enough.
    """
    low, high = stave.usable
    said = []
    if high - low < outline.length + 2 * outline.beyond - 1e-9:
        return ("shorter", "other stave")
    if fit is None:
        raise DescriptionError("This stave is long enough: lay the bow in it first.", "fit")
    best = fit.best[0]
    if best.narrow > 0:
        said.append("narrower")
    if best.thin > 0:
        said.append("thinner")
    bad = [fate for fate in best.fates if fate.cost > 0.5]
    if bad:
        said.append(
            "shorter" if high - low - outline.length - 2 * outline.beyond < 0.05 else "gentler"
        )
    if best.grain > 1.0:
        said.append("other stave")
    return (*said, "other stave") if "other stave" not in said else tuple(said)
