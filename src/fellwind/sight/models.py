"""Photographs that were read."""

from __future__ import annotations

from django.db import models

from bowyery.sight.outline import STATES
from fellwind.builds.models import BenchPhoto, Entry


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
