"""Pages stay few in queries, however much is in the shop."""

from types import SimpleNamespace

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from fellwind.builds.models import Build, Entry
from tests.web.fill import fill


def queries(client: Client, where: str) -> int:
    with CaptureQueriesContext(
        connection,
    ) as seen:
        assert client.get(where).status_code == 200
    return len(seen)


LISTS = {"rack:list": 14, "designs:list": 10, "builds:list": 10, "shop:shop": 11}


@pytest.mark.parametrize("name", LISTS)
def test_lists_ask_no_more_when_there_is_more(
    client: Client, shop: SimpleNamespace, name: str
) -> None:
    where = reverse(name)
    few = queries(client, where)
    fill(shop.design, shop.people.maker, 12, 40)
    assert queries(client, where) <= max(few + 1, 5)
    assert few <= LISTS[name]


def test_today_asks_for_the_shop_once_and_for_each_tiller_only_its_log(
    client: Client, shop: SimpleNamespace
) -> None:
    fill(shop.design, shop.people.maker, 3, 6)
    few = queries(client, "/")
    Build.objects.update(stage="tiller")
    assert queries(client, "/") <= few + 2 * 2


def test_build_pages_are_bounded(client: Client, shop: SimpleNamespace) -> None:
    fill(shop.design, shop.people.maker, 3, 60)
    Entry.objects.update(build=shop.build)
    for where, most in (
        (reverse("tiller:screen", args=[1]), 14),
        (reverse("tiller:bench", args=[1]), 14),
        (reverse("builds:log", args=[1]), 10),
        (reverse("builds:stage", args=[1, "rough"]), 12),
        (reverse("strings:sheet", args=[1]), 11),
        (reverse("designs:detail", args=[shop.design.pk]), 9),
    ):
        assert queries(client, where) <= most, where
