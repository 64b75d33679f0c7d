"""The house itself: rooms that register themselves, one table of roles, keys of kept results, forms
that count once.
"""

import errno
import os
import pickle
import subprocess
import sys
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from uuid import uuid4

import numpy as np
import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.bow.layout import Layout
from bowyery.errors import DesignError
from bowyery.units.quantity import INCH
from fellwind.designs import answers, services
from fellwind.kit import cache
from fellwind.kit.checked_cache import CheckedCache
from fellwind.kit.models import SentForm
from fellwind.kit.permissions import GUEST, HELPER, MAKER, ROLES, Role, may_write, rights
from fellwind.kit.rooms import rooms
from fellwind.shop.models import Archer
from tests.conftest import signed_in
from tests.web.forms import ARCHER, design_form

ROOT = Path(__file__).parents[2]

APPS = """
from django.apps import AppConfig
from fellwind.kit.rooms import Room, TodayPart

class Config(AppConfig):
    name = "arrows"
    room = Room(key="arrows", title="Arrows", address={"arrows/": "arrows.urls"},
    home="arrows:list",
                order=45, part="bench", today="arrows.views:parts")
"""
URLS = """
from django.urls import path
from arrows import views

app_name = "arrows"
urlpatterns = [path("", views.arrows, name="list")]
"""
VIEWS = """
from dataclasses import dataclass
from django.shortcuts import render
from django.urls import reverse
from fellwind.kit.rooms import TodayPart

@dataclass
class Drying:
    shafts: str = "Twelve"

def arrows(request):
    return render(request, "arrows.html")

def parts(now, shown):
    return [TodayPart("arrows_today.html", Drying(), 35)]

"""
# What a shop with the room must show, asked in a process of its own.
ASKED = """
import django
django.setup()
from django.core.management import call_command
from django.test import Client
call_command("migrate", verbosity=0)
from fellwind.people.models import Person
for role in ("maker", "guest"):
    client = Client(HTTP_HOST="127.0.0.1")
    person = Person.objects.create_user(role, role=role)
    client.force_login(person, "django.contrib.auth.backends.ModelBackend")
    room = client.get("/arrows/")
    assert room.status_code == 200 and "Arrows go here" in room.content.decode()
    home = client.get("/").content.decode()
    assert '<a href="/arrows/" >Arrows</a>' in home, home
    assert "Twelve shafts dry" in home
    assert client.post("/arrows/").status_code == (200 if role == "maker" else 403)
"""


def test_a_new_room_is_one_folder_and_one_line_in_the_settings(tmp_path: Path) -> None:
    """Address, navigation, its part of Today, rights and the list of screens follow from the
    room.
    """
    room = tmp_path / "arrows"
    (room / "templates").mkdir(parents=True)
    (room / "__init__.py").touch()
    for name, content in (("apps.py", APPS), ("urls.py", URLS), ("views.py", VIEWS)):
        (room / name).write_text(content)
    page = '{% extends "base.html" %}{% block main %}<h1>Arrows go here</h1>{% endblock %}'
    (room / "templates" / "arrows.html").write_text(page)
    (room / "templates" / "arrows_today.html").write_text("<p>{{ shafts }} shafts dry</p>")
    line = 'from fellwind.settings import *\nINSTALLED_APPS = [*INSTALLED_APPS, "arrows"]\n'
    (tmp_path / "with_arrows.py").write_text(line)
    env = os.environ | {
        "PYTHONPATH": f"{ROOT / 'src'}:{tmp_path}", "DJANGO_SETTINGS_MODULE": "with_arrows",
        "FELLWIND_HOME": str(tmp_path),
    }  # fmt: skip
    run = subprocess.run(
        [sys.executable, "-c", ASKED], env=env, capture_output=True, text=True, check=False
    )
    assert run.returncode == 0, run.stderr


@pytest.mark.parametrize(
    ("role", "writes"),
    [
        (
            MAKER,
            {
                "shop",
                "people",
                "rack",
                "designs",
                "builds",
                "tiller",
                "strings",
                "instruments",
                "sight",
                "ledger",
                "demo",
            },
        ),
        (HELPER, {"rack", "builds", "tiller", "strings", "instruments", "sight"}),
        (GUEST, set()),
    ],
)
def test_a_role_writes_in_the_rooms_that_the_table_gives_it(role: str, writes: set[str]) -> None:
    assert {key for key, may in rights(role).items() if may} == writes
    assert not any(rights(None).values())
    assert not may_write(role, None)
    assert ROLES[role].refusal.endswith(".")


def test_a_new_role_is_one_row(monkeypatch: pytest.MonkeyPatch) -> None:
    planner = Role("planner", ("plan",), "who draws bows", "A planner draws bows.")
    monkeypatch.setitem(ROLES, planner.name, planner)
    assert {key for key, may in rights("planner").items() if may} >= {"designs"}


def test_every_part_of_the_work_has_somebody_who_may_do_it() -> None:
    parts = {part for role in ROLES.values() for part in role.writes}
    assert {room.part for room in rooms()} - {"nobody"} == parts


@dataclass(frozen=True)
class _Pair:
    one: object
    other: object


def test_the_key_of_a_result_is_its_content() -> None:
    """Alike inputs give one key, however they were made; nothing unlike shares one."""
    layout = Layout(67 * INCH)
    assert cache.digest_of(layout) == cache.digest_of(replace(layout, length=67 * INCH))
    unlike: list[object] = [
        layout, replace(layout, length=67.0001 * INCH), None, 0, 0.0, False, "", b"", "0", (), (0,),
        ((0,),), (0, 0), {"a": 0}, {"a": "0"}, np.zeros(2), np.zeros((2, 1)), np.zeros(2, int),
        _Pair("ab", "c"), _Pair("a", "bc"), ("ab", "c"), ("a", "bc"), -0.0, 1e-300,
    ]  # fmt: skip
    keys = [cache.digest_of(one) for one in unlike]
    assert len(set(keys)) == len(unlike)
    view = np.arange(10.0)[::2]
    assert cache.digest_of(view) == cache.digest_of(view.copy())
    with pytest.raises(TypeError, match="cannot be told"):
        cache.digest_of(lambda: 0)


def test_another_core_computes_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []

    def compute() -> int:
        made.append(1)
        return len(made)

    inputs = str(uuid4())
    assert [cache.computed("x", inputs, compute) for _ in range(2)] == [1, 1]
    monkeypatch.setattr(cache, "core_digest", lambda: b"the core of another day")
    assert cache.computed("x", inputs, compute) == 2
    assert cache.computed("y", inputs, compute) == 3  # another computation of the same inputs
    assert cache.computed("z", inputs, compute, keep=False) == 4
    assert cache.computed("z", inputs, compute) == 5


def test_a_refusal_of_the_core_is_kept_and_given_again() -> None:
    asked: list[int] = []

    def refuse() -> None:
        asked.append(1)
        raise DesignError("No such bow.")

    inputs = str(uuid4())
    for _ in range(2):
        with pytest.raises(DesignError, match="No such bow"):
            cache.computed("refused", inputs, refuse)
    assert len(asked) == 1


def test_ids_of_sent_forms_are_let_go_after_a_week(client: Client, shop: SimpleNamespace) -> None:
    rows = [(uuid4(), days) for days in (8, 6)]
    for form_id, days in rows:
        row = SentForm.objects.create(form_id=form_id, person=shop.people.maker, location="/shop/")
        SentForm.objects.filter(pk=row.pk).update(at=timezone.now() - timedelta(days=days))
    sent = ARCHER | {"form_id": str(uuid4())}
    assert client.post(reverse("shop:archer_new"), sent).status_code == 302
    kept = {str(key) for key in SentForm.objects.values_list("form_id", flat=True)}
    assert kept == {str(rows[1][0]), sent["form_id"]}


def test_a_form_and_its_id_are_kept_both_or_neither(
    shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The power goes after the row was written and before the answer: the form may be sent
    again.
    """

    def fails(*args: object, **kwargs: object) -> None:
        raise OSError("no power")

    client = signed_in(shop.people.maker)
    client.raise_request_exception = False
    sent = ARCHER | {"form_id": str(uuid4())}
    with monkeypatch.context() as broken:
        broken.setattr("fellwind.shop.views.redirect", fails)
        assert client.post(reverse("shop:archer_new"), sent).status_code == 500
    assert not Archer.objects.filter(name=ARCHER["name"]).exists()
    assert not SentForm.objects.filter(form_id=sent["form_id"]).exists()
    for _ in range(2):
        assert client.post(reverse("shop:archer_new"), sent).status_code == 302
    assert Archer.objects.filter(name=ARCHER["name"]).count() == 1


@pytest.mark.parametrize(
    ("where", "entry"),
    [
        ("/", "Today"),
        ("/staves/1/", "Staves"),
        ("/staves/1/fit/", "Staves"),  # the design room's page, at the stave's address
        ("/builds/1/tiller/", "Builds"),
        ("/builds/1/photographed/", "Builds"),
        ("/staves/1/line/", "Staves"),
        ("/password/", "Shop"),
    ],
)
def test_a_page_is_found_where_the_navigation_says(client: Client, where: str, entry: str) -> None:
    page = client.get(where).content.decode()
    lit = [line for line in page.splitlines() if 'aria-current="page"' in line]
    assert len(lit) == 1 and f">{entry}</a>" in lit[0]


@pytest.mark.parametrize(("length", "count"), [("68", 1), ("40", 2)])
def test_nobody_waits_for_the_database_while_a_design_is_solved(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch, length: str, count: int
) -> None:
    """A bow that cannot be built takes seconds to say so, with the nearest that can: the core is
    asked before the form's id is written, and not again while it is.
    """
    outside, asked = len(connection.savepoint_ids), []

    def watched(real: Callable[..., object]) -> Callable[..., object]:
        def solve(*args: object, **kwargs: object) -> object:
            asked.append(len(connection.savepoint_ids) - outside)
            return real(*args, **kwargs)

        return solve

    for module, name in ((services, "solve_design"), (answers, "nearest")):
        monkeypatch.setattr(module, name, watched(getattr(module, name)))
    sent = design_form(shop.design, length=length, weight="42.37", form_id=str(uuid4()))
    where = reverse("designs:edit", args=[shop.design.pk])
    assert client.post(where, sent).status_code == 302
    assert len(asked) == count and set(asked) == {0}


@pytest.mark.parametrize("harm", ["empty", "short", "long", "flipped", "foreign", "former"])
def test_a_damaged_cache_file_is_a_miss(tmp_path: Path, harm: str) -> None:
    """Seen: a file torn by a power cut took its page down until somebody deleted it."""
    store = CheckedCache(str(tmp_path), {})
    store.set("one", {"weight": list(range(500))}, None)
    (file,) = tmp_path.glob("*.djcache")
    whole = file.read_bytes()
    bodies = {
        "empty": [b""],
        "short": [whole[:k] for k in (1, 31, 32, 40, len(whole) // 2, len(whole) - 1)],
        "long": [whole + b"x"],
        "flipped": [whole[:k] + bytes([whole[k] ^ 64]) + whole[k + 1 :] for k in (0, 33, 60, 200)],
        "foreign": [b"\x80\x04N." + os.urandom(300)],
        "former": [pickle.dumps(None) + zlib.compress(pickle.dumps(1))],
    }
    for body in bodies[harm]:
        file.write_bytes(body)
        assert store.get("one", "nothing") == "nothing" and not file.exists()
        assert store.get("one") is None
        store.set("one", [1, 2], None)
        assert store.get("one") == [1, 2]
        store.set("two", 2, 0.001)
        time.sleep(0.01)
        assert store.get("two") is None and not store.has_key("two")


def test_a_full_disk_keeps_no_results_and_still_answers(monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(CheckedCache, "_write_content", full)
    assert [cache.computed("full", uuid4().hex, lambda: 7) for _ in range(2)] == [7, 7]


def test_a_full_disk_says_so_and_the_same_form_counts_once_there_is_room(
    client: Client, shop: SimpleNamespace
) -> None:
    sent = ARCHER | {"form_id": str(uuid4()), "notes": "x" * 1900}
    before = Archer.objects.count()
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA page_count")
        pages = cursor.fetchone()[0]
        for _ in range(400):  # leave no room in the pages that there are
            cursor.execute(f"PRAGMA max_page_count = {pages}")
            answer = client.post(reverse("shop:archer_new"), sent)
            if answer.status_code != 302:
                break
            sent["form_id"] = str(uuid4())
            before += 1
        assert answer.status_code == 507
        assert "The disk is full, and this was not kept" in answer.content.decode()
        assert Archer.objects.count() == before
        assert not SentForm.objects.filter(form_id=sent["form_id"]).exists()
        cursor.execute("PRAGMA max_page_count = 1073741823")
    for _ in range(2):
        assert client.post(reverse("shop:archer_new"), sent).status_code == 302
    assert Archer.objects.count() == before + 1
