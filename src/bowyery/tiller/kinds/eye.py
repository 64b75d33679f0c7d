"""What a limb looks like: a stretch stiff, weak, a hinge or good; a limb that bends less."""

from __future__ import annotations

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import UnreadableError
from bowyery.tiller.kinds.kind import Asked, Help, Reading, ReadingKind, Scene, always
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import Units

# What is seen by eye, as the log of how much more a stretch bends than the whole of both limbs
# should make it, and one deviation. A maker notices about a sixth, so that a stretch that was
# called stiff is so by a fifth or a quarter in the mean; how natural bend fools the eye is counted
# in by the prediction. A block with a pencil in it, slid along, is not fooled by the wall behind.
EYE: dict[str, tuple[float, float]] = {
    "stiff": (-0.22, 0.10),
    "weak": (0.22, 0.10),
    "hinge": (0.38, 0.15),
    "good": (0.0, 0.09),
    "block": (-0.18, 0.07),
}
EYE_LIMB: dict[str, tuple[float, float]] = {"less": (-0.15, 0.08), "more": (0.15, 0.08)}
EYE_REACH = 0.05  # a place that is pointed at stands for so much to both sides (m)
BENT_ENOUGH = 0.4  # below so much bend natural bend is all that an eye can see (1/m)
TOO_WEAK, TOO_STIFF = ("weak", "hinge"), ("stiff", "block")


def _looks(scene: Scene) -> tuple[Floats, Floats]:
    """How much more than wanted each node seems to bend (log), and how much each counts for its
    limb, ``(2, B, n+1)``.
    """
    limbs = scene.limbs
    shares = limbs.shares
    counts = np.broadcast_to((1 - shares) ** 2 + 0.02, limbs.node_stiffness.shape)
    if scene.design is None:
        return np.zeros_like(limbs.node_stiffness), counts
    bends = -np.log(limbs.node_stiffness / scene.design.node_stiffness)
    natural = limbs.curvature - scene.design.curvature
    natural = np.concatenate(
        [natural[..., :1], 0.5 * (natural[..., 1:] + natural[..., :-1]), natural[..., -1:]], -1
    )
    deepest = max(scene.bent, key=lambda d: -1.0 if d is None else d)
    bent = np.maximum(np.abs(scene.bent[deepest].bend), BENT_ENOUGH)
    return bends + np.clip(natural / bent, -0.7, 0.7), counts


def _mean(values: Floats, counts: Floats) -> Floats:
    return np.asarray((values * counts).sum(-1) / counts.sum(-1))


def _looked(scene: Scene, r: Reading) -> Floats:
    looks, counts = _looks(scene)
    half = 0.5 * (r.span or 2 * EYE_REACH)
    places = scene.limbs.places()[r.side]
    near = np.maximum(0.0, half - np.abs(places - (r.at or 0.0))) ** 0.25 + 1e-6
    there = _mean(looks[r.side], near)
    return np.asarray(there - 0.5 * (_mean(looks[0], counts[0]) + _mean(looks[1], counts[1])))


def _limb_looked(scene: Scene, r: Reading) -> Floats:
    looks, counts = _looks(scene)
    whole = [_mean(looks[k], counts[k]) for k in (0, 1)]
    return np.asarray(whole[r.side] - whole[1 - r.side])


def _eye(c: Context) -> tuple[Statement, ...]:
    limb, how = c.limb(), c.text("how") or ""
    start, end = c.place("start", limb), c.place("end", limb)
    if start is None:
        start = end = c.place("place", limb)
    if start is None or end is None:
        raise UnreadableError(f"“{c.part}” does not say where; give places from the centre.")
    if start == end:
        start, end = max(0.0, start - EYE_REACH), start + EYE_REACH
    start, end = min(start, end), max(start, end)
    return (Statement("eye", c.part, EYE[how][0], limb, None, start, end, how=how),)


def _say_eye(s: Statement, tree: Tree, shown: Units) -> str:
    start, end = s.start or 0.0, s.end or 0.0
    ends = f"{shown.bare_length(start)} to {shown.length(end)}"
    if end - start < 2.01 * EYE_REACH:
        ends = f"about {shown.length(0.5 * (start + end))}"
    what = {
        "stiff": "looks stiff", "weak": "looks weak", "hinge": "looks like a hinge",
        "good": "bends well", "block": "is marked stiff by the block",
    }[s.how]  # fmt: skip
    return f"the {s.limb} limb {what}, {ends} from the centre"


def _eye_limb(c: Context) -> tuple[Statement, ...]:
    how = "less" if c.text("way") == "less" else "more"
    return (Statement("eye limb", c.part, EYE_LIMB[how][0], c.limb(), how=how),)


def _say_eye_limb(s: Statement, tree: Tree, shown: Units) -> str:
    return f"the {s.limb} limb looks as if it bends {s.how}"


_HOW = f"(?P<how>{'|'.join(EYE)})"
_PLACES = (r" {start}\s*(?:to|–|-) {end}", " from {start} to {end}", "[ at] {place}")
STRETCH = ReadingKind(
    name="eye",
    build=_eye,
    say=_say_eye,
    forms=tuple(f"{_HOW} {{limb}}{where}" for where in _PLACES)
    + tuple(f"{{limb}} {_HOW}{where}" for where in _PLACES),
    helps=(
        Help("it looks stiff there", "stiff lower 10 to 14", "stiff lower 250 to 360", "stiff"),
        Help("it looks weak there", "weak upper 14 to 18", "weak upper 360 to 450", "weak"),
        Help("it bends in one place", "hinge upper 16", "hinge upper 400", "hinge"),
        Help("it bends well there", "good upper 8 to 20", "good upper 200 to 500", "good"),
        Help("the pencil block marks it stiff", "block upper 8 to 12", "block upper 200 to 300",
             "block"),
    ),
    asked=(
        Asked("block", "{limb}, marked stiff by the pencil block", "block {limb}",
              hints=("8 to 12, 20 to 24", "200 to 300, 500 to 600"), run=True),
    ),
    predict=_looked,
    error=always(0.15),
    needs=frozenset({"at"}),
    on_place=True,
    seen=True,
)  # fmt: skip
LIMB = ReadingKind(
    name="eye limb",
    build=_eye_limb,
    say=_say_eye_limb,
    forms=("{limb}(?: limb)? bends (?P<way>less|more)",),
    helps=(
        Help("one limb bends less than the other, by eye", "lower bends less", "lower bends less",
             "bends"),
    ),
    predict=_limb_looked,
    error=always(0.1),
    seen=True,
)  # fmt: skip
ROWS = (STRETCH, LIMB)
