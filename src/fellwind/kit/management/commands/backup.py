"""Write a checked copy of the shop's data, with its photographs, while the shop is open; or put one
back.
"""

import sqlite3
import zipfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection

from fellwind.kit.carry import FORMERLY

DATA, PHOTOS = "fellwind.sqlite3", "photos/"
# What tells a shop's data, and where its photographs are listed: now, and in the first version,
# whose backups are carried over once they are back.
SHOPS = {"shop_workshop", FORMERLY["shop_workshop"]}
PICTURES = ("rack_photo", FORMERLY["rack_photo"])


def check(data: Path, name: Path) -> list[str]:
    """Names of the photographs a copy of the data speaks of; refuses a file that is no sound data
    of this application.
    """
    try:
        with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
            sound = copy.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            tables = {row[0] for row in copy.execute("SELECT name FROM sqlite_master")}
            if not tables & SHOPS:
                raise CommandError(f"{name} is not a backup of a Fellwind shop.")
            pictures = next((table for table in PICTURES if table in tables), None)
            asked = f"SELECT name FROM {pictures}"  # noqa: S608
            rows = copy.execute(asked).fetchall() if pictures else []
    except sqlite3.Error as error:
        raise CommandError(f"{name} is not a backup of a Fellwind shop: {error}.") from None
    if not sound:
        raise CommandError(f"{name} is damaged.")
    return [f"{row[0]}.jpg" for row in rows]


@contextmanager
def unpacked(path: Path) -> Iterator[tuple[Path, Path]]:
    """A backup's data and its folder of photographs; a bare database, as older versions wrote it,
    has none.
    """
    with TemporaryDirectory() as folder:
        place = Path(folder)
        if not zipfile.is_zipfile(path):
            yield path, place
            return
        with zipfile.ZipFile(path) as pack:
            if DATA not in pack.namelist():
                raise CommandError(
                    f"{path} is not a backup of a Fellwind shop: there is no {DATA} in it."
                )
            try:
                if pack.testzip() is not None:
                    raise CommandError(f"{path} is damaged.")
                pack.extract(DATA, place)
                for name in pack.namelist():
                    if (
                        name.startswith(PHOTOS)
                        and name.endswith(".jpg")
                        and Path(name).parent == Path(PHOTOS)
                    ):
                        pack.extract(name, place)
            except (zipfile.BadZipFile, OSError, EOFError) as error:
                raise CommandError(f"{path} is damaged: {error}.") from None
        yield place / DATA, place / PHOTOS


class Command(BaseCommand):
    """``./fellwind backup FILE``: SQLite's online copy and the photographs in one ZIP;
    ``--restore`` puts them back.
    """

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--restore", action="store_true", help="put FILE in the place of the present data"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        connection.ensure_connection()
        live: sqlite3.Connection = connection.connection
        folder = Path(settings.PHOTOS)
        if options["restore"]:
            self.restore(path, live, folder)
            return
        if path.exists():
            raise CommandError(f"{path} exists already; give another name.")
        with TemporaryDirectory() as place:
            data = Path(place) / DATA
            with closing(sqlite3.connect(data)) as copy:
                live.backup(copy)
            names = check(data, path)
            part = path.with_name(path.name + ".part")
            with zipfile.ZipFile(part, "w") as pack:
                pack.write(data, DATA, zipfile.ZIP_DEFLATED)
                for file in sorted(folder.glob("*.jpg")):
                    pack.write(file, PHOTOS + file.name)
            part.rename(path)
        self.missing(name for name in names if not (folder / name).exists())
        self.stdout.write(f"Kept in {path}, with {len(names)} photographs.")

    def restore(self, path: Path, live: sqlite3.Connection, folder: Path) -> None:
        """The photographs first: whatever row comes back then finds its file."""
        with unpacked(path) as (data, photos):
            names = check(data, path)
            folder.mkdir(parents=True, exist_ok=True)
            for file in photos.glob("*.jpg"):
                part = (folder / file.name).with_suffix(".part")
                part.write_bytes(file.read_bytes())
                part.rename(folder / file.name)
            with closing(sqlite3.connect(f"file:{data}?mode=ro", uri=True)) as copy:
                copy.backup(live)
        self.missing(name for name in names if not (folder / name).exists())
        self.stdout.write(f"The shop is as it was in {path}.")

    def missing(self, names: Iterator[str]) -> None:
        count = len(list(names))
        if count:
            self.stderr.write(f"{count} photographs have no file; their rows are kept.")
