"""A form sent again after the shop was killed in the middle of it counts once, and is there.

Run by hand:

    python benchmarks/kills.py 200            six forms in turn, sent again by a script
    python benchmarks/kills.py 200 --browser  readings and pencil lines by the queue of Chromium

Each round sends a form, kills the shop at a random moment of its work, starts it again, and sends
the same form until it is answered. Ends with an error when anything is there twice or not at all.
"""

from __future__ import annotations

import argparse
import random
import sqlite3
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path
from uuid import uuid4

from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from benchmarks.visitor import FLAGS, Shop, Visitor, filled, made_ready, shown

BUILD = "/builds/14"
ENTRIES = "SELECT count(*) FROM builds_entry WHERE text"
Form = tuple[str, dict[str, str], str]  # where, what, and a count of what is to be there once


def forms(maker: Visitor) -> dict[str, Callable[[str, int], Form]]:
    """The six forms: each makes one of its own from an id and a round."""
    design = shown(maker.get("/designs/1/edit/").text, "design-form")
    entry = "SELECT count(*) FROM builds_entry WHERE client_id = '{}'"

    def reading(one: str, k: int) -> Form:
        data = {
            "reading-weight": str(30 + k % 10), "reading-draw": "20", "reading-client_id": one,
            "reading-page_world": "imperial",
        }  # fmt: skip
        return f"{BUILD}/tiller/reading/", data, entry.format(one.replace("-", ""))

    def pencil(one: str, k: int) -> Form:
        data = {"line": f"{30 + k % 10} at 20", "page_world": "imperial", "client_id": one}
        return f"{BUILD}/keep/", data, entry.format(one.replace("-", ""))

    def removal(one: str, k: int) -> Form:
        data = {
            "removal-limb": "upper", "removal-strokes": str(1 + k % 20), "removal-client_id": one,
            "removal-page_world": "imperial",
        }  # fmt: skip
        return f"{BUILD}/tiller/removal/", data, entry.format(one.replace("-", ""))

    def weighing(one: str, k: int) -> Form:
        day = f"{2024 + k % 2}-{1 + k // 28 % 12:02}-{1 + k % 28:02}"
        data = {"mass": "1200 g", "day": day, "client_id": one, "page_world": "metric"}
        asked = f"SELECT count(*) FROM rack_weighing WHERE client_id = '{one.replace('-', '')}'"
        return "/staves/18/", data, asked

    def archer(one: str, k: int) -> Form:
        data = {
            "name": one, "draw": "28", "draw_ruler": "pivot", "weight": "40",
            "fingers": "three under", "page_world": "imperial",
        }  # fmt: skip
        return "/shop/archers/new/", data, f"SELECT count(*) FROM shop_archer WHERE name = '{one}'"

    def new_design(one: str, k: int) -> Form:
        asked = f"SELECT count(*) FROM designs_design WHERE name = '{one}'"
        return "/designs/new/", design | {"name": one}, asked

    made = (reading, pencil, removal, weighing, archer, new_design)
    return {act.__name__.replace("_", " "): act for act in made}


def counted(home: Path, asked: str) -> int:
    """A count, read beside the shop."""
    with closing(sqlite3.connect(f"file:{home / 'fellwind.sqlite3'}?mode=ro", uri=True)) as data:
        return int(data.execute(asked).fetchone()[0])


def by_script(home: Path, shop: Shop, rounds: int, chance: random.Random) -> list[str]:
    """Send, kill, send again; what went wrong."""
    maker = Visitor.of_the_demo(shop.port)
    made, wrong, cut = forms(maker), list[str](), 0
    takes = dict.fromkeys(made, 0.02)
    for name, make in made.items():  # how long each takes, warm
        for k in range(2):
            path, data, _ = make(str(uuid4()), 900 + k)
            start = time.perf_counter()
            answer = maker.post(path, data | {"form_id": str(uuid4())})
            takes[name] = time.perf_counter() - start
        if answer.status != 302:
            raise RuntimeError(f"{name} is answered {answer.status}: {answer.text[:2000]}")
    for k in range(rounds):
        name = list(made)[k % len(made)]
        one = str(uuid4())
        path, data, asked = made[name](one, k)
        data |= {"form_id": one}

        def send(path: str = path, data: dict[str, str] = data) -> None:
            with suppress(OSError):
                maker.post(path, data)

        sending = threading.Thread(target=send)
        sending.start()
        time.sleep(chance.uniform(0, 1.3 * takes[name]))
        shop.kill()
        sending.join()
        shop.start()
        cut += counted(home, asked) == 0
        answer = maker.post(path, data, **({"X_Queue": "1"} if k % 2 else {}))
        told = one in answer.text if k % 2 else answer.status == 302
        count = counted(home, asked)
        if count != 1 or not told:
            wrong.append(f"round {k}, {name}: there {count} times, answered {answer.status}")
    print(f"{rounds} rounds over {len(made)} forms, {cut} cut before they were kept")
    return wrong


def by_browser(home: Path, shop: Shop, rounds: int, chance: random.Random) -> list[str]:
    """Write in Chromium while the shop is killed at random; what went wrong."""
    wanted = []
    with sync_playwright() as play:
        chromium = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(shop.address)
        page.get_by_role("button", name="Open the workshop").click()
        page.goto(f"{shop.address}{BUILD}/tiller/")
        page.evaluate("navigator.serviceWorker.ready.then(() => 1)")
        for k in range(rounds):
            wanted.append(f"wear {k:04}")
            with suppress(
                PlaywrightError
            ):  # a page that is just being made anew is tried again below
                page.wait_for_selector("#pencil", timeout=5000)
            _written(home, page, k, wanted[-1])
            time.sleep(chance.uniform(0, 0.25))
            shop.kill()
            if k % 3 == 0:
                time.sleep(chance.uniform(0, 0.5))
            shop.start()
            if k % 10 == 9:
                page.goto(f"{shop.address}{BUILD}/tiller/")
        page.goto(f"{shop.address}{BUILD}/log/")
        late = time.monotonic() + 60
        while len(there := _arrived(home)) < len(wanted) and time.monotonic() < late:
            page.wait_for_timeout(250)
        chromium.close()
    print(f"{rounds} entries written in the browser, {len(there)} in the log")
    wrong = [f"{one} is there {there.count(one)} times" for one in wanted if there.count(one) != 1]
    return wrong or ([] if there == wanted else ["they are not in order"])


def _arrived(home: Path) -> list[str]:
    """The marks of the entries that are in the log, in its order."""
    asked = "SELECT text FROM builds_entry WHERE text LIKE '%wear %' ORDER BY at, id"
    with closing(sqlite3.connect(home / "fellwind.sqlite3")) as data:
        return [row[0].split("; ")[-1].replace("note ", "") for row in data.execute(asked)]


def _written(home: Path, page, k: int, mark: str) -> None:  # type: ignore[no-untyped-def]
    """One entry into the page's queue, by its form or by its pencil line."""
    for _ in range(40):
        try:
            page.locator("#pencil").fill(f"{30 + k % 10} at 20; note {mark}", timeout=3000)
            page.locator("#pencil").press("Enter", timeout=3000)
            keep = page.get_by_role("button", name="Keep it")
            waits = page.locator("#unsent", has_text=mark)
            keep.or_(waits).first.wait_for(timeout=25000)
            if not waits.is_visible():
                keep.click(timeout=3000)
            return
        except PlaywrightError:  # the page was made anew meanwhile: see whether it was written
            with suppress(PlaywrightError):  # and made anew once more while it was asked
                if page.evaluate(_HAS, mark) or counted(home, f"{ENTRIES} LIKE '%{mark}'"):
                    return
    raise RuntimeError(f"{mark} could not be written")


_HAS = """mark => new Promise((resolve) => {
  const asked = indexedDB.open("fellwind", 1);
  asked.onsuccess = () => {
    const all = asked.result.transaction("entries").objectStore("entries").getAll();
    all.onsuccess = () => { asked.result.close(); resolve(all.result.some((row) =>
    row.body.includes(mark.replace(" ", "+")))); };
  };
  asked.onerror = () => resolve(false);
})"""


def main() -> int:
    """Run it; 1 where anything was lost or doubled."""
    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("rounds", type=int, nargs="?", default=200)
    asked.add_argument("--browser", action="store_true")
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        made_ready(home)
        filled(home)
        shop = Shop()
        shop.start()
        try:
            run = by_browser if given.browser else by_script
            wrong = run(home, shop, given.rounds, random.Random(given.seed))
        finally:
            shop.close()
    for line in wrong:
        print(line)
    print("Everything is there once." if not wrong else f"{len(wrong)} rounds went wrong.")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
