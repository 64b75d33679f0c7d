"""Everything a workshop owns, taken along as one open ZIP and brought into an empty shop, whole."""

import csv
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.apps import apps
from django.core.exceptions import ValidationError
from django.db import connection
from django.test import Client
from django.urls import reverse

from bowyery.practice.worlds import HIGHEST_SEED
from fellwind.builds.models import Build, Entry, Measure
from fellwind.instruments.models import Instrument
from fellwind.kit import archive
from fellwind.kit.sound import look
from fellwind.people.models import Person
from fellwind.practice.models import Session
from fellwind.shop.models import Archer
from fellwind.strings.models import BowString
from tests.conftest import signed_in
from tests.web.forms import CHECK


@pytest.fixture
def taken(client: Client, shop: SimpleNamespace, tmp_path: Path) -> Path:
    """A shop with readings, a string, and a note that a spreadsheet takes for a sum, written."""
    reading = CHECK | {"reading-client_id": str(uuid4())}
    assert client.post(reverse("tiller:reading", args=[1]), reading).status_code == 302
    BowString.objects.create(build=shop.build, fibre="linen", brace_height=0.15, notes="=1+1")
    path = tmp_path / "shop.zip"
    assert archive.write(path).rows > 8
    return path


def emptied() -> None:
    """Nothing of the shop is left; only who is signed in."""
    Entry.objects.update(corrects=None)
    BowString.objects.update(like=None)
    with connection.constraint_checks_disabled():
        for model in reversed(archive.shop_models()):
            if model is not Person:
                model._default_manager.all().delete()


def rewritten(path: Path, change: Callable[[dict], object]) -> Path:  # type: ignore[type-arg]
    """The same ZIP with its data changed."""
    with zipfile.ZipFile(path) as pack:
        data = json.loads(pack.read(archive.DATA))
    change(data)
    other = path.with_name("other.zip")
    with zipfile.ZipFile(other, "w") as pack:
        pack.writestr(archive.DATA, json.dumps(data))
    return other


def test_a_shop_goes_out_and_comes_back_whole(taken: Path, tmp_path: Path) -> None:
    before = {m._meta.label: m._default_manager.count() for m in archive.shop_models()}
    emptied()
    assert not Build.objects.exists()
    archive.read(taken)
    after = {m._meta.label: m._default_manager.count() for m in archive.shop_models()}
    assert after == before
    again = tmp_path / "again.zip"
    archive.write(again)
    one, two = (json.loads(zipfile.ZipFile(p).read(archive.DATA)) for p in (taken, again))
    assert one["tables"] == two["tables"]
    with pytest.raises(archive.ArchiveError, match="not empty"):
        archive.read(taken)


def test_who_wrote_comes_back_as_a_name_that_cannot_enter(taken: Path) -> None:
    emptied()
    Person.objects.all().delete()
    keeper = Person.objects.create_user("keeper", role="maker")
    archive.read(taken)
    maker = Person.objects.get(username="maker")
    assert not maker.is_active and not maker.has_usable_password()
    assert Entry.objects.filter(by=maker).exists()
    assert Person.objects.get(pk=keeper.pk).is_active


def test_the_tables_read_in_a_spreadsheet_and_run_nothing(taken: Path) -> None:
    with zipfile.ZipFile(taken) as pack:
        names = pack.namelist()
        rows = list(csv.reader(io.StringIO(pack.read("csv/strings.bowstring.csv").decode())))
        text = pack.read(archive.DATA).decode()
    assert "csv/builds.entry.csv" in names
    assert "'=1+1" in rows[1]
    assert "password" not in text and "sentform" not in text


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda d: d.update(format="other"), "format"),
        (lambda d: d.update(version=9), "version"),
        (lambda d: d["tables"].update({"magic.wand": []}), "does not know"),
        (lambda d: d["tables"]["builds.build"][0]["fields"].update(wings=2), "cannot be"),
        (lambda d: d["tables"]["builds.build"][0]["fields"].update(design=999), "cannot be"),
        (lambda d: d["tables"]["builds.build"][0]["fields"].update(school="Z"), "cannot be"),
        (lambda d: d["tables"]["builds.build"][0].update(extra=1), "extra"),
        (lambda d: d["tables"]["designs.design"][0]["fields"]["sizes"].update(wings=2), "figure"),
        (lambda d: d["tables"]["designs.design"][0]["fields"].update(handle=1e308), "outside"),
        (lambda d: d["tables"]["shop.archer"][0]["fields"].update(draw="long"), "cannot be"),
    ],
)
def test_what_is_not_sound_changes_nothing(
    taken: Path, change: Callable[[dict], object], says: str
) -> None:  # type: ignore[type-arg]
    emptied()
    with pytest.raises(archive.ArchiveError, match=says):
        archive.read(rewritten(taken, change))
    assert not Archer.objects.exists() and not Build.objects.exists()


def test_files_of_something_else_are_refused(taken: Path, tmp_path: Path) -> None:
    emptied()
    noise = tmp_path / "noise.zip"
    noise.write_bytes(b"PK\x03\x04 not a zip at all")
    foreign = tmp_path / "foreign.zip"
    with zipfile.ZipFile(foreign, "w") as pack:
        pack.writestr("readme.txt", "hello")
    way_out = tmp_path / "way-out.zip"
    with zipfile.ZipFile(taken) as old, zipfile.ZipFile(way_out, "w") as pack:
        pack.writestr(archive.DATA, old.read(archive.DATA))
        pack.writestr("photos/../../evil.jpg", b"\xff\xd8")
    fake = tmp_path / "fake.zip"
    with zipfile.ZipFile(taken) as old, zipfile.ZipFile(fake, "w") as pack:
        pack.writestr(archive.DATA, old.read(archive.DATA))
        pack.writestr("photos/abc.jpg", b"MZ")
    refused = {
        noise: "no ZIP",
        foreign: "not from Fellwind",
        way_out: "no shop writes",
        fake: "no photograph",
        tmp_path / "none.zip": "No such file",
    }
    for path, says in refused.items():
        with pytest.raises(archive.ArchiveError, match=says):
            archive.read(path)
    assert not Build.objects.exists()


def test_every_table_of_every_room_goes_along() -> None:
    ours = {m._meta.label_lower for m in archive.shop_models()}
    every = {
        m._meta.label_lower for c in apps.get_app_configs() if c.name.startswith("fellwind.")
        for m in c.get_models()
    }  # fmt: skip
    assert every - ours == archive.LEFT


def test_the_page_gives_the_whole_shop_to_a_maker_alone(
    client: Client, shop: SimpleNamespace
) -> None:
    answer = client.get(reverse("shop:export"))
    content = b"".join(answer.streaming_content) if answer.streaming else answer.content
    with zipfile.ZipFile(io.BytesIO(content)) as pack:
        assert archive.DATA in pack.namelist()
    for person in (shop.people.helper, shop.people.guest):
        assert signed_in(person).get(reverse("shop:export")).status_code == 403


@pytest.mark.django_db
def test_what_a_shop_itself_may_hold_is_never_called_unsound() -> None:
    look(Session(seed=HIGHEST_SEED))
    look(Instrument(good=3_000_000, bad=150_000))
    look(Measure(kind="weight", draw=0.0, value=0.0, text="0"))
    with pytest.raises(ValidationError, match="so large"):
        look(Measure(kind="weight", draw=1e300, text="x"))
