"""The demo workshop's threads and strings, and the room's screens."""

from __future__ import annotations

import numpy as np

from bowyery.units.quantity import GRAIN, INCH, POUND_FORCE, Units, fraction_text
from fellwind.builds.models import Build, Entry
from fellwind.strings.models import BowString, StrandTest, StringEntry, Thread
from fellwind.strings.services import Sheet, sheet_of
from scripts.demo.builds import DemoLog
from scripts.demo.moment import DemoShop

FINE, STOUT = 1.75e-4, 2.5e-3  # kg/m of the linen and of a twisted strip
SETTLES = (2.2e-3, 9.0, 1.6e-4, 0.12)  # by a law that the forecast does not share
LINEN_BREAKS = (15.8, 16.9, 16.4, 15.1, 16.1)
STRIPS = ((5, 24.0), (6, 27.5), (8, 38.0))  # thirty-seconds of an inch, pounds


def load(demo: DemoShop) -> None:
    """The rowan's matched pair with its thread's tests and its settling, the elm's tillering
    string, and a three-ply string of rawhide for the plum.
    """
    desk = DemoLog(demo)
    linen = Thread.objects.create(
        name="bleached linen, three-cord", fibre="linen", line_mass=FINE, colour="undyed",
        stock=0.32, notes="the cone by the window",
    )  # fmt: skip
    hide = Thread.objects.create(
        name="goat hide in strips", fibre="rawhide", line_mass=STOUT, colour="pale", stock=0.4
    )
    polyester = Thread.objects.create(
        name="polyester, black", fibre="polyester", colour="black", stock=0.25
    )
    for pounds in LINEN_BREAKS:
        StrandTest.objects.create(
            thread=linen, load=pounds * POUND_FORCE, load_text=f"{pounds} lb",
            day=demo.ago(34).date(), by=desk.maker,
        )  # fmt: skip
    for parts, pounds in STRIPS:
        wide = f"{fraction_text(parts / 32, 32, True)} in"
        StrandTest.objects.create(
            thread=hide, width=parts / 32 * INCH, width_text=wide,
            load=pounds * POUND_FORCE, load_text=f"{pounds} lb", day=demo.ago(9).date(),
            by=desk.maker,
        )  # fmt: skip
    _pair(desk, linen)
    _others(desk, polyester, hide)


def _pair(desk: DemoLog, linen: Thread) -> None:
    build = Build.objects.get(number=13)
    first = None
    for role, day in (("working", 29), ("spare", 28)):
        string = BowString.objects.create(
            build=build, role=role, kind="two-bundle laid twist", fibre="linen", thread=linen,
            brace_height=build.design.figures.brace_height, like=first, made=desk.demo.ago(day),
            colour_one="slate", colour_two="heather",
        )  # fmt: skip
        first = first or string
        made = sheet_of(string)
        _read(desk, made, day, longer=0.0 if role == "working" else 0.0015)
        plan = made.plan
        said = f"{role} string: {linen.name}, {string.kind}, {plan.strands if plan else 0} strands"
        Entry.objects.create(
            build=build, kind="string", stage="string", at=desk.demo.ago(day, 17), by=desk.maker,
            minutes=75, text=said,
        )  # fmt: skip


def _read(desk: DemoLog, made: Sheet, day: int, longer: float) -> None:
    """What was measured of a string: its settling by a law of its own, and its figures."""
    plan, string, shown = made.plan, made.string, Units()
    if plan is None or plan.brace is None or plan.square is None:
        return
    at = iter(range(30))

    def write(kind: str, value: float, text: str, **more: float | int) -> None:
        StringEntry.objects.create(
            string=string, kind=kind, value=value, text=text, by=desk.maker,
            at=desk.demo.ago(day - next(at) // 6, 18), **more,
        )  # fmt: skip

    for step in ("lay out", "count", "wax", "reinforce", "loop", "close", "throat", "whip", "cut",
                 "twist", "brace", "centre", "nock"):  # fmt: skip
        StringEntry.objects.create(
            string=string, kind="step", text=step, by=desk.maker, at=desk.demo.ago(day, 16)
        )
    bed, over, creep, power = SETTLES
    whole = plan.length * plan.brace_per
    start = plan.brace + 0.0062
    noise = np.random.default_rng(len(string.role)).normal(0, 0.0006, 8)
    for k, pulls in enumerate((0, 12, 30, 60, 110, 170)):
        given = bed * pulls / (pulls + over) + creep * ((1 + pulls) ** power - 1)
        height = round((start - whole * given + noise[k]) / INCH * 32) / 32
        text = f"{fraction_text(height, 32, True)} in"
        write("brace", height * INCH, f"{text} after {pulls} pulls", pulls=pulls)
    length = round((plan.length + longer) / INCH * 16) / 16
    load = 40 * POUND_FORCE
    gives = fraction_text(0.5 - 40 * longer, 16, True)
    for kind, value, text in (
        ("length", length * INCH, f"{fraction_text(length, 16, True)} in"),
        (
            "stretch",
            (0.50 - 40 * longer) * INCH,
            f"{gives} in",
        ),
    ):
        write(kind, value, f"{text} under 40 lb", second=load)
    grains = round(plan.mass * (1.03 + 8 * longer) / GRAIN)
    write("mass", grains * GRAIN, f"{grains} gr")
    above = plan.square - (plan.nocking or 0.0)
    serving = plan.part("centre serving")
    write("nocking point", above, shown.length(above))
    if serving is not None:
        write("serving", serving.end - serving.start, shown.length(serving.end - serving.start))
    if string.role == "working":
        write("fit", 0.0, "it lies in both nocks")
        write("off the grip", 0.0015, "1/16 in")
        write("shots", 140.0, "140")


def _others(desk: DemoLog, polyester: Thread, hide: Thread) -> None:
    elm = Build.objects.get(number=14)
    tillering = BowString.objects.create(
        build=elm, role="tillering", kind="tillering string", fibre="polyester", thread=polyester,
        brace_height=elm.design.figures.brace_height, made=desk.demo.ago(20),
    )  # fmt: skip
    plan = sheet_of(tillering).plan
    if plan is not None:
        inches = round(plan.length / INCH * 8) / 8
        StringEntry.objects.create(
            string=tillering, kind="length", value=inches * INCH, second=20 * POUND_FORCE,
            text=f"{fraction_text(inches, 8, True)} in under 20 lb", by=desk.maker,
            at=desk.demo.ago(20),
        )  # fmt: skip
    plum = Build.objects.get(number=18)
    BowString.objects.create(
        build=plum, role="working", kind="plied cordage", plies=3, fibre="rawhide",
        thread=hide, brace_height=plum.design.figures.brace_height, made=desk.demo.ago(8),
        colour_one="undyed", colour_two="bracken", notes="strips from one side of the back",
    )  # fmt: skip
