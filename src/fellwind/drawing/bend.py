"""Small pictures of how a bend family shares the bend along a limb."""

import numpy as np
from django.utils.safestring import SafeString

from bowyery.bow.layout import BEND_FAMILIES
from fellwind.drawing import svg

TURN = 1.35  # rad, of the whole limb in the picture


def bend_picture(family: str) -> SafeString:
    """Both limbs drawn, bent by a family from the same handle to the same angle at the tips."""
    share = (np.arange(40) + 0.5) / 40
    bend = BEND_FAMILIES[family](share)
    angle = np.concatenate([[0.0], np.cumsum(bend / bend.sum() * TURN)])
    step = 44.0 / 40
    along = np.concatenate([[0.0], np.cumsum(step * np.cos(0.5 * (angle[1:] + angle[:-1])))])
    down = np.concatenate([[0.0], np.cumsum(step * np.sin(0.5 * (angle[1:] + angle[:-1])))])
    right = [(52 + x, 6 + y) for x, y in zip(along, down, strict=True)]
    left = [(48 - x, 6 + y) for x, y in zip(along, down, strict=True)]
    return svg.picture(
        100, 46, [svg.path([*left[::-1], *right], "line")], f"{family} bend", "bend-picture"
    )
