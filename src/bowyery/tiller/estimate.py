"""How stiff each place of both limbs is, from what was read: a maximum a posteriori estimate with
its spread.

Unknown are the logarithms of bending stiffness against the design's at twelve places of each limb,
straight between them. Before any reading they are believed to be what rough work and wood make
them: both limbs together within about a third, each limb and each limb's taper within some 9 %,
and places within 8.5 % of their neighbourhood, forgotten over a hand's breadth. The readings of a
check are fitted by Gauss and Newton's method with the derivatives of one batched solve; the spread
comes from the curvature of the posterior at its top (Laplace's approximation; Gelman et al.,
Bayesian Data Analysis, 2013, chapter 4). Huber's loss (Robust Statistics, 1981), smoothed, keeps a
reading from pulling far; one more than 3.5 of its errors off is named, and then left out.

Unknown too is the natural bend of each limb, at six places: few enter it, an inch of reflex is
common, and a straight edge or a gap sees bend and crook together. It is believed to be even along a
limb within what puts the tip an inch off, and to wander a little about that; what is learned of it
is carried from check to check, and what is not widens the bands.

What a check has taught is carried to the next one: where wood came off the mean falls with the cube
of the thickness and the spread grows by what is not known of how much came off.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from dataclasses import field as part_of

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.errors import EstimateError
from bowyery.tiller.kinds import SIZES, Reading
from bowyery.tiller.readings import Readout, check_readings, errors_of, read

PLACES = 12
CELLS = 32
COMMON_SPREAD = 0.30
LIMB_SPREAD = 0.08
TAPER_SPREAD = 0.09
PLACE_SPREAD = 0.085
REACH = 0.12  # over which a place's difference from its limb is forgotten (m)
CROOKS = 6  # places of each limb at which its natural bend is looked for
CROOK = 0.1  # unit in which it is looked for (1/m)
EVEN_CROOK = 0.07  # an inch at the tip of a usual limb (1/m)
SHARED_CROOK = 0.8  # of its variance that both limbs have alike
LOCAL_CROOK = 0.07  # about that (1/m)
CROOK_REACH = 0.15  # over which that is forgotten (m)
HAND = 0.08  # wood is seen over so far to either side (m)
WILD = 3.5
SOFT = 1.5
_STEP = 0.03
NINETY = 1.645


@dataclass(frozen=True)
class Belief:
    """What is believed of the log stiffness at the places, upper limb's places first, and then of
    the natural bend at its places (in CROOK), where that is not known: mean ``(k,)`` and covariance
    ``(k, k)``, k being ``2·PLACES`` or ``2·PLACES + 2·CROOKS``.
    """

    mean: Floats
    covariance: Floats


def first_belief(limbs: LimbGrid, common: float = 0.0, crooked: bool = True) -> Belief:
    """What is believed of a bow before anything has been read.

    Args:
        limbs: grid of the design.
        common: log of how much stiffer than the design the rough bow is expected to be, such as
            from wood left on.
        crooked: the limbs may have a natural bend that the design does not have; not where their
            profile was measured.

    Returns:
        Mean and covariance.
    """
    share = np.linspace(-1.0, 1.0, PLACES)
    one, total = np.ones((PLACES, PLACES)), np.zeros((2 * PLACES, 2 * PLACES))
    total += COMMON_SPREAD**2
    for side in (0, 1):
        at = np.linspace(0.0, float(limbs.length[side, 0]), PLACES)
        near = _about_places(at)
        part = slice(side * PLACES, (side + 1) * PLACES)
        total[part, part] += (
            LIMB_SPREAD**2 * one + TAPER_SPREAD**2 * np.outer(share, share) + PLACE_SPREAD**2 * near
        )
    if not crooked:
        return Belief(np.full(2 * PLACES, common), total)
    whole = np.zeros((2 * PLACES + 2 * CROOKS,) * 2)
    whole[: 2 * PLACES, : 2 * PLACES] = total
    for side in (0, 1):
        at = np.linspace(0.0, float(limbs.length[side, 0]), CROOKS)
        part = slice(2 * PLACES + side * CROOKS, 2 * PLACES + (side + 1) * CROOKS)
        near = np.exp(-np.abs(at[:, None] - at) / CROOK_REACH)
        whole[part, part] = (EVEN_CROOK**2 + LOCAL_CROOK**2 * near) / CROOK**2
    # a stave's bow runs through both limbs
    upper, lower = slice(2 * PLACES, 2 * PLACES + CROOKS), slice(2 * PLACES + CROOKS, None)
    whole[upper, lower] = whole[lower, upper] = SHARED_CROOK * EVEN_CROOK**2 / CROOK**2
    mean = np.concatenate([np.full(2 * PLACES, common), np.zeros(2 * CROOKS)])
    return Belief(mean, whole)


def crooked(limbs: LimbGrid, crook: Floats) -> LimbGrid:
    """Limbs with more natural bend than the design's.

    Args:
        limbs: the grid, one bow or as many as there are bends.
        crook: at its places, straight between them, ``(…, 2, CROOKS)`` (1/m).

    Returns:
        The grid with that bend, a batch of the bends.
    """
    shares = limbs.shares[:, 0]
    middles = 0.5 * (shares[:, 1:] + shares[:, :-1]) * (CROOKS - 1.0)
    rows = np.atleast_3d(crook) if crook.ndim == 3 else crook[None]
    sides = []
    for side in (0, 1):
        low = np.minimum(middles[side].astype(int), CROOKS - 2)
        part = middles[side] - low
        sides.append(rows[:, side, low] * (1 - part) + rows[:, side, low + 1] * part)
    return replace(limbs, curvature=limbs.curvature + np.stack(sides))


def _about_places(at: Floats) -> Floats:
    """How alike places are, ``(PLACES, PLACES)``: a place stands for the wood a hand's breadth
    about it, which evens itself out.
    """
    fine = np.linspace(at[0], at[-1], 8 * (at.size - 1) + 1)
    about = np.maximum(0.0, 1 - np.abs(at[:, None] - fine) / HAND)
    about /= about.sum(1, keepdims=True)
    return np.asarray(about @ np.exp(-np.abs(fine[:, None] - fine) / REACH) @ about.T)


@dataclass(frozen=True)
class Estimate:
    """What the readings say.

    Attributes:
        field: log stiffness against the design at the places, ``(2, PLACES)``, from root to nock.
        covariance: ``(2·PLACES, 2·PLACES)``, upper limb first.
        predicted: what the fitted bow reads, one per reading.
        wild: indices of readings that do not fit the others.
        weights: how much each place counts for a limb's stiffness as a whole, ``(2, PLACES)``, each
            limb's sum 1.
        crook: natural bend beyond the design's at its places, ``(2, CROOKS)`` (1/m).
        joint: covariance of stiffness and bend together, or None where the bend is known.
    """

    field: Floats
    covariance: Floats
    predicted: Floats
    wild: tuple[int, ...]
    weights: Floats
    crook: Floats = part_of(default_factory=lambda: np.zeros((2, CROOKS)))
    joint: Floats | None = None

    @property
    def belief(self) -> Belief:
        """As what is known before the next check."""
        if self.joint is None:
            return Belief(self.field.ravel(), self.covariance)
        return Belief(np.concatenate([self.field.ravel(), self.crook.ravel() / CROOK]), self.joint)

    @property
    def spread(self) -> Floats:
        """One standard deviation at the places, ``(2, PLACES)``."""
        return np.sqrt(np.diag(self.covariance)).reshape(2, PLACES)

    @property
    def common(self) -> float:
        """Log of both limbs' stiffness as a whole."""
        return float((self.weights * self.field).sum() / 2)

    @property
    def ratio(self) -> float:
        """Log of the upper limb's stiffness as a whole over the lower's."""
        whole = (self.weights * self.field).sum(1)
        return float(whole[0] - whole[1])

    @property
    def upper(self) -> float:
        """Stiffness of the upper limb as a whole, as a multiple of the design's."""
        return float(np.exp(self.common + 0.5 * self.ratio))

    @property
    def lower(self) -> float:
        """Stiffness of the lower limb as a whole, as a multiple of the design's."""
        return float(np.exp(self.common - 0.5 * self.ratio))

    @property
    def ratio_spread(self) -> float:
        """Standard deviation of the log ratio."""
        pick = (self.weights * np.array([[1.0], [-1.0]])).ravel()
        return float(np.sqrt(pick @ self.covariance @ pick))

    @property
    def common_spread(self) -> float:
        """Standard deviation of the log of both limbs together."""
        pick = self.weights.ravel() / 2
        return float(np.sqrt(pick @ self.covariance @ pick))


def even_estimate(
    limbs: LimbGrid, common: float, ratio: float = 0.0, spread: float = 1e-3
) -> Estimate:
    """An estimate that is known beforehand: each limb stiffer by the same everywhere.

    Args:
        limbs: the grid, ``B`` bows.
        common: log stiffness of both limbs.
        ratio: log of the upper limb's stiffness over the lower's.
        spread: one standard deviation.

    Returns:
        The estimate.
    """
    field = np.stack([np.full(PLACES, common + 0.5 * ratio), np.full(PLACES, common - 0.5 * ratio)])
    return Estimate(field, np.eye(2 * PLACES) * spread**2, np.zeros(0), (), place_weights(limbs))


def place_weights(limbs: LimbGrid) -> Floats:
    """How much each place counts for its limb's stiffness as a whole: as it shares in bending,
    ``(2, PLACES)``.

    A limb pulled at its nock bends a place by the square of its distance from the nock over its
    stiffness.

    Args:
        limbs: the grid, ``B`` bows.
    """
    share = np.linspace(0.0, 1.0, PLACES)
    rows = []
    for side in (0, 1):
        stiffness = np.interp(share, limbs.shares[side, 0], limbs.node_stiffness[side, 0])
        work = (1 - share) ** 2 / stiffness
        rows.append(work / work.sum())
    return np.stack(rows)


def between_places(field: Floats, shares: Floats) -> Floats:
    """Values at shares of a limb's length, ``(…, m)``, from those at the places, ``(…, PLACES)``;
    straight between them.

    Args:
        field: at the places of the estimate, ``(…, PLACES)``.
        shares: of the limb's length, ``(m,)``.
    """
    share = shares * (PLACES - 1.0)
    low = np.clip(share.astype(int), 0, PLACES - 2)
    part = share - low
    return np.asarray(field[..., low] * (1 - part) + field[..., low + 1] * part)


def at_nodes(field: Floats, limbs: LimbGrid) -> Floats:
    """Values at the nodes of both limbs, ``(…, 2, n+1)``, from those at the places, ``(…, 2,
    PLACES)``.

    Args:
        field: at the places of the estimate.
        limbs: the grid; the first of its bows counts.
    """
    shares = limbs.shares[:, 0]
    return np.stack([between_places(field[..., k, :], shares[k]) for k in (0, 1)], -2)


def stiffness_factors(estimate: Estimate, limbs: LimbGrid) -> Floats:
    """Stiffness against the design at the nodes, ``(2, 1, n+1)`` for LimbGrid.stiffened.

    Args:
        estimate: of the limbs' stiffness.
        limbs: the grid, ``B`` bows.
    """
    return np.exp(at_nodes(estimate.field, limbs))[:, None]


def few_cells(limbs: LimbGrid) -> LimbGrid:
    """The grid with no more cells than fits need.

    Args:
        limbs: the grid, ``B`` bows.
    """
    return limbs if limbs.cells <= CELLS or limbs.cells % CELLS else limbs.coarser(CELLS)


def predict(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    fields: Floats,
    slopes: bool,
    crooks: Floats | None = None,
) -> Readout:
    """What bows whose places are so much stiffer than the design read.

    Args:
        limbs: grid of the design, a batch of one.
        bows: for hold and string.
        readings: their values do not enter.
        fields: log stiffness at the places, ``(B, 2, PLACES)``.
        slopes: as for :func:`bowyery.tiller.readings.read`.
        crooks: natural bend beyond the design's, ``(B, 2, CROOKS)`` (1/m), or None.
    """
    logs = np.moveaxis(at_nodes(fields, limbs), 0, 1)  # (2, B, n+1)
    bent = limbs.stiffened(np.exp(logs))
    if crooks is not None:
        bent = crooked(bent, crooks)
    found = read(bent, bows, readings, slopes)
    for column, r in enumerate(readings):
        if r.kind in SIZES:
            share = np.clip((r.at or 0.0) / float(limbs.length[r.side, 0]), 0.0, 1.0) * (PLACES - 1)
            low = min(int(share), PLACES - 2)
            here = fields[:, r.side, low : low + 2] @ np.array([1 - (share - low), share - low])
            found.values[:, column] *= np.exp(here / 3 if r.kind == "thickness" else here)
    return found


def estimate(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    belief: Belief | None = None,
) -> Estimate:
    """Fit the limbs' stiffness to the readings of one check.

    Args:
        limbs: grid of the design.
        bows: hold and string as they were on the tree: one bow, or one for each string that was on.
        readings: of one check.
        belief: from the checks before, or None at the first.

    Returns:
        Stiffness with its spread.

    Raises:
        EstimateError: no readings, or readings that cannot be used.
        SolveError: the bow cannot be braced or drawn as the readings say.
    """
    check_readings(readings)
    few = few_cells(limbs)
    start = belief or first_belief(few)
    measured = np.array([r.at_once for r in readings])
    precision = np.linalg.inv(start.covariance)
    x = start.mean.copy()
    steps = np.concatenate([np.zeros((1, x.size)), _STEP * np.eye(x.size)])
    many = 2 * PLACES
    jacobian, values, slopes, errors = (
        np.zeros((measured.size, x.size)),
        measured,
        measured,
        measured,
    )
    is_weight = np.array([r.kind == "weight" for r in readings])
    out = np.zeros(measured.size, bool)  # readings that are left out, because they fit no others
    for turn in range(14):
        tried = x + steps
        crooks = CROOK * tried[:, many:].reshape(-1, 2, CROOKS) if x.size > many else None
        fields = tried[:, :many].reshape(-1, 2, PLACES)
        found = predict(few, bows, readings, fields, True, crooks)
        values, slopes = found.values[0], found.slopes
        if turn == 0 and is_weight.any():
            # forces go with stiffness: start near the right size
            ahead = float(
                np.median(np.log(np.maximum(measured, 1e-9) / np.maximum(values, 1e-9))[is_weight])
            )
            scale = np.exp(np.clip(ahead, -1.5, 1.5))
            x[:many] += np.clip(ahead, -1.5, 1.5)
            found.values[:, is_weight] *= scale
            values, slopes = found.values[0], slopes * scale
        jacobian = (found.values[1:] - values).T / _STEP
        errors = errors_of(readings, values, slopes)
        off = (measured - values) / errors
        # weights of the smoothed Huber loss
        loose = np.where(out, 0.0, 1.0 / np.sqrt(1 + (off / SOFT) ** 2))
        weighted = jacobian * (loose / errors)[:, None]
        information = precision + weighted.T @ (jacobian / errors[:, None])
        move = np.linalg.solve(information, weighted.T @ off + precision @ (start.mean - x))
        move *= min(1.0, 0.5 / max(float(np.abs(move).max()), 1e-12))
        x = x + move
        values = values + jacobian @ move
        if np.abs(move).max() < 0.012:
            beyond = np.abs((measured - values) / errors) > WILD
            if out.any() or not beyond.any() or beyond.sum() > measured.size / 3:
                break
            out = beyond
    off = (measured - values) / errors
    wild = tuple(int(i) for i in np.flatnonzero(np.abs(off) > WILD))
    whole = np.linalg.inv(information)
    whole = 0.5 * (whole + whole.T)
    place = x[:many].reshape(2, PLACES), whole[:many, :many]
    known = (*place, values, wild, place_weights(few))
    if x.size == many:
        return Estimate(*known)
    return Estimate(*known, CROOK * x[many:].reshape(2, CROOKS), whole)


@dataclass(frozen=True)
class Taken:
    """Wood taken off a limb evenly between two places from its root (m), feathered out beyond them.

    Attributes:
        limb: upper or lower.
        thickness: mean thickness taken there (m).
        start, end: from the root (m); the whole limb without them.
        spread: one standard deviation of the thickness, as a share of it.
        shaded: thickness at the places instead, where the limb was shaded by the picture and not by
            words, ``(PLACES,)`` (m).
    """

    limb: str
    thickness: float
    start: float | None = None
    end: float | None = None
    spread: float = 0.2
    shaded: tuple[float, ...] | None = None


FEATHER = 0.05  # a removal runs out over about so far (m)


def taken_field(limbs: LimbGrid, taken: tuple[Taken, ...]) -> Floats:
    """Thickness taken at the places, ``(2, PLACES)`` (m).

    Args:
        limbs: the grid, ``B`` bows.
        taken: wood taken.
    """
    field = np.zeros((2, PLACES))
    for one in taken:
        side = SIDES.index(one.limb)
        if one.shaded is not None:
            field[side] += np.maximum(one.shaded, 0.0)
            continue
        length = float(limbs.length[side, 0])
        at = np.linspace(0.0, length, PLACES)
        start, end = one.start or 0.0, length if one.end is None else one.end
        if not (np.isfinite(one.thickness) and one.thickness >= 0 and end > start):
            raise EstimateError(
                "Wood is taken between two places of a limb, and its thickness is zero or more."
            )
        low = np.clip((at - start) / FEATHER + 1, 0.0, 1.0) if start > 0 else np.ones(PLACES)
        high = np.clip((end - at) / FEATHER + 1, 0.0, 1.0)
        field[side] += one.thickness * np.minimum(low, high)
    return field


def carried(limbs: LimbGrid, belief: Belief, taken: tuple[Taken, ...]) -> Belief:
    """What is believed after wood has come off.

    The mean falls with the cube of the thickness that stands; what is not known of how much came
    off where adds to the spread, partly alike over a limb (the tool's bite) and partly place by
    place, and the wood's memory a little more.

    Args:
        limbs: the grid, ``B`` bows.
        belief: before the wood came off.
        taken: wood taken.

    Returns:
        What is believed now.
    """
    many = 2 * PLACES
    field = belief.mean[:many].reshape(2, PLACES)
    share = np.linspace(0.0, 1.0, PLACES)
    nodes = limbs.shares[:, 0]
    depth = np.stack([np.interp(share, nodes[k], limbs.depth[k, 0]) for k in (0, 1)])
    standing = depth * np.exp(field / 3)
    fall = 3 * np.log(np.maximum(1 - taken_field(limbs, taken) / standing, 0.2))
    covariance = belief.covariance.copy()
    covariance[:many, :many] += np.diag((0.12 * fall.ravel()) ** 2 + 0.008**2)
    for side, name in enumerate(SIDES):
        alike = np.zeros((2, PLACES))
        alike[side] = (
            max((one.spread for one in taken if one.limb == name), default=0.0) * fall[side]
        )
        covariance[:many, :many] += np.outer(alike.ravel(), alike.ravel())
    mean = np.concatenate([(field + fall).ravel(), belief.mean[many:]])
    return replace(belief, mean=mean, covariance=covariance)


@dataclass(frozen=True)
class Sharper:
    """A reading that would tell more: what, and by what share it would narrow the spread of all
    places together.

    Attributes:
        gain: share of the spread it would take away.
    """

    reading: Reading
    gain: float


def would_sharpen(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    now: Estimate,
    candidates: tuple[Reading, ...],
    count: int = 3,
) -> tuple[Sharper, ...]:
    """Which of some readings, not yet taken, would narrow the bands most; the most telling first.

    Each is judged by the sum of the places' variances it would take away, weighted by how much a
    place counts (Gaussian conditioning on one more reading).

    Args:
        limbs: grid of the design.
        bows: hold and string: one bow, or one for each string that was on.
        now: the estimate.
        candidates: readings that could be taken.
        count: how many to name.

    Returns:
        The most telling first, one of a kind and limb.
    """
    few = few_cells(limbs)
    x = now.field.ravel()
    steps = np.concatenate([np.zeros((1, x.size)), _STEP * np.eye(x.size)])
    found = predict(few, bows, candidates, (x + steps).reshape(-1, 2, PLACES), True)
    jacobian = (found.values[1:] - found.values[0]).T / _STEP
    errors = errors_of(candidates, found.values[0], found.slopes)
    counts = np.sqrt(now.weights.ravel())
    total = float((counts**2 * np.diag(now.covariance)).sum())
    seen = jacobian @ now.covariance
    gains = ((seen * counts) ** 2).sum(1) / ((seen * jacobian).sum(1) + errors**2) / total
    best: list[Sharper] = []
    for k in np.argsort(-gains):
        if all(
            b.reading.kind != candidates[k].kind or b.reading.limb != candidates[k].limb
            for b in best
        ):
            best.append(Sharper(candidates[k], float(gains[k])))
        if len(best) == count:
            break
    return tuple(best)
