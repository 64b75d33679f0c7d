"""What a maker typed or brought in is kept, or asked about; never changed without a word."""

import json
from dataclasses import replace
from types import SimpleNamespace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from bowyery.bow import bowfile
from bowyery.bow.families import LAYOUTS
from bowyery.bow.layout import INCH_ROUNDING, Wanted
from bowyery.design.solve import solve_design
from bowyery.units.quantity import INCH, POUND_FORCE
from bowyery.wood.materials import at_moisture, material
from fellwind.designs import services
from fellwind.designs.models import Design
from fellwind.shop.models import Archer
from tests.web.forms import design_form, marks_form


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
