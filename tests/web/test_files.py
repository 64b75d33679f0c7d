"""What leaves the application: PDF sheets, the QR code; and what the demo holds."""

import re
import subprocess
import sys
import unicodedata
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.units.quantity import INCH, POUND_FORCE, Units
from fellwind.builds.models import Build, Entry
from fellwind.builds.proof import proof
from fellwind.builds.services import left
from fellwind.demo.loader import load
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.exports.paper import markup, written
from fellwind.people.models import Invitation, Person
from fellwind.rack.models import Stave
from fellwind.rack.services import seasoning
from fellwind.shop.models import Workshop
from fellwind.strings.models import BowString, StringEntry
from fellwind.strings.services import sheets_of, strings
from fellwind.strings.twins import twin_of
from fellwind.tiller.services import bench
from tests.conftest import signed_in
from tests.web.forms import pdf_words

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("marked_in", ["imperial", "metric"])
@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_the_marking_table_prints_every_mark_on_one_sheet(
    client: Client, shop: SimpleNamespace, marked_in: str, paper: str
) -> None:
    Workshop.get()
    Workshop.objects.update(paper=paper)
    Design.objects.update(sizes={"marked_in": marked_in})
    shop.design.refresh_from_db()
    answer = client.get(reverse("designs:marking_pdf", args=[shop.design.pk]))
    assert answer["Content-Type"] == "application/pdf"
    text, reader = pdf_words(answer.content)
    assert len(reader.pages) == 1
    width = float(reader.pages[0].mediabox.width)
    assert width == pytest.approx(595.3 if paper == "A4" else 612, abs=0.5)
    found = solution(shop.design)
    cells = [line.strip().replace("⁄", "/") for line in text.split("\n")]
    plain = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹₀₁₂₃₄₅₆₇₈₉⁄", "01234567890123456789/")
    for mark in found.marks:
        for cell in written(mark, marked_in):
            for sign in ("⅛", "⅜", "⅝", "⅞"):
                cell = cell.replace(sign, unicodedata.normalize("NFKC", sign))
            assert cell.translate(plain) in cells, cell
    assert "Upper limb" in text and "Lower limb" in text and "Saw, axe and drawknife" in text
    assert not re.search(r"[?■]", text)
    if marked_in == "imperial":
        assert "⁄64" in text or "⁄32" in text


def prove(client: Client) -> None:
    form = {
        "weight": "42.5",
        "brace_height": "6 1/8",
        "mass": "20",
        "page_world": "imperial",
        "client_id": str(uuid4()),
    }
    assert client.post(reverse("builds:prove", args=[1]), form).status_code == 302


def test_the_bow_card_waits_for_the_proof_and_carries_a_code(
    client: Client, shop: SimpleNamespace, tmp_path: Path
) -> None:
    where = reverse("builds:card", args=[1])
    assert client.get(where)["Location"] == reverse("builds:stage", args=[1, "proof"])
    prove(client)
    string = BowString.objects.create(build=shop.build, fibre="linen", brace_height=6 * INCH)
    StringEntry.objects.create(string=string, kind="length", value=64 * INCH, text="64 in")
    content = client.get(where).content
    text, reader = pdf_words(content)
    assert len(reader.pages) == 1
    for said in (
        "1 Elm flatbow",
        "42.5 lb at 27 in to the grip",
        "28 ¾ in trade",
        "6 1⁄8 in",
        "20.0 oz",
        "Working string",
        "64 in",
    ):
        assert said in text, said
    shop.people.maker.world = "metric"
    shop.people.maker.save()
    metric, _ = pdf_words(signed_in(shop.people.maker).get(where).content)
    assert "19.3 kg at 686 mm" in metric and "567 g" in metric


def test_the_code_on_the_card_is_the_bows_address(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    made: list[str] = []
    from fellwind.exports import card

    real = card.segno.make
    monkeypatch.setattr(
        card.segno, "make", lambda link, **kw: made.append(link) or real(link, **kw)
    )
    prove(client)
    client.get(reverse("builds:card", args=[1]))
    assert made == ["http://127.0.0.1/book/bow/1/"]


@pytest.mark.parametrize(
    "name", ["Ylva Řezníčková", "Đặng Thu", "Ольга", "Αλέκος", "23 ⅛ in, 5 ³⁄₁₆, −3 – “so”"]
)
def test_names_and_fractions_are_printed_as_they_are_written(
    client: Client, shop: SimpleNamespace, name: str
) -> None:
    """Every sign is in an embedded face, none is left out or replaced."""
    Design.objects.update(name=name)
    content = client.get(reverse("designs:marking_pdf", args=[shop.design.pk])).content
    text, reader = pdf_words(content)
    plain = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹₀₁₂₃₄₅₆₇₈₉", "01234567890123456789")
    said = name.replace("⅛", "1⁄8").translate(plain)
    assert "".join(said.split()) in "".join(text.split())
    fonts = [font.get_object() for font in reader.pages[0]["/Resources"]["/Font"].values()]
    used = [font for font in fonts if font["/Subtype"] == "/TrueType"]
    assert used and all("/FontFile2" in font["/FontDescriptor"] for font in used)


def test_a_sign_that_no_face_has_is_shown_as_a_query_not_dropped() -> None:
    assert markup("bow 弓", 10) != markup("bow ", 10)
    assert "<script>" not in markup("<script>", 10)


def test_time_left_is_said_as_a_maker_would() -> None:
    now = timezone.now()
    for wait, said in (
        (timedelta(days=4), "4 days"),
        (timedelta(hours=19), "19 h"),
        (timedelta(hours=2, minutes=10), "2 h 10 min"),
        (timedelta(minutes=30), "30 min"),
        (timedelta(minutes=-1), "over"),
    ):
        assert left(now + wait, now) == said


def test_the_first_link_is_printed_only_for_an_empty_shop(
    db: None, capsys: pytest.CaptureFixture[str]
) -> None:
    call_command("first_link", "http://127.0.0.1:8710/")
    first = capsys.readouterr().out
    call_command("first_link", "http://127.0.0.1:8710")
    second = capsys.readouterr().out
    assert first != second and Invitation.objects.count() == 1
    link = re.search(r"http://127.0.0.1:8710(/join/\S+)", second)
    assert link and Client(HTTP_HOST="127.0.0.1").get(link[1]).status_code == 200
    Person.objects.create_user("someone")
    call_command("first_link", "http://127.0.0.1:8710")
    assert capsys.readouterr().out == ""


def test_the_demo_workshop_is_true_to_the_core(db: None) -> None:
    load()
    elm = Build.objects.select_related("design__stave").get(number=14)
    now = bench(elm)
    assert now.stand.stiffer == "upper" and now.stand.by > 0.05
    assert now.advice.act == "take" and {r.limb for r in now.advice.removals} >= {"upper"}
    assert not now.now.wild and len(now.history.checks) == 5
    assert Entry.objects.filter(build=elm).exclude(corrects=None).count() == 1
    rowan = Build.objects.select_related("design__stave").get(number=13)
    proved = proof(rowan, solution(rowan.design))
    assert abs(proved.off) < POUND_FORCE and 0.5 < proved.efficiency < 0.65
    sheets = sheets_of(list(strings().filter(build=rowan)))
    twin = twin_of(sheets[0], sheets, Units())
    assert len(twin.rows) == 6 and all(row.within for row in twin.rows)
    assert sheets[0].settling.settled and sheets[0].plan.safe >= sheets[0].plan.needed
    strip = sheets_of(list(strings().filter(build__number=18)))[0]
    assert strip.plan.strands == 3 and strip.plan.safe >= 0.999 * strip.plan.needed
    plum = seasoning(
        Stave.objects.prefetch_related("weighings").get(material="plum"), Workshop.get()
    )
    assert plum.forecast.moisture > 0.12 and plum.forecast.ready_in > 14
    for design in Design.objects.select_related("stave", "archer"):
        assert solution(design).weight == pytest.approx(design.weight, rel=0.01)


def test_the_core_imports_nothing_of_the_web() -> None:
    code = (
        "import sys, bowyery.cli.__main__, bowyery.tiller.advice, bowyery.strings.plan,"
        " bowyery.tiller.pencil;sys.exit(any(m.split('.')[0] in ('django', 'fellwind') for m in"
        " sys.modules))"
    )
    assert (
        subprocess.run(
            [sys.executable, "-c", code], env={"PYTHONPATH": str(ROOT / "src")}, check=False
        ).returncode
        == 0
    )


def test_vendored_files_are_what_was_taken() -> None:
    run = subprocess.run(
        [sys.executable, "scripts/renew_vendor.py", "--check"],
        cwd=ROOT,
        check=False,
        capture_output=True,
    )
    assert run.returncode == 0, run.stdout
