"""Pages stay few in queries and quick, however much is in the shop."""

import time
from types import SimpleNamespace
from uuid import uuid4

import numpy as np
import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from bowyery import statics
from fellwind.builds.models import Build, Entry, Measure, Wait
from fellwind.staves.models import Stave, Weighing
from tests.conftest import signed_in
from tests.core.bows import bow


@pytest.fixture
def client(shop: SimpleNamespace) -> Client:
    return signed_in(shop.people.maker)


def fill(shop: SimpleNamespace, bows: int, readings: int) -> None:
    """More bows from the same design, with readings spread over them."""
    from django.utils import timezone

    builds = Build.objects.bulk_create(
        Build(number=n + 2, name=f"Bow {n}", design=shop.design, stage="tiller" if n % 3 == 0 else "wood") for n in range(bows)
    )
    entries = Entry.objects.bulk_create(
        Entry(build=builds[i % bows], stage="tiller", text="36 at 21", client_id=uuid4(), by=shop.people.maker, minutes=5)
        for i in range(readings)
    )
    Measure.objects.bulk_create(
        Measure(entry=e, kind="weight", value=160 - (i % 7), draw=0.5334, text="36 at 21") for i, e in enumerate(entries)
    )
    Wait.objects.bulk_create(Wait(build=b, what="dries", until=timezone.now() + timezone.timedelta(days=2)) for b in builds[::4])
    staves = Stave.objects.bulk_create(
        Stave(number=n + 2, material="plum", length=1.7, width=0.05, depth=0.04) for n in range(bows // 2)
    )
    today = timezone.localdate()
    Weighing.objects.bulk_create(
        Weighing(stave=s, day=today - timezone.timedelta(days=9 * k), mass=1.0 + 0.02 * k, text="", client_id=uuid4())
        for s in staves
        for k in range(3)
    )


def queries(client: Client, where: str) -> int:
    with CaptureQueriesContext(
        connection,
    ) as seen:
        assert client.get(where).status_code == 200
    return len(seen)


LISTS = {"staves:list": 13, "designs:list": 9, "builds:list": 9, "workshop:shop": 10}


@pytest.mark.parametrize("name", LISTS)
def test_lists_ask_no_more_when_there_is_more(client: Client, shop: SimpleNamespace, name: str) -> None:
    where = reverse(name)
    few = queries(client, where)
    fill(shop, 12, 40)
    assert queries(client, where) <= max(few + 1, 5)
    assert few <= LISTS[name]


def test_today_asks_for_the_shop_once_and_for_each_tiller_only_its_log(client: Client, shop: SimpleNamespace) -> None:
    fill(shop, 3, 6)
    few = queries(client, "/")
    Build.objects.update(stage="tiller")
    assert queries(client, "/") <= few + 2 * 2


def test_build_pages_are_bounded(client: Client, shop: SimpleNamespace) -> None:
    fill(shop, 3, 60)
    Entry.objects.update(build=shop.build)
    for where, most in (
        (reverse("tiller:screen", args=[1]), 14),
        (reverse("tiller:bench", args=[1]), 14),
        (reverse("builds:log", args=[1]), 10),
        (reverse("builds:stage", args=[1, "rough"]), 12),
        (reverse("strings:sheet", args=[1]), 11),
        (reverse("designs:detail", args=[shop.design.pk]), 7),
    ):
        assert queries(client, where) <= most, where


def test_today_with_two_hundred_bows_answers_in_time(client: Client, shop: SimpleNamespace) -> None:
    """Two hundred bows, of which a dozen are open, and five thousand readings: the median of a warm page."""
    from django.utils import timezone

    fill(shop, 200, 5000)
    Build.objects.filter(number__gt=12).update(finished=timezone.now())
    pages = [reverse(n) for n in ("workshop:today", "staves:list", "designs:list")] + [reverse("tiller:screen", args=[2])]
    for where in pages:
        client.get(where)
        times = []
        for _ in range(5):
            start = time.perf_counter()
            assert client.get(where).status_code == 200
            times.append(time.perf_counter() - start)
        assert np.median(times) < 0.5, (where, times)  # the aim is 0.15 s; a busy test machine is given more


def test_a_curve_of_twenty_six_draws_is_quick() -> None:
    draws = np.linspace(0.16, 0.66, 26)
    statics.solve(bow(), draws)
    start = time.perf_counter()
    for _ in range(5):
        statics.solve(bow(), draws)
    assert (time.perf_counter() - start) / 5 < 0.5
