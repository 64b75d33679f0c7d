"""Waits: from the table in this air, one after another, moved together; the shop's own rows."""

import html
import re
from datetime import datetime, timedelta
from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from fellwind.builds.models import Wait
from fellwind.builds.waits import finish, plan
from fellwind.shop.models import OwnRest, Workshop
from fellwind.shop.services import rest_table
from tests.conftest import signed_in
from tests.web.forms import made_from

HANG = reverse("builds:wait", args=[1])
STAGE = reverse("builds:stage", args=[1, "rough"])


def local(when: datetime) -> str:
    return timezone.localtime(when).strftime("%Y-%m-%dT%H:%M")


def hang(client: Client, **given: object) -> object:
    return client.post(HANG, {k: str(v) for k, v in given.items()})


def hours(wait: Wait) -> float:
    return (wait.until - wait.since).total_seconds() / 3600


def test_a_rest_of_the_table_takes_as_long_as_this_air_makes_it(client: Client) -> None:
    Workshop.objects.update_or_create(pk=1, defaults={"air_celsius": 20, "air_humidity": 0.5})
    assert hang(client, rest="white wood glue sets").status_code == 302
    Workshop.objects.update(air_celsius=10)
    assert hang(client, rest="white wood glue sets", what="Riser glued").status_code == 302
    warm, cold = Wait.objects.order_by("pk")
    assert hours(warm) == pytest.approx(24, abs=0.1) and hours(cold) == pytest.approx(48, abs=0.1)
    assert (warm.what, cold.what) == ("White wood glue sets", "Riser glued")
    assert cold.least == pytest.approx(24) and cold.most == pytest.approx(96)


def test_one_follows_another_and_what_is_moved_moves_what_follows(
    client: Client, shop: SimpleNamespace
) -> None:
    hang(client, rest="sinew soaks")
    first = Wait.objects.get()
    hang(client, rest="course of sinew dries", after=first.pk)
    second = Wait.objects.order_by("-pk")[0]
    hang(client, rest="last course of sinew dries", after=second.pk)
    third = Wait.objects.order_by("-pk")[0]
    assert second.since == first.until and third.since == second.until
    rows = plan(shop.build)
    last = finish(rows)
    assert last is not None and last.wait == third and last.early < third.until < last.late
    page = html.unescape(client.get(STAGE).content.decode())
    assert "All of it is over" in page and "after Course of sinew dries" in page
    ends = [w.until for w in (first, second, third)]
    move = reverse("builds:move_wait", args=[1, first.pk])
    answer = client.post(move, {"until": local(first.until + timedelta(days=2))}, follow=True)
    assert "and 2 that follow" in answer.content.decode()
    moved = [Wait.objects.get(pk=w.pk).until for w in (first, second, third)]
    for before, after in zip(ends, moved, strict=True):
        assert after - before == pytest.approx(timedelta(days=2), abs=timedelta(minutes=2))
    # what is over goes its own way
    Wait.objects.filter(pk=second.pk).update(ended=timezone.now())
    client.post(move, {"until": local(moved[0] + timedelta(days=1))})
    assert Wait.objects.get(pk=third.pk).until == moved[2]


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "Say what rests."),
        ({"what": "Glue"}, "Say until when"),
        ({"rest": "moon"}, "not one of the available"),
        ({"rest": "white wood glue sets", "until": "soon"}, "valid date"),
        ({"what": "Glue", "until": "2001-01-01T10:00"}, "passed already"),
        ({"what": "Glue", "until": "2090-01-01T10:00"}, "five years"),
        ({"rest": "sinew soaks", "after": "999"}, "not one of the available"),
    ],
)
def test_a_wait_that_cannot_be_gets_its_sentence(
    client: Client, given: dict[str, str], says: str
) -> None:
    answer = hang(client, **given)
    assert answer.status_code == 422 and not Wait.objects.exists()
    assert says in html.unescape(answer.content.decode())


def test_a_cure_shorter_than_the_glues_is_refused_with_its_earliest_end(client: Client) -> None:
    soon = timezone.now() + timedelta(hours=2)
    answer = hang(client, rest="epoxy cures in the shop", until=local(soon))
    assert answer.status_code == 422
    assert "it needs at least" in answer.content.decode()
    later = timezone.now() + timedelta(days=9)
    assert hang(client, rest="epoxy cures in the shop", until=local(later)).status_code == 302
    before = hang(client, what="Next", until=local(soon), after=Wait.objects.get().pk)
    assert before.status_code == 422 and "before what it follows" in before.content.decode()


def test_a_move_into_the_past_changes_nothing(client: Client) -> None:
    hang(client, rest="rawhide soaks")
    wait = Wait.objects.get()
    move = reverse("builds:move_wait", args=[1, wait.pk])
    for until in ("2001-01-01T10:00", "", "x"):
        assert client.post(move, {"until": until}).status_code == 302
    assert Wait.objects.get().until == wait.until
    assert client.post(reverse("builds:move_wait", args=[1, 99]), {}).status_code == 404


def test_waits_in_a_ring_do_not_go_round(client: Client, shop: SimpleNamespace) -> None:
    """No page makes one; a file from elsewhere could."""
    hang(client, rest="rawhide soaks")
    hang(client, rest="sinew soaks")
    a, b = Wait.objects.order_by("pk")
    Wait.objects.filter(pk=a.pk).update(after=b)
    Wait.objects.filter(pk=b.pk).update(after=a)
    assert len(plan(shop.build)) == 2
    move = reverse("builds:move_wait", args=[1, a.pk])
    assert client.post(move, {"until": local(a.until + timedelta(days=1))}).status_code == 302


def test_the_shop_puts_its_own_figures_in_place_of_the_books(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(reverse("shop:rests")).content.decode()
    assert "Hide glue sets" in page and "make it ours" in page
    new = reverse("shop:rest_new")
    asked = client.get(new, {"of": "hide glue sets"}).content.decode()
    assert 'value="24"' in asked or 'value="24.0"' in asked
    row = {
        "name": "hide glue sets", "what": "glue", "low": "20", "usual": "30", "high": "40",
        "air": "none", "note": "the loft is damp",
    }  # fmt: skip
    assert client.post(new, row).status_code == 302
    assert rest_table()["hide glue sets"].usual == 30
    again = client.post(new, row)
    assert again.status_code == 422 and "already" in again.content.decode()
    wrong = client.post(new, row | {"name": "hide glue 2", "low": "50"})
    assert wrong.status_code == 422 and "The least comes first" in wrong.content.decode()
    own = OwnRest.objects.get()
    edit = reverse("shop:rest", args=[own.pk])
    assert client.post(edit, row | {"usual": "36"} | made_from(own)).status_code == 302
    assert hang(client, rest="hide glue sets").status_code == 302
    assert hours(Wait.objects.get()) == pytest.approx(36, abs=0.1)
    assert signed_in(shop.people.helper).post(new, row | {"name": "x"}).status_code == 403


def test_a_hanging_wait_covers_no_stages_name(client: Client) -> None:
    for _ in range(3):
        hang(client, rest="rawhide soaks")
    page = client.get(STAGE).content.decode()
    stages = page.split('class="picture stages"')[1].split("</svg>")[0]
    tops = [float(v) for v in re.findall(r'class="weight" x="[\d.]+" y="([\d.]+)"', stages)]
    assert len(tops) == 3 and max(tops) + 8 <= 30  # names begin below that
