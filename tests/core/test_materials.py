"""Book values, what moisture does to them, and seasoning."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError, EstimateError
from bowyery.wood import materials, seasoning


def test_there_are_woods_backings_and_fibres_with_sources() -> None:
    assert len(materials.woods()) >= 24
    everything = [*materials.woods().values(), *materials.backings().values()]
    for m in everything:
        assert 5e8 < m.modulus < 6e10, m.name
        assert 400 < m.density < 2100, m.name
        assert any(year in m.source for year in ("19", "20")), m.name
        assert m.elastic_strain < m.working_strain < m.rupture_strain
    for needed in ("rawhide", "sinew", "linen", "silk", "bamboo slat", "unidirectional glass"):
        assert materials.material(needed)
    for needed in ("linen", "polyester", "nettle", "sinew", "silk"):
        assert materials.fibre(needed).breaking_force > 10


def test_published_figures_are_as_published() -> None:
    """Shagbark hickory and black locust of the Wood Handbook, table 5-3."""
    hickory, locust = materials.material("shagbark hickory"), materials.material("black locust")
    assert (hickory.modulus, hickory.rupture) == (14.9e9, 139e6)
    assert (locust.modulus, locust.rupture) == (14.1e9, 134e6)


def test_strings_hold_together_with_their_mass() -> None:
    """Tenacity in N/tex stays within what textile fibres reach."""
    for f in materials.fibres().values():
        tenacity = f.breaking_force / (f.line_mass * 1e6)
        assert 0.06 < tenacity < 3.2, f.name


@given(st.sampled_from(sorted(materials.woods())), st.floats(0.04, 0.24), st.floats(0.002, 0.05))
def test_wetter_wood_is_softer_weaker_and_heavier(name: str, moisture: float, more: float) -> None:
    dry, wet = (
        materials.at_moisture(materials.material(name), m) for m in (moisture, moisture + more)
    )
    assert wet.modulus <= dry.modulus
    assert wet.rupture <= dry.rupture
    assert wet.density > dry.density


def test_moisture_leaves_the_book_value_at_twelve_per_cent_and_other_kinds_alone() -> None:
    ash = materials.material("white ash")
    assert materials.at_moisture(ash, 0.12) == ash
    glass = materials.material("unidirectional glass")
    assert materials.at_moisture(glass, 0.05) is glass
    assert materials.at_moisture(ash, 0.30).modulus == materials.at_moisture(ash, 0.60).modulus


def test_a_staves_own_figures_replace_the_books() -> None:
    own = materials.overridden(materials.material("rowan"), modulus=12.3e9)
    assert own.modulus == 12.3e9
    assert own.rupture == materials.material("rowan").rupture
    book = materials.material("rowan")
    # stiffer and no stronger, it is no tougher for that
    assert own.rupture_strain == pytest.approx(book.rupture_strain * book.modulus / own.modulus)
    with pytest.raises(DescriptionError):
        materials.overridden(own, density=-1.0)


@pytest.mark.parametrize("bad", [-0.1, math.nan, math.inf])
def test_impossible_moisture_is_refused(bad: float) -> None:
    with pytest.raises(DescriptionError):
        materials.at_moisture(materials.material("rowan"), bad)


def test_unknown_materials_are_named() -> None:
    with pytest.raises(DescriptionError, match="driftglass"):
        materials.material("driftglass")
    with pytest.raises(DescriptionError, match="wool"):
        materials.fibre("wool")


@pytest.mark.parametrize(
    ("celsius", "humidity", "percent"),
    [
        (21.1, 0.50, 9.2),
        (21.1, 0.30, 6.2),
        (21.1, 0.80, 16.0),
        (4.4, 0.65, 12.3),
        (26.7, 0.65, 11.7),
    ],
)
def test_balance_moisture_is_the_handbooks_table(
    celsius: float, humidity: float, percent: float
) -> None:
    """Wood Handbook (2021), table 4-2."""
    assert seasoning.balance_moisture(celsius, humidity) * 100 == pytest.approx(percent, abs=0.25)


@given(st.floats(0, 40), st.floats(0.05, 0.9), st.floats(0.01, 0.09))
def test_damper_air_means_damper_wood(celsius: float, humidity: float, more: float) -> None:
    assert seasoning.balance_moisture(celsius, humidity + more) > seasoning.balance_moisture(
        celsius, humidity
    )


def test_impossible_air_is_refused() -> None:
    for celsius, humidity in ((20, 1.2), (20, -0.1), (200, 0.5)):
        with pytest.raises(DescriptionError):
            seasoning.balance_moisture(celsius, humidity)


def _dries(days: np.ndarray, end: float, start: float, rate: float) -> np.ndarray:
    return end + (start - end) * np.exp(-rate * days)


@pytest.mark.parametrize("rate", [1 / 30, 1 / 60, 1 / 100])
def test_drying_finds_the_end_and_the_day_of_a_known_stave(rate: float) -> None:
    """A stave of known dry mass, weighed with an honest scale for long enough."""
    balance, dry = 0.11, 1.5
    days = np.arange(0, 160, 16.0)
    masses = _dries(days, dry * (1 + balance), dry * 1.40, rate)
    found = seasoning.drying(list(days), list(masses), balance, 0.10, days[-1])
    now = masses[-1] / dry - 1
    assert found.moisture == pytest.approx(now, abs=0.012)
    truth = math.log((0.40 - balance) / 0.005) / rate - days[-1]
    assert found.ready_range[0] - 10 <= max(truth, 0.0) <= found.ready_range[1] + 10
    assert found.rate == pytest.approx(rate, rel=0.25)


def test_fewer_weighings_say_less() -> None:
    days = np.arange(0, 120, 15.0)
    masses = _dries(days, 1.66, 2.1, 1 / 45)
    spreads = []
    for count in (2, 4, 8):
        spreads.append(
            seasoning.drying(
                list(days[:count]), list(masses[:count]), 0.11, 0.10, days[count - 1]
            ).spread
        )
    assert spreads[0] > spreads[1] > spreads[2]


@pytest.mark.parametrize(
    ("days", "masses", "says"),
    [
        ([0], [2.0], "Two weighings"),
        ([0, 0], [2.0, 1.9], "order of their days"),
        ([5, 2], [2, 1.9], "order"),
        ([0, 9], [2.0, -1], "above zero"),
    ],
)
def test_unusable_weighings_get_a_sentence(
    days: list[float], masses: list[float], says: str
) -> None:
    with pytest.raises(EstimateError, match=says):
        seasoning.drying(days, masses, 0.1, 0.1, 30)


def test_meter_readings_beside_weighings_narrow_the_forecast_and_stand_alone() -> None:
    """A stave of known dry mass; an honest scale, and a meter that is honest too."""
    balance, dry, rate = 0.11, 1.5, 1 / 50
    days = np.array([0.0, 14.0, 28.0])
    masses = _dries(days, dry * (1 + balance), dry * 1.30, rate)
    meter = masses / dry - 1
    scale = seasoning.drying(days, masses, balance, 0.10, 28.0)
    both = seasoning.drying(days, masses, balance, 0.10, 28.0, days, meter)
    alone = seasoning.drying([], [], balance, 0.10, 28.0, days, meter)
    for found in (both, alone):
        assert found.moisture == pytest.approx(meter[-1], abs=0.01)
        assert np.all(found.low <= found.curve + 1e-9) and np.all(found.curve <= found.high + 1e-9)
    assert both.spread < scale.spread and both.dry_mass == pytest.approx(dry, rel=0.01)
    assert alone.dry_mass is None and alone.final_mass is None
    one = seasoning.drying([], [], balance, 0.10, 0.0, [0.0], [0.18])
    assert one.ready_range[1] > 3 * one.ready_range[0] > 0
    for wrong in ([0.0], [-0.1]), ([0.0, 0.0], [0.2, 0.2]), ([0.0], [0.2, 0.3]):
        with pytest.raises(EstimateError):
            seasoning.drying([], [], balance, 0.10, 0.0, *wrong)
