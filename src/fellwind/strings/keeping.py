"""Strings and what was read of them, written down and struck out."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction

from bowyery.units.quantity import World
from fellwind.builds.models import Entry
from fellwind.people.models import Person
from fellwind.strings.forms import TestForm
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread
from fellwind.strings.services import sheet_of, standing


@transaction.atomic
def keep(string: BowString, by: Person, world: World, told: str = "") -> None:
    """Keep a string, and write it into the build's log."""
    new = string.pk is None
    string.save()
    if new or told:
        Entry.objects.create(
            build=string.build, kind="string", stage=string.build.stage, by=by, world=world,
            text=told or _told(string),
        )  # fmt: skip


def _told(string: BowString) -> str:
    parts = [f"{string.get_role_display()}: {string.of}, {string.kind}"]
    parts += [f"{string.strands} strands"] if string.strands else []
    return ", ".join(parts)


def take_over(string: BowString, like: BowString) -> None:
    """Let a new string have what the one has that it is to match: figures of its own, and the
    strands and length that it came to.
    """
    names = (
        "rule", "turns", "direction", "colour_one", "colour_two", "own_length", "loop_upper",
        "loop_lower", "throat", "serving", "serving_above", "nock_above", "serving_thread",
        "pieces", "piece", "silencers", "silencers_at",
    )  # fmt: skip
    for name in names:
        setattr(string, name, getattr(like, name))
    made = sheet_of(like)
    if made.plan is None:
        return
    string.strands = string.strands or made.plan.strands
    if made.read("length"):
        string.own_length = made.read("length")
    if made.read("serving"):
        string.serving = made.read("serving")
    if made.read("nocking point") is not None:
        string.nock_above = made.read("nocking point")


def write_test(thread: Thread, form: TestForm, by: Person) -> StrandTest:
    """Write down a strand or strip that broke."""
    return StrandTest.objects.create(
        thread=thread, load=form.given("load"), load_text=form.text("load"),
        width=form.value("width"), width_text=form.text("width"), by=by,
    )  # fmt: skip


@transaction.atomic
def write_all(
    string: BowString,
    rows: Sequence[dict[str, Any]],
    by: Person,
    world: World,
    client_id: UUID | None = None,
    at: datetime | None = None,
) -> bool:
    """Write what a form says, all of it or nothing; False where it was written before."""
    if client_id and StringEntry.objects.filter(client_id=client_id).exists():
        return False
    for number, row in enumerate(rows):
        key = client_id if number == 0 else None
        made = write(string, row["kind"], row["text"], by, world, row.get("value"),
                     row.get("second"), row.get("pulls"), key)  # fmt: skip
        if made is not None and at is not None:
            StringEntry.objects.filter(pk=made.pk).update(at=at)
    return True


@transaction.atomic
def write(
    string: BowString,
    kind: str,
    text: str,
    by: Person,
    world: World,
    value: float | None = None,
    second: float | None = None,
    pulls: int | None = None,
    client_id: UUID | None = None,
) -> StringEntry | None:
    """Write one thing down; nothing where that id was written before, or a step is done already."""
    if client_id and StringEntry.objects.filter(client_id=client_id).exists():
        return None
    if kind == "step" and any(e.kind == "step" and e.text == text for e in standing(string)):
        return None
    extra = {"client_id": client_id} if client_id else {}
    made = StringEntry.objects.create(
        string=string, kind=kind, value=value, second=second, pulls=pulls, text=text[:120],
        world=world, by=by, **extra,
    )  # fmt: skip
    if kind not in ("step", "cord"):
        Entry.objects.create(
            build=string.build, kind="string", stage=string.build.stage, by=by, world=world,
            text=f"{string.get_role_display()}: {StringEntry.KINDS[kind]} {text}"[:400],
        )  # fmt: skip
    return made


@transaction.atomic
def strike(entry: StringEntry, by: Person) -> bool:
    """Strike an entry that was written by mistake; False where it is struck already."""
    if StringEntry.objects.filter(strikes=entry).exists() or entry.strikes_id:
        return False
    StringEntry.objects.create(
        string=entry.string, kind=entry.kind, text=f"struck: {entry.text}"[:120], strikes=entry,
        world=entry.world, by=by,
    )  # fmt: skip
    if entry.kind not in ("step", "cord"):
        Entry.objects.create(
            build=entry.string.build, kind="string", stage=entry.string.build.stage, by=by,
            world=entry.world, text=f"{entry.string.get_role_display()}: struck {entry.text}"[:400],
        )  # fmt: skip
    return True


@transaction.atomic
def throw_away(string: BowString) -> None:
    """Delete a string of which nothing that was read stands."""
    string.entries.exclude(strikes=None).delete()
    string.delete()


@transaction.atomic
def strike_test(test: StrandTest, by: Person) -> bool:
    """Strike a test that was written by mistake; False where it is struck already."""
    if StrandTest.objects.filter(strikes=test).exists() or test.strikes_id:
        return False
    StrandTest.objects.create(
        thread=test.thread, load=None, load_text=f"struck: {test.load_text}"[:40], strikes=test,
        by=by,
    )  # fmt: skip
    return True
