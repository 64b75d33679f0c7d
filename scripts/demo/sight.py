"""The demo's photographs: pictures of the elm bow on its wall, made by the stand-in camera, each
with what was read of it.
"""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path

from PIL import Image

from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.kit.photos import keep_photo
from fellwind.sight.models import Sighting
from fellwind.sight.services import CAPTIONS
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker

PICTURES = Path(__file__).parent / "pictures"


def load(demo: DemoShop) -> None:
    """Six photographs of the elm bow's checks, read and not kept as checks: they were written down
    by hand.
    """
    build, by = Build.objects.get(number=14), maker()
    for number, row in enumerate(json.loads((PICTURES / "readings.json").read_text())):
        with Image.open(PICTURES / f"{number}.jpg") as picture:
            name, width, height = keep_photo(picture.convert("RGB"))
        at = demo.ago(row["days"], 11) + timedelta(minutes=5 * number)
        entry = Entry.objects.create(
            build=build, kind="photo", stage="tiller", text=CAPTIONS[row["state"]], at=at, by=by,
        )  # fmt: skip
        photo = BenchPhoto.objects.create(entry=entry, name=name, width=width, height=height)
        Sighting.objects.create(photo=photo, state=row["state"], why=row["why"], seen=row["seen"])
