"""The list of the backing stage follows from the design: plain, fibre, slat, glass, a tube."""

import html
import re
from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.units.quantity import INCH
from fellwind.designs.models import Design
from fellwind.shop.models import OwnRest

STAGE = reverse("builds:stage", args=[1, "back"])


def page(client: Client) -> str:
    return html.unescape(client.get(STAGE).content.decode()).split("<main")[1]


def backed(shop: SimpleNamespace, back: str, root: float, nock: float) -> None:
    sizes = {"back": back, "back_root": root, "back_nock": nock, "solve_for": "core"}
    Design.objects.filter(pk=shop.design.pk).update(sizes=sizes)


def test_a_plain_back_is_left_whole(client: Client) -> None:
    shown = page(client)
    assert "A plain back" in shown and "No backing is planned" not in shown


@pytest.mark.parametrize(
    ("back", "root", "says"),
    [
        ("sinew", 0.002, r"Sinew: [\d.]+ oz of dry fibre in 3 courses, \d+ bundles each"),
        ("flax fibre", 0.0008, r"Flax fibre: [\d.]+ oz of dry fibre in 2 courses"),
        ("rawhide", 0.001, r"Rawhide: two strips, each [\d ¼½¾⅛⅜⅝⅞⁰-⁹₀-₉⁄]+ in by"),
        ("bamboo slat", 0.0035, r"Bamboo slat: one slat"),
    ],
)
def test_a_backing_has_its_sums_its_rests_and_its_recheck(
    client: Client, shop: SimpleNamespace, back: str, root: float, says: str
) -> None:
    backed(shop, back, root, root)
    shown = page(client)
    assert re.search(says, shown), shown[:200]
    assert "of glue ready" in shown and "in this air" in shown
    assert "the tiller is looked at again" in shown and "A plain back" not in shown
    assert ("soaks:" in shown) == (back in ("sinew", "rawhide"))


def test_its_drying_follows_the_shops_own_table(client: Client, shop: SimpleNamespace) -> None:
    backed(shop, "rawhide", 0.001, 0.001)
    OwnRest.objects.create(
        name="rawhide dries on the back", what="backing", low=24 * 50, usual=24 * 70, high=24 * 90
    )
    assert "10 weeks in this air" in page(client)


def test_both_worlds_have_their_own_figures(client: Client, shop: SimpleNamespace) -> None:
    backed(shop, "sinew", 2 / 25.4 * INCH, 2 / 25.4 * INCH)
    client.post(reverse("people:units"))
    shown = page(client)
    assert re.search(r"Sinew: \d+ g of dry fibre", shown) and " oz" not in shown
