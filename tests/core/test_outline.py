"""An outline told by the few marks between which it is straight."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from bowyery.design.outline import bends_of


def test_a_straight_run_needs_its_ends_alone() -> None:
    at = np.linspace(0.0, 0.7, 15)
    assert bends_of(at, 0.05 - 0.04 * at, 1e-4) == [0, 14]
    knee = np.interp(at, [0.0, 0.35, 0.7], [0.045, 0.045, 0.012])
    assert bends_of(at, knee, 1e-4) == [0, 7, 14]
    assert bends_of(at[:1], knee[:1], 1e-4) == [0]


@given(st.lists(st.floats(0.005, 0.06), min_size=2, max_size=20), st.floats(1e-4, 0.01))
def test_whatever_the_outline_nothing_strays_further_than_was_asked(
    widths: list[float], within: float
) -> None:
    at, width = np.linspace(0.0, 0.7, len(widths)), np.array(widths)
    kept = bends_of(at, width, within)
    assert kept[0] == 0 and kept[-1] == len(widths) - 1
    assert np.abs(np.interp(at, at[kept], width[kept]) - width).max() <= within + 1e-12
