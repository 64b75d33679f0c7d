"""The files that a string leaves as."""

from __future__ import annotations

from dataclasses import replace

from django.utils import timezone

from bowyery.bow import bowfile
from bowyery.bow.bow import Strung
from bowyery.errors import DescriptionError
from bowyery.strings.plan import StringPlan
from bowyery.units.quantity import Units
from fellwind.exports.string import Label, label_pdf, parts_csv, string_sheet
from fellwind.exports.template import template_pdf
from fellwind.shop.models import Workshop
from fellwind.strings.services import Sheet

FILES = ("sheet.pdf", "label.pdf", "parts.csv", "bow.json")
_PDF = "application/pdf"


def leave(made: Sheet, name: str, shown: Units) -> tuple[bytes | str, str]:
    """A file of a string, and its type.

    Raises:
        DescriptionError: it cannot be planned, or is longer than the jig.
    """
    plan, string = made.plan, made.string
    if plan is None or made.on is None:
        raise DescriptionError(made.trouble or "This string cannot be planned yet.", "string")
    title = f"{string.get_role_display()[:1].upper()}{string.get_role_display()[1:]}"
    title += f", number {string.build.number}"
    workshop = Workshop.get()
    paper = workshop.paper
    if name == "sheet.pdf":
        sheet = string_sheet(plan, workshop.jig)
        return template_pdf(sheet, title, string.build.name, paper, "String"), _PDF
    if name == "label.pdf":
        return label_pdf(Label(title, _rows(made, plan, shown)), paper), _PDF
    if name == "parts.csv":
        return parts_csv(plan), "text/csv; charset=utf-8"
    bow = replace(
        made.on.bow, brace_height=None, string_length=made.length,
        string=replace(plan.line, mass=made.mass or plan.mass),
        strung=Strung(plan.kind.name, string.of, plan.strands, made.turns),
    )  # fmt: skip
    return bowfile.dumps(bow), "application/json"


def _rows(made: Sheet, plan: StringPlan, shown: Units) -> list[tuple[str, str]]:
    string = made.string
    length, mass = made.length or plan.length, made.mass or plan.mass
    known = "measured" if made.read("length") else "planned"
    rows = [
        ("for", string.build.name),
        ("of", f"{string.of}, {plan.strands} strands"),
        ("laid as", plan.kind.name),
        (f"length, {known}", shown.length(length)),
        ("turns", f"{made.turns} to the {string.direction}"),
        ("mass", shown.mass(mass)),
    ]
    if plan.brace is not None:
        rows.append(("brace", shown.length(string.brace_height)))
    if plan.nocking is not None:
        rows.append(("nocking point", f"{shown.length(plan.nocking)} from the upper nock"))
    rows.append(("made", f"{timezone.localdate(string.made):%-d %B %Y}"))
    return rows
