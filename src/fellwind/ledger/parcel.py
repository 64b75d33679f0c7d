"""One bow as a ZIP for another shop: everything that was written of it, its design, its stave, its
strings and its pictures; and such a ZIP brought in, with every conflict answered first.

What belongs to the shop stays behind: who wrote, what it cost, the public link, and the archer's
name unless it is asked for. Nothing is written before all of it was read, known and answered.
"""

from __future__ import annotations

import secrets
import time
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from uuid import uuid4

from django import forms
from django.apps import apps
from django.conf import settings
from django.core.exceptions import FieldDoesNotExist
from django.core.exceptions import ValidationError as DjangoInvalid
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.serializers.base import DeserializationError
from django.db import DatabaseError, models, transaction
from django.db.models import Max

from bowyery.design.figures import materials_in, renamed
from fellwind.builds.models import Build, Entry
from fellwind.designs.models import Design
from fellwind.kit.archive import ArchiveError, Pack, Row, opened, packed, rows_of, written
from fellwind.kit.photos import PhotoError, keep_photo, photo_path, read_photo
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer, OwnMaterial, Tool
from fellwind.strings.models import Thread

KIND = "fellwind-parcel"
# What goes along, those that others point to first.
ORDER = (
    "shop.archer", "shop.ownmaterial", "shop.tool", "rack.stave", "rack.weighing", "rack.flaw",
    "rack.section", "rack.photo", "rack.striptest", "designs.design", "builds.build",
    "builds.entry", "builds.measure", "builds.benchphoto", "builds.wait", "builds.heatjob",
    "builds.inquest", "strings.thread", "strings.strandtest", "strings.bowstring",
    "strings.stringentry",
)  # fmt: skip
PICTURES = ("rack.photo", "builds.benchphoto")
# Where something is named by its material or thread's fibre, and not by a key.
NAMED = {
    "rack.stave": ("material",), "designs.design": ("material",),
    "builds.heatjob": ("wood",), "strings.bowstring": ("fibre",), "strings.thread": ("fibre",),
}  # fmt: skip
MOST_WAITING, LONGEST_WAITING = 20, 86400.0


def _model(label: str) -> type[models.Model]:
    return apps.get_model(label)


def _keys(model: type[models.Model]) -> Iterator[models.ForeignKey[Any, Any]]:
    """Its fields that point to another row."""
    for one in model._meta.concrete_fields:
        if isinstance(one, models.ForeignKey):
            yield one


def _gathered(build: Build) -> dict[str, dict[Any, models.Model]]:
    """Every row that goes along, by table and key: the bow's own, and what they stand on."""
    found: dict[str, dict[Any, models.Model]] = {label: {} for label in ORDER}
    left: list[models.Model] = [build]
    while left:
        row = left.pop()
        label = row._meta.label_lower
        if (
            label not in found
            or row.pk in found[label]
            or (label == "builds.build" and row != build)
            or (label == "designs.design" and row.pk != build.design_id)
        ):
            continue
        found[label][row.pk] = row
        for key in _keys(type(row)):
            other = getattr(row, key.name)
            if other is not None:
                left.append(other)
        for relation in row._meta.related_objects:
            if relation.on_delete is models.CASCADE and relation.related_model in _along():
                left += relation.related_model._default_manager.filter(**{relation.field.name: row})
    names = {
        value for label, fields in NAMED.items() for one in found[label].values()
        for value in [getattr(one, field) for field in fields]
    }  # fmt: skip
    for design in found["designs.design"].values():
        names |= materials_in(design.sizes)  # type: ignore[attr-defined]
    tools = {m.tool for m in found["builds.measure"].values()}  # type: ignore[attr-defined]
    tools.add(build.tool)
    for model, wanted in ((OwnMaterial, names), (Tool, tools)):
        for one in model._default_manager.filter(name__in=wanted):
            found[model._meta.label_lower][one.pk] = one
    return found


def _along() -> set[Any]:
    return {_model(label) for label in ORDER}


def write(build: Build, named: bool = False) -> bytes:
    """A bow's ZIP.

    Args:
        named: with the archer's name and what was noted of them.
    """
    gathered = _gathered(build)
    tables: dict[str, list[dict[str, Any]]] = {}
    for label, rows in gathered.items():
        model = _model(label)
        told = rows_of(model, [rows[key] for key in sorted(rows)])
        for row in told:
            for key in _keys(model):
                target = key.related_model._meta.label_lower
                if row["fields"].get(key.name) not in gathered.get(target, {}):
                    row["fields"][key.name] = None
            if label == "shop.archer" and not named:
                row["fields"] |= {"name": f"archer of number {build.number}", "notes": ""}
        tables[label] = told
    pictures = [
        path for label in PICTURES for row in gathered[label].values()
        for path in [photo_path(row.name), photo_path(row.name, "-small")]  # type: ignore[attr-defined]
        if path.exists()
    ]  # fmt: skip
    with TemporaryDirectory() as folder:
        path = Path(folder) / "bow.zip"
        packed(path, KIND, tables, pictures)
        return path.read_bytes()


@dataclass(frozen=True)
class Parcel:
    """A bow's ZIP that was read.

    Attributes:
        pictures: by the name of their file.
        build, archer: the bow's row, and its archer's.
    """

    pack: Pack
    pictures: Mapping[str, bytes]
    build: Row
    archer: Row

    def rows(self, label: str) -> list[Row]:
        """Of a table."""
        return self.pack.tables.get(label, [])

    @property
    def here(self) -> Build | None:
        """The bow, where it is in this shop already."""
        ids = [row.fields.get("client_id") for row in self.rows("builds.entry")[:200]]
        entry = Entry.objects.filter(client_id__in=[one for one in ids if one]).first()
        return entry.build if entry else None

    @property
    def brings(self) -> list[tuple[int, str]]:
        """How many of what it brings along."""
        words = {
            "builds.entry": "entry of its log|entries of its log", "builds.measure": "reading",
            "rack.stave": "stave", "rack.weighing": "weighing", "rack.flaw": "flaw",
            "strings.bowstring": "string", "shop.ownmaterial": "material of its shop's own"
            "|materials of its shop's own",
        }  # fmt: skip
        counts = Counter({label: len(self.rows(label)) for label in words})
        pictures = sum(len(self.rows(label)) for label in PICTURES)
        told = [(counts[label], _many(counts[label], name)) for label, name in words.items()]
        told.append((pictures, _many(pictures, "photograph")))
        return [(count, name) for count, name in told if count]


def _many(count: int, name: str) -> str:
    one, _, several = name.partition("|")
    return one if count == 1 else several or f"{one}s"


def read(path: Path, change: Callable[[Pack], None] = lambda pack: None) -> Parcel:
    """Read a bow's ZIP whole; ``change`` is done to its rows.

    Raises:
        ArchiveError: it is none, is torn, or names what is not known here.
    """
    pack, pictures = opened(path, KIND)
    change(pack)
    strangers = sorted(set(pack.tables) - set(ORDER))
    if strangers:
        raise ArchiveError(f"It holds “{strangers[0]}”, which no bow brings along.")
    builds, archers = pack.tables.get("builds.build", []), pack.tables.get("shop.archer", [])
    designs = pack.tables.get("designs.design", [])
    if len(builds) != 1 or len(archers) != 1 or len(designs) != 1:
        raise ArchiveError("It is not one bow, with its design and its archer.")
    known = {label: {row.pk for row in rows} for label, rows in pack.tables.items()}
    for label, rows in pack.tables.items():
        if len(known[label]) < len(rows):
            raise ArchiveError(f"Two rows of “{label}” have one key.")
        for row in rows:
            for key in _keys(_model(label)):
                target = key.related_model._meta.label_lower
                value = row.fields.get(key.name)
                names_one = isinstance(value, int | str) and value in known.get(target, set())
                if value is not None and not names_one:
                    raise ArchiveError(f"A row of “{label}” points to what is not in it.")
    return Parcel(pack, pictures, builds[0], archers[0])


def _folder() -> Path:
    return Path(settings.HOME) / "incoming"


def put_by(content: bytes) -> str:
    """Put a ZIP by until its questions are answered; its token."""
    folder = _folder()
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    kept = sorted(folder.glob("*.zip"), key=lambda one: one.stat().st_mtime, reverse=True)
    for old in kept:
        if old in kept[MOST_WAITING - 1 :] or time.time() - old.stat().st_mtime > LONGEST_WAITING:
            old.unlink(missing_ok=True)
    token = secrets.token_hex(16)
    path = folder / f"{token}.zip"
    path.write_bytes(content)
    path.chmod(0o600)
    return token


def put_by_path(token: str) -> Path | None:
    """Where it was put; None where it is not there any more."""
    if len(token) != 32 or not all(sign in "0123456789abcdef" for sign in token):
        return None
    path = _folder() / f"{token}.zip"
    return path if path.exists() else None


def _free(model: type[models.Model], number: object) -> int:
    """A number that is free: the given one, or the next."""
    taken = set(model._default_manager.values_list("number", flat=True))
    if isinstance(number, int) and 0 < number < 100000 and number not in taken:
        return number
    most = model._default_manager.aggregate(most=Max("number"))["most"] or 0
    return int(most) + 1


class ArriveForm(forms.Form):
    """A file from another shop."""

    file = forms.FileField(
        label="A bow's ZIP", help_text="as another shop's book wrote it",
        error_messages={"required": "Choose a file first."},
        widget=forms.ClearableFileInput(attrs={"class": "form-control"}),
    )  # fmt: skip


class AnswerForm(forms.Form):
    """Every conflict of a bow with what is here, each with its answer."""

    def __init__(self, data: Any, *, parcel: Parcel) -> None:
        super().__init__(data, auto_id="bring_%s")
        self.parcel = parcel
        self.staves = {row.pk: row for row in parcel.rows("rack.stave")}
        number = parcel.build.fields.get("number")
        free = _free(Build, number)
        taken = "" if free == number else f"there is a number {number} here already"
        self.fields["number"] = forms.IntegerField(
            min_value=1, max_value=99999, initial=free, label="Its number here", help_text=taken
        )
        if parcel.here is not None:
            self.fields["again"] = forms.BooleanField(
                required=False, label="Bring it in once more, as a copy",
                help_text=f"it is here already, as number {parcel.here.number}",
            )  # fmt: skip
        name = str(parcel.archer.fields.get("name", ""))[:80]
        mine = [(str(one.pk), f"{one.name}, who is here") for one in Archer.objects.all()]
        same = Archer.objects.filter(name=name).first()
        self.fields["archer"] = _choice(
            "Its archer", [("new", f"a new one, {name}"), *mine], str(same.pk) if same else "new"
        )
        for pk, row in self.staves.items():
            self._stave(pk, row)
        for row in parcel.rows("shop.ownmaterial"):
            self._named("material", OwnMaterial, row)
        for row in parcel.rows("strings.thread"):
            self._named("thread", Thread, row)
        for field in self.fields.values():
            kind = "form-select" if isinstance(field, forms.ChoiceField) else "form-control"
            if not isinstance(field, forms.BooleanField):
                field.widget.attrs["class"] = kind

    def _stave(self, pk: object, row: Row) -> None:
        number = row.fields.get("number")
        mine = Stave.objects.filter(number=number if isinstance(number, int) else 0).first()
        free = _free(Stave, number)
        choices = [("new", f"a new one, number {free}")]
        if mine is not None:
            choices.append(("here", f"{mine}, that is here"))
        alike = mine is not None and mine.material == row.fields.get("material")
        alike = alike and mine is not None and mine.length == row.fields.get("length")
        self.fields[f"stave_{pk}"] = _choice(
            f"Its stave {number}, {row.fields.get('material')}", choices, "here" if alike else "new"
        )

    def _named(self, kind: str, model: type[models.Model], row: Row) -> None:
        """A material or thread whose name is taken here by another."""
        name = str(row.fields.get("name", ""))
        mine = model._default_manager.filter(name=name).first()
        if mine is None or _figures(mine) == _figures_of(row):
            return
        self.fields[f"{kind}_{row.pk}"] = _choice(
            f"The {kind} “{name}” is another here",
            [("here", "take what is here"), ("theirs", f"keep both: “{_theirs(model, name)}”")],
            "theirs",
        )

    def clean_number(self) -> int:
        """Its number, if it is free."""
        number: int = self.cleaned_data["number"]
        if Build.objects.filter(number=number).exists():
            raise forms.ValidationError(
                f"There is a number {number} here; {_free(Build, 0)} is free."
            )
        return number

    def clean(self) -> dict[str, Any]:
        """Whether it may come in at all."""
        data = super().clean() or {}
        if "again" in self.fields and not data.get("again"):
            self.add_error("again", "It is here already: say whether a copy is wanted.")
        return data


_FIGURES = ("version", "changed", "changed_by", "stock", "notes")


def _figures(row: models.Model) -> dict[str, Any]:
    told = rows_of(type(row), [row])[0]["fields"]
    return {k: v for k, v in told.items() if k not in _FIGURES}


def _figures_of(row: Row) -> dict[str, Any]:
    return {k: v for k, v in row.fields.items() if k not in _FIGURES}


def _theirs(model: type[models.Model], name: str) -> str:
    """A name for theirs beside ours."""
    most = getattr(model._meta.get_field("name"), "max_length", None) or 40
    for k in range(1, 100):
        told = f"{name[: most - 12]}, theirs{'' if k == 1 else f' {k}'}"
        if not model._default_manager.filter(name=told).exists():
            return told
    raise ArchiveError(f"“{name}” is here under too many names.")


def _choice(label: str, choices: list[tuple[str, str]], initial: str) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=choices, initial=initial)


def bring(form: AnswerForm, see: Callable[[Build], None] = lambda build: None) -> Build:
    """Bring a bow in as its questions were answered, all of it or nothing; ``see`` looks at it
    before it stays.

    Raises:
        ArchiveError: a row of it cannot be.
    """
    parcel, kept = form.parcel, list[Path]()
    try:
        with transaction.atomic():
            build = _Bringing(parcel, form.cleaned_data, kept).done()
            see(build)
            return build
    except (DatabaseError, DjangoInvalid, DeserializationError, FieldDoesNotExist, TypeError,
            ValueError, AttributeError, KeyError) as error:  # fmt: skip
        for path in kept:
            path.unlink(missing_ok=True)
        told = "; ".join(error.messages) if isinstance(error, DjangoInvalid) else str(error)
        raise ArchiveError(f"A row of it cannot be: {told[:300]}") from None
    except ArchiveError:
        for path in kept:
            path.unlink(missing_ok=True)
        raise


class _Bringing:
    """What has been brought in so far: keys here by table and key there."""

    def __init__(self, parcel: Parcel, answers: dict[str, Any], kept: list[Path]) -> None:
        self.parcel, self.answers, self.kept = parcel, answers, kept
        self.keys: dict[str, dict[Any, Any]] = {label: {} for label in ORDER}
        self.names: dict[str, str] = {}
        self.again = bool(answers.get("again"))

    def done(self) -> Build:
        """Write every table; the bow."""
        for label in ORDER:
            later: list[tuple[Any, str, Any]] = []
            for row in self.parcel.rows(label):
                here = self._is_here(label, row)
                if here is not None:
                    self.keys[label][row.pk] = here
                elif not self._belongs_to_one_here(label, row):
                    self._write(label, row, later)
            for pk, field, there in later:
                here = self.keys[label].get(there)
                _model(label)._default_manager.filter(pk=pk).update(**{field: here})
        return Build.objects.get(pk=self.keys["builds.build"][self.parcel.build.pk])

    def _is_here(self, label: str, row: Row) -> Any:
        """The key of what is here and is taken in its place."""
        answer = self.answers
        if label == "shop.archer" and answer["archer"] != "new":
            return int(answer["archer"])
        if label == "rack.stave" and answer[f"stave_{row.pk}"] == "here":
            return Stave.objects.get(number=row.fields["number"]).pk
        if label not in ("shop.ownmaterial", "shop.tool", "strings.thread"):
            return None
        mine = _model(label)._default_manager.filter(name=row.fields.get("name")).first()
        kind = "thread" if label == "strings.thread" else "material"
        if mine is None or answer.get(f"{kind}_{row.pk}") == "theirs":
            return None
        return mine.pk

    def _belongs_to_one_here(self, label: str, row: Row) -> bool:
        """Whether it is of a stave or thread that is here, with its own weighings and tests."""
        if label == "strings.strandtest":
            field, table = "thread", "strings.thread"
        elif label.startswith("rack.") and label != "rack.stave":
            field, table = "stave", "rack.stave"
        else:
            return False
        there = row.fields.get(field)
        whole = next((one for one in self.parcel.rows(table) if one.pk == there), None)
        return whole is not None and self._is_here(table, whole) is not None

    def _write(self, label: str, row: Row, later: list[tuple[Any, str, Any]]) -> None:
        model, fields = _model(label), dict(row.fields)
        own: list[tuple[str, Any]] = []
        for key in _keys(model):
            value, target = fields.get(key.name), key.related_model
            if value is None:
                continue
            if target is model:
                own.append((key.name, value))
                fields[key.name] = None
            else:
                label_there = target._meta.label_lower
                fields[key.name] = self.keys[label_there][value]
        self._changed(label, row, fields)
        key = written(model, None, fields)
        self.keys[label][row.pk] = key
        later += [(key, name, there) for name, there in own]

    def _changed(self, label: str, row: Row, fields: dict[str, Any]) -> None:
        """What is otherwise here than there: numbers, names, files."""
        if label == "builds.build":
            fields["number"] = self.answers["number"]
        elif label == "rack.stave":
            fields["number"] = _free(Stave, fields.get("number"))
        elif label in ("shop.ownmaterial", "strings.thread"):
            name = str(fields["name"])
            if _model(label)._default_manager.filter(name=name).exists():
                fields["name"] = _theirs(_model(label), name)
                if label == "shop.ownmaterial":
                    self.names[name] = fields["name"]
        elif label == "shop.archer" and Archer.objects.filter(name=fields.get("name")).exists():
            fields["name"] = _theirs(Archer, str(fields["name"]))
        elif label in PICTURES:
            fields |= self._picture(str(fields["name"]))
        if self.again and "client_id" in fields:
            fields["client_id"] = str(uuid4())
        for name in NAMED.get(label, ()):
            fields[name] = self.names.get(fields.get(name, ""), fields.get(name))
        if label == "designs.design":
            now = Design.of_former(fields)
            fields.clear()
            fields |= now | {"sizes": renamed(now.get("sizes") or {}, self.names)}

    def _picture(self, name: str) -> dict[str, Any]:
        """A photograph written anew, as one that is sent in would be."""
        content = self.parcel.pictures.get(f"{name}.jpg")
        if content is None:
            return {"name": uuid4().hex}
        try:
            picture = read_photo(SimpleUploadedFile(f"{name}.jpg", content))
        except PhotoError as error:
            raise ArchiveError(f"{name}.jpg: {error}") from None
        fresh, width, height = keep_photo(picture)
        self.kept += [photo_path(fresh), photo_path(fresh, "-small")]
        return {"name": fresh, "width": width, "height": height}
