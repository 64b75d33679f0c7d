"""The book: everything written searched, a season summed up, bows side by side, a book on paper."""

from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse

from fellwind.builds.models import Build, Entry, Inquest
from tests.web.forms import CHECK, pdf_words
from tests.web.test_proof import prove

BOOK, SEASON, COMPARE = (reverse(f"ledger:{name}") for name in ("search", "season", "compare"))


@pytest.fixture
def written(client: Client, shop: SimpleNamespace) -> Build:
    """A bow with readings, a correction, a proof, and another that broke."""
    reading = CHECK | {"reading-client_id": str(uuid4())}
    assert client.post(reverse("tiller:reading", args=[1]), reading).status_code == 302
    note = {"line": "note a pin knot in the upper limb", "page_world": "imperial"}
    client.post(reverse("builds:keep", args=[1]), note | {"client_id": str(uuid4())})
    assert prove(client).status_code == 302
    other = Build.objects.create(number=2, name="Short one", design=shop.design, ending="broken")
    Inquest.objects.create(build=other, how="knot", limb="upper", place=0.4)
    Entry.objects.create(
        build=other, stage="rough", text="a crack ran in", kind="bench", minutes=50
    )
    return shop.build


def test_everything_written_is_found_by_words_stage_kind_and_limb(
    client: Client, written: Build
) -> None:
    def found(**asked: str) -> list[str]:
        return [text for _, text in client.get(BOOK, asked).context["rows"]]

    assert len(found()) >= 4
    assert found(q="pin knot") == ["note a pin knot in the upper limb"]
    assert found(q="crack", stage="rough") == ["a crack ran in"]
    assert found(q="crack", stage="tiller") == []
    assert all("weight" in text for text in found(kind="proof"))
    assert any("upper" in text for text in found(limb="upper"))
    assert found(q="2") and all("crack" in text for text in found(q="2 crack"))
    odd = client.get(BOOK, {"q": "\0" * 5 + "x" * 500, "stage": "magic", "page": "-4"})
    assert odd.status_code == 200 and not odd.context["stage"]
    assert "Nothing was written that fits" in odd.content.decode()


def test_a_correction_shows_both(client: Client, written: Build) -> None:
    entry = Entry.objects.get(text__startswith="note a pin knot")
    form = {"line": "note a tight knot in the lower limb", "page_world": "imperial",
            "client_id": str(uuid4())}  # fmt: skip
    assert client.post(reverse("builds:correct", args=[1, entry.pk]), form).status_code == 302
    page = client.get(BOOK, {"q": "knot in the"}).content.decode()
    assert "corrects “note a pin knot" in page and "now: note a tight knot" in page


def test_the_season_counts_what_was_begun_finished_and_broken(
    client: Client, written: Build
) -> None:
    page = client.get(SEASON)
    season = page.context
    assert (season["began"], season["broken"]) == (2, 1)
    Build.objects.filter(number=2).update(
        finished="2026-11-01T10:00:00Z", started="2026-10-01T10:00:00Z"
    )
    page = client.get(SEASON, {"year": "2026"})
    text = page.content.decode()
    assert page.context["broken"] == 1 and "it let go at a knot" in text
    assert page.context["weight"].count == 1
    assert page.context["bands"].count >= 1 and "accuracy-picture" in text
    assert page.context["minutes"] >= 50
    assert client.get(SEASON, {"year": "1066"}).status_code == 200


def test_proved_bows_stand_side_by_side(client: Client, written: Build) -> None:
    empty = client.get(COMPARE).content.decode()
    assert "Lay them side by side" in empty
    page = client.get(COMPARE, {"b": ["1", "2", "99", "x"]})
    rows = page.context["rows"]
    assert [row.build.number for row in rows] == [1]
    assert rows[0].speed_per_pound > 0.3 and rows[0].follow is not None
    assert "curve" in page.content.decode()


def test_a_bows_book_is_printed_in_order(client: Client, written: Build) -> None:
    answer = client.get(reverse("ledger:book", args=[1]))
    assert answer["Content-Type"] == "application/pdf"
    text, _ = pdf_words(answer.content)
    assert "pin knot" in text and "Elm flatbow" in text
    assert client.get(reverse("ledger:book", args=[77])).status_code == 404


def test_an_empty_shop_has_an_empty_book(maker: Client) -> None:
    for where in (BOOK, SEASON, COMPARE):
        assert maker.get(where).status_code == 200
    assert "once they were proved" in maker.get(COMPARE).content.decode()
