"""Finished bows by kind, as evidence: how far each is usually bent, what it keeps, how it lasts.

A verdict by the wood alone condemns bows that live: a heavy longbow is bent far beyond where its
belly begins to set, for years. This table says what is usual of each kind. Its ranges are general
knowledge of the craft, every one of them a judgement and no measurement; one bow of each is worked
out by this core, so that its strain is told by the same rule as that of a new design.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from bowyery.bow.bow import Bow
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import Layout, StackLayer
from bowyery.units.quantity import INCH, POUND_FORCE, Units
from bowyery.wood.materials import material

_GLASS_FROM = 25e9  # stiffer than any wood (Pa)
_DEEP = 0.55  # thickness over width of a deep, narrow limb at its root
_PYRAMID = 0.85  # width at a quarter of a limb over that at its root, where it tapers from there


@dataclass(frozen=True)
class Build:
    """What tells one kind of bow from another.

    Attributes:
        woods: materials of the upper limb's layers, from the back.
        glass: it is faced with glass.
        deep: thickness over width where bending starts.
        tapers: width at a quarter of the limb over that at its root.
        stretch: length from nock to nock over the draw.
        weight: at full draw (N); draw: to the pivot (m).
    """

    woods: tuple[str, ...]
    glass: bool
    deep: float
    tapers: float
    stretch: float
    weight: float
    draw: float


@dataclass(frozen=True)
class Kind:
    """A kind of bow as it is usually made.

    Attributes:
        name: of several, as a sentence has it.
        length: from nock to nock over the draw, from and to.
        strain: of the surface at full draw, from and to.
        follow: of the string once it is shot in, net of reflex, from and to (m).
        life: how many arrows or years such bows are shot, in words.
        fits: whether a bow is of it; the first that does counts.
        example: length, weight (N) and draw (m), layout and wood of one such bow.
        source: where its ranges come from.
    """

    name: str
    length: tuple[float, float]
    strain: tuple[float, float]
    follow: tuple[float, float]
    life: str
    fits: Callable[[Build], bool]
    example: Callable[[], tuple[Layout, float, float, str]]
    source: str = "judgement"

    def keeps(self, shown: Units) -> str:
        """The string follow of such bows."""
        low, high = self.follow
        if low >= 0:
            return f"{shown.length(low)} to {shown.length(high)}"
        return f"{shown.length(-low)} of reflex left to {shown.length(high)}"

    def words(self, shown: Units) -> str:
        """What such bows are known for, in a sentence."""
        return f"Usual for {self.name}: expect {self.keeps(shown)} of follow."


def _example(
    family: str, wood: str, length: float, weight: float, draw: float, **changes: object
) -> Callable[[], tuple[Layout, float, float, str]]:
    """In inches and pounds, the draw to the pivot."""

    def made() -> tuple[Layout, float, float, str]:
        layout = replace(LAYOUTS[family](draw * INCH), length=length * INCH, **changes)  # type: ignore[arg-type]
        return layout, weight * POUND_FORCE, draw * INCH, wood

    return made


def _sinew() -> dict[str, object]:
    back = StackLayer("backing", material("sinew"), 0.14 * INCH, 0.08 * INCH)
    return {"back": (back,), "unknown": "core", "width": 1.75 * INCH}


def _of(*names: str) -> Callable[[Build], bool]:
    return lambda b: any(name in wood for wood in b.woods for name in names)


KINDS: tuple[Kind, ...] = (
    Kind(
        "glass-faced bows", (2.0, 2.6), (0.006, 0.011), (-2.5 * INCH, 0.25 * INCH),
        "decades: it keeps nearly all of its shape", lambda b: b.glass,
        _example("glass-faced, one piece or take-down", "sugar maple", 62, 45, 26.25),
    ),
    Kind(
        "short sinewed bows", (1.8, 2.5), (0.009, 0.018), (-1.5 * INCH, 1.5 * INCH),
        "decades if kept dry; damp takes weight and reflex", _of("sinew"),
        lambda: _example("bends through the handle", "eastern red cedar", 54, 45, 22, **_sinew())(),
    ),
    Kind(
        "bamboo-backed bows", (2.3, 2.8), (0.008, 0.0125), (-2.0 * INCH, 1.0 * INCH),
        "many thousand arrows; it keeps most of a glued-in reflex",
        lambda b: len(b.woods) > 1 and "bamboo" in b.woods[0],
        _example("backed, reflex and deflex", "osage orange", 66, 50, 26.25, width=1.4 * INCH),
    ),
    Kind(
        "children's bows", (2.3, 3.2), (0.004, 0.0095), (0.0, 1.25 * INCH),
        "until it is outgrown", lambda b: b.draw < 0.53 and b.weight < 25 * POUND_FORCE,
        _example(
            "parallel then taper", "shagbark hickory", 48, 15, 18.25,
            handle=3 * INCH, fade=1.5 * INCH, width=1.25 * INCH,
        ),
    ),
    Kind(
        "heavy longbows", (2.3, 2.8), (0.011, 0.016), (2.0 * INCH, 4.0 * INCH),
        "thousands of arrows; it loses weight in its first hundreds and then stays",
        lambda b: b.deep > _DEEP and b.weight > 80 * POUND_FORCE,
        _example(
            "deep and narrow", "european yew", 77, 120, 29.25,
            width=1.5 * INCH, handle=0.0, fade=0.0, handle_depth=1.4 * INCH,
        ),
    ),
    Kind(
        "longbows", (2.4, 2.9), (0.008, 0.0135), (1.0 * INCH, 2.75 * INCH),
        "many thousand arrows", lambda b: b.deep > _DEEP,
        _example("deep and narrow", "european yew", 74, 60, 26.25),
    ),
    Kind(
        "pyramid bows", (2.3, 2.8), (0.007, 0.0105), (0.75 * INCH, 2.25 * INCH),
        "many thousand arrows", lambda b: len(b.woods) == 1 and b.tapers < _PYRAMID,
        _example("pyramid", "sugar maple", 68, 45, 26.25),
    ),
    Kind(
        "flatbows", (2.3, 3.0), (0.006, 0.0105), (0.5 * INCH, 2.0 * INCH),
        "many thousand arrows", lambda b: len(b.woods) == 1,
        _example("parallel then taper", "shagbark hickory", 68, 50, 26.25),
    ),
)  # fmt: skip


def kind_of(bow: Bow, weight: float, draw: float) -> Kind | None:
    """The kind that a bow is of, or None where this table has none like it.

    Args:
        weight: at full draw (N).
        draw: from nocking point to pivot (m).
    """
    limb = bow.upper
    if bow.back_bow is not None or any(layer.ductile for layer in limb.layers):
        return None
    quarter = float(np.interp(0.25 * limb.length, limb.at, limb.width))
    built = Build(
        tuple(layer.material for layer in limb.layers),
        any(layer.modulus > _GLASS_FROM for layer in limb.layers),
        float(limb.thickness[0] / limb.width[0]),
        quarter / float(limb.width[0]),
        sum(one.root[0] + one.length for one in bow.limbs) / draw,
        weight,
        draw,
    )
    found = next((kind for kind in KINDS if kind.fits(built)), None)
    slack = 0.1  # of the length: no bow of the kind is as short, or as long
    if found and found.length[0] - slack <= built.stretch <= found.length[1] + 3 * slack:
        return found
    return None


def usual(bow: Bow, weight: float, draw: float, strain: float) -> Kind | None:
    """The kind that a bow is of, where it is bent no further than such bows usually are.

    Args:
        weight, draw: as :func:`kind_of` has them.
        strain: greatest of its surface at full draw.
    """
    found = kind_of(bow, weight, draw)
    return found if found and strain <= found.strain[1] else None
