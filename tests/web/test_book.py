"""Materials of the shop's own: added, refused, changed, and used where the book's are."""

from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.errors import DescriptionError
from bowyery.units.quantity import INCH
from fellwind.designs import answers
from fellwind.designs.models import Design
from fellwind.designs.services import core_inputs
from fellwind.rack.models import Stave
from fellwind.rack.services import own_wood
from fellwind.shop import book
from fellwind.shop.models import OwnMaterial
from tests.web.forms import design_form, made_from

WOOD = {
    "name": "Blackthorn",
    "kind": "wood",
    "modulus": "10.5",
    "rupture": "110",
    "density": "800",
    "work": "120",
    "source": "three strips, bent at the bench",
    "page_world": "metric",
}
THREAD = {
    "name": "waxed ramie",
    "kind": "natural thread",
    "ten_metres": "2 g",
    "breaking": "6",
    "stretch": "0.5",
    "page_world": "metric",
}


def test_a_wood_of_the_shops_own_makes_a_bow(client: Client, shop: SimpleNamespace) -> None:
    new = reverse("shop:material_new")
    assert client.post(new, WOOD).status_code == 302
    own = OwnMaterial.objects.get()
    assert (own.name, own.modulus, own.rupture) == ("blackthorn", 10.5e9, 110e6)
    assert "blackthorn" in client.get(reverse("shop:materials")).content.decode()
    assert (
        book.shelf().woods["blackthorn"].rupture_strain
        > book.shelf().woods["blackthorn"].elastic_strain
    )
    sent = design_form(shop.design, stave="", material="blackthorn", name="Blackthorn bow")
    answer = client.post(reverse("designs:new"), sent)
    assert answer.status_code == 302
    page = client.get(answer["Location"]).content.decode()
    assert "blackthorn" in page and "it pulls" in page
    tougher = client.post(
        reverse("shop:material", args=[own.pk]), WOOD | {"modulus": "12"} | made_from(own)
    )
    assert tougher.status_code == 302
    assert book.material("blackthorn").modulus == 12e9


def test_a_thread_of_the_shops_own_makes_a_string(client: Client, shop: SimpleNamespace) -> None:
    assert client.post(reverse("shop:material_new"), THREAD).status_code == 302
    fibre = book.fibre("waxed ramie")
    assert fibre.line_mass == pytest.approx(200e-6) and fibre.natural
    assert fibre.breaking_force == pytest.approx(6 * 9.80665)
    page = client.get(reverse("strings:sheet", args=[shop.build.number])).content.decode()
    assert "waxed ramie" in page


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"name": "wych elm"}, "There is a material called “wych elm” already"),
        ({"name": "Linen"}, "There is a material called “linen” already"),
        ({"modulus": ""}, "This kind of material needs it."),
        ({"modulus": "tough"}, "could not be read"),
        ({"kind": "natural thread"}, "This kind of material needs it."),
        ({"name": " "}, "This field is required."),
    ],
)
def test_a_material_that_lacks_something_is_refused(
    client: Client, change: dict[str, str], says: str
) -> None:
    answer = client.post(reverse("shop:material_new"), WOOD | change)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert not OwnMaterial.objects.exists()


def test_designs_keep_the_name_they_know(client: Client) -> None:
    client.post(reverse("shop:material_new"), WOOD)
    own = OwnMaterial.objects.get()
    where = reverse("shop:material", args=[own.pk])
    assert "Designs know it as" in client.post(where, WOOD | {"name": "sloe"}).content.decode()
    turned = client.post(where, THREAD | {"name": "blackthorn"}).content.decode()
    assert "A thread stays a thread" in turned
    with pytest.raises(DescriptionError):
        book.material("sloe")


def test_a_stave_reckons_its_limits_from_its_own_figures(
    client: Client, shop: SimpleNamespace
) -> None:
    Stave.objects.update(modulus=13e9, rupture=90e6)
    stave = Stave.objects.get()
    own, plain = own_wood(stave), book.material(stave.material)
    assert own.working_strain < 0.8 * plain.working_strain
    page = client.get(reverse("rack:detail", args=[stave.number])).content.decode()
    assert f"{own.working_strain * 100:.2f} %" in page
    assert f"{plain.working_strain * 100:.2f} %" not in page


def test_school_a_takes_the_ruler_that_the_draw_was_told_in(shop: SimpleNamespace) -> None:
    design = shop.design
    told = answers.schools(design)[0].answer.layout.length
    design.archer.draw_ruler = "trade"
    by_trade = answers.schools(design)[0].answer.layout.length
    assert by_trade - told == pytest.approx(2 * 1.75 * INCH)
    # the other schools answer for the same draw to the grip
    assert answers.schools(design)[1].answer.strain == pytest.approx(
        answers.schools(design)[1].answer.strain
    )


def test_a_tube_is_as_thick_as_it_is_wide(client: Client, shop: SimpleNamespace) -> None:
    sent = design_form(
        shop.design, section="tube", solve_for="nothing", width="1", tip_width="1", stave="",
        material="rigid PVC", depth_root="0.4", depth_nock="0.3", name="Pipe", tube_wall="0.2",
    )  # fmt: skip
    answer = client.post(reverse("designs:new"), sent)
    assert answer.status_code == 302, answer.content.decode()[-1500:]
    made = Design.objects.get(name="Pipe")
    layout = core_inputs(made)[0]
    assert layout.depth == (layout.width, layout.tip_width) == (INCH, INCH)


def test_a_tube_split_lengthwise_is_talked_of_as_a_tube(
    client: Client, shop: SimpleNamespace
) -> None:
    sent = design_form(
        shop.design, section="culm segment", section_radius="1", width="1 1/2", tip_width="1/2",
        stave="", material="rigid PVC", name="Half a pipe", weight="5", handle_depth="2",
    )  # fmt: skip
    answer = client.post(reverse("designs:new"), sent)
    assert answer.status_code == 302, answer.context["form"].errors
    made = Design.objects.get(name="Half a pipe")
    assert made.stock == "tube"
    walk = reverse("designs:walk", args=[made.pk])
    steps = [client.get(walk, {"step": k}).content.decode().split("<main")[1] for k in range(1, 12)]
    said = " ".join(steps)
    assert "wide in all" not in said and " + " in said
    assert not any(word in said for word in ("grain", "bark", "moisture", "knot", "node"))


def test_a_board_did_not_grow_under_bark(client: Client, shop: SimpleNamespace) -> None:
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    assert "as it grew under the bark" in page
    Stave.objects.update(kind="board")
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    assert "under the bark" not in page and "as sawn" in page
