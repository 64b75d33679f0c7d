"""Rack, design room, strings and Today through their pages."""

import json
from datetime import timedelta
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.bow import bowfile
from bowyery.mechanics import curve as force_curve
from bowyery.units.quantity import INCH, POUND_FORCE, Units
from fellwind.builds.models import Build
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.rack.models import Stave, Weighing
from tests.web.forms import STAVE, design_form, made_from


def test_a_stave_is_numbered_kept_and_changed(client: Client) -> None:
    assert client.post(reverse("rack:new"), STAVE)["Location"] == reverse("rack:detail", args=[2])
    stave = Stave.objects.get(number=2)
    assert (stave.length_text, stave.depth_text) == ("68 in", "7/8 in")
    own = STAVE | {"modulus": "1.9", "rupture": "105 MPa"} | made_from(stave)
    assert client.post(reverse("rack:edit", args=[2]), own).status_code == 302
    stave.refresh_from_db()
    assert stave.modulus == pytest.approx(13.1e9, rel=0.01) and stave.rupture == pytest.approx(
        105e6
    )
    assert "its own" in client.get(reverse("rack:detail", args=[2])).content.decode()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"length": "long"}, "could not be read"),
        ({"length": "2"}, "outside what is possible"),
        ({"acquired": "2099-01-01"}, "has not come yet"),
        ({"acquired": "yesterday"}, "valid date"),
        ({"material": "driftglass"}, "not one of the available"),
        ({"modulus": "0"}, "outside what is possible"),
    ],
)
def test_a_wrong_stave_gets_its_sentence(client: Client, change: dict[str, str], says: str) -> None:
    answer = client.post(reverse("rack:new"), STAVE | change)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert Stave.objects.count() == 1


def test_weighings_give_a_forecast_and_are_corrected_not_overwritten(
    client: Client, shop: SimpleNamespace
) -> None:
    where, today = reverse("rack:detail", args=[1]), timezone.localdate()

    def weigh(days: int, mass: str, **extra: object) -> int:
        content = {
            "mass": mass,
            "day": today - timedelta(days=days),
            "client_id": str(uuid4()),
            "page_world": "imperial",
        } | extra
        return client.post(where, content).status_code

    assert "Two weighings" in client.get(where).content.decode()
    for days, mass in ((60, "80"), (40, "74 oz"), (20, "4.4 lb")):
        assert weigh(days, mass) == 302
    page = client.get(where).content.decode()
    assert "Ready about" in page and "4.4 lb" in page
    assert weigh(20, "70") == 422  # weighed on that day already
    assert weigh(-3, "70") == 422  # a day to come
    assert weigh(5, "heavy") == 422
    wrong = Weighing.objects.get(text="4.4 lb")
    assert 'value="70.4"' in client.get(where, {"correct": wrong.pk}).content.decode()
    assert weigh(20, "71", corrects=wrong.pk) == 302
    wrong.refresh_from_db()
    assert wrong.text == "4.4 lb" and wrong.corrected_by.text == "71 oz"
    assert Weighing.objects.count() == 4
    same = str(uuid4())
    assert weigh(2, "70", client_id=same) == weigh(2, "70", client_id=same) == 302
    assert Weighing.objects.count() == 5
    assert (
        "Drying in the rack" not in client.get("/").content.decode()
    )  # this stave is a bow already
    Build.objects.all().delete()
    assert "Stave 1, wych elm" in client.get("/").content.decode()


def test_a_design_takes_what_is_left_empty_from_its_archer(
    client: Client, shop: SimpleNamespace
) -> None:
    content = design_form(shop.design, name="Second", weight="", draw="", length="", fingers="")
    answer = client.post(reverse("designs:new"), content)
    assert answer.status_code == 302, answer.content.decode()[-3000:]
    made = Design.objects.get(name="Second")
    assert (made.weight, made.draw, made.fingers) == (
        shop.archer.weight,
        shop.archer.draw,
        shop.archer.fingers,
    )
    assert made.length == pytest.approx(2 * 27 * INCH + 8 * INCH)
    assert made.material == "wych elm"


def test_the_design_page_shows_what_the_core_says(client: Client, shop: SimpleNamespace) -> None:
    found = solution(shop.design)
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    shown = Units()
    assert f"{shown.fine_weight(found.weight)}</p>" in page
    assert f"{found.strain * 100:.2f} %" in page
    for mark in found.marks:
        assert f"<td>{shown.thickness(mark.thickness)}</td>" in page
    for said in (
        "twice the draw",
        "as long as keeps this wood",
        "short, for cover",
        "28 ¾ in",
        "String follow expected",
    ):
        assert said in page
    assert found.weight == pytest.approx(42 * POUND_FORCE, rel=0.01)


def test_a_change_is_answered_at_once_and_not_yet_kept(
    client: Client, shop: SimpleNamespace
) -> None:
    where = reverse("designs:preview", args=[shop.design.pk])
    answer = client.post(where, design_form(shop.design, width="2 1/4")).content.decode()
    assert "former-line" in answer and "<html" not in answer
    shop.design.refresh_from_db()
    assert shop.design.figures.width == pytest.approx(1.75 * INCH)
    wrong = client.post(where, design_form(shop.design, width="2 lb"))
    assert wrong.status_code == 200 and "not a unit of length" in wrong.content.decode()
    fresh = client.post(reverse("designs:preview_new"), design_form(shop.design))
    assert "Strain of the" in fresh.content.decode()


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"width": "0.4", "tip_width": "0.5"}, "tip_width", "wider than the limb"),
        (
            {"handle": "15", "fade": "7 1/2", "grip_drop": "4 1/2"},
            "handle",
            "less than half of the bow",
        ),
        ({"draw": "10 1/2", "brace_height": "9"}, "draw", "longer than the brace height"),
        ({"length": "400"}, "length", "outside what is possible"),
        ({"moisture": "wet"}, "moisture", "could not be read"),
        ({"parallel": "120"}, "parallel", "less than or equal to 95"),
        ({"archer": "999"}, "archer", "valid choice"),
        ({"stave": "", "material": ""}, "material", "Choose a wood"),
    ],
)
def test_a_wrong_design_gets_its_sentence_beside_the_field(
    client: Client, shop: SimpleNamespace, change: dict[str, str], field: str | None, says: str
) -> None:
    answer = client.post(
        reverse("designs:edit", args=[shop.design.pk]),
        design_form(shop.design, notes="keep me", **change),
    )
    text = answer.content.decode()
    assert answer.status_code == 422
    assert says in text.split(f'id="id_{field}-error"')[1].split("</p>")[0]
    assert "keep me" in text
    shop.design.refresh_from_db()
    assert shop.design.notes == ""


def test_the_bow_file_leaves_and_solves_the_same(client: Client, shop: SimpleNamespace) -> None:
    answer = client.get(reverse("designs:bow_file", args=[shop.design.pk]))
    assert "attachment" in answer["Content-Disposition"]
    bow = bowfile.loads(answer.content.decode())
    draw = json.loads(answer.content)["draw_mm"] / 1000
    found = solution(shop.design)
    assert force_curve.solve(bow, [draw]).drawn.weight[0] == pytest.approx(found.weight, rel=1e-5)


def test_a_design_made_impossible_afterwards_is_explained_everywhere(
    client: Client, shop: SimpleNamespace
) -> None:
    Design.objects.update(length=40 * INCH)
    for page in (
        "/",
        reverse("designs:list"),
        reverse("builds:list"),
        reverse("tiller:screen", args=[1]),
        reverse("strings:sheet", args=[1]),
        reverse("designs:detail", args=[shop.design.pk]),
    ):
        assert client.get(page).status_code == 200, page
    assert "Change the design" in client.get(reverse("tiller:screen", args=[1])).content.decode()
    assert client.get(reverse("designs:marking_pdf", args=[shop.design.pk])).status_code == 409
    assert client.get(reverse("designs:bow_file", args=[shop.design.pk])).status_code == 409
    string = {
        "role": "working",
        "kind": "continuous loop",
        "thread": "linen",
        "brace_height": "6",
        "page_world": "imperial",
    }
    assert client.post(reverse("strings:sheet", args=[1]), string).status_code == 422


def test_a_build_starts_from_a_design(client: Client, shop: SimpleNamespace) -> None:
    page = client.get(reverse("builds:start"), {"design": shop.design.pk}).content.decode()
    assert 'value="Elm flatbow"' in page
    form = {
        "name": "Another",
        "design": shop.design.pk,
        "school": "D",
        "draw_ruler": "trade",
        "page_world": "imperial",
    }
    assert client.post(reverse("builds:start"), form)["Location"] == "/builds/2/wood/"
    build = Build.objects.get(number=2)
    assert (build.stave, build.school, build.draw_ruler, build.stage) == (
        shop.stave,
        "D",
        "trade",
        "wood",
    )
    assert client.get("/builds/2/")["Location"] == "/builds/2/wood/"
    assert client.post(reverse("builds:start"), form | {"design": "99"}).status_code == 422


def test_an_empty_shop_offers_the_first_act_everywhere(maker: Client) -> None:
    assert "Add an archer" in maker.get("/").content.decode()
    assert "Staves go here" in maker.get(reverse("rack:list")).content.decode()
    assert "Add an archer first" in maker.get(reverse("designs:list")).content.decode()
    assert "A build starts from a design" in maker.get(reverse("builds:list")).content.decode()
    assert maker.get(reverse("designs:new"))["Location"] == reverse("shop:archer_new")
    assert maker.get(reverse("builds:start"))["Location"] == reverse("designs:new")
    assert maker.post(reverse("builds:read_back"), {"line": "37 at 22"}).status_code == 422


def test_today_shows_where_every_bow_stands(client: Client, shop: SimpleNamespace) -> None:
    page = client.get("/").content.decode()
    assert "Elm flatbow" in page and "Stage 5 of 8: tiller" in page
    assert "wood here settles at" in page and "Eye protection" in page
    client.post(
        reverse("builds:keep", args=[1]),
        {"line": "36 at 21, upper gap 7 1/4, lower 7 1/4", "page_world": "imperial"},
    )
    act = reverse("tiller:act", args=[1])
    page = client.get("/").content.decode()
    assert f'hx-get="{act}"' in page and "strokes upper" not in page
    part = client.get(act).content.decode()
    assert "strokes upper" in part and 'id="picture-1" hx-swap-oob' in part
    assert "strokes upper" in client.get("/").content.decode()  # known from now on
    Build.objects.update(finished=timezone.now())
    assert "Ended" in client.get("/").content.decode()
