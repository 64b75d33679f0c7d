"""Compiles what is compiled, so that nobody waits for it: ``python -m bowyery.mechanics.warm``."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bowyery.bow.bow import BackBow, Bow, Limb
from bowyery.bow.section import Layer
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve
from bowyery.mechanics.dynamics import loose

_WOOD = (Layer("core", "wood", 11e9, 640.0),)


def _limb(at: list[float], width: list[float], depth: list[float], across: float = 0.0) -> Limb:
    return Limb(np.array(at), np.array(width), np.array(depth), _WOOD, root=(0.06, across, 0.0))


def main() -> None:
    """Brace, hang, draw and loose a plain bow, and draw one with a back-bow."""
    limb = _limb([0.0, 0.4, 0.78], [0.04, 0.04, 0.013], [0.016, 0.014, 0.01])
    plain = Bow(limb, limb, brace_height=0.15)
    loose(plain, 0.6, 0.03, masses=8, steps=40)
    curve.solve(replace(plain, brace_height=None, string_length=1.72), np.array([0.5]), 8)
    second = _limb([0.0, 0.55], [0.03, 0.02], [0.01, 0.01], -0.02)
    tied = replace(plain, back_bow=BackBow(second, 0.76, 30.0))
    backbow.solve(tied, np.array([0.3]), 8)


if __name__ == "__main__":
    main()
