"""Slats from a culm and their nodes, where a bow is laid into a stave."""

import pytest
from django.urls import reverse

from fellwind.rack.models import Flaw, Stave


@pytest.fixture
def culm(shop):
    made = Stave.objects.create(
        number=41, kind="bamboo culm", material="bamboo slat", length=2.3, width=0.1, depth=0.1,
        wall=0.012,
    )  # fmt: skip
    for at in (0.25, 0.60, 0.95, 1.30, 1.65, 2.0):
        Flaw.objects.create(
            stave=made, kind="node", at=at, off=0, length=0.01, width=0.03, depth=0.002, face="back"
        )
    return made


def page_of(client, shop, culm):
    return client.get(reverse("fit:stave", args=[culm.number]), {"design": shop.design.pk})


def test_a_culm_says_its_slats_and_where_their_nodes_come(client, shop, culm):
    page = page_of(client, shop, culm)
    found = page.context["culm"]
    assert found.slats.number == 6 and found.slats.edge < found.slats.middle
    assert found.nodes == 6 and found.rows[0].place.uneven < 0.02
    text = page.content.decode()
    assert "Slats round it" in text and "They lie alike in both limbs" in text
    assert "Nodes of the slat" in text


def test_what_is_not_known_of_a_culm_is_asked_for(client, shop, culm):
    culm.wall = None
    culm.save()
    Flaw.objects.all().delete()
    text = page_of(client, shop, culm).content.decode()
    assert "Give the culm&#x27;s wall" in text and "Map the nodes" in text


def test_a_short_slat_is_said_and_a_board_has_none(client, shop, culm):
    Stave.objects.filter(pk=culm.pk).update(length=1.2, kind="bamboo slat")
    Flaw.objects.filter(at__gt=1.2).delete()
    culm.refresh_from_db()
    page = page_of(client, shop, culm)
    assert "shorter than the bow" in page.context["culm"].trouble
    Stave.objects.filter(pk=culm.pk).update(kind="board")
    assert page_of(client, shop, culm).context["culm"] is None
