"""The proof: several shots, a slow pull, forecasts against what came, and what that says."""

from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.models import Build, Entry, Measure
from fellwind.designs.services import solution
from fellwind.strings.models import BowString, StringEntry
from tests.web.forms import CHECK

PROVE = reverse("builds:prove", args=[1])
STAGE = reverse("builds:stage", args=[1, "proof"])
FIGURES = {
    "weight": "42 1/2", "brace_height": "6 1/8", "mass": "20", "string_follow": "1",
    "follow_after": "3/4", "follow_day": "5/8", "arrow_mass": "420",
    "arrow_speed": "148 151 149.5 150", "string_length": "64 1/16", "group": "6",
    "distance": "20 yd", "shots": "120", "words": "soft", "page_world": "imperial",
}  # fmt: skip


def prove(client: Client, **change: str):  # type: ignore[no-untyped-def]
    return client.post(PROVE, FIGURES | {"client_id": str(uuid4())} | change)


def slow_pull(shop: SimpleNamespace, scale: float = 1.0) -> str:
    found = solution(shop.design)
    drawn = found.curve.drawn
    rows = []
    for k in (5, 12, 18, -1):
        pounds = float(drawn.weight[k]) * scale / POUND_FORCE
        rows.append(f"{pounds:.1f} at {float(drawn.draw[k]) / INCH:.2f}")
    return ", ".join(rows)


def test_a_whole_proof_is_kept_as_it_was_typed(client: Client, shop: SimpleNamespace) -> None:
    assert prove(client, pull=slow_pull(shop)).status_code == 302
    entry = Entry.objects.get(kind="proof")
    assert "arrow speed 148, 151, 149.5, 150 fps" in entry.text and "group 6 in" in entry.text
    assert Measure.objects.filter(kind="shot speed").count() == 4
    assert Measure.objects.filter(kind="pull").count() == 4
    assert Measure.objects.get(kind="distance").value == pytest.approx(18.288)
    page = client.get(STAGE)
    proved = page.context["proof"]
    assert proved.shots.count == 4 and proved.band[0] < proved.efficiency < proved.band[2]
    text = page.content.decode()
    assert "by your slow pull" in text and "Foretold, and what came" in text
    rows = {row.what: row for row in proved.against}
    assert set(rows) == {"string follow", "mass", "arrow speed"}
    assert "of the energy" in text or "No loss of the limbs" in text
    card = client.get(reverse("builds:card", args=[1]))
    assert card["Content-Type"] == "application/pdf"


def test_what_the_tiller_foretold_stands_against_the_weight(
    client: Client, shop: SimpleNamespace
) -> None:
    reading = CHECK | {"reading-client_id": str(uuid4())}
    assert client.post(reverse("tiller:reading", args=[1]), reading).status_code == 302
    assert prove(client).status_code == 302
    rows = {row.what: row for row in client.get(STAGE).context["proof"].against}
    assert rows["weight"].low < rows["weight"].middle < rows["weight"].high


def test_the_string_as_weighed_feeds_the_arrows_forecast(
    client: Client, shop: SimpleNamespace
) -> None:
    assert prove(client).status_code == 302
    string = BowString.objects.create(build=shop.build, fibre="linen", brace_height=6 * INCH)
    before = next(r for r in client.get(STAGE).context["proof"].against if r.what == "arrow speed")
    StringEntry.objects.create(string=string, kind="mass", value=0.03, text="30 g")
    after = next(r for r in client.get(STAGE).context["proof"].against if r.what == "arrow speed")
    assert after.middle < before.middle


def test_a_mistyped_weight_of_the_pull_stays_out(client: Client, shop: SimpleNamespace) -> None:
    wrong = slow_pull(shop).split(", ")
    weight, _, draw = wrong[1].partition(" at ")
    wrong[1] = f"{2 * float(weight):.1f} at {draw}"
    assert prove(client, pull=", ".join(wrong)).status_code == 302
    page = client.get(STAGE)
    assert page.context["proof"].pull.odd == (1,)
    assert "did not fit the others" in page.content.decode()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"arrow_speed": "900"}, "outside what is possible"),
        ({"arrow_speed": "150 fast"}, "could not be read"),
        ({"arrow_speed": " ".join(["150"] * 30)}, "At most 24"),
        ({"arrow_speed": ""}, "Speed and arrow belong together"),
        ({"pull": "24"}, "no weight at a draw"),
        ({"pull": "24 at 18, 25 at 18"}, "read once"),
        ({"pull": "x at 18"}, "could not be read"),
        ({"distance": ""}, "belongs to its distance"),
    ],
)
def test_speeds_no_bow_makes_and_torn_pulls_are_refused(
    client: Client, shop: SimpleNamespace, change: dict[str, str], says: str
) -> None:
    answer = prove(client, **change)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert not Entry.objects.filter(kind="proof").exists()


@pytest.mark.parametrize("stage", ["wood", "lay-out", "rough", "back"])
def test_a_proof_before_the_tiller_is_refused_and_stays_typed(
    client: Client, shop: SimpleNamespace, stage: str
) -> None:
    Build.objects.update(stage=stage)
    answer = prove(client)
    said = answer.content.decode()
    assert answer.status_code == 422 and f"still at {stage}" in said and "149.5" in said
    assert not Entry.objects.filter(kind="proof").exists()
    Build.objects.update(stage="string")
    assert prove(client).status_code == 302


def test_both_worlds_read_shots_and_pulls(client: Client, shop: SimpleNamespace) -> None:
    metric = {
        "page_world": "metric", "weight": "19.3", "brace_height": "155", "mass": "570",
        "string_follow": "25", "follow_after": "19", "follow_day": "15", "arrow_mass": "27",
        "arrow_speed": "45.2 45,8 45.5", "pull": "8.1 at 380, 12.4 at 500", "string_length": "1627",
        "group": "150", "distance": "18 m",
    }  # fmt: skip
    assert prove(client, **metric).status_code == 302
    speeds = Measure.objects.filter(kind="shot speed").values_list("value", flat=True)
    assert sorted(speeds) == pytest.approx([45.2, 45.5, 45.8])
    assert Measure.objects.filter(kind="pull").first().draw == pytest.approx(0.380)
