"""Compiles what is compiled, so that nobody waits for it: ``python -m bowyery.mechanics.warm``."""

from __future__ import annotations

from dataclasses import replace
from multiprocessing import Process

import numpy as np

from bowyery.bow.bow import BackBow, Bow, Limb
from bowyery.bow.section import Layer
from bowyery.mechanics import back_bow as backbow
from bowyery.mechanics import curve
from bowyery.mechanics.dynamics import loose

_WOOD = (Layer("core", "wood", 11e9, 640.0),)


def _limb(at: list[float], width: list[float], depth: list[float], across: float = 0.0) -> Limb:
    return Limb(np.array(at), np.array(width), np.array(depth), _WOOD, root=(0.06, across, 0.0))


def march() -> Bow:
    """Brace, hang and draw a plain bow, and return it."""
    limb = _limb([0.0, 0.4, 0.78], [0.04, 0.04, 0.013], [0.016, 0.014, 0.01])
    plain = Bow(limb, limb, brace_height=0.15)
    for bow in (plain, replace(plain, brace_height=None, string_length=1.72)):
        curve.solve(bow, np.array([0.5]), 8)
    return plain


def shot(plain: Bow) -> None:
    """Loose it."""
    loose(plain, 0.6, 0.03, masses=8, steps=40)


def tied(plain: Bow) -> None:
    """Draw it with a back-bow."""
    second = _limb([0.0, 0.55], [0.03, 0.02], [0.01, 0.01], -0.02)
    backbow.solve(replace(plain, back_bow=BackBow(second, 0.76, 30.0)), np.array([0.3]), 8)


def main() -> None:
    """Compile the march, then what stands on it, on two cores."""
    plain = march()
    beside = Process(target=shot, args=(plain,))
    beside.start()
    tied(plain)
    beside.join()


if __name__ == "__main__":
    main()
