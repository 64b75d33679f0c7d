"""Eleven bows that the demo workshop made before those on its bench: with its broken one, its
finished one and the one at the tiller a season of fourteen, from which there is something to learn.

Their wood and hands are off the book on purpose, each bow by its own chance from a fixed seed: ash
softer than the book, a scraper hungrier, finishing and shooting that take more, limbs that keep
more of the energy.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bowyery.design.alterations import stiffer
from bowyery.design.solution import Solution
from bowyery.mechanics.shot import shoot
from bowyery.mechanics.strain import CREEP
from bowyery.tiller.bite import first_bite
from bowyery.tiller.log import StringOn
from bowyery.units.quantity import GRAIN, INCH, POUND_FORCE, fraction_text
from fellwind.builds.models import Build, Entry, HeatJob, Inquest, Measure
from fellwind.designs.models import Design
from fellwind.designs.services import knows_now, solution
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer
from fellwind.tiller.hands import workpiece
from scripts.demo.builds import FOOT, OUNCE, DemoLog
from scripts.demo.moment import DemoShop
from scripts.demo.tiller import looked


@dataclass(frozen=True)
class _Made:
    """A bow of the season.

    Attributes:
        stiff: its wood over the book.
        length, width: (in).
        days: ago that it was begun; it took some seven weeks.
        ends: how, a key of Build.ENDINGS.
    """

    name: str
    archer: str
    wood: str
    tree: str
    stiff: float
    length: float
    width: float
    days: int
    ends: str = "sold"


SEASON = (
    _Made("Ash flatbow", "Hanne Tangen", "european ash", "the long ash", 0.88, 70, 1.75, 322),
    _Made("Ash flatbow, light", "Siri Voll", "european ash", "the long ash", 0.91, 69, 1.625, 310,
          "given"),
    _Made("Elm pyramid bow", "Jorun Eide", "wych elm", "the lee elm", 1.03, 68, 2.0, 296),
    _Made("Ash longbow", "Eilif Brandal", "european ash", "the long ash", 0.89, 76, 1.5, 281,
          "finished"),
    _Made("Maple flatbow", "Hanne Tangen", "sugar maple", "", 0.97, 71, 1.75, 266),
    _Made("Elm longbow", "Per Lunde", "wych elm", "the lee elm", 1.05, 75, 1.5, 250, "finished"),
    _Made("Ash flatbow, second board", "Jorun Eide", "european ash", "a yard board", 0.95, 69, 1.75,
          235),
    _Made("Maple, for the shore club", "Siri Voll", "sugar maple", "", 0.99, 70, 1.625, 220),
    _Made("Elm flatbow, wide", "Per Lunde", "wych elm", "the quay elm", 0.98, 70, 2.0, 200,
          "given"),
    _Made("Ash flatbow, heavy", "Tordis Moen", "european ash", "a yard board", 0.93, 68, 1.625,
          180, "broken"),
    _Made("Ash flatbow, third", "Per Lunde", "european ash", "the hill ash", 0.92, 71, 1.75, 160,
          "finished"),
)  # fmt: skip
FINISHING, SHOOTING, KEEPS, STAYS = 0.058, 0.047, 0.105, 0.47
HUNGRY = {"rasp": 1.15, "scraper": 1.7}


def load(demo: DemoShop) -> None:
    """The bows of the season, in order."""
    desk, chance = DemoLog(demo), np.random.default_rng(11)
    for number, made in enumerate(SEASON, 1):
        _bow(desk, number, made, chance)
    them = Archer.objects.get(name=SEASON[0].archer)
    spring = Design(
        name="Ash flatbow for the spring", archer=them, material="european ash",
        weight=them.weight, draw=them.draw, fingers=them.fingers, length=70 * INCH,
        made=demo.ago(1),
    )  # fmt: skip
    spring.learned = knows_now(spring)
    spring.save()


def _bow(desk: DemoLog, number: int, made: _Made, chance: np.random.Generator) -> None:
    build, found = _begun(desk, number, made)
    wood = made.stiff * float(np.exp(0.03 * chance.standard_normal()))
    weight = _tillered(desk, build, found, made, wood, chance)
    if made.ends == "broken":
        _broke(desk, build, made)
        return
    finished = weight * (1 - FINISHING - 0.008 * chance.standard_normal())
    shot_in = finished * (1 - SHOOTING - 0.007 * chance.standard_normal())
    _finished(desk, build, made, finished)
    _proved(desk, build, found, made, (finished, shot_in), chance)
    if made.wood == "wych elm":
        _heated(desk, build, made, chance)
    ended = desk.demo.ago(made.days - 52, 17)
    Build.objects.filter(pk=build.pk).update(finished=ended, ending=made.ends)


def _begun(desk: DemoLog, number: int, made: _Made) -> tuple[Build, Solution]:
    """Its stave, its design, and the build that came of them."""
    them, demo = Archer.objects.get(name=made.archer), desk.demo
    tall, wide = made.length + 3, made.width + 0.5
    stave = Stave.objects.create(
        number=number, kind="board" if "board" in made.tree else "log split", material=made.wood,
        tree=made.tree, length=tall * INCH, length_text=f"{tall:g} in", width=wide * INCH,
        width_text=f"{fraction_text(wide, 8, plain=True)} in", depth=1.5 * INCH,
        depth_text="1 1/2 in", acquired=demo.ago(made.days + 200).date(),
    )  # fmt: skip
    Design.objects.create(
        name=made.name, archer=them, stave=stave, material=made.wood, weight=them.weight,
        draw=them.draw, fingers=them.fingers, length=made.length * INCH,
        made=demo.ago(made.days + 2), sizes={
            "width": made.width * INCH, "parallel": 0.0 if "pyramid" in made.name else 0.5,
        },
    )  # fmt: skip
    first = made.days
    build = desk.build(number, "proof", [first, first - 1, first - 3, first - 9, first - 10,
                                         first - 34, first - 38, first - 44])  # fmt: skip
    return build, solution(build.design)


def _tillered(
    desk: DemoLog, build: Build, found: Solution, made: _Made, wood: float,
    chance: np.random.Generator,
) -> float:  # fmt: skip
    """Four looks and what was taken between them; the weight that it pulled at the last (N)."""
    design, day = build.design, made.days
    goal = design.weight / ((1 - 0.045) * (1 - 0.04)) * (1 + 0.02 * chance.standard_normal())
    last, full = goal / found.weight, StringOn("string full", 6 * INCH)
    long = StringOn("string long", found.layout.length + 3 * INCH)
    low, inches = StringOn("string low", 3 * INCH), design.draw / INCH
    desk.line(build, "rough", day - 8, 15, f"{150 + 10 * (build.number % 4)} min, note sides and"
              " belly down, floor tiller even")  # fmt: skip
    looks = (
        (day - 11, 1.75, (10, 12, 14), long, "rasp"),
        (day - 15, 1.38, (12, 14, 16), low, "scraper"),
        (day - 20, 1.17, tuple(inches - k for k in (10, 7, 5)), full, "scraper"),
        (day - 30, 1.0, tuple(inches - k for k in (6, 3, 0)), full, ""),
    )
    piece = workpiece(found)
    for k, (days, over, draws, string, tool) in enumerate(looks):
        lean = 1 + 0.012 * chance.standard_normal()
        upper, lower = last * over * lean, last * over / lean
        desk.line(
            build, "tiller", days, 11, looked(found, (upper, lower), draws, string) + ", 20 min"
        )
        if string is full:
            desk.line(build, "tiller", days, 12, _calipers(found, (upper, lower), wood, chance))
        if not tool:
            break
        depth = float(np.median(found.curve.limbs.depth[:, 0]))
        thick = [depth * (last * o / wood) ** (1 / 3) for o in (over, looks[k + 1][1])]
        bite = first_bite(tool, piece.density, piece.width).thickness * HUNGRY[tool]
        strokes = max(2, round((thick[0] - thick[1]) / bite * (1 + 0.1 * chance.standard_normal())))
        desk.line(build, "tiller", days, 14, f"off both {strokes} strokes with {tool}, 25 pulls,"
                  " 40 min")  # fmt: skip
    return goal


def _calipers(
    found: Solution, stiffness: tuple[float, float], wood: float, chance: np.random.Generator
) -> str:
    """Thicknesses at every third mark of limbs of this stiffness, of wood so much stiffer."""
    parts = []
    for side, stiff in zip(("upper", "lower"), stiffness, strict=True):
        for mark in [m for m in found.marks if m.limb == side][::3]:
            size = found.wood_of(mark) * (stiff / wood) ** (1 / 3)
            size += 0.0001 * float(chance.standard_normal())
            parts.append(f"{side} thick {size / INCH:.3f} at {mark.from_centre / INCH:.2f}")
    return "; ".join(parts)


def _finished(desk: DemoLog, build: Build, made: _Made, weight: float) -> None:
    desk.line(build, "finish", made.days - 40, 16,
              "2 h 20 min, note edges rounded, three grits, three coats of oil")  # fmt: skip
    inches = fraction_text(build.design.draw / INCH, 8, plain=True)
    desk.line(build, "finish", made.days - 42, 10,
              f"string full 6, {weight / POUND_FORCE:.1f} at {inches}")  # fmt: skip


def _proved(
    desk: DemoLog, build: Build, found: Solution, made: _Made, weights: tuple[float, float],
    chance: np.random.Generator,
) -> None:  # fmt: skip
    """Once unshot, once shot in with all its figures."""
    finished, shot_in = weights
    _proof(desk, build, made.days - 44, [("weight", finished, _lb(finished)),
                                         ("shots", 12.0, "12")])  # fmt: skip
    told = found.set
    stays = STAYS + 0.05 * float(chance.standard_normal())
    follow = told.made + CREEP * told.creep + stays * told.beyond
    eighths = round(follow / INCH * 16) / 16
    arrow = round(10 * shot_in / POUND_FORCE / 5) * 5
    bow = stiffer(found.bow, shot_in / found.weight)
    lost = KEEPS + 0.012 * float(chance.standard_normal())
    speed = shoot(bow, build.design.draw, arrow * GRAIN, watch=False, keeps=(lost, 0.01)).speed
    feet = round(speed * float(np.exp(0.008 * chance.standard_normal())) / FOOT)
    ounces = round(found.mass / OUNCE, 1)
    shots = 90 + 10 * build.number
    _proof(desk, build, made.days - 51, [
        ("weight", shot_in, _lb(shot_in)),
        ("brace height", 6 * INCH, "6 in"),
        ("mass", ounces * OUNCE, f"{ounces:.1f} oz"),
        ("string follow", (eighths + 0.25) * INCH, f"{fraction_text(eighths + 0.25, 16, True)} in"),
        ("follow after an hour", eighths * INCH, f"{fraction_text(eighths, 16, True)} in"),
        ("arrow mass", arrow * GRAIN, f"{arrow} gr"),
        ("arrow speed", feet * FOOT, f"{feet} fps"),
        ("shots", float(shots), f"{shots}"),
    ])  # fmt: skip


def _lb(weight: float) -> str:
    return f"{weight / POUND_FORCE:.1f} lb"


def _proof(desk: DemoLog, build: Build, days: int, figures: list[tuple[str, float, str]]) -> None:
    entry = Entry.objects.create(
        build=build, kind="proof", stage="proof", at=desk.demo.ago(days, 16), by=desk.maker,
        minutes=45, text="; ".join(f"{kind} {words}" for kind, _, words in figures),
    )  # fmt: skip
    Measure.objects.bulk_create(
        Measure(entry=entry, kind=kind, value=value, text=text,
                draw=build.design.draw if kind == "weight" else None)
        for kind, value, text in figures
    )  # fmt: skip


def _heated(desk: DemoLog, build: Build, made: _Made, chance: np.random.Generator) -> None:
    """A bend of one limb taken out by dry heat, and what stayed of it."""
    wanted = 0.5 * INCH
    form = wanted / 0.72
    HeatJob.objects.create(
        build=build, what="side", limb="lower", way="dry heat", wood=made.wood, wanted=wanted,
        form=form, start=4 * INCH, end=20 * INCH, at=desk.demo.ago(made.days - 9, 14),
        stayed=form * (0.66 + 0.03 * float(chance.standard_normal())),
    )  # fmt: skip


def _broke(desk: DemoLog, build: Build, made: _Made) -> None:
    broke = "30 min, note it let go at full draw, a splinter at the upper fade; nobody hurt"
    desk.line(build, "tiller", made.days - 31, 11, broke)
    stages = build.entries.filter(kind="stage", stage__in=("string", "finish", "proof"))
    stages.delete()
    at = desk.demo.ago(made.days - 31, 12)
    Build.objects.filter(pk=build.pk).update(stage="tiller", finished=at, ending="broken")
    Inquest.objects.create(
        build=build, how="splinter", limb="upper", place=4.5 * INCH, draw=build.design.draw,
        by=desk.maker, judged="",
    )  # fmt: skip
