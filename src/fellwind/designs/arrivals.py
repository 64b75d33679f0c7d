"""Designs of bows that came as a file or were measured."""

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from bowyery.bow import bowfile
from bowyery.bow.bow import Bow, Limb
from bowyery.bow.limb_grid import grid
from bowyery.design.measured import What, scaled
from bowyery.errors import DescriptionError
from bowyery.mechanics.elastica import shapes
from bowyery.units.quantity import Units
from bowyery.wood.materials import Material
from fellwind.designs.models import Design
from fellwind.shop.book import material, shelf
from fellwind.shop.models import Archer

if TYPE_CHECKING:
    from fellwind.designs.measured import MeasuredBowForm
from fellwind.designs.services import remarked, save, solution


def brought_in(
    bow: Bow, name: str, archer: Archer, wood_name: str, weight: float | None = None
) -> Design:
    """A design row, not yet saved, for a bow that came as a file. What the file says it was asked
    for is taken.

    Layers whose limits the file does not give take those of their material, or of the chosen wood.
    Raises BowyeryError when the bow cannot be braced and drawn to the archer's draw.
    """
    wood, asked = material(wood_name), bow.wanted
    stuff = shelf()
    known = stuff.woods | stuff.backings

    def limited(limb: Limb) -> Limb:
        layers = []
        for layer in limb.layers:
            book = known.get(layer.material, wood)
            if layer.elastic_strain is None or layer.rupture_strain is None:
                layer = replace(
                    layer,
                    elastic_strain=book.elastic_strain,
                    rupture_strain=book.rupture_strain,
                    ductile=book.ductile,
                )
            layers.append(layer)
        return replace(limb, layers=tuple(layers))

    bow = replace(bow, upper=limited(bow.upper), lower=limited(bow.lower))
    upper, lower = bow.limbs
    roots = upper.root[0], lower.root[0]
    deep = bow.hold.pivot[1] + 0.5 * float(upper.thickness[0])
    limbs = grid(bow)
    still = np.zeros((2, 1))
    design = Design(
        name=(name or bow.name or "A bow from a file")[:80],
        archer=archer,
        material=wood_name,
        weight=weight or (asked.weight if asked else archer.weight),
        draw=(asked.draw if asked else bow.draw) or archer.draw,
        fingers=asked.fingers if asked else archer.fingers,
        length=sum(roots) + upper.length + lower.length,
        sizes={
            "handle": sum(roots),
            "fade": 0.0,
            "grip_drop": 0.5 * (roots[1] - roots[0]),
            "handle_depth": max(deep, float(upper.thickness[0])),
            "width": float(max(upper.width.max(), lower.width.max())),
            "tip_width": float(upper.width[-1]),
            "least_tip": float(upper.thickness[-1]),
            "reflex": -float(shapes(limbs, still, still).across[:, 0, -1].mean()),
            "arrow": bow.arrow,
            "gap": asked.gap if asked else None,
        },
        notes=bow.notes,
        bow_file=bowfile.dumps(bow),
    )
    found = solution(design)
    if bow.brace_height is None:
        if found.curve.braced.slack:
            raise DescriptionError(
                "The string hangs slack on this bow; give a brace height or a shorter string.",
                "string",
            )
        # from here on the maker thinks of it by its brace height
        bow = replace(bow, brace_height=float(found.curve.braced.height[0]), string_length=None)
        design.bow_file = bowfile.dumps(bow)
    design.change(brace_height=float(found.curve.braced.height[0]))
    return design


def measured(bow: Bow, form: "MeasuredBowForm") -> tuple[Design, str]:
    """A design row, not yet saved, of a bow as it was measured, scaled where a weight was read;
    with what that says. Raises BowyeryError.
    """
    data, said = form.cleaned_data, ""
    weight, what = form.value("weight"), data["scale"]
    if weight and what:
        bow, factor = scaled(bow, form.full_draw(), weight, what)
        said = scale_words(what, factor, form.wood())
    design = brought_in(bow, data["name"], data["archer"], data["material"])
    design.change(
        moisture=form.given("moisture"), section=data["section"],
        brace_height=form.given("brace_height"),
    )  # fmt: skip
    if weight:
        design.weight = weight
    return design, said


def scale_to(design: Design, draw: float, weight: float, what: What, shown: Units) -> str:
    """Scale a design to a weight read of it, and keep it as it is marked then; raises
    BowyeryError.
    """
    found = solution(design)
    bow, factor = scaled(found.bow, draw, weight, what)
    remarked(design, bow)
    design.bow_file = bowfile.dumps(bow)
    save(design, "bow_file")
    return (
        f"{design.name} pulls {shown.fine_weight(weight)} at {shown.length(draw)} now."
        f" {scale_words(what, factor, found.wood)}"
    )


def scale_words(what: What, factor: float, wood: Material) -> str:
    """By how much a bow was scaled, in words."""
    by = f"{abs(factor - 1) * 100:.0f} %"
    if abs(factor - 1) < 0.005:
        return "That is what its figures come to by themselves."
    if what == "modulus":
        return f"Its {wood.name} is {by} {'stiffer' if factor > 1 else 'softer'} than the book's."
    thicker = "thicker" if factor > 1 else "thinner"
    return f"It is {by} {thicker} all over than it was measured."
