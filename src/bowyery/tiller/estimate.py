"""How stiff each place of both limbs is, from what was read: a maximum a posteriori estimate with
its spread.

Unknown are the logarithms of bending stiffness against the design's at twelve places of each limb,
straight between them; the natural bend of each limb at six places, which few enter; and how much
longer a slack string, or higher a brace, is than it is taken for. Before any reading the stiffness
is believed to be what rough work and wood make it: both limbs together within about a half, each
limb and each limb's taper within some 8 %, and places within so much of their neighbourhood,
forgotten over a hand's breadth.

Wood is of more than one kind: some limbs are as straight as they were laid out, more have a bend
nobody wrote down; where that was measured, some wood is even and some is not. So the belief is a
mixture of a few normal ones (WOODS, MEASURED), and what is read tells how likely each of them is by
how well it foretold the readings (Gelman et al., Bayesian Data Analysis, 2013, chapters 4 and 22).
The readings of a check are fitted by Gauss and Newton's method with the derivatives of one batched
solve; the spread is that of all kinds together, each weighed by its share. Huber's loss (Robust
Statistics, 1981), smoothed, keeps a reading from pulling far; one more than 3.5 of its errors off
is named, and then left out.

What a check has taught is carried to the next one: where wood came off the mean falls as its
section does with thickness, and the spread grows by what is not known of how much came off.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES, Bow
from bowyery.bow.limb_grid import LimbGrid
from bowyery.bow.thinning import thinning
from bowyery.errors import EstimateError, SolveError
from bowyery.mechanics import statics
from bowyery.tiller.kinds import READINGS, Reading
from bowyery.tiller.readings import Readout, check_readings, errors_of, read

PLACES = 12
CELLS = 32
COMMON_SPREAD = 0.45
LIMB_SPREAD = 0.075
TAPER_SPREAD = 0.08
REACH = 0.12  # over which a place's difference from its limb is forgotten (m)
CROOKS = 6  # places of each limb at which its natural bend is looked for
CROOK = 0.1  # unit in which it is looked for (1/m)
SHARED_CROOK = 0.8  # of its even part's variance that both limbs have alike
CROOK_REACH = 0.15  # over which what wanders of it is forgotten (m)
HAND = 0.08  # wood is seen over so far to either side (m)
WILD = 3.5
APART = 2.5  # deviations from what was believed, of readings that are not believed
SOFT = 1.5
_STEP = 0.03
NINETY = 1.645
SLACK = 0.01  # unit in which a slack string's length, or a brace height, is looked for (m)
FIELD = slice(0, 2 * PLACES)
BEND = slice(2 * PLACES, 2 * PLACES + 2 * CROOKS)
STRING = 2 * PLACES + 2 * CROOKS
UNKNOWN = STRING + 1
LEFT_OUT = 1e-9  # weight of a reading that is left out
TAUT = 0.97  # of the nearest draw that was read: there a slack string was taut already
LONGER = 0.002  # than the bow from nock to nock is a string that hangs (m)


@dataclass(frozen=True)
class Wood:
    """A kind that a limb may be of, and how many in all are.

    Attributes:
        share: of all limbs that are of this kind.
        place: how much places differ from their neighbourhood (log stiffness).
        common: how much both limbs together differ from what was expected (log stiffness).
        even: natural bend that is even along a limb (1/m).
        wanders: and what wanders about that (1/m).
    """

    share: float
    place: float
    even: float
    wanders: float
    common: float = COMMON_SPREAD


# An inch at the tip of a usual limb is an even bend of 0.08 1/m.
WOODS = (Wood(0.3, 0.075, 0.01, 0.01), Wood(0.7, 0.075, 0.1, 0.13))
# Of all bows so many come far too heavy to the tree, or far too light: their share, and how far.
FAR = (0.05, 1.2)
MEASURED = (Wood(0.5, 0.075, 0.003, 0.003), Wood(0.5, 0.12, 0.003, 0.003))


@dataclass(frozen=True)
class Belief:
    """What is believed, as a mixture of normal beliefs.

    Each is of the log stiffness at the places, upper limb's places first (FIELD), the natural bend
    at its places in CROOK (BEND), and how much longer than taken for a slack string is, or higher
    a brace, in SLACK (STRING).

    Attributes:
        shares: how likely each is, ``(kinds,)``, together 1.
        means: ``(kinds, UNKNOWN)``.
        covariances: ``(kinds, UNKNOWN, UNKNOWN)``.
    """

    shares: Floats
    means: Floats
    covariances: Floats

    @cached_property
    def mean(self) -> Floats:
        """Of all together, ``(UNKNOWN,)``."""
        return np.asarray(self.shares @ self.means)

    @cached_property
    def covariance(self) -> Floats:
        """Of all together, ``(UNKNOWN, UNKNOWN)``."""
        off = self.means - self.mean
        own = np.einsum("k,kij->ij", self.shares, self.covariances)
        return np.asarray(own + np.einsum("k,ki,kj->ij", self.shares, off, off))

    def with_string(self, spread: float) -> Belief:
        """The same limbs strung anew: so much is not known of its length, or of the brace (m)."""
        means, covariances = self.means.copy(), self.covariances.copy()
        means[:, STRING] = 0.0
        covariances[:, STRING, :] = covariances[:, :, STRING] = 0.0
        covariances[:, STRING, STRING] = (spread / SLACK) ** 2
        return replace(self, means=means, covariances=covariances)

    def wider(self, spread: float) -> Belief:
        """As if both limbs together might have become so much weaker or stiffer (log)."""
        covariances = self.covariances.copy()
        covariances[:, FIELD, FIELD] += spread**2
        return replace(self, covariances=covariances)


def first_belief(
    limbs: LimbGrid, common: float = 0.0, woods: tuple[Wood, ...] | None = None
) -> Belief:
    """What is believed of a bow before anything has been read.

    Args:
        common: log of how much stiffer than the design the rough bow is expected to be, such as
            from wood left on.
        woods: kinds that it may be of; MEASURED where the profile of its limbs was measured, WOODS
            without.
    """
    woods = WOODS if woods is None else woods
    far = [replace(w, share=FAR[0] * w.share, common=FAR[1]) for w in woods]
    woods = (*(replace(w, share=(1 - FAR[0]) * w.share) for w in woods), *far)
    mean = np.zeros(UNKNOWN)
    mean[FIELD] = common
    covariances = np.stack([_of_wood(limbs, wood) for wood in woods])
    shares = np.array([wood.share for wood in woods])
    return Belief(shares / shares.sum(), np.tile(mean, (len(woods), 1)), covariances)


def _of_wood(limbs: LimbGrid, wood: Wood) -> Floats:
    """Covariance before any reading of limbs of a kind, ``(UNKNOWN, UNKNOWN)``."""
    share = np.linspace(-1.0, 1.0, PLACES)
    total = np.zeros((UNKNOWN, UNKNOWN))
    total[FIELD, FIELD] = wood.common**2
    for side in (0, 1):
        length = float(limbs.length[side, 0])
        part = slice(side * PLACES, (side + 1) * PLACES)
        near = _about_places(np.linspace(0.0, length, PLACES))
        total[part, part] += (
            LIMB_SPREAD**2 + TAPER_SPREAD**2 * np.outer(share, share) + wood.place**2 * near
        )
        at = np.linspace(0.0, length, CROOKS)
        part = slice(BEND.start + side * CROOKS, BEND.start + (side + 1) * CROOKS)
        near = np.exp(-np.abs(at[:, None] - at) / CROOK_REACH)
        total[part, part] = (wood.even**2 + wood.wanders**2 * near) / CROOK**2
    # a stave's bow runs through both limbs
    upper, lower = slice(BEND.start, BEND.start + CROOKS), slice(BEND.start + CROOKS, BEND.stop)
    total[upper, lower] = total[lower, upper] = SHARED_CROOK * wood.even**2 / CROOK**2
    return total


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
        belief: what is believed now, and before the next check.
        predicted: what the fitted bow reads, one per reading.
        wild: indices of readings that do not fit the others.
        foretold: of each reading, what it lay off what was believed before (SI), and one deviation
            of that without the reading's own error, ``(2, readings)``.
        weights: how much each place counts for a limb's stiffness as a whole, ``(2, PLACES)``, each
            limb's sum 1.
    """

    belief: Belief
    predicted: Floats
    wild: tuple[int, ...]
    weights: Floats
    foretold: Floats | None = None

    @cached_property
    def field(self) -> Floats:
        """Log stiffness against the design at the places, ``(2, PLACES)``, from root to nock."""
        return self.belief.mean[FIELD].reshape(2, PLACES)

    @cached_property
    def covariance(self) -> Floats:
        """Of the field, ``(2·PLACES, 2·PLACES)``, upper limb first."""
        return self.belief.covariance[FIELD, FIELD]

    @cached_property
    def crook(self) -> Floats:
        """Natural bend beyond the design's at its places, ``(2, CROOKS)`` (1/m)."""
        return np.asarray(CROOK * self.belief.mean[BEND].reshape(2, CROOKS))

    @property
    def slack(self) -> float:
        """How much longer a slack string, or higher a brace, is than it was taken for (m)."""
        return SLACK * float(self.belief.mean[STRING])

    @property
    def slack_spread(self) -> float:
        """One standard deviation of that (m)."""
        return SLACK * float(np.sqrt(self.belief.covariance[STRING, STRING]))

    def strung(self, bow: Bow) -> Bow:
        """A bow with its string as long, or its brace as high, as that is estimated to be."""
        return _strung(bow, self.slack)

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
        spread: one standard deviation of log stiffness.
        common: log stiffness of both limbs.
        ratio: log of the upper limb's stiffness over the lower's.
    """
    mean, covariance = np.zeros((1, UNKNOWN)), np.zeros((1, UNKNOWN, UNKNOWN))
    mean[0, FIELD] = common + 0.5 * ratio * np.repeat([1.0, -1.0], PLACES)
    covariance[0, FIELD, FIELD] = spread**2 * np.eye(2 * PLACES)
    known = Belief(np.ones(1), mean, covariance)
    return Estimate(known, np.zeros(0), (), place_weights(limbs))


def place_weights(limbs: LimbGrid) -> Floats:
    """How much each place counts for its limb's stiffness as a whole: as it shares in bending,
    ``(2, PLACES)``.

    A limb pulled at its nock bends a place by the square of its distance from the nock over its
    stiffness.
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
    """
    shares = limbs.shares[:, 0]
    return np.stack([between_places(field[..., k, :], shares[k]) for k in (0, 1)], -2)


def stiffness_factors(estimate: Estimate, limbs: LimbGrid) -> Floats:
    """Stiffness against the design at the nodes, ``(2, 1, n+1)`` for LimbGrid.stiffened."""
    return np.exp(at_nodes(estimate.field, limbs))[:, None]


def few_cells(limbs: LimbGrid) -> LimbGrid:
    """The grid with no more cells than fits need."""
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
        fields: log stiffness at the places, ``(B, 2, PLACES)``.
        crooks: natural bend beyond the design's, ``(B, 2, CROOKS)`` (1/m), or None.
    """
    logs = np.moveaxis(at_nodes(fields, limbs), 0, 1)  # (2, B, n+1)
    bent = limbs.stiffened(np.exp(logs))
    if crooks is not None:
        bent = crooked(bent, crooks)
    found = read(bent, bows, readings, slopes, limbs)
    for column, r in enumerate(readings):
        if READINGS[r.kind].size:
            share = np.clip((r.at or 0.0) / float(limbs.length[r.side, 0]), 0.0, 1.0) * (PLACES - 1)
            low = min(int(share), PLACES - 2)
            here = fields[:, r.side, low : low + 2] @ np.array([1 - (share - low), share - low])
            found.values[:, column] *= np.exp(here / 3 if r.kind == "thickness" else here)
    return found


@dataclass(frozen=True)
class _Fitted:
    """The readings about one state.

    Attributes:
        values: what it reads, ``(readings,)``.
        slopes: of weights by draw (N/m).
        jacobian: of the values by what is unknown, ``(readings, UNKNOWN)``.
    """

    values: Floats
    slopes: Floats
    jacobian: Floats


def _about(
    few: LimbGrid, bows: Bow | Mapping[str, Bow], readings: tuple[Reading, ...], x: Floats
) -> _Fitted:
    """What bows about a state read, with the derivatives by what is unknown."""
    steps = np.concatenate([np.zeros((1, STRING)), _STEP * np.eye(STRING)])
    tried = x[:STRING] + steps
    fields, crooks = tried[:, FIELD].reshape(-1, 2, PLACES), _crooks(tried)
    found = predict(few, _lengthened(bows, x[STRING]), readings, fields, True, crooks)
    values, jacobian = found.values[0], np.zeros((len(readings), UNKNOWN))
    jacobian[:, :STRING] = (found.values[1:] - values).T / _STEP
    step = 0.1
    longer = _lengthened(bows, x[STRING] + step)
    there = predict(few, longer, readings, fields[:1], False, crooks[:1]).values[0]
    jacobian[:, STRING] = (there - values) / step
    return _Fitted(values, found.slopes, jacobian)


def _solvable(
    few: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    x: Floats,
    last: Floats,
) -> tuple[Floats, _Fitted]:
    """A state, and the readings about it; nearer to the last one that stood where the bow could not
    be braced or drawn so.
    """
    for _ in range(6):
        try:
            return x, _about(few, bows, readings, x)
        except SolveError:
            x = last + 0.4 * (x - last)
    return x, _about(few, bows, readings, x)


def _crooks(x: Floats) -> Floats:
    return CROOK * x[:, BEND].reshape(-1, 2, CROOKS)


def _lengthened(bows: Bow | Mapping[str, Bow], more: float) -> Bow | dict[str, Bow]:
    """The same bows, slack strings so much longer and braces so much higher (in SLACK)."""
    if isinstance(bows, Bow):
        return _strung(bows, SLACK * more)
    return {key: _strung(bow, SLACK * more) for key, bow in bows.items()}


def _strung(bow: Bow, more: float) -> Bow:
    """A bow whose string is longer, or whose brace is higher (m)."""
    if bow.string_length is not None:
        return replace(bow, string_length=bow.string_length + more)
    return replace(bow, brace_height=None if bow.brace_height is None else bow.brace_height + more)


def _no_longer(
    few: LimbGrid, bows: Bow | Mapping[str, Bow], readings: tuple[Reading, ...], x: Floats
) -> Floats:
    """The state with slack strings no longer than they can be: each was taut at the nearest draw
    that anything was read at, and is longer than the bow from nock to nock.
    """
    each = [bows] if isinstance(bows, Bow) else list(bows.values())
    if all(bow.string_length is None for bow in each):
        return x.copy()
    limbs = crooked(few, _crooks(x[None]))
    tips = statics.unbent_nocks(limbs)[:, 0]
    x = x.copy()
    for key in sorted({r.string for r in readings}):
        bow = bows if isinstance(bows, Bow) else bows[key]
        draws = [d for r in readings if r.string == key for d in r.draws if d is not None]
        if bow.string_length is None or not draws:
            continue
        px, py = bow.hold.pivot
        taut = complex(px + bow.hold.nock_offset, py + TAUT * min(draws))
        least = float(abs(tips[0] - tips[1])) + LONGER
        most = max(least, float(np.abs(tips - taut).sum()))
        if bow.string_length + SLACK * x[STRING] > least - LONGER:
            x[STRING] = float(np.clip(x[STRING] * SLACK + bow.string_length, least, most))
            x[STRING] = (x[STRING] - bow.string_length) / SLACK
    return x


def estimate(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    belief: Belief | None = None,
) -> Estimate:
    """Fit the limbs' stiffness to the readings of one check.

    Args:
        bows: hold and string as they were on the tree: one bow, or one for each string that was on.
        belief: from the checks before, or None at the first.

    Raises:
        EstimateError: no readings, or readings that cannot be used.
        SolveError: the bow cannot be braced or drawn as the readings say.
    """
    check_readings(readings)
    few = few_cells(limbs)
    start = belief or first_belief(few)
    measured = np.array([r.at_once for r in readings])
    x = _no_longer(few, bows, readings, start.mean)
    is_weight = np.array([r.kind == "weight" for r in readings])
    out = np.zeros(measured.size, bool)  # readings that are left out, because they fit no others
    last = x
    for turn in range(14):
        x, about = _solvable(few, bows, readings, x, last)
        last = x.copy()
        values, slopes, jacobian = about.values, about.slopes, about.jacobian
        if turn == 0 and is_weight.any():
            # forces go with stiffness: start near the right size
            ahead = float(
                np.median(np.log(np.maximum(measured, 1e-9) / np.maximum(values, 1e-9))[is_weight])
            )
            ahead = float(np.clip(ahead, -1.5, 1.5))
            scale = np.where(is_weight, np.exp(ahead), 1.0)
            x[FIELD] += ahead
            values, slopes, jacobian = values * scale, slopes * scale, jacobian * scale[:, None]
        errors = errors_of(readings, values, slopes)
        off = (measured - values) / errors
        # weights of the smoothed Huber loss
        loose = np.where(out, LEFT_OUT, 1.0 / np.sqrt(1 + (off / SOFT) ** 2))
        seen = measured - values + jacobian @ x
        found = _told(start, jacobian, seen, errors, loose)
        move = found.mean - x
        move *= min(1.0, 0.5 / max(float(np.abs(move[:STRING]).max()), 1e-12))
        before, x = x, _no_longer(few, bows, readings, x + move)
        values = values + jacobian @ (x - before)
        if np.abs(move).max() < 0.012:
            beyond = np.abs((measured - values) / errors) > WILD
            if out.any() or not beyond.any() or beyond.sum() > measured.size / 3:
                break
            out = beyond
    off = (measured - values) / errors
    wild = tuple(int(i) for i in np.flatnonzero(np.abs(off) > WILD))
    own = np.sqrt(np.einsum("ri,ij,rj->r", jacobian, start.covariance, jacobian))
    foretold = np.stack([seen - jacobian @ start.mean, own])
    return Estimate(found, values, wild, place_weights(few), foretold)


def unmoved(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    readings: tuple[Reading, ...],
    belief: Belief,
) -> Estimate:
    """What was believed, where a check's readings are not: they are named that lie further from it
    than it and their errors allow.

    Raises:
        SolveError: the bow as believed cannot be braced or drawn as the readings say.
    """
    few = few_cells(limbs)
    about = _about(few, bows, readings, _no_longer(few, bows, readings, belief.mean))
    own = np.einsum("ri,ij,rj->r", about.jacobian, belief.covariance, about.jacobian)
    spread = np.sqrt(own + errors_of(readings, about.values, about.slopes) ** 2)
    off = (np.array([r.at_once for r in readings]) - about.values) / spread
    wild = tuple(int(k) for k in np.flatnonzero(np.abs(off) > APART))
    return Estimate(belief, about.values, wild, place_weights(few))


def _told(before: Belief, jacobian: Floats, seen: Floats, errors: Floats, loose: Floats) -> Belief:
    """What is believed after readings that go straight with what is unknown: each kind on its own,
    and how likely each is by how well it foretold those readings that are not left out.

    Args:
        jacobian: ``(readings, UNKNOWN)``.
        seen: ``(readings,)``; readings are ``jacobian @ x`` and an error.
        errors: one deviation, ``(readings,)``.
        loose: how much each reading counts, ``(readings,)``; LEFT_OUT where it is left out.
    """
    crossed = jacobian @ before.covariances  # (kinds, readings, UNKNOWN)
    own = crossed @ jacobian.T
    spread = own + np.diag(errors**2 / loose)
    off = seen - before.means @ jacobian.T
    gain = np.linalg.solve(spread, crossed)
    means = before.means + np.einsum("krn,kr->kn", gain, off)
    covariances = before.covariances - np.swapaxes(crossed, 1, 2) @ gain
    covariances = 0.5 * (covariances + np.swapaxes(covariances, 1, 2))
    plain = own + np.diag(np.where(loose > LEFT_OUT, errors**2, errors**2 / LEFT_OUT))
    fits = np.einsum("kr,kr->k", off, np.linalg.solve(plain, off[..., None])[..., 0])
    logs = np.log(np.maximum(before.shares, 1e-12)) - 0.5 * (fits + np.linalg.slogdet(plain)[1])
    shares = np.exp(logs - logs.max())
    return Belief(shares / shares.sum(), means, covariances)


@dataclass(frozen=True)
class Taken:
    """Wood taken off a limb evenly between two places from its root (m), feathered out beyond them.

    Attributes:
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


# What is not known of what limbs keep of being bent, one deviation: alike in both, and from place
# to place, as shares of it, and of what nobody foretells (1/m).
KEPT_ALIKE, KEPT_HERE, KEPT_BESIDE = 0.45, 0.3, 0.004
# How much all of a bow may have changed between two looks by use, set and the shop's air, one
# deviation (log stiffness): what was read long ago weighs less than what was read today.
CHANGES = 0.02
MOST_FALL = -4.8  # of log stiffness in one pass: no wood is left
FEATHER = 0.05  # a removal runs out over about so far (m)
ADJOINS = 0.013  # stretches whose ends lie nearer than this adjoin (m)


def taken_field(limbs: LimbGrid, taken: tuple[Taken, ...]) -> Floats:
    """Thickness taken at the places, ``(2, PLACES)`` (m)."""
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
        # where another stretch adjoins, one runs out as the other runs in
        ends = [(o.start or 0.0, length if o.end is None else o.end) for o in taken
                if o is not one and o.limb == one.limb and o.shaded is None]  # fmt: skip
        into = 0.5 * FEATHER * any(abs(e - start) < ADJOINS for _, e in ends)
        beyond = 0.5 * FEATHER * any(abs(s - end) < ADJOINS for s, _ in ends)
        low = np.clip((at - start - into) / FEATHER + 1, 0.0, 1.0) if start > 0 else np.ones(PLACES)
        high = np.clip((end - beyond - at) / FEATHER + 1, 0.0, 1.0)
        field[side] += one.thickness * np.minimum(low, high)
    return field


def carried(
    limbs: LimbGrid,
    bow: Bow,
    belief: Belief,
    taken: tuple[Taken, ...],
    kept: Floats | None = None,
) -> Belief:
    """What is believed after wood has come off.

    The mean falls as the section does with its thickness; what is not known of how much came off
    where adds to the spread, partly alike over a limb (the tool's bite) and partly place by place,
    and the wood's memory a little more. The natural bend may have grown by what the limbs kept of
    being pulled.

    Args:
        kept: curvature they have kept of being bent further than before, ``(2, CROOKS)`` (1/m).
    """
    law = thinning(bow, limbs, np.linspace(0.0, 1.0, PLACES))
    off = taken_field(limbs, taken)
    means, covariances = belief.means.copy(), belief.covariances.copy()
    covariances[:, FIELD, FIELD] += CHANGES**2
    if kept is not None:
        more = kept.ravel()
        means[:, BEND] += more / CROOK
        unsure = KEPT_ALIKE**2 * np.outer(more, more)
        unsure += np.diag((KEPT_HERE * more) ** 2 + KEPT_BESIDE**2 * (more > 0))
        covariances[:, BEND, BEND] += unsure / CROOK**2
    for k, mean in enumerate(belief.means):
        fall = np.maximum(law.fall(mean[FIELD].reshape(2, PLACES), off), MOST_FALL)
        means[k, FIELD] += fall.ravel()
        covariances[k, FIELD, FIELD] += np.diag((0.12 * fall.ravel()) ** 2 + 0.008**2)
        for side, name in enumerate(SIDES):
            alike = np.zeros((2, PLACES))
            alike[side] = (
                max((one.spread for one in taken if one.limb == name), default=0.0) * fall[side]
            )
            covariances[k, FIELD, FIELD] += np.outer(alike.ravel(), alike.ravel())
    return replace(belief, means=means, covariances=covariances)


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

    Returns:
        The most telling first, one of a kind and limb.
    """
    few = few_cells(limbs)
    about = _about(few, bows, candidates, now.belief.mean)
    errors = errors_of(candidates, about.values, about.slopes)
    counts = np.sqrt(now.weights.ravel())
    total = float((counts**2 * np.diag(now.covariance)).sum())
    seen = about.jacobian @ now.belief.covariance
    told = ((seen[:, FIELD] * counts) ** 2).sum(1)
    gains = told / ((seen * about.jacobian).sum(1) + errors**2) / total
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


def to_ask(
    limbs: LimbGrid,
    bows: Bow | Mapping[str, Bow],
    now: Estimate,
    candidates: tuple[Reading, ...],
    each: int,
    counts: Floats,
    first: int = 0,
) -> tuple[Reading, ...]:
    """Which of some readings would tell most together, one after another: each is chosen as if
    those before it had been taken.

    Args:
        each: how many of a limb at the most.
        counts: how much each place counts, ``(2, PLACES)``.
        first: so many of them are taken anyhow, the first ones.

    Returns:
        By limb, from root to nock.
    """
    about = _about(few_cells(limbs), bows, candidates, now.belief.mean)
    errors = errors_of(candidates, about.values, about.slopes)
    covariance = now.belief.covariance.copy()
    weights = np.sqrt(counts.ravel())
    chosen: list[int] = []
    left = dict.fromkeys(SIDES, each)
    while any(left.values()):
        seen = about.jacobian @ covariance
        own = (seen * about.jacobian).sum(1) + errors**2
        gains = ((seen[:, FIELD] * weights) ** 2).sum(1) / own
        open_ = [
            k for k, r in enumerate(candidates) if k not in chosen and r.limb and left[r.limb] > 0
        ]
        if not open_:
            break
        best = len(chosen) if len(chosen) < first else max(open_, key=lambda k: gains[k])
        chosen.append(best)
        left[candidates[best].limb or SIDES[0]] -= 1
        covariance -= np.outer(seen[best], seen[best]) / own[best]
    return tuple(sorted((candidates[k] for k in chosen), key=lambda r: (r.side, r.at or 0.0)))
