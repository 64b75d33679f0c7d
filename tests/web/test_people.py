"""Who may do what, and how they come in."""

import logging
from types import SimpleNamespace
from uuid import uuid4

import pytest
from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.cache import cache
from django.core.exceptions import ValidationError
from django.test import Client
from django.urls import get_resolver, resolve, reverse
from django.utils import timezone

from fellwind.builds.models import Build, Entry, Wait
from fellwind.demo.loader import load
from fellwind.kit.permissions import ROLES, may_write
from fellwind.kit.private import NoTokens
from fellwind.kit.rooms import room_of
from fellwind.people import doorway
from fellwind.people.models import Invitation, Person
from fellwind.rack.models import Flaw, Section, Stave
from fellwind.shop.models import Archer, Gear, Workshop
from fellwind.strings.models import BowString
from tests.conftest import signed_in
from tests.screens import screens
from tests.web.forms import ARCHER, made_from, pages

FORMS = {"builds:start", "designs:new", "designs:edit"}  # pages that only ask for writing
OPEN = {"login", "open", "join", "away", "feed", "hear"}  # feed and hear ask for a token


def test_nothing_is_read_without_signing_in(shop: SimpleNamespace) -> None:
    stranger = Client(HTTP_HOST="127.0.0.1")
    for page in pages(shop):
        answer = stranger.get(page)
        assert answer.status_code == 302, page
        assert answer["Location"].startswith("/login/"), page


def test_every_address_but_the_door_needs_a_person() -> None:
    """No view is opened to strangers by mistake: only those named here."""
    opened = []
    for app in get_resolver().url_patterns:
        for pattern in app.url_patterns:
            if not getattr(pattern.callback, "login_required", True):
                opened.append(pattern.name)
    assert set(opened) == OPEN


def test_each_role_reads_everything(shop: SimpleNamespace) -> None:
    for role in ("maker", "helper", "guest"):
        client = signed_in(getattr(shop.people, role))
        for page in pages(shop):
            match = resolve(page)
            may = may_write(role, room_of(match.app_name))
            expected = 200 if may or match.view_name not in FORMS else 403
            assert client.get(page).status_code == expected, (role, page)


def test_every_screen_of_every_room_answers_every_role(db: None) -> None:
    """Asked of the register, so that a new room is asked as well."""
    load()
    visited = screens()
    assert len(visited) > 35
    roles = {role: Person.objects.create_user(f"a {role}", role=role) for role in ROLES}
    for role, person in roles.items():
        client = signed_in(person)
        for page in visited:
            match = resolve(page.partition("?")[0])
            room = room_of(match.app_name)
            expected = {200} if may_write(role, room) else {200, 403}
            if room is not None and room.own:
                expected = {404} if match.kwargs else {200}  # another's session
            assert client.get(page).status_code in expected, (role, page)
    stranger = Client(HTTP_HOST="127.0.0.1")
    for page in visited:
        assert stranger.get(page)["Location"].startswith("/login/"), page


def test_a_guest_writes_nothing(shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    for name, kwargs in (
        ("shop:archer_new", {}),
        ("shop:shop", {}),
        ("people:invite", {}),
        ("rack:new", {}),
        ("rack:detail", {"number": 1}),
        ("designs:new", {}),
        ("designs:edit", {"pk": shop.design.pk}),
        ("designs:preview_new", {}),
        ("builds:start", {}),
        ("builds:keep", {"number": 1}),
        ("builds:next", {"number": 1}),
        ("builds:tick", {"number": 1}),
        ("builds:wait", {"number": 1}),
        ("builds:prove", {"number": 1}),
        ("tiller:reading", {"number": 1}),
        ("tiller:removal", {"number": 1}),
        ("tiller:pulls", {"number": 1}),
        ("strings:sheet", {"number": 1}),
    ):
        answer = guest.post(reverse(name, kwargs=kwargs), {"line": "25 pulls"})
        assert answer.status_code == 403, name
        assert b"another role" in answer.content
    shop.build.refresh_from_db()
    assert shop.build.stage == "tiller"
    assert not shop.build.entries.exists()


def test_a_guest_sees_no_form_to_write_with(shop: SimpleNamespace) -> None:
    page = signed_in(shop.people.guest).get(reverse("tiller:screen", args=[1])).content.decode()
    main = page.split("<main")[1].split("</main>")[0]
    assert "Write down" not in main and "<form" not in main
    assert 'id="pencil"' not in page


def test_a_helper_writes_at_the_bench_but_does_not_run_the_shop(shop: SimpleNamespace) -> None:
    helper = signed_in(shop.people.helper)
    line = {"line": "25 pulls", "page_world": "imperial", "client_id": str(uuid4())}
    assert helper.post(reverse("builds:keep", args=[1]), line).status_code == 302
    assert Entry.objects.get().by == shop.people.helper
    design = [shop.design.pk]
    for where in (
        reverse("shop:shop"), reverse("shop:gear_new"), reverse("people:invite"),
        reverse("shop:archer_new"), reverse("designs:new"), reverse("designs:edit", args=design),
        reverse("designs:marks", args=design), reverse("designs:import"),
    ):  # fmt: skip
        answer = helper.post(where, ARCHER | {"role": "maker"})
        assert answer.status_code == 403, where
        assert b"A helper writes at the bench" in answer.content
    assert not Gear.objects.exists() and not Invitation.objects.exists()


def test_a_one_time_link_works_once(people: SimpleNamespace) -> None:
    token = Invitation.issue("helper")
    stranger = Client(HTTP_HOST="127.0.0.1")
    where = reverse("people:join", args=[token])
    weak = stranger.post(where, {"username": "Nils", "password1": "12345", "password2": "12345"})
    assert weak.status_code == 422 and b"too short" in weak.content
    unlike = stranger.post(
        where,
        {"username": "Nils", "password1": "heather on the fell", "password2": "something else"},
    )
    assert unlike.status_code == 422
    taken = stranger.post(
        where,
        {
            "username": "MAKER",
            "password1": "heather on the fell",
            "password2": "heather on the fell",
        },
    )
    assert b"has that name already" in taken.content
    joined = stranger.post(
        where,
        {
            "username": "Nils",
            "password1": "heather on the fell",
            "password2": "heather on the fell",
        },
    )
    assert joined.status_code == 302
    assert Person.objects.get(username="Nils").role == "helper"
    assert stranger.get("/").status_code == 200
    assert Client(HTTP_HOST="127.0.0.1").get(where).status_code == 410
    assert token not in Invitation.objects.get().digest


def test_an_old_or_made_up_link_is_shut(people: SimpleNamespace) -> None:
    token = Invitation.issue("maker")
    Invitation.objects.update(made=Invitation.objects.get().made - Invitation.LASTS)
    for wrong in (token, "x" * 32):
        assert (
            Client(HTTP_HOST="127.0.0.1").get(reverse("people:join", args=[wrong])).status_code
            == 410
        )


PASSWORD = "heather on the fell"


def sign_in(browser: Client, name: str, password: str, where: str = "10.0.0.5") -> int:
    """The status of a try to sign in."""
    sent = {"username": name, "password": password}
    return browser.post("/login/", sent, REMOTE_ADDR=where).status_code


@pytest.fixture
def door(people: SimpleNamespace) -> Client:
    for one in (people.maker, people.helper):
        one.set_password(PASSWORD)
        one.save()
    return Client(HTTP_HOST="127.0.0.1")


def test_tries_in_one_name_are_slowed_wherever_they_come_from(door: Client) -> None:
    for k in range(9):
        assert sign_in(door, "maker", "wrong", f"10.0.0.{k}") == 200
    assert sign_in(door, "maker", "wrong", "10.0.1.1") == 429
    assert sign_in(door, "maker", PASSWORD, "10.0.1.2") == 429
    assert sign_in(door, "helper", PASSWORD, "10.0.1.2") == 302


def test_spraying_names_from_one_address_is_slowed(door: Client) -> None:
    assert [sign_in(door, f"name {k}", "wrong") for k in range(10)] == [200] * 9 + [429]
    answer = door.post(
        "/login/", {"username": "maker", "password": PASSWORD}, REMOTE_ADDR="10.0.0.5"
    )
    assert answer.status_code == 429 and b"quarter of an hour" in answer.content
    # what a request says of itself is nobody's word
    forged = {"REMOTE_ADDR": "10.0.0.5", "HTTP_X_FORWARDED_FOR": "10.9.9.9"}
    sent = {"username": "maker", "password": PASSWORD}
    assert door.post("/login/", sent, **forged).status_code == 429
    assert sign_in(door, "maker", PASSWORD, "10.0.0.6") == 302


def test_nobody_shuts_a_maker_out_of_their_own_browser(door: Client) -> None:
    cache.clear()
    own = Client(HTTP_HOST="127.0.0.1")
    assert sign_in(own, "maker", PASSWORD) == 302
    own.post("/logout/")
    while sign_in(door, "maker", "wrong") != 429:
        pass
    assert sign_in(door, "maker", PASSWORD) == 429
    assert sign_in(own, "maker", PASSWORD) == 302
    # in other hands it has few tries as well, and knows nobody else's name
    own.post("/logout/")
    assert sign_in(own, "helper", PASSWORD) == 429
    assert sign_in(own, "maker", PASSWORD) == 302
    own.post("/logout/")
    assert [sign_in(own, "maker", "wrong") for _ in range(11)][-1] == 429
    assert sign_in(own, "maker", PASSWORD) == 429
    stolen = Client(HTTP_HOST="127.0.0.1")
    stolen.cookies[doorway.COOKIE] = "maker:made:up"
    assert sign_in(stolen, "maker", PASSWORD) == 429


@pytest.mark.parametrize(
    ("password", "says"),
    [
        ("passwordpassword", "again and again"),
        ("aaaaaaaaaaaaaa", "again and again"),
        ("Ab1!Ab1!Ab1!A", "again and again"),
        ("dragondragon", "again and again"),
        ("heather", "too short"),
        ("1234567890", "too common"),
        ("curlew over the moss", ""),
        ("tern tern over tern", ""),
    ],
)
def test_a_password_is_long_and_no_common_one_of_any_repetition(password: str, says: str) -> None:
    try:
        validate_password(password)
    except ValidationError as error:
        assert says and says in " ".join(error.messages)
    else:
        assert not says


def test_a_session_cannot_be_taken_from_the_data(door: Client) -> None:
    assert sign_in(door, "maker", PASSWORD) == 302
    (row,) = Session.objects.all()
    key = door.cookies["sessionid"].value
    assert row.session_key != key and key not in row.session_data
    thief = Client(HTTP_HOST="127.0.0.1")
    thief.cookies["sessionid"] = row.session_key
    assert thief.get("/").status_code == 302 and door.get("/").status_code == 200
    door.post("/logout/")
    assert not Session.objects.exists()


def test_the_sessions_of_a_shut_account_end_and_stay_so(people: SimpleNamespace) -> None:
    maker, helper = signed_in(people.maker), signed_in(people.helper)
    where = reverse("people:person", args=[people.helper.pk])
    assert helper.get("/").status_code == 200
    maker.post(where, {"role": "shut"})
    assert helper.get("/").status_code == 302
    maker.post(where, {"role": "helper"})
    assert helper.get("/").status_code == 302


def test_pages_are_nobody_elses(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    for page in (*pages(shop)[:3], "/login/", "/nowhere/"):
        answer = client.get(page)
        assert "no-store" in answer["Cache-Control"], page
        head = client.head(page)
        assert head.status_code == answer.status_code and head.content == b""
    assert client.head("/designs/")["Content-Length"] == str(len(client.get("/designs/").content))


def test_no_log_tells_an_invitation(caplog: pytest.LogCaptureFixture, db: None) -> None:
    token = Invitation.issue("maker")
    record = logging.LogRecord(
        "django.request", 30, "", 1, "%s: %s", ("No", f"/join/{token}/"), None
    )
    assert NoTokens().filter(record) and record.getMessage() == "No: /join/…/"
    handlers = settings.LOGGING["handlers"].values()
    assert all("no tokens" in one["filters"] for one in handlers)


@pytest.mark.parametrize(
    ("referer", "leads"),
    [
        ("http://127.0.0.1/staves/?page=2", "/staves/?page=2"),
        ("http://127.0.0.1//elsewhere.example/x", "/"),
        ("http://127.0.0.1/\\elsewhere.example", "/"),
        ("http://elsewhere.example/staves/", "/"),
        ("http://[", "/"),
        ("javascript:alert(1)", "/"),
    ],
)
def test_switches_lead_back_within_the_shop(
    people: SimpleNamespace, referer: str, leads: str
) -> None:
    client = signed_in(people.guest)
    for switch in ("/units/", "/theme/"):
        assert client.post(switch, HTTP_REFERER=referer)["Location"] == leads


def test_what_is_too_large_is_refused_before_it_is_read(people: SimpleNamespace) -> None:
    stranger, maker = Client(HTTP_HOST="127.0.0.1"), signed_in(people.maker)
    large = {"CONTENT_LENGTH": str(200_000_000)}
    for client, where in ((stranger, "/login/"), (maker, "/staves/1/photos/keep/"), (maker, "/")):
        assert client.post(where, b"", content_type="text/plain", **large).status_code == 413
    odd = {"CONTENT_LENGTH": "9" * 5000}
    assert stranger.post("/login/", b"", content_type="text/plain", **odd).status_code == 413


def test_names_that_fold_to_one_are_one(people: SimpleNamespace) -> None:
    stranger = Client(HTTP_HOST="127.0.0.1")
    token = Invitation.issue("helper")
    where = reverse("people:join", args=[token])
    for name in ("ｍａｋｅｒ", "MAKER", "maKer"):
        sent = {"username": name, "password1": PASSWORD, "password2": PASSWORD}
        answer = stranger.post(where, sent)
        assert answer.status_code == 422 and "has that name already" in answer.content.decode()


def test_signing_in_with_a_password(people: SimpleNamespace) -> None:
    people.maker.set_password("heather on the fell")
    people.maker.save()
    door = Client(HTTP_HOST="127.0.0.1")
    assert (
        door.post("/login/", {"username": "maker", "password": "heather on the fell"})["Location"]
        == "/"
    )
    assert people.maker.password.startswith("argon2")
    assert door.post("/logout/").status_code == 302
    assert door.get("/").status_code == 302


def test_the_demo_button_is_only_in_the_demo(people: SimpleNamespace, settings: object) -> None:
    door = Client(HTTP_HOST="127.0.0.1")
    assert door.post("/demo/").status_code == 404
    settings.DEMO = True  # type: ignore[attr-defined]
    assert door.post("/demo/")["Location"] == "/"
    assert door.get("/").status_code == 200


def test_pages_carry_a_policy_without_inline_code(shop: SimpleNamespace) -> None:
    client = signed_in(shop.people.maker)
    for page in pages(shop):
        answer = client.get(page)
        policy = answer["Content-Security-Policy"]
        assert "unsafe" not in policy and "default-src 'none'" in policy
        assert answer["X-Frame-Options"] == "DENY"
        if answer["Content-Type"].startswith("text/html"):
            text = answer.content.decode()
            assert " style=" not in text and " onclick=" not in text and "<style" not in text, page
            assert "<script>" not in text and "//" not in text.split("<body")[0].replace(
                "http://www.w3.org", ""
            ), page


def test_forms_without_the_token_are_refused(shop: SimpleNamespace) -> None:
    strict = Client(enforce_csrf_checks=True, HTTP_HOST="127.0.0.1")
    strict.force_login(shop.people.maker, "django.contrib.auth.backends.ModelBackend")
    assert strict.post(reverse("builds:next", args=[1]), {"stage": "tiller"}).status_code == 403
    assert strict.post("/units/").status_code == 403


def test_an_archers_draw_is_kept_to_the_grip_with_the_ruler_it_came_on(maker: Client) -> None:
    assert maker.post(reverse("shop:archer_new"), ARCHER).status_code == 302
    ylva = Archer.objects.get()
    assert ylva.draw == pytest.approx(27 * 0.0254)
    assert (ylva.draw_text, ylva.draw_ruler, ylva.weight_text) == ("28 3/4 in", "trade", "40#")
    page = maker.get(reverse("shop:archer", args=[ylva.pk])).content.decode()
    assert "27 in to the deepest part" in page and "28 ¾ in" in page
    assert 'value="28 3/4"' in page


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"draw": ""}, "This field is required"),
        ({"draw": "far"}, "could not be read"),
        ({"draw": "27 lb"}, "not a unit of length"),
        ({"draw": "270"}, "outside what is possible"),
        ({"draw": "-27"}, "outside what is possible"),
        ({"weight": "900"}, "outside what is possible"),
        ({"weight": "42 in"}, "not a unit of draw weight"),
        ({"fingers": "toes"}, "not one of the available choices"),
        ({"name": ""}, "This field is required"),
    ],
)
def test_a_wrong_figure_gets_its_sentence_and_loses_nothing(
    maker: Client, change: dict[str, str], says: str
) -> None:
    answer = maker.post(reverse("shop:archer_new"), ARCHER | {"notes": "Keeps bees"} | change)
    text = answer.content.decode()
    assert answer.status_code == 422
    assert says in text
    assert "Keeps bees" in text
    assert not Archer.objects.exists()


def test_gear_air_and_habits_are_kept(maker: Client) -> None:
    gear = {
        "name": "Rope",
        "kind": "rope",
        "rating": "120 kg",
        "in_use": "on",
        "page_world": "imperial",
    }
    assert maker.post(reverse("shop:gear_new"), gear).status_code == 302
    assert Gear.objects.get().rating == pytest.approx(120 * 9.80665)
    shop = {
        "name": "Loft",
        "air_celsius": "64.4",
        "air_humidity": "62 %",
        "denominator": "32",
        "paper": "Letter",
        "finishing_loss": "5",
        "shooting_loss": "3",
        "page_world": "imperial",
    }
    shop |= made_from(Workshop.get())
    assert maker.post(reverse("shop:shop"), shop).status_code == 302
    kept = Workshop.get()
    assert kept.air_celsius == pytest.approx(18.0)
    assert (kept.air_humidity, kept.denominator, kept.paper, kept.finishing_loss) == (
        0.62,
        32,
        "Letter",
        0.05,
    )
    bad = maker.post(reverse("shop:shop"), shop | {"air_humidity": "162", "air_celsius": "hot"})
    assert bad.status_code == 422
    assert "at most 100 %" in bad.content.decode() and "could not be read" in bad.content.decode()


CREATING = {
    "shop:archer_new": ({}, Archer, ARCHER),
    "rack:new": (
        {},
        Stave,
        {
            "kind": "board",
            "material": "white ash",
            "length": "68",
            "width": "2",
            "depth": "1",
            "acquired": "2026-01-05",
            "reflex": "0",
            "page_world": "imperial",
        },
    ),
    "builds:start": (
        {},
        Build,
        {
            "name": "Second",
            "design": "",
            "school": "W",
            "draw_ruler": "pivot",
            "page_world": "imperial",
        },
    ),
    "builds:wait": (
        {"number": 1},
        Wait,
        {"what": "Glue cures", "until": f"{timezone.localtime().year + 1}-12-01T10:00"},
    ),
    "rack:flaw_keep": (
        {"number": 1},
        Flaw,
        {
            "kind": "tight knot",
            "face": "back",
            "at": "20",
            "off": "0",
            "length": "1/2",
            "width": "3/8",
            "depth": "1/4",
            "flaw": "",
            "page_world": "imperial",
        },
    ),
    "rack:section_keep": (
        {"number": 1},
        Section,
        {"at": "30", "width": "2 1/2", "page_world": "imperial"},
    ),
    "strings:sheet": (
        {"number": 1},
        BowString,
        {
            "role": "working",
            "kind": "continuous loop",
            "thread": "linen",
            "brace_height": "6",
            "page_world": "imperial",
        },
    ),
}


@pytest.mark.parametrize("name", CREATING)
def test_the_same_form_sent_twice_counts_once(shop: SimpleNamespace, name: str) -> None:
    kwargs, model, content = CREATING[name]
    content = (
        content
        | {"form_id": str(uuid4())}
        | ({"design": shop.design.pk} if name == "builds:start" else {})
    )
    client, before = signed_in(shop.people.maker), model.objects.count()
    first, second = (client.post(reverse(name, kwargs=kwargs), content) for _ in range(2))
    assert first.status_code == second.status_code == 302
    assert first["Location"] == second["Location"]
    assert model.objects.count() == before + 1
    fresh = client.post(reverse(name, kwargs=kwargs), content | {"form_id": str(uuid4())})
    assert fresh.status_code == 302 and model.objects.count() == before + 2


def test_a_refused_form_may_be_sent_again(maker: Client) -> None:
    form_id = str(uuid4())
    assert (
        maker.post(
            reverse("shop:archer_new"), ARCHER | {"draw": "far", "form_id": form_id}
        ).status_code
        == 422
    )
    assert maker.post(reverse("shop:archer_new"), ARCHER | {"form_id": form_id}).status_code == 302
    assert (
        maker.post(reverse("shop:archer_new"), ARCHER | {"form_id": "not an id"}).status_code == 302
    )
    assert Archer.objects.count() == 2


def test_roles_change_and_the_last_maker_stays(people: SimpleNamespace, maker: Client) -> None:
    def change(who: Person, role: str) -> int:
        return maker.post(reverse("people:person", args=[who.pk]), {"role": role}).status_code

    assert change(people.guest, "helper") == 302
    people.guest.refresh_from_db()
    assert people.guest.role == "helper"
    assert change(people.helper, "shut") == 302
    assert signed_in(people.helper).get("/").status_code == 302
    assert change(people.maker, "guest") == 302
    people.maker.refresh_from_db()
    assert people.maker.role == "maker"
    assert change(people.guest, "king") == 404
    assert (
        signed_in(people.guest)
        .post(reverse("people:person", args=[people.maker.pk]), {"role": "guest"})
        .status_code
        == 403
    )


def test_a_password_is_changed_by_its_owner(people: SimpleNamespace) -> None:
    people.helper.set_password("heather on the fell")
    people.helper.save()
    client = signed_in(people.helper)
    new = {
        "old_password": "heather on the fell",
        "new_password1": "bracken by the burn",
        "new_password2": "bracken by the burn",
    }
    assert (
        client.post(reverse("people:password"), new | {"old_password": "guess"}).status_code == 200
    )
    assert client.post(reverse("people:password"), new).status_code == 302
    people.helper.refresh_from_db()
    assert people.helper.check_password("bracken by the burn")
