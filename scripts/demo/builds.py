"""The demo workshop's builds with their stages, notes, waits and a proof; the room's screens."""

from datetime import timedelta
from itertools import pairwise
from typing import Any
from uuid import uuid4

import numpy as np
from PIL import Image, ImageDraw

from bowyery.making.stages import NAMES as STAGES
from bowyery.tiller import pencil
from bowyery.units.quantity import GRAIN, IMPERIAL, INCH, POUND_FORCE, POUND_MASS
from fellwind.builds import log
from fellwind.builds.models import BenchPhoto, Build, Entry, Inquest, Measure, Wait
from fellwind.designs.models import Design
from fellwind.designs.pictures import bents
from fellwind.designs.services import solution
from fellwind.kit.photos import keep_photo
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker

OUNCE, FOOT = POUND_MASS / 16, 0.3048


class DemoLog:
    """Writes into builds as a maker would have, some days ago."""

    def __init__(self, demo: DemoShop) -> None:
        self.demo, self.maker = demo, maker()

    def build(self, number: int, stage: str, days: list[float], **extra: Any) -> Build:
        """A build of the design from its stave, whose stages were reached these days ago."""
        design = Design.objects.get(stave__number=number)
        build = Build.objects.create(
            number=number,
            name=design.name,
            design=design,
            stave=design.stave,
            stage=stage,
            started=self.demo.ago(days[0]),
            **extra,
        )
        reached = STAGES[: STAGES.index(stage) + 1]
        for index, (name, day) in enumerate(zip(reached, days, strict=True)):
            text = "Build started" if index == 0 else f"On to {name}"
            at = self.demo.ago(day)
            Entry.objects.create(
                build=build, kind="stage", stage=name, text=text, at=at, by=self.maker
            )
        return build

    def line(self, build: Build, stage: str, days: float, hour: int, text: str) -> Entry:
        """A pencil line written some days ago, kept as the bench keeps it."""
        now, build.stage = build.stage, stage
        statements = pencil.parse(text, IMPERIAL, log.tree_of(build))
        entry, _ = log.keep(build, text, statements, IMPERIAL, self.maker, uuid4())
        build.stage = now
        Entry.objects.filter(pk=entry.pk).update(at=self.demo.ago(days, hour))
        return entry

    def ticks(self, build: Build, stage: str, days: float, hour: int, *items: str) -> None:
        """Items of a stage's list, seen to."""
        at = self.demo.ago(days, hour)
        for item in items:
            Entry.objects.create(
                build=build, kind="tick", stage=stage, text=item, at=at, by=self.maker
            )

    def rests(
        self, build: Build, what: str, since: tuple[int, int], days: float, hour: int
    ) -> None:
        """A wait begun some days ago that ends some days from now."""
        until = (self.demo.now + timedelta(days=days)).replace(hour=hour, minute=0)
        since_then = self.demo.ago(*since)
        Wait.objects.create(build=build, what=what, since=since_then, until=until)


def load(demo: DemoShop) -> None:
    """Six builds at different stages; what was read at the tiller is the tiller's to load."""
    desk = DemoLog(demo)
    elm = desk.build(14, "tiller", [21, 20, 18, 12, 11])
    wood = ("wood-ends", "wood-length", "wood-grain", "wood-back", "wood-moisture")
    desk.ticks(elm, "wood", 20, 15, *wood)
    floor = ("sides", "left-on", "fades", "knots", "floor-upper", "floor-lower", "floor-look")
    desk.ticks(elm, "rough", 13, 16, *floor)
    desk.line(elm, "lay-out", 19, 11, "50 min, note centre line followed round the pin knot")
    sides = "1 h 45 min, note sides to the line, belly down with the drawknife"
    desk.line(elm, "rough", 16, 16, sides)
    desk.line(elm, "rough", 13, 10, "40 min, note both limbs bend on the floor")
    desk.line(elm, "rough", 13, 11, _calipers(elm, (0.000, 0.004, 0.016, 0.012, 0.003, -0.002)))
    desk.line(elm, "rough", 13, 12, "upper floor 13 sags 3; lower floor 12 sags 3")
    desk.line(elm, "lay-out", 19, 10, "length 69")
    rowan = desk.build(13, "proof", [60, 59, 56, 50, 48, 30, 27, 9], school="D")
    chased = "3 h 10 min, note chased nothing, the back is as it grew"
    desk.line(rowan, "rough", 55, 12, chased)
    coats = "2 h 30 min, note four grits and three coats of oil, rags flat on the quay"
    desk.line(rowan, "finish", 20, 18, coats)
    _on_the_tree(desk, rowan, 37, "At 20 in, both limbs alike (drawn)", 15)
    _on_the_tree(desk, rowan, 31, "Full draw, left for sanding (drawn)", -1)
    _prove(desk, rowan)
    ash = desk.build(17, "back", [9, 9, 7, 3], beginner=True)
    desk.line(ash, "rough", 6, 13, "2 h 30 min, note sides and belly down, floor tiller even")
    desk.line(ash, "rough", 6, 14, _calipers(ash, (0.002, 0.001, -0.001, 0.003, 0.002)))
    flax = "1 h 10 min, note two courses of flax in hide glue on the back"
    desk.line(ash, "back", 3, 17, flax)
    drying = "Flax dries on the back; weigh it at the end of the week"
    desk.rests(ash, drying, (3, 17), 4, 9)
    maple = desk.build(16, "back", [5, 5, 4, 1])
    desk.line(maple, "back", 1, 16, "upper lies 7/8 back, lower lies 7/8 back")
    glued = "1 h 40 min, note bamboo planed to its taper, glued and clamped into the form"
    desk.line(maple, "back", 1, 15, glued)
    desk.rests(maple, "Glue cures in the form", (1, 17), 1, 17)
    glass = desk.build(15, "back", [12, 11, 10, 3])
    desk.line(glass, "back", 3, 11, "2 h, note first limb pressed and cured")
    desk.line(glass, "back", 0, 8, "1 h 30 min, note second limb pressed, hose at 4 bar")
    oven, hour = "Second limb in the heat box at 60 °C; mind the cut-out", demo.now.hour
    desk.rests(glass, oven, (0, 9), 1 if hour >= 20 else 0, (hour + 4) % 24)
    plum = desk.build(18, "wood", [20])
    desk.ticks(plum, "wood", 19, 12, "wood-ends")
    desk.line(plum, "wood", 19, 11, "20 min, note ends sealed, bark left on; three ounces lost")
    laburnum = desk.build(12, "tiller", [95, 94, 93, 90, 89])
    broke = (
        "50 min, note it let go at 24 in with a crack at the loose knot, upper limb; nobody hurt"
    )
    desk.line(laburnum, "tiller", 88, 11, broke)
    Build.objects.filter(pk=laburnum.pk).update(finished=demo.ago(88, 12), ending="broken")
    Inquest.objects.create(
        build=laburnum, how="knot", limb="upper", place=14 * INCH, draw=24 * INCH, by=desk.maker,
        words="The crack began at the edge of the loose knot and ran to the belly.", judged="flaw",
    )  # fmt: skip


def _on_the_tree(desk: DemoLog, build: Build, days: float, caption: str, state: int) -> None:
    """A drawn picture of the bow on its wall, from its own solved shape, as a photograph."""
    found = solution(build.design)
    picture = Image.new("RGB", (1200, 800), (226, 222, 210))
    pen, scale, middle = ImageDraw.Draw(picture), 600.0, (600.0, 190.0)
    for row in range(0, 800, 80):
        pen.line([(0, row), (1200, row)], (210, 205, 190), 2)
    one = bents(found, (state,))[1]
    root = [limb.root[0] for limb in found.bow.limbs]

    def at(along: float, across: float) -> tuple[float, float]:
        return middle[0] + scale * along, middle[1] + scale * across

    tips = []
    for along, across, deep in zip(one.along, one.across, one.depth, strict=True):
        points = [at(float(a), float(c)) for a, c in zip(along, across, strict=True)]
        for (first, second), depth in zip(pairwise(points), deep[1:], strict=False):
            pen.line([first, second], (96, 70, 44), max(5, round(scale * float(depth))))
        tips.append(points[-1])
    if one.nock is not None:
        pen.line([tips[0], at(*one.nock), tips[1]], (60, 60, 58), 4)
    pen.line([at(-root[1], 0.0), at(root[0], 0.0)], (74, 52, 32), round(scale * 0.035))
    name, width, height = keep_photo(picture)
    entry = Entry.objects.create(
        build=build, kind="photo", stage="tiller", text=caption, at=desk.demo.ago(days, 12),
        by=desk.maker,
    )  # fmt: skip
    BenchPhoto.objects.create(entry=entry, name=name, width=width, height=height)


def _calipers(build: Build, over: tuple[float, ...]) -> str:
    """A pencil line of calipers at every second mark, so much over what it shall be there (in)."""
    found, parts = solution(build.design), []
    for side in ("upper", "lower"):
        marks = [m for m in found.marks if m.limb == side][::2]
        for k, mark in enumerate(marks):
            more = over[k % len(over)] * (1 if side == "upper" else 0.5)
            size = found.wood_of(mark) / INCH + 1 / 16 + more
            parts.append(f"{side} thick {size:.3f} at {mark.from_centre / INCH:.2f}")
    return "; ".join(parts)


def _prove(desk: DemoLog, build: Build) -> None:
    """Figures of the proof as the bow's own curve has them."""
    found = solution(build.design)
    weight, arrow = 51.5 * POUND_FORCE, 510 * GRAIN
    energy = float(found.curve.energy[-1]) * weight / found.weight
    feet = round(float(np.sqrt(2 * 0.575 * energy / arrow)) / FOOT)
    ounces = round(found.mass / OUNCE, 1)
    figures = (
        ("weight", weight, "51.5 lb"),
        ("brace height", 6.25 * INCH, "6 1/4 in"),
        ("mass", ounces * OUNCE, f"{ounces:.1f} oz"),
        ("string follow", 1.25 * INCH, "1 1/4 in"),
        ("follow after an hour", 0.875 * INCH, "7/8 in"),
        ("arrow mass", arrow, "510 gr"),
        ("arrow speed", feet * FOOT, f"{feet} fps"),
        ("shots", 140.0, "140"),
    )
    said = "; ".join(f"{kind} {words}" for kind, _, words in figures)
    entry = Entry.objects.create(
        build=build,
        kind="proof",
        stage="proof",
        text=f"{said}; soft in the hand, a low hum",
        at=desk.demo.ago(2, 16),
        by=desk.maker,
        minutes=70,
    )
    Measure.objects.bulk_create(
        Measure(
            entry=entry,
            kind=kind,
            value=value,
            text=text,
            draw=build.design.draw if kind == "weight" else None,
        )
        for kind, value, text in figures
    )
