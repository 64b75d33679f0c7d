"""Design the other way round: the thickness, width or core that gives a weight at a draw with a
chosen bend.

At full draw the bent shape is known up to one scale: the bend is ``c·f(s)``, f the bend family. The
scale follows from the string and the draw, the tension from the weight, and the stiffness from
``EI(s) = T·b(s) / (c·f(s))``; the section follows place by place. The string's length depends on
the braced shape of the very limbs sought, and constant strain makes f depend on their thickness
too, so an outer loop repeats this until it settles. Hickman, Nagler and Klopsteg, Archery: the
Technical Side (1947), treat the circular case.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import root

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow, Hold
from bowyery.bow.layout import (
    BEND_FAMILIES,
    CONSTANT_STRAIN,
    Layout,
    Rounding,
    Wanted,
    assemble,
    hold_of,
    marks_for,
)
from bowyery.bow.limb_grid import grid
from bowyery.bow.natural import BentTip
from bowyery.bow.section import SectionValues, integrate
from bowyery.design.figures import USUAL_FIBRE
from bowyery.design.solution import Solution, as_marked
from bowyery.errors import DesignError, SolveError
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics import statics
from bowyery.mechanics.gaps import gap_difference
from bowyery.strings.thread import usual_string
from bowyery.wood.materials import Material, fibre

WIDEST = 0.12  # no limb is wider (m)
THINNEST = 0.0015  # nor thinner (m)
_TOO_FAR = (
    "Such limbs cannot be braced and drawn so far: the bow is too short for this draw. Lengthen it"
    " or draw less."
)
_TOGETHER = (
    "Bow and back-bow cannot be braced and drawn so far together: thin the back-bow, slacken its"
    " cable or lengthen the bow."
)
# Least thickness of the tips over that at seven tenths of the limb from where on it asks for stiff
# tips.
STIFF_TIPS = 1.2
STILL = 0.05  # of its bend stays to a tip that does not work
# How much the gaps' difference changes, at first sight, with the share by which the upper limb
# bends more (m); how far that share may go; and how near the difference is to come (m).
MISSED = 0.007  # of the weight: further off no pair of limbs is taken, whatever their gaps
GAP_COST = 0.02  # of the weight, for a gap outside of what is wanted by half of its range
GAP_SLOPE, FULLER, GAP_NEAR = 0.03, (-0.25, 0.4), 0.0001
_FINE = 64
FEW, _LEAST = 32, 16
_PAIR = 16  # cells of each limb while a back-bow is fitted


@dataclass(frozen=True)
class _FullDraw:
    """The bent shape at full draw: loads, and stiffness and bend at the nodes of both limbs, ``(2,
    n+1)``.
    """

    stiffness: Floats
    bend: Floats
    start: Floats


def _full_draw(
    layout: Layout, wanted: Wanted, hold: Hold, parts: Floats, families: Floats, start: Floats
) -> _FullDraw:
    lengths = np.array([layout.limb_length(True), layout.limb_length(False)])
    roots = np.array([layout.root_from_centre(True), layout.root_from_centre(False)])
    step = (lengths / _FINE)[:, None]
    middle = 0.5 * (families[:, 1:] + families[:, :-1])
    shape = families / middle.mean(1, keepdims=True)
    turn = middle / middle.mean(1, keepdims=True) * step
    lines = [layout.natural(upper) for upper in (True, False)]
    natural = np.stack(
        [
            line.turns(np.linspace(0.0, length, _FINE + 1))
            for line, length in zip(lines, lengths, strict=True)
        ]
    )
    leaves = np.array([[line.angle] for line in lines])
    ratio = np.array([(1 + wanted.fuller) * lengths[1] / lengths[0], 1.0])[:, None]
    pivot = complex(*hold.pivot)

    def bent(lower: float) -> np.ndarray:
        theta = np.cumsum(np.concatenate([leaves, natural + lower * ratio * turn], 1), 1)
        bars = np.exp(1j * theta)
        way = np.cumsum(0.5 * step * (bars[:, 1:] + bars[:, :-1]), 1)
        out = np.concatenate([np.zeros((2, 1)), way], 1) + roots[:, None]
        out[1].real *= -1.0
        return np.asarray(out)

    def miss(x: Floats) -> Floats:
        nock = pivot + 1j * wanted.draw * np.exp(-1j * x[1])
        return np.asarray(np.abs(bent(x[0])[:, -1] - nock) - parts)

    found = root(miss, start, tol=1e-10)
    if not found.success or not 0 < found.x[0] * lengths[1] < 3.0:
        found = root(miss, [1.2 / lengths[1], 0.03], tol=1e-10)
    if not found.success or not 0 < found.x[0] * lengths[1] < 3.0:
        raise DesignError(
            "No bend of this kind reaches that draw: the bow is too short for it. Lengthen the bow"
            " or shorten the draw."
        )
    limbs = bent(found.x[0])
    nock = pivot + 1j * wanted.draw * np.exp(-1j * found.x[1])
    arm = nock - pivot
    out = (limbs[:, -1] - nock) / np.abs(limbs[:, -1] - nock)
    pull = -wanted.weight * arm / abs(arm)
    tension = np.linalg.solve(np.stack([out.real, out.imag]), [pull.real, pull.imag])
    if np.any(tension <= 0):
        raise DesignError(
            "At this draw the string would push; the draw is too long for these limbs."
        )
    away = limbs - nock
    lever = np.abs(away.real * out.imag[:, None] - away.imag * out.real[:, None])
    bend = found.x[0] * ratio * shape
    return _FullDraw(tension[:, None] * lever / bend, bend, found.x)


def _values(
    layout: Layout, wood: Material, upper: bool, places: Floats, width: Floats, depth: Floats
) -> SectionValues:
    layers = layout.layers_at(places, upper, wood)
    given = sum((la.thickness for la in layers if la.thickness is not None), np.zeros_like(places))
    rows = np.stack(
        [depth - given if la.thickness is None else la.thickness + 0 * depth for la in layers]
    )
    return integrate(
        layout.shape,
        width,
        rows,
        np.array([la.modulus for la in layers]),
        np.array([la.density for la in layers]),
    )


def _sized(
    layout: Layout, wood: Material, upper: bool, places: Floats, wanted: Floats
) -> tuple[Floats, Floats]:
    """Width and thickness at the fine places whose stiffness is the wanted one, with the maker's
    limits at the tip.
    """
    # the least size of the tip comes in gradually over the last three tenths of the limb
    outer = np.clip((places / places[-1] - 0.7) / 0.3, 0.0, 1.0)
    taper = np.where(outer > 0, 0.5 + 0.5 * outer, 0.0)
    if layout.unknown == "width":
        depth = layout.depth_at(places, upper)
        least = np.maximum(layout.tip_width * taper, 2e-3)
        width = np.full_like(places, 0.03)
        for _ in range(40):
            stiffness = _values(layout, wood, upper, places, width, depth).stiffness
            following = np.clip(width * wanted / np.maximum(stiffness, 1e-9), least, 4 * WIDEST)
            settled = np.abs(following / width - 1).max() < 1e-7
            width = following
            if settled:
                break
        if width.max() > WIDEST:
            raise DesignError(
                "The limb would be wider than a hand: it is too thin for this weight."
                " Thicken it, lengthen the bow or ask for less."
            )
        return width, depth
    width = layout.width_at(places, upper)
    given = sum(
        (la.thickness for la in layout.layers_at(places, upper, wood) if la.thickness is not None),
        np.zeros_like(places),
    )
    least = np.maximum(layout.least_tip * taper, given + THINNEST)
    if given.any():
        bare = _values(layout, wood, upper, places, width, given + THINNEST).stiffness
        inner = places < 0.6 * places[-1]
        if np.any(bare[inner] > wanted[inner]):
            raise DesignError(
                "The other layers alone are stiffer than this bow; make them thinner or ask for"
                " more weight."
            )
    depth = np.maximum(least, given + 0.01)
    for _ in range(60):
        stiffness = _values(layout, wood, upper, places, width, depth).stiffness
        # a slat of a culm or a tube is nothing until it reaches down to its edges
        times = np.where(stiffness > 0, np.cbrt(wanted / np.maximum(stiffness, 1e-9)), 1.05)
        times = np.minimum(times, np.where(stiffness > 1e-3 * wanted, np.inf, 1.05))
        following = np.maximum(depth * times, least)
        settled = np.abs(following / depth - 1).max() < 1e-7
        depth = following
        if settled:
            break
    if layout.back_bow is not None:  # its cables relieve the inner limb, and not the outer
        return width, depth
    # from the fade to the nock it grows no thicker again, unless its maker asks for stiff tips
    if layout.waisted:  # where it is narrow it has to be thick
        return width, depth
    falling = np.minimum.accumulate(depth)
    if layout.tip is not None and layout.tip.static:
        return width, _stiffened(layout, layout.tip, places, falling)
    if layout.least_tip > STIFF_TIPS * float(np.interp(0.7 * places[-1], places, falling)):
        falling = np.maximum(falling, least)
    return width, falling


def _still_tips(layout: Layout, families: Floats, share: Floats) -> Floats:
    """Bend families of both limbs without the bend of tips that do not work."""
    tip = layout.tip
    if tip is None or not tip.static:
        return families
    feet = [1 - tip.length / layout.limb_length(upper) for upper in (True, False)]
    still = np.stack([share > foot for foot in feet])
    return np.where(still, STILL * families, families)


def _stiffened(layout: Layout, tip: BentTip, places: Floats, depth: Floats) -> Floats:
    """Thickness with stiff tips: from their foot on no thinner than there, or than is asked for."""
    foot = places[-1] - tip.length
    least = max(float(np.interp(foot - tip.length / 4, places, depth)), layout.least_tip)
    # it comes in over the last quarter of its length before the foot, without a step
    come = np.clip((places - (foot - tip.length / 4)) / (tip.length / 4), 0.0, 1.0)
    return np.where(come > 0, np.maximum(depth, depth + come * (least - depth)), depth)


@dataclass(frozen=True)
class _Settled:
    at: tuple[Floats, Floats]
    width: tuple[Floats, Floats]
    thickness: tuple[Floats, Floats]
    bow: Bow
    weight: float
    own_weight: float | None = None  # of the main bow by itself, where a back-bow helps it (N)
    fuller: float = 0.0  # by how much the upper limb's bend exceeds the lower's, as a share


def settle(layout: Layout, wanted: Wanted, wood: Material, cells: int = FEW) -> _Settled:
    """The bow before its marks are rounded.

    Returns:
        Sizes at fine places, and the bow they make.

    Raises:
        DesignError: no such bow exists.
    """
    if layout.unknown == "nothing":
        return _as_stock(layout, wanted, wood, cells)
    return (
        _solved(layout, wanted, wood, cells)
        if layout.back_bow is None
        else _paired(layout, wanted, wood, cells)
    )


def _as_stock(layout: Layout, wanted: Wanted, wood: Material, cells: int) -> _Settled:
    """Stock that has its sizes already: only what it pulls is found."""
    at = tuple(np.linspace(0.0, layout.limb_length(upper), _FINE + 1) for upper in (True, False))
    depth = [layout.depth_at(at[k], k == 0) for k in (0, 1)]
    width = [layout.width_at(at[k], k == 0) for k in (0, 1)]
    bow = assemble(layout, wanted, wood, (at[0], at[1]), (depth[0], depth[1]))
    try:
        if bow.back_bow is not None:
            weight = float(backbow.solve(bow, np.array([wanted.draw]), _PAIR).weight[-1])
        else:
            weight = float(force_curve.solve(bow, np.array([wanted.draw]), cells).drawn.weight[-1])
    except SolveError as error:
        raise DesignError(_TOO_FAR) from error
    return _Settled((at[0], at[1]), (width[0], width[1]), (depth[0], depth[1]), bow, weight)


def _paired(layout: Layout, wanted: Wanted, wood: Material, cells: int) -> _Settled:
    """A main bow that bends as wanted and pulls the wanted weight together with its back-bow."""
    exact = _solved(
        replace(layout, back_bow=None),
        replace(wanted, weight=0.7 * wanted.weight),
        wood,
        cells,
        about=True,
    )
    at, width, thickness = exact.at, exact.width, exact.thickness
    share, sides = np.linspace(0.0, 1.0, _FINE + 1), (0, 1)
    lengths = [layout.limb_length(True), layout.limb_length(False)]
    ratio = ((1 + exact.fuller) * lengths[1] / lengths[0], 1.0)
    found: backbow.SharedCurve | None = None
    gain, last, beyond = 1.0, 0.0, 0
    for turn in range(16):
        bow = assemble(layout, wanted, wood, at, thickness, width)
        try:
            found = backbow.solve(bow, np.array([wanted.draw]), _PAIR, found)
        except SolveError as error:
            raise DesignError(_TOGETHER) from error
        weight = float(found.weight[-1])
        bend = backbow.as_curve(found).shapes.bend[:, -1]
        off = []
        for k in sides:
            aim = BEND_FAMILIES[wanted.family](share)
            if wanted.family == CONSTANT_STRAIN:
                aim = 1 / _far(layout, wood, k == 0, at[k], width[k], thickness[k])
            # near the tips hardly anything bends; what holds further in goes on to them
            place = np.clip(share, 0.06, 0.85)
            there = np.interp(place, found.limbs.shares[k, 0], bend[k])
            off.append(there / (ratio[k] * np.interp(place, share, aim / aim.mean())))
        uneven = np.stack(off) / np.mean(off)
        miss = weight / wanted.weight - 1
        own_part = max(1 - float(found.share[-1]), 0.1)
        even = turn > 7 or bool(np.abs(uneven - 1).max() < 0.03)
        if abs(miss) < 2e-3 and even:
            alone = force_curve.solve(
                replace(bow, back_bow=None), np.array([wanted.draw]), cells
            ).drawn.weight
            return _Settled(at, width, thickness, bow, weight, float(alone[0]))
        if miss * last < 0:  # it went too far: both bows gain by a stiffer main one
            gain *= 0.6
        last, scale = miss, 1 - gain * miss / own_part
        beyond = beyond + 1 if scale < 0.4 else 0
        if beyond > 2:
            raise DesignError(
                "The back-bow alone pulls about as much as this bow shall: make it thinner or"
                " narrower, or ask for more weight."
            )
        sized = []
        for k in sides:
            values = _values(layout, wood, k == 0, at[k], width[k], thickness[k])
            goal = (
                values.stiffness
                * (1.0 if even else np.clip(uneven[k], 0.6, 1.6) ** 0.7)
                * float(np.clip(scale, 0.4, 2.0))
            )
            sized.append(_sized(layout, wood, k == 0, at[k], goal))
        width, thickness = (sized[0][0], sized[1][0]), (sized[0][1], sized[1][1])
    raise DesignError(
        "Bow and back-bow do not settle on this weight; change the back-bow's thickness or its"
        " cable's tension."
    )


def _solved(
    layout: Layout, wanted: Wanted, wood: Material, cells: int = FEW, about: bool = False
) -> _Settled:
    """A bow that bends as wanted and pulls the wanted weight, or ``about`` so."""
    share = np.linspace(0.0, 1.0, _FINE + 1)
    at = (share * layout.limb_length(True), share * layout.limb_length(False))
    families = _still_tips(layout, np.stack([BEND_FAMILIES[wanted.family](share)] * 2), share)
    string = 0.985 * layout.length
    parts = np.array([string / 2 - wanted.nock_offset, string / 2 + wanted.nock_offset])
    thickness = (np.full(_FINE + 1, 0.012),) * 2
    scale, start, weight, uneven = 1.0, np.array([1.2 / at[1][-1], 0.03]), 0.0, 0.0
    sized: _Settled | None = None
    braced: statics.Braced | None = None
    drawn: statics.Drawn | None = None
    bent, gaps = wanted.fuller, list[tuple[float, float]]()
    for _ in range(40):
        now = replace(wanted, upper_fuller=bent)
        full = _full_draw(layout, now, hold_of(layout, wanted, thickness), parts, families, start)
        start = full.start
        both = [
            _sized(layout, wood, side == 0, at[side], full.stiffness[side] * scale)
            for side in (0, 1)
        ]
        thickness = (both[0][1], both[1][1])
        width = (both[0][0], both[1][0])
        if layout.handle > 0 and thickness[0][0] > layout.handle_depth:
            raise DesignError(
                "The limb would be thicker than the handle: the bow is too short or too narrow for"
                " this weight. Lengthen it, widen it or ask for less."
            )
        bow = assemble(layout, wanted, wood, at, thickness, width)
        limbs = grid(bow, cells)
        try:
            braced = statics.brace(limbs, bow.hold, np.array([wanted.brace_height]), near=braced)
            drawn = statics.draw(limbs, bow.hold, braced, np.array([wanted.draw]), drawn)
        except SolveError as error:
            raise DesignError(_TOO_FAR) from error
        weight = float(drawn.weight[0])
        upper = float(braced.upper_part[0])
        before, parts = parts, np.array([upper, float(braced.string_length[0]) - upper])
        if wanted.family == CONSTANT_STRAIN:
            far = [
                _far(layout, wood, side == 0, at[side], width[side], thickness[side])
                for side in (0, 1)
            ]
            aim = _still_tips(layout, np.stack([1.0 / f for f in far]), share)
            aim /= aim.mean(1, keepdims=True)
            families = families / families.mean(1, keepdims=True)
            uneven = float(np.abs(aim - families).max())
            families = 0.4 * families + 0.6 * aim
        # thick tips and a thin root shift the weight a little; the whole limb is scaled to meet it
        sized = _Settled(at, width, thickness, bow, weight, fuller=bent)
        off = wanted.weight / weight
        scale *= off
        apart = 0.0
        if wanted.gap is not None:
            gaps.append((bent, float(gap_difference(limbs, braced)[0])))
            apart = gaps[-1][1] - wanted.gap
        level = abs(apart) < GAP_NEAR or bent in FULLER
        if wanted.gap is not None and not level:
            bent = _fuller(gaps, wanted.gap)
        if np.abs(parts - before).max() < 1e-4 and abs(off - 1) < 6e-4 and uneven < 5e-3 and level:
            return sized
        if about and abs(off - 1) < 0.03 and uneven < 0.1 and abs(apart) < 5 * GAP_NEAR:
            return sized
    if sized is not None and abs(weight / wanted.weight - 1) < 0.005 and uneven < 0.05:
        return sized
    raise DesignError(
        "The brace height and this bend do not settle together; try another brace height or bend."
    )


def _fuller(gaps: list[tuple[float, float]], goal: float) -> float:
    """The next share by which the upper limb bends more, from those tried and the difference of
    gaps (m) that each of them gave.
    """
    bent, gap = gaps[-1]
    slope = GAP_SLOPE
    if len(gaps) > 1 and abs(bent - gaps[-2][0]) > 1e-3:
        slope = float(np.clip((gap - gaps[-2][1]) / (bent - gaps[-2][0]), 0.3 * slope, 4 * slope))
    return float(np.clip(bent + (goal - gap) / slope, *FULLER))


def _far(
    layout: Layout, wood: Material, upper: bool, places: Floats, width: Floats, depth: Floats
) -> Floats:
    """Distance of the farther face from the neutral axis (m)."""
    values = _values(layout, wood, upper, places, width, depth)
    return np.maximum(values.axis, depth - values.axis)


def solve_design(
    layout: Layout, wanted: Wanted, wood: Material, rounding: Rounding, name: str = ""
) -> Solution:
    """Find the marking table whose bow has the wanted weight at the wanted draw.

    Args:
        rounding: the maker's steps; the table is solved forward again after rounding.

    Returns:
        The design with its marks, solved forward again.

    Raises:
        DesignError: no such bow exists; says why and what to change.
            :func:`bowyery.design.nearest.nearest` finds one that does.
        DescriptionError: an impossible figure, with its name.
    """
    layout, wanted = layout.checked(), wanted.checked()
    if wanted.string is None:
        wanted = replace(
            wanted, string=usual_string(fibre(USUAL_FIBRE), wanted.weight, layout.length)
        )
    exact = settle(layout, wanted, wood)
    try:
        if layout.unknown == "nothing":
            at = tuple(marks_for(layout, rounding, upper) for upper in (True, False))
            depth = tuple(layout.depth_at(at[k], k == 0) for k in (0, 1))
            bow = assemble(layout, wanted, wood, (at[0], at[1]), (depth[0], depth[1]), name=name)
            return as_marked(bow, layout, wanted, wood)
        own = replace(wanted, weight=exact.own_weight or wanted.weight)
        bow, near = _marked(exact, replace(layout, back_bow=None), own, wood, rounding, name)
        bow = replace(bow, back_bow=exact.bow.back_bow)
        return as_marked(bow, layout, wanted, wood, exact.weight, near=near)
    except SolveError as error:
        raise DesignError(_TOO_FAR) from error


def _marked(
    exact: _Settled, layout: Layout, wanted: Wanted, wood: Material, rounding: Rounding, name: str
) -> tuple[Bow, statics.Braced]:
    """The bow with its rounded marks, and a braced state near its own."""
    places = tuple(marks_for(layout, rounding, upper) for upper in (True, False))
    smooth_width = [
        np.interp(places[k], exact.at[k], exact.width[k])
        if layout.unknown == "width"
        else layout.width_at(places[k], k == 0)
        for k in (0, 1)
    ]
    smooth_depth = [np.interp(places[k], exact.at[k], exact.thickness[k]) for k in (0, 1)]
    if layout.unknown == "width":
        depth = [
            np.maximum(np.round(t / rounding.thickness), 1) * rounding.thickness
            for t in smooth_depth
        ]
        width, near = _rounded(layout, wanted, wood, places, smooth_width, depth, rounding)
    else:
        width = [np.round(w / rounding.width) * rounding.width for w in smooth_width]
        depth, near = _rounded(layout, wanted, wood, places, smooth_depth, width, rounding)
    bow = assemble(
        layout,
        wanted,
        wood,
        (places[0], places[1]),
        (depth[0], depth[1]),
        (width[0], width[1]),
        name,
    )
    return bow, near


def _rounded(
    layout: Layout,
    wanted: Wanted,
    wood: Material,
    places: tuple[Floats, ...],
    smooth: list[Floats],
    other: list[Floats],
    rounding: Rounding,
) -> tuple[list[Floats], statics.Braced]:
    """Round the sizes solved for up and down so that the whole bow stays nearest the wanted
    weight.
    """
    step = rounding.width if layout.unknown == "width" else rounding.thickness
    shifts = np.linspace(-0.7, 0.7, 13) * step
    pairs = np.stack(np.meshgrid(shifts, shifts)).reshape(2, -1)  # each limb rounds on its own
    tries = [
        np.maximum(np.round((t + shift[:, None]) / step) * step, step)
        for t, shift in zip(smooth, pairs, strict=True)
    ]
    at = (places[0], places[1])
    if layout.unknown == "width":
        bow = assemble(layout, wanted, wood, at, (other[0], other[1]), (smooth[0], smooth[1]))
        limbs = grid(bow, _LEAST, width=(tries[0], tries[1]))
    else:
        bow = assemble(layout, wanted, wood, at, (smooth[0], smooth[1]), (other[0], other[1]))
        limbs = grid(bow, _LEAST, (tries[0], tries[1]))
    braced = statics.brace(limbs, bow.hold, np.full(limbs.batch, wanted.brace_height))
    drawn = statics.draw(limbs, bow.hold, braced, np.full(limbs.batch, wanted.draw))
    # few cells weigh all of them alike a little wrongly: the middle one says by how much
    middle = pairs.shape[1] // 2
    two = [tries[0][middle], tries[1][middle]]
    exact = grid(_with(bow, two, layout.unknown))
    near = statics.brace(exact, bow.hold, np.array([wanted.brace_height]), near=braced.pick(middle))
    weighed = float(
        statics.draw(exact, bow.hold, near, np.array([wanted.draw]), drawn.pick(middle)).weight[0]
    )
    # nearest weight, and of the near ones the pair that keeps the gaps as they are wanted
    miss = np.abs(drawn.weight / drawn.weight[middle] * weighed / wanted.weight - 1)
    if wanted.gap is None:
        beside = 0.002 * np.abs(pairs[0] - pairs[1]) / step
    else:
        gaps = gap_difference(limbs, braced)
        gaps += float(gap_difference(exact, near)[0]) - gaps[middle]
        low, high = wanted.gap_band
        beyond = np.maximum(0.0, np.maximum(low - gaps, gaps - high))
        beside = GAP_COST * beyond / (0.5 * (high - low))
    best = int((np.maximum(miss, 0.002) + beside + (miss > MISSED)).argmin())
    return [tries[0][best], tries[1][best]], near


def _with(bow: Bow, sizes: list[Floats], unknown: str) -> Bow:
    """A bow with other widths or thicknesses at its stations."""
    upper, lower = (
        replace(limb, width=size) if unknown == "width" else replace(limb, thickness=size)
        for limb, size in zip(bow.limbs, sizes, strict=True)
    )
    return replace(bow, upper=upper, lower=lower)
