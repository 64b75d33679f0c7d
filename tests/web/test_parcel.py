"""One bow as a ZIP for another shop, and brought in there with its conflicts answered."""

import io
import json
import tracemalloc
import zipfile
from collections.abc import Callable
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from fellwind.builds.models import BenchPhoto, Build, Entry, HeatJob
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.kit import archive
from fellwind.ledger import parcel
from fellwind.ledger.models import BowBill
from fellwind.rack.models import Stave, Weighing
from fellwind.shop.models import Archer, OwnMaterial, Tool
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread
from fellwind.tiller.services import bench
from tests.conftest import signed_in
from tests.web.forms import CHECK, design_form
from tests.web.test_archive import emptied
from tests.web.test_bench_photos import KEEP, sent

BRING = reverse("ledger:bring")
ZIP = reverse("ledger:parcel", args=[1])


@pytest.fixture
def whole(client: Client, shop: SimpleNamespace) -> bytes:
    """A bow with readings, a correction's pair, pictures, a string of its own thread, as a ZIP."""
    fir = OwnMaterial.objects.create(
        name="slow fir", kind="wood", modulus=11e9, rupture=80e6, density=480.0
    )
    shop.stave.material = shop.design.material = fir.name
    shop.stave.save()
    shop.design.save()
    Tool.objects.create(name="toothed block", like="rasp")
    Weighing.objects.create(stave=shop.stave, mass=0.9, text="900 g", by=shop.people.maker)
    reading = CHECK | {"reading-client_id": str(uuid4())}
    assert client.post(reverse("tiller:reading", args=[1]), reading).status_code == 302
    line = {"line": "off upper 8 strokes with toothed block, 20 min", "client_id": str(uuid4()),
            "page_world": "imperial"}  # fmt: skip
    assert client.post(reverse("builds:keep", args=[1]), line).status_code in (200, 302)
    client.post(KEEP, sent())
    first = Entry.objects.create(build=shop.build, stage="tiller", text="note a", by=None)
    Entry.objects.create(build=shop.build, stage="tiller", text="note b", corrects=first)
    thread = Thread.objects.create(name="the cone", fibre="linen", stock=0.3)
    StrandTest.objects.create(thread=thread, load=70.0, load_text="7 kg", by=shop.people.maker)
    string = BowString.objects.create(
        build=shop.build, fibre="linen", thread=thread, brace_height=0.15
    )
    BowString.objects.create(build=shop.build, fibre="linen", brace_height=0.15, like=string)
    StringEntry.objects.create(string=string, kind="brace", value=0.15, pulls=3, text="6 in")
    HeatJob.objects.create(build=shop.build, what="reflex", limb="both", way="dry heat",
                           wood=fir.name, wanted=0.01, form=0.014, start=0.1, end=0.5)  # fmt: skip
    BowBill.objects.create(build=shop.build, rate=30, parts="fir 40")
    return bytes(client.get(ZIP).content)


def tables(content: bytes) -> dict[str, list[dict[str, Any]]]:
    with zipfile.ZipFile(io.BytesIO(content)) as pack:
        found: dict[str, list[dict[str, Any]]] = json.loads(pack.read(archive.DATA))["tables"]
    return found


def rewritten(content: bytes, change: Callable[[dict[str, Any]], object]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as pack, zipfile.ZipFile(out, "w") as other:
        for name in pack.namelist():
            data = pack.read(name)
            if name == archive.DATA:
                told = json.loads(data)
                change(told)
                data = json.dumps(told).encode()
            other.writestr(name, data)
    return out.getvalue()


def look(client: Client, content: bytes) -> Any:
    return client.post(BRING, {"file": SimpleUploadedFile("bow.zip", content)})


def answers(page: Any, **change: object) -> dict[str, object]:
    """The form as the page shows it, with changes."""
    form = page.context["answers"]
    given = {name: form[name].value() for name in form.fields}
    told = {name: value for name, value in given.items() if value not in (None, False)}
    return {"token": page.context["token"], **told, **change}


def test_a_bow_goes_along_with_all_that_it_stands_on(whole: bytes) -> None:
    found = tables(whole)
    counts = {label: len(rows) for label, rows in found.items()}
    assert counts["builds.build"] == counts["designs.design"] == counts["rack.stave"] == 1
    assert counts["strings.bowstring"] == 2 and counts["strings.strandtest"] == 1
    assert counts["shop.ownmaterial"] == counts["shop.tool"] == counts["builds.heatjob"] == 1
    assert counts["rack.weighing"] == counts["builds.benchphoto"] == 1
    said = json.dumps(found)
    assert "ledger.bowbill" not in found and "Tuva" not in said and "archer of number 1" in said
    assert all(row["fields"]["by"] is None for row in found["builds.entry"])
    with zipfile.ZipFile(io.BytesIO(whole)) as pack:
        assert sum(name.endswith(".jpg") for name in pack.namelist()) == 2


def test_a_bow_goes_along_with_the_design_it_was_begun_with_alone(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    client.post(
        reverse("designs:edit", args=[shop.design.pk]), design_form(shop.design, weight="33")
    )
    begun = Build.objects.get(number=1).design
    assert begun.now_id == shop.design.pk
    sent = bytes(client.get(ZIP).content)
    (row,) = tables(sent)["designs.design"]
    assert row["fields"]["weight"] == begun.weight and row["fields"]["now"] is None
    emptied()
    client.post(BRING, answers(look(client, sent)))
    assert Build.objects.get().design.now is None


def test_the_archers_name_goes_along_where_it_is_asked_for(client: Client, whole: bytes) -> None:
    named = bytes(client.get(ZIP + "?archer=yes").content)
    assert tables(named)["shop.archer"][0]["fields"]["name"] == "Tuva"


def test_in_an_empty_shop_it_is_as_it_was(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    before = bench(Build.objects.get(number=1)).outlook
    weight = solution(Design.objects.get()).weight
    count = Entry.objects.count()
    emptied()
    page = look(client, whole)
    text = page.content.decode()
    assert page.status_code == 200 and "It brings" in text and "1 photograph" in text
    assert not Build.objects.exists()
    done = client.post(BRING, answers(page), follow=True)
    assert "is here, as number 1" in done.content.decode()
    build = Build.objects.get()
    assert Entry.objects.count() == count and build.design.archer.name == "archer of number 1"
    assert solution(build.design).weight == pytest.approx(weight)
    after = bench(build).outlook
    assert before is not None and after is not None
    assert after.now.middle == pytest.approx(before.now.middle, rel=1e-6)
    photo = BenchPhoto.objects.get()
    assert (Path(settings.PHOTOS) / f"{photo.name}.jpg").exists()
    assert Entry.objects.exclude(corrects=None).get().corrects.text == "note a"
    assert BowString.objects.exclude(like=None).get().like.thread.name == "the cone"
    assert not (Path(settings.HOME) / "incoming").exists() or not list(
        (Path(settings.HOME) / "incoming").glob(f"{page.context['token']}.zip")
    )


def test_beside_others_every_conflict_is_asked(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    emptied()
    ours = Archer.objects.create(
        name="Ours", draw=0.7, draw_text="x", weight=200.0, weight_text="x"
    )
    Stave.objects.create(number=1, material="plum", length=1.4, length_text="x", width=0.04,
                         width_text="x", depth=0.04, depth_text="x")  # fmt: skip
    Thread.objects.create(name="the cone", fibre="hemp")
    OwnMaterial.objects.create(name="slow fir", kind="wood", modulus=9e9, rupture=70e6, density=450)
    other = Design.objects.create(name="other", archer=ours, material="rowan", weight=200.0,
                                  draw=0.7, fingers="three under", length=1.7)  # fmt: skip
    Build.objects.create(number=1, name="other", design=other)
    page = look(client, whole)
    text = page.content.decode()
    assert "there is a number 1 here already" in text and "that is here" in text
    assert "The material “slow fir” is another here" in text
    assert "The thread “the cone” is another here" in text
    taken = client.post(BRING, answers(page, number=1))
    assert taken.status_code == 422 and "There is a number 1 here; 2 is free." in (
        taken.content.decode()
    )
    mine = client.post(BRING, answers(page, archer=str(ours.pk)))
    assert mine.status_code == 302, mine.content.decode()
    build = Build.objects.get(number=2)
    assert build.design.archer == ours and build.stave is not None and build.stave.number == 2
    assert build.design.material == "slow fir, theirs" == build.stave.material
    assert OwnMaterial.objects.get(name="slow fir").modulus == 9e9
    assert OwnMaterial.objects.get(name="slow fir, theirs").modulus == 11e9
    assert {t.name for t in Thread.objects.all()} == {"the cone", "the cone, theirs"}
    assert build.bowstrings.exclude(thread=None).get().thread.fibre == "linen"
    assert build.heat_jobs.get().wood == "slow fir, theirs"


def test_what_is_here_may_be_taken_in_its_place(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    page = look(client, whole)
    assert "it is here already, as number 1" in page.content.decode()
    stay = client.post(BRING, answers(page))
    assert stay.status_code == 422 and "say whether a copy is wanted" in stay.content.decode()
    (stave,) = [name for name in page.context["answers"].fields if name.startswith("stave_")]
    assert page.context["answers"][stave].value() == "here"
    done = client.post(BRING, answers(page, again="on"))
    assert done.status_code == 302
    copy = Build.objects.get(number=2)
    assert copy.stave == shop.stave and Stave.objects.count() == 1 == Weighing.objects.count()
    assert Thread.objects.count() == 1 == StrandTest.objects.count()
    assert copy.entries.count() == Build.objects.get(number=1).entries.count()
    assert BenchPhoto.objects.count() == 2
    assert len(set(BenchPhoto.objects.values_list("name", flat=True))) == 2


def _foreign(told: dict[str, Any]) -> None:
    told["tables"]["people.person"] = []


def _dangling(told: dict[str, Any]) -> None:
    told["tables"]["builds.measure"][0]["fields"]["entry"] = 99999


def _nobodys(told: dict[str, Any]) -> None:
    told["tables"]["builds.entry"][0]["fields"]["by"] = 1


def _two(told: dict[str, Any]) -> None:
    told["tables"]["builds.build"] *= 2


def _words(told: dict[str, Any]) -> None:
    told["tables"]["designs.design"][0]["fields"]["length"] = "long"


def _missing(told: dict[str, Any]) -> None:
    told["tables"]["builds.build"][0]["fields"]["colour"] = "red"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (_foreign, "no bow brings along"),
        (_dangling, "points to what is not in it"),
        (_nobodys, "points to what is not in it"),
        (_two, "not one bow"),
    ],
)
def test_what_is_no_bow_is_said_and_nothing_is_written(
    client: Client, whole: bytes, change: Callable[[dict[str, Any]], object], says: str
) -> None:
    answer = look(client, rewritten(whole, change))
    assert answer.status_code == 422 and says in answer.content.decode()
    assert Build.objects.count() == 1


@pytest.mark.parametrize("change", [_words, _missing])
def test_a_row_that_cannot_be_leaves_nothing_half_written(
    client: Client, shop: SimpleNamespace, whole: bytes,
    change: Callable[[dict[str, Any]], object],
) -> None:  # fmt: skip
    emptied()
    pictures = set(Path(settings.PHOTOS).glob("*"))
    page = look(client, rewritten(whole, change))
    answer = client.post(BRING, answers(page))
    assert answer.status_code == 422 and "cannot be" in answer.content.decode()
    assert not Build.objects.exists() and not Stave.objects.exists()
    assert set(Path(settings.PHOTOS).glob("*")) == pictures


def test_other_files_and_forgotten_ones_are_answered(
    client: Client, shop: SimpleNamespace, whole: bytes, tmp_path: Path
) -> None:
    for content, says in (
        (b"", "empty"), (b"words", "no ZIP, or is damaged"), (whole[:900], "no ZIP"),
    ):  # fmt: skip
        answer = look(client, content)
        assert answer.status_code == 422 and says in answer.content.decode()
    path = tmp_path / "shop.zip"
    archive.write(path)
    answer = look(client, path.read_bytes())
    assert "This file is a whole shop, and not one bow" in answer.content.decode()
    with pytest.raises(archive.ArchiveError, match="is one bow, and not a whole shop"):
        other = tmp_path / "bow.zip"
        other.write_bytes(whole)
        archive.read(other)
    for token in ("", "../../secret-key", "0" * 32):
        gone = client.post(BRING, {"token": token})
        assert gone.status_code == 422 and "not here any more" in gone.content.decode()


def test_a_picture_that_is_none_stops_it(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as pack, zipfile.ZipFile(out, "w") as other:
        for name in pack.namelist():
            data = pack.read(name)
            other.writestr(name, b"\xff\xd8 nothing" if name.endswith(".jpg") else data)
    emptied()
    page = look(client, out.getvalue())
    answer = client.post(BRING, answers(page))
    assert answer.status_code == 422 and "photograph" in answer.content.decode()
    assert not Build.objects.exists()


def test_only_who_may_plan_takes_bows_along_and_in(
    client: Client, shop: SimpleNamespace, whole: bytes
) -> None:
    for person in (shop.people.helper, shop.people.guest):
        other = signed_in(person)
        assert other.get(ZIP).status_code == other.get(BRING).status_code == 403
        assert look(other, whole).status_code == 403


def test_no_more_than_twenty_wait_and_none_over_a_day(
    settings: Any, tmp_path: Path, db: None
) -> None:
    settings.HOME = tmp_path
    tokens = [parcel.put_by(b"x") for _ in range(25)]
    left = list((tmp_path / "incoming").glob("*.zip"))
    assert len(left) == parcel.MOST_WAITING and parcel.put_by_path(tokens[-1]) is not None


HOSTILE = {
    "a stage that is none": ("builds.build", "stage", "zzz"),
    "a ruler that is none": ("builds.build", "draw_ruler", "elbow"),
    "an ending that is none": ("builds.build", "ending", "eaten"),
    "a length past all": ("designs.design", "length", 1e308),
    "a weight below nothing": ("designs.design", "weight", -5),
    "figures that are a list": ("designs.design", "sizes", [1, 2]),
    "figures far too large": ("designs.design", "sizes", {"width": 1e200}),
    "what was learned without a figure": ("designs.design", "learned", {"odd": 1}),
    "a bow file that is none": ("designs.design", "bow_file", "{]"),
    "fingers that are none": ("shop.archer", "fingers", "all ten"),
    "a draw of nothing": ("shop.archer", "draw", 0),
    "a year that comes late": ("builds.entry", "at", "9999-12-31T23:59:59Z"),
    "a year long gone": ("builds.build", "started", "0007-01-01T00:00:00Z"),
    "a line break in a name": ("builds.build", "name", "two\nlines"),
    "a sign that cannot be written": ("rack.stave", "source", "a\x07bell"),
    "stock of no kind": ("rack.stave", "kind", "cloud"),
    "a stave longer than the world": ("rack.stave", "length", 4e7),
    "a key that is a list": ("builds.entry", "build", [1]),
    "a key that is a table": ("builds.entry", "build", {"a": 1}),
    "a material of nothing": ("rack.stave", "material", "moonlight"),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_row_that_cannot_be_is_named_and_nothing_comes_in(
    client: Client, whole: bytes, name: str
) -> None:
    label, field, value = HOSTILE[name]
    client.raise_request_exception = False

    def change(told: dict[str, Any]) -> None:
        told["tables"][label][0]["fields"][field] = value

    counts = Build.objects.count(), Design.objects.count(), Entry.objects.count()
    page = look(client, rewritten(whole, change))
    if page.status_code == 200:
        asked = page.context["answers"].fields
        given = {"again": "on"} if "again" in asked else {}
        given |= {name: "new" for name in asked if name.startswith("stave_")}
        page = client.post(BRING, answers(page, **given))
    assert page.status_code == 422
    assert "row of" in page.content.decode() or page.context["answers"].errors
    assert counts == (Build.objects.count(), Design.objects.count(), Entry.objects.count())
    for where in ("builds:list", "designs:list", "ledger:search", "rack:list"):
        assert client.get(reverse(where)).status_code == 200


def test_a_file_of_millions_of_rows_is_refused_before_it_is_taken_apart(
    client: Client, tmp_path: Path
) -> None:
    rows = b'{"pk":1,"fields":{}},' * 800_000
    data = (
        b'{"format":"fellwind-parcel","version":1,"tables":{"builds.entry":[' + rows[:-1] + b"]}}"
    )
    path = tmp_path / "many.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as pack:
        pack.writestr("shop.json", data)
    assert path.stat().st_size < 100_000
    tracemalloc.start()
    sent = {"file": SimpleUploadedFile("many.zip", path.read_bytes())}
    answer = client.post(reverse("ledger:bring"), sent)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert answer.status_code == 422 and "more rows than one bow" in answer.content.decode()
    assert most < 60_000_000
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as pack:
        pack.writestr("shop.json", data[:-3] + b" " * 30_000_000 + b"]}}")
    again = client.post(
        reverse("ledger:bring"), {"file": SimpleUploadedFile("many.zip", path.read_bytes())}
    )
    assert again.status_code == 422 and "unpacks to more than one bow" in again.content.decode()
