"""Make the demo workshop anew, and the sample bow of an empty shop: run by ``./fellwind demo-shop``
where the demo's own rows have changed.
"""

from __future__ import annotations

import os
import sys
import tempfile
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from scripts.demo.moment import DemoShop  # noqa: E402

HOUR = 12  # of the day it is made at, so that what was done by day stays near the day


def made(home: Path) -> DemoShop:
    """Fill a folder with the demo workshop, all or nothing; lower rooms first. When that was."""
    os.environ |= {"FELLWIND_HOME": str(home), "FELLWIND_DEMO": "1"}
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fellwind.settings")
    import django

    django.setup()
    from django.core.management import call_command
    from django.db import transaction

    from scripts.demo import (
        builds,
        designs,
        instruments,
        people,
        practice,
        rack,
        season,
        shop,
        sight,
        strings,
        tiller,
    )

    call_command("prepare")
    moment = DemoShop(datetime.now(UTC).replace(hour=HOUR, minute=0, second=0, microsecond=0))
    shares = (people, shop, rack, designs, builds, tiller, strings, instruments, sight, practice)
    with transaction.atomic():
        for share in (*shares, season):
            share.load(moment)
    return moment


def main() -> None:
    """Write both archives into the application."""
    with tempfile.TemporaryDirectory() as home:
        moment = made(Path(home))
        from fellwind.demo.loader import SAMPLE, SHOP
        from fellwind.kit import archive
        from fellwind.ledger import parcel
        from scripts.demo import sample

        archive.write(SHOP)
        SAMPLE.write_bytes(parcel.write(sample.make(moment)))
    for path in (SHOP, SAMPLE):
        path.chmod(0o644)


if __name__ == "__main__":
    main()
