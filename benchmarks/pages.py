"""How long pages and the core's heavier answers take, in force–draw curves of this machine.

Run by hand:

    python benchmarks/pages.py

One curve of 26 draws on one core is the yardstick; what is printed is how many of them a thing
costs, so that figures from different machines can be laid side by side. Pages are asked of a shop
with two hundred bows, of which a dozen are open, and five thousand readings.
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from time import perf_counter

for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(threads, "1")
ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]


def median(act: Callable[[], object], times: int = 5) -> float:
    """Median duration of an act after one that warms up (s)."""
    act()
    taken = []
    for _ in range(times):
        start = perf_counter()
        act()
        taken.append(perf_counter() - start)
    return sorted(taken)[times // 2]


def core(curve: float) -> None:
    """The core's heavier answers."""
    import numpy as np

    from bowyery.design.sweep import sweep
    from bowyery.mechanics.dynamics import loose
    from tests.core.bows import DRAW, FLATBOW, bow

    lengths, widths = np.linspace(0.9, 1.15, 20), np.linspace(0.8, 1.3, 20)
    acts: dict[str, Callable[[], object]] = {
        "a loose of thirty masses a limb": lambda: loose(bow(), 0.66, 0.03),
        "a sweep of four hundred designs": lambda: sweep(
            FLATBOW, DRAW, ("length", lengths), ("width", widths), 0.028, 0.012
        ),
    }
    for name, act in acts.items():
        print(f"{name}: {median(act) / curve:.1f} curves")


def pages(curve: float) -> None:
    """Pages of a full shop."""
    import django

    django.setup()
    from django.core.management import call_command
    from django.test import Client
    from django.utils import timezone

    call_command("migrate", verbosity=0)
    call_command("load_demo", verbosity=0)
    from fellwind.builds.models import Build
    from fellwind.people.models import Person
    from tests.web.fill import fill

    maker = Person.objects.filter(role="maker")[0]
    fill(Build.objects.get(number=14).design, maker, 200, 5000)
    Build.objects.filter(number__gt=112).update(finished=timezone.now())
    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(maker, "django.contrib.auth.backends.ModelBackend")
    for where in ("/", "/staves/", "/designs/", "/designs/1/", "/builds/14/tiller/"):
        took = median(lambda page=where: client.get(page))  # type: ignore[misc]
        print(f"{where}: {took / curve:.1f} curves")


def main() -> None:
    """Measure the yardstick, then everything in it."""
    import numpy as np

    from bowyery.mechanics import curve as force_curve
    from tests.core.bows import bow

    draws = np.linspace(0.16, 0.66, 26)
    curve = median(lambda: force_curve.solve(bow(), draws), 9)
    print(f"one curve of 26 draws here: {curve * 1000:.0f} ms")
    core(curve)
    with tempfile.TemporaryDirectory() as home:
        os.environ |= {
            "FELLWIND_HOME": home, "DJANGO_SETTINGS_MODULE": "fellwind.settings",
            "FELLWIND_DEMO": "1",
        }  # fmt: skip
        pages(curve)


if __name__ == "__main__":
    main()
