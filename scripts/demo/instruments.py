"""The demo workshop's instruments, with stand-ins to start; the room's screens."""

from fellwind.instruments.models import Instrument
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker


def load(demo: DemoShop) -> None:
    """A scale on the post with its draw rule, calipers, and a chronograph that mumbled once."""
    for kind, name in (
        ("scale", "the scale on the oak post"), ("calipers", "the long calipers"),
        ("chronograph", "the chronograph at the slip"), ("balance", "the letter balance"),
    ):  # fmt: skip
        row, _ = Instrument.issue(name, kind, maker())
        if kind == "chronograph":
            row.heard, row.good, row.bad = demo.ago(2), 41, 1
            row.last_bad = "“48.2” has no unit; send m/s or fps."
            row.save()
