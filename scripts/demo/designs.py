"""The demo workshop's designs, and the room's screens."""

from typing import Any

from bowyery.units.quantity import INCH
from fellwind.designs.models import Design
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer
from scripts.demo.moment import DemoShop


def load(demo: DemoShop) -> None:
    """A design for every stave and archer."""

    def design(archer: str, stave: int, name: str, length: float, **extra: Any) -> None:
        them, stock = Archer.objects.get(name=archer), Stave.objects.get(number=stave)
        Design.objects.create(
            name=name, archer=them, stave=stock, material=stock.material, weight=them.weight,
            draw=them.draw, fingers=them.fingers, length=length * INCH, made=demo.ago(40),
            sizes=extra,
        )  # fmt: skip

    design("Hanne Tangen", 14, "Wych-elm flatbow", 67, moisture=0.094, kind="parallel then taper")
    design(
        "Eilif Brandal",
        13,
        "Rowan longbow",
        76,
        moisture=0.092,
        section="rounded rectangle",
        width=1.5 * INCH,
        tip_width=0.5 * INCH,
        parallel=0.45,
        handle=4 * INCH,
        fade=1.5 * INCH,
        handle_depth=1.5 * INCH,
    )
    design(
        "Siri Voll",
        17,
        "Ash board, flax backed",
        65,
        moisture=0.088,
        width=1.625 * INCH,
        back="flax fibre",
        back_root=0.03 * INCH,
        back_nock=0.03 * INCH,
    )
    design(
        "Jorun Eide",
        16,
        "Maple and bamboo, reflexed",
        71,
        kind="backed, reflex and deflex",
        moisture=0.085,
        width=1.625 * INCH,
        tip_width=0.45 * INCH,
        parallel=0.4,
        reflex=0.75 * INCH,
        fade=2.5 * INCH,
        brace_height=6.25 * INCH,
        back="bamboo slat",
        back_root=0.14 * INCH,
        back_nock=0.09 * INCH,
    )
    design(
        "Per Lunde",
        15,
        "Glass-faced take-down, elm cores",
        66,
        moisture=0.07,
        kind="glass-faced, one piece or take-down",
        lams=[
            {
                "side": "belly",
                "material": "wych elm",
                "root": 0.05 * INCH,
                "nock": 0.02 * INCH,
                "ends": None,
            },
            {
                "side": "belly",
                "material": "wych elm",
                "root": 0.05 * INCH,
                "nock": 0.0,
                "ends": 5 * INCH,
            },
        ],
        width=1.5 * INCH,
        parallel=0.35,
        handle=8 * INCH,
        fade=3 * INCH,
        handle_depth=2.25 * INCH,
        least_tip=0.2 * INCH,
        reflex=1.5 * INCH,
        brace_height=7 * INCH,
        back="unidirectional glass",
        back_root=0.04 * INCH,
        back_nock=0.04 * INCH,
        belly="unidirectional glass",
        belly_root=0.04 * INCH,
        belly_nock=0.04 * INCH,
    )
    design(
        "Tordis Moen",
        12,
        "Laburnum flatbow",
        67,
        moisture=0.082,
        width=1.5 * INCH,
        back_is="ring",
        nock_style="overlay",
    )
    design(
        "Liv Tangen",
        18,
        "Plum sapling short bow",
        50,
        moisture=0.10,
        section="crowned back",
        section_radius=0.75 * INCH,
        width=1.2 * INCH,
        parallel=0.35,
        tip_width=0.45 * INCH,
        handle=0.0,
        fade=0.0,
        handle_depth=1 * INCH,
        least_tip=0.3 * INCH,
        reflex=0.25 * INCH,
        brace_height=5 * INCH,
        back="sinew",
        back_root=0.08 * INCH,
        back_nock=0.04 * INCH,
    )
