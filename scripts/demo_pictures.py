"""Take the demo's photographs anew: the elm bow at six of its checks, by the stand-in camera, each
with what the application reads of it. They lie in ``scripts/demo/pictures``.

Run by hand, where the camera, the reader or the demo's elm bow has changed:

    python scripts/demo_pictures.py
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
from functools import partial
from pathlib import Path

import cv2
import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

WIDE = 1800  # pixels that the application keeps
# days ago, state, stiffness of both limbs against the design, draw (in), how the string lies (its
# kind, and its length or brace, in), natural bend to the back (in), and the camera's chance
SHOTS = (
    (10, "drawn", (2.05, 1.90), 16, ("string long", 70.5), 0.375, 11),
    (8, "drawn", (1.72, 1.59), 18, ("string long", 70.5), 0.375, 12),
    (5, "drawn", (1.52, 1.40), 15, ("string low", 3.0), 0.3, 13),
    (2, "braced", (1.41, 1.27), 0, ("string full", 6.0), 0.2, 14),
    (1, "drawn", (1.30, 1.18), 21, ("string full", 6.0), 0.19, 15),
    (1, "unstrung", (1.30, 1.18), 0, ("string full", 6.0), 0.19, 16),
)


def main() -> None:
    """Write pictures and readings."""
    from scripts.demo.make import made
    from tests.browser.conftest import environment, manage

    target = ROOT / "scripts" / "demo" / "pictures"
    target.mkdir(exist_ok=True)
    (target / "readings.json").write_text("[]")  # the demo is loaded without them first
    with tempfile.TemporaryDirectory() as home:
        manage(Path(home), "prepare")
        made(Path(home))
        os.environ.update(environment(Path(home), demo=True))
        import django

        django.setup()
        rows = _taken(target)
    (target / "readings.json").write_text(json.dumps(rows, indent=1) + "\n")


def _taken(target: Path) -> list[dict[str, object]]:
    from benchmarks.camera import shape_of, taken
    from bowyery.tiller.estimate import CROOKS, PLACES, at_nodes, crooked, few_cells
    from bowyery.tiller.log import StringOn
    from bowyery.units.quantity import INCH
    from fellwind.builds.models import Build
    from fellwind.designs.services import solution
    from fellwind.sight import services

    build = Build.objects.get(number=14)
    found = solution(build.design)
    rows: list[dict[str, object]] = []
    for number, (days, state, stiff, draw, string, reflex, chance) in enumerate(SHOTS):
        field = np.log(np.array(stiff))[:, None] + np.zeros((2, PLACES))
        field[0] += 0.17 * np.exp(-(((np.linspace(0, 1, PLACES) - 0.45) / 0.14) ** 2))
        limbs = few_cells(found.curve.limbs)
        crook = -2 * reflex * INCH / limbs.length[:, :1] ** 2
        bent = limbs.stiffened(np.exp(np.moveaxis(at_nodes(field[None], limbs), 0, 1)))
        bent = crooked(bent, np.repeat(crook, CROOKS, 1)[None])
        on = StringOn(string[0], string[1] * INCH).on(found.bow, found.layout.length)
        shape = shape_of(bent, on, state, draw * INCH)
        image, truth = taken(np.random.default_rng([77, chance]), found.bow, state, shape)
        high = round(image.shape[0] * WIDE / image.shape[1])
        small = cv2.resize(image, (WIDE, high), interpolation=cv2.INTER_AREA)
        path = target / f"{number}.jpg"
        cv2.imwrite(str(path), small, [cv2.IMWRITE_JPEG_QUALITY, 72])
        hangs = None if string[0] == "string full" else on
        picture = services.Picture(str(path), partial(cv2.imread, str(path)))
        seen, why = services.read(build, picture, state, WIDE, hangs=hangs)  # type: ignore[arg-type]
        print(
            number,
            state,
            "not read: " + why if seen is None else f"draw {seen.draw}, was {truth.draw:.0f}",
        )
        rows.append({
            "days": days, "state": state, "why": why,
            "seen": None if seen is None else services.as_json(seen),
        })  # fmt: skip
    return rows


if __name__ == "__main__":
    main()
