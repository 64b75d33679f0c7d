"""The bench: entries kept as typed, once, with corrections that point back, and advice that follows
them.
"""

import html
import json
import re
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from uuid import uuid4

import numpy as np
import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.bow import bowfile
from bowyery.bow.bow import SIDES, Asked
from bowyery.cli.__main__ import main
from bowyery.making.stages import NAMES as STAGES
from bowyery.tiller import words
from bowyery.tiller.estimate import PLACES, few_cells, predict
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import StringOn
from bowyery.tiller.statements import Tree
from bowyery.units.quantity import INCH, POUND_FORCE, Units
from fellwind.builds.models import Build, Entry, Measure, Wait
from fellwind.builds.services import minutes
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.shop.models import Gear
from fellwind.tiller.rescues import ways_out
from fellwind.tiller.services import bench
from tests.web.forms import CHECK, design_form


def keep(client: Client, line: str, **extra: object) -> object:
    content = {"line": line, "page_world": "imperial", "client_id": str(uuid4())} | extra
    return client.post(reverse("builds:keep", args=[1]), content)


def state(shop: SimpleNamespace) -> object:
    return bench(Build.objects.select_related("design__stave").get(pk=shop.build.pk))


def test_a_pencil_line_is_said_back_before_it_is_kept(
    client: Client, shop: SimpleNamespace
) -> None:
    where = reverse("builds:read_back")
    said = client.post(
        where, {"line": "37 at 22, upper gap 6 1/4, lower 6 1/8; 25 pulls"}, HTTP_HX_REQUEST="true"
    )
    text = said.content.decode()
    assert (
        "37.0 lb at 22 in to the grip" in text
        and "on the lower limb, at the fade, 6 ⅛ in" in text
        and "25 short pulls" in text
    )
    assert "<html" not in text
    assert not shop.build.entries.exists()
    whole = client.get(where, {"line": "37 at 22", "build": "1"})
    assert whole.status_code == 200 and "<html" in whole.content.decode()


def test_a_kept_line_stays_as_typed_with_its_figures(client: Client, shop: SimpleNamespace) -> None:
    assert keep(client, "37 at 22, upper gap 6 1/4, 20 min, note sap runs").status_code == 302
    entry = Entry.objects.get()
    assert entry.text == "37 at 22, upper gap 6 1/4, 20 min, note sap runs"
    assert (entry.minutes, entry.stage, entry.by, entry.world) == (
        20,
        "tiller",
        shop.people.maker,
        "imperial",
    )
    weight, gap = entry.measures.all()
    assert (weight.kind, weight.value, weight.draw) == (
        "weight",
        pytest.approx(37 * POUND_FORCE),
        pytest.approx(22 * INCH),
    )
    assert (gap.kind, gap.limb, gap.value) == ("gap", "upper", pytest.approx(6.25 * INCH))


def test_draws_are_read_on_the_builds_own_ruler(client: Client, shop: SimpleNamespace) -> None:
    Build.objects.update(draw_ruler="trade")
    keep(client, "37 at 23 3/4")
    Build.objects.update(draw_ruler="back")
    keep(client, "37 at 23 3/4")
    draws = [m.draw for m in Measure.objects.filter(kind="weight")]
    assert draws == [pytest.approx(22 * INCH), pytest.approx(22 * INCH)]


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("banana", "could not be read"),
        ("37 at 220", "no draw of a bow"),
        ("3700 at 22", "no draw weight"),
        ("upper gap 62", "no gap between string and belly"),
        ("string full 60", "no brace height"),
        ("off upper 12 strokes 9 to 60", "beyond the tip"),
        ("upper tip 90 at 22", "no way for a tip"),
        ("", "required"),
    ],
)
def test_an_absurd_line_gets_a_sentence_and_nothing_is_kept(
    client: Client, line: str, says: str
) -> None:
    for answer in (
        keep(client, line),
        client.post(reverse("builds:read_back"), {"line": line, "build": "1"}),
    ):
        assert answer.status_code == 422
        assert says in answer.content.decode()
    assert not Entry.objects.exists() and not Measure.objects.exists()


def test_the_same_entry_sent_twice_is_one(client: Client) -> None:
    same = str(uuid4())
    for _ in range(3):
        assert keep(client, "37 at 22", client_id=same).status_code == 302
    assert Entry.objects.count() == 1 and Measure.objects.count() == 1
    form = CHECK | {"reading-client_id": str(uuid4())}
    for _ in range(2):
        assert client.post(reverse("tiller:reading", args=[1]), form).status_code == 302
    pulls = {"line": "25 pulls", "client_id": str(uuid4())}
    for _ in range(2):
        client.post(reverse("tiller:pulls", args=[1]), pulls)
    assert Entry.objects.count() == 3


def test_an_entry_without_its_own_id_is_still_kept(client: Client) -> None:
    assert keep(client, "25 pulls", client_id="").status_code == 302
    for wrong in ("not an id", "z" * 32, "é"):
        assert keep(client, "25 pulls", client_id=wrong).status_code == 422
        content = {"line": "25 pulls", "client_id": wrong}
        assert (
            "valid UUID"
            in client.post(reverse("tiller:pulls", args=[1]), content, follow=True).content.decode()
        )
    assert Entry.objects.count() == 1


def test_the_form_writes_the_line_a_maker_would(client: Client) -> None:
    answer = client.post(
        reverse("tiller:reading", args=[1]),
        CHECK | {"reading-client_id": str(uuid4()), "reading-string": "full"},
    )
    assert answer["Location"] == reverse("tiller:screen", args=[1])
    entry = Entry.objects.get()
    assert (
        entry.text == "string full; 36 lb at 21 in; upper gap 7 1/4 in; lower gap 7 1/4 in; 15 min"
    )
    assert {m.kind for m in entry.measures.all()} == {"string full", "weight", "gap"}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"reading-draw": ""}, "needs the draw"),
        (
            {"reading-weight": "", "reading-upper_gap": "", "reading-lower_gap": ""},
            "read at that draw",
        ),
        ({"reading-weight": "heavy"}, "could not be read"),
        ({"reading-upper_gap": "7 lb"}, "not a unit of length"),
        ({"reading-string_at": "3"}, "Say which string is on"),
        ({"reading-draw": "90"}, "outside what is possible"),
        ({"reading-draw": "47"}, "outside what is possible"),
    ],
)
def test_a_wrong_reading_keeps_what_was_typed(
    client: Client, change: dict[str, str], says: str
) -> None:
    answer = client.post(
        reverse("tiller:reading", args=[1]), CHECK | {"reading-client_id": str(uuid4())} | change
    )
    text = answer.content.decode()
    assert answer.status_code == 422 and says in text
    assert 'value="15"' in text
    assert not Entry.objects.exists()


@pytest.mark.parametrize(
    ("form", "says"),
    [
        ({"limb": "upper"}, "either the number of strokes or the thickness"),
        (
            {"limb": "upper", "strokes": "5", "thickness": "0.01"},
            "either the number of strokes or the thickness",
        ),
        ({"limb": "upper", "strokes": "5", "start": "9"}, "Give both places"),
        ({"limb": "upper", "strokes": "5", "start": "9", "end": "4"}, "nearer the centre"),
        ({"limb": "middle", "strokes": "5"}, "not one of the available"),
    ],
)
def test_a_wrong_removal_gets_its_sentence(client: Client, form: dict[str, str], says: str) -> None:
    content = {f"removal-{k}": v for k, v in form.items()} | {
        "removal-client_id": str(uuid4()),
        "removal-page_world": "imperial",
    }
    answer = client.post(reverse("tiller:removal", args=[1]), content)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert not Entry.objects.exists()


def test_removal_and_exercise_by_form_and_button(client: Client, shop: SimpleNamespace) -> None:
    keep(client, "36 at 21, upper gap 7 1/4, lower gap 7 1/4")
    form = {
        "removal-limb": "both",
        "removal-thickness": "0.01",
        "removal-start": "5",
        "removal-end": "20",
        "removal-pulls": "10",
        "removal-minutes": "20",
        "removal-client_id": str(uuid4()),
        "removal-page_world": "imperial",
        "then": "bench",
    }
    answer = client.post(reverse("tiller:removal", args=[1]), form)
    assert answer["Location"] == reverse("tiller:bench", args=[1])
    assert (
        Entry.objects.order_by("-pk")[0].text
        == "off both 0.01 in from 5 in to 20 in; 10 pulls; 20 min"
    )
    assert state(shop).history.pulls == 10
    assert "15 more short pulls" in client.get(reverse("tiller:screen", args=[1])).content.decode()
    client.post(reverse("tiller:pulls", args=[1]), {"line": "25 pulls", "client_id": str(uuid4())})
    assert state(shop).advice.act != "exercise"
    odd = client.post(
        reverse("tiller:pulls", args=[1]),
        {"line": "lots of pulls", "client_id": str(uuid4())},
        follow=True,
    )
    assert "could not be read" in odd.content.decode()


def test_a_correction_points_back_and_counts_instead(client: Client, shop: SimpleNamespace) -> None:
    keep(client, "73 at 21, upper gap 7 1/4, lower gap 7 1/4, 10 min")
    wrong = Entry.objects.get()
    heavy = state(shop).outlook.now.middle
    where = reverse("builds:correct", args=[1, wrong.pk])
    assert "73 at 21" in client.get(where).content.decode()
    bad = client.post(
        where, {"line": "37 at at", "page_world": "imperial", "client_id": str(uuid4())}
    )
    assert bad.status_code == 422 and "37 at at" in bad.content.decode()
    content = {
        "line": "37 at 21, upper gap 7 1/4, lower gap 7 1/4, 12 min",
        "page_world": "imperial",
        "client_id": str(uuid4()),
    }
    assert client.post(where, content).status_code == 302
    wrong.refresh_from_db()
    right = Entry.objects.get(corrects=wrong)
    assert wrong.text.startswith("73 at 21") and right.at == wrong.at
    assert state(shop).outlook.now.middle == pytest.approx(heavy * 37 / 73, rel=0.05)
    assert minutes(shop.build) == 12
    log = client.get(reverse("builds:log", args=[1])).content.decode().split("<main")[1]
    assert (
        "struck" in log
        and "corrects “73 at 21" in log
        and log.index("73 at 21") < log.index("37 at 21")
    )
    again = client.post(
        where, content, follow=True
    )  # sent twice: it counts once, and says what it was corrected to
    assert "corrected already" in again.content.decode() and Entry.objects.count() == 2
    assert client.get(reverse("builds:correct", args=[1, right.pk])).status_code == 200


def test_advice_follows_what_was_read(client: Client, shop: SimpleNamespace) -> None:
    screen = reverse("tiller:screen", args=[1])
    assert "Nothing has been read yet" in client.get(screen).content.decode()
    keep(client, "25.5 at 16, 31.5 at 19, 36 at 21, upper gap 7 1/8, lower gap 7 3/8")
    found = state(shop)
    assert found.stand.stiffer == "upper"
    assert found.advice.act == "take" and found.advice.removals[0].limb == "upper"
    assert found.harder.value == pytest.approx(42 * POUND_FORCE)
    text = client.get(screen).content.decode()
    assert (
        "The lower limb is ahead" in text
        and "Pull no further than" in text
        and "off the upper" in text
    )
    keep(client, "off upper 0.01")
    lighter = state(shop)
    assert lighter.outlook.now.middle < found.outlook.now.middle
    assert lighter.now.upper < found.now.upper


def test_an_earlier_check_can_be_looked_back_at(client: Client) -> None:
    keep(client, "30 at 16, upper gap 7 1/4, lower gap 7 1/4")
    keep(client, "28 at 18, upper gap 7 1/4, lower gap 7 1/4")
    back = (
        client.get(reverse("tiller:screen", args=[1]), {"check": "1"})
        .content.decode()
        .split("</main>")[0]
    )
    assert "check 1 of 2" in back and "check after" in back and "check before" not in back
    assert (
        "check 2 of 2"
        in client.get(reverse("tiller:screen", args=[1]), {"check": "99"}).content.decode()
    )


def test_school_gear_and_beginner_bind(client: Client, shop: SimpleNamespace) -> None:
    keep(client, "25.5 at 16, 36 at 21, upper gap 7 1/4, lower gap 7 1/8")
    Gear.objects.create(
        name="thin cord", kind="pulley", rating=50 * POUND_FORCE, rating_text="50 lb"
    )
    assert (state(shop).harder.why, state(shop).harder.value) == (
        "gear",
        pytest.approx(25 * POUND_FORCE),
    )
    assert (
        "what the thin cord bears"
        in client.get(reverse("tiller:screen", args=[1])).content.decode()
    )
    Gear.objects.update(in_use=False)
    Build.objects.update(beginner=True)
    assert (
        state(shop).harder.why == "wanted weight"
    )  # gaps at full brace were read: it has been braced
    Entry.objects.all().delete()
    keep(client, "string low 3, 25.5 at 16, 36 at 21, upper gap 4 1/4, lower gap 4 1/8")
    assert state(shop).harder.why == "beginner's share"
    keep(client, "string full")
    assert state(shop).harder.why == "wanted weight"
    Build.objects.update(school="D", beginner=False)
    assert state(shop).further.value <= 22 * INCH + 1e-9


@pytest.mark.parametrize(
    ("line", "wild"),
    [
        ("string full 13 3/4, 30 at 14 1/2", "30 at 14 1/2"),
        ("string full 6, 30 at 6 1/2", "30 at 6 1/2"),
        ("string long 66, 30 at 14, upper gap 1, lower gap 6", "upper gap 1"),
    ],
)
def test_readings_no_bow_can_give_are_called_so(client: Client, line: str, wild: str) -> None:
    """A bow of 42 lb does not pull 30 half an inch above its brace: the page says which to read
    again.
    """
    assert keep(client, line).status_code == 302
    page = client.get(reverse("tiller:screen", args=[1]))
    assert page.status_code == 200
    assert f"“{wild}” does not fit" in html.unescape(page.content.decode())


def test_the_line_a_wild_reading_came_from_is_named(client: Client, shop: SimpleNamespace) -> None:
    """The string and the pulls stand in the same entry: the sentence still names the right
    figure.
    """
    keep(
        client,
        "string full 6; 25 pulls; 24 at 16; 60 at 19; 36 at 22; upper gap 6 1/4; lower gap 6 1/4",
    )
    found = state(shop)
    assert [r.value / POUND_FORCE for r in found.check.readings][
        found.now.wild[0]
    ] == pytest.approx(60)
    page = html.unescape(client.get(reverse("tiller:screen", args=[1])).content.decode())
    told = re.search(r"“([^”]*)” does not fit", page)
    assert told and told[1] == "60 at 19", told


def test_bench_view_has_three_things_and_its_buttons(client: Client) -> None:
    keep(client, "25.5 at 16, 31.5 at 19, 36 at 21, upper gap 7 1/4, lower gap 7 1/4")
    text = client.get(reverse("tiller:bench", args=[1])).content.decode()
    for said in ("pull to", "stop at", "then", "42<span", "25 pulls", "Eye protection"):
        assert said in text
    assert 'class="rooms"' not in text


def test_stages_are_tied_in_order_and_once(client: Client, shop: SimpleNamespace) -> None:
    Build.objects.update(stage="wood")
    for index, stage in enumerate(STAGES):
        for _ in range(2):  # the second post comes from a page that is out of date
            assert (
                client.post(reverse("builds:next", args=[1]), {"stage": stage}).status_code == 302
            )
        shop.build.refresh_from_db()
        assert shop.build.stage == STAGES[min(index + 1, 7)]
    assert shop.build.finished is not None
    assert [e.text for e in Entry.objects.filter(kind="stage")] == [
        f"On to {s}" for s in STAGES[1:]
    ] + ["Build closed"]
    assert client.post(reverse("builds:next", args=[1]), {"stage": "glazing"}).status_code == 302


def test_lists_show_this_bows_own_numbers_and_tick_once(
    client: Client, shop: SimpleNamespace
) -> None:
    Build.objects.update(stage="rough")
    page = client.get(reverse("builds:stage", args=[1, "rough"])).content.decode()
    assert "on the scale under the tip bends it 3 in" in page
    assert "cut away from hand" in page
    for _ in range(2):
        assert (
            client.post(
                reverse("builds:tick", args=[1]), {"item": "sides", "stage": "rough"}
            ).status_code
            == 302
        )
    assert Entry.objects.filter(kind="tick").count() == 1
    assert (
        client.post(
            reverse("builds:tick", args=[1]), {"item": "polish the moon", "stage": "rough"}
        ).status_code
        == 404
    )
    assert client.get("/builds/1/glazing/").status_code == 404
    assert client.get("/builds/77/").status_code == 404


def in_a_year() -> str:
    return f"{timezone.localtime().year + 1}-12-01T10:00"


def test_a_wait_hangs_from_the_string_until_it_is_taken_off(
    client: Client, shop: SimpleNamespace
) -> None:
    where = reverse("builds:wait", args=[1])
    past = client.post(where, {"what": "Glue cures", "until": "2020-01-01T10:00"})
    assert past.status_code == 422 and "passed already" in past.content.decode()
    assert (
        client.post(
            where, {"what": "Glue cures", "until": f"{timezone.localtime().year + 2}-01-01T10:00"}
        ).status_code
        == 302
    )
    today = client.get("/").content.decode()
    assert "Glue cures" in today and "One thing rests" in today
    wait = Wait.objects.get()
    client.post(reverse("builds:end_wait", args=[1, wait.pk]))
    assert "Nothing rests" in client.get("/").content.decode()


def test_cautions_stand_at_the_steps_where_they_matter(client: Client) -> None:
    for stage, says in (
        ("wood", "local law"),
        ("lay-out", "poisonous as dust"),
        ("rough", "cut away from hand"),
        ("back", "thermometer and a cut-out"),
        ("tiller", "Eye protection"),
        ("string", "away from the string"),
        ("finish", "heat up by themselves"),
        ("proof", "without an arrow"),
    ):
        assert (
            says
            in client.get(reverse("builds:stage", args=[1, stage]), follow=True).content.decode()
        ), stage


def test_the_proof_is_written_once_and_gives_efficiency(
    client: Client, shop: SimpleNamespace
) -> None:
    form = {
        "weight": "42.5",
        "brace_height": "6",
        "mass": "20",
        "arrow_mass": "500",
        "arrow_speed": "140",
        "shots": "60",
        "page_world": "imperial",
        "client_id": str(uuid4()),
        "words": "soft",
    }
    where = reverse("builds:prove", args=[1])
    half = client.post(where, form | {"arrow_mass": ""})
    assert (
        half.status_code == 422
        and "belong together" in half.content.decode()
        and 'value="soft"' in half.content.decode()
    )
    for _ in range(2):
        assert client.post(where, form).status_code == 302
    assert Entry.objects.filter(kind="proof").count() == 1
    page = client.get(reverse("builds:stage", args=[1, "proof"])).content.decode()
    assert "0.5 lb over what was wanted" in page and "140 fps" in page and "Efficiency" in page


def test_a_bow_that_came_out_light_is_shown_its_ways_out(
    client: Client, shop: SimpleNamespace
) -> None:
    keep(client, "string full 6, 19 at 18, 24 at 22, 28 at 25, upper gap 6 3/16, lower gap 6")
    page = client.get(reverse("tiller:screen", args=[1])).content.decode()
    assert bench(shop.build).advice.act == "rescue", bench(shop.build).stand
    assert "Take no more wood" in page and "Ways out" in page
    rows = client.get(reverse("tiller:rescue", args=[1])).content.decode()
    for what in (
        "Accept it as it is",
        "1 in off each end",
        "Harden the belly",
        "rawhide on the back",
    ):
        assert what in rows
    found, state = solution(shop.design), bench(shop.build)
    weights = {
        (r.way, round(r.by, 4)): r.outcome.weight for r in ways_out(found, state, imperial=True)
    }
    assert weights["accept", 0] == pytest.approx(state.outlook.now.middle, rel=0.01)
    assert weights["shorten", 0.0508] > weights["shorten", 0.0127] > weights["accept", 0]
    fine = ways_out(found, state, imperial=False)  # other cuts, other patches: other draws borne
    assert [r.by for r in fine] != [r.by for r in ways_out(found, state, imperial=True)]
    assert all(r.bears is None or 0 < r.bears <= found.wanted.draw for r in fine)


def test_a_straight_edge_slid_along_shades_the_stiff_place(
    client: Client, shop: SimpleNamespace
) -> None:
    root = solution(shop.design).bow.upper.root[0]
    field = np.full((1, 2, PLACES), np.log(1.25))
    field[0, 0, 4:7] += 0.3
    grid = few_cells(solution(shop.design).curve.limbs)
    places = [12, 16, 20, 24, 28]
    kinds = tuple(
        Reading("straight edge", 0.0, side, 20 * INCH, at * INCH - root, 6 * INCH)
        for side in SIDES
        for at in places
    )
    asked = (
        Reading("weight", 0.0, draw=20 * INCH),
        Reading("gap", 0.0, "upper"),
        Reading("gap", 0.0, "lower"),
        *kinds,
    )
    string = StringOn("string full", 6 * INCH)
    bow = string.on(solution(shop.design).bow, shop.design.length)
    values = [float(v) for v in predict(grid, bow, asked, field, False).values[0]]
    form = CHECK | {
        "reading-weight": f"{values[0] / POUND_FORCE:.2f}",
        "reading-draw": "20",
        "reading-upper_gap": f"{values[1] / INCH:.3f}",
        "reading-lower_gap": f"{values[2] / INCH:.3f}",
        "reading-string": "full",
        "reading-string_at": "6",
        "reading-client_id": str(uuid4()),
    }
    for k, side in enumerate(SIDES):
        gaps = values[3 + 5 * k : 8 + 5 * k]
        form[f"reading-{side}_edge"] = ", ".join(
            f"{v / INCH:.4f} at {at}" for v, at in zip(gaps, places, strict=True)
        )
    assert client.post(reverse("tiller:reading", args=[1]), form).status_code == 302
    assert [m.draw for m in Measure.objects.filter(kind="straight edge")] == [
        pytest.approx(20 * INCH)
    ] * 10
    state = bench(shop.build)
    stiffest = int(state.now.field[0, 1:-1].argmax()) + 1
    assert 3 <= stiffest <= 7 and any(
        p.limb == "upper" and p.start < 0.4 < p.end for p in state.advice.stiff
    )
    page = client.get(reverse("tiller:screen", args=[1])).content.decode()
    assert (
        "Shade the upper limb" in page
        and "Stiffness against what is wanted" in page
        and "off the upper limb with the scraper" in page
    )
    wrong = client.post(
        reverse("tiller:reading", args=[1]),
        form | {"reading-upper_edge": "wide at 12", "reading-client_id": str(uuid4())},
    )
    assert wrong.status_code == 422 and "could not be read" in wrong.content.decode()


def test_counted_strokes_teach_the_bite(client: Client, shop: SimpleNamespace) -> None:
    keep(client, "string full 6, 30 at 18, 36 at 21, upper gap 6 3/16, lower gap 6")
    first = bench(shop.build).bite
    keep(client, "off both 40 strokes, 25 pulls")
    keep(client, "25 at 18, 30 at 21, upper gap 6 3/16, lower gap 6")
    state = bench(shop.build)
    assert state.bite.spread < first.spread and state.bite.thickness > first.thickness
    assert state.taken.max() > 0


def test_the_command_says_what_the_screen_says(
    client: Client, shop: SimpleNamespace, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """The same design and the same lines, without the web: the same figures and words."""
    line = "25.5 at 16, 31.5 at 19, 36 at 21, upper gap 7 1/8, lower gap 7 3/8"
    keep(client, line)
    screen, design = state(shop), shop.build.design
    bow = replace(
        solution(design).bow, wanted=Asked(design.weight, design.draw, design.fingers), arrow=None
    )
    file, log = tmp_path / "bow.json", tmp_path / "log.txt"
    file.write_text(bowfile.dumps(bow), encoding="utf-8")
    log.write_text(line, encoding="utf-8")
    assert main(["tiller", str(file), str(log), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["forecast"]["now_n"] == pytest.approx(screen.outlook.now.ends, rel=1e-3)
    assert told["pull"]["no_further_mm"] == pytest.approx(1000 * screen.further.value, abs=0.5)
    assert told["pull"]["no_harder_n"] == pytest.approx(screen.harder.value, abs=0.001)
    assert told["words"] == " ".join(words.say(screen, Units(), Tree()).sentences)


def test_a_slack_string_that_bends_nothing_yet_has_a_page_and_is_asked_about(
    client: Client, shop: SimpleNamespace
) -> None:
    """Seen: the page broke where nothing was read but the draw at which the string came taut."""
    keep(client, "string long, 20 at 16, 26 at 18")
    page = html.unescape(client.get(reverse("tiller:screen", args=[1])).content.decode())
    assert "How long this string is was not written" in page
    keep(client, "taut at 12 1/2")
    answer = client.get(reverse("tiller:screen", args=[1]))
    assert answer.status_code == 200
    assert "How long this string is" not in html.unescape(answer.content.decode())
    log = html.unescape(client.get(reverse("builds:log", args=[1])).content.decode())
    assert "taut at 12 1/2" in log
    keep(client, "string long, taut at 13")  # another string, and nothing else read on it
    assert client.get(reverse("tiller:screen", args=[1])).status_code == 200


def test_a_design_may_want_its_own_difference_of_the_gaps(
    client: Client, shop: SimpleNamespace
) -> None:
    Design.objects.update(sizes={"gap": 0.01})
    wanted = state(shop)
    keep(client, "string full 6, 20 at 16, 26 at 20, upper gap 6, lower gap 6")
    stand = state(shop).stand
    assert wanted.plan.gap == 0.01 and stand is not None
    assert stand.wanted == pytest.approx((0.01 - INCH / 16, 0.01 + INCH / 16))
    page = html.unescape(client.get(reverse("tiller:screen", args=[1])).content.decode())
    assert "wanted: upper ⁵⁄₁₆ to" in page


def test_the_difference_of_the_gaps_is_set_on_the_design_in_both_worlds(
    client: Client, shop: SimpleNamespace
) -> None:
    design = Design.objects.get(builds__number=1)
    for typed, metres in (("-1/8 in", -INCH / 8), ("8 mm", 0.008), ("", None)):
        sent = design_form(design, gap=typed)
        assert client.post(reverse("designs:edit", args=[design.pk]), sent).status_code == 302
        design.refresh_from_db()
        assert design.figures.gap == pytest.approx(metres)
        page = html.unescape(
            client.get(reverse("designs:detail", args=[design.pk])).content.decode()
        )
        assert ("upper less lower gap" in page) == (metres is not None)
    refused = client.post(
        reverse("designs:edit", args=[design.pk]), design_form(design, gap="3 in")
    )
    assert refused.status_code == 422 and "Upper gap larger" in refused.content.decode()
    design.refresh_from_db()
    assert design.figures.gap is None


def test_a_queue_is_told_what_is_kept_and_entries_stand_when_they_were_written(
    client: Client, shop: SimpleNamespace
) -> None:
    one, where = str(uuid4()), reverse("builds:keep", args=[1])
    line = {"line": "36 at 21", "page_world": "imperial", "client_id": one, "form_id": one}
    queue = {"HTTP_X_QUEUE": "1", "HTTP_X_WRITTEN_AGO": "3600000"}
    for _ in range(2):  # sent again it is said again, and counts once
        answer = client.post(where, line, **queue)
        assert answer.status_code == 200
        told = answer.json()
        at = told.pop("at")
        assert told == {"kept": one, "location": reverse("tiller:screen", args=[1])}
        # by the same clock, a page asked for from here on shows it
        page = client.get(reverse("tiller:screen", args=[1])).content.decode()
        begun = int(page.split('data-begun="')[1].split('"')[0])
        assert at <= begun < at + 60_000
    entry = Entry.objects.get(kind="bench")
    assert timedelta(minutes=59) < timezone.now() - entry.at < timedelta(minutes=61)
    wrong = client.post(where, line | {"line": "36 at tea", "form_id": str(uuid4())}, **queue)
    assert wrong.status_code == 422 and b"could not be read" in wrong.content
    stranger = Client(HTTP_HOST="127.0.0.1")
    assert stranger.post(where, line, **queue).status_code == 401
    assert stranger.get("/queue/", **queue).status_code == 401
    assert stranger.get("/queue/").status_code == 302
    assert client.get("/queue/", **queue).json()["who"] == "maker"
    # what was sent just before stands before, though the way here took it longer
    for k, ago in enumerate(("5000", "5400", "x", "-7", "9" * 30)):
        other = str(uuid4())
        sent = line | {"line": f"{k + 20} at 20", "client_id": other, "form_id": other}
        client.post(where, sent, **queue | {"HTTP_X_WRITTEN_AGO": ago})
    texts = [e.text for e in Entry.objects.filter(kind="bench").order_by("at", "pk")]
    assert texts == ["36 at 21", "20 at 20", "21 at 20", "22 at 20", "23 at 20", "24 at 20"]


@pytest.mark.parametrize("until", ["9999-12-31T23:59", "2099-01-01T10:00"])
def test_nothing_rests_beyond_what_a_calendar_holds(
    client: Client, shop: SimpleNamespace, until: str
) -> None:
    answer = client.post(reverse("builds:wait", args=[1]), {"what": "Oil", "until": until})
    assert answer.status_code == 422 and "look at the year" in answer.content.decode()
