"""Backups: made and looked through, refused with a sentence when they are not whole or not ours,
and back with everything that was there.
"""

import io
import json
import os
import re
import shutil
import sqlite3
import subprocess
import sys
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.conf import settings
from django.core.management import call_command
from django.test import Client
from PIL import Image

from fellwind.kit import backups
from fellwind.kit.backups import BackupError, Kept, database
from fellwind.kit.lock import InUseError, held
from fellwind.shop import keeper
from fellwind.shop.models import Backup, Workshop
from tests.web.command import run
from tests.web.forms import made_from
from tests.web.test_two_people import SHOP

NOW = datetime(2026, 11, 20, 8, 30, tzinfo=UTC)
PICTURE = "0123456789abcdef0123456789abcdef"


@pytest.fixture(scope="module")
def made(
    tmp_path_factory: pytest.TempPathFactory, django_db_blocker: pytest.FixtureRequest
) -> Path:
    """A shop's folder: a name, a stave, a photograph with its file."""
    home = tmp_path_factory.mktemp("made")
    blocker, file = django_db_blocker, home / backups.DATA
    with blocker.unblock(), database(file, "making"):  # type: ignore[attr-defined]
        call_command("migrate", database="making", verbosity=0)
    with closing(sqlite3.connect(home / backups.DATA)) as data:
        data.execute("PRAGMA journal_mode=WAL")
        put(data, "shop_workshop", id=1, name="Before")
        put(data, "rack_stave", id=1, number=1, material="plum", length=1, width=0.05, depth=0.05)
        put(data, "rack_photo", id=1, stave_id=1, name=PICTURE, caption="end", width=20, height=20)
        data.commit()
    (home / "photos").mkdir()
    picture = io.BytesIO()
    Image.effect_noise((64, 48), 80).convert("RGB").save(picture, "JPEG")
    for ending in ("", "-small"):
        (home / "photos" / f"{PICTURE}{ending}.jpg").write_bytes(picture.getvalue())
    return home


def put(data: sqlite3.Connection, table: str, **given: object) -> None:
    """A row; what is not given is empty."""
    for _, name, kind, needed, usual, _ in data.execute(f"PRAGMA table_info({table})").fetchall():
        if needed and usual is None and name not in given:
            given[name] = (
                "2026-01-01" if "date" in kind else "" if "char" in kind or kind == "text" else 1
            )
    marks = ", ".join("?" for _ in given)
    data.execute(f"INSERT INTO {table} ({', '.join(given)}) VALUES ({marks})", list(given.values()))


@pytest.fixture
def home(made: Path, tmp_path: Path) -> Path:
    """A copy of it."""
    return shutil.copytree(made, tmp_path / "home")


@pytest.fixture
def unblocked(django_db_blocker: pytest.FixtureRequest) -> Iterator[None]:
    """Databases of one's own may be opened."""
    with django_db_blocker.unblock():  # type: ignore[attr-defined]
        yield


def named(home: Path) -> str:
    with closing(sqlite3.connect(home / backups.DATA)) as data:
        return str(data.execute("SELECT name FROM shop_workshop").fetchone()[0])


def rename(home: Path, name: str) -> None:
    with closing(sqlite3.connect(home / backups.DATA)) as data:
        data.execute("UPDATE shop_workshop SET name = ?", [name])
        data.commit()


def test_a_backup_comes_back_whole_and_what_was_there_stays_beside_it(
    home: Path, unblocked: None
) -> None:
    file = home / "shop.zip"
    with closing(sqlite3.connect(home / backups.DATA)) as somebody:
        somebody.execute("BEGIN IMMEDIATE")  # the shop is open, and somebody writes
        somebody.execute("UPDATE shop_workshop SET name = 'Half'")
        kept = backups.write(home, file)
        somebody.rollback()
    assert kept == Kept(file, file.stat().st_size, 1, 0) and file.stat().st_mode & 0o77 == 0
    with pytest.raises(BackupError, match="exists already"):
        backups.write(home, file)
    rename(home, "After")
    picture = home / "photos" / f"{PICTURE}.jpg"
    before = picture.read_bytes()
    picture.unlink()
    former_data, missing = backups.restore(home, file, NOW)
    assert named(home) == "Before" and picture.read_bytes() == before and missing == 0
    assert former_data == home / "before-restore-20261120-083000.sqlite3"
    with closing(sqlite3.connect(former_data)) as data:
        assert data.execute("SELECT name FROM shop_workshop").fetchone()[0] == "After"
    assert (home / backups.DATA).stat().st_mode & 0o77 == 0
    assert not list(home.glob(f"{backups.WORKING}*")) and not list(home.glob("*-wal"))


def test_cut_off_at_the_last_moment_the_shop_is_still_there(
    home: Path, unblocked: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    backups.write(home, home / "shop.zip")
    rename(home, "After")

    def killed(*_: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as patch, pytest.raises(KeyboardInterrupt):
        patch.setattr(Path, "replace", killed)
        backups.restore(home, home / "shop.zip", NOW)
    assert named(home) == "After"
    assert backups.restore(home, home / "shop.zip", NOW + timedelta(seconds=1))[1] == 0
    assert named(home) == "Before"


def test_a_whole_backup_among_the_daily_ones_brings_its_own_photographs(
    home: Path, unblocked: None
) -> None:
    folder = home / "backups"
    backups.daily(home, folder, NOW.date())
    for file in (folder / backups.BESIDE).iterdir():
        file.unlink()
    backups.write(home, folder / "whole.zip")
    shutil.rmtree(home / "photos")
    assert backups.restore(home, folder / "whole.zip", NOW)[1] == 0


def test_what_was_cut_off_is_swept_away_and_what_is_at_work_stays(home: Path) -> None:
    left, fresh = home / f"{backups.WORKING}left", home / f"{backups.WORKING}fresh"
    for one in (left, fresh):
        one.mkdir()
        (one / "x").write_bytes(b"x")
    os.utime(left, (0, 0))
    assert run(home, "prepare").returncode == 0
    assert not left.exists() and (fresh / "x").exists()


def test_a_photograph_without_its_file_is_told_and_a_bare_database_comes_back(
    home: Path, unblocked: None
) -> None:
    (home / "photos" / f"{PICTURE}.jpg").unlink()
    assert backups.write(home, home / "shop.zip").missing == 1
    bare = home / "bare.sqlite3"
    backups.copied(home / backups.DATA, bare)
    rename(home, "After")
    assert backups.restore(home, bare, NOW)[1] == 1 and named(home) == "Before"


def _repacked(file: Path, change: Callable[[Path], None]) -> None:
    """A backup with its database changed."""
    with zipfile.ZipFile(file) as pack:
        rest = {n: pack.read(n) for n in pack.namelist()}
    data = file.with_name("inside.sqlite3")
    data.write_bytes(rest.pop(backups.DATA))
    change(data)
    with zipfile.ZipFile(file, "w") as pack:
        pack.write(data, backups.DATA)
        for name, content in rest.items():
            pack.writestr(name, content)


def sql(*said: str) -> Callable[[Path], None]:
    def spoil(file: Path) -> None:
        def change(data: Path) -> None:
            with closing(sqlite3.connect(data)) as opened:
                for one in said:
                    opened.execute(one)
                opened.commit()

        _repacked(file, change)

    return spoil


def more(name: str) -> Callable[[Path], None]:
    def spoil(file: Path) -> None:
        with zipfile.ZipFile(file, "a") as pack:
            pack.writestr(name, b"x")

    return spoil


def flipped(file: Path) -> None:
    content = bytearray(file.read_bytes())
    content[len(content) // 2] ^= 0xFF
    file.write_bytes(content)


def locked(file: Path) -> None:
    """As a ZIP with a password has it: the flag of every file."""
    content = bytearray(file.read_bytes())
    for sign, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        for found in re.finditer(re.escape(sign), bytes(content)):
            content[found.start() + at] |= 1
    file.write_bytes(content)


def encrypted(data: Path) -> None:
    data.write_bytes(os.urandom(40_000))


def torn_pages(data: Path) -> None:
    content = bytearray(data.read_bytes())
    content[9000:14000] = os.urandom(5000)
    data.write_bytes(content)


HARM: dict[str, tuple[Callable[[Path], object], str]] = {
    "nothing": (lambda file: file.unlink(), "There is no file"),
    "noise": (lambda file: file.write_bytes(b"not a database" * 999), "not a backup of a Fellwind"),
    "empty": (lambda file: file.write_bytes(b""), "not a backup of a Fellwind"),
    "cut short": (lambda file: file.write_bytes(file.read_bytes()[:-300]), "not a backup|damaged"),
    "a bit flipped": (flipped, "is damaged"),
    "locked": (locked, "locked with a password"),
    "encrypted inside": (lambda f: _repacked(f, encrypted), "or it is encrypted"),
    "torn inside": (lambda f: _repacked(f, torn_pages), "damaged|malformed"),
    "a way out": (more("../elsewhere.jpg"), "a file that is not ours"),
    "a way out of the photographs": (more("photos/../../x.jpg"), "a file that is not ours"),
    "a stranger": (more("photos/letter.txt"), "a file that is not ours"),
    "absolute": (more("/etc/cron.d/x"), "a file that is not ours"),
    "a trigger": (
        sql("CREATE TRIGGER t AFTER INSERT ON shop_archer BEGIN DELETE FROM shop_gear; END"),
        "what Fellwind never writes",
    ),
    "a dangling row": (
        sql("PRAGMA foreign_keys=OFF", "UPDATE rack_photo SET stave_id = 77"),
        "point to what is not there",
    ),
    "newer": (
        sql("INSERT INTO django_migrations (app, name, applied) VALUES ('rack', '0999_x', '')"),
        "newer Fellwind; update",
    ),
    "no history": (sql("DROP TABLE django_migrations"), "which version wrote it"),
    "a column less": (sql("ALTER TABLE shop_archer DROP COLUMN notes"), "not in the form"),
    "a table more": (sql("CREATE TABLE stowaway (x INTEGER)"), "not in the form"),
    "another type": (
        sql("ALTER TABLE rack_photo RENAME COLUMN caption TO said"), "not in the form",
    ),
    "a lost constraint": (sql("DROP INDEX one_tick"), "not in the form"),
    "another application": (
        lambda f: _repacked(f, lambda d: (d.unlink(), sql_made(d, "CREATE TABLE letters (x)"))[0]),
        "not a backup of a Fellwind",
    ),
}  # fmt: skip


def sql_made(data: Path, said: str) -> None:
    with closing(sqlite3.connect(data)) as opened:
        opened.execute(said)


@pytest.mark.parametrize("harm", HARM)
def test_what_is_not_whole_or_not_ours_changes_nothing(
    home: Path, unblocked: None, harm: str
) -> None:
    file = home / "shop.zip"
    backups.write(home, file)
    rename(home, "After")
    spoil, says = HARM[harm]
    spoil(file)
    before = sorted(p.relative_to(home) for p in home.rglob("*"))
    with pytest.raises(BackupError, match=says):
        backups.restore(home, file, NOW)
    assert named(home) == "After"
    after = {p.relative_to(home) for p in home.rglob("*")}
    assert after - {Path(f"{backups.DATA}{e}") for e in ("-wal", "-shm")} <= set(before)


def test_a_backup_of_an_earlier_version_is_brought_to_this_one(home: Path, unblocked: None) -> None:
    """The state of a while ago: designs with a column for each figure, and other names for what
    was migrated.
    """
    older = home / "older.sqlite3"
    with database(older, "older"):
        call_command("migrate", database="older", verbosity=0)
        call_command("migrate", "designs", "0001", database="older", verbosity=0)
    with closing(sqlite3.connect(older)) as data:
        data.execute("DELETE FROM django_migrations WHERE name LIKE '0001_room' AND app = 'kit'")
        for name in ("0001_initial", "0002_initial"):
            values = f"('kit', '{name}', '2026-01-01')"
            data.execute(f"INSERT INTO django_migrations (app, name, applied) VALUES {values}")
        put(data, "shop_workshop", id=1, name="Long ago")
        put(data, "shop_archer", id=1, name="Tuva")
        made = dict.fromkeys(("outline", "grip_width", "tip_bent", "gap", "learned"))
        usual = {"lams": "[]", "line": "{}", "handle": 0.1, "fade": 0.05, "back_bow_count": 2}
        put(data, "designs_design", id=1, archer_id=1, tip_static=1, **usual, **made)
        data.commit()
    backups.restore(home, older, NOW)
    assert named(home) == "Long ago"
    with closing(sqlite3.connect(home / backups.DATA)) as data:
        sizes = json.loads(data.execute("SELECT sizes FROM designs_design").fetchone()[0])
    assert sizes["handle"] == 0.1 and sizes["tip_static"] == "1" and sizes["back_bow_count"] == "2"
    assert sizes["gap"] is None and sizes["lams"] == []


def test_nothing_is_put_back_while_a_server_runs(home: Path) -> None:
    code = "import sys; from pathlib import Path; from fellwind.kit.lock import held\n"
    code += "with held(Path(sys.argv[1]), 'a server'): print('held', flush=True); input()"
    env = os.environ | {"PYTHONPATH": "src"}
    server = subprocess.Popen(
        [sys.executable, "-c", code, str(home)], env=env, text=True,
        stdin=subprocess.PIPE, stdout=subprocess.PIPE,
    )  # fmt: skip
    assert server.stdout and server.stdout.readline() == "held\n"
    for command in (["backup", str(home / "x.zip"), "--restore"], ["prepare"], ["run"]):
        refused = run(home, *command)
        assert refused.returncode != 0
        assert f"in use by a server (process {server.pid})" in refused.stderr, refused.stderr
        assert "Traceback" not in refused.stderr
    server.kill()
    server.communicate()
    with held(home, "a test"), pytest.raises(InUseError, match="a test"), held(home, "another"):
        pass


def test_old_backups_are_thinned_and_the_oldest_years_stay() -> None:
    today, kept = date(2026, 11, 28), set[date]()
    for age in range(365 * 6, -1, -1):
        day = today - timedelta(days=age)
        kept.add(day)
        kept -= backups.thinned(kept, day)
    ages = sorted((today - day).days for day in kept)
    assert ages[:15] == list(range(15))
    assert 40 <= len(kept) <= 60
    assert {day.year for day in kept} == set(range(2020, 2027))
    gaps = [later - earlier for earlier, later in pairwise(ages)]
    assert max(gap for age, gap in zip(ages, gaps, strict=False) if age < 92) <= 7
    assert backups.thinned(kept, today) == set()


def test_each_day_has_its_backup_and_photographs_stand_once(home: Path, unblocked: None) -> None:
    folder, today = home / "backups", date(2026, 11, 20)
    kept = backups.daily(home, folder, today)
    assert kept and kept.path.name == "fellwind-2026-11-20.zip"
    assert backups.daily(home, folder, today) is None
    backups.daily(home, folder, today + timedelta(days=1))
    assert len(list(folder.glob("fellwind-*.zip"))) == 2
    assert len(list((folder / "photographs").iterdir())) == 2
    assert folder.stat().st_mode & 0o77 == 0
    # from such a backup everything comes back, the photographs too
    shutil.rmtree(home / "photos")
    rename(home, "After")
    assert backups.restore(home, kept.path, NOW)[1] == 0
    assert named(home) == "Before" and (home / "photos" / f"{PICTURE}.jpg").exists()
    with pytest.raises(BackupError, match="is not there"):
        backups.daily(home, home / "nowhere", today)


def test_a_clock_that_jumps_ahead_takes_few_backups_and_never_the_newest(
    home: Path, unblocked: None
) -> None:
    folder, today = home / "backups", date(2026, 11, 20)
    folder.mkdir()
    days = [today - timedelta(days=age) for age in range(1, 40)]
    for day in days:
        (folder / f"fellwind-{day:%Y-%m-%d}.zip").write_bytes(b"x")
    for jump in (20, 400, 9000):
        before = {path.name for path in folder.glob("fellwind-*.zip")}
        kept = backups.daily(home, folder, today + timedelta(days=jump))
        left = {path.name for path in folder.glob("fellwind-*.zip")}
        assert kept and kept.path.name in left and len(before - left) <= 3
        assert set(sorted(before)[-9:]) <= left


def test_the_keeper_goes_on_after_a_disk_that_filled(
    shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> Kept:
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(backups, "daily", full)
    keeper.keep_daily()
    assert "disk is full" in Backup.objects.get().trouble
    looks = list[int]()

    def broken() -> None:
        looks.append(1)
        raise RuntimeError("anything")

    monkeypatch.setattr(keeper, "keep_daily", broken)
    monkeypatch.setattr(keeper, "FIRST", 0.0)
    monkeypatch.setattr(keeper, "EVERY", 0.0)
    monkeypatch.setattr(keeper.threading, "Event", lambda: SimpleNamespace(
        wait=lambda _: len(looks) >= 3))  # fmt: skip
    keeper._run()
    assert len(looks) == 3


def test_today_says_when_the_last_backup_was_made(
    client: Client, shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    def told() -> str:
        page = client.get("/").content.decode().split('class="backup"')[1]
        return page.split("</section>")[0]

    assert "No backup yet" in told()
    made = Kept(tmp_path / "x.zip", 120_000, 0, 0)
    monkeypatch.setattr(backups, "daily", lambda *_: made)
    keeper.keep_daily()
    assert "Last backup" in told() and "117.2" in told() and "bracken" not in told()

    def full(*_: object) -> Kept:
        raise OSError(28, "No space left on device", str(tmp_path))

    monkeypatch.setattr(backups, "daily", full)
    keeper.keep_daily()
    keeper.keep_daily()
    assert Backup.objects.exclude(trouble="").count() == 1
    assert "Last backup" in told() and "No space left on device" in told() and "bracken" in told()
    Backup.objects.exclude(trouble="").delete()
    Backup.objects.update(at=Backup.objects.get().at - timedelta(days=3))
    assert "That is long ago" in told()


def test_the_shop_chooses_where_backups_go(
    client: Client, shop: SimpleNamespace, tmp_path: Path
) -> None:
    assert keeper.folder() == Path(settings.HOME) / "backups"
    for typed, says in (
        ("backups", "whole path"),
        (str(tmp_path / "none"), "no such folder"),
        ("/proc/1", "may not write" if os.geteuid() else ""),
    ):
        sent = SHOP | made_from(Workshop.get()) | {"backup_folder": typed}
        if says:
            assert says in client.post("/shop/", sent).content.decode()
    sent = SHOP | made_from(Workshop.get()) | {"backup_folder": str(tmp_path)}
    assert client.post("/shop/", sent).status_code == 302
    assert keeper.folder() == tmp_path
