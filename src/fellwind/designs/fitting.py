"""Where a bow may lie in a stave: every placement scored, and said in sentences."""

from dataclasses import dataclass, replace

import numpy as np

from bowyery.design.outline import outline_of
from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.making.culm import Place, Slats, node_places, slats
from bowyery.units.quantity import Units
from bowyery.wood import stave as core
from bowyery.wood.placement import Fit, Outline, Placement, advice_when_none, place
from fellwind.designs.models import Design
from fellwind.designs.services import present, try_solution
from fellwind.drawing.culm import node_picture
from fellwind.drawing.stave import fit_strip, placement_picture
from fellwind.kit.cache import computed
from fellwind.rack.models import Stave
from fellwind.rack.services import core_stave, standing_flaws, staves

TURN_OVER = ("board", "lamination", "glass")
BUILT_UP = (*TURN_OVER, "bamboo slat")  # flat stock, on which the handle is a block glued on


def fitted(stave: Stave, found: Solution) -> tuple[core.Stave, Outline, Fit]:
    """Every placement of a solved design in a stave; raises BowyeryError."""
    wood, outline = core_stave(stave), outline_of(found)
    either = stave.kind in TURN_OVER
    if stave.kind in BUILT_UP:
        limbs = max(float(limb.thickness.max()) for limb in found.bow.limbs)
        outline = replace(outline, depth=np.minimum(outline.depth, limbs))
    fit = computed("fit", (wood, outline, either), lambda: place(wood, outline, either))
    return wood, outline, fit


# Less than this is within what a bench measures, or what finishing takes out.
TELLING_TWIST, TELLING_UNEVEN, TELLING_WAVE = np.radians(2.5), 0.006, 0.0045
FATES = {
    "off the ends": "falls off the end of the bow",
    "off the edge": "is sawn away with the edge",
    "in the handle": "lies in the handle, where hardly anything bends",
    "at the tip": "lies near the tip, which bends little",
    "in the limb": "lies in the limb",
    "on the edge": "is cut by the limb's edge",
}


def reasons(stave: Stave, placed: Placement, shown: Units) -> list[str]:
    """Why a placement is as good as it is, in sentences."""
    flaws = standing_flaws(stave)
    said = []
    for fate in sorted(placed.fates, key=lambda f: -f.cost):
        flaw = flaws[fate.flaw]
        if fate.fate not in ("in the limb", "on the edge"):
            said.append(f"Flaw {fate.flaw + 1}, the {flaw.kind}, {FATES[fate.fate]}.")
            continue
        limb = "upper" if fate.from_middle > 0 else "lower"
        text = (
            f"Flaw {fate.flaw + 1}, the {flaw.kind}, {FATES[fate.fate]}: {limb} limb,"
            f" {shown.length(abs(fate.from_middle))} from the middle, on the {fate.face}, where the"
            f" wood is bent to {fate.use * 100:.0f} % of what it bears."
        )
        kind = core.FLAWS[flaw.kind]
        if fate.cost > 0.25:
            text += f" {kind.mend.capitalize()}."
        if kind.leave_wood and fate.room < flaw.width / 2:
            text += f" There is only {shown.length(fate.room)} to spare beside it."
        said.append(text)
    if placed.narrow > 0.0005:
        said.append(
            f"The stave is {shown.length(placed.narrow)} too narrow on a side at its worst place."
        )
    if placed.thin > 0.0005:
        said.append(f"It is {shown.length(placed.thin)} too thin at its worst place.")
    if placed.crown > 0.3:
        said.append(
            "Its back is high-crowned: the middle of the back takes most of the stretch. A narrower"
            " bow suits it."
        )
    if placed.grain > 0.6:
        said.append(
            "The grain drifts off the limb's edge before it reaches the tip; such a back lifts."
            " Back it, or take another board."
        )
    if placed.sapwood > 0.3:
        said.append(
            "The sapwood is more than half of the limb in places; take it down to an even share of"
            " the depth."
        )
    if abs(placed.twist) > TELLING_TWIST:
        said.append(
            f"The wood twists {abs(np.degrees(placed.twist)):.0f}° from nock to nock: straighten it"
            " by heat on a form before the tiller, a little too far, and let it rest."
        )
    if abs(placed.uneven) > TELLING_UNEVEN:
        limb, other = ("upper", "lower") if placed.uneven > 0 else ("lower", "upper")
        said.append(
            f"By nature the {limb} limb's tip comes {shown.length(abs(placed.uneven))} nearer the"
            f" belly than the {other} one's: make them alike by heat, or judge the tiller by the"
            " bend and not by the shape."
        )
    if placed.wave > TELLING_WAVE:
        said.append(
            f"Dips and humps stray {shown.length(placed.wave)} from an even curve within a limb:"
            " follow them on the belly, so that the thickness runs evenly, and judge the tiller by"
            " the bend."
        )
    return said or ["Nothing lies in its way."]


INSTEAD = {
    "shorter": "a shorter bow, which has more places to lie",
    "other stave": "another stave",
    "narrower": "a narrower bow",
    "thinner": "a thinner bow or handle",
    "gentler": "a bow that works the wood less: longer, wider or lighter",
}


def instead(stave: core.Stave, outline: Outline, fit: Fit | None) -> str:
    """What to change when no placement is a sound one."""
    return (
        "What would help: "
        + ", or ".join(INSTEAD[k] for k in advice_when_none(stave, outline, fit))
        + "."
    )


def advice_of(stave: Stave, found: Solution) -> str:
    """What would help where the bow cannot even be laid on the stave."""
    try:
        wood = core_stave(stave)
    except BowyeryError:
        return ""
    outline = outline_of(found)
    low, high = wood.usable
    return instead(wood, outline, None) if high - low < outline.length else ""


def is_built_up(stave: Stave) -> bool:
    """Whether the handle of a bow from this stock is a block glued on."""
    return stave.kind in BUILT_UP


@dataclass(frozen=True)
class Laid:
    """A placement as it is shown: where it ends on the stave (m), its turn (degrees), and why."""

    placed: Placement
    end: float
    turn: float
    picture: str
    reasons: list[str]


@dataclass(frozen=True)
class Answer:
    """What laying a design into a stave comes to."""

    trouble: str = ""
    rows: tuple[Laid, ...] = ()
    strip: str = ""
    sound: bool = False
    instead: str = ""


def laid(stave: Stave, design: Design, shown: Units) -> Answer:
    """Lay a design into a stave at its best places."""
    found, trouble = try_solution(design)
    if found is None:
        return Answer(trouble)
    try:
        wood, outline, answer = fitted(stave, found)
    except BowyeryError as error:
        return Answer(f"{getattr(error, 'reason', error)} {advice_of(stave, found)}")
    rows = tuple(
        Laid(
            one,
            one.start + outline.length,
            float(np.degrees(one.turn)),
            placement_picture(wood, outline, one, shown),
            reasons(stave, one, shown),
        )
        for one in answer.best
    )
    help_ = "" if answer.sound else instead(wood, outline, answer)
    return Answer("", rows, fit_strip(wood, answer, shown), answer.sound, help_)


@dataclass(frozen=True)
class NodeRow:
    """A place of a bow along a slat, drawn."""

    place: Place
    picture: str


@dataclass(frozen=True)
class Culm:
    """What a culm or slat gives for a design.

    Attributes:
        width: of the slat (m).
        slats: how many and how thick, where the culm's wall is known.
        needed: thickness that the design asks of a slat at its thickest (m), or 0.
        rows: where the bow may lie for them.
    """

    width: float
    slats: Slats | None = None
    needed: float = 0.0
    nodes: int = 0
    rows: tuple[NodeRow, ...] = ()
    trouble: str = ""

    @property
    def thin(self) -> bool:
        """Whether a slat planed flat is thinner at its edge than the design wants it."""
        return self.slats is not None and self.slats.edge < self.needed


def culm(stave: Stave, design: Design, shown: Units) -> Culm | None:
    """The slats of a culm for a design, and its nodes; nothing of other stock."""
    if "bamboo" not in stave.kind:
        return None
    found, _ = try_solution(design)
    if found is None:
        return None
    width = max(float(limb.width.max()) for limb in found.bow.limbs)
    bamboo = [
        one.root
        for one in (*found.layout.back, *found.layout.belly)
        if "bamboo" in one.material.name
    ]
    gives, said = None, []
    if stave.kind == "bamboo culm" and stave.wall and stave.width:
        try:
            gives = slats(stave.width, stave.wall, width)
        except BowyeryError as error:
            said.append(getattr(error, "reason", str(error)))
    elif stave.kind == "bamboo culm":
        said.append("Give the culm's wall and its width, and the slats it gives are worked out.")
    rows: tuple[NodeRow, ...] = ()
    nodes: list[float] = []
    try:
        low, high = core_stave(stave).usable
        nodes = [
            f.at - low for f in standing_flaws(stave) if f.kind == "node" and low <= f.at <= high
        ]
        bow, fade = design.length, abs(found.bow.upper.root[0])
        rows = tuple(
            NodeRow(one, node_picture(one, high - low, bow, fade, shown))
            for one in node_places(high - low, nodes, bow, fade)
        )
    except BowyeryError as error:
        said.append(getattr(error, "reason", str(error)))
    return Culm(width, gives, max(bamboo, default=0.0), len(nodes), rows, " ".join(said))


@dataclass(frozen=True)
class StaveScore:
    """A stave with its best score for a design, or why it has none; whether it is of the same
    wood.
    """

    stave: Stave
    score: float | None
    same: bool = False
    trouble: str = ""


def staves_for(design: Design) -> tuple[list[StaveScore], str]:
    """Which staves will make a bow, best first; and why none can be asked."""
    found, trouble = try_solution(design)
    rows = []
    if found is None:
        return [], trouble
    for stave in staves()[:60]:
        try:
            _, _, answer = fitted(stave, found)
        except BowyeryError as error:
            rows.append(StaveScore(stave, None, trouble=getattr(error, "reason", str(error))))
        else:
            same = stave.material == design.material
            rows.append(StaveScore(stave, answer.best[0].score, same))
    return sorted(rows, key=lambda row: -(row.score or -1)), trouble


@dataclass(frozen=True)
class DesignScore:
    """A design with its best score in a stave."""

    design: Design
    score: float


def designs_for(stave: Stave, most: int = 3) -> list[DesignScore]:
    """The designs of its wood that have a sound place in a stave, best first."""
    rows = []
    for design in present().filter(material=stave.material)[:20]:
        found, _ = try_solution(design)
        if found is None:
            continue
        try:
            _, _, answer = fitted(stave, found)
        except BowyeryError:
            continue
        if answer.sound:
            rows.append(DesignScore(design, answer.best[0].score))
    return sorted(rows, key=lambda row: -row.score)[:most]
