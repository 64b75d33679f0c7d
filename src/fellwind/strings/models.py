"""Strings made for a build."""

from django.db import models
from django.utils import timezone

from bowyery.strings.plan import KINDS
from fellwind.builds.models import Build
from fellwind.kit.versions import Versioned


class BowString(Versioned):
    """A bowstring: its plan's inputs, and what was measured on the finished string (SI with
    text).
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="bowstrings")
    role = models.CharField(
        max_length=10,
        choices=[("working", "working string"), ("spare", "its spare")],
        default="working",
    )
    kind = models.CharField(max_length=30, default=KINDS[0])
    fibre = models.CharField(max_length=40)
    strands = models.PositiveIntegerField(
        null=True, blank=True, help_text="the maker's own number, or none"
    )
    brace_height = models.FloatField(help_text="m, wanted")
    measured_length = models.FloatField(null=True, blank=True)
    measured_length_text = models.CharField(max_length=40, blank=True)
    measured_mass = models.FloatField(null=True, blank=True)
    measured_mass_text = models.CharField(max_length=40, blank=True)
    made = models.DateTimeField(default=timezone.now)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["-role", "-made"]
        verbose_name = "string"

    def __str__(self) -> str:
        return f"{self.role} string of {self.fibre}"
