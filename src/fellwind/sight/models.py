"""Photographs that were read."""

from __future__ import annotations

from django.db import models

from bowyery.sight.outline import STATES
from fellwind.builds.models import BenchPhoto, Entry
from fellwind.rack.models import Photo


class Sighting(models.Model):
    """What was read of a photograph taken at the bench, and the check that was made of it. Where it
    could not be read, why not.
    """

    STATES = [(state, state) for state in STATES]
    photo = models.OneToOneField(BenchPhoto, on_delete=models.CASCADE, related_name="sighting")
    state = models.CharField(max_length=8, choices=STATES, default="drawn")
    seen = models.JSONField(null=True, help_text="places in the picture and in the bow's frame")
    taps = models.JSONField(null=True, help_text="five places that were tapped (pixels)")
    why = models.TextField(blank=True, help_text="why it was not read, or what was noticed")
    weight = models.CharField(max_length=40, blank=True, help_text="on the scale, as typed")
    moved = models.JSONField(default=dict, help_text="places put right by hand (pixels)")
    entry = models.OneToOneField(
        Entry, on_delete=models.SET_NULL, null=True, blank=True, related_name="sighting",
        help_text="the check that was made of it",
    )  # fmt: skip

    def __str__(self) -> str:
        return f"read: {self.photo}"


class StaveLine(models.Model):
    """The natural line of a stave in one of its photographs: places from the left end, how far they
    lie to the belly, the errors (mm) and where they are in the picture; and whether it was kept
    among the stave's sections.
    """

    photo = models.OneToOneField(Photo, on_delete=models.CASCADE, related_name="line")
    ends = models.JSONField(null=True, help_text="left and right end (pixels)")
    seen = models.JSONField(null=True)
    why = models.TextField(blank=True, help_text="why it was not read")
    kept = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"natural line: {self.photo}"
