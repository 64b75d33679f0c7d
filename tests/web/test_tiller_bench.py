"""The tiller's bench: what one sees by touch, wood as drawn, acts, tools, undoing, comparing."""

import html
import re
from datetime import timedelta
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.tiller.bite import TOOLS
from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.log import STRUCK
from fellwind.builds.models import Build, Entry, Measure, Wait
from fellwind.builds.services import minutes
from fellwind.shop.models import Tool
from fellwind.tiller.forms import ASKED, PRESSES, USUAL, ReadingForm
from fellwind.tiller.services import HALF_HOUR, bench
from tests.conftest import signed_in
from tests.web.forms import made_from

LOOK = "string full 6, 33 at 19, 36 at 21, upper gap 7 1/4, lower gap 7 1/4"


def where(name: str, *more: object) -> str:
    return reverse(f"tiller:{name}", args=[1, *more])


def keep(client: Client, line: str, **more: str) -> Entry:
    content = {"line": line, "page_world": "imperial", "client_id": str(uuid4())} | more
    assert client.post(reverse("builds:keep", args=[1]), content).status_code == 302
    return Entry.objects.order_by("-pk")[0]


def page(client: Client, name: str = "screen", **asked: str) -> str:
    return html.unescape(client.get(where(name), asked).content.decode()).split("<main")[1]


def state(shop: SimpleNamespace) -> object:
    return bench(Build.objects.select_related("design__stave").get(pk=shop.build.pk))


def sees(client: Client, how: str, **more: str) -> object:
    given = {"how": how, "page_world": "imperial", "client_id": str(uuid4())} | more
    return client.post(where("see"), given)


def test_a_pressed_stretch_becomes_an_entry_and_a_loose_reading(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    same = str(uuid4())
    for _ in range(2):  # sent twice
        answer = sees(client, "stiff", limb="upper", start="12", end="16", client_id=same)
        assert answer.status_code == 302
    assert [e.text for e in Entry.objects.order_by("pk")] == [LOOK, "stiff upper 12 to 16"]
    found = state(shop)
    assert [r.kind for r in found.check.readings].count("eye") == 1
    assert len(found.history.checks) == 1
    shown = page(client)
    assert "check 1 of 1" in shown and ">stiff</text>" in shown
    metric = {"how": "good", "limb": "lower", "start": "200", "end": "450", "page_world": "metric"}
    assert client.post(where("see"), metric).status_code == 302
    assert Measure.objects.get(how="good").start == pytest.approx(0.2)
    assert sees(client, "lower less").status_code == 302
    assert Entry.objects.order_by("-pk")[0].text == "lower bends less"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"how": "stiff"}, "Press a stretch of the limb first, then say stiff."),
        ({"how": "stiff", "limb": "upper"}, "Press a stretch"),
        ({"how": "lovely", "limb": "upper", "start": "4", "end": "8"}, "lovely is not one of"),
        ({"how": "weak", "limb": "left", "start": "4", "end": "8"}, "not one of the available"),
        ({"how": "weak", "limb": "upper", "start": "4", "end": "99"}, "beyond the tip"),
        ({"how": "weak", "limb": "upper", "start": "x", "end": "8"}, "could not be read"),
        ({}, "required"),
    ],
)
def test_a_press_that_says_nothing_gets_a_sentence(
    client: Client, given: dict[str, str], says: str
) -> None:
    answer = client.post(where("see"), given | {"least-page_world": "imperial"})
    assert answer.status_code == 422 and not Entry.objects.exists()
    assert says in html.unescape(answer.content.decode())


def test_two_marks_on_one_stretch_leave_the_newer_one(
    client: Client, shop: SimpleNamespace
) -> None:
    """From two tablets: nobody is refused, and the limb shows what was said last."""
    keep(client, LOOK)
    other = signed_in(shop.people.helper)
    sees(client, "stiff", limb="upper", start="12", end="16")
    sees(other, "hinge", limb="upper", start="12", end="16")
    shown = page(client)
    assert ">hinge</text>" in shown and ">stiff</text>" not in shown
    assert Entry.objects.filter(text__contains="upper 12 to 16").count() == 2


def test_done_as_drawn_writes_the_strokes_that_are_drawn(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    shown = page(client)
    drawn = re.search(r'name="line" value="(off [^"]+)"', shown)
    assert drawn and "strokes" in drawn[1] and "with scraper" in drawn[1]
    counts = [int(n) for n in re.findall(r'class="stroke-count"[^>]*>(\d+)<', shown)]
    assert counts and sorted(counts) == sorted(
        int(n) for n in re.findall(r"(\d+) strokes?\b", drawn[1])
    )
    same = {"line": drawn[1], "page_world": "imperial", "client_id": str(uuid4())}
    for _ in range(2):
        assert client.post(where("drawn"), same).status_code == 302
    assert Entry.objects.filter(text=drawn[1]).count() == 1
    assert set(Measure.objects.filter(kind="strokes").values_list("tool", flat=True)) == {"scraper"}
    assert "25 short pulls" in page(client)
    assert "came-off" in page(client)
    refused = client.post(
        where("drawn"), {"line": "off upper lots", "least-page_world": "imperial"}
    )
    assert refused.status_code == 422


def test_the_tool_in_hand_is_chosen_and_strokes_are_of_it(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    assert "Scraper: " in page(client)
    client.post(where("tool"), {"tool": "rasp"})
    assert "Rasp: " in page(client) and "with rasp" in page(client)
    answer = client.post(where("tool"), {"tool": "chainsaw"}, follow=True)
    assert "not in the shop" in answer.content.decode()
    assert Build.objects.get(number=1).tool == "rasp"
    client.post(where("tool"), {"tool": ""})
    assert "Scraper: " in page(client)
    assert all(name in page(client) for name in TOOLS)


def test_a_tool_of_the_shops_own_is_kept_once_and_taken_in_hand(client: Client) -> None:
    new = reverse("shop:tool_new")
    answer = client.post(new, {"name": " Toothed  Block ", "like": "rasp"})
    assert answer.status_code == 302 and Tool.objects.get().name == "toothed block"
    again = client.post(new, {"name": "toothed block", "like": "file"})
    assert again.status_code == 422 and "a tool of that name" in again.content.decode()
    wrong = client.post(new, {"name": "no. 3", "like": "file"})
    assert wrong.status_code == 422 and "in letters" in wrong.content.decode()
    edit = reverse("shop:tool", args=[Tool.objects.get().pk])
    changed = {"name": "toothed block", "like": "file"} | made_from(Tool.objects.get())
    assert client.post(edit, changed).status_code == 302
    assert "takes about as much as a file" in client.get(reverse("shop:shop")).content.decode()
    keep(client, LOOK)
    client.post(where("tool"), {"tool": "toothed block"})
    assert "Toothed block: " in page(client)
    form = {"removal-limb": "both", "removal-strokes": "6", "removal-client_id": str(uuid4())}
    assert client.post(where("removal"), form).status_code == 302
    assert Entry.objects.order_by("-pk")[0].text == "off both 6 strokes with toothed block"


def test_what_one_bow_showed_of_a_tool_is_where_the_next_of_that_wood_starts(
    client: Client, shop: SimpleNamespace
) -> None:
    """Eight strokes of the rasp took three times what rasps take: the next bow starts there."""
    keep(client, LOOK)
    client.post(where("tool"), {"tool": "rasp"})

    def bite() -> float:
        return bench(Build.objects.get(number=1)).bites["rasp"].thickness

    alone, told = bite(), sum(s.strokes for s in state(shop).strokes)
    other = Build.objects.create(
        number=2, name="Other", design=shop.design, stage="tiller", tool="rasp"
    )
    for n, line in enumerate(
        ("string full 6, 42 at 19, 46 at 21", "off both 6 strokes with rasp, 25 pulls",
         "string full 6, 33 at 19, 36 at 21"),
    ):  # fmt: skip
        content = {"line": line, "page_world": "imperial", "client_id": str(uuid4())}
        answer = client.post(reverse("builds:keep", args=[other.number]), content)
        assert answer.status_code == 302, n
    shown = bench(Build.objects.get(number=2)).bites["rasp"].thickness
    assert shown > 1.3 * alone
    assert alone < bite() < shown
    assert sum(s.strokes for s in state(shop).strokes) <= told


def test_wood_off_another_face_is_a_removal_too(client: Client, shop: SimpleNamespace) -> None:
    keep(client, LOOK)
    before = state(shop).piece.bow.upper.width[0]
    form = {
        "removal-limb": "upper", "removal-thickness": "1/32", "removal-face": "sides",
        "removal-client_id": str(uuid4()), "removal-page_world": "imperial",
    }  # fmt: skip
    assert client.post(where("removal"), form).status_code == 302
    assert Entry.objects.order_by("-pk")[0].text == "off upper 1/32 in sides"
    after = state(shop).piece.bow.upper.width[0]
    assert before - after == pytest.approx(INCH / 16)
    assert client.get(where("screen")).status_code == 200


def act_form(act: str, **more: str) -> dict[str, str]:
    given = {"act": act, "limb": "both", "client_id": str(uuid4()), "least-page_world": "imperial"}
    return {f"done-{k}": v for k, v in (given | more).items()}


FIGURES = {
    "length": "1/2", "thickness": "1/32", "angle": "4", "material": "rawhide", "start": "10",
    "end": "14", "colour": "golden", "heat_minutes": "12", "way": "down",
}  # fmt: skip


@pytest.mark.parametrize("act", PRESSES)
def test_every_act_by_form_does_as_its_pencil_line_and_the_page_stands(
    client: Client, shop: SimpleNamespace, act: str
) -> None:
    keep(client, LOOK)
    limb = "both" if "both" in PRESSES[act].limbs or not PRESSES[act].limbs else "upper"
    answer = client.post(where("done"), act_form(act, limb=limb, **FIGURES))
    assert answer.status_code == 302
    entry = Entry.objects.order_by("-pk")[0]
    (by_form,) = entry.measures.all()
    keep(client, entry.text)
    (by_line,) = Entry.objects.order_by("-pk")[0].measures.all()
    for name in ("kind", "limb", "value", "start", "end", "more", "how"):
        assert getattr(by_form, name) == getattr(by_line, name)
    Entry.objects.order_by("-pk")[0].delete()
    shown = page(client)
    assert "At full draw" in shown and ("look at the tiller again" in shown.lower())


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (act_form("cut"), "Write how much."),
        (act_form("cut", length="40"), "outside what is possible"),
        (act_form("cut", length="17"), "less than half of a limb"),
        (act_form("patch", limb="both", thickness="1/16", start="4", end="9"), "Say which limb."),
        (act_form("patch", limb="upper", thickness="1/16"), "Say where"),
        (act_form("patch", limb="upper", thickness="1/16", start="14", end="9"), "nearer the"),
        (act_form("backing", thickness="1/16"), "Write what it is of."),
        (act_form("backing", material="cheese", thickness="1/16"), "not in the book"),
        (act_form("twist out", limb="upper"), "by how many degrees"),
        (act_form("twist out", limb="upper", angle="400"), "no twist of a limb"),
        (act_form("bound", limb="upper", start="40"), "beyond the tip"),
        (act_form("heat", start="10"), "Give both places"),
        (act_form("painting"), "painting is not one of"),
    ],
)
def test_half_an_act_is_refused_beside_its_field_and_nothing_is_kept(
    client: Client, given: dict[str, str], says: str
) -> None:
    answer = client.post(where("done"), given)
    assert answer.status_code == 422 and not Entry.objects.exists()
    assert says in html.unescape(answer.content.decode())


def test_a_cut_changes_the_bow_from_then_on_and_shows_what_it_did(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    before = state(shop)
    keep(client, "cut 1 both ends")
    after = state(shop)
    assert after.outlook.now.middle > 1.05 * before.outlook.now.middle
    assert after.piece.length == pytest.approx(before.piece.length - 2 * INCH)
    shown = page(client)
    assert "1 in cut off both ends" in shown and "Measure the centre anew" in shown
    assert "32 ⁷⁄₁₆" in shown or "bow on the ruler" in shown
    keep(client, "string full 6, 37 at 19, 40 1/2 at 21, upper gap 7 1/4, lower gap 7 1/4")
    told = page(client)
    assert "At check 2" in told and "the readings say" in told
    # what cannot be after two such cuts is said, and can be struck out
    keep(client, "cut 12 both ends")
    keep(client, "cut 12 both ends")
    broken = page(client)
    assert "less than half of a limb" in broken and "strike it out" in broken


def test_undo_strikes_out_and_puts_back_and_wipes_nothing(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    wrong = keep(client, "off both 1/8, 20 min")
    assert state(shop).history.passes and minutes(shop.build) == 20
    answer = client.post(where("strike", wrong.pk), {"client_id": str(uuid4())}, follow=True)
    assert "It counts no more" in answer.content.decode()
    assert not state(shop).history.passes and minutes(shop.build) == 20
    strike = Entry.objects.order_by("-pk")[0]
    assert strike.text == f"{STRUCK}off both 1/8, 20 min" and strike.corrects == wrong
    # a second tablet that strikes it out as well is told so
    again = client.post(where("strike", wrong.pk), {"client_id": str(uuid4())}, follow=True)
    assert "changed already" in again.content.decode()
    assert "put it back" in page(client)
    client.post(where("strike", strike.pk), {"client_id": str(uuid4())})
    assert len(state(shop).history.passes) == 2 and minutes(shop.build) == 20
    back = Entry.objects.order_by("-pk")[0]
    assert back.text == wrong.text and back.corrects == strike and back.at == wrong.at
    assert Entry.objects.count() == 4
    log = client.get(reverse("builds:log", args=[1])).content.decode()
    assert log.count("off both 1/8") >= 3
    assert client.post(where("strike", 99999)).status_code == 404


def test_the_advice_without_an_entry_stands_beside_the_advice_with_it(client: Client) -> None:
    keep(client, LOOK)
    odd = keep(client, "off both 1/32, 25 pulls, 30 at 21")
    part = html.unescape(client.get(where("without", odd.pk)).content.decode())
    assert "Without “off both 1/32" in part and "With it:" in part and "at full draw" in part
    assert "<html" not in part
    first = Entry.objects.order_by("pk")[0]
    alone = html.unescape(client.get(where("without", first.pk)).content.decode())
    assert "Without" in alone
    assert client.get(where("without", 4242)).status_code == 404


def test_two_checks_on_the_ruler(client: Client) -> None:
    assert "Two checks are needed" in page(client, "compare")
    keep(client, LOOK)
    assert "Two checks are needed" in page(client, "compare")
    keep(client, "off upper 1/64 10 to 20, 25 pulls")
    keep(client, LOOK.replace("36", "34").replace("33", "31"))
    shown = page(client, "compare")
    assert "check 1 dashed and check 2 solid" in shown and "Check 2, full brace" in shown
    assert page(client, "compare", first="2", second="1").count("check 1 dashed") == 1
    for odd in ("0", "-3", "99", "x", "²", "9" * 40):
        assert client.get(where("compare"), {"first": odd, "second": odd}).status_code == 200
    strip = client.get(where("strip")).content.decode()
    assert strip.count("<svg") == 2 and "check 1" in strip
    drawn = page(client)
    assert drawn.count('class="picture look"') == 2


@pytest.mark.parametrize(
    ("name", "text", "told"),
    [
        ("reading-upper_edge", "3/32 at 12 and 1/16 at 18", True),
        ("upper_edge", "3/32 at", False),
        ("lower_gap", "", True),
        ("upper_tip", "6", True),
        ("upper_block", "8 to 12", True),
        ("lower_lies", "1/4 belly at 20", True),
        ("weight", "36", False),
        ("upper_edge", "banana", False),
        ("upper_edge", "1/16 at 99", False),
        ("", "", False),
    ],
)
def test_the_place_that_is_typed_is_found_on_the_picture(
    client: Client, name: str, text: str, told: bool
) -> None:
    x = client.get(where("place"), {"name": name, "text": text}).json()["x"]
    assert (x is not None) == told
    if told:
        assert 100 < x < 960 and (x > 530) == ("upper" in name)


def test_the_half_hour_runs_once_and_counts_when_it_is_over(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, "string low 3, 24 at 12, 28 at 14, upper gap 3 1/2, lower gap 3 1/2")
    assert "start it" in page(client)
    for _ in range(2):
        assert client.post(where("half_hour")).status_code == 302
    (wait,) = Wait.objects.all()
    assert wait.what == HALF_HOUR and wait.until - timezone.now() > timedelta(minutes=29)
    shown = page(client)
    assert 'data-until="' in shown and "start it" not in shown
    assert 'data-until="' in page(client, "bench")
    Wait.objects.update(what=HALF_HOUR.capitalize())  # as one hung from the table of rests is
    assert "start it" not in page(client)
    Wait.objects.update(until=timezone.now() - timedelta(minutes=1))
    over = page(client)
    assert 'rung-here" aria-current="step"' in over
    here = over.split("rung-here")[1][:200]
    assert "half an hour" in here


def reading(**given: str) -> dict[str, str]:
    rows = {"client_id": str(uuid4()), "least-page_world": "imperial"} | given
    return {f"reading-{k}": v for k, v in rows.items()}


EXAMPLES = {name: row.hints for name, (_, row, limb) in ASKED.items()
            if row.hints[0] and limb != "lower"}  # fmt: skip


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize("world", ["imperial", "metric"])
def test_every_reading_has_a_field_that_reads_its_own_example(
    client: Client, name: str, world: str
) -> None:
    example = EXAMPLES[name][world == "metric"].partition(", or")[0]
    answer = client.post(where("reading"), reading(**{name: example, "page_world": world}))
    assert answer.status_code == 302
    if name != "hook":  # which is of the string, and waits for a reading
        assert Measure.objects.exists()


def test_sank_place_of_gaps_brace_and_string_by_form(client: Client) -> None:
    given = reading(
        weight="36", draw="21", sank="1", upper_gap="6", lower_gap="5 7/8", gap_at="8",
        brace="6", string="zero",
    )  # fmt: skip
    assert client.post(where("reading"), given).status_code == 302
    text = Entry.objects.get().text
    assert text == (
        "zero brace; brace 6 in; 36 lb at 21 in sank 1 lb; upper gap 6 in at 8;"
        " lower gap 5 7/8 in at 8"
    )
    weight = Measure.objects.get(kind="weight")
    assert weight.more == pytest.approx(4.448, abs=0.01)
    assert {round(m.start / INCH) for m in Measure.objects.filter(kind="gap")} == {8}


@pytest.mark.parametrize(
    ("given", "name", "says"),
    [
        ({"upper_lies": "1/2 sideways at 20"}, "upper_lies", "could not be read"),
        ({"upper_twist": "400 left"}, "upper_twist", "no twist of a limb"),
        ({"lower_thick": "12 at 5"}, "lower_thick", "no thickness"),
        ({"gap_at": "banana", "upper_gap": "6"}, "gap_at", "could not be read"),
        ({"sank": "1"}, "weight", "the weight that it sank to"),
        ({"weight": "5", "draw": "20", "sank": "9"}, "__all__", "cannot sink"),
        ({"tilt": "2"}, "tilt", "which limb|could not be read"),
        ({"upper_block": "20 to 99"}, "upper_block", "beyond the tip"),
    ],
)
def test_a_reading_that_cannot_be_is_refused_beside_its_field(
    client: Client, given: dict[str, str], name: str, says: str
) -> None:
    answer = client.post(where("reading"), reading(**given))
    text = html.unescape(answer.content.decode())
    assert answer.status_code == 422 and not Entry.objects.exists()
    assert re.search(says, text)
    if name != "__all__":
        assert f'id="id_reading-{name}-error"' in text
        assert 'id="reading-fold" name="entry" open' in text


def test_a_straight_edge_slid_along_is_one_press_a_mark(client: Client) -> None:
    given = reading(weight="36", draw="21") | {
        "reading-run-upper-9": "1/16", "reading-run-upper-12": "3/32", "reading-run-lower-9": "0",
        "reading-run-upper-99": "1/16", "reading-run-upper-15": "7",
    }  # fmt: skip
    assert client.post(where("reading"), given).status_code == 302
    rows = Measure.objects.filter(kind="straight edge")
    assert [(m.limb, round(m.value / INCH, 4)) for m in rows] == [
        ("upper", 0.0625), ("upper", 0.0937), ("lower", 0.0),
    ]  # fmt: skip
    metric = reading(page_world="metric") | {"reading-run-upper-225": "1.6"}
    assert client.post(where("reading"), metric).status_code == 302
    assert Measure.objects.order_by("-pk")[0].value == pytest.approx(0.0016)


def test_the_form_asks_first_for_what_would_tell_most_and_then_what_is_usual(
    client: Client,
) -> None:
    fresh = page(client)
    assert "Usual on this rung" in fresh and "Would tell most" not in fresh
    keep(client, LOOK)
    shown = page(client)
    assert shown.index("Would tell most") < shown.index("Usual on this rung")
    assert shown.index("Usual on this rung") < shown.index("all the rest")
    names = set(ReadingForm.base_fields)
    assert all(set(row) <= names for row in USUAL.values())
    # every field stands there once
    form = shown.split('id="reading-fold"')[1].split("</details>\n")[0]
    for name in names - {"client_id", "page_world"}:
        assert form.count(f'name="reading-{name}"') == 1, name


def test_what_lies_across_gets_an_edge_and_strokes(client: Client) -> None:
    keep(client, LOOK)
    keep(client, "string off 1/4 left")
    assert "Sight along each limb" in page(client)
    keep(client, "upper sideways 3/8 left, lower twist 4 right")
    shown = page(client)
    upper = re.search(r"The upper limb bends ⅜ in to the left: take (\d+) strokes", shown)
    assert upper and int(upper[1]) >= 1 and "off its right edge" in shown
    assert "The lower limb is twisted 4 ° to the right" in shown and "off its left edge" in shown


def test_set_is_told_by_limb_from_two_profiles(client: Client) -> None:
    keep(client, "upper lies 3/8 back, upper lies 1/8 back at 20")
    keep(client, LOOK)
    keep(client, "upper lies 1/8 belly, upper lies 1/16 belly at 20")
    shown = page(client)
    assert "to the belly" in shown and "nearer the belly than at first" in shown
    assert "of set at the tip since the first profile" in shown
    assert "shot in it should take" in shown and "Unstrung" in shown
    keep(client, "reflex both 1/2")
    assert "½ in of reflex planned or put in" in page(client)


def test_the_held_weight_is_the_headline_of_school_w(client: Client, shop: SimpleNamespace) -> None:
    keep(client, LOOK)
    assert 'class="held"' in page(client)
    Build.objects.update(school="D")
    assert 'class="held"' not in page(client)


def test_the_bench_view_says_strokes(client: Client) -> None:
    keep(client, LOOK)
    shown = page(client, "bench")
    assert "scraper: " in shown and "strokes upper" in shown
    assert "stroke-count" in shown and "Done as drawn" in shown


def test_ways_out_are_open_for_any_bow(client: Client, shop: SimpleNamespace) -> None:
    keep(client, LOOK)
    assert "Ways out" in page(client)
    part = html.unescape(client.get(where("rescue")).content.decode())
    assert "What it costs" in part and "Harden the belly by heat" in part
    keep(client, "off both 1/16, 25 pulls, 18 at 19, 20 at 21, upper gap 7, lower gap 7")
    light = html.unescape(client.get(where("rescue")).content.decode())
    assert "for the wanted weight" in light
    solved = re.search(
        r"Cut ([^<]*) off each end, for the wanted weight</td><td>([\d.]+) lb", light
    )
    assert solved and float(solved[2]) == pytest.approx(state(shop).plan.stop_at / 4.4482, rel=0.03)


def test_a_guest_presses_nothing(shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    entry = Entry.objects.create(build=shop.build, stage="tiller", text="25 pulls")
    for name in ("see", "drawn", "done", "tool", "half_hour"):
        assert guest.post(where(name), {"how": "stiff"}).status_code == 403, name
    assert guest.post(where("strike", entry.pk)).status_code == 403
    shown = html.unescape(guest.get(where("screen")).content.decode()).split("<main")[1]
    assert "What do you see" not in shown and "Keep the" not in shown


def test_marks_are_on_the_printed_template_until_they_are_rubbed_off(
    client: Client, shop: SimpleNamespace
) -> None:
    def drawn() -> str:
        found = client.get(f"/designs/{shop.build.design.pk}/template.svg")
        assert found.status_code == 200
        return found.content.decode()

    def write(line: str) -> None:
        given = {"line": line, "page_world": "imperial", "client_id": str(uuid4())}
        assert client.post(where("rub"), given).status_code == 302

    keep(client, LOOK)
    assert "crack" not in drawn()
    write("crack upper 11")
    assert "crack" in drawn()
    shown = page(client)
    assert "A crack on the upper limb, about 11 in from the centre" in shown
    write("rub off upper 11")
    assert "crack" not in drawn()
    assert "A crack on the upper limb" not in page(client)


def test_the_floor_of_evening_is_asked_for_where_a_build_begins(
    client: Client, shop: SimpleNamespace
) -> None:
    form = {"name": "Second", "design": shop.build.design.pk, "school": "W", "draw_ruler": "pivot",
            "page_world": "imperial", "floor": "40"}  # fmt: skip
    assert client.post("/builds/new/", form).status_code == 302
    made = Build.objects.order_by("-number").first()
    assert made is not None and made.floor == pytest.approx(40 * 4.4482216152605)
    refused = client.post("/builds/new/", form | {"floor": "4000"})
    assert refused.status_code == 422 and "outside what is possible" in refused.content.decode()


def test_lines_of_one_pull_may_come_one_by_one(client: Client, shop: SimpleNamespace) -> None:
    keep(client, LOOK)
    keep(client, "upper edge 3/32 at 12")
    edge = Measure.objects.get(kind="straight edge")
    assert edge.draw == pytest.approx(Measure.objects.filter(kind="weight").last().draw)
    told = client.post(reverse("builds:read_back"), {"line": "lower edge 1/16 at 12", "build": 1,
                                                     "least-page_world": "imperial"})  # fmt: skip
    assert "at 21 in to the" in told.content.decode()
    keep(client, "25 pulls")
    keep(client, "lower edge 1/16 at 12")
    assert Measure.objects.filter(kind="straight edge").last().draw is None
    shop.build.entries.update(at=timezone.now() - timedelta(hours=3))
    keep(client, "34 at 20")
    shop.build.entries.update(at=timezone.now() - timedelta(hours=3))
    keep(client, "lower edge 1/16 at 16")
    assert Measure.objects.filter(kind="straight edge").last().draw is None


def test_the_chance_of_a_pull_and_what_is_still_to_come_stand_on_the_page(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, LOOK)
    shown = page(client)
    assert "<meter" in shown and "Chance that so far breaks it:" in shown
    before = state(shop).plan.stop_at
    keep(client, "later backing sinew 1/16")
    after = state(shop)
    assert after.plan.stop_at < before and after.history.to_come[0].how == "sinew"
    keep(client, "hinge upper 14")
    shown = page(client)
    assert "The upper limb looks like a hinge" in shown and "rub it off" in shown
    assert 'class="cross"' in page(client, "bench")


def test_what_evening_may_cost_is_said_while_the_build_runs(
    client: Client, shop: SimpleNamespace
) -> None:
    where = reverse("tiller:least", args=[shop.build.number])
    much = client.post(where, {"least-floor": "60", "least-page_world": "imperial"})
    assert much.status_code == 422 and "more than the weight that is wanted" in (
        much.content.decode()
    )
    odd = client.post(where, {"least-floor": "some", "least-page_world": "imperial"})
    assert odd.status_code == 422 and "could not be read" in odd.content.decode()
    shop.build.refresh_from_db()
    assert shop.build.floor is None
    assert (
        client.post(where, {"least-floor": "39", "least-page_world": "imperial"}).status_code == 302
    )
    shop.build.refresh_from_db()
    assert shop.build.floor == pytest.approx(39 * POUND_FORCE)
    page = client.get(reverse("tiller:screen", args=[shop.build.number])).content.decode()
    assert "down to 39" in page
    client.post(where, {"least-floor": "", "least-page_world": "imperial"})
    shop.build.refresh_from_db()
    assert shop.build.floor is None
