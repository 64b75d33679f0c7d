"""Two people at once: an older page never overwrites a newer one in silence."""

import html
from collections.abc import Callable
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.units.quantity import INCH
from fellwind.builds.models import Entry
from fellwind.designs.models import Design
from fellwind.rack.models import Flaw
from fellwind.shop.models import Archer, Gear, Workshop
from fellwind.strings.models import BowString
from tests.conftest import signed_in
from tests.web.forms import ARCHER, STAVE, design_form, made_from, marks_form

SHOP = {
    "name": "Loft", "air_celsius": "64", "air_humidity": "55", "denominator": "16", "paper": "A4",
    "finishing_loss": "5", "shooting_loss": "3", "page_world": "imperial",
}  # fmt: skip
GEAR = {
    "name": "Rope",
    "kind": "rope",
    "rating": "264 lb",
    "in_use": "on",
    "page_world": "imperial",
}
STRING = {
    "role": "working", "kind": "continuous loop", "thread": "linen", "strands": "12",
    "brace_height": "6", "page_world": "imperial",
}  # fmt: skip


def _gear() -> Gear:
    return Gear.objects.create(name="Rope", kind="rope", rating=1000, rating_text="1 kN")


def _string(shop: SimpleNamespace) -> BowString:
    return BowString.objects.create(build=shop.build, fibre="linen", brace_height=0.15)


Case = tuple[Callable[[SimpleNamespace], object], str, dict[str, str], str, str, str]
CASES: dict[str, Case] = {
    "design": (lambda shop: shop.design, "designs:edit", {}, "width", "2", "2 1/4"),
    "stave": (lambda shop: shop.stave, "rack:edit", STAVE, "length", "71", "72"),
    "archer": (lambda shop: shop.archer, "shop:archer", ARCHER, "weight", "44", "46"),
    "shop": (lambda _: Workshop.get(), "shop:shop", SHOP, "air_humidity", "61", "47"),
    "gear": (lambda _: _gear(), "shop:gear", GEAR, "rating", "198 lb", "243 lb"),
    "string": (_string, "strings:edit", STRING, "brace_height", "6 1/2", "6 1/4"),
    "marks": (lambda shop: shop.design, "designs:marks", {}, "upper_thickness_3", "13/32", "27/64"),
}


@pytest.mark.parametrize("case", CASES)
def test_an_older_page_shows_both_figures_and_asks(
    client: Client, shop: SimpleNamespace, case: str
) -> None:
    find, name, content, field, theirs, mine = CASES[case]
    row = find(shop)
    if case == "design":
        content = design_form(shop.design)
    elif case == "marks":
        content = marks_form(shop.design)
    elif case == "stave":
        content = STAVE | {"width": "2 1/2", "depth": "2"}
    where = reverse(
        name,
        args={"stave": [1], "shop": [], "string": [1, row.pk]}.get(case, [row.pk]),
    )
    both = content | made_from(row)
    other = signed_in(shop.people.helper if case in ("stave", "string") else shop.people.maker)
    assert other.post(where, both | {field: theirs}).status_code == 302
    late = client.post(where, both | {field: mine})
    page = html.unescape(late.content.decode())
    assert late.status_code == 422, page[:500]
    assert "changed it at" in page and "while you had it open" in page
    beside = page.split(f'id="id_{field}-error"')[1].split("</p>")[0]
    assert "Now it says" in beside and theirs.split()[0][:3] in beside, beside
    assert f'value="{mine}"' in page
    # nothing was written, and a page that never said what it was made from is asked too
    assert client.post(where, content | {field: mine, "made_from": ""}).status_code == 422
    # sent once more from the page that asked, it counts
    version = page.split('name="made_from" value="')[1].split('"')[0]
    assert client.post(where, both | {field: mine, "made_from": version}).status_code == 302
    assert f"Now it says {mine.removesuffix(' lb')}" in html.unescape(
        client.post(where, both | {field: theirs}).content.decode()
    )


def test_what_is_the_same_on_both_pages_is_not_told_apart(
    client: Client, shop: SimpleNamespace
) -> None:
    """The same figure in another unit is no clash; only what differs is said."""
    Archer.objects.update(draw_ruler="trade")
    first = ARCHER | {"name": "Tuva", "left_handed": "on", "weight": "40"} | made_from(shop.archer)
    where = reverse("shop:archer", args=[shop.archer.pk])
    assert client.post(where, first).status_code == 302
    second = first | {"weight": "18.1436948 kg", "notes": "In the loft", "left_handed": ""}
    page = html.unescape(client.post(where, second).content.decode())
    assert 'id="id_weight-error"' not in page and 'id="id_name-error"' not in page
    assert "Now it says yes." in page and "Now it says nothing." in page


def test_a_button_of_an_older_page_asks_first(client: Client, shop: SimpleNamespace) -> None:
    old = made_from(shop.design)
    Design.objects.get(pk=shop.design.pk).save()
    for name, content in (
        ("designs:take_length", {"school": "B"}),
        ("designs:solve_length", {"measure": "use", "use": "90"}),
        ("designs:solve_again", {}),
    ):
        answer = client.post(reverse(name, args=[shop.design.pk]), content | old, follow=True)
        assert "Look at it as it is now" in answer.content.decode(), name
    assert Design.objects.get(pk=shop.design.pk).length == pytest.approx(67 * INCH)


def test_who_is_second_at_a_flaw_is_told(client: Client, shop: SimpleNamespace) -> None:
    flaw = Flaw.objects.create(
        stave=shop.stave, kind="check", at=0.4, length=0.01, width=0.01, depth=0.01
    )
    where = reverse("rack:flaw_move", args=[1, flaw.pk])
    helper = signed_in(shop.people.helper)
    assert (
        "moved this"
        not in helper.post(where, {"nudge": "left"}, HTTP_HX_REQUEST="true").content.decode()
    )
    late = client.post(where, {"nudge": "left"}, HTTP_HX_REQUEST="true").content.decode()
    assert "helper moved this check meanwhile" in late
    assert Flaw.objects.standing().count() == 1
    gone = client.post(reverse("rack:flaw_drop", args=[1, flaw.pk]), follow=True).content.decode()
    assert "helper moved this check meanwhile" in gone


def test_of_two_corrections_the_second_is_told_that_it_is_not_kept(
    client: Client, shop: SimpleNamespace
) -> None:
    """By the browser's queue, which takes an entry out when it is told that it was kept."""
    entry = Entry.objects.create(
        build=shop.build, kind="bench", text="36 at 21", by=shop.people.maker, stage="tiller"
    )
    where, queue = reverse("builds:correct", args=[1, entry.pk]), {"HTTP_X_QUEUE": "1"}
    other = signed_in(shop.people.helper)
    answers = []
    for tablet, text in ((client, "35 at 21"), (other, "34 at 21")):
        one = str(uuid4())
        sent = {"line": text, "page_world": "imperial", "client_id": one, "form_id": one}
        answers.append(tablet.post(where, sent, **queue))
        again = tablet.post(where, sent, **queue)  # as after a cut cable
        assert again.status_code == answers[-1].status_code
    first, second = answers
    assert first.json()["kept"] and second.status_code == 409
    assert "That entry is corrected already, to: 35 at 21" in html.unescape(second.content.decode())
    assert list(Entry.objects.exclude(pk=entry.pk).values_list("text", flat=True)) == ["35 at 21"]
    # what asks for nothing that is not so already is no loss, and is told as kept
    tick = {"item": "sides", "stage": "rough"}
    for tablet in (client, other):
        told = tablet.post(
            reverse("builds:tick", args=[1]), tick | {"form_id": str(uuid4())}, **queue
        )
        assert told.status_code == 200 and told.json()["kept"]
