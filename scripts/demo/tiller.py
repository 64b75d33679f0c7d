"""What was read and taken at the demo workshop's tiller: readings as the core itself gives them."""

import numpy as np

from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.tiller.estimate import CROOKS, PLACES, few_cells, predict
from bowyery.tiller.kinds import Reading
from bowyery.tiller.log import StringOn
from bowyery.units.quantity import INCH, POUND_FORCE, fraction_text
from fellwind.builds.models import Build, Entry
from fellwind.designs.services import solution
from scripts.demo.builds import DemoLog
from scripts.demo.moment import DemoShop

EDGE_PLACES = (11, 14, 17, 20, 24, 28)  # where a straight edge is laid, from the centre (in)


def looked(
    found: Solution,
    stiffness: tuple[float, float],
    draws: tuple[float, ...],
    string: StringOn,
    stiff_place: float = 0.0,
    reflex: float = 0.0,
) -> str:
    """What a maker would read on limbs of this stiffness against the design, to the nearest mark.

    ``stiff_place`` makes the middle of the upper limb stiffer by so much (log); at full brace it is
    looked for with a straight edge. ``reflex`` is how far the unstrung tips lie to the back (m).
    """
    bow = string.on(found.bow, found.layout.length)
    last, root = draws[-1] * INCH, found.bow.upper.root[0]
    asked = [Reading("weight", 0.0, draw=d * INCH) for d in draws]
    if string.rung == "long":
        asked += [Reading("tip height", 0.0, side, last) for side in SIDES]
    else:
        asked += [Reading("gap", 0.0, side) for side in SIDES]
    if stiff_place and string.rung == "full":
        asked += [
            Reading("straight edge", 0.0, side, last, place * INCH - root, 6 * INCH)
            for side in SIDES
            for place in EDGE_PLACES
        ]
    field = np.log(np.array(stiffness))[:, None] + np.zeros((2, PLACES))
    share = np.linspace(0, 1, PLACES)
    field[0] += stiff_place * np.exp(-(((share - 0.45) / 0.14) ** 2))
    limbs = few_cells(found.curve.limbs)
    length = limbs.length[:, 0]
    crook = np.repeat(-2 * reflex / length[:, None] ** 2, CROOKS, 1)
    values = predict(limbs, bow, tuple(asked), field[None], False, crook[None]).values[0]
    at = fraction_text((string.at or 0.0) / INCH, 4, plain=True)
    parts = [f"string {string.rung} {at}"]
    return ", ".join(
        parts + [_written(r, float(v), root) for r, v in zip(asked, values, strict=True)]
    )


def _written(reading: Reading, value: float, root: float) -> str:
    """A reading as it would be pencilled, in inches and pounds."""

    def inches(metres: float, denominator: int) -> str:
        return fraction_text(metres / INCH, denominator, plain=True)

    draw = inches(reading.draw or 0.0, 8)
    if reading.kind == "weight":
        return f"{round(value / POUND_FORCE * 2) / 2:g} at {draw}"
    if reading.kind == "gap":
        return f"{reading.limb} gap {inches(value, 16)}"
    if reading.kind == "straight edge":
        place = inches((reading.at or 0.0) + root, 4)
        return f"{reading.limb} edge {inches(max(value, 0.0004), 64)} at {place}"
    return f"{reading.limb} tip {inches(value, 8)} at {draw}"


def load(demo: DemoShop) -> None:
    """The elm in mid-tiller, its upper limb too stiff; the rowan, from heavy to finished."""
    desk = DemoLog(demo)
    elm(desk, Build.objects.get(number=14))
    _rowan(desk, Build.objects.get(number=13))


def elm(desk: DemoLog, build: Build) -> None:
    """A bow in mid-tiller, its upper limb too stiff: two tools, marks by eye, a heated belly, and
    one slip that was corrected.
    """
    found = solution(build.design)
    long, low = StringOn("string long", 70.5 * INCH), StringOn("string low", 3 * INCH)
    full = StringOn("string full", 6 * INCH)
    steps = (
        (10, (2.05, 1.90), (12, 14, 16), long, 0.375, "stiff upper 12 to 20",
         "off both 8 strokes with rasp, 30 pulls, 35 min"),
        (8, (1.72, 1.59), (14, 16, 18), long, 0.375, "stiff upper 12 to 20, good lower 8 to 20",
         "off both 6 strokes with rasp, 30 pulls, 30 min"),
        (5, (1.52, 1.40), (10, 13, 15), low, 0.3, "lower bends more, braced 30 min",
         "off upper 24 strokes with scraper, off lower 20 strokes with scraper, 25 pulls, 30 min"),
        (2, (1.41, 1.27), (14, 17, 19), full, 0.2, "stiff upper 12 to 20, good lower 8 to 24",
         "off upper 22 strokes with scraper, off lower 14 strokes with scraper, 25 pulls, 25 min"),
    )  # fmt: skip
    desk.line(build, "tiller", 10, 10, "upper lies 3/8 back, lower lies 3/8 back")
    for days, stiffness, draws, string, reflex, seen, removal in steps:
        read = looked(found, stiffness, draws, string, 0.17, reflex * INCH)
        desk.line(build, "tiller", days, 11, read + ", 15 min")
        desk.line(build, "tiller", days, 12, seen)
        desk.line(build, "tiller", days, 14, removal)
    desk.line(build, "tiller", 4, 15, "heat both golden 12 min, 40 min")
    slip = desk.line(build, "tiller", 1, 9, "string full 6, 73 at 20")
    fresh = looked(found, (1.30, 1.18), (16, 19, 21), full, 0.17, 0.19 * INCH)
    right = desk.line(build, "tiller", 1, 9, fresh + ", 20 min")
    Entry.objects.filter(pk=right.pk).update(corrects=slip, at=desk.demo.ago(1, 9))
    desk.line(build, "tiller", 1, 10, "stiff upper 12 to 20, good lower 8 to 24")
    desk.line(build, "tiller", 1, 11, "upper lies 3/16 back, lower lies 3/16 back")


def _rowan(desk: DemoLog, build: Build) -> None:
    """From the first bend on a long string to the weight that finishing will take the rest of."""
    found, full = solution(build.design), StringOn("string full", 6 * INCH)
    long = StringOn("string long", found.layout.length + 3 * INCH)
    low = StringOn("string low", 3 * INCH)
    steps = (
        (48, 2.25, (10, 12, 14), long, "off both 0.03, 30 pulls, 50 min"),
        (47, 1.95, (12, 14, 16), long, "off both 0.02, 30 pulls, 40 min"),
        (46, 1.62, (12, 14, 16), low, "braced 30 min, off both 0.02, 25 pulls, 50 min"),
        (42, 1.34, (16, 19, 22), full, "off both 0.012, 25 pulls, 45 min"),
        (37, 1.17, (20, 23, 25), full, "off both 0.006, 25 pulls, 40 min"),
        (31, 1.075, (22, 25, 28), full, "note leave it here, sanding will take the rest"),
    )
    for days, k, draws, string, removal in steps:
        read = looked(found, (k, k * 0.985), draws, string)
        desk.line(build, "tiller", days, 10, read + ", 20 min")
        desk.line(build, "tiller", days, 15, removal)
