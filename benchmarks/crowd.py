"""People at the same moment: nothing counts twice, nothing breaks, the last maker stays.

Run by hand:

    python benchmarks/crowd.py 20

Each round, four people tick the same item, move the same flaw, correct the same entry and the same
weighing, change the same archer from the same page, and two makers make each other a guest.
"""

from __future__ import annotations

import argparse
import sqlite3
import sys
import tempfile
from contextlib import closing
from pathlib import Path
from uuid import uuid4

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from benchmarks.visitor import Answer, Shop, Visitor, filled, made_ready, shown, together

PEOPLE = 4


class Rows:
    """The shop's data, looked at and set beside it."""

    def __init__(self, home: Path) -> None:
        self.file = home / "fellwind.sqlite3"

    def one(self, asked: str) -> int:
        """A number."""
        with closing(sqlite3.connect(self.file, timeout=10)) as data:
            return int(data.execute(asked).fetchone()[0] or 0)

    def do(self, said: str) -> None:
        """A change."""
        with closing(sqlite3.connect(self.file, timeout=10)) as data:
            data.execute(said)
            data.commit()


TICKS = "builds_entry WHERE kind = 'tick' AND build_id IN (SELECT id FROM builds_build {})"
BACK = TICKS.format("WHERE number = 17")
STANDING_FLAWS = "rack_flaw WHERE gone = 0 AND replaced_by_id IS NULL"
CORRECTED = "(SELECT corrects_id FROM {} WHERE corrects_id IS NOT NULL)"
STANDING_WEIGHINGS = f"rack_weighing WHERE id NOT IN {CORRECTED.format('rack_weighing')}"
STANDING_ENTRIES = (
    "builds_entry WHERE kind = 'bench' AND build_id IN (SELECT id FROM builds_build"
    f" WHERE number = 14) AND id NOT IN {CORRECTED.format('builds_entry')}"
)


class Crowd:
    """People of one shop, and what they do at once; each act gives what went wrong, or nothing."""

    def __init__(self, rows: Rows, people: list[Visitor]) -> None:
        self.rows, self.people = rows, people

    def _all_at(self, path: str, data: dict[str, str]) -> list[object]:
        def act(k: int) -> Answer:
            own = {"form_id": str(uuid4())}
            own |= {"client_id": str(uuid4())} if "client_id" in data else {}
            return self.people[k].post(path, data | own)

        return together(len(self.people), act)

    def _count(self, what: str) -> int:
        return self.rows.one(f"SELECT count(*) FROM {what}")

    def _newest(self, what: str) -> int:
        return self.rows.one(f"SELECT max(id) FROM {what}")

    def _stave_of(self, table: str, key: int) -> int:
        of = f"SELECT stave_id FROM {table} WHERE id = {key}"
        return self.rows.one(f"SELECT number FROM rack_stave WHERE id = ({of})")

    def tick(self, k: int) -> str:
        self.rows.do(f"DELETE FROM {BACK}")
        data = shown(self.people[0].get("/builds/17/back/").text, "/builds/17/tick/")
        wrong = broken(self._all_at("/builds/17/tick/", data))
        count = self._count(BACK)
        return wrong or ("" if count == 1 else f"ticked {count} times")

    def flaw(self, k: int) -> str:
        before, key = self._count(STANDING_FLAWS), self._newest(STANDING_FLAWS)
        where = f"/staves/{self._stave_of('rack_flaw', key)}/flaws/{key}/move/"
        wrong = broken(self._all_at(where, {"nudge": "left" if k % 2 else "right"}))
        count = self._count(STANDING_FLAWS)
        return wrong or ("" if count == before else f"{before} flaws became {count}")

    def correction(self, k: int) -> str:
        key = self._newest(STANDING_ENTRIES)
        data = {"line": f"{30 + k % 9} at 20", "page_world": "imperial", "client_id": ""}
        wrong = broken(self._all_at(f"/builds/14/log/{key}/correct/", data))
        count = self._count(f"builds_entry WHERE corrects_id = {key}")
        return wrong or ("" if count == 1 else f"corrected {count} times")

    def weighing(self, k: int) -> str:
        before, key = self._count(STANDING_WEIGHINGS), self._newest(STANDING_WEIGHINGS)
        data = {
            "mass": f"{1200 + k} g", "day": "2026-01-02", "corrects": str(key), "client_id": "",
            "page_world": "metric",
        }  # fmt: skip
        wrong = broken(self._all_at(f"/staves/{self._stave_of('rack_weighing', key)}/", data))
        count = self._count(STANDING_WEIGHINGS)
        return wrong or ("" if count == before else f"{before} weighings became {count}")

    def archer(self, k: int) -> str:
        where = f"/shop/archers/{self.rows.one('SELECT min(id) FROM shop_archer')}/"
        data = shown(self.people[0].get(where).text, "medium") | {"weight": str(40 + k % 9)}
        answers = self._all_at(where, data)
        kept = sum(isinstance(a, Answer) and a.status == 302 for a in answers)
        return broken(answers) or ("" if kept == 1 else f"{kept} of one page were kept")

    def makers(self, k: int) -> str:
        is_one = "UPDATE people_person SET role = 'maker' WHERE username"
        self.rows.do("UPDATE people_person SET role = 'guest'")
        self.rows.do(f"{is_one} IN ('maren', 'ole')")
        key = "SELECT id FROM people_person WHERE username"
        keys = [self.rows.one(f"{key} = '{name}'") for name in ("ole", "maren")]

        def act(at: int) -> Answer:
            return self.people[at].post(f"/shop/people/{keys[at]}/", {"role": "guest"})

        answers = together(2, act)
        left = self._count("people_person WHERE role = 'maker'")
        self.rows.do(f"{is_one} LIKE '%'")
        return broken(answers) or ("" if left == 1 else f"{left} makers are left")


ACTS = (Crowd.tick, Crowd.flaw, Crowd.correction, Crowd.weighing, Crowd.archer, Crowd.makers)


def broken(answers: list[object]) -> str:
    """What of these is no answer, or one that the shop breaks with."""
    odd = [a.status if isinstance(a, Answer) else a for a in answers]
    return next((f"answered {one}" for one in odd if not isinstance(one, int) or one >= 500), "")


def main() -> int:
    """Run it; 1 where anything counted twice or broke."""
    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("rounds", type=int, nargs="?", default=20)
    given = asked.parse_args()
    failed = 0
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        made_ready(home)
        filled(home)
        names = signed_in_people()
        shop = Shop()
        shop.start()
        try:
            people = [Visitor(shop.port, {"sessionid": key}) for key in names]
            for one in people:
                one.get("/")
                one.get("/password/")
            crowd = Crowd(Rows(home), people)
            for act in ACTS:
                wrong = [said for k in range(given.rounds) if (said := act(crowd, k))]
                failed += len(wrong)
                print(
                    f"{act.__name__}: {given.rounds - len(wrong)} of {given.rounds}",
                    *wrong[:3],
                    sep="; ",
                )
        finally:
            shop.close()
    print("Nothing counted twice." if not failed else f"{failed} went wrong.")
    return 1 if failed else 0


def signed_in_people() -> list[str]:
    """Sessions of four makers: the first is Maren, the second Ole."""
    from django.db import connections

    from fellwind.people.models import Person

    for name in ("ylva", "nils"):
        Person.objects.create_user(name)
    Person.objects.update(role=Person.MAKER)
    keys = [session_of(name) for name in ("maren", "ole", "ylva", "nils")[:PEOPLE]]
    connections.close_all()
    return keys


def session_of(name: str) -> str:
    """The key of a session in which somebody is signed in."""
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY

    from fellwind.people.models import Person
    from fellwind.people.sessions import SessionStore

    person, store = Person.objects.get(username=name), SessionStore()
    store[SESSION_KEY] = str(person.pk)
    store[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
    store[HASH_SESSION_KEY] = person.get_session_auth_hash()
    store.create()
    return str(store.session_key)


if __name__ == "__main__":
    sys.exit(main())
