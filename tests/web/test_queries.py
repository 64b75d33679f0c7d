"""Pages stay few in queries, however much is in the shop."""

from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from fellwind.builds.models import Build, Entry, Measure
from fellwind.designs import services
from tests.web.fill import fill
from tests.web.forms import design_form


def queries(client: Client, where: str) -> int:
    with CaptureQueriesContext(
        connection,
    ) as seen:
        assert client.get(where).status_code == 200
    return len(seen)


LISTS = {"rack:list": 16, "designs:list": 12, "builds:list": 12, "shop:shop": 12}


@pytest.mark.parametrize("name", LISTS)
def test_lists_ask_no_more_when_there_is_more(
    client: Client, shop: SimpleNamespace, name: str
) -> None:
    where = reverse(name)
    few = queries(client, where)
    fill(shop.design, shop.people.maker, 12, 40)
    assert queries(client, where) <= max(few + 1, 5)
    assert few <= LISTS[name]


def test_a_full_shop_asks_no_more_than_a_small_one_and_its_pages_grow_no_longer(
    client: Client, shop: SimpleNamespace
) -> None:
    """Ten builds against two hundred, each from a design of its own; a hundred staves."""
    where = ["/", *(reverse(name) for name in LISTS), reverse("tiller:screen", args=[1])]

    def measured() -> list[tuple[int, int]]:
        return [(queries(client, one), len(client.get(one).content)) for one in where]

    fill(shop.design, shop.people.maker, 10, 100)
    small = measured()
    fill(shop.design, shop.people.maker, 200, 2000, first=500)
    for one, (few, short), (many, long) in zip(where, small, measured(), strict=True):
        assert many <= few, (one, few, many)
        assert long < 250_000 and long < 6 * short, (one, short, long)
    # what is not on the first page is found by leafing and by searching
    page = client.get(reverse("builds:list"), {"page": 2}).content.decode()
    assert "page 2 of 9" in page and 'rel="prev"' in page
    found = client.get(reverse("builds:list"), {"q": "bow 17"}).content.decode()
    assert "Bow 17<" in found and "found for “bow 17”" in found
    assert "Bow 601" not in found
    for odd in (
        {"page": "0"},
        {"page": "9" * 30},
        {"q": "\0" * 9},
        {"q": "x" * 9000, "page": "-1"},
    ):
        for name in ("builds:list", "designs:list", "rack:list"):
            assert client.get(reverse(name), odd).status_code == 200


def test_each_reading_makes_only_its_own_row_anew(client: Client, shop: SimpleNamespace) -> None:
    fill(shop.design, shop.people.maker, 12, 60)
    numbers = Build.objects.filter(stage="tiller").values_list("number", flat=True)
    for number in numbers:
        client.get(reverse("tiller:act", args=[number]))
    assert "Reckoning" not in client.get("/").content.decode()
    line = {"line": "30 at 20", "page_world": "imperial"}
    client.post(reverse("builds:keep", args=[1]), line)
    assert client.get("/").content.decode().count("Reckoning") == 1


def test_build_pages_are_bounded(client: Client, shop: SimpleNamespace) -> None:
    fill(shop.design, shop.people.maker, 3, 60)
    Entry.objects.update(build=shop.build)
    for where, most in (
        (reverse("tiller:screen", args=[1]), 22),
        (reverse("tiller:bench", args=[1]), 22),
        (reverse("builds:log", args=[1]), 10),
        (reverse("builds:stage", args=[1, "rough"]), 14),
        (reverse("strings:sheet", args=[1]), 13),
        # what the shop has learned of its wood, its set and its arrows is four of them
        (reverse("designs:detail", args=[shop.design.pk]), 13),
    ):
        assert queries(client, where) <= most, where


def test_what_a_shop_has_learned_asks_no_more_for_more_bows(
    client: Client, shop: SimpleNamespace
) -> None:
    fill(shop.design, shop.people.maker, 14, 14, first=500)
    where = [reverse("designs:detail", args=[shop.design.pk]), reverse("tiller:screen", args=[1])]

    def prove(builds: list[Build]) -> None:
        for build in builds:
            entry = Entry.objects.create(build=build, kind="proof", stage="proof", text="proof")
            for kind, value in (("weight", 185.0), ("string follow", 0.03), ("shots", 60.0),
                                ("arrow mass", 0.027), ("arrow speed", 46.0)):  # fmt: skip
                Measure.objects.create(entry=entry, kind=kind, value=value, text="x")

    others = list(Build.objects.exclude(number=1))
    prove(others[:2])
    for one in where:
        client.get(one)
    few = [queries(client, one) for one in where]
    prove(others[2:])
    for one in where:
        client.get(one)
    assert [queries(client, one) for one in where] == few


MOST_INPUTS = {"designs:detail": 2, "tiller:screen": 2, "designs:edit": 4}


@pytest.mark.parametrize("name", MOST_INPUTS)
def test_a_page_asks_for_each_design_once(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    """Rows become the core's inputs once for each design that a page speaks of, however often they
    are asked for.
    """
    asked, real = [], services._core_inputs
    monkeypatch.setattr(services, "_core_inputs", lambda row: asked.append(row) or real(row))
    where = reverse(name, args=[1 if name == "tiller:screen" else shop.design.pk])
    assert client.get(where).status_code == 200
    assert len(asked) <= MOST_INPUTS[name], asked


def test_keeping_a_design_solves_it_once(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    solved, real = [], services.solve_design
    monkeypatch.setattr(
        services, "solve_design", lambda *asked: solved.append(asked) or real(*asked)
    )
    sent = design_form(shop.design, weight="43.21", form_id=str(uuid4()))
    where = reverse("designs:edit", args=[shop.design.pk])
    assert client.post(where, sent).status_code == 302
    assert client.get(reverse("designs:detail", args=[shop.design.pk])).status_code == 200
    assert len(solved) == 1
