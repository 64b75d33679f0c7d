"""Tubes: pressed, cut open, with a rod inside; spoken of as what they are."""

import re
from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.designs import services, words
from fellwind.designs.models import Design
from tests.web.forms import design_form

WOODEN = re.compile(r"\b(grain|bark|moisture|narrow|knots?|rings?|season)", re.IGNORECASE)


@pytest.mark.parametrize(
    ("ends", "work"),
    [
        ({}, "as it is"),
        ({"tube_ends": "flat", "depth_nock": "0.5", "parallel": "30"}, "press to"),
        ({"tube_ends": "taper", "tip_width": "0.75", "parallel": "30"}, "cut out"),
        ({"tube_stock": "1 in schedule 40", "tube_ends": "flat", "depth_nock": "0.5"}, "press to"),
        ({"tube_rod": "3/8", "tube_rod_of": "unidirectional glass"}, "as it is"),
    ],
)
def test_a_reshaped_tube_is_spoken_of_as_a_tube(
    client: Client, shop: SimpleNamespace, ends: dict[str, str], work: str
) -> None:
    form = design_form(
        shop.design, section="tube", solve_for="nothing", width="1.05", tip_width="1.05", stave="",
        material="rigid PVC", name="Pipe", tube_wall="0.113", least_tip="0.3", parallel="95",
    )  # fmt: skip
    answer = client.post(reverse("designs:new"), form | ends)
    assert answer.status_code == 302, answer.context["form"].errors
    design = Design.objects.latest("pk")
    build = Build.objects.create(number=70, name="Pipe", design=design)
    steps = words.walk(design, services.solution(design), Units())
    assert any(step.figure.startswith(work) for step in steps)
    for step in steps:
        assert not WOODEN.search(f"{step.what} {step.figure} {step.check}"), step
    for warning in words.warnings(services.solution(design), design, Units(), "fine"):
        assert not WOODEN.search(warning), warning
    wood = client.get(reverse("builds:stage", args=[build.number, "wood"])).content.decode()
    asked = re.findall(r"<label[^>]*>(.*?)</label>", wood, re.S)
    assert asked and not any(WOODEN.search(one) for one in asked)
    paper = client.get(f"/designs/{design.pk}/template.svg")
    assert ('id="cut"' in paper.content.decode()) == (work == "cut out")


def test_a_tube_that_stands_strung_too_far_is_said_to_creep(
    client: Client, shop: SimpleNamespace
) -> None:
    form = design_form(
        shop.design, section="tube", solve_for="nothing", width="1.315", tip_width="1.315",
        stave="", material="rigid PVC", name="Pipe", tube_wall="0.133", brace_height="9",
        length="56",
    )  # fmt: skip
    client.post(reverse("designs:new"), form)
    design = Design.objects.latest("pk")
    said = words.warnings(services.solution(design), design, Units(), "fine")
    assert any("creeps on above 0.75 %. Unstring it" in one for one in said)


def test_ends_that_no_tube_can_be_given_are_answered_beside_their_field(
    client: Client, shop: SimpleNamespace
) -> None:
    tube = design_form(
        shop.design, section="tube", solve_for="nothing", width="1.05", tip_width="1.05", stave="",
        material="rigid PVC", name="Pipe", tube_wall="0.113",
    )  # fmt: skip
    for ends, field, says in (
        ({"tube_ends": "flat", "depth_nock": "0.2"}, "depth_nock", "its two walls"),
        ({"tube_ends": "flat", "depth_nock": "1.2"}, "depth_nock", "no thicker than round"),
        ({"tube_ends": "taper", "tip_width": "1.2"}, "tip_width", "no wider at the tip"),
        ({"tube_rod": "0.9"}, "tube_rod", "does not go into the tube"),
    ):
        answer = client.post(reverse("designs:new"), tube | ends)
        assert answer.status_code == 422
        assert says in str(answer.context["form"].errors[field])
