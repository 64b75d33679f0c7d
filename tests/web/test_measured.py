"""A bow that exists, typed in and scaled to its weight: one act a figure at most."""

import pytest
from django.urls import reverse

from bowyery.units.quantity import INCH, POUND_FORCE, Units
from fellwind.designs import services
from fellwind.designs.models import Design
from tests.web.forms import made_from

PAGE = reverse("designs:measured")
TWO_SLOPES = {
    "upper_at_0": "4", "upper_wide_0": "1 3/4", "upper_thick_0": "9/16",
    "upper_at_1": "18", "upper_wide_1": "1 3/4", "upper_thick_1": "1/2",
    "upper_at_2": "33", "upper_wide_2": "1/2", "upper_thick_2": "3/8", "upper_off_2": "-1/2",
}  # fmt: skip


@pytest.fixture
def form(shop):
    return {
        "name": "From the attic", "archer": str(shop.design.archer.pk), "material": "wych elm",
        "moisture": "9", "brace_height": "6", "handle_depth": "1 1/2", "section": "rectangle",
        "scale": "modulus", "page_world": "imperial", **TWO_SLOPES,
    }  # fmt: skip


def test_a_two_slope_limb_is_one_form_and_is_taken_as_it_was_measured(client, shop, form):
    answer = client.post(PAGE, form | {"scale": ""})
    design = Design.objects.latest("pk")
    assert answer.status_code == 302
    found = services.solution(design)
    assert design.length == pytest.approx(66 * INCH)
    assert [round(m.thickness / INCH * 16) for m in found.marks if m.limb == "upper"] == [9, 8, 6]
    assert found.bow.lower.thickness == pytest.approx(found.bow.upper.thickness)
    page = client.get(answer["Location"]).content.decode()
    assert "This bow is as it is marked" in page


@pytest.mark.parametrize(("what", "words"), [("modulus", "softer"), ("thickness", "thinner")])
def test_one_weight_read_scales_what_is_not_known(client, shop, form, what, words):
    # Given the same bow, and what it was read to pull
    client.post(PAGE, form | {"scale": ""})
    first = services.solution(Design.objects.latest("pk"))
    weight = 0.8 * first.weight / POUND_FORCE
    # When it is typed with that weight
    answer = client.post(PAGE, form | {"scale": what, "weight": f"{weight:.1f}"}, follow=True)
    # Then it pulls that, and the page says what had to give
    design = Design.objects.latest("pk")
    assert services.solution(design).weight / POUND_FORCE == pytest.approx(weight, abs=0.2)
    assert f"% {words}" in answer.content.decode()


def test_a_bow_on_the_shelf_is_scaled_to_a_weight_read_later(client, shop, form):
    client.post(PAGE, form | {"scale": ""})
    design = Design.objects.latest("pk")
    before = services.solution(design).weight
    read = {"read": f"{1.1 * before / POUND_FORCE:.2f}", "at": Units().length(design.draw),
            "what": "modulus", "page_world": "imperial"}  # fmt: skip
    where = reverse("designs:scale", args=[design.pk])
    answer = client.post(where, read | made_from(design), follow=True)
    assert "stiffer than the book" in answer.content.decode()
    design.refresh_from_db()
    assert services.solution(design).weight == pytest.approx(1.1 * before, rel=2e-3)
    # and what no wood pulls is refused, and left as it is
    answer = client.post(where, read | {"read": "9"} | made_from(design), follow=True)
    assert "It stays as it is" in answer.content.decode()
    assert client.post(where, read | {"read": "heavy"} | made_from(design)).status_code == 422
    stale = made_from(design) | {"made_from": "0"}
    assert "meanwhile" in client.post(where, read | stale, follow=True).content.decode()


BAD = {
    "nothing": (dict.fromkeys(TWO_SLOPES, ""), "upper_at_0", "Begin where"),
    "one place": ({k: "" for k in TWO_SLOPES if not k.endswith("_0")}, "upper_at_1", "Two places"),
    "a width left out": ({"upper_wide_1": ""}, "upper_wide_1", "Say the width"),
    "a place left out": ({"upper_at_1": ""}, "upper_at_1", "Say where"),
    "places out of order": ({"upper_at_1": "40"}, "upper_at_2", "further out"),
    "a word": ({"upper_thick_0": "thick"}, "upper_thick_0", "“thick”"),
    "a layer of no thickness": ({"back": "sinew"}, "back_thick", "how thick"),
    "a layer thicker than the limb": ({"back": "sinew", "back_thick": "0.6"}, None, ""),
    "a draw no bow has": ({"draw": "3"}, "draw", "outside"),
    "a limb bent like a hook": (
        {"upper_off_1": "9", "upper_off_2": "-9"}, "upper_off_0", "steeper"),
}  # fmt: skip


@pytest.mark.parametrize("what", BAD)
def test_what_was_not_measured_so_is_said_beside_its_cell(client, shop, form, what):
    change, field, words = BAD[what]
    count = Design.objects.count()
    answer = client.post(PAGE, form | change)
    assert answer.status_code == 422
    page = answer.context["form"]
    if field:
        assert words in " ".join(page.errors[field]), page.errors
    else:
        assert page.non_field_errors()
    assert page["upper_thick_2"].value() == (change | form | change)["upper_thick_2"]
    assert Design.objects.count() == count


def test_it_is_typed_in_millimetres_too(client, shop, form):
    metric = {
        "upper_at_0": "100", "upper_wide_0": "44", "upper_thick_0": "14.3",
        "upper_at_1": "450", "upper_wide_1": "44", "upper_thick_1": "12.7",
        "upper_at_2": "840", "upper_wide_2": "13", "upper_thick_2": "9.5", "upper_off_2": "",
        "brace_height": "150", "handle_depth": "38", "weight": "18", "page_world": "metric",
    }  # fmt: skip
    assert client.post(PAGE, form | metric).status_code == 302
    design = Design.objects.latest("pk")
    assert services.solution(design).weight == pytest.approx(18 * 9.80665, rel=2e-3)
