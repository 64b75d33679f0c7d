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


# The arrows that were read on a design's bows, newest last.
PROVED_SHOTS: Port[[Design], Sequence[ReadShot]] = Port()
