"""Designs, staves and builds are found in their lists by wood, weight, archer and state."""

from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.models import Build
from fellwind.designs.models import Design
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer


@pytest.fixture
def many(shop: SimpleNamespace) -> SimpleNamespace:
    """Nine designs more, of two woods, for two archers, in every state."""
    runa = Archer.objects.create(name="Runa", draw=24 * INCH, weight=20 * POUND_FORCE)
    for k in range(9):
        wood = "white ash" if k % 2 else "wych elm"
        stave = Stave.objects.create(
            number=10 + k,
            material=wood,
            kind="board",
            length=1.7 + 0.01 * k,
            width=0.06,
            depth=0.05,
        )
        design = Design.objects.create(
            name=f"Bow {9 - k}", archer=runa if k > 4 else shop.archer, material=wood,
            weight=(20 + 5 * k) * POUND_FORCE, draw=0.66, fingers="three under", length=1.7,
            stave=stave if k < 4 else None,
        )  # fmt: skip
        if k < 2:
            Build.objects.create(
                number=20 + k, name=design.name, design=design, stave=stave,
                finished=timezone.now() if k else None,
            )  # fmt: skip
    return shop


def names(client: Client, where: str, **asked: str) -> list[str]:
    page = client.get(reverse(f"{where}:list"), asked)
    assert page.status_code == 200
    return [str(getattr(row, where[:-1] if where != "rack" else "stave"))
            for row in page.context["rows"]]  # fmt: skip


def test_designs_are_narrowed_and_sorted(client: Client, many: SimpleNamespace) -> None:
    assert len(names(client, "designs")) == 10
    ash = names(client, "designs", wood="white ash")
    assert len(ash) == 4 and names(client, "designs", wood="no such wood") == names(
        client, "designs"
    )
    assert len(names(client, "designs", archer="Runa")) == 4
    assert len(names(client, "designs", archer="Runa", wood="white ash")) == 2
    light = names(client, "designs", weight="under 30 lb", sort="weight")
    assert light == ["Bow 9", "Bow 8"]
    assert names(client, "designs", state="built") == ["Bow 8"]
    assert set(names(client, "designs", state="being built")) == {"Bow 9", "Elm flatbow"}
    assert len(names(client, "designs", state="not built yet")) == 7
    by_name = names(client, "designs", sort="name")
    assert by_name == sorted(by_name)
    page = client.get(reverse("designs:list"), {"archer": "Runa", "q": "bow 3"}).content.decode()
    assert "1 found for “bow 3”" in page and '<option value="Runa" selected>' in page


def test_weights_are_told_apart_in_the_readers_own_unit(
    client: Client, many: SimpleNamespace
) -> None:
    client.post("/units/", {"typed": "[]"})
    page = client.get(reverse("designs:list")).content.decode()
    assert "under 13.6 kg" in page or "under 14 kg" in page
    assert "under 30 lb" not in page


def test_builds_and_staves_are_narrowed(client: Client, many: SimpleNamespace) -> None:
    assert len(names(client, "builds")) == 3
    assert len(names(client, "builds", state="closed")) == 1
    assert len(names(client, "rack")) == 10
    assert len(names(client, "rack", state="free")) == 5
    assert len(names(client, "rack", state="planned")) == 2
    assert len(names(client, "rack", state="in work")) == 2
    assert len(names(client, "rack", state="used up", wood="white ash")) == 1
    longest = names(client, "rack", sort="longest", kind="board")
    assert longest[0] == "stave 18, wych elm" and longest[-1] == "stave 10, wych elm"


def test_pages_of_a_narrowed_list_stay_narrowed(client: Client, many: SimpleNamespace) -> None:
    for k in range(40):
        Stave.objects.create(
            number=100 + k, material="white ash", length=1.7, width=0.05, depth=0.05
        )
    page = client.get(reverse("rack:list"), {"wood": "white ash", "sort": "longest"})
    assert page.context["paged"].after == "?wood=white+ash&sort=longest&page=2"
    again = client.get(reverse("rack:list") + page.context["paged"].after)
    assert {row.stave.material for row in again.context["rows"]} == {"white ash"}
