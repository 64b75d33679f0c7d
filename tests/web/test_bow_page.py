"""A bow's own page: wanted and came, its papers, its bill, its public link."""

import re
from datetime import UTC, datetime
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.units.quantity import METRIC, Units
from fellwind.builds import views
from fellwind.builds.models import Build, Entry
from fellwind.exports.bow import Label, label_pdf
from fellwind.kit.archive import shop_models
from fellwind.kit.private import JOIN
from fellwind.ledger.bow import page_link
from fellwind.ledger.models import BowBill, PublicLink
from fellwind.people.models import Person
from tests.web.forms import pdf_words
from tests.web.test_proof import prove

PAGE, BILL, SHARE = (reverse(f"ledger:{name}", args=[1]) for name in ("bow", "bill", "share"))


def paper(which: str) -> str:
    return reverse("ledger:paper", args=[1, which])


@pytest.fixture
def proved(client: Client, shop: SimpleNamespace) -> Build:
    assert prove(client).status_code == 302
    Entry.objects.create(build=shop.build, stage="tiller", text="scraped", minutes=95)
    Entry.objects.create(build=shop.build, stage="wood", text="split", minutes=50)
    return Build.objects.get(pk=shop.build.pk)


def share(client: Client, on: str) -> str:
    sent = {"on": on, "form_id": str(uuid4())}
    assert client.post(SHARE, sent).status_code == 302
    link = PublicLink.objects.filter(build__number=1).first()
    return "" if link is None else reverse("ledger:open", args=[link.token])


def test_before_its_proof_it_says_what_is_wanted_and_prints_nothing(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(PAGE)
    said = page.content.decode()
    assert page.status_code == 200 and "not proved yet" in said
    assert "nothing to show before its proof" in said and "Print the care sheet" not in said
    for which, words in (("label", "from the proof"), ("care", "from the proof"),
                         ("bill", "Write the bill first")):  # fmt: skip
        answer = client.get(paper(which), follow=True)
        assert answer.redirect_chain and words in answer.content.decode(), which
    assert client.get(paper("passport")).status_code == 404
    assert share(client, "yes") == ""


def test_wanted_and_came_stand_side_by_side(client: Client, proved: Build) -> None:
    page = client.get(PAGE)
    rows = {row.what.split(",")[0]: row for row in page.context["rows"]}
    design = proved.design
    assert rows["Weight"].wanted == Units().fine_weight(design.weight)
    measured = page.context["proof"].figures["weight"].value
    assert rows["Weight"].came == Units().fine_weight(measured)
    way = "over" if measured >= design.weight else "under"
    assert rows["Weight"].off == f"{Units().fine_weight(abs(measured - design.weight))} {way}"
    assert rows["Brace height"].came and rows["Mass"].wanted.count(" to ") == 1
    said = page.content.decode()
    assert 'aria-label="Time on the bench by stage: wood 50 min; tiller 1 h 35 min' in said
    assert "tree-picture" in said and "ruler-picture" in said


def test_the_label_carries_number_and_figures_and_fits_the_limb(
    client: Client, proved: Build
) -> None:
    text, _ = pdf_words(client.get(paper("label")).content)
    year = Entry.objects.get(kind="proof").at.year
    assert text.count(f"1/{year}") == 3 and " lb at " in text
    assert "belly of the upper limb" in text.replace("\n", " ")
    Person.objects.update(world="metric")
    metric, _ = pdf_words(client.get(paper("label")).content)
    assert " kg at " in metric and " mm" in metric and " lb" not in metric


@pytest.mark.parametrize(
    ("high", "lines"), [(0.003, 1), (0.0055, 1), (0.011, 2), (0.0165, 3), (0.1, 3)]
)
def test_a_narrow_limb_gets_fewer_lines(high: float, lines: int) -> None:
    label = Label("1  Birch", ["one 45 lb", "two", "three"], "belly", high)
    assert label.fits == lines
    text, _ = pdf_words(label_pdf(label, "A4"))
    assert text.count("one 45 lb") == 3 and text.count("three") == (3 if lines == 3 else 0)


@pytest.mark.parametrize("world", ["imperial", "metric"])
def test_the_care_sheet_has_this_bows_figures(client: Client, proved: Build, world: str) -> None:
    Person.objects.update(world=world)
    shown = Units() if world == "imperial" else Units(METRIC, 16)
    text, _ = pdf_words(client.get(paper("care")).content)
    text = text.replace("\n", " ")
    proof = client.get(PAGE).context["proof"]
    assert str(proved.design.archer) in text
    assert shown.mass(proof.figures["arrow mass"].value) in text
    assert "local law" in text and "physician" in text and "without an arrow" in text


def test_a_glued_bow_is_cared_for_as_one(client: Client, proved: Build) -> None:
    plain, _ = pdf_words(client.get(paper("care")).content)
    assert "Wet wood is weak" in plain.replace("\n", " ")
    proved.design.change(back="rawhide", back_root=1e-3, back_nock=1e-3)
    proved.design.save()
    glued, _ = pdf_words(client.get(paper("care")).content)
    assert "loosen glue" in glued.replace("\n", " ")


def test_a_bill_is_kept_as_typed_reckoned_and_printed(client: Client, proved: Build) -> None:
    sent = {"rate": "30", "money": "€", "parts": "birch stave 40\nhorn: 12,50"}
    assert client.post(BILL, sent).status_code == 302
    page = client.get(PAGE)
    made = page.context["reckoned"]
    assert f"{made.total}" == "125.00"  # 145 minutes at 30 are 72.50
    assert "Change the bill" in page.content.decode()
    text, _ = pdf_words(client.get(paper("bill")).content)
    assert "125.00 €" in text and "Work, tiller" in text and "1 h 35 min" in text
    assert "12.50 €" in text


@pytest.mark.parametrize(
    ("rate", "parts", "words"),
    [
        ("", "", "required"), ("-4", "", "is no price"), ("lots", "", "is no price"),
        ("9" * 12, "", "more than any bow costs"), ("20", "stave", "its price last"),
        ("20", "stave 1,2,3", "is no price"), ("20", "x 1\n" * 70, "At most"),
    ],
)  # fmt: skip
def test_a_bill_that_cannot_be_read_is_kept_in_the_form(
    client: Client, proved: Build, rate: str, parts: str, words: str
) -> None:
    answer = client.post(BILL, {"rate": rate, "money": "€", "parts": parts})
    said = answer.content.decode()
    assert answer.status_code == 422 and words in said
    assert not BowBill.objects.exists() and parts[:10].strip() in said


def test_two_who_write_one_bill_hear_of_one_another(client: Client, proved: Build) -> None:
    first = {"rate": "30", "money": "€", "parts": ""}
    client.post(BILL, first)
    seen = client.get(PAGE).context["form"].initial["made_from"]
    assert client.post(BILL, first | {"rate": "35", "made_from": seen}).status_code == 302
    late = client.post(BILL, first | {"rate": "28", "made_from": seen})
    assert late.status_code == 422 and "while you had it open" in late.content.decode()
    assert f"{BowBill.objects.get().rate}" == "35.00"


def test_the_public_link_shows_the_card_and_no_name_until_it_is_off(
    client: Client, proved: Build
) -> None:
    stranger = Client()
    assert page_link(proved) == PAGE
    link = share(client, "yes")
    assert link and page_link(proved) == link
    page = stranger.get(link)
    said = page.content.decode()
    assert page.status_code == 200 and page["X-Robots-Tag"] == "noindex"
    assert page["Cache-Control"] == "no-store"
    assert " lb at " in said and " kg at " in said and "Never let go without an arrow" in said
    assert str(proved.design.archer) not in said and "scraped" not in said
    assert "/builds/" not in said and "Sign out" not in said
    assert share(client, "yes") == link, "switched on twice it stays the same"
    assert stranger.get(PAGE).status_code == 302
    assert share(client, "no") == ""
    assert stranger.get(link).status_code == 404
    assert share(client, "yes") != link, "a link that was off does not come back"
    assert stranger.get(reverse("ledger:open", args=["x" * 24])).status_code == 404


def test_days_are_those_of_the_shop(client: Client, proved: Build) -> None:
    late = datetime(2026, 11, 27, 23, 30, tzinfo=UTC)
    Entry.objects.filter(kind="proof").update(at=late)
    Build.objects.update(started=datetime(2025, 12, 31, 23, 30, tzinfo=UTC))
    link = share(client, "yes")
    with timezone.override("Asia/Tokyo"):
        assert "28 November 2026" in Client().get(link).content.decode()
        text, _ = pdf_words(client.get(paper("care")).content)
        assert "28 November 2026" in text
        text, _ = pdf_words(client.get(reverse("ledger:book", args=[1])).content)
        assert "28 Nov 2026, 08:30" in text.replace("\n", " ")
        assert client.get(reverse("ledger:season"), {"year": "2026"}).context["began"] == 1
    assert "27 November 2026" in Client().get(link).content.decode()


def test_a_struck_proof_leaves_nothing_to_be_seen(client: Client, proved: Build) -> None:
    link = share(client, "yes")
    Entry.objects.filter(kind="proof").delete()
    assert Client().get(link).status_code == 404
    assert "Switch it off" in client.get(PAGE).content.decode()


def test_only_a_maker_shares_and_bills(client: Client, proved: Build) -> None:
    for role in ("helper", "guest"):
        Person.objects.update(role=role)
        assert client.post(SHARE, {"on": "yes"}).status_code == 403
        assert client.post(BILL, {"rate": "3"}).status_code == 403
        page = client.get(PAGE).content.decode()
        assert "Switch it on" not in page and "Keep the bill" not in page
        assert client.get(paper("care")).status_code == 200


def test_the_card_leads_to_the_page_and_links_stay_at_home(
    client: Client, proved: Build, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    made = views.cards.bow_card

    def watched(build: Build, shown: Units, link: str) -> bytes | None:
        told.append(link)
        return made(build, shown, link)

    monkeypatch.setattr(views.cards, "bow_card", watched)
    client.get(reverse("builds:card", args=[1]))
    link = share(client, "yes")
    client.get(reverse("builds:card", args=[1]))
    assert [one.split("/", 3)[3] for one in told] == [PAGE[1:], link[1:]]
    assert PublicLink not in shop_models() and BowBill in shop_models()
    assert JOIN.sub(r"\1…", f"GET {link} 200") == "GET /book/open/…/ 200"
    assert re.search(r"/[\w-]{20,}/$", link)
