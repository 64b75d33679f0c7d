"""An empty shop leads its maker in four steps; a sample bow comes and goes without a trace."""

from types import SimpleNamespace

from django.apps import apps
from django.test import Client
from django.urls import reverse

from fellwind.builds.models import Build, Entry
from fellwind.designs.models import Design
from fellwind.people.models import Person
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer
from tests.conftest import signed_in
from tests.web.forms import ARCHER, STAVE

COUNTED = [
    model
    for model in apps.get_models()
    if model._meta.app_label not in ("sessions", "kit", "contenttypes")
    and model.__name__ != "Workshop"  # any page makes it where it is not
]


def steps(client: Client) -> str:
    page = client.get("/").content.decode()
    return page.split('class="steps"')[1].split("</section>")[0] if 'class="steps"' in page else ""


def rows() -> dict[str, int]:
    return {model._meta.label: model._default_manager.count() for model in COUNTED}


def test_four_steps_lead_from_an_empty_shop_to_the_first_build(maker: Client) -> None:
    told = steps(maker)
    assert told.count("<li") == 4 and told.count('aria-current="step"') == 1
    assert reverse("shop:archer_new") in told and "every design starts from them" in told
    assert maker.post(reverse("shop:archer_new"), ARCHER).status_code == 302
    assert reverse("rack:new") in steps(maker) and "✓" in steps(maker)
    assert maker.post(reverse("rack:new"), STAVE).status_code == 302
    assert reverse("designs:layouts") in steps(maker)
    archer = Archer.objects.get()
    design = Design(
        name="First", archer=archer, material="white ash", weight=archer.weight, draw=archer.draw,
        fingers=archer.fingers, length=1.75,
    )  # fmt: skip
    design.save()
    assert reverse("builds:start") in steps(maker)
    Build.objects.create(number=1, name="First", design=design)
    assert steps(maker) == "" and "sample" not in maker.get("/").content.decode()


def test_a_sample_bow_is_looked_at_and_thrown_away_whole(maker: Client) -> None:
    before = rows()
    answer = maker.post(reverse("demo:sample"), follow=True)
    page = answer.content.decode()
    assert "check 5 of 5" in page and "Sample flatbow" in page
    assert maker.post(reverse("demo:sample")).status_code == 302 and Build.objects.count() == 1
    today = maker.get("/").content.decode()
    assert "is a sample" in today and "Show me a sample" not in today
    assert steps(maker).count("✓") == 0  # what is the sample's is no step taken
    line = {"line": "30 at 20", "page_world": "imperial"}
    maker.post(reverse("builds:keep", args=[1]), line)
    gone = maker.post(reverse("demo:throw_away"), follow=True).content.decode()
    assert "nothing of it is left" in gone
    assert rows() == before
    assert "is a sample" not in maker.get("/").content.decode()


def test_what_was_built_on_the_sample_stays(maker: Client, people: SimpleNamespace) -> None:
    maker.post(reverse("demo:sample"))
    design = Design.objects.get()
    Build.objects.create(number=7, name="My own", design=design)
    said = maker.post(reverse("demo:throw_away"), follow=True).content.decode()
    assert "gone but for what you built on" in said and "Sample flatbow" in said
    assert list(Build.objects.values_list("number", flat=True)) == [7]
    assert Design.objects.get() == design and Archer.objects.count() == 1
    assert not Entry.objects.exists() and steps(maker) == ""


def test_only_a_maker_makes_and_throws_a_sample_away(people: SimpleNamespace) -> None:
    for person in (people.guest, people.helper):
        client = signed_in(person)
        assert client.post(reverse("demo:sample")).status_code == 403
        assert client.post(reverse("demo:throw_away")).status_code == 403
        assert "Show me a sample" not in client.get("/").content.decode()
    assert not Build.objects.exists() and Person.objects.count() == 3


def test_a_shop_that_builds_is_told_nothing_of_it(client: Client, shop: SimpleNamespace) -> None:
    assert steps(client) == "" and Stave.objects.count() == 1
