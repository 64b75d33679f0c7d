"""What designs ask of the rooms above them."""

from collections.abc import Sequence
from typing import Protocol

from fellwind.designs.models import Design
from fellwind.kit.ports import Port


class ReadShot(Protocol):
    """An arrow that a chronograph read: mass (kg), speed (m/s), and the bow's weight then (N)."""

    @property
    def arrow(self) -> float: ...
    @property
    def speed(self) -> float: ...
    @property
    def weight(self) -> float: ...


# What is marked on the wood of a design's newest open bow: places from the centre, upper limb
# positive (m), with their words.
MARKED_ON_WOOD: Port[[Design], Sequence[tuple[float, str]]] = Port()
# The arrows that were read on a design's bows, newest last.
PROVED_SHOTS: Port[[Design], Sequence[ReadShot]] = Port()


class FinishedBow(Protocol):
    """A bow of this shop that was proved: its number, the name of its kind, its greatest strain at
    full draw, and how far it follows the string (m), where that was read.
    """

    @property
    def number(self) -> int: ...
    @property
    def kind(self) -> str: ...
    @property
    def strain(self) -> float: ...
    @property
    def follow(self) -> float | None: ...


FINISHED_BOWS: Port[[], Sequence[FinishedBow]] = Port()
