"""What the design room says of a bow in words: verdicts, risks, layout families, and the lay-out
step by step.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from bowyery.bow.bow import SIDES
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import Layout, Mark
from bowyery.bow.section import FLAT_OVAL
from bowyery.design.figures import FIGURES, asked, figures_of
from bowyery.design.risks import ABRUPT_FADE, LATERAL_RULE, risks
from bowyery.design.solution import Solution
from bowyery.design.usual import Kind
from bowyery.design.verdict import CONDEMNED, MEND, Verdict, worst
from bowyery.errors import DescriptionError, UnreadableError
from bowyery.mechanics.strain import SetForecast, surface_strain
from bowyery.units.draw_ruler import PIVOT, REACH_SCATTER, TOLD_BY, draw_by_reach
from bowyery.units.quantity import INCH, LENGTH, POUND_FORCE, Units
from bowyery.wood.materials import Material, at_moisture
from bowyery.wood.stave import run_out
from fellwind.designs.models import Design
from fellwind.designs.ports import FinishedBow
from fellwind.drawing.drafting import kind_picture
from fellwind.kit.pages import number_in
from fellwind.rack.models import Stave
from fellwind.rack.services import seasoning_now
from fellwind.shop.book import material
from fellwind.shop.models import Archer
from fellwind.shop.services import USUAL_HANDLE_DEPTH

_HARDLY = 0.0015  # of follow that anybody would tell (m)


def follow_words(told: SetForecast, shown: Units) -> tuple[str, str]:
    """String follow expected, in words, and its range; reflex that is left is said so."""
    if max(abs(told.low), abs(told.high)) < _HARDLY:
        return "none to speak of", ""
    left = f"{shown.length(max(0.0, -told.follow))} of reflex left"
    middle = left if told.follow < -_HARDLY else shown.length(max(0.0, told.follow))
    low, high = shown.length(abs(told.low)), shown.length(abs(told.high))
    if told.high <= 0:
        return middle, f"{high} to {low}"
    return middle, f"{low} {'of reflex left ' if told.low < -_HARDLY else ''}to {high}"


def reflex_words(told: SetForecast, heated: bool, shown: Units) -> str:
    """What becomes of the reflex a bow is made with, apart from the set that bending leaves."""
    made = max(0.0, -told.made)
    if made < _HARDLY:
        return ""
    what = (
        f"Of {shown.length(made)} of reflex {shown.length(min(made, told.taken))} goes by bending"
    )
    if told.lost < _HARDLY:
        return f"{what}."
    way = "as heat lets go" if heated else "as the glue settles"
    return f"{what}, {shown.length(told.lost)} {way}."


def lets_go(names: Sequence[str]) -> str:
    """Why changes to a marked bow are not kept without a word."""
    told = [FIGURES[name].label.lower() if name in FIGURES else name for name in names]
    told = [one for one in dict.fromkeys(told) if one]
    return (
        "The marks of this bow were set by hand, measured, or came with a file. Its"
        f" {', '.join(told) or 'outline'} cannot change without solving them anew: its own marks"
        " and layers would be gone. Solve them, or take that back."
    )


def usual(kind: Kind, own: Sequence[FinishedBow], shown: Units) -> str:
    """What bows of a kind are known for, here too."""
    read = sorted(one.follow for one in own if one.follow is not None)
    if not read:
        return kind.words(shown)
    low, high = shown.length(max(0.0, read[0])), shown.length(max(0.0, read[-1]))
    ends = low if low == high else f"{low} to {high}"
    many = "Yours" if len(read) == 1 else f"Your {len(read)}"
    return f"{kind.words(shown)} {many} followed {ends}."


def warnings(found: Solution, design: Design, shown: Units, said: Verdict) -> list[str]:
    """What may go wrong with a solved design, with what would mend it."""
    wood, told = found.wood, list[str]()
    if said in CONDEMNED:
        told.append(f"{worst(said, found.uses)} {MEND}")
    if design.figures.solve_for == "nothing" and abs(found.weight / design.weight - 1) > 0.03:
        word = "less" if found.weight < design.weight else "more"
        told.append(
            f"This stock pulls {shown.fine_weight(found.weight)}, {word} than the"
            f" {shown.weight(design.weight)} that is wanted. Solve for the length below, or take"
            " other stock."
        )
    creeps = wood.creep_strain
    standing = float(surface_strain(found.curve.shapes)[:, 0].max())
    if creeps is not None and standing > creeps:
        told.append(
            f"Strung, its surface stands at {standing * 100:.2f} %; {wood.name} creeps on above"
            f" {creeps * 100:.2f} %. Unstring it after every round, or brace it lower."
        )
    if wood.greenness > 0.1:
        told.append(_green(design, wood))
    if found.shared is not None:
        told += _tied(found, shown)
    if wood.estimate:
        told.append(
            f"Published tests of {wood.name} are few; its figures are set between relatives. Test"
            " the stave and enter its own modulus."
        )
    if found.curve.stack > 1.35:
        told.append(
            f"The last inches stack: weight rises {found.curve.stack:.1f} times as fast there as on"
            " the whole. A longer bow or a little reflex draws more softly."
        )
    return [*told, *_secondary(found, design, shown)]


def _tied(found: Solution, shown: Units) -> list[str]:
    """What a back-bow and its cable may suffer."""
    shared, wood = found.shared, found.wood
    assert shared is not None
    said = []
    bent = float(shared.strain[1, -1])
    if bent > wood.working_strain:
        said.append(
            f"The back-bow's own surface is strained {bent * 100:.2f} %, more than the"
            f" {wood.working_strain * 100:.2f} % it lasts at. Make it thinner or longer."
        )
    if float(shared.share[-1]) < 0.1:
        said.append(
            f"The back-bow carries only {shared.share[-1] * 100:.0f} % of the bending at the grip:"
            " the main bow is nearly alone and may break at its middle. Tighten the cable, or"
            " thicken the back-bow."
        )
    return said


def _secondary(found: Solution, design: Design, shown: Units) -> list[str]:
    """Sideways turning, abrupt fades, heavy tips, running grain and moisture, in words."""
    layout, said = found.layout, []
    risk = risks(found.bow, found.curve.limbs, layout.fade, layout.handle_depth)
    limb = SIDES[risk.lateral_limb]
    at = shown.length(found.bow.limbs[risk.lateral_limb].root[0] + risk.lateral_at)
    if risk.lateral < LATERAL_RULE:
        said.append(
            f"{at.capitalize()} from the centre the {limb} limb is only {risk.lateral * 100:.0f} %"
            " as stiff sideways as it bends: it is deeper than wide and may turn aside. A pull of"
            f" {shown.weight(POUND_FORCE)} aside moves a tip by"
            f" {shown.length(risk.side_shift * POUND_FORCE)}. Make it wider and thinner there; keep"
            " the string over the middle."
        )
    if risk.fade > ABRUPT_FADE:
        said.append(
            f"The fades rise by {shown.length(layout.handle_depth - found.bow.upper.thickness[0])}"
            f" in {shown.length(layout.fade)}: so abrupt a step breaks at its foot. Draw them out,"
            " or make the grip less deep."
        )
    if risk.outer_share > 0.16:
        lighter = "Narrow them as far as the nocks allow."
        if design.stock == "tube":
            lighter = "Cut the tube open and close it to a taper, or take a slighter one."
        said.append(
            f"The outer fifth of the limbs holds {risk.outer_share * 100:.0f} % of their mass,"
            f" {shown.bulk_mass(risk.outer_mass)}: heavy tips cost speed and kick. {lighter}"
        )
    stave = design.stave
    if stave is not None and stave.drift and stave.drift_over:
        _, share = run_out(stave.drift, stave.drift_over)
        if share < 0.93:
            said.append(
                f"The grain of stave {stave.number} runs off and leaves {share * 100:.0f} % of its"
                " bending strength. Back the bow, or lay it along the grain."
            )
    if wood_dries(found):
        said += _moisture(design)
    return said


def wood_dries(found: Solution) -> bool:
    """Whether what the limbs are made of takes up water at all."""
    return found.wood.kind in ("wood", "bamboo")


def _moisture(design: Design) -> list[str]:
    said, moisture = [], design.figures.moisture
    if moisture > 0.125:
        said.append(
            f"At {moisture * 100:.0f} % moisture it is wet for a bow and takes more set. Let it dry"
            " to 8 to 10 %."
        )
    elif moisture < 0.06:
        said.append(
            f"At {moisture * 100:.0f} % moisture wood is brittle. Let it take the shop's air first."
        )
    stave = design.stave
    now = seasoning_now(stave) if stave is not None else None
    if (
        stave
        and now
        and now.forecast
        and now.ready
        and now.forecast.moisture > moisture + 0.02
        and now.forecast.ready_in > 0
    ):
        said.append(
            f"Stave {stave.number} is still at {now.forecast.moisture * 100:.1f} %; it is ready"
            f" about {now.ready.day} {now.ready:%B %Y}. The figures here hold for"
            f" {design.figures.moisture * 100:.0f} %."
        )
    return said


USUAL_DRAW = 28 * INCH  # where there is no archer yet (m)


@dataclass(frozen=True)
class LayoutChoice:
    """A layout family with its proportions for a draw, drawn from the back."""

    name: str
    words: str
    layout: Layout
    picture: str


LAYOUT_WORDS = {
    "parallel then taper": (
        "Wide and even to mid-limb, then straight to the tips. Forgiving, for most woods and a"
        " first bow."
    ),
    "pyramid": (
        "A straight taper from the fades and nearly even thickness. Light tips; wants a wide board."
    ),
    "deep and narrow": (
        "Long, narrow, rounded belly. For dense woods that bear compression; strain is high, so it"
        " is long."
    ),
    "bends through the handle": (
        "No stiff grip: the whole bow works, so it may be short. The arrow passes over the hand."
    ),
    "backed, reflex and deflex": (
        "A slat of bamboo or hardwood glued on in a reflex. Quick, for makers who laminate."
    ),
    "glass-faced, one piece or take-down": (
        "Thin cores between two facings, on a long riser. Bears much; wants a form and oven."
    ),
    "bamboo with a back-bow": (
        "A bamboo slat with a shorter bow tied on its back and cabled tight: the two share the"
        " bending."
    ),
    "tube or rod of one size": (
        "Stock as it is bought, of one size from end to end: nothing to shape, only the length to"
        " find."
    ),
    "recurved tips that work": (
        "Tips bent to the back that open as the bow is drawn: more energy early in the draw, and a"
        " draw that stacks later. Asks more of the wood."
    ),
    "stiff recurved tips": (
        "Short, stiff tips that lever the string; the inner limb does all of the bending. Mind the"
        " line of the string over them, and a twist."
    ),
    "widest at mid-limb": (
        "Narrow grip, widest at half the limb. Short and wide, mostly sinew backed; wants strong"
        " wood."
    ),
}


def _green(design: Design, wood: Material) -> str:
    """What working wood green means for this bow."""
    dry = at_moisture(material(design.material), DRY)
    gain = dry.modulus / at_moisture(material(design.material), wood.moisture).modulus - 1
    return (
        f"Worked green, at {wood.moisture * 100:.0f} %: it bends where dry wood breaks, and keeps"
        f" {wood.keeps:.1f} times as much of each pull. Pull it short and let it dry tied straight"
        f" or to a little reflex; dry, at {DRY * 100:.0f} %, it will be about {gain * 100:.0f} %"
        " stiffer, and is tillered again from a low draw."
    )


DRY = 0.10


def layout_choices(draw: float) -> list[LayoutChoice]:
    """Every layout family for a draw (m)."""
    rows = []
    for name, make in LAYOUTS.items():
        layout = make(draw)
        rows.append(LayoutChoice(name, LAYOUT_WORDS[name], layout, kind_picture(layout)))
    return rows


def _commonest(values: Iterable[Any]) -> Any:
    """The value that comes most often, of equals the latest; None where there is none."""
    told = list(values)
    return max(reversed(told), key=told.count) if told else None


def starting_values(chosen: str, stave: str) -> dict[str, object]:
    """Form values of a new design: the shop's commonest archer, wood and kind, or those that were
    chosen. A shop's first design has only an archer, where there is no other.
    """
    made = list(Design.objects.filter(now=None).order_by("pk"))
    archers = list(Archer.objects.all()[:2])
    archer = _commonest(one.archer_id for one in made)
    if archer is None and len(archers) == 1:
        archer = archers[0].pk
    stock = Stave.objects.filter(pk=number_in(stave) or 0).first()
    kind = chosen if chosen in LAYOUTS else _commonest(one.figures.kind for one in made)
    values: dict[str, object] = {
        "archer": archer,
        "stave": stock.pk if stock else None,
        "material": stock.material if stock else _commonest(one.material for one in made),
    }
    if kind in LAYOUTS:
        them = Archer.objects.filter(pk=archer or 0).first()
        new = layout_initial(LAYOUTS[kind](them.draw if them else USUAL_DRAW))
        new.pop("length")  # as the archer and the wood want it
        values |= {"kind": kind} | (new | {"material": stock.material} if stock else new)
    return values


def length_is(design: Design, usual: float, shown: Units) -> str:
    """What a length that was left empty comes to."""
    long = shown.length(design.length)
    if design.length > usual + 1e-6:
        return f"{long}: longer than is usual, as this wood wants"
    return f"{long} as usual for this kind" if design.figures.kind else f"{long} by school A"


def reach_is(draw: float, weights: tuple[float, float] | None, shown: Units) -> str:
    """What a draw told by an archer's reach comes to, and what its scatter does to the weight."""
    said = f"By that reach about {shown.length(draw)} to the grip, {shown.length(REACH_SCATTER)}"
    said += " more or less for two archers of three"
    if weights is not None:
        low, high = (shown.fine_weight(one) for one in weights)
        said += f": the bow then pulls {low} to {high}"
    return f"{said}. Measure the draw before the last inches of tillering."


# Woods of their own that layouts begin with.
OWN_WOOD = {FLAT_OVAL: "rigid PVC", "back-bow": "bamboo slat"}


def layout_initial(layout: Layout) -> dict[str, object]:
    """Form values of a layout's proportions."""
    values = asked(figures_of(layout)) | {"length": layout.length}
    own = "back-bow" if layout.back_bow is not None else layout.shape.name
    return values | ({"material": OWN_WOOD[own]} if own in OWN_WOOD else {})


def draw_of(values: Mapping[str, object], shown: Units) -> float:
    """The draw to the grip that a form's values ask for: its own, its reach's, its archer's, or a
    usual one (m).
    """
    by, anchor = str(values.get("draw_by") or PIVOT.key), str(values.get("anchor", ""))
    try:
        told = LENGTH.read(str(values.get("draw", "")), shown.world)
        return TOLD_BY.get(by, PIVOT).to_pivot(told, USUAL_HANDLE_DEPTH)
    except UnreadableError:
        pass
    try:
        return draw_by_reach(LENGTH.read(str(values.get("reach", "")), shown.world), anchor)
    except (UnreadableError, DescriptionError):
        number = number_in(str(values.get("archer", "")))
        archer = Archer.objects.filter(pk=number or 0).first()
        archer = archer or Archer.objects.first()
        return archer.draw if archer else USUAL_DRAW


BACK_FIGURES = {"bark": "as grown", "ring": "one ring", "sawn": "as sawn"}
BACK_CHECKS = {
    "bark": "Bark and bast off without a nick; the surface under it is the back.",
    "ring": "One growth ring unbroken from end to end; not a scraper's stroke through it.",
    "sawn": "Grain lines run from end to end without leaving an edge, and knots are none.",
}


NOCK_WORDS = {
    "side": (
        "Grooves at about 45°, opening wider to the belly, level with each other, never into the"
        " back."
    ),
    "pin": "Leave shoulders for the string; the pin is round and its edges are broken.",
    "overlay": "Glue the overlay on first; its groove runs over the back and is rounded.",
}


@dataclass(frozen=True)
class WalkStep:
    """One mark of the lay-out: what is marked, its figure, and the check that belongs to it."""

    what: str
    figure: str
    check: str


_LOOKS = {
    "bamboo": ("the nodes", "Skin tight and bright; no node at a nock or at a fade's end."),
    "laminated": ("each lam", "Numbered from the back, butt and tip marked, grain end to end."),
    "backed": ("the flat face", "Planed flat for the backing; grain leaves no edge on the way."),
}


def _looked_over(design: Design) -> list[WalkStep]:
    """What is looked over before the first mark, by what the bow is made of."""
    if design.stock == "tube":
        return []
    if design.stock in _LOOKS:
        figure, check = _LOOKS[design.stock]
        return [WalkStep("Look over the stock", figure, check)]
    kind = design.back_kind
    return [WalkStep("Look over the back", BACK_FIGURES[kind], BACK_CHECKS[kind])]


def tube_words(layout: Layout, mark: Mark, shown: Units) -> str:
    """What is done to a tube at a mark; one split lengthwise is cut to a width there."""
    if layout.shape.name.startswith("culm segment"):
        return f"{shown.thickness(mark.width / 2)} + {shown.thickness(mark.width / 2)}"
    strip = float(layout.strip_at(mark.width))
    if strip > 0:
        return f"cut out {shown.thickness(strip)}"
    if mark.width > mark.thickness:
        return f"press to {shown.thickness(mark.thickness)} × {shown.thickness(mark.width)}"
    return "as it is"


def walk(design: Design, found: Solution, shown: Units) -> list[WalkStep]:
    """The marks of a bow in the order they are made on the wood."""
    layout = found.layout
    half = layout.length / 2
    tube = design.stock == "tube"
    ends = "No crack at either nock?" if tube else "No check or knot at either nock?"
    agree = "Measure from the other end too: the two halves must agree."
    follows = design.figures.centre_line == "follow"
    line = (
        "Through every wiggle of the grain, so that no fibre is cut."
        if follows
        else "Straight, whatever the grain does."
    )
    if tube:
        line = "Straight: stretch a thread from nock to nock."
    steps = [
        WalkStep(
            "Square both ends and mark the bow's length between the nocks on the back",
            f"{shown.length(layout.length)} of {shown.length(layout.overall)}",
            f"Beyond the nocks stand {shown.length(layout.beyond[0])} above and"
            f" {shown.length(layout.beyond[1])} below. {ends}",
        ),
        *_looked_over(design),
        WalkStep("Mark the centre, from one end", shown.length(half), agree),
        WalkStep("Draw the centre line from nock to nock", "by string", line),
    ]
    if layout.grip_drop:
        shorter = shown.length(layout.limb_length(True) - layout.limb_length(False))
        why = (
            f"The grip lies low, so the lower limb bends over {shorter} less and is left a little"
            " thicker by the table."
        )
        steps.append(
            WalkStep(
                "Mark the middle of the grip below the centre", shown.length(layout.grip_drop), why
            )
        )
    if layout.handle > 0:
        up, low = layout.handle / 2 - layout.grip_drop, layout.handle / 2 + layout.grip_drop
        even = (
            "The grip sits low: the lower limb is the shorter one."
            if layout.grip_drop
            else "Both the same from the centre."
        )
        fades = " · ".join(shown.length(layout.root_from_centre(k)) for k in (True, False))
        here = "From here outwards the limb bends; no "
        here += "scratch may run across it here." if tube else "knot should sit just here."
        steps.append(
            WalkStep(
                "Mark the grip, above and below the centre",
                f"{shown.length(up)} · {shown.length(low)}",
                even,
            )
        )
        steps.append(WalkStep("Mark where the fades end, upper and lower", fades, here))
    for side in SIDES:
        rows = [m for m in found.marks if m.limb == side]
        for number, mark in enumerate(rows):
            name = (
                "nock"
                if number == len(rows) - 1
                else "end of the fade"
                if not number
                else f"mark {number + 1}"
            )
            what = (
                f"{side.capitalize()} limb, {name}, {shown.length(mark.from_centre)} from the"
                " centre: half the width each side"
            )
            each = shown.thickness(mark.width / 2)
            thick = shown.thickness(found.wood_of(mark))
            if found.layered:
                thick = f"the {found.wood.name} {thick}"
            nock = f" {NOCK_WORDS[design.figures.nock_style]}" if name == "nock" else ""
            check = (
                f"{shown.thickness(mark.width)} wide in all; {thick} thick once the sides are"
                f" square.{nock}"
            )
            if tube:
                each, check = tube_words(layout, mark, shown), f"{thick} thick there.{nock}"
                what = f"{side.capitalize()} limb, {name}, {shown.length(mark.from_centre)} out"
            steps.append(WalkStep(what, each if tube else f"{each} + {each}", check))
    again = "Both halves alike? If a tip was cut, halve what is left."
    steps.append(
        WalkStep("After any cut at a tip, find the centre again", shown.length(half), again)
    )
    return steps


def off_book(log: float, sure: float, records: int) -> str:
    """How far a modulus is off the book: ``6 ± 3 % under the book, from 4 records``."""
    off, many = math.exp(log) - 1, f"from {records} record{'s' if records != 1 else ''}"
    if abs(off) < 0.005:
        return f"as the book says, ± {sure * 100:.0f} %, {many}"
    side = "under" if off < 0 else "over"
    return f"{abs(off) * 100:.0f} ± {sure * 100:.0f} % {side} the book, {many}"
