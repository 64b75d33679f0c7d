"""The book of materials as the shop has it: the printed one, and what the shop added of its own."""

from dataclasses import dataclass

from bowyery.errors import DescriptionError
from bowyery.wood import materials
from bowyery.wood.materials import Fibre, Material
from fellwind.shop.models import OwnMaterial

SHOPS_OWN = "the shop's own figures"


def _material(own: OwnMaterial) -> Material:
    return Material(
        own.name,
        own.kind,
        own.modulus or 0.0,
        own.rupture or 0.0,
        own.density or 0.0,
        own.source or SHOPS_OWN,
        estimate=False,
        caution=own.caution,
        work=own.work,
        work_estimate=own.work is None,
    )


def _fibre(own: OwnMaterial) -> Fibre:
    return Fibre(
        own.name,
        own.line_mass or 0.0,
        own.breaking or 0.0,
        own.stretch or 0.0,
        own.kind == "natural thread",
        own.source or SHOPS_OWN,
    )


@dataclass(frozen=True)
class Shelf:
    """All materials by name, the shop's own among them.

    Attributes:
        backings: bamboo, backings, horn, glass and plastics.
    """

    woods: dict[str, Material]
    backings: dict[str, Material]
    fibres: dict[str, Fibre]


def shelf() -> Shelf:
    """Everything the shop can make bows and strings of, asked for at once."""
    own = list(OwnMaterial.objects.all())
    limbs = [one for one in own if not one.is_thread]
    return Shelf(
        materials.woods() | {one.name: _material(one) for one in limbs if one.kind == "wood"},
        materials.backings() | {one.name: _material(one) for one in limbs if one.kind != "wood"},
        materials.fibres() | {one.name: _fibre(one) for one in own if one.is_thread},
    )


def in_print(name: str) -> bool:
    """Whether the printed book has something of a name."""
    return any(name in table() for table in (materials.woods, materials.backings, materials.fibres))


def material(name: str) -> Material:
    """Find a wood, bamboo or backing by name; raises DescriptionError if there is none."""
    try:
        return materials.material(name)
    except DescriptionError:
        own = OwnMaterial.objects.filter(name=name).exclude(kind__in=OwnMaterial.THREADS).first()
        if own is None:
            raise
        return _material(own)


def fibre(name: str) -> Fibre:
    """Find a string fibre by name; raises DescriptionError if there is none."""
    try:
        return materials.fibre(name)
    except DescriptionError:
        own = OwnMaterial.objects.filter(name=name, kind__in=OwnMaterial.THREADS).first()
        if own is None:
            raise
        return _fibre(own)
