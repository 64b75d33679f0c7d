"""String plans for a build's strings."""

from dataclasses import dataclass, replace

from django.db import transaction

from bowyery.design.solution import Solution
from bowyery.errors import BowyeryError
from bowyery.strings.plan import KINDS, StringPlan, plan_string
from bowyery.units.quantity import INCH, Units, World
from fellwind.builds.models import Build, Entry
from fellwind.kit.cache import computed
from fellwind.people.models import Person
from fellwind.shop.book import fibre as fibre_named
from fellwind.strings.models import BowString


@dataclass(frozen=True)
class Sheet:
    """A string with its plan, or why there is none."""

    string: BowString
    plan: StringPlan | None
    trouble: str = ""
    shorter: float = INCH / 8

    @property
    def rise(self) -> float:
        """By how much the brace rises when the string is made shorter by ``shorter`` (m)."""
        return self.plan.brace_per_inch * self.shorter if self.plan else 0.0


def sheet(string: BowString, found: Solution) -> Sheet:
    """Plan a string for the solved bow."""
    try:
        fibre = fibre_named(string.fibre)
        bow = replace(found.bow, brace_height=string.brace_height)
        kind = next(one for one in KINDS if one == string.kind)
        key = (found.wanted, bow, fibre, kind, string.strands)
        plan = computed(
            "string",
            key,
            lambda: plan_string(
                bow, found.wanted.weight, found.wanted.draw, fibre, kind, string.strands
            ),
        )
    except BowyeryError as error:
        return Sheet(string, None, str(error))
    return Sheet(string, plan)


@dataclass(frozen=True)
class Twin:
    """One figure of two matched strings: as measured, their difference, and whether it is within
    what is allowed.
    """

    what: str
    kind: str
    working: float
    spare: float
    allowed: float

    @property
    def off(self) -> float:
        return abs(self.working - self.spare)

    @property
    def within(self) -> bool:
        return self.off <= self.allowed


LENGTH_ALLOWED = 0.003
MASS_ALLOWED_SHARE = 0.04


def twins(strings: list[BowString]) -> list[Twin]:
    """Compare the newest working string with the newest spare, as measured."""
    newest = {
        role: next((s for s in strings if s.role == role), None) for role in ("working", "spare")
    }
    a, b = newest["working"], newest["spare"]
    rows = []
    if a and b and a.measured_length and b.measured_length:
        rows.append(Twin("length", "length", a.measured_length, b.measured_length, LENGTH_ALLOWED))
    if a and b and a.measured_mass and b.measured_mass:
        rows.append(
            Twin(
                "mass",
                "mass",
                a.measured_mass,
                b.measured_mass,
                MASS_ALLOWED_SHARE * a.measured_mass,
            )
        )
    return rows


def keep(string: BowString, by: Person, world: World) -> None:
    """Keep a string, and write it into the build's log."""
    with transaction.atomic():
        string.save()
        Entry.objects.create(
            build=string.build,
            kind="string",
            stage=string.build.stage,
            by=by,
            world=world,
            text=_told(string),
        )


def _told(string: BowString) -> str:
    parts = [f"{string.get_role_display()}: {string.fibre}, {string.kind}"]
    parts += [f"{string.strands} strands"] if string.strands else []
    parts += [f"length {string.measured_length_text}"] if string.measured_length else []
    parts += [f"mass {string.measured_mass_text}"] if string.measured_mass else []
    return ", ".join(parts)


def card_rows(build: Build, shown: Units) -> list[tuple[str, str]]:
    """A build's strings as its card has them."""
    rows = []
    for one in BowString.objects.filter(build=build):
        length = f", {shown.length(one.measured_length)}" if one.measured_length else ""
        rows.append((one.get_role_display().capitalize(), f"{one.fibre}, {one.kind}{length}"))
    return rows
