"""How the bending stiffness of a limb goes with wood taken off its belly.

Wood comes off the belly's last layer first, then off the one beneath it; a limb thicker than its
design is so on its belly. The stiffness of each thickness is integrated from the section itself
(:mod:`bowyery.bow.section`): the cube of the thickness for a solid limb, nearer its power 3.6 under
sinew, and far more under a belly of glass.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import Bow
from bowyery.bow.limb_grid import LimbGrid, interpolation, layer_depths
from bowyery.bow.section import completed, integrate

LEAST, MOST = 0.2, 2.2  # shares of the design's thickness between which it is known
SHARES = np.linspace(LEAST, MOST, 161)
_LOGS = np.log(SHARES)
_DESIGN = int(np.abs(SHARES - 1).argmin())


@dataclass(frozen=True)
class Thinning:
    """Stiffness by thickness at places of both limbs.

    Attributes:
        depth: the design's thickness, ``(2, places)`` (m).
        logs: log of the stiffness over the design's at so many shares of that thickness,
            increasing, ``(2, places, SHARES.size)``.
    """

    depth: Floats
    logs: Floats

    def standing(self, field: Floats) -> Floats:
        """Thickness that stands, if all of the stiffness beyond the design's is thickness (m).

        Args:
            field: log stiffness against the design at the places, ``(2, places)``.
        """
        rows = zip(field.reshape(-1), self.logs.reshape(-1, SHARES.size), strict=True)
        share = np.exp([np.interp(one, logs, _LOGS) for one, logs in rows])
        return np.asarray(self.depth * share.reshape(field.shape))

    def log_at(self, thickness: Floats) -> Floats:
        """Log stiffness against the design, ``(2, places)``.

        Args:
            thickness: that stands at the places, ``(2, places)`` (m).
        """
        share = np.log(np.maximum(thickness / self.depth, LEAST))
        rows = zip(share.reshape(-1), self.logs.reshape(-1, SHARES.size), strict=True)
        return np.array([np.interp(one, _LOGS, logs) for one, logs in rows]).reshape(share.shape)

    def fall(self, field: Floats, taken: Floats) -> Floats:
        """By how much log stiffness falls when so much is taken, below zero, ``(2, places)``.

        Args:
            field: log stiffness against the design before, ``(2, places)``.
            taken: thickness to come off, ``(2, places)`` (m).
        """
        stands = self.standing(field)
        return np.asarray(self.log_at(stands - taken) - self.log_at(stands))

    def removal(self, field: Floats, fall: Floats) -> Floats:
        """Thickness to take for log stiffness to fall so much, ``(2, places)`` (m).

        Args:
            field: log stiffness against the design before, ``(2, places)``.
            fall: how much it is to fall, zero or more, ``(2, places)``.
        """
        stands = self.standing(field)
        return np.asarray(stands - self.standing(self.log_at(stands) - fall))


def thinning(bow: Bow, limbs: LimbGrid, shares: Floats, rest: bool = False) -> Thinning:
    """How stiffness goes with thickness at places of a bow's limbs.

    Args:
        limbs: its grid; the first of its bows counts.
        shares: places as shares of the grid's length, ``(places,)`` or ``(2, places)``.
        rest: what comes and goes is of the layer that has the rest of the depth, as in a bow file,
            instead of the belly's.

    Returns:
        The law at each place; a grip that bends follows the section at the limb's root.
    """
    shares = np.broadcast_to(shares, (2, np.shape(shares)[-1]))
    logs, depths = [], []
    for side, limb in enumerate(bow.limbs):
        at = shares[side] * float(limbs.length[side, 0]) - float(limbs.grip[side, 0])
        at = np.clip(at, 0.0, limb.length)
        matrix = interpolation(limb.at, at)
        layers = layer_depths(limb, at)
        depth = layers.sum(0)
        # (layers, m, places): what is missing comes off from the belly up, what is more is added to
        # it
        missing = depth * (1 - SHARES[:, None])
        left = np.repeat(layers[:, None], SHARES.size, 1)
        first = [la.thickness is None for la in limb.layers].index(True) if rest else -1
        left[first] -= np.minimum(missing, 0.0)
        missing = np.maximum(missing, 0.0)
        for k in (first,) if rest else range(len(layers) - 1, -1, -1):
            gone = np.minimum(left[k], missing)
            left[k] -= gone
            missing = missing - gone
        values = integrate(
            completed(limb.shape).at(matrix),
            np.broadcast_to(matrix @ limb.width, missing.shape),
            left,
            np.array([la.modulus for la in limb.layers]),
            np.array([la.density for la in limb.layers]),
        ).stiffness
        row = np.log(np.maximum(values / values[_DESIGN], 1e-6)).T
        row = np.maximum.accumulate(row, -1) + 1e-9 * np.arange(SHARES.size)
        logs.append(row - row[:, [_DESIGN]])
        depths.append(depth)
    return Thinning(np.stack(depths), np.stack(logs))
