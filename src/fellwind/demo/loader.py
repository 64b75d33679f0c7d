"""The demo workshop, as a shop's archive that ships with the application, and the sample bow of an
empty shop, as a bow's: both brought in as any other, with their days moved up to now.
"""

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from pathlib import Path

from django.apps import apps
from django.db import models
from django.utils import timezone

from fellwind.kit import archive
from fellwind.people.models import Person

SHOP, SAMPLE = (Path(__file__).parent / name for name in ("shop.zip", "sample.zip"))


def load() -> None:
    """Fill an empty shop with the demo workshop; its people may enter."""
    archive.read(SHOP, up_to_now)
    Person.objects.update(is_active=True)


def up_to_now(pack: archive.Pack) -> None:
    """Move every moment and day on by how long ago the archive was written."""
    late = timezone.now() - pack.written
    for label, rows in pack.tables.items():
        fields = list(_dated(apps.get_model(label)))
        for row in rows:
            for name in fields:
                if told := row.fields.get(name):
                    row.fields[name] = _later(str(told), late)


def _dated(model: type[models.Model]) -> Iterator[str]:
    for field in model._meta.concrete_fields:
        if isinstance(field, models.DateField):  # of which a moment is one
            yield field.name


def _later(told: str, late: timedelta) -> str:
    if len(told) == len("2026-01-31"):
        return (
            date.fromisoformat(told) + timedelta(days=round(late / timedelta(days=1)))
        ).isoformat()
    return (datetime.fromisoformat(told) + late).isoformat()
