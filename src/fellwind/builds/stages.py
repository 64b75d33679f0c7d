"""What is done at each stage, with this bow's own numbers, and the caution that belongs there."""

from dataclasses import dataclass

import numpy as np

from bowyery.bow.bow import SIDES, Limb
from bowyery.design.outline import bends_of
from bowyery.design.solution import Solution
from bowyery.making.backing import PULLS_IN, Amounts, added, amounts
from bowyery.making.floor import floor_push
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, Units
from fellwind.designs.models import Design
from fellwind.kit.cache import computed
from fellwind.kit.measures import hours_words
from fellwind.shop.models import Workshop
from fellwind.shop.services import hours_here, rest_table

LEFT_ON = {IMPERIAL: INCH / 16, METRIC: 0.0015}
NEAR = 0.0008  # within so much an outline counts as drawn straight (m)
FLOOR_SAG = {IMPERIAL: 3 * INCH, METRIC: 0.075}


@dataclass(frozen=True)
class Item:
    """One line of a stage's list."""

    key: str
    words: str


def items(stage: str, design: Design, found: Solution | None, shown: Units) -> list[Item]:
    """The list of a stage; lines with figures appear when the design is solved."""
    make = _LISTS.get(stage)
    if make is not None:
        return make(design, shown)
    solved = _SOLVED.get(stage)
    return [] if solved is None or found is None else solved(found, shown)


def all_words(design: Design, found: Solution | None, shown: Units) -> dict[str, str]:
    """The words of every item of every stage by its key, for the log."""
    stages = (*_LISTS, *_SOLVED)
    return {item.key: item.words for one in stages for item in items(one, design, found, shown)}


def _wood(design: Design, shown: Units) -> list[Item]:
    """What is looked for in the stock, by what is made of it."""
    length = Item(
        "wood-length",
        f"At least {shown.length(design.overall)} of sound stock from end to end:"
        f" {shown.length(design.length)} between the nocks and what stands beyond them",
    )
    ends = Item(
        "wood-ends", "Slice the ends until a slice shows no check; what is left must hold the bow"
    )
    grain = Item("wood-grain", "The grain runs from end to end and leaves no edge on the way")
    if design.stock == "tube":
        return [
            length,
            Item("wood-wall", "The wall is even at both ends, by calipers at four places"),
            Item("wood-dents", "No dent, crack or deep scratch; the ends cut square and deburred"),
        ]
    if design.stock == "bamboo":
        return [
            length,
            Item(
                "wood-nodes",
                "The nodes counted and marked: none at a nock or at a fade's end, and alike to both"
                " sides of the grip",
            ),
            Item("wood-skin", "Skin bright and tight, no insect holes, no water trapped at a node"),
            Item("wood-walled", "The wall is thicker everywhere than the table asks of it"),
            _moist(design),
        ]
    if design.stock == "laminated":
        return [
            length,
            Item("wood-lams", "Each lam's grain runs from end to end; no knot, no patch of stain"),
            Item("wood-pairs", "Lams of both limbs from the same board, side by side"),
            _moist(design),
        ]
    if design.stock == "backed":
        flat = "The face that takes the backing is planed flat, and its grain leaves no edge"
        return [ends, length, Item("wood-grain", flat), _moist(design)]
    back = (
        "The back is chosen: one unbroken ring, or the surface under the bark, or the cleanest face"
    )
    return [ends, length, grain, Item("wood-back", back), _moist(design)]


def _moist(design: Design) -> Item:
    """How dry it is worked."""
    moist = f"{design.figures.moisture * 100:.0f} %"
    if design.stock == "green":
        return Item(
            "wood-moisture",
            f"Worked green, at about {moist}: stand the stick on its end and press; it turns"
            " until its own bend shows, and the outside of that bend is the back",
        )
    return Item(
        "wood-moisture",
        f"Worked at about {moist} moisture; weighed until it stops falling",
    )


def _layout(found: Solution, shown: Units) -> list[Item]:
    layout = found.layout
    up, low = (float(limb.root[0]) for limb in found.bow.limbs)
    nocks = [float(limb.root[0] + limb.length) for limb in found.bow.limbs]
    widest = max(m.width for m in found.marks)
    halves = _each("nock", *(shown.length(one) for one in nocks))
    listed = [
        Item("centre", f"Centre marked: {halves}, measured from both ends; they agree"),
        Item("line", "Centre line sighted from end to end, or along a tight string"),
        Item(
            "roots",
            f"Ends of the fades: {shown.length(up)} above the centre, {shown.length(low)} below",
        ),
        Item(
            "width",
            f"Limbs {shown.length(widest)} wide, {_widths(found, shown)}",
        ),
        Item("table", "Every mark of the marking table on the wood, upper and lower"),
    ]
    if layout.grip_drop:
        listed.insert(
            1,
            Item(
                "grip",
                f"Grip's middle {shown.length(layout.grip_drop)} below the centre, so that the"
                " arrow passes nearer to it; that makes the lower limb the shorter one",
            ),
        )
    return listed


def _each(what: str, upper: str, lower: str) -> str:
    """A figure of both limbs, or of each its own."""
    if upper == lower:
        return f"{upper} to each {what}"
    return f"{upper} to the upper {what}, {lower} to the lower"


def _widths(found: Solution, shown: Units) -> str:
    """How an outline goes on from its widest place: as it was asked for, or from mark to mark where
    the marks were set otherwise.
    """
    layout = found.layout
    sides = list(zip(SIDES, found.bow.limbs, strict=True))
    if any(
        np.abs(layout.width_at(limb.at, side == "upper") - limb.width).max() > NEAR
        for side, limb in sides
    ):
        told = {side: _from_mark_to_mark(limb, shown) for side, limb in sides}
        if len(set(told.values())) == 1:
            return told["upper"]
        return "; ".join(f"the {side} limb {words}" for side, words in told.items())
    nock = shown.length(layout.tip_width)
    if layout.widths is None:
        return (
            f"for {layout.parallel * 100:.0f} % of each limb, then straight to {nock} at the nocks"
        )
    knees = ", ".join(
        f"{shown.length(layout.root_from_centre(True) + share * layout.limb_length(True))} from the"
        f" centre {shown.length(width)}"
        for share, width in layout.widths[0][1:-1]
    )
    return f"{knees or 'tapered straight'}, {nock} at the nocks"


def _from_mark_to_mark(limb: Limb, shown: Units) -> str:
    """A limb's outline by those of its marks between which it runs straight."""
    turns = bends_of(limb.at, limb.width, NEAR)
    said = [
        f"{shown.length(float(limb.width[k]))} at {shown.length(float(limb.root[0] + limb.at[k]))}"
        for k in turns[:-1]
        if k
    ]
    said.append(f"{shown.length(float(limb.width[-1]))} at the nock")
    return f"from {shown.length(float(limb.width[0]))} at the fade straight to {', to '.join(said)}"


def _rough(found: Solution, shown: Units) -> list[Item]:
    on, sag = LEFT_ON[shown.world], FLOOR_SAG[shown.world]
    if found.layout.unknown == "nothing":
        return [
            Item("stock-cut", f"Cut to {shown.length(found.layout.overall)}, ends square, no burr"),
            Item("stock-grip", "The grip wrapped or sleeved; nothing is taken off the stock"),
            *_floors(found, shown, 0.0, sag),
        ]
    if found.ground:
        return [
            Item("lams-ground", "Lams ground to the grinding table, and numbered from the back"),
            Item("riser", "The riser shaped, its faces flat where the limbs lie"),
            Item("dry-run", "A dry run in the form, without light between any two lams"),
        ]
    left = list[str]()
    for side in SIDES:
        ends = [m for m in found.marks if m.limb == side]
        root, nock = (shown.thickness(found.wood_of(m) + on) for m in (ends[0], ends[-1]))
        left.append(f"{root} at the fade, {nock} at the nock")
    left = (
        left[:1] if left[0] == left[1] else [f"{s} {w}" for s, w in zip(SIDES, left, strict=True)]
    )
    return [
        Item("sides", "Sides down to the line first, square to the back; then the belly"),
        Item(
            "left-on",
            f"Thickness left full by {shown.thickness(on)}: {'; '.join(left)}"
            + (
                f"; of the {found.wood.name} alone, without its other layers"
                if found.layered
                else ""
            ),
        ),
        Item(
            "fades",
            f"Fades run out over {shown.length(found.layout.fade)} without a step; an abrupt one"
            " breaks there",
        ),
        *(
            []
            if found.ground
            else [Item("knots", "Knots left proud, with wood to spare round them")]
        ),
        *_floors(found, shown, on, sag),
    ]


def _floors(found: Solution, shown: Units, on: float, sag: float) -> list[Item]:
    """What the floor should say of each limb."""
    push = floor_push(found.curve.limbs, sag, on)
    return [
        *(
            Item(
                f"floor-{side}",
                f"Floor tiller, {side}: about {shown.weight(float(force))} on the scale under the"
                f" tip bends it {shown.length(sag)}",
            )
            for side, force in zip(("upper", "lower"), push, strict=True)
        ),
        Item(
            "floor-look",
            "Both limbs bend from the fades outward, no place more than its neighbours",
        ),
    ]


_EDGES = Item(
    "back-edges",
    "Edges of the back broken with a scraper, no nick left to start a splinter",
)
_WRAP = "Pressed on from the grip outward, no air under it, and wrapped or clamped"


def _back(found: Solution, shown: Units) -> list[Item]:
    """What a design's backing takes, from its own area and this shop's air."""
    layout = found.layout
    if not layout.back:
        plain = "A plain back: rounded at its edges and left whole, no fibre cut"
        if layout.unknown == "nothing":
            plain = "Stock of one size has no back to lay anything on; look for dents and scratches"
        return [Item("back-plan", plain), _EDGES]
    backing = layout.back[0]
    name = backing.material.name
    need = amounts(found.bow, backing.material, backing.root, backing.nock, layout.grip_width)
    rows = [Item("back-cut", _cut(name, need, backing.root, backing.nock, shown))]
    table, workshop = rest_table(), Workshop.get()

    def rests(which: str) -> str:
        h = hours_here(table[which], workshop)
        return f"{hours_words(h.usual)} in this air ({hours_words(h.low)} to {hours_words(h.high)})"

    if need.kind.soaks:
        rows.append(Item("back-soak", f"{need.kind.soaks.capitalize()}: {rests(need.kind.soaks)}"))
    rows.append(Item("back-ground", "The back scraped clean and roughened, free of fat, and sized"))
    glue = shown.bulk_mass(need.glue)
    rows.append(Item("back-glue", f"About {glue} of glue ready for {name}, half as much again as"
                     " stays on the bow"))  # fmt: skip
    adds = adds_of(found)
    if adds:
        pulls = PULLS_IN.get(name, 0.0)
        more = (
            f", and drying pulls the tips about {shown.length(pulls)} to the back" if pulls else ""
        )
        rows.append(
            Item(
                "back-adds", f"It adds about {shown.weight(adds)} to the bow as it is shaped{more}"
            )
        )
    wrap = _WRAP if need.kind.way == "slat" else f"{_WRAP} so that water can leave it"
    rows.append(Item("back-laid", wrap))
    dries = need.kind.dries
    rows.append(
        Item("back-dry", f"{dries[:1].upper()}{dries[1:]}: {rests(dries)}; tillering waits")
    )
    again = "Then the tiller is looked at again from a low draw: weight and both limbs have changed"
    return [*rows, Item("back-again", again), _EDGES]


def adds_of(found: Solution) -> float:
    """What the outermost layer of the back adds to the weight at full draw (N)."""
    return computed(
        "backing adds", (found.bow, found.wanted.draw), lambda: added(found.bow, found.wanted.draw)
    )


def _cut(name: str, need: Amounts, root: float, nock: float, shown: Units) -> str:
    """What is cut or counted out for a backing."""
    thick = f"{shown.thickness(root)} at the fades to {shown.thickness(nock)} at the nocks, dry"
    if need.kind.way == "fibre":
        return (
            f"{name.capitalize()}: {shown.bulk_mass(need.fibre)} of dry fibre in {need.courses}"
            f" course{'s' if need.courses > 1 else ''}, {need.bundles} bundles each; {thick}"
        )
    size = f"{shown.length(need.length)} by {shown.length(need.width)}"
    if need.kind.way == "slat":
        piece = "strip" if "glass" in name else "slat"
        return f"{name.capitalize()}: one {piece} {size}, trimmed when dry; {thick}"
    layers = f" in {need.courses} layers" if need.courses > 1 else ""
    return f"{name.capitalize()}: two strips{layers}, each {size}, trimmed when dry; {thick}"


def _finish(design: Design, shown: Units) -> list[Item]:
    return [
        Item(
            "grits",
            "Sanded with 80, 120, 180 and 240 grit, along the grain, both limbs for as long",
        ),
        Item("edges", "All edges rounded; handle and tips shaped"),
        Item("recheck", "Tiller looked at once more on the tree, after the last sanding"),
        Item(
            "coats", "Coats on: oil overnight each, or shellac sanded between, or varnish; then wax"
        ),
    ]


_LISTS = {"wood": _wood, "finish": _finish}
_SOLVED = {"lay-out": _layout, "rough": _rough, "back": _back}
