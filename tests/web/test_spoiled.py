"""A stave spoiled and re-planned."""

import pytest
from django.urls import reverse

from bowyery.units.quantity import INCH
from fellwind.builds.models import Build, Entry
from fellwind.designs import services
from fellwind.designs.models import Design

PAGE = reverse("builds:spoiled", args=[1])
ASKED = {"limb": "upper", "place": "29", "page_world": "imperial"}


def test_every_way_out_stands_there_with_its_weight_and_verdict(client, shop):
    page = client.get(PAGE, ASKED)
    rows = page.context["rows"]
    assert {row.way.way for row in rows} == {"cut", "handle moved", "short below", "splice"}
    text = page.content.decode()
    assert "spliced on" in text and "Can be made to" in text
    assert "A limb is spoiled" in client.get(
        reverse("builds:stage", args=[1, "rough"])).content.decode()  # fmt: skip


def test_a_way_that_is_taken_plans_the_build_anew_and_keeps_the_first_design(client, shop):
    first = Build.objects.get(number=1).design
    Build.objects.filter(number=1).update(laid={"start": 0.1})
    answer = client.post(PAGE, ASKED | {"way": "handle moved"}, follow=True).content.decode()
    build = Build.objects.get(number=1)
    assert build.design != first and build.laid is None
    assert build.design.length < first.length and Design.objects.filter(pk=first.pk).exists()
    found = services.solution(build.design)
    assert found.weight == pytest.approx(build.design.weight, rel=0.007)
    assert "follows" in answer
    entry = Entry.objects.latest("pk")
    assert "upper limb spoiled" in entry.text and "29 in" in entry.text


@pytest.mark.parametrize(
    "given",
    [{"place": ""}, {"place": "1"}, {"place": "50"}, {"place": "here"}, {"limb": "left"}],
)
def test_damage_that_cannot_be_there_is_said(client, shop, given):
    page = client.get(PAGE, ASKED | given)
    assert page.status_code == 200 and page.context["form"].errors
    assert 'class="error"' in page.content.decode()
    assert client.post(PAGE, ASKED | given | {"way": "cut"}).status_code == 422


def test_no_such_way_changes_nothing(client, shop):
    first = Build.objects.get(number=1).design
    assert client.post(PAGE, ASKED | {"way": "magic"}).status_code == 422
    assert Build.objects.get(number=1).design == first


def test_a_bow_spoiled_half_way_says_what_is_not_worth_having(client, shop):
    text = client.get(PAGE, ASKED | {"place": f"{8 * INCH / INCH:.0f}"}).content.decode()
    assert "too short for this draw" in text
