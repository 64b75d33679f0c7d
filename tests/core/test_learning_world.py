"""What a shop's learning is worth in a world off the book; the benchmark's own figures come from
ten bows and ten more.
"""

import numpy as np
import pytest

from benchmarks import learning
from bowyery.record.learned import QUANTITIES

pytestmark = pytest.mark.slow

COUNT, LOOKED_AT = 5, (12, 13)


@pytest.fixture(scope="module")
def shop() -> learning.Shop:
    return learning.season(COUNT, most=14)


def test_a_shop_sees_what_is_off_the_book(shop: learning.Shop) -> None:
    assert set(shop.seen) == set(QUANTITIES) - {"creep"} and len(shop.heated) == COUNT
    one = learning.truth(12)
    assert shop.knows("modulus", one).middle < -0.03
    assert shop.knows("bite", one, "scraper").middle > 1.25
    assert shop.knows("set share", one).off > 0.04
    for name in ("finishing", "shooting", "hysteresis", "bedding"):
        told = shop.knows(name, one)
        assert told.off > 0 and told.spread < 1.05 * told.before, name


def test_forecasts_are_nearer_after_five_bows_than_after_none(shop: learning.Shop) -> None:
    pairs = [learning.both(number, shop, most=14) for number in LOOKED_AT]
    before, after = (
        {name: np.array([pair[k].rows[name][0] for pair in pairs]) for name in pairs[0][0].rows}
        for k in (0, 1)
    )
    nearer = [name for name in before if abs(after[name]).mean() < abs(before[name]).mean()]
    assert {"weight at its marks", "bite of the scraper", "bend by heat"} <= set(nearer)
    assert "string after 200 pulls" in nearer and len(nearer) >= 6, nearer
    held = [row[2] for pair in pairs for row in pair[1].rows.values()]
    assert np.mean(held) > 0.8


def test_by_the_book_nothing_that_was_seen_counts() -> None:
    again = [learning.make(13, learning.Shop(), most=3)[0] for _ in range(2)]
    assert again[0] == again[1]
