"""An inquest weighs what the record tells, and leaves open what it does not."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.record.inquest import CAUSES, HOWS, MOST, Facts, inquest


def share(facts: Facts, name: str) -> float:
    return next(one.share for one in inquest(facts) if one.name == name)


maybe = st.none()
FACTS = st.builds(
    Facts,
    how=st.sampled_from(sorted(HOWS)),
    use=maybe | st.floats(0.1, 1.6),
    bend=maybe | st.floats(-0.5, 1.5),
    flaw=maybe | st.tuples(st.sampled_from(["tight knot", "hairline"]), st.floats(0, 0.6)),
    slope=maybe | st.floats(0, 0.3),
    moisture=maybe | st.floats(0.02, 0.4),
    pulls=maybe | st.integers(0, 200),
    over=maybe | st.floats(-0.2, 0.2),
    unseen=maybe | st.sampled_from(["", "heat"]),
    layered=st.booleans(),
)


@given(FACTS)
def test_shares_are_shares_and_something_always_stays_open(facts: Facts) -> None:
    rows = inquest(facts)
    assert sum(one.share for one in rows) == pytest.approx(1)
    assert [one.share for one in rows] == sorted((one.share for one in rows), reverse=True)
    assert share(facts, "") > 0.001
    assert {one.name for one in rows} - {""} <= set(CAUSES)
    assert ("glue" in {one.name for one in rows}) == facts.layered
    for one in rows:
        assert all(1 / MOST <= e.ratio <= MOST for e in one.evidence)
        for e in one.evidence:
            assert e.fact == "how" or getattr(facts, e.fact) is not None


@given(FACTS, st.floats(0.1, 1.4), st.floats(0.0, 0.4))
def test_more_strain_never_speaks_against_being_overstrained(
    facts: Facts, use: float, more: float
) -> None:
    low, high = replace(facts, use=use), replace(facts, use=use + more)
    assert share(high, "overstrained") >= share(low, "overstrained") - 1e-12


@pytest.mark.parametrize(
    ("facts", "first"),
    [
        (Facts("knot", flaw=("loose knot", 0.01), use=0.7, pulls=30, over=-0.05), "flaw"),
        (Facts("fold", bend=0.45, use=0.8, pulls=30, over=-0.02), "hinge"),
        (Facts("back", use=1.05, bend=0.0, pulls=30, over=-0.01, moisture=0.09), "overstrained"),
        (Facts("splinter", slope=math.radians(9), use=0.7), "grain"),
        (Facts("glue", layered=True, use=0.7), "glue"),
        (Facts("back", moisture=0.03, use=0.7, pulls=40, over=-0.05, bend=0.0,
               flaw=("pin knot", 0.4), slope=0.01), "dry"),
        (Facts("fold", pulls=0, use=0.6, bend=0.02, over=-0.05, flaw=("pin knot", 0.4), slope=0.01,
               moisture=0.09), "untrained"),
    ],
)  # fmt: skip
def test_plain_cases_are_seen(facts: Facts, first: str) -> None:
    named = [one for one in inquest(facts) if one.name]
    assert named[0].name == first
    assert named[0].earlier.endswith(".")


def test_with_nothing_known_nothing_is_sure() -> None:
    rows = inquest(Facts("back"))
    assert rows[0].share < 0.5
    with pytest.raises(DescriptionError):
        inquest(Facts("magic"))
