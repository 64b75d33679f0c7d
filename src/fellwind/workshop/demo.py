"""The demo workshop: a bow loft above a boatyard, with made-up people. Readings come from the core itself."""

from datetime import datetime, timedelta
from uuid import uuid4

import numpy as np
from django.db import transaction
from django.utils import timezone
from PIL import Image

from bowyery import pencil
from bowyery.design import Solution
from bowyery.materials import fibre
from bowyery.strings import plan_string
from bowyery.tiller.estimate import KNOTS, few_cells, predict
from bowyery.tiller.readings import SIDES, Reading
from bowyery.units import GRAIN, IMPERIAL, INCH, POUND_FORCE, fraction_text
from fellwind.builds import bench
from fellwind.builds.models import STAGES, Build, Entry, Measure, Wait
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.staves.models import Flaw, Photo, Section, Stave, Weighing
from fellwind.strings.models import BowString
from fellwind.tiller.services import Check, string_bow
from fellwind.workshop.models import Archer, Gear, Person, Workshop
from fellwind.workshop.photos import keep_photo


def load() -> None:
    """Fill an empty shop with the demo workshop, all or nothing."""
    with transaction.atomic():
        _Loader().load()


def _end_grain(half: bool, bark: tuple[int, int, int]) -> Image.Image:
    """A drawn end of a log half or a sapling: rings that waver round the pith, bark, and checks that run from it."""
    noise = np.random.default_rng(7)
    y, x = np.mgrid[-1:1:480j, -1:1:640j] * np.array([1.0, 640 / 480])[:, None, None]
    radius, angle = np.hypot(x, y + (0.55 if half else 0.0)), np.arctan2(y + (0.55 if half else 0.0), x)
    wavering = radius * (1 + 0.03 * np.sin(3 * angle + 1) + 0.015 * np.sin(7 * angle)) / (1.35 if half else 0.85)
    ring = (wavering * 17) % 1.0
    light = 0.78 - 0.28 * ring**4 + noise.normal(0, 0.03, x.shape) - 0.12 * (wavering < 0.55)
    check = (np.abs(angle - 1.2) < 0.012 / (radius + 0.05)) & (wavering < 0.5)
    light = np.where(check, 0.15, light)
    wood = light[..., None] * np.array([222, 188, 142])
    wood = np.where((wavering > 0.93)[..., None], np.array(bark) * (0.8 + 0.3 * ring[..., None]), wood)
    outside = (wavering > 1.0) | (half & (y < -0.5))
    return Image.fromarray(np.where(outside[..., None], 236.0, wood).clip(0, 255).astype(np.uint8))


class _Loader:
    def __init__(self) -> None:
        self.now = timezone.now().replace(second=0, microsecond=0)
        self.maker = Person.objects.create_user("maren", role=Person.MAKER)
        Person.objects.create_user("ole", role=Person.HELPER)
        Person.objects.create_user("visitor", role=Person.GUEST)

    def load(self) -> None:
        workshop = Workshop.get()
        workshop.name, workshop.air_celsius, workshop.air_humidity = "the loft", 17.0, 0.58
        workshop.save()
        for name, kind, pounds in (
            ("hemp rope, 10 mm", "rope", 260),
            ("floor pulley", "pulley", 220),
            ("spring scale", "scale", 110),
            ("oak post and cradle", "tree", 300),
        ):
            Gear.objects.create(name=name, kind=kind, rating=pounds * POUND_FORCE, rating_text=f"{pounds} lb")
        self._elm()
        self._rowan()
        self._ash()
        self._maple()
        self._takedown()
        self._laburnum()
        self._plum()

    def ago(self, days: float, hour: int = 10) -> datetime:
        """A moment some days back."""
        return (self.now - timedelta(days=days)).replace(hour=hour, minute=20)

    def _archer(self, name: str, draw: float, weight: float, fingers: str = "one above, two below", notes: str = "") -> Archer:
        return Archer.objects.create(
            name=name, draw=draw * INCH, draw_text=f"{fraction_text(draw, 8)} in", weight=weight * POUND_FORCE,
            weight_text=f"{weight} lb", fingers=fingers, notes=notes,
        )  # fmt: skip

    def _stave(
        self, number: int, kind: str, material: str, size: tuple[float, float, float], days: float, **extra: object
    ) -> Stave:
        length, width, depth = size
        return Stave.objects.create(
            number=number, kind=kind, material=material, length=length * INCH, length_text=f"{fraction_text(length, 4)} in",
            width=width * INCH, width_text=f"{fraction_text(width, 8)} in", depth=depth * INCH,
            depth_text=f"{fraction_text(depth, 8)} in", acquired=self.ago(days).date(), **extra,
        )  # fmt: skip

    def _design(self, archer: Archer, stave: Stave, name: str, length: float, **extra: object) -> Design:
        design = Design.objects.create(
            name=name, archer=archer, stave=stave, material=stave.material, weight=archer.weight, draw=archer.draw,
            fingers=archer.fingers, length=length * INCH, made=self.ago(40), **extra,
        )  # fmt: skip
        return design

    def _build(self, number: int, design: Design, stage: str, days: list[float], **extra: object) -> Build:
        """A build whose stages were reached on these days ago."""
        build = Build.objects.create(
            number=number,
            name=design.name,
            design=design,
            stave=design.stave,
            stage=stage,
            started=self.ago(days[0]),
            **extra,
        )
        reached = STAGES[: STAGES.index(stage) + 1]
        for index, (name, day) in enumerate(zip(reached, days, strict=True)):
            text = "Build started" if index == 0 else f"On to {name}"
            Entry.objects.create(build=build, kind="stage", stage=name, text=text, at=self.ago(day), by=self.maker)
        return build

    def _line(self, build: Build, stage: str, days: float, hour: int, text: str) -> Entry:
        """A pencil line written some days ago, kept as the bench keeps it."""
        now, build.stage = build.stage, stage
        statements = pencil.parse(text, IMPERIAL)
        entry, _ = bench.keep(build, text, statements, IMPERIAL, self.maker, uuid4())
        build.stage = now
        Entry.objects.filter(pk=entry.pk).update(at=self.ago(days, hour))
        return entry

    def _check(
        self,
        build: Build,
        found: Solution,
        stiffness: tuple[float, float],
        draws: tuple[float, ...],
        string: str,
        at: float,
        stiff_place: float = 0.0,
        edge: bool = False,
    ) -> str:
        """What a maker would read on limbs of this stiffness against the design, to the nearest mark.

        ``stiff_place`` makes the middle of the upper limb stiffer by so much (log); with ``edge`` a straight edge is slid along.
        """
        check = Check(Entry(), 0, (), f"string {string}", at * INCH, ())
        bow = string_bow(found.bow, check, found.layout.length)
        asked = [Reading("weight", 0.0, draw=d * INCH) for d in draws]
        braced = string != "long"
        asked += [Reading("gap", 0.0, "upper"), Reading("gap", 0.0, "lower")] if braced else []
        last = draws[-1] * INCH
        asked += [] if braced else [Reading("tip height", 0.0, "upper", last), Reading("tip height", 0.0, "lower", last)]
        root = found.bow.upper.root[0]
        if edge:
            places = (11, 14, 17, 20, 24, 28)
            asked += [
                Reading("straight edge", 0.0, side, last, place * INCH - root, 6 * INCH) for side in SIDES for place in places
            ]
        field = np.log(np.array(stiffness))[:, None] + np.zeros((2, KNOTS))
        field[0] += stiff_place * np.exp(-(((np.linspace(0, 1, KNOTS) - 0.45) / 0.14) ** 2))
        values = predict(few_cells(found.curve.limbs), bow, tuple(asked), field[None], False).values[0]
        parts = [f"string {string} {fraction_text(at, 4, plain=True)}"]
        for reading, value in zip(asked, values, strict=True):
            if reading.kind == "weight":
                pounds = round(value / POUND_FORCE * 2) / 2
                parts.append(f"{pounds:g} at {fraction_text((reading.draw or 0) / INCH, 8, plain=True)}")
            elif reading.kind == "gap":
                parts.append(f"{reading.limb} gap {fraction_text(value / INCH, 16, plain=True)}")
            elif reading.kind == "straight edge":
                place = fraction_text(((reading.at or 0.0) + root) / INCH, 4, plain=True)
                parts.append(f"{reading.limb} edge {fraction_text(max(value, 0.0004) / INCH, 64, plain=True)} at {place}")
            else:
                down, at_draw = fraction_text(value / INCH, 8, plain=True), fraction_text(last / INCH, 8, plain=True)
                parts.append(f"{reading.limb} tip {down} at {at_draw}")
        return ", ".join(parts)

    def _elm(self) -> None:
        """Number 14, in mid-tiller: the upper limb is too stiff against the lower."""
        archer = self._archer("Hanne Tangen", 27, 42, notes="Field rounds by the shore; carries the bow in a cloth sleeve.")
        stave = self._stave(14, "log split", "wych elm", (70, 2.5, 2), 600, modulus=11.3e9,
                            notes="Felled in a winter gale behind the slip; one pin knot near a tip.")  # fmt: skip
        self._readings(stave, (400, 141.0, 13.0), (210, 137.9, 10.5), (25, 136.5, 9.4))
        self._flaws(
            stave, ("pin knot", "back", 64.5, 0.5, 0.3, 0.3, 0.4), ("tight knot", "through", 37.5, -0.4, 0.7, 0.6, 1.5),
            ("end check", "back", 0.5, 0.0, 1.0, 0.2, 1.0), ("dip", "back", 18.0, 0.3, 2.0, 0.8, 0.1),
        )  # fmt: skip
        self._sections(
            stave, width=((0, 2.75), (35, 2.5), (70, 2.375)), depth=((0, 2.25), (35, 2), (70, 1.875)),
            crown=((0, 5.5), (70, 4.5)), side=((17.5, -0.1), (35, -0.2), (52.5, -0.15)), twist=((70, 3.0),),
        )  # fmt: skip
        self._photo(stave, 598, "Left end as it was split (drawn)", True, (88, 74, 60), 0.0)
        design = self._design(archer, stave, "Wych-elm flatbow", 67, moisture=0.094)
        build = self._build(14, design, "tiller", [21, 20, 18, 12, 11])
        found = solution(design)
        for item in ("wood-ends", "wood-length", "wood-grain", "wood-back", "wood-moisture"):
            Entry.objects.create(build=build, kind="tick", stage="wood", text=item, at=self.ago(20, 15), by=self.maker)
        for item in ("sides", "left-on", "fades", "knots", "floor-upper", "floor-lower", "floor-look"):
            Entry.objects.create(build=build, kind="tick", stage="rough", text=item, at=self.ago(13, 16), by=self.maker)
        self._line(build, "lay-out", 19, 11, "50 min, note centre line followed round the pin knot")
        self._line(build, "rough", 16, 16, "1 h 45 min, note sides to the line, belly down with the drawknife")
        self._line(build, "rough", 13, 10, "40 min, note both limbs bend on the floor")
        steps = (
            (10, (2.05, 1.90), (12, 14, 16), "long", 70.5, "off both 0.03, 30 pulls, 35 min"),
            (8, (1.72, 1.59), (14, 16, 18), "long", 70.5, "off both 0.022, 30 pulls, 30 min"),
            (5, (1.52, 1.40), (10, 13, 15), "low", 3, "off upper 0.016, off lower 0.01, 25 pulls, 30 min"),
            (2, (1.41, 1.27), (14, 17, 19), "full", 6, "off upper 0.012, off lower 0.006, 25 pulls, 25 min"),
        )
        for days, stiffness, draws, string, at, removal in steps:
            read = self._check(build, found, stiffness, draws, string, at, 0.17, string == "full")
            self._line(build, "tiller", days, 11, read + ", 15 min")
            self._line(build, "tiller", days, 14, removal)
        slip = self._line(build, "tiller", 1, 9, "string full 6, 73 at 20")
        fresh = self._check(build, found, (1.30, 1.18), (16, 19, 21), "full", 6, 0.17, True)
        right = self._line(build, "tiller", 1, 9, fresh + ", 20 min")
        Entry.objects.filter(pk=right.pk).update(corrects=slip, at=self.ago(1, 9))

    def _rowan(self) -> None:
        """Number 13, finished: two matched strings, shot in and proved."""
        archer = self._archer("Eilif Brandal", 28, 51, notes="Longbow shoots at standing marks.")
        stave = self._stave(13, "log split", "rowan", (78, 2, 2), 900, notes="White sapwood back, dead straight.")
        self._readings(stave, (500, None, 12.0), (64, None, 9.2))
        design = self._design(
            archer, stave, "Rowan longbow", 76, moisture=0.092, section="rounded rectangle", width=1.5 * INCH,
            tip_width=0.5 * INCH, parallel=0.45, handle=4 * INCH, fade=1.5 * INCH, handle_depth=1.5 * INCH,
        )  # fmt: skip
        build = self._build(13, design, "proof", [60, 59, 56, 50, 48, 30, 27, 9], school="D")
        found = solution(design)
        self._line(build, "rough", 55, 12, "3 h 10 min, note chased nothing, the back is as it grew")
        for days, k, draws, removal in (
            (46, 1.62, (12, 15, 17), "off both 0.02, 25 pulls, 50 min"),
            (42, 1.34, (16, 19, 22), "off both 0.012, 25 pulls, 45 min"),
            (37, 1.17, (20, 23, 25), "off both 0.006, 25 pulls, 40 min"),
            (31, 1.075, (22, 25, 28), "note leave it here, sanding will take the rest"),
        ):
            self._line(build, "tiller", days, 10, self._check(build, found, (k, k * 0.985), draws, "full", 6) + ", 20 min")
            self._line(build, "tiller", days, 15, removal)
        self._line(build, "finish", 20, 18, "2 h 30 min, note four grits and three coats of oil, rags flat on the quay")
        plan = plan_string(found.bow, found.wanted.weight, found.wanted.draw, fibre("linen"), "two-bundle laid twist")
        for role, longer, heavier, day in (("working", 0.0, 1.0, 29), ("spare", 0.0015, 1.02, 28)):
            length = round((plan.length + longer) / INCH * 16) / 16
            grains = round(plan.mass * heavier / GRAIN)
            BowString.objects.create(
                build=build, role=role, kind=plan.kind, fibre="linen", brace_height=design.brace_height,
                measured_length=length * INCH, measured_length_text=f"{fraction_text(length, 16)} in",
                measured_mass=grains * GRAIN, measured_mass_text=f"{grains} gr", made=self.ago(day),
            )  # fmt: skip
            Entry.objects.create(
                build=build, kind="string", stage="string", at=self.ago(day, 17), by=self.maker, minutes=75,
                text=f"{role} string: linen, {plan.kind}, {plan.strands} strands",
            )  # fmt: skip
        self._prove(build, found)

    def _prove(self, build: Build, found: Solution) -> None:
        energy = float(found.curve.energy[-1]) * 51.5 * POUND_FORCE / found.weight
        arrow = 510 * GRAIN
        speed = round(float(np.sqrt(2 * 0.575 * energy / arrow)) / 0.3048) * 0.3048
        ounces = found.mass / (0.45359237 / 16)
        figures = (
            ("weight", 51.5 * POUND_FORCE, "51.5 lb"), ("brace height", 6.25 * INCH, "6 1/4 in"),
            ("mass", round(ounces, 1) * 0.45359237 / 16, f"{ounces:.1f} oz"), ("string follow", 1.25 * INCH, "1 1/4 in"),
            ("follow after an hour", 0.875 * INCH, "7/8 in"), ("arrow mass", arrow, "510 gr"),
            ("arrow speed", speed, f"{speed / 0.3048:.0f} fps"), ("shots", 140.0, "140"),
        )  # fmt: skip
        text = "; ".join(f"{kind} {words}" for kind, _, words in figures) + "; soft in the hand, a low hum"
        entry = Entry.objects.create(
            build=build, kind="proof", stage="proof", text=text, at=self.ago(2, 16), by=self.maker, minutes=70
        )
        Measure.objects.bulk_create(
            Measure(entry=entry, kind=k, value=v, text=t, draw=build.design.draw if k == "weight" else None)
            for k, v, t in figures
        )

    def _ash(self) -> None:
        """Number 17: a board bow that rests while its flax dries."""
        archer = self._archer("Siri Voll", 26, 35, "three under", "First bow of her own.")
        stave = self._stave(17, "board", "european ash", (68, 2, 0.875), 45, price="24",
                            source="the timber yard across the harbour", notes="Grain runs nearly end to end.",
                            drift=0.3 * INCH, drift_over=36 * INCH, ring=0.09 * INCH, late_share=0.6)  # fmt: skip
        self._readings(stave, (40, None, 9.5), (10, None, 8.8))
        self._flaws(stave, ("pin knot", "back", 22.0, 0.7, 0.2, 0.2, 0.3))
        design = self._design(
            archer, stave, "Ash board, flax backed", 65, moisture=0.088, width=1.625 * INCH, back="flax fibre",
            back_root=0.03 * INCH, back_nock=0.03 * INCH,
        )  # fmt: skip
        build = self._build(17, design, "back", [9, 9, 7, 3], beginner=True)
        self._line(build, "rough", 6, 13, "2 h 30 min, note sides and belly down, floor tiller even")
        self._line(build, "back", 3, 17, "1 h 10 min, note two courses of flax in hide glue on the back")
        self._rests(build, "Flax dries on the back; weigh it at the end of the week", (3, 17), 4, 9)

    def _flaws(self, stave: Stave, *rows: tuple[str, str, float, float, float, float, float]) -> None:
        """Flaws: kind, face, from the left end, off the middle, long, wide, deep (in)."""
        for kind, face, *sizes in rows:
            at, off, long, wide, deep = (s * INCH for s in sizes)
            Flaw.objects.create(
                stave=stave, kind=kind, face=face, at=at, off=off, length=long, width=wide, depth=deep, by=self.maker,
                text=f"at {fraction_text(at / INCH, 4)} in",
            )  # fmt: skip

    def _sections(self, stave: Stave, **columns: tuple[tuple[float, float], ...]) -> None:
        """Figures across the stave, by name: from the left end, figure (in; twist in degrees)."""
        rows: dict[float, dict[str, float]] = {}
        for name, pairs in columns.items():
            for at, value in pairs:
                rows.setdefault(at, {})[name] = value if name == "twist" else value * INCH
        for at, figures in rows.items():
            Section.objects.create(stave=stave, at=at * INCH, by=self.maker, text=f"at {fraction_text(at, 4)} in", **figures)

    def _readings(self, stave: Stave, *rows: tuple[float, float | None, float | None]) -> None:
        """What scale and meter said: days ago, ounces, per cent."""
        for days, ounces, meter in rows:
            Weighing.objects.create(
                stave=stave, day=self.ago(days).date(), by=self.maker, mass=ounces and ounces * 0.45359237 / 16,
                text="" if ounces is None else f"{ounces} oz", meter=meter and meter / 100,
                meter_text="" if meter is None else f"{meter} %",
            )  # fmt: skip

    def _photo(
        self, stave: Stave, days: float, caption: str, half: bool, bark: tuple[int, int, int], at: float | None = None
    ) -> None:
        """A drawn stand-in for a photograph of a stave's end."""
        name, width, height = keep_photo(_end_grain(half, bark))
        Photo.objects.create(
            stave=stave, name=name, width=width, height=height, caption=caption, day=self.ago(days).date(), by=self.maker,
            at=None if at is None else at * INCH,
        )  # fmt: skip

    def _rests(self, build: Build, what: str, since: tuple[int, int], days: float, hour: int) -> None:
        """A wait begun some days ago that ends some days from now."""
        until = (self.now + timedelta(days=days)).replace(hour=hour, minute=0)
        Wait.objects.create(build=build, what=what, since=self.ago(*since), until=until)

    def _maple(self) -> None:
        """Number 16: maple with a bamboo back, glued into reflex and lying in its form."""
        archer = self._archer("Jorun Eide", 26.5, 38, notes="Likes a light arrow and a quiet bow.")
        stave = self._stave(16, "board", "sugar maple", (74, 2, 0.75), 30, notes="Two strips sawn side by side.")
        self._readings(stave, (28, None, 9.0), (6, None, 8.5))
        design = self._design(
            archer, stave, "Maple and bamboo, reflexed", 71, moisture=0.085, width=1.625 * INCH, tip_width=0.45 * INCH,
            parallel=0.4, reflex=0.75 * INCH, fade=2.5 * INCH, brace_height=6.25 * INCH, back="bamboo slat",
            back_root=0.14 * INCH, back_nock=0.09 * INCH,
        )  # fmt: skip
        build = self._build(16, design, "back", [5, 5, 4, 1])
        self._line(build, "back", 1, 15, "1 h 40 min, note bamboo planed to its taper, glued and clamped into the form")
        self._rests(build, "Glue cures in the form", (1, 17), 1, 17)

    def _takedown(self) -> None:
        """Number 15: glass on both faces of elm cores; one limb is cured, the other in the heat box."""
        archer = self._archer("Per Lunde", 28, 46, "three under", "Travels with it; wants it in two.")
        stave = self._stave(15, "board", "wych elm", (40, 1.75, 0.5), 80, notes="Four cores ground from it.")
        self._readings(stave, (60, None, 8.5), (13, None, 7.0))
        design = self._design(
            archer, stave, "Glass-faced take-down, elm cores", 66, moisture=0.07, width=1.5 * INCH, parallel=0.35,
            handle=8 * INCH, fade=3 * INCH, handle_depth=2.25 * INCH, least_tip=0.2 * INCH, reflex=1.5 * INCH,
            brace_height=7 * INCH, back="unidirectional glass", back_root=0.04 * INCH, back_nock=0.04 * INCH,
            belly="unidirectional glass", belly_root=0.04 * INCH, belly_nock=0.04 * INCH,
        )  # fmt: skip
        build = self._build(15, design, "back", [12, 11, 10, 3])
        self._line(build, "back", 3, 11, "2 h, note first limb pressed and cured")
        self._line(build, "back", 0, 8, "1 h 30 min, note second limb pressed, hose at 4 bar")
        self._rests(
            build,
            "Second limb in the heat box at 60 °C; mind the cut-out",
            (0, 9),
            1 if self.now.hour >= 20 else 0,
            (self.now.hour + 4) % 24,
        )

    def _laburnum(self) -> None:
        """Number 12, broken on the tree: its stave and design stay, with the knot that let go."""
        archer = self._archer("Tordis Moen", 28, 55, notes="Wanted a heavy flatbow.")
        stave = self._stave(12, "log split", "laburnum", (70, 2, 1.75), 700, sapwood=0.2 * INCH,
                            notes="Dark heart, thin pale sapwood; a loose knot a hand from the middle.")  # fmt: skip
        self._readings(stave, (300, None, 10.5), (96, None, 8.2))
        self._flaws(
            stave, ("loose knot", "through", 43.0, 0.2, 0.5, 0.5, 1.2), ("belly check", "belly", 20.0, 0.0, 3.0, 0.1, 0.3)
        )
        design = self._design(
            archer, stave, "Laburnum flatbow", 67, moisture=0.082, width=1.5 * INCH, back_is="ring", nock_style="overlay"
        )
        build = self._build(12, design, "tiller", [95, 94, 93, 90, 89])
        self._line(
            build, "tiller", 88, 11, "50 min, note it let go at 24 in with a crack at the loose knot, upper limb; nobody hurt"
        )
        Build.objects.filter(pk=build.pk).update(finished=self.ago(88, 12))

    def _plum(self) -> None:
        """The plum sapling, seasoning in the rack for a child's short bow with sinew on its back."""
        archer = self._archer("Liv Tangen", 18, 15, notes="Eight years old and growing; a light bow that may follow the string.")
        stave = self._stave(18, "sapling", "plum", (52, 1.5, 1.5), 62, notes="Cut green, ends sealed, bark left on.",
                            source="a hedge above the slip",
                            ring=0.07 * INCH)  # fmt: skip
        self._flaws(
            stave, ("pin knot", "back", 9.0, 0.3, 0.25, 0.25, 0.3), ("tight knot", "back", 50.75, -0.2, 0.5, 0.45, 0.6),
            ("pin knot", "belly", 41.5, 0.1, 0.3, 0.3, 0.4), ("hairline", "belly", 20.0, 0.2, 2.5, 0.05, 0.2),
        )  # fmt: skip
        self._sections(
            stave, crown=((0, 0.8), (52, 0.7)), side=((13, -0.5), (26, -0.9), (39, -0.6)), twist=((52, 6.0),),
            width=((0, 1.6), (26, 1.5), (52, 1.35)), depth=((0, 1.6), (26, 1.5), (52, 1.35)),
        )  # fmt: skip
        self._design(
            archer, stave, "Plum sapling short bow", 50, moisture=0.10, section="crowned back", section_radius=0.75 * INCH,
            width=1.2 * INCH, parallel=0.35, tip_width=0.45 * INCH, handle=0.0, fade=0.0, handle_depth=1 * INCH,
            least_tip=0.3 * INCH, reflex=0.25 * INCH, brace_height=5 * INCH, back="sinew", back_root=0.08 * INCH,
            back_nock=0.04 * INCH,
        )  # fmt: skip
        self._photo(stave, 61, "Cut end before it was sealed (drawn)", False, (96, 62, 58), 52.0)
        self._readings(stave, (62, 41.5, None), (48, 39.1, 26.0), (35, 37.6, None), (21, 36.4, 18.0), (6, 35.5, 15.5))
