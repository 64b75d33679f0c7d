"""The calendar feed: valid, with alarms, for whoever has the link, until it is taken back."""

import re
from datetime import date, timedelta
from types import SimpleNamespace

import icalendar
import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from fellwind.builds.models import Build, Wait
from fellwind.calendar import services
from fellwind.calendar.models import Feed
from fellwind.calendar.views import MOST
from fellwind.shop.models import Workshop
from tests.conftest import signed_in
from tests.web.forms import made_from
from tests.web.test_two_people import SHOP


def link(client: Client) -> str:
    """Make a link; the address that is shown."""
    page = client.post(reverse("calendar:make"), follow=True).content.decode()
    found = re.search(r"/calendar/[\w-]+\.ics", page)
    assert found
    return found[0]


def events(address: str) -> list[icalendar.Event]:
    answer = Client().get(address)
    assert answer.status_code == 200 and answer["Content-Type"].startswith("text/calendar")
    found = icalendar.Calendar.from_ical(answer.content)
    assert str(found["version"]) == "2.0" and found["prodid"]
    assert all(len(row) <= 75 for row in answer.content.split(b"\r\n"))
    return list(found.walk("VEVENT"))


def test_ends_of_rests_stand_there_with_alarms(client: Client, shop: SimpleNamespace) -> None:
    until = timezone.now().replace(microsecond=0) + timedelta(days=3)
    kept = Wait.objects.create(build=shop.build, what="Glue, cures; ends\nhere", until=until)
    Wait.objects.create(build=shop.build, what="Gone", until=until, ended=timezone.now())
    address = link(client)
    (one,) = events(address)
    assert one["dtstart"].dt == until and str(one["uid"]) == f"wait-{kept.pk}@fellwind"
    assert "Glue, cures; ends\nhere" in str(one["summary"]) and "Number 1" in str(one["summary"])
    (alarm,) = one.walk("VALARM")
    assert alarm["trigger"].dt == timedelta(0) and str(alarm["action"]) == "DISPLAY"
    Build.objects.update(finished=timezone.now())
    assert events(address) == []


def test_a_wait_with_a_range_says_how_long_it_may_take(client: Client) -> None:
    client.post(reverse("builds:wait", args=[1]), {"rest": "course of sinew dries"})
    (one,) = events(link(client))
    assert "It may take until" in str(one["description"])


def test_only_the_hash_is_kept_and_a_link_taken_back_leads_nowhere(
    client: Client, shop: SimpleNamespace
) -> None:
    address = link(client)
    token = address.removeprefix("/calendar/").removesuffix(".ics")
    feed = Feed.objects.get()
    assert token not in feed.digest and len(token) > 30
    assert token not in client.get(reverse("calendar:links")).content.decode()
    # nobody else can take it back
    other = signed_in(shop.people.helper)
    back = reverse("calendar:take_back", args=[feed.pk])
    assert other.post(back).status_code == 404
    assert Client().get(address).status_code == 200
    assert client.post(back).status_code == 302
    assert Client().get(address).status_code == 404
    for odd in ("x", "é", "a" * 300, "%00"):
        assert Client().get(f"/calendar/{odd}.ics").status_code in (400, 404)


def test_a_guest_has_a_link_of_their_own_and_a_shut_account_none(shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    address = link(guest)
    assert Client().get(address).status_code == 200
    shop.people.guest.is_active = False
    shop.people.guest.save()
    assert Client().get(address).status_code == 404


def test_links_are_few_and_need_signing_in(client: Client) -> None:
    for _ in range(MOST + 2):
        client.post(reverse("calendar:make"))
    assert Feed.objects.count() == MOST
    assert Client().get(reverse("calendar:links")).status_code == 302
    assert Client().post(reverse("calendar:make")).status_code == 302


@pytest.mark.parametrize("days", [1, 400])
def test_a_stave_that_dries_stands_on_its_day(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch, days: int
) -> None:
    day = date.today() + timedelta(days=days)
    ready = SimpleNamespace(ready=day)
    monkeypatch.setattr(services, "seasoning", lambda stave, workshop: ready)
    shop.stave.builds.clear()
    Build.objects.update(stave=None)
    found = events(link(client))
    assert [one["dtstart"].dt for one in found] == [day] * len(found) and found


def test_a_line_break_in_a_name_is_refused_and_breaks_no_calendar(
    client: Client, shop: SimpleNamespace
) -> None:
    sent = SHOP | made_from(Workshop.get()) | {"name": "Two\nlines"}
    answer = client.post(reverse("shop:shop"), sent)
    assert answer.status_code == 422 and "line break" in answer.content.decode()
    assert "\n" not in Workshop.get().name
    archer = {"name": "Ru\x0bna", "draw": "27", "draw_ruler": "pivot", "weight": "40"}
    refused = client.post(reverse("shop:archer_new"), archer)
    assert refused.status_code == 422 and refused.context["form"].errors["name"]
    # one that is there already, from elsewhere
    Workshop.objects.update(name="Two\r\nlines")
    found = icalendar.Calendar.from_ical(services.calendar(timezone.now()))
    assert str(found["x-wr-calname"]) == "Two lines"
