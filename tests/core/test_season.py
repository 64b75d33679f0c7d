"""How long a bow still takes, and when to begin for a wanted day."""

from datetime import date, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bowyery.errors import DescriptionError
from bowyery.making.rests import Hours, hours, rests
from bowyery.making.season import ahead, schedule, work_by_stage
from bowyery.making.stages import STAGES

TABLE = {name: hours(rest, 20, 0.5) for name, rest in rests().items()}
TODAY = date(2026, 11, 28)

WORK = {name: stage.hours for name, stage in STAGES.items()}


def test_each_stage_that_is_done_leaves_less_ahead():
    left = [ahead(stage, WORK, TABLE) for stage in STAGES]
    assert all(a.work > b.work for a, b in pairwise(left))
    assert all(a.rests.usual >= b.rests.usual for a, b in pairwise(left))
    assert left[-1].rests == Hours(0.0, 0.0, 0.0)


def test_a_backings_rests_are_ahead_until_it_rests_or_is_past():
    dries = [TABLE["last course of sinew dries"]]
    plain, backed = ahead("rough", WORK, TABLE), ahead("rough", WORK, TABLE, dries)
    assert backed.rests.usual > plain.rests.usual + 24
    running = ahead("back", WORK, TABLE, dries, [Hours(5.0, 5.0, 5.0)])
    assert running.rests.usual < backed.rests.usual
    assert ahead("tiller", WORK, TABLE, dries) == ahead("tiller", WORK, TABLE)


def test_a_wanted_day_is_counted_back_to_the_day_to_begin():
    left = ahead("wood", WORK, TABLE)
    found = schedule(TODAY, left, 8.0, TODAY + timedelta(days=60))
    assert found.early < found.usual < found.late
    assert found.safe < found.latest < TODAY + timedelta(days=60)
    # begun on the last day it is done on the wanted one
    again = schedule(found.latest, left, 8.0)
    assert again.usual == TODAY + timedelta(days=60)
    assert schedule(found.safe, left, 8.0).late == TODAY + timedelta(days=60)


@given(st.integers(1, 60), st.integers(-30, 200))
def test_whether_it_is_done_in_time_goes_with_the_day(a_week, days):
    found = schedule(TODAY, ahead("rough", WORK, TABLE), float(a_week))
    order = ["no", "hardly", "likely", "yes"]
    here = found.chance(TODAY + timedelta(days=days))
    later = found.chance(TODAY + timedelta(days=days + 20))
    assert order.index(later) >= order.index(here)


def test_the_shops_own_bows_draw_the_hours_towards_what_they_took():
    own = work_by_stage({"tiller": [12.0, 14.0, 13.0, 13.0]})
    assert own["tiller"] == pytest.approx((2 * 6 + 52) / 6) and own["rough"] == WORK["rough"]


@pytest.mark.parametrize("a_week", [0.0, -3.0, float("nan")])
def test_without_hours_there_is_no_plan(a_week):
    with pytest.raises(DescriptionError):
        schedule(TODAY, ahead("wood", WORK, TABLE), a_week)
