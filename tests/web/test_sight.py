"""Photographs that are read: taken, refused, tapped, put right, and kept as checks."""

import io
import json
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from functools import cache
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import cv2
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from benchmarks.camera import shape_of, taken
from bowyery.tiller.estimate import few_cells
from bowyery.units.quantity import INCH
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.designs.services import solution
from fellwind.rack.models import Section, Stave
from fellwind.rack.services import core_stave
from fellwind.sight import pages, services, staves
from fellwind.sight.models import Sighting, StaveLine
from fellwind.tiller.services import bench
from tests.conftest import signed_in
from tests.web.forms import pdf_words

pytestmark = pytest.mark.slow

TAKE, READ = reverse("sight:take", args=[1]), reverse("sight:read", args=[1])
TO = 0.5  # m, that the pictured bow is drawn to


@cache
def shot(state: str, tags: bool = True) -> tuple[bytes, tuple[tuple[float, float], ...]]:
    """A picture of the shop's bow with an upper limb that is stiff, and its five places."""
    found = solution(Build.objects.get(number=1).design)
    limbs = few_cells(found.curve.limbs)
    factor = np.ones((2, 1, limbs.cells + 1))
    factor[0] = 1.3
    shape = shape_of(limbs.stiffened(factor), found.bow, state, TO)
    image, truth = taken(np.random.default_rng([7, 3]), found.bow, state, shape, tags)
    coded = cv2.imencode(".jpg", image, [cv2.IMWRITE_JPEG_QUALITY, 88])[1]
    scale = 1800 / image.shape[1]
    return coded.tobytes(), tuple((x * scale, y * scale) for x, y in truth.taps.tolist())


def sent(content: bytes, **change: object) -> dict[str, Any]:
    photo = SimpleUploadedFile("bow.jpg", content)
    return {"photo": photo, "state": "drawn", "weight": "", "client_id": str(uuid4())} | change


def seen_of(row: Sighting) -> str:
    return reverse("sight:seen", args=[1, row.pk])


@pytest.fixture
def drawn(client: Client, shop: SimpleNamespace) -> Sighting:
    """A photograph of the drawn bow, read."""
    answer = client.post(READ, sent(shot("drawn")[0], weight="31"))
    row = Sighting.objects.get()
    assert answer.status_code == 302 and answer["Location"] == seen_of(row), answer.content
    return row


def test_one_picture_is_a_check_with_the_bend_of_both_limbs(
    client: Client, drawn: Sighting, shop: SimpleNamespace
) -> None:
    page = client.get(TAKE).content.decode()
    assert 'capture="environment"' in page and "read, not kept" in page
    assert drawn.seen and drawn.seen["draw"] == pytest.approx(1e3 * TO, abs=8.0)
    page = client.get(seen_of(drawn)).content.decode()
    assert "19 ⅝ in" in page or "19 ¾ in" in page or "19 ½ in" in page or "19 ¹¹⁄₁₆ in" in page
    assert 'value="31 lb"' in page and "data-sight" in page
    # it is kept at the time it was taken, once, whoever presses twice
    earlier = timezone.now() - timedelta(hours=3)
    Entry.objects.filter(photo__sighting=drawn).update(at=earlier)
    keep = reverse("sight:keep", args=[1, drawn.pk])
    data = {"moved": "", "weight": "31", "draw": ""}
    for _ in range(2):
        answer = client.post(keep, data)
        assert answer.status_code == 302 and answer["Location"] == reverse(
            "tiller:screen", args=[1]
        )
    entry = Entry.objects.get(kind="bench")
    kinds = [m.kind for m in entry.measures.all()]
    assert kinds == ["weight"] + ["traced"] * 16 and entry.at == earlier
    drawn.refresh_from_db()
    assert drawn.entry == entry
    now = bench(Build.objects.get(number=1)).now
    assert now is not None
    apart = (now.field[0] - now.field[1]).mean()
    assert apart == pytest.approx(np.log(1.3), abs=0.1)  # the stiff limb is seen
    screen = client.get(reverse("tiller:screen", args=[1])).content.decode()
    assert entry.text.startswith("31 lb at ") and entry.text[:60] in screen
    kept = client.get(seen_of(drawn)).content.decode()
    assert "Kept as a check" in kept and "Keep it as a check" not in kept
    assert client.post(reverse("sight:taps", args=[1, drawn.pk]), {"taps": "[]"}).status_code == 302


def test_nobody_waits_for_the_database_while_a_picture_is_read(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is read before the view's transaction begins, once, however often it is sent."""
    outside, asked = len(connection.savepoint_ids), []

    def watched(real: Callable[..., object]) -> Callable[..., object]:
        def work(*given: object) -> object:
            asked.append(len(connection.savepoint_ids) - outside)
            return real(*given)

        return work

    monkeypatch.setattr(services, "trace", watched(services.trace))
    monkeypatch.setattr(staves, "natural_line", watched(staves.natural_line))
    content = shot("drawn")[0] + b"anew"  # a JPEG ends before that
    data = sent(content)
    for _ in range(2):
        data["photo"].seek(0)
        assert client.post(READ, data).status_code == 302
    row = Sighting.objects.get()
    taps = json.dumps([(x + 1, y) for x, y in shot("drawn")[1]])
    assert client.post(reverse("sight:taps", args=[1, row.pk]), {"taps": taps}).status_code == 302
    photo, ends, _ = _stave_shot()
    client.post(reverse("lines:keep_photo", args=[1]), sent(photo))
    line = StaveLine.objects.get()
    where = reverse("lines:read", args=[1, line.pk])
    assert client.post(where, {"taps": json.dumps(ends)}).status_code == 302
    assert asked == [0, 0, 0]


def test_a_place_put_right_is_kept_as_it_was_put(client: Client, drawn: Sighting) -> None:
    assert drawn.seen
    spot = drawn.seen["knots"][7][4]
    keep = reverse("sight:keep", args=[1, drawn.pk])
    fine = {"weight": "", "draw": ""}
    for moved, says in (
        ("not json", "could not be read"), ("[]", "could not be read"),
        ('{"7": [1]}', "could not be read"), ('{"7": [NaN, 3]}', "could not be read"),
        ('{"99": [3, 3]}', "no such place"), ('{"7": [10, 1340]}', "another picture"),
        ("[" * 3000, "could not be read"),
    ):  # fmt: skip
        answer = client.post(keep, fine | {"moved": moved})
        assert answer.status_code == 422 and says in answer.content.decode(), moved
    assert not Entry.objects.filter(kind="bench").exists()
    moved = json.dumps({"7": [spot[0], spot[1] + 6]})
    assert client.post(keep, fine | {"moved": moved}).status_code == 302
    nock = Entry.objects.get(kind="bench").measures.filter(kind="traced", limb="upper").last()
    assert nock is not None and nock.value is not None
    assert 1e3 * nock.value > drawn.seen["knots"][7][2] + 4
    assert nock.more == pytest.approx(0.0015)
    drawn.refresh_from_db()
    assert drawn.moved == {"7": [spot[0], spot[1] + 6]}


def test_what_cannot_be_read_is_kept_with_the_reason_and_read_by_taps(
    client: Client, shop: SimpleNamespace
) -> None:
    content, taps = shot("drawn", tags=False)
    client.post(READ, sent(content))
    row = Sighting.objects.get()
    assert row.seen is None and "tag pages" in row.why
    page = client.get(seen_of(row)).content.decode()
    assert "tag pages" in page and page.count('class="knot tap"') == 5
    assert BenchPhoto.objects.get().entry.text == "Drawn on the tree"
    where = reverse("sight:taps", args=[1, row.pk])
    for wrong in ("", "x", "[[1, 2]]", json.dumps([[1, 2]] * 4 + [["a", 2]])):
        assert client.post(where, {"taps": wrong}).status_code == 422
    client.post(where, {"taps": json.dumps([taps[-1]] * 5)})
    row.refresh_from_db()
    assert row.seen is None and row.why
    client.post(where, {"taps": json.dumps(taps)})
    row.refresh_from_db()
    assert row.seen and row.seen["draw"] is None, row.why
    # the draw is asked for, and what is read beside the picture counts
    keep = reverse("sight:keep", args=[1, row.pk])
    data = {"moved": "", "weight": "", "draw": ""}
    answer = client.post(keep, data)
    assert answer.status_code == 422 and "read it off the tree" in answer.content.decode()
    assert client.post(keep, data | {"draw": "19 3/4"}).status_code == 302
    first = Entry.objects.get(kind="bench").measures.first()
    assert first is not None and first.draw == pytest.approx(0.5017, abs=0.002)


def test_an_unstrung_picture_is_a_profile_and_a_braced_one_tells_its_brace(
    client: Client, shop: SimpleNamespace
) -> None:
    for state in ("braced", "unstrung"):
        client.post(READ, sent(shot(state)[0], state=state))
    braced, unstrung = Sighting.objects.order_by("pk")
    for row in (braced, unstrung):
        assert row.seen, row.why
        keep = reverse("sight:keep", args=[1, row.pk])
        answer = client.post(keep, {"moved": ""})
        assert answer.status_code == 302
        row.refresh_from_db()
    assert braced.entry and unstrung.entry
    kinds = [m.kind for m in braced.entry.measures.all()]
    assert kinds == ["brace"] + ["traced"] * 16
    height = solution(shop.design).bow.brace_height
    brace = braced.entry.measures.get(kind="brace").value
    assert brace == pytest.approx(height, abs=0.012)
    profile = {m.limb: m for m in unstrung.entry.measures.all()}
    assert {m.kind for m in profile.values()} == {"profile"}
    shown = figures_of(client, unstrung)
    for limb in ("upper", "lower"):
        way = "belly" if (profile[limb].value or 0.0) >= 0 else "back"
        name = f"{limb} nock to the {way} of the handle's line"
        assert shown[name][0].isdigit(), shown
    assert "above its fade" not in " ".join(figures_of(client, braced))


def figures_of(client: Client, row: Sighting) -> dict[str, str]:
    """What the page of a photograph says of it."""
    return {one.name: one.value for one in client.get(seen_of(row)).context["figures"]}


def test_a_string_pulled_straight_is_said_to_be(
    client: Client, drawn: Sighting, monkeypatch: pytest.MonkeyPatch
) -> None:
    for off, said in ((1e-4, "straight"), (-0.05, "to the lower limb"), (0.05, "to the upper")):
        monkeypatch.setattr(pages, "aside", lambda read, bow, off=off: off)
        pulled = figures_of(client, drawn)["string pulled"]
        assert said in pulled and ("°" in pulled) == (said != "straight")


def test_what_is_no_picture_is_answered_beside_the_field(
    client: Client, shop: SimpleNamespace
) -> None:
    def made(size: tuple[int, int], kind: str = "JPEG") -> bytes:
        file = io.BytesIO()
        Image.new("RGB", size, (120, 90, 60)).save(file, kind)
        return file.getvalue()

    for content, says in (
        (b"a song", "not a photograph"), (made((900, 600))[:500], "damaged"),
        (made((5000, 5000), "PNG"), "million pixels"), (made((8000, 8000)), "million pixels"),
    ):  # fmt: skip
        answer = client.post(READ, sent(content))
        assert answer.status_code == 422 and says in answer.content.decode()
    assert client.post(READ, {"state": "drawn"}).status_code == 422
    assert client.post(READ, sent(made((900, 600)), state="bent")).status_code == 422
    assert not Sighting.objects.exists() and not BenchPhoto.objects.exists()
    # something else, and fifty megapixels of nothing, are kept with the reason
    for size in ((900, 600), (8660, 5770)):
        data = sent(made(size))
        for _ in range(2):  # sent twice, kept once
            data["photo"].seek(0)
            assert client.post(READ, data).status_code == 302
    assert Sighting.objects.count() == 2 and not Sighting.objects.filter(seen__isnull=False)
    guest = signed_in(shop.people.guest)
    assert guest.post(READ, sent(made((900, 600)))).status_code == 403
    assert guest.get(TAKE).status_code == 403
    other = reverse("sight:seen", args=[1, 999])
    assert client.get(other).status_code == 404


def _stave_shot() -> tuple[bytes, list[list[float]], Any]:
    """A picture of the shop's stave from the side, its ends, and how it runs (m)."""
    length, depth = 70 * INCH, 2 * INCH
    half = length / 2 - 0.025
    bow = solution(Build.objects.get(number=1).design).bow
    limb = replace(bow.upper, at=np.array([0.0, half]), width=np.full(2, 0.05),
                   thickness=np.full(2, depth), root=(0.0, 0.0, 0.0))  # fmt: skip
    along = np.linspace(0.0, half, 65)

    def side(x: Any) -> Any:
        share = x / (length / 2)
        return 0.03 * (1 - share**2) + 0.008 * np.sin(2 * np.pi * share)

    shape = np.stack([along, -along]), np.stack([side(along), side(-along)]), None, 0.0
    image, truth = taken(
        np.random.default_rng([7, 4]), replace(bow, upper=limb, lower=limb), "unstrung", shape
    )
    taps, per = truth.taps, 1800 / image.shape[1]
    ends = [
        taps[4] + (taps[4] - taps[3]) * 0.025 / half,
        taps[0] + (taps[0] - taps[1]) * 0.025 / half,
    ]
    coded = cv2.imencode(".jpg", image, [cv2.IMWRITE_JPEG_QUALITY, 88])[1]
    return coded.tobytes(), [(per * end).tolist() for end in ends], side


def test_a_stave_photographed_gives_its_natural_line(client: Client, shop: SimpleNamespace) -> None:
    content, ends, side = _stave_shot()
    stave = shop.stave
    Section.objects.create(stave=stave, at=0.35, width=0.06, side=0.001, text="by hand")
    answer = client.post(reverse("lines:keep_photo", args=[1]), sent(content))
    row = StaveLine.objects.get()
    page = reverse("lines:seen", args=[1, row.pk])
    assert answer["Location"] == page and client.get(page).content.decode().count("knot tap") == 2
    assert client.post(reverse("lines:keep", args=[1, row.pk])).status_code == 409
    where = reverse("lines:read", args=[1, row.pk])
    for wrong, status, says in (
        ("", 422, "required"), ("[[1,2]]", 422, "Put a ring"),
        (json.dumps(ends[::-1]), 302, "left end"), (json.dumps([[10, 10], [60, 10]]), 302, "far"),
    ):  # fmt: skip
        assert client.post(where, {"taps": wrong}).status_code == status
        if status == 302:
            assert says in client.get(page).content.decode()
    client.post(where, {"taps": json.dumps(ends)})
    row.refresh_from_db()
    assert row.seen, row.why
    share = np.linspace(0, 1, 11)
    true = 1e3 * side((share - 0.5) * 70 * INCH)
    true = true - true[0] * (1 - share) - true[-1] * share
    assert np.abs(np.array(row.seen["side"]) - true).max() < 5.0
    for _ in range(2):
        assert client.post(reverse("lines:keep", args=[1, row.pk])).status_code == 302
    found = {round(s.at, 2): s for s in Section.objects.filter(stave=stave) if s.stands}
    assert len(found) == 9 and found[0.35].width == 0.06  # what else was measured there stays
    middle = core_stave(Stave.objects.get(pk=stave.pk))
    assert np.interp(35 * INCH, middle.side_at, middle.side) == pytest.approx(
        true[5] / 1e3, abs=0.005
    )
    guest = signed_in(shop.people.guest)
    assert guest.get(reverse("lines:take", args=[1])).status_code == 403
    assert guest.post(where, {"taps": json.dumps(ends)}).status_code == 403


def test_the_tag_pages_are_a_page_a_tag(client: Client, shop: SimpleNamespace) -> None:
    answer = client.get(reverse("tags:pages"))
    text, reader = pdf_words(answer.content)
    assert answer["Content-Type"] == "application/pdf" and len(reader.pages) == 13
    assert "Tag 0" in text and "Tag 11" in text and "100 mm" in text
