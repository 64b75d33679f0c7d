"""A sample bow for an empty shop: in mid-tiller, made up, to look at and to throw away whole."""

from django.apps import apps
from django.db import models
from django.db.models import ProtectedError

from fellwind.builds.models import Build, Entry
from fellwind.demo.loader import SAMPLE, up_to_now
from fellwind.demo.models import SampleRow
from fellwind.kit.archive import ArchiveError
from fellwind.ledger.parcel import AnswerForm, bring, read
from fellwind.people.models import Person


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
    parcel = read(SAMPLE, up_to_now)
    form = AnswerForm({}, parcel=parcel)
    usual = {name: field.initial for name, field in form.fields.items()}
    usual |= {name: "new" for name in usual if name == "archer" or name.startswith("stave_")}
    form = AnswerForm(usual, parcel=parcel)
    if not form.is_valid():
        raise ArchiveError(f"The sample cannot be brought in: {form.errors.as_text()}")
    build = bring(form)
    Entry.objects.filter(build=build).update(by=by)
    design = build.design
    rows = (design.archer, design.stave, design, build)
    SampleRow.objects.bulk_create(
        SampleRow(label=row._meta.label, key=row.pk) for row in rows if row is not None
    )
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
