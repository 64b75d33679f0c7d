"""Lines of instruments, pulls as a scale sends them, and the stand-ins."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError, UnreadableError
from bowyery.instruments import stand_in
from bowyery.instruments.lines import CHANNELS, MOST_LINE, read_line, read_lines
from bowyery.instruments.pull import SILENT, Sample, count_pulls, traced, trouble
from bowyery.units.quantity import FOOT, INCH, KILOGRAM_FORCE, POUND_FORCE, POUND_MASS

CURVE = [(0.17 + 0.01 * k, 6.0 * k) for k in range(50)]


@pytest.mark.parametrize(
    ("line", "what", "value"),
    [
        ("w 12.35 kg", "w", 12.35 * KILOGRAM_FORCE),
        ("w 27.2 lb", "w", 27.2 * POUND_FORCE),
        ("W 12,35 KG", "w", 12.35 * KILOGRAM_FORCE),
        ("w -0.02 kg", "w", -0.02 * KILOGRAM_FORCE),
        ("d 412 mm", "d", 0.412),
        ("d 16 1/4 in", "d", 16.25 * INCH),
        ("d   41.2   cm", "d", 0.412),
        ("v 48.2 m/s", "v", 48.2),
        ("v 158 fps", "v", 158 * FOOT),
        ("t 12.4 mm", "t", 0.0124),
        ("t 0.488 in", "t", 0.488 * INCH),
        ("m 9.4 %", "m", 0.094),
        ("g 1012 g", "g", 1.012),
        ("g 35.7 oz", "g", 35.7 * POUND_MASS / 16),
    ],
)
def test_a_line_is_read_with_its_unit(line: str, what: str, value: float) -> None:
    said = read_line(line)
    assert said.what == what and said.value == pytest.approx(value, rel=1e-6)


def test_the_air_zero_and_hello_are_read() -> None:
    air = read_line("a 17.2 C 58 %")
    assert (air.what, air.value, air.second) == ("a", pytest.approx(17.2), pytest.approx(0.58))
    assert read_line("a 63 F 40%").value == pytest.approx((63 - 32) / 1.8)
    assert read_line(" ZERO ").what == "zero"
    hello = read_line("hello scale the one on the post")
    assert (hello.kind, hello.text) == ("scale", "the one on the post")
    assert read_line("hello air").text == ""


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("w 12.35", "no unit"),
        ("w 12 mm", "is no weight"),
        ("d twelve mm", "is no draw"),
        ("w 12 kg 13 lb", "two units"),
        ("w 12 kg d 3 mm", "two units"),
        ("w 99999 kg", "more than any weight"),
        ("w nan kg", "is no weight"),
        ("w 1e3 kg", "two units"),
        ("x 3 kg", "begins with none of"),
        ("12.35 kg", "begins with none of"),
        ("a 90 C 10 %", "no air that anybody works in"),
        ("a 17 C", "is no air"),
        ("a 17.2 C 130 %", "no air that anybody works in"),
        ("hello toaster", "no instrument known here"),
        ("w", "no unit"),
        ("v 0.2 m/s", "speed"),
        ("", "says nothing"),
        ("w " + "1" * MOST_LINE + " kg", "longer than a reading"),
    ],
)
def test_bad_lines_are_refused_and_never_guessed(line: str, says: str) -> None:
    with pytest.raises(UnreadableError, match=says):
        read_line(line)


@given(st.text(max_size=200))
def test_no_line_stops_it(text: str) -> None:
    for one in read_lines(text):
        if not isinstance(one, UnreadableError):
            assert one.what in (*CHANNELS, "a", "zero", "hello")


def played(seed: int, to: float = 0.6, **more: float) -> list[Sample]:
    rows = stand_in.pull(CURVE, to, np.random.default_rng(seed), **more)
    return [Sample(r.at, r.said.what, r.said.value) for r in rows]


@pytest.mark.parametrize("seed", range(6))
def test_a_slow_pull_is_the_curve_with_its_sinking_and_what_did_not_come_back(seed: int) -> None:
    found = traced(played(seed))
    assert found.top[0] == pytest.approx(0.6, abs=0.004)
    for draw, weight in found.reads(5):
        true = float(np.interp(draw, *zip(*CURVE, strict=True)))
        assert weight == pytest.approx(true, abs=1.6), draw
    assert found.held == pytest.approx(2.4, abs=0.8)
    assert found.sank is not None and 0.002 < found.sank < 0.03
    assert found.kept is not None and 0.02 < found.kept < 0.10
    draws = [draw for draw, _ in found.reads(5)]
    assert draws == sorted(draws) and draws[-1] == found.top[0]


def test_a_pull_that_stays_at_the_top_says_nothing_of_the_way_back() -> None:
    rows = [s for s in played(1) if s.at < 7.5]
    found = traced(rows)
    assert found.kept is None and np.isnan(found.back).all() and found.sank is not None
    quick = traced(played(1, hold=0.2))
    assert quick.sank is None


def test_lines_out_of_order_and_dropped_ones_do_not_matter() -> None:
    rows = played(2)
    kept = [s for k, s in enumerate(rows) if k % 5]
    mixed = [kept[k] for k in np.random.default_rng(3).permutation(len(kept))]
    one, other = traced(rows), traced(mixed)
    assert one.top[1] == pytest.approx(other.top[1], rel=0.01)


def test_what_is_no_pull_is_said() -> None:
    still = [Sample(k / 10, "d" if k % 2 else "w", 0.2 if k % 2 else 3.0) for k in range(60)]
    with pytest.raises(DescriptionError, match="not pulled far enough"):
        traced(still)
    with pytest.raises(DescriptionError, match="weights and draws"):
        traced([s for s in played(1) if s.what == "w"])
    with pytest.raises(DescriptionError, match="weights and draws"):
        traced([])


def spoilt(rows: list[Sample], rng: np.random.Generator) -> list[Sample]:
    """A pull as a loose plug, a dropped rule or a slow clock sends it."""
    for _ in range(int(rng.integers(1, 5))):
        k = int(rng.integers(len(rows)))
        how = int(rng.integers(6))
        if how == 0 and k > 9:
            rows = rows[:k]
        elif how == 1 and k < len(rows) - 9:
            rows = rows[k:]
        elif how == 2:
            one = rows[k]
            wrong = float(one.value * rng.choice([10, 0.1, -1, 0, 3]))
            rows = [*rows[:k], Sample(one.at, one.what, wrong), *rows[k + 1 :]]
        elif how == 3:
            rows = [s for s in rows if rng.uniform() < 0.4] or rows
        elif how == 4:
            rows = [Sample(float(s.at // 1), s.what, s.value) for s in rows]
        else:
            rows = rows + [Sample(s.at + 15, s.what, s.value) for s in rows]
    return rows


@pytest.mark.parametrize("seed", range(60))
def test_a_spoilt_pull_is_refused_or_says_nothing_absurd(seed: int) -> None:
    rng = np.random.default_rng([4, seed])
    rows = spoilt(played(seed), rng)
    assert count_pulls(rows) >= 0
    assert isinstance(trouble(rows, max(s.at for s in rows)), str)
    try:
        found = traced(rows)
    except DescriptionError as why:
        assert str(why).endswith(".")
        return
    assert np.isfinite([*found.top, found.held]).all() and found.held >= 0
    assert (np.diff(found.draws) > 0).all() and np.isfinite(found.weights).all()
    assert found.sank is None or 0 <= found.sank <= 1
    assert found.kept is None or 0 <= found.kept <= 0.5


def test_more_than_went_in_never_comes_back() -> None:
    rows = played(3)
    top = max((s for s in rows if s.what == "d"), key=lambda one: one.value).at
    wrong = [
        Sample(s.at, s.what, s.value * (1.3 if s.what == "w" and s.at > top + 3 else 1))
        for s in rows
    ]
    assert traced(rows).kept is not None and traced(wrong).kept is None


def test_pulls_count_themselves() -> None:
    many = []
    for k in range(7):
        to = 0.30 + 0.02 * k
        many += [
            Sample(s.at + 5 * k, s.what, s.value) for s in played(k, to, seconds=2.0, hold=0.2)
        ]
    assert count_pulls(many) == 7 and count_pulls(many, 0.36) in (3, 4)
    assert count_pulls(played(1)) == 1 and count_pulls([]) == 0
    held = [s for s in played(1) if s.at < 7]
    assert count_pulls(held) == 0  # it is not over yet
    # of several, the last is the one that is kept
    assert traced(many).top[0] == pytest.approx(0.42, abs=0.005)


def test_a_dead_or_lying_instrument_is_told() -> None:
    rows = played(4)
    end = rows[-1].at
    assert trouble(rows, end + 0.1) == ""
    assert "silent" in trouble(rows, end + SILENT + 1)
    assert "said nothing" in trouble([], 1.0)
    stuck = [Sample(s.at, s.what, 40.0 if s.what == "w" else s.value) for s in rows if s.at < 5]
    assert "weight stays at one figure" in trouble(stuck, stuck[-1].at)
    still = [Sample(s.at, s.what, 0.3 if s.what == "d" else s.value) for s in rows if s.at < 5]
    assert "draw stays at one figure" in trouble(still, still[-1].at)
    jumps = [
        Sample(s.at, s.what, s.value * (3 if s.what == "w" and k % 9 == 0 else 1))
        for k, s in enumerate(rows[:100])
    ]
    assert "jumps" in trouble(jumps, jumps[-1].at)


def test_stand_ins_speak_the_protocol() -> None:
    rng = np.random.default_rng(0)
    speakers = (
        stand_in.pull(CURVE, 0.5, rng), stand_in.shots(47.0, 6, rng),
        stand_in.calipers([0.012, 0.011, 0.010], rng), stand_in.weighed(0.6, rng),
        stand_in.moisture(0.1, rng), itertools.islice(stand_in.air(17.0, 0.58, rng), 20),
    )  # fmt: skip
    for lines in speakers:
        rows = list(lines)
        assert [r.at for r in rows] == sorted(r.at for r in rows) and rows
        for row in rows:
            said = read_line(row.line)
            assert said.what == row.said.what
            assert said.value == pytest.approx(row.said.value, rel=2e-3, abs=1e-4)
    shots = [r.said.value for r in stand_in.shots(47.0, 40, rng)]
    assert np.mean(shots) == pytest.approx(47.0, rel=0.01)
    for bad in ([], [(0.2, 3.0)], [(0.2, float("nan")), (0.3, 1.0)]):
        with pytest.raises(DescriptionError):
            list(stand_in.pull(bad, 0.5, rng))
    with pytest.raises(DescriptionError):
        list(stand_in.pull(CURVE, 0.1, rng))
