"""Energy and efficiency of a finished bow from its curve and a chronograph."""

from __future__ import annotations

from bowyery.mechanics.curve import Curve


def stored_at(curve: Curve, weight: float) -> float:
    """Energy stored from brace to full draw by a bow that pulls another weight than its curve.

    The forces of two bows of one shape go with their stiffness, so that energy goes with weight.

    Args:
        curve: of the bow as designed.
        weight: measured at full draw (N).

    Returns:
        The energy (J).
    """
    return float(curve.energy[-1]) * weight / float(curve.drawn.weight[-1])


def efficiency(arrow: float, speed: float, energy: float) -> float:
    """Share of the stored energy that an arrow takes along: ``½ m v² / E``.

    Args:
        arrow: its mass (kg).
        speed: as it left the string (m/s).
        energy: stored (J).

    Returns:
        The share.
    """
    return 0.5 * arrow * speed**2 / energy
