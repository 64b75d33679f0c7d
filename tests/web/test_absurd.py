"""Absurd figures in every field of every form: an answer, never a fault, and nothing half
written.
"""

import math
from collections.abc import Iterator
from copy import copy
from types import SimpleNamespace
from typing import Any
from uuid import uuid4

import pytest
from django.apps import apps
from django.core.exceptions import ValidationError
from django.db.models import FloatField
from django.forms import BaseForm
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from fellwind.builds.models import Build, Entry
from fellwind.designs.models import Design
from fellwind.kit.measures import Measured
from fellwind.shop.models import Archer
from fellwind.strings.forms import PartForm
from fellwind.strings.models import BowString, Thread
from tests.web.forms import ARCHER, CHECK, STAVE, design_form, marks_form

ABSURD = [
    "",
    " ",
    "0",
    "-1",
    "nan",
    "inf",
    "1e400",
    "∞",
    "½",
    "é",
    "<script>alert(1)</script>",
    "9" * 60,
    "1/0",
    "0/0",
    "null",
    "\x00",
    "12 in 3 mm 4",
    "None",
    "[]",
    "12,34,56",
    "٣",
    "1_000",
    "+5",
    "5'",
    "--",
    "1 1/2/3",
    "０",
    "💥",
    "' OR 1=1 --",
    "../../etc",
    "-0",
]


def forms(shop: SimpleNamespace) -> dict[str, tuple[str, dict[str, str]]]:
    """Every form with contents that would be taken."""
    build = [shop.build.number]
    string = BowString.objects.create(build=shop.build, fibre="linen", brace_height=0.15)
    thread = Thread.objects.create(name="linen of ours", fibre="linen").pk
    reading = CHECK | {
        "reading-string": "full",
        "reading-string_at": "6",
        "reading-upper_tip": "8",
        "reading-lower_tip": "8",
        "reading-client_id": str(uuid4()),
    }
    removal = {
        f"removal-{k}": v
        for k, v in {
            "limb": "upper",
            "strokes": "5",
            "thickness": "",
            "start": "5",
            "end": "9",
            "pulls": "20",
            "minutes": "5",
            "page_world": "imperial",
            "client_id": str(uuid4()),
        }.items()
    }
    proof = {
        "weight": "42",
        "brace_height": "6",
        "mass": "20",
        "string_follow": "1",
        "follow_after": "1/2",
        "arrow_mass": "500",
        "arrow_speed": "150",
        "shots": "10",
        "words": "soft",
        "page_world": "imperial",
        "client_id": str(uuid4()),
    }
    return {
        "archer": (reverse("shop:archer_new"), ARCHER | {"notes": "x"}),
        "gear": (
            reverse("shop:gear_new"),
            {"name": "Rope", "kind": "rope", "rating": "100", "in_use": "on"},
        ),
        "shop": (
            reverse("shop:shop"),
            {
                "name": "Loft",
                "air_celsius": "60",
                "air_humidity": "50",
                "denominator": "16",
                "paper": "A4",
                "finishing_loss": "4",
                "shooting_loss": "4",
            },
        ),
        "stave": (
            reverse("rack:new"),
            STAVE | {"bought_at": "9", "modulus": "1.5", "rupture": "15000", "density": "40"},
        ),
        "weighing": (
            reverse("rack:detail", args=[1]),
            {
                "mass": "70",
                "meter": "12",
                "day": "2026-01-05",
                "client_id": str(uuid4()),
                "corrects": "",
            },
        ),
        "flaw": (
            reverse("rack:flaw_keep", args=[1]),
            {
                "kind": "pin knot",
                "face": "back",
                "at": "9",
                "off": "0",
                "length": "1/4",
                "width": "1/4",
                "depth": "1/4",
            },
        ),
        "section": (
            reverse("rack:section_keep", args=[1]),
            {"at": "9", "width": "2", "side": "1/4", "twist": "3"},
        ),
        "strip": (
            reverse("rack:strip_keep", args=[1]),
            {
                "span": "24",
                "load": "4",
                "sag": "0.6",
                "width": "1",
                "depth": "0.3",
                "length": "30",
                "mass": "4",
                "moisture": "9",
            },
        ),
        "photograph": (
            reverse("rack:photo_keep", args=[1]),
            {"caption": "The left end", "at": "3", "day": "2026-01-05"},
        ),
        "design": (reverse("designs:edit", args=[shop.design.pk]), design_form(shop.design)),
        "preview": (reverse("designs:preview", args=[shop.design.pk]), design_form(shop.design)),
        "build": (
            reverse("builds:start"),
            {
                "name": "B",
                "design": str(shop.design.pk),
                "stave": "",
                "school": "W",
                "draw_ruler": "pivot",
            },
        ),
        "wait": (
            reverse("builds:wait", args=build),
            {"what": "Dries", "until": f"{timezone.localtime().year + 1}-12-01T10:00"},
        ),
        "line": (
            reverse("builds:keep", args=build),
            {
                "line": "25 pulls",
                "page_world": "imperial",
                "client_id": str(uuid4()),
                "corrects": "",
            },
        ),
        "read back": (
            reverse("builds:read_back"),
            {"line": "25 pulls", "page_world": "imperial", "build": "1", "client_id": str(uuid4())},
        ),
        "reading": (reverse("tiller:reading", args=build), reading),
        "removal": (reverse("tiller:removal", args=build), removal),
        "pulls": (
            reverse("tiller:pulls", args=build),
            {"line": "25 pulls", "client_id": str(uuid4())},
        ),
        "proof": (reverse("builds:prove", args=build), proof),
        "string": (
            reverse("strings:sheet", args=build),
            {
                "role": "working",
                "kind": "continuous loop",
                "thread": "linen",
                "strands": "20",
                "brace_height": "6",
            },
        ),
        "thread": (
            reverse("strings:thread_new"),
            {"name": "hemp", "fibre": "hemp", "line_mass": "150 tex", "stock": "9"},
        ),
        "strand": (reverse("strings:test", args=[thread]), {"load": "12", "width": ""}),
        **{
            f"part {part}": (
                reverse("strings:part", args=[string.pk, part]),
                dict.fromkeys(fields, ""),
            )
            for part, (_, fields) in PartForm.PARTS.items()
        },
        "brace": (reverse("strings:read", args=[string.pk, "brace"]), {"brace": "6", "more": "9"}),
        "twist": (
            reverse("strings:read", args=[string.pk, "twist"]),
            {"turns": "3", "shorter": ""},
        ),
        "measure": (
            reverse("strings:read", args=[string.pk, "measure"]),
            {"length": "64", "load": "40", "stretch": "1/2", "mass": "150", "nocking": "1/4"},
        ),
        "cord": (reverse("strings:read", args=[string.pk, "cord"]), {"cord": "64", "gave": "6"}),
        "fit": (
            reverse("strings:read", args=[string.pk, "fit"]),
            {"seat": "well", "off": "0", "upper_gap": "6", "lower_gap": "6"},
        ),
        "keeping": (
            reverse("strings:read", args=[string.pk, "keeping"]),
            {"what": "shots", "count": "9", "place": "3", "words": "x"},
        ),
        "next": (reverse("builds:next", args=build), {"stage": "tiller"}),
        "units": ("/units/", {"typed": "[]"}),
        "marks": (reverse("designs:marks", args=[shop.design.pk]), two_marks(shop.design)),
        "marks preview": (
            reverse("designs:marks_preview", args=[shop.design.pk]),
            two_marks(shop.design),
        ),
        "import": (
            reverse("designs:import"),
            {"file": "", "name": "B", "archer": str(shop.archer.pk), "material": "wych elm"},
        ),
    }


def rows(fields: tuple[str, ...]) -> Iterator[dict[str, str]]:
    """Every figure in every field beside every sort of neighbour.

    The number of figures is a prime, so that every field goes through all of them at its own pace.
    """
    many = len(ABSURD)
    for k in range(many):
        yield {
            field: ABSURD[(k * (1 + j % (many - 1)) + j) % many] for j, field in enumerate(fields)
        }


def test_the_choice_of_figures_is_complete() -> None:
    fields = tuple("abcdefghijklmnopqrstuvwxyz0123456789")
    tried = [(f, v) for row in rows(fields) for f, v in row.items()]
    assert set(tried) == {(f, v) for f in fields for v in ABSURD}


def forms_shown(answer: Any) -> list[BaseForm]:
    """The forms of an answer's page."""
    found: dict[int, BaseForm] = {}
    for layer in answer.context or ():
        values = layer.values() if isinstance(layer, dict) else ()
        found |= {id(one): one for one in values if isinstance(one, BaseForm)}
    return list(found.values())


def is_sane(value: object) -> bool:
    """Whether what a field made of what was typed can be kept: no number that is none, no endless
    one, no control character.
    """
    if isinstance(value, Measured):
        return math.isfinite(value.value)
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, str):
        return "\x00" not in value
    return True


def no_field_takes_what_cannot_be_kept(form: BaseForm) -> None:
    for name, field in form.fields.items():
        for typed in ABSURD:
            try:
                value = field.clean(typed)
            except ValidationError as error:
                assert error.messages and all(error.messages), (name, typed)
            else:
                assert is_sane(value), (name, typed, value)


def each_field_alone_is_answered(form: BaseForm, content: dict[str, str]) -> None:
    """A field that is refused may hide what its neighbour would do: each by itself in a form whose
    other figures would be taken, without a request.
    """
    for k, name in enumerate(content):
        for step in range(4):
            one = copy(form)
            one.data = content | {name: ABSURD[(4 * k + step * 2) % len(ABSURD)]}
            one._errors = None  # type: ignore[assignment]
            told = [str(fault) for faults in one.errors.values() for fault in faults]
            assert all(told), (name, one.errors)


def nothing_is_kept_that_is_no_figure() -> None:
    for model in apps.get_models():
        floats = [f.attname for f in model._meta.concrete_fields if isinstance(f, FloatField)]
        for row in model._default_manager.values(*floats) if floats else ():
            assert all(v is None or math.isfinite(v) for v in row.values()), (model, row)
    for sizes in Design.objects.values_list("sizes", flat=True):
        assert all(math.isfinite(v) for v in sizes.values() if isinstance(v, float)), sizes


def two_marks(design: Design) -> dict[str, str]:
    """The marks form, of which only two figures are put to the test."""
    return {
        k: v
        for k, v in marks_form(design).items()
        if k in ("upper_width_3", "lower_thickness_2", "page_world")
    }


NAMES = [
    "archer",
    "gear",
    "shop",
    "stave",
    "weighing",
    "flaw",
    "section",
    "strip",
    "photograph",
    "design",
    "preview",
    "build",
    "wait",
    "line",
    "read back",
    "reading",
    "removal",
    "pulls",
    "proof",
    "string",
    "thread",
    "strand",
    *(f"part {part}" for part in PartForm.PARTS),
    "brace",
    "twist",
    "measure",
    "cord",
    "fit",
    "keeping",
    "next",
    "units",
    "marks",
    "marks preview",
    "import",
]


@pytest.mark.parametrize("name", NAMES)
def test_absurd_figures_are_answered(client: Client, shop: SimpleNamespace, name: str) -> None:
    """Together, by full requests; each figure in each field alone, by the form's own fields."""
    where, content = forms(shop)[name]
    alone = set[type[BaseForm]]()
    for row in rows(tuple(content)):
        answer = client.post(where, content | row, HTTP_ACCEPT="text/html")
        missing = name == "read back" and "build" in row and answer.status_code == 404
        assert answer.status_code in (200, 302, 422) or missing, (row, answer.status_code)
        assert b"<script>alert" not in answer.content, row
        for form in forms_shown(answer):
            if answer.status_code == 422 and form.is_bound and form.errors:
                told = [str(one) for faults in form.errors.values() for one in faults]
                assert all(told), (row, form.errors)
            if type(form) not in alone:
                alone.add(type(form))
                no_field_takes_what_cannot_be_kept(form)
                if form.is_bound:
                    each_field_alone_is_answered(form, content)
    nothing_is_kept_that_is_no_figure()
    for page in ("/", reverse("tiller:screen", args=[1]), reverse("builds:log", args=[1])):
        assert client.get(page).status_code == 200, (name, page)


def test_lists_show_what_absurd_figures_left(client: Client, shop: SimpleNamespace) -> None:
    for where, content in forms(shop).values():
        for row in list(rows(tuple(content)))[:2]:
            client.post(where, content | row)
    for page in ("designs:list", "rack:list", "strings:list", "builds:list", "today:today"):
        assert client.get(reverse(page)).status_code == 200, page
    for one in BowString.objects.all()[:3]:
        assert client.get(reverse("strings:detail", args=[one.pk])).status_code == 200


def test_addresses_with_absurd_numbers_are_not_there(client: Client, shop: SimpleNamespace) -> None:
    big = "9" * 30
    for where in (
        f"/builds/{big}/",
        f"/builds/{big}/tiller/",
        f"/staves/{big}/",
        f"/designs/{big}/",
        f"/shop/archers/{big}/",
    ):
        assert client.get(where).status_code == 404, where
    for where in (
        f"/builds/1/tiller/?check={big}",
        f"/builds/new/?design={big}",
        f"/designs/new/?stave={big}",
        f"/staves/1/?correct={big}",
        "/builds/1/tiller/?check=²",
        "/builds/new/?design=²",
        "/designs/new/?stave=²",
        "/staves/1/?correct=²",
    ):
        assert client.get(where).status_code == 200, where
    for odd in (big, "²", "fourteen"):
        line = {"line": "25 pulls", "build": odd}
        assert client.post(reverse("builds:read_back"), line).status_code == 404, odd


def test_markup_in_names_is_shown_as_written(client: Client, shop: SimpleNamespace) -> None:
    sharp = "<b>\"Sharp\" & 'quick'</b>"
    Archer.objects.update(name=sharp)
    Design.objects.update(name=sharp)
    Build.objects.update(name=sharp)
    Entry.objects.create(build=shop.build, stage="tiller", text=sharp, by=shop.people.maker)
    for page in (
        "/",
        "/shop/",
        "/designs/",
        f"/designs/{shop.design.pk}/",
        "/builds/1/tiller/",
        "/builds/1/log/",
        "/builds/1/tiller/bench/",
    ):
        assert b"<b>" not in client.get(page).content, page
    assert client.get(reverse("designs:marking_pdf", args=[shop.design.pk])).status_code == 200
