"""Photographs taken at the bench: each an entry of the log, with its picture."""

from __future__ import annotations

from datetime import datetime
from uuid import uuid4

from django import forms
from django.db import transaction

from bowyery.bow.bow import SIDES
from fellwind.builds.models import BenchPhoto, Build, Entry, Measure
from fellwind.kit.photo_forms import BenchCameraForm
from fellwind.kit.photos import keep_photo
from fellwind.people.models import Person


class BenchPhotoForm(BenchCameraForm):
    """A photograph with what it shows."""

    caption = forms.CharField(max_length=200, label="What it shows")
    limb = forms.ChoiceField(
        choices=[("", "the bow"), *((side, f"the {side} limb") for side in SIDES)],
        required=False, label="Of",
    )  # fmt: skip

    def keep(self, build: Build, by: Person, at: datetime) -> BenchPhoto:
        """Write the files, then the entry, once for its client id."""
        data = self.cleaned_data
        client = data["client_id"] or uuid4()
        known = BenchPhoto.objects.filter(entry__client_id=client).first()
        if known is not None:
            return known
        name, width, height = keep_photo(data["photo"])
        with transaction.atomic():
            entry = Entry.objects.create(
                build=build, kind="photo", stage=build.stage, text=data["caption"], by=by, at=at,
                client_id=client,
            )  # fmt: skip
            if data["limb"]:
                Measure.objects.create(entry=entry, kind="photo", limb=data["limb"], text="")
            return BenchPhoto.objects.create(entry=entry, name=name, width=width, height=height)
