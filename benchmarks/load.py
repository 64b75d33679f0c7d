"""A full shop under load: how long its pages take, cold and warm, and many people at once.

Run by hand on a quiet machine:

    python benchmarks/load.py

Two hundred builds from designs of their own, a hundred staves, five thousand readings. Wanted: each
page under 150 ms at the median warm and under 1 s cold; 20 visitors 50 answers a second with 95 of
100 under a second; four at work, a reading kept in under 0.1 s and Today in under 0.5 s.
"""

from __future__ import annotations

import re
import sys
import tempfile
import threading
import time
from pathlib import Path
from uuid import uuid4

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from benchmarks.visitor import Shop, Visitor, filled, made_ready

PAGES = ("/", "/staves/", "/designs/", "/builds/", "/builds/14/tiller/", "/designs/60/")


LATER = re.compile(r'hx-get="([^"]*/(?:thumbnail|act)/[^"]*)"')


def full() -> None:
    """Fill the demo workshop."""
    from django.db import connections
    from django.utils import timezone

    from fellwind.builds.models import Build
    from fellwind.people.models import Person
    from tests.web.fill import fill

    maker = Person.objects.filter(role="maker")[0]
    fill(Build.objects.get(number=14).design, maker, 200, 5000)
    Build.objects.filter(number__gt=160).update(finished=timezone.now())
    connections.close_all()


def timed(visitor: Visitor, page: str) -> float:
    """One answer (s)."""
    start = time.perf_counter()
    answer = visitor.get(page)
    if answer.status != 200:
        raise RuntimeError(f"{page} is answered {answer.status}")
    return time.perf_counter() - start


def share(taken: list[float], part: float) -> float:
    """What so large a part of the durations stays under (s)."""
    return sorted(taken)[min(len(taken) - 1, int(part * len(taken)))]


def alone(shop: Shop) -> None:
    """Each page, first of a shop that has just been started with an empty cache, then warm."""
    maker = Visitor.of_the_demo(shop.port)
    for page in PAGES:
        cold = timed(maker, page)
        for part in LATER.findall(maker.get(page).text):  # as a browser does that shows the page
            maker.get(part)
        warm = share([timed(maker, page) for _ in range(9)], 0.5)
        print(f"{page}: cold {cold * 1000:.0f} ms, warm {warm * 1000:.0f} ms")


def crowd(shop: Shop, people: int, seconds: float) -> None:
    """Many at once leaf through warm pages."""
    taken, ends = list[float](), time.perf_counter() + seconds

    def leaf(first: int) -> None:
        one = Visitor.of_the_demo(shop.port)
        k = first
        while time.perf_counter() < ends:
            taken.append(timed(one, PAGES[k % len(PAGES)]))
            k += 1

    _all([threading.Thread(target=leaf, args=(k,)) for k in range(people)])
    rate, slow = len(taken) / seconds, share(taken, 0.95)
    print(f"{people} visitors: {rate:.0f} answers a second, 95 of 100 under {slow * 1000:.0f} ms")


def at_work(shop: Shop, people: int, readings: int) -> None:
    """Four keep readings of bows of their own, look at the tiller and at Today in between."""
    kept, today = list[float](), list[float]()

    def work(which: int) -> None:
        one = Visitor.of_the_demo(shop.port)
        number = (14, 101, 104, 107)[which]
        for k in range(readings):
            line = {"line": f"{20 + k} at 20", "page_world": "imperial", "client_id": str(uuid4())}
            start = time.perf_counter()
            one.post(f"/builds/{number}/keep/", line | {"form_id": str(uuid4())})
            kept.append(time.perf_counter() - start)
            timed(one, f"/builds/{number}/tiller/")
            today.append(timed(one, "/"))
            timed(one, f"/builds/{number}/tiller/act/")

    _all([threading.Thread(target=work, args=(k,)) for k in range(people)])
    for what, taken in (("a reading kept", kept), ("Today", today)):
        half, slow = share(taken, 0.5), share(taken, 0.95)
        print(f"{people} at work, {what}: {half * 1000:.0f} ms, 95 of 100 {slow * 1000:.0f} ms")


def same(shop: Shop, people: int) -> None:
    """Several ask for one cold answer at once, against one alone."""
    ones = [Visitor.of_the_demo(shop.port) for _ in range(people)]
    single = timed(ones[0], "/designs/61/")
    taken = list[float]()
    asked = [
        threading.Thread(target=lambda one=one: taken.append(timed(one, "/designs/62/")))
        for one in ones
    ]
    _all(asked)
    print(f"one cold design {single:.2f} s; {people} at once, the last {max(taken):.2f} s")


def _all(threads: list[threading.Thread]) -> None:
    for one in threads:
        one.start()
    for one in threads:
        one.join()


def main() -> None:
    """Measure it all."""
    with tempfile.TemporaryDirectory() as folder:
        made_ready(Path(folder))
        filled(Path(folder))
        full()
        shop = Shop()
        shop.start()
        try:
            alone(shop)
            crowd(shop, 20, 15.0)
            at_work(shop, 4, 6)
            same(shop, 6)
        finally:
            shop.close()


if __name__ == "__main__":
    main()
