"""Data of the first version: carried over whole at the first start, or left as they stood."""

import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest

from fellwind.kit.carry import is_former

ROOT = Path(__file__).parents[2]
FIRST = Path(__file__).with_name("first_version.sql")
# As the data of a still earlier day stood: one meter reading on the stave, no series, no pictures.
EARLIER = """
ALTER TABLE staves_stave ADD COLUMN moisture real;
UPDATE staves_stave SET moisture = 0.14;
ALTER TABLE staves_weighing DROP COLUMN meter;
ALTER TABLE staves_weighing DROP COLUMN meter_text;
DROP TABLE staves_photo;
"""


def run(home: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    env = os.environ | {"FELLWIND_HOME": str(home), "PYTHONPATH": str(ROOT / "src")}
    command = [sys.executable, "-m", "fellwind", *arguments]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=False)


def former(home: Path, more: str = "") -> Path:
    file = home / "fellwind.sqlite3"
    with closing(sqlite3.connect(file)) as data:
        data.executescript("PRAGMA journal_mode=WAL;" + FIRST.read_text() + more)
    return file


def cut_off(part: Path) -> None:
    """What a start leaves that lost its power: a new file, and what waited beside it."""
    with closing(sqlite3.connect(part)) as data:
        data.execute("PRAGMA journal_mode=WAL")
        data.execute("CREATE TABLE people_person (half INTEGER)")
        data.commit()
        names = [f"{part}{ending}" for ending in ("", "-wal", "-shm")]
        left = {name: Path(name).read_bytes() for name in names}
    for name, content in left.items():
        Path(name).write_bytes(content)


def rows(file: Path, asked: str) -> list[tuple[object, ...]]:
    with closing(sqlite3.connect(file)) as data:
        return data.execute(asked).fetchall()


def test_a_shop_of_the_first_version_is_carried_over_whole(tmp_path: Path) -> None:
    file = former(tmp_path)
    cut_off(tmp_path / "fellwind.part")
    done = run(tmp_path, "prepare")
    assert done.returncode == 0, done.stderr
    assert rows(file, "SELECT username, role FROM people_person ORDER BY id") == [
        ("tuva", "maker"), ("helper", "helper"),
    ]  # fmt: skip
    assert rows(file, "SELECT draw_ruler, stage FROM builds_build") == [("trade", "tiller")]
    assert rows(file, "SELECT back_bow_length FROM designs_design")[0][0] == pytest.approx(1.016)
    assert rows(file, "SELECT text, corrects_id FROM rack_weighing ORDER BY id") == [
        ("1200 g", None), ("1300 g", 1),
    ]  # fmt: skip
    kinds = [row[0] for row in rows(file, "SELECT kind FROM builds_measure ORDER BY id")]
    assert kinds == ["string full", "weight", "gap"]
    assert rows(file, "SELECT kind, value, text FROM strings_stringentry") == [
        ("length", 1.63, "64 3/16 in")
    ]
    assert rows(file, "PRAGMA foreign_key_check") == []
    before = tmp_path / "fellwind-before.sqlite3"
    assert rows(before, "SELECT count(*) FROM staves_stave") == [(1,)]
    # what was read is what the bench now sees; a second start carries nothing over
    seen = run(
        tmp_path, "shell", "-v0", "-c",
        "from fellwind.builds.services import get_build\n"
        "from fellwind.tiller.services import bench\n"
        "found = bench(get_build(1))\n"
        "print([r.kind for r in found.check.readings], found.trouble or found.advice.act)",
    )  # fmt: skip
    assert seen.stdout.startswith("['weight', 'gap']"), seen.stderr
    assert not is_former(file)


def test_the_one_meter_reading_of_an_earlier_day_joins_its_series(tmp_path: Path) -> None:
    file = former(tmp_path, EARLIER)
    assert run(tmp_path, "prepare").returncode == 0
    found = rows(file, "SELECT day, meter, meter_text FROM rack_weighing WHERE meter > 0")
    assert found == [("2026-01-05", 0.14, "14.0 %, its day not kept")]
    assert rows(file, "SELECT count(*) FROM rack_photo") == [(0,)]


def test_data_in_use_or_with_dangling_rows_stay_as_they_are(tmp_path: Path) -> None:
    file = former(tmp_path)
    with closing(sqlite3.connect(file, isolation_level=None)) as somebody:
        somebody.execute("BEGIN IMMEDIATE")
        refused = run(tmp_path, "prepare")
        assert refused.returncode != 0 and "Stop the server first" in refused.stderr
        somebody.execute("ROLLBACK")
    with closing(sqlite3.connect(file)) as data:
        data.execute("UPDATE builds_build SET design_id = 77")
        data.commit()
    refused = run(tmp_path, "prepare")
    assert refused.returncode != 0 and "point to what is not there" in refused.stderr
    assert rows(file, "SELECT design_id FROM builds_build") == [(77,)]
