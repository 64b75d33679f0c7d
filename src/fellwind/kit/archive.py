"""Everything a workshop owns as one open ZIP, and back into an empty shop, whole.

``shop.json`` holds every row by table (Django's own serialisation: a key and fields by name),
``csv/`` the same tables for a spreadsheet, ``photos/`` the photographs. Passwords, sessions and
links stay behind: people come back as names that wrote, and enter by a new link. Nothing is
written before all of it was read, known and sound; then all of it is one transaction.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Literal

from django.apps import apps
from django.conf import settings
from django.core import serializers
from django.core.exceptions import FieldDoesNotExist
from django.core.exceptions import ValidationError as DjangoInvalid
from django.core.serializers.base import DeserializationError
from django.core.serializers.json import DjangoJSONEncoder
from django.db import DatabaseError, connection, models, transaction
from django.utils import timezone
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from fellwind.kit.backups import PHOTO
from fellwind.kit.sound import look

FORMAT, VERSION = "fellwind-shop", 1
DATA, TABLES, PHOTOS = "shop.json", "csv/", "photos/"
# How much of each kind is read at all: bytes unpacked, bytes of its rows, and rows. What goes
# beyond is told before any of it is taken apart.
MOST = {
    "fellwind-shop": (500_000_000, 200_000_000, 500_000),
    "fellwind-parcel": (100_000_000, 20_000_000, 50_000),
}
# Not the shop's: what was sent, who is let in, what the server notes for itself.
LEFT = {"kit.sentform", "people.invitation", "shop.backup", "ledger.publiclink"}
PERSON_FIELDS = ("username", "role", "world", "theme", "first_name", "last_name", "date_joined")
RISKY = ("=", "+", "-", "@", "\t", "\r")


LONG_AGO = datetime(2026, 1, 1, tzinfo=UTC)  # of archives that did not say


class ArchiveError(Exception):
    """What is wrong with an archive, as a sentence; nothing was changed."""


class Row(BaseModel):
    """A row of a table: its key, and its fields by name."""

    model_config = ConfigDict(extra="forbid", strict=True)
    pk: int | str
    fields: dict[str, Any]


class Pack(BaseModel):
    """All that an archive holds, by table."""

    model_config = ConfigDict(extra="forbid")
    format: Literal["fellwind-shop", "fellwind-parcel"]
    version: Literal[1]
    written: datetime = LONG_AGO
    tables: dict[str, list[Row]] = Field(max_length=200)


WHOLE = {"fellwind-shop": "a whole shop", "fellwind-parcel": "one bow"}
INSTEAD = {
    "fellwind-shop": "It is brought into an empty shop with ./fellwind import.",
    "fellwind-parcel": "It is brought in on the page of the book that takes bows.",
}


@dataclass(frozen=True)
class Taken:
    """What was written or brought in: rows, and photographs."""

    rows: int
    photographs: int


def shop_models() -> list[type[models.Model]]:
    """Every table that is the shop's, those that others point to first."""
    configs = [c for c in apps.get_app_configs() if c.name.startswith("fellwind.")]
    ordered = serializers.sort_dependencies([(c, None) for c in configs], allow_cycles=True)
    return [one for one in ordered if one._meta.label_lower not in LEFT]


def _person() -> str:
    return settings.AUTH_USER_MODEL.lower()


def rows_of(model: type[models.Model], chosen: Iterable[models.Model]) -> list[dict[str, Any]]:
    """Rows as an archive holds them."""
    rows = serializers.serialize("python", chosen)
    found = [{"pk": row["pk"], "fields": row["fields"]} for row in rows]
    if model._meta.label_lower == _person():
        for row in found:
            row["fields"] = {k: v for k, v in row["fields"].items() if k in PERSON_FIELDS}
    return found


def _cell(value: object) -> str:
    text = "" if value is None else str(value)
    return f"'{text}" if text.startswith(RISKY) and not _number(text) else text


def _number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _csv(rows: Iterable[dict[str, Any]]) -> str:
    file = io.StringIO()
    out = csv.writer(file)
    names: list[str] = []
    for row in rows:
        if not names:
            names = list(row["fields"])
            out.writerow(["key", *names])
        out.writerow([_cell(row["pk"]), *(_cell(row["fields"].get(name)) for name in names)])
    return file.getvalue()


def write(path: Path) -> Taken:
    """Write the shop into a ZIP.

    Args:
        path: of the file; what is there is replaced when all of it is written.
    """
    tables: dict[str, list[dict[str, Any]]] = {}
    with transaction.atomic():  # one moment for all tables
        for model in shop_models():
            rows = model._default_manager.order_by("pk")
            tables[model._meta.label_lower] = rows_of(model, rows)
    pictures = sorted(p for p in Path(settings.PHOTOS).glob("*.jpg") if PHOTO.fullmatch(p.name))
    packed(path, FORMAT, tables, pictures)
    return Taken(sum(map(len, tables.values())), len(pictures))


def packed(
    path: Path, kind: str, tables: dict[str, list[dict[str, Any]]], pictures: Iterable[Path]
) -> None:
    """Write an archive of a kind; what is there is replaced when all of it is written."""
    part = path.with_name(f"{path.name}.part")
    whole = {"format": kind, "version": VERSION, "written": timezone.now(), "tables": tables}
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as pack:
            text = json.dumps(whole, cls=DjangoJSONEncoder, ensure_ascii=False)
            pack.writestr(DATA, text)
            for name, rows in tables.items():
                if rows:
                    pack.writestr(f"{TABLES}{name}.csv", _csv(rows))
            for picture in pictures:
                pack.write(picture, f"{PHOTOS}{picture.name}", zipfile.ZIP_STORED)
        part.chmod(0o600)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def read(path: Path, change: Callable[[Pack], None] = lambda pack: None) -> Taken:
    """Bring a shop's ZIP into an empty shop.

    Args:
        change: what is done to its rows before they are written.

    Raises:
        ArchiveError: it is none, is torn, names what is not known here, or the shop is not empty.
    """
    shop, pictures = opened(path, FORMAT)
    change(shop)
    known = {model._meta.label_lower: model for model in shop_models()}
    strangers = sorted(set(shop.tables) - set(known))
    if strangers:
        raise ArchiveError(f"It holds “{strangers[0]}”, which this Fellwind does not know.")
    full = [m for m in known.values() if _fills(m) and m._default_manager.exists()]
    if full:
        name = full[0]._meta.verbose_name_plural
        raise ArchiveError(f"This shop is not empty: it has {name}. Bring it into an empty one.")
    count = 0
    try:
        with transaction.atomic():
            people = _people(shop.tables.get(_person(), []))
            with connection.constraint_checks_disabled():
                for label, model in known.items():
                    if label != _person():
                        count += _brought(model, shop.tables.get(label, []), people)
            connection.check_constraints()
    except (DatabaseError, DjangoInvalid, DeserializationError, FieldDoesNotExist) as error:
        told = "; ".join(error.messages) if isinstance(error, DjangoInvalid) else str(error)
        raise ArchiveError(f"A row of it cannot be: {told[:300]}") from None
    folder = Path(settings.PHOTOS)
    folder.mkdir(parents=True, exist_ok=True)
    for name, content in pictures.items():
        (folder / name).write_bytes(content)
    return Taken(count + len(people), len(pictures))


def _fills(model: type[models.Model]) -> bool:
    """Whether rows of a table make a shop one that is not empty."""
    return model._meta.label_lower not in (_person(), "shop.workshop")


def opened(path: Path, kind: str) -> tuple[Pack, dict[str, bytes]]:
    """What an archive of a kind holds, and its photographs by the name of their file.

    Raises:
        ArchiveError: it is none, is torn, or is of another kind.
    """
    try:
        with zipfile.ZipFile(path) as pack:
            names = pack.namelist()
            if DATA not in names:
                raise ArchiveError(f"{path.name} is not from Fellwind: it has no {DATA}.")
            most, most_data, most_rows = MOST[kind]
            whole = sum(one.file_size for one in pack.infolist())
            if whole > most or pack.getinfo(DATA).file_size > most_data:
                raise ArchiveError(f"{path.name} unpacks to more than {WHOLE[kind]} holds.")
            strange = [n for n in names if not _allowed(n)]
            if strange:
                raise ArchiveError(f"{path.name} holds “{strange[0][:60]}”, which no shop writes.")
            text = pack.read(DATA)
            # a row is an object with an object of its fields in it; some have figures beside
            if text.count(b"{") > 4 * most_rows:
                raise ArchiveError(f"{path.name} holds more rows than {WHOLE[kind]}.")
            pictures = {
                name.removeprefix(PHOTOS): pack.read(name)
                for name in names if name.startswith(PHOTOS)
            }  # fmt: skip
    except (zipfile.BadZipFile, RuntimeError, EOFError, NotImplementedError):
        raise ArchiveError(f"{path.name} is no ZIP, or is damaged.") from None
    except OSError as error:
        raise ArchiveError(f"{path.name}: {error.strerror or error}.") from None
    wrong = [n for n, content in pictures.items() if content[:2] != b"\xff\xd8"]
    if wrong:
        raise ArchiveError(f"{wrong[0]} is no photograph.")
    try:
        shop = Pack.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        at = ".".join(str(part) for part in first["loc"])
        raise ArchiveError(f"{DATA}, {at or 'the whole of it'}: {first['msg']}.") from None
    if shop.format != kind:
        raise ArchiveError(
            f"{path.name} is {WHOLE[shop.format]}, and not {WHOLE[kind]}. {INSTEAD[shop.format]}"
        )
    if sum(map(len, shop.tables.values())) > most_rows:
        raise ArchiveError(f"{path.name} holds more rows than {WHOLE[kind]}.")
    return shop, pictures


def _allowed(name: str) -> bool:
    if name == DATA:
        return True
    if name.startswith(PHOTOS):
        return bool(PHOTO.fullmatch(name))
    return name.startswith(TABLES) and name.endswith(".csv") and ".." not in name


def _people(rows: list[Row]) -> dict[Any, Any]:
    """Who wrote, by the key they had: whoever has that name here, or a name that cannot enter."""
    model = apps.get_model(settings.AUTH_USER_MODEL)
    found = {}
    for row in rows:
        fields = {k: v for k, v in row.fields.items() if k in PERSON_FIELDS}
        name = str(fields.pop("username", ""))[:150]
        if not name:
            raise DjangoInvalid("A person without a name.")
        person = model._default_manager.filter(username=name).first()
        if person is None:
            person = model(username=name, is_active=False, **fields)
            person.set_unusable_password()
            person.full_clean(exclude=["password"])
            person.save()
        found[row.pk] = person.pk
    return found


def _brought(model: type[models.Model], rows: list[Row], people: dict[Any, Any]) -> int:
    """Write the rows of a table, each as it was; who wrote it is who has that name here."""
    by = [
        one.name for one in model._meta.concrete_fields
        if one.related_model is not None and one.related_model._meta.label_lower == _person()
    ]  # fmt: skip
    if not _fills(model):
        model._default_manager.all().delete()
    made = []
    for row in rows:
        fields = dict(row.fields)
        for name in by:
            if fields.get(name) is not None:
                fields[name] = people.get(fields[name])
        made.append(_row(model, row.pk, fields, own_keys=False))
    model._default_manager.bulk_create(made, batch_size=400)
    return len(rows)


def _row(model: type[models.Model], pk: Any, fields: dict[str, Any], own_keys: bool = True) -> Any:
    """A row from elsewhere, not yet kept; each field is looked at, and where ``own_keys`` also
    what it points to.
    """
    former = getattr(model, "of_former", None)  # a table that was laid out otherwise
    fields = former(fields) if former else fields
    data = [{"model": model._meta.label_lower, "pk": pk, "fields": fields}]
    (one,) = serializers.deserialize("python", data)
    # what was left empty was so in the shop, too; what must not be, the database says
    aside = [name for name, value in fields.items() if value in ("", None, [], {})]
    if not own_keys:
        aside += [one.name for one in model._meta.concrete_fields if one.is_relation]
    try:
        one.object.clean_fields(exclude=aside)
        look(one.object)
    except DjangoInvalid as error:
        at, told = next(iter(error.message_dict.items()))
        raise DjangoInvalid(f"{model._meta.label}, {at}: {told[0]}") from None
    return one.object


def written(model: type[models.Model], pk: Any, fields: dict[str, Any]) -> Any:
    """Write one row from elsewhere, once each of its fields may be so.

    Args:
        pk: its key, or None for a new one.
        fields: by name, as an archive has them.

    Returns:
        The key that it has here.

    Raises:
        ValidationError: a field that cannot be, with its table and name.
    """
    row = _row(model, pk, fields)
    models.Model.save_base(row, raw=True)
    return row.pk
