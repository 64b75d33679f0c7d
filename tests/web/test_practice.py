"""The practice room: sessions that are one's own, and touch nothing of the shop's."""

from html import unescape
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.apps import apps
from django.test import Client
from django.urls import reverse

from bowyery.practice.lessons import LESSONS
from bowyery.practice.players import by_advice
from bowyery.practice.session import Act
from bowyery.practice.worlds import TROUBLES, Setup
from bowyery.units.quantity import Units
from fellwind.kit.cache import Recent
from fellwind.people.models import Person
from fellwind.practice import services
from fellwind.practice.models import Done, Session
from tests.conftest import signed_in

METRIC = Units("metric")
FREE = {"pattern": "flatbow", "wood": "rowan", "trouble": "hinge", "seed": "23", "hands": "on"}


def begun(client: Client, **more: str) -> Session:
    before = set(Session.objects.values_list("pk", flat=True))
    answer = client.post(reverse("practice:begin"), more or FREE)
    assert answer.status_code == 302, answer.content.decode()[-800:]
    return Session.objects.exclude(pk__in=before).get()


def done(client: Client, session: Session, act: str, number: int | None = None, **more: object):  # type: ignore[no-untyped-def]
    number = number or Done.objects.filter(session=session).count() + 1
    given = {"act": act, "number": number, "page_world": "metric", **more}
    return client.post(reverse("practice:do", args=[session.pk]), given)


def said(answer) -> str:  # type: ignore[no-untyped-def]
    return " ".join(unescape(answer.content.decode()).split())


def rows() -> dict[str, int]:
    """How many rows every other room has."""
    apart = ("practice", "sessions", "axes", "kit")
    return {
        model._meta.label: model._base_manager.count()
        for model in apps.get_models()
        if model._meta.app_label not in apart
    }


def test_a_whole_session_touches_nothing_of_the_shops(
    client: Client, shop: SimpleNamespace
) -> None:
    client.get(reverse("practice:home"))
    before = rows()
    session = begun(client)
    for act, more in (
        ("pull", {"draw": "400"}), ("read:weight", {}), ("read:edges", {}), ("down", {}),
        ("mark:stiff", {"limb": "upper", "start": "300", "end": "400"}),
        ("scrape", {"strokes": "12", "tool": "scraper"}), ("exercise", {"pulls": "25"}),
        ("string", {"string": "low", "brace": "80"}), ("read:gaps", {}), ("read:string", {}),
        ("pull", {"draw": "450", "until": "450"}), ("hold", {"seconds": "12"}), ("ask", {}),
        ("down", {}), ("cut", {"off": "10"}), ("heat", {"colour": "golden", "reflex": "10"}),
        ("wait", {"hours": "24"}), ("finish", {}),
    ):  # fmt: skip
        answer = done(client, session, act, **more)
        assert answer.status_code == 302, (act, said(answer)[-1500:])
    assert rows() == before
    assert Done.objects.filter(session=session).count() == 18
    page = said(client.get(reverse("practice:tree", args=[session.pk])))
    assert "12 strokes with the scraper" in page and "Look at the debrief" in page
    told = said(client.get(reverse("practice:debrief", args=[session.pk])))
    assert "What would have helped most" in told and "The film" in told
    film = said(client.get(reverse("practice:debrief", args=[session.pk]) + "?step=6"))
    assert "6 of 18: 12 strokes" in film
    other = said(client.get(reverse("practice:others", args=[session.pk])))
    assert "the plain rule" in other and "Fellwind" in other
    record = said(client.get(reverse("practice:record")))
    assert "1 free stave ended" in record and "a hinge" in record
    skill = said(client.get(reverse("practice:skill", args=["hinge"])))
    assert "you" in skill and "the plain rule" in skill and "Last 1" in skill
    assert client.get(reverse("practice:skill", args=["worm"])).status_code == 200


def test_a_break_is_told_where_it_came_in_log_and_film(
    client: Client, shop: SimpleNamespace
) -> None:
    session = begun(client)
    for act, more in (("string", {"string": "low"}), ("pull", {"draw": "900"})):
        assert done(client, session, act, **more).status_code == 302
    state = services.state_of(session)
    assert state.broke is not None
    words = f"pulled to {METRIC.length(state.broke.draw)}: it broke"
    Person.objects.filter(pk=session.person_id).update(world="metric")
    assert words in said(client.get(reverse("practice:tree", args=[session.pk])))
    film = said(client.get(reverse("practice:debrief", args=[session.pk])))
    assert f"2 of 2: {words}" in film and "pulled to 900" not in film


def test_it_is_the_same_on_another_device_and_after_a_restart(
    client: Client, shop: SimpleNamespace
) -> None:
    session = begun(client)
    done(client, session, "pull", draw="420")
    done(client, session, "read:weight")
    first = services.state_of(session)
    services._recent = Recent(4)
    again = services.state_of(Session.objects.get(pk=session.pk))
    assert again is not first and again.noted == first.noted and again.held == first.held
    other = Client(HTTP_HOST="127.0.0.1")
    other.force_login(session.person, "django.contrib.auth.backends.ModelBackend")
    page = said(other.get(reverse("practice:tree", args=[session.pk])))
    assert "held at" in page


def test_a_guest_practises_and_nobody_sees_anothers(client: Client, shop: SimpleNamespace) -> None:
    mine = begun(client)
    guest = signed_in(shop.people.guest)
    yours = begun(guest, lesson="hinge")
    assert done(guest, yours, "pull", draw="400").status_code == 302
    assert yours.person.role == "guest"
    for page in ("practice:tree", "practice:debrief", "practice:others"):
        assert guest.get(reverse(page, args=[mine.pk])).status_code == 404
        assert client.get(reverse(page, args=[yours.pk])).status_code == 404
    assert done(guest, mine, "pull", draw="400").status_code == 404
    assert not Done.objects.filter(session=mine).exists()
    stranger = Client(HTTP_HOST="127.0.0.1")
    assert stranger.get(reverse("practice:home")).status_code == 302


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"seed": "0"}, "greater than or equal to 1"), ({"seed": "1000000"}, "less than or equal"),
        ({"seed": "a friend's"}, "whole number"), ({"wood": "glass"}, "not one of the available"),
        ({"trouble": "sinew"}, "Only the short bow under sinew"), ({"pattern": ""}, "required"),
        ({"seed": "9" * 80}, "less than or equal"),
    ],
)  # fmt: skip
def test_an_impossible_stave_is_refused_beside_its_field(
    client: Client, shop: SimpleNamespace, wrong: dict[str, str], words: str
) -> None:
    answer = client.post(reverse("practice:begin"), FREE | wrong)
    assert answer.status_code == 422 and words in said(answer)
    assert not Session.objects.exists()
    if "seed" in wrong:
        assert f'value="{wrong["seed"]}"' in said(answer)


def test_any_trouble_follows_from_the_seed(client: Client, shop: SimpleNamespace) -> None:
    first = begun(client, **FREE | {"trouble": "any"})
    second = begun(client, **FREE | {"trouble": "any"})
    assert first.setup == second.setup and first.trouble != "any"
    page = said(client.get(reverse("practice:tree", args=[first.pk])))
    assert TROUBLES[first.trouble] not in page.split("</h1>")[0]
    sinew = begun(client, **FREE | {"pattern": "sinew", "trouble": "any", "seed": ""})
    assert 1 <= sinew.seed <= 999_999
    sent = said(
        client.get(reverse("practice:home") + "?pattern=longbow&wood=hazel&trouble=knot&seed=77")
    )
    assert 'value="77"' in sent and '<option value="knot" selected>' in sent


@pytest.mark.parametrize(
    ("act", "more", "words"),
    [
        ("read:weight", {}, "pull the rope and hold it"),
        ("down", {}, "The string is down already."),
        ("pull", {}, "Say how far."),
        ("pull", {"draw": "a lot"}, "could not be read"),
        ("pull", {"draw": "9000"}, "outside what is possible"),
        ("scrape", {"strokes": ""}, "Say how many strokes."),
        ("scrape", {"strokes": "900"}, "less than or equal to 200"),
        ("scrape", {"strokes": "5", "limb": "upper", "start": "1200", "end": "1300"},
         "does not lie on the limb"),
        ("scrape", {"strokes": "5", "limb": "both"}, "not one of the available"),
        ("mark:stiff", {}, "Say which limb"),
        ("read:edge", {"limb": "upper"}, "On a slack string no limb bends"),
        ("dance", {}, "There is no such act."),
        ("", {}, "required"),
        ("string", {"string": "full", "brace": "349"}, "brace height"),
        ("wait", {"hours": "nan"}, "Enter a number"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_answered_and_nothing_is_kept(
    client: Client, shop: SimpleNamespace, act: str, more: dict[str, str], words: str
) -> None:
    session = begun(client)
    answer = done(client, session, act, **more)
    assert answer.status_code == 422
    assert words in said(answer)
    for value in more.values():
        if value and value not in ("full", "both"):
            assert f'value="{value}"' in said(answer) or f'value="{value}" selected' in said(answer)
    assert not Done.objects.exists()


def test_two_pages_at_one_session(client: Client, shop: SimpleNamespace) -> None:
    """Whoever comes second is told so, sees how it stands, and nothing is done twice."""
    session = begun(client)
    assert done(client, session, "pull", number=1, draw="400").status_code == 302
    late = done(client, session, "scrape", number=1, strokes="20")
    assert late.status_code == 422 and "Another page went on with this session" in said(late)
    assert 'name="number" value="2"' in said(late)
    assert Done.objects.filter(session=session).count() == 1
    early = done(client, session, "down", number=7)
    assert early.status_code == 422 and Done.objects.count() == 1
    form_id = str(uuid4())
    for _ in range(2):  # the same form twice
        assert done(client, session, "down", number=2, form_id=form_id).status_code == 302
    assert Done.objects.filter(session=session).count() == 2


def test_half_typed_figures_of_another_act_do_not_stand_in_the_way(
    client: Client, shop: SimpleNamespace
) -> None:
    session = begun(client)
    assert done(client, session, "exercise", pulls="20", start="x", draw="y").status_code == 302


def test_a_guess_is_shown_beside_the_advice_and_the_truth(
    client: Client, shop: SimpleNamespace
) -> None:
    session = begun(client)
    done(client, session, "pull", draw="400")
    done(client, session, "read:weight")
    done(client, session, "read:edges")
    done(client, session, "guess", strokes="14", limb="lower", start="200", end="500")
    page = said(client.get(reverse("practice:tree", args=[session.pk])))
    assert "Your guess: guessed 14 strokes" in page and "Fellwind says" not in page
    done(client, session, "ask")
    page = said(client.get(reverse("practice:tree", args=[session.pk])))
    assert "Fellwind says" in page
    for one in ("what is really to come off", "your guess", "Fellwind, for this look"):
        assert one in page
    done(client, session, "down")
    done(client, session, "scrape", strokes="5")
    page = said(client.get(reverse("practice:tree", args=[session.pk])))
    assert "Fellwind says" not in page and "Your guess" not in page


def test_both_worlds_in_and_out(client: Client, shop: SimpleNamespace) -> None:
    session = begun(client)
    done(client, session, "pull", draw="16", page_world="imperial")
    assert Done.objects.get().data["value"] == pytest.approx(16 * 0.0254)
    person = session.person
    for world, unit in (("imperial", "16 in"), ("metric", "406 mm")):
        Person.objects.filter(pk=person.pk).update(world=world)
        for page in ("practice:tree", "practice:debrief"):
            assert unit in said(client.get(reverse(page, args=[session.pk]))), (world, page)


def test_lessons_are_listed_with_how_far_they_have_come(
    client: Client, shop: SimpleNamespace
) -> None:
    session = begun(client, lesson="limbs")
    services.go_on(session, 1, by_advice(session.setup))
    page = said(client.get(reverse("practice:home")))
    assert f"1 of {len(LESSONS)} seen" in page
    for lesson in LESSONS:
        assert lesson.title in page
    assert client.post(reverse("practice:begin"), {"lesson": "juggling"}).status_code == 422


def test_a_page_of_a_long_session_asks_little(
    client: Client, shop: SimpleNamespace, django_assert_max_num_queries
) -> None:  # type: ignore[no-untyped-def]
    session = begun(client)
    acts = by_advice(session.setup)
    services.go_on(session, 1, acts)
    assert len(acts) > 60
    address = reverse("practice:tree", args=[session.pk])
    client.get(address)
    with django_assert_max_num_queries(12):
        assert client.get(address).status_code == 200


def test_all_or_none_of_several_acts(shop: SimpleNamespace, client: Client) -> None:
    session = begun(client)
    with pytest.raises(services.PracticeError):
        services.go_on(session, 1, [Act("pull", value=0.4), Act("scrape", value=5)])
    assert not Done.objects.exists()


def test_the_oldest_of_very_many_sessions_is_forgotten(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(services, "MOST_SESSIONS", 3)
    person = begun(client).person
    first = Session.objects.get()
    for seed in range(1, 5):
        services.new_session(person, Setup("flatbow", "hazel", "clear", seed))
    assert Session.objects.count() == 3
    assert not Session.objects.filter(pk=first.pk).exists()
