"""A season summed up: misses and bands, with what a few bows allow to be said."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.record.season import held, missed


@given(st.lists(st.floats(-50, 50), min_size=1, max_size=40))
def test_misses_are_summed_up(values: list[float]) -> None:
    found = missed(values)
    assert found is not None and found.count == len(values)
    assert min(values) - 1e-9 <= found.mean <= max(values) + 1e-9
    assert abs(found.worst) == max(abs(v) for v in values)
    shifted = missed([v + 3 for v in values])
    assert shifted is not None and shifted.mean == pytest.approx(found.mean + 3, abs=1e-6)


def test_nothing_is_said_of_no_bow_and_no_number_is_no_miss() -> None:
    assert missed([]) is None and held([]) is None
    with pytest.raises(DescriptionError):
        missed([math.nan])


@given(st.integers(1, 60), st.integers(0, 60))
def test_the_interval_holds_the_share_and_narrows(count: int, good: int) -> None:
    good = min(good, count)
    found = held([k < good for k in range(count)])
    more = held([k % count < good for k in range(4 * count)])
    assert found is not None and more is not None
    assert 0 <= found.low <= found.share + 1e-12 and found.share - 1e-12 <= found.high <= 1
    assert more.high - more.low < found.high - found.low
