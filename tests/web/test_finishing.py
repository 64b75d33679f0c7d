"""The finish bench: looked at, written down, its coats hung, and what cannot be refused."""

from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse

from fellwind.builds.models import Entry, Measure, Wait
from fellwind.designs.models import Design

STAGE = reverse("builds:stage", args=[1, "finish"])
FIGURES = {
    "pass_depth": "3/8", "arrow": "5/16", "back_edge": "1/16", "belly_edge": "1/8",
    "sanded": "0.004", "wrapped": "4", "cord": "3/32", "page_world": "imperial",
}  # fmt: skip


def sent(client: Client, what: str, **change: str):  # type: ignore[no-untyped-def]
    content = FIGURES | {"client_id": str(uuid4())} | change
    return client.post(reverse("builds:finish", args=[1, what]), content)


def test_the_bench_shows_the_pass_and_what_finishing_takes(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(STAGE)
    bench = page.context["finishing"]
    text = page.content.decode()
    assert bench.arrow.sound and "grip-picture" in text
    assert 0.005 < bench.takes.share < 0.12
    assert "the shop reckons with" in text and "Overlay, upper tip" in text
    more = sent(client, "look", belly_edge="3/16")
    assert more.status_code == 200
    assert more.context["finishing"].takes.rounding > bench.takes.rounding
    assert not Entry.objects.filter(kind="finish").exists()


def test_a_pass_too_deep_is_warned_of_and_none_is_cut_in_a_handle_that_bends(
    client: Client, shop: SimpleNamespace
) -> None:
    deep = sent(client, "look", pass_depth="5/8").content.decode()
    assert "deeper than a third of the width" in deep and "cut-away-bad" in deep
    Design.objects.update(sizes={"handle": 0.0, "fade": 0.0})
    bending = client.get(STAGE).content.decode()
    assert "This handle bends" in bending
    refused = sent(client, "pass")
    assert refused.status_code == 422 and not Entry.objects.filter(kind="finish").exists()


def test_acts_are_written_and_the_tiller_is_looked_at_again(
    client: Client, shop: SimpleNamespace
) -> None:
    for what in ("pass", "edges", "sanded", "wrap", "overlay"):
        assert sent(client, what).status_code == 302, what
    texts = list(Entry.objects.filter(kind="finish").values_list("text", flat=True))
    assert len(texts) == 5 and any("arrow pass cut 3/8 in deep" in text for text in texts)
    assert set(Measure.objects.filter(entry__kind="bench").values_list("kind", flat=True)) == {
        "rounded", "overlay",
    }  # fmt: skip
    assert "look at the tiller again" in client.get(STAGE).content.decode()
    key = str(uuid4())
    for _ in range(2):
        assert sent(client, "wrap", client_id=key).status_code == 302
    assert Entry.objects.filter(kind="finish").count() == 6
    log = client.get(reverse("builds:log", args=[1])).content.decode()
    assert "arrow pass cut" in log
    assert client.get(reverse("tiller:screen", args=[1])).status_code == 200


def test_coats_hang_one_after_another(client: Client, shop: SimpleNamespace) -> None:
    where = reverse("builds:finish", args=[1, "coats"])
    assert client.post(where, {"coat": "coat of oil dries", "number": "3"}).status_code == 302
    waits = list(Wait.objects.order_by("until"))
    assert len(waits) == 3 and waits[1].after == waits[0] and waits[2].since == waits[1].until
    for bad in ({"coat": "coat of mail", "number": "3"}, {"coat": "wax rests", "number": "-1"},
                {"coat": "wax rests", "number": "99"}):  # fmt: skip
        client.post(where, bad)
    assert Wait.objects.count() == 3


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"pass_depth": "x"}, "could not be read"),
        ({"pass_depth": "3"}, "outside what is possible"),
        ({"belly_edge": "5/8"}, "can be rounded by"),
        ({"cord": ""}, "This field is required"),
        ({"sanded": "1"}, "outside what is possible"),
    ],
)
def test_what_no_bow_bears_is_refused_with_its_figures_kept(
    client: Client, shop: SimpleNamespace, change: dict[str, str], says: str
) -> None:
    answer = sent(client, "edges", **change)
    text = answer.content.decode()
    assert answer.status_code == 422 and says in text
    assert all(f'value="{value}"' in text for value in change.values() if value)
    assert not Entry.objects.filter(kind="finish").exists()
    assert client.post(reverse("builds:finish", args=[1, "halo"]), FIGURES).status_code == 404
