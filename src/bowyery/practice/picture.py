"""What a picture needs to let a practice bow move: its shapes through a draw, place by place."""

from __future__ import annotations

from typing import Any

import numpy as np

from bowyery.arrays import Floats
from bowyery.errors import BowyeryError
from bowyery.mechanics.elastica import shapes
from bowyery.practice.session import State, drawn, goes_at

POSES = 26
NODES = 33
BEYOND = 1.12  # of the full draw: the rope comes no further than the wall


def poses(state: State) -> dict[str, Any]:
    """The bow as it hangs and as it bends, for a picture in the bow's own frame: along to the
    upper limb, across to the belly (m).

    Returns:
        ``draws``, ``weight`` and for each draw ``along``, ``across``, ``use`` of both limbs'
        places, with ``nock`` of the string; ``belly`` from the neutral axis at each place;
        ``rest``, unstrung; ``breaks``, the draw at which it goes, or None; ``held``.
    """
    limbs = state.stave.grid()
    pick = np.linspace(0, limbs.cells, NODES).round().astype(int)
    still = np.zeros((2, 1))
    rest = shapes(limbs, still, still)
    picture: dict[str, Any] = {
        "belly": _rounded((limbs.depth - limbs.axis)[:, 0][:, pick], 5),
        "back": _rounded(limbs.axis[:, 0][:, pick], 5),
        "places": _rounded(limbs.places()[:, 0][:, pick] + np.array(state.roots)[:, None], 4),
        "rest": {
            "along": _rounded(rest.along[:, 0][:, pick], 4),
            "across": _rounded(rest.across[:, 0][:, pick], 4),
        },
        "held": state.held,
        "pivot": [round(float(v), 4) for v in state.bow.hold.pivot],
        "draws": [],
        "weight": [],
        "breaks": None,
        "string": state.string.rung,
    }
    try:
        pulled = drawn(state, BEYOND * state.full_draw, POSES)
    except BowyeryError:
        return picture
    bent = pulled.bent
    picture |= {
        "draws": _rounded(pulled.draws, 4),
        "weight": _rounded(pulled.weight, 2),
        "along": _rounded(np.moveaxis(bent.along[..., pick], 1, 0), 4),
        "across": _rounded(np.moveaxis(bent.across[..., pick], 1, 0), 4),
        "use": _rounded(np.moveaxis(pulled.use[..., pick], 1, 0), 3),
        "breaks": goes_at(pulled),
    }
    return picture


def shape_now(state: State) -> tuple[Floats, Floats] | None:
    """How the bow hangs: along and across of its nodes, ``(2, n+1)`` each (m); None once broken."""
    if state.broke is not None:
        return None
    try:
        pulled = drawn(state, state.held or 0.0, count=2 if state.held is None else 12)
    except BowyeryError:
        return None
    at = pulled.draws[0] if state.held is None else state.held
    return pulled.at(float(at), pulled.bent.along), pulled.at(float(at), pulled.bent.across)


def _rounded(values: Floats, digits: int) -> Any:
    return np.round(np.asarray(values), digits).tolist()
