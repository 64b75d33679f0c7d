"""Backups: a checked copy of the data with the photographs, made while the shop is open; and the
way back, which looks at everything before it touches anything.

A backup is a ZIP of ``fellwind.sqlite3`` and ``photos/``. Those that the shop makes by itself leave
the photographs beside them, in ``photographs/``, where all of them find theirs.
"""

import os
import re
import shutil
import sqlite3
import zipfile
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from django.apps import apps
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import DatabaseError, connections
from django.db.migrations.loader import MigrationLoader

DATA, PHOTOS, BESIDE = "fellwind.sqlite3", "photos/", "photographs"
PHOTO = re.compile(r"(?:photos/)?[0-9a-z]{1,40}(?:-small)?\.jpg")
OURS = re.compile(r"fellwind-(\d{4}-\d\d-\d\d)\.zip")
MOST_BYTES = 20_000_000_000
NEWEST, AT_ONCE = 10, 3  # backups that always stay; that are let go on one day
SHOP = "shop_workshop"  # the table that tells a shop's data
PICTURES = ("rack_photo", "builds_benchphoto")
_ALIAS = "returning"


class BackupError(Exception):
    """What is wrong with a backup, as a sentence; nothing was changed."""


@dataclass(frozen=True)
class Kept:
    """A backup that was written: where, how large (bytes), of how many photographs, and how many of
    them had no file.
    """

    path: Path
    size: int
    photographs: int
    missing: int


def copied(data: Path, target: Path) -> None:
    """SQLite's online copy of a database that may be in use."""
    source = sqlite3.connect(f"file:{data}?mode=ro", uri=True)
    with closing(source) as live, closing(sqlite3.connect(target)) as copy:
        live.backup(copy)
        copy.execute("PRAGMA journal_mode=DELETE")


def looked_through(data: Path, name: Path) -> None:
    """See that a database is a sound one of a shop.

    Raises:
        BackupError: it is none, or is damaged.
    """
    try:
        with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
            sound = copy.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
            found = copy.execute("SELECT type, name FROM sqlite_master").fetchall()
            lost = copy.execute("PRAGMA foreign_key_check").fetchall()
    except sqlite3.Error as error:
        raise BackupError(
            f"{name} is not a backup of a Fellwind shop, or it is encrypted: {error}."
        ) from None
    if SHOP not in {row[1] for row in found}:
        raise BackupError(f"{name} is not a backup of a Fellwind shop.")
    if not sound:
        raise BackupError(f"{name} is damaged; take another backup.")
    if lost:
        raise BackupError(f"{name} is damaged: {len(lost)} rows point to what is not there.")
    odd = sorted(row[1] for row in found if row[0] in ("trigger", "view"))
    if odd:
        raise BackupError(f"{name} holds what Fellwind never writes ({', '.join(odd[:3])}).")


def photographs(data: Path) -> list[str]:
    """Names of the photographs' files that a database speaks of."""
    with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
        known = {row[0] for row in copy.execute("SELECT name FROM sqlite_master")}
        rows = [
            row
            for table in PICTURES
            if table in known
            for row in copy.execute(f"SELECT name FROM {table}").fetchall()  # noqa: S608
        ]
    return [f"{row[0]}.jpg" for row in rows]


def _synced(path: Path) -> None:
    """See a file or a folder onto the disk."""
    descriptor = os.open(path, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def write(home: Path, path: Path, beside: bool = False) -> Kept:
    """Write a backup, look at it again, and only then give it its name.

    Args:
        beside: leave the photographs in a folder beside it, and not in it.

    Raises:
        BackupError: the file is there already, or what was written is not sound.
        OSError: it cannot be written there.
    """
    if path.exists():
        raise BackupError(f"{path} exists already; give another name.")
    folder, part = home / "photos", path.with_name(path.name + ".part")
    with _place(home) as place:
        data = place / DATA
        copied(home / DATA, data)
        looked_through(data, path)
        names = photographs(data)
        files = sorted(folder.glob("*.jpg"))
        try:
            part.touch(mode=0o600)
            with zipfile.ZipFile(part, "w") as pack:
                pack.write(data, DATA, zipfile.ZIP_DEFLATED)
                for file in [] if beside else files:
                    pack.write(file, PHOTOS + file.name)
            if beside:
                _mirrored(files, path.with_name(BESIDE))
            with zipfile.ZipFile(part) as pack:
                if pack.testzip() is not None:
                    raise BackupError(f"{path} cannot be read again as it was written.")
                looked_through(Path(pack.extract(DATA, place)), path)
            _synced(part)
            part.rename(path)
            _synced(path.parent)
        finally:
            part.unlink(missing_ok=True)
    missing = sum(not (folder / name).exists() for name in names)
    return Kept(path, path.stat().st_size, len(names), missing)


def _mirrored(files: Iterable[Path], folder: Path) -> None:
    """Copy photographs that are not there yet; a photograph never changes."""
    folder.mkdir(mode=0o700, exist_ok=True)
    for file in files:
        there = folder / file.name
        if not there.exists() or there.stat().st_size != file.stat().st_size:
            part = there.with_suffix(".part")
            shutil.copyfile(file, part)
            part.chmod(0o600)
            part.rename(there)


WORKING = "working-"


@contextmanager
def _place(home: Path) -> Iterator[Path]:
    """A folder for the while, on the disk of the data."""
    with TemporaryDirectory(dir=home, prefix=WORKING) as folder:
        yield Path(folder)


def swept(home: Path, before: datetime) -> None:
    """Take away what a backup or a restore left that was cut off."""
    for left in home.glob(f"{WORKING}*"):
        if left.stat().st_mtime < before.timestamp():
            shutil.rmtree(left, ignore_errors=True)


@contextmanager
def unpacked(path: Path, home: Path) -> Iterator[tuple[Path, list[Path]]]:
    """A copy of a backup's data, and the folders where its photographs lie: in it, and beside it.

    Raises:
        BackupError: it cannot be read, is torn, locked, too large, or holds files that are not
            ours.
    """
    with _place(home) as place:
        try:
            if not zipfile.is_zipfile(path):
                shutil.copyfile(path, place / DATA)  # a bare database, as older versions wrote it
            else:
                with zipfile.ZipFile(path) as pack:
                    _looked_through(pack, path, home)
                    pack.extractall(place)
        except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError) as error:
            raise BackupError(f"{path} is damaged: {error}.") from None
        except OSError as error:
            raise BackupError(f"{path} cannot be read: {error.strerror or error}.") from None
        yield place / DATA, [place / "photos", path.with_name(BESIDE)]


def _looked_through(pack: zipfile.ZipFile, path: Path, home: Path) -> None:
    """Refuse a ZIP by its list, before anything of it is unpacked."""
    listed = pack.infolist()
    names = [one.filename for one in listed]
    if DATA not in names:
        raise BackupError(f"{path} is not a backup of a Fellwind shop: there is no {DATA} in it.")
    if any(one.flag_bits & 1 for one in listed):
        raise BackupError(f"{path} is locked with a password; unlock it first.")
    odd = [n for n in names if n != DATA and not (n.startswith(PHOTOS) and PHOTO.fullmatch(n))]
    if odd or len(set(names)) != len(names):
        raise BackupError(f"{path} holds a file that is not ours: {(odd or names)[0][:80]!r}.")
    size = sum(one.file_size for one in listed)
    if size > min(MOST_BYTES, shutil.disk_usage(home).free):
        raise BackupError(f"{path} unpacks to {size / 1e9:.1f} GB; there is no room for it.")


def restore(home: Path, path: Path, now: datetime) -> tuple[Path | None, int]:
    """Put a backup in the place of the present data.

    All of it is unpacked, checked and brought to this version beside the present data first. Those
    stay, under another name. Whoever calls holds the data (:mod:`fellwind.kit.lock`).

    Args:
        path: the backup, a ZIP or a bare database.
        now: the moment, for the name of the former data.

    Returns:
        Where the former data are, none where there were none; how many photographs have no file.

    Raises:
        BackupError: the backup cannot be taken; nothing was changed.
    """
    if not path.is_file():
        raise BackupError(f"There is no file {path}.")
    with unpacked(path, home) as (data, photos):
        looked_through(data, path)
        _present(data, path)
        folder = home / "photos"
        for where in photos:
            _mirrored((f for f in where.glob("*.jpg") if PHOTO.fullmatch(f.name)), folder)
        before = _beside(home, now)
        data.chmod(0o600)
        _synced(data)
        data.replace(home / DATA)  # at every moment there is a whole shop under this name
        _synced(home)
    return before, sum(not (folder / name).exists() for name in photographs(home / DATA))


def _beside(home: Path, now: datetime) -> Path | None:
    """Keep the present data under another name as well; their log goes into their file."""
    live = home / DATA
    if not live.exists():
        return None
    before = home / f"before-restore-{now:%Y%m%d-%H%M%S}.sqlite3"
    copied(live, before)
    _synced(before)
    with closing(sqlite3.connect(live)) as data:
        data.execute("PRAGMA journal_mode=DELETE")
    return before


def _present(data: Path, name: Path) -> None:
    """Bring a backup's data to this version, and see that they are in its form."""
    _refuse_newer(data, name)
    try:
        with database(data, _ALIAS):
            call_command("migrate", database=_ALIAS, verbosity=0)
    except (DatabaseError, CommandError, ValueError, LookupError) as error:
        raise BackupError(f"{name} cannot be brought to this version: {error}") from None
    with TemporaryDirectory() as place:
        empty = Path(place) / DATA
        with database(empty, _ALIAS):
            call_command("migrate", database=_ALIAS, verbosity=0)
        wanted, found = _form(empty), _form(data)
    for table in sorted(wanted.keys() | found.keys()):
        if wanted.get(table) != found.get(table):
            raise BackupError(f"{name} is not in the form of a Fellwind shop: see its {table}.")
    looked_through(data, name)


@contextmanager
def database(file: Path, alias: str) -> Iterator[None]:
    """Let Django see another database, under an alias of its own, as one file with nothing
    beside it.
    """
    options = connections.databases["default"]["OPTIONS"]
    quiet = {"init_command": "PRAGMA synchronous=OFF; PRAGMA foreign_keys=ON;"}
    other = {"NAME": file, "OPTIONS": options | quiet}
    connections.databases[alias] = connections.databases["default"] | other
    try:
        yield
    finally:
        connections[alias].close()
        del connections[alias]
        del connections.databases[alias]


def _refuse_newer(data: Path, name: Path) -> None:
    with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
        try:
            applied = set(copy.execute("SELECT app, name FROM django_migrations").fetchall())
        except sqlite3.Error:
            raise BackupError(f"{name} does not say which version wrote it.") from None
    loader = MigrationLoader(None)
    ours = {app.label for app in apps.get_app_configs()}
    known = set(loader.disk_migrations)
    known |= {key for step in loader.disk_migrations.values() for key in step.replaces}
    unknown = sorted(applied - known)
    if unknown:
        app, step = unknown[0]
        newer = "was written by a newer Fellwind; update this one first"
        raise BackupError(f"{name} {newer} ({app} {step} is not known here).")
    if not applied & {key for key in known if key[0] in ours}:
        raise BackupError(f"{name} does not say which version wrote it.")


Form = dict[str, tuple[object, ...]]


def _form(data: Path) -> Form:
    """Columns, references and indexes of every table."""
    found: Form = {}
    with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
        listed = copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        for (table,) in listed:
            if table.startswith("sqlite_"):
                continue
            columns = copy.execute(f'PRAGMA table_xinfo("{table}")').fetchall()
            keys = copy.execute(f'PRAGMA foreign_key_list("{table}")').fetchall()
            indexes = copy.execute(f'PRAGMA index_list("{table}")').fetchall()
            parts = []
            for _, index, unique, _, partial in indexes:
                named = copy.execute(f'PRAGMA index_info("{index}")').fetchall()
                parts.append((unique, partial, tuple(row[2] for row in named)))
            found[table] = (
                frozenset((c[1], c[2].lower(), c[3], c[5] > 0) for c in columns),
                frozenset((k[2], k[3], k[4]) for k in keys),
                frozenset(parts),
            )
    return found


def thinned(days: Iterable[date], today: date) -> set[date]:
    """Which daily backups are let go: all of a fortnight stay, then one of each week for a quarter,
    of each month for two years, and of each year for ever; the newest of its span.
    """
    stays: dict[object, date] = {}
    for day in sorted(days):
        age = (today - day).days
        if age <= 14:
            span: object = day
        elif age <= 92:
            span = ("week", *day.isocalendar()[:2])
        elif age <= 731:
            span = ("month", day.year, day.month)
        else:
            span = ("year", day.year)
        stays[span] = day
    return set(days) - set(stays.values())


def daily(home: Path, folder: Path, today: date) -> Kept | None:
    """Make today's backup where there is none yet, and let go of old ones.

    Returns:
        What was made; None where today's is there.

    Raises:
        BackupError, OSError: why there is none.
    """
    if folder == home / "backups":
        folder.mkdir(mode=0o700, exist_ok=True)
    if not folder.is_dir():
        raise BackupError(f"The folder {folder} is not there.")
    for left in folder.glob("fellwind-*.zip.part"):
        left.unlink()
    path = folder / f"fellwind-{today:%Y-%m-%d}.zip"
    if path.exists():
        return None
    kept = write(home, path, beside=True)
    there = {
        date.fromisoformat(m[1]): file
        for file in folder.iterdir()
        if (m := OURS.fullmatch(file.name))
    }
    # a clock that jumped ahead makes every backup look old: few go at once, the newest never
    old = thinned(there, today) - set(sorted(there)[-NEWEST:])
    for day in sorted(old)[:AT_ONCE]:
        there[day].unlink()
    return kept
