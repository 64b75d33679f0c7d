"""Weighings, readings and wood from a sheet: what each row becomes, and then all that can be."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time
from typing import Any, Literal
from uuid import UUID, uuid5

from django import forms
from django.db import transaction
from django.utils import timezone

from bowyery.units.quantity import METRIC, Units
from bowyery.wood.stave import KINDS as STAVE_KINDS
from fellwind.builds import log
from fellwind.builds.forms import LineForm
from fellwind.builds.models import Build
from fellwind.builds.services import builds
from fellwind.kit.sheets import Sheet, SheetError, SheetRow, decoded, read_sheet
from fellwind.people.models import Person
from fellwind.rack.forms import StaveForm, WeighingForm
from fellwind.rack.models import Stave
from fellwind.rack.services import keep_stave, keep_weighing

SPACE = UUID("6f1d3c52-6d0e-4c3f-9f55-0d4b9a3a7c11")  # rows of a sheet are told apart in it
State = Literal["new", "here", "wrong"]
DAYS = ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y", "%d %B %Y", "%d %b %Y", "%d-%m-%Y")
WEIGHINGS: dict[str, Sequence[str]] = {
    "stave": ("stave number", "number", "no", "no."), "day": ("date", "when"),
    "mass": ("weight", "on the scale"), "meter": ("moisture", "moisture meter", "by a meter"),
}  # fmt: skip
READINGS: dict[str, Sequence[str]] = {
    "build": ("bow", "number", "no", "no."), "day": ("date", "when"), "time": ("hour",),
    "string": (), "brace": ("brace height", "string length", "at"), "draw": (), "weight": (),
    "upper gap": (), "lower gap": (), "upper tip": (), "lower tip": (), "line": ("pencil line",),
    "note": ("notes", "remark"), "minutes": ("time spent", "min"),
}  # fmt: skip
WOOD: dict[str, Sequence[str]] = {
    "kind": ("stock",), "wood": ("material", "species"), "length": (), "width": (),
    "depth": ("thickness",), "acquired": ("day", "date", "in the rack since"),
    "moisture": ("moisture when it came",), "from": ("source", "where from"),
    "tree": ("board", "tree or board"), "price": ("cost",), "reflex": (), "modulus": (),
    "density": (), "notes": ("note", "remark"),
}  # fmt: skip


@dataclass(frozen=True)
class Becomes:
    """What a row becomes.

    Attributes:
        number: of the row in the sheet.
        words: what it becomes, or what stands in its way.
        keep: writes it down; nothing where it is not new.
    """

    number: int
    words: str
    state: State
    keep: Callable[[Person], object] | None = field(default=None, repr=False)


@dataclass(frozen=True)
class Kind:
    """What a sheet may hold: how it is called, its columns, those it cannot do without, and how a
    row is read.
    """

    title: str
    columns: Mapping[str, Sequence[str]]
    needs: Sequence[str]
    read: Callable[[SheetRow, Units], Becomes]


def _day(text: str) -> date:
    """A day as sheets write it: the day before the month, where figures alone stand.

    Raises:
        SheetError: it is none.
    """
    plain = text.strip().removesuffix(" 00:00").removesuffix("T00:00:00")
    for form in DAYS:
        try:
            return datetime.strptime(plain, form).date()
        except ValueError:
            continue
    raise SheetError(f"“{text}” is no day; write it as {timezone.localdate():%Y-%m-%d}.")


def _hour(text: str) -> time:
    for form in ("%H:%M", "%H:%M:%S", "%H.%M"):
        try:
            return datetime.strptime(text.strip(), form).time()
        except ValueError:
            continue
    raise SheetError(f"“{text}” is no time of day; write it as 14:30.")


def _number(text: str, what: str) -> int:
    plain = text.strip().removesuffix(".0").lstrip("#")
    if not plain.isascii() or not plain.isdigit() or len(plain) > 9:
        raise SheetError(f"“{text}” is no number of a {what}.")
    return int(plain)


def _why(form: forms.BaseForm) -> str:
    """What is wrong with a form, in one line with its fields."""
    told = []
    for name, errors in form.errors.items():
        label = str(form.fields[name].label or name) if name in form.fields else ""
        told.append(
            f"{label}: {' '.join(map(str, errors))}" if label else " ".join(map(str, errors))
        )
    return " ".join(told)


def _id(row: SheetRow, *more: object) -> UUID:
    """The same row of the same content is the same, however often it is sent."""
    told = "\x1f".join([*(f"{k}={v}" for k, v in sorted(row.cells.items())), *map(str, more)])
    return uuid5(SPACE, told)


def _weighing(row: SheetRow, shown: Units) -> Becomes:
    number = _number(row.cells.get("stave", ""), "stave")
    stave = Stave.objects.filter(number=number).first()
    if stave is None:
        raise SheetError(f"There is no stave {number}.")
    day = _day(row.cells.get("day", ""))
    data = {
        "mass": row.text("mass"), "meter": row.text("meter"), "day": day.isoformat(),
        "client_id": str(_id(row)), "page_world": shown.world,
    }  # fmt: skip
    form = WeighingForm(data, shown=shown, stave=stave)
    words = f"stave {number}, {day:%-d %B %Y}: {_both(row.text('mass'), row.text('meter'))}"
    same = stave.weighings.filter(corrected_by=None, day=day).first()
    if same is not None:
        return Becomes(row.number, f"{words}: that day it was written as {same.words}", "here")
    if not form.is_valid():
        raise SheetError(_why(form))
    return Becomes(row.number, words, "new", lambda by: keep_weighing(stave, form, by))


def _both(mass: str, meter: str) -> str:
    return ", ".join([one for one in (mass, meter and f"meter {meter}") if one]) or "nothing read"


def pencil_line(row: SheetRow) -> str:
    """A row of readings as it would be pencilled."""
    if "line" in row.cells:
        return row.cells["line"]
    parts = []
    if "string" in row.cells or "brace" in row.cells:
        kind = row.cells.get("string", "full").lower().removeprefix("string").strip() or "full"
        parts.append(f"string {kind} {row.text('brace')}".strip())
    draw = row.text("draw")
    if "weight" in row.cells:
        if not draw:
            raise SheetError("A weight is read at a draw; the row has none.")
        parts.append(f"{row.text('weight')} at {draw}")
    for name in ("upper gap", "lower gap"):
        if name in row.cells:
            parts.append(f"{name} {row.text(name)}")
    for name in ("upper tip", "lower tip"):
        if name in row.cells:
            parts.append(f"{name} {row.text(name)}{f' at {draw}' if draw else ''}")
    if "minutes" in row.cells:
        parts.append(f"{row.cells['minutes']} min")
    if "note" in row.cells:
        parts.append(f"note {row.cells['note']}")
    if not parts:
        raise SheetError("There is nothing in it that was read.")
    # a comma parts readings from one another
    return "; ".join(part.replace(",", ".") if "note" not in part else part for part in parts)


def _reading(row: SheetRow, shown: Units) -> Becomes:
    number = _number(row.cells.get("build", ""), "bow")
    build = builds().filter(number=number).first()
    if build is None:
        raise SheetError(f"There is no bow {number}.")
    day = _day(row.cells["day"]) if "day" in row.cells else timezone.localdate()
    hour = _hour(row.cells["time"]) if "time" in row.cells else time(12, 0)
    at = timezone.make_aware(datetime.combine(day, hour))
    if at > timezone.now():
        at = timezone.now()
        if day > timezone.localdate():
            raise SheetError("This day has not come yet.")
    line = pencil_line(row)
    data = {"line": line, "client_id": str(_id(row, line)), "page_world": shown.world}
    form = LineForm(data, build=build)
    if not form.is_valid():
        raise SheetError(form.trouble())
    told = "; ".join(log.in_words(build, form.statements, shown))
    words = f"number {number}, {day:%-d %B %Y}: {told or line}"
    if _written(build, at, line, form.cleaned_data["client_id"]):
        return Becomes(row.number, f"{words}: it is written already", "here")
    world, client_id = shown.world, form.cleaned_data["client_id"]
    stage = _stage_then(build, at)
    return Becomes(
        row.number, words, "new",
        lambda by: log.keep(
            build, line, form.statements, world, by, client_id, at=at, stage=stage
        ),
    )  # fmt: skip


def _stage_then(build: Build, at: datetime) -> str:
    """The stage that a bow was at."""
    last = build.entries.filter(kind="stage", at__lte=at).order_by("at", "pk").last()
    return last.stage if last else build.stage


def _written(build: Build, at: datetime, line: str, client_id: UUID) -> bool:
    rows = build.entries.filter(corrected_by=None)
    return rows.filter(client_id=client_id).exists() or rows.filter(at=at, text=line).exists()


def _wood(row: SheetRow, shown: Units) -> Becomes:
    cells = row.cells
    data = {
        "kind": cells.get("kind", "log split").lower(), "material": cells.get("wood", "").lower(),
        "acquired": _day(cells["acquired"]).isoformat() if "acquired" in cells else
        timezone.localdate().isoformat(),
        "bought_at": row.text("moisture"), "source": cells.get("from", ""),
        "page_world": shown.world, "cut_left": "0", "cut_right": "0",
    }  # fmt: skip
    data |= {name: row.text(name) for name in ("length", "width", "depth", "modulus", "density")}
    data |= {name: cells.get(name, "") for name in ("tree", "price", "notes")}
    data["reflex"] = row.text("reflex") or "0"
    if data["kind"] not in STAVE_KINDS:
        raise SheetError(
            f"“{data['kind']}” is no kind of stock; they are {', '.join(STAVE_KINDS)}."
        )
    form = StaveForm(data, shown=shown)
    if not form.is_valid():
        raise SheetError(_why(form))
    size = " by ".join(data[name] for name in ("length", "width", "depth"))
    words = f"a new stave: {data['kind']}, {data['material']}, {size}"
    same = Stave.objects.filter(
        material=data["material"], kind=data["kind"], acquired=form.cleaned_data["acquired"],
        length=form.given("length"), width=form.given("width"), depth=form.given("depth"),
        notes=data["notes"], tree=data["tree"],
    ).first()  # fmt: skip
    if same is not None:
        return Becomes(row.number, f"{words}: it is stave {same.number}", "here")
    return Becomes(row.number, words, "new", lambda by: keep_stave(Stave(), form))


KINDS = {
    "weighings": Kind("Weighings of staves", WEIGHINGS, ("stave", "day"), _weighing),
    "readings": Kind("Readings at the tiller", READINGS, ("build",), _reading),
    "wood": Kind("Wood for the rack", WOOD, ("wood", "length", "width", "depth"), _wood),
}


class SheetForm(forms.Form):
    """A sheet: a file, or its rows pasted."""

    kind = forms.ChoiceField(
        choices=[(key, one.title) for key, one in KINDS.items()], label="It holds",
        widget=forms.Select(attrs={"class": "form-select"}),
    )  # fmt: skip
    file = forms.FileField(
        required=False, label="A CSV file",
        widget=forms.FileInput(attrs={"class": "form-control", "accept": ".csv,.tsv,text/csv"}),
    )  # fmt: skip
    text = forms.CharField(
        required=False, label="or its rows", max_length=500_000, strip=False,
        widget=forms.Textarea(attrs={"rows": 8, "class": "form-control", "spellcheck": "false"}),
    )  # fmt: skip
    page_world = forms.CharField(required=False, widget=forms.HiddenInput)

    def __init__(self, *args: Any, shown: Units, **kwargs: Any) -> None:
        kwargs["auto_id"] = "sheet_%s"
        super().__init__(*args, **kwargs)
        self.shown = shown
        self.fields["page_world"].initial = shown.world
        self.sheet: Sheet | None = None
        self.said = ""

    @property
    def reads_in(self) -> Units:
        """The units that bare figures are in: those its page was shown in."""
        world = self.data.get("page_world") or self.shown.world
        return Units(METRIC) if world == METRIC else Units()

    def clean(self) -> dict[str, Any]:
        """The sheet, read."""
        data = super().clean() or {}
        if self.errors:
            return data
        upload, text = data.get("file"), data.get("text") or ""
        if upload is None and not text.strip():
            self.add_error("file", "Choose a file, or paste its rows below.")
            return data
        kind = KINDS[data["kind"]]
        try:
            self.said = decoded(upload.read()) if upload is not None else text
            sheet = read_sheet(self.said, kind.columns)
            missing = [name for name in kind.needs if name not in sheet.known]
            if missing:
                raise SheetError(f"It has no column “{missing[0]}”.")
            if not sheet.rows:
                raise SheetError("There is a heading, and no row below it.")
        except SheetError as error:
            self.add_error("file" if upload is not None else "text", str(error))
        else:
            self.sheet = sheet
        return data


@dataclass(frozen=True)
class Preview:
    """What a sheet would become.

    Attributes:
        kind: a key of KINDS.
        text: of the sheet, to be sent again.
    """

    kind: str
    title: str
    rows: Sequence[Becomes]
    strange: Sequence[str]
    text: str

    def count(self, state: State) -> int:
        """How many are so."""
        return sum(one.state == state for one in self.rows)

    @property
    def new(self) -> int:
        """How many would be written."""
        return self.count("new")

    @property
    def wrong(self) -> int:
        """How many cannot be."""
        return self.count("wrong")


def preview(form: SheetForm) -> Preview:
    """What each row of a valid form's sheet becomes."""
    key = form.cleaned_data["kind"]
    kind, shown, rows = KINDS[key], form.reads_in, list[Becomes]()
    seen: set[str] = set()
    assert form.sheet is not None
    for row in form.sheet.rows:
        try:
            told = kind.read(row, shown)
        except SheetError as error:
            told = Becomes(row.number, str(error), "wrong")
        if told.state == "new" and told.words in seen:
            told = Becomes(row.number, f"{told.words}: twice in this sheet", "wrong")
        if told.state == "new" and key == "weighings":
            day = told.words.partition(":")[0]
            if day in seen:
                told = Becomes(row.number, f"{told.words}: that day stands in it twice", "wrong")
            seen.add(day)
        seen.add(told.words)
        rows.append(told)
    return Preview(key, kind.title, rows, form.sheet.strange, form.said)


def keep(found: Preview, by: Person) -> int:
    """Write every row that is new, all of them or none; how many."""
    with transaction.atomic():
        rows = [one.keep for one in found.rows if one.keep is not None]
        for write in rows:
            write(by)
    return len(rows)
