"""The design page: five questions, the bow as its maker draws it, and what its acts do."""

import pytest
from django.urls import reverse

from bowyery.bow.families import LAYOUTS
from bowyery.design.outline import outline_of
from bowyery.units.quantity import INCH, METRIC, Units
from fellwind.designs import drafting, services
from fellwind.designs.forms import DesignForm
from fellwind.designs.models import Design
from tests.web.forms import design_form

NEW, SHAPE = reverse("designs:new"), reverse("designs:shape_new")


def acted(client, form, **act):
    """The form after an act, as it stands on the page."""
    answer = client.post(SHAPE, form | {k: str(v) for k, v in act.items()})
    assert answer.status_code == 200
    page = answer.context["form"]
    found = {b.name: "" if (v := b.value()) is None else str(v) for b in page}
    return found | {"page_world": form.get("page_world", "imperial")}, answer


def drawn(client, design, **first):
    """A design's form with its outline by points."""
    return acted(client, design_form(design, **first), action="draw")[0]


def test_the_page_asks_five_questions_and_opens_the_rest_on_the_picture(client, shop):
    page = client.get(NEW).content.decode()
    for question in ("For whom", "From what", "Which kind", "How long", "How heavy"):
        assert f"</span> {question}</legend>" in page
    assert page.count("<fieldset>") == 5
    assert "draft-picture" in page, "the bow is drawn before anything is solved"
    for place in ("Grip", "Outline", "Natural line", "Layers"):
        assert f'data-place-of="{place}"' in page


@pytest.mark.parametrize("kind", sorted(LAYOUTS))
def test_every_kind_is_a_bow_whose_own_page_does_not_call_it_dangerous(client, shop, kind):
    # Given the form of a new design with only its archer and its wood
    page = DesignForm(shown=Units(), initial={"marked_in": "imperial"})
    form = {k: str(v) for k, v in drafting.as_sent(page).items()}
    form |= {"name": "New", "material": "wych elm", "page_world": "imperial"}
    # When a kind is chosen and kept without another word
    form, _ = acted(client, form, action="kind", choice=kind)
    assert form["length"] == ""
    answer = client.post(NEW, form)
    # Then it is a bow that lasts, or takes the set that every wooden bow takes
    design = Design.objects.latest("pk")
    assert answer.status_code == 302, answer.context["form"].errors
    found = services.solution(design)
    assert found.verdict in ("fine", "works the wood hard, expect set")
    assert design.figures.kind == kind


def test_a_point_dragged_or_stepped_moves_the_outline_and_the_thickness_is_solved_again(
    client, shop
):
    # Given an outline by points
    form = drawn(client, shop.design)
    before = services.solution(shop.design)
    assert form["drawn"] == "1" and float(form["upper_at_0"].split()[0]) > 4
    # When its second point is dragged out and in, and stepped by a key
    scale = 40.0
    moved, _ = acted(client, form, action="move", point="upper_wide_0", dx=scale, dy=scale / 2)
    stepped, _ = acted(client, moved, action="move", point="upper_wide_0", nudge="down")
    assert moved["upper_at_0"] != form["upper_at_0"]
    assert moved["upper_wide_0"] != form["upper_wide_0"] != stepped["upper_wide_0"]
    # Then what is kept has that outline on both limbs, and pulls what it shall
    answer = client.post(reverse("designs:edit", args=[shop.design.pk]), stepped)
    assert answer.status_code == 302, answer.context["form"].errors
    design = Design.objects.get(pk=shop.design.pk)
    found = services.solution(design)
    assert found.weight == pytest.approx(design.weight, rel=0.007)
    assert [m.width for m in found.marks] != [m.width for m in before.marks]
    assert found.layout.widths[0] == found.layout.widths[1]


def test_rows_come_and_go_and_the_lower_limb_may_have_its_own(client, shop):
    form = drawn(client, shop.design)
    more, _ = acted(client, form, action="add", side="upper")
    assert sum(n.startswith("upper_at_") for n in more) == 1 + sum(
        n.startswith("upper_at_") for n in form
    )
    own, _ = acted(client, more, action="own")
    assert own["lower_wide_root"] == own["upper_wide_root"]
    fewer, _ = acted(client, own, action="remove", side="lower", number=0)
    assert "lower_at_0" not in fewer and "upper_at_0" in fewer
    far, _ = acted(client, fewer, action="from")
    assert far["places_from"] == "tip" and far["upper_at_0"] != fewer["upper_at_0"]
    near, _ = acted(client, far, action="from")
    assert near["upper_at_0"] == fewer["upper_at_0"], "there and back is where it was"
    plain, _ = acted(client, near, action="simple")
    assert not any(n.startswith(("upper_at", "upper_wide")) for n in plain)


def test_no_more_rows_than_a_limb_has(client, shop):
    form = drawn(client, shop.design)
    said = ""
    for _ in range(8):
        form, answer = acted(client, form, action="add", side="upper")
        said = answer.content.decode()
    assert sum(n.startswith("upper_at_") for n in form) == 4
    assert "Six widths a limb are the most." in said


def test_a_natural_line_is_begun_as_the_reflex_was_and_given_up_again(client, shop):
    form, _ = acted(client, design_form(shop.design, reflex="1"), action="line", side="lower")
    assert form["line_lower"] == "1" and form["lower_lies_nock"] == "1"
    more, _ = acted(client, form, action="line_add", side="lower")
    assert "lower_lies_at_2" in more and "lower_lies_at_2" not in form
    more["lower_lies_nock"] = "-1/2"
    answer = client.post(reverse("designs:edit", args=[shop.design.pk]), more)
    assert answer.status_code == 302, answer.context["form"].errors
    design = Design.objects.get(pk=shop.design.pk)
    assert design.figures.line["lower"][-1] == [1.0, pytest.approx(0.5 * INCH)]
    again, _ = acted(client, more, action="line", side="lower")
    assert not any(n.startswith("lower_lies") for n in again)


def test_lams_come_go_and_change_places(client, shop):
    form = design_form(shop.design, back="unidirectional glass", back_root="0.03",
                       back_nock="0.03", solve_for="thickness")  # fmt: skip
    form, _ = acted(client, form, action="lam_add")
    form |= {"lam_root_0": "0.02", "lam_nock_0": "0.02", "lam_side_0": "back"}
    form, _ = acted(client, form, action="lam_add")
    form |= {"lam_root_1": "1/16", "lam_nock_1": "0", "lam_ends_1": "5", "lam_side_1": "belly"}
    turned, _ = acted(client, form, action="lam_up", number=1)
    assert turned["lam_ends_0"] == "5" and turned["lam_ends_1"] == ""
    answer = client.post(reverse("designs:edit", args=[shop.design.pk]), turned)
    assert answer.status_code == 302, answer.context["form"].errors
    design = Design.objects.get(pk=shop.design.pk)
    layers = services.solution(design).bow.upper.layers
    assert [la.role for la in layers] == ["facing", "veneer", "core", "veneer"]
    gone, _ = acted(client, turned, action="lam_remove", number=0)
    assert sum(n.startswith("lam_root") for n in gone) == 1


def test_switching_units_takes_drawn_rows_along(client, shop):
    form = drawn(client, shop.design)
    client.post(reverse("people:units"), {"next": "/"})
    answer = client.post(SHAPE, form | {"action": "world"})
    page = answer.context["form"]
    assert page.shown == Units(METRIC)
    inches = float(Units().length(0.0254 * 1).split()[0])
    assert inches == 1.0
    assert page["upper_wide_root"].value() == "44", "an inch and three quarters"


BAD = {
    "a place beyond the nock": ({"upper_at_0": "45"}, "upper_at_0", "This limb bends from"),
    "two widths at one place": (
        {"upper_at_1": "13", "upper_at_0": "13"}, "upper_wide_root", "no two at one place"
    ),
    "a width wider than a hand": ({"upper_wide_0": "9"}, "upper_wide_0", "outside what is"),
    "no figure": ({"upper_wide_nock": "wide"}, "upper_wide_nock", "“wide”"),
    "a tip without its angle": ({"tip_bent": "6"}, "tip_angle", "Say by how much"),
    "a tip longer than half a limb": (
        {"tip_bent": "20", "tip_angle": "20"}, "tip_bent", "longer than half"
    ),
}  # fmt: skip


@pytest.mark.parametrize("what", BAD)
def test_what_cannot_be_drawn_is_said_beside_its_field_and_nothing_is_lost(client, shop, what):
    change, field, words = BAD[what]
    form = drawn(client, shop.design) | change
    answer = client.post(reverse("designs:edit", args=[shop.design.pk]), form)
    assert answer.status_code == 422
    page = answer.context["form"]
    assert words in " ".join(page.errors[field]), page.errors
    assert page["upper_at_0"].value() == form["upper_at_0"]
    assert Design.objects.get(pk=shop.design.pk).figures.outline is None


def test_an_act_on_what_cannot_be_read_says_so_and_changes_nothing(client, shop):
    form = drawn(client, shop.design) | {"upper_wide_0": "wide"}
    after, answer = acted(client, form, action="add", side="upper")
    assert "First mend what cannot be read" in answer.content.decode()
    assert after["upper_wide_0"] == "wide"


def test_three_lengths_and_three_rulers_stand_by_the_questions(client, shop):
    answer = client.post(reverse("designs:lengths_new"), design_form(shop.design))
    page = answer.content.decode()
    for school in "ABC":
        assert f"<strong>{school}</strong>" in page
    assert "to the grip" in page and "trade" in page and "to the back" in page


def test_a_hostile_act_is_no_fault_of_the_server(client, shop):
    form = drawn(client, shop.design)
    for act in (
        {"action": "move", "point": "name", "dx": "1"},
        {"action": "move", "point": "upper_wide_0", "dx": "nan", "dy": "1e999"},
        {"action": "move", "point": "upper_wide_9"},
        {"action": "remove", "side": "left", "number": "²"},
        {"action": "kind", "choice": "square"},
        {"action": "lam_up", "number": "-3"},
        {"action": "nothing"},
        {},
    ):
        after, _ = acted(client, form, **act)
        assert after["upper_at_0"] == form["upper_at_0"]


def test_the_picture_needs_nothing_solved(shop):
    form = DesignForm(shown=Units(), initial=DesignForm.initial_of(shop.design) | {"weight": 1e3})
    assert drafting.drawn(form).picture == "" or "svg" in drafting.drawn(form).picture
    form = DesignForm(shown=Units(), initial=DesignForm.initial_of(shop.design))
    assert "from nock to nock" in drafting.drawn(form).picture


def test_wood_beyond_the_nocks_is_in_walk_template_and_list_of_wood(client, shop):
    # Given a bow with two inches beyond one nock and half an inch beyond the other
    form = design_form(shop.design, beyond_upper="2", beyond_lower="1/2")
    client.post(reverse("designs:edit", args=[shop.design.pk]), form)
    design = Design.objects.get(pk=shop.design.pk)
    assert design.overall == pytest.approx(design.length + 2.5 * INCH)
    whole = Units().length(design.overall)
    # Then what is walked, asked of the wood and cut off says both lengths
    walk = client.get(reverse("designs:walk", args=[design.pk]) + "?step=1").content.decode()
    assert whole in walk and "2 in above" in walk
    client.post(reverse("builds:take_over", args=[1]))
    stage = client.get(reverse("builds:stage", args=[shop.build.number, "wood"])).content.decode()
    assert whole in stage
    changes = client.get(reverse("designs:changes", args=[design.pk])).content.decode()
    assert f"{Units().length(design.overall - INCH)} over all" in changes
    # and a stave that holds the nocks but not their ends is too short
    found = services.solution(design)
    assert outline_of(found).beyond == pytest.approx(2 * INCH)


def test_a_backed_bows_wood_and_each_layer_stand_apart_everywhere(client, shop):
    # Given a bow with a slat on its back
    form = design_form(shop.design, back="bamboo slat", back_root="0.14", back_nock="0.09")
    client.post(reverse("designs:edit", args=[shop.design.pk]), form)
    design = Design.objects.get(pk=shop.design.pk)
    found = services.solution(design)
    mark = found.marks[0]
    wood, total = found.wood_of(mark), mark.thickness
    assert total - wood == pytest.approx(0.14 * INCH, abs=1e-6)
    shown = Units()
    # Then table, walk, roughing and file give the wood alone, which is what is cut
    page = client.get(reverse("designs:detail", args=[design.pk])).content.decode()
    assert "In all</th>" in page and f"<strong>{shown.thickness(wood)}</strong>" in page
    walk = client.get(reverse("designs:walk", args=[design.pk]) + "?step=7").content.decode()
    assert f"the {found.wood.name} {shown.thickness(wood)} thick" in walk
    client.post(reverse("builds:take_over", args=[1]))
    rough = client.get(reverse("builds:stage", args=[1, "rough"])).content.decode()
    assert f"{shown.thickness(wood + INCH / 16)} at the fade" in rough
    table = client.get(reverse("designs:export", args=[design.pk, "marks.csv"])).content.decode()
    head, first = table.splitlines()[:2]
    row = dict(zip(head.split(","), first.split(","), strict=True))
    assert float(row["backing_bamboo_slat_mm"]) == pytest.approx(0.14 * 25.4, abs=0.01)
    assert float(row[f"core_{found.wood.name.replace(' ', '_')}_mm"]) == pytest.approx(
        wood * 1000, abs=0.01
    )


def test_a_green_bow_is_told_what_green_means(client, shop):
    form = design_form(shop.design, moisture="45", stave="")
    answer = client.post(reverse("designs:edit", args=[shop.design.pk]), form, follow=True)
    page = answer.content.decode()
    assert "Worked green, at 45 %" in page and "tillered again" in page
    client.post(reverse("builds:take_over", args=[1]))
    wood = client.get(reverse("builds:stage", args=[shop.build.number, "wood"])).content.decode()
    assert "the outside of that bend is the back" in wood
    too_wet = client.post(
        reverse("designs:edit", args=[shop.design.pk]), design_form(shop.design, moisture="90")
    )
    assert too_wet.status_code == 422
