"""Instruments in the shop: tokens, lines, fields that wait, the pull that is kept, the command."""

import io
from collections.abc import Iterator
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import Client
from django.urls import reverse

from bowyery.instruments import stand_in
from bowyery.instruments.lines import Said
from bowyery.units.quantity import INCH, KILOGRAM_FORCE, METRIC, Units
from fellwind.builds.models import Entry, Measure
from fellwind.instruments import services
from fellwind.instruments.live import MOST, Live, live
from fellwind.instruments.models import Instrument, TracedPull
from fellwind.shop.models import Workshop
from tests.conftest import signed_in

LIST = reverse("instruments:list")
CURVE = [(0.17 + 0.01 * k, 6.0 * k) for k in range(50)]


@pytest.fixture(autouse=True)
def quiet() -> Iterator[None]:
    """Nothing is heard of another test."""
    yield
    services.player.stop()
    live.__init__()  # type: ignore[misc]


def hear(token: str, text: str, **more: Any) -> Any:
    stranger = Client(HTTP_HOST="127.0.0.1", enforce_csrf_checks=True)
    more.setdefault("content_type", "text/plain")
    return stranger.post(reverse("instruments:hear", args=[token]), text.encode(), **more)


def scale() -> tuple[Instrument, str]:
    return Instrument.issue("the scale", "scale", None)


def test_a_token_is_made_shown_once_and_taken_back(client: Client) -> None:
    done = client.post(
        reverse("instruments:make"), {"kind": "scale", "name": "oak post"}, follow=True
    )
    page = done.content.decode()
    address = page.partition("it is shown once: ")[2].partition("<")[0].strip()
    token = address.rstrip("/").rpartition("/")[2]
    assert len(token) > 20 and token not in client.get(LIST).content.decode()
    assert hear(token, "w 12 kg\nd 300 mm\n").status_code == 204
    row = Instrument.objects.get()
    assert row.digest != token and row.good == 2 and row.heard is not None
    client.post(reverse("instruments:take_back", args=[row.pk]))
    refused = hear(token, "w 12 kg")
    assert refused.status_code == 404 and b"No instrument" in refused.content
    assert "taken back" in client.get(LIST).content.decode()
    assert live.since(0) == []


def test_bad_lines_are_counted_and_shown(client: Client) -> None:
    row, token = scale()
    assert hear(token, "w 12\nw 12 kg 13 lb\nw 12 kg\n\xff\n").status_code == 204
    row.refresh_from_db()
    assert (row.good, row.bad) == (1, 3)
    page = client.get(LIST).content.decode()
    assert "begins with none of" in page


def test_ten_thousand_lines_at_once_leave_the_newest(db: None) -> None:
    _, token = scale()
    text = "".join(f"w {k / 1000:.3f} kg\n" for k in range(10_000))
    assert hear(token, text).status_code == 204
    kept = live.since(0)
    assert len(kept) == MOST and kept[-1].said.value == pytest.approx(9.999 * KILOGRAM_FORCE)
    assert Instrument.objects.get().good == 10_000


def test_other_kinds_of_content_and_ways_are_refused(db: None) -> None:
    _, token = scale()
    assert hear(token, "w=12", content_type="application/json").status_code == 415
    stranger = Client(HTTP_HOST="127.0.0.1")
    where = reverse("instruments:hear", args=[token])
    assert stranger.get(where).status_code in (302, 405)
    assert hear("made-up", "w 12 kg").status_code == 404
    assert live.since(0) == []


def test_fields_take_what_was_said_as_it_would_be_typed() -> None:
    inch, metric = Units(), Units(METRIC)
    force = Said("w", 12.35 * KILOGRAM_FORCE)
    assert services.typed(force, metric) == {"weight": "12.35"}
    assert services.typed(force, inch) == {"weight": "27.2"}
    assert services.typed(Said("t", 0.0124), metric) == {"length": "12.40"}
    assert services.typed(Said("t", 0.488 * INCH), inch) == {"length": "0.488"}
    assert services.typed(Said("d", 0.412), metric) == {"length": "412"}
    assert services.typed(Said("m", 0.094), inch) == {"moisture": "9.4"}
    assert services.typed(Said("v", 48.2), metric)["speed"].startswith("48")
    assert set(services.typed(Said("g", 1.012), metric)) == {"mass", "bulk mass"}
    assert services.typed(Said("a", 17.0, 0.5), metric) == {}


def test_a_page_hears_only_what_came_since_it_listens(
    client: Client, shop: SimpleNamespace
) -> None:
    _, token = scale()
    hear(token, "w 3 kg\n")
    first = client.get(reverse("instruments:now")).json()
    assert first["lines"] == []
    hear(token, "w 4 kg\nt 12.4 mm\n")
    told = client.get(reverse("instruments:now") + f"?since={first['number']}").json()
    assert [line["what"] for line in told["lines"]] == ["w", "t"]
    assert told["lines"][0]["typed"] == {"weight": "8.8"}
    assert client.get(reverse("instruments:now") + "?since=x").status_code == 200
    stranger = Client(HTTP_HOST="127.0.0.1")
    assert stranger.get(reverse("instruments:now")).status_code in (302, 401)


def pulled(row: Instrument, seed: int = 1, where: Live = live) -> int:
    """A pull that was played as fast as can be; the line before it."""
    before, clock = where.number, [0.0]
    where._clock = lambda: clock[0]
    for one in stand_in.pull(CURVE, 0.6, np.random.default_rng(seed)):
        clock[0] = one.at
        where.hear(row.pk, [one.said])
    return before


def test_a_pull_is_a_check_with_its_whole_curve(client: Client, shop: SimpleNamespace) -> None:
    row, _ = scale()
    since = pulled(row)
    told = client.get(reverse("instruments:now") + f"?since={since}&pull=1").json()
    assert told["pulls"] == 1 and told["trouble"] == "" and told["weight"] is not None
    body = {"since": str(since), "client_id": str(uuid4()), "then": "bench"}
    for _ in range(2):  # sent twice, it is one
        answer = client.post(reverse("instruments:keep", args=[1]), body, follow=True)
    said = answer.content.decode()
    assert "Written down:" in said and "did not come back" in said
    entry = Entry.objects.get(kind="bench")
    weights = list(entry.measures.filter(kind="weight").order_by("draw"))
    assert len(weights) == 4 and weights[-1].more  # it sank in the hold
    for one in weights[:-1]:
        assert one.draw is not None and one.value is not None
        true = float(np.interp(one.draw, *zip(*CURVE, strict=True)))
        assert one.value == pytest.approx(true, abs=2.0)
    samples = TracedPull.objects.get(entry=entry).samples
    assert len(samples) > 150 and {row[1] for row in samples} == {"w", "d"}


def test_two_scales_at_once_are_not_taken_for_one(client: Client, shop: SimpleNamespace) -> None:
    row, _ = scale()
    other, _ = Instrument.issue("the other tree's", "scale", None)
    since = pulled(row)
    live.hear(other.pk, [Said("w", 21.0)])
    told = client.get(reverse("instruments:now") + f"?since={since}&pull=1").json()
    assert "2 scales speak at once" in told["trouble"]
    assert row.name in told["trouble"] and "the other tree's" in told["trouble"]
    body = {"since": str(since), "client_id": str(uuid4())}
    said = client.post(reverse("instruments:keep", args=[1]), body, follow=True).content.decode()
    assert "silence all but one" in said
    assert not Entry.objects.filter(kind="bench").exists()
    live.hear(other.pk, [Said("t", 0.012)])  # calipers at the same bench are no scale
    since = pulled(row)
    live.hear(other.pk, [Said("t", 0.012)])
    assert live.speakers(since, "wd") == {"w": {row.pk}, "d": {row.pk}}
    client.post(reverse("instruments:keep", args=[1]), {**body, "since": str(since)})
    assert Entry.objects.filter(kind="bench").count() == 1


def test_no_pull_and_no_lines_are_answered(client: Client, shop: SimpleNamespace) -> None:
    row, _ = scale()
    where = reverse("instruments:keep", args=[1])
    none = client.post(where, {"since": "0"}, follow=True).content.decode()
    assert "Nothing was heard of the scale" in none
    live.hear(row.pk, [Said("w", 3.0), Said("d", 0.2)] * 10)
    still = client.post(where, {"since": "0"}, follow=True).content.decode()
    assert "not pulled far enough" in still
    assert not Entry.objects.filter(kind="bench").exists()
    guest = signed_in(shop.people.guest)
    assert guest.post(where, {"since": "0"}).status_code == 403
    helper = signed_in(shop.people.helper)
    assert helper.post(where, {"since": "0"}).status_code == 302
    asked = {"kind": "scale", "name": "mine"}
    assert helper.post(reverse("instruments:make"), asked).status_code == 403
    assert helper.post(reverse("instruments:take_back", args=[row.pk])).status_code == 403


def test_zero_counts_from_what_was_shown_last(db: None) -> None:
    _, token = scale()
    hear(token, "w 0.40 kg\nzero\nw 5.40 kg\n")
    assert live.since(0)[-1].said.value == pytest.approx(5.0 * KILOGRAM_FORCE)
    hear(token, "zero\nw 5.40 kg\n")
    assert live.since(0)[-1].said.value == pytest.approx(0.0, abs=1e-9)


def test_lines_of_a_stand_in_are_counted_too(db: None) -> None:
    row, token = scale()
    hear(token, "w 1 kg\n")
    live.hear(row.pk, [Said("w", 3.0)] * 40)  # as one that is played in the server speaks
    (shown,) = services.instruments()
    assert shown.good == 41
    live._counts[row.pk].since -= 60
    hear(token, "w 2 kg\n")
    row.refresh_from_db()
    assert row.good == 42


def test_the_air_follows_its_thermometer_now_and_then(db: None) -> None:
    shop = Workshop.get()
    _, token = Instrument.issue("the wall", "air", None)
    hear(token, "a 12.5 C 71 %")
    shop.refresh_from_db()
    assert (shop.air_celsius, shop.air_humidity) == (pytest.approx(12.5), pytest.approx(0.71))
    version = shop.version
    hear(token, "a 12.6 C 70 %\na 19 C 50 %")
    shop.refresh_from_db()
    assert shop.version == version  # ten minutes have not gone by
    live.air_at = live.now() - services.AIR_EVERY - 1
    hear(token, "a 12.6 C 71 %")
    shop.refresh_from_db()
    assert shop.version == version  # it has hardly moved


@pytest.mark.parametrize("kind", ["scale", "chronograph", "calipers", "balance", "meter", "air"])
def test_every_stand_in_can_be_started_from_the_shop(
    client: Client, shop: SimpleNamespace, kind: str
) -> None:
    row, _ = Instrument.issue("it", kind, None)
    where = reverse("instruments:play", args=[row.pk])
    said = client.post(where, {"build": "1"}, follow=True).content.decode()
    assert "A stand-in speaks for it" in said
    for _ in range(200):
        if live.since(0):
            break
        services.player._stop.wait(0.02)
    assert live.since(0)
    assert "is still" in client.post(where, {"stop": "yes"}, follow=True).content.decode()
    if kind in ("scale", "calipers", "chronograph"):
        none = client.post(where, {"build": ""}, follow=True).content.decode()
        assert "Say which bow it is at" in none


def test_the_bench_watches_where_something_speaks(client: Client, shop: SimpleNamespace) -> None:
    bench = reverse("tiller:bench", args=[1])
    assert "data-live" not in client.get(bench).content.decode()
    assert client.get(reverse("instruments:now")).json()["nobody"]
    scale()
    Measure.objects.all().delete()
    line = {"line": "string full 6, 20 at 16, 26 at 20", "client_id": str(uuid4()),
            "page_world": "imperial"}  # fmt: skip
    client.post(reverse("builds:keep", args=[1]), line)
    page = client.get(bench).content.decode()
    assert not client.get(reverse("instruments:now")).json()["nobody"]
    assert "data-live" in page and "data-forecast=" in page and "Watch the scale" in page
    assert "data-instruments" in page


def test_the_command_plays_and_says_what_is_wrong(shop: SimpleNamespace) -> None:
    out = io.StringIO()
    call_command("instrument", simulate="scale", build=1, show=True, seed=3, stdout=out)
    lines = out.getvalue().splitlines()
    assert lines[0] == "hello scale stand-in" and len(lines) > 150
    again = io.StringIO()
    call_command("instrument", simulate="scale", build=1, show=True, seed=3, stdout=again)
    assert again.getvalue() == out.getvalue()
    for options, says in (
        ({"simulate": "scale", "build": 77, "show": True}, "no bow 77"),
        ({"simulate": "scale", "show": True}, "Say which bow"),
        ({"simulate": "meter", "speed": 0.0}, "between"),
        ({"port": "/dev/nothing-here", "show": True}, "cannot be opened"),
        ({"simulate": "meter", "to": "shop", "speed": 100.0}, "--to is an address"),
        ({"simulate": "meter", "to": "http://127.0.0.1:9", "speed": 100.0}, "does not answer"),
    ):  # fmt: skip
        with pytest.raises(CommandError, match=says):
            call_command("instrument", **options)
    assert not Instrument.objects.filter(gone=False).exists()
