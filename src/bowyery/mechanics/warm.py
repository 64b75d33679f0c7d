"""Compiles what is compiled, so that nobody waits for it: ``python -m bowyery.mechanics.warm``."""

from __future__ import annotations

import numpy as np

from bowyery.bow.bow import Bow, Limb
from bowyery.bow.section import Layer
from bowyery.mechanics.dynamics import loose


def main() -> None:
    """Brace, draw and loose a plain bow."""
    at, width, depth = (
        np.array(row) for row in ([0.0, 0.4, 0.78], [0.04, 0.04, 0.013], [0.016, 0.014, 0.01])
    )
    limb = Limb(at, width, depth, (Layer("core", "wood", 11e9, 640.0),), root=(0.06, 0.0, 0.0))
    loose(Bow(limb, limb, brace_height=0.15), 0.6, 0.03, masses=8, steps=40)


if __name__ == "__main__":
    main()
