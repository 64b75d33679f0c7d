"""Woods, bamboo, backings and string fibres: book values with their sources, and what moisture does
to them.

The limits of strain follow from bending tests. The stress at the proportional limit is about six
tenths of the modulus of rupture, in dense woods up to seven (Markwardt and Wilson 1935, tables 1
and 2: white ash 0.58, sugar maple 0.60, black locust 0.66), and nearly all of it in the densest:
above that strain the belly begins to keep a set. Wood breaks far beyond the quotient of rupture and
modulus, as the work to maximum load tells (rupture.py). Bows are worked between the two, because
some set is accepted; the working limit lies midway. Fibres, hides and glass are straight to the
end. Plastics yield and take follow; they do not break.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from difflib import get_close_matches
from functools import cache
from importlib.resources import files
from typing import Any, TypeVar

from bowyery.errors import DescriptionError
from bowyery.wood.rupture import BAND, WIDE_BAND, break_of, straight_work

Found = TypeVar("Found")
_FEW = 20  # names that are all told to somebody who asked for none of them
ELASTIC_SHARE = 0.6
# How much that share rises with density beyond DENSE (kg/m³), and to what: by the tests of locust,
# and, for the densest, by bows of them that keep most of their reflex (a judgement).
DENSE, DENSER_SHARE, MOST_SHARE = 710.0, 0.0011, 1.0
# Work to maximum load over MOR²/18E of woods that have no test of it: the low side of the
# hardwoods.
USUAL_WORK = 2.1
# The belly sets before the back breaks, whatever the stave: at most at this share of that strain.
_FIRST = 0.9
# Share of its yield strain that a plastic bears for hours without creeping on (a judgement, after
# the design stresses of pressure pipes).
CREEPS = 0.3
FIBRE_SATURATION = 0.25
# Above this wood is worked green; and how much more of a bend it then keeps, full of water (a
# judgement of the bench: a green limb keeps two thirds to three quarters where a dry one keeps two
# fifths).
SEASONED = 0.14
GREEN_KEEPS = 0.75
# Relative change of a property per unit of moisture around 12 %: Wood Handbook (2021), chapter 5,
# gives P = P12 (P12/Pgreen)^((12 − M)/(Mp − 12)), Mp = 25 %, with mean ratios dry to green of about
# 1.27 (modulus) and 1.63 (rupture) over the native hardwoods.
DRY_TO_GREEN_MODULUS = 1.27
DRY_TO_GREEN_RUPTURE = 1.63


def working_strain(elastic: float, rupture: float) -> float:
    """Surface strain a lasting bow stays under: midway between where set begins and rupture.

    Args:
        elastic: surface strain where set begins, as a share.
        rupture: where a limb breaks, or yields.
    """
    return 0.5 * (elastic + rupture)


@dataclass(frozen=True)
class Material:
    """What a layer of a limb is made of, at 12 % moisture.

    Attributes:
        kind: ``wood``, ``bamboo``, ``backing``, ``horn``, ``glass`` or ``plastic``.
        modulus: of elasticity along the grain (Pa).
        rupture: modulus of rupture in bending (Pa).
        density: (kg/m³).
        source: the publication its figures come from.
        estimate: the figures are set between relatives for want of tests.
        caution: what its dust does, or nothing.
        work: to maximum load in bending (J/m³), or None where it was not tested.
        work_estimate: that work was taken from relatives.
        moisture: that its figures are for, as a fraction of dry mass.
    """

    name: str
    kind: str
    modulus: float
    rupture: float
    density: float
    source: str
    estimate: bool = False
    caution: str = ""
    work: float | None = None
    work_estimate: bool = False
    moisture: float = 0.12

    @property
    def greenness(self) -> float:
        """How green it is: 0 seasoned, 1 where its fibres are full of water."""
        if self.kind not in ("wood", "bamboo"):
            return 0.0
        return min(max((self.moisture - SEASONED) / (FIBRE_SATURATION - SEASONED), 0.0), 1.0)

    @property
    def keeps(self) -> float:
        """How many times as much of a bend beyond its limit it keeps as seasoned wood does."""
        return 1 + GREEN_KEEPS * self.greenness

    @property
    def nominal_strain(self) -> float:
        """Modulus of rupture over modulus of elasticity: no strain that is reached anywhere."""
        return self.rupture / self.modulus

    @property
    def ductile(self) -> bool:
        """Whether it yields where others break."""
        return self.kind == "plastic"

    @property
    def creep_strain(self) -> float | None:
        """Strain under which it may stand strung for a day and come back: a plastic's, or None."""
        return CREEPS * self.nominal_strain if self.ductile else None

    @property
    def rupture_strain(self) -> float:
        """Strain of the back from which limbs of it break: where the weakest of twenty clear staves
        does. Of a plastic, where it yields.
        """
        return self.usual_rupture_strain * (1 - self.rupture_band)

    @property
    def usual_rupture_strain(self) -> float:
        """Strain of the back at which a limb of the middling clear stave breaks."""
        if self.kind not in ("wood", "bamboo"):
            return self.nominal_strain
        work = self.work or USUAL_WORK * straight_work(self.modulus, self.rupture)
        return break_of(self.modulus, self.rupture, work).limb

    @property
    def rupture_band(self) -> float:
        """By what share that strain differs between staves, a band of 90 %."""
        if self.ductile:
            return 0.0
        guessed = self.work is None or self.work_estimate or self.estimate
        return WIDE_BAND if guessed else BAND

    @property
    def elastic_strain(self) -> float:
        """Surface strain above which the belly begins to keep a set."""
        # water beyond what the fibres hold makes it heavier, and no stronger
        held = (1 + min(self.moisture, FIBRE_SATURATION)) / (1 + self.moisture)
        denser = max(0.0, self.density * held - DENSE) if self.kind == "wood" else 0.0
        share = min(ELASTIC_SHARE + DENSER_SHARE * denser, MOST_SHARE)
        return min(share * self.nominal_strain, _FIRST * self.rupture_strain)

    @property
    def working_strain(self) -> float:
        """Surface strain a lasting bow stays under, with moderate set: midway between set's
        beginning and rupture.
        """
        return working_strain(self.elastic_strain, self.rupture_strain)


@dataclass(frozen=True)
class Fibre:
    """One strand of string material.

    Attributes:
        line_mass: (kg/m).
        breaking_force: of one strand (N).
        stretch: lengthening it keeps under a bow's load after settling, as a share of its length.
        natural: laid by hand from plant or animal fibre.
        source: the publication its figures come from.
    """

    name: str
    line_mass: float
    breaking_force: float
    stretch: float
    natural: bool
    source: str


def _table(name: str) -> dict[str, Any]:
    return tomllib.loads(files("bowyery.wood").joinpath("data", name).read_text(encoding="utf-8"))


@cache
def woods() -> dict[str, Material]:
    """All woods by name."""
    return _materials("woods.toml", "wood")


@cache
def backings() -> dict[str, Material]:
    """Bamboo, backings and glass by name."""
    return _materials("backings.toml", "backing")


@cache
def fibres() -> dict[str, Fibre]:
    """All string fibres by name."""
    sources = _table("sources.toml")
    return {
        name: Fibre(
            name,
            row["tex"] * 1e-6,
            row["breaking_n"],
            row["stretch"],
            row["natural"],
            sources[row["source"]],
        )
        for name, row in _table("fibres.toml").items()
    }


def _materials(table: str, kind: str) -> dict[str, Material]:
    sources = _table("sources.toml")
    return {
        name: Material(
            name,
            row.get("kind", kind),
            row["modulus_gpa"] * 1e9,
            row["rupture_mpa"] * 1e6,
            float(row["density_kg_m3"]),
            sources[row["source"]],
            row.get("estimate", False),
            row.get("caution", ""),
            row["work_kj_m3"] * 1e3 if "work_kj_m3" in row else None,
            row.get("work_estimate", False),
        )
        for name, row in _table(table).items()
    }


def material(name: str) -> Material:
    """Find a wood, bamboo or backing by name; raises DescriptionError if there is none."""
    return _named(name, "No material", woods() | backings())


def _named(name: str, what: str, book: Mapping[str, Found]) -> Found:
    """What a book has by a name, however its letters are cased."""
    for known, one in book.items():
        if known.lower() == name.strip().lower():
            return one
    raise DescriptionError(f"{what} is called “{name}”{nearest(name, book)}.")


def nearest(name: str, *books: Mapping[str, object]) -> str:
    """The names that are nearest to one that no book has, as the end of a sentence."""
    known = {one.lower(): one for book in books for one in book}
    asked = name.lower().split()
    words = {word for one in known for word in one.split()}
    meant = {word for part in asked for word in get_close_matches(part, words, 2, 0.75)}
    near = [
        *get_close_matches(name.lower(), known, 3, 0.75),
        *sorted(one for one in known if meant & set(one.split())),
        *get_close_matches(name.lower(), known, 3, 0.5),
    ]
    named = [known[one] for one in dict.fromkeys(near)][:4]
    if not named:
        return f"; there are {', '.join(known.values())}" if len(known) < _FEW else ""
    return f"; the nearest {'is' if len(named) == 1 else 'are'} {', '.join(named)}"


def fibre(name: str) -> Fibre:
    """Find a string fibre by name; raises DescriptionError if there is none."""
    return _named(name, "No string fibre", fibres())


def at_moisture(dry: Material, moisture: float) -> Material:
    """Return a wood's properties at another moisture than 12 %.

    Args:
        dry: the material at 12 %; other kinds than wood and bamboo come back unchanged.
        moisture: as a fraction of dry mass; above 25 % nothing changes further.

    Raises:
        DescriptionError: moisture is below zero or not a number.

    Source: Wood Handbook (2021), equation 5-3.
    """
    if not (math.isfinite(moisture) and moisture >= 0):
        raise DescriptionError("Moisture must be zero or more.")
    if dry.kind not in ("wood", "bamboo"):
        return dry
    exponent = (0.12 - min(moisture, FIBRE_SATURATION)) / (FIBRE_SATURATION - 0.12)
    return replace(
        dry,
        modulus=dry.modulus * DRY_TO_GREEN_MODULUS**exponent,
        rupture=dry.rupture * DRY_TO_GREEN_RUPTURE**exponent,
        density=dry.density * (1 + moisture) / 1.12,
        moisture=moisture,
    )


def overridden(
    book: Material,
    modulus: float | None = None,
    rupture: float | None = None,
    density: float | None = None,
    work: float | None = None,
) -> Material:
    """Replace book values by what was measured on a stave (SI), keeping the rest.

    Args:
        modulus: (Pa), or None.
        rupture: (Pa), or None.
        density: (kg/m³), or None.
        work: to maximum load (J/m³), or None.

    Raises:
        DescriptionError: a value is not above zero.
    """
    for what, value in (
        ("modulus", modulus),
        ("rupture", rupture),
        ("density", density),
        ("work to maximum load", work),
    ):
        if value is not None and not (math.isfinite(value) and value > 0):
            raise DescriptionError(f"The {what} must be above zero.")
    stiff, strong = modulus or book.modulus, rupture or book.rupture
    tough = book.work
    if tough is not None:  # as tough as its kind, for its own strength
        tough *= straight_work(stiff, strong) / straight_work(book.modulus, book.rupture)
    return replace(
        book,
        modulus=stiff,
        rupture=strong,
        density=density or book.density,
        work=work or tough,
        work_estimate=book.work_estimate and work is None,
    )
