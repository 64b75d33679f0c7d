"""The string room: planned, changed on its picture, made, settled, matched, kept and tested."""

import json
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.bow import bowfile
from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.models import Entry, Measure
from fellwind.shop.models import Workshop
from fellwind.strings import services
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread
from tests.web.forms import made_from, pdf_words

NEW = {
    "role": "working", "kind": "two-bundle laid twist", "thread": "linen", "brace_height": "6",
    "page_world": "imperial",
}  # fmt: skip


@pytest.fixture
def string(client: Client, shop: SimpleNamespace) -> BowString:
    assert client.post(reverse("strings:sheet", args=[1]), NEW).status_code == 302
    return BowString.objects.get()


def page_of(client: Client, string: BowString) -> object:
    return client.get(reverse("strings:detail", args=[string.pk]))


def read(client: Client, string: BowString, which: str, **figures: str):  # type: ignore[no-untyped-def]
    content = {"page_world": "imperial", "client_id": str(uuid4())} | figures
    return client.post(reverse("strings:read", args=[string.pk, which]), content)


def test_a_string_is_planned_from_the_bow_and_hangs_in_the_list(
    client: Client, string: BowString
) -> None:
    page = page_of(client, string)
    plan = page.context["made"].plan
    assert plan.brace == pytest.approx(6 * INCH, abs=1e-4) and plan.bundles == 2
    text = page.content.decode()
    for said in ("Laid out on the pegs", "As it will be on the bow", "nocking point",
                 "this string bears", "the shot&#x27;s pull"):  # fmt: skip
        assert said in text, said
    assert "data-part=" in text and 'aria-label="Centre serving' in text
    listed = client.get(reverse("strings:list")).content.decode()
    assert "Working string" in listed and "not made yet" in listed
    assert Entry.objects.filter(kind="string").count() == 1


def test_a_part_is_changed_on_the_picture_and_the_rest_follows(
    client: Client, string: BowString
) -> None:
    where = reverse("strings:part", args=[string.pk, "centre"])
    asked = client.get(where, HTTP_HX_REQUEST="true").content.decode()
    assert "Served in all" in asked and 'placeholder="6 1/2"' in asked
    assert client.get(where)["Location"].endswith("?part=centre#part")
    form = {
        "serving": "4",
        "serving_above": "1",
        "serving_thread": "3970",
        "page_world": "imperial",
    }
    assert client.post(where, form | made_from(string)).status_code == 302
    string.refresh_from_db()
    part = services.sheet_of(string).plan.part("centre serving")
    assert part.end - part.start == pytest.approx(4 * INCH)
    assert string.serving_thread == pytest.approx(125e-6, rel=0.01)
    wrong = client.post(where, form | {"serving_above": "5"} | made_from(string))
    assert wrong.status_code == 422 and "more than is served in all" in wrong.content.decode()
    old = client.post(where, form | {"made_from": "1", "serving": "5"})
    assert old.status_code == 422 and "Now it says" in old.content.decode()
    turns = reverse("strings:part", args=[string.pk, "twist"])
    hard = client.post(turns, {"turns": "399", "direction": "left"} | made_from(string))
    assert hard.status_code == 422 and "over-twisted" in hard.content.decode()
    assert (
        client.post(turns, {"turns": "40", "direction": "left"} | made_from(string)).status_code
        == 302
    )
    assert "40 turns" in page_of(client, string).content.decode()
    assert client.get(reverse("strings:part", args=[string.pk, "halo"])).status_code == 404


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"kind": "continuous loop", "strands": "7"}, "an even number"),
        ({"role": "tillering"}, "is laid as: tillering string"),
        ({"kind": "cable"}, "is laid as:"),
        ({"plies": "3"}, "Only plied cordage"),
        ({"thread": "cobweb"}, "Select a valid choice"),
        ({"brace_height": "14"}, "outside what is possible"),
        ({"strands": "1"}, "greater than or equal to"),
        ({"role": "cable"}, "Select a valid choice"),
    ],
)
def test_strings_that_cannot_be_are_refused_beside_their_field(
    client: Client, shop: SimpleNamespace, change: dict[str, str], says: str
) -> None:
    answer = client.post(reverse("strings:sheet", args=[1]), NEW | change)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert not BowString.objects.exists()


def test_an_odd_number_of_strands_is_shared_out(client: Client, shop: SimpleNamespace) -> None:
    assert (
        client.post(reverse("strings:sheet", args=[1]), NEW | {"strands": "61"}).status_code == 302
    )
    assert services.sheet_of(BowString.objects.get()).plan.shares == (31, 30)


def test_strands_are_tested_and_win_over_the_table(client: Client, shop: SimpleNamespace) -> None:
    form = {
        "name": "two-cord linen",
        "fibre": "linen",
        "line_mass": "175 tex",
        "page_world": "imperial",
    }
    assert client.post(reverse("strings:thread_new"), form).status_code == 302
    thread = Thread.objects.get()
    assert thread.line_mass == pytest.approx(175e-6)
    assert client.post(reverse("strings:thread_new"), form).status_code == 422
    where = reverse("strings:test", args=[thread.pk])
    for pounds in ("15.8", "16.9", "16.4"):
        assert client.post(where, {"load": pounds, "page_world": "imperial"}).status_code == 302
    nothing = client.post(where, {"load": "0", "page_world": "imperial"})
    assert nothing.status_code == 422 and "outside what is possible" in nothing.content.decode()
    page = client.get(reverse("strings:thread", args=[thread.pk]))
    bears = page.context["tested"].bears
    assert bears.tests == 3 and 9 < bears.low / POUND_FORCE < 15
    assert (
        "nineteen in twenty" in page.content.decode() and "breaks-picture" in page.content.decode()
    )
    new = NEW | {"thread": f"thread-{thread.pk}"}
    assert client.post(reverse("strings:sheet", args=[1]), new).status_code == 302
    string = BowString.objects.get()
    assert services.sheet_of(string).plan.bears.tests == 3
    # one that was mistyped is struck, and stays in the book
    wild = StrandTest.objects.create(thread=thread, load=700.0, load_text="157 lb")
    assert client.post(reverse("strings:strike_test", args=[thread.pk, wild.pk])).status_code == 302
    assert services.tested(Thread.objects.get()).bears.tests == 3
    assert StrandTest.objects.count() == 5
    listed = client.get(reverse("strings:list")).content.decode()
    assert "for 1 string" in listed


def test_strips_are_cut_to_the_width_their_tests_ask_for(
    client: Client, shop: SimpleNamespace
) -> None:
    hide = Thread.objects.create(name="hide", fibre="rawhide", line_mass=2.5e-3)
    for width, load in ((0.004, 105.0), (0.005, 125.0), (0.006, 165.0)):
        StrandTest.objects.create(thread=hide, width=width, load=load, load_text="x")
    form = NEW | {"kind": "plied cordage", "plies": "3", "thread": f"thread-{hide.pk}"}
    assert client.post(reverse("strings:sheet", args=[1]), form).status_code == 302
    string = BowString.objects.get()
    made = services.sheet_of(string)
    assert made.plan.strands == 3 and made.plan.safe >= made.plan.needed * 0.999
    wide = services.strip_for(made)[1]
    text = page_of(client, string).content.decode()
    assert "Each of 3 strips is" in text
    assert ("wider than any you tested" in text) == (wide > 0.006)
    four = client.post(reverse("strings:part", args=[string.pk, "body"]),
                       {"plies": "4", "page_world": "imperial"} | made_from(string))  # fmt: skip
    assert four.status_code == 302
    string.refresh_from_db()
    assert services.strip_for(services.sheet_of(string))[1] < wide


def test_it_is_made_step_by_step_and_remembers_each(client: Client, string: BowString) -> None:
    where = reverse("strings:make", args=[string.pk])
    first = client.get(where)
    assert "step 1 of 13" in first.content.decode() and "work-picture" in first.content.decode()
    for number, step in enumerate(first.context["steps"], 1):
        answer = client.post(
            reverse("strings:make_at", args=[string.pk, number]), {"step": step.key}
        )
        assert answer.status_code == 302
    assert StringEntry.objects.filter(kind="step").count() == 13
    client.post(reverse("strings:make_at", args=[string.pk, 1]), {"step": "lay out"})
    client.post(reverse("strings:make_at", args=[string.pk, 1]), {"step": "no such step"})
    assert StringEntry.objects.filter(kind="step").count() == 13
    for number in (4, 9, 11):
        page = client.get(reverse("strings:make_at", args=[string.pk, number])).content.decode()
        assert 'class="giant"' in page
    assert (
        "Cut away from the string"
        in client.get(reverse("strings:make_at", args=[string.pk, 9])).content.decode()
    )
    for kind in ("continuous loop", "one loop and a hitch", "plied cordage"):
        BowString.objects.update(kind=kind)
        assert client.get(where).status_code == 200


def test_it_settles_and_says_how_many_turns(client: Client, string: BowString) -> None:
    assert read(client, string, "brace", brace="6 1/4").status_code == 302
    for brace, more in (("6 1/16", "12"), ("5 15/16", "20"), ("5 29/32", "40"), ("5 7/8", "60"),
                        ("5 7/8", "80")):  # fmt: skip
        assert read(client, string, "brace", brace=brace, more=more).status_code == 302
    page = page_of(client, string)
    found = page.context["settling"]
    assert found.now == 212 and found.settled
    assert "It has settled" in page.content.decode() and "settling-picture" in page.content.decode()
    act = page.context["act"]
    assert act.words.startswith("Put in") and "turn" in act.detail
    turns = act.words.split()[2]
    assert read(client, string, "twist", turns=turns).status_code == 302
    assert read(client, string, "brace", brace="6", more="0").status_code == 302
    assert "settled at its height" in page_of(client, string).context["act"].words
    # a mistyped one is pointed at, and can be struck
    assert read(client, string, "brace", brace="7 1/2", more="10").status_code == 302
    assert "does not fit the others" in page_of(client, string).content.decode()
    last = StringEntry.objects.filter(kind="brace").last()
    assert client.post(reverse("strings:strike", args=[string.pk, last.pk])).status_code == 302
    assert "does not fit the others" not in page_of(client, string).content.decode()
    assert StringEntry.objects.filter(pk=last.pk).exists()


@pytest.mark.parametrize(
    ("what", "figures", "says"),
    [
        ("brace", {"brace": "x"}, "could not be read"),
        ("brace", {"brace": "6", "more": "-5"}, "greater than or equal to"),
        ("twist", {}, "Say how many turns"),
        ("twist", {"turns": "-199"}, "no more can be let out"),
        ("twist", {"turns": "200"}, "over-twisted from"),
        ("measure", {}, "Measure one of them"),
        ("measure", {"stretch": "1/2"}, "Say under which load"),
        ("measure", {"length": "20"}, "far from the string as planned"),
        ("cord", {"cord": "64"}, "This field is required"),
        ("fit", {}, "Say one of them"),
        ("fit", {"upper_gap": "6"}, "Read both gaps"),
        ("keeping", {"what": "shots"}, "Say how many"),
        ("keeping", {"what": "strand", "place": "90"}, "beyond the lower nock"),
    ],
)
def test_what_cannot_be_of_a_string_is_refused_and_nothing_is_lost(
    client: Client, string: BowString, what: str, figures: dict[str, str], says: str
) -> None:
    answer = read(client, string, what, **figures)
    text = answer.content.decode()
    assert answer.status_code == 422 and says in text
    assert not StringEntry.objects.exists()
    for value in figures.values():
        assert f'value="{value}"' in text or value in text


def test_sent_twice_it_counts_once(client: Client, string: BowString) -> None:
    form = {"brace": "6", "page_world": "imperial", "client_id": str(uuid4())}
    where = reverse("strings:read", args=[string.pk, "brace"])
    for _ in range(2):
        assert client.post(where, form).status_code == 302
    assert StringEntry.objects.filter(kind="brace").count() == 1


def test_a_test_cord_moves_the_length_and_a_mistyped_pair_is_named(
    client: Client, string: BowString
) -> None:
    plan = services.sheet_of(string).plan
    assert (
        read(client, string, "cord", cord=f"{plan.length * 1000 + 4:.0f} mm", gave="6").status_code
        == 302
    )
    page = page_of(client, string)
    assert page.context["cords"].cord.off > 0.002
    assert "By the test cord" in page.content.decode()
    assert (
        read(client, string, "cord", cord=f"{plan.length * 1000 + 3:.0f} mm", gave="6").status_code
        == 302
    )
    assert (
        read(
            client, string, "cord", cord=f"{plan.length * 1000 - 120:.0f} mm", gave="6"
        ).status_code
        == 302
    )
    assert "does not fit the bow or the others" in page_of(client, string).content.decode()


def test_twins_are_measured_and_the_swap_is_foretold(client: Client, string: BowString) -> None:
    plan = services.sheet_of(string).plan
    millimetres = round(plan.length * 1000)
    assert read(client, string, "measure", length=f"{millimetres} mm", load="40", mass="150 gr",
                nocking="1/4").status_code == 302  # fmt: skip
    sheet = reverse("strings:sheet", args=[1])
    form = client.get(sheet).context["form"]
    assert form.initial["role"] == "spare" and form.initial["like"] == string.pk
    spare_form = NEW | {"role": "spare", "like": str(string.pk)}
    assert client.post(sheet, spare_form).status_code == 302
    spare = BowString.objects.get(role="spare")
    assert spare.own_length == pytest.approx(millimetres / 1000)
    assert read(client, spare, "measure", length=f"{millimetres + 8} mm", load="40", mass="190 gr",
                nocking="1/4").status_code == 302  # fmt: skip
    page = page_of(client, string)
    twin = page.context["twin"]
    assert twin.change.brace < -0.004 and twin.change.weight < 0
    assert [row.within for row in twin.rows] == [False, False, True]
    assert "lower" in twin.brace_words and "slower" in twin.speed_words
    assert twin.advice.startswith("Put ") and "into its spare" in twin.advice
    third = client.get(sheet).context["form"]
    assert third.initial["role"] == "later"
    # lengths under different loads are not held against one another
    assert read(client, spare, "measure", length=f"{millimetres} mm", load="80").status_code == 302
    twin = page_of(client, string).context["twin"]
    assert twin.change is None and "under different loads" in twin.advice


def test_alike_twins_are_as_before_and_far_apart_ones_need_a_loop(
    client: Client, string: BowString
) -> None:
    millimetres = round(services.sheet_of(string).plan.length * 1000)
    sheet = reverse("strings:sheet", args=[1])
    alike = {"length": f"{millimetres} mm", "load": "40", "mass": "150 gr", "nocking": "1/4"}
    assert read(client, string, "measure", **alike).status_code == 302
    form = NEW | {"role": "spare", "like": str(string.pk)}
    assert client.post(sheet, form).status_code == 302
    spare = BowString.objects.get(role="spare")
    assert "Measure both under the same load" in page_of(client, string).context["twin"].advice
    assert read(client, spare, "measure", **alike).status_code == 302
    twin = page_of(client, string).context["twin"]
    assert all(row.within for row in twin.rows) and twin.advice == ""
    assert "as before" in twin.brace_words and "as before" in twin.speed_words
    # two inches longer: no twist takes that up
    far = alike | {"length": f"{millimetres + 60} mm"}
    assert read(client, spare, "measure", **far).status_code == 302
    assert "move a loop of the other one" in page_of(client, string).context["twin"].advice


@pytest.mark.parametrize(
    ("braces", "words"),
    [
        ((), "Make it, step by step."),
        ((("6", "0"),), "short pulls, then read the brace again"),
        (
            (("6 3/4", "0"), ("6 23/32", "40"), ("6 23/32", "80"), ("6 23/32", "90")),
            "longer at a loop",
        ),
        ((("5", "0"), ("4 31/32", "40"), ("4 31/32", "80"), ("4 31/32", "90")), "Put in 2"),
    ],
)
def test_the_next_thing_to_do_with_a_string(
    client: Client, string: BowString, braces: tuple[tuple[str, str], ...], words: str
) -> None:
    for brace, more in braces:
        assert read(client, string, "brace", brace=brace, more=more).status_code == 302
    act = page_of(client, string).context["act"]
    assert words in act.words and act.detail
    if not braces:
        step = client.get(reverse("strings:make", args=[string.pk])).context["steps"][0]
        client.post(reverse("strings:make_at", args=[string.pk, 1]), {"step": step.key})
        assert page_of(client, string).context["act"].words.startswith("Brace it, and read")


def test_keeping_counts_shots_and_says_when_to_wax_or_change(
    client: Client, string: BowString
) -> None:
    assert read(client, string, "keeping", what="shots", count="310").status_code == 302
    assert "wax it again" in page_of(client, string).content.decode()
    assert read(client, string, "keeping", what="waxed").status_code == 302
    assert "wax it again" not in page_of(client, string).content.decode()
    assert (
        read(
            client, string, "keeping", what="strand", place="30", words="at the serving"
        ).status_code
        == 302
    )
    assert "put the spare on" in page_of(client, string).content.decode()
    assert read(client, string, "keeping", what="broke", place="2").status_code == 302
    page = page_of(client, string)
    assert page.context["act"].words == "It is out of use."
    assert "put-away" in client.get(reverse("strings:list")).content.decode()
    assert "310" in Entry.objects.filter(kind="string", text__contains="shots").get().text


def test_how_it_lies_is_read_with_its_remedies(client: Client, string: BowString) -> None:
    assert (
        read(
            client, string, "fit", seat="edge", off="1/4", upper_gap="6", lower_gap="6 1/2"
        ).status_code
        == 302
    )
    text = page_of(client, string).content.decode()
    for said in (
        "File the groove",
        "Deepen the groove",
        "The tiller has moved",
        "Groove, upper nock",
    ):
        assert said in text, said
    assert (
        read(
            client, string, "fit", seat="well", off="0", upper_gap="6 1/4", lower_gap="6 1/8"
        ).status_code
        == 302
    )
    rows = {row.what: row.good for row in page_of(client, string).context["fit"]}
    assert rows["Lies in the nocks"] and rows["Upper against lower gap"]


def test_a_weight_read_at_fifteen_inches_counts_in_its_school(
    client: Client, string: BowString, shop: SimpleNamespace
) -> None:
    before = services.sheet_of(string).plan.strength
    entry = Entry.objects.create(build=shop.build, kind="proof", stage="proof", text="20 at 15")
    Measure.objects.create(
        entry=entry, kind="weight", value=20 * POUND_FORCE, draw=15 * INCH, text="20 lb"
    )
    after = services.sheet_of(BowString.objects.get()).plan.strength
    assert after.measured and not before.measured
    assert after.school_one == pytest.approx(200 * POUND_FORCE, rel=0.01)
    assert "as read" in page_of(client, string).content.decode()


def test_it_leaves_as_sheet_label_parts_and_bow_file(client: Client, string: BowString) -> None:
    def file(name: str):  # type: ignore[no-untyped-def]
        return client.get(reverse("strings:leave", args=[string.pk, name]))

    sheet = pdf_words(file("sheet.pdf").content)
    assert len(sheet[1].pages) > 4 and "upper nock" in sheet[0]
    assert "Elm flatbow" in pdf_words(file("label.pdf").content)[0]
    rows = file("parts.csv").content.decode().splitlines()
    assert rows[0].startswith("part,") and any(row.startswith("centre serving") for row in rows)
    bow = bowfile.loads(file("bow.json").content.decode())
    assert bow.strung.kind == "two-bundle laid twist" and bow.strung.strands >= 4
    assert json.loads(file("bow.json").content)["string"]["length_mm"] > 1400
    assert bowfile.loads(bowfile.dumps(bow)).strung == bow.strung
    Workshop.objects.update(jig=1.2)
    assert file("sheet.pdf").status_code == 409
    assert "jig reaches" in page_of(client, string).content.decode()
    assert file("x.pdf").status_code == 404


def test_a_plan_is_thrown_away_but_nothing_that_was_read(client: Client, string: BowString) -> None:
    drop = reverse("strings:drop", args=[string.pk])
    assert read(client, string, "brace", brace="6").status_code == 302
    client.post(drop, made_from(string))
    assert BowString.objects.exists()
    entry = StringEntry.objects.get()
    client.post(reverse("strings:strike", args=[string.pk, entry.pk]))
    client.post(drop, made_from(string))
    assert not BowString.objects.exists()


def test_tillering_and_bracing_strings_have_lengths_of_their_own(
    client: Client, shop: SimpleNamespace
) -> None:
    for role, kind in (("tillering", "tillering string"), ("bracing", "bracing string")):
        assert (
            client.post(
                reverse("strings:sheet", args=[1]), NEW | {"role": role, "kind": kind}
            ).status_code
            == 302
        )
        string = BowString.objects.get(role=role)
        page = page_of(client, string)
        assert page.status_code == 200
        assert page.context["made"].plan.length > shop.design.length
        assert page.context["act"].words.startswith("Make it ")
        assert "strands" in page.context["act"].detail
        assert client.get(reverse("strings:make", args=[string.pk])).status_code == 200
