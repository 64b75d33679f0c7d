"""Draw weights against an independent corotational finite-element solution, kept in
finite_elements.json.
"""

import json
from pathlib import Path

import numpy as np
import pytest

from bowyery.mechanics import curve as force_curve
from tests.core.bows import checked_by_elements

STORED = {
    row["name"]: row
    for row in json.loads((Path(__file__).parent / "finite_elements.json").read_text())
}


def test_enough_kinds_of_bow_were_solved_by_elements() -> None:
    assert len(STORED) >= 10
    assert set(STORED) == set(checked_by_elements())


@pytest.mark.parametrize("name", STORED)
def test_draw_weight_agrees(name: str) -> None:
    row = STORED[name]
    ours = force_curve.solve(checked_by_elements()[name], np.array(row["draws_m"])).drawn.weight
    assert ours == pytest.approx(row["weights_n"], rel=5e-4)
