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
