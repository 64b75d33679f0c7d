"""Weighings, readings and wood from sheets, as spreadsheets of several lands write them."""

from datetime import timedelta
from types import SimpleNamespace
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.models import Entry, Measure
from fellwind.kit.sheets import MOST_BYTES, MOST_ROWS, SheetError, decoded, parted_by, read_sheet
from fellwind.ledger import sheets
from fellwind.rack.models import Stave, Weighing
from tests.conftest import signed_in

SHEET = reverse("ledger:sheet")
COLUMNS = {"stave": ("no",), "day": ("date",), "mass": ()}


def sent(client: Client, kind: str, text: str | bytes, **more: str) -> Any:
    content = text if isinstance(text, bytes) else text.encode()
    data = {"kind": kind, "file": SimpleUploadedFile("sheet.csv", content), **more}
    return client.post(SHEET, data)


def kept(client: Client, page: Any, **change: str) -> Any:
    found = page.context["found"]
    data = {"kind": found.kind, "text": found.text, "keep": "yes",
            "page_world": page.context["form"].reads_in.world, **change}  # fmt: skip
    return client.post(SHEET, data, follow=True)


@pytest.mark.parametrize("mark", [b"", b"\xef\xbb\xbf"])
@pytest.mark.parametrize(
    "text",
    [
        "stave;day;mass (kg)\n1;14.03.2026;1,92\n",
        "stave,day,mass (kg)\n1,2026-03-14,1.92\n",
        "stave\tday\tmass\n1\t14/03/2026\t1,92 kg\n",
        'No,Date,"Mass [g]"\r\n"1","14 March 2026","1920"\r\n\r\n',
        "mass (kg);remark;no;date\n1,92;left, by the stove;1;14-03-2026\n",
    ],
)
def test_a_weighing_is_read_however_cells_are_parted(
    client: Client, shop: SimpleNamespace, text: str, mark: bytes
) -> None:
    page = sent(client, "weighings", mark + text.encode())
    said = page.content.decode()
    assert page.status_code == 200 and "stave 1, 14 March 2026: 1" in said
    assert not Weighing.objects.exists()  # only looked into
    assert ("remark" in said) == ("remark" in text)
    done = kept(client, page)
    assert "1 row is written." in done.content.decode()
    row = Weighing.objects.get()
    assert row.mass == pytest.approx(1.92) and f"{row.day}" == "2026-03-14"


def test_utf_16_and_western_letters_are_read() -> None:
    assert decoded("stave;day\nné".encode("utf-16")).startswith("stave")
    assert decoded("überall".encode("cp1252")) == "überall"
    for content, says in ((b"PK\0\0", "save the sheet as CSV"), (b"x" * (MOST_BYTES + 1), "larger"),
                          (b"\xff\xfe\x00", "no text that can be read")):  # fmt: skip
        with pytest.raises(SheetError, match=says):
            decoded(content)


def test_the_sign_that_parts_most_rows_alike_parts_them() -> None:
    assert parted_by("a;b\n1,5;2,5\n3,5;4,5") == ";"
    assert parted_by("a,b\n1.5,2\n") == ","
    assert parted_by("a\tb\n1,5\t2") == "\t"
    assert parted_by("alone") == ","


@given(st.text(max_size=300))
def test_no_text_stops_it(text: str) -> None:
    try:
        found = read_sheet(text, COLUMNS)
    except SheetError as error:
        assert str(error).endswith((".", "?"))
    else:
        assert set(found.known) <= set(COLUMNS)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Choose a file, or paste"),
        ("\n\n", "Choose a file, or paste"),
        ("colour,taste\nred,sweet\n", "names no column known here"),
        ("stave,day,day\n1,2026-03-01,2026-03-02\n", "Two of its columns are “day”"),
        ("stave,mass\n1,1.9 kg\n", "has no column “day”"),
        ("stave,day,mass\n", "no row below it"),
        ("stave,day,mass\n" + "1,2026-03-01,2 kg\n" * (MOST_ROWS + 1), "more than 2000 rows"),
    ],
)
def test_what_is_no_sheet_is_said_beside_its_field(
    client: Client, shop: SimpleNamespace, text: str, says: str
) -> None:
    answer = client.post(SHEET, {"kind": "weighings", "text": text})
    assert answer.status_code == 422 and says in answer.content.decode()


def test_each_row_is_answered_and_only_good_ones_are_written(
    client: Client, shop: SimpleNamespace
) -> None:
    Weighing.objects.create(stave=shop.stave, day="2026-03-01", mass=2.0, text="2 kg")
    later = (timezone.localdate() + timedelta(days=3)).isoformat()
    rows = {
        "1,2026-03-01,1.9 kg,": "that day it was written as 2 kg",
        "1,2026-03-08,1.8 kg,": "stave 1, 8 March 2026: 1.8 kg",
        "1,2026-03-08,1.7 kg,": "that day stands in it twice",
        "77,2026-03-08,1.7 kg,": "There is no stave 77",
        "one,2026-03-08,1.7 kg,": "is no number of a stave",
        "1,31.02.2026,1.7 kg,": "is no day",
        f"1,{later},1.7 kg,": "has not come yet",
        "1,2026-03-09,heavy,": "On the scale",
        "1,2026-03-10,,": "Write down what the scale says",
        "1,2026-03-11,,11 %": "meter 11 %",
        "1,2026-03-12,400 kg,": "outside what is possible",
    }
    page = sent(client, "weighings", "stave,day,mass,meter\n" + "\n".join(rows))
    said = page.content.decode()
    for words in rows.values():
        assert words in said, words
    found = page.context["found"]
    assert (found.new, found.count("here"), found.wrong) == (2, 1, 8)
    done = kept(client, page).content.decode()
    assert "2 rows are written; 8 could not be." in done
    assert Weighing.objects.count() == 3
    again = sent(client, "weighings", "stave,day,mass,meter\n" + "\n".join(rows))
    assert again.context["found"].new == 0 and b"Write 0" not in again.content


def test_readings_become_pencil_lines_said_back(client: Client, shop: SimpleNamespace) -> None:
    text = (
        "bow;date;time;string;brace (cm);draw (cm);weight (kg);upper gap (mm);lower gap (mm);note\n"
        "1;01.06.2026;10:30;full;15,2;40;12,4;158;155;by the window, calm\n"
        "1;01.06.2026;10:40;;;45;14,1;;;\n"
        "1;01.06.2026;10:50;;;;15;;;\n"
        "9;01.06.2026;10:50;;;40;15;;;\n"
        "1;01.06.2026;25:00;;;40;15;;;\n"
        "1;01.06.2026;11:00;;;;;;;\n"
    )
    page = sent(client, "readings", text)
    said = page.content.decode()
    for words in ("A weight is read at a draw", "There is no bow 9", "is no time of day",
                  "nothing in it that was read"):  # fmt: skip
        assert words in said, words
    assert page.context["found"].new == 2
    kept(client, page)
    first, second = Entry.objects.filter(kind="bench").order_by("at")
    assert first.stage == "tiller" and first.at < second.at
    weight = first.measures.get(kind="weight")
    assert weight.value == pytest.approx(12.4 * 9.80665) and weight.draw == pytest.approx(0.40)
    assert first.measures.get(kind="gap", limb="upper").value == pytest.approx(0.158)
    assert "by the window, calm" in first.text
    assert sent(client, "readings", text).context["found"].count("here") == 2


def test_bare_figures_are_in_the_units_of_the_page_and_lines_go_as_they_are(
    client: Client, shop: SimpleNamespace
) -> None:
    text = 'bow,day,line\n1,2026-06-01,"string full 6, 24 at 18, upper gap 6 1/4, 10 min"\n'
    kept(client, sent(client, "readings", text))
    row = Measure.objects.get(kind="weight")
    assert row.value == pytest.approx(24 * POUND_FORCE) and row.draw == pytest.approx(18 * INCH)
    metric = "bow,day,draw,weight\n1,2026-06-02,400,12\n"
    page = sent(client, "readings", metric, page_world="metric")
    assert page.context["found"].new == 1, page.content.decode()
    kept(client, page)
    newest = Measure.objects.filter(kind="weight").latest("pk")
    assert newest.draw is not None and newest.value is not None
    assert newest.value == pytest.approx(12 * 9.80665)


def test_readings_stand_at_the_stage_of_their_day(client: Client, shop: SimpleNamespace) -> None:
    for stage, days in (("tiller", 30), ("finish", 5)):
        Entry.objects.create(build=shop.build, kind="stage", stage=stage, text=f"On to {stage}",
                             at=timezone.now() - timedelta(days=days))  # fmt: skip
    shop.build.stage = "finish"
    shop.build.save()
    then = (timezone.localdate() - timedelta(days=12)).isoformat()
    now = (timezone.localdate() - timedelta(days=2)).isoformat()
    text = f"bow,day,draw,weight\n1,{then},20,30\n1,{now},20,28\n"
    kept(client, sent(client, "readings", text))
    assert [e.stage for e in Entry.objects.filter(kind="bench").order_by("at")] == [
        "tiller", "finish",
    ]  # fmt: skip


def test_wood_comes_onto_the_rack(client: Client, shop: SimpleNamespace) -> None:
    text = (
        "wood;kind;length (cm);width (mm);depth (mm);date;tree;moisture;price\n"
        "European ash;board;180;55;30;01.02.2026;the long ash;12 %;24\n"
        "European ash;board;180;55;30;01.02.2026;the long ash;12 %;24\n"
        "moon wood;board;180;55;30;;;;\n"
        "rowan;plank;180;55;30;;;;\n"
        "rowan;log split;long;55;30;;;;\n"
        "rowan;log split;180;5500;30;;;;\n"
    )
    page = sent(client, "wood", text)
    said = page.content.decode()
    for words in ("a new stave: board, european ash, 180 cm by 55 mm by 30 mm", "twice in this",
                  "is no kind of stock", "outside what is possible"):  # fmt: skip
        assert words in said, words
    assert page.context["found"].new == 1
    kept(client, page)
    stave = Stave.objects.latest("pk")
    assert (stave.number, stave.tree, stave.price) == (2, "the long ash", "24")
    assert stave.length == pytest.approx(1.8) and stave.bought_at == pytest.approx(0.12)
    assert sent(client, "wood", text).context["found"].new == 0


def test_only_who_may_plan_brings_sheets(client: Client, shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    assert guest.get(SHEET).status_code == 403
    assert guest.post(SHEET, {"kind": "wood", "text": "wood\nx"}).status_code == 403
    page = client.get(SHEET + "?kind=wood").content.decode()
    assert "What a sheet looks like" in page and "<code>upper gap</code>" in page
    assert set(sheets.KINDS) == {"weighings", "readings", "wood"}
