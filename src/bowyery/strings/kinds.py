"""The kinds of string and cord that a bow wants: how each is laid, ended and counted."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from bowyery.errors import DescriptionError

End = Literal["served loop", "laid loop", "hitch", "pocket", "tie"]
Use = Literal["shoots", "tillers", "braces", "ties"]
HAND_LAID, HARD_LAID = 0.5, 1.2  # turns an inch


@dataclass(frozen=True)
class StringKind:
    """How a kind of string is made.

    Attributes:
        bundles: laid together; 1 where one loop of thread is merely twisted.
        lay: turns an inch that it usually gets.
        keeps: share of its strands' straight breaking force that twist, knots and loops leave.
        steepest: of its outer fibres against its length, as a tangent: more is over-twisted.
        words: what tells it from the others.
    """

    name: str
    bundles: int
    ends: tuple[End, End]
    step: int
    lay: float
    keeps: float
    steepest: float
    use: Use
    words: str

    @property
    def is_loop(self) -> bool:
        """One thread wound round two posts."""
        return self.bundles == 1 and self.ends[0] == "served loop"


# A yarn whose outer fibres lie at an angle bears about the square of its cosine (Hearle, Grosberg
# and Backer 1969, chapter 4). A smooth string is over-twisted where a tenth is lost, at 18 degrees;
# cordage of short fibres needs more twist to hold at all, and is laid up to 35.
_SMOOTH, _CORDAGE = 0.333, 0.70
_KINDS = (
    StringKind("continuous loop", 1, ("served loop", "served loop"), 2, 0.15, 0.85, _SMOOTH,
               "shoots", "wound round two posts; both loops served; needs a jig"),
    StringKind("two-bundle laid twist", 2, ("laid loop", "laid loop"), 1, HAND_LAID, 0.85, _SMOOTH,
               "shoots", "two bundles laid, tails worked in; its length can be twisted to measure"),
    StringKind("three-bundle laid twist", 3, ("laid loop", "laid loop"), 1, HAND_LAID, 0.85,
               _SMOOTH, "shoots", "three bundles laid; rounder, and odd counts share out well"),
    StringKind("plied cordage", 2, ("laid loop", "laid loop"), 1, HARD_LAID, 0.70, _CORDAGE,
               "shoots", "plies of natural fibre or hide, each twisted one way and laid the other"),
    StringKind("one loop and a hitch", 2, ("laid loop", "hitch"), 1, HAND_LAID, 0.75, _SMOOTH,
               "shoots", "one loop; the other end is hitched, so one string serves several bows"),
    StringKind("tillering string", 2, ("laid loop", "hitch"), 1, HAND_LAID, 0.75, _SMOOTH,
               "tillers", "long and strong; a hitch takes it in as the bow bends further"),
    StringKind("bracing string", 2, ("pocket", "pocket"), 1, HAND_LAID, 0.75, _SMOOTH,
               "braces", "a cord with two pockets that bends the bow while its string goes on"),
    StringKind("cable", 2, ("tie", "tie"), 1, HAND_LAID, 0.75, _SMOOTH,
               "ties", "ties a back-bow's end to the limb; twisted to its tension"),
)  # fmt: skip
STRING_KINDS: dict[str, StringKind] = {one.name: one for one in _KINDS}
# As the commands name them.
SHORT = {
    "loop": "continuous loop", "two-bundle": "two-bundle laid twist",
    "three-bundle": "three-bundle laid twist", "plied": "plied cordage",
}  # fmt: skip
MOST_STRANDS, MOST_PLIES = 400, 6


def string_kind(name: str) -> StringKind:
    """Find a kind of string by its name.

    Raises:
        DescriptionError: there is none so called.
    """
    if name not in STRING_KINDS:
        raise DescriptionError(f"Choose one of {', '.join(STRING_KINDS)}.", "kind")
    return STRING_KINDS[name]


def shared_out(strands: int, bundles: int) -> tuple[int, ...]:
    """Strands in each bundle, as even as they go, the fuller ones first.

    Raises:
        DescriptionError: fewer strands than bundles, or more than a string has.
    """
    if not bundles <= strands <= MOST_STRANDS:
        raise DescriptionError(f"Give {bundles} to {MOST_STRANDS} strands.", "strands")
    each, more = divmod(strands, bundles)
    return tuple(each + (k < more) for k in range(bundles))


def check_strands(kind: StringKind, strands: int, bundles: int) -> None:
    """Refuse a number of strands that cannot be laid so.

    Raises:
        DescriptionError: it cannot.
    """
    if kind.step > 1 and strands % kind.step:
        raise DescriptionError(
            "A loop wound round two posts has an even number of strands.", "strands"
        )
    shared_out(strands, max(bundles, kind.step))
