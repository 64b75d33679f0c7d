"""What a maker typed or brought in is kept, or asked about; never changed without a word."""

import html
import json
import re
from dataclasses import replace
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from bowyery.bow import bowfile
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import INCH_ROUNDING, Wanted
from bowyery.design.solve import solve_design
from bowyery.units.quantity import INCH, LENGTH, POUND_FORCE, WEIGHT, Units
from bowyery.wood.materials import at_moisture, material
from fellwind.designs import services
from fellwind.designs.forms import DesignForm
from fellwind.designs.models import Design
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer
from tests.web.forms import design_form, design_form_of, made_from, marks_form


def longbow() -> str:
    """The file of a heavy yew longbow, with what it was asked for."""
    draw = 29.25 * INCH
    layout = replace(
        LAYOUTS["deep and narrow"](draw), length=77 * INCH, width=1.5 * INCH, handle=0.0, fade=0.0,
        handle_depth=1.4 * INCH,
    )  # fmt: skip
    wanted = Wanted(118 * POUND_FORCE, draw, fingers="three under")
    found = solve_design(layout, wanted, at_moisture(material("european yew"), 0.1), INCH_ROUNDING)
    return bowfile.dumps(replace(found.bow, wanted=wanted.asked))


def bring(client: Client, text: str, **given: object) -> object:
    form = {"file": SimpleUploadedFile("bow.json", text.encode()), "name": "", "material": ""}
    return client.post(reverse("designs:import"), form | given)


def test_a_bow_file_brings_its_own_weight_wood_draw_and_fingers(
    client: Client, shop: SimpleNamespace
) -> None:
    other = Archer.objects.create(name="Runa", draw=24 * INCH, weight=20 * POUND_FORCE)
    answer = bring(client, longbow(), archer=other.pk)
    assert answer.status_code == 302, answer.context["form"].errors
    design = Design.objects.latest("pk")
    assert design.weight == pytest.approx(118 * POUND_FORCE)
    assert design.draw == pytest.approx(29.25 * INCH)
    assert design.material == "european yew" and design.fingers == "three under"
    assert services.solution(design).weight == pytest.approx(118 * POUND_FORCE, rel=0.01)


def test_what_a_bow_file_does_not_say_is_asked_for(client: Client, shop: SimpleNamespace) -> None:
    bare = json.loads(longbow())
    del bare["wanted"]
    for layer in bare["layers"]:
        layer["material"] = "wood from the hedge"
    count = Design.objects.count()
    answer = bring(client, json.dumps(bare))
    errors = answer.context["form"].errors
    assert answer.status_code == 422 and set(errors) == {"archer", "weight", "material"}
    assert Design.objects.count() == count
    told = {"archer": shop.archer.pk, "material": "european yew", "weight": "115"}
    assert bring(client, json.dumps(bare), **told).status_code == 302
    assert Design.objects.latest("pk").weight == pytest.approx(115 * POUND_FORCE)


@pytest.fixture
def marked(client: Client, shop: SimpleNamespace) -> Design:
    """A design whose marks were set by hand."""
    where = reverse("designs:marks", args=[shop.design.pk])
    client.post(where, marks_form(shop.design, lower_thickness_3="0.44"))
    shop.design.refresh_from_db()
    assert shop.design.bow_file
    return shop.design


@pytest.mark.parametrize(
    "change",
    [{"name": "A better name"}, {"weight": "38"}, {"notes": "for the hall"}, {"arrow": "400"},
     {"nock_style": "pin"}],
    ids=str,
)  # fmt: skip
def test_a_name_or_another_weight_leaves_the_marks(
    client: Client, marked: Design, change: dict[str, str]
) -> None:
    before = bowfile.loads(marked.bow_file)
    form = design_form(marked, **change)
    answer = client.post(reverse("designs:edit", args=[marked.pk]), form)
    assert answer.status_code == 302, answer.context["form"].errors
    kept = Design.objects.get(pk=marked.pk)
    after = bowfile.loads(kept.bow_file)
    assert after.lower.thickness == pytest.approx(before.lower.thickness)
    assert after.upper.width == pytest.approx(before.upper.width)
    if "name" in change:
        assert kept.name == change["name"]
    if "weight" in change:
        assert kept.weight == pytest.approx(38 * POUND_FORCE)


def test_another_brace_height_is_taken_with_the_marks_as_they_are(
    client: Client, marked: Design
) -> None:
    form = design_form(marked, brace_height="6 1/2")
    assert client.post(reverse("designs:edit", args=[marked.pk]), form).status_code == 302
    kept = bowfile.loads(Design.objects.get(pk=marked.pk).bow_file)
    assert kept.brace_height == pytest.approx(6.5 * INCH)
    assert kept.lower.thickness[3] == pytest.approx(0.44 * INCH)
    # one that it cannot be given is answered, typed or kept, and changes nothing
    much = design_form(marked, brace_height="15")
    preview = client.post(reverse("designs:preview", args=[marked.pk]), much)
    assert preview.status_code == 200 and 'role="alert"' in preview.content.decode()
    text = Design.objects.get(pk=marked.pk).bow_file
    refused = client.post(reverse("designs:edit", args=[marked.pk]), much)
    assert refused.status_code == 422 and Design.objects.get(pk=marked.pk).bow_file == text


@pytest.mark.parametrize(
    ("change", "said"),
    [({"width": "2"}, "limb width"), ({"length": "70"}, "length"), ({"reflex": "1"}, "reflex")],
    ids=str,
)
def test_marks_are_solved_anew_only_when_that_is_pressed(
    client: Client, marked: Design, change: dict[str, str], said: str
) -> None:
    where, text = reverse("designs:edit", args=[marked.pk]), marked.bow_file
    form = design_form(marked, **change)
    asked = client.post(where, form)
    page = asked.content.decode()
    assert asked.status_code == 422 and "Solve the marks anew" in page
    assert said in " ".join(asked.context["form"].non_field_errors())
    beside = asked.context["lets_go"]
    assert [row[3] for row in beside.rows] == pytest.approx(
        [m.thickness for m in services.solution(marked).marks]
    )
    assert any(row[2:4] != row[4:] for row in beside.rows) and beside.layers[0] in page
    assert Units().fine_weight(beside.weights[1]) in page
    assert "<svg" in asked.context["draft"]  # the bow as it was asked for is drawn beside them
    assert Design.objects.get(pk=marked.pk).bow_file == text
    assert client.post(where, form | {"solve": "1"}).status_code == 302
    assert Design.objects.get(pk=marked.pk).bow_file == ""


def test_layers_of_a_bow_that_came_as_a_file_outlive_a_change_of_its_name(
    client: Client, shop: SimpleNamespace
) -> None:
    draw = 26.25 * INCH
    layout = replace(LAYOUTS["backed, reflex and deflex"](draw), length=66 * INCH)
    locust = at_moisture(material("black locust"), 0.09)
    found = solve_design(layout, Wanted(45 * POUND_FORCE, draw), locust, INCH_ROUNDING)
    file = bowfile.dumps(replace(found.bow, wanted=found.wanted.asked))
    assert bring(client, file, archer=shop.archer.pk).status_code == 302
    design = Design.objects.latest("pk")
    form = design_form(design, name="Backed, from next door")
    answer = client.post(reverse("designs:edit", args=[design.pk]), form)
    assert answer.status_code == 302, answer.context["form"].errors
    kept = services.solution(Design.objects.get(pk=design.pk))
    assert [layer.material for layer in kept.bow.upper.layers] == ["bamboo slat", "black locust"]
    assert kept.weight == pytest.approx(found.weight, rel=1e-3)


def test_a_design_that_makes_no_bow_is_kept_as_a_draft_that_a_build_can_hang_on(
    client: Client, shop: SimpleNamespace
) -> None:
    form = design_form(shop.design, length="44", name="Short one")
    kept = client.post(reverse("designs:new"), form, follow=True)
    draft, page = Design.objects.latest("pk"), kept.content.decode()
    assert draft.name == "Short one" and draft.length == pytest.approx(44 * INCH)
    assert "Short one is kept as a draft." in page and "too short" in page
    near = client.get(reverse("designs:nearest", args=[draft.pk])).content.decode()
    assert near.startswith("The nearest that can be built: ") and "in long" in near
    assert "A draft:" in client.get(reverse("designs:thumbnail", args=[draft.pk])).content.decode()
    begin = {"name": "Short", "design": draft.pk, "school": "W", "draw_ruler": "pivot"}
    assert (
        client.post(reverse("builds:start"), begin | {"page_world": "imperial"}).status_code == 302
    )
    build = draft.builds.get()
    line = {"line": "15 at 12", "page_world": "imperial", "client_id": str(uuid4())}
    assert client.post(reverse("builds:keep", args=[build.number]), line).status_code in (200, 302)
    assert build.entries.filter(text="15 at 12").exists()
    for stage in ("wood", "lay-out", "tiller"):
        where = reverse("builds:stage", args=[build.number, stage])
        assert client.get(where, follow=True).status_code == 200


def test_a_bow_that_is_being_built_stays_with_the_design_that_it_was_begun_with(
    client: Client, shop: SimpleNamespace
) -> None:
    before = services.solution(shop.design).weight
    form = design_form(shop.design, weight="35", name="Lighter")
    shown = client.post(reverse("designs:edit", args=[shop.design.pk]), form, follow=True)
    assert "Number 1</a> was begun with this design" in shown.content.decode()
    build = type(shop.build).objects.get()
    assert build.design.pk != shop.design.pk and build.design.now_id == shop.design.pk
    assert services.solution(build.design).weight == pytest.approx(before)
    assert build.design.name == "Lighter, as begun: 1"
    listed = client.get(reverse("designs:list")).content.decode()
    assert "Lighter" in listed and "as begun" not in listed
    edit = client.get(reverse("designs:edit", args=[build.design.pk]))
    assert edit.url == reverse("designs:edit", args=[shop.design.pk])
    for where in ("designs:solve_again", "designs:reckon", "designs:take_length", "designs:scale"):
        told = client.post(
            reverse(where, args=[build.design.pk]), made_from(build.design), follow=True
        )
        assert "Bows stay with this design" in told.content.decode()
    assert client.get(reverse("designs:marks", args=[build.design.pk])).status_code == 302
    other = services.variant(build.design)
    assert other.now is None  # a variant of it is a design of its own
    other.delete()
    # changed once more it is still the first that the bow stays with
    again = design_form(Design.objects.get(pk=shop.design.pk), weight="34")
    client.post(reverse("designs:edit", args=[shop.design.pk]), again)
    assert Design.objects.count() == 2
    page = client.get(reverse("builds:stage", args=[1, "rough"])).content.decode()
    assert "The design was changed since this bow was begun" in page
    client.post(reverse("builds:take_over", args=[1]))
    build.refresh_from_db()
    assert build.design_id == shop.design.pk and Design.objects.count() == 1
    assert build.entries.filter(text="The design taken over as it was changed").count() == 1
    client.post(reverse("builds:take_over", args=[1]))
    assert build.entries.filter(text__contains="taken over").count() == 1


def test_notes_and_names_make_no_former_design(client: Client, shop: SimpleNamespace) -> None:
    form = design_form(shop.design, name="Of elm", notes="ask for the nocks")
    client.post(reverse("designs:edit", args=[shop.design.pk]), form)
    assert Design.objects.count() == 1 and Design.objects.get().name == "Of elm"


def test_no_first_archer_or_wood_of_a_list_is_a_default(
    client: Client, shop: SimpleNamespace
) -> None:
    Archer.objects.create(name="Runa", draw=24 * INCH, weight=20 * POUND_FORCE)
    form = client.get(reverse("designs:new")).context["form"]
    # the shop's commonest, because it has made a bow for them
    assert (form["archer"].value(), form["material"].value()) == (shop.archer.pk, "wych elm")
    birch = Stave.objects.create(
        number=7, material="silver birch", length=1.8, width=0.06, depth=0.05
    )
    form = client.get(reverse("designs:new"), {"stave": birch.pk}).context["form"]
    assert form["material"].value() == "silver birch"
    shop.build.delete()
    Design.objects.all().delete()
    page = client.get(reverse("designs:new"))
    form = page.context["form"]
    assert not form["archer"].value() and not form["material"].value() and not form.startable
    assert "<svg" in page.context["draft"]  # a bow is drawn all the same
    sent = design_form_of(form)
    errors = client.post(reverse("designs:new"), sent | {"name": "x"}).context["form"].errors
    assert set(errors) == {"archer", "material"}
    for name in ("rack:new", "designs:measured"):
        assert not client.get(reverse(name)).context["form"]["material"].value()


@pytest.mark.parametrize(
    ("told", "grip"),
    [
        ({"draw": "28", "draw_by": ""}, 28.0),
        ({"draw": "28", "draw_by": "trade"}, 26.25),
        ({"draw": "28", "draw_by": "back"}, 28 - 1.5),
        ({"draw": "29 1/2", "draw_by": "arrow"}, 29.5 - 0.5 - 1.5),
        ({"draw": "", "reach": "70", "anchor": "corner of the mouth"}, 26.25),
        ({"draw": "", "reach": "70", "anchor": "ear"}, 29.25),
    ],
    ids=str,
)
def test_a_draw_is_told_by_any_ruler_an_arrow_or_a_reach(
    client: Client, shop: SimpleNamespace, told: dict[str, str], grip: float
) -> None:
    form = design_form(shop.design, handle_depth="1 1/2", name="Told", **told)
    answer = client.post(reverse("designs:new"), form)
    assert answer.status_code == 302, answer.context["form"].errors
    assert Design.objects.latest("pk").draw == pytest.approx(grip * INCH)
    preview = client.post(reverse("designs:preview_new"), form)
    said = preview.context["reach_is"]
    if "reach" in told:
        weights = [float(w) for w in re.findall(r"([\d.]+) lb", said)]
        slope = (weights[1] - weights[0]) / 1.5
        assert 1.0 < slope < 3.5, said
    else:
        assert said == ""


def test_an_empty_length_says_what_it_comes_to(client: Client, shop: SimpleNamespace) -> None:
    form = design_form(shop.design, length="")
    page = client.post(reverse("designs:preview_new"), form)
    said = page.context["length_is"]
    assert re.fullmatch(r"\d+.* in by school A", said), said
    assert said in page.content.decode()
    assert (
        client.post(reverse("designs:preview_new"), form | {"length": "66"}).context["length_is"]
        == ""
    )


def follow(client: Client, form: dict[str, str], what: str) -> dict[str, float]:
    """The figures that follow, in inches and pounds, of a form in which something was changed."""
    sent = form | {"action": "follow", "what": what}
    return figures(client.post(reverse("designs:shape_new"), sent).context["form"])


def figures(form: DesignForm) -> dict[str, float]:
    names = ("back_root", "back_nock", "back_bow_length", "back_bow_root", "cable_tension")
    told = {name: str(form[name].value() or 0) for name in names}
    return {
        name: (WEIGHT if name == "cable_tension" else LENGTH).read(text, "imperial")
        for name, text in told.items()
    }


def test_what_nobody_touched_follows_and_what_was_touched_stays(
    client: Client, shop: SimpleNamespace
) -> None:
    form = design_form(shop.design, back="bamboo slat")
    found = follow(client, form, "back")
    assert found["back_root"] == found["back_nock"] == pytest.approx(0.003, abs=3e-4)
    mine = form | {"back_root": "1/4", "touched": "back,back_root"}
    found = follow(client, mine, "back")
    assert found["back_root"] == pytest.approx(INCH / 4)
    assert found["back_nock"] == pytest.approx(0.003, abs=3e-4)
    assert follow(client, form | {"back": ""}, "back")["back_root"] == 0.0
    kind = {"action": "kind", "choice": "bamboo with a back-bow"}
    laid = client.post(reverse("designs:shape_new"), form | kind).context["form"]
    sent, first = design_form_of(laid), figures(laid)
    longer = follow(client, sent | {"length": "80"}, "length")
    heavier = follow(client, sent | {"weight": "90"}, "weight")
    assert longer["back_bow_length"] > first["back_bow_length"] + INCH
    deeper = heavier["back_bow_root"] / first["back_bow_root"]
    assert deeper == pytest.approx(2 ** (1 / 3), rel=0.05)
    assert heavier["cable_tension"] == pytest.approx(2 * first["cable_tension"], rel=0.02)
    kept = follow(client, sent | {"length": "80", "touched": "back_bow_length"}, "length")
    assert kept["back_bow_length"] == first["back_bow_length"]


def listed(client: Client, stage: str) -> str:
    page = client.get(reverse("builds:stage", args=[1, stage]), follow=True).content.decode()
    return html.unescape(page.split("<main")[1])


def test_the_lists_of_a_bow_that_was_marked_are_of_its_marks(
    client: Client, shop: SimpleNamespace
) -> None:
    assert "of each limb, then straight to ½ in at the nocks" in listed(client, "lay-out")
    where = reverse("designs:marks", args=[shop.design.pk])
    marks = services.solution(shop.design).marks
    last = sum(mark.limb == "lower" for mark in marks) - 1
    change = {
        "lower_width_3": "1 11/16", f"lower_width_{last}": "3/4", f"lower_thickness_{last}": "9/16",
    }  # fmt: skip
    kept = client.post(where, marks_form(shop.design, **change))
    assert kept.status_code == 302
    client.post(reverse("builds:take_over", args=[1]))
    third = [mark for mark in marks if mark.limb == "lower"][3]
    said = listed(client, "lay-out")
    assert "of each limb" not in said
    assert f"1 ¹¹⁄₁₆ in at {Units().length(third.from_centre)}" in said
    assert "½ in at the nock; the lower limb" in said and "¾ in at the nock" in said
    left = listed(client, "rough")
    assert "lower " in left and "⅝ in at the nock" in left  # 9/16 and a sixteenth


def test_alike_lams_are_one_row_with_their_number(client: Client, shop: SimpleNamespace) -> None:
    lam = {"lam_side_0": "back", "lam_stuff_0": "sugar maple", "lam_root_0": "0.05"}
    lam |= {"lam_nock_0": "0.05", "lam_ends_0": ""}
    core = {"name": "Stack"}
    form = design_form(shop.design, **core, **lam, lam_count_0="4")
    answer = client.post(reverse("designs:new"), form)
    assert answer.status_code == 302, answer.context["form"].errors
    made = Design.objects.latest("pk")
    assert len(made.figures.lams) == 4 and made.figures.lams[0] == made.figures.lams[3]
    again = DesignForm.initial_of(made)
    assert again["lam_count_0"] == 4 and "lam_root_1" not in again
    assert len(services.solution(made).bow.upper.layers) == 5
    many = client.post(reverse("designs:new"), form | {"lam_count_0": "8", "name": "Eight"})
    assert many.status_code in (302, 422) and Design.objects.count() < 4
    two = {name.replace("_0", "_1"): value for name, value in lam.items()}
    over = client.post(reverse("designs:new"), form | two | {"lam_count_0": "8"})
    assert over.context["form"].errors["lam_count_1"] == ["Eight further lams are the most."]


@pytest.mark.parametrize(
    ("what", "value"),
    [("back", "moonlight"), ("belly", "\x00"), ("weight", "-5"), ("weight", "1e300"),
     ("length", "0"), ("length", "-70"), ("stave", "999"), ("nothing", "x")],
)  # fmt: skip
def test_what_cannot_be_followed_changes_nothing(
    client: Client, shop: SimpleNamespace, what: str, value: str
) -> None:
    kind = {"action": "kind", "choice": "bamboo with a back-bow"}
    laid = client.post(reverse("designs:shape_new"), design_form(shop.design) | kind)
    sent = design_form_of(laid.context["form"]) | {what: value}
    assert follow(client, sent, what) == figures(laid.context["form"])


def test_a_ruler_that_is_none_is_answered_beside_its_field(
    client: Client, shop: SimpleNamespace
) -> None:
    answer = client.post(
        reverse("designs:new"), design_form(shop.design, draw="28", draw_by="by guess")
    )
    assert answer.status_code == 422 and set(answer.context["form"].errors) == {"draw_by"}
