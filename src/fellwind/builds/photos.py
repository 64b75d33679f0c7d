"""Photographs taken at the bench: each an entry of the log, with its picture."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import uuid4

from django import forms
from django.db import transaction

from bowyery.bow.bow import SIDES
from fellwind.builds.models import BenchPhoto, Build, Entry, Measure
from fellwind.kit.photo_forms import PhotoFileForm
from fellwind.kit.photos import keep_photo
from fellwind.people.models import Person


class BenchPhotoForm(PhotoFileForm):
    """A photograph with what it shows."""

    caption = forms.CharField(max_length=200, label="What it shows")
    limb = forms.ChoiceField(
        choices=[("", "the bow"), *((side, f"the {side} limb") for side in SIDES)],
        required=False, label="Of",
    )  # fmt: skip
    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"client_id": uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)
        # a phone at the bench opens its camera; a computer its files, as ever
        self.fields["photo"].widget.attrs["capture"] = "environment"

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
