"""Photographs taken at the bench: entries of the log with a picture."""

import io
import zipfile
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from PIL import Image

from fellwind.builds.models import BenchPhoto, Entry
from fellwind.kit import archive
from tests.conftest import signed_in
from tests.web.forms import pdf_words

KEEP = reverse("builds:photo_keep", args=[1])
LOG = reverse("builds:log", args=[1])


def picture(kind: str = "JPEG", size: tuple[int, int] = (900, 600)) -> SimpleUploadedFile:
    file = io.BytesIO()
    Image.new("RGB", size, (120, 90, 60)).save(file, kind)
    return SimpleUploadedFile(f"bow.{kind.lower()}", file.getvalue())


def sent(**change: object) -> dict[str, Any]:
    return {"photo": picture(), "caption": "Braced for the first time", "limb": "upper",
            "client_id": str(uuid4())} | change  # fmt: skip


def test_a_photograph_stands_in_the_log_and_in_the_book(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(reverse("builds:photos", args=[1])).content.decode()
    assert 'capture="environment"' in page and "None yet" in page
    answer = client.post(KEEP, sent())
    row = BenchPhoto.objects.get()
    assert answer.status_code == 302 and answer["Location"].endswith(f"#entry-{row.entry.pk}")
    assert (row.entry.kind, row.entry.stage, row.entry.text) == (
        "photo", "tiller", "Braced for the first time",
    )  # fmt: skip
    log = client.get(LOG).content.decode()
    assert reverse("builds:photo_small", args=[row.pk]) in log and 'alt="Braced for' in log
    for name in ("photo", "photo_small"):
        file = client.get(reverse(f"builds:{name}", args=[row.pk]))
        assert file["Content-Type"] == "image/jpeg" and b"".join(file.streaming_content)[:2]  # type: ignore[arg-type]
    for query in ("?kind=photo", "?limb=upper", "?q=first+time", "?kind=photo&limb=upper"):
        found = client.get(reverse("ledger:search") + query).content.decode()
        assert reverse("builds:photo_small", args=[row.pk]) in found, query
    assert "first time" not in client.get(reverse("ledger:search") + "?limb=lower").content.decode()
    bow = client.get(reverse("ledger:bow", args=[1])).content.decode()
    assert reverse("builds:photo", args=[row.pk]) in bow
    text, reader = pdf_words(client.get(reverse("ledger:book", args=[1])).content)
    assert "Braced for the first time" in text
    assert sum(len(one.images) for one in reader.pages) == 1


def test_one_that_was_sent_twice_is_one(client: Client, shop: SimpleNamespace) -> None:
    client_id = str(uuid4())
    for _ in range(2):
        client.post(KEEP, sent(client_id=client_id))
    assert BenchPhoto.objects.count() == 1 == Entry.objects.filter(kind="photo").count()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"photo": SimpleUploadedFile("a.jpg", b"no picture at all")}, "not a photograph"),
        ({"photo": ""}, "Choose a photograph first"),
        ({"photo": SimpleUploadedFile("a.jpg", b"")}, "empty"),
        ({"caption": ""}, "required"),
        ({"limb": "middle"}, "not one of the available choices"),
        ({"photo": picture(size=(8, 8))}, "too small"),
    ],
)
def test_what_is_none_is_said_beside_its_field(
    client: Client, shop: SimpleNamespace, change: dict[str, object], says: str
) -> None:
    answer = client.post(KEEP, sent(**change))
    assert answer.status_code == 422 and says in answer.content.decode()
    assert not BenchPhoto.objects.exists() and not Entry.objects.filter(kind="photo").exists()


def test_a_photograph_taken_off_stays_written(client: Client, shop: SimpleNamespace) -> None:
    client.post(KEEP, sent())
    row = BenchPhoto.objects.get()
    client.post(reverse("builds:photo_drop", args=[row.pk]))
    log = client.get(LOG).content.decode()
    assert "its photograph was taken off" in log and "Braced for the first time" in log
    assert (Path(settings.PHOTOS) / f"{row.name}.jpg").exists()
    text, reader = pdf_words(client.get(reverse("ledger:book", args=[1])).content)
    assert "first time" in text and not any(len(one.images) for one in reader.pages)


def test_a_guest_looks_and_sends_nothing(client: Client, shop: SimpleNamespace) -> None:
    client.post(KEEP, sent())
    row = BenchPhoto.objects.get()
    guest = signed_in(shop.people.guest)
    assert guest.get(reverse("builds:photo", args=[row.pk])).status_code == 200
    assert guest.post(KEEP, sent()).status_code == 403
    assert guest.post(reverse("builds:photo_drop", args=[row.pk])).status_code == 403
    assert guest.get(reverse("builds:photos", args=[1])).status_code == 403
    stranger = Client(HTTP_HOST="127.0.0.1")
    assert stranger.get(reverse("builds:photo", args=[row.pk])).status_code == 302


def test_a_missing_file_is_said_and_the_page_stands(client: Client, shop: SimpleNamespace) -> None:
    client.post(KEEP, sent())
    row = BenchPhoto.objects.get()
    for ending in ("", "-small"):
        (Path(settings.PHOTOS) / f"{row.name}{ending}.jpg").unlink()
    assert client.get(reverse("builds:photo", args=[row.pk])).status_code == 404
    assert client.get(LOG).status_code == 200
    assert client.get(reverse("ledger:book", args=[1])).status_code == 200


def test_it_goes_along_with_the_shop(client: Client, shop: SimpleNamespace, tmp_path: Path) -> None:
    client.post(KEEP, sent())
    name = BenchPhoto.objects.get().name
    path = tmp_path / "shop.zip"
    archive.write(path)
    with zipfile.ZipFile(path) as pack:
        assert {f"photos/{name}.jpg", f"photos/{name}-small.jpg"} <= set(pack.namelist())
