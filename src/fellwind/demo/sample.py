"""A sample bow for an empty shop: in mid-tiller, made up, to look at and to throw away whole."""

from django.apps import apps
from django.db import models
from django.db.models import Max, ProtectedError
from django.utils import timezone

from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.demo import DemoLog
from fellwind.builds.models import Build, Entry
from fellwind.builds.services import start
from fellwind.demo.models import SampleRow
from fellwind.designs.models import Design
from fellwind.kit.demo import DemoShop
from fellwind.people.models import Person
from fellwind.rack.models import Stave
from fellwind.shop.models import USUAL_FINGERS, Archer
from fellwind.tiller.demo import elm


def there() -> Build | None:
    """The sample's build, as long as it has not been thrown away."""
    keys = SampleRow.objects.filter(label=Build._meta.label).values_list("key", flat=True)
    return Build.objects.filter(pk__in=keys).first()


def own(model: type[models.Model]) -> "models.QuerySet[models.Model]":
    """Rows that are the shop's own, and not of the sample."""
    keys = SampleRow.objects.filter(label=model._meta.label).values_list("key", flat=True)
    return model._default_manager.exclude(pk__in=keys)


def make(by: Person) -> Build:
    """Make the sample, unless it is there."""
    known = there()
    if known is not None:
        return known
    archer = Archer.objects.create(
        name="Sample archer",
        draw=27 * INCH,
        draw_text="27 in",
        weight=42 * POUND_FORCE,
        weight_text="42 lb",
        fingers=USUAL_FINGERS,
        notes="Made up, to look at; goes with the sample bow.",
    )
    top = Stave.objects.aggregate(top=Max("number"))["top"] or 0
    stave = Stave.objects.create(
        number=top + 1,
        material="wych elm",
        length=72 * INCH,
        length_text="72 in",
        width=2.5 * INCH,
        width_text="2 1/2 in",
        depth=2 * INCH,
        depth_text="2 in",
        source="made up, with the sample bow",
    )
    design = Design.objects.create(
        name="Sample flatbow",
        archer=archer,
        stave=stave,
        material=stave.material,
        weight=archer.weight,
        draw=archer.draw,
        fingers=archer.fingers,
        length=67 * INCH,
    )
    data = {
        "name": design.name, "design": design, "stave": stave, "school": "W", "beginner": False,
        "draw_ruler": archer.draw_ruler,
    }  # fmt: skip
    build = start(data, by)
    Build.objects.filter(pk=build.pk).update(stage="tiller")
    build.refresh_from_db()
    elm(DemoLog(DemoShop(timezone.now().replace(second=0, microsecond=0))), build)
    for row in (archer, stave, design, build):
        SampleRow.objects.create(label=row._meta.label, key=row.pk)
    return build


def throw_away() -> list[str]:
    """Take the sample out of the shop.

    Returns:
        What stays because something of the shop's own was made from it, in words.
    """
    stays = []
    for sample in SampleRow.objects.order_by("-pk"):
        row = apps.get_model(sample.label)._default_manager.filter(pk=sample.key).first()
        sample.delete()
        if isinstance(row, Build):
            for entry in Entry.objects.filter(build=row).exclude(corrects=None).order_by("-pk"):
                entry.delete()
        try:
            if row is not None:
                row.delete()
        except ProtectedError:
            stays.append(str(row))
    return stays
