"""What the web's tests send and read: contents that every form would take, and its pages."""

import io
from types import SimpleNamespace

from django.urls import reverse
from pypdf import PdfReader

from bowyery.units.quantity import Units
from fellwind.designs.forms import DesignForm, MarksForm
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.kit.versions import Versioned

ARCHER = {
    "name": "Ylva",
    "draw": "28 3/4",
    "draw_ruler": "trade",
    "weight": "40#",
    "fingers": "three under",
    "page_world": "imperial",
}
STAVE = {
    "kind": "board",
    "material": "white ash",
    "length": "68",
    "width": "2",
    "depth": "7/8",
    "acquired": "2026-01-05",
    "reflex": "0",
    "page_world": "imperial",
}
CHECK = {
    "reading-weight": "36",
    "reading-draw": "21",
    "reading-upper_gap": "7 1/4",
    "reading-lower_gap": "7 1/4",
    "reading-minutes": "15",
    "reading-page_world": "imperial",
}


def pages(shop: SimpleNamespace) -> list[str]:
    """Every page of the application that is read with GET."""
    number, design = shop.build.number, shop.design.pk
    return [
        reverse("today:today"),
        reverse("shop:shop"),
        reverse("people:password"),
        reverse("shop:materials"),
        reverse("shop:archer_new"),
        reverse("shop:archer", args=[shop.archer.pk]),
        reverse("rack:list"),
        reverse("rack:new"),
        reverse("rack:detail", args=[1]),
        reverse("rack:edit", args=[1]),
        reverse("designs:list"),
        reverse("designs:new"),
        reverse("designs:detail", args=[design]),
        reverse("designs:edit", args=[design]),
        reverse("builds:list"),
        reverse("builds:start"),
        reverse("builds:log", args=[number]),
        reverse("tiller:screen", args=[number]),
        reverse("tiller:bench", args=[number]),
        reverse("strings:sheet", args=[number]),
        *(
            reverse("builds:stage", args=[number, s])
            for s in ("wood", "lay-out", "rough", "back", "finish", "proof")
        ),
        reverse("designs:bow_file", args=[design]),
        reverse("designs:marking_pdf", args=[design]),
    ]


def made_from(row: Versioned) -> dict[str, str]:
    """What a page of a row's present version sends along."""
    return {"made_from": str(type(row)._default_manager.get(pk=row.pk).version)}


def design_form(design: Design, **change: object) -> dict[str, str]:
    """The edit form of a design as the page shows it, with changes."""
    form = DesignForm(shown=Units(), initial=DesignForm.initial_of(design))
    return design_form_of(form) | made_from(design) | {k: str(v) for k, v in change.items()}


def design_form_of(form: DesignForm) -> dict[str, str]:
    """What a browser would send of a form of a design."""
    content = {}
    for field in form:
        value = field.value()
        content[field.name] = "" if value is None else str(getattr(value, "pk", value))
    return content | {"page_world": "imperial"}


def marks_form(design: Design, world: str = "imperial", **change: str) -> dict[str, str]:
    """The marks form as the page shows it, with changes."""
    form = MarksForm(shown=Units(world), bow=solution(design).bow)
    shown = {name: str(form.initial[name]) for name in form.initial}
    return shown | {"page_world": world} | made_from(design) | change


def pdf_words(content: bytes) -> tuple[str, PdfReader]:
    reader = PdfReader(io.BytesIO(content))
    return "\n".join(page.extract_text() for page in reader.pages), reader
