"""Both unit worlds, everywhere, in and out."""

import json
import re
from types import SimpleNamespace

import pytest
from django.urls import reverse

from bowyery.units.quantity import QUANTITIES, Units
from fellwind.kit.measures import Measured, MeasuredForm, MeasureField, convert
from tests.conftest import signed_in
from tests.web.forms import pages

IMPERIAL_SIGNS = re.compile(r"\d (?:in|lb|gr|oz|fps|ft·lb|Mpsi|psi)\b|\d °F")
METRIC_SIGNS = re.compile(r"\d (?:mm|kg|g|m/s|J|GPa|MPa)\b|\d °C")


def visible(text: str) -> str:
    """A page's main part without the texts that people typed or that are always said in both
    worlds.
    """
    main = text.split("<main", 1)[1].split("</main>")[0]
    main = re.sub(
        r"<option.*?</option>|<q>.*?</q>|<td class=\"written\">.*?</td>|placeholder=\"[^\"]*\"",
        "",
        main,
        flags=re.S,
    )
    return main.replace("trade draw: that plus 1¾ in", "")


def test_every_page_speaks_one_world_at_a_time(shop: SimpleNamespace) -> None:
    person = shop.people.maker
    for world, own, other in (
        ("imperial", IMPERIAL_SIGNS, METRIC_SIGNS),
        ("metric", METRIC_SIGNS, IMPERIAL_SIGNS),
    ):
        person.world = world
        person.save()
        client = signed_in(person)
        said = 0
        for page in pages(shop):
            answer = client.get(page)
            if answer["Content-Type"].startswith("text/html"):
                text = visible(answer.content.decode())
                assert not other.findall(text), (world, page, other.findall(text))
                said += len(own.findall(text))
        assert said > 100


def test_u_switches_for_this_person_and_stays(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    answer = client.post("/units/", HTTP_REFERER="http://127.0.0.1/designs/?page=2")
    assert answer["Location"] == "/designs/?page=2"
    shop.people.maker.refresh_from_db()
    assert shop.people.maker.world == "metric"
    assert "mm · kg" in signed_in(shop.people.maker).get("/").content.decode()
    assert "in · lb" in signed_in(shop.people.helper).get("/").content.decode()
    assert client.post("/units/", HTTP_REFERER="http://elsewhere.example/x")["Location"] == "/"


def test_half_typed_figures_are_rewritten_not_reread(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    typed = [
        {"name": "a", "kind": "length", "text": "6 1/4"},
        {"name": "b", "kind": "weight", "text": "42 lb"},
        {"name": "c", "kind": "", "text": "a note of 5 in"},
        {"name": "d", "kind": "length", "text": "6 1/"},
        {"name": "e", "kind": "temperature", "text": "64.4"},
    ]
    answer = client.post(
        "/units/", {"typed": json.dumps(typed)}, HTTP_ACCEPT="application/json"
    ).json()
    assert answer["world"] == "metric"
    assert [t["text"] for t in answer["typed"]] == ["159", "19.1", "a note of 5 in", "6 1/", "18"]
    nonsense = client.post("/units/", {"typed": "{not json"}, HTTP_ACCEPT="application/json")
    assert nonsense.json()["typed"] == []


@pytest.mark.parametrize("kind", sorted(QUANTITIES))
def test_there_and_back_again(kind: str) -> None:
    """A figure in a field is the same after two switches, to the step it is written in."""
    quantity = QUANTITIES[kind]
    for figure in ("70", "180.5"):
        text = quantity.bare(quantity.read(figure, "imperial"), Units("imperial"))
        there = convert(text, kind, "imperial", Units("metric"))
        back = convert(there, kind, "metric", Units("imperial"))
        first, last = (quantity.read(written, "imperial") for written in (text, back))
        assert last == pytest.approx(first, rel=0.04, abs=abs(quantity.read("1", "metric")) * 0.06)


class _Form(MeasuredForm):
    gap = MeasureField("gap", required=False)


def test_a_form_is_read_in_the_world_it_was_written_in() -> None:
    """A page left open while the units are switched in another tab does not change its meaning."""
    form = _Form({"gap": "6", "page_world": "imperial"}, shown=Units("metric"))
    assert form.is_valid()
    assert form.cleaned_data["gap"] == Measured("6", pytest.approx(0.1524))
    assert form.text("gap") == "6 in"


def test_what_was_typed_keeps_its_unit_for_ever() -> None:
    for typed, kept in (("6 1/4", "6 1/4 in"), ("159 mm", "159 mm"), ("6¼", "6¼ in")):
        form = _Form({"gap": typed, "page_world": "imperial"}, shown=Units("imperial"))
        assert form.is_valid() and form.text("gap") == kept
    empty = _Form({"gap": "", "page_world": ""}, shown=Units("imperial"))
    assert empty.is_valid() and empty.value("gap") is None and empty.text("gap") == ""


def test_bounds_are_said_in_the_readers_units() -> None:
    for world, says in (("imperial", "15 3/4 in"), ("metric", "400 mm")):
        form = _Form({"gap": "900", "page_world": world}, shown=Units(world))
        assert not form.is_valid()
        assert says in form.errors["gap"][0]


def test_the_theme_switches_and_stays(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    assert 'data-theme="day"' in client.get("/").content.decode()
    client.post(reverse("people:theme"))
    assert 'data-theme="dusk"' in client.get("/").content.decode()


def test_a_place_that_only_takes_forms_leads_to_the_page_above_it(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    number = shop.build.number
    for there, above in (
        (f"/builds/{number}/wait/", f"/builds/{number}/"),
        (f"/builds/{number}/tiller/reading/", f"/builds/{number}/tiller/"),
        ("/staves/1/flaws/keep/", "/staves/1/"),
        ("/staves/photos/1/drop/", "/staves/photos/1/"),
        ("/units/", "/"),
    ):
        answer = client.get(there)
        assert (answer.status_code, answer["Location"]) == (302, above)
    assert client.delete("/staves/1/flaws/keep/").status_code == 405
