"""Woods, bamboo, backings and string fibres: book values with their sources, and what moisture does
to them.

The limits of strain follow from the modulus of rupture and the modulus of elasticity of bending
tests. The nominal strain at rupture is their quotient. In such tests the stress at the proportional
limit is about six tenths of the modulus of rupture (Markwardt and Wilson 1935, tables 1 and 2:
white ash 0.58, sugar maple 0.60, black locust 0.66): above that strain wood begins to keep a set.
Bows are worked between the two, because some set is accepted; the working limit here lies midway.
"""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Any

from bowyery.errors import DescriptionError

ELASTIC_SHARE = 0.6
FIBRE_SATURATION = 0.25
# Relative change of a property per unit of moisture around 12 %: Wood Handbook (2021), chapter 5,
# gives P = P12 (P12/Pgreen)^((12 − M)/(Mp − 12)), Mp = 25 %, with mean ratios dry to green of about
# 1.27 (modulus) and 1.63 (rupture) over the native hardwoods.
DRY_TO_GREEN_MODULUS = 1.27
DRY_TO_GREEN_RUPTURE = 1.63


def working_strain(elastic: float, rupture: float) -> float:
    """Surface strain a lasting bow stays under: midway between where set begins and rupture.

    Args:
        elastic: where set begins.
        rupture: nominal strain at rupture.

    Returns:
        The strain.
    """
    return 0.5 * (elastic + rupture)


@dataclass(frozen=True)
class Material:
    """What a layer of a limb is made of, at 12 % moisture.

    Attributes:
        name: as in the data files.
        kind: ``wood``, ``bamboo``, ``backing``, ``glass`` or ``plastic``.
        modulus: of elasticity along the grain (Pa).
        rupture: modulus of rupture in bending (Pa).
        density: (kg/m³).
        source: the publication its figures come from.
        estimate: the figures are set between relatives for want of tests.
        caution: what its dust does, or nothing.
    """

    name: str
    kind: str
    modulus: float
    rupture: float
    density: float
    source: str
    estimate: bool = False
    caution: str = ""

    @property
    def rupture_strain(self) -> float:
        """Nominal surface strain at rupture."""
        return self.rupture / self.modulus

    @property
    def elastic_strain(self) -> float:
        """Surface strain above which the belly begins to keep a set."""
        return ELASTIC_SHARE * self.rupture_strain

    @property
    def working_strain(self) -> float:
        """Surface strain a lasting bow stays under, with moderate set: midway between set's
        beginning and rupture.

        Returns:
            The strain.
        """
        return working_strain(self.elastic_strain, self.rupture_strain)


@dataclass(frozen=True)
class Fibre:
    """One strand of string material.

    Attributes:
        name: as in the data file.
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
        )
        for name, row in _table(table).items()
    }


def material(name: str) -> Material:
    """Find a wood, bamboo or backing by name; raises DescriptionError if there is none."""
    found = woods().get(name) or backings().get(name)
    if found is None:
        raise DescriptionError(f"No material is called “{name}”.")
    return found


def fibre(name: str) -> Fibre:
    """Find a string fibre by name; raises DescriptionError if there is none."""
    if name not in fibres():
        raise DescriptionError(f"No string fibre is called “{name}”.")
    return fibres()[name]


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
    )


def overridden(
    book: Material,
    modulus: float | None = None,
    rupture: float | None = None,
    density: float | None = None,
) -> Material:
    """Replace book values by what was measured on a stave (SI), keeping the rest.

    Args:
        book: values of the book.
        modulus: (Pa), or None.
        rupture: (Pa), or None.
        density: (kg/m³), or None.

    Returns:
        The stave's own material.

    Raises:
        DescriptionError: a value is not above zero.
    """
    for what, value in (("modulus", modulus), ("rupture", rupture), ("density", density)):
        if value is not None and not (math.isfinite(value) and value > 0):
            raise DescriptionError(f"The {what} must be above zero.")
    return replace(
        book,
        modulus=modulus or book.modulus,
        rupture=rupture or book.rupture,
        density=density or book.density,
    )
