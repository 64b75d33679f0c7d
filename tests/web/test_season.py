"""The season's plan, and the order of the day."""

from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone

from fellwind.builds.models import Build, Entry, Wait
from fellwind.builds.season import own_hours
from fellwind.builds.services import builds
from fellwind.designs.models import Design

SEASON = reverse("builds:season")


def test_every_open_bow_and_every_unbegun_design_has_its_day(client, shop):
    Design.objects.create(
        **{f.attname: getattr(shop.design, f.attname) for f in Design._meta.concrete_fields
           if f.name not in ("id", "name")}, name="Not begun",
    )  # fmt: skip
    page = client.get(SEASON)
    names = {row.name for row in page.context["rows"]}
    assert {shop.build.name, "Not begun"} <= names
    assert "not begun" in page.content.decode() and "season-picture" in page.content.decode()


def test_a_wanted_day_says_what_to_begin_when(client, shop):
    Design.objects.create(
        **{f.attname: getattr(shop.design, f.attname) for f in Design._meta.concrete_fields
           if f.name not in ("id", "name", "stave")}, name="No stave", stave=None,
    )  # fmt: skip
    far = timezone.localdate() + timedelta(days=200)
    page = client.get(SEASON, {"wanted": f"{far:%Y-%m-%d}", "a_week": "10"})
    row = next(r for r in page.context["rows"] if r.name == "No stave")
    assert row.good and "to be sure" in row.begin
    soon = timezone.localdate() + timedelta(days=3)
    page = client.get(SEASON, {"wanted": f"{soon:%Y-%m-%d}", "a_week": "1"})
    row = next(r for r in page.context["rows"] if r.name == "No stave")
    assert not row.good and "cannot be begun in time" in row.begin


@pytest.mark.parametrize(
    "given",
    [{"wanted": "2001-01-01"}, {"wanted": "soon"}, {"wanted": "2099-01-01"},
     {"wanted": "", "a_week": "0"}, {"a_week": "many"}],
)  # fmt: skip
def test_a_day_that_cannot_be_is_said_and_the_plan_still_stands(client, shop, given):
    page = client.get(SEASON, {"wanted": "", "a_week": "8"} | given)
    assert page.status_code == 200 and page.context["form"].errors
    assert page.context["rows"] and 'class="error"' in page.content.decode()


def test_hours_are_learned_from_finished_bows_only(client, shop):
    build = Build.objects.get(number=1)
    Entry.objects.create(build=build, stage="tiller", text="long", minutes=600)
    assert own_hours() == {}
    Build.objects.filter(pk=build.pk).update(finished=timezone.now())
    assert own_hours() == {"tiller": [10.0]}


def _another(shop, number, stage, stave=None, **sizes):
    first = shop.design
    values = {f.attname: getattr(first, f.attname) for f in Design._meta.concrete_fields}
    del values["id"]
    made = Design.objects.create(
        **values
        | {"name": f"Bow {number}", "sizes": sizes}
        | ({"stave_id": stave.pk} if stave else {})
    )
    return Build.objects.create(number=number, name=made.name, design=made, stage=stage)


def test_today_begins_with_what_is_due_then_the_longest_chain_and_what_rests_last(client, shop):
    # Given one bow whose wait is over, one that rests, a plain one near its end, one to be backed
    now = timezone.now()
    due, rests = _another(shop, 21, "back"), _another(shop, 22, "back")
    near, long = _another(shop, 23, "proof"), _another(shop, 24, "rough", back="sinew",
                                                      back_root=0.002, back_nock=0.001)  # fmt: skip
    Wait.objects.create(build=due, what="Glue", since=now - timedelta(2), until=now - timedelta(1))
    Wait.objects.create(build=rests, what="Glue", since=now, until=now + timedelta(1))
    page = client.get("/").content.decode()
    places = [page.index(f"Bow {n.number}") for n in (due, long, near, rests)]
    assert places == sorted(places)
    # and what has lain over for a day stands on top
    assert page.index("over since") < page.index("Bow 21</a>")
    assert "days of rests ahead" in page


def test_a_warm_box_is_used_for_the_next_lams(client, shop):
    now = timezone.now()
    warm = _another(shop, 31, "back")
    Wait.objects.create(build=warm, what="Epoxy cures in the oven", since=now,
                        until=now + timedelta(hours=5))  # fmt: skip
    assert "The box is warm" not in client.get("/").content.decode()
    _another(shop, 32, "back", back="bamboo slat", back_root=0.003, back_nock=0.002)
    assert "warm the lams of number 32 in it too" in client.get("/").content.decode()


def test_a_clock_of_minutes_runs_on_today_too(client, shop):
    now = timezone.now()
    build = Build.objects.get(number=1)
    Wait.objects.create(
        build=build, what="Glue is open", since=now, until=now + timedelta(minutes=40)
    )
    page = client.get("/").content.decode()
    assert "data-until=" in page
    assert builds().get(number=1).resting[0].short


def test_a_bow_whose_stave_still_dries_is_not_called_ready(client, shop):
    # Given a wet stave that has been weighed twice, and a bow begun from it
    now = timezone.now()
    stave = shop.stave
    stave.weighings.all().delete()
    for days, mass in ((30, 4.0), (15, 3.6), (1, 3.35)):
        stave.weighings.create(day=timezone.localdate() - timedelta(days=days), mass=mass)
    build = _another(shop, 41, "wood", stave=stave)
    Build.objects.filter(pk=build.pk).update(stave=stave)
    page = client.get("/").content.decode()
    assert now and "Its stave dries in the rack" in page
